package app_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/running"
	"notchback/app/shelf"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
)

func (r *rig) give(t testing.TB, id string, long bool, preview bool, days ...int) (block.ChangedBlock, error) {
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	return r.a.ChangeBlock(ctx, r.act, r.block.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine", Routine: id, Long: long, Days: days, Reason: "worth it"}, Revision: b.Revision, Preview: preview, Insist: true})
}

func sittings(b view.Block, on day.Date) map[string]view.SessionView {
	out := map[string]view.SessionView{}
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			if d.On == on {
				for _, s := range d.Sessions {
					name := string(s.Kind)
					if s.Routine != nil {
						name = s.Routine.ID
					}
					out[name] = s
				}
			}
		}
	}
	return out
}

// A routine is given whole, stands on its days with its own minutes, takes the place of
// the plan's dose of the runner's own ladder, is logged as one, counts as a session of
// that ladder and never moves a part of its own.
func TestARoutineIsGivenDoneAndLogged(t *testing.T) {
	r := newRig(t, 14)
	start := r.block.StartOn
	look, err := r.give(t, "tender-shins", true, true, 1, 4)
	require.NoError(t, err)
	require.NotEmpty(t, look.Parts)
	assert.Nil(t, look.Block)
	own := []string{}
	for _, p := range look.Parts {
		if p.Own != "" {
			own = append(own, p.Own)
		}
	}
	assert.Equal(t, []string{"Ankle range", "Calf, straight knee"}, own, "each once, in the order of the routine")

	before, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	done, err := r.give(t, "tender-shins", true, false, 1, 4)
	require.NoError(t, err)
	require.NotNil(t, done.Block)
	b := *done.Block
	assert.Empty(t, sittings(before, start+1)["tender-shins"].Doses)
	s := sittings(b, start+1)["tender-shins"]
	require.NotNil(t, s.Routine)
	assert.Equal(t, "Tender shins", s.Name)
	assert.GreaterOrEqual(t, len(s.Doses), 4)
	assert.InDelta(t, look.Minutes, s.Minutes, 1)
	// The own ladder stands there and nowhere else that day.
	calf := r.calf()
	for name, x := range sittings(b, start+1) {
		has := slices.ContainsFunc(x.Doses, func(d view.DoseView) bool { return d.PrescriptionID == calf.ID })
		assert.Equal(t, name == "tender-shins", has, name)
	}
	require.Len(t, b.Routines, 1)
	assert.Equal(t, []int{1, 4}, b.Routines[0].Days)

	// Logged as one.
	r.at(start+1, 18)
	in := daily.SessionInput{On: start + 1, Routine: "tender-shins"}
	for _, d := range s.Doses {
		p := r.prescription(b, d.PrescriptionID)
		sides := []body.Side{body.Left, body.Right}
		if p.Together {
			sides = []body.Side{body.Both}
		}
		for _, side := range sides {
			in.Items = append(in.Items, daily.ItemInput{PrescriptionID: d.PrescriptionID, Side: side, Pain: ptr(1), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3)})
		}
	}
	b, err = r.a.LogSession(ctx, r.act, "", b.ID, in)
	require.NoError(t, err)
	list, err := r.a.LoggedSessions(ctx, r.act, b.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Tender shins", list[0].Name)
	decided := 0
	for _, d := range b.Decisions {
		if d.PrescriptionID == calf.ID {
			decided++
		} else {
			assert.NotEqual(t, "up", string(d.Decision.Verdict))
		}
	}
	assert.Positive(t, decided, "it counts as a session of the runner's own ladder")
	for _, p := range b.Prescriptions {
		if p.Routine != "" {
			assert.Len(t, p.Notches, 1)
		}
	}
	// The calendar, the phone and the printed sheet carry it.
	_, paper, pdf, calendar, _ := r.outputs()
	assert.Contains(t, paper, "Tender shins")
	assert.Contains(t, calendar, "Tender shins")
	assert.Equal(t, "%PDF-", pdf)
	phone := r.phoneOnce()
	plan, err := r.a.PlanOf(ctx, phone)
	require.NoError(t, err)
	carried := 0
	for _, d := range plan.Days {
		for _, s := range d.Sessions {
			if s.Routine != nil {
				carried++
				assert.NotEmpty(t, s.Items[0].Sides[0].Steps[0].Words)
			}
		}
	}
	assert.Positive(t, carried)

	// Off again: gone from tomorrow, what was done stays.
	b, err = r.a.Block(ctx, r.act, b.ID)
	require.NoError(t, err)
	off, err := r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine-off", Routine: "tender-shins"}, Revision: b.Revision})
	require.NoError(t, err)
	assert.Empty(t, off.Block.Routines)
	assert.Empty(t, sittings(*off.Block, start+4)["tender-shins"].Doses)
}

