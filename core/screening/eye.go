package screening

import "notchback/core/stats"

// Pair is one measurement taken twice by the same coach.
type Pair struct {
	Runner        string
	First, Second float64
}

// How many pairs, on how many runners, a coach's own noise needs.
const (
	EyePairs   = 10
	EyeRunners = 3
)

// CoachNoise returns a coach's own standard error of measurement, SD of the
// differences / √2, from at least ten pairs on at least three runners.
func CoachNoise(pairs []Pair) (sem float64, ok bool) {
	runners := map[string]bool{}
	a, b := make([]float64, len(pairs)), make([]float64, len(pairs))
	for i, p := range pairs {
		runners[p.Runner] = true
		a[i], b[i] = p.First, p.Second
	}
	if len(pairs) < EyePairs || len(runners) < EyeRunners {
		return 0, false
	}
	return stats.SEMFromPairs(a, b)
}

// WithNoise returns the test with a coach's own noise in place of the published
// one.
func (t Test) WithNoise(n Noise) Test {
	t.Noise = &n
	return t
}
