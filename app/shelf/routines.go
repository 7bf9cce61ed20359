package shelf

import (
	"context"
	"math"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/catalogue"
	"notchback/core/routine"
	"notchback/core/source"
	"notchback/core/words"
)

// ShelfRoutine is a routine in words.
type ShelfRoutine struct {
	ID         string          `json:"id"`
	Name       string          `json:"name"`
	For        string          `json:"for"`
	Suits      string          `json:"suits"`
	When       routine.When    `json:"when" enum:"any,before-run,run,morning,evening,barefoot"`
	WhenWords  string          `json:"whenWords,omitempty"`
	PerWeek    string          `json:"perWeek"`
	Min        int             `json:"min"`
	Max        int             `json:"max"`
	Late       string          `json:"late,omitempty"`
	Compare    routine.Compare `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared   string          `json:"compared,omitempty"`
	Short      int             `json:"short" doc:"Minutes of the short version"`
	Long       int             `json:"long" doc:"Minutes of the long version; the same where there is none"`
	Gates      []string        `json:"gates" nullable:"false"`
	Equipment  []string        `json:"equipment" nullable:"false" doc:"In words, with what can stand in"`
	Parts      []ShelfPart     `json:"parts" nullable:"false"`
	SourceText string          `json:"sourceText"`
	Own        bool            `json:"own"`
	Rev        int             `json:"rev"`
	Retired    bool            `json:"retired"`
}

// ShelfPart is a part of a routine in words.
type ShelfPart struct {
	Exercise string         `json:"exercise"`
	Name     string         `json:"name"`
	Ladder   string         `json:"ladder,omitempty"`
	Dose     string         `json:"dose"`
	Long     string         `json:"long,omitempty" doc:"The dose of the long version, where it differs"`
	Typed    string         `json:"typed" doc:"The dose as it is typed"`
	Most     string         `json:"most,omitempty" doc:"The long version's as it is typed"`
	More     string         `json:"more,omitempty"`
	Tempo    string         `json:"tempo,omitempty"`
	Gate     catalogue.Gate `json:"gate,omitempty"`
	Key      bool           `json:"key,omitempty" doc:"What the routine is for"`
	Together bool           `json:"together,omitempty" doc:"Both sides at once"`
	LongOnly bool           `json:"longOnly,omitempty"`
	Wait     string         `json:"wait,omitempty" doc:"What it waits for"`
}

func routineView(l record.Layered, r routine.Routine) ShelfRoutine {
	short, long := r.Minutes()
	v := ShelfRoutine{ID: r.ID, Name: r.Name, For: r.For, Suits: r.Suits, When: r.When, WhenWords: words.RoutineWhen(r.When), PerWeek: words.PerWeek(r.Min, r.Max), Min: r.Min, Max: r.Max, Late: r.Late,
		Compare: r.Compare, Compared: r.Compared, Short: int(math.Round(short)), Long: int(math.Round(long)), Gates: []string{}, Equipment: []string{}, Parts: []ShelfPart{},
		SourceText: r.Source.String(), Own: r.Own, Rev: l.Revs["routine/"+r.ID], Retired: l.Retired["routine/"+r.ID]}
	for _, g := range r.Gates() {
		v.Gates = append(v.Gates, string(g))
	}
	for _, id := range r.Equipment() {
		k, ok := l.KitNamed(id)
		if !ok || k.Always {
			continue
		}
		name := k.Name
		if len(k.Swap) > 0 {
			if s, ok := l.KitNamed(k.Swap[0]); ok {
				name += " (or " + s.Name + ")"
			}
		}
		v.Equipment = append(v.Equipment, name)
	}
	for _, p := range r.Parts {
		n := p.Notch
		x := ShelfPart{Exercise: n.Exercise.ID, Name: n.Exercise.Name, Ladder: p.Ladder, Dose: words.Dose(n.Dose), Typed: n.Dose.Typed(), More: n.Dose.More, Tempo: words.Tempo(n.Dose), Gate: n.Gate, Key: p.Key, Together: n.Together(), LongOnly: p.Long}
		if p.Most != nil {
			x.Long, x.Most = words.Dose(*p.Most), p.Most.Typed()
		}
		switch {
		case p.Settled:
			x.Wait = "when it is calm"
		case p.Sore != nil && *p.Sore == 1:
			x.Wait = "at 1 or less"
		case p.Sore != nil:
			x.Wait = "at " + words.Number(float64(*p.Sore), 0) + " or less"
		}
		v.Parts = append(v.Parts, x)
	}
	return v
}

// OwnRoutine is a routine as a coach types it.
type OwnRoutine struct {
	ID       string          `json:"id,omitempty" maxLength:"80" doc:"An existing one to change; made from the name when empty"`
	From     string          `json:"from,omitempty" maxLength:"80" doc:"The routine it was copied from: what is not typed is kept"`
	Rev      int             `json:"rev"`
	Name     string          `json:"name" maxLength:"120"`
	For      string          `json:"for" maxLength:"300"`
	Suits    string          `json:"suits,omitempty" maxLength:"300"`
	When     routine.When    `json:"when" enum:"any,before-run,run,morning,evening,barefoot"`
	Min      int             `json:"min" minimum:"1" maximum:"7"`
	Max      int             `json:"max" minimum:"1" maximum:"7"`
	Late     string          `json:"late,omitempty" maxLength:"300"`
	Compare  routine.Compare `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared string          `json:"compared,omitempty" maxLength:"60"`
	Parts    []OwnPart       `json:"parts" nullable:"false" minItems:"1" maxItems:"20"`
}

