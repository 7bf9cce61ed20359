// Package figure draws exercises and tests as bodies: from joint angles, things and
// what works, as filled parts that a screen or a printer can draw alike. It knows four
// views: the body from the side, one foot from its inner side, one foot from above, and
// the lower legs from behind. A picture stands in a box of 100 × 100 units, x to the
// right and y down; a unit is about 2 cm of a body, 0.5 cm of a foot.
//
// A part has one outline that never changes ([Outlines]); a picture only says where it
// lies. So the same pose can be drawn, moved between its ends, and printed.
package figure

import (
	"errors"
	"fmt"
	"maps"
	"slices"
)

// Size is the width and height of the box a picture is drawn in.
const Size = 100.0

// Ground is the height of the floor in the box, measured from the top.
const Ground = 93.0

// Kind says how a part is drawn.
type Kind string

// The kinds of parts.
const (
	Near  Kind = "near"  // the body and the limbs nearer to the eye
	Far   Kind = "far"   // the limbs behind
	Work  Kind = "work"  // what works
	Press Kind = "press" // where weight or a push goes
	Ghost Kind = "ghost" // where the movement starts
	Thing Kind = "thing" // something used
	Floor Kind = "floor"
	Mark  Kind = "mark"  // an arrow
	Light Kind = "light" // a nail, the hollow under an arch
)

// Point is a place in the box: x, y.
type Point = [2]float64

// Part is one outline where it lies: moved to At, turned clockwise by Turn degrees and
// stretched by Wide and High along its own axes.
type Part struct {
	Kind Kind    `json:"kind" enum:"near,far,work,press,ghost,thing,floor,mark,light"`
	Part string  `json:"part" doc:"Which outline"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	Turn float64 `json:"turn,omitempty"`
	Wide float64 `json:"wide" doc:"1 is the outline as it is"`
	High float64 `json:"high"`
}

// Prop is a thing in the picture. At names a joint it hangs on, To the joint a strap
// goes to; dx and dy move it, in units.
type Prop struct {
	Kind string  `yaml:"kind" json:"kind"`
	At   string  `yaml:"at" json:"at,omitempty"`
	To   string  `yaml:"to" json:"to,omitempty"`
	DX   float64 `yaml:"dx" json:"dx,omitempty"`
	DY   float64 `yaml:"dy" json:"dy,omitempty"`
	Size float64 `yaml:"size" json:"size,omitempty"`
}

// Pose is one position: a view, joint angles in degrees, things, what works and where
// it presses. Like names a pose it changes. The names of angles are [Angles].
type Pose struct {
	View    string             `yaml:"view" json:"view"`
	Like    string             `yaml:"like" json:"like,omitempty"`
	Rest    string             `yaml:"rest" json:"rest,omitempty"`       // feet (default), seat, floor
	Hold    string             `yaml:"hold" json:"hold,omitempty"`       // the joint the near hand holds
	FarHold string             `yaml:"farHold" json:"farHold,omitempty"` // and the far one
	Works   []string           `yaml:"works" json:"works,omitempty"`
	Press   []string           `yaml:"press" json:"press,omitempty"`
	Props   []Prop             `yaml:"props" json:"props,omitempty"`
	Angles  map[string]float64 `yaml:",inline" json:"angles"`
}

// Range is what an angle may be, and what it is.
type Range struct {
	Name     string  `json:"name"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Unit     string  `json:"unit" doc:"degrees, units of the box, or a share from 0 to 1"`
	Says     string  `json:"says"`
	Optional bool    `json:"optional,omitempty" doc:"Left out it follows: a flat foot, the other limb"`
}

const (
	degrees = "degrees"
	units   = "units"
	share   = "share"
)

