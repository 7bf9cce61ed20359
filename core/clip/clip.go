// Package clip reads what a coach marks on a clip or a photo: points in moments,
// events of the feet, how it was filmed. It turns them into measures with margins,
// verdicts and what would make them surer. Frames are counted from 0; times are
// the true presentation times.
package clip

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/core/source"
)

// View is where the camera stood.
type View string

// The views.
const (
	Side   View = "side"
	Behind View = "behind"
	Front  View = "front"
	Above  View = "above"
)

// Spot is a place of a template with its name.
type Spot struct {
	Place measure.Place `json:"place"`
	Name  string        `json:"name"`
}

// Template is what is marked in one kind of moment.
type Template struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	View   View   `json:"view" enum:"side,behind,front,above"`
	Hint   string `json:"hint"`
	Apart  bool   `json:"apart,omitempty" doc:"Its points lie in several frames"`
	Places []Spot `json:"places" nullable:"false" doc:"In the order they are marked"`
}

var spots = map[measure.Place]string{
	measure.Shoulder: "shoulder", measure.Hip: "hip", measure.Knee: "knee", measure.Ankle: "ankle bone", measure.Heel: "back of the heel, under", measure.Toe: "base of the little toe, under",
	measure.BallJoint: "ball joint", measure.BigToeTip: "tip of the big toe", measure.FloorFrom: "floor, one point", measure.FloorTo: "floor, further on",
	measure.PelvisL: "pelvis, left", measure.PelvisR: "pelvis, right", measure.AchillesLo: "Achilles, low", measure.AchillesUp: "Achilles, high", measure.HeelLo: "heel, low", measure.HeelUp: "heel, high",
	measure.ShinLow: "front of the shin, above the ankle", measure.ShinUp: "front of the shin, below the kneecap",
	measure.Midline: "middle line", measure.FootMid: "middle of the foot", measure.Highest: "hip at its highest", measure.Lowest: "hip at its lowest",
	measure.HeelStand: "heel, standing", measure.ToeStand: "little toe, standing", measure.NavSit: "navicular, sitting", measure.FloorSit: "floor under it, sitting",
	measure.NavStand: "navicular, standing", measure.FloorStand: "floor under it, standing",
}

func template(id, name string, v View, hint string, places ...measure.Place) Template {
	t := Template{ID: id, Name: name, View: v, Hint: hint, Apart: id == "standing" || id == "bounce" || id == "navicular"}
	for _, p := range places {
		t.Places = append(t.Places, Spot{p, spots[p]})
	}
	return t
}

// Templates are the kinds of moments, in the order they are offered.
var Templates = []Template{
	template("contact", "Contact", Side, "The first frame in which the foot carries. Mark the frame before it as well and it is read between the two.", measure.Ankle, measure.Knee, measure.Hip, measure.Shoulder, measure.Heel, measure.Toe),
	template("mid-stance", "Mid-stance", Side, "The hip over the ankle.", measure.Ankle, measure.Knee, measure.Hip, measure.Shoulder),
	template("toe-off", "Toe-off", Side, "The last frame in which the toes touch. Mark the frame after it as well and it is read between the two.", measure.Ankle, measure.Knee, measure.Hip, measure.Shoulder),
	template("bounce", "Highest and lowest", Side, "The same point of the hip in both; scroll between.", measure.Highest, measure.Lowest),
	template("standing", "Standing still", Side, "Heel and little toe as they stand: what a foot strike is read against.", measure.HeelStand, measure.ToeStand),
	template("seated", "Seated, knee over toes", Side, "The heel down, the knee as far forward as it goes. Both points on the front edge of the shin, where an inclinometer lies.", measure.ShinLow, measure.ShinUp),
	template("navicular", "Navicular drop", Side, "The navicular and the floor under it: sitting, then standing; scroll between. Needs the scale.", measure.NavSit, measure.FloorSit, measure.NavStand, measure.FloorStand),
	template("big-toe", "Big-toe lift", Side, "The ball joint, the tip, two points of the floor.", measure.BallJoint, measure.BigToeTip, measure.FloorFrom, measure.FloorTo),
	template("behind", "From behind, mid-stance", Behind, "Both sides of the pelvis; Achilles and heel of the standing leg; the foot and the line.",
		measure.PelvisL, measure.PelvisR, measure.AchillesLo, measure.AchillesUp, measure.HeelLo, measure.HeelUp, measure.FootMid, measure.Midline),
	template("arch-log", "Two fingers under the arch, a log", Side, "Standing, the finger-tips under the inner arch. Nothing is measured: it is kept for the next one to be set up over it."),
	template("behind-log", "Feet from behind, a log", Behind, "Standing, the camera at the height of the heels. Nothing is measured: it is kept for the next one to be set up over it."),
	template("above-log", "Feet from above, a log", Above, "Standing, the camera straight above, both feet whole. Nothing is measured: it is kept for the next one to be set up over it."),
}

