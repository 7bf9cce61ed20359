package api

import (
	"notchback/app"
	"notchback/core/adjust"
	coreBody "notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
)

// OnDay is a runner's day in the path.
type OnDay struct {
	ByID
	On string `path:"on" format:"date"`
}

func (d OnDay) Date() (day.Date, error) {
	on, err := day.Parse(d.On)
	if err != nil {
		return 0, app.Invalid{{Field: "on", Message: err.Error()}}
	}
	return on, nil
}

// Rev is the revision that was read.
type Rev struct {
	Rev int `query:"rev" minimum:"0" doc:"The revision that was read"`
}

// RatiosIn asks what a week and a run are against what came before.
type RatiosIn struct {
	On           day.Date `json:"on" format:"date" example:"2026-05-10"`
	Runs         []RunIn  `json:"runs" nullable:"false" maxItems:"2000"`
	PlannedKm    float64  `json:"plannedKm,omitempty" minimum:"0" maximum:"400" doc:"Still planned for this week"`
	IntakeWeekKm *float64 `json:"intakeWeekKm,omitempty" minimum:"0" maximum:"400" doc:"Weekly mean at intake, for weeks before the first run" example:"28"`
}

// RunIn is a run for a computation.
type RunIn struct {
	On            day.Date       `json:"on" format:"date" example:"2026-05-06"`
	DistanceKm    float64        `json:"distanceKm" minimum:"0" maximum:"300" example:"34"`
	Minutes       float64        `json:"minutes" minimum:"0" maximum:"2880" example:"200"`
	CadenceSpm    *float64       `json:"cadenceSpm,omitempty" minimum:"60" maximum:"260" example:"170"`
	Effort        *int           `json:"effort,omitempty" minimum:"0" maximum:"10"`
	Footwear      load.Footwear  `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Strike        load.Strike    `json:"strike,omitempty" enum:"rear,mid-fore," example:"rear"`
	Pain          *coreBody.Pain `json:"pain,omitempty" minimum:"0" maximum:"10"`
	Limping       bool           `json:"limping,omitempty"`
	NextFirstStep *coreBody.Pain `json:"nextFirstStep,omitempty" minimum:"0" maximum:"10" doc:"First steps the morning after"`
}

func (r RunIn) Core() load.Run {
	return load.Run{On: r.On, Metres: int(r.DistanceKm*1000 + 0.5), Seconds: int(r.Minutes*60 + 0.5), CadenceSpm: r.CadenceSpm, Effort: r.Effort, Footwear: r.Footwear, Pain: r.Pain, Limping: r.Limping}
}

// RatiosOut is what running allows.
type RatiosOut struct {
	load.Running
	Ratio    float64    `json:"ratio" doc:"Of the week to the mean of the four before; 0 when not known"`
	SteadyKm float64    `json:"steadyKm" doc:"The most that is steady this week"`
	Words    string     `json:"words"`
	Total    load.Total `json:"total" doc:"Of the week"`
	Sources  []string   `json:"sources" nullable:"false"`
}

// DoseIn asks for a tissue dose of one side.
type DoseIn struct {
	Tissue  coreBody.Tissue `json:"tissue" enum:"achilles-calf,sole,forefoot-bone,front-shin" example:"achilles-calf"`
	Runs    []RunIn         `json:"runs,omitempty" maxItems:"200"`
	Notches []struct {
		Ladder string  `json:"ladder" example:"calf-straight"`
		Notch  int     `json:"notch" minimum:"1" example:"3"`
		Done   float64 `json:"done" minimum:"0" maximum:"1" example:"1" doc:"Share of the dose done"`
	} `json:"notches,omitempty" maxItems:"100"`
}

// DoseOut is a dose by component, in body weights times repetitions.
type DoseOut struct {
	Components map[load.Component]load.Amount `json:"components"`
	Total      load.Amount                    `json:"total"`
	Source     string                         `json:"source"`
}

// ReviewIn asks what a week of runs and mornings says.
type ReviewIn struct {
	Today    day.Date         `json:"today" format:"date" example:"2026-05-17"`
	Runs     []RunIn          `json:"runs" nullable:"false" maxItems:"2000"`
	Mornings []adjust.Morning `json:"mornings" nullable:"false" maxItems:"2000"`
	B0       float64          `json:"b0" minimum:"0" maximum:"10" example:"1" doc:"Where the block began"`
	IntakeKm *float64         `json:"intakeWeekKm,omitempty" minimum:"0" maximum:"400" example:"30"`
	Flare    bool             `json:"flare,omitempty" doc:"A flare stands"`
	Flags    []string         `json:"flags,omitempty" doc:"Flags that close running"`
}

// ReviewOut is what a week says: the region's verdict, and running advice.
type ReviewOut struct {
	Verdict    string       `json:"verdict" enum:"on,hold,back" doc:"Of what shares the painful tissue"`
	Because    []string     `json:"because" nullable:"false"`
	Running    load.Running `json:"running"`
	Advice     load.Advice  `json:"advice"`
	AdviceText string       `json:"adviceText"`
	AdviceWhy  string       `json:"adviceWhy"`
}
