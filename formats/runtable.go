package formats

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"notchback/core/activity"
	"notchback/core/day"
)

// Mapping says which column of a run table holds what; −1 or missing for none.
type Mapping struct {
	Date      int    `json:"date"`
	Time      int    `json:"time"`
	Distance  int    `json:"distance"`
	Duration  int    `json:"duration"`
	Cadence   int    `json:"cadence"`
	Effort    int    `json:"effort"`
	Footwear  int    `json:"footwear"`
	Surface   int    `json:"surface"`
	Note      int    `json:"note"`
	Kind      *int   `json:"kind,omitempty" doc:"What was done: run, ride, gym; none where all rows are runs"`
	DateOrder string `json:"dateOrder" enum:"ymd,dmy,mdy"`
	Unit      string `json:"unit" enum:"km,m,mi" doc:"Of the distance"`
	Minutes   bool   `json:"minutes,omitempty" doc:"A plain duration is minutes, else seconds"`
	thousands bool   // a comma parts thousands in the distances
}

// Table is a run table as it was found, to map its columns on the screen.
type Table struct {
	Header  []string   `json:"header" nullable:"false"`
	Rows    [][]string `json:"rows" nullable:"false" doc:"The first few"`
	Count   int        `json:"count"`
	Mapping Mapping    `json:"mapping" doc:"A guess, or what was used for this header before"`
	Known   bool       `json:"known" doc:"The mapping was used before"`
}

// Limits of a table.
const (
	mostRows     = 20_000
	mostColumns  = 100
	shownRows    = 5
	metresOfMile = 1609.344
)

func readTable(b []byte) (rows [][]string, err error) {
	b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
	if len(b) > RunFileMost {
		return nil, bad("", "the file has %d MB; at most %d MB are read", len(b)>>20, RunFileMost>>20)
	}
	if bytes.IndexByte(b, 0) >= 0 {
		return nil, bad("", "this is not a table of text; save it as CSV")
	}
	if !utf8.Valid(b) { // as older spreadsheets save it
		if b, err = charmap.Windows1252.NewDecoder().Bytes(b); err != nil {
			return nil, bad("", "the text is neither UTF-8 nor Windows-1252; save it as CSV in UTF-8")
		}
	}
	first, _, _ := bytes.Cut(b, []byte("\n"))
	r := csv.NewReader(bytes.NewReader(b))
	best := bytes.Count(first, []byte(","))
	r.Comma = ','
	for _, c := range ";\t" {
		if n := bytes.Count(first, []byte(string(c))); n > best {
			best, r.Comma = n, c
		}
	}
	r.TrimLeadingSpace = true
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				why := "a quote stands where none may"
				if errors.Is(pe.Err, csv.ErrFieldCount) {
					why = "it has more or fewer columns than the header"
				}
				return nil, bad(fmt.Sprintf("line %d", pe.Line), "the table is damaged: %s", why)
			}
			return nil, bad("", "the table is damaged")
		}
		if len(row) > mostColumns {
			return nil, bad("", "more than %d columns", mostColumns)
		}
		if rows = append(rows, row); len(rows) > mostRows+1 {
			return nil, bad("", "more than %d rows", mostRows)
		}
	}
	if len(rows) < 2 {
		return nil, bad("", "a table needs a header and at least one row")
	}
	return rows, nil
}

// LookAtTable reads a table's header and first rows and guesses the mapping.
func LookAtTable(b []byte) (Table, error) {
	rows, err := readTable(b)
	if err != nil {
		return Table{}, err
	}
	t := Table{Header: rows[0], Count: len(rows) - 1, Rows: rows[1:min(len(rows), shownRows+1)]}
	t.Mapping = guess(rows[0], rows[1:])
	return t, nil
}

// HeaderKey is what a mapping is remembered under.
func HeaderKey(header []string) string {
	parts := make([]string, len(header))
	for i, h := range header {
		parts[i] = strings.ToLower(strings.TrimSpace(h))
	}
	return strings.Join(parts, "|")
}

