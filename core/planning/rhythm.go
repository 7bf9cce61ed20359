package planning

import (
	"math"
	"slices"

	"notchback/core/catalogue"
	"notchback/core/day"
)

// DeloadSets returns the sets of a deload week: sets − ⌈sets/3⌉, at least 1.
// A single set keeps its set; Deload cuts its time or repetitions.
func DeloadSets(sets int) int { return max(1, sets-(sets+2)/3) }

// Deload returns the dose of a deload week: fewer sets, or two thirds of the
// time or repetitions of a single set.
func Deload(d catalogue.Dose) catalogue.Dose {
	if d.Sets > 1 {
		d.Sets = DeloadSets(d.Sets)
		return d
	}
	return scale(d, 2.0/3)
}

// Half returns half a dose, as in the week after a long race or after an
// illness: half the sets, rounded down and at least one, or half the time or
// repetitions of a single set.
func Half(d catalogue.Dose) catalogue.Dose {
	if d.Sets > 1 {
		d.Sets = max(1, d.Sets/2)
		return d
	}
	return scale(d, 0.5)
}

func scale(d catalogue.Dose, by float64) catalogue.Dose {
	cut := func(n int) int {
		if n == 0 {
			return 0
		}
		return max(1, int(math.Floor(float64(n)*by+1e-9)))
	}
	if d.Reps > 0 {
		d.Reps = cut(d.Reps)
		return d
	}
	d.HoldSeconds, d.Minutes, d.Contacts, d.Paces, d.Metres = cut(d.HoldSeconds), cut(d.Minutes), cut(d.Contacts), cut(d.Paces), cut(d.Metres)
	return d
}

// Limits of contacts a side and session, and how long the lower one holds.
const (
	springFirst      = 100
	springLater      = 150
	springFirstWeeks = 4
	handsShare       = 0.5 // contacts with the hands on a table count half
	springGap        = 28  // days after which the first weeks begin anew
)

// CapSpring cuts a dose of bounces to the contacts allowed a side and session:
// 100 in the first four weeks of spring work, then 150. It reports whether it
// had to cut. weeks counts the weeks of spring work already behind, from 0.
// House: where a notch asks for more contacts than the limit, the limit wins.
func CapSpring(n catalogue.Notch, weeks int) (catalogue.Dose, bool) {
	d := n.Dose
	most := float64(springLater)
	if weeks < springFirstWeeks {
		most = springFirst
	}
	share := 1.0
	if n.Has(catalogue.Supported) {
		share = handsShare
	}
	if n.Exercise.Purpose != catalogue.ForSpring || n.Count()*share <= most {
		return d, false
	}
	most /= share
	switch {
	case d.PerSecond > 0:
		d.HoldSeconds = int(math.Floor(most / d.PerSecond / float64(d.Sets)))
	default:
		d.Contacts = int(math.Floor(most / float64(d.Sets)))
	}
	return d, true
}

// SpringWeeks counts the weeks of spring work behind a date, from the dates on
// which it was done: the weeks before a gap of over 28 days do not count.
func SpringWeeks(done []day.Date, on day.Date) int {
	weeks := map[day.Date]bool{}
	last := on
	list := slices.Clone(done)
	slices.Sort(list)
	for i := len(list) - 1; i >= 0; i-- {
		if list[i] >= on {
			continue
		}
		if int(last-list[i]) > springGap {
			break
		}
		last = list[i]
		if m := list[i].Monday(); m < on.Monday() {
			weeks[m] = true
		}
	}
	return len(weeks)
}

// DeloadEvery is the length of the rhythm in weeks: every fourth week is lighter.
const DeloadEvery = 4

// WeekKind is what a week of a block is for.
type WeekKind string

// The kinds of weeks.
const (
	Normal     WeekKind = "normal"
	DeloadWeek WeekKind = "deload"
	RaceWeek   WeekKind = "race"
	HalfWeek   WeekKind = "half"
)

// Holds reports whether no new notch is taken in such a week.
func (k WeekKind) Holds() bool { return k != Normal }

// Race is a race in the block's time.
type Race struct {
	On day.Date `json:"on" format:"date"`
	Km float64  `json:"km" minimum:"0" maximum:"400"`
}

// Numbers of races.
const (
	halfFromKm    = 21.0 // the week after such a race is half
	noSpringDays  = 4    // days before a race without spring
	noHeavyDays   = 5    // days before a race without heavy calf work
	mostRaceAhead = 366
)

// firstMonday is the Monday from which the block's whole weeks count.
func firstMonday(start day.Date) day.Date {
	if start.Monday() == start {
		return start
	}
	return start.Monday() + 7
}

// KindOf returns what the week of a date is for, in a block that starts on the
// given date: every fourth whole ISO week is lighter; race and half weeks set
// the count back to the start.
func KindOf(start day.Date, race *Race, d day.Date) WeekKind {
	special := func(monday day.Date) (WeekKind, bool) {
		if race == nil {
			return Normal, false
		}
		switch r := race.On.Monday(); {
		case monday == r:
			return RaceWeek, true
		case monday == r+7 && race.Km >= halfFromKm:
			return HalfWeek, true
		}
		return Normal, false
	}
	week := d.Monday()
	if k, ok := special(week); ok {
		return k
	}
	n := 0
	for m := firstMonday(start); m <= week; m += 7 {
		if _, ok := special(m); ok {
			n = 0
			continue
		}
		n++
		if n == DeloadEvery {
			if m == week {
				return DeloadWeek
			}
			n = 0
		}
	}
	return Normal
}

// OffFor reports whether a notch is left out on a date because a race is near:
// no spring in its last four days, nothing heavy for the calf in its last five,
// and neither on the day itself.
func OffFor(race *Race, n catalogue.Notch, d day.Date) bool {
	if race == nil || d > race.On {
		return false
	}
	ahead := int(race.On - d)
	return n.Exercise.Purpose == catalogue.ForSpring && ahead <= noSpringDays || n.Heavy && ahead <= noHeavyDays
}

// DoseIn returns the dose of a notch in a week of the given kind.
func DoseIn(d catalogue.Dose, k WeekKind) catalogue.Dose {
	switch k {
	case DeloadWeek:
		return Deload(d)
	case HalfWeek:
		return Half(d)
	}
	return d
}
