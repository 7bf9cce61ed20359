package adjust

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
)

// The worked cases are those of docs/rules.md (house).

var may4 = func() day.Date { d, _ := day.Parse("2026-05-04"); return d }()

func calf(t require.TestingT) catalogue.Ladder {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	l, ok := c.Ladder("calf-straight")
	require.True(t, ok)
	return l
}

func ptr[T any](v T) *T { return &v }

func session(on day.Date, notch int, pain body.Pain) Session {
	return Session{On: on, Notch: notch, Pain: &pain, Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3), DecidedBy: RowNone}
}

// clean is case 1: raise 3 × 8 on one leg, two sessions, quiet mornings.
func clean(t require.TestingT) (History, Context) {
	h := History{B0: 1, Sessions: []Session{session(may4-2, 7, 2), session(may4, 7, 3)}}
	for d := may4 - 6; d <= may4+1; d++ {
		h.Mornings = append(h.Mornings, Morning{d, 1})
	}
	c := Context{
		Today: may4 + 1, Side: body.Left, Ladder: calf(t), Notch: 7, OtherNotch: ptr(7), StartingNotch: 7,
		Gates:      []safety.GateState{{Gate: safety.SingleLegCalf, Open: true}, {Gate: safety.LoadedCalf, Open: true}},
		BlockStart: may4 - 20, LastUp: ptr(may4 - 6),
	}
	return h, c
}

func setMorning(h *History, on day.Date, p body.Pain) {
	for i := range h.Mornings {
		if h.Mornings[i].On == on {
			h.Mornings[i].FirstStep = p
			return
		}
	}
	h.Mornings = append(h.Mornings, Morning{on, p})
}

func drop(h *History, on day.Date) {
	for i := range h.Mornings {
		if h.Mornings[i].On == on {
			h.Mornings = append(h.Mornings[:i], h.Mornings[i+1:]...)
			return
		}
	}
}

func check(t *testing.T, d Decision, v Verdict, row Row, to int) {
	t.Helper()
	assert.Equal(t, v, d.Verdict)
	assert.Equal(t, row, d.Row, "%+v", d.Reasons)
	assert.Equal(t, to, d.To)
}

func TestCase1CleanGoesUp(t *testing.T) {
	h, c := clean(t)
	d := Decide(h, c)
	check(t, d, Up, 10, 8)
	assert.Equal(t, 1.0, d.Baseline)
}

func TestCase4PainFive(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Pain = ptr(5)
	setMorning(&h, may4+1, 2)
	check(t, Decide(h, c), Hold, 8, 7)
	setMorning(&h, may4+1, 3)
	check(t, Decide(h, c), Back, 3, 6)
}

func TestCase5TwiceBack(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Pain = ptr(6)
	check(t, Decide(h, c), Back, 3, 6)
	h.Sessions[1].DecidedBy = 3
	h.Sessions = append(h.Sessions, session(may4+2, 6, 6))
	c.Today, c.Notch = may4+3, 6
	check(t, Decide(h, c), Back, 3, 4)
	// A third time within 14 days is a flare.
	h.Sessions[2].DecidedBy = 3
	h.Sessions = append(h.Sessions, session(may4+4, 4, 6))
	c.Today, c.Notch = may4+5, 4
	check(t, Decide(h, c), Stop, 2, 4)
}

func TestFromTheFirstNotchRowThreePauses(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Pain, h.Sessions[1].Notch, c.Notch = ptr(6), 1, 1
	check(t, Decide(h, c), Stop, 3, 1)
}

