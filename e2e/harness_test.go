// Package e2e drives the real interface in headless Chromium, on a fresh
// database with the demo data.
package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log"
	"log/slog"
	"net/http"
	"net/http/httptest"
	neturl "net/url"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"
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

var browser *rod.Browser

// withGL is a second browser that draws with WebGL in software; it is started when a
// test first needs it. The first has none, as some have.
var withGL struct {
	once    sync.Once
	browser *rod.Browser
	kill    func()
}

func glBrowser() *rod.Browser {
	withGL.once.Do(func() {
		l := chromium().Set("use-gl", "angle").Set("use-angle", "swiftshader").Set("enable-unsafe-swiftshader")
		withGL.browser = rod.New().ControlURL(l.MustLaunch()).MustConnect()
		withGL.kill = l.Kill
	})
	return withGL.browser
}

func chromium() *launcher.Launcher {
	return launcher.New().Bin("/usr/bin/chromium").NoSandbox(true).Set("disable-quic").
		Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync")
}

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	// Looked for again soon: rod itself grows the pause to a second.
	rod.DefaultSleeper = func() utils.Sleeper { return utils.BackoffSleeper(15*time.Millisecond, 100*time.Millisecond, nil) }
	dir, err := os.MkdirTemp("", "chromium-")
	if err != nil {
		panic(err)
	}
	defer func() { _ = os.RemoveAll(dir) }()
	l := chromium().UserDataDir(dir).Set("disable-gpu")
	u, err := l.Launch()
	if err != nil {
		panic(err)
	}
	defer l.Kill()
	browser = rod.New().ControlURL(u).MustConnect()
	defer browser.MustClose()
	defer func() {
		if withGL.browser != nil {
			_ = withGL.browser.Close()
			withGL.kill()
		}
	}()
	defer storetest.Cleanup()
	return m.Run()
}

// site is one running application on its own database.
type site struct {
	*httptest.Server
	store *store.Store
	house *house.House
	urls  storetest.URLs
	down  atomic.Bool // no line: every request is cut off
}

func serve(t *testing.T, withDemo bool) *site {
	t.Helper()
	return serveAt(t, withDemo, time.Now)
}

var beside sync.Map

// serveAt is serve on a clock of its own.
func serveAt(t *testing.T, withDemo bool, now func() time.Time) *site {
	t.Helper()
	if _, was := beside.LoadOrStore(t, true); !was {
		t.Parallel()
	}
	urls := storetest.URLs{}
	if withDemo {
		urls = demotest.Seeded(t)
	} else {
		urls = storetest.Fresh(t)
	}
	s, err := store.Open(context.Background(), urls.App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	clips, err := blobs.Open(t.TempDir())
	require.NoError(t, err)
	a, err := house.New(s, demotest.Cheap, app.WithClock(now), app.WithSignInClock(time.Now), app.WithBlobs(clips))
	require.NoError(t, err)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	out := &site{store: s, house: a, urls: urls}
	out.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if out.down.Load() {
			panic(http.ErrAbortHandler)
		}
		h.ServeHTTP(w, r)
	}))
	out.Config.ErrorLog = log.New(io.Discard, "", 0)
	t.Cleanup(out.Close)
	return out
}

// tab is a page whose console, content policy and requests are watched.
type tab struct {
	*rod.Page
	t        *testing.T
	url      string
	mu       sync.Mutex
	troubles []string
	allowed  []string // troubles a test causes on purpose
}

func (s *site) open(t *testing.T, width, height int) *tab {
	t.Helper()
	return openAt(t, s.URL, width, height)
}

func openAt(t *testing.T, url string, width, height int) *tab {
	t.Helper()
	return openIn(t, browser, url, width, height, patience())
}

// patience is how long a page is waited for; E2E_PATIENCE shortens it while a test is written.
func patience() time.Duration {
	if d, err := time.ParseDuration(os.Getenv("E2E_PATIENCE")); err == nil {
		return d
	}
	return 3 * time.Minute
}

func openIn(t *testing.T, browser *rod.Browser, url string, width, height int, most time.Duration) *tab {
	t.Helper()
	return watch(t, browser.MustIncognito().MustPage(""), url, width, height, most)
}

