package app

import (
	"context"

	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/store"
)

// rampKept is what is stored of a runner's ramps beside the terms of bare feet.
type rampKept struct {
	rev      int
	cadence  *transition.CadenceTerms
	cadRev   int
	recounts []transition.Recount
	looks    []transition.CueLook
	dates    []store.RampDate
}

// path is everything a runner's ramps are made from.
type path struct {
	*rampKept
	*course.Path
	cat    catalogue.Catalogue // where there is no block
	d      *dossier
	g      *gathered
	f      *frame // the present block; nil for none
	k      *desk
	today  day.Date
	school planning.School
	beats  *transition.CadencePlan
}

func (a *App) openPath(ctx context.Context, tx *store.Tx, act Actor, runner string) (*path, error) {
	k, err := a.open(ctx, tx, act, runner, nil)
	if err != nil {
		return nil, err
	}
	return k.path, nil
}

func (p *path) ladder(id string) (catalogue.Ladder, bool) {
	if p.f != nil {
		if x, ok := p.f.prescription(id); ok {
			return p.f.ladders[x.ID], true
		}
		return p.f.cat.Ladder(id)
	}
	return p.cat.Ladder(id)
}

// reading returns the newest value of a test, the left or only side.
func (d *dossier) reading(id screening.TestID) (float64, bool) {
	for _, v := range d.visits {
		for _, r := range v.Results {
			if r.Test == id && r.Left.Measured() {
				return *r.Left.Value, true
			}
		}
	}
	return 0, false
}
