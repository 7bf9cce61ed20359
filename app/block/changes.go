package block

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
	"notchback/store"
)

// ChangeInput asks for a change.
type ChangeInput struct {
	input.BlockChange
	Revision int  `json:"revision" doc:"The block's revision that was read"`
	Preview  bool `json:"preview,omitempty" doc:"Only says what it would do"`
	Insist   bool `json:"insist,omitempty" doc:"Do it although a rule breaks; a reason is needed"`
}

// ChangedBlock is what a change does.
type ChangedBlock struct {
	Broken       []string     `json:"broken" nullable:"false" doc:"Hard rules it breaks"`
	Consequences []string     `json:"consequences" nullable:"false"`
	Parts        []FittedPart `json:"parts" nullable:"false" doc:"Of a routine: what is done and what drops out"`
	Minutes      int          `json:"minutes,omitempty" doc:"Of a routine as it is now"`
	Block        *view.Block  `json:"block,omitempty" doc:"Set when it was done"`
}

// check says what is wrong with a change by itself.
func check(f *record.Frame, c input.BlockChange) error {
	var bad app.Invalid
	p, known := f.Prescription(c.Ladder)
	if slices.Contains([]string{"days", "dose", "extra-set", "leave-out", "change"}, c.Kind) && !known {
		bad.Add("ladder", "%q is not in this block", c.Ladder)
		return bad
	}
	switch c.Kind {
	case "move":
		if c.From == nil || c.To == nil {
			bad.Add("to", "say from which day to which")
			return bad
		}
		if *c.From < f.Today || *c.To < f.Today {
			bad.Add("from", "past days can't be moved")
		}
		if *c.From > f.End() || *c.To > f.End() || *c.To < f.Start {
			bad.Add("to", "expected a day within the block, %s to %s", f.Start.Words(), f.End().Words())
		}
		if *c.From == *c.To {
			bad.Add("to", "that is where it stands")
		}
		if c.Always && c.From.Monday() != c.To.Monday() {
			bad.Add("to", "every week means within the same week")
		}
		if bad == nil && !slices.ContainsFunc(f.SessionsOn(*c.From), func(s record.Sitting) bool { return s.Kind == c.Session && s.Routine == c.Routine }) {
			bad.Add("from", "nothing of that kind stands on %s", c.From.Words())
		}
	case "routine-off":
		if !slices.ContainsFunc(f.Routines(f.Today), func(r record.GivenRoutine) bool { return r.ID == c.Routine }) {
			bad.Add("routine", "%q does not stand in this block", c.Routine)
		}
	case "days", "add", "routine":
		if len(c.Days) == 0 {
			bad.Add("days", "choose at least one day; to take it out, leave it out")
		}
		for _, d := range c.Days {
			if d < 0 || d > 6 {
				bad.Add("days", "%d is not a weekday; Monday is 0, Sunday 6", d)
			}
		}
	case "dose":
		l := f.Ladders[p.ID]
		if c.Notch < 1 || c.Notch > l.Len() {
			bad.Add("notch", "expected 1 to %d", l.Len())
			return bad
		}
		if d := c.Dose; d != nil {
			if d.Sets < 1 || d.Sets > 10 || d.Volume() < 1 || d.Volume() > 4000 || d.BodyPercent < 0 || d.BodyPercent > 200 {
				bad.Add("dose", "expected 1 to 10 sets with something in them")
			}
			if math.Abs(float64(d.Volume())) > 2*float64(l.At(c.Notch).Dose.Volume()) {
				bad.Add("dose", "more than twice the notch is another notch, not an edit")
			}
		}
	case "leave-out":
		if strings.TrimSpace(c.Reason) == "" {
			bad.Add("reason", "say why; it is offered again after four weeks")
		}
	}
	return bad.Or()
}

