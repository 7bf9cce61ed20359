// Package catalogue holds the exercises and ladders as embedded data files that
// a coach can read, checked when they are loaded. A practice's own exercises and
// ladders are laid over them.
package catalogue

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sync"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/figure"
	"notchback/core/source"
)

//go:embed data/*.yaml
var files embed.FS

// Version names this edition of the built-in data; plans keep the notches they
// were made with.
const Version = 4

// Gate names a permission that opens only on evidence.
type Gate string

// Trait is what safety rules look for in an exercise.
type Trait string

// The traits.
const (
	BelowLevel  Trait = "below-level"
	RM          Trait = "rm"
	FullEffort  Trait = "full-effort"
	EyesClosed  Trait = "eyes-closed"
	EndRange    Trait = "end-range"
	Cold        Trait = "cold"
	HardRelease Trait = "hard-release"
	BreathHeld  Trait = "breath-held"
	KneeOver60  Trait = "knee-over-60"
	DeepKnee    Trait = "deep-knee"
	Unsupported Trait = "unsupported"
	Supported   Trait = "supported" // hands on a table carry part of the weight
	HeelsUp     Trait = "heels-up"
	ToesTucked  Trait = "toes-tucked" // kneeling on the toes
	BareFoot    Trait = "bare-foot"   // needs the bare foot on the floor
	Pressing    Trait = "pressing"    // presses on the sole
	Curling     Trait = "curling"     // bends the toes against something
	FromStep    Trait = "from-step"   // the heel hangs over a step
	InTurn      Trait = "in-turn"     // from one foot to the other
	HeelsKiss   Trait = "heels-kiss"  // heels touch in each bounce
	SteadyHand  Trait = "steady-hand" // can be done with a hand on a support
	ShinRaise   Trait = "shin-raise"  // toes lifted against the body's weight
	EdgeWalk    Trait = "edge-walk"   // on the edges of the feet
	ToesUp      Trait = "toes-up"     // toes bent up over something while the heel lifts
	Bands       Trait = "bands"       // against a band or a hand
	Look        Trait = "look"        // a look or a comparison; nothing is trained by it
)

var traits = []Trait{BelowLevel, RM, FullEffort, EyesClosed, EndRange, Cold, HardRelease, BreathHeld, KneeOver60, DeepKnee, Unsupported, Supported,
	HeelsUp, ToesTucked, BareFoot, Pressing, Curling, FromStep, InTurn, HeelsKiss, SteadyHand, ShinRaise, EdgeWalk, ToesUp, Bands, Look}

// Traits lists what safety rules look for.
func Traits() []Trait { return slices.Clone(traits) }

// Purpose is what an exercise or a ladder is for.
type Purpose string

// The purposes.
const (
	ForCalm     Purpose = "calm"
	ForRelease  Purpose = "release"
	ForRange    Purpose = "range"
	ForSteer    Purpose = "steer"
	ForStrength Purpose = "strength"
	ForWholeLeg Purpose = "whole-leg"
	ForBalance  Purpose = "balance"
	ForSpring   Purpose = "spring"
	ForForm     Purpose = "form"
	ForExposure Purpose = "exposure"
	ForReturn   Purpose = "return"
)

// Purposes lists them in the order of a session.
var Purposes = []Purpose{ForCalm, ForRelease, ForRange, ForSteer, ForStrength, ForWholeLeg, ForBalance, ForSpring, ForForm, ForExposure, ForReturn}

// Timings are when an exercise fits.
var Timings = []string{"any", "pre-run", "not-tired", "evening", "gap48"}

