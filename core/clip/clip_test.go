package clip

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/screening"
)

type pts = map[measure.Place]measure.Point

func readings(t *testing.T, m Marks, r Runner) map[measure.MeasureID]Judged {
	t.Helper()
	out, err := Read(m, nil, r)
	require.NoError(t, err)
	got := map[measure.MeasureID]Judged{}
	for _, x := range out.Moments {
		for _, j := range x.Readings {
			got[j.Measure] = j
		}
	}
	return got
}

var stand = Moment{Template: "standing", Side: body.Right, Points: pts{measure.HeelStand: {X: 310, Y: 652}, measure.ToeStand: {X: 399, Y: 650}}}

func TestAContactGivesStrikeAndOverstride(t *testing.T) {
	contact := Moment{Frame: 4, Template: "contact", Side: body.Right, Points: pts{measure.Ankle: {X: 480, Y: 610}, measure.Knee: {X: 440, Y: 460}, measure.Hip: {X: 430, Y: 300}, measure.Shoulder: {X: 470, Y: 100}, measure.Heel: {X: 300, Y: 640}, measure.Toe: {X: 388, Y: 622}}}
	got := readings(t, Marks{View: Side, Rate: 240, Moments: []Moment{contact, stand}}, Runner{})
	strike := got[measure.StrikeAngle]
	assert.InDelta(t, 10.3, strike.Value, 0.05)
	assert.Equal(t, "rear", strike.Class)
	assert.True(t, strike.Unsure, "± 5.0 crosses 8.0")
	assert.Contains(t, strike.Surer, "film closer")
	assert.EqualValues(t, "strike-angle", strike.Test)
	over := got[measure.OverstrideDeg]
	assert.Equal(t, screening.Overstride, over.Test)
	assert.Equal(t, screening.Limited, over.Verdict, "15° ahead")
	assert.EqualValues(t, "trunk-lean", got[measure.TrunkLean].Test)
	assert.Equal(t, body.Both, got[measure.TrunkLean].Side, "a trunk has no side")
	assert.Empty(t, got[measure.OverstrideCm].Test, "nothing to send it to")
	assert.NotContains(t, got, measure.ShinAngle, "at contact it is the overstride")
	assert.NotContains(t, got, measure.HipExtension)
	// The same with fifteen times the foot is sure.
	far := contact
	far.Points = pts{}
	for at, p := range contact.Points {
		far.Points[at] = measure.Point{X: 5 * p.X, Y: 5 * p.Y}
	}
	big := stand
	big.Points = pts{measure.HeelStand: {X: 1550, Y: 3260}, measure.ToeStand: {X: 1995, Y: 3250}}
	strike = readings(t, Marks{View: Side, Rate: 240, Moments: []Moment{far, big}}, Runner{})[measure.StrikeAngle]
	assert.False(t, strike.Unsure)
	// Without standing there is no strike, and that is said.
	out, err := Read(Marks{Moments: []Moment{contact}}, nil, Runner{})
	require.NoError(t, err)
	assert.Contains(t, out.Says, "A foot strike needs the same two points in standing.")
	assert.Empty(t, out.Moments[0].Missing)
}

func TestOtherMomentsGoToTheirTests(t *testing.T) {
	scale := measure.Picture{Scale: &measure.Line{{X: 0, Y: 0}, {X: 0, Y: 200}}, ScaleCm: 100}
	for name, c := range map[string]struct {
		m       Moment
		measure measure.MeasureID
		test    screening.TestID
	}{
		"seated":  {Moment{Template: "seated", Points: pts{measure.ShinLow: {X: 412, Y: 618}, measure.ShinUp: {X: 498, Y: 469}}}, measure.ShinEdge, screening.SeatedShin},
		"toe-off": {Moment{Template: "toe-off", Points: pts{measure.Hip: {X: 500, Y: 300}, measure.Knee: {X: 460, Y: 460}}}, measure.HipExtension, screening.HipExtension},
		"big toe": {Moment{Template: "big-toe", Points: pts{measure.BallJoint: {X: 300, Y: 600}, measure.BigToeTip: {X: 340, Y: 577}, measure.FloorFrom: {X: 200, Y: 620}, measure.FloorTo: {X: 400, Y: 620}}}, measure.BigToeLift, screening.BigToePassive},
		"behind":  {Moment{Template: "behind", Points: pts{measure.PelvisL: {X: 100, Y: 200}, measure.PelvisR: {X: 200, Y: 217}}}, measure.HipDropAngle, screening.HipDrop},
		"bounce":  {Moment{Template: "bounce", Points: pts{measure.Highest: {X: 10, Y: 100}, measure.Lowest: {X: 10, Y: 118}}}, measure.BounceCm, screening.Bounce},
	} {
		got := readings(t, Marks{Picture: scale, Moments: []Moment{c.m}}, Runner{})
		require.Contains(t, got, c.measure, name)
		assert.Equal(t, c.test, got[c.measure].Test, name)
		assert.NotEmpty(t, got[c.measure].Verdict, name)
	}
	for _, x := range Templates {
		assert.NotEmpty(t, x.Hint)
		for _, s := range x.Places {
			assert.NotEmpty(t, s.Name, "%s %s", x.ID, s.Place)
		}
	}
}

