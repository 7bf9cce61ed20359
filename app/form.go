package app

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/measure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// CadenceStage marks a day's change of cadence among what a ramp holds.
const CadenceStage transition.Stage = "cadence"

// CueStage marks a day's form cue.
const CueStage transition.Stage = "cue"

// all is what stands on a date: bare feet, and on days with an easy run the beat
// and the cue that was begun.
func (p *path) all(on day.Date) []RampDay {
	out := p.on(on)
	if !slices.Contains(p.draft().RunDays, int(on-on.Monday())) {
		return out
	}
	if c, ok := p.cueNow(); ok && on >= *c.From && on <= *c.Due && (c.ID != "cadence" || p.cadence == nil) {
		x := RampDay{Stage: CueStage, Name: "cue", Words: strings.TrimSuffix(c.Say, ".")}
		if l, ok := p.ladder(c.Ladder); ok {
			x.Words += ": " + words.Notch(l.At(1))
		}
		out = append(out, x)
	}
	if p.cadence == nil {
		return out
	}
	if p.beats == nil {
		c := transition.PlanCadence(p.cadenceInput(*p.cadence))
		p.beats = &c
	}
	for _, w := range p.beats.Weeks {
		if w.Monday == on.Monday() && w.Outcome != transition.Stopped {
			out = append(out, RampDay{Stage: CadenceStage, Name: "cadence", Words: w.Content})
		}
	}
	return out
}

// found are the findings of the newest finished visit.
func (p *path) found() []screening.Factor {
	var out []screening.Factor
	for _, s := range p.d.visits {
		if !s.Finished {
			continue
		}
		for _, f := range s.Findings {
			out = append(out, f.Factor)
		}
		break
	}
	return out
}

// schools are the runner's, or the practice's where there is no block.
func (p *path) positions() planning.School {
	if p.f != nil {
		return p.f.plan.Wishes.School
	}
	return p.school
}

func (p *path) cues() []transition.Cue {
	return transition.Cues(p.found(), p.looks, p.positions().Is("form-order") == "cadence-first", p.today)
}

// cueNow is the cue that was begun and waits for its re-look.
func (p *path) cueNow() (transition.Cue, bool) {
	if len(p.looks) == 0 {
		return transition.Cue{}, false
	}
	list := p.cues()
	i := slices.IndexFunc(list, func(c transition.Cue) bool { return c.State == "now" && c.From != nil })
	if i < 0 {
		return transition.Cue{}, false
	}
	return list[i], true
}

// cadenceInput is everything a change of cadence is made from.
func (p *path) cadenceInput(t transition.CadenceTerms) transition.CadenceInput {
	in := transition.CadenceInput{Today: p.today, Terms: t, Recounts: p.recounts, Readings: p.Readings(), Held: p.RhythmName}
	if p.cadence == nil {
		return in
	}
	gate, _ := safety.Find(p.Gates, safety.CadenceChange)
	switch {
	case len(p.activeFlares()) > 0:
		in.Closed = "the calf rests"
	case !gate.Open && slices.ContainsFunc(gate.Needs, func(m safety.Missing) bool { return m.Kind == safety.NeedClearance }):
		in.Closed = strings.Join(gate.Missing, "; ")
	}
	return in
}

// CadenceView is a change of cadence: whether at all, and where it stands.
type CadenceView struct {
	Rev      int                     `json:"rev"`
	Count    *transition.Recount     `json:"count,omitempty" doc:"The screening's newest count"`
	Terms    transition.CadenceTerms `json:"terms" doc:"The present ones, or what would be begun with"`
	Begun    bool                    `json:"begun"`
	Advice   transition.Advice       `json:"advice"`
	Plan     transition.CadencePlan  `json:"plan"`
	Recounts []transition.Recount    `json:"recounts" nullable:"false"`
	Closed   string                  `json:"closed,omitempty" doc:"What its gate waits for"`
	Extra    float64                 `json:"extraContacts" doc:"More contacts of one foot in a week at the target"`
	Range    []int                   `json:"range" nullable:"false" doc:"The usual range, spm"`
}

// CueView is a cue with its drill.
type CueView struct {
	transition.Cue
	Drill string `json:"drill"`
}

