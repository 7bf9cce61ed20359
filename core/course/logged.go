package course

import (
	"slices"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
)

// logged decides every ladder of a session; what was proposed after earlier ones
// and not answered lapses.
func (c *course) logged(l Log) {
	for _, p := range c.inOrder() {
		of := []body.Side{}
		for _, it := range l.Items {
			if it.Prescription == p.ID && !slices.Contains(of, it.Side) {
				of = append(of, it.Side)
			}
		}
		if len(of) == 0 {
			continue
		}
		sides := of
		if len(of) == 2 && c.sameWork(p, l) {
			sides = []body.Side{body.Both}
		}
		slices.Sort(sides)
		for _, side := range sides {
			c.session(p, side, l)
		}
	}
}

// logOf is the log that an arrival puts right or takes back.
func (c *course) logOf(e event) (Log, bool) {
	if e.log == nil {
		return Log{}, false
	}
	i := slices.IndexFunc(c.Logs, func(l Log) bool { return l.ID == e.log.ID })
	if i < 0 {
		return Log{}, e.log.Removed
	}
	return c.Logs[i], true
}

// relogged looks again at what a session decided after it was put right or taken
// back: less load follows at once, more only as a proposal. What stood on a session
// that is no more falls; nothing rises by that.
func (c *course) relogged(was, now Log) {
	r := adjust.Reading{Name: "session", On: now.On, Value: 0}
	fresh := Log{Arrival: now.Arrival, ID: now.ID, On: now.On}
	for _, p := range c.inOrder() {
		for i := range c.decisions {
			d := c.decisions[i]
			if d.Prescription != p.ID || d.Kind != OfSession || d.Log != now.ID || !d.Stands() {
				continue
			}
			gone := slices.ContainsFunc(d.Sides(), func(s body.Side) bool {
				return !slices.ContainsFunc(now.Items, func(it Item) bool { return it.Prescription == p.ID && it.Side == s })
			})
			switch {
			case gone:
				c.put(&d, Superseded, Turn{Why: ByLate, Reading: &r})
				for _, s := range d.Sides() {
					if peg := c.peg(p.ID, s); d.D.Verdict == adjust.Up && peg.By == d.Key {
						c.lower(peg, d.D.From, d.Key)
					}
				}
			case d.Final || d.State != Waiting:
				c.again(d, p, r)
			default:
				c.make(&d, p, min(c.Today, d.Session+1))
				if d.cut() {
					c.put(&d, Applied, Turn{Why: ByLate, Reading: &r})
					c.apply(d, p)
				} else {
					c.keep(d)
				}
			}
		}
		for _, it := range now.Items {
			if it.Prescription == p.ID && !slices.ContainsFunc(was.Items, func(o Item) bool { return o.Prescription == p.ID && o.Side == it.Side }) {
				fresh.Items = append(fresh.Items, it)
			}
		}
	}
	if len(fresh.Items) > 0 {
		c.logged(fresh)
	}
	c.lateDay(was.On, was.On, r)
	if now.On != was.On {
		c.lateDay(now.On, now.On, r)
	}
}

// sameWork reports one two-legged notch on both sides of a log.
func (c *course) sameWork(p Prescription, l Log) bool {
	var notch []int
	for _, it := range l.Items {
		if it.Prescription == p.ID {
			notch = append(notch, it.Notch)
		}
	}
	return len(notch) == 2 && notch[0] == notch[1] && p.Ladder.At(notch[0]).Together()
}

func (c *course) session(p Prescription, side body.Side, l Log) {
	newest := true
	for _, s := range sidesOf(side) {
		newest = newest && c.last(Seat{p.ID, s}).log == l.ID
	}
	if newest {
		c.lapse(p, side, BySession, func(d Decision) bool { return d.Kind == OfSession && d.Log != l.ID || d.Kind == OfGap })
		// What waited for a morning that now can't matter is final as it is.
		c.finalize(func(d Decision) bool { return d.Prescription == p.ID && d.Log != l.ID && overlaps(d.Side, side) }, ByNoon)
	}
	on := l.On
	if c.Today > l.On {
		on = min(c.Today, l.On+1)
	}
	d := &Decision{Prescription: p.ID, Side: side, Kind: OfSession, Log: l.ID, Session: l.On}
	c.make(d, p, on)
	d.Key = c.key(p.ID, side, OfSession, l.ID)
	waits := c.waits(l.On)
	d.Final = !waits
	switch {
	case !newest:
		// A session told late takes load away like any other, and gives none.
		d.Final = true
		if d.D.Verdict == adjust.Up {
			d.D.Verdict, d.D.To, d.D.Row = adjust.Hold, d.D.From, 11
		}
		c.put(d, Applied, Turn{Why: ByLog})
		c.apply(*d, p)
		c.lateDay(l.On, l.On, adjust.Reading{Name: "days", On: l.On})
	case d.cut():
		c.put(d, Applied, Turn{Why: ByLog})
		c.apply(*d, p)
	case waits:
		c.put(d, Waiting, Turn{Why: ByLog})
	default:
		c.conclude(d, p, ByLog)
	}
}

