package api

import (
	"notchback/app/input"
	"notchback/core/adjust"
	coreBody "notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/screening"
)

// CadenceIn is a set of step counts in equal windows.
type CadenceIn struct {
	Counts        []int   `json:"counts" maxItems:"50" example:"[41,42,41,43]" doc:"Steps counted in each window"`
	WindowSeconds float64 `json:"windowSeconds" example:"15" doc:"5 to 120 s"`
}

// TapsIn is the times of taps along with the steps.
type TapsIn struct {
	TapSeconds []float64 `json:"tapSeconds" maxItems:"1000" nullable:"false" example:"[0,0.35,0.71,1.06,1.41,1.76,2.12,2.47,2.82]" doc:"Rising times in seconds, one a step"`
}

// ToeBlockIn is a block under the toe pad.
type ToeBlockIn struct {
	BlockCm    float64 `json:"blockCm" example:"2.5"`
	LengthCm   float64 `json:"lengthCm" example:"5"`
	AlongFloor bool    `json:"alongFloor,omitempty" doc:"The length was taken along the floor"`
}

// AngleOut is an angle in degrees.
type AngleOut struct {
	AngleDegrees float64 `json:"angleDegrees"`
}

// TrialSummaryIn is both sides' trials of one test.
type TrialSummaryIn struct {
	Test     screening.TestID   `json:"test" example:"knee-to-wall"`
	AgeYears *int               `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	Left     []input.TrialInput `json:"left" maxItems:"9" nullable:"false" example:"[{\"value\":10.6},{\"value\":10.9}]"`
	Right    []input.TrialInput `json:"right" maxItems:"9" nullable:"false" example:"[{\"value\":7.4},{\"value\":9,\"compensations\":[\"heel-lifts\"]}]"`
}

// FindingsIn is the trials of several tests with what the runner says.
type FindingsIn struct {
	Tests      []TrialSummaryIn      `json:"tests" maxItems:"80" nullable:"false" example:"[{\"test\":\"knee-to-wall\",\"ageYears\":35,\"left\":[{\"value\":10.9}],\"right\":[{\"value\":7.6}]}]"`
	Complaints []screening.Complaint `json:"complaints,omitempty" maxItems:"30"`
	LoadSpike  bool                  `json:"loadSpike,omitempty"`
}

// CrossingIn is a count of steps on or over the line.
type CrossingIn struct {
	Crossings int `json:"crossings" minimum:"0" maximum:"1000" example:"6"`
	Steps     int `json:"steps" minimum:"1" maximum:"1000" example:"40"`
}

// CrossingOut is a share of crossing steps with its 95 % Wilson interval.
type CrossingOut struct {
	Percent     float64           `json:"percent"`
	LowPercent  float64           `json:"lowPercent"`
	HighPercent float64           `json:"highPercent"`
	Verdict     screening.Verdict `json:"verdict"`
}

// ReachIn is a four-way reach of one side.
type ReachIn struct {
	Side        coreBody.Side `json:"side" enum:"left,right"`
	ForwardCm   float64       `json:"forwardCm" minimum:"0" maximum:"150" example:"62"`
	SideCm      float64       `json:"sideCm" minimum:"0" maximum:"150" example:"70"`
	BackCm      float64       `json:"backCm" minimum:"0" maximum:"150" example:"80"`
	CrossedCm   float64       `json:"crossedCm" minimum:"0" maximum:"150" example:"74"`
	LegLengthCm float64       `json:"legLengthCm" example:"88"`
}

// StanceIn is stance trials to compare with people of the same age.
type StanceIn struct {
	Seconds  []float64 `json:"seconds" maxItems:"9" nullable:"false" example:"[31,44,60]"`
	AgeYears *int      `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	EyesOpen bool      `json:"eyesOpen"`
}

// GatesIn is the tests of one visit, from which gates are decided.
type GatesIn struct {
	AgeYears   *int                  `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	Tests      []TrialSummaryIn      `json:"tests" maxItems:"80" nullable:"false" example:"[{\"test\":\"knee-to-wall\",\"ageYears\":35,\"left\":[{\"value\":10.9}],\"right\":[{\"value\":7.6}]}]"`
	Complaints []screening.Complaint `json:"complaints,omitempty" maxItems:"30"`
	AllAsked   bool                  `json:"allAsked" doc:"Every safety question was answered"`
	DaysAgo    int                   `json:"daysAgo,omitempty" minimum:"0" maximum:"1000" doc:"Age of the evidence"`
}

// StartingNotchIn is what a ladder's start is chosen from.
type StartingNotchIn struct {
	Ladder string           `json:"ladder" example:"calf-straight"`
	On     day.Date         `json:"on" format:"date"`
	Person coreBody.Person  `json:"person"`
	Tests  []TrialSummaryIn `json:"tests" maxItems:"60" nullable:"false"`
}

// StartOut is a ladder's start in words.
type StartOut struct {
	planning.Start
	Words   string   `json:"words"`
	Because []string `json:"because" nullable:"false"`
}

// DecisionIn is one ladder's history on one side with what surrounds it.
type DecisionIn struct {
	Ladder        string           `json:"ladder" example:"calf-straight"`
	Side          coreBody.Side    `json:"side" enum:"left,right" example:"left"`
	Today         day.Date         `json:"today" format:"date" example:"2026-05-05"`
	Notch         int              `json:"notch" minimum:"1" example:"7"`
	OtherNotch    *int             `json:"otherNotch,omitempty" minimum:"1" doc:"Where the other side stands, for a side on its own"`
	StartingNotch int              `json:"startingNotch" minimum:"1" example:"7"`
	BlockStart    day.Date         `json:"blockStart" format:"date" example:"2026-04-13"`
	LastUp        *day.Date        `json:"lastUp,omitempty" format:"date"`
	UpsThisWeek   int              `json:"upsThisWeek,omitempty" minimum:"0"`
	Deload        bool             `json:"deload,omitempty"`
	OpenGates     []catalogue.Gate `json:"openGates,omitempty" example:"[\"single-leg-calf\"]"`
	Halt          *adjust.Halt     `json:"halt,omitempty"`
	History       adjust.History   `json:"history" doc:"Sessions, mornings and where the block began, of this side"`
	Running       load.Class       `json:"running,omitempty" enum:"down,steady,rise,spike,unknown,return," example:"steady" doc:"Running volume; unknown when empty"`
	Illness       adjust.Illness   `json:"illness,omitempty"`
	RunPain       *adjust.Reading  `json:"runPain,omitempty" doc:"Worst pain of a run on this tissue"`
	PoorSleep     bool             `json:"poorSleep,omitempty"`
	MildIllness   bool             `json:"mildIllness,omitempty" doc:"Ill without fever"`
	ExposureOver  bool             `json:"exposureOver,omitempty" doc:"Barefoot minutes over their line"`
	LoadEarly     bool             `json:"loadEarly,omitempty" doc:"The school load early"`
	Flares        []adjust.Flare   `json:"flares,omitempty" maxItems:"20"`
}

// DecisionOut is a decision with its sentence.
type DecisionOut struct {
	adjust.Decision
	Move     string   `json:"move"`
	Sentence string   `json:"sentence"`
	Caps     []string `json:"caps" nullable:"false" doc:"What limits the sessions beside the peg"`
}
