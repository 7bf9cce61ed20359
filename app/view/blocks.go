package view

import (
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
)

// NotchView is one notch in words.
type NotchView struct {
	Words    string         `json:"words" doc:"one leg 3 × 8"`
	Dose     string         `json:"dose"`
	Short    string         `json:"short"`
	Name     string         `json:"name"`
	Tempo    string         `json:"tempo,omitempty"`
	More     string         `json:"more,omitempty"`
	ID       string         `json:"exercise" doc:"The exercise, for its drawing"`
	SetUp    string         `json:"setUp"`
	Cues     []string       `json:"cues" nullable:"false"`
	Mistakes []string       `json:"mistakes" nullable:"false"`
	Caution  []string       `json:"cautions" nullable:"false"`
	Gate     catalogue.Gate `json:"gate,omitempty"`
	Locked   string         `json:"locked,omitempty" doc:"Name of the closed gate before it"`
	Source   string         `json:"source"`
}

// PegView is where one side stands.
type PegView struct {
	Side    body.Side `json:"side" enum:"left,right"`
	Notch   int       `json:"notch"`
	Stopped bool      `json:"stopped"`
}

// DecisionView is a decision with its sentences.
type DecisionView struct {
	ID             string          `json:"id"`
	Version        int             `json:"version"`
	PrescriptionID string          `json:"prescriptionId"`
	LadderName     string          `json:"ladderName"`
	Side           body.Side       `json:"side" enum:"left,right,both"`
	On             day.Date        `json:"on" format:"date"`
	State          string          `json:"state" enum:"proposed,applied,accepted,overridden,waiting"`
	Move           string          `json:"move" doc:"one leg 3 × 8 → 3 × 12"`
	Sentence       string          `json:"sentence"`
	Because        string          `json:"because" doc:"What it rests on, without the move"`
	Reasons        []ReasonView    `json:"reasons" nullable:"false"`
	ForUp          []ConditionView `json:"forUp" nullable:"false"`
	Life           []string        `json:"life" nullable:"false" doc:"What became of it, oldest first"`
	PutBack        int             `json:"putBack,omitempty" doc:"The notch it would be put back to, after a correction"`
	MayTakeBack    bool            `json:"mayTakeBack,omitempty" doc:"Answered today, and no session followed"`
	Barred         string          `json:"barred,omitempty" doc:"Why it can't be accepted today"`
	Decision       adjust.Decision `json:"decision"`
	AnswerNotch    *int            `json:"answerNotch,omitempty"`
	AnswerReason   string          `json:"answerReason,omitempty"`
}

// ReasonView is one reason in words with its source.
type ReasonView struct {
	Text   string     `json:"text"`
	Row    adjust.Row `json:"row"`
	Source string     `json:"source"`
}

// ConditionView is one thing an up needs, in words.
type ConditionView struct {
	Text string `json:"text"`
	Met  bool   `json:"met"`
	Idle bool   `json:"idle,omitempty" doc:"Not asked of this ladder"`
}

// PrescriptionView is one ladder of a block.
type PrescriptionView struct {
	ID           string            `json:"id"`
	Ladder       string            `json:"ladder"`
	Routine      string            `json:"routine,omitempty" doc:"Set where it is a part of a routine: no ladder of its own"`
	Name         string            `json:"name"`
	Effort       catalogue.Effort  `json:"effort" enum:"reserve,twenty,none"`
	Purpose      catalogue.Purpose `json:"purpose"`
	Notches      []NotchView       `json:"notches" nullable:"false"`
	Pegs         []PegView         `json:"pegs" nullable:"false" doc:"Left, then right"`
	Together     bool              `json:"together" doc:"Both pegs stand on the same two-legged notch"`
	StartNotch   int               `json:"startNotch"`
	StartReasons []ReasonView      `json:"startReasons" nullable:"false"`
	ExtraSetSide body.Side         `json:"extraSetSide,omitempty" enum:"left,right,"`
	Latest       []DecisionView    `json:"latest" nullable:"false" doc:"The newest decision of each side"`
	Plan         *ChoiceView       `json:"plan,omitempty" doc:"Why it is in the block, and where it is expected to go"`
	LeftOut      string            `json:"leftOut,omitempty" doc:"Why it was left out since"`
	ByRamp       bool              `json:"byRamp,omitempty" doc:"The barefoot ramp stands in for it"`
	Own          *catalogue.Dose   `json:"own,omitempty" doc:"The coach's own dose at the present notch"`
	Dose         catalogue.Dose    `json:"dose" doc:"Of the present notch, left side"`
	Today        []NotchState      `json:"today" nullable:"false" doc:"What each side may do today, left first"`
}

