package safety

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
)

// A gate's tests lie within 42 days of each other, and its evidence carries 84.
func TestTestsOfAGateLieWithinSixWeeks(t *testing.T) {
	hop := func(apart day.Date) bool {
		e := Evidence{On: today, Age: adult, Visits: []Dated{visit(today, result(t, screening.SingleRaise, 22, 22, 0)),
			visit(today-apart, result(t, screening.StanceOpen, 45, 50, 0), result(t, screening.BallHold, 32, 31, 0), result(t, screening.BriskWalk, 0, 0, 0))}}
		return state(e, Hop).Open
	}
	assert.True(t, hop(42))
	assert.False(t, hop(43))
	raise := func(back day.Date) GateState {
		return state(Evidence{On: today, Age: adult, Visits: []Dated{visit(today-back, result(t, screening.SingleRaise, 15, 15, 0))}}, SingleLegCalf)
	}
	s := raise(84)
	assert.True(t, s.Open)
	assert.Equal(t, today, *s.Until)
	assert.False(t, raise(85).Open)
	assert.Nil(t, raise(0).Until, "taken today")
}

// In a quiet fortnight no next morning is over 3, whatever is usual.
func TestTheHomeFortnightEndsOverThree(t *testing.T) {
	look := func(p body.Pain, usual float64) bool {
		minutes := map[day.Date]int{}
		for d := today - 13; d <= today; d++ {
			minutes[d] = homeMinutes
		}
		return HomeFortnight(minutes, func(d day.Date) (body.Pain, bool) { return p, d <= today }, func(day.Date) float64 { return usual }, today) != nil
	}
	assert.True(t, look(3, 3))
	assert.False(t, look(4, 4), "usual and still too much")
	assert.True(t, look(3, 2))
	assert.False(t, look(3, 1.5))
}

// A change of cadence needs three counts with a margin of at most 3.
func TestCadenceNeedsThreeCounts(t *testing.T) {
	open := func(n int, margin *float64) bool {
		v := 170.0
		r := screening.Result{Test: screening.CadenceTest, Left: screening.SideSummary{Side: body.Both, Value: &v, N: n, Margin: margin}}
		return state(Evidence{On: today, Age: adult, Visits: []Dated{visit(today, r)}}, CadenceChange).Open
	}
	assert.True(t, open(3, ptr(3.0)))
	assert.False(t, open(2, ptr(1.0)))
	assert.False(t, open(3, ptr(3.1)))
	assert.False(t, open(3, nil))
}

// Raises of both sides are even within 10 % or 2; one-legged hops begin at 16.
func TestHopAsksForEvenRaises(t *testing.T) {
	open := func(left, right float64, years int) bool {
		v := hopVisit(t, today, 21)
		v.Results[0] = result(t, screening.SingleRaise, left, right, 0)
		return state(Evidence{On: today, Age: screening.Age{Years: years, Known: true}, Visits: []Dated{v}}, Hop).Open
	}
	assert.True(t, open(20, 22, 35))
	assert.False(t, open(20, 23, 35), "87 % and three apart")
	assert.False(t, open(23, 20, 35))
	assert.True(t, open(30, 33, 35), "three apart and 91 %")
	assert.True(t, open(22, 22, 16))
	assert.False(t, open(22, 22, 15))
}

// Two clean legs prove one: at pain 3, done in full, with a known morning at B + 1.
func TestTwoLegsProveOne(t *testing.T) {
	clean := func(pain body.Pain, done float64, morning body.Pain, b float64) bool {
		return CleanTwoLeg(&pain, &done, &morning, b)
	}
	assert.True(t, clean(3, 1, 2, 1))
	assert.False(t, clean(4, 1, 2, 1))
	assert.False(t, clean(3, 0.99, 2, 1))
	assert.False(t, clean(3, 1, 3, 1))
	assert.True(t, clean(3, 1, 2, 1.0))
	assert.False(t, clean(3, 1, 2, 0.5))
	p, d := body.Pain(0), 1.0
	assert.False(t, CleanTwoLeg(&p, &d, nil, 1), "the morning is not known")
	assert.False(t, CleanTwoLeg(nil, &d, &p, 1))
	assert.False(t, CleanTwoLeg(&p, nil, &p, 1))
}

// Whatever is run counts as running: drills and form work too.
func TestWhatClosesRunningClosesDrills(t *testing.T) {
	c, err := catalogue.BuiltIn()
	assert.NoError(t, err)
	flag := RaiseSevereAt(today, body.Left, "achilles-mid")
	assert.True(t, flag.ClosesRunning())
	runs := 0
	for _, l := range c.Ladders {
		for n := 1; n <= l.Len(); n++ {
			if k := l.At(n).Kinds(); k[catalogue.RunningWork] || l.ID == "exposure-drill" || l.Purpose == "form" || l.Purpose == "return" {
				runs++
				assert.True(t, flag.Closes(k, body.Left), "%s %d", l.ID, n)
				assert.True(t, flag.Closes(k, body.Both), "%s %d", l.ID, n)
			}
		}
	}
	assert.Positive(t, runs)
}

// A clearance runs from its day to the end of its last, for flags raised before it.
func TestClearancesByDay(t *testing.T) {
	f := Standing{Flag: "F-BONE", Level: Refer, Since: today - 10}
	stands := func(from, until day.Date) bool {
		return len(Stand(today, []Standing{f}, []Clearance{{Flag: "F-BONE", On: from, Until: until}})) == 1
	}
	assert.False(t, stands(today-10, today))
	assert.True(t, stands(today-11, today), "older than the flag")
	assert.True(t, stands(today-5, today-1), "it is over")
	assert.True(t, stands(today+1, today+9), "not yet")
	assert.False(t, stands(today, today))
}

// No raise on one side with ten on the other is weakness; nine is not.
func TestNoRaiseAtAll(t *testing.T) {
	found := func(left, right float64) []Standing {
		return weak(today, result(t, screening.SingleRaise, left, right, 0))
	}
	assert.Len(t, found(0, 10), 1)
	assert.Equal(t, body.Left, found(0, 10)[0].Side)
	assert.Equal(t, body.Right, found(12, 0)[0].Side)
	assert.Empty(t, found(0, 9))
	assert.Empty(t, found(1, 20))
}

// Pain at rest of 5 raises the flag of severe pain; shin pain that lasts more than
// six weeks its own.
func TestComplaintsThatRaiseFlags(t *testing.T) {
	raised := func(c screening.Complaint) (ids []FlagID) {
		for _, s := range raisedBy(today, c) {
			ids = append(ids, s.Flag)
		}
		return ids
	}
	assert.Contains(t, raised(screening.Complaint{Zone: "heel", Side: body.Left, Rest: ptr(body.Pain(5))}), Severe)
	assert.Empty(t, raised(screening.Complaint{Zone: "heel", Side: body.Left, Rest: ptr(body.Pain(4))}))
	shin := func(weeks int) []FlagID {
		return raised(screening.Complaint{Zone: "inner-shin", Side: body.Left, SinceWeeks: &weeks, Now: ptr(body.Pain(3))})
	}
	assert.Contains(t, shin(LongShin+1), ShinLong)
	assert.NotContains(t, shin(LongShin), ShinLong)
}
