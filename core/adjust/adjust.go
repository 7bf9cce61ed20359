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
	"notchback/core/stats"
)

// Verdict is what happens to the peg.
type Verdict string

// The verdicts, from the easiest dose to the hardest: stop, back, hold, up.
const (
	Up   Verdict = "up"
	Hold Verdict = "hold"
	Back Verdict = "back"
	Stop Verdict = "stop"
)

// Row is a row of the decision table.
type Row int

// RowNone marks a session that no decision was made for yet.
const RowNone Row = -1

// Session is one logged session of a ladder on one side.
type Session struct {
	On          day.Date   `json:"on" format:"date"`
	Notch       int        `json:"notch" minimum:"1"`
	Pain        *body.Pain `json:"pain,omitempty" minimum:"0" maximum:"10" doc:"Worst pain during"`
	Done        *float64   `json:"done,omitempty" minimum:"0" maximum:"1" doc:"Share of the dose done"`
	Compensated *float64   `json:"compensated,omitempty" minimum:"0" maximum:"1" doc:"Share of repetitions with a compensation"`
	Reserve     *int       `json:"reserve,omitempty" minimum:"0" maximum:"5" doc:"Repetitions left in reserve; on an RM notch repetitions done beyond the target"`
	SureTwenty  *bool      `json:"sureOfTwentyPercentMore,omitempty" doc:"For holds: target reached and sure of 20 % more"`
	NoTime      bool       `json:"noTime,omitempty" doc:"Cut short for lack of time, not because it could not be done"`
	DecidedBy   Row        `json:"decidedBy" doc:"Row that decided this session before, −1 for none"`
}

// Morning is one first-step reading.
type Morning struct {
	On        day.Date  `json:"on" format:"date"`
	FirstStep body.Pain `json:"firstStep" minimum:"0" maximum:"10"`
}

// History is what is known of one ladder and side, oldest first. The last
// session is the one being decided.
type History struct {
	Sessions []Session `json:"sessions" nullable:"false"`
	Mornings []Morning `json:"mornings" nullable:"false"`
	B0       float64   `json:"b0" minimum:"0" maximum:"10" doc:"The block's starting baseline"`
}

// Halt is a stop that still stands.
type Halt struct {
	Row   Row      `json:"row"`
	On    day.Date `json:"on" format:"date"`
	Notch int      `json:"notch" doc:"The notch it stood at when stopped"`
}

// Context is what surrounds the decision.
type Context struct {
	Today         day.Date
	Side          body.Side
	Ladder        catalogue.Ladder
	Notch         int  // the notch the decided session was prescribed at
	OtherNotch    *int // the other side's peg, where there is one
	StartingNotch int
	Ceiling       int // highest notch the plan leaves open; 0 when not known
	Flags         []safety.Standing
	Gates         []safety.GateState
	LastUp        *day.Date
	UpsThisWeek   int // other ladders already moved up this ISO week
	BlockStart    day.Date
	Deload        bool
	Halt          *Halt
}

// RuleID names what fired.
type RuleID string

// The rules that can fire, by row.
const (
	RuleFlag          RuleID = "flag"            // 1
	RuleSevere        RuleID = "severe-pain"     // 1
	RuleThreeMornings RuleID = "three-mornings"  // 2
	RuleThriceBack    RuleID = "back-thrice"     // 2
	RuleStillHalted   RuleID = "still-halted"    // 2
	RuleResume        RuleID = "resume"          // 2
	RulePainHigh      RuleID = "pain-high"       // 3
	RuleMorningJump   RuleID = "morning-jump"    // 3
	RuleMorningHigh   RuleID = "morning-high"    // 3
	RuleTwiceBack     RuleID = "back-twice"      // 3
	RuleGap           RuleID = "gap"             // 4
	RulePainModerate  RuleID = "pain-moderate"   // 8
	RuleMorningOneUp  RuleID = "morning-one-up"  // 8
	RuleFirstStepFour RuleID = "first-step-four" // 8
	RuleRising        RuleID = "rising"          // 8, the weekly look
	RuleDeload        RuleID = "deload"          // 9
	RuleProgressShut  RuleID = "progress-closed" // 9
	RuleClean         RuleID = "clean"           // 10
	RuleNotYet        RuleID = "not-yet"         // 11
	RuleTop           RuleID = "top"             // 11
)

