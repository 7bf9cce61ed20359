package load

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
)

func ptr[T any](v T) *T { return &v }

var monday = day.Make(2026, 5, 4)

// The limits of the week ratio: Gabbett 2016, from memory; the edges are the
// worked cases 2 and 3 (docs/rules.md).
func TestWeekRatioAtItsEdges(t *testing.T) {
	even := func(m int) []int { return []int{m, m, m, m} }
	for _, k := range []struct {
		metres int
		before []int
		want   Class
	}{
		{33000, even(30000), Steady}, {33001, even(30000), Rise}, {34000, even(28000), Rise}, {40000, even(28000), Spike},
		{39000, even(30000), Rise}, {39001, even(30000), Spike}, {24000, even(30000), Steady}, {23999, even(30000), Down},
		{7000, even(5000), Steady}, {7001, even(5000), Rise}, {9000, even(5000), Rise}, {9001, even(5000), Spike},
		{30000, nil, Unknown}, {33000, []int{30000, 30000, 30000}, Steady}, {33001, []int{30000}, Rise}, {5000, even(0), Return},
		{0, even(30000), Down},
	} {
		assert.Equal(t, k.want, CompareWeek(k.metres, k.before).Class, "%d against %v", k.metres, k.before)
	}
	assert.Equal(t, 33000, CompareWeek(0, even(30000)).SteadyTo)
	assert.Equal(t, 7000, CompareWeek(0, even(5000)).SteadyTo)
	assert.InDelta(t, 1.214, CompareWeek(34000, even(28000)).Ratio(), 0.001)
}

// A 2025 cohort ties the single-run jump to injury (from memory); the 1 km
// floor is ours.
func TestLongestRun(t *testing.T) {
	assert.Equal(t, Spike, CompareRun(18000, 15000))
	assert.Equal(t, Steady, CompareRun(16500, 15000))
	assert.Equal(t, Steady, CompareRun(6000, 5000), "20 % but just 1 km longer")
	assert.Equal(t, Spike, CompareRun(6501, 5000), "over 130 % always")
	assert.Equal(t, Unknown, CompareRun(6000, 0))

	runs := []Run{{On: monday - 20, Metres: 15000}, {On: monday + 1, Metres: 18000}, {On: monday + 4, Metres: 18500}}
	l := LongestOf(runs, monday+6)
	assert.Equal(t, Spike, l.Class, "the longer run later in the week hides nothing")
	assert.Equal(t, monday+1, l.On)
	assert.Equal(t, Steady, LongestOf(runs, monday).Class, "before it was run")
	s := State(Volume{Runs: runs, On: monday + 6, Intake: ptr(30000)})
	assert.Equal(t, Spike, s.Class)
}

func TestHistoryIsFilledFromTheIntakeOrNotKnown(t *testing.T) {
	runs := []Run{{On: monday - 7, Metres: 20000}, {On: monday - 14, Metres: 10000}}
	assert.Nil(t, Before(runs, monday, nil, nil))
	assert.Equal(t, []int{30000, 30000, 10000, 20000}, Before(runs, monday, ptr(30000), nil))
	assert.Equal(t, Unknown, State(Volume{Runs: runs, On: monday}).Class)
	old := append(runs, Run{On: monday - 70, Metres: 9000})
	assert.Equal(t, []int{0, 0, 10000, 20000}, Before(old, monday, ptr(30000), nil), "a week without a run is a zero, not the intake")
	assert.Equal(t, Return, State(Volume{Runs: []Run{{On: monday - 70, Metres: 9000}, {On: monday, Metres: 3000}}, On: monday}).Class)
}

