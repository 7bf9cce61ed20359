package course

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
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
