package course

import (
	"context"
	"testing"
)

// year is a runner's year: a block of twelve weeks at its end, a session on most
// days, a morning a day, three runs a week.
func year(t testing.TB) Record {
	l := newLife(t)
	l.quiet = true
	for d := monday - 281; d < monday; d++ {
		l.r.Mornings = append(l.r.Mornings, Morning{Arrival: Arrival{l.seq + 1, Moment{d, 8}}, On: d, FirstStep: ptr(int(d % 2))})
		l.seq++
		if d%7 == 1 || d%7 == 3 || d%7 == 6 {
			l.now = Moment{d, 19}
			l.run(d, 7000, ptr(1))
		}
	}
	l.now = Moment{monday, 7}
	l.quiet = false
	for d := monday; d < monday+84; d++ {
		l.morning(d, int(d%2))
		if d%7 < 5 {
			pain := map[string][2]int{}
			for _, p := range l.r.Block.Prescriptions {
				pain[p.ID] = [2]int{1, 2}
			}
			l.log(d, pain)
		}
		if d%7 == 1 || d%7 == 3 || d%7 == 6 {
			l.run(d, 7000, ptr(1))
		}
	}
	l.to(monday + 84)
	return l.r
}

// What is new in a year's record, and the whole year as it was lived.
func BenchmarkDecideAYear(b *testing.B) {
	r := year(b)
	now := Moment{monday + 84, 13}
	next := r
	next.Mornings = append(next.Mornings[:len(next.Mornings):len(next.Mornings)], Morning{Arrival: Arrival{1 << 40, Moment{monday + 84, 13}}, On: monday + 84, FirstStep: ptr(1)})
	b.Run("new", func(b *testing.B) {
		for b.Loop() {
			_, _ = Decide(context.Background(), next, now)
		}
	})
	b.Run("replay", func(b *testing.B) {
		once := r
		once.State, once.Decisions, once.Raised = State{}, nil, nil
		for b.Loop() {
			byDays(once, now)
		}
	})
}
