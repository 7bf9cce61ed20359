package formats

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/muktihari/fit/decoder"
	"github.com/muktihari/fit/kit/hash/crc16"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"pgregory.net/rapid"

	"notchback/core/activity"
	"notchback/core/day"
	"notchback/devices"
)

var (
	atNow  = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	outing = devices.Outing{Start: time.Date(2026, 11, 20, 7, 12, 30, 0, time.UTC), Metres: 10_000, PaceSecond: 345, Cadence: 168}
)

func files(t testing.TB) map[string][]byte {
	out := map[string][]byte{}
	for ext, write := range map[string]func(uint64) ([]byte, error){"fit": outing.FIT, "tcx": outing.TCX, "gpx": outing.GPX} {
		b, err := write(3)
		require.NoError(t, err)
		out[ext] = b
	}
	return out
}

func TestTheSameRunInThreeFormats(t *testing.T) {
	for ext, b := range files(t) {
		runs, err := ReadRuns(b, atNow)
		require.NoError(t, err, ext)
		require.Len(t, runs, 1, ext)
		r := runs[0]
		assert.Equal(t, ext, r.Kind)
		assert.True(t, r.Start.Equal(outing.Start), "%s starts %s", ext, r.Start)
		assert.InDelta(t, outing.Metres, r.Metres, 0.01*outing.Metres, ext)
		assert.InDelta(t, outing.Seconds(), r.Seconds, 6, ext)
		require.NotNil(t, r.CadenceSpm, ext)
		assert.InDelta(t, 168, *r.CadenceSpm, 2, "%s: counted on one foot and doubled", ext)
		assert.True(t, r.Doubled)
		assert.NotEmpty(t, r.Track)
	}
}

// Debian's general GPS converter turns one run into the other formats; all are
// read as the same run: distance within 1 %, the same start.
func TestConvertedRunsAreTheSameRun(t *testing.T) {
	list, err := exec.Command("gpsbabel", "-^3").Output()
	require.NoError(t, err, "the tests need gpsbabel: run them with make test")
	named := func(ext string) string { // the converter's own name of a format
		for _, line := range strings.Split(string(list), "\n") {
			f := strings.Split(line, "\t")
			if len(f) > 4 && f[0] == "file" && strings.HasPrefix(f[3], ext) {
				return f[2]
			}
		}
		t.Fatalf("no format for %s", ext)
		return ""
	}
	dir := t.TempDir()
	src := filepath.Join(dir, "run.gpx")
	require.NoError(t, os.WriteFile(src, files(t)["gpx"], 0o600))
	for ext, options := range map[string]string{"tcx": ",course=0,sport=Running", "fit": "", "gpx": ""} {
		to := filepath.Join(dir, "out."+ext)
		out, err := exec.Command("gpsbabel", "-t", "-i", "gpx", "-f", src, "-o", named(ext)+options, "-F", to).CombinedOutput()
		require.NoError(t, err, "%s: %s", ext, out)
		b, err := os.ReadFile(to)
		require.NoError(t, err)
		runs, err := ReadRuns(b, atNow)
		if ext == "fit" { // the converter writes a course to follow, and nobody has run it
			require.ErrorContains(t, err, "a course to follow")
			continue
		}
		require.NoError(t, err, ext)
		require.NotEmpty(t, runs, ext)
		assert.Equal(t, activity.Run, runs[0].What.Kind, "%s: %v", ext, runs[0].What.Why)
		assert.InDelta(t, outing.Metres, runs[0].Metres, 0.01*outing.Metres, ext)
		assert.Less(t, math.Abs(runs[0].Start.Sub(outing.Start).Seconds()), 2.0, ext)
	}
	// And what we write is read by it.
	f, err := ReadRuns(files(t)["fit"], atNow)
	require.NoError(t, err)
	var b bytes.Buffer
	n, err := RunsGPX(&b, []RunRow{{RunFile: f[0], On: day.Make(2026, 11, 20)}, {RunFile: RunFile{Metres: 4}, On: day.Make(2026, 11, 21)}})
	require.NoError(t, err)
	assert.Equal(t, 1, n, "a run without a track is not written")
	ours := filepath.Join(dir, "ours.gpx")
	require.NoError(t, os.WriteFile(ours, b.Bytes(), 0o600))
	out, err := exec.Command("gpsbabel", "-t", "-i", "gpx", "-f", ours, "-o", "gpx", "-F", filepath.Join(dir, "again.gpx")).CombinedOutput()
	require.NoError(t, err, string(out))
	again, err := ReadRuns(b.Bytes(), atNow)
	require.NoError(t, err)
	assert.InDelta(t, f[0].Metres, again[0].Metres, 0.01*outing.Metres)
}

