package app_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/ramp"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
)

// ready gives the rig's runner what the first gates ask for: an arch that keeps,
// every safety question answered.
func (r *rig) ready() {
	r.t.Helper()
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(r.t, err)
	require.NotEmpty(r.t, list)
	reopened, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
	require.NoError(r.t, err)
	id := reopened.ID
	for _, side := range body.Sides {
		_, err := r.a.PutTrial(ctx, r.act, id, screening.Arch, side, 1, &input.TrialInput{Trial: screening.Trial{Value: ptr(2.0)}}, "")
		require.NoError(r.t, err)
	}
	for slot, n := range []float64{160, 161, 160} {
		_, err := r.a.PutTrial(ctx, r.act, id, screening.CadenceTest, body.Both, slot+1, &input.TrialInput{Trial: screening.Trial{Value: ptr(n)}}, "")
		require.NoError(r.t, err)
	}
	answers := safety.Answers{Yes: map[string]body.Side{}, None: []string{}}
	for _, g := range safety.Questions(screening.Age{Years: 36, Known: true}) {
		answers.None = append(answers.None, g.Name)
	}
	_, err = r.a.PutTalk(ctx, r.act, id, 0, input.Talk{Complaints: []screening.Complaint{{Zone: "kneecap", Side: body.Left, Now: ptr(2)}}, Flags: answers}, "")
	require.NoError(r.t, err)
	_, err = r.a.FinishScreening(ctx, r.act, id)
	require.NoError(r.t, err)
}

func (r *rig) ramp() view.RampView {
	r.t.Helper()
	v, err := r.a.Ramp(ctx, r.act, r.runner.ID)
	require.NoError(r.t, err)
	return v
}

// wish begins a ramp of the draft's week to a goal.
func (r *rig) wish(goal transition.Stage) view.RampView {
	r.t.Helper()
	v := r.ramp()
	t := v.Draft
	t.Goal, t.From = goal, start
	t.WeeklyMetres, t.PaceSeconds, t.Shoe = 40_000, 360, "thin one"
	v, err := r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Terms: t})
	require.NoError(r.t, err)
	return v
}

// live does a day of the ramp as planned, with quiet first steps.
func (r *rig) live(from, to day.Date, change func(day.Date, *input.DayInput)) {
	r.t.Helper()
	for on := from; on < to; on++ {
		r.at(on, 20)
		if len(r.ramp().Days) > 0 {
			_, err := r.a.PutRampDone(ctx, r.act, r.runner.ID, ramp.RampDone{On: on, Done: true})
			require.NoError(r.t, err)
		}
		s, err := r.a.Day(ctx, r.act, r.runner.ID, on)
		require.NoError(r.t, err)
		in := s.Day
		in.Readings = []input.PlaceReading{{FirstStep: ptr(1)}}
		if change != nil {
			change(on, &in)
		}
		_, err = r.a.PutDay(ctx, r.act, r.runner.ID, on, in)
		require.NoError(r.t, err)
	}
	r.at(to, 12)
	r.refresh()
}

