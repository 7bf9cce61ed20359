package account

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"net/mail"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/store"
)

// Times of links and sign-ins (house).
const (
	inviteFor   = 7 * 24 * time.Hour
	resetFor    = 24 * time.Hour
	DeviceLife  = 14 * 24 * time.Hour
	tokenLength = 26 // characters of a link's secret, 5 bits each
)

// Person is somebody who works in the practice.
type Person struct {
	ID      string     `json:"id"`
	Name    string     `json:"name"`
	Email   string     `json:"email,omitempty" doc:"Owners see everybody's, others their own"`
	Role    string     `json:"role" enum:"owner,coach,viewer"`
	Me      bool       `json:"me,omitempty"`
	Since   time.Time  `json:"since"`
	Seen    *time.Time `json:"seen,omitempty" doc:"When they were last here; owners see it"`
	Runners int        `json:"runners" doc:"Runners they look after"`
	Second  bool       `json:"second,omitempty" doc:"Signs in with a second device; owners see it"`
	Keys    []Key      `json:"keys,omitempty" doc:"Of their programs; owners see them"`
}

// Invited is a link that was given out and not used yet.
type Invited struct {
	ID    string    `json:"id"`
	Kind  string    `json:"kind" enum:"join,reset"`
	Role  string    `json:"role,omitempty" enum:"owner,coach,viewer,"`
	Note  string    `json:"note" doc:"Whom it is for"`
	Until time.Time `json:"until"`
}

// Staff is who works in the practice.
type Staff struct {
	People      []Person  `json:"people" nullable:"false"`
	Invitations []Invited `json:"invitations" nullable:"false" doc:"Owners see them"`
}

// Staff returns who works in the practice of whoever asks.
func (a *Accounts) Staff(ctx context.Context, act app.Actor) (Staff, error) {
	out := Staff{People: []Person{}, Invitations: []Invited{}}
	owner := app.Owns.May(act.User.Role)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		people, err := tx.People(ctx)
		if err != nil {
			return err
		}
		names := map[string]string{}
		for _, p := range people {
			v := Person{ID: p.ID, Name: p.Name, Role: p.Role, Me: p.ID == act.User.ID, Since: p.Since, Runners: p.Runners}
			if owner || v.Me {
				v.Email, v.Seen, v.Second = p.Email, p.Seen, p.Second
			}
			if owner {
				if v.Keys, err = a.keys(ctx, tx, p.ID); err != nil {
					return err
				}
			}
			names[p.ID] = p.Name
			out.People = append(out.People, v)
		}
		if !owner {
			return nil
		}
		links, err := tx.Invitations(ctx, a.Now())
		for _, l := range links {
			v := Invited{ID: l.ID, Kind: l.Kind, Role: l.Role, Note: l.Note, Until: l.Until}
			if l.User != nil {
				v.Note = names[*l.User]
			}
			out.Invitations = append(out.Invitations, v)
		}
		return err
	})
	return out, err
}

// own runs fn for an owner, who still is one when it runs.
func (a *Accounts) own(ctx context.Context, act app.Actor, fn func(*store.Tx) error) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := app.Still(ctx, tx, act, app.Owns); err != nil {
			return err
		}
		return fn(tx)
	})
}

// Link is a link as it is given out: this is the only time its secret is shown.
type Link struct {
	Token string    `json:"token"`
	Until time.Time `json:"until"`
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte("invitation\x00" + strings.ToUpper(strings.TrimSpace(token))))
	return h[:]
}

func (a *Accounts) link(ctx context.Context, tx *store.Tx, i store.Invitation, life time.Duration) (Link, error) {
	l := Link{Token: rand.Text()[:tokenLength], Until: a.Now().Add(life)}
	i.At, i.Until = a.Now(), l.Until
	return l, tx.AddInvitation(ctx, i, tokenHash(l.Token))
}

var roles = []string{"owner", "coach", "viewer"}

// Invite makes a link by which one person comes into the practice in a role.
func (a *Accounts) Invite(ctx context.Context, act app.Actor, role, note string) (l Link, err error) {
	if !slices.Contains(roles, role) {
		return l, app.Wrong("role", "expected owner, coach or viewer")
	}
	err = a.own(ctx, act, func(tx *store.Tx) error {
		l, err = a.link(ctx, tx, store.Invitation{Kind: "join", Role: role, Note: strings.TrimSpace(note), By: &act.User.ID}, inviteFor)
		return err
	})
	return l, err
}

// Withdraw takes a link back.
func (a *Accounts) Withdraw(ctx context.Context, act app.Actor, id string) (Staff, error) {
	err := a.own(ctx, act, func(tx *store.Tx) error { return tx.UseInvitation(ctx, id, a.Now(), false) })
	if err != nil {
		return Staff{}, err
	}
	return a.Staff(ctx, act)
}

