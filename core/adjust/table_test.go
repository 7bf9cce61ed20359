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
	"notchback/core/screening"
)

func ladder(t require.TestingT, id string) catalogue.Ladder {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	l, ok := c.Ladder(id)
	require.True(t, ok)
	return l
}

// on puts the clean case on another ladder and notch.
func on(t require.TestingT, id string, notch int) (History, Context) {
	h, c := clean(t)
	c.Ladder, c.Notch, c.OtherNotch, c.StartingNotch = ladder(t, id), notch, nil, notch
	for i := range h.Sessions {
		h.Sessions[i].Notch = notch
		h.Sessions[i].SureTwenty = ptr(true)
	}
	for _, g := range []catalogue.Gate{safety.Hop, safety.MinShoeRun, safety.BarefootHome, safety.BarefootWalk, safety.EndRange} {
		c.Gates = append(c.Gates, safety.GateState{Gate: g, Open: true})
	}
	return h, c
}

// Cases 2 and 3: a rise holds spring and bare feet, a jump everything that loads.
func TestCases2And3RunningHoldsWhatItShould(t *testing.T) {
	week := func(km int) load.Class {
		return load.CompareWeek(km*1000, []int{28000, 28000, 28000, 28000}).Class
	}
	h, c := clean(t)
	c.Running = week(34)
	check(t, Decide(h, c), Up, 10, 8)
	c.Running = week(40)
	check(t, Decide(h, c), Hold, 7, 7)
	c.Running = load.Worse(load.Steady, load.CompareRun(18000, 15000))
	check(t, Decide(h, c), Hold, 7, 7)

	h, c = on(t, "spring-pogo", 5)
	for class, rule := range map[load.Class]RuleID{load.Rise: RuleRunRise, load.Spike: RuleRunSpike, load.Unknown: RuleRunUnknown, load.Return: RuleRunReturn, "": RuleRunUnknown} {
		c.Running = class
		d := Decide(h, c)
		check(t, d, Hold, 7, 5)
		assert.Equal(t, rule, d.Reasons[0].Rule)
	}
	c.Running = load.Steady
	assert.Equal(t, Up, Decide(h, c).Verdict)
	c.Running = load.Spike
	assert.True(t, Decide(h, c).CutSets, "spring sets are cut")
	h, c = on(t, "exposure-home", 1)
	c.Running, c.ExposureOver = load.Steady, true
	check(t, Decide(h, c), Hold, 7, 1)
	h, c = clean(t)
	c.ExposureOver = true
	check(t, Decide(h, c), Hold, 7, 7)
	// What loads nothing is left alone by running.
	h, c = on(t, "steer-split", 2)
	c.Running = load.Spike
	assert.Equal(t, Up, Decide(h, c).Verdict)
	// The cut stands beside a row that takes more away.
	h, c = on(t, "calf-straight", 12)
	c.Running, h.Sessions[1].Pain = load.Spike, ptr(6)
	d := Decide(h, c)
	check(t, d, Back, 3, 11)
	assert.True(t, d.CutSets)
}

// Case 6: a crunch of 12 cramps at repetition 7: next 6, then 8, 10, 12 by weeks.
func TestCase6Cramp(t *testing.T) {
	l := ladder(t, "foot-curl")
	notch := 0
	for i, n := range l.Notches {
		if n.Dose.Reps == 12 {
			notch = i + 1
			break
		}
	}
	require.Positive(t, notch)
	h, c := on(t, "foot-curl", notch)
	h.Sessions[1].CrampAt = ptr(7)
	d := Decide(h, c)
	check(t, d, Hold, 5, notch)
	assert.Equal(t, 6, d.RepCap)
	for week, reps := range []int{6, 8, 10, 0} {
		c.Today = may4 + day.Date(7*week)
		if week == 0 {
			c.Today++
		}
		assert.Equal(t, reps, Decide(h, c).RepCap, "week %d", week)
	}
	h.Sessions[1].CrampAt = ptr(2)
	c.Today = may4 + 1
	assert.Equal(t, 3, Decide(h, c).RepCap, "never under three")
	// A later clean session at the cut dose is no way up while the cap stands.
	h.Sessions = append(h.Sessions, session(may4+3, notch, 1), session(may4+5, notch, 1))
	for i := range h.Sessions {
		h.Sessions[i].SureTwenty = ptr(true)
	}
	for x := may4; x <= may4+6; x++ {
		setMorning(&h, x, 1)
	}
	c.Today = may4 + 6
	assert.Equal(t, Hold, Decide(h, c).Verdict)
}

