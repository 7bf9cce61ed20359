// Package body names the parts of a person that the rules speak of: sides,
// zones, tissues, pain and the runner's profile.
package body

import "notchback/core/day"

// Side is one side of the runner's own body, or both at once.
type Side string

// The sides. Both is used for exercises done on two legs at the same time.
const (
	Left  Side = "left"
	Right Side = "right"
	Both  Side = "both"
)

// Sides lists the two single sides in the order they are always shown.
var Sides = [2]Side{Left, Right}

// Other returns the opposite side; Both stays Both.
func (s Side) Other() Side {
	switch s {
	case Left:
		return Right
	case Right:
		return Left
	}
	return s
}

// Pain is a whole number on the 0–10 numeric rating scale.
type Pain = int

// PainMax is the top of the scale.
const PainMax Pain = 10

// Tissue is one of the four tissues whose load is counted.
type Tissue string

// The tissues.
const (
	Achilles Tissue = "achilles-calf"
	Sole     Tissue = "sole"
	Forefoot Tissue = "forefoot-bone"
	Shin     Tissue = "front-shin"
)

// Tissues are all of them, in the order they are shown.
var Tissues = []Tissue{Achilles, Sole, Forefoot, Shin}

// Name returns the tissue in plain words.
func (t Tissue) Name() string {
	switch t {
	case Achilles:
		return "Achilles and calf"
	case Sole:
		return "sole"
	case Forefoot:
		return "forefoot bone"
	default:
		return "front of the shin"
	}
}

// Person is what the rules need to know about a runner on a given day.
// A nil pointer means not known; the rules then take the cautious reading.
type Person struct {
	Birth               *day.Date `json:"birth,omitempty" doc:"Date of birth"`
	Sex                 string    `json:"sex,omitempty" enum:"female,male,other," doc:"For norms only"`
	MassKg              *float64  `json:"massKg,omitempty" minimum:"15" maximum:"250"`
	FirstStructuredWork *bool     `json:"firstStructuredWork,omitempty" doc:"Never did structured strength work before"`
	RecentVolumeRise    *bool     `json:"recentVolumeRise,omitempty" doc:"Running volume rose by more than 10 % in the last two weeks"`
}

// AgeOn returns the age in whole years on a date, and whether it is known.
func (p Person) AgeOn(d day.Date) (int, bool) {
	if p.Birth == nil {
		return 0, false
	}
	return day.Age(*p.Birth, d), true
}
