package clip

import (
	"fmt"
	"math"
	"strings"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/screening"
)

// TrackResult is everything a track of landmarks gives.
type TrackResult struct {
	measure.Mended
	Events   []measure.FootEvent   `json:"events" nullable:"false"`
	Readings []Judged              `json:"readings" nullable:"false" doc:"Medians over all steps"`
	PerStep  [][]measure.StepValue `json:"perStep" nullable:"false" doc:"Of each reading, its steps"`
	Gait     *measure.Gait         `json:"gait,omitempty"`
	Times    []Judged              `json:"times" nullable:"false"`
	Spring   *measure.SpringMass   `json:"spring,omitempty"`
	Says     []string              `json:"says" nullable:"false"`
}

// momentOf is the kind of moment a measure of a track belongs to.
var momentOf = map[measure.MeasureID]string{measure.OverstrideDeg: "contact", measure.OverstrideCm: "contact", measure.TrunkLean: "contact", measure.StrikeAngle: "contact",
	measure.KneeFlexion: "mid-stance", measure.HipExtension: "toe-off", measure.HipDropAngle: "behind", measure.CrossingCm: "behind", measure.BounceCm: "bounce"}

// strikeSteps is how many steps a foot strike is asked for where proposals can't
// tell it (docs/rules.md, clips: six).
const strikeSteps = 6

// ReadTrack judges what a track gives, its events found in it.
func (m Marks) ReadTrack(t measure.Track, by measure.Maker, r Runner) (TrackResult, error) {
	read, err := measure.ReadTrack(t, by)
	return m.judgeTrack(read, err, by, r)
}

func (m Marks) judgeTrack(read measure.TrackRead, err error, by measure.Maker, r Runner) (TrackResult, error) {
	out := TrackResult{Mended: read.Mended, Events: read.Events, Readings: []Judged{}, PerStep: [][]measure.StepValue{}, Times: []Judged{}, Says: []string{}}
	if err != nil {
		return out, err
	}
	for _, x := range read.Readings {
		if x.Measure == measure.OverstrideCm && r.LegCm > 0 {
			v := 100 * x.Value / r.LegCm
			x.PercentOf = &v
		}
		j := judge(x.Reading, Moment{Template: momentOf[x.Measure], Side: body.Side(x.Foot)}, r.Age)
		j.By, j.N = x.By, x.N
		if j.Unsure {
			j.Surer = fmt.Sprintf("± %.1f %s crosses a cut-off: more steps or a faster camera make it surer.", j.Margin, j.Unit)
		}
		if x.Measure == measure.StrikeAngle && j.Unsure && x.By == measure.ByProposal {
			j.Class = "uncertain"
			j.Surer = fmt.Sprintf("Proposed points can't tell this foot strike. Place heel and toe at contact in the %d clearest steps.", strikeSteps)
		}
		out.Readings, out.PerStep = append(out.Readings, j), append(out.PerStep, x.PerStep)
	}
	if read.Gait == nil {
		out.Says = append(out.Says, "No step was found in these points.")
		return out, nil
	}
	with := Result{Gait: read.Gait, Times: []Judged{}, Says: []string{}}
	m.asReadings(&with, r)
	for i := range with.Times {
		with.Times[i].By = by
	}
	out.Gait, out.Times, out.Spring, out.Says = with.Gait, with.Times, with.Spring, with.Says
	return out, nil
}

// Compare judges each measure that two results of one side share: the newer against
// the older, by the test's smallest detectable change (MDC95); measures without one
// by their two margins.
func Compare(older, newer Measures) []Difference {
	out := []Difference{}
	for _, b := range newer {
		for _, a := range older {
			if a.Measure != b.Measure || a.Side != b.Side {
				continue
			}
			d := Difference{Measure: b.Measure, Name: b.Name, Unit: b.Unit, Side: b.Side, Older: a.Value, Newer: b.Value, By: b.Value - a.Value, Within: math.Hypot(a.Margin, b.Margin), Basis: "MDC95 from how well the points are placed"}
			if t, ok := screening.Find(b.Test); ok && t.Noise != nil {
				was, is := screening.Summarise(t, b.Side, []screening.Trial{{Value: &a.Value}}, screening.Age{}), screening.Summarise(t, b.Side, []screening.Trial{{Value: &b.Value}}, screening.Age{})
				re := screening.CompareDates(t, was, is)
				if re.MDC95 != nil {
					// Neither may be smaller than what the points themselves allow.
					d.Within, d.Basis, d.Change = max(d.Within, *re.MDC95), "MDC95 of the test", re.Change
				}
			}
			d.Real = math.Abs(d.By) > d.Within
			switch {
			case !d.Real:
				d.Change = screening.Same
			case d.Change == "" || d.Change == screening.Same:
				d.Change = ""
			}
			out = append(out, d)
		}
	}
	return out
}

// Measures are readings of one clip, one for each measure and side.
type Measures []Judged

// Difference is one measure of two clips.
type Difference struct {
	Measure measure.MeasureID `json:"measure"`
	Name    string            `json:"name"`
	Unit    string            `json:"unit"`
	Side    body.Side         `json:"side" enum:"left,right,both"`
	Older   float64           `json:"older"`
	Newer   float64           `json:"newer"`
	By      float64           `json:"by" doc:"Newer minus older"`
	Within  float64           `json:"within" doc:"A difference up to this is noise"`
	Basis   string            `json:"basis"`
	Real    bool              `json:"real"`
	Change  screening.Change  `json:"change,omitempty" doc:"Empty where a difference is neither better nor worse"`
}

