package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/devices"
)

// A mixed folder: FIT, TCX and GPX from the stand-in for a watch, one of them
// twice, a damaged one and a table. Each says what became of it; the table's
// columns are mapped once; effort and pain are added in the quick table.
func TestAFolderOfRunsComesIn(t *testing.T) {
	p := serve(t, true).open(t, 1280, 900)
	p.allow("422")
	p.signIn(demo.Email)
	dir := t.TempDir()
	names, err := devices.Drop(dir, devices.Outings(time.Now().AddDate(0, 0, -3), 3, 24, 5))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(names), 6)
	first, err := os.ReadFile(filepath.Join(dir, names[0]))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "again"+filepath.Ext(names[0])), first, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "cut.fit"), first[:20], 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "old.csv"), []byte("When;How far;How long\n"+time.Now().AddDate(0, 0, -40).Format("02/01/2006")+";9,5;58:20\n"), 0o600))
	p.goTo(runnerPath("Kit", "/runs")(p))
	p.sees("No run is known; bring some in or type them.")
	p.axe()
	all, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	p.MustElement(`input[aria-label="Choose files"]`).MustSetFiles(all...)
	p.sees("the FIT file is damaged")
	p.sees("nothing of it was taken in")
	p.sees("Which column is what?")
	for name, option := range map[string]string{"Distance": "How far", "Duration": "How long"} {
		p.MustEval(`(n, o) => { const s = [...document.querySelectorAll('form[aria-label="Map the columns"] label')].find(l => l.innerText.startsWith(n)).querySelector('select');
			const v = [...s.options].find(x => x.text.startsWith(o)).value; Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(s, v); s.dispatchEvent(new Event('change', {bubbles: true})) }`, name, option)
	}
	p.axe()
	p.MustElementR("button", "Look at them").MustClick()
	p.sees("Before it counts")
	p.MustWait(`n => document.querySelectorAll('section[aria-label="Before it counts"] > ul > li').length === n`, len(all)-1)
	p.sees("This week")
	// The table's run is left out by hand; the file that is there twice counts once.
	p.MustEval(`() => [...document.querySelectorAll('section[aria-label="Before it counts"] li')].find(l => l.innerText.includes('old.csv')).querySelector('input[aria-label$="left out"]').click()`)
	p.sees("1 left out")
	p.axe()
	p.MustElementR("button", "Take them in").MustClick()
	p.sees(fmt.Sprintf("%d runs taken in", len(names)))
	p.MustWait(`n => document.querySelectorAll('section[aria-label="Runs"] tbody tr').length >= Math.min(12, n)`, len(names))
	p.MustElementR("summary", "What came in lately").MustClick()
	p.MustElementR("button", "Take back").MustClick()
	p.sees("No run yet")
	p.MustElement(`input[aria-label="Choose files"]`).MustSetFiles(all...)
	p.sees("Before it counts")
	p.MustWait(`n => document.querySelectorAll('section[aria-label="Before it counts"] > ul > li').length === n`, len(all)-1)
	p.MustElementR("button", "Take them in").MustClick()
	p.MustWait(`n => document.querySelectorAll('section[aria-label="Runs"] tbody tr').length >= Math.min(12, n)`, len(names)+1)
	p.sees("contacts")
	p.MustElement(`section[aria-label="Runs"] select[aria-label$="effort"]`).MustSelect("4")
	p.MustElement(`section[aria-label="Runs"] select[aria-label$="pain"]`).MustSelect("6")
	p.sees("No running; then back by small steps of run and walk.")
	p.MustElementX(`//label[contains(., "Planned next week")]/following-sibling::input`).MustSelectAllText().MustInput("95")
	p.MustElementR("button", "^Plan$").MustClick()
	p.sees("95\u00a0km next week would be a jump")
	// The time axis by keyboard.
	p.MustElement(`[aria-label="Day on the time axis"]`).MustFocus()
	for range 4 {
		p.press(input.ArrowLeft)
	}
	p.MustWait(`() => document.querySelector('[aria-label="Day on the time axis"]').getAttribute('aria-valuetext').includes('km')`)
	p.axe()
}

