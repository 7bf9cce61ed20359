package web_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"io"
	"net/http"
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
		{"tissue-dose", obj{"tissue": "sole", "notches": []any{obj{"ladder": "calf-straight", "notch": 99, "done": 1}}}, "no such ladder or notch"},
		{"tissue-dose", obj{"tissue": "elbow"}, "one of"},
		{"run-ratios", obj{"on": "2026-05-09", "runs": []any{obj{"on": "2026-05-05", "distanceKm": 900, "minutes": 60}}}, "300"},
		{"run-ratios", obj{"on": "2026-05-09", "runs": []any{obj{"on": "2026-05-05", "distanceKm": -1, "minutes": 60}}}, "0"},
		{"review", obj{"today": "2026-05-21", "b0": 11, "runs": []any{}, "mornings": []any{}}, "10"},
	} {
		status, out := c.do("POST", "/api/compute/"+k.name, k.in)
		assert.Equal(t, 422, status, k.name)
		assert.Contains(t, fmt.Sprint(out["errors"]), k.says, k.name)
	}
}

// The worked cases of docs/rules.md, asked over the wire.
func TestComputeOfLoadAndReview(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	ask := func(name string, in obj) obj {
		t.Helper()
		status, out := c.do("POST", "/api/compute/"+name, in)
		require.Equal(t, 200, status, "%s: %v", name, out)
		return out
	}

	morning := func(on string, p int) obj { return obj{"on": on, "firstStep": p} }
	decide := func(change obj) obj {
		session := func(on string, pain int) obj {
			return obj{"on": on, "notch": 7, "pain": pain, "done": 1, "compensated": 0, "reserve": 3, "decidedBy": -1}
		}
		in := obj{"ladder": "calf-straight", "side": "left", "today": "2026-05-05", "notch": 7, "startingNotch": 7, "blockStart": "2026-04-13", "openGates": []string{"single-leg-calf"},
			"history": obj{"b0": 1, "sessions": []any{session("2026-05-02", 2), session("2026-05-04", 3)},
				"mornings": []any{morning("2026-05-03", 1), morning("2026-05-04", 1), morning("2026-05-05", 1)}}}
		for k, v := range change {
			in[k] = v
		}
		return ask("decision", in)
	}
	assert.Equal(t, "up", decide(nil)["verdict"])
	assert.Equal(t, "up", decide(obj{"running": "rise"})["verdict"], "worked case 2: a calf ladder goes up on a rise")
	spike := decide(obj{"running": "spike"})
	assert.Equal(t, "hold", spike["verdict"])
	assert.EqualValues(t, 7, spike["row"], "worked case 2 with 40 km")
	deload := decide(obj{"deload": true})
	assert.Equal(t, "hold", deload["verdict"])
	assert.EqualValues(t, 9, deload["row"], "worked case 9")
	missing := decide(obj{"history": obj{"b0": 1, "sessions": []any{
		obj{"on": "2026-05-02", "notch": 7, "pain": 2, "done": 1, "compensated": 0, "reserve": 3, "decidedBy": -1},
		obj{"on": "2026-05-03", "notch": 7, "pain": 2, "done": 1, "compensated": 0, "reserve": 3, "decidedBy": -1}},
		"mornings": []any{morning("2026-05-01", 1), morning("2026-05-02", 1), morning("2026-05-03", 1)}}})
	assert.Equal(t, "hold", missing["verdict"])
	assert.Contains(t, fmt.Sprint(missing["sentence"]), "first steps on 4 May", "worked case 11")

	run := func(on string, km float64) obj { return obj{"on": on, "distanceKm": km, "minutes": km * 6} }
	four := []any{run("2026-04-08", 15), run("2026-04-10", 15), run("2026-04-15", 15), run("2026-04-17", 15), run("2026-04-22", 15), run("2026-04-24", 15), run("2026-04-29", 15), run("2026-05-01", 15)}
	week := func(km ...float64) obj {
		runs := append([]any{}, four...)
		for i, x := range km {
			runs = append(runs, run(fmt.Sprintf("2026-05-%02d", 5+i), x))
		}
		return ask("run-ratios", obj{"on": "2026-05-09", "runs": runs})
	}
	out := week(11, 11, 11)
	assert.InDelta(t, 1.1, out["ratio"], 1e-9, "33 against 30")
	assert.Equal(t, "steady", out["class"])
	out = week(15, 15, 9)
	assert.InDelta(t, 1.3, out["ratio"], 1e-9)
	assert.Equal(t, "rise", out["class"])
	out = week(18)
	assert.Equal(t, "spike", out["class"], "worked case 3: 18 km after a longest of 15")
	out = ask("run-ratios", obj{"on": "2026-05-09", "runs": []any{run("2026-05-05", 5)}})
	assert.Equal(t, "unknown", out["class"], "nothing before it")

	ladder := ask("tissue-dose", obj{"tissue": "achilles-calf", "runs": []any{obj{"on": "2026-05-05", "distanceKm": 5, "minutes": 30, "cadenceSpm": 170, "strike": "rear"}}})
	assert.InDelta(t, 13260, ladder["total"].(obj)["sum"], 1e-6, "2,550 contacts a side at 5.2")
	bare := ask("tissue-dose", obj{"tissue": "achilles-calf"})
	assert.EqualValues(t, 0, bare["total"].(obj)["sum"])
	half := ask("tissue-dose", obj{"tissue": "achilles-calf", "notches": []any{obj{"ladder": "calf-straight", "notch": 7, "done": 0.5}}})
	whole := ask("tissue-dose", obj{"tissue": "achilles-calf", "notches": []any{obj{"ladder": "calf-straight", "notch": 7, "done": 1}}})
	assert.Positive(t, half["total"].(obj)["sum"])
	assert.InDelta(t, 2*half["total"].(obj)["sum"].(float64), whole["total"].(obj)["sum"], 1e-9)

	steady := []any{}
	rising := []any{}
	for i := range 21 {
		on := fmt.Sprintf("2026-05-%02d", 1+i)
		steady = append(steady, morning(on, 1))
		rising = append(rising, morning(on, 1+i/7))
	}
	review := func(mornings []any, more obj) obj {
		in := obj{"today": "2026-05-21", "b0": 1, "intakeWeekKm": 30, "mornings": mornings,
			"runs": []any{obj{"on": "2026-05-19", "distanceKm": 8, "minutes": 48, "pain": 2}}}
		for k, v := range more {
			in[k] = v
		}
		return ask("review", in)
	}
	out = review(steady, nil)
	assert.Equal(t, "on", out["verdict"])
	assert.Equal(t, "as-planned", out["advice"].(obj)["id"])
	out = review(rising, nil)
	assert.NotEqual(t, "on", out["verdict"], "worked case 12: one point a week")
	assert.NotEmpty(t, out["because"])
	out = review(steady, obj{"flags": []string{"F-BONE"}})
	assert.Equal(t, "no-running", out["advice"].(obj)["id"])
	assert.NotEmpty(t, out["adviceText"])
}

