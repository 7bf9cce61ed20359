package e2e

import (
	"encoding/base64"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// chips are the sessions of a kind that can be moved, as day and middle point.
func (p *tab) chip(kind string, nth int) (day string, x, y float64) {
	got := p.MustEval(`(kind, n) => {
		const c = [...document.querySelectorAll('[id^="chip-' + kind + '-"]')].filter(c => c.getAttribute('aria-label').includes('m moves it'))[n];
		c.scrollIntoView({block: 'center'});
		const b = c.getBoundingClientRect();
		return [c.id.slice(('chip-' + kind + '-').length), b.x + b.width / 2, b.y + b.height / 2] }`, kind, nth).Arr()
	return got[0].Str(), got[1].Num(), got[2].Num()
}

func (p *tab) cell(day string) (x, y float64) {
	got := p.MustEval(`d => { const b = document.querySelector('[data-day="' + d + '"]').getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height - 6] }`, day).Arr()
	return got[0].Num(), got[1].Num()
}

func after(day string, days int) string {
	d, err := time.Parse(time.DateOnly, day)
	if err != nil {
		panic(err)
	}
	return d.AddDate(0, 0, days).Format(time.DateOnly)
}

func (p *tab) mainOn(day string) bool {
	return p.MustEval(`d => !!document.getElementById('chip-main-' + d)`, day).Bool()
}

// A main session is carried by the mouse, by touch and by keys; what it would
// break is said while it is in the hand, and the coach may insist with a reason.
func TestASessionIsCarriedToAnotherDay(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 1280, 1500)
	p.signIn(demo.Email)
	path := runnerPath("Isolde", "/block")(p)
	p.goTo(path)
	p.MustElementR("h2", "Weeks")

	// Mouse: to the Friday between two main days, which breaks the rest between.
	from, x, y := p.chip("main", 1)
	to := after(from, 1)
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	tx, ty := p.cell(to)
	require.NoError(t, p.Mouse.MoveLinear(proto.NewPoint(tx, ty), 8))
	p.MustWait(`() => /need|needs|stay|day|rule|minutes/.test(document.querySelector('section[aria-label=Weeks] [role=status]').innerText)`)
	said := p.MustEval(`() => document.querySelector('section[aria-label=Weeks] [role=status]').innerText`).Str()
	require.NotContains(t, said, "picked up")
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	p.MustElement(`form[aria-label="Move a session"]`)
	p.MustWait(`() => document.querySelector('form[aria-label="Move a session"] [role=status]').innerText.length > 0`) // what it breaks is known
	p.axe()
	insist := p.MustHas(`form[aria-label="Move a session"] input:not([type=checkbox])`)
	if insist {
		p.MustElement(`form[aria-label="Move a session"] input:not([type=checkbox])`).MustInput("the hall is free then")
		p.MustElementR("button", "Insist").MustClick()
	} else {
		p.MustElementR("button", "Move it").MustClick()
	}
	p.MustWait(`d => !!document.getElementById('chip-main-' + d)`, to)
	assert.False(t, p.mainOn(from))
	p.sees("Changed by hand")

	// Keys: pick it up, carry it back, look, put it down.
	p.MustEval(`d => document.getElementById('chip-main-' + d).focus()`, to)
	p.press(input.Key('m'))
	p.sees("picked up")
	p.press(input.ArrowLeft)
	p.MustWait(`() => document.querySelector('section[aria-label=Weeks] [role=status]').innerText.includes('no rule is broken') || document.querySelector('section[aria-label=Weeks] [role=status]').innerText.includes('minutes')`)
	p.press(input.Enter)
	p.MustElement(`form[aria-label="Move a session"]`)
	p.MustWait(`() => document.querySelector('form[aria-label="Move a session"] [role=status]').innerText.length > 0`) // what it breaks is known
	if p.MustHas(`form[aria-label="Move a session"] input:not([type=checkbox])`) {                                     // a routine may fill that day by now
		p.MustElement(`form[aria-label="Move a session"] input:not([type=checkbox])`).MustInput("back where it stood")
		p.tabTo("Insist")
	} else {
		p.MustWait(`() => document.activeElement.innerText === 'Move it'`)
	}
	p.press(input.Enter)
	p.MustWait(`d => !!document.getElementById('chip-main-' + d)`, from)
	// Escape leaves everything as it was.
	p.MustEval(`d => document.getElementById('chip-main-' + d).focus()`, from)
	p.press(input.Key('m'), input.ArrowRight, input.Escape)
	p.MustWait(`d => document.activeElement.id === 'chip-main-' + d`, from)

	// Without dragging at all: the day's own list of days.
	q := s.open(t, 390, 844)
	require.NoError(t, proto.EmulationSetTouchEmulationEnabled{Enabled: true}.Call(q))
	q.signIn(demo.Email)
	q.goTo(path)
	q.MustElementR("h2", "Weeks")
	day, cx, cy := q.chip("main", 2)
	goal := after(day, 1)
	gx, gy := q.cell(goal)
	if gx > 380 { // the next day is scrolled out on a phone; the one before is not
		goal = after(day, -1)
		gx, gy = q.cell(goal)
	}
	q.Touch.MustStart(&proto.InputTouchPoint{X: cx, Y: cy})
	q.sees("picked up") // held long enough
	for i := 1; i <= 6; i++ {
		f := float64(i) / 6
		q.Touch.MustMove(&proto.InputTouchPoint{X: cx + (gx-cx)*f, Y: cy + (gy-cy)*f})
		q.frames(2)
	}
	q.rest()
	q.Touch.MustEnd()
	q.MustElement(`form[aria-label="Move a session"]`)
	q.MustWait(`() => document.querySelector('form[aria-label="Move a session"] [role=status]').innerText.length > 0`)
	q.rest()
	q.MustElementR("button", "Leave it").MustTap()
	q.MustWait(`() => !document.querySelector('form[aria-label="Move a session"]')`)
	assert.True(t, q.mainOn(day))
}

