package app

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"fmt"
	"strings"
	"time"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/figure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// File is something to download.
type File struct {
	Name string
	Type string
	Body []byte
}

// hours are when sittings stand in a calendar, local time. House: a hint; the
// runner moves them.
var hours = map[planning.SessionKind]struct{ hour, minute int }{
	planning.Micro: {7, 30}, planning.Main: {18, 0}, planning.EveKind: {20, 0},
}

func (f *frame) uid(origin day.Date, kind string) string {
	return fmt.Sprintf("%s-%s-%s@notchback", f.block.ID, origin, kind)
}

// events turns a block into calendar events. A sitting keeps its UID when it is
// moved; one that is gone is cancelled, and so is all that lies after the end of
// a block that was replaced.
func (f *frame) events(zone *time.Location) []formats.Event {
	changed := f.block.CreatedAt
	for _, c := range f.changes {
		changed = c.at
	}
	seq := f.rev
	ended := f.end()
	if f.block.EndedAt != nil {
		seq++
		changed = *f.block.EndedAt
		ended = min(ended, day.Of(*f.block.EndedAt, zone)-1)
	}
	at := func(d day.Date, kind planning.SessionKind) time.Time {
		t, h := d.Time(), hours[kind]
		return time.Date(t.Year(), t.Month(), t.Day(), h.hour, h.minute, 0, 0, zone)
	}
	out := []formats.Event{}
	have := map[string]bool{}
	for on := f.start; on <= f.end(); on++ {
		views := f.sessionViews(on)
		for i, s := range f.sessionsOn(on) {
			if _, timed := hours[s.Kind]; !timed || i >= len(views) {
				continue
			}
			v := views[i]
			uid := f.uid(s.origin, string(s.Kind))
			have[uid] = true
			var lines []string
			for _, d := range v.Doses {
				dose := d.Left
				if !d.Same {
					dose = "left " + d.Left + ", right " + d.Right
				}
				lines = append(lines, d.Name+": "+dose)
			}
			out = append(out, formats.Event{UID: uid, Sequence: seq, Changed: changed, Start: at(on, s.Kind), Length: time.Duration(max(5, v.Minutes)) * time.Minute,
				Summary: fmt.Sprintf("%s, %d min", v.Name, v.Minutes), Description: strings.Join(lines, "\n") + "\n\n" + safety.Cautions[0], Cancelled: on > ended})
		}
		for _, x := range f.path.all(on) {
			if x.Stage != transition.Home { // every day; not an appointment
				out = append(out, formats.Event{UID: f.uid(on, "ramp-"+string(x.Stage)), Sequence: seq, Changed: changed, Day: on, Summary: x.Words, Description: safety.Cautions[0], Cancelled: on > ended})
			}
		}
		if what := f.retestOn(on); what != "" {
			out = append(out, formats.Event{UID: f.uid(on, "retest"), Sequence: seq, Changed: changed, Day: on, Summary: "Test again: " + what, Cancelled: on > ended})
		}
	}
	// What stood in the plan as it was made and stands nowhere now.
	made := *f
	made.changes = nil
	for on := f.start; on <= f.end(); on++ {
		for _, s := range made.sessionsOn(on) {
			uid := f.uid(s.origin, string(s.Kind))
			if _, timed := hours[s.Kind]; timed && !have[uid] {
				out = append(out, formats.Event{UID: uid, Sequence: seq, Changed: changed, Start: at(on, s.Kind), Length: 5 * time.Minute, Summary: words.SessionName(s.Kind), Cancelled: true})
			}
		}
	}
	return out
}

func fileName(runner, what, ext string) string {
	name := strings.Trim(notSlug.ReplaceAllString(strings.ToLower(runner), "-"), "-")
	if name == "" {
		name = "runner"
	}
	return name + "-" + what + "." + ext
}

