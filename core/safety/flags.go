package safety

import (
	"bytes"
	_ "embed" // the questions are data
	"errors"
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
)

// Question is one safety question in plain words.
type Question struct {
	ID     string     `json:"id"`
	Flag   FlagID     `json:"flag"`
	Text   string     `json:"text"`
	Level  Level      `json:"level" enum:"emergency,refer,limit,note"`
	Side   bool       `json:"side,omitempty" doc:"Asks which side"`
	Tag    source.Tag `json:"source"`
	closes closes
}

// Group is a handful of questions with one "none of these".
type Group struct {
	Name      string     `json:"name"`
	Questions []Question `json:"questions" nullable:"false"`
}

type closes struct {
	Everything       bool             `yaml:"everything"`
	Running          bool             `yaml:"running"`
	Region           bool             `yaml:"region"`
	Progress         bool             `yaml:"progress"`
	AllWeightBearing bool             `yaml:"allWeightBearing"`
	Gates            []catalogue.Gate `yaml:"gates"`
	Ladders          []string         `yaml:"ladders"`
	Tests            []string         `yaml:"tests"`
}

type rawGroup struct {
	Group string `yaml:"group"`
	Flags []struct {
		ID     FlagID `yaml:"id"`
		Source string `yaml:"source"`
		Side   bool   `yaml:"side"`
		Minor  bool   `yaml:"minor"`
		Closes closes `yaml:"closes"`
		Ask    []struct {
			ID      string `yaml:"id"`
			Level   Level  `yaml:"level"`
			Text    string `yaml:"text"`
			Running bool   `yaml:"running"`
		} `yaml:"ask"`
	} `yaml:"flags"`
}

//go:embed data/flags.yaml
var flagData []byte

type question struct {
	Question
	minor bool
	group string
}

var questions = func() []question {
	q, err := parseFlags(flagData)
	if err != nil {
		panic(err) // a test of this package proves that it loads
	}
	return q
}()

var flagSource = source.House("common red-flag teaching, from memory")

func parseFlags(data []byte) ([]question, error) {
	var raw []rawGroup
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&raw); err != nil {
		return nil, err
	}
	var out []question
	var errs []error
	for _, g := range raw {
		for _, f := range g.Flags {
			tag := flagSource
			switch f.Source {
			case "stiell":
				tag = source.Stiell1992
			case "postnatal":
				tag = source.PostnatalRun2019
			}
			if f.ID == "" || len(f.Ask) == 0 {
				errs = append(errs, fmt.Errorf("group %s: a flag without id or question", g.Group))
			}
			for _, a := range f.Ask {
				q := question{minor: f.Minor, group: g.Group, Question: Question{ID: string(f.ID), Flag: f.ID, Text: a.Text, Level: a.Level, Side: f.Side, Tag: tag, closes: f.Closes}}
				if a.ID != "" {
					q.ID += "/" + a.ID
				}
				q.closes.Running = q.closes.Running || a.Running
				if a.Level == Emergency {
					q.closes = closes{Everything: true}
				}
				if a.Text == "" || !slices.Contains([]Level{Emergency, Refer, Limit, Note}, a.Level) {
					errs = append(errs, fmt.Errorf("flag %s: text and level are needed", f.ID))
				}
				out = append(out, q)
			}
		}
	}
	return out, errors.Join(errs...)
}

// Questions returns the groups to ask someone of an age; questions for minors
// only are left out for adults of known age.
func Questions(age screening.Age) []Group {
	out := []Group{}
	for _, q := range questions {
		if q.minor && age.Known && age.Years >= Adult {
			continue
		}
		if n := len(out); n == 0 || out[n-1].Name != q.group {
			out = append(out, Group{Name: q.group})
		}
		g := &out[len(out)-1]
		g.Questions = append(g.Questions, q.Question)
	}
	return out
}

// Answers are what was said to the questions of one screening. A group counts
// as asked when one of its questions is yes or "none of these" was said.
type Answers struct {
	Yes  map[string]body.Side `json:"yes" doc:"Question ids answered yes, with the side; both where none was asked"`
	None []string             `json:"none" nullable:"false" doc:"Groups answered none of these"`
}

