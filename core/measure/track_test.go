package measure_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/measure"
	"notchback/devices/sidecam"
)

// exact is the figure's own track at a rate in Hz.
func exact(r sidecam.Runner, rate, seconds float64) (measure.Track, sidecam.Truth) {
	f := sidecam.Film{View: sidecam.FromSide, Width: 640, Height: 360, FPS: rate, Frames: int(seconds * rate)}
	d := sidecam.Demo{Runner: r, Film: f}
	m := d.Markers()
	t := measure.Track{Lanes: map[measure.Lane][]measure.Seen{}, UnitCm: 0.1, Spatial: true}
	at := map[string]int{}
	for i, name := range m.Markers {
		at[name] = i
	}
	for i, row := range m.Frames {
		t.Times = append(t.Times, float64(i)/rate)
		for _, foot := range []string{"left", "right"} {
			for _, p := range measure.TrackPlaces {
				q := row[at[foot+"-"+string(p)]]
				l := measure.Lane{Foot: foot, Place: p}
				t.Lanes[l] = append(t.Lanes[l], measure.Seen{X: q.X, Y: q.Y, Z: q.Z, Known: true, Trust: 1})
			}
		}
	}
	return t, r.Truth(f)
}

// runs is a figure of a cadence and a strike that lands as far ahead as its speed asks
// for, so that its sole stays over the ground.
func runs(cadence, strike float64) sidecam.Runner {
	r := sidecam.Usual()
	r.Cadence = cadence
	r.Right.Strike, r.Right.Contact = strike, min(0.254*170/cadence, 0.27)
	r.Right.Reach = 0.35 * r.Speed * r.Right.Contact / r.Height
	r.Left = r.Right
	return r
}

// off is how many frames a found event is from the true one, and whether one was
// found at all.
func off(found []measure.FootEvent, foot, kind string, at, rate float64) (int, bool) {
	best, ok := math.Inf(1), false
	for _, e := range found {
		if e.Foot == foot && e.Kind == kind && math.Abs(e.At-at) < math.Abs(best) {
			best, ok = e.At-at, math.Abs(e.At-at) < 0.1
		}
	}
	return int(math.Floor((at+best)*rate+1e-9)) - int(math.Floor(at*rate+1e-9)), ok
}

// On exact tracks every event is found within one frame; the first and last ones of
// a track need a flat sole in it.
func TestEveryEventOfAnExactTrackIsFoundWithinAFrame(t *testing.T) {
	if testing.Short() {
		t.Skip("seven seconds; the page of tracks stands for it")
	}
	const seconds = 3.0
	n := 0
	for _, rate := range []float64{30, 50, 60, 100, 120, 240} {
		for cadence := 150.0; cadence <= 200; cadence += 10 {
			for strike := -10.0; strike <= 20; strike += 5 {
				track, truth := exact(runs(cadence, strike), rate, seconds)
				read, err := measure.ReadTrack(track, measure.ByMarkers)
				require.NoError(t, err)
				found := read.Events
				for _, e := range truth.Events {
					for kind, at := range map[string]float64{"contact": e.Contact, "toe-off": e.ToeOff} {
						if at < 0.1 || at > seconds-0.3 {
							continue
						}
						d, ok := off(found, e.Foot, kind, at, rate)
						n++
						assert.True(t, ok, "%g Hz, %g spm, %g°: %s %s at %.3f not found", rate, cadence, strike, e.Foot, kind, at)
						assert.LessOrEqual(t, max(d, -d), 1, "%g Hz, %g spm, %g°: %s %s at %.3f", rate, cadence, strike, e.Foot, kind, at)
					}
				}
				for _, e := range found { // and nothing that is not there
					real := false
					for _, x := range truth.Events {
						real = real || x.Foot == e.Foot && (math.Abs(x.Contact-e.At) < 0.08 || math.Abs(x.ToeOff-e.At) < 0.08)
					}
					assert.True(t, real || e.At < 0.3 || e.At > seconds-0.3, "%g Hz, %g spm: %v", rate, cadence, e)
				}
			}
		}
	}
	assert.Greater(t, n, 3000)
}