func TestWeeksSayWhatIsMissing(t *testing.T) {
	runs := []Run{
		{On: monday, Metres: 10000, Seconds: 3600, CadenceSpm: ptr(170.0), Effort: ptr(4)},
		{On: monday + 2, Metres: 5000, Seconds: 1800, Footwear: MinimalShoe},
		{On: monday + 8, Metres: 4000, Seconds: 1500, Footwear: BareFeet},
	}
	w := Weeks(runs, monday, monday+13)
	require.Len(t, w, 2)
	assert.Equal(t, 15000, w[0].Metres)
	assert.Equal(t, 240.0, w[0].SessionLoad, "Foster 2001: 60 min at 4 (from memory)")
	assert.Equal(t, 1, w[0].NoEffort)
	assert.Equal(t, 90*170.0/2, w[0].Contacts, "the last measured cadence stands in")
	assert.Equal(t, 0, w[0].AssumedCadence)
	assert.Equal(t, 5000, w[0].MinimalMetres)
	assert.Equal(t, 4000, w[1].BareMetres)
	c, measured := Run{Seconds: 3600}.Contacts(0)
	assert.Equal(t, 60*165.0/2, c)
	assert.False(t, measured)
}

// A check by hand: 100 for 7 days from 0, λ = 0.25 → 86.65 (Williams 2017,
// from memory).
func TestEWMA(t *testing.T) {
	e := EWMA([]float64{100, 100, 100, 100, 100, 100, 100}, EWMAShort, 0)
	assert.InDelta(t, 86.65, e[6], 0.005)
	// R 4.2.2, Reduce() over 28 uneven days.
	uneven := []float64{15, 73, 35, 29, 54, 54, 11, 27, 52, 57, 46, 45, 48, 50, 78, 75, 10, 63, 81, 25, 21, 1, 12, 8, 21, 71, 54, 82}
	assert.InDelta(t, 49.9235508399, EWMA(uneven, EWMAShort, 0)[27], 1e-9)
	assert.InDelta(t, 37.2704447175, EWMA(uneven, EWMALong, 0)[27], 1e-9)
}

// Doses worked out by hand, a side.
func TestTissueDose(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	notch := func(ladder, exercise string, d catalogue.Dose) catalogue.Notch {
		l, ok := c.Ladder(ladder)
		require.True(t, ok)
		for _, n := range l.Notches {
			if n.Exercise.ID == exercise {
				n.Dose.Sets, n.Dose.Reps, n.Dose.HoldSeconds = d.Sets, d.Reps, d.HoldSeconds
				return n
			}
		}
		t.Fatalf("%s has no %s", ladder, exercise)
		return catalogue.Notch{}
	}
	a, by := NotchDose(notch("calf-straight", "raise-two", catalogue.Dose{Sets: 3, Reps: 15}), body.Achilles, 1)
	assert.InDelta(t, 72, a.Sum, 1e-9)
	assert.Equal(t, ByStrength, by)
	a, _ = NotchDose(notch("calm-iso", "hold-one", catalogue.Dose{Sets: 5, HoldSeconds: 45}), body.Achilles, 1)
	assert.InDelta(t, 67.5, a.Sum, 1e-9)
	a, by = NotchDose(notch("spring-pogo", "pogo-two", catalogue.Dose{Sets: 1, HoldSeconds: 60}), body.Achilles, 1)
	assert.InDelta(t, 462, a.Sum, 1e-9)
	assert.Equal(t, BySpring, by)
	run := Run{Seconds: 1800, CadenceSpm: ptr(170.0)}
	assert.InDelta(t, 13260, RunDose(run, body.Achilles, RearStrike, 0).Sum, 1e-6)
	assert.InDelta(t, 2550*5.2*5.2*5.2, RunDose(run, body.Achilles, RearStrike, 0).Peak, 1e-6)
	run.Footwear = BareFeet
	assert.InDelta(t, 2550*5.5*1.08, RunDose(run, body.Achilles, UnknownStrike, 0).Sum, 1e-6)
	assert.InDelta(t, 2550*2.5*1.2, RunDose(run, body.Forefoot, UnknownStrike, 0).Sum, 1e-6)
	d := Dose{}
	d.Put(ByRunning, Amount{Sum: 1})
	d.Put(BySpring, Amount{Sum: 2, Peak: 3})
	assert.Equal(t, Amount{3, 3}, d.Total())
}

