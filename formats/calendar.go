// Package formats writes plans in open formats: iCalendar, CSV and PDF.
package formats

import (
	"fmt"
	"io"
	"strconv"
	"time"

	ics "github.com/arran4/golang-ical"

	"notchback/core/day"
)

// Event is one sitting in a calendar. UID stays the same when it moves; a higher
// Sequence replaces a lower one; a cancelled event takes itself out.
type Event struct {
	UID         string
	Sequence    int
	Changed     time.Time
	Start       time.Time
	Length      time.Duration // 0 for the whole day
	Day         day.Date      // of an event that takes the whole day
	Summary     string
	Description string
	Cancelled   bool
	// Alarm is how long before its start it rings; less than nothing is after it. None
	// where it does not ring.
	Alarm *time.Duration
}

const product = "-//Notchback//Plan//EN"

// Calendar writes events as iCalendar (RFC 5545): lines folded at 75 octets,
// text escaped, times in UTC so that no time zone table is needed and a change
// of the clocks moves nothing.
func Calendar(w io.Writer, name string, events []Event) error {
	cal := ics.NewCalendarFor("notchback")
	cal.SetProductId(product)
	cal.SetMethod(ics.MethodPublish)
	cal.SetXWRCalName(name)
	cal.SetRefreshInterval("PT12H", ics.WithValue("DURATION"))
	for _, e := range events {
		v := cal.AddEvent(e.UID)
		v.SetDtStampTime(e.Changed)
		v.SetModifiedAt(e.Changed)
		v.SetSequence(e.Sequence)
		if e.Length > 0 {
			v.SetStartAt(e.Start)
			v.SetEndAt(e.Start.Add(e.Length))
		} else {
			v.SetAllDayStartAt(e.Day.Time())
			v.SetAllDayEndAt((e.Day + 1).Time())
		}
		v.SetSummary(e.Summary)
		if e.Description != "" {
			v.SetDescription(e.Description)
		}
		status := ics.ObjectStatusConfirmed
		if e.Cancelled {
			status = ics.ObjectStatusCancelled
		}
		v.SetStatus(status)
		v.SetTimeTransparency(ics.TransparencyTransparent)
		if e.Alarm != nil {
			a := v.AddAlarm()
			a.SetAction(ics.ActionDisplay)
			a.SetDescription(e.Summary)
			a.SetTrigger(trigger(*e.Alarm))
		}
	}
	return cal.SerializeTo(w, ics.WithNewLineWindows)
}

// trigger writes when an alarm rings, from the start of its event (RFC 5545, 3.8.6.3).
func trigger(before time.Duration) string {
	sign := ""
	if before > 0 {
		sign = "-"
	}
	return fmt.Sprintf("%sPT%dM", sign, int(before.Abs().Minutes()))
}

// Row is one dose of a plan in a table.
type Row struct {
	On        day.Date
	Week      int
	WeekKind  string
	Session   string
	When      string
	Ladder    string
	Exercise  string
	Left      string
	Right     string
	Minutes   float64
	Completed bool
}

// PlanCSV writes a plan as comma-separated values (RFC 4180), a header first.
func PlanCSV(w io.Writer, rows []Row) error {
	c := newTable(w)
	head := []string{"date", "week", "week kind", "session", "when", "ladder", "exercise", "left", "right", "minutes", "logged"}
	c.row(head...)
	for _, r := range rows {
		logged := "no"
		if r.Completed {
			logged = "yes"
		}
		c.row(r.On.String(), strconv.Itoa(r.Week), r.WeekKind, r.Session, r.When, r.Ladder, r.Exercise, r.Left, r.Right, strconv.FormatFloat(r.Minutes, 'f', 1, 64), logged)
	}
	return c.done()
}
