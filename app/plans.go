package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// WishesView are a runner's wishes with what they are chosen from.
type WishesView struct {
	Wishes    planning.Wishes     `json:"wishes"`
	Rev       int                 `json:"rev" doc:"Sent back when saving, 0 when none were saved"`
	Practice  planning.School     `json:"practice" doc:"The practice's answers; the runner's own lie over them"`
	Questions []planning.Question `json:"questions" nullable:"false"`
	Kit       []catalogue.Kit     `json:"kit" nullable:"false"`
	Ladders   []Named             `json:"ladders" nullable:"false" doc:"What a coach can add"`
}

// Named is an id with its name.
type Named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

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

// studio is everything a runner's plan is made from.
type studio struct {
	desk     *desk
	layers   layered
	cat      catalogue.Catalogue
	dossier  *dossier
	visit    int // of the dossier: the screening the plan is made from
	current  *frame
	saved    planning.Wishes
	rev      int
	practice planning.School
	ramp     bool
}

func (a *App) openStudio(ctx context.Context, tx *store.Tx, act Actor, runner string) (*studio, error) {
	s := &studio{visit: -1}
	var err error
	if s.desk, err = a.open(ctx, tx, act, runner, nil); err != nil {
		return nil, err
	}
	s.dossier, s.layers, s.practice, s.current = s.desk.d, s.desk.layers, s.desk.school, s.desk.f
	s.ramp = len(s.desk.path.Terms) > 0
	s.cat = s.layers.inUse()
	s.saved = planning.Assume(s.cat)
	switch r, err := tx.Wishes(ctx, runner); {
	case err == nil:
		s.saved = planning.Wishes{}
		if err := json.Unmarshal(r.Body, &s.saved); err != nil {
			return nil, err
		}
		s.rev = r.Rev
	case !errors.Is(err, ErrNotFound):
		return nil, err
	}
	return s, nil
}

// from picks the screening a plan is made from: the one named, or the newest
// finished one.
func (s *studio) from(screeningID string) error {
	for i, v := range s.dossier.visits {
		if v.Finished && (screeningID == "" || v.ID == screeningID) {
			s.visit = i
			return nil
		}
		if v.ID == screeningID {
			return Refused("finish the screening first")
		}
	}
	if screeningID == "" {
		return Refused("a plan is made from a finished screening; screen the runner first")
	}
	return ErrNotFound
}

// mayPlan says why no plan can be made now.
func (s *studio) mayPlan(start day.Date) error {
	for _, f := range s.desk.book.Flags() {
		if f.Everything {
			return Refused(fmt.Sprintf("flag %s closes everything: %s", f.Flag, words.Flag(f)))
		}
	}
	if age := ageOn(personOf(s.dossier.runner), start); age.Known && age.Years < safety.Adult && !s.dossier.visits[s.visit].Talk.GuardianConsent {
		return Refused("under 18: note the guardian's consent in the talk first")
	}
	return nil
}

// evidence gathers what a plan is made from, as of its start.
func (s *studio) evidence(start day.Date, school planning.School) planning.Evidence {
	sc := s.dossier.visits[s.visit]
	gates := s.desk.path.Evidence
	gates.On = start
	gates.Barefoot = school.Is("barefoot")
	e := s.desk.book.PlanEvidence()
	e.On, e.Findings, e.Results, e.Gates, e.Since, e.Proven, e.Ramp = start, sc.Findings, nil, safety.Gates(gates), sc.On, map[string]int{}, s.ramp
	e.Standing, e.Setbacks, e.Stopped = map[string]int{}, nil, nil
	var better []screening.TestID
	for _, r := range sc.Results {
		e.Results = append(e.Results, r.Result)
		if r.Since != nil && (r.Since.Left.Change == screening.Better || r.Since.Right.Change == screening.Better) && r.Since.Left.Change != screening.Worse && r.Since.Right.Change != screening.Worse {
			better = append(better, r.Test)
		}
	}
	e.Improved = planning.Improved(sc.Findings, better)
	if r := s.dossier.runner.IntakeFirstStep; r != nil && s.current == nil {
		e.Baseline = float64(*r)
	}
	if km := s.dossier.runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		e.FourWeeks = []int{m, m, m, m}
	}
	if f := s.current; f != nil {
		f.book.Known(&e, start)
	}
	return e
}