// Rules lists every rule that can fire.
var Rules = []RuleID{
	RuleFlag, RuleSevere, RuleThreeMornings, RuleThriceBack, RuleStillHalted, RuleResume, RulePainHigh, RuleMorningJump, RuleMorningHigh, RuleTwiceBack, RuleGap, RulePainModerate, RuleMorningOneUp, RuleFirstStepFour, RuleRising, RuleDeload, RuleProgressShut, RuleClean, RuleNotYet, RuleTop,
}

// Reading is one value behind a reason.
type Reading struct {
	Name  string   `json:"name" enum:"pain,morning,baseline,days,notch,count"`
	On    day.Date `json:"on,omitempty" format:"date"`
	Value float64  `json:"value"`
}

// Reason is one rule that fired, with its readings.
type Reason struct {
	Rule     RuleID        `json:"rule"`
	Row      Row           `json:"row"`
	Readings []Reading     `json:"readings" nullable:"false"`
	Flag     safety.FlagID `json:"flag,omitempty"`
	Source   source.Tag    `json:"source"`
}

// ConditionID names one thing an up needs.
type ConditionID string

// What an up needs, in the order shown.
const (
	NeedTwoSessions ConditionID = "two-sessions"
	NeedTenDays     ConditionID = "ten-days"
	NeedPain        ConditionID = "pain"
	NeedFullDose    ConditionID = "full-dose"
	NeedClean       ConditionID = "clean-reps"
	NeedMorning     ConditionID = "morning-known"
	NeedQuiet       ConditionID = "morning-quiet"
	NeedReserve     ConditionID = "reserve"
	NeedWeekSinceUp ConditionID = "week-since-up"
	NeedFirstWeek   ConditionID = "first-week"
	NeedReadings    ConditionID = "three-readings"
	NeedGate        ConditionID = "next-gate"
	NeedOpen        ConditionID = "next-open"
	NeedBudget      ConditionID = "two-up-a-week"
	NeedSides       ConditionID = "side-ahead"
	NeedNextNotch   ConditionID = "next-notch"
)

// Conditions lists everything an up can need.
var Conditions = []ConditionID{
	NeedTwoSessions, NeedTenDays, NeedPain, NeedFullDose, NeedClean, NeedMorning, NeedQuiet, NeedReserve, NeedWeekSinceUp, NeedFirstWeek, NeedReadings, NeedGate, NeedOpen, NeedBudget, NeedSides, NeedNextNotch,
}

// Condition is one thing an up needs and whether it holds. On is set where a
// dated reading is missing.
type Condition struct {
	ID   ConditionID    `json:"id"`
	Met  bool           `json:"met"`
	On   *day.Date      `json:"on,omitempty" format:"date"`
	Gate catalogue.Gate `json:"gate,omitempty"`
}

// Decision is what the engine proposes for one ladder and side.
type Decision struct {
	Verdict  Verdict          `json:"verdict" enum:"up,hold,back,stop"`
	Row      Row              `json:"row" doc:"The row of the decision table that won"`
	From     int              `json:"from"`
	To       int              `json:"to"`
	Resume   bool             `json:"resume,omitempty" doc:"Takes the ladder up again after a stop"`
	Rescreen bool             `json:"rescreen,omitempty" doc:"Screen again before going on"`
	Reasons  []Reason         `json:"reasons" nullable:"false"`
	ForUp    []Condition      `json:"forUp" nullable:"false" doc:"What an up needs, met or not"`
	Baseline float64          `json:"baseline" doc:"Usual first-step pain, B"`
	NextLook day.Date         `json:"nextLook" format:"date"`
	Raises   *safety.Standing `json:"raises,omitempty" doc:"A flag this session raises"`
}

// Thresholds of the table.
const (
	painUpMost        body.Pain = 3
	painModerate      body.Pain = 4
	painHigh          body.Pain = 6
	morningHigh       body.Pain = 6
	firstStepHold     body.Pain = 4
	jump                        = 2.0
	quietOver                   = 1.0
	flareMornings               = 3
	backWindow                  = 14
	gapBack1                    = 8
	gapBack2                    = 15
	gapStop                     = 29
	haltLower                   = 2
	doneFull                    = 1.0
	compensatedMost             = 0.10
	reserveLeast                = 2
	upEvery                     = 7
	sessionsApart               = 10
	readingsLeast               = 3
	sideAheadMost               = 2
	baselineDays                = 7
	startReadings               = 7
	startReadingsFrom           = 3
)

