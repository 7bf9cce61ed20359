package transition

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

func homeWeek() Week {
	return Week{Monday: monday, State: State{Stage: Home}, Dose: Dose{HomeMinutes: 30}}
}

// A week at home passes at 60 % of its days and not below, a day counts from 80 % of
// its minutes.
func TestAWeekPassesAtSixtyPercent(t *testing.T) {
	week := func(days, minutes int) verdict {
		at := map[day.Date]Reading{}
		for i := range days {
			at[monday+day.Date(i)] = Reading{HomeMinutes: &minutes}
		}
		v := judge(homeWeek(), at, monday+7)
		v.adherence(homeWeek())
		return v
	}
	five := week(5, 30)
	assert.Equal(t, 71, five.percent)
	assert.Equal(t, Passed, five.outcome)
	four := week(4, 30)
	assert.Equal(t, 57, four.percent)
	assert.Equal(t, Repeated, four.outcome)
	assert.Equal(t, Passed, week(5, 24).outcome, "24 of 30 are enough")
	assert.Equal(t, Repeated, week(5, 23).outcome)
	assert.True(t, week(0, 30).missed)
	assert.False(t, week(1, 1).missed)
	assert.Equal(t, 100, week(7, 90).percent)
	at60 := verdict{outcome: Passed, percent: 60}
	at60.adherence(homeWeek())
	assert.Equal(t, Passed, at60.outcome)
	at59 := verdict{outcome: Passed, percent: 59}
	at59.adherence(homeWeek())
	assert.Equal(t, Repeated, at59.outcome)
}

// Calves over 4 on two days 48 hours apart, with nothing better between.
func TestSoreForFortyEightHours(t *testing.T) {
	sore := func(p ...int) bool {
		at := map[day.Date]Reading{}
		for i, x := range p {
			if x >= 0 {
				v := body.Pain(x)
				at[monday+day.Date(i)] = Reading{Soreness: &v}
			}
		}
		_, _, ok := soreSpell(at, monday, monday+6)
		return ok
	}
	assert.True(t, sore(5, -1, 5))
	assert.False(t, sore(5, 5), "a day apart")
	assert.False(t, sore(5, 4, 5), "better between")
	assert.True(t, sore(5, 5, 5))
	assert.False(t, sore(4, -1, 5))
	assert.False(t, sore(5, -1, 4))
	late := map[day.Date]Reading{}
	five := body.Pain(5)
	late[monday-7] = Reading{Soreness: &five}
	late[monday] = Reading{Soreness: &five}
	_, _, ok := soreSpell(late, monday, monday)
	assert.True(t, ok, "seven days back")
	delete(late, monday-7)
	late[monday-8] = Reading{Soreness: &five}
	_, _, ok = soreSpell(late, monday, monday)
	assert.False(t, ok)
}

// More than 130 % and five minutes over what was planned is done again.
func TestTooMuchIsDoneAgain(t *testing.T) {
	w := Week{Monday: monday, State: State{Stage: Walk}, Dose: Dose{Walks: 2, WalkTimes: 1, WalkMinutes: 50}}
	outcome := func(minutes int) Outcome {
		return judge(w, map[day.Date]Reading{monday: {Done: []Done{{Stage: Walk, Minutes: minutes}}}}, monday+7).outcome
	}
	assert.Equal(t, 100, w.Dose.minutes(Walk))
	assert.Equal(t, Passed, outcome(135))
	assert.Equal(t, Repeated, outcome(136))
}

// A morning two over the usual, after a day with an exposure.
func TestABadMorningRepeatsTheWeek(t *testing.T) {
	outcome := func(minutes int, p body.Pain, usual float64, until day.Date) Outcome {
		return judge(homeWeek(), map[day.Date]Reading{monday: {HomeMinutes: &minutes}, monday + 1: {Morning: &p, Usual: usual}}, until).outcome
	}
	assert.Equal(t, Repeated, outcome(30, 3, 1, monday+7))
	assert.Equal(t, Passed, outcome(30, 2, 1, monday+7))
	assert.Equal(t, Passed, outcome(30, 3, 1.5, monday+7))
	assert.Equal(t, Passed, outcome(0, 9, 1, monday+7), "nothing was done the day before")
	assert.Equal(t, Passed, outcome(30, 9, 1, monday), "not yet known")
}

// A tender bone is seven days out; the eighth is a strike of its own, and two refer.
func TestStrikesSevenDaysApart(t *testing.T) {
	assert.Equal(t, []day.Date{monday}, Strikes([]day.Date{monday + 7, monday, monday + 3}))
	assert.Equal(t, []day.Date{monday, monday + 8}, Strikes([]day.Date{monday, monday + 8}))
	assert.Empty(t, Strikes(nil))
	assert.False(t, Refers(1))
	assert.True(t, Refers(2))
}

// A clearance counts for what was tender before it, not for what came after.
func TestAnOlderClearanceClearsNothing(t *testing.T) {
	refer := func(cleared *day.Date) bool {
		in := lived(terms(), 1, nil)
		in.Readings = append(in.Readings, Reading{On: monday, Tender: true}, Reading{On: monday + 10, Tender: true})
		in.Today = monday + 20
		in.Cleared = cleared
		return Plan(in).Refer
	}
	assert.True(t, refer(nil))
	assert.True(t, refer(ptr(monday+9)), "given before the second")
	assert.False(t, refer(ptr(monday+10)))
	assert.False(t, refer(ptr(monday+15)))
}

