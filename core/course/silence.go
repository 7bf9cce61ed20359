package course

import (
	"fmt"

	"notchback/core/adjust"
	"notchback/core/body"
)

// gaps looks once at each length of a pause: one or two notches under the notch
// of the last session, or a stop. A cut that session's own readings made is not
// added.
func (c *course) gaps() {
	for _, p := range c.inOrder() {
		if p.Ladder.Part != nil { // a routine is handed out for a while; it has nothing to lose
			continue
		}
		if c.leftOut(p.Ladder.ID, c.Today) || ByRamp(p.Ladder) && c.Path().Ramp != nil {
			continue
		}
		for _, side := range c.standing(p) {
			c.gap(p, side)
		}
	}
}

func (c *course) gap(p Prescription, side body.Side) {
	last, notch := c.Today, 0 // of two on one notch, the longer away counts
	log := ""
	for _, s := range sidesOf(side) {
		peg := c.peg(p.ID, s)
		it := c.last(Seat{p.ID, s})
		if it == nil || peg.Halt != nil {
			return
		}
		from := it.On
		if peg.Fresh != nil {
			from = max(from, *peg.Fresh)
		}
		if from < last {
			last, log = from, it.log
		}
		if notch == 0 || it.Notch < notch {
			notch = it.Notch
		}
	}
	n, stop := adjust.Gap(int(c.Today - last))
	if n == 0 && !stop {
		return
	}
	size := n
	if stop {
		size = 3
	}
	about := fmt.Sprintf("%s@%s", log, last)
	for _, d := range c.decisions {
		if d.Kind == OfGap && d.Prescription == p.ID && overlaps(d.Side, side) && d.Stands() && d.Session == last && d.Log == log && gapSize(d) >= size {
			return
		}
	}
	peg := *c.peg(p.ID, sidesOf(side)[0])
	r := adjust.Reason{Rule: adjust.RuleGap, Row: 4, Readings: []adjust.Reading{{Name: "days", On: last, Value: float64(c.Today - last)}}, Source: adjust.HouseSource}
	d := &Decision{Prescription: p.ID, Side: side, Kind: OfGap, Log: log, Session: last, Final: true}
	d.D = adjust.Decision{Verdict: adjust.Back, Row: 4, From: peg.Notch, To: max(1, min(peg.Notch, notch-n)), Reasons: []adjust.Reason{r}, ForUp: []adjust.Condition{}, NextLook: c.Today + 1}
	switch {
	case stop:
		d.D.Verdict, d.D.Rescreen, d.D.From, d.D.To = adjust.Stop, true, notch, adjust.GapStart(p.Start, notch)
	case d.D.To == d.D.From:
		d.D.Verdict = adjust.Hold
	}
	d.Key = c.key(p.ID, side, OfGap, about)
	c.put(d, Applied, Turn{Why: ByGap})
	c.apply(*d, p)
	c.lapse(p, side, ByGap, func(d Decision) bool { return d.Kind == OfSession })
}

// gapSize is how long a pause a decision looked at: 1 or 2 notches, 3 a stop.
func gapSize(d Decision) int {
	if d.D.Verdict == adjust.Stop {
		return 3
	}
	for _, r := range d.D.Reasons {
		if r.Rule == adjust.RuleGap {
			n, stop := adjust.Gap(int(r.Readings[0].Value))
			if stop {
				n = 3
			}
			return n
		}
	}
	return 0
}

// --- the weekly look ---
