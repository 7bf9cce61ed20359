package shelf

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/core/source"
	"notchback/core/words"
	"notchback/store"
)

// ShelfExercise is an exercise with its drawing and words.
type ShelfExercise struct {
	catalogue.Exercise
	SourceText string        `json:"sourceText"`
	Rev        int           `json:"rev" doc:"Revision of the practice's own version, 0 for built-in"`
	Retired    bool          `json:"retired"`
	Picture    *view.Picture `json:"picture,omitempty"`
}

// ShelfNotch is a notch in words.
type ShelfNotch struct {
	Exercise string         `json:"exercise"`
	Words    string         `json:"words"`
	Dose     string         `json:"dose"`
	Tempo    string         `json:"tempo,omitempty"`
	More     string         `json:"more,omitempty"`
	Gate     catalogue.Gate `json:"gate,omitempty"`
	Gap48    bool           `json:"gap48,omitempty"`
	Minutes  float64        `json:"minutes"`
	Load     string         `json:"load,omitempty" doc:"Body weights a repetition on each tissue"`
	Typed    string         `json:"typed" doc:"The dose as it is typed: 3 x 12, 3 x 30 s"`
	Seconds  [4]float64     `json:"seconds,omitzero" doc:"Up, hold, down and low of a repetition with a tempo"`
	Percent  float64        `json:"bodyPercent,omitempty"`
}

// ShelfLadder is a ladder in words.
type ShelfLadder struct {
	ID         string            `json:"id"`
	Name       string            `json:"name"`
	Family     string            `json:"family"`
	Purpose    catalogue.Purpose `json:"purpose"`
	Place      catalogue.Place   `json:"place" enum:"micro,main,evening,run,day"`
	Tissues    []body.Tissue     `json:"tissues" nullable:"false"`
	Gates      []string          `json:"gates" nullable:"false"`
	Equipment  []string          `json:"equipment" nullable:"false"`
	PerWeek    string            `json:"perWeek"`
	SourceText string            `json:"sourceText"`
	Weights    string            `json:"weights" doc:"Where the tissue weights come from"`
	StartWords []string          `json:"startWords" nullable:"false"`
	Own        bool              `json:"own"`
	Rev        int               `json:"rev"`
	Retired    bool              `json:"retired"`
	Effort     catalogue.Effort  `json:"effort" enum:"reserve,twenty,none"`
	Notches    []ShelfNotch      `json:"notches" nullable:"false"`
}

// Shelf is the catalogue as a practice sees it.
type Shelf struct {
	Version   int                 `json:"version" doc:"Edition of the built-in data"`
	Exercises []ShelfExercise     `json:"exercises" nullable:"false"`
	Ladders   []ShelfLadder       `json:"ladders" nullable:"false"`
	Routines  []ShelfRoutine      `json:"routines" nullable:"false"`
	Kit       []catalogue.Kit     `json:"kit" nullable:"false"`
	Purposes  []catalogue.Purpose `json:"purposes" nullable:"false"`
	Parts     []string            `json:"parts" nullable:"false"`
	Traits    []catalogue.Trait   `json:"traits" nullable:"false"`
	Timings   []string            `json:"timings" nullable:"false"`
	Poses     []string            `json:"poses" nullable:"false" doc:"Positions an own exercise can be drawn with"`
}

func shelf(l record.Layered) Shelf {
	s := Shelf{Version: catalogue.Version, Kit: l.Kit, Parts: catalogue.Parts, Traits: catalogue.Traits(), Purposes: catalogue.Purposes, Timings: catalogue.Timings, Poses: l.Poses(), Exercises: []ShelfExercise{}, Ladders: []ShelfLadder{}, Routines: []ShelfRoutine{}}
	for _, e := range l.Exercises {
		s.Exercises = append(s.Exercises, ShelfExercise{Exercise: e, SourceText: e.Source.String(), Rev: l.Revs["exercise/"+e.ID], Retired: l.Retired["exercise/"+e.ID], Picture: view.PictureOf(l, e)})
	}
	for _, x := range l.Ladders {
		s.Ladders = append(s.Ladders, ladder(l, x))
	}
	for _, r := range l.Routines {
		s.Routines = append(s.Routines, routineView(l, r))
	}
	return s
}

