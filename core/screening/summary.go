package screening

import (
	"math"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/source"
	"notchback/core/stats"
)

// Verdict is what a side's result says.
type Verdict string

// The verdicts, and the two states without one.
const (
	OK          Verdict = "ok"
	Watch       Verdict = "watch"
	Limited     Verdict = "limited"
	Borderline  Verdict = "borderline"
	NotMeasured Verdict = "not measured"
	Stopped     Verdict = "stopped by pain"
)

// Confidence is how far a result can be trusted.
type Confidence string

// The three steps of confidence.
const (
	Sure       Confidence = "sure"
	Uncertain  Confidence = "borderline"
	OneReading Confidence = "one reading"
)

// MarginBasis says what a margin was computed from.
type MarginBasis string

// The bases: the known noise of the test, the spread of the trials, or none.
const (
	FromNoise  MarginBasis = "measurement noise"
	FromTrials MarginBasis = "spread of the trials"
	NoMargin   MarginBasis = "none"
)

// SideSummary is the result of one side of one test.
type SideSummary struct {
	Side       body.Side   `json:"side" enum:"left,right"`
	Value      *float64    `json:"value,omitempty" doc:"Mean, best or worst of the valid trials, in the test's unit"`
	N          int         `json:"n" doc:"Valid trials"`
	Kept       int         `json:"kept" doc:"Trials kept but struck out"`
	SD         *float64    `json:"sd,omitempty" doc:"Sample standard deviation of the valid trials"`
	Margin     *float64    `json:"margin,omitempty" doc:"95 % half-width of the value"`
	Basis      MarginBasis `json:"basis"`
	Disagree   bool        `json:"disagree" doc:"The trials differ by more than the test's noise explains"`
	Verdict    Verdict     `json:"verdict" enum:"ok,watch,limited,borderline,not measured,stopped by pain"`
	Class      Verdict     `json:"class" doc:"The class of the value itself; after five borderline trials the more cautious one"`
	TakeMore   bool        `json:"takeMore" doc:"Borderline with fewer than five trials: take one more"`
	Borderline bool        `json:"borderline" doc:"A cut-off lies inside the margin"`
	Severity   int         `json:"severity" doc:"0 ok, 1 watch or borderline, 2 limited"`
	Confidence Confidence  `json:"confidence"`
	WorstPain  *body.Pain  `json:"worstPain,omitempty"`
	Cut        Cut         `json:"cut"`
	Values     []*float64  `json:"values" nullable:"false" doc:"For each trial given, its value"`
	Counts     []bool      `json:"counts" nullable:"false" doc:"For each trial given, whether it counts"`
}

// Measured reports whether the side has a valid result.
func (s SideSummary) Measured() bool { return s.Value != nil }

// Age is a runner's age for norms; Known is false when it is not known.
type Age struct {
	Years int
	Known bool
}

// Summarise reduces the trials of one side. Trials that break a rule of the
// test must have been refused by Check before. A struck-out trial changes
// nothing but Kept and Counts; a trial stopped by pain is kept and its pain
// counts, its value does not.
func Summarise(t Test, side body.Side, trials []Trial, age Age) SideSummary {
	s := SideSummary{
		Side: side, Verdict: NotMeasured, Class: NotMeasured, Basis: NoMargin, Confidence: OneReading,
		Cut: t.CutFor(age.Years, age.Known), Counts: make([]bool, len(trials)), Values: make([]*float64, len(trials)),
	}
	var valid []float64
	stopped := false
	for i, tr := range trials {
		s.Values[i] = tr.Value
		if p := tr.Pain; p != nil && (s.WorstPain == nil || *p > *s.WorstPain) {
			worst := *p
			s.WorstPain = &worst
		}
		switch {
		case tr.StoppedByPain():
			stopped = true
			s.Kept++
		case tr.Value == nil || len(t.invalidating(tr)) > 0:
			s.Kept++
		default:
			s.Counts[i] = true
			valid = append(valid, *tr.Value)
		}
	}
	s.N = len(valid)
	if s.N == 0 {
		if stopped {
			s.Verdict, s.Class = Stopped, Stopped
		}
		return s
	}
	v := reduce(t.Reduction, valid)
	s.Value = &v
	if s.N > 1 {
		sd := stats.SD(valid)
		s.SD = &sd
	}
	s.setMargin(t, valid)
	s.judge()
	return s
}

func reduce(r Reduction, x []float64) float64 {
	switch r {
	case BestOfTrials:
		best := x[0]
		for _, v := range x {
			best = max(best, v)
		}
		return best
	case WorstOfTrials:
		worst := x[0]
		for _, v := range x {
			worst = min(worst, v)
		}
		return worst
	default:
		return stats.Mean(x)
	}
}

// setMargin follows the rule of margins: the test's noise where it is known;
// the spread of the trials where they disagree by more than twice that noise,
// or where no noise is known and there are three; none for counts and classes.
func (s *SideSummary) setMargin(t Test, valid []float64) {
	if t.Reduction != MeanOfTrials {
		s.Confidence = Sure
		return
	}
	n := len(valid)
	spread, _ := stats.TMargin(valid)
	switch {
	case t.Noise != nil && n >= 3 && stats.SD(valid) > 2*t.Noise.SEM:
		s.Margin, s.Basis, s.Disagree = &spread, FromTrials, true
	case t.Noise != nil:
		m := stats.Z95 * t.Noise.SEM / math.Sqrt(float64(n))
		s.Margin, s.Basis = &m, FromNoise
	case n >= 3:
		s.Margin, s.Basis = &spread, FromTrials
	default:
		return
	}
	s.Confidence = Sure
}

