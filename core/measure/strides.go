package measure

import (
	"math"
	"slices"

	"notchback/core/source"
	"notchback/core/stats"
)

// Maker is who put the points of a track there.
type Maker string

// The makers.
const (
	ByMarkers  Maker = "markers"  // a motion system
	ByProposal Maker = "proposed" // a landmark library, nobody looked
	ByHand     Maker = "by hand"  // a coach placed or confirmed them
)

// MakerSource tags what makers are known to be off by.
var MakerSource = source.House("measured on six rendered figures from one camera; says nothing certain about people")

// offBy is what a maker's points are off by in a measure whatever the number of
// steps, ± of 95 %. Proposals: shin −2 ± 1°, trunk +0.6°, knee and ankle 1 % and heel
// and toe 2 % of the body's height, foot strike −6 ± 3° with more now and then.
// A motion system's markers lie on skin: 1°.
var offBy = map[Maker]map[MeasureID]float64{
	ByProposal: {OverstrideDeg: 4, TrunkLean: 3, KneeFlexion: 6, HipExtension: 5, StrikeAngle: 13, OverstrideCm: 4, BounceCm: 1},
	ByMarkers:  {OverstrideDeg: 1, TrunkLean: 1, KneeFlexion: 1.5, HipExtension: 1, StrikeAngle: 1, OverstrideCm: 1, BounceCm: 0.3, HipDropAngle: 1, CrossingCm: 1},
}

// StepValue is a measure in one step.
type StepValue struct {
	Frame int     `json:"frame"`
	Value float64 `json:"value"`
}

// TrackReading is a measure over all steps of a side: their median.
type TrackReading struct {
	Reading
	Foot    string      `json:"foot" enum:"left,right,both"`
	N       int         `json:"n" doc:"Steps"`
	PerStep []StepValue `json:"perStep" nullable:"false"`
}

// TrackRead is everything a track gives.
type TrackRead struct {
	Mended
	Events   []FootEvent    `json:"events" nullable:"false"`
	Gait     *Gait          `json:"gait,omitempty"`
	Readings []TrackReading `json:"readings" nullable:"false"`
}

// moments of a step in which a measure is taken.
type instant int

const (
	atContact instant = iota
	atMiddle          // half of the time on the ground
	atToeOff
)

type trackMeasure struct {
	id     MeasureID
	when   instant
	places []Place
	scaled bool
	space  bool
	of     func(p []Seen) float64
}

func leanOf(low, up Seen) float64 { return deg(math.Atan2(up.X-low.X, up.Y-low.Y)) }

var trackMeasures = []trackMeasure{
	{OverstrideDeg, atContact, []Place{Ankle, Knee}, false, false, func(p []Seen) float64 { return -leanOf(p[0], p[1]) }},
	{OverstrideCm, atContact, []Place{Ankle, Hip}, true, false, func(p []Seen) float64 { return p[0].X - p[1].X }},
	{TrunkLean, atContact, []Place{Hip, Shoulder}, false, false, func(p []Seen) float64 { return leanOf(p[0], p[1]) }},
	{KneeFlexion, atMiddle, []Place{Hip, Knee, Ankle}, false, false, func(p []Seen) float64 {
		a, b := leanOf(p[1], p[0]), leanOf(p[2], p[1])
		return math.Abs(math.Remainder(a-b, 360))
	}},
	{HipExtension, atToeOff, []Place{Hip, Knee}, false, false, func(p []Seen) float64 { return leanOf(p[1], p[0]) }},
	{CrossingCm, atMiddle, []Place{Ankle}, true, true, nil},
	{HipDropAngle, atMiddle, []Place{Hip}, false, true, nil},
}

// ReadTrack finds the events of a track and takes every measure over all steps.
// Where the body turns slowly (trunk, hips, the bent knee) paths are low-passed at
// BodyCutoff; at contact and toe-off, where they bend, at EventCutoff.
func ReadTrack(t Track, by Maker) (TrackRead, error) {
	out := TrackRead{Events: []FootEvent{}, Readings: []TrackReading{}}
	if err := t.Check(); err != nil {
		return out, err
	}
	e, m := t.even()
	out.Mended = m
	if found := e.find(); found != nil {
		out.Events = found
	}
	return out, e.reduce(&out, by)
}

// ReduceTrack takes the measures of a track at events that are known already.
func ReduceTrack(t Track, events []FootEvent, by Maker) (TrackRead, error) {
	out := TrackRead{Events: events, Readings: []TrackReading{}}
	if err := t.Check(); err != nil {
		return out, err
	}
	e, m := t.even()
	out.Mended = m
	return out, e.reduce(&out, by)
}

// steps pairs contacts with the toe-offs that follow them.
func steps(events []FootEvent) []Step {
	var out []Step
	open := map[string]int{}
	for _, e := range events {
		if e.Kind == "contact" {
			open[e.Foot] = len(out) + 1
			out = append(out, Step{Foot: e.Foot, Contact: e.At})
			continue
		}
		if k := open[e.Foot]; k > 0 {
			if d := e.At - out[k-1].Contact; d >= contactLeast && d <= contactMost {
				out[k-1].ToeOff = &e.At
			}
			open[e.Foot] = 0
		}
	}
	return out
}

