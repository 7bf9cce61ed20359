package e2e

import (
	"os"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// Figures for make bench, no limits: how soon a runner's page and the block show their
// largest part on a phone with a slow line (1.6 Mbit/s, 150 ms) and a processor four times
// slower, nothing cached; against the page for signing in, in the same run.
func TestPagePaint(t *testing.T) {
	if os.Getenv("NOTCHBACK_RATIOS") == "" {
		t.Skip("figures; make bench prints them")
	}
	s := serve(t, true)
	p := s.open(t, 390, 844)
	p.allow("")
	slow := func(p *tab) {
		require.NoError(t, proto.NetworkSetCacheDisabled{CacheDisabled: true}.Call(p))
		require.NoError(t, proto.NetworkEmulateNetworkConditions{Latency: 150, DownloadThroughput: 1.6e6 / 8, UploadThroughput: 750e3 / 8}.Call(p))
		require.NoError(t, proto.EmulationSetCPUThrottlingRate{Rate: 4}.Call(p))
		p.MustEvalOnNewDocument(`window.painted = 0; new PerformanceObserver(l => { for (const e of l.getEntries()) painted = e.startTime }).observe({ type: 'largest-contentful-paint', buffered: true })`)
	}
	painted := func(p *tab, path string) float64 {
		best := 0.0
		for range 3 {
			p.MustNavigate(s.URL + path)
			time.Sleep(7 * time.Second) // what comes later would be a larger part still
			if ms := p.MustEval(`() => painted`).Num(); best == 0 || ms < best {
				best = ms
			}
		}
		return best
	}
	door := s.open(t, 390, 844)
	door.allow("")
	slow(door)
	first := painted(door, "/")
	p.signIn(demo.Email)
	paths := map[string]string{"runner": runnerPath("Isolde", "")(p), "block": runnerPath("Isolde", "/block")(p), "bench": "/"}
	slow(p)
	t.Logf("signing in: %.0f ms", first)
	for _, name := range []string{"bench", "runner", "block"} {
		ms := painted(p, paths[name])
		t.Logf("%s: %.0f ms, %.2f times signing in", name, ms, ms/first)
	}
}
