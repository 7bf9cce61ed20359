// Package door lets requests in: who it is, what they may, how much they bring and
// whether there is room for it, before a byte of what they send is read.
package door

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"golang.org/x/sync/semaphore"

	"notchback/app"
	"notchback/app/house"
	"notchback/store"
)

// rule is what an operation asks of whoever comes in, before a byte of what they
// send is read.
type rule struct {
	anyone   bool // nobody has to be signed in
	phone    bool // for a runner's own phone, and for nobody else
	needs    app.Role
	of       store.Kind    // the record in the address
	personal bool          // for the person alone, not for a program of theirs
	listed   bool          // in the access log without a record in the address
	weight   int64         // of the work, beside that of the body
	comes    bool          // the body is read by the work, as it comes
	lands    time.Duration // until all that is sent is there
	time     time.Duration // for all of it
}

// Limits of the door (house). The hall holds the work of a hundred ordinary
// requests, or four heavy ones, at once; what comes beyond waits its turn. Whoever
// is not signed in waits in the porch, in nobody else's way. What is sent is landed
// on a quay before there is a claim on either room: who sends slowly holds up only
// others that send, and only by what they bring.
const (
	ordinary    = 10 * time.Second
	uploads     = 70 * time.Second
	lands       = 5 * time.Second // a body
	landsLong   = time.Minute     // a file
	hallSize    = 128
	porchSize   = 32
	quaySize    = 1024 // 256 MB
	mooringSize = 128  // the quay of those who are not signed in
	heavyWeight = 32
	weighs      = 256 << 10        // bytes of a body that weigh 1
	answerTime  = 30 * time.Second // for an answer to be read, once it is there
)

// Rule is one thing that holds for an operation.
type Rule func(*rule)

func Anyone(r *rule)  { r.anyone = true }
func Phone(r *rule)   { r.phone = true }
func Owners(r *rule)  { r.needs = app.Owns }
func Reading(r *rule) { r.needs = app.Reads }
func Heavy(r *rule)   { r.weight = heavyWeight }
func Long(r *rule)    { r.lands, r.time = landsLong, uploads }
func Listed(r *rule)  { r.listed = true }

// Personal is for the person alone: no program comes in with their key.
func Personal(r *rule) { r.personal = true }

// Slow takes as long as the reader's line does, a quarter of an hour at most.
func Slow(r *rule) { r.weight, r.time = 0, 15*time.Minute }

const ruleKey = "rule"

// records are the beginnings of addresses that name a runner's record.
var records = map[string]store.Kind{
	"/api/runners/{id}": store.OfRunner, "/api/screenings/{id}": store.OfScreening, "/api/blocks/{id}": store.OfBlock,
	"/api/decisions/{id}": store.OfDecision, "/api/clips/{id}": store.OfClip, "/api/runs/{id}": store.OfRun,
}

// With lays rules on an operation over those of its method and address: whoever is
// signed in may read, coaches may change.
func With(o huma.Operation, list ...Rule) huma.Operation {
	r, ok := o.Metadata[ruleKey].(*rule)
	if !ok {
		r = &rule{weight: 1, lands: lands, time: ordinary}
		if o.Method != http.MethodGet {
			r.needs = app.Writes
		}
		for at, k := range records {
			if o.Path == at || strings.HasPrefix(o.Path, at+"/") {
				r.of = k
			}
		}
		o.Metadata = map[string]any{ruleKey: r}
		o.BodyReadTimeout = -1 // the door waits for the body, with a time of its own
	}
	for _, x := range list {
		x(r)
	}
	switch {
	case r.anyone:
		o.Security = nil
	case r.phone:
		o.Security = []map[string][]string{{ByPhone: {}}}
	case r.personal, r.needs == app.Owns:
		o.Security = []map[string][]string{{BySession: {}}}
	default:
		o.Security = []map[string][]string{{BySession: {}}, {ByKey: {}}}
	}
	return o
}

// The ways in, as the OpenAPI document names them.
const (
	BySession = "session"
	ByPhone   = "phone"
	ByKey     = "key"
)

func ruleOf(o *huma.Operation) *rule {
	r, ok := o.Metadata[ruleKey].(*rule)
	if !ok {
		panic("operation " + o.OperationID + " has no rule at the door")
	}
	return r
}

