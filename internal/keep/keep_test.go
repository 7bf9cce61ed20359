package keep

import (
	"archive/tar"
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"filippo.io/age"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/store/storetest"
)

var ctx = context.Background()

func TestMain(m *testing.M) {
	code := m.Run()
	storetest.Cleanup()
	os.Exit(code)
}

// installation is the demo with the file of a clip.
func installation(t *testing.T) (Source, storetest.URLs) {
	t.Helper()
	u := demotest.Seeded(t)
	s := Source{Owner: u.Owner, Clips: t.TempDir()}
	c, err := pgx.Connect(ctx, u.Owner)
	require.NoError(t, err)
	defer func() { _ = c.Close(ctx) }()
	var practice string
	require.NoError(t, c.QueryRow(ctx, `INSERT INTO clips (practice_id, runner_id, screening_id, name, size, kind, hash, by_user, state)
		SELECT s.practice_id, s.runner_id, s.id, 'gait.webm', 7, 'video', 'abc123', s.by_user, 'ready' FROM screenings s JOIN practices p ON p.id = s.practice_id ORDER BY p.name, s.id LIMIT 1 RETURNING practice_id`).Scan(&practice))
	dir := filepath.Join(s.Clips, practice, "files")
	require.NoError(t, os.MkdirAll(dir, 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "abc123"), []byte("a clip!"), 0o600))
	return s, u
}

func key(t *testing.T) *age.X25519Identity {
	t.Helper()
	k, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	return k
}

func tables(t *testing.T, url string) map[string]Table {
	t.Helper()
	c, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer func() { _ = c.Close(ctx) }()
	var out map[string]Table
	require.NoError(t, pgx.BeginFunc(ctx, c, func(tx pgx.Tx) (err error) { out, err = digests(ctx, tx); return err }))
	return out
}

// A whole practice comes back on another installation as it was, row by row and file by
// file; what is damaged in any way comes back not at all, and leaves what is there.
func TestABackupComesBackAsItWas(t *testing.T) {
	s, _ := installation(t)
	k := key(t)
	var b bytes.Buffer
	start := time.Now()
	m, err := Backup(ctx, s, &b, k.Recipient())
	require.NoError(t, err)
	assert.Equal(t, 1, m.Files)
	assert.Empty(t, m.Missing)
	assert.Greater(t, m.Rows(), int64(3000))
	t.Logf("%d rows: %d kB in %s", m.Rows(), b.Len()/1024, time.Since(start).Round(time.Millisecond))
	assert.NotContains(t, b.String(), "Isolde", "sealed")

	start = time.Now()
	checked, err := Check(ctx, bytes.NewReader(b.Bytes()), k)
	require.NoError(t, err)
	assert.Equal(t, m.Tables, checked.Tables)
	t.Logf("checked in %s", time.Since(start).Round(time.Millisecond))

	// Onto another installation, which has a schema and no practice.
	other := storetest.Fresh(t)
	to := Source{Owner: other.Owner, Clips: t.TempDir()}
	empty := tables(t, other.Owner)
	n := b.Len()
	for _, bad := range [][]byte{nil, b.Bytes()[:n/2], b.Bytes()[:n-1], b.Bytes()[:200], flipped(b.Bytes(), 30), flipped(b.Bytes(), n/3), flipped(b.Bytes(), n-20), []byte("not a backup")} {
		_, _, err := Restore(ctx, to, bytes.NewReader(bad), k)
		assert.ErrorIs(t, err, ErrBackup)
	}
	_, _, err = Restore(ctx, to, bytes.NewReader(b.Bytes()), key(t))
	assert.ErrorIs(t, err, ErrBackup, "another key")
	_, _, err = Restore(ctx, to, bytes.NewReader(forged(t, k, `{"format":"notchback-backup","version":1,"schema":99999}`)), k)
	assert.ErrorContains(t, err, "newer edition")
	_, _, err = Restore(ctx, to, bytes.NewReader(forged(t, k, `{"format":"something else"}`)), k)
	assert.ErrorIs(t, err, ErrBackup)
	assert.Equal(t, empty, tables(t, other.Owner), "nothing was touched")
	files, err := filepath.Glob(filepath.Join(to.Clips, "*"))
	require.NoError(t, err)
	assert.Empty(t, files, "and nothing lies about")

	running, err := store.Open(ctx, other.App)
	require.NoError(t, err)
	_, _, err = Restore(ctx, to, bytes.NewReader(b.Bytes()), k)
	assert.ErrorIs(t, err, ErrRunning)
	running.Close()
	require.Eventually(t, func() bool {
		_, _, err = Restore(ctx, to, bytes.NewReader(b.Bytes()), k)
		return err != ErrRunning //nolint:errorlint // just this one: the server's connections take a moment to go
	}, time.Minute, 100*time.Millisecond)
	require.NoError(t, err)
	assert.Equal(t, m.Tables, tables(t, other.Owner))
	raw, err := filepath.Glob(filepath.Join(to.Clips, "*", "files", "abc123"))
	require.NoError(t, err)
	assert.Len(t, raw, 1)

	// It is an installation: people sign in and see what they saw.
	st, err := store.Open(ctx, other.App)
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, st.Check(ctx))
	a, err := house.New(st, demotest.Cheap)
	require.NoError(t, err)
	c, err := a.SignIn(ctx, demo.Email, demo.Password, "x")
	require.NoError(t, err)
	act, err := a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	bench, err := a.Bench(ctx, act, "", 0)
	require.NoError(t, err)
	assert.Greater(t, len(bench.Items), 8)
}

