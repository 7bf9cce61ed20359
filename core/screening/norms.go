package screening

import (
	"math"

	"notchback/core/body"
	"notchback/core/source"
	"notchback/core/stats"
)

// stanceCap is where the published trials ended, in seconds.
const stanceCap = 45

// stanceTable holds mean stance times by age, eyes open and closed (Springer
// 2007, from memory: mean of three trials, capped at 45 s, arms across the
// chest).
var stanceTable = []struct {
	from, to     int
	open, closed float64
}{{18, 39, 43.3, 9.4}, {40, 49, 40.3, 7.3}, {50, 59, 37.0, 4.8}, {60, 69, 26.9, 2.8}, {70, 79, 15.0, 2.0}, {80, 99, 6.2, 1.3}}

// Norm is a runner's stance against people of the same age. The set-up differs
// from ours: there the arms were across the chest and trials ended at 45 s.
type Norm struct {
	Known       bool       `json:"known" doc:"The age is in the table, 18 to 99"`
	NormSeconds float64    `json:"normSeconds" doc:"Mean of people of this age"`
	MeanSeconds float64    `json:"meanSeconds" doc:"Mean of the runner's trials, each clipped at 45 s"`
	Trials      int        `json:"trials"`
	Source      source.Tag `json:"source"`
}

// StanceMean returns the published mean for an age, and false outside 18–99.
func StanceMean(age Age, eyesOpen bool) (float64, bool) {
	for _, r := range stanceTable {
		if age.Known && age.Years >= r.from && age.Years <= r.to {
			if eyesOpen {
				return r.open, true
			}
			return r.closed, true
		}
	}
	return 0, false
}

// StanceNorm compares stance trials in seconds with people of the same age.
func StanceNorm(trials []float64, age Age, eyesOpen bool) Norm {
	return *stanceNorm(eyesOpen, trials, age)
}

func stanceNorm(open bool, x []float64, age Age) *Norm {
	clipped := make([]float64, min(len(x), 3))
	for i := range clipped {
		clipped[i] = math.Min(x[i], stanceCap)
	}
	n := Norm{Trials: len(clipped), Source: source.Springer2007}
	if len(clipped) > 0 {
		n.MeanSeconds = stats.Mean(clipped)
	}
	n.NormSeconds, n.Known = StanceMean(age, open)
	return &n
}

// PostureClass names a foot posture index from −12 to 12 (Redmond 2006, from
// memory).
func PostureClass(sum int) string {
	switch {
	case sum >= 10:
		return "highly pronated"
	case sum >= 6:
		return "pronated"
	case sum >= 0:
		return "normal"
	case sum >= -4:
		return "supinated"
	default:
		return "highly supinated"
	}
}

// Strike is a class of foot strike.
type Strike string

// The classes of foot strike.
const (
	RearStrike Strike = "rear"
	MidStrike  Strike = "mid"
	ForeStrike Strike = "fore"
)

// StrikeClass names a foot strike angle in degrees, toes up positive: over 8.0
// rear, −1.6 to 8.0 mid, under −1.6 fore (Altman & Davis 2012, from memory).
func StrikeClass(angle float64) Strike {
	switch {
	case angle > 8.0:
		return RearStrike
	case angle < -1.6:
		return ForeStrike
	default:
		return MidStrike
	}
}

// Cadence under the two schools.
const (
	cadenceLow      = 170
	cadenceClearLow = 160
	cadenceHigh     = 190
)

// CadenceInRange reads a cadence in spm under the school fixed-range: 170–190
// usual, under 170 low, under 160 clearly low, over 190 high.
func CadenceInRange(spm float64) (Verdict, string) {
	switch {
	case spm < cadenceClearLow:
		return Limited, "clearly low"
	case spm < cadenceLow:
		return Watch, "low"
	case spm > cadenceHigh:
		return Watch, "high"
	default:
		return OK, "usual"
	}
}

// Reach is a four-way reach of one side in cm and in per cent of leg length.
type Reach struct {
	Side             body.Side  `json:"side" enum:"left,right,both"`
	PercentOfLeg     [4]float64 `json:"percentOfLeg" doc:"Forward, side, back, crossed"`
	CompositePercent float64    `json:"compositePercent" doc:"Mean of the four; it has no norm"`
}

// ReachComposite reduces the four reaches of a side in cm by leg length in cm.
// ok is false for a leg length outside 40–130 cm.
func ReachComposite(side body.Side, cm [4]float64, legCm float64) (r Reach, ok bool) {
	if legCm < 40 || legCm > 130 {
		return r, false
	}
	r.Side = side
	for i, v := range cm {
		r.PercentOfLeg[i] = 100 * v / legCm
		r.CompositePercent += r.PercentOfLeg[i] / 4
	}
	return r, true
}

// Change is a re-test against an earlier result.
type Change string

// What a re-test can show.
const (
	Better        Change = "better"
	Same          Change = "no real change"
	Worse         Change = "worse"
	NotComparable Change = "not comparable"
)

// Retest is the comparison of two results of one side.
type Retest struct {
	Change Change   `json:"change" enum:"better,no real change,worse,not comparable"`
	By     float64  `json:"by" doc:"New minus old, in the test's unit"`
	MDC95  *float64 `json:"mdc95,omitempty" doc:"The smallest change that can be told from noise"`
}

// CompareDates judges a newer result of a side against an older one. Classes
// compare directly; measured values by the MDC95 of the test; a count or a time
// without a known noise is better or worse by any difference of more than a
// tenth (house), since less is within what a day makes.
func CompareDates(t Test, older, newer SideSummary) Retest {
	if !older.Measured() || !newer.Measured() {
		return Retest{Change: NotComparable}
	}
	r := Retest{By: *newer.Value - *older.Value, Change: Same}
	up := r.By
	switch {
	case len(t.Options) > 0:
		a, _ := t.Option(*older.Value)
		b, _ := t.Option(*newer.Value)
		if a.Verdict == Noted {
			return Retest{Change: NotComparable, By: r.By}
		}
		up = float64(severityOf(a.Verdict) - severityOf(b.Verdict))
	case t.Noise != nil:
		mdc := stats.MDC95(t.Noise.SEM)
		r.MDC95 = &mdc
		if math.Abs(r.By) < mdc {
			up = 0
		}
	case math.Abs(r.By) <= 0.1*math.Abs(*older.Value):
		up = 0
	}
	if t.cut != nil && t.cut.Lower {
		up = -up
	}
	switch {
	case up > 0:
		r.Change = Better
	case up < 0:
		r.Change = Worse
	}
	return r
}
