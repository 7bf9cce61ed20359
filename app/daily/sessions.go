package daily

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/routine"
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
	Notch          *int      `json:"-"` // as it was done on a phone whose plan was older; nil for the one asked
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
	Litmus      string      `json:"litmus,omitempty" enum:"better,same,worse," doc:"Heel and toe walk, or ten steps, after, against before"`
	Routine     string      `json:"routine,omitempty" maxLength:"80" doc:"The routine it was, given whole"`
	Compared    []Compared  `json:"compared,omitempty" maxItems:"2" doc:"What the routine measures, before and after"`
	Felt        string      `json:"felt,omitempty" enum:"foot,calf,shin,thigh,seat," doc:"Where it was felt"`
	Note        string      `json:"note,omitempty" maxLength:"2000"`
}

// Compared is what a routine measured on a side before and after it, in centimetres.
type Compared struct {
	Side   body.Side `json:"side" enum:"left,right"`
	Before float64   `json:"before" minimum:"0" maximum:"30"`
	After  float64   `json:"after" minimum:"0" maximum:"30"`
}

func (in SessionInput) checkRoutine(f *record.Frame, bad *app.Invalid) {
	g, known := f.RoutineGiven(in.Routine)
	if in.Routine != "" && !known {
		bad.Add("routine", "this routine does not stand in the block")
	}
	if len(in.Compared) > 0 && g.Compare != string(routine.CompareCm) {
		bad.Add("compared", "nothing is measured before and after here")
	}
	sides := map[body.Side]bool{}
	for i, c := range in.Compared {
		path := fmt.Sprintf("compared[%d].", i)
		if sides[c.Side] || c.Side != body.Left && c.Side != body.Right {
			bad.Add(path+"side", "left and right, each once")
		}
		sides[c.Side] = true
		for _, v := range []float64{c.Before, c.After} {
			if !(v >= 0 && v <= 30) {
				bad.Add(path+"after", "expected 0 to 30 (you entered %g cm)", v)
			}
		}
	}
	if in.Felt != "" && !slices.Contains([]string{"foot", "calf", "shin", "thigh", "seat"}, in.Felt) {
		bad.Add("felt", "%q is not a place it is felt", in.Felt)
	}
}

func (in SessionInput) check(f *record.Frame) error {
	var bad app.Invalid
	if in.On > f.Today {
		bad.Add("on", "%s is in the future", in.On)
	}
	if in.On < f.Start {
		bad.Add("on", "the block starts on %s", f.Start)
	}
	if m := in.NextMorning; m != nil {
		if *m < 0 || *m > body.PainMax {
			bad.Add("nextMorning", "pain must be 0 to 10 (you entered %d)", *m)
		}
		if in.On+1 > f.Today {
			bad.Add("nextMorning", "that morning is still to come")
		}
	}
	in.checkRoutine(f, &bad)
	seen := map[string]bool{}
	if !slices.ContainsFunc(in.Items, ItemInput.said) {
		bad.Add("items", "say how at least one exercise went; nothing is stored from an empty form")
	}
	for i, it := range in.Items {
		path := fmt.Sprintf("items[%d].", i)
		if _, ok := f.Pegs[it.PrescriptionID]; !ok {
			bad.Add(path+"prescriptionId", "not one of this block's ladders")
			continue
		}
		for _, s := range it.sides() {
			if k := it.PrescriptionID + string(s); seen[k] {
				bad.Add(path+"side", "the %s side stands twice", s)
			} else {
				seen[k] = true
			}
		}
		if it.Side == body.Both && !f.Together(it.PrescriptionID) {
			bad.Add(path+"side", "this notch is done one side at a time; log left and right")
		}
		if p := it.Pain; p != nil && (*p < 0 || *p > body.PainMax) {
			bad.Add(path+"pain", "pain must be 0 to 10 (you entered %d)", *p)
		}
		if d := it.Done; d != nil && (*d < 0 || *d > 1) {
			bad.Add(path+"done", "expected a share from 0 to 1 (you entered %g)", *d)
		}
		if c := it.Compensated; c != nil && (*c < 0 || *c > 1) {
			bad.Add(path+"compensated", "expected a share from 0 to 1 (you entered %g)", *c)
		}
		if c := it.CrampAt; c != nil && (*c < 1 || *c > 200) {
			bad.Add(path+"crampAt", "expected a repetition from 1 to 200 (you entered %d)", *c)
		}
		if p := it.SoreSpot; p != nil && (*p < 0 || *p > body.PainMax) {
			bad.Add(path+"soreSpot", "expected 0 to 10 (you entered %d)", *p)
		}
		for _, n := range []*int{it.SetsDone, it.RepsDone} {
			if n != nil && (*n < 0 || *n > 300) {
				bad.Add(path+"setsDone", "%d can't be", *n)
			}
		}
		if kg := it.LoadKg; kg != nil && (*kg < 0 || *kg > 500) {
			bad.Add(path+"loadKg", "expected 0 to 500 (you entered %g kg)", *kg)
		}
		for _, m := range it.Mistakes {
			if p := f.PrescriptionOf(it.PrescriptionID); !f.Mistake(p, m) {
				bad.Add(path+"mistakes", "%q is not on this ladder's list", m)
			}
		}
		if r := it.Reserve; r != nil && (*r < 0 || *r > adjust.ReserveMost) {
			bad.Add(path+"reserve", "expected 0 to %[2]d (you entered %[1]d)", *r, adjust.ReserveMost)
		}
	}
	return bad.Or()
}

