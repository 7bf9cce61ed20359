package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
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
	"notchback/formats"
)

// onDesk brings the rear-foot clip into Dario's open screening and opens it.
func onDesk(t *testing.T, id string) (*tab, sidecam.Truth) {
	t.Helper()
	return onDeskIn(t, serve(t, true).open(t, 1280, 900), id)
}

func onDeskIn(t *testing.T, p *tab, id string) (*tab, sidecam.Truth) {
	t.Helper()
	d, err := sidecam.Find(id)
	require.NoError(t, err)
	p.signIn(demo.Email)
	p.goTo(screeningPath("Dario")(p) + "/clips")
	p.sees("No clip yet")
	p.axe()
	p.bringClip(id)
	p.sees("frame 1 of " + strconv.Itoa(d.Film.Frames))
	return p, d.Runner.Truth(d.Film)
}

// bringClip brings a demo clip into the screening on show and opens it.
func (p *tab) bringClip(id string) {
	p.t.Helper()
	file, err := filepath.Abs("../devices/sidecam/clips/" + id + ".webm")
	require.NoError(p.t, err)
	p.MustElement("input[type=file]").MustSetFiles(file)
	p.sees("taken in")
	p.MustElementR("a", id+".webm").MustClick()
	p.MustWait(`() => document.querySelector('video')?.readyState >= 2`)
}

// at steps to a frame by keys.
func (p *tab) atFrame(want int) {
	p.t.Helper()
	p.MustEval(`() => document.activeElement?.blur()`)
	now := p.MustEval(`() => Number(document.body.innerText.match(/frame (\d+) of/)[1]) - 1`).Int()
	for ; now+10 <= want; now += 10 {
		p.press(input.PageDown)
	}
	for ; now < want; now++ {
		p.press(input.ArrowRight)
	}
	for ; now > want; now-- {
		p.press(input.ArrowLeft)
	}
	p.MustWait(`n => document.body.innerText.includes('frame ' + n + ' of')`, want+1)
}

// clickOn clicks a place of the picture, in its own pixels.
func (p *tab) clickOn(s sidecam.Spot) {
	p.t.Helper()
	at := p.MustEval(`(x, y) => { const e = document.querySelector('svg[aria-label="The picture with its marks"]'), b = e.getBoundingClientRect(), v = e.viewBox.baseVal;
		return [b.left + x / v.width * b.width, b.top + y / v.height * b.height] }`, s.X, s.Y).Arr()
	p.Mouse.MustMoveTo(at[0].Num(), at[1].Num())
	p.Mouse.MustClick(proto.InputMouseButtonLeft)
}

