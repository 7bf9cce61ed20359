package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/stats"
	"notchback/core/transition"
)

// Flare is row 2 on one side: who began it, what shares it, and the usual reading
// by which its mornings are judged, frozen on the day it fired.
type Flare struct {
	ID      int           `json:"id"`
	Side    body.Side     `json:"side"`
	Tissues []body.Tissue `json:"tissues"` // what the ladders that fired load
	Sore    []body.Tissue `json:"sore"`    // of them those that hurt, as far as the readings say where
	Ladder  string        `json:"ladder"`  // the one that began it
	Name    string        `json:"name"`
	Since   day.Date      `json:"since"`
	Last    day.Date      `json:"last"` // the newest reading that fired it; quiet mornings count after it
	B       float64       `json:"b"`
	Rule    adjust.RuleID `json:"rule"`
	Ended   *day.Date     `json:"ended,omitempty"`
}

// Stands reports whether a flare is not over.
func (f Flare) Stands() bool { return f.Ended == nil }

// adjust returns the flare as the table sees it.
func (f Flare) adjust() adjust.Flare {
	return adjust.Flare{Ladder: f.Ladder, Name: f.Name, Since: f.Since, Side: f.Side, Tissues: f.Tissues, Sore: f.Sore}
}

// touches reports whether the flare shares what a notch of a side loads. Work on
// two legs counts for both.
func (f Flare) touches(n catalogue.Notch, side body.Side) bool {
	return (f.Side == side || n.Together()) && loadsTissue(n, f.Tissues)
}

// FlareCloses reports whether a flare closes a ladder's notch on a side: all that
// loads its tissue but the first notch of the quiet holds, where they may go on.
func (b *Book) FlareCloses(f Flare, l catalogue.Ladder, notch int, side body.Side) bool {
	return f.touches(l.At(notch), side) && !(adjust.IsQuietHold(l) && notch == 1 && adjust.QuietHoldsIn(f.Sore))
}

// Flares are those that stand.
func (b *Book) Flares() []Flare {
	out := []Flare{}
	for _, f := range b.State.Flares {
		if f.Stands() {
			out = append(out, f)
		}
	}
	return out
}

// rampFlares are all flares of the block as the ramp sees them.
func (b *Book) rampFlares() []transition.Flare {
	out := []transition.Flare{}
	for _, f := range b.State.Flares {
		if slices.ContainsFunc(out, func(x transition.Flare) bool { return x.Since == f.Since }) {
			continue
		}
		out = append(out, transition.Flare{Since: f.Since, Until: f.Ended})
	}
	slices.SortFunc(out, func(x, y transition.Flare) int { return int(x.Since - y.Since) })
	return out
}

// quiet is the run of quiet mornings behind a flare, by its own usual reading.
func (b *Book) quiet(f Flare) []adjust.Reading {
	return b.Readings(f.Tissues, f.Side).QuietRun(f.Last, b.Today, f.B)
}

// fires looks at one side of a prescription for three bad mornings running, by
// the usual reading of its newest decision.
func (b *Book) fires(p Prescription, side body.Side) (run []adjust.Reading, usual float64) {
	at := Seat{p.ID, side}
	peg := b.State.Peg(at)
	n := p.Ladder.At(peg.Notch)
	if len(n.Tissues) == 0 || peg.Halt != nil && peg.Halt.by(2) {
		return nil, 0
	}
	s := b.readings(p.Ladder.Tissues, side)
	if len(s.mornings) < adjust.QuietMornings-1 {
		return nil, 0
	}
	h := adjust.History{Mornings: s.mornings, B0: s.b0}
	if last := b.last(at); last != nil {
		if d, ok := b.decided(p.ID, side, last.log); ok && d.Final {
			usual = d.frozenOf(side).B
		} else {
			usual = b.history(p, side, "").Baseline(last.On)
		}
	} else {
		usual = h.Baseline(b.Today - adjust.QuietMornings)
	}
	return h.BadMornings(usual, b.Today), usual
}

// baselineMost: no baseline counts as more, so that no morning of 6 or 7 is quiet.
const baselineMost = 4.0

