package measure

import (
	"fmt"
	"math"

	"notchback/core/source"
	"notchback/core/stats"
)

// Point is a place in a picture: pixels, x to the right, y down.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Line is two points.
type Line [2]Point

// Picture is how a picture was taken: what turns its pixels into angles and cm.
type Picture struct {
	RunsLeft bool    `json:"runsLeft,omitempty" doc:"The runner runs to the left; everything is mirrored"`
	Floor    *Line   `json:"floor,omitempty" doc:"Two points of a level line: corrects the camera's roll"`
	Plumb    *Line   `json:"plumb,omitempty" doc:"Two points of a plumb line, for pictures without a level one"`
	Scale    *Line   `json:"scale,omitempty" doc:"Two points of a known distance"`
	ScaleCm  float64 `json:"scaleCm,omitempty" minimum:"0" maximum:"2000" doc:"That distance, cm"`
	NoisePx  float64 `json:"noisePx,omitempty" minimum:"0" maximum:"50" doc:"How well a point is placed, 1 SD in pixels; when missing 2, or a quarter of a per cent of the picture's height where that is more"`
	HeightPx float64 `json:"heightPx,omitempty" minimum:"0" maximum:"20000" doc:"How high the picture is, px"`
}

// How well a point is placed when nothing better is known: the larger of PointNoise, in
// px, and PointShare of the picture's height (settled 47: a thumb is as wide on a large
// picture as on a small one).
const (
	PointNoise = 2.0
	PointShare = 0.0025
)

// TurnedShoulders is what a trunk seen from one side is off by, ± of 95 %, in degrees: the
// shoulder nearest the camera goes to and fro with the arm (settled 46).
const TurnedShoulders = 5.0

// PointSource tags PointNoise.
var PointSource = source.House("a careful thumb on a phone video; the coach's own repeats say better")

// Place names a point of a body in a picture.
type Place string

// The places. Left and right are the runner's own; where a place has no side it is
// the one nearest the camera.
const (
	Shoulder   Place = "shoulder"
	Hip        Place = "hip"
	Knee       Place = "knee"
	Ankle      Place = "ankle"
	Heel       Place = "heel"
	Toe        Place = "toe"        // base of the little toe, lateral
	HeelStand  Place = "heel-stand" // the same in standing
	ToeStand   Place = "toe-stand"
	BallJoint  Place = "ball"
	BigToeTip  Place = "toe-tip"
	FloorFrom  Place = "floor-from"
	FloorTo    Place = "floor-to"
	PelvisL    Place = "pelvis-left"
	PelvisR    Place = "pelvis-right"
	AchillesUp Place = "achilles-up"
	AchillesLo Place = "achilles-low"
	HeelUp     Place = "heel-up"
	HeelLo     Place = "heel-low"
	Midline    Place = "midline"
	FootMid    Place = "foot"
	NavSit     Place = "navicular-sit"
	FloorSit   Place = "floor-sit"
	NavStand   Place = "navicular-stand"
	FloorStand Place = "floor-stand"
	Highest    Place = "highest" // hip or head, at the top of a step
	Lowest     Place = "lowest"
	ShinUp     Place = "shin-up"  // the shin's front edge, below the kneecap
	ShinLow    Place = "shin-low" // and above the ankle
)

// MeasureID names a measure taken from points.
type MeasureID string

// The measures.
const (
	ShinAngle     MeasureID = "shin"
	ShinEdge      MeasureID = "shin-edge"
	StrikeAngle   MeasureID = "strike"
	OverstrideDeg MeasureID = "overstride"
	OverstrideCm  MeasureID = "overstride-cm"
	TrunkLean     MeasureID = "trunk"
	HipExtension  MeasureID = "hip-extension"
	KneeFlexion   MeasureID = "knee"
	BigToeLift    MeasureID = "big-toe"
	HipDropAngle  MeasureID = "hip-drop"
	HeelRoll      MeasureID = "heel-roll"
	CrossingCm    MeasureID = "crossing-cm"
	NavicularMm   MeasureID = "navicular"
	BounceCm      MeasureID = "bounce"
)

