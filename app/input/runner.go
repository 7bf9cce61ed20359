package input

import (
	"strings"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/store"
)

// RunnerInput is what a coach writes about a runner.
type RunnerInput struct {
	Name                string    `json:"name" maxLength:"120"`
	Birth               *day.Date `json:"birth,omitempty" format:"date"`
	Sex                 string    `json:"sex,omitempty" enum:"female,male,other," doc:"For norms only"`
	MassKg              *float64  `json:"massKg,omitempty"`
	WeeklyKm            *float64  `json:"weeklyKm,omitempty" doc:"Mean of the last four weeks"`
	Goal                string    `json:"goal,omitempty" maxLength:"300"`
	Note                string    `json:"note,omitempty" maxLength:"4000"`
	FirstStructuredWork *bool     `json:"firstStructuredWork,omitempty"`
	RecentVolumeRise    *bool     `json:"recentVolumeRise,omitempty"`
	IntakeFirstStep     *int      `json:"intakeFirstStep,omitempty" doc:"First-step pain at intake, 0–10"`
	Language            string    `json:"language,omitempty" enum:"en,de," doc:"In which the runner reads; empty is the practice's"`
}

func (in RunnerInput) Check(today day.Date) error {
	var bad app.Invalid
	if strings.TrimSpace(in.Name) == "" {
		bad.Add("name", "give the runner a name")
	}
	if b := in.Birth; b != nil {
		switch age := day.Age(*b, today); {
		case *b > today:
			bad.Add("birth", "%s is in the future", *b)
		case age < youngest || age > oldest:
			bad.Add("birth", "that makes the runner %d; expected %d to %d years", age, youngest, oldest)
		}
	}
	if m := in.MassKg; m != nil && (*m < minMassKg || *m > maxMassKg) {
		bad.Add("massKg", "expected %[2]d to %[3]d kg (you entered %[1]g kg)", *m, minMassKg, maxMassKg)
	}
	if k := in.WeeklyKm; k != nil && (*k < 0 || *k > maxWeeklyKm) {
		bad.Add("weeklyKm", "expected 0 to %[2]d km (you entered %[1]g km a week)", *k, maxWeeklyKm)
	}
	if p := in.IntakeFirstStep; p != nil && (*p < 0 || *p > body.PainMax) {
		bad.Add("intakeFirstStep", "pain must be 0 to 10 (you entered %d)", *p)
	}
	return bad.Or()
}

func (in RunnerInput) Record() store.Runner {
	return store.Runner{
		Name: strings.TrimSpace(in.Name), Birth: app.TimePtr(in.Birth), Sex: in.Sex, MassKg: in.MassKg, WeeklyKm: in.WeeklyKm,
		Goal: in.Goal, Note: in.Note, FirstStructuredWork: in.FirstStructuredWork, RecentVolumeRise: in.RecentVolumeRise,
		IntakeFirstStep: in.IntakeFirstStep, Language: in.Language,
	}
}

// Bounds of what is accepted about a person.
const (
	oldest      = 110
	youngest    = 5
	minMassKg   = 15
	maxMassKg   = 250
	maxWeeklyKm = 400
)
