package door

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"runtime/debug"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/intake"
)

// Problem turns an error of a use case into problem details.
func (d *Door) Problem(ctx context.Context, err error) error {
	var invalid app.Invalid
	var throttled account.Throttled
	var changed intake.Changed
	var refused app.Refused
	var already huma.StatusError
	var large *app.TooLarge
	switch {
	case err == nil:
		return nil
	case errors.As(err, &large):
		return huma.Error413RequestEntityTooLarge(err.Error())
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
	case errors.Is(err, account.ErrSignIn), errors.Is(err, app.ErrSignedOut):
		return huma.Error401Unauthorized(err.Error())
	case errors.Is(err, app.ErrForbidden):
		return huma.Error403Forbidden(err.Error())
	case errors.Is(err, app.ErrNotFound):
		return huma.Error404NotFound("there is no such record")
	case errors.Is(err, app.ErrValue):
		return huma.Error422UnprocessableEntity("something here holds a character or a number that can't be kept; type it again")
	case errors.Is(err, app.ErrConflict):
		return huma.Error409Conflict("this was changed in the meantime; look again")
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return huma.Error503ServiceUnavailable("this took too long; nothing was changed, try again")
	}
	r := RequestOf(ctx)
	d.log.ErrorContext(ctx, "request failed", "id", r.ID, "operation", r.Operation, "err", err, "stack", string(debug.Stack()))
	return huma.Error500InternalServerError("something went wrong here; nothing was changed. Should you ask about it, its number is " + r.ID)
}

// WriteProblem answers with problem details outside of an operation.
func WriteProblem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(&huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail})
}

// The keys of a web session.
const (
	KeyPractice = "practice"
	KeyUser     = "user"
	KeyDevice   = "device"
)

// Actor is who was let in at the door.
func Actor(ctx context.Context) app.Actor {
	act, _ := ctx.Value(actorKey{}).(app.Actor)
	return act
}
