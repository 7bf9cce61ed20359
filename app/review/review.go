package review

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/stats"
	"notchback/core/words"
	"notchback/store"
)

// ReviewDay is one day of a runner's week.
type ReviewDay struct {
	On        day.Date `json:"on" format:"date"`
	Km        float64  `json:"km"`
	RunPain   *int     `json:"runPain,omitempty"`
	FirstStep *int     `json:"firstStep,omitempty"`
	Rest      *int     `json:"rest,omitempty"`
	Planned   int      `json:"plannedMinutes"`
	Logged    bool     `json:"logged"`
	Pain      *int     `json:"pain,omitempty" doc:"Worst pain of the session"`
	Notes     []string `json:"notes" nullable:"false"`
}

// ReviewWeek is a runner's week with what it decides.
type ReviewWeek struct {
	RunnerID   string        `json:"runnerId"`
	RunnerName string        `json:"runnerName"`
	Monday     day.Date      `json:"monday" format:"date"`
	Days       []ReviewDay   `json:"days" nullable:"false"`
	Week       view.LoadWeek `json:"week"`
	Advice     string        `json:"advice"`
	AdviceWhy  string        `json:"adviceWhy"`
	Warning    string        `json:"warning,omitempty"`
	Look       []string      `json:"look" nullable:"false" doc:"The week's medians against where they were"`
	Done       bool          `json:"done" doc:"A coach went through this week"`
	Block      *view.Block   `json:"block,omitempty"`
}

// ReviewOf returns a runner's week, the last complete one when monday is 0, with
// the decisions of today.
func (a *Reviews) ReviewOf(ctx context.Context, act app.Actor, runner string, monday day.Date) (ReviewWeek, error) {
	out := ReviewWeek{Days: []ReviewDay{}, Look: []string{}}
	today := a.Today(act)
	if monday == 0 {
		monday = record.ReviewMonday(today)
	}
	monday = monday.Monday()
	if monday < today-input.RunsBack || monday > today {
		return out, app.Wrong("monday", fmt.Sprintf("%s is no week that can be reviewed; expected one of the last %d days", monday, input.RunsBack))
	}
	if err := a.CatchUp(ctx, act, runner); err != nil {
		return out, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		g, f := k.G, k.F
		out.RunnerID, out.RunnerName, out.Monday = runner, k.D.Runner.Name, monday
		if out.Done, err = tx.Reviewed(ctx, runner, monday.Time()); err != nil {
			return err
		}
		if f != nil {
			v, err := view.BlockOf(f)
			if err != nil {
				return err
			}
			out.Block = &v
		}
		v := view.LoadOf(k, max(4, int(today.Monday()-monday)/7+1))
		for _, w := range v.Weeks {
			if w.Monday == monday {
				out.Week = w
			}
		}
		out.Advice, out.AdviceWhy, out.Warning = v.AdviceText, v.AdviceWhy, v.Warning
		for i := range 7 {
			out.Days = append(out.Days, reviewDay(g, out.Block, monday+day.Date(i), v))
		}
		if f != nil {
			out.Look = weekLook(f, monday)
		}
		return nil
	})
	return out, err
}

func reviewDay(g *record.Gathered, b *view.Block, on day.Date, v view.LoadView) ReviewDay {
	x := ReviewDay{On: on, Notes: []string{}}
	for _, d := range v.Days {
		if d.On == on {
			x.Km, x.FirstStep, x.Rest, x.RunPain, x.Pain = float64(d.Metres)/1000, d.FirstStep, d.Rest, d.RunPain, d.Pain
		}
	}
	if b != nil {
		for _, w := range b.Weeks {
			for _, d := range w.Days {
				if d.On != on {
					continue
				}
				x.Logged = d.Logged
				for _, s := range d.Sessions {
					x.Planned += s.Minutes
				}
			}
		}
	}
	n, ok := g.Notes[on]
	if !ok {
		return x
	}
	switch n.Illness {
	case "fever":
		x.Notes = append(x.Notes, "ill with fever")
	case "cold":
		x.Notes = append(x.Notes, "ill without fever")
	}
	switch {
	case n.ShortSleep:
		x.Notes = append(x.Notes, "under six hours of sleep")
	case n.PoorSleep:
		x.Notes = append(x.Notes, "poor sleep")
	}
	for _, p := range n.New {
		x.Notes = append(x.Notes, "new: "+input.ZoneName(p.Zone))
	}
	if n.Note != "" {
		x.Notes = append(x.Notes, n.Note)
	}
	return x
}

