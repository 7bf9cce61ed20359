package course

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// reported is a block of every ladder in whose middle something is reported.
func reported(t *testing.T, at int, d Day) *Book {
	l := blockOf(t, at)
	l.at(monday+8, 13)
	l.decide() // what this runner has no evidence for moves first
	l.at(monday+9, 9)
	d.Arrival, d.On = l.arrival(), l.now.On
	l.r.Days = append(l.r.Days, d)
	for _, p := range d.New {
		l.r.Mornings = append(l.r.Mornings, Morning{Arrival: l.arrival(), On: d.On, Zone: p.Zone, Side: p.Side, FirstStep: p.FirstStep, Rest: p.Rest})
	}
	l.decide()
	return l.book()
}

func (b *Book) asks(t *testing.T, ladder string, side body.Side) int {
	l, ok := shelf.Ladder(ladder)
	require.True(t, ok, ladder)
	p, ok := b.Prescription(ladder)
	require.True(t, ok, ladder)
	peg := b.State.Peg(Seat{p.ID, side})
	if peg.Halt != nil {
		return 0
	}
	n, _ := b.Highest(l, peg.Notch, side)
	return n
}

func yes(ids ...string) *safety.Answers {
	a := &safety.Answers{Yes: map[string]body.Side{}, None: []string{}}
	for _, id := range ids {
		a.Yes[id] = body.Left
	}
	return a
}

func none() *safety.Answers {
	a := &safety.Answers{Yes: map[string]body.Side{}}
	for _, g := range safety.Questions(adult) {
		a.None = append(a.None, g.Name)
	}
	return a
}

func TestABonePainInMidBlockClosesHopsBentKneeAndBallHolds(t *testing.T) {
	b := reported(t, 99, Day{Answers: yes("F-BONE")})
	for _, id := range []string{"spring-pogo", "calf-bent", "calf-ball-hold", "calf-heavy-slow", "calf-straight", "foot-curl", "range-toe-block", "balance-reach", "release-shin"} {
		assert.Zero(t, b.asks(t, id, body.Left), id)
	}
	assert.NotZero(t, b.asks(t, "range-sole-pull", body.Left), "seated, nothing carried")
	assert.NotZero(t, b.asks(t, "calf-heavy-slow", body.Right), "the other leg may")
}

func TestATearClosesTheCalfAndWhatPressesOrStretchesIt(t *testing.T) {
	b := reported(t, 2, Day{Answers: yes("F-TEAR/calf")})
	for _, id := range []string{"calf-heavy-slow", "release-calf", "range-calf", "range-soleus", "range-ankle", "calm-iso", "foot-hover"} {
		assert.Zero(t, b.asks(t, id, body.Left), id)
	}
	old := reported(t, 2, Day{Answers: yes("F-TEAR")})
	for _, id := range []string{"calf-straight", "release-sole", "range-sole-pull"} {
		assert.Zero(t, old.asks(t, id, body.Left), "an older answer stood for both: %s", id)
	}
}

func TestHighRiskBonePainLeavesNothingThatCarriesWeight(t *testing.T) {
	b := reported(t, 99, Day{Answers: yes("F-BONE-HIGH")})
	for _, id := range []string{"leg-squat", "balance-stand", "balance-reach", "hip-bridge", "foot-side"} {
		assert.Zero(t, b.asks(t, id, body.Right), id)
	}
}

func TestKnownHeartDiseaseLeavesRangeAndControl(t *testing.T) {
	b := reported(t, 1, Day{Answers: yes("F-HEART-KNOWN")})
	for _, l := range shelf.Ladders {
		n := b.asks(t, l.ID, body.Left)
		if l.Purpose == "range" || l.Purpose == "steer" {
			continue
		}
		assert.Zero(t, n, l.ID)
	}
	assert.NotZero(t, b.asks(t, "steer-split", body.Left))
}

func TestAnEarlierClotIsAQuestionOfItsOwn(t *testing.T) {
	b := reported(t, 1, Day{Answers: yes("F-BLOOD/clot")})
	assert.Zero(t, b.asks(t, "release-calf", body.Left))
	assert.NotZero(t, b.asks(t, "release-sole", body.Left))
}

func TestWhatClosesRunningClosesTheStagesAboveAndTheCadence(t *testing.T) {
	for _, id := range []string{"F-MED", "F-ACH-OP", "F-TEAR/calf", "F-ENERGY", "F-METAL"} {
		b := reported(t, 1, Day{Answers: yes(id)})
		assert.False(t, safety.IsOpen(b.Gates(), safety.MinShoeRun), id)
		assert.False(t, safety.IsOpen(b.Gates(), safety.BarefootRun), id)
	}
	b := reported(t, 1, Day{Answers: yes("F-COMP")})
	g, _ := safety.Find(b.Gates(), safety.CadenceChange)
	assert.True(t, slices.ContainsFunc(g.Needs, func(m safety.Missing) bool { return m.Kind == safety.NeedClearance }))
}

