package formats

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/activity"
	"notchback/devices"
)

// open reads a file of any dialect, packed or a table among them.
func open(d devices.Dialect) ([]RunFile, error) {
	in, err := Unpack(d.Name, d.Data)
	if err != nil {
		return nil, err
	}
	if kind, err := Sniff(in[0].Data); err == nil && kind == "csv" {
		t, err := LookAtTable(in[0].Data)
		if err != nil {
			return nil, err
		}
		if t.Mapping.Date < 0 { // a heading in another language is mapped by hand
			t.Mapping.Date = 0
		}
		return ReadRunTable(in[0].Data, t.Mapping, atNow)
	}
	return ReadRuns(in[0].Data, atNow)
}

// Every dialect of the stand-in watch is read as what it is: kind, start to the second,
// distance within half a per cent, moving time to the second, cadence within half a step.
func TestEveryDialectIsReadAsWhatItIs(t *testing.T) {
	list := devices.Dialects(outing, 3)
	require.Greater(t, len(list), 50)
	for _, d := range list {
		runs, err := open(d)
		if d.Refused != "" {
			require.Error(t, err, d.Name)
			assert.Contains(t, err.Error(), d.Refused, d.Name)
			continue
		}
		if !assert.NoError(t, err, d.Name) || !assert.Len(t, runs, len(d.Truth), d.Name) {
			continue
		}
		for i, want := range d.Truth {
			got := runs[i]
			name := fmt.Sprintf("%s, %d: %v", d.Name, i, got.What.Why)
			assert.Equal(t, activity.Kind(want.What), got.What.Kind, name)
			if want.Metres == 0 {
				continue
			}
			assert.InEpsilon(t, want.Metres, got.Metres, 0.005, name)
			assert.InDelta(t, want.Seconds, got.Seconds, 1, name)
			if !want.Start.IsZero() && got.Kind != "csv" {
				assert.True(t, want.Start.Equal(got.Start), "%s: %s is not %s", name, got.Start, want.Start)
			} else if !want.Start.IsZero() {
				assert.Equal(t, want.Start.Format("2006-01-02T15:04:05"), got.Local, name)
			}
			if want.What == "other" {
				continue
			}
			if want.Cadence > 0 {
				if assert.NotNil(t, got.CadenceSpm, name) {
					assert.InDelta(t, want.Cadence, *got.CadenceSpm, 0.5, name)
				}
			}
			if want.Contact > 0 && assert.NotNil(t, got.Dynamics, name) {
				assert.InDelta(t, want.Contact, *got.Dynamics.ContactMs, 0.5, name)
			}
			if want.Effort > 0 && assert.NotNil(t, got.Effort, name) {
				assert.Equal(t, want.Effort, *got.Effort, name)
			}
			if want.Laps > 0 {
				assert.Len(t, got.Laps, want.Laps, name)
			}
			if got.Kind != "csv" {
				assert.Equal(t, want.Points, len(got.Track) > 0, name)
			}
			if want.Offset != 0 && assert.NotNil(t, got.Offset, name) {
				assert.Equal(t, want.Offset, *got.Offset, name)
			}
		}
	}
}

// Of several outings in one file each has its own records, and nothing of another's.
func TestEachOutingHasItsOwnRecords(t *testing.T) {
	for _, d := range devices.Dialects(outing, 3) {
		if d.Name != "two runs.fit" && d.Name != "three sports.fit" {
			continue
		}
		runs, err := ReadRuns(d.Data, atNow)
		require.NoError(t, err)
		for _, r := range runs {
			require.NotEmpty(t, r.Track)
			last := r.Track[len(r.Track)-1]
			assert.GreaterOrEqual(t, r.Track[0].At, 0)
			assert.LessOrEqual(t, last.At, r.Elapsed+1, "%s of %s", d.Name, r.Start)
			moved := 0.0
			for i := 1; i < len(r.Track); i++ {
				moved += haversine(r.Track[i-1].Lat, r.Track[i-1].Lon, r.Track[i].Lat, r.Track[i].Lon)
			}
			assert.InEpsilon(t, float64(r.Metres), moved, 0.02, "%s of %s: %d points", d.Name, r.Start, len(r.Track))
		}
	}
}

func gz(b []byte) []byte {
	var out bytes.Buffer
	z := gzip.NewWriter(&out)
	_, _ = z.Write(b)
	_ = z.Close()
	return out.Bytes()
}

func zipped(t testing.TB, files map[string][]byte) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, b := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(b)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

