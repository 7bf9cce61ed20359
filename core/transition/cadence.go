package transition

import (
	"fmt"
	"math"
	"slices"

	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
)

// CadenceSource tags the steps of a cadence change.
var CadenceSource = source.Common()

// Numbers of a cadence change: docs/rules.md, ramps.
const (
	stepLeast, stepMost, stepUsual = 4, 6, 5 // spm
	stepWeeks                      = 2
	ownPercent, ownFurther         = 105, 110
	mostPercent                    = 110 // of the baseline in the first twelve weeks
	passWithin                     = 2.0
	recountMargin                  = 2.0
)

// RangeFrom and RangeTo are the usual range of the school fixed-range, spm.
const (
	RangeFrom = 170
	RangeTo   = 190
)

// CadenceTerms are what a change of cadence is planned with.
type CadenceTerms struct {
	Start    day.Date `json:"start" format:"date" doc:"It begins on the first Monday from then on"`
	Baseline float64  `json:"baselineSpm" minimum:"60" maximum:"260" doc:"Steps of both feet a minute without a beat"`
	School   string   `json:"school" enum:"own-baseline,fixed-range"`
	Further  bool     `json:"further,omitempty" doc:"own-baseline: on to 10 % after 5 %"`
	Step     int      `json:"stepSpm,omitempty" doc:"4 to 6 spm; 5 when missing"`
	SpeedKmh float64  `json:"speedKmh,omitempty" minimum:"0" maximum:"30" doc:"Of the counts; kept the same"`
}

// Check says what is wrong, by field.
func (t CadenceTerms) Check() map[string]error {
	bad := map[string]error{}
	if !(t.Baseline >= 100 && t.Baseline <= 230) {
		bad["baselineSpm"] = fmt.Errorf("expected 100 to 230 of both feet (you entered %g spm)", t.Baseline)
	}
	if t.School != "own-baseline" && t.School != "fixed-range" {
		bad["school"] = fmt.Errorf("%q is not a school; expected own-baseline or fixed-range", t.School)
	}
	if t.Step != 0 && (t.Step < stepLeast || t.Step > stepMost) {
		bad["stepSpm"] = fmt.Errorf("expected 4 to 6 (you entered %d spm)", t.Step)
	}
	if !(t.SpeedKmh >= 0 && t.SpeedKmh <= 30) {
		bad["speedKmh"] = fmt.Errorf("expected 0 to 30 (you entered %g km/h)", t.SpeedKmh)
	}
	return bad
}

// Target returns the cadence aimed for in whole spm, never over 10 % of the
// baseline; the baseline itself where nothing is to change.
func (t CadenceTerms) Target() int {
	b := int(math.Round(t.Baseline))
	most := int(t.Baseline*mostPercent/100 + 1e-9)
	switch {
	case t.School == "fixed-range" && b < RangeFrom:
		return min(RangeFrom, most)
	case t.School == "fixed-range":
		return b
	case t.Further:
		return most
	}
	return int(t.Baseline*ownPercent/100 + 1e-9)
}

// Beats returns the beat of each step. A last remainder of 1 joins the step
// before it; where that would be over 6, the step before gives one instead.
func (t CadenceTerms) Beats() []int {
	step := t.Step
	if step == 0 {
		step = stepUsual
	}
	at, target := int(math.Round(t.Baseline)), t.Target()
	out := []int{}
	for at < target {
		left := target - at
		switch {
		case left == step+1 && step < stepMost:
			at = target
		case left == step+1:
			at += step - 1
		default:
			at = min(at+step, target)
		}
		out = append(out, at)
	}
	return out
}

// StepLength returns metres a step at a speed in km/h; 0 where either is not known.
func StepLength(speedKmh, spm float64) float64 {
	if speedKmh <= 0 || spm <= 0 {
		return 0
	}
	return speedKmh / 3.6 / (spm / 60)
}

// ContactsPerKm returns the contacts of both feet on a kilometre at a speed in km/h.
func ContactsPerKm(speedKmh, spm float64) float64 {
	if speedKmh <= 0 {
		return 0
	}
	return spm * 60 / speedKmh
}

// Recount is a count without a beat.
type Recount struct {
	On     day.Date `json:"on" format:"date"`
	Mean   float64  `json:"meanSpm" minimum:"60" maximum:"260"`
	Margin *float64 `json:"marginSpm,omitempty" minimum:"0" maximum:"60" doc:"Missing when one count alone was made"`
}

// CadenceWeek is one week of a change.
type CadenceWeek struct {
	Monday  day.Date `json:"monday" format:"date"`
	Step    int      `json:"step" doc:"From 1"`
	Beat    int      `json:"beatSpm" minimum:"30" maximum:"220" doc:"What a metronome is set to"`
	Week    int      `json:"week" doc:"Of the step, from 1"`
	Content string   `json:"content"`
	Recount bool     `json:"recount" doc:"Count again without the beat at its end"`
	Outcome Outcome  `json:"outcome" enum:"passed,repeat,back,stopped,open,ahead"`
	Reasons []string `json:"reasons" nullable:"false"`
}