// UpsAWeek is how many ladders may move up in one ISO week.
const UpsAWeek = 2

var (
	painSource  = source.Silbernagel2007
	houseSource = source.House("the table of decisions; each number errs on the side of less load")
)

// StartingBaseline returns B0: the median of the block's first seven
// first-step readings once three exist, until then the intake reading, and 0
// where nothing is known. It never rises above the intake reading (house: a
// block that starts with bad mornings would otherwise call them usual and hide
// a flare).
func StartingBaseline(first []body.Pain, intake *body.Pain) float64 {
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
// followed a session decided by row 2 or 3.
func (h History) Baseline(on day.Date) float64 {
	var x []float64
	for _, m := range h.Mornings {
		if m.On <= on && int(on-m.On) < baselineDays && !h.excluded(m.On) {
			x = append(x, float64(m.FirstStep))
		}
	}
	if med, ok := stats.Median(x); ok {
		return min(h.B0, med)
	}
	return h.B0
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

// Decide returns the decision for the last session of the history. Rows that
// take load away are all looked at and the largest cut wins; otherwise the
// first row that applies. With no session there is nothing to decide and the
// peg is held.
func Decide(h History, c Context) Decision {
	d := Decision{Verdict: Hold, Row: 11, From: c.Notch, To: c.Notch, Reasons: []Reason{}, ForUp: []Condition{}, NextLook: c.Today + 2}
	if len(h.Sessions) == 0 {
		d.Reasons = append(d.Reasons, Reason{Rule: RuleNotYet, Row: 11, Readings: []Reading{}, Source: houseSource})
		d.ForUp = []Condition{{ID: NeedTwoSessions}}
		return d
	}
	e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
	e.b = h.Baseline(e.last.On)
	d.Baseline = e.b
	d.ForUp = e.conditions()
	if c.Halt != nil && !e.flagged() && !e.severeSince(c.Halt.On) {
		e.halted(&d)
		return d
	}
	if cuts := e.cuts(); len(cuts) > 0 {
		e.apply(&d, cuts)
		return d
	}
	if holds := e.holds(); len(holds) > 0 {
		d.Row, d.Reasons = holds[0].Row, holds
		return d
	}
	if !slices.ContainsFunc(d.ForUp, func(n Condition) bool { return !n.Met }) {
		d.Verdict, d.Row, d.To = Up, 10, c.Notch+1
		d.NextLook = c.Today + upEvery
		d.Reasons = append(d.Reasons, Reason{Rule: RuleClean, Row: 10, Readings: e.recentPains(), Source: houseSource})
		return d
	}
	rule := RuleNotYet
	if c.Notch == c.Ladder.Len() {
		rule = RuleTop
	}
	d.Reasons = append(d.Reasons, Reason{Rule: rule, Row: 11, Readings: []Reading{}, Source: houseSource})
	return d
}

type engine struct {
	h       History
	c       Context
	last    Session
	tissues []body.Tissue
	b       float64
}

func (e engine) flagged() bool {
	return slices.ContainsFunc(e.c.Flags, func(f safety.Standing) bool { return f.Closes(e.c.Ladder.ID, e.c.Side, e.tissues) })
}

// severeSince reports whether the last session hurt severely after a stop: it
// is stopped anew, with its own flag.
func (e engine) severeSince(stop day.Date) bool {
	return e.last.On > stop && e.last.Pain != nil && *e.last.Pain >= safety.SevereAt
}

func (e engine) cuts() []cut {
	var out []cut
	add := func(c ...cut) { out = append(out, c...) }
	add(e.row1()...)
	add(e.row2()...)
	add(e.row3()...)
	add(e.row4()...)
	return out
}

func (e engine) row1() []cut {
	var out []cut
	for _, f := range e.c.Flags {
		if f.Closes(e.c.Ladder.ID, e.c.Side, e.tissues) {
			out = append(out, cut{stop: true, reason: Reason{Rule: RuleFlag, Row: 1, Flag: f.Flag, Readings: []Reading{}, Source: safety.SevereSource}})
		}
	}
	if p := e.last.Pain; p != nil && *p >= safety.SevereAt {
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
	if m, ok := e.h.latest(e.c.Today); ok && len(e.tissues) > 0 {
		var run []Reading
		bad := func(d day.Date) (body.Pain, bool) {
			p, known := e.h.morning(d)
			return p, known && float64(p) >= e.b+jump
		}
		days := 0
		for d := m.On; ; d-- {
			if p, isBad := bad(d); isBad {
				run = append(run, Reading{"morning", d, float64(p)})
				days++
				continue
			}
			if _, known := e.h.morning(d); !known {
				if _, before := bad(d - 1); before && days > 0 {
					days++
					continue
				}
			}
			break
		}
		if days >= flareMornings {
			slices.Reverse(run)
			out = append(out, cut{stop: true, reason: Reason{Rule: RuleThreeMornings, Row: 2, Readings: append(run, e.baselineReading()), Source: houseSource}})
		}
	}
	n := 0
	for _, s := range e.h.Sessions[:len(e.h.Sessions)-1] {
		if s.DecidedBy == 3 && int(e.last.On-s.On) < backWindow {
			n++
		}
	}
	if len(e.ruleThree()) > 0 {
		n++
	}
	if n >= 3 {
		out = append(out, cut{stop: true, reason: Reason{Rule: RuleThriceBack, Row: 2, Readings: []Reading{{Name: "count", Value: float64(n)}}, Source: houseSource}})
	}
	return out
}

func (e engine) baselineReading() Reading {
	return Reading{Name: "baseline", On: e.last.On, Value: e.b}
}

// ruleThree returns the reasons of row 3 that hold for the last session.
func (e engine) ruleThree() []Reason {
	var out []Reason
	if p := e.last.Pain; p != nil && *p >= painHigh {
		out = append(out, Reason{Rule: RulePainHigh, Row: 3, Readings: []Reading{{"pain", e.last.On, float64(*p)}}, Source: painSource})
	}
	if len(e.tissues) > 0 {
		out = append(out, e.morningJumps()...)
	}
	return out
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
		case float64(m) >= e.b+jump:
			out = append(out, Reason{Rule: RuleMorningJump, Row: 3, Readings: r, Source: houseSource})
		case m >= morningHigh:
			out = append(out, Reason{Rule: RuleMorningHigh, Row: 3, Readings: r[:1], Source: houseSource})
		}
	}
	return out
}

func (e engine) row3() []cut {
	reasons := e.ruleThree()
	if len(reasons) == 0 {
		return nil
	}
	steps := 1
	if n := len(e.h.Sessions); n > 1 && e.h.Sessions[n-2].DecidedBy == 3 {
		steps = 2
		reasons = append(reasons, Reason{Rule: RuleTwiceBack, Row: 3, Readings: []Reading{}, Source: houseSource})
	}
	out := make([]cut, len(reasons))
	for i, r := range reasons {
		out[i] = cut{steps: steps, stop: e.c.Notch == 1, reason: r}
	}
	return out
}

func (e engine) row4() []cut {
	gap := int(e.c.Today - e.last.On)
	from := e.last.On
	if n := len(e.h.Sessions); n > 1 {
		if before := int(e.last.On - e.h.Sessions[n-2].On); before > gap {
			gap, from = before, e.h.Sessions[n-2].On
		}
	}
	reason := Reason{Rule: RuleGap, Row: 4, Readings: []Reading{{"days", from, float64(gap)}}, Source: houseSource}
	switch {
	case gap >= gapStop:
		return []cut{{stop: true, reason: reason}}
	case gap >= gapBack2:
		return []cut{{steps: 2, reason: reason}}
	case gap >= gapBack1:
		return []cut{{steps: 1, reason: reason}}
	}
	return nil
}

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
			d.To = max(1, min(e.c.StartingNotch, e.c.Notch-haltLower))
		}
	} else {
		d.Verdict = Back
		d.To = max(1, e.c.Notch-win.steps)
	}
	if p := e.last.Pain; p != nil && *p >= safety.SevereAt {
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
		d.Reasons = append(d.Reasons, Reason{Rule: RuleStillHalted, Row: halt.Row, Readings: append(quiet, e.baselineReading()), Source: houseSource})
		return
	}
	d.Verdict, d.Resume = Back, true
	d.To = max(1, halt.Notch-haltLower)
	if halt.Row == 4 {
		d.To = max(1, min(e.c.StartingNotch, d.To))
	}
	d.Reasons = append(d.Reasons, Reason{Rule: RuleResume, Row: halt.Row, Readings: append(quiet, e.baselineReading()), Source: houseSource})
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
		if !known || float64(p) > e.b+quietOver {
			break
		}
		run = append(run, Reading{"morning", d, float64(p)})
	}
	slices.Reverse(run)
	return run
}

