package view

import (
	"math"
	"slices"
	"strings"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/words"
	"notchback/store"
)

func routineSitting(f *record.Frame, id string) *RoutineSitting {
	g, _ := f.RoutineGiven(id)
	return &RoutineSitting{ID: id, Late: g.Late, Compare: g.Compare, Compared: g.Compared, Felt: g.Felt, Dropped: []string{}}
}

// drop says of a part of a routine why it drops out that day.
func (v *SessionView) drop(f *record.Frame, p store.Prescription, known bool) {
	if v.Routine == nil || !known {
		return
	}
	v.Routine.Dropped = append(v.Routine.Dropped, f.Ladders[p.ID].Name+": "+whyDropped(f, p))
}

func whyDropped(f *record.Frame, p store.Prescription) string {
	var why []string
	for _, side := range body.Sides {
		w := words.WhyNot(f.Doing(p, side).May)
		if w == "" {
			w = "stopped; it comes back as an offer"
		}
		if !slices.Contains(why, w) {
			why = append(why, w)
		}
	}
	return strings.Join(why, "; ")
}

// routineViews are the routines that stand in the block today.
func routineViews(f *record.Frame) []RoutineView {
	out := []RoutineView{}
	for _, r := range f.Routines(f.Today) {
		v := RoutineView{ID: r.ID, Name: r.Name, Days: r.Days, Long: r.Long, Items: []string{}, Parts: []string{}, Dropped: []string{}, Late: r.Late, Compare: r.Compare, Compared: r.Compared, Felt: r.Felt}
		seconds := 0.0
		for _, id := range r.Ladders {
			p, ok := f.Prescription(id)
			if !ok || f.LeftOut(id, f.Today) != "" {
				continue
			}
			l, right := f.Shut(p, body.Left, f.Today), f.Shut(p, body.Right, f.Today)
			side := body.Left
			if l {
				side = body.Right
			}
			n, _ := f.NotchOn(p, side, f.Today)
			if l && right || n.Together() && l != right {
				v.Dropped = append(v.Dropped, f.Ladders[p.ID].Name+": "+whyDropped(f, p))
				continue
			}
			text := n.Exercise.Name + " " + words.Dose(n.Dose)
			if l != right {
				text += ", " + string(side) + " only"
			}
			v.Items, v.Parts = append(v.Items, p.ID), append(v.Parts, text)
			seconds += n.InRoutine()
		}
		v.Minutes = int(math.Ceil(seconds / 60))
		out = append(out, v)
	}
	return out
}
