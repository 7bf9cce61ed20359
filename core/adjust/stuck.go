package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/stats"
)

// Stuck is the flag of a plan that does not help: progress waits for a
// clinician. FlareFlag stands while row 2 keeps a region stopped.
const (
	Stuck     safety.FlagID = "F-STUCK"
	FlareFlag safety.FlagID = "F-FLARE"
)

// Numbers of F-STUCK.
const (
	stuckWeeks            = 6
	stuckBetter           = 1.0
	stuckFrom   body.Pain = 3
	stuckFlares           = 42 // days between two flares
)

// StuckSource tags the numbers of F-STUCK.
var StuckSource = source.House("six weeks without one point less, rising while held, or a second flare in six weeks: somebody else should look")

// StuckWhy is why a plan counts as stuck.
type StuckWhy string

// The reasons.
const (
	StuckNoBetter  StuckWhy = "no-better"
	StuckRising    StuckWhy = "rising"
	StuckTwoFlares StuckWhy = "two-flares"
	StuckFlare     StuckWhy = "flare" // 14 days without three quiet mornings
)

// StuckInput is what F-STUCK is judged from.
type StuckInput struct {
	Today      day.Date
	BlockStart day.Date // when work on the complaint began
	Since      day.Date // when the complaint was first known; 0 takes the block's start
	Cleared    day.Date // the last clearance of this flag; 0 for none
	Complaints []screening.Complaint
	Mornings   []Morning
	Held       bool       // loading was held for the last 14 days
	Flares     []day.Date // when flares began
}

// IsStuck reports whether a plan does not help, and why. Missing readings never
// raise it and never lift it.
func IsStuck(in StuckInput) (StuckWhy, bool) {
	flares := slices.Clone(in.Flares)
	slices.Sort(flares)
	for i := 1; i < len(flares); i++ {
		if d := int(flares[i] - flares[i-1]); d > 0 && d <= stuckFlares && flares[i] <= in.Today && flares[i] > in.Cleared {
			return StuckTwoFlares, true
		}
	}
	worst, known := body.Pain(0), false
	for _, c := range in.Complaints {
		if h, ok := c.Height(); ok && h >= stuckFrom {
			worst, known = max(worst, h), true
		}
	}
	since := in.BlockStart
	if in.Since != 0 {
		since = in.Since
	}
	if since = max(since, in.Cleared); known && int(in.Today-since) >= 7*stuckWeeks {
		var week []float64
		for _, m := range in.Mornings {
			if m.On <= in.Today && int(in.Today-m.On) < baselineDays {
				week = append(week, float64(m.FirstStep))
			}
		}
		if med, ok := stats.Median(week); ok && med > float64(worst)-stuckBetter {
			return StuckNoBetter, true
		}
	}
	if in.Held {
		h := History{Mornings: in.Mornings}
		now, before := h.weekMedians(in.Today)
		_, earlier := h.weekMedians(in.Today - 7)
		if now != nil && before != nil && earlier != nil && *now > *before && *before > *earlier {
			return StuckRising, true
		}
	}
	return "", false
}
