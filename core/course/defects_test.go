package course

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Each of these went wrong once; the numbers name lines of the settled rules.

// 33: stop at 8, three quiet mornings, way back accepted → 6. Neither the next
// quiet morning nor a run nor a late morning with automatic progress undoes it.
func TestAnAcceptedWayBackIsNotUndoneUpward(t *testing.T) {
	for _, auto := range []bool{false, true} {
		l := stopAt8(t, "calf-straight")
		l.r.Runner.AutoProgress = auto
		for _, side := range body.Sides {
			offers := l.proposed("calf-straight")
			require.NotEmpty(t, offers)
			assert.Equal(t, WayBack, offers[0].Kind)
			require.Empty(t, l.answer(Accept, offers[0].Key, 0))
			assert.Equal(t, 6, l.notch(side))
		}
		l.morning(monday+7, 1)
		assert.Equal(t, 6, l.notch(body.Left), "the next quiet morning")
		l.run(monday+7, 3000, ptr(0))
		assert.Equal(t, 6, l.notch(body.Left), "a run")
		l.morning(monday-1, 0)
		l.morning(monday+5, 0)
		assert.Equal(t, 6, l.notch(body.Left), "late mornings")
		l.to(monday + 12)
		assert.Equal(t, 6, l.notch(body.Left))
		for _, d := range l.proposed("calf-straight") {
			assert.Equal(t, adjust.Back, d.D.Verdict, "nothing is offered upward: %+v", d.D)
		}
	}
}

// 32: a Sunday's 8 → 7 is 7 on Monday when the week turns, when B0 forms, when a
// rest baseline forms, and when the next session trains one leg only.
func TestABackStandsUntilTheNextSession(t *testing.T) {
	l := newLife(t, "calf-straight")
	sunday := monday + 6
	l.calf(sunday, 6, 2)
	assert.Equal(t, 7, l.notch(body.Left))
	l.morning(sunday+1, 1) // Monday: the week turns
	l.morning(sunday+2, 1)
	l.morning(sunday+3, 1) // B0 forms
	l.rest(sunday+3, 1)
	l.rest(sunday+4, 1)
	l.rest(sunday+5, 1)
	assert.Equal(t, 7, l.notch(body.Left))
	l.calf(sunday+5, -1, 2) // the right leg alone
	l.morning(sunday+6, 1)
	assert.Equal(t, 7, l.notch(body.Left))
	assert.Equal(t, 8, l.notch(body.Right))
}

// 34: a gap is cut once: 20 days take 8 to 6, and the first clean session after
// it takes nothing.
func TestAGapIsCutOnce(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.calf(monday, 2, 2)
	l.morning(monday+1, 1)
	l.to(monday + 7)
	assert.Equal(t, 8, l.notch(body.Left))
	l.to(monday + 8)
	assert.Equal(t, 7, l.notch(body.Left))
	l.to(monday + 14)
	assert.Equal(t, 7, l.notch(body.Left), "looked at once")
	l.to(monday + 20)
	assert.Equal(t, 6, l.notch(body.Left), "two in all, from the notch of the last session")
	id := l.calf(monday+20, 2, 2)
	l.morning(monday+21, 1)
	assert.Equal(t, 6, l.notch(body.Left))
	assert.Equal(t, adjust.Hold, l.decisionOf("calf-straight", body.Left, id).D.Verdict)
}

// 12: the cut of a gap and the one of the session before it are not added: the
// larger counts.
func TestAGapAndTheSessionBeforeItAreNotAdded(t *testing.T) {
	for pain, want := range map[int]int{5: 6, 6: 6} {
		l := newLife(t, "calf-straight")
		l.calf(monday, pain, pain)
		l.morning(monday+1, 1)
		l.to(monday + 20)
		assert.Equal(t, want, l.notch(body.Left), "pain %d, twenty days off", pain)
	}
}

