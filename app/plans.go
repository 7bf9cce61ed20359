package app

import (
	"context"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
	"notchback/store"
)

// ChoiceView is a ladder of a plan in words.
type ChoiceView struct {
	Ladder       string              `json:"ladder"`
	Name         string              `json:"name"`
	Exercise     string              `json:"exercise" doc:"Of the starting notch"`
	Role         planning.Role       `json:"role"`
	For          []string            `json:"for" nullable:"false"`
	Place        catalogue.Place     `json:"place"`
	Words        string              `json:"words"`
	Notch        int                 `json:"notch"`
	Notches      int                 `json:"notches"`
	Reasons      []ReasonView        `json:"reasons" nullable:"false"`
	Ceiling      int                 `json:"ceiling"`
	Locks        []string            `json:"locks" nullable:"false"`
	Swaps        []string            `json:"swaps" nullable:"false"`
	Instead      string              `json:"instead,omitempty"`
	Notes        []string            `json:"notes" nullable:"false"`
	FromWeek     int                 `json:"fromWeek"`
	Days         []int               `json:"days" nullable:"false" doc:"Monday 0"`
	Why          []string            `json:"why" nullable:"false"`
	Blocked      []string            `json:"blocked" nullable:"false" doc:"What keeps it off other days"`
	Path         []planning.Expected `json:"path" nullable:"false"`
	Stops        string              `json:"stops,omitempty"`
	ExtraSetSide body.Side           `json:"extraSetSide,omitempty"`
	Minutes      float64             `json:"minutes"`
}

// RelaxView is a way out in words.
type RelaxView struct {
	Kind  planning.RelaxKind `json:"kind"`
	Words string             `json:"words"`
	Week  planning.Week      `json:"week"`
	Leave string             `json:"leave,omitempty" doc:"The ladder it leaves out"`
}

// MinimumView is a part of the five-minute plan in words.
type MinimumView struct {
	Ladder  string  `json:"ladder"`
	Name    string  `json:"name"`
	Words   string  `json:"words"`
	Minutes float64 `json:"minutes"`
}

// MainDay is why a main session stands on a day.
type MainDay struct {
	Day int      `json:"day"`
	Why []string `json:"why" nullable:"false"`
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
	Choices     []ChoiceView           `json:"choices" nullable:"false"`
	Left        []planning.Left        `json:"left" nullable:"false"`
	Main        []MainDay              `json:"main" nullable:"false"`
	Days        [][]planning.Session   `json:"days" nullable:"false" doc:"The usual week, Monday first"`
	Weeks       []planning.WeekPlan    `json:"weeks" nullable:"false"`
	Relax       []RelaxView            `json:"relax" nullable:"false"`
	Minimum     []MinimumView          `json:"minimum" nullable:"false"`
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
func (a *App) PreviewPlan(ctx context.Context, act Actor, runner string, in PreviewInput) (PlanView, error) {
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
			if err := a.checkWishes(w, s.layers); err != nil {
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
func (a *App) CompareSchools(ctx context.Context, act Actor, runner string, in CompareInput) (Comparison, error) {
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
			if err := faults([]string{"a", "b"}[i], school.Check()); err != nil {
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
