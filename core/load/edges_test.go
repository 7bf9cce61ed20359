package load

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
)

// A longest run counts for thirty days and not for thirty-one; a run of the same day
// is no run before.
func TestTheLongestRunOfThirtyDays(t *testing.T) {
	at := func(back int) Long {
		return LongestOf([]Run{{On: monday - day.Date(back), Metres: 15_000}, {On: monday, Metres: 18_000}}, monday)
	}
	assert.Equal(t, Spike, at(30).Class)
	assert.Equal(t, 15_000, at(30).Longest)
	assert.Equal(t, Unknown, at(31).Class)
	assert.Equal(t, Unknown, at(0).Class)
	assert.Equal(t, 15_000, at(1).Longest)
}

// The worst run of the week stands for it: by class, then by how much; a walk of no
// metres is none, and neither is the Sunday before nor tomorrow.
func TestTheWorstRunOfTheWeek(t *testing.T) {
	base := Run{On: monday - 10, Metres: 10_000}
	l := LongestOf([]Run{base, {On: monday, Metres: 10_500}, {On: monday + 1, Metres: 11_500}, {On: monday + 2, Metres: 10_200}}, monday+3)
	assert.Equal(t, monday+1, l.On, "the furthest over")
	assert.Equal(t, Steady, l.Class)
	l = LongestOf([]Run{base, {On: monday + 1, Metres: 10_500}, {On: monday, Metres: 10_500}}, monday+3)
	assert.Equal(t, monday, l.On, "the worse ratio, since the one of the day before counts for the other")
	l = LongestOf([]Run{base, {On: monday - 1, Metres: 19_000}, {On: monday + 4, Metres: 19_000}, {On: monday + 1}, {On: monday + 2, Metres: 5_000}}, monday+3)
	assert.Equal(t, monday+2, l.On)
	assert.Equal(t, 19_000, l.Longest, "last week's run is one before it")
	assert.Equal(t, Long{Class: Steady}, LongestOf(nil, monday))
	l = LongestOf([]Run{{On: monday, Metres: 3_000}, {On: monday, Metres: 5_000}}, monday)
	assert.Equal(t, Unknown, l.Class)
	assert.Equal(t, 3_000, l.Metres, "nothing to tell them apart: the first")
}

// A week counts what was run up to its date, the Monday with it.
func TestTheWeekUpToItsDate(t *testing.T) {
	runs := []Run{{On: monday - 1, Metres: 1000}, {On: monday, Metres: 20}, {On: monday + 2, Metres: 300}, {On: monday + 3, Metres: 4000}}
	w := WeekOf(Volume{Runs: runs, On: monday + 2, PlannedRest: 50_000})
	assert.Equal(t, 50_320, w.Metres)
	runs = []Run{{On: monday - 28, Metres: 100}, {On: monday - 22, Metres: 10}, {On: monday - 21, Metres: 1}, {On: monday - 1, Metres: 7}, {On: monday, Metres: 9}}
	assert.Equal(t, []int{110, 1, 0, 7}, Before(runs, monday, nil, nil))
	assert.Equal(t, []int{5, 110, 1, 0}, Before(runs, monday-7, ptr(5), nil))
}

func TestWeeksFromOneMondayToAnother(t *testing.T) {
	runs := []Run{{On: monday - 1, Metres: 1}, {On: monday, Metres: 10, Seconds: 60, CadenceSpm: ptr(160.0)}, {On: monday + 6, Metres: 100, Seconds: 600, Footwear: MinimalShoe}, {On: monday + 7, Metres: 1000, Footwear: BareFeet}, {On: monday + 14, Metres: 9999}}
	got := Weeks(runs, monday+3, monday+8)
	require.Len(t, got, 2)
	assert.Equal(t, monday, got[0].Monday)
	assert.Equal(t, 110, got[0].Metres)
	assert.Equal(t, 100, got[0].LongestMetres)
	assert.Equal(t, 100, got[0].MinimalMetres)
	assert.Equal(t, 2, got[0].NoEffort)
	assert.Equal(t, 660, got[0].Seconds)
	assert.InDelta(t, 11*160/2.0, got[0].Contacts, 1e-9, "a minute counted, ten by the last cadence known")
	assert.Zero(t, got[0].AssumedCadence)
	assert.Equal(t, monday+7, got[1].Monday)
	assert.Equal(t, 1000, got[1].BareMetres)
	assert.Nil(t, Weeks(runs, monday, monday-1))
	require.Len(t, Weeks(runs, monday, monday), 1)
}