// 34: two clean sessions 10 or 11 days apart are no way back.
func TestTwoCleanSessionsElevenDaysApartAreNoWayBack(t *testing.T) {
	for _, gap := range []day.Date{7, 10, 11} {
		l := newLife(t, "calf-straight")
		for d := monday; d < monday+gap+2; d++ {
			l.morning(d, 1)
			if d == monday || d == monday+gap {
				before := l.notch(body.Left)
				l.calf(d, 2, 2)
				l.morning(d+1, 1)
				assert.Equal(t, before, l.notch(body.Left))
			}
		}
	}
}

// 34: more than 28 days stop the ladder; a screening of what it reads, not one
// clean session or quiet mornings, lifts that.
func TestAStopByRowFourIsLiftedByAScreening(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.calf(monday, 2, 2)
	l.to(monday + 29)
	require.NotNil(t, l.peg("calf-straight", body.Left).Halt)
	for d := monday + 29; d < monday+34; d++ {
		l.morning(d, 0)
	}
	assert.Empty(t, l.proposed("calf-straight"), "mornings don't lift it")
	l.visit(monday+35, visitOf(monday+35, "second"))
	offers := l.proposed("calf-straight")
	require.Len(t, offers, 2)
	assert.Equal(t, 6, offers[0].D.To, "two under where it stood")
	require.Empty(t, l.answer(Accept, offers[0].Key, 0))
	id := l.log(monday+36, map[string][2]int{"calf-straight": {2, -1}})
	l.morning(monday+37, 1)
	assert.Nil(t, l.peg("calf-straight", body.Left).Halt)
	assert.Equal(t, adjust.Hold, l.decisionOf("calf-straight", body.Left, id).D.Verdict)
	// A ladder that reads no test is lifted by any visit, at its first notch.
	l = newLife(t, "foot-shin")
	l.r.Block.Prescriptions[0].Ladder.Start.Test = ""
	l.log(monday, map[string][2]int{"foot-shin": {1, 1}})
	l.to(monday + 30)
	v := visitOf(monday+31, "second")
	v.Results = nil
	l.visit(monday+31, v)
	require.NotEmpty(t, l.proposed("foot-shin"))
	assert.Equal(t, 1, l.proposed("foot-shin")[0].D.To)
}

// 33: a flare ends the same day, by the same frozen usual reading, for all that
// it stopped; nothing is offered while a flare of a shared tissue stands.
func TestAFlareStopsAndFreesAllThatSharesItAlike(t *testing.T) {
	l := newLife(t)
	for d := monday - 6; d <= monday; d++ {
		l.morning(d, 1)
	}
	l.log(monday, map[string][2]int{"calf-straight": {2, 2}, "calf-toeup": {2, 2}})
	for d := monday + 1; d <= monday+3; d++ {
		l.morning(d, 4, "heel", "left") // the sole, left
	}
	halted := func(p string, side body.Side) bool { return l.peg(p, side).Halt != nil }
	assert.True(t, halted("calf-toeup", body.Left))
	assert.False(t, halted("calf-toeup", body.Right))
	assert.True(t, halted("calf-straight", body.Left), "shares the Achilles with toes-up, which began it")
	assert.True(t, halted("spring-pogo", body.Left))
	assert.True(t, halted("spring-pogo", body.Right), "on two legs")
	assert.False(t, halted("foot-shin", body.Left))
	assert.Equal(t, 1, l.peg("calm-iso", body.Left).Notch, "quiet holds go on at their first notch")
	require.Len(t, l.r.State.Flares, 1)
	l.morning(monday+4, 1, "heel", "left")
	l.morning(monday+5, 1, "heel", "left")
	for _, p := range []string{"calf-straight", "calf-toeup", "spring-pogo"} {
		assert.Empty(t, l.proposed(p))
	}
	l.morning(monday+6, 2, "heel", "left")
	for _, p := range []string{"calf-straight", "calf-toeup", "spring-pogo"} {
		assert.NotEmpty(t, l.proposed(p), "%s: all on one day", p)
	}
	require.NotNil(t, l.r.State.Flares[0].Ended)
	assert.Equal(t, monday+6, *l.r.State.Flares[0].Ended)
}