// Exercise is one movement.
type Exercise struct {
	ID        string     `json:"id"`
	Name      string     `json:"name"`
	Short     string     `json:"short" doc:"The few words put before a dose"`
	Purpose   Purpose    `json:"purpose"`
	Position  string     `json:"position"`
	Sides     string     `json:"sides" enum:"each,together"`
	SetUp     string     `json:"setUp"`
	Cues      []string   `json:"cues" nullable:"false"`
	Mistakes  []string   `json:"mistakes" nullable:"false"`
	Equipment []string   `json:"equipment" nullable:"false"`
	Timing    string     `json:"timing" enum:"any,pre-run,not-tired,evening,gap48"`
	Part      string     `json:"part,omitempty" doc:"Where it acts"`
	Traits    []Trait    `json:"traits,omitempty"`
	Cautions  []string   `json:"cautions,omitempty"`
	Figure    [2]string  `json:"figure" doc:"Poses of the start and the end; empty for an own exercise without a drawing"`
	Turned    [2]Turned  `json:"turned,omitzero" doc:"Angles of an own exercise that differ from the poses'"`
	Source    source.Tag `json:"source"`
	Own       bool       `json:"own,omitempty" doc:"The practice's own"`
}

// Notch is one rung: an exercise with one exact dose.
type Notch struct {
	Exercise Exercise      `json:"exercise"`
	Dose     Dose          `json:"dose"`
	Gate     Gate          `json:"gate,omitempty"`
	Gap48    bool          `json:"gap48,omitempty" doc:"At least one whole day between two of the same tissue"`
	Heavy    bool          `json:"heavy,omitempty" doc:"Heavy for the calf, or heavy spring"`
	Alone    bool          `json:"alone,omitempty" doc:"Too long for a session; stands by itself in the evening"`
	Tissues  []body.Tissue `json:"tissues" nullable:"false"`
	Weights  []float64     `json:"weights,omitempty" doc:"Body weights per repetition, contact or 10 s of hold, in the order of tissues"`
}

// Together reports whether the notch is done on both legs at once.
func (n Notch) Together() bool { return n.Exercise.Sides == "together" }

// Weight returns the body weights a repetition puts on a tissue; 0 where it is
// not loaded.
func (n Notch) Weight(t body.Tissue) float64 {
	if i := slices.Index(n.Tissues, t); i >= 0 && i < len(n.Weights) {
		return n.Weights[i]
	}
	return 0
}

// Has reports whether the exercise has a trait.
func (n Notch) Has(t Trait) bool { return slices.Contains(n.Exercise.Traits, t) }

// Effort is how "effort left" is asked after a session of a ladder.
type Effort string

// The ways effort is asked.
const (
	AskReserve Effort = "reserve" // repetitions in reserve, 0–5
	AskTwenty  Effort = "twenty"  // sure of 20 % more
	AskNone    Effort = "none"    // not asked: release, range, steer
)

// Place says where in the week a ladder stands.
type Place string

// The places.
const (
	PlaceMicro   Place = "micro"   // short and daily
	PlaceMain    Place = "main"    // in a main session
	PlaceEvening Place = "evening" // by itself, away from runs
	PlaceRun     Place = "run"     // in or before a run
	PlaceDay     Place = "day"     // through the day
)

// StartRule says at which notch a ladder begins.
type StartRule struct {
	Test     string         `json:"test,omitempty"`
	With     string         `json:"with,omitempty" doc:"A second test; the lower value counts"`
	From     map[int]int    `json:"from,omitempty" doc:"Least value of the weaker side to notch"`
	Class    map[string]int `json:"class,omitempty" doc:"Verdict of the weaker side to notch"`
	Cautions bool           `json:"cautions,omitempty" doc:"One notch lower for each caution, at most two"`
	Source   source.Tag     `json:"source"`
}

// Ladder is the ordered list of notches of one family.
type Ladder struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Family  string        `json:"family"`
	Purpose Purpose       `json:"purpose"`
	Place   Place         `json:"place" enum:"micro,main,evening,run,day"`
	Tissues []body.Tissue `json:"tissues" nullable:"false" doc:"All tissues any of its notches loads"`
	PerWeek struct {
		Min int `json:"min" yaml:"min"`
		Max int `json:"max" yaml:"max"`
	} `json:"perWeek"`
	Effort       Effort     `json:"effort" enum:"reserve,twenty,none"`
	Source       source.Tag `json:"source"`
	WeightSource source.Tag `json:"weightSource"`
	Start        StartRule  `json:"start"`
	Notches      []Notch    `json:"notches" nullable:"false"`
	Own          bool       `json:"own,omitempty"`
	Part         *Part      `json:"part,omitempty" doc:"Set where it is one part of a routine"`
}