// PlanFile returns a block as ics, csv or pdf.
func (a *App) PlanFile(ctx context.Context, act Actor, block, kind string) (File, error) {
	var out File
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.openBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		f := k.f
		if err := tx.LogAccess(ctx, b.RunnerID, act.User.ID, "export"); err != nil {
			return err
		}
		var buf bytes.Buffer
		out.Name = fileName(f.runner.Name, "plan", kind)
		switch kind {
		case "ics":
			out.Type = "text/calendar; charset=utf-8"
			err = formats.Calendar(&buf, "Plan of "+f.runner.Name, f.events(act.zone))
		case "csv":
			out.Type = "text/csv; charset=utf-8"
			err = formats.PlanCSV(&buf, f.rows())
		case "pdf":
			out.Type = "application/pdf"
			err = formats.PlanPDF(&buf, f.sheet(a.now().In(act.zone)))
		default:
			return ErrNotFound
		}
		out.Body = buf.Bytes()
		return err
	})
	return out, err
}

func (f *frame) rows() []formats.Row {
	out := []formats.Row{}
	for _, w := range f.weeks() {
		for _, d := range w.Days {
			for _, x := range d.Ramp {
				out = append(out, formats.Row{On: d.On, Week: w.Number, WeekKind: w.Label, Session: words.SessionName(planning.Exposure), Ladder: x.Name, Left: x.Words, Right: x.Words, Minutes: float64(x.Minutes), Completed: x.Done})
			}
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					p, _ := f.prescription(x.Ladder)
					n, _ := f.notchOn(p, body.Left, d.On)
					out = append(out, formats.Row{On: d.On, Week: w.Number, WeekKind: w.Label, Session: s.Name, When: s.When, Ladder: x.Name, Exercise: n.Exercise.Name,
						Left: x.Left, Right: x.Right, Minutes: n.Seconds() / 60, Completed: d.Logged})
				}
			}
		}
	}
	return out
}

// PainRules are what every printed plan says about pain.
var PainRules = []string{
	"Pain during work: 0 to 3 fine; 4 or 5 go on slower; 6 or more ends that exercise; 8 or more, a pop, numbness or a limp ends the session: call your coach.",
	"The next morning decides: first steps as usual or one more are fine; two more than usual means less next time.",
	"A missed day is not made up by doubling.",
}

var shortDays = [7]string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}

// sheet is the plan to print: the weeks from this one on, or all of a plan that
// is over or still to come.
func (f *frame) sheet(made time.Time) formats.Sheet {
	s := formats.Sheet{Title: "Plan of " + f.runner.Name, Runner: f.runner.Name, Made: made, Rules: PainRules, Cautions: safety.Cautions, Weeks: []formats.SheetWeek{}}
	for _, w := range f.weeks() {
		if last := w.Days[6].On; last < f.today && f.today <= f.end() {
			continue
		}
		head := fmt.Sprintf("Week %d, from %s", w.Number, w.Days[0].On.Words())
		wk := formats.SheetWeek{Heading: head, Work: []formats.SheetWork{}, Notes: []string{}}
		if w.Label != "" {
			wk.Heading += ", a " + w.Label + " week"
		}
		days := map[string][]int{}
		var order []DoseView
		for i, d := range w.Days {
			sd := formats.SheetDay{Name: shortDays[i] + d.On.Time().Format(" 2 Jan"), Lines: []string{}}
			if d.Run != planning.NoRun {
				sd.Lines = append(sd.Lines, string(d.Run)+" run")
			}
			if d.Race {
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
				sd.Lines = append(sd.Lines, line)
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
			wk.Work = append(wk.Work, f.sheetWork(dose, days[dose.Ladder], w.Days[days[dose.Ladder][0]].On))
		}
		s.Weeks = append(s.Weeks, wk)
	}
	return s
}

func (f *frame) sheetWork(d DoseView, days []int, on day.Date) formats.SheetWork {
	p, _ := f.prescription(d.Ladder)
	n, _ := f.notchOn(p, body.Left, on)
	x := formats.SheetWork{Name: d.Name, Left: d.Left, Right: d.Right, Tempo: words.Tempo(n.Dose), SetUp: n.Exercise.SetUp, Cues: n.Exercise.Cues, Start: []figure.Stroke{}, End: []figure.Stroke{}}
	names := make([]string, len(days))
	for i, k := range days {
		names[i] = shortDays[k]
	}
	x.Days = strings.Join(names, " ")
	if len(days) == 7 {
		x.Days = "every day"
	}
	if n.Dose.More != "" {
		x.SetUp += " " + strings.ToUpper(n.Dose.More[:1]) + n.Dose.More[1:] + "."
	}
	if pic := f.layers.picture(n.Exercise); pic != nil {
		x.Start, x.End = pic.Start, pic.End
	}
	return x
}

// PrintView is the plan as it is printed from the screen.
type PrintView struct {
	Sheet formats.Sheet `json:"sheet"`
}

// PrintSheet returns what is printed of a block.
func (a *App) PrintSheet(ctx context.Context, act Actor, block string) (PrintView, error) {
	var out PrintView
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.openBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		out.Sheet = k.f.sheet(a.now().In(act.zone))
		return nil
	})
	return out, err
}

