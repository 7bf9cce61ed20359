package account

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"strings"
	"time"

	"notchback/app"
	"notchback/store"
)

// Keys of programs (house).
const (
	keyMark  = "notchback-key-" // what a key begins with, so that a search finds one that leaked
	mostKeys = 10               // of one person
	keyDays  = 366              // longest life
)

// Key is a key by which a program comes in for somebody.
type Key struct {
	ID    string     `json:"id"`
	Name  string     `json:"name" doc:"Which program it is for"`
	Scope string     `json:"scope" enum:"read,write"`
	At    time.Time  `json:"at"`
	Until time.Time  `json:"until"`
	Used  *time.Time `json:"used,omitempty"`
}

// NewKey is what a key is made for.
type NewKey struct {
	Name  string `json:"name" minLength:"1" maxLength:"60" doc:"Which program it is for"`
	Scope string `json:"scope" enum:"read,write" doc:"read: looks; write: what a coach may, and nothing an owner decides"`
	Days  int    `json:"days" minimum:"1" maximum:"366" doc:"How long it holds"`
	Old   string `json:"old" maxLength:"200" doc:"The present password"`
}

// KeyMade is a key as it is given out: this is the only time it is shown.
type KeyMade struct {
	Key string `json:"key"`
	Own Own    `json:"own"`
}

func keyHash(key string) []byte {
	h := sha256.Sum256([]byte("program\x00" + key))
	return h[:]
}

// MakeKey makes a key for a program.
func (a *Accounts) MakeKey(ctx context.Context, act app.Actor, in NewKey) (KeyMade, error) {
	in.Name = strings.TrimSpace(in.Name)
	var bad app.Invalid
	if in.Name == "" {
		bad.Add("name", "say which program it is for")
	}
	if in.Scope != "read" && in.Scope != "write" {
		bad.Add("scope", "expected read or write")
	}
	if in.Scope == "write" && !app.Writes.May(act.User.Role) {
		bad.Add("scope", "a viewer's programs can only look, too")
	}
	if in.Days < 1 || in.Days > keyDays {
		bad.Add("days", "expected 1 to %d", keyDays)
	}
	if err := bad.Or(); err != nil {
		return KeyMade{}, err
	}
	if err := a.again(ctx, act, in.Old); err != nil {
		return KeyMade{}, err
	}
	key, now := keyMark+rand.Text(), a.Now()
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := app.Still(ctx, tx, act, app.Reads); err != nil {
			return err
		}
		list, err := tx.Keys(ctx, act.User.ID, now)
		if err != nil {
			return err
		}
		if len(list) >= mostKeys {
			return app.Refused("you have ten keys; take one back first")
		}
		return tx.AddKey(ctx, store.ProgramKey{User: act.User.ID, Name: in.Name, Scope: in.Scope, At: now, Until: now.AddDate(0, 0, in.Days)}, keyHash(key))
	})
	if err != nil {
		return KeyMade{}, err
	}
	own, err := a.Own(ctx, act)
	return KeyMade{key, own}, err
}

// keys lists somebody's keys that hold.
func (a *Accounts) keys(ctx context.Context, tx *store.Tx, user string) ([]Key, error) {
	list, err := tx.Keys(ctx, user, a.Now())
	out := make([]Key, len(list))
	for i, k := range list {
		out[i] = Key{ID: k.ID, Name: k.Name, Scope: k.Scope, At: k.At, Until: k.Until, Used: k.Used}
	}
	return out, err
}

// DropKey takes an own key back.
func (a *Accounts) DropKey(ctx context.Context, act app.Actor, id string) (Own, error) {
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error { return tx.DropKey(ctx, act.User.ID, id) })
	if err != nil {
		return Own{}, err
	}
	return a.Own(ctx, act)
}

// TakeKeyBack takes a key of somebody's back, for an owner.
func (a *Accounts) TakeKeyBack(ctx context.Context, act app.Actor, user, id string) (Staff, error) {
	err := a.own(ctx, act, func(tx *store.Tx) error { return tx.DropKey(ctx, user, id) })
	if err != nil {
		return Staff{}, err
	}
	return a.Staff(ctx, act)
}

// ByKey lets a program in with a key, as whoever it belongs to. Errors: ErrSignedOut for a
// key that does not hold, ErrForbidden for what it may not.
func (a *Accounts) ByKey(ctx context.Context, key string, v app.Visit) (app.Actor, error) {
	if !strings.HasPrefix(key, keyMark) {
		return app.Actor{}, app.ErrSignedOut
	}
	practice, id, err := a.Store.KeyOf(ctx, keyHash(key))
	if errors.Is(err, app.ErrNotFound) {
		return app.Actor{}, app.ErrSignedOut
	}
	if err != nil {
		return app.Actor{}, err
	}
	var k store.ProgramKey
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		if k, err = tx.Key(ctx, id); err != nil {
			return err
		}
		now := a.Now()
		if !now.Before(k.Until) {
			return app.ErrNotFound
		}
		if k.Used == nil || now.Sub(*k.Used) > time.Minute {
			return tx.SeeKey(ctx, id, now)
		}
		return nil
	})
	if errors.Is(err, app.ErrNotFound) {
		return app.Actor{}, app.ErrSignedOut
	}
	if err != nil {
		return app.Actor{}, err
	}
	v.Key, v.Looks = k.Name, k.Scope == "read"
	return a.Enter(ctx, practice, k.User, v)
}