func (r *rig) prescription(b view.Block, id string) view.PrescriptionView {
	for _, p := range b.Prescriptions {
		if p.ID == id {
			return p
		}
	}
	r.t.Fatal("no " + id)
	return view.PrescriptionView{}
}

// What is reported after it was given still acts: the day after a severe shin the parts
// that load it are gone, each with its reason, and come back by no other way.
func TestAGivenRoutineFollowsTheDay(t *testing.T) {
	r := newRig(t, 14)
	start := r.block.StartOn
	done, err := r.give(t, "whole-foot-ten", false, false, 0, 2, 4)
	require.NoError(t, err)
	was := sittings(*done.Block, start+2)["whole-foot-ten"]
	r.at(start+1, 9)
	_, err = r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{New: []input.PlaceReading{{Zone: "outer-shin", Side: body.Left, FirstStep: ptr(5)}}})
	require.NoError(t, err)
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	now := sittings(b, start+2)["whole-foot-ten"]
	assert.Less(t, len(now.Doses), len(was.Doses))
	if now.Routine != nil {
		assert.NotEmpty(t, now.Routine.Dropped)
	}
	require.NotEmpty(t, b.Routines)
	assert.NotEmpty(t, b.Routines[0].Dropped)
}

// Before and after are kept with the session that measured them.
func TestARoutineComparesBeforeAndAfter(t *testing.T) {
	r := newRig(t, 14)
	done, err := r.give(t, "ankle-range", false, false, 0, 2)
	require.NoError(t, err)
	s := sittings(*done.Block, r.block.StartOn)["ankle-range"]
	require.NotNil(t, s.Routine)
	assert.Equal(t, "cm", s.Routine.Compare)
	item := daily.ItemInput{PrescriptionID: s.Doses[0].PrescriptionID, Side: body.Left, Pain: ptr(0), Done: ptr(1.0)}
	in := daily.SessionInput{On: r.block.StartOn, Routine: "ankle-range", Items: []daily.ItemInput{item}, Compared: []daily.Compared{{Side: body.Left, Before: 9, After: 9.5}, {Side: body.Left, Before: 1, After: 1}}}
	_, err = r.a.LogSession(ctx, r.act, "", r.block.ID, in)
	require.ErrorContains(t, err, "each once")
	in.Compared = []daily.Compared{{Side: body.Left, Before: 9, After: 9.5}, {Side: body.Right, Before: 9, After: 44}}
	_, err = r.a.LogSession(ctx, r.act, "", r.block.ID, in)
	require.ErrorContains(t, err, "0 to 30")
	in.Compared[1].After = 9.1
	_, err = r.a.LogSession(ctx, r.act, "", r.block.ID, in)
	require.NoError(t, err)
	list, err := r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Equal(t, in.Compared, list[0].Compared)
}

