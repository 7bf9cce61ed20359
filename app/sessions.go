package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// ItemInput is what was done of one ladder on one side, or on both at once.
type ItemInput struct {
	PrescriptionID string    `json:"prescriptionId" format:"uuid"`
	Side           body.Side `json:"side" enum:"left,right,both"`
	Pain           *int      `json:"pain,omitempty" doc:"Worst pain during, 0–10"`
	Done           *float64  `json:"done,omitempty" doc:"Share of the dose done, 0–1"`
	Compensated    *float64  `json:"compensated,omitempty" doc:"Share of repetitions with a compensation, 0–1"`
	Reserve        *int      `json:"reserve,omitempty" doc:"Repetitions left in reserve, 0–5"`
	SureTwenty     *bool     `json:"sureOfTwentyPercentMore,omitempty"`
	NoTime         bool      `json:"noTime,omitempty" doc:"Cut short for lack of time"`
	CrampAt        *int      `json:"crampAt,omitempty" doc:"Repetition at which a cramp came"`
	SoreSpot       *int      `json:"soreSpot,omitempty" doc:"Release: worst score of a sore spot after a hold, 0–10"`
	Reacted        bool      `json:"reacted,omitempty" doc:"Release: tired soles or night sweats afterwards"`
}

// SessionInput is one session as logged. The next morning can follow later.
type SessionInput struct {
	On          day.Date    `json:"on" format:"date"`
	Items       []ItemInput `json:"items" minItems:"1" maxItems:"40"`
	NextMorning *int        `json:"nextMorning,omitempty" doc:"First-step pain the morning after, 0–10"`
	Litmus      string      `json:"litmus,omitempty" enum:"better,same,worse," doc:"Heel and toe walk after, against before"`
	Note        string      `json:"note,omitempty" maxLength:"2000"`
}

// maxReserve is the top of the reserve scale.
const maxReserve = 5

func (in SessionInput) check(f *frame) error {
	var bad Invalid
	if in.On > f.today {
		bad.add("on", "%s is in the future", in.On)
	}
	if in.On < f.start {
		bad.add("on", "the block starts on %s", f.start)
	}
	if m := in.NextMorning; m != nil {
		if *m < 0 || *m > body.PainMax {
			bad.add("nextMorning", "%d can't be; pain goes from 0 to 10", *m)
		}
		if in.On+1 > f.today {
			bad.add("nextMorning", "that morning is still to come")
		}
	}
	seen := map[string]bool{}
	for i, it := range in.Items {
		path := fmt.Sprintf("items[%d].", i)
		if _, ok := f.pegs[it.PrescriptionID]; !ok {
			bad.add(path+"prescriptionId", "not one of this block's ladders")
			continue
		}
		for _, s := range it.sides() {
			if k := it.PrescriptionID + string(s); seen[k] {
				bad.add(path+"side", "the %s side stands twice", s)
			} else {
				seen[k] = true
			}
		}
		if it.Side == body.Both && !f.together(it.PrescriptionID) {
			bad.add(path+"side", "this notch is done one side at a time; log left and right")
		}
		if p := it.Pain; p != nil && (*p < 0 || *p > body.PainMax) {
			bad.add(path+"pain", "%d can't be; pain goes from 0 to 10", *p)
		}
		if d := it.Done; d != nil && (*d < 0 || *d > 1) {
			bad.add(path+"done", "%g can't be; expected a share from 0 to 1", *d)
		}
		if c := it.Compensated; c != nil && (*c < 0 || *c > 1) {
			bad.add(path+"compensated", "%g can't be; expected a share from 0 to 1", *c)
		}
		if c := it.CrampAt; c != nil && (*c < 1 || *c > 200) {
			bad.add(path+"crampAt", "%d can't be; expected a repetition from 1 to 200", *c)
		}
		if p := it.SoreSpot; p != nil && (*p < 0 || *p > body.PainMax) {
			bad.add(path+"soreSpot", "%d can't be; expected 0 to 10", *p)
		}
		if r := it.Reserve; r != nil && (*r < 0 || *r > maxReserve) {
			bad.add(path+"reserve", "%d can't be; expected 0 to %d", *r, maxReserve)
		}
	}
	return bad.or()
}

