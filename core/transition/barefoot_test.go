package transition

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
)

// monday is Monday, 4 January 2027, the date of the worked example.
var monday = day.Make(2027, time.January, 4)

func allOpen() map[catalogue.Gate]Outlook {
	out := map[catalogue.Gate]Outlook{}
	for _, s := range Stages {
		out[s.Gate()] = Outlook{Open: true}
	}
	return out
}

// terms are those of the worked example: 40 km a week at 6:00, to 30 %.
func terms() Terms {
	return Terms{From: monday, Goal: Run, Begin: Run, TargetPercent: 30, WeeklyMetres: 40_000, PaceSeconds: 360, RunDays: []int{1, 3, 5}, StrengthDays: []int{0, 3}, Shoe: "thin one"}
}

func ahead(t Terms, held func(day.Date) string) Input {
	return Input{Today: monday - 7, Start: monday, Terms: []Terms{t}, Gates: allOpen(), Held: held}
}

func everyFourth(m day.Date) string {
	if (int(m-monday)/7+1)%4 == 0 {
		return "deload"
	}
	return ""
}

func runMinutes(r Ramp, n int) []int {
	var out []int
	for _, w := range r.Weeks[:n] {
		out = append(out, sum(w.Dose.Runs)+sum(w.Dose.BareRuns))
	}
	return out
}

func TestWorkedRampWithoutDeloads(t *testing.T) {
	r := Plan(ahead(terms(), nil))
	assert.Equal(t, []int{10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 72}, runMinutes(r, 14))
	require.NotNil(t, r.Reached)
	assert.Equal(t, monday+7*13, *r.Reached, "in week 14")
	first := r.Weeks[0]
	assert.Equal(t, 36_000, first.Metres, "a tenth less in the first two weeks")
	assert.Equal(t, 36_000, r.Weeks[1].Metres)
	assert.Equal(t, 40_000, r.Weeks[2].Metres)
	assert.Equal(t, []int{5, 5}, first.Dose.Runs)
	assert.Equal(t, 1666, first.Minimal, "1.67 km")
	assert.Equal(t, 12_000, r.Weeks[13].Minimal)
	assert.InDelta(t, 30, r.Weeks[13].Percents, 1e-9)
}

func TestWorkedRampWithDeloads(t *testing.T) {
	r := Plan(ahead(terms(), everyFourth))
	assert.Equal(t, []int{10, 15, 20, 20, 25, 30, 35, 35, 40, 45, 50, 50, 55, 60, 65, 65, 70, 72}, runMinutes(r, 18))
	assert.Equal(t, monday+7*17, *r.Reached, "in week 18")
	assert.Equal(t, "deload", r.Weeks[3].Held)
}

func TestWorkedSmallVolume(t *testing.T) {
	x := terms()
	x.WeeklyMetres, x.PaceSeconds = 10_000, 420
	r := Plan(ahead(x, nil))
	assert.Equal(t, []int{3}, r.Weeks[0].Dose.Runs, "one run of 3 min")
	for i := 1; i < len(r.Weeks); i++ {
		assert.LessOrEqual(t, r.Weeks[i].State.Run-r.Weeks[i-1].State.Run, 4, "5 points of 70 min are 3.5 min")
	}
}

// From nothing to running: every stage in its order with its own length.
func TestAllStagesInOrder(t *testing.T) {
	x := terms()
	x.Begin = ""
	r := Plan(ahead(x, nil))
	var got []Stage
	for _, w := range r.Weeks[:4+5+3+2+14] {
		got = append(got, w.State.Stage)
	}
	var want []Stage
	for _, s := range []struct {
		stage Stage
		weeks int
	}{{Home, 4}, {Walk, 5}, {Strength, 3}, {Drills, 2}, {Run, 14}} {
		for range s.weeks {
			want = append(want, s.stage)
		}
	}
	assert.Equal(t, want, got)
	home := func(i int) int { return r.Weeks[i].Dose.HomeMinutes }
	assert.Equal(t, []int{30, 60, 90, 120}, []int{home(0), home(1), home(2), home(3)})
	assert.Equal(t, 10, r.Weeks[4].Dose.WalkMinutes)
	var walks []int
	for _, w := range r.Weeks[4:12] {
		walks = append(walks, w.Dose.minutes(Walk))
	}
	assert.Equal(t, []int{30, 60, 90, 120, 120, 120, 160, 200}, walks, "three days a week; a fourth and fifth beside strength")
	assert.Equal(t, "half", r.Weeks[9].Dose.Part)
	assert.Equal(t, []int{50, 50, 60, 70, 80, 90, 100, 100}, []int{r.Weeks[9].Dose.LoadPercent, r.Weeks[10].Dose.LoadPercent, r.Weeks[11].Dose.LoadPercent, r.Weeks[12].Dose.LoadPercent, r.Weeks[13].Dose.LoadPercent, r.Weeks[14].Dose.LoadPercent, r.Weeks[15].Dose.LoadPercent, r.Weeks[16].Dose.LoadPercent}, "ten points a week")
	assert.Equal(t, 4, r.Weeks[12].Dose.Strides)
	assert.Equal(t, 80, r.Weeks[13].Dose.StrideMetres)
	assert.Equal(t, Keep, r.Weeks[28].State.Stage)
}

