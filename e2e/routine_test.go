package e2e

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A routine from the shelf: read whole, fitted to a runner and given with the days it
// stands on; done on the phone without a network, with its timers; and with the coach
// as one session when the line is back.
func TestARoutineFromTheShelfToThePhone(t *testing.T) {
	s := serve(t, true)
	coach := s.open(t, 1280, 800)
	coach.signIn("maren@harriers.example")
	coach.goTo("/shelf/routines")
	coach.sees("Quiet sole")
	coach.axe()
	coach.MustElementR("a", "Quiet sole").MustClick()
	coach.sees("The other side is the rest")
	coach.axe()
	coach.taps("Give it to a runner")
	coach.MustElementR("a", "Oskar").MustClick()
	coach.sees("For Oskar")
	coach.sees("Rest on a soft ball")
	coach.axe()
	today := time.Now().UTC().Format("Monday")
	coach.MustElement(`form[aria-label="Give a routine"] input[aria-label="` + today + `"], form[aria-label="Give a routine"] label`)
	coach.MustEval(`day => {
		const form = document.querySelector('form[aria-label="Give a routine"]')
		const box = [...form.querySelectorAll('input[type=checkbox]')].find(x => (x.ariaLabel || x.closest('label')?.innerText || '').startsWith(day.slice(0, 3)))
		box.click()
	}`, today)
	coach.MustWait(`() => /No rule is broken|Do it anyway/.test(document.body.innerText)`)
	if coach.MustHasR("label", "Do it anyway") {
		coach.MustElement(`form[aria-label="Give a routine"] input[name="reason"]`).MustInput("it is for the heel")
		coach.taps("^Insist$")
	} else {
		coach.taps("^Give it$")
	}
	coach.MustWait(`() => !!document.querySelector('article[aria-label="Quiet sole"]')`)
	coach.axe()

	p := s.open(t, 390, 844)
	p.allow(offlineTalk...)
	p.letIn(s, "Oskar")
	p.lies()
	p.line(s, false)
	p.MustReload().MustWaitLoad()
	p.sees("Quiet sole")
	p.axe()
	p.MustEval(`() => {
		const first = [...document.querySelectorAll('button')].find(b => /^Do this one first/.test(b.innerText) && b.parentElement.innerText.startsWith('Quiet sole'))
		if (first) first.click()
		else [...document.querySelectorAll('button')].find(b => /^Start: quiet sole/.test(b.innerText)).click()
	}`)
	p.sees("I am set up")
	p.axe()
	for range 60 {
		p.MustWait(`() => [...document.querySelectorAll('button')].some(b => /I am set up|Set done|Pain in|^Next$|^Go on|Tell my coach/.test(b.ariaLabel || b.innerText))`)
		switch {
		case p.MustHasR("button", "Tell my coach"):
			p.sees("Ten steps: against before?")
			p.axe()
			p.taps("^better$")
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
	act, id := s.coach(t, "Oskar")
	b, err := s.house.CurrentBlock(ctx, act, id)
	require.NoError(t, err)
	before, err := s.house.LoggedSessions(ctx, act, b.ID)
	require.NoError(t, err)
	p.line(s, true)
	p.MustEval(`() => { dispatchEvent(new Event('online')) }`)
	p.sees("with your coach")
	after, err := s.house.LoggedSessions(ctx, act, b.ID)
	require.NoError(t, err)
	require.Len(t, after, len(before)+1)
	assert.Equal(t, "Quiet sole", after[0].Name)
	assert.Equal(t, "better", after[0].Litmus)

	coach.goTo("/runners/" + id + "/log")
	coach.sees("Which session")
	coach.sees("after it better")
	coach.axe()
	// Copied and changed, it is the practice's own.
	coach.goTo("/shelf/routines/new?from=quiet-sole")
	coach.sees("Copy of a routine")
	coach.axe()
	coach.taps("^Save$")
	coach.sees("Quiet sole, ours")
}
