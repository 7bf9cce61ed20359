package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/safety"
)

// apply moves the pegs as a decision that takes load away says; a hold lowers a
// peg that stands over its notch.
func (c *course) apply(d Decision, p Prescription) {
	for _, s := range d.Sides() {
		peg := c.peg(d.Prescription, s)
		if d.D.Verdict == adjust.Stop {
			c.halt(p, s, d, d.D.From)
			continue
		}
		if peg.Halt == nil || peg.Notch > d.D.To {
			c.lower(peg, d.D.To, d.Key)
		}
	}
	if d.D.Verdict != adjust.Stop || d.D.Row != 2 {
		return
	}
	// Each side whose own readings say so begins its flare.
	for _, s := range d.Sides() {
		if row, ok := d.Rows.of(s); !ok || row != 2 {
			continue
		}
		for _, r := range d.D.Reasons {
			if r.Rule == adjust.RuleThreeMornings || r.Rule == adjust.RuleThriceBack {
				last := d.Session
				for _, x := range r.Readings {
					if x.Name == "morning" {
						last = max(last, x.On)
					}
				}
				c.beginFlare(p, s, p.Ladder.At(d.D.From).Tissues, d.frozenOf(s).B, r.Rule, last)
				break
			}
		}
	}
}

func (c *course) lower(peg *Peg, to int, by string) {
	if to >= peg.Notch {
		return
	}
	on := c.Today
	peg.Notch, peg.LastBack, peg.By = to, &on, by
}

// halt stops a side. One that is stopped by less hears of a flare or a flag.
func (c *course) halt(p Prescription, side body.Side, d Decision, on int) {
	peg := c.peg(p.ID, side)
	var also []Halt
	if peg.Halt != nil {
		for _, h := range peg.Halt.all() {
			if h.Row == d.D.Row || d.D.Row == 3 && h.Row == 2 {
				return
			}
			if h.Row == 3 && d.D.Row == 2 {
				continue // a flare ends alike for all that it stops
			}
			also = append(also, h)
		}
	}
	flag := safety.FlagID("")
	for _, r := range d.D.Reasons {
		if r.Flag != "" {
			flag = r.Flag
		}
	}
	stood := on
	if peg.Halt != nil {
		stood = min(stood, peg.Halt.Notch)
	}
	peg.Notch = min(peg.Notch, stood)
	since := c.Today
	if d.Kind == OfSession {
		since = d.Session
	}
	if d.Kind == OfWeek {
		since = d.Session + 6
	}
	h := Halt{Row: d.D.Row, On: c.Today, Since: since, Notch: stood, B: d.frozenOf(side).B, Flag: flag, By: d.Key, Also: also}
	for i, o := range also { // the strongest stands first
		if o.Row < h.Row {
			rest := append(slices.Delete(slices.Clone(also), i, i+1), h.alone())
			o.Also = rest
			h = o
			break
		}
	}
	peg.Halt = &h
	c.lapse(p, side, ByStop, func(o Decision) bool { return o.Key != d.Key })
}

// all are a stop and those under it, each by itself.
func (h Halt) all() []Halt {
	out := []Halt{h.alone()}
	for _, x := range h.Also {
		out = append(out, x.alone())
	}
	return out
}

// by reports a stop by a row.
func (h Halt) by(row adjust.Row) bool {
	return slices.ContainsFunc(h.all(), func(x Halt) bool { return x.Row == row })
}

func (h Halt) alone() Halt { h.Also = nil; return h }

// rise takes the step up of an accepted decision.
func (c *course) rise(d Decision) {
	on := c.Today
	for _, s := range d.Sides() {
		peg := c.peg(d.Prescription, s)
		peg.Notch, peg.LastUp, peg.By = d.D.To, &on, d.Key
	}
}

// remember keeps the pegs as they stood before an answer.
func (c *course) remember(d *Decision) {
	d.Before = PerSide[Peg]{}
	for _, s := range d.Sides() {
		d.Before.set(s, *c.peg(d.Prescription, s))
	}
}

// lapse takes back what was proposed for a side and not answered.
func (c *course) lapse(p Prescription, side body.Side, why TurnWhy, which func(Decision) bool) {
	for i := range c.decisions {
		d := c.decisions[i]
		if d.Prescription == p.ID && d.State == Proposed && overlaps(d.Side, side) && which(d) {
			c.put(&d, Superseded, Turn{Why: why})
		}
	}
}

// --- mornings and late readings ---