// A clip is brought in, stepped and marked by keys and by mouse; the truth comes
// back; a reading goes into the screening.
func TestTheTruthOfAClipComesBackThroughTheDesk(t *testing.T) {
	p, truth := onDesk(t, "rear")
	p.axe()
	key := map[string]map[bool]input.Key{"left": {true: 'q', false: 'a'}, "right": {true: 'w', false: 's'}}
	for _, e := range truth.Events {
		p.atFrame(truth.First(e.Contact))
		p.press(key[e.Foot][true])
		if off := truth.Frame(e.ToeOff); e.ToeOff <= truth.Frames[len(truth.Frames)-1].Time {
			p.atFrame(off)
			p.press(key[e.Foot][false])
		}
	}
	p.MustWait(`n => document.body.innerText.includes(n + ' steps')`, len(truth.Events))
	number := func(label string) float64 {
		v := p.MustEval(`l => [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith(l))?.querySelector('b').innerText`, label).Str()
		n, err := strconv.ParseFloat(strings.TrimRight(strings.Fields(strings.ReplaceAll(v, "°", ""))[0], "°"), 64)
		require.NoError(t, err, "%s: %q", label, v)
		return n
	}
	assert.InDelta(t, truth.Runner.Cadence, number("Cadence"), 1)
	assert.InDelta(t, 1000*truth.Runner.Right.Contact, number("Contact"), 1000/truth.Film.FPS)
	// The first right contact, marked by mouse: shin and trunk within a degree.
	var first sidecam.Event
	for _, e := range truth.Events {
		if e.Foot == "right" {
			first = e
			break
		}
	}
	n := truth.Frame(first.Contact)
	p.atFrame(n)
	for _, place := range []string{"ankle", "knee", "hip", "shoulder", "sole-heel", "sole-toe"} {
		p.clickOn(truth.Frames[n].Places["right-"+place])
		p.MustEval(`() => document.activeElement?.blur()`)
	}
	p.sees("Shin at contact")
	p.MustWait(`() => [...document.querySelectorAll('ol li')].every(l => l.innerText.includes('●'))`)
	p.sees("A foot strike needs the same two points in standing.")
	// Readings follow the points by a moment.
	p.MustWait(`want => { const e = [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith('Shin at contact')); return Math.abs(parseFloat(e?.querySelector('b').innerText) - want) <= 1 }`, -truth.Frames[n].Angles["right-shin"])
	assert.InDelta(t, truth.Frames[n].Angles["right-knee"], number("Knee flexion"), 1.5)
	// A chosen point is nudged by one pixel of the picture; undo takes it back.
	before := number("Shin at contact")
	p.MustElementR("section[aria-label='Marks and measures'] button", "knee").MustClick()
	p.press(input.ArrowRight, input.ArrowRight, input.ArrowRight)
	p.MustWait(`was => { const e = [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith('Shin at contact')); return e && !e.innerText.includes(was) }`, strconv.FormatFloat(before, 'f', 1, 64))
	assert.Greater(t, before, number("Shin at contact"), "the knee further ahead")
	for range 3 {
		p.MustElementR("button", "^Undo$").MustClick()
	}
	p.MustWait(`was => { const e = [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith('Shin at contact')); return e && e.innerText.includes(was) }`, strconv.FormatFloat(before, 'f', 1, 64))
	// How long a measure takes after a nudge.
	p.watchAnswers(`section[aria-label="Measures"]`)
	for i := range 24 {
		p.press([]input.Key{input.ArrowRight, input.ArrowLeft}[i%2])
		p.rest()
	}
	p.answered(15)
	// The sole flat on the ground stands for standing: then there is a foot strike.
	flat := n
	for truth.Frames[flat].Angles["right-foot"] != 0 {
		flat++
	}
	p.MustElementX(`//label[normalize-space()="Standing still"]`).MustClick()
	p.atFrame(flat)
	p.clickOn(truth.Frames[flat].Places["right-sole-heel"])
	p.MustEval(`() => document.activeElement?.blur()`)
	p.clickOn(truth.Frames[flat].Places["right-sole-toe"])
	p.MustElementX(`//label[normalize-space()="Contact"]`).MustClick()
	p.atFrame(n)
	p.sees("Foot strike angle")
	assert.InDelta(t, truth.Frames[n].Angles["right-foot"], number("Foot strike angle"), 3)
	p.sees("unsure")
	p.MustElementR("button", "^Make this more certain").MustClick()
	p.sees("film closer")
	p.press(input.Escape)
	p.axe()
	// The picture with its marks, and the readings as a table.
	wait := p.Browser().MustWaitDownload()
	p.MustElementR("button", "Picture with its marks").MustClick()
	png := wait()
	assert.Greater(t, len(png), 20_000)
	assert.Equal(t, "\x89PNG", string(png[:4]))
	// The marks are kept a moment after the last step; the table is of what is kept.
	require.Eventually(t, func() bool {
		table := p.MustEval(`async () => await (await fetch(document.querySelector('a[href$="/files/csv"]').href)).text()`).Str()
		return strings.Contains(table, "Foot strike angle")
	}, 2*time.Minute, 200*time.Millisecond)
	// Into the screening, and it is there after a reload; so are the marks.
	p.MustElement(`button[aria-label="Cadence, both: into the screening"]`).MustClick()
	p.sees("in the screening")
	require.Eventually(t, func() bool {
		return p.MustEval(`async () => { const id = document.querySelector('a[href*="/screenings/"][href$="/clips"]').href.match(/screenings\/([^/]+)/)[1]; return (await (await fetch('/api/screenings/' + id + '/origins')).json()).items.length === 1 }`).Bool()
	}, 2*time.Minute, 100*time.Millisecond)
	p.MustWait(`() => document.querySelector('[role=status]').innerText === 'saved'`)
	p.MustReload().MustWaitLoad()
	p.sees("in the screening")
	p.MustWait(`n => document.body.innerText.includes(n + ' steps')`, len(truth.Events))
	// The picture stands beside the trial.
	p.MustElementR("a", "^The screening$").MustClick()
	p.MustElementR("button", "^Run").MustClick()
	p.sees("Picture of trial 1")
	kind := p.MustEval(`async () => (await fetch(document.querySelector('a[href$="/picture"]').href)).headers.get('content-type')`).Str()
	assert.Equal(t, "image/png", kind)
}

