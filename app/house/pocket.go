package house

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/pocket"
	"notchback/app/ramp"
	"notchback/app/running"
	"notchback/core/body"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// How many reports are settled while a phone waits, and at one go otherwise.
const (
	settledAtOnce = 12
	settledByGo   = 200
)

// Sync keeps what a phone tells and settles some of it; the rest follows by itself.
func (h *House) Sync(ctx context.Context, act app.Actor, list []pocket.Report) ([]pocket.Told, error) {
	told, err := h.Receive(ctx, act, list)
	if err != nil {
		return told, err
	}
	after, err := h.settle(ctx, act, settledAtOnce)
	if err != nil { // it is kept; it will be settled later
		h.Log.Warn("settle reports", "err", err)
	}
	for i, t := range told {
		if x, ok := after[t.ID]; ok {
			told[i] = x
		}
	}
	return told, nil
}

// SettleReports settles what phones of a practice told and nobody looked at yet.
func (h *House) SettleReports(ctx context.Context) error {
	practices, err := h.Store.Practices(ctx)
	if err != nil {
		return err
	}
	var errs []error
	for _, p := range practices {
		errs = append(errs, h.settlePractice(ctx, p))
	}
	return errors.Join(errs...)
}

func (h *House) settlePractice(ctx context.Context, practice string) error {
	var runners []string
	var zone string
	err := h.Store.In(ctx, practice, func(tx *store.Tx) (err error) {
		if runners, err = tx.PocketRunnersWaiting(ctx); err != nil || len(runners) == 0 {
			return err
		}
		zone, err = tx.Zone(ctx)
		return err
	})
	if err != nil {
		return err
	}
	for _, r := range runners {
		act := app.Actor{Practice: practice, Runner: r, User: store.User{ID: r, Role: app.RunnerRole, Zone: zone}}
		if act.Zone, err = time.LoadLocation(zone); err != nil {
			return err
		}
		if _, err := h.settle(ctx, act, settledByGo); err != nil {
			return err
		}
	}
	return nil
}

// settle does what a runner's reports ask for, the oldest first, each once: what it
// does and that it is done stand in one transaction.
func (h *House) settle(ctx context.Context, act app.Actor, most int) (map[string]pocket.Told, error) {
	out := map[string]pocket.Told{}
	list, rows, err := h.Waiting(ctx, act.Practice, act.Runner, most)
	if err != nil {
		return out, err
	}
	for i, r := range list {
		act.Device = rows[i].DeviceID
		state, why, err := h.settleOne(ctx, act, r)
		if err != nil {
			return out, fmt.Errorf("report %s: %w", r.ID, err)
		}
		out[r.ID] = pocket.Told{ID: r.ID, State: state, Why: why}
	}
	return out, nil
}

// settleOne does what one report asks for. An error is the machine's; what the report
// itself does wrong is a refusal, which stays with it.
func (h *House) settleOne(ctx context.Context, act app.Actor, r pocket.Report) (state, why string, err error) {
	if r.Kind == pocket.OfSession {
		double, err := h.DoubleSession(ctx, act, r)
		if err != nil {
			return "", "", err
		}
		if double {
			why := "This session is with your coach already."
			return "double", why, h.Refuse(ctx, act.Practice, r.ID, "double", why)
		}
	}
	err = h.apply(pocket.Taken(ctx, r.ID), act, r)
	var bad app.Invalid
	var refused app.Refused
	switch {
	case err == nil, errors.Is(err, store.ErrSettled): // done, or somebody else was first
		return "taken", "", nil
	case errors.Is(err, app.ErrConflict):
		why = "Your plan changed at that very moment. Look at it and tell it again."
	case errors.As(err, &bad):
		var parts []string
		for _, f := range bad {
			parts = append(parts, f.Message)
		}
		why = strings.Join(parts, "; ")
	case errors.As(err, &refused):
		why = refused.Error()
	case errors.Is(err, app.ErrNotFound):
		why = "Your plan has changed: this is no longer in it. Your coach can read what you told here."
	case errors.Is(err, app.ErrValue):
		why = "There is a letter or a number in it that can't be kept. Tell it again in other words."
	default:
		return "", "", err
	}
	return "refused", why, h.Refuse(ctx, act.Practice, r.ID, "refused", why)
}

