// Package stats holds the small-sample statistics behind every margin and
// comparison. Quantiles come from gonum; the rest is arithmetic.
package stats

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Z95 is the two-sided 95 % quantile of the normal distribution as the field
// rounds it: 1.96.
const Z95 = 1.96

// Mean returns the arithmetic mean; NaN for no values.
func Mean(x []float64) float64 {
	if len(x) == 0 {
		return math.NaN()
	}
	return stat.Mean(x, nil)
}

// SD returns the sample standard deviation (n − 1); 0 for fewer than two values.
func SD(x []float64) float64 {
	if len(x) < 2 {
		return 0
	}
	return stat.StdDev(x, nil)
}

// Median returns the median, the mean of the two middle values for an even
// count (it may end in .5 for whole readings), and false for no values.
func Median(x []float64) (float64, bool) {
	n := len(x)
	if n == 0 {
		return 0, false
	}
	s := slices.Sorted(slices.Values(x))
	if n%2 == 1 {
		return s[n/2], true
	}
	return (s[n/2-1] + s[n/2]) / 2, true
}

// TQuantile returns the p quantile of Student's t with df degrees of freedom;
// t(0.975, 3) = 3.182. df must be at least 1.
func TQuantile(p float64, df int) float64 {
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(df)}.Quantile(p)
}

// TMargin returns the 95 % half-width t · SD / √n of the mean of x, and false
// for fewer than two values.
func TMargin(x []float64) (float64, bool) {
	n := len(x)
	if n < 2 {
		return 0, false
	}
	return TQuantile(0.975, n-1) * SD(x) / math.Sqrt(float64(n)), true
}

// SEMFromReliability returns SD · √(1 − ICC), the standard error of measurement
// (Weir 2005, from memory).
func SEMFromReliability(sd, icc float64) float64 { return sd * math.Sqrt(1-icc) }

// SEMFromPairs returns SD of the differences / √2, the typical error of one
// measurement taken twice, and false for fewer than two pairs.
func SEMFromPairs(first, second []float64) (float64, bool) {
	if len(first) != len(second) || len(first) < 2 {
		return 0, false
	}
	d := make([]float64, len(first))
	for i := range first {
		d[i] = first[i] - second[i]
	}
	return SD(d) / math.Sqrt2, true
}

// MDC95 returns the minimal detectable change 1.96 · √2 · SEM of a single
// measurement (Weir 2005, from memory); 0.6 cm gives 1.66 cm.
func MDC95(sem float64) float64 { return Z95 * math.Sqrt2 * sem }

// TheilSen returns the median of the slopes between all pairs of points with
// different x, and false where there is no such pair.
func TheilSen(x, y []float64) (float64, bool) {
	var slopes []float64
	for i := range x {
		for j := i + 1; j < len(x); j++ {
			if x[i] != x[j] {
				slopes = append(slopes, (y[j]-y[i])/(x[j]-x[i]))
			}
		}
	}
	return Median(slopes)
}

// Wilson returns the 95 % Wilson score interval of count successes in n tries,
// as shares from 0 to 1. n must be at least 1.
func Wilson(count, n int) (lo, hi float64) {
	p, f := float64(count)/float64(n), float64(n)
	z := distuv.UnitNormal.Quantile(0.975)
	mid := p + z*z/(2*f)
	half := z * math.Sqrt(p*(1-p)/f+z*z/(4*f*f))
	d := 1 + z*z/f
	return max(0, (mid-half)/d), min(1, (mid+half)/d)
}

// ICC holds the three single-rater intraclass correlations.
type ICC struct{ OneOne, TwoOne, ThreeOne float64 }

// IntraclassCorrelation computes ICC(1,1), ICC(2,1) and ICC(3,1) of a table with
// a row for each subject and a column for each rater (Shrout & Fleiss 1979,
// from memory). ok is false for fewer than two rows or columns, or ragged rows.
func IntraclassCorrelation(table [][]float64) (icc ICC, ok bool) {
	n := len(table)
	if n < 2 || len(table[0]) < 2 {
		return icc, false
	}
	k := len(table[0])
	var total float64
	cols := make([]float64, k)
	rows := make([]float64, n)
	for i, r := range table {
		if len(r) != k {
			return icc, false
		}
		for j, v := range r {
			total += v
			cols[j] += v / float64(n)
			rows[i] += v / float64(k)
		}
	}
	grand := total / float64(n*k)
	var within, between, raters float64
	for i, r := range table {
		between += float64(k) * (rows[i] - grand) * (rows[i] - grand)
		for _, v := range r {
			within += (v - rows[i]) * (v - rows[i])
		}
	}
	for _, c := range cols {
		raters += float64(n) * (c - grand) * (c - grand)
	}
	fn, fk := float64(n), float64(k)
	bms, wms, jms := between/(fn-1), within/(fn*(fk-1)), raters/(fk-1)
	ems := (within - raters) / ((fn - 1) * (fk - 1))
	return ICC{
		OneOne:   (bms - wms) / (bms + (fk-1)*wms),
		TwoOne:   (bms - ems) / (bms + (fk-1)*ems + fk*(jms-ems)/fn),
		ThreeOne: (bms - ems) / (bms + (fk-1)*ems),
	}, true
}

// Kappa returns Cohen's kappa of two raters' classes, and false for no pairs or
// when chance alone would agree on everything.
func Kappa(a, b []int) (float64, bool) {
	if len(a) == 0 || len(a) != len(b) {
		return 0, false
	}
	n := float64(len(a))
	ca, cb := map[int]float64{}, map[int]float64{}
	agree := 0.0
	for i := range a {
		ca[a[i]]++
		cb[b[i]]++
		if a[i] == b[i] {
			agree++
		}
	}
	chance := 0.0
	for c, v := range ca {
		chance += v * cb[c] / (n * n)
	}
	if chance == 1 {
		return 0, false
	}
	return (agree/n - chance) / (1 - chance), true
}