func (it ItemInput) sides() []body.Side {
	if it.Side == body.Both {
		return body.Sides[:]
	}
	return []body.Side{it.Side}
}

// LogSession stores a session and decides each ladder of it. Decisions that
// take load away apply at once; a step up waits for the coach.
func (a *App) LogSession(ctx context.Context, act Actor, key, block string, in SessionInput) (Block, error) {
	var out Block
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, tx, key, in, func() (Block, error) { return a.logSession(ctx, tx, act, block, in) })
		return err
	})
	return out, err
}

func (a *App) logSession(ctx context.Context, tx *store.Tx, act Actor, block string, in SessionInput) (Block, error) {
	b, err := tx.LockBlock(ctx, block)
	if err != nil {
		return Block{}, err
	}
	if b.EndedAt != nil {
		return Block{}, Refused("this block has ended; log to the present one")
	}
	f, err := a.loadFrame(ctx, tx, act, b)
	if err != nil {
		return Block{}, err
	}
	if err := in.check(f); err != nil {
		return Block{}, err
	}
	if slices.ContainsFunc(f.items, func(i store.SessionItem) bool { return dateOf(i.On) == in.On }) {
		return Block{}, Invalid{{"on", "a session is already logged on " + in.On.Words()}}
	}
	var items []store.SessionItem
	for _, it := range in.Items {
		for _, s := range it.sides() {
			items = append(items, store.SessionItem{
				PrescriptionID: it.PrescriptionID, Side: string(s), Notch: f.pegs[it.PrescriptionID][s].Notch, Pain: it.Pain, Done: it.Done,
				Compensated: it.Compensated, Reserve: it.Reserve, SureTwenty: it.SureTwenty, NoTime: it.NoTime, CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Reacted: it.Reacted,
			})
		}
	}
	if _, err := tx.AddSessionLog(ctx, store.SessionLog{BlockID: b.ID, RunnerID: b.RunnerID, On: in.On.Time(), Note: in.Note, Litmus: in.Litmus}, items, act.User.ID); err != nil {
		return Block{}, err
	}
	if err := tx.Note(ctx, b.RunnerID, a.now(), &act.User.ID, "session", "Session of "+in.On.Words()+" logged", in); err != nil {
		return Block{}, err
	}
	if in.NextMorning != nil {
		if err := tx.PutMorning(ctx, b.RunnerID, store.Morning{On: (in.On + 1).Time(), FirstStep: in.NextMorning}, act.User.ID); err != nil {
			return Block{}, err
		}
	}
	return a.decideFrom(ctx, tx, act, b, f)
}

// PutMorning stores a first-step reading and looks again at what it decides.
func (a *App) PutMorning(ctx context.Context, act Actor, runner string, on day.Date, firstStep int) (Block, error) {
	today := a.Today(act)
	var bad Invalid
	if firstStep < 0 || firstStep > body.PainMax {
		bad.add("firstStep", "%d can't be; pain goes from 0 to 10", firstStep)
	}
	if on > today {
		bad.add("on", "%s is in the future", on)
	}
	if err := bad.or(); err != nil {
		return Block{}, err
	}
	var out Block
	err := a.write(ctx, act, func(tx *store.Tx) error {
		current, err := tx.CurrentBlock(ctx, runner)
		if err != nil {
			return err
		}
		b, err := tx.LockBlock(ctx, current.ID)
		if err != nil {
			return err
		}
		if err := tx.PutMorning(ctx, runner, store.Morning{On: on.Time(), FirstStep: &firstStep}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "morning", fmt.Sprintf("First steps on %s: %d", on.Words(), firstStep), nil); err != nil {
			return err
		}
		out, err = a.decideAgain(ctx, tx, act, b)
		return err
	})
	return out, err
}

// decideAgain derives the decisions of the newest session of every ladder and
// side, keeps what stands and replaces what changed.
func (a *App) decideAgain(ctx context.Context, tx *store.Tx, act Actor, b store.Block) (Block, error) {
	return a.decideFrom(ctx, tx, act, b, nil)
}

// decideFrom is decideAgain with what an earlier look at the block already read
// of the runner and the shelf.
func (a *App) decideFrom(ctx context.Context, tx *store.Tx, act Actor, b store.Block, before *frame) (Block, error) {
	f, err := a.decideAll(ctx, tx, act, b, before)
	if err != nil {
		return Block{}, err
	}
	return f.view()
}

