// Package figure draws the small pictures of exercises from joint angles and
// props. It knows three views: the body from the side, one foot from the side,
// and the toes from above. A picture is a list of strokes in a box of 100 × 100
// units, x to the right and y down, that a screen or a printer can draw alike.
package figure

import (
	"errors"
	"fmt"
	"math"
	"slices"
)

// Size is the width and height of the box a picture is drawn in.
const Size = 100.0

// ground is the height of the floor in the box, measured from the top.
const ground = 94.0

// Kind says how a stroke is drawn.
type Kind string

// The kinds of strokes.
const (
	Near  Kind = "near"  // the body and the limbs nearer to the eye
	Far   Kind = "far"   // the limbs behind
	Thing Kind = "thing" // a prop
	Floor Kind = "floor"
	Mark  Kind = "mark" // an arrow, or the sign of a lifted toe
)

// Point is a place in the box: x, y.
type Point = [2]float64

// Stroke is a line through points, or a circle when Radius is above 0 and
// Points holds its middle.
type Stroke struct {
	Kind   Kind    `json:"kind" enum:"near,far,thing,floor,mark"`
	Points []Point `json:"points" nullable:"false"`
	Radius float64 `json:"radius,omitempty"`
	Closed bool    `json:"closed,omitempty"`
}

// Prop is a thing in the picture. At names a joint it hangs on.
type Prop struct {
	Kind string  `yaml:"kind"`
	At   string  `yaml:"at"`
	To   string  `yaml:"to"`
	DX   float64 `yaml:"dx"`
	DY   float64 `yaml:"dy"`
	Size float64 `yaml:"size"`
}

// Pose is one position: a view, joint angles in degrees and props. Like names a
// pose it changes.
//
// Body angles: trunk leans forward (+) or back (−); hip and shoulder bend
// forward (+); knee and elbow bend (+); ankle lifts the toes (+) or points them
// (−), and stays flat on the floor when left out; toes lift (+). A name with
// "far" in front turns the limb behind, which else follows the near one.
// Foot angles: shin leans forward (+); heel is how far the foot stands on its
// ball; big and small lift the toes (+) or curl them (−); arch goes from 0 to 1.
// Toes: big and small are 1 for lifted, −1 for pressed; spread and curl go from
// 0 to 1.
type Pose struct {
	View   string             `yaml:"view"`
	Like   string             `yaml:"like"`
	Rest   string             `yaml:"rest"` // feet (default), seat, floor
	Props  []Prop             `yaml:"props"`
	Angles map[string]float64 `yaml:",inline"`
}

var known = map[string][]string{
	"body": {"trunk", "hip", "knee", "ankle", "toes", "farHip", "farKnee", "farAnkle", "farToes", "shoulder", "elbow", "farShoulder", "farElbow", "neck", "lift"},
	"foot": {"shin", "heel", "big", "small", "arch", "lift", "roll"},
	"toes": {"big", "small", "spread", "curl", "press"},
}

// things are the props that can be drawn.
var things = []string{"wall", "step", "chair", "table", "ball", "roller", "towel", "strap", "band", "weight", "block", "mat", "card", "pencil", "line", "beat", "cap", "arrow", "hand", "bone"}

// Resolve returns a pose with everything it is like filled in.
func Resolve(name string, all map[string]Pose) (Pose, error) { return resolve(name, all, 0) }

func resolve(name string, all map[string]Pose, depth int) (Pose, error) {
	p, ok := all[name]
	if !ok {
		return p, fmt.Errorf("pose %q is not known", name)
	}
	if depth > 8 {
		return p, fmt.Errorf("pose %q is like itself", name)
	}
	if p.Like != "" {
		base, err := resolve(p.Like, all, depth+1)
		if err != nil {
			return p, err
		}
		merged := map[string]float64{}
		for k, v := range base.Angles {
			merged[k] = v
		}
		for k, v := range p.Angles {
			merged[k] = v
		}
		p.Angles = merged
		if p.View == "" {
			p.View = base.View
		}
		if p.Rest == "" {
			p.Rest = base.Rest
		}
		if p.Props == nil {
			p.Props = base.Props
		}
	}
	if p.View == "" {
		p.View = "body"
	}
	return p, p.check(name)
}

