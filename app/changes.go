package app

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
	"notchback/store"
)

// BlockChange is a move or an edit of a running block. Which fields count
// depends on its kind:
// move: session, from, to, always; days: ladder and days;
// dose: ladder, notch and dose; extra-set: ladder and side;
// leave-out and add: ladder.
type BlockChange struct {
	Kind    string               `json:"kind" enum:"move,days,dose,extra-set,leave-out,add"`
	Session planning.SessionKind `json:"session,omitempty" enum:"micro,main,evening,drill,exposure,"`
	From    *day.Date            `json:"from,omitempty" format:"date"`
	To      *day.Date            `json:"to,omitempty" format:"date"`
	Always  bool                 `json:"always,omitempty" doc:"From now on every week, not just once"`
	Ladder  string               `json:"ladder,omitempty"`
	Days    []int                `json:"days,omitempty" doc:"Monday 0"`
	Notch   int                  `json:"notch,omitempty" doc:"The notch the dose stands for"`
	Dose    *catalogue.Dose      `json:"dose,omitempty" doc:"Empty takes the own dose back"`
	Side    body.Side            `json:"side,omitempty" enum:"left,right,"`
	Reason  string               `json:"reason,omitempty" maxLength:"300" doc:"Needed to insist against a rule, to leave out, to give more"`
}

// keptChange is a stored change with its date.
type keptChange struct {
	BlockChange
	on day.Date
	at time.Time
}

// ChangeView is a change in words.
type ChangeView struct {
	On     day.Date `json:"on" format:"date"`
	Text   string   `json:"text"`
	Reason string   `json:"reason,omitempty"`
}

// ChangeInput asks for a change.
type ChangeInput struct {
	BlockChange
	Revision int  `json:"revision" doc:"The block's revision that was read"`
	Preview  bool `json:"preview,omitempty" doc:"Only says what it would do"`
	Insist   bool `json:"insist,omitempty" doc:"Do it although a rule breaks; a reason is needed"`
}

// ChangedBlock is what a change does.
type ChangedBlock struct {
	Broken       []string `json:"broken" nullable:"false" doc:"Hard rules it breaks"`
	Consequences []string `json:"consequences" nullable:"false"`
	Block        *Block   `json:"block,omitempty" doc:"Set when it was done"`
}

// layChanges lays the stored moves and edits over the plan.
func (f *frame) layChanges(rows []store.Rev) error {
	for _, r := range rows {
		k := keptChange{on: day.Of(r.At, f.now.Location()), at: r.At}
		if err := json.Unmarshal(r.Body, &k.BlockChange); err != nil {
			return fmt.Errorf("change %d of block %s: %w", r.Rev, f.block.ID, err)
		}
		f.changes = append(f.changes, k)
		f.rev = r.Rev
	}
	return nil
}

// sitting is a planned session with the date it stood on at first.
type sitting struct {
	planning.Session
	origin day.Date
}

// template returns the usual week's sittings on the weekday of a date, with the
// changes that held by then.
func (f *frame) template(on day.Date) []sitting {
	monday := on.Monday()
	var week [7][]sitting
	for d := range 7 {
		src := f.plan.Days[d]
		if len(f.plan.Choices) == 0 && slices.Contains([]int{0, 2, 4}, d) { // made before plans were kept
			s := planning.Session{Kind: planning.Main}
			for _, p := range f.prescriptions {
				s.Ladders = append(s.Ladders, p.Ladder)
			}
			src = []planning.Session{s}
		}
		for _, s := range src {
			s.Ladders = slices.Clone(s.Ladders)
			week[d] = append(week[d], sitting{s, monday + day.Date(d)})
		}
	}
	for _, c := range f.changes {
		switch {
		case c.Kind == "move" && c.Always && c.From.Monday() <= monday:
			from, to := int(*c.From-c.From.Monday()), int(*c.To-c.To.Monday())
			for i, s := range week[from] {
				if s.Kind == c.Session {
					week[from] = slices.Delete(slices.Clone(week[from]), i, i+1)
					week[to] = merge(week[to], s)
					break
				}
			}
		case (c.Kind == "days" || c.Kind == "add") && c.on.Monday() <= monday:
			kind := planning.Main
			if p, ok := f.prescription(c.Ladder); ok {
				kind = sittingOf(f.ladders[p.ID].Place)
			}
			place(&week, c.Ladder, kind, c.Days, monday)
		}
	}
	return week[on-monday]
}

