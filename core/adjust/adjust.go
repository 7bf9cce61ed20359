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
const Version = 4

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
	Cut         Cut        `json:"cut,omitempty" enum:"deload,half,cap,cramp,spike," doc:"Why less than the notch was asked that day; such a dose is full and proves nothing"`
	DecidedBy   Row        `json:"decidedBy" doc:"Row that decided this session before, −1 for none"`
}

// Cut says why less than the notch's dose was asked on a day.
type Cut string

// The reasons of a cut dose; empty for the dose of the notch.
const (
	CutDeload Cut = "deload" // a lighter, race or half week
	CutHalf   Cut = "half"   // after an illness
	CutCap    Cut = "cap"    // contacts a session
	CutCramp  Cut = "cramp"
	CutSpike  Cut = "spike"  // running jumps
	CutGrowth Cut = "growth" // growing fast, or sore while young
)

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
	Earlier  []Usual   `json:"earlier,omitempty" doc:"Baselines that decisions before this one were made with; B rises by at most 1 a week over them"`
	Frozen   *Frozen   `json:"frozen,omitempty" doc:"The baselines a decision that is made again was made with; they count as they were"`
}

// Usual is the baseline B of an earlier decision and its date.
type Usual struct {
	On day.Date `json:"on" format:"date"`
	B  float64  `json:"b" minimum:"0" maximum:"10"`
}

// Frozen are the baselines of a decision's own morning, kept with it: B and B0
// of first steps and the usual pain at rest, 0–10.
type Frozen struct {
	B    float64 `json:"b" minimum:"0" maximum:"10"`
	B0   float64 `json:"b0" minimum:"0" maximum:"10"`
	Rest float64 `json:"rest" minimum:"0" maximum:"10"`
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
	Sore    []body.Tissue `json:"sore,omitempty" doc:"Of the tissues those that hurt; all of them when empty"`
}

// sore are the tissues that say whether quiet holds may go on.
func (f Flare) sore() []body.Tissue {
	if len(f.Sore) > 0 {
		return f.Sore
	}
	return f.Tissues
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
	LastBack      *day.Date          `json:"lastBack,omitempty" format:"date"`
	Peg           int                `json:"peg,omitempty" doc:"Where the side stands now, where that is not the notch that was trained; 0 for the same"`
	FreshFrom     *day.Date          `json:"freshFrom,omitempty" format:"date" doc:"A way back was accepted: sessions before this date decide nothing new"`
	UpsThisWeek   int                `json:"upsThisWeek" doc:"Other ladders already moved up this ISO week"`
	BlockStart    day.Date           `json:"blockStart" format:"date"`
	Deload        bool               `json:"deload,omitempty" doc:"A deload, race or half week"`
	Halt          *Halt              `json:"halt,omitempty"`
	Running       load.Class         `json:"running,omitempty" doc:"Running volume; unknown when empty"`
	ExposureOver  bool               `json:"exposureOver,omitempty" doc:"Barefoot minutes over their line"`
	RunPain       *Reading           `json:"runPain,omitempty" doc:"Worst pain of a run on this tissue since the session before"`
	RunUnsaid     *day.Date          `json:"runUnsaid,omitempty" format:"date" doc:"A run since the session before of which nobody said whether it hurt"`
	RestAsked     bool               `json:"restAsked,omitempty" doc:"Pain at rest is asked of what this ladder reads"`
	WeekHold      *Reason            `json:"weekHold,omitempty" doc:"What the last weekly look holds the region for"`
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
	RuleShut          RuleID = "shut"            // 1, a gate or an age closes the notch it stands on
	RuleSevere        RuleID = "severe-pain"     // 1
	RuleThreeMornings RuleID = "three-mornings"  // 2
	RuleThriceBack    RuleID = "back-thrice"     // 2
	RuleSharedFlare   RuleID = "shared-flare"    // 2
	RuleQuietHolds    RuleID = "quiet-holds"     // 2
	RuleStillHalted   RuleID = "still-halted"    // 2
	RuleResume        RuleID = "resume"          // 2
	RuleTooSore       RuleID = "too-sore"        // 2, first steps that stood this high from the start
	RuleCleared       RuleID = "cleared"         // 1, the way back when nothing closes it any more
	RuleScreened      RuleID = "screened"        // 4, the way back after a screening
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
	RuleIllNow, RuleIllAfter, RuleFlag, RuleShut, RuleSevere, RuleThreeMornings, RuleThriceBack, RuleSharedFlare, RuleQuietHolds, RuleStillHalted, RuleResume, RuleTooSore, RuleCleared, RuleScreened,
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
	Other    string        `json:"other,omitempty" doc:"The ladder a flare began on; what closes a notch"`
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
	NeedWholeDose   ConditionID = "whole-dose"
	NeedWeekAfter   ConditionID = "week-since-back"
	NeedRest        ConditionID = "rest-known"
	NeedRunSaid     ConditionID = "run-pain-known"
	NeedThreeDays   ConditionID = "three-days"
	NeedNewSession  ConditionID = "new-session"
)