// The newest measured cadence stands in; where there is none, the assumed one does
// and says so.
func TestWhoseCadenceCounts(t *testing.T) {
	runs := []Run{{On: monday, CadenceSpm: ptr(170.0)}, {On: monday + 2, CadenceSpm: ptr(176.0)}, {On: monday + 3, CadenceSpm: ptr(0.0)}, {On: monday + 5, CadenceSpm: ptr(150.0)}}
	assert.InDelta(t, 176.0, LastCadence(runs, monday+4), 0)
	assert.InDelta(t, 170.0, LastCadence(runs, monday+1), 0)
	assert.InDelta(t, 176.0, LastCadence(runs, monday+2), 0)
	assert.Zero(t, LastCadence(runs, monday-1))
	same := []Run{{On: monday, CadenceSpm: ptr(170.0)}, {On: monday, CadenceSpm: ptr(172.0)}}
	assert.InDelta(t, 172.0, LastCadence(same, monday), 0, "of one day the later")
	hour := Run{Seconds: 3600}
	n, measured := hour.Contacts(0)
	assert.InDelta(t, 60*AssumedCadence/2, n, 1e-9)
	assert.False(t, measured)
	n, measured = hour.Contacts(180)
	assert.InDelta(t, 5400, n, 1e-9)
	assert.True(t, measured)
	hour.CadenceSpm = ptr(160.0)
	n, _ = hour.Contacts(180)
	assert.InDelta(t, 4800, n, 1e-9)
	hour.CadenceSpm = ptr(0.0)
	n, _ = hour.Contacts(180)
	assert.InDelta(t, 5400, n, 1e-9, "nought was not counted")
}

// More than the stage by a tenth is a jump, from the day the ladder stands and in
// this week alone.
func TestMoreThanTheStage(t *testing.T) {
	class := func(on day.Date, minutes float64, since day.Date) Class {
		return State(Volume{Runs: []Run{{On: on, Metres: 1000, Seconds: int(60 * minutes)}}, On: monday + 3, Return: &ReturnStage{Minutes: 20, Since: since}}).Class
	}
	assert.Equal(t, Return, class(monday, 22, monday-30), "a tenth more is still the stage")
	assert.Equal(t, Spike, class(monday, 22.5, monday-30))
	assert.Equal(t, Return, class(monday-1, 60, monday-30), "last week's")
	assert.Equal(t, Return, class(monday, 60, monday+1), "before the ladder stood")
	assert.Equal(t, Spike, class(monday+1, 60, monday+1))
	assert.Equal(t, Spike, class(monday+3, 60, monday-30), "today")
	assert.Equal(t, Return, class(monday+4, 60, monday-30), "tomorrow")
	walked := State(Volume{Runs: []Run{{On: monday, Seconds: 3600}}, On: monday, Return: &ReturnStage{Minutes: 20, Since: monday}})
	assert.Equal(t, Return, walked.Class, "no metres were run")
}

func TestWorseOfTwoClasses(t *testing.T) {
	for _, k := range []struct{ a, b, want Class }{{Down, Spike, Spike}, {Spike, Steady, Spike}, {Rise, Steady, Rise}, {Return, Rise, Return}, {Steady, Steady, Steady}, {Unknown, Steady, Unknown}} {
		assert.Equal(t, k.want, Worse(k.a, k.b), "%s and %s", k.a, k.b)
	}
}

