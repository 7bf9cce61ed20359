// Package adjust is the notch engine: it turns what a runner did and felt into
// a decision for one ladder and side, with the readings that led to it.
// Caution never waits; progress does.
package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
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

// Version names this edition of the engine. A practice looks at what a new one
// would decide differently before its plans go on by themselves.
const Version = 3

// Litmus is how ten steps on heels and toes felt after a session, against before.
type Litmus string

// The answers; empty was not asked.
const (
	LitmusBetter Litmus = "better"
	LitmusSame   Litmus = "same"
	LitmusWorse  Litmus = "worse"
)

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
	CrampAt     *int       `json:"crampAt,omitempty" minimum:"1" maximum:"200" doc:"Repetition at which a cramp came"`
	SoreSpot    *body.Pain `json:"soreSpot,omitempty" minimum:"0" maximum:"10" doc:"Release only: worst score of a sore spot after a hold"`
	Litmus      Litmus     `json:"litmus,omitempty" enum:"better,same,worse," doc:"Heel and toe walk after, against before"`
	Reacted     bool       `json:"reacted,omitempty" doc:"Release only: tired soles or night sweats afterwards"`
	DecidedBy   Row        `json:"decidedBy" doc:"Row that decided this session before, −1 for none"`
}

// Morning is one first-step reading.
type Morning struct {
	On        day.Date  `json:"on" format:"date"`
	FirstStep body.Pain `json:"firstStep" minimum:"0" maximum:"10"`
}

// Rest is one reading of pain at rest.
type Rest struct {
	On   day.Date  `json:"on" format:"date"`
	Pain body.Pain `json:"pain" minimum:"0" maximum:"10"`
}

// History is what is known of one ladder and side, oldest first. The last
// session is the one being decided.
type History struct {
	Sessions []Session `json:"sessions" nullable:"false"`
	Mornings []Morning `json:"mornings" nullable:"false"`
	Rests    []Rest    `json:"rests,omitempty"`
	B0       float64   `json:"b0" minimum:"0" maximum:"10" doc:"The block's starting baseline"`
	RestB0   float64   `json:"restB0,omitempty" minimum:"0" maximum:"10" doc:"The same of pain at rest"`
}

// Halt is a stop that still stands.
type Halt struct {
	Row   Row      `json:"row"`
	On    day.Date `json:"on" format:"date"`
	Notch int      `json:"notch" doc:"The notch it stood at when stopped"`
}

// Illness is what row 0 looks at.
type Illness struct {
	Now   bool      `json:"now,omitempty" doc:"Fever, or chest or whole-body illness within the last 48 h"`
	Days  int       `json:"days,omitempty" doc:"How long the last one lasted"`
	Ended *day.Date `json:"ended,omitempty" format:"date" doc:"Its last day"`
}

// Flare is a stop by row 2 on another ladder that still stands.
type Flare struct {
	Ladder  string        `json:"ladder"`
	Name    string        `json:"name"`
	Since   day.Date      `json:"since" format:"date"`
	Side    body.Side     `json:"side"`
	Tissues []body.Tissue `json:"tissues" nullable:"false"`
}

