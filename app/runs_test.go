package app_test

import (
	"encoding/json"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/daily"
	"notchback/app/export"
	"notchback/app/input"
	"notchback/app/review"
	"notchback/app/running"
	"notchback/app/view"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/devices"
)

func (r *rig) refresh() {
	r.t.Helper()
	b, err := r.a.CurrentBlock(ctx, r.act, r.runner.ID)
	require.NoError(r.t, err)
	r.block = *b
}

func (r *rig) run(on day.Date, km float64, change ...func(*running.RunInput)) running.RunView {
	r.t.Helper()
	in := running.RunInput{On: on, Km: km, Minutes: 6 * km}
	for _, c := range change {
		c(&in)
	}
	v, err := r.a.AddRun(ctx, r.act, "", r.runner.ID, in)
	require.NoError(r.t, err)
	return v
}

func (r *rig) putDay(on day.Date, in input.DayInput) daily.DayState {
	r.t.Helper()
	s, err := r.a.PutDay(ctx, r.act, r.runner.ID, on, in)
	require.NoError(r.t, err)
	r.refresh()
	return s
}

// The same run in three formats, twice each, and a table with the same run: it
// counts once. A damaged file among them changes nothing.
func TestAMixedFolderCountsEachRunOnce(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+20, 12)
	list := devices.Outings(r.clock, 2, 30, 4)
	require.NotEmpty(t, list)
	added := 0
	for i, o := range list {
		for _, write := range []func(uint64) ([]byte, error){o.FIT, o.GPX, o.TCX, o.FIT} {
			b, err := write(uint64(i))
			require.NoError(t, err)
			res, err := r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "x", Content: b})
			require.NoError(t, err)
			added += res.Added
			assert.Equal(t, 1, res.Added+res.Known)
		}
	}
	assert.Equal(t, len(list), added)
	bad, err := list[0].FIT(9)
	require.NoError(t, err)
	_, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "cut.fit", Content: bad[:20]})
	var invalid app.Invalid
	require.ErrorAs(t, err, &invalid)
	assert.Contains(t, invalid.Error(), "cut.fit")
	assert.Contains(t, invalid.Error(), "nothing of it was taken in")

	o := list[0]
	local := o.Start.In(time.UTC)
	table := []byte("date,start time,km,min\n" + local.Format("2006-01-02,15:04") + ",5,40\n" + local.AddDate(0, 0, 1).Format("2006-01-02,15:04") + ",5,40\n")
	res, err := r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "table.csv", Content: table})
	require.NoError(t, err)
	require.NotNil(t, res.Table, "a header never seen asks for its columns")
	assert.Zero(t, res.Added)
	res, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "table.csv", Content: table, Mapping: &res.Table.Mapping})
	require.NoError(t, err)
	assert.Equal(t, 1, res.Known, "the same start in another format")
	assert.Equal(t, 1, res.Added)
	again := append([]byte{}, table...)
	res, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "table.csv", Content: append(again, []byte(local.AddDate(0, 0, 3).Format("2006-01-02,15:04")+",4,30\n")...)})
	require.NoError(t, err)
	assert.Nil(t, res.Table, "the mapping is remembered")
	assert.Equal(t, 1, res.Added)

	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, runs, len(list)+2)
	// Taken out, a run is out of every count; the file brings it back.
	fit, err := list[0].FIT(0)
	require.NoError(t, err)
	for _, x := range runs {
		if x.Source == "fit" && x.On == day.Of(list[0].Start, time.UTC) {
			require.NoError(t, r.a.RemoveRun(ctx, r.act, x.ID, x.Rev, "not mine"))
			require.ErrorIs(t, r.a.RemoveRun(ctx, r.act, x.ID, x.Rev, "not mine"), app.ErrConflict)
		}
	}
	runs, err = r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Len(t, runs, len(list)+1)
	res, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "x.fit", Content: fit})
	require.NoError(t, err)
	assert.Equal(t, 1, res.Added)
	for kind, want := range map[string]string{"csv": "distance (m)", "gpx": "<trkpt"} {
		f, err := r.a.RunsFile(ctx, r.act, r.runner.ID, kind)
		require.NoError(t, err)
		assert.Contains(t, string(f.Body), want)
	}
}

