package view

import (
	"math"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

func WeeksOf(f *record.Frame) []WeekView {
	logged := map[day.Date]bool{}
	for _, it := range f.Items {
		logged[app.DateOf(it.On)] = true
	}
	end := f.End()
	out := []WeekView{}
	for monday, n := f.Start.Monday(), 1; monday <= end; monday, n = monday+7, n+1 {
		kind := planning.KindOf(f.Start, f.Plan.Wishes.Race, max(monday, f.Start))
		w := WeekView{Number: n, Kind: kind, Label: words.WeekKind(kind)}
		for i := range 7 {
			on := monday + day.Date(i)
			d := DayView{On: on, In: on >= f.Start && on <= end, Logged: logged[on], Run: f.Plan.Wishes.Runs[i], Runs: words.Runs(f.Plan.Wishes.Runs[i], f.Plan.Wishes.Second[i], nil), Sessions: []SessionView{}, Ramp: []RampDay{}, Done: []DoseView{}, Retest: RetestOn(f, on)}
			if r := f.Plan.Wishes.Race; r != nil && r.On == on {
				d.Race = true
			}
			if d.In {
				r := f.RunOn(on)
				d.Run, d.Runs, d.NoRun = r.First, r.Words, r.Less
				if d.Run == planning.NoRun {
					d.Run = r.Second
				}
				d.Sessions = SessionViews(f, on)
				d.Ramp = RampOn(f, on)
				for _, p := range f.Prescriptions {
					if x, ok := doneOn(f, p, on); ok {
						d.Done = append(d.Done, x)
					}
				}
			}
			for _, s := range d.Sessions {
				w.Planned += s.Minutes
			}
			w.Free += f.Plan.Wishes.Minutes[i]
			w.Days = append(w.Days, d)
		}
		out = append(out, w)
	}
	return out
}

// RetestOn names what is tested again on a date.
func RetestOn(f *record.Frame, on day.Date) string {
	for _, w := range f.Plan.Weeks {
		if w.On != on || on < f.Start {
			continue
		}
		if w.All {
			return "all tests"
		}
		names := []string{}
		for _, id := range w.Retest {
			if t, ok := screening.Find(screening.TestID(id)); ok {
				names = append(names, t.Name)
			}
		}
		return strings.Join(names, ", ")
	}
	return ""
}

// SessionViews are the sittings of a date as they may be done: what is closed is
// not among them, and a sitting of which nothing is left falls away.
func SessionViews(f *record.Frame, on day.Date) []SessionView {
	out := []SessionView{}
	if on >= f.Today && (f.Care() != nil || f.IllOn(on)) {
		return out
	}
	run := f.RunOn(on)
	for _, s := range f.SessionsOn(on) {
		if s.Kind == planning.Drill && run.None() && on >= f.Today {
			// Without a run there is nothing to drill in; the way back is its own run.
			s.Ladders = slices.DeleteFunc(slices.Clone(s.Ladders), func(id string) bool {
				p, ok := f.Prescription(id)
				return !ok || f.Ladders[p.ID].Purpose != catalogue.ForReturn
			})
		}
		v := SessionView{Kind: s.Kind, Name: words.SessionName(s.Kind), When: s.When, Doses: []DoseView{}}
		if back := returning(f, s); back != "" {
			v.Name, v.When = back, "instead of a run"
		}
		if s.Kind == planning.RoutineKind {
			v.Name, v.Routine = f.RoutineName(s.Routine), routineSitting(f, s.Routine)
		}
		if run.None() && on >= f.Today && strings.Contains(v.When, "run") {
			v.When = ""
		}
		if s.Origin != on {
			o := s.Origin
			v.Moved = &o
		}
		seconds := 0.0
		for _, id := range s.Ladders {
			p, ok := f.Prescription(id)
			if !ok || f.Shut(p, body.Left, on) && f.Shut(p, body.Right, on) {
				v.drop(f, p, ok)
				continue
			}
			d := DoseView{PrescriptionID: p.ID, Ladder: id, Name: f.Ladders[p.ID].Name, Left: f.DoseOn(p, body.Left, on), Right: f.DoseOn(p, body.Right, on)}
			d.Same = d.Left == d.Right
			side := body.Left
			if d.Left == record.NotNow {
				side = body.Right
			}
			n, note := f.NotchOn(p, side, on)
			if n.Together() && !d.Same && (d.Left == record.NotNow || d.Right == record.NotNow) {
				v.drop(f, p, ok)
				continue // on both legs or not at all
			}
			d.Exercise, d.Note, d.Load, d.Mistakes = n.Exercise.ID, note, f.Kilograms(n.Dose), n.Exercise.Mistakes
			if on >= f.Today {
				d.Limits = strings.Join(f.LimitWords(p, side), "; ")
			}
			v.Doses = append(v.Doses, d)
			if on >= f.Today && planning.WalkStands(s.Kind, f.Ladders[p.ID], f.Hurts()) {
				v.Litmus = words.Litmus
			}
			if s.Kind != planning.Drill && s.Kind != planning.Exposure && !n.Dose.Spread {
				if v.Routine != nil {
					seconds += n.InRoutine()
				} else {
					seconds += n.Seconds()
				}
			}
		}
		if len(v.Doses) == 0 {
			continue
		}
		v.Minutes = int(math.Ceil(seconds / 60))
		out = append(out, v)
	}
	return out
}

// returning is the name of the way back to running where a sitting is that alone.
func returning(f *record.Frame, s record.Sitting) string {
	if len(s.Ladders) != 1 {
		return ""
	}
	p, ok := f.Prescription(s.Ladders[0])
	if !ok || f.Ladders[p.ID].Purpose != catalogue.ForReturn {
		return ""
	}
	return f.Ladders[p.ID].Name
}

// doneOn returns what was logged of a ladder on a date.
func doneOn(f *record.Frame, p store.Prescription, on day.Date) (DoseView, bool) {
	d := DoseView{PrescriptionID: p.ID, Ladder: p.Ladder, Name: f.Ladders[p.ID].Name, Left: "not done", Right: "not done"}
	found := false
	for _, it := range f.Items {
		if it.PrescriptionID != p.ID || app.DateOf(it.On) != on {
			continue
		}
		found = true
		n := f.Ladders[p.ID].At(it.Notch)
		d.Exercise = n.Exercise.ID
		if w := words.Notch(n); it.Side == string(body.Left) {
			d.Left = w
		} else {
			d.Right = w
		}
	}
	d.Same = d.Left == d.Right
	return d, found
}