// measure is how one value is made from its places.
type pointMeasure struct {
	id     MeasureID
	name   string
	unit   string
	places []Place
	scaled bool // needs the scale line
	size   bool // only how large it is counts, not its sign
	of     func(p []Point, s float64) float64
}

func deg(rad float64) float64 { return rad * 180 / math.Pi }

// lean is the angle of a segment from its lower to its upper point against the
// vertical, forward positive.
func lean(low, up Point) float64 { return deg(math.Atan2(up.X-low.X, low.Y-up.Y)) }

// measures; x runs forward and y down, the picture's roll taken out.
var pointMeasures = []pointMeasure{
	{ShinAngle, "Shin from vertical", "°", []Place{Ankle, Knee}, false, false, func(p []Point, _ float64) float64 { return lean(p[0], p[1]) }},
	{ShinEdge, "Front edge of the shin from vertical", "°", []Place{ShinLow, ShinUp}, false, false, func(p []Point, _ float64) float64 { return lean(p[0], p[1]) }},
	{StrikeAngle, "Foot strike angle", "°", []Place{Heel, Toe, HeelStand, ToeStand}, false, false, func(p []Point, _ float64) float64 {
		return sole(p[0], p[1]) - sole(p[2], p[3])
	}},
	{OverstrideDeg, "Shin at contact", "°", []Place{Ankle, Knee}, false, false, func(p []Point, _ float64) float64 { return -lean(p[0], p[1]) }},
	{OverstrideCm, "Ankle ahead of the hip", "cm", []Place{Ankle, Hip}, true, false, func(p []Point, s float64) float64 { return (p[0].X - p[1].X) * s }},
	{TrunkLean, "Trunk lean", "°", []Place{Hip, Shoulder}, false, false, func(p []Point, _ float64) float64 { return lean(p[0], p[1]) }},
	{HipExtension, "Hip extension", "°", []Place{Hip, Knee}, false, false, func(p []Point, _ float64) float64 { return deg(math.Atan2(p[0].X-p[1].X, p[1].Y-p[0].Y)) }},
	{KneeFlexion, "Knee flexion", "°", []Place{Hip, Knee, Ankle}, false, false, func(p []Point, _ float64) float64 {
		a, b := Point{p[0].X - p[1].X, p[0].Y - p[1].Y}, Point{p[2].X - p[1].X, p[2].Y - p[1].Y}
		return 180 - deg(math.Atan2(math.Abs(a.X*b.Y-a.Y*b.X), a.X*b.X+a.Y*b.Y))
	}},
	{BigToeLift, "Big-toe extension", "°", []Place{BallJoint, BigToeTip, FloorFrom, FloorTo}, false, false, func(p []Point, _ float64) float64 {
		floor := Line{p[2], p[3]}
		if floor[1].X < floor[0].X { // a floor has no direction
			floor[0], floor[1] = floor[1], floor[0]
		}
		return sole(p[0], p[1]) - sole(floor[0], floor[1])
	}},
	{HipDropAngle, "Hip drop", "°", []Place{PelvisL, PelvisR}, false, true, func(p []Point, _ float64) float64 {
		return deg(math.Atan2(p[1].Y-p[0].Y, math.Abs(p[1].X-p[0].X)))
	}},
	{HeelRoll, "Heel roll", "°", []Place{AchillesLo, AchillesUp, HeelLo, HeelUp}, false, false, func(p []Point, _ float64) float64 {
		return lean(p[2], p[3]) - lean(p[0], p[1])
	}},
	{CrossingCm, "Foot from the middle line", "cm", []Place{FootMid, Midline}, true, true, func(p []Point, s float64) float64 { return (p[0].X - p[1].X) * s }},
	{NavicularMm, "Navicular drop", "mm", []Place{NavSit, FloorSit, NavStand, FloorStand}, true, false, func(p []Point, s float64) float64 {
		return 10 * s * ((p[1].Y - p[0].Y) - (p[3].Y - p[2].Y))
	}},
	{BounceCm, "Bounce", "cm", []Place{Highest, Lowest}, true, false, func(p []Point, s float64) float64 { return (p[1].Y - p[0].Y) * s }},
}

