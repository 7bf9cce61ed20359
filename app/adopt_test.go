package app_test

import (
	"encoding/json"
	"testing"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/store"

	"github.com/jackc/pgx/v5/pgxpool"
)

// asBefore turns the database into what the edition before the course left: its
// tables, its decisions.
func (r *rig) asBefore(change ...string) {
	r.t.Helper()
	pool, err := pgxpool.New(ctx, r.owner)
	require.NoError(r.t, err)
	defer pool.Close()
	db := stdlib.OpenDBFromPool(pool)
	defer func() { require.NoError(r.t, db.Close()) }()
	p, err := goose.NewProvider(goose.DialectPostgres, db, store.Migrations())
	require.NoError(r.t, err)
	_, err = p.DownTo(ctx, 8)
	require.NoError(r.t, err)
	for _, sql := range append([]string{`DELETE FROM practice_engine`, `UPDATE decisions SET engine = 3`}, change...) {
		_, err = pool.Exec(ctx, sql)
		require.NoError(r.t, err, sql)
	}
	_, err = p.Up(ctx)
	require.NoError(r.t, err)
	r.store.Pool().Reset()
}

// Decisions of an older edition keep their pegs; what it stopped comes back by the
// same way; nothing is written by looking.
func TestABlockOfAnOlderEditionIsTakenOver(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 2)
	for d := start + 1; d <= start+3; d++ {
		r.morning(d, 3)
	}
	require.True(t, r.calf().Pegs[0].Stopped)
	before := r.calf().Pegs
	r.asBefore()
	r.refresh()
	assert.Equal(t, before, r.calf().Pegs)
	assert.True(t, r.block.NewEngine, "somebody should look first")
	st, err := r.a.Engine(ctx, r.act)
	require.NoError(t, err)
	assert.Equal(t, 3, st.Accepted)
	for d := start + 4; d <= start+6; d++ {
		r.morning(d, 1)
	}
	d := r.latest(body.Left)
	require.True(t, d.Decision.Resume, "%s", d.Sentence)
	assert.Equal(t, 5, d.Decision.To, "two under where the peg stood")
	r.block, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.NoError(t, err)
	assert.Equal(t, 5, r.calf().Pegs[0].Notch)
	r.morning(start+7, 1)
	assert.Equal(t, 5, r.calf().Pegs[0].Notch, "an accepted way back stays")
}

// A step that an older edition proposed can be accepted; one it would not propose
// any more is shown as a difference and stays as it is until something is known.
func TestWhatAnOlderEditionProposedStands(t *testing.T) {
	r := newRig(t, 21)
	for _, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 2, 2)
		r.morning(on+1, 1)
	}
	d := r.latest(body.Left)
	require.Equal(t, "proposed", d.State)
	was := d.Decision
	was.Verdict, was.To, was.Row = adjust.Hold, was.From, 11
	raw, err := json.Marshal(was)
	require.NoError(t, err)
	other := r.latest(body.Right)
	r.asBefore(`UPDATE decisions SET verdict = 'hold', row = 11, to_notch = from_notch, state = 'applied', decision = '` + string(raw) + `' WHERE id = '` + other.ID + `'`)
	r.refresh()
	st, err := r.a.Engine(ctx, r.act)
	require.NoError(t, err)
	require.Len(t, st.Differences, 1)
	assert.Equal(t, body.Right, st.Differences[0].Side)
	d = r.latest(body.Left)
	assert.Equal(t, "proposed", d.State)
	r.block, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.NoError(t, err)
	assert.Equal(t, []int{9, 8}, []int{r.calf().Pegs[0].Notch, r.calf().Pegs[1].Notch})
}