// decideAll is decideFrom without the view.
func (a *App) decideAll(ctx context.Context, tx *store.Tx, act Actor, b store.Block, before *frame) (*frame, error) {
	var f *frame
	var err error
	if before != nil {
		f, err = a.loadFrameWith(ctx, tx, act, b, before.dossier, before.layers)
	} else {
		f, err = a.loadFrame(ctx, tx, act, b)
	}
	if err != nil {
		return nil, err
	}
	for range 2 {
		before := len(f.flares())
		for _, p := range f.byPriority() {
			for _, side := range f.decisionSides(p.ID) {
				if err := a.decideOne(ctx, tx, f, p, side); err != nil {
					return nil, err
				}
			}
		}
		after := len(f.flares())
		if f, err = a.loadFrameWith(ctx, tx, act, b, f.dossier, f.layers); err != nil {
			return nil, err
		}
		if after <= before {
			break
		}
		// A flare began: what was decided before it shares its tissue, look again.
	}
	if err := a.raiseStuck(ctx, tx, f); err != nil {
		return nil, err
	}
	if err := a.redate(ctx, tx, f.path, ""); err != nil {
		return nil, err
	}
	return f, a.keepState(ctx, tx, f)
}

// decisionSides returns both as one where the newest session was on two legs.
func (f *frame) decisionSides(prescription string) []body.Side {
	l, r := f.last(prescription, body.Left), f.last(prescription, body.Right)
	switch {
	case l == nil && r == nil:
		return nil
	case l == nil:
		return []body.Side{body.Right}
	case r == nil:
		return []body.Side{body.Left}
	case l.LogID == r.LogID && l.Notch == r.Notch && f.ladders[prescription].At(l.Notch).Together():
		return []body.Side{body.Both}
	}
	return body.Sides[:]
}

func (f *frame) last(prescription string, side body.Side) *store.SessionItem {
	for i := len(f.items) - 1; i >= 0; i-- {
		if it := &f.items[i]; it.PrescriptionID == prescription && (side == body.Both || it.Side == string(side)) {
			return it
		}
	}
	return nil
}

// history gathers one side's sessions with the rows that decided them.
func (f *frame) history(prescription string, side body.Side) adjust.History {
	h := adjust.History{Sessions: f.sessions(prescription, side)}
	tissues := f.ladders[prescription].Tissues
	h.Mornings, h.B0 = f.series(tissues, side)
	h.Rests, h.RestB0 = f.rests(tissues, side)
	return h
}

// sessions are one side's sessions of a ladder with the rows that decided them.
func (f *frame) sessions(prescription string, side body.Side) []adjust.Session {
	if f.sessionsOf == nil {
		f.sessionsOf = f.allSessions()
	}
	return append([]adjust.Session{}, f.sessionsOf[sideOf{prescription, string(side)}]...)
}

// sideOf is one side of a prescription.
type sideOf struct{ prescription, side string }

func (f *frame) allSessions() map[sideOf][]adjust.Session {
	type place struct {
		log string
		sideOf
	}
	decided := map[place]adjust.Row{}
	for _, d := range f.decisions {
		if d.LogID == "" {
			continue
		}
		sides := []string{d.Side}
		if d.Side == string(body.Both) {
			sides = []string{string(body.Left), string(body.Right)}
		}
		for _, side := range sides {
			decided[place{d.LogID, sideOf{d.PrescriptionID, side}}] = adjust.Row(d.Row)
		}
	}
	out := map[sideOf][]adjust.Session{}
	for _, it := range f.items {
		of := sideOf{it.PrescriptionID, it.Side}
		s := adjust.Session{
			On: dateOf(it.On), Notch: it.Notch, Pain: it.Pain, Done: it.Done, Compensated: it.Compensated,
			Reserve: it.Reserve, SureTwenty: it.SureTwenty, NoTime: it.NoTime, DecidedBy: adjust.RowNone,
			CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Reacted: it.Reacted, Litmus: adjust.Litmus(it.Litmus),
		}
		if row, ok := decided[place{it.LogID, of}]; ok {
			s.DecidedBy = row
		}
		out[of] = append(out[of], s)
	}
	return out
}

