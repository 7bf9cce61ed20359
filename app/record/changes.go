package record

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/store"
)

// KeptChange is a stored change with its date.
type KeptChange struct {
	input.BlockChange
	On day.Date
	At time.Time
}

// layChanges lays the stored moves and edits over the plan.
func (f *Frame) layChanges(rows []store.Rev) error {
	for _, r := range rows {
		k := KeptChange{On: day.Of(r.At, f.Now.Location()), At: r.At}
		if err := json.Unmarshal(r.Body, &k.BlockChange); err != nil {
			return fmt.Errorf("change %d of block %s: %w", r.Rev, f.Block.ID, err)
		}
		f.Changes = append(f.Changes, k)
		f.Rev = r.Rev
	}
	return nil
}

// Sitting is a planned session with the date it stood on at first.
type Sitting struct {
	planning.Session
	Origin day.Date
}

// template returns the usual week's sittings on the weekday of a date, with the
// changes that held by then.
func (f *Frame) template(on day.Date) []Sitting {
	monday := on.Monday()
	var week [7][]Sitting
	for d := range 7 {
		src := f.Plan.Days[d]
		if len(f.Plan.Choices) == 0 && slices.Contains([]int{0, 2, 4}, d) { // made before plans were kept
			s := planning.Session{Kind: planning.Main}
			for _, p := range f.Prescriptions {
				s.Ladders = append(s.Ladders, p.Ladder)
			}
			src = []planning.Session{s}
		}
		for _, s := range src {
			s.Ladders = slices.Clone(s.Ladders)
			week[d] = append(week[d], Sitting{s, monday + day.Date(d)})
		}
	}
	for _, c := range f.Changes {
		switch {
		case c.Kind == "move" && c.Always && c.From.Monday() <= monday:
			from, to := int(*c.From-c.From.Monday()), int(*c.To-c.To.Monday())
			for i, s := range week[from] {
				if s.Kind == c.Session && s.Routine == c.Routine {
					week[from] = slices.Delete(slices.Clone(week[from]), i, i+1)
					week[to] = merge(week[to], s)
					break
				}
			}
		case c.Kind == "routine" && c.On <= on:
			putRoutine(&week, c, monday)
		case c.Kind == "routine-off" && c.On <= on:
			takeRoutine(&week, c.Routine)
		case c.Kind == "change" && c.On <= on:
			kind := planning.Main
			if p, ok := f.Prescription(c.Next); ok {
				kind = sittingOf(f.Ladders[p.ID].Place)
			}
			place(&week, c.Ladder, planning.Main, nil, monday)
			place(&week, c.Next, kind, c.Days, monday)
		case (c.Kind == "days" || c.Kind == "add") && c.On.Monday() <= monday:
			kind := planning.Main
			if p, ok := f.Prescription(c.Ladder); ok {
				kind = sittingOf(f.Ladders[p.ID].Place)
			}
			place(&week, c.Ladder, kind, c.Days, monday)
		}
	}
	return week[on-monday]
}

// merge puts a sitting into a day; two of a kind become one.
func merge(list []Sitting, s Sitting) []Sitting {
	list = slices.Clone(list)
	for i := range list {
		if list[i].Kind == s.Kind && list[i].Routine == s.Routine {
			for _, l := range s.Ladders {
				if !slices.Contains(list[i].Ladders, l) {
					list[i].Ladders = append(slices.Clone(list[i].Ladders), l)
				}
			}
			return list
		}
	}
	return append(list, s)
}

// sittingOf is the kind of session a ladder belongs to.
func sittingOf(p catalogue.Place) planning.SessionKind {
	switch p {
	case catalogue.PlaceMicro:
		return planning.Micro
	case catalogue.PlaceEvening:
		return planning.EveKind
	case catalogue.PlaceRun:
		return planning.Drill
	case catalogue.PlaceDay:
		return planning.Exposure
	}
	return planning.Main
}

