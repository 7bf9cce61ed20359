package formats

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/muktihari/fit/decoder"
	"github.com/muktihari/fit/kit/datetime"
	"github.com/muktihari/fit/profile/typedef"
	"github.com/muktihari/fit/profile/untyped/fieldnum"
	"github.com/muktihari/fit/profile/untyped/mesgnum"
	"github.com/muktihari/fit/proto"
)

// RunFileMost is the largest run file read, in bytes.
const RunFileMost = 25 << 20

// Limits of a believable run.
const (
	mostRunMetres   = 300_000
	mostRunSeconds  = 48 * 3600
	mostRunSpeed    = 8.5 // metres a second, mean over a whole run
	mostPoints      = 500_000
	mostDepth       = 40
	earliestYear    = 1990
	oneFootUnder    = 120.0 // steps a minute: it was counted on one foot
	cadenceLeast    = 60.0
	cadenceMost     = 260.0
	earthMetres     = 6_371_000.0
	pauseSeconds    = 60   // a gap between points longer than this is a pause
	jumpSpeed       = 15.0 // metres a second between two points: a jump of the position
	futureTolerance = 26 * time.Hour
)

// Point is one point of a run's track.
type Point struct {
	At     int      `json:"t"` // seconds from the start
	Lat    float64  `json:"la"`
	Lon    float64  `json:"lo"`
	Metres *float64 `json:"e,omitempty"` // height
}

// RunFile is one run read from a file.
type RunFile struct {
	Kind       string
	Start      time.Time // the moment; zero where only a local date is known
	Local      string    // local date and time as written, where no zone is known: 2006-01-02T15:04:05
	Seconds    int
	Metres     int
	CadenceSpm *float64 // both feet
	Doubled    bool     // the file counted one foot
	Effort     *int
	Footwear   string
	Surface    string
	Note       string
	Track      []Point
}

// ReadError says what is wrong with a file and where.
type ReadError struct {
	Where string // line, byte or row, empty for the whole file
	Why   string
}

func (e *ReadError) Error() string {
	if e.Where == "" {
		return e.Why
	}
	return e.Why + " (" + e.Where + ")"
}

func bad(where, format string, args ...any) error {
	return &ReadError{where, fmt.Sprintf(format, args...)}
}

// Sniff names what a file is by its first bytes: fit, gpx, tcx, csv, or "" for
// none of them; the error says why it can't be read.
func Sniff(head []byte) (string, error) {
	h := bytes.TrimPrefix(head, []byte("\xef\xbb\xbf"))
	switch {
	case len(h) == 0:
		return "", bad("", "the file is empty")
	case bytes.HasPrefix(h, []byte("PK\x03\x04")), bytes.HasPrefix(h, []byte("\x1f\x8b")):
		return "", bad("", "the file is packed; unpack it and bring in what is inside")
	case len(h) >= 12 && bytes.Equal(h[8:12], []byte(".FIT")):
		return "fit", nil
	}
	t := bytes.TrimLeft(h, " \t\r\n")
	if bytes.HasPrefix(t, []byte("<")) {
		switch {
		case bytes.Contains(t, []byte("<gpx")):
			return "gpx", nil
		case bytes.Contains(t, []byte("<TrainingCenterDatabase")):
			return "tcx", nil
		}
		return "", bad("", "this XML is neither GPX nor TCX")
	}
	for _, c := range h[:min(len(h), 512)] {
		if c == 0 {
			return "", bad("", "not a run file: expected FIT, GPX 1.1, TCX v2 or a table as CSV")
		}
	}
	if bytes.ContainsAny(h, ",;\t") && bytes.ContainsAny(h, "\n\r") {
		return "csv", nil
	}
	return "", bad("", "not a run file: expected FIT, GPX 1.1, TCX v2 or a table as CSV")
}

// ReadRuns reads every run of a FIT, GPX or TCX file. It returns all of them or
// an error that names the place; now bounds believable times. Tables are read by
// ReadRunTable.
func ReadRuns(b []byte, now time.Time) ([]RunFile, error) {
	if len(b) > RunFileMost {
		return nil, bad("", "the file has %d MB; at most %d MB are read", len(b)>>20, RunFileMost>>20)
	}
	kind, err := Sniff(b[:min(len(b), 4096)])
	if err != nil {
		return nil, err
	}
	var runs []RunFile
	switch kind {
	case "fit":
		runs, err = readFIT(b)
	case "gpx":
		runs, err = readGPX(b)
	case "tcx":
		runs, err = readTCX(b)
	default:
		return nil, bad("", "a table needs its columns mapped first")
	}
	if err != nil {
		return nil, err
	}
	if len(runs) == 0 {
		return nil, bad("", "no run in this file")
	}
	for i := range runs {
		if err := runs[i].check(now); err != nil {
			return nil, err
		}
	}
	return runs, nil
}

