package course

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
)

// course is a book that is being read on: what it decides is collected.
type course struct {
	*Book
	changes []Change
	order   []Prescription
	fresh   map[string]bool // decisions made by this very arrival
	stood   map[Seat]int    // the pegs before this arrival, so that no side sees the other move first
}

// Decide returns what follows from everything that arrived since the engine last
// looked, and from the noons that passed, up to a moment. It looks at arrivals in
// their order, each as of its own moment, so that deciding day by day and at once
// come to the same. It changes nothing; Record.With lays the changes over the
// record. Without a block nothing is decided. A context that ends stops it; what
// was decided until then is dropped.
func Decide(ctx context.Context, r Record, now Moment) ([]Change, error) {
	if r.Block == nil {
		return nil, nil
	}
	c := &course{Book: newBook(&r)}
	var news []event
	for _, e := range r.events() {
		if e.Seq <= r.State.Seq {
			c.take(e)
			continue
		}
		news = append(news, e)
	}
	if c.State.Noon == 0 {
		c.State.Noon = r.Block.Start - 1
	}
	for _, e := range news {
		if err := c.noonsTo(ctx, e.At); err != nil {
			return nil, err
		}
		c.arrive(e)
		c.State.Seq = max(c.State.Seq, e.Seq)
	}
	if err := c.noonsTo(ctx, now); err != nil {
		return nil, err
	}
	c.State.Engine = adjust.Version
	return append(c.changes, Change{Kind: Looked, At: now, State: c.State}), nil
}

// noonsTo looks at every noon up to a moment.
func (c *course) noonsTo(ctx context.Context, m Moment) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	last := m.On
	if m.Hour < noonHour {
		last--
	}
	for d := c.State.Noon + 1; d <= m.On; d++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		c.dawn(d)
		if d > last {
			break
		}
		c.at(Moment{d, noonHour})
		c.noon()
		c.State.Noon = d
	}
	c.at(m)
	return nil
}

// dawn stops what a clearance kept open until yesterday, before anybody trains.
func (c *course) dawn(d day.Date) {
	if slices.ContainsFunc(c.Clearances, func(x safety.Clearance) bool { return x.Until == d-1 }) {
		c.at(Moment{d, 0})
		c.remembers()
		c.flags()
	}
}

// noonHour is when a morning that was not reported counts as missing.
const noonHour = adjust.MorningHour

func (c *course) tell(ch Change) {
	ch.At = Moment{c.Today, c.Hour}
	c.changes = append(c.changes, ch)
}

// inOrder are the prescriptions as steps up are given.
func (c *course) inOrder() []Prescription {
	if c.order == nil {
		c.order = slices.Clone(c.rec.Block.Prescriptions)
		slices.SortStableFunc(c.order, func(x, y Prescription) int { return x.Rank - y.Rank })
	}
	return c.order
}

// arrive enters one arrival and decides what it decides.
func (c *course) arrive(e event) {
	was, again := c.logOf(e)
	c.take(e)
	c.remembers()
	switch {
	case again:
		c.severeSession(*e.log)
		c.relogged(was, *e.log)
	case e.log != nil:
		c.severeSession(*e.log)
		c.logged(*e.log)
	case e.morning != nil:
		c.severeMorning(*e.morning)
		c.morningCame(*e.morning)
	case e.run != nil:
		c.severeRun(*e.run)
		c.lateDay(e.run.On, e.run.On, adjust.Reading{Name: "run", On: e.run.On, Value: painOf(e.run.Pain)})
	case e.day != nil:
		c.lateDay(e.day.On, e.day.On, adjust.Reading{Name: "days", On: e.day.On})
	case e.clearance != nil:
		c.clearedFlares(e.clearance.Clearance)
	case e.answer != nil:
		c.answer(*e.answer)
	}
	c.settle()
}

// remembers keeps where the pegs stand before an arrival is decided.
func (c *course) remembers() {
	c.stood, c.fresh = map[Seat]int{}, map[string]bool{}
	for _, s := range c.State.Seats {
		c.stood[Seat{s.Prescription, s.Side}] = s.Peg.Notch
	}
}

func painOf(p *body.Pain) float64 {
	if p == nil {
		return 0
	}
	return float64(*p)
}

