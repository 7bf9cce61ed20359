package media

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The programs see their file and nothing else, where the system allows it; where it
// doesn't, why is said.
func TestProgramsSeeTheirFileAlone(t *testing.T) {
	s := FindSandbox(context.Background())
	if why := s.Missing(); why != "" {
		t.Log("no sandbox here: " + why)
		assert.NotEmpty(t, why)
		return
	}
	out := peek(context.Background(), s, t.TempDir())
	assert.NotContains(t, out, "etc/passwd")
	assert.NotContains(t, out, "work")
	assert.Contains(t, out, "in")
}

// peek lists what a program sees at its root and in /etc.
func peek(ctx context.Context, s Sandbox, dir string) string {
	in := filepath.Join(dir, "clip")
	_ = os.WriteFile(in, []byte("x"), 0o600)
	cmd, _, ok := s.program(ctx, tool{name: "ls", seconds: probeTime, in: in, args: []string{"-1", "/", "/etc", "IN"}})
	if !ok {
		return ""
	}
	out, _ := cmd.Output()
	return string(out)
}
