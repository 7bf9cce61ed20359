package block

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
	"notchback/store"
)

// changeLadder lets a ladder give way to the next of its path, as the engine proposes
// it now: on its days, from its starting notch. It counts as a step up of the week and
// as its one new loading ladder.
func (a *Blocks) changeLadder(ctx context.Context, tx *store.Tx, f *record.Frame, c *input.BlockChange, preview bool, out *ChangedBlock) error {
	list := f.NextsNow()
	i := slices.IndexFunc(list, func(n course.Next) bool { return n.From == c.Ladder && (c.Next == "" || n.To.ID == c.Next) })
	if i < 0 {
		return app.Refused("this change is not due any more; look at the block as it is now")
	}
	n := list[i]
	if n.Wait != course.WaitNone {
		return app.Refused(n.To.Name + " waits: " + words.NextWait(n.Wait))
	}
	c.Next, c.Days = n.To.ID, []int{}
	monday := f.Today.Monday() + 7
	if monday > f.End() {
		monday = f.Today.Monday()
	}
	for d := range 7 {
		for _, s := range f.SessionsOn(monday + day.Date(d)) {
			if slices.Contains(s.Ladders, c.Ladder) && !slices.Contains(c.Days, d) && s.Kind != planning.RoutineKind {
				c.Days = append(c.Days, d)
			}
		}
	}
	if len(c.Days) == 0 {
		c.Days = append(c.Days, f.Plan.Layout.Main...)
	}
	defer func() { c.Days = roomFor(f, *c) }()
	out.Consequences = append(out.Consequences, fmt.Sprintf("%s begins with %s", n.To.Name, words.Notch(n.To.At(n.Start.Notch))))
	week := max(1, int(f.Today-f.Start.Monday())/7+1)
	ch := planning.Choice{Ladder: n.To.ID, Start: n.Start, FromWeek: week}
	added := store.Prescription{ID: "preview", BlockID: f.Block.ID, RunnerID: f.Block.RunnerID, Position: len(f.Prescriptions), Ladder: n.To.ID, StartNotch: n.Start.Notch, ExtraSetSide: string(n.Start.ExtraSetSide), FromWeek: week}
	if _, there := f.Prescription(n.To.ID); there {
		return nil // it stood here before and comes back where it stood
	}
	if !preview {
		if err := a.prescribe(ctx, tx, f.Block, len(f.Prescriptions), ch, n.To); err != nil {
			return err
		}
		ps, err := tx.Prescriptions(ctx, f.Block.ID)
		if err != nil {
			return err
		}
		added = ps[len(ps)-1]
	}
	f.Prescriptions = append(slices.Clone(f.Prescriptions), added)
	f.Ladders[added.ID] = n.To
	f.Pegs[added.ID] = map[body.Side]*store.Peg{}
	for _, side := range body.Sides {
		f.Pegs[added.ID][side] = &store.Peg{PrescriptionID: added.ID, Side: string(side), Notch: n.Start.Notch}
	}
	return nil
}

// roomFor finds days for a changed ladder that break nothing: its own where they do, else
// those of the block's main sessions that keep most of its own and most of its times. A
// routine of the block takes its place and its minutes of a day like a ladder. Where no
// day does, its own stay, and what they break is said.
func roomFor(f *record.Frame, c input.BlockChange) []int {
	own := planning.DaysOf(c.Days...)
	room := own | planning.DaysOf(f.Plan.Layout.Main...)
	type way struct {
		days planning.Days
		cost int
	}
	var ways []way
	for m := planning.Days(1); m <= room; m++ {
		if m&^room != 0 || m.Len() > own.Len() {
			continue
		}
		ways = append(ways, way{m, 3*(own.Len()-m.Len()) + (m &^ own).Len()})
	}
	slices.SortStableFunc(ways, func(a, b way) int { return cmp.Compare(a.cost, b.cost) })
	was := f.Changes
	defer func() { f.Changes = was }()
	for _, w := range ways {
		c.Days = w.days.List()
		f.Changes = slices.Clone(was)
		var look ChangedBlock
		if consider(f, c, &look); len(look.Broken) == 0 {
			return c.Days
		}
	}
	return own.List()
}