// DoseView is what one ladder asks on one day.
type DoseView struct {
	PrescriptionID string   `json:"prescriptionId"`
	Ladder         string   `json:"ladder"`
	Name           string   `json:"name"`
	Exercise       string   `json:"exercise"`
	Left           string   `json:"left"`
	Right          string   `json:"right"`
	Same           bool     `json:"same"`
	Note           string   `json:"note,omitempty"`
	Limits         string   `json:"limits,omitempty" doc:"Done only so"`
	Load           string   `json:"load,omitempty" doc:"The added load"`
	Mistakes       []string `json:"mistakes,omitempty" doc:"What to watch"`
}

// SessionView is one planned sitting in words.
type SessionView struct {
	Kind    planning.SessionKind `json:"kind" enum:"micro,main,evening,drill,exposure,routine"`
	Name    string               `json:"name"`
	Routine *RoutineSitting      `json:"routine,omitempty" doc:"Set where it is a routine, given whole"`
	When    string               `json:"when,omitempty"`
	Minutes int                  `json:"minutes"`
	Moved   *day.Date            `json:"moved,omitempty" format:"date" doc:"Where it stood before it was moved"`
	Doses   []DoseView           `json:"doses" nullable:"false"`
	Litmus  string               `json:"litmus,omitempty" doc:"What is walked first and last: set for strength work while a place hurts"`
}

// RoutineSitting is what a routine adds to a sitting.
type RoutineSitting struct {
	ID       string   `json:"id"`
	Late     string   `json:"late,omitempty" doc:"Said at its end"`
	Compare  string   `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared string   `json:"compared,omitempty" doc:"What is measured before and after, in centimetres"`
	Felt     bool     `json:"felt,omitempty" doc:"Where it was felt is asked"`
	Dropped  []string `json:"dropped" nullable:"false" doc:"Parts that drop out that day, and why"`
}

// RoutineView is a routine that stands in the block.
type RoutineView struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Days     []int    `json:"days" nullable:"false" doc:"Monday 0"`
	Long     bool     `json:"long,omitempty"`
	Items    []string `json:"items" nullable:"false" doc:"Prescriptions of the parts, in order"`
	Parts    []string `json:"parts" nullable:"false" doc:"In order, with their doses as they are today"`
	Late     string   `json:"late,omitempty" doc:"Said at its end"`
	Compare  string   `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared string   `json:"compared,omitempty"`
	Felt     bool     `json:"felt,omitempty"`
	Dropped  []string `json:"dropped" nullable:"false" doc:"What drops out today, and why"`
	Minutes  int      `json:"minutes"`
}

// DayView is one day of a block.
type DayView struct {
	On       day.Date         `json:"on" format:"date"`
	In       bool             `json:"in" doc:"Within the block"`
	Run      planning.RunKind `json:"run,omitempty"`
	Runs     string           `json:"runs,omitempty" doc:"The day's runs in words: easy run, then fast"`
	NoRun    string           `json:"noRun,omitempty" doc:"Why a planned run does not stand, or stands easier"`
	Race     bool             `json:"race,omitempty"`
	Retest   string           `json:"retest,omitempty" doc:"What is tested again that day"`
	Sessions []SessionView    `json:"sessions" nullable:"false"`
	Ramp     []RampDay        `json:"ramp" nullable:"false" doc:"What the barefoot ramp and the change of cadence hold that day"`
	Logged   bool             `json:"logged"`
	Done     []DoseView       `json:"done" nullable:"false" doc:"What was logged"`
}

