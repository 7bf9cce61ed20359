package app_test

import (
	"compress/gzip"
	"context"
	"io"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/store"
	"notchback/store/storetest"
)

// Rows of an earlier day are read by the program of today: a whole practice as it was
// stored at version 15 of the schema is brought up to date, and every page of every
// runner opens on it with nothing moved.
func TestAnOldDatabaseIsReadAsItWas(t *testing.T) {
	f, err := os.Open("testdata/demo-15.sql.gz")
	require.NoError(t, err)
	defer func() { _ = f.Close() }()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	dump, err := io.ReadAll(z)
	require.NoError(t, err)
	u := storetest.At(t, 15, string(dump))
	s, err := store.Open(ctx, u.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	when := time.Date(2026, 11, 28, 5, 18, 0, 0, time.UTC) // as it was dumped
	a, err := house.New(s, app.WithClock(func() time.Time { return when }), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1}))
	require.NoError(t, err)
	who, err := a.SignIn(ctx, demo.Email, demo.Password, "127.0.0.1")
	require.NoError(t, err)
	act, err := a.Actor(ctx, who.Practice, who.User)
	require.NoError(t, err)
	pegs := func() (n, sum int) {
		o, err := store.Open(ctx, u.Owner)
		require.NoError(t, err)
		defer o.Close()
		require.NoError(t, o.Pool().QueryRow(context.Background(), `SELECT count(*), coalesce(sum(notch), 0) FROM pegs`).Scan(&n, &sum))
		return n, sum
	}
	n, sum := pegs()
	require.Greater(t, n, 50)
	bench, err := a.Bench(ctx, act, "", 0)
	require.NoError(t, err)
	require.Greater(t, len(bench.Items), 8)
	blocks, screened := 0, 0
	for _, i := range bench.Items {
		visits, err := a.Screenings(ctx, act, i.ID)
		require.NoError(t, err, i.Name)
		screened += len(visits)
		b, err := a.CurrentBlock(ctx, act, i.ID)
		require.NoError(t, err, i.Name)
		for _, open := range []func() error{
			func() error { _, err := a.Runner(ctx, act, i.ID); return err },
			func() error { _, err := a.Journal(ctx, act, i.ID); return err },
			func() error { _, err := a.Wishes(ctx, act, i.ID); return err },
			func() error { _, err := a.Runs(ctx, act, i.ID); return err },
			func() error { _, err := a.Load(ctx, act, i.ID, 52); return err },
			func() error { _, err := a.Ramp(ctx, act, i.ID); return err },
			func() error { _, err := a.ReviewOf(ctx, act, i.ID, 0); return err },
			func() error { _, err := a.RunnerClips(ctx, act, i.ID); return err },
			func() error { _, err := a.ExportRunner(ctx, act, i.ID); return err },
		} {
			assert.NoError(t, open(), i.Name)
		}
		if b == nil {
			continue
		}
		blocks++
		assert.NotEmpty(t, b.Prescriptions, i.Name)
		_, err = a.LoggedSessions(ctx, act, b.ID)
		assert.NoError(t, err, i.Name)
		_, err = a.PrintSheet(ctx, act, b.ID)
		assert.NoError(t, err, i.Name)
		_, err = a.PlanFile(ctx, act, b.ID, "ics")
		assert.NoError(t, err, i.Name)
	}
	assert.Greater(t, blocks, 4)
	assert.Greater(t, screened, 8)
	_, err = a.Engine(ctx, act)
	require.NoError(t, err)
	_, err = a.Shelf(ctx, act)
	require.NoError(t, err)
	again, same := pegs()
	assert.Equal(t, n, again)
	assert.Equal(t, sum, same, "reading moves no peg")
}
