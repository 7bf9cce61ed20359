package running

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/screening"
	"notchback/core/units"
	"notchback/store"
)

// RunInput is a run as typed or corrected.
type RunInput struct {
	On        day.Date      `json:"on" format:"date"`
	StartedAt string        `json:"startedAt,omitempty" maxLength:"5" doc:"Local time of day, like 06:40"`
	Km        float64       `json:"km"`
	Minutes   float64       `json:"minutes"`
	Cadence   *float64      `json:"cadence,omitempty" doc:"Steps of both feet a minute"`
	Effort    *int          `json:"effort,omitempty" doc:"CR10, 0–10"`
	Footwear  load.Footwear `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Strike    load.Strike   `json:"strike,omitempty" enum:"rear,mid-fore," doc:"Where somebody looked"`
	Surface   string        `json:"surface,omitempty" maxLength:"60"`
	Shoe      string        `json:"shoe,omitempty" maxLength:"60"`
	Fast      bool          `json:"fast,omitempty"`
	Pain      *int          `json:"pain,omitempty" doc:"Worst pain, 0–10"`
	Zone      string        `json:"zone,omitempty" maxLength:"30"`
	Side      body.Side     `json:"side,omitempty" enum:"left,right,both,"`
	Limping   bool          `json:"limping,omitempty"`
	Note      string        `json:"note,omitempty" maxLength:"500"`
	Reason    string        `json:"reason,omitempty" maxLength:"300" doc:"Needed where a pain, a limp or the distance told before is changed"`
}

// RunView is a run with what is known of it.
type RunView struct {
	RunInput
	ID       string `json:"id"`
	Rev      int    `json:"rev"`
	Source   string `json:"source" enum:"typed,fit,gpx,tcx,csv"`
	What     string `json:"what" enum:"run,walk" doc:"A walk counts in no volume and no dose"`
	HasTrack bool   `json:"hasTrack,omitempty"`
	// Details is what devices recorded.
	Details *input.RunDetails `json:"details,omitempty"`
}

func (in RunInput) check(today day.Date) error {
	var bad app.Invalid
	if in.On > today+1 {
		bad.Add("on", "%s is in the future", in.On)
	}
	if in.On < today-20*365 {
		bad.Add("on", "expected a day of the last twenty years (you entered %s)", in.On)
	}
	if in.StartedAt != "" {
		if _, err := time.Parse("15:04", in.StartedAt); err != nil {
			bad.Add("startedAt", "%q is not a time of day like 06:40", in.StartedAt)
		}
	}
	if !(in.Km >= 0 && in.Km <= 300) {
		bad.Add("km", "expected 0 to 300 (you entered %g km)", in.Km)
	}
	if !(in.Minutes > 0 && in.Minutes <= 2880) {
		bad.Add("minutes", "expected up to 48 hours (you entered %g minutes)", in.Minutes)
	} else if in.Km/in.Minutes > 0.51 {
		bad.Add("minutes", "%g km in %g min is not a run", in.Km, in.Minutes)
	}
	if c := in.Cadence; c != nil && (*c < 60 || *c > 260) {
		bad.Add("cadence", "expected 60 to 260 of both feet (you entered %g steps a minute)", *c)
	}
	if e := in.Effort; e != nil && (*e < 0 || *e > 10) {
		bad.Add("effort", "effort must be 0 to 10 (you entered %d)", *e)
	}
	if p := in.Pain; p != nil && (*p < 0 || *p > body.PainMax) {
		bad.Add("pain", "pain must be 0 to 10 (you entered %d)", *p)
	}
	if in.Zone != "" && !slices.ContainsFunc(screening.Zones, func(z struct {
		ID   screening.Zone
		Name string
	}) bool {
		return string(z.ID) == in.Zone
	}) {
		bad.Add("zone", "%q is not a place on the map", in.Zone)
	}
	return bad.Or()
}

func (in RunInput) row(r store.Run, zone *time.Location) store.Run {
	r.On, r.Metres, r.Seconds = in.On.Time(), int(math.Round(in.Km*1000)), int(math.Round(in.Minutes*60))
	r.Cadence, r.Effort, r.Footwear, r.Strike, r.Surface, r.Shoe, r.Fast = in.Cadence, in.Effort, string(in.Footwear), string(in.Strike), in.Surface, in.Shoe, in.Fast
	r.Pain, r.Zone, r.Side, r.Limping, r.Note = in.Pain, in.Zone, string(in.Side), in.Limping, in.Note
	if r.Source == "typed" || r.Source == "" {
		r.StartedAt = nil
		if t, err := time.Parse("15:04", in.StartedAt); err == nil {
			at := in.On.At(t.Hour(), t.Minute(), 0, zone)
			r.StartedAt = &at
		}
	}
	return r
}

func runView(r store.Run, zone *time.Location) RunView {
	v := RunView{ID: r.ID, Rev: r.Rev, Source: r.Source, What: "run", RunInput: RunInput{
		On: app.DateOf(r.On), Km: float64(r.Metres) / 1000, Minutes: math.Round(float64(r.Seconds)/0.6) / 100, Cadence: r.Cadence, Effort: r.Effort, Footwear: load.Footwear(r.Footwear), Strike: load.Strike(r.Strike), Surface: r.Surface,
		Shoe: r.Shoe, Fast: r.Fast, Pain: r.Pain, Zone: r.Zone, Side: body.Side(r.Side), Limping: r.Limping, Note: r.Note}}
	if r.What == "walk" {
		v.What = "walk"
	}
	if r.StartedAt != nil {
		v.StartedAt = r.StartedAt.In(zone).Format("15:04")
	}
	return v
}

// Runs lists a runner's runs, newest first.
func (a *Running) Runs(ctx context.Context, act app.Actor, runner string) ([]RunView, error) {
	out := []RunView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		rows, err := tx.Runs(ctx, runner, (a.Today(act) - input.RunsBack).Time())
		if err != nil {
			return err
		}
		details, err := tx.RunDetails(ctx, runner)
		if err != nil {
			return err
		}
		tracks, err := tx.Tracked(ctx, runner)
		if err != nil {
			return err
		}
		for i := len(rows) - 1; i >= 0; i-- {
			v := runView(rows[i], act.Zone)
			v.HasTrack = tracks[v.ID]
			if raw, ok := details[v.ID]; ok {
				v.Details = &input.RunDetails{}
				if err := json.Unmarshal(raw, v.Details); err != nil {
					return fmt.Errorf("details of run %s: %w", v.ID, err)
				}
			}
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// AddRun stores a typed run.
func (a *Running) AddRun(ctx context.Context, act app.Actor, key, runner string, in RunInput) (RunView, error) {
	var out RunView
	if err := in.check(a.Today(act)); err != nil {
		return out, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "addRun", Address: runner, Key: key}, in, func() (RunView, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return RunView{}, err
			}
			r := in.row(store.Run{RunnerID: runner, Source: "typed"}, act.Zone)
			if r.ID, err = tx.PutRun(ctx, r, act.User.ID); err != nil {
				return RunView{}, err
			}
			r.Rev = 1
			if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "run", fmt.Sprintf("Run of %s: %s", in.On.Words(), units.Km(1000*in.Km, 1)), nil); err != nil {
				return RunView{}, err
			}
			return runView(r, act.Zone), a.AfterReading(ctx, tx, act, runner)
		})
		return err
	})
	return out, err
}

// ChangeRun stores a correction of a run at the revision that was read.
func (a *Running) ChangeRun(ctx context.Context, act app.Actor, id string, rev int, in RunInput) (RunView, error) {
	var out RunView
	if err := in.check(a.Today(act)); err != nil {
		return out, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Run(ctx, id)
		if err != nil {
			return err
		}
		if r.Rev != rev || r.Removed {
			return app.ErrConflict
		}
		what := in.putsRight(r)
		if what != "" && strings.TrimSpace(in.Reason) == "" {
			return app.Wrong("reason", what+"; say why, for the journal")
		}
		r = in.row(r, act.Zone)
		if _, err := tx.PutRun(ctx, r, act.User.ID); err != nil {
			return err
		}
		r.Rev++
		out = runView(r, act.Zone)
		if what != "" {
			if err := tx.Note(ctx, r.RunnerID, a.Now(), &act.User.ID, "run", "Run of "+app.DateOf(r.On).Words()+" put right: "+in.Reason, in); err != nil {
				return err
			}
		}
		return a.AfterReading(ctx, tx, act, r.RunnerID)
	})
	return out, err
}

// putsRight says what of a run that was told before is changed.
func (in RunInput) putsRight(was store.Run) string {
	switch {
	case was.Pain != nil && (in.Pain == nil || *in.Pain != *was.Pain):
		return "this changes the pain of a run"
	case was.Limping && !in.Limping:
		return "this takes back a limp"
	case was.Metres > 0 && int(math.Round(in.Km*1000)) != was.Metres:
		return "this changes the distance of a run"
	}
	return ""
}

// RemoveRun takes a run out of every count; its revisions stay in the record.
func (a *Running) RemoveRun(ctx context.Context, act app.Actor, id string, rev int, reason string) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Run(ctx, id)
		if err != nil {
			return err
		}
		if r.Rev != rev || r.Removed {
			return app.ErrConflict
		}
		if reason = strings.TrimSpace(reason); reason == "" {
			return app.Wrong("reason", "this takes a run out; say why, for the journal")
		}
		r.Removed = true
		if _, err := tx.PutRun(ctx, r, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, r.RunnerID, a.Now(), &act.User.ID, "run", "Run of "+app.DateOf(r.On).Words()+" taken out: "+reason, nil); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, r.RunnerID)
	})
}

// PlanWeek stores the planned running of a coming week.
func (a *Running) PlanWeek(ctx context.Context, act app.Actor, runner string, monday day.Date, km float64) error {
	var bad app.Invalid
	if monday.Monday() != monday {
		bad.Add("monday", "%s is not a Monday", monday)
	}
	if today := a.Today(act); monday < today-input.RunsBack || monday > today+input.RunsBack {
		bad.Add("monday", "%s is too far away", monday)
	}
	if !(km >= 0 && km <= 400) {
		bad.Add("km", "expected 0 to 400 (you entered %g km)", km)
	}
	if err := bad.Or(); err != nil {
		return err
	}
	return a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.PutPlannedWeek(ctx, runner, store.Planned{Monday: monday.Time(), Metres: int(math.Round(km * 1000))}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "plan", fmt.Sprintf("%s planned for the week of %s", units.Km(1000*km, 1), monday.Words()), nil); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, runner)
	})
}

// Running is the room of runs and their load.
type Running struct{ *record.Book }
