package activity

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"notchback/core/day"
)

func TestWhatAFileSays(t *testing.T) {
	easy := Hints{Metres: 8000, Seconds: 2800, FastMs: 3.4, Cadence: 84}
	with := func(change func(*Hints)) Hints { h := easy; change(&h); return h }
	for name, c := range map[string]struct {
		h    Hints
		want Kind
		says string
	}{
		"said to be a run":         {with(func(h *Hints) { h.Sports = []string{"running"} }), Run, "running"},
		"on a trail":               {with(func(h *Hints) { h.Sports = []string{"Trail Running"} }), Run, "trail running"},
		"on a treadmill":           {with(func(h *Hints) { h.Sports = []string{"fitness_equipment", "treadmill_running"} }), Run, "treadmill"},
		"a virtual run":            {with(func(h *Hints) { h.Sports = []string{"virtual-run"} }), Run, "virtual run"},
		"a ride":                   {with(func(h *Hints) { h.Sports = []string{"cycling"} }), Other, "cycling"},
		"a swim":                   {with(func(h *Hints) { h.Sports = []string{"swimming"} }), Other, "swimming"},
		"a hike":                   {Hints{Sports: []string{"hiking"}, Metres: 8000, Seconds: 7200}, Walk, "hiking"},
		"a walk at a run's pace":   {with(func(h *Hints) { h.Sports = []string{"walking"} }), Asked, "5:50"},
		"a run with gears":         {with(func(h *Hints) { h.Sports, h.Gear = []string{"running"}, true }), Asked, "gear"},
		"a run at a bike's speed":  {Hints{Sports: []string{"Running"}, Metres: 30_000, Seconds: 3600, FastMs: 11}, Asked, "2:00"},
		"a run with a car in it":   {with(func(h *Hints) { h.Sports, h.FastMs = []string{"running"}, 14 }), Asked, "50\u00a0km/h"},
		"a run called a ride":      {with(func(h *Hints) { h.Sports, h.Name = []string{"running"}, "Morning ride" }), Asked, "Morning ride"},
		"a run at a walk's pace":   {Hints{Sports: []string{"running"}, Metres: 4000, Seconds: 3600}, Asked, "as one walks"},
		"slow, but very steep":     {Hints{Sports: []string{"running"}, Metres: 4000, Seconds: 3600, ClimbPerKm: 200}, Run, "running"},
		"two sports at once":       {with(func(h *Hints) { h.Sports = []string{"running", "cycling"} }), Asked, "running and cycling"},
		"generic beside running":   {with(func(h *Hints) { h.Sports = []string{"generic", "running"} }), Run, "running"},
		"nothing but gears":        {with(func(h *Hints) { h.Gear = true }), Other, "gear"},
		"nothing but strokes":      {with(func(h *Hints) { h.Swim = true }), Other, "swimmer"},
		"nothing said, dynamics":   {with(func(h *Hints) { h.Dynamics = true }), Run, "ground"},
		"nothing said":             {easy, Asked, "does not say"},
		"a number for a sport":     {with(func(h *Hints) { h.Sports = []string{"9"} }), Asked, "does not say"},
		"called a run, and is":     {with(func(h *Hints) { h.Name = "Easy run" }), Run, "Easy run"},
		"called a run, no cadence": {Hints{Name: "Easy run", Metres: 8000, Seconds: 2800}, Asked, "does not say"},
		"watts and slow turns":     {with(func(h *Hints) { h.Sports, h.Power, h.Cadence = []string{"run"}, true, 62 }), Asked, "pedals"},
		"watts of a runner":        {with(func(h *Hints) { h.Sports, h.Power = []string{"run"}, true }), Run, "run"},
	} {
		v := Judge(c.h)
		assert.Equal(t, c.want, v.Kind, "%s: %v", name, v.Why)
		assert.Contains(t, strings.Join(append(v.Why, v.Name), "; "), c.says, name)
		assert.NotEmpty(t, v.Why, name)
	}
}

