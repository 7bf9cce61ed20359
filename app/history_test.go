package app_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/record"
	"notchback/app/running"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/store"
)

// Drawn histories through the application and PostgreSQL end, event by event,
// where the pure run ends: 25 here, 500 in make trials-engine
// (NOTCHBACK_HISTORIES).
func TestHistoriesEndAsThePureRunDoes(t *testing.T) {
	n := 9
	if v, err := strconv.Atoi(os.Getenv("NOTCHBACK_HISTORIES")); err == nil {
		n = v
	}
	r := newRig(t, 21)
	for seed := range n {
		r.at(start, 9)
		id := newRunner(t, r, fmt.Sprintf("Runner %d", seed), []float64{8, 14, 21}[seed%3])
		list, err := r.a.Screenings(ctx, r.act, id)
		require.NoError(t, err)
		r.block, err = r.a.PlanBlock(ctx, r.act, "", id, block.BlockInput{ScreeningID: list[0].ID})
		require.NoError(t, err)
		r.runner, err = r.a.Runner(ctx, r.act, id)
		require.NoError(t, err)
		if seed%4 == 0 {
			require.NoError(t, r.a.SetAutoProgress(ctx, r.act, id, true))
		}
		h := &twin{rig: r, seed: uint64(seed)}
		h.start()
		h.live()
	}
}

// twin lives one history in the application and beside it.
type twin struct {
	*rig
	seed  uint64
	pure  course.Record
	seen  int64
	looks int
}

func (h *twin) record() course.Record {
	var out course.Record
	require.NoError(h.t, h.a.Store.In(ctx, h.act.Practice, func(tx *store.Tx) error {
		k, err := (&record.Book{App: h.a.App}).Open(ctx, tx, h.act, h.runner.ID, nil)
		if err == nil {
			out = k.Rec
		}
		return err
	}))
	return out
}

func (h *twin) start() {
	h.pure = h.record()
	h.seen = h.pure.State.Seq
}

// follow takes over what arrived in the application and decides it apart, then
// compares.
func (h *twin) follow(what string) {
	rec := h.record()
	news := func(seq int64) bool { return seq > h.seen }
	now := course.Moment{On: day.Of(h.clock, h.clock.Location()), Hour: h.clock.Hour()}
	decide := func() {
		changes, err := course.Decide(context.Background(), h.pure, now)
		require.NoError(h.t, err)
		h.pure = h.pure.With(changes)
	}
	// The way back to running comes in by itself; its ladder is taken over where it
	// came in: before an answer, which is preceded by a look, and after everything else.
	grown := len(rec.Block.Prescriptions) > len(h.pure.Block.Prescriptions)
	if grown && what == "an answer" {
		decide()
		h.pure.Block = rec.Block
	}
	h.pure.Visits = append(h.pure.Visits, fresh(rec.Visits, func(x course.Visit) bool { return news(x.Seq) })...)
	h.pure.Clearances = append(h.pure.Clearances, fresh(rec.Clearances, func(x course.Clearance) bool { return news(x.Seq) })...)
	h.pure.Mornings = append(h.pure.Mornings, fresh(rec.Mornings, func(x course.Morning) bool { return news(x.Seq) })...)
	h.pure.Runs = append(h.pure.Runs, fresh(rec.Runs, func(x course.Run) bool { return news(x.Seq) })...)
	h.pure.Days = append(h.pure.Days, fresh(rec.Days, func(x course.Day) bool { return news(x.Seq) })...)
	h.pure.Logs = append(h.pure.Logs, fresh(rec.Logs, func(x course.Log) bool { return news(x.Seq) })...)
	h.pure.Answers = append(h.pure.Answers, fresh(rec.Answers, func(x course.Answer) bool { return news(x.Seq) })...)
	h.seen = max(h.seen, rec.State.Seq)
	decide()
	if grown {
		h.pure.Block = rec.Block
		decide()
	}
	for _, s := range rec.State.Seats {
		got := h.pure.State.Peg(course.Seat{Prescription: s.Prescription, Side: s.Side})
		want, err := json.Marshal(s.Peg)
		require.NoError(h.t, err)
		have, err := json.Marshal(got)
		require.NoError(h.t, err)
		require.JSONEq(h.t, string(want), string(have), "seed %d, after %s on %s: %s %s", h.seed, what, now.On, s.Prescription, s.Side)
	}
	require.Equal(h.t, keys(rec.Decisions), keys(h.pure.Decisions), "seed %d, after %s on %s", h.seed, what, now.On)
	h.shown(what)
	require.Equal(h.t, len(rec.Raised), len(h.pure.Raised), "seed %d, flags after %s on %s", h.seed, what, now.On)
}