// CadenceInput is everything a change of cadence is made from.
type CadenceInput struct {
	Today    day.Date
	Terms    CadenceTerms
	Recounts []Recount
	Readings []Reading             // for sore calves
	Held     func(day.Date) string // deload, race, half and illness weeks
	Closed   string                // why running may not change; empty when it may
}

// CadencePlan is a dated change of cadence.
type CadencePlan struct {
	Baseline      float64       `json:"baselineSpm"`
	Target        int           `json:"targetSpm"`
	Beats         []int         `json:"beatsSpm" nullable:"false"`
	Weeks         []CadenceWeek `json:"weeks" nullable:"false"`
	Now           int           `json:"now" doc:"Index of the present week; -1 outside"`
	Done          bool          `json:"done"`
	Until         *day.Date     `json:"until,omitempty" format:"date" doc:"The last step's last day, at the earliest"`
	Drill         string        `json:"drill,omitempty" doc:"What this week's runs hold"`
	StepBefore    float64       `json:"stepBeforeM,omitempty"`
	StepAfter     float64       `json:"stepAfterM,omitempty"`
	ContactBefore float64       `json:"contactsPerKmBefore,omitempty"`
	ContactAfter  float64       `json:"contactsPerKmAfter,omitempty"`
	Says          []string      `json:"says" nullable:"false"`
}

// cadenceContent is what a step's weeks hold within easy runs.
func cadenceContent(week, beat int) string {
	if week == 1 {
		return fmt.Sprintf("6 × 1 min at %d within easy runs", beat)
	}
	return fmt.Sprintf("3 × 5 min at %d, then whole easy runs", beat)
}

// PlanCadence dates the steps. A step passes with a count without a beat from its
// second week on, good to 2 spm and within 2 spm of the beat; otherwise its second
// week is done again. Sore calves hold a week.
func PlanCadence(in CadenceInput) CadencePlan {
	t := in.Terms
	p := CadencePlan{Baseline: t.Baseline, Target: t.Target(), Beats: t.Beats(), Weeks: []CadenceWeek{}, Now: -1, Says: []string{}}
	if t.SpeedKmh > 0 {
		p.StepBefore, p.StepAfter = StepLength(t.SpeedKmh, t.Baseline), StepLength(t.SpeedKmh, float64(p.Target))
		p.ContactBefore, p.ContactAfter = ContactsPerKm(t.SpeedKmh, t.Baseline), ContactsPerKm(t.SpeedKmh, float64(p.Target))
	}
	if t.School == "fixed-range" && int(math.Round(t.Baseline)) < RangeFrom && p.Target < RangeFrom {
		p.Says = append(p.Says, fmt.Sprintf("%d is 10 %% over the baseline; no further in the first twelve weeks.", p.Target))
	}
	if in.Closed != "" {
		p.Says = append(p.Says, "Nothing changes while this is so: "+in.Closed)
	}
	at := map[day.Date]Reading{}
	for _, r := range in.Readings {
		at[r.On] = r
	}
	this := in.Today.Monday()
	monday := FirstMonday(t.Start)
	for i, beat := range p.Beats {
		for week := 1; len(p.Weeks) < horizonWeeks; monday += 7 {
			w := CadenceWeek{Monday: monday, Step: i + 1, Beat: beat, Week: min(week, stepWeeks), Outcome: Ahead, Reasons: []string{}}
			w.Content, w.Recount = cadenceContent(week, beat), week >= stepWeeks
			on := week + 1
			held := ""
			if in.Held != nil {
				held = in.Held(monday)
			}
			switch {
			case held != "": // the same again
				on = week
				w.Reasons = append(w.Reasons, held+": the week before again")
				w.Recount = false
				if monday < this {
					w.Outcome = Repeated
				} else if monday == this {
					w.Outcome = Open
				}
			case monday <= this:
				on = w.live(in, at, this)
			}
			if monday == this {
				p.Now = len(p.Weeks)
				p.Drill = w.Content
				if in.Closed != "" {
					w.Outcome, p.Drill = Stopped, ""
				}
			}
			p.Weeks = append(p.Weeks, w)
			if on > stepWeeks {
				monday += 7
				break
			}
			week = on
		}
	}
	if n := len(p.Weeks); n > 0 {
		end := p.Weeks[n-1].Monday + 6
		p.Until = &end
		p.Done = p.Weeks[n-1].Outcome == Passed
	} else {
		p.Done = true
	}
	return p
}

