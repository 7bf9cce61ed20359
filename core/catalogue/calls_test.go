package catalogue

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// The rounds of end-range work, by hand: 10 s in five steps are 2 s each, 20 s are 4 s.
func TestAnEndRangeHoldIsCalledOutInFifths(t *testing.T) {
	n := ladder(t, "range-toe-end").At(1)
	assert.Equal(t, []Call{
		{0, "push", 20}, {2, "push", 40}, {4, "push", 60}, {6, "push", 80}, {8, "push", 100},
		{10, "pull", 20}, {12, "pull", 40}, {14, "pull", 60}, {16, "pull", 80}, {18, "pull", 100},
	}, n.Calls())
	long := ladder(t, "range-toe-end").At(3).Calls()
	assert.Equal(t, Call{4, "push", 40}, long[1])
	assert.Equal(t, Call{36, "pull", 100}, long[9])
}

func TestNoOtherWorkIsCalledOut(t *testing.T) {
	for _, l := range builtIn(t).Ladders {
		for i := range l.Notches {
			if n := l.At(i + 1); l.ID != "range-toe-end" {
				assert.Empty(t, n.Calls(), l.ID)
			}
		}
	}
	short := ladder(t, "range-toe-end").At(1)
	short.Dose.HoldSeconds = 8
	assert.Empty(t, short.Calls(), "less than a second a step")
}
