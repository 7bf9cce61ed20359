package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/safety"
)

// spread stops everything that shares a tissue with a standing flare, the ladder
// that began it too; quiet holds at their first notch may go on.
func (c *course) spread() {
	for _, p := range c.inOrder() {
		for _, side := range c.standing(p) {
			peg := *c.peg(p.ID, sidesOf(side)[0])
			n := p.Ladder.At(peg.Notch)
			var by []Flare
			for _, f := range c.Flares() {
				if slices.ContainsFunc(sidesOf(side), func(s body.Side) bool { return f.touches(n, s) }) {
					by = append(by, f)
				}
			}
			if len(by) == 0 || !slices.ContainsFunc(sidesOf(side), func(s body.Side) bool { h := c.peg(p.ID, s).Halt; return h == nil || !h.by(2) }) {
				continue
			}
			c.stopForFlares(p, side, peg, n, by)
		}
	}
	for _, p := range c.inOrder() {
		for _, side := range body.Sides {
			c.holdByFlares(p, side)
		}
	}
}

// holdByFlares notes with a stop by row 2 every flare that stands for it.
func (c *course) holdByFlares(p Prescription, side body.Side) {
	peg := c.peg(p.ID, side)
	if peg.Halt == nil {
		return
	}
	list := peg.Halt.all()
	i := slices.IndexFunc(list, func(h Halt) bool { return h.Row == 2 })
	if i < 0 {
		return
	}
	for _, f := range c.Flares() {
		if slices.Contains(list[i].Flares, f.ID) || !f.touches(p.Ladder.At(peg.Notch), side) && !f.touches(p.Ladder.At(list[i].Notch), side) {
			continue
		}
		list[i].Flares = append(slices.Clone(list[i].Flares), f.ID)
	}
	h := list[0]
	h.Also = list[1:]
	peg.Halt = &h
}

func (c *course) stopForFlares(p Prescription, side body.Side, peg Peg, n catalogue.Notch, by []Flare) {
	d := &Decision{Prescription: p.ID, Side: side, Kind: OfFlare, Session: c.Today, Final: true}
	d.D = adjust.Decision{Verdict: adjust.Stop, Row: 2, From: peg.Notch, To: peg.Notch, Reasons: []adjust.Reason{}, ForUp: []adjust.Condition{}, NextLook: c.Today + adjust.QuietMornings}
	quiet := true
	for _, f := range by {
		r := adjust.Reason{Rule: adjust.RuleSharedFlare, Row: 2, Readings: []adjust.Reading{{Name: "days", On: f.Since, Value: float64(c.Today - f.Since)}}, Other: f.Name, Source: adjust.HouseSource}
		if run, usual := c.badRun(p, f); f.Ladder == p.Ladder.ID && len(run) > 0 {
			r = adjust.Reason{Rule: adjust.RuleThreeMornings, Row: 2, Readings: append(run, adjust.Reading{Name: "baseline", On: c.Today, Value: usual}), Source: adjust.HouseSource}
			if run[0].Value <= usual+body.QuietOver || c.steady(f) {
				r.Rule = adjust.RuleTooSore
			}
		}
		d.D.Reasons = append(d.D.Reasons, r)
		quiet = quiet && adjust.QuietHoldsIn(f.Sore)
		d.D.AskBone = d.D.AskBone || !adjust.QuietHoldsIn(f.Sore)
		for _, s := range sidesOf(side) {
			fr, ok := d.Frozen.of(s)
			if !ok || f.B < fr.B {
				d.Frozen.set(s, adjust.Frozen{B: f.B})
			}
		}
	}
	if quiet && adjust.IsQuietHold(p.Ladder) && c.holdsAreQuiet(p, side) {
		if peg.Notch == 1 {
			return
		}
		for i := range d.D.Reasons {
			d.D.Reasons[i].Rule = adjust.RuleQuietHolds
		}
		d.D.Verdict, d.D.To = adjust.Back, 1
	}
	// The notch it fired on: that of the session whose own mornings these are.
	if newest, ok := c.newestOf(Seat{p.ID, sidesOf(side)[0]}); ok && d.D.Verdict == adjust.Stop && newest.State == Applied && newest.D.Verdict == adjust.Back &&
		newest.D.Row == 3 && newest.Side == side && peg.By == newest.Key && c.inRun(*newest, by) {
		d.D.From, d.D.To = newest.D.From, newest.D.From
	}
	d.Key = c.key(p.ID, side, OfFlare, c.Today.String())
	c.put(d, Applied, Turn{Why: ByFlare})
	c.apply(*d, p)
}

