package routes

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/export"
	"notchback/app/pocket"
	"notchback/core/words"
	"notchback/web/api"
	"notchback/web/door"
)

// pocketRoutes are the runner's phone and what a coach sees of it. What a phone may do
// names no record but its own runner's: there is no id to try.
func pocketRoutes(r *Routes) {
	openRoute(r, post("/api/pocket/greet", "greetPocket", "Whose link this is, and what they would agree to"), func(ctx context.Context, in *struct{ Body api.PocketToken }) (pocket.Greeting, error) {
		return r.House.Greet(ctx, in.Body.Token)
	}, door.Anyone)
	huma.Register(r.API, door.With(post("/api/pocket/join", "joinPocket", "Let this phone in, after its runner agreed"), door.Anyone), func(ctx context.Context, in *struct{ Body api.PocketJoin }) (*joined, error) {
		if !in.Body.Agreed {
			return nil, r.Problem(ctx, app.Wrong("agreed", "the plan comes to this phone once you agree"))
		}
		secret, err := r.House.Join(ctx, in.Body.Token, in.Body.Name)
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return &joined{SetCookie: r.Phone(secret, pocket.QuietDays*24*time.Hour)}, nil
	})
	route(r, get("/api/pocket/plan", "getPocketPlan", "Everything a phone carries"), func(ctx context.Context, act app.Actor, in *struct {
		Clock   time.Time `query:"clock" doc:"The phone's own time"`
		Edition string    `query:"edition" maxLength:"40" doc:"Of the application on the phone"`
	}) (api.PocketPlan, error) {
		return r.carried(ctx, act, in.Clock, in.Edition)
	}, door.Phone)
	tell := door.With(post("/api/pocket/reports", "sendPocketReports", "What a phone has to tell; each is kept once"), door.Phone, door.Long)
	tell.MaxBodyBytes = pocket.BatchBytes
	route(r, tell, func(ctx context.Context, act app.Actor, in *struct{ Body api.PocketReports }) (api.Items[pocket.Told], error) {
		list, err := r.House.Sync(ctx, act, in.Body.Reports)
		return api.Items[pocket.Told]{Items: list}, err
	})
	route(r, post("/api/pocket/read", "readPocketNotes", "The coach's words up to a time were read"), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			UpTo time.Time `json:"upTo"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.Read(ctx, act, in.Body.UpTo)
	}, door.Phone)
	route(r, op(http.MethodPut, "/api/pocket/language", "putPocketLanguage", "Choose the language the runner reads in", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			Language words.Language `json:"language" enum:"en,de"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.Speak(ctx, act, in.Body.Language)
	}, door.Phone)
	route(r, op(http.MethodPut, "/api/pocket/reminders", "putPocketReminders", "Choose what the runner's calendar reminds of", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct{ Body api.PocketReminders }) (export.RemindersView, error) {
		return r.House.PutReminders(ctx, act, act.Runner, in.Body.Kinds)
	}, door.Phone)
	route(r, post("/api/pocket/calendar", "addPocketCalendar", "Make a calendar address of one's own; it is shown once"), func(ctx context.Context, act app.Actor, _ *struct{}) (export.FeedView, error) {
		return r.House.AddFeed(ctx, act, act.Runner)
	}, door.Phone)
	route(r, op(http.MethodDelete, "/api/pocket/calendar", "endPocketCalendars", "End all calendar addresses of the runner", http.StatusOK), func(ctx context.Context, act app.Actor, _ *struct{}) (export.FeedView, error) {
		return r.House.RevokeFeeds(ctx, act, act.Runner)
	}, door.Phone)
	huma.Register(r.API, door.With(post("/api/pocket/leave", "leavePocket", "Sign a phone of one's own out; this one where none is named"), door.Phone), func(ctx context.Context, in *struct {
		Body struct {
			Device string `json:"device,omitempty" maxLength:"40"`
		}
	}) (*joined, error) {
		act := door.Actor(ctx)
		if err := r.House.Leave(ctx, act, in.Body.Device); err != nil {
			return nil, r.Problem(ctx, err)
		}
		out := &joined{}
		if in.Body.Device == "" || in.Body.Device == act.Device {
			out.SetCookie = r.Phone("", -time.Second)
		}
		return out, nil
	})

	route(r, get("/api/runners/{id}/pocket", "getPocket", "What came in from a runner's phones, and which they are"), func(ctx context.Context, act app.Actor, in *api.ByID) (pocket.HeardView, error) {
		return r.House.Heard(ctx, act, in.ID)
	})
	route(r, post("/api/runners/{id}/pocket/links", "addPocketLink", "Make a way in for a runner's phone; it is shown once"), func(ctx context.Context, act app.Actor, in *api.ByID) (pocket.LinkView, error) {
		return r.House.AddLink(ctx, act, in.ID)
	})
	route(r, op(http.MethodDelete, "/api/runners/{id}/pocket/links", "endPocketLinks", "End all links of a runner", http.StatusOK), func(ctx context.Context, act app.Actor, in *api.ByID) (pocket.WayView, error) {
		return r.House.EndLinks(ctx, act, in.ID)
	})
	route(r, op(http.MethodDelete, "/api/runners/{id}/pocket/devices/{device}", "endPocketDevice", "Sign a runner's phone out", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Device string `path:"device" format:"uuid"`
	}) (pocket.WayView, error) {
		return r.House.EndDevice(ctx, act, in.ID, in.Device)
	})
	route(r, post("/api/runners/{id}/pocket/looked", "lookedAtPocket", "What came in was looked at"), func(ctx context.Context, act app.Actor, in *api.ByID) (pocket.HeardView, error) {
		return r.House.Looked(ctx, act, in.ID)
	})
	route(r, post("/api/runners/{id}/pocket/notes", "writeToRunner", "Write a runner a few words"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body api.PocketNote
	}) (pocket.HeardView, error) {
		return r.House.WriteTo(ctx, act, in.ID, in.Body.Text)
	})
}

// joined answers with the phone's secret as a cookie, or takes it away.
type joined struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      api.Nothing
}

func (r *Routes) carried(ctx context.Context, act app.Actor, clock time.Time, edition string) (api.PocketPlan, error) {
	c, err := r.House.Carry(ctx, act, clock, edition)
	if err != nil {
		return api.PocketPlan{}, err
	}
	p, err := r.House.PlanOf(ctx, act)
	if err != nil {
		return api.PocketPlan{}, err
	}
	ring, err := r.House.Reminders(ctx, act, act.Runner)
	if err != nil {
		return api.PocketPlan{}, err
	}
	moves, err := r.House.Moves(ctx, act, act.Runner)
	return api.PocketPlan{Plan: p, Carried: c, Reminders: ring, Moves: moves}, err
}
