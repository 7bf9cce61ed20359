package screening

import (
	"math"
	"slices"
	"strings"

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
	Noted       Verdict = "noted" // no cut-off: shown, not judged
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
	Side          body.Side   `json:"side" enum:"left,right,both"`
	Value         *float64    `json:"value,omitempty" doc:"Mean, best or worst of the valid trials, in the test's unit"`
	N             int         `json:"n" doc:"Valid trials"`
	Kept          int         `json:"kept" doc:"Trials kept but struck out"`
	SD            *float64    `json:"sd,omitempty" doc:"Sample standard deviation of the valid trials"`
	Margin        *float64    `json:"margin,omitempty" doc:"95 % half-width of the value"`
	Basis         MarginBasis `json:"basis"`
	Disagree      bool        `json:"disagree" doc:"The trials differ by more than the test's noise explains"`
	Verdict       Verdict     `json:"verdict" enum:"ok,watch,limited,borderline,noted,not measured,stopped by pain"`
	Class         Verdict     `json:"class" doc:"The class of the value itself; after five borderline trials the more cautious one"`
	TakeMore      bool        `json:"takeMore" doc:"Borderline with fewer than five trials: take one more"`
	Borderline    bool        `json:"borderline" doc:"A cut-off lies inside the margin"`
	Severity      int         `json:"severity" doc:"0 ok, 1 watch or borderline, 2 limited"`
	Confidence    Confidence  `json:"confidence"`
	WorstPain     *body.Pain  `json:"worstPain,omitempty"`
	StoppedByPain bool        `json:"stoppedByPain,omitempty" doc:"A try was ended by pain: it opens no gate, and the verdict is at best watch"`
	Cut           *Cut        `json:"cut,omitempty" doc:"The cut-offs for this runner's age; none for a test that is only noted"`
	Label         string      `json:"label,omitempty" doc:"The class in words, for tests by eye"`
	Seen          []string    `json:"seen,omitempty" doc:"Compensations and faults seen in any trial"`
	Norm          *Norm       `json:"norm,omitempty" doc:"Stance against people of the same age"`
	Values        []*float64  `json:"values" nullable:"false" doc:"For each trial given, its value"`
	Counts        []bool      `json:"counts" nullable:"false" doc:"For each trial given, whether it counts"`
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
		Cut: t.CutFor(age), Counts: make([]bool, len(trials)), Values: make([]*float64, len(trials)),
	}
	var valid []Trial
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
		case tr.Value == nil || t.invalid(tr):
			s.Kept++
		default:
			s.Counts[i] = true
			valid = append(valid, tr)
			s.see(t, tr)
		}
	}
	s.N = len(valid)
	if s.N == 0 {
		if stopped {
			s.Verdict, s.Class, s.StoppedByPain, s.Severity = Stopped, Stopped, true, severityOf(Watch)
		}
		return s
	}
	s.StoppedByPain = stopped
	x := make([]float64, s.N)
	for i, tr := range valid {
		x[i] = *tr.Value
	}
	v := t.reduce(x)
	s.Value = &v
	if s.N > 1 && len(t.Options) == 0 {
		sd := stats.SD(x)
		s.SD = &sd
	}
	if t.norm == "stanceOpen" || t.norm == "stanceClosed" {
		s.Norm = stanceNorm(t.norm == "stanceOpen", x, age)
	}
	s.setMargin(t, x, valid)
	s.judge(t, valid)
	return s
}

// see notes the compensations of a valid trial.
func (s *SideSummary) see(t Test, tr Trial) {
	for _, c := range t.Compensations {
		if slices.Contains(tr.Compensations, c.ID) && !slices.Contains(s.Seen, c.ID) {
			s.Seen = append(s.Seen, c.ID)
		}
	}
}

// reduce returns the result of valid values; for a class the one whose verdict
// is worst.
func (t Test) reduce(x []float64) float64 {
	switch {
	case t.Reduction == MeanOfTrials:
		return stats.Mean(x)
	case len(t.Options) > 0:
		worst := x[0]
		for _, v := range x[1:] {
			a, _ := t.Option(worst)
			b, _ := t.Option(v)
			if severityOf(b.Verdict) > severityOf(a.Verdict) {
				worst = v
			}
		}
		return worst
	case (t.Reduction == BestOfTrials) != (t.cut != nil && t.cut.Lower):
		return slices.Max(x)
	case t.Reduction == WorstOfTrials && t.cut != nil && t.cut.Lower:
		return slices.Max(x)
	default:
		return slices.Min(x)
	}
}

