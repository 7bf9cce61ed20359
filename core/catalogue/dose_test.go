package catalogue

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestDosesReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sets, n, hold := rapid.IntRange(1, 99).Draw(t, "sets"), rapid.IntRange(1, 999).Draw(t, "n"), rapid.Bool().Draw(t, "hold")
		text := fmt.Sprintf("%d x %d", sets, n)
		want := Dose{Sets: sets, Reps: n, Tempo: [4]float64{1, 0, 1, 0}}
		if hold {
			text += " s"
			want = Dose{Sets: sets, HoldSeconds: n, Tempo: [4]float64{1, 0, 1, 0}}
		}
		got, err := ParseDose(text)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	})
	for _, bad := range []string{"", "3", "3x12", "3 x", "x 12", "3 x 5 x 2", "5 x 2 min x 3", "5 s", "0 min", "-3 x 12", "3 x 0", "3.5 x 12", "3 × 12"} {
		_, err := ParseDose(bad)
		assert.Error(t, err, bad)
	}
}

func TestEveryNotchHasOneDoseAndItsSides(t *testing.T) {
	c, err := BuiltIn()
	require.NoError(t, err)
	for _, l := range c.Ladders {
		assert.LessOrEqual(t, l.PerWeek.Min, l.PerWeek.Max, l.ID)
		for i, n := range l.Notches {
			d := n.Dose
			assert.Equal(t, 1, d.measures(), "%s notch %d: one measure", l.ID, i+1)
			assert.NotNil(t, n.Tissues)
			assert.Equal(t, n.Exercise.Sides == "together", n.Together())
		}
	}
	_, ok := c.Ladder("no-such")
	assert.False(t, ok)
}