func TestANewPlaceWithOpenQuestionsHoldsFromThatHour(t *testing.T) {
	b := reported(t, 99, Day{New: []Place{{Zone: "inner-shin", Side: body.Left, FirstStep: ptr(2)}}})
	require.Len(t, b.Asks(), 1)
	for _, id := range []string{"spring-pogo", "calf-straight", "foot-walk-heel", "run-return"} {
		assert.Zero(t, b.asks(t, id, body.Left), id)
	}
	for _, d := range b.Decisions() {
		assert.False(t, d.Kind == OfFlag && d.At.On == monday+9, "an open question pauses; it moves no peg")
	}
	answered := reported(t, 1, Day{New: []Place{{Zone: "inner-shin", Side: body.Left, FirstStep: ptr(0)}}, Answers: none()})
	assert.Empty(t, answered.Asks())
	assert.NotZero(t, answered.asks(t, "steer-split", body.Left))
}

func TestAComplaintBetweenVisitsLeavesOutAndMovesThePhase(t *testing.T) {
	b := reported(t, 99, Day{New: []Place{{Zone: "achilles-low", Side: body.Left, FirstStep: ptr(5)}}, Answers: none()})
	require.Len(t, b.Complaints(), 1)
	assert.Equal(t, FromReport, b.Complaints()[0].Told)
	phase := planning.Phase("")
	for _, p := range b.Phases() {
		if p.Region == planning.RegionCalf {
			phase = p.Phase
		}
	}
	assert.Equal(t, planning.Calm, phase)
	assert.Zero(t, b.asks(t, "range-soleus", body.Left), "no end range with a sore insertion")
	l, _ := shelf.Ladder("calf-straight")
	n := b.asks(t, "calf-straight", body.Left)
	assert.True(t, n == 0 || l.At(n).Together(), "calm: no one-leg work, lowering neither")
	why := b.May(l, 5, body.Left)
	assert.NotEmpty(t, why.By(planning.LockPhase))
}

func TestACalmRegionComesBackByItsReadings(t *testing.T) {
	l := blockOf(t, 99)
	l.at(monday+9, 9)
	l.r.Days = append(l.r.Days, Day{Arrival: l.arrival(), On: l.now.On, New: []Place{{Zone: "achilles-mid", Side: body.Left, FirstStep: ptr(5)}}, Answers: none()})
	l.decide()
	before := l.book().State.Peg(Seat{"hip-bridge", body.Left}).Notch
	x, _ := shelf.Ladder("calf-split-hold")
	assert.True(t, l.book().May(x, 1, body.Left).Closed())
	peg := l.book().State.Peg(Seat{"calf-split-hold", body.Left}).Notch
	for i := range 15 {
		l.at(monday+10+day.Date(i), 8)
		l.r.Mornings = append(l.r.Mornings, Morning{Arrival: l.arrival(), On: l.now.On, Zone: "achilles-mid", Side: body.Left, FirstStep: ptr(0)})
		l.decide()
	}
	assert.False(t, l.book().May(x, 1, body.Left).Closed(), "quiet mornings lead on")
	assert.Empty(t, l.book().Complaints(), "fourteen days at 0 end it")
	assert.Equal(t, before, l.book().State.Peg(Seat{"hip-bridge", body.Left}).Notch)
	assert.LessOrEqual(t, l.book().State.Peg(Seat{"calf-split-hold", body.Left}).Notch, peg)
}

func TestShinPainOfThirtyWeeksAsksForAClinician(t *testing.T) {
	l := blockOf(t, 1)
	v := visitOf(monday-1, "first")
	v.Arrival = l.arrival()
	v.Complaints = []screening.Complaint{{Zone: "inner-shin", Side: body.Left, SinceWeeks: ptr(30), Worst: ptr(3)}}
	l.r.Visits = []Visit{v}
	b := Open(l.r, Moment{monday, 9})
	has := func(id safety.FlagID) bool {
		return slices.ContainsFunc(b.Flags(), func(f safety.Standing) bool { return f.Flag == id })
	}
	assert.True(t, has(safety.ShinLongHeld), "bone and tightness were answered no that day: volume is held")
	v.Answers.None = slices.DeleteFunc(slices.Clone(v.Answers.None), func(g string) bool { return g == "Bone and shin" })
	l.r.Visits = []Visit{v}
	b = Open(l.r, Moment{monday, 9})
	assert.True(t, has(safety.ShinLong))
	x, _ := shelf.Ladder("run-return")
	assert.True(t, b.May(x, 2, body.Left).Closed())
	v.Complaints[0].SinceWeeks = ptr(5)
	l.r.Visits = []Visit{v}
	b = Open(l.r, Moment{monday + 15, 9})
	assert.True(t, has(safety.ShinLong), "the weeks go on between visits")
}