func overlaps(a, b body.Side) bool { return a == b || a == body.Both || b == body.Both }

// waits reports whether the next morning of a session can still arrive.
func (c *course) waits(on day.Date) bool {
	return c.morning(on+1) == nil && adjust.MorningMayCome(on, c.Today, c.Hour)
}

// conclude gives a decision whose morning is known, or missing, its state.
func (c *course) conclude(d *Decision, p Prescription, why TurnWhy) {
	d.Final = true
	switch {
	case d.D.Verdict == adjust.Up && c.halted(p, d.Side):
		d.D = tooLate(d.D)
		c.put(d, Applied, Turn{Why: why})
	case d.D.Verdict == adjust.Up && c.rec.Runner.AutoProgress && !d.Remade && c.standsAt(p, d.Side, d.D.From) && c.holdsToday(p, *d, d.D.To).ok():
		c.remember(d)
		c.put(d, Accepted, Turn{Why: BySetting})
		c.rise(*d)
	case d.D.Verdict == adjust.Up:
		c.put(d, Proposed, Turn{Why: why})
	default:
		c.put(d, Applied, Turn{Why: why})
		c.apply(*d, p)
	}
}

func (c *course) halted(p Prescription, side body.Side) bool {
	return slices.ContainsFunc(sidesOf(side), func(s body.Side) bool { return c.peg(p.ID, s).Halt != nil })
}

// finalize concludes the decisions that waited for their morning.
func (c *course) finalize(which func(Decision) bool, why TurnWhy) {
	for _, p := range c.inOrder() {
		for i := range c.decisions {
			d := c.decisions[i]
			if d.Prescription != p.ID || d.Kind != OfSession || d.Final || !d.Stands() || !which(d) {
				continue
			}
			c.concludeAgain(d, p, why)
		}
	}
}

// concludeAgain makes a decision on its own morning: nothing it took away comes
// back, more may follow.
func (c *course) concludeAgain(d Decision, p Prescription, why TurnWhy) {
	c.fresh[d.Key] = true
	was := d
	c.make(&d, p, min(c.Today, d.Session+1))
	switch {
	case was.State == Waiting:
		c.conclude(&d, p, why)
	case was.State == Overridden:
		if !d.cut() {
			was.Final = true
			c.keep(was)
			return
		}
		c.replace(was, d, p, ByOwnMorning, nil)
	default: // load was taken away on the day itself
		d.Final = true
		if d.D.Harshness() < was.D.Harshness() {
			d.D, d.Rows = was.D, was.Rows
		}
		c.put(&d, was.State, Turn{Why: why})
		c.apply(d, p)
	}
}

// keep stores a decision whose state does not change.
func (c *course) keep(d Decision) {
	c.decisions[c.byKey[d.Key]] = d
	c.tell(Change{Kind: Turned, Decision: d})
}

// make fills in what the table says of a decision's session, with the baselines
// and surroundings it was first made with, where there are any.
func (c *course) make(d *Decision, p Prescription, on day.Date) {
	var out adjust.Decision
	for i, s := range sidesOf(d.Side) {
		h := c.history(p, s, d.Log)
		if f, ok := d.Frozen.of(s); ok && d.Final {
			h.Frozen = &f
		}
		g, known := d.Given.of(s)
		if !known || !d.Final {
			g = c.given(p, s)
			d.Given.set(s, g)
		}
		x := Input{h, c.context(p, s, h, g, on, d.Session)}
		d.Inputs.set(s, x)
		y := adjust.Decide(x.History, x.Context)
		d.Rows.set(s, y.Row)
		d.Frozen.set(s, y.Frozen)
		if i == 0 {
			out = y
		} else {
			out = merge(out, y)
		}
	}
	out.Raises = nil // flags are raised by the readings themselves
	if out.Verdict == adjust.Stop && adjust.IsQuietHold(p.Ladder) && c.holdsAreQuiet(p, d.Side) && !slices.ContainsFunc(out.Reasons, func(r adjust.Reason) bool { return r.Rule != adjust.RuleThreeMornings }) {
		out.Verdict, out.To = adjust.Hold, out.From // the flare itself says whether it goes on
	}
	d.D = out
}

// given is what stands around a side now.
func (c *course) given(p Prescription, side body.Side) Given {
	peg := c.State.Peg(Seat{p.ID, side})
	g := Given{Peg: peg.Notch, LastUp: peg.LastUp, LastBack: peg.LastBack, Fresh: peg.Fresh, Ups: c.upsThisWeek(p.ID)}
	if c.last(Seat{p.ID, side.Other()}) != nil {
		n, ok := c.stood[Seat{p.ID, side.Other()}]
		if !ok {
			n = c.State.Peg(Seat{p.ID, side.Other()}).Notch
		}
		g.Other = &n
	}
	if w := c.State.Seats[c.seats[Seat{p.ID, side}]].Week; w != nil && w.Verdict != adjust.WeekFree && w.Monday+14 > c.Today {
		g.Week = w.Reason
	}
	return g
}