// sole is the angle of the line from heel to toe, toes up positive.
func sole(heel, toe Point) float64 { return deg(math.Atan2(heel.Y-toe.Y, toe.X-heel.X)) }

// Reading is one measure of one picture with its margin.
type Reading struct {
	Measure   MeasureID `json:"measure"`
	Name      string    `json:"name"`
	Unit      string    `json:"unit" enum:"°,cm,mm"`
	Value     float64   `json:"value"`
	Margin    float64   `json:"margin" doc:"± of 95 %, from how well points are placed"`
	ShortPx   float64   `json:"shortPx" doc:"The shortest segment used, px: longer ones are surer"`
	PercentOf *float64  `json:"percentOfLeg,omitempty" doc:"In per cent of leg length, where it is known"`
}

// Places lists the places a measure needs, in the order they are marked.
func Places(m MeasureID) []Place {
	for _, x := range pointMeasures {
		if x.id == m {
			return x.places
		}
	}
	return nil
}

// Measures lists all measures.
func Measures() []MeasureID {
	out := make([]MeasureID, len(pointMeasures))
	for i, m := range pointMeasures {
		out[i] = m.id
	}
	return out
}

// ErrMark says which marks can't be measured and why.
type ErrMark struct{ Field, Words string }

func (e ErrMark) Error() string { return e.Field + ": " + e.Words }

// maxHeightPx is more than any camera's picture is high.
const maxHeightPx = 20000

// Check looks for what no measure can be taken from.
func (pic Picture) Check() error {
	for name, l := range map[string]*Line{"floor": pic.Floor, "plumb": pic.Plumb, "scale": pic.Scale} {
		if l != nil && l[0] == l[1] {
			return ErrMark{name, "both points are in one place"}
		}
	}
	// A line that lies the other way is the other line, most likely.
	if l := pic.Floor; l != nil && math.Abs(l[1].Y-l[0].Y) > math.Abs(l[1].X-l[0].X) {
		return ErrMark{"floor", "this line is steeper than 45°: is it the plumb line?"}
	}
	if l := pic.Plumb; l != nil && math.Abs(l[1].Y-l[0].Y) < math.Abs(l[1].X-l[0].X) {
		return ErrMark{"plumb", "this line is flatter than 45°: is it the floor?"}
	}
	if pic.Scale != nil && !(pic.ScaleCm > 0) {
		return ErrMark{"scaleCm", "how far apart are they really? Expected more than 0 cm"}
	}
	if !(pic.HeightPx >= 0 && pic.HeightPx <= maxHeightPx) {
		return ErrMark{"heightPx", fmt.Sprintf("expected 0 to %d (you entered %g px)", maxHeightPx, pic.HeightPx)}
	}
	if pic.NoisePx < 0 || pic.NoisePx > 50 || math.IsNaN(pic.NoisePx) {
		return ErrMark{"noisePx", fmt.Sprintf("expected 0 to 50 (you entered %g px)", pic.NoisePx)}
	}
	return nil
}

// Read takes every measure whose places are marked, each with its margin: the
// share of every point, floor, plumb and scale line included, is propagated to
// first order. legCm is the leg length in cm, 0 when not known.
func (pic Picture) Read(marks map[Place]Point, legCm float64) ([]Reading, error) {
	if err := pic.Check(); err != nil {
		return nil, err
	}
	for at, p := range marks {
		if math.IsNaN(p.X+p.Y) || math.IsInf(p.X+p.Y, 0) {
			return nil, ErrMark{string(at), "not a place in the picture"}
		}
	}
	if left, known := Faces(marks[BallJoint], marks[BigToeTip]); known { // a toe shows which way
		pic.RunsLeft = left
	}
	out := []Reading{}
	for _, m := range pointMeasures {
		r, ok, err := pic.read(m, marks)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		if m.unit == "cm" && legCm > 0 && m.id == OverstrideCm {
			v := 100 * r.Value / legCm
			r.PercentOf = &v
		}
		out = append(out, r)
	}
	return out, nil
}

