package record

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/words"
	"notchback/store"
)

// kept is what a decision's row holds of its course, beside its columns. It has
// its own shape so that renaming a field of the core can't break old rows unseen.
type kept struct {
	At      course.Moment                 `json:"at"`
	Session day.Date                      `json:"session"`
	Final   bool                          `json:"final"`
	Remade  bool                          `json:"remade,omitempty"`
	PutBack int                           `json:"putBack,omitempty"`
	Rows    course.PerSide[adjust.Row]    `json:"rows"`
	Frozen  course.PerSide[adjust.Frozen] `json:"frozen"`
	Given   course.PerSide[course.Given]  `json:"given"`
	Before  course.PerSide[course.Peg]    `json:"before"`
	Life    []course.Turn                 `json:"life"`
}

// DecisionOf is a stored decision as the rules see it. One of an older edition
// gets the life that can be told of it.
func DecisionOf(d store.Decision) (course.Decision, error) {
	out := course.Decision{Key: d.Key, Prescription: d.PrescriptionID, Side: body.Side(d.Side), Kind: course.Kind(d.Kind), Log: d.LogID, State: course.DecisionState(d.State),
		AnswerNotch: d.AnswerNotch, AnswerReason: d.AnswerReason, Engine: d.Engine}
	if err := json.Unmarshal(d.Decision, &out.D); err != nil {
		return out, fmt.Errorf("decision %s: %w", d.ID, err)
	}
	if len(d.Course) == 0 {
		out.Key = oldKey(d)
		out.At = course.Moment{On: dateOf(d.On)}
		out.Session = dateOf(d.On) - 1
		out.Final = d.State != "waiting"
		out.Life = []course.Turn{{At: out.At, State: out.State, Why: course.ByEngine}}
		if out.D.Resume {
			out.Kind = course.WayBack
		}
		return out, nil
	}
	var k kept
	if err := json.Unmarshal(d.Course, &k); err != nil {
		return out, fmt.Errorf("course of decision %s: %w", d.ID, err)
	}
	out.At, out.Session, out.Final, out.Remade, out.PutBack = k.At, k.Session, k.Final, k.Remade, k.PutBack
	out.Rows, out.Frozen, out.Given, out.Before, out.Life = k.Rows, k.Frozen, k.Given, k.Before, k.Life
	return out, nil
}

func rowOf(d course.Decision, l catalogue.Ladder, runner string) (store.Decision, error) {
	k, err := json.Marshal(kept{At: d.At, Session: d.Session, Final: d.Final, Remade: d.Remade, PutBack: d.PutBack, Rows: d.Rows, Frozen: d.Frozen, Given: d.Given, Before: d.Before, Life: d.Life})
	if err != nil {
		return store.Decision{}, err
	}
	raw, err := json.Marshal(d.D)
	if err != nil {
		return store.Decision{}, err
	}
	out := store.Decision{PrescriptionID: d.Prescription, RunnerID: runner, LogID: d.Log, Side: string(d.Side), On: d.At.On.Time(), Verdict: string(d.D.Verdict), Row: int(d.D.Row),
		From: d.D.From, To: d.D.To, Decision: raw, Sentence: words.Course(l, d), State: string(d.State), AnswerNotch: d.AnswerNotch, AnswerReason: d.AnswerReason,
		Key: d.Key, Kind: string(d.Kind), Course: k, Engine: d.Engine}
	if d.Inputs.Left != nil || d.Inputs.Right != nil {
		if out.Input, err = json.Marshal(d.Inputs); err != nil {
			return out, err
		}
	}
	return out, nil
}

