// Package demotest gives tests the demo in a database of their own.
package demotest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/demo"
	"notchback/store"
	"notchback/store/storetest"
)

// Cheap keeps sign-ins quick in tests.
var Cheap = app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1})

// Seeded returns a database of the test's own with the demo in it, laid out for now. The
// demo is laid out once for all test processes of a day, until the program changes.
func Seeded(t testing.TB) storetest.URLs {
	t.Helper()
	made, err := sources()
	require.NoError(t, err)
	here, err := time.LoadLocation(demo.Zone)
	require.NoError(t, err)
	return storetest.Shared(t, "demo", made+time.Now().In(here).Format(time.DateOnly), func(u storetest.URLs) error {
		s, err := store.Open(context.Background(), u.App)
		if err != nil {
			return err
		}
		defer s.Close()
		return demo.Load(context.Background(), s, time.Now(), Cheap)
	})
}

// sources is a digest of everything the demo is made by.
var sources = sync.OnceValues(func() (string, error) {
	_, self, _, _ := runtime.Caller(0)
	root := filepath.Join(filepath.Dir(self), "..", "..")
	h := sha256.New()
	for _, dir := range []string{"app", "core", "store", "formats", "devices", "go.mod"} {
		err := filepath.WalkDir(filepath.Join(root, dir), func(p string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(p, "_test.go") || !slices.Contains([]string{".go", ".sql", ".yaml", ".json", ".mod"}, filepath.Ext(p)) {
				return err
			}
			b, err := os.ReadFile(p)
			h.Write([]byte(p))
			h.Write(b)
			return err
		})
		if err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(h.Sum(nil)), nil
})