// ResetLink makes a link by which somebody sets a new password.
func (a *Accounts) ResetLink(ctx context.Context, act app.Actor, user string) (l Link, err error) {
	err = a.own(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Role(ctx, user); err != nil {
			return err
		}
		l, err = a.link(ctx, tx, store.Invitation{Kind: "reset", User: &user, By: &act.User.ID}, resetFor)
		return err
	})
	return l, err
}

// ResetFor is ResetLink for whoever has the server itself, by e-mail address.
// With second their second factor is taken off as well.
func (a *Accounts) ResetFor(ctx context.Context, email string, second bool) (l Link, err error) {
	c, err := a.Store.Credentials(ctx, account(email))
	if err != nil {
		return l, err
	}
	err = a.Store.In(ctx, c.Practice, func(tx *store.Tx) error {
		if err := tx.LogAccess(ctx, a.Now(), store.Access{User: &c.User, Action: "resetFromConsole"}, false); err != nil {
			return err
		}
		if second {
			if err := a.dropSecond(ctx, tx, c.User, "secondOffFromConsole"); err != nil && !errors.Is(err, app.ErrNotFound) {
				return err
			}
		}
		l, err = a.link(ctx, tx, store.Invitation{Kind: "reset", User: &c.User}, resetFor)
		return err
	})
	return l, err
}

// errLink says that a link leads nowhere, whatever the reason.
const errLink = app.Refused("this link was used, taken back, or is too old; ask for a new one")

// Welcome is what a link leads to.
type Welcome struct {
	Kind     string    `json:"kind" enum:"join,reset"`
	Practice string    `json:"practice"`
	Role     string    `json:"role,omitempty" enum:"owner,coach,viewer,"`
	Name     string    `json:"name,omitempty" doc:"Whose password is set"`
	Second   bool      `json:"second,omitempty" doc:"A code of their second device is asked for"`
	Until    time.Time `json:"until"`
}

// follow runs fn with the link of a token, which nobody else can use meanwhile.
func (a *Accounts) follow(ctx context.Context, token string, fn func(tx *store.Tx, practice string, l store.Invitation) error) error {
	practice, id, err := a.Store.InvitationOf(ctx, tokenHash(token))
	if errors.Is(err, app.ErrNotFound) {
		return errLink
	}
	if err != nil {
		return err
	}
	return a.Store.In(ctx, practice, func(tx *store.Tx) error {
		l, err := tx.Invitation(ctx, id)
		if err != nil {
			return err
		}
		if l.Used != nil || l.Revoked != nil || !a.Now().Before(l.Until) {
			return errLink
		}
		return fn(tx, practice, l)
	})
}

// Welcome says what a link leads to.
func (a *Accounts) Welcome(ctx context.Context, token string) (out Welcome, err error) {
	err = a.follow(ctx, token, func(tx *store.Tx, _ string, l store.Invitation) error {
		p, err := tx.PracticeSelf(ctx)
		if err != nil {
			return err
		}
		out = Welcome{Kind: l.Kind, Practice: p.Name, Role: l.Role, Until: l.Until}
		if l.User != nil {
			u, err := tx.User(ctx, *l.User, "")
			if errors.Is(err, app.ErrNotFound) {
				return errLink
			}
			if err != nil {
				return err
			}
			out.Name = u.Name
			f, err := tx.SecondFactor(ctx, u.ID)
			if errors.Is(err, app.ErrNotFound) {
				return nil
			}
			out.Second = f.On != nil
			return err
		}
		return nil
	})
	return out, err
}

// Joining is what somebody says of themselves who follows a link; for a new password
// only that.
type Joining struct {
	Token    string `json:"token" maxLength:"60"`
	Name     string `json:"name,omitempty" maxLength:"120"`
	Email    string `json:"email,omitempty" maxLength:"200"`
	Password string `json:"password" maxLength:"200" doc:"At least 10 characters"`
	Code     string `json:"code,omitempty" maxLength:"40" doc:"Of the second device, or a recovery code, for a new password where one is asked for"`
}

// ComeIn uses a link: somebody comes into the practice, or has a new password and is signed
// out everywhere.
func (a *Accounts) ComeIn(ctx context.Context, in Joining, source string) (c store.Credentials, err error) {
	source = addressOf(source)
	if !a.hall.enter(source) {
		return c, Throttled{time.Second}
	}
	defer a.hall.leave(source)
	w, err := a.Welcome(ctx, in.Token) // hashing is dear: only for who has a link
	if err != nil {
		return c, err
	}
	in.Name = strings.TrimSpace(in.Name)
	var bad app.Invalid
	if w.Kind == "join" {
		checkName(&bad, in.Name)
		checkEmail(&bad, in.Email)
	}
	if t := passwordTrouble(in.Password, w.Practice, w.Name, in.Name, in.Email); t != "" {
		bad.Add("password", "%s", t)
	}
	if err := bad.Or(); err != nil {
		return c, err
	}
	if w.Second {
		if err := a.proveByLink(ctx, in); err != nil {
			return c, err
		}
	}
	hash, err := a.HashPassword(ctx, in.Password)
	if err != nil {
		return c, err
	}
	err = a.follow(ctx, in.Token, func(tx *store.Tx, practice string, l store.Invitation) error {
		c = store.Credentials{Practice: practice, Hash: hash}
		if l.User == nil {
			if c.User, err = tx.AddUser(ctx, in.Name, account(in.Email), l.Role, hash); err != nil {
				return taken(err)
			}
		} else {
			c.User = *l.User
			if err := tx.SetHash(ctx, c.User, hash, a.Now()); err != nil {
				return errLink
			}
			if _, err := tx.EndDevices(ctx, c.User, nil, nil, a.Now()); err != nil {
				return err
			}
			if err := tx.DropKeys(ctx, c.User); err != nil {
				return err
			}
		}
		if err := tx.LogAccess(ctx, a.Now(), store.Access{User: &c.User, Action: map[string]string{"join": "joined", "reset": "passwordReset"}[l.Kind]}, false); err != nil {
			return err
		}
		return tx.UseInvitation(ctx, l.ID, a.Now(), true)
	})
	return c, err
}