func (r *RunFile) check(now time.Time) error {
	where := ""
	if !r.Start.IsZero() {
		where = "run of " + r.Start.UTC().Format("2 January 2006 15:04")
		if r.Start.Year() < earliestYear || r.Start.After(now.Add(futureTolerance)) {
			return bad(where, "the time can't be: %s", r.Start.UTC().Format(time.RFC3339))
		}
	}
	switch {
	case r.Seconds <= 0:
		return bad(where, "the run takes no time")
	case r.Seconds > mostRunSeconds:
		return bad(where, "%d hours can't be one run; expected up to 48", r.Seconds/3600)
	case r.Metres < 0:
		return bad(where, "a negative distance can't be")
	case r.Metres > mostRunMetres:
		return bad(where, "%d km can't be one run; expected up to 300", r.Metres/1000)
	case float64(r.Metres) > mostRunSpeed*float64(r.Seconds):
		return bad(where, "%.1f km in %d min is not a run", float64(r.Metres)/1000, r.Seconds/60)
	}
	r.settleCadence()
	return nil
}

// settleCadence doubles a cadence counted on one foot and drops one that no
// runner has.
func (r *RunFile) settleCadence() {
	if r.CadenceSpm == nil {
		return
	}
	c := *r.CadenceSpm
	if c > 0 && c < oneFootUnder {
		c, r.Doubled = 2*c, true
	}
	if c < cadenceLeast || c > cadenceMost {
		r.CadenceSpm, r.Doubled = nil, false
		return
	}
	c = math.Round(c*10) / 10
	r.CadenceSpm = &c
}

// fitRuns collects runs from the messages of a FIT file as they are decoded.
type fitRuns struct {
	out      []RunFile
	err      error
	track    []Point
	start    time.Time
	last     time.Time
	metres   float64
	cadence  float64
	counted  int
	sessions int
}

// Units of FIT fields.
const (
	fitHundredths   = 100.0
	fitThousandths  = 1000.0
	fitAltitude     = 5.0
	fitAltitudeZero = 500.0
	fitSemicircle   = 180.0 / (1 << 31)
	fitNoByte       = 255
	fitNoLong       = 0xFFFFFFFF
	fitNoPlace      = 0x7FFFFFFF
)

// OnMesg takes a message; only records and sessions count.
func (f *fitRuns) OnMesg(m proto.Message) {
	switch m.Num {
	case mesgnum.Record:
		f.record(&m)
	case mesgnum.Session:
		f.session(&m)
	}
}

func (f *fitRuns) record(m *proto.Message) {
	var at time.Time
	lat, lon := int32(fitNoPlace), int32(fitNoPlace)
	var height *float64
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.RecordTimestamp:
			if s := v.Uint32(); s != fitNoLong {
				at = datetime.ToTime(s)
			}
		case fieldnum.RecordPositionLat:
			lat = v.Int32()
		case fieldnum.RecordPositionLong:
			lon = v.Int32()
		case fieldnum.RecordDistance:
			if d := v.Uint32(); d != fitNoLong {
				f.metres = float64(d) / fitHundredths
			}
		case fieldnum.RecordCadence:
			if c := v.Uint8(); c != fitNoByte && c > 0 {
				f.cadence += float64(c)
				f.counted++
			}
		case fieldnum.RecordEnhancedAltitude:
			if a := v.Uint32(); a != fitNoLong {
				h := float64(a)/fitAltitude - fitAltitudeZero
				height = &h
			}
		}
	}
	if at.IsZero() {
		return
	}
	if f.start.IsZero() {
		f.start = at
	}
	f.last = at
	if lat != fitNoPlace && lon != fitNoPlace && len(f.track) < mostPoints {
		f.track = append(f.track, Point{At: int(at.Sub(f.start) / time.Second), Lat: float64(lat) * fitSemicircle, Lon: float64(lon) * fitSemicircle, Metres: height})
	}
}