// Case 13: fever stops the session and nothing else; short of time twice is no
// way back.
func TestCase13FeverAndShortOfTime(t *testing.T) {
	h, c := clean(t)
	c.Illness = Illness{Now: true, Days: 1}
	d := Decide(h, c)
	check(t, d, Hold, 0, 7)
	assert.True(t, d.NoSession)
	ended := may4 - 2
	c.Illness = Illness{Days: 4, Ended: &ended}
	d = Decide(h, c)
	check(t, d, Hold, 0, 7)
	require.NotNil(t, d.HalfUntil)
	assert.Equal(t, may4+4, *d.HalfUntil, "four days of half sets after 48 hours free")
	c.Today = may4 + 5
	setMorning(&h, may4+1, 1)
	assert.NotEqual(t, Row(0), Decide(h, c).Row)
	c.Illness.Days, c.Today = 30, may4+1
	assert.Equal(t, ended+2+7, *Decide(h, c).HalfUntil, "at most seven")
	// A flag is worse than a fever and is named.
	c.Illness, c.Flags = Illness{Now: true}, []safety.Standing{{Flag: "F-BONE", Everything: true}}
	d = Decide(h, c)
	check(t, d, Stop, 1, 7)
	assert.True(t, d.NoSession, "the cap stands beside it")

	h, c = clean(t)
	for i := range h.Sessions {
		h.Sessions[i].Done, h.Sessions[i].NoTime = ptr(0.5), true
	}
	check(t, Decide(h, c), Hold, 11, 7)
}

func TestRow6HowTheWorkWasDone(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Compensated = ptr(0.34)
	check(t, Decide(h, c), Hold, 6, 7)
	h.Sessions[1].Compensated = ptr(1.0 / 3)
	check(t, Decide(h, c), Hold, 6, 7) // one in three counts as over a third
	h.Sessions[1].Compensated = ptr(0.3)
	assert.NotEqual(t, Row(6), Decide(h, c).Row)
	h.Sessions[1].Done = ptr(0.79)
	check(t, Decide(h, c), Hold, 6, 7)
	h.Sessions[0].Done = ptr(0.5)
	check(t, Decide(h, c), Back, 6, 6)
	h.Sessions[0].On = may4 - 11
	check(t, Decide(h, c), Hold, 6, 7)
}

func TestRow3LitmusAndRest(t *testing.T) {
	h, c := clean(t)
	h.Sessions[1].Litmus = LitmusWorse
	check(t, Decide(h, c), Hold, 8, 7)
	h.Sessions[0].Litmus = LitmusWorse
	check(t, Decide(h, c), Back, 3, 6)
	h, c = clean(t)
	h.RestB0 = 1
	h.Rests = []Rest{{may4 + 1, 3}}
	d := Decide(h, c)
	check(t, d, Back, 3, 6)
	assert.Equal(t, RuleRestJump, d.Reasons[0].Rule)
	h.Rests = []Rest{{may4 - 3, 1}, {may4 + 1, 2}}
	assert.Equal(t, Up, Decide(h, c).Verdict)
}

func TestRow8RunPainAndRow9SleepAndIllness(t *testing.T) {
	h, c := clean(t)
	c.RunPain = &Reading{"run", may4, 4}
	check(t, Decide(h, c), Hold, 8, 7)
	c.RunPain.Value = 3
	assert.Equal(t, Up, Decide(h, c).Verdict)
	c.PoorSleep = true
	check(t, Decide(h, c), Hold, 9, 7)
	c.PoorSleep, c.MildIllness = false, true
	check(t, Decide(h, c), Hold, 9, 7)
}

