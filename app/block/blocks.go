package block

import (
	"context"
	"errors"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/store"
)

// Block returns a block with where it stands.
func (a *Blocks) Block(ctx context.Context, act app.Actor, id string) (view.Block, error) {
	var out view.Block
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, id)
		if err != nil {
			return err
		}
		out, err = a.blockView(ctx, tx, act, b)
		return err
	})
	return out, err
}

// CurrentBlock returns a runner's present block, nil where there is none.
func (a *Blocks) CurrentBlock(ctx context.Context, act app.Actor, runner string) (*view.Block, error) {
	var out *view.Block
	if err := a.CatchUp(ctx, act, runner); err != nil {
		return nil, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		b, err := tx.CurrentBlock(ctx, runner)
		if errors.Is(err, app.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		view, err := a.blockView(ctx, tx, act, b)
		out = &view
		return err
	})
	return out, err
}

func (a *Blocks) blockView(ctx context.Context, tx *store.Tx, act app.Actor, b store.Block) (view.Block, error) {
	k, err := a.OpenBlock(ctx, tx, act, b)
	if err != nil {
		return view.Block{}, err
	}
	if k.F.Phased, err = record.PhasedSince(ctx, tx, b.RunnerID, k.F); err != nil {
		return view.Block{}, err
	}
	return view.BlockOf(k.F)
}

// Blocks is the room of plans and blocks.
type Blocks struct{ *record.Book }