// holds returns the reasons of rows 8 and 9 that hold.
func (e engine) holds() []Reason {
	var out []Reason
	if p := e.last.Pain; p != nil && *p >= painModerate {
		out = append(out, Reason{Rule: RulePainModerate, Row: 8, Readings: []Reading{{"pain", e.last.On, float64(*p)}}, Source: painSource})
	}
	if len(e.tissues) == 0 {
		for _, r := range e.morningJumps() {
			r.Row = 8
			out = append(out, r)
		}
	}
	if n := len(e.h.Sessions); n > 1 {
		prev := e.h.Sessions[n-2].On + 1
		a, aKnown := e.h.morning(prev)
		b, bKnown := e.h.morning(e.last.On + 1)
		if aKnown && bKnown && float64(a) >= e.b+quietOver && float64(b) >= e.b+quietOver {
			out = append(out, Reason{Rule: RuleMorningOneUp, Row: 8, Readings: []Reading{{"morning", prev, float64(a)}, {"morning", e.last.On + 1, float64(b)}, e.baselineReading()}, Source: houseSource})
		}
	}
	if m, ok := e.h.latest(e.c.Today); ok && m.FirstStep >= firstStepHold {
		out = append(out, Reason{Rule: RuleFirstStepFour, Row: 8, Readings: []Reading{{"morning", m.On, float64(m.FirstStep)}}, Source: houseSource})
	}
	if r, rising := e.h.Rising(e.c.Today); rising {
		out = append(out, r)
	}
	if e.c.Deload {
		out = append(out, Reason{Rule: RuleDeload, Row: 9, Readings: []Reading{}, Source: source.Common()})
	}
	for _, f := range e.c.Flags {
		if f.ProgressOnly {
			out = append(out, Reason{Rule: RuleProgressShut, Row: 9, Flag: f.Flag, Readings: []Reading{}, Source: safety.SevereSource})
		}
	}
	return out
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
	var this, last, x, y []float64
	monday := today.Monday()
	for _, m := range h.Mornings {
		if m.On > today {
			continue
		}
		v := float64(m.FirstStep)
		switch {
		case m.On >= monday:
			this = append(this, v)
		case m.On >= monday-7:
			last = append(last, v)
		}
		if int(today-m.On) < risingDays {
			x, y = append(x, float64(m.On)), append(y, v)
		}
	}
	r := Reason{Rule: RuleRising, Row: 8, Source: houseSource}
	now, haveNow := stats.Median(this)
	before, haveBefore := stats.Median(last)
	if haveNow {
		r.Readings = append(r.Readings, Reading{"morning", today, now})
	}
	if haveBefore {
		r.Readings = append(r.Readings, Reading{"morning", monday - 7, before})
	}
	if haveNow && ((haveBefore && now >= before+risingWeek) || now >= h.B0+risingWeek) {
		return r, true
	}
	if len(x) >= risingReadings {
		if slope, ok := stats.TheilSen(x, y); ok && slope >= risingSlope {
			return r, true
		}
	}
	return Reason{}, false
}

