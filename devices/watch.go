// Package devices holds simulated stand-ins for things a practice may own: they
// exist to try the program and its readers, and are off unless asked for.
package devices

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"time"

	"github.com/muktihari/fit/encoder"
	"github.com/muktihari/fit/profile/filedef"
	"github.com/muktihari/fit/profile/mesgdef"
	"github.com/muktihari/fit/profile/typedef"
)

// Outing is one simulated run.
type Outing struct {
	Start      time.Time
	Metres     float64
	PaceSecond float64 // seconds a kilometre
	Cadence    float64 // steps of both feet a minute
	Contact    float64 // ms of a foot on the ground; 0 where it is not measured
	Bounce     float64 // mm up and down; 0 where it is not measured
}

// Seconds is how long the outing takes.
func (o Outing) Seconds() int { return int(math.Round(o.Metres / 1000 * o.PaceSecond)) }

type sample struct {
	at       time.Time
	lat, lon float64
	metres   float64
	height   float64
	cadence  float64 // one foot
}

// The made-up island lies in open sea.
const (
	islandLat, islandLon = 38.4, -40.2
	sampleEvery          = 5 // seconds
	metresPerDegree      = 6_371_000 * math.Pi / 180
)

// samples lays an outing on a loop round the made-up island.
func (o Outing) samples(seed uint64) []sample {
	r := rand.New(rand.NewPCG(seed, 1))
	total := o.Seconds()
	n := max(2, total/sampleEvery)
	radius := 900.0
	var out []sample
	for i := 0; i <= n; i++ {
		f := float64(i) / float64(n)
		d := f * o.Metres
		a := d / radius
		out = append(out, sample{
			at:  o.Start.Add(time.Duration(math.Round(f*float64(total))) * time.Second),
			lat: islandLat + radius*math.Sin(a)/metresPerDegree, lon: islandLon + radius*math.Cos(a)/(metresPerDegree*math.Cos(islandLat*math.Pi/180)),
			metres: d, height: 12 + 6*math.Sin(a*2), cadence: math.Round(o.Cadence/2 + r.NormFloat64()),
		})
	}
	return out
}

// FIT writes an outing as a FIT activity.
func (o Outing) FIT(seed uint64) ([]byte, error) {
	a := filedef.NewActivity()
	a.FileId = *mesgdef.NewFileId(nil).SetType(typedef.FileActivity).SetManufacturer(typedef.ManufacturerDevelopment).SetProductName("stand-in watch").SetTimeCreated(o.Start)
	ss := o.samples(seed)
	for _, s := range ss {
		a.Records = append(a.Records, mesgdef.NewRecord(nil).SetTimestamp(s.at).SetDistanceScaled(s.metres).SetCadence(uint8(s.cadence)).
			SetPositionLatDegrees(s.lat).SetPositionLongDegrees(s.lon).SetEnhancedAltitudeScaled(s.height))
	}
	end := ss[len(ss)-1].at
	secs := float64(o.Seconds())
	lap := mesgdef.NewLap(nil).SetTimestamp(end).SetStartTime(o.Start).SetTotalElapsedTimeScaled(secs).SetTotalTimerTimeScaled(secs).SetTotalDistanceScaled(o.Metres)
	a.Laps = append(a.Laps, lap)
	session := mesgdef.NewSession(nil)
	if o.Contact > 0 {
		session.SetAvgStanceTimeScaled(o.Contact)
	}
	if o.Bounce > 0 {
		session.SetAvgVerticalOscillationScaled(o.Bounce)
	}
	a.Sessions = append(a.Sessions, session.SetTimestamp(end).SetStartTime(o.Start).SetSport(typedef.SportRunning).SetTotalElapsedTimeScaled(secs).
		SetTotalTimerTimeScaled(secs).SetTotalDistanceScaled(o.Metres).SetAvgCadence(uint8(math.Round(o.Cadence/2))))
	a.Activity = mesgdef.NewActivity(nil).SetTimestamp(end).SetTotalTimerTimeScaled(secs).SetNumSessions(1).SetType(typedef.ActivityManual)
	f := a.ToFIT(nil)
	var b bytes.Buffer
	err := encoder.New(&b).Encode(&f)
	return b.Bytes(), err
}

type gpxPoint struct {
	Lat  float64 `xml:"lat,attr"`
	Lon  float64 `xml:"lon,attr"`
	Ele  float64 `xml:"ele"`
	Time string  `xml:"time"`
	Cad  float64 `xml:"extensions>TrackPointExtension>cad"`
}

