package app_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/practice"
	"notchback/app/running"
)

// Stand-ins are offered where the practice wants them, and what they are goes the way of
// any file of a camera or a watch.
func TestStandInsAreOfferedWhereWanted(t *testing.T) {
	r := newRig(t, 24)
	r.at(start+28, 12)
	list, err := r.a.StandIns(ctx, r.act)
	require.NoError(t, err)
	assert.Empty(t, list, "not by themselves")
	_, err = r.a.StandIn(ctx, r.act, "rear")
	require.ErrorIs(t, err, app.ErrNotFound)
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.StandIns = true
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	list, err = r.a.StandIns(ctx, r.act)
	require.NoError(t, err)
	require.Len(t, list, 7)
	assert.True(t, slices.ContainsFunc(list, func(s practice.StandIn) bool { return s.Kind == "clip" && s.File == "rendered rear.webm" }))
	f, err := r.a.StandIn(ctx, r.act, "rear")
	require.NoError(t, err)
	assert.Equal(t, "\x1a\x45\xdf\xa3", string(f.Body[:4]), "a WebM file")
	f, err = r.a.StandIn(ctx, r.act, "runs")
	require.NoError(t, err)
	got, err := r.a.ImportFelt(ctx, r.act, r.runner.ID, f.Name, f.Body, running.Felt{})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, got.Added, 14, "four a week")
	_, err = r.a.StandIn(ctx, r.act, "nothing")
	require.ErrorIs(t, err, app.ErrNotFound)
}
