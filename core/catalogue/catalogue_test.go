package catalogue

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
)

func builtIn(t testing.TB) Catalogue {
	c, err := BuiltIn()
	require.NoError(t, err)
	return c
}

func ladder(t testing.TB, id string) Ladder {
	l, ok := builtIn(t).Ladder(id)
	require.True(t, ok, id)
	return l
}

// Loading the built-in data checks all of it: doses, sources, weights that never
// fall, drawings. Here stands what the check cannot know.
func TestBuiltInData(t *testing.T) {
	c := builtIn(t)
	gates := map[Gate]bool{"": true, "single-leg-calf": true, "loaded-calf": true, "hop": true, "end-range-isometrics": true, "barefoot-home": true, "barefoot-walk": true, "barefoot-strength": true, "min-shoe-run": true}
	for _, l := range c.Ladders {
		for i, n := range l.Notches {
			assert.True(t, gates[n.Gate], "%s notch %d: gate %q", l.ID, i+1, n.Gate)
			assert.GreaterOrEqual(t, n.Seconds(), 20.0)
		}
		for v, n := range l.Start.From {
			assert.True(t, n >= 1 && n <= l.Len(), "%s starts at %d from %d", l.ID, n, v)
		}
		for v, n := range l.Start.Class {
			assert.True(t, n >= 1 && n <= l.Len(), "%s starts at %d for %s", l.ID, n, v)
		}
	}
	for _, e := range c.Exercises {
		assert.NotEmpty(t, e.Mistakes, e.ID)
	}
	// Every family is there.
	for _, id := range strings.Fields(`calm-cool calm-iso release-sole release-sole-frozen release-outer-rest release-thumb release-calf release-shin release-thigh-hip
		range-ankle range-soleus range-calf range-front-ankle range-toe range-toe-rock range-toe-block range-toe-end range-sole-pull
		steer-split steer-spread steer-press steer-arch steer-pinch steer-object steer-series foot-curl foot-side foot-shin foot-walk-ball foot-hover
		calf-straight calf-bent calf-toeup calf-ball-hold calf-split-hold hip-bridge hip-split leg-squat leg-sprinter leg-swing leg-hinge ankle-circles balance-stand balance-reach
		spring-pogo form-tall form-arms form-line form-quiet form-hips form-pickup form-brim form-cadence
		exposure-home exposure-walk exposure-strength exposure-drill exposure-run wake-up run-return`) {
		_, ok := c.Ladder(id)
		assert.True(t, ok, id)
	}
}

// The published programmes as ladders, every figure from memory.
func TestPublishedProgrammes(t *testing.T) {
	type dose struct{ sets, reps, rm int }
	doses := func(l Ladder) (out []dose) {
		for _, n := range l.Notches {
			out = append(out, dose{n.Dose.Sets, n.Dose.Reps, n.Dose.RM})
		}
		return out
	}
	// Beyer et al. 2015 (from memory): 3 x 15RM, 3 x 12RM, 4 x 10RM, 4 x 8RM, 4 x 6RM, three times a week, 6 s a repetition.
	heavy := ladder(t, "calf-heavy-slow")
	assert.Equal(t, []dose{{3, 15, 15}, {3, 12, 12}, {4, 10, 10}, {4, 8, 8}, {4, 6, 6}}, doses(heavy))
	assert.Equal(t, 3, heavy.PerWeek.Max)
	for _, n := range heavy.Notches {
		assert.Equal(t, 6.0, n.Dose.Tempo[0]+n.Dose.Tempo[1]+n.Dose.Tempo[2]+n.Dose.Tempo[3])
	}
	assert.Equal(t, doses(heavy)[3:], doses(ladder(t, "calf-straight"))[23:])
	// Alfredson et al. 1998 (from memory): 3 x 15, straight and bent knee, lowering only, daily.
	for _, id := range []string{"calf-lowering", "calf-lowering-bent"} {
		l := ladder(t, id)
		assert.Equal(t, dose{3, 15, 0}, doses(l)[0])
		assert.Equal(t, 7, l.PerWeek.Max)
		assert.Contains(t, l.At(1).Dose.More, "twice a day")
		assert.Contains(t, l.Source.Cite, "Alfredson")
	}
	// Rathleff et al. 2015 (from memory): every second day, 3 s up, 2 s hold, 3 s down; 12RM x 3, 10RM x 4, 8RM x 5.
	up := ladder(t, "calf-toeup")
	assert.Equal(t, []dose{{3, 12, 12}, {4, 10, 10}, {5, 8, 8}}, doses(up)[1:])
	for _, n := range up.Notches {
		assert.Equal(t, [4]float64{3, 2, 3, 0}, n.Dose.Tempo)
	}
	assert.Contains(t, up.Source.Cite, "Rathleff")
}

