package ramp

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/store"
)

// Ramp returns a runner's ramps as they stand.
func (a *Ramps) Ramp(ctx context.Context, act app.Actor, runner string) (view.RampView, error) {
	var out view.RampView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.OpenPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = view.RampOf(p)
		return nil
	})
	return out, err
}

// PutRamp begins a runner's ramp, changes its terms from this week on, or ends
// it. There is one ramp; whoever read an older revision is refused.
func (a *Ramps) PutRamp(ctx context.Context, act app.Actor, runner string, rev int, in input.RampInput) (view.RampView, error) {
	if err := input.CheckTerms("terms.", in.Terms.Check()); err != nil && !in.Ended {
		return view.RampView{}, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		p, err := a.OpenPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Barefoot ramp ended"
		if !in.Ended {
			if !slices.ContainsFunc(p.D.Visits, func(v record.Screening) bool { return v.Finished }) {
				return app.Refused("screen the runner first: the gates stand on it")
			}
			if age := record.AgeOn(record.PersonOf(p.D.Runner), p.Today); age.Known && age.Years < safety.Adult && (len(p.D.Visits) == 0 || !p.D.Visits[0].Talk.GuardianConsent) {
				return app.Refused("under 18: note the guardian's consent in the talk first")
			}
			if err := p.FirstBegin(in.Terms); err != nil {
				return err
			}
			text = "Barefoot ramp begun: " + in.Terms.Goal.Name()
			if len(p.Terms) > 0 {
				text = "Barefoot ramp changed: " + in.Terms.Goal.Name()
				in.Terms.From = max(in.Terms.From, p.Today.Monday())
				if first := p.Terms[0].From; transition.FirstMonday(first) > p.Today {
					in.Terms.From = max(in.Terms.From, first) // not begun yet
				}
			}
			if in.Terms.Goal.Runs() {
				text += fmt.Sprintf(", to %g %%", in.Terms.TargetPercent)
			}
		} else if len(p.Terms) == 0 {
			return app.Refused("there is no ramp to end")
		}
		raw, err := json.Marshal(in)
		if err != nil {
			return err
		}
		if err := tx.PutRamp(ctx, runner, "barefoot", rev, raw, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "ramp", text, in); err != nil {
			return err
		}
		if p, err = a.OpenPath(ctx, tx, act, runner); err != nil {
			return err
		}
		return a.Redate(ctx, tx, p, strings.ToLower(text[:1])+text[1:])
	})
	if err != nil {
		return view.RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// PreviewRampInput is a what-if.
type PreviewRampInput struct {
	Terms transition.Terms `json:"terms"`
	Away  int              `json:"away,omitempty" minimum:"0" maximum:"12" doc:"Weeks from the next one on without any exposure"`
}

// PreviewRamp returns what a ramp would be; it saves nothing.
func (a *Ramps) PreviewRamp(ctx context.Context, act app.Actor, runner string, in PreviewRampInput) (view.RampPlan, error) {
	if err := input.CheckTerms("terms.", in.Terms.Check()); err != nil {
		return view.RampPlan{}, err
	}
	var out view.RampPlan
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.OpenPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := p.FirstBegin(in.Terms); err != nil {
			return err
		}
		if len(p.Terms) > 0 {
			in.Terms.From = max(in.Terms.From, p.Today.Monday())
		}
		out = *view.Plan(p, append(slices.Clone(p.Terms), in.Terms), in.Away)
		return nil
	})
	return out, err
}

// RampDone says what of a day's ramp was done.
type RampDone struct {
	On    day.Date         `json:"on" format:"date"`
	Stage transition.Stage `json:"stage,omitempty" enum:"home,walk,strength,drills,run,bare," doc:"One thing of the day; all of it when empty"`
	Done  bool             `json:"done"`
}

// PutRampDone logs a day of the ramp as it was planned, or takes that back.
func (a *Ramps) PutRampDone(ctx context.Context, act app.Actor, runner string, in RampDone) (view.RampView, error) {
	if err := recent(in.On, a.Today(act)+1); err != nil {
		return view.RampView{}, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		p := k.Path
		list := view.On(p, in.On)
		note := p.G.Notes[in.On]
		found := false
		for _, x := range list {
			if in.Stage != "" && x.Stage != in.Stage {
				continue
			}
			found = true
			if x.Stage == transition.Home {
				note.BarefootMinutes = nil
				if in.Done {
					note.BarefootMinutes = &x.Minutes
				}
				continue
			}
			note.Exposure = slices.DeleteFunc(slices.Clone(note.Exposure), func(o transition.Done) bool { return o.Stage == x.Stage })
			if in.Done {
				note.Exposure = append(note.Exposure, transition.Done{Stage: x.Stage, Minutes: x.Minutes})
			}
		}
		if !found {
			return app.Refused("the ramp has nothing of this on " + in.On.Words())
		}
		if err := note.Check(in.On, a.Today(act)); err != nil {
			return err
		}
		return a.KeepDay(ctx, tx, k, in.On, note)
	})
	if err != nil {
		return view.RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// Ramps is the room of ramps: bare feet, cadence, cues.
type Ramps struct{ *record.Book }
