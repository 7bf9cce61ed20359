package sidecam

import (
	"image/png"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/measure"
)

// What is measured on the exact points is what the figure was made with.
func TestTheFigureIsWhatItSays(t *testing.T) {
	for _, d := range Demos() {
		t.Run(d.ID, func(t *testing.T) {
			truth := d.Runner.Truth(d.Film)
			require.GreaterOrEqual(t, len(truth.Events), 6)
			var steps []measure.Step
			for _, e := range truth.Events {
				off := e.ToeOff
				steps = append(steps, measure.Step{Foot: e.Foot, Contact: e.Contact, ToeOff: &off})
			}
			g, err := measure.ReadGait(steps, 1/d.Film.FPS)
			require.NoError(t, err)
			assert.InDelta(t, d.Runner.Cadence, g.CadenceSpm, 1e-6)
			assert.InDelta(t, d.Runner.Right.Contact, g.ContactOf["right"].Seconds, 1e-9)
			assert.InDelta(t, d.Runner.Left.Contact, g.ContactOf["left"].Seconds, 1e-9)
			for _, e := range truth.Events {
				o := d.Runner.At(d.Runner.phase(d.Film, e.Contact), 0)
				leg, side := o.R, d.Runner.Right
				if e.Foot == "left" {
					leg, side = o.L, d.Runner.Left
				}
				assert.InDelta(t, side.Strike, deg(leg.Foot), 0.01, "%s strike", e.Foot)
				low := math.Min(leg.soleHeel.Y, leg.soleToe.Y)
				assert.InDelta(t, 0, low, 0.004, "the sole touches the ground at contact")
				assert.InDelta(t, side.Reach*d.Runner.Height, leg.Ankle.X-leg.Hip.X, 0.01, "reach")
				assert.InDelta(t, side.Crossing/100, -leg.Ankle.Z*sgn(leg.Hip.Z), 0.002, "crossing")
				// In the flight just before, no foot is on the ground.
				before := d.Runner.At(d.Runner.phase(d.Film, e.Contact-0.02), 0)
				for _, l := range []Leg{before.R, before.L} {
					assert.Greater(t, math.Min(l.soleHeel.Y, l.soleToe.Y), 0.002, "flight before %s", e.Foot)
				}
			}
			low, high := math.Inf(1), math.Inf(-1)
			for i := range 400 {
				y := d.Runner.At(float64(i)/400, 0).Pelvis.Y
				low, high = min(low, y), max(high, y)
			}
			assert.InDelta(t, d.Runner.Bounce, 100*(high-low), 0.01)
		})
	}
}

// Points marked on the picture give back the angles: the camera's own check.
func TestMarkedPointsGiveBackTheTruth(t *testing.T) {
	for _, d := range Demos() {
		if d.Film.View != FromSide {
			continue
		}
		truth := d.Runner.Truth(d.Film)
		for i, f := range truth.Frames {
			if i%7 != 0 {
				continue
			}
			p := func(name string) measure.Point { s := f.Places["right-"+name]; return measure.Point{X: s.X, Y: s.Y} }
			got, err := measure.Picture{}.Read(map[measure.Place]measure.Point{measure.Ankle: p("ankle"), measure.Knee: p("knee"), measure.Hip: p("hip"),
				measure.Heel: p("sole-heel"), measure.Toe: p("sole-toe"), measure.HeelStand: {X: 0, Y: 100}, measure.ToeStand: {X: 60, Y: 100}}, 0)
			require.NoError(t, err)
			for _, r := range got {
				switch r.Measure {
				case measure.ShinAngle:
					assert.InDelta(t, f.Angles["right-shin"], r.Value, 1, "%s frame %d", d.ID, i)
				case measure.KneeFlexion:
					assert.InDelta(t, f.Angles["right-knee"], r.Value, 1.5, "%s frame %d", d.ID, i)
				case measure.StrikeAngle:
					assert.InDelta(t, f.Angles["right-foot"], r.Value, 1, "%s frame %d", d.ID, i)
				}
			}
		}
	}
	_, err := Find("rear")
	require.NoError(t, err)
	_, err = Find("moon")
	require.Error(t, err)
}

// A picture has a person in it: skin, shirt and shoes where the places say.
func TestThePictureShowsTheRunner(t *testing.T) {
	for _, id := range []string{"rear", "crossing"} {
		d, err := Find(id)
		require.NoError(t, err)
		d.Film.Width, d.Film.Height, d.Film.Samples, d.Film.Noise = 320, 180, 1, 0
		truth := d.Runner.Truth(d.Film)
		img := d.Runner.Picture(d.Film, 12)
		if dir := os.Getenv("NOTCHBACK_SIDECAM_PNG"); dir != "" {
			f, err := os.Create(dir + "/" + id + ".png")
			require.NoError(t, err)
			require.NoError(t, png.Encode(f, img))
			require.NoError(t, f.Close())
		}
		knee := truth.Frames[12].Places["right-knee"]
		c := img.RGBAAt(int(knee.X), int(knee.Y))
		assert.Greater(t, int(c.R), int(c.B)+15, "skin at the knee of %s: %v", id, c)
		sky := img.RGBAAt(10, 5)
		assert.Greater(t, int(sky.B), int(sky.R), "sky")
		ground := img.RGBAAt(10, 170)
		assert.Greater(t, int(ground.R), int(ground.G), "track")
		assert.Equal(t, img.Pix, d.Runner.Picture(d.Film, 12).Pix, "the same twice")
	}
}

func BenchmarkPictureOfADemoClip(b *testing.B) {
	d, err := Find("rear")
	require.NoError(b, err)
	d.Runner.Picture(d.Film, 0) // what is round about is drawn once a film
	for i := 0; b.Loop(); i++ {
		d.Runner.Picture(d.Film, i%d.Film.Frames)
	}
}
