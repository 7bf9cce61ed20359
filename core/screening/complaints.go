package screening

import (
	"slices"

	"notchback/core/body"
)

// Zone is a place on foot or leg a complaint can have.
type Zone string

// Zones lists every zone with its name in plain words, in the order of the map.
var Zones = []struct {
	ID   Zone
	Name string
}{
	{"heel", "heel underside"}, {"arch", "arch"}, {"ball", "ball of the foot"}, {"big-toe", "big-toe joint"}, {"toes", "lesser toes"},
	{"outer-foot", "outer midfoot"}, {"fifth-base", "base of the fifth metatarsal"}, {"navicular", "navicular, inner midfoot"}, {"achilles-low", "Achilles, at the heel bone"}, {"achilles-mid", "Achilles, middle"}, {"calf", "calf"},
	{"top-foot", "top of the foot"}, {"outer-shin", "outer shin"}, {"inner-shin", "inner shin border"}, {"front-shin", "front of the shin"},
	{"outer-ankle", "outer ankle"}, {"inner-ankle", "inner ankle"}, {"kneecap", "kneecap, front"}, {"thigh", "thigh"}, {"hip", "hip"}, {"groin", "groin"},
	{"other", "somewhere else"},
}

// BoneZones are zones in which a test ends at a pain over 3 already.
var BoneZones = []Zone{"ball", "outer-foot", "fifth-base", "navicular", "top-foot", "outer-shin", "inner-shin", "front-shin"}

// HurtsInBone reports whether a side has a complaint in a bone zone.
func HurtsInBone(list []Complaint, side body.Side) bool {
	return slices.ContainsFunc(list, func(c Complaint) bool {
		return slices.Contains(BoneZones, c.Zone) && (side == body.Both || c.Side == side)
	})
}

// Complaint is one place that hurts.
type Complaint struct {
	Zone       Zone       `json:"zone"`
	Side       body.Side  `json:"side" enum:"left,right"`
	SinceWeeks *int       `json:"sinceWeeks,omitempty" minimum:"0" maximum:"2000"`
	Now        *body.Pain `json:"now,omitempty" minimum:"0" maximum:"10"`
	FirstSteps *body.Pain `json:"firstSteps,omitempty" minimum:"0" maximum:"10"`
	Rest       *body.Pain `json:"rest,omitempty" minimum:"0" maximum:"10" doc:"Pain at rest"`
	Worst      *body.Pain `json:"worst,omitempty" minimum:"0" maximum:"10"`
	When       []string   `json:"when,omitempty" maxItems:"7" doc:"first steps, push-off, after sitting, whole run, only after, at rest, night"`
}

// Times are when a place can hurt.
var Times = []string{"first steps", "push-off", "after sitting", "whole run", "only after", "at rest", "night"}

// says reports whether the pain was said to come at a time.
func (c Complaint) says(time string) bool { return slices.Contains(c.When, time) }

// firstStepsFrom is the first-step pain from which a heel is one of the first steps.
const firstStepsFrom = 2

// AsksBone reports pain at night or at rest: the questions about bone are asked.
func (c Complaint) AsksBone() bool { return c.says("at rest") || c.says("night") }

// Pattern is a complaint in plain words. It is never a diagnosis.
type Pattern string

// The patterns.
const (
	HeelFirstSteps Pattern = "heel-first-steps"
	HeelOther      Pattern = "heel-other" // under the heel or in the arch, not on the first steps
	AchillesLoad   Pattern = "achilles-load"
	ShinLoad       Pattern = "shin-load"
	CalfTight      Pattern = "calf-tight"
	BigToeJoint    Pattern = "big-toe-joint"
	ForefootPain   Pattern = "forefoot"
	AnkleUnsteady  Pattern = "outer-ankle-unsteady"
	Kneecap        Pattern = "kneecap"
	NoPattern      Pattern = "none"
)

// patternNames are the patterns in plain words.
var patternNames = map[Pattern]string{
	HeelFirstSteps: "Heel sore on the first steps", HeelOther: "Heel sore, not on the first steps", AchillesLoad: "Achilles answers to load", ShinLoad: "Shin answers to load",
	CalfTight: "Calf tight", BigToeJoint: "Big-toe joint sore", ForefootPain: "Fore foot sore",
	AnkleUnsteady: "Outer ankle unsteady", Kneecap: "Front of the knee sore",
}

// Pattern returns the pattern of a complaint; NoPattern where none fits.
func (c Complaint) Pattern() Pattern {
	switch c.Zone {
	case "heel", "arch":
		if c.FirstSteps != nil && *c.FirstSteps < firstStepsFrom && !c.says("first steps") {
			return HeelOther
		}
		if c.FirstSteps == nil && !c.says("first steps") && len(c.When) > 0 {
			return HeelOther
		}
		return HeelFirstSteps
	case "achilles-low", "achilles-mid":
		return AchillesLoad
	case "outer-shin", "inner-shin", "front-shin":
		return ShinLoad
	case "calf":
		return CalfTight
	case "big-toe":
		return BigToeJoint
	case "ball", "toes", "outer-foot", "fifth-base", "top-foot":
		return ForefootPain
	case "outer-ankle":
		return AnkleUnsteady
	case "kneecap":
		return Kneecap
	}
	return NoPattern
}

// Height is the worst of a complaint's known readings, and whether any is known.
func (c Complaint) Height() (body.Pain, bool) {
	worst, known := 0, false
	for _, p := range []*body.Pain{c.Now, c.FirstSteps, c.Rest, c.Worst} {
		if p != nil {
			worst, known = max(worst, *p), true
		}
	}
	return worst, known
}

// Tissues returns the counted tissues of a zone; all four for a zone that
// can't be told.
func (z Zone) Name() string {
	for _, x := range Zones {
		if x.ID == z {
			return x.Name
		}
	}
	return ""
}

func (z Zone) Tissues() []body.Tissue {
	switch z {
	case "heel", "arch":
		return []body.Tissue{body.Sole}
	case "achilles-low", "achilles-mid", "calf":
		return []body.Tissue{body.Achilles}
	case "ball", "big-toe", "toes", "outer-foot", "fifth-base", "top-foot":
		return []body.Tissue{body.Forefoot, body.Sole}
	case "outer-shin", "front-shin":
		return []body.Tissue{body.Shin}
	case "inner-shin":
		return []body.Tissue{body.Shin, body.Forefoot, body.Achilles}
	}
	return []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}
}
