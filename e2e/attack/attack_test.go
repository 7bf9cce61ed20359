// Package attack sends what nobody should send to every operation of the OpenAPI
// document: a new operation is attacked without being named here.
package attack

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
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/store/blobs"
	"notchback/store/storetest"
	"notchback/web"
)

func TestMain(m *testing.M) {
	code := m.Run()
	storetest.Cleanup()
	os.Exit(code)
}

// target is a server with the demo, and what its operations need.
type target struct {
	phone []*http.Cookie // of a phone of the attacked runner
	*httptest.Server
	t     *testing.T
	owner *store.Store
	log   *spoken
	doc   document
	ids   map[string]string // by the beginning of the address
	other map[string]string // by the name of the parameter
}

// spare is the id of somebody of the practice who is there to be tried on.
func (x *target) spare(owner *client) string {
	st, raw := owner.send("POST", "/api/staff/invitations", []byte(`{"role":"coach","note":"spare"}`), "application/json")
	require.Equal(x.t, 200, st, string(raw))
	var link struct{ Token string }
	require.NoError(x.t, json.Unmarshal(raw, &link))
	st, raw = x.stranger().send("POST", "/api/join", []byte(`{"token":"`+link.Token+`","name":"Spare Coach","email":"spare@harriers.example","password":"`+demo.Password+`"}`), "application/json")
	require.Equal(x.t, 200, st, string(raw))
	var me struct{ ID string }
	require.NoError(x.t, json.Unmarshal(raw, &me))
	return me.ID
}

type spoken struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (s *spoken) Write(p []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.Write(p)
}

// troubles are the lines of the log that no attack may cause.
func (s *spoken) troubles() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []string
	for l := range strings.Lines(s.b.String()) {
		if strings.Contains(l, `"level":"ERROR"`) {
			out = append(out, l)
		}
	}
	return out
}

type schema struct {
	Ref        string            `json:"$ref"`
	Type       any               `json:"type"`
	Format     string            `json:"format"`
	Enum       []any             `json:"enum"`
	Example    any               `json:"example"`
	Minimum    *float64          `json:"minimum"`
	MinLength  int               `json:"minLength"`
	MinItems   int               `json:"minItems"`
	Items      *schema           `json:"items"`
	Properties map[string]schema `json:"properties"`
	Required   []string          `json:"required"`
}

type operation struct {
	ID         string `json:"operationId"`
	Parameters []struct {
		Name     string `json:"name"`
		In       string `json:"in"`
		Required bool   `json:"required"`
		Schema   schema `json:"schema"`
	} `json:"parameters"`
	Body *struct {
		Content map[string]struct {
			Schema schema `json:"schema"`
		} `json:"content"`
	} `json:"requestBody"`

	method, path string
}

type document struct {
	Paths      map[string]map[string]operation `json:"paths"`
	Components struct {
		Schemas map[string]schema `json:"schemas"`
	} `json:"components"`
}

func (d document) operations() []operation {
	var out []operation
	for path, list := range d.Paths {
		for method, o := range list {
			o.method, o.path = strings.ToUpper(method), path
			out = append(out, o)
		}
	}
	slices.SortFunc(out, func(a, b operation) int { return strings.Compare(a.ID, b.ID) })
	return out
}

// draw is the least value that fits a schema.
func (d document) draw(s schema, depth int) any {
	if s.Ref != "" {
		s = d.Components.Schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]]
	}
	if s.Example != nil {
		return s.Example
	}
	if len(s.Enum) > 0 {
		return s.Enum[0]
	}
	kind, ok := s.Type.(string)
	if list, many := s.Type.([]any); many && len(list) > 0 {
		kind, ok = list[0].(string)
	}
	if !ok || depth > 12 {
		return map[string]any{}
	}
	switch kind {
	case "string":
		switch s.Format {
		case "date":
			return time.Now().AddDate(0, 0, -2).Format(time.DateOnly)
		case "uuid":
			return "00000000-0000-4000-8000-000000000000"
		case "date-time":
			return time.Now().Format(time.RFC3339)
		}
		return strings.Repeat("x", max(1, s.MinLength))
	case "number", "integer":
		if s.Minimum != nil {
			return *s.Minimum
		}
		return 1
	case "boolean":
		return true
	case "array":
		out := []any{}
		for range s.MinItems {
			out = append(out, d.draw(*s.Items, depth+1))
		}
		return out
	}
	out := map[string]any{}
	for _, k := range s.Required {
		if k != "$schema" {
			out[k] = d.draw(s.Properties[k], depth+1)
		}
	}
	return out
}

