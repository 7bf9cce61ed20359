package routes

import (
	"context"
	"net/http"

	"notchback/app"
	"notchback/app/account"
	"notchback/web/api"
	"notchback/web/door"
)

// staffRoutes are who works in the practice, and everybody's own page.
func staffRoutes(r *Routes) {
	route(r, get("/api/staff", "getStaff", "Who works in the practice"), func(ctx context.Context, act app.Actor, _ *struct{}) (account.Staff, error) {
		return r.House.Staff(ctx, act)
	})
	route(r, post("/api/staff/invitations", "invite", "Make a link by which one person comes into the practice"), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			Role string `json:"role" enum:"owner,coach,viewer"`
			Note string `json:"note" maxLength:"80" doc:"Whom it is for"`
		}
	}) (account.Link, error) {
		return r.House.Invite(ctx, act, in.Body.Role, in.Body.Note)
	}, door.Owners, door.Listed)
	route(r, op(http.MethodDelete, "/api/staff/invitations/{invitation}", "withdrawInvitation", "Take a link back", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		Invitation string `path:"invitation" format:"uuid"`
	}) (account.Staff, error) {
		return r.House.Withdraw(ctx, act, in.Invitation)
	}, door.Owners, door.Listed)
	route(r, put("/api/staff/{user}/role", "giveRole", "Change what somebody may do"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByPerson
		Body struct {
			Role string `json:"role" enum:"owner,coach,viewer"`
		}
	}) (account.Staff, error) {
		return r.House.GiveRole(ctx, act, in.User, in.Body.Role)
	}, door.Owners, door.Listed)
	route(r, op(http.MethodDelete, "/api/staff/{user}", "letGo", "Remove somebody and hand their runners over", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByPerson
		To string `query:"to" format:"uuid" doc:"Who looks after their runners from now on; nobody when empty"`
	}) (account.Staff, error) {
		return r.House.LetGo(ctx, act, in.User, in.To)
	}, door.Owners, door.Listed)
	route(r, post("/api/staff/{user}/reset", "resetPassword", "Make a link by which somebody sets a new password"), func(ctx context.Context, act app.Actor, in *api.ByPerson) (account.Link, error) {
		return r.House.ResetLink(ctx, act, in.User)
	}, door.Owners, door.Listed)
	route(r, put("/api/runners/{id}/coach", "setCoach", "Say who looks after a runner"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Coach string `json:"coach" doc:"Nobody when empty" maxLength:"36"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.SetCoach(ctx, act, in.ID, in.Body.Coach)
	})

	openRoute(r, post("/api/welcome", "getWelcome", "What an invitation or a reset link leads to"), func(ctx context.Context, in *struct {
		Body struct {
			Token string `json:"token" maxLength:"60"`
		}
	}) (account.Welcome, error) {
		return r.House.Welcome(ctx, in.Body.Token)
	}, door.Anyone)
	openRoute(r, post("/api/join", "join", "Use an invitation or a reset link"), func(ctx context.Context, in *struct {
		api.Peer
		Body account.Joining
	}) (api.Me, error) {
		c, err := r.House.ComeIn(ctx, in.Body, in.Address())
		if err != nil {
			return api.Me{}, err
		}
		return r.signIn(ctx, c.Practice, c.User, in.Agent())
	}, door.Anyone)

	route(r, get("/api/me", "getOwn", "The own page: name, address, devices"), func(ctx context.Context, act app.Actor, _ *struct{}) (account.Own, error) {
		return r.House.Own(ctx, act)
	}, door.Personal)
	route(r, put("/api/me", "putOwn", "Change the own name or address"), func(ctx context.Context, act app.Actor, in *struct{ Body account.Profile }) (account.Own, error) {
		return r.House.PutProfile(ctx, act, in.Body)
	}, door.Reading, door.Listed, door.Personal)
	route(r, put("/api/me/password", "changePassword", "Change the own password; other devices are signed out"), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			Old      string `json:"old" maxLength:"200"`
			Password string `json:"password" maxLength:"200" doc:"At least 10 characters"`
		}
	}) (account.Own, error) {
		own, err := r.House.ChangePassword(ctx, act, in.Body.Old, in.Body.Password)
		if err == nil {
			err = r.Sessions.RenewToken(ctx)
		}
		return own, err
	}, door.Reading, door.Listed, door.Personal)
	route(r, op(http.MethodDelete, "/api/me/devices", "signOutElsewhere", "Sign out on one device, or on all others", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		Device string `query:"device" format:"uuid" doc:"All others when empty"`
	}) (account.Own, error) {
		return r.House.SignOutOf(ctx, act, in.Device)
	}, door.Reading, door.Listed, door.Personal)

	again := func(ctx context.Context, err error) error {
		if err != nil {
			return err
		}
		return r.Sessions.RenewToken(ctx)
	}
	route(r, post("/api/me/second", "beginSecond", "Make the secret of a second device; it counts from its first code on"), func(ctx context.Context, act app.Actor, in *api.WithPassword) (account.Setup, error) {
		return r.House.BeginSecond(ctx, act, in.Body.Old)
	}, door.Reading, door.Listed, door.Personal)
	route(r, put("/api/me/second", "countSecond", "Type the first code of a second device; recovery codes are shown once, other devices are signed out"), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			Code string `json:"code" maxLength:"40"`
		}
	}) (account.Second, error) {
		out, err := r.House.BeginsWithCode(ctx, act, in.Body.Code)
		return out, again(ctx, err)
	}, door.Reading, door.Listed, door.Personal)
	route(r, post("/api/me/second/codes", "newRecoveryCodes", "Make new recovery codes; they are shown once"), func(ctx context.Context, act app.Actor, in *api.WithPassword) (account.Second, error) {
		return r.House.NewRecovery(ctx, act, in.Body.Old)
	}, door.Reading, door.Listed, door.Personal)
	route(r, post("/api/me/second/end", "endSecond", "Take the own second device off"), func(ctx context.Context, act app.Actor, in *api.WithPassword) (account.Own, error) {
		out, err := r.House.EndSecond(ctx, act, in.Body.Old)
		return out, again(ctx, err)
	}, door.Reading, door.Listed, door.Personal)
	route(r, op(http.MethodDelete, "/api/staff/{user}/second", "takeSecondOff", "Take somebody's second device off; they are signed out", http.StatusOK), func(ctx context.Context, act app.Actor, in *api.ByPerson) (account.Staff, error) {
		return r.House.TakeSecondOff(ctx, act, in.User)
	}, door.Owners, door.Listed)

	route(r, post("/api/me/keys", "makeKey", "Make a key for a program; it is shown once"), func(ctx context.Context, act app.Actor, in *struct{ Body account.NewKey }) (account.KeyMade, error) {
		return r.House.MakeKey(ctx, act, in.Body)
	}, door.Reading, door.Listed, door.Personal)
	route(r, op(http.MethodDelete, "/api/me/keys/{key}", "dropKey", "Take a program's key back", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		Key string `path:"key" format:"uuid"`
	}) (account.Own, error) {
		return r.House.DropKey(ctx, act, in.Key)
	}, door.Reading, door.Listed, door.Personal)
	route(r, op(http.MethodDelete, "/api/staff/{user}/keys/{key}", "takeKeyBack", "Take a key of somebody's program back", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByPerson
		Key string `path:"key" format:"uuid"`
	}) (account.Staff, error) {
		return r.House.TakeKeyBack(ctx, act, in.User, in.Key)
	}, door.Owners, door.Listed)
}