// The plan answers each wish at once, and says what changes; nothing is stored
// before the coach keeps it.
func TestWhatIfAnswersEveryKey(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	p.goTo(runnerPath("Bera", "/plan")(p))
	p.sees("minutes a week")
	p.axe()
	slider := func(label string) string { return `//label[contains(., "` + label + `")]//input` }
	p.MustElementX(slider("Main sessions"))
	p.watchAnswers(`section[aria-label="The plan"]`)
	p.MustElementX(slider("Running a week")).MustFocus()
	for i := range 30 {
		k := input.ArrowRight
		if i%10 > 6 {
			k = input.ArrowLeft
		}
		p.press(k)
		p.rest()
	}
	p.MustElementX(slider("Length of the block")).MustFocus()
	for i := range 12 {
		k := input.ArrowRight
		if i%4 > 1 {
			k = input.ArrowLeft
		}
		p.press(k)
		p.rest()
	}
	p.answered(15)
	p.sees("What changes")

	// No time at all: ways out are offered, the cheapest is taken with one press.
	p.MustEval(`() => { for (const e of document.querySelectorAll('[aria-label$="free minutes"]')) { Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, '6'); e.dispatchEvent(new Event('input', {bubbles: true})) } }`)
	p.sees("This does not fit the week")
	p.sees("How to make it fit")
	assert.True(t, p.MustElementR("button", "Make this block").MustProperty("disabled").Bool())
	p.axe()
	p.MustElement(`section[aria-label="The plan"] ul button`).MustClick()
	p.sees("minutes a week")
	p.MustElementR("button", "Discard changes").MustClick()
	p.MustWait(`() => !document.body.innerText.includes('What changes')`)
}