// body is a request body that fits, with its type; nil where there is none.
func (d document) body(o operation) ([]byte, string) {
	if o.Body == nil {
		return nil, ""
	}
	for kind, c := range o.Body.Content {
		if kind != "application/json" {
			return []byte("x"), kind
		}
		raw, _ := json.Marshal(d.draw(c.Schema, 0))
		return raw, kind
	}
	return nil, ""
}

var hole = regexp.MustCompile(`\{(\w+)\}`)

// address is the address of an operation on real records.
func (x *target) address(o operation) string {
	var missing []string
	at := hole.ReplaceAllStringFunc(o.path, func(h string) string {
		name := h[1 : len(h)-1]
		if name == "id" {
			for prefix, id := range x.ids {
				if strings.HasPrefix(o.path, prefix) {
					return id
				}
			}
		}
		if v := x.other[name]; v != "" {
			return v
		}
		missing = append(missing, name)
		return h
	})
	require.Empty(x.t, missing, "say which record stands in %s for the attacks", o.path)
	sep := "?"
	for _, p := range o.Parameters {
		if p.In == "query" && p.Required {
			at += sep + p.Name + "=" + url.QueryEscape(fmt.Sprint(x.doc.draw(p.Schema, 0)))
			sep = "&"
		}
	}
	return at
}

func aim(t *testing.T) *target {
	t.Helper()
	t.Parallel()
	u := demotest.Seeded(t)
	s, err := store.Open(context.Background(), u.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	x := &target{t: t, log: &spoken{}}
	x.owner, err = store.Open(context.Background(), u.Owner)
	require.NoError(t, err)
	t.Cleanup(x.owner.Close)
	log := slog.New(slog.NewJSONHandler(x.log, nil))
	clips, err := blobs.Open(t.TempDir())
	require.NoError(t, err)
	a, err := house.New(s, demotest.Cheap, app.WithLog(log), app.WithBlobs(clips))
	require.NoError(t, err)
	t.Cleanup(a.Close)
	h, err := web.New(a, web.Options{Log: log})
	require.NoError(t, err)
	x.Server = httptest.NewServer(h)
	t.Cleanup(x.Close)
	raw, err := web.OpenAPI()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &x.doc))
	c := x.signedIn(demo.Email)
	first := func(path, list string) map[string]any {
		var out map[string]any
		_, raw := c.send("GET", path, nil, "")
		require.NoError(t, json.Unmarshal(raw, &out))
		if list == "" {
			return out
		}
		return out[list].([]any)[0].(map[string]any)
	}
	runner := first("/api/runners?search=Isolde", "items")["id"].(string)
	screening := first("/api/runners/"+runner+"/screenings", "items")["id"].(string)
	block := first("/api/runners/"+runner+"/block", "")["block"].(map[string]any)
	p := block["prescriptions"].([]any)[0].(map[string]any)
	log0 := first("/api/blocks/"+block["id"].(string)+"/session-logs", "items")["id"].(string)
	run := first("/api/runners/"+runner+"/runs", "items")["id"].(string)
	st, raw := c.send("POST", "/api/screenings/"+screening+"/clips", []byte(`{"name":"x.webm","size":5}`), "application/json")
	require.Equal(t, 200, st)
	var clip map[string]any
	require.NoError(t, json.Unmarshal(raw, &clip))
	x.ids = map[string]string{"/api/runners/": runner, "/api/screenings/": screening, "/api/blocks/": block["id"].(string), "/api/decisions/": p["latest"].([]any)[0].(map[string]any)["id"].(string),
		"/api/clips/": clip["id"].(string), "/api/runs/": run}
	monday := time.Now().AddDate(0, 0, -(int(time.Now().Weekday())+6)%7-7).Format(time.DateOnly)
	phone := x.phoneOf(c, runner)
	x.phone = phone.Jar.Cookies(mustURL(x.URL))
	way := first("/api/runners/"+runner+"/pocket", "")["way"].(map[string]any)
	device := way["devices"].([]any)[0].(map[string]any)["id"].(string)
	brought := first("/api/runners/"+runner+"/run-imports", "items")["id"].(string)
	st, raw = c.send("POST", "/api/staff/invitations", []byte(`{"role":"viewer","note":"never used"}`), "application/json")
	require.Equal(t, 200, st, string(raw))
	invitation := first("/api/staff", "invitations")["id"].(string)
	st, raw = c.send("POST", "/api/runners/"+runner+"/consents", []byte(`{"what":"phone","givenBy":"runner","name":"","how":"spoken","on":"`+time.Now().AddDate(0, 0, -2).Format(time.DateOnly)+`"}`), "application/json")
	require.Equal(t, 200, st, string(raw))
	consent := first("/api/runners/"+runner+"/consents", "items")["id"].(string)
	x.other = map[string]string{"device": device, "import": brought, "on": monday, "test": "knee-to-wall", "side": "left", "slot": "1", "kind": "csv", "name": "rear", "other": clip["id"].(string), "log": log0, "token": "no-such-token", "user": x.spare(c), "invitation": invitation, "key": "00000000-0000-4000-8000-000000000001", "consent": consent}
	return x
}