// What is read from an exact track is what the figure was made with.
func TestAnExactTrackGivesBackTheFigure(t *testing.T) {
	for _, d := range sidecam.Demos() {
		t.Run(d.ID, func(t *testing.T) {
			track, truth := exact(d.Runner, 120, 4)
			got, err := measure.ReadTrack(track, measure.ByMarkers)
			require.NoError(t, err)
			require.NotNil(t, got.Gait)
			assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1)
			assert.InDelta(t, d.Runner.Right.Contact, got.Gait.ContactOf["right"].Seconds, 0.0125)
			assert.InDelta(t, d.Runner.Left.Contact, got.Gait.ContactOf["left"].Seconds, 0.0125)
			by := map[string]measure.TrackReading{}
			for _, r := range got.Readings {
				by[string(r.Measure)+"/"+r.Foot] = r
				assert.Greater(t, r.Margin, 0.0)
				assert.Len(t, r.PerStep, r.N)
			}
			for foot, side := range map[string]sidecam.Side{"left": d.Runner.Left, "right": d.Runner.Right} {
				k := 0
				for _, e := range truth.Events {
					if e.Foot == foot {
						k = truth.Frame(e.Contact)
						break
					}
				}
				assert.InDelta(t, -truth.Frames[k].Angles[foot+"-shin"], by["overstride/"+foot].Value, 2, foot)
				assert.InDelta(t, side.Strike, by["strike/"+foot].Value, 2.5, foot)
				assert.InDelta(t, 100*side.Reach*d.Runner.Height, by["overstride-cm/"+foot].Value, 2, foot)
				assert.InDelta(t, -side.Crossing, by["crossing-cm/"+foot].Value, 1.5, foot)
				assert.InDelta(t, 0, by["hip-drop/"+foot].Value, 0.1)
			}
			assert.InDelta(t, d.Runner.Bounce, by["bounce/both"].Value, 0.5)
		})
	}
}

// worse copies a track with noise (1 SD, mm), gaps of a few frames and frames with
// left and right exchanged.
func worse(t measure.Track, rng *rand.Rand, noise float64, gaps, swaps int) measure.Track {
	out := measure.Track{Times: t.Times, Lanes: map[measure.Lane][]measure.Seen{}, UnitCm: t.UnitCm}
	n := len(t.Times)
	for _, p := range measure.TrackPlaces {
		for _, foot := range []string{"left", "right"} {
			l := measure.Lane{Foot: foot, Place: p}
			for _, s := range t.Lanes[l] {
				s.X, s.Y = s.X+noise*rng.NormFloat64(), s.Y+noise*rng.NormFloat64()
				out.Lanes[l] = append(out.Lanes[l], s)
			}
			for range gaps {
				for k, i := 0, 5+rng.IntN(n-15); k < 3; k++ {
					out.Lanes[l][i+k].Known = false
				}
			}
		}
	}
	for range swaps {
		i := 5 + rng.IntN(n-10)
		for _, p := range measure.TrackPlaces {
			if p == measure.Shoulder {
				continue
			}
			a, b := out.Lanes[measure.Lane{Foot: "left", Place: p}], out.Lanes[measure.Lane{Foot: "right", Place: p}]
			a[i], b[i] = b[i], a[i]
		}
	}
	return out
}

