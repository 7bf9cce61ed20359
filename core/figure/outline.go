package figure

import (
	"math"
	"slices"
	"strconv"
	"strings"
)

const degree = math.Pi / 180

// outline is the shape of a part in its own frame: its joint at 0, 0. A round one is a
// smooth line through its points, a sharp one goes straight from one to the next.
type outline struct {
	pts    []Point
	sharp  bool
	open   bool    // a line, not a face
	stroke float64 // how wide a line is, in units
}

// limb is a part along y, from its joint at 0 to long: at each share of its length how
// far it goes to the front (+x) and to the back.
func limb(long float64, profile ...[3]float64) outline {
	var front, back []Point
	for _, p := range profile {
		front = append(front, Point{p[1], p[0] * long})
		back = append(back, Point{-p[2], p[0] * long})
	}
	slices.Reverse(back)
	return outline{pts: append(front, back...)}
}

func oval(x, y, rx, ry float64) outline {
	var pts []Point
	for i := range 8 {
		a := float64(i) * math.Pi / 4
		pts = append(pts, Point{x + rx*math.Cos(a), y + ry*math.Sin(a)})
	}
	return outline{pts: pts}
}

func box(x0, y0, x1, y1 float64) outline {
	return outline{sharp: true, pts: []Point{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}}}
}

func stroke(width float64, pts ...Point) outline {
	return outline{pts: pts, sharp: true, open: true, stroke: width}
}

// Lengths of the body's parts, in units.
const (
	thighLong, shinLong = 21.0, 21.0
	trunkLong           = 25.0
	upperArm, foreArm   = 12.5, 12.0
	handLong            = 3.0 // from the wrist to where it holds
	heelBack, ballAhead = 4.2, 8.2
	toesLong            = 4.2
	ankleHigh           = 3.4
	seatHigh            = 23.0
	farShift            = 2.2
	footLong, footToes  = 40.0, 15.0
	footAnkle           = 18.0 // of the foot's own view: the ankle over the sole
	reach               = 0.02 // of a limb that is out straight
)

