package adjust

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
)

func mornings(from day.Date, list ...body.Pain) []Morning {
	out := make([]Morning, len(list))
	for i, p := range list {
		out[i] = Morning{from + day.Date(i), p}
	}
	return out
}

var week1 = day.Make(2026, 5, 4) // a Monday

// The weekly look knows nothing on two mornings and something on three, of its own
// seven days.
func TestTheWeeklyLookNeedsThreeReadings(t *testing.T) {
	look := func(list []Morning, b0 float64) (WeekVerdict, bool) {
		v, _, known := History{Mornings: list, B0: b0}.Week(week1)
		return v, known
	}
	v, known := look(mornings(week1, 5, 5), 1)
	assert.False(t, known)
	assert.Equal(t, WeekFree, v)
	v, known = look(mornings(week1, 5, 5, 5), 1)
	assert.True(t, known)
	assert.Equal(t, WeekBack, v)
	v, _ = look(mornings(week1, 3, 3, 3), 1)
	assert.Equal(t, WeekBack, v, "two over where it began")
	v, _ = look(mornings(week1, 3, 3, 3), 1.5)
	assert.Equal(t, WeekHold, v, "less than two: it creeps up")
	v, known = look(mornings(week1, 1, 1, 1), 1)
	assert.True(t, known)
	assert.Equal(t, WeekFree, v)
	_, known = look(mornings(week1-2, 5, 5, 5, 5), 1)
	assert.False(t, known, "two of them are last week's")
	_, known = look(mornings(week1+5, 5, 5, 5), 1)
	assert.False(t, known, "one is next week's")
	v, _ = look(mornings(week1, 6, 6, 6), 9)
	assert.Equal(t, WeekBack, v, "where it began counts as 4 at most")
}

// What followed a session that row 2 or 3 decided is no usual morning.
func TestTheBaselineLeavesOutWhatFollowedAFlareOrAStepBack(t *testing.T) {
	b := func(row Row) float64 {
		h := History{B0: 4, Mornings: mornings(week1, 0, 4, 4, 0), Sessions: []Session{{On: week1 - 1, DecidedBy: row}, {On: week1 + 2, DecidedBy: row}}}
		return h.Baseline(week1 + 3)
	}
	assert.InDelta(t, 4, b(2), 0)
	assert.InDelta(t, 4, b(3), 0)
	assert.InDelta(t, 2, b(1), 0)
	assert.InDelta(t, 2, b(4), 0)
	assert.InDelta(t, 2, b(RowNone), 0)
}

// Seven days up to the session: the day itself counts, the eighth before does not.
func TestTheBaselineLooksAtSevenDays(t *testing.T) {
	b := func(on day.Date) float64 {
		return History{B0: 4, Mornings: []Morning{{on, 0}}}.Baseline(week1)
	}
	assert.InDelta(t, 0, b(week1), 0)
	assert.InDelta(t, 0, b(week1-6), 0)
	assert.InDelta(t, 4, b(week1-7), 0)
	assert.InDelta(t, 4, b(week1+1), 0)
	assert.InDelta(t, 4, History{B0: 7}.Baseline(week1), 0, "counts as four at the most")
	rest := func(on day.Date) float64 {
		return History{RestB0: 5, Rests: []Rest{{on, 1}}}.RestBaseline(week1)
	}
	assert.InDelta(t, 1, rest(week1-1), 0)
	assert.InDelta(t, 1, rest(week1-6), 0)
	assert.InDelta(t, 5, rest(week1-7), 0)
	assert.InDelta(t, 5, rest(week1), 0, "the day itself is what is judged")
	assert.InDelta(t, 2, History{RestB0: 5, Frozen: &Frozen{Rest: 2}}.RestBaseline(week1), 0)
}

