package app

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// PlaceReading is a morning's reading of a place that hurts, or a general one
// where zone is empty.
type PlaceReading struct {
	Zone      string    `json:"zone,omitempty" maxLength:"30"`
	Side      body.Side `json:"side,omitempty" enum:"left,right,"`
	FirstStep *int      `json:"firstStep,omitempty" doc:"Pain on the first steps, 0–10"`
	Rest      *int      `json:"rest,omitempty" doc:"Pain at rest, 0–10"`
	When      []string  `json:"when,omitempty" maxItems:"7" doc:"Of a new place: first steps, push-off, after sitting, whole run, only after, at rest, night"`
}

// DayInput is what a day was like. Readings go to the mornings; the rest is kept
// as the day's note.
type DayInput struct {
	Readings        []PlaceReading    `json:"readings,omitempty" maxItems:"20"`
	Illness         string            `json:"illness,omitempty" enum:"cold,fever," doc:"Ill without fever, or with fever, chest or whole-body illness"`
	PoorSleep       bool              `json:"poorSleep,omitempty" doc:"Slept badly; two nights running hold progress"`
	ShortSleep      bool              `json:"shortSleep,omitempty" doc:"Slept under six hours"`
	BarefootMinutes *int              `json:"barefootMinutes,omitempty" doc:"Minutes without shoes"`
	Exposure        []transition.Done `json:"exposure,omitempty" maxItems:"10" doc:"What was done of the barefoot ramp"`
	CalfSoreness    *int              `json:"calfSoreness,omitempty" doc:"Calves, 0–10"`
	BoneTender      bool              `json:"boneTender,omitempty" doc:"A bone of the ball or top of the foot is tender"`
	New             []PlaceReading    `json:"new,omitempty" maxItems:"10" doc:"Places that began to hurt"`
	Answers         *safety.Answers   `json:"answers,omitempty" doc:"Safety questions asked because something is new"`
	Note            string            `json:"note,omitempty" maxLength:"1000"`
	Rev             int               `json:"rev,omitempty" minimum:"0" doc:"The revision that was read; only what differs from it is changed"`
	Reason          string            `json:"reason,omitempty" maxLength:"300" doc:"Needed where it changes or takes back what was told before"`
}

// DayState is a day as it stands.
type DayState struct {
	On       day.Date       `json:"on" format:"date"`
	Day      DayInput       `json:"day"`
	Places   []PlaceView    `json:"places" nullable:"false" doc:"Places to ask about: the complaints, and the general reading first"`
	Ask      []safety.Group `json:"ask" nullable:"false" doc:"Safety questions to ask now, because a place is new"`
	Open     []AskView      `json:"open" nullable:"false" doc:"Places whose safety questions are open"`
	Care     *words.Care    `json:"care,omitempty" doc:"The one page under an emergency"`
	Raised   []FlagView     `json:"raised" nullable:"false" doc:"Flags that stand"`
	Slips    []SlipView     `json:"slips" nullable:"false" doc:"Severe readings that you changed in the last days: their flag asks again"`
	Warnings []string       `json:"warnings" nullable:"false"`
}

// PlaceView is a place with its name and the day's readings.
type PlaceView struct {
	PlaceReading
	Name string `json:"name"`
}

func (in DayInput) check(on, today day.Date) error {
	var bad Invalid
	if on > today+1 {
		bad.add("on", "%s is in the future", on)
	}
	if on < today-runsBack {
		bad.add("on", "%s is too long ago", on)
	}
	pain := func(p *int, at string) {
		if p != nil && (*p < 0 || *p > body.PainMax) {
			bad.add(at, "%d can't be; pain goes from 0 to 10", *p)
		}
	}
	for i, r := range slices.Concat(in.Readings, in.New) {
		at := fmt.Sprintf("readings[%d]", i)
		pain(r.FirstStep, at+".firstStep")
		pain(r.Rest, at+".rest")
		if r.Zone != "" && zoneName(r.Zone) == "" {
			bad.add(at+".zone", "%q is not a place on the map", r.Zone)
		}
	}
	pain(in.CalfSoreness, "calfSoreness")
	for i, x := range in.Exposure {
		if x.Minutes < 0 || x.Minutes > 600 || !slices.Contains(transition.Stages, x.Stage) || x.Stage == transition.Home {
			bad.add(fmt.Sprintf("exposure[%d]", i), "%d min of %q can't be", x.Minutes, x.Stage)
		}
	}
	if m := in.BarefootMinutes; m != nil && (*m < 0 || *m > 1440) {
		bad.add("barefootMinutes", "%d can't be; expected 0 to 1440", *m)
	}
	return bad.or()
}

