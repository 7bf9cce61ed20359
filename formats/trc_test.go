package formats

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func small() Track {
	return Track{Rate: 240, Markers: []string{"right-knee", "left-heel"}, Frames: [][]Spot3{
		{{1, 2, 3, true}, {4.5, -6.25, 7, true}},
		{{1.5, 2, 3, true}, {}},
		{{2, 2.125, 3, true}, {5, -6, 7, true}},
	}}
}

func TestTRCRoundTrip(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, WriteTRC(&b, "a run\tof marks", small()))
	got, err := ReadTRC(bytes.NewReader(b.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, small(), got, "a marker that was not seen stays unknown")
	// Other units, other line ends, blank lines at the end.
	cm := strings.ReplaceAll(b.String(), "\tmm\t", "\tcm\t")
	got, err = ReadTRC(strings.NewReader(strings.ReplaceAll(cm, "\n", "\r\n") + "\r\n\r\n"))
	require.NoError(t, err)
	assert.InDelta(t, 45, got.Frames[0][1].X, 1e-9)
	got, err = ReadTRC(strings.NewReader(strings.Replace(b.String(), "4.5000", "NaN", 1)))
	require.NoError(t, err)
	assert.False(t, got.Frames[0][1].Known, "not a number is not seen")
}

func TestTRCSaysWhereItIsBroken(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, WriteTRC(&b, "x", small()))
	good := b.String()
	for words, text := range map[string]string{
		"line 1: expected PathFileType":       "hello\n" + strings.SplitN(good, "\n", 2)[1],
		"ends in its header":                  strings.Join(strings.SplitN(good, "\n", 4)[:3], "\n"),
		"line 3: units":                       strings.Replace(good, "\tmm\t", "\tinch\t", 1),
		"line 3: DataRate":                    strings.Replace(good, "\n240\t", "\n-1\t", 1),
		"NumMarkers":                          strings.Replace(good, "\t3\t2\tmm", "\t3\t900\tmm", 1),
		"line 4: 2 marker names":              strings.Replace(good, "\t3\t2\tmm", "\t3\t3\tmm", 1),
		"line 4: marker \"left-heel\" stands": strings.Replace(good, "right-knee", "left-heel", 1),
		"3 frames; the header says 4":         strings.Replace(good, "\t3\t2\tmm", "\t4\t2\tmm", 1),
		"more frames than the 2":              strings.Replace(good, "\t3\t2\tmm", "\t2\t2\tmm", 1),
		"line 6: \"abc\" is not a number":     strings.Replace(good, "4.5000", "abc", 1),
		"farther away":                        strings.Replace(good, "4.5000", "1e12", 1),
		"does not come after":                 strings.Replace(good, "\n2\t0.004167", "\n2\t0.000000", 1),
		"frame's number":                      strings.Replace(good, "\n2\t0.004167", "\nx\t0.004167", 1),
		"more values than three":              strings.Replace(good, "7.0000\n2\t", "7.0000\t9\n2\t", 1),
		"values for":                          strings.Replace(good, "\tmm\t240\t1\t3\n", "\n", 1),
	} {
		_, err := ReadTRC(strings.NewReader(text))
		require.ErrorContains(t, err, words)
	}
	_, err := ReadTRC(strings.NewReader(""))
	require.Error(t, err)
}

func FuzzTRC(f *testing.F) {
	var b bytes.Buffer
	require.NoError(f, WriteTRC(&b, "x", small()))
	f.Add(b.Bytes())
	f.Add([]byte("PathFileType\t4\n\n\n\n\n"))
	f.Fuzz(func(t *testing.T, in []byte) {
		got, err := ReadTRC(bytes.NewReader(in))
		if err != nil {
			return
		}
		var out bytes.Buffer
		require.NoError(t, WriteTRC(&out, "again", got))
		again, err := ReadTRC(&out)
		require.NoError(t, err)
		assert.Len(t, again.Frames, len(got.Frames))
		assert.Equal(t, got.Markers, again.Markers)
	})
}

// 60 s at 240 Hz with 30 markers.
func BenchmarkTRC(b *testing.B) {
	t := Track{Rate: 240}
	for i := range 30 {
		t.Markers = append(t.Markers, "m"+string(rune('A'+i)))
	}
	for i := range 14_400 {
		row := make([]Spot3, 30)
		for m := range row {
			row[m] = Spot3{float64(i), float64(m) * 1.25, 3.125, true}
		}
		t.Frames = append(t.Frames, row)
	}
	var buf bytes.Buffer
	require.NoError(b, WriteTRC(&buf, "x", t))
	for b.Loop() {
		if _, err := ReadTRC(bytes.NewReader(buf.Bytes())); err != nil {
			b.Fatal(err)
		}
	}
}

// FuzzDrawnTRC draws marker files line by line: heads that say other numbers than
// there are, columns too many or missing.
func FuzzDrawnTRC(f *testing.F) {
	f.Add([]byte{0, 1, 2, 3, 4, 5, 6})
	f.Add([]byte{0, 1, 2, 3, 4, 4, 4, 6, 7, 8})
	f.Fuzz(func(t *testing.T, program []byte) {
		lines := []string{"PathFileType\t4\t(X/Y/Z)\tx", "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits", "100\t100\t2\t2\tmm", "Frame#\tTime\ta\t\t\tb\t\t", "\t\tX1\tY1\tZ1\tX2\tY2\tZ2",
			"1\t0.00\t1\t2\t3\t4\t5\t6", "2\t0.01\t1\t2\t3\t\t\t", "x\ty", "", "3\t0.02\tNaN\t1e300\t-1\t4\t5\t6\t7", "0\t0\t-1\t0\tm", "100\t100\t999999999\t99999\tcm", "Frame#\tTime\ta\t\t\ta\t\t"}
		var b bytes.Buffer
		for _, p := range program {
			b.WriteString(lines[int(p)%len(lines)] + "\n")
		}
		got, err := ReadTRC(&b)
		if err != nil {
			return
		}
		for _, row := range got.Frames {
			assert.Len(t, row, len(got.Markers))
		}
	})
}
