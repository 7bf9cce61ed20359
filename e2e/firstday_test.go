package e2e

import (
	"strconv"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// firstDayMost is how many presses lead from adding a runner to a printed plan.
const firstDayMost = 12

// A coach who has seen nothing gets from adding a runner to a printed plan by the buttons
// alone; how many presses it takes is counted.
func TestAFirstDayByTheButtonsAlone(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	presses := 0
	press := func(css, text string) {
		t.Helper()
		presses++
		p.MustElementR(css, text).MustClick()
	}
	press("a", "Add a runner")
	p.sees("New runner")
	p.MustElement("form input").MustInput("Wren Castell")
	press("button", "Add the runner")
	p.sees("Three steps to a plan")
	p.sees("8 minutes quick")
	p.axe()
	press("button", "Start the screening")
	p.sees("Before anything else")
	press("label", "quick")
	press("nav[aria-label=Stations] button", "^Bend")
	p.MustElement("#t-knee-to-wall-left-1").MustClick()
	for _, v := range []string{"10.6", "10.9", "11.1", "7.0", "7.2", "7.1"} {
		p.typeIn(v)
		p.press(input.Enter)
	}
	p.sees("more than the smallest real change")
	press("nav[aria-label=Stations] button", "^Findings")
	p.sees("1. Ankle bends too little")
	press("button", "Finish the screening")
	p.sees("Plan the block")
	press("a", "Plan the block")
	p.sees("minutes a week")
	press("button", "Make this block")
	p.sees("Export or share")
	press("button", "Export or share")
	press("a", "Print")
	p.sees("Wren Castell")
	p.MustElementR("button", "^Print")
	presses++ // the print button itself opens the browser's own window
	t.Logf("%d presses from adding a runner to a printed plan", presses)
	assert.LessOrEqual(t, presses, firstDayMost)
}

// The guided start shows its five steps, is dismissed, and comes back when called.
func TestTheGuidedStart(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	assert.False(t, p.MustHas(`section[aria-label="Guided start"]`))
	p.MustElementR("header button", "^Guide$").MustClick()
	p.sees("1 of 5")
	p.axe()
	for n, text := range []string{"2 of 5", "3 of 5", "4 of 5", "5 of 5"} {
		p.MustElementR(`section[aria-label="Guided start"] button`, "^Next$").MustClick()
		p.sees(text)
		p.MustElement(`section[aria-label="Guided start"] a`).MustClick()
		p.MustWait(`() => location.pathname !== '/'`)
		require.True(t, p.MustHas(`section[aria-label="Guided start"]`), "step %d stays where it leads", n+2)
	}
	p.MustElementR("button", "^Dismiss$").MustClick()
	p.MustWait(`() => !document.querySelector('section[aria-label="Guided start"]')`)
	p.MustReload().MustWaitLoad()
	p.MustElement("h1")
	assert.False(t, p.MustHas(`section[aria-label="Guided start"]`))
}

// A bench of three hundred draws what is seen, in every order, and the keys reach its end.
func TestALongBenchScrolls(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	made := p.MustEval(`async () => { let n = 0; for (let i = 0; i < 300; i += 20) n += (await Promise.all(Array.from({ length: 20 }, (_, k) => fetch('/api/runners', { method: 'POST', headers: { 'Content-Type': 'application/json', 'Idempotency-Key': crypto.randomUUID() }, body: JSON.stringify({ name: 'Zz ' + String(i + k).padStart(3, '0'), goal: '', note: '', sex: '' }) })))).filter(r => r.ok).length; return n }`).Int()
	require.Equal(t, 300, made)
	p.MustReload().MustWaitLoad()
	p.sees("sorted by")
	p.MustWait(`() => document.querySelector('main').innerText.includes('wait for tests or a plan')`)
	rows := func() int { return p.MustEval(`() => document.querySelectorAll('[data-row]').length`).Int() }
	p.rest()
	assert.Less(t, rows(), 60, "only what is seen is drawn")
	assert.NotZero(t, rows())
	p.press(input.Key('/'))
	p.MustWait(`() => document.activeElement.id === 'find'`)
	p.press(input.ArrowDown)
	p.MustWait(`() => document.activeElement.dataset.row === '0'`)
	for i := range 40 {
		p.press(input.ArrowDown)
		p.MustWait(`n => document.activeElement.dataset.row === n`, strconv.Itoa(i+1))
	}
	assert.Less(t, rows(), 80)
	p.MustEval(`() => scrollTo(0, document.documentElement.scrollHeight)`)
	p.sees("Zz 299")
	assert.Less(t, rows(), 80)
	p.MustEval(`() => document.activeElement.blur()`)
	p.press(input.Key('s'))
	p.MustEval(`() => scrollTo(0, 0)`)
	p.sees("Agnes")
}

// The window's title says the page, the place and whose it is, and goes with the page.
func TestPageTitles(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	title := func(path, want string) {
		t.Helper()
		p.goTo(path)
		p.MustWait(`want => document.title === want`, want)
	}
	title("/", "Bench · Notchback")
	title(runnerPath("Tomas", "")(p), "Now · Tomas Quill · Notchback")
	title(runnerPath("Tomas", "/journal")(p), "Journal · Tomas Quill · Notchback")
	title(runnerPath("Tomas", "/plan")(p), "Plan a block · Plan · Tomas Quill · Notchback")
	title("/shelf/exercises", "Exercises · Shelf · Notchback")
	title("/practice", "Practice · Notchback")
	// One key each leads through the places, in the order of their labels.
	p.goTo(runnerPath("Tomas", "")(p))
	p.MustWait(`() => !!document.querySelector('nav[aria-label="Places of this runner"] [aria-current=page]')`)
	for i, place := range []string{"Now", "Screenings", "Plan", "Running", "Ramps", "Clips", "Journal", "Profile"} {
		p.MustEval(`() => document.activeElement?.blur()`)
		p.press(input.Key('1' + rune(i)))
		p.MustWait(`n => document.querySelector('nav[aria-label="Places of this runner"] [aria-current=page]')?.innerText.startsWith(n)`, place)
	}
	p.MustNavigateBack()
	p.MustWait(`() => document.querySelector('nav[aria-label="Places of this runner"] [aria-current=page]')?.innerText.startsWith('Journal')`)
}
