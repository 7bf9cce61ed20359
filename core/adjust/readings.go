package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/stats"
)

// StartingBaseline returns B0: the median of the block's first seven
// first-step readings once three exist, until then the intake reading, and 0
// where nothing is known. It never rises above the intake reading (house: a
// block that starts with bad mornings would otherwise call them usual and hide
// a flare).
// It counts as at most 4, so that no morning of 6 or 7 is a quiet one.
func StartingBaseline(first []body.Pain, intake *body.Pain) float64 {
	return min(baselineMost, startingBaseline(first, intake))
}

func startingBaseline(first []body.Pain, intake *body.Pain) float64 {
	if len(first) >= startReadingsFrom {
		x := make([]float64, 0, startReadings)
		for _, p := range first[:min(len(first), startReadings)] {
			x = append(x, float64(p))
		}
		m, _ := stats.Median(x)
		if intake != nil {
			m = min(m, float64(*intake))
		}
		return m
	}
	if intake != nil {
		return float64(*intake)
	}
	return 0
}

// Baseline returns B on the day of a session: the smaller of B0 and the median
// of the mornings of the seven days up to the session, leaving out those that
// followed a session decided by row 2 or 3. Over earlier decisions it rises by
// at most 1 a week, and with fewer than four known mornings not at all. Frozen
// baselines count as they are.
func (h History) Baseline(on day.Date) float64 {
	if h.Frozen != nil {
		return h.Frozen.B
	}
	var x []float64
	for _, m := range h.Mornings {
		if m.On <= on && int(on-m.On) < baselineDays && !h.excluded(m.On) {
			x = append(x, float64(m.FirstStep))
		}
	}
	b := min(h.B0, baselineMost)
	if med, ok := stats.Median(x); ok {
		b = min(b, med)
	}
	newest, last := day.Date(0), -1.0
	for _, e := range h.Earlier {
		if e.On > on {
			continue
		}
		weeks := max(1, (int(on-e.On)+6)/7)
		b = min(b, e.B+baselineRise*float64(weeks))
		if last < 0 || e.On >= newest {
			newest, last = e.On, e.B
		}
	}
	if last >= 0 && len(x) < baselineKnown {
		b = min(b, last)
	}
	return b
}

// RestBaseline returns the usual pain at rest on the day of a session: the
// smaller of where the block began and the median of the seven days before it.
func (h History) RestBaseline(on day.Date) float64 {
	if h.Frozen != nil {
		return h.Frozen.Rest
	}
	usual := h.RestB0
	var week []float64
	for _, r := range h.Rests {
		if r.On < on && int(on-r.On) < baselineDays {
			week = append(week, float64(r.Pain))
		}
	}
	if m, ok := stats.Median(week); ok {
		usual = min(usual, m)
	}
	return usual
}

func (h History) excluded(on day.Date) bool {
	return slices.ContainsFunc(h.Sessions, func(s Session) bool {
		return s.On+1 == on && (s.DecidedBy == 2 || s.DecidedBy == 3)
	})
}

func (h History) morning(on day.Date) (body.Pain, bool) {
	for i := len(h.Mornings) - 1; i >= 0; i-- {
		if h.Mornings[i].On == on {
			return h.Mornings[i].FirstStep, true
		}
	}
	return 0, false
}

// latest returns the newest morning not after the date.
func (h History) latest(today day.Date) (Morning, bool) {
	var best Morning
	found := false
	for _, m := range h.Mornings {
		if m.On <= today && (!found || m.On >= best.On) {
			best, found = m, true
		}
	}
	return best, found
}

// BadMornings returns the run of mornings at B + 2 or more that ends with the
// latest known one, one missing between two such counting as such; empty when it
// is shorter than three.
func (h History) BadMornings(b float64, today day.Date) []Reading {
	m, ok := h.latest(today)
	if !ok {
		return nil
	}
	at := make(map[day.Date]body.Pain, len(h.Mornings))
	for _, x := range h.Mornings {
		at[x.On] = x.FirstStep
	}
	bad := func(d day.Date) bool { p, known := at[d]; return known && float64(p) >= b+jump-meanTolerance }
	var run []Reading
	days := 0
	for d := m.On; ; d-- {
		if bad(d) {
			run = append(run, Reading{"morning", d, float64(at[d])})
			days++
			continue
		}
		if _, known := at[d]; !known && days > 0 && bad(d-1) {
			days++
			continue
		}
		break
	}
	if days < flareMornings {
		return nil
	}
	slices.Reverse(run)
	return run
}

// meanTolerance is what a computed mean may be off a cut-off by arithmetic alone.
const meanTolerance = 1e-9

func (e engine) baselineReading() Reading {
	return Reading{Name: "baseline", On: e.last.On, Value: e.b}
}

// quietMornings returns the run of quiet mornings that ends with the latest
// known one and began after the stop.
func (e engine) quietMornings(since day.Date) []Reading {
	m, ok := e.h.latest(e.c.Today)
	if !ok {
		return nil
	}
	var run []Reading
	for d := m.On; d > since; d-- {
		p, known := e.h.morning(d)
		if !known || !Quiet(p, e.b) {
			break
		}
		run = append(run, Reading{"morning", d, float64(p)})
	}
	slices.Reverse(run)
	return run
}

// MorningHour is the local hour from which a next morning that was not
// reported counts as missing (house: by noon it is not the first steps any more).
const MorningHour = 12

// MorningMayCome reports whether the morning after a session can still be
// reported: until noon of the day after it. hour is the local hour, 0–23.
func MorningMayCome(session, today day.Date, hour int) bool {
	return today <= session || (today == session+1 && hour < MorningHour)
}

// Quiet reports whether a known first-step reading is at most one over the usual.
func Quiet(firstStep body.Pain, usual float64) bool {
	return float64(firstStep) <= usual+quietOver+meanTolerance
}

// QuietRun returns the run of known quiet mornings, by a frozen usual reading,
// that ends with the latest known one and began after a date.
func (h History) QuietRun(since, today day.Date, usual float64) []Reading {
	return engine{h: h, c: Context{Today: today}, b: usual}.quietMornings(since)
}

// QuietMornings is how many quiet mornings running end a flare.
const QuietMornings = flareMornings

// Jumped reports whether a first-step reading stands so far over the usual one
// that it takes load away.
func Jumped(firstStep body.Pain, usual float64) bool {
	return float64(firstStep) >= usual+jump-meanTolerance
}