// Noise, gaps and swaps move events by little and cadence by nothing to speak of.
func TestNoisyGappySwappedTracksStillRead(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 1))
	within, all := 0, 0
	for _, d := range sidecam.Demos() {
		track, truth := exact(d.Runner, 60, 4)
		bad := worse(track, rng, 6, 2, 4)
		got, err := measure.ReadTrack(bad, measure.ByProposal)
		require.NoError(t, err)
		require.NotNil(t, got.Gait, d.ID)
		assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1.5, d.ID)
		assert.Greater(t, got.Filled, 40)
		assert.GreaterOrEqual(t, got.Swapped, 2, d.ID)
		for _, e := range truth.Events {
			if e.Contact < 0.1 || e.Contact > 3.7 {
				continue
			}
			n, ok := off(got.Events, e.Foot, "contact", e.Contact, 60)
			all++
			if ok && max(n, -n) <= 1 {
				within++
			}
		}
		for _, r := range got.Readings {
			if r.Measure == measure.OverstrideDeg {
				assert.GreaterOrEqual(t, r.Margin, 4.0, "the library's own error is in it")
			}
		}
	}
	assert.GreaterOrEqual(t, float64(within), 0.9*float64(all), "%d of %d contacts", within, all)
}

// Swapped frames are put back just where they were swapped.
func TestSwapsArePutBack(t *testing.T) {
	track, _ := exact(sidecam.Usual(), 60, 3)
	rng := rand.New(rand.NewPCG(3, 3))
	clean, err := measure.ReadTrack(track, measure.ByMarkers)
	require.NoError(t, err)
	assert.Zero(t, clean.Swapped)
	assert.Zero(t, clean.Filled)
	bad := worse(track, rng, 0, 0, 5)
	got, err := measure.ReadTrack(bad, measure.ByMarkers)
	require.NoError(t, err)
	assert.Positive(t, got.Swapped)
	assert.Equal(t, clean.Gait.CadenceSpm, got.Gait.CadenceSpm)
	assert.Len(t, got.Events, len(clean.Events))
}

func TestTracksThatCantBeSayWhy(t *testing.T) {
	track, _ := exact(sidecam.Usual(), 60, 2)
	short := track
	short.Times = track.Times[:5]
	_, err := measure.ReadTrack(short, measure.ByMarkers)
	require.ErrorContains(t, err, "too few")
	back, _ := exact(sidecam.Usual(), 60, 2)
	back.Times[7] = back.Times[6]
	_, err = measure.ReadTrack(back, measure.ByMarkers)
	require.ErrorContains(t, err, "times[7]")
	wrong, _ := exact(sidecam.Usual(), 60, 2)
	wrong.Lanes[measure.Lane{Foot: "left", Place: "nose"}] = wrong.Lanes[measure.Lane{Foot: "left", Place: measure.Toe}]
	_, err = measure.ReadTrack(wrong, measure.ByMarkers)
	require.ErrorContains(t, err, "left-nose")
	nan, _ := exact(sidecam.Usual(), 60, 2)
	nan.Lanes[measure.Lane{Foot: "left", Place: measure.Toe}][3].X = math.NaN()
	_, err = measure.ReadTrack(nan, measure.ByMarkers)
	require.ErrorContains(t, err, "left-toe")
	// An empty track has no events and that is no error.
	none, _ := exact(sidecam.Usual(), 60, 2)
	for _, l := range none.Lanes {
		for i := range l {
			l[i] = measure.Seen{}
		}
	}
	got, err := measure.ReadTrack(none, measure.ByProposal)
	require.NoError(t, err)
	assert.Empty(t, got.Events)
	assert.Nil(t, got.Gait)
	for _, q := range got.Quality {
		assert.Zero(t, q)
	}
	// Somebody who stands makes no steps.
	still, _ := exact(sidecam.Usual(), 60, 2)
	for _, l := range still.Lanes {
		for i := range l {
			l[i] = l[0]
		}
	}
	got, err = measure.ReadTrack(still, measure.ByProposal)
	require.NoError(t, err)
	assert.Empty(t, got.Events)
}

func BenchmarkReadTrack(b *testing.B) {
	clip, _ := exact(sidecam.Usual(), 60, 10)
	for b.Loop() {
		if _, err := measure.ReadTrack(clip, measure.ByProposal); err != nil {
			b.Fatal(err)
		}
	}
}
