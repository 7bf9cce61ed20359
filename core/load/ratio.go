// Package load turns runs and exercises into load: weekly volume and how it
// compares with the weeks before, tissue dose, and the limits each keeps to.
package load

import "notchback/core/source"

// Class is what a week or a single run is against what came before.
type Class string

// The classes, from less to more. Unknown has no history to stand on; Return
// follows four or more weeks without a run.
const (
	Down    Class = "down"
	Steady  Class = "steady"
	Rise    Class = "rise"
	Spike   Class = "spike"
	Unknown Class = "unknown"
	Return  Class = "return"
)

// Limits of the week ratio in per cent of the mean of the four weeks before.
const (
	downBelow = 80
	steadyTo  = 110
	riseTo    = 130
)

// Small volumes have limits in metres instead, house: a per cent of little is
// less than one run.
const (
	smallMean      = 8000
	smallSteadyBy  = 2000
	smallRiseBy    = 4000
	historyWeeks   = 4
	longestDays    = 30
	longSteadyTo   = 110
	longSpikeTo    = 130
	longSpikeFloor = 1000
)

// SteersDays is how many days back runs steer what is allowed: the four weeks before this
// one, and the thirty days before a run of it.
const SteersDays = 7*(historyWeeks+1) + 7

// RatioSource is where the limits of the week ratio come from.
var (
	RatioSource   = source.Published("Gabbett TJ 2016, Br J Sports Med 50:273; disputed: Impellizzeri FM et al. 2020")
	LongestSource = source.Published("Brandt Frandsen JS et al. 2025, Br J Sports Med; the 1 km floor is ours")
)

// WeekRatio is a week's metres against the weeks before it.
type WeekRatio struct {
	Metres     int     `json:"metres"`
	MeanMetres float64 `json:"meanMetres" doc:"Of the four complete weeks before; 0 when not known"`
	Class      Class   `json:"class" enum:"down,steady,rise,spike,unknown,return"`
	SteadyTo   int     `json:"steadyToMetres" doc:"The most that is still steady; 0 when not known"`
}

// Ratio returns the week's metres over the mean; 0 when there is none.
func (w WeekRatio) Ratio() float64 {
	if w.MeanMetres == 0 {
		return 0
	}
	return float64(w.Metres) / w.MeanMetres
}

// CompareWeek classes a week's metres against those of the four complete weeks
// before it that count, oldest first: race, half and ill weeks do not. Without
// any it is Unknown. Whole metres are compared by cross-multiplying, so that
// 33 km against a mean of 30 is steady to the metre. A mean of nothing is the
// way back to running.
func CompareWeek(metres int, before []int) WeekRatio {
	w := WeekRatio{Metres: metres, Class: Unknown}
	if len(before) == 0 {
		return w
	}
	before = before[max(0, len(before)-historyWeeks):]
	n, sum := len(before), 0
	for _, m := range before {
		sum += m
	}
	w.MeanMetres = float64(sum) / float64(n)
	if sum == 0 {
		w.Class = Return
		return w
	}
	times := n * metres
	small := sum < n*smallMean
	if small {
		w.SteadyTo = (sum + n*smallSteadyBy) / n
	} else {
		w.SteadyTo = sum * steadyTo / (100 * n)
	}
	switch {
	case 100*times < downBelow*sum:
		w.Class = Down
	case small && times <= sum+n*smallSteadyBy, !small && 100*times <= steadyTo*sum:
		w.Class = Steady
	case small && times <= sum+n*smallRiseBy, !small && 100*times <= riseTo*sum:
		w.Class = Rise
	default:
		w.Class = Spike
	}
	return w
}

// CompareRun classes a run's metres against the longest run of the 30 days
// before it; longest is 0 where there was none. Steady up to 110 %, a spike
// beyond it where it is also more than 1 km longer, and always beyond 130 %.
func CompareRun(metres, longest int) Class {
	switch {
	case longest <= 0:
		return Unknown
	case 100*metres > longSpikeTo*longest, 100*metres > longSteadyTo*longest && metres-longest > longSpikeFloor:
		return Spike
	}
	return Steady
}

// worst orders classes by caution.
var worst = map[Class]int{Down: 0, Steady: 0, Rise: 2, Unknown: 2, Return: 3, Spike: 4}

// Worse returns the more cautious of two classes.
func Worse(a, b Class) Class {
	if worst[b] > worst[a] {
		return b
	}
	return a
}

// What may be done beyond a ramp's plan before it counts as over its line.
const (
	homeOverShare   = 3 // a third of the planned minutes at home
	walkOverMinutes = 5 // minutes a week from the walks on
)

// ExposureSource is where those numbers are from.
var ExposureSource = source.House("more than the ramp planned for the week: at home by a third, out of doors by 5 min")

// ExposureOver reports whether a week's minutes of exposure are over the line its
// plan draws. Without a ramp there is no line.
func ExposureOver(minutes, planned int, home bool) bool { return minutes > ExposureTo(planned, home) }

// ExposureTo returns the most minutes of a week with so many planned.
func ExposureTo(planned int, home bool) int {
	if home {
		return planned + planned/homeOverShare
	}
	return planned + walkOverMinutes
}