func (it ItemInput) sides() []body.Side {
	if it.Side == body.Both {
		return body.Sides[:]
	}
	return []body.Side{it.Side}
}

// LogSession stores a session and decides each ladder of it. Decisions that
// take load away apply at once; a step up waits for the coach.
func (a *Daily) LogSession(ctx context.Context, act app.Actor, key, block string, in SessionInput) (view.Block, error) {
	var out view.Block
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = app.Once(ctx, a.App, tx, act, app.Asked{Operation: "logSession", Address: block, Key: key}, in, func() (view.Block, error) { return a.logSession(ctx, tx, act, block, in) })
		return err
	})
	return out, err
}

func (a *Daily) logSession(ctx context.Context, tx *store.Tx, act app.Actor, block string, in SessionInput) (view.Block, error) {
	b, err := tx.LockBlock(ctx, block)
	if err != nil {
		return view.Block{}, err
	}
	if b.EndedAt != nil {
		return view.Block{}, app.Refused("this block has ended; log to the present one")
	}
	if err := tx.LockRunner(ctx, b.RunnerID); err != nil {
		return view.Block{}, err
	}
	k, err := a.OpenBlock(ctx, tx, act, b)
	if err != nil {
		return view.Block{}, err
	}
	f := k.F
	if err := in.check(f); err != nil {
		return view.Block{}, err
	}
	if err := keepItems(ctx, tx, f, act, in, store.SessionLog{}); err != nil {
		return view.Block{}, err
	}
	if in.NextMorning != nil {
		m := store.Morning{On: (in.On + 1).Time(), FirstStep: in.NextMorning}
		if err := tx.PutMorning(ctx, b.RunnerID, &m, act.User.ID); err != nil {
			return view.Block{}, err
		}
		k.Rows.AddMorning(m)
		k.G.Mornings = k.Rows.Mornings
	}
	if err := tx.Note(ctx, b.RunnerID, a.Now(), &act.User.ID, "session", "Session of "+in.On.Words()+" logged", in); err != nil {
		return view.Block{}, err
	}
	if err := k.Follow(); err != nil {
		return view.Block{}, err
	}
	if err := k.Decide(ctx, tx); err != nil {
		return view.Block{}, err
	}
	return view.BlockOf(k.F)
}

