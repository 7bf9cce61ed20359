package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
)

func TestTheTableOfTestsIsComplete(t *testing.T) {
	seen := map[TestID]bool{}
	for _, x := range Tests() {
		assert.False(t, seen[x.ID], "%s stands twice", x.ID)
		seen[x.ID] = true
		assert.True(t, x.Source.Valid(), x.ID)
		if x.Unit == "class" {
			assert.True(t, len(x.Options) > 0 || len(x.Checks) > 0, "%s has no classes", x.ID)
		}
		if x.Noise != nil {
			assert.True(t, x.Noise.Source.Valid(), x.ID)
		}
	}
	assert.Len(t, seen, 77)
	_, err := parseTests([]byte("- {id: a, station: Run, name: A, cue: c, setUp: s, unit: cm, max: 3, source: rumour}"))
	assert.ErrorContains(t, err, "rumour")
	_, err = parseTests([]byte("- {id: a, colour: red}"))
	assert.Error(t, err)
}

// Every cut-off at, just under and just over its value.
func TestEveryCutOff(t *testing.T) {
	for _, k := range []struct {
		test TestID
		v    float64
		want Verdict
	}{
		{HeelWalk, 2, OK}, {HeelWalk, 3, Watch}, {HeelWalk, 4, Limited},
		{Overstride, 4.9, OK}, {Overstride, 5, Watch}, {Overstride, 10, Watch}, {Overstride, 10.1, Limited},
		{Bounce, 8, OK}, {Bounce, 8.1, Watch}, {Bounce, 10, Watch}, {Bounce, 10.1, Limited},
		{Crossing, 9.9, OK}, {Crossing, 10, Watch}, {Crossing, 25, Watch}, {Crossing, 25.1, Limited},
		{"sway", 4, OK}, {"sway", 4.1, Watch}, {"sway", 20, Watch},
		{HipExtension, 10, OK}, {HipExtension, 9.9, Limited},
		{HipDrop, 7, OK}, {HipDrop, 7.1, Watch}, {HipDrop, 10, Watch}, {HipDrop, 10.1, Limited},
		{Navicular, 9.9, OK}, {Navicular, 10, Watch}, {Navicular, 14.9, Watch}, {Navicular, 15, Limited},
		{SeatedShin, 30, OK}, {SeatedShin, 29.9, Watch}, {SeatedShin, 25, Watch}, {SeatedShin, 24.9, Limited},
		{BigToeFlat, 20, Watch}, {BigToeFlat, 19.9, Limited},
		{BallHold, 30, OK}, {BallHold, 29, Watch}, {BallHold, 24, Watch}, {BallHold, 23, Limited},
		{BentRaise, 20, OK}, {BentRaise, 19, Watch}, {BentRaise, 16, Watch}, {BentRaise, 15, Limited},
		{ToePress, 8, OK}, {ToePress, 7, Watch}, {ToePress, 6, Limited},
		{StanceOpen, 30, OK}, {StanceOpen, 29, Watch}, {StanceOpen, 24, Watch}, {StanceOpen, 23, Limited},
		{TuckedKneel, 120, OK}, {TuckedKneel, 119, Watch}, {TuckedKneel, 60, Watch}, {TuckedKneel, 59, Limited},
	} {
		assert.Equal(t, k.want, must(t, k.test).CutFor(age35).Class(k.v), "%s %v", k.test, k.v)
	}
}

func TestNormsAndClasses(t *testing.T) {
	// Springer 2007 (from memory).
	for _, k := range []struct {
		age          int
		open, closed float64
	}{{18, 43.3, 9.4}, {39, 43.3, 9.4}, {40, 40.3, 7.3}, {59, 37.0, 4.8}, {60, 26.9, 2.8}, {79, 15.0, 2.0}, {99, 6.2, 1.3}} {
		open, _ := StanceMean(Age{k.age, true}, true)
		closed, _ := StanceMean(Age{k.age, true}, false)
		assert.Equal(t, k.open, open)
		assert.Equal(t, k.closed, closed)
	}
	for _, age := range []Age{{12, true}, {104, true}, {}} {
		n := StanceNorm([]float64{31, 44, 60}, age, true)
		assert.False(t, n.Known, "no norm for %v", age)
		assert.InDelta(t, (31+44+45)/3.0, n.MeanSeconds, 1e-9, "clipped at 45 s")
	}
	// Redmond 2006 (from memory).
	for v, want := range map[int]string{12: "highly pronated", 10: "highly pronated", 9: "pronated", 6: "pronated", 5: "normal", 0: "normal", -1: "supinated", -4: "supinated", -5: "highly supinated", -12: "highly supinated"} {
		assert.Equal(t, want, PostureClass(v), v)
	}
	// Altman & Davis 2012 (from memory).
	for v, want := range map[float64]Strike{8.1: RearStrike, 8.0: MidStrike, -1.6: MidStrike, -1.7: ForeStrike} {
		assert.Equal(t, want, StrikeClass(v), v)
	}
	for v, want := range map[float64]string{159: "clearly low", 160: "low", 169: "low", 170: "usual", 190: "usual", 191: "high"} {
		_, got := CadenceInRange(v)
		assert.Equal(t, want, got, v)
	}
	r, ok := ReachComposite(body.Left, [4]float64{60, 70, 80, 70}, 100)
	assert.True(t, ok)
	assert.Equal(t, 70.0, r.CompositePercent)
	_, ok = ReachComposite(body.Left, [4]float64{}, 30)
	assert.False(t, ok)
}