// Release: 5 go on, 6 and 7 ease and stay, 8 takes pressure off and is no flag.
func TestReleaseHasItsOwnScale(t *testing.T) {
	for sore, want := range map[body.Pain]Verdict{5: Up, 6: Hold, 7: Hold, 8: Back, 10: Back} {
		h, c := on(t, "release-sole", 2)
		for i := range h.Sessions {
			h.Sessions[i].Pain, h.Sessions[i].SoreSpot = nil, ptr(5)
		}
		h.Sessions[1].SoreSpot = &sore
		d := Decide(h, c)
		assert.Equal(t, want, d.Verdict, "sore spot %d", sore)
		assert.Nil(t, d.Raises)
	}
	h, c := on(t, "release-sole", 2)
	h.Sessions[0].Reacted, h.Sessions[1].Reacted = true, true
	check(t, Decide(h, c), Back, 3, 1)
}

// Row 2 takes the ladders that share the tissue with it; quiet holds at the first
// notch may go on for calf and sole.
func TestAFlareStopsWhatSharesItsTissue(t *testing.T) {
	f := Flare{Ladder: "calf-toeup", Name: "Heel raise on a rolled towel", Since: may4, Side: body.Left, Tissues: []body.Tissue{body.Achilles, body.Sole}}
	h, c := clean(t)
	c.Flares = []Flare{f}
	d := Decide(h, c)
	check(t, d, Stop, 2, 7)
	assert.Equal(t, RuleSharedFlare, d.Reasons[0].Rule)
	c.Side = body.Right
	assert.Equal(t, Up, Decide(h, c).Verdict, "the other side goes on")

	h, c = on(t, "calm-iso", 3)
	c.Flares = []Flare{f}
	check(t, Decide(h, c), Back, 2, 1)
	h.Sessions[1].Pain = ptr(4)
	assert.Equal(t, Stop, Decide(h, c).Verdict, "only at 3 or less")
	h.Sessions[1].Pain = ptr(2)
	c.Flares[0].Tissues = []body.Tissue{body.Achilles, body.Forefoot}
	assert.Equal(t, Stop, Decide(h, c).Verdict, "bone: nothing loaded")
	h, c = on(t, "foot-shin", 2)
	c.Flares = []Flare{{Ladder: "x", Since: may4, Side: body.Both, Tissues: []body.Tissue{body.Shin}}}
	assert.True(t, Decide(h, c).AskBone)
	h, c = on(t, "steer-split", 2)
	c.Flares = []Flare{f}
	assert.NotEqual(t, Stop, Decide(h, c).Verdict)
}

func TestEarlyLoadingMayRiseWhileTheMedianFalls(t *testing.T) {
	h, c := on(t, "calf-toeup", 1)
	h.B0 = 5
	h.Mornings = nil
	for d := may4 - 7; d < may4; d++ {
		setMorning(&h, d, 5)
	}
	for d := may4; d <= may4+5; d++ {
		setMorning(&h, d, 4)
	}
	h.Sessions[0].On, h.Sessions[1].On = may4+1, may4+4
	c.Today, c.BlockStart = may4+5, may4-20
	check(t, Decide(h, c), Hold, 8, 1)
	c.LoadEarly = true
	check(t, Decide(h, c), Up, 10, 2)
	setMorning(&h, may4+5, 6)
	assert.NotEqual(t, Up, Decide(h, c).Verdict)
}

// The weekly look: two over the start goes back, creeping up holds, fewer than
// three known mornings know nothing.
func TestTheWeeklyLook(t *testing.T) {
	monday := may4
	week := func(b0 float64, p ...body.Pain) (WeekVerdict, bool) {
		h := History{B0: b0}
		for i, v := range p {
			h.Mornings = append(h.Mornings, Morning{monday + day.Date(i), v})
		}
		v, _, known := h.Week(monday)
		return v, known
	}
	for _, k := range []struct {
		b0    float64
		p     []body.Pain
		want  WeekVerdict
		known bool
	}{
		{0, []body.Pain{2, 2, 1}, WeekBack, true}, {1, []body.Pain{2, 2, 1}, WeekHold, true}, {1, []body.Pain{1, 1, 1}, WeekFree, true},
		{0, []body.Pain{5, 5}, WeekFree, false}, {9, []body.Pain{6, 6, 6}, WeekBack, true},
	} {
		v, known := week(k.b0, k.p...)
		assert.Equal(t, k.want, v, "%v over %g", k.p, k.b0)
		assert.Equal(t, k.known, known)
	}
}