func TestPainOnlyAfterTheRunIsNoFirstStepHeel(t *testing.T) {
	for _, c := range []struct {
		c    screening.Complaint
		want screening.Pattern
	}{
		{screening.Complaint{Zone: "heel", FirstSteps: ptr(0), When: []string{"only after"}}, screening.HeelOther},
		{screening.Complaint{Zone: "heel", FirstSteps: ptr(2), When: []string{"push-off"}}, screening.HeelFirstSteps},
		{screening.Complaint{Zone: "arch", FirstSteps: ptr(1), When: []string{"first steps"}}, screening.HeelFirstSteps},
		{screening.Complaint{Zone: "heel", When: []string{"night"}}, screening.HeelOther},
		{screening.Complaint{Zone: "heel"}, screening.HeelFirstSteps},
	} {
		assert.Equal(t, c.want, c.c.Pattern(), "%+v", c.c)
	}
	b := reported(t, 1, Day{New: []Place{{Zone: "kneecap", Side: body.Left, When: []string{"night"}}}, Answers: &safety.Answers{Yes: map[string]body.Side{}, None: []string{"Right now"}}})
	require.Len(t, b.Asks(), 1)
	assert.Equal(t, []string{"Bone and shin"}, b.Asks()[0].Open, "pain at night asks about bone")
}

func TestAnOldAnkleInjuryWithAStiffAnkleHoldsTheBarefootStages(t *testing.T) {
	v := visitOf(monday-1, "first")
	v.Findings = []screening.Finding{{Factor: "ankle-stiff"}}
	v.OldAnkle = []body.Side{body.Left}
	b := Open(Record{Catalogue: shelf, Visits: []Visit{v}}, Moment{monday, 9})
	g, _ := safety.Find(b.Gates(), safety.BarefootStrength)
	assert.Contains(t, g.Missing, "reach of 90 % of the other side, after the old ankle injury")
}

func TestNothingPressesOnASoleThatIsSoreThisMorning(t *testing.T) {
	b := reported(t, 1, Day{New: []Place{{Zone: "heel", Side: body.Left, FirstStep: ptr(4)}}, Answers: none()})
	assert.Zero(t, b.asks(t, "release-sole", body.Left))
	assert.NotZero(t, b.asks(t, "release-sole", body.Right))
	less := reported(t, 1, Day{New: []Place{{Zone: "heel", Side: body.Left, FirstStep: ptr(3)}}, Answers: none()})
	assert.NotZero(t, less.asks(t, "release-sole", body.Left))
	g, _ := safety.Find(b.Gates(), safety.BarefootHome)
	assert.False(t, g.Open, "the gate at home reads this morning, not the screening")
	g, _ = safety.Find(less.Gates(), safety.BarefootHome)
	assert.True(t, g.Open)
}

func TestOneBadMorningOnTwoSidesIsOne(t *testing.T) {
	on := monday + 10
	e := planning.Evidence{On: on, Setbacks: []planning.Setback{{On: on - 1, Row: 3, Tissues: []body.Tissue{body.Achilles}}, {On: on - 1, Row: 3, Tissues: []body.Tissue{body.Achilles}}}}
	at := func() planning.Phase {
		for _, p := range planning.Phases(e) {
			if p.Region == planning.RegionCalf {
				return p.Phase
			}
		}
		return ""
	}
	assert.Equal(t, planning.Load, at())
	e.Setbacks[0].On = on - 3
	assert.Equal(t, planning.Calm, at())
}

// A clearance opens only so far: nothing below level after an old tear, and no bare
// feet or hops with metalwork until it is asked anew.
func TestAClearanceOpensOnlyWhatItNames(t *testing.T) {
	l := blockOf(t, 1)
	l.at(monday+1, 9)
	l.r.Days = append(l.r.Days, Day{Arrival: l.arrival(), On: l.now.On, Answers: &safety.Answers{Yes: map[string]body.Side{"F-ACH-OP/later": body.Left, "F-COLD": body.Both}}})
	l.decide()
	soleus, _ := shelf.Ladder("range-soleus")
	step, _ := shelf.Ladder("calf-straight")
	cool, _ := shelf.Ladder("calm-cool")
	require.True(t, l.book().May(soleus, 1, body.Left).Closed())
	l.at(monday+2, 9)
	l.r.Clearances = append(l.r.Clearances, Clearance{Arrival: l.arrival(), Clearance: safety.Clearance{Flag: "F-ACH-OP-LATER", On: monday + 2, Role: "doctor", Allowed: "stretching, hops", Until: monday + 40}})
	l.decide()
	assert.False(t, l.book().May(soleus, 1, body.Left).Closed())
	assert.True(t, l.book().May(step, 10, body.Left).Closed(), "drops below level stay closed")
	assert.True(t, l.book().May(cool, 1, body.Left).Closed(), "another flag is another clearance")
	l.at(monday+41, 9)
	l.decide()
	assert.True(t, l.book().May(soleus, 1, body.Left).Closed(), "it ends with its date")
}

