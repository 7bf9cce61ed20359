package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/store"
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
	Insoles           *bool                 `json:"insoles,omitempty"`
	HeightCm          *float64              `json:"heightCm,omitempty" minimum:"80" maximum:"220" doc:"Under 18: height now"`
	HeightBeforeCm    *float64              `json:"heightBeforeCm,omitempty" minimum:"80" maximum:"220" doc:"Height some months ago"`
	HeightMonths      *float64              `json:"heightMonths,omitempty" minimum:"0.5" maximum:"24" doc:"Months between the two"`
	SportHours        *float64              `json:"sportHours,omitempty" minimum:"0" maximum:"60" doc:"Hours of sport a week"`
	HardHours         *float64              `json:"hardHours,omitempty" minimum:"0" maximum:"60" doc:"Of them on hard floor"`
	DayOff            *bool                 `json:"dayOff,omitempty" doc:"One day a week without sport"`
	GuardianConsent   bool                  `json:"guardianConsent,omitempty" doc:"A guardian agreed; needed under 18"`
}

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

// ClearanceView is a clearance with whether it runs.
type ClearanceView struct {
	safety.Clearance
	Runs bool `json:"runs"`
	Soon bool `json:"soon" doc:"Ends within seven days"`
}

func (in Talk) check() error {
	var bad Invalid
	for i, c := range in.Complaints {
		if zoneName(string(c.Zone)) == "" {
			bad.add(fmt.Sprintf("complaints[%d].zone", i), "%q is not a zone", c.Zone)
		}
	}
	return bad.or()
}

// PutTalk saves what the runner said. rev is the revision that was read; flags
// that come or go are written to the journal.
func (a *App) PutTalk(ctx context.Context, act Actor, id string, rev int, in Talk, reason string) (Screening, error) {
	if err := in.check(); err != nil {
		return Screening{}, err
	}
	if in.Flags.Yes == nil {
		in.Flags.Yes = map[string]body.Side{}
	}
	return a.changeScreening(ctx, act, id, reason, "Talk", in, func(tx *store.Tx, before Screening) error {
		for _, g := range before.Questions {
			yes := slices.ContainsFunc(g.Questions, func(q safety.Question) bool { _, ok := in.Flags.Yes[q.ID]; return ok })
			if yes && slices.Contains(in.Flags.None, g.Name) {
				return Invalid{{"flags", "“none of these” and a yes in " + g.Name + " can't both be; the yes counts until it is taken back"}}
			}
		}
		if err := putPart(ctx, tx, act, id, "talk", rev, in); err != nil {
			return err
		}
		after, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		for _, f := range after.Flags {
			if !hasFlag(before.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered yes. "+f.Text, f); err != nil {
					return err
				}
			}
		}
		for _, f := range before.Flags {
			if !hasFlag(after.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered anew: no longer yes", f); err != nil {
					return err
				}
			}
		}
		return a.afterReading(ctx, tx, act, before.RunnerID)
	})
}

func hasFlag(list []FlagView, f FlagView) bool {
	return slices.ContainsFunc(list, func(x FlagView) bool { return x.Flag == f.Flag && x.Level == f.Level && x.Side == f.Side })
}

func putPart(ctx context.Context, tx *store.Tx, act Actor, id, part string, rev int, v any) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutPart(ctx, store.Part{ScreeningID: id, Part: part, Rev: rev + 1, Body: raw}, act.User.ID)
}

// PutConditions saves how the run and the reaches were taken.
func (a *App) PutConditions(ctx context.Context, act Actor, id string, rev int, in Conditions, reason string) (Screening, error) {
	return a.changeScreening(ctx, act, id, reason, "Conditions", in, func(tx *store.Tx, _ Screening) error {
		return putPart(ctx, tx, act, id, "conditions", rev, in)
	})
}

// PutChoice saves the coach's choice about one finding. It is open on a finished
// screening too; a demotion needs a reason.
func (a *App) PutChoice(ctx context.Context, act Actor, id string, rev int, in screening.Choice) (Screening, error) {
	if in.Move == "demote" && in.Reason == "" {
		return Screening{}, Invalid{{"reason", "say why it waits, for the journal"}}
	}
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(s.Findings, func(f screening.Finding) bool { return f.Key() == in.Key }) {
			return Invalid{{"key", "there is no such finding now"}}
		}
		kept := slices.DeleteFunc(s.Choices, func(c screening.Choice) bool { return c.Key == in.Key })
		if err := putPart(ctx, tx, act, id, "choices", rev, append(kept, in)); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.now(), &act.User.ID, "finding", fmt.Sprintf("Finding %s: %s %s %s", in.Key, in.Move, in.Reason, in.Remark), in); err != nil {
			return err
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// WaiveGate opens a gate on the coach's word, with a reason; an empty reason
// takes the waiver back.
func (a *App) WaiveGate(ctx context.Context, act Actor, id string, rev int, gate catalogue.Gate, reason string) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if _, ok := safety.Find(s.Gates, gate); !ok {
			return Invalid{{"gate", fmt.Sprintf("%q is not a gate", gate)}}
		}
		if why := s.CantWaive[string(gate)]; why != "" && reason != "" {
			return Refused(why)
		}
		kept := slices.DeleteFunc(s.Waivers, func(w safety.Waiver) bool { return w.Gate == gate })
		if reason != "" {
			kept = append(kept, safety.Waiver{Gate: gate, Reason: reason})
		}
		if err := putPart(ctx, tx, act, id, "waivers", rev, kept); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.now(), &act.User.ID, "gate", "Gate "+string(gate)+" waived: "+reason, nil); err != nil {
			return err
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// ClearanceInput is a clinician's word about a flag.
type ClearanceInput struct {
	Flag    safety.FlagID `json:"flag"`
	Role    string        `json:"role" minLength:"1" maxLength:"120" doc:"The clinician's role; no name is needed"`
	Allowed string        `json:"allowed" minLength:"1" maxLength:"500" doc:"What is allowed"`
	Until   day.Date      `json:"until" format:"date"`
}

// longestClearance bounds a clearance in days; after it someone looks again.
const longestClearance = 366

// AddClearance stores a clearance for a runner's flag, from today.
func (a *App) AddClearance(ctx context.Context, act Actor, runner string, in ClearanceInput) error {
	today := a.Today(act)
	return a.write(ctx, act, func(tx *store.Tx) error {
		d, err := a.loadDossier(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if in.Until < today || in.Until > today+longestClearance {
			return Invalid{{"until", "expected a day from today to a year ahead"}}
		}
		all := d.engine
		if len(d.visits) > 0 {
			all = d.flags(0)
		}
		if !slices.ContainsFunc(all, func(s safety.Standing) bool { return s.Flag == in.Flag }) {
			return Invalid{{"flag", "this flag does not stand for the runner"}}
		}
		c := store.Clearance{Flag: string(in.Flag), On: today.Time(), Role: in.Role, Allowed: in.Allowed, Until: in.Until.Time()}
		if err := tx.AddClearance(ctx, runner, c, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "clearance",
			fmt.Sprintf("Clearance for %s by a %s until %s: %s", in.Flag, in.Role, in.Until.Words(), in.Allowed), in); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, runner)
	})
}
