package e2e

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
)

var ctx = context.Background()

// coach is the demo's coach, and a runner by the beginning of their name.
func (s *site) coach(t *testing.T, runner string) (app.Actor, string) {
	t.Helper()
	c, err := s.house.SignIn(ctx, demo.Email, demo.Password, "a test")
	require.NoError(t, err)
	act, err := s.house.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	list, err := s.house.Bench(ctx, act, runner, 0)
	require.NoError(t, err)
	require.NotEmpty(t, list.Items)
	return act, list.Items[0].ID
}

// letIn opens a runner's link on a phone and agrees.
func (p *tab) letIn(s *site, runner string) {
	p.t.Helper()
	act, id := s.coach(p.t, runner)
	l, err := s.house.AddLink(ctx, act, id)
	require.NoError(p.t, err)
	p.goTo("/pocket#" + l.Token)
	p.sees("Is this you, " + runner)
	assert.NotContains(p.t, p.MustInfo().URL, l.Token, "the token is out of the address at once")
	p.MustElementR("button", "Yes, that is me").MustClick()
	p.sees("First steps today?")
}

// lies waits until the page and its scripts lie on the phone.
func (p *tab) lies() {
	p.t.Helper()
	p.MustEval(`async () => { const r = await navigator.serviceWorker.ready; while (r.active?.state !== 'activated') await new Promise(d => setTimeout(d, 50)) }`)
}

func (p *tab) line(s *site, there bool) {
	p.t.Helper()
	s.down.Store(!there)
	c := proto.NetworkEmulateNetworkConditions{Offline: !there, DownloadThroughput: -1, UploadThroughput: -1}
	require.NoError(p.t, c.Call(p))
}

func (p *tab) taps(words string) { p.t.Helper(); p.MustElementR("button", words).MustClick() }

func (p *tab) scale(label string) {
	p.t.Helper()
	p.MustElement(`button[aria-label="` + label + `"]`).MustClick()
}

// picksDay sets a date field as a hand would.
func (p *tab) picksDay(on time.Time) {
	p.t.Helper()
	p.MustElement("input[type=date]").MustEval(`v => {
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(this, v)
		this.dispatchEvent(new Event('input', { bubbles: true }))
	}`, on.Format("2006-01-02"))
}

// walks does the walk before a session that has one.
func (p *tab) walks() {
	p.t.Helper()
	p.MustWait(`() => /I remember it|I am set up/.test(document.body.innerText)`)
	if p.MustHasR("button", "I remember it") {
		p.axe()
		p.taps("I remember it")
	}
}

// offlineTalk is what a browser says of requests that find no line.
var offlineTalk = []string{"Failed to load resource", "net::ERR"}