func ladder(l record.Layered, x catalogue.Ladder) ShelfLadder {
	v := ShelfLadder{
		ID: x.ID, Name: x.Name, Family: x.Family, Purpose: x.Purpose, Place: x.Place, Tissues: x.Tissues, Gates: []string{}, Equipment: []string{},
		PerWeek: words.PerWeek(x.PerWeek.Min, x.PerWeek.Max), SourceText: x.Source.String(), Own: x.Own, Effort: x.Effort,
		Rev: l.Revs["ladder/"+x.ID], Retired: l.Retired["ladder/"+x.ID], Notches: []ShelfNotch{}, StartWords: words.StartTable(x),
	}
	if len(x.Tissues) > 0 {
		v.Weights = x.WeightSource.String()
	}
	for _, n := range x.Notches {
		if g := string(n.Gate); g != "" && !slices.Contains(v.Gates, g) {
			v.Gates = append(v.Gates, g)
		}
		for _, k := range n.Exercise.Equipment {
			if !slices.Contains(v.Equipment, k) {
				v.Equipment = append(v.Equipment, k)
			}
		}
		v.Notches = append(v.Notches, ShelfNotch{Exercise: n.Exercise.ID, Words: words.Notch(n), Dose: words.Dose(n.Dose), Tempo: words.Tempo(n.Dose), More: n.Dose.More,
			Gate: n.Gate, Gap48: n.Gap48, Minutes: n.Seconds() / 60, Load: words.Load(n), Typed: n.Dose.Typed(), Seconds: n.Dose.Tempo, Percent: n.Dose.BodyPercent})
	}
	return v
}

// Shelf returns the catalogue with what the practice laid over it.
func (a *Shelves) Shelf(ctx context.Context, act app.Actor) (Shelf, error) {
	var out Shelf
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		l, err := a.CatalogueFor(ctx, tx)
		out = shelf(l)
		return err
	})
	return out, err
}

// OwnExercise is an exercise as a coach types it.
type OwnExercise struct {
	ID        string              `json:"id,omitempty" maxLength:"60" doc:"An existing one to change; made from the name when empty"`
	Rev       int                 `json:"rev" doc:"The revision that was read, 0 for none"`
	Name      string              `json:"name" maxLength:"120"`
	Short     string              `json:"short" maxLength:"60"`
	Purpose   catalogue.Purpose   `json:"purpose"`
	Position  string              `json:"position" maxLength:"60"`
	Sides     string              `json:"sides" enum:"each,together"`
	SetUp     string              `json:"setUp" maxLength:"1000"`
	Cues      []string            `json:"cues" nullable:"false" maxItems:"3"`
	Mistakes  []string            `json:"mistakes" nullable:"false" maxItems:"10"`
	Equipment []string            `json:"equipment" nullable:"false" maxItems:"10"`
	Timing    string              `json:"timing" enum:"any,pre-run,not-tired,evening,gap48"`
	Cautions  []string            `json:"cautions" nullable:"false" maxItems:"5"`
	Start     string              `json:"start,omitempty" doc:"Pose of the start; empty for no drawing"`
	End       string              `json:"end,omitempty"`
	Turned    [2]catalogue.Turned `json:"turned,omitzero" doc:"Angles that differ from the poses'"`
	Part      string              `json:"part,omitempty" doc:"Where it acts; what is not said counts as the more demanding"`
	Traits    []catalogue.Trait   `json:"traits,omitempty" maxItems:"20" doc:"What safety looks for"`
}

