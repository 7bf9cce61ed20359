// Package adjust is the notch engine: it turns what a runner did and felt into
// a decision for one ladder and side, with the readings that led to it.
// Caution never waits; progress does.
package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/source"
)

// Thresholds of the table.
const (
	painUpMost        body.Pain = 3
	painModerate      body.Pain = 4
	painHigh          body.Pain = 6
	morningHigh       body.Pain = 6
	firstStepHold     body.Pain = 4
	jump                        = body.JumpOver
	quietOver                   = body.QuietOver
	flareMornings               = body.FewMornings
	flareBacks                  = 3
	gapBack1                    = 8
	gapBack2                    = 15
	gapStop                     = 29
	haltLower                   = 2
	doneFull                    = 1.0
	compensatedMost             = 0.10
	reserveLeast                = 2
	sessionsApart               = 10
	readingsLeast               = 3
	sideAheadMost               = 2
	baselineDays                = 7
	baselineKnown               = 4 // fewer known mornings let B fall, not rise
	baselineRise                = 1.0
	baselineMost                = 4.0 // no morning of 6 or 7 is usual
	returnDays                  = 3   // of painless walking before running starts
	startReadings               = 7
	startReadingsFrom           = 3
	restJump                    = 2.0
	compensatedCut              = 1.0 / 3
	couldNotUnder               = 0.80
	crampLeast                  = 3
	crampWeekly                 = 2
	soreGoOn          body.Pain = 5
	soreOff           body.Pain = 8
	runPainHold       body.Pain = 4
	weekHigh                    = 2.0
	weekHighReadings            = 3
	illFreeDays                 = 2 // 48 h
	illHalfMost                 = 7
	quietHolds                  = "calm-iso"
	returnPainMost    body.Pain = 2
)

// SlowerFrom and EndsFrom are the pains in a set from which it goes slower, and which
// end the exercise (0–10).
const (
	SlowerFrom = int(painModerate)
	EndsFrom   = int(painHigh)
)

// BackWindow is how many days before a session row 3 may have decided for a
// third time to make a flare. QuietHoldMost is the highest pain quiet holds go on
// with through a flare.
const (
	BackWindow              = 14
	QuietHoldMost body.Pain = 3
)

// UpEvery is how many days lie between two steps up, or a step back and one up, of
// a ladder and side.
const UpEvery = 7

// UpsAWeek is how many ladders may move up in one ISO week.
const UpsAWeek = 2

// HouseSource tags the numbers of the table that are ours.
var (
	painSource  = source.Silbernagel2007
	HouseSource = source.House("the table of decisions; each number errs on the side of less load")
)

// Decide returns the decision for the last session of the history. Rows that
// take load away are all looked at and the largest cut wins; otherwise the
// first row that applies. With no session there is nothing to decide and the
// peg is held.
func Decide(h History, c Context) Decision {
	d := Decision{Verdict: Hold, Row: 11, From: c.Notch, To: c.Notch, Reasons: []Reason{}, ForUp: []Condition{}, NextLook: c.Today + 2}
	ill := c.illness()
	d.NoSession, d.HalfUntil = c.Illness.Now, c.halfUntil()
	if len(h.Sessions) == 0 {
		if ill != nil {
			d.Row = 0
			d.Reasons = append(d.Reasons, *ill)
			return d
		}
		d.Reasons = append(d.Reasons, Reason{Rule: RuleNotYet, Row: 11, Readings: []Reading{}, Source: HouseSource})
		d.ForUp = []Condition{{ID: NeedTwoSessions}}
		return d
	}
	e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
	e.b, e.rest = h.Baseline(e.last.On), h.RestBaseline(e.last.On)
	d.Baseline = e.b
	d.Frozen = Frozen{B: e.b, B0: h.B0, Rest: e.rest}
	d.RepCap = e.repCap()
	d.CutSets = e.cutSets()
	d.ForUp = e.conditions(d.RepCap)
	if c.Halt != nil && !e.flagged() && !e.severeSince(c.Halt.On) {
		if cuts := e.flareWhilePaused(); len(cuts) > 0 {
			e.apply(&d, cuts)
			return d
		}
		e.halted(&d)
		return d
	}
	if cuts := e.cuts(); len(cuts) > 0 {
		e.apply(&d, cuts)
		return d
	}
	if ill != nil {
		d.Row, d.Reasons = 0, append(d.Reasons, *ill)
		return d
	}
	if holds := e.holds(); len(holds) > 0 {
		d.Row, d.Reasons = holds[0].Row, holds
		return d
	}
	if !slices.ContainsFunc(d.ForUp, func(n Condition) bool { return !n.Met }) {
		d.Verdict, d.Row, d.To = Up, 10, c.Notch+1
		d.NextLook = c.Today + UpEvery
		d.Reasons = append(d.Reasons, Reason{Rule: RuleClean, Row: 10, Readings: e.recentPains(), Source: HouseSource})
		return d
	}
	rule := RuleNotYet
	if c.Notch == c.Ladder.Len() {
		rule = RuleTop
	}
	d.Reasons = append(d.Reasons, Reason{Rule: rule, Row: 11, Readings: []Reading{}, Source: HouseSource})
	return d
}