// beginFlare starts a flare on a side, or widens one that stands and shares a
// tissue. It reports whether anything changed.
func (c *course) beginFlare(p Prescription, side body.Side, tissues []body.Tissue, usual float64, rule adjust.RuleID, last day.Date) {
	for i := range c.State.Flares {
		f := &c.State.Flares[i]
		if !f.Stands() || f.Side != side || !slices.ContainsFunc(tissues, func(t body.Tissue) bool { return slices.Contains(f.Tissues, t) }) {
			continue
		}
		f.Last, f.B = max(f.Last, last), min(f.B, usual)
		f.Tissues, f.Sore = union(f.Tissues, tissues), union(f.Sore, c.sore(tissues, side))
		return
	}
	f := Flare{ID: len(c.State.Flares) + 1, Side: side, Tissues: slices.Clone(tissues), Sore: c.sore(tissues, side), Ladder: p.Ladder.ID, Name: p.Ladder.Name, Since: c.Today, Last: last, B: usual, Rule: rule}
	c.State.Flares = append(c.State.Flares, f)
	c.now = surroundings{}
	c.tell(Change{Kind: FlareBegan, Flare: f})
}

func union(a, b []body.Tissue) []body.Tissue {
	out := slices.Clone(a)
	for _, t := range b {
		if !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return out
}

// sore are those of the tissues that the newest morning of the side names; all
// of them where it does not say where it hurts.
func (b *Book) sore(tissues []body.Tissue, side body.Side) []body.Tissue {
	newest := day.Date(-1 << 30)
	for _, m := range b.Mornings {
		if m.FirstStep != nil && shares(m, tissues, side) {
			newest = max(newest, m.On)
		}
	}
	var out []body.Tissue
	worst := body.Pain(-1)
	for _, m := range b.Mornings {
		if m.On != newest || m.FirstStep == nil || !shares(m, tissues, side) || *m.FirstStep < worst {
			continue
		}
		if *m.FirstStep > worst {
			worst, out = *m.FirstStep, nil
		}
		if m.Zone == "" {
			return slices.Clone(tissues)
		}
		for _, t := range m.Zone.Tissues() {
			if slices.Contains(tissues, t) {
				out = union(out, []body.Tissue{t})
			}
		}
	}
	if len(out) == 0 {
		return slices.Clone(tissues)
	}
	return out
}

// endFlares ends those with three known quiet mornings running: the same day for
// every ladder they stopped.
func (c *course) endFlares() {
	for i := range c.State.Flares {
		f := &c.State.Flares[i]
		if !f.Stands() || len(f.Tissues) == 0 && c.Today <= f.Last || len(c.quiet(*f)) < adjust.QuietMornings {
			continue
		}
		on := c.Today
		f.Ended = &on
		c.now = surroundings{}
		c.tell(Change{Kind: FlareEnded, Flare: *f})
	}
}

// looksForFlares begins what the mornings say, on every side apart.
func (c *course) looksForFlares() {
	if c.rec.Block == nil {
		return
	}
	for _, p := range c.inOrder() {
		for _, side := range body.Sides {
			run, usual := c.fires(p, side)
			if len(run) == 0 || c.flareOf(p, side) != nil {
				continue
			}
			c.beginFlare(p, side, p.Ladder.At(c.State.Peg(Seat{p.ID, side}).Notch).Tissues, usual, adjust.RuleThreeMornings, run[len(run)-1].On)
		}
	}
}

// flareOf is the standing flare that covers all a side's notch loads.
func (b *Book) flareOf(p Prescription, side body.Side) *Flare {
	n := p.Ladder.At(b.State.Peg(Seat{p.ID, side}).Notch)
	for i := range b.State.Flares {
		f := &b.State.Flares[i]
		if f.Stands() && f.Side == side && !slices.ContainsFunc(n.Tissues, func(t body.Tissue) bool { return !slices.Contains(f.Tissues, t) }) {
			return f
		}
	}
	return nil
}

// Numbers of the way out of a flare that does not end.
const flareStuckDays = 14

// stuckFlare reports a flare of 14 days without its three quiet mornings.
func (b *Book) stuckFlare() bool {
	return slices.ContainsFunc(b.State.Flares, func(f Flare) bool { return f.Stands() && int(b.Today-f.Since) >= flareStuckDays })
}

// clearedFlares: a clinician's clearance of a plan that does not help sets the
// usual reading by which quiet is read from that day: the median of the seven
// mornings up to it.
func (c *course) clearedFlares(cl safety.Clearance) {
	if cl.Flag != adjust.Stuck {
		return
	}
	for i := range c.State.Flares {
		f := &c.State.Flares[i]
		if !f.Stands() {
			continue
		}
		var week []float64
		for _, m := range c.readings(f.Tissues, f.Side).mornings {
			if m.On <= cl.On && int(cl.On-m.On) < 7 {
				week = append(week, float64(m.FirstStep))
			}
		}
		if med, ok := stats.Median(week); ok {
			f.B = max(f.B, min(med, baselineMost))
		}
		f.Last = max(f.Last, cl.On-1)
	}
}
