package demo_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/store"
	"notchback/store/storetest"
)

func TestMain(m *testing.M) {
	code := m.Run()
	storetest.Cleanup()
	os.Exit(code)
}

// breaking ends a context in the middle of things.
type breaking struct {
	cancel context.CancelFunc
	seen   int
}

func (b *breaking) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	if b.seen++; b.seen == 2000 {
		b.cancel()
	}
	return ctx
}

func (*breaking) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// A load that breaks off leaves nothing, so that half a demo is never taken for one.
func TestALoadThatBreaksOffLeavesNothing(t *testing.T) {
	u := storetest.Fresh(t)
	ctx, cancel := context.WithCancel(context.Background())
	config, err := pgxpool.ParseConfig(u.App)
	require.NoError(t, err)
	config.ConnConfig.Tracer = &breaking{cancel: cancel}
	s, err := store.OpenWith(context.Background(), config)
	require.NoError(t, err)
	defer s.Close()
	owner, err := store.Open(context.Background(), u.Owner)
	require.NoError(t, err)
	defer owner.Close()
	require.Error(t, demo.Load(ctx, s, time.Now(), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1})))
	empty, err := s.Empty(context.Background())
	require.NoError(t, err)
	assert.True(t, empty)
	var n int
	require.NoError(t, owner.Pool().QueryRow(context.Background(), `SELECT count(*) FROM runners`).Scan(&n))
	assert.Zero(t, n)
}
