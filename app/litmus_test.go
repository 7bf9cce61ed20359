package app_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/block"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/core/body"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
)

// The ten steps on heels and toes stand first and last of strength work while a place
// hurts: on the block, on the sheet, in the calendar; and nowhere before.
func TestTheWalkStandsWhereAPlaceHurts(t *testing.T) {
	r := newRig(t, 21)
	walked := func() (main, walk int, sheet, calendar string) {
		b, err := r.a.CurrentBlock(ctx, r.act, r.runner.ID)
		require.NoError(t, err)
		for _, w := range b.Weeks {
			for _, d := range w.Days {
				for _, s := range d.Sessions {
					if d.On < b.Today || s.Kind != planning.Main {
						assert.Empty(t, s.Litmus, "%s %s", d.On, s.Name)
						continue
					}
					main++
					if s.Litmus != "" {
						walk++
					}
				}
			}
		}
		p, err := r.a.PrintSheet(ctx, r.act, b.ID)
		require.NoError(t, err)
		for _, w := range p.Sheet.Weeks {
			sheet += strings.Join(w.Notes, "\n")
		}
		ics, err := r.a.PlanFile(ctx, r.act, b.ID, "ics")
		require.NoError(t, err)
		return main, walk, sheet, strings.ReplaceAll(strings.ReplaceAll(string(ics.Body), "\r\n ", ""), "\\,", ",")
	}
	r.at(start+1, 9)
	main, walk, sheet, calendar := walked()
	assert.Positive(t, main)
	assert.Zero(t, walk)
	assert.NotContains(t, sheet, words.Litmus)
	assert.NotContains(t, calendar, words.Litmus)

	r.putDay(start+1, input.DayInput{Readings: []input.PlaceReading{{Zone: "heel", Side: body.Left, FirstStep: ptr(3)}}})
	main, walk, sheet, calendar = walked()
	assert.Positive(t, main)
	assert.Equal(t, main, walk)
	assert.Contains(t, sheet, words.Litmus)
	assert.Contains(t, calendar, words.Litmus)
}

// The floor of the day is asked; a hard one is said on the plan and beside the ramp.
func TestAHardFloorIsSaid(t *testing.T) {
	r := newRig(t, 21)
	for _, floor := range []string{"soft", "hard"} {
		runner, err := r.a.AddRunner(ctx, r.act, "", input.RunnerInput{Name: "On " + floor + " floors"})
		require.NoError(t, err)
		sc, err := r.a.StartScreening(ctx, r.act, "", runner.ID, intake.ScreeningInput{})
		require.NoError(t, err)
		_, err = r.a.PutTalk(ctx, r.act, sc.ID, 0, input.Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{}}, Floor: floor}, "")
		require.NoError(t, err)
		_, err = r.a.PutTrial(ctx, r.act, sc.ID, screening.KneeToWall, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: ptr(9.0)}}, "")
		require.NoError(t, err)
		_, err = r.a.FinishScreening(ctx, r.act, sc.ID)
		require.NoError(t, err)
		b, err := r.a.PlanBlock(ctx, r.act, "", runner.ID, block.BlockInput{ScreeningID: sc.ID})
		require.NoError(t, err)
		assert.Equal(t, floor == "hard", slices.Contains(b.Says, planning.OnHardFloor), floor)
		ramp, err := r.a.Ramp(ctx, r.act, runner.ID)
		require.NoError(t, err)
		assert.Equal(t, floor == "hard", slices.Contains(ramp.Cautions, planning.OnHardFloor), floor)
	}
}