// A whole session without a network, the browser killed in the middle of it; then the
// line comes back and the coach has all of it, once.
func TestASessionWithoutANetworkOutlivesTheBrowser(t *testing.T) {
	s := serve(t, true)
	dir := t.TempDir()
	start := func() (p *tab, kill, leave func()) {
		l := chromium().UserDataDir(dir).Set("disable-gpu")
		b := rod.New().ControlURL(l.MustLaunch()).MustConnect()
		p = watch(t, b.MustPage(""), s.URL, 390, 844, 2*time.Minute)
		p.allow(offlineTalk...)
		return p, l.Kill, b.MustClose
	}
	p, _, leave := start()
	p.letIn(s, "Isolde")
	p.lies()
	p.axe()
	leave() // the first opening ends as openings do; a browser writes cookies late
	p, kill, _ := start()
	p.goTo("/pocket")
	p.scale("First steps today: 1")
	p.taps("Tell my coach")
	p.sees("with your coach")
	p.line(s, false)
	p.MustReload().MustWaitLoad()
	p.sees("Start: ")
	p.MustElementR("nav button", "Week").MustClick()
	p.sees("Today")
	p.axe()
	p.MustElementR("nav button", "How it goes").MustClick()
	p.sees("Where you stand")
	p.axe()
	p.MustElementR("nav button", "Today").MustClick()
	// The main session may stand today or not: whichever comes first is done.
	p.taps("^Start: ")
	p.walks()
	p.sees("I am set up")
	p.axe()
	p.taps("I am set up")
	p.taps("Set done")
	p.scale("Pain in that set: 2")
	p.sees("Go on")
	kill() // in the middle of it
	p, kill, _ = start()
	defer kill()
	s.down.Store(true)
	p.goTo("/pocket")
	p.sees("Go on: ")
	p.taps("^Go on: ")
	for range 60 {
		p.MustWait(`() => [...document.querySelectorAll('button')].some(b => /I am set up|Set done|Pain in|^Next$|^Go on|Tell my coach/.test(b.ariaLabel || b.innerText))`)
		switch {
		case p.MustHasR("button", "Tell my coach"):
			if p.MustHasR("button", "^same$") {
				p.taps("^same$")
			}
			p.taps("Tell my coach")
		case p.MustHasR("button", "I am set up"):
			p.taps("I am set up")
			continue
		case p.MustHasR("button", "Set done"):
			p.taps("Set done")
			continue
		case p.MustHas(`button[aria-label="Pain in that set: 1"]`):
			p.scale("Pain in that set: 1")
			continue
		case p.MustHasR("button", "^Go on"):
			p.taps("^Go on")
			continue
		default:
			p.taps("^Next$")
			continue
		}
		break
	}
	p.sees("kept here")
	p.axe()
	act, id := s.coach(t, "Isolde")
	b, err := s.house.CurrentBlock(ctx, act, id)
	require.NoError(t, err)
	before, err := s.house.LoggedSessions(ctx, act, b.ID)
	require.NoError(t, err)
	p.line(s, true)
	p.MustEval(`() => { dispatchEvent(new Event('online')) }`)
	p.sees("with your coach")
	after, err := s.house.LoggedSessions(ctx, act, b.ID)
	require.NoError(t, err)
	assert.Len(t, after, len(before)+1)
	heard, err := s.house.Heard(ctx, act, id)
	require.NoError(t, err)
	assert.Len(t, heard.Reports, 2, "the morning and the session, once each")
	for _, r := range heard.Reports {
		assert.Equal(t, "taken", r.State, r.Why)
	}
}