// print is what stands in the database, but for who came and went.
func (x *target) print() string {
	rows, err := x.owner.Pool().Query(context.Background(), `SELECT relname::text FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace
		AND relname NOT IN ('access_log', 'sessions', 'user_devices', 'sign_in_failures', 'goose_db_version') ORDER BY 1`)
	require.NoError(x.t, err)
	var names []string
	for rows.Next() {
		var n string
		require.NoError(x.t, rows.Scan(&n))
		names = append(names, n)
	}
	out := ""
	for _, n := range names {
		var k int64
		var newest string
		require.NoError(x.t, x.owner.Pool().QueryRow(context.Background(), `SELECT count(*), coalesce(max(xmin::text::bigint), 0)::text FROM `+n).Scan(&k, &newest))
		out += fmt.Sprintln(n, k, newest)
	}
	return out
}

type client struct {
	*http.Client
	x   *target
	key string // of a program
}

func (x *target) stranger() *client {
	jar, err := cookiejar.New(nil)
	require.NoError(x.t, err)
	return &client{Client: &http.Client{Jar: jar, Timeout: time.Minute}, x: x}
}

// programOf is a program with a key somebody makes for it.
func (x *target) programOf(person *client, scope string) *client {
	st, raw := person.send("POST", "/api/me/keys", []byte(`{"name":"a table","scope":"`+scope+`","days":1,"old":"`+demo.Password+`"}`), "application/json")
	require.Equal(x.t, 200, st, "%s", raw)
	var made struct{ Key string }
	require.NoError(x.t, json.Unmarshal(raw, &made))
	c := x.stranger()
	c.key = made.Key
	return c
}

// phoneOf lets a phone of a runner in, by a link of a coach.
func (x *target) phoneOf(coach *client, runner string) *client {
	st, raw := coach.send("POST", "/api/runners/"+runner+"/pocket/links", nil, "")
	require.Equal(x.t, 200, st, string(raw))
	var link struct{ Token string }
	require.NoError(x.t, json.Unmarshal(raw, &link))
	c := x.stranger()
	st, raw = c.send("POST", "/api/pocket/join", []byte(`{"token":"`+link.Token+`","name":"a phone","agreed":true}`), "application/json")
	require.Equal(x.t, 200, st, string(raw))
	return c
}

// both is somebody signed in as a coach who holds a runner's phone too.
func (x *target) both(email string) *client {
	c := x.signedIn(email)
	c.Jar.SetCookies(mustURL(x.URL), x.phone)
	return c
}

// cookies are those of a client, as they are sent.
func (c *client) cookies() string {
	var out []string
	for _, k := range c.Jar.Cookies(mustURL(c.x.URL)) {
		out = append(out, k.Name+"="+k.Value)
	}
	return strings.Join(out, "; ")
}

func (x *target) signedIn(email string) *client {
	c := x.stranger()
	st, _ := c.send("POST", "/api/session", []byte(`{"email":"`+email+`","password":"`+demo.Password+`"}`), "application/json")
	require.Equal(x.t, 200, st)
	return c
}

func (c *client) send(method, path string, body []byte, kind string, header ...string) (int, []byte) {
	var r io.Reader
	if body != nil {
		r = bytes.NewReader(body)
	}
	req, err := http.NewRequest(method, c.x.URL+path, r)
	require.NoError(c.x.t, err, path)
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	if c.key != "" {
		req.Header.Set("Authorization", "Bearer "+c.key)
	}
	res, err := c.Do(req)
	require.NoError(c.x.t, err, "%s %s", method, path)
	defer func() { _ = res.Body.Close() }()
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.x.t, err)
	assert.NotEmpty(c.x.t, res.Header.Get("Content-Security-Policy"), "%s %s: headers on every answer", method, path)
	assert.NotEmpty(c.x.t, res.Header.Get("Permissions-Policy"), "%s %s", method, path)
	return res.StatusCode, raw
}

