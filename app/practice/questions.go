package practice

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/safety"
	"notchback/store"
)

// OwnQuestion is a safety question of the practice's own with when it came.
type OwnQuestion struct {
	safety.Own
	By string    `json:"by" doc:"Who added it"`
	At time.Time `json:"at"`
}

// OwnQuestions are a practice's own safety questions, and what such a question may close.
type OwnQuestions struct {
	Items  []OwnQuestion `json:"items" nullable:"false"`
	Closes []string      `json:"closes" nullable:"false" doc:"What a question may close, in the order it is offered"`
}

// OwnQuestionInput is a question to add.
type OwnQuestionInput struct {
	Text     string       `json:"text" maxLength:"300"`
	Level    safety.Level `json:"level" enum:"emergency,refer,limit,note"`
	Closes   []string     `json:"closes" maxItems:"30"`
	Progress bool         `json:"progress,omitempty" doc:"Nothing rises while it stands"`
	Side     bool         `json:"side,omitempty" doc:"Ask which side"`
	Minor    bool         `json:"minor,omitempty" doc:"Ask under 18 only"`
}

// mostOwn bounds a practice's own questions: nobody reads more at a screening.
const mostOwn = 30

// OwnQuestions returns the practice's own safety questions.
func (a *Practices) OwnQuestions(ctx context.Context, act app.Actor) (OwnQuestions, error) {
	out := OwnQuestions{Items: []OwnQuestion{}, Closes: safety.OwnCloses}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		rows, err := tx.OwnQuestions(ctx)
		if err != nil {
			return err
		}
		for _, r := range rows {
			q := OwnQuestion{By: r.By, At: r.At}
			if err := json.Unmarshal(r.Body, &q.Own); err != nil {
				return err
			}
			out.Items = append(out.Items, q)
		}
		return nil
	})
	return out, err
}

// AddOwnQuestion adds one. It is asked from now on and never taken back: nobody makes the
// screening lighter.
func (a *Practices) AddOwnQuestion(ctx context.Context, act app.Actor, in OwnQuestionInput) (OwnQuestions, error) {
	if act.User.Role != "owner" {
		return OwnQuestions{}, app.Refused("only the owner of the practice changes this")
	}
	o := safety.Own{ID: "own-" + strings.ToLower(rand.Text()[:12]), Text: strings.TrimSpace(in.Text), Level: in.Level, Progress: in.Progress, Side: in.Side, Minor: in.Minor, Closes: []string{}}
	o.Closes = append(o.Closes, in.Closes...)
	slices.SortFunc(o.Closes, func(a, b string) int { return slices.Index(safety.OwnCloses, a) - slices.Index(safety.OwnCloses, b) })
	o.Closes = slices.Compact(o.Closes)
	if err := o.CheckText(); err != nil {
		return OwnQuestions{}, app.Wrong("text", err.Error())
	}
	if err := o.Check(); err != nil {
		return OwnQuestions{}, app.Wrong("closes", err.Error())
	}
	raw, err := json.Marshal(o)
	if err != nil {
		return OwnQuestions{}, err
	}
	err = a.Write(ctx, act, func(tx *store.Tx) error {
		have, err := record.OwnQuestions(ctx, tx)
		if err != nil {
			return err
		}
		if len(have) >= mostOwn {
			return app.Refused("there are 30 questions of your own already; nobody reads more at a screening")
		}
		for _, was := range have {
			if strings.EqualFold(was.Text, o.Text) {
				return app.Wrong("text", "this is asked already")
			}
		}
		return tx.AddOwnQuestion(ctx, act.User.ID, o.ID, raw, a.Now())
	})
	if err != nil {
		return OwnQuestions{}, err
	}
	return a.OwnQuestions(ctx, act)
}
