package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"notchback/app/record"
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

// desk is everything about one runner, read once: the rows, and what is made of
// them without looking again.
type desk struct {
	app      *App
	act      Actor
	now      time.Time
	today    day.Date
	rows     *record.Rows
	layers   layered
	school   planning.School // the practice's
	practice store.Practice
	advised  *load.Advice
	d        *dossier
	g        *gathered
	rec      course.Record
	book     *course.Book
	f        *frame // nil without a block
	path     *path
}

// open reads a runner's record with the present block, or with the block given.
func (a *App) open(ctx context.Context, tx *store.Tx, act Actor, runner string, block *store.Block) (*desk, error) {
	k := &desk{app: a, act: act, now: a.now().In(act.zone), today: a.Today(act)}
	var err error
	if k.rows, err = record.Load(ctx, tx, runner, k.today, false); err != nil {
		return nil, err
	}
	if block == nil {
		b, err := tx.CurrentBlock(ctx, runner)
		switch {
		case err == nil:
			block = &b
		case !errors.Is(err, ErrNotFound):
			return nil, err
		}
	}
	if block != nil {
		if k.rows.Plan, err = record.LoadPlan(ctx, tx, *block); err != nil {
			return nil, err
		}
	}
	if k.layers, err = a.catalogueFor(ctx, tx); err != nil {
		return nil, err
	}
	if k.school, _, err = a.schoolOf(ctx, tx); err != nil {
		return nil, err
	}
	if k.practice, err = tx.PracticeSelf(ctx); err != nil {
		return nil, err
	}
	noise, err := noiseOf(ctx, tx, act)
	if err != nil {
		return nil, err
	}
	return k, k.lay(noise)
}

// openBlock is open for a block by itself.
func (a *App) openBlock(ctx context.Context, tx *store.Tx, act Actor, b store.Block) (*desk, error) {
	return a.open(ctx, tx, act, b.RunnerID, &b)
}

// loadDossier reads a runner's screenings and what stands on them.
func (a *App) loadDossier(ctx context.Context, tx *store.Tx, act Actor, runner string) (*dossier, error) {
	rows, err := record.Load(ctx, tx, runner, a.Today(act), true)
	if err != nil {
		return nil, err
	}
	noise, err := noiseOf(ctx, tx, act)
	if err != nil {
		return nil, err
	}
	return newDossier(rows, noise, a.Today(act))
}

// lay makes everything of the rows.
func (k *desk) lay(noise map[screening.TestID]screening.Noise) error {
	var err error
	if k.d, err = newDossier(k.rows, noise, k.today); err != nil {
		return err
	}
	if k.g, err = newGathered(k.rows, k.today); err != nil {
		return err
	}
	return k.follow()
}

// follow makes the record and what it says, anew after something was kept.
func (k *desk) follow() error {
	k.d.raised(k.rows)
	k.advised = nil
	g := record.Given{Zone: k.act.zone, Now: k.now, Visits: k.d.course, Catalogue: k.layers.Catalogue, School: k.school, Ladders: map[string]catalogue.Ladder{}}
	if p := k.rows.Plan; p != nil {
		if err := json.Unmarshal(p.Block.Plan, &g.Plan); err != nil {
			return fmt.Errorf("plan of block %s: %w", p.Block.ID, err)
		}
		for _, x := range p.Prescriptions {
			l, err := ladderOf(x, k.layers)
			if err != nil {
				return err
			}
			g.Ladders[x.ID] = k.layers.Refresh(l)
		}
		g.Ranks = k.ranks(g.Plan)
	}
	var err error
	if k.rec, err = k.rows.Course(g); err != nil {
		return err
	}
	k.book = course.Open(k.rec, record.Moment(k.now, k.act.zone))
	if k.path, err = newPath(k); err != nil {
		return err
	}
	if k.rows.Plan == nil {
		return nil
	}
	if k.f, err = newFrame(k, g); err != nil {
		return err
	}
	k.path.f = k.f
	return nil
}

// decide keeps what follows from everything that has arrived.
func (k *desk) decide(ctx context.Context, tx *store.Tx) error {
	if k.rows.Plan == nil {
		return nil
	}
	changes, err := course.Decide(ctx, k.rec, record.Moment(k.now, k.act.zone))
	if err != nil {
		return err
	}
	if err := record.Keep(ctx, tx, k.rows, k.rec, changes, k.app.now()); err != nil {
		return err
	}
	if err := k.follow(); err != nil {
		return err
	}
	if err := k.app.redate(ctx, tx, k.path, ""); err != nil {
		return err
	}
	return k.app.keepState(ctx, tx, k.f)
}