// open are the operations that need nobody.
var open = []string{"getStart", "firstRun", "getSession", "signIn", "signOut", "getCalendar", "greetPocket", "joinPocket", "getWelcome", "join"}

func TestNobodyGetsAnything(t *testing.T) {
	x := aim(t)
	before := x.print()
	for _, o := range x.doc.operations() {
		body, kind := x.doc.body(o)
		st, raw := x.stranger().send(o.method, x.address(o), body, kind, "If-Match", "1")
		if slices.Contains(open, o.ID) {
			assert.Less(t, st, 500, o.ID)
			continue
		}
		assert.Equal(t, 401, st, "%s without a sign-in", o.ID)
		assert.NotContains(t, string(raw), "Isolde")
	}
	assert.Equal(t, before, x.print())
	assert.Empty(t, x.log.troubles())
}

func TestAnotherPracticeGetsNothing(t *testing.T) {
	x := aim(t)
	c := x.signedIn(demo.OtherEmail)
	mine := func() int {
		var n int
		require.NoError(t, x.owner.Pool().QueryRow(context.Background(), `SELECT count(*) FROM journal j JOIN practices p ON p.id = j.practice_id WHERE p.name LIKE 'Morrow%'`).Scan(&n))
		return n
	}
	before, tried := mine(), 0
	for _, o := range x.doc.operations() {
		if !strings.Contains(o.path, "{id}") {
			continue
		}
		tried++
		body, kind := x.doc.body(o)
		st, raw := c.send(o.method, x.address(o), body, kind, "If-Match", "1")
		assert.Equal(t, 404, st, o.ID)
		assert.NotContains(t, string(raw), "Isolde", o.ID)
	}
	assert.Greater(t, tried, 50)
	assert.Equal(t, before, mine())
	assert.Empty(t, x.log.troubles())
}

// A viewer changes nothing, whatever they send, and no operation fails on it. What
// was let in or refused stands in the access log.
func TestAViewerChangesNothing(t *testing.T) {
	x := aim(t)
	c := x.signedIn(demo.ViewerEmail)
	before := x.print()
	lines := func(o string) (n int) {
		require.NoError(t, x.owner.Pool().QueryRow(context.Background(), `SELECT count(*) FROM access_log WHERE action = $1`, o).Scan(&n))
		return n
	}
	for _, o := range x.doc.operations() {
		if o.ID == "signOut" {
			continue
		}
		body, kind := x.doc.body(o)
		was := lines(o.ID)
		st, raw := c.send(o.method, x.address(o), body, kind, "If-Match", "1")
		assert.Less(t, st, 500, o.ID)
		shows := bytes.Contains(raw, []byte("Isolde")) || bytes.Contains(raw, []byte(x.ids["/api/runners/"]))
		if strings.Contains(o.path, "{id}") || st == 403 || shows {
			assert.Equal(t, was+1, lines(o.ID), "%s is not in the access log", o.ID)
		}
	}
	assert.Equal(t, before, x.print(), "a viewer changed something")
	assert.Empty(t, x.log.troubles())
}