// Faces is whether somebody faces left, from the heel to the toe or from the ball to the
// tip of the big toe of a foot that lies within 45° of the level; not known for others
// (settled 48: a mirrored picture gives the same, whatever was ticked).
func Faces(from, to Point) (left, known bool) {
	if from == to || math.Abs(to.Y-from.Y) > math.Abs(to.X-from.X) {
		return false, false
	}
	return to.X < from.X, true
}

func (pic Picture) read(m pointMeasure, marks map[Place]Point) (Reading, bool, error) {
	pts := make([]Point, len(m.places), len(m.places)+4)
	for i, at := range m.places {
		p, ok := marks[at]
		if !ok {
			return Reading{}, false, nil
		}
		pts[i] = p
	}
	if m.scaled && pic.Scale == nil {
		return Reading{}, false, nil
	}
	short := math.Inf(1)
	for i := 0; i+1 < len(pts); i++ {
		if i%2 == 1 && len(pts) == 4 {
			continue // two segments of two points
		}
		d := math.Hypot(pts[i+1].X-pts[i].X, pts[i+1].Y-pts[i].Y)
		if d == 0 && m.unit == "°" {
			return Reading{}, false, ErrMark{string(m.places[i+1]), "in one place with " + string(m.places[i])}
		}
		short = min(short, d)
	}
	n := len(pts)
	level := pic.Floor
	if level == nil {
		level = pic.Plumb
	}
	if level != nil {
		pts = append(pts, level[0], level[1])
	}
	if m.scaled {
		pts = append(pts, pic.Scale[0], pic.Scale[1])
	}
	value := func(p []Point) float64 {
		rest := p[n:]
		roll := 0.0
		if level != nil {
			roll = pic.roll(Line{rest[0], rest[1]})
			rest = rest[2:]
		}
		s := 0.0
		if m.scaled {
			s = pic.ScaleCm / math.Hypot(rest[1].X-rest[0].X, rest[1].Y-rest[0].Y)
		}
		turned := make([]Point, n)
		sin, cos := math.Sincos(-roll)
		for i := range n {
			turned[i] = Point{cos*p[i].X - sin*p[i].Y, sin*p[i].X + cos*p[i].Y}
			if pic.RunsLeft {
				turned[i].X = -turned[i].X
			}
		}
		return m.of(turned, s)
	}
	v := value(pts)
	if m.size { // the margin is that of the signed value: at 0 a size has no slope
		v = math.Abs(v)
	}
	return Reading{Measure: m.id, Name: m.name, Unit: m.unit, Value: v, Margin: stats.Z95 * propagate(value, pts, pic.noise(), m.unit == "°"), ShortPx: short}, true, nil
}

func (pic Picture) noise() float64 {
	if pic.NoisePx == 0 {
		return max(PointNoise, PointShare*pic.HeightPx)
	}
	return pic.NoisePx
}

// roll is how far the camera was turned, in rad, clockwise on the picture.
func (pic Picture) roll(l Line) float64 {
	if pic.Floor != nil {
		a, b := l[0], l[1]
		if b.X < a.X {
			a, b = b, a
		}
		return math.Atan2(b.Y-a.Y, b.X-a.X)
	}
	up, low := l[0], l[1]
	if up.Y > low.Y {
		up, low = low, up
	}
	return math.Atan2(up.X-low.X, low.Y-up.Y)
}

