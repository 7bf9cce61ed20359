package app_test

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/clips"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/app/practice"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/store/blobs"
)

// traces counts the rows of every table that speak of any of some texts.
func traces(t *testing.T, owner string, texts ...string) map[string]int {
	t.Helper()
	ids, words := []string{}, []string{}
	for _, x := range texts {
		if len(x) == 36 {
			ids = append(ids, x)
		} else {
			words = append(words, x)
		}
	}
	c, err := pgx.Connect(ctx, owner)
	require.NoError(t, err)
	defer func() { _ = c.Close(context.Background()) }()
	rows, err := c.Query(ctx, `SELECT relname::text FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace ORDER BY 1`)
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	out := map[string]int{}
	for _, n := range names {
		// Ids are looked up among the ids a row has, words anywhere in it.
		var k int
		require.NoError(t, c.QueryRow(ctx, fmt.Sprintf(`SELECT count(*) FROM %s t WHERE EXISTS (SELECT 1 FROM regexp_matches(lower(t::text), '[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}', 'g') m WHERE m[1] = ANY($1))
			OR EXISTS (SELECT 1 FROM unnest($2::text[]) w WHERE strpos(lower(t::text), lower(w)) > 0)`, n), ids, words).Scan(&k))
		if k > 0 {
			out[n] = k
		}
	}
	return out
}

// idsOf are the ids of all that belongs to a runner.
func idsOf(t *testing.T, owner, runner string) []string {
	t.Helper()
	c, err := pgx.Connect(ctx, owner)
	require.NoError(t, err)
	defer func() { _ = c.Close(context.Background()) }()
	rows, err := c.Query(ctx, `SELECT table_name::text FROM information_schema.columns a WHERE table_schema = 'public' AND column_name = 'runner_id'
		AND EXISTS (SELECT 1 FROM information_schema.columns b WHERE b.table_schema = 'public' AND b.table_name = a.table_name AND b.column_name = 'id' AND b.data_type = 'uuid')`)
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	out := []string{runner}
	for _, n := range names {
		rows, err := c.Query(ctx, `SELECT DISTINCT id::text FROM `+n+` WHERE runner_id = $1`, runner)
		require.NoError(t, err)
		ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		out = append(out, ids...)
	}
	return out
}

