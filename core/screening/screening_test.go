package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
)

func trials(v ...float64) []Trial {
	out := make([]Trial, len(v))
	for i := range v {
		out[i] = Trial{Value: &v[i]}
	}
	return out
}

func must(t require.TestingT, id TestID) Test {
	x, ok := Find(id)
	require.True(t, ok)
	return x
}

var age35 = Age{35, true}

func TestCutOffsAtUnderAndOver(t *testing.T) {
	for _, k := range []struct {
		test TestID
		age  Age
		v    float64
		want Verdict
	}{
		{KneeToWall, age35, 10, OK}, {KneeToWall, age35, 9.99, Watch}, {KneeToWall, age35, 8, Watch}, {KneeToWall, age35, 7.99, Limited},
		{BigToePassive, age35, 30, OK}, {BigToePassive, age35, 29.9, Watch}, {BigToePassive, age35, 20, Watch}, {BigToePassive, age35, 19.9, Limited},
		{SingleRaise, age35, 25, OK}, {SingleRaise, age35, 24, Watch}, {SingleRaise, age35, 20, Watch}, {SingleRaise, age35, 19, Limited},
		{SingleRaise, Age{39, true}, 24, Watch}, {SingleRaise, Age{40, true}, 22, OK}, {SingleRaise, Age{49, true}, 21, Watch},
		{SingleRaise, Age{50, true}, 20, OK}, {SingleRaise, Age{60, true}, 15, OK}, {SingleRaise, Age{60, true}, 14, Watch},
		{SingleRaise, Age{}, 24, Watch}, // unknown age: the strictest row
	} {
		s := Summarise(must(t, k.test), body.Left, trials(k.v), k.age)
		assert.Equal(t, k.want, s.Cut.Class(k.v), "%s %v", k.test, k.v)
	}
}

func TestMarginAndBorderline(t *testing.T) {
	wall := must(t, KneeToWall)
	s := Summarise(wall, body.Left, trials(10.6, 10.9, 11.1), age35)
	assert.InDelta(t, 10.87, *s.Value, 0.01)
	assert.InDelta(t, 1.96*0.6/1.7320508, *s.Margin, 1e-6)
	assert.Equal(t, OK, s.Verdict)
	assert.Equal(t, FromNoise, s.Basis)

	// One trial: the margin is there too, and 10.5 ± 1.2 spans 10.
	s = Summarise(wall, body.Left, trials(10.5), age35)
	assert.Equal(t, Borderline, s.Verdict)
	assert.True(t, s.TakeMore)
	assert.Equal(t, 1, s.Severity)

	// Five and still undecided: the more cautious class, still marked.
	s = Summarise(wall, body.Left, trials(10.2, 10.2, 10.2, 10.2, 10.2), age35)
	assert.Equal(t, Watch, s.Verdict)
	assert.True(t, s.Borderline)
	assert.False(t, s.TakeMore)
	assert.Equal(t, 1, s.Severity)

	// Trials that disagree carry their own margin: SD 2.0 > 2 · 0.6.
	s = Summarise(wall, body.Left, trials(9, 11, 13), age35)
	assert.True(t, s.Disagree)
	assert.Equal(t, FromTrials, s.Basis)
	assert.InDelta(t, 4.303*2/1.7320508, *s.Margin, 0.001)

	// Endurance: best of the valid, no margin.
	s = Summarise(must(t, SingleRaise), body.Right, trials(18, 22), age35)
	assert.Equal(t, 22.0, *s.Value)
	assert.Nil(t, s.Margin)
	assert.Equal(t, Watch, s.Verdict)
}

func TestInvalidAndStoppedTrialsDoNotCount(t *testing.T) {
	wall := must(t, KneeToWall)
	good := trials(7, 7.2)
	bad := Trial{Value: ptr(14.0), Compensations: []string{"heel-lifts"}}
	with := Summarise(wall, body.Left, append(good, bad), age35)
	without := Summarise(wall, body.Left, good, age35)
	assert.Equal(t, []bool{true, true, false}, with.Counts)
	assert.Equal(t, 1, with.Kept)
	with.Kept, with.Counts, with.Values = without.Kept, without.Counts, without.Values
	assert.Equal(t, without, with, "an invalid trial changes nothing")

	raise := must(t, SingleRaise)
	s := Summarise(raise, body.Left, []Trial{{Value: ptr(12.0), Pain: ptr(6)}}, age35)
	assert.Equal(t, Stopped, s.Verdict)
	assert.Nil(t, s.Value)
	assert.Equal(t, 6, *s.WorstPain)
	s = Summarise(raise, body.Left, []Trial{{Value: ptr(12.0), Pain: ptr(5)}}, age35)
	assert.Equal(t, 12.0, *s.Value)
}

