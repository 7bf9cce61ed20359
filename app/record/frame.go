package record

import (
	"encoding/json"
	"errors"
	"slices"
	"time"

	"notchback/app"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// Frame is what a block's pages are made from.
type Frame struct {
	*Desk
	Block         store.Block
	Runner        store.Runner
	Dossier       *Dossier
	Book          *course.Book
	Start         day.Date
	Now           time.Time
	Today         day.Date
	Gates         []safety.GateState
	Prescriptions []store.Prescription
	Ladders       map[string]catalogue.Ladder // by prescription
	Pegs          map[string]map[body.Side]*store.Peg
	Items         []store.SessionItem
	Decisions     []store.Decision // those that stand
	Mornings      []adjust.Morning
	Flags         []safety.Standing
	B0            float64
	Plan          planning.Proposal
	Changes       []KeptChange
	Rev           int
	Cat           catalogue.Catalogue
	Layers        Layered
	Phases        []planning.RegionPhase
	g             *Gathered
	Illness       adjust.Illness
	running       load.Class
	Engine        int // the edition the practice lets work
	Path          *Path
	// derived once, when first asked for
	bounced []day.Date // dates of spring work
	does    map[seat]doing
	Phased  map[string]day.Date
}

// LadderOf returns a prescription's ladder as it was when it was made.
func LadderOf(p store.Prescription, layers Layered) (catalogue.Ladder, error) {
	if len(p.LadderData) > 0 {
		var l catalogue.Ladder
		err := json.Unmarshal(p.LadderData, &l)
		return l, err
	}
	l, ok := layers.Ladder(p.Ladder)
	if !ok {
		return l, errors.New("ladder " + p.Ladder + " is not in the catalogue")
	}
	return l, nil
}

func (f *Frame) Together(prescription string) bool {
	l, r := f.Pegs[prescription][body.Left], f.Pegs[prescription][body.Right]
	return l.Notch == r.Notch && f.Ladders[prescription].At(l.Notch).Together()
}

// NotchOn returns what a side is asked on a date and a note on it: the present
// notch with the coach's own dose, one set more on the weaker side of one-legged
// work, lighter in weeks that are, never more bounces than allowed.
func (f *Frame) NotchOn(p store.Prescription, side body.Side, on day.Date) (catalogue.Notch, string) {
	n, why := f.doseFor(p, side, on)
	note := ""
	if _, own := f.OwnDose(p.ID, f.Pegs[p.ID][side].Notch, on); own {
		note = "the coach's own dose"
	}
	switch why {
	case adjust.CutCramp:
		note = "fewer repetitions after the cramp"
	case adjust.CutSpike:
		note = "fewer sets while running jumps"
	case adjust.CutHalf:
		note = "half, after the illness"
	case adjust.CutCap:
		note = "cut to the contacts allowed a session"
	case adjust.CutGrowth:
		note = "a third less while growing fast or sore"
	}
	return n, note
}

// doseFor is the dose of notchOn with the last reason for which it is less than
// the notch's.
func (f *Frame) doseFor(p store.Prescription, side body.Side, on day.Date) (catalogue.Notch, adjust.Cut) {
	at := f.Asked(p, side, on)
	n := f.Ladders[p.ID].At(at)
	if d, ok := f.OwnDose(p.ID, at, on); ok {
		n.Dose = d
	}
	if string(side) == f.extraSet(p, on) && !n.Together() && !(on >= f.Today && f.Book.ExtraSetHurts(p.ID, side)) {
		n.Dose.Sets++
	}
	var why adjust.Cut
	cut := func(d catalogue.Dose, by adjust.Cut) {
		if d.Volume() < n.Dose.Volume() {
			why = by
		}
		n.Dose = d
	}
	cut(planning.DoseIn(n.Dose, planning.KindOf(f.Start, f.Plan.Wishes.Race, on)), adjust.CutDeload)
	if reps := adjust.RepCap(f.sessions(p.ID, side), f.Ladders[p.ID], at, on); reps > 0 && n.Dose.Reps > reps {
		d := n.Dose
		d.Reps = reps
		cut(d, adjust.CutCramp)
	}
	if on.Monday() == f.Today.Monday() && on >= f.Today && adjust.CutsSets(f.Ladders[p.ID], at, f.running) {
		cut(planning.Deload(n.Dose), adjust.CutSpike)
	}
	if f.Illness.Ended != nil && adjust.HalfOn(f.Illness, on) {
		cut(planning.Half(n.Dose), adjust.CutHalf)
	}
	if on >= f.Today && f.growing(p, side) {
		cut(planning.TakesThird(n.Dose), adjust.CutGrowth)
	}
	if d, capped := planning.CapSpring(n, f.springWeeks(on)); capped {
		cut(d, adjust.CutCap)
	}
	return n, why
}

// NotNow stands where a side does nothing of a ladder.
const NotNow = "not now"

func (f *Frame) DoseOn(p store.Prescription, side body.Side, on day.Date) string {
	if f.Shut(p, side, on) {
		return NotNow
	}
	n, _ := f.NotchOn(p, side, on)
	return words.Notch(n)
}

// springWeeks counts the weeks of spring work behind a date.
func (f *Frame) springWeeks(on day.Date) int {
	if f.bounced == nil {
		f.bounced = []day.Date{}
		for _, it := range f.Items {
			if f.Ladders[it.PrescriptionID].Purpose == catalogue.ForSpring {
				f.bounced = append(f.bounced, app.DateOf(it.On))
			}
		}
	}
	return planning.SpringWeeks(f.bounced, on)
}

func (f *Frame) End() day.Date { return f.Start + day.Date(7*f.Block.Weeks) - 1 }

func (f *Frame) Prescription(ladder string) (store.Prescription, bool) {
	i := slices.IndexFunc(f.Prescriptions, func(p store.Prescription) bool { return p.Ladder == ladder })
	if i < 0 {
		return store.Prescription{}, false
	}
	return f.Prescriptions[i], true
}

func (f *Frame) Name(id string) string {
	if p, ok := f.Prescription(id); ok {
		return f.Ladders[p.ID].Name
	}
	if l, ok := f.Cat.Ladder(id); ok {
		return l.Name
	}
	return f.RoutineName(id)
}

func (f *Frame) ItemOf(log *string, prescription string, side body.Side) (store.SessionItem, bool) {
	if log == nil {
		return store.SessionItem{}, false
	}
	i := slices.IndexFunc(f.Items, func(it store.SessionItem) bool {
		return it.LogID == *log && it.PrescriptionID == prescription && it.Side == string(side)
	})
	if i < 0 {
		return store.SessionItem{}, false
	}
	return f.Items[i], true
}

func (f *Frame) PrescriptionOf(id string) store.Prescription {
	i := slices.IndexFunc(f.Prescriptions, func(p store.Prescription) bool { return p.ID == id })
	if i < 0 {
		return store.Prescription{}
	}
	return f.Prescriptions[i]
}

// Mistake reports whether a mistake is on the list of one of the ladder's exercises.
func (f *Frame) Mistake(p store.Prescription, m string) bool {
	return slices.ContainsFunc(f.Ladders[p.ID].Notches, func(n catalogue.Notch) bool { return slices.Contains(n.Exercise.Mistakes, m) })
}

// GivenOn is the dose a side is asked on a date, as it is kept with a session, and
// why it was less than the notch.
func (f *Frame) GivenOn(prescription string, side body.Side, on day.Date) (cut string, dose []byte, err error) {
	i := slices.IndexFunc(f.Prescriptions, func(p store.Prescription) bool { return p.ID == prescription })
	n, why := f.doseFor(f.Prescriptions[i], side, on)
	dose, err = json.Marshal(n.Dose)
	return string(why), dose, err
}

// sessions are one side's sessions of a ladder.
func (f *Frame) sessions(prescription string, side body.Side) []adjust.Session {
	var out []adjust.Session
	for _, it := range f.Items {
		if it.PrescriptionID == prescription && it.Side == string(side) {
			out = append(out, SessionOf(it))
		}
	}
	return out
}

// UpsThisWeek counts the other ladders moved up in this ISO week.
func (f *Frame) UpsThisWeek(except string) int {
	n := 0
	for id, sides := range f.Pegs {
		up := false
		for _, peg := range sides {
			up = up || (peg.LastUp != nil && app.DateOf(*peg.LastUp) >= f.Today.Monday())
		}
		if up && id != except {
			n++
		}
	}
	return n
}
