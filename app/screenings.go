package app

import (
	"context"
	"errors"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// ScreeningInput opens a screening.
type ScreeningInput struct {
	On       *day.Date `json:"on,omitempty" format:"date" doc:"Today when missing"`
	Footwear string    `json:"footwear,omitempty" maxLength:"120"`
	Note     string    `json:"note,omitempty" maxLength:"2000"`
}

// TrialInput is one trial as typed. For the big toe a block height and toe
// length can stand in for the value.
type TrialInput struct {
	screening.Trial
	BlockCm    *float64 `json:"blockCm,omitempty" doc:"Block height under the toe pad, cm"`
	LengthCm   *float64 `json:"lengthCm,omitempty" doc:"From the crease at the ball to the block's edge, cm"`
	AlongFloor bool     `json:"alongFloor,omitempty" doc:"The length was taken along the floor, not along the toe"`
}

// SavedTrial is a trial in its place.
type SavedTrial struct {
	TrialInput
	Test screening.TestID `json:"test"`
	Side body.Side        `json:"side" enum:"left,right"`
	Slot int              `json:"slot"`
}

// Say is what a test's row says in words.
type Say struct {
	Left   string `json:"left"`
	Right  string `json:"right"`
	Centre string `json:"centre"`
}

// JudgedResult is a result with its sentences.
type JudgedResult struct {
	screening.Result
	Say Say `json:"say"`
}

// Judge reduces the trials of both sides of one test and says what they show.
func Judge(t screening.Test, left, right []screening.Trial, age screening.Age) JudgedResult {
	r := screening.Reduce(t, left, right, age)
	return JudgedResult{r, Say{words.Verdict(t, r.Left), words.Verdict(t, r.Right), words.Asymmetry(t, r)}}
}

// Screening is one visit with everything measured so far.
type Screening struct {
	ID         string              `json:"id"`
	RunnerID   string              `json:"runnerId"`
	RunnerName string              `json:"runnerName"`
	RunnerAge  *int                `json:"runnerAge,omitempty"`
	On         day.Date            `json:"on" format:"date"`
	Footwear   string              `json:"footwear"`
	Note       string              `json:"note"`
	Finished   bool                `json:"finished"`
	Trials     []SavedTrial        `json:"trials" nullable:"false"`
	Results    []JudgedResult      `json:"results" nullable:"false" doc:"One for each test, in their order"`
	Findings   []screening.Finding `json:"findings" nullable:"false"`
}

func ageOn(p body.Person, on day.Date) screening.Age {
	years, known := p.AgeOn(on)
	return screening.Age{Years: years, Known: known}
}

// resolve turns a block entry into degrees and checks the trial.
func (in TrialInput) resolve(t screening.Test) (screening.Trial, error) {
	tr := in.Trial
	if in.BlockCm != nil || in.LengthCm != nil {
		if !t.Block {
			return tr, Invalid{{"blockCm", "this test takes no block"}}
		}
		if in.BlockCm == nil || in.LengthCm == nil {
			return tr, Invalid{{"blockCm", "block height and toe length are needed together"}}
		}
		v, err := measure.ToeFromBlock(*in.BlockCm, *in.LengthCm, in.AlongFloor)
		if err != nil {
			return tr, Invalid{{"blockCm", err.Error()}}
		}
		tr.Value = &v
	}
	var fe *screening.FieldError
	if err := t.Check(tr); errors.As(err, &fe) {
		return tr, Invalid{{fe.Field, fe.Message}}
	}
	return tr, nil
}

// ResolveTrial checks a trial against its test and returns it with its value.
func ResolveTrial(t screening.Test, in TrialInput) (screening.Trial, error) { return in.resolve(t) }

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
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, tx, key, in, func() (Screening, error) {
			r, err := tx.Runner(ctx, runner)
			if err != nil {
				return Screening{}, err
			}
			s, err := tx.AddScreening(ctx, store.Screening{RunnerID: runner, On: on.Time(), Footwear: in.Footwear, Note: in.Note}, act.User.ID)
			if err != nil {
				return Screening{}, err
			}
			if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "screening", "Screening started", nil); err != nil {
				return Screening{}, err
			}
			return screeningView(s, r, nil), nil
		})
		return err
	})
	return out, err
}