// Over an earlier decision B rises by one a week begun, and not at all on three
// mornings; the newest earlier one holds it then.
func TestTheBaselineRisesByOneAWeek(t *testing.T) {
	b := func(days int, known int, earlier ...Usual) float64 {
		h := History{B0: 4, Earlier: earlier}
		for i := range known {
			h.Mornings = append(h.Mornings, Morning{week1 + day.Date(days-i), 4})
		}
		return h.Baseline(week1 + day.Date(days))
	}
	at := Usual{week1, 1}
	assert.InDelta(t, 2, b(7, 4, at), 0)
	assert.InDelta(t, 3, b(8, 4, at), 0)
	assert.InDelta(t, 3, b(14, 4, at), 0)
	assert.InDelta(t, 2, b(0, 4, at), 0)
	assert.InDelta(t, 1, b(7, 3, at), 0, "three mornings let it fall, not rise")
	assert.InDelta(t, 1, b(20, 3, Usual{week1, 3}, Usual{week1 + 2, 1}), 0)
	assert.InDelta(t, 1, b(20, 3, Usual{week1 + 2, 1}, Usual{week1, 3}), 0, "the newest, in whatever order")
	assert.InDelta(t, 4, b(7, 4, Usual{week1 + 8, 0}), 0, "a later one says nothing")
	assert.InDelta(t, 0, b(7, 3, Usual{week1, 0}), 0)
}

// Row 3 for the third time within fourteen days is a flare; on the fifteenth it is a
// step back.
func TestRowThreeThriceInFourteenDays(t *testing.T) {
	verdict := func(first int, row Row) Row {
		h, c := clean(t)
		last := h.Sessions[1].On
		h.Sessions = []Session{
			session(last-day.Date(first), 7, 6), session(last-3, 7, 6), session(last, 7, 6),
		}
		h.Sessions[0].DecidedBy, h.Sessions[1].DecidedBy = row, 3
		return Decide(h, c).Row
	}
	assert.EqualValues(t, 2, verdict(14, 3))
	assert.EqualValues(t, 3, verdict(15, 3))
	assert.EqualValues(t, 3, verdict(14, 2))
}

// A next morning of 6 takes a notch whatever is usual; one of 5 at a usual of 4 does
// not.
func TestAMorningOfSix(t *testing.T) {
	rule := func(m body.Pain, b float64) []RuleID {
		h, c := clean(t)
		h.B0, h.Frozen = b, &Frozen{B: b, B0: b}
		setMorning(&h, h.Sessions[1].On+1, m)
		var out []RuleID
		d := Decide(h, c)
		if d.Row == 3 {
			for _, r := range d.Reasons {
				out = append(out, r.Rule)
			}
		}
		return out
	}
	assert.Equal(t, []RuleID{RuleMorningHigh}, rule(6, 4.5))
	assert.Empty(t, rule(5, 4.5))
	assert.Equal(t, []RuleID{RuleMorningJump}, rule(6, 4))
	assert.Equal(t, []RuleID{RuleMorningJump}, rule(3, 1))
	assert.Empty(t, rule(3, 1.5))
}

// After a long gap a ladder starts at the lower of its starting notch and two under
// where it stood, and at 1 at the lowest; the same when it is taken up again.
func TestRestartAfterALongGap(t *testing.T) {
	assert.Equal(t, 3, GapStart(3, 7))
	assert.Equal(t, 5, GapStart(6, 7))
	assert.Equal(t, 1, GapStart(6, 2))
	assert.Equal(t, 1, GapStart(1, 9))
	assert.Equal(t, 5, Lower(7))
	assert.Equal(t, 1, Lower(2))
	stopped := func(starting int) Decision {
		h, c := clean(t)
		c.StartingNotch, c.Today = starting, h.Sessions[1].On+29
		return Decide(h, c)
	}
	check(t, stopped(3), Stop, 4, 3)
	check(t, stopped(6), Stop, 4, 5)
	assert.True(t, stopped(6).Rescreen)
	resumed := func(row Row, starting int) Decision {
		h, c := clean(t)
		c.StartingNotch = starting
		c.Halt = &Halt{Row: row, On: c.Today - 4, Notch: 7}
		h.Mornings = append(h.Mornings, mornings(c.Today-3, 1, 1, 1, 1)...)
		return Decide(h, c)
	}
	d := resumed(4, 3)
	assert.True(t, d.Resume)
	assert.Equal(t, 3, d.To)
	assert.Equal(t, 5, resumed(4, 6).To)
	assert.Equal(t, 5, resumed(3, 3).To, "a flare goes two under, whatever it started at")
}

