package app_test

import (
	"errors"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/account"
)

// codeAt is what the second device shows at a time, by another reading of the standard than
// the server's: the library's own.
func codeAt(t testing.TB, secret string, at time.Time) string {
	t.Helper()
	c, err := totp.GenerateCode(secret, at)
	require.NoError(t, err)
	return c
}

const rigPassword = "long enough now"

// withSecond gives the rig's owner a second device.
func (r *rig) withSecond() (secret string, codes []string) {
	r.t.Helper()
	var err error
	r.act.Device, err = r.a.OpenDevice(ctx, r.act.Practice, r.act.User.ID, "a browser")
	require.NoError(r.t, err)
	s, err := r.a.BeginSecond(ctx, r.act, rigPassword)
	require.NoError(r.t, err)
	out, err := r.a.BeginsWithCode(ctx, r.act, codeAt(r.t, s.Secret, r.clock))
	require.NoError(r.t, err)
	require.Len(r.t, out.Codes, 10)
	assert.True(r.t, out.Own.Second)
	assert.Equal(r.t, 10, out.Own.Codes)
	r.clock = r.clock.Add(time.Minute)
	return s.Secret, out.Codes
}

func (r *rig) claim(code, from string) error {
	_, err := r.a.SignInOn(ctx, account.Claim{Email: "n@example.test", Password: rigPassword, Code: code}, from, "")
	return err
}

func TestASecondDeviceIsAskedForAtSignIn(t *testing.T) {
	r := newRig(t, 25)
	_, err := r.a.BeginSecond(ctx, r.act, "not my password")
	require.ErrorContains(t, err, "present password")
	s, err := r.a.BeginSecond(ctx, r.act, rigPassword)
	require.NoError(t, err)
	u, err := url.Parse(s.URI)
	require.NoError(t, err)
	assert.Equal(t, "otpauth", u.Scheme)
	assert.Equal(t, s.Secret, u.Query().Get("secret"))
	assert.Contains(t, u.Path, "n@example.test")
	// Until its first code it counts for nothing.
	require.NoError(t, r.claim("", "10.0.0.1"))
	// A clock that is wrong is said, and which way.
	_, err = r.a.BeginsWithCode(ctx, r.act, codeAt(t, s.Secret, r.clock.Add(7*time.Minute)))
	assert.ErrorContains(t, err, "about 7 minutes ahead")
	_, err = r.a.BeginsWithCode(ctx, r.act, codeAt(t, s.Secret, r.clock.Add(-time.Hour)))
	assert.ErrorContains(t, err, "about 60 minutes behind")
	secret, codes := r.withSecond()
	assert.NotEqual(t, s.Secret, secret, "begun anew")

	err = r.claim("", "10.0.0.1")
	var bad app.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "code", bad[0].Field)
	assert.Contains(t, bad[0].Message, "second device shows")
	// A wrong password says nothing of the device, with a code or without.
	_, err = r.a.SignInOn(ctx, account.Claim{Email: "n@example.test", Password: "wrong", Code: codeAt(t, secret, r.clock)}, "10.0.0.2", "")
	require.ErrorIs(t, err, account.ErrSignIn)

	code := codeAt(t, secret, r.clock)
	require.NoError(t, r.claim(code[:3]+" "+code[3:], "10.0.0.1"), "as it is shown, with a space")
	assert.ErrorContains(t, r.claim(code, "10.0.0.1"), "doesn't fit", "a code counts once")
	r.clock = r.clock.Add(time.Minute)
	require.NoError(t, r.claim(codeAt(t, secret, r.clock.Add(-30*time.Second)), "10.0.0.1"), "a step late")
	r.clock = r.clock.Add(5 * time.Minute)
	assert.ErrorContains(t, r.claim(codeAt(t, secret, r.clock.Add(-2*time.Minute)), "10.0.0.1"), "doesn't fit", "too late")

	// A recovery code stands in, once, however it is written.
	require.NoError(t, r.claim(strings.ToLower(strings.ReplaceAll(codes[0], "-", " ")), "10.0.0.1"))
	r.clock = r.clock.Add(time.Minute)
	assert.ErrorContains(t, r.claim(codes[0], "10.0.0.1"), "doesn't fit")
	own, err := r.a.Own(ctx, r.act)
	require.NoError(t, err)
	assert.Equal(t, 9, own.Codes)
	// New ones take the place of those from before.
	fresh, err := r.a.NewRecovery(ctx, r.act, rigPassword)
	require.NoError(t, err)
	r.clock = r.clock.Add(20 * time.Minute)
	assert.ErrorContains(t, r.claim(codes[1], "10.0.0.1"), "doesn't fit")
	r.clock = r.clock.Add(20 * time.Minute)
	require.NoError(t, r.claim(fresh.Codes[9], "10.0.0.1"))

	_, err = r.a.EndSecond(ctx, r.act, "not it")
	require.Error(t, err)
	own, err = r.a.EndSecond(ctx, r.act, rigPassword)
	require.NoError(t, err)
	assert.False(t, own.Second)
	require.NoError(t, r.claim("", "10.0.0.1"))
	// All of it stands in the log.
	lines, err := r.a.AccessLog(ctx, r.act, account.Looked{}, 0)
	require.NoError(t, err)
	did := map[string]int{}
	for _, l := range lines {
		did[l.Did]++
	}
	assert.Equal(t, 1, did["secondOn"])
	assert.Equal(t, 1, did["secondOff"])
	assert.Positive(t, did["secondFailed"])
}

