// Package screening knows the tests a coach takes: how a trial is checked, how
// trials become a result with its margin and verdict, how sides and dates
// compare and what the results mean together.
package screening

import (
	"bytes"
	_ "embed" // the tests are data
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/figure"
	"notchback/core/source"
)

// TestID names one test.
type TestID string

// Reduction says how the valid trials of a side become its result.
type Reduction string

// The reductions: measured values take the mean, endurance the
// best, classes the worst.
const (
	MeanOfTrials  Reduction = "mean"
	BestOfTrials  Reduction = "best"
	WorstOfTrials Reduction = "worst"
)

// Compensation is one way the body dodges a test.
type Compensation struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Invalid bool   `json:"invalid" doc:"Makes the trial invalid: it is kept and struck out, and does not count"`
}

// Noise is the standard error of measurement of one trial, in the test's unit.
type Noise struct {
	SEM    float64    `json:"sem"`
	Source source.Tag `json:"source"`
}

// Cut holds the cut-offs of a test. Without Lower, at or above OK is ok, at or
// above Watch is watch, below Watch is limited; with Lower the other way round.
// OKOpen and WatchOpen say that the cut-off itself belongs to the next class.
// NoLimited means that it never reads worse than watch.
type Cut struct {
	OK        float64    `json:"ok"`
	Watch     float64    `json:"watch"`
	Lower     bool       `json:"lower,omitempty" doc:"A lower value is better"`
	OKOpen    bool       `json:"okOpen,omitempty"`
	WatchOpen bool       `json:"watchOpen,omitempty"`
	NoLimited bool       `json:"noLimited,omitempty"`
	Source    source.Tag `json:"source"`
}

// SideCut holds the cut-offs for the difference between sides, in the test's unit.
type SideCut struct {
	Watch   float64    `json:"watch"`
	Limited float64    `json:"limited,omitempty" doc:"None where 0"`
	Percent bool       `json:"percent,omitempty" doc:"The difference is in per cent of the larger side"`
	Source  source.Tag `json:"source"`
}

// Option is one class of a test judged by eye.
type Option struct {
	Value   float64 `json:"value"`
	Label   string  `json:"label"`
	Verdict Verdict `json:"verdict"`
}

// Test describes one test of a screening.
type Test struct {
	ID            TestID         `json:"id"`
	Name          string         `json:"name"`
	Station       Station        `json:"station"`
	SetUp         string         `json:"setUp"`
	Cue           string         `json:"cue" doc:"The set-up in a few words, for the spine"`
	Quick         bool           `json:"quick" doc:"Part of the quick screening"`
	Sided         bool           `json:"sided" doc:"Taken left and right; otherwise once, as both"`
	Unit          string         `json:"unit" doc:"cm, °, s, reps, …; class for tests by eye, mm, spm, %"`
	Decimals      int            `json:"decimals" doc:"Decimals shown"`
	Trials        int            `json:"trials" doc:"Trials taken by default"`
	Reduction     Reduction      `json:"reduction" enum:"mean,best,worst"`
	Min           float64        `json:"min" doc:"Smallest value accepted"`
	Max           float64        `json:"max" doc:"Largest value accepted"`
	Scale         float64        `json:"scale" doc:"End of the drawn scale"`
	Whole         bool           `json:"whole" doc:"Only whole numbers are accepted"`
	AsksPain      bool           `json:"asksPain" doc:"Pain during is asked for every trial"`
	Block         bool           `json:"block" doc:"Can also be entered as block height and toe length"`
	Aids          []string       `json:"aids" nullable:"false" doc:"stopwatch, hold, count15, tap, metronome, crossing, reach, block"`
	Options       []Option       `json:"options" nullable:"false" doc:"The classes of a test by eye"`
	Checks        []string       `json:"checks" nullable:"false" doc:"What can be ticked; two or more read watch"`
	Gate          catalogue.Gate `json:"gate,omitempty" doc:"Must be open before the test"`
	Noise         *Noise         `json:"noise,omitempty"`
	SideCut       *SideCut       `json:"sideCut,omitempty"`
	Symmetry      bool           `json:"symmetry" doc:"Sides are compared by the limb symmetry index"`
	Seconds       int            `json:"seconds" doc:"About how long it takes, both sides and all trials"`
	Source        source.Tag     `json:"source"`
	Compensations []Compensation `json:"compensations" nullable:"false"`
	Figure        string         `json:"figure" doc:"The pose it is drawn in"`
	Picture       []figure.Part  `json:"picture" nullable:"false"`
	cut           *Cut
	norm          string
	lunge         bool
}

