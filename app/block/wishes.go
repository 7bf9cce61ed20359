package block

import (
	"context"
	"encoding/json"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/store"
)

// WishesView are a runner's wishes with what they are chosen from.
type WishesView struct {
	Wishes    planning.Wishes     `json:"wishes"`
	Rev       int                 `json:"rev" doc:"Sent back when saving, 0 when none were saved"`
	Practice  planning.School     `json:"practice" doc:"The practice's answers; the runner's own lie over them"`
	Questions []planning.Question `json:"questions" nullable:"false"`
	Kit       []catalogue.Kit     `json:"kit" nullable:"false"`
	Ladders   []view.Named        `json:"ladders" nullable:"false" doc:"What a coach can add"`
}

// Wishes returns what a runner's plans are made with.
func (a *Blocks) Wishes(ctx context.Context, act app.Actor, runner string) (WishesView, error) {
	var out WishesView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		s, err := a.openStudio(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = WishesView{Wishes: s.saved, Rev: s.rev, Practice: s.practice, Questions: planning.Questions(), Kit: s.cat.Kit, Ladders: []view.Named{}}
		for _, l := range s.cat.Ladders {
			out.Ladders = append(out.Ladders, view.Named{ID: l.ID, Name: l.Name})
		}
		return nil
	})
	return out, err
}

// PutWishes stores a runner's wishes at the revision that was read.
func (a *Blocks) PutWishes(ctx context.Context, act app.Actor, runner string, rev int, w planning.Wishes) (WishesView, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		l, err := a.CatalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		w.Assumed = false
		if err := record.CheckWishes(w, l); err != nil {
			return err
		}
		return a.saveWishes(ctx, tx, act, runner, rev, w)
	})
	if err != nil {
		return WishesView{}, err
	}
	return a.Wishes(ctx, act, runner)
}

func (a *Blocks) saveWishes(ctx context.Context, tx *store.Tx, act app.Actor, runner string, rev int, w planning.Wishes) error {
	raw, err := json.Marshal(w)
	if err != nil {
		return err
	}
	if err := tx.PutWishes(ctx, runner, rev, raw, act.User.ID); err != nil {
		return err
	}
	return tx.Note(ctx, runner, a.Now(), &act.User.ID, "wishes", "The week, kit and schools for planning changed", w)
}
