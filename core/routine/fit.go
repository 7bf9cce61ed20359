package routine

import (
	"fmt"
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/source"
)

// Standing is where a runner's own ladder stands: the ladder as it was prescribed and
// the notch of each side.
type Standing struct {
	Ladder catalogue.Ladder
	Left   int
	Right  int
}

// For is whom a routine is fitted to, on the day of the evidence.
type For struct {
	Evidence planning.Evidence
	Phases   []planning.RegionPhase
	Own      map[string]Standing // ladders of the running block, by id
	Long     bool
}

// Fitted is a routine as it is for one runner today.
type Fitted struct {
	Parts   []FittedPart `json:"parts" nullable:"false"`
	Minutes float64      `json:"minutes" doc:"Of what is done"`
	Closed  string       `json:"closed,omitempty" doc:"Why it isn't offered: what it is for is closed"`
}

// FittedPart is one part of it.
type FittedPart struct {
	Ladder  catalogue.Ladder `json:"-"`
	Own     bool             `json:"own,omitempty" doc:"The runner's own ladder stands in its place"`
	Notch   catalogue.Notch  `json:"notch"`
	Key     bool             `json:"key,omitempty"`
	Sides   []body.Side      `json:"sides" nullable:"false" doc:"Those that may do it today"`
	Dropped []planning.Lock  `json:"dropped" nullable:"false" doc:"Why it drops out today; empty where it is done"`
	Lowered string           `json:"lowered,omitempty" doc:"Why it starts lower than the routine says"`
	Swaps   []planning.Swap  `json:"swaps" nullable:"false"`
	Limits  []planning.Limit `json:"limits" nullable:"false"`
}

// PartLadder is the name under which a part that is no ladder of the runner's is kept.
func PartLadder(routine string, part int) string {
	return fmt.Sprintf("routine/%s/%d", routine, part)
}

// Fit fits a routine to a runner: parts whose ladder is the runner's own start at the
// runner's notch, once; others that have a starting table never start above it; what
// is closed today drops out with every reason. Where all parts it is for are closed it
// isn't offered. It never raises anything.
func (r Routine) Fit(c catalogue.Catalogue, f For) Fitted {
	out := Fitted{Parts: []FittedPart{}}
	taken := map[string]bool{}
	keys, open := 0, 0
	for i, p := range r.In(f.Long, f.Evidence.Spring) {
		x := FittedPart{Key: p.Key, Notch: p.Notch, Sides: []body.Side{}, Dropped: []planning.Lock{}, Swaps: []planning.Swap{}, Limits: []planning.Limit{}}
		own, has := f.Own[p.Ladder]
		switch {
		case has && taken[p.Ladder]:
			continue // its own notch stands in this routine already
		case has:
			taken[p.Ladder] = true
			x.Own, x.Ladder = true, own.Ladder
			x.Notch = own.Ladder.At(min(own.Left, own.Right))
		default:
			x.Notch, x.Lowered = lowered(c, p, f)
			x.Ladder = partLadder(r, i, p, x.Notch)
		}
		for _, side := range body.Sides {
			at := 1
			if has {
				at = own.Left
				if side == body.Right {
					at = own.Right
				}
			}
			locks := f.Evidence.Bars(c, x.Ladder, at, side, f.Phases)
			if l, ok := c.Ladder(p.Ladder); ok && !has {
				locks = append(locks, leftOut(f.Evidence, l)...)
			}
			if len(locks) == 0 {
				x.Sides = append(x.Sides, side)
				x.Limits = append(x.Limits, f.Evidence.May(x.Ladder, at, side, f.Phases).Limits...)
				continue
			}
			for _, k := range locks {
				if !slices.ContainsFunc(x.Dropped, func(o planning.Lock) bool { return o.Words == k.Words }) {
					x.Dropped = append(x.Dropped, k)
				}
			}
		}
		if len(x.Sides) == 2 || len(x.Sides) == 1 && !x.Notch.Together() {
			x.Dropped = []planning.Lock{}
			x.Swaps = f.Evidence.Swaps(c, x.Notch)
			out.Minutes += x.Notch.InRoutine() / 60
		} else {
			x.Sides = []body.Side{}
		}
		if p.Key {
			keys++
			if len(x.Sides) > 0 {
				open++
			} else if out.Closed == "" {
				out.Closed = x.Notch.Exercise.Name + ": " + x.Dropped[0].Words
			}
		}
		out.Parts = append(out.Parts, x)
	}
	if open > 0 || keys == 0 {
		out.Closed = ""
	}
	return out
}

// leftOut says that the ladder whose work a part is was left out or stopped.
func leftOut(e planning.Evidence, l catalogue.Ladder) []planning.Lock {
	var out []planning.Lock
	for _, x := range e.Excluded {
		if x.Ladder == l.ID {
			out = append(out, planning.Lock{Kind: planning.LockExcluded, Words: "left out on " + x.On.Words() + ": " + x.Reason})
		}
	}
	if slices.Contains(e.Stopped, l.ID) {
		out = append(out, planning.Lock{Kind: planning.LockStopped, Words: "stopped; it comes back after quiet mornings"})
	}
	return out
}

// lowered is a part's notch, or the one its ladder would start at where that is
// easier: a table that knows a test knows better than the routine.
func lowered(c catalogue.Catalogue, p Part, f For) (catalogue.Notch, string) {
	l, ok := c.Ladder(p.Ladder)
	if !ok || l.Start.Test == "" {
		return p.Notch, ""
	}
	at := 0
	for i, n := range l.Notches {
		if n.Exercise.ID == p.Notch.Exercise.ID && n.Dose.Volume() <= p.Notch.Dose.Volume() {
			at = i + 1
		}
	}
	if at == 0 {
		return p.Notch, ""
	}
	s := planning.StartingNotch(l, planning.StartEvidence{On: f.Evidence.On, Person: f.Evidence.Person, Results: f.Evidence.Results}, l.Len())
	if n, proven := f.Evidence.Proven[l.ID]; proven {
		s.Notch = max(s.Notch, n-1)
	}
	if s.Notch >= at {
		return p.Notch, ""
	}
	n := l.At(s.Notch)
	n.Alone = false
	return n, "starts at notch " + fmt.Sprint(s.Notch) + " of " + l.Name
}

// partLadder makes the ladder of one notch that a part is kept as.
func partLadder(r Routine, i int, p Part, n catalogue.Notch) catalogue.Ladder {
	l := catalogue.Ladder{ID: PartLadder(r.ID, i+1), Name: n.Exercise.Name, Family: r.Name, Purpose: n.Exercise.Purpose, Place: catalogue.PlaceMain, Effort: catalogue.AskNone,
		Tissues: slices.Clone(n.Tissues), Source: r.Source, WeightSource: r.Source, Notches: []catalogue.Notch{n},
		Start: catalogue.StartRule{Source: source.House("a part of a routine starts as it was given")},
		Part:  &catalogue.Part{Routine: r.ID, Settled: p.Settled, Sore: p.Sore}}
	if l.Tissues == nil {
		l.Tissues = []body.Tissue{}
	}
	l.PerWeek.Min, l.PerWeek.Max = r.Min, r.Max
	return l
}

// InEvening reports whether a part of a routine belongs to the evening: away from runs.
func InEvening(parts []FittedPart) bool {
	return slices.ContainsFunc(parts, func(p FittedPart) bool { return len(p.Sides) > 0 && p.Notch.Exercise.Timing == "evening" })
}