// Part is what makes a ladder of one notch a part of a routine: it counts for dose,
// pain and everything that closes, and never goes up.
type Part struct {
	Routine string `json:"routine"`
	Settled bool   `json:"settled,omitempty" doc:"Waits until what it loads is out of the calm phase"`
	Sore    *int   `json:"sore,omitempty" doc:"Waits while a complaint of foot or lower leg is over this pain"`
}

// Len returns the number of notches.
func (l Ladder) Len() int { return len(l.Notches) }

// At returns notch n, counted from 1. n must be within 1…Len.
func (l Ladder) At(n int) Notch { return l.Notches[n-1] }

// Kit is a thing exercises need.
type Kit struct {
	ID     string   `json:"id" yaml:"id"`
	Name   string   `json:"name" yaml:"name"`
	Usual  bool     `json:"usual" yaml:"usual" doc:"Found in most homes"`
	Always bool     `json:"always,omitempty" yaml:"always" doc:"There is one everywhere"`
	Swap   []string `json:"swap" yaml:"swap" nullable:"false" doc:"What can stand in for it"`
}

// Catalogue is a checked set of exercises and ladders.
type Catalogue struct {
	Ladders   []Ladder
	Exercises []Exercise
	Kit       []Kit
	poses     map[string]figure.Pose
	pictures  *sync.Map // those of the built-in poses, drawn once
}

// Ladder returns the ladder with the given id.
func (c Catalogue) Ladder(id string) (Ladder, bool) {
	i := slices.IndexFunc(c.Ladders, func(l Ladder) bool { return l.ID == id })
	if i < 0 {
		return Ladder{}, false
	}
	return c.Ladders[i], true
}

// Order returns a ladder's place in the order of a session.
func (c Catalogue) Order(id string) int {
	return slices.IndexFunc(c.Ladders, func(l Ladder) bool { return l.ID == id })
}

// KitNamed returns a thing's entry.
func (c Catalogue) KitNamed(id string) (Kit, bool) {
	i := slices.IndexFunc(c.Kit, func(k Kit) bool { return k.ID == id })
	if i < 0 {
		return Kit{}, false
	}
	return c.Kit[i], true
}

// Poses lists the names of all positions an own exercise can be drawn with.
func (c Catalogue) Poses() []string { return slices.Sorted(maps.Keys(c.poses)) }

type rawExercise struct {
	ID        string   `yaml:"id"`
	Name      string   `yaml:"name"`
	Short     string   `yaml:"short"`
	Purpose   Purpose  `yaml:"purpose"`
	Position  string   `yaml:"position"`
	Sides     string   `yaml:"sides"`
	SetUp     string   `yaml:"setUp"`
	Cues      []string `yaml:"cues"`
	Mistakes  []string `yaml:"mistakes"`
	Equipment []string `yaml:"equipment"`
	Timing    string   `yaml:"timing"`
	Part      string   `yaml:"part"`
	Traits    []Trait  `yaml:"traits"`
	Cautions  []string `yaml:"cautions"`
	Figure    []string `yaml:"figure"`
	Source    string   `yaml:"source"`
}

type rawNotch struct {
	Exercise    string        `yaml:"exercise"`
	Dose        string        `yaml:"dose"`
	Tempo       *[4]float64   `yaml:"tempo"`
	BodyPercent float64       `yaml:"bodyPercent"`
	RM          int           `yaml:"rm"`
	Band        int           `yaml:"band"`
	Share       int           `yaml:"share"`
	Walk        int           `yaml:"walk"`
	Ways        int           `yaml:"ways"`
	Rest        int           `yaml:"rest"`
	Total       bool          `yaml:"total"`
	Spread      bool          `yaml:"spread"`
	More        string        `yaml:"more"`
	PerSecond   float64       `yaml:"perSecond"`
	Gate        Gate          `yaml:"gate"`
	Gap48       bool          `yaml:"gap48"`
	Heavy       bool          `yaml:"heavy"`
	Alone       bool          `yaml:"alone"`
	Tissues     []body.Tissue `yaml:"tissues"`
	Weight      []float64     `yaml:"weight"`
}

