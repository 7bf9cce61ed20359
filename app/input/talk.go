package input

import (
	"fmt"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Talk is what the runner says at the start.
type Talk struct {
	Complaints        []screening.Complaint `json:"complaints" nullable:"false" maxItems:"30"`
	Flags             safety.Answers        `json:"flags"`
	OuterAnkleHistory []body.Side           `json:"outerAnkleHistory,omitempty" maxItems:"2"`
	Training          string                `json:"training,omitempty" maxLength:"2000"`
	Shoes             string                `json:"shoes,omitempty" maxLength:"2000"`
	RunsPerWeek       *float64              `json:"runsPerWeek,omitempty" minimum:"0" maximum:"21"`
	LongestRunKm      *float64              `json:"longestRunKm,omitempty" minimum:"0" maximum:"250" doc:"Longest run in 30 days"`
	FootMinutesPerDay *float64              `json:"footMinutesPerDay,omitempty" minimum:"0" maximum:"240"`
	BarefootHours     *float64              `json:"barefootHoursPerDay,omitempty" minimum:"0" maximum:"24"`
	ShoeDropMm        *float64              `json:"shoeDropMm,omitempty" minimum:"-10" maximum:"40"`
	ShoeStackMm       *float64              `json:"shoeStackMm,omitempty" minimum:"0" maximum:"80"`
	Floor             string                `json:"floor,omitempty" enum:"hard,mixed,soft," doc:"What is mostly walked on at home and at work"`
	Insoles           *bool                 `json:"insoles,omitempty"`
	HeightCm          *float64              `json:"heightCm,omitempty" minimum:"80" maximum:"220" doc:"Under 18: height now"`
	HeightBeforeCm    *float64              `json:"heightBeforeCm,omitempty" minimum:"80" maximum:"220" doc:"Height some months ago"`
	HeightMonths      *float64              `json:"heightMonths,omitempty" minimum:"0.5" maximum:"24" doc:"Months between the two"`
	SportHours        *float64              `json:"sportHours,omitempty" minimum:"0" maximum:"60" doc:"Hours of sport a week"`
	HardHours         *float64              `json:"hardHours,omitempty" minimum:"0" maximum:"60" doc:"Of them on hard floor"`
	DayOff            *bool                 `json:"dayOff,omitempty" doc:"One day a week without sport"`
	GuardianConsent   bool                  `json:"guardianConsent,omitempty" doc:"A guardian agreed; needed under 18"`
}

// OnHardFloor reports that most of the day is walked on hard floor.
func (t Talk) OnHardFloor() bool { return t.Floor == "hard" }

// Conditions are how the run and the reaches were taken.
type Conditions struct {
	SpeedKmh    *float64 `json:"speedKmh,omitempty" minimum:"3" maximum:"30"`
	InclinePct  *float64 `json:"inclinePercent,omitempty" minimum:"-15" maximum:"25"`
	Surface     string   `json:"surface,omitempty" maxLength:"80"`
	Shoes       string   `json:"shoes,omitempty" maxLength:"120"`
	WarmMinutes *float64 `json:"warmMinutes,omitempty" minimum:"0" maximum:"120"`
	LegLeftCm   *float64 `json:"legLeftCm,omitempty" minimum:"40" maximum:"130"`
	LegRightCm  *float64 `json:"legRightCm,omitempty" minimum:"40" maximum:"130"`
}

func (in Talk) Check() error {
	var bad app.Invalid
	for i, c := range in.Complaints {
		if ZoneName(string(c.Zone)) == "" {
			bad.Add(fmt.Sprintf("complaints[%d].zone", i), "%q is not a zone", c.Zone)
		}
	}
	return bad.Or()
}