func TestRunsThatCannotBe(t *testing.T) {
	r := newRig(t, 21)
	for field, in := range map[string]running.RunInput{
		"on":      {On: start + 60, Km: 5, Minutes: 30},
		"km":      {On: start, Km: -3, Minutes: 30},
		"minutes": {On: start, Km: 20, Minutes: 20},
		"effort":  {On: start, Km: 5, Minutes: 30, Effort: ptr(11)},
		"pain":    {On: start, Km: 5, Minutes: 30, Pain: ptr(-1)},
		"cadence": {On: start, Km: 5, Minutes: 30, Cadence: ptr(20.0)},
		"zone":    {On: start, Km: 5, Minutes: 30, Zone: "elbow"},
	} {
		_, err := r.a.AddRun(ctx, r.act, "", r.runner.ID, in)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, field)
		assert.Equal(t, field, bad[0].Field)
	}
	v := r.run(start, 5)
	_, err := r.a.ChangeRun(ctx, r.act, v.ID, v.Rev+3, v.RunInput)
	require.ErrorIs(t, err, app.ErrConflict)
	assert.Error(t, r.a.PlanWeek(ctx, r.act, r.runner.ID, start+1, 30), "not a Monday")
}

// A jump in running holds what loads, a rise does not; what is planned too big is
// warned about with the kilometres that would be steady.
func TestRunningHoldsLaddersAndWarnsAhead(t *testing.T) {
	r := newRig(t, 21)
	r.at(start, 9)
	for d := start - 28; d < start; d += 7 {
		r.run(d+1, 14)
		r.run(d+4, 14)
	}
	for _, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 2, 2)
		r.morning(on+1, 1)
	}
	require.Equal(t, adjust.Up, r.latest(body.Left).Decision.Verdict)
	r.run(start+7, 15, func(in *running.RunInput) { in.Pain = ptr(0) })
	r.run(start+8, 25)
	r.refresh()
	d := r.latest(body.Left)
	assert.Contains(t, d.Barred, "running jumps", "25 km against a longest of 14")
	_, err := r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.ErrorContains(t, err, "running jumps")
	assert.NotEmpty(t, r.block.Caps)

	require.NoError(t, r.a.PlanWeek(ctx, r.act, r.runner.ID, start+14, 60))
	v, err := r.a.Load(ctx, r.act, r.runner.ID, 8)
	require.NoError(t, err)
	assert.Equal(t, load.Spike, v.Running.Class)
	assert.Contains(t, v.Warning, "60\u00a0km next week would be a jump")
	assert.Contains(t, v.Warning, "is as usual")
	assert.NotEmpty(t, v.Missing, "efforts are not known and that is said")
	assert.Len(t, v.Components, 4)
	assert.True(t, v.Components[0].Holds)
	last := v.Days[len(v.Days)-1]
	assert.Positive(t, last.Dose[body.Achilles][load.ByRunning])
	items, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	kinds := []string{items.Items[0].Next.Kind}
	for _, n := range items.Items[0].More {
		kinds = append(kinds, n.Kind)
	}
	assert.Contains(t, kinds, "spike")
}

// A run that hurts speaks at once; a flare never leaves the kilometres standing.
func TestRunningAdviceFollowsRunsAndMornings(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+10, 9)
	r.run(start+3, 10, func(in *running.RunInput) { in.Pain = ptr(1) })
	r.run(start+9, 8, func(in *running.RunInput) { in.Pain, in.Zone, in.Side = ptr(6), "calf", body.Left })
	v, err := r.a.Load(ctx, r.act, r.runner.ID, 8)
	require.NoError(t, err)
	assert.Equal(t, load.NoRunning, v.Advice.ID)
	assert.Contains(t, v.AdviceText, "small steps of run and walk")
}

