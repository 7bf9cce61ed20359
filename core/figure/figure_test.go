package figure

import (
	"bytes"
	"compress/gzip"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func builtIn(t *testing.T) map[string]Pose {
	t.Helper()
	all, err := BuiltIn()
	require.NoError(t, err)
	return all
}

func TestAPoseTakesWhatItIsLike(t *testing.T) {
	all := map[string]Pose{
		"stand": {Angles: map[string]float64{"trunk": 5, "knee": 10}, Works: []string{"calf"}, Hold: "knee"},
		"squat": {Like: "stand", Angles: map[string]float64{"knee": 90}},
		"other": {Like: "stand", Works: []string{"sole"}, Hold: "toe", Press: []string{"ball"}},
	}
	p, err := Resolve("squat", all)
	require.NoError(t, err)
	assert.Equal(t, map[string]float64{"trunk": 5, "knee": 90}, p.Angles)
	assert.Equal(t, "body", p.View)
	assert.Equal(t, []string{"calf"}, p.Works)
	assert.Equal(t, "knee", p.Hold)
	assert.EqualValues(t, 10, all["stand"].Angles["knee"], "the other pose stays as it was")
	p, err = Resolve("other", all)
	require.NoError(t, err)
	assert.Equal(t, []string{"sole"}, p.Works)
	assert.Equal(t, "toe", p.Hold)
}

// What no body can do is refused with the pose and what is wrong named.
func TestWhatCantBeIsRefused(t *testing.T) {
	for says, p := range map[string]Pose{
		"like itself":             {Like: "bad"},
		`pose "bad": "wing" is`:   {Angles: map[string]float64{"wing": 3}},
		`view "sky"`:              {View: "sky"},
		`prop "sofa"`:             {Props: []Prop{{Kind: "sofa"}}},
		`rest "bed"`:              {Rest: "bed"},
		`pose "nobody" is not`:    {Like: "nobody"},
		`"bad": knee goes from`:   {Angles: map[string]float64{"knee": 200}},
		`it says -90`:             {Angles: map[string]float64{"toes": -90}},
		`it says NaN`:             {Angles: map[string]float64{"hip": math.NaN()}},
		"one arrow at most":       {Props: []Prop{{Kind: "arrow"}, {Kind: "arrow"}}},
		`"hair" can't be shown`:   {Works: []string{"hair"}},
		`"trunk" is not an angle`: {View: "foot", Angles: map[string]float64{"trunk": 3}},
	} {
		_, err := Resolve("bad", map[string]Pose{"bad": p})
		assert.ErrorContains(t, err, says)
	}
	for want, p := range map[error]Pose{
		ErrJoint:   {View: "toes", Props: []Prop{{Kind: "weight", At: "elbow"}}},
		ErrHold:    {Hold: "farToe"},
		ErrTooWide: {Props: []Prop{{Kind: "arrow", DX: 400}}},
	} {
		_, err := Draw(p)
		assert.ErrorIs(t, err, want)
	}
	_, err := Draw(Pose{Press: []string{"wing"}})
	assert.ErrorIs(t, err, ErrJoint)
	_, err = Draw(Pose{Hold: "wing"})
	assert.ErrorIs(t, err, ErrJoint)
	// A far leg that is out straight over a lower floor than it reaches.
	_, err = Draw(Pose{Angles: map[string]float64{"ankle": -60, "farAnkle": 40}})
	assert.ErrorIs(t, err, ErrFloor)
	_, err = Read([]byte("x: {knee: 300}\ny: {hold: farToe}\n"))
	assert.ErrorContains(t, err, `"x"`)
	assert.ErrorContains(t, err, `"y"`)
}

// Every built-in pose: standing feet stand within half a unit, hands reach what they
// hold, nothing leaves the box.
func TestEveryPoseStandsAndHolds(t *testing.T) {
	all := builtIn(t)
	require.Greater(t, len(all), 200)
	for name := range all {
		p, err := Resolve(name, all)
		require.NoError(t, err)
		s, err := p.whole(nil, true)
		require.NoError(t, err, name)
		upright(t, name, p, s)
		parts, err := Draw(p)
		require.NoError(t, err, name)
		inBox(t, name, parts)
	}
}

type testing1 interface {
	assert.TestingT
	Helper()
}

func upright(t testing1, name string, p Pose, s *scene) {
	t.Helper()
	for foot, at := range s.stands {
		assert.InDelta(t, s.ground, at[1], 0.5, "%s: the %s foot", name, foot)
	}
	for _, h := range []struct{ hand, hold string }{{"hand", p.Hold}, {"farHand", p.FarHold}} {
		if h.hold != "" {
			assert.Less(t, distance(s.joints[h.hand], s.joints[h.hold]), 0.5, "%s: the %s", name, h.hand)
		}
	}
	if p.View == "body" { // limbs keep their lengths, knees bend forward
		assert.InDelta(t, shinLong, distance(s.joints["farKnee"], s.joints["farAnkle"]), 0.1, name)
		assert.InDelta(t, upperArm, distance(s.joints["shoulder"], s.joints["elbow"]), 0.1, name)
	}
}

func inBox(t testing1, name string, parts []Part) {
	t.Helper()
	for _, x := range parts {
		if x.Kind == Mark || x.Kind == Press {
			continue // may touch the edge
		}
		for _, q := range x.places() {
			assert.True(t, q[0] >= -0.2 && q[0] <= Size+0.2 && q[1] >= -0.2 && q[1] <= Size+0.2, "%s: %s at %v leaves the box", name, x.Part, q)
		}
	}
}

// On any way between two poses of one view, at any moment, feet stand, hands hold, and
// every part is inside the box; angles stay in their ranges.
func TestEveryMomentOfAMovementIsHuman(t *testing.T) {
	all := builtIn(t)
	views := map[string][]string{}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		p, err := Resolve(name, all)
		require.NoError(t, err)
		if p.Rest != "floor" {
			views[p.View+p.Rest] = append(views[p.View+p.Rest], name)
		}
	}
	kinds := slices.Sorted(maps.Keys(views))
	drawn := 0
	rapid.Check(t, func(t *rapid.T) {
		names := views[rapid.SampledFrom(kinds).Draw(t, "view")]
		a, b := rapid.SampledFrom(names).Draw(t, "from"), rapid.SampledFrom(names).Draw(t, "to")
		from, err := Resolve(a, all)
		require.NoError(t, err)
		to, err := Resolve(b, all)
		require.NoError(t, err)
		p := Between(from, to, rapid.Float64Range(0, 1).Draw(t, "share"))
		require.NoError(t, p.Check(a+" → "+b))
		s, err := p.scene()
		if err != nil { // poses of two exercises may have no way between them
			return
		}
		drawn++
		upright(t, a+" → "+b, p, s)
	})
	assert.Positive(t, drawn)
}

