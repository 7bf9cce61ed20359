package app_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
)

// outputs are everything that leaves a block, as text.
func (r *rig) outputs() (today, sheet, pdf, calendar string, runs int) {
	r.refresh()
	for _, w := range r.block.Weeks {
		for _, d := range w.Days {
			if d.On < r.block.Today {
				continue
			}
			if d.Run != "" {
				runs++
			}
			for _, s := range d.Sessions {
				today += s.Name + ";"
				for _, x := range s.Doses {
					today += x.Name + " " + x.Left + " | " + x.Right + ";"
				}
			}
		}
	}
	v, err := r.a.PrintSheet(ctx, r.act, r.block.ID)
	require.NoError(r.t, err)
	for _, w := range v.Sheet.Weeks {
		for _, d := range w.Days {
			sheet += strings.Join(d.Lines, ";")
		}
		for _, x := range w.Work {
			sheet += x.Name + ";"
		}
	}
	if c := v.Sheet.Care; c != nil {
		sheet += c.Title + " " + c.Do
	}
	f, err := r.a.PlanFile(ctx, r.act, r.block.ID, "pdf")
	require.NoError(r.t, err)
	pdf = string(f.Body[:5])
	f, err = r.a.PlanFile(ctx, r.act, r.block.ID, "ics")
	require.NoError(r.t, err)
	calendar = strings.ReplaceAll(string(f.Body), "\r\n ", "")
	return
}

// Under an emergency every output is the one page.
func TestUnderAnEmergencyEveryOutputIsTheOnePage(t *testing.T) {
	r := newRig(t, 21)
	self, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	self.EmergencyNumber, self.Contact, self.EmergencyText = "555 911", "the coach", "The hospital by the pier"
	_, err = r.a.PutPractice(ctx, r.act, self)
	require.NoError(t, err)
	r.at(start+2, 9)
	today, _, _, _, runs := r.outputs()
	require.NotEmpty(t, today)
	require.NotZero(t, runs)
	r.putDay(start+2, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{"F-CLOT": body.Left}, None: []string{}}})
	today, sheet, pdf, calendar, runs := r.outputs()
	assert.Empty(t, today)
	assert.Zero(t, runs)
	assert.Equal(t, "%PDF-", pdf)
	assert.Contains(t, sheet, "Get care now Call 555 911")
	assert.NotContains(t, sheet, "coach")
	assert.Empty(t, r.block.Minimum)
	require.NotNil(t, r.block.Care)
	assert.Equal(t, "The hospital by the pier", r.block.Care.Text)
	assert.Contains(t, calendar, "Get care now")
	for _, ev := range strings.Split(calendar, "BEGIN:VEVENT")[1:] {
		if !strings.Contains(ev, "Get care now") && strings.Contains(ev, "DTSTART;TZID") {
			assert.True(t, strings.Contains(ev, "STATUS:CANCELLED") || past(ev, start+2), ev)
		}
	}
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, "care", bench.Items[0].Next.Kind)
}

func past(ev string, on day.Date) bool {
	_, rest, _ := strings.Cut(ev, "DTSTART")
	i := strings.Index(rest, ":")
	return rest[i+1:i+9] < strings.ReplaceAll(on.String(), "-", "")
}

// Pain of 9 in mid-block is on the list, the bench, the sheet and the calendar at once.
func TestPainOfNineReachesEverybodyAtOnce(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	before, _, _, cal, _ := r.outputs()
	require.Contains(t, before, "Calf, straight knee")
	require.Contains(t, cal, "Calf\\, straight knee: ")
	r.putDay(start+1, input.DayInput{New: []input.PlaceReading{{Zone: "calf", Side: body.Left, FirstStep: ptr(9)}}})
	today, sheet, _, calendar, runs := r.outputs()
	assert.NotContains(t, today, "Calf, straight knee")
	assert.NotContains(t, sheet, "Calf, straight knee")
	assert.NotContains(t, calendar, "\\nCalf\\, straight knee: ")
	assert.Zero(t, runs, "no sheet lists a run that the advice forbids")
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, "flag", bench.Items[0].Next.Kind)
	assert.Equal(t, "ask", bench.Items[0].More[0].Kind, "the questions of the new place stand open")
	assert.NotEmpty(t, bench.Items[0].Phases)
	require.NotEmpty(t, r.block.Paused)
	require.Len(t, r.block.Asks, 1)
}