// upsThisWeek counts the other ladders moved up in this ISO week.
func (b *Book) upsThisWeek(except string) int {
	up := map[string]bool{}
	for _, s := range b.State.Seats {
		if s.Prescription != except && s.Peg.LastUp != nil && *s.Peg.LastUp >= b.Today.Monday() {
			up[s.Prescription] = true
		}
	}
	return len(up)
}

// context is what surrounds a decision on a date; runs count up to another.
func (c *course) context(p Prescription, side body.Side, h adjust.History, g Given, on, runsTo day.Date) adjust.Context {
	last := h.Sessions[len(h.Sessions)-1]
	n := p.Ladder.At(last.Notch)
	x := adjust.Context{
		Today: on, Side: side, Ladder: p.Ladder, Notch: last.Notch, Peg: g.Peg, OtherNotch: g.Other, StartingNotch: p.Start, Ceiling: c.Ceiling(p),
		Flags: c.Flags(), Gates: c.Gates(), LastUp: g.LastUp, LastBack: g.LastBack, FreshFrom: g.Fresh, UpsThisWeek: g.Ups, WeekHold: g.Week,
		BlockStart: c.rec.Block.Start, Deload: c.kindOf(on).Holds(), Illness: c.Illness(), PoorSleep: c.poorSleep(on), MildIllness: c.mildIll(on),
		LoadEarly: c.school().Is(planning.AskSoleTreatment) == planning.SoleTreatmentLoadEarly,
	}
	if n.Together() {
		x.Side = body.Both
	}
	if c.now.running == nil {
		c.now.running = map[day.Date]load.Running{}
	}
	r, ok := c.now.running[on]
	if !ok {
		r = c.Running(on)
		c.now.running[on] = r
	}
	x.Running = r.Class
	x.ExposureOver = c.exposureOver(on)
	x.BoneCleared = slices.ContainsFunc(c.Clearances, func(cl safety.Clearance) bool { return strings.HasPrefix(string(cl.Flag), bone) && cl.On <= on })
	from := runsTo - 7
	if k := len(h.Sessions); k > 1 {
		from = max(from, h.Sessions[k-2].On+1)
	}
	if len(p.Ladder.Tissues) > 0 {
		if run, ok := load.PainOn(c.Runs, from, runsTo, side, p.Ladder.Tissues); ok {
			x.RunPain = &adjust.Reading{Name: "run", On: run.On, Value: float64(*run.Pain)}
		}
		for _, run := range c.Runs {
			if run.On >= from && run.On <= runsTo && run.Pain == nil && run.Metres > 0 && (x.RunUnsaid == nil || run.On > *x.RunUnsaid) {
				d := run.On
				x.RunUnsaid = &d
			}
		}
		x.RestAsked = slices.ContainsFunc(h.Rests, func(r adjust.Rest) bool { return r.On < last.On && int(last.On-r.On) <= restAskedDays })
	}
	for _, f := range c.State.Flares {
		if f.Stands() {
			x.Flares = append(x.Flares, f.adjust())
		}
	}
	return x
}

// restAskedDays: pain at rest counts as asked where it was told in so many days.
const restAskedDays = 14

// merge puts the two sides of work on two legs together: the harsher dose is done,
// the smaller row names a tie, and the reasons of both are kept.
func merge(l, r adjust.Decision) adjust.Decision {
	d, o := l, r
	if r.Harshness() > l.Harshness() || r.Harshness() == l.Harshness() && r.Row < l.Row {
		d, o = r, l
	}
	d.Reasons = slices.Clone(d.Reasons)
	for _, x := range o.Reasons {
		weak := x.Rule == adjust.RuleNotYet || x.Rule == adjust.RuleClean
		if !weak && !slices.ContainsFunc(d.Reasons, func(y adjust.Reason) bool {
			return x.Rule == y.Rule && slices.Equal(x.Readings, y.Readings) && x.Flag == y.Flag
		}) {
			d.Reasons = append(d.Reasons, x)
		}
	}
	d.ForUp = slices.Clone(d.ForUp)
	for i, n := range d.ForUp {
		for _, m := range o.ForUp {
			if m.ID == n.ID && n.Met && !m.Met {
				d.ForUp[i] = m
			}
		}
	}
	for _, m := range o.ForUp {
		if !m.Met && !slices.ContainsFunc(d.ForUp, func(n adjust.Condition) bool { return n.ID == m.ID }) {
			d.ForUp = append(d.ForUp, m)
		}
	}
	d.NoSession = d.NoSession || o.NoSession
	d.CutSets = d.CutSets || o.CutSets
	d.AskBone = d.AskBone || o.AskBone
	if o.RepCap > 0 && (d.RepCap == 0 || o.RepCap < d.RepCap) {
		d.RepCap = o.RepCap
	}
	d.Baseline = min(d.Baseline, o.Baseline)
	return d
}

// --- pegs ---