// The frames of a movement have its parts, begin at its start and end at its end, and a
// part never jumps.
func TestAMovementIsPlayedInSmallSteps(t *testing.T) {
	all := builtIn(t)
	from, err := Resolve("wall-one", all)
	require.NoError(t, err)
	to, err := Resolve("wall-one-up", all)
	require.NoError(t, err)
	m, err := Move(from, to)
	require.NoError(t, err)
	require.Len(t, m.Moves, Frames)
	for f, at := range m.Moves {
		require.Len(t, at, len(m.Parts))
		for i := range at {
			require.True(t, len(at[i]) == 3 || len(at[i]) == 5)
			if f > 0 {
				assert.Less(t, math.Hypot(at[i][0]-m.Moves[f-1][i][0], at[i][1]-m.Moves[f-1][i][1]), 6.0, "%s jumps", m.Parts[i].Part)
				assert.Less(t, math.Abs(at[i][2]-m.Moves[f-1][i][2]), 90.0)
			}
		}
	}
	head := slices.IndexFunc(m.Parts, func(p Part) bool { return p.Part == "head" })
	rise := m.Moves[0][head][1] - m.Moves[Frames-1][head][1]
	assert.Greater(t, rise, 2.0, "the head goes up with the heels")
	wall := slices.IndexFunc(m.Parts, func(p Part) bool { return p.Part == "thick" })
	assert.Equal(t, m.Moves[0][wall], m.Moves[Frames-1][wall], "the wall stays")
	assert.True(t, slices.ContainsFunc(m.End, func(p Part) bool { return p.Kind == Ghost }), "the start is a ghost at the end")
	assert.False(t, slices.ContainsFunc(m.Start, func(p Part) bool { return p.Kind == Ghost }))
	_, err = Move(from, Pose{View: "toes"})
	assert.ErrorContains(t, err, "one view")
}

// A picture turned over is its mirror image, and turned over twice itself.
func TestMirrored(t *testing.T) {
	all := builtIn(t)
	for name := range all {
		p, err := Resolve(name, all)
		require.NoError(t, err)
		parts, err := Draw(p)
		require.NoError(t, err)
		over := Mirror(parts)
		for i := range parts {
			was, is := parts[i].places(), over[i].places()
			for k := range was {
				require.InDelta(t, Size-was[k][0], is[k][0], 0.01, name)
				require.InDelta(t, was[k][1], is[k][1], 0.01, name)
			}
		}
		assert.Equal(t, parts, Mirror(over))
	}
}

// A drawing is small, and says the same every time.
func TestADrawingIsSmall(t *testing.T) {
	all := builtIn(t)
	for name := range all {
		p, err := Resolve(name, all)
		require.NoError(t, err)
		parts, err := Draw(p)
		require.NoError(t, err)
		svg := SVG(parts)
		var b bytes.Buffer
		w := gzip.NewWriter(&b)
		_, err = w.Write([]byte(svg))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		assert.LessOrEqual(t, b.Len(), 4096, "%s has %d bytes", name, b.Len())
		assert.Equal(t, len(parts), strings.Count(svg, "<path"))
	}
	p, _ := Resolve("squat", all)
	a, _ := Draw(p)
	b, _ := Draw(p)
	assert.Equal(t, a, b)
	for _, x := range a {
		assert.NotEmpty(t, Outlines()[x.Part].Points, x.Part)
	}
}