// MaxTrials is how many trials are asked for before a borderline result is
// settled by the more cautious class.
const MaxTrials = 5

// Tests that rules speak of by name.
const (
	HeelWalk        TestID = "heel-walk"
	ToeWalk         TestID = "toe-walk"
	BriskWalk       TestID = "brisk-walk"
	CadenceTest     TestID = "cadence"
	StrikeEasy      TestID = "strike-easy"
	Overstride      TestID = "overstride"
	Bounce          TestID = "bounce"
	BounceEye       TestID = "bounce-eye"
	Crossing        TestID = "crossing"
	Loudness        TestID = "loudness"
	Posture         TestID = "posture"
	Arms            TestID = "arms"
	HipExtension    TestID = "hip-extension"
	HipDrop         TestID = "hip-drop"
	KneeIn          TestID = "knee-in"
	Arch            TestID = "arch"
	Navicular       TestID = "navicular"
	ToeDrift        TestID = "toe-drift"
	Bunion          TestID = "bunion"
	Clawing         TestID = "clawing"
	TendonsOut      TestID = "tendons-out"
	Tripod          TestID = "tripod"
	Squat           TestID = "squat"
	KneeToWall      TestID = "knee-to-wall"
	SeatedShin      TestID = "seated-shin"
	BigToePassive   TestID = "big-toe-passive"
	BigToeFlat      TestID = "big-toe-flat"
	BigToeActive    TestID = "big-toe-active"
	TuckedKneel     TestID = "tucked-kneel"
	ToeBig          TestID = "toe-big"
	ToeSmall        TestID = "toe-small"
	ToePress        TestID = "toe-press"
	ShortFoot       TestID = "short-foot"
	BallHold        TestID = "ball-hold"
	SingleRaise     TestID = "single-leg-raise"
	BentRaise       TestID = "bent-knee-raise"
	ShinRaise       TestID = "shin-raise"
	SplitHold       TestID = "split-hold"
	BandIn          TestID = "band-in"
	BandOut         TestID = "band-out"
	StanceOpen      TestID = "stance-open"
	StanceClosed    TestID = "stance-closed"
	ReachForward    TestID = "reach-forward"
	ReachSide       TestID = "reach-side"
	ReachBack       TestID = "reach-back"
	ReachCrossed    TestID = "reach-crossed"
	Sway            TestID = "sway"
	StrideOpens     TestID = "stride-opens"
	SoreSpot        TestID = "sore-spot"
	ToeSpread       TestID = "toe-spread"
	ToeLower        TestID = "toe-lower"
	FootBrace       TestID = "foot-brace"
	BallHoldTwo     TestID = "ball-hold-two"
	RaiseWobble     TestID = "raise-wobble"
	WallSit         TestID = "wall-sit"
	SupportedBounce TestID = "supported-bounce"
	PogoLook        TestID = "pogo-look"
)

// SymmetryLimit is the limb symmetry index in % under which sides count as
// different.
const SymmetryLimit = 90

// OnlyOKShare is the share of an ok value from which a test with only an ok
// value reads watch.
const OnlyOKShare = 0.8

// manyChecks is how many ticked faults read watch.
const manyChecks = 2

