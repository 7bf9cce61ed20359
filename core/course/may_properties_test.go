package course

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// closedOf are the notches that may not be done.
func closedOf(e planning.Evidence) map[string]bool {
	out := map[string]bool{}
	ps := planning.Phases(e)
	for _, l := range shelf.Ladders {
		for at := 1; at <= l.Len(); at++ {
			for _, side := range body.Sides {
				if e.May(l, at, side, ps).Closed() {
					out[l.ID+string(side)+string(rune('a'+at))] = true
				}
			}
		}
	}
	return out
}

// A flag, a worse reading or another complaint never opens anything; a clearance
// opens nothing that its flag did not close; a reading taken away, of a walk that is
// known or a morning, never opens.
func TestCautionNeverOpens(t *testing.T) {
	entries := safety.Entries()
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 15))
		pain := func() *body.Pain { p := r.IntN(9); return &p }
		e := planning.Evidence{On: monday, Gates: gatesUnder(safety.Standing{}), Baseline: 1}
		for range r.IntN(3) {
			z := screening.Zones[r.IntN(len(screening.Zones))].ID
			e.Complaints = append(e.Complaints, screening.Complaint{Zone: z, Side: body.Sides[r.IntN(2)], FirstSteps: pain(), Worst: pain()})
		}
		for d := range 14 {
			if r.IntN(3) > 0 {
				e.Mornings = append(e.Mornings, planning.Reading{On: monday - 13 + day.Date(d), Pain: r.IntN(5)})
			}
		}
		if r.IntN(2) == 0 {
			e.Results = append(e.Results, tested(screening.HeelWalk, float64(r.IntN(4)), 0, 0), tested(screening.ToeWalk, 0, float64(r.IntN(4)), 0))
		}
		was := closedOf(e)
		within := func(o planning.Evidence, what string) {
			now := closedOf(o)
			for k := range was {
				if !assert.True(t, now[k], "seed %d: %s opens %s", seed, what, k) {
					return
				}
			}
		}
		f := entries[r.IntN(len(entries))]
		flagged := e
		flagged.Flags = []safety.Standing{f.Raised(monday, body.Left)}
		flagged.Gates = gatesUnder(flagged.Flags[0])
		within(flagged, string(f.ID))
		if len(e.Complaints) > 0 {
			worse := e
			worse.Complaints = append([]screening.Complaint{}, e.Complaints...)
			c := &worse.Complaints[0]
			p := min(body.PainMax, *c.FirstSteps+1+r.IntN(4))
			c.FirstSteps = &p
			within(worse, "a worse first step")
			unknown := e
			unknown.Complaints = append([]screening.Complaint{}, e.Complaints...)
			unknown.Complaints[0].FirstSteps, unknown.Complaints[0].Worst = nil, nil
			within(unknown, "an unknown pain")
		}
		more := e
		more.Complaints = append(append([]screening.Complaint{}, e.Complaints...), screening.Complaint{Zone: "heel", Side: body.Right, FirstSteps: pain()})
		within(more, "another complaint")
		fewer := e
		fewer.Results = nil
		within(fewer, "a test taken away")
		if len(e.Mornings) > 0 {
			gone := e
			gone.Mornings = e.Mornings[:len(e.Mornings)-1]
			if e.Mornings[len(e.Mornings)-1].Pain <= 3 {
				within(gone, "a quiet morning taken away")
			}
		}
	}
}
