package planning

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
)

func drawWeek(t *rapid.T) Week {
	w := Week{Sessions: rapid.IntRange(1, 5).Draw(t, "sessions"), Micro: rapid.Bool().Draw(t, "micro"), Evenings: rapid.Bool().Draw(t, "evenings")}
	for d := range 7 {
		w.Runs[d] = rapid.SampledFrom([]RunKind{NoRun, NoRun, Easy, Easy, Long, Fast}).Draw(t, "run")
		if w.Runs[d] != NoRun && rapid.IntRange(0, 4).Draw(t, "twice") == 0 {
			w.Second[d] = rapid.SampledFrom([]RunKind{Easy, Long, Fast}).Draw(t, "second")
		}
		w.Minutes[d] = rapid.SampledFrom([]int{0, 5, 10, 20, 30, 45}).Draw(t, "minutes")
		w.Prefer[d] = rapid.IntRange(0, 5).Draw(t, "prefer") == 0
		w.Avoid[d] = rapid.IntRange(0, 5).Draw(t, "avoid") == 0
	}
	if rapid.Bool().Draw(t, "hour known") {
		h := rapid.IntRange(5, 21).Draw(t, "hour")
		w.RunHour = &h
	}
	return w
}

func drawItems(t *rapid.T, most int) []Item {
	n := rapid.IntRange(1, most).Draw(t, "items")
	out := make([]Item, n)
	for i := range out {
		it := Item{Ladder: string(rune('a' + i)), Times: rapid.IntRange(1, 3).Draw(t, "times"), Seconds: float64(rapid.IntRange(60, 700).Draw(t, "seconds"))}
		it.Least = rapid.IntRange(1, it.Times).Draw(t, "least")
		it.Evening = rapid.IntRange(0, 5).Draw(t, "evening") == 0
		it.Gap48 = rapid.Bool().Draw(t, "gap")
		it.Heavy = !it.Evening && rapid.IntRange(0, 2).Draw(t, "heavy") == 0
		it.Spring = !it.Heavy && !it.Evening && rapid.IntRange(0, 3).Draw(t, "spring") == 0
		for _, k := range []body.Tissue{body.Achilles, body.Sole, body.Shin} {
			if rapid.Bool().Draw(t, string(k)) {
				it.Tissues = append(it.Tissues, k)
			}
		}
		out[i] = it
	}
	return out
}

// brute looks at every arrangement there is and judges it by Check alone.
func brute(w Week, items []Item, micro float64, o Options) (float64, bool) {
	best := math.Inf(1)
	where := make([]Days, len(items))
	anyMain := false
	for _, it := range items {
		anyMain = anyMain || !it.Evening
	}
	var walk func(i int)
	walk = func(i int) {
		if i < len(items) {
			room := 0
			for d := range 7 {
				if items[i].Evening && w.Evenings && w.eveningFree(d) && w.Minutes[d] > 0 {
					room++
				}
			}
			if !items[i].Evening {
				room = w.Sessions
			}
			for m := Days(1); m <= everyDay; m++ {
				wanted := min(items[i].Times, room)
				if m.Len() > wanted || m.Len() < min(items[i].Least, wanted) {
					continue
				}
				where[i] = m
				walk(i + 1)
			}
			return
		}
		var main Days
		cost := 0.0
		for k, it := range items {
			if !it.Evening {
				main |= where[k]
			}
			cost += costFewer*float64(it.Times-where[k].Len()) + costItem*unevenTable[where[k]]
			for _, d := range where[k].List() {
				if it.NotTired && w.Runs[d] != NoRun {
					cost += costNotTired
				}
				if it.Evening && w.Avoid[d] {
					cost += costAvoid / 2
				}
			}
		}
		if anyMain && main.Len() != w.Sessions || len(Check(w, items, where, micro)) > 0 {
			return
		}
		for _, d := range main.List() {
			cost += w.dayCost(d, o)
		}
		if anyMain {
			cost += costUneven * unevenTable[main]
		}
		best = min(best, cost)
	}
	walk(0)
	return best, !math.IsInf(best, 1)
}