func (t Track) reduce(out *TrackRead, by Maker) error {
	all := steps(out.Events)
	if len(all) == 0 {
		return nil
	}
	g, err := ReadGait(all, t.step)
	if err != nil {
		return err
	}
	out.Gait = &g
	rate := 1 / t.step
	soft, firm := map[Lane][]Seen{}, map[Lane][]Seen{}
	for l, s := range t.Lanes {
		soft[l], firm[l] = smooth(s, rate, BodyCutoff), smooth(s, rate, EventCutoff)
	}
	feet := []string{"left", "right"}
	for _, m := range trackMeasures {
		if m.scaled && t.UnitCm == 0 || m.space && !t.Spatial {
			continue
		}
		lanes := soft
		if m.id == OverstrideDeg || m.id == OverstrideCm || m.id == HipExtension {
			lanes = firm
		}
		for _, foot := range feet {
			var list []StepValue
			for _, s := range all {
				if s.Foot != foot {
					continue
				}
				if k, ok := t.frameOf(s, m.when); ok {
					if v, ok := t.take(m, lanes, foot, k); ok {
						list = append(list, StepValue{k, v})
					}
				}
			}
			out.put(m.id, foot, list, by)
		}
	}
	for _, foot := range feet {
		out.put(StrikeAngle, foot, t.strikes(firm, all, foot), by)
	}
	if t.UnitCm > 0 {
		out.put(BounceCm, "both", t.bounces(soft, all), by)
	}
	return nil
}

// frameOf is the frame of an instant of a step.
func (t Track) frameOf(s Step, when instant) (int, bool) {
	switch {
	case when == atContact:
		return t.frameAt(s.Contact), true
	case s.ToeOff == nil:
		return 0, false
	case when == atMiddle:
		return t.frameAt((s.Contact + *s.ToeOff) / 2), true
	}
	return t.frameAt(*s.ToeOff), true
}

func (t Track) take(m trackMeasure, lanes map[Lane][]Seen, foot string, k int) (float64, bool) {
	p := make([]Seen, len(m.places))
	for i, at := range m.places {
		lane := lanes[Lane{foot, at}]
		if lane == nil || !lane[k].Known {
			return 0, false
		}
		p[i] = lane[k]
	}
	hl, hr := lanes[Lane{"left", Hip}], lanes[Lane{"right", Hip}]
	own := 1.0 // Z runs to the right
	if foot == "left" {
		own = -1
	}
	switch m.id {
	case CrossingCm:
		if hl == nil || hr == nil || !hl[k].Known || !hr[k].Known {
			return 0, false
		}
		return own * (p[0].Z - (hl[k].Z+hr[k].Z)/2) * t.UnitCm, true
	case HipDropAngle:
		if hl == nil || hr == nil || !hl[k].Known || !hr[k].Known {
			return 0, false
		}
		return own * deg(math.Atan2(hr[k].Y-hl[k].Y, math.Abs(hr[k].Z-hl[k].Z))), true
	}
	v := m.of(p)
	if m.scaled {
		v *= t.UnitCm
	}
	return v, true
}

// strikes are the foot's angles at contact against the same foot flat on the ground
// in the same step, from a quarter to two fifths of the contact (house: the sole lies
// flat then; standing may differ by a degree or two).
func (t Track) strikes(lanes map[Lane][]Seen, all []Step, foot string) []StepValue {
	heel, toe := lanes[Lane{foot, Heel}], lanes[Lane{foot, Toe}]
	if heel == nil || toe == nil {
		return nil
	}
	pitch := func(k int) (float64, bool) {
		if !heel[k].Known || !toe[k].Known {
			return 0, false
		}
		return deg(math.Atan2(toe[k].Y-heel[k].Y, toe[k].X-heel[k].X)), true
	}
	var out []StepValue
	for _, s := range all {
		if s.Foot != foot || s.ToeOff == nil {
			continue
		}
		d := *s.ToeOff - s.Contact
		var flat []float64
		for k := t.frameAt(s.Contact + 0.25*d); k <= t.frameAt(s.Contact+0.4*d); k++ {
			if v, ok := pitch(k); ok {
				flat = append(flat, v)
			}
		}
		level, ok := stats.Median(flat)
		k := t.frameAt(s.Contact)
		v, seen := pitch(k)
		if ok && seen {
			out = append(out, StepValue{k, v - level})
		}
	}
	return out
}

// bounces are the rises and falls of the hips from step to step.
func (t Track) bounces(lanes map[Lane][]Seen, all []Step) []StepValue {
	hl, hr := lanes[Lane{"left", Hip}], lanes[Lane{"right", Hip}]
	if hl == nil || hr == nil {
		return nil
	}
	var out []StepValue
	for i := 1; i < len(all); i++ {
		a, b := t.frameAt(all[i-1].Contact), t.frameAt(all[i].Contact)
		lo, hi, ok := math.Inf(1), math.Inf(-1), b > a
		for k := a; k <= b; k++ {
			ok = ok && hl[k].Known && hr[k].Known
			y := (hl[k].Y + hr[k].Y) / 2
			lo, hi = min(lo, y), max(hi, y)
		}
		if ok {
			out = append(out, StepValue{a, (hi - lo) * t.UnitCm})
		}
	}
	return out
}

// put adds the median of some steps.
func (r *TrackRead) put(id MeasureID, foot string, list []StepValue, by Maker) {
	if len(list) == 0 {
		return
	}
	v := make([]float64, len(list))
	for i, s := range list {
		v[i] = s.Value
	}
	mid, _ := stats.Median(v)
	spread := 0.0
	if m, ok := stats.TMargin(v); ok && len(v) >= 3 {
		spread = m
	}
	i := slices.IndexFunc(pointMeasures, func(m pointMeasure) bool { return m.id == id })
	r.Readings = append(r.Readings, TrackReading{Reading: Reading{Measure: id, Name: pointMeasures[i].name, Unit: pointMeasures[i].unit, Value: mid, Margin: math.Hypot(spread, offBy[by][id])}, Foot: foot, N: len(list), PerStep: list})
}
