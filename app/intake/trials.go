package intake

import (
	"context"
	"fmt"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/store"
)

// PutTrial saves a trial in its slot and returns the screening. A finished
// screening asks for a reason; the earlier reading stays in the record.
func (a *Intake) PutTrial(ctx context.Context, act app.Actor, id string, test screening.TestID, side body.Side, slot int, in *input.TrialInput, reason string) (record.Screening, error) {
	t, rec, err := input.TrialRecord(id, test, side, slot, in)
	if err != nil {
		return record.Screening{}, err
	}
	return a.changeScreening(ctx, act, id, reason, t.Name+", "+string(side), rec, func(tx *store.Tx, v *record.Visit) error {
		if in != nil {
			if why := closedTest(t, v.Screening); why != "" {
				return app.Refused(why)
			}
		}
		if err := tx.DropOrigin(ctx, rec); err != nil {
			return err
		}
		return tx.PutTrial(ctx, rec, act.User.ID, reason)
	})
}

// PutTrials saves several trials of an open screening at once: all or none.
func (a *Intake) PutTrials(ctx context.Context, act app.Actor, id string, list []record.SavedTrial) (record.Screening, error) {
	return a.changeScreening(ctx, act, id, "", "", nil, func(tx *store.Tx, v *record.Visit) error {
		for _, in := range list {
			t, rec, err := input.TrialRecord(id, in.Test, in.Side, in.Slot, &in.TrialInput)
			if err != nil {
				return err
			}
			if why := closedTest(t, v.Screening); why != "" {
				return app.Refused(why)
			}
			if err := tx.PutTrial(ctx, rec, act.User.ID, ""); err != nil {
				return err
			}
		}
		return nil
	})
}

// closedTest says why a test is not done now: a flag, or its gate.
func closedTest(t screening.Test, s record.Screening) string {
	for _, f := range s.Flags {
		if !f.Cleared && f.ClosesTest(t.ID) {
			return fmt.Sprintf("%s closes this test: %s", f.Name(), f.Text)
		}
	}
	if g, ok := safety.Find(s.Gates, t.Gate); t.Gate != "" && ok && !g.Open {
		return "the gate " + g.Name + " is closed; this test waits"
	}
	return ""
}
