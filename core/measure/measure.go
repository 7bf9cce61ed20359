// Package measure turns raw counts and lengths into values with their margins.
// Lengths are centimetres, angles degrees, times seconds.
package measure

import (
	"errors"
	"fmt"
	"math"

	"notchback/core/source"
	"notchback/core/stats"
)

// LungeDegreesPerCm is how much ankle dorsiflexion one centimetre of
// knee-to-wall distance stands for (Bennell 1998, from memory).
const LungeDegreesPerCm = 3.6

// LungeSource tags LungeDegreesPerCm.
var LungeSource = source.Bennell1998

// LungeDegrees converts a difference of knee-to-wall distance in cm into
// degrees of dorsiflexion.
func LungeDegrees(cm float64) float64 { return LungeDegreesPerCm * cm }

// CountWindow bounds in seconds for counting steps.
const (
	MinCountWindow = 5
	MaxCountWindow = 120
)

// OneFootBelow is the cadence in spm under which a count is probably of one
// foot only (house: nobody runs at 120).
const OneFootBelow = 120

// CadenceMarginLimit is the margin in spm above which a cadence is too
// uncertain to act on.
const CadenceMarginLimit = 3

// Cadence is a cadence with its uncertainty, in steps per minute.
type Cadence struct {
	MeanSpm       float64   `json:"meanSpm"`
	SD            float64   `json:"sd" doc:"Sample standard deviation (n − 1), spm"`
	MarginSpm     float64   `json:"marginSpm" doc:"95 % half-width, spm"`
	ResolutionSpm float64   `json:"resolutionSpm" doc:"The step of one count, 60 / window, spm; 0 for taps"`
	N             int       `json:"n" doc:"Counts, or intervals for taps"`
	LeftOut       int       `json:"leftOut" doc:"Intervals left out as missed or double taps"`
	PerCountSpm   []float64 `json:"perCountSpm,omitempty"`
	Sure          bool      `json:"sure" doc:"The margin is at most 3 spm"`
	OneFoot       bool      `json:"oneFoot" doc:"Under 120 spm: probably one foot only"`
}

// CadenceFromCounts reduces counts of steps in equal windows of windowSeconds
// (5–120) to a cadence. The margin is the larger of t · SD / √n and
// resolution / √n; a single count has the resolution as its margin.
// Counts must be 1–600 and there must be at least one.
func CadenceFromCounts(steps []int, windowSeconds float64) (Cadence, error) {
	if windowSeconds < MinCountWindow || windowSeconds > MaxCountWindow {
		return Cadence{}, fmt.Errorf("windowSeconds: %g is outside %d–%d s", windowSeconds, MinCountWindow, MaxCountWindow)
	}
	if len(steps) == 0 {
		return Cadence{}, errors.New("counts: at least one count is needed")
	}
	res := 60 / windowSeconds
	per := make([]float64, len(steps))
	for i, n := range steps {
		if n < 1 || n > 600 {
			return Cadence{}, fmt.Errorf("counts[%d]: %d steps is outside 1–600", i, n)
		}
		per[i] = float64(n) * res
	}
	c := Cadence{MeanSpm: stats.Mean(per), SD: stats.SD(per), ResolutionSpm: res, N: len(per), PerCountSpm: per}
	c.MarginSpm = res / math.Sqrt(float64(len(per)))
	if m, ok := stats.TMargin(per); ok {
		c.MarginSpm = max(c.MarginSpm, m)
	}
	c.Sure = c.MarginSpm <= CadenceMarginLimit
	c.OneFoot = c.MeanSpm < OneFootBelow
	return c, nil
}

// ToeFromBlock returns the big-toe extension in degrees when a block of height
// blockCm under the toe pad lifts the toe, lengthCm from the crease at the ball
// to the block's edge: asin(h / L) when the length was taken along the
// underside of the toe, atan(h / L) when along the floor. Both lengths must be
// above 0, and the block lower than the underside is long.
func ToeFromBlock(blockCm, lengthCm float64, alongFloor bool) (float64, error) {
	if blockCm <= 0 || lengthCm <= 0 {
		return 0, errors.New("blockCm and lengthCm must be above 0 cm")
	}
	if alongFloor {
		return math.Atan(blockCm/lengthCm) * 180 / math.Pi, nil
	}
	if blockCm >= lengthCm {
		return 0, fmt.Errorf("blockCm: a block of %g cm can't be as high as the toe's underside is long (%g cm)", blockCm, lengthCm)
	}
	return math.Asin(blockCm/lengthCm) * 180 / math.Pi, nil
}

// Taps outside this share of the median interval are missed or double taps.
const tapTolerance = 0.35

// minTaps is how many taps are needed for a cadence.
const minTaps = 8

// CadenceFromTaps reduces tap times in seconds, strictly rising, to a cadence:
// the first tap is dropped, 60 / the median of the intervals; intervals off the
// median by more than 35 % are missed or double taps, counted and left out. The
// margin comes from the spread of the intervals that are kept. At least 8 taps
// are needed.
func CadenceFromTaps(times []float64) (Cadence, error) {
	if len(times) < minTaps {
		return Cadence{}, fmt.Errorf("taps: %d taps are too few, at least %d", len(times), minTaps)
	}
	var gaps []float64
	for i := 2; i < len(times); i++ {
		gap := times[i] - times[i-1]
		if gap <= 0 {
			return Cadence{}, fmt.Errorf("taps[%d]: the times must rise", i)
		}
		gaps = append(gaps, gap)
	}
	med, _ := stats.Median(gaps)
	var kept []float64
	for _, g := range gaps {
		if math.Abs(g-med) <= tapTolerance*med {
			kept = append(kept, g)
		}
	}
	med, _ = stats.Median(kept)
	c := Cadence{MeanSpm: 60 / med, N: len(kept), LeftOut: len(gaps) - len(kept)}
	if m, ok := stats.TMargin(kept); ok {
		c.SD = stats.SD(kept) / med * c.MeanSpm
		c.MarginSpm = m / med * c.MeanSpm
	}
	c.Sure = c.MarginSpm <= CadenceMarginLimit
	c.OneFoot = c.MeanSpm < OneFootBelow
	return c, nil
}