// The flare: three mornings over the usual stop the calf ladder and what shares
// its tissue; quiet holds are offered; running is cut; three quiet mornings offer
// the way back two notches lower.
func TestAFlareFromFirstStepsToTheWayBack(t *testing.T) {
	r := newRig(t, 21)
	for _, on := range []day.Date{start, start + 2, start + 4} {
		r.log(on, 2, 2)
		r.morning(on+1, 1)
	}
	_, err := r.a.AddRun(ctx, r.act, "", r.runner.ID, running.RunInput{On: start - 1, Km: 10, Minutes: 60, Pain: ptr(0)})
	require.NoError(t, err)
	at := r.calf().Pegs[0].Notch
	for d := start + 7; d <= start+9; d++ {
		r.at(d, 8)
		r.putDay(d, input.DayInput{Readings: []input.PlaceReading{{Zone: "calf", Side: body.Left, FirstStep: ptr(4)}, {Zone: "calf", Side: body.Right, FirstStep: ptr(1)}}})
	}
	left, right := r.calf().Pegs[0], r.calf().Pegs[1]
	assert.True(t, left.Stopped)
	assert.False(t, right.Stopped, "the right calf is quiet")
	assert.Contains(t, flagsOf(r), string(adjust.FlareFlag))
	assert.True(t, r.block.QuietHolds)
	v, err := r.a.Load(ctx, r.act, r.runner.ID, 8)
	require.NoError(t, err)
	assert.Equal(t, load.NoRunning, v.Advice.ID, "until three quiet mornings")
	_, err = r.change(input.BlockChange{Kind: "add", Ladder: "calm-iso", Days: []int{0, 2, 4}, Reason: "quiet holds"}, true)
	require.NoError(t, err)
	items, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, "flare", items.Items[0].Next.Kind)

	for d := start + 10; d <= start+12; d++ {
		r.at(d, 8)
		r.putDay(d, input.DayInput{Readings: []input.PlaceReading{{Zone: "calf", Side: body.Left, FirstStep: ptr(1)}}})
	}
	var back view.DecisionView
	for _, d := range r.block.Decisions {
		if d.State == "proposed" && d.Decision.Resume && d.PrescriptionID == r.calf().ID && d.Side == body.Left {
			back = d
		}
	}
	require.NotEmpty(t, back.ID, "the way back is proposed")
	r.block, err = r.a.AcceptDecision(ctx, r.act, back.ID, back.Version)
	require.NoError(t, err)
	assert.Equal(t, at-2, r.calf().Pegs[0].Notch)
	assert.False(t, r.calf().Pegs[0].Stopped)
	assert.NotContains(t, flagsOf(r), string(adjust.FlareFlag))
}

func flagsOf(r *rig) string {
	s := ""
	for _, f := range r.block.Flags {
		s += string(f.Flag) + " "
	}
	return s
}

// Fever stops sessions until 48 hours are free of it, then halves them.
func TestFeverStopsAndThenHalves(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 2)
	for d := start + 1; d <= start+2; d++ {
		r.at(d, 9)
		r.putDay(d, input.DayInput{Illness: "fever"})
	}
	assert.Contains(t, strings.Join(r.block.Caps, " "), "No session while ill")
	r.at(start+5, 9)
	r.refresh()
	assert.Contains(t, strings.Join(r.block.Caps, " "), "Half sets up to")
	r.at(start+8, 9)
	r.refresh()
	assert.Empty(t, r.block.Caps)
}

// Something new asks the safety questions; a yes closes at once and stays until
// it is asked anew.
func TestANewPlaceAsksAndAYesCloses(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 2)
	r.at(start+1, 9)
	s := r.putDay(start+1, input.DayInput{New: []input.PlaceReading{{Zone: "inner-shin", Side: body.Left}}})
	require.NotEmpty(t, s.Ask)
	id := ""
	for _, g := range s.Ask {
		for _, q := range g.Questions {
			if q.Flag == "F-BONE" {
				id = q.ID
			}
		}
	}
	require.NotEmpty(t, id)
	_, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{"no-such": body.Left}}})
	require.Error(t, err)
	s = r.putDay(start+1, input.DayInput{New: []input.PlaceReading{{Zone: "inner-shin", Side: body.Left}}, Answers: &safety.Answers{Yes: map[string]body.Side{id: body.Left}, None: []string{}}})
	assert.NotEmpty(t, s.Open, "the emergencies were not asked yet")
	s = r.putDay(start+1, input.DayInput{New: []input.PlaceReading{{Zone: "inner-shin", Side: body.Left}}, Answers: &safety.Answers{Yes: map[string]body.Side{id: body.Left}, None: []string{"Right now"}}})
	assert.Empty(t, s.Ask)
	assert.Contains(t, flagsOf(r), "F-BONE")
	assert.True(t, r.calf().Pegs[0].Stopped, "a flag stops the ladder at once")
	v, err := r.a.Load(ctx, r.act, r.runner.ID, 4)
	require.NoError(t, err)
	assert.Equal(t, load.NoRunning, v.Advice.ID)
}

