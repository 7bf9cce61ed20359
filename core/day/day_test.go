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
		d := Date(rapid.Int32Range(-30000, 60000).Draw(t, "days"))
		b, err := json.Marshal(d)
		require.NoError(t, err)
		var back Date
		require.NoError(t, json.Unmarshal(b, &back))
		assert.Equal(t, d, back)
		assert.Equal(t, d, fromUTC(d.Time()))
	})
	for _, bad := range []string{"", "4 May", "2026-02-30", "2026-5-4"} {
		_, err := Parse(bad)
		assert.Error(t, err, bad)
	}
}