// The week's hard rules hold for plan and routine together: bounces never stand on
// neighbouring days, an evening routine not before a run.
func TestARoutineKeepsTheWeeksRules(t *testing.T) {
	r := newRig(t, 14)
	look, err := r.give(t, "brace-and-bounce", false, true, 0, 1)
	require.NoError(t, err)
	assert.NotEmpty(t, look.Broken)
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	_, err = r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine", Routine: "brace-and-bounce", Days: []int{0, 1}}, Revision: b.Revision})
	require.ErrorContains(t, err, "insist")
	// What a client says was given is not what is given.
	out, err := r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine", Routine: "check-and-control", Days: []int{0, 2}, Given: &input.Given{Name: "x", Ladders: []string{"calf-straight"}}, Reason: "r"}, Revision: b.Revision, Insist: true})
	require.NoError(t, err)
	assert.Equal(t, "Check and control", out.Block.Routines[0].Name)
	_, err = r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine", Routine: "nothing", Days: []int{0}}, Revision: out.Block.Revision})
	require.ErrorContains(t, err, "not a routine")
	_, err = r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine-off", Routine: "nothing"}, Revision: out.Block.Revision})
	require.ErrorContains(t, err, "does not stand")
}

// An emergency closes a routine like everything else.
func TestNoRoutineInAnEmergency(t *testing.T) {
	r := newRig(t, 14)
	done, err := r.give(t, "quiet-sole", false, false, 0, 1, 2, 3, 4, 5, 6)
	require.NoError(t, err)
	r.putDay(r.block.StartOn, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{"F-CLOT": body.Left}, None: []string{}}})
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.NotEmpty(t, sittings(*done.Block, r.block.StartOn+1)["quiet-sole"].Doses)
	assert.Empty(t, sittings(b, r.block.StartOn+1)["quiet-sole"].Doses)
	_, err = r.give(t, "heel-day", false, false, 2)
	require.ErrorContains(t, err, "not offered now")
}

// A coach copies a routine, changes it and gives it; what was given before stays.
func TestOwnRoutines(t *testing.T) {
	r := newRig(t, 14)
	s, err := r.a.Shelf(ctx, r.act)
	require.NoError(t, err)
	built := len(s.Routines)
	require.GreaterOrEqual(t, built, 20)
	i := slices.IndexFunc(s.Routines, func(x shelf.ShelfRoutine) bool { return x.ID == "heels-up-holds" })
	from := s.Routines[i]
	own := shelf.OwnRoutine{From: from.ID, Name: "Heels up, short", For: from.For, When: from.When, Min: 2, Max: 3}
	for _, p := range from.Parts[:3] {
		own.Parts = append(own.Parts, shelf.OwnPart{Exercise: p.Exercise, Ladder: p.Ladder, Dose: p.Typed, Most: p.Most, Key: p.Key})
	}
	own.Parts[0].Dose = "2 × 20 s"
	s, err = r.a.PutRoutine(ctx, r.act, own)
	require.NoError(t, err)
	require.Len(t, s.Routines, built+1)
	mine := s.Routines[built]
	assert.True(t, mine.Own)
	assert.Equal(t, "2 × 20 s", mine.Parts[0].Dose)
	done, err := r.give(t, mine.ID, false, false, 0, 3)
	require.NoError(t, err)
	assert.Equal(t, "Heels up, short", done.Block.Routines[0].Name)
	own.ID, own.Rev, own.Name = mine.ID, mine.Rev, "Another name"
	_, err = r.a.PutRoutine(ctx, r.act, own)
	require.NoError(t, err)
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Equal(t, "Heels up, short", b.Routines[0].Name, "as it was given")
	own.Rev = 0
	_, err = r.a.PutRoutine(ctx, r.act, own)
	require.Error(t, err, "another screen was quicker")
	own.ID, own.Parts[0].Exercise = "", "nothing"
	_, err = r.a.PutRoutine(ctx, r.act, own)
	require.ErrorContains(t, err, "not known")
	_, err = r.a.Retire(ctx, r.act, "routine", "heel-day", 0, true)
	require.NoError(t, err)
	_, err = r.give(t, "heel-day", false, false, 2)
	require.ErrorContains(t, err, "not a routine")
	assert.False(t, strings.Contains(b.Routines[0].Name, string(planning.RoutineKind)))
}

