package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// answer does what a coach said, unless it is refused by now.
func (c *course) answer(a Answer) {
	if a.Kind == Typo {
		c.slip(a)
		return
	}
	i, known := c.byKey[a.Decision]
	if !known {
		return
	}
	d := c.decisions[i]
	p, ok := c.Prescription(d.Prescription)
	if !ok || !c.refuses(d, p, a).ok() {
		return
	}
	t := Turn{Why: ByCoach, By: a.By, Reason: a.Reason, Notch: a.Notch}
	switch a.Kind {
	case Accept:
		c.remember(&d)
		c.put(&d, Accepted, t)
		c.accepted(d)
	case Override:
		c.remember(&d)
		n := a.Notch
		d.AnswerNotch, d.AnswerReason = &n, a.Reason
		c.put(&d, Overridden, t)
		c.overridden(d, a.Notch)
	case TakeBack:
		state := Proposed
		if d.State == Overridden && !wasProposed(d) {
			state = Applied
		}
		if !MayFollow(d.State, state) {
			return
		}
		d.AnswerNotch, d.AnswerReason = nil, ""
		t.Why = ByTakeBack
		for _, s := range d.Sides() {
			if peg, ok := d.Before.of(s); ok {
				*c.peg(d.Prescription, s) = peg
			}
		}
		d.Before = PerSide[Peg]{}
		c.put(&d, state, t)
	}
}

// wasProposed reports whether a decision stood proposed before it was answered.
func wasProposed(d Decision) bool {
	n := len(d.Life)
	return n >= 2 && d.Life[n-2].State == Proposed
}

func (c *course) accepted(d Decision) {
	on := c.Today
	switch {
	case d.Kind == WayBack:
		for _, s := range d.Sides() {
			peg := c.peg(d.Prescription, s)
			peg.Notch, peg.Halt, peg.Fresh, peg.LastBack, peg.By = d.D.To, nil, &on, &on, d.Key
		}
	case d.PutBack > 0:
		for _, s := range d.Sides() {
			peg := c.peg(d.Prescription, s)
			peg.Notch, peg.Halt, peg.By = d.PutBack, nil, d.Key
		}
	default:
		c.rise(d)
	}
}

func (c *course) overridden(d Decision, notch int) {
	on := c.Today
	for _, s := range d.Sides() {
		peg := c.peg(d.Prescription, s)
		switch {
		case notch > peg.Notch:
			peg.LastUp = &on
		case notch < peg.Notch:
			peg.LastBack = &on
		}
		peg.Notch, peg.By = notch, d.Key
	}
}

// Refuses says why an answer can't be given now; an empty Why when it can.
func (b *Book) Refuses(a Answer) Barred {
	i, known := b.byKey[a.Decision]
	if !known {
		return Barred{Why: RefusedGone}
	}
	d := b.decisions[i]
	p, ok := b.Prescription(d.Prescription)
	if !ok {
		return Barred{Why: RefusedGone}
	}
	return (&course{Book: b}).refuses(d, p, a)
}

func (c *course) refuses(d Decision, p Prescription, a Answer) Barred {
	switch {
	case !d.Stands():
		return Barred{Why: RefusedGone}
	case a.Kind == TakeBack:
		return c.refusesTakeBack(d, p)
	case a.Kind == Override:
		return c.refusesOverride(d, p, a.Notch)
	case d.State != Proposed:
		return Barred{Why: RefusedNothing}
	}
	pegs := d.Sides()
	if d.Kind == WayBack {
		to, _, _, ok := c.mayReturn(p, d.Side)
		if x := c.freeOf(p, d.Side, d.D.To); !x.ok() {
			return x
		}
		if !ok || to != d.D.To {
			return Barred{Why: RefusedQuiet}
		}
		return Barred{}
	}
	to := d.D.To
	if d.PutBack > 0 {
		to = d.PutBack
	}
	for _, s := range pegs {
		peg := c.peg(p.ID, s)
		switch {
		case d.PutBack > 0 && peg.Halt != nil && len(peg.Halt.Also) == 0 && c.haltOf(d, *peg.Halt):
		case peg.Halt != nil:
			return Barred{Why: RefusedStopped}
		case d.PutBack == 0 && peg.Notch != d.D.From:
			return Barred{Why: RefusedMoved}
		}
	}
	if x := c.freeOf(p, d.Side, to); !x.ok() {
		return x
	}
	if d.PutBack > 0 {
		if g := p.Ladder.At(to).Gate; !safety.IsOpen(c.Gates(), g) {
			return Barred{Why: RefusedGate, Gate: string(g)}
		}
		return Barred{}
	}
	if c.upsThisWeek(p.ID) >= adjust.UpsAWeek {
		return Barred{Why: RefusedBudget}
	}
	return c.holdsToday(p, d, to)
}

// haltOf reports whether a halt was made by a decision of the same session that
// this one replaced.
func (c *course) haltOf(d Decision, h Halt) bool {
	i, ok := c.byKey[h.By]
	return ok && c.decisions[i].Log == d.Log && c.decisions[i].Kind == d.Kind && !c.decisions[i].Stands()
}