// writeFile puts a made file where the browser can pick it.
func writeFile(t *testing.T, name string, body []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, body, 0o600))
	return path
}

// A marker file is brought in, mapped on screen, read over all its strides and laid
// beside another one.
func TestAMarkerFileIsMappedAndComparedOnTheDesk(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.MustElementR("a", "All clips").MustClick()
	for _, id := range []string{"rear", "reach"} {
		d, err := sidecam.Find(id)
		require.NoError(t, err)
		d.Film.FPS, d.Film.Frames = 120, 480
		m := d.Markers()
		for i, name := range m.Markers { // a laboratory with names of its own
			m.Markers[i] = "M" + strconv.Itoa(i) + strings.ReplaceAll(strings.ReplaceAll(name, "heel", "h_"), "toe", "t_")
		}
		var b bytes.Buffer
		require.NoError(t, formats.WriteTRC(&b, id, m))
		p.MustElement("input[type=file]").MustSetFiles(writeFile(t, id+".trc", b.Bytes()))
		p.MustElementR("a", id+".trc").MustClick()
		p.sees("Which marker is which")
		if id == "rear" { // mapped once
			p.sees("hip, heel and toe of both sides are needed to find the steps")
			p.axe()
			for _, side := range []string{"left", "right"} {
				for place, of := range map[string]string{"shoulder": "-shoulder", "hip": "-hip", "knee": "-knee", "ankle bone": "-ankle", "heel": "-sole-h_", "base of the little toe": "-sole-t_"} {
					p.MustEval(`(label, of) => { const l = [...document.querySelectorAll('label')].find(l => l.innerText.startsWith(label)), s = l.querySelector('select'), o = [...s.options].find(o => o.value.endsWith(of));
						Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(s, o.value); s.dispatchEvent(new Event('change', {bubbles: true})) }`, place+", "+side, side+of)
				}
			}
		}
		p.sees("Shin at contact")
		p.MustWait(`c => [...document.querySelectorAll('section[aria-label="Measures"] p')].some(e => e.innerText.startsWith('Cadence') && Math.abs(Number(e.querySelector('b').innerText.split(' ')[0]) - c) <= 1)`, d.Runner.Cadence)
		p.MustWait(`() => document.querySelector('[role=status]').innerText === 'saved'`)
		p.axe()
		if id == "rear" {
			p.MustElementR("a", "All clips").MustClick()
		}
	}
	p.MustElementR("a", "Beside another").MustClick()
	p.sees("Choose the second clip")
	p.MustElement("select").MustSelect(p.MustElementR("option", "^rear.trc").MustText())
	p.sees("Shin at contact")
	p.sees("no real change")
	p.axe()
	row := p.MustElementR("tr", "Cadence").MustText()
	assert.Contains(t, row, "changed", row)
}

