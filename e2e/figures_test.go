package e2e

import (
	"strconv"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// On the phone an exercise moves at its tempo; who asked for less motion sees start and
// end side by side.
func TestAnExerciseMovesOnThePhone(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.letIn(s, "Isolde")
	p.taps("^Start: ")
	p.walks()
	p.sees("I am set up")
	seen := map[string]bool{}
	for range 40 {
		at := p.MustElement("[data-motion]").MustAttribute("data-motion")
		require.NotNil(t, at)
		share, err := strconv.ParseFloat(*at, 64)
		require.NoError(t, err)
		assert.True(t, share >= 0 && share <= 1, *at)
		seen[*at] = true
		if len(seen) > 3 {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	assert.Greater(t, len(seen), 3, "it moves")
	calm := proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}
	require.NoError(t, calm.Call(p))
	p.MustWait(`() => !document.querySelector('[data-motion]')`)
	assert.Len(t, p.MustElements("main svg[viewBox='0 0 100 100']"), 2, "start and end, still")
}

// The shelf: a picture opens big, owners look through all drawings, and an own exercise
// takes poses over and turns their angles with the drawing following.
func TestDrawingsOnTheShelf(t *testing.T) {
	s := serve(t, true)
	p := s.open(t, 1280, 800)
	p.allow("status of 422")
	p.signIn("maren@harriers.example")
	p.goTo("/shelf/exercises")
	p.MustElement(`button[aria-label="See it move: Straight-knee calf stretch"]`).MustScrollIntoView().MustClick()
	p.MustElement("[role=dialog] [data-motion]")
	p.axe()
	p.MustElementR("[role=dialog] button", "Close").MustClick()

	p.goTo("/shelf/figures")
	p.sees("242 of 242 drawings")
	p.axe()
	p.MustElement("input[type=search]").MustInput("wall-one-up")
	p.MustWait(`() => / of 242 drawings/.test(document.body.innerText) && !/242 of 242/.test(document.body.innerText)`)
	p.MustElementR("summary", "The pose").MustClick()
	p.sees("ankle -34°")

	p.goTo("/shelf/exercises/new")
	for label, pose := range map[string]string{"start": "stand", "end": "squat"} {
		list := p.MustElementX(`//label[contains(., "Drawing: ` + label + `")]/select`)
		require.NoError(t, list.Select([]string{`option[value="` + pose + `"]`}, true, rod.SelectorTypeCSSSector))
	}
	p.MustElementR("summary", "Turn the angles").MustClick()
	knee := p.MustElement(`input[aria-label="knee, end"]`)
	before := p.MustElements("svg[viewBox='0 0 100 100']")[1].MustHTML()
	knee.MustSelectAllText().MustInput("40")
	p.MustWait(`(was) => document.querySelectorAll("svg[viewBox='0 0 100 100']")[1].outerHTML !== was`, before)
	knee.MustSelectAllText().MustInput("300")
	p.sees("knee goes from -5 to 160")
	p.axe()
}
