package app_test

import (
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/account"
)

const word = "harbour candle zebra seven"

// joined lets somebody in by an invitation.
func (r *rig) joined(role, name string) app.Actor {
	r.t.Helper()
	l, err := r.a.Invite(ctx, r.act, role, "for "+name)
	require.NoError(r.t, err)
	c, err := r.a.ComeIn(ctx, account.Joining{Token: l.Token, Name: name, Email: name + "@example.test", Password: word}, "127.0.0.1")
	require.NoError(r.t, err)
	act, err := r.a.Actor(ctx, c.Practice, c.User)
	require.NoError(r.t, err)
	return act
}

func TestAnInvitationLetsOnePersonInOnce(t *testing.T) {
	r := newRig(t, 25)
	l, err := r.a.Invite(ctx, r.act, "coach", "Bea")
	require.NoError(t, err)
	w, err := r.a.Welcome(ctx, l.Token)
	require.NoError(t, err)
	assert.Equal(t, account.Welcome{Kind: "join", Practice: "P", Role: "coach", Until: w.Until}, w)
	in := account.Joining{Token: l.Token, Name: "Bea", Email: "bea@example.test", Password: "password12"}
	_, err = r.a.ComeIn(ctx, in, "1.2.3.4")
	assert.ErrorContains(t, err, "first that are guessed")
	in.Password, in.Email = word, "N@example.test"
	_, err = r.a.ComeIn(ctx, in, "1.2.3.4")
	assert.ErrorContains(t, err, "can't be used here", "somebody's address")
	in.Email = "bea@example.test"
	c, err := r.a.ComeIn(ctx, in, "1.2.3.4")
	require.NoError(t, err)
	act, err := r.a.Actor(ctx, c.Practice, c.User)
	require.NoError(t, err)
	assert.Equal(t, "coach", act.User.Role)
	_, err = r.a.ComeIn(ctx, in, "1.2.3.4")
	assert.ErrorContains(t, err, "was used", "once")
	_, err = r.a.SignIn(ctx, "bea@example.test", word, "1.2.3.4")
	require.NoError(t, err)

	// Taken back, too old, garbage: all the same answer.
	l, err = r.a.Invite(ctx, r.act, "viewer", "")
	require.NoError(t, err)
	staff, err := r.a.Staff(ctx, r.act)
	require.NoError(t, err)
	require.Len(t, staff.Invitations, 1)
	_, err = r.a.Withdraw(ctx, r.act, staff.Invitations[0].ID)
	require.NoError(t, err)
	old, err := r.a.Invite(ctx, r.act, "viewer", "")
	require.NoError(t, err)
	r.clock = old.Until
	for _, token := range []string{l.Token, old.Token, "x", ""} {
		_, err = r.a.Welcome(ctx, token)
		assert.ErrorContains(t, err, "ask for a new one", token)
		_, err = r.a.ComeIn(ctx, account.Joining{Token: token, Name: "X", Email: "x@example.test", Password: word}, "1.2.3.4")
		assert.ErrorContains(t, err, "ask for a new one", token)
	}
	// Nobody but owners invites, changes or removes.
	_, err = r.a.Invite(ctx, act, "owner", "")
	assert.ErrorIs(t, err, app.ErrForbidden)
	_, err = r.a.GiveRole(ctx, act, act.User.ID, "owner")
	assert.ErrorIs(t, err, app.ErrForbidden)
	_, err = r.a.LetGo(ctx, act, r.act.User.ID, "")
	assert.ErrorIs(t, err, app.ErrForbidden)
	_, err = r.a.ResetLink(ctx, act, r.act.User.ID)
	assert.ErrorIs(t, err, app.ErrForbidden)
	seen, err := r.a.Staff(ctx, act)
	require.NoError(t, err)
	assert.Empty(t, seen.Invitations)
	for _, p := range seen.People {
		assert.Equal(t, p.Me, p.Email != "", "others' addresses are the owner's to see")
	}
}

