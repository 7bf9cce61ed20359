package planning

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

// The week after a race of 21.0 km is half, after 20.9 it is not; the race's own is
// the race's, and both set the count of weeks back.
func TestRaceWeeksAtTheirEdges(t *testing.T) {
	monday := today.Monday()
	race := func(km float64) *Race { return &Race{On: monday + 12, Km: km} }
	assert.Equal(t, HalfWeek, KindOf(monday, race(21.0), monday+14))
	assert.Equal(t, Normal, KindOf(monday, race(20.9), monday+14))
	assert.Equal(t, RaceWeek, KindOf(monday, race(5), monday+7))
	assert.Equal(t, RaceWeek, KindOf(monday, race(5), monday+13))
	assert.Equal(t, Normal, KindOf(monday, race(5), monday+6))
	assert.Equal(t, Normal, KindOf(monday, race(42), monday+21))
	// After the half week three normal ones, then the lighter one.
	assert.Equal(t, Normal, KindOf(monday, race(42), monday+35))
	assert.Equal(t, DeloadWeek, KindOf(monday, race(42), monday+42))
	assert.True(t, DeloadWeek.Holds())
	assert.False(t, Normal.Holds())
}

// Spring is left out four days before a race and on its day, heavy calf work five.
func TestWhatWaitsForARace(t *testing.T) {
	race := &Race{On: today + 10, Km: 10}
	spring := ladder(t, "spring-pogo").At(1)
	heavy := catalogue.Notch{}
	for _, n := range ladder(t, "calf-straight").Notches {
		if n.Heavy {
			heavy = n
		}
	}
	require.True(t, heavy.Heavy)
	off := func(n catalogue.Notch, before int) bool { return OffFor(race, n, race.On-day.Date(before)) }
	assert.True(t, off(spring, 4))
	assert.False(t, off(spring, 5))
	assert.True(t, off(heavy, 5))
	assert.False(t, off(heavy, 6))
	assert.True(t, off(spring, 0))
	assert.False(t, off(spring, -1), "it is over")
	assert.False(t, OffFor(nil, spring, today))
}

// Weeks of spring work behind a date: a gap of 28 days keeps them, one of 29 does not.
func TestWeeksOfSpring(t *testing.T) {
	monday := today.Monday()
	assert.Equal(t, 1, SpringWeeks([]day.Date{monday - 28}, monday))
	assert.Zero(t, SpringWeeks([]day.Date{monday - 29}, monday))
	assert.Equal(t, 2, SpringWeeks([]day.Date{monday - 56, monday - 28}, monday))
	assert.Equal(t, 1, SpringWeeks([]day.Date{monday - 57, monday - 28}, monday))
	assert.Equal(t, 1, SpringWeeks([]day.Date{monday - 7, monday - 1, monday, monday + 3}, monday), "this week is not behind")
	assert.Zero(t, SpringWeeks(nil, monday))
}

// At least two days of a week are without a main session; six days of running leave
// three.
func TestTwoRestDays(t *testing.T) {
	broken := func(main Days, runs int) bool {
		w := Week{Minutes: [7]int{60, 60, 60, 60, 60, 60, 60}}
		for i := range runs {
			w.Runs[i] = Easy
		}
		for _, b := range Check(w, []Item{{Ladder: "x", Seconds: 60}}, []Days{main}, 0) {
			if b.Rule == WeekRest {
				assert.Equal(t, 2, b.Need)
				assert.Equal(t, 7-main.Len(), b.Have)
				return true
			}
		}
		return false
	}
	assert.False(t, broken(DaysOf(0, 1, 2, 3, 4), 0))
	assert.True(t, broken(DaysOf(0, 1, 2, 3, 4, 5), 0))
	assert.False(t, broken(DaysOf(0, 1, 2), 6))
	assert.True(t, broken(DaysOf(0, 1, 2, 3), 6))
	assert.False(t, broken(DaysOf(0, 1, 2, 3), 5))
}

