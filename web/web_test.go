package web_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
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

func server(t *testing.T, withDemo bool) *httptest.Server {
	t.Helper()
	urls := storetest.Fresh
	if withDemo {
		urls = demotest.Seeded
	}
	s, err := store.Open(context.Background(), urls(t).App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	clips, err := blobs.Open(t.TempDir())
	require.NoError(t, err)
	a, err := house.New(s, demotest.Cheap, app.WithBlobs(clips))
	require.NoError(t, err)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return srv
}

type client struct {
	t *testing.T
	*http.Client
	url string
}

func newClient(t *testing.T, srv *httptest.Server) *client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t, &http.Client{Jar: jar}, srv.URL}
}

func signedIn(t *testing.T, srv *httptest.Server, email string) *client {
	c := newClient(t, srv)
	status, _ := c.do("POST", "/api/session", map[string]string{"email": email, "password": demo.Password})
	require.Equal(t, 200, status)
	return c
}

// do sends a request and returns its status and the answer as loose JSON.
func (c *client) do(method, path string, body any, header ...string) (int, map[string]any) {
	c.t.Helper()
	var r io.Reader
	switch b := body.(type) {
	case nil:
	case string:
		r = strings.NewReader(b)
	case []byte:
		r = bytes.NewReader(b)
	default:
		raw, err := json.Marshal(b)
		require.NoError(c.t, err)
		r = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, c.url+path, r)
	require.NoError(c.t, err)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
		if _, raw := body.([]byte); raw {
			req.Header.Set("Content-Type", "application/octet-stream")
		}
	}
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	res, err := c.Do(req)
	require.NoError(c.t, err)
	defer func() { _ = res.Body.Close() }()
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	var out map[string]any
	_ = json.Unmarshal(raw, &out)
	if res.StatusCode >= 400 {
		assert.Equal(c.t, "application/problem+json", res.Header.Get("Content-Type"), "%s %s", method, path)
	}
	return res.StatusCode, out
}

func (c *client) runner(name string) string {
	_, out := c.do("GET", "/api/runners?search="+name, nil)
	return out["items"].([]any)[0].(map[string]any)["id"].(string)
}

func TestTheCommittedDocumentIsCurrent(t *testing.T) {
	srv := server(t, false)
	_, served := newClient(t, srv).do("GET", "/api/openapi.json", nil)
	assert.Equal(t, "3.1.0", served["openapi"])
	raw, err := os.ReadFile("../openapi.json")
	require.NoError(t, err)
	var kept map[string]any
	require.NoError(t, json.Unmarshal(raw, &kept))
	assert.Equal(t, kept, served, "run make generate")
}

func TestFirstRunOnlyInAnEmptyInstallation(t *testing.T) {
	srv := server(t, false)
	c := newClient(t, srv)
	_, out := c.do("GET", "/api/start", nil)
	assert.Equal(t, true, out["empty"])
	status, _ := c.do("GET", "/api/runners", nil)
	assert.Equal(t, 401, status)
	status, out = c.do("POST", "/api/first-run", map[string]string{"practice": "P", "name": "N", "email": "no", "password": "short", "zone": "Moon/Base"})
	assert.Equal(t, 422, status)
	said := fmt.Sprint(out["errors"])
	for _, field := range []string{"body.email", "body.password", "body.zone"} {
		assert.Contains(t, said, field)
	}
	good := map[string]string{"practice": "P", "name": "N", "email": "n@example.test", "password": "long enough now", "zone": "UTC"}
	status, out = c.do("POST", "/api/first-run", good)
	require.Equal(t, 200, status)
	assert.Equal(t, "owner", out["role"])
	status, _ = c.do("GET", "/api/runners", nil)
	assert.Equal(t, 200, status)
	good["email"] = "m@example.test"
	status, _ = newClient(t, srv).do("POST", "/api/first-run", good)
	assert.Equal(t, 409, status)
	_, out = newClient(t, srv).do("GET", "/api/start", nil)
	assert.Equal(t, false, out["empty"])
}

func TestSignInIsThrottledAndTheSessionRotates(t *testing.T) {
	srv := server(t, true)
	c := newClient(t, srv)
	wrong := map[string]string{"email": demo.Email, "password": "not this one"}
	for range 4 {
		status, out := c.do("POST", "/api/session", wrong)
		assert.Equal(t, 401, status)
		assert.Equal(t, "wrong e-mail or password", out["detail"])
	}
	status, _ := c.do("POST", "/api/session", map[string]string{"email": demo.Email, "password": demo.Password})
	assert.Equal(t, 429, status, "even the right password waits")
	c = signedIn(t, srv, demo.OtherEmail)
	status, _ = c.do("DELETE", "/api/session", nil)
	assert.Equal(t, 200, status)
	_, out := c.do("GET", "/api/session", nil)
	assert.Nil(t, out["me"])
	status, _ = c.do("GET", "/api/runners", nil)
	assert.Equal(t, 401, status)
}