func (e engine) recentPains() []Reading {
	var out []Reading
	for _, s := range e.h.Sessions[max(0, len(e.h.Sessions)-2):] {
		if s.Pain != nil {
			out = append(out, Reading{"pain", s.On, float64(*s.Pain)})
		}
		if m, ok := e.h.morning(s.On + 1); ok {
			out = append(out, Reading{"morning", s.On + 1, float64(m)})
		}
	}
	return append(out, e.baselineReading())
}

// conditions lists everything an up needs and whether it holds. A missing
// reading never helps.
func (e engine) conditions() []Condition {
	c := e.c
	notch := c.Ladder.At(c.Notch)
	n := len(e.h.Sessions)
	two := n >= 2 && e.h.Sessions[n-1].Notch == c.Notch && e.h.Sessions[n-2].Notch == c.Notch
	out := []Condition{{ID: NeedTwoSessions, Met: two}}
	recent := e.h.Sessions[max(0, n-2):]
	if two {
		out = append(out, Condition{ID: NeedTenDays, Met: int(recent[1].On-recent[0].On) <= sessionsApart})
	}
	all := func(ok func(Session) bool) bool {
		return !slices.ContainsFunc(recent, func(s Session) bool { return !ok(s) })
	}
	out = append(out,
		Condition{ID: NeedPain, Met: all(func(s Session) bool { return s.Pain != nil && *s.Pain <= painUpMost })},
		Condition{ID: NeedFullDose, Met: all(func(s Session) bool { return s.Done != nil && *s.Done >= doneFull })},
		Condition{ID: NeedClean, Met: all(func(s Session) bool { return s.Compensated != nil && *s.Compensated <= compensatedMost })},
	)
	out = append(out, e.morningConditions(recent, len(notch.Tissues) > 0)...)
	switch {
	case c.Ladder.Effort == catalogue.AskReserve:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.Reserve != nil && *s.Reserve >= reserveLeast })})
	case c.Ladder.Effort == catalogue.AskTwenty:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.SureTwenty != nil && *s.SureTwenty })})
	}
	first := c.BlockStart + upEvery
	out = append(out,
		Condition{ID: NeedWeekSinceUp, Met: c.LastUp == nil || int(c.Today-*c.LastUp) >= upEvery},
		Condition{ID: NeedFirstWeek, Met: c.Today >= first, On: &first},
		Condition{ID: NeedReadings, Met: e.readingsSince(c.BlockStart) >= readingsLeast},
		Condition{ID: NeedBudget, Met: c.UpsThisWeek < UpsAWeek},
		Condition{ID: NeedSides, Met: c.OtherNotch == nil || c.Notch-*c.OtherNotch < sideAheadMost},
	)
	if c.Notch >= c.Ladder.Len() {
		return append(out, Condition{ID: NeedNextNotch})
	}
	gate := c.Ladder.At(c.Notch + 1).Gate
	met := safety.Open(c.Gates, gate)
	if met && c.Ceiling > 0 && c.Notch >= c.Ceiling {
		return append(out, Condition{ID: NeedOpen})
	}
	return append(out, Condition{ID: NeedGate, Met: met, Gate: gate})
}