// outlines are all parts there are.
var outlines = map[string]outline{
	// The body from the side, facing right.
	"head":  {pts: []Point{{-0.6, -5.2}, {-3.3, -6.6}, {-4.6, -9.6}, {-4.1, -13}, {-1.2, -15.2}, {2.2, -15}, {4.5, -12.6}, {4.9, -10.2}, {5.6, -8.8}, {4.6, -7.6}, {4.2, -5.6}, {1.6, -5.2}}},
	"neck":  {pts: []Point{{-2, 1}, {-2.1, -3}, {-1.6, -7}, {1.6, -7}, {1.7, -3}, {2.2, 1}}},
	"trunk": {pts: []Point{{0.2, 3.4}, {-3.4, 3}, {-5.4, 0.4}, {-5, -4}, {-3.4, -8.5}, {-3.7, -14}, {-4.4, -19}, {-3.5, -24.2}, {-0.6, -26.4}, {2.4, -25}, {4, -20.5}, {4.2, -16}, {3.4, -9.5}, {3.9, -3.5}, {3.8, 1.4}}},
	"thigh": limb(thighLong, [3]float64{-0.1, 2.6, 2.6}, [3]float64{0.03, 4.1, 4.5}, [3]float64{0.25, 4.5, 4.4}, [3]float64{0.6, 3.5, 3.3}, [3]float64{0.9, 2.7, 2.5}, [3]float64{1, 2.6, 2.3}, [3]float64{1.07, 1.4, 1.3}),
	"shin":  limb(shinLong, [3]float64{-0.07, 1.4, 1.3}, [3]float64{0, 2.5, 2.3}, [3]float64{0.12, 2.1, 2.8}, [3]float64{0.32, 1.9, 3.6}, [3]float64{0.55, 1.6, 2.6}, [3]float64{0.8, 1.4, 1.5}, [3]float64{0.97, 1.5, 1.5}, [3]float64{1.04, 1, 1}),
	"foot":  {pts: []Point{{-1.6, -1.6}, {-2.6, -0.2}, {-4.1, 1.2}, {-4.6, 2.6}, {-3.9, 3.4}, {-1.6, 3.4}, {1.5, 2.9}, {4.6, 3}, {6.9, 3.4}, {8.8, 3.4}, {9.1, 2.4}, {7.6, 1.3}, {5, 0.5}, {2.6, -0.7}, {1.5, -1.6}}},
	"toe":   {pts: []Point{{-0.8, -1.2}, {-0.9, 0.3}, {1.2, 0.6}, {3.4, 0.5}, {4.2, -0.1}, {3.9, -0.9}, {2, -1.2}}},
	"arm":   limb(upperArm, [3]float64{-0.13, 1.2, 1.2}, [3]float64{0, 2.2, 2.2}, [3]float64{0.3, 2, 2}, [3]float64{0.7, 1.6, 1.7}, [3]float64{1, 1.5, 1.6}, [3]float64{1.09, 0.8, 0.9}),
	"fore":  limb(foreArm, [3]float64{-0.1, 0.8, 0.9}, [3]float64{0, 1.6, 1.6}, [3]float64{0.3, 1.7, 1.6}, [3]float64{0.8, 1.1, 1.1}, [3]float64{1.02, 1, 1}, [3]float64{1.12, 1.3, 1.1}, [3]float64{1.28, 1.2, 1}, [3]float64{1.4, 0.6, 0.5}),
	// What works, each in the frame of the limb it is on.
	"work-calf":      {pts: []Point{{-0.4, 0.8}, {-2.3, 1.6}, {-3.2, 4.6}, {-3.4, 7}, {-2.7, 10.4}, {-1.3, 14}, {-0.8, 10}, {-0.9, 5}}},
	"work-shin":      {pts: []Point{{0.9, 2}, {1.9, 3}, {1.8, 7}, {1.4, 12}, {0.9, 15.5}, {0.4, 11}, {0.4, 6}}},
	"work-thigh":     {pts: []Point{{1.4, 2}, {3.7, 3}, {4, 6.5}, {3, 12.5}, {2, 17.5}, {1.1, 14}, {0.9, 8}}},
	"work-hamstring": {pts: []Point{{-1.2, 3}, {-3.9, 4}, {-3.9, 7}, {-2.8, 12.5}, {-1.8, 17}, {-0.9, 13}, {-0.8, 8}}},
	"work-seat":      {pts: []Point{{-1.2, 2.4}, {-3.4, 2.2}, {-4.7, 0.2}, {-4.3, -3.4}, {-2.6, -3.2}, {-1.4, -0.6}}},
	"work-sole":      {pts: []Point{{-3.4, 2.2}, {-3.2, 3.2}, {-1, 3.2}, {2, 2.7}, {5, 2.8}, {8, 3.2}, {8.2, 2.3}, {5, 1.6}, {1.6, 1.7}, {-1.2, 2.2}}},
	"work-ankle":     oval(-0.3, 0.2, 1.5, 1.7),
	"work-front":     {pts: []Point{{0.3, -1.4}, {1.4, -1.2}, {3.2, 0.2}, {4.6, 1}, {3.6, 1.5}, {1.6, 0.6}}},
	"work-arm":       {pts: []Point{{0.6, 1.5}, {1.8, 2.4}, {1.6, 6.5}, {1, 10}, {0.3, 7}, {0.3, 4}}},
	// One foot from its inner side, toes to the right, the ball at 0, 0.
	"side-foot":  {pts: []Point{{0, 0.3}, {-9, 0.2}, {-20, 0.1}, {-30, 0.2}, {-37, 0.4}, {-42.6, -1.6}, {-44.4, -7}, {-42.4, -14}, {-40, -20}, {-38.6, -26}, {-24.6, -26.4}, {-22, -21.5}, {-15, -15.6}, {-7, -11}, {0, -7.8}, {4, -5.6}, {4.6, -2.4}, {3, -0.2}}},
	"side-shin":  {pts: []Point{{-6, 4}, {-6.4, -6}, {-7.6, -16}, {-10.6, -28}, {-11.2, -37}, {-9.4, -42.4}, {0, -43.6}, {7, -42.4}, {8.2, -34}, {7.2, -20}, {6.4, -8}, {6.6, 4}, {0, 6}}},
	"side-calf":  {pts: []Point{{-5.9, -12}, {-7.4, -18}, {-10, -28}, {-10.4, -36}, {-6.6, -38}, {-3.2, -32}, {-3.6, -22}}},
	"side-front": {pts: []Point{{3, -2}, {6, -4}, {7, -18}, {7.6, -32}, {4.6, -34}, {3, -20}}},
	"side-toe":   {pts: []Point{{-2.6, -5.4}, {-3.4, -1}, {0, 0.4}, {6, 0.5}, {11.5, 0.6}, {15, -1}, {14.6, -4}, {11, -5.4}, {6, -4.7}, {2, -5.8}}},
	"side-small": {pts: []Point{{-1, -4}, {-1.4, 0}, {5, 0.3}, {9.6, 0.2}, {11.8, -1.4}, {10.6, -3.6}, {5, -4.4}}},
	"side-nail":  {pts: []Point{{10.6, -5}, {13, -4.6}, {14.2, -3}, {12.6, -3.2}}},
	"side-arch":  {pts: []Point{{-33, 0.12}, {-27, -0.55}, {-19, -1}, {-11, -0.6}, {-4.5, 0.12}, {-18, 0.1}}},
	"side-work":  {pts: []Point{{-35, 0.04}, {-28, -1.1}, {-19, -1.65}, {-10, -1.15}, {-2.5, 0.04}, {-18, 0.02}}},
	"side-ankle": oval(-31, -15.5, 4.4, 4.8),
	// One foot from above, the right one: toes up the page, the big toe at the left.
	"top-foot":    {pts: []Point{{-13.6, 2}, {-14.6, 11}, {-12.4, 22}, {-10.6, 34}, {-9.8, 44}, {-6, 51.4}, {0, 53}, {6, 51}, {9.4, 44}, {10.6, 33}, {13, 22}, {14.8, 11}, {12.4, 5.4}, {6, 1.6}, {-2, -0.4}, {-9, -0.4}}},
	"top-ankle":   {pts: []Point{{-7, 36}, {-7.6, 44}, {-4, 49.6}, {4, 49.6}, {7.4, 44}, {6.8, 36}, {0, 33}}},
	"top-big":     {pts: []Point{{-4, 4}, {-4.2, -5}, {-4.8, -12}, {-3.4, -17.4}, {0.2, -18.6}, {3.6, -16.8}, {4.4, -11}, {3.6, -4}, {3.8, 4}, {0, 5.6}}},
	"top-toe":     {pts: []Point{{-2.6, 3}, {-2.2, -3}, {-2.8, -9}, {-2.2, -13}, {0, -14.4}, {2.2, -13}, {2.8, -9}, {2.2, -3}, {2.6, 3}, {0, 4.4}}},
	"top-nail":    {pts: []Point{{-1.4, -10.6}, {-1.5, -12.4}, {0, -13.2}, {1.5, -12.4}, {1.4, -10.6}, {0, -10.2}}},
	"top-bignail": {pts: []Point{{-2.5, -13.6}, {-2.6, -16}, {0, -17.2}, {2.6, -16}, {2.5, -13.6}, {0, -13}}},
	"top-work":    {pts: []Point{{-9, 12}, {-7.6, 24}, {-5.6, 36}, {-1.6, 38}, {-1.6, 24}, {-2.6, 12}, {-6, 9}}},
	// The lower legs from behind: the knee's hollow at the top, the ankle at 0, 0.
	"back-shin":   {pts: []Point{{-4.6, 2.4}, {-4.4, -5}, {-6.6, -15}, {-9.4, -26}, {-8.8, -36}, {-7.4, -43}, {-7.8, -49}, {0, -50}, {7.6, -49}, {7.2, -43}, {8.6, -35}, {8.8, -26}, {6.4, -14}, {4.2, -5}, {4.6, 2.4}, {0, 4}}},
	"back-calf":   {pts: []Point{{-0.5, -15}, {-5.6, -20}, {-7.6, -28}, {-6.6, -36}, {-1.2, -38}, {0, -30}, {1.2, -38}, {6.2, -36}, {7, -28}, {5.2, -20}, {0.5, -15}}},
	"back-shadow": {pts: []Point{{-1.2, 0}, {-1, -8}, {-2, -14}, {0, -12}, {2, -14}, {1, -8}, {1.2, 0}}},
	"back-foot":   {pts: []Point{{-4.2, -3}, {-5, 3}, {-5.8, 8.6}, {-4.6, 12}, {0, 12.6}, {4.6, 12}, {5.8, 8.6}, {5, 3}, {4.2, -3}, {0, -4.6}}},
	"back-fore":   {pts: []Point{{-8, 8.4}, {-8.6, 11.4}, {-6, 12.6}, {6.6, 12.6}, {10.4, 11.6}, {9.8, 8.8}, {4, 6.2}, {-4, 6}}},
	// Marks.
	"press": {sharp: true, pts: []Point{{-0.35, 0.9}, {-0.35, 2.6}, {-1.5, 2.6}, {0, 4.6}, {1.5, 2.6}, {0.35, 2.6}, {0.35, 0.9}, {0.9, 0.5}, {1.1, 0}, {0.9, -0.7}, {0, -1.1}, {-0.9, -0.7}, {-1.1, 0}, {-0.9, 0.5}}},
	"arrow": {sharp: true, pts: []Point{{0, -0.7}, {7, -0.7}, {7, -2.4}, {11, 0}, {7, 2.4}, {7, 0.7}, {0, 0.7}}},
	"floor": stroke(0.9, Point{0, 0}, Point{1, 0}),
	// Things, each one unit or of its own size, around 0, 0.
	"line":     stroke(1.3, Point{0, 0}, Point{1, 0}),
	"thick":    stroke(2.2, Point{0, 0}, Point{1, 0}),
	"thin":     stroke(0.7, Point{0, 0}, Point{1, 0}),
	"disc":     oval(0, 0, 1, 1),
	"square":   box(0, 0, 1, 1),
	"triangle": {sharp: true, pts: []Point{{-5, 6}, {5, 6}, {0, -7}}},
	"towel":    {pts: []Point{{-1, 0.5}, {-0.9, -0.4}, {-0.4, -0.7}, {0.4, -0.7}, {0.9, -0.4}, {1, 0.5}}},
	"fingers":  {pts: []Point{{-2.2, -9}, {-2.4, -4}, {-1, -0.6}, {0.6, 0.8}, {3.2, 1}, {3.4, -0.6}, {1.4, -1.6}, {1.4, -4.4}, {1.6, -9}, {0, -10}}},
	"cap":      {pts: []Point{{-5, 0.4}, {-4.6, -3}, {-1.6, -5.2}, {2, -4.9}, {4.2, -2.6}, {4.6, -0.8}, {9.8, 0.1}, {9.6, 0.9}, {3, 0.8}}},
}

