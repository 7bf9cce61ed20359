package screening

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
)

// Trials disagree when their spread is over twice the test's noise, with three of
// them; the margin follows the spread then.
func TestTrialsThatDisagree(t *testing.T) {
	wall := must(t, KneeToWall)
	require.NotNil(t, wall.Noise)
	sem := wall.Noise.SEM
	// Of a, b, c = m − d, m, m + d the spread is d.
	of := func(d float64) SideSummary {
		return Summarise(wall, body.Left, trials(20-d, 20, 20+d), age35)
	}
	s := of(2 * sem)
	assert.False(t, s.Disagree, "just twice")
	assert.Equal(t, FromNoise, s.Basis)
	assert.InDelta(t, 1.96*sem/math.Sqrt(3), *s.Margin, 0.001)
	s = of(2*sem + 0.01)
	assert.True(t, s.Disagree)
	assert.Equal(t, FromTrials, s.Basis)
	two := Summarise(wall, body.Left, trials(10, 30), age35)
	assert.False(t, two.Disagree, "two are too few to say")
}

// A count of fifteen seconds steps by four: that is its margin until the trials
// spread further or were counted finer.
func TestTheMarginOfACount(t *testing.T) {
	cadence := must(t, CadenceTest)
	four := Summarise(cadence, body.Both, trials(168, 168, 168), age35)
	assert.InDelta(t, 4/math.Sqrt(3), *four.Margin, 1e-9)
	fine := trials(168, 168, 168)
	for i := range fine {
		fine[i].Resolution = ptrTo(1.0)
	}
	assert.InDelta(t, 1/math.Sqrt(3), *Summarise(cadence, body.Both, fine, age35).Margin, 1e-9)
	fine[1].Resolution = nil
	assert.InDelta(t, 4/math.Sqrt(3), *Summarise(cadence, body.Both, fine, age35).Margin, 1e-9, "the coarsest counts")
	assert.Greater(t, *Summarise(cadence, body.Both, trials(160, 168, 176), age35).Margin, 10.0)
}

func ptrTo[T any](v T) *T { return &v }

// A complaint whose height nobody said counts as the more careful.
func TestAComplaintOfUnknownHeight(t *testing.T) {
	severity := func(c Complaint) int {
		for _, f := range Findings(Input{Complaints: []Complaint{c}}) {
			if f.Side == c.Side {
				return f.Severity
			}
		}
		return 0
	}
	at := func(worst *body.Pain) int {
		return severity(Complaint{Zone: "achilles-mid", Side: body.Left, Worst: worst})
	}
	assert.Equal(t, 2, at(nil))
	assert.Equal(t, 1, at(ptrTo(body.Pain(3))))
	assert.Equal(t, 2, at(ptrTo(body.Pain(4))))
	both := Findings(Input{Complaints: []Complaint{{Zone: "achilles-mid", Side: body.Left, Worst: ptrTo(body.Pain(1))}, {Zone: "achilles-mid", Side: body.Right, Worst: ptrTo(body.Pain(6))}}})
	require.NotEmpty(t, both)
	assert.Equal(t, body.Both, both[0].Side)
	assert.Equal(t, 2, both[0].Severity)
	assert.Len(t, both[0].Evidence, 2)
}

// A test without sides speaks for both and is not limited twice by it.
func TestWhatHasNoSidesIsNotTwice(t *testing.T) {
	find := func(rs ...Result) Finding {
		for _, f := range Findings(Input{Results: rs}) {
			if f.Factor != "asymmetry" {
				return f
			}
		}
		return Finding{}
	}
	tried := 0
	for _, x := range Tests() {
		if x.Sided || x.ID == CadenceTest {
			continue
		}
		for _, v := range []float64{0, 1, 2, 3, 20} {
			r := Reduce(x, trials(v), nil, age35)
			if f := find(r); r.Left.Verdict == Limited && f.Severity > 0 {
				tried++
				assert.Equal(t, 2, f.Severity, "%s counts once", x.ID)
				assert.Len(t, f.Evidence, 1, "%s", x.ID)
				assert.Equal(t, body.Both, f.Evidence[0].Side)
				break
			}
		}
	}
	require.Positive(t, tried)
	raise := must(t, SingleRaise)
	assert.Equal(t, 3, find(Reduce(raise, trials(5), trials(5), age35)).Severity, "both sides limited")
	assert.Equal(t, 2, find(Reduce(raise, trials(5), trials(30), age35)).Severity)
	assert.Equal(t, body.Left, find(Reduce(raise, trials(5), trials(30), age35)).Side)
	assert.Equal(t, body.Right, find(Reduce(raise, trials(30), trials(5), age35)).Side)
	sore := Findings(Input{Results: []Result{Reduce(raise, trials(5), trials(30), age35)}, Complaints: []Complaint{{Zone: "calf", Side: body.Left, Worst: ptrTo(body.Pain(1))}}})
	for _, f := range sore {
		if f.Factor == "calf-weak" {
			assert.Equal(t, 3, f.Severity, "where it hurts as well")
		}
	}
}