func TestAViewerReadsAndDoesNotWrite(t *testing.T) {
	srv := server(t, true)
	c := signedIn(t, srv, demo.ViewerEmail)
	status, _ := c.do("GET", "/api/runners/"+c.runner("Isolde"), nil)
	assert.Equal(t, 200, status)
	status, _ = c.do("POST", "/api/runners", map[string]any{"name": "Nobody"})
	assert.Equal(t, 403, status)
}

func TestTheSecondCoachToSaveIsTold(t *testing.T) {
	srv := server(t, true)
	a, b := signedIn(t, srv, demo.Email), signedIn(t, srv, demo.Email)
	id := a.runner("Kit")
	status, out := a.do("PUT", "/api/runners/"+id, map[string]any{"name": "Kit Sorrel", "goal": "first"}, "If-Match", "1")
	require.Equal(t, 200, status)
	assert.EqualValues(t, 2, out["version"])
	status, out = b.do("PUT", "/api/runners/"+id, map[string]any{"name": "Kit Sorrel", "goal": "second"}, "If-Match", "1")
	assert.Equal(t, 412, status)
	assert.Contains(t, fmt.Sprint(out["errors"]), "first", "what stands now comes along")
}

func TestARequestSentTwiceIsStoredOnce(t *testing.T) {
	srv := server(t, true)
	c := signedIn(t, srv, demo.Email)
	_, one := c.do("POST", "/api/runners", map[string]any{"name": "Once Only"}, "Idempotency-Key", "k1")
	status, two := c.do("POST", "/api/runners", map[string]any{"name": "Once Only"}, "Idempotency-Key", "k1")
	assert.Equal(t, 200, status)
	assert.Equal(t, one["id"], two["id"])
	_, out := c.do("GET", "/api/runners?search=Once", nil)
	assert.Len(t, out["items"], 1)
	status, _ = c.do("POST", "/api/runners", map[string]any{"name": "Somebody Else"}, "Idempotency-Key", "k1")
	assert.Equal(t, 409, status, "a key belongs to one request")
}

