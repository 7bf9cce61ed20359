package view

import (
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/day"
	"notchback/store"
)

// Runner is a runner as the coach sees one.
type Runner struct {
	input.RunnerInput
	ID           string     `json:"id"`
	Version      int        `json:"version" doc:"Sent back as If-Match when saving"`
	Age          *int       `json:"age,omitempty"`
	ImportedFrom string     `json:"importedFrom,omitempty" doc:"The practice a file says it comes from"`
	ImportedAt   *time.Time `json:"importedAt,omitempty"`
}

func RunnerView(r store.Runner, today day.Date) Runner {
	out := Runner{ID: r.ID, Version: r.Version, ImportedFrom: r.ImportedFrom, ImportedAt: r.ImportedAt, RunnerInput: input.RunnerInput{
		Name: r.Name, Birth: app.DatePtr(r.Birth), Sex: r.Sex, MassKg: r.MassKg, WeeklyKm: r.WeeklyKm, Goal: r.Goal, Note: r.Note,
		FirstStructuredWork: r.FirstStructuredWork, RecentVolumeRise: r.RecentVolumeRise, IntakeFirstStep: r.IntakeFirstStep, Language: r.Language,
	}}
	if out.Birth != nil {
		age := day.Age(*out.Birth, today)
		out.Age = &age
	}
	return out
}