// form fills in cadence, cues and the strike.
func (p *path) form(v *RampView) {
	c := CadenceView{Rev: p.cadRev, Recounts: p.recounts, Range: []int{transition.RangeFrom, transition.RangeTo}}
	if c.Recounts == nil {
		c.Recounts = []transition.Recount{}
	}
	findings := p.found()
	var complaints []screening.Complaint
	if len(p.d.visits) > 0 {
		complaints = p.d.visits[0].Talk.Complaints
	}
	for _, s := range p.d.visits {
		for _, r := range s.Results {
			if r.Test == screening.CadenceTest && r.Left.Measured() && c.Count == nil {
				c.Count = &transition.Recount{On: s.On, Mean: *r.Left.Value, Margin: r.Left.Margin}
			}
		}
	}
	school := p.positions()
	c.Terms = transition.CadenceTerms{Start: p.today, School: school.Is("cadence")}
	if pace := load.EasyPace(p.g.runs, p.today); pace > 0 {
		c.Terms.SpeedKmh = math.Round(36000/float64(pace)) / 10
	}
	if c.Count != nil {
		c.Terms.Baseline = math.Round(c.Count.Mean*10) / 10
	}
	if p.cadence != nil {
		c.Terms, c.Begun = *p.cadence, true
	}
	gate, _ := safety.Find(p.Gates, safety.CadenceChange)
	out := transition.Outlook{Open: gate.Open, Words: strings.Join(gate.Missing, "; ")}
	if !gate.Open {
		c.Closed = out.Words
	}
	rests := len(p.activeFlares()) > 0
	if c.Terms.Baseline > 0 {
		var margin *float64
		if c.Count != nil {
			margin = c.Count.Margin
		}
		c.Advice = transition.AdviseCadence(c.Terms, margin, findings, complaints, out, rests)
	} else {
		c.Advice = transition.Advice{For: []string{}, Against: []string{"no cadence was counted yet"}, Words: "Count the cadence first."}
	}
	c.Plan = transition.PlanCadence(p.cadenceInput(c.Terms))
	t := v.Draft
	c.Extra = transition.ExtraContacts(t.WeeklyMetres, c.Terms.SpeedKmh, c.Terms.Baseline, float64(c.Plan.Target))
	v.Cadence = c
	v.CadenceFirst = school.Is("form-order") == "cadence-first"
	v.Cues = []CueView{}
	for _, q := range p.cues() {
		x := CueView{Cue: q}
		if l, ok := p.ladder(q.Ladder); ok {
			x.Drill = words.Notch(l.At(1))
		}
		v.Cues = append(v.Cues, x)
	}
	from := ""
	if s, ok := p.d.reading("strike-easy"); ok {
		from = [...]string{"rear", "rear", "mid", "fore", "fore"}[max(0, min(4, int(s)))]
	}
	v.Shift = transition.Shift(from, p.calfReady(), rests)
}

func (p *path) activeFlares() []transition.Flare {
	var out []transition.Flare
	for _, x := range p.Flares {
		if x.Until == nil {
			out = append(out, x)
		}
	}
	return out
}

// calfReady reports the calf ladder at one leg 3 × 15 or past it, both sides.
func (p *path) calfReady() bool {
	if p.f == nil {
		return false
	}
	x, ok := p.f.prescription("calf-straight")
	if !ok {
		return false
	}
	l := p.f.ladders[x.ID]
	for i := 1; i <= l.Len(); i++ {
		n := l.At(i)
		if n.Exercise.ID == "raise-one" && n.Dose.Sets >= 3 && n.Dose.Reps >= 15 {
			return p.f.pegs[x.ID][body.Left].Notch >= i && p.f.pegs[x.ID][body.Right].Notch >= i
		}
	}
	return false
}

// CadenceRampInput is what is saved of a change of cadence.
type CadenceRampInput struct {
	Terms transition.CadenceTerms `json:"terms"`
	Ended bool                    `json:"ended,omitempty"`
}