// Every stored decision comes out the same when it is made again from what it was
// made from.
func TestReplayGivesTheSameDecisions(t *testing.T) {
	r := newRig(t, 21)
	r.run(start-3, 8, func(in *running.RunInput) { in.Pain, in.Zone = ptr(2), "calf" })
	for i, on := range []day.Date{start, start + 2, start + 4, start + 7, start + 9} {
		r.log(on, []body.Pain{2, 3, 5, 2, 6}[i], 2)
		r.morning(on+1, []body.Pain{1, 1, 3, 1, 2}[i])
	}
	st, err := r.a.Engine(ctx, r.act)
	require.NoError(t, err)
	assert.Positive(t, st.Looked)
	assert.Empty(t, st.Differences)
	assert.Equal(t, adjust.Version, st.Accepted)
	st, err = r.a.AcceptEngine(ctx, r.act)
	require.NoError(t, err)
	assert.Equal(t, adjust.Version, st.Accepted)
}

// Order of arrival does not matter: the mornings typed late and backwards end in
// the same decision.
func TestLateReadingsEndInTheSameDecision(t *testing.T) {
	typed := func(late bool) view.DecisionView {
		r := newRig(t, 21)
		days := []day.Date{start, start + 2, start + 4, start + 7}
		for _, on := range days {
			r.log(on, 2, 2)
			if !late {
				r.morning(on+1, 1)
			}
		}
		if late {
			r.at(start+8, 8)
			for i := len(days) - 1; i >= 0; i-- {
				_, err := r.a.PutMorning(ctx, r.act, r.runner.ID, days[i]+1, 1)
				require.NoError(t, err)
			}
		}
		r.at(start+8, 13)
		r.refresh()
		return r.latest(body.Left)
	}
	a, b := typed(false), typed(true)
	assert.Equal(t, a.Decision.Verdict, b.Decision.Verdict)
	assert.Equal(t, a.Decision.To, b.Decision.To)
	assert.Equal(t, adjust.Up, a.Decision.Verdict)
}

// Two servers do the nightly review at once: nobody is reviewed twice; a gap
// that grew overnight takes a notch; with the runner's setting a step up goes by
// itself.
func TestNightlyReviewByTwoServersAtOnce(t *testing.T) {
	r := newRig(t, 21)
	for _, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 2, 2)
		r.morning(on+1, 1)
	}
	require.Equal(t, "proposed", r.latest(body.Left).State)
	require.NoError(t, r.a.SetAutoProgress(ctx, r.act, r.runner.ID, true))
	before := r.calf().Pegs[0].Notch
	r.log(start+9, 2, 2)
	r.at(start+10, 8)
	_, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+10, input.DayInput{Readings: []input.PlaceReading{{FirstStep: ptr(1)}}})
	require.NoError(t, err)
	var wg sync.WaitGroup
	var mu sync.Mutex
	total := 0
	for range 4 {
		wg.Go(func() {
			n, err := r.a.ReviewAll(ctx)
			assert.NoError(t, err)
			mu.Lock()
			total += n.Runners
			mu.Unlock()
		})
	}
	wg.Wait()
	assert.Equal(t, 1, total)
	r.refresh()
	assert.Equal(t, before+1, r.calf().Pegs[0].Notch, "it went up by itself")
	assert.Equal(t, "accepted", r.latest(body.Left).State)
	r.clock = r.clock.AddDate(0, 0, 10)
	var n review.Nightly
	n, err = r.a.ReviewAll(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Runners)
	r.refresh()
	assert.EqualValues(t, 4, r.latest(body.Left).Decision.Row, "ten days off")
	items, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	raw, err := json.Marshal(items.Items[0])
	require.NoError(t, err)
	assert.Contains(t, string(raw), "silent")
	assert.Contains(t, string(raw), "review")
}