// Moment is a frame with points on it.
type Moment struct {
	Frame    int                             `json:"frame" minimum:"0"`
	Template string                          `json:"template" maxLength:"20"`
	Side     body.Side                       `json:"side" enum:"left,right,both"`
	Points   map[measure.Place]measure.Point `json:"points"`
	By       measure.Maker                   `json:"by,omitempty" enum:"by hand,proposed,corrected," doc:"Who placed the points; by hand when missing"`
}

// Event is a moment of a foot.
type Event struct {
	Frame int       `json:"frame" minimum:"0"`
	Foot  body.Side `json:"foot" enum:"left,right"`
	Kind  string    `json:"kind" enum:"contact,toe-off"`
}

// Fix is a proposed point put where it belongs.
type Fix struct {
	Frame int           `json:"frame" minimum:"0"`
	Foot  body.Side     `json:"foot" enum:"left,right"`
	Place measure.Place `json:"place" enum:"shoulder,hip,knee,ankle,heel,toe"`
	At    measure.Point `json:"at"`
}

// Span is a stretch of frames, both ends in it.
type Span struct {
	From int `json:"from" minimum:"0"`
	To   int `json:"to" minimum:"0"`
}

// Marks are everything that was said of a clip.
type Marks struct {
	View     View            `json:"view" enum:"side,behind,front,above"`
	Picture  measure.Picture `json:"picture"`
	Near     body.Side       `json:"near,omitempty" enum:"left,right," doc:"The side nearest the camera"`
	Slow     float64         `json:"slow,omitempty" minimum:"0" maximum:"40" doc:"Slow-motion factor: filmed 240 and played 30 is 8; 1 when missing"`
	Rate     float64         `json:"rate,omitempty" minimum:"0" maximum:"1000" doc:"Frames a second, where the file's own times are not known"`
	SpeedKmh float64         `json:"speedKmh,omitempty" minimum:"0" maximum:"40"`
	Incline  float64         `json:"inclinePercent,omitempty" minimum:"-30" maximum:"30"`
	Footwear string          `json:"footwear,omitempty" maxLength:"40"`
	Moments  []Moment        `json:"moments" nullable:"false" maxItems:"400"`
	Events   []Event         `json:"events" nullable:"false" maxItems:"2000"`
	// What a coach makes of proposed points: places moved by hand, stretches looked at.
	Fixes    []Fix             `json:"fixes,omitempty" maxItems:"20000"`
	Accepted []Span            `json:"accepted,omitempty" maxItems:"2000"`
	Mapping  map[string]string `json:"mapping,omitempty" doc:"Of a marker file: which marker stands for left-heel, right-knee, …"`
}

// Runner is what a clip needs to know of a person.
type Runner struct {
	MassKg float64       `json:"massKg,omitempty" minimum:"0" maximum:"250"`
	LegCm  float64       `json:"legCm,omitempty" minimum:"0" maximum:"130"`
	Age    screening.Age `json:"-"`
}

// Judged is a reading with its verdict.
type Judged struct {
	measure.Reading
	Side     body.Side         `json:"side" enum:"left,right,both"`
	Test     screening.TestID  `json:"test,omitempty" doc:"The screening's test it can go into"`
	Verdict  screening.Verdict `json:"verdict,omitempty"`
	Class    string            `json:"class,omitempty" doc:"Of a foot strike"`
	Between  bool              `json:"between,omitempty" doc:"Read between two marked frames"`
	Frame    float64           `json:"frame,omitempty" doc:"What of the margin is the frame that was read: how far it turns or goes until the next, the measure's unit"`
	Unsure   bool              `json:"unsure,omitempty" doc:"The margin crosses a cut-off"`
	Surer    string            `json:"surer,omitempty" doc:"What would make it surer"`
	By       measure.Maker     `json:"by,omitempty" doc:"Who placed the points; by hand when missing"`
	Accepted bool              `json:"accepted,omitempty" doc:"A coach looked at all its steps"`
	N        int               `json:"n,omitempty" doc:"Steps or moments it is the median of"`
	Source   source.Tag        `json:"source"`
}