// Early loading goes on at 4 and 5 while the weekly median falls, never at 6.
func TestEarlyLoadingOnlyToFive(t *testing.T) {
	held := func(p body.Pain, early bool, last body.Pain) bool {
		h, c := on(t, "calf-toeup", 3)
		c.LoadEarly = early
		c.Today = week1 + 2
		h.B0, h.Frozen = 4, &Frozen{B: 4, B0: 4}
		h.Mornings = append(mornings(week1-7, last, last, last, last, last, last, last), mornings(week1, p, p, p)...)
		h.Sessions[0].On, h.Sessions[1].On = week1-5, week1-1
		for _, r := range HoldsNow(h, c) {
			if r.Rule == RuleFirstStepFour {
				return true
			}
		}
		return false
	}
	assert.False(t, held(5, true, 6))
	assert.True(t, held(6, true, 7), "six is too much")
	assert.True(t, held(5, true, 5), "it does not fall")
	assert.True(t, held(4, false, 6), "not that school")
	assert.False(t, held(3, false, 6))
}

// An up needs three readings since the block began, the first day with them.
func TestThreeReadingsSinceTheStart(t *testing.T) {
	met := func(n int, start day.Date) bool {
		h, c := clean(t)
		c.BlockStart = start
		h.Mornings = nil
		for i := range n {
			h.Mornings = append(h.Mornings, Morning{c.Today - day.Date(i), 1})
		}
		for _, x := range Decide(h, c).ForUp {
			if x.ID == NeedReadings {
				return x.Met
			}
		}
		t.Fatal("not asked")
		return false
	}
	_, c := clean(t)
	assert.False(t, met(2, c.Today-30))
	assert.True(t, met(3, c.Today-30))
	assert.True(t, met(3, c.Today-2), "the first day counts")
	assert.False(t, met(3, c.Today-1))
}

// Row 6 twice takes a notch where both lie within ten days and on one notch.
func TestRowSixTwiceWithinTenDays(t *testing.T) {
	d := func(apart, notch int, first, second float64) Decision {
		h, c := clean(t)
		last := h.Sessions[1].On
		h.Sessions[0].On, h.Sessions[0].Notch = last-day.Date(apart), notch
		h.Sessions[0].Compensated, h.Sessions[1].Compensated = &first, &second
		return Decide(h, c)
	}
	check(t, d(10, 7, 1.0/3, 1.0/3), Back, 6, 6)
	check(t, d(11, 7, 1.0/3, 1.0/3), Hold, 6, 7)
	check(t, d(3, 6, 1.0/3, 1.0/3), Hold, 6, 7)
	check(t, d(3, 7, 0.33, 1.0/3), Hold, 6, 7)
	assert.EqualValues(t, 11, d(3, 7, 0, 0.33).Row, "under a third it is only not clean")
	done := func(share float64, noTime bool) Row {
		h, c := clean(t)
		h.Sessions[1].Done, h.Sessions[1].NoTime = &share, noTime
		return Decide(h, c).Row
	}
	assert.EqualValues(t, 6, done(0.79, false))
	assert.EqualValues(t, 11, done(0.80, false))
	assert.EqualValues(t, 11, done(0.5, true), "short of time is another thing")
}

// When to look next: in two days, a week after a step up, and while stopped when the
// quiet mornings may be there.
func TestTheNextLook(t *testing.T) {
	h, c := clean(t)
	assert.Equal(t, c.Today+7, Decide(h, c).NextLook)
	c.Deload = true
	assert.Equal(t, c.Today+2, Decide(h, c).NextLook)
	h.Sessions[1].Pain = ptr(8)
	assert.Equal(t, c.Today+3, Decide(h, c).NextLook)
	quiet := func(n int) day.Date {
		h, c := clean(t)
		c.Halt = &Halt{Row: 2, On: c.Today - 5, Notch: 7}
		h.Mornings = nil
		for i := range n {
			h.Mornings = append(h.Mornings, Morning{c.Today - day.Date(i), 1})
		}
		h.Frozen = &Frozen{B: 1, B0: 1}
		return Decide(h, c).NextLook - c.Today
	}
	assert.EqualValues(t, 3, quiet(0))
	assert.EqualValues(t, 2, quiet(1))
	assert.EqualValues(t, 1, quiet(2))
}