// A week told late and without a network, a file of a run among it: the coach has all
// of it once, also when the phone comes back from a backup and tells it again. A phone
// without room says so.
func TestAWeekToldLateWithoutANetwork(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.allow(offlineTalk...)
	p.letIn(s, "Isolde")
	p.lies()
	act, id := s.coach(t, "Isolde")
	runsOf := func() (km55 int, all int) {
		list, err := s.house.Runs(ctx, act, id)
		require.NoError(t, err)
		for _, r := range list {
			if r.Km == 5.5 {
				km55++
			}
		}
		return km55, len(list)
	}
	had, hadAll := runsOf()
	p.line(s, false)
	today := time.Now()
	for back := 26; back >= 20; back-- { // before what the coach knows of mornings
		on := today.AddDate(0, 0, -back)
		p.taps("Something from an earlier day")
		p.picksDay(on)
		p.sees(on.Format("Mon 2 Jan"))
		if back == 26 {
			p.axe()
		}
		p.MustElementR("li", "First steps").MustElementR("button", "tell them").MustClick()
		p.scale("First steps, in general: 1")
		p.taps("Tell my coach")
		p.taps("Something from an earlier day")
		p.picksDay(on)
		p.MustElementR("li", "A run").MustElement("button").MustClick()
		p.MustElementR("label", "Kilometres").MustElement("input").MustInput("5,5")
		p.MustElementR("label", "Minutes").MustElement("input").MustInput("33")
		p.scale("Worst pain on the run: 0")
		p.taps("trail")
		p.taps("Tell my coach")
	}
	p.sees("tell a run") // the last one is kept
	// A file that another application shares opens as a run, without a network too. It was
	// an evening: the runs of the demo are in the morning.
	yesterday := time.Date(today.Year(), today.Month(), today.Day()-1, 19, 0, 0, 0, time.UTC)
	p.MustReload().MustWaitLoad() // from the service worker, which takes the share
	p.sees("tell a run")
	p.MustEval(`async gpx => {
		const f = new FormData()
		f.append('file', new File([gpx], 'shared.gpx', { type: 'application/gpx+xml' }))
		await fetch('/pocket/share', { method: 'POST', body: f, redirect: 'manual' })
		location.reload()
	}`, string(gpxRun(yesterday, 14)))
	p.sees("shared.gpx")
	p.taps("Tell my coach")
	p.sees("kept here")
	p.taps("tell a run")
	file := filepath.Join(t.TempDir(), "lunch.gpx")
	require.NoError(t, os.WriteFile(file, gpxRun(today.Add(-2*time.Hour), 12), 0o600))
	p.MustElement("input[type=file]").MustSetFiles(file)
	p.sees("lunch.gpx")
	p.axe()
	p.taps("Tell my coach")
	p.sees("kept here")
	p.MustReload().MustWaitLoad()
	p.sees("kept here")
	p.line(s, true)
	p.MustEval(`() => { dispatchEvent(new Event('online')) }`)
	once := func() {
		t.Helper()
		p.MustWait(`() => document.body.innerText.includes('with your coach')`)
		said := ""
		defer func() {
			if t.Failed() {
				t.Log(said)
			}
		}()
		require.Eventually(t, func() bool {
			require.NoError(t, s.house.SettleReports(ctx)) // the server does it every few seconds
			heard, err := s.house.Heard(ctx, act, id)
			require.NoError(t, err)
			late, taken := 0, 0
			said = ""
			for _, r := range heard.Reports {
				said += fmt.Sprintln(r.On, r.Kind, r.State, r.Why, r.Late)
				if r.Late {
					late++
				}
				if r.State == "taken" {
					taken++
				}
			}
			return late == 14 && taken == 16 && len(heard.Reports) == 16
		}, time.Minute, 200*time.Millisecond)
		now, all := runsOf()
		assert.Equal(t, [2]int{had + 7, hadAll + 9}, [2]int{now, all})
	}
	once()
	// A backup of before: everything waits on the phone again, under its old numbers.
	p.MustEval(`() => new Promise((ok, no) => {
		const open = indexedDB.open('notchback-pocket')
		open.onerror = no
		open.onsuccess = () => {
			const tx = open.result.transaction('reports', 'readwrite')
			const all = tx.objectStore('reports').openCursor()
			all.onsuccess = () => { const c = all.result; if (c) { c.update({ ...c.value, told: 'kept' }); c.continue() } }
			tx.oncomplete = () => { open.result.close(); ok() }
		}
	})`)
	p.MustReload().MustWaitLoad()
	once()
	// A browser without room throws at a write; its quota can't be set small enough here.
	p.MustEval(`() => { window.writes = IDBObjectStore.prototype.put; IDBObjectStore.prototype.put = () => { throw new DOMException('full', 'QuotaExceededError') } }`)
	p.MustElementR("nav button", "How it goes").MustClick()
	p.MustElement("textarea").MustInput("Shoes are worn out.")
	p.taps("Tell my coach")
	p.sees("no room left")
	p.axe()
	assert.Equal(t, "Shoes are worn out.", p.MustElement("textarea").MustText(), "what was written stays to be told again")
	p.MustEval(`() => { IDBObjectStore.prototype.put = window.writes }`)
	p.taps("Tell my coach")
	p.sees("Shoes are worn out.")
	assert.NotContains(t, p.MustElement("body").MustText(), "no room left")
}

