package export

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// hours are when sittings stand in a calendar, local time. House: a hint; the
// runner moves them.
var hours = map[planning.SessionKind]struct{ hour, minute int }{
	planning.Micro: {7, 30}, planning.Main: {18, 0}, planning.EveKind: {20, 0}, planning.RoutineKind: {18, 0},
}

// ReminderKind is a kind of event a calendar can remind of.
type ReminderKind string

// The kinds of reminders.
const (
	RemindMorning ReminderKind = "morning"
	RemindMain    ReminderKind = "main"
	RemindMicro   ReminderKind = "micro"
	RemindEvening ReminderKind = "evening"
	RemindRamp    ReminderKind = "ramp"
	RemindRetest  ReminderKind = "retest"
)

// A reminder says how long before an event a calendar rings; for a whole day it is
// after its first minute. The hours are house.
type reminder struct {
	kind   ReminderKind
	name   string
	words  string
	before time.Duration
}

var reminders = []reminder{
	{RemindMorning, "First steps", "every day at 7:00", 0},
	{RemindMicro, "Short session", "at its time, 7:30", 0},
	{RemindMain, "Main session", "half an hour before its time, 18:00", 30 * time.Minute},
	{RemindEvening, "Evening session", "at its time, 20:00", 0},
	{RemindRamp, "Barefoot work", "at 8:00 on the day", -8 * time.Hour},
	{RemindRetest, "Tests again", "at 18:00 the day before", 6 * time.Hour},
}

// usualReminders ring before anybody chose.
var usualReminders = []string{string(RemindMain), string(RemindRetest)}

// Hour of the question about first steps.
const morningHour = 7

// kept is what of an event is kept: what a reader sees of it.
type kept struct {
	Kind        string    `json:"kind"`
	Start       time.Time `json:"start"`
	Minutes     int       `json:"minutes"`
	Day         day.Date  `json:"day"`
	Summary     string    `json:"summary"`
	Description string    `json:"description"`
}

func (k kept) same(x kept) bool {
	start := k.Start.Equal(x.Start)
	k.Start, x.Start = time.Time{}, time.Time{}
	return start && k == x
}

// standing is an event of a plan as it stands.
type standing struct {
	uid string
	kept
}

func uid(f *record.Frame, origin day.Date, kind string) string {
	return fmt.Sprintf("%s-%s-%s@notchback", f.Block.ID, origin, kind)
}

// eventsOf turns a block as it stands into calendar events. A sitting keeps its UID
// when it is moved.
func eventsOf(f *record.Frame, zone *time.Location, morning bool) []standing {
	ended := f.End()
	if f.Block.EndedAt != nil {
		ended = min(ended, day.Of(*f.Block.EndedAt, zone)-1)
	}
	out := []standing{}
	add := func(id string, k kept) { out = append(out, standing{id, k}) }
	if c := f.Care(); c != nil {
		add(uid(f, f.Today, "care"), kept{Kind: "care", Day: f.Today, Summary: c.Title, Description: strings.Join(append([]string{c.Do, c.Text}, append(c.Signs, c.After)...), "\n")})
	}
	paused := pausedLines(f)
	for on := f.Start; on <= ended; on++ {
		for _, v := range view.SessionViews(f, on) {
			h, timed := hours[v.Kind]
			if !timed {
				continue
			}
			origin := on
			if v.Moved != nil {
				origin = *v.Moved
			}
			var lines []string
			for _, d := range v.Doses {
				dose := d.Left
				if !d.Same {
					dose = "left " + d.Left + ", right " + d.Right
				}
				for _, more := range []string{d.Load, d.Note, d.Limits} {
					if more != "" {
						dose += "; " + more
					}
				}
				lines = append(lines, d.Name+": "+dose)
			}
			if v.Litmus != "" {
				lines = append(lines, v.Litmus)
			}
			lines = append(lines, paused...)
			kind := map[planning.SessionKind]ReminderKind{planning.Micro: RemindMicro, planning.Main: RemindMain, planning.EveKind: RemindEvening, planning.RoutineKind: RemindMain}[v.Kind]
			name := string(v.Kind)
			if r := v.Routine; r != nil {
				name += "-" + r.ID
				if v.When == words.RoutineWhen(routine.Evening) {
					h, kind = hours[planning.EveKind], RemindEvening
				}
				for _, x := range r.Dropped {
					lines = append(lines, "Not now – "+x)
				}
				if r.Late != "" {
					lines = append(lines, r.Late)
				}
			}
			add(uid(f, origin, name), kept{Kind: string(kind), Day: on, Start: on.At(h.hour, h.minute, 0, zone).UTC(), Minutes: max(5, v.Minutes),
				Summary: fmt.Sprintf("%s, %d min", v.Name, v.Minutes), Description: strings.Join(lines, "\n") + "\n\n" + safety.Cautions[0]})
		}
		for _, x := range view.RampOn(f, on) {
			if x.Stage != transition.Home { // every day; not an appointment
				add(uid(f, on, "ramp-"+string(x.Stage)), kept{Kind: string(RemindRamp), Day: on, Summary: x.Words, Description: safety.Cautions[0]})
			}
		}
		if what := view.RetestOn(f, on); what != "" {
			add(uid(f, on, "retest"), kept{Kind: string(RemindRetest), Day: on, Summary: "Test again: " + what})
		}
		if morning && on >= f.Today {
			add(uid(f, on, "morning"), kept{Kind: string(RemindMorning), Day: on, Start: on.At(morningHour, 0, 0, zone).UTC(), Minutes: 5, Summary: "First steps: how many of ten?", Description: "Tell it on your phone."})
		}
	}
	return out
}