// decoderFiles are the activity files the decoder's own module ships.
func decoderFiles(t testing.TB) []string {
	out, err := exec.Command("go", "list", "-m", "-json", "github.com/muktihari/fit").Output()
	require.NoError(t, err)
	var m struct{ Dir string }
	require.NoError(t, json.Unmarshal(out, &m))
	var list []string
	require.NoError(t, filepath.WalkDir(filepath.Join(m.Dir, "testdata"), func(p string, d os.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(p, ".fit") {
			list = append(list, p)
		}
		return err
	}))
	require.Greater(t, len(list), 10)
	return list
}

func TestTheDecodersOwnFiles(t *testing.T) {
	read, refused := 0, 0
	for _, p := range decoderFiles(t) {
		b, err := os.ReadFile(p)
		require.NoError(t, err)
		runs, err := ReadRuns(b, atNow)
		if err != nil {
			refused++
			assert.NotEmpty(t, err.Error(), p)
			continue
		}
		read++
		for _, r := range runs {
			if r.What.Kind != activity.Other {
				assert.Positive(t, r.Seconds, p)
			}
			assert.LessOrEqual(t, r.Metres, mostRunMetres)
		}
	}
	t.Logf("%d files read, %d refused with a reason", read, refused)
	assert.Positive(t, read)
	assert.Positive(t, refused, "swims, weights and settings are not runs")
}

const gpxHead = `<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`

func gpx(points ...string) string {
	return gpxHead + `<trk><trkseg>` + strings.Join(points, "") + `</trkseg></trk></gpx>`
}

func point(lat, lon float64, at string) string {
	return fmt.Sprintf(`<trkpt lat="%f" lon="%f"><time>%s</time></trkpt>`, lat, lon, at)
}

func TestHostileAndDamagedFiles(t *testing.T) {
	good := files(t)
	cut := func(b []byte, n int) string { return string(b[:n]) }
	crc := bytes.Clone(good["fit"])
	crc[len(crc)-1] ^= 0x5a
	deep := gpxHead + strings.Repeat("<a>", 500) + strings.Repeat("</a>", 500) + "</gpx>"
	for name, k := range map[string]struct{ file, want string }{
		"empty":            {"", "empty"},
		"zip":              {"PK\x03\x04rest of it", "packed"},
		"gzip":             {"\x1f\x8b\x08 rest", "packed"},
		"a picture":        {"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR", "not a run file"},
		"words":            {"hello", "not a run file"},
		"other XML":        {"<kml></kml>", "neither GPX nor TCX"},
		"cut FIT header":   {cut(good["fit"], 13), "damaged"},
		"wrong CRC":        {string(crc), "damaged"},
		"cut TCX":          {cut(good["tcx"], len(good["tcx"])/2), "damaged"},
		"cut GPX":          {cut(good["gpx"], len(good["gpx"])/2), "damaged"},
		"entity bomb":      {`<!DOCTYPE b [<!ENTITY a "aaaa"><!ENTITY c "&a;&a;&a;">]>` + gpx(point(1, 1, "&c;")), "document type"},
		"deep nesting":     {deep, "too deep"},
		"no time":          {gpxHead + `<trk><trkseg><trkpt lat="1" lon="1"></trkpt></trkseg></trk></gpx>`, "no times"},
		"off the globe":    {gpx(point(91, 0, "2026-05-04T06:00:00Z")), "place on the globe"},
		"letters as place": {gpxHead + `<trk><trkseg><trkpt lat="north" lon="1"></trkpt></trkseg></trk></gpx>`, "not a number"},
		"backwards":        {gpx(point(1, 1, "2026-05-04T06:10:00Z"), point(1, 1.001, "2026-05-04T06:00:00Z")), "backwards"},
		"1970":             {gpx(point(1, 1, "1970-01-01T00:00:10Z"), point(1, 1.001, "1970-01-01T00:01:00Z")), "time can't be"},
		"2099":             {gpx(point(1, 1, "2099-05-04T06:00:00Z"), point(1, 1.001, "2099-05-04T06:01:00Z")), "time can't be"},
		"no run":           {gpxHead + "</gpx>", "no run"},
		"negative":         {strings.Replace(string(good["tcx"]), "<DistanceMeters>10000</DistanceMeters>", "<DistanceMeters>-5</DistanceMeters>", 1), "negative"},
		"900 km":           {strings.Replace(strings.Replace(string(good["tcx"]), "<DistanceMeters>10000</DistanceMeters>", "<DistanceMeters>900000</DistanceMeters>", 1), "<TotalTimeSeconds>3450</TotalTimeSeconds>", "<TotalTimeSeconds>172000</TotalTimeSeconds>", 1), "300"},
		"another script":   {strings.Replace(string(good["tcx"]), `encoding="UTF-8"`, `encoding="KLINGON"`, 1), "can't be read"},
	} {
		runs, err := ReadRuns([]byte(k.file), atNow)
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), k.want, name)
		assert.Empty(t, runs, name)
		var re *ReadError
		assert.True(t, errors.As(err, &re), name)
	}
	_, err := ReadRuns(make([]byte, RunFileMost+1), atNow)
	assert.ErrorContains(t, err, "at most 25 MB")
	runs, err := ReadRuns(good["tcx"], atNow)
	require.NoError(t, err)
	require.Len(t, runs, 1)
}

