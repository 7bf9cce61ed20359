package e2e

import (
	"bufio"
	"context"
	"net/http"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/internal/demotest"
)

// sample is a plausible value to type for a unit.
func sample(label string) string {
	for unit, v := range map[string]string{
		"degrees": "27", ", cm": "9.5", ", mm": "8", ", reps": "21", ", s": "29", ", spm": "168", ", %": "5", ", /10": "1", ", ms": "240",
		", points": "3", ", of 10": "8", ", contacts": "12", "pain 0 to 10": "1",
	} {
		if strings.HasSuffix(label, unit) {
			return v
		}
	}
	return "10"
}

// fillStation answers everything of the station on show by keyboard alone and
// goes on to the next one.
func (p *tab) fillStation() {
	p.t.Helper()
	for range 400 {
		kind := p.MustEval(`() => { const e = document.activeElement;
			if (e.matches('[data-cell]')) return e.value || e.dataset.slot > 1 ? 'done' : 'cell';
			if (e.type === 'radio') return document.querySelector('input[name="' + e.name + '"]:checked') ? 'done' : 'radio';
			if (e.type === 'checkbox' && e.closest('label').innerText.trim().startsWith('none of these')) return 'none';
			if (e.type === 'checkbox' && e.closest('label').innerText.trim().startsWith('nothing to note')) return 'none';
			if (e.innerText?.startsWith('Next:')) return 'next';
			return '' }`).Str()
		switch kind {
		case "cell":
			p.typeIn(sample(p.focused()))
		case "radio":
			p.press(input.Key('1'))
		case "none":
			p.press(input.Space)
		case "next":
			p.press(input.Enter)
			return
		}
		p.press(input.Tab)
	}
	p.fail("never reached the end of the station")
}

func (p *tab) startScreening(name string) {
	p.t.Helper()
	p.goTo(runnerPath(name, "")(p))
	p.MustElementR("button", "Start the screening|Screen again").MustClick()
	p.sees("Before anything else")
}

func (p *tab) station(name string) { station(name)(p) }

func (p *tab) count(station string) string {
	return p.MustEval(`n => [...document.querySelectorAll('nav[aria-label=Stations] button')].find(b => b.innerText.startsWith(n)).innerText`, station).Str()
}

func TestAFullScreeningByKeyboardOnly(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.Page = p.Context(context.Background()).Timeout(240 * time.Second)
	p.signIn(demo.Email)
	p.startScreening("Kit")
	for range 9 {
		p.fillStation()
	}
	p.sees("Finish the screening")
	p.sees("saved")
	for _, s := range []string{"Walk", "Run", "Stand", "Bend", "Steer", "Hold and lift", "Balance and reach"} {
		p.MustWait(`s => [...document.querySelectorAll('nav[aria-label=Stations] button')].some(b => b.innerText.replace(/\s+/g, '') === s.replaceAll(' ', '') + 'done')`, s)
	}
	assert.Contains(t, p.count("Spring"), "2", "the pogo tests wait for their gate")
	p.sees("Findings")
	p.axe()
	p.tabTo("let it wait")
	p.press(input.Enter)
	p.tabTo("Why it waits")
	p.text("after the relay")
	p.press(input.Enter)
	p.sees("You let it wait: after the relay")
	p.tabTo("Finish the screening")
	p.press(input.Enter)
	p.sees("Plan the block")
	p.sees("Correct a reading")
}

func TestAQuickScreeningByTouch(t *testing.T) {
	p := serve(t, true).open(t, 820, 1180)
	require.NoError(t, proto.EmulationSetTouchEmulationEnabled{Enabled: true}.Call(p))
	p.signIn(demo.Email)
	p.startScreening("Kit")
	p.MustElementX(`//label[contains(., "quick")]`).MustTap()
	p.MustElement(`circle[aria-label="heel underside, right"]`).MustTap()
	p.sees("heel underside")
	p.MustElementX(`//fieldset[contains(., "heel underside, right: First steps")]//label[normalize-space()="5"]`).MustTap()
	for _, e := range p.MustElementsX(`//label[starts-with(normalize-space(), "none of these")]`) {
		e.MustTap()
	}
	p.sees("all asked")
	p.MustElementR("nav[aria-label=Stations] button", "^Bend").MustTap()
	for _, side := range []string{"left", "right"} {
		p.MustElement("#t-knee-to-wall-" + side + "-1").MustTap()
		p.text("9.1")
	}
	p.MustElementR("nav[aria-label=Stations] button", "^Run").MustTap()
	p.MustElement(`[aria-label="Cadence: open the row"]`).MustTap()
	p.MustElement(`[aria-label="Tap: Cadence"]`).MustTap()
	tap := p.MustElementX(`//button[starts-with(., "Tap,")]`)
	for range 9 {
		tap.MustTap()
		p.frames(10)
	}
	p.sees("spm")
	p.MustElementR("fieldset button", "^Take$").MustTap()
	p.MustWait(`() => document.querySelector('#t-cadence-both-1').value !== ''`)
	require.LessOrEqual(t, p.MustEval(`() => document.documentElement.scrollWidth - innerWidth`).Int(), 0)
	p.MustElementR("nav[aria-label=Stations] button", "^Findings").MustTap()
	p.sees("Heel sore on the first steps")
	p.sees("first steps under 4 with a heel or Achilles complaint")
	p.axe()
}