// gpxRun is a run of so many minutes at 6 minutes a kilometre.
func gpxRun(start time.Time, minutes int) []byte {
	var b strings.Builder
	b.WriteString(`<gpx version="1.1" creator="a watch" xmlns="http://www.topografix.com/GPX/1/1"><trk><type>running</type><trkseg>`)
	for i := range minutes*6 + 1 {
		fmt.Fprintf(&b, `<trkpt lat="%.6f" lon="-30"><time>%s</time></trkpt>`, 38+float64(i)*0.00025, start.Add(time.Duration(i)*10*time.Second).UTC().Format(time.RFC3339))
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	return []byte(b.String())
}

// A runner makes an address for the phone's calendar and chooses what it rings for.
func TestRemindersInThePhonesCalendar(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.letIn(s, "Isolde")
	p.taps("Whom to call")
	p.MustElementR("button", "Main session on")
	p.MustElementR("button", "First steps off").MustClick()
	p.MustElementR("button", "First steps on")
	p.taps("Make a calendar address")
	address := p.MustElementR("p", `calendar/\w+\.ics`).MustText()
	p.axe()
	get := func(mark string) *http.Response {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
		require.NoError(t, err)
		req.Header.Set("If-None-Match", mark)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		t.Cleanup(func() { _ = res.Body.Close() })
		return res
	}
	first := get("")
	raw, err := io.ReadAll(first.Body)
	require.NoError(t, err)
	assert.Contains(t, string(raw), "First steps: how many of ten?")
	assert.Contains(t, string(raw), "TRIGGER:-PT30M")
	mark := first.Header.Get("ETag")
	require.NotEmpty(t, mark)
	assert.Equal(t, http.StatusNotModified, get(mark).StatusCode)
	p.MustElementR("button", "Main session on").MustClick()
	p.MustElementR("button", "Main session off")
	assert.Equal(t, http.StatusOK, get(mark).StatusCode)
	p.taps("End the address")
	p.MustWait(`() => ![...document.querySelectorAll('button')].some(b => /^End /.test(b.innerText))`)
	assert.Equal(t, http.StatusNotFound, get("").StatusCode)
}

// At twice the size of text, a phone's page is half as wide: nothing may need to be
// pushed sideways, and nothing moves for who asked for less motion.
func TestThePhoneAtTwiceTheTextAndWithoutMotion(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	calm := proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}
	require.NoError(t, calm.Call(p))
	p.letIn(s, "Isolde")
	p.MustSetViewport(195, 422, 2, true)
	fits := func(view string) {
		t.Helper()
		p.MustWaitStable()
		wide := p.MustEval(`() => [...document.querySelectorAll('body *')].filter(e => e.getBoundingClientRect().right > innerWidth + 1).map(e => e.tagName + ' ' + e.textContent.slice(0, 40)).slice(0, 5).join(' | ')`).Str()
		assert.Empty(t, wide, view)
		assert.Zero(t, p.MustEval(`() => document.getAnimations().length`).Int(), view)
	}
	fits("today")
	p.taps("Something from an earlier day")
	fits("an earlier day")
	p.goTo("/pocket")
	p.taps("tell a run")
	fits("a run")
	p.goTo("/pocket")
	for _, name := range []string{"Week", "How it goes", "Today"} {
		p.MustElementR("nav button", name).MustClick()
		fits(name)
	}
	p.taps("Whom to call")
	p.sees("Your phones")
	fits("more")
	p.goTo("/pocket")
	p.taps("hurts more")
	fits("something new")
	p.goTo("/pocket")
	p.scale("First steps today: 1")
	fits("morning")
	p.taps("Tell my coach")
	p.sees("with your coach")
	p.taps("^Start: ")
	p.walks()
	fits("before a set")
	p.taps("I am set up")
	fits("a set")
	p.taps("Set done")
	fits("pain")
	p.scale("Pain in that set: 1")
	fits("rest")
}

// An emergency answer fills the screen with what to do while there is no line, and the
// plan is closed; the coach knows once there is one.
func TestAnEmergencyAnswerFillsTheScreenOffline(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.allow(offlineTalk...)
	p.letIn(s, "Isolde")
	p.lies()
	p.line(s, false)
	p.taps("Something new hurts, or hurts more")
	p.MustElement(`circle[aria-label="calf, left"]`).MustFocus()
	p.press(input.Enter)
	p.scale("Worst since yesterday: 6")
	p.sees("Is one of these true?")
	p.axe()
	p.MustElementR("button", "calf|swollen|clot").MustScrollIntoView().MustClick()
	p.taps("Tell my coach")
	p.sees("Get care now")
	p.sees("Call 112")
	p.axe()
	p.MustReload().MustWaitLoad()
	p.sees("Get care now")
	p.line(s, true)
	p.MustEval(`() => { dispatchEvent(new Event('online')) }`)
	p.MustWait(`() => document.body.innerText.includes('with your coach')`)
	act, id := s.coach(t, "Isolde")
	b, err := s.house.CurrentBlock(ctx, act, id)
	require.NoError(t, err)
	assert.NotNil(t, b.Care)
}