func (p Pose) check(name string) error {
	names, ok := known[p.View]
	if !ok {
		return fmt.Errorf("pose %q: view %q is not known", name, p.View)
	}
	for k := range p.Angles {
		if !slices.Contains(names, k) {
			return fmt.Errorf("pose %q: %q is not an angle of the %s view", name, k, p.View)
		}
	}
	for _, t := range p.Props {
		if !slices.Contains(things, t.Kind) {
			return fmt.Errorf("pose %q: prop %q is not known", name, t.Kind)
		}
	}
	if !slices.Contains([]string{"", "feet", "seat", "floor"}, p.Rest) {
		return fmt.Errorf("pose %q: rest %q is not known", name, p.Rest)
	}
	return nil
}

// ErrTooWide is returned for a picture that does not fit the box.
var ErrTooWide = errors.New("the picture does not fit its box")

// Draw returns the strokes of a resolved pose, floor first. The error names a
// joint that a prop hangs on and the view does not have, or ErrTooWide.
func Draw(p Pose) ([]Stroke, error) {
	var d drawing
	switch p.View {
	case "foot":
		d = foot(p)
	case "toes":
		d = toes(p)
	default:
		d = person(p)
	}
	for _, t := range p.Props {
		if err := d.prop(t); err != nil {
			return nil, err
		}
	}
	return d.fit(p.View != "toes")
}

type drawing struct {
	strokes []Stroke
	joints  map[string]Point
	ground  float64
}

func (d *drawing) line(k Kind, pts ...Point) {
	d.strokes = append(d.strokes, Stroke{Kind: k, Points: pts})
}

func (d *drawing) shape(k Kind, pts ...Point) {
	d.strokes = append(d.strokes, Stroke{Kind: k, Points: pts, Closed: true})
}

func (d *drawing) circle(k Kind, at Point, r float64) {
	d.strokes = append(d.strokes, Stroke{Kind: k, Points: []Point{at}, Radius: r})
}

// Lengths of the body's parts in units of the box.
const (
	shinLong, thighLong, trunkLong  = 21.0, 21.0, 25.0
	neckLong, headRound             = 4.0, 5.0
	upperArm, foreArm               = 13.0, 13.0
	heelBack, ballAhead, toesLong   = 4.0, 8.0, 4.0
	ankleHigh                       = 3.0
	seatHigh                        = 24.0
	farShift                        = 2.5
	degree                          = math.Pi / 180
	footLong, footToes, instepHigh  = 40.0, 15.0, 15.0
	footShin                        = 38.0
	pressTick, liftTick, toeSpacing = 5.0, 6.0, 7.0
)

// way returns a step of the given length at an angle from straight down,
// forward positive.
func way(from Point, angle, length float64) Point {
	return Point{from[0] + length*math.Sin(angle*degree), from[1] + length*math.Cos(angle*degree)}
}

type leg struct{ knee, ankle, heel, ball, tip Point }

func (p Pose) angle(far bool, name, farName string) (float64, bool) {
	if far {
		if v, ok := p.Angles[farName]; ok {
			return v, true
		}
	}
	v, ok := p.Angles[name]
	return v, ok
}

func (p Pose) leg(pelvis Point, far bool) leg {
	hip, _ := p.angle(far, "hip", "farHip")
	knee, _ := p.angle(far, "knee", "farKnee")
	thigh := hip - p.Angles["trunk"]
	shin := thigh - knee
	var l leg
	l.knee = way(pelvis, thigh, thighLong)
	l.ankle = way(l.knee, shin, shinLong)
	// A foot without an ankle angle lies flat: as if the ankle gave what the shin takes.
	flat := -shin
	if a, ok := p.angle(far, "ankle", "farAnkle"); ok {
		flat = a
	}
	up := shin + flat // the foot's angle over the horizontal
	dir := func(a, n float64, from Point) Point {
		return Point{from[0] + n*math.Cos(a*degree), from[1] - n*math.Sin(a*degree)}
	}
	sole := dir(up-90, ankleHigh, l.ankle)
	l.heel = dir(up+180, heelBack, sole)
	l.ball = dir(up, ballAhead, sole)
	toes := max(0, up) // toes lie on the floor, or follow a foot that points up
	if t, ok := p.angle(far, "toes", "farToes"); ok {
		toes = up + t
	}
	l.tip = dir(toes, toesLong, l.ball)
	return l
}