func ptr[T any](v T) *T { return &v }

func TestCheckNamesFieldAndRange(t *testing.T) {
	wall, raise := must(t, KneeToWall), must(t, SingleRaise)
	for _, k := range []struct {
		test  Test
		tr    Trial
		field string
		says  string
	}{
		{wall, Trial{Value: ptr(900.0)}, "value", "0 to 25 cm"},
		{wall, Trial{Value: ptr(-1.0)}, "value", "0 to 25 cm"},
		{wall, Trial{}, "value", "cm is needed"},
		{raise, Trial{Value: ptr(10.5)}, "value", "whole"},
		{raise, Trial{Value: ptr(10.0), Pain: ptr(-2)}, "pain", "0 to 10"},
		{raise, Trial{Value: ptr(10.0), Pain: ptr(11)}, "pain", "0 to 10"},
		{raise, Trial{Value: ptr(10.0), Compensations: []string{"dances"}}, "compensations", "dances"},
	} {
		var fe *FieldError
		require.ErrorAs(t, k.test.Check(k.tr), &fe)
		assert.Equal(t, k.field, fe.Field)
		assert.Contains(t, fe.Message, k.says)
	}
	assert.NoError(t, raise.Check(Trial{SharpPain: true}), "stopped by pain before the first repetition")
}

func TestSidesAreComparedWithTheNoise(t *testing.T) {
	wall := must(t, KneeToWall)
	r := Reduce(wall, trials(10.6, 10.9, 11.1), trials(7.4, 7.9, 7.6), age35)
	assert.True(t, r.Asymmetry.Clear)
	assert.Equal(t, body.Right, r.Asymmetry.Weaker)
	assert.Equal(t, Limited, r.Asymmetry.Class)
	assert.InDelta(t, 1.66, *r.Asymmetry.MDC95, 0.005)
	assert.InDelta(t, 3.6*3.233, *r.Asymmetry.Degrees, 0.01)
	for _, k := range []struct {
		d    float64
		want Verdict
	}{{1.69, OK}, {1.7, Watch}, {1.99, Watch}, {2, Limited}} {
		r := Reduce(wall, trials(k.d), trials(0), age35)
		assert.Equal(t, k.want, r.Asymmetry.Class, k.d)
	}
	// 8.3 against 10.0 is 1.7, whatever the arithmetic makes of it.
	assert.Equal(t, Watch, Reduce(wall, trials(10), trials(8.3), age35).Asymmetry.Class)
	for right, want := range map[float64]Verdict{18: OK, 17: Watch, 16: Watch, 15: Limited} {
		assert.Equal(t, want, Reduce(must(t, SingleRaise), trials(20), trials(right), age35).Asymmetry.Class, "%g of 20", right)
	}
	r = Reduce(must(t, SingleRaise), trials(20), trials(18), age35)
	assert.Equal(t, 90.0, *r.Asymmetry.LSI)
	assert.False(t, r.Asymmetry.Clear)
	assert.True(t, Reduce(must(t, SingleRaise), trials(20), trials(17), age35).Asymmetry.Clear)
	_, ok := LSI(0, 0)
	assert.False(t, ok)
	lsi, ok := LSI(0, 5)
	assert.True(t, ok)
	assert.Equal(t, 0.0, lsi)
	assert.False(t, Reduce(wall, trials(9), nil, age35).Asymmetry.Known)
}

func TestFindings(t *testing.T) {
	fs := Findings(Input{Results: []Result{
		Reduce(must(t, KneeToWall), trials(11.5, 11.6, 11.4), trials(6, 6.2, 6.1), age35),
		Reduce(must(t, BigToePassive), trials(15, 14, 16), trials(14, 15, 13), age35),
		Reduce(must(t, SingleRaise), trials(21), trials(28), age35),
	}})
	require.Len(t, fs, 3)
	assert.Equal(t, Factor("sole-tight"), fs[0].Factor, "both sides limited: severity 3 leads")
	assert.Equal(t, 3, fs[0].Severity)
	assert.Equal(t, body.Both, fs[0].Side)
	assert.Equal(t, OneReading, fs[0].Confidence, "the foot-flat reading is missing")
	assert.Equal(t, Factor("ankle-stiff"), fs[1].Factor)
	assert.Equal(t, body.Right, fs[1].Side)
	assert.Equal(t, 2*2*3, fs[1].Priority.Total)
	assert.Equal(t, []Uneven{{KneeToWall, "Knee to wall", body.Right}}, fs[1].Uneven)
	for i, f := range fs {
		assert.Equal(t, i < MaxWorkedOn, f.WorkedOn)
		assert.Equal(t, f.WorkedOn, f.Waits == "")
		assert.NotEmpty(t, f.Evidence)
	}
	assert.Empty(t, Findings(Input{}))
	assert.Empty(t, Findings(Input{Results: []Result{Reduce(must(t, KneeToWall), nil, nil, age35)}}))
}

