package record

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"notchback/app"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/store"
)

// Layered is the catalogue of a practice: what it laid over the built-in one.
type Layered struct {
	catalogue.Catalogue
	Routines []routine.Routine
	Retired  map[string]bool // kind/id
	Revs     map[string]int
}

// Routine returns the routine with the given id.
func (l Layered) Routine(id string) (routine.Routine, bool) {
	i := slices.IndexFunc(l.Routines, func(r routine.Routine) bool { return r.ID == id })
	if i < 0 {
		return routine.Routine{}, false
	}
	return l.Routines[i], true
}

func (a *Book) CatalogueFor(ctx context.Context, tx *store.Tx) (Layered, error) {
	out := Layered{Catalogue: a.Catalogue, Retired: map[string]bool{}, Revs: map[string]int{}}
	var err error
	if out.Routines, err = routine.BuiltIn(); err != nil {
		return out, err
	}
	items, err := tx.Shelf(ctx)
	if err != nil || len(items) == 0 {
		return out, err
	}
	out.Exercises, out.Ladders, out.Routines = slices.Clone(out.Exercises), slices.Clone(out.Ladders), slices.Clone(out.Routines)
	for _, it := range items {
		k := it.Kind + "/" + it.Item
		out.Revs[k], out.Retired[k] = it.Rev, it.Retired
		if string(it.Body) == "{}" {
			continue // retired as it was built in
		}
		switch it.Kind {
		case "exercise":
			var e catalogue.Exercise
			if err := json.Unmarshal(it.Body, &e); err != nil {
				return out, err
			}
			if i := slices.IndexFunc(out.Exercises, func(x catalogue.Exercise) bool { return x.ID == e.ID }); i >= 0 {
				out.Exercises[i] = e
			} else {
				out.Exercises = append(out.Exercises, e)
			}
			// Built-in ladders show an exercise as the practice has it.
			for i, l := range out.Ladders {
				if !slices.ContainsFunc(l.Notches, func(n catalogue.Notch) bool { return n.Exercise.ID == e.ID }) {
					continue
				}
				l.Notches = slices.Clone(l.Notches)
				for j := range l.Notches {
					if l.Notches[j].Exercise.ID == e.ID {
						l.Notches[j].Exercise = e
					}
				}
				out.Ladders[i] = l
			}
		case "routine":
			var r routine.Routine
			if err := json.Unmarshal(it.Body, &r); err != nil {
				return out, err
			}
			if i := slices.IndexFunc(out.Routines, func(x routine.Routine) bool { return x.ID == r.ID }); i >= 0 {
				out.Routines[i] = r
			} else {
				out.Routines = append(out.Routines, r)
			}
		case "ladder":
			var l catalogue.Ladder
			if err := json.Unmarshal(it.Body, &l); err != nil {
				return out, err
			}
			if i := slices.IndexFunc(out.Ladders, func(x catalogue.Ladder) bool { return x.ID == l.ID }); i >= 0 {
				out.Ladders[i] = l
			} else {
				out.Ladders = append(out.Ladders, l)
			}
		}
	}
	return out, nil
}

func (a *Book) SchoolOf(ctx context.Context, tx *store.Tx) (planning.School, int, error) {
	s := planning.School{}
	r, err := tx.School(ctx)
	if errors.Is(err, app.ErrNotFound) {
		return s, 0, nil
	}
	if err != nil {
		return s, 0, err
	}
	return s, r.Rev, json.Unmarshal(r.Body, &s)
}

// InUse returns the catalogue without what is retired: what new plans choose from.
func (l Layered) InUse() catalogue.Catalogue {
	c := l.Catalogue
	c.Ladders = slices.DeleteFunc(slices.Clone(c.Ladders), func(x catalogue.Ladder) bool {
		return l.Retired["ladder/"+x.ID] || slices.ContainsFunc(x.Notches, func(n catalogue.Notch) bool { return l.Retired["exercise/"+n.Exercise.ID] })
	})
	return c
}