// noon finalizes what waited, looks at gaps and, on a Monday, at the week.
func (c *course) noon() {
	c.remembers()
	c.finalize(func(d Decision) bool { return d.Session+1 <= c.Today }, ByNoon)
	c.gaps()
	if c.Today == c.Today.Monday() {
		c.week()
	}
	c.stuck()
	c.settle()
}

// settle stops what must not go on and offers what may come back, until nothing
// follows any more.
func (c *course) settle() {
	c.flags()
	c.looksForFlares()
	c.endFlares()
	c.spread()
	c.waysBack()
}

// --- which decisions there are ---

func (b *Book) decided(prescription string, side body.Side, log string) (*Decision, bool) {
	i, ok := b.bySession[sessionKey{prescription, log, side}]
	if !ok {
		return nil, false
	}
	return &b.decisions[i], true
}

// newestOf is the standing decision of a side's newest session.
func (b *Book) newestOf(at Seat) (*Decision, bool) {
	last := b.last(at)
	if last == nil {
		return nil, false
	}
	return b.decided(at.Prescription, at.Side, last.log)
}

// seatsOf returns both as one where the newest session was one on two legs.
func (b *Book) seatsOf(p Prescription) []body.Side {
	l, r := b.last(Seat{p.ID, body.Left}), b.last(Seat{p.ID, body.Right})
	switch {
	case l == nil && r == nil:
		return nil
	case l == nil:
		return []body.Side{body.Right}
	case r == nil:
		return []body.Side{body.Left}
	case l.log == r.log && l.Notch == r.Notch && p.Ladder.At(l.Notch).Together():
		return []body.Side{body.Both}
	}
	return body.Sides[:]
}

// together reports pegs that stand on one two-legged notch.
func (b *Book) together(p Prescription) bool {
	l, r := b.State.Peg(Seat{p.ID, body.Left}), b.State.Peg(Seat{p.ID, body.Right})
	return l.Notch == r.Notch && p.Ladder.At(l.Notch).Together()
}

// standing are the sides as the pegs stand now.
func (b *Book) standing(p Prescription) []body.Side {
	if b.together(p) {
		return []body.Side{body.Both}
	}
	return body.Sides[:]
}

func sidesOf(side body.Side) []body.Side {
	if side == body.Both {
		return body.Sides[:]
	}
	return []body.Side{side}
}

func (c *course) peg(p string, side body.Side) *Peg {
	return &c.State.Seats[c.seats[Seat{p, side}]].Peg
}

// put stores a decision in a state, with the turn that led there.
func (c *course) put(d *Decision, state DecisionState, t Turn) {
	t.At, t.State = Moment{c.Today, c.Hour}, state
	if !MayFollow(d.State, state) && !(d.State == state && d.State != "") {
		panic(fmt.Sprintf("decision %s can't go from %q to %q", d.Key, d.State, state))
	}
	d.State = state
	d.Life = append(slices.Clone(d.Life), t)
	if d.cut() {
		c.now.phases, c.now.plan = nil, nil
	}
	if i, ok := c.byKey[d.Key]; ok {
		c.decisions[i] = *d
		c.index(i)
		c.tell(Change{Kind: Turned, Decision: *d})
		return
	}
	d.At = t.At
	d.Engine = adjust.Version
	c.decisions = append(c.decisions, *d)
	c.index(len(c.decisions) - 1)
	c.tell(Change{Kind: Made, Decision: *d})
}

// key names a decision; the same thing looked at again gets the next number.
func (c *course) key(p string, side body.Side, kind Kind, about string) string {
	prefix := strings.Join([]string{p, string(side), string(kind), about}, "|") + "|"
	n := 1
	for {
		k := fmt.Sprintf("%s%d", prefix, n)
		if _, ok := c.byKey[k]; !ok {
			return k
		}
		n++
	}
}

// --- sessions ---

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
		LoadEarly: c.school().Is("sole-treatment") == "load-early",
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

// gaps looks once at each length of a pause: one or two notches under the notch
// of the last session, or a stop. A cut that session's own readings made is not
// added.
func (c *course) gaps() {
	for _, p := range c.inOrder() {
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
				r := adjust.Reason{Rule: adjust.RuleFlag, Row: 1, Flag: k.Flag, Readings: []adjust.Reading{}, Source: k.Source}
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
			if run[0].Value <= usual+1 || c.steady(f) {
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