// Context is what surrounds the decision.
type Context struct {
	Today         day.Date           `json:"today" format:"date"`
	Side          body.Side          `json:"side"`
	Ladder        catalogue.Ladder   `json:"-"`
	Notch         int                `json:"notch" doc:"The notch the decided session was prescribed at"`
	OtherNotch    *int               `json:"otherNotch,omitempty" doc:"The other side's peg, where there is one"`
	StartingNotch int                `json:"startingNotch"`
	Ceiling       int                `json:"ceiling" doc:"Highest notch the plan leaves open; 0 when not known"`
	Flags         []safety.Standing  `json:"flags,omitempty"`
	Gates         []safety.GateState `json:"gates,omitempty"`
	LastUp        *day.Date          `json:"lastUp,omitempty" format:"date"`
	UpsThisWeek   int                `json:"upsThisWeek" doc:"Other ladders already moved up this ISO week"`
	BlockStart    day.Date           `json:"blockStart" format:"date"`
	Deload        bool               `json:"deload,omitempty" doc:"A deload, race or half week"`
	Halt          *Halt              `json:"halt,omitempty"`
	Running       load.Class         `json:"running,omitempty" doc:"Running volume; unknown when empty"`
	ExposureOver  bool               `json:"exposureOver,omitempty" doc:"Barefoot minutes over their line"`
	RunPain       *Reading           `json:"runPain,omitempty" doc:"Worst pain of a run on this tissue since the session before"`
	Illness       Illness            `json:"illness"`
	PoorSleep     bool               `json:"poorSleep,omitempty"`
	MildIllness   bool               `json:"mildIllness,omitempty" doc:"Ill without fever"`
	Flares        []Flare            `json:"flares,omitempty"`
	LoadEarly     bool               `json:"loadEarly,omitempty" doc:"The school load early"`
	BoneCleared   bool               `json:"boneCleared,omitempty" doc:"Back to running after a clearance of a bone flag: one notch a week"`
}

// RuleID names what fired.
type RuleID string

// The rules that can fire, by row.
const (
	RuleIllNow        RuleID = "ill-now"         // 0
	RuleIllAfter      RuleID = "ill-after"       // 0
	RuleFlag          RuleID = "flag"            // 1
	RuleSevere        RuleID = "severe-pain"     // 1
	RuleThreeMornings RuleID = "three-mornings"  // 2
	RuleThriceBack    RuleID = "back-thrice"     // 2
	RuleSharedFlare   RuleID = "shared-flare"    // 2
	RuleQuietHolds    RuleID = "quiet-holds"     // 2
	RuleStillHalted   RuleID = "still-halted"    // 2
	RuleResume        RuleID = "resume"          // 2
	RulePainHigh      RuleID = "pain-high"       // 3
	RuleMorningJump   RuleID = "morning-jump"    // 3
	RuleMorningHigh   RuleID = "morning-high"    // 3
	RuleRestJump      RuleID = "rest-jump"       // 3
	RuleLitmusTwice   RuleID = "litmus-twice"    // 3
	RuleWeekHigh      RuleID = "week-high"       // 3, the weekly look
	RuleSoreSpotHigh  RuleID = "sore-spot-high"  // 3, release
	RuleReactedTwice  RuleID = "reacted-twice"   // 3, release
	RuleTwiceBack     RuleID = "back-twice"      // 3
	RuleGap           RuleID = "gap"             // 4
	RuleCramp         RuleID = "cramp"           // 5
	RuleCompensated   RuleID = "compensated"     // 6
	RuleCouldNot      RuleID = "could-not"       // 6
	RuleSixTwice      RuleID = "six-twice"       // 6
	RuleRunSpike      RuleID = "run-spike"       // 7
	RuleRunRise       RuleID = "run-rise"        // 7
	RuleRunUnknown    RuleID = "run-unknown"     // 7
	RuleRunReturn     RuleID = "run-return"      // 7
	RuleExposureOver  RuleID = "exposure-over"   // 7
	RulePainModerate  RuleID = "pain-moderate"   // 8
	RuleSoreSpot      RuleID = "sore-spot"       // 8, release
	RuleLitmusOnce    RuleID = "litmus-once"     // 8
	RuleRunPain       RuleID = "run-pain"        // 8
	RuleMorningOneUp  RuleID = "morning-one-up"  // 8
	RuleFirstStepFour RuleID = "first-step-four" // 8
	RuleRising        RuleID = "rising"          // 8, the weekly look
	RuleDeload        RuleID = "deload"          // 9
	RulePoorSleep     RuleID = "poor-sleep"      // 9
	RuleMildIllness   RuleID = "mild-illness"    // 9
	RuleProgressShut  RuleID = "progress-closed" // 9
	RuleClean         RuleID = "clean"           // 10
	RuleNotYet        RuleID = "not-yet"         // 11
	RuleTop           RuleID = "top"             // 11
)

