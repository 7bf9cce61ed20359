package activity

import (
	"math"
	"time"

	"notchback/core/day"
	"notchback/core/source"
)

// Span is when an outing was and how long it is. Start is nil where only its day is known.
type Span struct {
	On      day.Date
	Start   *time.Time
	Metres  int
	Seconds int
}

// How near two outings are to be one (house: two devices of one run, started by hand).
const (
	sameStart   = 3 * time.Minute // between two starts
	sameShare   = 0.03            // of the distance, where a start is not known
	sameShifted = 0.005           // of length and time, by a clock that is off
	mostShift   = 14 * time.Hour
	shiftBy     = 15 * time.Minute // zones go by quarters of an hour
)

// SameSource tags these numbers.
var SameSource = source.House("two devices of one run start within minutes and agree on its length; a clock that is off is off by quarters of an hour")

func near(a, b int, share float64) bool {
	return math.Abs(float64(a-b)) <= share*float64(max(a, b))
}

// Same reports whether two outings are one: their starts are near, or their times overlap
// for the most part of the shorter; where a start is not known, the day and the distance
// agree.
func Same(a, b Span) bool {
	if a.Start == nil || b.Start == nil {
		return a.On == b.On && near(a.Metres, b.Metres, sameShare)
	}
	d := b.Start.Sub(*a.Start)
	if d.Abs() <= sameStart {
		return true
	}
	first, second := a, b
	if d < 0 {
		first, second = b, a
	}
	over := min(time.Duration(first.Seconds)*time.Second-d.Abs(), time.Duration(second.Seconds)*time.Second)
	return over > time.Duration(min(a.Seconds, b.Seconds))*time.Second/2
}

// Shifted reports whether two outings look like one by a clock that is off, by quarters of
// an hour up to fourteen hours, and by how much.
func Shifted(a, b Span) (time.Duration, bool) {
	if a.Start == nil || b.Start == nil {
		return 0, false
	}
	d := a.Start.Sub(*b.Start).Abs()
	if d > mostShift || (d+sameStart/3)%shiftBy > 2*sameStart/3 || !near(a.Metres, b.Metres, sameShifted) || !near(a.Seconds, b.Seconds, sameShifted) {
		return 0, false
	}
	return d.Round(shiftBy), true
}
