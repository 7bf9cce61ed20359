package app_test

import (
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/bench"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/running"
	"notchback/core/body"
	"notchback/store"
)

func TestTheUrgentStandFirstOnAllPages(t *testing.T) {
	r := newRig(t, 21)
	for i := range bench.BenchSize + 3 {
		_, err := r.a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: fmt.Sprintf("Anders %03d", i)})
		require.NoError(t, err)
	}
	r.at(start+10, 12)
	r.run(start+9, 5, func(in *running.RunInput) { in.Limping = true })
	first, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, bench.BenchSize+4, first.Total)
	require.Len(t, first.Items, bench.BenchSize)
	assert.Equal(t, r.runner.ID, first.Items[0].ID, "who limps, though by name behind all others")
	second, err := r.a.Bench(ctx, r.act, "", 1)
	require.NoError(t, err)
	assert.Len(t, second.Items, 4)
	seen := map[string]bool{}
	for _, i := range slices.Concat(first.Items, second.Items) {
		seen[i.ID] = true
	}
	assert.Len(t, seen, first.Total, "everybody once")
	beyond, err := r.a.Bench(ctx, r.act, "", 9)
	require.NoError(t, err)
	assert.Empty(t, beyond.Items)
}

// many is a practice of n runners, each with a year of runs and mornings and
// eleven logged weeks of a block.
func many(b *testing.B, n int) *rig {
	b.Helper()
	r := newRig(b, 21)
	today := start + 77
	r.at(today, 12)
	for d := today - 365; d < today; d++ {
		_, err := r.a.PutMorning(ctx, r.act, r.runner.ID, d, 1+body.Pain(d%2))
		require.NoError(b, err)
		if d%7 == 0 || d%7 == 2 || d%7 == 5 {
			r.run(d, 8+float64(d%3), func(in *running.RunInput) { in.Pain = ptr(1); in.Effort = ptr(4) })
		}
	}
	for d := start; d < today; d += 2 {
		in := daily.SessionInput{On: d}
		for _, p := range r.block.Prescriptions {
			for _, side := range body.Sides {
				in.Items = append(in.Items, daily.ItemInput{PrescriptionID: p.ID, Side: side, Pain: ptr(1), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3)})
			}
		}
		r.at(d, 18)
		_, err := r.a.LogSession(ctx, r.act, "", r.block.ID, in)
		require.NoError(b, err)
		r.refresh()
	}
	r.at(today, 12)
	owner, err := pgx.Connect(ctx, r.owner)
	require.NoError(b, err)
	for _, t := range store.BundleTables {
		clone(b, owner, t.Name, n)
	}
	_, err = owner.Exec(ctx, "VACUUM ANALYZE") // as the server does by itself in time
	require.NoError(b, err)
	require.NoError(b, owner.Close(ctx))
	return r
}

// clone repeats every row of a table n-1 times; each repetition has ids of its
// own, made from the old ones, so that rows go on pointing at each other.
func clone(b *testing.B, owner *pgx.Conn, table string, n int) {
	b.Helper()
	rows, err := owner.Query(ctx, `SELECT column_name::text, data_type::text, is_identity = 'YES' OR column_default LIKE 'nextval%'
		FROM information_schema.columns WHERE table_schema = 'public' AND table_name = $1 AND is_generated = 'NEVER'`, table)
	require.NoError(b, err)
	var into, from []string
	var name, kind string
	var counted *bool
	_, err = pgx.ForEachRow(rows, []any{&name, &kind, &counted}, func() error {
		switch {
		case counted != nil && *counted:
			return nil
		case kind == "uuid" && name != "practice_id" && !strings.HasSuffix(name, "_by") && name != "by_user":
			from = append(from, `md5(t.`+name+`::text || g)::uuid`)
		default:
			from = append(from, "t."+name)
		}
		into = append(into, name)
		return nil
	})
	require.NoError(b, err)
	_, err = owner.Exec(ctx, `INSERT INTO `+table+` (`+strings.Join(into, ", ")+`) SELECT `+strings.Join(from, ", ")+
		` FROM generate_series(2, `+strconv.Itoa(n)+`) g CROSS JOIN `+table+` t`)
	require.NoError(b, err, table)
}

// benchRunners is the size of the practice in BenchmarkNightlyReview, 200 where
// NOTCHBACK_BENCH_RUNNERS does not say otherwise.
func benchRunners(b *testing.B) int {
	s := os.Getenv("NOTCHBACK_BENCH_RUNNERS")
	if s == "" {
		return 200
	}
	n, err := strconv.Atoi(s)
	require.NoError(b, err)
	return n
}

// The nightly review against reading the same runners' rows and nothing else.
func BenchmarkNightlyReview(b *testing.B) {
	runners := benchRunners(b)
	r := many(b, runners)
	owner, err := pgx.Connect(ctx, r.owner)
	require.NoError(b, err)
	defer func() { require.NoError(b, owner.Close(ctx)) }()
	all, err := owner.Query(ctx, `SELECT id::text FROM runners ORDER BY id LIMIT 200`)
	require.NoError(b, err)
	ids, err := pgx.CollectRows(all, pgx.RowTo[string])
	require.NoError(b, err)
	read := time.Now()
	rows := 0
	for _, id := range ids {
		require.NoError(b, r.store.In(ctx, r.act.Practice, func(tx *store.Tx) error {
			for _, t := range store.BundleTables {
				got, err := tx.BundleRows(ctx, t, id)
				if err != nil {
					return err
				}
				rows += len(got)
			}
			return nil
		}))
	}
	bare := time.Since(read).Seconds() / float64(len(ids))
	b.ResetTimer()
	for b.Loop() {
		r.clock = r.clock.AddDate(0, 0, 1)
		n, err := r.a.ReviewAll(ctx)
		require.NoError(b, err)
		require.Equal(b, runners, n.Runners)
	}
	each := b.Elapsed().Seconds() / float64(b.N*runners)
	b.ReportMetric(1/each, "runners/s")
	b.ReportMetric(each/bare, "×reading")
	b.ReportMetric(float64(rows)/float64(len(ids)), "rows/runner")
}

// The bench of 500 runners against its own SQL, and with 20 coaches at it.
func BenchmarkBench500(b *testing.B) {
	r := many(b, 500)
	_, err := r.a.ReviewAll(ctx) // every runner has a state to read
	require.NoError(b, err)
	sql := time.Now()
	const looks = 20
	for range looks {
		require.NoError(b, r.store.In(ctx, r.act.Practice, func(tx *store.Tx) error {
			rows, err := tx.Bench(ctx, "", nil, r.clock, r.clock)
			require.Len(b, rows, 500)
			return err
		}))
	}
	bare := time.Since(sql) / looks
	b.ResetTimer()
	for b.Loop() {
		_, err := r.a.Bench(ctx, r.act, "", 0)
		require.NoError(b, err)
	}
	b.StopTimer()
	b.ReportMetric(float64(b.Elapsed())/float64(b.N)/float64(bare), "×SQL")
	var wg sync.WaitGroup
	var mu sync.Mutex
	var took []time.Duration
	for range 20 {
		wg.Go(func() {
			for range 20 {
				at := time.Now()
				_, err := r.a.Bench(ctx, r.act, "", 0)
				assert.NoError(b, err)
				mu.Lock()
				took = append(took, time.Since(at))
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
}
