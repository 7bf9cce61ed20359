// Package day holds calendar dates without a clock: the local date a thing
// happened on.
package day

import (
	"fmt"
	"time"
)

// Date is a calendar date, counted in whole days from 1 January 1970.
// The zero value is that day; use Parse, Of or Make to build one.
type Date int32

// Make returns the date of a year, month and day; out-of-range days roll over
// as in time.Date.
func Make(year int, month time.Month, d int) Date {
	return fromUTC(time.Date(year, month, d, 0, 0, 0, 0, time.UTC))
}

// Of returns the local date of a moment in the given zone.
func Of(t time.Time, zone *time.Location) Date {
	y, m, d := t.In(zone).Date()
	return Make(y, m, d)
}

func fromUTC(t time.Time) Date {
	s := t.Unix()
	if s < 0 {
		s -= 86399
	}
	return Date(s / 86400)
}

// Dates from the first to the last are read; nothing of a runner's lies outside
// (house).
var first, last = Make(1900, time.January, 1), Make(2199, time.December, 31)

// Parse reads "2026-05-04", from 1900 to 2199. Anything else is an error.
func Parse(s string) (Date, error) {
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return 0, fmt.Errorf("date %q: want year-month-day, like 2026-05-04", s)
	}
	d := fromUTC(t)
	if d < first || d > last {
		return 0, fmt.Errorf("date %q: want a year from 1900 to 2199", s)
	}
	return d, nil
}

// At is a time of day on the date, in a zone. Where the clocks skip that time it is
// the moment they do; where they show it twice, the first of the two.
func (d Date) At(hour, minute, second int, zone *time.Location) time.Time {
	y, m, dd := d.Time().Date()
	t := time.Date(y, m, dd, hour, minute, second, 0, zone)
	wall := func(t time.Time) time.Time {
		return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, time.UTC)
	}
	want := time.Date(y, m, dd, hour, minute, second, 0, time.UTC)
	start, end := t.ZoneBounds()
	switch got := wall(t); {
	case got.Before(want):
		return end
	case got.After(want):
		return start
	}
	// The hour before the clocks went back shows the same time.
	if !start.IsZero() {
		_, now := t.Zone()
		_, was := start.Add(-time.Second).In(zone).Zone()
		if earlier := t.Add(time.Duration(now-was) * time.Second); earlier.Before(start) && wall(earlier).Equal(want) {
			return earlier
		}
	}
	return t
}

// Time returns midnight UTC of the date.
func (d Date) Time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// String returns "2026-05-04".
func (d Date) String() string { return d.Time().Format(time.DateOnly) }

// Words returns "4 May", the short form used in sentences.
func (d Date) Words() string { return d.Time().Format("2 January") }

// Monday returns the first day of the date's ISO week.
func (d Date) Monday() Date { return d - Date((int(d.Time().Weekday())+6)%7) }

// MarshalText writes the ISO form.
func (d Date) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads the ISO form.
func (d *Date) UnmarshalText(b []byte) error {
	v, err := Parse(string(b))
	if err == nil {
		*d = v
	}
	return err
}

// Age returns whole years from a birth date to d; negative when born later.
func Age(birth, d Date) int {
	b, t := birth.Time(), d.Time()
	years := t.Year() - b.Year()
	if t.Month() < b.Month() || (t.Month() == b.Month() && t.Day() < b.Day()) {
		years--
	}
	return years
}
