package web_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/web"
)

// stage is a server with its parts at hand.
type stage struct {
	*httptest.Server
	store *store.Store
	owner *store.Store
	log   *lockedBuffer
	clock atomic.Int64 // seconds ahead
}

type lockedBuffer struct {
	mu sync.Mutex
	bytes.Buffer
}

func (b *lockedBuffer) Write(p []byte) (int, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.Buffer.Write(p)
}

func (b *lockedBuffer) said() string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.String()
}

func staged(t *testing.T, o web.Options) *stage {
	t.Helper()
	u := demotest.Seeded(t)
	st := &stage{log: &lockedBuffer{}}
	var err error
	st.store, err = store.Open(context.Background(), u.App)
	require.NoError(t, err)
	t.Cleanup(st.store.Close)
	st.owner, err = store.Open(context.Background(), u.Owner)
	require.NoError(t, err)
	t.Cleanup(st.owner.Close)
	o.Log = slog.New(slog.NewJSONHandler(st.log, nil))
	o.Now = func() time.Time { return time.Now().Add(time.Duration(st.clock.Load()) * time.Second) }
	a, err := house.New(st.store, demotest.Cheap, app.WithLog(o.Log), app.WithClock(o.Now))
	require.NoError(t, err)
	h, err := web.New(a, o)
	require.NoError(t, err)
	st.Server = httptest.NewServer(h)
	t.Cleanup(st.Close)
	return st
}

func (st *stage) count(t *testing.T, sql string, args ...any) (n int) {
	t.Helper()
	require.NoError(t, st.owner.Pool().QueryRow(context.Background(), sql, args...).Scan(&n))
	return n
}

