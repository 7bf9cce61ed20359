package words

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"notchback/core/transition"
)

func TestExposureWords(t *testing.T) {
	d := transition.Dose{Part: "half", LoadPercent: 50, Strides: 4, StrideMetres: 60}
	for want, x := range map[string]transition.Exposure{
		"60 min without shoes at home, in pieces":                             {Stage: transition.Home, Minutes: 60},
		"barefoot walk 15 min on smooth ground":                               {Stage: transition.Walk, Minutes: 15},
		"half of the session barefoot at 50 % of the usual load":              {Stage: transition.Strength, Dose: d},
		"minimal shoes: 5 min easy, then 4 × 60 m on grass":                   {Stage: transition.Drills, Minutes: 5, Dose: d},
		"first 8 min of the run in minimal shoes, the rest in the usual ones": {Stage: transition.Run, Minutes: 8},
		"first 5 min of the run with bare feet":                               {Stage: transition.Bare, Minutes: 5},
	} {
		assert.Equal(t, want, Exposure(x))
	}
	d.Part = "all"
	assert.Contains(t, Exposure(transition.Exposure{Stage: transition.Strength, Dose: d}), "the whole session")
}

func TestRampWeekWords(t *testing.T) {
	assert.Equal(t, "nothing", RampWeek(transition.Week{}))
	w := transition.Week{Dose: transition.Dose{HomeMinutes: 120, Walks: 2, WalkMinutes: 20, Part: "all", LoadPercent: 60, Strides: 6, StrideMetres: 80, WarmUp: 5, Runs: []int{8, 7}, BareRuns: []int{5}}}
	assert.Equal(t, "home 120 min a day, walks 1 × 20 min on 2 days, strength: all at 60 %, twice 5 min and 6 × 80 m, minimal 8 + 7 min, bare 5 min", RampWeek(w))
}
