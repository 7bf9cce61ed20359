package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/store"
	"notchback/store/storetest"
)

var ctx = context.Background()

// rig is an application with one runner screened and planned, on a clock the
// test moves.
type rig struct {
	t       testing.TB
	store   *store.Store
	owner   string // the database's address as its owner
	address string // and as the server's role
	a       *house.House
	act     app.Actor
	clock   time.Time
	runner  view.Runner
	block   view.Block
	known   *app.Actor // its phone, once let in
	asked   *statements
}

func ptr[T any](v T) *T { return &v }

func newRig(t testing.TB, raises float64) *rig {
	urls := storetest.Fresh(t)
	config, err := pgxpool.ParseConfig(urls.App)
	require.NoError(t, err)
	asked := &statements{}
	config.ConnConfig.Tracer = asked
	s, err := store.OpenWith(ctx, config)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	r := &rig{t: t, store: s, asked: asked, owner: urls.Owner, address: urls.App, clock: time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)}
	a, err := house.New(r.store, app.WithClock(func() time.Time { return r.clock }), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1}))
	require.NoError(t, err)
	r.a = a
	c, err := a.Found(ctx, account.FirstRun{Practice: "P", Zone: "UTC", Name: "N", Email: "n@example.test", Password: "long enough now"})
	require.NoError(t, err)
	r.act, err = a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	id := newRunner(t, r, "Ines", raises)
	r.runner, err = a.Runner(ctx, r.act, id)
	require.NoError(t, err)
	list, err := a.Screenings(ctx, r.act, id)
	require.NoError(t, err)
	r.block, err = a.PlanBlock(ctx, r.act, "", id, block.BlockInput{ScreeningID: list[0].ID})
	require.NoError(t, err)
	return r
}

// newRunner adds a runner with a finished screening: ankles of 9 cm, a count of
// raises on both sides.
func newRunner(t testing.TB, r *rig, name string, raises float64) string {
	t.Helper()
	a := r.a
	birth := day.Make(1990, time.January, 1)
	runner, err := a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: name, Birth: &birth, FirstStructuredWork: ptr(false), RecentVolumeRise: ptr(false), IntakeFirstStep: ptr(1)})
	require.NoError(t, err)
	sc, err := a.StartScreening(ctx, r.act, "", runner.ID, intake.ScreeningInput{})
	require.NoError(t, err)
	for _, side := range body.Sides {
		for slot, v := range []float64{9, 9.1, 8.9} {
			_, err = a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, side, slot+1, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
			require.NoError(t, err)
		}
		_, err = a.PutTrial(ctx, r.act, sc.ID, screening.SingleRaise, side, 1, &input.TrialInput{Trial: screening.Trial{Value: &raises, Pain: ptr(1)}}, "")
		require.NoError(t, err)
	}
	_, err = a.PlanBlock(ctx, r.act, "", runner.ID, block.BlockInput{ScreeningID: sc.ID})
	require.ErrorContains(t, err, "finish the screening first")
	_, err = a.FinishScreening(ctx, r.act, sc.ID)
	require.NoError(t, err)
	return runner.ID
}

func (r *rig) at(d day.Date, hour int) { r.clock = d.Time().Add(time.Duration(hour) * time.Hour) }

func (r *rig) calf() view.PrescriptionView {
	for _, p := range r.block.Prescriptions {
		if p.Ladder == "calf-straight" {
			return p
		}
	}
	r.t.Fatal("no calf ladder")
	return view.PrescriptionView{}
}

// log stores a session of the calf ladder on the evening of a date.
func (r *rig) log(on day.Date, left, right body.Pain) {
	r.t.Helper()
	r.at(on, 18)
	p := r.calf()
	in := daily.SessionInput{On: on}
	for i, side := range body.Sides {
		pain := []body.Pain{left, right}[i]
		in.Items = append(in.Items, daily.ItemInput{PrescriptionID: p.ID, Side: side, Pain: &pain, Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3)})
	}
	if p.Together {
		in.Items = in.Items[:1]
		in.Items[0].Side = body.Both
	}
	var err error
	r.block, err = r.a.LogSession(ctx, r.act, "", r.block.ID, in)
	require.NoError(r.t, err)
}

func (r *rig) morning(on day.Date, p body.Pain) {
	r.t.Helper()
	r.at(on, 8)
	var err error
	r.block, err = r.a.PutMorning(ctx, r.act, r.runner.ID, on, p, "asked again")
	require.NoError(r.t, err)
}

