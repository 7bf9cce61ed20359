package e2e

import (
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/devices/sidecam"
)

// leg is a photo of a shin, taller than wide.
func leg(t *testing.T, dir, name string, shade uint8) string {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, 600, 900))
	for y := 300; y < 800; y++ {
		for x := 0; x < 60; x++ {
			img.SetGray(500-(y-300)/2+x, y, color.Gray{Y: shade})
		}
	}
	path := filepath.Join(dir, name)
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, img))
	require.NoError(t, f.Close())
	return path
}

// mirrored turns a photo round, left for right.
func mirrored(t *testing.T, path string) string {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	was, err := png.Decode(f)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	b := was.Bounds()
	now := image.NewGray(b)
	for y := range b.Dy() {
		for x := range b.Dx() {
			now.Set(b.Dx()-1-x, y, was.At(x, y))
		}
	}
	f, err = os.Create(path)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, now))
	require.NoError(t, f.Close())
	return path
}

// A photo opens on what photos are taken of; its reading goes into the screening, and a
// correction replaces it.
func TestAPhotoIsReadAndItsCorrectionReplacesIt(t *testing.T) {
	p := openIn(t, browser, serve(t, true).URL, 1280, 900, 3*time.Minute)
	p.signIn(demo.Email)
	dir := t.TempDir()
	list := screeningPath("Dario")(p) + "/clips"
	p.goTo(list)
	p.MustElement("input[type=file]").MustSetFiles(leg(t, dir, "knee.png", 200))
	p.MustElementR("a", "^knee.png$").MustClick()
	p.sees("Both points on the front edge of the shin")
	p.MustWait(`() => document.querySelector('svg[aria-label="The picture with its marks"]')?.getBoundingClientRect().height > 100`)
	box := p.MustElement(`svg[aria-label="The picture with its marks"]`).MustShape().Box()
	assert.LessOrEqual(t, box.Height, 900.0, "all of it is in the window")
	assert.Greater(t, box.Height, box.Width)
	p.axe()
	p.clickOn(sidecam.Spot{X: 255, Y: 790})
	p.clickOn(sidecam.Spot{X: 495, Y: 310})
	p.sees("Front edge of the shin from vertical")
	p.MustElementR("button", "^into the screening$").MustClick()
	p.sees("in the screening")
	trials := func() []float64 {
		var out []float64
		for _, x := range p.MustEval(`async id => { const s = await (await fetch('/api' + id)).json(); return s.trials.filter(t => t.test === 'seated-shin').map(t => t.value) }`, list[:len(list)-len("/clips")]).Arr() {
			out = append(out, x.Num())
		}
		return out
	}
	first := trials()
	require.Len(t, first, 1)
	// The last point is in hand: ten px to the left.
	p.MustEval(`() => document.activeElement?.blur()`)
	p.MustElementR("button", "front of the shin, below the kneecap").MustClick()
	for range 3 {
		p.press(input.ArrowLeft)
	}
	for range 20 {
		p.press(input.ArrowLeft)
	}
	p.MustElementR("button", "^replace what was sent$").MustClick()
	p.sees("in the screening")
	second := trials()
	require.Len(t, second, 1, "the wrong one is gone")
	assert.Less(t, second[0], first[0])
	// The next one is taken of a leg that faces left, with the last one laid over it.
	p.goTo(list)
	p.MustElement("input[type=file]").MustSetFiles(mirrored(t, leg(t, dir, "facing.png", 180)))
	p.MustElementR("a", "^facing.png$").MustClick()
	p.MustElementR("label", "^Lay the photo of .* over it, half through$").MustClick()
	p.MustWait(`() => { const i = [...document.querySelectorAll('main img, main svg image')]; return i.length >= 2 && i.every(e => e.tagName !== 'IMG' || e.naturalWidth === 600) }`)
	p.axe()
	p.clickOn(sidecam.Spot{X: 345, Y: 790})
	p.clickOn(sidecam.Spot{X: 105, Y: 310})
	p.MustElementR("button", "^into the screening$").MustClick()
	p.sees("in the screening")
	third := trials()
	require.Len(t, third, 2)
	assert.InDelta(t, first[0], third[1], 0.6, "facing left is not the other sign")
	// The same file under another name is not brought in twice.
	p.goTo(list)
	p.MustElement("input[type=file]").MustSetFiles(leg(t, dir, "copy.png", 200))
	p.sees("is here already, as knee.png")
}
