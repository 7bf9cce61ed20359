package words

import (
	"go/ast"
	"go/parser"
	"go/token"
	"maps"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/internal/book"
)

var letters = regexp.MustCompile(`[A-Za-z]{2}`)

// sentences are the texts that stand in this package's code.
func sentences(t *testing.T) map[string]bool {
	t.Helper()
	out := map[string]bool{}
	files, err := os.ReadDir(".")
	require.NoError(t, err)
	for _, f := range files {
		if !strings.HasSuffix(f.Name(), ".go") || strings.HasSuffix(f.Name(), "_test.go") {
			continue
		}
		tree, err := parser.ParseFile(token.NewFileSet(), f.Name(), nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(tree, func(n ast.Node) bool {
			switch x := n.(type) {
			case *ast.ImportSpec, *ast.StructType:
				return false
			case *ast.BasicLit:
				if s, err := strconv.Unquote(x.Value); x.Kind == token.STRING && err == nil && letters.MatchString(s) && !strings.HasPrefix(s, "de.yaml") {
					out[s] = true
				}
			}
			return true
		})
	}
	return out
}

// data are the texts that stand in the data of other packages and are read as they are.
func data(t *testing.T) map[string]bool {
	t.Helper()
	out := map[string]bool{}
	add := func(list ...string) {
		for _, s := range list {
			if s != "" {
				out[s] = true
			}
		}
	}
	for _, age := range []screening.Age{{Known: true, Years: 40}, {Known: true, Years: 14}, {}} {
		for _, g := range safety.Questions(age) {
			add(g.Name)
			for _, q := range g.Questions {
				add(q.Text)
			}
		}
	}
	add(safety.Signs(safety.Emergency)...)
	add(safety.Signs(safety.Refer)...)
	add(safety.Cautions...)
	for _, z := range screening.Zones {
		add(z.Name)
	}
	for _, x := range screening.Tests() {
		add(x.Name, x.Cue, x.SetUp)
		for _, c := range x.Compensations {
			add(c.Name)
		}
	}
	shelf, err := catalogue.BuiltIn()
	require.NoError(t, err)
	for _, l := range shelf.Ladders {
		add(l.Name)
	}
	for _, e := range shelf.Exercises {
		add(e.Name, e.Short, e.SetUp)
		add(e.Cues...)
		add(e.Mistakes...)
		add(e.Cautions...)
	}
	for _, k := range shelf.Kit {
		add(k.Name)
	}
	said := adjust.SaidAs()
	for _, c := range slices.Concat(said.Done, said.Compensated) {
		add(c.Words)
	}
	kinds := []planning.RunKind{planning.Easy, planning.Long, planning.Fast}
	for _, a := range kinds {
		add(Runs(a, planning.NoRun, nil))
		for _, b := range kinds {
			add(Runs(a, b, nil))
		}
	}
	for _, s := range []body.Side{body.Left, body.Right} {
		add(string(s))
	}
	// Said by the rooms over the core, of the runner alone.
	add(safety.OwnGroup, "in general", "before the run", "at least two hours after the run",
		"Told on %s; the safety questions are open. Until they are answered, what they could close is closed.",
		"Pain during work: 0 to 3 fine; 4 or 5 go on slower; 6 or more ends that exercise; 8 or more, numbness or a limp ends the session: a clinician looks first.",
		"The next morning decides: first steps as usual or one more are fine; two more than usual means less next time.",
		"A missed day is not made up by doubling.")
	return out
}

// The English texts of the core are one file too, gathered from where they stand: what
// another language begins with. It is written anew with -rewrite.
func TestTheEnglishTextsAreGathered(t *testing.T) {
	all := sentences(t)
	maps.Copy(all, data(t))
	list := slices.Sorted(maps.Keys(all))
	assert.Greater(t, len(list), 1500)
	raw, err := yaml.Marshal(list)
	require.NoError(t, err)
	var p book.Page
	p.Line("# All English texts of the core, gathered from where they stand: sentences with their places as %%s and %%d.")
	p.Line("# Made by go test ./core/words -rewrite; de.yaml has their German, as far as it goes.")
	p.Line("%s", strings.TrimRight(string(raw), "\n"))
	p.StandsAt(t, "en.yaml")
	// A translation of a text that is not said any more is out.
	for english := range german {
		assert.True(t, all[english], "nobody says %q any more", english)
	}
}