func (d *drawing) drawLeg(k Kind, pelvis Point, l leg) {
	d.line(k, pelvis, l.knee, l.ankle, l.heel, l.ball, l.tip)
	d.line(k, l.ankle, l.ball)
}

func person(p Pose) drawing {
	d := drawing{joints: map[string]Point{}}
	pelvis := Point{0, 0}
	trunk := p.Angles["trunk"]
	neckAt := Point{trunkLong * math.Sin(trunk*degree), -trunkLong * math.Cos(trunk*degree)}
	nod := trunk + p.Angles["neck"]
	head := Point{neckAt[0] + (neckLong+headRound)*math.Sin(nod*degree), neckAt[1] - (neckLong+headRound)*math.Cos(nod*degree)}
	near, far := p.leg(pelvis, false), p.leg(Point{-farShift, 0}, true)
	arm := func(isFar bool) (Point, Point) {
		s, _ := p.angle(isFar, "shoulder", "farShoulder")
		e, _ := p.angle(isFar, "elbow", "farElbow")
		elbow := way(neckAt, s-trunk, upperArm)
		return elbow, way(elbow, s-trunk+e, foreArm)
	}
	elbow, hand := arm(false)
	farElbow, farHand := arm(true)
	d.line(Far, neckAt, farElbow, farHand)
	d.drawLeg(Far, Point{-farShift, 0}, far)
	d.line(Near, pelvis, neckAt)
	d.circle(Near, head, headRound)
	d.drawLeg(Near, pelvis, near)
	d.line(Near, neckAt, elbow, hand)
	d.joints = map[string]Point{
		"pelvis": pelvis, "shoulder": neckAt, "head": head, "hand": hand, "elbow": elbow, "farHand": farHand,
		"knee": near.knee, "ankle": near.ankle, "heel": near.heel, "ball": near.ball, "toe": near.tip,
		"farKnee": far.knee, "farAnkle": far.ankle, "farHeel": far.heel, "farBall": far.ball, "farToe": far.tip,
		"calf": {(near.knee[0] + near.ankle[0]) / 2, (near.knee[1] + near.ankle[1]) / 2}, "thigh": {near.knee[0] / 2, near.knee[1] / 2},
	}
	low := math.Inf(-1)
	for _, s := range d.strokes {
		for _, q := range s.Points {
			low = max(low, q[1]+s.Radius)
		}
	}
	d.ground = low + p.Angles["lift"]
	if p.Rest == "seat" {
		d.ground = seatHigh
		chair := Prop{Kind: "chair", At: "pelvis"}
		_ = d.prop(chair) // the pelvis is always there
	}
	return d
}

func foot(p Pose) drawing {
	d := drawing{joints: map[string]Point{}, ground: p.Angles["lift"]}
	h := p.Angles["heel"]
	ball := Point{0, 0}
	at := func(back, up float64) Point { // along the foot from the ball, rotated by the heel's height
		c, s := math.Cos(h*degree), math.Sin(h*degree)
		return Point{-back*c + up*s, -back*s - up*c}
	}
	heel, back := at(footLong, 0), at(footLong+3, 7)
	ankle := at(footLong-8, instepHigh+3)
	arch := 2 + 7*p.Angles["arch"]
	var sole []Point
	for i := 0; i <= 8; i++ {
		t := float64(i) / 8
		sole = append(sole, at(footLong*(1-t), arch*math.Sin(math.Pi*t)))
	}
	instep := at(8, 8)
	lean := p.Angles["shin"]
	knee := Point{ankle[0] + footShin*math.Sin(lean*degree), ankle[1] - footShin*math.Cos(lean*degree)}
	d.line(Near, sole...)
	d.line(Near, heel, back, ankle, instep, ball)
	d.line(Near, ankle, knee)
	tip := func(a float64) Point {
		return Point{ball[0] + footToes*math.Cos(a*degree), ball[1] - footToes*math.Sin(a*degree)}
	}
	big, small := tip(p.Angles["big"]), tip(p.Angles["small"])
	d.line(Near, ball, big)
	d.line(Far, Point{ball[0] - 1, ball[1] - 2}, Point{small[0] - 1, small[1] - 2})
	d.joints = map[string]Point{"ball": ball, "heel": heel, "ankle": ankle, "toe": big, "small": small, "knee": knee, "arch": at(footLong/2, arch), "instep": instep, "calf": {(ankle[0] + knee[0]) / 2, (ankle[1] + knee[1]) / 2}, "outer": at(footLong/2, 0)}
	return d
}