// A way back is neither offered nor accepted while another flare of a shared
// tissue stands on that side; a worse morning takes the offer back.
func TestNoWayBackWhileAnotherFlareStands(t *testing.T) {
	l := stopAt8(t, "calf-straight", "foot-shin")
	offer := l.proposed("calf-straight")[0]
	l.morning(monday+7, 4)
	assert.Empty(t, l.proposed("calf-straight"), "a worse morning takes the offer back")
	assert.Equal(t, RefusedGone, l.answer(Accept, offer.Key, 0))
	for d := monday + 8; d <= monday+9; d++ {
		l.morning(d, 4)
	}
	assert.Len(t, l.r.State.Flares, 1+1+2, "calf and shin on both sides")
	for d := monday + 10; d <= monday+12; d++ {
		l.morning(d, 1)
	}
	require.NotEmpty(t, l.proposed("calf-straight"))
}

// 36: on two legs the sides are decided apart and all their flares act: mirrored
// runners end on mirrored pegs.
func TestMirroredRunnersEndOnMirroredPegs(t *testing.T) {
	lived := func(sore body.Side) *life {
		l := newLife(t)
		for i := range l.r.Block.Prescriptions {
			if l.r.Block.Prescriptions[i].ID == "calf-straight" {
				l.r.Block.Prescriptions[i].Start = 3 // two legs
			}
		}
		l.r.State = State{}
		l.r.Decisions = nil
		for d := monday - 6; d <= monday; d++ {
			l.morning(d, 1)
		}
		l.log(monday, map[string][2]int{"calf-straight": {2, 2}, "calf-toeup": {2, 2}})
		for d := monday + 1; d <= monday+3; d++ {
			l.morning(d, 5, "achilles-mid", string(sore))
			l.morning(d, 2, "achilles-mid", string(sore.Other()))
		}
		return l
	}
	left, right := lived(body.Left), lived(body.Right)
	for _, p := range left.r.Block.Prescriptions {
		for _, s := range body.Sides {
			a, b := left.peg(p.ID, s), right.peg(p.ID, s.Other())
			assert.Equal(t, a.Notch, b.Notch, "%s %s", p.ID, s)
			assert.Equal(t, a.Halt == nil, b.Halt == nil, "%s %s", p.ID, s)
		}
	}
	assert.NotNil(t, left.peg("calf-straight", body.Right).Halt, "work on two legs stops for both")
	assert.Nil(t, left.peg("calf-toeup", body.Right).Halt, "one-legged work on the quiet side goes on")
	assert.Equal(t, body.Right, right.r.State.Flares[0].Side, "the right's flare is not hidden by the left")
}

// 35: pain of 8 from first steps, a run, a walk test or a complaint, and pain at
// rest of 5, raise F-SEVERE; they are not only said.
func TestSeverePainIsRaisedWhereverItIsReported(t *testing.T) {
	for name, report := range map[string]func(*life){
		"first steps": func(l *life) { l.morning(monday+1, 8) },
		"rest":        func(l *life) { l.rest(monday+1, 5) },
		"run":         func(l *life) { l.run(monday+1, 5000, ptr(8)) },
		"session":     func(l *life) { l.calf(monday+1, 8, 8) },
	} {
		l := newLife(t, "calf-straight")
		l.calf(monday, 2, 2)
		report(l)
		assert.Contains(t, l.raised(), safety.Severe, name)
		for _, side := range body.Sides {
			h := l.peg("calf-straight", side).Halt
			require.NotNil(t, h, name)
			assert.EqualValues(t, 1, h.Row, name)
		}
		assert.Empty(t, l.proposed("calf-straight"))
	}
	l := newLife(t, "calf-straight")
	v := visitOf(monday+1, "second")
	v.Results = append(v.Results, tested(screening.ToeWalk, 8, 0, 0))
	l.visit(monday+1, v)
	require.NotNil(t, l.peg("calf-straight", body.Left).Halt, "a walk test of 8")
}

