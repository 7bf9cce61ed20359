package attack

import (
	"encoding/csv"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// Who may do what stands in testdata/roles.csv, a row an operation: "in" is let in, the
// others are what the door answers. An operation without a row fails, and a row without an
// operation. A runner's record is nothing (404) to another practice, whatever its role.
func TestEveryRoleMayJustWhatTheTableSays(t *testing.T) {
	x := aim(t)
	f, err := os.Open("testdata/roles.csv")
	require.NoError(t, err)
	defer func() { _ = f.Close() }()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	roles := rows[0][1:]
	require.Equal(t, []string{"owner", "coach", "program", "viewer", "looker", "phone", "nobody", "other"}, roles)
	table := map[string][]string{}
	for _, r := range rows[1:] {
		require.NotContains(t, table, r[0], "twice")
		table[r[0]] = r[1:]
	}
	who := func(role string) *client {
		switch role {
		case "owner":
			return x.signedIn(demo.Email)
		case "coach":
			return x.signedIn(demo.CoachEmail)
		case "viewer":
			return x.signedIn(demo.ViewerEmail)
		case "program": // an owner's
			return x.programOf(x.signedIn(demo.Email), "write")
		case "looker":
			return x.programOf(x.signedIn(demo.Email), "read")
		case "other":
			return x.signedIn(demo.OtherEmail)
		case "phone":
			c := x.stranger()
			c.Jar.SetCookies(mustURL(x.URL), x.phone)
			return c
		}
		return x.stranger()
	}
	clients := map[string]*client{}
	for _, r := range roles {
		clients[r] = who(r)
	}
	// What ends somebody's way in comes last.
	ends := []string{"signOut", "leavePocket", "letGo", "endPocketDevice", "endPocketLinks", "archiveRunner", "deleteClip"}
	ops := x.doc.operations()
	slices.SortStableFunc(ops, func(a, b operation) int { return slices.Index(ends, a.ID) - slices.Index(ends, b.ID) })
	for _, o := range ops {
		want, ok := table[o.ID]
		if !assert.True(t, ok, "%s has no row in testdata/roles.csv", o.ID) {
			continue
		}
		delete(table, o.ID)
		// The least first, so that a change made by an owner shows nobody else's refusal.
		for i := len(roles) - 1; i >= 0; i-- {
			c := clients[roles[i]]
			if o.ID == "signOut" {
				c = who(roles[i])
			}
			body, kind := x.doc.body(o)
			st, raw := c.send(o.method, x.address(o), body, kind, "If-Match", "1")
			got := "in"
			switch {
			case st == 401 && o.ID != "signIn", st == 403:
				got = map[int]string{401: "401", 403: "403"}[st]
			case st == 404 && roles[i] == "other" && want[i] == "404":
				got = "404"
			}
			assert.Less(t, st, 500, "%s by %s: %.200s", o.ID, roles[i], raw)
			assert.Equal(t, want[i], got, "%s by %s: %d", o.ID, roles[i], st)
		}
	}
	for id := range table {
		assert.Fail(t, "no such operation", id)
	}
}