// Whoever has the password and guesses codes is slowed wherever they come from.
func TestGuessingCodesGetsSlower(t *testing.T) {
	r := newRig(t, 25)
	secret, _ := r.withSecond()
	var slowed account.Throttled
	n := 0
	for i := range 12 {
		err := r.claim("000000", fmt.Sprintf("10.0.1.%d", i))
		require.Error(t, err)
		if errors.As(err, &slowed) {
			n++
		}
	}
	assert.GreaterOrEqual(t, n, 8)
	assert.Positive(t, slowed.Wait)
	r.clock = r.clock.Add(20 * time.Minute)
	require.NoError(t, r.claim(codeAt(t, secret, r.clock), "10.0.0.1"))
}

func TestALinkToANewPasswordAsksForTheSecondDevice(t *testing.T) {
	r := newRig(t, 25)
	secret, _ := r.withSecond()
	l, err := r.a.ResetLink(ctx, r.act, r.act.User.ID)
	require.NoError(t, err)
	w, err := r.a.Welcome(ctx, l.Token)
	require.NoError(t, err)
	assert.True(t, w.Second)
	in := account.Joining{Token: l.Token, Password: word}
	_, err = r.a.ComeIn(ctx, in, "10.0.0.1") // a link that was forwarded is not enough
	require.ErrorContains(t, err, "second device shows")
	in.Code = "123456"
	_, err = r.a.ComeIn(ctx, in, "10.0.0.1")
	require.ErrorContains(t, err, "doesn't fit")
	in.Code = codeAt(t, secret, r.clock)
	_, err = r.a.ComeIn(ctx, in, "10.0.0.1")
	require.NoError(t, err)

	// Who lost device and codes: another owner takes it off, or the server itself.
	other := r.joined("owner", "Oda")
	_, err = r.a.TakeSecondOff(ctx, r.joined("coach", "Cai"), r.act.User.ID)
	require.ErrorIs(t, err, app.ErrForbidden)
	staff, err := r.a.Staff(ctx, other)
	require.NoError(t, err)
	for _, p := range staff.People {
		assert.Equal(t, p.ID == r.act.User.ID, p.Second, p.Name)
	}
	_, err = r.a.TakeSecondOff(ctx, r.act, r.act.User.ID)
	require.ErrorContains(t, err, "your own page")
	_, err = r.a.TakeSecondOff(ctx, other, r.act.User.ID)
	require.NoError(t, err)
	_, err = r.a.TakeSecondOff(ctx, other, r.act.User.ID)
	require.ErrorIs(t, err, app.ErrNotFound)
	_, err = r.a.SignIn(ctx, "n@example.test", word, "10.0.0.1")
	require.NoError(t, err)
}

func TestTheServerItselfTakesASecondDeviceOff(t *testing.T) {
	r := newRig(t, 25)
	r.withSecond()
	l, err := r.a.ResetFor(ctx, "n@example.test", true)
	require.NoError(t, err)
	_, err = r.a.ComeIn(ctx, account.Joining{Token: l.Token, Password: word}, "10.0.0.1")
	require.NoError(t, err)
}

