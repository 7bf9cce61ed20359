package safety

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/screening"
)

func drawEvidence(t *rapid.T) Evidence {
	e := Evidence{On: today, Age: screening.Age{Years: rapid.IntRange(10, 80).Draw(t, "age"), Known: rapid.Bool().Draw(t, "known")}, Unasked: rapid.Bool().Draw(t, "unasked")}
	for i := range rapid.IntRange(0, 3).Draw(t, "visits") {
		v := Dated{On: today - day.Date(30*i+rapid.IntRange(0, 20).Draw(t, "ago"))}
		for _, x := range screening.Tests() {
			if rapid.IntRange(0, 2).Draw(t, "take") == 0 {
				continue
			}
			draw := func() []screening.Trial {
				value := rapid.Float64Range(x.Min, x.Max).Draw(t, "v")
				if len(x.Options) > 0 {
					value = rapid.SampledFrom(x.Options).Draw(t, "o").Value
				}
				pain := rapid.IntRange(0, 5).Draw(t, "pain")
				return []screening.Trial{{Value: &value, Pain: &pain}}
			}
			v.Results = append(v.Results, screening.Reduce(x, draw(), draw(), e.Age))
		}
		e.Visits = append(e.Visits, v)
	}
	if rapid.Bool().Draw(t, "waive") {
		e.Waivers = []Waiver{{rapid.SampledFrom(gateRules).Draw(t, "gate").gate, "a reason"}}
	}
	return e
}

func openSet(e Evidence) map[string]bool {
	out := map[string]bool{}
	for _, g := range Gates(e) {
		out[string(g.Gate)] = g.Open
	}
	return out
}

func TestAFlagNeverOpensAGateAndEveryClosedGateSaysWhy(t *testing.T) {
	all := flat(screening.Age{})
	rapid.Check(t, func(t *rapid.T) {
		e := drawEvidence(t)
		before := openSet(e)
		for _, g := range Gates(e) {
			assert.Equal(t, g.Open, g.State != "closed", g.Gate)
			if g.State == "closed" {
				assert.NotEmpty(t, g.Missing, g.Gate)
			}
			if g.State == "waived" {
				assert.NotEmpty(t, g.Reason)
				assert.GreaterOrEqual(t, e.Age.Years, 18)
			}
		}
		q := rapid.SampledFrom(all).Draw(t, "question")
		e.Flags = Raise(today, Answers{Yes: map[string]body.Side{q.ID: body.Both}}, nil, nil)
		after := openSet(e)
		for g, open := range after {
			if open {
				assert.True(t, before[g], "%s opened %s", q.ID, g)
			}
			if q.Level == Emergency {
				assert.False(t, open, "%s leaves %s open", q.ID, g)
			}
		}
	})
}

func TestTakingAwayEvidenceNeverOpensACalfGate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := drawEvidence(t)
		e.Waivers = nil
		before := openSet(e)
		e.Visits = nil
		for g, open := range openSet(e) {
			if g == string(BarefootHome) {
				continue // it opens on the absence of a complaint, not on a test
			}
			assert.False(t, open && !before[g], g)
			assert.False(t, open, "%s stands on nothing", g)
		}
	})
}

func TestTheChainHoldsWithoutWaivers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := drawEvidence(t)
		e.Waivers = nil
		open := openSet(e)
		for i := 1; i < len(chain); i++ {
			assert.False(t, open[string(chain[i])] && !open[string(chain[i-1])], "%s open over a closed %s", chain[i], chain[i-1])
		}
	})
}
