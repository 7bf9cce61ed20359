// Package catalogue holds the exercises and ladders as embedded data files that
// a coach can read, checked when they are loaded.
package catalogue

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/source"
)

//go:embed data/*.yaml
var files embed.FS

// Version names this edition of the built-in data; plans keep the version they
// were made with.
const Version = 1

// Gate names a permission that opens only on evidence.
type Gate string

// Exercise is one movement.
type Exercise struct {
	ID        string     `json:"id" yaml:"id"`
	Name      string     `json:"name" yaml:"name"`
	Short     string     `json:"short" yaml:"short" doc:"The few words put before a dose"`
	Purpose   string     `json:"purpose" yaml:"purpose"`
	Sides     string     `json:"sides" yaml:"sides" enum:"each,together"`
	SetUp     string     `json:"setUp" yaml:"setUp"`
	Cues      []string   `json:"cues" yaml:"cues" nullable:"false"`
	Mistakes  []string   `json:"mistakes" yaml:"mistakes" nullable:"false"`
	Equipment []string   `json:"equipment" yaml:"equipment" nullable:"false"`
	Timing    string     `json:"timing" yaml:"timing" enum:"any,pre-run,not-tired,evening,gap48"`
	Cautions  []string   `json:"cautions,omitempty" yaml:"cautions,omitempty"`
	Source    source.Tag `json:"source" yaml:"source"`
}

// Dose is one exact dose. Exactly one of Reps and HoldSeconds is above 0.
type Dose struct {
	Sets        int        `json:"sets"`
	Reps        int        `json:"reps,omitempty"`
	HoldSeconds int        `json:"holdSeconds,omitempty"`
	Tempo       [4]float64 `json:"tempo" doc:"Seconds up, hold, down, hold"`
	BodyPercent float64    `json:"bodyPercent,omitempty" doc:"Added load in per cent of body weight"`
	RM          int        `json:"rm,omitempty" doc:"The load allows just this many repetitions"`
}

// Notch is one rung: an exercise with one exact dose.
type Notch struct {
	Exercise Exercise      `json:"exercise"`
	Dose     Dose          `json:"dose"`
	Gate     Gate          `json:"gate,omitempty"`
	Gap48    bool          `json:"gap48,omitempty" doc:"At least one whole day between two of the same tissue"`
	Tissues  []body.Tissue `json:"tissues" nullable:"false"`
	Weight   float64       `json:"weight,omitempty" doc:"Body weights per repetition or 10 s of hold"`
}

// Together reports whether the notch is done on both legs at once.
func (n Notch) Together() bool { return n.Exercise.Sides == "together" }

// Effort is how "effort left" is asked after a session of a ladder.
type Effort string

// The ways effort is asked.
const (
	AskReserve Effort = "reserve" // repetitions in reserve, 0–5
	AskTwenty  Effort = "twenty"  // sure of 20 % more
	AskNone    Effort = "none"    // not asked: release, range, steer
)

// Ladder is the ordered list of notches of one family.
type Ladder struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Family  string        `json:"family"`
	Purpose string        `json:"purpose"`
	Tissues []body.Tissue `json:"tissues" nullable:"false"`
	PerWeek struct {
		Min int `json:"min" yaml:"min"`
		Max int `json:"max" yaml:"max"`
	} `json:"perWeek"`
	Effort  Effort     `json:"effort" enum:"reserve,twenty,none"`
	Source  source.Tag `json:"source"`
	Notches []Notch    `json:"notches" nullable:"false"`
}

// Len returns the number of notches.
func (l Ladder) Len() int { return len(l.Notches) }

// At returns notch n, counted from 1. n must be within 1…Len.
func (l Ladder) At(n int) Notch { return l.Notches[n-1] }

// Catalogue is a checked set of exercises and ladders.
type Catalogue struct {
	Ladders   []Ladder
	Exercises []Exercise
}

// Ladder returns the ladder with the given id.
func (c Catalogue) Ladder(id string) (Ladder, bool) {
	i := slices.IndexFunc(c.Ladders, func(l Ladder) bool { return l.ID == id })
	if i < 0 {
		return Ladder{}, false
	}
	return c.Ladders[i], true
}

type rawNotch struct {
	Exercise    string        `yaml:"exercise"`
	Dose        string        `yaml:"dose"`
	Tempo       *[4]float64   `yaml:"tempo"`
	BodyPercent float64       `yaml:"bodyPercent"`
	RM          int           `yaml:"rm"`
	Gate        Gate          `yaml:"gate"`
	Gap48       bool          `yaml:"gap48"`
	Tissues     []body.Tissue `yaml:"tissues"`
	Weight      float64       `yaml:"weight"`
}

