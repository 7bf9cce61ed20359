package activity

import (
	"math"

	"notchback/core/day"
	"notchback/core/source"
	"notchback/core/stats"
)

// Reading is what a device measured on a run.
type Reading struct {
	On    day.Date `json:"on" format:"date"`
	Value float64  `json:"value"`
}

// Trend is how the newest readings of a device stand against those before them.
type Trend struct {
	Now      float64 `json:"now" doc:"Mean of the newest readings"`
	NowN     int     `json:"nowN"`
	Before   float64 `json:"before" doc:"Mean of those before them"`
	BeforeN  int     `json:"beforeN"`
	Change   float64 `json:"change"`
	Smallest float64 `json:"smallest" doc:"The smallest change that is more than noise, with 95 %"`
	Real     bool    `json:"real"`
}

// How many readings are compared (house): the newest six with up to twelve before them,
// six at the least.
const (
	newest      = 6
	beforeMost  = 12
	beforeLeast = 6
)

// TrendSource tags the smallest real change.
var TrendSource = source.Published("Hopkins WG 2000, Sports Med 30:1: typical error from the differences of neighbours; the counts of runs are ours")

// TrendOf compares readings of one device, oldest first; false where there are too few.
// Noise is the typical error from run to run: the standard deviation of the differences
// of neighbours over √2. Two means differ for real where they lie further apart than
// 1.96 · noise · √(1/n + 1/m).
func TrendOf(list []Reading) (Trend, bool) {
	if len(list) < newest+beforeLeast {
		return Trend{}, false
	}
	now := list[len(list)-newest:]
	before := list[max(0, len(list)-newest-beforeMost) : len(list)-newest]
	used := list[max(0, len(list)-newest-beforeMost):]
	var steps []float64
	for i := 1; i < len(used); i++ {
		steps = append(steps, used[i].Value-used[i-1].Value)
	}
	values := func(l []Reading) []float64 {
		out := make([]float64, len(l))
		for i, r := range l {
			out[i] = r.Value
		}
		return out
	}
	t := Trend{Now: stats.Mean(values(now)), NowN: len(now), Before: stats.Mean(values(before)), BeforeN: len(before)}
	t.Change = t.Now - t.Before
	t.Smallest = stats.Z95 * stats.SD(steps) / math.Sqrt2 * math.Sqrt(1/float64(t.NowN)+1/float64(t.BeforeN))
	t.Real = math.Abs(t.Change) > t.Smallest
	return t, true
}