// A ladder at its top proposes the next of its path; the coach lets it give way: the new
// one stands on its days from its starting notch, counts as a step up of the week, and
// the old one goes. What is not due can't be made.
func TestALadderGivesWayToTheNext(t *testing.T) {
	r := newRig(t, 14)
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Empty(t, b.Nexts)
	_, err = r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "change", Ladder: "calf-straight", Next: "calf-split-hold"}, Revision: b.Revision})
	require.ErrorContains(t, err, "not due")
	// The runner's range ladder is put at its top, and done clean there.
	var range_ view.PrescriptionView
	for _, p := range b.Prescriptions {
		if p.Ladder == "range-soleus" {
			range_ = p
		}
	}
	require.NotEmpty(t, range_.ID)
	own := r.asOwner(t)
	_, err = own.Exec(ctx, `UPDATE prescriptions SET start_notch = 4 WHERE id = $1`, range_.ID)
	require.NoError(t, err)
	_, err = own.Exec(ctx, `DELETE FROM pegs WHERE prescription_id = $1`, range_.ID)
	require.NoError(t, err)
	_, err = own.Exec(ctx, `DELETE FROM course_states`)
	require.NoError(t, err)
	for _, on := range []day.Date{7, 9, 11} {
		on += r.block.StartOn
		r.morning(on, 0)
		r.at(on, 18)
		in := daily.SessionInput{On: on}
		for _, side := range body.Sides {
			in.Items = append(in.Items, daily.ItemInput{PrescriptionID: range_.ID, Side: side, Pain: ptr(0), Done: ptr(1.0), Compensated: ptr(0.0)})
		}
		_, err = r.a.LogSession(ctx, r.act, "", b.ID, in)
		require.NoError(t, err)
	}
	r.morning(r.block.StartOn+12, 0)
	r.at(r.block.StartOn+13, 13)
	b, err = r.a.Block(ctx, r.act, b.ID)
	require.NoError(t, err)
	require.NotEmpty(t, b.Nexts)
	n := b.Nexts[0]
	assert.Equal(t, "range-soleus", n.Ladder)
	assert.Empty(t, n.Wait)
	assert.Contains(t, n.Because, "last notch")
	look, err := r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "change", Ladder: n.Ladder, Next: n.To}, Revision: b.Revision, Preview: true})
	require.NoError(t, err)
	assert.NotEmpty(t, look.Consequences)
	done, err := r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "change", Ladder: n.Ladder, Next: n.To, Reason: "it is time"}, Revision: b.Revision, Insist: true})
	require.NoError(t, err)
	stands := map[string]int{}
	for _, w := range done.Block.Weeks {
		for _, d := range w.Days {
			if d.On < done.Block.Today+1 {
				continue
			}
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					stands[x.Ladder]++
				}
			}
		}
	}
	assert.Zero(t, stands[n.Ladder])
	assert.Positive(t, stands[n.To])
	for _, p := range done.Block.Prescriptions {
		if p.Ladder == n.Ladder {
			assert.Contains(t, p.LeftOut, "goes on as")
		}
	}
	assert.NotContains(t, done.Block.Nexts, n)
	// The bench and the next plan know it.
	page, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.NotEmpty(t, page.Items)
}

// After "no running" the way back comes by itself: it stands instead of the runs, from
// three painless walks, and is there once.
func TestTheWayBackToRunningComesByItself(t *testing.T) {
	r := newRig(t, 14)
	on := r.block.StartOn + 1
	r.at(on, 12)
	r.run(on, 5, func(in *running.RunInput) { in.Pain = ptr(7); in.Zone = "calf"; in.Side = body.Left })
	b, err := r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	n := 0
	for _, p := range b.Prescriptions {
		if p.Ladder == "run-return" {
			n++
			assert.Equal(t, 1, p.StartNotch)
		}
	}
	assert.Equal(t, 1, n)
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			if d.On >= b.Today && d.In {
				assert.Empty(t, d.Run, d.On)
			}
		}
	}
	r.run(on+1, 5, func(in *running.RunInput) { in.Pain = ptr(7); in.Zone = "calf"; in.Side = body.Left })
	b, err = r.a.Block(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	n = 0
	for _, p := range b.Prescriptions {
		if p.Ladder == "run-return" {
			n++
		}
	}
	assert.Equal(t, 1, n, "once")
}