// Mornings that end a flare come one after the other, after the stop, at B + 1 at
// the most.
func TestQuietMorningsRunning(t *testing.T) {
	run := func(since day.Date, usual float64, list ...body.Pain) int {
		return len(History{Mornings: mornings(week1, list...)}.QuietRun(since, week1+day.Date(len(list)-1), usual))
	}
	assert.Equal(t, 3, run(week1-1, 1, 2, 2, 2))
	assert.Equal(t, 2, run(week1, 1, 2, 2, 2), "the day of the stop does not count")
	assert.Equal(t, 1, run(week1-1, 1, 2, 3, 2))
	assert.Equal(t, 0, run(week1-1, 1, 2, 2, 3))
	gap := History{Mornings: []Morning{{week1, 1}, {week1 + 2, 1}}}
	assert.Len(t, gap.QuietRun(week1-1, week1+2, 1), 1, "one missing ends the run")
	assert.Empty(t, History{}.QuietRun(week1, week1+3, 1))
	late := History{Mornings: mornings(week1, 1, 1, 1, 9)}
	assert.Len(t, late.QuietRun(week1-1, week1+2, 1), 3, "tomorrow's is not there yet")
	assert.True(t, Jumped(3, 1))
	assert.False(t, Jumped(2, 1))
	assert.True(t, Quiet(2, 1))
	assert.False(t, Quiet(3, 1.5))
}

// Three bad mornings make a flare, one missing between two such counted, two missing
// not.
func TestBadMornings(t *testing.T) {
	bad := func(list ...Morning) int { return len(History{Mornings: list}.BadMornings(1, week1+9)) }
	m := func(i int, p body.Pain) Morning { return Morning{week1 + day.Date(i), p} }
	assert.Equal(t, 3, bad(m(0, 3), m(1, 3), m(2, 3)))
	assert.Zero(t, bad(m(0, 3), m(1, 3)))
	assert.Equal(t, 2, bad(m(0, 3), m(2, 3)), "the one between counts, and is not shown")
	assert.Zero(t, bad(m(0, 3), m(3, 3), m(4, 3)), "two missing are a gap")
	assert.Zero(t, bad(m(0, 3), m(1, 2), m(2, 3)))
	assert.Equal(t, 3, bad(m(0, 2), m(1, 3), m(2, 3), m(3, 3)))
	assert.Zero(t, bad(m(0, 3), m(1, 3), m(2, 3), m(3, 2)), "the latest is quiet")
	assert.Zero(t, bad())
}

func TestIllnessInDays(t *testing.T) {
	ended := week1
	assert.True(t, IllNow(ended, week1+2))
	assert.False(t, IllNow(ended, week1+3))
	half := func(days int, on day.Date) bool { return HalfOn(Illness{Days: days, Ended: &ended}, on) }
	assert.False(t, half(3, week1+2), "still ill")
	assert.True(t, half(3, week1+3))
	assert.True(t, half(3, week1+5))
	assert.False(t, half(3, week1+6))
	assert.True(t, half(30, week1+9), "seven days at the most")
	assert.False(t, half(30, week1+10))
	assert.False(t, HalfOn(Illness{Days: 3}, week1))
	assert.Nil(t, Context{Illness: Illness{Ended: &ended}, Today: week1}.HalfUntil(), "nobody said how long")
	assert.Nil(t, Context{Illness: Illness{Now: true, Days: 3, Ended: &ended}, Today: week1}.HalfUntil())
	h, c := clean(t)
	ended = c.Today - 5
	c.Illness = Illness{Days: 3, Ended: &ended}
	check(t, Decide(h, c), Hold, 0, 7)
	ended = c.Today - 6
	check(t, Decide(h, c), Up, 10, 8)
	h.Sessions = nil
	c.Illness = Illness{Now: true}
	d := Decide(h, c)
	check(t, d, Hold, 0, 7)
	assert.True(t, d.NoSession)
}

// A pain at rest two over its usual, on the day or the day after, takes a notch.
func TestPainAtRest(t *testing.T) {
	row := func(after int, p body.Pain) Row {
		h, c := clean(t)
		h.RestB0 = 1
		h.Rests = []Rest{{h.Sessions[1].On + day.Date(after), p}}
		return Decide(h, c).Row
	}
	assert.EqualValues(t, 3, row(0, 3))
	assert.EqualValues(t, 3, row(1, 3))
	assert.EqualValues(t, 10, row(2, 3))
	assert.EqualValues(t, 10, row(-1, 3))
	assert.EqualValues(t, 10, row(1, 2))
}

