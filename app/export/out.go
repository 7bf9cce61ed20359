package export

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/figure"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/core/safety"
	"notchback/core/units"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// pausedLines say what is not done now, a line each.
func pausedLines(f *record.Frame) []string {
	var out []string
	names := map[string][]string{} // by reason, so that each is said once
	var order []string
	for _, p := range f.Paused() {
		name := p.Name
		if p.Side != body.Both {
			name += ", " + string(p.Side)
		}
		if p.Instead != "" {
			out = append(out, name+": "+p.Instead+" meanwhile ("+p.Words+").")
			continue
		}
		if names[p.Words] == nil {
			order = append(order, p.Words)
		}
		names[p.Words] = append(names[p.Words], name)
	}
	for _, why := range order {
		out = append(out, "Not now: "+strings.Join(names[why], "; ")+" ("+why+").")
	}
	return out
}

// PlanFile returns a block as ics, csv or pdf.
func (a *Exports) PlanFile(ctx context.Context, act app.Actor, block, kind string) (app.File, error) {
	var out app.File
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		f := k.F
		var buf bytes.Buffer
		out.Name = app.FileName(f.Runner.Name, "plan", kind)
		switch kind {
		case "ics":
			out.Type = "text/calendar; charset=utf-8"
			err = a.writeCalendar(ctx, tx, &buf, act.Zone, k)
		case "csv":
			out.Type = "text/csv; charset=utf-8"
			err = formats.PlanCSV(&buf, rows(f))
		case "pdf":
			out.Type = "application/pdf"
			var s formats.Sheet
			if s, err = inUnits(act.Units(), sheet(f, a.Now().In(act.Zone))); err == nil {
				err = formats.PlanPDF(&buf, s)
			}
		default:
			return app.ErrNotFound
		}
		out.Body = buf.Bytes()
		return err
	})
	return out, err
}

func rows(f *record.Frame) []formats.Row {
	out := []formats.Row{}
	for _, w := range view.WeeksOf(f) {
		for _, d := range w.Days {
			for _, x := range d.Ramp {
				out = append(out, formats.Row{On: d.On, Week: w.Number, WeekKind: w.Label, Session: words.SessionName(planning.Exposure), Ladder: x.Name, Left: x.Words, Right: x.Words, Minutes: float64(x.Minutes), Completed: x.Done})
			}
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					p, _ := f.Prescription(x.Ladder)
					n, _ := f.NotchOn(p, body.Left, d.On)
					out = append(out, formats.Row{On: d.On, Week: w.Number, WeekKind: w.Label, Session: s.Name, When: s.When, Ladder: x.Name, Exercise: n.Exercise.Name,
						Left: x.Left, Right: x.Right, Minutes: n.Seconds() / 60, Completed: d.Logged})
				}
			}
		}
	}
	return out
}

// painRules are what every printed plan says about pain.
var painRules = []string{
	"Pain during work: 0 to 3 fine; 4 or 5 go on slower; 6 or more ends that exercise; 8 or more, numbness or a limp ends the session: a clinician looks first.",
	"The next morning decides: first steps as usual or one more are fine; two more than usual means less next time.",
	"A missed day is not made up by doubling.",
}

var shortDays = [7]string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}