// The weaker side gets one set more where its test hurt 3 at the most.
func TestTheExtraSetUpToThree(t *testing.T) {
	l := ladder(t, "calf-straight")
	side := func(p body.Pain) body.Side { return start(l, fit(28, 14, p)).ExtraSetSide }
	assert.Equal(t, body.Right, side(3))
	assert.Empty(t, side(4))
	assert.Equal(t, body.Left, start(l, fit(14, 28, 0)).ExtraSetSide)
	assert.Empty(t, start(l, fit(20, 18, 0)).ExtraSetSide)
	assert.NotEmpty(t, start(l, fit(200, 179, 0)).ExtraSetSide)
	// Cautions of pain begin at 4, notch 1 at 6.
	begin := func(e StartEvidence) Start { return StartingNotch(l, e, l.Len()) }
	full := begin(fit(20, 20, 3)).Notch
	assert.Equal(t, full-1, begin(fit(20, 20, 4)).Notch)
	assert.Equal(t, full-1, begin(fit(20, 20, 5)).Notch)
	assert.Equal(t, 1, begin(fit(20, 20, 6)).Notch)
	e := fit(20, 20, 0)
	old := day.Make(today.Time().Year()-60, today.Time().Month(), today.Time().Day())
	e.Person.Birth = &old
	assert.Equal(t, full-1, begin(e).Notch, "sixty today")
	old++
	e.Person.Birth = &old
	assert.Equal(t, full, begin(e).Notch, "sixty tomorrow")
}

// A class that is not sure starts one notch lower, and never under 1.
func TestABorderlineClassStartsLower(t *testing.T) {
	l := ladder(t, "range-soleus")
	notch := func(change func(*screening.SideSummary)) int {
		e := fit(20, 20, 0)
		r := result(screening.KneeToWall, 9, 9, 0)
		r.Left.Borderline, r.Right.Borderline = false, false
		change(&r.Left)
		change(&r.Right)
		e.Results = append(e.Results, r)
		return StartingNotch(l, e, l.Len()).Notch
	}
	is := func(c screening.Verdict, borderline bool) int {
		return notch(func(s *screening.SideSummary) { s.Class, s.Borderline = c, borderline })
	}
	assert.Equal(t, 3, is(screening.OK, false))
	assert.Equal(t, 2, is(screening.Watch, false))
	assert.Equal(t, 1, is(screening.Limited, false))
	assert.Equal(t, 1, is(screening.OK, true), "counts as the class below, less one")
	assert.Equal(t, 1, is(screening.Watch, true))
	assert.Equal(t, 1, is(screening.Limited, true))
}

// A twist is fresh for less than six weeks, when nobody said since when, and until
// reach is 90 % of the other side.
func TestAFreshTwist(t *testing.T) {
	fresh := func(weeks *int, zone screening.Zone, reach float64) bool {
		e := Evidence{On: today, Complaints: []screening.Complaint{{Zone: zone, Side: body.Right, SinceWeeks: weeks}}}
		if reach > 0 {
			e.Results = []screening.Result{{Test: screening.ReachForward, Asymmetry: screening.Asymmetry{LSI: &reach}}}
		}
		return e.freshTwist(body.Right)
	}
	assert.True(t, fresh(ptr(5), "outer-ankle", 0))
	assert.False(t, fresh(ptr(6), "outer-ankle", 0))
	assert.True(t, fresh(nil, "outer-ankle", 0))
	assert.False(t, fresh(ptr(5), "heel", 0))
	assert.True(t, fresh(ptr(5), "outer-ankle", reachEnough-0.001))
	assert.False(t, fresh(ptr(5), "outer-ankle", reachEnough))
}

// What was excluded is offered again after 28 days.
func TestExcludedIsOfferedAgain(t *testing.T) {
	c, e, w := grown(t, "soleus-weak")
	offered := func(days int) int {
		w.Excluded = []Excluded{{Ladder: "calf-bent", Reason: "no room", On: e.On - day.Date(days)}}
		return len(Plan(c, e, w).Offer)
	}
	assert.Equal(t, 1, offered(28))
	assert.Zero(t, offered(27))
}

