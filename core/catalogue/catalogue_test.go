package catalogue

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBuiltInLadders(t *testing.T) {
	c, err := BuiltIn()
	require.NoError(t, err)
	known := map[Gate]bool{"": true, "single-leg-calf": true, "loaded-calf": true}
	for _, l := range c.Ladders {
		for i := range l.Notches {
			n := l.Notches[i]
			assert.True(t, known[n.Gate], "%s notch %d: gate %q", l.ID, i+1, n.Gate)
			if i == 0 {
				continue
			}
			p := l.Notches[i-1]
			assert.GreaterOrEqual(t, n.Weight, p.Weight, "%s notch %d: weight falls", l.ID, i+1)
			if p.Gate != "" {
				assert.NotEmpty(t, n.Gate, "%s notch %d: stands after a gate without one", l.ID, i+1)
			}
			if n.Exercise.ID != p.Exercise.ID || n.Dose.BodyPercent > p.Dose.BodyPercent || n.Dose.RM != p.Dose.RM {
				continue // a new exercise or load starts at its lowest count
			}
			volume := func(d Dose) int { return d.Sets * (d.Reps + d.HoldSeconds) }
			assert.GreaterOrEqual(t, volume(n.Dose), volume(p.Dose), "%s notch %d: volume falls within one exercise", l.ID, i+1)
		}
	}
	calf, ok := c.Ladder("calf-straight")
	require.True(t, ok)
	require.Equal(t, 25, calf.Len())
	assert.Equal(t, Dose{Sets: 3, Reps: 8, Tempo: [4]float64{1, 0, 1, 0}}, calf.At(7).Dose)
	// Beyer 2015 (from memory): heavy slow resistance ends at 4 x 8RM, then 4 x 6RM, 6 s a repetition.
	assert.Equal(t, Dose{Sets: 4, Reps: 6, RM: 6, Tempo: [4]float64{3, 0, 3, 0}}, calf.At(25).Dose)
}

func TestParseRefusesBrokenData(t *testing.T) {
	ok := "- {id: a, name: A, short: a, sides: each, setUp: stand, source: {kind: common-practice}}"
	for name, c := range map[string][2]string{
		"unknown field":    {"- {id: a, colour: red}", "[]"},
		"unknown exercise": {ok, "- {id: l, name: L, source: {kind: common-practice}, notches: [{exercise: b, dose: 2 x 10}]}"},
		"no source":        {ok, "- {id: l, name: L, notches: [{exercise: a, dose: 2 x 10}]}"},
		"bad dose":         {ok, "- {id: l, name: L, source: {kind: common-practice}, notches: [{exercise: a, dose: some}]}"},
		"zero dose":        {ok, "- {id: l, name: L, source: {kind: common-practice}, notches: [{exercise: a, dose: 0 x 10}]}"},
		"twice":            {ok + "\n" + ok, "[]"},
	} {
		_, err := Parse([]byte(c[0]), []byte(c[1]))
		assert.Error(t, err, name)
	}
}