// A link that opens nothing says so and shows nothing; a phone that is signed out by
// the coach is told; both see each other's words.
func TestLinksPhonesAndWords(t *testing.T) {
	s := serve(t, true)
	stranger := s.open(t, 390, 844)
	stranger.allow("409")
	stranger.goTo("/pocket#guessed")
	stranger.sees("This link opens nothing")
	assert.NotContains(t, stranger.MustElement("body").MustText(), "Isolde")
	stranger.axe()

	coach := s.open(t, 1280, 900)
	coach.signIn(demo.Email)
	coach.goTo(runnerPath("Isolde", "/journal")(coach))
	coach.MustElementR("button", "Make a link for the phone").MustClick()
	coach.sees("Shown this once")
	link := coach.MustElementR("p", "/pocket#").MustText()
	coach.MustElement(`img[alt="The link as a square for the phone's camera"]`)

	p := s.open(t, 390, 844)
	p.allow("401")
	p.MustNavigate(strings.TrimSpace(link)).MustWaitLoad()
	p.sees("Is this you, Isolde")
	p.taps("Yes, that is me")
	p.sees("First steps today?")
	p.MustElementR("nav button", "How it goes").MustClick()
	p.MustElement("textarea").MustInput("The left calf is tight on stairs.")
	p.taps("Tell my coach")
	p.sees("with your coach")

	coach.goTo("/")
	coach.sees("1 new")
	coach.goTo(runnerPath("Isolde", "/journal")(coach))
	coach.sees("The left calf is tight on stairs.")
	coach.sees("new since you looked")
	coach.MustElementR("button", "Looked at").MustClick()
	coach.MustElementR("textarea, label", "Write Isolde a few words")
	coach.MustElement(`section[aria-label="The runner's phone"] textarea`).MustInput("Two lighter days, then tell me again.")
	coach.MustElementR("button", "^Send$").MustClick()
	coach.sees("not read yet")
	coach.axe()
	p.MustReload().MustWaitLoad()
	p.sees("Two lighter days, then tell me again.")
	coach.MustElementR("button", "Sign it out").MustClick()
	coach.MustWait(`() => ![...document.querySelectorAll('button')].some(b => b.innerText === 'Sign it out')`)
	p.MustReload().MustWaitLoad()
	p.sees("This phone is signed out")
}

