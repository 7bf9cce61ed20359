package course

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/screening"
)

// hipLife is a runner whose hips are worked on, with the bridge two notches under its
// top.
func hipLife(t *testing.T) *life {
	l := newLife(t)
	bridge, _ := shelf.Ladder("hip-bridge")
	l.r.Block.Prescriptions = []Prescription{{ID: "hip-bridge", Ladder: bridge, Start: bridge.Len(), FromWeek: 1}}
	l.r.Block.Plan.Choices = []planning.Choice{{Ladder: "hip-bridge", For: []string{"Hips do too little"}}}
	l.r.Block.Plan.Wishes = planning.Assume(shelf)
	l.r.Visits[0].Findings = []screening.Finding{{Factor: "hip-share", Name: "Hips do too little", WorkedOn: true, Severity: 2, Evidence: []screening.Evidence{{Test: "split-hold"}}}}
	l.r.State, l.r.Decisions = State{}, nil
	l.decide()
	return l
}

func (l *life) clean(on day.Date) {
	l.at(on, 18)
	log := Log{Arrival: l.arrival(), ID: "log" + on.String(), On: on}
	for _, s := range body.Sides {
		log.Items = append(log.Items, Item{Prescription: "hip-bridge", Side: s, Session: adjust.Session{On: on, Notch: 4, Pain: ptr(0), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(4), SureTwenty: ptr(true)}})
	}
	l.r.Logs = append(l.r.Logs, log)
	l.decide()
	l.morning(on+1, 0)
	l.to(on + 1)
}

// A ladder that stands clean on its last notch proposes the next of its path; one dirty
// session takes the proposal away; nothing is kept of it.
func TestATopProposesTheNextOfThePath(t *testing.T) {
	l := hipLife(t)
	assert.Empty(t, l.book().Nexts(shelf))
	for d := day.Date(7); d <= 16; d += 3 {
		l.clean(monday + d)
	}
	list := l.book().Nexts(shelf)
	require.Len(t, list, 1)
	n := list[0]
	assert.Equal(t, "hip-split", n.To.ID)
	assert.Equal(t, planning.ExitTop, n.Why)
	assert.Equal(t, WaitNone, n.Wait)
	assert.Equal(t, 1, n.Start.Notch)
	// Sore at it: not done with any more.
	on := monday + 19
	l.at(on, 18)
	log := Log{Arrival: l.arrival(), ID: "sore", On: on}
	for _, s := range body.Sides {
		log.Items = append(log.Items, Item{Prescription: "hip-bridge", Side: s, Session: adjust.Session{On: on, Notch: 4, Pain: ptr(5), Done: ptr(1.0), Compensated: ptr(0.0)}})
	}
	l.r.Logs = append(l.r.Logs, log)
	l.decide()
	assert.Empty(t, l.book().Nexts(shelf))
}

// A change waits like an up: in a lighter week, in a week of two ups.
func TestAChangeWaits(t *testing.T) {
	l := hipLife(t)
	for d := day.Date(7); d <= 19; d += 3 {
		l.clean(monday + d)
	}
	l.at(monday+22, 9) // the fourth week is lighter
	l.decide()
	list := l.book().Nexts(shelf)
	require.Len(t, list, 1)
	assert.Equal(t, WaitLight, list[0].Wait)

	// What came in by a change counts as a step up of its week.
	split, _ := shelf.Ladder("hip-split")
	since := monday + 22
	l.r.Block.Prescriptions = append(l.r.Block.Prescriptions, Prescription{ID: "hip-split", Ladder: split, Start: 1, FromWeek: 4, Since: &since})
	l.r.Block.Changed = []Changed{{From: "hip-bridge", To: "hip-split", On: since}}
	l.r.Block.Left = []LeftOut{{Ladder: "hip-bridge", On: since, Out: true}}
	b := l.book()
	assert.Equal(t, 1, b.upsThisWeek(""))
	assert.Contains(t, b.PlanEvidence().Followed, "hip-bridge")
	assert.Equal(t, "hip-share", string(b.workedFor("hip-split")[0].Factor), "it works on what the one before did")
	assert.Empty(t, b.Nexts(shelf))
}