// OwnNotch is a notch as a coach types it.
type OwnNotch struct {
	Exercise    string         `json:"exercise"`
	Dose        string         `json:"dose" maxLength:"30" doc:"3 x 12, 3 x 30 s, 5 min"`
	BodyPercent float64        `json:"bodyPercent,omitempty" minimum:"0" maximum:"200"`
	Gate        catalogue.Gate `json:"gate,omitempty"`
	Gap48       bool           `json:"gap48,omitempty"`
}

// OwnLadder is a ladder as a coach types it.
type OwnLadder struct {
	ID      string            `json:"id,omitempty" maxLength:"60"`
	Rev     int               `json:"rev"`
	Name    string            `json:"name" maxLength:"120"`
	Purpose catalogue.Purpose `json:"purpose"`
	Place   catalogue.Place   `json:"place" enum:"micro,main,evening,run,day"`
	Tissues []body.Tissue     `json:"tissues" nullable:"false" maxItems:"4"`
	Min     int               `json:"min" minimum:"1" maximum:"7"`
	Max     int               `json:"max" minimum:"1" maximum:"7"`
	Effort  catalogue.Effort  `json:"effort" enum:"reserve,twenty,none"`
	Notches []OwnNotch        `json:"notches" nullable:"false" minItems:"1" maxItems:"60"`
}

// PutExercise stores the practice's own exercise, or its own version of a
// built-in one. Plans already made keep what they prescribed.
func (a *Shelves) PutExercise(ctx context.Context, act app.Actor, in OwnExercise) (Shelf, error) {
	id := in.ID
	if id == "" {
		if id = app.Slug(in.Name); id == "own-" {
			return Shelf{}, app.Wrong("name", "give the exercise a name")
		}
	}
	e := catalogue.Exercise{ID: id, Name: in.Name, Short: in.Short, Purpose: in.Purpose, Position: in.Position, Sides: in.Sides, SetUp: in.SetUp, Cues: in.Cues, Mistakes: in.Mistakes,
		Equipment: in.Equipment, Timing: in.Timing, Part: in.Part, Traits: in.Traits, Cautions: in.Cautions, Figure: [2]string{in.Start, in.End}, Turned: in.Turned, Source: source.House("the practice's own"), Own: true}
	return a.putShelf(ctx, act, "exercise", id, in.Rev, func(l record.Layered) (any, error) {
		if old, ok := a.catalogueExercise(id); ok {
			e.Part = old.Part
			for _, t := range old.Traits { // what safety looks for stays with a changed exercise
				if !slices.Contains(e.Traits, t) {
					e.Traits = append(e.Traits, t)
				}
			}
		}
		return e, app.Faults("exercise", l.CheckExercise(e))
	})
}

func (a *Shelves) catalogueExercise(id string) (catalogue.Exercise, bool) {
	i := slices.IndexFunc(a.Catalogue.Exercises, func(x catalogue.Exercise) bool { return x.ID == id })
	if i < 0 {
		return catalogue.Exercise{}, false
	}
	return a.Catalogue.Exercises[i], true
}

// unknownWeight is what a repetition of an own exercise is taken to load, in
// body weights, until somebody knows better: as a one-leg raise.
const unknownWeight = 3.0