// badRun is the run of bad mornings of a flare, by its own usual reading.
func (c *course) badRun(p Prescription, f Flare) ([]adjust.Reading, float64) {
	s := c.readings(p.Ladder.Tissues, f.Side)
	return adjust.History{Mornings: s.mornings}.BadMornings(f.B, c.Today), f.B
}

// steady reports first steps that have stood this high since the intake: too sore
// to load yet, rather than a flare.
func (c *course) steady(f Flare) bool {
	in := c.rec.Runner.IntakeFirstStep
	return in != nil && float64(*in) >= f.B+2
}

// inRun reports whether a decision's own next morning is one of those that fired
// a flare.
func (c *course) inRun(d Decision, by []Flare) bool {
	for _, f := range by {
		for _, m := range (adjust.History{Mornings: c.readings(f.Tissues, f.Side).mornings}).BadMornings(f.B, c.Today) {
			if m.On == d.Session+1 {
				return true
			}
		}
	}
	return false
}

// holdsAreQuiet reports quiet holds that hurt at 3 or less, or were not done yet.
func (c *course) holdsAreQuiet(p Prescription, side body.Side) bool {
	for _, s := range sidesOf(side) {
		if it := c.last(Seat{p.ID, s}); it != nil && (it.Pain == nil || *it.Pain > adjust.QuietHoldMost) {
			return false
		}
	}
	return true
}

// --- ways back ---

// waysBack offers a stopped side its way back when what stopped it is over, and
// takes an offer back when that is not so any more.
func (c *course) waysBack() {
	for _, p := range c.inOrder() {
		for _, side := range c.standing(p) {
			c.wayBack(p, side)
		}
	}
}

func (c *course) wayBack(p Prescription, side body.Side) {
	var open *Decision
	for i := range c.decisions {
		if d := &c.decisions[i]; d.Kind == WayBack && d.State == Proposed && d.Prescription == p.ID && overlaps(d.Side, side) {
			x := *d
			open = &x
		}
	}
	if open != nil && open.Side != side {
		c.put(open, Superseded, Turn{Why: ByStop})
		open = nil
	}
	to, why, turn, ok := c.mayReturn(p, side)
	switch {
	case !ok && open != nil:
		c.put(open, Superseded, Turn{Why: ByWorse})
	case !ok:
	case open != nil && open.D.To == to:
	default:
		if open != nil {
			c.put(open, Superseded, Turn{Why: ByWorse})
		}
		halt := c.firstHalt(p, side)
		d := &Decision{Prescription: p.ID, Side: side, Kind: WayBack, Session: c.Today, Final: true}
		d.D = adjust.Decision{Verdict: adjust.Back, Row: halt.Row, From: halt.Notch, To: to, Resume: true, Reasons: []adjust.Reason{why}, ForUp: []adjust.Condition{}, NextLook: c.Today + 1}
		d.D.Baseline = halt.B
		d.Key = c.key(p.ID, side, WayBack, halt.On.String())
		c.put(d, Proposed, Turn{Why: turn})
	}
}

// firstHalt is the most binding halt of a seat.
func (c *course) firstHalt(p Prescription, side body.Side) Halt {
	var out *Halt
	for _, s := range sidesOf(side) {
		if h := c.peg(p.ID, s).Halt; h != nil && (out == nil || h.Row < out.Row) {
			out = h
		}
	}
	if out == nil {
		return Halt{}
	}
	return *out
}

// mayReturn says where a stopped side may start again, and why; false while
// something still stops it.
func (c *course) mayReturn(p Prescription, side body.Side) (to int, why adjust.Reason, turn TurnWhy, ok bool) {
	to = p.Ladder.Len()
	any := false
	for _, s := range sidesOf(side) {
		h := c.peg(p.ID, s).Halt
		if h == nil {
			continue
		}
		any = true
		for _, one := range h.all() {
			n, r, t, fine := c.returns(p, s, one)
			if !fine {
				return 0, r, t, false
			}
			if n < to || why.Rule == "" {
				why, turn = r, t
			}
			to = min(to, n)
		}
	}
	if !any {
		return 0, why, turn, false
	}
	for _, s := range sidesOf(side) {
		to = min(to, max(1, c.peg(p.ID, s).Notch))
	}
	if n, _ := c.standsOn(p, to, side); n > 0 {
		to = n
	}
	if !c.freeOf(p, side, to).ok() {
		return 0, why, turn, false
	}
	return to, why, turn, true
}

