package catalogue

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/figure"
)

// shared are drawings that more than one exercise has, and why one is enough.
var shared = map[[2]string]string{
	{"thigh-roll", "thigh-roll-b"}:   "the front of the thigh on the same roller",
	{"knee-wall", "knee-wall-in"}:    "the same stance, rocked or looked at",
	{"foot-out", "foot-out-on"}:      "the same band, pulled the same way",
	{"sprint-hinge", "sprint-drive"}: "the same two positions, only faster",
}

// Every exercise is drawn in a position of its own, stays in its box, and its end
// differs from its start.
func TestEveryExerciseHasAPictureOfItsOwn(t *testing.T) {
	c, err := BuiltIn()
	require.NoError(t, err)
	of := map[[2]string]string{}
	for _, e := range c.Exercises {
		if first, ok := of[e.Figure]; ok {
			assert.Contains(t, shared, e.Figure, "%s is drawn as %s", e.ID, first)
		}
		of[e.Figure] = e.ID
		p, err := c.Picture(e)
		require.NoError(t, err, e.ID)
		assert.NotEqual(t, p.Start, p.End, e.ID)
		require.Len(t, p.Moves, figure.Frames, e.ID)
		for _, part := range slices.Concat(p.Start, p.End) {
			pts, _, _ := part.Curve()
			for _, q := range pts {
				assert.True(t, q[0] > -3 && q[0] < figure.Size+3 && q[1] > -3 && q[1] < figure.Size+3, "%s: %s at %v", e.ID, part.Part, q)
			}
		}
		works := slices.ContainsFunc(p.End, func(x figure.Part) bool { return x.Kind == figure.Work })
		if slices.Contains([]string{"sole", "toes", "calf", "shin"}, e.Part) && !slices.Contains([]string{"walk-balls-out", "walk-balls-in", "balls-three", "walk-heels-out", "walk-heels-in", "heels-three"}, e.ID) {
			assert.True(t, works, "%s shows nothing at work", e.ID)
		}
	}
	for k, why := range shared {
		assert.NotEmpty(t, why)
		assert.Contains(t, of, k, "no exercise is drawn so any more")
	}
}

// An own exercise turns angles of the poses it takes over; what no body can do is
// refused with the pose and the angle, and without a pose there is just no drawing.
func TestAnOwnExerciseTurnsAngles(t *testing.T) {
	c, err := BuiltIn()
	require.NoError(t, err)
	e := Exercise{Own: true, Figure: [2]string{"stand", "squat"}, Part: "whole-leg"}
	plain, err := c.Picture(e)
	require.NoError(t, err)
	e.Turned[1] = Turned{"knee": 60, "hip": 50}
	turned, err := c.Picture(e)
	require.NoError(t, err)
	assert.Equal(t, len(plain.Start), len(turned.Start))
	assert.NotEqual(t, plain.End, turned.End)
	again, err := c.Picture(Exercise{Own: true, Figure: e.Figure, Part: e.Part})
	require.NoError(t, err)
	assert.Equal(t, plain, again, "the pose itself stays as it was")
	e.Turned[1] = Turned{"knee": 220}
	_, err = c.Picture(e)
	assert.ErrorContains(t, err, `pose "squat": knee goes from -5 to 160`)
	e.Turned[1] = Turned{"wing": 2}
	_, err = c.Picture(e)
	assert.ErrorContains(t, err, "wing")
	assert.False(t, Exercise{Own: true}.Drawn())
}