// The worked cases of the ramps over the wire, with the document's own examples.
func TestRampsOverTheWire(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	terms := map[string]any{"from": "2027-01-04", "goal": "run", "begin": "run", "targetPercent": 30, "weeklyMetres": 40000, "paceSeconds": 360, "runDays": []int{1, 3, 5}, "strengthDays": []int{0, 3}, "shoe": "thin one"}
	minutes := func(body map[string]any) []float64 {
		st, out := c.do("POST", "/api/compute/barefoot-ramp", body)
		require.Equal(t, 200, st, "%v", out)
		var got []float64
		for _, w := range out["ramp"].(map[string]any)["weeks"].([]any) {
			got = append(got, w.(map[string]any)["state"].(map[string]any)["run"].(float64))
		}
		return got
	}
	assert.Equal(t, []float64{10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 72}, minutes(map[string]any{"today": "2027-01-04", "terms": terms})[:14])
	assert.Equal(t, []float64{10, 15, 20, 20, 25, 30, 35, 35, 40, 45, 50, 50, 55, 60, 65, 65, 70, 72}, minutes(map[string]any{"today": "2027-01-04", "terms": terms, "deloadEvery": 4})[:18])
	st, out := c.do("POST", "/api/compute/barefoot-ramp", map[string]any{"today": "2027-01-04", "terms": terms, "futures": 300, "seed": 5})
	require.Equal(t, 200, st)
	r := out["range"].(map[string]any)
	assert.Equal(t, "2027-04-05", r["earliest"])
	assert.Greater(t, r["late"], r["likely"])
	st, _ = c.do("POST", "/api/compute/barefoot-ramp", map[string]any{"today": "2027-01-04", "terms": terms, "closed": []any{map[string]any{"gate": "moon"}}})
	assert.Equal(t, 422, st)
	terms["targetPercent"], terms["barePercent"] = 10, 20
	st, out = c.do("POST", "/api/compute/barefoot-ramp", map[string]any{"today": "2027-01-04", "terms": terms})
	assert.Equal(t, 422, st)
	assert.Contains(t, fmt.Sprint(out), "terms.barePercent")
	terms["barePercent"], terms["from"] = 0, "1970-01-01"
	st, _ = c.do("POST", "/api/compute/barefoot-ramp", map[string]any{"today": "2027-01-04", "terms": terms})
	assert.Equal(t, 422, st)

	st, out = c.do("POST", "/api/compute/cadence-steps", map[string]any{"today": "2027-01-04", "terms": map[string]any{"start": "2027-01-04", "baselineSpm": 160, "school": "fixed-range", "speedKmh": 10}})
	require.Equal(t, 200, st)
	assert.Equal(t, []any{165.0, 170.0}, out["beatsSpm"])
	assert.InDelta(t, 960, out["contactsPerKmBefore"], 1e-9)
	st, _ = c.do("POST", "/api/compute/cadence-steps", map[string]any{"today": "2027-01-04", "terms": map[string]any{"start": "2027-01-04", "baselineSpm": 60, "school": "fixed-range"}})
	assert.Equal(t, 422, st)
}