// B rises by at most 1 a week over what earlier decisions were made with, and
// with fewer than four known mornings not at all; a frozen one counts as it was.
func TestTheBaselineRisesSlowly(t *testing.T) {
	h := History{B0: 4}
	for d := may4 - 6; d <= may4; d++ {
		h.Mornings = append(h.Mornings, Morning{d, 4})
	}
	assert.Equal(t, 4.0, h.Baseline(may4))
	h.Earlier = []Usual{{may4 - 5, 1}}
	assert.Equal(t, 2.0, h.Baseline(may4), "one a week")
	h.Earlier = []Usual{{may4 - 8, 1}}
	assert.Equal(t, 3.0, h.Baseline(may4), "two in the second week")
	h.Mornings = h.Mornings[4:]
	assert.Equal(t, 1.0, h.Baseline(may4), "three mornings let it fall, not rise")
	h.Earlier[0].B = 4
	h.Mornings[0].FirstStep, h.Mornings[1].FirstStep = 0, 0
	assert.Equal(t, 0.0, h.Baseline(may4))
	h.Frozen = &Frozen{B: 2.5}
	assert.Equal(t, 2.5, h.Baseline(may4))
}

// Three different dates of this ladder and side, the first at most 14 days before
// the last.
func TestRuleThreeThriceCountsDates(t *testing.T) {
	for days, want := range map[day.Date]Verdict{14: Stop, 15: Back} {
		h, c := clean(t)
		h.Sessions = []Session{session(may4-days, 8, 6), session(may4-6, 8, 6), session(may4-3, 7, 2), session(may4, 7, 6)}
		h.Sessions[0].DecidedBy, h.Sessions[1].DecidedBy, h.Sessions[2].DecidedBy = 3, 3, 11
		d := Decide(h, c)
		assert.Equal(t, want, d.Verdict, "%d days", days)
	}
	h, c := clean(t)
	h.Sessions = []Session{session(may4-2, 7, 6), session(may4-2, 7, 6), session(may4, 7, 6)}
	h.Sessions[0].DecidedBy, h.Sessions[1].DecidedBy = 3, 3
	assert.Equal(t, Back, Decide(h, c).Verdict, "one date counts once")
}

func TestStuck(t *testing.T) {
	in := StuckInput{Today: may4 + 42, BlockStart: may4, Complaints: []screening.Complaint{{Zone: "heel", Worst: ptr(5)}}}
	for d := may4 + 36; d <= may4+42; d++ {
		in.Mornings = append(in.Mornings, Morning{d, 5})
	}
	why, stuck := IsStuck(in)
	assert.True(t, stuck)
	assert.Equal(t, StuckNoBetter, why)
	for i := range in.Mornings {
		in.Mornings[i].FirstStep = 4
	}
	_, stuck = IsStuck(in)
	assert.False(t, stuck, "one point lower is better")
	in.Mornings = nil
	_, stuck = IsStuck(in)
	assert.False(t, stuck, "missing readings raise nothing")
	in.Complaints[0].Worst = ptr(2)
	in.Flares = []day.Date{may4, may4 + 42}
	why, _ = IsStuck(in)
	assert.Equal(t, StuckTwoFlares, why)
	in.Flares = []day.Date{may4 - 1, may4 + 42}
	_, stuck = IsStuck(in)
	assert.False(t, stuck)
	monday := (may4 + 42).Monday()
	for i, p := range []body.Pain{1, 2, 3} {
		for d := range 7 {
			in.Mornings = append(in.Mornings, Morning{monday - 14 + day.Date(7*i+d), p})
		}
	}
	in.Today = monday + 6
	_, stuck = IsStuck(in)
	assert.False(t, stuck)
	in.Held = true
	why, _ = IsStuck(in)
	assert.Equal(t, StuckRising, why)
}

