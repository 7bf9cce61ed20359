package adjust

import (
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/source"
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

// Needed for a step up, in the order shown.
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
	ForUp    []Condition      `json:"forUp" nullable:"false" doc:"Needed for a step up, met or not"`
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