// A visit that is under way takes nothing back of what the last one found.
func TestAVisitUnderWayOpensNothing(t *testing.T) {
	v := visitOf(monday-20, "first")
	v.Complaints = []screening.Complaint{{Zone: "calf", Side: body.Left, Worst: ptr(9), FirstSteps: ptr(5)}}
	next := visitOf(monday-1, "second")
	next.Finished, next.Results, next.Answers = false, nil, safety.Answers{Yes: map[string]body.Side{}}
	b := Open(Record{Catalogue: shelf, Visits: []Visit{v, next}}, Moment{monday, 9})
	require.Len(t, b.Complaints(), 1)
	assert.True(t, slices.ContainsFunc(b.Flags(), func(f safety.Standing) bool { return f.Flag == safety.Severe }))
}

func TestALimpAsksAndHolds(t *testing.T) {
	l := blockOf(t, 1)
	l.at(monday+3, 18)
	r := Run{Arrival: l.arrival(), ID: "r"}
	r.On, r.Metres, r.Limping, r.Zone, r.Side = l.now.On, 5000, true, "calf", body.Left
	l.r.Runs = append(l.r.Runs, r)
	l.decide()
	b := l.book()
	require.Len(t, b.Asks(), 1)
	assert.Zero(t, b.asks(t, "calf-straight", body.Left))
}

func TestASessionPutRightActsAndNothingRises(t *testing.T) {
	l := newLife(t, "calf-straight")
	l.at(monday, 18)
	id := l.calf(monday, 6, 1)
	peg := l.book().State.Peg(Seat{"calf-straight", body.Left})
	require.Less(t, peg.Notch, 8, "pain 6 goes back")
	i := slices.IndexFunc(l.r.Logs, func(x Log) bool { return x.ID == id })
	was := l.r.Logs[i]
	now := Log{Arrival: l.arrival(), ID: id, On: was.On}
	for _, it := range was.Items {
		it.Pain = ptr(1)
		now.Items = append(now.Items, it)
	}
	l.r.Logs = append(l.r.Logs, now)
	l.decide()
	assert.Equal(t, peg.Notch, l.book().State.Peg(Seat{"calf-straight", body.Left}).Notch, "it comes back only as an offer")
	assert.True(t, slices.ContainsFunc(l.book().Decisions(), func(d Decision) bool { return d.PutBack == 8 && d.State == Proposed }))
	gone := Log{Arrival: l.arrival(), ID: id, On: was.On, Removed: true}
	l.r.Logs = append(l.r.Logs, gone)
	l.decide()
	assert.Empty(t, l.book().Logs)
	assert.False(t, slices.ContainsFunc(l.book().Decisions(), func(d Decision) bool { return d.Kind == OfSession && d.Stands() }))
	assert.LessOrEqual(t, l.book().State.Peg(Seat{"calf-straight", body.Left}).Notch, 8)
}

// An own ladder without a word on how it is done is closed wherever its built-in kin
// is, for flags of every kind.
func TestAnOwnLadderIsClosedLikeItsKin(t *testing.T) {
	n := 0
	for _, l := range shelf.Ladders {
		own := l
		own.Own = true
		own.Notches = slices.Clone(l.Notches)
		for i := range own.Notches {
			e := &own.Notches[i].Exercise
			e.Own, e.Traits, e.Part = true, nil, ""
			own.Notches[i].Gate = ""
		}
		own = catalogue.Catalogue{}.Refresh(own)
		for _, x := range safety.Entries() {
			f := x.Raised(monday, "")
			for at := 1; at <= l.Len(); at++ {
				e := planning.Evidence{On: monday, Flags: []safety.Standing{f}, Gates: gatesUnder(safety.Standing{})}
				if !e.Shut(l, at, l.At(at).Kinds(), body.Left).Closed() || len(e.Shut(l, at, l.At(at).Kinds(), body.Left).By(planning.LockFlag)) == 0 {
					continue
				}
				n++
				assert.True(t, e.Shut(own, at, own.At(at).Kinds(), body.Left).Closed(), "%s leaves an own %s open at notch %d: %v", x.ID, l.ID, at, own.At(at).Kinds().Sorted())
			}
		}
	}
	assert.Greater(t, n, 3000)
}
