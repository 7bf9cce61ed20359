package app

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// doing is what a side of a ladder is asked now: the notch it stands on, a lower
// one while something closes that, or nothing.
type doing struct {
	notch  int // 0 for nothing
	halted bool
	may    planning.Permission // of the notch it stands on
	limits []planning.Limit    // of the notch it is asked
}

type seat struct {
	prescription string
	side         body.Side
}

// doing asks the one function that answers whether a side may do its notch today.
func (f *frame) doing(p store.Prescription, side body.Side) doing {
	key := seat{p.ID, side}
	if d, ok := f.does[key]; ok {
		return d
	}
	peg := f.pegs[p.ID][side]
	l := f.ladders[p.ID]
	d := doing{halted: peg.HaltRow != nil}
	d.notch, d.may = f.book.Highest(l, peg.Notch, side)
	if d.notch > 0 {
		d.limits = f.book.May(l, d.notch, side).Limits
	}
	if d.halted {
		d.notch = 0
	}
	if f.does == nil {
		f.does = map[seat]doing{}
	}
	f.does[key] = d
	return d
}

// asked is the notch a side is asked on a date: of days that are over, where it
// stands.
func (f *frame) asked(p store.Prescription, side body.Side, on day.Date) int {
	at := f.pegs[p.ID][side].Notch
	if on < f.today {
		return at
	}
	if n := f.doing(p, side).notch; n > 0 {
		return min(n, at)
	}
	return at
}

// shut reports whether a side does nothing of a ladder on a date.
func (f *frame) shut(p store.Prescription, side body.Side, on day.Date) bool {
	return on >= f.today && f.doing(p, side).notch == 0
}

// PausedView is a ladder or side that may not be done now, with the reason.
type PausedView struct {
	Ladder  string    `json:"ladder"`
	Name    string    `json:"name"`
	Side    body.Side `json:"side" enum:"left,right,both"`
	Notch   string    `json:"notch" doc:"What it would be; the notch is kept"`
	Instead string    `json:"instead,omitempty" doc:"The lower notch done meanwhile"`
	Words   string    `json:"words" doc:"Why"`
}

// paused are the ladders of the block that are not done as they stand.
func (f *frame) paused() []PausedView {
	out := []PausedView{}
	for _, p := range f.prescriptions {
		if f.leftOut(p.Ladder, f.today) != "" || f.path.Ramp != nil && f.ladders[p.ID].Purpose == "exposure" {
			continue
		}
		var views [2]*PausedView
		for i, side := range body.Sides {
			d := f.doing(p, side)
			l := f.ladders[p.ID]
			at := f.pegs[p.ID][side].Notch
			if !d.may.Closed() && !d.halted {
				continue
			}
			v := PausedView{Ladder: l.ID, Name: l.Name, Side: side, Notch: words.Notch(l.At(at)), Words: words.WhyNot(d.may)}
			if v.Words == "" {
				v.Words = "stopped; it comes back as an offer"
			}
			if d.notch > 0 && d.notch < at {
				v.Instead = words.Notch(l.At(d.notch))
			}
			views[i] = &v
		}
		switch l, r := views[0], views[1]; {
		case l != nil && r != nil && l.Notch == r.Notch && l.Words == r.Words && l.Instead == r.Instead:
			l.Side = body.Both
			out = append(out, *l)
		default:
			for _, v := range views {
				if v != nil {
					out = append(out, *v)
				}
			}
		}
	}
	return out
}

// AskView is a place whose safety questions are open.
type AskView struct {
	Zone  string    `json:"zone"`
	Side  body.Side `json:"side,omitempty" enum:"left,right,"`
	Name  string    `json:"name"`
	Since day.Date  `json:"since" format:"date"`
	Words string    `json:"words"`
}

func (k *desk) asks() []AskView {
	out := []AskView{}
	for _, c := range k.book.Asks() {
		name := c.Zone.Name()
		if c.Side != "" && c.Side != body.Both {
			name += ", " + string(c.Side)
		}
		out = append(out, AskView{Zone: string(c.Zone), Side: c.Side, Name: name, Since: c.Known,
			Words: "Told on " + c.Known.Words() + "; the safety questions are open. Until they are answered, what they could close is closed."})
	}
	return out
}

// care is the one page under an emergency; nil where there is none.
func (k *desk) care() *words.Care {
	return words.CareFor(k.book.Flags(), k.practice.EmergencyNumber, k.practice.EmergencyText)
}

func (k *desk) adviceNow() load.Advice {
	if k.advised == nil {
		a := k.advice()
		k.advised = &a
	}
	return *k.advised
}