func TestBadInputNamesFieldAndRangeAndWritesNothing(t *testing.T) {
	srv := server(t, true)
	c := signedIn(t, srv, demo.Email)
	id := c.runner("Joonas")
	_, now := c.do("GET", "/api/runners/"+id+"/block", nil)
	block := now["block"].(map[string]any)
	_, before := c.do("GET", "/api/runners/"+id+"/journal", nil)
	blockPath := "/api/blocks/" + block["id"].(string) + "/session-logs"
	p := block["prescriptions"].([]any)[0].(map[string]any)["id"]
	today := block["today"].(string)
	item := func(more map[string]any) map[string]any {
		it := map[string]any{"prescriptionId": p, "side": "left"}
		for k, v := range more {
			it[k] = v
		}
		return map[string]any{"on": today, "items": []any{it}}
	}
	_, sc := c.do("GET", "/api/runners/"+id+"/screenings", nil)
	trial := "/api/screenings/" + sc["items"].([]any)[0].(map[string]any)["id"].(string) + "/trials/"
	for _, k := range []struct {
		method, path string
		body         any
		status       int
		says         string
	}{
		{"PUT", trial + "knee-to-wall/left/1?reason=x", map[string]any{"value": 900}, 422, "0 to 25 cm"},
		{"PUT", trial + "knee-to-wall/left/1?reason=x", map[string]any{"value": "nine"}, 422, "number"},
		{"PUT", trial + "big-toe-passive/left/1?reason=x", map[string]any{"blockCm": 5, "lengthCm": 5}, 422, "5 cm"},
		{"PUT", trial + "single-leg-raise/left/1?reason=x", map[string]any{"value": 10, "pain": -1}, 422, "0"},
		{"PUT", trial + "knee-to-wall/left/1", map[string]any{"value": 9}, 422, "finished"},
		{"PUT", trial + "knee-to-ceiling/left/1", map[string]any{"value": 9}, 404, ""},
		{"POST", blockPath, item(map[string]any{"pain": -2}), 422, "0 to 10"},
		{"POST", blockPath, item(map[string]any{"done": 7}), 422, "0 to 1"},
		{"POST", blockPath, item(map[string]any{"reserve": 9}), 422, "0 to 5"},
		{"POST", blockPath, map[string]any{"on": "2150-01-01", "items": []any{map[string]any{"prescriptionId": p, "side": "left"}}}, 422, "future"},
		{"POST", blockPath, map[string]any{"on": today, "items": []any{}}, 422, "items"},
		{"PUT", "/api/runners/" + id + "/mornings/2150-01-01", map[string]any{"firstStep": 1}, 422, "future"},
		{"PUT", "/api/runners/" + id + "/mornings/" + today, map[string]any{"firstStep": 11}, 422, "0 to 10"},
		{"POST", "/api/runners", map[string]any{"name": " "}, 422, "name"},
		{"POST", "/api/runners", map[string]any{"name": "x", "birth": "2150-01-01"}, 422, "future"},
		{"POST", "/api/runners", map[string]any{"name": "x", "massKg": 900}, 422, "15 to 250"},
		{"POST", "/api/runners", map[string]any{"name": "x", "colour": "red"}, 422, "colour"},
		{"POST", "/api/runners", `{"name":`, 400, ""},
		{"POST", "/api/runners", `{"name":"` + strings.Repeat("x", 2<<20) + `"}`, 413, "1048576"},
		{"POST", "/api/compute/toe-block", map[string]any{"blockCm": 6, "lengthCm": 5}, 422, "blockCm"},
		{"POST", "/api/compute/trial-summary", map[string]any{"test": "knee-to-wall", "left": []any{map[string]any{"value": 99}}, "right": []any{}}, 422, "left[0].value"},
		{"GET", "/api/nothing", nil, 404, ""},
	} {
		status, out := c.do(k.method, k.path, k.body)
		assert.Equal(t, k.status, status, "%s %s %.80v", k.method, k.path, k.body)
		assert.Contains(t, fmt.Sprint(out), k.says, "%s %s", k.method, k.path)
	}
	_, after := c.do("GET", "/api/runners/"+id+"/journal", nil)
	assert.Equal(t, before, after)
	status, _ := c.do("POST", "/api/runners", map[string]any{"name": "x"}, "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, 403, status)
}

func TestComputeAnswersTheWorkedExamples(t *testing.T) {
	srv := server(t, true)
	c := signedIn(t, srv, demo.Email)
	_, out := c.do("POST", "/api/compute/cadence", map[string]any{"counts": []int{41, 42, 41, 43}, "windowSeconds": 15})
	assert.EqualValues(t, 167, out["meanSpm"])
	assert.InDelta(t, 6.1, out["marginSpm"], 0.05)
	_, out = c.do("POST", "/api/compute/toe-block", map[string]any{"blockCm": 2.5, "lengthCm": 5})
	assert.InDelta(t, 30.0, out["angleDegrees"], 0.001)
	_, out = c.do("POST", "/api/compute/starting-notch", map[string]any{"ladder": "calf-straight", "on": "2026-05-04",
		"person": map[string]any{"birth": "1990-01-01", "firstStructuredWork": false, "recentVolumeRise": false},
		"tests": []any{map[string]any{"test": "single-leg-raise", "ageYears": 36,
			"left": []any{map[string]any{"value": 21, "pain": 1}}, "right": []any{map[string]any{"value": 22, "pain": 1}}}}})
	assert.Equal(t, "one leg 3 × 12", out["words"])
	morning := func(on string) map[string]any { return map[string]any{"on": on, "firstStep": 1} }
	session := func(on string, pain int) map[string]any {
		return map[string]any{"on": on, "notch": 7, "pain": pain, "done": 1, "compensated": 0, "reserve": 3, "decidedBy": -1}
	}
	in := map[string]any{"ladder": "calf-straight", "side": "left", "today": "2026-05-05", "notch": 7, "startingNotch": 7, "blockStart": "2026-04-13",
		"openGates": []string{"single-leg-calf"},
		"history": map[string]any{"b0": 1, "sessions": []any{session("2026-05-02", 2), session("2026-05-04", 3)},
			"mornings": []any{morning("2026-05-03"), morning("2026-05-04"), morning("2026-05-05")}}}
	_, out = c.do("POST", "/api/compute/decision", in)
	assert.Equal(t, "one leg 3 × 8 → 3 × 12", out["move"], "worked case 1")
}

func TestThePageAndItsHeaders(t *testing.T) {
	srv := server(t, false)
	res, err := http.Get(srv.URL + "/deep/link")
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	page, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Contains(t, string(page), `id="root"`)
	assert.NotContains(t, string(page), "__CSP_NONCE__")
	policy := res.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self' 'wasm-unsafe-eval';", "compiled modules of this server, no evaluated text")
	assert.NotContains(t, strings.ReplaceAll(policy, "wasm-unsafe-eval", ""), "unsafe")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	missing, err := http.Get(srv.URL + "/assets/nothing.js")
	require.NoError(t, err)
	defer func() { _ = missing.Body.Close() }()
	assert.Equal(t, 404, missing.StatusCode)
}

func mustURL(t *testing.T, s string) *url.URL {
	u, err := url.Parse(s)
	require.NoError(t, err)
	return u
}

// Answers of some size come compressed to whoever takes them so, files in ranges as
// they are.
func TestAnswersComeCompressed(t *testing.T) {
	st := staged(t, web.Options{})
	c := signedIn(t, st.Server, demo.Email)
	req, err := http.NewRequest("GET", st.URL+"/api/screening-tests", nil)
	require.NoError(t, err)
	req.Header.Set("Accept-Encoding", "gzip")
	res, err := c.Do(req)
	require.NoError(t, err)
	packed, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, "gzip", res.Header.Get("Content-Encoding"))
	assert.Contains(t, res.Header.Values("Vary"), "Accept-Encoding")
	z, err := gzip.NewReader(bytes.NewReader(packed))
	require.NoError(t, err)
	whole, err := io.ReadAll(z)
	require.NoError(t, err)
	assert.True(t, json.Valid(whole))
	assert.Less(t, 3*len(packed), len(whole), "%d of %d bytes", len(packed), len(whole))
	req.Header.Set("Accept-Encoding", "identity")
	res, err = c.Do(req)
	require.NoError(t, err)
	plain, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Empty(t, res.Header.Get("Content-Encoding"))
	assert.Equal(t, string(whole), string(plain))
}