// Pictures of the phone, at the size of one.
func TestPocketShots(t *testing.T) {
	folder := os.Getenv("NOTCHBACK_SHOTS")
	if folder == "" {
		t.Skip("for make shots")
	}
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.MustSetViewport(390, 844, 1, true)
	p.allow(offlineTalk...)
	keep := func(name string) {
		p.MustWait(`() => document.fonts.status === 'loaded'`)
		p.frames(2)
		if os.Getenv("NOTCHBACK_RATIOS") != "" {
			return // figures alone: a picture taken holds the next tap up
		}
		b, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name+".png"), b, 0o644))
	}
	p.letIn(s, "Isolde")
	p.lies()
	p.MustReload().MustWaitLoad() // from the service worker
	p.sees("First steps today?")
	p.MustEval(`() => {
		window.taps = []; window.tapped = {} // what was tapped, by the time of the event: later it may be gone
		for (const type of ['pointerdown', 'pointerup', 'click']) addEventListener(type, e => { tapped[Math.round(e.timeStamp)] = (e.target.closest?.('button, label, a') ?? e.target).innerText || e.target.getAttribute('aria-label') || '' }, true)
		new PerformanceObserver(l => window.taps.push(...l.getEntries().filter(e => e.interactionId).map(e => [e.duration, (e.name + ' ' + (window.tapped[Math.round(e.startTime)] ?? '')).replace(/\s+/g, ' ').slice(0, 40), Math.round(e.processingEnd - e.processingStart)]))).observe({ type: 'event', durationThreshold: 16, buffered: true })
	}`)
	keep("pocket-today")
	p.line(s, false)
	p.scale("First steps today: 1")
	keep("pocket-morning")
	p.taps("Tell my coach")
	p.sees("kept here")
	p.taps("^Start: ")
	p.taps("I am set up")
	p.taps("Count for me")
	p.MustWait(`() => /^up|hold|down/m.test(document.body.innerText)`)
	keep("pocket-session")
	p.taps("Back")
	p.taps("Something new hurts, or hurts more")
	p.MustElement(`circle[aria-label="heel underside, left"]`).MustFocus()
	p.press(input.Enter)
	p.scale("Worst since yesterday: 8")
	p.sees("Is one of these true?")
	p.taps("None of these")
	p.taps("Tell my coach")
	p.sees("Not today")
	keep("pocket-stopped")
	// Figures for the report, no limits of a test: of this machine, as it is busy now.
	p.frames(5)
	t.Log(p.MustEval(`() => {
		const all = window.taps.sort((a, b) => a[0] - b[0]), t = all.map(x => x[0])
		const paint = performance.getEntriesByName('first-contentful-paint')[0]?.startTime
		return 'from the service worker: first paint with content ' + Math.round(paint) + ' ms; ' + t.length + ' taps answered over 16 ms, median ' + t[t.length >> 1] + ', longest ' + t.at(-1) + ' ms (in steps of 8); the slowest: ' + all.slice(-4).map(x => x[1] + ' ' + x[0] + ' ms, handlers ' + x[2]).join('; ')
	}`).Str())
}

// The phone in German: chosen there, kept there, and the way of an emergency in it
// without a network.
func TestThePhoneInGerman(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.allow(offlineTalk...)
	p.letIn(s, "Isolde")
	p.MustElementR("button", "Whom to call").MustClick()
	p.MustElementR("button", "Deutsch").MustScrollIntoView().MustClick()
	p.sees("Hallo, Isolde. Die ersten Schritte heute?")
	p.MustElementR("h2,h3,b,p", "Haupteinheit|Kurz, täglich|Ruhetag|frei") // what a day holds depends on the weekday
	assert.Equal(t, "de", p.MustEval(`() => document.documentElement.lang`).Str())
	p.axe()
	for _, place := range []string{"Woche", "Wie es läuft", "Wen anrufen", "Heute"} {
		p.MustElementR("nav button, button", "^"+place+"$").MustClick()
		p.rest()
		for _, x := range p.MustEval(unfit).Arr() { // what scrolls goes under the bar below
			assert.True(t, strings.HasPrefix(x.Str(), "lie on each other: BUTTON"), "%s in German: %s", place, x.Str())
		}
		if place == "Wen anrufen" {
			p.taps("^Zurück$")
		}
	}
	p.lies()
	p.line(s, false)
	p.MustReload().MustWaitLoad()
	p.sees("Die ersten Schritte heute?")
	p.taps("Tut etwas Neues weh")
	p.MustElement(`circle[aria-label="Wade, links"]`).MustFocus()
	p.press(input.Enter)
	p.scale("Schlimmster seit gestern: 6")
	p.sees("Stimmt eines davon?")
	p.MustElementR("button", "Wade oder Bein neu geschwollen").MustScrollIntoView().MustClick()
	p.taps("Meinem Coach sagen")
	p.sees("Jetzt Hilfe holen")
	p.sees("Ruf 112 an")
	p.axe()
	p.line(s, true)
	p.MustEval(`() => { dispatchEvent(new Event('online')) }`)
	p.MustWait(`() => document.body.innerText.includes('bei deinem Coach')`)
	act, id := s.coach(t, "Isolde")
	b, err := s.house.CurrentBlock(ctx, act, id)
	require.NoError(t, err)
	require.NotNil(t, b.Care)
	assert.Equal(t, "Get care now", b.Care.Title, "the coach reads the desk's language")
	p.signIn(demo.Email)
	p.sees("Review")
	assert.Equal(t, "en", p.MustEval(`() => document.documentElement.lang`).Str(), "the desk in the same browser speaks its own language")
}
