// Package core holds no code of its own; its test keeps the house in order.
package core

import (
	"os/exec"
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