func (f *frame) contextFor(p store.Prescription, side body.Side, notch int) adjust.Context {
	c := adjust.Context{
		Today: f.today, Side: side, Ladder: f.ladders[p.ID], Notch: notch, StartingNotch: p.StartNotch, Ceiling: f.ceiling(p), Flags: f.flags, Gates: f.gates,
		BlockStart: f.start, Deload: planning.KindOf(f.start, f.plan.Wishes.Race, f.today).Holds(), UpsThisWeek: f.upsThisWeek(p.ID),
	}
	peg := f.pegs[p.ID][side]
	other := f.pegs[p.ID][side.Other()].Notch
	if f.last(p.ID, side.Other()) != nil {
		c.OtherNotch = &other
	}
	c.LastUp = datePtr(peg.LastUp)
	if peg.HaltRow != nil {
		c.Halt = &adjust.Halt{Row: adjust.Row(*peg.HaltRow), On: dateOf(*peg.HaltOn), Notch: peg.Notch}
	}
	f.surround(&c, p, side)
	return c
}

// upsThisWeek counts the other ladders moved up in this ISO week.
func (f *frame) upsThisWeek(except string) int {
	n := 0
	for id, sides := range f.pegs {
		up := false
		for _, peg := range sides {
			up = up || (peg.LastUp != nil && dateOf(*peg.LastUp) >= f.today.Monday())
		}
		if up && id != except {
			n++
		}
	}
	return n
}

// decisionInput is what a decision was made from, kept with it.
type decisionInput struct {
	History adjust.History `json:"history"`
	Context adjust.Context `json:"context"`
}

// derive returns the decision for a side; on two legs the more cautious of the
// two sides' decisions. With it comes what it was made from.
func (f *frame) derive(p store.Prescription, side body.Side, notch int) (adjust.Decision, decisionInput) {
	decide := func(s body.Side) (adjust.Decision, decisionInput) {
		in := decisionInput{f.history(p.ID, s), f.contextFor(p, s, notch)}
		return adjust.Decide(in.History, in.Context), in
	}
	if side != body.Both {
		return decide(side)
	}
	d, in := decide(body.Left)
	if r, rin := decide(body.Right); r.Harshness() > d.Harshness() {
		d, in = r, rin
	}
	if d.Raises != nil {
		d.Raises.Side = body.Both
	}
	return d, in
}

// waits reports whether the next morning of a session can still arrive.
func (f *frame) waits(on day.Date) bool {
	return f.morning(on+1) == nil && adjust.MorningMayCome(on, f.today, f.now.Hour())
}

func (a *App) decideOne(ctx context.Context, tx *store.Tx, f *frame, p store.Prescription, side body.Side) error {
	last := f.last(p.ID, side)
	halted := f.haltedBefore(p.ID, side, last)
	d, in := f.derive(p, side, last.Notch)
	stands := f.standingDecision(p.ID, side, last.LogID, d.Resume)
	if halted && !d.Resume && d.Raises == nil && !f.worsens(p.ID, side, d) {
		return a.withdrawResume(ctx, tx, f, p.ID, side, d)
	}
	state := "applied"
	switch {
	case d.Verdict == adjust.Up || d.Resume:
		state = "proposed"
	case d.Verdict == adjust.Hold && f.waits(dateOf(last.On)):
		state = "waiting"
	}
	if state == "proposed" && !d.Resume && f.waits(dateOf(last.On)) {
		state = "waiting"
	}
	if state == "proposed" && !d.Resume && f.mayProgress() {
		state = "accepted" // the runner's setting lets a step up go by itself
	}
	if stands != nil {
		answered := stands.State == "accepted" || stands.State == "overridden"
		var before adjust.Decision
		if err := json.Unmarshal(stands.Decision, &before); err != nil {
			return err
		}
		caution := d.Verdict == adjust.Back || d.Verdict == adjust.Stop
		switch {
		case answered && stands.State == state && d.Same(before):
			return nil
		case answered && (!caution || d.Harshness() <= before.Harshness()):
			return nil // the coach has spoken; only more caution speaks again
		case !answered && stands.State == state && d.Same(before):
			return nil
		}
		old := *stands
		old.State = "superseded"
		if err := tx.AnswerDecision(ctx, old, nil, a.now()); err != nil {
			return err
		}
		if err := f.undo(ctx, tx, p.ID, side, *stands); err != nil {
			return err
		}
	}
	return a.keepDecision(ctx, tx, f, p, side, last.LogID, d, in, state)
}