// Two clips stand side by side at the same event, one set of controls for both, and
// over each other.
func TestTwoClipsStandSideBySide(t *testing.T) {
	p, truth := onDesk(t, "rear")
	mark := func(truth sidecam.Truth) {
		for _, e := range truth.Events {
			p.atFrame(truth.First(e.Contact))
			p.press(map[string]input.Key{"left": 'q', "right": 'w'}[e.Foot])
		}
		p.MustWait(`() => document.querySelector('[role=status]').innerText === 'saved'`)
	}
	mark(truth)
	p.MustElementR("a", "All clips").MustClick()
	p.MustWait(`() => document.querySelector('li img')?.naturalWidth > 100`)
	p.bringClip("reach")
	d, err := sidecam.Find("reach")
	require.NoError(t, err)
	other := d.Runner.Truth(d.Film)
	mark(other)
	p.MustElementR("a", "Beside another").MustClick()
	p.MustElement("select").MustSelect(p.MustElementR("option", "^rear.webm").MustText())
	p.MustWait(`() => [...document.querySelectorAll('video')].length === 2 && [...document.querySelectorAll('video')].every(v => v.readyState >= 2 && !v.seeking)`)
	first := func(t sidecam.Truth, foot string, n int) int {
		for _, e := range t.Events {
			if e.Foot == foot {
				if n == 0 {
					return t.First(e.Contact) + 1
				}
				n--
			}
		}
		return -1
	}
	both := func(n, off int) {
		p.MustWait(`(a, b) => { const f = [...document.querySelectorAll('figcaption')].map(e => Number(e.innerText.match(/frame (\d+)/)?.[1])); return f.includes(a) && f.includes(b) }`, first(truth, "right", n)+off, first(other, "right", n)+off)
	}
	both(0, 0)
	p.axe()
	p.MustEval(`() => document.activeElement?.blur()`)
	p.press(input.PageDown)
	both(1, 0)
	p.press(input.ArrowRight, input.ArrowRight)
	both(1, 2)
	p.press(input.Home)
	both(1, 0)
	p.MustElementX(`//label[normalize-space()="over each other"]`).MustClick()
	p.MustElement("[data-over]")
	p.sees("Cadence")
	p.axe()
}

// What no browser shows is turned on the server, with its progress in sight.
func TestAClipIsTurnedOnTheServer(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.MustElementR("a", "All clips").MustClick()
	path := filepath.Join(t.TempDir(), "tower.avi")
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", "../devices/sidecam/clips/rear.webm", "-vf", "transpose=1,setpts=N/(50*TB)", "-c:v", "mpeg4", "-q:v", "3", path).CombinedOutput()
	require.NoError(t, err, string(out))
	p.MustElement("input[type=file]").MustSetFiles(path)
	p.sees("being turned into what browsers show")
	p.sees("turned into MP4")
	p.MustElementR("a", "^tower.avi$").MustClick()
	p.MustWait(`() => document.querySelector('video')?.readyState >= 2`)
	p.sees("frame 1 of 150")
	assert.True(t, p.MustEval(`() => { const v = document.querySelector('video'); return v.videoHeight > v.videoWidth }`).Bool(), "upright as it was filmed")
	p.atFrame(3)
}

