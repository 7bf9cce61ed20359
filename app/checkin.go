package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
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
}

// DayInput is what a day was like. Readings go to the mornings; the rest is kept
// as the day's note.
type DayInput struct {
	Readings        []PlaceReading    `json:"readings,omitempty" maxItems:"20"`
	Illness         string            `json:"illness,omitempty" enum:"cold,fever," doc:"Ill without fever, or with fever, chest or whole-body illness"`
	PoorSleep       bool              `json:"poorSleep,omitempty"`
	BarefootMinutes *int              `json:"barefootMinutes,omitempty" doc:"Minutes without shoes"`
	Exposure        []transition.Done `json:"exposure,omitempty" maxItems:"10" doc:"What was done of the barefoot ramp"`
	CalfSoreness    *int              `json:"calfSoreness,omitempty" doc:"Calves, 0–10"`
	BoneTender      bool              `json:"boneTender,omitempty" doc:"A bone of the ball or top of the foot is tender"`
	New             []PlaceReading    `json:"new,omitempty" maxItems:"10" doc:"Places that began to hurt"`
	Answers         *safety.Answers   `json:"answers,omitempty" doc:"Safety questions asked because something is new"`
	Note            string            `json:"note,omitempty" maxLength:"1000"`
}

// DayState is a day as it stands.
type DayState struct {
	On       day.Date       `json:"on" format:"date"`
	Day      DayInput       `json:"day"`
	Places   []PlaceView    `json:"places" nullable:"false" doc:"Places to ask about: the complaints, and the general reading first"`
	Ask      []safety.Group `json:"ask" nullable:"false" doc:"Safety questions to ask now, because a place is new"`
	Raised   []FlagView     `json:"raised" nullable:"false" doc:"Flags that stand"`
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

func zoneName(id string) string {
	for _, z := range screening.Zones {
		if string(z.ID) == id {
			return z.Name
		}
	}
	return ""
}

// PutDay stores what a day was like and looks again at what it decides. A place
// that began to hurt asks its safety questions; answers raise flags at once.
func (a *App) PutDay(ctx context.Context, act Actor, runner string, on day.Date, in DayInput) (DayState, error) {
	if err := in.check(on, a.Today(act)); err != nil {
		return DayState{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		for _, p := range slices.Concat(in.Readings, in.New) {
			if p.FirstStep == nil && p.Rest == nil {
				continue
			}
			if err := tx.PutMorning(ctx, runner, store.Morning{On: on.Time(), Zone: p.Zone, Side: string(p.Side), FirstStep: p.FirstStep, Rest: p.Rest}, act.User.ID); err != nil {
				return err
			}
		}
		if in.Answers != nil {
			if err := checkAnswers(*in.Answers, ageOn(personOf(r), on)); err != nil {
				return err
			}
			for _, f := range safety.Raise(on, *in.Answers, nil, nil) {
				if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered yes. "+words.Flag(f), f); err != nil {
					return err
				}
			}
		}
		kept := in
		kept.Readings = nil
		raw, err := json.Marshal(kept)
		if err != nil {
			return err
		}
		if err := tx.PutDayNote(ctx, runner, on.Time(), raw, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "day", daySentence(on, in), nil); err != nil {
			return err
		}
		return a.afterRuns(ctx, tx, act, runner)
	})
	if err != nil {
		return DayState{}, err
	}
	return a.Day(ctx, act, runner, on)
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
	if in.PoorSleep {
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
	out := DayState{On: on, Places: []PlaceView{}, Ask: []safety.Group{}, Raised: []FlagView{}, Warnings: []string{}}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		d, err := a.loadDossier(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		g, err := a.gather(ctx, tx, act, runner, d)
		if err != nil {
			return err
		}
		out.Day = g.notes[on]
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
		known := map[string]bool{}
		if len(d.visits) > 0 {
			for _, c := range d.visits[0].Talk.Complaints {
				add(string(c.Zone), c.Side)
				known[string(c.Zone)] = true
			}
		}
		for when, n := range g.notes {
			for _, p := range n.New {
				if when <= on {
					add(p.Zone, p.Side)
				}
			}
		}
		for _, p := range out.Day.New {
			if !known[p.Zone] && out.Day.Answers == nil {
				out.Ask = safety.Questions(ageOn(personOf(d.runner), on))
			}
		}
		if out.Day.BoneTender && out.Day.Answers == nil {
			out.Ask = safety.Questions(ageOn(personOf(d.runner), on))
		}
		for _, f := range d.standingFlags() {
			out.Raised = append(out.Raised, FlagView{Standing: f, Text: words.Flag(f)})
		}
		for _, p := range out.Places {
			if p.FirstStep != nil && *p.FirstStep >= safety.SevereAt || p.Rest != nil && *p.Rest >= restSevere {
				out.Warnings = append(out.Warnings, "Pain this high is looked at by a clinician before any load.")
			}
		}
		return nil
	})
	return out, err
}

