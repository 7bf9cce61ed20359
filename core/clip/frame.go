package clip

import (
	"fmt"
	"math"
	"slices"

	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/stats"
)

// How fast a measure goes on after contact and before toe-off where its neighbours were
// not marked, a second at a cadence of rateCadence: settled 44's typical rates (house:
// the upper part of what the drawn figures do; a person's shin turns more slowly, so the
// margin errs to the wide side).
const (
	shinTurns   = 570.0  // °
	thighTurns  = 590.0  // ° at toe-off itself
	thighSlows  = 5500.0 // less of it over a longer time between frames, ° a second for each second
	footTurns   = 290.0  // ° from contact to the flat sole
	ankleGoes   = 330.0  // cm under the hip, where the speed is not known
	kneeTurns   = 80.0   // ° in the middle of the stance, to the frame nearest to it
	kink        = 0.45   // of the gap: a limb's way bends at contact, and half-way between is not the middle then
	kinkOff     = 0.3    // at toe-off
	hipTurns    = 1.06   // times the speed: the hip turns back over the foot
	hipRises    = 4.0    // cm, round its highest and lowest
	rateCadence = 170.0
	unknownRate = 30.0 // frames a second, where nothing says how many there are (house: the slowest camera in use)
)

// RateSource tags the typical rates.
var RateSource = source.House("the upper part of what the drawn figures do at contact and toe-off (docs/coverage.md)")

// pairs are moments of one instant marked in the two frames round it: an event lies
// between them (settled 43).
type pairs struct {
	with      map[int]int // a moment and the one in the frame beside it
	companion map[int]int // the one beside, and the moment it is read into
}

// pairs finds moments of contact in the frame before the first that carries, and of
// toe-off in the frame after the last that touches.
func (m Marks) pairs() pairs {
	out := pairs{map[int]int{}, map[int]int{}}
	for i, x := range m.Moments {
		step := map[string]int{"contact": -1, "toe-off": 1}[x.Template]
		if _, taken := out.companion[i]; step == 0 || taken {
			continue
		}
		for k, y := range m.Moments {
			_, paired := out.with[k]
			_, beside := out.companion[k]
			there := slices.Contains(m.Events, Event{y.Frame, y.Side, x.Template}) // then it is the event's own frame
			if y.Template == x.Template && y.Side == x.Side && y.Frame == x.Frame+step && !paired && !beside && !there {
				out.with[i], out.companion[k] = k, i
			}
		}
	}
	return out
}

// gap is the time between two frames, s.
func (m Marks) gap(times []float64) float64 {
	_, frame, err := m.clock(times)
	if err != nil || frame <= 0 {
		return 1 / unknownRate
	}
	return frame
}

// turns is how far a measure goes until the frame beside an instant; 0 where it hardly does.
func (m Marks) turns(id measure.MeasureID, template string, gap, cadence float64) float64 {
	per := map[string]float64{
		"contact/" + string(measure.OverstrideDeg):  shinTurns,
		"contact/" + string(measure.StrikeAngle):    footTurns,
		"contact/" + string(measure.KneeFlexion):    shinTurns,
		"bounce/" + string(measure.BounceCm):        hipRises,
		"mid-stance/" + string(measure.KneeFlexion): kneeTurns,
		"toe-off/" + string(measure.HipExtension):   max(thighTurns/2, thighTurns-thighSlows*gap),
		"toe-off/" + string(measure.KneeFlexion):    shinTurns,
		"toe-off/" + string(measure.ShinAngle):      shinTurns,
	}[template+"/"+string(id)]
	if template == "contact" && id == measure.OverstrideCm {
		if m.SpeedKmh > 0 {
			return gap * hipTurns * 100 * m.SpeedKmh / 3.6
		}
		return gap * ankleGoes
	}
	return gap * per * cadence / rateCadence
}

// cadence is what the marked contacts say, spm, or the usual one where they say little.
func (m Marks) cadence(gap float64) float64 {
	from, to, n := math.MaxInt, 0, 0
	for _, e := range m.Events {
		if e.Kind == "contact" {
			from, to, n = min(from, e.Frame), max(to, e.Frame), n+1
		}
	}
	if n < measure.StepsLeast || to <= from {
		return rateCadence
	}
	return min(2*rateCadence, max(rateCadence/2, 60*float64(n-1)/(float64(to-from)*gap)))
}

// withFrame is a reading with what the frame adds: half-way between two marked frames, or
// as far as it goes until the next (settled 44).
func (m Marks) withFrame(y measure.Reading, x Moment, other map[measure.MeasureID]float64, gap float64, age screening.Age) Judged {
	points := math.Hypot(y.Margin, measure.OffBy(x.By, y.Measure, gap, m.Near != "" && x.Side == m.Near.Other()))
	shares := map[string]float64{fewPoints: points}
	frame, between := 0.0, false
	if v, ok := other[y.Measure]; ok {
		// Two frames' points, but for what both are read against: standing.
		points *= math.Sqrt(0.5)
		if y.Measure == measure.StrikeAngle {
			points *= math.Sqrt(1.5)
		}
		// The time is uniform between the frames, and so is the value.
		between = true
		bent := kink
		if x.Template == "toe-off" {
			bent = kinkOff
		}
		frame = max(stats.Z95*math.Abs(v-y.Value)/math.Sqrt(12), bent*m.turns(y.Measure, x.Template, gap, m.cadence(gap)))
		y.Value = (y.Value + v) / 2
	} else {
		frame = 0.95 * m.turns(y.Measure, x.Template, gap, m.cadence(gap))
	}
	shares[slowCamera] = frame
	y.Margin = math.Hypot(points, frame)
	if y.Measure == measure.TrunkLean { // one shoulder and one hip
		shares[oneSide] = measure.TurnedShoulders
		y.Margin = math.Hypot(y.Margin, measure.TurnedShoulders)
	}
	j := judge(y, x, age)
	j.Frame, j.Between = frame, between
	if j.Unsure {
		j.Surer = fmt.Sprintf("± %.1f %s crosses a cut-off. ", y.Margin, y.Unit) + surer(shares, between, x.Template, y.ShortPx)
	}
	return j
}

// What a margin is made of.
const (
	fewPoints  = "points"
	slowCamera = "frames"
	oneSide    = "side"
)

// surer says what would make a reading surer: what its largest share asks for.
func surer(shares map[string]float64, between bool, template string, shortPx float64) string {
	switch {
	case shares[oneSide] > max(shares[fewPoints], shares[slowCamera]):
		return "Most of it is the shoulder that turns with the arm: a camera that sees both sides would tell, or more steps."
	case shares[slowCamera] > shares[fewPoints] && !between && template == "contact":
		return "Most of it is the frame rate: mark the frame before as well and it is read between the two, or film with more frames a second."
	case shares[slowCamera] > shares[fewPoints] && !between:
		return "Most of it is the frame rate: mark the frame after as well and it is read between the two, or film with more frames a second."
	case shares[slowCamera] > shares[fewPoints]:
		return "Most of it is the frame rate: film with more frames a second, or read more steps."
	}
	return fmt.Sprintf("Most of it is how well points are placed: film closer (the segment is %.0f px long), place them again, or read more steps.", shortPx)
}
