package record

import (
	"context"
	"fmt"
	"slices"

	"notchback/app"
	"notchback/core/course"
	"notchback/core/words"
	"notchback/store"
)

// Answer keeps a coach's answer to a decision and what follows from it.
func (a *Book) Answer(ctx context.Context, act app.Actor, id string, version int, in store.Answer) (*Desk, error) {
	var out *Desk
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		d, err := tx.Decision(ctx, id)
		if err != nil {
			return err
		}
		current, err := tx.CurrentBlock(ctx, d.RunnerID)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, d.RunnerID); err != nil {
			return err
		}
		k, err := a.DecideBlock(ctx, tx, act, current.ID) // what the hours since decided comes first
		if err != nil {
			return err
		}
		i := slices.IndexFunc(k.Rows.Plan.Decisions, func(x store.Decision) bool { return x.ID == id })
		if i < 0 {
			return app.Refused(words.Refused(course.Barred{Why: course.RefusedGone}))
		}
		row := k.Rows.Plan.Decisions[i]
		if row.Version != version && row.State != string(course.Superseded) {
			return app.ErrConflict
		}
		dec, err := DecisionOf(row)
		if err != nil {
			return err
		}
		in.Key = dec.Key
		if why := k.Book.Refuses(course.Answer{Decision: in.Key, Kind: course.AnswerKind(in.Kind), Notch: in.Notch, Reason: in.Reason, By: act.User.ID}); why.Why != "" {
			if why.Why == course.RefusedRange {
				return app.Wrong("notch", fmt.Sprintf("expected 1 to %d: at most one notch up", min(k.F.Ladders[row.PrescriptionID].Len(), row.From+1)))
			}
			return app.Refused(words.Refused(why))
		}
		if err := tx.AddAnswer(ctx, d.RunnerID, current.ID, in, act.User.ID); err != nil {
			return err
		}
		if k.Rows.Plan.Answers, err = tx.Answers(ctx, current.ID); err != nil {
			return err
		}
		if err := k.Follow(); err != nil {
			return err
		}
		out = k
		return k.Decide(ctx, tx)
	})
	return out, err
}
