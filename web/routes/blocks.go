package routes

import (
	"context"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/practice"
	"notchback/app/view"
	"notchback/web/api"
)

func blocksRoutes(r *Routes) {
	route(r, post("/api/runners/{id}/blocks", "planBlock", "Make a block from a finished screening"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body block.BlockInput
	}) (view.Block, error) {
		return r.House.PlanBlock(ctx, act, in.Key, in.ID, in.Body)
	})
	route(r, get("/api/runners/{id}/block", "getCurrentBlock", "A runner's present block, if there is one"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.CurrentBlock, error) {
		b, err := r.House.CurrentBlock(ctx, act, in.ID)
		return api.CurrentBlock{Block: b}, err
	})
	route(r, get("/api/blocks/{id}", "getBlock", "One block with where it stands"), func(ctx context.Context, act app.Actor, in *api.ByID) (view.Block, error) {
		return r.House.Block(ctx, act, in.ID)
	})
	route(r, post("/api/blocks/{id}/session-logs", "logSession", "Log a session; each ladder of it is decided"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body daily.SessionInput
	}) (view.Block, error) {
		return r.House.LogSession(ctx, act, in.Key, in.ID, in.Body)
	})
	route(r, get("/api/blocks/{id}/session-logs", "listSessions", "The sessions logged in the last four weeks"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[daily.LoggedSession], error) {
		list, err := r.House.LoggedSessions(ctx, act, in.ID)
		return api.Items[daily.LoggedSession]{Items: list}, err
	})
	route(r, post("/api/blocks/{id}/session-logs/{log}/correct", "correctSession", "Put a logged session right, or take it back, with a reason"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Log  string `path:"log" format:"uuid"`
		Body daily.Correction
	}) (view.Block, error) {
		return r.House.CorrectSession(ctx, act, in.ID, in.Log, in.Body)
	})
	route(r, get("/api/practice", "getPractice", "What the sheets say of the practice"), func(ctx context.Context, act app.Actor, _ *struct{}) (practice.Practice, error) {
		return r.House.Practice(ctx, act)
	})
	route(r, put("/api/practice", "putPractice", "Save what the sheets say of the practice"), func(ctx context.Context, act app.Actor, in *struct{ Body practice.Practice }) (practice.Practice, error) {
		return r.House.PutPractice(ctx, act, in.Body)
	})
	route(r, post("/api/decisions/{id}/accept", "acceptDecision", "Move the peg as proposed"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return r.House.AcceptDecision(ctx, act, in.ID, in.Body.Version)
	})
	route(r, post("/api/decisions/{id}/override", "overrideDecision", "Put the peg elsewhere, with a reason"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			daily.OverrideInput
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return r.House.OverrideDecision(ctx, act, in.ID, in.Body.Version, in.Body.OverrideInput)
	})
	route(r, post("/api/decisions/{id}/take-back", "takeBackAnswer", "Undo one's own answer of today, before a session followed"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return r.House.TakeBackAnswer(ctx, act, in.ID, in.Body.Version)
	})
}