func (c Cut) class(v float64) Verdict {
	switch {
	case v >= c.OK:
		return OK
	case v >= c.Watch:
		return Watch
	default:
		return Limited
	}
}

func (s *SideSummary) judge() {
	v := *s.Value
	s.Class = s.Cut.class(v)
	s.Verdict = s.Class
	if s.Margin != nil {
		m := *s.Margin
		s.Borderline = math.Abs(v-s.Cut.OK) < m || math.Abs(v-s.Cut.Watch) < m
	}
	s.Severity = severityOf(s.Class)
	if !s.Borderline {
		return
	}
	s.Confidence = Uncertain
	s.Severity = min(s.Severity, 1)
	if s.N < MaxTrials {
		s.Verdict, s.TakeMore, s.Severity = Borderline, true, 1
		return
	}
	// Five trials and still undecided: the more cautious of the two classes.
	s.Class = s.Cut.class(v - *s.Margin)
	s.Verdict, s.Severity = s.Class, 1
}

func severityOf(v Verdict) int {
	switch v {
	case Watch, Borderline:
		return 1
	case Limited:
		return 2
	}
	return 0
}

// Asymmetry compares the two sides of one test.
type Asymmetry struct {
	Known      bool       `json:"known" doc:"Both sides have a result"`
	Difference float64    `json:"difference" doc:"Left minus right, in the test's unit"`
	MDC95      *float64   `json:"mdc95,omitempty" doc:"The smallest difference one trial a side can show, in the test's unit"`
	Clear      bool       `json:"clear" doc:"The difference is at least the MDC95, or the symmetry index is under 90 %"`
	Weaker     body.Side  `json:"weaker,omitempty" enum:"left,right,"`
	LSI        *float64   `json:"lsi,omitempty" doc:"Limb symmetry index in %, where higher is better"`
	Class      Verdict    `json:"class,omitempty" doc:"ok, watch or limited where the test has side cut-offs"`
	Degrees    *float64   `json:"degrees,omitempty" doc:"The difference in degrees of dorsiflexion, for knee to wall"`
	Source     source.Tag `json:"source"`
}

// LSI returns the limb symmetry index 100 · lower / higher in %, and false when
// both are 0. One side at 0 gives 0.
func LSI(a, b float64) (float64, bool) {
	hi := max(a, b)
	if hi <= 0 {
		return 0, false
	}
	return 100 * min(a, b) / hi, true
}

// Compare judges the difference between the sides of one test.
func Compare(t Test, left, right SideSummary) Asymmetry {
	if !left.Measured() || !right.Measured() {
		return Asymmetry{Source: source.Weir2005}
	}
	a := Asymmetry{Known: true, Difference: *left.Value - *right.Value, Source: source.Weir2005}
	switch {
	case a.Difference < 0:
		a.Weaker = body.Left
	case a.Difference > 0:
		a.Weaker = body.Right
	}
	size := math.Abs(a.Difference)
	if t.Noise != nil {
		mdc := stats.MDC95(t.Noise.SEM)
		a.MDC95, a.Clear = &mdc, size >= mdc
	}
	if t.Symmetry {
		a.Source = source.Common()
		if lsi, ok := LSI(*left.Value, *right.Value); ok {
			a.LSI, a.Clear = &lsi, lsi < SymmetryLimit
		}
	}
	if t.SideCut != nil {
		a.Source = t.SideCut.Source
		switch {
		case size >= t.SideCut.Limited:
			a.Class = Limited
		case size >= t.SideCut.Watch:
			a.Class = Watch
		default:
			a.Class = OK
		}
	}
	if t.ID == KneeToWall {
		d := measure.LungeDegrees(size)
		a.Degrees = &d
	}
	return a
}

// Result is both sides of one test with their comparison.
type Result struct {
	Test      TestID      `json:"test"`
	Left      SideSummary `json:"left"`
	Right     SideSummary `json:"right"`
	Asymmetry Asymmetry   `json:"asymmetry"`
}

// Side returns the summary of one side.
func (r Result) Side(s body.Side) SideSummary {
	if s == body.Right {
		return r.Right
	}
	return r.Left
}

// Weaker returns the side with the lower value; the left when they are equal.
// ok is false when a side is missing.
func (r Result) Weaker() (s SideSummary, ok bool) {
	if !r.Left.Measured() || !r.Right.Measured() {
		return SideSummary{}, false
	}
	if *r.Right.Value < *r.Left.Value {
		return r.Right, true
	}
	return r.Left, true
}

// Reduce summarises both sides of a test and compares them.
func Reduce(t Test, left, right []Trial, age Age) Result {
	r := Result{Test: t.ID, Left: Summarise(t, body.Left, left, age), Right: Summarise(t, body.Right, right, age)}
	r.Asymmetry = Compare(t, r.Left, r.Right)
	return r
}