func TestCase7DaysOff(t *testing.T) {
	for _, k := range []struct {
		off  day.Date
		pain body.Pain
		v    Verdict
		row  Row
		to   int
	}{
		{7, 2, Hold, 11, 7}, {8, 2, Back, 4, 6}, {10, 2, Back, 4, 6}, {14, 2, Back, 4, 6}, {15, 2, Back, 4, 5},
		{20, 5, Back, 4, 5}, {20, 6, Back, 4, 5}, {28, 2, Back, 4, 5}, {29, 2, Stop, 4, 5},
	} {
		h, c := clean(t)
		h.Sessions[0].Notch = 6
		h.Sessions[1].Pain = ptr(k.pain)
		c.Today = may4 + k.off
		check(t, Decide(h, c), k.v, k.row, k.to)
	}
	// A gap before the last session is not looked at again once a session followed.
	for _, off := range []day.Date{8, 10, 11, 20, 40} {
		h, c := clean(t)
		h.Sessions[0].On = may4 - off
		assert.NotEqual(t, Row(4), Decide(h, c).Row, "%d days before the last session", off)
		if off > 10 {
			assert.Equal(t, Hold, Decide(h, c).Verdict, "two sessions more than ten days apart are no way up")
		}
	}
}

func TestCase8FlareAndResume(t *testing.T) {
	h, c := clean(t)
	h.B0 = 2
	h.Mornings = nil
	for d := may4 - 6; d <= may4-2; d++ {
		setMorning(&h, d, 2)
	}
	for i, p := range []body.Pain{4, 4, 5} {
		setMorning(&h, may4-1+day.Date(i), p)
	}
	d := Decide(h, c)
	check(t, d, Stop, 2, 7)
	require.Equal(t, RuleThreeMornings, d.Reasons[0].Rule)

	// One missing between two such counts as such.
	gap := History{B0: 2, Sessions: h.Sessions, Mornings: append([]Morning(nil), h.Mornings...)}
	drop(&gap, may4)
	check(t, Decide(gap, c), Stop, 2, 7)

	// Three mornings at or under 3 start it again two notches lower; two do not.
	c.Halt = &Halt{Row: 2, On: may4 + 1, Notch: 7}
	h.Sessions[1].DecidedBy = 2
	setMorning(&h, may4+2, 3)
	setMorning(&h, may4+3, 2)
	c.Today = may4 + 3
	assert.Equal(t, Stop, Decide(h, c).Verdict)
	setMorning(&h, may4+4, 3)
	c.Today = may4 + 4
	d = Decide(h, c)
	check(t, d, Back, 2, 5)
	assert.True(t, d.Resume)
	// A missing morning breaks the run: it is never taken as quiet.
	drop(&h, may4+3)
	assert.Equal(t, Stop, Decide(h, c).Verdict)
}

func TestCase9DeloadHolds(t *testing.T) {
	h, c := clean(t)
	c.Deload = true
	check(t, Decide(h, c), Hold, 9, 7)
}

func TestCase10FlagStops(t *testing.T) {
	h, c := clean(t)
	c.Flags = []safety.Standing{{Flag: "F-BONE", Level: safety.Refer, Side: body.Left, Tissues: []body.Tissue{body.Achilles}}}
	check(t, Decide(h, c), Stop, 1, 7)
	c.Flags[0].Side = body.Right
	check(t, Decide(h, c), Up, 10, 8)
	c.Flags[0] = safety.Standing{Flag: "F-INFLAM", ProgressOnly: true}
	check(t, Decide(h, c), Hold, 9, 7)
}

func TestCase11MissingMorning(t *testing.T) {
	h, c := clean(t)
	drop(&h, may4+1)
	d := Decide(h, c)
	check(t, d, Hold, 11, 7)
	for _, n := range d.ForUp {
		assert.Equal(t, n.ID != NeedMorning, n.Met, n.ID)
		if n.ID == NeedMorning {
			assert.Equal(t, may4+1, *n.On)
		}
	}
}