func TestCrossingIsBorderlineOnlyWhenTheIntervalSpansBoth(t *testing.T) {
	x := must(t, Crossing)
	at := func(count, of int) SideSummary {
		v := 100 * float64(count) / float64(of)
		return Summarise(x, body.Left, []Trial{{Value: &v, Count: &count, Of: &of}}, age35)
	}
	assert.Equal(t, Borderline, at(7, 40).Verdict, "17.5 %%, interval 9 to 32")
	assert.Equal(t, OK, at(2, 40).Verdict)
	assert.Equal(t, Watch, at(70, 400).Verdict, "the same share of more steps is sure")
	assert.Equal(t, Limited, at(30, 40).Verdict)
}

func TestReTestsAreJudgedByTheNoise(t *testing.T) {
	wall, drop, loud, raise := must(t, KneeToWall), must(t, Navicular), must(t, Loudness), must(t, SingleRaise)
	sum := func(x Test, v float64) SideSummary { return Summarise(x, body.Left, trials(v), age35) }
	change := func(x Test, a, b float64) Change { return CompareDates(x, sum(x, a), sum(x, b)).Change }
	assert.Equal(t, Same, change(wall, 8, 9.66)) // MDC95 of 0.6 cm is 1.663
	assert.Equal(t, Better, change(wall, 8, 9.67))
	assert.Equal(t, Worse, change(wall, 9.67, 8))
	assert.Equal(t, Better, change(drop, 15, 9), "lower is better")
	assert.Equal(t, Worse, change(loud, 1, 2))
	assert.Equal(t, Same, change(raise, 20, 22))
	assert.Equal(t, Better, change(raise, 20, 23))
	assert.Equal(t, NotComparable, CompareDates(wall, SideSummary{}, sum(wall, 8)).Change)
}

func TestCoachNoiseNeedsTenPairsOnThreeRunners(t *testing.T) {
	var pairs []Pair
	for i := range 10 {
		d := 0.2
		if i%2 == 0 {
			d = -0.2
		}
		pairs = append(pairs, Pair{string(rune('a' + i%3)), 9, 9 + d})
	}
	sem, ok := CoachNoise(pairs)
	require.True(t, ok)
	assert.InDelta(t, 0.149, sem, 0.001) // SD 0.2108 / √2
	_, ok = CoachNoise(pairs[:9])
	assert.False(t, ok)
	for i := range pairs {
		pairs[i].Runner = "a"
	}
	_, ok = CoachNoise(pairs)
	assert.False(t, ok)
}

func one(t *testing.T, id TestID, left, right float64) Result {
	return Reduce(must(t, id), trials(left), trials(right), age35)
}

func factorsOf(in Input) map[Factor]Finding {
	out := map[Factor]Finding{}
	for _, f := range Findings(in) {
		out[f.Factor] = f
	}
	return out
}

func TestFactorsOfTheTable(t *testing.T) {
	has := func(name Factor, rs ...Result) {
		t.Helper()
		assert.Contains(t, factorsOf(Input{Results: rs}), name)
	}
	hasNot := func(name Factor, rs ...Result) {
		t.Helper()
		assert.NotContains(t, factorsOf(Input{Results: rs}), name)
	}
	has("sole-tight", one(t, BigToePassive, 12, 50), one(t, BigToeFlat, 50, 50))
	has("toe-joint-stiff", one(t, BigToePassive, 12, 50), one(t, BigToeFlat, 12, 50))
	hasNot("sole-tight", one(t, BigToePassive, 12, 50), one(t, BigToeFlat, 12, 50))
	has("toe-control-gap", one(t, BigToePassive, 50, 50), one(t, BigToeActive, 34, 50))
	hasNot("toe-control-gap", one(t, BigToePassive, 50, 50), one(t, BigToeActive, 35, 50))
	has("toe-control-gap", one(t, ToeBig, 1, 3))
	has("toe-drift", one(t, ToeDrift, 2, 0))
	has("claw-tendency", one(t, Clawing, 1, 0))
	has("arch-weak", one(t, Arch, 1, 2), one(t, ShortFoot, 1, 3))
	has("arch-weak", one(t, Arch, 0, 2), one(t, Navicular, 12, 5))
	hasNot("arch-weak", one(t, Arch, 1, 2), one(t, ShortFoot, 2, 3))
	has("soleus-weak", one(t, BentRaise, 12, 22))
	has("ankle-side-weak", one(t, BandOut, 1, 3))
	has("balance-poor", one(t, StanceOpen, 12, 60))
	has("balance-poor", one(t, ReachForward, 60, 65))
	has("hip-share", one(t, HipExtension, 5, 14))
	has("strike-extreme", one(t, StrikeEasy, 0, 1))
	hasNot("strike-extreme", one(t, StrikeEasy, 1, 3))
	slow := Reduce(must(t, CadenceTest), trials(158, 160, 159), nil, age35)
	hasNot("low-cadence", slow)
	has("low-cadence", slow, one(t, Overstride, 14, 14))
	posture := Reduce(must(t, Posture), []Trial{{Value: ptr(0.0), Compensations: []string{"hips-behind", "chest-dropped"}}}, nil, age35)
	has("posture", posture)
	drift := Reduce(must(t, BallHold), []Trial{{Value: ptr(31.0), Compensations: []string{"drifts-outward"}}}, trials(31), age35)
	has("outer-edge-drift", drift)
}