func TestAKeyLetsAProgramInAndNoFurther(t *testing.T) {
	r := newRig(t, 25)
	make := func(act app.Actor, scope string, days int, old string) (account.KeyMade, error) {
		return r.a.MakeKey(ctx, act, account.NewKey{Name: "Club table", Scope: scope, Days: days, Old: old})
	}
	_, err := make(r.act, "read", 30, "not it")
	require.ErrorContains(t, err, "present password")
	_, err = make(r.act, "all", 0, rigPassword)
	require.ErrorContains(t, err, "expected read or write")
	look, err := make(r.act, "read", 30, rigPassword)
	require.NoError(t, err)
	require.Len(t, look.Own.Keys, 1)
	work, err := make(r.act, "write", 90, rigPassword)
	require.NoError(t, err)
	id := work.Own.Keys[0].ID
	if work.Own.Keys[0].Scope != "write" {
		id = work.Own.Keys[1].ID
	}

	enter := func(k string, v app.Visit) (app.Actor, error) {
		v.Operation, v.Listed = "tried", true
		return r.a.ByKey(ctx, k, v)
	}
	act, err := enter(look.Key, app.Visit{Needs: app.Reads})
	require.NoError(t, err)
	assert.Equal(t, "viewer", act.User.Role)
	_, err = enter(look.Key, app.Visit{Needs: app.Writes})
	require.ErrorIs(t, err, app.ErrForbidden)
	require.ErrorContains(t, err, "this key")
	act, err = enter(work.Key, app.Visit{Needs: app.Writes})
	require.NoError(t, err)
	assert.Equal(t, "coach", act.User.Role, "an owner's program decides nothing that is an owner's")
	for _, v := range []app.Visit{{Needs: app.Owns}, {Needs: app.Reads, Personal: true}} {
		_, err = enter(work.Key, v)
		require.ErrorIs(t, err, app.ErrForbidden)
	}
	for _, k := range []string{"", "notchback-key-", look.Key[:len(look.Key)-1], strings.ToLower(look.Key), "x"} {
		_, err = enter(k, app.Visit{Needs: app.Reads})
		require.ErrorIs(t, err, app.ErrSignedOut, k)
	}
	lines, err := r.a.AccessLog(ctx, r.act, account.Looked{}, 0)
	require.NoError(t, err)
	require.NotEmpty(t, lines)
	assert.Equal(t, "Club table", lines[0].Key)
	assert.True(t, lines[0].Refused)

	// It ends: taken back, too old, with a new password by link, with its person.
	_, err = r.a.DropKey(ctx, r.act, id)
	require.NoError(t, err)
	_, err = enter(work.Key, app.Visit{Needs: app.Reads})
	require.ErrorIs(t, err, app.ErrSignedOut)
	r.clock = r.clock.Add(31 * 24 * time.Hour)
	_, err = enter(look.Key, app.Visit{Needs: app.Reads})
	require.ErrorIs(t, err, app.ErrSignedOut)

	bea, vi := r.joined("coach", "Bea"), r.joined("viewer", "Vi")
	_, err = make(vi, "write", 3, word)
	require.ErrorContains(t, err, "only look")
	hers, err := make(bea, "write", 3, word)
	require.NoError(t, err)
	_, err = r.a.GiveRole(ctx, r.act, bea.User.ID, "viewer")
	require.NoError(t, err)
	_, err = enter(hers.Key, app.Visit{Needs: app.Writes})
	require.ErrorIs(t, err, app.ErrForbidden, "what its person may no longer do")
	l, err := r.a.ResetLink(ctx, r.act, bea.User.ID)
	require.NoError(t, err)
	_, err = r.a.ComeIn(ctx, account.Joining{Token: l.Token, Password: "another lantern orbit mango"}, "10.0.0.9")
	require.NoError(t, err)
	_, err = enter(hers.Key, app.Visit{Needs: app.Reads})
	require.ErrorIs(t, err, app.ErrSignedOut)
	his, err := make(vi, "read", 3, word)
	require.NoError(t, err)
	staff, err := r.a.LetGo(ctx, r.act, vi.User.ID, "")
	require.NoError(t, err)
	assert.Len(t, staff.People, 2)
	_, err = enter(his.Key, app.Visit{Needs: app.Reads})
	require.ErrorIs(t, err, app.ErrSignedOut)

	// An owner sees others' keys and takes them back; ten are the most.
	for range 10 {
		_, err = make(r.act, "read", 1, rigPassword)
		require.NoError(t, err)
	}
	_, err = make(r.act, "read", 1, rigPassword)
	require.ErrorContains(t, err, "ten keys")
	staff, err = r.a.Staff(ctx, r.act)
	require.NoError(t, err)
	for _, p := range staff.People {
		for _, k := range p.Keys {
			staff, err = r.a.TakeKeyBack(ctx, r.act, p.ID, k.ID)
			require.NoError(t, err)
		}
	}
	for _, p := range staff.People {
		assert.Empty(t, p.Keys, p.Name)
	}
}
