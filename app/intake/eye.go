package intake

import (
	"context"
	"fmt"

	"notchback/app"
	"notchback/core/screening"
	"notchback/store"
)

// EyePairInput is one measurement taken twice, the second without seeing the
// first.
type EyePairInput struct {
	Test   screening.TestID `json:"test"`
	First  float64          `json:"first"`
	Second float64          `json:"second"`
}

// EyeState is how far a coach's own calibration of a test is.
type EyeState struct {
	Test    screening.TestID `json:"test"`
	Name    string           `json:"name"`
	Unit    string           `json:"unit"`
	Pairs   int              `json:"pairs"`
	Runners int              `json:"runners"`
	SEM     *float64         `json:"sem,omitempty" doc:"The coach's own, once there are enough pairs"`
	Known   float64          `json:"known" doc:"The published or house noise it replaces"`
}

// AddEyePair stores a coach's pair from a screening of a runner.
func (a *Intake) AddEyePair(ctx context.Context, act app.Actor, runner string, in EyePairInput) ([]EyeState, error) {
	t, ok := screening.Find(in.Test)
	if !ok || t.Noise == nil {
		return nil, app.Wrong("test", "this test has no noise to calibrate")
	}
	for field, v := range map[string]float64{"first": in.First, "second": in.Second} {
		if v < t.Min || v > t.Max {
			return nil, app.Wrong(field, fmt.Sprintf("%g %s can't be; expected %g to %g %s", v, t.Unit, t.Min, t.Max, t.Unit))
		}
	}
	var out []EyeState
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.AddEyePair(ctx, act.User.ID, store.EyePair{RunnerID: runner, Test: string(in.Test), First: in.First, Second: in.Second}); err != nil {
			return err
		}
		var err error
		out, err = eyeStates(ctx, tx, act)
		return err
	})
	return out, err
}

// Eye returns how far the coach's calibration is, test by test.
func (a *Intake) Eye(ctx context.Context, act app.Actor) ([]EyeState, error) {
	var out []EyeState
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = eyeStates(ctx, tx, act)
		return err
	})
	return out, err
}

func eyeStates(ctx context.Context, tx *store.Tx, act app.Actor) ([]EyeState, error) {
	pairs, err := tx.EyePairs(ctx, act.User.ID)
	if err != nil {
		return nil, err
	}
	out := []EyeState{}
	for _, t := range screening.Tests() {
		if t.Noise == nil {
			continue
		}
		st := EyeState{Test: t.ID, Name: t.Name, Unit: t.Unit, Known: t.Noise.SEM}
		var list []screening.Pair
		runners := map[string]bool{}
		for _, p := range pairs {
			if p.Test == string(t.ID) {
				list = append(list, screening.Pair{Runner: p.RunnerID, First: p.First, Second: p.Second})
				runners[p.RunnerID] = true
			}
		}
		st.Pairs, st.Runners = len(list), len(runners)
		if sem, ok := screening.CoachNoise(list); ok {
			st.SEM = &sem
		}
		out = append(out, st)
	}
	return out, nil
}