func TestBareFeetOnlyAfterFourWeeksAtThirtyPercent(t *testing.T) {
	x := terms()
	x.Goal, x.BarePercent = Bare, 10
	r := Plan(ahead(x, nil))
	first := -1
	for i, w := range r.Weeks {
		if w.State.Stage == Bare {
			first = i
			break
		}
	}
	require.Equal(t, 13+4, first, "30 % from week 14, four weeks held")
	assert.Equal(t, []int{5}, r.Weeks[first].Dose.BareRuns)
	assert.Equal(t, 72, sum(r.Weeks[first].Dose.Runs)+5, "bare minutes come out of the minimal ones")
	assert.Equal(t, "30 % in minimal shoes held for four weeks", r.Weeks[14].Wait.Words)
	last := r.Weeks[len(r.Weeks)-1]
	assert.Equal(t, 24, sum(last.Dose.BareRuns), "10 % of 240 min")
}

func TestTargetsAtTheEnds(t *testing.T) {
	x := terms()
	x.TargetPercent = 0
	r := Plan(ahead(x, nil))
	assert.Nil(t, r.Reached)
	require.NotNil(t, r.Waits)
	assert.Contains(t, r.Waits.Words, "over 0 %")
	x.TargetPercent = 100
	r = Plan(ahead(x, nil))
	require.NotNil(t, r.Reached)
	end := r.Weeks[len(r.Weeks)-1]
	assert.Equal(t, 40_000, end.Minimal)
	assert.Zero(t, end.Usual)
	x = terms()
	x.WeeklyMetres = 0
	r = Plan(ahead(x, nil))
	assert.Nil(t, r.Reached)
	assert.Contains(t, r.Waits.Words, "without runs there is nothing to swap")
	x = terms()
	x.Shoe = ""
	assert.Contains(t, Plan(ahead(x, nil)).Waits.Words, "a minimal shoe")
}

func TestATooNearDateGetsTheHonestOne(t *testing.T) {
	x := terms()
	by := monday + 21
	x.By = &by
	near, far := Plan(ahead(x, nil)), Plan(ahead(terms(), nil))
	assert.Equal(t, runMinutes(far, 14), runMinutes(near, 14), "never steeper")
	require.NotEmpty(t, near.Says)
	assert.Contains(t, near.Says[0], "the earliest honest date is the week of 5 April")
}

func TestAGateClosedByAFlagStopsTheRampThere(t *testing.T) {
	x := terms()
	x.Begin = ""
	in := ahead(x, nil)
	in.Gates[safety.BarefootStrength] = Outlook{Words: "a clearance for flag F-BONE"}
	r := Plan(in)
	assert.Nil(t, r.Reached)
	require.NotNil(t, r.Waits)
	assert.Equal(t, "a clearance for flag F-BONE", r.Waits.Words)
	for _, w := range r.Weeks {
		assert.LessOrEqual(t, w.State.Stage.rank(), Walk.rank())
	}
	on := monday + 7*30
	in.Gates[safety.BarefootStrength] = Outlook{From: &on, Words: "stance"}
	later := Plan(in)
	in.Gates = allOpen()
	free := Plan(in)
	assert.Equal(t, on, later.Weeks[30].Monday)
	assert.Equal(t, Strength, later.Weeks[30].State.Stage)
	assert.Greater(t, *later.Reached, *free.Reached, "a late gate moves the date")
}

func TestDropsAreFourMillimetresSixWeeksApart(t *testing.T) {
	x := terms()
	x.DropMM, x.DropToMM = new(int), new(int)
	*x.DropMM = 10
	r := Plan(ahead(x, nil))
	require.Len(t, r.Drops, 3)
	assert.Equal(t, []int{6, 2, 0}, []int{r.Drops[0].MM, r.Drops[1].MM, r.Drops[2].MM})
	assert.Equal(t, *r.Reached+7, r.Drops[0].From)
	assert.EqualValues(t, 42, r.Drops[1].From-r.Drops[0].From)
}