func (f *fitRuns) session(m *proto.Message) {
	f.sessions++
	r := RunFile{Kind: "fit", Start: f.start, Metres: int(math.Round(f.metres)), Track: f.track}
	elapsed := 0.0
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.SessionSport:
			switch s := typedef.Sport(v.Uint8()); s {
			case typedef.SportRunning, typedef.SportInvalid, typedef.SportGeneric:
			default:
				f.err = bad("", "this is %s, not a run", s)
			}
		case fieldnum.SessionStartTime:
			if s := v.Uint32(); s != fitNoLong {
				r.Start = datetime.ToTime(s)
			}
		case fieldnum.SessionTotalTimerTime:
			if s := v.Uint32(); s != fitNoLong {
				r.Seconds = int(math.Round(float64(s) / fitThousandths))
			}
		case fieldnum.SessionTotalElapsedTime:
			if s := v.Uint32(); s != fitNoLong {
				elapsed = float64(s) / fitThousandths
			}
		case fieldnum.SessionTotalDistance:
			if d := v.Uint32(); d != fitNoLong {
				r.Metres = int(math.Round(float64(d) / fitHundredths))
			}
		case fieldnum.SessionAvgCadence:
			if c := v.Uint8(); c != fitNoByte && c > 0 {
				x := float64(c)
				r.CadenceSpm = &x
			}
		}
	}
	if r.Seconds == 0 {
		r.Seconds = int(math.Round(elapsed))
	}
	f.finish(r)
}

func (f *fitRuns) finish(r RunFile) {
	if r.CadenceSpm == nil && f.counted > 0 {
		c := f.cadence / float64(f.counted)
		r.CadenceSpm = &c
	}
	f.out = append(f.out, r)
}

func readFIT(b []byte) ([]RunFile, error) {
	var f fitRuns
	dec := decoder.New(bytes.NewReader(b), decoder.WithMesgListener(&f), decoder.WithBroadcastOnly())
	for dec.Next() {
		f.track, f.start, f.last, f.metres, f.cadence, f.counted, f.sessions = nil, time.Time{}, time.Time{}, 0, 0, 0, 0
		if _, err := dec.Decode(); err != nil {
			return nil, bad("", "the FIT file is damaged: %s", firstLine(err))
		}
		if f.err != nil {
			return nil, f.err
		}
		if f.sessions == 0 && !f.start.IsZero() { // cut off before its summary was written
			f.finish(RunFile{Kind: "fit", Start: f.start, Seconds: int(f.last.Sub(f.start) / time.Second), Metres: int(math.Round(f.metres)), Track: f.track})
		}
	}
	return f.out, nil
}

func firstLine(err error) string {
	s, _, _ := strings.Cut(err.Error(), "\n")
	return s
}

// walk reads XML token by token: no document type (and so no entities of its
// own), no deeper than mostDepth. fn gets the path of open elements.
// trail is where in a document something stands, the outermost element first.
type trail []string

func (p trail) up(n int) string {
	if n >= len(p) {
		return ""
	}
	return p[len(p)-1-n]
}

// name is the element itself, parent the one around it; empty where there is none.
func (p trail) name() string   { return p.up(0) }
func (p trail) parent() string { return p.up(1) }

func walk(b []byte, start func(path trail, e xml.StartElement) error, text func(path trail, s string) error, end func(path trail) error) error {
	d := xml.NewDecoder(bytes.NewReader(b))
	d.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		return nil, bad("", "the text is in %q; expected UTF-8", label)
	}
	var path trail
	roots := 0
	where := func() string {
		l, c := d.InputPos()
		return fmt.Sprintf("line %d, column %d", l, c)
	}
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			var re *ReadError
			if errors.As(err, &re) {
				return err
			}
			return bad(where(), "the file is damaged: %s", firstLine(err))
		}
		switch t := tok.(type) {
		case xml.Directive:
			return bad(where(), "a document type is not accepted")
		case xml.StartElement:
			if len(path) == 0 {
				roots++
			}
			if roots > 1 {
				return bad(where(), "there is something after the end of the file")
			}
			path = append(path, t.Name.Local)
			if len(path) > mostDepth {
				return bad(where(), "the elements are nested too deep")
			}
			if err := start(path, t); err != nil {
				return located(err, where())
			}
		case xml.EndElement:
			if err := end(path); err != nil {
				return located(err, where())
			}
			path = path[:len(path)-1]
		case xml.CharData:
			if len(path) > 0 {
				if err := text(path, string(t)); err != nil {
					return located(err, where())
				}
			}
		}
	}
}

