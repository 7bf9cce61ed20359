package stats

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestSmallSampleStatistics(t *testing.T) {
	// Student's t table (any textbook): t(0.975, 3) = 3.182, t(0.975, 2) = 4.303.
	assert.InDelta(t, 3.182, TQuantile(0.975, 3), 0.0005)
	assert.InDelta(t, 4.303, TQuantile(0.975, 2), 0.0005)
	// Konor 2012 (from memory): tape SEM 0.4–0.6 cm, MDC 1.1–1.5 cm; 1.66 is computed from 0.6 (house).
	assert.InDelta(t, 1.663, MDC95(0.6), 0.0005)
	assert.InDelta(t, 1.109, MDC95(0.4), 0.0005)
	// Konor 2012 (from memory): inclinometer SEM 1.4°, MDC 3.8°.
	assert.InDelta(t, 3.88, MDC95(1.4), 0.005)
	// Weir 2005 (from memory): SEM = SD √(1 − ICC).
	assert.InDelta(t, 2.0, SEMFromReliability(4, 0.75), 1e-12)
	assert.InDelta(t, 3.83, SD([]float64{164, 168, 164, 172}), 0.005)
	m, ok := TMargin([]float64{164, 168, 164, 172})
	assert.True(t, ok)
	assert.InDelta(t, 6.09, m, 0.01)
	_, ok = TMargin([]float64{1})
	assert.False(t, ok)
	sem, ok := SEMFromPairs([]float64{10, 11, 9, 12}, []float64{11, 11, 8, 12})
	assert.True(t, ok)
	assert.InDelta(t, math.Sqrt(2.0/3)/math.Sqrt2, sem, 1e-12)
}

func TestMedianIsBetweenTheExtremesAndIgnoresOrder(t *testing.T) {
	_, ok := Median(nil)
	assert.False(t, ok)
	rapid.Check(t, func(t *rapid.T) {
		x := rapid.SliceOfN(rapid.Float64Range(0, 10), 1, 20).Draw(t, "x")
		m, _ := Median(x)
		below, above := 0, 0
		for _, v := range x {
			if v < m {
				below++
			}
			if v > m {
				above++
			}
		}
		assert.LessOrEqual(t, below, len(x)/2)
		assert.LessOrEqual(t, above, len(x)/2)
		rev := make([]float64, len(x))
		for i, v := range x {
			rev[len(x)-1-i] = v
		}
		m2, _ := Median(rev)
		assert.Equal(t, m, m2)
	})
}
