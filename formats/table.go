package formats

import (
	"encoding/csv"
	"io"
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
