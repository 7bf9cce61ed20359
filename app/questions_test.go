package app_test

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/pocket"
	"notchback/app/practice"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
)

const stung = "Stung by a weever fish within two weeks"

func (r *rig) ask(in practice.OwnQuestionInput) safety.Own {
	r.t.Helper()
	list, err := r.a.AddOwnQuestion(ctx, r.act, in)
	require.NoError(r.t, err)
	return list.Items[len(list.Items)-1].Own
}

// A practice's own question is added by its owner, asked of everybody from then on, and
// holds nobody up who was asked before there was one.
func TestAPracticesOwnQuestionIsAskedAndCloses(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	require.True(t, r.running())
	for _, bad := range []practice.OwnQuestionInput{{Text: stung, Level: safety.Refer}, {Text: "Stung", Level: safety.Note}, {Text: stung, Level: safety.Limit, Closes: []string{"everything"}}, {Text: stung, Level: "urgent"}} {
		_, err := r.a.AddOwnQuestion(ctx, r.act, bad)
		require.Error(t, err, bad)
	}
	coach := r.act
	coach.User.Role = "coach"
	_, err := r.a.AddOwnQuestion(ctx, coach, practice.OwnQuestionInput{Text: stung, Level: safety.Note})
	require.ErrorContains(t, err, "owner")
	o := r.ask(practice.OwnQuestionInput{Text: stung, Level: safety.Refer, Closes: []string{"calf ladders", "barefoot", "running"}, Side: true})
	assert.Equal(t, []string{"running", "barefoot", "calf ladders"}, o.Closes, "in the order offered")
	_, err = r.a.AddOwnQuestion(ctx, r.act, practice.OwnQuestionInput{Text: strings.ToUpper(stung), Level: safety.Note})
	require.ErrorContains(t, err, "asked already")

	r.refresh()
	assert.True(t, r.running(), "an older screening is as it was")
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.NotContains(t, list[0].Unasked, safety.OwnGroup)

	// On a day something is new it is asked, and a yes stops running at once.
	r.putDay(start+1, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{o.ID: body.Left}, None: []string{"Right now"}}})
	assert.Contains(t, flagsOf(r), o.ID)
	assert.False(t, r.running())
	assert.True(t, slices.ContainsFunc(r.block.Decisions, func(d view.DecisionView) bool {
		return strings.Contains(d.Sentence, "“"+stung+"” closes this ladder")
	}))
	lines, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(lines, func(l daily.JournalLine) bool {
		return strings.Contains(l.Sentence, "Answered yes. "+stung)
	}), "the journal has its words")

	// It is not edited away, and a clearance names it and opens it.
	r.putDay(start+1, input.DayInput{PoorSleep: true})
	assert.Contains(t, flagsOf(r), o.ID)
	require.NoError(t, r.a.AddClearance(ctx, r.act, r.runner.ID, intake.ClearanceInput{Flag: safety.FlagID(o.ID), Role: "physician", Allowed: "running", Until: start + 30}))
	r.refresh()
	i := slices.IndexFunc(r.block.Flags, func(f record.FlagView) bool { return f.Flag == safety.FlagID(o.ID) })
	assert.True(t, i < 0 || r.block.Flags[i].Cleared)

	// The next screening asks it; unanswered it is open, answered no it is over.
	r.at(start+2, 9)
	s, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
	require.NoError(t, err)
	last := s.Questions[len(s.Questions)-1]
	require.Equal(t, safety.OwnGroup, last.Name)
	require.Equal(t, stung, last.Questions[0].Text)
	talk := input.Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{}}}
	for _, g := range s.Questions[:len(s.Questions)-1] {
		talk.Flags.None = append(talk.Flags.None, g.Name)
	}
	talk.Flags.Own = []safety.Own{{ID: "own-mine", Text: "Nothing at all, really", Level: safety.Note}} // a client writes nothing here
	s, err = r.a.PutTalk(ctx, r.act, s.ID, 0, talk, "")
	require.NoError(t, err)
	assert.Equal(t, []string{safety.OwnGroup}, s.Unasked)
	assert.Equal(t, []safety.Own{o}, s.Talk.Flags.Own)
	g, _ := safety.Find(s.Gates, safety.BarefootWalk)
	assert.Contains(t, strings.Join(g.Missing, "; "), "every safety question answered")
	// Once it is finished, a correction of something else doesn't make the question go.
	_, err = r.a.PutTrial(ctx, r.act, s.ID, screening.Arch, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: ptr(2.0)}}, "")
	require.NoError(t, err)
	_, err = r.a.FinishScreening(ctx, r.act, s.ID)
	require.NoError(t, err)
	talk.Shoes = "worn"
	s, err = r.a.PutTalk(ctx, r.act, s.ID, 1, talk, "the shoes")
	require.NoError(t, err)
	assert.Equal(t, []string{safety.OwnGroup}, s.Unasked, "still open")
	talk.Flags.None = append(talk.Flags.None, safety.OwnGroup)
	s, err = r.a.PutTalk(ctx, r.act, s.ID, 2, talk, "asked now")
	require.NoError(t, err)
	assert.Empty(t, s.Unasked)
	r.refresh()
	assert.NotContains(t, flagsOf(r), o.ID)
}

