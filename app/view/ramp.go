package view

import (
	"math"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/simulate"
	"notchback/core/source"
	"notchback/core/transition"
	"notchback/core/words"
)

// All is what stands on a date: bare feet, and on days with an easy run the beat
// and the cue that was begun.
func All(p *record.Path, on day.Date) []RampDay {
	out := On(p, on)
	if !slices.Contains(p.Draft().RunDays, int(on-on.Monday())) {
		return out
	}
	if c, ok := p.CueNow(); ok && on >= *c.From && on <= *c.Due && (c.ID != "cadence" || p.Cadence == nil) {
		x := RampDay{Stage: record.CueStage, Name: "cue", Words: strings.TrimSuffix(c.Say, ".")}
		if l, ok := p.Ladder(c.Ladder); ok {
			x.Words += ": " + words.Notch(l.At(1))
		}
		out = append(out, x)
	}
	if p.Cadence == nil {
		return out
	}
	if p.Beats == nil {
		c := transition.PlanCadence(p.CadenceInput(*p.Cadence))
		p.Beats = &c
	}
	for _, w := range p.Beats.Weeks {
		if w.Monday == on.Monday() && w.Outcome != transition.Stopped {
			out = append(out, RampDay{Stage: record.CadenceStage, Name: "cadence", Words: w.Content})
		}
	}
	return out
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
func form(p *record.Path, v *RampView) {
	c := CadenceView{Rev: p.CadRev, Recounts: p.Recounts, Range: []int{transition.RangeFrom, transition.RangeTo}}
	if c.Recounts == nil {
		c.Recounts = []transition.Recount{}
	}
	findings := p.Found()
	var complaints []screening.Complaint
	if len(p.D.Visits) > 0 {
		complaints = p.D.Visits[0].Talk.Complaints
	}
	for _, s := range p.D.Visits {
		for _, r := range s.Results {
			if r.Test == screening.CadenceTest && r.Left.Measured() && c.Count == nil {
				c.Count = &transition.Recount{On: s.On, Mean: *r.Left.Value, Margin: r.Left.Margin}
			}
		}
	}
	school := p.Positions()
	c.Terms = transition.CadenceTerms{Start: p.Today, School: string(school.Is(planning.AskCadence))}
	if pace := load.EasyPace(p.G.Runs, p.Today); pace > 0 {
		c.Terms.SpeedKmh = math.Round(36000/float64(pace)) / 10
	}
	if c.Count != nil {
		c.Terms.Baseline = math.Round(c.Count.Mean*10) / 10
	}
	if p.Cadence != nil {
		c.Terms, c.Begun = *p.Cadence, true
	}
	gate, _ := safety.Find(p.Gates, safety.CadenceChange)
	out := transition.Outlook{Open: gate.Open, Words: strings.Join(gate.Missing, "; ")}
	if !gate.Open {
		c.Closed = out.Words
	}
	rests := len(p.ActiveFlares()) > 0
	if c.Terms.Baseline > 0 {
		var margin *float64
		if c.Count != nil {
			margin = c.Count.Margin
		}
		c.Advice = transition.AdviseCadence(c.Terms, margin, findings, complaints, out, rests)
	} else {
		c.Advice = transition.Advice{For: []string{}, Against: []string{"no cadence was counted yet"}, Words: "Count the cadence first."}
	}
	c.Plan = transition.PlanCadence(p.CadenceInput(c.Terms))
	t := v.Draft
	c.Extra = transition.ExtraContacts(t.WeeklyMetres, c.Terms.SpeedKmh, c.Terms.Baseline, float64(c.Plan.Target))
	v.Cadence = c
	v.CadenceFirst = school.Is(planning.AskFormOrder) == planning.FormOrderCadenceFirst
	v.Cues = []CueView{}
	for _, q := range p.Cues() {
		x := CueView{Cue: q}
		if l, ok := p.Ladder(q.Ladder); ok {
			x.Drill = words.Notch(l.At(1))
		}
		v.Cues = append(v.Cues, x)
	}
	from := ""
	if s, ok := p.D.Reading("strike-easy"); ok {
		from = [...]string{"rear", "rear", "mid", "fore", "fore"}[max(0, min(4, int(s)))]
	}
	v.Shift = transition.Shift(from, p.CalfReady(), rests)
}

// RampGate is a gate of the board with the stage behind it.
type RampGate struct {
	safety.GateState
	Stage    transition.Stage `json:"stage,omitempty"`
	Earliest *day.Date        `json:"earliest,omitempty" format:"date" doc:"When it may open if nothing goes wrong; missing when nobody knows"`
	Ladders  []Named          `json:"ladders" nullable:"false" doc:"What works on it"`
}

// RampDay is one thing on one day, and whether it was done.
type RampDay struct {
	Stage   transition.Stage `json:"stage" enum:"home,walk,strength,drills,run,bare,cadence,cue"`
	Name    string           `json:"name"`
	Words   string           `json:"words"`
	Minutes int              `json:"minutes"`
	Done    bool             `json:"done"`
}

// RampWeekView is a week with its words.
type RampWeekView struct {
	transition.Week
	Words string `json:"words"`
	Name  string `json:"name" doc:"Of the stage"`
}

// RampMove is a change of the goal's date.
type RampMove struct {
	On   day.Date  `json:"on" format:"date"`
	From *day.Date `json:"from,omitempty" format:"date"`
	To   *day.Date `json:"to,omitempty" format:"date"`
	Why  string    `json:"why"`
}

// RampPlan is a dated ramp in words.
type RampPlan struct {
	Terms   transition.Terms      `json:"terms"`
	Start   day.Date              `json:"start" format:"date"`
	Weeks   []RampWeekView        `json:"weeks" nullable:"false"`
	Now     int                   `json:"now"`
	Range   simulate.Range        `json:"range"`
	Waits   *transition.Wait      `json:"waits,omitempty"`
	Strikes []day.Date            `json:"strikes" nullable:"false"`
	Refer   bool                  `json:"refer"`
	OutTo   *day.Date             `json:"outTo,omitempty" format:"date"`
	Drops   []transition.DropStep `json:"drops" nullable:"false"`
	Says    []string              `json:"says" nullable:"false"`
}

// SchoolRamp is the same ramp under another school.
type SchoolRamp struct {
	Position string    `json:"position"`
	Name     string    `json:"name"`
	Why      string    `json:"why"`
	Mine     bool      `json:"mine"`
	Open     []string  `json:"open" nullable:"false" doc:"Gates of the board that are open"`
	Reached  *day.Date `json:"reached,omitempty" format:"date"`
	Words    string    `json:"words"`
}

// RampView is a runner's way to bare feet and to a quicker step.
type RampView struct {
	RunnerID     string                 `json:"runnerId"`
	RunnerName   string                 `json:"runnerName"`
	Today        day.Date               `json:"today" format:"date"`
	Rev          int                    `json:"rev" doc:"Sent back when saving"`
	Draft        transition.Terms       `json:"draft" doc:"The present terms, or what would be begun with"`
	Plan         *RampPlan              `json:"plan,omitempty" doc:"Missing before a ramp has begun"`
	Days         []RampDay              `json:"days" nullable:"false" doc:"What stands today"`
	Yesterday    []RampDay              `json:"yesterday" nullable:"false"`
	Soreness     *body.Pain             `json:"soreness,omitempty"`
	Gates        []RampGate             `json:"gates" nullable:"false"`
	Schools      []SchoolRamp           `json:"schools" nullable:"false"`
	Moves        []RampMove             `json:"moves" nullable:"false" doc:"Newest first"`
	Assumptions  simulate.Assumptions   `json:"assumptions"`
	Sources      []source.Tag           `json:"sources" nullable:"false"`
	Cautions     []string               `json:"cautions" nullable:"false"`
	Cadence      CadenceView            `json:"cadence"`
	Cues         []CueView              `json:"cues" nullable:"false"`
	CadenceFirst bool                   `json:"cadenceFirst"`
	Shift        transition.StrikeShift `json:"shift"`
}

// rampCautions stand beside every ramp.
var rampCautions = []string{
	"Out of doors not on cold ground, gravel or glass, not on ground over 45 °C, and not with skin that has not healed.",
	"A tender bone at the ball or top of the foot: seven days without any of it. A second time: a clinician looks.",
	"Insoles are not taken away by this plan. A child's foot or one with diabetes: see the safety questions first.",
}

// futures is how many are drawn for a range, and their seed.
const (
	futures    = 1000
	futureSeed = 2027
)

func Plan(p *record.Path, terms []transition.Terms, away int) *RampPlan {
	in := p.Input(terms)
	in.Away = away
	r := transition.Plan(in)
	out := &RampPlan{Terms: terms[len(terms)-1], Start: r.Start, Now: r.Now, Waits: r.Waits, Strikes: r.Strikes, Refer: r.Refer, OutTo: r.OutTo, Drops: r.Drops, Says: r.Says, Weeks: []RampWeekView{},
		Range: simulate.Ramp(in, r, simulate.Usual, futures, futureSeed)}
	for _, w := range r.Weeks {
		out.Weeks = append(out.Weeks, RampWeekView{w, words.RampWeek(w), w.State.Stage.Name()})
	}
	return out
}

// mayToday are what of a date's ramp nothing closes today.
func mayToday(p *record.Path, list []RampDay) []RampDay {
	out := []RampDay{}
	for _, x := range list {
		if p.K == nil || !rampShut(p.K, x) || x.Done {
			out = append(out, x)
		}
	}
	return out
}

func RampOf(p *record.Path) RampView {
	v := RampView{RunnerID: p.D.Runner.ID, RunnerName: p.D.Runner.Name, Today: p.Today, Rev: p.Rev, Draft: p.Draft(), Days: mayToday(p, On(p, p.Today)), Yesterday: On(p, p.Today-1), Moves: []RampMove{}, Assumptions: simulate.Usual,
		Sources: []source.Tag{transition.Source, transition.LivingSource, transition.OutlookSource, simulate.UsualSource, transition.CadenceSource}, Cautions: slices.Concat(safety.Cautions, rampCautions)}
	if len(p.D.Visits) > 0 && p.D.Visits[0].Talk.OnHardFloor() {
		v.Cautions = append(v.Cautions, planning.OnHardFloor)
	}
	v.Soreness = p.G.Notes[p.Today].CalfSoreness
	if len(p.Terms) > 0 {
		v.Plan = Plan(p, p.Terms, 0)
	}
	v.Gates, v.Schools = board(p), schools(p, v.Draft)
	for i := len(p.Dates) - 1; i >= 0; i-- {
		m := RampMove{On: app.DateOf(p.Dates[i].On), Why: p.Dates[i].Why, To: record.Optional(p.Dates[i].Reached)}
		if i > 0 {
			m.From = record.Optional(p.Dates[i-1].Reached)
		}
		v.Moves = append(v.Moves, m)
	}
	form(p, &v)
	return v
}

// board are the gates of the ramp with what works on them.
func board(p *record.Path) []RampGate {
	out := []RampGate{}
	for _, s := range transition.Stages {
		if s == transition.Run {
			continue // the same gate as the strides
		}
		g, ok := safety.Find(p.Gates, s.Gate())
		if !ok {
			continue
		}
		x := RampGate{GateState: g, Stage: s, Ladders: []Named{}}
		if !g.Open {
			x.Earliest = p.Outlooks[g.Gate].From
			if p.Ramp != nil && x.Earliest != nil {
				if m := p.Ramp.Enters(s); m != nil {
					x.Earliest = m
				}
			}
		}
		for _, id := range safety.WorksOn(g.Gate) {
			if l, ok := p.Ladder(id); ok {
				x.Ladders = append(x.Ladders, Named{l.ID, l.Name})
			}
		}
		out = append(out, x)
	}
	return out
}

// schools shows the same terms under each position on bare feet.
func schools(p *record.Path, t transition.Terms) []SchoolRamp {
	out := []SchoolRamp{}
	mine := p.Evidence.Barefoot
	for _, q := range planning.Questions() {
		if q.ID != planning.AskBarefoot {
			continue
		}
		for _, pos := range q.Positions {
			o := *p
			o.Path = p.Under(safety.BarefootSchool(pos.ID))
			s := SchoolRamp{Position: string(pos.ID), Name: pos.Name, Why: pos.Says, Mine: safety.BarefootSchool(pos.ID) == mine, Open: []string{}}
			for _, g := range board(&o) {
				if g.Open {
					s.Open = append(s.Open, g.Name)
				}
			}
			terms := p.Terms
			if len(terms) == 0 {
				terms = []transition.Terms{t}
			}
			r := transition.Plan(o.Input(terms))
			s.Reached = r.Reached
			switch {
			case r.Reached != nil:
				s.Words = "the goal in the week of " + r.Reached.Words() + " at the earliest"
			case r.Waits != nil:
				s.Words = "waits for " + r.Waits.Words
			default:
				s.Words = "no date within three years"
			}
			out = append(out, s)
		}
	}
	return out
}

// On is what the ramp holds on a date, and what of it was done.
func On(p *record.Path, on day.Date) []RampDay {
	out := []RampDay{}
	if p.Ramp == nil || on < p.Ramp.Start {
		return out
	}
	i := int(on-p.Ramp.Start) / 7
	if i >= len(p.Ramp.Weeks) {
		return out
	}
	w := p.Ramp.Weeks[i]
	if p.Ramp.OutTo != nil && on <= *p.Ramp.OutTo && on >= p.Today {
		return out
	}
	for _, x := range w.On(int(on-w.Monday), p.TermsAt(w.Monday)) {
		d := RampDay{Stage: x.Stage, Name: x.Stage.Name(), Words: words.Exposure(x), Minutes: x.Minutes}
		n := p.G.Notes[on]
		if x.Stage == transition.Home {
			d.Done = n.BarefootMinutes != nil && *n.BarefootMinutes > 0
		} else {
			d.Done = slices.ContainsFunc(p.DoneOn(on), func(o transition.Done) bool { return o.Stage == x.Stage })
		}
		out = append(out, d)
	}
	return out
}
