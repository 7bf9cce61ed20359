package web_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

type obj = map[string]any

func trialsOf(v ...float64) []any {
	out := []any{}
	for _, x := range v {
		out = append(out, obj{"value": x, "pain": 0})
	}
	return out
}

func items(out obj) map[string]obj {
	by := map[string]obj{}
	for _, x := range out["items"].([]any) {
		it := x.(obj)
		for _, k := range []string{"gate", "factor"} {
			if id, ok := it[k].(string); ok {
				by[id] = it
			}
		}
	}
	return by
}

func TestComputeOfTheWholeScreening(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	ask := func(name string, in obj) obj {
		t.Helper()
		status, out := c.do("POST", "/api/compute/"+name, in)
		require.Equal(t, 200, status, "%s: %v", name, out)
		return out
	}

	out := ask("crossing", obj{"crossings": 6, "steps": 40})
	assert.EqualValues(t, 15, out["percent"])
	assert.InDelta(t, 7.06, out["lowPercent"], 0.005)
	assert.InDelta(t, 29.07, out["highPercent"], 0.005)
	assert.Equal(t, "borderline", out["verdict"], "the interval spans 10 and 25")

	out = ask("reach", obj{"side": "left", "forwardCm": 60, "sideCm": 70, "backCm": 80, "crossedCm": 70, "legLengthCm": 100})
	assert.EqualValues(t, 70, out["compositePercent"])

	out = ask("stance-norm", obj{"seconds": []float64{31, 44, 60}, "ageYears": 45, "eyesOpen": true})
	assert.EqualValues(t, 40.3, out["normSeconds"]) // Springer 2007, from memory
	assert.EqualValues(t, 40, out["meanSeconds"], "60 is clipped at 45")
	out = ask("stance-norm", obj{"seconds": []float64{31}, "ageYears": 12, "eyesOpen": true})
	assert.Equal(t, false, out["known"])

	taps := []float64{}
	for i := range 30 {
		taps = append(taps, float64(i)*60/174)
	}
	out = ask("cadence-taps", obj{"tapSeconds": taps})
	assert.InDelta(t, 174, out["meanSpm"], 0.01)

	hop := []any{
		obj{"test": "single-leg-raise", "ageYears": 35, "left": trialsOf(24), "right": trialsOf(23)},
		obj{"test": "stance-open", "ageYears": 35, "left": trialsOf(45), "right": trialsOf(40)},
		obj{"test": "ball-hold", "ageYears": 35, "left": trialsOf(31), "right": trialsOf(33)},
		obj{"test": "brisk-walk", "ageYears": 35, "left": trialsOf(0), "right": []any{}},
	}
	gates := items(ask("gates", obj{"ageYears": 35, "tests": hop, "allAsked": true}))
	for gate, want := range map[string]bool{"hop": true, "loaded-calf": true, "single-leg-calf": true, "min-shoe-run": false, "end-range-isometrics": false} {
		assert.Equal(t, want, gates[gate]["open"], gate)
	}
	assert.NotEmpty(t, gates["min-shoe-run"]["missing"])
	gates = items(ask("gates", obj{"ageYears": 35, "tests": hop, "allAsked": false}))
	assert.Equal(t, false, gates["hop"]["open"], "not while a safety question is open")
	gates = items(ask("gates", obj{"ageYears": 35, "tests": hop, "allAsked": true, "daysAgo": 85}))
	assert.Equal(t, false, gates["hop"]["open"], "evidence ages")
	gates = items(ask("gates", obj{"ageYears": 15, "tests": hop, "allAsked": true}))
	assert.Equal(t, false, gates["hop"]["open"], "no one-legged hops under 16")

	found := items(ask("findings", obj{
		"tests": []any{
			obj{"test": "big-toe-passive", "left": trialsOf(12, 12, 12), "right": trialsOf(50, 50, 50)},
			obj{"test": "big-toe-flat", "left": trialsOf(50, 50, 50), "right": trialsOf(50, 50, 50)},
		},
		"complaints": []any{obj{"zone": "heel", "side": "left", "firstSteps": 5}},
	}))
	assert.EqualValues(t, 3, found["sole-tight"]["severity"], "limited with a complaint in its region")
	assert.Contains(t, found, "symptom-heel-first-steps")
	assert.NotContains(t, found, "toe-joint-stiff")
}

func TestComputeRefusesKindly(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	for _, k := range []struct {
		name string
		in   obj
		says string
	}{
		{"crossing", obj{"crossings": 41, "steps": 40}, "no more crossings than steps"},
		{"reach", obj{"side": "left", "forwardCm": 60, "sideCm": 70, "backCm": 80, "crossedCm": 70, "legLengthCm": 20}, "40 to 130 cm"},
		{"stance-norm", obj{"seconds": []float64{400}, "eyesOpen": true}, "0 to 60 s"},
		{"cadence-taps", obj{"tapSeconds": []float64{1, 2, 3}}, "at least 8"},
		{"cadence", obj{"counts": []int{}, "windowSeconds": 15}, "at least one"},
		{"trial-summary", obj{"test": "no-such", "left": []any{}, "right": []any{}}, "not a test"},
		{"trial-summary", obj{"test": "stance-open", "left": trialsOf(400), "right": []any{}}, "0 to 60 s"},
		{"trial-summary", obj{"test": "crossing", "left": []any{obj{"count": 5, "of": 4}}, "right": []any{}}, "no more crossings"},
		{"starting-notch", obj{"ladder": "no-such", "on": "2026-01-01", "person": obj{}, "tests": []any{}}, "not a ladder"},
		{"decision", obj{"ladder": "calf-straight", "side": "left", "today": "2026-01-01", "notch": 99, "startingNotch": 1, "blockStart": "2026-01-01",
			"history": obj{"sessions": []any{}, "mornings": []any{}, "b0": 0}}, "1 to 25"},
	} {
		status, out := c.do("POST", "/api/compute/"+k.name, k.in)
		assert.Equal(t, 422, status, k.name)
		assert.Contains(t, fmt.Sprint(out["errors"]), k.says, k.name)
	}
}
