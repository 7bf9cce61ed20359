package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/devices/sidecam"
)

// libraryTalks is what the landmark library says on the console, and nothing else.
var libraryTalks = []string{"gl_context_webgl.cc", "gl_context.cc", "Created TensorFlow Lite XNNPACK delegate for CPU"}

// onDeskWithGL is a desk in a browser that can propose.
func onDeskWithGL(t *testing.T, id string) (*tab, sidecam.Truth) {
	t.Helper()
	p := openIn(t, glBrowser(), serve(t, true).URL, 1280, 900, 5*time.Minute)
	for _, x := range libraryTalks {
		p.allow(x)
	}
	return onDeskIn(t, p, id)
}

// proposes presses a button and waits until the points are there.
func (p *tab) proposes(button string) {
	p.t.Helper()
	p.MustElementR("button", button).MustClick()
	p.MustElementR("[role=status]", "somebody in")
	p.MustElementR("button", "^Propose again$")
	p.sees("Proposed points")
}

// number reads a value of the measures by its label and side.
func (p *tab) number(section, label, side string) float64 {
	p.t.Helper()
	v := p.MustWaitText(`(s, l, side) => [...document.querySelectorAll('section[aria-label="' + s + '"] p')].find(e => e.innerText.startsWith(l) && (!side || e.innerText.includes(side)))?.querySelector('b')?.innerText ?? ''`, section, label, side)
	n, err := strconv.ParseFloat(strings.Fields(strings.ReplaceAll(v, "°", " "))[0], 64)
	require.NoError(p.t, err, "%s %s: %q", label, side, v)
	return n
}

// MustWaitText waits until a script says something.
func (p *tab) MustWaitText(script string, args ...any) string {
	p.t.Helper()
	v := ""
	require.Eventually(p.t, func() bool {
		v = p.MustEval(script, args...).Str()
		return v != ""
	}, 2*time.Minute, 50*time.Millisecond, "%v", args)
	return v
}

// points are the proposed points of some frames, as text.
func (p *tab) points(from, to int) string {
	return p.MustEval(`async (from, to) => { const id = location.pathname.split('/').pop(); const r = await fetch('/api/clips/' + id + '/proposal?from=' + from + '&to=' + to,
		{method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({view: 'side', picture: {}, moments: [], events: []})}); return JSON.stringify((await r.json()).points) }`, from, to).Str()
}