// merge puts a sitting into a day; two of a kind become one.
func merge(list []sitting, s sitting) []sitting {
	list = slices.Clone(list)
	for i := range list {
		if list[i].Kind == s.Kind {
			for _, l := range s.Ladders {
				if !slices.Contains(list[i].Ladders, l) {
					list[i].Ladders = append(slices.Clone(list[i].Ladders), l)
				}
			}
			return list
		}
	}
	return append(list, s)
}

// sittingOf is the kind of session a ladder belongs to.
func sittingOf(p catalogue.Place) planning.SessionKind {
	switch p {
	case catalogue.PlaceMicro:
		return planning.Micro
	case catalogue.PlaceEvening:
		return planning.EveKind
	case catalogue.PlaceRun:
		return planning.Drill
	case catalogue.PlaceDay:
		return planning.Exposure
	}
	return planning.Main
}

// place makes a ladder stand on just the given days of a week.
func place(week *[7][]sitting, ladder string, kind planning.SessionKind, days []int, monday day.Date) {
	for d := range week {
		week[d] = slices.Clone(week[d])
		for i := range week[d] {
			if k := slices.Index(week[d][i].Ladders, ladder); k >= 0 {
				kind = week[d][i].Kind
				week[d][i].Ladders = slices.Delete(slices.Clone(week[d][i].Ladders), k, k+1)
			}
		}
	}
	for _, d := range days {
		week[d] = merge(week[d], sitting{planning.Session{Kind: kind, Ladders: []string{ladder}}, monday + day.Date(d)})
	}
	for d := range week {
		week[d] = slices.DeleteFunc(week[d], func(s sitting) bool { return len(s.Ladders) == 0 })
	}
}