// An address nobody made is not found, whoever asks; the interface's own addresses are pages.
func TestWhatIsNotThereIsNotFound(t *testing.T) {
	c := newClient(t, server(t, false))
	for path, want := range map[string]int{"/": 200, "/runners/x/block": 200, "/practice/people": 200, "/join": 200, "/pocket": 200, "/metrics": 404, "/.env": 404, "/wp-login.php": 404, "/assets/x.js": 404,
		"/api/nothing": 404, "/healthz": 200, "/livez": 200, "/readyz": 200} {
		res, err := c.Get(c.url + path)
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, want, res.StatusCode, path)
	}
}

// Requests and jobs are counted by name for Prometheus, and nothing of anybody is.
func TestAServerIsMeasured(t *testing.T) {
	s, err := store.Open(context.Background(), demotest.Seeded(t).App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	a, err := house.New(s, demotest.Cheap)
	require.NoError(t, err)
	m := web.NewMeter(s)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler), Meter: m})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	c := signedIn(t, srv, demo.Email)
	st, _ := c.do("GET", "/api/runners?search=Isolde", nil)
	require.Equal(t, 200, st)
	m.Job("nightly review", time.Second, nil)
	m.Job("nightly review", time.Second, errors.New("x"))
	m.Done("runners reviewed", 3)
	metrics := httptest.NewServer(m.Handler())
	t.Cleanup(metrics.Close)
	res, err := http.Get(metrics.URL + "/metrics")
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	for _, want := range []string{`notchback_requests_total{operation="listRunners",status="200"} 1`, `notchback_requests_total{operation="signIn",status="200"} 1`,
		`notchback_jobs_total{job="nightly review",outcome="failed"} 1`, `notchback_done_total{what="runners reviewed"} 3`, "notchback_database_connections ", "go_goroutines"} {
		assert.Contains(t, string(raw), want)
	}
	assert.NotContains(t, string(raw), "Isolde")
}

// Away is a database whose sessions can't be read: a page says so and looks again, a program
// is told 503, and both go on when it is back.
func TestADatabaseThatIsAway(t *testing.T) {
	s, err := store.Open(context.Background(), demotest.Seeded(t).App)
	require.NoError(t, err)
	a, err := house.New(s, demotest.Cheap)
	require.NoError(t, err)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	c := signedIn(t, srv, demo.Email)
	s.Close()
	ask := func(path, accept string) (*http.Response, string) {
		req, err := http.NewRequest(http.MethodGet, srv.URL+path, nil)
		require.NoError(t, err)
		req.Header.Set("Accept", accept)
		res, err := c.Do(req)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res, string(raw)
	}
	res, page := ask("/", "text/html,*/*")
	assert.Equal(t, 503, res.StatusCode)
	assert.Contains(t, page, "Nothing was lost")
	assert.Equal(t, "5", res.Header.Get("Refresh"))
	res, page = ask("/api/runners", "application/json")
	assert.Equal(t, 503, res.StatusCode)
	assert.Contains(t, page, "can't be reached")
	res, _ = ask("/livez", "*/*")
	assert.Equal(t, 200, res.StatusCode, "the program itself lives")
	res, _ = ask("/readyz", "*/*")
	assert.Equal(t, 503, res.StatusCode)
}