// What is not plainly a run is asked before it counts: a ride stays out, a walk is kept
// as one, what nobody named waits for the coach, and the answer holds for its source.
func TestWhatIsNotPlainlyARunIsAsked(t *testing.T) {
	p := serve(t, true).open(t, 1280, 900)
	p.allow("422")
	p.signIn(demo.Email)
	p.goTo(runnerPath("Kit", "/runs")(p))
	p.sees("No run yet")
	dir := t.TempDir()
	var files []string
	for i, name := range []string{"no type.gpx", "ride.fit", "hike.fit", "intervals.fit", "three sports.fit", "course.fit"} {
		o := devices.Outing{Start: time.Now().AddDate(0, 0, -2-i).Truncate(time.Second), Metres: 7000, PaceSecond: 350, Cadence: 168}
		for _, d := range devices.Dialects(o, 4) {
			if d.Name == name {
				files = append(files, filepath.Join(dir, name))
				require.NoError(t, os.WriteFile(files[len(files)-1], d.Data, 0o600))
			}
		}
	}
	require.Len(t, files, 6)
	p.MustElement(`input[aria-label="Choose files"]`).MustSetFiles(files...)
	p.sees("this is a course to follow, not a run")
	p.sees("2 runs come in, 1 kept as a walk, 3 left out, 1 waits for your answer.")
	p.sees("What was it?")
	p.sees("said to be cycling")
	p.axe()
	p.MustElement(`section[aria-label="Before it counts"] li input[aria-label$=": run"]`).MustClick()
	p.sees("3 runs come in, 1 kept as a walk, 3 left out.")
	p.MustElementR("button", "Take them in").MustClick()
	p.sees("3 runs taken in, 1 kept as a walk.")
	p.sees("walk, counts in nothing")
	p.MustElementR("summary", "8 laps").MustClick()
	p.sees("0.88 km, 5:06")
	p.axe()
	o := devices.Outing{Start: time.Now().AddDate(0, 0, -9).Truncate(time.Second), Metres: 6000, PaceSecond: 350, Cadence: 168}
	for _, d := range devices.Dialects(o, 4) {
		if d.Name == "no type.gpx" {
			require.NoError(t, os.WriteFile(files[0], d.Data, 0o600))
		}
	}
	p.MustElement(`input[aria-label="Choose files"]`).MustSetFiles(files[0])
	p.sees("1 run comes in.")
}

// every row of pain in the log says v, the row for all of them first
const pains = `v => document.querySelector('form fieldset input:checked')?.closest('label').innerText.trim() === v && [...document.querySelectorAll('form fieldset input:checked')].filter(i => i.closest('label').innerText.trim() === v).length > 6`

// A session and a week of mornings typed by keys, then the review by keys alone: a
// takes what is proposed and goes on to the next runner.
func TestAWeekAndItsReviewByKeyboard(t *testing.T) {
	p := serve(t, true).open(t, 1280, 900)
	p.allow("409")
	p.signIn(demo.Email)
	p.goTo(runnerPath("Emeka", "/log")(p)) // silent lately: nothing told is changed
	p.sees("the morning and the day")
	began := time.Now()
	p.press(input.Key('c'))
	p.MustWait(`() => [...document.querySelectorAll('form fieldset input:checked')].filter(i => i.closest('label').innerText.trim() === 'all').length > 3`)
	// Ten is typed as 1 and 0, in the row for all rows too.
	p.MustElementX(`//fieldset[contains(., "Pain everywhere")]//input[1]`).MustFocus()
	p.press(input.Key('1'))
	p.MustWait(pains, "1")
	p.press(input.Key('0'))
	p.MustWait(pains, "10")
	p.press(input.Key('2'))
	p.MustWait(pains, "2")
	p.press(input.Key('m'))
	typedIn := time.Since(began)
	legend := p.MustEval(`() => document.activeElement.closest('fieldset')?.querySelector('legend')?.innerText ?? ''`).Str()
	require.Contains(t, legend, "first steps")
	days := map[string]bool{}
	for i, pain := range []input.Key{'2', '1', '0', '3', '1', '2', '1'} {
		if i > 0 {
			was := p.MustElement("#day").MustAttribute("aria-label")
			p.press(input.Key('p'))
			p.MustWait(`was => document.querySelector('#day') && document.querySelector('#day').getAttribute('aria-label') !== was`, *was)
			p.press(input.Key('m'))
		}
		days[*p.MustElement("#day").MustAttribute("aria-label")] = true
		p.press(pain)
		p.MustWait(`v => document.querySelector('#day fieldset input:checked')?.closest('label').innerText.trim() === v`, string(rune(pain)))
	}
	assert.Len(t, days, 7)
	t.Logf("the session by keyboard: %s; with a week of mornings %s", typedIn.Round(time.Millisecond), time.Since(began).Round(time.Millisecond))
	// The session stayed with its day, and is saved there by two keys.
	p.sees("Typed and not saved yet")
	for range 6 {
		p.press(input.Key('n'))
	}
	p.MustWait(pains, "2")
	p.MustWait(`() => !document.body.innerText.includes('Typed and not saved yet')`)
	p.axe()
	p.goTo("/review")
	p.MustElementR("h2", "Decisions")
	p.axe()
	name := p.MustElement("h1").MustText()
	seen := map[string]bool{}
	for range 4 {
		seen[name] = true
		p.press(input.Key('a'))
		p.MustWait(`was => document.querySelector('h1') && document.querySelector('h1').innerText !== was || document.body.innerText.includes('Not accepted')`, name)
		if p.MustHas(`[role=alert] button`) && strings.Contains(p.MustElement("body").MustText(), "Not accepted") {
			p.MustElementR("button", "On to the next").MustClick()
			p.MustWait(`was => document.querySelector('h1') && document.querySelector('h1').innerText !== was`, name)
		}
		p.MustWait(`() => !document.body.innerText.includes('Loading')`)
		name = p.MustElement("h1").MustText()
		if name == "Bench" {
			break
		}
	}
	assert.GreaterOrEqual(t, len(seen), 3, "the review goes on from runner to runner")
}

