package api

import (
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/simulate"
	"notchback/core/transition"
)

// ClosedGate is a gate that is not open, with the earliest date it may be.
type ClosedGate struct {
	Gate  catalogue.Gate `json:"gate" example:"barefoot-strength"`
	From  *day.Date      `json:"from,omitempty" format:"date" doc:"Missing when nobody knows"`
	Words string         `json:"words,omitempty"`
}

// BarefootRampIn is everything a ramp is made from.
type BarefootRampIn struct {
	Today       day.Date             `json:"today" format:"date" example:"2027-01-04"`
	Terms       transition.Terms     `json:"terms" example:"{\"from\":\"2027-01-04\",\"goal\":\"run\",\"begin\":\"run\",\"targetPercent\":30,\"weeklyMetres\":40000,\"paceSeconds\":360,\"runDays\":[1,3,5],\"strengthDays\":[0,3],\"shoe\":\"thin one\"}"`
	DeloadEvery int                  `json:"deloadEvery,omitempty" minimum:"0" maximum:"12" doc:"Every so many weeks nothing rises; 0 for never"`
	Closed      []ClosedGate         `json:"closed,omitempty" maxItems:"10" doc:"All others are open"`
	Readings    []transition.Reading `json:"readings,omitempty" maxItems:"800"`
	Flares      []transition.Flare   `json:"flares,omitempty" maxItems:"20"`
	Futures     int                  `json:"futures,omitempty" minimum:"0" maximum:"5000" doc:"Drawn for the range; 0 for none"`
	Seed        uint64               `json:"seed,omitempty"`
}

// BarefootRampOut is a ramp with its range of dates.
type BarefootRampOut struct {
	Ramp        transition.Ramp      `json:"ramp"`
	Range       simulate.Range       `json:"range"`
	Assumptions simulate.Assumptions `json:"assumptions"`
}

// CadenceStepsIn is everything a change of cadence is made from.
type CadenceStepsIn struct {
	Today    day.Date                `json:"today" format:"date" example:"2027-01-04"`
	Terms    transition.CadenceTerms `json:"terms" example:"{\"start\":\"2027-01-04\",\"baselineSpm\":160,\"school\":\"fixed-range\",\"speedKmh\":10}"`
	Recounts []transition.Recount    `json:"recounts,omitempty" maxItems:"60"`
	Readings []transition.Reading    `json:"readings,omitempty" maxItems:"800" doc:"For sore calves"`
}