func guess(header []string, rows [][]string) Mapping {
	tokens := func(i int) []string {
		return strings.FieldsFunc(strings.ToLower(header[i]), func(r rune) bool { return r < 'a' || r > 'z' })
	}
	find := func(words ...string) int {
		for _, w := range words {
			for i, h := range header {
				if strings.Contains(strings.ToLower(h), w) {
					return i
				}
			}
		}
		return -1
	}
	m := Mapping{Date: find("date", "day", "start"), Time: find("start time", "time of day", "clock"), Distance: find("distance", "km", "mile", "metre", "meter"),
		Duration: find("duration", "moving", "elapsed", "minutes", "time", "min"), Cadence: find("cadence", "spm", "steps"), Effort: find("effort", "rpe", "cr10"),
		Footwear: find("footwear", "shoe"), Surface: find("surface"), Note: find("note", "comment", "title"), Unit: "km", DateOrder: "ymd"}
	if m.Duration == m.Time || m.Duration == m.Date {
		m.Duration = find("duration", "moving", "elapsed", "minutes", "min")
	}
	if k := find("sport", "activity type", "kind", "type"); k >= 0 {
		m.Kind = &k
	}
	if m.Distance >= 0 {
		for _, w := range tokens(m.Distance) {
			switch w {
			case "mi", "mile", "miles":
				m.Unit = "mi"
			case "m", "metre", "metres", "meter", "meters":
				m.Unit = "m"
			}
		}
	}
	if m.Duration >= 0 {
		m.Minutes = slices.ContainsFunc(tokens(m.Duration), func(w string) bool { return w == "min" || w == "mins" || w == "minutes" })
	}
	if m.Date < 0 { // by what stands in it
		m.Date = slices.IndexFunc(header, func(h string) bool {
			i := slices.Index(header, h)
			return !slices.ContainsFunc(rows, func(r []string) bool { return i >= len(r) || !dated(r[i]) })
		})
	}
	if m.Date >= 0 {
		// A first part over 12 can only be a day, a second over 12 only a day.
		for _, r := range rows {
			if m.Date >= len(r) {
				continue
			}
			p := datePieces(r[m.Date])
			if len(p) < 3 || p[0] > 31 {
				continue
			}
			if m.DateOrder == "ymd" {
				m.DateOrder = "dmy"
			}
			if p[1] > 12 {
				m.DateOrder = "mdy"
			}
		}
	}
	return m
}

// dated reports a cell that is a date with a year of four digits.
func dated(s string) bool {
	p := datePieces(s)
	return len(p) >= 3 && slices.ContainsFunc(p[:3], func(n int) bool { return n >= earliestYear && n < 2200 })
}

func datePieces(s string) []int {
	var out []int
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return r < '0' || r > '9' }) {
		n, err := strconv.Atoi(f)
		if err != nil || len(f) > 4 {
			return nil
		}
		out = append(out, n)
	}
	return out
}

