package course

import (
	"cmp"
	"slices"

	"notchback/core/day"
	"notchback/core/source"
)

// Tried is what a ladder did in a session that was logged.
type Tried struct {
	Ladder string
	On     day.Date
	Pain   int    // the worst side, 0–10; 0 where none was told
	Walk   string // the walk on heels and toes afterwards: better, same, worse, or not walked
}

// Felt is how a ladder felt when the whole was tried.
type Felt struct {
	Tried
	Keep bool // among what felt best
}

// Numbers of the first try.
const (
	tryDays  = 14 // days from the start of a block
	tryTimes = 2  // sessions of a ladder after which it isn't a first try any more
	tryNear  = 1  // points of pain above the best that still feel as good
)

// TrySource tags the numbers of the first try.
var TrySource = source.House("an injured runner tries the whole once and keeps what feels best; days, times and points are ours")

// FirstTry lists how the ladders of an injured runner's block felt when they were first
// done, the best first: those that felt best are kept, the others the coach may leave out.
// It stands for the first fourteen days while nothing was done more than twice, and needs
// two ladders to compare. tried are the sessions of the block.
func FirstTry(injured bool, start, today day.Date, tried []Tried) []Felt {
	if !injured || today < start || today-start >= tryDays {
		return nil
	}
	times := map[string]map[day.Date]bool{}
	at := map[string]int{}
	var out []Felt
	for _, t := range tried {
		if times[t.Ladder] == nil {
			times[t.Ladder] = map[day.Date]bool{}
			at[t.Ladder] = len(out)
			out = append(out, Felt{Tried: t})
		}
		times[t.Ladder][t.On] = true
		if len(times[t.Ladder]) > tryTimes {
			return nil
		}
		f := &out[at[t.Ladder]]
		f.Pain = max(f.Pain, t.Pain)
		if walkRank[t.Walk] > walkRank[f.Walk] {
			f.Walk = t.Walk
		}
	}
	if len(out) < 2 {
		return nil
	}
	slices.SortStableFunc(out, func(a, b Felt) int {
		return cmp.Or(cmp.Compare(a.Pain, b.Pain), cmp.Compare(walkRank[a.Walk], walkRank[b.Walk]))
	})
	for i := range out {
		out[i].Keep = out[i].Pain <= out[0].Pain+tryNear && out[i].Walk != "worse"
	}
	return out
}

// walkRank orders the walk afterwards; a walk that was not taken says nothing.
var walkRank = map[string]int{"better": -1, "": 0, "same": 0, "worse": 2}
