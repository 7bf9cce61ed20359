package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"notchback/devices/sidecam"
	"notchback/formats"
)

// shot is one picture of the README: a view of the demo data.
type shot struct {
	name    string
	phone   bool
	dark    bool
	unsaved bool // looked through, not kept as a picture
	gl      bool // takes a browser with WebGL; only when pictures are made
	path    func(p *tab) string
	act     func(p *tab)
}

func runnerPath(name, rest string) func(*tab) string {
	return func(p *tab) string {
		id := p.MustEval(`async n => (await (await fetch('/api/runners?search=' + encodeURIComponent(n))).json()).items[0].id`, name).Str()
		return "/runners/" + id + rest
	}
}

func screeningPath(name string) func(*tab) string {
	return func(p *tab) string {
		return p.MustEval(`async n => {
			const r = (await (await fetch('/api/runners?search=' + encodeURIComponent(n))).json()).items[0];
			const s = await (await fetch('/api/runners/' + r.id + '/screenings')).json();
			return '/screenings/' + s.items[0].id }`, name).Str()
	}
}

func fixed(path string) func(*tab) string { return func(*tab) string { return path } }

// station opens a station of the screening on show.
func station(name string) func(*tab) {
	return func(p *tab) {
		p.MustElementR("nav[aria-label=Stations] button", "^"+name).MustClick()
		p.MustWait(`n => document.querySelector('nav[aria-label=Stations] [aria-current=step]').innerText.startsWith(n)`, name)
	}
}

var shots = []shot{
	{name: "bench", path: fixed("/")},
	{name: "runner", path: runnerPath("Bera", "")},
	{name: "../figures", path: fixed("/shelf/figures")},
	{name: "screening-talk", path: screeningPath("Bera"), act: station("Talk")},
	{name: "screening-bend", path: screeningPath("Isolde"), act: station("Bend")},
	{name: "findings", path: screeningPath("Bera"), act: station("Findings")},
	{name: "ramp", path: runnerPath("Oskar", "/ramp")},
	{name: "practice", path: fixed("/practice/people"), act: func(p *tab) {
		p.MustElement(`section[aria-label="Invite somebody"] input`).MustInput("Ada, from spring on")
		p.MustElementR("button", "^Make a link$").MustClick()
		p.sees("It is shown once")
		p.rest()
		p.MustEval(`() => { document.querySelector('input[aria-label="The link"]').value = 'https://coach.example.org/join#…' }`)
	}},
	{name: "cadence", unsaved: true, path: runnerPath("Isolde", "/ramp"), act: func(p *tab) {
		p.MustElement("#cadence")
		p.MustEval(`() => document.querySelector('#cadence').scrollIntoView()`)
	}},
	{name: "desk", path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: markedContact},
	{name: "beside", unsaved: true, path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: besideEachOther},
	{name: "desk-behind", unsaved: true, path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: markedBehind},
	{name: "markers", unsaved: true, path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: readMarkers},
	{name: "desk-phone", unsaved: true, phone: true, path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: func(p *tab) {
		p.MustElementR("a", "^rear.webm$").MustClick()
		p.sees("7 steps")
	}},
	{name: "desk-proposed", gl: true, path: func(p *tab) string { return screeningPath("Dario")(p) + "/clips" }, act: func(p *tab) {
		p.bringClip("fore")
		p.proposes("^Propose points$")
		p.atFrame(51)
		p.Mouse.MustMoveTo(5, 5)
		p.MustWait(`() => [...document.querySelectorAll('video')].every(v => !v.seeking)`)
		p.MustWaitStable()
	}},
	{name: "block", path: runnerPath("Isolde", "/block"), act: func(p *tab) {
		p.MustEval(`() => document.querySelector('section[aria-label=Weeks]').scrollIntoView()`)
	}},
	{name: "plan", path: runnerPath("Bera", "/plan")},
	{name: "shelf", path: fixed("/shelf?purpose=strength")},
	{name: "schools", unsaved: true, path: runnerPath("Bera", "/schools")},
	{name: "print", unsaved: true, path: runnerPath("Bera", "/print")},
	{name: "review", path: func(p *tab) string { return strings.Replace(runnerPath("Tomas", "")(p), "/runners/", "/review/", 1) }},
	{name: "runs", path: runnerPath("Agnes", "/runs")},
	{name: "log", path: runnerPath("Joonas", "/log")},
	{name: "screening-dark", unsaved: true, dark: true, path: screeningPath("Joonas"), act: station("Bend")},
	{name: "block-phone", unsaved: true, phone: true, path: runnerPath("Joonas", "/block")},
	{name: "screening-phone", unsaved: true, phone: true, path: screeningPath("Joonas"), act: station("Bend")},
}