// An emergency answer changes the screen at once, closes tests and the plan,
// and gives a sheet; only a clearance opens them, and it says until when.
func TestTheEmergencyPath(t *testing.T) {
	p := serve(t, true).open(t, 1280, 800)
	p.allow("409")
	p.signIn(demo.Email)
	p.startScreening("Joonas")
	p.MustElementX(`//label[contains(., "A pop or kick")]`).MustClick()
	p.sees("Stop. Care is needed now.")
	p.axe()
	p.station("Bend")
	assert.True(t, p.MustElement("#t-knee-to-wall-left-1").MustProperty("disabled").Bool())
	p.sees("Closed until a clinician has looked: A pop or kick")
	p.station("Findings")
	p.sees("a clearance for the pop or kick")
	p.MustElementR("a", "Sheet for the clinician").MustClick()
	p.sees("Care is needed now. Do not wait for an appointment.")
	p.axe()
	p.MustElementR("a", "^Back$").MustClick()
	p.MustElementR("button", "Note a clearance").MustClick()
	p.MustElementX(`//label[contains(., "cleared by a")]/following-sibling::input`).MustInput("sports physician")
	p.MustElementX(`//label[contains(., "What is allowed")]/following-sibling::input`).MustInput("walking and seated work")
	p.MustElementR("button", "Note it").MustClick()
	p.sees("cleared by a sports physician")
	p.MustWait(`() => !document.body.innerText.includes('Stop. Care is needed now.')`)
}

// Two devices on one screening keep each other's trials.
func TestTwoDevicesMergeByTrial(t *testing.T) {
	s := serve(t, true)
	a, b := s.open(t, 1280, 800), s.open(t, 820, 1100)
	a.signIn(demo.Email)
	b.signIn(demo.Email)
	a.startScreening("Kit")
	a.station("Bend")
	path := a.MustEval(`() => location.pathname`).Str()
	b.goTo(path)
	b.station("Bend")
	a.MustElement("#t-knee-to-wall-left-1").MustInput("9.1")
	b.MustElement("#t-knee-to-wall-right-1").MustInput("8.2")
	a.press(input.Enter)
	b.press(input.Enter)
	a.sees("saved")
	b.sees("saved")
	for _, p := range []*tab{a, b} {
		p.MustReload().MustWaitLoad()
		p.MustWait(`() => document.querySelector('#t-knee-to-wall-left-1')?.value === '9.1' && document.querySelector('#t-knee-to-wall-right-1')?.value === '8.2'`)
	}
}

// The server dies in the middle of a screening; nothing typed is lost.
func TestResumeAfterTheServerIsKilled(t *testing.T) {
	urls := demotest.Seeded(t)
	const addr = "127.0.0.1:18420"
	start := func() *exec.Cmd {
		cmd := exec.Command("../bin/notchback", "serve")
		cmd.Env = append(os.Environ(), "NOTCHBACK_DATABASE_URL="+urls.App, "NOTCHBACK_ADDR="+addr)
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		cmd.Stderr = os.Stderr
		require.NoError(t, cmd.Start())
		lines := bufio.NewScanner(out)
		for lines.Scan() && !strings.Contains(lines.Text(), "Stop with") {
		}
		go func() {
			for lines.Scan() {
			}
		}()
		return cmd
	}
	srv := start()
	t.Cleanup(func() { _ = srv.Process.Kill(); _ = srv.Wait() })
	p := openAt(t, "http://"+addr, 1280, 800)
	p.allow("ERR_CONNECTION_REFUSED", "Failed to fetch", "ERR_CONNECTION_RESET", "ERR_EMPTY_RESPONSE")
	p.signIn(demo.Email)
	p.startScreening("Kit")
	p.station("Bend")
	p.MustElement("#t-knee-to-wall-left-1").MustInput("9.1")
	p.press(input.Enter)
	p.sees("saved")
	require.NoError(t, srv.Process.Kill()) // SIGKILL
	_ = srv.Wait()
	p.typeIn("9.4")
	p.press(input.Enter)
	p.sees("no connection, kept here")
	srv = start()
	p.sees("saved")
	res, err := http.Get("http://" + addr + "/api/start")
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	p.MustReload().MustWaitLoad()
	p.MustWait(`() => document.querySelector('#t-knee-to-wall-left-1')?.value === '9.1' && document.querySelector('#t-knee-to-wall-left-2')?.value === '9.4'`)
	p.sees("Knee to wall") // it opens at the station where it was left
}
