package e2e

import (
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

// onDesk brings the rear-foot clip into Dario's open screening and opens it.
func onDesk(t *testing.T, id string) (*tab, sidecam.Truth) {
	t.Helper()
	d, err := sidecam.Find(id)
	require.NoError(t, err)
	p := serve(t, true).open(t, 1280, 900)
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
		p.atFrame(truth.Frame(e.Contact))
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
	assert.InDelta(t, -truth.Frames[n].Angles["right-shin"], number("Shin at contact"), 1)
	assert.InDelta(t, truth.Frames[n].Angles["right-knee"], number("Knee flexion"), 1.5)
	// A chosen point is nudged by one pixel of the picture; undo takes it back.
	before := number("Shin at contact")
	p.MustElementR("section[aria-label='Marks and measures'] button", "knee").MustClick()
	p.press(input.ArrowRight, input.ArrowRight, input.ArrowRight)
	p.MustWait(`was => { const e = [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith('Shin at contact')); return e && !e.innerText.includes(was) }`, strconv.FormatFloat(before, 'f', 1, 64))
	assert.Greater(t, before, number("Shin at contact"), "the knee further ahead")
	for range 3 {
		p.MustElementR("button", "^undo$").MustClick()
	}
	p.MustWait(`was => { const e = [...document.querySelectorAll('section[aria-label="Marks and measures"] p')].find(e => e.innerText.startsWith('Shin at contact')); return e && e.innerText.includes(was) }`, strconv.FormatFloat(before, 'f', 1, 64))
	// How long a measure takes after a nudge.
	p.watchAnswers(`section[aria-label="Measures"]`)
	for i := range 24 {
		p.press([]input.Key{input.ArrowRight, input.ArrowLeft}[i%2])
		time.Sleep(120 * time.Millisecond)
	}
	p.answeredWithin(15, 50)
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
	p.MustElementR("button", "^surer").MustClick()
	p.sees("film closer")
	p.press(input.Escape)
	p.axe()
	// The picture with its marks, and the readings as a table.
	wait := p.Browser().MustWaitDownload()
	p.MustElementR("button", "picture with its marks").MustClick()
	png := wait()
	assert.Greater(t, len(png), 20_000)
	assert.Equal(t, "\x89PNG", string(png[:4]))
	table := p.MustEval(`async () => await (await fetch(document.querySelector('a[href$="/files/csv"]').href)).text()`).Str()
	assert.Contains(t, table, "Foot strike angle")
	// Into the screening, and it is there after a reload; so are the marks.
	p.MustElement(`button[aria-label="Cadence, both: into the screening"]`).MustClick()
	p.sees("in the screening")
	p.MustWait(`() => document.querySelector('[role=status]').innerText === 'saved'`)
	p.MustReload().MustWaitLoad()
	p.sees("in the screening")
	p.MustWait(`n => document.body.innerText.includes(n + ' steps')`, len(truth.Events))
}

// A clip is deleted with its marks; what is none is refused with what to do.
func TestClipsAreDeletedAndOthersRefused(t *testing.T) {
	p, _ := onDesk(t, "rear")
	p.allow("409")
	p.MustElementR("a", "all clips").MustClick()
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
