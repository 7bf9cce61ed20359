package app_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/screening"
)

func (r *rig) put(sc string, test screening.TestID, side body.Side, slot int, v float64) record.Screening {
	r.t.Helper()
	out, err := r.a.PutTrial(ctx, r.act, sc, test, side, slot, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
	require.NoError(r.t, err)
	return out
}

func (r *rig) screening() record.Screening {
	r.t.Helper()
	sc, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
	require.NoError(r.t, err)
	return sc
}

func resultOf(s record.Screening, id screening.TestID) record.JudgedResult {
	for _, r := range s.Results {
		if r.Test == id {
			return r
		}
	}
	return record.JudgedResult{}
}

func TestReTestsInsideAndBetweenVisits(t *testing.T) {
	r := newRig(t, 21) // knee to wall 9.0 on both sides
	r.clock = r.clock.AddDate(0, 0, 14)
	sc := r.screening()
	for slot := 1; slot <= 3; slot++ {
		sc = r.put(sc.ID, screening.KneeToWall, body.Left, slot, 11)
		sc = r.put(sc.ID, screening.KneeToWall, body.Right, slot, 9.4)
	}
	j := resultOf(sc, screening.KneeToWall)
	require.NotNil(t, j.Since)
	assert.Equal(t, screening.Better, j.Since.Left.Change)
	assert.Equal(t, screening.Same, j.Since.Right.Change)
	assert.Equal(t, "no real change (smallest real change 1.7)", j.Since.Say.Right)
	assert.Nil(t, j.After)
	for slot := 6; slot <= 8; slot++ {
		sc = r.put(sc.ID, screening.KneeToWall, body.Right, slot, 11.4)
	}
	j = resultOf(sc, screening.KneeToWall)
	require.NotNil(t, j.AfterSay, "the look after a routine is compared within the visit")
	assert.Contains(t, j.AfterSay.Right, "better by 2 cm")
	assert.InDelta(t, 9.4, *j.Right.Value, 1e-9, "and does not change the first look")
}

func TestTrialsKnowTheirPlace(t *testing.T) {
	r := newRig(t, 21)
	sc := r.screening()
	try := func(test screening.TestID, side body.Side, slot int, v float64) error {
		_, err := r.a.PutTrial(ctx, r.act, sc.ID, test, side, slot, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
		return err
	}
	require.ErrorContains(t, try(screening.CadenceTest, body.Left, 1, 168), "once, as both")
	require.ErrorContains(t, try(screening.KneeToWall, body.Both, 1, 9), "left and right")
	require.ErrorContains(t, try(screening.KneeToWall, body.Left, 10, 9), "1 to 5")
	require.ErrorContains(t, try("pogo-one", body.Left, 1, 5), "hop")
	require.ErrorIs(t, try("no-such", body.Left, 1, 5), app.ErrNotFound)
	require.NoError(t, try(screening.CadenceTest, body.Both, 1, 168))
	n, of := 6, 40
	got, err := r.a.PutTrial(ctx, r.act, sc.ID, screening.Crossing, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Count: &n, Of: &of}}, "")
	require.NoError(t, err)
	assert.EqualValues(t, 15, *resultOf(got, screening.Crossing).Left.Value)
}

func TestChoicesAboutFindingsAreKeptWithTheirReasons(t *testing.T) {
	r := newRig(t, 12)
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	sc := list[0]
	require.NotEmpty(t, sc.Findings)
	key := sc.Findings[0].Key()
	_, err = r.a.PutChoice(ctx, r.act, sc.ID, 0, screening.Choice{Key: key, Move: "demote"})
	require.ErrorContains(t, err, "say why")
	_, err = r.a.PutChoice(ctx, r.act, sc.ID, 0, screening.Choice{Key: "no/such", Move: "promote"})
	require.ErrorContains(t, err, "no such finding")
	sc, err = r.a.PutChoice(ctx, r.act, sc.ID, 0, screening.Choice{Key: key, Move: "demote", Reason: "race first", Remark: "after the relay"})
	require.NoError(t, err)
	last := sc.Findings[len(sc.Findings)-1]
	assert.Equal(t, key, last.Key())
	assert.Equal(t, "after the relay", last.Remark)
	_, err = r.a.PutChoice(ctx, r.act, sc.ID, 0, screening.Choice{Key: key})
	require.ErrorIs(t, err, app.ErrConflict, "another device chose meanwhile")
}

func TestConditionsGiveTheReachItsComposite(t *testing.T) {
	r := newRig(t, 21)
	sc := r.screening()
	leg := 80.0
	sc, err := r.a.PutConditions(ctx, r.act, sc.ID, 0, input.Conditions{LegLeftCm: &leg, LegRightCm: &leg}, "")
	require.NoError(t, err)
	assert.Empty(t, sc.Reach)
	for _, id := range []screening.TestID{screening.ReachForward, screening.ReachSide, screening.ReachBack, screening.ReachCrossed} {
		sc = r.put(sc.ID, id, body.Left, 1, 60)
	}
	require.Len(t, sc.Reach, 1)
	assert.InDelta(t, 75, sc.Reach[0].CompositePercent, 1e-9)
	_, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, input.Talk{Complaints: []screening.Complaint{{Zone: "elbow", Side: body.Left}}}, "")
	require.ErrorContains(t, err, "elbow")
}

func TestAFinishedScreeningIsCorrectedOnlyWithAReason(t *testing.T) {
	r := newRig(t, 21)
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	sc := list[0]
	v := 12.0
	in := &input.TrialInput{Trial: screening.Trial{Value: &v}}
	_, err = r.a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, body.Left, 1, in, "")
	require.ErrorContains(t, err, "say why")
	_, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, input.Talk{Complaints: []screening.Complaint{}}, "")
	require.ErrorContains(t, err, "say why")
	_, err = r.a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, body.Left, 1, in, "read off the wrong end")
	require.NoError(t, err)
	journal, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Contains(t, journal[0].Sentence, "read off the wrong end")
}