// No accepted layout breaks a hard rule, over thousands of random weeks.
func TestLayoutKeepsEveryHardRule(t *testing.T) {
	found := 0
	rapid.Check(t, func(t *rapid.T) {
		for range 20 {
			w, items := drawWeek(t), drawItems(t, 6)
			micro := float64(rapid.SampledFrom([]int{0, 120, 300}).Draw(t, "micro seconds"))
			l, ok := LayOut(w, items, micro, Options{})
			if !ok {
				continue
			}
			found++
			require.Empty(t, Check(w, items, l.where(), micro))
			for i, p := range l.Places {
				assert.GreaterOrEqual(t, len(p.Days), 1, "nothing is dropped")
				most := items[i].Times
				assert.LessOrEqual(t, len(p.Days), most, "no more days than asked for")
				assert.NotEmpty(t, p.Why)
				for _, b := range p.Blocked {
					assert.NotEmpty(t, b.Rule)
				}
			}
			assert.Len(t, l.MainWhy, len(l.Main))
		}
	})
	assert.Greater(t, found, 100, "the property must have looked at real layouts")
}

// On small cases every arrangement is tried: the search finds the best, and
// where it reports none there is none.
func TestLayoutAgreesWithBruteForce(t *testing.T) {
	fits, none := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		w, items := drawWeek(t), drawItems(t, 2)
		l, ok := LayOut(w, items, 0, Options{})
		best, any := brute(w, items, 0, Options{})
		require.Equal(t, any, ok)
		if ok {
			fits++
			assert.InDelta(t, best, l.Cost, 0.011)
		} else {
			none++
		}
	})
	assert.Positive(t, fits)
	assert.Positive(t, none)
}

func TestRelaxationsAreLaidOut(t *testing.T) {
	full := 0
	rapid.Check(t, func(t *rapid.T) {
		w, items := drawWeek(t), drawItems(t, 4)
		if _, ok := LayOut(w, items, 0, Options{}); ok {
			return
		}
		full++
		last := 0.0
		for _, r := range Relaxations(w, items, 0, Options{}) {
			assert.GreaterOrEqual(t, r.Cost, last, "cheapest first")
			last = r.Cost
			kept := items
			if r.Kind == RelaxLeaveOut {
				kept = nil
				for _, it := range items {
					if it.Ladder != r.Ladder {
						kept = append(kept, it)
					}
				}
			}
			assert.Empty(t, Check(r.Week, kept, r.Layout.where(), 0), "%s keeps every rule", r.Kind)
		}
	})
	assert.Positive(t, full, "weeks in which nothing fits were among them")
}

func calfItem(gap bool) Item {
	return Item{Ladder: "calf", Times: 3, Least: 2, Seconds: 300, Gap48: gap, Heavy: gap, Tissues: []body.Tissue{body.Achilles}}
}

func TestLayoutOfAPlainWeek(t *testing.T) {
	w := Week{Sessions: 3, Minutes: [7]int{30, 30, 30, 30, 30, 30, 30}, Evenings: true}
	w.Runs = [7]RunKind{NoRun, Easy, NoRun, Easy, NoRun, Easy, Long}
	l, ok := LayOut(w, []Item{calfItem(true)}, 0, Options{})
	require.True(t, ok)
	assert.NotContains(t, l.Places[0].Days, 5, "heavy calf is not the day before the long run")
	assert.Contains(t, l.Main, 1)
	assert.Contains(t, l.Main, 3)

	w.Runs = [7]RunKind{NoRun, Easy, NoRun, NoRun, NoRun, Easy, NoRun}
	away, ok := LayOut(w, []Item{calfItem(false)}, 0, Options{AwayFromRuns: true})
	require.True(t, ok)
	assert.Equal(t, []int{0, 2, 4}, away.Main)
}

func TestEveningRule(t *testing.T) {
	hour := func(h int) *int { return &h }
	w := Week{Runs: [7]RunKind{NoRun, Easy}}
	assert.False(t, w.eveningFree(0), "a run at seven next morning, when the time is not known")
	w.RunHour = hour(17)
	assert.True(t, w.eveningFree(0), "21 hours before")
	assert.True(t, w.eveningFree(1), "three hours after the run")
	w.RunHour = hour(18)
	assert.False(t, w.eveningFree(1), "not within two hours after the run")
	w.RunHour = hour(8)
	assert.True(t, w.eveningFree(0), "just twelve hours")
}

