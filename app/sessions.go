package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
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
	Mistakes       []string  `json:"mistakes,omitempty" maxItems:"10" doc:"Of the exercise's list: those that were seen"`
	SetsDone       *int      `json:"setsDone,omitempty" doc:"Where they differ from the dose"`
	RepsDone       *int      `json:"repsDone,omitempty" doc:"A set; where they differ from the dose"`
	LoadKg         *float64  `json:"loadKg,omitempty" doc:"The load used, where it differs"`
}

// said reports whether anything was answered of the exercise.
func (it ItemInput) said() bool {
	return it.Pain != nil || it.Done != nil || it.Compensated != nil || it.Reserve != nil || it.SureTwenty != nil || it.NoTime || it.CrampAt != nil || it.SoreSpot != nil || it.Reacted ||
		len(it.Mistakes) > 0 || it.SetsDone != nil || it.RepsDone != nil || it.LoadKg != nil
}

// SessionInput is one session as logged. The next morning can follow later.
type SessionInput struct {
	On          day.Date    `json:"on" format:"date"`
	Items       []ItemInput `json:"items" minItems:"1" maxItems:"40" doc:"Those of which nothing was said are not stored"`
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
	if !slices.ContainsFunc(in.Items, ItemInput.said) {
		bad.add("items", "say how at least one exercise went; nothing is stored from an empty form")
	}
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
		for _, n := range []*int{it.SetsDone, it.RepsDone} {
			if n != nil && (*n < 0 || *n > 300) {
				bad.add(path+"setsDone", "%d can't be", *n)
			}
		}
		if kg := it.LoadKg; kg != nil && (*kg < 0 || *kg > 500) {
			bad.add(path+"loadKg", "%g kg can't be; expected 0 to 500", *kg)
		}
		for _, m := range it.Mistakes {
			if p := f.prescriptionOf(it.PrescriptionID); !f.mistake(p, m) {
				bad.add(path+"mistakes", "%q is not on this ladder's list", m)
			}
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
		out, err = once(ctx, a, tx, act, asked{"logSession", block, key}, in, func() (Block, error) { return a.logSession(ctx, tx, act, block, in) })
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
	if err := tx.LockRunner(ctx, b.RunnerID); err != nil {
		return Block{}, err
	}
	k, err := a.openBlock(ctx, tx, act, b)
	if err != nil {
		return Block{}, err
	}
	f := k.f
	if err := in.check(f); err != nil {
		return Block{}, err
	}
	if err := f.store(ctx, tx, act, in, store.SessionLog{}); err != nil {
		return Block{}, err
	}
	if in.NextMorning != nil {
		m := store.Morning{On: (in.On + 1).Time(), FirstStep: in.NextMorning}
		if err := tx.PutMorning(ctx, b.RunnerID, &m, act.User.ID); err != nil {
			return Block{}, err
		}
		k.rows.AddMorning(m)
		k.g.mornings = k.rows.Mornings
	}
	if err := tx.Note(ctx, b.RunnerID, a.now(), &act.User.ID, "session", "Session of "+in.On.Words()+" logged", in); err != nil {
		return Block{}, err
	}
	if err := k.follow(); err != nil {
		return Block{}, err
	}
	if err := k.decide(ctx, tx); err != nil {
		return Block{}, err
	}
	return k.f.view()
}

// store keeps a session; log says what it stands for.
func (f *frame) store(ctx context.Context, tx *store.Tx, act Actor, in SessionInput, log store.SessionLog) error {
	var items []store.SessionItem
	for _, it := range in.Items {
		if !it.said() {
			continue
		}
		for _, s := range it.sides() {
			x := store.SessionItem{
				PrescriptionID: it.PrescriptionID, Side: string(s), Notch: f.asked(f.prescriptionOf(it.PrescriptionID), s, in.On), Pain: it.Pain, Done: it.Done,
				Compensated: it.Compensated, Reserve: it.Reserve, SureTwenty: it.SureTwenty, NoTime: it.NoTime, CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Reacted: it.Reacted,
				Mistakes: it.Mistakes, SetsDone: it.SetsDone, RepsDone: it.RepsDone, LoadKg: it.LoadKg,
			}
			if was, ok := f.itemOf(log.Replaces, it.PrescriptionID, s); ok {
				x.Notch = was.Notch
			}
			var err error
			if x.Cut, x.Given, err = f.givenOn(it.PrescriptionID, s, in.On); err != nil {
				return err
			}
			if x.Done == nil {
				x.Done = shareDone(x)
			}
			items = append(items, x)
		}
	}
	log.BlockID, log.RunnerID, log.On, log.Note, log.Litmus = f.block.ID, f.block.RunnerID, in.On.Time(), in.Note, in.Litmus
	if err := tx.AddSessionLog(ctx, &log, items, act.User.ID); err != nil {
		return err
	}
	f.desk.rows.Plan.AddLog(log, items)
	return nil
}

func (f *frame) itemOf(log *string, prescription string, side body.Side) (store.SessionItem, bool) {
	if log == nil {
		return store.SessionItem{}, false
	}
	i := slices.IndexFunc(f.items, func(it store.SessionItem) bool {
		return it.LogID == *log && it.PrescriptionID == prescription && it.Side == string(side)
	})
	if i < 0 {
		return store.SessionItem{}, false
	}
	return f.items[i], true
}

// shareDone is the share of the dose that the sets and repetitions told make; nil
// where none were told.
func shareDone(x store.SessionItem) *float64 {
	var d catalogue.Dose
	if x.SetsDone == nil && x.RepsDone == nil || json.Unmarshal(x.Given, &d) != nil || d.Sets == 0 {
		return nil
	}
	sets, reps := d.Sets, d.Reps
	if x.SetsDone != nil {
		sets = *x.SetsDone
	}
	if x.RepsDone != nil {
		reps = *x.RepsDone
	}
	share := float64(sets) / float64(d.Sets)
	if d.Reps > 0 {
		share *= float64(reps) / float64(d.Reps)
	}
	share = min(1, share)
	return &share
}

func (f *frame) prescriptionOf(id string) store.Prescription {
	i := slices.IndexFunc(f.prescriptions, func(p store.Prescription) bool { return p.ID == id })
	if i < 0 {
		return store.Prescription{}
	}
	return f.prescriptions[i]
}

// mistake reports whether a mistake is on the list of one of the ladder's exercises.
func (f *frame) mistake(p store.Prescription, m string) bool {
	return slices.ContainsFunc(f.ladders[p.ID].Notches, func(n catalogue.Notch) bool { return slices.Contains(n.Exercise.Mistakes, m) })
}

// Correction puts a logged session right, or takes it back.
type Correction struct {
	Reason  string        `json:"reason" maxLength:"500" doc:"Why; it stands in the journal"`
	Session *SessionInput `json:"session,omitempty" doc:"The session as it was; empty takes it back"`
}

// CorrectSession puts a logged session in place of the one that was stored, or takes
// it back, with a reason. What it decided is looked at again: less load follows at
// once, nothing rises by it. Both stay in the record.
func (a *App) CorrectSession(ctx context.Context, act Actor, block, log string, in Correction) (Block, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if in.Reason == "" {
		return Block{}, Invalid{{"reason", "say why, for the journal"}}
	}
	var out Block
	err := a.write(ctx, act, func(tx *store.Tx) error {
		b, err := tx.LockBlock(ctx, block)
		if err != nil {
			return err
		}
		if b.EndedAt != nil {
			return Refused("this block has ended; its sessions stay as they are")
		}
		if err := tx.LockRunner(ctx, b.RunnerID); err != nil {
			return err
		}
		k, err := a.openBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(k.rows.Plan.Logs, func(l store.SessionLog) bool { return l.ID == log })
		if i < 0 {
			return ErrNotFound
		}
		was := k.rows.Plan.Logs[i]
		if was.Removed || slices.ContainsFunc(k.rows.Plan.Logs, func(l store.SessionLog) bool { return l.Replaces != nil && *l.Replaces == log }) {
			return ErrConflict
		}
		now := store.SessionLog{Replaces: &was.ID, Reason: in.Reason}
		text := "Session of " + dateOf(was.On).Words() + " put right: " + in.Reason
		if in.Session == nil {
			now.Removed = true
			text = "Session of " + dateOf(was.On).Words() + " taken back: " + in.Reason
			now.BlockID, now.RunnerID, now.On = b.ID, b.RunnerID, was.On
			if err := tx.AddSessionLog(ctx, &now, nil, act.User.ID); err != nil {
				return err
			}
			k.rows.Plan.AddLog(now, nil)
		} else {
			if err := in.Session.check(k.f); err != nil {
				return err
			}
			if err := k.f.store(ctx, tx, act, *in.Session, now); err != nil {
				return err
			}
		}
		if err := tx.Note(ctx, b.RunnerID, a.now(), &act.User.ID, "session", text, in); err != nil {
			return err
		}
		if err := k.follow(); err != nil {
			return err
		}
		if err := k.decide(ctx, tx); err != nil {
			return err
		}
		out, err = k.f.view()
		return err
	})
	return out, err
}

// LoggedSession is a session as it was logged, to put it right.
type LoggedSession struct {
	ID     string       `json:"id"`
	On     day.Date     `json:"on" format:"date"`
	Note   string       `json:"note,omitempty"`
	Litmus string       `json:"litmus,omitempty"`
	Reason string       `json:"reason,omitempty" doc:"Why it was put right"`
	Items  []LoggedItem `json:"items" nullable:"false"`
}

// LoggedItem is a side's part of it.
type LoggedItem struct {
	ItemInput
	Name  string `json:"name"`
	Words string `json:"words" doc:"The notch done"`
}

// loggedBack is for how long the log lists sessions, in days.
const loggedBack = 28

// LoggedSessions lists the sessions of the last four weeks, newest first.
func (a *App) LoggedSessions(ctx context.Context, act Actor, block string) ([]LoggedSession, error) {
	out := []LoggedSession{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.openBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		for _, l := range k.rows.Plan.Logs {
			if dateOf(l.On) < k.today-loggedBack || l.Removed {
				continue
			}
			v := LoggedSession{ID: l.ID, On: dateOf(l.On), Note: l.Note, Litmus: l.Litmus, Reason: l.Reason, Items: []LoggedItem{}}
			for _, it := range k.f.items {
				if it.LogID != l.ID {
					continue
				}
				lad := k.f.ladders[it.PrescriptionID]
				v.Items = append(v.Items, LoggedItem{Name: lad.Name, Words: words.Notch(lad.At(it.Notch)), ItemInput: ItemInput{PrescriptionID: it.PrescriptionID, Side: body.Side(it.Side), Pain: it.Pain, Done: it.Done,
					Compensated: it.Compensated, Reserve: it.Reserve, SureTwenty: it.SureTwenty, NoTime: it.NoTime, CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Reacted: it.Reacted, Mistakes: it.Mistakes,
					SetsDone: it.SetsDone, RepsDone: it.RepsDone, LoadKg: it.LoadKg}})
			}
			if len(v.Items) > 0 {
				out = append(out, v)
			}
		}
		return nil
	})
	return out, err
}

