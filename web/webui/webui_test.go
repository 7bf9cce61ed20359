package webui_test

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"maps"
	"path"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/web/webui"
)

// What a first visit may cost, in bytes as they come over the line (house).
const (
	entryMost = 135_000 // the scripts every page begins with
	viewMost  = 206_000 // those and all that a view needs before it shows; 4 kB of it are what texts in a catalogue cost
	phoneMost = 120_000 // all scripts of the runner's phone
)

var (
	inPage    = regexp.MustCompile(`(?:src|href)="/(assets/[^"]+\.js)"`)
	needs     = regexp.MustCompile(`(?:from|import)\s*"\./([^"]+\.js)"`)
	whenAsked = regexp.MustCompile(`import\(\s*[` + "`" + `"]\./([^"` + "`" + `]+\.js)[` + "`" + `"]`)
)

func packed(t *testing.T, b []byte) int {
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	require.NoError(t, err)
	_, err = w.Write(b)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Len()
}

// The entry and every view stay small: on a mobile line in a club house they have to
// come up in a few seconds.
func TestViewsStaySmall(t *testing.T) {
	dist := webui.FS()
	page, err := fs.ReadFile(dist, "index.html")
	require.NoError(t, err, "build the front end first: make build")
	entry := map[string]bool{}
	for _, m := range inPage.FindAllStringSubmatch(string(page), -1) {
		entry[path.Base(m[1])] = true
	}
	require.NotEmpty(t, entry)
	// closure adds what a script needs at once, and notes what it may ask for later.
	later := map[string]bool{}
	var closure func(name string, seen map[string]int)
	closure = func(name string, seen map[string]int) {
		if _, ok := seen[name]; ok {
			return
		}
		b, err := fs.ReadFile(dist, "assets/"+name)
		require.NoError(t, err)
		seen[name] = packed(t, b)
		for _, m := range needs.FindAllStringSubmatch(string(b), -1) {
			closure(m[1], seen)
		}
		for _, m := range whenAsked.FindAllStringSubmatch(string(b), -1) {
			later[m[1]] = true
		}
	}
	sum := func(seen map[string]int) (n int) {
		for _, x := range seen {
			n += x
		}
		return n
	}
	first := map[string]int{}
	for name := range entry {
		closure(name, first)
	}
	for name := range later { // the language comes before what every page begins with
		if strings.HasPrefix(name, "start-") {
			closure(name, first)
		}
	}
	assert.LessOrEqual(t, sum(first), entryMost, "the entry: %v", first)
	views := map[string]bool{}
	for len(later) > 0 {
		for name := range later {
			delete(later, name)
			if _, ok := first[name]; ok || views[name] {
				continue
			}
			views[name] = true
			seen := maps.Clone(first)
			closure(name, seen)
			assert.LessOrEqual(t, sum(seen), viewMost, "%s with all it needs: %v", name, seen)
		}
	}
	assert.Greater(t, len(views), 15, "views were found")
	t.Logf("entry %d bytes, %d views", sum(first), len(views))
}

// The runner's phone has an entry of its own, small; what it asks for by itself is its
// start, and a language where one was chosen.
func TestThePhoneStaysSmall(t *testing.T) {
	dist := webui.FS()
	page, err := fs.ReadFile(dist, "pocket.html")
	require.NoError(t, err, "build the front end first: make build")
	seen, total := map[string]bool{}, 0
	var add func(name string)
	add = func(name string) {
		if seen[name] {
			return
		}
		seen[name] = true
		b, err := fs.ReadFile(dist, "assets/"+name)
		require.NoError(t, err)
		total += packed(t, b)
		for _, m := range needs.FindAllStringSubmatch(string(b), -1) {
			add(m[1])
		}
		for _, m := range whenAsked.FindAllStringSubmatch(string(b), -1) {
			assert.Regexp(t, `^(start|de)-`, m[1], "%s loads it later", name)
			add(m[1])
		}
	}
	for _, m := range inPage.FindAllStringSubmatch(string(page), -1) {
		add(path.Base(m[1]))
	}
	require.NotEmpty(t, seen)
	assert.LessOrEqual(t, total, phoneMost, "%v", seen)
	// All of it lies on the phone before it is offline for the first time.
	worker, err := fs.ReadFile(dist, "pocket-worker.js")
	require.NoError(t, err)
	for name := range seen {
		assert.Contains(t, string(worker), "assets/"+name)
	}
}