// propagate returns the standard error of a value made from points that are each
// placed with an SD of sigma px in both directions.
func propagate(f func([]Point) float64, pts []Point, sigma float64, angle bool) float64 {
	const h = 1e-3
	sum := 0.0
	p := make([]Point, len(pts))
	copy(p, pts)
	slope := func(at *float64) {
		was := *at
		*at = was + h
		up := f(p)
		*at = was - h
		down := f(p)
		*at = was
		d := up - down
		if angle {
			d = math.Remainder(d, 360)
		}
		d /= 2 * h
		sum += d * d
	}
	for i := range p {
		slope(&p[i].X)
		slope(&p[i].Y)
	}
	return sigma * math.Sqrt(sum)
}

// SpringMass is running as a spring, Morin 2005.
type SpringMass struct {
	ForceN      float64 `json:"forceN" doc:"Highest force on the ground"`
	BodyWeights float64 `json:"bodyWeights"`
	DropCm      float64 `json:"dropCm" doc:"How far the body sinks on the ground"`
	LegCm       float64 `json:"legCm" doc:"How far the leg shortens"`
	VerticalKNm float64 `json:"verticalKNm"`
	LegKNm      float64 `json:"legKNm"`
	CadenceSpm  float64 `json:"cadenceSpm"`
	Duty        float64 `json:"duty" doc:"Contact as a share of the stride"`
}

// SpringMassSource tags the model.
var SpringMassSource = source.Published("Morin JB et al. 2005, J Appl Biomech 21:167")

const gravity = 9.81

// What a running person can weigh and do (house).
const (
	springMassKg  = 250.0
	springLegM    = 1.5
	springSpeed   = 13.0 // m/s
	springContact = 0.02 // s at the least
	springSeconds = 2.0  // of contact or flight at the most
)

// Spring computes the spring–mass values of a runner: mass in kg up to 250, leg length
// in m up to 1.5, speed in m/s up to 13, contact in s from 0.02 to 2, flight in s up
// to 2. Flight of 0 or less is walking; a contact so long that the leg would have to
// reach further than it is long is refused.
func Spring(massKg, legM, speed, contact, flight float64) (SpringMass, error) {
	switch {
	case !(massKg > 0 && massKg <= springMassKg):
		return SpringMass{}, ErrMark{"massKg", "expected more than 0 and up to 250 kg"}
	case !(legM > 0 && legM <= springLegM):
		return SpringMass{}, ErrMark{"legM", "expected more than 0 and up to 1.5 m"}
	case !(speed > 0 && speed <= springSpeed):
		return SpringMass{}, ErrMark{"speed", "expected more than 0 and up to 13 m/s"}
	case !(contact >= springContact && contact <= springSeconds):
		return SpringMass{}, ErrMark{"contact", "expected more than 0: 0.02 to 2 s"}
	case !(flight > 0 && flight <= springSeconds):
		return SpringMass{}, ErrMark{"flight", "no flight: that is walking; expected up to 2 s"}
	case speed*contact/2 >= legM:
		return SpringMass{}, ErrMark{"contact", "the leg would have to be longer: speed, contact and leg length do not fit"}
	}
	force := massKg * gravity * math.Pi / 2 * (flight/contact + 1)
	drop := force*contact*contact/(massKg*math.Pi*math.Pi) - gravity*contact*contact/8
	half := speed * contact / 2
	leg := legM - math.Sqrt(legM*legM-half*half) + drop
	return SpringMass{ForceN: force, BodyWeights: force / (massKg * gravity), DropCm: 100 * drop, LegCm: 100 * leg, VerticalKNm: force / drop / 1000,
		LegKNm: force / leg / 1000, CadenceSpm: 60 / (contact + flight), Duty: contact / (2 * (contact + flight))}, nil
}

// Step is one foot's time on the ground, in s of real time.
type Step struct {
	Foot    string   `json:"foot" enum:"left,right"`
	Contact float64  `json:"contact"`
	ToeOff  *float64 `json:"toeOff,omitempty"`
}