// ReadRunTable reads a table's runs with a mapping: all rows or an error that
// names the row and the column.
func ReadRunTable(b []byte, m Mapping, now time.Time) ([]RunFile, error) {
	rows, err := readTable(b)
	if err != nil {
		return nil, err
	}
	if m.Date < 0 || m.Distance < 0 || m.Duration < 0 {
		return nil, bad("", "say which columns hold date, distance and duration")
	}
	var out []RunFile
	m.thousands = groups(rows[1:], m.Distance, m.Unit)
	for i, row := range rows[1:] {
		if len(row) == 1 && strings.TrimSpace(row[0]) == "" {
			continue
		}
		r, err := m.read(row)
		if err == nil {
			err = r.checkLocal(now)
		}
		if err != nil {
			var re *ReadError
			if errors.As(err, &re) {
				re.Where = strings.TrimSuffix(fmt.Sprintf("row %d, %s", i+2, re.Where), ", ")
			}
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

func (r *RunFile) checkLocal(now time.Time) error {
	t, err := time.Parse("2006-01-02T15:04:05", r.Local)
	if err != nil {
		return bad("", "the date can't be read")
	}
	if t.Year() < earliestYear || t.After(now.Add(2*futureTolerance)) {
		return bad("", "the date can't be: %s", t.Format(time.DateOnly))
	}
	return r.check(now)
}

func (m Mapping) read(row []string) (RunFile, error) {
	cell := func(i int) string {
		if i < 0 || i >= len(row) {
			return ""
		}
		return strings.TrimSpace(row[i])
	}
	r := RunFile{Kind: "csv"}
	p := datePieces(cell(m.Date))
	if len(p) < 3 {
		return r, bad("column "+strconv.Itoa(m.Date+1), "%q is not a date", shorten(cell(m.Date)))
	}
	y, mo, d := p[0], p[1], p[2]
	switch m.DateOrder {
	case "dmy":
		y, mo, d = p[2], p[1], p[0]
	case "mdy":
		y, mo, d = p[2], p[0], p[1]
	}
	if y < 100 {
		y += 2000
	}
	if mo < 1 || mo > 12 || d < 1 || d > 31 {
		return r, bad("column "+strconv.Itoa(m.Date+1), "%q is not a date in the order chosen", shorten(cell(m.Date)))
	}
	clock := [3]int{}
	timed := false
	if c := datePieces(cell(m.Time)); m.Time >= 0 && m.Time != m.Date && len(c) >= 2 {
		copy(clock[:], c)
		timed = true
	} else if len(p) >= 5 {
		copy(clock[:], p[3:])
		timed = true
	}
	clock[0] = halfDay(clock[0], cell(m.Time)+" "+cell(m.Date))
	if clock[0] > 23 || clock[1] > 59 || clock[2] > 59 {
		return r, bad("", "the time of day can't be")
	}
	on := day.Make(y, time.Month(mo), d)
	if on.Time().Day() != d {
		return r, bad("column "+strconv.Itoa(m.Date+1), "%q is not a day of the calendar", shorten(cell(m.Date)))
	}
	r.Local = fmt.Sprintf("%sT%02d:%02d:%02d", on, clock[0], clock[1], clock[2])
	if !timed {
		r.Local = on.String() + "T00:00:00"
	}
	kind := "run" // a table of runs, where no column says otherwise
	if m.Kind != nil {
		kind = cell(*m.Kind)
	}
	if activity.Named(kind) == activity.Other { // what is left out needs no numbers
		r.Name = clip(cell(m.Note), 80)
		r.What = activity.Judge(activity.Hints{Sports: []string{kind}})
		return r, nil
	}
	dist, unit, err := length(cell(m.Distance), m.Unit, m.thousands)
	if err != nil {
		return r, bad("column "+strconv.Itoa(m.Distance+1), "distance %q is not a number", shorten(cell(m.Distance)))
	}
	switch unit {
	case "mi":
		dist *= metresOfMile
	case "m":
	default:
		dist *= 1000
	}
	if math.Abs(dist) > 1e7 {
		return r, bad("column "+strconv.Itoa(m.Distance+1), "distance %q can't be", shorten(cell(m.Distance)))
	}
	r.Metres = int(math.Round(dist))
	if r.Seconds, err = duration(cell(m.Duration), m.Minutes); err != nil {
		return r, bad("column "+strconv.Itoa(m.Duration+1), "duration %q is not like 45:30, 1:02:10 or a number", shorten(cell(m.Duration)))
	}
	if c := cell(m.Cadence); c != "" {
		if v, err := decimal(c); err == nil && v > 0 {
			r.setCadence(v, false)
		}
	}
	if c := cell(m.Effort); c != "" {
		v, err := decimal(c)
		if err != nil || v < 0 || v > 10 {
			return r, bad("column "+strconv.Itoa(m.Effort+1), "effort %q is not 0 to 10", shorten(c))
		}
		n := int(math.Round(v))
		r.Effort = &n
	}
	switch c := strings.ToLower(cell(m.Footwear)); {
	case strings.Contains(c, "bare"):
		r.Footwear = "bare"
	case strings.Contains(c, "minimal"), strings.Contains(c, "thin"):
		r.Footwear = "minimal"
	case c != "":
		r.Footwear = "usual"
	}
	r.Surface, r.Note = clip(cell(m.Surface), 60), clip(cell(m.Note), 500)
	r.Name = clip(r.Note, 80)
	r.judge(activity.Hints{Sports: []string{kind}})
	return r, nil
}

// halfDay is an hour of twelve as one of twenty-four, where the text says which half.
func halfDay(hour int, said string) int {
	s := strings.ReplaceAll(strings.ToLower(said), ".", "")
	words := strings.FieldsFunc(s, func(r rune) bool { return r < 'a' || r > 'z' })
	switch {
	case slices.Contains(words, "pm") && hour < 12:
		return hour + 12
	case slices.Contains(words, "am") && hour == 12:
		return 0
	}
	return hour
}

// groups reports whether a comma parts thousands in a column of distances: where metres
// are meant and each comma stands before three digits.
func groups(rows [][]string, column int, unit string) bool {
	any := false
	for _, r := range rows {
		if column >= len(r) {
			continue
		}
		_, u := cutUnit(r[column])
		if u == "" {
			u = unit
		}
		number, _ := cutUnit(r[column])
		_, after, found := strings.Cut(number, ",")
		if !found {
			continue
		}
		if u != "m" || len(after) != 3 {
			return false
		}
		any = true
	}
	return any
}

// cutUnit parts a length from its unit, where one is written beside it.
func cutUnit(s string) (number, unit string) {
	s = strings.ToLower(strings.TrimSpace(s))
	number = strings.TrimSpace(strings.TrimRight(s, "abcdefghijklmnopqrstuvwxyz. "))
	switch strings.Trim(s[len(number):], " .") {
	case "km", "kilometres", "kilometers":
		unit = "km"
	case "m", "metres", "meters":
		unit = "m"
	case "mi", "mile", "miles":
		unit = "mi"
	}
	return number, unit
}

func length(s, unit string, thousands bool) (float64, string, error) {
	number, own := cutUnit(s)
	if own != "" {
		unit = own
	}
	if thousands {
		number = strings.ReplaceAll(number, ",", "")
	}
	v, err := decimal(number)
	return v, unit, err
}

func clip(s string, n int) string {
	if len(s) <= n {
		return s
	}
	return strings.ToValidUTF8(s[:n], "")
}

// decimal reads a number with a decimal point or comma, its thousands parted by the
// other of the two, a blank or an apostrophe.
func decimal(s string) (float64, error) {
	s = strings.TrimSpace(strings.TrimRight(strings.ToLower(s), "kmi sp"))
	s = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "’", "").Replace(s)
	point, comma := strings.LastIndexByte(s, '.'), strings.LastIndexByte(s, ',')
	switch {
	case point >= 0 && comma > point:
		s = strings.ReplaceAll(strings.ReplaceAll(s, ".", ""), ",", ".")
	case comma >= 0 && point > comma, strings.Count(s, ",") > 1:
		s = strings.ReplaceAll(s, ",", "")
	case comma >= 0:
		s = strings.Replace(s, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(s, 64)
	if err == nil && (math.IsNaN(v) || math.IsInf(v, 0)) {
		err = strconv.ErrRange
	}
	return v, err
}

// inWords reads a duration like 1h 02m 10s or 45 min; false for none.
func inWords(s string) (int, bool) {
	m := spelled.FindStringSubmatch(strings.ToLower(strings.TrimSpace(s)))
	if m == nil || m[1]+m[2]+m[3] == "" {
		return 0, false
	}
	total := 0
	for i, of := range []int{3600, 60, 1} {
		if m[i+1] != "" {
			n, err := strconv.Atoi(m[i+1])
			if err != nil || n > 100_000 {
				return 0, false
			}
			total += n * of
		}
	}
	return total, true
}

var spelled = regexp.MustCompile(`^(?:(\d+)\s*(?:h|hr|hrs|hours?)\b?\s*)?(?:(\d+)\s*(?:m|min|mins|minutes?)\b?\s*)?(?:(\d+)\s*(?:s|sec|secs|seconds?)\b?)?$`)

func duration(s string, minutes bool) (int, error) {
	if n, ok := inWords(s); ok {
		return n, nil
	}
	parts := strings.Split(s, ":")
	if len(parts) == 1 {
		v, err := decimal(s)
		if err != nil || v < 0 || v > 1e6 {
			return 0, strconv.ErrSyntax
		}
		if minutes {
			v *= 60
		}
		return int(math.Round(v)), nil
	}
	if len(parts) > 3 {
		return 0, strconv.ErrSyntax
	}
	total := 0.0
	for i, p := range parts {
		v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(p), ",", ".", 1), 64)
		if err != nil || v < 0 || (i > 0 && v >= 60) || v > 1000 {
			return 0, strconv.ErrSyntax
		}
		total = total*60 + v
	}
	return int(math.Round(total)), nil
}

// RunRow is a run to write out.
type RunRow struct {
	RunFile
	On      day.Date
	Pain    *int
	Zone    string
	Side    string
	Limping bool
	Fast    bool
	Source  string
}

// RunsCSV writes runs as comma-separated values (RFC 4180), a header first; it
// reads back with the columns as they are named.
func RunsCSV(w io.Writer, rows []RunRow, zone *time.Location) error {
	c := newTable(w)
	c.row("date", "start time", "distance (m)", "duration", "cadence", "effort", "footwear", "surface", "fast", "pain", "zone", "side", "limping", "source", "type", "note")
	num := func(p *int) string {
		if p == nil {
			return ""
		}
		return strconv.Itoa(*p)
	}
	yes := map[bool]string{true: "yes", false: ""}
	for _, r := range rows {
		clock, cad := "", ""
		if !r.Start.IsZero() {
			clock = r.Start.In(zone).Format("15:04:05")
		}
		if r.CadenceSpm != nil {
			cad = strconv.FormatFloat(*r.CadenceSpm, 'f', -1, 64)
		}
		c.row(r.On.String(), clock, strconv.Itoa(r.Metres), fmt.Sprintf("%d:%02d:%02d", r.Seconds/3600, r.Seconds/60%60, r.Seconds%60), cad,
			num(r.Effort), r.Footwear, r.Surface, yes[r.Fast], num(r.Pain), r.Zone, r.Side, yes[r.Limping], r.Source, kindName(r.What.Kind, "run", "walk"), r.Note)
	}
	return c.done()
}

// kindName names an outing of ours; what is not said to be a walk is a run.
func kindName(k activity.Kind, run, walk string) string {
	if k == activity.Walk {
		return walk
	}
	return run
}

type gpxOut struct {
	XMLName xml.Name `xml:"http://www.topografix.com/GPX/1/1 gpx"`
	Version string   `xml:"version,attr"`
	Creator string   `xml:"creator,attr"`
	Tracks  []gpxTrk `xml:"trk"`
}
type gpxTrk struct {
	Name   string  `xml:"name"`
	Type   string  `xml:"type"`
	Points []gpxPt `xml:"trkseg>trkpt"`
}
type gpxPt struct {
	Lat  float64  `xml:"lat,attr"`
	Lon  float64  `xml:"lon,attr"`
	Ele  *float64 `xml:"ele,omitempty"`
	Time string   `xml:"time"`
}

// RunsGPX writes the runs that have a track as GPX 1.1 and returns how many.
func RunsGPX(w io.Writer, rows []RunRow) (int, error) {
	out := gpxOut{Version: "1.1", Creator: "Notchback"}
	for _, r := range rows {
		if len(r.Track) == 0 || r.Start.IsZero() {
			continue
		}
		t := gpxTrk{Name: kindName(r.What.Kind, "Run", "Walk") + " of " + r.On.String(), Type: kindName(r.What.Kind, "running", "walking")}
		for _, p := range r.Track {
			t.Points = append(t.Points, gpxPt{p.Lat, p.Lon, p.Metres, r.Start.Add(time.Duration(p.At) * time.Second).UTC().Format(time.RFC3339)})
		}
		out.Tracks = append(out.Tracks, t)
	}
	slices.SortStableFunc(out.Tracks, func(a, b gpxTrk) int { return strings.Compare(a.Name, b.Name) })
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return 0, err
	}
	e := xml.NewEncoder(w)
	e.Indent("", " ")
	return len(out.Tracks), e.Encode(out)
}

type tcxOut struct {
	XMLName    xml.Name      `xml:"http://www.garmin.com/xmlschemas/TrainingCenterDatabase/v2 TrainingCenterDatabase"` // the format's own name
	Activities []tcxActivity `xml:"Activities>Activity"`
}
type tcxActivity struct {
	Sport string   `xml:"Sport,attr"`
	ID    string   `xml:"Id"`
	Laps  []tcxLap `xml:"Lap"`
	Notes string   `xml:"Notes,omitempty"`
}
type tcxLap struct {
	Start     string  `xml:"StartTime,attr"`
	Seconds   int     `xml:"TotalTimeSeconds"`
	Metres    int     `xml:"DistanceMeters"`
	Calories  int     `xml:"Calories"` // the format asks for it; it is not known
	Intensity string  `xml:"Intensity"`
	Trigger   string  `xml:"TriggerMethod"`
	Points    []tcxPt `xml:"Track>Trackpoint,omitempty"`
	Cadence   float64 `xml:"Extensions>LX>AvgRunCadence,omitempty"`
}
type tcxPt struct {
	Time   string   `xml:"Time"`
	Lat    float64  `xml:"Position>LatitudeDegrees"`
	Lon    float64  `xml:"Position>LongitudeDegrees"`
	Height *float64 `xml:"AltitudeMeters,omitempty"`
}

// RunsTCX writes the runs whose start is known as TCX, with their laps, and returns how
// many. A track goes with the laps it lies in; cadence is of one foot, as the format has it.
func RunsTCX(w io.Writer, rows []RunRow) (int, error) {
	var out tcxOut
	for _, r := range rows {
		if r.Start.IsZero() || r.Seconds <= 0 {
			continue
		}
		a := tcxActivity{Sport: "Running", ID: r.Start.UTC().Format(time.RFC3339), Notes: r.Note}
		if r.What.Kind == activity.Walk {
			a.Sport = "Other"
		}
		laps := r.Laps
		if sum := 0; len(laps) > 0 {
			for _, l := range laps {
				sum += l.Seconds
			}
			if sum != r.Seconds { // laps that don't make up the run would make another one
				laps = nil
			}
		}
		if len(laps) == 0 {
			laps = []Lap{{Seconds: r.Seconds, Metres: r.Metres, Cadence: r.CadenceSpm}}
		}
		points := r.Track
		for i, l := range laps {
			x := tcxLap{Start: r.Start.Add(time.Duration(l.At) * time.Second).UTC().Format(time.RFC3339), Seconds: l.Seconds, Metres: l.Metres, Intensity: "Active", Trigger: "Manual"}
			if l.Rest {
				x.Intensity = "Resting"
			}
			if l.Cadence != nil {
				x.Cadence = *l.Cadence / 2
			}
			n := len(points)
			if i+1 < len(laps) {
				n, _ = slices.BinarySearchFunc(points, laps[i+1].At, func(p Point, at int) int { return p.At - at })
			}
			for _, p := range points[:n] {
				x.Points = append(x.Points, tcxPt{r.Start.Add(time.Duration(p.At) * time.Second).UTC().Format(time.RFC3339), p.Lat, p.Lon, p.Metres})
			}
			points = points[n:]
			a.Laps = append(a.Laps, x)
		}
		out.Activities = append(out.Activities, a)
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return 0, err
	}
	e := xml.NewEncoder(w)
	e.Indent("", " ")
	return len(out.Activities), e.Encode(out)
}
