package app

import (
	"context"

	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/store"
)

// ScreeningInput opens a screening.
type ScreeningInput struct {
	On       *day.Date `json:"on,omitempty" format:"date" doc:"Today when missing"`
	Footwear string    `json:"footwear,omitempty" maxLength:"120"`
	Note     string    `json:"note,omitempty" maxLength:"2000"`
}

// Screening is one visit with everything measured so far.
type Screening struct {
	ID         string              `json:"id"`
	RunnerID   string              `json:"runnerId"`
	RunnerName string              `json:"runnerName"`
	RunnerAge  *int                `json:"runnerAge,omitempty"`
	Minor      bool                `json:"minor" doc:"Under 18, or age not known"`
	On         day.Date            `json:"on" format:"date"`
	Footwear   string              `json:"footwear"`
	Note       string              `json:"note"`
	Finished   bool                `json:"finished"`
	Imported   bool                `json:"imported,omitempty" doc:"Taken elsewhere, and brought in"`
	Trials     []SavedTrial        `json:"trials" nullable:"false"`
	Results    []JudgedResult      `json:"results" nullable:"false" doc:"One for each test, in their order"`
	Findings   []screening.Finding `json:"findings" nullable:"false"`
	Talk       Talk                `json:"talk"`
	Conditions Conditions          `json:"conditions"`
	Choices    []screening.Choice  `json:"choices" nullable:"false"`
	Waivers    []safety.Waiver     `json:"waivers" nullable:"false"`
	Revisions  map[string]int      `json:"revisions" doc:"Of each part; sent back when saving it"`
	Questions  []safety.Group      `json:"questions" nullable:"false" doc:"The safety questions for this runner's age"`
	Unasked    []string            `json:"unasked" nullable:"false" doc:"Groups of safety questions without an answer"`
	Flags      []FlagView          `json:"flags" nullable:"false" doc:"All flags of the runner; cleared says whether a clearance runs"`
	Clearances []ClearanceView     `json:"clearances" nullable:"false"`
	Gates      []safety.GateState  `json:"gates" nullable:"false"`
	Reach      []screening.Reach   `json:"reach" nullable:"false" doc:"Composite of the four-way reach, where leg lengths are known"`
	OwnNoise   []string            `json:"ownNoise" nullable:"false" doc:"Tests judged with the coach's own noise"`
	CantWaive  map[string]string   `json:"cantWaive" doc:"Gates that can't be waived, and why"`
	Cautions   []string            `json:"cautions" nullable:"false"`
}

// visitsBack is how far back a screening may lie, in days: twenty years (house).
const visitsBack = 20 * 366

// StartScreening opens a screening for a runner.
func (a *App) StartScreening(ctx context.Context, act Actor, key, runner string, in ScreeningInput) (Screening, error) {
	today := a.Today(act)
	on := today
	if in.On != nil {
		on = *in.On
	}
	if on > today {
		return Screening{}, Invalid{{"on", on.String() + " is in the future"}}
	}
	if on < today-visitsBack {
		return Screening{}, Invalid{{"on", on.String() + " is too long ago"}}
	}
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"startScreening", runner, key}, in, func() (Screening, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return Screening{}, err
			}
			s, err := tx.AddScreening(ctx, store.Screening{RunnerID: runner, On: on.Time(), Footwear: in.Footwear, Note: in.Note}, act.User.ID)
			if err != nil {
				return Screening{}, err
			}
			if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "screening", "Screening started", nil); err != nil {
				return Screening{}, err
			}
			return a.loadScreening(ctx, tx, act, s.ID)
		})
		return err
	})
	return out, err
}

// Screening returns one screening with its results and findings.
func (a *App) Screening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// Screenings lists a runner's screenings, newest first, each with its results.
func (a *App) Screenings(ctx context.Context, act Actor, runner string) ([]Screening, error) {
	out := []Screening{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		d, err := a.loadDossier(ctx, tx, act, runner)
		if err == nil && d.visits != nil {
			out = d.visits
		}
		return err
	})
	return out, err
}

// changeScreening runs a change of a screening; a finished one asks for a reason.
func (a *App) changeScreening(ctx context.Context, act Actor, id, reason, what string, detail any, fn func(*store.Tx, Screening) error) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, before.RunnerID); err != nil {
			return err
		}
		if before.Finished && reason == "" {
			return Invalid{{"reason", "this screening is finished; say why it is corrected"}}
		}
		if err := fn(tx, before); err != nil {
			return err
		}
		if before.Finished {
			if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "correction", what+", corrected: "+reason, detail); err != nil {
				return err
			}
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// FinishScreening closes a screening and writes its findings to the journal.
func (a *App) FinishScreening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := a.loadScreening(ctx, tx, act, id)
		if err != nil || before.Finished {
			out = before
			return err
		}
		if len(before.Trials) == 0 {
			return Refused("nothing is measured yet; take at least one trial")
		}
		if err := tx.FinishScreening(ctx, id, a.now()); err != nil {
			return err
		}
		if out, err = a.loadScreening(ctx, tx, act, id); err != nil {
			return err
		}
		if err := tx.Note(ctx, out.RunnerID, a.now(), &act.User.ID, "screening",
			"Screening finished, "+plural(len(out.Findings), "finding", "findings"), map[string]any{"findings": out.Findings}); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, out.RunnerID)
	})
	return out, err
}