func mirror(fs []Finding) []Finding {
	for i := range fs {
		fs[i].Side = fs[i].Side.Other()
		for j := range fs[i].Uneven {
			fs[i].Uneven[j].First = fs[i].Uneven[j].First.Other()
		}
		ev := fs[i].Evidence
		for j := range ev {
			ev[j].Side = ev[j].Side.Other()
		}
		if len(ev) == 2 {
			ev[0], ev[1] = ev[1], ev[0]
		}
	}
	return fs
}

func TestMirroredInputGivesMirroredFindingsAndWorseNeverHelps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string, hi float64) []Trial {
			return trials(rapid.SliceOfN(rapid.Float64Range(0, hi), 1, 4).Draw(t, name)...)
		}
		wl, wr, tl, tr := draw("wl", 20), draw("wr", 20), draw("tl", 60), draw("tr", 60)
		wall, toe := must(t, KneeToWall), must(t, BigToePassive)
		a := Findings(Input{Results: []Result{Reduce(wall, wl, wr, age35), Reduce(toe, tl, tr, age35)}})
		b := Findings(Input{Results: []Result{Reduce(wall, wr, wl, age35), Reduce(toe, tr, tl, age35)}})
		for i := range a { // a side's confidence may differ where both sides are equally severe
			a[i].Confidence, b[i].Confidence = "", ""
		}
		assert.Equal(t, a, mirror(b))

		v := rapid.Float64Range(0, 20).Draw(t, "v")
		worse := rapid.Float64Range(0, v).Draw(t, "worse")
		s := Summarise(wall, body.Left, trials(v, v, v, v, v), age35)
		w := Summarise(wall, body.Left, trials(worse, worse, worse, worse, worse), age35)
		assert.GreaterOrEqual(t, w.Severity, s.Severity)
	})
}

func BenchmarkSummary(b *testing.B) {
	wall := must(b, KneeToWall)
	l, r := trials(10.6, 10.9, 11.1), trials(7.4, 7.9, 7.6)
	for b.Loop() {
		Reduce(wall, l, r, age35)
	}
}

// What devices counted makes a finding where nobody counted, and says that it is theirs;
// a coach's own count goes before it.
func TestCadenceByDevices(t *testing.T) {
	reach := Result{Test: Overstride, Left: SideSummary{Side: body.Left, Value: new(float64), Verdict: Limited, Severity: 2}, Right: SideSummary{Side: body.Right, Verdict: NotMeasured}}
	find := func(in Input) *Finding {
		for _, f := range Findings(in) {
			if f.Factor == "low-cadence" {
				return &f
			}
		}
		return nil
	}
	in := Input{Results: []Result{reach}}
	assert.Nil(t, find(in))
	in.Devices = []DeviceReading{{Test: CadenceTest, Value: 154, Runs: 5}}
	f := find(in)
	require.NotNil(t, f)
	assert.NotEqual(t, Sure, f.Confidence)
	assert.Contains(t, f.Evidence[0].Label, "by devices")
	assert.Equal(t, DeviceSource, f.Evidence[0].Source)
	own := 176.0
	in.Results = append(in.Results, Result{Test: CadenceTest, Left: SideSummary{Side: body.Both, Value: &own, Verdict: OK}})
	assert.Nil(t, find(in))
	// Much up and down by a device is looked at, and never more than that.
	for v, want := range map[float64]int{7.5: 0, 9: 1, 13: 1} {
		severity := 0
		for _, f := range Findings(Input{Devices: []DeviceReading{{Test: Bounce, Value: v, Runs: 4}}}) {
			if f.Factor == "bounce" {
				severity = f.Severity
			}
		}
		assert.Equal(t, want, severity, "%v cm", v)
	}
}