func (s *studio) plan(start day.Date, w planning.Wishes) planning.Proposal {
	own := w.School
	w.School = s.practice.Over(own)
	p := planning.Plan(s.cat, s.evidence(start, w.School), w)
	return p
}

func (s *studio) name(id string) string {
	if l, ok := s.layers.Ladder(id); ok {
		return l.Name
	}
	return id
}

func (s *studio) view(p planning.Proposal, w planning.Wishes) PlanView {
	v := PlanView{
		RunnerID: s.dossier.runner.ID, RunnerName: s.dossier.runner.Name, ScreeningID: s.dossier.visits[s.visit].ID, Start: p.Start, Wishes: w, Fits: p.Fits, Injured: p.Injured,
		Phases: p.Phases, Choices: []ChoiceView{}, Left: p.Left, Main: []MainDay{}, Weeks: p.Weeks, Relax: []RelaxView{}, Minimum: []MinimumView{}, Minutes: p.Minutes,
		Says: p.Says, Remarks: []string{}, Changes: []string{}, Cautions: safety.Cautions,
	}
	if v.Left == nil {
		v.Left = []planning.Left{}
	}
	for _, d := range p.Days {
		v.Days = append(v.Days, d)
	}
	for _, m := range p.Layout.MainWhy {
		v.Main = append(v.Main, MainDay{m.Day, whys(m.Why)})
	}
	for i, ch := range p.Choices {
		v.Choices = append(v.Choices, choiceView(p, i, ch, s.ladder(ch.Ladder), s.name))
	}
	for _, r := range p.Relax {
		v.Relax = append(v.Relax, RelaxView{r.Kind, words.Relax(r), r.Week, r.Ladder})
	}
	for _, m := range p.Minimum {
		l, _ := s.layers.Ladder(m.Ladder)
		v.Minimum = append(v.Minimum, MinimumView{m.Ladder, l.Name, words.Notch(l.At(m.Notch)), m.Seconds / 60})
	}
	for _, r := range p.Remarks {
		v.Remarks = append(v.Remarks, words.Remark(r, s.name))
	}
	return v
}

func whys(ws []planning.WeekWhy) []string {
	out := []string{}
	for _, w := range ws {
		out = append(out, words.WeekWhy(w))
	}
	return out
}

func (s *studio) ladder(id string) catalogue.Ladder {
	l, _ := s.layers.Ladder(id)
	return l
}

