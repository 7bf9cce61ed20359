package app

import (
	"context"
	"errors"
	"fmt"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// TrialInput is one trial as typed. For the big toe a block height and toe
// length can stand in for the value; for crossing over a count of steps.
type TrialInput struct {
	screening.Trial
	BlockCm    *float64 `json:"blockCm,omitempty" doc:"Block height under the toe pad, cm"`
	LengthCm   *float64 `json:"lengthCm,omitempty" doc:"From the crease at the ball to the block's edge, cm"`
	AlongFloor bool     `json:"alongFloor,omitempty" doc:"The length was taken along the floor, not along the toe"`
}

// SavedTrial is a trial in its place. Slots 1 to 5 are the first look, 6 to 9
// the look after a routine in the same visit.
type SavedTrial struct {
	TrialInput
	Test screening.TestID `json:"test"`
	Side body.Side        `json:"side" enum:"left,right,both"`
	Slot int              `json:"slot"`
}

// afterFrom is the first slot of a re-test within the visit; lastSlot the last.
const (
	afterFrom = 6
	lastSlot  = 9
)

// Say is what a test's row says in words.
type Say struct {
	Left   string `json:"left"`
	Right  string `json:"right"`
	Centre string `json:"centre"`
}

// Against is a comparison with another look at the same test.
type Against struct {
	On    day.Date         `json:"on" format:"date"`
	Left  screening.Retest `json:"left"`
	Right screening.Retest `json:"right"`
	Say   Say              `json:"say"`
	Was   screening.Result `json:"was"`
}

// JudgedResult is a result with its sentences.
type JudgedResult struct {
	screening.Result
	Say      Say               `json:"say"`
	After    *screening.Result `json:"after,omitempty" doc:"The look after a routine in the same visit"`
	AfterSay *Say              `json:"afterSay,omitempty"`
	Since    *Against          `json:"since,omitempty" doc:"Against the visit before"`
}

// Judge reduces the trials of both sides of one test and says what they show.
func Judge(t screening.Test, left, right []screening.Trial, age screening.Age) JudgedResult {
	r := screening.Reduce(t, left, right, age)
	return JudgedResult{Result: r, Say: Say{words.Verdict(t, r.Left), words.Verdict(t, r.Right), words.Asymmetry(t, r)}}
}

func against(t screening.Test, on day.Date, was, now screening.Result) *Against {
	a := Against{On: on, Was: was, Left: screening.CompareDates(t, was.Left, now.Left), Right: screening.CompareDates(t, was.Right, now.Right)}
	a.Say = Say{Left: words.Retest(t, a.Left), Right: words.Retest(t, a.Right)}
	if a.Say.Left == "" && a.Say.Right == "" {
		return nil
	}
	return &a
}

func ageOn(p body.Person, on day.Date) screening.Age {
	years, known := p.AgeOn(on)
	return screening.Age{Years: years, Known: known}
}

// resolve turns a block entry into degrees, a count into per cent, and checks
// the trial.
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
	if tr.Count != nil && tr.Of != nil && *tr.Of > 0 {
		v := 100 * float64(*tr.Count) / float64(*tr.Of)
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

// PutTrial saves a trial in its slot and returns the screening. A finished
// screening asks for a reason; the earlier reading stays in the record.
func (a *App) PutTrial(ctx context.Context, act Actor, id string, test screening.TestID, side body.Side, slot int, in *TrialInput, reason string) (Screening, error) {
	t, rec, err := trialRecord(id, test, side, slot, in)
	if err != nil {
		return Screening{}, err
	}
	return a.changeScreening(ctx, act, id, reason, t.Name+", "+string(side), rec, func(tx *store.Tx, before Screening) error {
		if in != nil {
			if why := closedTest(t, before); why != "" {
				return Refused(why)
			}
		}
		if err := tx.DropOrigin(ctx, rec); err != nil {
			return err
		}
		return tx.PutTrial(ctx, rec, act.User.ID, reason)
	})
}

// PutTrials saves several trials of an open screening at once: all or none.
func (a *App) PutTrials(ctx context.Context, act Actor, id string, list []SavedTrial) (Screening, error) {
	return a.changeScreening(ctx, act, id, "", "", nil, func(tx *store.Tx, before Screening) error {
		for _, in := range list {
			t, rec, err := trialRecord(id, in.Test, in.Side, in.Slot, &in.TrialInput)
			if err != nil {
				return err
			}
			if why := closedTest(t, before); why != "" {
				return Refused(why)
			}
			if err := tx.PutTrial(ctx, rec, act.User.ID, ""); err != nil {
				return err
			}
		}
		return nil
	})
}

func trialRecord(id string, test screening.TestID, side body.Side, slot int, in *TrialInput) (screening.Test, store.Trial, error) {
	rec := store.Trial{ScreeningID: id, Test: string(test), Side: string(side), Slot: slot, Removed: in == nil, Compensations: []string{}}
	t, ok := screening.Find(test)
	if !ok {
		return t, rec, ErrNotFound
	}
	if slot < 1 || slot > lastSlot {
		return t, rec, Invalid{{"slot", "a test has trials 1 to 5, and 6 to 9 after a routine"}}
	}
	if t.Sided == (side == body.Both) {
		return t, rec, Invalid{{"side", "this test is taken " + map[bool]string{true: "left and right", false: "once, as both"}[t.Sided]}}
	}
	if in == nil {
		return t, rec, nil
	}
	tr, err := in.resolve(t)
	if err != nil {
		return t, rec, err
	}
	rec.Value, rec.Pain, rec.SharpPain, rec.Count, rec.Of, rec.Resolution, rec.CrampAt = tr.Value, tr.Pain, tr.SharpPain, tr.Count, tr.Of, tr.Resolution, tr.CrampAt
	rec.BlockCm, rec.LengthCm, rec.AlongFloor = in.BlockCm, in.LengthCm, in.AlongFloor
	if tr.Compensations != nil {
		rec.Compensations = tr.Compensations
	}
	return t, rec, nil
}

// closedTest says why a test is not done now: a flag, or its gate.
func closedTest(t screening.Test, s Screening) string {
	for _, f := range s.Flags {
		if !f.Cleared && f.ClosesTest(t.ID) {
			return fmt.Sprintf("flag %s closes this test: %s", f.Flag, f.Text)
		}
	}
	if g, ok := safety.Find(s.Gates, t.Gate); t.Gate != "" && ok && !g.Open {
		return "the gate " + g.Name + " is closed; this test waits"
	}
	return ""
}
