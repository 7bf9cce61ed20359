package web_test

import (
	"context"
	"encoding/hex"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	collector "go.opentelemetry.io/proto/otlp/collector/trace/v1"
	trace "go.opentelemetry.io/proto/otlp/trace/v1"
	"google.golang.org/protobuf/proto"

	"notchback/app/demo"
	"notchback/app/house"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/web"
)

// A collector hears of operations, jobs and their statements as the standard has it, read
// here by its own messages; of nobody's name, address or words, not even in an error.
func TestACollectorHearsWhatTakesTimeAndOfNobody(t *testing.T) {
	var mu sync.Mutex
	var raw []byte
	spans := map[string][]*trace.Span{}
	hears := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b, err := io.ReadAll(r.Body)
		if !assert.NoError(t, err) || !assert.Equal(t, "/v1/traces", r.URL.Path) {
			return
		}
		var in collector.ExportTraceServiceRequest
		if !assert.NoError(t, proto.Unmarshal(b, &in)) {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		raw = append(raw, b...)
		for _, rs := range in.ResourceSpans {
			for _, ss := range rs.ScopeSpans {
				for _, s := range ss.Spans {
					spans[s.Name] = append(spans[s.Name], s)
				}
			}
		}
	}))
	t.Cleanup(hears.Close)
	ctx := context.Background()
	_, err := web.NewTracer(ctx, "collector", slog.New(slog.DiscardHandler))
	require.ErrorContains(t, err, "expected an address")
	x, err := web.NewTracer(ctx, hears.URL, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	s, err := store.OpenTold(ctx, demotest.Seeded(t).App, x.Database())
	require.NoError(t, err)
	t.Cleanup(s.Close)
	a, err := house.New(s, demotest.Cheap)
	require.NoError(t, err)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler), Tracer: x})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	c := signedIn(t, srv, demo.Email)
	st, _ := c.do("GET", "/api/runners?search=Isolde", nil)
	require.Equal(t, 200, st)
	st, _ = c.do("GET", "/api/runners/00000000-0000-4000-8000-000000000000", nil)
	require.Equal(t, 404, st)
	traced, end := x.Job(ctx, "nightly review")
	_, err = s.Pool().Exec(traced, `SELECT 'Isolde of the island'::date`)
	require.Error(t, err)
	_, err = s.Pool().Exec(traced, `SELECT ($1::text)::date`, "Isolde again")
	require.ErrorContains(t, err, "Isolde again")
	end(errors.New("Isolde failed"))
	x.Close()

	mu.Lock()
	defer mu.Unlock()
	require.Len(t, spans["signIn"], 1)
	require.Len(t, spans["listRunners"], 1)
	require.Len(t, spans["getRunner"], 1)
	require.Len(t, spans["nightly review"], 1)
	assert.Equal(t, trace.Status_STATUS_CODE_ERROR, spans["nightly review"][0].Status.Code)
	list := spans["listRunners"][0]
	assert.Equal(t, trace.Span_SPAN_KIND_SERVER, list.Kind)
	under := 0
	for _, all := range spans {
		for _, s := range all {
			if hex.EncodeToString(s.TraceId) == hex.EncodeToString(list.TraceId) && s != list {
				under++
				assert.LessOrEqual(t, s.StartTimeUnixNano, s.EndTimeUnixNano)
			}
			assert.Empty(t, s.Events)
			assert.Empty(t, s.Status.GetMessage())
		}
	}
	assert.Greater(t, under, 2, "its statements")
	text := string(raw)
	assert.Contains(t, text, "FROM runners r")
	for _, not := range []string{"Isolde again", demo.Email, demo.Password, strings.TrimPrefix(srv.URL, "http://"), "search="} {
		assert.NotContains(t, text, not)
	}
}

// A server without a collector, or with one that is away, works as ever.
func TestACollectorThatIsAwayHoldsNothingUp(t *testing.T) {
	x, err := web.NewTracer(context.Background(), "http://127.0.0.1:1", slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	for _, x := range []*web.Tracer{nil, x} {
		ctx, end := x.Job(context.Background(), "a job")
		require.NotNil(t, ctx)
		end(nil)
		x.Close()
	}
	assert.Nil(t, (*web.Tracer)(nil).Database())
}