// PutLadder stores the practice's own ladder, or its own version of a built-in
// one.
func (a *Shelves) PutLadder(ctx context.Context, act app.Actor, in OwnLadder) (Shelf, error) {
	id := in.ID
	if id == "" {
		if id = app.Slug(in.Name); id == "own-" {
			return Shelf{}, app.Wrong("name", "give the ladder a name")
		}
	}
	return a.putShelf(ctx, act, "ladder", id, in.Rev, func(l record.Layered) (any, error) {
		x := catalogue.Ladder{ID: id, Name: in.Name, Family: "The practice's own", Purpose: in.Purpose, Place: in.Place, Tissues: in.Tissues, Effort: in.Effort,
			Source: source.House("the practice's own"), WeightSource: source.House("not known; counted as a one-leg raise"), Own: true,
			Start: catalogue.StartRule{Source: source.House("without a test it begins at the first notch")}}
		old, built := a.Catalogue.Ladder(id)
		if built {
			x.Family, x.Start = old.Family, old.Start
		}
		before, _ := l.Ladder(id)
		x.PerWeek.Min, x.PerWeek.Max = in.Min, in.Max
		var bad app.Invalid
		for i, n := range in.Notches {
			at := fmt.Sprintf("notches[%d].", i)
			k := slices.IndexFunc(l.Exercises, func(e catalogue.Exercise) bool { return e.ID == n.Exercise })
			if k < 0 {
				bad.Add(at+"exercise", "%q is not an exercise", n.Exercise)
				continue
			}
			d, err := catalogue.ParseDose(strings.ReplaceAll(n.Dose, "×", "x"))
			if err != nil {
				bad.Add(at+"dose", "%s", err)
				continue
			}
			d.BodyPercent = n.BodyPercent
			gate := n.Gate
			if gate == "" {
				gate = builtInGate(a.Catalogue, n.Exercise)
			}
			if kept, ok := unchanged(before, n.Exercise, d); ok {
				kept.Exercise, kept.Gate, kept.Gap48 = l.Exercises[k], gate, kept.Gap48 || n.Gap48
				kept.Tissues = append([]body.Tissue{}, kept.Tissues...)
				x.Notches = append(x.Notches, kept)
				continue
			}
			notch := catalogue.Notch{Exercise: l.Exercises[k], Dose: d, Gate: gate, Gap48: n.Gap48, Tissues: append([]body.Tissue{}, in.Tissues...)}
			for _, t := range in.Tissues {
				notch.Weights = append(notch.Weights, heaviest(a.Catalogue, n.Exercise, t))
			}
			notch.Heavy = slices.Contains(in.Tissues, body.Achilles) && n.BodyPercent >= 5
			x.Notches = append(x.Notches, notch)
		}
		if err := bad.Or(); err != nil {
			return nil, err
		}
		if built {
			x.Start = restart(old, x)
		}
		return x, app.Faults("notches", l.CheckLadder(x))
	})
}

// restart carries the start table of a built-in ladder over to a changed one: a
// notch that is gone is replaced by the nearest easier one that is still there.
func restart(old, now catalogue.Ladder) catalogue.StartRule {
	to := func(n int) int {
		for k := n; k >= 1; k-- {
			o := old.At(k)
			for i := len(now.Notches) - 1; i >= 0; i-- {
				if m := now.Notches[i]; m.Exercise.ID == o.Exercise.ID && m.Dose == o.Dose {
					return i + 1
				}
			}
		}
		return 1
	}
	r := old.Start
	r.From, r.Class = map[int]int{}, map[string]int{}
	for v, n := range old.Start.From {
		r.From[v] = to(n)
	}
	for c, n := range old.Start.Class {
		r.Class[c] = to(n)
	}
	return r
}

// unchanged finds a notch of the ladder as it was with the same exercise and the
// same typed dose, so that tempo, RM, band and weights are not lost on the way
// through the form.
func unchanged(before catalogue.Ladder, exercise string, d catalogue.Dose) (catalogue.Notch, bool) {
	for _, n := range before.Notches {
		if n.Exercise.ID == exercise && n.Dose.Typed() == d.Typed() && n.Dose.BodyPercent == d.BodyPercent {
			return n, true
		}
	}
	return catalogue.Notch{}, false
}

// builtInGate is the gate the built-in ladders put before an exercise: an own
// ladder can't walk round it.
func builtInGate(c catalogue.Catalogue, exercise string) catalogue.Gate {
	for _, l := range c.Ladders {
		for _, n := range l.Notches {
			if n.Exercise.ID == exercise && n.Gate != "" {
				return n.Gate
			}
		}
	}
	return ""
}