func TestAdvice(t *testing.T) {
	known := map[day.Date]body.Pain{}
	in := func(runs ...Run) AdviceInput {
		all := append([]Run{{On: monday - 6, Metres: 20000, Pain: ptr(0)}, {On: monday - 4, Metres: 20000, Pain: ptr(0)}}, runs...)
		return AdviceInput{On: monday + 3, Runs: all, Usual: 1, Morning: func(d day.Date) *body.Pain {
			if p, ok := known[d]; ok {
				return &p
			}
			return nil
		}}
	}
	hurt := func(p body.Pain) Run { return Run{On: monday + 1, Metres: 8000, Pain: &p} }
	known[monday+2] = 1
	assert.Equal(t, AsPlanned, Advise(in(hurt(3))).ID)
	a := Advise(in(hurt(4)))
	assert.Equal(t, Easier, a.ID)
	assert.Equal(t, 32000, a.Most)
	assert.True(t, a.NoFast)
	a = Advise(in(hurt(6)))
	assert.Equal(t, NoRunning, a.ID)
	assert.True(t, a.Return)
	limp := hurt(1)
	limp.Limping = true
	assert.Equal(t, NoRunning, Advise(in(limp)).ID)
	known[monday+2] = 3
	a = Advise(in(hurt(2)))
	assert.Equal(t, SkipNext, a.ID)
	assert.Equal(t, 28000, a.Most, "at most 70 % of last week")
	delete(known, monday+2)
	a = Advise(in(hurt(2)))
	assert.Equal(t, NotKnown, a.ID, "a missing morning is not a quiet one")
	assert.Equal(t, 40000, a.Most, "no rise over last week")
	assert.True(t, a.NoFast)
	assert.Equal(t, Easier, Advise(in(hurt(4))).ID, "pain 4 and an unknown morning: as settled, not worse")
	half := in(hurt(2))
	half.Usual = 1.5
	known[monday+2] = 3
	assert.Equal(t, Easier, Advise(half).ID, "over B + 1 and under B + 2: as after pain 4 to 5")
	half = in(hurt(4))
	half.Usual = 1.5
	assert.Equal(t, SkipNext, Advise(half).ID, "pain 4 and a morning over B + 1")
	delete(known, monday+2)
	flare := in(hurt(0))
	flare.Flare = true
	a = Advise(flare)
	assert.Equal(t, NoRunning, a.ID, "nobody runs while a flare stands")
	assert.Equal(t, WhyFlare, a.Why)
	closed := in(hurt(0))
	closed.Flags = []string{"F-BONE"}
	assert.Equal(t, NoRunning, Advise(closed).ID)
	none := in()
	none.On = monday + 30
	assert.Equal(t, WhyNoRuns, Advise(none).Why)
}

// More pain on a run never gives more running; more metres never a calmer class.
func TestLoadProperties(t *testing.T) {
	rank := map[AdviceID]int{AsPlanned: 0, NotKnown: 0, Easier: 1, SkipNext: 2, NoRunning: 3}
	rapid.Check(t, func(t *rapid.T) {
		p := rapid.IntRange(0, 10).Draw(t, "pain")
		q := rapid.IntRange(p, 10).Draw(t, "more")
		m := rapid.IntRange(0, 10).Draw(t, "morning")
		in := AdviceInput{On: monday + 3, Usual: 1, Morning: func(day.Date) *body.Pain { return &m }}
		in.Runs = []Run{{On: monday + 1, Metres: 5000, Pain: &p}}
		a := Advise(in)
		in.Runs = []Run{{On: monday + 1, Metres: 5000, Pain: &q}}
		assert.GreaterOrEqual(t, rank[Advise(in).ID], rank[a.ID])

		before := []int{rapid.IntRange(0, 90000).Draw(t, "a"), rapid.IntRange(0, 90000).Draw(t, "b"), rapid.IntRange(0, 90000).Draw(t, "c"), rapid.IntRange(0, 90000).Draw(t, "d")}
		x := rapid.IntRange(0, 150000).Draw(t, "x")
		y := rapid.IntRange(x, 150000).Draw(t, "y")
		assert.GreaterOrEqual(t, worst[CompareWeek(y, before).Class], worst[CompareWeek(x, before).Class])
		w := CompareWeek(x, before)
		if w.SteadyTo > 0 {
			assert.NotContains(t, []Class{Rise, Spike}, CompareWeek(w.SteadyTo, before).Class)
		}
	})
}