// Whatever surrounds it: no up of a loading ladder in a jump, none while ill;
// more caution around a session never gives a harder dose; left and right are
// judged alike.
func TestSurroundingsOnlyTakeAway(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, c := drawn(t)
		c.Running = load.Steady
		before := Decide(h, c)
		worse := c
		switch rapid.IntRange(0, 6).Draw(t, "what") {
		case 0:
			worse.Running = load.Spike
		case 1:
			worse.Illness = Illness{Now: true, Days: 2}
		case 2:
			worse.PoorSleep = true
		case 3:
			worse.Deload = true
		case 4:
			worse.RunPain = &Reading{"run", may4, 7}
		case 5:
			worse.Flares = []Flare{{Ladder: "x", Since: may4, Side: body.Both, Tissues: []body.Tissue{body.Achilles}}}
		case 6:
			worse.Flags = []safety.Standing{{Flag: "F-X", Everything: true}}
		}
		after := Decide(h, worse)
		assert.GreaterOrEqual(t, after.Harshness(), before.Harshness())
		if worse.Running == load.Spike || worse.Illness.Now {
			assert.NotEqual(t, Up, after.Verdict)
		}
		c.Side = body.Right
		mirror := Decide(h, c)
		assert.Equal(t, before.Verdict, mirror.Verdict)
		assert.Equal(t, before.To, mirror.To)
		assert.Equal(t, Decide(h, c), mirror, "the same input, the same decision")
	})
}

// The way back to running: three days of painless walking first, then next after
// two runs at 2 or less with quiet mornings, without a week between; after a bone
// clearance one notch a week.
func TestBackToRunning(t *testing.T) {
	h, c := on(t, "run-return", 1)
	c.Running = load.Return
	for i := range h.Sessions {
		h.Sessions[i].Pain = ptr(0)
	}
	assert.Equal(t, Hold, Decide(h, c).Verdict, "two walks are not three days")
	h.Sessions = []Session{session(may4-4, 1, 0), session(may4-2, 1, 0), session(may4, 1, 0)}
	check(t, Decide(h, c), Up, 10, 2)
	h.Sessions[2].Pain = ptr(1)
	assert.Equal(t, Hold, Decide(h, c).Verdict, "painless means 0")
	h.Sessions[2].Pain = ptr(0)
	drop(&h, may4-3)
	assert.Equal(t, Hold, Decide(h, c).Verdict, "each morning after is known")

	h, c = on(t, "run-return", 2)
	c.Running, c.LastUp = load.Return, ptr(may4-2)
	h.Sessions[0].Pain, h.Sessions[1].Pain = ptr(2), ptr(1)
	check(t, Decide(h, c), Up, 10, 3)
	c.BoneCleared = true
	assert.Equal(t, Hold, Decide(h, c).Verdict)
	c.BoneCleared = false
	h.Sessions[1].Pain = ptr(3)
	assert.Equal(t, Hold, Decide(h, c).Verdict)
	c.Flags = []safety.Standing{{Flag: "F-COMP", Level: safety.Refer, Running: true}}
	assert.Equal(t, Stop, Decide(h, c).Verdict, "a flag that closes running closes the way back to it")
}

// What a coach can say of a dose lies on the right side of the table's lines.
func TestWhatIsSaidLiesOnTheRightSide(t *testing.T) {
	c := SaidAs()
	for _, k := range c.Done {
		h, ctx := clean(t)
		for i := range h.Sessions {
			h.Sessions[i].Done = ptr(k.Value)
		}
		d := Decide(h, ctx)
		assert.Equal(t, k.Words == "all", d.Verdict == Up, k.Words)
		assert.Equal(t, k.Words == "half" || k.Words == "none", d.Verdict == Back, "%s: %s %d", k.Words, d.Verdict, d.Row)
	}
	for _, k := range c.Compensated {
		h, ctx := clean(t)
		for i := range h.Sessions {
			h.Sessions[i].Compensated = ptr(k.Value)
		}
		d := Decide(h, ctx)
		assert.Equal(t, k.Words == "clean" || k.Words == "1 in 10", d.Verdict == Up, k.Words)
		assert.Equal(t, k.Words == "1 in 3" || k.Words == "half", d.Verdict == Back, "%s: %s %d", k.Words, d.Verdict, d.Row)
	}
}