// marked is events of n steps at a cadence and frame rate.
func marked(n int, cadence, contact, rate float64) []Event {
	out := []Event{}
	for i := range n {
		at := float64(i) * 60 / cadence
		foot := body.Sides[i%2]
		out = append(out, Event{int(math.Ceil(at*rate - 1e-9)), foot, "contact"}, Event{int((at + contact) * rate), foot, "toe-off"})
	}
	return out
}

func TestEventsGiveCadenceContactAndSpring(t *testing.T) {
	m := Marks{View: Side, Rate: 120, SpeedKmh: 12, Events: marked(10, 170, 0.24, 120)}
	out, err := Read(m, nil, Runner{MassKg: 70, LegCm: 92})
	require.NoError(t, err)
	assert.InDelta(t, 170, out.Gait.CadenceSpm, 1)
	require.NotNil(t, out.Spring)
	assert.InDelta(t, 2.4, out.Spring.BodyWeights, 0.3)
	tests := map[screening.TestID]int{}
	for _, x := range out.Times {
		tests[x.Test]++
	}
	assert.Equal(t, map[screening.TestID]int{screening.CadenceTest: 1, "contact-time": 2, "flight-time": 1}, tests)
	// Filmed at 240 and played at 30.
	slow := Marks{Rate: 30, Slow: 8, Events: marked(10, 170, 0.24, 240)}
	out, err = Read(slow, nil, Runner{})
	require.NoError(t, err)
	assert.InDelta(t, 170, out.Gait.CadenceSpm, 0.6)
	assert.InDelta(t, 1000.0/240, out.Gait.FrameMs, 1e-9)
	assert.Nil(t, out.Spring, "no mass known")
	// True presentation times win over a rate that somebody typed.
	times := make([]float64, 600)
	for i := range times {
		times[i] = float64(i) / 120
	}
	m.Rate = 10
	out, err = Read(m, times, Runner{})
	require.NoError(t, err)
	assert.InDelta(t, 170, out.Gait.CadenceSpm, 1)
}

func TestMarksThatCantBeSayWhich(t *testing.T) {
	_, err := Read(Marks{Events: marked(2, 170, 0.24, 60)}, nil, Runner{})
	require.ErrorContains(t, err, "how many frames a second")
	_, err = Read(Marks{Moments: []Moment{{Template: "jump"}}}, nil, Runner{})
	require.ErrorContains(t, err, "moments[0].template")
	_, err = Read(Marks{Moments: []Moment{{Template: "seated", Points: pts{measure.Ankle: {X: 1, Y: 1}, measure.Knee: {X: 1, Y: 1}}}}}, nil, Runner{})
	require.ErrorContains(t, err, "moments[0].knee")
	_, err = Read(Marks{Events: []Event{{9, body.Left, "contact"}}}, []float64{0, 0.1}, Runner{})
	require.ErrorContains(t, err, "frame 9 is not in the clip")
	_, err = Read(Marks{Rate: 60, Events: []Event{{9, body.Both, "contact"}}}, nil, Runner{})
	require.ErrorContains(t, err, "left or right")
	out, err := Read(Marks{Rate: 60, Events: []Event{{2, body.Left, "toe-off"}, {9, body.Right, "contact"}, {30, body.Right, "contact"}}}, nil, Runner{})
	require.NoError(t, err)
	assert.Contains(t, out.Says[0], "a contact is missing")
	assert.Contains(t, out.Says[1], "a toe-off is missing")
}

