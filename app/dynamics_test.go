package app_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/running"
	"notchback/devices"
)

// What a watch measures of the feet is shown over the runs, device by device, with the
// change that is more than noise.
func TestDynamicsAreShownByDevice(t *testing.T) {
	r := newRig(t, 35)
	r.at(start+60, 12)
	for i := range 14 {
		o := devices.Outing{Start: r.clock.AddDate(0, 0, -3*(14-i)).Truncate(time.Second), Metres: 8000, PaceSecond: 350, Cadence: 167, Contact: 250 + float64(i%2)*3}
		if i >= 8 {
			o.Contact -= 15
		}
		b, err := o.FIT(uint64(i))
		require.NoError(t, err)
		r.takeIn(running.Bringing{Name: "x.fit", Content: b})
	}
	other := devices.Outing{Start: r.clock.AddDate(0, 0, -1).Truncate(time.Second), Metres: 8000, PaceSecond: 350, Cadence: 167}
	r.takeIn(running.Bringing{Name: "y.gpx", Content: dialects(other)["typed.gpx"].Data})
	list, err := r.a.Dynamics(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	names := map[string]running.DynamicsView{}
	for _, v := range list {
		names[v.Name] = v
	}
	require.Contains(t, names, "Time on the ground")
	v := names["Time on the ground"]
	assert.Len(t, v.Readings, 14)
	require.NotNil(t, v.Trend)
	assert.True(t, v.Trend.Real)
	assert.Contains(t, v.Words, "15 ms less")
	assert.Contains(t, names["Cadence"].Words, "No change")
	assert.Equal(t, "stand-in watch", v.Device)
}
