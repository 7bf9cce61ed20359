package store_test

import (
	"context"
	"os"
	"regexp"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/store"
	"notchback/store/storetest"
)

var ctx = context.Background()

// two returns a store with two practices, made by the owner role.
func two(t *testing.T) (s *store.Store, a, b store.Credentials) {
	urls := storetest.Fresh(t)
	s, err := store.Open(ctx, urls.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	a, err = s.FoundPractice(ctx, "First", "Europe/Lisbon", "Ada", "ada@example.test", "x")
	require.NoError(t, err)
	_, err = s.FoundPractice(ctx, "Second", "UTC", "Eve", "eve@example.test", "x")
	require.ErrorIs(t, err, store.ErrConflict, "only an empty installation can be founded")
	owner, err := store.Open(ctx, urls.Owner)
	require.NoError(t, err)
	defer owner.Close()
	require.NoError(t, owner.Pool().QueryRow(ctx, `INSERT INTO practices (name, zone) VALUES ('Second', 'UTC') RETURNING id`).Scan(&b.Practice))
	require.NoError(t, owner.Pool().QueryRow(ctx, `INSERT INTO users (practice_id, email, name, role, password_hash)
		VALUES ($1, 'eve@example.test', 'Eve', 'owner', 'x') RETURNING id`, b.Practice).Scan(&b.User))
	return s, a, b
}

func TestOnePracticeIsAllATransactionSees(t *testing.T) {
	s, a, b := two(t)
	var r store.Runner
	require.NoError(t, s.In(ctx, a.Practice, func(tx *store.Tx) (err error) {
		r, err = tx.AddRunner(ctx, store.Runner{Name: "Ines"})
		return err
	}))
	err := s.In(ctx, b.Practice, func(tx *store.Tx) error {
		_, err := tx.Runner(ctx, r.ID)
		return err
	})
	require.ErrorIs(t, err, store.ErrNotFound)
	// Even a query that forgets the practice, or names another, sees and writes nothing.
	require.NoError(t, s.In(ctx, b.Practice, func(tx *store.Tx) error {
		var n int
		require.NoError(t, tx.QueryRow(ctx, `SELECT count(*) FROM runners`).Scan(&n))
		assert.Zero(t, n)
		require.NoError(t, tx.QueryRow(ctx, `SELECT count(*) FROM practices`).Scan(&n))
		assert.Equal(t, 1, n)
		return nil
	}))
	err = s.In(ctx, b.Practice, func(tx *store.Tx) error {
		_, err := tx.Exec(ctx, `INSERT INTO runners (practice_id, name) VALUES ($1, 'Mallory')`, a.Practice)
		return err
	})
	require.ErrorContains(t, err, "row-level security")
	var n int
	require.NoError(t, s.Pool().QueryRow(ctx, `SELECT count(*) FROM runners`).Scan(&n))
	assert.Zero(t, n, "no practice named, nothing seen")
}

func TestTheServersRoleOwnsNothing(t *testing.T) {
	s, _, _ := two(t)
	var owned int
	require.NoError(t, s.Pool().QueryRow(ctx, `SELECT count(*) FROM pg_class WHERE pg_get_userbyid(relowner) = current_user`).Scan(&owned))
	assert.Zero(t, owned)
	var tables, secured int
	require.NoError(t, s.Pool().QueryRow(ctx, `SELECT count(*), count(*) FILTER (WHERE relrowsecurity) FROM pg_class c
		JOIN pg_attribute a ON a.attrelid = c.oid AND a.attname = 'practice_id' WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace`).Scan(&tables, &secured))
	assert.Equal(t, tables, secured, "every table of a practice has row-level security")
	assert.Greater(t, tables, 10)
	var super bool
	require.NoError(t, s.Pool().QueryRow(ctx, `SELECT rolsuper OR rolbypassrls FROM pg_roles WHERE rolname = current_user`).Scan(&super))
	assert.False(t, super)
	for _, table := range []string{"trials", "journal", "session_items", "mornings"} {
		_, err := s.Pool().Exec(ctx, `DELETE FROM `+table)
		assert.ErrorContains(t, err, "permission denied", table)
	}
}

func TestAStaleVersionIsRefused(t *testing.T) {
	s, a, _ := two(t)
	require.NoError(t, s.In(ctx, a.Practice, func(tx *store.Tx) error {
		r, err := tx.AddRunner(ctx, store.Runner{Name: "Ines"})
		require.NoError(t, err)
		r.Goal = "first"
		saved, err := tx.UpdateRunner(ctx, r)
		require.NoError(t, err)
		assert.Equal(t, 2, saved.Version)
		r.Goal = "second, from an old copy"
		_, err = tx.UpdateRunner(ctx, r)
		require.ErrorIs(t, err, store.ErrConflict)
		return nil
	}))
}

func TestTrialsKeepEveryRevision(t *testing.T) {
	s, a, _ := two(t)
	require.NoError(t, s.In(ctx, a.Practice, func(tx *store.Tx) error {
		r, err := tx.AddRunner(ctx, store.Runner{Name: "Ines"})
		require.NoError(t, err)
		sc, err := tx.AddScreening(ctx, store.Screening{RunnerID: r.ID, On: time.Now()}, a.User)
		require.NoError(t, err)
		v, w := 9.5, 10.0
		trial := store.Trial{ScreeningID: sc.ID, Test: "knee-to-wall", Side: "left", Slot: 1, Value: &v, Compensations: []string{}}
		require.NoError(t, tx.PutTrial(ctx, trial, a.User, ""))
		trial.Value = &w
		require.NoError(t, tx.PutTrial(ctx, trial, a.User, "typo"))
		got, err := tx.Trials(ctx, sc.ID)
		require.NoError(t, err)
		require.Len(t, got, 1)
		assert.Equal(t, 10.0, *got[0].Value)
		trial.Removed = true
		require.NoError(t, tx.PutTrial(ctx, trial, a.User, ""))
		got, err = tx.Trials(ctx, sc.ID)
		require.NoError(t, err)
		assert.Empty(t, got)
		var kept int
		require.NoError(t, tx.QueryRow(ctx, `SELECT count(*) FROM trials`).Scan(&kept))
		assert.Equal(t, 3, kept)
		return nil
	}))
}

func TestATryToSignInWaitsLongerEachTime(t *testing.T) {
	s, _, _ := two(t)
	now := time.Now().Truncate(time.Second)
	waits := []time.Duration{0, 0, 10 * time.Second, time.Minute}
	try := func(at time.Duration) time.Duration {
		w, err := s.TrySignIn(ctx, "k", now.Add(at), time.Hour, waits)
		require.NoError(t, err)
		return w
	}
	for range 3 {
		assert.Zero(t, try(0), "the first three are free")
	}
	assert.Equal(t, 10*time.Second, try(0))
	assert.Equal(t, 4*time.Second, try(6*time.Second), "a try that may not be made does not count")
	assert.Zero(t, try(10*time.Second))
	assert.Equal(t, time.Minute, try(10*time.Second), "the last wait")
	assert.Zero(t, try(70*time.Second))
	assert.Equal(t, time.Minute, try(70*time.Second), "holds for all further ones")
	assert.Zero(t, try(2*time.Hour), "the window is over")
	assert.Zero(t, try(2*time.Hour), "and the count begins anew")
	require.NoError(t, s.ForgetSignInFailures(ctx, "k"))
}

// Sixty at once are counted like sixty one after the other.
func TestTriesAtOnceAreAllCounted(t *testing.T) {
	s, _, _ := two(t)
	now := time.Now()
	var free atomic.Int32
	var wg sync.WaitGroup
	for range 60 {
		wg.Go(func() {
			w, err := s.TrySignIn(ctx, "k", now, time.Hour, []time.Duration{0, 0, time.Minute})
			assert.NoError(t, err)
			if w == 0 {
				free.Add(1)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 3, free.Load())
}

func TestAServerKnowsWhetherTheSchemaIsItsOwn(t *testing.T) {
	u := storetest.Fresh(t)
	s, err := store.Open(ctx, u.App)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Check(ctx))
	owner, err := store.Open(ctx, u.Owner)
	require.NoError(t, err)
	defer owner.Close()
	_, err = owner.Pool().Exec(ctx, `INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)`)
	require.NoError(t, err)
	require.ErrorIs(t, s.Check(ctx), store.ErrSchema, "a newer one")
	_, err = owner.Pool().Exec(ctx, `DELETE FROM goose_db_version WHERE version_id >= (SELECT max(version_id) FROM goose_db_version WHERE version_id < 99999)`)
	require.NoError(t, err)
	require.ErrorIs(t, s.Check(ctx), store.ErrSchema, "one that stopped half way")
	_, err = owner.Pool().Exec(ctx, `DROP FUNCTION schema_version()`)
	require.NoError(t, err)
	require.ErrorIs(t, s.Check(ctx), store.ErrSchema, "one from before the server asked")
}

// Users are added without a sign-in only while an installation is being founded.
func TestNobodyIsAddedAfterTheFounding(t *testing.T) {
	s, a, _ := two(t)
	require.ErrorIs(t, s.FoundUser(ctx, a.Practice, "Eve", "eve@example.test", "owner", "x"), store.ErrConflict)
	_, err := s.FoundPractice(ctx, "Third", "UTC", "Eve", "eve@example.test", "x")
	require.ErrorIs(t, err, store.ErrConflict)
	fresh, err := store.Open(ctx, storetest.Fresh(t).App)
	require.NoError(t, err)
	defer fresh.Close()
	require.NoError(t, fresh.Whole(ctx, func(s *store.Store) error {
		c, err := s.FoundPractice(ctx, "One", "UTC", "Ada", "ada@example.test", "x")
		require.NoError(t, err)
		require.NoError(t, s.FoundUser(ctx, c.Practice, "Bo", "bo@example.test", "viewer", "x"))
		_, err = s.FoundPractice(ctx, "Two", "UTC", "Cy", "cy@example.test", "x")
		return err
	}))
	require.ErrorIs(t, fresh.FoundUser(ctx, a.Practice, "Eve", "eve@example.test", "owner", "x"), store.ErrConflict)
}

// What is stored is said in docs/data-model.md, table by table, and nothing else is.
func TestEveryTableIsDescribed(t *testing.T) {
	raw, err := os.ReadFile("../docs/data-model.md")
	require.NoError(t, err)
	said := map[string]bool{}
	for _, m := range regexp.MustCompile("`([a-z_]+)`").FindAllStringSubmatch(string(raw), -1) {
		said[m[1]] = true
	}
	s := storetest.Open(t)
	rows, err := s.Pool().Query(ctx, `SELECT relname::text FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace AND relname <> 'goose_db_version'`)
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.Greater(t, len(names), 30)
	there := map[string]bool{}
	for _, n := range names {
		there[n] = true
		assert.True(t, said[n], "docs/data-model.md does not say what %s holds", n)
	}
	for _, m := range regexp.MustCompile("(?m)^\\| `([a-z_]+)` \\|").FindAllStringSubmatch(string(raw), -1) {
		assert.True(t, there[m[1]], "there is no table %s", m[1])
	}
}

// An error of the database says what was being done to which table.
func TestErrorsSayWhatWasBeingDone(t *testing.T) {
	s := storetest.Open(t)
	err := s.In(context.Background(), "00000000-0000-4000-8000-000000000001", func(tx *store.Tx) error {
		_, err := tx.Exec(context.Background(), `UPDATE runners SET nobody = 1`)
		return err
	})
	require.ErrorContains(t, err, "update runners: ")
	err = s.In(context.Background(), "00000000-0000-4000-8000-000000000001", func(tx *store.Tx) error {
		var n int
		return tx.QueryRow(context.Background(), `SELECT nobody FROM runners`).Scan(&n)
	})
	require.ErrorContains(t, err, "select runners: ")
	err = s.In(context.Background(), "00000000-0000-4000-8000-000000000001", func(tx *store.Tx) error {
		_, err := tx.Runner(context.Background(), "00000000-0000-4000-8000-000000000002")
		return err
	})
	require.ErrorIs(t, err, store.ErrNotFound)
}