func TestTablesAreReadWithTheirColumnsMapped(t *testing.T) {
	table := "Date;Start time;Distance (km);Duration;Effort;Shoe;Note\n24/11/2026;06:40;10,5;1:02:10;4;everyday;easy\n25/11/2026;;8;45:30;;bare;\"a, b\"\n"
	got, err := LookAtTable([]byte(table))
	require.NoError(t, err)
	assert.Equal(t, 2, got.Count)
	assert.Equal(t, "dmy", got.Mapping.DateOrder)
	assert.Equal(t, 3, got.Mapping.Duration)
	runs, err := ReadRunTable([]byte(table), got.Mapping, atNow)
	require.NoError(t, err)
	require.Len(t, runs, 2)
	assert.Equal(t, 10500, runs[0].Metres)
	assert.Equal(t, 3730, runs[0].Seconds)
	assert.Equal(t, "2026-11-24T06:40:00", runs[0].Local)
	assert.Equal(t, 4, *runs[0].Effort)
	assert.Equal(t, "bare", runs[1].Footwear)
	assert.Nil(t, runs[1].Effort)
	assert.Equal(t, "a, b", runs[1].Note)
	for bad, want := range map[string]string{
		"date,km,min\n2026-11-24,ten,50\n":       "row 2, column 2",
		"date,km,min\n2026-13-24,10,50\n":        "not a date",
		"date,km,min\n2026-02-30,10,50\n":        "not a day of the calendar",
		"date,km,min\n2026-11-24,10,50\n1,2,3\n": "row 3",
		"date,km,min\n2099-11-24,10,50\n":        "can't be",
		"date,km,min\n2026-11-24,900,3000\n":     "48",
		"date,km,min\n2026-11-24,-3,50\n":        "negative",
		"date,km,min\n2026-11-24,10\n":           "line 2",
		"date,km,min\n":                          "at least one row",
		"date,km,min\n2026-11-24,10,5:99\n":      "column 3",
	} {
		tb, err := LookAtTable([]byte(bad))
		if err == nil {
			var list []RunFile
			list, err = ReadRunTable([]byte(bad), tb.Mapping, atNow)
			assert.Empty(t, list, "all of it or nothing")
		}
		require.Error(t, err, bad)
		assert.Contains(t, err.Error(), want, bad)
	}
	_, err = ReadRunTable([]byte(table), Mapping{Date: 0, Distance: -1, Duration: 2}, atNow)
	assert.ErrorContains(t, err, "which columns")
	mdy, err := LookAtTable([]byte("date,km,min\n11/24/2026,10,50\n"))
	require.NoError(t, err)
	assert.Equal(t, "mdy", mdy.Mapping.DateOrder)
}