func TestDailyMetres(t *testing.T) {
	runs := []Run{{On: monday - 1, Metres: 1}, {On: monday, Metres: 2}, {On: monday, Metres: 3}, {On: monday + 2, Metres: 4}, {On: monday + 3, Metres: 5}}
	assert.Equal(t, []float64{5, 0, 4}, Daily(runs, monday, monday+2))
	assert.Equal(t, []float64{5}, Daily(runs, monday, monday))
	assert.Nil(t, Daily(runs, monday, monday-1))
}

// Pain on a run counts for its side and tissue; without a side or zone for all, and
// a pain that is not known for none.
func TestPainOnARunBySideAndTissue(t *testing.T) {
	calf := []body.Tissue{body.Achilles}
	zone := screening.Zone("achilles-mid")
	require.Contains(t, zone.Tissues(), body.Achilles)
	r := Run{On: monday, Pain: ptr(body.Pain(5)), Zone: zone, Side: body.Left}
	found := func(r Run, from, to day.Date, side body.Side, tissues []body.Tissue) bool {
		_, ok := PainOn([]Run{r}, from, to, side, tissues)
		return ok
	}
	assert.True(t, found(r, monday, monday, body.Left, calf))
	assert.False(t, found(r, monday, monday, body.Right, calf), "the other side")
	assert.True(t, found(r, monday, monday, body.Both, calf), "asked for both")
	assert.False(t, found(r, monday+1, monday+9, body.Left, calf), "before")
	assert.False(t, found(r, monday-9, monday-1, body.Left, calf), "after")
	assert.False(t, found(r, monday, monday, body.Left, []body.Tissue{body.Shin}), "another tissue")
	assert.True(t, found(r, monday, monday, body.Left, nil), "any tissue")
	both := r
	both.Side = body.Both
	assert.True(t, found(both, monday, monday, body.Right, calf))
	none := r
	none.Side, none.Zone = "", ""
	assert.True(t, found(none, monday, monday, body.Right, []body.Tissue{body.Shin}), "nobody said where")
	unknown := r
	unknown.Pain = nil
	assert.False(t, found(unknown, monday, monday, body.Left, calf), "not known is no pain")
	quiet := r
	quiet.Pain = ptr(body.Pain(0))
	assert.False(t, found(quiet, monday, monday, body.Left, calf))
	worse := r
	worse.Pain, worse.On = ptr(body.Pain(7)), monday+1
	got, ok := PainOn([]Run{r, worse, r}, monday, monday+1, body.Left, calf)
	require.True(t, ok)
	assert.Equal(t, monday+1, got.On, "the worst")
	got, _ = PainOn([]Run{r, {On: monday + 1, Pain: ptr(body.Pain(5))}}, monday, monday+1, body.Left, calf)
	assert.Equal(t, monday, got.On, "of two alike the first")
}

// Advice looks at seven days: the run of six days ago counts, that of a week ago
// does not, and neither does tomorrow's.
func TestAdviceLooksAtSevenDays(t *testing.T) {
	quiet := func(day.Date) *body.Pain { return ptr(body.Pain(1)) }
	at := func(back int) Advice {
		return Advise(AdviceInput{On: monday + 10, Usual: 1, Morning: quiet, Runs: []Run{{On: monday + 10 - day.Date(back), Metres: 5000, Pain: ptr(body.Pain(7))}}})
	}
	assert.Equal(t, WhyPainSix, at(6).Why)
	assert.Equal(t, WhyNoRuns, at(7).Why)
	assert.Equal(t, WhyNoRuns, at(-1).Why)
	assert.Equal(t, WhyPainSix, at(0).Why)
}

