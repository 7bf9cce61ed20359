package formats

import (
	"io"
	"strconv"
)

// ClipRow is one reading of a clip.
type ClipRow struct {
	Frame   int // from 1; 0 for what belongs to the whole clip
	Moment  string
	Side    string
	Measure string
	Value   float64
	Margin  float64
	Unit    string
	Class   string
	Verdict string
	Unsure  bool
	Source  string
}

// ClipCSV writes the readings of a clip as a table.
func ClipCSV(w io.Writer, rows []ClipRow) error {
	c := newTable(w)
	c.row("frame", "moment", "side", "measure", "value", "margin (95 %)", "unit", "class", "verdict", "unsure", "source")
	for _, r := range rows {
		frame, unsure := "", ""
		if r.Frame > 0 {
			frame = strconv.Itoa(r.Frame)
		}
		if r.Unsure {
			unsure = "yes"
		}
		c.row(frame, r.Moment, r.Side, r.Measure, strconv.FormatFloat(r.Value, 'f', 2, 64), strconv.FormatFloat(r.Margin, 'f', 2, 64), r.Unit, r.Class, r.Verdict, unsure, r.Source)
	}
	return c.done()
}