// A strike is unsure just where its margin reaches into another class.
func TestAStrikeIsUnsureWhereItsMarginReachesAnotherClass(t *testing.T) {
	for _, c := range []struct {
		value, margin float64
		class         string
		unsure        bool
	}{
		{8.0, 0.5, "mid", true}, {9, 0.9, "rear", false}, {9, 1.1, "rear", true}, {3.2, 4.7, "mid", false}, {3.2, 4.9, "mid", true},
		{-1.6, 0.1, "mid", true}, {-2, 0.3, "fore", false}, {-2, 0.5, "fore", true}, {-12, 9, "fore", false},
	} {
		j := judge(measure.Reading{Measure: measure.StrikeAngle, Value: c.value, Margin: c.margin, Unit: "°"}, Moment{Template: "contact", Side: body.Left}, screening.Age{})
		assert.Equal(t, c.class, j.Class, "%g", c.value)
		assert.Equal(t, c.unsure, j.Unsure, "%g ± %g", c.value, c.margin)
		assert.Equal(t, c.unsure, j.Surer != "")
	}
}

// By hand: of drawn gaits whose events fall anywhere between two frames, the stated 95 %
// covers contact, flight and cadence as often as it says (drawn 300 a cell; the bound is
// 93 % less two standard errors of the draw), and is not much wider than it must be.
func TestMarkedEventsAreCovered(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 3))
	const gaits = 300
	for _, rate := range []float64{30, 60, 120, 240} {
		type cell struct {
			in     int
			off, w []float64
		}
		cells := map[string]*cell{"contact": {}, "flight": {}, "cadence": {}}
		put := func(name string, v, margin, truth float64) {
			c := cells[name]
			if math.Abs(v-truth) <= margin {
				c.in++
			}
			c.off, c.w = append(c.off, math.Abs(v-truth)), append(c.w, margin)
		}
		for range gaits {
			cadence, contact, from := 150+r.Float64()*50, 0.19+r.Float64()*0.1, r.Float64()/rate
			step := 60 / cadence
			if step-contact < 0.03 {
				contact = step - 0.03
			}
			var m Marks
			m.Rate = rate
			n := 8 + r.IntN(6)
			for i := range n {
				at := 0.2 + from + float64(i)*step
				foot := body.Sides[i%2]
				m.Events = append(m.Events, Event{int(math.Ceil(at * rate)), foot, "contact"}, Event{int((at + contact) * rate), foot, "toe-off"})
			}
			out, err := Read(m, nil, Runner{})
			require.NoError(t, err)
			put("contact", out.Gait.Contact.Seconds, out.Gait.Contact.Margin, contact)
			put("flight", out.Gait.Flight.Seconds, out.Gait.Flight.Margin, step-contact)
			put("cadence", out.Gait.CadenceSpm, out.Gait.CadenceOff, cadence)
		}
		for name, c := range cells {
			share := float64(c.in) / gaits
			slices.Sort(c.off)
			slices.Sort(c.w)
			t.Logf("%s at %.0f Hz: %.1f %% covered, %.2f × what covers 95 %%", name, rate, 100*share, c.w[gaits/2]/c.off[gaits*95/100])
			assert.GreaterOrEqual(t, share, 0.93-2*math.Sqrt(0.95*0.05/gaits), "%s at %.0f Hz", name, rate)
		}
	}
}

