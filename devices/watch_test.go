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

// An outing is laid on a loop as long as it says, point after point, at its pace.
func TestALoopIsAsLongAsTheOuting(t *testing.T) {
	o := Outing{Start: time.Date(2026, 5, 3, 7, 0, 0, 0, time.UTC), Metres: 8000, PaceSecond: 345, Cadence: 168}
	assert.Equal(t, 2760, o.Seconds())
	points := o.samples(4)
	require.Greater(t, len(points), 500)
	assert.Equal(t, points, o.samples(4), "the same seed, the same loop")
	assert.NotEqual(t, points, o.samples(5))
	way, steps := 0.0, 0.0
	for i, p := range points {
		steps += 2 * p.cadence
		if i == 0 {
			continue
		}
		was := points[i-1]
		require.False(t, p.at.Before(was.at), "point %d", i)
		require.GreaterOrEqual(t, p.metres, was.metres, "point %d", i)
		north := (p.lat - was.lat) * metresPerDegree
		east := (p.lon - was.lon) * metresPerDegree * math.Cos(islandLat*math.Pi/180)
		way += math.Hypot(north, east)
	}
	assert.InDelta(t, o.Metres, way, 0.001*o.Metres, "over the ground")
	assert.InDelta(t, o.Metres, points[len(points)-1].metres, 1e-6)
	assert.InDelta(t, o.Cadence, steps/float64(len(points)), 0.5, "both feet")
	assert.WithinDuration(t, o.Start.Add(2760*time.Second), points[len(points)-1].at, time.Second)
}

// A week has its long run on Sunday, and nobody runs less than a kilometre and a half.
func TestTheWeekHasItsLongRun(t *testing.T) {
	until := time.Date(2026, 5, 31, 20, 0, 0, 0, time.UTC)
	long, other := 0.0, 0.0
	for _, o := range Outings(until, 20, 50, 3) {
		switch o.Start.Weekday() {
		case time.Sunday:
			long += o.Metres / 20
		case time.Tuesday, time.Thursday, time.Saturday:
			other += o.Metres / 60
		default:
			t.Fatalf("a run on %s", o.Start.Weekday())
		}
		assert.Equal(t, 7, o.Start.Hour())
	}
	assert.InDelta(t, 19000, long, 1500)
	assert.InDelta(t, 10333, other, 800)
	for _, o := range Outings(until, 2, 1, 3) {
		assert.InDelta(t, 1500, o.Metres, 1e-9)
	}
	assert.Empty(t, Outings(until, 0, 50, 3))
}