// broken lists the hard rules a week breaks with the changes as they are.
func broken(f *record.Frame, monday day.Date) []planning.Broken {
	items, where := routineItems(f, monday)
	for _, p := range f.Prescriptions {
		l := f.Ladders[p.ID]
		if l.Part != nil {
			continue // counted with its routine
		}
		at := f.Pegs[p.ID][body.Left].Notch
		it := planning.Item{Ladder: l.ID, Name: l.Name, Times: 7, Least: 1, Tissues: l.Tissues, Spring: l.Purpose == catalogue.ForSpring, Gap48: l.At(at).Gap48, Heavy: l.At(at).Heavy && l.Purpose != catalogue.ForSpring, Seconds: l.At(at).Seconds()}
		for _, pl := range f.Plan.Layout.Places { // the layout knows the notches to come
			if pl.Ladder == l.ID {
				it.Gap48, it.Heavy, it.Seconds = pl.Gap48, pl.Heavy, pl.Seconds
			}
		}
		var days planning.Days
		for d := range 7 {
			for _, s := range f.SessionsOn(monday + day.Date(d)) {
				if slices.Contains(s.Ladders, l.ID) && (s.Kind == planning.Main || s.Kind == planning.EveKind) {
					days = days.With(d)
					it.Evening = s.Kind == planning.EveKind
				}
			}
		}
		if days == 0 {
			continue
		}
		items, where = append(items, it), append(where, days)
	}
	return planning.Check(f.Plan.Wishes.Week, items, where, f.Plan.Layout.MicroSeconds)
}

// weight is the load of a prescription a week on its first tissue, in body
// weights times repetitions.
func weight(f *record.Frame, p store.Prescription, monday day.Date) (float64, float64) {
	load, seconds := 0.0, 0.0
	for d := range 7 {
		on := monday + day.Date(d)
		for _, s := range f.SessionsOn(on) {
			if !slices.Contains(s.Ladders, p.Ladder) {
				continue
			}
			n, _ := f.NotchOn(p, body.Left, on)
			if len(n.Tissues) > 0 {
				load += n.Count() * n.Weight(n.Tissues[0])
			}
			seconds += n.Seconds()
		}
	}
	return load, seconds
}

// ChangeBlock moves or edits something in a running block. What it breaks comes
// back in words; the coach may insist with a reason. With preview nothing is
// stored.
func (a *Blocks) ChangeBlock(ctx context.Context, act app.Actor, block string, in ChangeInput) (ChangedBlock, error) {
	out := ChangedBlock{Broken: []string{}, Consequences: []string{}, Parts: []FittedPart{}}
	run := func(tx *store.Tx) error {
		b, err := tx.LockBlock(ctx, block)
		if err != nil {
			return err
		}
		if b.EndedAt != nil {
			return app.Refused("this block has ended; change the present one")
		}
		k, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		f := k.F
		if f.Rev != in.Revision {
			return app.ErrConflict
		}
		if in.Kind == "add" {
			if err := a.addLadder(ctx, tx, f, in.BlockChange, in.Preview, &out); err != nil {
				return err
			}
		}
		if in.Kind == "change" {
			if err := a.changeLadder(ctx, tx, f, &in.BlockChange, in.Preview, &out); err != nil {
				return err
			}
		}
		if in.Given = nil; in.Kind == "routine" {
			if err := a.giveRoutine(ctx, tx, f, &in.BlockChange, in.Preview, &out); err != nil {
				return err
			}
		}
		if err := check(f, in.BlockChange); err != nil {
			return err
		}
		harder := consider(f, in.BlockChange, &out)
		if in.Preview {
			return nil
		}
		if (len(out.Broken) > 0 || harder) && (!in.Insist || strings.TrimSpace(in.Reason) == "") {
			why := "this gives more than the notch"
			if len(out.Broken) > 0 {
				why = out.Broken[0]
			}
			return app.Wrong("reason", why+"; to do it all the same, insist and say why")
		}
		raw, err := json.Marshal(in.BlockChange)
		if err != nil {
			return err
		}
		if err := tx.AddBlockChange(ctx, b.ID, f.Rev, raw, a.Now(), act.User.ID); err != nil {
			return err
		}
		if err := a.rememberExcluded(ctx, tx, act, b.RunnerID, in.BlockChange, f.Today); err != nil {
			return err
		}
		text := view.ChangeWords(f, in.BlockChange)
		if in.Reason != "" {
			text += ": " + in.Reason
		}
		if err := tx.Note(ctx, b.RunnerID, a.Now(), &act.User.ID, "plan", text, in.BlockChange); err != nil {
			return err
		}
		if k, err = a.DecideBlock(ctx, tx, act, b.ID); err != nil {
			return err
		}
		v, err := view.BlockOf(k.F)
		out.Block = &v
		return err
	}
	if in.Preview {
		return out, a.Store.In(ctx, act.Practice, run)
	}
	return out, a.Write(ctx, act, run)
}