// A frame of a 1080p clip is on screen soon after its key.
func TestTheNextFrameIsOnScreenSoon(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.MustElementR("a", "All clips").MustClick()
	path := filepath.Join(t.TempDir(), "large.mp4")
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", "../devices/sidecam/clips/rear.webm", "-vf", "scale=1920:1080", "-c:v", "libx264", "-preset", "veryfast", "-g", "30", "-pix_fmt", "yuv420p", path).CombinedOutput()
	require.NoError(t, err, string(out))
	p.MustElement("input[type=file]").MustSetFiles(path)
	p.sees("taken in")
	p.MustElementR("a", "^large.mp4$").MustClick()
	p.MustWait(`() => document.querySelector('video')?.readyState >= 2 && !!document.querySelector('[data-shown]')`)
	p.MustEval(`() => { document.activeElement?.blur(); window.shown = []; let from = 0;
		addEventListener('keydown', () => { from = performance.now() }, true);
		new MutationObserver(() => { if (from) { window.shown.push(performance.now() - from); from = 0 } }).observe(document.querySelector('[data-shown]'), {attributes: true, attributeFilter: ['data-shown']}) }`)
	for i := range 60 {
		p.press(map[bool]input.Key{true: input.ArrowRight, false: input.ArrowLeft}[i < 45])
		p.MustWait(`n => window.shown.length >= n`, i+1)
		p.frames(2)
	}
	var ms []float64
	for _, x := range p.MustEval(`() => window.shown`).Arr() {
		ms = append(ms, x.Num())
	}
	slices.Sort(ms)
	at := ms[len(ms)*95/100]
	t.Logf("next frame of a 1080p clip: median %.0f ms, 95th percentile %.0f ms, the slowest (another direction) %.0f ms", ms[len(ms)/2], at, ms[len(ms)-1])
}

// A key held down on a long clip and on a large one: how far behind it the picture is.
func TestAHeldKeyOnLongAndLargeClips(t *testing.T) {
	if os.Getenv("NOTCHBACK_RATIOS") == "" {
		t.Skip("make bench")
	}
	p, _ := onDeskIn(t, openIn(t, browser, serve(t, true).URL, 1280, 900, 20*time.Minute), "rear")
	for _, c := range []struct {
		name string
		args []string
	}{
		{"long", []string{"-stream_loop", "239", "-i", "../devices/sidecam/clips/rear.webm", "-r", "30", "-c:v", "libx264", "-preset", "ultrafast", "-g", "60"}},
		{"large", []string{"-i", "../devices/sidecam/clips/rear.webm", "-vf", "scale=3840:2160", "-c:v", "libx264", "-preset", "ultrafast", "-g", "30"}},
	} {
		path := filepath.Join(t.TempDir(), c.name+".mp4")
		out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error"}, c.args...), "-pix_fmt", "yuv420p", path)...).CombinedOutput()
		require.NoError(t, err, string(out))
		p.MustElementR("a", "All clips").MustClick()
		p.MustElement("input[type=file]").MustSetFiles(path)
		p.MustElementR("a", "^"+c.name+".mp4$").MustClick()
		p.MustWait(`() => document.querySelector('video')?.readyState >= 2 && !!document.querySelector('[data-shown]')`)
		p.MustEval(`() => document.activeElement?.blur()`)
		var late []float64
		const keys = 60
		for range 5 {
			for range keys {
				p.press(input.ArrowRight)
				time.Sleep(33 * time.Millisecond)
			}
			late = append(late, p.MustEval(`async () => { const from = performance.now(); let last = from;
				const seen = new MutationObserver(() => { last = performance.now() }); seen.observe(document.querySelector('[data-shown]'), {attributes: true, attributeFilter: ['data-shown']});
				do { await new Promise(ok => setTimeout(ok, 50)) } while (performance.now() < last + 1500); seen.disconnect(); return last - from }`).Num())
			for range keys / 10 {
				p.press(input.PageUp)
			}
		}
		slices.Sort(late)
		t.Logf("%s clip, a key held for %d frames at 30 a second: the picture is there %.0f ms after the last key, %.0f ms at most", c.name, keys, late[len(late)/2], late[len(late)-1])
	}
}

// A clip is deleted with its marks; what is none is refused with what to do.
func TestClipsAreDeletedAndOthersRefused(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.allow("409")
	p.MustElementR("a", "All clips").MustClick()
	p.sees("150 frames")
	p.MustElement(`button[aria-label="Delete rear.webm"]`).MustClick()
	p.MustElementR("button", "^Delete$").MustClick()
	p.sees("No clip yet")
	file, err := filepath.Abs("desk_test.go")
	require.NoError(t, err)
	p.MustElement("input[type=file]").MustSetFiles(file)
	p.sees("Save it as MP4")
	p.sees("No clip yet")
}