// Findings, plan, block, edit, leave out, add, compare, print, files, calendar.
func TestAPlanFromTheFindingsToThePaper(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 1280, 800)
	p.allow("422")
	p.signIn(demo.Email)
	p.goTo(runnerPath("Sunniva", "")(p))
	p.MustElementR("a", "Plan the block").MustClick()
	p.sees("minutes a week")
	p.MustElementR("a", "Compare schools").MustClick()
	p.sees("What differs")
	p.axe()
	p.MustElementR("a", "Back to the plan").MustClick()
	p.MustElementR("button", "Make this block").MustClick()
	p.sees("Log a session")
	ladder := p.MustElement(`section[aria-label=Ladders] article`).MustAttribute("aria-label")
	p.MustElement(fmt.Sprintf(`button[aria-label="edit: %s"]`, *ladder)).MustClick()
	p.MustElementX(`//form//label[normalize-space()="leave out"]`).MustClick()
	p.sees("it is offered again after four weeks")
	p.MustElementX(`//label[contains(., "Why it is left out")]/following-sibling::input`).MustInput("no room for it at the club")
	p.MustElementR("button", "^Leave it out$").MustClick()
	p.sees(*ladder + " left out")
	p.MustElementR("button", "Add a ladder").MustClick()
	p.MustElement(`form[aria-label="Add a ladder"] select`).MustSelect("Bridge")
	p.sees("starts in week")
	p.MustElementR("form button", "^(Add it|Insist)$").MustClick()
	p.sees("Bridge added")
	p.axe()

	p.MustElementR("button", "Export or share").MustClick()
	p.sees("Calendar address")
	p.axe()
	for _, kind := range []string{"pdf", "ics", "csv"} {
		n := p.MustEval(`async k => (await (await fetch(document.querySelector('a[href$="/files/' + k + '"]').href)).arrayBuffer()).byteLength`, kind).Int()
		assert.Greater(t, n, 800, kind)
	}
	p.MustElementR("button", "Make an address").MustClick()
	feed := p.MustElement(`input[readonly]`).MustProperty("value").Str()
	res, err := http.Get(feed) // as a calendar program would, without a session
	require.NoError(t, err)
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 200, res.StatusCode)
	assert.Contains(t, string(body), "BEGIN:VEVENT")
	p.MustElement(`select[aria-label="Runner who gets this block"]`).MustSelect("Joonas Merrow")
	p.sees("it replaces that runner's block")
	p.MustElementR("a", "^Print$").MustClick()
	p.MustElementR("button", "Print \\d+ weeks")
	p.sees("A missed day is not made up by doubling")
	p.axe()
	pdf, err := p.PDF(&proto.PagePrintToPDF{PrintBackground: true, PreferCSSPageSize: true})
	require.NoError(t, err)
	raw, err := io.ReadAll(pdf)
	require.NoError(t, err)
	weeks := p.MustEval(`() => document.querySelectorAll('article').length`).Int()
	pages := strings.Count(string(raw), "/Type /Page\n")
	assert.GreaterOrEqual(t, pages, weeks, "each week begins a page")
	assert.LessOrEqual(t, pages, 2*weeks, "a full week runs on to a second page, never a third")
}