// Angles are the angles of each view: a body's in a wide human range (house; the
// drawing shows end ranges of untrained people at most), the foot's and the toes' too.
var Angles = map[string][]Range{
	"body": {
		{"trunk", -120, 100, degrees, "leans forward, or back below 0", false},
		{"hip", -45, 150, degrees, "bends forward, or goes back below 0", false},
		{"knee", -5, 160, degrees, "bends", false},
		{"ankle", -80, 45, degrees, "lifts the foot, or points it below 0", true},
		{"toes", -45, 95, degrees, "lift", true},
		{"open", 0, 1, share, "the near knee falls out to the side, so that the leg looks shorter", false},
		{"farHip", -45, 150, degrees, "the other hip", true},
		{"farKnee", -5, 160, degrees, "the other knee", true},
		{"farAnkle", -80, 45, degrees, "the other ankle", true},
		{"farToes", -45, 95, degrees, "the other toes", true},
		{"shoulder", -70, 190, degrees, "lifts the arm forward", false},
		{"elbow", -5, 160, degrees, "bends", false},
		{"farShoulder", -70, 190, degrees, "the other shoulder", true},
		{"farElbow", -5, 160, degrees, "the other elbow", true},
		{"neck", -45, 45, degrees, "nods forward", false},
		{"lift", 0, 30, units, "how high the standing foot is over the floor", false},
	},
	"foot": {
		{"shin", -25, 45, degrees, "leans forward", false},
		{"heel", 0, 60, degrees, "how far the foot stands on its ball", false},
		{"big", -50, 90, degrees, "lifts the big toe, or bends it down below 0", false},
		{"small", -50, 90, degrees, "lifts the other toes, or bends them down below 0", false},
		{"arch", 0, 1, share, "how high the arch is", false},
		{"lift", 0, 30, units, "how high the foot is over the floor", false},
		{"pitch", -45, 45, degrees, "lifts the front of a foot that is off the floor", false},
	},
	"toes": {
		{"big", -1, 1, share, "1 lifted, −1 pressed down", false},
		{"small", -1, 1, share, "the other toes: 1 lifted, −1 pressed down", false},
		{"spread", -1, 1, share, "toes apart", false},
		{"curl", 0, 1, share, "toes bent", false},
		{"turn", -45, 45, degrees, "the front of the foot goes out, or in below 0", false},
		{"drift", 0, 1, share, "the big toe leans to the others", false},
	},
	"legs": {
		{"roll", -30, 30, degrees, "feet on their outer edge, or on the inner one below 0", false},
		{"rise", 0, 50, degrees, "how high the heels are", false},
		{"farRoll", -30, 30, degrees, "the other foot", true},
		{"farRise", 0, 50, degrees, "the other heel", true},
		{"farLift", 0, 30, units, "how high the other foot is", false},
		{"apart", 2, 40, units, "between the middles of the feet", false},
		{"out", -30, 30, degrees, "knees out, or in below 0", false},
	},
}

// Working are the regions that can be shown at work.
var Working = []string{"sole", "toes", "big-toe", "small-toes", "ankle", "front-ankle", "calf", "shin", "thigh", "hamstring", "seat", "arm"}

// Things are what can stand in a picture.
var Things = []string{"wall", "step", "chair", "table", "ball", "roller", "towel", "strap", "band", "weight", "block", "mat", "card", "pencil", "line", "beat", "cap", "arrow", "hand", "tape", "bucket"}

var rests = []string{"", "feet", "seat", "floor"}

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
		merged := maps.Clone(base.Angles)
		if merged == nil {
			merged = map[string]float64{}
		}
		maps.Copy(merged, p.Angles)
		p.Angles = merged
		inherit(&p, base)
	}
	if p.View == "" {
		p.View = "body"
	}
	return p, p.Check(name)
}

// inherit takes over what p says nothing about.
func inherit(p *Pose, base Pose) {
	for _, f := range []struct{ to, from *string }{{&p.View, &base.View}, {&p.Rest, &base.Rest}, {&p.Hold, &base.Hold}, {&p.FarHold, &base.FarHold}} {
		if *f.to == "" {
			*f.to = *f.from
		}
	}
	if p.Props == nil {
		p.Props = base.Props
	}
	if p.Works == nil {
		p.Works = base.Works
	}
	if p.Press == nil {
		p.Press = base.Press
	}
}

// Check refuses what no body can do or the drawing does not know, with the pose and
// what is wrong named.
func (p Pose) Check(name string) error {
	ranges, ok := Angles[p.View]
	if !ok {
		return fmt.Errorf("pose %q: view %q is not known", name, p.View)
	}
	for _, k := range slices.Sorted(maps.Keys(p.Angles)) {
		i := slices.IndexFunc(ranges, func(r Range) bool { return r.Name == k })
		if i < 0 {
			return fmt.Errorf("pose %q: %q is not an angle of the %s view", name, k, p.View)
		}
		if r, v := ranges[i], p.Angles[k]; !(v >= r.Low && v <= r.High) {
			return fmt.Errorf("pose %q: %s goes from %g to %g (it says %g)", name, k, r.Low, r.High, v)
		}
	}
	arrows := 0
	for _, t := range p.Props {
		if !slices.Contains(Things, t.Kind) {
			return fmt.Errorf("pose %q: prop %q is not known", name, t.Kind)
		}
		if t.Kind == "arrow" {
			arrows++
		}
	}
	if arrows > 1 {
		return fmt.Errorf("pose %q: one arrow at most (it has %d)", name, arrows)
	}
	for _, w := range p.Works {
		if !slices.Contains(Working, w) {
			return fmt.Errorf("pose %q: %q can't be shown at work", name, w)
		}
	}
	if !slices.Contains(rests, p.Rest) {
		return fmt.Errorf("pose %q: rest %q is not known", name, p.Rest)
	}
	return nil
}

// Errors of a pose that is well written and can't be drawn; each comes with more.
var (
	ErrTooWide = errors.New("the picture does not fit its box")
	ErrFloor   = errors.New("a foot can't reach its floor")
	ErrHold    = errors.New("a hand can't reach its hold")
	ErrJoint   = errors.New("this view has no such joint")
)