func TestCase12SteadyFiveAndRising(t *testing.T) {
	h, c := clean(t)
	h.B0 = 5
	for i := range h.Mornings {
		h.Mornings[i].FirstStep = 5
	}
	check(t, Decide(h, c), Hold, 8, 7)

	// One point a week from 1: held by the second week.
	h, c = clean(t)
	monday := may4
	h.Mornings = nil
	for i := range 9 {
		setMorning(&h, monday+day.Date(i), 1+i/7)
	}
	h.Sessions = []Session{session(monday+4, 7, 2), session(monday+7, 7, 2)}
	c.Today, c.LastUp = monday+8, nil
	d := Decide(h, c)
	check(t, d, Hold, 8, 7)
	assert.Equal(t, RuleRising, d.Reasons[0].Rule)
}

func TestCase14PainEight(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Pain = ptr(8)
	d := Decide(h, c)
	check(t, d, Stop, 1, 7)
	require.NotNil(t, d.Raises)
	assert.Equal(t, safety.Severe, d.Raises.Flag)
	assert.Equal(t, safety.Refer, d.Raises.Level)
	assert.True(t, d.Raises.Closes(c.Ladder.At(1).Kinds(), body.Left))
	assert.False(t, d.Raises.Closes(c.Ladder.At(1).Kinds(), body.Right))
}

// Each condition of an up, taken away alone, holds the peg.
func TestUpNeedsEverything(t *testing.T) {
	for id, spoil := range map[ConditionID]func(*History, *Context){
		NeedTwoSessions: func(h *History, _ *Context) { h.Sessions[0].Notch = 6 },
		NeedPain:        func(h *History, _ *Context) { h.Sessions[0].Pain = nil },
		NeedFullDose:    func(h *History, _ *Context) { h.Sessions[0].Done = ptr(0.95) },
		NeedClean:       func(h *History, _ *Context) { h.Sessions[1].Compensated = ptr(0.2) },
		NeedReserve:     func(h *History, _ *Context) { h.Sessions[1].Reserve = ptr(1) },
		NeedWeekSinceUp: func(_ *History, c *Context) { c.LastUp = ptr(may4 - 5) },
		NeedFirstWeek:   func(_ *History, c *Context) { c.BlockStart = may4 - 5 },
		NeedBudget:      func(_ *History, c *Context) { c.UpsThisWeek = 2 },
		NeedSides:       func(_ *History, c *Context) { c.OtherNotch = ptr(5) },
		NeedGate:        func(_ *History, c *Context) { c.Gates = nil },
		NeedReadings:    func(h *History, _ *Context) { h.Mornings = []Morning{{may4 - 1, 1}, {may4 + 1, 1}} },
		NeedWeekAfter:   func(_ *History, c *Context) { c.LastBack = ptr(may4 - 5) },
		NeedWholeDose:   func(h *History, _ *Context) { h.Sessions[1].Cut = CutDeload },
		NeedRunSaid:     func(_ *History, c *Context) { c.RunUnsaid = ptr(may4) },
		NeedRest:        func(_ *History, c *Context) { c.RestAsked = true },
		NeedNewSession:  func(_ *History, c *Context) { c.FreshFrom = ptr(may4 + 1) },
	} {
		h, c := clean(t)
		spoil(&h, &c)
		d := Decide(h, c)
		assert.Equal(t, Hold, d.Verdict, id)
		found := false
		for _, n := range d.ForUp {
			found = found || (n.ID == id && !n.Met)
		}
		assert.True(t, found, "%s is named as missing", id)
	}
	h, c := clean(t)
	c.Notch, h.Sessions[0].Notch, h.Sessions[1].Notch = 25, 25, 25
	assert.Equal(t, RuleTop, Decide(h, c).Reasons[0].Rule)
	assert.Equal(t, Hold, Decide(History{}, c).Verdict)
}

