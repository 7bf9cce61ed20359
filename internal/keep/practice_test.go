package keep

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/store/storetest"
)

// signedIn is an installation with somebody in it.
func signedIn(t *testing.T, url, email string) (a *house.House, act app.Actor, end func()) {
	t.Helper()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	a, err = house.New(st, demotest.Cheap)
	require.NoError(t, err)
	c, err := a.SignIn(ctx, email, demo.Password, "x")
	require.NoError(t, err)
	act, err = a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	return a, act, func() { a.Close(); st.Close() }
}

// exports are what a practice says of every runner.
func exports(t *testing.T, url, email string) map[string]string {
	t.Helper()
	a, act, end := signedIn(t, url, email)
	defer end()
	b, err := a.Bench(ctx, act, "", 0)
	require.NoError(t, err)
	out := map[string]string{}
	for _, i := range b.Items {
		x, err := a.ExportRunner(ctx, act, i.ID)
		require.NoError(t, err)
		raw, err := json.Marshal(x)
		require.NoError(t, err)
		out[i.ID] = string(raw)
	}
	return out
}

// wayIn gives somebody a second device, whose secret it returns, and a key for a program.
func wayIn(t *testing.T, url, email string) (secret, key string) {
	t.Helper()
	a, act, end := signedIn(t, url, email)
	defer end()
	var err error
	act.Device, err = a.OpenDevice(ctx, act.Practice, act.User.ID, "a browser")
	require.NoError(t, err)
	s, err := a.BeginSecond(ctx, act, demo.Password)
	require.NoError(t, err)
	code, err := totp.GenerateCode(s.Secret, time.Now())
	require.NoError(t, err)
	_, err = a.BeginsWithCode(ctx, act, code)
	require.NoError(t, err)
	k, err := a.MakeKey(ctx, act, account.NewKey{Name: "a table", Scope: "read", Days: 9, Old: demo.Password})
	require.NoError(t, err)
	_, err = a.ByKey(ctx, k.Key, app.Visit{})
	require.NoError(t, err)
	return s.Secret, k.Key
}