var uuidText = regexp.MustCompile(`^[0-9a-fA-F]{8}-([0-9a-fA-F]{4}-){3}[0-9a-fA-F]{12}$`)

type (
	actorKey   struct{}
	requestKey struct{}
)

// Request is what is known of a request beside its context, for the logs.
type Request struct{ ID, Operation string }

// Named returns a context of the request, and the place for what becomes known of it.
func Named(ctx context.Context, id string) (context.Context, *Request) {
	q := &Request{ID: id}
	return context.WithValue(ctx, requestKey{}, q), q
}

// RequestOf is what is known of the request of a context.
func RequestOf(ctx context.Context) *Request {
	if r, ok := ctx.Value(requestKey{}).(*Request); ok {
		return r
	}
	return &Request{}
}

// Door is the way in to a house.
type Door struct {
	house    *house.House
	sessions *scs.SessionManager
	log      *slog.Logger
	hall     *semaphore.Weighted
	porch    *semaphore.Weighted
	// quay and mooring hold what is being sent, until it is there
	quay, mooring *semaphore.Weighted
}

// New returns the door of a house, with nobody in it.
func New(h *house.House, sessions *scs.SessionManager, log *slog.Logger) *Door {
	return &Door{house: h, sessions: sessions, log: log, hall: semaphore.NewWeighted(hallSize), porch: semaphore.NewWeighted(porchSize), quay: semaphore.NewWeighted(quaySize), mooring: semaphore.NewWeighted(mooringSize)}
}

// In lets a request in, in this order: its deadline, who it is, what they may,
// how much it brings, whether there is room for it.
func (d *Door) In(hc huma.Context, next func(huma.Context)) {
	o := hc.Operation()
	r := ruleOf(o)
	RequestOf(hc.Context()).Operation = o.OperationID
	ctx, cancel := context.WithTimeout(hc.Context(), r.time)
	defer cancel()
	hc = huma.WithContext(hc, ctx)
	// Who reads the answer slowly holds no room for ever either.
	_ = http.NewResponseController(humagin.Unwrap(hc).Writer).SetWriteDeadline(time.Now().Add(r.time + answerTime))
	if !r.anyone {
		act, err := d.enter(hc, o, r)
		if err != nil {
			d.refuse(hc, err)
			return
		}
		hc = huma.WithValue(hc, actorKey{}, act)
	}
	brings, err := bodySize(hc, o)
	if err != nil {
		d.refuse(hc, err)
		return
	}
	quay, room, weight := d.quay, d.hall, min(r.weight+brings/weighs, hallSize)
	if r.anyone {
		quay, room, weight = d.mooring, d.porch, 1
	}
	if o.RequestBody != nil {
		berth := min(1+brings/weighs, quaySize)
		if !d.admit(hc, quay, berth) {
			return
		}
		defer quay.Release(berth)
		if r.comes {
			next(hc)
			return
		}
		if err := land(hc, o, r); err != nil {
			d.refuse(hc, err)
			return
		}
	}
	if weight > 0 {
		if !d.admit(hc, room, weight) {
			return
		}
		defer room.Release(weight)
	}
	next(hc)
}

// admit waits for room until the request's deadline.
func (d *Door) admit(hc huma.Context, room *semaphore.Weighted, weight int64) bool {
	if room.Acquire(hc.Context(), weight) == nil {
		return true
	}
	d.refuse(hc, huma.ErrorWithHeaders(huma.Error503ServiceUnavailable("too much is going on right now; nothing was changed, try again in a moment"), http.Header{"Retry-After": {"5"}}))
	return false
}

// land takes in all that is sent, within the size and the time of the operation.
func land(hc huma.Context, o *huma.Operation, r *rule) error {
	req := humagin.Unwrap(hc).Request
	if err := hc.SetReadDeadline(time.Now().Add(r.lands)); err != nil {
		return fmt.Errorf("set the time for a body: %w", err)
	}
	var in io.Reader = req.Body
	if o.MaxBodyBytes > 0 {
		in = &bounded{req.Body, o.MaxBodyBytes, o.MaxBodyBytes}
	}
	b, err := io.ReadAll(in)
	var large *app.TooLarge
	switch {
	case errors.As(err, &large):
		return huma.Error413RequestEntityTooLarge("this is larger than " + strconv.FormatInt(o.MaxBodyBytes, 10) + " bytes")
	case err != nil:
		return huma.Error408RequestTimeout("what was sent did not arrive whole in time; nothing was changed, try again")
	}
	req.Body = io.NopCloser(bytes.NewReader(b))
	return nil
}