// More than the ramp planned for the week: at home by a third, out of doors by
// five minutes (house).
func TestTheLineOfMinutesWithoutShoes(t *testing.T) {
	assert.False(t, ExposureOver(280, 210, true))
	assert.True(t, ExposureOver(281, 210, true))
	assert.False(t, ExposureOver(35, 30, false))
	assert.True(t, ExposureOver(36, 30, false))
}

// Race, half and ill weeks stay out of means; no week that counts is unknown; a
// mean of nothing is the way back to running.
func TestWeeksThatDoNotCountStayOutOfTheMean(t *testing.T) {
	var runs []Run
	for i, m := range []int{28000, 42000, 14000, 28000} {
		runs = append(runs, Run{On: monday - day.Date(7*(4-i)), Metres: m})
	}
	race := func(m day.Date) bool { return m == monday-21 || m == monday-14 }
	assert.Equal(t, []int{28000, 28000}, Before(runs, monday, nil, race))
	assert.Equal(t, Unknown, CompareWeek(20000, Before(runs, monday, nil, func(day.Date) bool { return true })).Class)
	assert.Equal(t, Return, CompareWeek(3000, []int{0, 0, 0}).Class)
	assert.Equal(t, Down, CompareWeek(3900, []int{5000, 5000, 5000, 5000}).Class, "also where the mean is small")
}

// Spike before unknown before ok: a first run after 30 days without one is not
// known, whatever the week says.
func TestTheWorseOfWeekAndLongestRun(t *testing.T) {
	runs := []Run{{On: monday - 70, Metres: 9000}, {On: monday + 2, Metres: 3000}}
	for i := 1; i <= 4; i++ {
		runs = append(runs, Run{On: monday - day.Date(7*i), Metres: 9000})
	}
	assert.Equal(t, Down, State(Volume{Runs: runs, On: monday + 2}).Class)
	assert.Equal(t, Unknown, State(Volume{Runs: []Run{{On: monday + 1, Metres: 8000}}, On: monday + 2, Intake: ptr(8000)}).Class)
}

// The way back to running holds spring and bare feet and is never a jump, unless
// more than its stage is run by a tenth.
func TestTheWayBackToRunningIsItsOwnRamp(t *testing.T) {
	v := Volume{Runs: []Run{{On: monday, Metres: 4000, Seconds: 26 * 60}}, On: monday + 2, Return: &ReturnStage{Minutes: 24}}
	assert.Equal(t, Return, State(v).Class)
	v.Runs[0].Seconds = 27 * 60
	assert.Equal(t, Spike, State(v).Class, "27 min of 24")
	v.Return.Minutes = 0
	v.Runs[0].Seconds = 60
	assert.Equal(t, Spike, State(v).Class, "the first stage only walks")
}

// Minutes in minimal shoes within a run add only what they weigh more; without a
// run they count in full.
func TestExposureDose(t *testing.T) {
	full := ExposureDose(10, MinimalShoe, body.Achilles, UnknownStrike, 170, false)
	assert.InDelta(t, 10*85*5.5*1.05, full.Sum, 1e-6)
	extra := ExposureDose(10, MinimalShoe, body.Achilles, UnknownStrike, 170, true)
	assert.InDelta(t, 10*85*5.5*0.05, extra.Sum, 1e-6)
	assert.InDelta(t, 10*85*2.5*0.20, ExposureDose(10, BareFeet, body.Forefoot, UnknownStrike, 170, true).Sum, 1e-6)
	assert.Zero(t, ExposureDose(10, MinimalShoe, body.Sole, UnknownStrike, 170, true).Sum, "the sole weighs the same")
}