func (e engine) morningConditions(recent []Session, dosed bool) []Condition {
	known := Condition{ID: NeedMorning, Met: true}
	quiet := Condition{ID: NeedQuiet, Met: true}
	for _, s := range recent {
		on := s.On + 1
		m, ok := e.h.morning(on)
		switch {
		case !ok && dosed:
			known.Met, known.On = false, &on
		case ok && float64(m) > e.b+quietOver:
			quiet.Met, quiet.On = false, &on
		}
	}
	return []Condition{known, quiet}
}

func (e engine) readingsSince(start day.Date) int {
	n := 0
	for _, m := range e.h.Mornings {
		if m.On >= start && m.On <= e.c.Today {
			n++
		}
	}
	return n
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

// Silent reports whether so long has passed since the last session that the
// next one starts lower; a coach should ask why before that.
func Silent(last, today day.Date) bool { return int(today-last) >= gapBack1 }

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

// morningHour is the local hour from which a next morning that was not
// reported counts as missing (house: by noon it is not the first steps any more).
const morningHour = 12

// MorningMayCome reports whether the morning after a session can still be
// reported: until noon of the day after it. hour is the local hour, 0–23.
func MorningMayCome(session, today day.Date, hour int) bool {
	return today <= session || (today == session+1 && hour < morningHour)
}

// Jumped reports whether a first-step reading stands so far over the usual one
// that it takes load away.
func Jumped(firstStep body.Pain, usual float64) bool { return float64(firstStep) >= usual+jump }
