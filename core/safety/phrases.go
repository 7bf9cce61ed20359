package safety

import (
	"bytes"
	_ "embed" // the phrases are data
	"errors"
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/screening"
)

//go:embed data/phrases.yaml
var phraseData []byte

// phrase is what the flag table means by a few words: kinds of work, gates, tests
// and running. With a limit it does not close the work but says how it is done.
type phrase struct {
	Phrase  string               `yaml:"phrase"`
	Work    []catalogue.Selector `yaml:"work"`
	Gates   []catalogue.Gate     `yaml:"gates"`
	Tests   []string             `yaml:"tests"`
	Running bool                 `yaml:"running"`
	Limit   string               `yaml:"limit"`
}

func (p phrase) matches(k catalogue.Kinds) bool {
	return slices.ContainsFunc(p.Work, func(s catalogue.Selector) bool { return s.Matches(k) })
}

var phrases = func() map[string]phrase {
	p, err := parsePhrases(phraseData)
	if err != nil {
		panic(err) // a test of this package proves that it loads
	}
	return p
}()

func parsePhrases(data []byte) (map[string]phrase, error) {
	var raw []phrase
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&raw); err != nil {
		return nil, err
	}
	out := map[string]phrase{}
	var errs []error
	for _, p := range raw {
		if _, twice := out[p.Phrase]; twice || p.Phrase == "" {
			errs = append(errs, fmt.Errorf("phrase %q: stands twice, or has no name", p.Phrase))
		}
		for _, s := range p.Work {
			if err := s.Check(); err != nil {
				errs = append(errs, fmt.Errorf("phrase %q: %w", p.Phrase, err))
			}
		}
		for _, g := range p.Gates {
			if !slices.ContainsFunc(gateRules, func(r gateRule) bool { return r.gate == g }) {
				errs = append(errs, fmt.Errorf("phrase %q: gate %q is not known", p.Phrase, g))
			}
		}
		out[p.Phrase] = p
	}
	return out, errors.Join(errs...)
}

// testSets are the tests that a word of the phrases stands for.
func inTestSet(set string, t screening.Test) bool {
	switch set {
	case "all":
		return true
	case "running":
		return t.Station == screening.AtRun
	case "heels-up":
		return t.Station == screening.AtHoldAndLift || t.Station == screening.AtSpring || t.Station == screening.AtBalanceAndReach || t.ID == screening.ToeWalk || t.ID == screening.HeelWalk || t.ID == screening.TuckedKneel
	case "standing":
		return t.Station != screening.AtSteer && t.ID != screening.SeatedShin && t.ID != screening.BigToePassive && t.ID != screening.BigToeFlat && t.ID != screening.BigToeActive
	}
	return set == string(t.ID)
}

// regionWork is the work that loads a zone, and whether running does.
func regionWork(z screening.Zone) []catalogue.Selector {
	one := func(kinds ...catalogue.Kind) catalogue.Selector { return kinds }
	a, p, b, s := catalogue.Loads(body.Achilles), catalogue.Loads(body.Sole), catalogue.Loads(body.Forefoot), catalogue.Loads(body.Shin)
	exposed := []catalogue.Selector{one(catalogue.RunningWork), one("exposure"), one("spring")}
	switch z {
	case "heel", "arch":
		return append(exposed, one(p), one(a, catalogue.OneLeg), one(a, catalogue.AddedLoad))
	case "ball", "big-toe", "toes", "outer-foot", "fifth-base", "top-foot": // the navicular counts as a place that can't be told
		return append(exposed, one(b), one(p))
	case "achilles-low", "achilles-mid", "calf":
		return append(exposed[:1:1], one(a), one("spring"))
	case "outer-shin", "front-shin":
		return append(exposed[:1:1], one(s), one("spring"))
	case "inner-shin":
		return append(exposed, one(s), one(b), one(a))
	case "kneecap", "thigh", "hip", "groin":
		return append(exposed, one(catalogue.Standing, catalogue.OneLeg), one("whole-leg"), one(catalogue.Kind(catalogue.KneeOver60)), one(catalogue.Kind(catalogue.DeepKnee)))
	}
	return append(exposed, one(catalogue.Standing, catalogue.OneLeg), one(a), one(p), one(b), one(s))
}

// LoadsRegion reports whether work loads a zone: one table for all flags,
// runs and exposures included where they load it.
func LoadsRegion(z screening.Zone, k catalogue.Kinds) bool {
	return slices.ContainsFunc(regionWork(z), func(s catalogue.Selector) bool { return s.Matches(k) })
}

