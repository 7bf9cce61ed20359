package app_test

import (
	"bytes"
	"encoding/json"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/apognu/gocal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/demo"
	"notchback/app/export"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/shelf"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/internal/demotest"
	"notchback/store"
)

// change asks for a change at the block's present revision.
func (r *rig) change(c input.BlockChange, insist bool) (block.ChangedBlock, error) {
	out, err := r.a.ChangeBlock(ctx, r.act, r.block.ID, block.ChangeInput{BlockChange: c, Revision: r.block.Revision, Insist: insist})
	if err == nil {
		r.block = *out.Block
	}
	return out, err
}

func (r *rig) look(c input.BlockChange) block.ChangedBlock {
	r.t.Helper()
	out, err := r.a.ChangeBlock(ctx, r.act, r.block.ID, block.ChangeInput{BlockChange: c, Revision: r.block.Revision, Preview: true})
	require.NoError(r.t, err)
	return out
}

func (r *rig) day(on day.Date) view.DayView {
	for _, w := range r.block.Weeks {
		for _, d := range w.Days {
			if d.On == on {
				return d
			}
		}
	}
	r.t.Fatalf("%s is not in the block", on)
	return view.DayView{}
}

func (r *rig) has(on day.Date, kind planning.SessionKind) bool {
	for _, s := range r.day(on).Sessions {
		if s.Kind == kind {
			return true
		}
	}
	return false
}

// mainDays are the days of the first whole week with a main session.
func (r *rig) mainDays() (with, without []day.Date) {
	for d := start + 7; d < start+14; d++ {
		if r.has(d, planning.Main) {
			with = append(with, d)
		} else {
			without = append(without, d)
		}
	}
	return with, without
}

func TestASessionMovesOnceOrEveryWeek(t *testing.T) {
	r := newRig(t, 21)
	with, without := r.mainDays()
	require.NotEmpty(t, with)
	from, to := with[0], without[0]
	before := r.block.Revision
	seen := r.look(input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to})
	assert.Nil(t, seen.Block, "a look stores nothing")
	c := input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to}
	if len(seen.Broken) > 0 {
		_, err := r.change(c, false)
		require.ErrorContains(t, err, "insist and say why")
		_, err = r.change(c, true)
		require.ErrorContains(t, err, "insist and say why", "insisting without a reason is not enough")
		c.Reason = "the hall is closed"
	}
	_, err := r.change(c, true)
	require.NoError(t, err)
	assert.Greater(t, r.block.Revision, before)
	assert.False(t, r.has(from, planning.Main))
	assert.True(t, r.has(to, planning.Main))
	assert.True(t, r.has(from+7, planning.Main), "once means once")

	_, err = r.a.ChangeBlock(ctx, r.act, r.block.ID, block.ChangeInput{BlockChange: c, Revision: before})
	require.ErrorIs(t, err, app.ErrConflict, "a second coach who read the old block is told")

	from, to = from+7, to+7
	c = input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to, Always: true, Reason: "the hall is closed"}
	_, err = r.change(c, true)
	require.NoError(t, err)
	assert.True(t, r.has(to, planning.Main))
	assert.True(t, r.has(to+7, planning.Main), "every week from then on")
	assert.False(t, r.has(from+7, planning.Main))
	require.NotEmpty(t, r.block.Changes)
	assert.Equal(t, "the hall is closed", r.block.Changes[0].Reason)

	past, gone := start-1, start+100
	for name, bad := range map[string]input.BlockChange{
		"a past day":       {Kind: "move", Session: planning.Main, From: &past, To: &to},
		"outside":          {Kind: "move", Session: planning.Main, From: &to, To: &gone},
		"nothing there":    {Kind: "move", Session: planning.EveKind, From: &from, To: &to},
		"no such ladder":   {Kind: "days", Ladder: "juggling", Days: []int{1}},
		"no day":           {Kind: "days", Ladder: "calf-straight"},
		"an eighth day":    {Kind: "days", Ladder: "calf-straight", Days: []int{7}},
		"a monstrous dose": {Kind: "dose", Ladder: "calf-straight", Notch: 8, Dose: &catalogue.Dose{Sets: 10, Reps: 300}},
		"without a reason": {Kind: "leave-out", Ladder: "calf-straight"},
	} {
		_, err := r.change(bad, true)
		var invalid app.Invalid
		require.ErrorAs(t, err, &invalid, name)
	}
}