// holdsToday says what keeps a side from rising to a notch today, whatever was
// proposed before.
func (c *course) holdsToday(p Prescription, d Decision, to int) Barred {
	if x := c.freeOf(p, d.Side, to); !x.ok() {
		return x
	}
	if g := p.Ladder.At(to).Gate; !safety.IsOpen(c.Gates(), g) {
		return Barred{Why: RefusedGate, Gate: string(g)}
	}
	if top := c.Ceiling(p); top > 0 && to > top {
		return Barred{Why: RefusedHeld}
	}
	for _, s := range d.Sides() {
		g := c.given(p, s)
		if c.within(g.LastBack) || c.within(g.LastUp) && p.Ladder.Purpose != catalogue.ForReturn {
			return Barred{Why: RefusedHeld}
		}
		h := c.history(p, s, d.Log)
		if len(h.Sessions) == 0 {
			continue
		}
		f := d.frozenOf(s)
		h.Frozen = &f
		x := c.context(p, s, h, g, c.Today, c.Today)
		if holds := adjust.HoldsNow(h, x); len(holds) > 0 {
			return Barred{Why: RefusedHeld, Reason: &holds[0]}
		}
	}
	return Barred{}
}

func (c *course) refusesOverride(d Decision, p Prescription, notch int) Barred {
	if notch < 1 || notch > min(p.Ladder.Len(), d.D.From+1) {
		return Barred{Why: RefusedRange}
	}
	if d.Kind == WayBack {
		return Barred{Why: RefusedStopped} // it comes back by its way back
	}
	rises := false
	for _, s := range d.Sides() {
		peg := c.peg(p.ID, s)
		switch {
		case peg.Halt == nil:
		case peg.Halt.by(1):
			return Barred{Why: RefusedFlag, Flag: peg.Halt.Flag}
		case peg.Halt.by(2):
			return Barred{Why: RefusedFlare}
		default:
			return Barred{Why: RefusedStopped}
		}
		if newest, ok := c.newestOf(Seat{p.ID, s}); ok && newest.Key != d.Key && newest.Session > d.Session {
			return Barred{Why: RefusedGone}
		}
		rises = rises || notch > peg.Notch
	}
	if !rises {
		return Barred{}
	}
	if x := c.freeOf(p, d.Side, notch); !x.ok() {
		return x
	}
	if g := p.Ladder.At(notch).Gate; !safety.IsOpen(c.Gates(), g) {
		return Barred{Why: RefusedGate, Gate: string(g)}
	}
	if c.upsThisWeek(p.ID) >= adjust.UpsAWeek {
		return Barred{Why: RefusedBudget}
	}
	for _, s := range d.Sides() {
		peg := c.peg(p.ID, s)
		if notch <= peg.Notch {
			continue
		}
		if c.within(peg.LastUp) || c.within(peg.LastBack) {
			return Barred{Why: RefusedHeld}
		}
		h := c.history(p, s, d.Log)
		if len(h.Sessions) == 0 {
			continue
		}
		f := d.frozenOf(s)
		h.Frozen = &f
		if holds := adjust.HoldsNow(h, c.context(p, s, h, c.given(p, s), c.Today, c.Today)); len(holds) > 0 {
			return Barred{Why: RefusedHeld, Reason: &holds[0]}
		}
	}
	return Barred{}
}

// within reports a date of the last seven days.
func (c *course) within(d *day.Date) bool { return d != nil && int(c.Today-*d) < adjust.UpEvery }

func (c *course) refusesTakeBack(d Decision, p Prescription) Barred {
	if !d.Answered() || len(d.Life) == 0 || d.Life[len(d.Life)-1].At.On != c.Today || d.Life[len(d.Life)-1].Why != ByCoach {
		return Barred{Why: RefusedFollowed}
	}
	for _, s := range d.Sides() {
		peg := c.peg(p.ID, s)
		before, ok := d.Before.of(s)
		if !ok || peg.By != d.Key {
			return Barred{Why: RefusedFollowed}
		}
		if it := c.last(Seat{p.ID, s}); it != nil && it.On >= c.Today && it.log != d.Log {
			return Barred{Why: RefusedFollowed}
		}
		if before.Halt == nil && before.Notch > peg.Notch {
			if x := c.freeOf(p, d.Side, before.Notch); !x.ok() {
				return x
			}
		}
	}
	return Barred{}
}

// --- flags that readings raise ---

