package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/source"
)

// cut is a candidate that takes load away. steps counts notches; a stop is
// larger than any number of them.
type cut struct {
	stop   bool
	steps  int
	reason Reason
}

func (c cut) size() int {
	if c.stop {
		return 1 << 20
	}
	return c.steps
}

func (e engine) cuts() []cut {
	var out []cut
	add := func(c ...cut) { out = append(out, c...) }
	add(e.row1()...)
	add(e.row2()...)
	add(e.row3()...)
	add(e.row4()...)
	add(e.row6()...)
	return out
}

// illness is row 0: no session while ill; afterwards no step up for as many days
// as it lasted.
func (c Context) illness() *Reason {
	r := Reason{Row: 0, Readings: []Reading{{Name: "days", Value: float64(c.Illness.Days)}}, Source: HouseSource}
	switch until := c.halfUntil(); {
	case c.Illness.Now:
		r.Rule = RuleIllNow
	case until != nil && c.Today <= *until:
		r.Rule = RuleIllAfter
	default:
		return nil
	}
	return &r
}

// HalfUntil is halfUntil for those who lay out days.
func (c Context) HalfUntil() *day.Date { return c.halfUntil() }

// halfUntil is the last day of half sets after an illness: as many days as it
// lasted, at most seven, counted from the end of the 48 hours free of it.
func (c Context) halfUntil() *day.Date {
	if c.Illness.Now || c.Illness.Ended == nil || c.Illness.Days == 0 {
		return nil
	}
	until := *c.Illness.Ended + illFreeDays + day.Date(min(illHalfMost, c.Illness.Days))
	if until < c.Today {
		return nil
	}
	return &until
}

// HalfOn reports whether a date is one of half sets after an illness.
func HalfOn(i Illness, on day.Date) bool {
	if i.Ended == nil || IllNow(*i.Ended, on) {
		return false
	}
	until := Context{Illness: Illness{Days: i.Days, Ended: i.Ended}, Today: on}.halfUntil()
	return until != nil && on <= *until
}

// IllNow reports whether a runner counts as ill: until 48 hours are free of it.
func IllNow(lastIll, today day.Date) bool { return today-lastIll <= illFreeDays }

func (e engine) row1() []cut {
	var out []cut
	var k catalogue.Kinds
	if len(e.c.Flags) > 0 {
		k = e.c.Ladder.At(e.c.Notch).Kinds()
	}
	for _, f := range e.c.Flags {
		if f.Closes(k, e.c.Side) {
			out = append(out, cut{stop: true, reason: Reason{Rule: RuleFlag, Row: 1, Flag: f.Flag, Other: f.OwnName(), Readings: []Reading{}, Source: safety.SevereSource}})
		}
	}
	if p := e.last.Pain; p != nil && *p >= safety.SevereAt && !e.release() {
		out = append(out, cut{stop: true, reason: Reason{
			Rule: RuleSevere, Row: 1, Flag: safety.Severe,
			Readings: []Reading{{"pain", e.last.On, float64(*p)}}, Source: safety.SevereSource,
		}})
	}
	return out
}

// row2 looks for a flare: three mornings running at B + 2 or more, one missing
// between two such counting as such, up to the latest known morning; or row 3
// three times in 14 days.
func (e engine) row2() []cut {
	var out []cut
	if len(e.tissues) > 0 {
		if run := e.h.BadMornings(e.b, e.c.Today); len(run) > 0 {
			out = append(out, cut{stop: true, reason: Reason{Rule: RuleThreeMornings, Row: 2, Readings: append(run, e.baselineReading()), Source: HouseSource}})
		}
	}
	for _, f := range e.c.Flares {
		if f.Ladder == e.c.Ladder.ID || !f.touches(e.c.Side, e.tissues) {
			continue
		}
		r := Reason{Rule: RuleSharedFlare, Row: 2, Readings: []Reading{{Name: "days", On: f.Since, Value: float64(e.c.Today - f.Since)}}, Other: f.Name, Source: HouseSource}
		if e.quietHoldsAllowed(f) {
			r.Rule = RuleQuietHolds
			out = append(out, cut{steps: e.c.Notch - 1, reason: r})
			continue
		}
		out = append(out, cut{stop: true, reason: r})
	}
	if n := e.backs(); n >= flareBacks {
		out = append(out, cut{stop: true, reason: Reason{Rule: RuleThriceBack, Row: 2, Readings: []Reading{{Name: "count", Value: float64(n)}}, Source: HouseSource}})
	}
	return out
}

// backs counts the dates on which row 3 decided this ladder and side, up to 14
// days before the last session, with that one.
func (e engine) backs() int {
	if len(e.ruleThree()) == 0 {
		return 0
	}
	dates := map[day.Date]bool{e.last.On: true}
	for _, s := range e.h.Sessions[:len(e.h.Sessions)-1] {
		if s.DecidedBy == 3 && int(e.last.On-s.On) <= BackWindow {
			dates[s.On] = true
		}
	}
	return len(dates)
}