// weekLook says the week's median of first steps against the week before and the
// start.
func weekLook(f *record.Frame, monday day.Date) []string {
	median := func(from day.Date) (float64, int) {
		var x []float64
		for _, m := range f.Mornings {
			if m.On >= from && m.On < from+7 {
				x = append(x, float64(m.FirstStep))
			}
		}
		v, _ := stats.Median(x)
		return v, len(x)
	}
	now, n := median(monday)
	before, k := median(monday - 7)
	out := []string{}
	if n == 0 {
		return append(out, "No first steps known this week: nothing goes up without them.")
	}
	s := fmt.Sprintf("First steps: median %s of %s", words.Number(now, 1), app.Plural(n, "morning", "mornings"))
	if k > 0 {
		s += fmt.Sprintf(", %s the week before", words.Number(before, 1))
	}
	out = append(out, s+fmt.Sprintf("; the block began at %s.", words.Number(f.B0, 1)))
	if n < 7 {
		out = append(out, app.Plural(7-n, "morning is", "mornings are")+" not known.")
	}
	return out
}

// Accepted says what became of accepting everything.
type Accepted struct {
	Accepted int        `json:"accepted"`
	Left     []string   `json:"left" nullable:"false" doc:"What was not accepted, and why"`
	Block    view.Block `json:"block"`
}

// FinishReview notes that a coach went through a runner's week; with accept it
// first takes every step up that is proposed, in the order of the findings, two
// ladders a week at the most.
func (a *Reviews) FinishReview(ctx context.Context, act app.Actor, runner string, monday day.Date, accept bool) (Accepted, error) {
	out := Accepted{Left: []string{}}
	if monday == 0 {
		monday = record.ReviewMonday(a.Today(act))
	}
	if today := a.Today(act); monday < today-input.RunsBack || monday > today {
		return out, app.Wrong("monday", fmt.Sprintf("%s is no week that can be reviewed; expected one of the last %d days", monday, input.RunsBack))
	}
	if err := a.CatchUp(ctx, act, runner); err != nil {
		return out, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		if k.F == nil {
			return app.Refused("this runner has no block to review")
		}
		if k.F.Phased, err = record.PhasedSince(ctx, tx, runner, k.F); err != nil {
			return err
		}
		out.Block, err = view.BlockOf(k.F)
		return err
	})
	if err != nil {
		return out, err
	}
	current := out.Block
	if accept {
		order := map[string]int{}
		for i, p := range current.Prescriptions {
			order[p.ID] = i
		}
		todo := slices.Clone(current.Decisions)
		slices.SortStableFunc(todo, func(x, y view.DecisionView) int { return order[x.PrescriptionID] - order[y.PrescriptionID] })
		for _, d := range todo {
			if d.State != "proposed" {
				continue
			}
			b, err := view.Answered(a.Answer(ctx, act, d.ID, d.Version, store.Answer{Kind: string(course.Accept)}))
			var refused app.Refused
			switch {
			case errors.As(err, &refused), errors.Is(err, app.ErrConflict):
				out.Left = append(out.Left, d.LadderName+": "+err.Error())
				continue
			case err != nil:
				return out, err
			}
			out.Accepted++
			out.Block = b
		}
	}
	err = a.Write(ctx, act, func(tx *store.Tx) error {
		if err := tx.MarkReviewed(ctx, runner, monday.Monday().Time(), act.User.ID); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.Now(), &act.User.ID, "review", "Week of "+monday.Words()+" reviewed", nil)
	})
	return out, err
}

// Nightly is what a nightly review did.
type Nightly struct {
	Runners int
	Skipped int // another process was at them, or had been
}

