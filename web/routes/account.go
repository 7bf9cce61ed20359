package routes

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/account"
	"notchback/web/api"
	"notchback/web/door"
)

func (r *Routes) me(act app.Actor) api.Me {
	return api.Me{ID: act.User.ID, PracticeID: act.Practice, Name: act.User.Name, Email: act.User.Email, Role: act.User.Role, Practice: act.User.Practice, Today: r.House.Today(act), Zone: act.User.Zone, Units: string(act.Units())}
}

func (r *Routes) signIn(ctx context.Context, practice, user, agent string) (api.Me, error) {
	if err := r.Sessions.RenewToken(ctx); err != nil {
		return api.Me{}, err
	}
	r.Sessions.Put(ctx, door.KeyPractice, practice)
	device, err := r.House.OpenDevice(ctx, practice, user, agent)
	if err != nil {
		return api.Me{}, err
	}
	r.Sessions.Put(ctx, door.KeyUser, user)
	r.Sessions.Put(ctx, door.KeyDevice, device)
	act, err := r.House.Actor(ctx, practice, user)
	return r.me(act), err
}

// signedInOut is who signed in, and what their browser remembers.
type signedInOut struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      api.Me
}

func accountRoutes(r *Routes) {
	openRoute(r, get("/api/start", "getStart", "Whether the installation is still empty"), func(ctx context.Context, _ *struct{}) (api.StartState, error) {
		empty, err := r.House.Fresh(ctx)
		return api.StartState{Empty: empty}, err
	}, door.Anyone)
	openRoute(r, post("/api/first-run", "firstRun", "Create the practice and its owner in an empty installation"), func(ctx context.Context, in *struct {
		api.Peer
		Body account.FirstRun
	}) (api.Me, error) {
		c, err := r.House.Found(ctx, in.Body)
		if err != nil {
			return api.Me{}, err
		}
		return r.signIn(ctx, c.Practice, c.User, in.Agent())
	}, door.Anyone)
	openRoute(r, get("/api/session", "getSession", "Who is signed in, if anybody"), func(ctx context.Context, _ *struct{}) (api.SessionState, error) {
		p, u, dev := r.Sessions.GetString(ctx, door.KeyPractice), r.Sessions.GetString(ctx, door.KeyUser), r.Sessions.GetString(ctx, door.KeyDevice)
		if p == "" || u == "" || dev == "" {
			return api.SessionState{}, nil
		}
		act, err := r.House.Enter(ctx, p, u, app.Visit{Device: dev})
		if errors.Is(err, app.ErrSignedOut) {
			return api.SessionState{}, nil
		}
		if err != nil {
			return api.SessionState{}, err
		}
		me := r.me(act)
		return api.SessionState{Me: &me}, nil
	}, door.Anyone)
	huma.Register(r.API, door.With(post("/api/session", "signIn", "Sign in"), door.Anyone), func(ctx context.Context, in *struct {
		api.Peer
		Body account.Claim
	}) (*signedInOut, error) {
		c, err := r.House.SignInOn(ctx, in.Body, in.Address(), in.Known())
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		me, err := r.signIn(ctx, c.Practice, c.User, in.Agent())
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return &signedInOut{r.Known(r.Sessions.GetString(ctx, door.KeyDevice), account.KnownFor), me}, nil
	})
	openRoute(r, op(http.MethodDelete, "/api/session", "signOut", "Sign out", http.StatusOK), func(ctx context.Context, _ *struct{}) (api.Nothing, error) {
		p, u, dev := r.Sessions.GetString(ctx, door.KeyPractice), r.Sessions.GetString(ctx, door.KeyUser), r.Sessions.GetString(ctx, door.KeyDevice)
		if dev != "" {
			if err := r.House.CloseDevice(ctx, p, u, dev); err != nil {
				return api.Nothing{}, err
			}
		}
		return api.Nothing{}, r.Sessions.Destroy(ctx)
	}, door.Anyone)
}
