package block

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/store"
)

// BlockInput asks for a block from a finished screening.
type BlockInput struct {
	ScreeningID string           `json:"screeningId" format:"uuid"`
	StartOn     *day.Date        `json:"startOn,omitempty" format:"date" doc:"Today when missing"`
	Wishes      *planning.Wishes `json:"wishes,omitempty" doc:"Saved with the block; the saved ones when missing"`
}

// mostAhead is how far ahead a block may start, in days.
const mostAhead = 28

func (a *Blocks) startDate(act app.Actor, on *day.Date) (day.Date, error) {
	today := a.Today(act)
	if on == nil {
		return today, nil
	}
	if *on < today || *on > today+mostAhead {
		return 0, app.Wrong("startOn", "expected a day from today to four weeks ahead")
	}
	return *on, nil
}

// PlanBlock makes a block from a finished screening. The runner's present block
// ends; ladders that go on keep their notch.
func (a *Blocks) PlanBlock(ctx context.Context, act app.Actor, key, runner string, in BlockInput) (view.Block, error) {
	start, err := a.startDate(act, in.StartOn)
	if err != nil {
		return view.Block{}, err
	}
	var out view.Block
	err = a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "planBlock", Address: runner, Key: key}, in, func() (view.Block, error) {
			s, err := a.openStudio(ctx, tx, act, runner)
			if err != nil {
				return view.Block{}, err
			}
			if in.Wishes != nil {
				w := *in.Wishes
				w.Assumed = false
				if err := record.CheckWishes(w, s.layers); err != nil {
					return view.Block{}, err
				}
				if err := a.saveWishes(ctx, tx, act, runner, s.rev, w); err != nil {
					return view.Block{}, err
				}
				s.saved = w
			}
			return a.makeBlock(ctx, tx, act, s, in.ScreeningID, start, s.saved)
		})
		return err
	})
	return out, err
}

func (a *Blocks) makeBlock(ctx context.Context, tx *store.Tx, act app.Actor, s *studio, screeningID string, start day.Date, w planning.Wishes) (view.Block, error) {
	if err := s.from(screeningID); err != nil {
		return view.Block{}, err
	}
	if err := s.mayPlan(start); err != nil {
		return view.Block{}, err
	}
	p := s.plan(start, w)
	if len(p.Choices) == 0 {
		return view.Block{}, app.Refused("nothing can be planned now: everything that would help is closed; the reasons stand beside each ladder")
	}
	if !p.Fits {
		return view.Block{}, app.Refused("this plan does not fit the runner's week; take one of the ways out, or the five-minute plan")
	}
	runner := s.dossier.Runner.ID
	if err := tx.EndBlocks(ctx, runner, a.Now()); err != nil {
		return view.Block{}, err
	}
	raw, err := json.Marshal(p)
	if err != nil {
		return view.Block{}, err
	}
	b, err := tx.AddBlock(ctx, store.Block{RunnerID: runner, ScreeningID: s.dossier.Visits[s.visit].ID, StartOn: start.Time(), Weeks: p.Wishes.Weeks, CatalogueVersion: catalogue.Version, Plan: raw}, act.User.ID)
	if err != nil {
		return view.Block{}, err
	}
	for i, ch := range p.Choices {
		l, _ := s.layers.Ladder(ch.Ladder)
		if err := a.prescribe(ctx, tx, b, i, ch, l); err != nil {
			return view.Block{}, err
		}
	}
	if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "block", "Block of "+app.Plural(p.Wishes.Weeks, "week", "weeks")+" from "+start.Words()+" with "+app.Plural(len(p.Choices), "ladder", "ladders"), nil); err != nil {
		return view.Block{}, err
	}
	// The engine takes the block over as it stands: what is known is no news to it.
	k, err := a.DecideBlock(ctx, tx, act, b.ID)
	if err != nil {
		return view.Block{}, err
	}
	return view.BlockOf(k.F)
}

func (a *Blocks) prescribe(ctx context.Context, tx *store.Tx, b store.Block, position int, ch planning.Choice, l catalogue.Ladder) error {
	reasons, err := json.Marshal(ch.Start.Reasons)
	if err != nil {
		return err
	}
	data, err := json.Marshal(l)
	if err != nil {
		return err
	}
	_, err = tx.AddPrescription(ctx, store.Prescription{BlockID: b.ID, RunnerID: b.RunnerID, Position: position, Ladder: l.ID, StartNotch: ch.Start.Notch,
		ExtraSetSide: string(ch.Start.ExtraSetSide), StartReasons: reasons, LadderData: data, FromWeek: ch.FromWeek})
	return err
}

// CopyInput asks for a block like another runner's.
type CopyInput struct {
	RunnerID string `json:"runnerId" format:"uuid" doc:"Who gets it"`
	Preview  bool   `json:"preview,omitempty"`
}

// Copied is a block re-fitted to another runner.
type Copied struct {
	Plan  PlanView    `json:"plan"`
	Notes []string    `json:"notes" nullable:"false" doc:"What was changed for this runner, and why"`
	Block *view.Block `json:"block,omitempty" doc:"Set when it was made"`
}

// CopyBlock makes a block with the ladders of another runner's, re-fitted: the
// notches, gates, complaints, kit and week are this runner's own.
func (a *Blocks) CopyBlock(ctx context.Context, act app.Actor, key, block string, in CopyInput) (Copied, error) {
	out := Copied{Notes: []string{}}
	run := func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		ps, err := tx.Prescriptions(ctx, b.ID)
		if err != nil {
			return err
		}
		s, err := a.openStudio(ctx, tx, act, in.RunnerID)
		if err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, a.Now(), store.Access{Runner: &in.RunnerID, User: &act.User.ID, Action: "copyBlock"}, in.Preview); err != nil {
			return err
		}
		if err := s.from(""); err != nil {
			return err
		}
		start := a.Today(act)
		w := s.saved
		w.Added = nil
		w.Weeks = b.Weeks
		for _, p := range ps {
			if _, ok := s.cat.Ladder(p.Ladder); ok {
				w.Added = append(w.Added, p.Ladder)
			} else {
				out.Notes = append(out.Notes, s.name(p.Ladder)+" is no longer on the shelf")
			}
		}
		plan := s.plan(start, w)
		out.Plan = s.view(plan, w)
		for _, p := range ps {
			switch ch, ok := plan.ByLadder[p.Ladder]; {
			case !ok:
				i := slices.IndexFunc(plan.Left, func(l planning.Left) bool { return l.Ladder == p.Ladder })
				if i >= 0 {
					out.Notes = append(out.Notes, plan.Left[i].Name+" is left out: "+plan.Left[i].Why)
				}
			case ch.Start.Notch != p.StartNotch:
				out.Notes = append(out.Notes, fmt.Sprintf("%s starts at notch %d here, not %d", ch.Name, ch.Start.Notch, p.StartNotch))
			}
		}
		if in.Preview {
			return nil
		}
		made, err := a.makeBlock(ctx, tx, act, s, "", start, w)
		if err != nil {
			return err
		}
		out.Block = &made
		return nil
	}
	if in.Preview {
		return out, a.Store.In(ctx, act.Practice, run)
	}
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "copyBlock", Address: block, Key: key}, in, func() (Copied, error) { return out, run(tx) })
		return err
	})
	return out, err
}
