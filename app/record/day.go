package record

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// Merged lays what a form changed over what stands now. Where both changed the same
// thing, the form is not stored.
func (k *Desk) Merged(on day.Date, in input.DayInput) (input.DayInput, error) {
	now, rev := k.G.Notes[on], k.Rows.NoteRev(on)
	if in.Rev == rev {
		return in, nil
	}
	var base input.DayInput
	if in.Rev > 0 {
		raw, ok := k.Rows.NoteAt(on, in.Rev)
		if !ok {
			return in, app.ErrConflict
		}
		if err := json.Unmarshal(raw, &base); err != nil {
			return in, err
		}
	}
	fields := func(d input.DayInput) (m map[string]json.RawMessage, err error) {
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
	var bad app.Invalid
	all := maps.Clone(b)
	maps.Copy(all, mine)
	maps.Copy(all, theirs)
	out := map[string]json.RawMessage{}
	for _, f := range slices.Sorted(maps.Keys(all)) {
		v := theirs[f]
		if !bytes.Equal(mine[f], b[f]) {
			// Answers add to each other: a yes is never edited away.
			if f != "answers" && !bytes.Equal(theirs[f], b[f]) && !bytes.Equal(theirs[f], mine[f]) {
				bad.Add(f, "another screen changed this in the meantime; look at the day again")
			}
			v = mine[f]
		}
		if v != nil {
			out[f] = v
		}
	}
	if err := bad.Or(); err != nil {
		return in, err
	}
	raw, err := json.Marshal(out)
	if err != nil {
		return in, err
	}
	done := input.DayInput{Readings: in.Readings, Reason: in.Reason}
	return done, json.Unmarshal(raw, &done)
}

// KeepDay stores a day's note as it is, under the runner's lock.
func (a *Book) KeepDay(ctx context.Context, tx *store.Tx, k *Desk, on day.Date, in input.DayInput) error {
	act, runner, r := k.act, k.D.Runner.ID, k.D.Runner
	if what := k.changes(on, in); what != "" && strings.TrimSpace(in.Reason) == "" {
		return app.Wrong("reason", what+"; say why, for the journal")
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
		age, own := AgeOn(PersonOf(r), on), k.Rows.Own
		if was := k.G.Notes[on].Answers; was != nil {
			own = OwnWith(own, was.Own)
		}
		if err := input.CheckAnswers(*in.Answers, age, own); err != nil {
			return err
		}
		in.Answers.Own = in.Answers.Spoken(own, age)
		for _, f := range safety.Raise(on, *in.Answers, nil, nil) {
			if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "flag", "Answered yes. "+words.Flag(f), f); err != nil {
				return err
			}
		}
	}
	kept := in
	kept.Readings, kept.Reason, kept.Rev = nil, "", 0
	kept.Answers = keepYes(k.G.Notes[on].Answers, in.Answers)
	raw, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	if err := tx.PutDayNote(ctx, runner, on.Time(), raw, act.User.ID); err != nil {
		return err
	}
	if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "day", daySentence(on, in)+Because(in.Reason), nil); err != nil {
		return err
	}
	return a.AfterReading(ctx, tx, act, runner)
}

// OwnWith are a practice's own questions with those that answers brought along.
func OwnWith(own, brought []safety.Own) []safety.Own {
	out := slices.Clone(own)
	for _, o := range brought {
		if !slices.ContainsFunc(out, func(x safety.Own) bool { return x.ID == o.ID }) {
			out = append(out, o)
		}
	}
	return out
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
	var own []safety.Own
	if now != nil {
		own = now.Own
	}
	out.Own = slices.DeleteFunc(OwnWith(own, was.Own), func(o safety.Own) bool {
		_, yes := out.Yes[o.ID]
		return !yes && !slices.ContainsFunc(own, func(x safety.Own) bool { return x.ID == o.ID })
	})
	return &out
}

func Because(reason string) string {
	if reason = strings.TrimSpace(reason); reason != "" {
		return ". Put right: " + reason
	}
	return ""
}

// readingOf is what was told before of a place on a date.
func (k *Desk) readingOf(on day.Date, p input.PlaceReading) (store.Morning, bool) {
	i := slices.IndexFunc(k.G.Mornings, func(m store.Morning) bool {
		return app.DateOf(m.On) == on && m.Zone == p.Zone && m.Side == string(p.Side)
	})
	if i < 0 {
		return store.Morning{}, false
	}
	return k.G.Mornings[i], k.G.Mornings[i].FirstStep != nil || k.G.Mornings[i].Rest != nil
}

// changes says what a day's form puts right of what was told before: a reading that
// is another or gone, a place or a tender bone that is no more.
func (k *Desk) changes(on day.Date, in input.DayInput) string {
	same := func(a, b *int) bool { return a == nil || b != nil && *a == *b }
	for _, p := range in.Readings {
		if was, told := k.readingOf(on, p); told && (!same(was.FirstStep, p.FirstStep) || !same(was.Rest, p.Rest)) {
			return "this changes a reading"
		}
	}
	was := k.G.Notes[on]
	for _, p := range was.New {
		if !slices.ContainsFunc(in.New, func(o input.PlaceReading) bool { return o.Zone == p.Zone && o.Side == p.Side }) {
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

func daySentence(on day.Date, in input.DayInput) string {
	s := "Day of " + on.Words()
	for _, p := range in.Readings {
		name := input.ZoneName(p.Zone)
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
		s += "; new: " + input.ZoneName(p.Zone)
	}
	return s
}

// IllOn reports whether a day is without sessions because of an illness.
func (f *Frame) IllOn(on day.Date) bool {
	return f.Illness.Now && f.Illness.Ended != nil && on >= f.Today && adjust.IllNow(*f.Illness.Ended, on)
}

// flares are the flares that stand.
func (f *Frame) flares() []course.Flare { return f.Book.Flares() }

// flareFlags are the flares as flags, to show.
func (f *Frame) flareFlags() []safety.Standing {
	out := []safety.Standing{}
	for _, x := range f.flares() {
		s := safety.Standing{Flag: adjust.FlareFlag, Level: safety.Limit, Since: x.Since, Side: x.Side, Tissues: x.Tissues}
		if !slices.ContainsFunc(out, func(o safety.Standing) bool { return o.Since == s.Since && o.Side == s.Side }) {
			out = append(out, s)
		}
	}
	return out
}

// OffersQuietHolds reports a flare in which quiet holds may go on, in a block
// without them.
func (f *Frame) OffersQuietHolds() bool {
	if _, ok := f.Prescription("calm-iso"); ok {
		return false
	}
	return slices.ContainsFunc(f.flares(), func(x course.Flare) bool { return adjust.QuietHoldsIn(x.Sore) })
}

// Caps says in words what limits every session now.
func (f *Frame) Caps() []string {
	out := []string{}
	if f.Illness.Now {
		out = append(out, "No session while ill, until 48 hours are free of it.")
	} else if until := (adjust.Context{Illness: f.Illness, Today: f.Today}).HalfUntil(); until != nil {
		out = append(out, "Half sets up to "+until.Words()+", after the illness.")
	}
	if a := f.AdviceNow(); a.ID == load.NoRunning || a.ID == load.SkipNext || a.ID == load.Easier {
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
		if !slices.Contains(names[what], x.Name) {
			names[what] = append(names[what], x.Name)
		}
	}
	for _, what := range order {
		out = append(out, what+" ("+strings.Join(names[what], ", ")+").")
	}
	return out
}
