package devices

import (
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/formats"
)

// What the stand-in drops is read back as what it was, kind by kind.
func TestTheFolderIsReadBack(t *testing.T) {
	until := time.Date(2026, 5, 31, 20, 0, 0, 0, time.UTC)
	list := Outings(until, 3, 40, 7)
	assert.Len(t, list, 12, "four a week")
	assert.Equal(t, list, Outings(until, 3, 40, 7), "the same seed, the same runs")
	dir := filepath.Join(t.TempDir(), "watch")
	names, err := Drop(dir, list)
	require.NoError(t, err)
	require.Len(t, names, len(list))
	kinds := map[string]bool{}
	total := 0.0
	for i, n := range names {
		kinds[filepath.Ext(n)] = true
		b, err := os.ReadFile(filepath.Join(dir, n))
		require.NoError(t, err)
		got, err := formats.ReadRuns(b, until)
		require.NoError(t, err, n)
		require.Len(t, got, 1, n)
		assert.WithinDuration(t, list[i].Start, got[0].Start, time.Second, n)
		assert.InDelta(t, list[i].Metres, float64(got[0].Metres), 0.01*list[i].Metres, n)
		assert.InDelta(t, list[i].Seconds(), got[0].Seconds, 0.01*float64(list[i].Seconds())+2, n)
		total += list[i].Metres
	}
	assert.Len(t, kinds, 3)
	assert.Less(t, math.Abs(total/3-40000), 8000.0, "about the kilometres asked for")
	for i := 1; i < len(list); i++ {
		assert.True(t, list[i].Start.After(list[i-1].Start.Add(time.Duration(list[i-1].Seconds())*time.Second)), "one after the other")
	}
	_, err = Drop(filepath.Join(dir, names[0]), list)
	assert.Error(t, err, "a file is no folder")
}
