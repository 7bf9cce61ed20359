package e2e

import (
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// database lets the database of a site go away, and come back.
func (s *site) database(t *testing.T, there bool) {
	t.Helper()
	own, err := pgx.ParseConfig(s.urls.App)
	require.NoError(t, err)
	c, err := pgx.Connect(ctx, os.Getenv("NOTCHBACK_ADMIN_URL"))
	require.NoError(t, err)
	defer func() { _ = c.Close(ctx) }()
	_, err = c.Exec(ctx, fmt.Sprintf(`ALTER DATABASE %s ALLOW_CONNECTIONS %t`, pgx.Identifier{own.Database}.Sanitize(), there))
	require.NoError(t, err)
	if !there {
		_, err = c.Exec(ctx, `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1`, own.Database)
		require.NoError(t, err)
	}
}

// While the database is away every page says so and what is typed stays; once it is back
// the pages go on by themselves.
func TestADatabaseThatIsAwayComesBack(t *testing.T) {
	s := serve(t, true)
	t.Cleanup(func() { s.database(t, true) })
	fresh, inUse, typing := s.open(t, 1280, 800), s.open(t, 1280, 800), s.open(t, 1280, 800)
	for _, p := range []*tab{fresh, inUse, typing} {
		p.allow("503")
		p.Page = p.Context(ctx).Timeout(3 * time.Minute)
		p.signIn(demo.Email)
	}
	typing.goTo("/practice")
	typing.sees("Emergency number")
	typing.fill("How runners reach the coach", "the hut by the pier")

	s.database(t, false)
	fresh.MustNavigate(s.URL + "/practice/people")
	fresh.sees("The database can't be reached")
	inUse.MustElementR("nav a", "^Review$").MustClick()
	inUse.sees("This page looks again every few seconds")
	typing.MustElementR("button", "^Save$").MustClick()
	typing.sees("If the connection is lost it is kept here and tried again")

	s.database(t, true)
	fresh.sees("Guest of the club")
	inUse.sees("Review of the week")
	typing.sees("Saved.")
	typing.MustReload().MustWaitLoad()
	typing.MustWait(`() => [...document.querySelectorAll("input")].some(i => i.value === "the hut by the pier")`)
}
