package view

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/figure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// ChangeView is a change in words.
type ChangeView struct {
	On     day.Date `json:"on" format:"date"`
	Text   string   `json:"text"`
	Reason string   `json:"reason,omitempty"`
}

func changeViews(f *record.Frame) []ChangeView {
	out := []ChangeView{}
	for i := len(f.Changes) - 1; i >= 0; i-- {
		c := f.Changes[i]
		out = append(out, ChangeView{c.On, ChangeWords(f, c.BlockChange), c.Reason})
	}
	return out
}

func ChangeWords(f *record.Frame, c input.BlockChange) string {
	switch c.Kind {
	case "move":
		name := words.SessionName(c.Session)
		if c.Routine != "" {
			name = f.RoutineName(c.Routine)
		}
		s := fmt.Sprintf("%s: %s → %s", name, c.From.Words(), c.To.Words())
		if c.Always {
			s = fmt.Sprintf("%s: %s → %s, every week", name, words.Weekday(int(*c.From-c.From.Monday())), words.Weekday(int(*c.To-c.To.Monday())))
		}
		return s
	case "days":
		return f.Name(c.Ladder) + " on " + words.Days(c.Days)
	case "dose":
		if c.Dose == nil {
			return f.Name(c.Ladder) + ": back to the notch's dose"
		}
		return f.Name(c.Ladder) + ": " + words.Dose(*c.Dose)
	case "extra-set":
		if c.Side == "" {
			return f.Name(c.Ladder) + ": the same sets on both sides"
		}
		return f.Name(c.Ladder) + ": one set more on the " + string(c.Side)
	case "leave-out":
		return f.Name(c.Ladder) + " left out"
	case "add":
		return f.Name(c.Ladder) + " added on " + words.Days(c.Days)
	case "change":
		return f.Name(c.Ladder) + " → " + f.Name(c.Next) + ", on " + words.Days(c.Days)
	case "routine":
		return f.RoutineName(c.Routine) + " given on " + words.Days(c.Days)
	case "routine-off":
		return f.RoutineName(c.Routine) + " taken off"
	}
	return c.Kind
}

func BlockOf(f *record.Frame) (Block, error) {
	out := Block{Choices: adjust.SaidAs(),
		ID: f.Block.ID, RunnerID: f.Runner.ID, RunnerName: f.Runner.Name, ScreeningID: f.Block.ScreeningID, StartOn: f.Start,
		EndOn: f.Start + day.Date(7*f.Block.Weeks) - 1, Today: f.Today, Ended: f.Block.EndedAt != nil, Baseline: f.B0,
		Gates: f.Gates, Mornings: []MorningView{}, Cautions: safety.Cautions,
		Decisions: []DecisionView{}, Flags: []record.FlagView{}, Prescriptions: []PrescriptionView{},
		Phases: f.Phases, PhaseMoved: phaseMoved(f), Left: append([]planning.Left{}, f.Plan.Left...), Minimum: []MinimumView{}, Says: append([]string{}, f.Plan.Says...),
		Main: []MainDay{}, Changes: changeViews(f), Wishes: f.Plan.Wishes, Revision: f.Rev, AutoProgress: f.Runner.AutoProgress, QuietHolds: f.OffersQuietHolds(), NewEngine: f.Engine != adjust.Version,
	}
	for _, m := range f.Plan.Layout.MainWhy {
		out.Main = append(out.Main, MainDay{m.Day, Whys(m.Why)})
	}
	out.Minimum, out.Paused, out.Asks, out.Care, out.PhaseSince = minimum(f), f.Paused(), f.Asks(), f.Care(), f.Phased
	if out.PhaseSince == nil { // nothing was kept yet
		out.PhaseSince = record.SinceOf(record.NextPhases(nil, f))
	}
	for _, m := range f.Mornings {
		out.Mornings = append(out.Mornings, MorningView{m, adjust.Jumped(m.FirstStep, f.B0)})
	}
	for _, fl := range f.Standing() {
		out.Flags = append(out.Flags, record.FlagView{Standing: fl, Text: words.Flag(fl)})
	}
	out.Caps = f.Caps()
	for i := len(f.Decisions) - 1; i >= 0; i-- {
		if f.Ladders[f.Decisions[i].PrescriptionID].Part != nil && f.Decisions[i].Verdict == string(adjust.Hold) {
			continue // a part of a routine never goes up: that it holds is no news
		}
		v, err := decisionView(f, f.Decisions[i])
		if err != nil {
			return out, err
		}
		out.Decisions = append(out.Decisions, v)
	}
	for _, p := range f.Prescriptions {
		v, err := prescriptionView(f, p, out.Decisions)
		if err != nil {
			return out, err
		}
		out.Prescriptions = append(out.Prescriptions, v)
	}
	out.Weeks, out.Routines, out.Nexts = WeeksOf(f), routineViews(f), f.NextViews()
	out.Quiet, out.Ends, out.Tried = f.QuietWord(), f.EndWord(), f.TriedViews()
	return out, nil
}

