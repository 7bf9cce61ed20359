package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
)

// week looks at the ISO week that ended: a median two over the start takes one
// notch from what rows 2 to 4 did not cut in it, a creeping one holds until the
// next look.
func (c *course) week() {
	monday := c.Today - 7
	if monday+6 < c.rec.Block.Start {
		return
	}
	for _, p := range c.inOrder() {
		if len(p.Ladder.Tissues) == 0 {
			continue
		}
		for _, side := range body.Sides {
			c.lookAtWeek(p, side, monday)
		}
		for _, side := range c.standing(p) {
			c.weekBack(p, side, monday)
		}
	}
}

func (c *course) lookAtWeek(p Prescription, side body.Side, monday day.Date) {
	s := c.readings(p.Ladder.Tissues, side)
	v, why, known := adjust.History{Mornings: s.mornings, B0: s.b0}.Week(monday)
	seat := &c.State.Seats[c.seats[Seat{p.ID, side}]]
	switch {
	case known && v == adjust.WeekFree:
		seat.Week = &Week{Monday: monday, Verdict: v}
	case known:
		seat.Week = &Week{Monday: monday, Verdict: v, Reason: &why}
	case seat.Week != nil: // nothing is known: the last result stands
		w := *seat.Week
		w.Monday = monday
		if w.Verdict == adjust.WeekBack {
			w.Verdict = adjust.WeekHold // its notch was taken once
		}
		seat.Week = &w
	}
}

// weekBack takes the notch of a high week, once.
func (c *course) weekBack(p Prescription, side body.Side, monday day.Date) {
	var why *adjust.Reason
	for _, s := range sidesOf(side) {
		if w := c.State.Seats[c.seats[Seat{p.ID, s}]].Week; w != nil && w.Monday == monday && w.Verdict == adjust.WeekBack {
			why = w.Reason
		}
	}
	if why == nil {
		return
	}
	for _, s := range sidesOf(side) {
		if peg := c.peg(p.ID, s); peg.Halt != nil {
			h := *peg.Halt
			h.Week = c.Today - 1
			peg.Halt = &h
		}
	}
	if c.halted(p, side) || c.cutIn(p, side, monday) {
		return
	}
	from := c.peg(p.ID, sidesOf(side)[0]).Notch
	d := &Decision{Prescription: p.ID, Side: side, Kind: OfWeek, Session: monday, Final: true}
	d.D = adjust.Decision{Verdict: adjust.Back, Row: 3, From: from, To: max(1, from-1), Reasons: []adjust.Reason{*why}, ForUp: []adjust.Condition{}, NextLook: c.Today + 7}
	for _, s := range sidesOf(side) {
		d.Frozen.set(s, adjust.Frozen{B: min(c.readings(p.Ladder.Tissues, s).b0, baselineMost)})
	}
	if from == 1 {
		d.D.Verdict = adjust.Stop
	}
	d.Key = c.key(p.ID, side, OfWeek, monday.String())
	c.put(d, Applied, Turn{Why: ByWeek})
	c.apply(*d, p)
}

// cutIn reports a cut by rows 2 to 4 in an ISO week, a stop that stood in it, or
// one of that week's look.
func (c *course) cutIn(p Prescription, side body.Side, monday day.Date) bool {
	for _, s := range sidesOf(side) {
		if f := c.peg(p.ID, s).Fresh; f != nil && *f >= monday {
			return true
		}
	}
	return slices.ContainsFunc(c.decisions, func(d Decision) bool {
		if d.Prescription != p.ID || !overlaps(d.Side, side) || !d.Stands() || !d.cut() {
			return false
		}
		if d.Kind == OfWeek {
			return d.Session == monday
		}
		return d.Kind != WayBack && d.D.Row >= 2 && d.D.Row <= 4 && d.At.On >= monday && d.At.On < monday+7
	})
}

func (c *course) offerWeek(p Prescription, side body.Side, monday day.Date, r adjust.Reading) {
	for i := range c.decisions {
		d := c.decisions[i]
		if d.Kind != OfWeek || d.Prescription != p.ID || d.Session != monday || d.State != Applied || !overlaps(d.Side, side) || d.PutBack > 0 {
			continue
		}
		for _, s := range d.Sides() {
			if w := c.State.Seats[c.seats[Seat{p.ID, s}]].Week; w != nil && w.Verdict == adjust.WeekBack {
				return
			}
		}
		moved := slices.ContainsFunc(d.Sides(), func(s body.Side) bool { return c.peg(p.ID, s).By != d.Key })
		c.put(&d, Superseded, Turn{Why: ByLate, Reading: &r})
		if moved || d.D.Verdict == adjust.Stop {
			return
		}
		n := d
		n.Key, n.State, n.Life, n.Remade, n.PutBack = c.key(p.ID, d.Side, OfWeek, monday.String()), "", nil, true, d.D.From
		n.D.Verdict, n.D.From, n.D.To = adjust.Hold, d.D.From, d.D.From
		for _, s := range d.Sides() {
			c.peg(p.ID, s).By = n.Key
		}
		c.put(&n, Proposed, Turn{Why: ByLate, Reading: &r})
	}
}

// --- stops ---