// However many follow one link at once, one comes in.
func TestOneLinkUsedByManyAtOnce(t *testing.T) {
	r := newRig(t, 25)
	l, err := r.a.Invite(ctx, r.act, "coach", "")
	require.NoError(t, err)
	var in, out int
	var mu sync.Mutex
	var wg sync.WaitGroup
	for i := range 6 {
		wg.Go(func() {
			_, err := r.a.ComeIn(ctx, account.Joining{Token: l.Token, Name: "X", Email: string(rune('a'+i)) + "@example.test", Password: word}, "10.0.0."+string(rune('1'+i)))
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				in++
			} else {
				out++
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, in)
	assert.Equal(t, 5, out)
}

func TestThePracticeKeepsAnOwner(t *testing.T) {
	r := newRig(t, 25)
	_, err := r.a.GiveRole(ctx, r.act, r.act.User.ID, "coach")
	assert.ErrorContains(t, err, "needs an owner")
	_, err = r.a.LetGo(ctx, r.act, r.act.User.ID, "")
	assert.ErrorContains(t, err, "needs an owner")
	// Two owners remove each other at once, again and again: one stays.
	me := r.act
	for i := range 8 {
		other := r.joined("owner", "o"+string(rune('a'+i)))
		errs := make([]error, 2)
		var wg sync.WaitGroup
		wg.Go(func() { _, errs[0] = r.a.LetGo(ctx, me, other.User.ID, "") })
		wg.Go(func() { _, errs[1] = r.a.LetGo(ctx, other, me.User.ID, "") })
		wg.Wait()
		require.NotEqual(t, errs[0] == nil, errs[1] == nil, "%v", errs)
		if errs[0] != nil {
			me = other
			r.act = other
		}
		staff, err := r.a.Staff(ctx, me)
		require.NoError(t, err)
		require.Len(t, staff.People, 1)
	}
}

// A role that changes while its holder writes counts at once, and who was let go is out.
func TestARoleCountsAtOnce(t *testing.T) {
	r := newRig(t, 25)
	bea := r.joined("coach", "bea")
	require.NoError(t, r.a.SetCoach(ctx, bea, r.runner.ID, bea.User.ID))
	_, err := r.a.GiveRole(ctx, r.act, bea.User.ID, "viewer")
	require.NoError(t, err)
	assert.ErrorIs(t, r.a.SetCoach(ctx, bea, r.runner.ID, ""), app.ErrForbidden, "the role at the door was another")
	shown, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Empty(t, shown.Items[0].Coach, "who only looks looks after nobody")
	assert.ErrorContains(t, r.a.SetCoach(ctx, r.act, r.runner.ID, bea.User.ID), "only looks")
	_, err = r.a.GiveRole(ctx, r.act, bea.User.ID, "coach")
	require.NoError(t, err)
	require.NoError(t, r.a.SetCoach(ctx, bea, r.runner.ID, bea.User.ID))

	// Runners are handed over; what was written keeps the name.
	cid := r.joined("coach", "cid")
	dev, err := r.a.OpenDevice(ctx, bea.Practice, bea.User.ID, "x")
	require.NoError(t, err)
	_, err = r.a.LetGo(ctx, r.act, bea.User.ID, bea.User.ID)
	assert.ErrorContains(t, err, "somebody else")
	_, err = r.a.LetGo(ctx, r.act, bea.User.ID, cid.User.ID)
	require.NoError(t, err)
	bench, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, cid.User.ID, bench.Items[0].Coach)
	_, err = r.a.Enter(ctx, bea.Practice, bea.User.ID, app.Visit{Device: dev})
	assert.ErrorIs(t, err, app.ErrSignedOut)
	_, err = r.a.SignIn(ctx, "bea@example.test", word, "127.0.0.1")
	assert.ErrorIs(t, err, account.ErrSignIn)
	assert.ErrorIs(t, r.a.SetCoach(ctx, bea, r.runner.ID, ""), app.ErrSignedOut)
	// What somebody gave out goes with them, and so does a link to a password of theirs.
	oda := r.joined("owner", "oda")
	given, err := r.a.Invite(ctx, oda, "coach", "")
	require.NoError(t, err)
	hers, err := r.a.ResetLink(ctx, r.act, oda.User.ID)
	require.NoError(t, err)
	_, err = r.a.LetGo(ctx, r.act, oda.User.ID, "")
	require.NoError(t, err)
	for _, l := range []account.Link{given, hers} {
		_, err = r.a.ComeIn(ctx, account.Joining{Token: l.Token, Name: "X", Email: "x@example.test", Password: word}, "127.0.0.1")
		assert.ErrorContains(t, err, "ask for a new one")
	}
	again := r.joined("coach", "bea")
	assert.NotEqual(t, bea.User.ID, again.User.ID, "the address is free again, for somebody new")
}

func TestAPasswordIsChangedAndReset(t *testing.T) {
	r := newRig(t, 25)
	in := func(id string) error {
		_, err := r.a.Enter(ctx, r.act.Practice, r.act.User.ID, app.Visit{Device: id})
		return err
	}
	device := func(agent string) string {
		id, err := r.a.OpenDevice(ctx, r.act.Practice, r.act.User.ID, agent)
		require.NoError(t, err)
		return id
	}
	here, there := device("Mozilla/5.0 (X11; Linux x86_64) Chrome/140.0 Safari/537.36"), device("Mozilla/5.0 (iPhone; CPU iPhone OS 18) Safari/604.1")
	me := r.act
	me.Device = here
	own, err := r.a.Own(ctx, me)
	require.NoError(t, err)
	require.Len(t, own.Devices, 2)
	assert.ElementsMatch(t, []string{"Chrome on Linux", "Safari on a phone"}, []string{own.Devices[0].Name, own.Devices[1].Name})
	_, err = r.a.ChangePassword(ctx, me, "not this one", word)
	assert.ErrorContains(t, err, "not your present password")
	_, err = r.a.ChangePassword(ctx, me, "long enough now", "password12")
	assert.ErrorContains(t, err, "guessed")
	_, err = r.a.ChangePassword(ctx, me, "long enough now", "long enough now")
	assert.ErrorContains(t, err, "the one you have")
	require.NoError(t, in(there))
	own, err = r.a.ChangePassword(ctx, me, "long enough now", word)
	require.NoError(t, err)
	require.Len(t, own.Devices, 1)
	assert.True(t, own.Devices[0].Here)
	require.NoError(t, in(here))
	assert.ErrorIs(t, in(there), app.ErrSignedOut, "other devices are signed out")

	// By a link, which is asked for anew and is used once; a forwarded one is spent.
	first, err := r.a.ResetLink(ctx, r.act, r.act.User.ID)
	require.NoError(t, err)
	second, err := r.a.ResetFor(ctx, "N@example.TEST", false)
	require.NoError(t, err)
	_, err = r.a.Welcome(ctx, first.Token)
	assert.ErrorContains(t, err, "ask for a new one", "only the newest holds")
	w, err := r.a.Welcome(ctx, second.Token)
	require.NoError(t, err)
	assert.Equal(t, "N", w.Name)
	_, err = r.a.ComeIn(ctx, account.Joining{Token: second.Token, Password: "lantern orbit mango four"}, "x")
	require.NoError(t, err)
	_, err = r.a.ComeIn(ctx, account.Joining{Token: second.Token, Password: "another lantern orbit mango"}, "x")
	assert.ErrorContains(t, err, "ask for a new one")
	assert.ErrorIs(t, in(here), app.ErrSignedOut, "signed out everywhere")
	_, err = r.a.SignIn(ctx, "n@example.test", "lantern orbit mango four", "x")
	require.NoError(t, err)
	_, err = r.a.ResetFor(ctx, "nobody@example.test", false)
	assert.ErrorIs(t, err, app.ErrNotFound)
}

// A sign-in that was not used for as long as the practice says has ended; others' are no
// business of anybody.
func TestDevicesEnd(t *testing.T) {
	r := newRig(t, 25)
	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.IdleMinutes = 30
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	id, err := r.a.OpenDevice(ctx, r.act.Practice, r.act.User.ID, "curl/8")
	require.NoError(t, err)
	in := func() error {
		_, err := r.a.Enter(ctx, r.act.Practice, r.act.User.ID, app.Visit{Device: id})
		return err
	}
	for range 4 {
		r.clock = r.clock.Add(29 * time.Minute)
		require.NoError(t, in(), "used in time")
	}
	r.clock = r.clock.Add(31 * time.Minute)
	assert.ErrorIs(t, in(), app.ErrSignedOut)
	// Long after, it is forgotten that there was one.
	was := r.clock
	r.clock = r.clock.Add(account.KnownFor + time.Hour)
	_, err = r.a.Housekeep(ctx, time.Hour)
	require.NoError(t, err)
	assert.Empty(t, traces(t, r.owner, id))
	r.clock = was
	bea := r.joined("coach", "bea")
	_, err = r.a.SignOutOf(ctx, bea, id)
	assert.ErrorIs(t, err, app.ErrNotFound)
	_, err = r.a.PutProfile(ctx, bea, account.Profile{Name: "Bea B", Email: "bea@example.test"})
	require.NoError(t, err)
	_, err = r.a.PutProfile(ctx, bea, account.Profile{Name: "Bea B", Email: "b@example.test"})
	assert.ErrorContains(t, err, "not your present password", "another address needs the password")
	_, err = r.a.PutProfile(ctx, bea, account.Profile{Name: "Bea B", Email: "n@example.test", Old: word})
	assert.ErrorContains(t, err, "can't be used here")
	own, err := r.a.PutProfile(ctx, bea, account.Profile{Name: "Bea B", Email: "b@example.test", Old: word})
	require.NoError(t, err)
	assert.Equal(t, "b@example.test", own.Email)
}

// Wrong tries of others at an address slow nobody who was signed in on their browser before.
func TestWrongTriesOfOthersLockNobodyOut(t *testing.T) {
	r := newRig(t, 25)
	id, err := r.a.OpenDevice(ctx, r.act.Practice, r.act.User.ID, "x")
	require.NoError(t, err)
	var slow account.Throttled
	for i := 0; ; i++ {
		require.Less(t, i, 60)
		// Each of them new: it is the address that is slowed.
		if _, err := r.a.SignIn(ctx, fmt.Sprintf("x%d@example.test", i), "wrong", "10.0.0.1"); errors.As(err, &slow) {
			break
		}
	}
	_, err = r.a.SignIn(ctx, "n@example.test", "long enough now", "10.0.0.1")
	assert.ErrorAs(t, err, &slow, "a browser that was never here")
	_, err = r.a.SignInOn(ctx, account.Claim{Email: "n@example.test", Password: "long enough now"}, "10.0.0.1", id)
	require.NoError(t, err, "one that was")
	// It is no way round: its own wrong tries slow it, another's device helps nobody, nor does
	// one from long ago or garbage.
	for range 5 {
		_, err = r.a.SignInOn(ctx, account.Claim{Email: "n@example.test", Password: "wrong"}, "10.0.0.1", id)
	}
	assert.ErrorAs(t, err, &slow)
	bea := r.joined("coach", "bea")
	for _, other := range []string{id, "zzzzzzzz-zzzz-zzzz-zzzz-zzzzzzzzzzzz", "x"} {
		_, err = r.a.SignInOn(ctx, account.Claim{Email: "bea@example.test", Password: word}, "10.0.0.1", other)
		assert.ErrorAs(t, err, &slow, other)
	}
	own, err := r.a.OpenDevice(ctx, bea.Practice, bea.User.ID, "x")
	require.NoError(t, err)
	_, err = r.a.SignInOn(ctx, account.Claim{Email: "bea@example.test", Password: word}, "10.0.0.1", own)
	require.NoError(t, err)
}