type rawLadder struct {
	ID      string        `yaml:"id"`
	Name    string        `yaml:"name"`
	Family  string        `yaml:"family"`
	Purpose string        `yaml:"purpose"`
	Tissues []body.Tissue `yaml:"tissues"`
	PerWeek struct {
		Min int `yaml:"min"`
		Max int `yaml:"max"`
	} `yaml:"perWeek"`
	Effort  Effort     `yaml:"effort"`
	Source  source.Tag `yaml:"source"`
	Notches []rawNotch `yaml:"notches"`
}

// BuiltIn loads and checks the embedded data.
func BuiltIn() (Catalogue, error) {
	ex, err := files.ReadFile("data/exercises.yaml")
	if err != nil {
		return Catalogue{}, err
	}
	la, err := files.ReadFile("data/ladders.yaml")
	if err != nil {
		return Catalogue{}, err
	}
	return Parse(ex, la)
}

// Parse reads the two data files and checks every entry; the error names all
// that is wrong.
func Parse(exercises, ladders []byte) (Catalogue, error) {
	var c Catalogue
	if err := strict(exercises, &c.Exercises); err != nil {
		return c, fmt.Errorf("exercises: %w", err)
	}
	var raw []rawLadder
	if err := strict(ladders, &raw); err != nil {
		return c, fmt.Errorf("ladders: %w", err)
	}
	byID := map[string]Exercise{}
	var errs []error
	for _, e := range c.Exercises {
		if e.ID == "" || e.Name == "" || e.Short == "" || e.SetUp == "" || !e.Source.Valid() {
			errs = append(errs, fmt.Errorf("exercise %q: id, name, short, setUp and source are needed", e.ID))
		}
		if e.Sides != "each" && e.Sides != "together" {
			errs = append(errs, fmt.Errorf("exercise %q: sides must be each or together", e.ID))
		}
		if _, dup := byID[e.ID]; dup {
			errs = append(errs, fmt.Errorf("exercise %q: stands twice", e.ID))
		}
		byID[e.ID] = e
	}
	for _, r := range raw {
		l, err := build(r, byID)
		if err != nil {
			errs = append(errs, fmt.Errorf("ladder %q: %w", r.ID, err))
		}
		c.Ladders = append(c.Ladders, l)
	}
	return c, errors.Join(errs...)
}

func strict(b []byte, into any) error {
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	return d.Decode(into)
}

func build(r rawLadder, byID map[string]Exercise) (Ladder, error) {
	l := Ladder{ID: r.ID, Name: r.Name, Family: r.Family, Purpose: r.Purpose, Tissues: r.Tissues, Effort: r.Effort, Source: r.Source}
	l.PerWeek.Min, l.PerWeek.Max = r.PerWeek.Min, r.PerWeek.Max
	var errs []error
	if !r.Source.Valid() || r.Name == "" || len(r.Notches) == 0 {
		errs = append(errs, errors.New("name, source and notches are needed"))
	}
	for i, n := range r.Notches {
		e, ok := byID[n.Exercise]
		if !ok {
			errs = append(errs, fmt.Errorf("notch %d: exercise %q is not known", i+1, n.Exercise))
		}
		d, err := ParseDose(n.Dose)
		if err != nil {
			errs = append(errs, fmt.Errorf("notch %d: %w", i+1, err))
		}
		d.Tempo = [4]float64{1, 0, 1, 0}
		if n.Tempo != nil {
			d.Tempo = *n.Tempo
		}
		d.BodyPercent, d.RM = n.BodyPercent, n.RM
		ts := n.Tissues
		if ts == nil {
			ts = r.Tissues
		}
		if ts == nil {
			ts = []body.Tissue{}
		}
		l.Notches = append(l.Notches, Notch{Exercise: e, Dose: d, Gate: n.Gate, Gap48: n.Gap48, Tissues: ts, Weight: n.Weight})
	}
	if l.Tissues == nil {
		l.Tissues = []body.Tissue{}
	}
	return l, errors.Join(errs...)
}

var doseShape = regexp.MustCompile(`^(\d{1,2}) x (\d{1,3})( s)?$`)

// ParseDose reads "3 x 12" (sets of repetitions) or "3 x 30 s" (sets of holds).
func ParseDose(s string) (Dose, error) {
	m := doseShape.FindStringSubmatch(s)
	if m == nil {
		return Dose{}, fmt.Errorf("dose %q: want sets x reps, like 3 x 12, or sets x seconds, like 3 x 30 s", s)
	}
	sets, _ := strconv.Atoi(m[1])
	n, _ := strconv.Atoi(m[2])
	if sets == 0 || n == 0 {
		return Dose{}, fmt.Errorf("dose %q: sets and counts start at 1", s)
	}
	if m[3] != "" {
		return Dose{Sets: sets, HoldSeconds: n}, nil
	}
	return Dose{Sets: sets, Reps: n}, nil
}