// Anchors from Baxter et al. 2021 (from memory) and sums by hand.
func TestWeights(t *testing.T) {
	at := func(id string, n int) Notch { return ladder(t, id).At(n) }
	assert.Equal(t, 1.6, at("calf-straight", 1).Weight(body.Achilles))
	assert.Equal(t, 3.0, at("calf-straight", 7).Weight(body.Achilles))
	assert.InDelta(t, 3.15, at("calf-straight", 12).Weight(body.Achilles), 1e-9) // + 5 % body weight: 3 + 3 · 0.05
	assert.InDelta(t, 0.5+1.5*0.25, at("calf-bent", 1).Weight(body.Achilles), 1e-9)
	assert.InDelta(t, 0.7+3*0.25, at("calf-bent", 3).Weight(body.Achilles), 1e-9)
	assert.InDelta(t, 0.4*1.3, at("calf-toeup", 1).Weight(body.Sole), 1e-9)
	assert.Equal(t, 0.0, at("foot-curl", 1).Weight(body.Sole))
	// Two-leg 3 x 15 = 72 a side; one-leg hold 5 x 45 s = 67.5; two-leg pogo 60 s = 132 contacts, 462.
	load := func(n Notch) float64 { return n.Count() * n.Weight(body.Achilles) }
	assert.InDelta(t, 72, load(at("calf-straight", 3)), 1e-9)
	assert.InDelta(t, 67.5, load(at("calm-iso", 4)), 1e-9)
	assert.InDelta(t, 132, at("spring-pogo", 7).Count(), 1e-9)
	assert.InDelta(t, 462, load(at("spring-pogo", 7)), 1e-9)
}

// Hand sums: sets x (repetitions x tempo, hold or minutes) x sides, rests
// between sets, 20 s to change over.
func TestTimeModel(t *testing.T) {
	for _, c := range []struct {
		ladder string
		notch  int
		want   float64
	}{
		{"calf-straight", 8, 144 + 120 + 20},           // one leg 3 x 12 at 2 s, by hand
		{"calf-straight", 3, 3*15*2 + 120 + 20},        // two legs 3 x 15
		{"calf-straight", 10, 3*8*7*2 + 2*90 + 20},     // from a step, 2-1-3-1, heavy rest
		{"calf-straight", 25, 4*6*6*2 + 3*90 + 20},     // 4 x 6 at 6RM, 3-0-3
		{"range-soleus", 2, 3*30*2 + 2*20 + 20},        // stretch 3 x 30 s a side
		{"steer-press", 1, 2*5*3*2 + 20 + 20},          // 2 x 5 x 3 s a side
		{"calm-iso", 1, 5*30 + 4*60 + 20},              // two legs 5 x 30 s, 1 min rest
		{"release-sole", 3, 2*60*2 + 20},               // 2 min a foot
		{"balance-reach", 3, 3*5*4*2*2 + 2*20 + 20},    // four ways
		{"spring-pogo", 5, 2*20 + 90 + 20},             // two legs 2 x 20 s
		{"foot-walk-ball", 1, 20*0.6 + 20},             // 20 paces
		{"exposure-drill", 1, 4*(15+60/1.4) + 60 + 20}, // 4 x 60 m and the walk back
	} {
		n := ladder(t, c.ladder).At(c.notch)
		if c.ladder == "exposure-drill" {
			n.Dose.RestSeconds = 20
		}
		assert.InDelta(t, c.want, n.Seconds(), 0.01, "%s notch %d", c.ladder, c.notch)
	}
}