func TestPauses(t *testing.T) {
	for _, k := range []struct {
		days, notches int
		stop          bool
	}{{7, 0, false}, {8, 1, false}, {14, 1, false}, {15, 2, false}, {28, 2, false}, {29, 0, true}} {
		n, stop := Gap(k.days)
		assert.Equal(t, k.notches, n, "%d days", k.days)
		assert.Equal(t, k.stop, stop, "%d days", k.days)
	}
	assert.False(t, Silent(week1, week1+7))
	assert.True(t, Silent(week1, week1+8))
}

// After a cramp a set stays one under where it came, three at the least, two more
// each full week, until the dose is reached.
func TestTheCapAfterACramp(t *testing.T) {
	l := ladder(t, "calf-straight")
	notch := 0
	for n := 1; n <= l.Len(); n++ {
		if l.At(n).Dose.Reps >= 12 {
			notch = n
			break
		}
	}
	require.NotZero(t, notch)
	full := l.At(notch).Dose.Reps
	at := func(cramp, days int) int {
		return RepCap([]Session{{On: week1, Notch: notch, CrampAt: &cramp}}, l, notch, week1+day.Date(days))
	}
	assert.Equal(t, 7, at(8, 0))
	assert.Equal(t, 7, at(8, 6))
	assert.Equal(t, 9, at(8, 7))
	assert.Equal(t, 3, at(1, 0))
	assert.Equal(t, 3, at(4, 0))
	assert.Zero(t, at(full+1, 0), "the dose is reached")
	assert.Equal(t, full-1, at(full, 0))
	assert.Zero(t, at(8, -1), "before it came")
	assert.Zero(t, RepCap([]Session{{On: week1, Notch: notch + 1, CrampAt: ptr(8)}}, l, notch, week1))
	assert.Equal(t, 7, RepCap([]Session{{On: week1, Notch: notch, CrampAt: ptr(8)}, {On: week1 + 1, Notch: notch}}, l, notch, week1+1))
}