func zoneName(id string) string { return screening.Zone(id).Name() }

// PutDay stores what a day was like and looks again at what it decides: the fields
// that differ from the revision the sender read, and no other. A place that began
// to hurt asks its safety questions; answers raise flags at once.
func (a *App) PutDay(ctx context.Context, act Actor, runner string, on day.Date, in DayInput) (DayState, error) {
	if err := in.check(on, a.Today(act)); err != nil {
		return DayState{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		if in, err = k.merged(on, in); err != nil {
			return err
		}
		return a.putDay(ctx, tx, k, on, in)
	})
	if err != nil {
		return DayState{}, err
	}
	return a.Day(ctx, act, runner, on)
}

// merged lays what a form changed over what stands now. Where both changed the same
// thing, the form is not stored.
func (k *desk) merged(on day.Date, in DayInput) (DayInput, error) {
	now, rev := k.g.notes[on], k.rows.NoteRev(on)
	if in.Rev == rev {
		return in, nil
	}
	var base DayInput
	if in.Rev > 0 {
		raw, ok := k.rows.NoteAt(on, in.Rev)
		if !ok {
			return in, ErrConflict
		}
		if err := json.Unmarshal(raw, &base); err != nil {
			return in, err
		}
	}
	fields := func(d DayInput) (m map[string]json.RawMessage, err error) {
		d.Readings, d.Reason, d.Rev = nil, "", 0
		raw, err := json.Marshal(d)
		if err != nil {
			return nil, err
		}
		return m, json.Unmarshal(raw, &m)
	}
	b, err1 := fields(base)
	mine, err2 := fields(in)
	theirs, err3 := fields(now)
	if err := errors.Join(err1, err2, err3); err != nil {
		return in, err
	}
	var bad Invalid
	all := maps.Clone(b)
	maps.Copy(all, mine)
	maps.Copy(all, theirs)
	out := map[string]json.RawMessage{}
	for _, f := range slices.Sorted(maps.Keys(all)) {
		v := theirs[f]
		if !bytes.Equal(mine[f], b[f]) {
			// Answers add to each other: a yes is never edited away.
			if f != "answers" && !bytes.Equal(theirs[f], b[f]) && !bytes.Equal(theirs[f], mine[f]) {
				bad.add(f, "another screen changed this in the meantime; look at the day again")
			}
			v = mine[f]
		}
		if v != nil {
			out[f] = v
		}
	}
	if err := bad.or(); err != nil {
		return in, err
	}
	raw, err := json.Marshal(out)
	if err != nil {
		return in, err
	}
	done := DayInput{Readings: in.Readings, Reason: in.Reason}
	return done, json.Unmarshal(raw, &done)
}

// putDay stores a day's note as it is, under the runner's lock.
func (a *App) putDay(ctx context.Context, tx *store.Tx, k *desk, on day.Date, in DayInput) error {
	act, runner, r := k.act, k.d.runner.ID, k.d.runner
	if what := k.changes(on, in); what != "" && strings.TrimSpace(in.Reason) == "" {
		return Invalid{{"reason", what + "; say why, for the journal"}}
	}
	for _, p := range slices.Concat(in.Readings, in.New) {
		_, told := k.readingOf(on, p)
		if p.FirstStep == nil && p.Rest == nil && !told {
			continue
		}
		if err := tx.PutMorning(ctx, runner, &store.Morning{On: on.Time(), Zone: p.Zone, Side: string(p.Side), FirstStep: p.FirstStep, Rest: p.Rest}, act.User.ID); err != nil {
			return err
		}
	}
	if in.Answers != nil {
		if err := checkAnswers(*in.Answers, ageOn(record.PersonOf(r), on)); err != nil {
			return err
		}
		for _, f := range safety.Raise(on, *in.Answers, nil, nil) {
			if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered yes. "+words.Flag(f), f); err != nil {
				return err
			}
		}
	}
	kept := in
	kept.Readings, kept.Reason, kept.Rev = nil, "", 0
	kept.Answers = keepYes(k.g.notes[on].Answers, in.Answers)
	raw, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	if err := tx.PutDayNote(ctx, runner, on.Time(), raw, act.User.ID); err != nil {
		return err
	}
	if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "day", daySentence(on, in)+because(in.Reason), nil); err != nil {
		return err
	}
	return a.afterReading(ctx, tx, act, runner)
}

