package routes

import (
	"bytes"
	"cmp"
	"context"
	"maps"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/account"
	"notchback/formats"
	"notchback/web/api"
	"notchback/web/door"
)

// happenings are lines of the access log that are no operation.
var happenings = map[string]string{"signInFailed": "Sign in with a wrong password", "signInThrottled": "Sign in too often", "joined": "Came in by an invitation",
	"passwordReset": "Set a new password by a link", "passwordChanged": "Changed the own password", "resetFromConsole": "A new password was asked for on the server itself",
	"secondFailed": "Sign in with the right password and a wrong code", "secondOn": "Signs in with a second device from now on", "secondOff": "Took the own second device off", "secondTakenOff": "An owner took the second device off",
	"secondOffFromConsole": "The second device was taken off on the server itself"}

func accessRoutes(r *Routes) {
	words := sync.OnceValue(func() map[string]string {
		out := maps.Clone(happenings)
		for _, p := range r.API.OpenAPI().Paths {
			for _, o := range []*huma.Operation{p.Get, p.Post, p.Put, p.Delete} {
				if o != nil {
					out[o.OperationID] = o.Summary
				}
			}
		}
		return out
	})
	route(r, get("/api/access-log", "getAccessLog", "Who was let in to what, newest first"), func(ctx context.Context, act app.Actor, in *struct {
		account.Looked
		Below int64 `query:"below" minimum:"0" doc:"The last line of the page before, 0 for the newest"`
	}) (api.Items[api.AccessEntry], error) {
		list, err := r.House.AccessLog(ctx, act, in.Looked, in.Below)
		out := api.Items[api.AccessEntry]{Items: []api.AccessEntry{}}
		for _, l := range list {
			out.Items = append(out.Items, api.AccessEntry{AccessLine: l, What: cmp.Or(words()[l.Did], l.Did)})
		}
		return out, err
	}, door.Owners, door.Listed)
	download(r, gives(get("/api/access-log/csv", "getAccessTable", "Who was let in to what, as a table"), "text/csv"), func(ctx context.Context, act app.Actor, in *account.Looked) (*api.FileOut, error) {
		list, err := r.House.AccessLines(ctx, act, *in)
		if err != nil {
			return nil, err
		}
		rows := make([]map[string]any, len(list))
		for i, l := range list {
			rows[i] = map[string]any{"when": l.At.UTC().Format(time.RFC3339), "who": l.By, "key": l.Key, "runner": l.Runner, "what": cmp.Or(words()[l.Did], l.Did), "refused": l.Refused}
		}
		var b bytes.Buffer
		err = formats.AnyCSV(&b, rows)
		return fileOut(app.File{Name: "who-looked.csv", Type: "text/csv; charset=utf-8", Body: b.Bytes()}), err
	}, door.Owners, door.Listed, door.Heavy)
}
