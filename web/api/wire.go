// Package api holds the shapes of what goes over the wire, beside those of the use
// cases: paths, keys, lists, computations, and how they turn into values of the core.
package api

import (
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"notchback/app/view"
	coreBody "notchback/core/body"
	"notchback/core/day"
	"notchback/core/screening"
)

// TrialPath is the place of one trial.
type TrialPath struct {
	ByID
	Test screening.TestID `path:"test"`
	Side coreBody.Side    `path:"side" enum:"left,right,both"`
	Slot int              `path:"slot" minimum:"1" maximum:"9"`
}

// Me is who is signed in.
type Me struct {
	ID         string   `json:"id"`
	PracticeID string   `json:"practiceId"`
	Name       string   `json:"name"`
	Email      string   `json:"email"`
	Role       string   `json:"role" enum:"owner,coach,viewer"`
	Practice   string   `json:"practice"`
	Today      day.Date `json:"today" format:"date" doc:"The practice's local date"`
	Zone       string   `json:"zone" doc:"The practice's time zone"`
	Units      string   `json:"units" enum:"metric,imperial" doc:"What distances and weights are read and typed in"`
}

// SessionState is who is signed in; empty for nobody.
type SessionState struct {
	Me *Me `json:"me,omitempty"`
}

// CurrentBlock is a runner's present block; empty where there is none.
type CurrentBlock struct {
	Block *view.Block `json:"block,omitempty"`
}

// Items is a list of records.
type Items[T any] struct {
	Items []T `json:"items" nullable:"false"`
}

// StartState says whether the installation still waits for its first practice.
type StartState struct {
	Empty bool `json:"empty"`
}

// Nothing is an empty answer.
type Nothing struct{}

// ByPerson is the user in the path.
type ByPerson struct {
	User string `path:"user" format:"uuid"`
}

// WithPassword is what is asked for with the present password.
type WithPassword struct {
	Body struct {
		Old string `json:"old" maxLength:"200" doc:"The present password"`
	}
}

// ByID is the record in the path.
type ByID struct {
	ID string `path:"id" format:"uuid"`
}

// Part is the part of a screening that is saved, at the revision that was read.
type Part struct {
	ByID
	Rev    int    `query:"rev" minimum:"0" doc:"The revision that was read, 0 for none"`
	Reason string `query:"reason" maxLength:"300" doc:"Needed to correct a finished screening"`
}

// Zone is a place on the sole and leg map.
type Zone struct {
	ID   screening.Zone `json:"id"`
	Name string         `json:"name"`
}

// Keyed carries the key under which a request is answered once.
type Keyed struct {
	Key string `header:"Idempotency-Key" maxLength:"80" doc:"The same key with the same body is answered once"`
}

// The cookie of a browser that was signed in on, behind https and without.
const (
	KnownHost  = "__Host-notchback-known"
	KnownPlain = "notchback-known"
)

// KnownCookie remembers a device for so long.
func KnownCookie(secure bool, device string, life time.Duration) http.Cookie {
	c := http.Cookie{Name: KnownPlain, Value: device, Path: "/", MaxAge: int(life.Seconds()), HttpOnly: true, Secure: secure, SameSite: http.SameSiteStrictMode}
	if secure {
		c.Name = KnownHost
	}
	return c
}

// Peer is where a request came from.
type Peer struct{ address, agent, known string }

// Address is where the request came from.
func (p *Peer) Address() string { return p.address }

// Agent is what the browser calls itself.
func (p *Peer) Agent() string { return p.agent }

// Known is the device the browser says it was signed in on as, "" for none.
func (p *Peer) Known() string { return p.known }

// Resolve notes where the request came from, for the sign-in throttle; behind
// proxies that are trusted, where they say it did.
func (p *Peer) Resolve(c huma.Context) []error {
	p.address, p.agent = humagin.Unwrap(c).ClientIP(), c.Header("User-Agent")
	if k, err := huma.ReadCookie(c, KnownHost); err == nil {
		p.known = k.Value
	} else if k, err := huma.ReadCookie(c, KnownPlain); err == nil {
		p.known = k.Value
	}
	return nil
}