type rawLadder struct {
	ID      string        `yaml:"id"`
	Name    string        `yaml:"name"`
	Family  string        `yaml:"family"`
	Purpose Purpose       `yaml:"purpose"`
	Place   Place         `yaml:"place"`
	Tissues []body.Tissue `yaml:"tissues"`
	PerWeek struct {
		Min int `yaml:"min"`
		Max int `yaml:"max"`
	} `yaml:"perWeek"`
	Effort       Effort `yaml:"effort"`
	Source       string `yaml:"source"`
	WeightSource string `yaml:"weightSource"`
	Start        *struct {
		Test     string         `yaml:"test"`
		With     string         `yaml:"with"`
		From     map[int]int    `yaml:"from"`
		Class    map[string]int `yaml:"class"`
		Cautions bool           `yaml:"cautions"`
		Source   string         `yaml:"source"`
	} `yaml:"start"`
	Notches []rawNotch `yaml:"notches"`
	Grow    *struct {
		Cm    float64 `yaml:"cm"`
		Times int     `yaml:"times"`
	} `yaml:"grow"`
}

// BuiltIn returns the embedded data, read and checked once.
var BuiltIn = sync.OnceValues(func() (Catalogue, error) {
	var b [3][]byte
	for i, name := range []string{"exercises", "ladders", "kit"} {
		var err error
		if b[i], err = files.ReadFile("data/" + name + ".yaml"); err != nil {
			return Catalogue{}, err
		}
	}
	return Parse(b[0], b[1], figure.Poses, b[2])
})