// Keep stores what follows from a record – decisions with their lives, pegs,
// flags, the engine's place, and a journal line for each thing that happened –
// and brings the rows up to it.
func Keep(ctx context.Context, tx *store.Tx, r *Rows, rec course.Record, changes []course.Change, now time.Time) error {
	k := keeper{rows: r, now: now, at: map[string]int{}, ladders: map[string]catalogue.Ladder{}}
	for i, d := range r.Plan.Decisions {
		if d.Key == "" {
			d.Key = oldKey(d)
		}
		k.at[d.Key] = i
	}
	for _, p := range rec.Block.Prescriptions {
		k.ladders[p.ID] = p.Ladder
	}
	for _, c := range changes {
		if err := k.one(c); err != nil {
			return fmt.Errorf("keeping %s of runner %s: %w", c.Kind, r.Runner.ID, err)
		}
	}
	for _, f := range []func() error{
		func() error { return k.decisions(ctx, tx) },
		func() error { return k.flags(ctx, tx) },
		func() error { return k.place(ctx, tx) },
		func() error { return tx.Notes(ctx, r.Runner.ID, now, k.told) },
	} {
		if err := f(); err != nil {
			return fmt.Errorf("keeping what follows for runner %s: %w", r.Runner.ID, err)
		}
	}
	return nil
}

func oldKey(d store.Decision) string { return "old|" + d.ID }

// keeper collects what has to be written, so that each table is written once.
type keeper struct {
	rows    *Rows
	now     time.Time
	at      map[string]int // rows of decisions by key
	fresh   []int          // new rows
	turned  []int          // rows that changed
	raised  []store.Flag
	ended   []string // ids of flags
	endedOn time.Time
	state   *course.State
	told    []store.Told
	ladders map[string]catalogue.Ladder
}

func (k *keeper) one(c course.Change) error {
	switch c.Kind {
	case course.Made, course.Turned:
		return k.decision(c)
	case course.FlagRaised:
		f := c.Flag
		tissues := make([]string, len(f.Tissues))
		for i, t := range f.Tissues {
			tissues[i] = string(t)
		}
		k.raised = append(k.raised, store.Flag{Flag: string(f.Flag), Level: string(f.Level), Side: string(f.Side), Zone: string(f.Zone), Tissues: tissues, Everything: f.Everything, ProgressOnly: f.ProgressOnly,
			Running: f.Running, Since: f.Since.Time(), Why: string(c.Why), At: k.now})
		text := words.Flag(f)
		if c.Why != "" {
			text += ": " + words.Stuck(c.Why)
		}
		k.told = append(k.told, store.Told{Kind: "flag", Sentence: text, Detail: f})
	case course.FlagEnded:
		f := course.Raised{Standing: c.Flag}
		for i, x := range k.rows.Flags {
			if x.EndedOn == nil && f.Is(Standing(x)) {
				on := c.At.On.Time()
				k.endedOn = on
				k.rows.Flags[i].EndedOn = &on
				k.ended = append(k.ended, x.ID)
			}
		}
		k.told = append(k.told, store.Told{Kind: "flag", Sentence: words.Capital(c.Flag.Name()) + " ends today: the reading was a slip. What it stopped is offered lower; nothing rises by it.", Detail: c.Slip})
	case course.FlareBegan, course.FlareEnded:
		k.told = append(k.told, store.Told{Kind: "flare", Sentence: words.Flare(c.Flare), Detail: c.Flare})
	case course.Looked:
		k.state = &c.State
	}
	return nil
}

func (k *keeper) decision(c course.Change) error {
	d := c.Decision
	l := k.ladders[d.Prescription]
	row, err := rowOf(d, l, k.rows.Runner.ID)
	if err != nil {
		return err
	}
	list := &k.rows.Plan.Decisions
	if i, ok := k.at[d.Key]; ok {
		old := (*list)[i]
		row.ID, row.Version = old.ID, old.Version
		row.AnsweredBy, row.AnsweredAt = answeredBy(d, k.now)
		(*list)[i] = row
		if old.ID != "" && !slices.Contains(k.turned, i) {
			k.turned = append(k.turned, i)
		}
	} else {
		k.at[d.Key] = len(*list)
		k.fresh = append(k.fresh, len(*list))
		*list = append(*list, row)
	}
	if text := words.Turn(l, d); text != "" {
		by, kind := (*string)(nil), "decision"
		if t := d.Life[len(d.Life)-1]; t.By != "" {
			by, kind = &t.By, "answer"
		}
		k.told = append(k.told, store.Told{By: by, Kind: kind, Sentence: text, Detail: map[string]any{"decision": d.Key, "state": d.State}})
	}
	return nil
}