// Unasked returns the groups without any answer.
func (a Answers) Unasked(age screening.Age) []string {
	out := []string{}
	for _, g := range Questions(age) {
		yes := slices.ContainsFunc(g.Questions, func(q Question) bool { _, ok := a.Yes[q.ID]; return ok })
		if !yes && !slices.Contains(a.None, g.Name) {
			out = append(out, g.Name)
		}
	}
	return out
}

// Raise returns the flags that answers and readings raise on a date. A
// question answered yes raises its flag whatever else was said.
func Raise(on day.Date, a Answers, complaints []screening.Complaint, results []screening.Result) []Standing {
	out := []Standing{}
	for _, q := range questions {
		side, yes := a.Yes[q.ID]
		if !yes {
			continue
		}
		if side == body.Both {
			side = ""
		}
		s := Standing{
			Flag: q.Flag, Level: q.Level, Since: on, Side: side, Everything: q.closes.Everything, ProgressOnly: q.closes.Progress, Running: q.closes.Running,
			Gates: q.closes.Gates, Ladders: q.closes.Ladders, Tests: q.closes.Tests,
		}
		if q.closes.Region || q.closes.AllWeightBearing {
			s.Tissues = []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}
		}
		out = append(out, s)
	}
	for _, c := range complaints {
		if worst, known := c.Height(); known && worst >= SevereAt {
			out = append(out, Standing{Flag: Severe, Level: Refer, Since: on, Side: c.Side, Tissues: c.Zone.Tissues()})
		}
	}
	for _, r := range results {
		if r.Test == screening.SingleRaise {
			out = append(out, weak(on, r)...)
		}
		for _, s := range []screening.SideSummary{r.Left, r.Right} {
			walk := s.Measured() && slices.Contains(walkTests, r.Test) && *s.Value >= float64(SevereAt)
			if s.WorstPain != nil && *s.WorstPain >= SevereAt || walk {
				f := RaiseSevere(on, s.Side, []body.Tissue{body.Achilles, body.Sole})
				out = append(out, f)
			}
		}
	}
	return out
}

// walkTests are those whose value is a pain.
var walkTests = []screening.TestID{screening.HeelWalk, screening.ToeWalk, screening.BriskWalk}

// Weak is raised by no single-leg raise on one side with ten on the other.
const Weak FlagID = "F-WEAK"

const weakOther = 10

func weak(on day.Date, r screening.Result) []Standing {
	for _, side := range body.Sides {
		s, o := r.Side(side), r.Side(side.Other())
		if s.Measured() && o.Measured() && *s.Value == 0 && *o.Value >= weakOther {
			return []Standing{{Flag: Weak, Level: Refer, Since: on, Side: side, Running: true, Ladders: []string{"calf-straight"}, Gates: []catalogue.Gate{SingleLegCalf, LoadedCalf, Hop}}}
		}
	}
	return nil
}

// Text returns the plain words of a flag, for the screen and the sheet.
func Text(f FlagID, level Level) string {
	for _, q := range questions {
		if q.Flag == f && q.Level == level {
			return q.Text
		}
	}
	switch f {
	case "F-FLARE":
		return "A flare: what loads the region is stopped until three quiet mornings running"
	case "F-STUCK":
		return "The plan does not help: somebody else should look"
	case Severe:
		return "Pain of 8 or more"
	case Weak:
		return "No single-leg raise at all on one side, ten or more on the other"
	}
	return string(f)
}

// Clearance is a clinician's word that opens what a flag closed, until the end
// of its date.
type Clearance struct {
	Flag    FlagID   `json:"flag"`
	On      day.Date `json:"on" format:"date"`
	Role    string   `json:"role" doc:"The clinician's role; no name is needed"`
	Allowed string   `json:"allowed" doc:"What is allowed"`
	Until   day.Date `json:"until" format:"date"`
}

// WarnDays is how long before its end a clearance is warned about.
const WarnDays = 7

// Stand returns the flags that hold on a date: all but those with a clearance
// that runs.
func Stand(today day.Date, flags []Standing, clear []Clearance) []Standing {
	out := []Standing{}
	for _, f := range flags {
		if !slices.ContainsFunc(clear, func(c Clearance) bool {
			return c.Flag == f.Flag && c.On >= f.Since && c.On <= today && today <= c.Until
		}) {
			out = append(out, f)
		}
	}
	return out
}
