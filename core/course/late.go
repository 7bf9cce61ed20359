package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
)

// morningCame finalizes the sessions of the day before and looks again at
// decisions that rest on that day.
func (c *course) morningCame(m Morning) {
	if m.FirstStep != nil {
		c.finalize(func(d Decision) bool { return d.Session+1 == m.On && m.On <= c.Today }, ByMorning)
	}
	r := adjust.Reading{Name: "morning", On: m.On, Value: painOf(m.FirstStep)}
	if m.FirstStep == nil {
		r = adjust.Reading{Name: "rest", On: m.On, Value: painOf(m.Rest)}
	}
	c.lateDay(m.On, m.On-1, r)
	c.lateWeek(m.On, r)
}

// lateDay makes those newest decisions again that rest on a day of which
// something became known or was corrected afterwards. within is that day, or for
// a morning the day before it: a decision rests on its session's days and on the
// one morning after.
func (c *course) lateDay(on, within day.Date, r adjust.Reading) {
	for _, p := range c.inOrder() {
		for _, side := range c.seatsOf(p) {
			s := sidesOf(side)[0]
			d, ok := c.newestOf(Seat{p.ID, s})
			if !ok || !d.Final || d.Side != side || c.fresh[d.Key] || !c.restsOn(*d, p, on, within) {
				continue
			}
			c.again(*d, p, r)
		}
	}
}

// restsOn reports whether a decision rests on a day: its session's, the session
// before, and those between.
func (c *course) restsOn(d Decision, p Prescription, on, within day.Date) bool {
	from := d.Session
	if on >= c.rec.Block.Start && slices.ContainsFunc(d.D.ForUp, func(n adjust.Condition) bool { return n.ID == adjust.NeedReadings && !n.Met }) {
		return within <= d.Session // it waits for the block's first readings
	}
	for _, s := range d.Sides() {
		list := c.items[Seat{p.ID, s}]
		for i := len(list) - 1; i > 0; i-- {
			if list[i].log == d.Log {
				from = min(from, list[i-1].On)
				break
			}
		}
	}
	return on >= max(from, d.Session-adjust.BackWindow) && within <= d.Session
}

// again makes a decision anew for a late reading, with the baselines it had. Less
// load follows at once; more only as a proposal that the coach answers, and never
// past what was accepted or overridden since.
func (c *course) again(was Decision, p Prescription, r adjust.Reading) {
	d := was
	c.make(&d, p, min(was.Session+1, max(was.At.On, was.Session)))
	if d.D.Verdict == adjust.Up && !c.followsOn(d, p) {
		d.D = tooLate(d.D)
	}
	if d.D.Same(was.D) {
		return
	}
	if was.Answered() {
		harsher := d.D.Harshness() > was.D.Harshness()
		if was.State == Overridden {
			harsher = d.cut() && (d.D.Verdict == adjust.Stop || d.D.To < c.peg(was.Prescription, was.Sides()[0]).Notch)
		}
		if !harsher || !d.cut() && !readingBased(d.D) {
			return
		}
	}
	c.replace(was, d, p, ByLate, &r)
}

// followsOn reports whether an up that became known late can still be offered:
// the ladder stands where the session was, and no pause followed.
func (c *course) followsOn(d Decision, p Prescription) bool {
	n, stop := adjust.Gap(int(c.Today - d.Session))
	return n == 0 && !stop && c.standsAt(p, d.Side, d.D.From)
}

// tooLate turns such an up into a hold that waits for a session from here.
func tooLate(d adjust.Decision) adjust.Decision {
	d.Verdict, d.To, d.Row = adjust.Hold, d.From, 11
	d.Reasons = []adjust.Reason{{Rule: adjust.RuleNotYet, Row: 11, Readings: []adjust.Reading{}, Source: adjust.HouseSource}}
	d.ForUp = append(slices.DeleteFunc(slices.Clone(d.ForUp), func(n adjust.Condition) bool { return n.ID == adjust.NeedNewSession }), adjust.Condition{ID: adjust.NeedNewSession})
	return d
}

// readingBased reports a hold that the readings themselves ask for.
func readingBased(d adjust.Decision) bool {
	if d.Row == 5 || d.Row == 6 || d.Row == 8 {
		return true
	}
	return slices.ContainsFunc(d.ForUp, func(n adjust.Condition) bool {
		switch n.ID {
		case adjust.NeedPain, adjust.NeedFullDose, adjust.NeedClean, adjust.NeedMorning, adjust.NeedQuiet, adjust.NeedReserve, adjust.NeedRest, adjust.NeedRunSaid:
			return !n.Met
		}
		return false
	})
}

// replace puts a new decision in the place of one that was looked at again.
func (c *course) replace(was, d Decision, p Prescription, why TurnWhy, r *adjust.Reading) {
	c.put(&was, Superseded, Turn{Why: why, Reading: r})
	d.Key = c.key(p.ID, d.Side, OfSession, d.Log)
	d.State, d.Life, d.Remade, d.Final = "", nil, true, true
	d.AnswerNotch, d.AnswerReason, d.PutBack, d.Before = nil, "", 0, PerSide[Peg]{}
	if d.D.Verdict == adjust.Stop {
		c.put(&d, Applied, Turn{Why: why, Reading: r})
		c.apply(d, p)
		return
	}
	target := d.D.To
	if d.D.Verdict == adjust.Up {
		target = d.D.From
	}
	over, under := false, true
	for _, s := range d.Sides() {
		peg := c.peg(p.ID, s)
		over = over || peg.Notch > target
		under = under && peg.By == was.Key && (peg.Notch < target || peg.Halt != nil && peg.Halt.By == was.Key && len(peg.Halt.Also) == 0)
		under = under && (peg.Halt == nil || peg.Halt.By == was.Key && len(peg.Halt.Also) == 0)
	}
	switch {
	case d.D.Verdict == adjust.Up && !over && !under && c.standsAt(p, d.Side, d.D.From):
		c.put(&d, Proposed, Turn{Why: why, Reading: r})
	case under && !over:
		d.PutBack = target
		c.put(&d, Proposed, Turn{Why: why, Reading: r})
	default:
		c.put(&d, Applied, Turn{Why: why, Reading: r})
		if over {
			for _, s := range d.Sides() {
				c.lower(c.peg(p.ID, s), target, d.Key)
			}
		}
	}
}

func (c *course) standsAt(p Prescription, side body.Side, notch int) bool {
	return !slices.ContainsFunc(sidesOf(side), func(s body.Side) bool {
		peg := c.peg(p.ID, s)
		return peg.Notch != notch || peg.Halt != nil
	})
}

// --- gaps ---

// lateWeek looks again at the newest weekly look when a morning of its week comes
// late: a high week takes its notch at once; one that is not high any more offers
// the notch back.
func (c *course) lateWeek(on day.Date, r adjust.Reading) {
	for _, p := range c.inOrder() {
		if len(p.Ladder.Tissues) == 0 {
			continue
		}
		for _, side := range body.Sides {
			w := c.State.Seats[c.seats[Seat{p.ID, side}]].Week
			if w == nil || on < w.Monday || on > w.Monday+6 {
				continue
			}
			monday := w.Monday
			c.lookAtWeek(p, side, monday)
			now := c.State.Seats[c.seats[Seat{p.ID, side}]].Week
			if now.Verdict == adjust.WeekBack {
				for _, s := range c.standing(p) {
					if overlaps(s, side) {
						c.weekBack(p, s, monday)
					}
				}
				continue
			}
			c.offerWeek(p, side, monday, r)
		}
	}
}