// keepYes carries a yes over to a day's answers that say nothing of its group: a flag
// never disappears by editing, only by being asked anew.
func keepYes(was, now *safety.Answers) *safety.Answers {
	if was == nil || len(was.Yes) == 0 {
		return now
	}
	out := safety.Answers{Yes: map[string]body.Side{}, None: []string{}}
	if now != nil {
		maps.Copy(out.Yes, now.Yes)
		out.None = append(out.None, now.None...)
	}
	for id, side := range was.Yes {
		g := safety.GroupOf(id)
		if now == nil || !slices.Contains(now.None, g) && !safety.AnsweredYes(*now, g) {
			out.Yes[id] = side
		}
	}
	return &out
}

func because(reason string) string {
	if reason = strings.TrimSpace(reason); reason != "" {
		return ". Put right: " + reason
	}
	return ""
}

// readingOf is what was told before of a place on a date.
func (k *desk) readingOf(on day.Date, p PlaceReading) (store.Morning, bool) {
	i := slices.IndexFunc(k.g.mornings, func(m store.Morning) bool { return dateOf(m.On) == on && m.Zone == p.Zone && m.Side == string(p.Side) })
	if i < 0 {
		return store.Morning{}, false
	}
	return k.g.mornings[i], k.g.mornings[i].FirstStep != nil || k.g.mornings[i].Rest != nil
}

// changes says what a day's form puts right of what was told before: a reading that
// is another or gone, a place or a tender bone that is no more.
func (k *desk) changes(on day.Date, in DayInput) string {
	same := func(a, b *int) bool { return a == nil || b != nil && *a == *b }
	for _, p := range in.Readings {
		if was, told := k.readingOf(on, p); told && (!same(was.FirstStep, p.FirstStep) || !same(was.Rest, p.Rest)) {
			return "this changes a reading"
		}
	}
	was := k.g.notes[on]
	for _, p := range was.New {
		if !slices.ContainsFunc(in.New, func(o PlaceReading) bool { return o.Zone == p.Zone && o.Side == p.Side }) {
			return "this takes back a place that began to hurt"
		}
	}
	switch {
	case was.BoneTender && !in.BoneTender:
		return "this takes back a tender bone"
	case was.Illness == "fever" && in.Illness != "fever":
		return "this takes back an illness"
	}
	return ""
}

func checkAnswers(a safety.Answers, age screening.Age) error {
	var bad Invalid
	known := map[string]bool{}
	for _, g := range safety.Questions(age) {
		for _, q := range g.Questions {
			known[q.ID] = true
		}
	}
	for id := range a.Yes {
		if !known[id] {
			bad.add("answers.yes", "%q is not a question", id)
		}
	}
	return bad.or()
}

func daySentence(on day.Date, in DayInput) string {
	s := "Day of " + on.Words()
	for _, p := range in.Readings {
		name := zoneName(p.Zone)
		if name == "" {
			name = "general"
		}
		if p.Side != "" {
			name += ", " + string(p.Side)
		}
		if p.FirstStep != nil {
			s += fmt.Sprintf("; first steps %d (%s)", *p.FirstStep, name)
		}
		if p.Rest != nil {
			s += fmt.Sprintf("; at rest %d (%s)", *p.Rest, name)
		}
	}
	switch in.Illness {
	case "fever":
		s += "; ill with fever"
	case "cold":
		s += "; ill without fever"
	}
	switch {
	case in.ShortSleep:
		s += "; under six hours of sleep"
	case in.PoorSleep:
		s += "; poor sleep"
	}
	if in.BarefootMinutes != nil {
		s += fmt.Sprintf("; %d min without shoes", *in.BarefootMinutes)
	}
	for _, x := range in.Exposure {
		s += "; " + x.Stage.Name()
		if x.Minutes > 0 {
			s += fmt.Sprintf(" %d min", x.Minutes)
		}
	}
	if in.CalfSoreness != nil {
		s += fmt.Sprintf("; calves %d", *in.CalfSoreness)
	}
	if in.BoneTender {
		s += "; a bone of ball or top of the foot is tender"
	}
	for _, p := range in.New {
		s += "; new: " + zoneName(p.Zone)
	}
	return s
}

