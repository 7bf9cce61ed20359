package measure

import (
	"maps"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func read(t *testing.T, pic Picture, m MeasureID, marks map[Place]Point) Reading {
	t.Helper()
	list, err := pic.Read(marks, 0)
	require.NoError(t, err)
	for _, r := range list {
		if r.Measure == m {
			return r
		}
	}
	require.Fail(t, "not read", "%s", m)
	return Reading{}
}

// The worked examples of angles from points.
func TestWorkedAngles(t *testing.T) {
	shin := read(t, Picture{}, ShinAngle, map[Place]Point{Ankle: {412, 618}, Knee: {498, 469}})
	assert.InDelta(t, 30.0, shin.Value, 0.05)
	foot := map[Place]Point{Heel: {300, 640}, Toe: {388, 622}, HeelStand: {310, 652}, ToeStand: {399, 650}}
	assert.InDelta(t, 11.6, sole(foot[Heel], foot[Toe]), 0.05)
	assert.InDelta(t, 1.3, sole(foot[HeelStand], foot[ToeStand]), 0.05)
	strike := read(t, Picture{}, StrikeAngle, foot)
	assert.InDelta(t, 10.3, strike.Value, 0.05)
	assert.InDelta(t, 5.0, strike.Margin, 0.05)
	// The same with a foot 300 px long.
	long := map[Place]Point{}
	scale := 300 / math.Hypot(88, 18)
	for at, p := range foot {
		long[at] = Point{p.X * scale, p.Y * scale}
	}
	strike = read(t, Picture{}, StrikeAngle, long)
	assert.InDelta(t, 10.3, strike.Value, 0.05)
	assert.InDelta(t, 1.5, strike.Margin, 0.05)
}

// Running to the left is the mirror picture; a turned camera is turned back.
func TestMirrorAndRoll(t *testing.T) {
	marks := map[Place]Point{Ankle: {412, 618}, Knee: {498, 469}, Hip: {470, 300}, Shoulder: {505, 100}, Heel: {380, 640}, Toe: {470, 622}, HeelStand: {380, 650}, ToeStand: {470, 648}}
	plain, err := Picture{}.Read(marks, 0)
	require.NoError(t, err)
	require.Len(t, plain, 6)
	mirror := map[Place]Point{}
	for at, p := range marks {
		mirror[at] = Point{1000 - p.X, p.Y}
	}
	left, err := Picture{RunsLeft: true}.Read(mirror, 0)
	require.NoError(t, err)
	for i := range plain {
		assert.InDelta(t, plain[i].Value, left[i].Value, 1e-9, "%s", plain[i].Measure)
		assert.InDelta(t, plain[i].Margin, left[i].Margin, 1e-6)
	}
	turn := func(p Point) Point {
		sin, cos := math.Sincos(7 * math.Pi / 180)
		return Point{cos*p.X - sin*p.Y + 40, sin*p.X + cos*p.Y - 11}
	}
	turned := map[Place]Point{}
	for at, p := range marks {
		turned[at] = turn(p)
	}
	for name, pic := range map[string]Picture{
		"floor":           {Floor: &Line{turn(Point{0, 700}), turn(Point{900, 700})}},
		"floor, backward": {Floor: &Line{turn(Point{900, 700}), turn(Point{0, 700})}},
		"plumb":           {Plumb: &Line{turn(Point{50, 0}), turn(Point{50, 800})}},
		"plumb, upward":   {Plumb: &Line{turn(Point{50, 800}), turn(Point{50, 0})}},
	} {
		got, err := pic.Read(turned, 0)
		require.NoError(t, err)
		for i := range plain {
			assert.InDelta(t, plain[i].Value, got[i].Value, 1e-6, "%s: %s", name, plain[i].Measure)
		}
	}
}

func TestEveryMeasureHasItsSign(t *testing.T) {
	at := map[Place]Point{Hip: {500, 300}, Shoulder: {530, 100}, Knee: {460, 460}, Ankle: {540, 610}, PelvisL: {100, 200}, PelvisR: {200, 217},
		BallJoint: {300, 600}, BigToeTip: {340, 577}, FloorFrom: {200, 620}, FloorTo: {400, 620}, AchillesLo: {0, 100}, AchillesUp: {0, 50}, HeelLo: {0, 150}, HeelUp: {5, 110},
		Midline: {640, 900}, FootMid: {652, 900}, NavSit: {10, 50}, FloorSit: {10, 100}, NavStand: {110, 60}, FloorStand: {110, 100}, Highest: {0, 100}, Lowest: {0, 116}}
	pic := Picture{Scale: &Line{{0, 0}, {0, 100}}, ScaleCm: 50}
	list, err := pic.Read(at, 90)
	require.NoError(t, err)
	got := map[MeasureID]Reading{}
	for _, r := range list {
		got[r.Measure] = r
		assert.Positive(t, r.Margin, "%s", r.Measure)
	}
	assert.Positive(t, got[TrunkLean].Value, "leaning forward")
	assert.Positive(t, got[HipExtension].Value, "the knee behind the hip")
	assert.Positive(t, got[OverstrideDeg].Value, "the ankle ahead of the knee")
	assert.InDelta(t, 20, got[OverstrideCm].Value, 1e-9)
	assert.InDelta(t, 100*20.0/90, *got[OverstrideCm].PercentOf, 1e-9)
	assert.InDelta(t, 29.9, got[BigToeLift].Value, 0.1)
	assert.InDelta(t, 9.65, got[HipDropAngle].Value, 0.05)
	assert.Positive(t, got[HeelRoll].Value)
	assert.InDelta(t, 6, got[CrossingCm].Value, 1e-9)
	assert.InDelta(t, 50, got[NavicularMm].Value, 1e-9, "10 px of 0.5 cm")
	assert.InDelta(t, 8, got[BounceCm].Value, 1e-9)
	assert.Positive(t, got[KneeFlexion].Value)
	straight := read(t, Picture{}, KneeFlexion, map[Place]Point{Hip: {0, 0}, Knee: {0, 100}, Ankle: {0, 200}})
	assert.InDelta(t, 0, straight.Value, 1e-9)
	bent := read(t, Picture{}, KneeFlexion, map[Place]Point{Hip: {0, 0}, Knee: {0, 100}, Ankle: {-100, 100}})
	assert.InDelta(t, 90, bent.Value, 1e-9)
	for _, m := range Measures() {
		assert.NotEmpty(t, Places(m))
	}
	assert.Nil(t, Places("nose"))
}

// The margin against 10,000 seeded draws of the same noise: within 5 per cent.
func TestMarginsAgainstDraws(t *testing.T) {
	marks := map[Place]Point{Hip: {500, 300}, Shoulder: {530, 100}, Knee: {520, 460}, Ankle: {470, 610}, Heel: {430, 640}, Toe: {520, 625}, HeelStand: {430, 650}, ToeStand: {520, 648}}
	floor, scale := Line{{0, 700}, {900, 690}}, Line{{100, 200}, {100, 600}}
	pic := Picture{Floor: &floor, Scale: &scale, ScaleCm: 90, NoisePx: 1.5}
	list, err := pic.Read(marks, 0)
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(8, 8))
	jitter := func(p Point) Point { return Point{p.X + 1.5*r.NormFloat64(), p.Y + 1.5*r.NormFloat64()} }
	draws := map[MeasureID][]float64{}
	for range 10_000 {
		moved := map[Place]Point{}
		for _, at := range []Place{Hip, Shoulder, Knee, Ankle, Heel, Toe, HeelStand, ToeStand} {
			moved[at] = jitter(marks[at])
		}
		f, s := Line{jitter(floor[0]), jitter(floor[1])}, Line{jitter(scale[0]), jitter(scale[1])}
		got, err := Picture{Floor: &f, Scale: &s, ScaleCm: 90, NoisePx: 1.5}.Read(moved, 0)
		require.NoError(t, err)
		for _, x := range got {
			draws[x.Measure] = append(draws[x.Measure], x.Value)
		}
	}
	for _, x := range list {
		mean, ss := 0.0, 0.0
		for _, v := range draws[x.Measure] {
			mean += v / 10_000
		}
		for _, v := range draws[x.Measure] {
			ss += (v - mean) * (v - mean)
		}
		assert.InEpsilon(t, 1.96*math.Sqrt(ss/9999), x.Margin, 0.05, "%s", x.Measure)
	}
}