// One practice goes to another installation, which is at work and has one of its own: it
// says there what it said here, the other one is as it was, and what comes later counts on.
func TestOnePracticeGoesToAnotherInstallation(t *testing.T) {
	s, u := installation(t)
	k := key(t)
	list, err := Practices(ctx, s)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.Equal(t, "Morrow Island Harriers", list[0].Name)
	secret, programs := wayIn(t, u.App, demo.CoachEmail)
	file := filepath.Join(t.TempDir(), "club.age")
	m, err := Export(ctx, s, list[0].ID, file, k.Recipient())
	require.NoError(t, err)
	assert.Equal(t, list[0], *m.Practice)
	assert.Equal(t, 1, m.Files)
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.NotContains(t, string(raw), "Isolde", "sealed")

	other := storetest.Fresh(t)
	st, err := store.Open(ctx, other.App)
	require.NoError(t, err)
	defer st.Close()
	a, err := house.New(st, demotest.Cheap)
	require.NoError(t, err)
	defer a.Close()
	host, err := a.Found(ctx, account.FirstRun{Practice: "Reef Runners", Zone: "UTC", Name: "Ora", Email: "ora@reef.example", Password: demo.Password})
	require.NoError(t, err)
	act, err := a.Actor(ctx, host.Practice, host.User)
	require.NoError(t, err)
	own, err := a.AddRunner(ctx, act, "", input.RunnerInput{Name: "Bo"})
	require.NoError(t, err)
	to := Source{Owner: other.Owner, Clips: t.TempDir()}
	before := tables(t, other.Owner)

	var whole bytes.Buffer
	_, err = Backup(ctx, s, &whole, k.Recipient())
	require.NoError(t, err)
	n := len(raw)
	for name, bad := range map[string][]byte{"nothing": nil, "half": raw[:n/2], "cut off": raw[:n-1], "a flipped bit": flipped(raw, n/3), "a backup": whole.Bytes(),
		"no practice": forged(t, k, `{"format":"notchback-practice","version":1}`), "a path": forged(t, k, `{"format":"notchback-practice","version":1,"practice":{"id":"../../x"}}`)} {
		_, err := Import(ctx, to, bytes.NewReader(bad), k)
		assert.ErrorIs(t, err, ErrBackup, name)
	}
	_, err = Import(ctx, to, bytes.NewReader(forged(t, k, `{"format":"notchback-practice","version":1,"schema":3,"practice":{"id":"`+list[0].ID+`"}}`)), k)
	require.ErrorContains(t, err, "another edition")
	_, err = Import(ctx, to, bytes.NewReader(raw), key(t))
	require.ErrorIs(t, err, ErrBackup, "another key")
	_, _, err = Restore(ctx, to, bytes.NewReader(raw), k)
	require.ErrorIs(t, err, ErrBackup, "a practice is no backup")
	assert.Equal(t, before, tables(t, other.Owner))

	got, err := Import(ctx, to, bytes.NewReader(raw), k)
	require.NoError(t, err)
	assert.Equal(t, m.Tables, got.Tables)
	t.Logf("%d rows, %d kB", got.Rows(), n/1024)
	there, err := filepath.Glob(filepath.Join(to.Clips, "*"))
	require.NoError(t, err)
	assert.Equal(t, []string{filepath.Join(to.Clips, list[0].ID)}, there, "its clips, and nothing lies about")
	assert.Equal(t, exports(t, u.App, demo.Email), exports(t, other.App, demo.Email))
	assert.Len(t, exports(t, other.App, "ora@reef.example"), 1, "each sees its own")

	// The second device goes along, and a program's key stays behind.
	teo := account.Claim{Email: demo.CoachEmail, Password: demo.Password}
	_, err = a.SignInOn(ctx, teo, "x", "")
	require.ErrorContains(t, err, "second device")
	teo.Code, err = totp.GenerateCode(secret, time.Now().Add(30*time.Second))
	require.NoError(t, err)
	_, err = a.SignInOn(ctx, teo, "x", "")
	require.NoError(t, err)
	_, err = a.ByKey(ctx, programs, app.Visit{})
	require.ErrorIs(t, err, app.ErrSignedOut)

	c, err := pgx.Connect(ctx, other.Owner)
	require.NoError(t, err)
	defer func() { _ = c.Close(ctx) }()
	for _, x := range [][2]string{{"arrivals", "SELECT max(seq) FROM trials"}, {"arrivals", "SELECT max(ordinal) FROM decisions"}, {"journal_id_seq", "SELECT max(id) FROM journal"}} {
		var last, most int64
		require.NoError(t, c.QueryRow(ctx, `SELECT last_value, (`+x[1]+`) FROM `+x[0]).Scan(&last, &most))
		assert.GreaterOrEqual(t, last, most, x[0])
	}
	_, err = a.Journal(ctx, act, own.ID)
	require.NoError(t, err)

	// Twice is once; and nobody comes in whose address is taken.
	_, err = Import(ctx, to, bytes.NewReader(raw), k)
	require.ErrorIs(t, err, ErrThere)
	require.ErrorContains(t, err, "here already")
	file = filepath.Join(there[0], "files", "abc123")
	assert.FileExists(t, file, "what is there stays")
	third := storetest.Fresh(t)
	st3, err := store.Open(ctx, third.App)
	require.NoError(t, err)
	defer st3.Close()
	a3, err := house.New(st3, demotest.Cheap)
	require.NoError(t, err)
	defer a3.Close()
	_, err = a3.Found(ctx, account.FirstRun{Practice: "P", Zone: "UTC", Name: "M", Email: demo.Email, Password: demo.Password})
	require.NoError(t, err)
	before, clips := tables(t, third.Owner), t.TempDir()
	_, err = Import(ctx, Source{Owner: third.Owner, Clips: clips}, bytes.NewReader(raw), k)
	require.ErrorIs(t, err, ErrThere)
	require.ErrorContains(t, err, "same e-mail")
	assert.Equal(t, before, tables(t, third.Owner))
	left, err := os.ReadDir(clips)
	require.NoError(t, err)
	assert.Empty(t, left)
}