// Nobody's body is read: the answer comes while the sender still holds it back.
func TestNobodyIsReadBeforeTheDoor(t *testing.T) {
	st := staged(t, web.Options{})
	for _, path := range []string{"POST /api/bundles", "PUT /api/clips/00000000-0000-4000-8000-000000000000/proposal", "POST /api/compute/decision"} {
		c, err := net.Dial("tcp", strings.TrimPrefix(st.URL, "http://"))
		require.NoError(t, err)
		_, err = fmt.Fprintf(c, "%s HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 24000000\r\n\r\n{", path)
		require.NoError(t, err)
		require.NoError(t, c.SetReadDeadline(time.Now().Add(20*time.Second)))
		res, err := http.ReadResponse(bufio.NewReader(c), nil)
		require.NoError(t, err, path)
		assert.Equal(t, 401, res.StatusCode, path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")
		_ = res.Body.Close()
		_ = c.Close()
	}
	viewer := signedIn(t, st.Server, demo.ViewerEmail)
	for _, r := range []io.Reader{&endless{}, bytes.NewReader(make([]byte, 8<<20))} {
		req, err := http.NewRequest("POST", st.URL+"/api/bundles", r)
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		res, err := viewer.Do(req)
		if err == nil { // the server may close while we still send
			assert.Equal(t, 403, res.StatusCode, "rights before reading")
			_ = res.Body.Close()
		}
	}
	coach := signedIn(t, st.Server, demo.Email)
	status, _ := coach.do("POST", "/api/runners", strings.Repeat("x", 1<<20+1))
	assert.Equal(t, 413, status, "size before decoding")
}

type endless struct{}

func (endless) Read(p []byte) (int, error) { return len(p), nil }

// Every spelling of an account is one account, every try at once is one try, and
// the others of the practice are not locked out.
func TestGuessingGetsSlowerForTheGuesserAlone(t *testing.T) {
	st := staged(t, web.Options{Proxies: []string{"127.0.0.1"}})
	try := func(email, password, from string) int {
		status, _ := newClient(t, st.Server).do("POST", "/api/session", map[string]string{"email": email, "password": password}, "X-Forwarded-For", from)
		return status
	}
	var looked atomic.Int32
	var wg sync.WaitGroup
	for i := range 60 {
		wg.Go(func() {
			if try(strings.Repeat(" ", i%7)+strings.ToUpper(demo.Email[:i%5])+demo.Email[i%5:], "wrong", "203.0.113.9") == 401 {
				looked.Add(1)
			}
		})
	}
	wg.Wait()
	assert.LessOrEqual(t, looked.Load(), int32(4), "tries that were looked at")
	for range 4 {
		try(demo.Email, "wrong", "203.0.113.9")
	}
	assert.Equal(t, 429, try(demo.Email, demo.Password, "203.0.113.9"), "even the right one waits there")
	assert.Equal(t, 200, try(demo.Email, demo.Password, "203.0.113.10"), "and nowhere else")
	assert.Equal(t, 200, try(demo.OtherEmail, demo.Password, "203.0.113.9"), "nor anybody else")
	st.clock.Store(16 * 60)
	assert.Equal(t, 200, try(demo.Email, demo.Password, "203.0.113.9"), "and not for ever")
	for i := range 24 {
		try(fmt.Sprintf("nobody%d@example.test", i), "wrong", "2001:db8::1")
	}
	last := 0
	for i := range 4 {
		last = try(fmt.Sprintf("no%d@example.test", i), "wrong", fmt.Sprintf("2001:db8::%d", i+2))
	}
	assert.Equal(t, 429, last, "one network of IPv6 is one address")
	said := st.log.said()
	assert.Contains(t, said, `"outcome":"signInFailed"`)
	assert.Contains(t, said, `"outcome":"signInThrottled"`)
	assert.NotContains(t, said, demo.Email, "no personal data")
	_, out := signedIn(t, st.Server, demo.Email).do("GET", "/api/access-log", nil)
	assert.Contains(t, fmt.Sprint(out["items"]), "Sign in with a wrong password")
}

// Without a proxy that is trusted nobody says where they come from.
func TestAnAddressIsNotTakenFromStrangers(t *testing.T) {
	st := staged(t, web.Options{})
	last := 0
	for i := range 5 {
		last, _ = newClient(t, st.Server).do("POST", "/api/session", map[string]string{"email": demo.Email, "password": "wrong"}, "X-Forwarded-For", fmt.Sprintf("203.0.113.%d", i))
	}
	assert.Equal(t, 429, last)
}

func TestASessionEndsWhenItIsNotUsed(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	var token string
	for _, k := range c.Jar.Cookies(mustURL(t, st.URL)) {
		token = k.Value
	}
	require.NotEmpty(t, token)
	assert.Zero(t, st.count(t, `SELECT count(*) FROM sessions WHERE token = $1 OR position($1 in encode(data, 'escape')) > 0`, token), "a token is kept hashed")
	for range 3 {
		st.clock.Add(11 * 3600)
		status, _ := c.do("GET", "/api/runners", nil)
		assert.Equal(t, 200, status, "used every 11 hours")
	}
	for range 2 { // a page that looks again by itself is no use
		st.clock.Add(7 * 3600)
		c.do("GET", "/api/runners", nil, "Notchback-Unattended", "1")
	}
	status, _ := c.do("GET", "/api/runners", nil)
	assert.Equal(t, 401, status)
	require.NoError(t, st.store.WithClock(func() time.Time { return time.Now().Add(60 * time.Hour) }).SweepSessions(context.Background(), 12*time.Hour, time.Hour))
	assert.Zero(t, st.count(t, `SELECT count(*) FROM sessions`))
}

func TestPasswordsOfTheFirstGuessesAreRefused(t *testing.T) {
	c := newClient(t, server(t, false))
	for _, p := range []string{"aaaaaaaaaa", "password12", "1234567890", "qwertyuiop", "iloveyou123", "headland99", "shortone"} {
		status, out := c.do("POST", "/api/first-run", map[string]string{"practice": "Headland", "name": "N", "email": "n@example.test", "password": p, "zone": "UTC"})
		assert.Equal(t, 422, status, p)
		assert.Contains(t, fmt.Sprint(out["errors"]), "body.password", p)
	}
}

func TestHeadersOnEveryAnswer(t *testing.T) {
	st := staged(t, web.Options{Secure: true})
	for _, k := range []struct {
		path, method string
		status       int
	}{{"/", "GET", 200}, {"/api/runners", "GET", 401}, {"/api/nothing", "GET", 404}, {"/api/session", "POST", 403}, {"/healthz", "GET", 200}, {"/readyz", "GET", 200}, {"/assets/none.js", "GET", 404}} {
		req, err := http.NewRequest(k.method, st.URL+k.path, nil)
		require.NoError(t, err)
		if k.status == 403 {
			req.Header.Set("Sec-Fetch-Site", "cross-site")
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, k.status, res.StatusCode, k.path)
		for _, h := range []string{"Content-Security-Policy", "X-Content-Type-Options", "Referrer-Policy", "Permissions-Policy", "Strict-Transport-Security", "X-Request-Id"} {
			assert.NotEmpty(t, res.Header.Get(h), "%s of %s", h, k.path)
		}
		if strings.HasSuffix(k.path, "z") {
			assert.Contains(t, res.Header.Get("Content-Type"), "text/plain", "not a page")
		}
	}
	res, err := http.Post(st.URL+"/api/session", "application/json", strings.NewReader(`{"email":"`+demo.Email+`","password":"`+demo.Password+`"}`))
	require.NoError(t, err)
	_ = res.Body.Close()
	require.NotEmpty(t, res.Cookies())
	var names []string
	for _, c := range res.Cookies() {
		assert.True(t, c.Secure, c.Name)
		assert.True(t, c.HttpOnly, c.Name)
		names = append(names, c.Name)
	}
	assert.ElementsMatch(t, []string{"__Host-notchback", "__Host-notchback-known"}, names)
}

// An answer that could not look at the session has its headers and says why.
func TestWithoutADatabaseTheServerSaysSo(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	_, err := st.owner.Pool().Exec(context.Background(), `ALTER TABLE sessions RENAME TO gone`)
	require.NoError(t, err)
	req, err := http.NewRequest("GET", st.URL+"/api/runners", nil)
	require.NoError(t, err)
	res, err := c.Do(req)
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, 503, res.StatusCode)
	assert.NotEmpty(t, res.Header.Get("Permissions-Policy"))
	assert.Contains(t, st.log.said(), `"level":"ERROR"`)
	_, err = st.owner.Pool().Exec(context.Background(), `DROP FUNCTION schema_version()`)
	require.NoError(t, err)
	res, err = http.Get(st.URL + "/readyz")
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, 503, res.StatusCode)
}