func TestStartingBaseline(t *testing.T) {
	assert.Equal(t, 0.0, StartingBaseline(nil, nil))
	assert.Equal(t, 4.0, StartingBaseline([]body.Pain{1, 1}, ptr(4)))
	assert.Equal(t, 4.0, StartingBaseline([]body.Pain{6, 7, 7}, ptr(8)), "no morning of 6 or 7 is a quiet one")
	assert.Equal(t, 1.0, StartingBaseline([]body.Pain{1, 1, 3}, ptr(4)))
	assert.Equal(t, 1.0, StartingBaseline([]body.Pain{3, 3, 4}, ptr(1)), "bad first mornings are not the usual")
	assert.Equal(t, 2.0, StartingBaseline([]body.Pain{2, 2, 2, 2, 2, 2, 2, 9, 9, 9, 9, 9, 9, 9, 9}, nil), "only the first seven")
}

func drawn(t *rapid.T) (History, Context) {
	_, c := clean(t)
	c.Notch = rapid.IntRange(1, 25).Draw(t, "notch")
	c.OtherNotch = ptr(rapid.IntRange(1, 25).Draw(t, "other"))
	h := History{B0: float64(rapid.IntRange(0, 10).Draw(t, "b0"))}
	for d := may4 - 20; d <= may4+1; d++ {
		if rapid.IntRange(0, 3).Draw(t, "known") > 0 {
			h.Mornings = append(h.Mornings, Morning{d, rapid.IntRange(0, 10).Draw(t, "m")})
		}
	}
	for d := may4 - 16; d <= may4; d += 4 {
		s := session(d, max(1, c.Notch-rapid.IntRange(0, 1).Draw(t, "n")), rapid.IntRange(0, 10).Draw(t, "p"))
		s.DecidedBy = Row(rapid.SampledFrom([]int{-1, 2, 3, 8, 10, 11}).Draw(t, "row"))
		if rapid.Bool().Draw(t, "reserve?") {
			s.Reserve = nil
		}
		h.Sessions = append(h.Sessions, s)
	}
	h.Sessions[len(h.Sessions)-1].Notch = c.Notch
	return h, c
}

func TestMorePainNeverGivesAHarderDose(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		before := Decide(h, c)
		last := &h.Sessions[len(h.Sessions)-1]
		last.Pain = ptr(rapid.IntRange(*last.Pain, 10).Draw(t, "more"))
		assert.GreaterOrEqual(t, Decide(h, c).Harshness(), before.Harshness(), "pain during")

		h, c = drawn(t)
		before = Decide(h, c)
		if m, ok := h.morning(may4 + 1); ok {
			setMorning(&h, may4+1, rapid.IntRange(m, 10).Draw(t, "worse"))
			assert.GreaterOrEqual(t, Decide(h, c).Harshness(), before.Harshness(), "next morning")
		}
	})
}

func TestNeverUpWhileAnythingHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		d := Decide(h, c)
		if d.Verdict != Up {
			return
		}
		e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
		e.b = h.Baseline(e.last.On)
		assert.Empty(t, e.cuts())
		assert.Empty(t, e.holds())
		assert.Equal(t, d.From+1, d.To)
	})
}

func TestAMissingMorningNeverHelps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		if _, ok := h.morning(may4 + 1); !ok {
			return
		}
		drop(&h, may4+1)
		assert.NotEqual(t, Up, Decide(h, c).Verdict)
	})
}

func BenchmarkDecide(b *testing.B) {
	c, err := catalogue.BuiltIn()
	require.NoError(b, err)
	l, _ := c.Ladder("calf-straight")
	h := History{B0: 1}
	for i := range 90 {
		h.Mornings = append(h.Mornings, Morning{may4 - 88 + day.Date(i), 1})
	}
	for i := range 36 {
		h.Sessions = append(h.Sessions, session(may4-day.Date(2*(35-i)), 7, 2))
	}
	x := Context{Today: may4 + 1, Side: body.Left, Ladder: l, Notch: 7, StartingNotch: 7, BlockStart: may4 - 80}
	b.ResetTimer()
	for b.Loop() {
		Decide(h, x)
	}
}