// worsens reports a flare on a side that something less had stopped: what shares
// its tissue must hear of it.
func (f *frame) worsens(prescription string, side body.Side, d adjust.Decision) bool {
	s := side
	if side == body.Both {
		s = body.Left
	}
	row := f.pegs[prescription][s].HaltRow
	return d.Verdict == adjust.Stop && d.Row == 2 && row != nil && *row > 2
}

// haltedBefore reports whether the side stood stopped when no newer decision of
// this session made it so.
func (f *frame) haltedBefore(prescription string, side body.Side, last *store.SessionItem) bool {
	s := side
	if side == body.Both {
		s = body.Left
	}
	peg := f.pegs[prescription][s]
	if peg.HaltRow == nil {
		return false
	}
	stands := f.standingDecision(prescription, side, last.LogID, false)
	// The stop that this very session caused is looked at afresh while its
	// morning is new; afterwards only quiet mornings lift it.
	return stands == nil || stands.Verdict == string(adjust.Stop)
}

func (f *frame) standingDecision(prescription string, side body.Side, log string, resume bool) *store.Decision {
	for i := len(f.decisions) - 1; i >= 0; i-- {
		d := &f.decisions[i]
		if d.PrescriptionID != prescription || d.Side != string(side) || d.LogID != log {
			continue
		}
		var body adjust.Decision
		if json.Unmarshal(d.Decision, &body) == nil && body.Resume == resume {
			return d
		}
	}
	return nil
}

// withdrawResume takes back a proposed restart when a morning got worse again.
func (a *App) withdrawResume(ctx context.Context, tx *store.Tx, f *frame, prescription string, side body.Side, d adjust.Decision) error {
	last := f.last(prescription, side)
	stands := f.standingDecision(prescription, side, last.LogID, true)
	if stands == nil || stands.State != "proposed" || d.Resume {
		return nil
	}
	old := *stands
	old.State = "superseded"
	return tx.AnswerDecision(ctx, old, nil, a.now())
}

// undo puts the pegs back where they stood before an applied decision.
func (f *frame) undo(ctx context.Context, tx *store.Tx, prescription string, side body.Side, d store.Decision) error {
	if d.State != "applied" && d.State != "accepted" && d.State != "overridden" {
		return nil
	}
	return f.move(ctx, tx, prescription, side, func(peg *store.Peg) {
		peg.Notch, peg.HaltRow, peg.HaltOn = d.From, nil, nil
	})
}

func (f *frame) move(ctx context.Context, tx *store.Tx, prescription string, side body.Side, change func(*store.Peg)) error {
	for _, s := range body.Sides {
		if side != body.Both && side != s {
			continue
		}
		peg := f.pegs[prescription][s]
		change(peg)
		if err := tx.MovePeg(ctx, *peg); err != nil {
			return err
		}
	}
	return nil
}

