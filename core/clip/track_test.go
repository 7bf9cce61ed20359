package clip

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/devices/sidecam"
	"notchback/formats"
)

// asTrack maps a marker file by what is guessed of its names.
func asTrack(t *testing.T, f formats.Track, mapping map[string]string) (measure.Track, error) {
	t.Helper()
	return MarkersAsTrack(f.Rate, f.Markers, len(f.Frames), func(i, m int) measure.Raw {
		p := f.Frames[i][m]
		return measure.Raw{P: [3]float64{p.X, p.Y, p.Z}, Known: p.Known}
	}, mapping)
}

// A marker file in any axes gives the figure it was made from.
func TestMarkersInAnyAxesGiveTheFigure(t *testing.T) {
	d, err := sidecam.Find("crossing")
	require.NoError(t, err)
	d.Film.FPS, d.Film.Frames = 120, 480
	file := d.Markers()
	turns := map[string]func(p formats.Spot3) formats.Spot3{
		"y up":            func(p formats.Spot3) formats.Spot3 { return p },
		"z up":            func(p formats.Spot3) formats.Spot3 { return formats.Spot3{X: p.X, Y: -p.Z, Z: p.Y, Known: p.Known} },
		"z up, runs back": func(p formats.Spot3) formats.Spot3 { return formats.Spot3{X: -p.X, Y: p.Z, Z: p.Y, Known: p.Known} },
		"runs along y":    func(p formats.Spot3) formats.Spot3 { return formats.Spot3{X: p.Z, Y: p.X, Z: p.Y, Known: p.Known} },
	}
	for name, turn := range turns {
		f := formats.Track{Rate: file.Rate, Markers: file.Markers}
		for _, row := range file.Frames {
			out := make([]formats.Spot3, len(row))
			for i, p := range row {
				out[i] = turn(p)
			}
			f.Frames = append(f.Frames, out)
		}
		track, err := asTrack(t, f, GuessMarkers(f.Markers))
		require.NoError(t, err, name)
		got, err := Marks{SpeedKmh: d.Runner.Speed * 3.6}.ReadTrack(track, measure.ByMarkers, Runner{MassKg: 70, LegCm: 90})
		require.NoError(t, err, name)
		require.NotNil(t, got.Gait, name)
		assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1, name)
		require.NotNil(t, got.Spring, name)
		require.Len(t, got.PerStep, len(got.Readings))
		seen := map[measure.MeasureID]Judged{}
		for i, j := range got.Readings {
			assert.Equal(t, measure.ByMarkers, j.By)
			assert.Len(t, got.PerStep[i], j.N)
			if j.Side != body.Left {
				seen[j.Measure] = j
			}
		}
		assert.InDelta(t, -d.Runner.Right.Crossing, seen[measure.CrossingCm].Value, 1.5, name)
		assert.Equal(t, "rear", seen[measure.StrikeAngle].Class, name)
		assert.Equal(t, screening.Overstride, seen[measure.OverstrideDeg].Test)
		assert.Equal(t, screening.Bounce, seen[measure.BounceCm].Test)
		require.NotNil(t, seen[measure.OverstrideCm].PercentOf)
	}
}

func TestMarkersAreGuessedByTheirNames(t *testing.T) {
	got := GuessMarkers([]string{"R.Heel", "L.Heel", "RKnee", "LKnee", "right_hip", "left_hip", "R_MTP5", "L_MTP5", "rank", "lank", "C7", "Sternum", "R.Shoulder", "ROCKER"})
	assert.Equal(t, map[string]string{"right-heel": "R.Heel", "left-heel": "L.Heel", "right-knee": "RKnee", "left-knee": "LKnee", "right-hip": "right_hip", "left-hip": "left_hip",
		"right-toe": "R_MTP5", "left-toe": "L_MTP5", "right-ankle": "rank", "left-ankle": "lank", "right-shoulder": "R.Shoulder"}, got)
	assert.Empty(t, GuessMarkers([]string{"M001", "M002"}))
	// Of two, the one on the sole.
	assert.Equal(t, "left-sole-heel", GuessMarkers([]string{"left-heel", "left-sole-heel"})["left-heel"])
}