// GPX writes an outing as GPX 1.1.
func (o Outing) GPX(seed uint64) ([]byte, error) {
	type doc struct {
		XMLName xml.Name   `xml:"http://www.topografix.com/GPX/1/1 gpx"`
		Version string     `xml:"version,attr"`
		Creator string     `xml:"creator,attr"`
		Name    string     `xml:"trk>name"`
		Type    string     `xml:"trk>type"`
		Points  []gpxPoint `xml:"trk>trkseg>trkpt"`
	}
	d := doc{Version: "1.1", Creator: "stand-in watch", Name: "Loop", Type: "running"}
	for _, s := range o.samples(seed) {
		d.Points = append(d.Points, gpxPoint{s.lat, s.lon, s.height, s.at.UTC().Format(time.RFC3339), s.cadence})
	}
	b, err := xml.Marshal(d)
	return append([]byte(xml.Header), b...), err
}

// TCX writes an outing as a TCX v2 activity.
func (o Outing) TCX(seed uint64) ([]byte, error) {
	type point struct {
		Time string  `xml:"Time"`
		Lat  float64 `xml:"Position>LatitudeDegrees"`
		Lon  float64 `xml:"Position>LongitudeDegrees"`
		Alt  float64 `xml:"AltitudeMeters"`
		Dist float64 `xml:"DistanceMeters"`
		Cad  float64 `xml:"Extensions>TPX>RunCadence"`
	}
	type lap struct {
		Start   string  `xml:"StartTime,attr"`
		Seconds float64 `xml:"TotalTimeSeconds"`
		Metres  float64 `xml:"DistanceMeters"`
		Points  []point `xml:"Track>Trackpoint"`
	}
	type activity struct {
		Sport string `xml:"Sport,attr"`
		ID    string `xml:"Id"`
		Lap   lap    `xml:"Lap"`
	}
	type doc struct {
		XMLName  xml.Name `xml:"TrainingCenterDatabase"`
		Activity activity `xml:"Activities>Activity"`
	}
	start := o.Start.UTC().Format(time.RFC3339)
	d := doc{Activity: activity{Sport: "Running", ID: start, Lap: lap{Start: start, Seconds: float64(o.Seconds()), Metres: o.Metres}}}
	for _, s := range o.samples(seed) {
		d.Activity.Lap.Points = append(d.Activity.Lap.Points, point{s.at.UTC().Format(time.RFC3339), s.lat, s.lon, s.height, s.metres, s.cadence})
	}
	b, err := xml.Marshal(d)
	return append([]byte(xml.Header), b...), err
}

// Outings are the runs of some weeks up to a moment: four a week, one of them
// long, in the morning.
func Outings(until time.Time, weeks int, weeklyKm float64, seed uint64) []Outing {
	r := rand.New(rand.NewPCG(seed, 2))
	share := map[time.Weekday]float64{time.Tuesday: 0.2, time.Thursday: 0.22, time.Saturday: 0.2, time.Sunday: 0.38}
	var out []Outing
	for d := 7 * weeks; d >= 1; d-- {
		at := until.AddDate(0, 0, -d)
		s, ok := share[at.Weekday()]
		if !ok {
			continue
		}
		km := weeklyKm * s * (1 + 0.06*r.NormFloat64())
		out = append(out, Outing{Start: time.Date(at.Year(), at.Month(), at.Day(), 7, 10+r.IntN(20), r.IntN(60), 0, at.Location()), Metres: math.Max(1500, km*1000), PaceSecond: 340 + 15*r.NormFloat64(), Cadence: 166 + 2*r.NormFloat64()})
	}
	return out
}

// Drop writes outings into a folder as a watch would, one file each, FIT, TCX
// and GPX in turn, and returns their names.
func Drop(dir string, list []Outing) ([]string, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	return files(list, func(name string, b []byte) error { return os.WriteFile(filepath.Join(dir, name), b, 0o644) })
}

// Pack is the same as one ZIP file.
func Pack(list []Outing) ([]byte, error) {
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	_, err := files(list, func(name string, b []byte) error {
		w, err := z.Create(name)
		if err != nil {
			return err
		}
		_, err = w.Write(b)
		return err
	})
	err = errors.Join(err, z.Close())
	return buf.Bytes(), err
}

func files(list []Outing, put func(name string, b []byte) error) ([]string, error) {
	var names []string
	for i, o := range list {
		kinds := []struct {
			ext   string
			write func(uint64) ([]byte, error)
		}{{"fit", o.FIT}, {"tcx", o.TCX}, {"gpx", o.GPX}}
		k := kinds[i%len(kinds)]
		b, err := k.write(uint64(i))
		if err != nil {
			return names, err
		}
		name := fmt.Sprintf("%s.%s", o.Start.UTC().Format("2006-01-02-150405"), k.ext)
		if err := put(name, b); err != nil {
			return names, err
		}
		names = append(names, name)
	}
	return names, nil
}