// Outline is a part's shape: points x, y one after the other. A round one begins with a
// point and goes on in curves of two controls and an end each; a sharp one goes straight.
// A line has a width, in units, and no face.
type Outline struct {
	Points []float64 `json:"points"`
	Round  bool      `json:"round,omitempty"`
	Width  float64   `json:"width,omitempty"`
}

// Outlines are all parts by name.
func Outlines() map[string]Outline {
	out := map[string]Outline{}
	for name, o := range outlines {
		x := Outline{Round: !o.sharp, Width: o.stroke}
		for _, p := range o.curve() {
			x.Points = append(x.Points, hundredth(p[0]), hundredth(p[1]))
		}
		out[name] = x
	}
	return out
}

func num(v float64) string { return strconv.FormatFloat(tenth(v), 'f', -1, 64) }

// curve is the line through the points of an outline, with its controls where it is
// round.
func (o outline) curve() []Point {
	if o.sharp {
		return o.pts
	}
	n := len(o.pts)
	at := func(i int) Point { return o.pts[(i+n)%n] }
	out := []Point{o.pts[0]}
	for i := range n {
		before, from, to, after := at(i-1), at(i), at(i+1), at(i+2)
		out = append(out, Point{from[0] + (to[0]-before[0])/6, from[1] + (to[1]-before[1])/6},
			Point{to[0] - (after[0]-from[0])/6, to[1] - (after[1]-from[1])/6}, to)
	}
	return out
}

