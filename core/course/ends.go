package course

import (
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
)

// quietDays is how many mornings running at 0 make a quiet week.
const quietDays = 7

// QuietWeek reports seven known mornings running at 0, up to today or yesterday, after
// something hurt: pain gone is not done, the plan goes on to the cause. since is the
// first of them.
func (b *Book) QuietWeek() (since day.Date, ok bool) {
	h := b.readings(nil, body.Both)
	if len(h.mornings) == 0 {
		return 0, false
	}
	last := h.mornings[len(h.mornings)-1].On
	if last < b.Today-1 {
		return 0, false
	}
	run, hurt := 0, len(b.Complaints()) > 0
	for i := len(h.mornings) - 1; i >= 0; i-- {
		m := h.mornings[i]
		if m.FirstStep > 0 {
			hurt = true
			break
		}
		if m.On != last-day.Date(run) {
			break
		}
		run++
		since = m.On
	}
	for _, m := range h.mornings {
		hurt = hurt || m.FirstStep > 0
	}
	return since, run >= quietDays && hurt
}

// After is what follows a block.
type After string

// What can follow.
const (
	AfterScreen   After = "screen"   // the tests are older than the block: screen again first
	AfterBlock    After = "block"    // findings are still worked on: the next block
	AfterMaintain After = "maintain" // nothing limits and nothing hurts: five to ten minutes a day keep it
)

// lastDays is how many days before its end a block says what follows.
const lastDays = 7

// Ends reports the last week of a block, or one that is over, with what follows.
func (b *Book) Ends() (end day.Date, then After, ok bool) {
	blk := b.rec.Block
	if blk == nil {
		return 0, "", false
	}
	end = blk.Start + day.Date(7*blk.Weeks) - 1
	if b.Today <= end-lastDays {
		return end, "", false
	}
	var newest *Visit
	for i := range b.Visits {
		if b.Visits[i].Finished {
			newest = &b.Visits[i]
			break
		}
	}
	switch {
	case newest == nil || newest.On <= blk.Start:
		return end, AfterScreen, true
	case len(b.Complaints()) > 0:
		return end, AfterBlock, true
	}
	for _, f := range newest.Findings {
		if f.WorkedOn {
			return end, AfterBlock, true
		}
	}
	return end, AfterMaintain, true
}

// retestAhead is how many days before a re-test the bench speaks of it.
const retestAhead = 1

// Retest is a re-test of the plan that is due: from the day before on until a visit
// was finished since.
func (b *Book) Retest() (on day.Date, week planning.WeekPlan, ok bool) {
	blk := b.rec.Block
	if blk == nil {
		return 0, week, false
	}
	for _, w := range blk.Plan.Weeks {
		if w.On == 0 || w.On-retestAhead > b.Today || w.On < blk.Start {
			continue
		}
		done := false
		for _, v := range b.Visits {
			done = done || v.On >= w.Monday
		}
		if !done {
			on, week, ok = w.On, w, true
		}
	}
	return on, week, ok
}
