package account

import (
	"context"
	"time"

	"notchback/app"
	"notchback/store"
)

// accessPage is how many lines of the access log come at once.
const accessPage = 200

// AccessLine says who was let in to what, or was not.
type AccessLine struct {
	ID       int64     `json:"id"`
	At       time.Time `json:"at"`
	By       string    `json:"by" doc:"Empty for a calendar program"`
	Did      string    `json:"did" doc:"The operation"`
	RunnerID string    `json:"runnerId,omitempty"`
	Runner   string    `json:"runner,omitempty"`
	Refused  bool      `json:"refused,omitempty"`
	Key      string    `json:"key,omitempty" doc:"The name of the key a program came with"`
}

// Looked chooses lines of the access log: of one runner, by one user, only those refused.
type Looked struct {
	Runner  string `query:"runner" format:"uuid" doc:"Of one runner"`
	User    string `query:"user" format:"uuid" doc:"By one user"`
	Refused bool   `query:"refused" doc:"Only what was refused"`
}

// AccessLog returns a page of the practice's access log below a line, newest first;
// of one runner where one is named.
func (a *Accounts) AccessLog(ctx context.Context, act app.Actor, f Looked, below int64) ([]AccessLine, error) {
	if !app.Owns.May(act.User.Role) {
		return nil, app.ErrForbidden
	}
	out := []AccessLine{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		by := store.AccessFilter{Refused: f.Refused}
		if f.Runner != "" {
			by.Runner = &f.Runner
		}
		if f.User != "" {
			by.User = &f.User
		}
		rows, err := tx.Accesses(ctx, by, below, accessPage)
		if err != nil {
			return err
		}
		for _, r := range rows {
			l := AccessLine{ID: r.ID, At: r.At, Did: r.Action, Refused: r.Refused, Key: r.Key}
			if r.User != nil {
				l.By = *r.User
			}
			if r.RunnerID != nil && r.Runner != nil {
				l.RunnerID, l.Runner = *r.RunnerID, *r.Runner
			}
			out = append(out, l)
		}
		return nil
	})
	return out, err
}

// accessMost is how many lines are given out at once, for a person or a table.
const accessMost = 20_000

// AccessLines lists the access log without pages.
func (a *Accounts) AccessLines(ctx context.Context, act app.Actor, f Looked) ([]AccessLine, error) {
	var out []AccessLine
	for below := int64(0); len(out) < accessMost; {
		page, err := a.AccessLog(ctx, act, f, below)
		if err != nil {
			return nil, err
		}
		out = append(out, page...)
		if len(page) < accessPage {
			break
		}
		below = page[len(page)-1].ID
	}
	return out, nil
}

// Housekeep ends what is over: web sessions, the throttle's counts, the answers to
// keyed requests. It reports how many answers were forgotten.
func (a *Accounts) Housekeep(ctx context.Context, idle time.Duration) (int64, error) {
	if err := a.Store.SweepSessions(ctx, idle, signInWindow); err != nil {
		return 0, err
	}
	practices, err := a.Store.Practices(ctx)
	if err != nil {
		return 0, err
	}
	n := int64(0)
	for _, p := range practices {
		err := a.Store.In(ctx, p, func(tx *store.Tx) error {
			gone, err := tx.ForgetAnswers(ctx, a.Now().Add(-app.AnswersKept))
			n += gone
			if err != nil {
				return err
			}
			return tx.ForgetDevices(ctx, a.Signed().Add(-KnownFor))
		})
		if err != nil {
			return n, err
		}
	}
	return n, nil
}