// WeekView is one week of a block.
type WeekView struct {
	Number  int               `json:"number"`
	Kind    planning.WeekKind `json:"kind" enum:"normal,deload,race,half"`
	Label   string            `json:"label,omitempty"`
	Planned int               `json:"planned" doc:"Minutes"`
	Free    int               `json:"free" doc:"Minutes the runner has"`
	Days    []DayView         `json:"days" nullable:"false"`
}

// MorningView is a first-step reading.
type MorningView struct {
	adjust.Morning
	Jumped bool `json:"jumped" doc:"So far over the usual that it takes load away"`
}

// Block is a plan with where it stands.
type Block struct {
	ID            string                 `json:"id"`
	RunnerID      string                 `json:"runnerId"`
	RunnerName    string                 `json:"runnerName"`
	ScreeningID   string                 `json:"screeningId"`
	StartOn       day.Date               `json:"startOn" format:"date"`
	EndOn         day.Date               `json:"endOn" format:"date"`
	Today         day.Date               `json:"today" format:"date"`
	Ended         bool                   `json:"ended"`
	Baseline      float64                `json:"baseline" doc:"Usual first-step pain at the start, B0"`
	Weeks         []WeekView             `json:"weeks" nullable:"false"`
	Prescriptions []PrescriptionView     `json:"prescriptions" nullable:"false"`
	Decisions     []DecisionView         `json:"decisions" nullable:"false" doc:"Newest first"`
	Gates         []safety.GateState     `json:"gates" nullable:"false"`
	Mornings      []MorningView          `json:"mornings" nullable:"false"`
	Flags         []record.FlagView      `json:"flags" nullable:"false"`
	Cautions      []string               `json:"cautions" nullable:"false"`
	Phases        []planning.RegionPhase `json:"phases" nullable:"false" doc:"Where each region stands today"`
	PhaseMoved    []string               `json:"phaseMoved" nullable:"false" doc:"Regions whose phase changed since the plan was made"`
	Left          []planning.Left        `json:"left" nullable:"false" doc:"Looked at and left out"`
	Minimum       []MinimumView          `json:"minimum" nullable:"false" doc:"Five minutes a day"`
	Says          []string               `json:"says" nullable:"false"`
	Main          []MainDay              `json:"main" nullable:"false"`
	Routines      []RoutineView          `json:"routines" nullable:"false" doc:"Small sessions given whole"`
	Nexts         []record.NextView      `json:"nexts" nullable:"false" doc:"Ladders that may give way to the next of their path"`
	Tried         []record.TriedView     `json:"tried" nullable:"false" doc:"How the first try of an injured runner felt, the best first; empty where none stands"`
	Quiet         string                 `json:"quiet,omitempty" doc:"Said after a week without pain"`
	Ends          string                 `json:"ends,omitempty" doc:"What follows the block, in its last week"`
	Changes       []ChangeView           `json:"changes" nullable:"false" doc:"Moves and edits, newest first"`
	Wishes        planning.Wishes        `json:"wishes"`
	Revision      int                    `json:"revision" doc:"Of the moves and edits; sent back with the next"`
	Caps          []string               `json:"caps" nullable:"false" doc:"What limits every session now"`
	Paused        []record.PausedView    `json:"paused" nullable:"false" doc:"What is not done as it stands, and why"`
	Asks          []record.AskView       `json:"asks" nullable:"false" doc:"Places whose safety questions are open"`
	Care          *words.Care            `json:"care,omitempty" doc:"The one page under an emergency"`
	PhaseSince    map[string]day.Date    `json:"phaseSince" doc:"Since when each region is in its phase"`
	AutoProgress  bool                   `json:"autoProgress" doc:"Steps up go by themselves"`
	QuietHolds    bool                   `json:"quietHolds" doc:"In this flare quiet holds may go on; the block has none"`
	Choices       adjust.Choices         `json:"choices" doc:"What a log says of a dose"`
	NewEngine     bool                   `json:"newEngine" doc:"The engine changed; somebody should look before steps up go by themselves"`
}
