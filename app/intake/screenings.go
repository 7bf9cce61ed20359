package intake

import (
	"context"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/day"
	"notchback/store"
)

// ScreeningInput opens a screening.
type ScreeningInput struct {
	On       *day.Date `json:"on,omitempty" format:"date" doc:"Today when missing"`
	Footwear string    `json:"footwear,omitempty" maxLength:"120"`
	Note     string    `json:"note,omitempty" maxLength:"2000"`
}

// StartScreening opens a screening for a runner.
func (a *Intake) StartScreening(ctx context.Context, act app.Actor, key, runner string, in ScreeningInput) (record.Screening, error) {
	today := a.Today(act)
	on := today
	if in.On != nil {
		on = *in.On
	}
	if on > today {
		return record.Screening{}, app.Wrong("on", on.String()+" is in the future")
	}
	if on < today-input.VisitsBack {
		return record.Screening{}, app.Wrong("on", on.String()+" is too long ago")
	}
	var out record.Screening
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "startScreening", Address: runner, Key: key}, in, func() (record.Screening, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return record.Screening{}, err
			}
			s, err := tx.AddScreening(ctx, store.Screening{RunnerID: runner, On: on.Time(), Footwear: in.Footwear, Note: in.Note}, act.User.ID)
			if err != nil {
				return record.Screening{}, err
			}
			if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "screening", "Screening started", nil); err != nil {
				return record.Screening{}, err
			}
			v, err := a.OpenVisit(ctx, tx, act, s.ID)
			if err != nil {
				return record.Screening{}, err
			}
			return v.Screening, nil
		})
		return err
	})
	return out, err
}

// Screening returns one screening with its results and findings.
func (a *Intake) Screening(ctx context.Context, act app.Actor, id string) (record.Screening, error) {
	var out record.Screening
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		v, err := a.OpenVisit(ctx, tx, act, id)
		if err == nil {
			out = v.Screening
		}
		return err
	})
	return out, err
}

// Screenings lists a runner's screenings, newest first, each with its results.
func (a *Intake) Screenings(ctx context.Context, act app.Actor, runner string) ([]record.Screening, error) {
	out := []record.Screening{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		d, err := a.LoadDossier(ctx, tx, act, runner)
		if err == nil && d.Visits != nil {
			out = d.Visits
		}
		return err
	})
	return out, err
}

// change runs fn on a screening that is read once, under its runner's lock, and
// returns how it stands then.
func (a *Intake) change(ctx context.Context, act app.Actor, id string, fn func(*store.Tx, *record.Visit) error) (record.Screening, error) {
	var out record.Screening
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		v, err := a.HoldVisit(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if err := fn(tx, v); err != nil {
			return err
		}
		out = v.Screening
		return nil
	})
	return out, err
}

// changeScreening runs a change of a screening; a finished one asks for a reason.
func (a *Intake) changeScreening(ctx context.Context, act app.Actor, id, reason, what string, detail any, fn func(*store.Tx, *record.Visit) error) (record.Screening, error) {
	return a.change(ctx, act, id, func(tx *store.Tx, v *record.Visit) error {
		if v.Finished && reason == "" {
			return app.Wrong("reason", "this screening is finished; say why it is corrected")
		}
		if err := fn(tx, v); err != nil {
			return err
		}
		if v.Finished {
			if err := tx.Note(ctx, v.RunnerID, a.Now(), &act.User.ID, "correction", what+", corrected: "+reason, detail); err != nil {
				return err
			}
		}
		return v.Again(ctx, tx)
	})
}

// FinishScreening closes a screening and writes its findings to the journal.
func (a *Intake) FinishScreening(ctx context.Context, act app.Actor, id string) (record.Screening, error) {
	return a.change(ctx, act, id, func(tx *store.Tx, v *record.Visit) error {
		if v.Finished {
			return nil
		}
		if len(v.Trials) == 0 {
			return app.Refused("nothing is measured yet; take at least one trial")
		}
		if err := tx.FinishScreening(ctx, id, a.Now()); err != nil {
			return err
		}
		if err := v.Again(ctx, tx); err != nil {
			return err
		}
		if err := tx.Note(ctx, v.RunnerID, a.Now(), &act.User.ID, "screening",
			"Screening finished, "+app.Plural(len(v.Findings), "finding", "findings"), map[string]any{"findings": v.Findings}); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, v.RunnerID)
	})
}