// FeedView is a runner's calendar address. The address itself is shown once.
type FeedView struct {
	Live int    `json:"live" doc:"How many addresses work"`
	Path string `json:"path,omitempty" doc:"The new address; it can't be shown again"`
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// AddFeed makes a calendar address for a runner's plan.
func (a *App) AddFeed(ctx context.Context, act Actor, runner string) (FeedView, error) {
	token := rand.Text() // 128 bits and more
	out := FeedView{Path: "/calendar/" + token + ".ics"}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.AddFeed(ctx, runner, tokenHash(token), act.User.ID); err != nil {
			return err
		}
		list, err := tx.Feeds(ctx, runner)
		out.Live = len(list)
		if err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.now(), &act.User.ID, "calendar", "A calendar address was made", nil)
	})
	return out, err
}

// Feeds says how many calendar addresses of a runner work.
func (a *App) Feeds(ctx context.Context, act Actor, runner string) (FeedView, error) {
	var out FeedView
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.Feeds(ctx, runner)
		out.Live = len(list)
		return err
	})
	return out, err
}

// RevokeFeeds ends all calendar addresses of a runner.
func (a *App) RevokeFeeds(ctx context.Context, act Actor, runner string) (FeedView, error) {
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.RevokeFeeds(ctx, runner, a.now()); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.now(), &act.User.ID, "calendar", "All calendar addresses were ended", nil)
	})
	return FeedView{}, err
}

// feedBlocks is how many of a runner's newest blocks a calendar carries: the
// present one, and earlier ones so that what was replaced is cancelled.
const feedBlocks = 3

// FeedCalendar returns the calendar behind an address; ErrNotFound for one that
// does not work.
func (a *App) FeedCalendar(ctx context.Context, token string) (File, error) {
	practice, runner, err := a.store.FeedOwner(ctx, tokenHash(token))
	if err != nil {
		return File{}, err
	}
	var out File
	err = a.store.In(ctx, practice, func(tx *store.Tx) error {
		zone, err := tx.Zone(ctx)
		if err != nil {
			return err
		}
		act := Actor{Practice: practice}
		if act.zone, err = time.LoadLocation(zone); err != nil {
			return err
		}
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		blocks, err := tx.Blocks(ctx, runner)
		if err != nil {
			return err
		}
		var events []formats.Event
		for _, b := range blocks[:min(len(blocks), feedBlocks)] {
			k, err := a.openBlock(ctx, tx, act, b)
			if err != nil {
				return err
			}
			events = append(events, k.f.events(act.zone)...)
		}
		var buf bytes.Buffer
		err = formats.Calendar(&buf, "Plan of "+r.Name, events)
		out = File{Name: "plan.ics", Type: "text/calendar; charset=utf-8", Body: buf.Bytes()}
		return err
	})
	return out, err
}