// restSevere is pain at rest that a clinician looks at (F-SEVERE).
const restSevere = 5

// illness reads row 0 from the day notes.
func (g *gathered) illness() adjust.Illness {
	last := day.Date(-1 << 30)
	for on, n := range g.notes {
		if n.Illness == "fever" && on <= g.today {
			last = max(last, on)
		}
	}
	if last < g.today-60 {
		return adjust.Illness{}
	}
	days := 0
	for on := last; g.notes[on].Illness == "fever"; on-- {
		days++
	}
	return adjust.Illness{Now: adjust.IllNow(last, g.today), Days: days, Ended: &last}
}

// illOn reports whether a day is without sessions because of an illness.
func (f *frame) illOn(on day.Date) bool {
	return f.illness.Now && f.illness.Ended != nil && on >= f.today && adjust.IllNow(*f.illness.Ended, on)
}

// surround adds to a context what running, days and flares say.
func (f *frame) surround(c *adjust.Context, p store.Prescription, side body.Side) {
	c.Running, c.Illness = f.running, f.illness
	n := f.g.notes[f.today]
	y := f.g.notes[f.today-1]
	c.PoorSleep, c.MildIllness = n.PoorSleep, n.Illness == "cold" || y.Illness == "cold" && n.Illness == ""
	c.LoadEarly = f.plan.Wishes.School.Is("sole-treatment") == "load-early"
	c.BoneCleared = slices.ContainsFunc(f.dossier.clearances, func(x safety.Clearance) bool { return strings.HasPrefix(string(x.Flag), "F-BONE") && x.On <= f.today })
	this, last := f.g.exposure(f.today.Monday(), f.today), f.g.exposure(f.today.Monday()-7, f.today.Monday()-1)
	c.ExposureOver = load.ExposureOver(this, last)
	l := f.ladders[p.ID]
	from := f.today - 7
	if it := f.last(p.ID, side); it != nil {
		from = max(from, dateOf(it.On)-1)
	}
	if len(l.Tissues) > 0 {
		if r, ok := load.PainOn(f.g.runs, from, f.today, side, l.Tissues); ok {
			c.RunPain = &adjust.Reading{Name: "run", On: r.On, Value: float64(*r.Pain)}
		}
	}
	for _, fl := range f.flares() {
		if fl.Ladder != p.Ladder {
			c.Flares = append(c.Flares, fl)
		}
	}
}

// flares are the stops by row 2 that still stand.
func (f *frame) flares() []adjust.Flare {
	out := []adjust.Flare{}
	for _, p := range f.prescriptions {
		l := f.ladders[p.ID]
		for _, side := range body.Sides {
			peg := f.pegs[p.ID][side]
			if peg.HaltRow == nil || *peg.HaltRow != 2 || len(l.Tissues) == 0 || !f.beganFlare(p.ID, side) {
				continue
			}
			since := dateOf(*peg.HaltOn)
			if adjust.FlareOver(f.history(p.ID, side), since, f.today) {
				continue
			}
			if n := len(out); n > 0 && out[n-1].Ladder == l.ID && out[n-1].Since == since {
				out[n-1].Side = body.Both
				continue
			}
			out = append(out, adjust.Flare{Ladder: l.ID, Name: l.Name, Since: since, Side: side, Tissues: l.At(peg.Notch).Tissues})
		}
	}
	return out
}

// beganFlare reports whether a side was stopped by readings of its own, not
// because another ladder's flare shares its tissue.
func (f *frame) beganFlare(prescription string, side body.Side) bool {
	for i := len(f.decisions) - 1; i >= 0; i-- {
		d := f.decisions[i]
		if d.PrescriptionID != prescription || d.Row != 2 || d.Verdict != string(adjust.Stop) || d.Side != string(side) && d.Side != string(body.Both) {
			continue
		}
		var dec adjust.Decision
		if json.Unmarshal(d.Decision, &dec) != nil {
			return true
		}
		return slices.ContainsFunc(dec.Reasons, func(r adjust.Reason) bool {
			return r.Rule == adjust.RuleThreeMornings || r.Rule == adjust.RuleThriceBack
		})
	}
	return true
}

// lastFlare is the newest stop by row 2 of this block.
func (f *frame) lastFlare() *day.Date {
	var out *day.Date
	for _, d := range f.decisions {
		if d.Row == 2 && d.Verdict == string(adjust.Stop) {
			on := dateOf(d.On)
			if out == nil || on > *out {
				out = &on
			}
		}
	}
	return out
}