func (r *rig) latest(side body.Side) view.DecisionView {
	for _, d := range r.calf().Latest {
		if d.Side == side || d.Side == body.Both {
			return d
		}
	}
	r.t.Fatalf("no decision for %s", side)
	return view.DecisionView{}
}

var start = day.Make(2026, time.May, 4) // a Monday

func TestAStepUpWaitsForTheCoach(t *testing.T) {
	r := newRig(t, 21)
	require.Equal(t, 8, r.calf().Pegs[0].Notch, "one leg 3 × 12 from 21 raises")
	for i, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 2, 2)
		assert.Equal(t, "waiting", r.latest(body.Left).State, "session %d waits for its morning", i)
		r.morning(on+1, 1)
	}
	d := r.latest(body.Left)
	assert.Equal(t, adjust.Up, d.Decision.Verdict)
	assert.Equal(t, "proposed", d.State)
	assert.Equal(t, 8, r.calf().Pegs[0].Notch, "nothing moves before the click")
	_, err := r.a.AcceptDecision(ctx, r.act, d.ID, d.Version+1)
	require.ErrorIs(t, err, app.ErrConflict)
	r.block, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.NoError(t, err)
	assert.Equal(t, 9, r.calf().Pegs[0].Notch)
	assert.Equal(t, 8, r.calf().Pegs[1].Notch, "the other side is decided on its own")
	_, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version+1)
	require.ErrorContains(t, err, "nothing to accept")
	// A further quiet morning does not take the accepted step back.
	r.morning(start+9, 1)
	assert.Equal(t, 9, r.calf().Pegs[0].Notch)
	// A morning that turns bad does: caution after the click still speaks.
	r.morning(start+8, 4)
	assert.Equal(t, 7, r.calf().Pegs[0].Notch)
	assert.Equal(t, adjust.Back, r.latest(body.Left).Decision.Verdict)
	journal, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Greater(t, len(journal), 10)
}

func TestCautionAppliesAtOnceAndALateMorningRedecides(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 6)
	assert.Equal(t, 7, r.calf().Pegs[1].Notch, "pain 6 goes back before any morning")
	assert.Equal(t, 8, r.calf().Pegs[0].Notch)
	r.morning(start+1, 1)
	assert.Equal(t, 7, r.calf().Pegs[1].Notch, "looked at again, not taken back twice")
	r.log(start+2, 2, 6)
	assert.Equal(t, 5, r.calf().Pegs[1].Notch, "two notches the second time running")
}

func TestFlareStopsAndThreeQuietMorningsOfferARestart(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 2)
	r.morning(start+1, 3)
	r.morning(start+2, 3)
	assert.Equal(t, 7, r.calf().Pegs[0].Notch, "back by the first bad morning")
	r.morning(start+3, 3)
	assert.True(t, r.calf().Pegs[0].Stopped, "the third bad morning running")
	assert.Equal(t, adjust.Row(2), r.latest(body.Left).Decision.Row)
	r.morning(start+4, 1)
	r.morning(start+5, 2)
	assert.True(t, r.calf().Pegs[0].Stopped)
	r.morning(start+6, 1)
	d := r.latest(body.Left)
	require.True(t, d.Decision.Resume)
	assert.Equal(t, "proposed", d.State)
	r.morning(start+7, 5)
	assert.False(t, r.latest(body.Left).Decision.Resume, "a bad morning withdraws the offer")
	for i := range 3 {
		r.morning(start+8+day.Date(i), 1)
	}
	d = r.latest(body.Left)
	require.True(t, d.Decision.Resume)
	var err error
	r.block, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.NoError(t, err)
	assert.False(t, r.calf().Pegs[0].Stopped)
	assert.Equal(t, 6, r.calf().Pegs[0].Notch, "two lower than where it stopped")
}

func TestSeverePainRaisesAFlagThatNoOverrideOpens(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 1, 8)
	require.Len(t, r.block.Flags, 1)
	assert.Contains(t, r.block.Flags[0].Text, "clinician")
	assert.True(t, r.calf().Pegs[1].Stopped)
	assert.False(t, r.calf().Pegs[0].Stopped, "the other side goes on")
	d := r.latest(body.Right)
	_, err := r.a.OverrideDecision(ctx, r.act, d.ID, d.Version, daily.OverrideInput{Notch: 1, Reason: "feels fine"})
	require.ErrorContains(t, err, "clearance")
	for i := range 5 {
		r.morning(start+1+day.Date(i), 0)
	}
	assert.True(t, r.calf().Pegs[1].Stopped, "quiet mornings do not lift a flag")
}

