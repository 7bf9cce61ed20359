package sidecam

import (
	"encoding/json"
	"image/png"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// flat is the distance between two places as the camera at the side sees it.
func flat(a, b vec3) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }

// Whatever the figure does, bones keep their length, knees bend one way only and
// both hips stay where the pelvis is.
func TestBonesStayBones(t *testing.T) {
	for _, d := range Demos() {
		bone := 0.2455 * d.Runner.Height
		foot := -1.0
		most := map[string]float64{}
		for i := range 500 {
			o := d.Runner.At(float64(i)/500, 0)
			for name, l := range map[string]Leg{"right": o.R, "left": o.L} {
				require.InDelta(t, bone, flat(l.Hip, l.Knee), 1e-9, "%s: thigh, %s at %d", d.ID, name, i)
				require.InDelta(t, bone, flat(l.Knee, l.Ankle), 1e-9, "%s: shank, %s at %d", d.ID, name, i)
				if foot < 0 {
					foot = flat(l.Ankle, l.Heel)
				}
				require.InDelta(t, foot, flat(l.Ankle, l.Heel), 1e-9, "%s: heel, %s at %d", d.ID, name, i)
				require.GreaterOrEqual(t, deg(l.KneeFlex), leastBend-1e-9, "%s: knee, %s at %d", d.ID, name, i)
				most[name] = max(most[name], deg(l.KneeFlex))
				require.InDelta(t, o.Pelvis.Y, l.Hip.Y, 1e-9)
			}
			require.Greater(t, o.Head.Y, o.NeckB.Y, "the head is above the neck")
			require.Greater(t, o.NeckB.Y, o.Chest.Y, "the neck is above the chest")
			for _, a := range []Arm{o.RA, o.LA} {
				k := d.Runner.Height / 1.75
				require.InDelta(t, 0.29*k, a.Elbow.Sub(a.Shoulder).Len(), 1e-9, "upper arm")
				require.InDelta(t, 0.255*k, a.Wrist.Sub(a.Elbow).Len(), 1e-9, "forearm")
			}
		}
		for name, m := range most {
			assert.Greater(t, m, 90.0, "%s: the %s heel comes up behind", d.ID, name)
			assert.Less(t, m, 115.0, "%s: the %s knee bends no further than a knee does", d.ID, name)
		}
	}
}

// With equal sides the left leg does half a stride later what the right one does.
func TestLeftDoesWhatRightDidHalfAStrideAgo(t *testing.T) {
	r := Usual()
	for i := range 200 {
		ph := float64(i) / 200
		right, left := r.At(ph, 0).R, r.At(ph+0.5, 0).L
		for name, pair := range map[string][2]vec3{"knee": {right.Knee, left.Knee}, "ankle": {right.Ankle, left.Ankle}, "toe": {right.Toe, left.Toe}} {
			require.InDelta(t, pair[0].X, pair[1].X, 1e-9, "%s at %d", name, i)
			require.InDelta(t, pair[0].Y, pair[1].Y, 1e-9, "%s at %d", name, i)
			require.InDelta(t, pair[0].Z, -pair[1].Z, 1e-9, "%s at %d: mirrored", name, i)
		}
	}
	uneven, err := Find("uneven")
	require.NoError(t, err)
	assert.NotEqual(t, uneven.Runner.At(0.1, 0).R.Knee.X, uneven.Runner.At(0.6, 0).L.Knee.X, "and not where the sides differ")
}

// A foot flat on the belt travels back with it; nothing above the toes jumps, not
// where one stride ends and the next begins either.
func TestNothingJumps(t *testing.T) {
	const n = 4000
	for _, d := range Demos() {
		r := d.Runner
		was := markers(r.At(0, 0))
		for i := 1; i <= n+5; i++ {
			now := markers(r.At(float64(i)/n, 0))
			for name, v := range now {
				if name == "right-toe" || name == "left-toe" {
					continue // toes are pressed flat at once where the ball lands first
				}
				require.Less(t, v.Sub(was[name]).Len(), 0.005, "%s: %s at %d, m", d.ID, name, i)
			}
			was = now
		}
		p := r.of(r.Right, r.built().base, r.built().right)
		at := 0.3 * p.Duty
		a, b := r.At(at, 0).R, r.At(at+1e-4, 0).R
		assert.InDelta(t, -r.Speed, (b.soleHeel.X-a.soleHeel.X)/(1e-4*r.Stride()), 0.01, "%s: the flat foot rides the belt", d.ID)
		assert.InDelta(t, 0, a.soleHeel.Y, 1e-9, "%s: heel down", d.ID)
		assert.InDelta(t, 0, a.soleToe.Y, 1e-9, "%s: ball down", d.ID)
	}
}

// From the side the runner runs to the right; from behind right is right.
func TestRightIsRight(t *testing.T) {
	for _, d := range Demos() {
		f := d.Runner.Truth(d.Film).Frames[20].Places
		if d.Film.View == FromBehind {
			assert.Greater(t, f["right-hip"].X, f["left-hip"].X, d.ID)
			assert.Greater(t, f["right-shoulder"].X, f["left-shoulder"].X, d.ID)
			continue
		}
		assert.Greater(t, f["right-toe"].X, f["right-heel"].X, "%s: toes point where the runner goes", d.ID)
	}
	crossing, err := Find("crossing")
	require.NoError(t, err)
	truth := crossing.Runner.Truth(crossing.Film)
	middle := float64(crossing.Film.Width) / 2
	seen := map[string]bool{}
	for _, e := range truth.Events {
		ankle := truth.Frames[truth.Frame(e.Contact+0.04)].Places[e.Foot+"-ankle"]
		seen[e.Foot] = true
		if e.Foot == "right" {
			assert.Less(t, ankle.X, middle, "the right foot lands past the middle")
		} else {
			assert.Greater(t, ankle.X, middle, "the left foot lands past the middle")
		}
	}
	assert.Len(t, seen, 2)
}

