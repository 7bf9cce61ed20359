package safety

import (
	"bytes"
	_ "embed" // the questions are data
	"errors"
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
)

// Question is one safety question in plain words.
type Question struct {
	ID    string     `json:"id"`
	Flag  FlagID     `json:"flag"`
	Text  string     `json:"text"`
	Level Level      `json:"level" enum:"emergency,refer,limit,note"`
	Side  bool       `json:"side,omitempty" doc:"Asks which side"`
	Tag   source.Tag `json:"source"`
}

// Group is a handful of questions with one "none of these".
type Group struct {
	Name      string     `json:"name"`
	Questions []Question `json:"questions" nullable:"false"`
}

type rawGroup struct {
	Group string `yaml:"group"`
	Read  bool   `yaml:"read"` // raised by readings, never asked
	Flags []struct {
		ID        string           `yaml:"id"`
		Flag      FlagID           `yaml:"flag"`
		Level     Level            `yaml:"level"`
		Source    string           `yaml:"source"`
		Side      bool             `yaml:"side"`
		Minor     bool             `yaml:"minor"`
		As        []FlagID         `yaml:"as"` // not asked any more: older answers raise these
		Closes    []string         `yaml:"closes"`
		Limits    []string         `yaml:"limits"`
		Progress  bool             `yaml:"progress"`
		NewStages bool             `yaml:"newStages"`
		Tests     []string         `yaml:"tests"`
		Zones     []screening.Zone `yaml:"zones"`
		Text      string           `yaml:"text"`
	} `yaml:"flags"`
}

//go:embed data/flags.yaml
var flagData []byte

// question is one entry of the flag table.
type question struct {
	Question
	minor, asked        bool
	group               string
	closes, limits      []string
	tests               []string
	zones               []screening.Zone
	as                  []FlagID
	progress, newStages bool
}

var questions = func() []question {
	q, err := parseFlags(flagData)
	if err != nil {
		panic(err) // a test of this package proves that it loads
	}
	return q
}()

// entry returns a flag's row of the table.
func entry(f FlagID) (question, bool) {
	i := slices.IndexFunc(questions, func(q question) bool { return q.Flag == f && (q.asked || q.group == readings) })
	if i < 0 {
		return question{}, false
	}
	return questions[i], true
}

const readings = "From readings"

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
			if f.ID == "" || f.Text == "" || !slices.Contains([]Level{Emergency, Refer, Limit, Note}, f.Level) {
				errs = append(errs, fmt.Errorf("flag %s: id, text and level are needed", f.ID))
			}
			if f.Flag == "" {
				f.Flag = FlagID(f.ID)
			}
			if f.Level == Emergency {
				f.Closes = []string{"everything"}
			}
			for _, n := range slices.Concat(f.Closes, f.Limits) {
				if _, ok := phrases[n]; !ok && n != regionPhrase {
					errs = append(errs, fmt.Errorf("flag %s: phrase %q is not known", f.ID, n))
				}
			}
			for _, z := range f.Zones {
				if z.Name() == "" {
					errs = append(errs, fmt.Errorf("flag %s: zone %q is not known", f.ID, z))
				}
			}
			out = append(out, question{
				Question: Question{ID: f.ID, Flag: f.Flag, Text: f.Text, Level: f.Level, Side: f.Side, Tag: tag}, minor: f.Minor, asked: len(f.As) == 0 && !g.Read, as: f.As, group: g.Group,
				closes: f.Closes, limits: f.Limits, tests: f.Tests, zones: f.Zones, progress: f.Progress, newStages: f.NewStages,
			})
		}
	}
	return out, errors.Join(errs...)
}

// Questions returns the groups to ask someone of an age, a practice's own last; questions
// for minors only are left out for adults of known age.
func Questions(age screening.Age, own ...Own) []Group {
	out := []Group{}
	for _, q := range questions {
		if !q.asked || q.minor && age.Known && age.Years >= Adult {
			continue
		}
		if n := len(out); n == 0 || out[n-1].Name != q.group {
			out = append(out, Group{Name: q.group})
		}
		g := &out[len(out)-1]
		g.Questions = append(g.Questions, q.Question)
	}
	mine := Group{Name: OwnGroup}
	for _, o := range Asked(own, age) {
		mine.Questions = append(mine.Questions, o.question())
	}
	if len(mine.Questions) > 0 {
		out = append(out, mine)
	}
	return out
}