func TestASlipEndsItsFlagAndNothingRises(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 1, 1)
	r.at(start+1, 8)
	first := func(p int) daily.DayState {
		s, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Readings: []input.PlaceReading{{FirstStep: &p}}, Reason: map[bool]string{true: "mistyped"}[p == 0]})
		require.NoError(t, err)
		r.refresh()
		return s
	}
	state := first(9)
	require.Len(t, state.Raised, 1)
	assert.Empty(t, state.Slips)
	assert.True(t, r.calf().Pegs[0].Stopped)
	state = first(0)
	require.Len(t, state.Slips, 1)
	assert.Contains(t, state.Slips[0].Text, "First steps on 5 May were 9 at first and were changed")
	assert.Len(t, state.Raised, 1, "the change alone ends nothing")
	in := daily.SlipInput{Key: state.Slips[0].Key}
	_, err := r.a.PutRight(ctx, r.act, r.runner.ID, start+1, in)
	var bad app.Invalid
	require.ErrorAs(t, err, &bad)
	in.Reason = "the nine is beside the zero"
	state, err = r.a.PutRight(ctx, r.act, r.runner.ID, start+1, in)
	require.NoError(t, err)
	assert.Empty(t, state.Raised)
	assert.Empty(t, state.Slips)
	r.refresh()
	assert.True(t, r.calf().Pegs[0].Stopped, "nothing rises by it")
	d := r.latest(body.Left)
	assert.True(t, d.Decision.Resume)
	assert.Equal(t, "proposed", d.State)
	assert.Equal(t, 6, d.Decision.To)
	_, err = r.a.PutRight(ctx, r.act, r.runner.ID, start+1, in)
	require.ErrorContains(t, err, "only who typed it")
	lines, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	var told []string
	for _, l := range lines {
		told = append(told, l.Sentence)
	}
	assert.Contains(t, strings.Join(told, "\n"), "Asked again, answered no: the nine is beside the zero")
	assert.Contains(t, strings.Join(told, "\n"), "The strong pain ends today")
}

func TestOverrideNeedsAReasonAndStaysInBounds(t *testing.T) {
	r := newRig(t, 21)
	r.log(start, 2, 2)
	d := r.latest(body.Left)
	for _, bad := range []daily.OverrideInput{{Notch: 7}, {Notch: 0, Reason: "x"}, {Notch: 10, Reason: "x"}} {
		_, err := r.a.OverrideDecision(ctx, r.act, d.ID, d.Version, bad)
		var invalid app.Invalid
		require.ErrorAs(t, err, &invalid, "%+v", bad)
	}
	var err error
	r.block, err = r.a.OverrideDecision(ctx, r.act, d.ID, d.Version, daily.OverrideInput{Notch: 5, Reason: "long travel day"})
	require.NoError(t, err)
	assert.Equal(t, 5, r.calf().Pegs[0].Notch)
	assert.Equal(t, "long travel day", r.latest(body.Left).AnswerReason)
}

func TestClosedGatesBoundTheStart(t *testing.T) {
	r := newRig(t, 8)
	assert.True(t, r.calf().Together)
	assert.Equal(t, 3, r.calf().Pegs[0].Notch)
	assert.Equal(t, "one-leg calf", r.calf().Notches[3].Locked)
	for i, on := range []day.Date{start, start + 2, start + 4, start + 7} {
		r.log(on, 1, 1)
		r.morning(on+1, 1)
		_ = i
	}
	d := r.latest(body.Left)
	assert.Equal(t, body.Both, d.Side, "two legs are decided as one")
	assert.Equal(t, adjust.Up, d.Decision.Verdict, "clean two-leg 3 × 15 proves the gate: %s", d.Sentence)
	var err error
	r.block, err = r.a.AcceptDecision(ctx, r.act, d.ID, d.Version)
	require.NoError(t, err)
	assert.Equal(t, []int{4, 4}, []int{r.calf().Pegs[0].Notch, r.calf().Pegs[1].Notch})
}