// A moment is shown by the last frame that is not after it, within the clip.
func TestTheFrameOfAMoment(t *testing.T) {
	truth := Truth{Film: Film{FPS: 60}, Frames: make([]Frame, 150)}
	for _, c := range []struct {
		at   float64
		want int
	}{{-1, 0}, {0, 0}, {0.0166, 0}, {1.0 / 60, 1}, {0.1, 6}, {0.1166, 6}, {149.0 / 60, 149}, {9, 149}} {
		assert.Equal(t, c.want, truth.Frame(c.at), "%v s", c.at)
	}
}

// Markers are millimetres: every frame has every marker, in the same order.
func TestMarkersAreMillimetres(t *testing.T) {
	d, err := Find("fore")
	require.NoError(t, err)
	track := d.Markers()
	require.Len(t, track.Frames, d.Film.Frames)
	require.True(t, slices.IsSorted(track.Markers))
	assert.ElementsMatch(t, slices.Collect(maps.Keys(markers(d.Runner.At(0, 0)))), track.Markers)
	assert.Equal(t, d.Film.FPS, track.Rate)
	hip, knee := slices.Index(track.Markers, "left-hip"), slices.Index(track.Markers, "left-knee")
	for i, row := range track.Frames {
		require.Len(t, row, len(track.Markers))
		require.InDelta(t, 245.5*d.Runner.Height, math.Hypot(row[hip].X-row[knee].X, row[hip].Y-row[knee].Y), 1e-6, "frame %d", i)
		require.True(t, row[hip].Known)
	}
}

// A small clip is written with its truth, its still and its markers.
func TestAClipIsWrittenWithItsTruth(t *testing.T) {
	d, err := Find("mid")
	require.NoError(t, err)
	d.Film.Width, d.Film.Height, d.Film.Frames, d.Film.Samples = 64, 36, 8, 1
	dir := filepath.Join(t.TempDir(), "clips")
	require.NoError(t, Write(t.Context(), dir, d))
	raw, err := os.ReadFile(filepath.Join(dir, "mid.json"))
	require.NoError(t, err)
	var truth Truth
	require.NoError(t, json.Unmarshal(raw, &truth))
	assert.Len(t, truth.Frames, 8)
	require.NotEmpty(t, truth.Events)
	assert.Equal(t, "right", truth.Events[0].Foot)
	assert.InDelta(t, d.Runner.Right.Contact, truth.Events[0].ToeOff-truth.Events[0].Contact, 1e-9)
	f, err := os.Open(filepath.Join(dir, "mid.png"))
	require.NoError(t, err)
	defer func() { _ = f.Close() }()
	img, err := png.Decode(f)
	require.NoError(t, err)
	assert.Equal(t, 64, img.Bounds().Dx())
	assert.Equal(t, 36, img.Bounds().Dy())
	for _, name := range []string{"mid.webm", "mid.trc"} {
		s, err := os.Stat(filepath.Join(dir, name))
		require.NoError(t, err)
		assert.Positive(t, s.Size(), name)
	}
	require.Error(t, Write(t.Context(), filepath.Join(dir, "mid.json"), d), "a file is no folder")
}

// Over speeds, cadences and strikes the figure stays a person: no foot in the ground, no
// straight knee where it lands, no knee that folds further than one does.
func TestEveryGaitStaysHuman(t *testing.T) {
	n := 0
	for _, speed := range []float64{2.5, 3.2, 4} {
		for _, cadence := range []float64{150, 170, 190} {
			for _, strike := range []float64{-10, 3, 15} {
				for _, ahead := range []float64{0.30, 0.36} {
					r := Usual()
					r.Speed, r.Cadence = speed, cadence
					contact := min(0.29-0.03*(speed-2.5), 60/cadence-0.06)
					r.Right = Side{Contact: contact, Strike: strike, Reach: ahead * speed * contact / r.Height}
					r.Left = r.Right
					duty, words := contact/r.Stride(), []any{"%g m/s, %g spm, %g°, %g ahead", speed, cadence, strike, ahead}
					for i := range 400 {
						ph := float64(i) / 400
						l := r.At(ph, 0).R
						knee := deg(l.KneeFlex)
						require.Greater(t, min(l.soleHeel.Y, l.soleToe.Y), -0.004, words...)
						require.Less(t, knee, 135.0, words...)
						if ph < duty {
							require.Greater(t, knee, 12.0, words...)
							require.Less(t, knee, 90.0, words...)
						}
						n++
					}
					require.Greater(t, deg(r.At(0, 0).R.KneeFlex), bendDown-1, words...)
				}
			}
		}
	}
	assert.Greater(t, n, 20_000)
	o := Usual().At(0, 0)
	assert.Greater(t, o.R.Hip.X, o.L.Hip.X, "the pelvis turns with the leg that lands")
	assert.Less(t, o.RA.Shoulder.X, o.LA.Shoulder.X, "and the shoulders against it")
}
