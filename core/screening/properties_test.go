package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"notchback/core/body"
)

// drawTest picks any test of the table that takes numbers.
func drawTest(t *rapid.T) Test {
	var numeric []Test
	for _, x := range Tests() {
		if x.Unit != "class" {
			numeric = append(numeric, x)
		}
	}
	return rapid.SampledFrom(numeric).Draw(t, "test")
}

func drawValue(t *rapid.T, x Test, name string) float64 {
	if x.Whole {
		return float64(rapid.IntRange(int(x.Min), int(x.Max)).Draw(t, name))
	}
	return rapid.Float64Range(x.Min, x.Max).Draw(t, name)
}

func TestOfEveryTestAWorseValueNeverLowersTheSeverity(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawTest(t)
		cut := x.CutFor(age35)
		if cut == nil {
			return
		}
		a, b := drawValue(t, x, "a"), drawValue(t, x, "b")
		worse, better := min(a, b), max(a, b)
		if cut.Lower {
			worse, better = better, worse
		}
		side := body.Left
		if !x.Sided {
			side = body.Both
		}
		five := func(v float64) SideSummary { return Summarise(x, side, trials(v, v, v, v, v), age35) }
		assert.GreaterOrEqual(t, five(worse).Severity, five(better).Severity, "%s: %v against %v", x.ID, worse, better)
	})
}

func TestOfEveryTestTheOrderOfTrialsDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawTest(t)
		n := rapid.IntRange(1, 5).Draw(t, "n")
		list := make([]Trial, n)
		for i := range list {
			v := drawValue(t, x, "v")
			list[i] = Trial{Value: &v}
			if len(x.Compensations) > 0 && rapid.Bool().Draw(t, "comp") {
				list[i].Compensations = []string{rapid.SampledFrom(x.Compensations).Draw(t, "which").ID}
			}
		}
		back := make([]Trial, n)
		for i := range list {
			back[n-1-i] = list[i]
		}
		a, b := Summarise(x, body.Left, list, age35), Summarise(x, body.Left, back, age35)
		assert.Equal(t, a.Verdict, b.Verdict)
		assert.Equal(t, a.N, b.N)
		if a.Measured() {
			assert.InDelta(t, *a.Value, *b.Value, 1e-9)
		}
	})
}

func TestOfEveryTestMirroredSidesCompareMirrored(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := drawTest(t)
		if !x.Sided {
			return
		}
		l, r := drawValue(t, x, "l"), drawValue(t, x, "r")
		a, b := Reduce(x, trials(l), trials(r), age35).Asymmetry, Reduce(x, trials(r), trials(l), age35).Asymmetry
		assert.Equal(t, a.Weaker.Other(), b.Weaker)
		assert.Equal(t, a.Clear, b.Clear)
		assert.Equal(t, a.Class, b.Class)
		assert.InDelta(t, a.Difference, -b.Difference, 1e-9)
	})
}

func TestReTestsAreMirroredInTime(t *testing.T) {
	flip := map[Change]Change{Better: Worse, Worse: Better, Same: Same, NotComparable: NotComparable}
	rapid.Check(t, func(t *rapid.T) {
		x := drawTest(t)
		if x.Noise == nil {
			return // counts compare by a share of the older value
		}
		a := Summarise(x, body.Left, trials(drawValue(t, x, "a")), age35)
		b := Summarise(x, body.Left, trials(drawValue(t, x, "b")), age35)
		assert.Equal(t, flip[CompareDates(x, a, b).Change], CompareDates(x, b, a).Change)
	})
}

func TestAtMostThreeAreWorkedOnWhateverIsFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var in Input
		for _, x := range Tests() {
			if rapid.IntRange(0, 3).Draw(t, "take") > 0 {
				continue
			}
			draw := func(name string) []Trial {
				if len(x.Options) > 0 {
					return trials(rapid.SampledFrom(x.Options).Draw(t, name).Value)
				}
				return trials(drawValue(t, x, name))
			}
			in.Results = append(in.Results, Reduce(x, draw("l"), draw("r"), age35))
		}
		for range rapid.IntRange(0, 3).Draw(t, "complaints") {
			z := rapid.SampledFrom(Zones).Draw(t, "zone")
			in.Complaints = append(in.Complaints, Complaint{Zone: z.ID, Side: rapid.SampledFrom(body.Sides[:]).Draw(t, "side"), Worst: ptr(rapid.IntRange(0, 10).Draw(t, "worst"))})
		}
		worked := 0
		fs := Findings(in)
		for i, f := range fs {
			if f.WorkedOn {
				worked++
				assert.Empty(t, f.Waits)
			} else {
				assert.NotEmpty(t, f.Waits, "what waits says why")
			}
			assert.Equal(t, f.Priority.Severity*f.Priority.Relevance*f.Priority.Lever, f.Priority.Total)
			assert.Equal(t, f.Severity, f.Priority.Severity, f.Name)
			if i > 0 {
				assert.GreaterOrEqual(t, fs[i-1].Priority.Total, f.Priority.Total)
			}
			assert.NotEmpty(t, f.Side)
			assert.NotEmpty(t, f.Explains)
		}
		assert.Equal(t, min(MaxWorkedOn, len(fs)), worked)
	})
}