// All are the readings of a result, one for each measure and side: the median where
// a measure stands in several moments.
func (r Result) All() Measures {
	var out Measures
	by := map[string][]Judged{}
	var order []string
	for _, m := range r.Moments {
		for _, j := range m.Readings {
			k := string(j.Measure) + "/" + string(j.Side) + "/" + momentKey(m.Template)
			if by[k] == nil {
				order = append(order, k)
			}
			by[k] = append(by[k], j)
		}
	}
	for _, k := range order {
		out = append(out, middle(by[k]))
	}
	return append(out, r.Times...)
}

// momentKey keeps measures apart that mean another thing in another moment.
func momentKey(template string) string {
	switch template {
	case "contact", "mid-stance", "toe-off", "seated":
		return template
	}
	return ""
}

// middle is the reading in the middle of several, with its own margin made smaller
// by their number.
func middle(list []Judged) Judged {
	best, rank := list[0], 0
	for _, x := range list {
		below := 0
		for _, y := range list {
			if y.Value < x.Value {
				below++
			}
		}
		if below <= len(list)/2 && below >= rank {
			best, rank = x, below
		}
	}
	// Points scatter from step to step. A frame read alone is always late at contact and
	// early at toe-off, by half of the gap on average, however many there are.
	n := math.Sqrt(float64(len(list)))
	rest := math.Sqrt(max(0, best.Margin*best.Margin-best.Frame*best.Frame)) / n
	if !best.Between {
		best.Frame = best.Frame/2 + best.Frame/2/n
	} else {
		best.Frame /= n
	}
	best.Margin = math.Hypot(rest, best.Frame)
	best.N = len(list)
	return best
}

// placeWords are what markers of a place are called, in small letters.
var placeWords = map[measure.Place][]string{
	measure.Shoulder: {"shoulder", "acromi", "sho"}, measure.Hip: {"hip", "trochant", "asis", "gtr"}, measure.Knee: {"knee", "epicond", "kne"},
	measure.Ankle: {"ankle", "malle", "ank"}, measure.Heel: {"heel", "calc", "hee"}, measure.Toe: {"toe", "mtp", "metatars", "mt5", "meta5"},
}

// GuessMarkers proposes which marker stands for which place, by their names. What
// it can't tell is left out.
func GuessMarkers(names []string) map[string]string {
	out := map[string]string{}
	for _, place := range measure.TrackPlaces {
		for _, foot := range []string{"left", "right"} {
			key := measure.Lane{Foot: foot, Place: place}.String()
			best := -1
			for _, n := range names {
				if s := likeness(n, foot, placeWords[place]); s > best && s > 0 {
					best = s
					out[key] = n
				}
			}
		}
	}
	return out
}

// likeness says how well a name fits a side and a place; 0 is not at all. On the
// outside of the sole is better than elsewhere, since it is read there.
func likeness(name, foot string, words []string) int {
	n := strings.ToLower(name)
	side := strings.Contains(n, foot)
	if !side {
		rest := strings.TrimLeft(n, foot[:1])
		side = strings.HasPrefix(n, foot[:1]) && !strings.Contains(n, map[string]string{"left": "right", "right": "left"}[foot]) && rest != n && (strings.IndexAny(rest[:min(1, len(rest))], "_-. ") == 0 || startsWithAny(rest, words))
		side = side || strings.HasSuffix(n, "_"+foot[:1]) || strings.HasSuffix(n, "."+foot[:1]) || strings.HasSuffix(n, "-"+foot[:1])
	}
	if !side {
		return 0
	}
	for i, w := range words {
		if strings.Contains(n, w) {
			s := 10 - i
			if strings.Contains(n, "sole") || strings.Contains(n, "lat") {
				s++
			}
			return s
		}
	}
	return 0
}

func startsWithAny(s string, words []string) bool {
	for _, w := range words {
		if strings.HasPrefix(s, w) {
			return true
		}
	}
	return false
}

// MarkersAsTrack makes a track of the mapped markers of a file: mm, rate in Hz.
// mapping is from lanes ("left-heel") to marker names.
func MarkersAsTrack(rate float64, names []string, frames int, at func(frame, marker int) measure.Raw, mapping map[string]string) (measure.Track, error) {
	index := map[string]int{}
	for i, n := range names {
		index[n] = i
	}
	raw := map[measure.Lane][]measure.Raw{}
	for _, foot := range []string{"left", "right"} {
		for _, p := range measure.TrackPlaces {
			l := measure.Lane{Foot: foot, Place: p}
			name := mapping[l.String()]
			if name == "" {
				continue
			}
			k, ok := index[name]
			if !ok {
				return measure.Track{}, measure.ErrMark{Field: "mapping." + l.String(), Words: fmt.Sprintf("there is no marker %q in this file", name)}
			}
			lane := make([]measure.Raw, frames)
			for i := range lane {
				lane[i] = at(i, k)
			}
			raw[l] = lane
		}
	}
	for _, foot := range []string{"left", "right"} {
		for _, p := range []measure.Place{measure.Hip, measure.Heel, measure.Toe} {
			if raw[measure.Lane{Foot: foot, Place: p}] == nil {
				return measure.Track{}, measure.ErrMark{Field: "mapping." + foot + "-" + string(p), Words: "hip, heel and toe of both sides are needed to find the steps"}
			}
		}
	}
	lanes, err := measure.Orient(raw)
	if err != nil {
		return measure.Track{}, err
	}
	t := measure.Track{Times: make([]float64, frames), Lanes: lanes, UnitCm: 0.1, Spatial: true}
	for i := range t.Times {
		t.Times[i] = float64(i) / rate
	}
	return t, nil
}