type engine struct {
	h       History
	c       Context
	last    Session
	tissues []body.Tissue
	b       float64
	rest    float64
}

func (e engine) flagged() bool {
	if len(e.c.Flags) == 0 {
		return false
	}
	k := e.c.Ladder.At(e.c.Notch).Kinds()
	return slices.ContainsFunc(e.c.Flags, func(f safety.Standing) bool { return f.Closes(k, e.c.Side) })
}

// severeSince reports whether the last session hurt severely after a stop: it
// is stopped anew, with its own flag.
func (e engine) severeSince(stop day.Date) bool {
	return e.last.On > stop && !e.release() && e.last.Pain != nil && *e.last.Pain >= safety.SevereAt
}

// returning: the way back to running goes on after two sessions at pain 2 or less
// with quiet mornings, without the week between; after a bone clearance one
// notch a week.
func (e engine) returning() bool { return e.c.Ladder.Purpose == catalogue.ForReturn }

func (e engine) release() bool { return e.c.Ladder.Purpose == catalogue.ForRelease }

// apply lets the largest cut win; all reasons of the same size are kept.
func (e engine) apply(d *Decision, cuts []cut) {
	slices.SortStableFunc(cuts, func(a, b cut) int {
		if s := b.size() - a.size(); s != 0 {
			return s
		}
		return int(a.reason.Row - b.reason.Row)
	})
	win := cuts[0]
	d.Row = win.reason.Row
	for _, c := range cuts {
		if c.size() == win.size() {
			d.Reasons = append(d.Reasons, c.reason)
		}
	}
	if win.stop {
		d.Verdict = Stop
		d.NextLook = e.c.Today + flareMornings
		if d.Row == 4 {
			d.Rescreen = true
			d.To = GapStart(e.c.StartingNotch, e.c.Notch)
		}
	} else if win.steps > 0 {
		d.Verdict = Back
		d.To = max(1, e.c.Notch-win.steps)
	}
	if d.Row == 2 && slices.ContainsFunc(e.tissues, func(t body.Tissue) bool { return t == body.Forefoot || t == body.Shin }) {
		d.AskBone = true
	}
	if p := e.last.Pain; p != nil && *p >= safety.SevereAt && !e.release() {
		f := safety.RaiseSevere(e.last.On, e.c.Side, e.tissues)
		d.Raises = &f
	}
}

// halted handles a ladder that stands stopped: it resumes two notches lower
// after three known mornings running at or under B + 1, all after the stop.
func (e engine) halted(d *Decision) {
	halt := *e.c.Halt
	d.From, d.To, d.Row = halt.Notch, halt.Notch, halt.Row
	quiet := e.quietMornings(halt.On)
	if len(quiet) < flareMornings {
		d.Verdict = Stop
		d.NextLook = e.c.Today + day.Date(flareMornings-len(quiet))
		d.Reasons = append(d.Reasons, Reason{Rule: RuleStillHalted, Row: halt.Row, Readings: append(quiet, e.baselineReading()), Source: HouseSource})
		return
	}
	d.Verdict, d.Resume = Back, true
	d.To = max(1, halt.Notch-haltLower)
	if halt.Row == 4 {
		d.To = max(1, min(e.c.StartingNotch, d.To))
	}
	d.Reasons = append(d.Reasons, Reason{Rule: RuleResume, Row: halt.Row, Readings: append(quiet, e.baselineReading()), Source: HouseSource})
}

// Harshness orders decisions by the dose they leave: 0 for up, 1 for hold, then
// the notches taken away, and most for stop.
func (d Decision) Harshness() int {
	switch d.Verdict {
	case Up:
		return 0
	case Hold:
		return 1
	case Back:
		return 1 + d.From - d.To
	default:
		return 1 << 20
	}
}

// Same reports whether two decisions say the same: the same move for the same
// rules, with the same things missing.
func (d Decision) Same(o Decision) bool {
	rules := func(x Decision) (out []string) {
		for _, r := range x.Reasons {
			out = append(out, string(r.Rule))
		}
		for _, c := range x.ForUp {
			if !c.Met {
				out = append(out, string(c.ID))
			}
		}
		return out
	}
	return d.Verdict == o.Verdict && d.Row == o.Row && d.From == o.From && d.To == o.To && d.Resume == o.Resume && slices.Equal(rules(d), rules(o))
}
