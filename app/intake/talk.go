package intake

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/store"
)

// PutTalk saves what the runner said. rev is the revision that was read; flags
// that come or go are written to the journal.
func (a *Intake) PutTalk(ctx context.Context, act app.Actor, id string, rev int, in input.Talk, reason string) (record.Screening, error) {
	if err := in.Check(); err != nil {
		return record.Screening{}, err
	}
	if in.Flags.Yes == nil {
		in.Flags.Yes = map[string]body.Side{}
	}
	return a.changeScreening(ctx, act, id, reason, "Talk", in, func(tx *store.Tx, v *record.Visit) error {
		before := v.Screening
		for _, g := range before.Questions {
			yes := slices.ContainsFunc(g.Questions, func(q safety.Question) bool { _, ok := in.Flags.Yes[q.ID]; return ok })
			if yes && slices.Contains(in.Flags.None, g.Name) {
				return app.Wrong("flags", "“none of these” and a yes in "+g.Name+" can't both be; the yes counts until it is taken back")
			}
		}
		in.Flags.Own = v.Asked(in.Flags)
		if err := input.CheckAnswers(in.Flags, screening.Age{}, in.Flags.Own); err != nil {
			return err
		}
		if err := putPart(ctx, tx, act, id, "talk", rev, in); err != nil {
			return err
		}
		if err := v.Again(ctx, tx); err != nil {
			return err
		}
		after := v.Screening
		for _, f := range after.Flags {
			if !hasFlag(before.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.Now(), &act.User.ID, "flag", "Answered yes: "+f.Text, f); err != nil {
					return err
				}
			}
		}
		for _, f := range before.Flags {
			if !hasFlag(after.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.Now(), &act.User.ID, "flag", "Answered anew, no longer yes: "+f.Text, f); err != nil {
					return err
				}
			}
		}
		return a.AfterReading(ctx, tx, act, before.RunnerID)
	})
}

func hasFlag(list []record.FlagView, f record.FlagView) bool {
	return slices.ContainsFunc(list, func(x record.FlagView) bool { return x.Flag == f.Flag && x.Level == f.Level && x.Side == f.Side })
}

func putPart(ctx context.Context, tx *store.Tx, act app.Actor, id, part string, rev int, v any) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutPart(ctx, store.Part{ScreeningID: id, Part: part, Rev: rev + 1, Body: raw}, act.User.ID)
}

// PutConditions saves how the run and the reaches were taken.
func (a *Intake) PutConditions(ctx context.Context, act app.Actor, id string, rev int, in input.Conditions, reason string) (record.Screening, error) {
	return a.changeScreening(ctx, act, id, reason, "Conditions", in, func(tx *store.Tx, _ *record.Visit) error {
		return putPart(ctx, tx, act, id, "conditions", rev, in)
	})
}

// PutChoice saves the coach's choice about one finding. It is open on a finished
// screening too; a demotion needs a reason.
func (a *Intake) PutChoice(ctx context.Context, act app.Actor, id string, rev int, in screening.Choice) (record.Screening, error) {
	if in.Move == "demote" && in.Reason == "" {
		return record.Screening{}, app.Wrong("reason", "say why it waits, for the journal")
	}
	return a.change(ctx, act, id, func(tx *store.Tx, s *record.Visit) error {
		if !slices.ContainsFunc(s.Findings, func(f screening.Finding) bool { return f.Key() == in.Key }) {
			return app.Wrong("key", "there is no such finding now")
		}
		kept := slices.DeleteFunc(s.Choices, func(c screening.Choice) bool { return c.Key == in.Key })
		if err := putPart(ctx, tx, act, id, "choices", rev, append(kept, in)); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.Now(), &act.User.ID, "finding", fmt.Sprintf("Finding %s: %s %s %s", in.Key, in.Move, in.Reason, in.Remark), in); err != nil {
			return err
		}
		return s.Again(ctx, tx)
	})
}

// WaiveGate opens a gate on the coach's word, with a reason; an empty reason
// takes the waiver back.
func (a *Intake) WaiveGate(ctx context.Context, act app.Actor, id string, rev int, gate catalogue.Gate, reason string) (record.Screening, error) {
	return a.change(ctx, act, id, func(tx *store.Tx, s *record.Visit) error {
		if _, ok := safety.Find(s.Gates, gate); !ok {
			return app.Wrong("gate", fmt.Sprintf("%q is not a gate", gate))
		}
		if why := s.CantWaive[string(gate)]; why != "" && reason != "" {
			return app.Refused(why)
		}
		kept := slices.DeleteFunc(s.Waivers, func(w safety.Waiver) bool { return w.Gate == gate })
		if reason != "" {
			kept = append(kept, safety.Waiver{Gate: gate, Reason: reason})
		}
		if err := putPart(ctx, tx, act, id, "waivers", rev, kept); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.Now(), &act.User.ID, "gate", "Gate "+string(gate)+" waived: "+reason, nil); err != nil {
			return err
		}
		return s.Again(ctx, tx)
	})
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
func (a *Intake) AddClearance(ctx context.Context, act app.Actor, runner string, in ClearanceInput) error {
	today := a.Today(act)
	return a.Write(ctx, act, func(tx *store.Tx) error {
		d, err := a.LoadDossier(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if in.Until < today || in.Until > today+longestClearance {
			return app.Wrong("until", "expected a day from today to a year ahead")
		}
		all := d.Engine
		if len(d.Visits) > 0 {
			all = d.Flags(0)
		}
		i := slices.IndexFunc(all, func(s safety.Standing) bool { return s.Flag == in.Flag })
		if i < 0 {
			return app.Wrong("flag", "this flag does not stand for the runner")
		}
		c := store.Clearance{Flag: string(in.Flag), On: today.Time(), Role: in.Role, Allowed: in.Allowed, Until: in.Until.Time()}
		if err := tx.AddClearance(ctx, runner, c, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "clearance",
			fmt.Sprintf("Clearance for %s by a %s until %s: %s", all[i].Name(), in.Role, in.Until.Words(), in.Allowed), in); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, runner)
	})
}
