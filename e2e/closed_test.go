package e2e

import (
	"strings"
	"testing"
	"time"

	"notchback/app/demo"
)

// Pain of 9 is reported in the middle of a block: the list of today, the bench, the
// sheet, the PDF and the calendar follow at once. A yes to an emergency leaves the one
// page everywhere.
func TestPainOfNineReachesEverybody(t *testing.T) {
	now := time.Now()
	at := time.Date(now.Year(), now.Month(), now.Day(), 9, 0, 0, 0, time.UTC)
	p := serveAt(t, true, func() time.Time { return at }).open(t, 1280, 900)
	p.signIn(demo.Email)
	path := runnerPath("Isolde", "")(p)
	p.goTo(path + "/block")
	p.sees("Calf, straight knee")
	p.MustWait(`() => !document.querySelector('section[aria-label="Not done now"]')`)
	id := p.MustEval(`async path => (await (await fetch('/api' + path + '/block')).json()).block.id`, path).Str()
	file := func(kind string) string {
		return p.MustEval(`async (id, kind) => { const r = await fetch('/api/blocks/' + id + '/files/' + kind); return r.status + (await r.text()).replaceAll('\r\n ', '') }`, id, kind).Str()
	}
	if !strings.Contains(file("ics"), "straight knee: ") {
		t.Fatal("the calendar has the calf before")
	}

	p.goTo(path + "/log")
	p.sees("the morning and the day")
	p.MustElement(`section#day select`).MustSelect("calf, left")
	place := p.MustElementX(`//section[@id="day"]//fieldset[.//button[normalize-space()="Keep the place"]]`)
	place.MustElementX(`.//fieldset[contains(., "First steps today")]//label[normalize-space()="9"]`).MustClick()
	p.axe()
	place.MustElementR("button", "Keep the place").MustClick()
	p.sees("safety questions are open")
	p.sees("Pain of 8 or more, or of 5 or more at rest")

	p.goTo(path + "/block")
	p.sees("Not done now")
	p.sees("No running")
	p.axe()
	p.goTo("/")
	p.sees("A clinician looks first")
	p.sees("Ask the safety questions: calf, left")
	p.goTo(path + "/print")
	p.sees("Not now: ")
	p.MustWait(`() => ![...document.querySelectorAll('article li b')].some(b => b.innerText.startsWith('Calf, straight knee'))`)
	p.axe()
	if strings.Contains(ahead(file("ics"), at), "\\nCalf\\, straight knee: ") || !strings.Contains(file("pdf"), "200%PDF") {
		t.Fatal("the calendar still asks the calf, or there is no PDF")
	}

	p.goTo(path + "/log")
	p.MustElementX(`//form[@aria-label="Safety questions"]//label[contains(., "Calf or leg newly swollen")]/input`).MustClick()
	p.MustElementR("button", "Keep the answers").MustClick()
	p.sees("Get care now")
	p.goTo(path + "/block")
	p.sees("Call 112")
	p.axe()
	p.goTo(path + "/print")
	p.sees("Print the page")
	p.MustWait(`() => document.querySelectorAll('article').length === 0`)
	if cal := file("ics"); !strings.Contains(cal, "Get care now") || !strings.Contains(cal, "CANCELLED") {
		t.Fatal("the calendar does not say get care now")
	}
	p.goTo("/")
	p.sees("Get care now")
}

// ahead are the events of a calendar from a day on.
func ahead(calendar string, from time.Time) string {
	out := ""
	for _, ev := range strings.Split(calendar, "BEGIN:VEVENT")[1:] {
		_, rest, _ := strings.Cut(ev, "DTSTART")
		if i := strings.Index(rest, ":"); rest[i+1:i+9] >= from.Format("20060102") {
			out += ev
		}
	}
	return out
}

// What the sheets say of the practice is typed once.
func TestThePracticeSaysWhomToCall(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	p.goTo("/practice")
	number := p.MustElementX(`//label[contains(., "Emergency number")]//input | //input[@id=//label[contains(., "Emergency number")]/@for]`)
	number.MustSelectAllText().MustInput("555 911")
	p.axe()
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("Saved.")
	p.goTo(runnerPath("Isolde", "/print")(p))
	p.sees("Get care now: call 555 911")
}
