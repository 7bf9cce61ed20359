package measure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Nobody runs at under 120 steps a minute: that count is of one foot.
func TestOneFootUnder120(t *testing.T) {
	c, err := CadenceFromCounts([]int{30, 30, 30}, 15)
	require.NoError(t, err)
	assert.InDelta(t, 120, c.MeanSpm, 1e-9)
	assert.False(t, c.OneFoot)
	c, err = CadenceFromCounts([]int{30, 30, 29}, 15)
	require.NoError(t, err)
	assert.True(t, c.OneFoot)
	taps := func(gap float64) Cadence {
		times := make([]float64, 12)
		for i := range times {
			times[i] = float64(i) * gap
		}
		c, err := CadenceFromTaps(times)
		require.NoError(t, err)
		return c
	}
	assert.False(t, taps(0.49).OneFoot)
	assert.True(t, taps(0.51).OneFoot)
	assert.True(t, taps(0.35).Sure)
}

func TestCountsAtTheirEdges(t *testing.T) {
	ok := func(n int, window float64) bool { _, err := CadenceFromCounts([]int{n}, window); return err == nil }
	assert.True(t, ok(1, 5))
	assert.False(t, ok(0, 15))
	assert.True(t, ok(600, 120))
	assert.False(t, ok(601, 120))
	assert.False(t, ok(10, 4.9))
	assert.False(t, ok(10, 120.1))
	c, err := CadenceFromCounts([]int{40, 41, 42, 43}, 60)
	require.NoError(t, err)
	assert.False(t, math.IsNaN(c.MarginSpm))
	assert.True(t, c.Sure)
	one, err := CadenceFromCounts([]int{43}, 15)
	require.NoError(t, err)
	assert.InDelta(t, 4, one.MarginSpm, 1e-9)
	assert.False(t, one.Sure)
	three, err := CadenceFromCounts([]int{57, 57, 57}, 20)
	require.NoError(t, err)
	assert.True(t, three.Sure, "margin %v", three.MarginSpm)
}

// Taps off the median by more than 35 % are left out, eight are enough, the first
// is dropped.
func TestTapsAtTheirEdges(t *testing.T) {
	with := func(odd float64) Cadence {
		times := []float64{0}
		for i := range 10 {
			gap := 0.4
			if i == 5 {
				gap = odd
			}
			times = append(times, times[len(times)-1]+gap)
		}
		c, err := CadenceFromTaps(times)
		require.NoError(t, err)
		return c
	}
	assert.Zero(t, with(0.5399).LeftOut)
	assert.Equal(t, 1, with(0.5401).LeftOut)
	assert.Zero(t, with(0.2601).LeftOut)
	assert.Equal(t, 1, with(0.2599).LeftOut)
	times := []float64{0, 5, 5.4, 5.8, 6.2, 6.6, 7.0, 7.4}
	c, err := CadenceFromTaps(times)
	require.NoError(t, err)
	assert.Zero(t, c.LeftOut, "the first tap came whenever it did")
	assert.Equal(t, 6, c.N)
	_, err = CadenceFromTaps(times[:7])
	require.Error(t, err)
	times[4] = times[3]
	_, err = CadenceFromTaps(times)
	require.ErrorContains(t, err, "rise")
}

// A foot is down for 80 to 600 ms; longer or shorter is a slip of the hand.
func TestAFootIsDownForUpTo600ms(t *testing.T) {
	ok := func(contact float64) bool {
		off := 1 + contact
		_, err := ReadGait([]Step{{"left", 1, &off}}, 1.0/240)
		return err == nil
	}
	assert.True(t, ok(0.599))
	assert.False(t, ok(0.601))
	assert.True(t, ok(0.081))
	assert.False(t, ok(0.079))
}

// The scatter of three times and more counts, where it is larger than the frame's.
func TestTheScatterOfThreeTimes(t *testing.T) {
	two := span([]float64{0.2, 0.3}, 0.001)
	assert.InDelta(t, 1.96*0.001/math.Sqrt2, two.Margin, 1e-5, "two scatter by chance")
	three := span([]float64{0.2, 0.25, 0.3}, 0.001)
	assert.Greater(t, three.Margin, 0.05)
	assert.Equal(t, 3, three.N)
	assert.InDelta(t, 0.25, three.Seconds, 1e-9)
	even := span([]float64{0.25, 0.25, 0.25}, 0.01)
	assert.InDelta(t, 1.96*0.01/math.Sqrt(3), even.Margin, 1e-5)
}

// A cadence needs both feet; six steps are sure.
func TestOneFootGivesNoCadence(t *testing.T) {
	g, err := ReadGait([]Step{{"left", 0, nil}, {"right", 0.35, nil}}, 1.0/240)
	require.NoError(t, err)
	assert.InDelta(t, 60/0.35, g.CadenceSpm, 1e-9)
	assert.Contains(t, g.Says[0], "2 steps; six make it surer")
	g, err = ReadGait([]Step{{"left", 0, nil}, {"left", 0.7, nil}}, 1.0/240)
	require.NoError(t, err)
	assert.Zero(t, g.CadenceSpm)
	assert.Contains(t, g.Says, "Only one foot is marked: a cadence needs both.")
	g, err = ReadGait([]Step{{"left", 0, nil}}, 1.0/240)
	require.NoError(t, err)
	assert.Zero(t, g.CadenceSpm)
	assert.Len(t, g.Says, 1)
	six, err := ReadGait(gait(6, 170, 0.25), 1.0/240)
	require.NoError(t, err)
	for _, s := range six.Says {
		assert.NotContains(t, s, "surer")
	}
}

// A point that the library trusts less than 0.3 is not used.
func TestAPointIsTrustedFromThirtyPercent(t *testing.T) {
	at := Track{Times: []float64{0, 1, 2}, Lanes: map[Lane][]Seen{{"left", Ankle}: {
		{Known: true, Trust: 0.3}, {Known: true, Trust: 0.299}, {Known: true, Trust: 1},
	}}}
	m := Mended{}
	out := at.unswapped(&m)[Lane{"left", Ankle}]
	assert.True(t, out[0].Known)
	assert.False(t, out[1].Known)
	assert.True(t, out[2].Known)
	assert.True(t, at.Lanes[Lane{"left", Ankle}][1].Known, "what came in stays as it is")
}

// The model of a spring: its limits, and that a leg can't be longer than it is.
func TestSpringAtItsEdges(t *testing.T) {
	bad := func(mass, leg, speed, contact, flight float64) bool {
		_, err := Spring(mass, leg, speed, contact, flight)
		return err != nil
	}
	assert.False(t, bad(70, 0.9, 3, 0.25, 0.1))
	assert.True(t, bad(70, 0.9, 3, 0.019, 0.1))
	assert.False(t, bad(70, 0.9, 3, 0.02, 0.1))
	assert.True(t, bad(70, 0.9, 3, 2.01, 0.1))
	assert.True(t, bad(70, 0.9, 7.3, 0.25, 0.1), "0.9125 m of leg")
	assert.False(t, bad(70, 0.9, 7.1, 0.25, 0.1))
	assert.True(t, bad(70, 0.9, 3, 0.25, 0))
	assert.True(t, bad(70, 0.9, 3, 0.25, 2.01))
	s, err := Spring(70, 0.9, 3, 0.25, 0.1)
	require.NoError(t, err)
	assert.InDelta(t, 60/0.35, s.CadenceSpm, 1e-9)
	assert.InDelta(t, 0.25/0.7, s.Duty, 1e-9)
}
