package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/safety"
)

// shuts are the locks that move a peg: a flag, a gate that is closed for more than
// its age, an age. What a phase, a complaint or an open question leaves out only
// pauses, with its notch kept; a flare stops by its own row.
func (c *course) shuts(p planning.Permission) []planning.Lock {
	var out []planning.Lock
	for _, k := range p.Why {
		switch {
		case k.Kind == planning.LockFlag && k.Flag != adjust.FlareFlag, k.Kind == planning.LockMinor:
		case k.Kind == planning.LockGate && !c.agedOnly(k.Gate):
		default:
			continue
		}
		out = append(out, k)
	}
	return out
}

// standsOn is the highest notch up to one that nothing moves a peg from; 0 where
// there is none. With it comes what closes the first.
func (c *course) standsOn(p Prescription, notch int, side body.Side) (int, []planning.Lock) {
	why := c.shuts(c.shut(p.Ladder, notch, side))
	if len(why) == 0 {
		return notch, nil
	}
	for n := notch - 1; n >= 1; n-- {
		if len(c.shuts(c.shut(p.Ladder, n, side))) == 0 {
			return n, why
		}
	}
	return 0, why
}

// agedOnly reports a gate that only its age closed, less than 14 days ago: what
// stands on it is held while its tests are asked for.
func (c *course) agedOnly(g catalogue.Gate) bool {
	aged, known := c.now.aged[g]
	if !known {
		aged = safety.Aged(c.Path().Evidence, g)
		if c.now.aged == nil {
			c.now.aged = map[catalogue.Gate]bool{}
		}
		c.now.aged[g] = aged
	}
	return aged
}

// flags moves what stands on a notch that is closed now: to the highest open notch
// below it, or to a stop where there is none.
func (c *course) flags() {
	for _, p := range c.inOrder() {
		for _, side := range c.standing(p) {
			peg := c.peg(p.ID, sidesOf(side)[0])
			if !slices.ContainsFunc(sidesOf(side), func(s body.Side) bool { h := c.peg(p.ID, s).Halt; return h == nil || !h.by(1) }) {
				continue
			}
			to, why := c.standsOn(p, peg.Notch, side)
			if to == peg.Notch || to > 0 && c.halted(p, side) {
				continue
			}
			by := make([]adjust.Reason, 0, len(why))
			for _, k := range why {
				r := adjust.Reason{Rule: adjust.RuleFlag, Row: 1, Flag: k.Flag, Other: k.Own, Readings: []adjust.Reading{}, Source: k.Source}
				if k.Kind != planning.LockFlag {
					r.Rule, r.Other = adjust.RuleShut, k.Words
				}
				by = append(by, r)
			}
			d := &Decision{Prescription: p.ID, Side: side, Kind: OfFlag, Session: c.Today, Final: true}
			d.D = adjust.Decision{Verdict: adjust.Stop, Row: 1, From: peg.Notch, To: peg.Notch, Reasons: by, ForUp: []adjust.Condition{}, NextLook: c.Today + 1}
			if to > 0 {
				d.D.Verdict, d.D.To = adjust.Back, to
			}
			d.Key = c.key(p.ID, side, OfFlag, c.Today.String())
			c.put(d, Applied, Turn{Why: ByFlag})
			c.apply(*d, p)
			if to > 0 {
				c.lapse(p, side, ByStop, func(o Decision) bool { return o.Key != d.Key })
			}
		}
	}
}