func choiceView(p planning.Proposal, i int, ch planning.Choice, l catalogue.Ladder, name func(string) string) ChoiceView {
	n := l.At(ch.Start.Notch)
	c := ChoiceView{
		Ladder: ch.Ladder, Name: ch.Name, Exercise: n.Exercise.ID, Role: ch.Role, For: ch.For, Place: ch.Place, Words: words.Notch(n), Notch: ch.Start.Notch, Notches: l.Len(),
		Reasons: []ReasonView{}, Ceiling: ch.Ceiling, Locks: []string{}, Swaps: []string{}, Instead: ch.Instead, Notes: ch.Notes, FromWeek: ch.FromWeek,
		Days: []int{}, Why: []string{}, Blocked: []string{}, Path: p.Paths[i].Weeks, Stops: p.Paths[i].Stops, ExtraSetSide: ch.Start.ExtraSetSide, Minutes: n.Seconds() / 60,
	}
	for _, r := range ch.Start.Reasons {
		c.Reasons = append(c.Reasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	for _, k := range ch.Locks {
		c.Locks = append(c.Locks, k.Words)
	}
	for _, w := range ch.Swaps {
		c.Swaps = append(c.Swaps, w.Take+" in place of "+w.For)
	}
	for d, ss := range p.Days {
		for _, x := range ss {
			if slices.Contains(x.Ladders, ch.Ladder) && !slices.Contains(c.Days, d) {
				c.Days = append(c.Days, d)
			}
		}
	}
	for _, pl := range p.Layout.Places {
		if pl.Ladder != ch.Ladder {
			continue
		}
		c.Why = whys(pl.Why)
		for _, b := range pl.Blocked {
			c.Blocked = append(c.Blocked, "not "+words.Weekday(b.Day)+": "+words.Broken(b, name))
		}
	}
	if len(c.Why) == 0 {
		switch ch.Place {
		case catalogue.PlaceMicro:
			c.Why = append(c.Why, words.WeekWhy(planning.WhyEveryDay))
		case catalogue.PlaceRun:
			c.Why = append(c.Why, "in easy runs")
		case catalogue.PlaceDay:
			c.Why = append(c.Why, "through the day")
		}
	}
	return c
}

// checkWishes says what is wrong with wishes.
func (a *App) checkWishes(w planning.Wishes, cat layered) error {
	var bad Invalid
	for i, r := range w.Runs {
		if !slices.Contains([]planning.RunKind{planning.NoRun, planning.Easy, planning.Long, planning.Fast}, r) {
			bad.add(fmt.Sprintf("wishes.runs[%d]", i), "%q is not a kind of run; expected easy, long, fast or nothing", r)
		}
		if m := w.Minutes[i]; m < 0 || m > 240 {
			bad.add(fmt.Sprintf("wishes.minutes[%d]", i), "%d minutes can't be; expected 0 to 240", m)
		}
	}
	if w.Weeks < planning.MinWeeks || w.Weeks > planning.MaxWeeks {
		bad.add("wishes.weeks", "%d can't be; a block has %d to %d weeks", w.Weeks, planning.MinWeeks, planning.MaxWeeks)
	}
	if w.Sessions < 1 || w.Sessions > 5 {
		bad.add("wishes.sessions", "%d can't be; expected 1 to 5 main sessions a week", w.Sessions)
	}
	if h := w.RunHour; h != nil && (*h < 0 || *h > 23) {
		bad.add("wishes.runHour", "%d can't be; expected 0 to 23", *h)
	}
	for i, k := range w.Owned {
		if _, ok := cat.KitNamed(k); !ok {
			bad.add(fmt.Sprintf("wishes.owned[%d]", i), "%q is not on the list of kit", k)
		}
	}
	for i, id := range w.Added {
		if _, ok := cat.Ladder(id); !ok {
			bad.add(fmt.Sprintf("wishes.added[%d]", i), "%q is not a ladder", id)
		}
	}
	for i, x := range w.Excluded {
		if _, ok := cat.Ladder(x.Ladder); !ok {
			bad.add(fmt.Sprintf("wishes.excluded[%d].ladder", i), "%q is not a ladder", x.Ladder)
		}
		if strings.TrimSpace(x.Reason) == "" {
			bad.add(fmt.Sprintf("wishes.excluded[%d].reason", i), "say why it is left out")
		}
	}
	if r := w.Race; r != nil && (r.Km < 0 || r.Km > 400) {
		bad.add("wishes.race.km", "%g km can't be; expected 0 to 400", r.Km)
	}
	if err := w.School.Check(); err != nil {
		bad.add("wishes.school", "%s", err)
	}
	return bad.or()
}

// Wishes returns what a runner's plans are made with.
func (a *App) Wishes(ctx context.Context, act Actor, runner string) (WishesView, error) {
	var out WishesView
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		s, err := a.openStudio(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = WishesView{Wishes: s.saved, Rev: s.rev, Practice: s.practice, Questions: planning.Questions(), Kit: s.cat.Kit, Ladders: []Named{}}
		for _, l := range s.cat.Ladders {
			out.Ladders = append(out.Ladders, Named{l.ID, l.Name})
		}
		return nil
	})
	return out, err
}

// PutWishes stores a runner's wishes at the revision that was read.
func (a *App) PutWishes(ctx context.Context, act Actor, runner string, rev int, w planning.Wishes) (WishesView, error) {
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		l, err := a.catalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		w.Assumed = false
		if err := a.checkWishes(w, l); err != nil {
			return err
		}
		return a.saveWishes(ctx, tx, act, runner, rev, w)
	})
	if err != nil {
		return WishesView{}, err
	}
	return a.Wishes(ctx, act, runner)
}

