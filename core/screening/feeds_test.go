package screening

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
)

// Every test that can read watch or limited makes a finding or feeds one, or its text
// says that by itself it is only a look.
func TestNoTestReadsWatchForNothing(t *testing.T) {
	fed := 0
	for _, x := range tests {
		for i := range 61 {
			v := x.Min + (x.Max-x.Min)*float64(i)/60
			if x.Whole || len(x.Options) > 0 {
				v = float64(int(v + 0.5))
			}
			p := body.Pain(0)
			tr := Trial{Value: &v, Pain: &p}
			if len(x.Checks) > 0 {
				zero := 0.0
				tr.Compensations, tr.Value = x.Checks[:min(len(x.Checks), i%5)], &zero
			}
			list := []Trial{tr, tr, tr}
			r := Reduce(x, list, list, Age{Years: 35, Known: true})
			if s := r.Left.Verdict; s != Watch && s != Limited {
				continue
			}
			fed++
			if strings.Contains(x.SetUp, "only a look") {
				continue
			}
			require.NotEmpty(t, Findings(Input{Results: []Result{r}}), "%s at %g reads %s and nothing follows", x.ID, v, r.Left.Verdict)
		}
	}
	assert.Greater(t, fed, 300)
}

// A difference between the sides is part of the finding of its own test; where none
// speaks of it, it stands by itself and takes no place among the three.
func TestADifferenceTakesNoPlace(t *testing.T) {
	raise, _ := Find(SingleRaise)
	trial := func(v float64) []Trial { p := 0; return []Trial{{Value: &v, Pain: &p}} }
	weak := Reduce(raise, trial(10), trial(20), Age{Years: 35, Known: true})
	list := Findings(Input{Results: []Result{weak}})
	require.Len(t, list, 1)
	assert.Equal(t, Factor("calf-weak"), list[0].Factor)
	assert.Equal(t, []Uneven{{SingleRaise, raise.Name, body.Left}}, list[0].Uneven)
	strong := Reduce(raise, trial(40), trial(60), Age{Years: 35, Known: true})
	list = Findings(Input{Results: []Result{strong}})
	require.Len(t, list, 1)
	assert.Equal(t, unevenFactor, list[0].Factor)
	assert.False(t, list[0].WorkedOn)
	assert.Contains(t, list[0].Waits, "no place")
}