// runOn is the run of a date as the advice leaves it, and why it is less.
func (f *frame) runOn(on day.Date) (planning.RunKind, string) {
	a := f.adviceNow()
	kind, less := f.plan.Wishes.RunOn(on, f.today, a, f.g.runs, f.care() != nil)
	return kind, words.LessRun(less, a)
}

// rampOn is what the ramp holds on a date and nothing closes today.
func (f *frame) rampOn(on day.Date) []RampDay {
	out := []RampDay{}
	for _, x := range f.path.all(on) {
		if on >= f.today && !x.Done && f.rampShut(x) {
			continue
		}
		out = append(out, x)
	}
	return out
}

// stageLadders are the ladders whose work a stage of the ramp is.
var stageLadders = map[transition.Stage]string{transition.Home: "exposure-home", transition.Walk: "exposure-walk", transition.Strength: "exposure-strength",
	transition.Drills: "exposure-drill", transition.Run: "exposure-run", transition.Bare: "exposure-run"}

func (k *desk) rampShut(x RampDay) bool {
	if k.care() != nil || k.book.Illness().Now {
		return true
	}
	runs := x.Stage == transition.Drills || x.Stage == transition.Run || x.Stage == transition.Bare || x.Stage == CueStage || x.Stage == CadenceStage
	if a := k.adviceNow(); runs && a.ID == load.NoRunning {
		return true
	}
	id, ok := stageLadders[x.Stage]
	if !ok {
		return false
	}
	l, known := k.layers.Catalogue.Ladder(id)
	if !known {
		return false
	}
	// The ramp itself holds a stage whose gate is closed; a waived one stands.
	return slices.ContainsFunc(k.book.May(l, 1, body.Both).Why, func(k planning.Lock) bool { return k.Kind != planning.LockGate && k.Kind != planning.LockControl })
}

// minimum is the five-minute day as it may be done today.
func (f *frame) minimum() []MinimumView {
	out := []MinimumView{}
	if f.care() != nil || f.illness.Now {
		return out
	}
	for _, m := range planning.Minimum(f.cat, f.book.PlanEvidence(), f.book.Phases()) {
		if l, ok := f.cat.Ladder(m.Ladder); ok && m.Notch <= l.Len() {
			out = append(out, MinimumView{m.Ladder, l.Name, words.Notch(l.At(m.Notch)), m.Seconds / 60})
		}
	}
	return out
}

// growing reports that a side is asked a third less.
func (f *frame) growing(p store.Prescription, side body.Side) bool {
	return slices.ContainsFunc(f.doing(p, side).limits, func(x planning.Limit) bool { return x.Third })
}

// limitWords say how a side's work is done today.
func (f *frame) limitWords(p store.Prescription, side body.Side) []string {
	var out []string
	for _, x := range f.doing(p, side).limits {
		out = append(out, x.Words)
	}
	return out
}

// NotchState is whether a notch may be done today, for the rail.
type NotchState struct {
	Side   body.Side                `json:"side" enum:"left,right"`
	State  planning.PermissionState `json:"state" enum:"open,limited,closed"`
	Notch  int                      `json:"notch" doc:"The notch asked today; 0 for none"`
	Why    []string                 `json:"why" nullable:"false"`
	Limits []string                 `json:"limits" nullable:"false"`
}

func (f *frame) todayViews(p store.Prescription) []NotchState {
	out := []NotchState{}
	for _, side := range body.Sides {
		d := f.doing(p, side)
		v := NotchState{Side: side, State: d.may.State, Notch: d.notch, Why: []string{}, Limits: append([]string{}, f.limitWords(p, side)...)}
		for _, k := range d.may.Why {
			v.Why = append(v.Why, k.Words)
		}
		out = append(out, v)
	}
	return out
}

// standing are the flags that stand, with the flares and the open places, to show.
func (f *frame) standing() []safety.Standing { return append(slices.Clone(f.flags), f.flareFlags()...) }

// kilograms is what a dose's added load weighs for the runner, rounded down to the
// smallest plate; "" without a load.
func (f *frame) kilograms(d catalogue.Dose) string {
	switch {
	case d.RM > 0:
		return words.RM(d.RM)
	case d.BodyPercent == 0:
		return ""
	case f.runner.MassKg == nil:
		return words.Number(d.BodyPercent, 0) + " % of body weight (body mass not noted)"
	}
	return words.Kilograms(adjust.PlateDown(*f.runner.MassKg*d.BodyPercent/100, f.practice.PlateKg))
}