// given lays a plan as it stands over what was given before. An event is stamped anew
// only where its text or its time changed; what is gone is cancelled; days that are
// over stay as they were last read.
func given(was []store.CalendarEvent, now []standing, block string, today day.Date, at time.Time) (all, changed []store.CalendarEvent, err error) {
	before := map[string]store.CalendarEvent{}
	for _, e := range was {
		before[e.UID] = e
	}
	seen := map[string]bool{}
	for _, s := range now {
		seen[s.uid] = true
		old, known := before[s.uid]
		over := known && app.DateOf(old.On) < today && s.Day < today
		if known {
			var k kept
			if err := json.Unmarshal(old.Body, &k); err != nil {
				return nil, nil, fmt.Errorf("event %s: %w", s.uid, err)
			}
			if over || !old.Cancelled && k.same(s.kept) {
				all = append(all, old)
				continue
			}
		}
		raw, err := json.Marshal(s.kept)
		if err != nil {
			return nil, nil, err
		}
		e := store.CalendarEvent{UID: s.uid, BlockID: block, On: s.Day.Time(), Body: raw, ChangedAt: at}
		if known {
			e.Sequence = old.Sequence + 1
		}
		all, changed = append(all, e), append(changed, e)
	}
	for _, e := range was {
		if seen[e.UID] {
			continue
		}
		if !e.Cancelled && app.DateOf(e.On) >= today {
			e.Cancelled, e.Sequence, e.ChangedAt = true, e.Sequence+1, at
			changed = append(changed, e)
		}
		all = append(all, e)
	}
	slices.SortStableFunc(all, func(a, b store.CalendarEvent) int { return a.On.Compare(b.On) })
	return all, changed, nil
}

// writeCalendar writes the calendar of blocks of one runner, and keeps what it gave.
func (a *Exports) writeCalendar(ctx context.Context, tx *store.Tx, w io.Writer, zone *time.Location, blocks ...*record.Desk) error {
	if len(blocks) == 0 {
		return formats.Calendar(w, "Plan", nil)
	}
	runner := blocks[0].F.Runner
	kinds, err := kindsOf(ctx, tx, runner.ID)
	if err != nil {
		return err
	}
	var out []formats.Event
	for _, k := range blocks {
		was, err := tx.CalendarEvents(ctx, k.F.Block.ID)
		if err != nil {
			return err
		}
		list, changed, err := given(was, eventsOf(k.F, zone, slices.Contains(kinds, string(RemindMorning))), k.F.Block.ID, k.F.Today, a.Now())
		if err != nil {
			return err
		}
		if err := tx.PutCalendarEvents(ctx, runner.ID, changed); err != nil {
			return err
		}
		for _, e := range list {
			v, err := eventOf(e, kinds)
			if err != nil {
				return err
			}
			out = append(out, v)
		}
	}
	return formats.Calendar(w, "Plan of "+runner.Name, out)
}