func (f Flare) touches(side body.Side, tissues []body.Tissue) bool {
	if f.Side != body.Both && side != body.Both && f.Side != side {
		return false
	}
	return slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// Closes reports whether a flare closes a ladder at a notch: all that loads its
// tissue but the first notch of the quiet holds, where they may go on.
func (f Flare) Closes(ladder string, notch int, side body.Side, tissues []body.Tissue) bool {
	return f.touches(side, tissues) && !(ladder == quietHolds && notch == 1 && QuietHoldsIn(f.sore()))
}

// IsQuietHold reports the ladder whose first notch may go on through a flare.
func IsQuietHold(l catalogue.Ladder) bool { return l.ID == quietHolds }

// QuietHoldsIn reports whether quiet holds may go on in a flare of these
// tissues: the Achilles and calf or the sole, nothing of bone.
func QuietHoldsIn(tissues []body.Tissue) bool {
	return len(tissues) > 0 && !slices.Contains(tissues, body.Forefoot) && !slices.Contains(tissues, body.Shin)
}

// quietHoldsAllowed: the first notch of the quiet holds goes on through a flare
// at pain 3 or less.
func (e engine) quietHoldsAllowed(f Flare) bool {
	return e.c.Ladder.ID == quietHolds && QuietHoldsIn(f.sore()) && e.last.Pain != nil && *e.last.Pain <= QuietHoldMost
}

func (e engine) row3() []cut {
	reasons := e.ruleThree()
	if len(reasons) == 0 {
		return nil
	}
	steps := 1
	if n := len(e.h.Sessions); n > 1 && e.h.Sessions[n-2].DecidedBy == 3 {
		steps = 2
		reasons = append(reasons, Reason{Rule: RuleTwiceBack, Row: 3, Readings: []Reading{}, Source: HouseSource})
	}
	out := make([]cut, len(reasons))
	for i, r := range reasons {
		out[i] = cut{steps: steps, stop: e.c.Notch == 1, reason: r}
	}
	return out
}

// ruleThree returns the reasons of row 3 that hold for the last session. Release
// has a scale of its own: a sore spot of 8 takes pressure off.
func (e engine) ruleThree() []Reason {
	var out []Reason
	prev := Session{}
	if n := len(e.h.Sessions); n > 1 {
		prev = e.h.Sessions[n-2]
	}
	if e.release() {
		if p := e.soreSpot(e.last); p != nil && *p >= soreOff {
			out = append(out, Reason{Rule: RuleSoreSpotHigh, Row: 3, Readings: []Reading{{"pain", e.last.On, float64(*p)}}, Source: source.Common()})
		}
		if e.last.Reacted && prev.Reacted {
			out = append(out, Reason{Rule: RuleReactedTwice, Row: 3, Readings: []Reading{}, Source: source.Common()})
		}
		return out
	}
	if p := e.last.Pain; p != nil && *p >= painHigh {
		out = append(out, Reason{Rule: RulePainHigh, Row: 3, Readings: []Reading{{"pain", e.last.On, float64(*p)}}, Source: painSource})
	}
	if len(e.tissues) == 0 {
		return out
	}
	out = append(out, e.morningJumps()...)
	if e.last.Litmus == LitmusWorse && prev.Litmus == LitmusWorse {
		out = append(out, Reason{Rule: RuleLitmusTwice, Row: 3, Readings: []Reading{{"days", prev.On, float64(e.last.On - prev.On)}}, Source: HouseSource})
	}
	if r, ok := e.restJump(); ok {
		out = append(out, r)
	}
	return out
}

// soreSpot is a release session's score; an older log has it as pain.
func (e engine) soreSpot(s Session) *body.Pain {
	if s.SoreSpot != nil {
		return s.SoreSpot
	}
	return s.Pain
}

// restJump: pain at rest on the day of the session or the day after stands two
// or more over its own usual.
func (e engine) restJump() (Reason, bool) {
	usual := e.rest
	for _, r := range e.h.Rests {
		if (r.On == e.last.On || r.On == e.last.On+1) && float64(r.Pain) >= usual+restJump {
			return Reason{Rule: RuleRestJump, Row: 3, Readings: []Reading{{"rest", r.On, float64(r.Pain)}, {"baseline", r.On, usual}}, Source: HouseSource}, true
		}
	}
	return Reason{}, false
}

// morningJumps are the reasons of row 3 that the next morning gives. They cut
// only ladders that load a counted tissue: work without one (release, range,
// control) is what the calm phase is made of, and is held instead. House: a
// ladder reads the complaint that shares its tissue.
func (e engine) morningJumps() []Reason {
	var out []Reason
	next := e.last.On + 1
	if m, known := e.h.morning(next); known {
		r := []Reading{{"morning", next, float64(m)}, e.baselineReading()}
		switch {
		case float64(m) >= e.b+jump-meanTolerance:
			out = append(out, Reason{Rule: RuleMorningJump, Row: 3, Readings: r, Source: HouseSource})
		case m >= morningHigh:
			out = append(out, Reason{Rule: RuleMorningHigh, Row: 3, Readings: r[:1], Source: HouseSource})
		}
	}
	return out
}

// flareWhilePaused is three bad mornings on a ladder that something less than a
// flare has stopped: the others that share its tissue must hear of it.
func (e engine) flareWhilePaused() []cut {
	if e.c.Halt.Row <= 2 {
		return nil
	}
	return slices.DeleteFunc(e.row2(), func(c cut) bool { return c.reason.Rule != RuleThreeMornings })
}

// row4 looks at the days since the last session. A gap before it was looked at
// when that session was planned, and is not looked at again.
func (e engine) row4() []cut {
	gap := int(e.c.Today - e.last.On)
	reason := Reason{Rule: RuleGap, Row: 4, Readings: []Reading{{"days", e.last.On, float64(gap)}}, Source: HouseSource}
	switch n, stop := Gap(gap); {
	case stop:
		return []cut{{stop: true, reason: reason}}
	case n > 0:
		return []cut{{steps: n, reason: reason}}
	}
	return nil
}

// Gap returns how many notches a pause of so many days takes, or that it stops
// the ladder.
func Gap(days int) (notches int, stop bool) {
	switch {
	case days >= gapStop:
		return 0, true
	case days >= gapBack2:
		return 2, false
	case days >= gapBack1:
		return 1, false
	}
	return 0, false
}

// GapStart is where a ladder that row 4 stopped starts again: the smaller of its
// starting notch and two under where it stood, never under 1.
func GapStart(starting, stood int) int { return max(1, min(starting, stood-haltLower)) }

// Lower is the notch two under the one a flare fired on, never under 1.
func Lower(stood int) int { return max(1, stood-haltLower) }

// Silent reports whether so long has passed since the last session that the
// next one starts lower; a coach should ask why before that.
func Silent(last, today day.Date) bool { return int(today-last) >= gapBack1 }

// cutSets reports whether running asks for fewer sets: a jump cuts heavy calf
// work and spring.
func (e engine) cutSets() bool { return CutsSets(e.c.Ladder, e.c.Notch, e.running()) }

// CutsSets is cutSets for any notch.
func CutsSets(l catalogue.Ladder, notch int, running load.Class) bool {
	return running == load.Spike && (l.At(notch).Heavy || l.Purpose == catalogue.ForSpring)
}

func (e engine) running() load.Class {
	if e.c.Running == "" {
		return load.Unknown
	}
	return e.c.Running
}

// row6 looks at how the work was done: too many compensated repetitions, or less
// than four fifths because more could not be done. Once holds, twice running
// goes back. Short of time is not counted.
func (e engine) row6() []cut {
	if len(e.rowSix(e.last)) == 0 {
		return nil
	}
	out := []cut{}
	steps := 0
	reasons := e.rowSix(e.last)
	if n := len(e.h.Sessions); n > 1 {
		if prev := e.h.Sessions[n-2]; prev.Notch == e.c.Notch && int(e.last.On-prev.On) <= sessionsApart && len(e.rowSix(prev)) > 0 {
			steps = 1
			reasons = append(reasons, Reason{Rule: RuleSixTwice, Row: 6, Readings: []Reading{}, Source: HouseSource})
		}
	}
	for _, r := range reasons {
		out = append(out, cut{steps: steps, reason: r})
	}
	return out
}

func (e engine) rowSix(s Session) []Reason {
	var out []Reason
	if c := s.Compensated; c != nil && *c >= compensatedCut-meanTolerance {
		out = append(out, Reason{Rule: RuleCompensated, Row: 6, Readings: []Reading{{"share", s.On, *c}}, Source: HouseSource})
	}
	if d := s.Done; d != nil && *d < couldNotUnder && !s.NoTime {
		out = append(out, Reason{Rule: RuleCouldNot, Row: 6, Readings: []Reading{{"share", s.On, *d}}, Source: HouseSource})
	}
	return out
}

// repCap is the most repetitions a set may have after a cramp at this notch: one
// less than where it came, at least three, two more each week, up to the dose. 0
// where no cap holds.
func (e engine) repCap() int { return RepCap(e.h.Sessions, e.c.Ladder, e.c.Notch, e.c.Today) }

// RepCap is repCap on any date.
func RepCap(sessions []Session, l catalogue.Ladder, notch int, on day.Date) int {
	for i := len(sessions) - 1; i >= 0; i-- {
		s := sessions[i]
		if s.Notch != notch || s.CrampAt == nil || s.On > on {
			continue
		}
		reps := max(crampLeast, *s.CrampAt-1) + crampWeekly*(int(on-s.On)/7)
		if full := l.At(notch).Dose.Reps; full == 0 || reps < full {
			return reps
		}
		return 0
	}
	return 0
}