func TestMarksThatCantBeMeasuredSayWhy(t *testing.T) {
	_, err := Picture{}.Read(map[Place]Point{Ankle: {5, 5}, Knee: {5, 5}}, 0)
	require.ErrorContains(t, err, "in one place with ankle")
	_, err = Picture{}.Read(map[Place]Point{Ankle: {math.NaN(), 5}}, 0)
	require.ErrorContains(t, err, "not a place")
	_, err = Picture{Floor: &Line{{1, 1}, {1, 1}}}.Read(nil, 0)
	require.ErrorContains(t, err, "one place")
	_, err = Picture{Scale: &Line{{1, 1}, {1, 9}}}.Read(nil, 0)
	require.ErrorContains(t, err, "how far apart")
	_, err = Picture{NoisePx: -1}.Read(nil, 0)
	require.ErrorContains(t, err, "0 to 50")
	list, err := Picture{}.Read(map[Place]Point{Ankle: {5, 5}}, 0)
	require.NoError(t, err)
	assert.Empty(t, list, "half a measure is none")
}

// The worked example of the spring–mass model, Morin 2005 (from memory).
func TestWorkedSpringMass(t *testing.T) {
	s, err := Spring(70, 0.92, 4.0, 0.230, 0.120)
	require.NoError(t, err)
	assert.InDelta(t, 1641, s.ForceN, 0.5)
	assert.InDelta(t, 2.39, s.BodyWeights, 0.005)
	assert.InDelta(t, 6.08, s.DropCm, 0.005)
	assert.InDelta(t, 27.0, s.VerticalKNm, 0.05)
	assert.InDelta(t, 18.4, s.LegCm, 0.05)
	assert.InDelta(t, 8.92, s.LegKNm, 0.005)
	assert.InDelta(t, 171.4, s.CadenceSpm, 0.05)
	assert.InDelta(t, 0.329, s.Duty, 0.0005)
	for field, v := range map[string][5]float64{"massKg": {0, 1, 4, .2, .1}, "legM": {70, 0, 4, .2, .1}, "speed": {70, .9, 0, .2, .1}, "contact": {70, .9, 4, 0, .1}, "flight": {70, .9, 4, .2, 0}} {
		_, err := Spring(v[0], v[1], v[2], v[3], v[4])
		require.ErrorContains(t, err, field)
	}
	_, err = Spring(70, 0.4, 4, 0.3, 0.1)
	require.ErrorContains(t, err, "do not fit")
}