func TestComplaintsRaiseRelevanceAndSeverity(t *testing.T) {
	in := Input{Results: []Result{one(t, SingleRaise, 12, 28)}}
	before := factorsOf(in)["calf-weak"]
	in.Complaints = []Complaint{{Zone: "achilles-mid", Side: body.Left, Worst: ptr(4)}}
	after := factorsOf(in)
	assert.Equal(t, 2, before.Severity)
	assert.Equal(t, 3, after["calf-weak"].Severity, "limited with a complaint in its region")
	assert.Equal(t, 3, after["calf-weak"].Priority.Relevance)
	assert.Equal(t, 4, after["symptom-achilles-load"].Priority.Lever)
	assert.Equal(t, 2*3*4, after["symptom-achilles-load"].Priority.Total)
	in.LoadSpike = true
	assert.Equal(t, 5, factorsOf(in)["load-spike"].Priority.Lever)
}

func TestTheCoachHasTheLastWordOnTheOrder(t *testing.T) {
	in := Input{Results: []Result{one(t, SingleRaise, 12, 13), one(t, KneeToWall, 5, 5), one(t, StanceOpen, 10, 10), one(t, Arms, 0, 0), one(t, BentRaise, 10, 10)}}
	fs := Findings(in)
	last := fs[len(fs)-1]
	require.False(t, last.WorkedOn)
	in.Choices = []Choice{{Key: last.Key(), Move: "promote"}, {Key: fs[0].Key(), Move: "demote", Reason: "race first"}}
	again := Findings(in)
	assert.Equal(t, last.Key(), again[0].Key())
	assert.True(t, again[0].WorkedOn)
	bottom := again[len(again)-1]
	assert.Equal(t, fs[0].Key(), bottom.Key())
	assert.Contains(t, bottom.Waits, "race first")
}

func TestAnInvalidTrialChangesNoFinding(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.Float64Range(0, 20).Draw(t, "v")
		bad := Trial{Value: ptr(rapid.Float64Range(0, 25).Draw(t, "bad")), Compensations: []string{"heel-lifts"}}
		wall := must(t, KneeToWall)
		with := Findings(Input{Results: []Result{Reduce(wall, append(trials(v), bad), trials(11), age35)}})
		without := Findings(Input{Results: []Result{Reduce(wall, trials(v), trials(11), age35)}})
		assert.Equal(t, without, with)
	})
}

func BenchmarkFindings(b *testing.B) {
	var in Input
	for _, x := range Tests() {
		in.Results = append(in.Results, Reduce(x, trials(x.Max/3), trials(x.Max/4), age35))
	}
	for b.Loop() {
		Findings(in)
	}
}

func TestBoneZonesStopATestAboveThree(t *testing.T) {
	raise := must(t, SingleRaise)
	tr := Trial{Value: ptr(20.0), Pain: ptr(4)}
	assert.Equal(t, Watch, Summarise(raise, body.Left, []Trial{tr}, age35).Verdict)
	tr.BoneZone = true
	assert.Equal(t, Stopped, Summarise(raise, body.Left, []Trial{tr}, age35).Verdict)
	list := []Complaint{{Zone: "inner-shin", Side: body.Left}}
	assert.True(t, HurtsInBone(list, body.Left))
	assert.False(t, HurtsInBone(list, body.Right))
	assert.True(t, HurtsInBone(list, body.Both))
}

func TestATrialWithEveryBoxTickedIsKeptAndDoesNotCount(t *testing.T) {
	wall := must(t, KneeToWall)
	tr := Trial{Value: ptr(12.0)}
	for _, c := range wall.Compensations {
		tr.Compensations = append(tr.Compensations, c.ID)
	}
	require.NoError(t, wall.Check(tr))
	s := Summarise(wall, body.Left, []Trial{tr}, age35)
	assert.Equal(t, NotMeasured, s.Verdict)
	assert.Equal(t, 1, s.Kept)
}