func TestEditsShowWhatTheyDo(t *testing.T) {
	r := newRig(t, 21)
	p := r.calf()
	require.Equal(t, 8, p.Pegs[0].Notch)
	more, less := p.Dose, p.Dose
	more.Reps, less.Reps = more.Reps+3, less.Reps-4
	seen := r.look(input.BlockChange{Kind: "dose", Ladder: p.Ladder, Notch: 8, Dose: &more})
	assert.Contains(t, strings.Join(seen.Consequences, "; "), "a reason is needed")
	_, err := r.change(input.BlockChange{Kind: "dose", Ladder: p.Ladder, Notch: 8, Dose: &more}, false)
	require.ErrorContains(t, err, "more than the notch")
	_, err = r.change(input.BlockChange{Kind: "dose", Ladder: p.Ladder, Notch: 8, Dose: &less}, false)
	require.NoError(t, err, "less needs no reason")
	require.NotNil(t, r.calf().Own)
	assert.Equal(t, less.Reps, r.calf().Own.Reps)
	_, err = r.change(input.BlockChange{Kind: "dose", Ladder: p.Ladder, Notch: 8}, false)
	require.NoError(t, err)
	assert.Nil(t, r.calf().Own, "back to the notch's dose")

	_, err = r.change(input.BlockChange{Kind: "leave-out", Ladder: p.Ladder, Reason: "sore on the stairs"}, false)
	require.NoError(t, err)
	assert.Equal(t, "sore on the stairs", r.calf().LeftOut)
	w, err := r.a.Wishes(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, w.Wishes.Excluded, 1, "the next plan remembers it")
	plan, err := r.a.PreviewPlan(ctx, r.act, r.runner.ID, block.PreviewInput{})
	require.NoError(t, err)
	for _, c := range plan.Choices {
		assert.NotEqual(t, p.Ladder, c.Ladder)
	}
	r.clock = r.clock.AddDate(0, 0, 28)
	plan, err = r.a.PreviewPlan(ctx, r.act, r.runner.ID, block.PreviewInput{})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(plan.Remarks, " "), "it can be tried again")
	r.clock = r.clock.AddDate(0, 0, -28)
	_, err = r.change(input.BlockChange{Kind: "add", Ladder: p.Ladder, Days: []int{1, 3}, Reason: "it was the shoes"}, true)
	require.NoError(t, err)
	assert.Empty(t, r.calf().LeftOut, "it comes back where it stood")
	_, err = r.change(input.BlockChange{Kind: "add", Ladder: "hip-bridge", Days: []int{1, 4}, Reason: "wanted"}, true)
	require.NoError(t, err)
	assert.Equal(t, "hip-bridge", r.block.Prescriptions[len(r.block.Prescriptions)-1].Ladder)
	_, err = r.change(input.BlockChange{Kind: "add", Ladder: "range-toe-end", Days: []int{1}, Reason: "wanted"}, true)
	require.Error(t, err, "what is closed can't be added by insisting")
}