// givenOn is the dose a side is asked on a date, as it is kept with a session, and
// why it was less than the notch.
func (f *frame) givenOn(prescription string, side body.Side, on day.Date) (cut string, dose []byte, err error) {
	i := slices.IndexFunc(f.prescriptions, func(p store.Prescription) bool { return p.ID == prescription })
	n, why := f.doseFor(f.prescriptions[i], side, on)
	dose, err = json.Marshal(n.Dose)
	return string(why), dose, err
}

// PutMorning stores a first-step reading and looks again at what it decides.
// One that changes what was told before needs a reason.
func (a *App) PutMorning(ctx context.Context, act Actor, runner string, on day.Date, firstStep int, reason ...string) (Block, error) {
	today := a.Today(act)
	var bad Invalid
	if firstStep < 0 || firstStep > body.PainMax {
		bad.add("firstStep", "%d can't be; pain goes from 0 to 10", firstStep)
	}
	if on > today {
		bad.add("on", "%s is in the future", on)
	}
	if on < today-runsBack {
		bad.add("on", "%s is too long ago", on)
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
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		why := strings.TrimSpace(strings.Join(reason, " "))
		was, err := tx.Mornings(ctx, runner, on.Time())
		if err != nil {
			return err
		}
		for i := len(was) - 1; i >= 0; i-- { // by date and revision
			if m := was[i]; dateOf(m.On) == on && m.Zone == "" && m.Side == "" {
				if m.FirstStep != nil && *m.FirstStep != firstStep && why == "" {
					return Invalid{{"reason", "this changes a reading; say why, for the journal"}}
				}
				break
			}
		}
		if err := tx.PutMorning(ctx, runner, &store.Morning{On: on.Time(), FirstStep: &firstStep}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "morning", fmt.Sprintf("First steps on %s: %d", on.Words(), firstStep)+because(why), nil); err != nil {
			return err
		}
		k, err := a.decideBlock(ctx, tx, act, current.ID)
		if err != nil {
			return err
		}
		out, err = k.f.view()
		return err
	})
	return out, err
}