// The flare in the interface: three bad mornings stop the calf, quiet holds are
// offered, three quiet mornings offer the way back.
func TestAFlareFromFirstStepPainToTheWayBack(t *testing.T) {
	var ahead atomic.Int64
	base := time.Now()
	noon := time.Date(base.Year(), base.Month(), base.Day(), 15, 0, 0, 0, time.UTC)
	s := serveAt(t, true, func() time.Time { return noon.AddDate(0, 0, int(ahead.Load())) })
	p := s.open(t, 1280, 900)
	p.signIn(demo.Email)
	path := runnerPath("Joonas", "/block")(p)
	morning := func(pain string) {
		p.goTo(path)
		p.MustElementR("h2", "First steps")
		p.MustElementX(`//fieldset[contains(., "Pain on")]//label[normalize-space()="` + pain + `"]`).MustClick()
		p.MustWait(`v => [...document.querySelectorAll('section[aria-label="First steps of the morning"] fieldset input:checked')].some(i => i.closest('label').innerText.trim() === v)`, pain)
		p.rest()
	}
	// The place is told: quiet holds may go on at the Achilles, not where it could be bone.
	sore := func(on time.Time) {
		status := p.MustEval(`async (path, on) => (await fetch('/api' + path.replace('/block', '') + '/days/' + on, {method: 'PUT', headers: {'Content-Type': 'application/json'},
			body: JSON.stringify({readings: [{zone: 'achilles-mid', side: 'left', firstStep: 5}]})})).status`, path, on.Format(time.DateOnly)).Int()
		require.Equal(t, 200, status)
	}
	for range 3 {
		sore(noon.AddDate(0, 0, int(ahead.Load())))
		ahead.Add(1)
	}
	p.goTo(path)
	p.sees("A flare: what loads the region is stopped")
	p.sees("quiet holds at the first notch only")
	p.axe()
	p.MustElementR("button", "Add quiet holds").MustClick()
	p.MustElement(`article[aria-label="Quiet holds"]`)
	p.goTo("/")
	p.sees("Flare: no loading of this area until three quiet mornings")
	for range 4 {
		morning("1")
		ahead.Add(1)
	}
	p.goTo(path)
	p.sees("start again")
	p.MustElementR("button", "^Accept$").MustClick()
	p.MustWait(`() => document.body.innerText.includes('accepted')`)
}

// A nine typed for a one stops the calf; put right with a reason, its flag ends
// and the ladder is offered lower. The session that was being typed is not sent.
func TestASlipIsPutRight(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.signIn(demo.Email)
	p.goTo(runnerPath("Wilhelmina", "/log")(p))
	tap := func(pain string) {
		p.MustElementX(`//section[@id="day"]//fieldset[contains(., "in general: first steps")]//label[normalize-space()="` + pain + `"]`).MustClick()
	}
	p.sees("the morning and the day")
	// The form opens at yesterday where yesterday has no session; this is about today.
	if after := p.MustElement(`button[aria-label="The day after"]`); !after.MustProperty("disabled").Bool() {
		after.MustClick()
	}
	tap("9")
	p.sees("Pain of 8 or more, or of 5 or more at rest")
	p.rest()       // the warning moved what is tapped next
	p.allow("422") // a change without a word why is asked for one
	tap("1")
	why := p.MustElement(`form[aria-label="Why it is put right"]`)
	p.axe()
	why.MustElement("input").MustInput("mistyped")
	why.MustElementR("button", "Put it right").MustClick()
	p.sees("were 9 at first and were changed")
	p.axe()
	form := p.MustElement(`form[aria-label="A changed reading"]`)
	form.MustElement("input").MustInput("the nine is beside the nought")
	form.MustElement("button").MustClick()
	p.MustWait(`() => !document.querySelector('form[aria-label="A changed reading"]') && !document.querySelector('#day').innerText.includes('F-SEVERE')`)
	p.sees("Save and decide")
	p.goTo(strings.Replace(runnerPath("Wilhelmina", "/log")(p), "/log", "/block", 1))
	p.sees("start again")
}
