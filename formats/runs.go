package formats

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"slices"
	"time"

	"notchback/core/activity"
)

// RunFileMost is the largest run file read, in bytes.
const RunFileMost = 25 << 20

// Limits of a believable run.
const (
	mostRunMetres   = 300_000
	mostRunSeconds  = 48 * 3600
	mostPoints      = 500_000
	mostDepth       = 40
	earliestYear    = 1990
	cadenceLeast    = 60.0
	cadenceMost     = 260.0
	earthMetres     = 6_371_000.0
	jumpSpeed       = 35.0             // metres a second between two points: a jump of the position
	stillSpeed      = 1 / 3.6          // metres a second: slower between two points is standing
	joined          = 10 * time.Second // two pieces of a track nearer than this are one
	mostSwapped     = 0.02             // of the points may stand before their neighbour
	mostLaps        = 2000
	futureTolerance = 26 * time.Hour
)

// Point is one point of a run's track.
type Point struct {
	At     int      `json:"t"` // seconds from the start
	Lat    float64  `json:"la"`
	Lon    float64  `json:"lo"`
	Metres *float64 `json:"e,omitempty"` // height
}

// RunFile is one outing read from a file: a run, or what it was instead. Times are
// seconds, lengths metres where a name does not say otherwise; what was not measured is
// nil.
type RunFile struct {
	Kind       string // fit, gpx, tcx or csv
	What       activity.Verdict
	Name       string    // what it is called in the file
	Device     string    // what recorded or wrote it
	Start      time.Time // the moment; zero where only a local date is known
	Local      string    // local date and time as written, where no zone is known: 2006-01-02T15:04:05
	Offset     *int      // seconds east of UTC, where the file says
	Seconds    int       // moving: by the timer where there is one, else over 1 km/h
	Elapsed    int       // with pauses; 0 where it is not known
	Metres     int
	CadenceSpm *float64 // both feet
	Doubled    bool     // the file counted one foot
	Effort     *int     // CR10
	Ascent     *float64 // metres
	HeartRate  *float64 // a minute, mean
	HeartMost  *float64
	Dynamics   *Dynamics
	Laps       []Lap
	Treadmill  bool
	Footwear   string
	Surface    string
	Note       string
	Track      []Point
	Notes      []string // what was put right in reading
}

// Dynamics are what a device measured of the feet, as means over the run.
type Dynamics struct {
	ContactMs      *float64 `json:"contactMs,omitempty" doc:"Time of a foot on the ground"`
	OscillationMm  *float64 `json:"oscillationMm,omitempty" doc:"Up and down of the body in a step"`
	BalancePercent *float64 `json:"balancePercent,omitempty" doc:"Left foot's share of the time on the ground"`
	StepMm         *float64 `json:"stepMm,omitempty" doc:"Length of a step"`
}

// Lap is a lap of a run.
type Lap struct {
	At      int      `json:"at" doc:"Seconds from the start"`
	Seconds int      `json:"seconds"`
	Metres  int      `json:"metres"`
	Cadence *float64 `json:"cadence,omitempty" doc:"Steps of both feet a minute"`
	Rest    bool     `json:"rest,omitempty"`
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

// Sniff names what a file is: fit, gpx, tcx, csv, gz, zip, or "" for none of them; the
// error says why it can't be read.
func Sniff(b []byte) (string, error) {
	const not = "not a run file: expected FIT, GPX 1.1, TCX v2 or a table as CSV"
	h := bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
	switch {
	case len(h) == 0:
		return "", bad("", "the file is empty")
	case bytes.HasPrefix(h, []byte("PK\x03\x04")), bytes.HasPrefix(h, []byte("PK\x05\x06")):
		return "zip", nil
	case bytes.HasPrefix(h, []byte("\x1f\x8b")):
		return "gz", nil
	case len(h) >= 12 && bytes.Equal(h[8:12], []byte(".FIT")):
		return "fit", nil
	}
	if wide := asUTF8(b); wide != nil {
		h = wide
	}
	if bytes.HasPrefix(bytes.TrimLeft(h, " \t\r\n"), []byte("<")) {
		switch root := rootOf(h); root {
		case "gpx":
			return "gpx", nil
		case "TrainingCenterDatabase":
			return "tcx", nil
		case "":
			return "", bad("", "the file is damaged: it begins like GPX or TCX and can't be read")
		default:
			return "", bad("", "this XML is neither GPX nor TCX")
		}
	}
	for _, c := range h[:min(len(h), 512)] {
		if c == 0 {
			return "", bad("", not)
		}
	}
	if bytes.ContainsAny(h, ",;\t") && bytes.ContainsAny(h, "\n\r") {
		return "csv", nil
	}
	return "", bad("", not)
}

// rootOf is the name of a document's first element, however much is said before it.
func rootOf(b []byte) string {
	d := xml.NewDecoder(bytes.NewReader(b))
	d.CharsetReader = charset
	for {
		tok, err := d.RawToken()
		if err != nil {
			return ""
		}
		if e, ok := tok.(xml.StartElement); ok {
			return e.Name.Local
		}
	}
}

// ReadRuns reads every outing of a FIT, GPX or TCX file and says what each was. It
// returns all of them or an error that names the place; now bounds believable times.
// Tables are read by ReadRunTable.
func ReadRuns(b []byte, now time.Time) ([]RunFile, error) {
	if len(b) > RunFileMost {
		return nil, bad("", "the file has %d MB; at most %d MB are read", len(b)>>20, RunFileMost>>20)
	}
	kind, err := Sniff(b)
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
	case "csv":
		return nil, bad("", "a table needs its columns mapped first")
	default:
		return nil, bad("", "the file is packed; it is unpacked first")
	}
	if err != nil {
		return nil, err
	}
	if len(runs) == 0 {
		return nil, bad("", "no run in this file")
	}
	if len(runs) > 1 { // a part that was begun and ended at once is none
		runs = slices.DeleteFunc(runs, func(r RunFile) bool { return r.Seconds <= 0 && r.Metres <= 0 })
	}
	for i := range runs {
		if err := runs[i].check(now); err != nil {
			return nil, err
		}
	}
	return runs, nil
}