func decisionView(f *record.Frame, d store.Decision) (DecisionView, error) {
	l := f.Ladders[d.PrescriptionID]
	v := DecisionView{
		ID: d.ID, Version: d.Version, PrescriptionID: d.PrescriptionID, LadderName: l.Name, Side: body.Side(d.Side), On: app.DateOf(d.On),
		State: d.State, Sentence: d.Sentence, AnswerNotch: d.AnswerNotch, AnswerReason: d.AnswerReason,
		Reasons: []ReasonView{}, ForUp: []ConditionView{}, Life: []string{},
	}
	if err := json.Unmarshal(d.Decision, &v.Decision); err != nil {
		return v, err
	}
	v.Move, v.Because = words.Move(l, v.Decision), words.Because(v.Decision)
	c, err := record.DecisionOf(d)
	if err != nil {
		return v, err
	}
	v.PutBack = c.PutBack
	for _, t := range c.Life {
		v.Life = append(v.Life, t.At.On.Words()+" · "+words.LifeTurn(l, t))
	}
	if c.State == course.Proposed {
		if why := f.Book.Refuses(course.Answer{Decision: c.Key, Kind: course.Accept}); why.Why != "" {
			v.Barred = words.Refused(why)
		}
	}
	if c.Answered() && c.Life[len(c.Life)-1].At.On == f.Today {
		v.MayTakeBack = f.Book.Refuses(course.Answer{Decision: c.Key, Kind: course.TakeBack}).Why == ""
	}
	if c.PutBack > 0 {
		v.Move = words.PutBack(l, f.Pegs[d.PrescriptionID][c.Sides()[0]].Notch, c.PutBack)
	}
	for _, r := range v.Decision.Reasons {
		v.Reasons = append(v.Reasons, ReasonView{words.Reason(r), r.Row, r.Source.String()})
	}
	for _, c := range v.Decision.ForUp {
		v.ForUp = append(v.ForUp, ConditionView{words.Condition(c), c.Met, c.Idle})
	}
	return v, nil
}

