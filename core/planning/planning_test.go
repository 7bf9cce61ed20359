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
	}
}

// start begins a ladder with the gates its own readings open.
func start(l catalogue.Ladder, e StartEvidence) Start {
	top := 1
	if r := e.result(screening.SingleRaise); r != nil {
		top = GateCeiling(l, gates(today, r))
	}
	return StartingNotch(l, e, max(top, 1))
}

func TestStartingNotchFromRaises(t *testing.T) {
	l := ladder(t, "calf-straight")
	for _, k := range []struct {
		count float64
		want  int
		dose  string
	}{{0, 2, "two legs 3 × 10"}, {4, 2, ""}, {5, 3, ""}, {9, 3, ""}, {10, 4, ""}, {12, 4, ""}, {13, 7, ""}, {19, 7, ""}, {20, 8, ""}, {24, 8, ""}, {25, 10, ""}} {
		assert.Equal(t, k.want, start(l, fit(k.count, k.count+3, 1)).Notch, "%v raises", k.count)
	}
	assert.Equal(t, 7, start(l, fit(28, 14, 1)).Notch, "the weaker side rules")
	assert.Equal(t, body.Right, start(l, fit(28, 14, 1)).ExtraSetSide)
	assert.Empty(t, start(l, fit(20, 18, 1)).ExtraSetSide, "symmetry 90 % is not under 90 %")
	assert.Equal(t, 1, start(l, fit(28, 28, 6)).Notch, "pain 6")

	e := fit(20, 20, 1)
	e.Person.FirstStructuredWork = ptr(true)
	assert.Equal(t, 7, start(l, e).Notch, "one caution, one lower")
	e.Person = body.Person{}
	assert.Equal(t, 6, start(l, e).Notch, "unknown counts as caution, at most two lower")
	e.Results = nil
	assert.Equal(t, 1, start(l, e).Notch, "not measured")
	one := fit(20, 20, 1)
	one.Results[0].Right = screening.SideSummary{}
	assert.Equal(t, 1, start(l, one).Notch, "one side only")
}

func TestStartingNotchOfRange(t *testing.T) {
	l := ladder(t, "range-soleus")
	from := func(left, right float64) int {
		e := fit(20, 20, 0)
		e.Results = append(e.Results, result(screening.KneeToWall, left, right, 0))
		return start(l, e).Notch
	}
	assert.Equal(t, 1, from(5, 12))
	assert.Equal(t, 2, from(9, 12))
	assert.Equal(t, 3, from(12, 12))
	assert.Equal(t, 1, start(l, fit(20, 20, 0)).Notch)
}

func TestNeverBeyondACeiling(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		l := rapid.SampledFrom(c.Ladders).Draw(t, "ladder")
		e := fit(float64(rapid.IntRange(0, 40).Draw(t, "l")), float64(rapid.IntRange(0, 40).Draw(t, "r")), rapid.IntRange(0, 7).Draw(t, "pain"))
		var open []safety.GateState
		if rapid.Bool().Draw(t, "open") {
			open = gates(today, &e.Results[0])
		}
		top := GateCeiling(l, open)
		s := StartingNotch(l, e, top)
		assert.LessOrEqual(t, s.Notch, max(1, top))
		for n := 1; n <= top; n++ {
			assert.True(t, l.At(n).Gate == "" || safety.IsOpen(open, l.At(n).Gate), "notch %d of ceiling %d", n, top)
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
		assert.Equal(t, w == 3 || w == 7, KindOf(monday, nil, monday+day.Date(7*w)) == DeloadWeek, "week %d", w+1)
	}
	// A block that starts on a Wednesday counts from its first whole week.
	assert.Equal(t, DeloadWeek, KindOf(monday+2, nil, monday+7*4))
	assert.Equal(t, Normal, KindOf(monday+2, nil, monday+7*3))
}