func TestShareHeldForFourWeeks(t *testing.T) {
	today := day.Make(2026, 6, 3)
	week := func(back int, minimal, usual int) []Run {
		on := today.Monday() - day.Date(7*back)
		return []Run{{On: on, Metres: minimal, Footwear: MinimalShoe}, {On: on + 2, Metres: usual, Footwear: UsualShoe}}
	}
	var runs []Run
	for back := 1; back <= 3; back++ {
		runs = append(runs, week(back, 3000, 7000)...)
	}
	assert.Nil(t, ShareHeld(runs, today), "three weeks")
	runs = append(runs, week(4, 3000, 7000)...)
	got := ShareHeld(runs, today)
	require.NotNil(t, got)
	assert.Equal(t, today.Monday()-1, *got, "the Sunday before")
	assert.Nil(t, ShareHeld(append(runs, week(2, 0, 1000)...), today), "a week under 30 %")
	assert.Nil(t, ShareHeld(nil, today))
}

func TestEasyPace(t *testing.T) {
	today := day.Make(2026, 6, 3)
	runs := []Run{{On: today - 2, Metres: 10_000, Seconds: 3600}, {On: today - 9, Metres: 5000, Seconds: 1500, Fast: true}, {On: today - 60, Metres: 5000, Seconds: 9000}}
	assert.Equal(t, 360, EasyPace(runs, today), "fast and old ones are left out")
	assert.Zero(t, EasyPace(nil, today))
}

func TestUsualCadenceIsTheMiddleOfFourWeeks(t *testing.T) {
	run := func(on day.Date, c float64) Run { return Run{On: on, CadenceSpm: &c} }
	_, n, ok := UsualCadence([]Run{run(100, 160), run(99, 170), {On: 98}, run(70, 190), run(101, 190)}, 100)
	assert.False(t, ok)
	assert.Equal(t, 2, n)
	c, n, ok := UsualCadence([]Run{run(100, 160), run(99, 170), run(73, 166), run(72, 190)}, 100)
	assert.True(t, ok)
	assert.Equal(t, 3, n)
	assert.InDelta(t, 166, c, 1e-9)
}

// A run is a jump where it is well over the longest of the thirty days before it.
func TestARunThatJumped(t *testing.T) {
	runs := []Run{{On: 100, Metres: 10000}, {On: 110, Metres: 15000}, {On: 112, Metres: 10500}, {On: 160, Metres: 12000}}
	_, ok := Jumped(runs, 100)
	assert.False(t, ok, "nothing to compare with")
	times, ok := Jumped(runs, 110)
	assert.True(t, ok)
	assert.InDelta(t, 1.5, times, 1e-9)
	_, ok = Jumped(runs, 112)
	assert.False(t, ok, "shorter than the longest")
	_, ok = Jumped(runs, 160)
	assert.False(t, ok, "48 days later there is nothing within thirty days")
	_, ok = Jumped(runs, 111)
	assert.False(t, ok, "no run that day")
}

// A usual week leaves this week, empty weeks and those over four weeks ago out.
func TestUsualWeek(t *testing.T) {
	monday := day.Date(7000).Monday()
	days := []Dosed{{monday - 35, 900, 900}, {monday - 21, 100, 200}, {monday - 20, 50, 100}, {monday - 7, 250, 300}, {monday - 14, 0, 0}, {monday, 5000, 5000}}
	sum, peak, weeks := UsualWeek(days, monday+3)
	assert.Equal(t, 2, weeks)
	assert.InDelta(t, 200, sum, 1e-9)
	assert.InDelta(t, 300, peak, 1e-9)
	_, _, weeks = UsualWeek(days[5:], monday+3)
	assert.Zero(t, weeks)
}
