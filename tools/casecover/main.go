// Command casecover stands in for the go command while mutants are tried. It hands
// every argument on and lets tests be short; where a coverage profile was asked for,
// it adds the conditions of switch cases to it. Go counts the bodies of cases but not
// their conditions, so without it no mutant of a case would ever be tried.
package main

import (
	"bufio"
	"cmp"
	"errors"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// realGo names the variable that holds the path of the real go command.
const realGo = "NOTCHBACK_REAL_GO"

func main() {
	profile := slices.Index(os.Args, "-coverprofile")
	args := os.Args[1:]
	if len(args) > 0 && args[0] == "test" {
		args = slices.Insert(slices.Clone(args), 1, "-short")
	}
	if profile >= 0 {
		// Never a kept result: how long this run takes is how long a mutant may.
		args = slices.Insert(args, 1, "-count=1")
	}
	cmd := exec.Command(cmp.Or(os.Getenv(realGo), "/usr/bin/go"), args...) //nolint:gosec // hands its own arguments on
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	if err := cmd.Run(); err != nil {
		var exit *exec.ExitError
		if errors.As(err, &exit) {
			os.Exit(exit.ExitCode())
		}
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	if profile < 0 || profile+1 >= len(os.Args) {
		return
	}
	if err := extend(os.Args[profile+1]); err != nil {
		fmt.Fprintln(os.Stderr, "casecover:", err)
		os.Exit(1)
	}
}

// block is one counted stretch of a file, as lines and columns.
type block struct{ fromLine, fromCol, toLine, toCol, count int }

func (b block) holds(line, col int) bool {
	return (line > b.fromLine || line == b.fromLine && col >= b.fromCol) &&
		(line < b.toLine || line == b.toLine && col <= b.toCol)
}

// within reports that b lies inside other.
func (b block) within(other block) bool {
	return other.holds(b.fromLine, b.fromCol) && other.holds(b.toLine, b.toCol)
}

// extend adds the case conditions of every file a profile names to it.
func extend(profile string) error {
	raw, err := os.ReadFile(profile) //nolint:gosec // a profile of ours
	if err != nil {
		return err
	}
	out, err := withCases(string(raw), func(name string) ([]byte, error) {
		_, rest, _ := strings.Cut(name, "/")
		return os.ReadFile(filepath.Clean(rest)) //nolint:gosec // a file of this module
	})
	if err != nil {
		return err
	}
	return os.WriteFile(profile, []byte(out), 0o600)
}

// withCases returns a profile with the conditions of all cases added; read
// returns the source of a file by its name in the profile.
func withCases(profile string, read func(name string) ([]byte, error)) (string, error) {
	blocks := map[string][]block{}
	var names []string
	lines := bufio.NewScanner(strings.NewReader(profile))
	for lines.Scan() {
		name, b, ok := parse(lines.Text())
		if !ok {
			continue
		}
		if _, seen := blocks[name]; !seen {
			names = append(names, name)
		}
		blocks[name] = append(blocks[name], b)
	}
	if err := lines.Err(); err != nil {
		return "", err
	}
	var out strings.Builder
	out.WriteString(strings.TrimRight(profile, "\n") + "\n")
	for _, name := range names {
		src, err := read(name)
		if err != nil {
			return "", err
		}
		added, err := cases(src, blocks[name])
		if err != nil {
			return "", fmt.Errorf("%s: %w", name, err)
		}
		for _, b := range added {
			fmt.Fprintf(&out, "%s:%d.%d,%d.%d 0 %d\n", name, b.fromLine, b.fromCol, b.toLine, b.toCol, b.count)
		}
	}
	return out.String(), nil
}

// parse reads a line of a profile: name:line.col,line.col statements count.
func parse(line string) (string, block, bool) {
	name, rest, ok := strings.Cut(line, ".go:")
	if !ok {
		return "", block{}, false
	}
	n := [6]int{}
	for i, f := range strings.FieldsFunc(rest, func(r rune) bool { return strings.ContainsRune("., ", r) }) {
		v, err := strconv.Atoi(f)
		if err != nil || i >= len(n) {
			return "", block{}, false
		}
		n[i] = v
	}
	return name + ".go", block{n[0], n[1], n[2], n[3], n[5]}, true
}

// cases lists the conditions of a file's switch cases, each counted as often as
// the statement its switch begins in.
func cases(src []byte, counted []block) ([]block, error) {
	files := token.NewFileSet()
	file, err := parser.ParseFile(files, "", src, 0)
	if err != nil {
		return nil, err
	}
	var out []block
	ast.Inspect(file, func(n ast.Node) bool {
		s, ok := n.(*ast.SwitchStmt)
		if !ok {
			return true
		}
		count := countAt(counted, files.Position(s.Pos()))
		for _, stmt := range s.Body.List {
			c, ok := stmt.(*ast.CaseClause)
			if !ok || len(c.List) == 0 {
				continue
			}
			from, to := files.Position(c.List[0].Pos()), files.Position(c.Colon)
			out = append(out, block{from.Line, from.Column, to.Line, to.Column, count})
		}
		return true
	})
	return out, nil
}

// countAt is the count of the innermost block that holds a place; 0 for none.
func countAt(counted []block, at token.Position) int {
	var best *block
	for i := range counted {
		b := &counted[i]
		if b.holds(at.Line, at.Column) && (best == nil || b.within(*best)) {
			best = b
		}
	}
	if best == nil {
		return 0
	}
	return best.count
}
