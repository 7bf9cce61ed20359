package day

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWeeksAndAges(t *testing.T) {
	d := Make(2026, time.November, 24) // a Tuesday
	assert.Equal(t, "2026-11-23", d.Monday().String())
	assert.Equal(t, "2026-11-23", Make(2026, time.November, 29).Monday().String(), "Sunday belongs to the week before")
	assert.Equal(t, 39, Age(Make(1986, time.November, 25), d))
	assert.Equal(t, 40, Age(Make(1986, time.November, 24), d))
	assert.Equal(t, "1969-12-31", Date(-1).String())
}

func TestZoneDecidesTheDate(t *testing.T) {
	z, err := time.LoadLocation("Pacific/Auckland")
	require.NoError(t, err)
	assert.Equal(t, "2026-05-05", Of(time.Date(2026, 5, 4, 20, 0, 0, 0, time.UTC), z).String())
}

func TestTextRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := Date(rapid.Int32Range(-25567, 84005).Draw(t, "days"))
		b, err := json.Marshal(d)
		require.NoError(t, err)
		var back Date
		require.NoError(t, json.Unmarshal(b, &back))
		assert.Equal(t, d, back)
		assert.Equal(t, d, fromUTC(d.Time()))
	})
	for _, bad := range []string{"", "4 May", "2026-02-30", "2026-5-4", "0001-01-01", "1899-12-31", "2200-01-01"} {
		_, err := Parse(bad)
		assert.Error(t, err, bad)
	}
}

// In the Azores the clocks skip the hour after midnight on the last Sunday of March:
// a time of day never leaves its date.
func TestATimeOfDayStaysOnItsDate(t *testing.T) {
	azores, err := time.LoadLocation("Atlantic/Azores")
	require.NoError(t, err)
	spring := Make(2026, time.March, 29)
	for minute := range 24 * 60 {
		at := spring.At(minute/60, minute%60, 0, azores)
		require.Equal(t, spring, Of(at, azores), "%02d:%02d", minute/60, minute%60)
	}
	assert.Equal(t, "2026-03-29T01:00:00Z", spring.At(0, 30, 0, azores).UTC().Format(time.RFC3339), "the moment the clocks skip it")
	assert.Equal(t, "2026-03-29T01:30:00Z", spring.At(1, 30, 0, azores).UTC().Format(time.RFC3339))
	autumn := Make(2026, time.October, 25)
	assert.Equal(t, "2026-10-25T00:30:00Z", autumn.At(0, 30, 0, azores).UTC().Format(time.RFC3339), "the first of the two")
	assert.Equal(t, "2026-10-25T03:00:00Z", autumn.At(2, 0, 0, azores).UTC().Format(time.RFC3339))
	rapid.Check(t, func(t *rapid.T) {
		z, err := time.LoadLocation(rapid.SampledFrom([]string{"Atlantic/Azores", "Asia/Beirut", "America/Santiago", "Africa/Cairo", "Australia/Lord_Howe", "America/Sao_Paulo", "UTC"}).Draw(t, "zone"))
		require.NoError(t, err)
		d := Date(rapid.Int32Range(10000, 21500).Draw(t, "day"))
		at := d.At(rapid.IntRange(0, 23).Draw(t, "hour"), rapid.IntRange(0, 59).Draw(t, "minute"), 0, z)
		require.Equal(t, d, Of(at, z))
	})
}