func TestParseRefusesBrokenData(t *testing.T) {
	kit := []byte("- {id: wall, name: wall, swap: []}")
	poses := []byte("a: {hip: 5}\nb: {like: a, hip: 9}\nround: {like: round}\nodd: {nose: 3}")
	e := func(more string) string {
		return "- {id: a, name: A, short: a, purpose: strength, part: calf, position: standing, sides: each, setUp: stand, cues: [one], timing: any, source: common, figure: [a, b]" + more + "}"
	}
	l := func(body string) string {
		return "- {id: l, name: L, family: F, purpose: strength, place: main, perWeek: {min: 1, max: 3}, effort: none, source: common, start: {}, " + body + "}"
	}
	good := l("notches: [{exercise: a, dose: 2 x 10}]")
	_, err := Parse([]byte(e("")), []byte(good), poses, kit)
	require.NoError(t, err)
	for name, c := range map[string][3]string{
		"unknown field":    {e(", colour: red"), good, "field colour"},
		"unknown exercise": {e(""), l("notches: [{exercise: b, dose: 2 x 10}]"), `"b" is not known`},
		"no start":         {e(""), strings.Replace(good, "start: {}, ", "", 1), "start is needed"},
		"bad dose":         {e(""), l("notches: [{exercise: a, dose: some}]"), "want sets x reps"},
		"twice":            {e("") + "\n" + e(""), good, "stands twice"},
		"unknown kit":      {e(", equipment: [sled]"), good, "sled"},
		"unknown trait":    {e(", traits: [shiny]"), good, "shiny"},
		"easier":           {e(""), l("notches: [{exercise: a, dose: 2 x 10}, {exercise: a, dose: 2 x 8}]"), "volume falls"},
		"lighter":          {e(""), l("notches: [{exercise: a, dose: 2 x 8, bodyPercent: 10}, {exercise: a, dose: 3 x 8}]"), "load falls"},
		"weight falls":     {e("") + "\n" + strings.Replace(e(""), "id: a", "id: c", 1), l("tissues: [sole], notches: [{exercise: a, dose: 2 x 8, weight: [2]}, {exercise: c, dose: 3 x 8, weight: [1]}]"), "weight on the sole falls"},
		"no weight":        {e(""), l("tissues: [sole], notches: [{exercise: a, dose: 2 x 8}]"), "without a weight"},
		"open after gate":  {e(""), l("notches: [{exercise: a, dose: 2 x 8, gate: hop}, {exercise: a, dose: 3 x 8}]"), "after a gate"},
		"rm":               {e(""), l("notches: [{exercise: a, dose: 2 x 8, rm: 6}]"), "as the load allows"},
		"same drawing":     {strings.Replace(e(""), "[a, b]", "[a, a]", 1), good, "another end position"},
		"unknown pose":     {strings.Replace(e(""), "[a, b]", "[a, z]", 1), good, `pose "z" is not known`},
		"pose like itself": {strings.Replace(e(""), "[a, b]", "[a, round]", 1), good, "like itself"},
		"odd angle":        {strings.Replace(e(""), "[a, b]", "[a, odd]", 1), good, "not an angle"},
		"no source":        {strings.Replace(e(""), "source: common, ", "", 1), good, "source"},
	} {
		_, err := Parse([]byte(c[0]), []byte(c[1]), poses, kit)
		assert.ErrorContains(t, err, c[2], name)
	}
}

// Every text stands alone: a runner by themselves, with a phone, knows where to stand,
// what to hold and what goes wrong. None points at another text.
func TestEveryTextStandsAlone(t *testing.T) {
	c, err := BuiltIn()
	require.NoError(t, err)
	places := regexp.MustCompile(`(?i)\b(stand|sit|lie|lean|kneel|on hands and knees|hands and knees|face a wall|walk|run|jog|on the spot|at home|in minimal shoes|a wall within reach|barefoot|finger-tips on a wall|do the named part|while washing|half stand|hands on a wall)\b`)
	for _, e := range c.Exercises {
		assert.Greater(t, len(e.SetUp), 40, e.ID)
		assert.Regexp(t, places, e.SetUp, "%s: where is the runner?", e.ID)
		assert.NotRegexp(t, `(?i)\bas (from|for|in|with) the\b|\bas above\b|\bthe same\b|\bsee \b`, e.SetUp, "%s points at another text", e.ID)
		assert.True(t, len(e.Cues) >= 1 && len(e.Cues) <= 3, "%s has %d cues", e.ID, len(e.Cues))
		assert.True(t, len(e.Mistakes) >= 2 && len(e.Mistakes) <= 5, "%s has %d mistakes", e.ID, len(e.Mistakes))
		// Nobody stands on one leg, on a step or on something that rolls without a hold.
		if e.Position == "standing" && regexp.MustCompile(`(?i)on one (leg|foot)|on a step|cylinder|folded mat`).MatchString(e.SetUp) && e.ID != "form-line" {
			assert.Regexp(t, `(?i)\bwall\b|\btable\b|\bchair\b|\brail\b|\bhold in reach\b`, e.SetUp, "%s: nothing to hold", e.ID)
		}
	}
}