// gait is a run of steps of known times.
func gait(n int, cadence, contact float64) []Step {
	out := []Step{}
	for i := range n {
		at := float64(i) * 60 / cadence
		off := at + contact
		foot := "left"
		if i%2 == 1 {
			foot = "right"
		}
		out = append(out, Step{foot, at, &off})
	}
	return out
}

func TestGaitFromEvents(t *testing.T) {
	g, err := ReadGait(gait(8, 170, 0.25), 1.0/30)
	require.NoError(t, err)
	assert.InDelta(t, 170, g.CadenceSpm, 1e-9)
	assert.InDelta(t, 0.25, g.Contact.Seconds, 1e-9)
	assert.InDelta(t, 60.0/170-0.25, g.Flight.Seconds, 1e-9)
	assert.InDelta(t, 0.25/(120.0/170), g.Duty, 1e-9)
	assert.InDelta(t, 0, *g.Difference, 1e-9)
	assert.InDelta(t, 17, g.EdgeMs, 0.5, "± half a frame")
	one, err := ReadGait(gait(1, 170, 0.25), 1.0/30)
	require.NoError(t, err)
	assert.InDelta(t, 0.027, one.Contact.Margin, 0.0005, "± 27 ms in all")
	assert.Contains(t, g.Says[0], "faster camera")
	fast, err := ReadGait(gait(12, 170, 0.25), 1.0/240)
	require.NoError(t, err)
	assert.Empty(t, fast.Says)
	assert.Less(t, fast.CadenceOff, 0.5)
	// Any order in, the same out.
	s := gait(8, 170, 0.25)
	s[0], s[5], s[7] = s[7], s[0], s[5]
	again, err := ReadGait(s, 1.0/30)
	require.NoError(t, err)
	assert.Equal(t, g, again)
}

func TestEventsThatCantBeSayWhy(t *testing.T) {
	at := func(v float64) *float64 { return &v }
	for words, s := range map[string][]Step{
		"expected left or right": {{"middle", 0, nil}},
		"before its contact":     {{"left", 1, at(0.9)}},
		"can't be running":       {{"left", 1, at(2)}},
		"down already":           {{"left", 1, at(1.3)}, {"left", 1.2, at(1.5)}},
	} {
		_, err := ReadGait(s, 1.0/60)
		require.ErrorContains(t, err, words)
	}
	_, err := ReadGait(nil, 0)
	require.ErrorContains(t, err, "frame")
	g, err := ReadGait([]Step{{"left", 0, at(0.25)}, {"left", 0.7, at(0.95)}}, 1.0/60)
	require.NoError(t, err)
	assert.Zero(t, g.CadenceSpm)
	assert.Contains(t, g.Says[0], "Two left contacts")
	g, err = ReadGait(nil, 1.0/60)
	require.NoError(t, err)
	assert.Nil(t, g.Contact)
	walk := []Step{{"left", 0, at(0.5)}, {"right", 0.45, at(0.95)}}
	g, err = ReadGait(walk, 1.0/60)
	require.NoError(t, err)
	assert.Contains(t, g.Says[0]+g.Says[1], "walking")
}