// Who was deleted after a backup was made is not brought back by it.
func TestARestoreBringsNobodyBackWhoWasDeleted(t *testing.T) {
	s, u := installation(t)
	k := key(t)
	var b bytes.Buffer
	_, err := Backup(ctx, s, &b, k.Recipient())
	require.NoError(t, err)
	st, err := store.Open(ctx, u.App)
	require.NoError(t, err)
	a, err := house.New(st, demotest.Cheap)
	require.NoError(t, err)
	c, err := a.SignIn(ctx, demo.Email, demo.Password, "x")
	require.NoError(t, err)
	act, err := a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	bench, err := a.Bench(ctx, act, "Isolde", 0)
	require.NoError(t, err)
	require.NoError(t, a.DeleteRunner(ctx, act, bench.Items[0].ID, bench.Items[0].Name, "asked"))
	a.Close()
	st.Close()
	var dead int
	require.Eventually(t, func() bool {
		_, dead, err = Restore(ctx, s, bytes.NewReader(b.Bytes()), k)
		return err != ErrRunning //nolint:errorlint // as above
	}, time.Minute, 100*time.Millisecond)
	require.NoError(t, err)
	assert.Equal(t, 1, dead)
	db, err := pgx.Connect(ctx, u.Owner)
	require.NoError(t, err)
	defer func() { _ = db.Close(ctx) }()
	var there, others, noted int
	require.NoError(t, db.QueryRow(ctx, `SELECT count(*) FILTER (WHERE id = $1), count(*) FILTER (WHERE id <> $1) FROM runners`, bench.Items[0].ID).Scan(&there, &others))
	require.NoError(t, db.QueryRow(ctx, `SELECT count(*) FROM gone_runners`).Scan(&noted))
	assert.Zero(t, there)
	assert.Greater(t, others, 8)
	assert.Equal(t, 1, noted)
}

// A full disk leaves no half a backup, and says so.
func TestAFullDiskLeavesNothing(t *testing.T) {
	s := Source{Owner: storetest.Fresh(t).Owner}
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	require.NoError(t, err)
	defer func() { _ = full.Close() }()
	_, err = Backup(ctx, s, full, key(t).Recipient())
	assert.ErrorContains(t, err, "no space left")
	dir := t.TempDir()
	_, err = Create(ctx, Source{Owner: "postgres://nobody@127.0.0.1:1/x"}, filepath.Join(dir, Name(time.Now())), key(t).Recipient())
	assert.Error(t, err)
	m, err := Create(ctx, s, filepath.Join(dir, Name(time.Now())), key(t).Recipient())
	require.NoError(t, err)
	assert.NotZero(t, m.Schema)
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, list, 1)
	i, err := list[0].Info()
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), i.Mode().Perm())
}

