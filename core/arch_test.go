// Package core holds no code of its own; its test keeps the house in order.
package core

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floor is how high a package stands; imports may only point down.
func floor(pkg string) int {
	for i, prefix := range []string{"notchback/core", "notchback/formats", "notchback/devices", "notchback/store", "notchback/app", "notchback/web", "notchback/cmd", "notchback/e2e"} {
		if pkg == prefix || strings.HasPrefix(pkg, prefix+"/") {
			return i
		}
	}
	return -1
}

// stairs are the floors within app, from below: what all rooms share, what people
// send, the record, what it shows, then the rooms, one for each use case, which
// never import each other.
var stairs = map[string]int{"notchback/app": 0, "notchback/app/strict": 0, "notchback/app/media": 1, "notchback/app/input": 1, "notchback/app/record": 2, "notchback/app/view": 3, "notchback/app/house": 5, "notchback/app/demo": 6}

func TestRoomsDoNotKnowEachOther(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "notchback/app/...").Output()
	require.NoError(t, err)
	step := func(pkg string) int {
		if n, ok := stairs[pkg]; ok {
			return n
		}
		return 4 // a room
	}
	rooms := 0
	for line := range strings.Lines(string(out)) {
		parts := strings.Fields(line)
		if step(parts[0]) == 4 {
			rooms++
		}
		for _, imp := range parts[1:] {
			if strings.HasPrefix(imp, "notchback/app") {
				assert.Less(t, step(imp), step(parts[0]), "%s looks into %s", parts[0], imp)
			}
		}
	}
	assert.Greater(t, rooms, 10)
}

// allowed are the only packages from outside that the core may use.
var allowed = map[string]bool{
	"gonum.org/v1/gonum/stat": true, "gonum.org/v1/gonum/stat/distuv": true, "go.yaml.in/yaml/v3": true,
}

// banned are parts of the standard library that would bring a clock, chance,
// files, the network or a log into the core.
var banned = []string{"net", "os", "log", "database/sql", "math/rand", "crypto/rand", "syscall"}

func TestImportsOnlyPointDown(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "notchback/...").Output()
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	require.Greater(t, len(lines), 10)
	for _, line := range lines {
		parts := strings.Fields(line)
		pkg := parts[0]
		if strings.HasPrefix(pkg, "notchback/internal/") || strings.HasPrefix(pkg, "notchback/tools/") {
			continue // beside the house: for tests and for making it
		}
		require.GreaterOrEqual(t, floor(pkg), 0, "%s stands on no floor", pkg)
		for _, imp := range parts[1:] {
			if strings.HasPrefix(imp, "notchback/") {
				assert.LessOrEqual(t, floor(imp), floor(pkg), "%s looks up to %s", pkg, imp)
				continue
			}
			if floor(pkg) > 0 {
				continue
			}
			if strings.Contains(strings.Split(imp, "/")[0], ".") {
				assert.True(t, allowed[imp], "%s uses %s", pkg, imp)
			}
			for _, b := range banned {
				assert.False(t, imp == b || strings.HasPrefix(imp, b+"/"), "%s uses %s", pkg, imp)
			}
		}
	}
}

var goes = regexp.MustCompile(`\bgo func\(|\.Go\(func\(`)

// A panic in a goroutine ends the program with everybody in it: each of the server's
// runs in safely, which a few lines from its beginning says.
func TestEveryGoroutineRecovers(t *testing.T) {
	const near = 12
	found := 0
	for _, room := range []string{"app", "web", "store", "cmd", "formats", "core"} {
		require.NoError(t, filepath.WalkDir("../"+room, func(path string, e os.DirEntry, err error) error {
			if err != nil || e.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			lines := strings.Split(string(raw), "\n")
			for i, l := range lines {
				if goes.MatchString(l) {
					found++
					assert.Contains(t, strings.Join(lines[i:min(i+near, len(lines))], "\n"), "afely(", "%s:%d begins a goroutine that can end the program", path, i+1)
				}
			}
			return nil
		}))
	}
	assert.Greater(t, found, 3)
}