// Everything an up needs has its edge.
func TestConditionsAtTheirEdges(t *testing.T) {
	met := func(id ConditionID, change func(*History, *Context)) bool {
		h, c := clean(t)
		change(&h, &c)
		for _, x := range Decide(h, c).ForUp {
			if x.ID == id {
				return x.Met
			}
		}
		return false
	}
	both := func(h *History, fn func(*Session)) { fn(&h.Sessions[0]); fn(&h.Sessions[1]) }
	assert.True(t, met(NeedTenDays, func(h *History, _ *Context) { h.Sessions[0].On = h.Sessions[1].On - 10 }))
	assert.False(t, met(NeedTenDays, func(h *History, _ *Context) { h.Sessions[0].On = h.Sessions[1].On - 11 }))
	assert.True(t, met(NeedPain, func(h *History, _ *Context) { both(h, func(s *Session) { s.Pain = ptr(3) }) }))
	assert.False(t, met(NeedPain, func(h *History, _ *Context) { h.Sessions[0].Pain = ptr(4) }))
	assert.False(t, met(NeedPain, func(h *History, _ *Context) { h.Sessions[0].Pain = nil }))
	assert.False(t, met(NeedFullDose, func(h *History, _ *Context) { h.Sessions[0].Done = ptr(0.99) }))
	assert.False(t, met(NeedWholeDose, func(h *History, _ *Context) { h.Sessions[0].Cut = CutDeload }))
	assert.True(t, met(NeedClean, func(h *History, _ *Context) { both(h, func(s *Session) { s.Compensated = ptr(0.10) }) }))
	assert.False(t, met(NeedClean, func(h *History, _ *Context) { h.Sessions[0].Compensated = ptr(0.11) }))
	assert.False(t, met(NeedClean, func(h *History, _ *Context) { h.Sessions[0].Compensated = nil }))
	assert.True(t, met(NeedReserve, func(h *History, _ *Context) { both(h, func(s *Session) { s.Reserve = ptr(2) }) }))
	assert.False(t, met(NeedReserve, func(h *History, _ *Context) { h.Sessions[1].Reserve = ptr(1) }))
	assert.True(t, met(NeedWeekSinceUp, func(_ *History, c *Context) { c.LastUp = ptr(c.Today - 7) }))
	assert.False(t, met(NeedWeekSinceUp, func(_ *History, c *Context) { c.LastUp = ptr(c.Today - 6) }))
	assert.True(t, met(NeedWeekAfter, func(_ *History, c *Context) { c.LastBack = ptr(c.Today - 7) }))
	assert.False(t, met(NeedWeekAfter, func(_ *History, c *Context) { c.LastBack = ptr(c.Today - 6) }))
	assert.True(t, met(NeedFirstWeek, func(_ *History, c *Context) { c.BlockStart = c.Today - 7 }))
	assert.False(t, met(NeedFirstWeek, func(_ *History, c *Context) { c.BlockStart = c.Today - 6 }))
	assert.True(t, met(NeedBudget, func(_ *History, c *Context) { c.UpsThisWeek = 1 }))
	assert.False(t, met(NeedBudget, func(_ *History, c *Context) { c.UpsThisWeek = 2 }))
	assert.True(t, met(NeedSides, func(_ *History, c *Context) { c.OtherNotch = ptr(6) }))
	assert.False(t, met(NeedSides, func(_ *History, c *Context) { c.OtherNotch = ptr(5) }))
	assert.True(t, met(NeedTwoSessions, func(_ *History, c *Context) { c.Peg = 7 }))
	assert.False(t, met(NeedTwoSessions, func(_ *History, c *Context) { c.Peg = 6 }))
	assert.False(t, met(NeedTwoSessions, func(h *History, _ *Context) { h.Sessions[0].Notch = 6 }))
	assert.True(t, met(NeedNewSession, func(h *History, c *Context) { c.FreshFrom = ptr(h.Sessions[1].On) }))
	assert.False(t, met(NeedNewSession, func(h *History, c *Context) { c.FreshFrom = ptr(h.Sessions[1].On + 1) }))
	assert.True(t, met(NeedGate, func(_ *History, c *Context) { c.Ceiling = 8 }))
	assert.False(t, met(NeedGate, func(_ *History, c *Context) { c.Ceiling = 7 }))
	assert.False(t, met(NeedRest, func(_ *History, c *Context) { c.RestAsked = true }))
	assert.True(t, met(NeedRest, func(h *History, c *Context) { c.RestAsked, h.Rests = true, []Rest{{h.Sessions[1].On + 1, 0}} }))
	assert.True(t, met(NeedRest, func(h *History, c *Context) { c.RestAsked, h.Rests = true, []Rest{{h.Sessions[1].On, 0}} }))
	assert.False(t, met(NeedRest, func(h *History, c *Context) { c.RestAsked, h.Rests = true, []Rest{{h.Sessions[1].On + 2, 0}} }))
	assert.False(t, met(NeedRunSaid, func(h *History, c *Context) { c.RunUnsaid = ptr(h.Sessions[1].On) }))
	assert.False(t, met(NeedNoCap, func(h *History, _ *Context) { h.Sessions[0].CrampAt = ptr(4) }))
	top := ladder(t, "calf-straight").Len()
	h, c := clean(t)
	c.Notch, c.OtherNotch = top, nil
	for i := range h.Sessions {
		h.Sessions[i].Notch = top
	}
	d := Decide(h, c)
	check(t, d, Hold, 11, top)
	assert.Equal(t, RuleTop, d.Reasons[0].Rule)
}

// Holds of row 8 at their edges.
func TestHoldsAtTheirEdges(t *testing.T) {
	rules := func(change func(*History, *Context)) []RuleID {
		h, c := clean(t)
		change(&h, &c)
		var out []RuleID
		for _, r := range HoldsNow(h, c) {
			out = append(out, r.Rule)
		}
		return out
	}
	assert.Contains(t, rules(func(h *History, _ *Context) { h.Sessions[1].Pain = ptr(4) }), RulePainModerate)
	assert.NotContains(t, rules(func(h *History, _ *Context) { h.Sessions[1].Pain = ptr(3) }), RulePainModerate)
	assert.Contains(t, rules(func(_ *History, c *Context) { c.RunPain = &Reading{Value: 4} }), RuleRunPain)
	assert.NotContains(t, rules(func(_ *History, c *Context) { c.RunPain = &Reading{Value: 3} }), RuleRunPain)
	over := func(a, b body.Pain) []RuleID {
		return rules(func(h *History, _ *Context) {
			h.Frozen = &Frozen{B: 1, B0: 1}
			setMorning(h, h.Sessions[0].On+1, a)
			setMorning(h, h.Sessions[1].On+1, b)
		})
	}
	assert.Contains(t, over(2, 2), RuleMorningOneUp)
	assert.NotContains(t, over(1, 2), RuleMorningOneUp)
	assert.NotContains(t, over(2, 1), RuleMorningOneUp)
	assert.NotContains(t, rules(func(_ *History, c *Context) { c.Running = load.Rise }), RuleRunRise, "calf work goes on")
	assert.Contains(t, rules(func(h *History, c *Context) { h.Sessions[1].Pain, c.Deload = ptr(8), true }), RuleSevere)
	assert.Empty(t, HoldsNow(History{}, Context{}))
}