func TestStepsOfOneFootAndOfBoth(t *testing.T) {
	for _, c := range []struct {
		counted, speed, want float64
		one                  bool
	}{
		{84, 2.9, 168, true}, {168, 2.9, 168, false}, {75, 1.5, 150, true}, {115, 1.7, 115, false}, {80.7, 0, 161.4, true}, {118, 3.3, 236, true}, {0, 3, 0, false}, {119, 0, 238, true},
	} {
		got, one := SpmFrom(c.counted, c.speed)
		assert.InDelta(t, c.want, got, 1e-9, "%v at %v", c.counted, c.speed)
		assert.Equal(t, c.one, one)
	}
}

func TestOddOfThisRunner(t *testing.T) {
	usual := Known{Runs: 20, LongestMetres: 10_000, SpeedMs: 2.9}
	assert.Empty(t, Odd(12_000, 4100, usual))
	assert.Contains(t, Odd(31_000, 10_800, usual)[0], "three times the longest")
	assert.Contains(t, Odd(8_000, 1600, usual)[0], "faster")
	assert.Contains(t, Odd(5_000, 4000, usual)[0], "slower")
	assert.Empty(t, Odd(20_000, 7000, Known{}))
	assert.NotEmpty(t, Odd(60_000, 20_000, Known{}))
}

// Whatever is against a run, nothing is taken for one without a word that says run or
// feet that were measured; and what speaks against one never makes one.
func TestNothingBecomesARunBySilence(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := Hints{
			Sports: rapid.SliceOfN(rapid.SampledFrom([]string{"", "generic", "cycling", "swimming", "rowing", "walking", "hiking", "9", "other"}), 0, 3).Draw(t, "sports"),
			Metres: rapid.Float64Range(0, 60_000).Draw(t, "metres"), Seconds: rapid.Float64Range(0, 20_000).Draw(t, "seconds"),
			FastMs: rapid.Float64Range(0, 20).Draw(t, "fast"), Cadence: rapid.Float64Range(0, 200).Draw(t, "cadence"),
			Gear: rapid.Bool().Draw(t, "gear"), Power: rapid.Bool().Draw(t, "power"), Swim: rapid.Bool().Draw(t, "swim"),
			Name: rapid.SampledFrom([]string{"", "Morning ride", "Lunch walk", "Activity"}).Draw(t, "name"),
		}
		if Judge(h).Kind == Run {
			t.Fatalf("%+v became a run", h)
		}
		h.Sports, h.Gear = []string{"running"}, true
		if Judge(h).Kind == Run {
			t.Fatalf("gears became a run: %+v", h)
		}
	})
}

func TestTrendsAgainstTheNoiseOfRuns(t *testing.T) {
	list := func(values ...float64) (out []Reading) {
		for i, v := range values {
			out = append(out, Reading{On: day.Date(i), Value: v})
		}
		return out
	}
	_, ok := TrendOf(list(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11))
	assert.False(t, ok)
	// By hand: differences ±4 in turn, SD of eleven of them 4.178, typical error 2.954;
	// 1.96 · 2.954 · √(1/6 + 1/6) = 3.343.
	flat := []float64{250, 254, 250, 254, 250, 254, 250, 254, 250, 254, 250, 254}
	tr, ok := TrendOf(list(flat...))
	assert.True(t, ok)
	assert.InDelta(t, 3.343, tr.Smallest, 0.01)
	assert.InDelta(t, 0, tr.Change, 1e-9)
	assert.False(t, tr.Real)
	for i := 6; i < 12; i++ {
		flat[i] -= 12
	}
	tr, _ = TrendOf(list(flat...))
	assert.True(t, tr.Real)
	assert.InDelta(t, -12, tr.Change, 1e-9)
	assert.Equal(t, []int{6, 6}, []int{tr.NowN, tr.BeforeN})
	assert.True(t, TrendSource.Valid())
}