// Points are proposed, looked at, put right and sent into the screening.
func TestPointsAreProposedCorrectedAndSent(t *testing.T) {
	p, truth := onDeskWithGL(t, "rear")
	p.MustElementX(`//label[normalize-space()="2 s from here"]`).MustClick()
	p.proposes("^Propose points$")
	p.sees("somebody in 120 of 120")
	before := p.points(0, 55)
	assert.Greater(t, len(before), 10_000)
	// The whole clip: the same frames give the same points. What it costs beside the bare
	// library is looked at by make bench.
	p.MustElementX(`//label[normalize-space()="the clip"]`).MustClick()
	p.MustElementR("button", "^Propose again$").MustClick()
	p.MustElementR("[role=status]", "frame 14[0-9] of 150")
	at := p.MustElementR("[role=status]", "ms a frame").MustText()
	var ms float64
	_, err := fmt.Sscanf(at[strings.LastIndex(at, ";")+1:], "%f ms a frame", &ms)
	require.NoError(t, err, at)
	p.MustElementR("button", "^Propose again$")
	p.sees("of 150 frames;")
	assert.Equal(t, before, p.points(0, 55))
	if os.Getenv("NOTCHBACK_RATIOS") != "" {
		bare := p.MustEval(`async () => { const src = document.querySelector('script[src*="/pose/"]').src, base = src.replace(/[^/]*$/, '');
			const pose = new Pose({locateFile: f => base + f}); pose.setOptions({modelComplexity: 1, smoothLandmarks: false, minDetectionConfidence: 0.5, useCpuInference: true}); pose.onResults(() => {});
			const v = document.querySelector('video'), c = document.createElement('canvas'), g = c.getContext('2d'); c.width = c.height = 384; let at = 0, from = 0, n = 0;
			for (let i = 0; i < 40; i++) { await new Promise(ok => { v.addEventListener('seeked', ok, {once: true}); v.currentTime = (i + 0.5) / 60 });
				g.drawImage(v, 140, 0, 360, 360, 0, 0, 384, 384); const t = performance.now(); await pose.send({image: c}, at += 100); if (i > 0) { from += performance.now() - t; n++ } }
			await pose.close(); return from / n }`).Num()
		t.Logf("%.0f ms a frame, the bare library %.0f: %.2f ×", ms, bare, ms/bare)
	}
	found := p.MustElementR("section[aria-label='Proposed points']", "somebody in").MustText()
	var some, all int
	_, err = fmt.Sscanf(found[strings.Index(found, "somebody in"):], "somebody in %d of %d frames", &some, &all)
	require.NoError(t, err, found)
	assert.Equal(t, len(truth.Frames), all)
	assert.GreaterOrEqual(t, some, all*9/10)
	const section = "Measures over all steps"
	assert.InDelta(t, truth.Runner.Cadence, p.number(section, "Cadence", ""), 1)
	var first sidecam.Event
	for _, e := range truth.Events {
		if e.Foot == "right" {
			first = e
			break
		}
	}
	assert.InDelta(t, -truth.Frames[truth.Frame(first.Contact)].Angles["right-shin"], p.number(section, "Shin at contact", "right"), 5)
	p.sees("uncertain")
	p.axe()
	// A point is dragged and nudged; the measures follow.
	n := truth.Frame(first.Contact)
	p.atFrame(n)
	p.MustWait(`() => document.querySelectorAll('svg[aria-label="The picture with its marks"] g').length >= 12`)
	knee := p.MustEval(`() => { const g = [...document.querySelectorAll('svg[aria-label="The picture with its marks"] g')][8], c = g.querySelector('circle:last-of-type'), b = c.getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2, c.getAttribute('fill')] }`).Arr()
	assert.Equal(t, "transparent", knee[2].Str(), "proposed, not looked at")
	was := p.number(section, "Shin at contact", "right")
	p.Mouse.MustMoveTo(knee[0].Num(), knee[1].Num())
	p.Mouse.MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(knee[0].Num()+30, knee[1].Num())
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	p.MustEval(`() => document.activeElement?.blur()`)
	p.MustEval(`() => performance.clearResourceTimings()`)
	for i := range 24 {
		p.press([]input.Key{input.ArrowRight, input.ArrowLeft}[i%2])
		p.rest()
	}
	times := p.MustEval(`() => performance.getEntriesByType('resource').filter(e => e.name.includes('/proposal?')).map(e => e.duration).sort((a, b) => a - b)`).Arr()
	require.Greater(t, len(times), 15)
	at95 := times[len(times)*95/100].Num()
	t.Logf("new readings after a nudge of a proposed point: 95th percentile %.0f ms", at95)
	p.press(input.Escape)
	fill := p.MustEval(`() => [...document.querySelectorAll('svg[aria-label="The picture with its marks"] g')][8].querySelector('circle:last-of-type').getAttribute('fill')`).Str()
	assert.NotEqual(t, "transparent", fill, "put right, solid")
	p.MustElementR("button", "^Undo$").MustClick()
	assert.NotZero(t, was)
	// Heel and toe where they are, in the frames that are asked for.
	p.MustElementR("button", "^Place heel and toe$").MustClick()
	for i := 0; ; i++ {
		require.Less(t, i, 12)
		ask := p.MustWaitText(`() => { const e = [...document.querySelectorAll('[role=status]')].find(e => /click the heel/.test(e.innerText)); return e ? e.innerText + '|' + document.body.innerText.match(/frame (\d+) of/)[1] : [...document.querySelectorAll('button')].some(b => b.innerText === 'Leave it') ? '' : 'done' }`)
		if ask == "done" {
			break
		}
		foot := map[bool]string{true: "left", false: "right"}[strings.Contains(ask, "left")]
		f, err := strconv.Atoi(ask[strings.Index(ask, "|")+1:])
		require.NoError(t, err)
		places := truth.Frames[f-1].Places
		p.clickOn(places[foot+"-sole-heel"])
		p.clickOn(places[foot+"-sole-toe"])
		p.MustWait(`n => !document.body.innerText.includes('frame ' + n + ' of') || ![...document.querySelectorAll('[role=status]')].some(e => /click the heel/.test(e.innerText))`, f)
	}
	p.MustElementR("section[aria-label='Proposed points']", "8 done")
	p.MustWait(`() => [...document.querySelectorAll('section[aria-label="Measures over all steps"] p')].filter(e => /^rear/.test(e.innerText) && /corrected/.test(e.innerText)).length === 2`)
	p.axe()
	// All is right, and into the screening with one confirmation.
	p.MustElementR("button", "^All is right$").MustClick()
	p.sees("looked at")
	p.MustWait(`() => [...document.querySelectorAll('[role=status]')].some(e => e.innerText === 'saved')`)
	p.MustElementR("button", "^All into the screening").MustClick()
	p.MustElementR("button", "^Put them in$").MustClick()
	p.MustWaitElementsMoreThan("section[aria-label='Measures over all steps'] .text-pine", 8)
	p.MustWait(`() => ![...document.querySelectorAll('button')].some(b => b.innerText === 'Put them in')`)
	p.MustElementR("a", "^The screening$").MustClick()
	p.MustElementR("button", "^Run").MustClick()
	p.sees("trial 1: corrected")
	p.sees("trial 1: proposed")
	p.sees("Picture of trial 1")
}