// optionSets are the classes shared by tests by eye, from the value 0 on.
var optionSets = map[string][]Option{
	"strike":      {{0, "heel, extreme", Watch}, {1, "heel", OK}, {2, "mid-foot", OK}, {3, "fore-foot", OK}, {4, "fore-foot, extreme", Watch}},
	"strikeNoted": {{0, "heel, extreme", Noted}, {1, "heel", Noted}, {2, "mid-foot", Noted}, {3, "fore-foot", Noted}, {4, "fore-foot, extreme", Noted}},
	"sizes":       {{0, "small", OK}, {1, "medium", Watch}, {2, "large", Limited}},
	"loud":        {{0, "silent", OK}, {1, "soft", OK}, {2, "loud", Watch}, {3, "pounding", Limited}},
	"opens":       {{0, "behind", OK}, {1, "in front", Watch}},
	"felt":        {{0, "foot", Noted}, {1, "calf", Noted}, {2, "shin", Noted}, {3, "thigh", Noted}, {4, "seat", Noted}},
	"range":       {{0, "small", Noted}, {1, "usual", Noted}, {2, "very large", Noted}},
	"seen":        {{0, "no", OK}, {1, "yes", Watch}},
	"litmus":      {{0, "better", Noted}, {1, "same", Noted}, {2, "worse", Noted}},
	"arch":        {{0, "no", Limited}, {1, "partly", Watch}, {2, "hidden", OK}},
	"drift":       {{0, "straight", OK}, {1, "a little", OK}, {2, "clear", Watch}, {3, "under the next", Limited}},
	"keeps":       {{0, "no", Limited}, {1, "yes", OK}},
	"squat":       {{0, "none to parallel", OK}, {1, "at parallel", OK}, {2, "above parallel", Watch}, {3, "at a quarter", Limited}},
	"control":     {{0, "cannot", Limited}, {1, "with help", Limited}, {2, "alone, not clean", Watch}, {3, "five clean", OK}},
	"brace":       {{0, "no", Limited}, {1, "after trying", Watch}, {2, "on command", OK}, {3, "kept walking", OK}},
	"wobble":      {{0, "steady", OK}, {1, "a little", OK}, {2, "clear", Watch}, {3, "much", Limited}},
	"fluid":       {{0, "jerky", Limited}, {1, "uneven", Limited}, {2, "nearly fluid", Watch}, {3, "fluid", OK}},
}

// Station is where a test is done; the order is that of a screening.
type Station string

// The stations.
const (
	AtWalk            Station = "Walk"
	AtRun             Station = "Run"
	AtStand           Station = "Stand"
	AtBend            Station = "Bend"
	AtSteer           Station = "Steer"
	AtHoldAndLift     Station = "Hold and lift"
	AtBalanceAndReach Station = "Balance and reach"
	AtSpring          Station = "Spring"
)

// Stations lists them in the order of a screening.
var Stations = []Station{AtWalk, AtRun, AtStand, AtBend, AtSteer, AtHoldAndLift, AtBalanceAndReach, AtSpring}

type rawTest struct {
	ID, Name, Cue string
	Station       Station
	SetUp         string    `yaml:"setUp"`
	Quick         bool      `yaml:"quick"`
	Sided         *bool     `yaml:"sided"`
	Unit          string    `yaml:"unit"`
	Decimals      int       `yaml:"decimals"`
	Trials        int       `yaml:"trials"`
	Reduce        Reduction `yaml:"reduce"`
	Min           float64   `yaml:"min"`
	Max           *float64  `yaml:"max"`
	Scale         float64   `yaml:"scale"`
	Whole         bool      `yaml:"whole"`
	Pain          bool      `yaml:"pain"`
	Block         bool      `yaml:"block"`
	Aid           []string  `yaml:"aid"`
	Options       string    `yaml:"options"`
	Checks        []string  `yaml:"checks"`
	Gate          string    `yaml:"gate"`
	Cut           *struct {
		OK        float64 `yaml:"ok"`
		Watch     float64 `yaml:"watch"`
		Lower     bool    `yaml:"lower"`
		OKOpen    bool    `yaml:"okOpen"`
		WatchOpen bool    `yaml:"watchOpen"`
		NoLimited bool    `yaml:"noLimited"`
	} `yaml:"cut"`
	SEM         float64  `yaml:"sem"`
	SEMSource   string   `yaml:"semSource"`
	Side        *rawSide `yaml:"side"`
	SidePercent float64  `yaml:"sidePercent"`
	Symmetry    bool     `yaml:"symmetry"`
	Norm        string   `yaml:"norm"`
	Lunge       bool     `yaml:"lunge"`
	Source      string   `yaml:"source"`
	Comps       []string `yaml:"comps"`
	Figure      string   `yaml:"figure"`
}

type rawSide struct {
	Watch   float64 `yaml:"watch"`
	Limited float64 `yaml:"limited"`
}

//go:embed data/tests.yaml
var testData []byte

// tests is the embedded data; a test of this package proves that it loads.
var tests = func() []Test {
	t, err := parseTests(testData)
	if err != nil {
		panic(err)
	}
	return timed(t)
}()

// parseTests reads the test table and refuses what is not complete.
func parseTests(data []byte) ([]Test, error) {
	var raw []rawTest
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&raw); err != nil {
		return nil, err
	}
	out := make([]Test, 0, len(raw))
	var errs []error
	for _, r := range raw {
		t, err := r.build()
		if err != nil {
			errs = append(errs, fmt.Errorf("test %s: %w", r.ID, err))
		}
		out = append(out, t)
	}
	return out, errors.Join(errs...)
}