// heaviest is the largest weight an exercise has on any built-in ladder.
func heaviest(c catalogue.Catalogue, exercise string, t body.Tissue) float64 {
	w := 0.0
	for _, l := range c.Ladders {
		for _, n := range l.Notches {
			if n.Exercise.ID == exercise {
				w = max(w, n.Weight(t))
			}
		}
	}
	if w == 0 {
		return unknownWeight
	}
	return w
}

// Retire takes an exercise or ladder out of new plans, or brings it back. What
// stands in plans stays there.
func (a *Shelves) Retire(ctx context.Context, act app.Actor, kind, id string, rev int, retired bool) (Shelf, error) {
	var out Shelf
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		items, err := tx.Shelf(ctx)
		if err != nil {
			return err
		}
		it := store.ShelfItem{Kind: kind, Item: id, Body: []byte("{}")}
		i := slices.IndexFunc(items, func(x store.ShelfItem) bool { return x.Kind == kind && x.Item == id })
		if i >= 0 {
			it = items[i]
		} else if _, ok := a.builtIn(kind, id); !ok {
			return app.ErrNotFound
		}
		if it.Rev != rev {
			return app.ErrConflict
		}
		it.Retired = retired
		if err := tx.PutShelf(ctx, it, act.User.ID); err != nil {
			return err
		}
		l, err := a.CatalogueFor(ctx, tx)
		out = shelf(l)
		return err
	})
	return out, err
}

func (a *Shelves) builtIn(kind, id string) (string, bool) {
	if kind == "ladder" {
		l, ok := a.Catalogue.Ladder(id)
		return l.Name, ok
	}
	if kind == "routine" {
		list, err := routine.BuiltIn()
		i := slices.IndexFunc(list, func(r routine.Routine) bool { return r.ID == id })
		if err != nil || i < 0 {
			return "", false
		}
		return list[i].Name, true
	}
	e, ok := a.catalogueExercise(id)
	return e.Name, ok
}

func (a *Shelves) putShelf(ctx context.Context, act app.Actor, kind, id string, rev int, build func(record.Layered) (any, error)) (Shelf, error) {
	var out Shelf
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		l, err := a.CatalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		if l.Revs[kind+"/"+id] != rev {
			return app.ErrConflict
		}
		v, err := build(l)
		if err != nil {
			return err
		}
		raw, err := json.Marshal(v)
		if err != nil {
			return err
		}
		if err := tx.PutShelf(ctx, store.ShelfItem{Kind: kind, Item: id, Rev: rev, Body: raw}, act.User.ID); err != nil {
			return err
		}
		l, err = a.CatalogueFor(ctx, tx)
		out = shelf(l)
		return err
	})
	return out, err
}

// Schools are the questions with the practice's answers.
type Schools struct {
	Questions []planning.Question `json:"questions" nullable:"false"`
	Answers   planning.School     `json:"answers"`
	Rev       int                 `json:"rev" doc:"Sent back when saving"`
}

// Schools returns the questions on which practitioners differ with the
// practice's answers.
func (a *Shelves) Schools(ctx context.Context, act app.Actor) (Schools, error) {
	out := Schools{Questions: planning.Questions()}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out.Answers, out.Rev, err = a.SchoolOf(ctx, tx)
		return err
	})
	return out, err
}

// PutSchools stores the practice's answers.
func (a *Shelves) PutSchools(ctx context.Context, act app.Actor, rev int, answers planning.School) (Schools, error) {
	if err := app.Faults("answers", answers.Check()); err != nil {
		return Schools{}, err
	}
	raw, err := json.Marshal(answers)
	if err != nil {
		return Schools{}, err
	}
	err = a.Write(ctx, act, func(tx *store.Tx) error { return tx.PutSchool(ctx, rev, raw, act.User.ID) })
	if err != nil {
		return Schools{}, err
	}
	return a.Schools(ctx, act)
}

// Shelves is the room of exercises, ladders and schools.
type Shelves struct{ *record.Book }