// severe raises F-SEVERE for a reading of a date. A clearance given before the
// reading came doesn't cover it: the clinician has not seen it. [house]
func (c *course) severe(on day.Date, side body.Side, zone screening.Zone, tissues []body.Tissue, running bool) {
	known := slices.ContainsFunc(c.Raised, func(r Raised) bool { return r.Flag == safety.Severe && r.Since == on && on < c.Today })
	since := on
	for _, cl := range c.Clearances {
		if cl.Flag == safety.Severe && !known {
			since = max(since, cl.On+1)
		}
	}
	f := safety.RaiseSevere(since, side, tissues)
	f.Running, f.Zone = running, zone
	for _, s := range safety.Stand(c.Today, c.AllFlags(), c.Clearances) {
		covers := s.Everything || s.Zone == zone && zone != "" && (s.Side == "" || s.Side == body.Both || s.Side == side) || s.Zone == "" && (s.Side == "" || s.Side == body.Both || s.Side == side) && !f.Everything && !slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return !slices.Contains(s.Tissues, t) })
		if s.Flag == safety.Severe && covers {
			return
		}
	}
	c.allFlags = nil
	c.Raised = append(c.Raised, Raised{Arrival: Arrival{Seq: c.State.Seq, At: Moment{c.Today, c.Hour}}, Standing: f})
	c.now = surroundings{}
	c.tell(Change{Kind: FlagRaised, Flag: f})
}

// severeSession: pain of 8 or more in an exercise; pressure scores of release are
// on their own scale.
func (c *course) severeSession(l Log) {
	for _, it := range l.Items {
		p, ok := c.Prescription(it.Prescription)
		if !ok || it.Pain == nil || *it.Pain < safety.SevereAt || p.Ladder.Purpose == catalogue.ForRelease {
			continue
		}
		n := p.Ladder.At(it.Notch)
		side := it.Side
		if n.Together() {
			side = body.Both
		}
		c.severe(max(l.On, c.Today-1), side, "", n.Tissues, true)
	}
}

// severeMorning: first steps of 8 or more, or pain at rest of 5 or more.
func (c *course) severeMorning(m Morning) {
	if m.severe() {
		c.severe(m.On, m.where(), m.Zone, m.tissues(), true)
	}
}

// severeRun: pain of 8 or more on a run.
func (c *course) severeRun(r Run) {
	if r.Removed || r.Pain == nil || *r.Pain < safety.SevereAt {
		return
	}
	tissues := FootTissues
	if r.Zone != "" {
		tissues = r.Zone.Tissues()
	}
	side := r.Side
	if side == "" {
		side = body.Both
	}
	c.severe(r.On, side, r.Zone, tissues, true)
}

// stuck raises F-STUCK where the plan does not help; only a clearance opens
// progress again.
func (c *course) stuck() {
	if len(c.Logs) == 0 && len(c.Flares()) == 0 {
		return
	}
	in := adjust.StuckInput{Today: c.Today, BlockStart: c.rec.Block.Start, Held: true}
	if len(c.Visits) > 0 {
		in.Complaints = c.Visits[0].Complaints
		in.Since = c.complaintSince()
	}
	in.Mornings = c.readings(nil, body.Both).mornings
	for _, f := range c.State.Flares {
		if !slices.Contains(in.Flares, f.Since) {
			in.Flares = append(in.Flares, f.Since)
		}
	}
	for _, d := range c.decisions {
		if d.D.Verdict == adjust.Up && d.State == Accepted && int(c.Today-d.At.On) <= 14 {
			in.Held = false
		}
	}
	for _, cl := range c.Clearances {
		if cl.Flag == adjust.Stuck && cl.On <= c.Today {
			in.Cleared = max(in.Cleared, cl.On)
		}
	}
	why, stuck := adjust.IsStuck(in)
	if !stuck && c.stuckFlare() && !slices.ContainsFunc(c.State.Flares, func(f Flare) bool { return f.Stands() && f.Since <= in.Cleared }) {
		why, stuck = adjust.StuckFlare, true
	}
	if !stuck || slices.ContainsFunc(c.Raised, func(s Raised) bool { return s.Flag == adjust.Stuck && s.Since > in.Cleared }) {
		return
	}
	f := safety.Standing{Flag: adjust.Stuck, Level: safety.Refer, Since: c.Today, ProgressOnly: true}
	c.allFlags = nil
	c.Raised = append(c.Raised, Raised{Arrival: Arrival{Seq: c.State.Seq}, Standing: f})
	c.now = surroundings{}
	c.tell(Change{Kind: FlagRaised, Flag: f, Why: why})
}

// complaintSince is the first visit of the oldest complaint that stands: across
// blocks, not from a block's start.
func (b *Book) complaintSince() day.Date {
	oldest := b.Today
	for _, c := range b.Visits[0].Complaints {
		for _, v := range b.Visits {
			if slices.ContainsFunc(v.Complaints, func(o screening.Complaint) bool { return o.Zone == c.Zone && o.Side == c.Side }) {
				oldest = min(oldest, v.On)
			}
		}
	}
	return oldest
}

// startFrom is where a ladder begins by a visit's own readings.
func (b *Book) startFrom(p Prescription, v Visit) int {
	return planning.StartingNotch(p.Ladder, planning.StartEvidence{On: b.Today, Person: b.rec.Runner.Person, Results: v.Results}, p.Ladder.Len()).Notch
}

func (b *Book) kindOf(on day.Date) planning.WeekKind {
	return planning.KindOf(b.rec.Block.Start, b.rec.Block.Plan.Wishes.Race, on)
}