func TestAPartialFirstWeekDoesNotCount(t *testing.T) {
	in := ahead(terms(), nil)
	in.Start = monday - 2
	assert.Equal(t, monday, Plan(in).Start)
	in.Start = monday
	assert.Equal(t, monday, Plan(in).Start)
}

func TestTermsSayWhatIsWrong(t *testing.T) {
	assert.Empty(t, terms().Check())
	x := Terms{Goal: "fly", Begin: Bare, TargetPercent: 20, BarePercent: 101, WeeklyMetres: -1, PaceSeconds: 10, RunDays: []int{7}, StrengthDays: []int{-1}, DropMM: ptr(4), DropToMM: ptr(8)}
	bad := x.Check()
	for _, f := range []string{"goal", "begin", "barePercent", "weeklyMetres", "paceSeconds", "runDays", "strengthDays", "dropToMm"} {
		assert.Contains(t, bad, f)
	}
}

func ptr[T any](v T) *T { return &v }

// lived is a ramp that was begun weeks ago and done as planned up to a date.
func lived(x Terms, weeks int, change func(*Reading)) Input {
	in := ahead(x, nil)
	in.Today = monday + day.Date(7*weeks)
	plan := Plan(ahead(x, nil))
	for _, w := range plan.Weeks[:min(weeks, len(plan.Weeks))] {
		in.Readings = append(in.Readings, done(w, change)...)
	}
	return in
}

// done is a week done as planned with quiet mornings.
func done(w Week, change func(*Reading)) []Reading {
	var out []Reading
	for i := range 7 {
		r := Reading{On: w.Monday + day.Date(i), Morning: ptr(body.Pain(1)), Usual: 1}
		if w.Dose.HomeMinutes > 0 {
			r.HomeMinutes = ptr(w.Dose.HomeMinutes)
		}
		if i%2 == 1 {
			n := i / 2
			if n < w.Dose.Walks {
				r.Done = append(r.Done, Done{Walk, w.Dose.each(Walk, 0)})
			}
			if w.Dose.Part != "" && n < 2 {
				r.Done = append(r.Done, Done{Strength, 20})
			}
			if w.Dose.WarmUp > 0 && n < 2 {
				r.Done = append(r.Done, Done{Drills, w.Dose.WarmUp})
			}
			if n < len(w.Dose.Runs) {
				r.Done = append(r.Done, Done{Run, w.Dose.Runs[n]})
			}
		}
		if change != nil {
			change(&r)
		}
		out = append(out, r)
	}
	return out
}

func TestWeeksDoneAsPlannedPass(t *testing.T) {
	x := terms()
	x.Begin = ""
	r := Plan(lived(x, 20, nil))
	free := Plan(ahead(x, nil))
	require.Equal(t, 20, r.Now)
	for i, w := range r.Weeks[:20] {
		assert.Equal(t, Passed, w.Outcome, "week %d: %v", i+1, w.Reasons)
		assert.Equal(t, 100, w.Percent, "week %d", i+1)
	}
	assert.Equal(t, free.Reached, r.Reached)
}

func TestWhatRepeatsAWeek(t *testing.T) {
	x := terms()
	x.Begin = ""
	third := monday + 14
	for name, c := range map[string]struct {
		change func(*Reading)
		says   string
	}{
		"a morning two over": {func(r *Reading) {
			if r.On == third+3 {
				r.Morning = ptr(3)
			}
		}, "first steps of 21 January were 3, usually 1"},
		"calves sore for 48 hours": {func(r *Reading) {
			if r.On >= third+1 && r.On <= third+3 {
				r.Soreness = ptr(5)
			}
		}, "longer than 48 hours"},
		"half of it done": {func(r *Reading) {
			if r.On >= third+3 && r.On < third+7 {
				r.HomeMinutes = nil
			}
		}, "42 % of it was done"},
	} {
		t.Run(name, func(t *testing.T) {
			r, free := Plan(lived(x, 3, c.change)), Plan(lived(x, 3, nil))
			require.Equal(t, Repeated, r.Weeks[2].Outcome)
			assert.Contains(t, r.Weeks[2].Reasons[0], c.says)
			assert.Equal(t, r.Weeks[2].Dose.HomeMinutes, r.Weeks[3].Dose.HomeMinutes, "the same again")
			assert.Equal(t, *free.Reached+7, *r.Reached, "one week later")
		})
	}
	// Sore for one day, and better in between, repeats nothing.
	r := Plan(lived(x, 3, func(r *Reading) {
		switch r.On {
		case third + 1, third + 5:
			r.Soreness = ptr(6)
		case third + 3:
			r.Soreness = ptr(2)
		}
	}))
	assert.Equal(t, Passed, r.Weeks[2].Outcome)
}