// setMargin follows the rule of margins: the test's noise where it is known;
// the spread of the trials where they disagree by more than twice that noise,
// or where no noise is known and there are three; none for counts and classes.
func (s *SideSummary) setMargin(t Test, x []float64, valid []Trial) {
	if t.ID == CadenceTest {
		m := cadenceMargin(x, valid)
		s.Margin, s.Basis, s.Confidence = &m, FromTrials, Sure
		return
	}
	if t.Reduction != MeanOfTrials {
		s.Confidence = Sure
		return
	}
	n := len(x)
	spread, _ := stats.TMargin(x)
	switch {
	case t.Noise != nil && n >= 3 && stats.SD(x) > 2*t.Noise.SEM:
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

// usualResolution is the step of a 15-second count, in spm.
const usualResolution = 4.0

// cadenceMargin is the larger of t · SD / √n and resolution / √n.
func cadenceMargin(x []float64, valid []Trial) float64 {
	res := 0.0
	for _, tr := range valid {
		if tr.Resolution == nil {
			res = max(res, usualResolution)
		} else {
			res = max(res, *tr.Resolution)
		}
	}
	m := res / math.Sqrt(float64(len(x)))
	if spread, ok := stats.TMargin(x); ok {
		m = max(m, spread)
	}
	return m
}

// meanTolerance is what a computed mean may be off a cut-off by arithmetic alone,
// so that 1.7 is 1.7.
const meanTolerance = 1e-9

// symmetryLow is the symmetry index under which the weaker side is limited, %.
const symmetryLow = 80

// Class returns the verdict of a value against the cut-offs.
func (c Cut) Class(v float64) Verdict {
	const e = meanTolerance
	over := func(x, cut float64, open bool) bool { return !open && x >= cut-e || open && x > cut+e }
	ok, watch := over(v, c.OK, c.OKOpen), over(v, c.Watch, c.WatchOpen)
	if c.Lower {
		ok, watch = over(-v, -c.OK, c.OKOpen), over(-v, -c.Watch, c.WatchOpen)
	}
	switch {
	case ok:
		return OK
	case watch || c.NoLimited:
		return Watch
	default:
		return Limited
	}
}

func (s *SideSummary) judge(t Test, valid []Trial) {
	v := *s.Value
	switch {
	case len(t.Checks) > 0:
		s.Class = OK
		if s.faults(t) >= manyChecks {
			s.Class = Watch
		}
	case len(t.Options) > 0:
		o, _ := t.Option(v)
		s.Class, s.Label = o.Verdict, o.Label
	case s.Cut != nil:
		s.Class = s.Cut.Class(v)
	default:
		s.Class = Noted
	}
	s.Verdict = s.Class
	s.Severity = severityOf(s.Class)
	if s.StoppedByPain && s.Class == OK {
		// A try that pain ended: at best watch, whatever the others read.
		s.Class, s.Verdict, s.Severity = Watch, Watch, severityOf(Watch)
	}
	s.Borderline = s.undecided(t, v, valid)
	if !s.Borderline {
		return
	}
	s.Confidence = Uncertain
	if s.N < MaxTrials {
		s.Verdict, s.TakeMore, s.Severity = Borderline, true, 1
		return
	}
	// Five trials and still undecided: the more cautious of the two classes.
	if s.Margin != nil {
		worse := v - *s.Margin
		if s.Cut.Lower {
			worse = v + *s.Margin
		}
		s.Class = s.Cut.Class(worse)
	}
	s.Verdict, s.Severity = s.Class, 1
}

// faults counts the ticked checks.
func (s SideSummary) faults(t Test) int {
	n := 0
	for _, c := range t.Checks {
		if slices.Contains(s.Seen, strings.ReplaceAll(c, " ", "-")) {
			n++
		}
	}
	return n
}

// undecided reports whether a cut-off lies inside the margin; for crossing over
// whether the Wilson interval spans both cut-offs.
func (s SideSummary) undecided(t Test, v float64, valid []Trial) bool {
	if s.Cut == nil {
		return false
	}
	if t.ID == Crossing {
		count, of := 0, 0
		for _, tr := range valid {
			if tr.Count != nil && tr.Of != nil {
				count, of = count+*tr.Count, of+*tr.Of
			}
		}
		if of == 0 {
			return false
		}
		lo, hi := stats.Wilson(count, of)
		return 100*lo < s.Cut.OK && 100*hi > s.Cut.Watch
	}
	return s.Margin != nil && (math.Abs(v-s.Cut.OK) < *s.Margin || math.Abs(v-s.Cut.Watch) < *s.Margin)
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
	if t.cut != nil && t.cut.Lower || len(t.Options) > 0 {
		a.Weaker = worseSide(left, right)
	}
	size := math.Abs(a.Difference)
	if t.SideCut != nil && t.SideCut.Percent {
		size = 100 * size / max(*left.Value, *right.Value)
	}
	if t.Noise != nil {
		mdc := stats.MDC95(t.Noise.SEM)
		a.MDC95, a.Clear = &mdc, size >= mdc-meanTolerance
	}
	if t.Symmetry {
		a.Source = source.Common()
		if lsi, ok := LSI(*left.Value, *right.Value); ok {
			a.LSI, a.Clear = &lsi, lsi < SymmetryLimit-meanTolerance
			a.Class = OK
			if a.Clear {
				a.Class = Watch
			}
			if lsi < symmetryLow-meanTolerance {
				a.Class = Limited
			}
		}
	}
	if t.SideCut != nil {
		a.Source = t.SideCut.Source
		switch {
		case t.SideCut.Limited > 0 && size >= t.SideCut.Limited-meanTolerance:
			a.Class = Limited
		case size >= t.SideCut.Watch-meanTolerance:
			a.Class = Watch
		default:
			a.Class = OK
		}
	}
	if t.lunge {
		d := measure.LungeDegrees(size)
		a.Degrees = &d
	}
	return a
}

// worseSide returns the side with the higher severity, empty when they are even.
func worseSide(left, right SideSummary) body.Side {
	switch {
	case left.Severity > right.Severity:
		return body.Left
	case right.Severity > left.Severity:
		return body.Right
	}
	return ""
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

// Reduce summarises both sides of a test and compares them. A test without
// sides is summarised once, from the first list, as both.
func Reduce(t Test, left, right []Trial, age Age) Result {
	if !t.Sided {
		return Result{Test: t.ID, Left: Summarise(t, body.Both, left, age), Right: Summarise(t, body.Both, nil, age), Asymmetry: Asymmetry{Source: source.Weir2005}}
	}
	r := Result{Test: t.ID, Left: Summarise(t, body.Left, left, age), Right: Summarise(t, body.Right, right, age)}
	r.Asymmetry = Compare(t, r.Left, r.Right)
	return r
}