// A release ladder's own scale: over 5 is held, 8 takes pressure off.
func TestSoreSpots(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	id := ""
	for _, l := range c.Ladders {
		if l.Purpose == "release" && l.Len() > 2 {
			id = l.ID
			break
		}
	}
	require.NotEmpty(t, id)
	row := func(p body.Pain) Row {
		h, c := on(t, id, 2)
		for i := range h.Sessions {
			h.Sessions[i].Pain, h.Sessions[i].SoreSpot = nil, &p
		}
		return Decide(h, c).Row
	}
	assert.EqualValues(t, 10, row(5))
	assert.EqualValues(t, 8, row(6))
	assert.EqualValues(t, 8, row(7))
	assert.EqualValues(t, 3, row(8))
}

// Rising: a point over last week's median, a point over where the block began, or a
// slope of 0.07 over seven readings of fourteen days.
func TestRisingAtItsEdges(t *testing.T) {
	rising := func(b0 float64, list ...Morning) bool {
		_, up := History{B0: b0, Mornings: list}.Rising(week1 + 6)
		return up
	}
	week := func(last, this body.Pain) []Morning {
		return append(mornings(week1-7, last, last, last), mornings(week1, this, this, this)...)
	}
	assert.True(t, rising(9, week(1, 2)...))
	assert.False(t, rising(9, week(2, 2)...))
	assert.True(t, rising(1, week(2, 2)...), "a point over where it began")
	assert.False(t, rising(1.5, week(2, 2)...))
	assert.False(t, rising(9))
	assert.True(t, rising(9, mornings(week1, 1, 1, 2, 2, 2, 2, 3)...), "it creeps")
	assert.False(t, rising(9, mornings(week1, 2, 2, 2, 2, 2, 2, 2)...))
	assert.False(t, rising(9, mornings(week1+1, 1, 1, 2, 2, 2, 3)...), "six readings say little")
	assert.False(t, rising(9, append(mornings(week1-9, 0, 0), mornings(week1-2, 2, 2, 2, 2, 2)...)...), "what lies over fourteen days back is left out")
}

// Stuck: at six weeks, by less than a point, and with the second flare in 42 days.
func TestStuckAtItsEdges(t *testing.T) {
	sore := []screening.Complaint{{Zone: "heel", Side: body.Left, Worst: ptr(body.Pain(5))}}
	_, ok := sore[0].Height()
	require.True(t, ok)
	in := func(days int, p body.Pain) StuckInput {
		return StuckInput{Today: week1, BlockStart: week1 - day.Date(days), Complaints: sore, Mornings: mornings(week1-2, p, p, p)}
	}
	why, stuck := IsStuck(in(42, 5))
	assert.True(t, stuck)
	assert.Equal(t, StuckNoBetter, why)
	_, stuck = IsStuck(in(41, 5))
	assert.False(t, stuck)
	_, stuck = IsStuck(in(42, 4))
	assert.False(t, stuck, "a point better")
	x := in(42, 5)
	x.Cleared = week1 - 41
	_, stuck = IsStuck(x)
	assert.False(t, stuck, "counted from the clearance")
	x = in(0, 5)
	x.Since = week1 - 42
	_, stuck = IsStuck(x)
	assert.True(t, stuck, "known for longer than the block")
	flares := func(apart int, cleared day.Date) bool {
		_, stuck := IsStuck(StuckInput{Today: week1, Flares: []day.Date{week1, week1 - day.Date(apart)}, Cleared: cleared})
		return stuck
	}
	assert.True(t, flares(42, 0))
	assert.False(t, flares(43, 0))
	assert.False(t, flares(0, 0), "one day is one flare")
	assert.False(t, flares(42, week1))
	held := func(a, b, c body.Pain, held bool) bool {
		_, stuck := IsStuck(StuckInput{Today: week1, BlockStart: week1, Held: held, Mornings: append(append(mornings(week1-14, a), mornings(week1-7, b)...), mornings(week1, c)...)})
		return stuck
	}
	assert.True(t, held(1, 2, 3, true))
	assert.False(t, held(1, 2, 3, false))
	assert.False(t, held(1, 2, 2, true))
	assert.False(t, held(2, 2, 3, true))
}

