// Package storetest gives each test a database of its own, cloned from one
// migrated template on the throw-away cluster that `make test` starts.
package storetest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"notchback/store"
)

var (
	once     sync.Once
	template string
	failed   error
	seq      atomic.Int64
)

func env(t testing.TB, name string) string {
	t.Helper()
	v := os.Getenv(name)
	require.NotEmpty(t, v, "%s is not set: run the tests with `make test`, or `eval \"$(make -s test-env)\"` first", name)
	return v
}

func withDB(address, name string) string {
	u, err := url.Parse(address)
	if err != nil {
		panic(err)
	}
	u.Path = "/" + name
	return u.String()
}

// makeTemplate migrates one database per set of migrations, shared by all test
// processes; an advisory lock keeps parallel packages apart.
func makeTemplate(ctx context.Context, admin, owner string) (string, error) {
	h := sha256.New()
	err := fs.WalkDir(store.Migrations(), ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(store.Migrations(), p)
		h.Write([]byte(p))
		h.Write(b)
		return err
	})
	if err != nil {
		return "", err
	}
	name := "tmpl_" + hex.EncodeToString(h.Sum(nil))[:12]
	c, err := pgx.Connect(ctx, admin)
	if err != nil {
		return "", err
	}
	defer func() { _ = c.Close(ctx) }()
	if _, err := c.Exec(ctx, `SELECT pg_advisory_lock(920411)`); err != nil { // released with the connection
		return "", err
	}
	var ready bool
	if err := c.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1 AND datistemplate)`, name).Scan(&ready); err != nil || ready {
		return name, err
	}
	for _, sql := range []string{`DROP DATABASE IF EXISTS ` + name, `CREATE DATABASE ` + name + ` OWNER notchback_owner`} {
		if _, err := c.Exec(ctx, sql); err != nil {
			return "", err
		}
	}
	if _, err := store.Migrate(ctx, withDB(owner, name)); err != nil {
		return "", err
	}
	_, err = c.Exec(ctx, `ALTER DATABASE `+name+` IS_TEMPLATE true`)
	return name, err
}

// Fresh clones the migrated template and returns the new database's addresses;
// it is dropped when the test ends.
func Fresh(t testing.TB) URLs {
	t.Helper()
	once.Do(func() {
		template, failed = makeTemplate(context.Background(), env(t, "NOTCHBACK_ADMIN_URL"), env(t, "NOTCHBACK_OWNER_URL"))
	})
	require.NoError(t, failed)
	return clone(t, template)
}

var seeded sync.Map // name → *seed

type seed struct {
	once   sync.Once
	name   string
	shared bool
}

// Seeded returns a clone of a database that fill has filled, once per process
// and name; Cleanup drops the filled ones.
func Seeded(t testing.TB, name string, fill func(URLs) error) URLs {
	t.Helper()
	v, _ := seeded.LoadOrStore(name, &seed{})
	s := v.(*seed)
	s.once.Do(func() {
		base := fmt.Sprintf("s_%d_%s", os.Getpid(), name)
		Fresh(t) // makes sure of the template
		require.NoError(t, exec(t, `CREATE DATABASE `+base+` OWNER notchback_owner TEMPLATE `+template+` STRATEGY file_copy`))
		require.NoError(t, fill(urls(t, base)))
		s.name = base
	})
	require.NotEmpty(t, s.name, "the database %s could not be filled", name)
	return clone(t, s.name)
}

// Shared is Seeded for all processes on the cluster: what was filled once under a key is
// cloned until somebody fills it under another.
func Shared(t testing.TB, name, key string, fill func(URLs) error) URLs {
	t.Helper()
	ctx := context.Background()
	h := sha256.Sum256([]byte(key))
	base := "shared_" + name + "_" + hex.EncodeToString(h[:])[:12]
	v, _ := seeded.LoadOrStore(base, &seed{shared: true})
	s := v.(*seed)
	s.once.Do(func() {
		Fresh(t) // makes sure of the template
		c, err := pgx.Connect(ctx, env(t, "NOTCHBACK_ADMIN_URL"))
		require.NoError(t, err)
		defer func() { _ = c.Close(ctx) }()
		_, err = c.Exec(ctx, `SELECT pg_advisory_lock(920412)`) // released with the connection
		require.NoError(t, err)
		var ready bool
		require.NoError(t, c.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1 AND datistemplate)`, base).Scan(&ready))
		if !ready {
			// Half filled ones of this key go, and all but the last few of others.
			older, err := c.Query(ctx, `SELECT datname FROM (SELECT datname, row_number() OVER (ORDER BY oid DESC) AS n FROM pg_database WHERE datname LIKE $1) d WHERE n > 2 OR datname = $2`, `shared\_`+name+`\_%`, base)
			require.NoError(t, err)
			names, err := pgx.CollectRows(older, pgx.RowTo[string])
			require.NoError(t, err)
			for _, n := range names { // one that is being cloned stays for now
				_, _ = c.Exec(ctx, `ALTER DATABASE `+n+` IS_TEMPLATE false`)
				_, _ = c.Exec(ctx, `DROP DATABASE `+n)
			}
			require.NoError(t, exec(t, `CREATE DATABASE `+base+` OWNER notchback_owner TEMPLATE `+template+` STRATEGY file_copy`))
			require.NoError(t, fill(urls(t, base)))
			_, err = c.Exec(ctx, `ALTER DATABASE `+base+` IS_TEMPLATE true`)
			require.NoError(t, err)
		}
		s.name = base
	})
	require.NotEmpty(t, s.name, "the database %s could not be filled", name)
	return clone(t, s.name)
}