// OwnPart is a part of it as a coach types it.
type OwnPart struct {
	Exercise string `json:"exercise" maxLength:"80"`
	Ladder   string `json:"ladder,omitempty" maxLength:"80" doc:"Whose work it is; the runner's own notch stands in its place"`
	Dose     string `json:"dose" maxLength:"30"`
	Most     string `json:"most,omitempty" maxLength:"30" doc:"The dose of the long version"`
	More     string `json:"more,omitempty" maxLength:"120"`
	Key      bool   `json:"key,omitempty"`
	LongOnly bool   `json:"longOnly,omitempty"`
}

// PutRoutine stores the practice's own routine, or its own version of a built-in one.
// What was given stays as it was given.
func (a *Shelves) PutRoutine(ctx context.Context, act app.Actor, in OwnRoutine) (Shelf, error) {
	id := in.ID
	if id == "" {
		if id = app.Slug(in.Name); id == "own-" {
			return Shelf{}, app.Wrong("name", "give the routine a name")
		}
	}
	return a.putShelf(ctx, act, "routine", id, in.Rev, func(l record.Layered) (any, error) {
		r := routine.Routine{ID: id, Name: strings.TrimSpace(in.Name), For: strings.TrimSpace(in.For), Suits: in.Suits, When: in.When, Min: in.Min, Max: in.Max, Late: in.Late, Compare: in.Compare, Compared: in.Compared,
			Source: source.House("the practice's own"), Own: true}
		before, known := l.Routine(id)
		if !known && in.From != "" {
			before, _ = l.Routine(in.From)
		}
		r.Asks = before.Asks
		var bad app.Invalid
		for i, p := range in.Parts {
			at := "parts[" + words.Number(float64(i), 0) + "]."
			dose, most := typed(p.Dose), typed(p.Most)
			if kept, ok := unchangedPart(before, p, dose, most); ok {
				r.Parts = append(r.Parts, kept)
				continue
			}
			n, err := routine.NotchOf(l.Catalogue, p.Ladder, p.Exercise, dose)
			if err != nil {
				bad.Add(at+"dose", "%s", err)
				continue
			}
			n.Dose.More = p.More
			if g := builtInGate(a.Catalogue, p.Exercise); g != "" && n.Gate == "" {
				n.Gate = g // an own routine can't walk round it
			}
			x := routine.Part{Ladder: p.Ladder, Notch: n, Key: p.Key, Long: p.LongOnly}
			if most != "" && most != dose {
				m, err := routine.NotchOf(l.Catalogue, p.Ladder, p.Exercise, most)
				if err != nil {
					bad.Add(at+"most", "%s", err)
					continue
				}
				m.Dose.More = p.More
				x.Most = &m.Dose
			}
			for _, o := range before.Parts { // what makes it wait stays with the exercise
				if o.Notch.Exercise.ID == p.Exercise {
					x.Settled, x.Sore = o.Settled, o.Sore
				}
			}
			r.Parts = append(r.Parts, x)
		}
		if err := bad.Or(); err != nil {
			return nil, err
		}
		return r, app.Faults("parts", routine.Check(r, l.Catalogue))
	})
}

func typed(s string) string { return strings.TrimSpace(strings.ReplaceAll(s, "×", "x")) }

// unchangedPart finds a part of the routine as it was, so that tempo, load and what it
// waits for are not lost on the way through the form.
func unchangedPart(before routine.Routine, p OwnPart, dose, most string) (routine.Part, bool) {
	i := slices.IndexFunc(before.Parts, func(o routine.Part) bool {
		was := ""
		if o.Most != nil {
			was = o.Most.Typed()
		}
		return o.Notch.Exercise.ID == p.Exercise && o.Ladder == p.Ladder && o.Notch.Dose.Typed() == dose && was == most
	})
	if i < 0 {
		return routine.Part{}, false
	}
	x := before.Parts[i]
	x.Notch.Dose.More, x.Key, x.Long = p.More, p.Key, p.LongOnly
	return x, true
}