func BenchmarkReadAfterADrag(b *testing.B) {
	marks := map[Place]Point{Hip: {500, 300}, Shoulder: {530, 100}, Knee: {520, 460}, Ankle: {470, 610}, Heel: {430, 640}, Toe: {520, 625}, HeelStand: {430, 650}, ToeStand: {520, 648}}
	pic := Picture{Floor: &Line{{0, 700}, {900, 690}}}
	for b.Loop() {
		if _, err := pic.Read(marks, 90); err != nil {
			b.Fatal(err)
		}
	}
}

// A level pelvis and a foot on the line are known no better than their points.
func TestASizeOfNothingStillHasItsMargin(t *testing.T) {
	pic := Picture{Scale: &Line{{X: 0, Y: 0}, {X: 100, Y: 0}}, ScaleCm: 50}
	for name, dy := range map[string]float64{"level": 0, "a little off": 0.001, "off": 9} {
		got, err := pic.Read(map[Place]Point{PelvisL: {X: 100, Y: 200}, PelvisR: {X: 200, Y: 200 + dy}, FootMid: {X: 50 - dy, Y: 10}, Midline: {X: 50, Y: 10}}, 0)
		require.NoError(t, err)
		by := map[MeasureID]Reading{}
		for _, r := range got {
			by[r.Measure] = r
		}
		assert.InDelta(t, 1.96*180/math.Pi*2*math.Sqrt2/100, by[HipDropAngle].Margin, 0.05, name)
		assert.Greater(t, by[CrossingCm].Margin, 2.7, name)
		assert.GreaterOrEqual(t, by[HipDropAngle].Value, 0.0)
		assert.InDelta(t, dy/2, by[CrossingCm].Value, 1e-9)
	}
}

// Lines have no direction and a mirrored picture gives the same (settled 48).
func TestLinesHaveNoDirection(t *testing.T) {
	marks := map[Place]Point{BallJoint: {300, 600}, BigToeTip: {340, 577}, FloorFrom: {200, 622}, FloorTo: {400, 618}, Ankle: {412, 618}, Knee: {498, 469}}
	value := func(pic Picture, m map[Place]Point, id MeasureID) float64 {
		list, err := pic.Read(m, 0)
		require.NoError(t, err)
		for _, r := range list {
			if r.Measure == id {
				return r.Value
			}
		}
		t.Fatalf("no %s", id)
		return 0
	}
	want := value(Picture{}, marks, BigToeLift)
	assert.InDelta(t, 28.75, want, 0.1)
	other := maps.Clone(marks)
	other[FloorFrom], other[FloorTo] = marks[FloorTo], marks[FloorFrom]
	assert.InDelta(t, want, value(Picture{}, other, BigToeLift), 1e-9, "the floor clicked the other way")
	over := map[Place]Point{}
	for at, p := range marks {
		over[at] = Point{1000 - p.X, p.Y}
	}
	for _, ticked := range []bool{false, true} {
		assert.InDelta(t, want, value(Picture{RunsLeft: ticked}, over, BigToeLift), 1e-9, "facing left, ticked %v", ticked)
	}
	for _, c := range []struct {
		from, to    Point
		left, known bool
	}{{Point{0, 0}, Point{40, 10}, false, true}, {Point{40, 0}, Point{0, 10}, true, true}, {Point{0, 0}, Point{10, 40}, false, false}, {Point{}, Point{}, false, false}} {
		left, known := Faces(c.from, c.to)
		assert.Equal(t, c.known, known)
		assert.Equal(t, c.left, left)
	}
	level := Line{{0, 500}, {900, 520}}
	assert.InDelta(t, value(Picture{Floor: &level}, marks, BigToeLift), value(Picture{Floor: &Line{level[1], level[0]}}, marks, BigToeLift), 1e-9)
	_, err := Picture{Floor: &Line{{0, 0}, {10, 400}}}.Read(marks, 0)
	assert.ErrorContains(t, err, "is it the plumb line?")
	_, err = Picture{Plumb: &Line{{0, 0}, {400, 10}}}.Read(marks, 0)
	assert.ErrorContains(t, err, "is it the floor?")
}