func (a *App) keepDecision(ctx context.Context, tx *store.Tx, f *frame, p store.Prescription, side body.Side, log string, d adjust.Decision, in decisionInput, state string) error {
	raw, err := json.Marshal(d)
	if err != nil {
		return err
	}
	from, err := json.Marshal(in)
	if err != nil {
		return err
	}
	if err := a.lapse(ctx, tx, f, p.ID, side, log); err != nil {
		return err
	}
	l := f.ladders[p.ID]
	sentence := words.Decision(l, side, d)
	if _, err := tx.AddDecision(ctx, store.Decision{
		PrescriptionID: p.ID, RunnerID: f.runner.ID, LogID: log, Side: string(side), On: f.today.Time(), Verdict: string(d.Verdict), Row: int(d.Row),
		From: d.From, To: d.To, Decision: raw, Sentence: sentence, State: state, Input: from, Engine: adjust.Version,
	}); err != nil {
		return err
	}
	if state == "applied" || state == "accepted" {
		if err := f.move(ctx, tx, p.ID, side, func(peg *store.Peg) { applyTo(peg, d, f.today.Time()) }); err != nil {
			return err
		}
	}
	if d.Raises != nil {
		r := *d.Raises
		tissues := make([]string, len(r.Tissues))
		for i, t := range r.Tissues {
			tissues[i] = string(t)
		}
		if !f.hasFlag(string(r.Flag), string(r.Side)) {
			fl := store.Flag{Flag: string(r.Flag), Level: string(r.Level), Side: string(r.Side), Tissues: tissues, Everything: r.Everything, ProgressOnly: r.ProgressOnly, Since: r.Since.Time()}
			if err := tx.AddFlag(ctx, f.runner.ID, fl, log); err != nil {
				return err
			}
			f.flags = append(f.flags, standing(fl))
			f.dossier.engine = append(f.dossier.engine, standing(fl))
			if err := tx.Note(ctx, f.runner.ID, a.now(), nil, "flag", words.Flag(r), r); err != nil {
				return err
			}
		}
	}
	if state == "waiting" {
		return nil // the journal takes it when the morning is known
	}
	return tx.Note(ctx, f.runner.ID, a.now(), nil, "decision", l.Name+". "+sentence, map[string]any{"decision": d, "state": state})
}

// lapse takes back what was proposed after earlier sessions and not answered.
func (a *App) lapse(ctx context.Context, tx *store.Tx, f *frame, prescription string, side body.Side, log string) error {
	for _, d := range f.decisions {
		overlap := side == body.Both || d.Side == string(body.Both) || d.Side == string(side)
		if d.PrescriptionID != prescription || d.LogID == log || d.State != "proposed" || !overlap {
			continue
		}
		d.State = "superseded"
		if err := tx.AnswerDecision(ctx, d, nil, a.now()); err != nil {
			return err
		}
	}
	return nil
}

func (f *frame) hasFlag(flag, side string) bool {
	return slices.ContainsFunc(f.flags, func(s safety.Standing) bool { return string(s.Flag) == flag && string(s.Side) == side })
}

func applyTo(peg *store.Peg, d adjust.Decision, on time.Time) {
	switch d.Verdict {
	case adjust.Stop:
		row := int(d.Row)
		peg.Notch, peg.HaltRow, peg.HaltOn = d.From, &row, &on
	case adjust.Up:
		peg.Notch, peg.LastUp = d.To, &on
	default:
		peg.Notch, peg.HaltRow, peg.HaltOn = d.To, nil, nil
	}
}

// AcceptDecision moves the peg as a proposed decision says.
func (a *App) AcceptDecision(ctx context.Context, act Actor, id string, version int) (Block, error) {
	return a.answer(ctx, act, id, version, func(f *frame, d *store.Decision, dec adjust.Decision) (string, error) {
		if d.State != "proposed" {
			return "", Refused("there is nothing to accept here any more")
		}
		if dec.Verdict == adjust.Up && f.upsThisWeek(d.PrescriptionID) >= adjust.UpsAWeek {
			return "", Refused("two ladders went up this week already; accept this one next week")
		}
		d.State = "accepted"
		f.moveFor(dec, *d)
		return "accepted", nil
	})
}

// OverrideInput is the coach's own choice instead of a decision.
type OverrideInput struct {
	Notch  int    `json:"notch" doc:"The notch to stand on, from 1"`
	Reason string `json:"reason" maxLength:"500"`
}

// OverrideDecision puts the peg where the coach wants it, with a reason. Never
// against a flag, beyond a closed gate, or more than one notch up.
func (a *App) OverrideDecision(ctx context.Context, act Actor, id string, version int, in OverrideInput) (Block, error) {
	return a.answer(ctx, act, id, version, func(f *frame, d *store.Decision, dec adjust.Decision) (string, error) {
		l := f.ladders[d.PrescriptionID]
		var bad Invalid
		most := min(l.Len(), d.From+1)
		if in.Notch < 1 || in.Notch > most {
			bad.add("notch", "expected 1 to %d: at most one notch up", most)
		}
		if in.Reason == "" {
			bad.add("reason", "say why, for the journal")
		}
		if err := bad.or(); err != nil {
			return "", err
		}
		if dec.Verdict == adjust.Stop && dec.Row == 1 {
			return "", Refused("a flag stopped this ladder; only a clinician's clearance opens it")
		}
		if gate := l.At(in.Notch).Gate; in.Notch > d.From && !safety.Open(f.gates, gate) {
			return "", Refused("the gate before that notch is closed")
		}
		d.State, d.AnswerNotch, d.AnswerReason = "overridden", &in.Notch, in.Reason
		to := dec
		to.Verdict, to.To = adjust.Hold, in.Notch
		if in.Notch > d.From {
			to.Verdict = adjust.Up
		}
		f.moveFor(to, *d)
		return "overridden to " + words.Notch(l.At(in.Notch)) + ": " + in.Reason, nil
	})
}