// Path is a part where it lies, as SVG path data.
func (p Part) Path() string {
	o := outlines[p.Part]
	var b strings.Builder
	for i, q := range p.lay(o.curve()) {
		switch {
		case i == 0:
			b.WriteByte('M')
		case o.sharp:
			b.WriteByte('L')
		case i%3 == 1:
			b.WriteByte('C')
		default:
			b.WriteByte(' ')
		}
		b.WriteString(num(q[0]) + " " + num(q[1]))
	}
	if !o.open {
		b.WriteByte('Z')
	}
	return b.String()
}

// Curve is a part where it lies: its points, with controls where it is round.
func (p Part) Curve() (pts []Point, round, open bool) {
	o := outlines[p.Part]
	return p.lay(o.curve()), !o.sharp, o.open
}

// lay puts points of the part's own frame where the part lies.
func (p Part) lay(pts []Point) []Point {
	out := make([]Point, len(pts))
	for i, q := range pts {
		out[i] = along(Point{p.X, p.Y}, p.Turn, q[0]*p.Wide, q[1]*p.High)
	}
	return out
}

// LineWidth is how wide the part's line is drawn, in units; 0 for a face.
func (p Part) LineWidth() float64 { return outlines[p.Part].stroke }

// places are the points of a part where it lies, without controls.
func (p Part) places() []Point { return p.lay(outlines[p.Part].pts) }
