package ramp

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/store"
)

// PutCadence begins, changes or ends a change of cadence.
func (a *Ramps) PutCadence(ctx context.Context, act app.Actor, runner string, rev int, in input.CadenceRampInput) (view.RampView, error) {
	if err := input.CheckTerms("terms.", in.Terms.Check()); err != nil && !in.Ended {
		return view.RampView{}, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		p, err := a.OpenPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Change of cadence ended"
		if !in.Ended {
			if g, _ := safety.Find(p.Gates, safety.CadenceChange); !g.Open && p.Cadence == nil {
				return app.Refused("the gate cadence change is closed: " + strings.Join(g.Missing, "; "))
			}
			if len(in.Terms.Beats()) == 0 {
				return app.Refused("the target is where the runner is: there is nothing to change")
			}
			text = fmt.Sprintf("Change of cadence: %.0f to %d", in.Terms.Baseline, in.Terms.Target())
		} else if p.Cadence == nil {
			return app.Refused("there is no change of cadence to end")
		}
		raw, err := json.Marshal(in)
		if err != nil {
			return err
		}
		if err := tx.PutRamp(ctx, runner, "cadence", rev, raw, act.User.ID); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.Now(), &act.User.ID, "ramp", text, in)
	})
	if err != nil {
		return view.RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// RecountInput is a count without a beat.
type RecountInput struct {
	On            day.Date `json:"on" format:"date"`
	Counts        []int    `json:"counts" minItems:"1" maxItems:"20" nullable:"false" doc:"Steps of both feet in each window"`
	WindowSeconds float64  `json:"windowSeconds" minimum:"5" maximum:"120"`
}

// recent is the error of a day in the future, or longer ago than is looked at.
func recent(on, today day.Date) error {
	switch {
	case on > today:
		return app.Wrong("on", fmt.Sprintf("%s is in the future", on))
	case on < today-input.RunsBack:
		return app.Wrong("on", fmt.Sprintf("%s is too long ago", on))
	}
	return nil
}

// AddRecount stores a count without a beat.
func (a *Ramps) AddRecount(ctx context.Context, act app.Actor, key, runner string, in RecountInput) (view.RampView, error) {
	c, err := measure.CadenceFromCounts(in.Counts, in.WindowSeconds)
	if err != nil {
		return view.RampView{}, app.Wrong("counts", err.Error())
	}
	if err := recent(in.On, a.Today(act)); err != nil {
		return view.RampView{}, err
	}
	if c.OneFoot {
		return view.RampView{}, app.Wrong("counts", "under 120 a minute: probably one foot only; count both")
	}
	r := transition.Recount{On: in.On, Mean: c.MeanSpm, Margin: &c.MarginSpm}
	text := fmt.Sprintf("Counted without a beat: %.1f", r.Mean)
	return a.addRampEvent(ctx, act, key, runner, "recount", in.On, r, text)
}

// AddCueLook stores that a cue was begun, or what its re-look showed.
func (a *Ramps) AddCueLook(ctx context.Context, act app.Actor, key, runner string, in transition.CueLook) (view.RampView, error) {
	if !input.KnownCue(in.Cue) {
		return view.RampView{}, app.Wrong("cue", fmt.Sprintf("%q is not a cue", in.Cue))
	}
	if err := recent(in.On, a.Today(act)); err != nil {
		return view.RampView{}, err
	}
	text := "Cue begun: " + in.Cue
	if !in.Begin {
		text = "Cue looked at again: " + in.Cue + ", not yet"
		if in.Took {
			text = "Cue looked at again: " + in.Cue + ", it took"
		}
	}
	return a.addRampEvent(ctx, act, key, runner, "cue", in.On, in, text)
}

func (a *Ramps) addRampEvent(ctx context.Context, act app.Actor, key, runner, kind string, on day.Date, body any, text string) (view.RampView, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		_, err := app.Once(ctx, a.App, tx, act, app.Asked{Operation: "addRampEvent", Address: runner, Key: key}, struct {
			Runner, Kind string
			Body         any
		}{runner, kind, body}, func() (bool, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return false, err
			}
			raw, err := json.Marshal(body)
			if err != nil {
				return false, err
			}
			if err := tx.AddRampEvent(ctx, runner, store.RampEvent{Kind: kind, On: on.Time(), Body: raw}, act.User.ID); err != nil {
				return false, err
			}
			return true, tx.Note(ctx, runner, a.Now(), &act.User.ID, "ramp", text, body)
		})
		return err
	})
	if err != nil {
		return view.RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}