// A picture turned over gives the same, whatever was ticked: the foot that comes down and
// the knee of somebody seated show which way (settled 48).
func TestATurnedPictureGivesTheSame(t *testing.T) {
	standing := Moment{Template: "standing", Points: pts{measure.HeelStand: {X: 100, Y: 700}, measure.ToeStand: {X: 140, Y: 700}}}
	contact := Moment{Template: "contact", Points: pts{measure.Heel: {X: 200, Y: 600}, measure.Toe: {X: 240, Y: 590}, measure.Ankle: {X: 205, Y: 570}, measure.Knee: {X: 190, Y: 450}, measure.Hip: {X: 150, Y: 330}, measure.Shoulder: {X: 160, Y: 150}}}
	seated := Moment{Template: "seated", Points: pts{measure.ShinLow: {X: 412, Y: 618}, measure.ShinUp: {X: 498, Y: 469}}}
	over := func(m Moment) Moment {
		out := Moment{Template: m.Template, Points: pts{}}
		for at, p := range m.Points {
			out.Points[at] = measure.Point{X: 1000 - p.X, Y: p.Y}
		}
		return out
	}
	want := readings(t, Marks{Moments: []Moment{standing, contact}}, Runner{})
	for _, ticked := range []bool{false, true} {
		pic := measure.Picture{RunsLeft: ticked}
		got := readings(t, Marks{Picture: pic, Moments: []Moment{over(standing), over(contact)}}, Runner{})
		for id, j := range want {
			if id == measure.StrikeAngle {
				continue // its standing points are read in the same picture
			}
			assert.InDelta(t, j.Value, got[id].Value, 1e-9, "%s, ticked %v", id, ticked)
		}
		for _, x := range []Moment{seated, over(seated)} {
			shin := readings(t, Marks{Picture: pic, Moments: []Moment{x}}, Runner{})[measure.ShinEdge]
			assert.InDelta(t, 29.99, shin.Value, 0.1)
			assert.NotEqual(t, screening.Limited, shin.Verdict)
		}
	}
}

// One event, or few, make no cadence that goes into a screening.
func TestFewContactsMakeNoCadence(t *testing.T) {
	for n, want := range map[int]bool{1: false, 2: false, 5: false, 6: true} {
		out, err := Read(Marks{Rate: 120, Events: marked(n, 170, 0.24, 120)}, nil, Runner{})
		require.NoError(t, err)
		assert.Equal(t, want, slices.ContainsFunc(out.Times, func(j Judged) bool { return j.Test == screening.CadenceTest }), "%d contacts", n)
	}
}

// Points are placed less exactly on a large picture, and a trunk seen from one side is
// off by what its shoulder turns (settled 46 and 47).
func TestMarginsGrowWithThePicture(t *testing.T) {
	points := pts{measure.Ankle: {X: 412, Y: 618}, measure.Knee: {X: 498, Y: 469}, measure.Hip: {X: 500, Y: 300}, measure.Shoulder: {X: 520, Y: 100}}
	of := func(height float64) map[measure.MeasureID]Judged {
		return readings(t, Marks{Picture: measure.Picture{HeightPx: height}, Moments: []Moment{{Template: "seated", Points: points}}}, Runner{})
	}
	small, large := of(720), of(8000)
	assert.InDelta(t, 10, large[measure.ShinAngle].Margin/small[measure.ShinAngle].Margin, 0.01, "20 px against 2")
	assert.InDelta(t, of(0)[measure.ShinAngle].Margin, small[measure.ShinAngle].Margin, 1e-9)
	assert.Greater(t, small[measure.TrunkLean].Margin, measure.TurnedShoulders)
	own := readings(t, Marks{Picture: measure.Picture{HeightPx: 8000, NoisePx: 3}, Moments: []Moment{{Template: "seated", Points: points}}}, Runner{})
	assert.Less(t, own[measure.ShinAngle].Margin, large[measure.ShinAngle].Margin, "the coach's own noise counts")
	_, err := Read(Marks{Picture: measure.Picture{HeightPx: 30000}, Moments: []Moment{{Template: "seated", Points: points}}}, nil, Runner{})
	assert.ErrorContains(t, err, "heightPx")
}

