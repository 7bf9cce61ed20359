package app_test

import (
	"context"
	"regexp"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/screening"
)

// statements counts what the database is asked, by table.
type statements struct {
	mu     sync.Mutex
	tables map[string]int
}

var tableNamed = regexp.MustCompile(`(?i)\b(?:FROM|JOIN|INTO|UPDATE)\s+([a-z_]+)\b`)

func (s *statements) note(sql string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.tables == nil {
		return
	}
	seen := map[string]bool{}
	for _, m := range tableNamed.FindAllStringSubmatch(sql, -1) {
		if !seen[m[1]] {
			seen[m[1]] = true
			s.tables[m[1]]++
		}
	}
}

func (s *statements) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	s.note(q.SQL)
	return ctx
}

func (s *statements) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

func (s *statements) TraceBatchStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceBatchStartData) context.Context {
	return ctx
}

func (s *statements) TraceBatchQuery(_ context.Context, _ *pgx.Conn, q pgx.TraceBatchQueryData) {
	s.note(q.SQL)
}

func (s *statements) TraceBatchEnd(context.Context, *pgx.Conn, pgx.TraceBatchEndData) {}

// during counts the statements of a piece of work.
func (s *statements) during(do func()) map[string]int {
	s.mu.Lock()
	s.tables = map[string]int{}
	s.mu.Unlock()
	do()
	s.mu.Lock()
	defer s.mu.Unlock()
	out := s.tables
	s.tables = nil
	return out
}

// A typed session of the whole block reads and writes each table at most three
// times, whatever it decides.
func TestATypedSessionAsksEachTableAtMostThreeTimes(t *testing.T) {
	r := newRig(t, 21)
	for _, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.morning(on, 1)
		in := daily.SessionInput{On: on}
		for _, p := range r.block.Prescriptions {
			sides := body.Sides[:]
			if p.Together {
				sides = []body.Side{body.Both}
			}
			for _, side := range sides {
				in.Items = append(in.Items, daily.ItemInput{PrescriptionID: p.ID, Side: side, Pain: ptr(6), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3)})
			}
		}
		r.at(on, 18)
		var err error
		asked := r.asked.during(func() { r.block, err = r.a.LogSession(ctx, r.act, "", r.block.ID, in) })
		require.NoError(t, err)
		assert.NotZero(t, asked["decisions"])
		for table, n := range asked {
			assert.LessOrEqual(t, n, 3, "%s on %s", table, on)
		}
	}
}

// A typed trial reads its runner's record once; only the screening it is of is read
// again.
func TestATypedTrialLoadsTheRecordOnce(t *testing.T) {
	r := newRig(t, 21)
	on := r.a.Today(r.act)
	s, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
	require.NoError(t, err)
	asked := r.asked.during(func() {
		s, err = r.a.PutTrial(ctx, r.act, s.ID, screening.KneeToWall, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: ptr(9.5), Resolution: ptr(0.1)}}, "")
	})
	require.NoError(t, err)
	require.Len(t, s.Trials, 1)
	require.Equal(t, on, s.On)
	for _, table := range []string{"runners", "runs", "day_notes", "clearances", "eye_pairs"} {
		assert.Equal(t, 1, asked[table], "%s: %v", table, asked)
	}
	for table, n := range asked {
		assert.LessOrEqual(t, n, 3, table)
	}
}