// sessionsOn returns what stands on a date: the usual week, what was moved, no
// ladder before its first week, none that was left out, none a race forbids.
func (f *frame) sessionsOn(on day.Date) []sitting {
	days := map[day.Date][]sitting{}
	at := func(d day.Date) []sitting {
		if _, ok := days[d]; !ok {
			days[d] = f.template(d)
		}
		return days[d]
	}
	for _, c := range f.changes {
		if c.Kind != "move" || c.Always {
			continue
		}
		i := slices.IndexFunc(at(*c.From), func(s sitting) bool { return s.Kind == c.Session })
		if i < 0 {
			continue // what it moved is gone meanwhile
		}
		s := days[*c.From][i]
		days[*c.From] = slices.Delete(slices.Clone(days[*c.From]), i, i+1)
		days[*c.To] = merge(at(*c.To), s)
	}
	list := at(on)
	week := int(on-f.start.Monday())/7 + 1
	out := []sitting{}
	for _, s := range list {
		s.Ladders = slices.DeleteFunc(slices.Clone(s.Ladders), func(id string) bool {
			p, ok := f.prescription(id)
			if ok && f.path.Ramp != nil && course.ByRamp(f.ladders[p.ID]) {
				return true
			}
			if !ok || week < p.FromWeek || f.leftOut(id, on) != "" {
				return true
			}
			n := f.ladders[p.ID].At(f.pegs[p.ID][body.Left].Notch)
			return planning.OffFor(f.plan.Wishes.Race, n, on)
		})
		if len(s.Ladders) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// leftOut returns why a ladder no longer stands in the block; "" when it does.
func (f *frame) leftOut(ladder string, on day.Date) string {
	why := ""
	for _, c := range f.changes {
		switch {
		case c.Ladder != ladder || c.on > on:
		case c.Kind == "leave-out":
			why = c.Reason
		case c.Kind == "add":
			why = ""
		}
	}
	return why
}

// ownDose is the coach's dose of a prescription at a notch.
func (f *frame) ownDose(prescription string, notch int, on day.Date) (catalogue.Dose, bool) {
	var d *catalogue.Dose
	for _, c := range f.changes {
		if c.Kind == "dose" && c.Notch == notch && c.on <= on {
			if p, ok := f.prescription(c.Ladder); ok && p.ID == prescription {
				d = c.Dose
			}
		}
	}
	if d == nil {
		return catalogue.Dose{}, false
	}
	return *d, true
}

// extraSet is the side that gets one set more.
func (f *frame) extraSet(p store.Prescription, on day.Date) string {
	side := p.ExtraSetSide
	for _, c := range f.changes {
		if c.Kind == "extra-set" && c.Ladder == p.Ladder && c.on <= on {
			side = string(c.Side)
		}
	}
	return side
}

func (f *frame) changeViews() []ChangeView {
	out := []ChangeView{}
	for i := len(f.changes) - 1; i >= 0; i-- {
		c := f.changes[i]
		out = append(out, ChangeView{c.on, f.changeWords(c.BlockChange), c.Reason})
	}
	return out
}

func (f *frame) changeWords(c BlockChange) string {
	switch c.Kind {
	case "move":
		s := fmt.Sprintf("%s: %s → %s", words.SessionName(c.Session), c.From.Words(), c.To.Words())
		if c.Always {
			s = fmt.Sprintf("%s: %s → %s, every week", words.SessionName(c.Session), words.Weekday(int(*c.From-c.From.Monday())), words.Weekday(int(*c.To-c.To.Monday())))
		}
		return s
	case "days":
		return f.name(c.Ladder) + " on " + words.Days(c.Days)
	case "dose":
		if c.Dose == nil {
			return f.name(c.Ladder) + ": back to the notch's dose"
		}
		return f.name(c.Ladder) + ": " + words.Dose(*c.Dose)
	case "extra-set":
		if c.Side == "" {
			return f.name(c.Ladder) + ": the same sets on both sides"
		}
		return f.name(c.Ladder) + ": one set more on the " + string(c.Side)
	case "leave-out":
		return f.name(c.Ladder) + " left out"
	case "add":
		return f.name(c.Ladder) + " added on " + words.Days(c.Days)
	}
	return c.Kind
}

// check says what is wrong with a change by itself.
func (f *frame) check(c BlockChange) error {
	var bad Invalid
	p, known := f.prescription(c.Ladder)
	if slices.Contains([]string{"days", "dose", "extra-set", "leave-out"}, c.Kind) && !known {
		bad.add("ladder", "%q is not in this block", c.Ladder)
		return bad
	}
	switch c.Kind {
	case "move":
		if c.From == nil || c.To == nil {
			bad.add("to", "say from which day to which")
			return bad
		}
		if *c.From < f.today || *c.To < f.today {
			bad.add("from", "past days can't be moved")
		}
		if *c.From > f.end() || *c.To > f.end() || *c.To < f.start {
			bad.add("to", "expected a day within the block, %s to %s", f.start.Words(), f.end().Words())
		}
		if *c.From == *c.To {
			bad.add("to", "that is where it stands")
		}
		if c.Always && c.From.Monday() != c.To.Monday() {
			bad.add("to", "every week means within the same week")
		}
		if bad == nil && !slices.ContainsFunc(f.sessionsOn(*c.From), func(s sitting) bool { return s.Kind == c.Session }) {
			bad.add("from", "nothing of that kind stands on %s", c.From.Words())
		}
	case "days", "add":
		if len(c.Days) == 0 {
			bad.add("days", "choose at least one day; to take it out, leave it out")
		}
		for _, d := range c.Days {
			if d < 0 || d > 6 {
				bad.add("days", "%d is not a weekday; Monday is 0, Sunday 6", d)
			}
		}
	case "dose":
		l := f.ladders[p.ID]
		if c.Notch < 1 || c.Notch > l.Len() {
			bad.add("notch", "expected 1 to %d", l.Len())
			return bad
		}
		if d := c.Dose; d != nil {
			if d.Sets < 1 || d.Sets > 10 || d.Volume() < 1 || d.Volume() > 4000 || d.BodyPercent < 0 || d.BodyPercent > 200 {
				bad.add("dose", "expected 1 to 10 sets with something in them")
			}
			if math.Abs(float64(d.Volume())) > 2*float64(l.At(c.Notch).Dose.Volume()) {
				bad.add("dose", "more than twice the notch is another notch, not an edit")
			}
		}
	case "leave-out":
		if strings.TrimSpace(c.Reason) == "" {
			bad.add("reason", "say why; it is offered again after four weeks")
		}
	}
	return bad.or()
}

// broken lists the hard rules a week breaks with the changes as they are.
func (f *frame) broken(monday day.Date) []planning.Broken {
	var items []planning.Item
	var where []planning.Days
	for _, p := range f.prescriptions {
		l := f.ladders[p.ID]
		at := f.pegs[p.ID][body.Left].Notch
		it := planning.Item{Ladder: l.ID, Name: l.Name, Times: 7, Least: 1, Tissues: l.Tissues, Spring: l.Purpose == "spring", Gap48: l.At(at).Gap48, Heavy: l.At(at).Heavy && l.Purpose != "spring", Seconds: l.At(at).Seconds()}
		for _, pl := range f.plan.Layout.Places { // the layout knows the notches to come
			if pl.Ladder == l.ID {
				it.Gap48, it.Heavy, it.Seconds = pl.Gap48, pl.Heavy, pl.Seconds
			}
		}
		var days planning.Days
		for d := range 7 {
			for _, s := range f.sessionsOn(monday + day.Date(d)) {
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
	return planning.Check(f.plan.Wishes.Week, items, where, f.plan.Layout.MicroSeconds)
}

// weight is the load of a prescription a week on its first tissue, in body
// weights times repetitions.
func (f *frame) weight(p store.Prescription, monday day.Date) (float64, float64) {
	load, seconds := 0.0, 0.0
	for d := range 7 {
		on := monday + day.Date(d)
		for _, s := range f.sessionsOn(on) {
			if !slices.Contains(s.Ladders, p.Ladder) {
				continue
			}
			n, _ := f.notchOn(p, body.Left, on)
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
func (a *App) ChangeBlock(ctx context.Context, act Actor, block string, in ChangeInput) (ChangedBlock, error) {
	out := ChangedBlock{Broken: []string{}, Consequences: []string{}}
	run := func(tx *store.Tx) error {
		b, err := tx.LockBlock(ctx, block)
		if err != nil {
			return err
		}
		if b.EndedAt != nil {
			return Refused("this block has ended; change the present one")
		}
		k, err := a.openBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		f := k.f
		if f.rev != in.Revision {
			return ErrConflict
		}
		if in.Kind == "add" {
			if err := a.addLadder(ctx, tx, f, in.BlockChange, in.Preview, &out); err != nil {
				return err
			}
		}
		if err := f.check(in.BlockChange); err != nil {
			return err
		}
		harder := f.consider(in.BlockChange, &out)
		if in.Preview {
			return nil
		}
		if (len(out.Broken) > 0 || harder) && (!in.Insist || strings.TrimSpace(in.Reason) == "") {
			why := "this gives more than the notch"
			if len(out.Broken) > 0 {
				why = out.Broken[0]
			}
			return Invalid{{"reason", why + "; to do it all the same, insist and say why"}}
		}
		raw, err := json.Marshal(in.BlockChange)
		if err != nil {
			return err
		}
		if err := tx.AddBlockChange(ctx, b.ID, f.rev, raw, a.now(), act.User.ID); err != nil {
			return err
		}
		if err := a.rememberExcluded(ctx, tx, act, b.RunnerID, in.BlockChange, f.today); err != nil {
			return err
		}
		text := f.changeWords(in.BlockChange)
		if in.Reason != "" {
			text += ": " + in.Reason
		}
		if err := tx.Note(ctx, b.RunnerID, a.now(), &act.User.ID, "plan", text, in.BlockChange); err != nil {
			return err
		}
		if k, err = a.decideBlock(ctx, tx, act, b.ID); err != nil {
			return err
		}
		v, err := k.f.view()
		out.Block = &v
		return err
	}
	if in.Preview {
		return out, a.Store.In(ctx, act.Practice, run)
	}
	return out, a.write(ctx, act, run)
}

// rememberExcluded keeps what was left out for the next plans, until it is
// offered again or put back in.
func (a *App) rememberExcluded(ctx context.Context, tx *store.Tx, act Actor, runner string, c BlockChange, on day.Date) error {
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
func (a *App) addLadder(ctx context.Context, tx *store.Tx, f *frame, c BlockChange, preview bool, out *ChangedBlock) error {
	if _, there := f.prescription(c.Ladder); there {
		if f.leftOut(c.Ladder, f.today) == "" {
			return Invalid{{"ladder", "it is in this block already"}}
		}
		return nil // it comes back where it stood
	}
	if f.block.EndedAt != nil {
		return Refused("this block has ended")
	}
	s := &studio{desk: f.desk, layers: layered{Catalogue: f.cat}, cat: f.cat, dossier: f.dossier, current: f}
	if err := s.from(f.block.ScreeningID); err != nil {
		return err
	}
	l, ok := f.cat.Ladder(c.Ladder)
	if !ok {
		return Invalid{{"ladder", fmt.Sprintf("%q is not a ladder", c.Ladder)}}
	}
	w := f.plan.Wishes
	w.Added = []string{c.Ladder}
	e := s.evidence(f.today, w.School)
	p := planning.Plan(f.cat, e, w)
	ch, ok := p.ByLadder[c.Ladder]
	if !ok {
		why := "it is closed for this runner now"
		for _, x := range p.Left {
			if x.Ladder == c.Ladder {
				why = x.Why
			}
		}
		return Refused(l.Name + ": " + why)
	}
	// One newly added loading ladder a week.
	ch.FromWeek = max(1, int(f.today-f.start.Monday())/7+1)
	if len(l.Tissues) > 0 {
		for _, q := range f.prescriptions {
			if len(f.ladders[q.ID].Tissues) > 0 && q.FromWeek >= ch.FromWeek {
				ch.FromWeek = q.FromWeek + 1
			}
		}
	}
	out.Consequences = append(out.Consequences, fmt.Sprintf("%s starts in week %d with %s", l.Name, ch.FromWeek, words.Notch(l.At(ch.Start.Notch))))
	added := store.Prescription{ID: "preview", BlockID: f.block.ID, RunnerID: f.block.RunnerID, Position: len(f.prescriptions), Ladder: l.ID, StartNotch: ch.Start.Notch, ExtraSetSide: string(ch.Start.ExtraSetSide), FromWeek: ch.FromWeek}
	if !preview {
		if err := a.prescribe(ctx, tx, f.block, len(f.prescriptions), ch, l); err != nil {
			return err
		}
		ps, err := tx.Prescriptions(ctx, f.block.ID)
		if err != nil {
			return err
		}
		added = ps[len(ps)-1]
	}
	f.prescriptions = append(slices.Clone(f.prescriptions), added)
	f.ladders[added.ID] = l
	f.pegs[added.ID] = map[body.Side]*store.Peg{}
	for _, side := range body.Sides {
		f.pegs[added.ID][side] = &store.Peg{PrescriptionID: added.ID, Side: string(side), Notch: ch.Start.Notch}
	}
	return nil
}

// consider works out what a change does, and reports whether it gives more than
// the notch.
func (f *frame) consider(c BlockChange, out *ChangedBlock) bool {
	monday := f.today.Monday()
	if c.To != nil {
		monday = c.To.Monday()
	}
	if f.start > monday+6 {
		monday = f.start.Monday()
	}
	weeks := []day.Date{monday}
	if c.From != nil && c.From.Monday() != monday {
		weeks = append(weeks, c.From.Monday())
	}
	if c.Always || c.Kind == "days" || c.Kind == "add" {
		weeks = []day.Date{monday + 7} // a whole week with the change
	}
	type sum struct{ load, seconds float64 }
	measure := func() map[string]sum {
		m := map[string]sum{}
		for _, p := range f.prescriptions {
			l, s := f.weight(p, weeks[0])
			m[p.Ladder] = sum{l, s}
		}
		return m
	}
	before := measure()
	old := map[planning.Broken]bool{}
	for _, w := range weeks {
		for _, b := range f.broken(w) {
			old[b] = true
		}
	}
	f.changes = append(f.changes, keptChange{c, f.today, f.now})
	for _, w := range weeks {
		for _, b := range f.broken(w) {
			if !old[b] {
				if t := words.Broken(b, f.name); !slices.Contains(out.Broken, t) {
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
			out.Consequences = append(out.Consequences, fmt.Sprintf("load of %s a week %+.0f %%", f.name(id), change))
		}
	}
	if mins := math.Round(total / 60); mins != 0 {
		out.Consequences = append(out.Consequences, fmt.Sprintf("%+.0f minutes that week", mins))
	}
	if c.Kind == "dose" && c.Dose != nil {
		if p, ok := f.prescription(c.Ladder); ok {
			n := f.ladders[p.ID].At(c.Notch).Dose
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