// PutCadence begins, changes or ends a change of cadence.
func (a *App) PutCadence(ctx context.Context, act Actor, runner string, rev int, in CadenceRampInput) (RampView, error) {
	if err := checkTerms("terms.", in.Terms.Check()); err != nil && !in.Ended {
		return RampView{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Change of cadence ended"
		if !in.Ended {
			if g, _ := safety.Find(p.Gates, safety.CadenceChange); !g.Open && p.cadence == nil {
				return Refused("the gate cadence change is closed: " + strings.Join(g.Missing, "; "))
			}
			if len(in.Terms.Beats()) == 0 {
				return Refused("the target is where the runner is: there is nothing to change")
			}
			text = fmt.Sprintf("Change of cadence: %.0f to %d", in.Terms.Baseline, in.Terms.Target())
		} else if p.cadence == nil {
			return Refused("there is no change of cadence to end")
		}
		raw, err := json.Marshal(in)
		if err != nil {
			return err
		}
		if err := tx.PutRamp(ctx, runner, "cadence", rev, raw, act.User.ID); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.now(), &act.User.ID, "ramp", text, in)
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// RecountInput is a count without a beat.
type RecountInput struct {
	On            day.Date `json:"on" format:"date"`
	Counts        []int    `json:"counts" minItems:"1" maxItems:"20" nullable:"false" doc:"Steps of both feet in each window"`
	WindowSeconds float64  `json:"windowSeconds" minimum:"5" maximum:"120"`
}

// recent is the error of a day in the future, or longer ago than is looked at.
func recent(on, today day.Date) error {
	switch {
	case on > today:
		return Invalid{{"on", fmt.Sprintf("%s is in the future", on)}}
	case on < today-runsBack:
		return Invalid{{"on", fmt.Sprintf("%s is too long ago", on)}}
	}
	return nil
}

// AddRecount stores a count without a beat.
func (a *App) AddRecount(ctx context.Context, act Actor, key, runner string, in RecountInput) (RampView, error) {
	c, err := measure.CadenceFromCounts(in.Counts, in.WindowSeconds)
	if err != nil {
		return RampView{}, Invalid{{"counts", err.Error()}}
	}
	if err := recent(in.On, a.Today(act)); err != nil {
		return RampView{}, err
	}
	if c.OneFoot {
		return RampView{}, Invalid{{"counts", "under 120 a minute: probably one foot only; count both"}}
	}
	r := transition.Recount{On: in.On, Mean: c.MeanSpm, Margin: &c.MarginSpm}
	text := fmt.Sprintf("Counted without a beat: %.1f", r.Mean)
	return a.addRampEvent(ctx, act, key, runner, "recount", in.On, r, text)
}

func knownCue(id string) bool {
	return slices.ContainsFunc(transition.Cues(nil, nil, false, 0), func(c transition.Cue) bool { return c.ID == id })
}

// AddCueLook stores that a cue was begun, or what its re-look showed.
func (a *App) AddCueLook(ctx context.Context, act Actor, key, runner string, in transition.CueLook) (RampView, error) {
	if !knownCue(in.Cue) {
		return RampView{}, Invalid{{"cue", fmt.Sprintf("%q is not a cue", in.Cue)}}
	}
	if err := recent(in.On, a.Today(act)); err != nil {
		return RampView{}, err
	}
	text := "Cue begun: " + in.Cue
	if !in.Begin {
		text = "Cue looked at again: " + in.Cue + ", not yet"
		if in.Took {
			text = "Cue looked at again: " + in.Cue + ", it took"
		}
	}
	return a.addRampEvent(ctx, act, key, runner, "cue", in.On, in, text)
}

func (a *App) addRampEvent(ctx context.Context, act Actor, key, runner, kind string, on day.Date, body any, text string) (RampView, error) {
	err := a.write(ctx, act, func(tx *store.Tx) error {
		_, err := once(ctx, a, tx, act, asked{"addRampEvent", runner, key}, struct {
			Runner, Kind string
			Body         any
		}{runner, kind, body}, func() (bool, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return false, err
			}
			raw, err := json.Marshal(body)
			if err != nil {
				return false, err
			}
			if err := tx.AddRampEvent(ctx, runner, store.RampEvent{Kind: kind, On: on.Time(), Body: raw}, act.User.ID); err != nil {
				return false, err
			}
			return true, tx.Note(ctx, runner, a.now(), &act.User.ID, "ramp", text, body)
		})
		return err
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}
