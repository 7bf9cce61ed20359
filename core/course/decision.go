package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
)

// State of a decision. What may follow what:
//
//	from        to          when
//	–           Waiting     a session is logged, nothing takes load away, its next morning may still come
//	–           Applied     load is taken away at once (any kind); or its morning is known or missing and the peg is held
//	–           Proposed    a step up, a way back or a put-back that the coach answers
//	–           Accepted    a step up that the runner's setting lets go by itself
//	Waiting     Applied     the morning came, or noon of that day: held or taken back
//	Waiting     Proposed    the morning came: a step up
//	Waiting     Accepted    the same, let go by the runner's setting
//	Waiting     Overridden  the coach put the peg elsewhere
//	Waiting     Superseded  a correction of the session's own day
//	Applied     Overridden  the coach put the peg elsewhere
//	Applied     Superseded  a late or corrected reading of a day it rests on; a flare of the same mornings
//	Proposed    Accepted    the coach accepted
//	Proposed    Overridden  the coach put the peg elsewhere
//	Proposed    Superseded  a newer session, a stop, a pause, a worse morning, a late reading
//	Accepted    Proposed    taken back the same day, before a session followed
//	Accepted    Overridden  the coach put the peg elsewhere afterwards
//	Overridden  Overridden  and elsewhere again
//	Accepted    Superseded  a late reading that asks for less
//	Overridden  Applied     taken back the same day (Proposed where it was proposed)
//	Overridden  Superseded  a late reading that asks for less
//
// Superseded is the end. Nothing else happens to a decision: later days never
// make it again.
type DecisionState string

// The states.
const (
	Waiting    DecisionState = "waiting"
	Proposed   DecisionState = "proposed"
	Applied    DecisionState = "applied"
	Accepted   DecisionState = "accepted"
	Overridden DecisionState = "overridden"
	Superseded DecisionState = "superseded"
)

// follows is the table above.
var follows = map[DecisionState][]DecisionState{
	"":         {Waiting, Applied, Proposed, Accepted},
	Waiting:    {Applied, Proposed, Accepted, Overridden, Superseded},
	Applied:    {Overridden, Superseded},
	Proposed:   {Accepted, Overridden, Superseded},
	Accepted:   {Proposed, Overridden, Superseded},
	Overridden: {Applied, Proposed, Overridden, Superseded},
}

// MayFollow reports whether a decision may go from one state to another.
func MayFollow(from, to DecisionState) bool { return slices.Contains(follows[from], to) }

// Kind is what a decision is about.
type Kind string

// The kinds.
const (
	OfSession Kind = "session"  // one logged session
	OfWeek    Kind = "week"     // the weekly look
	OfGap     Kind = "gap"      // days without the ladder
	OfFlare   Kind = "flare"    // a flare on this tissue
	OfFlag    Kind = "flag"     // a flag closes it
	WayBack   Kind = "way-back" // after a stop
)

// TurnWhy says why a decision's state changed.
type TurnWhy string

// The reasons of a turn.
const (
	ByLog        TurnWhy = "logged"
	ByMorning    TurnWhy = "morning"
	ByNoon       TurnWhy = "noon"
	ByLate       TurnWhy = "late-reading"
	BySession    TurnWhy = "newer-session"
	ByStop       TurnWhy = "stopped"
	ByWorse      TurnWhy = "not-quiet-any-more"
	ByFlare      TurnWhy = "flare"
	ByFlag       TurnWhy = "flag"
	ByGap        TurnWhy = "gap"
	ByWeek       TurnWhy = "week"
	ByQuiet      TurnWhy = "quiet"     // a way back after quiet mornings
	ByClearance  TurnWhy = "clearance" // nothing closes it any more
	ByVisit      TurnWhy = "visit"     // screened again
	BySetting    TurnWhy = "let-go"
	ByCoach      TurnWhy = "coach"
	ByTakeBack   TurnWhy = "taken-back"
	ByEngine     TurnWhy = "engine" // brought over from an older edition
	ByOwnMorning TurnWhy = "own-morning"
)

// Turn is one step in the life of a decision.
type Turn struct {
	At      Moment          `json:"at"`
	State   DecisionState   `json:"state"`
	Why     TurnWhy         `json:"why"`
	Reading *adjust.Reading `json:"reading,omitempty"` // the late one
	By      string          `json:"by,omitempty"`      // who answered
	Reason  string          `json:"reason,omitempty"`
	Notch   int             `json:"notch,omitempty"` // where the coach put it
}

// Given is what stood around a decision besides readings, kept so that it can be
// made again as it was.
type Given struct {
	Peg      int            `json:"peg"`
	Other    *int           `json:"other,omitempty"`
	LastUp   *day.Date      `json:"lastUp,omitempty"`
	LastBack *day.Date      `json:"lastBack,omitempty"`
	Fresh    *day.Date      `json:"fresh,omitempty"`
	Ups      int            `json:"ups"`
	Week     *adjust.Reason `json:"week,omitempty"`
}