// A quiet fortnight: half of its mornings known, none over the usual + 1 or over 5.
func TestAQuietFortnight(t *testing.T) {
	quiet := func(n int, p body.Pain, baseline float64, since *day.Date) bool {
		e := Evidence{On: today, Baseline: baseline}
		for i := range n {
			e.Mornings = append(e.Mornings, Reading{today - day.Date(i), p})
		}
		return e.quietFortnight(RegionSole, since)
	}
	assert.True(t, quiet(7, 2, 1, nil))
	assert.False(t, quiet(6, 2, 1, nil), "not half of them are known")
	assert.False(t, quiet(7, 3, 1, nil))
	assert.True(t, quiet(7, 3, 2, nil))
	assert.True(t, quiet(7, 5, 9, nil))
	assert.False(t, quiet(7, 6, 9, nil), "over 5 is never quiet")
	assert.True(t, quiet(14, 2, 1, ptr(today-14)))
	assert.False(t, quiet(13, 2, 1, ptr(today-13)), "a flare of thirteen days ago")
	old := Evidence{On: today, Baseline: 1, Mornings: []Reading{{today - 14, 9}}}
	for i := range 7 {
		old.Mornings = append(old.Mornings, Reading{today - day.Date(i), 1})
	}
	assert.True(t, old.quietFortnight(RegionSole, nil), "the fifteenth day back is left out")
	old.Mornings[0].On++
	assert.False(t, old.quietFortnight(RegionSole, nil))
	old.Mornings[0].On = today + 1
	assert.True(t, old.quietFortnight(RegionSole, nil), "tomorrow's too")
}

// A range that is worked on holds its region back from severity 2 on, for less than
// six weeks, until it changed.
func TestWhatStillRestores(t *testing.T) {
	held := func(severity int, worked bool, weeks int, improved bool) bool {
		e := Evidence{On: today, Since: today - day.Date(weeks), Findings: []screening.Finding{{Factor: "ankle-stiff", Name: "Stiff ankle", Severity: severity, WorkedOn: worked}}}
		if improved {
			e.Improved = []screening.Factor{"ankle-stiff"}
		}
		_, h := e.stillRestoring(RegionCalf)
		_, other := e.stillRestoring(RegionSole)
		assert.False(t, other, "another region")
		return h
	}
	assert.True(t, held(2, true, 41, false))
	assert.False(t, held(1, true, 41, false))
	assert.False(t, held(2, false, 41, false))
	assert.False(t, held(2, true, 42, false))
	assert.False(t, held(3, true, 10, true))
}

// Setbacks count for fourteen days, both sides of one day once, of the region's own
// tissue.
func TestSetbacksOfFourteenDays(t *testing.T) {
	at := func(list ...Setback) (flare, twice bool, since *day.Date) {
		return Evidence{On: today, Setbacks: list}.setbacks(RegionCalf)
	}
	calf := []body.Tissue{body.Achilles}
	flare, _, since := at(Setback{today - 14, 2, calf})
	assert.True(t, flare)
	assert.Equal(t, today-14, *since)
	flare, _, since = at(Setback{today - 15, 2, calf})
	assert.False(t, flare)
	assert.Nil(t, since)
	flare, _, _ = at(Setback{today + 1, 2, calf})
	assert.False(t, flare)
	flare, _, _ = at(Setback{today, 2, []body.Tissue{body.Shin}})
	assert.False(t, flare)
	_, twice, since := at(Setback{today - 5, 3, calf}, Setback{today - 2, 3, calf})
	assert.True(t, twice)
	assert.Equal(t, today-2, *since)
	_, twice, since = at(Setback{today - 2, 3, calf}, Setback{today - 2, 3, calf})
	assert.False(t, twice, "one day is once")
	assert.Nil(t, since)
}