// sessions are one side's sessions of a ladder.
func (f *frame) sessions(prescription string, side body.Side) []adjust.Session {
	var out []adjust.Session
	for _, it := range f.items {
		if it.PrescriptionID == prescription && it.Side == string(side) {
			out = append(out, record.SessionOf(it))
		}
	}
	return out
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

// AcceptDecision moves the peg as a proposed decision says.
func (a *App) AcceptDecision(ctx context.Context, act Actor, id string, version int) (Block, error) {
	return answered(a.answer(ctx, act, id, version, store.Answer{Kind: string(course.Accept)}))
}

// OverrideInput is the coach's own choice instead of a decision.
type OverrideInput struct {
	Notch  int    `json:"notch" doc:"The notch to stand on, from 1"`
	Reason string `json:"reason" maxLength:"500"`
}

// OverrideDecision puts the peg where the coach wants it, with a reason. Never
// against a flag or a flare, beyond a closed gate, up while something holds, or
// more than one notch up.
func (a *App) OverrideDecision(ctx context.Context, act Actor, id string, version int, in OverrideInput) (Block, error) {
	if in.Reason == "" {
		return Block{}, Invalid{{"reason", "say why, for the journal"}}
	}
	if in.Notch < 1 {
		return Block{}, Invalid{{"notch", "expected a notch of the ladder, from 1"}}
	}
	return answered(a.answer(ctx, act, id, version, store.Answer{Kind: string(course.Override), Notch: in.Notch, Reason: in.Reason}))
}

// TakeBackAnswer undoes the coach's own answer to a decision, on the same day and
// before a session followed it.
func (a *App) TakeBackAnswer(ctx context.Context, act Actor, id string, version int) (Block, error) {
	return answered(a.answer(ctx, act, id, version, store.Answer{Kind: string(course.TakeBack)}))
}

// answered shows the block after an answer.
func answered(k *desk, err error) (Block, error) {
	if err != nil {
		return Block{}, err
	}
	return k.f.view()
}

// answer keeps a coach's answer to a decision and what follows from it.
func (a *App) answer(ctx context.Context, act Actor, id string, version int, in store.Answer) (*desk, error) {
	var out *desk
	err := a.write(ctx, act, func(tx *store.Tx) error {
		d, err := tx.Decision(ctx, id)
		if err != nil {
			return err
		}
		current, err := tx.CurrentBlock(ctx, d.RunnerID)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, d.RunnerID); err != nil {
			return err
		}
		k, err := a.decideBlock(ctx, tx, act, current.ID) // what the hours since decided comes first
		if err != nil {
			return err
		}
		i := slices.IndexFunc(k.rows.Plan.Decisions, func(x store.Decision) bool { return x.ID == id })
		if i < 0 {
			return Refused(words.Refused(course.Barred{Why: course.RefusedGone}))
		}
		row := k.rows.Plan.Decisions[i]
		if row.Version != version && row.State != string(course.Superseded) {
			return ErrConflict
		}
		dec, err := record.DecisionOf(row)
		if err != nil {
			return err
		}
		in.Key = dec.Key
		if why := k.book.Refuses(course.Answer{Decision: in.Key, Kind: course.AnswerKind(in.Kind), Notch: in.Notch, Reason: in.Reason, By: act.User.ID}); why.Why != "" {
			if why.Why == course.RefusedRange {
				return Invalid{{"notch", fmt.Sprintf("expected 1 to %d: at most one notch up", min(k.f.ladders[row.PrescriptionID].Len(), row.From+1))}}
			}
			return Refused(words.Refused(why))
		}
		if err := tx.AddAnswer(ctx, d.RunnerID, current.ID, in, act.User.ID); err != nil {
			return err
		}
		if k.rows.Plan.Answers, err = tx.Answers(ctx, current.ID); err != nil {
			return err
		}
		if err := k.follow(); err != nil {
			return err
		}
		out = k
		return k.decide(ctx, tx)
	})
	return out, err
}

// JournalLine is one line of the journal.
type JournalLine struct {
	ID       int64     `json:"id"`
	At       time.Time `json:"at"`
	By       string    `json:"by" doc:"Who; empty for the engine"`
	Kind     string    `json:"kind"`
	Sentence string    `json:"sentence"`
	Imported bool      `json:"imported,omitempty" doc:"Written elsewhere, and brought in"`
}

// journalPage is the most lines read at once.
const journalPage = 200

// Journal returns a runner's newest journal lines.
func (a *App) Journal(ctx context.Context, act Actor, runner string) ([]JournalLine, error) {
	out := []JournalLine{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.Journal(ctx, runner, journalPage)
		if err != nil {
			return err
		}
		for _, e := range list {
			l := JournalLine{ID: e.ID, At: e.At, Kind: e.Kind, Sentence: e.Sentence, Imported: e.Imported}
			if e.By != nil {
				l.By = *e.By
			}
			out = append(out, l)
		}
		return nil
	})
	return out, err
}