// The shelf: search and filter, an own exercise on an own ladder, retired again.
func TestTheShelf(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.allow("422")
	p.signIn(demo.Email)
	p.MustElementR("nav a", "Shelf").MustClick()
	p.MustElementR("h2", "Calm and release")
	all := len(p.MustElements("article"))
	p.MustElement("input[type=search]").MustInput("calf")
	p.MustWait(`n => document.querySelectorAll('article').length < n`, all)
	p.MustElement("input[type=search]").MustSelectAllText().MustInput("zzz")
	p.sees("Nothing on the shelf fits")
	p.MustElementR("button", "Show everything").MustClick()
	p.MustWait(`n => document.querySelectorAll('article').length === n`, all)
	p.MustElementX(`//label[contains(., "Gate")]/select`).MustSelect("hop")
	p.MustElementR("h3", "Pogo")
	p.axe()

	p.goTo("/shelf/exercises/new")
	p.MustElementR("h1", "Own exercise")
	p.axe()
	fill := func(label, text string) {
		p.MustElementX(`//label[starts-with(normalize-space(), "` + label + `")]/following-sibling::*[self::input or self::textarea]`).MustInput(text)
	}
	fill("Name", "Tide-line walk")
	fill("Short name", "tide line")
	fill("Set-up", "Walk barefoot along firm wet sand.")
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("one to three cues are needed")
	fill("Cues", "Long toes")
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("Tide-line walk")
	p.goTo("/shelf/ladders/new")
	fill("Name", "Tide line")
	p.MustElement(`[aria-label="Notch 1, exercise"]`).MustSelect("Tide-line walk")
	p.MustElement(`[aria-label="Notch 1, dose"]`).MustSelectAllText().MustInput("a while")
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("want sets x reps")
	p.axe()
	p.MustElement(`[aria-label="Notch 1, dose"]`).MustSelectAllText().MustInput("5 min")
	p.MustElementR("button", "Add a notch").MustClick()
	p.MustElement(`[aria-label="Notch 2, dose"]`).MustSelectAllText().MustInput("10 min")
	p.MustElementR("button", "^Save$").MustClick()
	p.MustElement(`article[aria-label="Tide line"]`)
	p.MustElement(`[aria-label="retire: Tide line"]`).MustClick()
	p.MustElement(`[aria-label="bring back: Tide line"]`)

	p.goTo("/shelf/schools")
	p.MustElementX(`//fieldset[contains(., "Barefoot?")]//label[normalize-space()="shoes stay"]`).MustClick()
	p.sees("1 of")
	p.axe()
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("Saved.")
}

// A runner taken along as a bundle comes in again; a broken file says where.
func TestARunnerIsTakenAlongAndBroughtBack(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.allow("422", "400", "409")
	p.signIn(demo.Email)
	p.goTo(runnerPath("Oskar", "/edit")(p))
	p.MustElementR("a", "Export this runner")
	packed := p.MustEval(`async () => {
		const b = new Uint8Array(await (await fetch(document.querySelector('a[href$="/pack"]').href)).arrayBuffer())
		let s = ''
		for (let i = 0; i < b.length; i += 32768) s += String.fromCharCode(...b.subarray(i, i + 32768))
		return btoa(s)
	}`).Str()
	pack, err := base64.StdEncoding.DecodeString(packed)
	require.NoError(t, err)
	raw := p.MustEval(`async () => await (await fetch(document.querySelector('a[href$="/pack"]').href.replace('/pack', '/bundle'))).text()`).Str()
	dir := t.TempDir()
	good, bad := filepath.Join(dir, "oskar.json"), filepath.Join(dir, "newer.json")
	require.NoError(t, os.WriteFile(good, []byte(raw), 0o600))
	newer := regexp.MustCompile(`("format":"[^"]*","version":)\d+`).ReplaceAllString(raw, "${1}99")
	require.NotEqual(t, raw, newer)
	require.NoError(t, os.WriteFile(bad, []byte(newer), 0o600))
	p.goTo("/")
	p.MustElement("input[type=file]").MustSetFiles(bad)
	p.sees("bring the program up to date")
	p.MustElement("input[type=file]").MustSetFiles(good)
	p.MustElementR("h1", "Oskar Dahlin")
	p.sees("Ladders")
	p.MustElementR("nav a", "Profile").MustClick()
	p.sees("from Morrow Island Harriers as the file says")
	p.MustElementR("nav a", "Screenings").MustClick()
	p.sees("imported")
	twice := func(n int) {
		t.Helper()
		p.goTo("/")
		p.MustWait(`n => [...document.querySelectorAll('[data-row]')].filter(r => r.innerText.includes('Oskar Dahlin')).length === n`, n)
	}
	twice(2)
	// The same as a pack: it is known again, and comes once more only when asked.
	zipped := filepath.Join(dir, "oskar.zip")
	require.NoError(t, os.WriteFile(zipped, pack, 0o600))
	p.MustElement("input[type=file]").MustSetFiles(zipped)
	p.sees("this very bundle came in on")
	p.axe()
	p.MustElementR("button", "Bring it in again").MustClick()
	p.MustElementR("h1", "Oskar Dahlin")
	twice(3)
}
