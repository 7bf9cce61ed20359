// Package routine holds small sessions that a coach hands out whole, as data that a
// coach can read, and fits them to a runner: what is closed drops out with its
// reason, and what is the runner's own ladder starts at the runner's own notch.
//
// A part that is the runner's own ladder counts as a session of it. Any other part
// is a ladder of one notch: it counts for dose, contacts, days between, pain and
// everything that closes, and never goes up.
package routine

import (
	"bytes"
	_ "embed" // the routines are data
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/source"
)

//go:embed data/routines.yaml
var routineData []byte

// When says where in day and week a routine stands.
type When string

// The places of a routine.
const (
	AnyTime   When = "any"
	BeforeRun When = "before-run"
	InRun     When = "run"
	Morning   When = "morning"
	Evening   When = "evening"
	Barefoot  When = "barefoot"
)

// Whens lists the places.
var Whens = []When{AnyTime, BeforeRun, InRun, Morning, Evening, Barefoot}

// Compare is what is set against itself before and after.
type Compare string

// The comparisons; empty for none.
const (
	CompareNone  Compare = ""
	CompareWalk  Compare = "walk"  // heel and toe walk: better, same, worse
	CompareSteps Compare = "steps" // ten steps: better, same, worse
	CompareCm    Compare = "cm"    // centimetres of each side, before and after
)

// Compares lists the comparisons.
var Compares = []Compare{CompareNone, CompareWalk, CompareSteps, CompareCm}

// Part is one part of a routine in its place.
type Part struct {
	Ladder  string          `json:"ladder,omitempty" doc:"Whose work it is"`
	Notch   catalogue.Notch `json:"notch"`
	Most    *catalogue.Dose `json:"most,omitempty" doc:"The dose of the long version, where it differs"`
	Later   *catalogue.Dose `json:"later,omitempty" doc:"The dose from the fifth week of spring on"`
	Key     bool            `json:"key,omitempty" doc:"What the routine is for"`
	Long    bool            `json:"long,omitempty" doc:"Only in the long version"`
	Settled bool            `json:"settled,omitempty"`
	Sore    *int            `json:"sore,omitempty"`
}