// rememberExcluded keeps what was left out for the next plans, until it is
// offered again or put back in.
func (a *Blocks) rememberExcluded(ctx context.Context, tx *store.Tx, act app.Actor, runner string, c input.BlockChange, on day.Date) error {
	if c.Kind != "leave-out" && c.Kind != "add" {
		return nil
	}
	s, err := a.openStudio(ctx, tx, act, runner)
	if err != nil {
		return err
	}
	w := s.saved
	w.Excluded = slices.DeleteFunc(slices.Clone(w.Excluded), func(x planning.Excluded) bool { return x.Ladder == c.Ladder })
	if c.Kind == "leave-out" {
		w.Excluded = append(w.Excluded, planning.Excluded{Ladder: c.Ladder, Reason: c.Reason, On: on})
	}
	return a.saveWishes(ctx, tx, act, runner, s.rev, w)
}

// addLadder prescribes a ladder from the shelf, re-fitted to this runner.
func (a *Blocks) addLadder(ctx context.Context, tx *store.Tx, f *record.Frame, c input.BlockChange, preview bool, out *ChangedBlock) error {
	if _, there := f.Prescription(c.Ladder); there {
		if f.LeftOut(c.Ladder, f.Today) == "" {
			return app.Wrong("ladder", "it is in this block already")
		}
		return nil // it comes back where it stood
	}
	if f.Block.EndedAt != nil {
		return app.Refused("this block has ended")
	}
	s := &studio{desk: f.Desk, layers: record.Layered{Catalogue: f.Cat}, cat: f.Cat, dossier: f.Dossier, current: f}
	if err := s.from(f.Block.ScreeningID); err != nil {
		return err
	}
	l, ok := f.Cat.Ladder(c.Ladder)
	if !ok {
		return app.Wrong("ladder", fmt.Sprintf("%q is not a ladder", c.Ladder))
	}
	w := f.Plan.Wishes
	w.Added = []string{c.Ladder}
	e := s.evidence(f.Today, w.School)
	p := planning.Plan(f.Cat, e, w)
	ch, ok := p.ByLadder[c.Ladder]
	if !ok {
		why := "it is closed for this runner now"
		for _, x := range p.Left {
			if x.Ladder == c.Ladder {
				why = x.Why
			}
		}
		return app.Refused(l.Name + ": " + why)
	}
	// One newly added loading ladder a week.
	ch.FromWeek = max(1, int(f.Today-f.Start.Monday())/7+1)
	if len(l.Tissues) > 0 {
		for _, q := range f.Prescriptions {
			if len(f.Ladders[q.ID].Tissues) > 0 && q.FromWeek >= ch.FromWeek {
				ch.FromWeek = q.FromWeek + 1
			}
		}
	}
	out.Consequences = append(out.Consequences, fmt.Sprintf("%s starts in week %d with %s", l.Name, ch.FromWeek, words.Notch(l.At(ch.Start.Notch))))
	added := store.Prescription{ID: "preview", BlockID: f.Block.ID, RunnerID: f.Block.RunnerID, Position: len(f.Prescriptions), Ladder: l.ID, StartNotch: ch.Start.Notch, ExtraSetSide: string(ch.Start.ExtraSetSide), FromWeek: ch.FromWeek}
	if !preview {
		if err := a.prescribe(ctx, tx, f.Block, len(f.Prescriptions), ch, l); err != nil {
			return err
		}
		ps, err := tx.Prescriptions(ctx, f.Block.ID)
		if err != nil {
			return err
		}
		added = ps[len(ps)-1]
	}
	f.Prescriptions = append(slices.Clone(f.Prescriptions), added)
	f.Ladders[added.ID] = l
	f.Pegs[added.ID] = map[body.Side]*store.Peg{}
	for _, side := range body.Sides {
		f.Pegs[added.ID][side] = &store.Peg{PrescriptionID: added.ID, Side: string(side), Notch: ch.Start.Notch}
	}
	return nil
}

