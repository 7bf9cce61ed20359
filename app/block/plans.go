package block

import (
	"context"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
	"notchback/store"
)

// RelaxView is a way out in words.
type RelaxView struct {
	Kind  planning.RelaxKind `json:"kind"`
	Words string             `json:"words"`
	Week  planning.Week      `json:"week"`
	Leave string             `json:"leave,omitempty" doc:"The ladder it leaves out"`
	Small bool               `json:"small,omitempty" doc:"It is the five-minute plan"`
}

// PlanView is a plan before anybody has signed it, in words.
type PlanView struct {
	RunnerID    string                 `json:"runnerId"`
	RunnerName  string                 `json:"runnerName"`
	ScreeningID string                 `json:"screeningId"`
	Start       day.Date               `json:"start" format:"date"`
	Wishes      planning.Wishes        `json:"wishes"`
	Fits        bool                   `json:"fits"`
	Injured     bool                   `json:"injured"`
	Phases      []planning.RegionPhase `json:"phases" nullable:"false"`
	Choices     []view.ChoiceView      `json:"choices" nullable:"false"`
	Left        []planning.Left        `json:"left" nullable:"false"`
	Main        []view.MainDay         `json:"main" nullable:"false"`
	Days        [][]planning.Session   `json:"days" nullable:"false" doc:"The usual week, Monday first"`
	Weeks       []planning.WeekPlan    `json:"weeks" nullable:"false"`
	Relax       []RelaxView            `json:"relax" nullable:"false"`
	Minimum     []view.MinimumView     `json:"minimum" nullable:"false"`
	Minutes     planning.Minutes       `json:"minutes"`
	Says        []string               `json:"says" nullable:"false"`
	Remarks     []string               `json:"remarks" nullable:"false"`
	Changes     []string               `json:"changes" nullable:"false" doc:"Against the plan with the saved wishes"`
	Cautions    []string               `json:"cautions" nullable:"false"`
}

// PreviewInput asks what a plan would be.
type PreviewInput struct {
	ScreeningID string           `json:"screeningId,omitempty" doc:"The newest finished one when empty"`
	StartOn     *day.Date        `json:"startOn,omitempty" format:"date"`
	Wishes      *planning.Wishes `json:"wishes,omitempty" doc:"The saved ones when missing"`
}

// PreviewPlan makes a plan without saving anything, and says what changes
// against the plan with the saved wishes.
func (a *Blocks) PreviewPlan(ctx context.Context, act app.Actor, runner string, in PreviewInput) (PlanView, error) {
	var out PlanView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		s, err := a.openStudio(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := s.from(in.ScreeningID); err != nil {
			return err
		}
		start := a.Today(act)
		if in.StartOn != nil {
			start = *in.StartOn
		}
		w := s.saved
		if in.Wishes != nil {
			w = *in.Wishes
			if err := record.CheckWishes(w, s.layers); err != nil {
				return err
			}
		}
		p := s.plan(start, w)
		out = s.view(p, w)
		base := s.plan(start, s.saved)
		for _, c := range planning.Compare(base, p) {
			out.Changes = append(out.Changes, words.Change(c))
		}
		if err := s.mayPlan(start); err != nil {
			out.Remarks = append([]string{err.Error()}, out.Remarks...)
		}
		return nil
	})
	return out, err
}

// CompareInput asks for the same runner under two sets of schools.
type CompareInput struct {
	ScreeningID string          `json:"screeningId,omitempty"`
	A           planning.School `json:"a"`
	B           planning.School `json:"b"`
}

// Comparison is the same runner planned twice.
type Comparison struct {
	A       PlanView          `json:"a"`
	B       PlanView          `json:"b"`
	Changes []planning.Change `json:"changes" nullable:"false"`
	Words   []string          `json:"words" nullable:"false"`
}

// CompareSchools plans the same runner under two schools and lists what differs.
func (a *Blocks) CompareSchools(ctx context.Context, act app.Actor, runner string, in CompareInput) (Comparison, error) {
	out := Comparison{Words: []string{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		s, err := a.openStudio(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := s.from(in.ScreeningID); err != nil {
			return err
		}
		var ps [2]planning.Proposal
		for i, school := range []planning.School{in.A, in.B} {
			if err := app.Faults([]string{"a", "b"}[i], school.Check()); err != nil {
				return err
			}
			w := s.saved
			w.School = s.saved.School.Over(school)
			ps[i] = s.plan(a.Today(act), w)
			v := s.view(ps[i], w)
			if i == 0 {
				out.A = v
			} else {
				out.B = v
			}
		}
		out.Changes = planning.Compare(ps[0], ps[1])
		for _, c := range out.Changes {
			out.Words = append(out.Words, words.Change(c))
		}
		return nil
	})
	return out, err
}