func (a *App) saveWishes(ctx context.Context, tx *store.Tx, act Actor, runner string, rev int, w planning.Wishes) error {
	raw, err := json.Marshal(w)
	if err != nil {
		return err
	}
	if err := tx.PutWishes(ctx, runner, rev, raw, act.User.ID); err != nil {
		return err
	}
	return tx.Note(ctx, runner, a.now(), &act.User.ID, "wishes", "The week, kit and schools for planning changed", w)
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
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
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
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
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

// BlockInput asks for a block from a finished screening.
type BlockInput struct {
	ScreeningID string           `json:"screeningId" format:"uuid"`
	StartOn     *day.Date        `json:"startOn,omitempty" format:"date" doc:"Today when missing"`
	Wishes      *planning.Wishes `json:"wishes,omitempty" doc:"Saved with the block; the saved ones when missing"`
}

// mostAhead is how far ahead a block may start, in days.
const mostAhead = 28

func (a *App) startDate(act Actor, on *day.Date) (day.Date, error) {
	today := a.Today(act)
	if on == nil {
		return today, nil
	}
	if *on < today || *on > today+mostAhead {
		return 0, Invalid{{"startOn", "expected a day from today to four weeks ahead"}}
	}
	return *on, nil
}

// PlanBlock makes a block from a finished screening. The runner's present block
// ends; ladders that go on keep their notch.
func (a *App) PlanBlock(ctx context.Context, act Actor, key, runner string, in BlockInput) (Block, error) {
	start, err := a.startDate(act, in.StartOn)
	if err != nil {
		return Block{}, err
	}
	var out Block
	err = a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"planBlock", runner, key}, in, func() (Block, error) {
			s, err := a.openStudio(ctx, tx, act, runner)
			if err != nil {
				return Block{}, err
			}
			if in.Wishes != nil {
				w := *in.Wishes
				w.Assumed = false
				if err := a.checkWishes(w, s.layers); err != nil {
					return Block{}, err
				}
				if err := a.saveWishes(ctx, tx, act, runner, s.rev, w); err != nil {
					return Block{}, err
				}
				s.saved = w
			}
			return a.makeBlock(ctx, tx, act, s, in.ScreeningID, start, s.saved)
		})
		return err
	})
	return out, err
}

func (a *App) makeBlock(ctx context.Context, tx *store.Tx, act Actor, s *studio, screeningID string, start day.Date, w planning.Wishes) (Block, error) {
	if err := s.from(screeningID); err != nil {
		return Block{}, err
	}
	if err := s.mayPlan(start); err != nil {
		return Block{}, err
	}
	p := s.plan(start, w)
	if len(p.Choices) == 0 {
		return Block{}, Refused("nothing can be planned now: everything that would help is closed; the reasons stand beside each ladder")
	}
	if !p.Fits {
		return Block{}, Refused("this plan does not fit the runner's week; take one of the ways out, or the five-minute plan")
	}
	runner := s.dossier.runner.ID
	if err := tx.EndBlocks(ctx, runner, a.now()); err != nil {
		return Block{}, err
	}
	raw, err := json.Marshal(p)
	if err != nil {
		return Block{}, err
	}
	b, err := tx.AddBlock(ctx, store.Block{RunnerID: runner, ScreeningID: s.dossier.visits[s.visit].ID, StartOn: start.Time(), Weeks: p.Wishes.Weeks, CatalogueVersion: catalogue.Version, Plan: raw}, act.User.ID)
	if err != nil {
		return Block{}, err
	}
	for i, ch := range p.Choices {
		l, _ := s.layers.Ladder(ch.Ladder)
		if err := a.prescribe(ctx, tx, b, i, ch, l); err != nil {
			return Block{}, err
		}
	}
	if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "block", "Block of "+plural(p.Wishes.Weeks, "week", "weeks")+" from "+start.Words()+" with "+plural(len(p.Choices), "ladder", "ladders"), nil); err != nil {
		return Block{}, err
	}
	// The engine takes the block over as it stands: what is known is no news to it.
	k, err := a.decideBlock(ctx, tx, act, b.ID)
	if err != nil {
		return Block{}, err
	}
	return k.f.view()
}