// watch watches a page.
func watch(t *testing.T, page *rod.Page, url string, width, height int, most time.Duration) *tab {
	t.Helper()
	page = page.Timeout(2 * most) // others are at work beside it
	p := &tab{Page: page, t: t, url: url}
	p.Page = page.WithPanic(func(v any) { t.Helper(); p.fail(v) })
	p.MustSetViewport(width, height, 1, false)
	note := func(format string, args ...any) {
		p.mu.Lock()
		defer p.mu.Unlock()
		p.troubles = append(p.troubles, fmt.Sprintf(format, args...))
	}
	go p.EachEvent(
		func(e *proto.LogEntryAdded) { note("log %s: %s %s", e.Entry.Level, e.Entry.Text, e.Entry.URL) },
		func(e *proto.RuntimeExceptionThrown) { note("exception: %s", e.ExceptionDetails.Text) },
		func(e *proto.RuntimeConsoleAPICalled) {
			if e.Type == proto.RuntimeConsoleAPICalledTypeError || e.Type == proto.RuntimeConsoleAPICalledTypeWarning {
				var parts []string
				for _, a := range e.Args {
					parts = append(parts, a.Value.String()+a.Description)
				}
				note("console %s: %s", e.Type, strings.Join(parts, " "))
			}
		},
		func(e *proto.NetworkRequestWillBeSent) {
			if u, err := neturl.Parse(e.Request.URL); err == nil && u.Scheme != "data" && u.Scheme != "about" && u.Scheme != "blob" && u.Hostname() != "127.0.0.1" {
				note("left the machine: %s", e.Request.URL)
			}
		},
	)()
	require.NoError(t, proto.NetworkEnable{}.Call(p))
	require.NoError(t, proto.EmulationSetFocusEmulationEnabled{Enabled: true}.Call(p)) // beside other pages in use
	p.MustEvalOnNewDocument(`try { localStorage.guide ??= '-1' } catch {} // the guided start has a test of its own
		addEventListener('securitypolicyviolation', e => console.error('policy: ' + e.violatedDirective + ' ' + e.blockedURI));
		window.inflight = 0; window.failed = 0; // requests under way, and those that found no line
		const real = window.fetch;
		window.fetch = (...a) => { inflight++; return real(...a).catch(e => { failed++; throw e }).finally(() => { inflight-- }) }`)
	t.Cleanup(func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		for _, x := range p.troubles {
			ok := false
			for _, a := range p.allowed {
				ok = ok || strings.Contains(x, a)
			}
			assert.True(t, ok, "trouble in the page: %s", x)
		}
		_ = page.Close()
	})
	return p
}

