package measure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// amplitude of a sine of a frequency (Hz) after the filter, measured in the middle.
func amplitude(freq, rate, cutoff float64) (gain, shift float64) {
	n := int(4 * rate)
	v := make([]float64, n)
	for i := range v {
		v[i] = math.Sin(2 * math.Pi * freq * float64(i) / rate)
	}
	out := lowPass(v, rate, cutoff)
	s, c := 0.0, 0.0
	for i := n / 4; i < 3*n/4; i++ {
		x := 2 * math.Pi * freq * float64(i) / rate
		s, c = s+out[i]*math.Sin(x), c+out[i]*math.Cos(x)
	}
	return math.Hypot(s, c) / float64(n/4), math.Atan2(c, s)
}

// The filter passes 0.707 at its cut-off after both runs, nearly all below it,
// nearly nothing far above, and shifts nothing in time.
func TestTheFilterCutsWhereItSaysAndDelaysNothing(t *testing.T) {
	for _, rate := range []float64{60, 120, 240} {
		gain, shift := amplitude(10, rate, 10)
		assert.InDelta(t, math.Sqrt(0.5), gain, 0.01, "%g Hz", rate)
		assert.InDelta(t, 0, shift, 0.01, "zero lag")
		gain, _ = amplitude(2, rate, 10)
		assert.InDelta(t, 1, gain, 0.01)
		gain, _ = amplitude(25, rate, 10)
		assert.Less(t, gain, 0.07)
	}
	// A straight line and a level stay as they are, ends included.
	line := make([]float64, 50)
	for i := range line {
		line[i] = 3*float64(i) - 20
	}
	for i, v := range lowPass(line, 60, 10) {
		assert.InDelta(t, line[i], v, 1e-4, "%d", i)
	}
	assert.Equal(t, line, lowPass(line, 20, 10), "a cut-off the rate can't carry changes nothing")
	assert.Equal(t, []float64{1, 2}, lowPass([]float64{1, 2}, 60, 10))
}

// Short gaps are filled by the curve that goes on on both sides, long ones and those
// at an end are left.
func TestGapsAreFilledUpToATenthOfASecond(t *testing.T) {
	make60 := func(gone ...int) ([]float64, []Seen) {
		at, s := make([]float64, 30), make([]Seen, 30)
		for i := range s {
			at[i] = float64(i) / 60
			s[i] = Seen{X: at[i] * at[i], Y: 5, Known: true, Trust: 0.8}
		}
		for _, g := range gone {
			s[g] = Seen{}
		}
		return at, s
	}
	at, s := make60(10, 11, 12)
	assert.Equal(t, 3, fill(at, s))
	for i := 10; i <= 12; i++ {
		assert.True(t, s[i].Known)
		assert.InDelta(t, at[i]*at[i], s[i].X, 3e-4, "on the parabola")
		assert.InDelta(t, 5, s[i].Y, 1e-12)
		assert.InDelta(t, 0.4, s[i].Trust, 1e-12, "a filled point is trusted half")
	}
	at, s = make60(10, 11, 12, 13, 14, 15)
	assert.Zero(t, fill(at, s), "117 ms")
	at, s = make60(0, 1, 28, 29)
	assert.Zero(t, fill(at, s), "nothing to go on from")
}

// Frames at uneven times are brought onto even ones.
func TestUnevenFramesAreBroughtOntoEvenTimes(t *testing.T) {
	from := []float64{0, 0.01, 0.04, 0.05, 0.08}
	s := make([]Seen, len(from))
	for i, x := range from {
		s[i] = Seen{X: 100 * x, Known: true, Trust: 1}
	}
	out := onto([]float64{0, 0.02, 0.04, 0.06, 0.08}, from, s)
	for i, want := range []float64{0, 2, 4, 6, 8} {
		assert.InDelta(t, want, out[i].X, 1e-9)
	}
	s[2].Known = false
	out = onto([]float64{0, 0.02, 0.04, 0.06, 0.08}, from, s)
	assert.False(t, out[1].Known)
	assert.False(t, out[2].Known)
	assert.True(t, out[3].Known)
}