// MomentRead is what one moment gives.
type MomentRead struct {
	Frame    int       `json:"frame"`
	Side     body.Side `json:"side" enum:"left,right,both"`
	Template string    `json:"template"`
	Missing  []Spot    `json:"missing" nullable:"false" doc:"Places of the template not marked yet"`
	Readings []Judged  `json:"readings" nullable:"false"`
	Into     *int      `json:"into,omitempty" doc:"The frame beside that it is read into, half-way between the two"`
}

// Result is everything a clip gives.
type Result struct {
	Moments []MomentRead        `json:"moments" nullable:"false"`
	Gait    *measure.Gait       `json:"gait,omitempty"`
	Times   []Judged            `json:"times" nullable:"false" doc:"Cadence and contact as readings for the screening"`
	Spring  *measure.SpringMass `json:"spring,omitempty"`
	Says    []string            `json:"says" nullable:"false"`
}

// testOf is the screening's test a measure goes into, by template where it matters.
func testOf(m measure.MeasureID, template string) screening.TestID {
	switch m {
	case measure.ShinEdge:
		if template == "seated" {
			return screening.SeatedShin
		}
	case measure.OverstrideDeg:
		if template == "contact" {
			return screening.Overstride
		}
	case measure.StrikeAngle:
		return "strike-angle"
	case measure.HipExtension:
		if template == "toe-off" {
			return screening.HipExtension
		}
	case measure.HipDropAngle:
		return screening.HipDrop
	case measure.BigToeLift:
		return screening.BigToePassive
	case measure.NavicularMm:
		return screening.Navicular
	case measure.BounceCm:
		return screening.Bounce
	case measure.TrunkLean:
		if template == "contact" {
			return "trunk-lean"
		}
	case measure.KneeFlexion:
		if template == "mid-stance" {
			return "knee-bend"
		}
	}
	return ""
}

// fits reports whether a measure says something in a kind of moment.
func fits(m measure.MeasureID, template string) bool {
	switch m {
	case measure.OverstrideDeg, measure.OverstrideCm, measure.StrikeAngle:
		return template == "contact"
	case measure.HipExtension:
		return template == "toe-off"
	case measure.ShinAngle:
		return template != "contact"
	case measure.ShinEdge:
		return template == "seated"
	}
	return true
}

// seconds of real time of a frame, and between two frames.
func (m Marks) clock(times []float64) (func(int) (float64, bool), float64, error) {
	slow := m.Slow
	if slow == 0 {
		slow = 1
	}
	if len(times) >= 2 {
		steps := make([]float64, 0, len(times)-1)
		for i := 1; i < len(times); i++ {
			steps = append(steps, times[i]-times[i-1])
		}
		slices.Sort(steps)
		return func(f int) (float64, bool) {
			if f < 0 || f >= len(times) {
				return 0, false
			}
			return (times[f] - times[0]) / slow, true
		}, steps[len(steps)/2] / slow, nil
	}
	if m.Rate <= 0 {
		return nil, 0, measure.ErrMark{Field: "rate", Words: "how many frames a second? The file's own times are not known"}
	}
	return func(f int) (float64, bool) { return float64(f) / m.Rate / slow, f >= 0 }, 1 / m.Rate / slow, nil
}