// bodySize is how much a request brings at the most.
func bodySize(hc huma.Context, o *huma.Operation) (int64, error) {
	if o.Method == http.MethodGet || o.Method == http.MethodHead {
		return 0, nil
	}
	n, most := humagin.Unwrap(hc).Request.ContentLength, o.MaxBodyBytes
	if most > 0 && n > most {
		return 0, huma.Error413RequestEntityTooLarge("this is larger than " + strconv.FormatInt(most, 10) + " bytes")
	}
	if n < 0 {
		n = max(most, 0)
	}
	return n, nil
}

// A phone's cookie lives by itself, beside a coach's session on the same device.
const (
	phoneCookie     = "notchback-pocket"
	phoneCookieHost = "__Host-notchback-pocket"
)

// PhoneCookie carries a phone's secret for so long; secure servers' for https alone.
func PhoneCookie(secure bool, secret string, life time.Duration) http.Cookie {
	c := http.Cookie{Name: phoneCookie, Value: secret, Path: "/", MaxAge: int(life.Seconds()), HttpOnly: true, Secure: secure, SameSite: http.SameSiteStrictMode}
	if secure {
		c.Name = phoneCookieHost
	}
	return c
}

// secret is what a phone brings along, "" for none.
func (d *Door) secret(hc huma.Context) string {
	req := humagin.Unwrap(hc).Request
	for _, name := range []string{phoneCookieHost, phoneCookie} {
		if c, err := req.Cookie(name); err == nil {
			return c.Value
		}
	}
	return ""
}

// enter is who is signed in, let in to the operation.
func (d *Door) enter(hc huma.Context, o *huma.Operation, r *rule) (app.Actor, error) {
	if r.phone {
		return d.house.EnterPocket(hc.Context(), d.secret(hc), o.OperationID)
	}
	v := app.Visit{Operation: o.OperationID, Needs: r.needs, Listed: r.listed, Personal: r.personal, Changes: o.Method != http.MethodGet && r.needs != app.Reads}
	if r.of != "" {
		v.Of, v.ID = r.of, hc.Param("id")
	}
	if key, ok := strings.CutPrefix(hc.Header("Authorization"), "Bearer "); ok {
		if v.Of != "" && !uuidText.MatchString(v.ID) {
			return app.Actor{}, app.ErrNotFound
		}
		return d.house.ByKey(hc.Context(), strings.TrimSpace(key), v)
	}
	p, u := d.sessions.GetString(hc.Context(), KeyPractice), d.sessions.GetString(hc.Context(), KeyUser)
	dev := d.sessions.GetString(hc.Context(), KeyDevice)
	if p == "" || u == "" || dev == "" {
		return app.Actor{}, huma.Error401Unauthorized("sign in first")
	}
	if v.Device = dev; v.Of != "" && !uuidText.MatchString(v.ID) {
		return app.Actor{}, app.ErrNotFound
	}
	return d.house.Enter(hc.Context(), p, u, v)
}

// refuse answers without reading what was sent.
func (d *Door) refuse(hc huma.Context, err error) {
	var se huma.StatusError
	if !errors.As(d.Problem(hc.Context(), err), &se) {
		return
	}
	var withHeaders huma.HeadersError
	if errors.As(d.Problem(hc.Context(), err), &withHeaders) {
		for k, list := range withHeaders.GetHeaders() {
			for _, v := range list {
				hc.AppendHeader(k, v)
			}
		}
	}
	// What follows unread on this connection is not worth reading.
	if hc.Operation().Method != http.MethodGet {
		hc.SetHeader("Connection", "close")
	}
	hc.SetHeader("Content-Type", "application/problem+json")
	hc.SetStatus(se.GetStatus())
	_ = json.NewEncoder(hc.BodyWriter()).Encode(se)
}
