package adjust

import (
	"notchback/core/day"
	"notchback/core/stats"
)

// weekMedians are the medians of the ISO week of a date and the one before; nil
// for a week without a reading.
func (h History) weekMedians(today day.Date) (this, last *float64) {
	var a, b []float64
	monday := today.Monday()
	for _, m := range h.Mornings {
		switch {
		case m.On > today:
		case m.On >= monday:
			a = append(a, float64(m.FirstStep))
		case m.On >= monday-7:
			b = append(b, float64(m.FirstStep))
		}
	}
	if v, ok := stats.Median(a); ok {
		this = &v
	}
	if v, ok := stats.Median(b); ok {
		last = &v
	}
	return this, last
}

// Thresholds of the weekly look at first-step pain.
const (
	risingWeek     = 1.0  // median over last week's, or over B0
	risingSlope    = 0.07 // points a day, Theil–Sen
	risingReadings = 7
	risingDays     = 14
)

// Rising reports whether first-step pain creeps up: this ISO week's median is a
// point over last week's or over B0, or the Theil–Sen slope of the last 14 days
// is at least 0.07 a day over seven or more readings.
func (h History) Rising(today day.Date) (Reason, bool) {
	var x, y []float64
	monday := today.Monday()
	for _, m := range h.Mornings {
		if m.On <= today && int(today-m.On) < risingDays {
			x, y = append(x, float64(m.On)), append(y, float64(m.FirstStep))
		}
	}
	r := Reason{Rule: RuleRising, Row: 8, Readings: []Reading{}, Source: HouseSource}
	now, before := h.weekMedians(today)
	if now != nil {
		r.Readings = append(r.Readings, Reading{"morning", today, *now})
	}
	if before != nil {
		r.Readings = append(r.Readings, Reading{"morning", monday - 7, *before})
	}
	if now != nil && ((before != nil && *now >= *before+risingWeek) || *now >= h.B0+risingWeek) {
		return r, true
	}
	if len(x) >= risingReadings {
		if slope, ok := stats.TheilSen(x, y); ok && slope >= risingSlope {
			return r, true
		}
	}
	return Reason{}, false
}

// WeekVerdict is what the weekly look at first-step pain asks of a region.
type WeekVerdict string

// The verdicts of a week; empty asks for nothing.
const (
	WeekFree WeekVerdict = ""
	WeekHold WeekVerdict = "hold"
	WeekBack WeekVerdict = "back"
)

// Week looks at the ISO week that begins on a Monday: back where its median
// stands two or more over where the block began, hold where it creeps up. With
// fewer than three known mornings it knows nothing and the last result stands.
func (h History) Week(monday day.Date) (v WeekVerdict, why Reason, known bool) {
	var week []float64
	for _, m := range h.Mornings {
		if m.On >= monday && m.On < monday+7 {
			week = append(week, float64(m.FirstStep))
		}
	}
	med, ok := stats.Median(week)
	if !ok || len(week) < weekHighReadings {
		return WeekFree, Reason{}, false
	}
	b0 := min(h.B0, baselineMost)
	if med >= b0+weekHigh-meanTolerance {
		return WeekBack, Reason{Rule: RuleWeekHigh, Row: 3, Readings: []Reading{{"morning", monday, med}, {"baseline", monday, b0}}, Source: HouseSource}, true
	}
	if r, rising := h.Rising(monday + 6); rising {
		return WeekHold, r, true
	}
	return WeekFree, Reason{}, true
}