func (k *keeper) decisions(ctx context.Context, tx *store.Tx) error {
	pick := func(at []int) []store.Decision {
		out := make([]store.Decision, len(at))
		for i, n := range at {
			out[i] = k.rows.Plan.Decisions[n]
		}
		return out
	}
	put := func(at []int, list []store.Decision) {
		for i, n := range at {
			k.rows.Plan.Decisions[n] = list[i]
		}
	}
	turned := pick(k.turned)
	if err := tx.TurnDecisions(ctx, turned); err != nil {
		return err
	}
	put(k.turned, turned)
	fresh := pick(k.fresh)
	if err := tx.AddDecisions(ctx, fresh); err != nil {
		return err
	}
	put(k.fresh, fresh)
	return nil
}

func (k *keeper) flags(ctx context.Context, tx *store.Tx) error {
	for _, f := range k.raised {
		if err := tx.AddFlag(ctx, k.rows.Runner.ID, f); err != nil {
			return err
		}
		k.rows.Flags = append(k.rows.Flags, f)
	}
	for _, id := range k.ended {
		if err := tx.EndFlag(ctx, id, k.endedOn); err != nil {
			return err
		}
	}
	return nil
}

// place stores where the engine stands, and the pegs that moved.
func (k *keeper) place(ctx context.Context, tx *store.Tx) error {
	if k.state == nil {
		return nil
	}
	s := *k.state
	seq := s.Seq
	s.Seq = 0
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	if err := tx.PutCourseState(ctx, k.rows.Plan.Block.ID, store.CourseState{Body: raw, Seq: &seq}); err != nil {
		return err
	}
	k.rows.Plan.State = &store.CourseState{Body: raw, Seq: &seq}
	var moved []store.Peg
	for _, seat := range s.Seats {
		row := PegRow(seat.Prescription, seat.Side, seat.Peg)
		for i, old := range k.rows.Plan.Pegs {
			if old.PrescriptionID == row.PrescriptionID && old.Side == row.Side && !samePeg(old, row) {
				moved = append(moved, row)
				k.rows.Plan.Pegs[i] = row
			}
		}
	}
	return tx.MovePegs(ctx, moved)
}

// PegRow is a peg as its row stands.
func PegRow(prescription string, side body.Side, p course.Peg) store.Peg {
	out := store.Peg{PrescriptionID: prescription, Side: string(side), Notch: p.Notch}
	if h := p.Halt; h != nil {
		row, on := int(h.Row), h.On.Time()
		out.HaltRow, out.HaltOn = &row, &on
	}
	if p.LastUp != nil {
		t := p.LastUp.Time()
		out.LastUp = &t
	}
	return out
}

func samePeg(a, b store.Peg) bool {
	same := func(x, y *time.Time) bool { return (x == nil) == (y == nil) && (x == nil || x.Equal(*y)) }
	return a.Notch == b.Notch && (a.HaltRow == nil) == (b.HaltRow == nil) && (a.HaltRow == nil || *a.HaltRow == *b.HaltRow) && same(a.HaltOn, b.HaltOn) && same(a.LastUp, b.LastUp)
}

func answeredBy(d course.Decision, now time.Time) (*string, *time.Time) {
	for i := len(d.Life) - 1; i >= 0; i-- {
		if by := d.Life[i].By; by != "" && d.Answered() {
			return &by, &now
		}
	}
	return nil, nil
}

// oldInput is what a decision before edition 4 was made from.
type oldInput struct {
	History adjust.History `json:"history"`
	Context adjust.Context `json:"context"`
}

// AskAgain asks the table what it says today of what a stored decision was made
// from.
func AskAgain(d store.Decision, input []byte, l catalogue.Ladder) (adjust.Decision, bool, error) {
	var in course.PerSide[course.Input]
	if err := json.Unmarshal(input, &in); err != nil {
		return adjust.Decision{}, false, fmt.Errorf("input of decision %s: %w", d.ID, err)
	}
	if in.Left == nil && in.Right == nil {
		var old oldInput
		if err := json.Unmarshal(input, &old); err != nil {
			return adjust.Decision{}, false, fmt.Errorf("input of decision %s: %w", d.ID, err)
		}
		if len(old.History.Sessions) == 0 {
			return adjust.Decision{}, false, nil
		}
		in.Left = &course.Input{History: old.History, Context: old.Context}
	}
	now, ok := course.Again(in, l)
	return now, ok, nil
}