// One line a request, without what belongs to a person; an error with its
// operation and its stack.
func TestTheLogNamesOperationsAndNoPeople(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	id := c.runner("Isolde")
	c.do("GET", "/api/runners/"+id, nil)
	c.do("GET", "/calendar/some-secret-token.ics", nil)
	_, err := st.owner.Pool().Exec(context.Background(), `ALTER TABLE journal RENAME TO gone`)
	require.NoError(t, err)
	status, out := c.do("GET", "/api/runners/"+id+"/journal", nil)
	require.Equal(t, 500, status)
	said := st.log.said()
	for _, private := range []string{id, "Isolde", "some-secret-token", demo.Email} {
		assert.NotContains(t, said, private)
	}
	var lines int
	for line := range strings.Lines(said) {
		var x map[string]any
		require.NoError(t, json.Unmarshal([]byte(line), &x))
		if x["msg"] != "request" {
			continue
		}
		lines++
		for _, k := range []string{"time", "level", "id", "operation", "status", "ms"} {
			assert.Contains(t, x, k)
		}
	}
	assert.Equal(t, 5, lines)
	assert.Contains(t, said, `"operation":"getJournal","err"`)
	assert.Contains(t, said, "goroutine")
	number := strings.Fields(out["detail"].(string))
	assert.Contains(t, said, number[len(number)-1], "the number in the answer leads to the line")
}