// shown looks at what people read: nothing that is closed today stands in a coming
// day, on the sheet, in the PDF or in the calendar.
func (h *twin) shown(what string) {
	if h.looks++; h.looks%9 != 0 {
		return
	}
	b, err := h.a.CurrentBlock(ctx, h.act, h.runner.ID)
	require.NoError(h.t, err)
	shut := map[string]bool{}
	for _, p := range b.Prescriptions {
		if p.Today[0].Notch == 0 && p.Today[1].Notch == 0 {
			shut[p.Ladder] = true
		}
	}
	names := map[string]bool{}
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			if d.On < b.Today {
				continue
			}
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					require.False(h.t, shut[x.Ladder], "seed %d after %s: %s on %s", h.seed, what, x.Name, d.On)
					for i, words := range []string{x.Left, x.Right} {
						for _, p := range b.Prescriptions {
							if p.Ladder == x.Ladder && p.Today[i].Notch == 0 {
								require.Equal(h.t, "not now", words, "seed %d: %s", h.seed, x.Name)
							}
						}
					}
				}
			}
		}
	}
	for _, p := range b.Prescriptions {
		if shut[p.Ladder] {
			names[p.Name] = true
		}
	}
	for _, m := range b.Minimum {
		require.False(h.t, names[m.Name] && shut[m.Ladder], "seed %d: five minutes of %s", h.seed, m.Name)
	}
	sheet, err := h.a.PrintSheet(ctx, h.act, b.ID)
	require.NoError(h.t, err)
	for _, w := range sheet.Sheet.Weeks {
		for _, x := range w.Work {
			require.False(h.t, names[x.Name], "seed %d after %s: %s on the sheet", h.seed, what, x.Name)
		}
	}
	cal, err := h.a.PlanFile(ctx, h.act, b.ID, "ics")
	require.NoError(h.t, err)
	text := strings.ReplaceAll(string(cal.Body), "\r\n ", "")
	for _, ev := range strings.Split(text, "BEGIN:VEVENT")[1:] {
		if strings.Contains(ev, "STATUS:CANCELLED") || !after(ev, b.Today) {
			continue
		}
		for n := range names {
			require.NotContains(h.t, ev, n+": ", "seed %d after %s: %s in the calendar", h.seed, what, n)
		}
	}
}

// after reports an event of a date or later.
func after(event string, on day.Date) bool {
	_, rest, ok := strings.Cut(event, "DTSTART")
	i := strings.Index(rest, ":")
	return ok && i > 0 && len(rest) > i+9 && rest[i+1:i+9] >= strings.ReplaceAll(on.String(), "-", "")
}

// keys names decisions and how they stand.
func keys(list []course.Decision) []string {
	out := make([]string, len(list))
	for i, d := range list {
		out[i] = fmt.Sprintf("%s %s %s", d.Key, d.State, d.D.Verdict)
	}
	return out
}

func fresh[T any](list []T, keep func(T) bool) []T {
	return slices.DeleteFunc(slices.Clone(list), func(x T) bool { return !keep(x) })
}