// Answers are what was said to the questions of one screening. A group counts
// as asked when one of its questions is yes or "none of these" was said.
type Answers struct {
	Yes  map[string]body.Side `json:"yes" doc:"Question ids answered yes, with the side; both where none was asked"`
	None []string             `json:"none" nullable:"false" doc:"Groups answered none of these"`
	Own  []Own                `json:"own,omitempty" maxItems:"100" doc:"The practice's own questions that were asked; the server writes it"`
}

// Unasked returns the groups without any answer.
func (a Answers) Unasked(age screening.Age) []string {
	out := []string{}
	for _, g := range Questions(age, a.Own...) {
		if !AnsweredYes(a, g.Name) && !slices.Contains(a.None, g.Name) {
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
		for _, f := range q.as {
			if x, ok := entry(f); ok {
				out = append(out, x.raise(on, side))
			}
		}
		if len(q.as) == 0 {
			out = append(out, q.raise(on, side))
		}
	}
	out = append(out, a.raiseOwn(func(q question, side body.Side) Standing { return q.raise(on, side) })...)
	for _, c := range complaints {
		if worst, known := c.Height(); known && worst >= SevereAt {
			out = append(out, RaiseSevereAt(on, c.Side, c.Zone))
		}
		out = append(out, raisedBy(on, c)...)
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

// raise returns the flag of an entry answered yes.
func (q question) raise(on day.Date, side body.Side) Standing {
	if q.asked && !q.Side {
		side = "" // which side was not asked: both
	}
	s := Standing{Flag: q.Flag, Level: q.Level, Since: on, Side: side}
	s.Everything = slices.Contains(q.closes, "everything")
	s.Running, s.ProgressOnly = s.ClosesRunning(), q.progress
	return s
}

// LongShin is how long shin pain lasts before a clinician looks, in weeks.
const LongShin = 6

// RaisedByLasting is raised by shin pain of more than six weeks.
func RaisedByLasting(on day.Date, c screening.Complaint) []Standing {
	if c.Pattern() != screening.ShinLoad || c.SinceWeeks == nil || *c.SinceWeeks <= LongShin {
		return nil
	}
	q, _ := entry(ShinLong)
	return []Standing{q.raise(on, c.Side)}
}

// Shin pain that lasts: before bone and tightness were asked that day, and after.
const (
	ShinLong     FlagID = "F-SHIN-LONG"
	ShinLongHeld FlagID = "F-SHIN-LONG-HELD"
)

// Held returns a flag of long shin pain after the questions about bone and
// tightness were answered no: running goes on at the volume it has.
func (s Standing) Held() Standing {
	q, _ := entry(ShinLongHeld)
	return q.raise(s.Since, s.Side)
}

// raisedBy are the flags that a complaint's own course raises: shin pain for more
// than six weeks, and pain at rest of 5 or more.
func raisedBy(on day.Date, c screening.Complaint) []Standing {
	out := RaisedByLasting(on, c)
	if c.Rest != nil && *c.Rest >= SevereRest {
		out = append(out, RaiseSevereAt(on, c.Side, c.Zone))
	}
	return out
}

// rightNow is the group of emergencies: it is asked whatever began to hurt.
var rightNow = questions[0].group

// GroupsFor are the groups of questions that a place which began to hurt asks.
func GroupsFor(z screening.Zone) []string {
	out := []string{rightNow}
	for _, q := range questions {
		if q.asked && slices.Contains(q.zones, z) && !slices.Contains(out, q.group) {
			out = append(out, q.group)
		}
	}
	return out
}

// GroupOf is the group of a question, of one that is not asked any more too; "" for
// none.
func GroupOf(id string) string {
	if IsOwn(id) {
		return OwnGroup
	}
	i := slices.IndexFunc(questions, func(q question) bool { return q.ID == id })
	if i < 0 {
		return ""
	}
	return questions[i].group
}

// AsksAt reports whether a question is for somebody of an age.
func AsksAt(id string, age screening.Age) bool {
	if IsOwn(id) {
		return true // kept with its answer only where it was asked
	}
	i := slices.IndexFunc(questions, func(q question) bool { return q.ID == id })
	return i >= 0 && !(questions[i].minor && age.Known && age.Years >= Adult)
}

// AnsweredYes reports whether a question of a group was answered yes.
func AnsweredYes(a Answers, group string) bool {
	if group == OwnGroup {
		for id := range a.Yes {
			if IsOwn(id) {
				return true
			}
		}
		return false
	}
	return slices.ContainsFunc(questions, func(q question) bool {
		_, yes := a.Yes[q.ID]
		return yes && q.group == group
	})
}

// NotBone reports the group about bone and shin answered with "none of these": no to
// bone pain and to tightness.
func NotBone(a Answers) bool {
	i := slices.IndexFunc(questions, func(q question) bool { return q.ID == "F-BONE" })
	return slices.Contains(a.None, questions[i].group) && !AnsweredYes(a, questions[i].group)
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
			q, _ := entry(Weak)
			return []Standing{q.raise(on, side)}
		}
	}
	return nil
}

// Text returns the plain words of a flag, for the screen and the sheet.
func Text(f FlagID, level Level) string {
	for _, q := range questions {
		if q.Flag == f && q.Level == level && len(q.as) == 0 {
			return q.Text
		}
	}
	if q, ok := entry(f); ok {
		return q.Text
	}
	return string(f)
}

// Signs are the texts of all rows of a level that somebody may notice between
// visits, in the order of the table, a practice's own last.
func Signs(level Level, own ...Own) []string {
	var out []string
	for _, q := range questions {
		if q.asked && q.Level == level && (level == Emergency || len(q.zones) > 0 || q.ID == "F-NERVE" || q.ID == "F-TOE-HOT" || q.ID == "F-LIMB-WALK" || q.ID == "F-WEAK" || q.ID == "F-CRPS") {
			out = append(out, q.Text)
		}
	}
	for _, o := range own {
		if o.Level == level {
			out = append(out, o.Text)
		}
	}
	return out
}

// Entry is a row of the flag table as a clinician may read it.
type Entry struct {
	ID    FlagID
	Level Level
}

// Entries lists the rows of the table that are asked or read.
func Entries() []Entry {
	var out []Entry
	for _, q := range questions {
		if q.asked || q.group == readings {
			out = append(out, Entry{q.Flag, q.Level})
		}
	}
	return out
}

// Raised returns a row's flag, as if it had been answered yes on a date.
func (e Entry) Raised(on day.Date, side body.Side) Standing {
	q, _ := entry(e.ID)
	return q.raise(on, side)
}

// formerly are the names under which clearances were given before the emergency
// and the refer half of a flag had their own.
var formerly = map[FlagID]FlagID{"F-HEART": "F-HEART-NOW", ShinLong: ShinLongHeld}

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

// afterClearance are the limits that stay when a flag is cleared.
var afterClearance = map[FlagID]FlagID{"F-ACH-OP-LATER": "F-ACH-OP-CLEARED", "F-METAL": "F-METAL-CLEARED"}

// Stand returns the flags that hold on a date: all but those with a clearance
// that runs.
func Stand(today day.Date, flags []Standing, clear []Clearance) []Standing {
	out := []Standing{}
	for _, f := range flags {
		covers := func(c Clearance) bool {
			return (c.Flag == f.Flag || formerly[c.Flag] == f.Flag) && c.On >= f.Since && c.On <= today && today <= c.Until
		}
		switch left, ok := afterClearance[f.Flag]; {
		case !slices.ContainsFunc(clear, covers):
			out = append(out, f)
		case ok: // a clearance opens only so far
			q, _ := entry(left)
			x := q.raise(f.Since, f.Side)
			x.Side = f.Side
			out = append(out, x)
		}
	}
	return out
}
