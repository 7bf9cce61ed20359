package safety

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"notchback/core/body"
	"notchback/core/screening"
	"notchback/core/source"
)

// OwnGroup is the group of the questions that a practice asks beside the table's.
const OwnGroup = "Asked in this practice"

// ownPrefix begins the ids of a practice's own questions; no row of the table has it.
const ownPrefix = "own-"

// Own is a safety question of a practice. It stands beside the table's rows, closes like
// them and is never taken back: it is kept with every answer it was asked with, so that a
// runner's record says the same in another practice.
type Own struct {
	ID       string   `json:"id" pattern:"^own-[0-9a-z-]{1,30}$" maxLength:"34"`
	Text     string   `json:"text" minLength:"8" maxLength:"300" doc:"What is asked; yes raises it"`
	Level    Level    `json:"level" enum:"emergency,refer,limit,note" doc:"emergency closes everything, note nothing"`
	Closes   []string `json:"closes" nullable:"false" maxItems:"30" doc:"What is closed, by the phrases of the flag table"`
	Progress bool     `json:"progress,omitempty" doc:"Nothing rises while it stands"`
	Side     bool     `json:"side,omitempty" doc:"Asks which side"`
	Minor    bool     `json:"minor,omitempty" doc:"Asked under 18 only"`
}

// OwnCloses are the phrases that a practice's own question may close, in the order they
// are offered.
var OwnCloses = []string{
	"running", "hop", "barefoot", "min-shoe-run", "barefoot-run", "all weight-bearing exercise", "one-leg and loaded work", "heels-up and standing foot work",
	"calf ladders", "sole ladders", "drops below level", "bare-foot floor work", "RM and breath-held work", "eyes closed and unsupported", "hard release", "cooling",
}

var ownSource = source.House("a safety question of this practice")

// CheckText says what is wrong with its words.
func (o Own) CheckText() error {
	if n := utf8.RuneCountInString(strings.TrimSpace(o.Text)); n < 8 || n > 300 {
		return errors.New("ask it in 8 to 300 characters")
	}
	return nil
}

// Check says what is wrong with a question of a practice.
func (o Own) Check() error {
	var errs []error
	if !strings.HasPrefix(o.ID, ownPrefix) || len(o.ID) == len(ownPrefix) {
		errs = append(errs, fmt.Errorf("%q is not the id of a practice's own question", o.ID))
	}
	errs = append(errs, o.CheckText())
	for _, n := range o.Closes {
		if !slices.Contains(OwnCloses, n) {
			errs = append(errs, fmt.Errorf("%q is nothing that can be closed", n))
		}
	}
	switch o.Level {
	case Emergency, Note:
		if len(o.Closes) > 0 || o.Progress {
			errs = append(errs, errors.New("an emergency closes everything and a note nothing: choose what it closes only for the two between"))
		}
	case Refer, Limit:
		if len(o.Closes) == 0 && !o.Progress {
			errs = append(errs, errors.New("choose what it closes"))
		}
	default:
		errs = append(errs, fmt.Errorf("%q is not a level", o.Level))
	}
	return errors.Join(errs...)
}

// row is the question as a row of the table.
func (o Own) row() question {
	q := question{Question: o.question(), minor: o.Minor, asked: true, group: OwnGroup, closes: o.Closes, progress: o.Progress}
	if o.Level == Emergency {
		q.closes = []string{"everything"}
	}
	return q
}

func (o Own) question() Question {
	return Question{ID: o.ID, Flag: FlagID(o.ID), Text: o.Text, Level: o.Level, Side: o.Side, Tag: ownSource}
}

// asks reports whether the question is for somebody of an age.
func (o Own) asks(age screening.Age) bool { return !o.Minor || !age.Known || age.Years < Adult }

// IsOwn reports whether an id is that of a practice's own question.
func IsOwn(id string) bool { return strings.HasPrefix(id, ownPrefix) }

// Spoken are the practice's own questions that answers speak of: those answered yes, and
// with "none of these" all that are asked of somebody of that age.
func (a Answers) Spoken(own []Own, age screening.Age) []Own {
	var out []Own
	none := slices.Contains(a.None, OwnGroup)
	for _, o := range own {
		if _, yes := a.Yes[o.ID]; yes || none && o.asks(age) {
			out = append(out, o)
		}
	}
	return out
}

// Asked are the practice's own questions for somebody of an age.
func Asked(own []Own, age screening.Age) []Own {
	return slices.DeleteFunc(slices.Clone(own), func(o Own) bool { return !o.asks(age) })
}

// Row is the row a flag stands in: of the table, or of the practice's own questions.
func (s Standing) row() question {
	if s.Own != nil {
		return s.Own.row()
	}
	q, _ := entry(s.Flag)
	return q
}

// Name is what a flag is called in a sentence; a practice's own by its question.
func (s Standing) Name() string {
	if s.Own != nil {
		return "“" + s.Own.Text + "”"
	}
	return s.Flag.Name()
}

// NameOf is what a flag is called where only its id is at hand.
func NameOf(f FlagID, own []Own) string {
	for i := range own {
		if FlagID(own[i].ID) == f {
			return Standing{Own: &own[i]}.Name()
		}
	}
	return f.Name()
}

// OwnName is the name of a practice's own, "" for a flag of the table: its id says it.
func (s Standing) OwnName() string {
	if s.Own == nil {
		return ""
	}
	return s.Name()
}

// Text returns the plain words of a flag.
func (s Standing) Text() string {
	if s.Own != nil {
		return s.Own.Text
	}
	return Text(s.Flag, s.Level)
}

// raiseOwn are the flags of a practice's own questions.
func (a Answers) raiseOwn(raise func(question, body.Side) Standing) []Standing {
	var out []Standing
	for _, o := range a.Own {
		side, yes := a.Yes[o.ID]
		if !yes {
			continue
		}
		if side == body.Both {
			side = ""
		}
		s := raise(o.row(), side)
		s.Own = &o
		s.Running = s.ClosesRunning()
		out = append(out, s)
	}
	return out
}