// zoneGates are the gates that loading of a zone closes: a foot that may not be
// loaded does not go without shoes or hop.
func zoneGates() []catalogue.Gate {
	return []catalogue.Gate{BarefootHome, BarefootWalk, BarefootStrength, Hop, MinShoeRun, BarefootRun}
}

// overlaps reports whether a flag of one side touches work of another.
func overlaps(flag, work body.Side) bool {
	return flag == "" || flag == body.Both || work == "" || work == body.Both || flag == work
}

// Closes reports whether the flag closes work of these kinds on a side. Work on
// both legs counts for both.
func (s Standing) Closes(k catalogue.Kinds, side body.Side) bool {
	if s.Everything {
		return true
	}
	if k[catalogue.RunningWork] && s.ClosesRunning() {
		return true // nobody runs on one side
	}
	if !overlaps(s.Side, side) {
		return false
	}
	e := s.row()
	for _, name := range e.closes {
		if name == regionPhrase {
			continue
		}
		if phrases[name].matches(k) {
			return true
		}
	}
	if s.Zone != "" && s.loadsRegion() && LoadsRegion(s.Zone, k) {
		return true
	}
	if s.Zone != "" {
		for _, q := range s.open() {
			for _, name := range q.closes {
				if phrases[name].matches(k) {
					return true
				}
			}
		}
	}
	if s.Zone != "" {
		return false // the zone says what is loaded
	}
	return slices.ContainsFunc(s.Tissues, func(t body.Tissue) bool { return k[catalogue.Loads(t)] || k["exposure"] })
}

const regionPhrase = "region"

// loadsRegion reports whether the flag closes what its zone loads.
func (s Standing) loadsRegion() bool {
	e := s.row()
	return slices.Contains(e.closes, regionPhrase) || s.Flag == Open
}

// open are the questions whose answer is open for a place that began to hurt.
func (s Standing) open() []question {
	if s.Flag != Open {
		return nil
	}
	var out []question
	for _, q := range questions {
		if slices.Contains(q.zones, s.Zone) && q.Level != Emergency {
			out = append(out, q)
		}
	}
	return out
}

// Limits says how work that stays open is done while the flag stands.
func (s Standing) Limits(k catalogue.Kinds, side body.Side) []string {
	if !overlaps(s.Side, side) {
		return nil
	}
	var out []string
	e := s.row()
	for _, name := range e.limits {
		if p := phrases[name]; p.matches(k) {
			out = append(out, p.Limit)
		}
	}
	return out
}

// ClosesRunning reports whether nobody runs while the flag stands.
func (s Standing) ClosesRunning() bool {
	if s.Everything || s.Running {
		return true
	}
	e := s.row()
	return s.Zone != "" && s.loadsRegion() || slices.ContainsFunc(e.closes, func(n string) bool { return phrases[n].Running })
}

// ClosesProgress reports whether nothing rises while the flag stands.
func (s Standing) ClosesProgress() bool {
	e := s.row()
	return s.Everything || s.ProgressOnly || e.progress
}

// HoldsStages reports whether no new stage without shoes begins while it stands.
func (s Standing) HoldsStages() bool {
	e := s.row()
	return s.ClosesProgress() || e.newStages
}

// ClosesGate reports whether the flag closes a gate.
func (s Standing) ClosesGate(g catalogue.Gate) bool {
	if s.Everything || slices.Contains(s.Gates, g) || s.Running && g == CadenceChange {
		return true
	}
	e := s.row()
	for _, name := range e.closes {
		if p := phrases[name]; slices.Contains(p.Gates, g) || p.Running && g == CadenceChange {
			return true
		}
	}
	if s.Zone != "" && s.loadsRegion() && (slices.Contains(zoneGates(), g) || g == CadenceChange) {
		return true
	}
	for _, q := range s.open() {
		if slices.ContainsFunc(q.closes, func(n string) bool { return slices.Contains(phrases[n].Gates, g) }) {
			return true
		}
	}
	return false
}

// ClosesTest reports whether a test is not done while the flag stands.
func (s Standing) ClosesTest(id screening.TestID) bool {
	if s.Everything || slices.Contains(s.Tests, string(id)) {
		return true
	}
	t, ok := screening.Find(id)
	if !ok {
		return false
	}
	e := s.row()
	if slices.ContainsFunc(e.tests, func(set string) bool { return inTestSet(set, t) }) {
		return true
	}
	return slices.ContainsFunc(e.closes, func(n string) bool {
		return slices.ContainsFunc(phrases[n].Tests, func(set string) bool { return inTestSet(set, t) })
	})
}