// The hinge is found between frames, with the margin its noise gives it.
func TestTheHingeIsFoundBetweenFrames(t *testing.T) {
	at, x := make([]float64, 24), make([]float64, 24)
	for i := range at {
		at[i] = float64(i) / 120
		x[i] = 2 - 3*at[i] - 40*max(0, at[i]-0.107)
	}
	got, sd, ok := hinge(at, x, 0.06, 0.15, 0.001)
	require.True(t, ok)
	assert.InDelta(t, 0.107, got, 0.001)
	assert.Less(t, sd, 0.001)
	_, _, ok = hinge(at[:4], x[:4], 0, 0.03, 0.001)
	assert.False(t, ok, "too few frames")
}

// A cadence by the line through all contacts counts a step that was missed, and is
// surer the straighter they lie.
func TestTheLineThroughAllContactsCountsMissedSteps(t *testing.T) {
	steps := func(off float64, gone ...int) []Step {
		var out []Step
		for i := range 12 {
			missing := false
			for _, g := range gone {
				missing = missing || g == i
			}
			if !missing {
				out = append(out, Step{Contact: 60/170.0*float64(i) + off*float64(i%2)})
			}
		}
		return out
	}
	v, margin, ok := lineCadence(steps(0))
	require.True(t, ok)
	assert.InDelta(t, 170, v, 1e-6)
	assert.InDelta(t, 0, margin, 1e-6)
	v, _, _ = lineCadence(steps(0, 4, 7))
	assert.InDelta(t, 170, v, 1e-6, "two steps were missed")
	v, margin, _ = lineCadence(steps(0.02))
	assert.InDelta(t, 170, v, margin)
	assert.Greater(t, margin, 0.3)
	_, _, ok = lineCadence(steps(0)[:3])
	assert.False(t, ok)
	_, _, ok = lineCadence([]Step{{}, {}, {}, {}})
	assert.False(t, ok, "all at once")
}

// Points come upright whatever the camera's roll, mirrored for who runs left.
func TestUprightTakesTheRollOut(t *testing.T) {
	sin, cos := math.Sincos(0.1)
	floor := &Line{{X: 0, Y: 0}, {X: 100 * cos, Y: 100 * sin}}
	x, y := Picture{Floor: floor}.Upright(Point{X: 50 * cos, Y: 50 * sin})
	assert.InDelta(t, 50, x, 1e-9)
	assert.InDelta(t, 0, y, 1e-9)
	plumb := &Line{{X: -100 * -sin, Y: -100 * cos}, {X: 0, Y: 0}}
	px, py := Picture{Plumb: plumb}.Upright(Point{X: 50 * cos, Y: 50 * sin})
	assert.InDelta(t, x, px, 1e-9)
	assert.InDelta(t, y, py, 1e-9)
	x, y = Picture{RunsLeft: true}.Upright(Point{X: 3, Y: 4})
	assert.Equal(t, []float64{-3, -4}, []float64{x, y})
	assert.Zero(t, Picture{}.UnitCm())
	assert.InDelta(t, 0.5, Picture{Scale: floor, ScaleCm: 50}.UnitCm(), 1e-9)
}

// Without hips or toes nobody can tell up or forward.
func TestAxesThatCantBeToldSaySo(t *testing.T) {
	at := func(x, y, z float64) []Raw { return []Raw{{[3]float64{x, y, z}, true}} }
	_, err := Orient(map[Lane][]Raw{{"left", Heel}: at(0, 0, 0)})
	require.ErrorContains(t, err, "hip and heel")
	_, err = Orient(map[Lane][]Raw{{"left", Heel}: at(0, 0, 0), {"left", Hip}: at(0, 0, 900)})
	require.ErrorContains(t, err, "heel and toe")
	got, err := Orient(map[Lane][]Raw{{"left", Heel}: at(0, 0, 0), {"left", Hip}: at(0, 0, 900), {"left", Toe}: at(0, -200, 5), {"right", Hip}: at(-150, 0, 900)})
	require.NoError(t, err)
	assert.InDelta(t, 200, got[Lane{"left", Toe}][0].X, 1e-9, "forward is where the toes point")
	assert.InDelta(t, 900, got[Lane{"left", Hip}][0].Y, 1e-9)
	assert.InDelta(t, 150, got[Lane{"right", Hip}][0].Z, 1e-9, "z up and facing −y: the right is at −x")
}