func TestFlagsActAtOnceAndOnlyAClearanceOrANewAnswerOpens(t *testing.T) {
	r := newRig(t, 21)
	start := func() record.Screening {
		sc, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
		require.NoError(t, err)
		return sc
	}
	sc := start()
	talk := input.Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{"F-POP": body.Both}, None: []string{"Right now"}}}
	_, err := r.a.PutTalk(ctx, r.act, sc.ID, 0, talk, "")
	require.ErrorContains(t, err, "can't both be", "answered twice differently: the yes counts")
	talk.Flags.None = []string{}
	sc, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, talk, "")
	require.NoError(t, err)
	require.Len(t, sc.Flags, 1)
	v := 9.0
	_, err = r.a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
	require.ErrorContains(t, err, "the pop or kick closes this test")
	_, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, talk, "")
	require.ErrorIs(t, err, app.ErrConflict, "a stale revision is refused")

	// Leaving the group open in a later screening does not lift the flag.
	later := start()
	assert.Len(t, later.Flags, 1)
	bad := intake.ClearanceInput{Flag: "F-BONE", Role: "doctor", Allowed: "all", Until: r.a.Today(r.act) + 5}
	require.ErrorContains(t, r.a.AddClearance(ctx, r.act, r.runner.ID, bad), "does not stand")
	bad.Flag = "F-POP"
	require.NoError(t, r.a.AddClearance(ctx, r.act, r.runner.ID, bad))
	later, err = r.a.Screening(ctx, r.act, later.ID)
	require.NoError(t, err)
	assert.True(t, later.Flags[0].Cleared)
	r.clock = r.clock.AddDate(0, 0, 6)
	later, err = r.a.Screening(ctx, r.act, later.ID)
	require.NoError(t, err)
	assert.False(t, later.Flags[0].Cleared, "the clearance ended")
	later, err = r.a.PutTalk(ctx, r.act, later.ID, 0, input.Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{"Right now"}}}, "")
	require.NoError(t, err)
	assert.Empty(t, later.Flags, "asked anew and answered no")
	journal, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	var said []string
	for _, l := range journal {
		said = append(said, l.Sentence)
	}
	assert.True(t, slices.ContainsFunc(said, func(s string) bool { return strings.HasPrefix(s, "Answered anew, no longer yes: A pop") }), said)
}

func TestTheCoachsOwnNoiseIsUsedAndSaidSo(t *testing.T) {
	r := newRig(t, 21)
	ids := []string{r.runner.ID}
	for _, name := range []string{"Ola", "Pia"} {
		x, err := r.a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: name})
		require.NoError(t, err)
		ids = append(ids, x.ID)
	}
	for i := range 10 {
		d := 0.1
		if i%2 == 0 {
			d = -0.1
		}
		_, err := r.a.AddEyePair(ctx, r.act, ids[i%3], intake.EyePairInput{Test: screening.KneeToWall, First: 9, Second: 9 + d})
		require.NoError(t, err)
	}
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"knee-to-wall"}, list[0].OwnNoise)
	for _, res := range list[0].Results {
		if res.Test == screening.KneeToWall {
			assert.Less(t, *res.Left.Margin, 0.1, "the usual 0.6 cm gave 0.7")
		}
	}
	_, err = r.a.AddEyePair(ctx, r.act, ids[0], intake.EyePairInput{Test: screening.Posture, First: 0, Second: 0})
	require.Error(t, err)
}

func TestUnder18NeedsAGuardian(t *testing.T) {
	r := newRig(t, 21)
	birth := day.Make(2011, time.January, 1)
	kid, err := r.a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: "Young", Birth: &birth})
	require.NoError(t, err)
	sc, err := r.a.StartScreening(ctx, r.act, "", kid.ID, intake.ScreeningInput{})
	require.NoError(t, err)
	assert.True(t, sc.Minor)
	v := 9.0
	_, err = r.a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
	require.NoError(t, err)
	_, err = r.a.FinishScreening(ctx, r.act, sc.ID)
	require.NoError(t, err)
	_, err = r.a.PlanBlock(ctx, r.act, "", kid.ID, block.BlockInput{ScreeningID: sc.ID})
	require.ErrorContains(t, err, "guardian")
	_, err = r.a.WaiveGate(ctx, r.act, sc.ID, 0, "hop", "keen")
	require.ErrorContains(t, err, "under 18")
	_, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, input.Talk{Complaints: []screening.Complaint{}, GuardianConsent: true}, "consent came later")
	require.NoError(t, err)
	_, err = r.a.PlanBlock(ctx, r.act, "", kid.ID, block.BlockInput{ScreeningID: sc.ID})
	require.NoError(t, err)
}

// asOwner is a connection that may change what the application may not.
func (r *rig) asOwner(t testing.TB) *pgx.Conn {
	c, err := pgx.Connect(ctx, r.owner)
	require.NoError(t, err)
	t.Cleanup(func() { _ = c.Close(ctx) })
	return c
}