func TestAWishBecomesARampThatIsLivedAndRedated(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	v := r.wish(transition.Walk)
	require.NotNil(t, v.Plan)
	assert.Equal(t, start, v.Plan.Start)
	require.NotNil(t, v.Plan.Range.Earliest)
	assert.GreaterOrEqual(t, *v.Plan.Range.Late, *v.Plan.Range.Likely)
	assert.Equal(t, 1000, v.Plan.Range.Futures)
	require.Len(t, v.Days, 1)
	assert.Equal(t, "30 min without shoes at home, in pieces", v.Days[0].Words)
	walk, _ := safety.Find(gateStates(v), safety.BarefootWalk)
	assert.False(t, walk.Open)
	assert.Equal(t, []string{"14 days at 30 minutes with quiet mornings"}, walk.Missing)

	// Two weeks as planned: the gate opens on them.
	r.live(start, start+14, nil)
	v = r.ramp()
	walk, _ = safety.Find(gateStates(v), safety.BarefootWalk)
	assert.True(t, walk.Open, "%v", walk.Missing)
	assert.Equal(t, transition.Passed, v.Plan.Weeks[0].Outcome)
	assert.Equal(t, 90, v.Plan.Weeks[2].Dose.HomeMinutes)
	first := *v.Plan.Range.Earliest
	require.Len(t, v.Moves, 1, "only the first date")

	// A worse morning in week 5: the week is done again, the date moves, and says why.
	r.live(start+14, start+35, func(on day.Date, in *input.DayInput) {
		if on == start+31 {
			in.Readings[0].FirstStep = ptr(4)
		}
	})
	v = r.ramp()
	assert.Equal(t, "lighter week", v.Plan.Weeks[3].Held, "the block's")
	assert.Equal(t, 90, v.Plan.Weeks[3].Dose.HomeMinutes)
	assert.Equal(t, transition.Repeated, v.Plan.Weeks[4].Outcome)
	assert.Equal(t, 120, v.Plan.Weeks[5].Dose.HomeMinutes)
	assert.Equal(t, first+7, *v.Plan.Range.Earliest)
	require.Len(t, v.Moves, 2)
	assert.Equal(t, first, *v.Moves[0].From)
	assert.Equal(t, first+7, *v.Moves[0].To)
	assert.Contains(t, v.Moves[0].Why, "first steps of 4 June were 4")
	journal, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	all := ""
	for _, l := range journal {
		all += l.Sentence + "\n"
	}
	assert.Contains(t, all, "Ramp re-dated, from the week of")
	assert.Contains(t, all, "Barefoot ramp begun: barefoot walks")

	// Taking back a day is one tap too; a day without a ramp is refused.
	v, err = r.a.PutRampDone(ctx, r.act, r.runner.ID, ramp.RampDone{On: start + 34, Stage: transition.Home})
	require.NoError(t, err)
	_, err = r.a.PutRampDone(ctx, r.act, r.runner.ID, ramp.RampDone{On: start + 34, Stage: transition.Run, Done: true})
	require.ErrorContains(t, err, "has nothing of this")
	_, err = r.a.PutRampDone(ctx, r.act, r.runner.ID, ramp.RampDone{On: start - 9, Done: true})
	require.ErrorContains(t, err, "has nothing of this")
	_ = v
}

func gateStates(v view.RampView) []safety.GateState {
	var out []safety.GateState
	for _, g := range v.Gates {
		out = append(out, g.GateState)
	}
	return out
}

func TestTheRampStandsInBlockPrintCalendarAndTable(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	r.wish(transition.Home)
	r.refresh()
	found := 0
	for _, w := range r.block.Weeks {
		for _, d := range w.Days {
			found += len(d.Ramp)
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					assert.False(t, strings.HasPrefix(x.Ladder, "exposure-"), "the ramp stands in for it")
				}
			}
		}
	}
	assert.GreaterOrEqual(t, found, 28)
	sheet, err := r.a.PrintSheet(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(sheet.Sheet.Weeks[0].Days[2].Lines, "|"), "30 min without shoes at home")
	table, err := r.a.PlanFile(ctx, r.act, r.block.ID, "csv")
	require.NoError(t, err)
	assert.Contains(t, string(table.Body), "without shoes at home")
	// Walks are dated in the calendar.
	v := r.ramp()
	in := v.Draft
	in.Goal = transition.Run
	in.Begin = transition.Run
	_, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Terms: in})
	require.ErrorContains(t, err, "the gate minimal-shoe running is closed")
	r.live(start, start+35, nil)
	v = r.ramp()
	in = v.Draft
	in.Goal = transition.Walk
	_, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Terms: in})
	require.NoError(t, err)
	v = r.ramp()
	assert.Equal(t, transition.Walk, v.Plan.Weeks[v.Plan.Now].State.Stage)
	r.block, err = r.a.PlanBlock(ctx, r.act, "", r.runner.ID, block.BlockInput{})
	require.NoError(t, err)
	for _, p := range r.block.Prescriptions {
		assert.False(t, strings.HasPrefix(p.Ladder, "exposure-"), "a new block leaves them to the ramp")
	}
	calendar, err := r.a.PlanFile(ctx, r.act, r.block.ID, "ics")
	require.NoError(t, err)
	assert.Contains(t, strings.ReplaceAll(string(calendar.Body), "\r\n ", ""), "barefoot walk 10 min on smooth ground")
}

