package words

import (
	"fmt"
	"strings"

	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
)

// Exit says why a ladder gives way to the next of its path.
func Exit(e planning.Exit, ladder, finding string) string {
	switch e {
	case planning.ExitTop:
		return ladder + " stands clean on its last notch"
	case planning.ExitCalm:
		return "it is calm now: what kept it quiet gives way to what makes it strong"
	case planning.ExitAim:
		return strings.ToLower(finding[:1]) + finding[1:] + ": the tests read ok now"
	}
	return ""
}

// Tried says how a ladder felt in the first try of a block.
func Tried(f course.Felt) string {
	s := "no pain"
	if f.Pain > 0 {
		s = fmt.Sprintf("up to %d of 10", f.Pain)
	}
	switch f.Walk {
	case "better":
		s += ", the walk was easier after it"
	case "worse":
		s += ", the walk hurt more after it"
	}
	return s
}

// NextWait says what keeps a change from being made today.
func NextWait(w course.Wait) string {
	switch w {
	case course.WaitWeek:
		return "a week since its last step"
	case course.WaitBudget:
		return "two ladders went up this week"
	case course.WaitNew:
		return "a new loading ladder came in this week"
	case course.WaitLight:
		return "not in a lighter week"
	case course.WaitSpike:
		return "running jumps this week"
	case course.WaitFlare:
		return "a flare stands"
	}
	return ""
}

// Quiet is what is said after a week without pain.
func Quiet(since day.Date, causes []string) string {
	s := "Nothing hurt since " + since.Words() + ". Pain gone is not done: the plan goes on to the cause"
	if len(causes) > 0 {
		s += " – " + lowerList(causes)
	}
	return s + "."
}

func lowerList(list []string) string {
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = x
		if x != "" {
			out[i] = strings.ToLower(x[:1]) + x[1:]
		}
	}
	return strings.Join(out, "; ")
}

// BlockEnds says in the last week of a block what follows.
func BlockEnds(end, today day.Date, then course.After) string {
	s := "The block ends on " + end.Words() + ". "
	if today > end {
		s = "The block ended on " + end.Words() + ". "
	}
	switch then {
	case course.AfterScreen:
		return s + "Screen again, then plan what follows."
	case course.AfterBlock:
		return s + "Something is still worked on: plan the next block."
	default:
		return s + "Nothing limits and nothing hurts: five to ten minutes a day keep it, with tests every six weeks."
	}
}
