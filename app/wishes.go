package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

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
	Ladders   []Named             `json:"ladders" nullable:"false" doc:"What a coach can add"`
}

// Named is an id with its name.
type Named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// checkWishes says what is wrong with wishes.
func (a *App) checkWishes(w planning.Wishes, cat layered) error {
	var bad Invalid
	for i, r := range w.Runs {
		if !slices.Contains([]planning.RunKind{planning.NoRun, planning.Easy, planning.Long, planning.Fast}, r) {
			bad.add(fmt.Sprintf("wishes.runs[%d]", i), "%q is not a kind of run; expected easy, long, fast or nothing", r)
		}
		if m := w.Minutes[i]; m < 0 || m > 240 {
			bad.add(fmt.Sprintf("wishes.minutes[%d]", i), "%d minutes can't be; expected 0 to 240", m)
		}
	}
	if w.Weeks < planning.MinWeeks || w.Weeks > planning.MaxWeeks {
		bad.add("wishes.weeks", "%d can't be; a block has %d to %d weeks", w.Weeks, planning.MinWeeks, planning.MaxWeeks)
	}
	if w.Sessions < 1 || w.Sessions > 5 {
		bad.add("wishes.sessions", "%d can't be; expected 1 to 5 main sessions a week", w.Sessions)
	}
	if h := w.RunHour; h != nil && (*h < 0 || *h > 23) {
		bad.add("wishes.runHour", "%d can't be; expected 0 to 23", *h)
	}
	for i, k := range w.Owned {
		if _, ok := cat.KitNamed(k); !ok {
			bad.add(fmt.Sprintf("wishes.owned[%d]", i), "%q is not on the list of kit", k)
		}
	}
	for i, id := range w.Added {
		if _, ok := cat.Ladder(id); !ok {
			bad.add(fmt.Sprintf("wishes.added[%d]", i), "%q is not a ladder", id)
		}
	}
	for i, x := range w.Excluded {
		if _, ok := cat.Ladder(x.Ladder); !ok {
			bad.add(fmt.Sprintf("wishes.excluded[%d].ladder", i), "%q is not a ladder", x.Ladder)
		}
		if strings.TrimSpace(x.Reason) == "" {
			bad.add(fmt.Sprintf("wishes.excluded[%d].reason", i), "say why it is left out")
		}
	}
	if r := w.Race; r != nil && (r.Km < 0 || r.Km > 400) {
		bad.add("wishes.race.km", "%g km can't be; expected 0 to 400", r.Km)
	}
	if err := w.School.Check(); err != nil {
		bad.add("wishes.school", "%s", err)
	}
	return bad.or()
}

// Wishes returns what a runner's plans are made with.
func (a *App) Wishes(ctx context.Context, act Actor, runner string) (WishesView, error) {
	var out WishesView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		s, err := a.openStudio(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = WishesView{Wishes: s.saved, Rev: s.rev, Practice: s.practice, Questions: planning.Questions(), Kit: s.cat.Kit, Ladders: []Named{}}
		for _, l := range s.cat.Ladders {
			out.Ladders = append(out.Ladders, Named{l.ID, l.Name})
		}
		return nil
	})
	return out, err
}

// PutWishes stores a runner's wishes at the revision that was read.
func (a *App) PutWishes(ctx context.Context, act Actor, runner string, rev int, w planning.Wishes) (WishesView, error) {
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		l, err := a.catalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		w.Assumed = false
		if err := a.checkWishes(w, l); err != nil {
			return err
		}
		return a.saveWishes(ctx, tx, act, runner, rev, w)
	})
	if err != nil {
		return WishesView{}, err
	}
	return a.Wishes(ctx, act, runner)
}

func (a *App) saveWishes(ctx context.Context, tx *store.Tx, act Actor, runner string, rev int, w planning.Wishes) error {
	raw, err := json.Marshal(w)
	if err != nil {
		return err
	}
	if err := tx.PutWishes(ctx, runner, rev, raw, act.User.ID); err != nil {
		return err
	}
	return tx.Note(ctx, runner, a.now(), &act.User.ID, "wishes", "The week, kit and schools for planning changed", w)
}