func TestTwiceTenderRaisesTheFlagAndAClearanceOpensAgain(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	r.wish(transition.Walk)
	tender := map[day.Date]bool{start + 9: true, start + 20: true}
	r.live(start, start+12, func(on day.Date, in *input.DayInput) { in.BoneTender = tender[on] })
	v := r.ramp()
	assert.Equal(t, start+16, *v.Plan.OutTo)
	assert.Empty(t, v.Days, "seven days out")
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(bench.Items[0]), "A bone is tender")
	s, err := r.a.Day(ctx, r.act, r.runner.ID, start+9)
	require.NoError(t, err)
	assert.NotEmpty(t, s.Ask, "the bone questions are asked")
	r.live(start+12, start+21, func(on day.Date, in *input.DayInput) { in.BoneTender = tender[on] })
	v = r.ramp()
	assert.True(t, v.Plan.Refer)
	flagged := false
	for _, f := range r.block.Flags {
		flagged = flagged || f.Flag == "F-BONE"
	}
	assert.True(t, flagged, "a clinician looks")
	home, _ := safety.Find(gateStates(v), safety.BarefootHome)
	assert.Equal(t, []string{"a clearance for the bone pain"}, home.Missing)
	assert.Nil(t, v.Plan.Range.Earliest)
	assert.Contains(t, v.Moves[0].Why, "tender twice")
	r.at(start+30, 12)
	require.NoError(t, r.a.AddClearance(ctx, r.act, r.runner.ID, intake.ClearanceInput{Flag: "F-BONE", Role: "sports physician", Allowed: "all of it", Until: start + 300}))
	v = r.ramp()
	assert.False(t, v.Plan.Refer)
	assert.NotNil(t, v.Plan.Range.Earliest)
}

func TestARampHasOneWriterAndEnds(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	v := r.wish(transition.Home)
	_, err := r.a.PutRamp(ctx, r.act, r.runner.ID, 0, input.RampInput{Terms: v.Draft})
	require.ErrorIs(t, err, app.ErrConflict, "two ramps at once")
	bad := v.Draft
	bad.Goal, bad.TargetPercent = "moon", 120
	_, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Terms: bad})
	require.ErrorContains(t, err, "terms.goal")
	require.ErrorContains(t, err, "terms.targetPercent")
	_, err = r.a.PreviewRamp(ctx, r.act, r.runner.ID, ramp.PreviewRampInput{Terms: bad})
	require.ErrorContains(t, err, "terms.goal")
	plain, err := r.a.PreviewRamp(ctx, r.act, r.runner.ID, ramp.PreviewRampInput{Terms: v.Draft})
	require.NoError(t, err)
	away, err := r.a.PreviewRamp(ctx, r.act, r.runner.ID, ramp.PreviewRampInput{Terms: v.Draft, Away: 2})
	require.NoError(t, err)
	assert.Greater(t, *away.Range.Earliest, *plain.Range.Earliest, "two weeks away")
	assert.Equal(t, v.Rev, r.ramp().Rev, "a look saves nothing")
	v, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Ended: true})
	require.NoError(t, err)
	assert.Nil(t, v.Plan)
	_, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Ended: true})
	require.ErrorContains(t, err, "no ramp to end")
	// A runner nobody screened, and a date behind.
	other, err := r.a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: "Nobody"})
	require.NoError(t, err)
	o, err := r.a.Ramp(ctx, r.act, other.ID)
	require.NoError(t, err)
	assert.Nil(t, o.Plan)
	_, err = r.a.PutRamp(ctx, r.act, other.ID, 0, input.RampInput{Terms: o.Draft})
	require.ErrorContains(t, err, "screen the runner first")
	late := v.Draft
	late.From = start - 30
	_, err = r.a.PutRamp(ctx, r.act, r.runner.ID, v.Rev, input.RampInput{Terms: late})
	require.ErrorContains(t, err, "is over")
}