// Span is a mean time with its margin.
type Span struct {
	Seconds float64 `json:"seconds"`
	Margin  float64 `json:"margin" doc:"± of 95 %"`
	N       int     `json:"n"`
}

// Gait is what events give.
type Gait struct {
	Steps      int             `json:"steps"`
	CadenceSpm float64         `json:"cadenceSpm,omitempty"`
	CadenceOff float64         `json:"cadenceMargin,omitempty"`
	Contact    *Span           `json:"contact,omitempty"`
	ContactOf  map[string]Span `json:"contactOf" doc:"By foot"`
	Flight     *Span           `json:"flight,omitempty"`
	Duty       float64         `json:"duty,omitempty"`
	Difference *float64        `json:"differencePercent,omitempty" doc:"Contact, left against right, per cent of their mean; positive is longer on the left"`
	DiffMargin float64         `json:"differenceMargin,omitempty"`
	FrameMs    float64         `json:"frameMs" doc:"Between two frames, real time"`
	EdgeMs     float64         `json:"edgeMs" doc:"± of one event: half a frame"`
	Says       []string        `json:"says" nullable:"false" doc:"What these times can't carry, and what would make it surer"`
	PerStep    []Step          `json:"perStep" nullable:"false"`
}

// Numbers of clips: docs/rules.md.
const (
	// StepsLeast is how many contacts a cadence that counts is read from (house: a line
	// through fewer says little, and nothing about somebody who sits).
	StepsLeast   = 6
	contactLeast = 0.08 // s; house: nobody's foot is down for less
	contactMost  = 0.6
	unsureShare  = 0.05 // of the contact: sides within 5 % are even
)

// ReadGait reduces events to cadence, contact, flight and duty. frame is the time
// between two frames in s of real time; every event is good to half of it. Steps
// may come in any order of feet; they must be in order of time within a foot.
func ReadGait(steps []Step, frame float64) (Gait, error) {
	g := Gait{ContactOf: map[string]Span{}, Says: []string{}, PerStep: []Step{}}
	if !(frame > 0) || frame > 1 {
		return g, ErrMark{"frame", "expected the seconds between two frames, over 0 and up to 1"}
	}
	sorted := append([]Step(nil), steps...)
	for i := range sorted {
		for j := i; j > 0 && sorted[j].Contact < sorted[j-1].Contact; j-- {
			sorted[j], sorted[j-1] = sorted[j-1], sorted[j]
		}
	}
	last := map[string]float64{}
	for i, s := range sorted {
		if s.Foot != "left" && s.Foot != "right" {
			return g, ErrMark{fmt.Sprintf("steps[%d].foot", i), "expected left or right"}
		}
		if s.ToeOff != nil {
			t := *s.ToeOff - s.Contact
			switch {
			case t <= 0:
				return g, ErrMark{fmt.Sprintf("steps[%d].toeOff", i), "toe-off lies before its contact"}
			case t < contactLeast || t > contactMost:
				return g, ErrMark{fmt.Sprintf("steps[%d].toeOff", i), fmt.Sprintf("%.0f ms on the ground can't be running; expected %.0f to %.0f", 1000*t, 1000*contactLeast, 1000*contactMost)}
			}
		}
		if was, ok := last[s.Foot]; ok && s.Contact < was {
			return g, ErrMark{fmt.Sprintf("steps[%d].contact", i), "the " + s.Foot + " foot is down already"}
		}
		last[s.Foot] = s.Contact
		if s.ToeOff != nil {
			last[s.Foot] = *s.ToeOff
		}
	}
	g.Steps, g.PerStep = len(sorted), sorted
	g.FrameMs, g.EdgeMs = 1000*frame, 1000*frame/2
	edge := frame / math.Sqrt(12) // SD of one event within its frame
	pair := edge * math.Sqrt2
	g.times(sorted, pair)
	if len(sorted) < 2 {
		g.Says = append(g.Says, "Two contacts at least are needed for a cadence, six for one that counts.")
		return g, nil
	}
	both := len(last) == 2
	run := sorted[len(sorted)-1].Contact - sorted[0].Contact
	n := float64(len(sorted) - 1)
	if missed := missing(sorted); missed != "" {
		g.Says = append(g.Says, missed)
	}
	if both && run > 0 {
		g.CadenceSpm = 60 * n / run
		g.CadenceOff = stats.Z95 * g.CadenceSpm * pair / run
	}
	if !both {
		g.Says = append(g.Says, "Only one foot is marked: a cadence needs both.")
	}
	if len(sorted) < StepsLeast {
		g.Says = append(g.Says, fmt.Sprintf("%d steps; six make it surer.", len(sorted)))
	}
	return g, nil
}

