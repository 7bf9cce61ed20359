package safety

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
)

var (
	today = day.Make(2026, time.May, 4)
	adult = screening.Age{Years: 35, Known: true}
)

func ptr[T any](v T) *T { return &v }

func result(t *testing.T, id screening.TestID, left, right float64, pain body.Pain) screening.Result {
	x, ok := screening.Find(id)
	require.True(t, ok)
	three := func(v float64) []screening.Trial {
		tr := screening.Trial{Value: &v, Pain: &pain}
		return []screening.Trial{tr, tr, tr, tr, tr}
	}
	return screening.Reduce(x, three(left), three(right), adult)
}

func state(e Evidence, g catalogue.Gate) GateState {
	s, _ := Find(Gates(e), g)
	return s
}

func visit(on day.Date, rs ...screening.Result) Dated { return Dated{on, rs} }

func TestCalfGatesAtTheirNumbers(t *testing.T) {
	open := func(left, right float64, pain body.Pain, after day.Date) [2]bool {
		e := Evidence{On: today + after, Age: adult, Visits: []Dated{visit(today, result(t, screening.SingleRaise, left, right, pain))}}
		return [2]bool{state(e, SingleLegCalf).Open, state(e, LoadedCalf).Open}
	}
	assert.Equal(t, [2]bool{false, false}, open(9, 20, 1, 0))
	assert.Equal(t, [2]bool{true, false}, open(10, 14, 1, 0))
	assert.Equal(t, [2]bool{true, true}, open(15, 15, 3, 0))
	assert.Equal(t, [2]bool{false, false}, open(15, 15, 4, 0), "pain over 3 opens nothing")
	assert.Equal(t, [2]bool{true, true}, open(15, 15, 3, 84))
	assert.Equal(t, [2]bool{false, false}, open(15, 15, 3, 85), "evidence ages")
	on := today
	assert.True(t, state(Evidence{On: today, Age: adult, TwoLegClean: &on}, SingleLegCalf).Open, "two legs 3 × 15 proves one leg")
	assert.True(t, IsOpen(nil, ""))
	assert.False(t, IsOpen(nil, "hop"))
}

func hopVisit(t *testing.T, on day.Date, raises float64) Dated {
	return visit(on, result(t, screening.SingleRaise, raises, raises, 0), result(t, screening.StanceOpen, 45, 50, 0),
		result(t, screening.BallHold, 32, 31, 0), result(t, screening.BriskWalk, 0, 0, 0))
}

func TestHopNeedsAllOfItAndProvesTheLowerGates(t *testing.T) {
	e := Evidence{On: today, Age: adult, Visits: []Dated{hopVisit(t, today, 21)}}
	assert.True(t, state(e, Hop).Open, "%v", state(e, Hop).Missing)
	assert.True(t, state(e, LoadedCalf).Open)
	e.Unasked = true
	assert.False(t, state(e, Hop).Open, "an unanswered safety question counts as careful")
	e.Unasked = false
	e.Visits = []Dated{hopVisit(t, today, 19)}
	assert.False(t, state(e, Hop).Open)
	e.Age = screening.Age{Years: 61, Known: true}
	assert.True(t, state(e, Hop).Open, "15 are enough from 60")
	e.Age = adult

	// A newer reading under 90 % closes it; one between leaves it.
	e.Visits = []Dated{visit(today, result(t, screening.SingleRaise, 19, 19, 0)), hopVisit(t, today-20, 22)}
	assert.True(t, state(e, Hop).Open, "19 of 20 is not under 90 %%")
	e.Visits[0] = visit(today, result(t, screening.SingleRaise, 17, 17, 0))
	assert.False(t, state(e, Hop).Open)
	// Its tests must lie within six weeks of each other.
	e.Visits = []Dated{visit(today, result(t, screening.SingleRaise, 22, 22, 0)), hopVisit(t, today-50, 22)}
	assert.False(t, state(e, Hop).Open)
}

