package e2e

import (
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"

	"notchback/app/demo"
)

// From a wish to a ramp, a month of check-ins with one flare in it, and the date
// moves with its reason.
func TestAWishARampAMonthAndAFlare(t *testing.T) {
	var ahead atomic.Int64
	base := time.Now()
	noon := time.Date(base.Year(), base.Month(), base.Day(), 15, 0, 0, 0, time.UTC)
	s := serveAt(t, true, func() time.Time { return noon.AddDate(0, 0, int(ahead.Load())) })
	p := s.open(t, 1280, 900)
	p.signIn(demo.Email)
	path := runnerPath("Joonas", "/ramp")(p)
	p.goTo(path)
	p.sees("Begin the ramp")
	p.axe()
	// What if, before anything is saved.
	p.MustElementX(`//label[normalize-space()="at home"]`).MustClick()
	p.sees("2 hours a day at home")
	p.sees("Nothing is saved until it begins.")
	p.MustElementR("button", "^Begin the ramp$").MustClick()
	p.sees("How the date has changed")
	first := p.MustElementX(`//p[contains(., "if nothing goes wrong")]/b`).MustText()
	p.axe()

	// To the first Monday; then day by day one tap, and the morning.
	start := int(time.Monday-noon.Weekday()+7) % 7
	if start == 0 {
		start = 7
	}
	day := func(tap bool, firstSteps string) { // what a coach does on the page
		p.goTo(path)
		p.sees("Today")
		if tap {
			p.MustElementR("section[aria-label='Today on the ramp'] button", "^Done").MustClick()
			p.sees("✓ done")
		}
		p.MustElementX(`//section[@id="day"]//fieldset[legend[contains(., "in general: first steps")]]//label[normalize-space()="` + firstSteps + `"]`).MustClick()
		p.MustWait(`v => [...document.querySelectorAll('#day fieldset')].some(f => f.querySelector('legend').innerText.includes('in general: first steps') && f.querySelector('input:checked')?.closest('label').innerText.trim() === v)`, firstSteps)
		p.MustWaitStable()
		ahead.Add(1)
	}
	ahead.Store(int64(start))
	// The first days by tapping, then the same requests without the page.
	id := strings.Split(path, "/")[2]
	quick := func(pain int) {
		p.MustEval(`async (id, pain) => {
			const ask = async (method, path, body) => {
				const r = await fetch('/api/runners/' + id + path, {method, headers: {'Content-Type': 'application/json'}, body: body && JSON.stringify(body)});
				if (!r.ok) throw new Error(path + ' ' + r.status + ' ' + await r.text());
				return r.json();
			};
			const v = await ask('GET', '/ramp');
			if (v.days.length > 0) await ask('PUT', '/ramp-days', {on: v.today, done: true});
			const d = await ask('GET', '/days/' + v.today);
			await ask('PUT', '/days/' + v.today, {...d.day, readings: [{firstStep: pain}], reason: 'asked again'});
		}`, id, pain)
		ahead.Add(1)
	}
	for range 3 {
		day(true, "1")
	}
	for range 6 {
		quick(1)
	}
	quick(5)
	quick(5)
	day(true, "5") // three bad mornings: a flare
	p.goTo(path)
	p.sees("stopped")
	p.sees("a flare: no exposure until three quiet mornings")
	p.sees("Nothing of the ramp on this day.")
	for range 16 {
		quick(1)
	}
	p.goTo(path)
	p.sees("if nothing goes wrong")
	now := p.MustElementX(`//p[contains(., "if nothing goes wrong")]/b`).MustText()
	assert.NotEqual(t, first, now, "the date moved")
	moves := p.MustElement(`section[aria-label="Dates so far"]`).MustText()
	assert.Contains(t, moves, "→")
	assert.Contains(t, moves, "a flare")
	p.axe()
	// The drawing by keys.
	p.MustElement(`[aria-label="Week on the ramp"]`).MustFocus()
	p.press(input.Home)
	p.MustWait(`() => document.querySelector('[aria-label="Week on the ramp"]').getAttribute('aria-valuetext').startsWith('Week 1')`)
	p.press(input.ArrowRight)
	p.MustWait(`() => document.querySelector('[aria-label="Week on the ramp"]').getAttribute('aria-valuetext').startsWith('Week 2')`)
	// A what-if shows old and new beside each other, and how long it takes.
	p.MustElementX(`//label[contains(., "What if: weeks off")]//input`).MustFocus()
	p.watchAnswers(`section[aria-label="The ramp"]`)
	for i := range 24 {
		k := input.ArrowRight
		if i%6 > 3 {
			k = input.ArrowLeft
		}
		p.press(k)
		p.rest()
	}
	p.answered(15)
	p.sees("If so:")
	p.sees("(now ")
	p.MustElementR("button", "Discard changes").MustClick()
	p.MustElementR("button", "End the ramp").MustClick()
	p.MustElementR("button", "^End it$").MustClick()
	p.sees("Begin the ramp")
}

// Cadence steps of the demo: advice, the beat, a count without it, cues.
func TestCadenceStepsAndCues(t *testing.T) {
	p := serve(t, true).open(t, 1280, 900)
	p.signIn(demo.Email)
	p.goTo(runnerPath("Isolde", "/ramp")(p))
	p.sees("Worth a try")
	p.sees("contacts a kilometre, both feet")
	p.MustElement(`#cadence input[placeholder="41 42 41 41"]`).MustInput("one two")
	p.sees("Whole numbers with spaces between")
	p.MustElement(`#cadence input[placeholder="41 42 41 41"]`).MustSelectAllText().MustInput("42 43 42 43")
	p.MustElementR("#cadence button", "Keep the count").MustClick()
	p.sees("So far:")
	p.MustElementR("#cadence button", "^Beat").MustClick()
	p.MustElementR("#cadence button", "^Stop the beat").MustClick()
	p.MustElementR("#cues button", "Begin today").MustClick()
	p.sees("same place, same speed, same camera")
	p.MustElementR("#cues button", "It took").MustClick()
	p.MustWait(`() => document.querySelector('#cues').innerText.includes('took')`)
	p.axe()
}