func TestMappingsThatCantBeSayWhich(t *testing.T) {
	d, err := sidecam.Find("rear")
	require.NoError(t, err)
	f := d.Markers()
	m := GuessMarkers(f.Markers)
	m["left-toe"] = "nobody"
	_, err = asTrack(t, f, m)
	require.ErrorContains(t, err, `no marker "nobody"`)
	delete(m, "left-toe")
	_, err = asTrack(t, f, m)
	require.ErrorContains(t, err, "mapping.left-toe")
	m = GuessMarkers(f.Markers)
	for i := range f.Frames {
		for k := range f.Frames[i] {
			f.Frames[i][k].Known = false
		}
	}
	_, err = asTrack(t, f, m)
	require.ErrorContains(t, err, "are needed")
}

// What proposals can't tell is asked for, what they can is said.
func TestAProposedStrikeIsUncertainUnlessItIsClear(t *testing.T) {
	for strike, class := range map[float64]string{12: "uncertain", 3: "uncertain", -8: "uncertain", 26: "rear"} {
		r := sidecam.Usual()
		r.Right.Strike, r.Left.Strike = strike, strike
		r.Right.Reach, r.Left.Reach = 0.15, 0.15
		f := sidecam.Demo{Runner: r, Film: sidecam.Film{FPS: 60, Frames: 240}}.Markers()
		track, err := asTrack(t, f, GuessMarkers(f.Markers))
		require.NoError(t, err)
		got, err := Marks{}.ReadTrack(track, measure.ByProposal, Runner{})
		require.NoError(t, err)
		n := 0
		for _, j := range got.Readings {
			if j.Measure == measure.StrikeAngle {
				n++
				assert.Equal(t, class, j.Class, "%g", strike)
				assert.Equal(t, class == "uncertain", j.Surer != "")
			}
		}
		assert.Equal(t, 2, n)
	}
}

// Two clips: only what is larger than noise is a difference.
func TestTwoClipsAreComparedAgainstTheMDC(t *testing.T) {
	of := func(v float64) Judged {
		return Judged{Reading: measure.Reading{Measure: measure.ShinAngle, Name: "Shin from vertical", Unit: "°", Value: v, Margin: 1}, Side: body.Left, Test: screening.SeatedShin}
	}
	test, ok := screening.Find(screening.SeatedShin)
	require.True(t, ok)
	require.NotNil(t, test.Noise)
	mdc := *screening.CompareDates(test, screening.Summarise(test, body.Left, []screening.Trial{{Value: ptr(10.0)}}, screening.Age{}), screening.Summarise(test, body.Left, []screening.Trial{{Value: ptr(10.0)}}, screening.Age{})).MDC95
	got := Compare(Measures{of(15)}, Measures{of(15 + mdc + 0.1), {Reading: measure.Reading{Measure: measure.TrunkLean}, Side: body.Left}})
	require.Len(t, got, 1, "only what both have")
	assert.True(t, got[0].Real)
	assert.Equal(t, screening.Better, got[0].Change)
	assert.InDelta(t, mdc, got[0].Within, 1e-9)
	got = Compare(Measures{of(15)}, Measures{of(15 + mdc - 0.1)})
	assert.False(t, got[0].Real)
	assert.Equal(t, screening.Same, got[0].Change)
	// Points that scatter more than the test count for more.
	wide := of(15)
	wide.Margin = 3 * mdc
	assert.False(t, Compare(Measures{wide}, Measures{of(15 - 2*mdc)})[0].Real)
	// Without a known noise of the test the margins decide, and nothing is called better.
	lean := func(v float64) Judged {
		return Judged{Reading: measure.Reading{Measure: measure.TrunkLean, Unit: "°", Value: v, Margin: 2}, Side: body.Left}
	}
	d := Compare(Measures{lean(5)}, Measures{lean(9)})[0]
	assert.True(t, d.Real)
	assert.Empty(t, d.Change)
	assert.False(t, Compare(Measures{lean(5)}, Measures{lean(7)})[0].Real)
}

func ptr[T any](v T) *T { return &v }

// Of several moments the middle one counts, and surer than each alone.
func TestSeveralMomentsGiveTheirMiddle(t *testing.T) {
	of := func(v float64) MomentRead {
		return MomentRead{Template: "contact", Side: body.Left, Readings: []Judged{{Reading: measure.Reading{Measure: measure.TrunkLean, Value: v, Margin: 3}, Side: body.Left}}}
	}
	all := Result{Moments: []MomentRead{of(9), of(4), of(6), {Template: "toe-off", Side: body.Left, Readings: of(30).Readings}}}.All()
	require.Len(t, all, 2)
	assert.InDelta(t, 6, all[0].Value, 0)
	assert.InDelta(t, 3/1.7320508, all[0].Margin, 1e-6)
	assert.Equal(t, 3, all[0].N)
	assert.InDelta(t, 30, all[1].Value, 0)
}