// MoveDay says of a session whether it may stand on another day, and why not.
type MoveDay struct {
	From day.Date             `json:"from" format:"date"`
	Kind planning.SessionKind `json:"kind"`
	To   day.Date             `json:"to" format:"date"`
	Why  string               `json:"why,omitempty" doc:"What closes that day; empty where it is open"`
}

// How far ahead sessions are looked at, and how far they may go (house).
const movesAhead, movesFar = 7, 6

// Moves asks of the main sessions of the coming week which days they may move to; a
// rule that breaks there closes a day.
func (a *Blocks) Moves(ctx context.Context, act app.Actor, runner string) ([]MoveDay, error) {
	out := []MoveDay{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil || k.F == nil || k.F.Block.EndedAt != nil {
			return err
		}
		f := k.F
		for from := f.Today; from < f.Today+movesAhead; from++ {
			if !slices.ContainsFunc(f.SessionsOn(from), func(s record.Sitting) bool { return s.Kind == planning.Main }) {
				continue
			}
			for to := max(f.Today, from-movesFar); to <= min(f.End(), from+movesFar); to++ {
				if to == from {
					continue
				}
				c := input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to}
				if check(f, c) != nil {
					continue
				}
				was := f.Changes
				var look ChangedBlock
				consider(f, c, &look)
				f.Changes = was
				d := MoveDay{From: from, Kind: planning.Main, To: to}
				if len(look.Broken) > 0 {
					d.Why = look.Broken[0]
				}
				out = append(out, d)
			}
		}
		return nil
	})
	return out, err
}

// consider works out what a change does, and reports whether it gives more than
// the notch.
func consider(f *record.Frame, c input.BlockChange, out *ChangedBlock) bool {
	monday := f.Today.Monday()
	if c.To != nil {
		monday = c.To.Monday()
	}
	if f.Start > monday+6 {
		monday = f.Start.Monday()
	}
	weeks := []day.Date{monday}
	if c.From != nil && c.From.Monday() != monday {
		weeks = append(weeks, c.From.Monday())
	}
	if c.Always || slices.Contains([]string{"days", "add", "change", "routine", "routine-off"}, c.Kind) {
		weeks = []day.Date{monday + 7} // a whole week with the change
	}
	type sum struct{ load, seconds float64 }
	measure := func() map[string]sum {
		m := map[string]sum{}
		for _, p := range f.Prescriptions {
			l, s := weight(f, p, weeks[0])
			m[p.Ladder] = sum{l, s}
		}
		return m
	}
	before := measure()
	old := map[planning.Broken]bool{}
	for _, w := range weeks {
		for _, b := range broken(f, w) {
			old[b] = true
		}
	}
	f.Changes = append(f.Changes, record.KeptChange{BlockChange: c, On: f.Today, At: f.Now})
	for _, w := range weeks {
		for _, b := range broken(f, w) {
			if !old[b] {
				if t := words.Broken(b, f.Name); !slices.Contains(out.Broken, t) {
					out.Broken = append(out.Broken, t)
				}
			}
		}
	}
	after := measure()
	harder := false
	total := 0.0
	for id, s := range after {
		total += s.seconds - before[id].seconds
		if c.Kind != "move" && id == c.Ladder && before[id].load > 0 && s.load != before[id].load {
			change := 100 * (s.load/before[id].load - 1)
			out.Consequences = append(out.Consequences, fmt.Sprintf("load of %s a week %+.0f %%", f.Name(id), change))
		}
	}
	if mins := math.Round(total / 60); mins != 0 {
		out.Consequences = append(out.Consequences, fmt.Sprintf("%+.0f minutes that week", mins))
	}
	if c.Kind == "dose" && c.Dose != nil {
		if p, ok := f.Prescription(c.Ladder); ok {
			n := f.Ladders[p.ID].At(c.Notch).Dose
			harder = c.Dose.Volume() > n.Volume() || c.Dose.BodyPercent > n.BodyPercent
			out.Consequences = append(out.Consequences, fmt.Sprintf("%s instead of %s, until the peg moves", words.Dose(*c.Dose), words.Dose(n)))
			if harder {
				out.Consequences = append(out.Consequences, "more than the notch asks: a reason is needed")
			}
		}
	}
	if c.Kind == "leave-out" {
		out.Consequences = append(out.Consequences, "it is offered again after four weeks")
	}
	return harder
}