// taken says that an e-mail address is somebody's already.
func taken(err error) error {
	if errors.Is(err, app.ErrConflict) {
		return app.Wrong("email", "this address can't be used here; take another one")
	}
	return err
}

func checkName(bad *app.Invalid, name string) {
	if name == "" {
		bad.Add("name", "give your name")
	}
}

func checkEmail(bad *app.Invalid, email string) {
	if _, err := mail.ParseAddress(email); err != nil {
		bad.Add("email", "expected an e-mail address, like you@example.org")
	}
}

// errLastOwner keeps a practice in somebody's hands.
const errLastOwner = app.Refused("the practice needs an owner: make somebody else one first")

// GiveRole changes what somebody may do.
func (a *Accounts) GiveRole(ctx context.Context, act app.Actor, user, role string) (Staff, error) {
	if !slices.Contains(roles, role) {
		return Staff{}, app.Wrong("role", "expected owner, coach or viewer")
	}
	err := a.amongOwners(ctx, act, user, role == "owner", func(tx *store.Tx) error {
		if err := tx.SetRole(ctx, user, role, a.Now()); err != nil {
			return err
		}
		if !app.Writes.May(role) { // who only looks looks after nobody
			return tx.HandOver(ctx, user, nil)
		}
		return nil
	})
	if err != nil {
		return Staff{}, err
	}
	return a.Staff(ctx, act)
}

// amongOwners runs fn for an owner while nobody else changes who owns the practice;
// somebody stays or another owner does.
func (a *Accounts) amongOwners(ctx context.Context, act app.Actor, user string, stays bool, fn func(*store.Tx) error) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		owners, err := tx.LockOwners(ctx)
		if err != nil {
			return err
		}
		if err := app.Still(ctx, tx, act, app.Owns); err != nil {
			return err
		}
		if !stays && len(owners) == 1 && owners[0] == user {
			return errLastOwner
		}
		return fn(tx)
	})
}

// LetGo removes somebody and hands their runners to another, or to nobody for "".
func (a *Accounts) LetGo(ctx context.Context, act app.Actor, user, to string) (Staff, error) {
	err := a.amongOwners(ctx, act, user, false, func(tx *store.Tx) error {
		var next *string
		if to != "" {
			if err := looksAfter(ctx, tx, to); err != nil {
				return err
			}
			next = &to
		}
		if to == user {
			return app.Wrong("to", "hand the runners to somebody else")
		}
		if err := tx.RemoveUser(ctx, user, a.Now()); err != nil {
			return err
		}
		if err := tx.HandOver(ctx, user, next); err != nil {
			return err
		}
		if err := tx.DropSecondFactor(ctx, user); err != nil && !errors.Is(err, app.ErrNotFound) {
			return err
		}
		if err := tx.DropKeys(ctx, user); err != nil {
			return err
		}
		_, err := tx.EndDevices(ctx, user, nil, nil, a.Now())
		return err
	})
	if err != nil {
		return Staff{}, err
	}
	if user == act.User.ID {
		return Staff{People: []Person{}, Invitations: []Invited{}}, nil
	}
	return a.Staff(ctx, act)
}

// looksAfter checks that somebody can look after runners.
func looksAfter(ctx context.Context, tx *store.Tx, user string) error {
	role, err := tx.Role(ctx, user)
	switch {
	case errors.Is(err, app.ErrNotFound):
		return app.Wrong("to", "nobody of the practice")
	case err == nil && !app.Writes.May(role):
		return app.Wrong("to", "who only looks can't look after runners")
	}
	return err
}

// SetCoach says who looks after a runner; nobody for "".
func (a *Accounts) SetCoach(ctx context.Context, act app.Actor, runner, coach string) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		var c *string
		if coach != "" {
			if err := looksAfter(ctx, tx, coach); err != nil {
				return err
			}
			c = &coach
		}
		return tx.SetCoach(ctx, runner, c)
	})
}
