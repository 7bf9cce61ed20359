package record

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/store"
)

// AfterReading decides what a reading that was just stored decides, where there is
// a present block.
func (a *Book) AfterReading(ctx context.Context, tx *store.Tx, act app.Actor, runner string) error {
	current, err := tx.CurrentBlock(ctx, runner)
	if errors.Is(err, app.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	_, err = a.DecideBlock(ctx, tx, act, current.ID)
	return err
}

// DecideBlock locks a block, reads its runner's record once and keeps what
// follows.
func (a *Book) DecideBlock(ctx context.Context, tx *store.Tx, act app.Actor, id string) (*Desk, error) {
	b, err := tx.LockBlock(ctx, id)
	if err != nil {
		return nil, err
	}
	k, err := a.OpenBlock(ctx, tx, act, b)
	if err != nil {
		return nil, err
	}
	if err := k.Decide(ctx, tx); err != nil {
		return nil, err
	}
	if added, err := a.wayToRun(ctx, tx, k); err != nil || !added {
		return k, err
	}
	if k, err = a.OpenBlock(ctx, tx, act, b); err != nil {
		return nil, err
	}
	return k, k.Decide(ctx, tx)
}

// wayToRun puts the way back to running into a block by itself when there is to be no
// running: caution applies at once, and nobody has to remember it afterwards.
func (a *Book) wayToRun(ctx context.Context, tx *store.Tx, k *Desk) (bool, error) {
	f := k.F
	if f == nil || f.Block.EndedAt != nil || !k.AdviceNow().Return || k.AdviceNow().ID != load.NoRunning || f.Plan.Wishes.Runs == [7]planning.RunKind{} {
		return false, nil
	}
	l, ok := k.Layers.InUse().Ladder(returnLadder)
	if _, there := f.Prescription(returnLadder); there || !ok || f.Today < f.Start {
		return false, nil
	}
	data, err := json.Marshal(l)
	if err != nil {
		return false, err
	}
	week := max(1, int(f.Today-f.Start.Monday())/7+1)
	if _, err := tx.AddPrescription(ctx, store.Prescription{BlockID: f.Block.ID, RunnerID: f.Block.RunnerID, Position: len(f.Prescriptions), Ladder: l.ID, StartNotch: 1, StartReasons: []byte("[]"), LadderData: data, FromWeek: week}); err != nil {
		return false, err
	}
	c := input.BlockChange{Kind: "add", Ladder: l.ID, Days: returnDays, Reason: "no running now: the way back begins with three painless walks"}
	raw, err := json.Marshal(c)
	if err != nil {
		return false, err
	}
	if err := tx.AddBlockChange(ctx, f.Block.ID, f.Rev, raw, a.Now(), k.act.User.ID); err != nil {
		return false, err
	}
	return true, tx.Note(ctx, f.Block.RunnerID, a.Now(), nil, "plan", l.Name+" comes in: "+c.Reason, c)
}

// returnLadder is the way back to running; it stands on three days, never neighbours.
const returnLadder = "run-return"

var returnDays = []int{0, 2, 5}

// Desk is everything about one runner, read once: the rows, and what is made of
// them without looking again.
type Desk struct {
	app      *Book
	act      app.Actor
	now      time.Time
	Today    day.Date
	Rows     *Rows
	Layers   Layered
	School   planning.School // the practice's
	Practice store.Practice
	advised  *load.Advice
	D        *Dossier
	G        *Gathered
	Rec      course.Record
	Book     *course.Book
	F        *Frame // nil without a block
	Path     *Path
}

// Open reads a runner's record with the present block, or with the block given.
func (a *Book) Open(ctx context.Context, tx *store.Tx, act app.Actor, runner string, block *store.Block) (*Desk, error) {
	k := &Desk{app: a, act: act, now: a.Now().In(act.Zone), Today: a.Today(act)}
	var err error
	if k.Rows, err = Load(ctx, tx, runner, k.Today, false); err != nil {
		return nil, err
	}
	if block == nil {
		b, err := tx.CurrentBlock(ctx, runner)
		switch {
		case err == nil:
			block = &b
		case !errors.Is(err, app.ErrNotFound):
			return nil, err
		}
	}
	if block != nil {
		if k.Rows.Plan, err = LoadPlan(ctx, tx, *block); err != nil {
			return nil, err
		}
	}
	if k.Layers, err = a.CatalogueFor(ctx, tx); err != nil {
		return nil, err
	}
	if k.School, _, err = a.SchoolOf(ctx, tx); err != nil {
		return nil, err
	}
	if k.Practice, err = tx.PracticeSelf(ctx); err != nil {
		return nil, err
	}
	noise, err := noiseOf(ctx, tx, act)
	if err != nil {
		return nil, err
	}
	return k, k.lay(noise)
}

// OpenBlock is open for a block by itself.
func (a *Book) OpenBlock(ctx context.Context, tx *store.Tx, act app.Actor, b store.Block) (*Desk, error) {
	return a.Open(ctx, tx, act, b.RunnerID, &b)
}

// LoadDossier reads a runner's screenings and what stands on them.
func (a *Book) LoadDossier(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (*Dossier, error) {
	rows, noise, err := a.loadVisits(ctx, tx, act, runner)
	if err != nil {
		return nil, err
	}
	return newDossier(rows, noise, a.Today(act))
}

// loadVisits reads what a runner's screenings need, and the coach's own noise.
func (a *Book) loadVisits(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (*Rows, map[screening.TestID]screening.Noise, error) {
	rows, err := Load(ctx, tx, runner, a.Today(act), true)
	if err != nil {
		return nil, nil, err
	}
	noise, err := noiseOf(ctx, tx, act)
	return rows, noise, err
}

// lay makes everything of the rows.
func (k *Desk) lay(noise map[screening.TestID]screening.Noise) error {
	var err error
	if k.D, err = newDossier(k.Rows, noise, k.Today); err != nil {
		return err
	}
	if k.G, err = newGathered(k.Rows, k.Today); err != nil {
		return err
	}
	return k.Follow()
}

// Follow makes the record and what it says, anew after something was kept.
func (k *Desk) Follow() error {
	k.D.raised(k.Rows)
	k.advised = nil
	g := Given{Zone: k.act.Zone, Now: k.now, Visits: k.D.course, Catalogue: k.Layers.Catalogue, School: k.School, Ladders: map[string]catalogue.Ladder{}}
	if p := k.Rows.Plan; p != nil {
		if err := json.Unmarshal(p.Block.Plan, &g.Plan); err != nil {
			return fmt.Errorf("plan of block %s: %w", p.Block.ID, err)
		}
		for _, x := range p.Prescriptions {
			l, err := LadderOf(x, k.Layers)
			if err != nil {
				return err
			}
			g.Ladders[x.ID] = k.Layers.Refresh(l)
		}
		g.Ranks = k.ranks(g.Plan)
	}
	var err error
	if k.Rec, err = k.Rows.Course(g); err != nil {
		return err
	}
	k.Book = course.Open(k.Rec, Moment(k.now, k.act.Zone))
	if k.Path, err = newPath(k); err != nil {
		return err
	}
	if k.Rows.Plan == nil {
		return nil
	}
	if k.F, err = newFrame(k, g); err != nil {
		return err
	}
	k.Path.f = k.F
	return nil
}

// Decide keeps what follows from everything that has arrived.
func (k *Desk) Decide(ctx context.Context, tx *store.Tx) error {
	if k.Rows.Plan == nil {
		return nil
	}
	changes, err := course.Decide(ctx, k.Rec, Moment(k.now, k.act.Zone))
	if err != nil {
		return err
	}
	if err := Keep(ctx, tx, k.Rows, k.Rec, changes, k.app.Now()); err != nil {
		return err
	}
	if err := k.Follow(); err != nil {
		return err
	}
	if err := k.app.Redate(ctx, tx, k.Path, ""); err != nil {
		return err
	}
	return k.app.keepState(ctx, tx, k.F)
}

// CatchUp keeps what the noons that passed since the engine last looked have
// decided: a morning that never came, days without a ladder. Whoever looks at a
// runner sees what stands now.
func (a *Book) CatchUp(ctx context.Context, act app.Actor, runner string) error {
	at := Moment(a.Now(), act.Zone)
	noon := at.On
	if at.Hour < adjust.MorningHour {
		noon--
	}
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.CurrentBlock(ctx, runner)
		if errors.Is(err, app.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		s, err := tx.CourseState(ctx, b.ID)
		switch {
		case errors.Is(err, app.ErrNotFound):
		case err != nil:
			return err
		default:
			looked, err := Noon(s)
			if err != nil || looked >= noon || s.Seq == nil {
				return err
			}
		}
		if noon < app.DateOf(b.StartOn) {
			return nil
		}
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		_, err = a.DecideBlock(ctx, tx, act, b.ID)
		return err
	})
}

// ranks are the places of the block's ladders in the order in which steps up are
// given: the finding they work on, then the catalogue.
func (k *Desk) ranks(plan planning.Proposal) map[string]int {
	const byFinding = 1000
	out := map[string]int{}
	for _, p := range k.Rows.Plan.Prescriptions {
		best := 99
		for _, ch := range plan.Choices {
			if ch.Ladder != p.Ladder || len(k.D.Visits) == 0 {
				continue
			}
			for i, x := range k.D.Visits[0].Findings {
				if slices.Contains(ch.For, x.Name) {
					best = min(best, i)
				}
			}
		}
		out[p.Ladder] = best*byFinding + k.Layers.Order(p.Ladder)
	}
	return out
}

// noiseOf are a coach's own typical errors, where enough pairs exist.
func noiseOf(ctx context.Context, tx *store.Tx, act app.Actor) (map[screening.TestID]screening.Noise, error) {
	out := map[screening.TestID]screening.Noise{}
	if act.User.ID == "" {
		return out, nil // a calendar program is nobody and has no eye
	}
	pairs, err := tx.EyePairs(ctx, act.User.ID)
	if err != nil {
		return nil, err
	}
	by := map[screening.TestID][]screening.Pair{}
	for _, p := range pairs {
		id := screening.TestID(p.Test)
		by[id] = append(by[id], screening.Pair{Runner: p.RunnerID, First: p.First, Second: p.Second})
	}
	for id, list := range by {
		if sem, ok := screening.CoachNoise(list); ok && sem > 0 {
			out[id] = ownNoise(sem, len(list))
		}
	}
	return out, nil
}

// newFrame is a block with everything its pages show.
func newFrame(k *Desk, given Given) (*Frame, error) {
	p := k.Rows.Plan
	b := k.Book
	f := &Frame{Desk: k, Block: p.Block, Runner: k.D.Runner, Dossier: k.D, Cat: k.Layers.Catalogue, Layers: k.Layers, Start: app.DateOf(p.Block.StartOn), Now: k.now, Today: k.Today,
		Ladders: given.Ladders, Prescriptions: p.Prescriptions, Items: p.Items, Plan: given.Plan, g: k.G, Path: k.Path, Book: b,
		Gates: b.Gates(), Flags: b.Flags(), Illness: b.Illness(), running: b.Running(k.Today).Class, Phases: b.Phases(), Engine: p.Engine, Pegs: map[string]map[body.Side]*store.Peg{}}
	if f.Engine == 0 {
		f.Engine = app.EngineVersion // nothing was decided by an older one
	}
	for _, x := range f.Prescriptions {
		f.Pegs[x.ID] = map[body.Side]*store.Peg{}
		for _, side := range body.Sides {
			peg := b.State.Peg(course.Seat{Prescription: x.ID, Side: side})
			row := PegRow(x.ID, side, peg)
			f.Pegs[x.ID][side] = &row
		}
	}
	for _, d := range p.Decisions {
		if d.State != string(course.Superseded) {
			f.Decisions = append(f.Decisions, d)
		}
	}
	h := b.Readings(nil, body.Both)
	f.Mornings, f.B0 = h.Mornings, h.B0
	return f, f.layChanges(p.Changes)
}

// newPath is what stands of a runner's ramps.
func newPath(k *Desk) (*Path, error) {
	kept, err := keptRamps(k.Rows)
	if err != nil {
		return nil, err
	}
	return &Path{rampKept: kept, cat: k.Layers.Catalogue, D: k.D, G: k.G, Today: k.Today, school: k.School, K: k, Path: k.Book.Path()}, nil
}

// keptRamps are the stored revisions and events of a runner's ramps.
func keptRamps(rows *Rows) (*rampKept, error) {
	k := &rampKept{Dates: rows.RampDates}
	for _, r := range rows.Ramps {
		if r.Kind == "barefoot" {
			k.Rev = r.Rev
			continue
		}
		var x input.CadenceRampInput
		if err := json.Unmarshal(r.Body, &x); err != nil {
			return nil, err
		}
		k.CadRev, k.Cadence = r.Rev, &x.Terms
		if x.Ended {
			k.Cadence = nil
		}
	}
	for _, e := range rows.RampEvents {
		if e.Kind == "recount" {
			var x transition.Recount
			if err := json.Unmarshal(e.Body, &x); err != nil {
				return nil, err
			}
			k.Recounts = append(k.Recounts, x)
			continue
		}
		var x transition.CueLook
		if err := json.Unmarshal(e.Body, &x); err != nil {
			return nil, err
		}
		k.looks = append(k.looks, x)
	}
	return k, nil
}

// Book opens runners' records and keeps what follows from them.
type Book struct{ *app.App }