// Routine is a small session handed out whole.
type Routine struct {
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	For      string     `json:"for" doc:"What it is for"`
	Suits    string     `json:"suits" doc:"Who it suits"`
	When     When       `json:"when" enum:"any,before-run,run,morning,evening,barefoot"`
	Min      int        `json:"min" doc:"Least times a week"`
	Max      int        `json:"max" doc:"Most times a week"`
	Late     string     `json:"late,omitempty" doc:"What is said at the end of it"`
	Asks     string     `json:"asks,omitempty" enum:"felt," doc:"felt: where it was felt is asked"`
	Compare  Compare    `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared string     `json:"compared,omitempty" doc:"Name of what is measured before and after"`
	Range    [2]int     `json:"range,omitempty" doc:"Minutes practice gives it; 0 for an own one"`
	Parts    []Part     `json:"parts" nullable:"false"`
	Source   source.Tag `json:"source"`
	Own      bool       `json:"own,omitempty"`
}

type rawPart struct {
	Exercise  string         `yaml:"exercise"`
	Dose      string         `yaml:"dose"`
	Most      string         `yaml:"most"`
	Later     string         `yaml:"later"`
	Ladder    string         `yaml:"ladder"`
	Key       bool           `yaml:"key"`
	Long      bool           `yaml:"long"`
	Settled   bool           `yaml:"settled"`
	Sore      *int           `yaml:"sore"`
	Sides     string         `yaml:"sides"`
	More      string         `yaml:"more"`
	Tempo     *[4]float64    `yaml:"tempo"`
	Band      int            `yaml:"band"`
	Share     int            `yaml:"share"`
	Rest      int            `yaml:"rest"`
	Total     bool           `yaml:"total"`
	PerSecond float64        `yaml:"perSecond"`
	Gate      catalogue.Gate `yaml:"gate"`
	Tissues   []body.Tissue  `yaml:"tissues"`
	Load      []float64      `yaml:"load"`
	Gap48     bool           `yaml:"gap48"`
	Heavy     bool           `yaml:"heavy"`
}

type raw struct {
	ID    string `yaml:"id"`
	Name  string `yaml:"name"`
	For   string `yaml:"for"`
	Suits string `yaml:"suits"`
	When  When   `yaml:"when"`
	Days  struct {
		Min int `yaml:"min"`
		Max int `yaml:"max"`
	} `yaml:"days"`
	Late     string    `yaml:"late"`
	Asks     string    `yaml:"asks"`
	Compare  Compare   `yaml:"compare"`
	Compared string    `yaml:"compared"`
	Minutes  [2]int    `yaml:"minutes"`
	House    string    `yaml:"house"`
	Parts    []rawPart `yaml:"parts"`
}

// BuiltIn returns the embedded routines over the built-in catalogue, read and
// checked once.
var BuiltIn = sync.OnceValues(func() ([]Routine, error) {
	c, err := catalogue.BuiltIn()
	if err != nil {
		return nil, err
	}
	return Parse(routineData, c)
})

// Parse reads a file of routines and checks every one; the error names all that is
// wrong.
func Parse(b []byte, c catalogue.Catalogue) ([]Routine, error) {
	var list []raw
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&list); err != nil {
		return nil, fmt.Errorf("routines: %w", err)
	}
	var out []Routine
	var errs []error
	for _, x := range list {
		r := Routine{ID: x.ID, Name: x.Name, For: x.For, Suits: x.Suits, When: x.When, Min: x.Days.Min, Max: x.Days.Max, Late: x.Late, Asks: x.Asks,
			Compare: x.Compare, Compared: x.Compared, Range: x.Minutes, Source: source.Common()}
		if x.House != "" {
			r.Source = source.House(x.House)
		}
		for i, p := range x.Parts {
			part, err := build(p, c)
			if err != nil {
				errs = append(errs, fmt.Errorf("routine %q, part %d: %w", x.ID, i+1, err))
				continue
			}
			r.Parts = append(r.Parts, part)
		}
		if err := Check(r, c); err != nil {
			errs = append(errs, err)
		}
		if slices.ContainsFunc(out, func(o Routine) bool { return o.ID == r.ID }) {
			errs = append(errs, fmt.Errorf("routine %q: stands twice", r.ID))
		}
		out = append(out, r)
	}
	return out, errors.Join(errs...)
}

func build(p rawPart, c catalogue.Catalogue) (Part, error) {
	n, err := NotchOf(c, p.Ladder, p.Exercise, p.Dose)
	if err != nil {
		return Part{}, err
	}
	out := Part{Ladder: p.Ladder, Key: p.Key, Long: p.Long, Settled: p.Settled, Sore: p.Sore}
	if p.Sides != "" {
		n.Exercise.Sides = p.Sides
	}
	if len(p.Tissues) > 0 {
		n.Tissues, n.Weights = p.Tissues, p.Load
	}
	d := &n.Dose
	if p.Tempo != nil {
		d.Tempo = *p.Tempo
	}
	set := func(into *int, v int) {
		if v != 0 {
			*into = v
		}
	}
	set(&d.Band, p.Band)
	set(&d.SharePercent, p.Share)
	set(&d.RestSeconds, p.Rest)
	d.Total, d.More = d.Total || p.Total, p.More
	if p.PerSecond > 0 {
		d.PerSecond = p.PerSecond
	}
	if p.Gate != "" {
		n.Gate = p.Gate
	}
	n.Gap48, n.Heavy = n.Gap48 || p.Gap48, n.Heavy || p.Heavy
	out.Notch = n.Gated()
	for _, x := range []struct {
		typed string
		into  **catalogue.Dose
	}{{p.Most, &out.Most}, {p.Later, &out.Later}} {
		if x.typed == "" {
			continue
		}
		o, err := resized(n.Dose, x.typed)
		if err != nil {
			return out, err
		}
		*x.into = &o
	}
	return out, nil
}

// resized is a dose with other sets, repetitions and times.
func resized(d catalogue.Dose, typed string) (catalogue.Dose, error) {
	o, err := catalogue.ParseDose(typed)
	if err != nil {
		return d, err
	}
	d.Sets, d.Reps, d.HoldSeconds, d.Minutes, d.Contacts, d.Paces, d.Metres = o.Sets, o.Reps, o.HoldSeconds, o.Minutes, o.Contacts, o.Paces, o.Metres
	return d, nil
}

// NotchOf makes a notch of an exercise with a typed dose. What else belongs to it –
// tempo, load, tissues, gate – comes from the ladder whose work it is, or from any
// that holds the exercise, at its first notch with it.
func NotchOf(c catalogue.Catalogue, ladder, exercise, typed string) (catalogue.Notch, error) {
	var n catalogue.Notch
	i := slices.IndexFunc(c.Exercises, func(e catalogue.Exercise) bool { return e.ID == exercise })
	if i < 0 {
		return n, fmt.Errorf("exercise %q is not known", exercise)
	}
	n.Exercise, n.Tissues = c.Exercises[i], []body.Tissue{}
	n.Dose.Tempo = [4]float64{1, 0, 1, 0}
	if ladder != "" {
		l, ok := c.Ladder(ladder)
		if !ok {
			return n, fmt.Errorf("ladder %q is not known", ladder)
		}
		if k := slices.IndexFunc(l.Notches, func(x catalogue.Notch) bool { return x.Exercise.ID == exercise }); k >= 0 {
			n = l.Notches[k]
		}
	} else {
	all:
		for _, l := range c.Ladders {
			for _, x := range l.Notches {
				if x.Exercise.ID == exercise {
					n = x
					break all
				}
			}
		}
	}
	n.Exercise, n.Alone = c.Exercises[i], false
	n.Dose.Total, n.Dose.Spread = false, false
	d, err := resized(n.Dose, typed)
	n.Dose = d
	n.Dose.More = ""
	return n.Gated(), err
}

// Check says what is wrong with a routine.
func Check(r Routine, c catalogue.Catalogue) error {
	var errs []error
	add := func(format string, args ...any) {
		errs = append(errs, fmt.Errorf("routine %q: "+format, append([]any{r.ID}, args...)...))
	}
	if r.ID == "" || strings.TrimSpace(r.Name) == "" || strings.TrimSpace(r.For) == "" || !r.Source.Valid() {
		add("id, name, what it is for and source are needed")
	}
	if !slices.Contains(Whens, r.When) {
		add("when %q is not known", r.When)
	}
	if !slices.Contains(Compares, r.Compare) || r.Compare == CompareCm && r.Compared == "" {
		add("what is compared before and after?")
	}
	if r.Min < 1 || r.Max > 7 || r.Min > r.Max {
		add("how often a week: want 1 to 7, least first")
	}
	if len(r.Parts) == 0 || len(r.Parts) > maxParts {
		add("want 1 to %d parts", maxParts)
	}
	if !slices.ContainsFunc(r.Parts, func(p Part) bool { return p.Key }) {
		add("one part must be what it is for")
	}
	for i, p := range r.Parts {
		n := p.Notch
		if n.Dose.Sets < 1 || n.Dose.Volume() < 1 {
			add("part %d: a complete dose is needed", i+1)
		}
		if len(n.Weights) != len(n.Tissues) {
			add("part %d: a weight for each tissue is needed", i+1)
		}
		if p.Most != nil && p.Most.Volume() < n.Dose.Volume() {
			add("part %d: the long version is shorter", i+1)
		}
		if p.Ladder != "" {
			if _, ok := c.Ladder(p.Ladder); !ok {
				add("part %d: ladder %q is not known", i+1, p.Ladder)
			}
		}
	}
	return errors.Join(errs...)
}

// maxParts is the most parts a routine may have.
const maxParts = 20

// bounceRoll: over so many minutes of rolling a foot nothing bounces that day.
const bounceRoll = 2

// In returns the parts of the short or the long version with their doses. With a
// long roll of the sole nothing in it bounces.
func (r Routine) In(long bool, springWeeks int) []Part {
	var out []Part
	rolled := false
	for _, p := range r.Parts {
		if p.Long && !long {
			continue
		}
		if long && p.Most != nil {
			p.Notch.Dose = *p.Most
		}
		if p.Later != nil && springWeeks >= laterFrom {
			p.Notch.Dose = *p.Later
		}
		if e := p.Notch.Exercise; e.Purpose == catalogue.ForRelease && e.Part == "sole" && p.Notch.Dose.Minutes > bounceRoll {
			rolled = true
		}
		if rolled && p.Notch.Exercise.Purpose == catalogue.ForSpring {
			continue
		}
		out = append(out, p)
	}
	return out
}

// laterFrom is how many weeks of spring lie behind before the larger contacts.
const laterFrom = 4

// Seconds is how long parts take as a routine.
func Seconds(parts []Part) float64 {
	s := 0.0
	for _, p := range parts {
		s += p.Notch.InRoutine()
	}
	return s
}

// Minutes are the minutes of the short and of the long version.
func (r Routine) Minutes() (short, long float64) {
	a, b := Seconds(r.In(false, 0))/60, Seconds(r.In(true, 0))/60
	return min(a, b), max(a, b)
}

// Equipment lists what it needs, each once.
func (r Routine) Equipment() []string {
	out := []string{}
	for _, p := range r.Parts {
		for _, k := range p.Notch.Exercise.Equipment {
			if !slices.Contains(out, k) {
				out = append(out, k)
			}
		}
	}
	return out
}

// Gates lists what its parts wait for, each once.
func (r Routine) Gates() []catalogue.Gate {
	out := []catalogue.Gate{}
	for _, p := range r.Parts {
		if g := p.Notch.Gate; g != "" && !slices.Contains(out, g) {
			out = append(out, g)
		}
	}
	return out
}