// drawn is the picture of a pose.
func drawn(name string) ([]figure.Part, error) {
	poses, err := figure.BuiltIn()
	if err != nil {
		return nil, err
	}
	p, err := figure.Resolve(name, poses)
	if err != nil {
		return nil, err
	}
	return figure.Draw(p)
}

func (r rawTest) build() (Test, error) {
	t := Test{
		ID: TestID(r.ID), Name: r.Name, Station: r.Station, SetUp: r.SetUp, Cue: r.Cue, Quick: r.Quick, Sided: r.Sided == nil || *r.Sided,
		Unit: r.Unit, Decimals: r.Decimals, Trials: max(1, r.Trials), Reduction: r.Reduce, Min: r.Min, Scale: r.Scale, Whole: r.Whole || r.Unit == "class",
		AsksPain: r.Pain, Block: r.Block, Aids: append([]string{}, r.Aid...), Options: append([]Option{}, optionSets[r.Options]...),
		Checks: append([]string{}, r.Checks...), Gate: catalogue.Gate(r.Gate), Symmetry: r.Symmetry, Compensations: []Compensation{}, norm: r.Norm, lunge: r.Lunge,
	}
	var errs []error
	if r.ID == "" || r.Name == "" || !slices.Contains(Stations, r.Station) || r.SetUp == "" || r.Cue == "" || r.Unit == "" || r.Max == nil {
		errs = append(errs, errors.New("id, name, station, setUp, cue, unit and max are needed"))
	} else {
		t.Max = *r.Max
	}
	if t.Reduction == "" {
		t.Reduction = MeanOfTrials
	}
	if t.Scale == 0 {
		t.Scale = t.Max
	}
	var err error
	if t.Picture, err = drawn(r.Figure); err != nil {
		errs = append(errs, err)
	}
	t.Figure = r.Figure
	if t.Source, err = source.Read(r.Source); err != nil {
		errs = append(errs, err)
	}
	if r.Options != "" && len(t.Options) == 0 {
		errs = append(errs, fmt.Errorf("options %q are not known", r.Options))
	}
	if r.Cut != nil {
		c := *r.Cut
		t.cut = &Cut{OK: c.OK, Watch: c.Watch, Lower: c.Lower, OKOpen: c.OKOpen, WatchOpen: c.WatchOpen, NoLimited: c.NoLimited, Source: t.Source}
	}
	if r.SEM > 0 {
		n := Noise{SEM: r.SEM}
		if n.Source, err = source.Read(r.SEMSource); err != nil {
			errs = append(errs, err)
		}
		t.Noise = &n
	}
	switch {
	case r.Side != nil:
		t.SideCut = &SideCut{Watch: r.Side.Watch, Limited: r.Side.Limited, Source: t.Source}
		if t.lunge {
			t.SideCut.Source = source.House("1.66 cm is the change one trial can show; 2 cm is a clear step above it")
		}
	case r.SidePercent > 0:
		t.SideCut = &SideCut{Watch: r.SidePercent, Percent: true, Source: t.Source}
	}
	for _, c := range append(append([]string{}, r.Comps...), r.Checks...) {
		name, invalid := strings.CutPrefix(c, "x ")
		t.Compensations = append(t.Compensations, Compensation{strings.ReplaceAll(name, " ", "-"), name, invalid})
	}
	return t, errors.Join(errs...)
}

// Tests returns all tests in the order they are taken.
func Tests() []Test { return slices.Clone(tests) }

// Find returns the test with the given id.
func Find(id TestID) (Test, bool) {
	i := slices.IndexFunc(tests, func(t Test) bool { return t.ID == id })
	if i < 0 {
		return Test{}, false
	}
	return tests[i], true
}

// raiseNorm is the single-leg raise count expected by age. An unknown age takes
// the youngest row, the most demanding.
func raiseNorm(age Age) Cut {
	ok := 25.0
	switch {
	case !age.Known || age.Years <= 39:
	case age.Years <= 49:
		ok = 22
	case age.Years <= 59:
		ok = 20
	default:
		ok = 15
	}
	tag := source.House("25 and its fall with age are published, the steps by decade are ours; the ok value is the rule; watch from 80 % of it")
	tag.Cite, tag.FromMemory = source.HebertLosier2017.Cite, true
	return Cut{OK: ok, Watch: OnlyOKShare * ok, Source: tag}
}