// 15: a jump in running, or more exposure than the ramp had planned, holds every
// ladder with a counted tissue.
func TestARunSpikeAfterAProposalHoldsTheStep(t *testing.T) {
	l := upProposed(t)
	d := l.proposed("calf-straight")[0]
	l.run(monday+14, 60000, ptr(0))
	assert.Equal(t, RefusedHeld, l.answer(Accept, d.Key, 0), "held by today's running")
	assert.Equal(t, 8, l.notch(body.Left))
}

// upProposed has both calves proposed up on the second Monday.
func upProposed(t *testing.T) *life {
	l := newLife(t, "calf-straight")
	for d := monday; d <= monday+10; d++ {
		l.morning(d, 1)
		if d == monday+3 || d == monday+6 || d == monday+9 {
			l.calf(d, 2, 2)
		}
	}
	require.Len(t, l.proposed("calf-straight"), 2)
	require.Equal(t, adjust.Up, l.proposed("calf-straight")[0].D.Verdict)
	return l
}

// 31: a decision is made once, with the baselines of its morning; a late reading
// of a day it rests on lowers the peg at once, and raises it only as a proposal.
func TestALateReadingLowersAtOnceAndRaisesOnlyByProposal(t *testing.T) {
	l := newLife(t, "calf-straight")
	for d := monday - 6; d <= monday; d++ {
		l.morning(d, 1)
	}
	id := l.calf(monday, 2, 2)
	l.morning(monday+1, 1)
	was := l.decisionOf("calf-straight", body.Left, id)
	assert.Equal(t, adjust.Hold, was.D.Verdict)
	l.at(monday+3, 9)
	l.morning(monday+1, 3) // corrected two days later
	now := l.decisionOf("calf-straight", body.Left, id)
	assert.Equal(t, 7, l.notch(body.Left))
	assert.Equal(t, was.frozenOf(body.Left), now.frozenOf(body.Left), "the baselines are those of its morning")
	require.NotNil(t, now.Life[0].Reading)
	assert.Equal(t, monday+1, now.Life[0].Reading.On)
	// Corrected back: the notch is offered, not given.
	l.at(monday+4, 9)
	l.morning(monday+1, 1)
	assert.Equal(t, 7, l.notch(body.Left))
	offers := l.proposed("calf-straight")
	require.Len(t, offers, 2)
	assert.Equal(t, 8, offers[0].PutBack)
	require.Empty(t, l.answer(Accept, offers[0].Key, 0))
	assert.Equal(t, 8, l.peg("calf-straight", offers[0].Side).Notch)
}

// An accepted step up whose morning turns out bad is taken back at once.
func TestAnAcceptedStepIsLoweredByALateReading(t *testing.T) {
	l := upProposed(t)
	for _, d := range l.proposed("calf-straight") {
		require.Empty(t, l.answer(Accept, d.Key, 0))
	}
	assert.Equal(t, 9, l.notch(body.Left))
	l.at(monday+11, 9)
	l.morning(monday+10, 4)
	assert.Equal(t, 7, l.notch(body.Left))
	l.at(monday+12, 9)
	l.morning(monday+10, 1)
	assert.Equal(t, 7, l.notch(body.Left), "nothing rises by a correction alone")
}

// 37: a dose that was cut for the day proves nothing: no step up, no gate.
func TestACutDoseProvesNothing(t *testing.T) {
	l := newLife(t, "calf-straight")
	cut := func(s *adjust.Session) { s.Cut = adjust.CutHalf }
	for d := monday; d <= monday+10; d++ {
		l.morning(d, 1)
		if d == monday+6 || d == monday+9 {
			l.calf(d, 2, 2, cut)
		}
	}
	assert.Empty(t, l.proposed("calf-straight"))
	l = newLife(t, "calf-straight")
	l.r.Visits = nil
	l.r.Block.Prescriptions[0].Start = 3
	l.r.State = State{}
	l.calf(monday, 1, 1, cut)
	l.morning(monday+1, 1)
	assert.False(t, safety.IsOpen(Open(l.r, l.now).Gates(), safety.SingleLegCalf))
	l.calf(monday+2, 1, 1)
	l.morning(monday+3, 1)
	assert.True(t, safety.IsOpen(Open(l.r, l.now).Gates(), safety.SingleLegCalf), "clean two-leg 3 × 15, uncut, proves it")
}

