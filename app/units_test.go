package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/account"
	"notchback/core/units"
)

// The practice says what distances and weights are read in, a person otherwise, and a
// phone follows the practice.
func TestUnitsAreThePracticesOrAPersons(t *testing.T) {
	r := newRig(t, 24)
	assert.Equal(t, units.Metric, r.act.Units())
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	require.Equal(t, "metric", p.Units)
	p.Units = "nautical"
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.ErrorContains(t, err, "not units")
	p.Units = "imperial"
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	again := func() units.System {
		act, err := r.a.Actor(ctx, r.act.Practice, r.act.User.ID)
		require.NoError(t, err)
		return act.Units()
	}
	assert.Equal(t, units.Imperial, again())
	phone, _ := r.phone()
	plan, err := r.a.PlanOf(ctx, phone)
	require.NoError(t, err)
	assert.Equal(t, "imperial", plan.Units)

	_, err = r.a.PutProfile(ctx, r.act, account.Profile{Name: "N", Email: r.act.User.Email, Units: "stones"})
	require.ErrorContains(t, err, "not units")
	own, err := r.a.PutProfile(ctx, r.act, account.Profile{Name: "N", Email: r.act.User.Email, Units: "metric"})
	require.NoError(t, err)
	assert.Equal(t, "metric", own.Units)
	assert.Equal(t, units.Metric, again())
}