func located(err error, where string) error {
	var re *ReadError
	if errors.As(err, &re) && re.Where == "" {
		re.Where = where
	}
	return err
}

// trace collects points of a track into a run.
type trace struct {
	run      RunFile
	start    time.Time
	last     time.Time
	moved    float64
	seconds  float64
	cadence  float64
	counted  int
	haveLast bool
	lastLat  float64
	lastLon  float64
}

func (t *trace) add(at time.Time, lat, lon float64, metres *float64, cadence float64) error {
	if len(t.run.Track) >= mostPoints {
		return bad("", "more than %d points", mostPoints)
	}
	if t.start.IsZero() {
		t.start = at
	}
	if t.haveLast {
		dt := at.Sub(t.last).Seconds()
		if dt < 0 {
			return bad("", "the times go backwards")
		}
		d := haversine(t.lastLat, t.lastLon, lat, lon)
		if dt > 0 && d/dt <= jumpSpeed || d < 1 {
			t.moved += d
		}
		if dt <= pauseSeconds || d > 5 {
			t.seconds += dt
		}
	}
	t.last, t.lastLat, t.lastLon, t.haveLast = at, lat, lon, true
	if cadence > 0 {
		t.cadence += cadence
		t.counted++
	}
	t.run.Track = append(t.run.Track, Point{At: int(at.Sub(t.start) / time.Second), Lat: lat, Lon: lon, Metres: metres})
	return nil
}

func (t *trace) done(kind string) RunFile {
	r := t.run
	r.Kind, r.Start = kind, t.start
	if r.Seconds == 0 {
		r.Seconds = int(math.Round(t.seconds))
	}
	if r.Metres == 0 {
		r.Metres = int(math.Round(t.moved))
	}
	if r.CadenceSpm == nil && t.counted > 0 {
		c := t.cadence / float64(t.counted)
		r.CadenceSpm = &c
	}
	return r
}

func haversine(lat1, lon1, lat2, lon2 float64) float64 {
	const rad = math.Pi / 180
	dLat, dLon := (lat2-lat1)*rad, (lon2-lon1)*rad
	h := math.Pow(math.Sin(dLat/2), 2) + math.Cos(lat1*rad)*math.Cos(lat2*rad)*math.Pow(math.Sin(dLon/2), 2)
	return 2 * earthMetres * math.Asin(math.Min(1, math.Sqrt(h)))
}

func number(s, what string) (float64, error) {
	v, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, bad("", "%s %q is not a number", what, shorten(s))
	}
	return v, nil
}