// 25: race and ill weeks stay out of the mean.
func TestIllAndRaceWeeksStayOutOfTheMean(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.r.Runner.IntakeMetres = nil
	for i, m := range []int{20000, 20000, 2000, 20000} {
		l.run(monday-day.Date(7*(4-i)), m, ptr(0))
	}
	l.day(monday-13, Day{Illness: "fever"})
	b := Open(l.r, Moment{monday, 12})
	assert.Equal(t, []int{20000, 20000, 20000}, load.Before(b.Runs, monday, nil, b.OutOfMeans))
	l.r.Block.Plan.Wishes.Race = &planning.Race{On: monday + 6, Km: 21.1}
	b = Open(l.r, Moment{monday + 28, 12})
	assert.True(t, b.OutOfMeans(monday))
	assert.True(t, b.OutOfMeans(monday+7), "the half week after")
}

// 16: poor sleep means two nights running, or one under six hours.
func TestPoorSleepIsTwoNightsOrAShortOne(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.day(monday, Day{PoorSleep: true})
	assert.False(t, Open(l.r, Moment{monday, 12}).poorSleep(monday))
	l.day(monday+1, Day{PoorSleep: true})
	assert.True(t, Open(l.r, Moment{monday + 1, 12}).poorSleep(monday+1))
	l.day(monday+4, Day{ShortSleep: true})
	assert.True(t, Open(l.r, Moment{monday + 4, 12}).poorSleep(monday+4))
}

// 13: a high week takes one notch once, from what was not cut in it, and holds
// until the next look; with fewer than three known mornings the last result stands.
func TestAHighWeekTakesOneNotchOnce(t *testing.T) {
	l := newLife(t, "calf-straight", "foot-side")
	l.r.Runner.IntakeFirstStep = ptr(0)
	for i, p := range []int{2, 0, 2, 0, 2} {
		l.morning(monday+1+day.Date(i), p)
	}
	l.to(monday + 6)
	assert.Equal(t, 8, l.notch(body.Left))
	l.to(monday + 7)
	assert.Equal(t, 7, l.notch(body.Left))
	assert.Equal(t, 2, l.peg("foot-side", body.Left).Notch, "what loads nothing is left alone")
	l.to(monday + 14)
	assert.Equal(t, 7, l.notch(body.Left), "a week nobody knows takes nothing more")
	w := l.r.State.Seats[0].Week
	require.NotNil(t, w)
	assert.Equal(t, adjust.WeekHold, w.Verdict, "and holds")
	// A morning that comes late offers the notch back; it does not give it.
	l = newLife(t, "calf-straight")
	l.r.Runner.IntakeFirstStep = ptr(0)
	for i, p := range []int{2, 0, 2, 0, 2} {
		l.morning(monday+1+day.Date(i), p)
	}
	l.to(monday + 7)
	l.at(monday+8, 9)
	l.morning(monday+3, 0)
	l.morning(monday+5, 0)
	assert.Equal(t, 7, l.notch(body.Left))
	require.NotEmpty(t, l.proposed("calf-straight"))
	assert.Equal(t, 8, l.proposed("calf-straight")[0].PutBack)
}