// What is packed is opened once, within limits; what is deeper or larger is said by name.
func TestPackedFilesWithinLimits(t *testing.T) {
	good := files(t)
	one := func(name string, b []byte) []Inside {
		in, err := Unpack(name, b)
		require.NoError(t, err)
		return in
	}
	in := one("run.fit.gz", gz(good["fit"]))
	assert.Equal(t, "run.fit", in[0].Name)
	assert.Equal(t, good["fit"], in[0].Data)
	in = one("all.zip", zipped(t, map[string][]byte{"a/run.fit": good["fit"], "a/run.gpx.gz": gz(good["gpx"]), "__MACOSX/x": []byte("no"), ".hidden": []byte("no"), "deep.zip": zipped(t, map[string][]byte{"x": []byte("y")}), "twice.gz": gz(gz([]byte("x")))}))
	require.Len(t, in, 4)
	errs := map[string]string{}
	for _, f := range in {
		if f.Err != nil {
			errs[f.Name] = f.Err.Error()
		}
	}
	assert.Len(t, errs, 2)
	assert.Contains(t, errs["deep.zip"], "zip inside a zip")
	assert.Contains(t, errs["twice.gz"], "more than twice")
	assert.Len(t, one("zip.gz", gz(zipped(t, map[string][]byte{"a.fit": good["fit"]}))), 1)
	refused := func(b []byte, why string) {
		t.Helper()
		_, err := Unpack("x", b)
		assert.ErrorContains(t, err, why)
	}
	refused(gz(gz([]byte("x"))), "packed twice")
	refused(gz(make([]byte, RunPackMost+1)), "more than 64 MB")
	refused([]byte("PK\x03\x04 and nothing"), "damaged")
	refused([]byte("\x1f\x8b and nothing"), "damaged")
	refused(make([]byte, RunPackMost+1), "at most 64 MB")
	many := map[string][]byte{}
	for i := range mostInside + 1 {
		many[fmt.Sprintf("%d.fit", i)] = nil
	}
	refused(zipped(t, many), "more than 2000 files")
	refused(zipped(t, map[string][]byte{"a/": nil}), "no file")
	bomb := one("bomb.zip", zipped(t, map[string][]byte{"a": make([]byte, RunFileMost+1)}))
	assert.ErrorContains(t, bomb[0].Err, "more than 25 MB")
	whole := map[string][]byte{}
	for i := range mostWhole/RunFileMost + 2 {
		whole[fmt.Sprint(i)] = make([]byte, RunFileMost)
	}
	refused(zipped(t, whole), "more than 256 MB")
}

// New Year, the change of summer time and a run over midnight keep their moment.
func TestRunsAtTheEdgesOfTheCalendar(t *testing.T) {
	for _, start := range []string{"2025-12-31T23:40:00Z", "2026-03-29T00:50:00Z", "2026-10-25T00:50:00Z", "2024-02-29T06:00:00Z"} {
		o := outing
		var err error
		o.Start, err = time.Parse(time.RFC3339, start)
		require.NoError(t, err)
		for _, write := range []func(uint64) ([]byte, error){o.FIT, o.GPX, o.TCX} {
			b, err := write(1)
			require.NoError(t, err)
			runs, err := ReadRuns(b, atNow)
			require.NoError(t, err)
			assert.True(t, o.Start.Equal(runs[0].Start), start)
			assert.InDelta(t, o.Seconds(), runs[0].Seconds, 1)
		}
	}
}

// No library's words reach a coach.
func TestErrorsAreInPlainWords(t *testing.T) {
	good := files(t)
	for ext, b := range good {
		for cut := 1; cut < len(b); cut += len(b)/40 + 1 {
			_, err := ReadRuns(b[:cut], atNow)
			if err == nil {
				continue
			}
			for _, jargon := range []string{"EOF", "byte pos", "decode", "XML syntax", "strconv", "crc", "unexpected", "nil"} {
				assert.NotContains(t, err.Error(), jargon, "%s cut at %d", ext, cut)
			}
			assert.False(t, strings.Contains(err.Error(), "\n"))
		}
	}
}

// A run of any kind keeps its numbers from format to format.
func TestRunsKeepTheirNumbersAcrossFormats(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		o := devices.Outing{Start: outing.Start.Add(-time.Duration(rapid.IntRange(0, 400*24).Draw(t, "hours")) * time.Hour), Metres: rapid.Float64Range(1200, 7000).Draw(t, "metres"),
			PaceSecond: rapid.Float64Range(220, 520).Draw(t, "pace"), Cadence: rapid.Float64Range(150, 195).Draw(t, "cadence")}
		b, err := o.FIT(rapid.Uint64().Draw(t, "seed"))
		require.NoError(t, err)
		was, err := ReadRuns(b, atNow)
		require.NoError(t, err)
		for _, write := range []func(w io.Writer, rows []RunRow) (int, error){RunsTCX, RunsGPX, RunsTCX} {
			var out bytes.Buffer
			n, err := write(&out, []RunRow{{RunFile: was[0]}})
			require.NoError(t, err)
			require.Equal(t, 1, n)
			now, err := ReadRuns(out.Bytes(), atNow)
			require.NoError(t, err)
			require.Len(t, now, 1)
			require.True(t, was[0].Start.Equal(now[0].Start))
			require.InDelta(t, o.Metres, now[0].Metres, 1+0.005*o.Metres)
			require.InDelta(t, o.Seconds(), now[0].Seconds, 1)
			require.Equal(t, activity.Run, now[0].What.Kind)
			if c := now[0].CadenceSpm; c != nil {
				require.InDelta(t, *was[0].CadenceSpm, *c, 0.5)
			}
			require.Len(t, now[0].Track, len(was[0].Track))
			was = now
		}
	})
}

// Laps that make up a run are written as laps and read again.
func TestLapsGoOutAndComeBack(t *testing.T) {
	for _, d := range devices.Dialects(outing, 3) {
		if d.Name != "laps.tcx" && d.Name != "intervals.fit" {
			continue
		}
		was, err := ReadRuns(d.Data, atNow)
		require.NoError(t, err)
		var out bytes.Buffer
		_, err = RunsTCX(&out, []RunRow{{RunFile: was[0]}})
		require.NoError(t, err)
		now, err := ReadRuns(out.Bytes(), atNow)
		require.NoError(t, err)
		sum := 0
		for _, l := range was[0].Laps {
			sum += l.Seconds
		}
		if sum == was[0].Seconds {
			assert.Len(t, now[0].Laps, len(was[0].Laps), d.Name)
		}
		assert.Equal(t, was[0].Seconds, now[0].Seconds, d.Name)
		assert.Len(t, now[0].Track, len(was[0].Track), d.Name)
	}
}