func TestCadenceRangesAtTheirEdges(t *testing.T) {
	for _, k := range []struct {
		spm  float64
		want Verdict
	}{{159.9, Limited}, {160, Watch}, {169.9, Watch}, {170, OK}, {190, OK}, {190.1, Watch}} {
		got, _ := CadenceInRange(k.spm)
		assert.Equal(t, k.want, got, "%v", k.spm)
	}
}

func TestReachNeedsALeg(t *testing.T) {
	r, ok := ReachComposite(body.Left, [4]float64{90, 80, 70, 60}, 100)
	assert.True(t, ok)
	assert.InDelta(t, 75, r.CompositePercent, 1e-9)
	assert.Equal(t, body.Left, r.Side)
	for _, k := range []struct {
		leg float64
		ok  bool
	}{{39.9, false}, {40, true}, {130, true}, {130.1, false}} {
		_, ok := ReachComposite(body.Left, [4]float64{}, k.leg)
		assert.Equal(t, k.ok, ok, "%v cm", k.leg)
	}
}

// A re-test changes by its noise; without one by more than a tenth; where lower is
// better the other way round.
func TestRetestsAtTheirEdges(t *testing.T) {
	side := func(id TestID, v float64) SideSummary { return Summarise(must(t, id), body.Left, trials(v), age35) }
	change := func(id TestID, a, b float64) Change {
		return CompareDates(must(t, id), side(id, a), side(id, b)).Change
	}
	mdc := 1.96 * math.Sqrt2 * must(t, KneeToWall).Noise.SEM
	assert.Equal(t, Same, change(KneeToWall, 8, 8+mdc-0.01))
	assert.Equal(t, Better, change(KneeToWall, 8, 8+mdc+0.01))
	assert.Equal(t, Worse, change(KneeToWall, 8, 8-mdc-0.01))
	if must(t, SingleRaise).Noise == nil {
		assert.Equal(t, Same, change(SingleRaise, 20, 22))
		assert.Equal(t, Better, change(SingleRaise, 20, 23))
		assert.Equal(t, Same, change(SingleRaise, 20, 18))
		assert.Equal(t, Worse, change(SingleRaise, 20, 17))
	}
	assert.Equal(t, NotComparable, CompareDates(must(t, KneeToWall), SideSummary{}, side(KneeToWall, 8)).Change)
	assert.Equal(t, Better, change(HeelWalk, 4, 1), "less pain")
	assert.Equal(t, Worse, change(HeelWalk, 1, 4))
}

// Sides differ from the symmetry of 90 % down, clearly from 80.
func TestSidesAtTheirEdges(t *testing.T) {
	raise := must(t, SingleRaise)
	at := func(l, r float64) Asymmetry { return Reduce(raise, trials(l), trials(r), age35).Asymmetry }
	assert.Equal(t, OK, at(18, 20).Class)
	assert.False(t, at(18, 20).Clear)
	assert.Equal(t, Watch, at(17, 20).Class)
	assert.True(t, at(17, 20).Clear)
	assert.Equal(t, Watch, at(16, 20).Class)
	assert.Equal(t, Limited, at(15, 20).Class)
	assert.Equal(t, body.Left, at(15, 20).Weaker)
	assert.Equal(t, body.Right, at(20, 15).Weaker)
	assert.Empty(t, at(20, 20).Weaker)
	_, ok := LSI(0, 0)
	assert.False(t, ok)
	lsi, ok := LSI(0, 10)
	assert.True(t, ok)
	assert.Zero(t, lsi)
	assert.False(t, Reduce(raise, trials(20), nil, age35).Asymmetry.Known)
	w, ok := Reduce(raise, trials(20), trials(20), age35).Weaker()
	assert.True(t, ok)
	assert.Equal(t, body.Left, w.Side)
}

// Three findings are worked on; the coach's word moves them.
func TestWhatIsWorkedOn(t *testing.T) {
	in := Input{Results: []Result{
		Reduce(must(t, SingleRaise), trials(5), trials(5), age35), Reduce(must(t, BentRaise), trials(5), trials(5), age35),
		Reduce(must(t, KneeToWall), trials(4), trials(4), age35), Reduce(must(t, StanceOpen), trials(3), trials(3), age35),
	}}
	list := Findings(in)
	require.Greater(t, len(list), MaxWorkedOn)
	worked := 0
	for i, f := range list {
		if f.WorkedOn {
			worked++
			assert.Less(t, i, MaxWorkedOn)
		} else {
			assert.NotEmpty(t, f.Waits)
		}
		if i > 0 {
			assert.LessOrEqual(t, f.Priority.Total, list[i-1].Priority.Total)
		}
	}
	assert.Equal(t, MaxWorkedOn, worked)
	last, first := list[len(list)-1].Key(), list[0].Key()
	in.Choices = []Choice{{Key: last, Move: "promote"}, {Key: first, Move: "demote", Reason: "he is away"}}
	moved := Findings(in)
	assert.Equal(t, last, moved[0].Key())
	assert.True(t, moved[0].WorkedOn)
	assert.Equal(t, first, moved[len(moved)-1].Key())
	assert.False(t, moved[len(moved)-1].WorkedOn)
	assert.Contains(t, moved[len(moved)-1].Waits, "he is away")
}