// live reads a week that has begun and returns the week of the step that follows
// it; more than stepWeeks when the step passed.
func (w *CadenceWeek) live(in CadenceInput, at map[day.Date]Reading, this day.Date) int {
	over := w.Monday < this
	w.Outcome = Open
	if over {
		w.Outcome = Passed
	}
	if from, to, ok := soreSpell(at, w.Monday, min(w.Monday+6, in.Today)); ok {
		w.Outcome = Repeated
		w.Reasons = append(w.Reasons, fmt.Sprintf("calves over 4 from %s to %s: held", from.Words(), to.Words()))
		return w.Week
	}
	if w.Week < stepWeeks {
		return w.Week + 1
	}
	for _, c := range in.Recounts {
		if c.On < w.Monday || c.On > w.Monday+7 {
			continue
		}
		off := math.Abs(c.Mean - float64(w.Beat))
		switch {
		case c.Margin == nil || *c.Margin > recountMargin:
			w.Reasons = append(w.Reasons, fmt.Sprintf("the count of %s is not good to 2 spm yet: count on", c.On.Words()))
		case off > passWithin:
			w.Reasons = append(w.Reasons, fmt.Sprintf("%.0f without the beat on %s, %d asked for", c.Mean, c.On.Words(), w.Beat))
		default:
			w.Outcome = Passed
			w.Reasons = append(w.Reasons, fmt.Sprintf("%.0f without the beat on %s", c.Mean, c.On.Words()))
			return stepWeeks + 1
		}
	}
	if !over {
		return stepWeeks + 1 // the earliest: it passes by its end
	}
	w.Outcome = Repeated
	if len(w.Reasons) == 0 {
		w.Reasons = append(w.Reasons, "no count without the beat yet")
	}
	return stepWeeks
}

// Advice is whether a change of cadence is worth it at all.
type Advice struct {
	Change  bool     `json:"change"`
	For     []string `json:"for" nullable:"false"`
	Against []string `json:"against" nullable:"false"`
	Words   string   `json:"words"`
}

var cadenceFindings = map[screening.Factor]string{
	"overstride": "the foot lands ahead of the body", "bounce": "steps bounce", "loud": "landings are loud", "low-cadence": "steps are slow",
}

// AdviseCadence weighs a change: only with a reason for it and its gate open.
func AdviseCadence(t CadenceTerms, margin *float64, findings []screening.Factor, complaints []screening.Complaint, gate Outlook, calfStopped bool) Advice {
	a := Advice{For: []string{}, Against: []string{}}
	for _, f := range []screening.Factor{"overstride", "bounce", "loud", "low-cadence"} {
		if slices.Contains(findings, f) {
			a.For = append(a.For, cadenceFindings[f])
		}
	}
	for _, c := range complaints {
		switch c.Pattern() {
		case screening.Kneecap:
			a.For = append(a.For, "the front of the knee complains: shorter steps ask less of it")
		case screening.ShinLoad:
			a.For = append(a.For, "the shin complains: shorter steps ask less of it")
		}
	}
	if len(a.For) == 0 {
		a.Against = append(a.Against, "nothing that a quicker step would help was found")
	}
	if !gate.Open {
		a.Against = append(a.Against, "its gate is closed: "+gate.Words)
	}
	if margin != nil && float64(t.Target())-t.Baseline <= *margin && t.Target() > int(math.Round(t.Baseline)) {
		a.Against = append(a.Against, "the change would be within the margin of the counts")
	}
	if t.School == "fixed-range" && math.Round(t.Baseline) > RangeTo {
		a.Against = append(a.Against, "steps are over the usual range already")
	}
	if len(t.Beats()) == 0 {
		a.Against = append(a.Against, "the target is where the runner is")
	}
	if calfStopped {
		a.Against = append(a.Against, "the calf rests: more steps are more load for it")
	}
	for _, c := range complaints {
		if c.Side != "" && c.Pattern() == screening.AchillesLoad {
			a.Against = append(a.Against, "the Achilles complains: more steps a kilometre load it more often")
			break
		}
	}
	stop := len(t.Beats()) == 0 || !gate.Open || calfStopped || len(a.For) == 0
	a.Change = !stop
	switch {
	case a.Change:
		a.Words = fmt.Sprintf("Worth a try: %d to %d in small steps.", int(math.Round(t.Baseline)), t.Target())
	default:
		a.Words = "Leave the cadence as it is for now."
	}
	return a
}

// ExtraContacts returns how many more contacts of one foot a week's running has
// at a beat than at the baseline, at the same speed.
func ExtraContacts(weeklyMetres int, speedKmh, from, to float64) float64 {
	return float64(weeklyMetres) / 1000 * (ContactsPerKm(speedKmh, to) - ContactsPerKm(speedKmh, from)) / 2
}