// Without WebGL, without anybody, stopped: a sentence, and marking by hand goes on.
func TestProposingThatCantBeSaysWhy(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.MustElementR("button", "^Propose points$").MustClick()
	p.sees("has no WebGL")
	p.clickOn(sidecam.Spot{X: 300, Y: 200})
	p.MustWait(`() => [...document.querySelectorAll('ol li')][0].innerText.includes('●')`)
}

// Two runners in one picture are refused by name; with a box round one it is one runner.
func TestTwoRunnersInOnePictureAreSaid(t *testing.T) {
	path := filepath.Join(t.TempDir(), "two.webm")
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", "../devices/sidecam/clips/rear.webm", "-i", "../devices/sidecam/clips/fore.webm", "-frames:v", "70",
		"-filter_complex", "[0]crop=320:360:160:0[a];[1]crop=320:360:160:0[b];[a][b]hstack", "-c:v", "libvpx", "-b:v", "2M", path).CombinedOutput()
	require.NoError(t, err, string(out))
	p := openIn(t, glBrowser(), serve(t, true).URL, 1280, 900, 5*time.Minute)
	for _, x := range libraryTalks {
		p.allow(x)
	}
	p.signIn(demo.Email)
	p.goTo(screeningPath("Dario")(p) + "/clips")
	p.MustElement("input[type=file]").MustSetFiles(path)
	p.sees("taken in")
	p.MustElementR("a", "^two.webm$").MustClick()
	p.MustWait(`() => document.querySelector('video')?.readyState >= 2`)
	p.proposes("^Propose points$")
	p.sees("Two people are in the picture, and nothing says which is meant.")
	assert.NotContains(t, p.MustElement("main").MustText(), " spm", "no cadence of nobody in particular")
}

func TestAnEmptyTrackAndAStopChangeNothing(t *testing.T) {
	p, _ := onDeskWithGL(t, "rear")
	p.MustElementR("button", "^Propose points$").MustClick()
	p.MustElementR("[role=status]", "frame [1-9]")
	p.MustElementR("button", "^Stop$").MustClick()
	p.sees("Stopped; nothing was changed.")
	p.MustElementR("a", "All clips").MustClick()
	path := filepath.Join(t.TempDir(), "empty.webm")
	out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "gradients=size=640x360:rate=50:duration=1:c0=0x88aacc:c1=0x995544", "-pix_fmt", "yuv420p", "-c:v", "libvpx", path).CombinedOutput()
	require.NoError(t, err, string(out))
	p.MustElement("input[type=file]").MustSetFiles(path)
	p.sees("taken in")
	p.MustElementR("a", "^empty.webm$").MustClick()
	p.MustWait(`() => document.querySelector('video')?.readyState >= 2`)
	p.MustElementR("button", "^Propose points$").MustClick()
	p.MustElementR("[role=alert]", "Nobody was found in the first 12 frames")
	p.MustElementR("button", "^Propose points$")
}