// What an angle of one frame is worth depends on how far it turns until the next; the frame
// before it, marked as well, makes it surer (settled 44).
func TestTheFrameIsPartOfTheMargin(t *testing.T) {
	at := func(frame int, knee float64) Moment {
		return Moment{Frame: frame, Template: "contact", Side: body.Right, Points: pts{measure.Ankle: {X: 480, Y: 910}, measure.Knee: {X: knee, Y: 460}}}
	}
	of := func(m Marks) Judged { return readings(t, m, Runner{})[measure.OverstrideDeg] }
	var last float64
	for i, rate := range []float64{240, 120, 60, 30} {
		j := of(Marks{Rate: rate, Moments: []Moment{at(50, 420)}})
		assert.False(t, j.Between)
		assert.InDelta(t, 0.95*shinTurns/rate, j.Frame, 1e-9)
		if i > 0 {
			assert.Greater(t, j.Margin, 1.3*last)
		}
		last = j.Margin
	}
	one := of(Marks{Rate: 60, Moments: []Moment{at(50, 420)}})
	for _, list := range [][]Moment{{at(50, 420), at(49, 400)}, {at(49, 400), at(50, 420)}} {
		out, err := Read(Marks{Rate: 60, Moments: list}, nil, Runner{})
		require.NoError(t, err)
		var both []Judged
		for _, m := range out.Moments {
			both = append(both, m.Readings...)
			assert.Equal(t, m.Frame == 49, m.Into != nil, "the frame before says where it is read")
		}
		require.Len(t, both, 1, "two frames are one reading")
		assert.True(t, both[0].Between)
		assert.InDelta(t, (one.Value+of(Marks{Rate: 60, Moments: []Moment{at(49, 400)}}).Value)/2, both[0].Value, 1e-9)
		assert.Less(t, both[0].Margin, 0.7*one.Margin)
	}
	// The frame before is the event's own: then both were marked too late.
	late := Marks{Rate: 60, Moments: []Moment{at(50, 420), at(49, 400)}, Events: []Event{{49, body.Right, "contact"}}}
	out, err := Read(late, nil, Runner{})
	require.NoError(t, err)
	for _, m := range out.Moments {
		require.Len(t, m.Readings, 1)
		assert.False(t, m.Readings[0].Between)
	}
	// Nobody says how fast the film was: the slowest in use.
	assert.InDelta(t, of(Marks{Rate: 30, Moments: []Moment{at(50, 420)}}).Margin, of(Marks{Moments: []Moment{at(50, 420)}}).Margin, 1e-9)
	// A faster cadence turns faster.
	quick := Marks{Rate: 60, Moments: []Moment{at(50, 420)}, Events: marked(8, 200, 0.2, 60)}
	assert.InDelta(t, 200/rateCadence*one.Frame, of(quick).Frame, 0.05*one.Frame)
	// The largest share is named.
	slow := of(Marks{Rate: 30, Moments: []Moment{at(50, 440)}})
	require.True(t, slow.Unsure)
	assert.Contains(t, slow.Surer, "frame rate")
	coarse := of(Marks{Rate: 1000, Picture: measure.Picture{NoisePx: 30}, Moments: []Moment{at(50, 440)}})
	require.True(t, coarse.Unsure)
	assert.Contains(t, coarse.Surer, "how well points are placed")
	lean := readings(t, Marks{Rate: 240, Moments: []Moment{{Frame: 3, Template: "contact", Points: pts{measure.Hip: {X: 100, Y: 900}, measure.Shoulder: {X: 210, Y: 100}}}}}, Runner{})[measure.TrunkLean]
	if lean.Unsure {
		assert.Contains(t, lean.Surer, "shoulder")
	}
	// Several steps read in one frame each are late by half a gap, however many.
	many := Marks{Rate: 60, Moments: []Moment{at(50, 420), at(150, 420), at(250, 420), at(350, 420)}}
	out, err = Read(many, nil, Runner{})
	require.NoError(t, err)
	assert.Greater(t, out.All()[0].Margin, one.Frame/2)
	assert.Less(t, out.All()[0].Margin, one.Margin)
}

// The seated shin is read along its front edge; an old reading from ankle bone to knee keeps
// its points, says so, and goes into no test (settled 45).
func TestAnOldSeatedShinSaysWhatItIs(t *testing.T) {
	old := Moment{Template: "seated", Side: body.Left, Points: pts{measure.Ankle: {X: 412, Y: 618}, measure.Knee: {X: 498, Y: 469}}}
	out, err := Read(Marks{Moments: []Moment{old}}, nil, Runner{})
	require.NoError(t, err)
	require.Len(t, out.Moments[0].Readings, 1)
	assert.Empty(t, out.Moments[0].Readings[0].Test)
	assert.InDelta(t, 29.99, out.Moments[0].Readings[0].Value, 0.1)
	require.Len(t, out.Says, 1)
	assert.Contains(t, out.Says[0], "7 to 9° less")
	assert.Len(t, out.Moments[0].Missing, 2, "the front edge is still to be marked")
}