// Of a runner of the demo who is deleted, nothing is left in any table, by name or by any
// id, nor in any file; everybody else's stays as it was.
func TestADeletedRunnerLeavesNoTrace(t *testing.T) {
	u := demotest.Seeded(t)
	s, err := store.Open(ctx, u.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	files, err := blobs.Open(t.TempDir())
	require.NoError(t, err)
	var log bytes.Buffer
	a, err := house.New(s, demotest.Cheap, app.WithBlobs(files), app.WithLog(slog.New(slog.NewJSONHandler(&log, nil))))
	require.NoError(t, err)
	t.Cleanup(a.Close)
	c, err := a.SignIn(ctx, demo.Email, demo.Password, "x")
	require.NoError(t, err)
	act, err := a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	bench, err := a.Bench(ctx, act, "Isolde", 0)
	require.NoError(t, err)
	runner, full := bench.Items[0].ID, bench.Items[0].Name
	visits, err := a.Screenings(ctx, act, runner)
	require.NoError(t, err)
	clip, err := a.AddClip(ctx, act, visits[0].ID, clips.ClipInput{Name: "gait of hers.webm", Size: 5})
	require.NoError(t, err)
	_, err = a.AddConsent(ctx, act, runner, practice.Consent{What: "clips", GivenBy: "guardian", Name: "Somebody of " + full, How: "paper", On: a.Today(act)})
	require.NoError(t, err)
	link, err := a.AddLink(ctx, act, runner)
	require.NoError(t, err)
	secret, err := a.Join(ctx, link.Token, "a phone of hers")
	require.NoError(t, err)
	_, err = a.EnterPocket(ctx, secret, "getPocket")
	require.NoError(t, err)
	ids := idsOf(t, u.Owner, runner)
	require.Greater(t, len(ids), 50)
	before, err := a.Bench(ctx, act, "", 0)
	require.NoError(t, err)

	for _, bad := range [][2]string{{"", "asked"}, {"Isolde", "asked"}, {full, "because"}, {full, "due"}} {
		assert.Error(t, a.DeleteRunner(ctx, act, runner, bad[0], bad[1]), bad)
	}
	c, err = a.SignIn(ctx, demo.CoachEmail, demo.Password, "x")
	require.NoError(t, err)
	coach, err := a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	coach.User.Role = "owner" // as if the door had seen an owner
	assert.ErrorIs(t, a.DeleteRunner(ctx, coach, runner, full, "asked"), app.ErrForbidden)
	kept, err := a.RunnerClips(ctx, act, runner)
	require.NoError(t, err)
	_, err = a.Clip(ctx, act, clip.ID)
	require.NoError(t, err, "no file went before the refusal: %d", len(kept))
	foot, err := a.Footprint(ctx, act, runner)
	require.NoError(t, err)
	assert.Equal(t, full, foot.Name)
	assert.Positive(t, foot.Screenings*foot.Blocks*foot.Sessions*foot.Journal*foot.Clips*foot.Phones)
	require.NoError(t, a.DeleteRunner(ctx, act, runner, "  "+strings.ToLower(full), "asked"))

	left := traces(t, u.Owner, append(ids[1:], full, "of hers")...)
	assert.Empty(t, left)
	assert.Equal(t, map[string]int{"gone_runners": 1}, traces(t, u.Owner, runner), "that somebody was deleted stays, and no word of who it was")
	require.NoError(t, files.List(func(e blobs.Entry) error {
		assert.NotEqual(t, clip.ID, e.Name)
		return nil
	}))
	for _, word := range append(ids, full, "Isolde", "of hers") {
		assert.NotContains(t, log.String(), word, "nor in the log")
	}
	assert.NotEmpty(t, log.String())
	_, err = a.EnterPocket(ctx, secret, "getPocket")
	assert.ErrorIs(t, err, app.ErrSignedOut, "an old phone is refused")
	assert.ErrorIs(t, a.DeleteRunner(ctx, act, runner, full, "asked"), app.ErrNotFound)
	after, err := a.Bench(ctx, act, "", 0)
	require.NoError(t, err)
	require.Len(t, after.Items, len(before.Items)-1)
	for _, i := range after.Items {
		_, err := a.ExportRunner(ctx, act, i.ID)
		assert.NoError(t, err, i.Name)
	}
}

// Who is off the bench is kept as they were, without phone and review, until the practice's
// years are over; then the records go by themselves, after having been listed.
func TestOffTheBenchUntilTheRecordsGo(t *testing.T) {
	r := newRig(t, 25)
	bench := func() int {
		b, err := r.a.Bench(ctx, r.act, "", 0)
		require.NoError(t, err)
		return len(b.Items)
	}
	require.Equal(t, 1, bench())
	require.NoError(t, r.a.PutAway(ctx, r.act, r.runner.ID, true))
	require.NoError(t, r.a.PutAway(ctx, r.act, r.runner.ID, true), "twice is once")
	assert.Zero(t, bench())
	n, err := r.a.ReviewAll(ctx)
	require.NoError(t, err)
	assert.Zero(t, n.Runners, "no review at night")
	_, err = r.a.Runner(ctx, r.act, r.runner.ID)
	require.NoError(t, err, "kept")
	list, err := r.a.Archive(ctx, r.act)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Nil(t, list[0].Goes, "for ever, unless the practice says otherwise")

	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.KeepYears = 2
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	look := func() practice.Archived {
		list, err := r.a.Archive(ctx, r.act)
		require.NoError(t, err)
		require.Len(t, list, 1)
		return list[0]
	}
	goes := day.Make(2028, time.May, 4)
	assert.Equal(t, goes, *look().Goes)
	r.clock = goes.Time().AddDate(0, 0, -30)
	assert.True(t, look().Soon, "a month before")
	_, err = r.a.KeepOn(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.False(t, look().Soon, "kept another year")
	r.clock = goes.Time()
	gone, err := r.a.EraseDue(ctx)
	require.NoError(t, err)
	assert.Zero(t, gone)
	// A shorter rule takes nobody by surprise: a month from the day it is set.
	r.clock = look().Goes.Time().AddDate(0, 0, -5)
	p, err = r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.KeepYears = 1
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	assert.Equal(t, r.a.Today(r.act)+30, *look().Goes)
	assert.True(t, look().Soon)
	gone, err = r.a.EraseDue(ctx)
	require.NoError(t, err)
	assert.Zero(t, gone)
	r.clock = look().Goes.Time()
	gone, err = r.a.EraseDue(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, gone)
	_, err = r.a.Runner(ctx, r.act, r.runner.ID)
	assert.ErrorIs(t, err, app.ErrNotFound)
	assert.Empty(t, traces(t, r.owner, "Ines"))
}

func TestConsentsAreWrittenDownAndTakenBack(t *testing.T) {
	r := newRig(t, 25)
	today := r.a.Today(r.act)
	add := func(c practice.Consent) error { _, err := r.a.AddConsent(ctx, r.act, r.runner.ID, c); return err }
	assert.ErrorContains(t, add(practice.Consent{What: "clips", GivenBy: "guardian", How: "paper", On: today}), "who agreed")
	assert.ErrorContains(t, add(practice.Consent{What: "clips", GivenBy: "runner", How: "paper", On: today + 1}), "still to come")
	require.NoError(t, add(practice.Consent{What: "clips", GivenBy: "guardian", Name: "Mother", How: "paper", On: today - 3}))
	require.NoError(t, add(practice.Consent{What: "records", GivenBy: "runner", How: "spoken", On: today}))
	list, err := r.a.Consents(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "N", list[0].By)
	list, err = r.a.EndConsent(ctx, r.act, r.runner.ID, list[1].ID)
	require.NoError(t, err)
	assert.Equal(t, today, *list[1].Ended)
	_, err = r.a.EndConsent(ctx, r.act, r.runner.ID, list[1].ID)
	assert.ErrorIs(t, err, app.ErrNotFound, "once")
}

// The practice's rhythm of re-tests is that of the next plan, and of no earlier one.
func TestRetestsFollowThePracticesRhythm(t *testing.T) {
	r := newRig(t, 25)
	weeks := func(b view.Block) (out []int) {
		for _, w := range b.Weeks {
			if w.Number < 6 && slices.ContainsFunc(w.Days, func(d view.DayView) bool { return d.Retest != "" }) {
				out = append(out, w.Number)
			}
		}
		return out
	}
	require.Equal(t, []int{2, 4}, weeks(r.block))
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.RetestWeeks = 4
	_, err = r.a.PutPractice(ctx, r.act, p)
	assert.ErrorContains(t, err, "1 to 3 weeks")
	p.RetestWeeks = 3
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	again, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 4}, weeks(again), "what was planned stays")
	id := newRunner(t, r, "Noor", 25)
	list, err := r.a.Screenings(ctx, r.act, id)
	require.NoError(t, err)
	next, err := r.a.PlanBlock(ctx, r.act, "", id, block.BlockInput{ScreeningID: list[0].ID})
	require.NoError(t, err)
	assert.Equal(t, []int{3}, weeks(next))
}
