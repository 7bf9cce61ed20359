package transition

import (
	"fmt"
	"math"
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/source"
)

// Done is one exposure as it was done.
type Done struct {
	Stage   Stage `json:"stage" enum:"walk,strength,drills,run,bare"`
	Minutes int   `json:"minutes" minimum:"0" maximum:"600"`
}

// Reading is what is known of one day of a ramp. Nil is not known, never 0.
type Reading struct {
	On          day.Date   `json:"on" format:"date"`
	HomeMinutes *int       `json:"homeMinutes,omitempty" minimum:"0" maximum:"1440" doc:"Without shoes at home"`
	Done        []Done     `json:"done,omitempty" maxItems:"10"`
	Morning     *body.Pain `json:"morning,omitempty" minimum:"0" maximum:"10" doc:"Worst first steps of that day, foot or calf"`
	Usual       float64    `json:"usual,omitempty" doc:"The usual first-step pain"`
	Soreness    *body.Pain `json:"soreness,omitempty" minimum:"0" maximum:"10" doc:"Of the calves, that day"`
	Tender      bool       `json:"tender,omitempty" doc:"A bone of the ball or top of the foot is tender"`
}

// Flare is a stop by rule 2 on foot or calf; Until is missing while it lasts.
type Flare struct {
	Since day.Date  `json:"since" format:"date"`
	Until *day.Date `json:"until,omitempty" format:"date"`
}

// Outcome is what becomes of a ramp week.
type Outcome string

// The outcomes. Open is a week that is not over, Ahead one that is planned.
const (
	Passed   Outcome = "passed"
	Repeated Outcome = "repeat"
	TookBack Outcome = "back"
	Stopped  Outcome = "stopped"
	Open     Outcome = "open"
	Ahead    Outcome = "ahead"
)

// Limits of a ramp week: docs/rules.md; what is ours errs on the side of less.
const (
	jumpBy         = body.JumpOver // next morning over the usual one
	soreOver       = 4
	soreDays       = 2 // the second reading this many days after the first: 48 h
	adherenceLeast = 60
	doneShare      = 0.8 // of an exposure's minutes, to count as done
	tooMuch        = 1.3 // times the week's minutes
	tooMuchSlack   = 5
	outDays        = 7
	strikesRefer   = 2
	flareBack      = 2
	missedBack1    = 2 // weeks in a row
	missedBack2    = 3
	missedStart    = 5
)

// LivingSource tags the limits.
var LivingSource = source.House("a week is passed when it was done and the mornings stayed quiet; otherwise it is done again")

// verdict is what the readings of a week say.
type verdict struct {
	outcome Outcome
	reasons []string
	percent int // adherence
	missed  bool
}

// over reports whether a number of minutes is enough to count.
func enough(minutes, planned int) bool { return float64(minutes) >= doneShare*float64(planned)-1e-9 }

// judge reads a week; days after until are not looked at.
func judge(w Week, at map[day.Date]Reading, until day.Date) verdict {
	v := verdict{outcome: Passed}
	say := func(format string, a ...any) {
		v.outcome = Repeated
		v.reasons = append(v.reasons, fmt.Sprintf(format, a...))
	}
	last := min(w.Monday+6, until)
	done, minutes := 0, 0
	any := false
	for d := w.Monday; d <= last; d++ {
		r := at[d]
		exposed := r.HomeMinutes != nil && *r.HomeMinutes > 0
		if w.State.Stage == Home && r.HomeMinutes != nil && enough(*r.HomeMinutes, w.Dose.HomeMinutes) {
			done++
		}
		for _, x := range r.Done {
			exposed = exposed || x.Minutes > 0
			if x.Stage == w.stageKind() || (w.State.Stage == Bare && x.Stage == Bare) {
				minutes += x.Minutes
				if enough(x.Minutes, w.Dose.each(w.State.Stage, done)) {
					done++
				}
			}
		}
		any = any || exposed
		if m := at[d+1]; exposed && d+1 <= until && m.Morning != nil && float64(*m.Morning) >= m.Usual+jumpBy {
			say("first steps of %s were %d, usually %s", (d + 1).Words(), *m.Morning, short(m.Usual))
		}
	}
	if from, to, ok := soreSpell(at, w.Monday, last); ok {
		say("calves over 4 from %s to %s: longer than 48 hours", from.Words(), to.Words())
	}
	if planned := w.Dose.exposures(w.State.Stage); planned > 0 {
		v.percent = min(100, 100*done/planned)
	}
	total := w.Dose.minutes(w.State.Stage)
	if total > 0 && w.State.Stage != Home && float64(minutes) > tooMuch*float64(total)+tooMuchSlack {
		say("%d min were done where %d were planned", minutes, total)
	}
	v.missed = !any
	return v
}

