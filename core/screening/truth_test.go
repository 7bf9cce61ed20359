package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
)

func read(t *testing.T, id TestID, left, right float64, comps ...string) Result {
	tt, ok := Find(id)
	require.True(t, ok)
	side := func(v float64) []Trial {
		x := Trial{Value: &v, Compensations: comps}
		return []Trial{x, x, x}
	}
	return Reduce(tt, side(left), side(right), Age{Years: 35, Known: true})
}

func named(list []Finding, f Factor) *Finding {
	for i := range list {
		if list[i].Factor == f {
			return &list[i]
		}
	}
	return nil
}

// Pain of the heel walk is a matter of the heel, not of the shin.
func TestPainOfTheHeelWalkIsNoWeakShin(t *testing.T) {
	list := Findings(Input{Results: []Result{read(t, HeelWalk, 6, 0)}})
	assert.Nil(t, named(list, "shin-weak"))
	f := named(list, "walk-sore")
	require.NotNil(t, f)
	assert.Equal(t, body.Left, f.Side)
	assert.Equal(t, HeelWalk, f.Evidence[0].Test)
	assert.NotNil(t, named(Findings(Input{Results: []Result{read(t, HeelWalk, 0, 0, "fore-foot-drops")}}), "shin-weak"), "a foot that drops is")
}

// No test reads limited while nothing is said to limit.
func TestEveryLimitedTestIsNamed(t *testing.T) {
	n := 0
	for _, x := range Tests() {
		for _, v := range []float64{x.Min, x.Max} {
			r := read(t, x.ID, v, v)
			if r.Left.Verdict != Limited && r.Right.Verdict != Limited {
				continue
			}
			n++
			list := Findings(Input{Results: []Result{r}})
			assert.NotEmpty(t, list, "%s reads limited at %g and nothing says so", x.ID, v)
		}
	}
	assert.Greater(t, n, 15)
}

func TestAJumpInRunningIsAFinding(t *testing.T) {
	assert.NotNil(t, named(Findings(Input{LoadSpike: true}), "load-spike"))
	assert.Nil(t, named(Findings(Input{}), "load-spike"))
}
