package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/screening"
)

// Changed is a ladder that gave way to the next of its path, on a coach's word.
type Changed struct {
	From string
	To   string
	On   day.Date
}

// Wait is why a change that is due waits.
type Wait string

// The waits; empty where it may be made.
const (
	WaitNone   Wait = ""
	WaitWeek   Wait = "week"   // seven days since the last step up or back
	WaitBudget Wait = "budget" // two ladders went up this week
	WaitNew    Wait = "new"    // a loading ladder was added this week
	WaitLight  Wait = "light"  // a lighter, race or half week
	WaitSpike  Wait = "spike"  // running jumps
	WaitFlare  Wait = "flare"  // a flare stands
)

// Next proposes that a ladder gives way to the next of its path. It is a decision of
// its own kind: it always waits for the coach, counts as one of the week's two ups and
// as the week's one newly added loading ladder.
type Next struct {
	Prescription string
	From         string
	To           catalogue.Ladder
	Start        planning.Start
	Finding      string
	Why          planning.Exit
	Wait         Wait
}

// Nexts are the changes due in a running block, in the order of its ladders. Nothing
// is kept of them: what is closed or sore the day after is not proposed any more.
func (b *Book) Nexts(c catalogue.Catalogue) []Next {
	blk := b.rec.Block
	if blk == nil {
		return nil
	}
	e := b.PlanEvidence()
	ps := b.Phases()
	var here []string
	for _, p := range blk.Prescriptions {
		if !b.leftOut(p.Ladder.ID, b.Today) {
			here = append(here, p.Ladder.ID)
		}
	}
	var out []Next
	for _, p := range blk.Prescriptions {
		if p.Ladder.Part != nil || b.leftOut(p.Ladder.ID, b.Today) || p.Ladder.Purpose == catalogue.ForReturn || ByRamp(p.Ladder) {
			continue
		}
		for _, f := range b.workedFor(p.Ladder.ID) {
			why, due := b.exit(c, e, ps, p, f, here)
			if !due {
				continue
			}
			to, start, ok := planning.Follows(c, e, ps, f.Factor, p.Ladder.ID, why, here)
			if !ok || slices.ContainsFunc(out, func(n Next) bool { return n.To.ID == to.ID }) {
				continue
			}
			out = append(out, Next{Prescription: p.ID, From: p.Ladder.ID, To: to, Start: start, Finding: f.Name, Why: why, Wait: b.waits(p, to)})
			break
		}
	}
	return out
}

// workedFor are the findings, of any visit, that a ladder of the block was chosen for.
func (b *Book) workedFor(ladder string) []screening.Finding {
	i := slices.IndexFunc(b.rec.Block.Plan.Choices, func(c planning.Choice) bool { return c.Ladder == ladder })
	var names []string
	if i >= 0 {
		names = b.rec.Block.Plan.Choices[i].For
	}
	for _, x := range b.rec.Block.Changed {
		if x.To == ladder { // what came in by a change works on what the one before did
			for _, f := range b.workedFor(x.From) {
				names = append(names, f.Name)
			}
		}
	}
	var out []screening.Finding
	for _, v := range b.Visits {
		for _, f := range v.Findings {
			if v.Finished && slices.Contains(names, f.Name) && !slices.ContainsFunc(out, func(o screening.Finding) bool { return o.Factor == f.Factor }) {
				out = append(out, f)
			}
		}
	}
	return out
}

// exit says whether a ladder is done with for a finding, and why.
func (b *Book) exit(c catalogue.Catalogue, e planning.Evidence, ps []planning.RegionPhase, p Prescription, f screening.Finding, here []string) (planning.Exit, bool) {
	switch {
	case planning.OnCalm(f.Factor, p.Ladder.ID):
		return planning.ExitCalm, planning.CalmOver(c, e, ps, f.Factor)
	case b.topped(p):
		return planning.ExitTop, true
	case len(e.Findings) > 0 && !slices.ContainsFunc(e.Findings, func(x screening.Finding) bool { return x.Factor == f.Factor }) && b.measuredAgain(f):
		return planning.ExitAim, true
	}
	return "", false
}

// measuredAgain reports that the newest visit took every test a finding rests on: what
// is not known anew is not called ok.
func (b *Book) measuredAgain(f screening.Finding) bool {
	if len(f.Evidence) == 0 {
		return false
	}
	for _, v := range b.Visits {
		if !v.Finished {
			continue
		}
		for _, x := range f.Evidence {
			if x.Test != "" && !slices.ContainsFunc(v.Results, func(r screening.Result) bool { return r.Test == x.Test && (r.Left.Measured() || r.Right.Measured()) }) {
				return false
			}
		}
		return true
	}
	return false
}

// passing are the conditions that don't keep a ladder from being done with.
var passing = []adjust.ConditionID{adjust.NeedNextNotch, adjust.NeedBudget, adjust.NeedWeekSinceUp}

// topped reports both sides clean on the last notch: everything an up asks for but a
// next notch.
func (b *Book) topped(p Prescription) bool {
	for _, s := range body.Sides {
		peg := b.State.Peg(Seat{p.ID, s})
		if peg.Halt != nil || peg.Notch < p.Ladder.Len() {
			return false
		}
		d, ok := b.newestOf(Seat{p.ID, s})
		if !ok {
			if d, ok = b.newestOf(Seat{p.ID, body.Both}); !ok {
				return false
			}
		}
		if !d.Stands() || d.D.Verdict != adjust.Hold || d.D.From != p.Ladder.Len() || d.State == Waiting {
			return false
		}
		for _, n := range d.D.ForUp {
			if !n.Met && !slices.Contains(passing, n.ID) {
				return false
			}
		}
	}
	return true
}

// waits says what keeps a change from being made today.
func (b *Book) waits(p Prescription, to catalogue.Ladder) Wait {
	c := &course{Book: b}
	for _, s := range body.Sides {
		peg := b.State.Peg(Seat{p.ID, s})
		if c.within(peg.LastUp) || c.within(peg.LastBack) {
			return WaitWeek
		}
	}
	for _, f := range b.Flares() {
		if slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return slices.Contains(to.Tissues, t) }) {
			return WaitFlare
		}
	}
	blk := b.rec.Block
	if planning.KindOf(blk.Start, blk.Plan.Wishes.Race, b.Today).Holds() {
		return WaitLight
	}
	if b.upsThisWeek("") >= adjust.UpsAWeek {
		return WaitBudget
	}
	if len(to.Tissues) == 0 {
		return WaitNone
	}
	if b.Running(b.Today).Class == load.Spike {
		return WaitSpike
	}
	monday := b.Today.Monday()
	for _, q := range blk.Prescriptions {
		if q.Ladder.Part == nil && len(q.Ladder.Tissues) > 0 && blk.Start.Monday()+day.Date(7*(q.FromWeek-1)) == monday && monday != blk.Start.Monday() {
			return WaitNew
		}
	}
	return WaitNone
}
