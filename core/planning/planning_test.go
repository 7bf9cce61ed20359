package planning

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

var today = day.Make(2026, time.May, 4)

func ptr[T any](v T) *T { return &v }

func ladder(t require.TestingT, id string) catalogue.Ladder {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	l, ok := c.Ladder(id)
	require.True(t, ok, id)
	return l
}

func result(id screening.TestID, left, right float64, pain body.Pain) screening.Result {
	t, _ := screening.Find(id)
	one := func(v float64) []screening.Trial {
		return []screening.Trial{{Value: &v, Pain: &pain}, {Value: &v, Pain: &pain}, {Value: &v, Pain: &pain}}
	}
	return screening.Reduce(t, one(left), one(right), screening.Age{Years: 35, Known: true})
}

func gates(on day.Date, r *screening.Result) []safety.GateState {
	return safety.Gates(safety.Evidence{On: on, Visits: []safety.Dated{{On: today, Results: []screening.Result{*r}}}})
}

// fit is a runner without any caution, whose gates stand on the same raises.
func fit(left, right float64, pain body.Pain) StartEvidence {
	birth := day.Make(1990, time.January, 1)
	r := result(screening.SingleRaise, left, right, pain)
	return StartEvidence{
		On: today, Results: []screening.Result{r},
		Person: body.Person{Birth: &birth, FirstStructuredWork: ptr(false), RecentVolumeRise: ptr(false)},
		Gates:  gates(today, &r),
	}
}

func TestStartingNotchFromRaises(t *testing.T) {
	l := ladder(t, "calf-straight")
	for _, k := range []struct {
		count float64
		want  int
		dose  string
	}{{0, 2, "two legs 3 × 10"}, {4, 2, ""}, {5, 3, ""}, {9, 3, ""}, {10, 4, ""}, {12, 4, ""}, {13, 7, ""}, {19, 7, ""}, {20, 8, ""}, {24, 8, ""}, {25, 10, ""}} {
		assert.Equal(t, k.want, StartingNotch(l, fit(k.count, k.count+3, 1)).Notch, "%v raises", k.count)
	}
	assert.Equal(t, 7, StartingNotch(l, fit(28, 14, 1)).Notch, "the weaker side rules")
	assert.Equal(t, body.Right, StartingNotch(l, fit(28, 14, 1)).ExtraSetSide)
	assert.Empty(t, StartingNotch(l, fit(20, 18, 1)).ExtraSetSide, "symmetry 90 % is not under 90 %")
	assert.Equal(t, 1, StartingNotch(l, fit(28, 28, 6)).Notch, "pain 6")

	e := fit(20, 20, 1)
	e.Person.FirstStructuredWork = ptr(true)
	assert.Equal(t, 7, StartingNotch(l, e).Notch, "one caution, one lower")
	e.Person = body.Person{}
	assert.Equal(t, 6, StartingNotch(l, e).Notch, "unknown counts as caution, at most two lower")
	e.Results = nil
	assert.Equal(t, 1, StartingNotch(l, e).Notch, "not measured")
	one := fit(20, 20, 1)
	one.Results[0].Right = screening.SideSummary{}
	assert.Equal(t, 1, StartingNotch(l, one).Notch, "one side only")
}

func TestStartingNotchOfRange(t *testing.T) {
	l := ladder(t, "range-soleus")
	start := func(left, right float64) int {
		e := fit(20, 20, 0)
		e.Results = append(e.Results, result(screening.KneeToWall, left, right, 0))
		return StartingNotch(l, e).Notch
	}
	assert.Equal(t, 1, start(5, 12))
	assert.Equal(t, 2, start(9, 12))
	assert.Equal(t, 3, start(12, 12))
	assert.Equal(t, 1, StartingNotch(l, fit(20, 20, 0)).Notch)
}

func TestNeverBeyondAClosedGate(t *testing.T) {
	l := ladder(t, "calf-straight")
	rapid.Check(t, func(t *rapid.T) {
		e := fit(float64(rapid.IntRange(0, 40).Draw(t, "l")), float64(rapid.IntRange(0, 40).Draw(t, "r")), rapid.IntRange(0, 7).Draw(t, "pain"))
		if rapid.Bool().Draw(t, "shut") {
			e.Gates = nil
		}
		s := StartingNotch(l, e)
		for n := 1; n <= s.Notch; n++ {
			assert.True(t, safety.Open(e.Gates, l.At(n).Gate), "notch %d of start %d", n, s.Notch)
		}
	})
}

func TestDeload(t *testing.T) {
	for sets, want := range map[int]int{1: 1, 2: 1, 3: 2, 4: 2, 5: 3} {
		assert.Equal(t, want, DeloadSets(sets))
	}
	assert.Equal(t, catalogue.Dose{Sets: 1, HoldSeconds: 80}, Deload(catalogue.Dose{Sets: 1, HoldSeconds: 120}))
	assert.Equal(t, 2, Deload(catalogue.Dose{Sets: 3, Reps: 12}).Sets)
	monday := today.Monday()
	for w := range 8 {
		assert.Equal(t, w == 3 || w == 7, IsDeload(monday, monday+day.Date(7*w)), "week %d", w+1)
	}
	// A block that starts on a Wednesday counts from its first whole week.
	assert.True(t, IsDeload(monday+2, monday+7*4))
	assert.False(t, IsDeload(monday+2, monday+7*3))
}
