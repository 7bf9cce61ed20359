package block

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/core/words"
	"notchback/store"
)

// FittedPart is a part of a routine as it is for a runner now, in words.
type FittedPart struct {
	Exercise string        `json:"exercise"`
	Name     string        `json:"name"`
	Words    string        `json:"words"`
	Own      string        `json:"own,omitempty" doc:"The runner's own ladder that stands in its place"`
	Key      bool          `json:"key,omitempty"`
	Side     body.Side     `json:"side,omitempty" enum:"left,right," doc:"Where only one side may do it"`
	Dropped  []string      `json:"dropped" nullable:"false" doc:"Why it drops out now; empty where it is done"`
	Lowered  string        `json:"lowered,omitempty"`
	Swaps    []string      `json:"swaps" nullable:"false"`
	Limits   []string      `json:"limits" nullable:"false"`
	Picture  *view.Picture `json:"picture,omitempty"`
}

func fittedView(f *record.Frame, p routine.FittedPart) FittedPart {
	v := FittedPart{Exercise: p.Notch.Exercise.ID, Name: p.Notch.Exercise.Name, Words: words.Dose(p.Notch.Dose), Key: p.Key, Dropped: []string{}, Lowered: p.Lowered, Swaps: []string{}, Limits: []string{}, Picture: view.PictureOf(f.Layers, p.Notch.Exercise)}
	if p.Own {
		v.Own = p.Ladder.Name
	}
	if len(p.Sides) == 1 {
		v.Side = p.Sides[0]
	}
	for _, k := range p.Dropped {
		v.Dropped = append(v.Dropped, k.Words)
	}
	for _, s := range p.Swaps {
		v.Swaps = append(v.Swaps, s.Take+" in place of "+s.For)
	}
	for _, l := range p.Limits {
		if !slices.Contains(v.Limits, l.Words) {
			v.Limits = append(v.Limits, l.Words)
		}
	}
	return v
}

// giveRoutine fits a routine to the runner and, where it is more than a look,
// prescribes its parts. Every part is prescribed but those whose kit is not there:
// what is closed today drops out day by day, and comes back the day it opens.
func (a *Blocks) giveRoutine(ctx context.Context, tx *store.Tx, f *record.Frame, c *input.BlockChange, preview bool, out *ChangedBlock) error {
	r, ok := f.Layers.Routine(c.Routine)
	if !ok || f.Layers.Retired["routine/"+c.Routine] {
		return app.Wrong("routine", fmt.Sprintf("%q is not a routine of the shelf", c.Routine))
	}
	who := f.ForRoutines()
	who.Long = c.Long
	fit := r.Fit(f.Cat, who)
	out.Minutes = int(math.Ceil(fit.Minutes))
	for _, p := range fit.Parts {
		out.Parts = append(out.Parts, fittedView(f, p))
	}
	if fit.Closed != "" {
		return app.Refused(r.Name + " is not offered now: " + fit.Closed)
	}
	g := &input.Given{Name: r.Name, When: words.RoutineWhen(r.When), Late: r.Late, Compare: string(r.Compare), Compared: r.Compared, Felt: r.Asks == "felt", Ladders: []string{}, Evening: r.When == routine.Evening || routine.InEvening(fit.Parts)}
	if g.Evening {
		g.When = words.RoutineWhen(routine.Evening)
	}
	week := max(1, int(f.Today-f.Start.Monday())/7+1)
	for _, p := range fit.Parts {
		if p.Own {
			g.Ladders = append(g.Ladders, p.Ladder.ID)
			continue
		}
		if slices.ContainsFunc(p.Dropped, func(k planning.Lock) bool { return k.Kind == planning.LockKit }) {
			continue
		}
		l := p.Ladder
		l.ID = fmt.Sprintf("%s@%d", l.ID, f.Rev+1)
		g.Ladders = append(g.Ladders, l.ID)
		added := store.Prescription{ID: "preview/" + l.ID, BlockID: f.Block.ID, RunnerID: f.Block.RunnerID, Position: len(f.Prescriptions), Ladder: l.ID, StartNotch: 1, FromWeek: week, StartReasons: []byte("[]")}
		if !preview {
			raw, err := json.Marshal(l)
			if err != nil {
				return err
			}
			added.LadderData = raw
			if added.ID, err = tx.AddPrescription(ctx, added); err != nil {
				return err
			}
		}
		f.Prescriptions = append(slices.Clone(f.Prescriptions), added)
		f.Ladders[added.ID] = l
		f.Pegs[added.ID] = map[body.Side]*store.Peg{}
		for _, side := range body.Sides {
			f.Pegs[added.ID][side] = &store.Peg{PrescriptionID: added.ID, Side: string(side), Notch: 1}
		}
	}
	if len(c.Days) > r.Max {
		out.Consequences = append(out.Consequences, fmt.Sprintf("%d times a week; %s is meant for at most %d", len(c.Days), r.Name, r.Max))
	}
	c.Given = g
	return nil
}

// routineItems are the routines of a week as the week's hard rules see them: in one
// sitting everything that needs a day between counts as one dose.
func routineItems(f *record.Frame, monday day.Date) ([]planning.Item, []planning.Days) {
	var items []planning.Item
	var where []planning.Days
	at := map[string]int{}
	for d := range 7 {
		for _, s := range f.SessionsOn(monday + day.Date(d)) {
			if s.Kind != planning.RoutineKind {
				continue
			}
			i, known := at[s.Routine]
			if !known {
				i = len(items)
				at[s.Routine] = i
				it := planning.Item{Ladder: s.Routine, Name: f.RoutineName(s.Routine), Times: 7, Least: 1, Tissues: []body.Tissue{}}
				if g, ok := f.RoutineGiven(s.Routine); ok {
					it.Evening = g.Evening
				}
				for _, id := range s.Ladders {
					p, ok := f.Prescription(id)
					if !ok {
						continue
					}
					n := f.Ladders[p.ID].At(f.Pegs[p.ID][body.Left].Notch)
					it.Seconds += n.InRoutine()
					it.Heavy = it.Heavy || n.Heavy && n.Exercise.Purpose != catalogue.ForSpring
					bounces := n.Exercise.Purpose == catalogue.ForSpring
					it.Spring = it.Spring || bounces
					if n.Gap48 || bounces { // bounces never stand on neighbouring days
						it.Gap48 = true
						it.Tissues = append(it.Tissues, n.Tissues...)
					}
				}
				items, where = append(items, it), append(where, 0)
			}
			where[i] = where[i].With(d)
		}
	}
	return items, where
}