// Cleanup drops what Seeded filled; call it at the end of TestMain.
func Cleanup() {
	seeded.Range(func(_, v any) bool {
		if v.(*seed).shared {
			return true
		}
		if c, err := pgx.Connect(context.Background(), os.Getenv("NOTCHBACK_ADMIN_URL")); err == nil {
			_, _ = c.Exec(context.Background(), `DROP DATABASE IF EXISTS `+v.(*seed).name+` WITH (FORCE)`)
			_ = c.Close(context.Background())
		}
		return true
	})
}

func urls(t testing.TB, name string) URLs {
	return URLs{withDB(env(t, "NOTCHBACK_OWNER_URL"), name), withDB(env(t, "NOTCHBACK_DATABASE_URL"), name)}
}

func exec(t testing.TB, sql string) error {
	ctx := context.Background()
	c, err := pgx.Connect(ctx, env(t, "NOTCHBACK_ADMIN_URL"))
	if err != nil {
		return err
	}
	defer func() { _ = c.Close(ctx) }()
	_, err = c.Exec(ctx, sql)
	return err
}

func clone(t testing.TB, from string) URLs {
	t.Helper()
	name := fmt.Sprintf("t_%d_%d", os.Getpid(), seq.Add(1))
	require.NoError(t, exec(t, `CREATE DATABASE `+name+` OWNER notchback_owner TEMPLATE `+from+` STRATEGY file_copy`))
	t.Cleanup(func() { require.NoError(t, exec(t, `DROP DATABASE IF EXISTS `+name+` WITH (FORCE)`)) })
	return urls(t, name)
}

// URLs of one test's database, for the owner and for the server's role.
type URLs struct{ Owner, App string }

// Open returns a store on a fresh database, as the server sees it.
func Open(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), Fresh(t).App)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// At is a database at an older version, filled with a dump of its data and then
// brought up to date as a server's would be.
func At(t testing.TB, version int64, dump string) URLs {
	t.Helper()
	ctx := context.Background()
	name := fmt.Sprintf("t_%d_%d", os.Getpid(), seq.Add(1))
	require.NoError(t, exec(t, `CREATE DATABASE `+name+` OWNER notchback_owner`))
	t.Cleanup(func() { require.NoError(t, exec(t, `DROP DATABASE IF EXISTS `+name+` WITH (FORCE)`)) })
	u := urls(t, name)
	require.NoError(t, store.MigrateTo(ctx, u.Owner, version))
	c, err := pgx.Connect(ctx, withDB(env(t, "NOTCHBACK_ADMIN_URL"), name))
	require.NoError(t, err)
	defer func() { _ = c.Close(ctx) }()
	_, err = c.PgConn().Exec(ctx, dump).ReadAll()
	require.NoError(t, err)
	_, err = store.Migrate(ctx, u.Owner)
	require.NoError(t, err)
	return u
}