// Input is what the table was asked for one side, kept so that a newer edition can
// be asked the same.
type Input struct {
	History adjust.History `json:"history"`
	Context adjust.Context `json:"context"`
}

// Again asks the table once more what a decision's inputs say.
func Again(in PerSide[Input], l catalogue.Ladder) (adjust.Decision, bool) {
	var out adjust.Decision
	any := false
	for _, x := range []*Input{in.Left, in.Right} {
		if x == nil {
			continue
		}
		x.Context.Ladder = l
		d := adjust.Decide(x.History, x.Context)
		if any {
			d = merge(out, d)
		}
		out, any = d, true
	}
	out.Raises = nil
	return out, any
}

// PerSide holds a value of each side a decision is about.
type PerSide[T any] struct {
	Left  *T `json:"left,omitempty"`
	Right *T `json:"right,omitempty"`
}

func (p *PerSide[T]) set(side body.Side, v T) {
	if side == body.Right {
		p.Right = &v
		return
	}
	p.Left = &v
}

func (p PerSide[T]) of(side body.Side) (T, bool) {
	x := p.Left
	if side == body.Right {
		x = p.Right
	}
	if x == nil {
		var zero T
		return zero, false
	}
	return *x, true
}

// Decision is one decision and its life.
type Decision struct {
	Key          string // prescription, side, kind, what it is about, and which one of those
	Prescription string
	Side         body.Side
	Kind         Kind
	Log          string   // the session it decides, where it decides one
	Session      day.Date // that session's date, or the day it looks at
	At           Moment
	State        DecisionState
	Final        bool // its morning is known, or counts as missing
	Remade       bool // made again for a late reading: a rise waits for the coach
	PutBack      int  // a notch that a lighter reading would have left; 0 for none
	D            adjust.Decision
	Rows         PerSide[adjust.Row]
	Frozen       PerSide[adjust.Frozen]
	Given        PerSide[Given]
	Before       PerSide[Peg] // before it was answered, to take the answer back
	Life         []Turn
	Inputs       PerSide[Input] // what the table was asked; not loaded again
	AnswerNotch  *int
	AnswerReason string
	Engine       int
}

// Stands reports whether a decision counts: it was not superseded.
func (d Decision) Stands() bool { return d.State != Superseded }

// Answered reports whether a coach, or the runner's setting, has spoken.
func (d Decision) Answered() bool { return d.State == Accepted || d.State == Overridden }

// Sides are the sides a decision is about.
func (d Decision) Sides() []body.Side {
	if d.Side == body.Both {
		return body.Sides[:]
	}
	return []body.Side{d.Side}
}

func (d Decision) rowOf(side body.Side) adjust.Row {
	if r, ok := d.Rows.of(side); ok {
		return r
	}
	return d.D.Row
}

func (d Decision) frozenOf(side body.Side) adjust.Frozen {
	if f, ok := d.Frozen.of(side); ok {
		return f
	}
	return d.D.Frozen
}

func (d Decision) cut() bool { return d.D.Verdict == adjust.Back || d.D.Verdict == adjust.Stop }

// AnswerKind is what a coach did with a decision.
type AnswerKind string

// The answers.
const (
	Accept   AnswerKind = "accept"
	Override AnswerKind = "override"
	TakeBack AnswerKind = "take-back"
	Typo     AnswerKind = "slip" // a severe reading was typed wrong: its flag ends
)

// Answer is a coach's word on a decision.
type Answer struct {
	Arrival
	Decision string // its key
	Kind     AnswerKind
	Notch    int
	Reason   string
	By       string
}

// Refusal says why an answer can't be given; empty when it can.
type Refusal string

// Why an answer is refused.
const (
	RefusedGone     Refusal = "gone"     // replaced by a newer one
	RefusedNothing  Refusal = "nothing"  // nothing to accept
	RefusedBudget   Refusal = "budget"   // two ladders went up this week
	RefusedStopped  Refusal = "stopped"  // a stop stands
	RefusedFlag     Refusal = "flag"     // a flag closes it
	RefusedFlare    Refusal = "flare"    // a flare stands on the same tissue
	RefusedMoved    Refusal = "moved"    // the peg stands elsewhere by now
	RefusedHeld     Refusal = "held"     // something holds it today
	RefusedGate     Refusal = "gate"     // a gate before that notch is closed
	RefusedQuiet    Refusal = "quiet"    // the mornings are not quiet any more
	RefusedFollowed Refusal = "followed" // a session followed, or the day is over
	RefusedRange    Refusal = "range"    // more than one notch up
)

// Barred is a refusal with what it rests on.
type Barred struct {
	Why    Refusal
	Reason *adjust.Reason
	Flag   safety.FlagID
	Gate   string
}

func (b Barred) ok() bool { return b.Why == "" }