// The worked examples of measuring over the wire.
func TestMeasuringOverTheWire(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	st, out := c.do("POST", "/api/compute/angle", obj{"picture": obj{}, "points": obj{"ankle": obj{"x": 412, "y": 618}, "knee": obj{"x": 498, "y": 469}}})
	require.Equal(t, 200, st, "%v", out)
	first := out["items"].([]any)[0].(obj)
	assert.Equal(t, "shin", first["measure"])
	assert.InDelta(t, 30.0, first["value"], 0.05)
	st, out = c.do("POST", "/api/compute/angle", obj{"picture": obj{}, "points": obj{"ankle": obj{"x": 4, "y": 6}, "knee": obj{"x": 4, "y": 6}}})
	assert.Equal(t, 422, st)
	assert.Contains(t, fmt.Sprint(out), "in one place")
	st, out = c.do("POST", "/api/compute/spring-mass", obj{"massKg": 70, "legM": 0.92, "speedMs": 4, "contactSeconds": 0.23, "flightSeconds": 0.12})
	require.Equal(t, 200, st)
	assert.InDelta(t, 1641, out["forceN"], 0.5)
	st, out = c.do("POST", "/api/compute/spring-mass", obj{"massKg": 70, "legM": 0.92, "speedMs": 4, "contactSeconds": 0.23, "flightSeconds": 0})
	assert.Equal(t, 422, st)
	assert.Contains(t, fmt.Sprint(out), "walking")
	st, out = c.do("POST", "/api/compute/gait-events", obj{"frameSeconds": 1.0 / 30, "steps": []any{obj{"foot": "left", "contact": 0, "toeOff": 0.25}}})
	require.Equal(t, 200, st)
	assert.InDelta(t, 0.027, out["contact"].(obj)["margin"], 0.0005, "± 27 ms at 30 Hz")
	st, out = c.do("POST", "/api/compute/clip-readings", obj{"marks": obj{"view": "side", "picture": obj{}, "moments": []any{}, "events": []any{obj{"frame": 3, "foot": "left", "kind": "contact"}}}, "runner": obj{}})
	assert.Equal(t, 422, st)
	assert.Contains(t, fmt.Sprint(out), "how many frames a second")
}

// A clip's file comes whole and in ranges, as its own type, never as a page.
func TestAClipsFileIsServedInRanges(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	_, sc := c.do("GET", "/api/runners/"+c.runner("Isolde")+"/screenings", nil)
	id := sc["items"].([]any)[0].(obj)["id"].(string)
	var photo bytes.Buffer
	require.NoError(t, png.Encode(&photo, image.NewGray(image.Rect(0, 0, 4, 3))))
	content := photo.Bytes()
	st, clip := c.do("POST", "/api/screenings/"+id+"/clips", obj{"name": "a.png", "size": len(content)})
	require.Equal(t, 200, st)
	at := "/api/clips/" + clip["id"].(string)
	st, _ = c.do("GET", at+"/file", nil)
	assert.Equal(t, 404, st, "not whole yet")
	st, out := c.do("PUT", at+"/parts?offset=0", content[:6])
	require.Equal(t, 200, st, "%v", out)
	assert.EqualValues(t, 6, out["received"])
	st, _ = c.do("PUT", at+"/parts?offset=2", content[2:])
	assert.Equal(t, 422, st)
	st, _ = c.do("PUT", at+"/parts?offset=6", content[6:])
	require.Equal(t, 200, st)
	st, out = c.do("POST", at+"/finish", nil)
	require.Equal(t, 200, st, "%v", out)
	req, err := http.NewRequest("GET", c.url+at+"/file", nil)
	require.NoError(t, err)
	req.Header.Set("Range", "bytes=1-3")
	res, err := c.Do(req)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	got, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Equal(t, 206, res.StatusCode)
	assert.Equal(t, "PNG", string(got))
	assert.Equal(t, "image/png", res.Header.Get("Content-Type"))
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "sandbox")
}