// found puts into the times what events found by a maker are off by.
func (g *Gait) found(by Maker) {
	frame := g.FrameMs / 1000
	off := OffBy(by, ContactMs, frame, false) / 1000
	if g.Contact != nil {
		g.Contact.Margin = math.Hypot(g.Contact.Margin, off)
	}
	for foot, s := range g.ContactOf {
		s.Margin = math.Hypot(s.Margin, off)
		g.ContactOf[foot] = s
	}
	if g.Flight != nil {
		g.Flight.Margin = math.Hypot(g.Flight.Margin, OffBy(by, FlightMs, frame, false)/1000)
	}
}

// missing says where two contacts of one foot follow each other.
func missing(s []Step) string {
	for i := 1; i < len(s); i++ {
		if s[i].Foot == s[i-1].Foot {
			return fmt.Sprintf("Two %s contacts follow each other at %.2f s: one of the other foot is missing.", s[i].Foot, s[i].Contact)
		}
	}
	return ""
}

// times adds contact, flight, duty and the sides' difference.
func (g *Gait) times(s []Step, pair float64) {
	var all, flights, strides []float64
	of := map[string][]float64{}
	for i, x := range s {
		if x.ToeOff != nil {
			t := *x.ToeOff - x.Contact
			all = append(all, t)
			of[x.Foot] = append(of[x.Foot], t)
			if i+1 < len(s) && s[i+1].Foot != x.Foot {
				flights = append(flights, s[i+1].Contact-*x.ToeOff)
			}
		}
		for _, y := range s[i+1:] {
			if y.Foot == x.Foot {
				strides = append(strides, y.Contact-x.Contact)
				break
			}
		}
	}
	if len(all) == 0 {
		return
	}
	c := span(all, pair)
	g.Contact = &c
	for foot, list := range of {
		g.ContactOf[foot] = span(list, pair)
	}
	if len(flights) > 0 {
		f := span(flights, pair)
		g.Flight = &f
		if f.Seconds <= 0 {
			g.Says = append(g.Says, "No flight between the steps: that is walking.")
		}
	}
	if len(strides) > 0 {
		g.Duty = c.Seconds / stats.Mean(strides)
	}
	l, r := g.ContactOf["left"], g.ContactOf["right"]
	if l.N > 0 && r.N > 0 {
		m := (l.Seconds + r.Seconds) / 2
		d := 100 * (l.Seconds - r.Seconds) / m
		g.Difference, g.DiffMargin = &d, 100*math.Hypot(l.Margin, r.Margin)/m
		if g.DiffMargin > 100*unsureShare {
			g.Says = append(g.Says, fmt.Sprintf("A difference between the sides under %.0f %% can't be seen in these frames; a faster camera or more steps would.", math.Ceil(g.DiffMargin)))
		}
	}
}

// span is the mean of times, each good to a frame's pair of edges, with the larger
// of that margin and the one of their scatter.
func span(v []float64, pair float64) Span {
	n := float64(len(v))
	s := Span{Seconds: stats.Mean(v), Margin: stats.Z95 * pair / math.Sqrt(n), N: len(v)}
	if len(v) >= 3 {
		if m, ok := stats.TMargin(v); ok {
			s.Margin = max(s.Margin, m)
		}
	}
	return s
}