// adherence adds what only a finished week can say.
func (v *verdict) adherence(w Week) {
	if w.Dose.exposures(w.State.Stage) > 0 && v.percent < adherenceLeast {
		v.outcome = Repeated
		v.reasons = append(v.reasons, fmt.Sprintf("%d %% of it was done; 60 %% pass", v.percent))
	}
}

// soreSpell looks for calves over 4 on two days at least 48 hours apart with no
// better reading between, the later one in the days given.
func soreSpell(at map[day.Date]Reading, from, to day.Date) (day.Date, day.Date, bool) {
	for end := from; end <= to; end++ {
		if s := at[end].Soreness; s == nil || *s <= soreOver {
			continue
		}
		for begin := end - 1; begin >= end-7; begin-- {
			s := at[begin].Soreness
			if s == nil {
				continue
			}
			if *s <= soreOver {
				break
			}
			if int(end-begin) >= soreDays {
				return begin, end, true
			}
		}
	}
	return 0, 0, false
}

// Strikes returns the days on which a bone became tender out of all days on
// which it was, each the first of its seven days out.
func Strikes(tender []day.Date) []day.Date {
	out := []day.Date{}
	slices.Sort(tender)
	for _, d := range tender {
		if len(out) == 0 || d > out[len(out)-1]+outDays {
			out = append(out, d)
		}
	}
	return out
}

// Refers reports whether so many strikes are looked at by a clinician.
func Refers(strikes int) bool { return strikes >= strikesRefer }

func short(v float64) string {
	if v == math.Trunc(v) {
		return fmt.Sprintf("%.0f", v)
	}
	return fmt.Sprintf("%.1f", v)
}

// Of a flare: row 2 of the table, docs/rules.md.
const (
	flareMornings = body.FewMornings
	quietMornings = body.FewMornings
	quietOver     = body.QuietOver
)

// flaresIn finds the flares that the mornings themselves show: first steps two
// over the usual ones on three mornings running, one missing between two such
// counting as such; over after three known mornings running at most one over.
func flaresIn(at map[day.Date]Reading, from, to day.Date) []Flare {
	var out []Flare
	bad, quiet := 0, 0
	jumped := func(d day.Date) bool {
		r := at[d]
		return r.Morning != nil && float64(*r.Morning) >= r.Usual+jumpBy
	}
	for d := from; d <= to; d++ {
		r := at[d]
		switch {
		case jumped(d):
			bad, quiet = bad+1, 0
		case r.Morning == nil && bad > 0 && jumped(d-1) && jumped(d+1):
			bad++
		case r.Morning == nil:
			bad, quiet = 0, 0
		case float64(*r.Morning) <= r.Usual+quietOver:
			bad, quiet = 0, quiet+1
		default:
			bad, quiet = 0, 0
		}
		open := len(out) > 0 && out[len(out)-1].Until == nil
		switch {
		case !open && bad >= flareMornings:
			out = append(out, Flare{Since: d})
		case open && quiet >= quietMornings:
			until := d
			out[len(out)-1].Until = &until
		}
	}
	return out
}

// together joins flares that two sources know of: days shared belong to one.
func together(a, b []Flare) []Flare {
	all := slices.Concat(a, b)
	slices.SortFunc(all, func(x, y Flare) int { return int(x.Since - y.Since) })
	var out []Flare
	for _, x := range all {
		if n := len(out); n > 0 && (out[n-1].Until == nil || x.Since <= *out[n-1].Until) {
			last := &out[n-1]
			if last.Until != nil && (x.Until == nil || *x.Until > *last.Until) {
				last.Until = x.Until
			}
			continue
		}
		out = append(out, x)
	}
	return out
}