// Read reads all marks of a clip. times are its presentation times in s, empty
// where they are not known. An error names the field that can't be.
func Read(m Marks, times []float64, r Runner) (Result, error) {
	out := Result{Moments: []MomentRead{}, Times: []Judged{}, Says: []string{}}
	standing := map[measure.Place]measure.Point{}
	for _, x := range m.Moments {
		if x.Template == "standing" {
			for at, p := range x.Points {
				standing[at] = p
			}
		}
	}
	gap := m.gap(times)
	pairs := m.pairs()
	for i, x := range m.Moments {
		t := slices.IndexFunc(Templates, func(t Template) bool { return t.ID == x.Template })
		if t < 0 {
			return out, measure.ErrMark{Field: fmt.Sprintf("moments[%d].template", i), Words: fmt.Sprintf("%q is not a kind of moment", x.Template)}
		}
		list, points, err := m.places(x, standing, r.LegCm)
		if err != nil {
			return out, inMoment(i, err)
		}
		other := map[measure.MeasureID]float64{}
		if k, ok := pairs.with[i]; ok {
			also, _, err := m.places(m.Moments[k], standing, r.LegCm)
			if err != nil {
				return out, inMoment(k, err)
			}
			for _, y := range also {
				other[y.Measure] = y.Value
			}
		}
		read := MomentRead{Frame: x.Frame, Side: x.Side, Template: x.Template, Missing: []Spot{}, Readings: []Judged{}}
		for _, s := range Templates[t].Places {
			if _, ok := x.Points[s.Place]; !ok {
				read.Missing = append(read.Missing, s)
			}
		}
		if k, ok := pairs.companion[i]; ok { // what stands in the frame beside is read into its partner
			read.Into, list = &m.Moments[k].Frame, nil
		}
		for _, y := range list {
			if !fits(y.Measure, x.Template) {
				continue
			}
			if x.Template == "seated" && (y.Measure == measure.ShinAngle || y.Measure == measure.ShinEdge) { // the knee is over the toes, whichever way they point
				y.Value = math.Abs(y.Value)
			}
			read.Readings = append(read.Readings, m.withFrame(y, x, other, gap, r.Age))
		}
		if x.Template == "seated" && x.Points[measure.Knee] != (measure.Point{}) {
			out.Says = append(out.Says, "This was read from the ankle bone to the knee, 7 to 9° less than along the front edge of the shin; it goes into no test. Mark the front edge anew.")
		}
		if x.Template == "contact" && len(standing) < 2 && points[measure.Heel] != (measure.Point{}) {
			out.Says = append(out.Says, "A foot strike needs the same two points in standing.")
		}
		out.Moments = append(out.Moments, read)
	}
	out.Says = slices.Compact(out.Says)
	return out, m.feet(&out, times, r)
}

// inMoment names the moment in an error of its marks.
func inMoment(i int, err error) error {
	var bad measure.ErrMark
	if errors.As(err, &bad) {
		bad.Field = fmt.Sprintf("moments[%d].%s", i, bad.Field)
		return bad
	}
	return err
}

// places takes the measures of a moment's points, the foot in standing included.
func (m Marks) places(x Moment, standing map[measure.Place]measure.Point, legCm float64) ([]measure.Reading, map[measure.Place]measure.Point, error) {
	points := maps.Clone(x.Points)
	if points == nil {
		points = map[measure.Place]measure.Point{}
	}
	pic := m.Picture
	if x.Template == "contact" { // the foot that comes down shows which way it runs
		maps.Copy(points, standing)
		if left, known := measure.Faces(points[measure.Heel], points[measure.Toe]); known {
			pic.RunsLeft = left
		}
	}
	list, err := pic.Read(points, legCm)
	return list, points, err
}

// judge puts a reading against its test's cut-offs.
func judge(y measure.Reading, x Moment, age screening.Age) Judged {
	j := Judged{Reading: y, By: x.By, Side: x.Side, Test: testOf(y.Measure, x.Template), Source: measure.PointSource}
	if y.Measure == measure.StrikeAngle {
		j.Class = string(screening.StrikeClass(y.Value))
		j.Source = source.Altman2012
		for _, d := range []float64{-y.Margin, y.Margin} {
			j.Unsure = j.Unsure || screening.StrikeClass(y.Value+d) != screening.StrikeClass(y.Value)
		}
	}
	if t, ok := screening.Find(j.Test); ok {
		if !t.Sided {
			j.Side = body.Both
		}
		s := screening.Summarise(t, body.Left, []screening.Trial{{Value: &y.Value}}, age)
		j.Verdict, j.Source = s.Class, t.Source
		if s.Cut != nil {
			for _, d := range []float64{-y.Margin, y.Margin} {
				v := y.Value + d
				j.Unsure = j.Unsure || screening.Summarise(t, body.Left, []screening.Trial{{Value: &v}}, age).Class != s.Class
			}
		}
	}
	if j.Unsure {
		j.Surer = fmt.Sprintf("± %.1f %s crosses a cut-off: film closer (the segment is %.0f px long), place the points again, or read more steps.", y.Margin, y.Unit, y.ShortPx)
	}
	return j
}