// inUnits is a sheet with what the program wrote of distances and weights in a system.
func inUnits(u units.System, s formats.Sheet) (out formats.Sheet, err error) {
	if u != units.Imperial {
		return s, nil
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal([]byte(u.In(string(raw))), &out)
}

// sheet is the plan to print: the weeks from this one on, or all of a plan that
// is over or still to come. Under an emergency it is one page.
func sheet(f *record.Frame, made time.Time) formats.Sheet {
	pr, l := f.Practice, f.Language()
	now, stop, coach := l.Alarms(pr.EmergencyNumber, pr.Contact, safety.Asked(f.Rows.Own, record.AgeOn(record.PersonOf(f.Runner), f.Today))...)
	s := formats.Sheet{Title: "Plan of " + f.Runner.Name, Runner: f.Runner.Name, Made: made, Practice: pr.Name, Contact: pr.Contact, EmergencyText: pr.EmergencyText, Rules: l.Texts(painRules), Cautions: l.Texts(safety.Cautions),
		Alarms: []formats.SheetList{{Head: now.Head, Lines: now.Lines, Strong: true}, {Head: stop.Head, Lines: stop.Lines}, {Head: coach.Head, Lines: coach.Lines}}, Says: append([]string{}, f.Plan.Says...), Weeks: []formats.SheetWeek{}}
	if c := l.Care(f.Book.Flags(), pr.EmergencyNumber, pr.EmergencyText); c != nil {
		s.Care = &formats.SheetCare{Title: c.Title, Do: c.Do, Text: c.Text, Signs: c.Signs, After: c.After}
		return s
	}
	for _, c := range f.Book.Clearances {
		if c.On <= f.Today && f.Today <= c.Until {
			s.Notes = append(s.Notes, "Cleared for "+safety.NameOf(c.Flag, f.Rows.Own)+" by "+c.Role+" up to "+c.Until.Words()+": "+c.Allowed)
		}
	}
	for _, fl := range f.Flags {
		s.Notes = append(s.Notes, words.Flag(fl))
	}
	s.Notes = append(append(s.Notes, f.Caps()...), pausedLines(f)...)
	for _, w := range view.WeeksOf(f) {
		if last := w.Days[6].On; last < f.Today && f.Today <= f.End() {
			continue
		}
		s.Weeks = append(s.Weeks, sheetWeek(f, w))
	}
	return s
}

func sheetWeek(f *record.Frame, w view.WeekView) formats.SheetWeek {
	head := fmt.Sprintf("Week %d, from %s", w.Number, w.Days[0].On.Words())
	wk := formats.SheetWeek{Heading: head, Work: []formats.SheetWork{}, Notes: []string{}}
	if w.Label != "" {
		wk.Heading += ", a " + w.Label + " week"
	}
	days := map[string][]int{}
	var order []view.DoseView
	litmus := false
	for i, d := range w.Days {
		sd := formats.SheetDay{Name: shortDays[i] + d.On.Time().Format(" 2 Jan"), Lines: []string{}}
		if d.On < f.Today && f.Today <= f.End() { // over: what stood there may not be done any more
			wk.Days = append(wk.Days, sd)
			continue
		}
		if d.Run != planning.NoRun {
			sd.Lines = append(sd.Lines, d.Runs)
		} else if d.NoRun != "" {
			sd.Lines = append(sd.Lines, "no run")
		}
		if d.Race && d.Run != planning.NoRun || d.Race && d.NoRun == "" {
			sd.Lines = append(sd.Lines, "RACE")
		}
		for _, x := range d.Ramp {
			sd.Lines = append(sd.Lines, x.Words)
		}
		for _, x := range d.Sessions {
			line := x.Name
			if x.Minutes > 0 {
				line += fmt.Sprintf(", %d min", x.Minutes)
			}
			if x.When != "" {
				line += ", " + x.When
			}
			sd.Lines = append(sd.Lines, line)
			if r := x.Routine; r != nil && !slices.ContainsFunc(wk.Notes, func(n string) bool { return strings.HasPrefix(n, x.Name+":") }) {
				wk.Notes = append(wk.Notes, routineNote(x))
			}
			litmus = litmus || x.Kind == planning.Main
			if x.Litmus != "" && !slices.Contains(wk.Notes, x.Name+": "+x.Litmus) {
				wk.Notes = append(wk.Notes, x.Name+": "+x.Litmus)
			}
			for _, dose := range x.Doses {
				if _, seen := days[dose.Ladder]; !seen {
					order = append(order, dose)
				}
				days[dose.Ladder] = append(days[dose.Ladder], i)
			}
		}
		if d.Retest != "" {
			wk.Notes = append(wk.Notes, "Test again on "+words.Weekday(i)+": "+d.Retest)
		}
		wk.Days = append(wk.Days, sd)
	}
	for _, dose := range order {
		wk.Work = append(wk.Work, sheetWork(f, dose, days[dose.Ladder], w.Days[days[dose.Ladder][0]].On))
	}
	wk.Diary = []string{"First steps 0–10", "At rest 0–10"}
	if litmus {
		wk.Diary = append(wk.Diary, "Heel and toe walk after 0–10")
	}
	return wk
}

// routineNote says of a routine its order, what drops out, and how it ends.
func routineNote(s view.SessionView) string {
	var names []string
	for _, d := range s.Doses {
		names = append(names, d.Name)
	}
	n := s.Name + ": in this order – " + strings.Join(names, ", ") + ". 10 s to change over; the other side is the rest."
	switch routine.Compare(s.Routine.Compare) {
	case routine.CompareCm:
		n += " " + s.Routine.Compared + " before and after, in cm."
	case routine.CompareWalk, routine.CompareSteps:
		n += " The same walk before and after: better, same, worse?"
	}
	for _, x := range s.Routine.Dropped {
		n += " Not now: " + x + "."
	}
	if s.Routine.Late != "" {
		n += " " + s.Routine.Late
	}
	return n
}

// timings say when an exercise fits, as a runner reads it.
var timings = map[string]string{
	"pre-run": "good before a run", "not-tired": "not straight after a run", "evening": "in the evening: no run within 12 hours after it, two hours after the last one",
	"gap48": "a whole day between two of these",
}

func sheetWork(f *record.Frame, d view.DoseView, days []int, on day.Date) formats.SheetWork {
	p, _ := f.Prescription(d.Ladder)
	side := body.Left
	if d.Left == record.NotNow {
		side = body.Right
	}
	n, note := f.NotchOn(p, side, on)
	e := n.Exercise
	x := formats.SheetWork{Name: d.Name, Exercise: e.Name, Left: d.Left, Right: d.Right, Tempo: words.Tempo(n.Dose), Rest: words.Rest(n), Load: f.Kilograms(n.Dose), SetUp: e.SetUp, Cues: e.Cues,
		Mistakes: e.Mistakes, Cautions: append([]string{}, e.Cautions...), Notes: []string{}, Start: []figure.Part{}, End: []figure.Part{}}
	names := make([]string, len(days))
	for i, k := range days {
		names[i] = shortDays[k]
	}
	x.Days = strings.Join(names, " ")
	if len(days) == 7 {
		x.Days = "every day"
	}
	x.Sides = "both legs together"
	if !n.Together() {
		x.Sides = "each side, left first"
	}
	x.When = timings[e.Timing]
	if n.Gap48 && e.Timing != "gap48" {
		x.When = strings.TrimPrefix(x.When+"; "+timings["gap48"], "; ")
	}
	if n.Dose.More != "" {
		x.Notes = append(x.Notes, strings.ToUpper(n.Dose.More[:1])+n.Dose.More[1:]+".")
	}
	add := func(s string) {
		if s != "" && !slices.Contains(x.Notes, s) {
			x.Notes = append(x.Notes, s)
		}
	}
	add(sentence(note))
	for _, l := range f.LimitWords(p, side) {
		add(sentence("Only " + l))
	}
	if ch := f.Plan.Choices; on >= f.Today {
		for _, c := range ch {
			if c.Ladder != p.Ladder {
				continue
			}
			for _, note := range c.Notes {
				if !strings.HasPrefix(note, "Starts in week") {
					add(note)
				}
			}
		}
		who := f.Book.PlanEvidence()
		who.Owned = f.Plan.Wishes.Owned
		for _, sw := range who.Swaps(f.Cat, n) {
			add("In place of " + sw.For + ": " + sw.Take + ".")
		}
	}
	if pic := view.PictureOf(f.Layers, e); pic != nil {
		x.Start, x.End = pic.Start, pic.End
	}
	return x
}

func sentence(s string) string {
	if s == "" {
		return ""
	}
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// PrintView is the plan as it is printed from the screen.
type PrintView struct {
	Sheet formats.Sheet `json:"sheet"`
}

// PrintSheet returns what is printed of a block.
func (a *Exports) PrintSheet(ctx context.Context, act app.Actor, block string) (PrintView, error) {
	var out PrintView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		out.Sheet = sheet(k.F, a.Now().In(act.Zone))
		return nil
	})
	return out, err
}

// Exports is the room of what leaves and comes back whole.
type Exports struct{ *record.Book }