// Day returns a day as it stands.
func (a *App) Day(ctx context.Context, act Actor, runner string, on day.Date) (DayState, error) {
	out := DayState{On: on, Places: []PlaceView{}, Ask: []safety.Group{}, Open: []AskView{}, Raised: []FlagView{}, Slips: []SlipView{}, Warnings: []string{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		d, g := k.d, k.g
		out.Day = g.notes[on]
		out.Day.Rev = k.rows.NoteRev(on)
		read := func(zone string, side body.Side) PlaceReading {
			p := PlaceReading{Zone: zone, Side: side}
			for _, m := range g.mornings {
				if dateOf(m.On) == on && m.Zone == zone && m.Side == string(side) {
					p.FirstStep, p.Rest = m.FirstStep, m.Rest
				}
			}
			return p
		}
		out.Places = append(out.Places, PlaceView{read("", ""), "first steps, in general"})
		seen := map[string]bool{}
		add := func(zone string, side body.Side) {
			k := zone + "/" + string(side)
			if seen[k] || zone == "" {
				return
			}
			seen[k] = true
			name := zoneName(zone)
			if side != "" {
				name += ", " + string(side)
			}
			out.Places = append(out.Places, PlaceView{read(zone, side), name})
		}
		for _, c := range k.book.Complaints() {
			add(string(c.Zone), c.Side)
		}
		for _, p := range out.Day.New {
			add(p.Zone, p.Side)
		}
		out.Open, out.Care = k.asks(), k.care()
		if len(out.Open) > 0 {
			out.Ask = safety.Questions(ageOn(record.PersonOf(d.runner), on))
		}
		if out.Day.BoneTender && out.Day.Answers == nil {
			out.Ask = safety.Questions(ageOn(record.PersonOf(d.runner), on))
		}
		for _, f := range k.book.Flags() {
			out.Raised = append(out.Raised, FlagView{Standing: f, Text: words.Flag(f)})
		}
		for _, x := range k.slips(act) {
			out.Slips = append(out.Slips, SlipView{x.Key, words.SlipQuestion(x)})
		}
		for _, p := range out.Places {
			if p.FirstStep != nil && *p.FirstStep >= safety.SevereAt || p.Rest != nil && *p.Rest >= safety.SevereRest {
				out.Warnings = append(out.Warnings, "Pain this high is looked at by a clinician before any load.")
			}
		}
		return nil
	})
	return out, err
}

// SlipView is a severe reading that was changed, with what its flag asks.
type SlipView struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// SlipInput answers it: the pain was not that strong, and why it was typed so.
type SlipInput struct {
	Key    string `json:"key" maxLength:"100"`
	Reason string `json:"reason" maxLength:"500"`
}

func (k *desk) slips(act Actor) []course.Slip {
	if k.book == nil {
		return nil
	}
	return k.book.Slips(act.User.ID)
}

// PutRight ends a flag that a slip raised. Both readings stay in the journal, and
// nothing rises by it.
func (a *App) PutRight(ctx context.Context, act Actor, runner string, on day.Date, in SlipInput) (DayState, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if in.Reason == "" {
		return DayState{}, Invalid{{"reason", "say how it came about"}}
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		current, err := tx.CurrentBlock(ctx, runner)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.decideBlock(ctx, tx, act, current.ID)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(k.slips(act), func(s course.Slip) bool { return s.Key == in.Key })
		if i < 0 {
			return Refused("this can't be put right here: only who typed it, within seven days, and while nothing else asks for the flag")
		}
		s := k.slips(act)[i]
		if err := tx.AddAnswer(ctx, runner, current.ID, store.Answer{Key: s.Key, Kind: string(course.Typo), Reason: in.Reason}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "flag", words.Slip(s)+" Asked again, answered no: "+in.Reason, s); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, runner)
	})
	if err != nil {
		return DayState{}, err
	}
	return a.Day(ctx, act, runner, on)
}