// keepItems keeps a session; log says what it stands for.
func keepItems(ctx context.Context, tx *store.Tx, f *record.Frame, act app.Actor, in SessionInput, log store.SessionLog) error {
	var items []store.SessionItem
	for _, it := range in.Items {
		if !it.said() {
			continue
		}
		for _, s := range it.sides() {
			x := store.SessionItem{
				PrescriptionID: it.PrescriptionID, Side: string(s), Notch: f.Asked(f.PrescriptionOf(it.PrescriptionID), s, in.On), Pain: it.Pain, Done: it.Done,
				Compensated: it.Compensated, Reserve: it.Reserve, SureTwenty: it.SureTwenty, NoTime: it.NoTime, CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Reacted: it.Reacted,
				Mistakes: it.Mistakes, SetsDone: it.SetsDone, RepsDone: it.RepsDone, LoadKg: it.LoadKg,
			}
			if was, ok := f.ItemOf(log.Replaces, it.PrescriptionID, s); ok {
				x.Notch = was.Notch
			}
			var err error
			if x.Cut, x.Given, err = f.GivenOn(it.PrescriptionID, s, in.On); err != nil {
				return err
			}
			if l := f.Ladders[it.PrescriptionID]; it.Notch != nil && *it.Notch != x.Notch && *it.Notch <= l.Len() {
				x.Notch, x.Cut = *it.Notch, ""
				if x.Given, err = json.Marshal(l.At(*it.Notch).Dose); err != nil {
					return err
				}
			}
			if x.Done == nil {
				x.Done = shareDone(x)
			}
			items = append(items, x)
		}
	}
	log.BlockID, log.RunnerID, log.On, log.Note, log.Litmus = f.Block.ID, f.Block.RunnerID, in.On.Time(), in.Note, in.Litmus
	log.Routine, log.Felt = in.Routine, in.Felt
	if len(in.Compared) > 0 {
		raw, err := json.Marshal(in.Compared)
		if err != nil {
			return err
		}
		log.Compared = raw
	}
	if err := tx.AddSessionLog(ctx, &log, items, act.User.ID); err != nil {
		return err
	}
	f.Desk.Rows.Plan.AddLog(log, items)
	return nil
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

// Correction puts a logged session right, or takes it back.
type Correction struct {
	Reason  string        `json:"reason" maxLength:"500" doc:"Why; it stands in the journal"`
	Session *SessionInput `json:"session,omitempty" doc:"The session as it was; empty takes it back"`
}

// CorrectSession puts a logged session in place of the one that was stored, or takes
// it back, with a reason. What it decided is looked at again: less load follows at
// once, nothing rises by it. Both stay in the record.
func (a *Daily) CorrectSession(ctx context.Context, act app.Actor, block, log string, in Correction) (view.Block, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if in.Reason == "" {
		return view.Block{}, app.Wrong("reason", "say why, for the journal")
	}
	var out view.Block
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		b, err := tx.LockBlock(ctx, block)
		if err != nil {
			return err
		}
		if b.EndedAt != nil {
			return app.Refused("this block has ended; its sessions stay as they are")
		}
		if err := tx.LockRunner(ctx, b.RunnerID); err != nil {
			return err
		}
		k, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(k.Rows.Plan.Logs, func(l store.SessionLog) bool { return l.ID == log })
		if i < 0 {
			return app.ErrNotFound
		}
		was := k.Rows.Plan.Logs[i]
		if was.Removed || slices.ContainsFunc(k.Rows.Plan.Logs, func(l store.SessionLog) bool { return l.Replaces != nil && *l.Replaces == log }) {
			return app.ErrConflict
		}
		now := store.SessionLog{Replaces: &was.ID, Reason: in.Reason}
		text := "Session of " + app.DateOf(was.On).Words() + " put right: " + in.Reason
		if in.Session == nil {
			now.Removed = true
			text = "Session of " + app.DateOf(was.On).Words() + " taken back: " + in.Reason
			now.BlockID, now.RunnerID, now.On = b.ID, b.RunnerID, was.On
			if err := tx.AddSessionLog(ctx, &now, nil, act.User.ID); err != nil {
				return err
			}
			k.Rows.Plan.AddLog(now, nil)
		} else {
			if err := in.Session.check(k.F); err != nil {
				return err
			}
			if err := keepItems(ctx, tx, k.F, act, *in.Session, now); err != nil {
				return err
			}
		}
		if err := tx.Note(ctx, b.RunnerID, a.Now(), &act.User.ID, "session", text, in); err != nil {
			return err
		}
		if err := k.Follow(); err != nil {
			return err
		}
		if err := k.Decide(ctx, tx); err != nil {
			return err
		}
		out, err = view.BlockOf(k.F)
		return err
	})
	return out, err
}

