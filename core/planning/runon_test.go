package planning

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"notchback/core/day"
	"notchback/core/load"
)

func TestWhatAnAdviceLeavesOfARun(t *testing.T) {
	monday := day.Make(2026, time.May, 4)
	w := Week{Runs: [7]RunKind{NoRun, Easy, NoRun, Fast, NoRun, Easy, Long}}
	tuesday, thursday, saturday := monday+1, monday+3, monday+5
	ran := []load.Run{{On: tuesday}}
	for name, k := range map[string]struct {
		on, today day.Date
		a         load.Advice
		runs      []load.Run
		emergency bool
		kind      RunKind
		less      Less
	}{
		"as planned":                        {on: thursday, today: monday, a: load.Advice{ID: load.AsPlanned}, kind: Fast},
		"no running":                        {on: thursday, today: monday, a: load.Advice{ID: load.NoRunning}, kind: NoRun, less: LessForAdvice},
		"no running takes no day off":       {on: monday, today: monday, a: load.Advice{ID: load.NoRunning}, kind: NoRun},
		"yesterday is as it was":            {on: tuesday, today: tuesday + 1, a: load.Advice{ID: load.NoRunning}, kind: Easy},
		"an emergency":                      {on: saturday, today: monday, a: load.Advice{ID: load.AsPlanned}, emergency: true, kind: NoRun, less: LessForCare},
		"the next is skipped":               {on: tuesday, today: tuesday, a: load.Advice{ID: load.SkipNext}, kind: NoRun, less: LessForAdvice},
		"the one after it is not":           {on: thursday, today: tuesday, a: load.Advice{ID: load.SkipNext}, kind: Fast},
		"one that was run is not the next":  {on: tuesday, today: tuesday, a: load.Advice{ID: load.SkipNext}, runs: ran, kind: Easy},
		"then the next is the one after it": {on: thursday, today: tuesday, a: load.Advice{ID: load.SkipNext}, runs: ran, kind: NoRun, less: LessForAdvice},
		"nothing fast":                      {on: thursday, today: monday, a: load.Advice{ID: load.Easier, NoFast: true}, kind: Easy, less: LessFast},
		"nothing fast leaves a long one":    {on: monday + 6, today: monday, a: load.Advice{ID: load.Easier, NoFast: true}, kind: Long},
		"in a week it is another advice":    {on: thursday + 7, today: thursday, a: load.Advice{ID: load.Easier, NoFast: true}, kind: Fast},
	} {
		kind, less := w.RunOn(k.on, k.today, k.a, k.runs, k.emergency, WayToRun{})
		assert.Equal(t, k.kind, kind, name)
		assert.Equal(t, k.less, less, name)
	}
	none := Week{}
	kind, less := none.RunOn(tuesday, monday, load.Advice{ID: load.SkipNext}, nil, false, WayToRun{})
	assert.Equal(t, NoRun, kind)
	assert.Empty(t, less, "nothing planned, nothing taken")
}

// The way back stands instead of every run; four weeks after it nothing is fast.
func TestTheWayBackStandsInsteadOfRuns(t *testing.T) {
	w := Week{Runs: [7]RunKind{Easy, Fast, Long}}
	monday := day.Make(2026, time.May, 4)
	kind, less := w.RunOn(monday, monday, load.Advice{}, nil, false, WayToRun{Stands: true})
	assert.Equal(t, NoRun, kind)
	assert.Equal(t, LessReturn, less)
	kind, less = w.RunOn(monday+1, monday, load.Advice{}, nil, false, WayToRun{NoFastTo: monday + 2})
	assert.Equal(t, Easy, kind)
	assert.Equal(t, LessAfter, less)
	kind, less = w.RunOn(monday+8, monday, load.Advice{}, nil, false, WayToRun{NoFastTo: monday + 2})
	assert.Equal(t, Fast, kind)
	assert.Empty(t, less)
	kind, _ = w.RunOn(monday+2, monday, load.Advice{}, nil, false, WayToRun{NoFastTo: monday + 28})
	assert.Equal(t, Long, kind, "a long easy run is not fast")
}