// A key belongs to one person, operation, address and body, and is forgotten.
func TestAKeyBelongsToOneRequestOfOnePerson(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	isolde, joonas := c.runner("Isolde"), c.runner("Joonas")
	run := map[string]any{"on": "2026-01-02", "km": 5, "minutes": 30}
	status, one := c.do("POST", "/api/runners/"+isolde+"/runs", run, "Idempotency-Key", "k")
	require.Equal(t, 200, status)
	status, again := c.do("POST", "/api/runners/"+isolde+"/runs", run, "Idempotency-Key", "k")
	assert.Equal(t, 200, status)
	assert.Equal(t, one["id"], again["id"])
	status, _ = c.do("POST", "/api/runners/"+joonas+"/runs", run, "Idempotency-Key", "k")
	assert.Equal(t, 409, status, "another runner")
	status, _ = c.do("POST", "/api/runners/"+isolde+"/runs", map[string]any{"on": "2026-01-02", "km": 6, "minutes": 30}, "Idempotency-Key", "k")
	assert.Equal(t, 409, status, "another body")
	_, err := st.owner.Pool().Exec(context.Background(), `UPDATE users SET role = 'coach' WHERE email = $1`, demo.ViewerEmail)
	require.NoError(t, err)
	status, other := signedIn(t, st.Server, demo.ViewerEmail).do("POST", "/api/runners/"+isolde+"/runs", run, "Idempotency-Key", "k")
	assert.Equal(t, 200, status)
	assert.NotEqual(t, one["id"], other["id"], "another person's run is stored")
	a, err := house.New(st.store, app.WithClock(func() time.Time { return time.Now().Add(6 * 24 * time.Hour) }))
	require.NoError(t, err)
	n, err := a.Housekeep(context.Background(), web.SessionIdle)
	require.NoError(t, err)
	assert.Zero(t, n, "kept for six days")
	a, err = house.New(st.store, app.WithClock(func() time.Time { return time.Now().Add(8 * 24 * time.Hour) }))
	require.NoError(t, err)
	n, err = a.Housekeep(context.Background(), web.SessionIdle)
	require.NoError(t, err)
	assert.EqualValues(t, 2, n, "and not for ever")
}

// The log of the owner: every look and every change, by whom; nobody else reads it.
func TestTheOwnerReadsWhoWasLetIn(t *testing.T) {
	st := staged(t, web.Options{})
	c, viewer := signedIn(t, st.Server, demo.Email), signedIn(t, st.Server, demo.ViewerEmail)
	id := c.runner("Isolde")
	viewer.do("GET", "/api/runners/"+id+"/load", nil)
	status, _ := viewer.do("PUT", "/api/runners/"+id+"/mornings/2026-01-02", map[string]any{"firstStep": 1})
	require.Equal(t, 403, status)
	status, _ = viewer.do("GET", "/api/access-log", nil)
	assert.Equal(t, 403, status)
	_, out := c.do("GET", "/api/access-log?runner="+id, nil)
	list := out["items"].([]any)
	require.GreaterOrEqual(t, len(list), 2)
	top, below := list[0].(map[string]any), list[1].(map[string]any)
	assert.Equal(t, true, top["refused"])
	assert.Equal(t, "putMorning", top["did"])
	assert.Equal(t, "Note first-step pain of one morning", top["what"])
	assert.Equal(t, "getLoad", below["did"])
	assert.Nil(t, below["refused"])
	assert.Contains(t, below["runner"], "Isolde")
	_, out = c.do("GET", fmt.Sprintf("/api/access-log?below=%v", top["id"]), nil)
	for _, x := range out["items"].([]any) {
		assert.Less(t, x.(map[string]any)["id"], top["id"])
	}
	_, theirs := signedIn(t, st.Server, demo.OtherEmail).do("GET", "/api/access-log", nil)
	assert.NotContains(t, fmt.Sprint(theirs), "Isolde")
}