// What is written as a table reads back as the same runs.
func TestRunTableRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "n")
		rows := make([]RunRow, n)
		for i := range rows {
			on := day.Make(2026, 1, 1) + day.Date(rapid.IntRange(0, 300).Draw(t, "day"))
			secs := rapid.IntRange(60, 20000).Draw(t, "s")
			rows[i] = RunRow{On: on, Source: "typed", RunFile: RunFile{Start: on.Time().Add(7 * time.Hour), Seconds: secs, Metres: rapid.IntRange(0, 5*secs).Draw(t, "m"),
				Footwear: rapid.SampledFrom([]string{"", "usual", "minimal", "bare"}).Draw(t, "f"), Note: rapid.StringMatching(`[a-z ,";=]{0,20}`).Draw(t, "note")}}
			if rapid.Bool().Draw(t, "e") {
				e := rapid.IntRange(0, 10).Draw(t, "effort")
				rows[i].Effort = &e
			}
		}
		var b bytes.Buffer
		require.NoError(t, RunsCSV(&b, rows, time.UTC))
		look, err := LookAtTable(b.Bytes())
		require.NoError(t, err)
		got, err := ReadRunTable(b.Bytes(), look.Mapping, atNow)
		require.NoError(t, err)
		require.Len(t, got, n)
		for i, r := range got {
			assert.Equal(t, rows[i].On.String()+"T07:00:00", r.Local)
			assert.Equal(t, rows[i].Metres, r.Metres)
			assert.Equal(t, rows[i].Seconds, r.Seconds)
			assert.Equal(t, rows[i].Footwear, r.Footwear)
			assert.Equal(t, rows[i].Effort, r.Effort)
		}
	})
}

func FuzzReadRuns(f *testing.F) {
	short := devices.Outing{Start: outing.Start, Metres: 60, PaceSecond: 345, Cadence: 168}
	for _, write := range []func(uint64) ([]byte, error){short.FIT, short.TCX, short.GPX} {
		b, err := write(1)
		require.NoError(f, err)
		f.Add(b)
		f.Add(b[:len(b)/3])
	}
	f.Add([]byte(gpx(point(1, 1, "2026-05-04T06:00:00Z"))))
	for _, d := range devices.Dialects(devices.Outing{Start: outing.Start, Metres: 400, PaceSecond: 345, Cadence: 168}, 1) {
		f.Add(d.Data)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		runs, err := ReadRuns(b, atNow)
		if err != nil {
			assert.Empty(t, runs)
			return
		}
		for _, r := range runs {
			assert.NoError(t, r.check(atNow))
			assert.NotEmpty(t, r.What.Kind)
		}
	})
}

func FuzzUnpack(f *testing.F) {
	f.Add(gz([]byte("x")))
	f.Add(gz(gz([]byte("x"))))
	f.Add(zipped(f, map[string][]byte{"a.gpx": []byte("<gpx/>"), "b.gz": gz([]byte("y")), "c/": nil}))
	f.Fuzz(func(t *testing.T, b []byte) {
		list, err := Unpack("x", b)
		if err != nil {
			assert.Empty(t, list)
			var re *ReadError
			assert.ErrorAs(t, err, &re)
			return
		}
		assert.NotEmpty(t, list)
		for _, in := range list {
			assert.LessOrEqual(t, len(in.Data), RunPackMost)
			if in.Err != nil {
				assert.Empty(t, in.Data)
			}
		}
	})
}

func FuzzReadRunTable(f *testing.F) {
	f.Add([]byte("date,km,min\n2026-11-24,10,50\n"))
	f.Add([]byte("Date;Start time;Distance;Duration\n24/11/2026;06:40;10,5;1:02:10\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		tb, err := LookAtTable(b)
		if err != nil {
			return
		}
		runs, err := ReadRunTable(b, tb.Mapping, atNow)
		if err != nil {
			assert.Empty(t, runs)
		}
	})
}

// Our reading against the bare decoder on its own largest activity: at most
// 1.3 times its time.
func BenchmarkFIT(b *testing.B) {
	long := devices.Outing{Start: outing.Start, Metres: 60_000, PaceSecond: 360, Cadence: 168}
	big, err := long.FIT(1)
	require.NoError(b, err)
	b.Run("bare", func(b *testing.B) {
		for b.Loop() {
			d := decoder.New(bytes.NewReader(big))
			for d.Next() {
				_, err := d.Decode()
				require.NoError(b, err)
			}
		}
	})
	b.Run("ours", func(b *testing.B) {
		for b.Loop() {
			_, err := ReadRuns(big, atNow)
			require.NoError(b, err)
		}
	})
}

