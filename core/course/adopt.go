package course

import (
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
)

// OldPeg is a peg as an older edition kept it.
type OldPeg struct {
	Seat
	Notch   int
	Halted  bool
	HaltRow adjust.Row
	HaltOn  day.Date
	LastUp  *day.Date
}

// Adopt takes over a block that an older edition has led: its pegs stay where
// they stand, its decisions count as they are, its stops by row 2 become the
// flares they were. Nothing is decided anew by it.
func Adopt(r *Record, pegs []OldPeg) {
	b := newBook(r)
	for _, e := range r.events() {
		b.take(e)
	}
	logs := map[string]day.Date{}
	for _, l := range r.Logs {
		logs[l.ID] = l.On
	}
	for i := range r.Decisions {
		d := &r.Decisions[i]
		if on, ok := logs[d.Log]; ok {
			d.Session = on
		}
		for _, s := range d.Sides() {
			d.Rows.set(s, d.D.Row)
			f := d.D.Frozen
			if f == (adjust.Frozen{}) {
				f.B = min(d.D.Baseline, baselineMost)
			}
			d.Frozen.set(s, f)
		}
	}
	for _, o := range pegs {
		p, ok := b.Prescription(o.Prescription)
		if !ok {
			continue
		}
		peg := Peg{Notch: o.Notch, LastUp: o.LastUp}
		by := newestKey(r.Decisions, o.Seat)
		peg.By = by
		for _, d := range r.Decisions {
			if d.Prescription == o.Prescription && overlaps(d.Side, o.Side) && d.Stands() && d.D.Verdict == adjust.Back && (peg.LastBack == nil || d.At.On > *peg.LastBack) {
				on := d.At.On
				peg.LastBack = &on
			}
		}
		if o.Halted {
			s := b.readings(p.Ladder.Tissues, o.Side)
			usual := adjust.History{Mornings: s.mornings, B0: s.b0}.Baseline(o.HaltOn)
			h := Halt{Row: o.HaltRow, On: o.HaltOn, Since: o.HaltOn, Notch: o.Notch, B: usual, By: by}
			if n := p.Ladder.At(o.Notch); o.HaltRow == 2 && len(n.Tissues) > 0 {
				h.Flares = []int{adoptFlare(&r.State, p, o, n.Tissues, usual)}
			}
			if o.HaltRow == 1 {
				for _, d := range r.Decisions {
					if d.Key == by && len(d.D.Reasons) > 0 {
						h.Flag = d.D.Reasons[0].Flag
					}
				}
			}
			peg.Halt = &h
		}
		r.State.Seats = append(r.State.Seats, SeatState{Prescription: o.Prescription, Side: o.Side, Peg: peg})
	}
}

func newestKey(list []Decision, at Seat) string {
	for i := len(list) - 1; i >= 0; i-- {
		if d := list[i]; d.Prescription == at.Prescription && overlaps(d.Side, at.Side) && d.Stands() {
			return d.Key
		}
	}
	return ""
}

// adoptFlare makes or joins the flare of a stop by row 2.
func adoptFlare(s *State, p Prescription, o OldPeg, tissues []body.Tissue, usual float64) int {
	for i := range s.Flares {
		f := &s.Flares[i]
		if f.Side == o.Side && slices.ContainsFunc(tissues, func(t body.Tissue) bool { return slices.Contains(f.Tissues, t) }) {
			f.Tissues, f.Sore = union(f.Tissues, tissues), union(f.Sore, tissues)
			f.Since, f.Last, f.B = min(f.Since, o.HaltOn), max(f.Last, o.HaltOn), min(f.B, usual)
			return f.ID
		}
	}
	s.Flares = append(s.Flares, Flare{ID: len(s.Flares) + 1, Side: o.Side, Tissues: slices.Clone(tissues), Sore: slices.Clone(tissues), Ladder: p.Ladder.ID, Name: p.Ladder.Name,
		Since: o.HaltOn, Last: o.HaltOn, B: usual, Rule: adjust.RuleThreeMornings})
	return len(s.Flares)
}
