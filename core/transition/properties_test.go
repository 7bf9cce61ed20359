package transition

import (
	"math/rand/v2"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
)

// drawn is a lived ramp drawn at random: terms, holds, what was done and felt.
func drawn(r *rand.Rand) Input {
	x := Terms{From: monday, Goal: Stages[r.IntN(len(Stages))], TargetPercent: float64(5 + 5*r.IntN(19)), WeeklyMetres: 3000 + 1000*r.IntN(90), PaceSeconds: 240 + 10*r.IntN(25),
		RunDays: []int{0, 2, 4, 6}, StrengthDays: []int{1, 4}, Shoe: "thin one"}
	x.BarePercent = min(x.TargetPercent, float64(r.IntN(20)))
	if r.IntN(2) == 0 && x.Goal.rank() >= Run.rank() {
		x.Begin = Run
	}
	var held func(day.Date) string
	if r.IntN(2) == 0 {
		held = everyFourth
	}
	weeks := r.IntN(20)
	in := ahead(x, held)
	in.Today = monday + day.Date(7*weeks)
	for _, w := range Plan(ahead(x, held)).Weeks {
		if w.Monday >= in.Today {
			break
		}
		in.Readings = append(in.Readings, done(w, func(d *Reading) {
			switch r.IntN(25) {
			case 0:
				d.Morning = ptr(body.Pain(3 + r.IntN(5)))
			case 1:
				d.Morning = nil
			case 2, 3:
				d.Soreness = ptr(body.Pain(r.IntN(9)))
			case 4, 5:
				d.Done, d.HomeMinutes = nil, nil
			}
			if r.IntN(150) == 0 {
				d.Tender = true
			}
		})...)
	}
	if r.IntN(4) == 0 && weeks > 3 {
		in.Flares = []Flare{{Since: monday + day.Date(r.IntN(7*weeks)), Until: nil}}
		if r.IntN(2) == 0 {
			in.Flares[0].Until = ptr(in.Flares[0].Since + 6)
		}
	}
	return in
}

func each(t *testing.T, n int, fn func(r *rand.Rand, in Input)) {
	t.Helper()
	if testing.Short() {
		n /= 10
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 6))
		fn(r, drawn(r))
	}
}

func unshod(w Week) int { return sum(w.Dose.Runs) + sum(w.Dose.BareRuns) }

// Minutes never rise by more than the rule: 30 a day at home, 30 or one more day of walking, 5
// running or 5 points, whichever is less.
func TestMinutesNeverRiseByMoreThanTheRule(t *testing.T) {
	each(t, 400, func(_ *rand.Rand, in Input) {
		ramp := Plan(in)
		for i := 1; i < len(ramp.Weeks); i++ {
			a, b := ramp.Weeks[i-1], ramp.Weeks[i]
			if a.Outcome == Stopped {
				continue // after a stop it is compared with what stood before: the state
			}
			require.LessOrEqual(t, b.Dose.HomeMinutes-a.Dose.HomeMinutes, 30)
			require.LessOrEqual(t, b.Dose.minutes(Walk)-a.Dose.minutes(Walk), 40)
			require.LessOrEqual(t, b.Dose.LoadPercent-max(a.Dose.LoadPercent, 40), 10)
			if a.State.Run > 0 && b.State.Run > 0 {
				require.LessOrEqual(t, b.State.Run-a.State.Run, 5, "%s", b.Monday)
				pa, pb := float64(a.State.Run)/float64(a.State.last.product), float64(b.State.Run)/float64(b.State.last.product)
				require.LessOrEqual(t, pb-pa, 0.05/60_000+1e-12)
			}
			if a.State.Run == 0 && b.State.Run > 0 {
				require.LessOrEqual(t, b.State.Run, 10, "the first week")
			}
			if b.Held != "" && a.State.Stage != "" {
				require.LessOrEqual(t, b.State.Run, a.State.Run, "a held week")
				require.LessOrEqual(t, b.Dose.HomeMinutes, a.Dose.HomeMinutes)
			}
			require.LessOrEqual(t, sum(b.Dose.BareRuns), unshod(b))
		}
	})
}

func TestTheShoesAddUpToTheWeek(t *testing.T) {
	each(t, 200, func(_ *rand.Rand, in Input) {
		for _, w := range Plan(in).Weeks {
			require.Equal(t, w.Metres, w.Usual+w.Minimal+w.BareM)
			require.GreaterOrEqual(t, w.Usual, 0)
			require.GreaterOrEqual(t, w.Minimal, 0)
		}
	})
}