// A record that cannot be read keeps nobody else from their review.
func TestNightlyReviewGoesOnPastABrokenRecord(t *testing.T) {
	r := newRig(t, 21)
	one, err := r.a.ExportRunner(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	raw, err := json.Marshal(one)
	require.NoError(t, err)
	for range 5 {
		var copied export.Bundle
		require.NoError(t, json.Unmarshal(raw, &copied))
		_, err := r.a.ImportRunner(ctx, r.act, asSent(t, copied), true)
		require.NoError(t, err)
	}
	owner, err := pgx.Connect(ctx, r.owner)
	require.NoError(t, err)
	_, err = owner.Exec(ctx, `UPDATE prescriptions SET ladder_data = '[]' WHERE runner_id = $1`, r.runner.ID)
	require.NoError(t, err)
	require.NoError(t, owner.Close(ctx))
	n, err := r.a.ReviewAll(ctx)
	require.ErrorContains(t, err, r.runner.ID)
	assert.Equal(t, 5, n.Runners, "the others")
	n, err = r.a.ReviewAll(ctx)
	require.Error(t, err, "it is tried again and said again")
	assert.Zero(t, n.Runners)
}

// A coach goes through the week: everything proposed is taken, two ladders a week
// at the most, and the rest is named.
func TestFinishingAReview(t *testing.T) {
	r := newRig(t, 21)
	for _, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 2, 2)
		r.morning(on+1, 1)
	}
	w, err := r.a.ReviewOf(ctx, r.act, r.runner.ID, 0)
	require.NoError(t, err)
	assert.False(t, w.Done)
	require.Len(t, w.Days, 7)
	assert.True(t, w.Days[0].Logged)
	assert.NotEmpty(t, w.Look)
	out, err := r.a.FinishReview(ctx, r.act, r.runner.ID, 0, true)
	require.NoError(t, err)
	assert.Equal(t, 2, out.Accepted, "left and right of one ladder")
	w, err = r.a.ReviewOf(ctx, r.act, r.runner.ID, 0)
	require.NoError(t, err)
	assert.True(t, w.Done)
	// A log for something that is not there, or later than now, names its field.
	_, err = r.a.LogSession(ctx, r.act, "", r.block.ID, daily.SessionInput{On: start + 8, Items: []daily.ItemInput{{PrescriptionID: r.runner.ID, Side: body.Left}}})
	require.ErrorContains(t, err, "not one of this block's ladders")
	_, err = r.a.PutDay(ctx, r.act, r.runner.ID, start+30, input.DayInput{})
	require.ErrorContains(t, err, "in the future")
	_, err = r.a.PutDay(ctx, r.act, r.runner.ID, start, input.DayInput{Readings: []input.PlaceReading{{FirstStep: ptr(14)}}})
	require.ErrorContains(t, err, "pain must be 0 to 10")
}

// Two screens at a day: what one tells the other does not take back.
func TestADayIsKeptByField(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+2, 12)
	told := r.putDay(start+1, input.DayInput{Illness: "fever", BoneTender: true})
	before := told.Day.Rev
	require.Equal(t, 1, before)
	r.putDay(start+1, input.DayInput{CalfSoreness: ptr(2)}) // a screen that was open before anything was told
	d := r.putDay(start+1, input.DayInput{Illness: "fever", BoneTender: true, PoorSleep: true, Rev: before})
	assert.Equal(t, "fever", d.Day.Illness)
	assert.True(t, d.Day.BoneTender)
	assert.True(t, d.Day.PoorSleep)
	assert.Equal(t, ptr(2), d.Day.CalfSoreness)
	_, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Illness: "fever", BoneTender: true, CalfSoreness: ptr(7), Rev: before})
	require.ErrorContains(t, err, "calfSoreness", "both told of the same: looked at again, not overwritten")
	d = r.putDay(start+1, input.DayInput{BoneTender: true, CalfSoreness: ptr(2), Rev: d.Day.Rev, Illness: "fever"})
	assert.False(t, d.Day.PoorSleep, "what was read can be taken back")
	_, err = r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Rev: 99})
	require.ErrorIs(t, err, app.ErrConflict)
}