// No answer, no session; several a day; corrected and taken back with a reason.
func TestLoggingIsHonest(t *testing.T) {
	r := newRig(t, 21)
	r.at(start, 18)
	p := r.calf()
	var bad app.Invalid
	_, err := r.a.LogSession(ctx, r.act, "", r.block.ID, daily.SessionInput{On: start, Items: []daily.ItemInput{{PrescriptionID: p.ID, Side: body.Left}, {PrescriptionID: p.ID, Side: body.Right}}})
	require.ErrorAs(t, err, &bad)
	list, err := r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Empty(t, list, "an empty form is no session")
	r.log(start, 1, 1)
	r.log(start, 2, 1) // a second one that day
	list, err = r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	one := list[0].Items[0].ItemInput
	one.Pain, one.SetsDone, one.Done = ptr(6), ptr(1), nil
	one.Mistakes = []string{p.Notches[p.Pegs[0].Notch-1].Mistakes[0]}
	_, err = r.a.CorrectSession(ctx, r.act, r.block.ID, list[0].ID, daily.Correction{Session: &daily.SessionInput{On: start, Items: []daily.ItemInput{one}}})
	require.ErrorAs(t, err, &bad, "a reason is needed")
	before := r.calf().Pegs[0].Notch
	r.block, err = r.a.CorrectSession(ctx, r.act, r.block.ID, list[0].ID, daily.Correction{Reason: "the left hurt more", Session: &daily.SessionInput{On: start, Items: []daily.ItemInput{one}}})
	require.NoError(t, err)
	assert.Less(t, r.calf().Pegs[0].Notch, before, "less load follows at once")
	list, err = r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "the left hurt more", list[0].Reason)
	assert.Equal(t, one.Mistakes, list[0].Items[0].Mistakes)
	assert.InDelta(t, 1.0/3, *list[0].Items[0].Done, 1e-9, "one set of three")
	one.Mistakes = []string{"sings"}
	_, err = r.a.CorrectSession(ctx, r.act, r.block.ID, list[0].ID, daily.Correction{Reason: "x", Session: &daily.SessionInput{On: start, Items: []daily.ItemInput{one}}})
	require.ErrorAs(t, err, &bad)
	for _, l := range list {
		r.block, err = r.a.CorrectSession(ctx, r.act, r.block.ID, l.ID, daily.Correction{Reason: "never happened"})
		require.NoError(t, err)
	}
	_, err = r.a.CorrectSession(ctx, r.act, r.block.ID, list[0].ID, daily.Correction{Reason: "again"})
	require.ErrorIs(t, err, app.ErrConflict)
	list, err = r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
	r.at(start+20, 13)
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	kinds := []string{bench.Items[0].Next.Kind}
	for _, m := range bench.Items[0].More {
		kinds = append(kinds, m.Kind)
	}
	assert.Contains(t, kinds, "silent", "what was taken back clears no silence")
}

// The extra set of the weaker side is left out after it hurt.
func TestNoExtraSetAfterPain(t *testing.T) {
	r := newRig(t, 21)
	_, err := r.a.ChangeBlock(ctx, r.act, r.block.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "extra-set", Ladder: "calf-straight", Side: body.Left, Reason: "weaker"}, Insist: true})
	require.NoError(t, err)
	dose := func() string {
		today, _, _, _, _ := r.outputs()
		i := strings.Index(today, "Calf, straight knee ")
		require.GreaterOrEqual(t, i, 0)
		return strings.SplitN(today[i:], " |", 2)[0]
	}
	assert.Contains(t, dose(), "4 ×")
	r.log(start, 5, 1)
	assert.NotContains(t, dose(), "4 ×")
}

// A yes stays when the day is kept again without it; asked anew it goes.
func TestAYesIsNotEditedAway(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	r.putDay(start+1, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{"F-BONE": body.Left}, None: []string{"Right now"}}})
	require.Contains(t, flagsOf(r), "F-BONE")
	r.putDay(start+1, input.DayInput{PoorSleep: true})
	assert.Contains(t, flagsOf(r), "F-BONE")
	r.putDay(start+1, input.DayInput{Answers: &safety.Answers{Yes: map[string]body.Side{}, None: []string{"Bone and shin"}}})
	assert.NotContains(t, flagsOf(r), "F-BONE")
}

// A reading that is changed or taken back needs a word why.
func TestADayIsPutRightWithAReason(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 8)
	r.putDay(start+1, input.DayInput{Readings: []input.PlaceReading{{FirstStep: ptr(5)}}})
	var bad app.Invalid
	_, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Readings: []input.PlaceReading{{}}})
	require.ErrorAs(t, err, &bad)
	d, err := r.a.PutDay(ctx, r.act, r.runner.ID, start+1, input.DayInput{Readings: []input.PlaceReading{{}}, Reason: "another runner's"})
	require.NoError(t, err)
	assert.Nil(t, d.Places[0].FirstStep, "taken back")
	lines, err := r.a.Journal(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	all := ""
	for _, l := range lines {
		all += l.Sentence
	}
	assert.Contains(t, all, "Put right: another runner's")
	assert.Contains(t, all, "first steps 5")
}

// The sheet is complete: kilograms, rests, sides, mistakes, the practice and whom to
// call; the coach never stands where the emergency number belongs.
func TestTheSheetIsComplete(t *testing.T) {
	r := newRig(t, 21)
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.Contact, p.EmergencyNumber = "Nadia, 555 0100", "555 911"
	p, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	v, err := r.a.PrintSheet(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	s := v.Sheet
	assert.Equal(t, "Nadia, 555 0100", s.Contact)
	require.Len(t, s.Alarms, 3)
	assert.Equal(t, "Get care now: call 555 911", s.Alarms[0].Head)
	for _, line := range append([]string{s.Alarms[0].Head, s.Alarms[1].Head}, append(s.Alarms[0].Lines, s.Alarms[1].Lines...)...) {
		assert.NotContains(t, line, "Nadia", "the coach is for anything else")
	}
	assert.Contains(t, strings.Join(s.Alarms[0].Lines, ""), "pop or kick")
	assert.NotContains(t, strings.Join(s.Rules, ""), "pop", "one wording for a pop")
	assert.Contains(t, s.Alarms[2].Lines[0], "Nadia")
	for _, w := range s.Weeks {
		assert.Contains(t, w.Diary, "First steps 0–10")
		assert.Contains(t, w.Diary, "At rest 0–10")
		for _, x := range w.Work {
			assert.NotEmpty(t, x.Sides, x.Name)
			assert.NotEmpty(t, x.Mistakes, x.Name)
			assert.NotContains(t, x.SetUp, "The same", x.Name)
			assert.NotContains(t, x.SetUp, "As before", x.Name)
		}
	}
	p.EmergencyNumber = "the coach"
	_, err = r.a.PutPractice(ctx, r.act, p)
	var bad app.Invalid
	require.ErrorAs(t, err, &bad)
}
