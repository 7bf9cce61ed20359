package running

import (
	"context"

	"notchback/app"
	"notchback/app/view"
	"notchback/store"
)

// Load returns a runner's load, pain and notches on one time axis.
func (a *Running) Load(ctx context.Context, act app.Actor, runner string, weeks int) (view.LoadView, error) {
	weeks = max(4, min(52, weeks))
	var out view.LoadView
	if err := a.CatchUp(ctx, act, runner); err != nil {
		return out, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		out = view.LoadOf(k, weeks)
		return nil
	})
	return out, err
}