// Characters and days that can't be are refused where they come in, not met as an
// error inside.
func TestWhatCantBeKeptIsSaidSo(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	id := c.runner("Isolde")
	for _, k := range []struct {
		method, path string
		body         any
	}{
		{"POST", "/api/runners", map[string]any{"name": "a\x00b"}},
		{"POST", "/api/runners/" + id + "/runs", map[string]any{"on": "2026-01-02", "km": 5, "minutes": 30, "note": "a\x00b"}},
		{"PUT", "/api/runners/" + id + "/days/2026-11-20", map[string]any{"note": "a\x00b"}},
		{"GET", "/api/runners?search=%E9", nil},
		{"GET", "/api/runners?search=%00", nil},
		{"POST", "/api/session", map[string]any{"email": "a\x00b", "password": "x"}},
		{"GET", "/api/runners/" + id + "/review?monday=0001-01-01", nil},
		{"GET", "/api/runners/" + id + "/review?monday=1950-01-02", nil},
		{"PUT", "/api/runners/" + id + "/mornings/0001-01-01", map[string]any{"firstStep": 1}},
		{"PUT", "/api/runners/" + id + "/mornings/1950-01-01", map[string]any{"firstStep": 1}},
		{"PUT", "/api/runners/" + id + "/planned-weeks/2190-01-06", map[string]any{"km": 1}},
	} {
		status, out := c.do(k.method, k.path, k.body)
		assert.Equal(t, 422, status, "%s %s: %v", k.method, k.path, out)
	}
	status, out := c.do("POST", "/api/runners/"+id+"/run-files?name=old.csv", []byte("date,km,min,note\n2026-01-02,5,30,C\xf4te\n"))
	assert.Equal(t, 200, status, out)
	assert.NotContains(t, st.log.said(), `"level":"ERROR"`)
}

// What goes out as a bundle comes in again, through the door.
func TestABundleGoesOutAndComesIn(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	res, err := c.Get(st.URL + "/api/runners/" + c.runner("Oskar") + "/bundle")
	require.NoError(t, err)
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	_ = res.Body.Close()
	require.Greater(t, len(raw), 100_000)
	status, out := signedIn(t, st.Server, demo.OtherEmail).do("POST", "/api/bundles", string(raw))
	require.Equal(t, 200, status, out)
	assert.Equal(t, "Morrow Island Harriers", out["importedFrom"])
	status, out = c.do("POST", "/api/bundles", strings.Replace(string(raw), `"version":5`, `"version":99`, 1))
	assert.Equal(t, 422, status)
	assert.Contains(t, fmt.Sprint(out), "bring the program up to date")
	status, _ = c.do("POST", "/api/bundles", strings.Repeat(" ", input.BundleMost+1))
	assert.Equal(t, 413, status)
}

// A database that does not answer holds a request for its time and no longer, also
// where it is the session that is looked for.
func TestASessionIsNotWaitedForWithoutEnd(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	tx, err := st.owner.Pool().Begin(context.Background())
	require.NoError(t, err)
	defer func() { _ = tx.Rollback(context.Background()) }()
	_, err = tx.Exec(context.Background(), `LOCK TABLE sessions IN ACCESS EXCLUSIVE MODE`)
	require.NoError(t, err)
	status, out := c.do("GET", "/api/runners", nil) // would wait for the lock until the end of time
	assert.Equal(t, 503, status)
	assert.Contains(t, fmt.Sprint(out), "nothing was changed")
}

// Files that stop coming hold up nobody who sends none.
func TestSlowSendersHoldNoRoom(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	id := c.runner("Isolde")
	at, err := url.Parse(st.URL)
	require.NoError(t, err)
	for range 8 {
		conn, err := net.Dial("tcp", at.Host)
		require.NoError(t, err)
		defer func() { _ = conn.Close() }()
		_, err = fmt.Fprintf(conn, "POST /api/runners/%s/run-files?name=a.csv HTTP/1.1\r\nHost: x\r\nCookie: %s\r\nContent-Type: application/octet-stream\r\nContent-Length: 20000000\r\n\r\n{", id, c.Jar.Cookies(at)[0])
		require.NoError(t, err)
	}
	for i := range 20 {
		status, _ := c.do("GET", "/api/runners", nil)
		require.Equal(t, 200, status)
		status, _ = c.do("POST", "/api/runners", map[string]any{"name": fmt.Sprint("Runner ", i), "born": "1990-04-01"})
		require.Less(t, status, 500)
	}
}