// A test that reads ok now, taken again, is an aim reached; one that was not taken is not.
func TestAnAimReached(t *testing.T) {
	l := hipLife(t)
	again := l.r.Visits[0]
	again.ID, again.On, again.Findings = "again", monday+20, []screening.Finding{{Factor: "arms", Name: "Arms do too little", WorkedOn: true}}
	l.at(monday+20, 9)
	again.Arrival = l.arrival()
	l.r.Visits = append(l.r.Visits, again)
	l.decide()
	assert.Empty(t, l.book().Nexts(shelf), "the test behind the finding was not taken again")
	l.r.Visits[1].Results = append(l.r.Visits[1].Results, tested("split-hold", 60, 60, 0))
	b := l.book()
	i := 0
	for k, v := range b.Visits {
		if v.ID == "again" {
			i = k
		}
	}
	assert.Equal(t, "again", b.Visits[i].ID)
	list := b.Nexts(shelf)
	require.Len(t, list, 1)
	assert.Equal(t, planning.ExitAim, list[0].Why)
	assert.Equal(t, "hip-split", list[0].To.ID)
}

// Quiet holds give way when the region is calm no longer.
func TestQuietHoldsGiveWay(t *testing.T) {
	l := newLife(t, "calm-iso")
	l.r.Block.Plan.Choices = []planning.Choice{{Ladder: "calm-iso", For: []string{"Achilles"}}}
	l.r.Block.Plan.Wishes = planning.Assume(shelf)
	l.r.Visits[0].Findings = []screening.Finding{{Factor: "symptom-achilles-load", Name: "Achilles", WorkedOn: true, Severity: 2}}
	list := l.book().Nexts(shelf)
	require.Len(t, list, 1, "nothing hurts there: it is calm")
	assert.Equal(t, "calf-straight", list[0].To.ID)
	assert.Equal(t, planning.ExitCalm, list[0].Why)
	five := 5
	l.r.Visits[0].Complaints = []screening.Complaint{{Zone: "achilles-mid", Side: body.Left, FirstSteps: &five, Worst: &five, Now: &five}}
	assert.Empty(t, l.book().Nexts(shelf), "sore: they stay")
}

// A week at 0 after something hurt; a missing morning breaks it; who never hurt is not
// told so.
func TestAQuietWeek(t *testing.T) {
	l := newLife(t, "calf-straight")
	put := func(on day.Date, p int) {
		l.at(on, 8)
		l.r.Mornings = append(l.r.Mornings, Morning{Arrival: l.arrival(), On: on, FirstStep: &p})
		l.decide()
	}
	put(monday, 3)
	for d := day.Date(1); d <= 6; d++ {
		put(monday+d, 0)
	}
	_, ok := l.book().QuietWeek()
	assert.False(t, ok, "six days")
	put(monday+7, 0)
	since, ok := l.book().QuietWeek()
	assert.True(t, ok)
	assert.Equal(t, monday+1, since)
	l.at(monday+10, 8)
	l.decide()
	_, ok = l.book().QuietWeek()
	assert.False(t, ok, "not known since")
	put(monday+10, 0)
	_, ok = l.book().QuietWeek()
	assert.False(t, ok, "a gap")
}

// The last week says what follows, by what is known then.
func TestTheLastWeekSaysWhatFollows(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.r.Block.Weeks = 4
	_, _, ok := l.book().Ends()
	assert.False(t, ok)
	l.at(monday+22, 9)
	l.decide()
	end, then, ok := l.book().Ends()
	require.True(t, ok)
	assert.Equal(t, monday+27, end)
	assert.Equal(t, AfterScreen, then)
	v := visitOf(monday+23, "second")
	l.at(monday+23, 9)
	v.Arrival = l.arrival()
	v.Findings = []screening.Finding{{Factor: "calf-weak", Name: "Calf", WorkedOn: true}}
	l.r.Visits = append(l.r.Visits, v)
	l.decide()
	_, then, _ = l.book().Ends()
	assert.Equal(t, AfterBlock, then)
	l.r.Visits[1].Findings = nil
	_, then, _ = l.book().Ends()
	assert.Equal(t, AfterMaintain, then)
}

// A re-test is due from the day before until a visit of its week.
func TestARetestIsDue(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.r.Block.Plan.Weeks = []planning.WeekPlan{{Monday: monday}, {Monday: monday + 7, Retest: []string{"knee-to-wall"}, On: monday + 11}}
	_, _, ok := l.book().Retest()
	assert.False(t, ok)
	l.at(monday+10, 9)
	l.decide()
	on, w, ok := l.book().Retest()
	require.True(t, ok)
	assert.Equal(t, monday+11, on)
	assert.Equal(t, []string{"knee-to-wall"}, w.Retest)
	v := visitOf(monday+10, "second")
	v.Arrival = l.arrival()
	l.r.Visits = append(l.r.Visits, v)
	l.decide()
	_, _, ok = l.book().Retest()
	assert.False(t, ok)
}