// FuzzRunXML draws documents element by element, as no drawing of bytes would: the
// parts of both formats in any order, at any depth, around each other or missing.
func FuzzRunXML(f *testing.F) {
	f.Add([]byte{0, 2, 4, 5, 1, 20, 1, 1})
	f.Add([]byte{0, 2, 4, 1, 1, 5, 20, 1})
	f.Add([]byte{30, 8, 9, 10, 12, 20, 1, 1, 1})
	f.Fuzz(func(t *testing.T, program []byte) {
		runs, err := ReadRuns(drawXML(program), atNow)
		if err != nil {
			assert.Empty(t, runs)
			return
		}
		for _, r := range runs {
			assert.NoError(t, r.check(atNow))
		}
	})
}

// drawXML turns a program into a document: each byte opens an element, closes one
// or writes a text.
func drawXML(program []byte) []byte {
	opens := []string{"", "", `<trk>`, `<trkseg>`, `<trkpt lat="1" lon="2">`, `<time>`, `<ele>`, `<cad>`, `<Activity Sport="Running">`, `<Lap StartTime="2026-05-04T06:00:00Z">`,
		`<Track>`, `<Trackpoint>`, `<Time>`, `<TotalTimeSeconds>`, `<DistanceMeters>`, `<LatitudeDegrees>`, `<LongitudeDegrees>`, `<Cadence>`, `<type>`, `<gpx>`}
	texts := []string{"2026-05-04T06:00:00Z", "2026-05-04T06:00:10Z", "1", "168", "-3", "x", "600", "cycling"}
	var b strings.Builder
	var open []string
	root := "gpx"
	if len(program) > 0 && program[0]%2 == 0 && program[0] >= 30 {
		root = "TrainingCenterDatabase"
	}
	b.WriteString("<" + root + ">")
	open = append(open, root)
	for _, p := range program {
		switch n := int(p) % (len(opens) + len(texts)); {
		case n < 2:
			if len(open) > 0 {
				b.WriteString("</" + open[len(open)-1] + ">")
				open = open[:len(open)-1]
			}
		case n < len(opens):
			b.WriteString(opens[n])
			name, _, _ := strings.Cut(strings.Trim(opens[n], "<>"), " ")
			open = append(open, name)
		default:
			b.WriteString(texts[n-len(opens)])
		}
	}
	for i := len(open) - 1; i >= 0; i-- {
		b.WriteString("</" + open[i] + ">")
	}
	return []byte(b.String())
}

// FuzzRunFIT changes bytes inside a FIT file and puts its checksums right, so that the
// changes reach the reader and not only the check of damage.
func FuzzRunFIT(f *testing.F) {
	short := devices.Outing{Start: outing.Start, Metres: 60, PaceSecond: 345, Cadence: 168}
	whole, err := short.FIT(1)
	require.NoError(f, err)
	f.Add([]byte{})
	f.Add([]byte{20, 0, 255, 40, 0, 0})
	f.Add([]byte{14, 0, 64, 15, 0, 0, 16, 0, 1, 17, 0, 255})
	f.Fuzz(func(t *testing.T, edits []byte) {
		b, untouched := bytes.Clone(whole), len(edits) < 3
		for ; len(edits) >= 3; edits = edits[3:] { // place, place, value
			at := 14 + (int(edits[0])|int(edits[1])<<8)%(len(b)-16)
			b[at] = edits[2]
		}
		sign := func(upTo int) { // the library's checksum of what comes before it
			h := crc16.New()
			_, _ = h.Write(b[:upTo])
			binary.LittleEndian.PutUint16(b[upTo:], h.Sum16())
		}
		sign(12)
		sign(len(b) - 2)
		runs, err := ReadRuns(b, atNow)
		if untouched {
			require.NoError(t, err, "the checksums are right")
		}
		if err != nil {
			assert.Empty(t, runs)
			return
		}
		for _, r := range runs {
			assert.NoError(t, r.check(atNow))
		}
	})
}