// A phone opens what is for phones and shows its own runner, whoever else is tried;
// a coach's session opens nothing that is for phones.
func TestAPhoneShowsItsOwnRunnerAlone(t *testing.T) {
	x := aim(t)
	own := &client{Client: &http.Client{Jar: x.stranger().Jar, Timeout: time.Minute}, x: x}
	own.Jar.SetCookies(mustURL(x.URL), x.phone)
	coach := x.signedIn(demo.Email)
	var list struct{ Items []struct{ ID, Name string } }
	_, raw := coach.send("GET", "/api/runners", nil, "")
	require.NoError(t, json.Unmarshal(raw, &list))
	tried := 0
	for _, other := range list.Items {
		if other.ID == x.ids["/api/runners/"] || tried > 0 {
			continue
		}
		tried++
		phone := x.phoneOf(coach, other.ID)
		for _, o := range x.doc.operations() {
			if o.ID == "leavePocket" || o.ID == "joinPocket" || o.ID == "signIn" || o.ID == "signOut" {
				continue
			}
			body, kind := x.doc.body(o)
			st, raw := phone.send(o.method, x.address(o), body, kind, "If-Match", "1")
			if !strings.HasPrefix(o.path, "/api/pocket/") && !slices.Contains(open, o.ID) {
				assert.Equal(t, 401, st, "%s by a phone", o.ID)
			}
			assert.NotContains(t, string(raw), "Isolde", o.ID)
			assert.NotContains(t, string(raw), x.ids["/api/runners/"], o.ID)
		}
		// What it tells of another's block is refused, and stays its own.
		report := `{"reports":[{"id":"11111111-1111-4111-8111-111111111111","kind":"session","on":"` + time.Now().Format(time.DateOnly) + `","at":"` + time.Now().Format(time.RFC3339) + `","session":{"block":"` + x.ids["/api/blocks/"] + `","kind":"main","items":[{"prescriptionId":"00000000-0000-4000-8000-000000000000","side":"left","notch":1,"pain":2}]}}]}`
		st, raw := phone.send("POST", "/api/pocket/reports", []byte(report), "application/json")
		assert.Equal(t, 200, st)
		assert.Contains(t, string(raw), `"refused"`)
		st, raw = own.send("POST", "/api/pocket/reports", []byte(report), "application/json")
		assert.Equal(t, 200, st)
		assert.Contains(t, string(raw), "number that is taken", "one runner's number is no key to another's report")
	}
	assert.Equal(t, 1, tried)
	for _, o := range x.doc.operations() {
		if strings.HasPrefix(o.path, "/api/pocket/") && !slices.Contains(open, o.ID) {
			body, kind := x.doc.body(o)
			st, _ := coach.send(o.method, x.address(o), body, kind)
			assert.Equal(t, 401, st, "%s by a coach", o.ID)
		}
	}
	assert.Empty(t, x.log.troubles())
}

// The same request with the same key is answered once; the key opens nothing else.
func TestReplaysChangeNothing(t *testing.T) {
	x := aim(t)
	c := x.signedIn(demo.Email)
	tried := 0
	for _, o := range x.doc.operations() {
		keyed := slices.ContainsFunc(o.Parameters, func(p struct {
			Name     string `json:"name"`
			In       string `json:"in"`
			Required bool   `json:"required"`
			Schema   schema `json:"schema"`
		}) bool {
			return p.Name == "Idempotency-Key"
		})
		if !keyed {
			continue
		}
		body, kind := x.doc.body(o)
		st, first := c.send(o.method, x.address(o), body, kind, "Idempotency-Key", "replay-"+o.ID)
		assert.Less(t, st, 500, o.ID)
		after := x.print()
		again, second := c.send(o.method, x.address(o), body, kind, "Idempotency-Key", "replay-"+o.ID)
		assert.Equal(t, st, again, o.ID)
		if st == 200 {
			assert.JSONEq(t, string(first), string(second), o.ID)
		}
		assert.Equal(t, after, x.print(), "%s was done twice", o.ID)
		tried++
	}
	assert.Greater(t, tried, 4)
	assert.Empty(t, x.log.troubles())
}

// More than an operation takes is refused before it is read.
func TestTooMuchIsNotRead(t *testing.T) {
	x := aim(t)
	cookie := x.both(demo.Email).cookies()
	for _, o := range x.doc.operations() {
		if o.Body == nil {
			continue
		}
		_, kind := x.doc.body(o)
		conn, err := net.Dial("tcp", strings.TrimPrefix(x.URL, "http://"))
		require.NoError(t, err)
		_, err = fmt.Fprintf(conn, "%s %s HTTP/1.1\r\nHost: x\r\nCookie: %s\r\nContent-Type: %s\r\nIf-Match: 1\r\nContent-Length: 900000000\r\n\r\n{", o.method, x.address(o), cookie, kind)
		require.NoError(t, err)
		require.NoError(t, conn.SetReadDeadline(time.Now().Add(time.Minute)))
		res, err := http.ReadResponse(bufio.NewReader(conn), nil)
		require.NoError(t, err, o.ID)
		assert.Equal(t, 413, res.StatusCode, o.ID)
		_ = res.Body.Close()
		_ = conn.Close()
	}
	assert.Empty(t, x.log.troubles())
}

