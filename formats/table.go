package formats

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// table writes comma-separated values (RFC 4180) that a spreadsheet takes for
// nothing but text and numbers.
type table struct{ c *csv.Writer }

func newTable(w io.Writer) table {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	return table{c}
}

func (t table) row(cells ...string) {
	for i, s := range cells {
		cells[i] = safeCell(s)
	}
	_ = t.c.Write(cells) // done returns it
}

func (t table) done() error {
	t.c.Flush()
	return t.c.Error()
}

// safeCell keeps a spreadsheet from taking a text for a formula.
func safeCell(s string) string {
	if s == "" || !strings.ContainsRune("=+-@\t\r\n", rune(s[0])) {
		return s
	}
	if _, err := strconv.ParseFloat(s, 64); err == nil && s[0] != '=' {
		return s
	}
	return "'" + s
}

// AnyCSV writes rows of any shape: their keys are the columns, in order of the alphabet;
// what is no text or number stands as JSON.
func AnyCSV(w io.Writer, rows []map[string]any) error {
	keys := map[string]bool{}
	for _, r := range rows {
		for k := range r {
			keys[k] = true
		}
	}
	head := slices.Sorted(maps.Keys(keys))
	c := newTable(w)
	c.row(slices.Clone(head)...)
	for _, r := range rows {
		cells := make([]string, len(head))
		for i, k := range head {
			switch v := r[k].(type) {
			case nil:
			case string:
				cells[i] = v
			default:
				raw, err := json.Marshal(v)
				if err != nil {
					return err
				}
				cells[i] = string(raw)
			}
		}
		c.row(cells...)
	}
	return c.done()
}