// The newest limp, the newest of the worst pains, the newest run: each is told with
// its day.
func TestAdviceTellsTheRun(t *testing.T) {
	quiet := func(day.Date) *body.Pain { return ptr(body.Pain(1)) }
	pain := func(on day.Date, p body.Pain) Run { return Run{On: on, Metres: 5000, Pain: &p} }
	advise := func(runs ...Run) Advice {
		return Advise(AdviceInput{On: monday + 6, Usual: 1, Morning: quiet, Runs: runs})
	}
	limps := []Run{{On: monday + 3, Limping: true}, {On: monday + 1, Limping: true}, {On: monday + 2, Limping: true}}
	a := advise(limps...)
	assert.Equal(t, WhyLimping, a.Why)
	assert.Equal(t, monday+3, *a.Run)
	a = advise(pain(monday+1, 6), pain(monday+2, 5), pain(monday+3, 6))
	assert.Equal(t, monday+3, *a.Run)
	assert.Equal(t, body.Pain(6), *a.Pain)
	a = advise(pain(monday+1, 6), pain(monday+3, 5))
	assert.Equal(t, monday+1, *a.Run, "the worst, not the newest")
	a = advise(pain(monday+4, 0), pain(monday+1, 1))
	assert.Equal(t, monday+4, *a.Run)
	assert.Equal(t, AsPlanned, a.ID)
	a = advise(pain(monday+1, 1), pain(monday+4, 0), Run{On: monday + 4, Metres: 1})
	assert.Equal(t, NotKnown, a.ID, "of one day the later run")
	a = advise(Run{On: monday + 4, Metres: 5000})
	assert.Equal(t, NotKnown, a.ID, "a run whose pain nobody knows is no quiet one")
	assert.True(t, a.NoFast)
}

// The morning after: two over the usual skips, just over one eases, one is settled.
func TestTheMorningAfterARun(t *testing.T) {
	advise := func(usual float64, morning body.Pain) Advice {
		return Advise(AdviceInput{On: monday + 6, Usual: usual, Morning: func(on day.Date) *body.Pain {
			if on == monday+2 {
				return &morning
			}
			return nil
		}, Runs: []Run{{On: monday - 7, Metres: 1}, {On: monday - 1, Metres: 9_999}, {On: monday - 8, Metres: 70_000}, {On: monday, Metres: 50_000}, {On: monday + 1, Metres: 5000, Pain: ptr(body.Pain(0))}}})
	}
	assert.Equal(t, AsPlanned, advise(1, 2).ID)
	assert.Equal(t, Easier, advise(0.5, 2).ID)
	a := advise(1, 3)
	assert.Equal(t, SkipNext, a.ID)
	assert.Equal(t, 7000, a.Most, "70 % of the week before: from its Monday to its Sunday")
	assert.Equal(t, AsPlanned, advise(2, 3).ID)
	assert.Equal(t, SkipNext, advise(0, 2).ID)
}

// Session load needs an effort and minutes.
func TestSessionLoad(t *testing.T) {
	l, ok := Run{Seconds: 1800, Effort: ptr(6)}.SessionLoad()
	assert.True(t, ok)
	assert.InDelta(t, 180, l, 1e-9)
	_, ok = Run{Seconds: 1800}.SessionLoad()
	assert.False(t, ok)
}

func TestContactWeights(t *testing.T) {
	for _, k := range []struct {
		t    body.Tissue
		s    Strike
		f    Footwear
		want float64
	}{
		{body.Achilles, RearStrike, UsualShoe, 5.2}, {body.Achilles, UnknownStrike, UsualShoe, 5.5}, {body.Achilles, MidForeStrike, UsualShoe, 5.8},
		{body.Achilles, RearStrike, MinimalShoe, 5.2 * 1.05}, {body.Achilles, RearStrike, BareFeet, 5.2 * 1.08},
		{body.Forefoot, RearStrike, BareFeet, 3}, {body.Forefoot, RearStrike, MinimalShoe, 2.75}, {body.Sole, MidForeStrike, BareFeet, 1.8}, {body.Shin, RearStrike, BareFeet, 1},
	} {
		assert.InDelta(t, k.want, ContactWeight(k.t, k.s, k.f), 1e-9, "%s %s %s", k.t, k.s, k.f)
	}
	assert.Equal(t, Amount{Sum: 1 + 6, Peak: 2 + 24}, Amount{1, 2}.Add(3, 2))
	assert.Equal(t, Amount{11, 22}, Amount{1, 2}.Plus(Amount{10, 20}))
	shod := ExposureDose(10, UsualShoe, body.Achilles, RearStrike, 170, false)
	assert.InDelta(t, 850*5.2, shod.Sum, 1e-6)
	assert.Equal(t, Amount{}, ExposureDose(10, UsualShoe, body.Achilles, RearStrike, 170, true), "it is in the run already")
	bare := ExposureDose(10, BareFeet, body.Achilles, RearStrike, 170, true)
	assert.InDelta(t, 850*(5.2*5.2*5.2)*(1.08*1.08*1.08-1), bare.Peak, 1e-6)
}