func TestFlagsCloseGatesAndWaiversKnowTheirLimits(t *testing.T) {
	bone := Raise(today, Answers{Yes: map[string]body.Side{"F-BONE": body.Left}}, nil, nil)
	require.Len(t, bone, 1)
	e := Evidence{On: today, Age: adult, Visits: []Dated{hopVisit(t, today, 25)}, Flags: bone, Waivers: []Waiver{{Hop, "keen"}}}
	assert.False(t, state(e, Hop).Open)
	assert.NotEmpty(t, MayWaive(e, Hop))
	e.Flags = nil
	e.Visits = nil
	assert.Equal(t, "waived", state(e, Hop).State)
	e.Age = screening.Age{Years: 17, Known: true}
	assert.False(t, state(e, Hop).Open, "no waivers for minors")
	e.Age = screening.Age{}
	assert.False(t, state(e, Hop).Open, "nor while the age is not known")
	e.Age = adult
	e.Visits = []Dated{visit(today, result(t, screening.ToeWalk, 0, 2, 0))}
	assert.False(t, state(e, Hop).Open, "not while walking hurts")
}

func TestEveryFlagQuestionRaisesItsFlag(t *testing.T) {
	n := 0
	for _, g := range Questions(screening.Age{}) {
		for _, q := range g.Questions {
			n++
			got := Raise(today, Answers{Yes: map[string]body.Side{q.ID: body.Both}}, nil, nil)
			require.Len(t, got, 1, q.ID)
			assert.Equal(t, q.Flag, got[0].Flag)
			assert.Equal(t, q.Level, got[0].Level)
			if q.Level == Emergency {
				assert.True(t, got[0].Everything, "%s closes everything", q.ID)
				assert.True(t, got[0].Closes(catalogue.Kinds{catalogue.Any: true}, body.Left))
				assert.True(t, got[0].ClosesGate(Hop))
			}
			assert.Equal(t, q.Text, Text(q.Flag, q.Level))
		}
	}
	assert.GreaterOrEqual(t, n, 38)
	assert.Less(t, len(flat(adult)), n, "questions for minors are not asked of adults")
	for _, broken := range []string{"- {group: G, flags: [{id: F-X, level: loud, text: x}]}", "- {group: G, colour: red}", "- {group: G, flags: [{id: F-X}]}"} {
		_, err := parseFlags([]byte(broken))
		assert.Error(t, err, broken)
	}
}

func flat(a screening.Age) (out []Question) {
	for _, g := range Questions(a) {
		out = append(out, g.Questions...)
	}
	return
}

func TestUnaskedGroupsAreNamed(t *testing.T) {
	a := Answers{Yes: map[string]body.Side{"F-BONE": body.Left}, None: []string{"Right now"}}
	assert.Equal(t, []string{"Nerves, blood and skin", "Heart, illness and medicine"}, a.Unasked(adult))
}

func TestReadingsRaiseFlags(t *testing.T) {
	got := Raise(today, Answers{}, []screening.Complaint{{Zone: "calf", Side: body.Right, Worst: ptr(8)}}, nil)
	require.Len(t, got, 1)
	assert.Equal(t, Severe, got[0].Flag)
	assert.True(t, got[0].Closes(catalogue.Kinds{"loads-achilles-calf": true}, body.Right))
	assert.False(t, got[0].Closes(catalogue.Kinds{"loads-achilles-calf": true}, body.Left))
	got = Raise(today, Answers{}, nil, []screening.Result{result(t, screening.SingleRaise, 0, 10, 0)})
	require.Len(t, got, 1)
	assert.Equal(t, Weak, got[0].Flag)
	assert.Empty(t, Raise(today, Answers{}, nil, []screening.Result{result(t, screening.SingleRaise, 0, 9, 0)}))
}