func (h *House) apply(ctx context.Context, act app.Actor, r pocket.Report) error {
	switch r.Kind {
	case pocket.OfMorning:
		return h.applyDay(ctx, act, r, *r.Morning)
	case pocket.OfSession:
		if err := h.Owns(ctx, act, r.Session.Block); err != nil {
			return err
		}
		if a := r.Session.Answers; a != nil { // caution first, by itself
			if err := h.applyDay(app.Along(ctx, func(*store.Tx) error { return nil }), act, r, pocket.MorningPart{Answers: a}); err != nil {
				return err
			}
		}
		in := daily.SessionInput{On: r.On, Litmus: r.Session.Litmus, Note: r.Session.Note, Routine: r.Session.Routine, Felt: r.Session.Felt}
		for _, x := range r.Session.Compared {
			in.Compared = append(in.Compared, daily.Compared(x))
		}
		for _, x := range r.Session.Items {
			notch := x.Notch
			in.Items = append(in.Items, daily.ItemInput{PrescriptionID: x.PrescriptionID, Side: x.Side, Pain: x.Pain, Done: x.Done, Compensated: x.Compensated, Reserve: x.Reserve,
				SureTwenty: x.SureTwenty, NoTime: x.NoTime, CrampAt: x.CrampAt, SoreSpot: x.SoreSpot, Mistakes: x.Mistakes, Notch: &notch})
		}
		_, err := h.LogSession(ctx, act, "", r.Session.Block, in)
		return err
	case pocket.OfRun:
		x := r.Run
		_, err := h.AddRun(ctx, act, "", act.Runner, running.RunInput{On: r.On, Km: x.Km, Minutes: x.Minutes, Effort: x.Effort, Footwear: x.Footwear, Surface: x.Surface, Pain: x.Pain, Zone: x.Zone, Side: x.Side, Limping: x.Limping})
		return err
	case pocket.OfFile:
		return h.applyFile(ctx, act, r)
	case pocket.OfRamp:
		_, err := h.PutRampDone(ctx, act, act.Runner, ramp.RampDone{On: r.On, Stage: r.Ramp.Stage, Done: r.Ramp.Done})
		return err
	case pocket.OfMove:
		return h.applyMove(ctx, act, r)
	case pocket.OfNote:
		return h.KeepNote(ctx, act, r.Note)
	}
	return app.Refused("this edition does not know what that is")
}

// applyFile reads a file of runs. Where nothing can be added without a question, it goes
// back with the question; a run of it that is there already gets what was felt on it.
func (h *House) applyFile(ctx context.Context, act app.Actor, r pocket.Report) error {
	data, err := h.FileOf(ctx, act, r.ID)
	if err != nil {
		return err
	}
	_, err = h.ImportFelt(ctx, act, act.Runner, r.File.Name, data, running.Felt{Pain: r.File.Pain, Effort: r.File.Effort, Limping: r.File.Limping})
	return err
}

// applyDay lays what a phone told of a day over what stands: it adds, and what is told
// again counts as told again. Nothing that was told is taken back by silence.
func (h *House) applyDay(ctx context.Context, act app.Actor, r pocket.Report, m pocket.MorningPart) error {
	now, err := h.Day(ctx, act, act.Runner, r.On)
	if err != nil {
		return err
	}
	in := now.Day
	in.Readings = m.Readings
	in.Reason = "told on the phone"
	if m.Illness == "fever" || in.Illness == "" {
		in.Illness = m.Illness
	}
	in.PoorSleep = in.PoorSleep || m.PoorSleep
	in.BoneTender = in.BoneTender || m.BoneTender
	if m.BarefootMinutes != nil {
		in.BarefootMinutes = m.BarefootMinutes
	}
	if m.CalfSoreness != nil {
		in.CalfSoreness = m.CalfSoreness
	}
	for _, p := range m.New {
		if !slices.ContainsFunc(in.New, func(x input.PlaceReading) bool { return x.Zone == p.Zone && x.Side == p.Side }) {
			in.New = append(in.New, p)
		}
	}
	if m.Answers != nil {
		in.Answers = bothAnswers(in.Answers, *m.Answers)
	}
	_, err = h.PutDay(ctx, act, act.Runner, r.On, in)
	return err
}

// bothAnswers adds answers to those that stand: a yes stays.
func bothAnswers(was *safety.Answers, now safety.Answers) *safety.Answers {
	out := safety.Answers{Yes: map[string]body.Side{}, None: []string{}}
	for _, a := range []*safety.Answers{was, &now} {
		if a == nil {
			continue
		}
		for id, side := range a.Yes {
			if s, twice := out.Yes[id]; twice && s != side {
				side = body.Both
			}
			out.Yes[id] = side
		}
		for _, g := range a.None {
			g = words.Original(g) // a phone says it as it reads it
			if !slices.Contains(out.None, g) {
				out.None = append(out.None, g)
			}
		}
	}
	return &out
}

// applyMove moves a session where every rule keeps; a runner never insists.
func (h *House) applyMove(ctx context.Context, act app.Actor, r pocket.Report) error {
	if err := h.Owns(ctx, act, r.Move.Block); err != nil {
		return err
	}
	b, err := h.Block(ctx, act, r.Move.Block)
	if err != nil {
		return err
	}
	from, to := r.On, r.Move.To
	out, err := h.ChangeBlock(ctx, act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "move", Session: r.Move.Kind, From: &from, To: &to}, Revision: b.Revision})
	if err == nil && len(out.Broken) > 0 && out.Block == nil {
		return app.Refused(strings.Join(out.Broken, "; "))
	}
	return err
}
