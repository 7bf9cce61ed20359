package routes

import (
	"context"
	"net/http"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/record"
	"notchback/core/catalogue"
	"notchback/core/screening"
	"notchback/web/api"
)

func screeningsRoutes(r *Routes) {
	route(r, get("/api/screening-tests", "listTests", "The tests of a screening"), func(context.Context, app.Actor, *struct{}) (api.Items[screening.Test], error) {
		return api.Items[screening.Test]{Items: screening.Tests()}, nil
	})
	route(r, get("/api/runners/{id}/screenings", "listScreenings", "A runner's screenings, newest first"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[record.Screening], error) {
		list, err := r.House.Screenings(ctx, act, in.ID)
		return api.Items[record.Screening]{Items: list}, err
	})
	route(r, post("/api/runners/{id}/screenings", "startScreening", "Open a screening"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body intake.ScreeningInput
	}) (record.Screening, error) {
		return r.House.StartScreening(ctx, act, in.Key, in.ID, in.Body)
	})
	route(r, get("/api/screenings/{id}", "getScreening", "One screening with results and findings"), func(ctx context.Context, act app.Actor, in *api.ByID) (record.Screening, error) {
		return r.House.Screening(ctx, act, in.ID)
	})
	type Place struct {
		api.TrialPath
		Reason string `query:"reason" maxLength:"300" doc:"Needed to correct a finished screening"`
	}
	route(r, put("/api/screenings/{id}/trials/{test}/{side}/{slot}", "putTrial", "Save a trial in its Place"), func(ctx context.Context, act app.Actor, in *struct {
		Place
		Body input.TrialInput
	}) (record.Screening, error) {
		return r.House.PutTrial(ctx, act, in.ID, in.Test, in.Side, in.Slot, &in.Body, in.Reason)
	})
	route(r, op(http.MethodDelete, "/api/screenings/{id}/trials/{test}/{side}/{slot}", "removeTrial", "Take a trial out; the record keeps it", http.StatusOK), func(ctx context.Context, act app.Actor, in *Place) (record.Screening, error) {
		return r.House.PutTrial(ctx, act, in.ID, in.Test, in.Side, in.Slot, nil, in.Reason)
	})
	route(r, put("/api/screenings/{id}/talk", "putTalk", "Save complaints, safety answers, training and shoes"), func(ctx context.Context, act app.Actor, in *struct {
		api.Part
		Body input.Talk
	}) (record.Screening, error) {
		return r.House.PutTalk(ctx, act, in.ID, in.Rev, in.Body, in.Reason)
	})
	route(r, put("/api/screenings/{id}/conditions", "putConditions", "Save speed, incline, surface, shoes, leg lengths"), func(ctx context.Context, act app.Actor, in *struct {
		api.Part
		Body input.Conditions
	}) (record.Screening, error) {
		return r.House.PutConditions(ctx, act, in.ID, in.Rev, in.Body, in.Reason)
	})
	route(r, put("/api/screenings/{id}/choices", "putChoice", "Promote, demote or remark a finding"), func(ctx context.Context, act app.Actor, in *struct {
		api.Part
		Body screening.Choice
	}) (record.Screening, error) {
		return r.House.PutChoice(ctx, act, in.ID, in.Rev, in.Body)
	})
	route(r, put("/api/screenings/{id}/waivers", "waiveGate", "Waive a gate with a reason; an empty reason takes it back"), func(ctx context.Context, act app.Actor, in *struct {
		api.Part
		Body struct {
			Gate   catalogue.Gate `json:"gate"`
			Reason string         `json:"reason" maxLength:"300"`
		}
	}) (record.Screening, error) {
		return r.House.WaiveGate(ctx, act, in.ID, in.Rev, in.Body.Gate, in.Body.Reason)
	})
	route(r, post("/api/runners/{id}/clearances", "addClearance", "Note a clinician's clearance for a flag"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body intake.ClearanceInput
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.AddClearance(ctx, act, in.ID, in.Body)
	})
	route(r, post("/api/runners/{id}/eye-pairs", "addEyePair", "Note a measurement taken twice by the same coach"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body intake.EyePairInput
	}) (api.Items[intake.EyeState], error) {
		list, err := r.House.AddEyePair(ctx, act, in.ID, in.Body)
		return api.Items[intake.EyeState]{Items: list}, err
	})
	route(r, get("/api/eye", "getEye", "How far your own calibration is"), func(ctx context.Context, act app.Actor, _ *struct{}) (api.Items[intake.EyeState], error) {
		list, err := r.House.Eye(ctx, act)
		return api.Items[intake.EyeState]{Items: list}, err
	})
	route(r, get("/api/zones", "listZones", "The zones of the sole and leg map"), func(context.Context, app.Actor, *struct{}) (api.Items[api.Zone], error) {
		out := api.Items[api.Zone]{}
		for _, z := range screening.Zones {
			out.Items = append(out.Items, api.Zone{ID: z.ID, Name: z.Name})
		}
		return out, nil
	})
	route(r, post("/api/screenings/{id}/finish", "finishScreening", "Finish a screening"), func(ctx context.Context, act app.Actor, in *api.ByID) (record.Screening, error) {
		return r.House.FinishScreening(ctx, act, in.ID)
	})
}