func screeningView(s store.Screening, r store.Runner, trials []store.Trial) Screening {
	out := Screening{
		ID: s.ID, RunnerID: s.RunnerID, RunnerName: r.Name, On: dateOf(s.On), Footwear: s.Footwear, Note: s.Note,
		Finished: s.FinishedAt != nil, Trials: []SavedTrial{},
	}
	age := ageOn(personOf(r), out.On)
	if age.Known {
		out.RunnerAge = &age.Years
	}
	sides := map[screening.TestID]map[body.Side][]screening.Trial{}
	for _, t := range trials {
		st := SavedTrial{Test: screening.TestID(t.Test), Side: body.Side(t.Side), Slot: t.Slot, TrialInput: TrialInput{
			Trial:   screening.Trial{Value: t.Value, Pain: t.Pain, SharpPain: t.SharpPain, Compensations: t.Compensations},
			BlockCm: t.BlockCm, LengthCm: t.LengthCm, AlongFloor: t.AlongFloor,
		}}
		out.Trials = append(out.Trials, st)
		if sides[st.Test] == nil {
			sides[st.Test] = map[body.Side][]screening.Trial{}
		}
		sides[st.Test][st.Side] = append(sides[st.Test][st.Side], st.Trial)
	}
	plain := []screening.Result{}
	for _, t := range screening.Tests() {
		j := Judge(t, sides[t.ID][body.Left], sides[t.ID][body.Right], age)
		out.Results = append(out.Results, j)
		plain = append(plain, j.Result)
	}
	out.Findings = screening.Findings(plain)
	return out
}

func (a *App) loadScreening(ctx context.Context, tx *store.Tx, id string) (Screening, error) {
	s, err := tx.Screening(ctx, id)
	if err != nil {
		return Screening{}, err
	}
	r, err := tx.Runner(ctx, s.RunnerID)
	if err != nil {
		return Screening{}, err
	}
	trials, err := tx.Trials(ctx, id)
	if err != nil {
		return Screening{}, err
	}
	return screeningView(s, r, trials), nil
}

// Screening returns one screening with its results and findings.
func (a *App) Screening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = a.loadScreening(ctx, tx, id)
		return err
	})
	return out, err
}

// Screenings lists a runner's screenings, newest first, each with its results.
func (a *App) Screenings(ctx context.Context, act Actor, runner string) ([]Screening, error) {
	out := []Screening{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		list, err := tx.Screenings(ctx, runner)
		if err != nil {
			return err
		}
		ids := make([]string, len(list))
		for i, s := range list {
			ids[i] = s.ID
		}
		trials, err := tx.Trials(ctx, ids...)
		if err != nil {
			return err
		}
		of := map[string][]store.Trial{}
		for _, t := range trials {
			of[t.ScreeningID] = append(of[t.ScreeningID], t)
		}
		for _, s := range list {
			out = append(out, screeningView(s, r, of[s.ID]))
		}
		return nil
	})
	return out, err
}

// PutTrial saves a trial in its slot and returns the screening. A finished
// screening asks for a reason; the earlier reading stays in the record.
func (a *App) PutTrial(ctx context.Context, act Actor, id string, test screening.TestID, side body.Side, slot int, in *TrialInput, reason string) (Screening, error) {
	t, ok := screening.Find(test)
	if !ok {
		return Screening{}, ErrNotFound
	}
	if slot < 1 || slot > screening.MaxTrials {
		return Screening{}, Invalid{{"slot", "a test has trials 1 to 5"}}
	}
	rec := store.Trial{ScreeningID: id, Test: string(test), Side: string(side), Slot: slot, Removed: in == nil, Compensations: []string{}}
	if in != nil {
		tr, err := in.resolve(t)
		if err != nil {
			return Screening{}, err
		}
		rec.Value, rec.Pain, rec.SharpPain = tr.Value, tr.Pain, tr.SharpPain
		rec.BlockCm, rec.LengthCm, rec.AlongFloor = in.BlockCm, in.LengthCm, in.AlongFloor
		if tr.Compensations != nil {
			rec.Compensations = tr.Compensations
		}
	}
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := tx.Screening(ctx, id)
		if err != nil {
			return err
		}
		if s.FinishedAt != nil && reason == "" {
			return Invalid{{"reason", "this screening is finished; say why the reading is corrected"}}
		}
		if err := tx.PutTrial(ctx, rec, act.User.ID, reason); err != nil {
			return err
		}
		if s.FinishedAt != nil {
			if err := tx.Note(ctx, s.RunnerID, a.now(), &act.User.ID, "correction", t.Name+", "+string(side)+", corrected: "+reason, rec); err != nil {
				return err
			}
		}
		out, err = a.loadScreening(ctx, tx, id)
		return err
	})
	return out, err
}

// FinishScreening closes a screening and writes its findings to the journal.
func (a *App) FinishScreening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := a.loadScreening(ctx, tx, id)
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
		if out, err = a.loadScreening(ctx, tx, id); err != nil {
			return err
		}
		return tx.Note(ctx, out.RunnerID, a.now(), &act.User.ID, "screening",
			"Screening finished, "+plural(len(out.Findings), "finding", "findings"), map[string]any{"findings": out.Findings})
	})
	return out, err
}
