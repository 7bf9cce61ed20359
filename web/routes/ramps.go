package routes

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/ramp"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/simulate"
	"notchback/core/transition"
	"notchback/web/api"
	"notchback/web/door"
)

func rampsRoutes(r *Routes) {
	route(r, get("/api/runners/{id}/ramp", "getRamp", "A runner's way to bare feet and to a quicker step: gates, dated weeks, cadence, cues"), func(ctx context.Context, act app.Actor, in *api.ByID) (view.RampView, error) {
		return r.House.Ramp(ctx, act, in.ID)
	})
	route(r, put("/api/runners/{id}/ramp", "putRamp", "Begin, change or end the barefoot ramp"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Rev
		Body input.RampInput
	}) (view.RampView, error) {
		return r.House.PutRamp(ctx, act, in.ID, in.Rev.Rev, in.Body)
	})
	route(r, post("/api/runners/{id}/ramp-preview", "previewRamp", "What a ramp would be; saves nothing"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body ramp.PreviewRampInput
	}) (view.RampPlan, error) {
		return r.House.PreviewRamp(ctx, act, in.ID, in.Body)
	}, door.Reading)
	route(r, put("/api/runners/{id}/ramp-days", "putRampDay", "Log a day of the ramp as planned, or take it back"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body ramp.RampDone
	}) (view.RampView, error) {
		return r.House.PutRampDone(ctx, act, in.ID, in.Body)
	})
	route(r, put("/api/runners/{id}/cadence-ramp", "putCadenceRamp", "Begin, change or end a change of cadence"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Rev
		Body input.CadenceRampInput
	}) (view.RampView, error) {
		return r.House.PutCadence(ctx, act, in.ID, in.Rev.Rev, in.Body)
	})
	route(r, post("/api/runners/{id}/recounts", "addRecount", "A count without a beat"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body ramp.RecountInput
	}) (view.RampView, error) {
		return r.House.AddRecount(ctx, act, in.Key, in.ID, in.Body)
	})
	route(r, post("/api/runners/{id}/cue-looks", "addCueLook", "A form cue was begun, or looked at again"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body transition.CueLook
	}) (view.RampView, error) {
		return r.House.AddCueLook(ctx, act, in.Key, in.ID, in.Body)
	})
	compute(r, "barefoot-ramp", "A dated barefoot ramp with a range of dates", barefootRamp)
	compute(r, "cadence-steps", "The steps of a change of cadence, dated", cadenceSteps)
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

func barefootRamp(in api.BarefootRampIn) (api.BarefootRampOut, error) {
	if err := fieldErrors("terms.", in.Terms.Check()); err != nil {
		return api.BarefootRampOut{}, err
	}
	if in.Terms.From < in.Today-3*366 || in.Terms.From > in.Today+3*366 {
		return api.BarefootRampOut{}, app.Invalid{{Field: "terms.from", Message: "more than three years from today"}}
	}
	x := transition.Input{Today: in.Today, Start: in.Terms.From, Terms: []transition.Terms{in.Terms}, Gates: map[catalogue.Gate]transition.Outlook{}, Readings: in.Readings, Flares: in.Flares}
	for _, s := range transition.Stages {
		x.Gates[s.Gate()] = transition.Outlook{Open: true}
	}
	for i, c := range in.Closed {
		if _, ok := x.Gates[c.Gate]; !ok {
			return api.BarefootRampOut{}, app.Invalid{{Field: fmt.Sprintf("closed[%d].gate", i), Message: fmt.Sprintf("%q is not a gate of the ramp", c.Gate)}}
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
	return api.BarefootRampOut{Ramp: r, Range: simulate.Ramp(x, r, simulate.Usual, in.Futures, in.Seed), Assumptions: simulate.Usual}, nil
}

func cadenceSteps(in api.CadenceStepsIn) (transition.CadencePlan, error) {
	if err := fieldErrors("terms.", in.Terms.Check()); err != nil {
		return transition.CadencePlan{}, err
	}
	if in.Terms.Start < in.Today-3*366 || in.Terms.Start > in.Today+3*366 {
		return transition.CadencePlan{}, app.Invalid{{Field: "terms.start", Message: "more than three years from today"}}
	}
	return transition.PlanCadence(transition.CadenceInput{Today: in.Today, Terms: in.Terms, Recounts: in.Recounts, Readings: in.Readings}), nil
}
