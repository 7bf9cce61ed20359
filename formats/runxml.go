package formats

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"notchback/core/activity"
)

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

// charset reads a document in the letters it says it is written in.
func charset(label string, in io.Reader) (io.Reader, error) {
	e, err := htmlindex.Get(label)
	if err != nil {
		return nil, bad("", "the text is in %q, which is not known", shorten(label))
	}
	return e.NewDecoder().Reader(in), nil
}

// asUTF8 is a text in letters of two bytes as UTF-8; nil where it is none.
func asUTF8(b []byte) []byte {
	if !bytes.HasPrefix(b, []byte("\xff\xfe")) && !bytes.HasPrefix(b, []byte("\xfe\xff")) {
		return nil
	}
	out, _, err := transform.Bytes(unicode.BOMOverride(transform.Nop), b)
	if err != nil {
		return nil
	}
	if i := bytes.Index(out[:min(len(out), 200)], []byte("?>")); i > 0 && bytes.HasPrefix(out, []byte("<?xml")) {
		out = out[i+2:] // it says the letters it is no longer in
	}
	return out
}

// walk reads XML token by token: no document type (and so no entities of its own), no
// deeper than mostDepth. fn gets the path of open elements.
func walk(b []byte, start func(path trail, e xml.StartElement) error, text func(path trail, s []byte) error, end func(path trail) error) error {
	if wide := asUTF8(b); wide != nil {
		b = wide
	}
	d := xml.NewDecoder(bytes.NewReader(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))))
	d.CharsetReader = charset
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
			return bad(where(), "the file is damaged or breaks off here")
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
				if err := text(path, t); err != nil {
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

// xmlPoint is a point of a track; NaN where something was not written.
type xmlPoint struct {
	at       time.Time
	piece    int // of the track
	lat, lon float64
	height   float64
	metres   float64
	cadence  float64
	heart    float64
}

func (p *xmlPoint) clear(piece int) {
	*p = xmlPoint{piece: piece, lat: nan, lon: nan, height: nan, metres: nan, cadence: nan, heart: nan}
}

func (p xmlPoint) placed() bool { return !math.IsNaN(p.lat) && !math.IsNaN(p.lon) }

// xmlRun collects an outing of an XML file.
type xmlRun struct {
	run      RunFile
	hints    activity.Hints
	points   []xmlPoint
	piece    int
	untimed  int
	displace int // points without a place on the globe
	seconds  float64
	metres   float64
}

func (t *xmlRun) add(p xmlPoint) error {
	if len(t.points) >= mostPoints {
		return bad("", "more than %d points", mostPoints)
	}
	if p.at.IsZero() {
		t.untimed++
		return nil
	}
	t.points = append(t.points, p)
	return nil
}

// order puts points that stand before their neighbour right; a clock that went back for
// longer is an error.
func (t *xmlRun) order() error {
	swapped := 0
	for i := 1; i < len(t.points); i++ {
		if t.points[i].at.Before(t.points[i-1].at) {
			swapped++
		}
	}
	if swapped == 0 {
		return nil
	}
	if float64(swapped) > max(mostSwapped*float64(len(t.points)), float64(min(3, len(t.points)/20))) {
		return bad("", "the times go backwards at %d of %d points", swapped, len(t.points))
	}
	slices.SortStableFunc(t.points, func(a, b xmlPoint) int { return a.at.Compare(b.at) })
	t.run.Notes = append(t.run.Notes, fmt.Sprintf("%d points stood out of order", swapped))
	return nil
}

// done turns what was collected into an outing.
func (t *xmlRun) done(kind string) (RunFile, error) {
	r := t.run
	r.Kind = kind
	if err := t.order(); err != nil {
		return r, err
	}
	if t.untimed > 0 {
		r.Notes = append(t.run.Notes, fmt.Sprintf("%d points without a time were left out", t.untimed))
	} else {
		r.Notes = t.run.Notes
	}
	if t.displace > 0 {
		r.Notes = append(r.Notes, fmt.Sprintf("%d points without a place were left out", t.displace))
	}
	if len(t.points) == 0 {
		r.Seconds, r.Metres = int(math.Round(t.seconds)), int(math.Round(t.metres))
		t.finish(&r)
		return r, nil
	}
	first := t.points[0].at
	if r.Start.IsZero() || first.Before(r.Start) {
		r.Start = first
	}
	var pace pacer
	var up climb
	var cadence, heart mean
	var moved, moving, most, far float64
	var last *xmlPoint
	for i := range t.points {
		p := &t.points[i]
		if p.cadence > 0 {
			cadence.add(p.cadence)
		}
		if p.heart > 0 {
			heart.add(p.heart)
			most = math.Max(most, p.heart)
		}
		if p.metres > far {
			far = p.metres
		}
		if !p.placed() {
			if !math.IsNaN(p.metres) {
				pace.add(p.at.Sub(first).Seconds(), p.metres)
			}
			continue
		}
		var height *float64
		if !math.IsNaN(p.height) {
			height = &p.height
			up.add(p.height)
		}
		if last != nil {
			dt := p.at.Sub(last.at)
			if dt == 0 {
				dt = time.Second // two points of one second
			}
			switch d := haversine(last.lat, last.lon, p.lat, p.lon); {
			case p.piece != last.piece && dt > joined: // a pause
				pace.pause()
			case dt > 0 && d/dt.Seconds() <= jumpSpeed:
				moved += d
				if d/dt.Seconds() >= stillSpeed {
					moving += p.at.Sub(last.at).Seconds()
				}
			}
		}
		pace.add(p.at.Sub(first).Seconds(), moved)
		last = p
		r.Track = append(r.Track, Point{At: int(p.at.Sub(r.Start) / time.Second), Lat: p.lat, Lon: p.lon, Metres: height})
	}
	r.Elapsed = int(t.points[len(t.points)-1].at.Sub(r.Start).Round(time.Second) / time.Second)
	switch {
	case t.metres > 0:
		r.Metres = int(math.Round(t.metres))
	case far > 0:
		r.Metres = int(math.Round(far))
	default:
		r.Metres = int(math.Round(moved))
	}
	switch {
	case t.seconds > 0:
		r.Seconds = int(math.Round(t.seconds))
	case moving > 0:
		r.Seconds = int(math.Round(moving))
	default:
		r.Seconds = r.Elapsed
	}
	r.HeartRate = rounded(heart.value(), 0)
	if most > 0 {
		r.HeartMost = &most
	}
	if up.any {
		r.Ascent = rounded(&up.sum, 0)
	}
	if c := cadence.value(); c != nil {
		t.hints.Cadence = *c
	}
	t.hints.FastMs = pace.fast()
	t.finish(&r)
	return r, nil
}

func (t *xmlRun) finish(r *RunFile) {
	if t.hints.Cadence > 0 {
		r.setCadence(t.hints.Cadence, false)
	}
	if d := r.Dynamics; d != nil && *d == (Dynamics{}) {
		r.Dynamics = nil
	}
	r.judge(t.hints)
}

func number(s []byte, what string) (float64, error) {
	v, err := strconv.ParseFloat(string(bytes.TrimSpace(s)), 64)
	if err != nil || math.IsInf(v, 0) {
		return 0, bad("", "%s %q is not a number", what, shorten(string(s)))
	}
	return v, nil
}

func shorten(s string) string {
	s = strings.TrimSpace(s)
	if len(s) > 40 {
		return strings.ToValidUTF8(s[:40], "") + "…"
	}
	return s
}

// moment reads a time; one without a zone is UTC, as both formats have it.
func moment(s []byte) (time.Time, error) {
	v := string(bytes.TrimSpace(s))
	t, err := time.Parse(time.RFC3339, v)
	if err != nil {
		if t, err = time.Parse("2006-01-02T15:04:05", v); err != nil {
			return t, bad("", "time %q is not like 2026-05-04T06:30:00Z", shorten(v))
		}
	}
	return t, nil
}

// zoneOf is a time's offset where it is written in a zone of its own.
func zoneOf(t time.Time) *int {
	if _, off := t.Zone(); off != 0 {
		return &off
	}
	return nil
}

func blank(s []byte) bool { return len(bytes.TrimSpace(s)) == 0 }

func words(s []byte) string { return clip(strings.TrimSpace(string(s)), 80) }

func readGPX(b []byte) ([]RunFile, error) {
	var out []RunFile
	var cur *xmlRun
	var p xmlPoint
	device, routes := "", 0
	err := walk(b, func(_ trail, e xml.StartElement) error {
		switch e.Name.Local {
		case "gpx":
			for _, a := range e.Attr {
				if a.Name.Local == "creator" {
					device = clip(a.Value, 80)
				}
			}
		case "rte", "wpt":
			routes++
		case "trk":
			cur = &xmlRun{run: RunFile{Device: device}}
		case "trkseg":
			if cur != nil {
				cur.piece++
			}
		case "trkpt":
			if cur == nil {
				return bad("", "a point outside a track")
			}
			p.clear(cur.piece)
			for _, a := range e.Attr {
				into, what := &p.lat, "latitude"
				switch a.Name.Local {
				case "lat":
				case "lon":
					into, what = &p.lon, "longitude"
				default:
					continue
				}
				v, err := number([]byte(a.Value), what)
				if err != nil {
					return err
				}
				*into = v
			}
			if p.placed() && (math.Abs(p.lat) > 90 || math.Abs(p.lon) > 180) {
				return bad("", "a point without a place on the globe")
			}
		}
		return nil
	}, func(path trail, s []byte) (err error) {
		if cur == nil || blank(s) {
			return nil
		}
		switch parent, name := path.parent(), path.name(); name {
		case "type":
			if parent == "trk" {
				cur.hints.Sports = append(cur.hints.Sports, words(s))
			}
		case "name":
			if parent == "trk" {
				cur.run.Name += words(s)
			}
		case "time":
			if parent == "trkpt" {
				p.at, err = moment(s)
				if cur.run.Offset == nil {
					cur.run.Offset = zoneOf(p.at)
				}
			}
		case "ele":
			if parent == "trkpt" {
				p.height, err = number(s, "height")
			}
		case "cad", "cadence":
			p.cadence, err = number(s, "cadence")
		case "hr", "heartrate":
			p.heart, err = number(s, "heart rate")
		case "power", "PowerInWatts":
			cur.hints.Power = true
		case "gear":
			cur.hints.Gear = true
		}
		return err
	}, func(path trail) error {
		switch path.name() {
		case "trkpt":
			if cur == nil {
				return bad("", "a point outside a track")
			}
			if !p.placed() {
				cur.displace++
				return nil
			}
			return cur.add(p)
		case "trk":
			if cur == nil || len(cur.points) == 0 {
				if cur != nil && cur.untimed > 0 {
					return bad("", "the points have no times: a route is not a run")
				}
				if cur != nil && cur.displace > 0 {
					return bad("", "no point has a place on the globe")
				}
				cur = nil
				return nil
			}
			r, err := cur.done("gpx")
			out, cur = append(out, r), nil
			return err
		}
		return nil
	})
	if err == nil && len(out) == 0 && routes > 0 {
		err = bad("", "this is a route to follow, not a run")
	}
	return out, err
}

func readTCX(b []byte) ([]RunFile, error) {
	var out []RunFile
	var cur *xmlRun
	var p xmlPoint
	var lap Lap
	var lapSeconds, lapMetres, lapCadence float64
	var lapStart time.Time
	var weighed, weight, laps float64
	courses, plans := 0, 0
	err := walk(b, func(_ trail, e xml.StartElement) error {
		switch e.Name.Local {
		case "Course":
			courses++
		case "Workout":
			plans++
		case "Activity":
			cur = &xmlRun{}
			laps, weighed, weight = 0, 0, 0
			for _, a := range e.Attr {
				if a.Name.Local == "Sport" {
					cur.hints.Sports = append(cur.hints.Sports, a.Value)
				}
			}
		case "Lap":
			if cur == nil {
				return nil
			}
			laps++
			cur.piece++
			lap, lapSeconds, lapMetres, lapCadence, lapStart = Lap{}, 0, 0, 0, time.Time{}
			for _, a := range e.Attr {
				if a.Name.Local == "StartTime" {
					t, err := moment([]byte(a.Value))
					if err != nil {
						return err
					}
					lapStart = t
					if cur.run.Start.IsZero() {
						cur.run.Start, cur.run.Offset = t, zoneOf(t)
					}
				}
			}
		case "Track":
			if cur != nil {
				cur.piece++
			}
		case "Trackpoint":
			if cur != nil {
				p.clear(cur.piece)
			}
		}
		return nil
	}, func(path trail, s []byte) (err error) {
		if cur == nil || blank(s) {
			return nil
		}
		switch parent, name := path.parent(), path.name(); name {
		case "TotalTimeSeconds":
			if parent == "Lap" {
				lapSeconds, err = number(s, "time")
			}
		case "DistanceMeters":
			switch parent {
			case "Lap":
				if lapMetres, err = number(s, "distance"); err == nil && lapMetres < 0 {
					err = bad("", "a negative distance can't be")
				}
			case "Trackpoint":
				p.metres, err = number(s, "distance")
			}
		case "Intensity":
			lap.Rest = strings.EqualFold(words(s), "resting")
		case "Cadence":
			if parent == "Lap" {
				lapCadence, err = number(s, "cadence")
			} else {
				p.cadence, err = number(s, "cadence")
			}
		case "AvgRunCadence":
			lapCadence, err = number(s, "cadence")
		case "RunCadence":
			p.cadence, err = number(s, "cadence")
		case "Time":
			if parent == "Trackpoint" {
				p.at, err = moment(s)
			}
		case "LatitudeDegrees":
			p.lat, err = number(s, "latitude")
		case "LongitudeDegrees":
			p.lon, err = number(s, "longitude")
		case "AltitudeMeters":
			p.height, err = number(s, "height")
		case "Value":
			if parent == "HeartRateBpm" && path.up(2) == "Trackpoint" {
				p.heart, err = number(s, "heart rate")
			}
		case "Watts":
			cur.hints.Power = true
		case "Notes":
			if parent == "Activity" {
				cur.run.Name = words(s)
			}
		case "Name":
			if parent == "Creator" {
				cur.run.Device = words(s)
			}
		}
		return err
	}, func(path trail) error {
		if cur == nil {
			return nil
		}
		switch path.name() {
		case "Trackpoint":
			if p.placed() && (math.Abs(p.lat) > 90 || math.Abs(p.lon) > 180) {
				return bad("", "a point without a place on the globe")
			}
			return cur.add(p)
		case "Lap":
			cur.seconds += lapSeconds
			cur.metres += lapMetres
			if lapCadence > 0 {
				weighed += lapCadence * lapSeconds
				weight += lapSeconds
			}
			lap.Seconds, lap.Metres = int(math.Round(min(max(lapSeconds, 0), mostRunSeconds))), int(math.Round(min(lapMetres, mostRunMetres)))
			if at := lapStart.Sub(cur.run.Start); !lapStart.IsZero() && at > 0 && at < mostRunSeconds*time.Second {
				lap.At = int(at / time.Second)
			}
			if lapCadence > 0 && lap.Seconds > 0 {
				c, _ := activity.SpmFrom(lapCadence, float64(lap.Metres)/float64(lap.Seconds))
				lap.Cadence = rounded(&c, 1)
			}
			if len(cur.run.Laps) < mostLaps {
				cur.run.Laps = append(cur.run.Laps, lap)
			}
		case "Activity":
			if laps == 0 {
				return bad("", "an activity without a lap")
			}
			if weight > 0 {
				cur.hints.Cadence = weighed / weight
			}
			r, err := cur.done("tcx")
			out, cur = append(out, r), nil
			return err
		}
		return nil
	})
	switch {
	case err == nil && len(out) == 0 && courses > 0:
		err = bad("", "this is a course to follow, not a run")
	case err == nil && len(out) == 0 && plans > 0:
		err = bad("", "this is a planned workout, not a run")
	}
	return out, err
}
