package formats

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// Track is marker positions over time, in mm.
type Track struct {
	Rate    float64 // Hz
	Markers []string
	Frames  [][]Spot3 // by frame, in the order of Markers
}

// Spot3 is a place in space, mm; Known is false where the marker was not seen.
type Spot3 struct {
	X, Y, Z float64
	Known   bool
}

// Limits of a marker file.
const (
	TRCMost        = 200 << 20
	trcMarkersMost = 400
	trcFramesMost  = 500_000
	trcRateMost    = 2000
	trcLineMost    = 1 << 20
	trcFarthest    = 1e6 // mm: a kilometre
)

// errTRC is what is wrong with a marker file, and in which line.
func errTRC(line int, format string, a ...any) error {
	return fmt.Errorf("line %d: %s", line, fmt.Sprintf(format, a...))
}

// trcUnit is how many mm a unit has.
var trcUnit = map[string]float64{"mm": 1, "cm": 10, "m": 1000}

// ReadTRC reads a marker file: all of it or nothing. A marker that was not seen in
// a frame has empty fields or NaN. Errors name the line.
func ReadTRC(r io.Reader) (Track, error) {
	s := bufio.NewScanner(io.LimitReader(r, TRCMost+1))
	s.Buffer(make([]byte, 64<<10), trcLineMost)
	var t Track
	n, read := 0, 0
	next := func() ([]byte, bool) {
		if !s.Scan() {
			return nil, false
		}
		n++
		read += len(s.Bytes()) + 1
		return bytes.TrimRight(s.Bytes(), "\r"), true
	}
	head := make([]string, 5)
	for i := range head {
		l, ok := next()
		if !ok {
			if err := s.Err(); err != nil {
				return t, errTRC(n+1, "%s", err)
			}
			return t, errTRC(n+1, "the file ends in its header")
		}
		head[i] = string(l)
	}
	if !strings.HasPrefix(head[0], "PathFileType") {
		return t, errTRC(1, "expected PathFileType: this is not a marker file")
	}
	names, values := strings.Fields(head[1]), strings.Fields(head[2])
	if len(names) > len(values) || len(names) == 0 {
		return t, errTRC(3, "%d values for %d names", len(values), len(names))
	}
	field := map[string]string{}
	for i, name := range names {
		field[name] = values[i]
	}
	number := func(name string, most float64) (float64, error) {
		v, err := strconv.ParseFloat(field[name], 64)
		if err != nil || !(v > 0) || v > most {
			return 0, errTRC(3, "%s is %q; expected a number over 0 and up to %g", name, field[name], most)
		}
		return v, nil
	}
	var err error
	if t.Rate, err = number("DataRate", trcRateMost); err != nil {
		return Track{}, err
	}
	frames, err := number("NumFrames", trcFramesMost)
	if err != nil {
		return Track{}, err
	}
	markers, err := number("NumMarkers", trcMarkersMost)
	if err != nil {
		return Track{}, err
	}
	unit, ok := trcUnit[strings.ToLower(field["Units"])]
	if !ok {
		return Track{}, errTRC(3, "units are %q; expected mm, cm or m", field["Units"])
	}
	for i, name := range strings.Split(head[3], "\t") {
		if name = strings.TrimSpace(name); name != "" && i >= 2 {
			t.Markers = append(t.Markers, name)
		}
	}
	if len(t.Markers) != int(markers) {
		return Track{}, errTRC(4, "%d marker names; the header says %d", len(t.Markers), int(markers))
	}
	seen := map[string]bool{}
	for _, m := range t.Markers {
		if seen[m] {
			return Track{}, errTRC(4, "marker %q stands twice", m)
		}
		seen[m] = true
	}
	last := math.Inf(-1)
	t.Frames = make([][]Spot3, 0, min(int(frames), 1<<16))
	for {
		l, ok := next()
		if !ok {
			break
		}
		if len(bytes.TrimSpace(l)) == 0 {
			continue
		}
		if len(t.Frames) == int(frames) {
			return Track{}, errTRC(n, "more frames than the %d of the header", int(frames))
		}
		row, at, err := trcRow(l, len(t.Markers), unit)
		if err != nil {
			return Track{}, errTRC(n, "%s", err)
		}
		if at <= last {
			return Track{}, errTRC(n, "time %g s does not come after %g s", at, last)
		}
		last = at
		t.Frames = append(t.Frames, row)
	}
	switch {
	case s.Err() != nil:
		return Track{}, errTRC(n+1, "%s", s.Err())
	case read > TRCMost:
		return Track{}, errTRC(n, "the file is larger than %d MiB", TRCMost>>20)
	case len(t.Frames) != int(frames):
		return Track{}, errTRC(n, "%d frames; the header says %d", len(t.Frames), int(frames))
	}
	return t, nil
}

