package routes

import (
	"context"
	"net/http"

	"notchback/app"
	"notchback/app/practice"
	"notchback/web/api"
	"notchback/web/door"
)

// rightsRoutes are what a person can ask of the records about them.
func rightsRoutes(r *Routes) {
	route(r, get("/api/archive", "getArchive", "Runners off the bench, with the day their records go"), func(ctx context.Context, act app.Actor, _ *struct{}) (api.Items[practice.Archived], error) {
		list, err := r.House.Archive(ctx, act)
		return api.Items[practice.Archived]{Items: list}, err
	}, door.Listed)
	route(r, put("/api/runners/{id}/archive", "archiveRunner", "Take a runner off the bench, or put one back"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Away bool `json:"away"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.PutAway(ctx, act, in.ID, in.Body.Away)
	})
	route(r, post("/api/runners/{id}/keep", "keepRunner", "Keep an archived runner's records another year"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[practice.Archived], error) {
		list, err := r.House.KeepOn(ctx, act, in.ID)
		return api.Items[practice.Archived]{Items: list}, err
	})
	route(r, get("/api/runners/{id}/footprint", "getFootprint", "What there is of a runner, and what deletion takes"), func(ctx context.Context, act app.Actor, in *api.ByID) (practice.Footprint, error) {
		return r.House.Footprint(ctx, act, in.ID)
	})
	route(r, post("/api/runners/{id}/deletion", "deleteRunner", "Delete everything about a runner, for good"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Name string `json:"name" maxLength:"120" doc:"The runner's name once more"`
			Why  string `json:"why" enum:"asked,mistake,left" doc:"Asked for, entered by mistake, or gone from the practice"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.DeleteRunner(ctx, act, in.ID, in.Body.Name, in.Body.Why)
	}, door.Owners, door.Long)
	route(r, get("/api/practice/questions", "getOwnQuestions", "Safety questions of the practice's own"), func(ctx context.Context, act app.Actor, _ *struct{}) (practice.OwnQuestions, error) {
		return r.House.OwnQuestions(ctx, act)
	})
	route(r, post("/api/practice/questions", "addOwnQuestion", "Add a safety question; it stays for good"), func(ctx context.Context, act app.Actor, in *struct{ Body practice.OwnQuestionInput }) (practice.OwnQuestions, error) {
		return r.House.AddOwnQuestion(ctx, act, in.Body)
	}, door.Owners)
	route(r, get("/api/stand-ins", "getStandIns", "Rendered clips and made-up runs, where the practice offers them"), func(ctx context.Context, act app.Actor, _ *struct{}) (api.Items[practice.StandIn], error) {
		list, err := r.House.StandIns(ctx, act)
		return api.Items[practice.StandIn]{Items: list}, err
	})
	download(r, gives(get("/api/stand-ins/{name}", "getStandIn", "One of them, as a file"), "video/webm", "application/zip"), func(ctx context.Context, act app.Actor, in *struct {
		Name string `path:"name" maxLength:"20" pattern:"^[a-z]+$"`
	}) (*api.FileOut, error) {
		f, err := r.House.StandIn(ctx, act, in.Name)
		return fileOut(f), err
	})
	route(r, get("/api/runners/{id}/consents", "getConsents", "What a runner, or who stands for them, agreed to"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[practice.Consent], error) {
		list, err := r.House.Consents(ctx, act, in.ID)
		return api.Items[practice.Consent]{Items: list}, err
	})
	route(r, post("/api/runners/{id}/consents", "addConsent", "Write a consent down"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body practice.Consent
	}) (api.Items[practice.Consent], error) {
		list, err := r.House.AddConsent(ctx, act, in.ID, in.Body)
		return api.Items[practice.Consent]{Items: list}, err
	})
	route(r, op(http.MethodDelete, "/api/runners/{id}/consents/{consent}", "endConsent", "A consent was taken back", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Consent string `path:"consent" format:"uuid"`
	}) (api.Items[practice.Consent], error) {
		list, err := r.House.EndConsent(ctx, act, in.ID, in.Consent)
		return api.Items[practice.Consent]{Items: list}, err
	})
}