// pastFlares are all stops by row 2 with the day they were over; none yet for one
// that still stands.
func (f *frame) pastFlares() []transition.Flare {
	out := []transition.Flare{}
	for _, d := range f.decisions {
		since := dateOf(d.On)
		if d.Row != 2 || d.Verdict != string(adjust.Stop) || !f.beganFlare(d.PrescriptionID, body.Side(d.Side)) || slices.ContainsFunc(out, func(x transition.Flare) bool { return x.Since == since }) {
			continue
		}
		x := transition.Flare{Since: since}
		h := f.history(d.PrescriptionID, body.Side(d.Side))
		for on := since + 1; on <= f.today; on++ {
			if adjust.FlareOver(h, since, on) {
				until := on
				x.Until = &until
				break
			}
		}
		out = append(out, x)
	}
	slices.SortFunc(out, func(a, b transition.Flare) int { return int(a.Since - b.Since) })
	return out
}

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
	return slices.ContainsFunc(f.flares(), func(x adjust.Flare) bool { return adjust.QuietHoldsIn(x.Tissues) })
}

// caps says in words what limits every session now.
func (f *frame) caps() []string {
	out := []string{}
	if f.illness.Now {
		out = append(out, "No session while ill, until 48 hours are free of it.")
	} else if until := (adjust.Context{Illness: f.illness, Today: f.today}).HalfUntil(); until != nil {
		out = append(out, "Half sets up to "+until.Words()+", after the illness.")
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
		if adjust.QuietHoldsIn(x.Tissues) {
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

// mayProgress reports whether steps up of this runner go by themselves.
func (f *frame) mayProgress() bool { return f.runner.AutoProgress && f.engine == adjust.Version }

// byPriority orders prescriptions as ups are given: by the finding they work on,
// then by the catalogue.
func (f *frame) byPriority() []store.Prescription {
	out := slices.Clone(f.prescriptions)
	rank := func(p store.Prescription) int {
		best := 99
		for _, ch := range f.plan.Choices {
			if ch.Ladder != p.Ladder || len(f.dossier.visits) == 0 {
				continue
			}
			for i, x := range f.dossier.visits[0].Findings {
				if slices.Contains(ch.For, x.Name) {
					best = min(best, i)
				}
			}
		}
		return best
	}
	slices.SortStableFunc(out, func(a, b store.Prescription) int {
		if d := rank(a) - rank(b); d != 0 {
			return d
		}
		return f.cat.Order(a.Ladder) - f.cat.Order(b.Ladder)
	})
	return out
}

// afterRuns looks again at the present block's decisions after something around
// them changed.
func (a *App) afterRuns(ctx context.Context, tx *store.Tx, act Actor, runner string) error {
	current, err := tx.CurrentBlock(ctx, runner)
	if err == ErrNotFound {
		return nil
	}
	if err != nil {
		return err
	}
	b, err := tx.LockBlock(ctx, current.ID)
	if err != nil {
		return err
	}
	_, err = a.decideAgain(ctx, tx, act, b)
	return err
}

// raiseStuck raises F-STUCK where the plan does not help; only a clearance
// opens progress again.
func (a *App) raiseStuck(ctx context.Context, tx *store.Tx, f *frame) error {
	in := adjust.StuckInput{Today: f.today, BlockStart: f.start, Held: true}
	if len(f.dossier.visits) > 0 {
		in.Complaints = f.dossier.visits[0].Talk.Complaints
	}
	in.Mornings, _ = f.series(nil, body.Both)
	for _, d := range f.decisions {
		on := dateOf(d.On)
		if d.Row == 2 && d.Verdict == string(adjust.Stop) && !slices.Contains(in.Flares, on) && f.beganFlare(d.PrescriptionID, body.Side(d.Side)) {
			in.Flares = append(in.Flares, on)
		}
		if d.Verdict == string(adjust.Up) && d.State == "accepted" && int(f.today-on) <= 14 {
			in.Held = false
		}
	}
	why, stuck := adjust.IsStuck(in)
	raised := safety.Standing{Flag: adjust.Stuck, Level: safety.Refer, Since: f.today, ProgressOnly: true}
	if !stuck || slices.ContainsFunc(f.dossier.engine, func(s safety.Standing) bool { return s.Flag == adjust.Stuck }) || len(f.items) == 0 {
		return nil
	}
	if err := tx.AddFlag(ctx, f.runner.ID, store.Flag{Flag: string(raised.Flag), Level: string(raised.Level), Tissues: []string{}, ProgressOnly: true, Since: f.today.Time()}, f.items[len(f.items)-1].LogID); err != nil {
		return err
	}
	f.dossier.engine = append(f.dossier.engine, raised)
	f.flags = append(f.flags, raised)
	return tx.Note(ctx, f.runner.ID, a.now(), nil, "flag", words.Flag(raised)+": "+words.Stuck(why), raised)
}

// SetAutoProgress says whether a runner's steps up go by themselves.
func (a *App) SetAutoProgress(ctx context.Context, act Actor, runner string, on bool) error {
	return a.write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		if on {
			if age := ageOn(personOf(r), a.Today(act)); !age.Known || age.Years < safety.Adult {
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