// trcRow reads one frame and its time.
func trcRow(l []byte, markers int, unit float64) ([]Spot3, float64, error) {
	cell := func() []byte {
		i := bytes.IndexByte(l, '\t')
		if i < 0 {
			c := l
			l = nil
			return bytes.TrimSpace(c)
		}
		c := l[:i]
		l = l[i+1:]
		return bytes.TrimSpace(c)
	}
	if _, err := strconv.Atoi(string(cell())); err != nil {
		return nil, 0, fmt.Errorf("the frame's number is not one")
	}
	at, err := strconv.ParseFloat(string(cell()), 64)
	if err != nil || math.IsNaN(at) || math.IsInf(at, 0) {
		return nil, 0, fmt.Errorf("the frame's time is not a number")
	}
	row := make([]Spot3, markers)
	for m := range row {
		var v [3]float64
		known := 0
		for k := range v {
			c := cell()
			if len(c) == 0 {
				continue
			}
			x, err := strconv.ParseFloat(string(c), 64)
			if err != nil {
				return nil, 0, fmt.Errorf("%q is not a number", c)
			}
			if math.IsNaN(x) {
				continue
			}
			if v[k] = x * unit; math.Abs(v[k]) > trcFarthest {
				return nil, 0, fmt.Errorf("%g is farther away than a kilometre", x)
			}
			known++
		}
		if known == 3 {
			row[m] = Spot3{v[0], v[1], v[2], true}
		}
	}
	if rest := bytes.TrimSpace(l); len(rest) > 0 {
		return nil, 0, fmt.Errorf("more values than three a marker")
	}
	return row, at, nil
}

// WriteTRC writes a track as a marker file in mm.
func WriteTRC(w io.Writer, name string, t Track) error {
	b := bufio.NewWriter(w)
	fmt.Fprintf(b, "PathFileType\t4\t(X/Y/Z)\t%s\n", strings.Map(func(r rune) rune {
		if r == '\t' || r == '\n' || r == '\r' {
			return ' '
		}
		return r
	}, name))
	fmt.Fprint(b, "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames\n")
	fmt.Fprintf(b, "%g\t%g\t%d\t%d\tmm\t%g\t1\t%d\n", t.Rate, t.Rate, len(t.Frames), len(t.Markers), t.Rate, len(t.Frames))
	fmt.Fprint(b, "Frame#\tTime")
	for _, m := range t.Markers {
		fmt.Fprintf(b, "\t%s\t\t", m)
	}
	fmt.Fprint(b, "\n\t")
	for i := range t.Markers {
		fmt.Fprintf(b, "\tX%d\tY%d\tZ%d", i+1, i+1, i+1)
	}
	fmt.Fprint(b, "\n")
	for i, row := range t.Frames {
		fmt.Fprintf(b, "%d\t%.6f", i+1, float64(i)/t.Rate)
		for _, p := range row {
			if !p.Known {
				fmt.Fprint(b, "\t\t\t")
				continue
			}
			fmt.Fprintf(b, "\t%.4f\t%.4f\t%.4f", p.X, p.Y, p.Z)
		}
		fmt.Fprint(b, "\n")
	}
	return b.Flush()
}