// reviewBatch is how many runners are fetched at once.
const reviewBatch = 200

// ReviewAll looks at every runner with a present block once a day: mornings that
// count as missing by now, gaps, the weekly look, steps up that go by themselves.
// Several processes may run it at once; no runner is reviewed twice. What fails
// for one runner is returned after everybody else was looked at.
func (a *Reviews) ReviewAll(ctx context.Context) (Nightly, error) {
	var out Nightly
	var failed error
	practices, err := a.Store.Practices(ctx)
	if err != nil {
		return out, err
	}
	for _, p := range practices {
		act, err := a.PracticeActor(ctx, p)
		if err != nil {
			return out, err
		}
		today := a.Today(act)
		after := ""
		for {
			var due []string
			err := a.Store.In(ctx, p, func(tx *store.Tx) (err error) {
				due, err = tx.DueReviews(ctx, today.Time(), after, reviewBatch)
				return err
			})
			if err != nil {
				return out, err
			}
			if len(due) == 0 {
				break
			}
			n, err := a.reviewSome(ctx, act, due, today)
			out.Runners += n.Runners
			out.Skipped += n.Skipped
			failed = errors.Join(failed, err)
			if ctx.Err() != nil {
				return out, failed
			}
			after = due[len(due)-1]
		}
	}
	return out, failed
}

// reviewSome goes through a batch on all cores. A runner whose review fails
// keeps nobody else from theirs; the errors come back together.
func (a *Reviews) reviewSome(ctx context.Context, act app.Actor, due []string, today day.Date) (Nightly, error) {
	var out Nightly
	var failed error
	var mu sync.Mutex
	var wg sync.WaitGroup
	next := make(chan string)
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for r := range next {
				var did bool
				err := errors.New("the review ended in the middle")
				a.Safely(ctx, "review", func() { did, err = a.reviewOrMark(ctx, act, r, today) })
				mu.Lock()
				switch {
				case err != nil:
					failed = errors.Join(failed, fmt.Errorf("review of runner %s: %w", r, err))
				case did:
					out.Runners++
				default:
					out.Skipped++
				}
				mu.Unlock()
			}
		})
	}
	for _, r := range due {
		if ctx.Err() != nil {
			break
		}
		next <- r
	}
	close(next)
	wg.Wait()
	return out, failed
}

// reviewOrMark reviews a runner, or keeps for the bench why that could not be.
func (a *Reviews) reviewOrMark(ctx context.Context, act app.Actor, runner string, today day.Date) (bool, error) {
	did, err := a.reviewSafely(ctx, act, runner, today)
	if err != nil && ctx.Err() == nil {
		err = errors.Join(err, a.unreviewed(ctx, act, runner, today, err))
	}
	return did, err
}

// reviewSafely is reviewOne for a record that may be broken: a panic is that
// runner's error, and nobody else's.
func (a *Reviews) reviewSafely(ctx context.Context, act app.Actor, runner string, today day.Date) (did bool, err error) {
	defer func() {
		if p := recover(); p != nil {
			a.Log.ErrorContext(ctx, "panic in a review", "runner", runner, "value", fmt.Sprint(p), "stack", string(debug.Stack()))
			err = errors.New("parts of the record don't fit together")
		}
	}()
	return a.reviewOne(ctx, act, runner, today)
}

// unreviewed keeps that a runner could not be reviewed, for the bench; nothing of
// the runner's is changed by it.
func (a *Reviews) unreviewed(ctx context.Context, act app.Actor, runner string, today day.Date, why error) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error { return tx.PutUnreviewed(ctx, runner, today.Time(), plainly(why), a.Now()) })
}

// plainly is an error as a coach can read it.
func plainly(err error) string {
	for {
		inner := errors.Unwrap(err)
		if inner == nil {
			return err.Error()
		}
		err = inner
	}
}

