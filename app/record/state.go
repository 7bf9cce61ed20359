package record

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// ReviewMonday is the Monday of the week a review is due for: the last complete
// one.
func ReviewMonday(today day.Date) day.Date { return today.Monday() - 7 }

// openedGate is a gate that opened lately.
type openedGate struct {
	Gate catalogue.Gate `json:"gate"`
	Name string         `json:"name"`
	On   day.Date       `json:"on"`
}

// BenchState is what the bench shows of a runner beside what its own query
// counts.
type BenchState struct {
	On      day.Date         `json:"on"`
	Open    []catalogue.Gate `json:"open"`
	Opened  []openedGate     `json:"opened"`
	Flags   []string         `json:"flags"`
	Flares  []string         `json:"flares"`
	Warning string           `json:"warning,omitempty"`
	Running load.Class       `json:"running"`
	Advice  string           `json:"advice,omitempty"`
	Urgent  bool             `json:"urgent,omitempty"` // the advice is not to run
	NewZone bool             `json:"newZone,omitempty"`
	Care    []string         `json:"care,omitempty"` // emergencies that stand
	Refer   []string         `json:"refer,omitempty"`
	Asks    []string         `json:"asks,omitempty"` // places whose safety questions are open
	Due     []string         `json:"due,omitempty"`  // gates whose tests are asked for
	Paused  []string         `json:"paused,omitempty"`
	Phases  []phaseState     `json:"phases,omitempty"`
	OutTo   *day.Date        `json:"outTo,omitempty"` // a bone is tender: nothing of the ramp
	Relook  *day.Date        `json:"relook,omitempty"`
	Cue     string           `json:"cue,omitempty"`
	Nexts   []string         `json:"nexts,omitempty"`  // changes that may be made
	Retest  string           `json:"retest,omitempty"` // a re-test of the plan that is due
	Quiet   string           `json:"quiet,omitempty"`  // nothing hurt for a week
	Ends    string           `json:"ends,omitempty"`   // the last week of the block
	Moved   []string         `json:"moved,omitempty"`  // regions whose phase changed lately
	Again   []string         `json:"again,omitempty"`  // left out four weeks ago
	Hurts   []Hurt           `json:"hurts"`            // the places that hurt
	Usual   float64          `json:"usual,omitempty"`  // first steps as usual
}

// Hurt is a place that hurts, with what was told of it last.
type Hurt struct {
	Zone screening.Zone `json:"zone"`
	Side body.Side      `json:"side,omitempty" enum:"left,right,"`
	Pain int            `json:"pain" doc:"Of the last reading, 0–10"`
	Name string         `json:"name"`
}

// OpenedFor is how long the bench shows that a gate opened, in days.
const OpenedFor = 7

