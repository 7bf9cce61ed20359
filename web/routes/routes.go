// Package routes holds the operations, one file a use case: where each is, what the
// door asks of it, and which function of the house answers.
package routes

import (
	"context"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/house"
	"notchback/web/api"
	"notchback/web/door"
)

// Routes is what operations need.
type Routes struct {
	API      huma.API
	House    *house.House
	Sessions *scs.SessionManager
	Problem  func(context.Context, error) error
	Known    func(device string, life time.Duration) http.Cookie // of a browser that was signed in on
	Phone    func(secret string, life time.Duration) http.Cookie // a phone's cookie
}

// All registers every operation.
func (r *Routes) All() {
	accountRoutes(r)
	staffRoutes(r)
	accessRoutes(r)
	rightsRoutes(r)
	runnersRoutes(r)
	screeningsRoutes(r)
	blocksRoutes(r)
	plansRoutes(r)
	outRoutes(r)
	shelfRoutes(r)
	runsRoutes(r)
	rampsRoutes(r)
	clipsRoutes(r)
	pocketRoutes(r)
	computeRoutes(r)
	loadComputeRoutes(r)
}

func op(method, path, id, summary string, status int) huma.Operation {
	return door.With(huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, DefaultStatus: status,
		Errors: []int{http.StatusUnauthorized, http.StatusNotFound, http.StatusConflict}})
}

func get(path, id, summary string) huma.Operation {
	return op(http.MethodGet, path, id, summary, http.StatusOK)
}

func post(path, id, summary string) huma.Operation {
	return op(http.MethodPost, path, id, summary, http.StatusOK)
}

func put(path, id, summary string) huma.Operation {
	return op(http.MethodPut, path, id, summary, http.StatusOK)
}

// gives says in which kinds of file an operation answers.
func gives(o huma.Operation, kinds ...string) huma.Operation {
	r := &huma.Response{Description: "OK", Content: map[string]*huma.MediaType{}}
	for _, k := range kinds {
		r.Content[k] = &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}
	}
	o.Responses = map[string]*huma.Response{"200": r}
	return o
}

type body[T any] struct{ Body T }

// route registers an operation for whoever the door lets in.
func route[I, T any](r *Routes, o huma.Operation, fn func(context.Context, app.Actor, *I) (T, error), rules ...door.Rule) {
	huma.Register(r.API, door.With(o, rules...), signed(r, fn))
}

// openRoute registers an operation that needs nobody.
func openRoute[I, T any](r *Routes, o huma.Operation, fn func(context.Context, *I) (T, error), rules ...door.Rule) {
	huma.Register(r.API, door.With(o, rules...), open(r, fn))
}

// download registers an operation that answers with a file.
func download[I any](r *Routes, o huma.Operation, fn func(context.Context, app.Actor, *I) (*api.FileOut, error), rules ...door.Rule) {
	huma.Register(r.API, door.With(o, rules...), func(ctx context.Context, in *I) (*api.FileOut, error) {
		out, err := fn(ctx, door.Actor(ctx), in)
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return out, nil
	})
}

// signed wraps a use case for whoever the door let in.
func signed[I, T any](r *Routes, fn func(context.Context, app.Actor, *I) (T, error)) func(context.Context, *I) (*body[T], error) {
	return open(r, func(ctx context.Context, in *I) (T, error) { return fn(ctx, door.Actor(ctx), in) })
}

// open wraps a function that needs nobody. What was not read in time is not begun.
func open[I, T any](r *Routes, fn func(context.Context, *I) (T, error)) func(context.Context, *I) (*body[T], error) {
	return func(ctx context.Context, in *I) (*body[T], error) {
		if err := ctx.Err(); err != nil {
			return nil, r.Problem(ctx, err)
		}
		out, err := fn(ctx, in)
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return &body[T]{out}, nil
	}
}
