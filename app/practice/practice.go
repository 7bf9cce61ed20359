package practice

import (
	"context"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/units"
	"notchback/core/words"
	"notchback/store"
)

// Practice is what the sheets say of a practice, and what they reckon with.
type Practice struct {
	Name            string  `json:"name" maxLength:"120"`
	Contact         string  `json:"contact" maxLength:"300" doc:"How runners reach the coach"`
	EmergencyNumber string  `json:"emergencyNumber" maxLength:"40" doc:"Whom to call in an emergency"`
	EmergencyText   string  `json:"emergencyText" maxLength:"600" doc:"What stands beside it: the nearest hospital, the way there"`
	Zone            string  `json:"zone" maxLength:"60" doc:"Time zone, like Europe/Lisbon"`
	PlateKg         float64 `json:"plateKg" minimum:"0.1" maximum:"20" doc:"The smallest step of weight at hand"`
	Language        string  `json:"language" enum:"en,de" doc:"In which runners read, where a runner's page says nothing else"`
	Units           string  `json:"units" enum:"metric,imperial" doc:"Distances and weights on screens and phones: km and kg, or miles and pounds"`
	StandIns        bool    `json:"standIns,omitempty" doc:"Rendered clips and made-up runs are offered, to try the program without devices"`
	KeepYears       int     `json:"keepYears" minimum:"0" maximum:"30" doc:"After so many years off the bench a runner's records are deleted; 0 for never"`
	IdleMinutes     int     `json:"idleMinutes" minimum:"15" maximum:"720" doc:"A browser that was not used for so long is signed out"`
	RetestWeeks     int     `json:"retestWeeks" minimum:"1" maximum:"3" doc:"In new plans what is worked on is tested again every so many weeks"`
	Rev             int64   `json:"rev" doc:"Sent back when saving"`
}

func practiceOf(p store.Practice) Practice {
	return Practice{Name: p.Name, Contact: p.Contact, EmergencyNumber: p.EmergencyNumber, EmergencyText: p.EmergencyText, Zone: p.Zone, PlateKg: p.PlateKg, Language: p.Language, Units: p.Units, StandIns: p.StandIns, KeepYears: p.KeepYears, IdleMinutes: p.IdleMinutes, RetestWeeks: p.RetestWeeks, Rev: p.Rev}
}

// Practice returns the practice of whoever asks.
func (a *Practices) Practice(ctx context.Context, act app.Actor) (Practice, error) {
	var out Practice
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := tx.PracticeSelf(ctx)
		out = practiceOf(p)
		return err
	})
	return out, err
}

// PutPractice stores it; only its owner may.
func (a *Practices) PutPractice(ctx context.Context, act app.Actor, in Practice) (Practice, error) {
	if act.User.Role != "owner" {
		return Practice{}, app.Refused("only the owner of the practice changes this")
	}
	in.Name, in.Contact, in.EmergencyNumber = strings.TrimSpace(in.Name), strings.TrimSpace(in.Contact), strings.TrimSpace(in.EmergencyNumber)
	var bad app.Invalid
	if in.Name == "" {
		bad.Add("name", "give the practice a name")
	}
	if _, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" || in.Zone == "Local" {
		bad.Add("zone", "%q is not a time zone; like Europe/Lisbon", in.Zone)
	}
	if in.EmergencyNumber != "" && !strings.ContainsAny(in.EmergencyNumber, "0123456789") {
		bad.Add("emergencyNumber", "a number to call is needed")
	}
	if in.PlateKg <= 0 || in.PlateKg > 20 {
		bad.Add("plateKg", "expected more than 0 and up to 20 (you entered %g kg)", in.PlateKg)
	}
	if !words.Language(in.Language).Known() {
		bad.Add("language", "%q is not a language there is", in.Language)
	}
	if !units.System(in.Units).Known() {
		bad.Add("units", "%q are not units there are", in.Units)
	}
	if in.RetestWeeks < 1 || in.RetestWeeks > 3 {
		bad.Add("retestWeeks", "expected 1 to 3 weeks (you entered %d)", in.RetestWeeks)
	}
	if in.KeepYears < 0 || in.KeepYears > 30 {
		bad.Add("keepYears", "expected 0 to 30 years (you entered %d)", in.KeepYears)
	}
	if in.IdleMinutes < 15 || in.IdleMinutes > 720 {
		bad.Add("idleMinutes", "expected 15 to 720 minutes (you entered %d)", in.IdleMinutes)
	}
	if err := bad.Or(); err != nil {
		return Practice{}, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		return tx.PutPractice(ctx, store.Practice{Name: in.Name, Zone: in.Zone, Contact: in.Contact, EmergencyNumber: in.EmergencyNumber, EmergencyText: strings.TrimSpace(in.EmergencyText), PlateKg: in.PlateKg, Language: in.Language, Units: in.Units, StandIns: in.StandIns, KeepYears: in.KeepYears, IdleMinutes: in.IdleMinutes, RetestWeeks: in.RetestWeeks, Rev: in.Rev}, a.Today(act).Time())
	})
	if err != nil {
		return Practice{}, err
	}
	return a.Practice(ctx, act)
}

// Practices is the room of the practice itself.
type Practices struct{ *record.Book }
