package record

import (
	"slices"

	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/store"
)

// GivenRoutine is a routine that stands in a block.
type GivenRoutine struct {
	ID   string
	Long bool
	Days []int
	On   day.Date
	input.Given
}

// Routines are those that stand on a date, in the order they were given.
func (f *Frame) Routines(on day.Date) []GivenRoutine {
	var out []GivenRoutine
	for _, c := range f.Changes {
		if c.On > on || c.Kind != "routine" && c.Kind != "routine-off" {
			continue
		}
		out = slices.DeleteFunc(out, func(r GivenRoutine) bool { return r.ID == c.Routine })
		if c.Kind == "routine" && c.Given != nil {
			out = append(out, GivenRoutine{c.Routine, c.Long, c.Days, c.On, *c.Given})
		}
	}
	return out
}

// RoutineGiven is the routine as it stands, or stood last.
func (f *Frame) RoutineGiven(id string) (GivenRoutine, bool) {
	for i := len(f.Changes) - 1; i >= 0; i-- {
		if c := f.Changes[i]; c.Kind == "routine" && c.Routine == id && c.Given != nil {
			return GivenRoutine{c.Routine, c.Long, c.Days, c.On, *c.Given}, true
		}
	}
	return GivenRoutine{}, false
}

// putRoutine lays a given routine over a week; one given before under its name goes.
func putRoutine(week *[7][]Sitting, c KeptChange, monday day.Date) {
	takeRoutine(week, c.Routine)
	if c.Given == nil {
		return
	}
	for _, d := range c.Days {
		if d < 0 || d > 6 {
			continue
		}
		s := planning.Session{Kind: planning.RoutineKind, Routine: c.Routine, Ladders: slices.Clone(c.Given.Ladders), When: c.Given.When}
		week[d] = append(slices.Clone(week[d]), Sitting{s, monday + day.Date(d)})
	}
}

func takeRoutine(week *[7][]Sitting, id string) {
	for d := range week {
		week[d] = slices.DeleteFunc(slices.Clone(week[d]), func(s Sitting) bool { return s.Routine == id && id != "" })
	}
}

// IsPart reports whether a prescription is a part of a routine.
func (f *Frame) IsPart(p store.Prescription) bool { return f.Ladders[p.ID].Part != nil }

// ForRoutines is the runner as routines are fitted to one, today.
func (f *Frame) ForRoutines() routine.For {
	e := f.Book.PlanEvidence()
	e.School, e.Owned, e.Evenings = f.Plan.Wishes.School, f.Plan.Wishes.Owned, true
	e.Spring = f.springWeeks(f.Today)
	out := routine.For{Evidence: e, Phases: f.Phases, Own: map[string]routine.Standing{}}
	for _, p := range f.Prescriptions {
		l := f.Ladders[p.ID]
		if f.IsPart(p) || f.LeftOut(p.Ladder, f.Today) != "" || l.Purpose == catalogue.ForReturn || f.Start.Monday()+day.Date(7*(p.FromWeek-1)) > f.Today {
			continue
		}
		out.Own[p.Ladder] = routine.Standing{Ladder: l, Left: f.Asked(p, body.Left, f.Today), Right: f.Asked(p, body.Right, f.Today)}
	}
	return out
}

// RoutineName is the name of a routine as it was given, or as the shelf has it.
func (f *Frame) RoutineName(id string) string {
	if r, ok := f.RoutineGiven(id); ok {
		return r.Name
	}
	if r, ok := f.Layers.Routine(id); ok {
		return r.Name
	}
	return id
}
