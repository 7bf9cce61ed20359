package routes

import (
	"context"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/bench"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/web/api"
	"notchback/web/door"
)

func runnersRoutes(r *Routes) {
	route(r, get("/api/runners", "listRunners", "The bench: runners, those who need the coach first"), func(ctx context.Context, act app.Actor, in *struct {
		Search string `query:"search" maxLength:"120"`
		Page   int    `query:"page" minimum:"0" maximum:"100000"`
	}) (bench.BenchPage, error) {
		return r.House.Bench(ctx, act, in.Search, in.Page)
	}, door.Listed, door.Heavy)
	route(r, post("/api/runners", "addRunner", "Add a runner"), func(ctx context.Context, act app.Actor, in *struct {
		api.Keyed
		Body input.RunnerInput
	}) (view.Runner, error) {
		return r.House.AddRunner(ctx, act, in.Key, in.Body)
	})
	route(r, get("/api/runners/{id}/bar", "getBar", "What stands at the head of every page of a runner"), func(ctx context.Context, act app.Actor, in *api.ByID) (bench.Bar, error) {
		return r.House.Bar(ctx, act, in.ID)
	})
	route(r, get("/api/runners/{id}", "getRunner", "One runner"), func(ctx context.Context, act app.Actor, in *api.ByID) (view.Runner, error) {
		return r.House.Runner(ctx, act, in.ID)
	})
	route(r, op(http.MethodPut, "/api/runners/{id}", "updateRunner", "Save a runner at the version that was read", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		IfMatch string `header:"If-Match" required:"true" doc:"The version that was read"`
		Body    input.RunnerInput
	}) (view.Runner, error) {
		v, err := strconv.Atoi(in.IfMatch)
		if err != nil {
			return view.Runner{}, huma.Error422UnprocessableEntity("If-Match carries the version number that was read")
		}
		return r.House.UpdateRunner(ctx, act, in.ID, v, in.Body)
	})
	route(r, get("/api/runners/{id}/journal", "getJournal", "A runner's journal, newest first"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[daily.JournalLine], error) {
		list, err := r.House.Journal(ctx, act, in.ID)
		return api.Items[daily.JournalLine]{Items: list}, err
	})
	route(r, put("/api/runners/{id}/mornings/{on}", "putMorning", "Note first-step pain of one morning"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		On   string `path:"on" format:"date"`
		Body struct {
			FirstStep int    `json:"firstStep" doc:"0–10"`
			Reason    string `json:"reason,omitempty" maxLength:"300" doc:"Needed where it changes what was told before"`
		}
	}) (view.Block, error) {
		on, err := day.Parse(in.On)
		if err != nil {
			return view.Block{}, app.Invalid{{Field: "on", Message: err.Error()}}
		}
		return r.House.PutMorning(ctx, act, in.ID, on, in.Body.FirstStep, in.Body.Reason)
	})
}