// running reports whether the block plans a run from today on.
func (r *rig) running() bool {
	r.refresh()
	for _, w := range r.block.Weeks {
		for _, d := range w.Days {
			if d.On >= day.Of(r.clock, time.UTC) && d.Run != "" {
				return !slices.ContainsFunc(r.block.Flags, func(f record.FlagView) bool { return !f.Cleared && f.ClosesRunning() })
			}
		}
	}
	return false
}

// An emergency of the practice's own is on the phone's list of those, and its page at once;
// in another practice, which does not ask it, it stands all the same.
func TestAnOwnEmergencyReachesPhoneAndNextPractice(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	o := r.ask(practice.OwnQuestionInput{Text: "Lips or tongue swollen after a sting", Level: safety.Emergency})
	act, _ := r.phone()
	plan, err := r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	assert.Contains(t, plan.Emergency, o.ID)
	assert.Contains(t, plan.NoRunIf, o.ID)
	for _, z := range plan.Zones {
		assert.Contains(t, z.Groups, safety.OwnGroup)
	}
	x := r.report(pocket.OfMorning, start+1)
	x.Morning = &pocket.MorningPart{Answers: &safety.Answers{Yes: map[string]body.Side{o.ID: body.Both}, None: []string{}}}
	require.Equal(t, "taken", r.sync(act, x)[0].State)
	plan, err = r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	require.NotNil(t, plan.Care)
	assert.Contains(t, plan.Care.Signs, o.Text+".")
	y := r.report(pocket.OfMorning, start+1)
	y.Morning = &pocket.MorningPart{Answers: &safety.Answers{Yes: map[string]body.Side{"own-nothere": body.Both}, None: []string{}}}
	assert.Equal(t, "refused", r.sync(act, y)[0].State, "a question nobody asked")

	b, err := r.a.ExportRunner(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	next := newRig(t, 21)
	next.at(start+2, 9)
	made, err := next.a.ImportRunner(ctx, next.act, bytes.NewReader(raw), true)
	require.NoError(t, err)
	block, err := next.a.CurrentBlock(ctx, next.act, made.ID)
	require.NoError(t, err)
	require.NotNil(t, block.Care, "a caution comes along")
	assert.Contains(t, block.Care.Signs, o.Text+".")
	id := `"id":"` + o.ID + `"`
	worse := strings.ReplaceAll(string(raw), id, `"id":"F-POP"`)
	require.True(t, worse != string(raw), "the question goes along")
	_, err = next.a.ImportRunner(ctx, next.act, strings.NewReader(worse), true)
	require.Error(t, err)
}

// A phone says the names of groups as it reads them.
func TestNoneOfTheseIsUnderstoodInEveryLanguage(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.Language = "de"
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	act, _ := r.phone()
	plan, err := r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	i := slices.IndexFunc(plan.Zones, func(z pocket.Zone) bool { return z.ID == "heel" })
	require.NotContains(t, plan.Zones[i].Groups, "Bone and shin")
	x := r.report(pocket.OfMorning, start+1)
	x.Morning = &pocket.MorningPart{New: []input.PlaceReading{{Zone: "heel", Side: body.Left, FirstStep: ptr(2)}}, Answers: &safety.Answers{Yes: map[string]body.Side{}, None: plan.Zones[i].Groups}}
	require.Equal(t, "taken", r.sync(act, x)[0].State)
	r.refresh()
	assert.NotContains(t, flagsOf(r), string(safety.Open))
	assert.Equal(t, "Bone and shin", words.Original(words.German.Text("Bone and shin")))
	assert.Equal(t, "something else", words.Original("something else"))
}
