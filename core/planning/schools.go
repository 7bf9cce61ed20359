package planning

import (
	"bytes"
	_ "embed" // the questions are data
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"notchback/core/screening"
)

//go:embed data/schools.yaml
var schoolData []byte

//go:embed data/remedies.yaml
var remedyData []byte

// Position is one answer to a question on which practitioners differ.
type Position struct {
	ID   AnswerID `json:"id" yaml:"id"`
	Name string   `json:"name" yaml:"name"`
	Says string   `json:"says" yaml:"says" doc:"What the runner reads on the plan"`
}

// Question is a point on which practitioners differ.
type Question struct {
	ID        QuestionID `json:"id" yaml:"id"`
	Ask       string     `json:"ask" yaml:"ask"`
	Default   AnswerID   `json:"default" yaml:"default"`
	Why       string     `json:"why" yaml:"why" doc:"Why the default is the default"`
	Effect    string     `json:"effect" yaml:"effect" doc:"What the answer changes"`
	Positions []Position `json:"positions" yaml:"positions" nullable:"false"`
}

// Position returns one answer by its id.
func (q Question) Position(id AnswerID) (Position, bool) {
	i := slices.IndexFunc(q.Positions, func(p Position) bool { return p.ID == id })
	if i < 0 {
		return Position{}, false
	}
	return q.Positions[i], true
}

type remedy struct {
	Finding    string   `yaml:"finding"`
	Release    path     `yaml:"release"`
	Calm       path     `yaml:"calm"`
	Lengthen   path     `yaml:"lengthen"`
	Steer      path     `yaml:"steer"`
	Strengthen path     `yaml:"strengthen"`
	Integrate  path     `yaml:"integrate"`
	Ease       path     `yaml:"ease"`
	Form       []string `yaml:"form"`
}

// path is a row of stages, each with its ways: the first that is open stands.
type path [][]string

// UnmarshalYAML reads "a | b" as two ways of one stage.
func (p *path) UnmarshalYAML(n *yaml.Node) error {
	var list []string
	if err := n.Decode(&list); err != nil {
		return err
	}
	for _, s := range list {
		var ways []string
		for w := range strings.SplitSeq(s, "|") {
			ways = append(ways, strings.TrimSpace(w))
		}
		*p = append(*p, ways)
	}
	return nil
}

// ladders lists every ladder a remedy names.
func (r remedy) ladders() []string {
	var out []string
	for _, p := range []path{r.Release, r.Calm, r.Lengthen, r.Steer, r.Strengthen, r.Integrate, r.Ease} {
		for _, ways := range p {
			out = append(out, ways...)
		}
	}
	return append(out, r.Form...)
}

func remedyFor(f screening.Factor) (remedy, bool) {
	i := slices.IndexFunc(data().remedies, func(r remedy) bool { return r.Finding == string(f) })
	if i < 0 {
		return remedy{}, false
	}
	return data().remedies[i], true
}

type tables struct {
	questions []Question
	remedies  []remedy
}

var data = sync.OnceValue(func() tables {
	t, err := readTables(schoolData, remedyData)
	if err != nil {
		panic(err) // embedded data; a test reads it too
	}
	return t
})

func readTables(schools, remedies []byte) (tables, error) {
	var t tables
	for _, f := range []struct {
		b    []byte
		into any
	}{{schools, &t.questions}, {remedies, &t.remedies}} {
		d := yaml.NewDecoder(bytes.NewReader(f.b))
		d.KnownFields(true)
		if err := d.Decode(f.into); err != nil {
			return t, err
		}
	}
	var errs []error
	for _, q := range t.questions {
		if _, ok := q.Position(q.Default); !ok || len(q.Positions) < 2 || q.Why == "" || q.Effect == "" {
			errs = append(errs, fmt.Errorf("question %q: positions, a default among them, why and effect are needed", q.ID))
		}
		for _, p := range q.Positions {
			if p.Name == "" || p.Says == "" {
				errs = append(errs, fmt.Errorf("question %q, position %q: name and sentence are needed", q.ID, p.ID))
			}
		}
	}
	return t, errors.Join(errs...)
}

// Questions lists every question on which practitioners differ.
func Questions() []Question { return data().questions }

// School is a set of answers by question; a missing one is the default.
type School map[QuestionID]AnswerID

// takenOut are answers of older editions that said the same as the default: they read
// as it.
var takenOut = map[QuestionID]AnswerID{AskOrder: "lengthen"}

// Is returns the answer to a question.
func (s School) Is(question QuestionID) AnswerID {
	if a, ok := s[question]; ok && a != "" && takenOut[question] != a {
		return a
	}
	for _, q := range data().questions {
		if q.ID == question {
			return q.Default
		}
	}
	return ""
}

// Over returns the school with another laid over it: the runner's own answers
// over the practice's.
func (s School) Over(own School) School {
	out := School{}
	for _, m := range []School{s, own} {
		for k, v := range m {
			if v != "" {
				out[k] = v
			}
		}
	}
	return out
}

// Check names what is not a question or not one of its answers.
func (s School) Check() error {
	var errs []error
	for k, v := range s {
		i := slices.IndexFunc(data().questions, func(q Question) bool { return q.ID == k })
		if i < 0 {
			errs = append(errs, fmt.Errorf("%q is not a question", k))
			continue
		}
		if _, ok := data().questions[i].Position(v); v != "" && !ok && takenOut[k] != v {
			errs = append(errs, fmt.Errorf("%q is not an answer to %q", v, data().questions[i].Ask))
		}
	}
	return errors.Join(errs...)
}

// Says returns the sentences the runner reads for the given questions.
func (s School) Says(questions ...QuestionID) []string {
	out := []string{}
	for _, id := range questions {
		for _, q := range data().questions {
			if q.ID == id {
				if p, ok := q.Position(s.Is(id)); ok {
					out = append(out, p.Says)
				}
			}
		}
	}
	return out
}