func toes(p Pose) drawing {
	d := drawing{joints: map[string]Point{}}
	// The left foot from above, toes up the page, big toe at the right.
	outline := []Point{{-13, 0}, {-12, 22}, {-9, 42}, {0, 48}, {8, 42}, {10, 22}, {14, 0}}
	d.line(Near, outline...)
	spread, curl := p.Angles["spread"], p.Angles["curl"]
	for i := range 5 {
		f := float64(i) // 0 big toe … 4 little toe
		base := Point{11 - f*6, -1 + f*0.8}
		if i == 4 {
			base[1] += 2
		}
		length := []float64{18, 15, 13, 11, 9}[i] * (1 - 0.5*curl)
		angle := (1.2 - f) * 9 * spread
		tip := Point{base[0] + length*math.Sin(angle*degree), base[1] - length*math.Cos(angle*degree)}
		state := p.Angles["small"]
		if i == 0 {
			state = p.Angles["big"]
		}
		side := Point{2.4, 0}
		if i == 0 {
			side[0] = 3.6
		}
		toe := []Point{{base[0] - side[0], base[1]}, {tip[0] - side[0]*0.9, tip[1] + 2}, {tip[0], tip[1]}, {tip[0] + side[0]*0.9, tip[1] + 2}, {base[0] + side[0], base[1]}}
		switch {
		case state > 0:
			d.line(Far, toe...)
			top := Point{tip[0], tip[1] - 4}
			d.line(Mark, Point{top[0] - 2.5, top[1]}, Point{top[0], top[1] - liftTick + 3}, Point{top[0] + 2.5, top[1]})
		case state < 0:
			d.line(Near, toe...)
			d.circle(Mark, Point{tip[0], tip[1] + 5}, 1.4)
		default:
			d.line(Near, toe...)
		}
		d.joints[[]string{"toe", "second", "third", "fourth", "little"}[i]] = tip
	}
	d.joints["ball"], d.joints["heel"], d.joints["arch"], d.joints["outer"] = Point{8, 2}, Point{0, 44}, Point{6, 22}, Point{-12, 22}
	return d
}