func shorten(s string) string {
	s = strings.TrimSpace(s)
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

func moment(s string) (time.Time, error) {
	t, err := time.Parse(time.RFC3339, strings.TrimSpace(s))
	if err != nil {
		return t, bad("", "time %q is not like 2026-05-04T06:30:00Z", shorten(s))
	}
	return t, nil
}

func readGPX(b []byte) ([]RunFile, error) {
	var out []RunFile
	var cur *trace
	var lat, lon, cad float64
	var at time.Time
	var height *float64
	var sport string
	err := walk(b, func(_ trail, e xml.StartElement) error {
		switch e.Name.Local {
		case "trk":
			cur, sport = &trace{}, ""
		case "trkpt":
			at, height, cad = time.Time{}, nil, 0
			lat, lon = math.NaN(), math.NaN()
			for _, a := range e.Attr {
				v, err := 0.0, error(nil)
				switch a.Name.Local {
				case "lat":
					v, err = number(a.Value, "latitude")
					lat = v
				case "lon":
					v, err = number(a.Value, "longitude")
					lon = v
				}
				if err != nil {
					return err
				}
			}
			if math.IsNaN(lat) || math.IsNaN(lon) || math.Abs(lat) > 90 || math.Abs(lon) > 180 {
				return bad("", "a point without a place on the globe")
			}
		}
		return nil
	}, func(path trail, s string) error {
		if strings.TrimSpace(s) == "" || cur == nil {
			return nil
		}
		parent, name := path.parent(), path.name()
		switch {
		case name == "type" && parent == "trk":
			sport = strings.ToLower(strings.TrimSpace(s))
		case name == "time" && parent == "trkpt":
			t, err := moment(s)
			at = t
			return err
		case name == "ele" && parent == "trkpt":
			v, err := number(s, "height")
			height = &v
			return err
		case name == "cad":
			v, err := number(s, "cadence")
			cad = v
			return err
		}
		return nil
	}, func(path trail) error {
		switch path.name() {
		case "trkpt":
			if cur == nil {
				return bad("", "a point outside a track")
			}
			if at.IsZero() {
				return bad("", "a point without a time; a route is not a run")
			}
			return cur.add(at, lat, lon, height, cad)
		case "trkseg":
			if cur != nil {
				cur.haveLast = false
			}
		case "trk":
			if cur == nil || len(cur.run.Track) == 0 {
				cur = nil
				return nil
			}
			if strings.Contains(sport, "cycl") || strings.Contains(sport, "bik") || strings.Contains(sport, "swim") {
				return bad("", "this is %s, not a run", shorten(sport))
			}
			out = append(out, cur.done("gpx"))
			cur = nil
		}
		return nil
	})
	return out, err
}

func readTCX(b []byte) ([]RunFile, error) {
	var out []RunFile
	var cur *trace
	var at time.Time
	lat, lon := math.NaN(), math.NaN()
	var cad float64
	var height *float64
	var lapSeconds, lapMetres float64
	var laps int
	var lapCadence, lapCadenceSeconds, thisLapSeconds float64
	err := walk(b, func(_ trail, e xml.StartElement) error {
		switch e.Name.Local {
		case "Activity":
			cur = &trace{}
			lapSeconds, lapMetres, laps, lapCadence, lapCadenceSeconds = 0, 0, 0, 0, 0
			for _, a := range e.Attr {
				if a.Name.Local == "Sport" && a.Value != "Running" && a.Value != "Other" {
					return bad("", "this is %s, not a run", shorten(a.Value))
				}
			}
		case "Lap":
			laps++
			for _, a := range e.Attr {
				if a.Name.Local == "StartTime" && cur != nil && cur.start.IsZero() {
					t, err := moment(a.Value)
					if err != nil {
						return err
					}
					cur.start = t
				}
			}
		case "Trackpoint":
			at, lat, lon, cad, height = time.Time{}, math.NaN(), math.NaN(), 0, nil
		}
		return nil
	}, func(path trail, s string) error {
		if strings.TrimSpace(s) == "" || cur == nil {
			return nil
		}
		parent, name := path.parent(), path.name()
		read := func(into *float64, what string) error {
			v, err := number(s, what)
			*into = v
			return err
		}
		var v float64
		switch {
		case parent == "Lap" && name == "TotalTimeSeconds":
			err := read(&v, "time")
			lapSeconds += v
			thisLapSeconds = v
			return err
		case parent == "Lap" && name == "DistanceMeters":
			err := read(&v, "distance")
			if err == nil && v < 0 {
				return bad("", "a negative distance can't be")
			}
			lapMetres += v
			return err
		case parent == "Lap" && name == "Cadence", name == "AvgRunCadence":
			err := read(&v, "cadence")
			lapCadence += v * thisLapSeconds
			lapCadenceSeconds += thisLapSeconds
			return err
		case parent == "Trackpoint" && name == "Time":
			t, err := moment(s)
			at = t
			return err
		case name == "LatitudeDegrees":
			return read(&lat, "latitude")
		case name == "LongitudeDegrees":
			return read(&lon, "longitude")
		case name == "AltitudeMeters":
			err := read(&v, "height")
			height = &v
			return err
		case parent == "Trackpoint" && name == "Cadence", name == "RunCadence":
			return read(&cad, "cadence")
		}
		return nil
	}, func(path trail) error {
		if cur == nil {
			return nil
		}
		switch path.name() {
		case "Trackpoint":
			if at.IsZero() {
				return bad("", "a point without a time")
			}
			if math.IsNaN(lat) || math.IsNaN(lon) {
				if cad > 0 {
					cur.cadence += cad
					cur.counted++
				}
				return nil
			}
			if math.Abs(lat) > 90 || math.Abs(lon) > 180 {
				return bad("", "a point without a place on the globe")
			}
			return cur.add(at, lat, lon, height, cad)
		case "Track":
			cur.haveLast = false
		case "Activity":
			if laps == 0 {
				return bad("", "an activity without a lap")
			}
			cur.run.Seconds, cur.run.Metres = int(math.Round(lapSeconds)), int(math.Round(lapMetres))
			if lapCadenceSeconds > 0 && cur.counted == 0 {
				c := lapCadence / lapCadenceSeconds
				cur.run.CadenceSpm = &c
			}
			out = append(out, cur.done("tcx"))
			cur = nil
		}
		return nil
	})
	return out, err
}