// TestScreenshots rebuilds the README's pictures when NOTCHBACK_SHOTS names a
// folder (make shots); make faults opens the views without keeping a picture.
func TestScreenshots(t *testing.T) {
	folder := os.Getenv("NOTCHBACK_SHOTS")
	if folder == "" && os.Getenv("NOTCHBACK_WHOLE") == "" {
		t.Skip("each view has a test of its own; these are for the pictures")
	}
	s := serve(t, true)
	for _, k := range shots {
		width, height := 1280, 800
		if k.phone {
			width, height = 390, 844
		}
		if k.gl && folder == "" {
			continue // proposing has a test of its own
		}
		p := s.open(t, width, height)
		if k.gl {
			p = openIn(t, glBrowser(), s.URL, width, height, 4*time.Minute)
			p.allow(libraryTalks...)
		}
		if k.dark {
			require.NoError(t, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}}.Call(p))
		}
		p.signIn("maren@harriers.example")
		p.goTo(k.path(p))
		p.MustElement("h1")
		p.MustWait(`() => !document.body.innerText.includes('Loading')`)
		if k.act != nil {
			k.act(p)
		}
		p.MustWait(`() => document.fonts.status === 'loaded'`)
		require.LessOrEqual(t, p.MustEval(`() => document.documentElement.scrollWidth - innerWidth`).Int(), 0, "%s scrolls sideways", k.name)
		p.axe()
		if folder == "" || k.unsaved {
			continue
		}
		b, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, k.name+".png"), b, 0o644))
	}
}

// markedContact brings in the rendered clip and marks its first right contact and
// all events.
func markedContact(p *tab) {
	d, err := sidecam.Find("rear")
	require.NoError(p.t, err)
	truth := d.Runner.Truth(d.Film)
	p.bringClip("rear")
	key := map[string]map[bool]input.Key{"left": {true: 'q', false: 'a'}, "right": {true: 'w', false: 's'}}
	for _, e := range truth.Events {
		p.atFrame(truth.First(e.Contact))
		p.press(key[e.Foot][true])
		if e.ToeOff <= truth.Frames[len(truth.Frames)-1].Time {
			p.atFrame(truth.Frame(e.ToeOff))
			p.press(key[e.Foot][false])
		}
	}
	n := truth.Frame(truth.Events[0].Contact)
	p.atFrame(n)
	for _, place := range []string{"ankle", "knee", "hip", "shoulder", "sole-heel", "sole-toe"} {
		p.clickOn(truth.Frames[n].Places["right-"+place])
		p.MustEval(`() => document.activeElement?.blur()`)
	}
	p.press(input.Escape)
	p.Mouse.MustMoveTo(5, 5)
	p.MustWaitStable()
}

// besideEachOther marks a second clip's contacts and lays it beside the first.
func besideEachOther(p *tab) {
	p.bringClip("reach")
	d, err := sidecam.Find("reach")
	require.NoError(p.t, err)
	truth := d.Runner.Truth(d.Film)
	for _, e := range truth.Events {
		p.atFrame(truth.First(e.Contact))
		p.press(map[string]input.Key{"left": 'q', "right": 'w'}[e.Foot])
		if e.ToeOff <= truth.Frames[len(truth.Frames)-1].Time {
			p.atFrame(truth.Frame(e.ToeOff))
			p.press(map[string]input.Key{"left": 'a', "right": 's'}[e.Foot])
		}
	}
	p.MustWait(`() => document.querySelector('[role=status]').innerText === 'saved'`)
	p.MustElementR("a", "Beside another").MustClick()
	p.MustElement("select").MustSelect(p.MustElementR("option", "^rear.webm").MustText())
	p.sees("Cadence")
	p.MustEval(`() => document.activeElement?.blur()`)
	p.MustWait(`() => [...document.querySelectorAll('video')].length === 2 && [...document.querySelectorAll('video')].every(v => v.readyState >= 2 && !v.seeking && v.currentTime > 0)`)
}

// markedBehind marks the middle of a stance from behind.
func markedBehind(p *tab) {
	p.bringClip("crossing")
	d, err := sidecam.Find("crossing")
	require.NoError(p.t, err)
	truth := d.Runner.Truth(d.Film)
	p.MustElementX(`//label[normalize-space()="behind"]`).MustClick()
	p.MustElementX(`//label[normalize-space()="From behind, mid-stance"]`).MustClick()
	n := truth.Frame(truth.Events[0].Contact + 0.11)
	p.atFrame(n)
	at := truth.Frames[n].Places
	l, r, ankle, heel := at["left-hip"], at["right-hip"], at["right-ankle"], at["right-sole-heel"]
	for _, s := range []sidecam.Spot{l, r, {X: ankle.X, Y: ankle.Y - 10}, {X: ankle.X, Y: ankle.Y - 36}, {X: heel.X, Y: heel.Y + 1}, {X: heel.X, Y: heel.Y - 11}, {X: heel.X + 14, Y: heel.Y + 2}, {X: (l.X + r.X) / 2, Y: heel.Y + 16}} {
		p.clickOn(s)
		p.MustEval(`() => document.activeElement?.blur()`)
	}
	p.press(input.Escape)
	p.Mouse.MustMoveTo(5, 5)
	p.sees("Heel roll")
}

// readMarkers brings in a marker file of the figure.
func readMarkers(p *tab) {
	d, err := sidecam.Find("uneven")
	require.NoError(p.t, err)
	d.Film.FPS, d.Film.Frames = 120, 960
	var b bytes.Buffer
	require.NoError(p.t, formats.WriteTRC(&b, "uneven", d.Markers()))
	p.MustElement("input[type=file]").MustSetFiles(writeFile(p.t, "hall.trc", b.Bytes()))
	p.MustElementR("a", "^hall.trc$").MustClick()
	p.sees("Shin at contact")
}