// CutFor returns the cut-offs for an age, nil for a test that is only noted.
func (t Test) CutFor(age Age) *Cut {
	if t.norm == "raise" {
		c := raiseNorm(age)
		return &c
	}
	return t.cut
}

// Trial is one try of one test on one side.
type Trial struct {
	Value         *float64   `json:"value,omitempty" doc:"In the test's unit"`
	Pain          *body.Pain `json:"pain,omitempty" minimum:"0" maximum:"10"`
	SharpPain     bool       `json:"sharpPain,omitempty" doc:"Ended by a sharp pain"`
	Compensations []string   `json:"compensations,omitempty" maxItems:"12"`
	Count         *int       `json:"count,omitempty" minimum:"0" maximum:"1000" doc:"What was counted, out of of; for crossing over"`
	Of            *int       `json:"of,omitempty" minimum:"1" maximum:"1000" doc:"Steps looked at; for crossing over"`
	Resolution    *float64   `json:"resolution,omitempty" minimum:"0" maximum:"60" doc:"The step of one count, for cadence; 4 spm in 15 s"`
	CrampAt       *int       `json:"crampAt,omitempty" minimum:"1" maximum:"100" doc:"The repetition at which a cramp came"`
	BoneZone      bool       `json:"boneZone,omitempty" doc:"The side hurts in a bone zone: the test ends above pain 3"`
}

// StopPain is the pain above which any test ends; BoneStopPain the one on a
// side that hurts in a bone zone.
const (
	StopPain     body.Pain = 5
	BoneStopPain body.Pain = 3
)

// StoppedByPain reports whether the trial ended because it hurt.
func (t Trial) StoppedByPain() bool {
	limit := StopPain
	if t.BoneZone {
		limit = BoneStopPain
	}
	return t.SharpPain || (t.Pain != nil && *t.Pain > limit)
}

// FieldError names the field that is wrong and what is expected of it.
type FieldError struct{ Field, Message string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Message }

// Check reports the first thing wrong with a trial: a value out of the test's
// range, a half repetition, a pain off the scale, or an unknown compensation.
// The error is a *FieldError.
func (t Test) Check(tr Trial) error {
	if (tr.Count == nil) != (tr.Of == nil) || (tr.Count != nil && (*tr.Of < 1 || *tr.Count < 0 || *tr.Count > *tr.Of)) {
		return &FieldError{"count", "crossings and steps are needed together, and no more crossings than steps"}
	}
	if tr.Value == nil && !tr.StoppedByPain() {
		return &FieldError{"value", t.needed()}
	}
	if v := tr.Value; v != nil {
		if math.IsNaN(*v) || *v < t.Min || *v > t.Max {
			return &FieldError{"value", fmt.Sprintf("expected %[2]g to %[3]s (you entered %[1]s)", t.say(*v), t.Min, t.say(t.Max))}
		}
		if t.Whole && *v != math.Trunc(*v) {
			return &FieldError{"value", "whole numbers only"}
		}
	}
	if p := tr.Pain; p != nil && (*p < 0 || *p > body.PainMax) {
		return &FieldError{"pain", fmt.Sprintf("pain must be 0 to 10 (you entered %d)", *p)}
	}
	for _, c := range tr.Compensations {
		if !slices.ContainsFunc(t.Compensations, func(k Compensation) bool { return k.ID == c }) {
			return &FieldError{"compensations", fmt.Sprintf("%q is not one of this test's compensations", c)}
		}
	}
	return nil
}

// say is a value with its unit; a class and a score of ten have none to say.
func (t Test) say(v float64) string {
	if t.Unit == "class" || strings.HasPrefix(t.Unit, "/") {
		return fmt.Sprintf("%g", v)
	}
	return fmt.Sprintf("%g %s", v, t.Unit)
}

func (t Test) needed() string {
	switch {
	case t.Unit == "class":
		return "a class is needed"
	case strings.HasPrefix(t.Unit, "/"):
		return "a number from 0 to 10 is needed"
	}
	return fmt.Sprintf("a value in %s is needed", t.Unit)
}

// Option returns the class a value stands for.
func (t Test) Option(v float64) (Option, bool) {
	for _, o := range t.Options {
		if o.Value == v {
			return o, true
		}
	}
	return Option{}, false
}

// invalid reports whether a compensation strikes the trial out.
func (t Test) invalid(tr Trial) bool {
	return slices.ContainsFunc(t.Compensations, func(c Compensation) bool { return c.Invalid && slices.Contains(tr.Compensations, c.ID) })
}
