package measure

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCadenceFromCounts(t *testing.T) {
	// Worked by hand: 41, 42, 41, 43 in 15 s.
	c, err := CadenceFromCounts([]int{41, 42, 41, 43}, 15)
	require.NoError(t, err)
	assert.Equal(t, []float64{164, 168, 164, 172}, c.PerCountSpm)
	assert.InDelta(t, 167.0, c.MeanSpm, 1e-9)
	assert.InDelta(t, 3.83, c.SD, 0.005)
	assert.InDelta(t, 6.1, c.MarginSpm, 0.05)
	assert.Equal(t, 4.0, c.ResolutionSpm)
	assert.False(t, c.Sure, "low confidence, count again")

	// Three equal counts still carry the resolution: ± 2.3.
	c, err = CadenceFromCounts([]int{41, 41, 41}, 15)
	require.NoError(t, err)
	assert.InDelta(t, 2.3, c.MarginSpm, 0.05)
	assert.True(t, c.Sure)

	// One count alone is ± 4 spm.
	c, err = CadenceFromCounts([]int{21}, 15)
	require.NoError(t, err)
	assert.Equal(t, 4.0, c.MarginSpm)
	assert.True(t, c.OneFoot)

	for _, bad := range []struct {
		n []int
		w float64
	}{{nil, 15}, {[]int{0}, 15}, {[]int{601}, 15}, {[]int{40}, 4}, {[]int{40}, 121}} {
		_, err := CadenceFromCounts(bad.n, bad.w)
		assert.Error(t, err)
	}
}

func TestToeFromBlock(t *testing.T) {
	// Worked by hand: underside asin, floor atan.
	for _, c := range []struct {
		h, l  float64
		floor bool
		want  float64
	}{{2.5, 5, false, 30.0}, {3.2, 5.5, false, 35.6}, {2.5, 5, true, 26.6}} {
		got, err := ToeFromBlock(c.h, c.l, c.floor)
		require.NoError(t, err)
		assert.InDelta(t, c.want, got, 0.05)
	}
	_, err := ToeFromBlock(5, 5, false)
	assert.ErrorContains(t, err, "5 cm")
	_, err = ToeFromBlock(0, 5, false)
	assert.Error(t, err)
	_, err = ToeFromBlock(6, 5, true)
	assert.NoError(t, err, "along the floor a steep toe is possible")
}

func TestLungeSlope(t *testing.T) {
	// Bennell 1998 (from memory): about 3.6° per centimetre.
	assert.InDelta(t, 36.0, LungeDegrees(10), 1e-9)
}

func TestCadenceFromTaps(t *testing.T) {
	var taps []float64
	at := 0.0
	for i := range 40 {
		if i != 20 { // one missed tap
			taps = append(taps, at)
		}
		at += 60.0 / 172
	}
	taps[0] -= 0.2 // a late start is dropped
	c, err := CadenceFromTaps(taps)
	require.NoError(t, err)
	assert.InDelta(t, 172, c.MeanSpm, 0.01)
	assert.Equal(t, 1, c.LeftOut)
	assert.True(t, c.Sure)
	_, err = CadenceFromTaps(taps[:7])
	assert.Error(t, err)
	_, err = CadenceFromTaps([]float64{0, 1, 2, 3, 2, 5, 6, 7, 8})
	assert.ErrorContains(t, err, "rise")
}