func (a *App) prescribe(ctx context.Context, tx *store.Tx, b store.Block, position int, ch planning.Choice, l catalogue.Ladder) error {
	reasons, err := json.Marshal(ch.Start.Reasons)
	if err != nil {
		return err
	}
	data, err := json.Marshal(l)
	if err != nil {
		return err
	}
	_, err = tx.AddPrescription(ctx, store.Prescription{BlockID: b.ID, RunnerID: b.RunnerID, Position: position, Ladder: l.ID, StartNotch: ch.Start.Notch,
		ExtraSetSide: string(ch.Start.ExtraSetSide), StartReasons: reasons, LadderData: data, FromWeek: ch.FromWeek})
	return err
}

// CopyInput asks for a block like another runner's.
type CopyInput struct {
	RunnerID string `json:"runnerId" format:"uuid" doc:"Who gets it"`
	Preview  bool   `json:"preview,omitempty"`
}

// Copied is a block re-fitted to another runner.
type Copied struct {
	Plan  PlanView `json:"plan"`
	Notes []string `json:"notes" nullable:"false" doc:"What was changed for this runner, and why"`
	Block *Block   `json:"block,omitempty" doc:"Set when it was made"`
}

// CopyBlock makes a block with the ladders of another runner's, re-fitted: the
// notches, gates, complaints, kit and week are this runner's own.
func (a *App) CopyBlock(ctx context.Context, act Actor, key, block string, in CopyInput) (Copied, error) {
	out := Copied{Notes: []string{}}
	run := func(tx *store.Tx) error {
		b, err := tx.Block(ctx, block)
		if err != nil {
			return err
		}
		ps, err := tx.Prescriptions(ctx, b.ID)
		if err != nil {
			return err
		}
		s, err := a.openStudio(ctx, tx, act, in.RunnerID)
		if err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, a.now(), store.Access{Runner: &in.RunnerID, User: &act.User.ID, Action: "copyBlock"}, in.Preview); err != nil {
			return err
		}
		if err := s.from(""); err != nil {
			return err
		}
		start := a.Today(act)
		w := s.saved
		w.Added = nil
		w.Weeks = b.Weeks
		for _, p := range ps {
			if _, ok := s.cat.Ladder(p.Ladder); ok {
				w.Added = append(w.Added, p.Ladder)
			} else {
				out.Notes = append(out.Notes, s.name(p.Ladder)+" is no longer on the shelf")
			}
		}
		plan := s.plan(start, w)
		out.Plan = s.view(plan, w)
		for _, p := range ps {
			switch ch, ok := plan.ByLadder[p.Ladder]; {
			case !ok:
				i := slices.IndexFunc(plan.Left, func(l planning.Left) bool { return l.Ladder == p.Ladder })
				if i >= 0 {
					out.Notes = append(out.Notes, plan.Left[i].Name+" is left out: "+plan.Left[i].Why)
				}
			case ch.Start.Notch != p.StartNotch:
				out.Notes = append(out.Notes, fmt.Sprintf("%s starts at notch %d here, not %d", ch.Name, ch.Start.Notch, p.StartNotch))
			}
		}
		if in.Preview {
			return nil
		}
		made, err := a.makeBlock(ctx, tx, act, s, "", start, w)
		if err != nil {
			return err
		}
		out.Block = &made
		return nil
	}
	if in.Preview {
		return out, a.store.In(ctx, act.Practice, run)
	}
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"copyBlock", block, key}, in, func() (Copied, error) { return out, run(tx) })
		return err
	})
	return out, err
}
