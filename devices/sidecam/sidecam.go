// Package sidecam is a stand-in for a camera beside the track: it renders clips of
// an articulated figure whose gait is known to the last digit, seen from the side
// or from behind, with the truth beside them. It exists to try the clip desk, to
// test it, and to train an eye; no person is filmed.
package sidecam

import (
	"fmt"
	"image"
	"math"
)

// View is where a camera stands.
type View string

// The views.
const (
	FromSide   View = "side"
	FromBehind View = "behind"
)

// Film is how a clip is taken.
type Film struct {
	View    View    `json:"view"`
	Width   int     `json:"width"`
	Height  int     `json:"height"`
	FPS     float64 `json:"fps"`
	Frames  int     `json:"frames"`
	From    float64 `json:"fromSeconds,omitempty" doc:"How much later than usual it begins"`
	Samples int     `json:"-"` // per pixel and axis
	Noise   float64 `json:"-"` // 8-bit levels
}

// looks are what the figures wear.
var looks = []Look{
	{Skin: vec3{0.56, 0.30, 0.19}, Shirt: vec3{0.05, 0.22, 0.52}, Shorts: vec3{0.028, 0.03, 0.04}, Shoe: vec3{0.70, 0.16, 0.04}, Sole: vec3{0.80, 0.80, 0.78}, Hair: vec3{0.06, 0.035, 0.02}},
	{Skin: vec3{0.66, 0.40, 0.28}, Shirt: vec3{0.60, 0.08, 0.07}, Shorts: vec3{0.04, 0.05, 0.10}, Shoe: vec3{0.10, 0.45, 0.12}, Sole: vec3{0.75, 0.75, 0.72}, Hair: vec3{0.12, 0.07, 0.03}},
	{Skin: vec3{0.20, 0.10, 0.06}, Shirt: vec3{0.62, 0.62, 0.12}, Shorts: vec3{0.03, 0.03, 0.03}, Shoe: vec3{0.70, 0.70, 0.70}, Sole: vec3{0.15, 0.5, 0.7}, Hair: vec3{0.015, 0.012, 0.01}},
}

// Distances of the camera, in m, and the body's share of the picture's height.
const (
	cameraAway   = 5.0
	cameraHeight = 1.0
	bodyShare    = 0.74
)

func (f Film) camera(r Runner) camera {
	c := camera{W: f.Width, H: f.Height, Y: cameraHeight, D: cameraAway}
	c.F = bodyShare * float64(f.Height) / r.Height * cameraAway
	return c
}

// turned is the body seen from behind: the runner's right is the picture's right.
func turned(v vec3) vec3 { return vec3{v.Z, v.Y, -v.X} }

func turn(gs []group) []group {
	for i := range gs {
		for j := range gs[i].prims {
			q := &gs[i].prims[j]
			for _, v := range []*vec3{&q.a, &q.b, &q.ax, &q.ay, &q.az, &q.bc} {
				*v = turned(*v)
			}
		}
	}
	return gs
}

// phase of a time: the right foot's contacts are at whole numbers.
func (r Runner) phase(f Film, t float64) float64 { return (f.From+t)/r.Stride() + start }

// start is the phase of the first frame: in the flight before a right contact.
const start = -0.06

// Picture renders one frame; the runner stays in the middle, as on a belt.
func (r Runner) Picture(f Film, i int) *image.RGBA {
	gs := buildBody(r.At(r.phase(f, float64(i)/f.FPS), 0), r.Height)
	s := &scene{cam: f.camera(r), lk: r.Look, sun: vec3{0.45, 0.75, 0.55}.Norm(), behind: f.View == FromBehind}
	if s.behind {
		gs = turn(gs)
		s.sun = vec3{0.4, 0.8, 0.45}.Norm()
	}
	s.gs = bound(gs)
	s.air = s.around()
	return s.render(max(1, f.Samples), f.Noise, uint64(i)+1)
}

// Spot is a place in a picture, px.
type Spot struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Frame is what is true of one frame.
type Frame struct {
	Time   float64            `json:"t"`
	Places map[string]Spot    `json:"places" doc:"By side and place: right-knee, left-heel, …"`
	Angles map[string]float64 `json:"angles" doc:"Degrees: shin, knee, foot by side; trunk"`
}

// Event is a moment of a foot, s.
type Event struct {
	Foot    string  `json:"foot"`
	Contact float64 `json:"contact"`
	ToeOff  float64 `json:"toeOff"`
}

// Truth is what is known of a clip.
type Truth struct {
	Runner  Runner  `json:"runner"`
	Film    Film    `json:"film"`
	Events  []Event `json:"events" doc:"All within the clip, in order of contact"`
	Frames  []Frame `json:"frames"`
	PxPerCm float64 `json:"pxPerCm" doc:"In the plane of the runner's middle"`
	Floor   [2]Spot `json:"floor"`
}