func TestFlaresByTissueAndSide(t *testing.T) {
	f := Flare{Ladder: "x", Side: body.Left, Tissues: []body.Tissue{body.Achilles, body.Sole}}
	calf := []body.Tissue{body.Achilles}
	assert.True(t, f.Closes("calf-straight", 3, body.Left, calf))
	assert.False(t, f.Closes("calf-straight", 3, body.Right, calf))
	assert.True(t, f.Closes("calf-straight", 3, body.Both, calf))
	assert.False(t, f.Closes("steer-split", 1, body.Left, []body.Tissue{body.Shin}))
	assert.False(t, f.Closes(quietHolds, 1, body.Left, calf), "quiet holds may go on")
	assert.True(t, f.Closes(quietHolds, 2, body.Left, calf))
	f.Sore = []body.Tissue{body.Forefoot}
	assert.True(t, f.Closes(quietHolds, 1, body.Left, calf), "not where bone hurts")
	assert.False(t, QuietHoldsIn(nil))
	assert.True(t, CutsSets(ladder(t, "spring-pogo"), 1, load.Spike))
	assert.False(t, CutsSets(ladder(t, "spring-pogo"), 1, load.Rise))
	assert.Equal(t, body.Pain(3), QuietHoldMost)
	holds := func(p body.Pain) Decision {
		h, c := on(t, quietHolds, 2)
		h.Sessions[1].Pain = &p
		c.Flares = []Flare{{Ladder: "x", Since: c.Today - 1, Side: body.Both, Tissues: calf}}
		return Decide(h, c)
	}
	assert.Equal(t, 1, holds(3).To)
	assert.Equal(t, Back, holds(3).Verdict)
	assert.Equal(t, Stop, holds(4).Verdict)
}

// Decisions are told apart by what they take away.
func TestHarshness(t *testing.T) {
	list := []Decision{{Verdict: Up}, {Verdict: Hold}, {Verdict: Back, From: 5, To: 4}, {Verdict: Back, From: 5, To: 3}, {Verdict: Stop}}
	for i := 1; i < len(list); i++ {
		assert.Greater(t, list[i].Harshness(), list[i-1].Harshness())
	}
	h, c := clean(t)
	a := Decide(h, c)
	assert.True(t, a.Same(a))
	c.LastUp = ptr(c.Today)
	assert.False(t, a.Same(Decide(h, c)))
	b := a
	b.Reasons = []Reason{{Rule: RuleDeload}}
	assert.False(t, a.Same(b))
	assert.True(t, StartingBaseline([]body.Pain{6, 6, 6}, nil) == 4)
	assert.InDelta(t, 2, StartingBaseline([]body.Pain{3, 3, 3}, ptr(2)), 0)
	assert.InDelta(t, 2, StartingBaseline([]body.Pain{3, 3}, ptr(2)), 0)
	assert.InDelta(t, 1, StartingBaseline([]body.Pain{1, 1, 1, 1, 3, 3, 3, 9, 9, 9}, nil), 0, "the first seven")
	assert.Zero(t, StartingBaseline(nil, nil))
}

// A severe pain after a stop stops anew, with a flag of its own.
func TestSevereAfterAStop(t *testing.T) {
	d := func(p body.Pain, on int) Decision {
		h, c := clean(t)
		h.Sessions[1].Pain = &p
		c.Halt = &Halt{Row: 3, On: h.Sessions[1].On + day.Date(on), Notch: 7}
		return Decide(h, c)
	}
	assert.NotNil(t, d(safety.SevereAt, -1).Raises)
	assert.Nil(t, d(safety.SevereAt-1, -1).Raises)
	assert.Nil(t, d(safety.SevereAt, 0).Raises, "it was stopped for it already")
}
