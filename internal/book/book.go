// Package book keeps what a rule answers over its edges as a page that people can
// read: a text file beside the test. A changed answer fails the test until the page
// is written anew, with -rewrite, and read again.
package book

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var rewrite = flag.Bool("rewrite", false, "write the pages of rules anew")

// Page collects the lines of one page.
type Page struct{ b strings.Builder }

// Line adds a line.
func (p *Page) Line(format string, args ...any) {
	fmt.Fprintf(&p.b, format, args...)
	p.b.WriteByte('\n')
}

// Stands compares the page with the file of its name under testdata.
func (p *Page) Stands(t *testing.T, name string) {
	t.Helper()
	p.StandsAt(t, filepath.Join("testdata", name+".txt"))
}

// StandsAt compares the page with a file somewhere else.
func (p *Page) StandsAt(t *testing.T, path string) {
	t.Helper()
	if *rewrite {
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(p.b.String()), 0o644))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err, "write it with -rewrite, then read it")
	assert.Equal(t, strings.Split(string(want), "\n"), strings.Split(p.b.String(), "\n"))
}