// markers are the places of a pose by name.
func markers(o Pose) map[string]vec3 {
	out := map[string]vec3{}
	for name, side := range map[string]struct {
		l Leg
		a Arm
	}{"right": {o.R, o.RA}, "left": {o.L, o.LA}} {
		out[name+"-hip"], out[name+"-knee"], out[name+"-ankle"] = side.l.Hip, side.l.Knee, side.l.Ankle
		out[name+"-heel"], out[name+"-toe"] = side.l.Heel, side.l.Toe
		out[name+"-sole-heel"], out[name+"-sole-toe"] = side.l.soleHeel, side.l.soleToe
		out[name+"-shoulder"] = side.a.Shoulder
	}
	return out
}

// Truth returns what is true of a film of a runner.
func (r Runner) Truth(f Film) Truth {
	c := f.camera(r)
	t := Truth{Runner: r, Film: f, Events: []Event{}, Frames: []Frame{}, PxPerCm: c.F / c.D / 100}
	for i := range f.Frames {
		at := float64(i) / f.FPS
		o := r.At(r.phase(f, at), 0)
		fr := Frame{Time: at, Places: map[string]Spot{}, Angles: map[string]float64{"trunk": r.Lean}}
		for name, v := range markers(o) {
			if f.View == FromBehind {
				v = turned(v)
			}
			x, y := c.proj(v)
			fr.Places[name] = Spot{math.Round(x*100) / 100, math.Round(y*100) / 100}
		}
		for name, l := range map[string]Leg{"right": o.R, "left": o.L} {
			// Positive shin: the knee ahead of the ankle.
			fr.Angles[name+"-shin"] = -deg(l.Shank)
			fr.Angles[name+"-knee"] = deg(l.KneeFlex)
			fr.Angles[name+"-foot"] = deg(l.Foot)
		}
		t.Frames = append(t.Frames, fr)
	}
	end := float64(f.Frames-1) / f.FPS
	for n := -1; ; n++ {
		at := (float64(n)/2-start)*r.Stride() - f.From
		if at > end {
			break
		}
		foot, side := "right", r.Right
		if n%2 != 0 {
			foot, side = "left", r.Left
		}
		if at >= 0 {
			t.Events = append(t.Events, Event{foot, at, at + side.Contact})
		}
	}
	x0, y0 := c.proj(vec3{-0.8, 0, 0.088})
	x1, y1 := c.proj(vec3{0.8, 0, 0.088})
	t.Floor = [2]Spot{{x0, y0}, {x1, y1}}
	return t
}

// Demo is one of the six clips that ship with the program.
type Demo struct {
	ID     string
	Name   string
	Runner Runner
	Film   Film
}

// Demos are the six clips.
func Demos() []Demo {
	film := Film{View: FromSide, Width: 640, Height: 360, FPS: 60, Frames: 150, Samples: 2, Noise: 1.2}
	behind := film
	behind.View = FromBehind
	of := func(look int, change func(*Runner)) Runner {
		r := Usual()
		r.Look = looks[look]
		change(&r)
		return r
	}
	both := func(r *Runner, change func(*Side)) { change(&r.Right); change(&r.Left) }
	return []Demo{
		{"rear", "Lands on the heel", of(0, func(*Runner) {}), film},
		{"mid", "Lands on the whole foot", of(1, func(r *Runner) {
			r.Cadence = 176
			both(r, func(s *Side) { s.Strike, s.Contact, s.Reach = 3, 0.238, 0.150 })
		}), film},
		{"fore", "Lands on the ball", of(2, func(r *Runner) {
			r.Cadence = 182
			both(r, func(s *Side) { s.Strike, s.Contact, s.Reach = -8, 0.216, 0.138 })
		}), film},
		{"reach", "Reaches out, slow steps", of(1, func(r *Runner) {
			r.Cadence, r.Bounce, r.Lean = 156, 9.5, 4
			both(r, func(s *Side) { s.Strike, s.Contact, s.Reach = 17, 0.276, 0.186 })
		}), film},
		{"crossing", "Crosses the line, from behind", of(0, func(r *Runner) {
			both(r, func(s *Side) { s.Crossing = 2 })
		}), behind},
		{"uneven", "Left and right differ", of(2, func(r *Runner) {
			r.Left.Contact, r.Left.Strike, r.Right.Contact = 0.272, 5, 0.240
		}), film},
	}
}

// Find returns one of the six clips.
func Find(id string) (Demo, error) {
	for _, d := range Demos() {
		if d.ID == id {
			return d, nil
		}
	}
	return Demo{}, fmt.Errorf("%q is not one of the demo clips", id)
}