// Of two years of nights the last seven days stay, five weeks and twelve months.
func TestRotationKeepsDaysWeeksAndMonths(t *testing.T) {
	dir := t.TempDir()
	touch := func(name string) { require.NoError(t, os.WriteFile(filepath.Join(dir, name), nil, 0o600)) }
	touch("notes.txt")
	touch("notchback-yesterday.age")
	first := time.Date(2025, 1, 1, 2, 30, 0, 0, time.UTC)
	for d := range 730 {
		touch(Name(first.AddDate(0, 0, d)))
	}
	_, err := Rotate(dir)
	require.NoError(t, err)
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	var got []string
	for _, e := range list {
		got = append(got, strings.TrimSuffix(strings.TrimPrefix(e.Name(), nameStart), "-023000"+nameEnd))
	}
	assert.Equal(t, []string{"2026"}, []string{got[0][:4]})
	assert.Contains(t, got, "20260131")
	assert.Contains(t, got, "20261231")
	assert.Contains(t, got, "20261225")
	assert.Contains(t, got, "20261220")
	assert.NotContains(t, got, "20261219")
	assert.Len(t, got, 7+3+11+2, "days, weeks and months but for those that fall on them, and what is none of ours")
	at, err := Newest(dir)
	require.NoError(t, err)
	assert.Equal(t, first.AddDate(0, 0, 729), at)
	went, err := Rotate(dir)
	require.NoError(t, err)
	assert.Empty(t, went, "twice is once")
}

func flipped(b []byte, at int) []byte {
	out := bytes.Clone(b)
	out[at] ^= 1
	return out
}

// forged is a sealed file whose manifest says what it likes.
func forged(t *testing.T, k *age.X25519Identity, says string) []byte {
	t.Helper()
	var b bytes.Buffer
	sealed, err := age.Encrypt(&b, k.Recipient())
	require.NoError(t, err)
	w := &writer{t: tar.NewWriter(sealed)}
	require.NoError(t, w.put(manifest, int64(len(says)), strings.NewReader(says)))
	require.NoError(t, w.json(endName, w.end))
	require.NoError(t, w.t.Close())
	require.NoError(t, sealed.Close())
	return b.Bytes()
}

// A practice of two hundred: what it says of each runner is the same after it came back
// elsewhere. Thirty in the tests, all of them in make bench.
func TestALargePracticeComesBack(t *testing.T) {
	most := 30
	if os.Getenv("NOTCHBACK_RATIOS") != "" {
		most = 200
	}
	s, u := installation(t)
	cost := demotest.Cheap
	enter := func(url string) (*house.House, *store.Store, app.Actor) {
		st, err := store.Open(ctx, url)
		require.NoError(t, err)
		a, err := house.New(st, cost)
		require.NoError(t, err)
		c, err := a.SignIn(ctx, demo.Email, demo.Password, "x")
		require.NoError(t, err)
		act, err := a.Actor(ctx, c.Practice, c.User)
		require.NoError(t, err)
		return a, st, act
	}
	a, st, act := enter(u.App)
	all := func(a *house.House, act app.Actor) map[string]string {
		out := map[string]string{}
		for page := 0; ; page++ {
			b, err := a.Bench(ctx, act, "", page)
			require.NoError(t, err)
			for _, i := range b.Items {
				x, err := a.ExportRunner(ctx, act, i.ID)
				require.NoError(t, err)
				raw, err := json.Marshal(x)
				require.NoError(t, err)
				out[i.ID] = string(raw)
			}
			if len(b.Items) == 0 {
				return out
			}
		}
	}
	made := all(a, act)
	for n := len(made); n < most; {
		for _, raw := range made {
			if n >= most {
				break
			}
			_, err := a.ImportRunner(ctx, act, strings.NewReader(raw), true)
			require.NoError(t, err)
			n++
		}
	}
	before := all(a, act)
	require.Len(t, before, most)
	k := key(t)
	var b bytes.Buffer
	start := time.Now()
	m, err := Backup(ctx, s, &b, k.Recipient())
	require.NoError(t, err)
	took := time.Since(start)
	st.Close()
	other := storetest.Fresh(t)
	to := Source{Owner: other.Owner, Clips: t.TempDir()}
	start = time.Now()
	_, _, err = Restore(ctx, to, bytes.NewReader(b.Bytes()), k)
	require.NoError(t, err)
	t.Logf("%d runners, %d rows: %.1f MB in %s, back in %s", most, m.Rows(), float64(b.Len())/1e6, took.Round(10*time.Millisecond), time.Since(start).Round(10*time.Millisecond))
	a, st, act = enter(other.App)
	defer st.Close()
	assert.Equal(t, before, all(a, act))
}