func (a *Reviews) reviewOne(ctx context.Context, act app.Actor, runner string, today day.Date) (bool, error) {
	did := false
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		ok, err := tx.TryLockRunner(ctx, runner)
		if err != nil || !ok {
			return err
		}
		current, err := tx.CurrentBlock(ctx, runner)
		if errors.Is(err, app.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		// Whoever was at it first has stored the day by now.
		if did, err = tx.AddReview(ctx, store.Review{RunnerID: runner, On: today.Time(), At: a.Now(), Engine: adjust.Version, Body: []byte("{}")}); err != nil || !did {
			return err
		}
		if _, err = a.DecideBlock(ctx, tx, act, current.ID); err != nil {
			return err
		}
		return tx.DropUnreviewed(ctx, runner)
	})
	return did, err
}

// EngineState says which edition of the engine works, and what a newer one
// decides differently.
type EngineState struct {
	Version     int          `json:"version" doc:"Of this program"`
	Accepted    int          `json:"accepted" doc:"The practice lets work by itself"`
	Looked      int          `json:"looked" doc:"Standing decisions of present blocks that were made again"`
	Differences []EngineDiff `json:"differences" nullable:"false"`
}

// EngineDiff is a decision that comes out differently.
type EngineDiff struct {
	RunnerID   string    `json:"runnerId"`
	RunnerName string    `json:"runnerName"`
	Ladder     string    `json:"ladder"`
	Side       body.Side `json:"side"`
	Was        string    `json:"was"`
	Now        string    `json:"now"`
}

// Engine makes the standing decisions of all present blocks again, from what
// each was made from, and lists those that come out differently.
func (a *Reviews) Engine(ctx context.Context, act app.Actor) (EngineState, error) {
	out := EngineState{Version: adjust.Version, Differences: []EngineDiff{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		v, err := tx.EngineOf(ctx)
		if err != nil {
			return err
		}
		out.Accepted = v
		if v == 0 {
			out.Accepted = adjust.Version
		}
		layers, err := a.CatalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		blocks, err := tx.CurrentBlocks(ctx)
		if err != nil {
			return err
		}
		for _, b := range blocks {
			if err := a.replay(ctx, tx, layers, b, &out); err != nil {
				return err
			}
		}
		return nil
	})
	return out, err
}

func (a *Reviews) replay(ctx context.Context, tx *store.Tx, layers record.Layered, b store.Block, out *EngineState) error {
	ps, err := tx.Prescriptions(ctx, b.ID)
	if err != nil {
		return err
	}
	ladders := map[string]catalogue.Ladder{}
	for _, p := range ps {
		if ladders[p.ID], err = record.LadderOf(p, layers); err != nil {
			return err
		}
	}
	ds, err := tx.Decisions(ctx, b.ID)
	if err != nil {
		return err
	}
	inputs, err := tx.DecisionInputs(ctx, b.ID)
	if err != nil {
		return err
	}
	name := ""
	for _, d := range ds {
		input := inputs[d.ID]
		if len(input) == 0 || d.State == string(course.Superseded) {
			continue
		}
		out.Looked++
		var was adjust.Decision
		if err := json.Unmarshal(d.Decision, &was); err != nil {
			return err
		}
		l := ladders[d.PrescriptionID]
		now, known, err := record.AskAgain(d, input, l)
		if err != nil {
			return err
		}
		if !known || now.Same(was) {
			continue
		}
		if name == "" {
			r, err := tx.Runner(ctx, b.RunnerID)
			if err != nil {
				return err
			}
			name = r.Name
		}
		out.Differences = append(out.Differences, EngineDiff{b.RunnerID, name, l.Name, body.Side(d.Side), words.Decision(l, body.Side(d.Side), was), words.Decision(l, body.Side(d.Side), now)})
	}
	return nil
}

// AcceptEngine lets this edition of the engine work by itself in the practice.
func (a *Reviews) AcceptEngine(ctx context.Context, act app.Actor) (EngineState, error) {
	if act.User.Role != "owner" {
		return EngineState{}, app.ErrForbidden
	}
	if err := a.Write(ctx, act, func(tx *store.Tx) error { return tx.AcceptEngine(ctx, adjust.Version, &act.User.ID) }); err != nil {
		return EngineState{}, err
	}
	return a.Engine(ctx, act)
}

// Reviews is the room of the weekly review.
type Reviews struct{ *record.Book }