// freeOf reports whether nothing stops a notch of a side today: no flag, no gate, no
// flare. What only pauses does not bar it.
func (c *course) freeOf(p Prescription, side body.Side, notch int) Barred {
	may := c.shut(p.Ladder, notch, side)
	for _, k := range append(c.shuts(may), may.By(planning.LockFlag)...) {
		switch {
		case k.Flag == adjust.FlareFlag:
			return Barred{Why: RefusedFlare}
		case k.Kind == planning.LockFlag:
			return Barred{Why: RefusedFlag, Flag: k.Flag}
		case k.Kind == planning.LockGate:
			return Barred{Why: RefusedGate, Gate: string(k.Gate)}
		default:
			return Barred{Why: RefusedHeld}
		}
	}
	return Barred{}
}

// returns is mayReturn of one side and its own halt.
func (c *course) returns(p Prescription, side body.Side, h Halt) (int, adjust.Reason, TurnWhy, bool) {
	why := adjust.Reason{Rule: adjust.RuleResume, Row: h.Row, Readings: []adjust.Reading{}, Source: adjust.HouseSource}
	switch h.Row {
	case 1:
		// Nothing closes it any more: freeOf asks.
		why.Rule = adjust.RuleCleared
		why.Flag = h.Flag
		return c.afterFlag(p, side, h), why, ByClearance, true
	case 4:
		why.Rule = adjust.RuleScreened
		start, ok := c.screenedSince(p, h)
		return start, why, ByVisit, ok
	}
	// A flare is read alike for all that it stopped: by its own mornings and its
	// own usual reading.
	quiet, flared, usual := true, false, h.B
	for _, f := range c.State.Flares {
		if h.Row != 2 || !slices.Contains(h.Flares, f.ID) {
			continue
		}
		run := c.quiet(f)
		flared, quiet, usual = true, quiet && len(run) >= adjust.QuietMornings, f.B
		why.Readings = append(run, adjust.Reading{Name: "baseline", On: f.Since, Value: f.B})
	}
	if !flared {
		run := c.Readings(p.Ladder.Tissues, side).QuietRun(h.Since, c.Today, h.B)
		quiet = len(run) >= adjust.QuietMornings
		why.Readings = append(run, adjust.Reading{Name: "baseline", On: h.On, Value: h.B})
	}
	if h.Week > 0 && len(c.Readings(p.Ladder.Tissues, side).QuietRun(h.Week, c.Today, usual)) < adjust.QuietMornings {
		quiet = false
	}
	return adjust.Lower(h.Notch), why, ByQuiet, quiet
}

// lowerAfter are the flags after which a ladder starts two notches lower; after
// the others the days since its last session say where.
var lowerAfter = []safety.FlagID{"F-BONE", "F-BONE-HIGH", "F-BONE-HIGH-WALK", "F-TEAR", "F-TEAR-SOLE", "F-WEAK", "F-ACH-OP", "F-ACH-OP-LATER", "F-SEVERE", "F-CLOT", "F-POP", "F-STEPS"}

func (c *course) afterFlag(p Prescription, side body.Side, h Halt) int {
	if slices.Contains(lowerAfter, h.Flag) {
		return adjust.Lower(h.Notch)
	}
	it := c.last(Seat{p.ID, side})
	if it == nil {
		return min(h.Notch, p.Start)
	}
	n, stop := adjust.Gap(int(c.Today - it.On))
	if stop {
		return adjust.GapStart(p.Start, h.Notch)
	}
	return max(1, h.Notch-n)
}

// screenedSince reports a screening after a stop by row 4 of what the ladder
// reads, and where it starts again. A ladder that reads no test starts at its
// first notch after any visit, or after its region's questions were answered.
func (c *course) screenedSince(p Prescription, h Halt) (int, bool) {
	test := p.Ladder.Start.Test
	for _, v := range c.Visits {
		if v.On <= h.On || !v.Finished {
			continue
		}
		if test == "" {
			return 1, true
		}
		for _, r := range v.Results {
			if string(r.Test) == test && (r.Left.Measured() || r.Right.Measured()) {
				start := c.startFrom(p, v)
				return adjust.GapStart(min(start, p.Start), h.Notch), true
			}
		}
	}
	if test == "" {
		for on, n := range c.Days {
			if on > h.On && n.Answers != nil && len(n.Answers.Yes) == 0 && len(n.Answers.None) > 0 {
				return 1, true
			}
		}
	}
	return 0, false
}
