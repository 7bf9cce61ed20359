package web

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
)

// problem turns an error of a use case into problem details.
func (s *server) problem(err error) error {
	var invalid app.Invalid
	var throttled app.Throttled
	var changed app.Changed
	var refused app.Refused
	var already huma.StatusError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &already):
		return err
	case errors.As(err, &invalid):
		details := make([]error, len(invalid))
		for i, f := range invalid {
			details[i] = &huma.ErrorDetail{Location: "body." + f.Field, Message: f.Message}
		}
		return huma.Error422UnprocessableEntity("some of this can't be saved", details...)
	case errors.As(err, &throttled):
		return huma.ErrorWithHeaders(huma.Error429TooManyRequests(throttled.Error()),
			http.Header{"Retry-After": {strconv.Itoa(int(throttled.Wait.Seconds()) + 1)}})
	case errors.As(err, &changed):
		return huma.Error412PreconditionFailed(changed.Error(), &huma.ErrorDetail{Location: "body", Message: "what stands now", Value: changed.Now})
	case errors.As(err, &refused):
		return huma.Error409Conflict(refused.Error())
	case errors.Is(err, app.ErrSignIn):
		return huma.Error401Unauthorized(err.Error())
	case errors.Is(err, app.ErrForbidden):
		return huma.Error403Forbidden(err.Error())
	case errors.Is(err, app.ErrNotFound):
		return huma.Error404NotFound("there is no such record")
	case errors.Is(err, app.ErrConflict):
		return huma.Error409Conflict("this was changed in the meantime; look again")
	case errors.Is(err, context.DeadlineExceeded):
		return huma.Error503ServiceUnavailable("this took too long; nothing was changed, try again")
	}
	s.log.Error("request failed", "err", err)
	return huma.Error500InternalServerError("something went wrong here; nothing was changed")
}

func writeProblem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(&huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail})
}

const (
	keyPractice = "practice"
	keyUser     = "user"
)

// actor returns who is signed in; 401 for nobody.
func (s *server) actor(ctx context.Context) (app.Actor, error) {
	p, u := s.sess.GetString(ctx, keyPractice), s.sess.GetString(ctx, keyUser)
	if p == "" || u == "" {
		return app.Actor{}, huma.Error401Unauthorized("sign in first")
	}
	act, err := s.app.Actor(ctx, p, u)
	if errors.Is(err, app.ErrNotFound) {
		return act, huma.Error401Unauthorized("sign in again")
	}
	return act, err
}

type body[T any] struct{ Body T }

// signed wraps a use case for someone who is signed in.
func signed[I, T any](s *server, fn func(ctx context.Context, act app.Actor, in *I) (T, error)) func(context.Context, *I) (*body[T], error) {
	return func(ctx context.Context, in *I) (*body[T], error) {
		act, err := s.actor(ctx)
		if err != nil {
			return nil, s.problem(err)
		}
		out, err := fn(ctx, act, in)
		if err != nil {
			return nil, s.problem(err)
		}
		return &body[T]{out}, nil
	}
}

// open wraps a function anyone may call.
func open[I, T any](s *server, fn func(ctx context.Context, in *I) (T, error)) func(context.Context, *I) (*body[T], error) {
	return func(ctx context.Context, in *I) (*body[T], error) {
		out, err := fn(ctx, in)
		if err != nil {
			return nil, s.problem(err)
		}
		return &body[T]{out}, nil
	}
}
