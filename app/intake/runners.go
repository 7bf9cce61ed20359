package intake

import (
	"context"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/store"
)

// AddRunner stores a new runner.
func (a *Intake) AddRunner(ctx context.Context, act app.Actor, key string, in input.RunnerInput) (view.Runner, error) {
	today := a.Today(act)
	if err := in.Check(today); err != nil {
		return view.Runner{}, err
	}
	var out view.Runner
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "addRunner", Address: "", Key: key}, in, func() (view.Runner, error) {
			r, err := tx.AddRunner(ctx, in.Record())
			if err != nil {
				return view.Runner{}, err
			}
			if err := tx.LogAccess(ctx, a.Now(), store.Access{Runner: &r.ID, User: &act.User.ID, Action: "addRunner"}, false); err != nil {
				return view.Runner{}, err
			}
			return view.RunnerView(r, today), tx.Note(ctx, r.ID, a.Now(), &act.User.ID, "runner", r.Name+" added", nil)
		})
		return err
	})
	return out, err
}

// Runner returns one runner.
func (a *Intake) Runner(ctx context.Context, act app.Actor, id string) (view.Runner, error) {
	var out view.Runner
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, id)
		if err != nil {
			return err
		}
		out = view.RunnerView(r, a.Today(act))
		return nil
	})
	return out, err
}

// Changed is the error of a save over someone else's: it carries what stands now.
type Changed struct{ Now view.Runner }

func (Changed) Error() string {
	return "someone else saved this runner in the meantime; what you typed is kept, compare and save again"
}

// UpdateRunner saves a runner at the version the coach saw; a Changed error
// when someone else saved first.
func (a *Intake) UpdateRunner(ctx context.Context, act app.Actor, id string, version int, in input.RunnerInput) (view.Runner, error) {
	today := a.Today(act)
	if err := in.Check(today); err != nil {
		return view.Runner{}, err
	}
	var out view.Runner
	stale := false
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		before, err := tx.Runner(ctx, id)
		if err != nil {
			return err
		}
		if before.Version != version {
			stale = true
			out = view.RunnerView(before, today)
			return nil
		}
		rec := in.Record()
		rec.ID, rec.Version = id, version
		r, err := tx.UpdateRunner(ctx, rec)
		if err != nil {
			return err
		}
		out = view.RunnerView(r, today)
		return tx.Note(ctx, id, a.Now(), &act.User.ID, "runner", "Profile changed", map[string]any{"before": view.RunnerView(before, today).RunnerInput, "after": out.RunnerInput})
	})
	if err == nil && stale {
		return view.Runner{}, Changed{out}
	}
	return out, err
}

// Intake is the room of runners and their screenings.
type Intake struct{ *record.Book }
