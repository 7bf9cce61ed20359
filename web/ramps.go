package web

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/ramp"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/simulate"
	"notchback/core/transition"
)

func (s *server) registerRamps(api huma.API) {
	huma.Register(api, get("/api/runners/{id}/ramp", "getRamp", "A runner's way to bare feet and to a quicker step: gates, dated weeks, cadence, cues"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (view.RampView, error) {
			return s.app.Ramp(ctx, act, in.ID)
		}))
	huma.Register(api, put("/api/runners/{id}/ramp", "putRamp", "Begin, change or end the barefoot ramp"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Rev
			Body input.RampInput
		}) (view.RampView, error) {
			return s.app.PutRamp(ctx, act, in.ID, in.Rev.Rev, in.Body)
		}))
	huma.Register(api, with(post("/api/runners/{id}/ramp-preview", "previewRamp", "What a ramp would be; saves nothing"), reading),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body ramp.PreviewRampInput
		}) (view.RampPlan, error) {
			return s.app.PreviewRamp(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, put("/api/runners/{id}/ramp-days", "putRampDay", "Log a day of the ramp as planned, or take it back"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body ramp.RampDone
		}) (view.RampView, error) {
			return s.app.PutRampDone(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, put("/api/runners/{id}/cadence-ramp", "putCadenceRamp", "Begin, change or end a change of cadence"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Rev
			Body input.CadenceRampInput
		}) (view.RampView, error) {
			return s.app.PutCadence(ctx, act, in.ID, in.Rev.Rev, in.Body)
		}))
	huma.Register(api, post("/api/runners/{id}/recounts", "addRecount", "A count without a beat"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Keyed
			Body ramp.RecountInput
		}) (view.RampView, error) {
			return s.app.AddRecount(ctx, act, in.Key, in.ID, in.Body)
		}))
	huma.Register(api, post("/api/runners/{id}/cue-looks", "addCueLook", "A form cue was begun, or looked at again"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Keyed
			Body transition.CueLook
		}) (view.RampView, error) {
			return s.app.AddCueLook(ctx, act, in.Key, in.ID, in.Body)
		}))
	compute(s, api, "barefoot-ramp", "A dated barefoot ramp with a range of dates", barefootRamp)
	compute(s, api, "cadence-steps", "The steps of a change of cadence, dated", cadenceSteps)
}

// ClosedGate is a gate that is not open, with the earliest date it may be.
type ClosedGate struct {
	Gate  catalogue.Gate `json:"gate" example:"barefoot-strength"`
	From  *day.Date      `json:"from,omitempty" format:"date" doc:"Missing when nobody knows"`
	Words string         `json:"words,omitempty"`
}

// BarefootRampIn is everything a ramp is made from.
type BarefootRampIn struct {
	Today       day.Date             `json:"today" format:"date" example:"2027-01-04"`
	Terms       transition.Terms     `json:"terms" example:"{\"from\":\"2027-01-04\",\"goal\":\"run\",\"begin\":\"run\",\"targetPercent\":30,\"weeklyMetres\":40000,\"paceSeconds\":360,\"runDays\":[1,3,5],\"strengthDays\":[0,3],\"shoe\":\"thin one\"}"`
	DeloadEvery int                  `json:"deloadEvery,omitempty" minimum:"0" maximum:"12" doc:"Every so many weeks nothing rises; 0 for never"`
	Closed      []ClosedGate         `json:"closed,omitempty" maxItems:"10" doc:"All others are open"`
	Readings    []transition.Reading `json:"readings,omitempty" maxItems:"800"`
	Flares      []transition.Flare   `json:"flares,omitempty" maxItems:"20"`
	Futures     int                  `json:"futures,omitempty" minimum:"0" maximum:"5000" doc:"Drawn for the range; 0 for none"`
	Seed        uint64               `json:"seed,omitempty"`
}

// BarefootRampOut is a ramp with its range of dates.
type BarefootRampOut struct {
	Ramp        transition.Ramp      `json:"ramp"`
	Range       simulate.Range       `json:"range"`
	Assumptions simulate.Assumptions `json:"assumptions"`
}

func fieldErrors(at string, bad map[string]error) error {
	var out app.Invalid
	for _, f := range slices.Sorted(maps.Keys(bad)) {
		out = append(out, app.FieldError{Field: at + f, Message: bad[f].Error()})
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

func barefootRamp(in BarefootRampIn) (BarefootRampOut, error) {
	if err := fieldErrors("terms.", in.Terms.Check()); err != nil {
		return BarefootRampOut{}, err
	}
	if in.Terms.From < in.Today-3*366 || in.Terms.From > in.Today+3*366 {
		return BarefootRampOut{}, app.Invalid{{Field: "terms.from", Message: "more than three years from today"}}
	}
	x := transition.Input{Today: in.Today, Start: in.Terms.From, Terms: []transition.Terms{in.Terms}, Gates: map[catalogue.Gate]transition.Outlook{}, Readings: in.Readings, Flares: in.Flares}
	for _, s := range transition.Stages {
		x.Gates[s.Gate()] = transition.Outlook{Open: true}
	}
	for i, c := range in.Closed {
		if _, ok := x.Gates[c.Gate]; !ok {
			return BarefootRampOut{}, app.Invalid{{Field: fmt.Sprintf("closed[%d].gate", i), Message: fmt.Sprintf("%q is not a gate of the ramp", c.Gate)}}
		}
		if c.Words == "" {
			c.Words = "the gate " + string(c.Gate)
		}
		x.Gates[c.Gate] = transition.Outlook{From: c.From, Words: c.Words}
	}
	if start := transition.FirstMonday(in.Terms.From); in.DeloadEvery > 0 {
		x.Held = func(m day.Date) string {
			if (int(m-start)/7+1)%in.DeloadEvery == 0 {
				return "lighter week"
			}
			return ""
		}
	}
	r := transition.Plan(x)
	return BarefootRampOut{r, simulate.Ramp(x, r, simulate.Usual, in.Futures, in.Seed), simulate.Usual}, nil
}

// CadenceStepsIn is everything a change of cadence is made from.
type CadenceStepsIn struct {
	Today    day.Date                `json:"today" format:"date" example:"2027-01-04"`
	Terms    transition.CadenceTerms `json:"terms" example:"{\"start\":\"2027-01-04\",\"baselineSpm\":160,\"school\":\"fixed-range\",\"speedKmh\":10}"`
	Recounts []transition.Recount    `json:"recounts,omitempty" maxItems:"60"`
	Readings []transition.Reading    `json:"readings,omitempty" maxItems:"800" doc:"For sore calves"`
}

func cadenceSteps(in CadenceStepsIn) (transition.CadencePlan, error) {
	if err := fieldErrors("terms.", in.Terms.Check()); err != nil {
		return transition.CadencePlan{}, err
	}
	if in.Terms.Start < in.Today-3*366 || in.Terms.Start > in.Today+3*366 {
		return transition.CadencePlan{}, app.Invalid{{Field: "terms.start", Message: "more than three years from today"}}
	}
	return transition.PlanCadence(transition.CadenceInput{Today: in.Today, Terms: in.Terms, Recounts: in.Recounts, Readings: in.Readings}), nil
}