func TestMoreThanPlannedRepeats(t *testing.T) {
	in := lived(terms(), 3, func(r *Reading) {
		for i := range r.Done {
			r.Done[i].Minutes *= 3
		}
	})
	r := Plan(in)
	assert.Equal(t, Repeated, r.Weeks[0].Outcome)
	assert.Contains(t, r.Weeks[0].Reasons[0], "30 min were done where 10 were planned")
}

func TestATenderBoneIsSevenDaysOutAndTwiceRefers(t *testing.T) {
	x := terms()
	x.Begin = ""
	in := lived(x, 3, func(r *Reading) { r.Tender = r.On == monday+16 })
	r := Plan(in)
	assert.Equal(t, []day.Date{monday + 16}, r.Strikes)
	assert.Equal(t, Repeated, r.Weeks[2].Outcome)
	assert.Equal(t, []day.Date{monday + 17, monday + 18, monday + 19, monday + 20}, r.Weeks[2].Out)
	assert.Len(t, r.Weeks[3].Out, 3)
	assert.Equal(t, monday+23, *r.OutTo)
	assert.False(t, r.Refer)
	in = lived(x, 6, func(r *Reading) { r.Tender = r.On == monday+16 || r.On == monday+18 || r.On == monday+36 })
	r = Plan(in)
	assert.Len(t, r.Strikes, 2, "the same seven days are one")
	assert.True(t, r.Refer)
	assert.Equal(t, Stopped, r.Weeks[6].Outcome)
	assert.Zero(t, r.Weeks[6].Dose.HomeMinutes)
	in.Cleared = ptr(monday + 40)
	assert.False(t, Plan(in).Refer, "a clinician has looked")
}

func TestAFlareStopsAndGoesTwoBack(t *testing.T) {
	in := lived(terms(), 8, nil)
	free := Plan(in)
	in.Flares = []Flare{{Since: monday + 30, Until: ptr(monday + 40)}}
	r := Plan(in)
	assert.Equal(t, 30, sum(r.Weeks[3].Dose.Runs)+sum(r.Weeks[4].Dose.Runs)+5, "stopped in week 5")
	assert.Equal(t, Stopped, r.Weeks[4].Outcome)
	assert.Less(t, r.Weeks[6].State.Run, free.Weeks[6].State.Run)
	assert.Equal(t, r.Weeks[3].State.Run-10, r.Weeks[6].State.Run, "two steps under where it stood")
	in.Flares[0].Until = nil
	in.Today = monday + 33
	r = Plan(in)
	assert.Nil(t, r.Reached, "while it lasts there is no date")
}

func TestMissedWeeksGoBack(t *testing.T) {
	x := terms()
	full := lived(x, 6, nil)
	gap := func(n int) Ramp {
		in := full
		in.Today = monday + day.Date(7*(6+n))
		return Plan(in)
	}
	one, two, three, five := gap(1), gap(2), gap(3), gap(5)
	at := func(r Ramp) int { return r.Weeks[r.Now].State.Run }
	assert.Equal(t, 40, at(one), "week 7 again")
	assert.Equal(t, 35, at(two))
	assert.Equal(t, 30, at(three))
	assert.LessOrEqual(t, at(five), 10)
	assert.Equal(t, TookBack, two.Weeks[7].Outcome)
}

func TestFewerKilometresNeverMeanAGreaterShareAtOnce(t *testing.T) {
	in := lived(terms(), 6, nil)
	less := terms()
	less.From, less.WeeklyMetres = monday+7*6, 20_000
	in.Terms = append(in.Terms, less)
	r := Plan(in)
	before, after := r.Weeks[5], r.Weeks[6]
	assert.Less(t, after.State.Run, before.State.Run)
	assert.LessOrEqual(t, after.Percents, before.Percents+5+1e-9)
	assert.Equal(t, 20_000, after.Metres)
}