// Three mornings running at 3 or less, the last of them not long ago.
func TestCalmMornings(t *testing.T) {
	calm := func(since *day.Date, list ...Reading) bool {
		return Evidence{On: today, Mornings: list}.calmMornings(RegionSole, since)
	}
	row := func(last int, p ...body.Pain) (out []Reading) {
		for i, x := range p {
			out = append(out, Reading{today - day.Date(last+len(p)-1-i), x})
		}
		return out
	}
	assert.True(t, calm(nil, row(0, 3, 3, 3)...))
	assert.False(t, calm(nil, row(0, 3, 3)...))
	assert.False(t, calm(nil, row(0, 3, 4, 3)...))
	assert.True(t, calm(nil, row(3, 3, 3, 3)...))
	assert.False(t, calm(nil, row(4, 3, 3, 3)...), "too long ago")
	assert.False(t, calm(nil, row(0, 3, 3, 3, 4)...), "over it again")
	assert.False(t, calm(ptr(today-2), row(0, 3, 3, 3)...), "the day of the setback does not count")
	assert.True(t, calm(ptr(today-3), row(0, 3, 3, 3)...))
	e := Evidence{On: today, Mornings: row(0, 9, 9, 9), ByRegion: map[Region][]Reading{RegionSole: row(0, 1, 1, 1)}}
	assert.True(t, e.calmMornings(RegionSole, nil), "its own mornings")
	assert.False(t, e.calmMornings(RegionCalf, nil))
}

// A complaint leads into calm from 6, or from first steps over 3; heel and toe walk
// lead out at 2.
func TestCalmByHeight(t *testing.T) {
	_, e, _ := grown(t)
	phase := func(first, worst int) Phase {
		x := e
		x.Complaints = []screening.Complaint{complaint("heel", first, worst)}
		return x.phaseOf(RegionSole).Phase
	}
	assert.NotEqual(t, Calm, phase(3, 5))
	assert.Equal(t, Calm, phase(4, 5))
	assert.Equal(t, Calm, phase(3, 6))
	walk := func(v float64) Phase {
		x := e
		x.Results = []screening.Result{result(screening.HeelWalk, v, 0, 0), result(screening.ToeWalk, 0, v, 0)}
		x.Complaints = []screening.Complaint{complaint("heel", 1, 1)}
		return x.phaseOf(RegionSole).Phase
	}
	assert.NotEqual(t, Calm, walk(2))
	assert.Equal(t, Calm, walk(3))
}

// Contacts: 100 in the first four weeks of spring work, then 150; hands on a table
// count half.
func TestCapOfContacts(t *testing.T) {
	n := ladder(t, "spring-pogo").At(1)
	n.Dose = catalogue.Dose{Sets: 4, Contacts: 60}
	cut := func(weeks int) (int, bool) {
		d, did := CapSpring(n, weeks)
		return d.Sets * d.Contacts, did
	}
	got, did := cut(3)
	assert.True(t, did)
	share := 1.0
	if n.Has(catalogue.Supported) {
		share = 0.5
	}
	assert.Equal(t, min(240, int(100/share)), got)
	n.Exercise.Traits = nil
	n.Dose.Contacts = 25
	got, did = cut(0)
	assert.False(t, did, "just a hundred")
	assert.Equal(t, 100, got)
	n.Dose.Contacts = 38
	_, did = cut(4)
	assert.True(t, did)
	n.Dose.Contacts = 37
	_, did = cut(4)
	assert.False(t, did)
	calf := ladder(t, "calf-straight").At(1)
	_, did = CapSpring(calf, 0)
	assert.False(t, did)
}

// A gate's ceiling is the notch below the first that is closed.
func TestGateCeiling(t *testing.T) {
	l := ladder(t, "calf-straight")
	first := 0
	for i, n := range l.Notches {
		if n.Gate != "" {
			first = i + 1
			break
		}
	}
	require.NotZero(t, first)
	assert.Equal(t, first-1, GateCeiling(l, nil))
	assert.Equal(t, l.Len(), GateCeiling(l, openAll()))
	var open []safety.GateState
	for _, g := range openAll() {
		if g.Gate == l.At(first).Gate {
			open = append(open, g)
		}
	}
	assert.GreaterOrEqual(t, GateCeiling(l, open), first)
}