// 51: a flare of 14 days raises F-STUCK; a clearance of it sets the usual reading
// by which quiet is read, and the way back stays two lower.
func TestAFlareThatDoesNotEnd(t *testing.T) {
	l := newLife(t, "calf-straight")
	for d := monday - 6; d <= monday; d++ {
		l.morning(d, 1)
	}
	l.calf(monday, 2, 2)
	for d := monday + 1; d <= monday+17; d++ {
		l.morning(d, 4)
	}
	l.to(monday + 17)
	assert.Contains(t, l.raised(), adjust.Stuck)
	assert.Empty(t, l.proposed("calf-straight"))
	l.clear(monday+18, monday+60, adjust.Stuck)
	for d := monday + 18; d <= monday+20; d++ {
		l.morning(d, 4)
	}
	offers := l.proposed("calf-straight")
	require.NotEmpty(t, offers)
	assert.Equal(t, 6, offers[0].D.To)
	// A steady high morning reads "too sore to load yet", not "flare".
	l = newLife(t, "calf-straight")
	l.r.Runner.IntakeFirstStep = ptr(7)
	for d := monday; d <= monday+3; d++ {
		l.morning(d, 7)
	}
	var rules []adjust.RuleID
	for _, d := range l.r.Decisions {
		for _, r := range d.D.Reasons {
			rules = append(rules, r.Rule)
		}
	}
	assert.Contains(t, rules, adjust.RuleTooSore)
}

// 53: one's own answer can be taken back the same day, before a session followed.
func TestAnAnswerIsTakenBackTheSameDay(t *testing.T) {
	l := upProposed(t)
	d := l.proposed("calf-straight")[0]
	require.Empty(t, l.answer(Accept, d.Key, 0))
	assert.Equal(t, 9, l.peg("calf-straight", d.Side).Notch)
	require.Empty(t, l.answer(TakeBack, d.Key, 0))
	assert.Equal(t, 8, l.peg("calf-straight", d.Side).Notch)
	assert.Len(t, l.proposed("calf-straight"), 2)
	require.Empty(t, l.answer(Accept, d.Key, 0))
	l.to(monday + 12)
	assert.Equal(t, RefusedFollowed, l.answer(TakeBack, d.Key, 0), "the day is over")
}

// The order in which two readings arrive on one day does not matter.
func TestTheOrderOfArrivalOfOneDayDoesNotMatter(t *testing.T) {
	one := newLife(t, "calf-straight")
	one.calf(monday, 6, 2)
	one.at(monday+1, 9)
	one.morning(monday+1, 4)
	one.run(monday+1, 4000, ptr(2))
	two := newLife(t, "calf-straight")
	two.calf(monday, 6, 2)
	two.run(monday+1, 4000, ptr(2))
	two.morning(monday+1, 4)
	for _, s := range body.Sides {
		assert.Equal(t, one.notch(s), two.notch(s))
	}
}

// What an override may not do: rise while something holds, start a stopped
// ladder, jump two notches.
func TestOverridesKeepTheirBounds(t *testing.T) {
	l := newLife(t, "calf-straight")
	id := l.calf(monday, 5, 2)
	left, right := l.decisionOf("calf-straight", body.Left, id), l.decisionOf("calf-straight", body.Right, id)
	assert.Equal(t, RefusedHeld, l.answer(Override, left.Key, 9), "pain 5 holds")
	assert.Equal(t, RefusedRange, l.answer(Override, right.Key, 10))
	assert.Empty(t, l.answer(Override, right.Key, 9))
	assert.Equal(t, 9, l.notch(body.Right))
	assert.Empty(t, l.answer(Override, left.Key, 4))
	assert.Equal(t, 4, l.notch(body.Left))
	l.calf(monday+2, 8, -1)
	d := l.r.Decisions[len(l.r.Decisions)-1]
	assert.NotEmpty(t, l.answer(Override, d.Key, 1))
	require.NotNil(t, l.peg("calf-straight", body.Left).Halt)
}