func TestAClearanceRunsToTheEndOfItsDate(t *testing.T) {
	flags := Raise(today, Answers{Yes: map[string]body.Side{"F-BONE": body.Left}}, nil, nil)
	c := []Clearance{{Flag: "F-BONE", On: today + 3, Until: today + 10}}
	for after, stands := range map[day.Date]bool{0: true, 2: true, 3: false, 10: false, 11: true} {
		assert.Equal(t, stands, len(Stand(today+after, flags, c)) == 1, "day %d", after)
	}
	flags[0].Since = today + 4
	assert.Len(t, Stand(today+5, flags, c), 1, "a clearance does not cover a flag that came later")
}

// Fourteen days, eleven of them logged at 30 minutes or more, quiet mornings.
func TestHomeFortnight(t *testing.T) {
	minutes := map[day.Date]int{}
	mornings := map[day.Date]body.Pain{}
	for d := today - 13; d <= today; d++ {
		minutes[d] = 30
	}
	look := func() *day.Date {
		return HomeFortnight(minutes, func(d day.Date) (body.Pain, bool) { p, ok := mornings[d]; return p, ok }, func(day.Date) float64 { return 1 }, today)
	}
	require.Nil(t, look(), "seven next mornings have to be known")
	for d := today - 12; d <= today; d++ {
		mornings[d] = 1
	}
	require.NotNil(t, look())
	assert.Equal(t, today, *look())
	delete(minutes, today-3)
	delete(minutes, today-6)
	minutes[today-9] = 20
	assert.NotNil(t, look(), "eleven of fourteen")
	minutes[today-11] = 29
	assert.Nil(t, look(), "ten")
	minutes[today-11] = 30
	mornings[today-7] = 2
	assert.NotNil(t, look(), "one over the usual one")
	mornings[today-7] = 3
	assert.Nil(t, look(), "two over")
	delete(mornings, today-7)
	mornings[today-5] = 4
	assert.NotNil(t, look(), "the day before it had no exposure")
	// An older fortnight counts as long as evidence carries.
	for d := today - 40; d <= today-27; d++ {
		minutes[d], mornings[d+1] = 60, 1
	}
	mornings[today-1] = 6
	require.NotNil(t, look())
	assert.Less(t, *look(), today-20, "the newest bad morning is not slid past into the last days")
	// The second morning of two or more over the usual within 14 days closes it.
	mornings[today-9] = 5
	assert.Nil(t, look())
}

// The chain comes last: whatever closes a gate closes those above it, and a higher
// gate proves none that a flag, a reading or its age closed.
func TestTheChainIsAppliedLast(t *testing.T) {
	e := Evidence{On: today, Age: adult, Visits: []Dated{hopVisit(t, today, 26)}}
	require.True(t, state(e, Hop).Open)
	require.True(t, state(e, SingleLegCalf).Open)
	e.Flags = []Standing{{Flag: "F-MED", Level: Limit, Gates: []catalogue.Gate{LoadedCalf}}}
	assert.False(t, state(e, LoadedCalf).Open)
	assert.False(t, state(e, Hop).Open, "closing one closes those above")
	assert.True(t, state(e, SingleLegCalf).Open)
	e.Flags = []Standing{{Flag: "F-COMP", Level: Refer, Running: true}}
	assert.False(t, state(e, CadenceChange).Open)
	assert.Contains(t, state(e, CadenceChange).Missing, "a clearance for the tight, painful shin or calf")
	// A try that pain ended opens nothing.
	e = Evidence{On: today, Age: adult, Visits: []Dated{hopVisit(t, today, 26)}}
	e.Visits[0].Results[0].Left.StoppedByPain = true
	assert.False(t, state(e, SingleLegCalf).Open)
}

func walkVisit(t *testing.T, on day.Date) Dated {
	return visit(on, result(t, screening.Arch, 2, 2, 0), result(t, screening.StanceOpen, 45, 50, 0), result(t, screening.Squat, 0, 1, 0))
}