// FuzzDrawnTable draws tables of runs cell by cell from what such tables hold.
func FuzzDrawnTable(f *testing.F) {
	f.Add([]byte{0, 1, 2, 100, 10, 11, 12, 100, 13, 14, 15})
	f.Add([]byte{1, 0, 3, 5, 100, 20, 21, 22, 23})
	f.Fuzz(func(t *testing.T, program []byte) {
		cells := []string{"date", "km", "min", "Distance (m)", "duration", "cadence", "note", "pace", "start time", "effort", "2026-11-24", "24/11/2026", "11/24/26", "10,5", "10.5", "1:02:10", "50", "168", "=1+1", "06:40",
			"", "-3", "1e9", "NaN", "\"", "'", "6:40 PM", "10 km", "5'30", "\u00e9"}
		var b strings.Builder
		for i, p := range program {
			if p >= 100 {
				b.WriteString("\n")
				continue
			}
			if i > 0 && program[i-1] < 100 {
				b.WriteByte(",;\t"[int(program[0])%3])
			}
			b.WriteString(cells[int(p)%len(cells)])
		}
		look, err := LookAtTable([]byte(b.String()))
		if err != nil {
			return
		}
		runs, err := ReadRunTable([]byte(b.String()), look.Mapping, atNow)
		if err != nil {
			assert.Empty(t, runs)
			return
		}
		for _, r := range runs {
			assert.True(t, r.Metres >= 0 && r.Seconds >= 0)
		}
	})
}

// Each of these ended a reader in a panic, or was read as something it is not.
func TestFilesWithPartsOutOfPlace(t *testing.T) {
	for _, doc := range []string{
		`<gpx><trk></trk></gpx><time>2026-05-04T06:00:00Z</time>`,
		`<gpx><trk></trk><time>2026-05-04T06:00:00Z</time></gpx>`,
		`<gpx><trk><trkseg></trkseg></trk></gpx><cad>1</cad><time>x</time>`,
		`<gpx><metadata><time>2026-05-04T06:00:00Z</time></metadata><trk><time>2026-05-04T06:00:00Z</time></trk></gpx>`,
	} {
		runs, err := ReadRuns([]byte(doc), atNow)
		require.Error(t, err, doc)
		assert.Empty(t, runs)
	}
}

func TestATableAsOlderSpreadsheetsSaveIt(t *testing.T) {
	old, err := charmap.Windows1252.NewEncoder().String("date,km,min,note\n2026-11-24,10,50,Côte d’été\n")
	require.NoError(t, err)
	look, err := LookAtTable([]byte(old))
	require.NoError(t, err)
	runs, err := ReadRunTable([]byte(old), look.Mapping, atNow)
	require.NoError(t, err)
	require.Len(t, runs, 1)
	assert.Equal(t, "Côte d’été", runs[0].Note)
	_, err = LookAtTable([]byte("date,km\x00,min\n"))
	require.Error(t, err)
}

// A spreadsheet takes no text of ours for a formula, in any column.
func TestNoCellIsAFormula(t *testing.T) {
	var plan, clip, runs bytes.Buffer
	evil := "=HYPERLINK(\"x\")"
	require.NoError(t, PlanCSV(&plan, []Row{{Ladder: evil, Exercise: "@x", Session: "+x", When: "-x", Left: "\t=x", Right: evil, WeekKind: evil}}))
	require.NoError(t, ClipCSV(&clip, []ClipRow{{Moment: evil, Measure: evil, Class: evil, Verdict: evil, Source: evil, Unit: evil, Value: -3.5, Side: evil}}))
	require.NoError(t, RunsCSV(&runs, []RunRow{{Zone: evil, Side: evil, Source: evil, RunFile: RunFile{Note: evil, Surface: evil, Footwear: evil}}}, time.UTC))
	for _, b := range []*bytes.Buffer{&plan, &clip, &runs} {
		rows, err := csv.NewReader(bytes.NewReader(b.Bytes())).ReadAll()
		require.NoError(t, err)
		for _, row := range rows {
			for _, c := range row {
				if _, err := strconv.ParseFloat(c, 64); err != nil && c != "" {
					assert.NotContains(t, "=+-@\t\r", c[:1], c)
				}
			}
		}
	}
	assert.Contains(t, clip.String(), "-3.50", "a number stays one")
}