func prescriptionView(f *record.Frame, p store.Prescription, decisions []DecisionView) (PrescriptionView, error) {
	l := f.Ladders[p.ID]
	v := PrescriptionView{
		ID: p.ID, Ladder: l.ID, ByRamp: f.Path.Ramp != nil && course.ByRamp(l), Name: l.Name, Effort: l.Effort, Purpose: l.Purpose, StartNotch: p.StartNotch, ExtraSetSide: body.Side(p.ExtraSetSide),
		StartReasons: []ReasonView{}, Latest: []DecisionView{}, Together: f.Together(p.ID), LeftOut: f.LeftOut(p.Ladder, f.Today),
	}
	if l.Part != nil {
		v.Routine = l.Part.Routine
	}
	v.Today = todayViews(f, p)
	at := f.Pegs[p.ID][body.Left].Notch
	v.Dose = l.At(at).Dose
	if d, ok := f.OwnDose(p.ID, at, f.Today); ok {
		v.Own = &d
	}
	for i, ch := range f.Plan.Choices {
		if ch.Ladder == p.Ladder {
			c := ChoiceOf(f.Plan, i, ch, l, f.Name)
			v.Plan = &c
		}
	}
	for _, n := range l.Notches {
		nv := NotchView{
			Words: words.Notch(n), Dose: words.Dose(n.Dose), Short: n.Exercise.Short, Name: n.Exercise.Name, Tempo: words.Tempo(n.Dose), More: n.Dose.More, ID: n.Exercise.ID, SetUp: n.Exercise.SetUp,
			Cues: n.Exercise.Cues, Mistakes: append([]string{}, n.Exercise.Mistakes...), Caution: append([]string{}, n.Exercise.Cautions...), Gate: n.Gate, Source: n.Exercise.Source.String(),
		}
		if g, ok := safety.Find(f.Gates, n.Gate); n.Gate != "" && (!ok || !g.Open) {
			nv.Locked = g.Name
			nv.Caution = append(nv.Caution, "Opens with: "+strings.Join(g.Missing, "; "))
		}
		v.Notches = append(v.Notches, nv)
	}
	for _, side := range body.Sides {
		peg := f.Pegs[p.ID][side]
		v.Pegs = append(v.Pegs, PegView{side, peg.Notch, peg.HaltRow != nil})
	}
	var reasons []planning.Reason
	if err := json.Unmarshal(p.StartReasons, &reasons); err != nil {
		return v, err
	}
	for _, r := range reasons {
		v.StartReasons = append(v.StartReasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	seen := map[body.Side]bool{}
	for _, d := range decisions { // newest first
		if d.PrescriptionID != p.ID || seen[d.Side] || seen[body.Both] || (d.Side == body.Both && len(seen) > 0) {
			continue
		}
		seen[d.Side] = true
		v.Latest = append(v.Latest, d)
	}
	return v, nil
}

// phaseMoved names the regions whose phase changed since the plan was made.
func phaseMoved(f *record.Frame) []string {
	out := []string{}
	for i, p := range f.Phases {
		if i < len(f.Plan.Phases) && f.Plan.Phases[i].Phase != p.Phase {
			out = append(out, fmt.Sprintf("%s: %s → %s (%s)", p.Name, f.Plan.Phases[i].Phase, p.Phase, p.Why))
		}
	}
	return out
}

// ChoiceView is a ladder of a plan in words.
type ChoiceView struct {
	Ladder       string              `json:"ladder"`
	Name         string              `json:"name"`
	Exercise     string              `json:"exercise" doc:"Of the starting notch"`
	Role         planning.Role       `json:"role"`
	For          []string            `json:"for" nullable:"false"`
	Place        catalogue.Place     `json:"place"`
	Words        string              `json:"words"`
	Notch        int                 `json:"notch"`
	Notches      int                 `json:"notches"`
	Reasons      []ReasonView        `json:"reasons" nullable:"false"`
	Ceiling      int                 `json:"ceiling"`
	Locks        []string            `json:"locks" nullable:"false"`
	Swaps        []string            `json:"swaps" nullable:"false"`
	Instead      string              `json:"instead,omitempty"`
	Notes        []string            `json:"notes" nullable:"false"`
	FromWeek     int                 `json:"fromWeek"`
	Days         []int               `json:"days" nullable:"false" doc:"Monday 0"`
	Why          []string            `json:"why" nullable:"false"`
	Blocked      []string            `json:"blocked" nullable:"false" doc:"What keeps it off other days"`
	Path         []planning.Expected `json:"path" nullable:"false"`
	Stops        string              `json:"stops,omitempty"`
	ExtraSetSide body.Side           `json:"extraSetSide,omitempty"`
	Minutes      float64             `json:"minutes"`
}

// MinimumView is a part of the five-minute plan in words.
type MinimumView struct {
	Ladder  string  `json:"ladder"`
	Name    string  `json:"name"`
	Words   string  `json:"words"`
	Minutes float64 `json:"minutes"`
}

// MainDay is why a main session stands on a day.
type MainDay struct {
	Day int      `json:"day"`
	Why []string `json:"why" nullable:"false"`
}

// Answered shows the block after an answer.
func Answered(k *record.Desk, err error) (Block, error) {
	if err != nil {
		return Block{}, err
	}
	return BlockOf(k.F)
}

// Picture is a drawing of an exercise: start, and end with the start as a ghost.
type Picture struct {
	Start []figure.Part `json:"start" nullable:"false"`
	End   []figure.Part `json:"end" nullable:"false"`
}

// PictureOf draws an exercise; nil for one of a practice's own that has no drawing.
func PictureOf(l record.Layered, e catalogue.Exercise) *Picture {
	if !e.Drawn() {
		return nil
	}
	p, err := l.Picture(e)
	if err != nil {
		return nil
	}
	return &Picture{p.Start, p.End}
}

// MotionOf is how an exercise moves; nil where it has no drawing.
func MotionOf(l record.Layered, e catalogue.Exercise) *figure.Motion {
	if !e.Drawn() {
		return nil
	}
	p, err := l.Picture(e)
	if err != nil {
		return nil
	}
	return &p.Motion
}

func Whys(ws []planning.WeekWhy) []string {
	out := []string{}
	for _, w := range ws {
		out = append(out, words.WeekWhy(w))
	}
	return out
}

func ChoiceOf(p planning.Proposal, i int, ch planning.Choice, l catalogue.Ladder, name func(string) string) ChoiceView {
	n := l.At(ch.Start.Notch)
	c := ChoiceView{
		Ladder: ch.Ladder, Name: ch.Name, Exercise: n.Exercise.ID, Role: ch.Role, For: ch.For, Place: ch.Place, Words: words.Notch(n), Notch: ch.Start.Notch, Notches: l.Len(),
		Reasons: []ReasonView{}, Ceiling: ch.Ceiling, Locks: []string{}, Swaps: []string{}, Instead: ch.Instead, Notes: ch.Notes, FromWeek: ch.FromWeek,
		Days: []int{}, Why: []string{}, Blocked: []string{}, Path: p.Paths[i].Weeks, Stops: p.Paths[i].Stops, ExtraSetSide: ch.Start.ExtraSetSide, Minutes: n.Seconds() / 60,
	}
	for _, r := range ch.Start.Reasons {
		c.Reasons = append(c.Reasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	for _, k := range ch.Locks {
		c.Locks = append(c.Locks, k.Words)
	}
	for _, w := range ch.Swaps {
		c.Swaps = append(c.Swaps, w.Take+" in place of "+w.For)
	}
	for d, ss := range p.Days {
		for _, x := range ss {
			if slices.Contains(x.Ladders, ch.Ladder) && !slices.Contains(c.Days, d) {
				c.Days = append(c.Days, d)
			}
		}
	}
	for _, pl := range p.Layout.Places {
		if pl.Ladder != ch.Ladder {
			continue
		}
		c.Why = Whys(pl.Why)
		for _, b := range pl.Blocked {
			c.Blocked = append(c.Blocked, "not "+words.Weekday(b.Day)+": "+words.Broken(b, name))
		}
	}
	if len(c.Why) == 0 {
		switch ch.Place {
		case catalogue.PlaceMicro:
			c.Why = append(c.Why, words.WeekWhy(planning.WhyEveryDay))
		case catalogue.PlaceRun:
			c.Why = append(c.Why, "in easy runs")
		case catalogue.PlaceDay:
			c.Why = append(c.Why, "through the day")
		}
	}
	return c
}

// Named is an id with its name.
type Named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}
