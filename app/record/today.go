package record

import (
	"cmp"
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// doing is what a side of a ladder is asked now: the notch it stands on, a lower
// one while something closes that, or nothing.
type doing struct {
	Notch  int // 0 for nothing
	halted bool
	May    planning.Permission // of the notch it stands on
	limits []planning.Limit    // of the notch it is asked
}

type seat struct {
	prescription string
	side         body.Side
}

// Doing asks the one function that answers whether a side may do its notch today.
func (f *Frame) Doing(p store.Prescription, side body.Side) doing {
	key := seat{p.ID, side}
	if d, ok := f.does[key]; ok {
		return d
	}
	peg := f.Pegs[p.ID][side]
	l := f.Ladders[p.ID]
	d := doing{halted: peg.HaltRow != nil}
	d.Notch, d.May = f.Book.Highest(l, peg.Notch, side)
	if d.Notch > 0 {
		d.limits = f.Book.May(l, d.Notch, side).Limits
	}
	if d.halted {
		d.Notch = 0
	}
	if f.does == nil {
		f.does = map[seat]doing{}
	}
	f.does[key] = d
	return d
}

// Asked is the notch a side is asked on a date: of days that are over, where it
// stands.
func (f *Frame) Asked(p store.Prescription, side body.Side, on day.Date) int {
	at := f.Pegs[p.ID][side].Notch
	if on < f.Today {
		return at
	}
	if n := f.Doing(p, side).Notch; n > 0 {
		return min(n, at)
	}
	return at
}

// Shut reports whether a side does nothing of a ladder on a date.
func (f *Frame) Shut(p store.Prescription, side body.Side, on day.Date) bool {
	return on >= f.Today && f.Doing(p, side).Notch == 0
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

// Paused are the ladders of the block that are not done as they stand.
func (f *Frame) Paused() []PausedView {
	out := []PausedView{}
	for _, p := range f.Prescriptions {
		if f.IsPart(p) || f.LeftOut(p.Ladder, f.Today) != "" || f.Path.Ramp != nil && f.Ladders[p.ID].Purpose == catalogue.ForExposure {
			continue
		}
		var views [2]*PausedView
		for i, side := range body.Sides {
			d := f.Doing(p, side)
			l := f.Ladders[p.ID]
			at := f.Pegs[p.ID][side].Notch
			if !d.May.Closed() && !d.halted {
				continue
			}
			v := PausedView{Ladder: l.ID, Name: l.Name, Side: side, Notch: words.Notch(l.At(at)), Words: words.WhyNot(d.May)}
			if v.Words == "" {
				v.Words = "stopped; it comes back as an offer"
			}
			if d.Notch > 0 && d.Notch < at {
				v.Instead = words.Notch(l.At(d.Notch))
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

func (k *Desk) Asks() []AskView { return k.AsksIn(words.English) }

// AsksIn says them in a language.
func (k *Desk) AsksIn(l words.Language) []AskView {
	out := []AskView{}
	for _, c := range k.Book.Asks() {
		name := l.Text(c.Zone.Name())
		if c.Side != "" && c.Side != body.Both {
			name += ", " + l.Text(string(c.Side))
		}
		out = append(out, AskView{Zone: string(c.Zone), Side: c.Side, Name: name, Since: c.Known,
			Words: l.Say("Told on %s; the safety questions are open. Until they are answered, what they could close is closed.", l.Day(c.Known))})
	}
	return out
}

// LanguageOf is the one a runner reads in: their own, or the practice's.
func LanguageOf(r store.Runner, p store.Practice) words.Language {
	if l := words.Language(r.Language); l.Known() {
		return l
	}
	if l := words.Language(p.Language); l.Known() {
		return l
	}
	return words.English
}

// Language is the one the runner reads in.
func (k *Desk) Language() words.Language { return LanguageOf(k.D.Runner, k.Practice) }

// Care is the one page under an emergency; nil where there is none.
func (k *Desk) Care() *words.Care {
	return words.English.Care(k.Book.Flags(), k.Practice.EmergencyNumber, k.Practice.EmergencyText)
}

func (k *Desk) AdviceNow() load.Advice {
	if k.advised == nil {
		a := k.Advice()
		k.advised = &a
	}
	return *k.advised
}

// Hurts reports a complaint that stands today.
func (f *Frame) Hurts() bool { return len(f.Book.Complaints()) > 0 }

// RunOn is the run of a date as the advice leaves it, and why it is less.
func (f *Frame) RunOn(on day.Date) RunsOn {
	a, w := f.AdviceNow(), f.Plan.Wishes.Week
	care, back := f.Care() != nil, f.Book.WayToRun()
	first, less := w.RunOn(on, f.Today, a, f.g.Runs, care, back)
	second, also := w.SecondOn(on, f.Today, a, f.g.Runs, care, back)
	hour := w.Hours[on-on.Monday()]
	if on < f.Today {
		hour = nil
	}
	return RunsOn{first, second, words.Runs(first, second, hour), words.LessRun(cmp.Or(less, also), a)}
}

// RunsOn are a day's runs as they may be run.
type RunsOn struct {
	First, Second planning.RunKind
	Words         string // "easy run, then fast"; "" without a run
	Less          string // why one does not stand, or stands easier
}

// None reports a day without a run.
func (r RunsOn) None() bool { return r.First == planning.NoRun && r.Second == planning.NoRun }

// growing reports that a side is asked a third less.
func (f *Frame) growing(p store.Prescription, side body.Side) bool {
	return slices.ContainsFunc(f.Doing(p, side).limits, func(x planning.Limit) bool { return x.Third })
}

// LimitWords say how a side's work is done today.
func (f *Frame) LimitWords(p store.Prescription, side body.Side) []string {
	var out []string
	for _, x := range f.Doing(p, side).limits {
		out = append(out, x.Words)
	}
	return out
}

// Standing are the flags that stand, with the flares and the open places, to show.
func (f *Frame) Standing() []safety.Standing { return append(slices.Clone(f.Flags), f.flareFlags()...) }

// Kilograms is what a dose's added load weighs for the runner, rounded down to the
// smallest plate; "" without a load.
func (f *Frame) Kilograms(d catalogue.Dose) string {
	switch {
	case d.RM > 0:
		return words.RM(d.RM)
	case d.BodyPercent == 0:
		return ""
	case f.Runner.MassKg == nil:
		return words.Number(d.BodyPercent, 0) + " % of body weight (body mass not noted)"
	}
	return words.Kilograms(adjust.PlateDown(*f.Runner.MassKg*d.BodyPercent/100, f.Practice.PlateKg))
}