func TestWishesThatCannotBe(t *testing.T) {
	r := newRig(t, 21)
	v, err := r.a.Wishes(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.True(t, v.Wishes.Assumed)
	try := func(change func(*planning.Wishes)) (block.PlanView, error) {
		w := v.Wishes
		change(&w)
		return r.a.PreviewPlan(ctx, r.act, r.runner.ID, block.PreviewInput{Wishes: &w})
	}
	for field, change := range map[string]func(*planning.Wishes){
		"wishes.minutes[2]":         func(w *planning.Wishes) { w.Minutes[2] = -5 },
		"wishes.runs[0]":            func(w *planning.Wishes) { w.Runs[0] = "sprint" },
		"wishes.weeks":              func(w *planning.Wishes) { w.Weeks = 40 },
		"wishes.sessions":           func(w *planning.Wishes) { w.Sessions = 0 },
		"wishes.owned[0]":           func(w *planning.Wishes) { w.Owned = []string{"trampoline"} },
		"wishes.added[0]":           func(w *planning.Wishes) { w.Added = []string{"juggling"} },
		"wishes.excluded[0].reason": func(w *planning.Wishes) { w.Excluded = []planning.Excluded{{Ladder: "calf-straight"}} },
		"wishes.race.km":            func(w *planning.Wishes) { w.Race = &planning.Race{On: start + 3, Km: 9000} },
		"wishes.school":             func(w *planning.Wishes) { w.School = planning.School{"barefoot": "always"} },
	} {
		_, err := try(change)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, field)
		assert.Equal(t, field, bad[0].Field)
	}
	none, err := try(func(w *planning.Wishes) { w.Minutes = [7]int{} })
	require.NoError(t, err)
	assert.False(t, none.Fits)
	require.NotEmpty(t, none.Minimum, "five minutes a day always exist")
	_, err = r.a.PlanBlock(ctx, r.act, "", r.runner.ID, block.BlockInput{ScreeningID: none.ScreeningID, Wishes: &none.Wishes})
	require.ErrorContains(t, err, "take one of the ways out")
	seven, err := try(func(w *planning.Wishes) {
		for i := range w.Runs {
			w.Runs[i] = planning.Easy
		}
	})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(seven.Remarks, " "), "No day without running")
	bare, err := try(func(w *planning.Wishes) { w.Owned = []string{} })
	require.NoError(t, err)
	assert.NotEmpty(t, bare.Choices, "a plan needs no kit")
	race, err := try(func(w *planning.Wishes) { w.Race = &planning.Race{On: start + 1, Km: 42} })
	require.NoError(t, err)
	assert.Contains(t, strings.Join(race.Remarks, " "), "within a week")
	jump, err := try(func(w *planning.Wishes) { w.WeeklyKm = ptr(40.0) })
	require.NoError(t, err)
	assert.NotContains(t, strings.Join(jump.Remarks, " "), "jump", "no history: nothing is invented")

	saved, err := r.a.PutWishes(ctx, r.act, r.runner.ID, 0, v.Wishes)
	require.NoError(t, err)
	assert.False(t, saved.Wishes.Assumed)
	_, err = r.a.PutWishes(ctx, r.act, r.runner.ID, 0, v.Wishes)
	require.ErrorIs(t, err, app.ErrConflict)
}

func TestTheShelfLiesOverTheBuiltInData(t *testing.T) {
	r := newRig(t, 21)
	_, err := r.a.PutExercise(ctx, r.act, shelf.OwnExercise{Name: "Sand walk", Short: "sand", Purpose: "strength", Sides: "together", Timing: "any", Cues: []string{}})
	var bad app.Invalid
	require.ErrorAs(t, err, &bad, "set-up and a cue are missing")
	s, err := r.a.PutExercise(ctx, r.act, shelf.OwnExercise{Name: "Sand walk", Short: "sand", Purpose: "strength", Sides: "together", Timing: "any", SetUp: "Walk along the tide line.", Cues: []string{"Long toes"}})
	require.NoError(t, err)
	own := s.Exercises[len(s.Exercises)-1]
	assert.Equal(t, "own-sand-walk", own.ID)
	assert.Nil(t, own.Picture)
	l := shelf.OwnLadder{Name: "Sand", Purpose: "strength", Place: "main", Min: 2, Max: 3, Effort: "none", Notches: []shelf.OwnNotch{{Exercise: own.ID, Dose: ""}}}
	_, err = r.a.PutLadder(ctx, r.act, l)
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "notches[0].dose", bad[0].Field, "an own exercise without a dose names its notch")
	l.Notches = []shelf.OwnNotch{{Exercise: own.ID, Dose: "2 × 5 min"}, {Exercise: own.ID, Dose: "1 × 5 min"}}
	_, err = r.a.PutLadder(ctx, r.act, l)
	require.ErrorAs(t, err, &bad, "volume must not fall")
	l.Notches = []shelf.OwnNotch{{Exercise: own.ID, Dose: "1 × 5 min"}, {Exercise: own.ID, Dose: "2 × 5 min"}, {Exercise: "raise-one", Dose: "3 x 8"}}
	_, err = r.a.PutLadder(ctx, r.act, l)
	require.NoError(t, err)
	plan, err := r.a.PreviewPlan(ctx, r.act, r.runner.ID, block.PreviewInput{Wishes: wishesWith(t, r, "own-sand")})
	require.NoError(t, err)
	found := false
	for _, c := range plan.Choices {
		found = found || c.Ladder == "own-sand"
	}
	assert.True(t, found)

	// A changed built-in ladder keeps tempo, gates and its start table; blocks
	// already made keep the ladder they were given.
	s, err = r.a.Shelf(ctx, r.act)
	require.NoError(t, err)
	edit := shelf.OwnLadder{ID: "calf-straight", Name: "Calf our way", Purpose: "strength", Place: "main", Tissues: nil, Min: 2, Max: 3, Effort: "reserve"}
	for _, x := range s.Ladders {
		if x.ID == "calf-straight" {
			edit.Tissues = x.Tissues
			for _, n := range x.Notches[:8] {
				if n.Words != "one leg 3 × 8" {
					edit.Notches = append(edit.Notches, shelf.OwnNotch{Exercise: n.Exercise, Dose: n.Typed, BodyPercent: n.Percent})
				}
			}
		}
	}
	s, err = r.a.PutLadder(ctx, r.act, edit)
	require.NoError(t, err)
	for _, x := range s.Ladders {
		if x.ID == "calf-straight" {
			require.Len(t, x.Notches, 7)
			assert.Equal(t, catalogue.Gate("single-leg-calf"), x.Notches[6].Gate, "an own ladder does not walk round a gate")
			assert.Contains(t, x.Notches[3].Tempo, "4 s", "the slow way down is kept")
			assert.Contains(t, strings.Join(x.StartWords, "; "), "from 20: one leg 3 × 12")
			assert.Contains(t, strings.Join(x.StartWords, "; "), "from 13: up on two, down on one 3 × 15", "a notch that is gone: the next easier")
		}
	}
	r.block, err = r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Equal(t, "Calf, straight knee", r.calf().Name)
	assert.Greater(t, len(r.calf().Notches), 7)

	_, err = r.a.PutLadder(ctx, r.act, edit)
	require.ErrorIs(t, err, app.ErrConflict, "changed meanwhile")
	s, err = r.a.Retire(ctx, r.act, "ladder", "calf-straight", 1, true)
	require.NoError(t, err)
	plan, err = r.a.PreviewPlan(ctx, r.act, r.runner.ID, block.PreviewInput{})
	require.NoError(t, err)
	for _, c := range plan.Choices {
		assert.NotEqual(t, "calf-straight", c.Ladder, "retired: not in new plans")
	}
	_, err = r.a.Retire(ctx, r.act, "ladder", "juggling", 0, true)
	require.ErrorIs(t, err, app.ErrNotFound)
	assert.NotEmpty(t, s.Ladders)
}