func (h *twin) live() {
	r := rand.New(rand.NewPCG(h.seed, 14))
	pain := func() int {
		if r.IntN(8) == 0 {
			return r.IntN(10)
		}
		return r.IntN(4)
	}
	on := start
	for range 22 {
		on += day.Date(r.IntN(3))
		if at := on.Time().Add(time.Duration(8+r.IntN(12)) * time.Hour); at.After(h.clock) {
			h.clock = at
		}
		today := h.a.Today(h.act)
		switch k := r.IntN(12); {
		case k < 4 && r.IntN(6) == 0:
			h.correct(r, pain)
			h.follow("a corrected session")
		case k < 4:
			h.session(today-day.Date(r.IntN(2)), pain)
			h.follow("a session")
		case k < 7:
			_, err := h.a.PutMorning(ctx, h.act, h.runner.ID, today-day.Date(r.IntN(3)), r.IntN(6), "asked again")
			require.NoError(h.t, err)
			h.follow("a morning")
		case k == 7:
			in := input.DayInput{Readings: []input.PlaceReading{{Zone: []string{"heel", "calf", "ball"}[r.IntN(3)], Side: body.Sides[r.IntN(2)], FirstStep: ptr(r.IntN(7)), Rest: ptr(r.IntN(4))}}, PoorSleep: r.IntN(3) == 0, Reason: "looked again"}
			if r.IntN(6) == 0 {
				in.Illness = "fever"
			}
			_, err := h.a.PutDay(ctx, h.act, h.runner.ID, today, in)
			require.NoError(h.t, err)
			h.follow("a day")
		case k == 8:
			in := running.RunInput{On: today, Km: 5 + float64(r.IntN(12)), Minutes: 90, Pain: ptr(pain())}
			_, err := h.a.AddRun(ctx, h.act, "", h.runner.ID, in)
			require.NoError(h.t, err)
			h.follow("a run")
		case k == 9:
			runs, err := h.a.Runs(ctx, h.act, h.runner.ID)
			require.NoError(h.t, err)
			if len(runs) > 0 {
				in := runs[0].RunInput
				in.Pain, in.Reason = ptr(pain()), "asked again"
				_, err = h.a.ChangeRun(ctx, h.act, runs[0].ID, runs[0].Rev, in)
				require.NoError(h.t, err)
				h.follow("a corrected run")
			}
		case k == 10 && r.IntN(4) == 0:
			err := h.a.AddClearance(ctx, h.act, h.runner.ID, intake.ClearanceInput{Flag: safety.Severe, Role: "doctor", Allowed: "all", Until: today + 30})
			if err == nil {
				h.follow("a clearance")
			}
		default:
			h.answer(r)
			h.follow("an answer")
		}
	}
}

// session logs what the ladders ask on a date that has none yet.
func (h *twin) session(on day.Date, pain func() int) {
	b, err := h.a.CurrentBlock(ctx, h.act, h.runner.ID)
	require.NoError(h.t, err)
	in := daily.SessionInput{On: max(on, start)}
	for i, p := range b.Prescriptions {
		if i%2 == 1 || p.Pegs[0].Stopped || p.Pegs[1].Stopped {
			continue
		}
		item := func(side body.Side) daily.ItemInput {
			return daily.ItemInput{PrescriptionID: p.ID, Side: side, Pain: ptr(pain()), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3), SureTwenty: ptr(true)}
		}
		if p.Together {
			in.Items = append(in.Items, item(body.Both))
		} else {
			in.Items = append(in.Items, item(body.Left), item(body.Right))
		}
	}
	if len(in.Items) == 0 {
		return
	}
	_, err = h.a.LogSession(ctx, h.act, "", b.ID, in)
	var invalid app.Invalid
	if !errors.As(err, &invalid) { // that day has one
		require.NoError(h.t, err)
	}
}

// correct puts the newest session right, or takes it back.
func (h *twin) correct(r *rand.Rand, pain func() int) {
	b, err := h.a.CurrentBlock(ctx, h.act, h.runner.ID)
	require.NoError(h.t, err)
	list, err := h.a.LoggedSessions(ctx, h.act, b.ID)
	require.NoError(h.t, err)
	if len(list) == 0 {
		return
	}
	in := daily.Correction{Reason: "typed wrong"}
	if r.IntN(3) > 0 {
		in.Session = &daily.SessionInput{On: list[0].On}
		for _, it := range list[0].Items {
			x := it.ItemInput
			x.Pain = ptr(pain())
			in.Session.Items = append(in.Session.Items, x)
		}
	}
	_, err = h.a.CorrectSession(ctx, h.act, b.ID, list[0].ID, in)
	require.NoError(h.t, err)
}

// answer says something to one of the newest decisions.
func (h *twin) answer(r *rand.Rand) {
	b, err := h.a.CurrentBlock(ctx, h.act, h.runner.ID)
	require.NoError(h.t, err)
	for _, d := range b.Decisions[:min(len(b.Decisions), 6)] {
		switch {
		case d.State == "proposed" && r.IntN(3) > 0:
			_, err = h.a.AcceptDecision(ctx, h.act, d.ID, d.Version)
		case d.MayTakeBack:
			_, err = h.a.TakeBackAnswer(ctx, h.act, d.ID, d.Version)
		case r.IntN(5) == 0:
			_, err = h.a.OverrideDecision(ctx, h.act, d.ID, d.Version, daily.OverrideInput{Notch: max(1, d.Decision.From-1+r.IntN(3)), Reason: "as the coach sees it"})
		default:
			continue
		}
		var refused app.Refused
		var invalid app.Invalid
		if !errors.As(err, &refused) && !errors.As(err, &invalid) {
			assert.NoError(h.t, err)
		}
		return
	}
}
