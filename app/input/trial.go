package input

import (
	"errors"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/screening"
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

// resolve turns a block entry into degrees, a count into per cent, and checks
// the trial.
func (in TrialInput) resolve(t screening.Test) (screening.Trial, error) {
	tr := in.Trial
	if in.BlockCm != nil || in.LengthCm != nil {
		if !t.Block {
			return tr, app.Wrong("blockCm", "this test takes no block")
		}
		if in.BlockCm == nil || in.LengthCm == nil {
			return tr, app.Wrong("blockCm", "block height and toe length are needed together")
		}
		v, err := measure.ToeFromBlock(*in.BlockCm, *in.LengthCm, in.AlongFloor)
		if err != nil {
			return tr, app.Wrong("blockCm", err.Error())
		}
		tr.Value = &v
	}
	if tr.Count != nil && tr.Of != nil && *tr.Of > 0 {
		v := 100 * float64(*tr.Count) / float64(*tr.Of)
		tr.Value = &v
	}
	var fe *screening.FieldError
	if err := t.Check(tr); errors.As(err, &fe) {
		return tr, app.Wrong(fe.Field, fe.Message)
	}
	return tr, nil
}

// ResolveTrial checks a trial against its test and returns it with its value.
func ResolveTrial(t screening.Test, in TrialInput) (screening.Trial, error) { return in.resolve(t) }

func TrialRecord(id string, test screening.TestID, side body.Side, slot int, in *TrialInput) (screening.Test, store.Trial, error) {
	rec := store.Trial{ScreeningID: id, Test: string(test), Side: string(side), Slot: slot, Removed: in == nil, Compensations: []string{}}
	t, ok := screening.Find(test)
	if !ok {
		return t, rec, app.ErrNotFound
	}
	if slot < 1 || slot > LastSlot {
		return t, rec, app.Wrong("slot", "a test has trials 1 to 5, and 6 to 9 after a routine")
	}
	if t.Sided == (side == body.Both) {
		return t, rec, app.Wrong("side", "this test is taken "+map[bool]string{true: "left and right", false: "once, as both"}[t.Sided])
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
