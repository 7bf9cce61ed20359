package planning

import (
	"slices"

	"notchback/core/day"
	"notchback/core/load"
)

// Less says why a day's run is less than planned; empty where it is not.
type Less string

// What takes from a planned run.
const (
	LessForCare   Less = "care"   // an emergency stands
	LessForAdvice Less = "advice" // no running now, or the next run is left out
	LessFast      Less = "fast"   // nothing fast: the run is easy
	LessReturn    Less = "return" // the way back to running stands instead
	LessAfter     Less = "after"  // the way back was walked lately: the run is easy
)

// WayToRun is the way back to running in a block: while it stands its stages are run
// and nothing else; when it is through there is nothing fast or hilly for four weeks.
type WayToRun struct {
	Stands   bool
	NoFastTo day.Date
}

// NoFastDays is how long after the way back nothing fast or hilly is run.
const NoFastDays = 28

// lookAhead is how many days from today an advice takes from planned runs (house):
// by then there is another one.
const lookAhead = 7

// RunOn is what an advice of today leaves of a day's planned run. runs are those that
// were run: the advice to skip the next one takes the first planned day without any.
// Days before today are as they were planned.
func (w Week) RunOn(on, today day.Date, a load.Advice, runs []load.Run, emergency bool, back WayToRun) (RunKind, Less) {
	return w.left(w.Runs[on-on.Monday()], on, today, a, runs, emergency, back)
}

// SecondOn is what an advice of today leaves of a day's planned second run.
func (w Week) SecondOn(on, today day.Date, a load.Advice, runs []load.Run, emergency bool, back WayToRun) (RunKind, Less) {
	return w.left(w.Second[on-on.Monday()], on, today, a, runs, emergency, back)
}

func (w Week) left(planned RunKind, on, today day.Date, a load.Advice, runs []load.Run, emergency bool, back WayToRun) (RunKind, Less) {
	if planned == NoRun || on < today {
		return planned, ""
	}
	switch {
	case a.ID == load.NoRunning:
		return NoRun, LessForAdvice
	case emergency:
		return NoRun, LessForCare
	case back.Stands:
		return NoRun, LessReturn
	case planned == Fast && on < back.NoFastTo:
		return Easy, LessAfter
	case a.ID == load.SkipNext && on == w.nextRun(today, runs):
		return NoRun, LessForAdvice
	case a.NoFast && planned == Fast && on-today < lookAhead:
		return Easy, LessFast
	}
	return planned, ""
}

// nextRun is the first day from today on with a planned run and none run yet; −1
// where there is none within the days looked at.
func (w Week) nextRun(today day.Date, runs []load.Run) day.Date {
	for on := today; on < today+lookAhead; on++ {
		if w.runsOn(int(on-on.Monday())) && !slices.ContainsFunc(runs, func(r load.Run) bool { return r.On == on }) {
			return on
		}
	}
	return -1
}