// Two runs a day and fixed hours: the hard rules look at each run of the day.
func TestTwoRunsAndFixedHours(t *testing.T) {
	hour := func(h int) *int { return &h }
	w := Week{Runs: [7]RunKind{Easy, NoRun, Easy}, Minutes: [7]int{40, 40, 40, 40, 40, 40, 40}, Sessions: 1, Evenings: true}
	calf := calfItem(true)
	calf.Times, calf.Least = 1, 1
	heavy := func(day int) bool { return len(Check(w, []Item{calf}, []Days{DaysOf(day)}, 0)) == 0 }
	assert.True(t, heavy(0), "after an easy run")
	w.Second[0] = Fast
	assert.False(t, heavy(0), "a fast run follows the same day")
	assert.False(t, heavy(6), "and the day before stands within 24 hours of it")
	b := Check(w, []Item{calf}, []Days{DaysOf(0)}, 0)
	assert.Equal(t, Fast, b[0].Run)
	assert.Equal(t, Fast, w.hardest(0), "fast counts more than easy")

	w.RunHour = hour(9)
	assert.False(t, w.hoursKnown(), "the hour of the second run is missing")
	assert.False(t, w.eveningFree(0), "a second run without an hour is taken to be late")
	w.Later = hour(15)
	assert.True(t, w.hoursKnown())
	assert.True(t, w.eveningFree(0), "five hours after the second run, no run next day")
	assert.True(t, w.eveningFree(1), "thirteen hours before Wednesday's")
	w.Hours[2] = hour(6)
	assert.False(t, w.eveningFree(1), "Wednesday's run has a fixed early hour")
	assert.True(t, w.eveningFree(2))
	w.Hours[2] = hour(19)
	assert.False(t, w.eveningFree(2), "a fixed late hour leaves no evening after it")
}

// What can give on a day with two runs is the second first.
func TestSecondRunGivesFirst(t *testing.T) {
	w := Week{Runs: [7]RunKind{Easy, Easy, Easy, Easy, Easy, Easy, Easy}, Second: [7]RunKind{Fast, Fast, Fast, Fast, Fast, Fast, Fast}, Minutes: [7]int{40, 40, 40, 40, 40, 40, 40}, Sessions: 1}
	calf := calfItem(true)
	calf.Times, calf.Least = 1, 1
	_, ok := LayOut(w, []Item{calf}, 0, Options{})
	require.False(t, ok)
	for d := range 7 {
		if d != 2 && d != 3 {
			w.Second[d] = NoRun
		}
	}
	w.Minutes = [7]int{0, 0, 40, 0, 0, 0, 0}
	_, ok = LayOut(w, []Item{calf}, 0, Options{})
	require.False(t, ok, "Wednesday and Thursday both have a fast second run")
	w.Second[3] = NoRun
	ways := Relaxations(w, []Item{calf}, 0, Options{})
	require.NotEmpty(t, ways)
	kinds := map[RelaxKind]Relaxation{}
	for _, r := range ways {
		if _, ok := kinds[r.Kind]; !ok {
			kinds[r.Kind] = r
		}
	}
	require.Contains(t, kinds, RelaxOneRun)
	one := kinds[RelaxOneRun]
	assert.Equal(t, 2, one.Day)
	assert.Equal(t, Easy, one.Week.Runs[2], "the first run stays")
	assert.Equal(t, NoRun, one.Week.Second[2])
	assert.Less(t, one.Cost, kinds[RelaxRunDay].Cost)
}

// What an advice takes from a day's two runs it takes from each.
func TestAdviceTakesFromBothRuns(t *testing.T) {
	monday, err := day.Parse("2031-03-03")
	require.NoError(t, err)
	w := Week{Runs: [7]RunKind{Easy}, Second: [7]RunKind{Fast}}
	first, less := w.RunOn(monday, monday, load.Advice{NoFast: true}, nil, false, WayToRun{})
	assert.Equal(t, Easy, first)
	assert.Empty(t, less)
	second, less := w.SecondOn(monday, monday, load.Advice{NoFast: true}, nil, false, WayToRun{})
	assert.Equal(t, Easy, second)
	assert.Equal(t, LessFast, less)
	second, less = w.SecondOn(monday, monday, load.Advice{ID: load.NoRunning}, nil, false, WayToRun{})
	assert.Equal(t, NoRun, second)
	assert.Equal(t, LessForAdvice, less)
}