// check refuses what can't be. What is kept out may be as fast as it likes.
func (r *RunFile) check(now time.Time) error {
	where := ""
	if !r.Start.IsZero() {
		where = "outing of " + r.Start.UTC().Format("2 January 2006 15:04")
		if r.Start.Year() < earliestYear || r.Start.After(now.Add(futureTolerance)) {
			return bad(where, "the time can't be: %s", r.Start.UTC().Format(time.RFC3339))
		}
	}
	if r.What.Kind == activity.Other {
		return nil
	}
	switch {
	case r.Seconds <= 0:
		return bad(where, "it takes no time")
	case r.Seconds > mostRunSeconds:
		return bad(where, "%d hours can't be one run; expected up to 48", r.Seconds/3600)
	case r.Metres < 0:
		return bad(where, "a negative distance can't be")
	case r.Metres > mostRunMetres:
		return bad(where, "%d km can't be one run; expected up to 300", r.Metres/1000)
	case r.What.Kind != activity.Asked && !activity.Believable(float64(r.Metres), float64(r.Seconds)):
		return bad(where, "%.1f km in %d min is not a run", float64(r.Metres)/1000, r.Seconds/60)
	}
	return nil
}

// setCadence takes a counted cadence as steps of both feet, and drops one that no runner
// has. both is set where the file says that both feet were counted.
func (r *RunFile) setCadence(counted float64, both bool) {
	speed := 0.0
	if r.Seconds > 0 {
		speed = float64(r.Metres) / float64(r.Seconds)
	}
	c, one := counted, false
	if !both {
		c, one = activity.SpmFrom(counted, speed)
	}
	if c < cadenceLeast || c > cadenceMost {
		return
	}
	c = math.Round(c*10) / 10
	r.CadenceSpm, r.Doubled = &c, one
}

// judge says what the outing was from what was found.
func (r *RunFile) judge(h activity.Hints) {
	h.Name, h.Metres, h.Seconds, h.Treadmill = r.Name, float64(r.Metres), float64(r.Seconds), r.Treadmill
	h.Dynamics = h.Dynamics || r.Dynamics != nil && (r.Dynamics.ContactMs != nil || r.Dynamics.OscillationMm != nil)
	if r.Ascent != nil && r.Metres > 0 {
		h.ClimbPerKm = *r.Ascent / (float64(r.Metres) / 1000)
	}
	r.What = activity.Judge(h)
}

// pacer finds the speed that the fastest twentieth of the time reaches, over stretches of
// ten seconds and more so that noise of positions does not count.
type pacer struct {
	at, metres float64 // of the stretch's beginning
	begun      bool
	stretches  [][2]float64 // m/s, seconds
}

const stretchSeconds = 10

func (p *pacer) add(at, metres float64) {
	if !p.begun {
		p.at, p.metres, p.begun = at, metres, true
		return
	}
	if dt := at - p.at; dt >= stretchSeconds {
		p.stretches = append(p.stretches, [2]float64{(metres - p.metres) / dt, dt})
		p.at, p.metres = at, metres
	}
}

func (p *pacer) pause() { p.begun = false }

func (p *pacer) fast() float64 {
	slices.SortFunc(p.stretches, func(a, b [2]float64) int {
		if a[0] > b[0] {
			return -1
		}
		return 1
	})
	total := 0.0
	for _, s := range p.stretches {
		total += s[1]
	}
	sum := 0.0
	for _, s := range p.stretches {
		if sum += s[1]; sum >= total/20 {
			return s[0]
		}
	}
	return 0
}

// climb sums metres up, leaving out what is noise of a height: less than three metres
// (house).
type climb struct {
	low, sum float64
	any      bool
}

func (c *climb) add(h float64) {
	if !c.any {
		c.low, c.any = h, true
	}
	if h < c.low {
		c.low = h
	}
	if h-c.low >= 3 {
		c.sum += h - c.low
		c.low = h
	}
}

// mean of what was measured.
type mean struct {
	sum float64
	n   int
}

func (m *mean) add(v float64) { m.sum += v; m.n++ }

// some adds what was measured.
func (m *mean) some(v float64) {
	if v > 0 {
		m.add(v)
	}
}

func (m *mean) value() *float64 {
	if m.n == 0 {
		return nil
	}
	v := m.sum / float64(m.n)
	return &v
}

func rounded(p *float64, digits int) *float64 {
	if p == nil {
		return nil
	}
	k := math.Pow10(digits)
	v := math.Round(*p*k) / k
	return &v
}