// feet reads the events of both feet.
func (m Marks) feet(out *Result, times []float64, r Runner) error {
	if len(m.Events) == 0 {
		return nil
	}
	at, frame, err := m.clock(times)
	if err != nil {
		return err
	}
	events := slices.Clone(m.Events)
	slices.SortStableFunc(events, func(a, b Event) int { return a.Frame - b.Frame })
	var steps []measure.Step
	open := map[body.Side]int{}
	for i, e := range events {
		s, ok := between(e, at, frame)
		switch {
		case !ok:
			return measure.ErrMark{Field: fmt.Sprintf("events[%d].frame", i), Words: fmt.Sprintf("frame %d is not in the clip", e.Frame)}
		case e.Foot != body.Left && e.Foot != body.Right:
			return measure.ErrMark{Field: fmt.Sprintf("events[%d].foot", i), Words: "expected left or right"}
		case e.Kind == "contact":
			if _, down := open[e.Foot]; down {
				out.Says = append(out.Says, fmt.Sprintf("The %s foot comes down at %.2f s without having left: a toe-off is missing.", e.Foot, s))
			}
			open[e.Foot] = len(steps)
			steps = append(steps, measure.Step{Foot: string(e.Foot), Contact: s})
		default:
			k, down := open[e.Foot]
			if !down {
				out.Says = append(out.Says, fmt.Sprintf("The %s foot leaves at %.2f s without having come down: a contact is missing.", e.Foot, s))
				continue
			}
			delete(open, e.Foot)
			steps[k].ToeOff = &s
		}
	}
	g, err := measure.ReadGait(steps, frame)
	if err != nil {
		return err
	}
	out.Gait = &g
	m.asReadings(out, r)
	return nil
}

// between is when an event was: the coach marks the first frame that carries and the
// last that touches, so a contact lies half-way from the frame before, a toe-off
// half-way to the frame after (docs/rules.md, settled 43). At an end of the clip the
// missing frame is one frame's time away.
func between(e Event, at func(int) (float64, bool), frame float64) (float64, bool) {
	own, ok := at(e.Frame)
	if !ok {
		return 0, false
	}
	next, off := e.Frame-1, -frame
	if e.Kind == "toe-off" {
		next, off = e.Frame+1, frame
	}
	other, ok := at(next)
	if !ok {
		other = own + off
	}
	return (own + other) / 2, true
}

// asReadings adds cadence and contact as readings for the screening, and the
// spring–mass values where mass, leg and speed are known.
func (m Marks) asReadings(out *Result, r Runner) {
	g := out.Gait
	put := func(test screening.TestID, id measure.MeasureID, name, unit string, side body.Side, v, margin float64) {
		t, ok := screening.Find(test)
		if !ok {
			return
		}
		s := screening.Summarise(t, body.Left, []screening.Trial{{Value: &v}}, r.Age)
		out.Times = append(out.Times, Judged{Reading: measure.Reading{Measure: id, Name: name, Unit: unit, Value: v, Margin: margin}, Side: side, Test: test, Verdict: s.Class, Source: t.Source})
	}
	if g.CadenceSpm > 0 && g.Steps >= measure.StepsLeast {
		put(screening.CadenceTest, "cadence", "Cadence", "spm", body.Both, g.CadenceSpm, g.CadenceOff)
	}
	for _, side := range body.Sides {
		if c, ok := g.ContactOf[string(side)]; ok && c.N > 0 {
			put("contact-time", "contact", "Contact", "ms", side, 1000*c.Seconds, 1000*c.Margin)
		}
	}
	if f := g.Flight; f != nil {
		put("flight-time", "flight", "Flight", "ms", body.Both, 1000*f.Seconds, 1000*f.Margin)
	}
	if g.Contact == nil || g.Flight == nil || m.SpeedKmh <= 0 || r.MassKg <= 0 || r.LegCm <= 0 {
		return
	}
	s, err := measure.Spring(r.MassKg, r.LegCm/100, m.SpeedKmh/3.6, g.Contact.Seconds, g.Flight.Seconds)
	if err != nil {
		out.Says = append(out.Says, err.Error())
		return
	}
	out.Spring = &s
}