// One runner's review with a year of data: six ladders on two sides, 365 mornings,
// 156 runs, the week's ratios and the advice.
func BenchmarkReviewOfAYear(b *testing.B) {
	c, err := catalogue.BuiltIn()
	require.NoError(b, err)
	l, _ := c.Ladder("calf-straight")
	h := History{B0: 1}
	quiet := body.Pain(1)
	var runs []load.Run
	for i := range 365 {
		on := may4 - 364 + day.Date(i)
		h.Mornings = append(h.Mornings, Morning{on, quiet})
		if i%7 == 0 || i%7 == 2 || i%7 == 5 {
			h.Sessions = append(h.Sessions, session(on, 7, 2))
			runs = append(runs, load.Run{On: on, Metres: 9000, Seconds: 3000, Pain: &quiet})
		}
	}
	x := Context{Today: may4 + 1, Ladder: l, Notch: 7, StartingNotch: 7, BlockStart: may4 - 364}
	b.ResetTimer()
	for b.Loop() {
		x.Running = load.State(load.Volume{Runs: runs, On: x.Today}).Class
		load.Weeks(runs, x.Today-364, x.Today)
		load.Advise(load.AdviceInput{On: x.Today, Runs: runs, Usual: 1, Morning: func(day.Date) *body.Pain { return &quiet }})
		for range 6 {
			for _, x.Side = range body.Sides {
				Decide(h, x)
			}
		}
	}
}

func TestTheOrderInWhichMorningsArriveDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		before := Decide(h, c)
		h.Mornings = rapid.Permutation(h.Mornings).Draw(t, "order")
		after := Decide(h, c)
		assert.True(t, before.Same(after), "%+v\n%+v", before, after)
		assert.Equal(t, before.Baseline, after.Baseline)
	})
}

// A ladder paused at its first notch still hears of three bad mornings.
func TestAFlareIsSeenWhilePausedByLess(t *testing.T) {
	h, c := clean(t)
	c.Today = may4 + 3
	for d := may4 + 1; d <= may4+3; d++ {
		setMorning(&h, d, 5)
	}
	for row := Row(3); row <= 4; row++ {
		c.Halt = &Halt{Row: row, On: may4 + 2, Notch: 1}
		d := Decide(h, c)
		require.Equal(t, Stop, d.Verdict)
		require.EqualValues(t, 2, d.Row)
	}
	c.Halt = &Halt{Row: 2, On: may4 + 2, Notch: 1}
	require.NotEqual(t, RuleThreeMornings, Decide(h, c).Reasons[0].Rule, "a flare that stands is not begun again")
}

func TestTheSameHistoryGivesTheSameDecisionOnEitherSide(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		left := Decide(h, c)
		c.Side = body.Right
		right := Decide(h, c)
		assert.True(t, left.Same(right))
		assert.Equal(t, left, func() Decision { d := Decide(h, c); return keepSide(d, left) }(), "replay is deterministic")
	})
}

// keepSide sets the side of a raised flag as in another decision.
func keepSide(d, as Decision) Decision {
	if d.Raises != nil && as.Raises != nil {
		d.Raises.Side = as.Raises.Side
	}
	return d
}

func TestAStoppedLadderNeverGoesUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		c.Halt = &Halt{Row: Row(rapid.SampledFrom([]int{1, 2, 3, 4}).Draw(t, "row")), On: may4 - day.Date(rapid.IntRange(0, 10).Draw(t, "ago")), Notch: c.Notch}
		d := Decide(h, c)
		assert.NotEqual(t, Up, d.Verdict)
		assert.LessOrEqual(t, d.To, c.Notch)
		if d.Resume {
			assert.Equal(t, Back, d.Verdict)
			assert.Less(t, d.To, max(2, c.Notch))
		}
		if d.Verdict == Hold {
			t.Fatalf("a stopped ladder is stopped or starts lower, never held: %+v", d)
		}
	})
}