func TestSchoolsOfBareFeetStandSideBySide(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	v := r.wish(transition.Run)
	require.Len(t, v.Schools, 3)
	mine := 0
	for _, s := range v.Schools {
		if s.Mine {
			mine++
			assert.Equal(t, "gated", s.Position)
		}
		if s.Position == "shoes-stay" {
			assert.Nil(t, s.Reached)
			assert.Contains(t, s.Words, "keeps the running shoes")
		}
	}
	assert.Equal(t, 1, mine)
}

func TestCadenceIsChangedInStepsThatPassOnCounts(t *testing.T) {
	r := newRig(t, 21)
	closed := r.ramp()
	assert.False(t, closed.Cadence.Advice.Change)
	_, err := r.a.PutCadence(ctx, r.act, r.runner.ID, 0, input.CadenceRampInput{Terms: transition.CadenceTerms{Start: start, Baseline: 160, School: "own-baseline"}})
	require.ErrorContains(t, err, "three counts")
	r.ready()
	v := r.ramp()
	require.NotNil(t, v.Cadence.Count)
	assert.True(t, v.Cadence.Advice.Change, "%v", v.Cadence.Advice)
	terms := v.Cadence.Terms
	terms.Baseline, terms.SpeedKmh = 160, 10
	v, err = r.a.PutCadence(ctx, r.act, r.runner.ID, v.Cadence.Rev, input.CadenceRampInput{Terms: terms})
	require.NoError(t, err)
	assert.Equal(t, []int{165, 168}, v.Cadence.Plan.Beats)
	assert.InDelta(t, 1.042, v.Cadence.Plan.StepBefore, 0.001)
	assert.Contains(t, v.Cadence.Plan.Drill, "6 × 1 min at 165")
	r.refresh()
	beats := 0
	for _, d := range r.block.Weeks[0].Days {
		for _, x := range d.Ramp {
			if x.Stage == record.CadenceStage {
				beats++
			}
		}
	}
	assert.Positive(t, beats, "in the week's easy runs")
	r.at(start+15, 12)
	assert.Equal(t, 165, r.ramp().Cadence.Plan.Weeks[r.ramp().Cadence.Plan.Now].Beat, "no count yet")
	v, err = r.a.AddRecount(ctx, r.act, "k1", r.runner.ID, ramp.RecountInput{On: start + 13, Counts: []int{165, 164, 165, 165}, WindowSeconds: 60})
	require.NoError(t, err)
	assert.Equal(t, 168, v.Cadence.Plan.Weeks[v.Cadence.Plan.Now].Beat)
	again, err := r.a.AddRecount(ctx, r.act, "k1", r.runner.ID, ramp.RecountInput{On: start + 13, Counts: []int{165, 164, 165, 165}, WindowSeconds: 60})
	require.NoError(t, err)
	assert.Len(t, again.Cadence.Recounts, 1, "sent twice, stored once")
	_, err = r.a.AddRecount(ctx, r.act, "", r.runner.ID, ramp.RecountInput{On: start + 13, Counts: []int{20, 21}, WindowSeconds: 15})
	require.ErrorContains(t, err, "one foot")
	_, err = r.a.AddRecount(ctx, r.act, "", r.runner.ID, ramp.RecountInput{On: start + 40, Counts: []int{41}, WindowSeconds: 15})
	require.ErrorContains(t, err, "future")
	v, err = r.a.PutCadence(ctx, r.act, r.runner.ID, v.Cadence.Rev, input.CadenceRampInput{Ended: true})
	require.NoError(t, err)
	assert.False(t, v.Cadence.Begun)
	_, err = r.a.PutCadence(ctx, r.act, r.runner.ID, v.Cadence.Rev, input.CadenceRampInput{Ended: true})
	require.ErrorContains(t, err, "no change of cadence to end")
}

