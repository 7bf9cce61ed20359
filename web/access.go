package web

import (
	"cmp"
	"context"
	"maps"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/account"
)

// AccessEntry is a line of the access log in plain words.
type AccessEntry struct {
	account.AccessLine
	What string `json:"what" doc:"The operation in words"`
}

// happenings are lines of the access log that are no operation.
var happenings = map[string]string{"signInFailed": "Sign in with a wrong password", "signInThrottled": "Sign in too often"}

func (s *server) registerAccess(api huma.API) {
	words := sync.OnceValue(func() map[string]string {
		out := maps.Clone(happenings)
		for _, p := range api.OpenAPI().Paths {
			for _, o := range []*huma.Operation{p.Get, p.Post, p.Put, p.Delete} {
				if o != nil {
					out[o.OperationID] = o.Summary
				}
			}
		}
		return out
	})
	huma.Register(api, with(get("/api/access-log", "getAccessLog", "Who was let in to what, newest first"), owners, listed),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Runner string `query:"runner" format:"uuid" doc:"Of one runner"`
			Below  int64  `query:"below" minimum:"0" doc:"The last line of the page before, 0 for the newest"`
		}) (Items[AccessEntry], error) {
			list, err := s.app.AccessLog(ctx, act, in.Runner, in.Below)
			out := Items[AccessEntry]{Items: []AccessEntry{}}
			for _, l := range list {
				out.Items = append(out.Items, AccessEntry{l, cmp.Or(words()[l.Did], l.Did)})
			}
			return out, err
		}))
}
