package e2e

import (
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/internal/filmed"
)

// readsBars reads the number that the picture on show carries as bars.
const readsBars = `(bars) => { const v = [...document.querySelectorAll('video')].find(x => x.getAttribute('aria-hidden') !== 'true'), c = document.createElement('canvas');
	c.width = v.videoWidth; c.height = v.videoHeight; const g = c.getContext('2d', {willReadFrequently: true}); g.drawImage(v, 0, 0);
	let n = 0; for (let i = 0; i < bars; i++) if (g.getImageData(Math.floor((i + 0.5) * c.width / bars), c.height / 2, 1, 1).data[0] > 127) n |= 1 << i; return n }`

// The frame on show is the frame that is named, however the clip was written: every number
// is held against what ffmpeg decodes.
func TestTheFrameShownIsTheFrameNamed(t *testing.T) {
	p := openIn(t, browser, serve(t, true).URL, 1280, 900, 10*time.Minute)
	p.signIn(demo.Email)
	dir := t.TempDir()
	list := screeningPath("Dario")(p) + "/clips"
	for _, k := range filmed.Kinds {
		if !k.Hard && os.Getenv("NOTCHBACK_WHOLE") == "" {
			continue // make faults looks at all of them
		}
		path, err := filmed.Write(t.Context(), dir, k)
		require.NoError(t, err)
		want, err := filmed.Numbers(t.Context(), path)
		require.NoError(t, err)
		p.goTo(list)
		p.MustElement("input[type=file]").MustSetFiles(path)
		p.MustElementR("a", "^"+k.File+"$").MustClick()
		p.MustWait(`() => document.querySelector('video')?.readyState >= 2 && !!document.querySelector('[data-shown]')`)
		p.sees(fmt.Sprintf("frame 1 of %d", len(want)))
		p.MustEval(`() => document.activeElement?.blur()`)
		wrong := 0
		for i := range want {
			if i > 0 {
				p.press(input.ArrowRight)
			}
			p.sees(fmt.Sprintf("frame %d of %d", i+1, len(want)))
			p.MustWait(`() => { const v = [...document.querySelectorAll('video')].find(x => x.getAttribute('aria-hidden') !== 'true'); return !v.seeking && v.readyState >= 2 && document.querySelector('[data-shown]').dataset.shown === document.querySelector('[data-second]').dataset.second }`)
			p.frames(2)
			if got := p.MustEval(readsBars, filmed.Bars).Int(); got != want[i] {
				wrong++
				t.Logf("%s: frame %d is %d, shows %d (%s)", k.Name, i, want[i], got, p.MustElement("[role=status]").MustText())
			}
		}
		t.Logf("%s: %d frames, %d wrong", k.Name, len(want), wrong)
		assert.Zero(t, wrong, "%s: frames that show another number", k.Name)
		assert.NotContains(t, p.MustElement("main").MustText(), "this browser shows frame", k.Name)
	}
}