// fail stops the test with a picture of the page, kept in the temporary folder.
func (p *tab) fail(v any) {
	p.t.Helper()
	if b, err := p.Page.Context(context.Background()).Timeout(5*time.Second).Screenshot(false, nil); err == nil {
		f := fmt.Sprintf("%s/notchback-%s.png", os.TempDir(), strings.ReplaceAll(p.t.Name(), "/", "-"))
		_ = os.WriteFile(f, b, 0o600)
		p.t.Logf("picture of the page: %s", f)
	}
	if r, err := p.Page.Context(context.Background()).Timeout(5 * time.Second).Eval(`async () => JSON.stringify({inflight, storage: await Promise.race([new Promise(r => setTimeout(() => r('silent'), 2000)), new Promise(r => { const q = indexedDB.open('keyval-store'); q.onupgradeneeded = () => { q.transaction.abort(); r('not there yet') }; q.onsuccess = () => { const g = q.result.transaction('keyval').objectStore('keyval').get('x'); g.onsuccess = () => r('opens and reads'); g.onerror = () => r('opens, does not read') }; q.onerror = () => r('fails'); q.onblocked = () => r('blocked') })]), asked: performance.getEntriesByType('resource').slice(-12).map(e => e.name.replace(/^.*?\/\/[^/]*/, '') + ' ' + Math.round(e.responseEnd))})`); err == nil {
		p.t.Logf("the page: %s", r.Value.Str())
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.t.Fatalf("%s: %v; seen so far: %s", whereInTest(), v, strings.Join(p.troubles, "; "))
}

// whereInTest is the line of the test that is running.
func whereInTest() string {
	pcs := make([]uintptr, 40)
	frames := runtime.CallersFrames(pcs[:runtime.Callers(1, pcs)])
	for {
		f, more := frames.Next()
		if strings.HasSuffix(f.File, "_test.go") && !strings.HasSuffix(f.File, "harness_test.go") {
			return fmt.Sprintf("%s:%d", filepath.Base(f.File), f.Line)
		}
		if !more {
			return "?"
		}
	}
}

func (p *tab) allow(text ...string) { p.allowed = append(p.allowed, text...) }

func (p *tab) goTo(path string) {
	p.t.Helper()
	p.MustNavigate(p.url + path).MustWaitLoad()
}

func (p *tab) signIn(email string) {
	p.t.Helper()
	p.goTo("/")
	p.MustElementR("h1", "Sign in")
	p.MustElement("input[type=email]").MustInput(email)
	p.MustElement("input[type=password]").MustInput(demo.Password)
	p.press(input.Enter)
	p.MustElementR("h1", "day |Bench")
}

// rest waits until nothing is asked of the server any more and what was answered is
// drawn.
func (p *tab) rest() {
	p.t.Helper()
	p.frames(2)
	p.MustWait(`() => window.inflight === 0`)
	p.frames(2)
}

// frames waits until the page was drawn so many times.
func (p *tab) frames(n int) {
	p.t.Helper()
	_, err := p.Evaluate(rod.Eval(`n => new Promise(done => { const next = () => n-- > 0 ? requestAnimationFrame(next) : done(); next() })`, n).ByPromise())
	require.NoError(p.t, err)
}

func (p *tab) press(keys ...input.Key) { p.Keyboard.MustType(keys...) }

func (p *tab) text(s string) { p.MustInsertText(s) }

// sees waits until the page's text contains the words.
func (p *tab) sees(words string) {
	p.t.Helper()
	page := p.Timeout(2 * time.Minute)
	for {
		err := page.Wait(rod.Eval(`w => document.body.innerText.includes(w)`, words))
		if err == nil {
			return
		}
		// A page that goes elsewhere while it is asked has not answered yet.
		if page.GetContext().Err() != nil {
			p.fail(fmt.Sprintf("never seen: %s (%v)\n%s", words, err, p.MustElement("body").MustText()))
		}
		time.Sleep(50 * time.Millisecond)
	}
}

func (p *tab) focused() string {
	return p.MustEval(`() => { const e = document.activeElement; if (e === document.body || e.id === 'main') return ''; return e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.innerText || e.id || e.tagName }`).Str()
}

// tabTo presses Tab until the focused element's label contains the words.
func (p *tab) tabTo(words string) {
	p.t.Helper()
	for range 250 {
		if strings.Contains(p.focused(), words) {
			return
		}
		p.press(input.Tab)
	}
	p.fail("no way by Tab to " + words + "; at " + p.focused())
}

// axe looks for accessibility faults that are serious or critical.
func (p *tab) axe() {
	p.t.Helper()
	p.axeAt("minor", "moderate", "serious", "critical")
}

// axeAt allows nothing of the named levels.
func (p *tab) axeAt(levels ...string) {
	p.t.Helper()
	src, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	require.NoError(p.t, err)
	_, err = proto.RuntimeEvaluate{Expression: string(src)}.Call(p)
	require.NoError(p.t, err)
	res := p.MustEval(`async () => JSON.stringify((await axe.run(document, {runOnly: ['wcag2a','wcag2aa','wcag21a','wcag21aa','wcag22aa','best-practice'], resultTypes: ['violations']})).violations
		.map(v => ({id: v.id, impact: v.impact, nodes: v.nodes.map(n => n.html + ' ' + n.failureSummary)})))`).Str()
	var found []struct {
		ID, Impact string
		Nodes      []string
	}
	require.NoError(p.t, json.Unmarshal([]byte(res), &found))
	for _, v := range found {
		assert.NotContains(p.t, levels, v.Impact, "%s: %s", v.ID, strings.Join(v.Nodes, "\n"))
	}
}

// watchAnswers times how long a part of the page takes to change after a key.
func (p *tab) watchAnswers(part string) {
	p.t.Helper()
	p.MustEval(`part => {
		window.times = []; let from = 0;
		const watched = document.querySelector(part);
		let was = watched.innerText;
		addEventListener('keydown', () => { from = performance.now() }, true);
		new MutationObserver(() => { const now = watched.innerText; if (now !== was && from) { times.push(performance.now() - from); from = 0 } was = now }).observe(watched, {subtree: true, childList: true, characterData: true});
	}`, part)
}

// answered asks for more than so many answers and logs how long they took.
func (p *tab) answered(least int) {
	p.t.Helper()
	got := p.MustEval(`() => { times.sort((a, b) => a - b); return [times.length, times[Math.floor(times.length * 0.95)]] }`).Arr()
	p.t.Logf("%v answers, 95th percentile %.0f ms", got[0], got[1].Num())
	assert.Greater(p.t, got[0].Int(), least)
}