// catchUp keeps what the noons that passed since the engine last looked have
// decided: a morning that never came, days without a ladder. Whoever looks at a
// runner sees what stands now.
func (a *App) catchUp(ctx context.Context, act Actor, runner string) error {
	at := record.Moment(a.now(), act.zone)
	noon := at.On
	if at.Hour < adjust.MorningHour {
		noon--
	}
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.CurrentBlock(ctx, runner)
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		s, err := tx.CourseState(ctx, b.ID)
		switch {
		case errors.Is(err, ErrNotFound):
		case err != nil:
			return err
		default:
			looked, err := record.Noon(s)
			if err != nil || looked >= noon || s.Seq == nil {
				return err
			}
		}
		if noon < dateOf(b.StartOn) {
			return nil
		}
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		_, err = a.decideBlock(ctx, tx, act, b.ID)
		return err
	})
}

// ranks are the places of the block's ladders in the order in which steps up are
// given: the finding they work on, then the catalogue.
func (k *desk) ranks(plan planning.Proposal) map[string]int {
	const byFinding = 1000
	out := map[string]int{}
	for _, p := range k.rows.Plan.Prescriptions {
		best := 99
		for _, ch := range plan.Choices {
			if ch.Ladder != p.Ladder || len(k.d.visits) == 0 {
				continue
			}
			for i, x := range k.d.visits[0].Findings {
				if slices.Contains(ch.For, x.Name) {
					best = min(best, i)
				}
			}
		}
		out[p.Ladder] = best*byFinding + k.layers.Order(p.Ladder)
	}
	return out
}

// noiseOf are a coach's own typical errors, where enough pairs exist.
func noiseOf(ctx context.Context, tx *store.Tx, act Actor) (map[screening.TestID]screening.Noise, error) {
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
func newFrame(k *desk, given record.Given) (*frame, error) {
	p := k.rows.Plan
	b := k.book
	f := &frame{desk: k, block: p.Block, runner: k.d.runner, dossier: k.d, cat: k.layers.Catalogue, layers: k.layers, start: dateOf(p.Block.StartOn), now: k.now, today: k.today,
		ladders: given.Ladders, prescriptions: p.Prescriptions, items: p.Items, plan: given.Plan, g: k.g, path: k.path, book: b,
		gates: b.Gates(), flags: b.Flags(), illness: b.Illness(), running: b.Running(k.today).Class, phases: b.Phases(), engine: p.Engine, pegs: map[string]map[body.Side]*store.Peg{}}
	if f.engine == 0 {
		f.engine = engineVersion // nothing was decided by an older one
	}
	for _, x := range f.prescriptions {
		f.pegs[x.ID] = map[body.Side]*store.Peg{}
		for _, side := range body.Sides {
			peg := b.State.Peg(course.Seat{Prescription: x.ID, Side: side})
			row := record.PegRow(x.ID, side, peg)
			f.pegs[x.ID][side] = &row
		}
	}
	for _, d := range p.Decisions {
		if d.State != string(course.Superseded) {
			f.decisions = append(f.decisions, d)
		}
	}
	h := b.Readings(nil, body.Both)
	f.mornings, f.b0 = h.Mornings, h.B0
	return f, f.layChanges(p.Changes)
}

// newPath is what stands of a runner's ramps.
func newPath(k *desk) (*path, error) {
	kept, err := keptRamps(k.rows)
	if err != nil {
		return nil, err
	}
	return &path{rampKept: kept, cat: k.layers.Catalogue, d: k.d, g: k.g, today: k.today, school: k.school, k: k, Path: k.book.Path()}, nil
}

// keptRamps are the stored revisions and events of a runner's ramps.
func keptRamps(rows *record.Rows) (*rampKept, error) {
	k := &rampKept{dates: rows.RampDates}
	for _, r := range rows.Ramps {
		if r.Kind == "barefoot" {
			k.rev = r.Rev
			continue
		}
		var x CadenceRampInput
		if err := json.Unmarshal(r.Body, &x); err != nil {
			return nil, err
		}
		k.cadRev, k.cadence = r.Rev, &x.Terms
		if x.Ended {
			k.cadence = nil
		}
	}
	for _, e := range rows.RampEvents {
		if e.Kind == "recount" {
			var x transition.Recount
			if err := json.Unmarshal(e.Body, &x); err != nil {
				return nil, err
			}
			k.recounts = append(k.recounts, x)
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
