package app

import (
	"context"

	"notchback/core/course"
	"notchback/store"
)

// RecordOf is a runner's record as the application reads it.
func (a *App) RecordOf(ctx context.Context, act Actor, runner string) (course.Record, error) {
	var out course.Record
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		out = k.rec
		return nil
	})
	return out, err
}