func TestACueIsBegunAndLookedAtAgain(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	v, err := r.a.AddCueLook(ctx, r.act, "", r.runner.ID, transition.CueLook{On: start, Cue: "posture", Begin: true})
	require.NoError(t, err)
	assert.Equal(t, "now", v.Cues[0].State)
	assert.Equal(t, start+14, *v.Cues[0].Due)
	r.refresh()
	in := 0
	for _, w := range r.block.Weeks {
		for _, d := range w.Days {
			for _, x := range d.Ramp {
				if x.Stage == record.CueStage {
					in++
					assert.Contains(t, x.Words, "Tall, lean from the ankles")
				}
			}
		}
	}
	assert.Positive(t, in, "in the easy runs")
	r.at(start+15, 12)
	_, err = r.a.ReviewAll(ctx)
	require.NoError(t, err)
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(bench.Items[0]), "Look again: posture")
	r.at(start, 12)
	assert.NotEmpty(t, v.Cues[0].Drill)
	v, err = r.a.AddCueLook(ctx, r.act, "", r.runner.ID, transition.CueLook{On: start, Cue: "posture", Took: true})
	require.NoError(t, err)
	assert.Equal(t, "done", v.Cues[0].State)
	_, err = r.a.AddCueLook(ctx, r.act, "", r.runner.ID, transition.CueLook{On: start, Cue: "hum"})
	require.ErrorContains(t, err, "not a cue")
	_, err = r.a.AddCueLook(ctx, r.act, "", r.runner.ID, transition.CueLook{On: start + 5, Cue: "arms"})
	require.ErrorContains(t, err, "future")
}

func TestARampGoesAlongInTheBundle(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	r.wish(transition.Walk)
	_, err := r.a.AddCueLook(ctx, r.act, "", r.runner.ID, transition.CueLook{On: start, Cue: "posture", Begin: true})
	require.NoError(t, err)
	b, err := r.a.ExportRunner(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	copied, err := r.a.ImportRunner(ctx, r.act, asSent(t, b), true)
	require.NoError(t, err)
	v, err := r.a.Ramp(ctx, r.act, copied.ID)
	require.NoError(t, err)
	require.NotNil(t, v.Plan)
	assert.Equal(t, r.ramp().Plan.Range, v.Plan.Range)
	assert.Len(t, v.Moves, 1)
	assert.Equal(t, "now", v.Cues[0].State)
}

// A jump in running holds the ramp; pain of 8 stops it, until a clearance.
func TestRunningAndFlagsHoldARamp(t *testing.T) {
	r := newRig(t, 21)
	r.ready()
	for week := range 5 {
		for i := range 3 {
			r.at(start-35+day.Date(7*week+2*i), 18)
			r.run(start-35+day.Date(7*week+2*i), 8)
		}
	}
	r.at(start, 9)
	v := r.wish(transition.Home)
	assert.Empty(t, v.Plan.Weeks[0].Held, "steady")
	r.live(start, start+7, nil)
	r.run(start+5, 25)
	v = r.ramp()
	assert.Equal(t, "running jumped", v.Plan.Weeks[1].Held)
	assert.Equal(t, 30, v.Plan.Weeks[1].Dose.HomeMinutes, "last week's minutes")
	_, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+7, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{"F-BONE-HIGH": body.Both}, None: []string{}}, BoneTender: true})
	require.NoError(t, err)
	v = r.ramp()
	assert.Empty(t, v.Days)
	assert.Nil(t, v.Plan.Range.Earliest)
	assert.Contains(t, v.Plan.Weeks[v.Plan.Now].Wait.Words, "a clearance for the bone pain at a high-risk place")
}