func eventOf(e store.CalendarEvent, kinds []string) (formats.Event, error) {
	var k kept
	if err := json.Unmarshal(e.Body, &k); err != nil {
		return formats.Event{}, fmt.Errorf("event %s: %w", e.UID, err)
	}
	v := formats.Event{UID: e.UID, Sequence: e.Sequence, Changed: e.ChangedAt, Start: k.Start, Length: time.Duration(k.Minutes) * time.Minute, Day: k.Day, Summary: k.Summary, Description: k.Description, Cancelled: e.Cancelled}
	if i := slices.IndexFunc(reminders, func(r reminder) bool { return string(r.kind) == k.Kind }); i >= 0 && slices.Contains(kinds, k.Kind) && !e.Cancelled {
		v.Alarm = &reminders[i].before
	}
	return v, nil
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
func (a *Exports) AddFeed(ctx context.Context, act app.Actor, runner string) (FeedView, error) {
	token := rand.Text() // 128 bits and more
	out := FeedView{Path: "/calendar/" + token + ".ics"}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
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
		return tx.Note(ctx, runner, a.Now(), &act.User.ID, "calendar", "A calendar address was made", nil)
	})
	return out, err
}

// Feeds says how many calendar addresses of a runner work.
func (a *Exports) Feeds(ctx context.Context, act app.Actor, runner string) (FeedView, error) {
	var out FeedView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
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
func (a *Exports) RevokeFeeds(ctx context.Context, act app.Actor, runner string) (FeedView, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.RevokeFeeds(ctx, runner, a.Now()); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.Now(), &act.User.ID, "calendar", "All calendar addresses were ended", nil)
	})
	return FeedView{}, err
}

// feedBlocks is how many of a runner's newest blocks a calendar carries: the
// present one, and earlier ones so that what was replaced is cancelled.
const feedBlocks = 3

// FeedCalendar returns the calendar behind an address; ErrNotFound for one that
// does not work.
func (a *Exports) FeedCalendar(ctx context.Context, token string) (app.File, error) {
	practice, runner, err := a.Store.FeedOwner(ctx, tokenHash(token))
	if err != nil {
		return app.File{}, err
	}
	var out app.File
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		zone, err := tx.Zone(ctx)
		if err != nil {
			return err
		}
		act := app.Actor{Practice: practice}
		if act.Zone, err = time.LoadLocation(zone); err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, a.Now(), store.Access{Runner: &runner, Action: "getCalendar"}, true); err != nil {
			return err
		}
		blocks, err := tx.Blocks(ctx, runner)
		if err != nil {
			return err
		}
		var desks []*record.Desk
		for _, b := range blocks[:min(len(blocks), feedBlocks)] {
			k, err := a.OpenBlock(ctx, tx, act, b)
			if err != nil {
				return err
			}
			desks = append(desks, k)
		}
		var buf bytes.Buffer
		err = a.writeCalendar(ctx, tx, &buf, act.Zone, desks...)
		out = app.File{Name: "plan.ics", Type: "text/calendar; charset=utf-8", Body: buf.Bytes()}
		return err
	})
	return out, err
}

// RemindersView is what a runner's calendar reminds of.
type RemindersView struct {
	Kinds []ReminderView `json:"kinds" nullable:"false"`
	Live  int            `json:"live" doc:"How many calendar addresses of the runner work"`
}

// ReminderView is one kind of reminder.
type ReminderView struct {
	Kind  ReminderKind `json:"kind"`
	Name  string       `json:"name"`
	Words string       `json:"words" doc:"When it rings"`
	On    bool         `json:"on"`
}

func kindsOf(ctx context.Context, tx *store.Tx, runner string) ([]string, error) {
	kinds, err := tx.Reminders(ctx, runner)
	if errors.Is(err, app.ErrNotFound) {
		return usualReminders, nil
	}
	return kinds, err
}

// Reminders says what a runner's calendar reminds of.
func (a *Exports) Reminders(ctx context.Context, act app.Actor, runner string) (RemindersView, error) {
	out := RemindersView{Kinds: []ReminderView{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		kinds, err := kindsOf(ctx, tx, runner)
		if err != nil {
			return err
		}
		for _, r := range reminders {
			out.Kinds = append(out.Kinds, ReminderView{r.kind, r.name, r.words, slices.Contains(kinds, string(r.kind))})
		}
		list, err := tx.Feeds(ctx, runner)
		out.Live = len(list)
		return err
	})
	return out, err
}

// PutReminders chooses what it reminds of.
func (a *Exports) PutReminders(ctx context.Context, act app.Actor, runner string, kinds []string) (RemindersView, error) {
	list := []string{}
	for _, r := range reminders {
		if slices.Contains(kinds, string(r.kind)) {
			list = append(list, string(r.kind))
		}
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error { return tx.PutReminders(ctx, runner, list) })
	if err != nil {
		return RemindersView{}, err
	}
	return a.Reminders(ctx, act, runner)
}