func TestADecisionNeverLeavesTheLadder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		c.StartingNotch = rapid.IntRange(1, 25).Draw(t, "start")
		d := Decide(h, c)
		assert.GreaterOrEqual(t, d.To, 1)
		assert.LessOrEqual(t, d.To, c.Ladder.Len())
		assert.LessOrEqual(t, d.To-d.From, 1)
		assert.NotEmpty(t, d.Reasons)
		for _, r := range d.Reasons {
			assert.True(t, r.Source.Valid(), r.Rule)
		}
	})
}

func TestAMorningCountsAsMissingFromNoonOn(t *testing.T) {
	for _, k := range []struct {
		today day.Date
		hour  int
		want  bool
	}{{may4 - 1, 20, true}, {may4, 23, true}, {may4 + 1, 0, true}, {may4 + 1, 11, true}, {may4 + 1, 12, false}, {may4 + 2, 0, false}} {
		assert.Equal(t, k.want, MorningMayCome(may4, k.today, k.hour), "%s %d h", k.today, k.hour)
	}
	assert.True(t, Jumped(3, 1))
	assert.False(t, Jumped(2, 1))
	assert.False(t, Jumped(3, 1.5))
	assert.True(t, Silent(may4-8, may4))
	assert.False(t, Silent(may4-7, may4))
}

// Every row of the gap rule on both of its edges, whatever else was clean.
func TestGapEdges(t *testing.T) {
	for gap, want := range map[day.Date]struct {
		v  Verdict
		to int
	}{7: {Hold, 7}, 8: {Back, 6}, 14: {Back, 6}, 15: {Back, 5}, 28: {Back, 5}, 29: {Stop, 5}} {
		h, c := clean(t)
		c.Today = may4 + gap
		c.LastUp, c.UpsThisWeek = nil, 2 // the week's steps are used
		d := Decide(h, c)
		assert.Equal(t, want.v, d.Verdict, "%d days", gap)
		assert.Equal(t, want.to, d.To, "%d days", gap)
		assert.Equal(t, gap >= 29, d.Rescreen)
	}
}

func TestTheLargestCutWinsAndNamesItsRow(t *testing.T) {
	h, c := clean(t)
	c.Today = may4 + 20         // two notches by the gap
	h.Sessions[1].Pain = ptr(6) // one by the pain
	d := Decide(h, c)
	assert.Equal(t, Row(4), d.Row)
	assert.Len(t, d.Reasons, 1)
	h.Sessions[1].Pain = ptr(8) // a stop is larger than any number of notches
	d = Decide(h, c)
	assert.Equal(t, Row(1), d.Row)
	assert.Equal(t, Stop, d.Verdict)
	h.Sessions[1].Pain = ptr(7)
	h.Sessions[0].DecidedBy = 3 // now the pain takes two as well: the lower row is named, both are told
	d = Decide(h, c)
	assert.Equal(t, Row(3), d.Row)
	assert.Equal(t, 5, d.To)
	assert.GreaterOrEqual(t, len(d.Reasons), 2)
}

// Ladders that load no counted tissue are held, not cut, by a bad morning; a
// ladder that loads is.
func TestMorningsCutOnlyWhatLoads(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	release, _ := c.Ladder("release-sole")
	h, x := clean(t)
	setMorning(&h, may4+1, 6)
	check(t, Decide(h, x), Back, 3, 6)
	x.Ladder, x.Notch, x.OtherNotch = release, 7, nil
	check(t, Decide(h, x), Hold, 8, 7)
}

// No step up past what the plan leaves open, whatever the gates say.
func TestCeilingHolds(t *testing.T) {
	h, x := clean(t)
	x.Ceiling = 8
	check(t, Decide(h, x), Up, 10, 8)
	x.Ceiling = 7
	d := Decide(h, x)
	check(t, d, Hold, 11, 7)
	assert.Contains(t, d.ForUp, Condition{ID: NeedOpen})
}