// LoggedSession is a session as it was logged, to put it right.
type LoggedSession struct {
	ID       string       `json:"id"`
	On       day.Date     `json:"on" format:"date"`
	Note     string       `json:"note,omitempty"`
	Litmus   string       `json:"litmus,omitempty"`
	Reason   string       `json:"reason,omitempty" doc:"Why it was put right"`
	Routine  string       `json:"routine,omitempty"`
	Name     string       `json:"name,omitempty" doc:"Of the routine"`
	Compared []Compared   `json:"compared,omitempty"`
	Felt     string       `json:"felt,omitempty" enum:"foot,calf,shin,thigh,seat,"`
	Items    []LoggedItem `json:"items" nullable:"false"`
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
func (a *Daily) LoggedSessions(ctx context.Context, act app.Actor, block string) ([]LoggedSession, error) {
	out := []LoggedSession{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		k, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		for _, l := range k.Rows.Plan.Logs {
			if app.DateOf(l.On) < k.Today-loggedBack || l.Removed {
				continue
			}
			v := LoggedSession{ID: l.ID, On: app.DateOf(l.On), Note: l.Note, Litmus: l.Litmus, Reason: l.Reason, Routine: l.Routine, Felt: l.Felt, Items: []LoggedItem{}}
			if l.Routine != "" {
				v.Name = k.F.RoutineName(l.Routine)
			}
			if len(l.Compared) > 0 {
				if err := json.Unmarshal(l.Compared, &v.Compared); err != nil {
					return err
				}
			}
			for _, it := range k.F.Items {
				if it.LogID != l.ID {
					continue
				}
				lad := k.F.Ladders[it.PrescriptionID]
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

// PutMorning stores a first-step reading and looks again at what it decides.
// One that changes what was told before needs a reason.
func (a *Daily) PutMorning(ctx context.Context, act app.Actor, runner string, on day.Date, firstStep int, reason ...string) (view.Block, error) {
	today := a.Today(act)
	var bad app.Invalid
	if firstStep < 0 || firstStep > body.PainMax {
		bad.Add("firstStep", "pain must be 0 to 10 (you entered %d)", firstStep)
	}
	if on > today {
		bad.Add("on", "%s is in the future", on)
	}
	if on < today-input.RunsBack {
		bad.Add("on", "%s is too long ago", on)
	}
	if err := bad.Or(); err != nil {
		return view.Block{}, err
	}
	var out view.Block
	err := a.Write(ctx, act, func(tx *store.Tx) error {
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
			if m := was[i]; app.DateOf(m.On) == on && m.Zone == "" && m.Side == "" {
				if m.FirstStep != nil && *m.FirstStep != firstStep && why == "" {
					return app.Wrong("reason", "this changes a reading; say why, for the journal")
				}
				break
			}
		}
		if err := tx.PutMorning(ctx, runner, &store.Morning{On: on.Time(), FirstStep: &firstStep}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "morning", fmt.Sprintf("First steps on %s: %d", on.Words(), firstStep)+record.Because(why), nil); err != nil {
			return err
		}
		k, err := a.DecideBlock(ctx, tx, act, current.ID)
		if err != nil {
			return err
		}
		out, err = view.BlockOf(k.F)
		return err
	})
	return out, err
}

// AcceptDecision moves the peg as a proposed decision says.
func (a *Daily) AcceptDecision(ctx context.Context, act app.Actor, id string, version int) (view.Block, error) {
	return view.Answered(a.Answer(ctx, act, id, version, store.Answer{Kind: string(course.Accept)}))
}

// OverrideInput is the coach's own choice instead of a decision.
type OverrideInput struct {
	Notch  int    `json:"notch" doc:"The notch to stand on, from 1"`
	Reason string `json:"reason" maxLength:"500"`
}

// OverrideDecision puts the peg where the coach wants it, with a reason. Never
// against a flag or a flare, beyond a closed gate, up while something holds, or
// more than one notch up.
func (a *Daily) OverrideDecision(ctx context.Context, act app.Actor, id string, version int, in OverrideInput) (view.Block, error) {
	if in.Reason == "" {
		return view.Block{}, app.Wrong("reason", "say why, for the journal")
	}
	if in.Notch < 1 {
		return view.Block{}, app.Wrong("notch", "expected a notch of the ladder, from 1")
	}
	return view.Answered(a.Answer(ctx, act, id, version, store.Answer{Kind: string(course.Override), Notch: in.Notch, Reason: in.Reason}))
}

// TakeBackAnswer undoes the coach's own answer to a decision, on the same day and
// before a session followed it.
func (a *Daily) TakeBackAnswer(ctx context.Context, act app.Actor, id string, version int) (view.Block, error) {
	return view.Answered(a.Answer(ctx, act, id, version, store.Answer{Kind: string(course.TakeBack)}))
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
func (a *Daily) Journal(ctx context.Context, act app.Actor, runner string) ([]JournalLine, error) {
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