func TestCheckSaysWhatBreaks(t *testing.T) {
	rules := func(w Week, items []Item, where ...Days) (out []WeekRule) {
		for _, b := range Check(w, items, where, 0) {
			out = append(out, b.Rule)
		}
		return out
	}
	w := Week{Minutes: [7]int{30, 30, 30, 30, 30, 30, 30}, Evenings: true}
	calf := calfItem(true)
	spring := Item{Ladder: "pogo", Times: 3, Seconds: 60, Spring: true}
	assert.Empty(t, rules(w, []Item{calf}, DaysOf(0, 2, 4)))
	assert.Contains(t, rules(w, []Item{calf}, DaysOf(0, 1)), WeekGap48)
	assert.Contains(t, rules(w, []Item{calf}, DaysOf(0, 6)), WeekGap48, "Sunday to Monday")
	assert.Contains(t, rules(w, []Item{calf, calfItem(true)}, DaysOf(0), DaysOf(0)), WeekGap48, "not in one session either")
	assert.Contains(t, rules(w, []Item{calf, spring}, DaysOf(0), DaysOf(1)), WeekSpring)
	assert.Contains(t, rules(w, []Item{spring}, DaysOf(0, 2, 4, 6)), WeekSprings)
	long := w
	long.Runs[1] = Long
	assert.Contains(t, rules(long, []Item{calf}, DaysOf(0)), WeekHeavy)
	assert.Empty(t, rules(long, []Item{calf}, DaysOf(1)), "after the run is allowed")
	seven := w
	for d := range 7 {
		seven.Runs[d] = Easy
	}
	assert.NotContains(t, rules(seven, []Item{calf}, DaysOf(0, 2, 4)), WeekRest)
	assert.Contains(t, rules(seven, []Item{{Ladder: "x", Times: 4, Seconds: 60}}, DaysOf(0, 2, 4, 6)), WeekRest, "three beside seven days of running")
	assert.Contains(t, rules(w, []Item{{Ladder: "x", Times: 6, Seconds: 60}}, DaysOf(0, 1, 2, 3, 4, 5)), WeekRest)
	short := w
	short.Minutes[0] = 4
	assert.Contains(t, rules(short, []Item{calf}, DaysOf(0)), WeekMinutes)
}

func BenchmarkLayOut(b *testing.B) {
	w := Week{Sessions: 3, Micro: true, Evenings: true, Minutes: [7]int{30, 30, 30, 30, 30, 30, 30}, Runs: [7]RunKind{NoRun, Easy, NoRun, Fast, NoRun, Easy, Long}}
	items := []Item{}
	for i := range 9 {
		it := Item{Ladder: string(rune('a' + i)), Times: 3, Least: 2, Seconds: 150 + float64(20*i), Tissues: []body.Tissue{}}
		switch i {
		case 0, 1:
			it.Gap48, it.Tissues = true, []body.Tissue{body.Achilles}
			it.Heavy = i == 0
		case 2:
			it.Evening, it.Gap48, it.Tissues = true, true, []body.Tissue{body.Sole}
		case 3:
			it.Spring = true
		case 4, 5:
			it.Times = 2
		}
		items = append(items, it)
	}
	for b.Loop() {
		LayOut(w, items, 240, Options{})
	}
}

// A week in which nothing fits is the longest search.
func BenchmarkLayOutNothingFits(b *testing.B) {
	w := Week{Sessions: 5, Micro: true, Minutes: [7]int{12, 12, 12, 12, 12, 12, 12}, Runs: [7]RunKind{NoRun, Easy, NoRun, Easy, NoRun, Easy, NoRun}}
	items := []Item{}
	for i := range 8 {
		items = append(items, Item{Ladder: string(rune('a' + i)), Times: 4, Least: 2, Seconds: 200})
	}
	for b.Loop() {
		if _, ok := LayOut(w, items, 120, Options{}); ok {
			b.Fatal("it fits")
		}
	}
}