func TestRunsInMinimalShoesAreNeverOnDaysSideBySide(t *testing.T) {
	for mask := range 1 << 7 {
		var days []int
		for d := range 7 {
			if mask>>d&1 == 1 {
				days = append(days, d)
			}
		}
		for n := 1; n <= 3; n++ {
			got := Apart(days, n)
			for _, a := range got {
				require.Contains(t, days, a)
				for _, b := range got {
					if a != b {
						gap := (a - b + 7) % 7
						require.True(t, gap >= 2 && gap <= 5, "%v of %v", got, days)
					}
				}
			}
		}
	}
}

// Closing a gate never brings a date nearer.
func TestClosingAGateNeverAdvancesADate(t *testing.T) {
	each(t, 300, func(r *rand.Rand, in Input) {
		in.Flares = nil
		before := Plan(in).Reached
		g := []Stage{Walk, Strength, Drills}[r.IntN(3)].Gate()
		in.Gates[g] = Outlook{Words: "closed"}
		if r.IntN(2) == 0 {
			in.Gates[g] = Outlook{Words: "late", From: ptr(in.Today + day.Date(7*(1+r.IntN(20))))}
		}
		after := Plan(in).Reached
		if before == nil {
			assert.Nil(t, after)
		} else if after != nil {
			require.GreaterOrEqual(t, *after, *before)
		}
	})
}

// More pain never gives more minutes, in the present week or any after it.
func TestMorePainNeverGivesMoreMinutes(t *testing.T) {
	each(t, 400, func(r *rand.Rand, in Input) {
		if len(in.Readings) == 0 {
			return
		}
		less := Plan(in)
		worse := in
		worse.Readings = append([]Reading(nil), in.Readings...)
		for range 1 + r.IntN(4) {
			x := &worse.Readings[r.IntN(len(worse.Readings))]
			switch r.IntN(3) {
			case 0:
				p := body.Pain(1)
				if x.Morning != nil {
					p = min(10, *x.Morning+2)
				}
				x.Morning = &p
			case 1:
				p := body.Pain(9)
				x.Soreness = &p
			case 2:
				x.Tender = true
			}
		}
		more := Plan(worse)
		for i := max(0, less.Now); i < min(len(less.Weeks), len(more.Weeks)); i++ {
			a, b := less.Weeks[i], more.Weeks[i]
			require.LessOrEqual(t, b.Dose.HomeMinutes, a.Dose.HomeMinutes, "%s", b.Monday)
			require.LessOrEqual(t, unshod(b), unshod(a), "%s", b.Monday)
			require.LessOrEqual(t, b.Dose.minutes(Walk), a.Dose.minutes(Walk))
		}
		if less.Reached == nil {
			assert.Nil(t, more.Reached)
		} else if more.Reached != nil {
			require.GreaterOrEqual(t, *more.Reached, *less.Reached)
		}
	})
}

func TestTheSameReadingsGiveTheSameRampInAnyOrder(t *testing.T) {
	each(t, 100, func(r *rand.Rand, in Input) {
		a := Plan(in)
		r.Shuffle(len(in.Readings), func(i, j int) { in.Readings[i], in.Readings[j] = in.Readings[j], in.Readings[i] })
		require.True(t, reflect.DeepEqual(a, Plan(in)))
	})
}

// The way over the end of a year is a Monday like any other.
func TestNewYearChangesNothing(t *testing.T) {
	in := ahead(terms(), nil)
	plain := Plan(in)
	shift := day.Date(7 * 49)
	x := terms()
	x.From += shift
	in.Terms, in.Start, in.Today = []Terms{x}, monday+shift, monday+shift-7
	moved := Plan(in)
	require.Len(t, moved.Weeks, len(plain.Weeks))
	assert.Equal(t, *plain.Reached+shift, *moved.Reached)
}

func BenchmarkFortyWeekRamp(b *testing.B) {
	x := terms()
	x.Begin = ""
	in := lived(x, 20, nil)
	in.Gates[safety.BarefootRun] = Outlook{}
	for b.Loop() {
		if r := Plan(in); len(r.Weeks) < 30 {
			b.Fatal(len(r.Weeks))
		}
	}
}