func wishesWith(t *testing.T, r *rig, ladder string) *planning.Wishes {
	v, err := r.a.Wishes(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	w := v.Wishes
	w.Added = []string{ladder}
	return &w
}

func TestACopiedBlockIsFittedAgain(t *testing.T) {
	r := newRig(t, 21)
	other := newRunner(t, r, "Yusra", 6)
	seen, err := r.a.CopyBlock(ctx, r.act, "", r.block.ID, block.CopyInput{RunnerID: other, Preview: true})
	require.NoError(t, err)
	assert.Nil(t, seen.Block)
	got, err := r.a.CopyBlock(ctx, r.act, "", r.block.ID, block.CopyInput{RunnerID: other})
	require.NoError(t, err)
	require.NotNil(t, got.Block)
	for _, p := range got.Block.Prescriptions {
		if p.Ladder == "calf-straight" {
			assert.Less(t, p.Pegs[0].Notch, r.calf().Pegs[0].Notch, "six raises do not start where 21 do")
			assert.Empty(t, p.Notches[p.Pegs[0].Notch-1].Locked)
		}
	}
	assert.Contains(t, strings.Join(got.Notes, "; "), "starts at notch")
}

// The calendar of a block that changes: the same UID with a higher sequence,
// what is gone is cancelled, a replaced block takes its coming days back.
func TestTheCalendarFollowsThePlan(t *testing.T) {
	r := newRig(t, 21)
	read := func() map[string]gocal.Event {
		f, err := r.a.PlanFile(ctx, r.act, r.block.ID, "ics")
		require.NoError(t, err)
		return parseCalendar(t, string(f.Body))
	}
	first := read()
	with, without := r.mainDays()
	from, to := with[0], without[0]
	_, err := r.change(input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to, Reason: "away"}, true)
	require.NoError(t, err)
	second := read()
	uid := r.block.ID + "-" + from.String() + "-main@notchback"
	require.Contains(t, first, uid)
	require.Contains(t, second, uid, "a moved session keeps its UID")
	assert.Greater(t, second[uid].Sequence, first[uid].Sequence)
	assert.Equal(t, to.Time().Day(), second[uid].Start.Day())

	feed, err := r.a.AddFeed(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	token := strings.TrimSuffix(strings.TrimPrefix(feed.Path, "/calendar/"), ".ics")
	f, err := r.a.FeedCalendar(ctx, token)
	require.NoError(t, err)
	assert.Len(t, parseCalendar(t, string(f.Body)), len(second))
	r.clock = r.clock.Add(3 * 24 * time.Hour)
	old := r.block
	r.block, err = r.a.PlanBlock(ctx, r.act, "", r.runner.ID, block.BlockInput{ScreeningID: old.ScreeningID})
	require.NoError(t, err)
	f, err = r.a.FeedCalendar(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, "CANCELLED", parseCalendar(t, string(f.Body))[uid].Status)
	_, err = r.a.RevokeFeeds(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	_, err = r.a.FeedCalendar(ctx, token)
	require.ErrorIs(t, err, app.ErrNotFound)
	for _, kind := range []string{"csv", "pdf"} {
		f, err := r.a.PlanFile(ctx, r.act, r.block.ID, kind)
		require.NoError(t, err)
		assert.Greater(t, len(f.Body), 500, kind)
	}
}

func parseCalendar(t testing.TB, raw string) map[string]gocal.Event {
	t.Helper()
	from, to := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(2028, 1, 1, 0, 0, 0, 0, time.UTC)
	c := gocal.NewParser(strings.NewReader(raw))
	c.Start, c.End = &from, &to
	require.NoError(t, c.Parse())
	out := map[string]gocal.Event{}
	for _, e := range c.Events {
		out[e.Uid] = e
	}
	return out
}

func asSent(t testing.TB, b export.Bundle) io.Reader {
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	return bytes.NewReader(raw)
}

// told is what was measured, reported and planned, without what only the practice
// it comes from can answer for and what the engine concludes.
func told(b export.Bundle) map[string]any {
	raw, _ := json.Marshal(b.Tables)
	out := map[string]any{}
	_ = json.Unmarshal(raw, &out)
	for _, t := range []string{"clearances", "answers", "reviews", "course_states", "flags", "journal", "pegs"} {
		delete(out, t)
	}
	for t, rows := range out {
		kept := []any{}
		for _, r := range rows.([]any) {
			row := r.(map[string]any)
			if row["part"] == "waivers" || t == "decisions" && row["kind"] == "gap" {
				continue
			}
			for _, k := range []string{"auto_progress", "version", "input", "course", "key", "state"} {
				delete(row, k)
			}
			if t == "runners" {
				delete(row, "updated_at")
			}
			kept = append(kept, row)
		}
		out[t] = kept
	}
	return out
}

// Every runner of the demo goes into another practice and comes out the same.
func TestABundleComesBackTheSame(t *testing.T) {
	urls := demotest.Seeded(t)
	s, err := store.Open(ctx, urls.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	a, err := house.New(s, demotest.Cheap)
	require.NoError(t, err)
	sign := func(email string) app.Actor {
		c, err := a.SignIn(ctx, email, demo.Password, "127.0.0.1")
		require.NoError(t, err)
		act, err := a.Actor(ctx, c.Practice, c.User)
		require.NoError(t, err)
		return act
	}
	here, there := sign(demo.Email), sign(demo.OtherEmail)
	list, err := a.Bench(ctx, here, "", 0)
	require.NoError(t, err)
	require.Greater(t, list.Total, 8)
	var last export.Bundle
	for _, i := range list.Items {
		out, err := a.ExportRunner(ctx, here, i.ID)
		require.NoError(t, err)
		first, err := json.Marshal(out)
		require.NoError(t, err)
		last = export.Bundle{}
		require.NoError(t, json.Unmarshal(first, &last))
		made, err := a.ImportRunner(ctx, there, asSent(t, last), true)
		require.NoError(t, err, i.Name)
		again, err := a.ExportRunner(ctx, there, made.ID)
		require.NoError(t, err)
		assert.Equal(t, told(out), told(again), i.Name)
		require.NoError(t, json.Unmarshal(first, &last))
	}
	count := func() int {
		l, err := a.Bench(ctx, there, "", 0)
		require.NoError(t, err)
		return l.Total
	}
	before := count()
	refuse := func(what string, spoil func(*export.Bundle)) {
		raw, err := json.Marshal(last)
		require.NoError(t, err)
		var b export.Bundle
		require.NoError(t, json.Unmarshal(raw, &b))
		spoil(&b)
		_, err = a.ImportRunner(ctx, there, asSent(t, b), true)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, what)
		assert.Equal(t, before, count(), "%s: nothing half-written", what)
	}
	refuse("another file", func(b *export.Bundle) { b.Format = "recipes" })
	refuse("a newer version", func(b *export.Bundle) { b.Version = 99 })
	refuse("two runners", func(b *export.Bundle) { b.Tables["runners"] = append(b.Tables["runners"], b.Tables["runners"][0]) })
	refuse("an unknown table", func(b *export.Bundle) { b.Tables["users"] = []map[string]any{{"email": "x"}} })
	refuse("an unknown field", func(b *export.Bundle) { b.Tables["runners"][0]["shoe"] = "x" })
	refuse("a broken reference", func(b *export.Bundle) {
		b.Tables["mornings"] = append(b.Tables["mornings"], map[string]any{"runner_id": "ref:runner-7", "on_date": "2026-01-01", "first_step": 1, "rev": 1})
	})
	refuse("a value out of range", func(b *export.Bundle) {
		b.Tables["mornings"] = append(b.Tables["mornings"], map[string]any{"runner_id": "ref:runner-1", "on_date": "2020-01-01", "first_step": 77, "rev": 1})
	})
}

// An own exercise is drawn as it is typed; what no body can do names the field, the
// pose and the angle. All drawings are the owner's to look through.
func TestDrawingsAreMadeAndLookedThrough(t *testing.T) {
	r := newRig(t, 1)
	d, err := r.a.DrawFigure(shelf.TurnedFigure{Start: "stand", End: "squat", Part: "whole-leg"})
	require.NoError(t, err)
	assert.NotEmpty(t, d.Moves)
	assert.EqualValues(t, 92, d.Angles[1]["knee"])
	assert.NotEmpty(t, d.Ranges)
	_, err = r.a.DrawFigure(shelf.TurnedFigure{Start: "stand", End: "squat", Turned: [2]catalogue.Turned{nil, {"knee": 300}}})
	var bad app.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "end", bad[0].Field)
	assert.Contains(t, bad[0].Message, "knee goes from -5 to 160")
	_, err = r.a.DrawFigure(shelf.TurnedFigure{Start: "nobody", End: "toes-rest"})
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "start", bad[0].Field)
	_, err = r.a.DrawFigure(shelf.TurnedFigure{Start: "stand", End: "toes-rest"})
	assert.ErrorContains(t, err, "one view")

	list, err := r.a.Figures(ctx, r.act)
	require.NoError(t, err)
	tests := 0
	for _, f := range list {
		assert.NotEmpty(t, f.Start, f.ID)
		assert.NotEmpty(t, f.Poses, f.ID)
		if f.Kind == "test" {
			tests++
		}
	}
	assert.Equal(t, 77, tests)
	other := r.act
	other.User.Role = "coach"
	_, err = r.a.Figures(ctx, other)
	assert.ErrorContains(t, err, "owner")

	own := shelf.OwnExercise{Name: "Slow half squat", Short: "half squat", Purpose: "strength", Position: "standing", Sides: "together", SetUp: "Stand, a chair within reach.", Cues: []string{"Heels stay"}, Mistakes: []string{}, Equipment: []string{}, Timing: "any", Cautions: []string{}, Start: "stand", End: "squat", Turned: [2]catalogue.Turned{nil, {"knee": 60, "hip": 58}}}
	s, err := r.a.PutExercise(ctx, r.act, own)
	require.NoError(t, err)
	i := slices.IndexFunc(s.Exercises, func(e shelf.ShelfExercise) bool { return e.Name == own.Name })
	require.GreaterOrEqual(t, i, 0)
	assert.EqualValues(t, 60, s.Exercises[i].Turned[1]["knee"])
	require.NotNil(t, s.Exercises[i].Picture)
	own.ID, own.Rev, own.Turned = s.Exercises[i].ID, s.Exercises[i].Rev, [2]catalogue.Turned{nil, {"knee": 300}}
	_, err = r.a.PutExercise(ctx, r.act, own)
	assert.ErrorContains(t, err, "knee goes from -5 to 160")
}