// moveFor changes the pegs in memory; answer stores them.
func (f *frame) moveFor(dec adjust.Decision, d store.Decision) {
	for _, s := range body.Sides {
		if d.Side == string(body.Both) || d.Side == string(s) {
			peg := f.pegs[d.PrescriptionID][s]
			peg.HaltRow, peg.HaltOn = nil, nil
			applyTo(peg, dec, f.today.Time())
		}
	}
}

func (a *App) answer(ctx context.Context, act Actor, id string, version int, fn func(*frame, *store.Decision, adjust.Decision) (string, error)) (Block, error) {
	var out Block
	err := a.write(ctx, act, func(tx *store.Tx) error {
		d, err := tx.Decision(ctx, id)
		if err != nil {
			return err
		}
		current, err := tx.CurrentBlock(ctx, d.RunnerID)
		if err != nil {
			return err
		}
		b, err := tx.LockBlock(ctx, current.ID)
		if err != nil {
			return err
		}
		f, err := a.loadFrame(ctx, tx, act, b)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(f.decisions, func(x store.Decision) bool { return x.ID == id })
		if i < 0 {
			return Refused("this decision was replaced by a newer one")
		}
		d = f.decisions[i]
		if d.Version != version {
			return ErrConflict
		}
		if newest := f.standingNewest(d); newest.ID != d.ID {
			return Refused("a newer decision stands for this ladder")
		}
		var dec adjust.Decision
		if err := json.Unmarshal(d.Decision, &dec); err != nil {
			return err
		}
		what, err := fn(f, &d, dec)
		if err != nil {
			return err
		}
		if err := tx.AnswerDecision(ctx, d, &act.User.ID, a.now()); err != nil {
			return err
		}
		if err := f.move(ctx, tx, d.PrescriptionID, body.Side(d.Side), func(*store.Peg) {}); err != nil {
			return err
		}
		l := f.ladders[d.PrescriptionID]
		if err := tx.Note(ctx, d.RunnerID, a.now(), &act.User.ID, "answer", l.Name+", "+d.Side+": "+what, map[string]any{"decision": id}); err != nil {
			return err
		}
		out, err = a.blockView(ctx, tx, act, b)
		return err
	})
	return out, err
}

func (f *frame) standingNewest(d store.Decision) store.Decision {
	for i := len(f.decisions) - 1; i >= 0; i-- {
		x := f.decisions[i]
		if x.PrescriptionID == d.PrescriptionID && (x.Side == d.Side || x.Side == string(body.Both) || d.Side == string(body.Both)) {
			return x
		}
	}
	return d
}

// JournalLine is one line of the journal.
type JournalLine struct {
	ID       int64     `json:"id"`
	At       time.Time `json:"at"`
	By       string    `json:"by" doc:"Who; empty for the engine"`
	Kind     string    `json:"kind"`
	Sentence string    `json:"sentence"`
}

// journalPage is the most lines read at once.
const journalPage = 200

// Journal returns a runner's newest journal lines.
func (a *App) Journal(ctx context.Context, act Actor, runner string) ([]JournalLine, error) {
	out := []JournalLine{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.Journal(ctx, runner, journalPage)
		if err != nil {
			return err
		}
		for _, e := range list {
			l := JournalLine{ID: e.ID, At: e.At, Kind: e.Kind, Sentence: e.Sentence}
			if e.By != nil {
				l.By = *e.By
			}
			out = append(out, l)
		}
		return nil
	})
	return out, err
}