// The barefoot gates open on what was lived as well as on tests.
func TestBarefootGatesOpenOnWhatWasLived(t *testing.T) {
	e := Evidence{On: today, Age: adult, Visits: []Dated{walkVisit(t, today-5)}}
	walk := state(e, BarefootWalk)
	assert.False(t, walk.Open)
	require.Len(t, walk.Needs, 1)
	assert.Equal(t, NeedRamp, walk.Needs[0].Kind)
	e.HomeDays = ptr(today - 1)
	assert.True(t, state(e, BarefootWalk).Open)
	e.HomeDays = ptr(today - 60)
	assert.False(t, state(e, BarefootWalk).Open, "not within six weeks of its tests")
	e.HomeDays = ptr(today + 1)
	assert.False(t, state(e, BarefootWalk).Open, "not from the future")
	assert.False(t, state(e, BarefootStrength).Open)
	e.WalkPassed = ptr(today - 1)
	assert.True(t, state(e, BarefootStrength).Open)
	e.Flare = ptr(today)
	assert.False(t, state(e, BarefootStrength).Open, "after a flare its tests again")
}

// Minimal shoes ask for hop and for an arch; they prove neither.
func TestMinimalShoesProveNothingBelowThem(t *testing.T) {
	ankle := []screening.Result{result(t, screening.KneeToWall, 11, 12, 0), result(t, screening.BigToePassive, 35, 36, 0), result(t, screening.Arch, 2, 2, 0)}
	e := Evidence{On: today, Age: adult, Visits: []Dated{visit(today, ankle...)}, PogoClean: ptr(today)}
	s := state(e, MinShoeRun)
	assert.False(t, s.Open)
	assert.Equal(t, []string{"the gate hop"}, s.Missing)
	assert.Equal(t, NeedGate, s.Needs[0].Kind)
	assert.False(t, state(e, Hop).Open)
	hop := hopVisit(t, today, 21)
	hop.Results = append(hop.Results, ankle...)
	e.Visits = []Dated{hop}
	assert.True(t, state(e, MinShoeRun).Open, "%v", state(e, MinShoeRun).Missing)
	// A partly kept arch needs short foot and squat, unless the school asks less.
	hop.Results[len(hop.Results)-1] = result(t, screening.Arch, 1, 1, 0)
	e.Visits = []Dated{hop}
	assert.False(t, state(e, MinShoeRun).Open)
	e.Barefoot = "gradual-for-all"
	assert.True(t, state(e, MinShoeRun).Open)
	e.Barefoot = "shoes-stay"
	assert.False(t, state(e, MinShoeRun).Open)
	e.Barefoot = ""
	hop.Results = append(hop.Results, result(t, screening.ShortFoot, 2, 2, 0), result(t, screening.Squat, 0, 0, 0))
	e.Visits = []Dated{hop}
	assert.True(t, state(e, MinShoeRun).Open, "%v", state(e, MinShoeRun).Missing)
}

// What a gate lacks is said with what was read and what is asked for.
func TestAGateSaysWhatItLacks(t *testing.T) {
	e := Evidence{On: today, Age: adult, Visits: []Dated{hopVisit(t, today, 12)}}
	s := state(e, Hop)
	require.NotEmpty(t, s.Needs)
	assert.Equal(t, screening.SingleRaise, s.Needs[0].Test)
	assert.EqualValues(t, 12, *s.Needs[0].Have)
	assert.EqualValues(t, 20, s.Needs[0].Least)
	assert.Len(t, s.Needs, len(s.Missing))
	e.Flags = []Standing{{Flag: "F-BONE", Gates: []catalogue.Gate{Hop}}}
	s = state(e, Hop)
	assert.Equal(t, NeedClearance, s.Needs[len(s.Needs)-1].Kind)
	for _, g := range Gates(Evidence{On: today}) {
		assert.Len(t, g.Needs, len(g.Missing), "%s", g.Gate)
		for _, id := range WorksOn(g.Gate) {
			c, err := catalogue.BuiltIn()
			require.NoError(t, err)
			_, ok := c.Ladder(id)
			assert.True(t, ok, "%s works on %s and is not in the catalogue", id, g.Gate)
		}
	}
}