// keepState makes a runner's line on the bench anew.
func (a *Book) keepState(ctx context.Context, tx *store.Tx, f *Frame) error {
	var old BenchState
	raw, err := tx.State(ctx, f.Runner.ID)
	known := err == nil
	if known {
		if err := json.Unmarshal(raw, &old); err != nil {
			return err
		}
	} else if !errors.Is(err, app.ErrNotFound) {
		return err
	}
	s := BenchState{On: f.Today, Open: []catalogue.Gate{}, Opened: []openedGate{}, Flags: []string{}, Flares: []string{}, Running: f.running}
	for _, g := range f.Gates {
		if !g.Open {
			continue
		}
		s.Open = append(s.Open, g.Gate)
		if known && !slices.Contains(old.Open, g.Gate) {
			s.Opened = append(s.Opened, openedGate{g.Gate, g.Name, f.Today})
		}
	}
	for _, o := range old.Opened {
		if slices.Contains(s.Open, o.Gate) && int(f.Today-o.On) < OpenedFor {
			s.Opened = append(s.Opened, o)
		}
	}
	for _, x := range f.Flags {
		switch {
		case x.Flag == safety.Open:
		case x.Level == safety.Emergency:
			s.Care = append(s.Care, words.Flag(x))
		case x.Level == safety.Refer:
			s.Refer = append(s.Refer, words.Flag(x))
		default:
			s.Flags = append(s.Flags, x.Name())
		}
	}
	for _, x := range f.Asks() {
		s.Asks = append(s.Asks, x.Name)
	}
	for _, g := range f.Gates {
		if g.Open && g.Until != nil && int(*g.Until-f.Today) <= safety.OpenDays-safety.AskFrom {
			s.Due = append(s.Due, g.Name+" up to "+g.Until.Words())
		} else if !g.Open && safety.Aged(f.Path.Evidence, g.Gate) {
			s.Due = append(s.Due, g.Name+": its tests are too old, what stands on it is held")
		}
	}
	for _, x := range f.Paused() {
		if !slices.Contains(s.Paused, x.Name) {
			s.Paused = append(s.Paused, x.Name)
		}
	}
	s.Hurts, s.Usual = f.hurts(), f.B0
	s.Phases = NextPhases(old.Phases, f)
	f.Phased = SinceOf(s.Phases)
	for _, x := range f.flares() {
		if t := x.Name + " since " + x.Since.Words(); !slices.Contains(s.Flares, t) {
			s.Flares = append(s.Flares, t)
		}
	}
	_, s.Warning = f.NextWeek()
	if adv := f.Advice(); adv.ID != load.AsPlanned && adv.ID != load.NotKnown {
		s.Advice, s.Urgent = words.Advice(adv), adv.ID == load.NoRunning
	}
	if r := f.Path.Ramp; r != nil {
		s.OutTo = r.OutTo
	}
	for _, n := range f.NextViews() {
		if n.Wait == "" {
			s.Nexts = append(s.Nexts, n.Name+" → "+n.ToName)
		}
	}
	s.Retest, s.Quiet, s.Ends, s.Again = f.DueRetest(), f.QuietWord(), f.EndWord(), f.OfferAgain()
	for _, p := range s.Phases {
		if known && p.Since > f.Start && int(f.Today-p.Since) < OpenedFor {
			s.Moved = append(s.Moved, p.Name)
		}
	}
	if c, ok := f.Path.CueNow(); ok {
		s.Relook, s.Cue = c.Due, c.Name
	}
	body, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return tx.PutState(ctx, f.Runner.ID, body)
}

// hurts are the places that hurt, with the worst of their last reading.
func (f *Frame) hurts() []Hurt {
	out := []Hurt{}
	for _, c := range f.Book.Complaints() {
		h := Hurt{Zone: c.Zone, Side: c.Side, Name: c.Zone.Name()}
		if n := len(c.Readings); n > 0 {
			last := c.Readings[n-1]
			for _, p := range []*body.Pain{last.FirstStep, last.Rest} {
				if p != nil {
					h.Pain = max(h.Pain, int(*p))
				}
			}
		}
		out = append(out, h)
	}
	return out
}

// phaseState is the phase of a region and since when it is in it.
type phaseState struct {
	Region planning.Region `json:"region"`
	Name   string          `json:"name"`
	Phase  planning.Phase  `json:"phase"`
	Since  day.Date        `json:"since"`
	Why    string          `json:"why"`
}

// NextPhases keeps the date of a phase that did not change.
func NextPhases(old []phaseState, f *Frame) []phaseState {
	var out []phaseState
	for _, p := range f.Phases {
		x := phaseState{p.Region, p.Name, p.Phase, f.Today, p.Why}
		if len(old) == 0 {
			x.Since = min(f.Today, f.Start)
		}
		for _, o := range old {
			if o.Region == p.Region && o.Phase == p.Phase {
				x.Since = o.Since
			}
		}
		out = append(out, x)
	}
	return out
}

// PhasedSince says since when each region is in its phase.
func PhasedSince(ctx context.Context, tx *store.Tx, runner string, f *Frame) (map[string]day.Date, error) {
	var old BenchState
	raw, err := tx.State(ctx, runner)
	if err != nil && !errors.Is(err, app.ErrNotFound) {
		return nil, err
	}
	if err == nil {
		if err := json.Unmarshal(raw, &old); err != nil {
			return nil, err
		}
	}
	return SinceOf(NextPhases(old.Phases, f)), nil
}

func SinceOf(list []phaseState) map[string]day.Date {
	out := map[string]day.Date{}
	for _, p := range list {
		out[string(p.Region)] = p.Since
	}
	return out
}
