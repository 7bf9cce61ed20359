package e2e

import (
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/stretchr/testify/assert"

	"notchback/app/demo"
)

// The owner reads who looked at what; nobody else is led there, or gets it.
func TestTheOwnerSeesWhoLooked(t *testing.T) {
	s := serve(t, true)
	guest := s.open(t, 1280, 800)
	guest.signIn(demo.ViewerEmail)
	guest.MustElementR("a", "Bera Holm").MustClick()
	guest.sees("Bera Holm")
	p := s.open(t, 1280, 800)
	p.signIn(demo.Email)
	p.MustElementR("nav a", "Practice").MustClick()
	p.MustElementR("a", "^Who looked$").MustClick()
	p.MustElementR("h1", "Who looked")
	p.MustElementR("td", "Guest of the club")
	p.sees("Sign in")
	p.axe()
	p.MustElementR("td a", "Bera Holm").MustClick()
	p.sees("Show everybody")
	assert.NotContains(t, p.MustElement("tbody").MustText(), "Sign in", "of one runner")
	guest.allow("403")
	guest.goTo("/practice/access")
	guest.sees("your role can't do this")
}

// A day on two screens: what one tells stays when the other, older one is used.
func TestTwoScreensAtADay(t *testing.T) {
	s := serve(t, true)
	one, two := s.open(t, 1280, 800), s.open(t, 1280, 800)
	two.allow("422")
	one.signIn(demo.Email)
	two.signIn(demo.Email)
	one.MustElementR("a", "Isolde Varga")
	runner := one.MustEval(`() => [...document.querySelectorAll('a')].find(a => a.innerText.includes('Isolde Varga')).getAttribute('href').split('/')[2]`).Str()
	stands := func(want string) {
		t.Helper()
		err := one.Timeout(20 * time.Second).Wait(rod.Eval(`async (runner, want) => {
			const on = document.querySelector('input[type=date]').value;
			const d = (await (await fetch('/api/runners/' + runner + '/days/' + on)).json()).day;
			return (d.illness ?? '') + ' ' + (d.poorSleep ?? false) === want }`, runner, want).ByPromise())
		if err != nil {
			one.fail("the day never stood at " + want)
		}
	}
	for _, p := range []*tab{one, two} {
		p.goTo("/runners/" + runner + "/log#day")
		p.sees("fever, chest or whole body")
	}
	one.MustElementR("#day label", "fever, chest or whole body").MustClick()
	stands("fever false")
	two.MustElementR("#day label", "without fever").MustClick() // what it shows is older than the fever
	two.sees("another screen changed this")
	stands("fever false")
	two.MustElementR("#day label", "^poor$").MustClick()
	stands("fever true")
}
