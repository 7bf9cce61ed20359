package measure

import (
	"cmp"
	"math"
	"slices"

	"notchback/core/source"
	"notchback/core/stats"
)

// Maker is who put the points of a track there.
type Maker string

// The makers.
const (
	ByMarkers  Maker = "markers"   // a motion system
	ByProposal Maker = "proposed"  // a landmark library, nobody looked
	ByCoach    Maker = "corrected" // proposed, then put right by a coach
	ByHand     Maker = "by hand"   // a coach placed them
)

// MakerSource tags what makers are known to be off by.
var MakerSource = source.House("measured over drawn gaits (docs/coverage.md) and on six rendered figures from one camera; says nothing certain about people")

// rateSteps are the frame rates, Hz, at which makers were measured.
var rateSteps = [4]float64{30, 60, 120, 240}

// offBy is what a maker's points are off by in a measure whatever the number of
// steps, ± of 95 %, at each of rateSteps: where points lie on a body, and how far a limb
// turns while an event is looked for between frames. Times are ms.
var offBy = map[Maker]map[MeasureID][4]float64{
	ByProposal: {
		OverstrideDeg: {12, 11, 9, 8}, OverstrideCm: {9.2, 8.2, 6.8, 6.6}, TrunkLean: {3.4, 3.3, 3.2, 3.4}, KneeFlexion: {5.3, 4.7, 4.4, 4.6}, HipExtension: {13.9, 4.7, 4.5, 4.6},
		StrikeAngle: {12.1, 11.2, 10.7, 10.4}, BounceCm: {0.9, 0.9, 0.83, 0.87}, ContactMs: {41, 40, 37, 33.5}, FlightMs: {42, 43, 38, 34}, CadenceSpm: {0.3, 0.55, 0.1, 0.1},
	},
	ByMarkers: {
		OverstrideDeg: {7.9, 3.6, 3, 1.55}, OverstrideCm: {5.5, 2.7, 2.3, 1.15}, TrunkLean: {0.64, 0.63, 0.62, 0.66}, KneeFlexion: {3.2, 2.8, 2.25, 1.8}, HipExtension: {9.7, 8.4, 4.4, 2.3},
		StrikeAngle: {9.5, 3.8, 2.4, 1}, BounceCm: {0.28, 0.24, 0.22, 0.22}, ContactMs: {19, 16, 8, 7.4}, FlightMs: {21, 16, 9.2, 8.2}, CadenceSpm: {0.55, 0.12, 0.16, 0.08},
		HipDropAngle: {1, 1, 1, 1}, CrossingCm: {1, 1, 1, 1},
	},
}

// Times that are found in a track, as measures.
const (
	ContactMs  MeasureID = "contact"
	FlightMs   MeasureID = "flight"
	CadenceSpm MeasureID = "cadence"
)

// OffBy is what a maker's points are off by in a measure at a time between frames, s, ±
// of 95 %; 0 where nothing is known. Between the rates that were measured it lies on a
// straight line over the time between frames; a slower camera is off by as much more. far
// is the leg behind the other one.
func OffBy(by Maker, id MeasureID, frame float64, far bool) float64 {
	v, ok := offFar[by][id]
	if !far || !ok {
		v = offBy[by][id]
	}
	slow := 1 / rateSteps[0]
	if frame >= slow {
		return v[0] * max(1, frame/slow)
	}
	for i := 1; i < len(v); i++ {
		if a, b := 1/rateSteps[i-1], 1/rateSteps[i]; frame >= b {
			return v[i] + (v[i-1]-v[i])*(frame-b)/(a-b)
		}
	}
	return v[len(v)-1]
}

// offFar is the same for the leg behind the other one, where it differs (on rendered
// figures the shin at contact was off by 5 to 10°).
var offFar = map[Maker]map[MeasureID][4]float64{
	ByProposal: {OverstrideDeg: {13, 11.3, 10, 10}, OverstrideCm: {10.2, 8.9, 7.6, 7.3}, KneeFlexion: {10.9, 10.5, 9.9, 9.8}, HipExtension: {17, 7.9, 7.7, 8}},
}