// A step up that nobody answered is off after a pause; one that becomes known
// only then is never offered.
func TestAPauseTakesAnUpOff(t *testing.T) {
	l := upProposed(t)
	d := l.proposed("calf-straight")[0]
	l.to(d.Session + 8)
	assert.Empty(t, l.proposed("calf-straight"))
	assert.Equal(t, RefusedGone, l.answer(Accept, d.Key, 0))
	l.run(d.Session, 5000, nil)
	l.run(d.Session, 5000, ptr(1))
	assert.Empty(t, l.proposed("calf-straight"))
	for _, d := range l.r.Decisions {
		assert.False(t, d.Stands() && d.D.Verdict == adjust.Up, d.Key)
	}
}

// 53: a severe reading that who typed it changed within seven days asks its flag
// again; answered no, the flag ends that day and nothing rises by it.
func TestASlipEndsItsFlag(t *testing.T) {
	morning := func(l *life, on day.Date, p int, by string) {
		l.quiet = true
		l.morning(on, p)
		l.quiet = false
		l.r.Mornings[len(l.r.Mornings)-1].By = by
		l.decide()
	}
	start := func() *life {
		l := newLife(t, "calf-straight")
		morning(l, monday, 1, "noor")
		l.calf(monday, 1, 1)
		morning(l, monday+1, 9, "noor")
		require.Contains(t, l.raised(), safety.Severe)
		require.NotNil(t, l.peg("calf-straight", body.Left).Halt)
		return l
	}
	put := func(l *life, key string) {
		l.r.Answers = append(l.r.Answers, Answer{Arrival: l.arrival(), Decision: key, Kind: Typo, Reason: "the nine is beside the zero", By: "noor"})
		l.decide()
	}
	l := start()
	assert.Empty(t, l.book().Slips("noor"), "nothing was changed")
	morning(l, monday+1, 0, "noor")
	assert.Empty(t, l.book().Slips("edda"), "only who typed it")
	require.Len(t, l.book().Slips("noor"), 1)
	assert.Contains(t, l.raised(), safety.Severe, "the change alone ends nothing")
	assert.NotNil(t, l.peg("calf-straight", body.Left).Halt)
	put(l, l.book().Slips("noor")[0].Key)
	require.NotNil(t, l.r.Raised[0].Ended)
	assert.Equal(t, monday+1, *l.r.Raised[0].Ended)
	assert.NotNil(t, l.peg("calf-straight", body.Left).Halt, "nothing rises by it")
	require.NotEmpty(t, l.proposed("calf-straight"))
	assert.Equal(t, WayBack, l.proposed("calf-straight")[0].Kind)
	assert.Equal(t, 6, l.proposed("calf-straight")[0].D.To)
	// Decided again from the events alone it ends the same.
	once := l.r
	once.State, once.Decisions, once.Raised = State{}, nil, nil
	all := once.With(decided(once, l.now))
	assert.Empty(t, differ(l.r, all))
	assert.Equal(t, monday+1, *all.Raised[0].Ended)

	for name, spoil := range map[string]func(*life){
		"eight days later":   func(l *life) { morning(l, monday+9, 1, "noor"); morning(l, monday+1, 0, "noor") },
		"by somebody else":   func(l *life) { morning(l, monday+1, 0, "edda") },
		"still severe":       func(l *life) { morning(l, monday+1, 8, "noor") },
		"another one stands": func(l *life) { morning(l, monday+1, 0, "noor"); morning(l, monday+2, 8, "noor") },
		"a run was as bad":   func(l *life) { morning(l, monday+1, 0, "noor"); l.run(monday+1, 3000, ptr(8)) },
	} {
		l := start()
		spoil(l)
		assert.Empty(t, l.book().Slips("noor"), name)
		put(l, "slip|"+(monday+1).String()+"||")
		assert.Nil(t, l.r.Raised[0].Ended, name)
	}
}

// A year takes long to decide; a request that ended is not decided for.
func TestDecidingStopsWithItsRequest(t *testing.T) {
	r := year(t)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	changes, err := Decide(ctx, r, Moment{monday + 300, 13})
	require.ErrorIs(t, err, context.Canceled)
	assert.Empty(t, changes)
}
