package simulate

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/transition"
)

func ramp(t testing.TB) (transition.Input, transition.Ramp) {
	t.Helper()
	monday := day.Make(2027, time.January, 4)
	in := transition.Input{Today: monday, Start: monday, Gates: map[catalogue.Gate]transition.Outlook{},
		Terms: []transition.Terms{{From: monday, Goal: transition.Run, TargetPercent: 30, WeeklyMetres: 40_000, PaceSeconds: 360, RunDays: []int{1, 3, 5}, Shoe: "thin one"}}}
	for _, s := range transition.Stages {
		in.Gates[s.Gate()] = transition.Outlook{Open: true}
	}
	return in, transition.Plan(in)
}

// The first numbers of splitmix64 from seed 1234567, as published with it (from
// memory).
func TestRandomIsTheSameOnEveryMachine(t *testing.T) {
	r := NewRandom(1234567)
	for _, want := range []uint64{6457827717110365317, 3203168211198807973, 9817491932198370423} {
		assert.Equal(t, want, r.next())
	}
	counts := make([]int, 5)
	for range 50_000 {
		counts[r.Below(5)]++
		f := r.Float()
		require.True(t, f >= 0 && f < 1)
	}
	for _, n := range counts {
		assert.InDelta(t, 10_000, n, 400)
	}
}

func TestNothingGoesWrongIsTheEarliest(t *testing.T) {
	in, r := ramp(t)
	got := Ramp(in, r, Assumptions{}, 50, 1)
	assert.Equal(t, *r.Reached, *got.Earliest)
	assert.Equal(t, *r.Reached, *got.Likely)
	assert.Equal(t, *r.Reached, *got.Late)
	assert.Equal(t, 50, got.Reached)
}

func TestTheRangeIsSeededAndInOrder(t *testing.T) {
	in, r := ramp(t)
	a, b := Ramp(in, r, Usual, 500, 7), Ramp(in, r, Usual, 500, 7)
	assert.Equal(t, a, b, "the same seed")
	assert.Less(t, *a.Earliest, *a.Likely)
	assert.Less(t, *a.Likely, *a.Late)
	more := Usual
	more.TooLittle = 0.4
	assert.Greater(t, *Ramp(in, r, more, 500, 7).Likely, *a.Likely, "less done, later there")
}

func TestALateGateMakesItLater(t *testing.T) {
	in, r := ramp(t)
	from := in.Today + 7*14
	in.Gates[safety.MinShoeRun] = transition.Outlook{From: &from, Words: "hop"}
	late := transition.Plan(in)
	got := Ramp(in, late, Assumptions{GateLate: 0.5}, 400, 3)
	assert.Equal(t, *late.Reached, *got.Earliest)
	assert.Greater(t, *got.Late, *late.Reached)
	in.Gates[safety.MinShoeRun] = transition.Outlook{Words: "a clearance"}
	never := Ramp(in, transition.Plan(in), Usual, 100, 3)
	assert.Nil(t, never.Earliest)
	assert.Nil(t, never.Late, "no date is made up")
	_ = r
}

func TestTooFewGetThere(t *testing.T) {
	in, r := ramp(t)
	got := Ramp(in, r, Assumptions{TooLittle: 0.97}, 200, 5)
	assert.Nil(t, got.Late)
	assert.Less(t, got.Reached, 200)
	assert.NotNil(t, got.Earliest)
}

func BenchmarkThousandFutures(b *testing.B) {
	in, r := ramp(b)
	for b.Loop() {
		if got := Ramp(in, r, Usual, 1000, 1); got.Late == nil {
			b.Fatal("no date")
		}
	}
}