// StepValue is a measure in one step.
type StepValue struct {
	Frame int     `json:"frame"`
	Value float64 `json:"value"`
	Hand  bool    `json:"hand,omitempty" doc:"All its points were put by hand"`
}

// TrackReading is a measure over all steps of a side: their median.
type TrackReading struct {
	Reading
	Foot    string      `json:"foot" enum:"left,right,both"`
	N       int         `json:"n" doc:"Steps"`
	By      Maker       `json:"by"`
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

// ReadProposal reads a track that somebody has corrected: events that were placed
// stand in the place of those that are found, where a stretch is settled only those
// that were placed count, and where enough steps of a measure have all their points
// put by hand, those steps alone are taken.
// Events are found in the track as it was proposed: points put right in single frames
// would bend the paths they are found in.
func ReadProposal(asProposed, t Track, placed []FootEvent, settled func(frame int) bool) (TrackRead, error) {
	out := TrackRead{Events: []FootEvent{}, Readings: []TrackReading{}}
	for _, x := range []Track{asProposed, t} {
		if err := x.Check(); err != nil {
			return out, err
		}
	}
	first, _ := asProposed.even()
	e, m := t.even()
	out.Mended = m
	found := slices.DeleteFunc(first.find(), func(f FootEvent) bool { return settled(f.Frame) })
	out.Events = merge(found, placed)
	return out, e.reduce(&out, ByProposal)
}

// sameEvent is how far a placed event may lie from the found one it stands for, s.
const sameEvent = 0.12

// merge puts placed events in the place of found ones.
func merge(found, placed []FootEvent) []FootEvent {
	out := slices.Concat([]FootEvent{}, placed) // no event is an empty list
	for i := range out {
		out[i].Placed = true
	}
	for _, f := range found {
		if !slices.ContainsFunc(placed, func(p FootEvent) bool {
			return p.Foot == f.Foot && p.Kind == f.Kind && math.Abs(p.At-f.At) < sameEvent
		}) {
			out = append(out, f)
		}
	}
	slices.SortFunc(out, func(a, b FootEvent) int { return cmp.Compare(a.At, b.At) })
	return out
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
	if by == ByProposal && len(all) < StepsLeast {
		g.CadenceSpm, g.CadenceOff = 0, 0
		g.Says = append(g.Says, "A cadence needs six contacts.")
	} else if v, margin, ok := lineCadence(all); ok && g.CadenceSpm > 0 {
		g.CadenceSpm, g.CadenceOff = v, math.Hypot(margin, OffBy(by, CadenceSpm, t.step, false))
	}
	if slices.ContainsFunc(out.Events, func(e FootEvent) bool { return !e.Placed }) {
		g.found(by)
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
		var both []StepValue
		for _, foot := range feet {
			var list []StepValue
			for _, s := range all {
				if s.Foot != foot {
					continue
				}
				k, ok := t.frameOf(s, m.when)
				if !ok {
					continue
				}
				at, hand := t.timeOf(s, m.when), t.byHand(foot, k, m.places...)
				from := lanes
				if hand { // what a coach placed is not smoothed away, and stands in its frame
					from, at = t.Lanes, t.Times[k]
				}
				if v, ok := t.between(m, from, foot, at); ok {
					list = append(list, StepValue{k, v, hand})
				}
			}
			if m.id == TrunkLean { // a trunk has no side
				if both = append(both, list...); foot == "right" {
					t.put(out, m.id, "both", both, by, t.placeError(m, list, foot))
				}
				continue
			}
			t.put(out, m.id, foot, list, by, t.placeError(m, list, foot))
		}
	}
	for _, foot := range feet {
		list := t.strikes(firm, all, foot)
		t.put(out, StrikeAngle, foot, list, by, math.Sqrt2*t.placeError(trackMeasure{places: []Place{Heel, Toe}}, list, foot))
	}
	if t.UnitCm > 0 {
		t.put(out, BounceCm, "both", t.bounces(soft, all), by, 0)
	}
	return nil
}

// lineCadence is the cadence of a straight line through all contacts, spm, with its
// margin of 95 % (house: the first and the last contact alone, as for marked events,
// carry all of the error of two found ones).
func lineCadence(all []Step) (spm, margin float64, ok bool) {
	if len(all) < 4 {
		return 0, 0, false
	}
	gaps := make([]float64, len(all)-1)
	for i := range gaps {
		gaps[i] = all[i+1].Contact - all[i].Contact
	}
	step, _ := stats.Median(gaps)
	if step <= 0 {
		return 0, 0, false
	}
	n, k := make([]float64, len(all)), 0.0
	for i := range n {
		if i > 0 {
			k += max(1, math.Round(gaps[i-1]/step)) // a step that was missed counts
		}
		n[i] = k
	}
	mx, my := stats.Mean(n), 0.0
	for _, s := range all {
		my += s.Contact / float64(len(all))
	}
	sxx, sxy, rest := 0.0, 0.0, 0.0
	for i, s := range all {
		sxx, sxy = sxx+(n[i]-mx)*(n[i]-mx), sxy+(n[i]-mx)*(s.Contact-my)
	}
	b := sxy / sxx
	for i, s := range all {
		e := s.Contact - my - b*(n[i]-mx)
		rest += e * e
	}
	df := len(all) - 2
	se := math.Sqrt(rest / float64(df) / sxx)
	return 60 / b, 60 / (b * b) * se * stats.TQuantile(0.975, df), true
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

// timeOf is the time of an instant of a step that frameOf knows.
func (t Track) timeOf(s Step, when instant) float64 {
	switch when {
	case atContact:
		return s.Contact
	case atMiddle:
		return (s.Contact + *s.ToeOff) / 2
	}
	return *s.ToeOff
}

// between takes a measure at a time, between the two frames that lie round it (settled
// 44); from one of them where the other is not known.
func (t Track) between(m trackMeasure, lanes map[Lane][]Seen, foot string, at float64) (float64, bool) {
	k := t.frameAt(at)
	v, ok := t.take(m, lanes, foot, k)
	u := (at - t.Times[k]) / t.step
	if k+1 >= len(t.Times) || u < 1e-6 {
		return v, ok
	}
	w, also := t.take(m, lanes, foot, k+1)
	switch {
	case ok && also:
		return v + u*(w-v), true
	case also:
		return w, true
	}
	return v, ok
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
	if m.id == TrunkLean {
		if hip, ok := middle(lanes, Hip, k); ok {
			if shoulder, ok := middle(lanes, Shoulder, k); ok {
				p[0], p[1] = hip, shoulder
			}
		}
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

// middle is half-way between the left and the right of a place, where both are seen.
func middle(lanes map[Lane][]Seen, at Place, k int) (Seen, bool) {
	l, r := lanes[Lane{"left", at}], lanes[Lane{"right", at}]
	if l == nil || r == nil || !l[k].Known || !r[k].Known {
		return Seen{}, false
	}
	s := l[k]
	s.X, s.Y, s.Z = (l[k].X+r[k].X)/2, (l[k].Y+r[k].Y)/2, (l[k].Z+r[k].Z)/2
	return s, true
}

// byHand reports whether all places of a foot in a frame were put by hand.
func (t Track) byHand(foot string, k int, places ...Place) bool {
	for _, p := range places {
		lane := t.Lanes[Lane{foot, p}]
		if lane == nil || !lane[k].Hand {
			return false
		}
	}
	return len(places) > 0
}

// placeError is how far off a value of one step is because points are placed with
// PointNoise, ± of 95 %: to first order, with the segment as long as it is.
func (t Track) placeError(m trackMeasure, list []StepValue, foot string) float64 {
	if t.Spatial || len(list) == 0 || len(m.places) < 2 {
		return 0
	}
	k := list[0].Frame
	a, b := t.Lanes[Lane{foot, m.places[0]}], t.Lanes[Lane{foot, m.places[1]}]
	if m.scaled {
		return stats.Z95 * PointNoise * math.Sqrt2 * t.UnitCm
	}
	return stats.Z95 * deg(PointNoise*math.Sqrt2/max(1, math.Hypot(a[k].X-b[k].X, a[k].Y-b[k].Y)))
}

// strikes are the foot's angles at contact against the same foot flat on the ground
// in the same step, from a quarter to two fifths of the contact (house: the sole lies
// flat then; standing may differ by a degree or two). A step whose contact was put by
// hand is read against soles put by hand, where there are some.
func (t Track) strikes(lanes map[Lane][]Seen, all []Step, foot string) []StepValue {
	heel, toe := lanes[Lane{foot, Heel}], lanes[Lane{foot, Toe}]
	if heel == nil || toe == nil {
		return nil
	}
	pitch := func(heel, toe []Seen, k int) (float64, bool) {
		if !heel[k].Known || !toe[k].Known {
			return 0, false
		}
		return deg(math.Atan2(toe[k].Y-heel[k].Y, toe[k].X-heel[k].X)), true
	}
	rawHeel, rawToe := t.Lanes[Lane{foot, Heel}], t.Lanes[Lane{foot, Toe}]
	var placed []float64
	for _, s := range all {
		if s.Foot != foot || s.ToeOff == nil {
			continue
		}
		d := *s.ToeOff - s.Contact
		for k := t.frameAt(s.Contact + 0.18*d); k <= t.frameAt(s.Contact+0.45*d); k++ {
			if v, ok := pitch(rawHeel, rawToe, k); ok && t.byHand(foot, k, Heel, Toe) {
				placed = append(placed, v)
			}
		}
	}
	own, owned := stats.Median(placed)
	var out []StepValue
	for _, s := range all {
		if s.Foot != foot || s.ToeOff == nil {
			continue
		}
		k := t.frameAt(s.Contact)
		if owned && t.byHand(foot, k, Heel, Toe) {
			v, _ := pitch(rawHeel, rawToe, k)
			out = append(out, StepValue{k, v - own, true})
			continue
		}
		d := *s.ToeOff - s.Contact
		var flat []float64
		for k := t.frameAt(s.Contact + 0.25*d); k <= t.frameAt(s.Contact+0.4*d); k++ {
			if v, ok := pitch(heel, toe, k); ok && !t.byHand(foot, k, Heel, Toe) {
				flat = append(flat, v)
			}
		}
		level, ok := stats.Median(flat)
		v, seen := pitch(heel, toe, k)
		if ok && seen {
			out = append(out, StepValue{Frame: k, Value: v - level})
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
			out = append(out, StepValue{Frame: a, Value: (hi - lo) * t.UnitCm})
		}
	}
	return out
}

// handLeast is how many steps of a side have to be put by hand for a measure to be
// taken from them alone; six of both sides (docs/rules.md, clips) are three a side.
const handLeast = 3

// put adds the median of some steps: of those put by hand where there are enough.
func (t Track) put(r *TrackRead, id MeasureID, foot string, list []StepValue, by Maker, placed float64) {
	var hand []StepValue
	for _, s := range list {
		if s.Hand {
			hand = append(hand, s)
		}
	}
	far := by == ByProposal && t.Near != "" && foot != t.Near && foot != "both"
	own, off := 0.0, OffBy(by, id, t.step, far)
	if id == TrunkLean && (t.Lanes[Lane{"left", Shoulder}] == nil || t.Lanes[Lane{"right", Shoulder}] == nil) {
		off = math.Hypot(off, TurnedShoulders)
	}
	if by == ByProposal && len(hand) >= handLeast {
		// A coach's points in a frame: what is left is when in it the foot came or went.
		list, by, own, off = hand, ByCoach, placed/math.Sqrt(float64(len(hand))), OffBy(ByMarkers, id, t.step, false)
	}
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
	r.Readings = append(r.Readings, TrackReading{Reading: Reading{Measure: id, Name: pointMeasures[i].name, Unit: pointMeasures[i].unit, Value: mid, Margin: math.Hypot(max(spread, own), off)}, Foot: foot, N: len(list), By: by, PerStep: list})
}