// Conditions lists everything an up can need.
var Conditions = []ConditionID{
	NeedTwoSessions, NeedTenDays, NeedPain, NeedFullDose, NeedClean, NeedMorning, NeedQuiet, NeedReserve, NeedWeekSinceUp, NeedFirstWeek, NeedReadings, NeedGate, NeedOpen, NeedBudget, NeedSides, NeedNextNotch, NeedNoCap,
	NeedWholeDose, NeedWeekAfter, NeedRest, NeedRunSaid, NeedThreeDays, NeedNewSession,
}

// Condition is one thing an up needs and whether it holds. On is set where a
// dated reading is missing.
type Condition struct {
	ID   ConditionID    `json:"id"`
	Met  bool           `json:"met"`
	On   *day.Date      `json:"on,omitempty" format:"date"`
	Gate catalogue.Gate `json:"gate,omitempty"`
	Idle bool           `json:"idle,omitempty" doc:"Not asked of this ladder"`
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
	Frozen   Frozen           `json:"frozen" doc:"The baselines it was made with"`
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

// HalfOn reports whether a date is one of half sets after an illness.
func HalfOn(i Illness, on day.Date) bool {
	if i.Ended == nil || IllNow(*i.Ended, on) {
		return false
	}
	until := Context{Illness: Illness{Days: i.Days, Ended: i.Ended}, Today: on}.halfUntil()
	return until != nil && on <= *until
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

func (e engine) row1() []cut {
	var out []cut
	var k catalogue.Kinds
	if len(e.c.Flags) > 0 {
		k = e.c.Ladder.At(e.c.Notch).Kinds()
	}
	for _, f := range e.c.Flags {
		if f.Closes(k, e.c.Side) {
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
		if aKnown && bKnown && float64(a) >= e.b+quietOver-meanTolerance && float64(b) >= e.b+quietOver-meanTolerance {
			add(RuleMorningOneUp, 8, HouseSource, Reading{"morning", prev, float64(a)}, Reading{"morning", e.last.On + 1, float64(b)}, e.baselineReading())
		}
	}
	if m, ok := e.h.latest(e.c.Today); ok && m.FirstStep >= firstStepHold && !e.earlyLoading(m.FirstStep) {
		add(RuleFirstStepFour, 8, HouseSource, Reading{"morning", m.On, float64(m.FirstStep)})
	}
	if e.last.Litmus == LitmusWorse {
		add(RuleLitmusOnce, 8, HouseSource, Reading{"days", e.last.On, 0})
	}
	if r := e.c.RunPain; r != nil && r.Value >= float64(runPainHold) {
		add(RuleRunPain, 8, HouseSource, Reading{"run", r.On, r.Value})
	}
	if e.c.WeekHold != nil && len(e.tissues) > 0 {
		out = append(out, *e.c.WeekHold)
	} else if r, rising := e.h.Rising(e.c.Today); rising {
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
		if f.ClosesProgress() {
			out = append(out, Reason{Rule: RuleProgressShut, Row: 9, Flag: f.Flag, Readings: []Reading{}, Source: safety.SevereSource})
		}
	}
	return out
}

// HoldsNow returns what stops or holds a ladder and side on the context's day,
// beside what is merely not there yet (row 11): nothing rises while it is not
// empty.
func HoldsNow(h History, c Context) []Reason {
	if len(h.Sessions) == 0 {
		return nil
	}
	e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
	e.b, e.rest = h.Baseline(e.last.On), h.RestBaseline(e.last.On)
	var out []Reason
	if ill := c.illness(); ill != nil {
		out = append(out, *ill)
	}
	for _, x := range e.cuts() {
		out = append(out, x.reason)
	}
	return append(out, e.holds()...)
}

// row7 couples ladders to running: a jump holds everything that loads a counted
// tissue; a rise, or not knowing, holds spring and bare feet.
func (e engine) row7() (RuleID, source.Tag, bool) {
	loading := len(e.tissues) > 0
	gentle := e.c.Ladder.Purpose == "spring" || e.c.Ladder.Purpose == "exposure"
	switch {
	case e.running() == load.Spike && (loading || gentle):
		return RuleRunSpike, load.RatioSource, true
	case (loading || gentle) && e.c.ExposureOver:
		return RuleExposureOver, HouseSource, true
	case e.running() == load.Rise && gentle:
		return RuleRunRise, load.RatioSource, true
	case e.running() == load.Unknown && gentle:
		return RuleRunUnknown, HouseSource, true
	case e.running() == load.Return && gentle:
		return RuleRunReturn, HouseSource, true
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
	two := n >= 2 && e.h.Sessions[n-1].Notch == c.Notch && e.h.Sessions[n-2].Notch == c.Notch && (c.Peg == 0 || c.Peg == c.Notch)
	out := []Condition{{ID: NeedTwoSessions, Met: two}}
	recent := e.h.Sessions[max(0, n-2):]
	if two {
		out = append(out, Condition{ID: NeedTenDays, Met: int(recent[1].On-recent[0].On) <= sessionsApart})
	}
	if c.FreshFrom != nil && n > 0 {
		out = append(out, Condition{ID: NeedNewSession, Met: e.last.On >= *c.FreshFrom})
	}
	walking := e.returning() && c.Notch == 1
	if walking {
		// The first stage of the way back to running asks for three days.
		recent = e.h.Sessions[max(0, n-returnDays):]
		days := map[day.Date]bool{}
		for _, s := range recent {
			days[s.On] = s.Notch == c.Notch
		}
		out = append(out, Condition{ID: NeedThreeDays, Met: len(days) >= returnDays && !slices.ContainsFunc(recent, func(s Session) bool { return s.Notch != c.Notch })})
	}
	all := func(ok func(Session) bool) bool {
		return !slices.ContainsFunc(recent, func(s Session) bool { return !ok(s) })
	}
	painless := func(s Session) bool { return s.Pain != nil && *s.Pain <= painUpMost }
	switch {
	case e.release():
		painless = func(s Session) bool { p := e.soreSpot(s); return p != nil && *p <= soreGoOn }
	case walking:
		painless = func(s Session) bool { return s.Pain != nil && *s.Pain == 0 }
	case e.returning():
		painless = func(s Session) bool { return s.Pain != nil && *s.Pain <= returnPainMost }
	}
	dosed := len(notch.Tissues) > 0
	out = append(out,
		Condition{ID: NeedPain, Met: all(painless)},
		Condition{ID: NeedFullDose, Met: all(func(s Session) bool { return s.Done != nil && *s.Done >= doneFull })},
		Condition{ID: NeedWholeDose, Met: all(func(s Session) bool { return s.Cut == "" })},
		Condition{ID: NeedClean, Met: all(func(s Session) bool {
			return s.Compensated == nil && !dosed || s.Compensated != nil && *s.Compensated <= compensatedMost
		})},
	)
	out = append(out, e.morningConditions(recent, dosed)...)
	if dosed && c.RestAsked {
		known := slices.ContainsFunc(e.h.Rests, func(r Rest) bool { return r.On == e.last.On || r.On == e.last.On+1 })
		on := e.last.On + 1
		out = append(out, Condition{ID: NeedRest, Met: known, On: &on})
	}
	if dosed && c.RunUnsaid != nil {
		out = append(out, Condition{ID: NeedRunSaid, On: c.RunUnsaid})
	}
	switch {
	case c.Ladder.Effort == catalogue.AskReserve:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.Reserve != nil && *s.Reserve >= reserveLeast })})
	case c.Ladder.Effort == catalogue.AskTwenty:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.SureTwenty != nil && *s.SureTwenty })})
	}
	first := c.BlockStart + UpEvery
	since := func(d *day.Date) bool { return d == nil || int(c.Today-*d) >= UpEvery }
	out = append(out,
		Condition{ID: NeedWeekSinceUp, Met: since(c.LastUp) || e.returning() && !c.BoneCleared},
		Condition{ID: NeedWeekAfter, Met: since(c.LastBack)},
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
	met := safety.IsOpen(c.Gates, gate)
	if met && c.Ceiling > 0 && c.Notch >= c.Ceiling {
		return append(out, Condition{ID: NeedOpen})
	}
	return append(out, Condition{ID: NeedGate, Met: met, Gate: gate})
}

// morningConditions are those of the mornings after the sessions an up rests on.
// A ladder without a counted tissue does not ask for them, but a known bad one
// counts.
func (e engine) morningConditions(recent []Session, dosed bool) []Condition {
	known := Condition{ID: NeedMorning, Met: true, Idle: !dosed}
	quiet := Condition{ID: NeedQuiet, Met: true}
	for _, s := range recent {
		on := s.On + 1
		m, ok := e.h.morning(on)
		switch {
		case !ok && dosed:
			known.Met, known.On = false, &on
		case ok && !Quiet(m, e.b):
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