// Rules lists every rule that can fire.
var Rules = []RuleID{
	RuleIllNow, RuleIllAfter, RuleFlag, RuleSevere, RuleThreeMornings, RuleThriceBack, RuleSharedFlare, RuleQuietHolds, RuleStillHalted, RuleResume,
	RulePainHigh, RuleMorningJump, RuleMorningHigh, RuleRestJump, RuleLitmusTwice, RuleWeekHigh, RuleSoreSpotHigh, RuleReactedTwice, RuleTwiceBack, RuleGap,
	RuleCramp, RuleCompensated, RuleCouldNot, RuleSixTwice, RuleRunSpike, RuleRunRise, RuleRunUnknown, RuleRunReturn, RuleExposureOver,
	RulePainModerate, RuleSoreSpot, RuleMorningOneUp, RuleFirstStepFour, RuleLitmusOnce, RuleRunPain, RuleRising,
	RuleDeload, RulePoorSleep, RuleMildIllness, RuleProgressShut, RuleClean, RuleNotYet, RuleTop,
}

// Reading is one value behind a reason.
type Reading struct {
	Name  string   `json:"name" enum:"pain,morning,baseline,days,notch,count,rest,share,reps,run"`
	On    day.Date `json:"on,omitempty" format:"date"`
	Value float64  `json:"value"`
}

// Reason is one rule that fired, with its readings.
type Reason struct {
	Rule     RuleID        `json:"rule"`
	Row      Row           `json:"row"`
	Readings []Reading     `json:"readings" nullable:"false"`
	Flag     safety.FlagID `json:"flag,omitempty"`
	Other    string        `json:"other,omitempty" doc:"The ladder a flare began on"`
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
	NeedNoCap       ConditionID = "no-cap"
)

// Conditions lists everything an up can need.
var Conditions = []ConditionID{
	NeedTwoSessions, NeedTenDays, NeedPain, NeedFullDose, NeedClean, NeedMorning, NeedQuiet, NeedReserve, NeedWeekSinceUp, NeedFirstWeek, NeedReadings, NeedGate, NeedOpen, NeedBudget, NeedSides, NeedNextNotch, NeedNoCap,
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
	// The caps of rows 0, 5 and 7 apply beside whatever row wins.
	NoSession bool      `json:"noSession,omitempty" doc:"No session while ill"`
	HalfUntil *day.Date `json:"halfUntil,omitempty" format:"date" doc:"Half sets up to and with this day"`
	RepCap    int       `json:"repCap,omitempty" doc:"At most so many repetitions a set, after a cramp"`
	CutSets   bool      `json:"cutSets,omitempty" doc:"Fewer sets: running jumps"`
	AskBone   bool      `json:"askBone,omitempty" doc:"Ask the questions of F-BONE"`
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
	restJump                    = 2.0
	compensatedCut              = 1.0 / 3
	couldNotUnder               = 0.80
	crampLeast                  = 3
	crampWeekly                 = 2
	soreGoOn          body.Pain = 5
	soreOff           body.Pain = 8
	runPainHold       body.Pain = 4
	quietHoldMost     body.Pain = 3
	weekHigh                    = 2.0
	weekHighReadings            = 3
	illFreeDays                 = 2 // 48 h
	illHalfMost                 = 7
	quietHolds                  = "calm-iso"
	returnPainMost    body.Pain = 2
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
	ill := c.illness()
	d.NoSession, d.HalfUntil = c.Illness.Now, c.halfUntil()
	if len(h.Sessions) == 0 {
		if ill != nil {
			d.Row = 0
			d.Reasons = append(d.Reasons, *ill)
			return d
		}
		d.Reasons = append(d.Reasons, Reason{Rule: RuleNotYet, Row: 11, Readings: []Reading{}, Source: houseSource})
		d.ForUp = []Condition{{ID: NeedTwoSessions}}
		return d
	}
	e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
	e.b = h.Baseline(e.last.On)
	d.Baseline = e.b
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
	return e.last.On > stop && !e.release() && e.last.Pain != nil && *e.last.Pain >= safety.SevereAt
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
	r := Reason{Row: 0, Readings: []Reading{{Name: "days", Value: float64(c.Illness.Days)}}, Source: houseSource}
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

// FlareOver reports whether three known quiet mornings running, after a stop by
// row 2, have ended a flare.
func FlareOver(h History, since, today day.Date) bool {
	e := engine{h: h, c: Context{Today: today}, b: h.Baseline(since)}
	return len(e.quietMornings(since)) >= flareMornings
}

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

// IllNow reports whether a runner counts as ill: until 48 hours are free of it.
func IllNow(lastIll, today day.Date) bool { return today-lastIll <= illFreeDays }

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

// cutSets reports whether running asks for fewer sets: a jump cuts heavy calf
// work and spring.
func (e engine) cutSets() bool { return CutsSets(e.c.Ladder, e.c.Notch, e.running()) }

// CutsSets is cutSets for any notch.
func CutsSets(l catalogue.Ladder, notch int, running load.Class) bool {
	return running == load.Spike && (l.At(notch).Heavy || l.Purpose == "spring")
}

func (e engine) running() load.Class {
	if e.c.Running == "" {
		return load.Unknown
	}
	return e.c.Running
}

// returning: the way back to running goes on after two sessions at pain 2 or less
// with quiet mornings, without the week between; after a bone clearance one
// notch a week.
func (e engine) returning() bool { return e.c.Ladder.Purpose == "return" }

func (e engine) release() bool { return e.c.Ladder.Purpose == "release" }

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
			reasons = append(reasons, Reason{Rule: RuleSixTwice, Row: 6, Readings: []Reading{}, Source: houseSource})
		}
	}
	for _, r := range reasons {
		out = append(out, cut{steps: steps, reason: r})
	}
	return out
}

