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

// An injured runner tries the whole once; the block lists how it felt, the best first,
// and what felt worse is left out with one press.
func TestTheFirstTryKeepsWhatFeltBest(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+1, 9)
	r.putDay(start+1, input.DayInput{Readings: []input.PlaceReading{{Zone: "heel", Side: body.Left, FirstStep: ptr(3)}}})
	b, err := r.a.CurrentBlock(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Empty(t, b.Tried, "nothing was done yet")
	var ids []string
	pains := map[string]int{}
	for _, p := range b.Prescriptions {
		for _, w := range b.Weeks {
			for _, d := range w.Days {
				for _, s := range d.Sessions {
					for _, x := range s.Doses {
						if x.PrescriptionID == p.ID && s.Kind == planning.Main && !slices.Contains(ids, p.ID) {
							ids = append(ids, p.ID)
						}
					}
				}
			}
		}
	}
	require.GreaterOrEqual(t, len(ids), 2)
	in := daily.SessionInput{On: start + 1}
	for i, id := range ids[:2] {
		for _, side := range body.Sides {
			in.Items = append(in.Items, daily.ItemInput{PrescriptionID: id, Side: side, Pain: ptr(2 - 2*i), Done: ptr(1.0), Compensated: ptr(0.0)})
		}
		for _, p := range b.Prescriptions {
			if p.ID == id {
				pains[p.Ladder] = 2 - 2*i
			}
		}
	}
	r.at(start+1, 18)
	_, err = r.a.LogSession(ctx, r.act, "", b.ID, in)
	require.NoError(t, err)
	now, err := r.a.Block(ctx, r.act, b.ID)
	require.NoError(t, err)
	b = &now
	require.Len(t, b.Tried, 2)
	assert.Zero(t, pains[b.Tried[0].Ladder])
	assert.True(t, b.Tried[0].Keep)
	assert.Equal(t, 2, pains[b.Tried[1].Ladder])
	assert.False(t, b.Tried[1].Keep)
	assert.Equal(t, "up to 2 of 10", b.Tried[1].Words)
	out := b.Tried[1].Ladder
	done, err := r.a.ChangeBlock(ctx, r.act, b.ID, block.ChangeInput{BlockChange: input.BlockChange{Kind: "leave-out", Ladder: out, Reason: "the rest felt better"}, Revision: b.Revision})
	require.NoError(t, err)
	assert.Empty(t, done.Block.Tried, "one left has nothing to be compared with")
	for _, w := range done.Block.Weeks {
		for _, d := range w.Days {
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					assert.False(t, d.On > done.Block.Today && x.Ladder == out)
				}
			}
		}
	}
}