// Parse reads the data files and checks every entry; the error names all that
// is wrong.
func Parse(exercises, ladders, poses, kit []byte) (Catalogue, error) {
	c := Catalogue{pictures: &sync.Map{}}
	if err := strict(kit, &c.Kit); err != nil {
		return c, fmt.Errorf("kit: %w", err)
	}
	if err := strict(poses, &c.poses); err != nil {
		return c, fmt.Errorf("poses: %w", err)
	}
	var rawE []rawExercise
	if err := strict(exercises, &rawE); err != nil {
		return c, fmt.Errorf("exercises: %w", err)
	}
	var raw []rawLadder
	if err := strict(ladders, &raw); err != nil {
		return c, fmt.Errorf("ladders: %w", err)
	}
	var errs []error
	seen := map[string]bool{}
	for _, r := range rawE {
		e := Exercise{ID: r.ID, Name: r.Name, Short: r.Short, Purpose: r.Purpose, Position: r.Position, Sides: r.Sides, SetUp: r.SetUp, Cues: r.Cues,
			Mistakes: r.Mistakes, Equipment: r.Equipment, Timing: r.Timing, Part: r.Part, Traits: r.Traits, Cautions: r.Cautions}
		var err error
		if e.Source, err = source.Read(r.Source); err != nil {
			errs = append(errs, fmt.Errorf("exercise %q: %w", r.ID, err))
		}
		if len(r.Figure) != 2 || r.Figure[0] == r.Figure[1] {
			errs = append(errs, fmt.Errorf("exercise %q: a start and another end position are needed", r.ID))
		} else {
			e.Figure = [2]string{r.Figure[0], r.Figure[1]}
		}
		if err := c.CheckExercise(e); err != nil {
			errs = append(errs, err)
		}
		if seen[e.ID] {
			errs = append(errs, fmt.Errorf("exercise %q: stands twice", e.ID))
		}
		seen[e.ID] = true
		c.Exercises = append(c.Exercises, e)
	}
	for _, r := range raw {
		l, err := c.build(r)
		if err == nil {
			err = c.CheckLadder(l)
		}
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

// CheckExercise says what an exercise lacks.
func (c Catalogue) CheckExercise(e Exercise) error {
	var errs []error
	add := func(format string, args ...any) {
		errs = append(errs, fmt.Errorf("exercise %q: "+format, append([]any{e.ID}, args...)...))
	}
	if e.ID == "" || e.Name == "" || e.Short == "" || e.SetUp == "" || !e.Source.Valid() {
		add("id, name, a short name, set-up and source are needed")
	}
	if e.Sides != "each" && e.Sides != "together" {
		add("sides must be each or together")
	}
	if !slices.Contains(Purposes, e.Purpose) {
		add("purpose %q is not known", e.Purpose)
	}
	if !slices.Contains(Timings, e.Timing) {
		add("timing %q is not known", e.Timing)
	}
	if len(e.Cues) == 0 || len(e.Cues) > 3 {
		add("one to three cues are needed")
	}
	if e.Part != "" && !slices.Contains(Parts, e.Part) || e.Part == "" && !e.Own {
		add("part %q is not known", e.Part)
	}
	for _, t := range e.Traits {
		if !slices.Contains(traits, t) {
			add("trait %q is not known", t)
		}
	}
	for _, k := range e.Equipment {
		if _, ok := c.KitNamed(k); !ok {
			add("equipment %q is not known", k)
		}
	}
	if e.Drawn() || !e.Own {
		if _, err := c.Picture(e); err != nil {
			add("drawing: %w", err)
		}
	}
	return errors.Join(errs...)
}

func (c Catalogue) exercise(id string) (Exercise, bool) {
	i := slices.IndexFunc(c.Exercises, func(e Exercise) bool { return e.ID == id })
	if i < 0 {
		return Exercise{}, false
	}
	return c.Exercises[i], true
}

func (c Catalogue) build(r rawLadder) (Ladder, error) {
	l := Ladder{ID: r.ID, Name: r.Name, Family: r.Family, Purpose: r.Purpose, Place: r.Place, Tissues: slices.Clone(r.Tissues), Effort: r.Effort}
	l.PerWeek.Min, l.PerWeek.Max = r.PerWeek.Min, r.PerWeek.Max
	var errs []error
	read := func(s string) source.Tag {
		t, err := source.Read(s)
		if err != nil {
			errs = append(errs, err)
		}
		return t
	}
	l.Source = read(r.Source)
	l.WeightSource = source.Baxter2021
	if r.WeightSource != "" {
		l.WeightSource = read(r.WeightSource)
	}
	if r.Start == nil {
		errs = append(errs, errors.New("a start is needed; {} begins at the first notch"))
	} else {
		l.Start = StartRule{Test: r.Start.Test, With: r.Start.With, From: r.Start.From, Class: r.Start.Class, Cautions: r.Start.Cautions, Source: source.House("without a test it begins at the first notch")}
		if r.Start.Test != "" {
			l.Start.Source = read(r.Start.Source)
		}
	}
	for i, n := range r.Notches {
		e, ok := c.exercise(n.Exercise)
		if !ok {
			errs = append(errs, fmt.Errorf("notch %d: exercise %q is not known", i+1, n.Exercise))
		}
		d, err := ParseDose(n.Dose)
		if err != nil {
			errs = append(errs, fmt.Errorf("notch %d: %w", i+1, err))
		}
		if n.Tempo != nil {
			d.Tempo = *n.Tempo
		}
		d.BodyPercent, d.RM, d.Band, d.SharePercent, d.WalkMinutes, d.Ways = n.BodyPercent, n.RM, n.Band, n.Share, n.Walk, n.Ways
		d.Total, d.Spread, d.More, d.RestSeconds, d.PerSecond = n.Total, n.Spread, n.More, n.Rest, n.PerSecond
		ts := n.Tissues
		if ts == nil {
			ts = slices.Clone(r.Tissues)
		}
		if ts == nil {
			ts = []body.Tissue{}
		}
		l.Notches = append(l.Notches, Notch{Exercise: e, Dose: d, Gate: n.Gate, Gap48: n.Gap48, Heavy: n.Heavy, Alone: n.Alone, Tissues: ts, Weights: n.Weight})
		for _, t := range ts {
			if !slices.Contains(l.Tissues, t) {
				l.Tissues = append(l.Tissues, t)
			}
		}
	}
	if g := r.Grow; g != nil && len(l.Notches) > 0 {
		for i := range g.Times {
			n := l.Notches[len(r.Notches)-1]
			n.Dose.PlusCm = g.Cm * float64(i+1)
			l.Notches = append(l.Notches, n)
		}
	}
	if l.Tissues == nil {
		l.Tissues = []body.Tissue{}
	}
	return l, errors.Join(errs...)
}

// CheckLadder says what is wrong with a ladder: what it lacks, and where it
// gets easier on the way up. From one exercise to the next no tissue's weight
// falls; within one exercise neither load nor, at the same load, volume falls.
func (c Catalogue) CheckLadder(l Ladder) error {
	var errs []error
	add := func(format string, args ...any) { errs = append(errs, fmt.Errorf(format, args...)) }
	if l.ID == "" || l.Name == "" || l.Family == "" || !l.Source.Valid() || len(l.Notches) == 0 {
		add("id, name, family, source and notches are needed")
	}
	if !slices.Contains(Purposes, l.Purpose) {
		add("purpose %q is not known", l.Purpose)
	}
	if !slices.Contains([]Place{PlaceMicro, PlaceMain, PlaceEvening, PlaceRun, PlaceDay}, l.Place) {
		add("place %q is not known", l.Place)
	}
	if l.PerWeek.Min < 1 || l.PerWeek.Max > 7 || l.PerWeek.Min > l.PerWeek.Max {
		add("how often a week: want 1 to 7, least first")
	}
	if !slices.Contains([]Effort{AskReserve, AskTwenty, AskNone}, l.Effort) {
		add("effort %q is not known", l.Effort)
	}
	gated := false
	for i, n := range l.Notches {
		at := i + 1
		if n.Exercise.ID == "" {
			add("notch %d: an exercise is needed", at)
		}
		if n.Dose.Sets < 1 || n.Dose.measures() != 1 {
			add("notch %d: a complete dose is needed", at)
		}
		if n.Dose.RM > 0 && n.Dose.RM != n.Dose.Reps {
			add("notch %d: as many repetitions as the load allows", at)
		}
		if len(n.Weights) > 0 && len(n.Weights) != len(n.Tissues) {
			add("notch %d: a weight for each tissue is needed", at)
		}
		if !l.Own && len(n.Tissues) > 0 && len(n.Weights) == 0 {
			add("notch %d: loads a tissue without a weight", at)
		}
		if gated && n.Gate == "" && !n.Together() {
			add("notch %d: stands after a gate without one", at)
		}
		if g := n.NeedsGate(); stricter(n.Gate, g) != n.Gate && !l.Own {
			add("notch %d: such work asks for the gate %s", at, g)
		}
		gated = gated || n.Gate != ""
		if i > 0 {
			errs = append(errs, harder(l.Notches[i-1], n, at))
		}
	}
	return errors.Join(errs...)
}

func harder(p, n Notch, at int) error {
	var errs []error
	for _, t := range n.Tissues {
		if n.Weight(t) < p.Weight(t) {
			errs = append(errs, fmt.Errorf("notch %d: the weight on the %s falls", at, t.Name()))
		}
	}
	for _, t := range p.Tissues {
		if !slices.Contains(n.Tissues, t) {
			errs = append(errs, fmt.Errorf("notch %d: no longer loads the %s", at, t.Name()))
		}
	}
	if p.Exercise.ID != n.Exercise.ID {
		return errors.Join(errs...)
	}
	a, b := p.Dose, n.Dose
	// A smaller number of repetitions to the limit is a heavier load.
	loadFell := b.BodyPercent < a.BodyPercent || b.Band < a.Band || b.SharePercent < a.SharePercent || b.PlusCm < a.PlusCm || (a.RM > 0 && (b.RM == 0 || b.RM > a.RM))
	loadRose := b.BodyPercent > a.BodyPercent || b.Band > a.Band || b.SharePercent > a.SharePercent || b.PlusCm > a.PlusCm || (b.RM > 0 && b.RM < a.RM) || (a.RM == 0 && b.RM > 0)
	if loadFell {
		errs = append(errs, fmt.Errorf("notch %d: the load falls within one exercise", at))
	}
	if !loadRose && b.Volume() < a.Volume() {
		errs = append(errs, fmt.Errorf("notch %d: the volume falls within one exercise", at))
	}
	return errors.Join(errs...)
}