// The mornings themselves show a flare: three two over running, one missing between
// counted; three quiet ones end it.
func TestFlaresOfTheMornings(t *testing.T) {
	of := func(p ...int) []Flare {
		at := map[day.Date]Reading{}
		for i, x := range p {
			if x >= 0 {
				v := body.Pain(x)
				at[monday+day.Date(i)] = Reading{Morning: &v, Usual: 1}
			}
		}
		return flaresIn(at, monday, monday+day.Date(len(p)-1))
	}
	assert.Empty(t, of(3, 3))
	assert.Equal(t, []Flare{{Since: monday + 2}}, of(3, 3, 3))
	assert.Equal(t, []Flare{{Since: monday + 2}}, of(3, -1, 3))
	assert.Empty(t, of(3, -1, -1, 3))
	assert.Empty(t, of(3, 2, 3, 3))
	assert.Equal(t, []Flare{{Since: monday + 2, Until: ptr(monday + 5)}}, of(3, 3, 3, 2, 2, 2))
	assert.Equal(t, []Flare{{Since: monday + 2}}, of(3, 3, 3, 2, 2, -1, 2))
	assert.Len(t, of(3, 3, 3, 2, 2, 2, 3, 3, 3), 2)
	joined := together([]Flare{{Since: monday, Until: ptr(monday + 5)}}, []Flare{{Since: monday + 5, Until: ptr(monday + 9)}, {Since: monday + 11}})
	assert.Equal(t, []Flare{{Since: monday, Until: ptr(monday + 9)}, {Since: monday + 11}}, joined)
	assert.Equal(t, []Flare{{Since: monday}}, together([]Flare{{Since: monday}}, []Flare{{Since: monday + 3, Until: ptr(monday + 4)}}))
	assert.Equal(t, []Flare{{Since: monday}}, together([]Flare{{Since: monday, Until: ptr(monday + 5)}}, []Flare{{Since: monday + 2}}))
}

// When a gate may open at the earliest, by what it still asks for.
func TestOutlooksByKind(t *testing.T) {
	have := func(test screening.TestID, v, least float64) safety.Missing {
		return safety.Missing{Kind: safety.NeedTest, Test: test, Have: &v, Least: least}
	}
	assert.Equal(t, 2, testWeeks(have(screening.SingleRaise, 19, 20)))
	assert.Equal(t, 2, testWeeks(have(screening.SingleRaise, 16, 20)))
	assert.Equal(t, 4, testWeeks(have(screening.SingleRaise, 15, 20)), "two and a half weeks are four: in re-tests")
	assert.Equal(t, 2, testWeeks(have(screening.SingleRaise, 20, 20)))
	assert.Equal(t, 4, testWeeks(have(screening.Arch, 1, 2)))
	assert.Equal(t, 8, testWeeks(have(screening.Arch, 0, 2)))
	assert.Zero(t, testWeeks(safety.Missing{Kind: safety.NeedTest, Test: screening.Arch, Least: 2}))
	gate := func(g catalogue.Gate, kind safety.NeedKind, flags ...safety.Standing) Outlook {
		return Outlooks([]safety.GateState{{Gate: g, Name: "x", Needs: []safety.Missing{{Kind: kind, Words: "w"}}}}, monday, nil, 3, flags)[g]
	}
	assert.Equal(t, monday+14, *gate(safety.BarefootHome, safety.NeedCalm).From)
	assert.Equal(t, monday, *gate(safety.BarefootHome, safety.NeedAnswer).From)
	assert.Equal(t, monday+21, *gate(safety.MinShoeRun, safety.NeedRamp).From)
	assert.Equal(t, monday, *gate(safety.BarefootWalk, safety.NeedRamp).From)
	assert.Nil(t, gate(safety.BarefootWalk, safety.NeedSchool).From)
	flag := safety.RaiseSevereAt(monday, body.Left, "heel")
	for _, g := range []catalogue.Gate{safety.BarefootHome, safety.BarefootWalk, safety.MinShoeRun, safety.BarefootRun} {
		o := gate(g, safety.NeedTest, flag)
		assert.False(t, o.Open, string(g))
		assert.Nil(t, o.From, "nobody knows when a clinician clears it")
		assert.Contains(t, o.Words, "clearance")
	}
	knee := safety.Standing{Flag: "x", Running: true, Tissues: []body.Tissue{}}
	assert.NotNil(t, gate(safety.BarefootHome, safety.NeedTest, knee).From, "a flag on running leaves home alone")
	assert.Nil(t, gate(safety.MinShoeRun, safety.NeedTest, knee).From)
}

// A shift of the strike is one class at the most, on a ready calf.
func TestShiftOfTheStrike(t *testing.T) {
	s := Shift("rear", true, false)
	assert.True(t, s.Allowed)
	assert.Equal(t, "mid", s.To)
	assert.InDelta(t, 100*(5.8/5.2-1), s.Achilles, 1e-9)
	assert.Equal(t, "fore", Shift("mid", true, false).To)
	assert.False(t, Shift("", true, false).Allowed)
	assert.False(t, Shift("rear", false, false).Allowed)
	assert.False(t, Shift("rear", true, true).Allowed)
	assert.Equal(t, 8, s.WeeksMin)
}
