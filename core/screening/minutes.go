package screening

import (
	"math"

	"notchback/core/source"
)

// A whole screening takes 20 to 25 minutes, the quick one about 8 [02]; how much of it is
// talk is ours.
const (
	WholeMinutes     = 22.5
	TalkMinutes      = 5.0
	QuickMinutes     = 8.0
	QuickTalkMinutes = 2.0
)

// TimeSource tags how the time is shared among the tests.
var TimeSource = source.House("the minutes of a whole screening are shared among its tests: a look counts half, a measured trial of a side once, what is held four times")

// share is what part of the time a test takes, against the others.
func (t Test) share() float64 {
	sides := 1.0
	if t.Sided {
		sides = 2
	}
	switch t.Unit {
	case "class":
		return 0.5
	case "s":
		return 1 + 4*sides
	}
	return 1 + sides*float64(t.Trials)
}

// timed fills in about how long every test takes: the quick ones share the minutes of the
// quick screening, the others what is left of the whole one.
func timed(list []Test) []Test {
	sums := map[bool]float64{}
	for _, t := range list {
		sums[t.Quick] += t.share()
	}
	minutes := map[bool]float64{true: QuickMinutes - QuickTalkMinutes}
	minutes[false] = WholeMinutes - TalkMinutes - minutes[true]
	for i, t := range list {
		list[i].Seconds = int(math.Round(60 * minutes[t.Quick] * t.share() / sums[t.Quick]))
	}
	return list
}
