package stats

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestShroutFleissWorkedTable(t *testing.T) {
	// Shrout & Fleiss 1979 (from memory): six subjects, four judges; ICC(1,1) .17, ICC(2,1) .29, ICC(3,1) .71.
	icc, ok := IntraclassCorrelation([][]float64{{9, 2, 5, 8}, {6, 1, 3, 2}, {8, 4, 6, 8}, {7, 1, 2, 6}, {10, 5, 6, 9}, {6, 2, 4, 7}})
	require.True(t, ok)
	assert.InDelta(t, 0.17, icc.OneOne, 0.005)
	assert.InDelta(t, 0.29, icc.TwoOne, 0.005)
	assert.InDelta(t, 0.71, icc.ThreeOne, 0.005)
	_, ok = IntraclassCorrelation([][]float64{{1, 2}, {3}})
	assert.False(t, ok)
	_, ok = IntraclassCorrelation([][]float64{{1, 2}})
	assert.False(t, ok)
}

// The figures below were computed with R 4.2.2: prop.test(correct = FALSE), and
// po and pe from table().
func TestAgainstR(t *testing.T) {
	for _, k := range []struct {
		count, n int
		lo, hi   float64
	}{{6, 40, 0.07061187717, 0.29072324366}, {4, 40, 0.03957952868, 0.23051775228}, {0, 40, 0, 0.0876216012}} {
		lo, hi := Wilson(k.count, k.n)
		assert.InDelta(t, k.lo, lo, 1e-9)
		assert.InDelta(t, k.hi, hi, 1e-9)
	}
	icc, _ := IntraclassCorrelation([][]float64{{9, 2, 5, 8}, {6, 1, 3, 2}, {8, 4, 6, 8}, {7, 1, 2, 6}, {10, 5, 6, 9}, {6, 2, 4, 7}})
	assert.InDelta(t, 0.1657417684, icc.OneOne, 1e-9)
	assert.InDelta(t, 0.2897637795, icc.TwoOne, 1e-9)
	assert.InDelta(t, 0.7148407148, icc.ThreeOne, 1e-9)
	kappa, ok := Kappa([]int{0, 0, 1, 1, 2, 2, 2, 1, 0, 2}, []int{0, 1, 1, 1, 2, 2, 1, 1, 0, 2})
	require.True(t, ok)
	assert.InDelta(t, 0.7014925373, kappa, 1e-9)
	_, ok = Kappa([]int{1, 1}, []int{1, 1})
	assert.False(t, ok, "chance alone agrees")
	assert.InDelta(t, 3.182446305, TQuantile(0.975, 3), 1e-8)
	// The median of all pairwise slopes, by combn() and median().
	slope, ok := TheilSen([]float64{0, 1, 2, 4, 7, 8, 11, 13, 14, 20}, []float64{3, 4, 3, 5, 4, 6, 5, 5, 7, 6})
	require.True(t, ok)
	assert.InDelta(t, 0.166666666667, slope, 1e-11)
	slope, ok = TheilSen([]float64{1, 1, 2, 3, 5, 8}, []float64{2.5, 3.1, 2.9, 7, 4.2, 1})
	require.True(t, ok, "two readings at one time")
	assert.InDelta(t, 0.0375, slope, 1e-11)
	_, ok = TheilSen([]float64{3, 3}, []float64{1, 2})
	assert.False(t, ok, "no two times")
}