func (d *drawing) prop(t Prop) error {
	at, ok := d.joints[t.At]
	if t.At == "" {
		at, ok = Point{0, 0}, true
	}
	if !ok {
		return fmt.Errorf("%s hangs on %q, which this view does not have", t.Kind, t.At)
	}
	at = Point{at[0] + t.DX, at[1] + t.DY}
	size := t.Size
	or := func(v float64) float64 {
		if size > 0 {
			return size
		}
		return v
	}
	switch t.Kind {
	case "wall":
		d.line(Thing, Point{at[0] + 1.5, at[1] - or(26)}, Point{at[0] + 1.5, d.ground})
	case "step":
		w := or(22)
		d.shape(Thing, Point{at[0] - 3, at[1] + 0.8}, Point{at[0] - 3 + w, at[1] + 0.8}, Point{at[0] - 3 + w, d.ground}, Point{at[0] - 3, d.ground})
	case "chair":
		y := at[1] + 1.5
		d.line(Thing, Point{at[0] - 9, y - 16}, Point{at[0] - 9, y}, Point{at[0] + 8, y})
		d.line(Thing, Point{at[0] - 9, y}, Point{at[0] - 9, d.ground})
		d.line(Thing, Point{at[0] + 8, y}, Point{at[0] + 8, d.ground})
	case "table":
		y := at[1] + 1.5
		d.line(Thing, Point{at[0] - 4, y}, Point{at[0] + 14, y})
		d.line(Thing, Point{at[0] + 11, y}, Point{at[0] + 11, d.ground})
	case "ball":
		d.circle(Thing, at, or(3.5))
	case "roller":
		d.circle(Thing, at, or(5))
		d.circle(Thing, at, or(5)/2)
	case "towel":
		d.strokes = append(d.strokes, Stroke{Kind: Thing, Points: []Point{{at[0] - or(6), at[1] + 1.5}, {at[0] - or(6) + 2, at[1] - 1}, {at[0] + or(6) - 2, at[1] - 1}, {at[0] + or(6), at[1] + 1.5}}, Closed: true})
	case "strap", "band":
		to, ok := d.joints[t.To]
		if !ok {
			return fmt.Errorf("%s goes to %q, which this view does not have", t.Kind, t.To)
		}
		d.line(Thing, at, to)
		if t.Kind == "band" {
			d.circle(Thing, at, 1.6)
		}
	case "weight":
		s := or(4)
		d.shape(Thing, Point{at[0] - s, at[1] - s*0.7}, Point{at[0] + s, at[1] - s*0.7}, Point{at[0] + s, at[1] + s*0.7}, Point{at[0] - s, at[1] + s*0.7})
	case "block":
		w := or(7)
		d.shape(Thing, Point{at[0] - w, at[1] + 0.8}, Point{at[0] + w, at[1] + 0.8}, Point{at[0] + w, max(d.ground, at[1]+4)}, Point{at[0] - w, max(d.ground, at[1]+4)})
	case "mat":
		d.line(Thing, Point{at[0] - or(36), d.ground + 1.6}, Point{at[0] + or(36), d.ground + 1.6})
	case "card":
		d.line(Thing, Point{at[0] - 4, at[1] + 1.4}, Point{at[0] + or(9), at[1] + 1.4})
	case "pencil":
		d.line(Thing, Point{at[0], at[1] - or(6)}, Point{at[0], at[1] + or(6)})
	case "line":
		d.line(Thing, Point{at[0] - or(34), d.ground + 2.4}, Point{at[0] + or(34), d.ground + 2.4})
	case "beat":
		d.shape(Thing, Point{at[0] - 5, at[1] + 6}, Point{at[0] + 5, at[1] + 6}, Point{at[0], at[1] - 7})
		d.line(Thing, Point{at[0], at[1] + 5}, Point{at[0] + 5, at[1] - 6})
	case "cap":
		d.line(Thing, Point{at[0] - 5, at[1] - 2}, Point{at[0] + or(10), at[1] - 2})
	case "hand":
		d.line(Thing, Point{at[0] - 2, at[1] - 9}, Point{at[0], at[1]}, Point{at[0] + 3, at[1] + 1})
	case "bone":
		d.line(Thing, Point{at[0] - 3, at[1] - 3}, Point{at[0] + 3, at[1] + 3})
	case "arrow":
		a := t.Size // its direction over the horizontal, in degrees
		end := Point{at[0] + 9*math.Cos(a*degree), at[1] - 9*math.Sin(a*degree)}
		wing := func(turn float64) Point {
			return Point{end[0] + 3*math.Cos((a+turn)*degree), end[1] - 3*math.Sin((a+turn)*degree)}
		}
		d.line(Mark, at, end)
		d.line(Mark, wing(145), end, wing(-145))
	}
	return nil
}

// fit moves the picture so that it stands on the floor in the middle of its
// box, making it smaller only where it must.
func (d *drawing) fit(floor bool) ([]Stroke, error) {
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, s := range d.strokes {
		for _, p := range s.Points {
			for i := range 2 {
				lo[i], hi[i] = min(lo[i], p[i]-s.Radius), max(hi[i], p[i]+s.Radius)
			}
		}
	}
	const edge = 4.0
	if floor {
		hi[1] = max(hi[1], d.ground)
	}
	scale := min(1.0, (Size-2*edge)/(hi[0]-lo[0]), (ground-edge)/(hi[1]-lo[1]))
	if scale < 0.5 {
		return nil, ErrTooWide
	}
	mid := (lo[0] + hi[0]) / 2
	base, drop := d.ground, ground
	if !floor {
		base, drop = (lo[1]+hi[1])/2, Size/2
	} else if over := (hi[1] - d.ground) * scale; over > Size-ground-1 {
		drop -= over - (Size - ground - 1)
	}
	out := []Stroke{}
	if floor {
		out = append(out, Stroke{Kind: Floor, Points: []Point{{edge, drop}, {Size - edge, drop}}})
	}
	round := func(v float64) float64 { return math.Round(v*10) / 10 }
	for _, s := range d.strokes {
		t := Stroke{Kind: s.Kind, Radius: round(s.Radius * scale), Closed: s.Closed}
		for _, p := range s.Points {
			t.Points = append(t.Points, Point{round(Size/2 + (p[0]-mid)*scale), round(drop + (p[1]-base)*scale)})
		}
		out = append(out, t)
	}
	return out, nil
}