func (e engine) rowSix(s Session) []Reason {
	var out []Reason
	if c := s.Compensated; c != nil && *c > compensatedCut {
		out = append(out, Reason{Rule: RuleCompensated, Row: 6, Readings: []Reading{{"share", s.On, *c}}, Source: houseSource})
	}
	if d := s.Done; d != nil && *d < couldNotUnder && !s.NoTime {
		out = append(out, Reason{Rule: RuleCouldNot, Row: 6, Readings: []Reading{{"share", s.On, *d}}, Source: houseSource})
	}
	return out
}

func (e engine) row1() []cut {
	var out []cut
	for _, f := range e.c.Flags {
		if f.Closes(e.c.Ladder.ID, e.c.Side, e.tissues) {
			out = append(out, cut{stop: true, reason: Reason{Rule: RuleFlag, Row: 1, Flag: f.Flag, Readings: []Reading{}, Source: safety.SevereSource}})
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
	for _, f := range e.c.Flares {
		if f.Ladder == e.c.Ladder.ID || !f.touches(e.c.Side, e.tissues) {
			continue
		}
		r := Reason{Rule: RuleSharedFlare, Row: 2, Readings: []Reading{{Name: "days", On: f.Since, Value: float64(e.c.Today - f.Since)}}, Other: f.Name, Source: houseSource}
		if e.quietHoldsAllowed(f) {
			r.Rule = RuleQuietHolds
			out = append(out, cut{steps: e.c.Notch - 1, reason: r})
			continue
		}
		out = append(out, cut{stop: true, reason: r})
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

func (f Flare) touches(side body.Side, tissues []body.Tissue) bool {
	if f.Side != body.Both && side != body.Both && f.Side != side {
		return false
	}
	return slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// Closes reports whether a flare closes a ladder at a notch: all that loads its
// tissue but the first notch of the quiet holds, where they may go on.
func (f Flare) Closes(ladder string, notch int, side body.Side, tissues []body.Tissue) bool {
	return f.touches(side, tissues) && !(ladder == quietHolds && notch == 1 && QuietHoldsIn(f.Tissues))
}

// QuietHoldsIn reports whether quiet holds may go on in a flare of these
// tissues: the Achilles and calf or the sole, nothing of bone.
func QuietHoldsIn(tissues []body.Tissue) bool {
	return len(tissues) > 0 && !slices.Contains(tissues, body.Forefoot) && !slices.Contains(tissues, body.Shin)
}

// quietHoldsAllowed: the first notch of the quiet holds goes on through a flare
// at pain 3 or less.
func (e engine) quietHoldsAllowed(f Flare) bool {
	return e.c.Ladder.ID == quietHolds && QuietHoldsIn(f.Tissues) && e.last.Pain != nil && *e.last.Pain <= quietHoldMost
}

func (e engine) baselineReading() Reading {
	return Reading{Name: "baseline", On: e.last.On, Value: e.b}
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
		out = append(out, Reason{Rule: RuleLitmusTwice, Row: 3, Readings: []Reading{{"days", prev.On, float64(e.last.On - prev.On)}}, Source: houseSource})
	}
	if r, ok := e.restJump(); ok {
		out = append(out, r)
	}
	if r, ok := e.h.WeekHigh(e.c.Today); ok {
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
	usual := e.h.RestB0
	var week []float64
	for _, r := range e.h.Rests {
		if r.On < e.last.On && int(e.last.On-r.On) < baselineDays {
			week = append(week, float64(r.Pain))
		}
	}
	if m, ok := stats.Median(week); ok {
		usual = min(usual, m)
	}
	for _, r := range e.h.Rests {
		if (r.On == e.last.On || r.On == e.last.On+1) && float64(r.Pain) >= usual+restJump {
			return Reason{Rule: RuleRestJump, Row: 3, Readings: []Reading{{"rest", r.On, float64(r.Pain)}, {"baseline", r.On, usual}}, Source: houseSource}, true
		}
	}
	return Reason{}, false
}

// WeekHigh is the weekly look: this ISO week's median, of three or more
// readings, stands two or more over where the block began.
func (h History) WeekHigh(today day.Date) (Reason, bool) {
	var week []float64
	for _, m := range h.Mornings {
		if m.On <= today && m.On >= today.Monday() {
			week = append(week, float64(m.FirstStep))
		}
	}
	med, ok := stats.Median(week)
	if !ok || len(week) < weekHighReadings || med < h.B0+weekHigh {
		return Reason{}, false
	}
	return Reason{Rule: RuleWeekHigh, Row: 3, Readings: []Reading{{"morning", today.Monday(), med}, {"baseline", today, h.B0}}, Source: houseSource}, true
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

// flareWhilePaused is three bad mornings on a ladder that something less than a
// flare has stopped: the others that share its tissue must hear of it.
func (e engine) flareWhilePaused() []cut {
	if e.c.Halt.Row <= 2 {
		return nil
	}
	return slices.DeleteFunc(e.row2(), func(c cut) bool { return c.reason.Rule != RuleThreeMornings })
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

// holds returns the reasons of rows 5 and 7 to 9 that hold, in their order.
func (e engine) holds() []Reason {
	var out []Reason
	add := func(rule RuleID, row Row, tag source.Tag, readings ...Reading) {
		out = append(out, Reason{Rule: rule, Row: row, Readings: append([]Reading{}, readings...), Source: tag})
	}
	if c := e.last.CrampAt; c != nil {
		add(RuleCramp, 5, source.Common(), Reading{"reps", e.last.On, float64(*c)})
	}
	if rule, tag, ok := e.row7(); ok {
		add(rule, 7, tag)
	}
	if e.release() {
		if p := e.soreSpot(e.last); p != nil && *p > soreGoOn && *p < soreOff {
			add(RuleSoreSpot, 8, source.Common(), Reading{"pain", e.last.On, float64(*p)})
		}
	} else if p := e.last.Pain; p != nil && *p >= painModerate {
		add(RulePainModerate, 8, painSource, Reading{"pain", e.last.On, float64(*p)})
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
			add(RuleMorningOneUp, 8, houseSource, Reading{"morning", prev, float64(a)}, Reading{"morning", e.last.On + 1, float64(b)}, e.baselineReading())
		}
	}
	if m, ok := e.h.latest(e.c.Today); ok && m.FirstStep >= firstStepHold && !e.earlyLoading(m.FirstStep) {
		add(RuleFirstStepFour, 8, houseSource, Reading{"morning", m.On, float64(m.FirstStep)})
	}
	if e.last.Litmus == LitmusWorse {
		add(RuleLitmusOnce, 8, houseSource, Reading{"days", e.last.On, 0})
	}
	if r := e.c.RunPain; r != nil && r.Value >= float64(runPainHold) {
		add(RuleRunPain, 8, houseSource, Reading{"run", r.On, r.Value})
	}
	if r, rising := e.h.Rising(e.c.Today); rising {
		out = append(out, r)
	}
	if e.c.Deload {
		add(RuleDeload, 9, source.Common())
	}
	if e.c.PoorSleep {
		add(RulePoorSleep, 9, source.Common())
	}
	if e.c.MildIllness {
		add(RuleMildIllness, 9, source.Common())
	}
	for _, f := range e.c.Flags {
		if f.ProgressOnly {
			out = append(out, Reason{Rule: RuleProgressShut, Row: 9, Flag: f.Flag, Readings: []Reading{}, Source: safety.SevereSource})
		}
	}
	return out
}

// row7 couples ladders to running: a jump holds everything that loads a counted
// tissue; a rise, or not knowing, holds spring and bare feet.
func (e engine) row7() (RuleID, source.Tag, bool) {
	loading := len(e.tissues) > 0
	gentle := e.c.Ladder.Purpose == "spring" || e.c.Ladder.Purpose == "exposure"
	switch {
	case e.running() == load.Spike && (loading || gentle):
		return RuleRunSpike, load.RatioSource, true
	case e.c.Ladder.Purpose == "exposure" && e.c.ExposureOver:
		return RuleExposureOver, houseSource, true
	case e.running() == load.Rise && gentle:
		return RuleRunRise, load.RatioSource, true
	case e.running() == load.Unknown && gentle:
		return RuleRunUnknown, houseSource, true
	case e.running() == load.Return && gentle:
		return RuleRunReturn, houseSource, true
	}
	return "", source.Tag{}, false
}

// earlyLadders may rise under the school load early while first steps stand at 4
// or 5, if the weekly median falls.
var earlyLadders = []string{"calf-toeup", quietHolds}

func (e engine) earlyLoading(first body.Pain) bool {
	if !e.c.LoadEarly || first > quietWorst || !slices.Contains(earlyLadders, e.c.Ladder.ID) {
		return false
	}
	this, last := e.h.weekMedians(e.c.Today)
	return this != nil && last != nil && *this < *last
}

// quietWorst is the highest first-step pain early loading goes on with.
const quietWorst body.Pain = 5

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
	r := Reason{Rule: RuleRising, Row: 8, Readings: []Reading{}, Source: houseSource}
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
func (e engine) conditions(repCap int) []Condition {
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
	painless := func(s Session) bool { return s.Pain != nil && *s.Pain <= painUpMost }
	if e.release() {
		painless = func(s Session) bool { p := e.soreSpot(s); return p != nil && *p <= soreGoOn }
	}
	if e.returning() {
		painless = func(s Session) bool { return s.Pain != nil && *s.Pain <= returnPainMost }
	}
	out = append(out,
		Condition{ID: NeedPain, Met: all(painless)},
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
		Condition{ID: NeedWeekSinceUp, Met: c.LastUp == nil || e.returning() && !c.BoneCleared || int(c.Today-*c.LastUp) >= upEvery},
		Condition{ID: NeedFirstWeek, Met: c.Today >= first, On: &first},
		Condition{ID: NeedReadings, Met: e.readingsSince(c.BlockStart) >= readingsLeast},
		Condition{ID: NeedBudget, Met: c.UpsThisWeek < UpsAWeek},
		Condition{ID: NeedSides, Met: c.OtherNotch == nil || c.Notch-*c.OtherNotch < sideAheadMost},
	)
	if repCap > 0 {
		out = append(out, Condition{ID: NeedNoCap})
	}
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