func TestRunDaysAreApart(t *testing.T) {
	assert.Equal(t, []int{0, 3}, Apart([]int{0, 1, 3, 4, 6}, 2))
	assert.Equal(t, []int{0}, Apart([]int{0, 6}, 2), "Sunday is next to Monday")
	assert.Empty(t, Apart(nil, 2))
	x := terms()
	x.RunDays = []int{0, 6}
	r := Plan(ahead(x, nil))
	for _, w := range r.Weeks {
		assert.LessOrEqual(t, sum(w.Dose.Runs), 10)
	}
	assert.Contains(t, r.Says[0], "two easy runs are needed")
}

// The mornings themselves show a flare, with or without a block's engine.
func TestThreeBadMorningsStopTheRamp(t *testing.T) {
	x := terms()
	x.Begin = ""
	bad := func(days ...int) func(*Reading) {
		return func(r *Reading) {
			for _, d := range days {
				if r.On == monday+day.Date(d) {
					r.Morning = ptr(4)
				}
			}
		}
	}
	r := Plan(lived(x, 3, bad(8, 9)))
	assert.Equal(t, Repeated, r.Weeks[1].Outcome, "two are not a flare")
	r = Plan(lived(x, 3, bad(8, 9, 10)))
	assert.Equal(t, Stopped, r.Weeks[1].Outcome)
	assert.Equal(t, 30, r.Weeks[2].Dose.HomeMinutes, "two steps under 60, not under the first")
	r = Plan(lived(x, 3, func(r *Reading) {
		bad(8, 10)(r)
		if r.On == monday+9 {
			r.Morning = nil
		}
	}))
	assert.Equal(t, Stopped, r.Weeks[1].Outcome, "one missing between two such")
	r = Plan(lived(x, 3, func(r *Reading) {
		bad(8, 9, 10)(r)
		if r.On > monday+10 {
			r.Morning = nil
		}
	}))
	assert.Equal(t, Stopped, r.Weeks[2].Outcome, "missing mornings end nothing")
	assert.Nil(t, r.Reached)
	until := monday + 13
	assert.Equal(t, []Flare{{Since: monday + 5, Until: &until}}, together([]Flare{{Since: monday + 5, Until: ptr(monday + 9)}}, []Flare{{Since: monday + 8, Until: &until}}))
}

// A shoe that is given away, kilometres or a target that go to nothing: the ramp
// waits, says for what, and goes on where it can.
func TestWhatGoesMissingInMidRamp(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Terms)
		words  string
	}{
		"the shoe":   {func(x *Terms) { x.Shoe = "" }, "a minimal shoe: none is named"},
		"the runs":   {func(x *Terms) { x.WeeklyMetres = 0 }, "running to swap"},
		"the target": {func(x *Terms) { x.TargetPercent = 0 }, "a target over 0 %"},
	} {
		t.Run(name, func(t *testing.T) {
			in := lived(terms(), 6, nil)
			without := terms()
			without.From = monday + 7*6
			c.change(&without)
			in.Terms = append(in.Terms, without)
			r := Plan(in)
			assert.Nil(t, r.Reached)
			w := r.Weeks[r.Now]
			assert.Zero(t, sum(w.Dose.Runs))
			require.NotNil(t, w.Wait)
			assert.Contains(t, w.Wait.Words, c.words)
			again := terms()
			again.From = monday + 7*7
			in.Terms = append(in.Terms, again)
			in.Today += 7
			r = Plan(in)
			require.NotNil(t, r.Reached, "it goes on")
			assert.Equal(t, Repeated, r.Weeks[6].Outcome)
			assert.LessOrEqual(t, r.Weeks[r.Now].State.Run, 35, "and not steeper than it stood")
		})
	}
}

// While the gate of the present stage is closed nothing goes on behind it.
func TestAClosedGateHoldsTheStageItCloses(t *testing.T) {
	in := lived(terms(), 6, nil)
	free := Plan(in)
	later := in.Today + 7*5
	in.Gates[safety.MinShoeRun] = Outlook{From: &later, Words: "two-leg pogo"}
	r := Plan(in)
	require.Equal(t, free.Weeks[5].State.Run, r.Weeks[5].State.Run, "what was done was let through")
	for i := r.Now; r.Weeks[i].Monday < later; i++ {
		assert.Empty(t, r.Weeks[i].Dose.Runs, "%s", r.Weeks[i].Monday)
		assert.Equal(t, 35, r.Weeks[i].State.Run)
	}
	assert.GreaterOrEqual(t, *r.Reached, *free.Reached+7*5)
}