// A session's dose: by its purpose's component, by the share that was done.
func TestNotchDoseByShareAndComponent(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	seen := map[Component]bool{}
	for _, l := range c.Ladders {
		n := l.At(1)
		for _, tissue := range n.Tissues {
			whole, component := NotchDose(n, tissue, 1)
			seen[component] = true
			half, _ := NotchDose(n, tissue, 0.5)
			assert.InDelta(t, whole.Sum/2, half.Sum, 1e-9, l.ID)
			more, _ := NotchDose(n, tissue, 1.7)
			assert.Equal(t, whole, more, "never more than all")
			none, _ := NotchDose(n, tissue, -1)
			assert.Zero(t, none.Sum)
			if n.Weight(tissue) > 0 {
				assert.InDelta(t, n.Count()*n.Weight(tissue), whole.Sum, 1e-9, l.ID)
			} else {
				assert.Zero(t, whole.Sum, l.ID)
			}
		}
	}
	assert.True(t, seen[ByStrength] && seen[BySpring])
}

// Four weeks in a row, twelve back: older ones and those in between don't make it.
func TestShareHeldAtItsEdges(t *testing.T) {
	today := day.Make(2026, 6, 3)
	week := func(back, bare, usual int) []Run {
		on := today.Monday() - day.Date(7*back)
		return []Run{{On: on, Metres: bare, Footwear: BareFeet}, {On: on + 6, Metres: usual}}
	}
	row := func(from, to, bare int) (out []Run) {
		for back := from; back <= to; back++ {
			out = append(out, week(back, bare, 10_000-bare)...)
		}
		return out
	}
	assert.Nil(t, ShareHeld(row(1, 4, 2999), today), "just under 30 %")
	require.NotNil(t, ShareHeld(row(1, 4, 3000), today))
	got := ShareHeld(row(9, 12, 3000), today)
	require.NotNil(t, got)
	assert.Equal(t, today.Monday()-7*9+6, *got)
	assert.Nil(t, ShareHeld(row(10, 13, 3000), today), "the thirteenth is too long ago")
	assert.Nil(t, ShareHeld(append(row(1, 2, 3000), row(4, 6, 3000)...), today), "a week without running between")
	got = ShareHeld(append(row(1, 5, 3000), week(0, 0, 50_000)...), today)
	require.NotNil(t, got)
	assert.Equal(t, today.Monday()-1, *got, "the newest; the week that is not over does not count")
}

func TestEasyPaceAtItsEdges(t *testing.T) {
	today := day.Make(2026, 6, 3)
	run := func(back, metres, seconds int) []Run {
		return []Run{{On: today - day.Date(back), Metres: metres, Seconds: seconds}}
	}
	assert.Equal(t, 300, EasyPace(run(0, 1000, 300), today))
	assert.Equal(t, 300, EasyPace(run(41, 1000, 300), today))
	assert.Zero(t, EasyPace(run(42, 1000, 300), today))
	assert.Zero(t, EasyPace(run(-1, 1000, 300), today))
	assert.Zero(t, EasyPace(run(1, 1000, 0), today))
	assert.Zero(t, EasyPace(run(1, 0, 300), today))
	assert.Equal(t, 330, EasyPace(append(run(1, 1000, 300), run(2, 1000, 360)...), today))
}