// illOn reports whether a day is without sessions because of an illness.
func (f *frame) illOn(on day.Date) bool {
	return f.illness.Now && f.illness.Ended != nil && on >= f.today && adjust.IllNow(*f.illness.Ended, on)
}

// flares are the flares that stand.
func (f *frame) flares() []course.Flare { return f.book.Flares() }

// flareFlags are the flares as flags, to show.
func (f *frame) flareFlags() []safety.Standing {
	out := []safety.Standing{}
	for _, x := range f.flares() {
		s := safety.Standing{Flag: adjust.FlareFlag, Level: safety.Limit, Since: x.Since, Side: x.Side, Tissues: x.Tissues}
		if !slices.ContainsFunc(out, func(o safety.Standing) bool { return o.Since == s.Since && o.Side == s.Side }) {
			out = append(out, s)
		}
	}
	return out
}

// offersQuietHolds reports a flare in which quiet holds may go on, in a block
// without them.
func (f *frame) offersQuietHolds() bool {
	if _, ok := f.prescription("calm-iso"); ok {
		return false
	}
	return slices.ContainsFunc(f.flares(), func(x course.Flare) bool { return adjust.QuietHoldsIn(x.Sore) })
}

// caps says in words what limits every session now.
func (f *frame) caps() []string {
	out := []string{}
	if f.illness.Now {
		out = append(out, "No session while ill, until 48 hours are free of it.")
	} else if until := (adjust.Context{Illness: f.illness, Today: f.today}).HalfUntil(); until != nil {
		out = append(out, "Half sets up to "+until.Words()+", after the illness.")
	}
	if a := f.adviceNow(); a.ID == load.NoRunning || a.ID == load.SkipNext || a.ID == load.Easier {
		out = append(out, "Running: "+words.Advice(a)+" Because "+words.AdviceWhy(a)+".")
	}
	switch f.running {
	case load.Spike:
		out = append(out, "Running jumps this week: everything that loads holds; heavy calf work and bouncing get fewer sets.")
	case load.Rise:
		out = append(out, "Running rises this week: spring and bare feet hold.")
	}
	names := map[string][]string{}
	var order []string
	for _, x := range f.flares() {
		what := "Flare since " + x.Since.Words() + ": nothing that loads it; ask the questions about bone"
		if adjust.QuietHoldsIn(x.Sore) {
			what = "Flare since " + x.Since.Words() + ": quiet holds at the first notch only, at 3 or less"
		}
		if names[what] == nil {
			order = append(order, what)
		}
		names[what] = append(names[what], x.Name)
	}
	for _, what := range order {
		out = append(out, what+" ("+strings.Join(names[what], ", ")+").")
	}
	return out
}

// afterReading decides what a reading that was just stored decides, where there is
// a present block.
func (a *App) afterReading(ctx context.Context, tx *store.Tx, act Actor, runner string) error {
	current, err := tx.CurrentBlock(ctx, runner)
	if err == ErrNotFound {
		return nil
	}
	if err != nil {
		return err
	}
	_, err = a.decideBlock(ctx, tx, act, current.ID)
	return err
}

// decideBlock locks a block, reads its runner's record once and keeps what
// follows.
func (a *App) decideBlock(ctx context.Context, tx *store.Tx, act Actor, id string) (*desk, error) {
	b, err := tx.LockBlock(ctx, id)
	if err != nil {
		return nil, err
	}
	k, err := a.openBlock(ctx, tx, act, b)
	if err != nil {
		return nil, err
	}
	return k, k.decide(ctx, tx)
}

// SetAutoProgress says whether a runner's steps up go by themselves.
func (a *App) SetAutoProgress(ctx context.Context, act Actor, runner string, on bool) error {
	return a.write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		if on {
			if age := ageOn(record.PersonOf(r), a.Today(act)); !age.Known || age.Years < safety.Adult {
				return Refused("steps up of a young runner, or of one whose age is not known, wait for a coach")
			}
		}
		if err := tx.SetAutoProgress(ctx, runner, on); err != nil {
			return err
		}
		text := "Steps up wait for a coach"
		if on {
			text = "Steps up go by themselves"
		}
		return tx.Note(ctx, runner, a.now(), &act.User.ID, "plan", text, nil)
	})
}