// place makes a ladder stand on just the given days of a week.
func place(week *[7][]Sitting, ladder string, kind planning.SessionKind, days []int, monday day.Date) {
	for d := range week {
		week[d] = slices.Clone(week[d])
		for i := range week[d] {
			if k := slices.Index(week[d][i].Ladders, ladder); k >= 0 {
				kind = week[d][i].Kind
				week[d][i].Ladders = slices.Delete(slices.Clone(week[d][i].Ladders), k, k+1)
			}
		}
	}
	for _, d := range days {
		week[d] = merge(week[d], Sitting{planning.Session{Kind: kind, Ladders: []string{ladder}}, monday + day.Date(d)})
	}
	for d := range week {
		week[d] = slices.DeleteFunc(week[d], func(s Sitting) bool { return len(s.Ladders) == 0 })
	}
}

// SessionsOn returns what stands on a date: the usual week, what was moved, no
// ladder before its first week, none that was left out, none a race forbids.
func (f *Frame) SessionsOn(on day.Date) []Sitting {
	days := map[day.Date][]Sitting{}
	at := func(d day.Date) []Sitting {
		if _, ok := days[d]; !ok {
			days[d] = f.template(d)
		}
		return days[d]
	}
	for _, c := range f.Changes {
		if c.Kind != "move" || c.Always {
			continue
		}
		i := slices.IndexFunc(at(*c.From), func(s Sitting) bool { return s.Kind == c.Session && s.Routine == c.Routine })
		if i < 0 {
			continue // what it moved is gone meanwhile
		}
		s := days[*c.From][i]
		days[*c.From] = slices.Delete(slices.Clone(days[*c.From]), i, i+1)
		days[*c.To] = merge(at(*c.To), s)
	}
	list := at(on)
	week := int(on-f.Start.Monday())/7 + 1
	out := []Sitting{}
	for _, s := range list {
		s.Ladders = slices.DeleteFunc(slices.Clone(s.Ladders), func(id string) bool {
			p, ok := f.Prescription(id)
			if ok && f.Path.Ramp != nil && course.ByRamp(f.Ladders[p.ID]) {
				return true
			}
			if !ok || week < p.FromWeek || f.LeftOut(id, on) != "" {
				return true
			}
			// On its day a routine takes the place of the plan's own dose of a ladder.
			if s.Kind != planning.RoutineKind && slices.ContainsFunc(list, func(o Sitting) bool {
				return o.Kind == planning.RoutineKind && slices.Contains(o.Ladders, id)
			}) {
				return true
			}
			n := f.Ladders[p.ID].At(f.Pegs[p.ID][body.Left].Notch)
			return planning.OffFor(f.Plan.Wishes.Race, n, on)
		})
		if len(s.Ladders) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// LeftOut returns why a ladder no longer stands in the block; "" when it does.
func (f *Frame) LeftOut(ladder string, on day.Date) string {
	why := ""
	for _, c := range f.Changes {
		switch {
		case c.On > on:
		case c.Kind == "change" && c.Ladder == ladder:
			why = "goes on as " + f.Name(c.Next)
		case c.Kind == "change" && c.Next == ladder:
			why = ""
		case c.Ladder != ladder:
		case c.Kind == "leave-out":
			why = c.Reason
		case c.Kind == "add":
			why = ""
		}
	}
	return why
}

// OwnDose is the coach's dose of a prescription at a notch.
func (f *Frame) OwnDose(prescription string, notch int, on day.Date) (catalogue.Dose, bool) {
	var d *catalogue.Dose
	for _, c := range f.Changes {
		if c.Kind == "dose" && c.Notch == notch && c.On <= on {
			if p, ok := f.Prescription(c.Ladder); ok && p.ID == prescription {
				d = c.Dose
			}
		}
	}
	if d == nil {
		return catalogue.Dose{}, false
	}
	return *d, true
}

// extraSet is the side that gets one set more.
func (f *Frame) extraSet(p store.Prescription, on day.Date) string {
	side := p.ExtraSetSide
	for _, c := range f.Changes {
		if c.Kind == "extra-set" && c.Ladder == p.Ladder && c.On <= on {
			side = string(c.Side)
		}
	}
	return side
}