// A body that stops coming is given up, and nobody else waits for it.
func TestASlowSenderHoldsNobodyUp(t *testing.T) {
	x := aim(t)
	cookie := x.both(demo.Email).cookies()
	var wg sync.WaitGroup
	for _, o := range x.doc.operations() {
		_, kind := x.doc.body(o)
		// Those that take files wait a minute: whole runs try them too.
		if long := kind != "application/json" || o.ID == "importRunner" || o.ID == "sendPocketReports"; o.Body == nil || o.ID == "unpackRunner" || long && os.Getenv("NOTCHBACK_WHOLE") == "" {
			continue // a pack may take a quarter of an hour
		}
		at := x.address(o)
		wg.Go(func() {
			conn, err := net.Dial("tcp", strings.TrimPrefix(x.URL, "http://"))
			if !assert.NoError(t, err) {
				return
			}
			defer func() { _ = conn.Close() }()
			_, _ = fmt.Fprintf(conn, "%s %s HTTP/1.1\r\nHost: x\r\nCookie: %s\r\nContent-Type: %s\r\nIf-Match: 1\r\nContent-Length: 500\r\n\r\n{", o.method, at, cookie, kind)
			_ = conn.SetReadDeadline(time.Now().Add(3 * time.Minute))
			res, err := http.ReadResponse(bufio.NewReader(conn), nil)
			if assert.NoError(t, err, o.ID) {
				assert.GreaterOrEqual(t, res.StatusCode, 400, o.ID)
				assert.NotEqual(t, 500, res.StatusCode, o.ID)
				_ = res.Body.Close()
			}
		})
	}
	st, _ := x.signedIn(demo.OtherEmail).send("GET", "/api/runners", nil, "")
	assert.Equal(t, 200, st, "others go on meanwhile")
	wg.Wait()
	assert.Empty(t, x.log.troubles())
}

// Garbage is refused with what is wrong, and nothing fails on it.
func TestGarbageIsRefused(t *testing.T) {
	x := aim(t)
	c := x.both(demo.Email)
	deep := strings.Repeat("[", 20_000) + strings.Repeat("]", 20_000)
	for _, o := range x.doc.operations() {
		if o.ID == "signOut" || o.ID == "signIn" || o.ID == "leavePocket" {
			continue
		}
		at := x.address(o)
		if o.Body != nil {
			good, kind := x.doc.body(o)
			bodies := [][]byte{nil, []byte(""), []byte("{"), []byte("null"), []byte("[]"), []byte(`"x"`), []byte("1e999"), []byte("\xff\xfe"), []byte(deep), []byte(`{"nobody":"knows"}`), []byte(`{"` + "\x00" + `":1}`)}
			bodies = append(bodies, spoiled(good)...)
			for _, b := range bodies {
				st, raw := c.send(o.method, at, b, kind, "If-Match", "x")
				assert.Less(t, st, 500, "%s %.60q: %s", o.ID, b, raw)
			}
		}
		for _, id := range []string{"x", "%00", "1%27%20OR%201=1", "..%2f..%2fetc%2fpasswd", strings.Repeat("9", 3000), "%ff", "00000000-0000-4000-8000-00000000000g"} {
			if !strings.Contains(o.path, "{") {
				break
			}
			st, raw := c.send(o.method, hole.ReplaceAllString(o.path, id), []byte("{}"), "application/json", "If-Match", "1")
			assert.Less(t, st, 500, "%s with the id %.20s", o.ID, id)
			if !bytes.HasPrefix(raw, []byte("<!doctype html>")) && !bytes.HasPrefix(raw, []byte("<!DOCTYPE html>")) { // an address of the interface, which says there what is missing
				assert.GreaterOrEqual(t, st, 400, "%s with the id %.20s", o.ID, id)
			}
		}
		for _, q := range []string{"a=%00", "search=%E9", "monday=0001-01-01", "page=-1", "weeks=99999999999999999999", "below=x", "runner=%27", strings.Repeat("x", 20_000)} {
			if o.method != "GET" {
				break
			}
			st, raw := c.send("GET", at+map[bool]string{true: "&", false: "?"}[strings.Contains(at, "?")]+q, nil, "")
			assert.Less(t, st, 500, "%s?%.30s: %.200s", o.ID, q, raw)
		}
	}
	assert.Empty(t, x.log.troubles())
}

// spoiled are bodies that nearly fit: one value each that can't be.
func spoiled(good []byte) [][]byte {
	var v map[string]any
	if json.Unmarshal(good, &v) != nil {
		return nil
	}
	var out [][]byte
	for k := range v {
		was := v[k]
		for _, evil := range []any{nil, -1, 1e300, "\x00", strings.Repeat("x", 10_000), []any{map[string]any{}}, map[string]any{"a": 1}, "0001-01-01", true} {
			v[k] = evil
			if b, err := json.Marshal(v); err == nil {
				out = append(out, b)
			}
		}
		v[k] = was
	}
	return out
}

func mustURL(s string) *url.URL {
	u, err := url.Parse(s)
	if err != nil {
		panic(err)
	}
	return u
}
