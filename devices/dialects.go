package devices

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"encoding/csv"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/muktihari/fit/encoder"
	"github.com/muktihari/fit/profile/basetype"
	"github.com/muktihari/fit/profile/mesgdef"
	"github.com/muktihari/fit/profile/typedef"
	"github.com/muktihari/fit/proto"
	"golang.org/x/text/encoding/charmap"
)

// Truth is what an outing of a file really was. What a file does not hold is zero.
type Truth struct {
	What    string // run, walk, other, asked
	Start   time.Time
	Metres  float64
	Seconds int // moving
	Cadence float64
	Contact float64 // ms
	Effort  int
	Laps    int
	Points  bool // a track
	Offset  int  // seconds east of UTC, where the file says
}

// Dialect is a file as some device or application writes it, with its truth. Refused says
// what a reader must answer where it is no outing or can't be read.
type Dialect struct {
	Name    string
	Data    []byte
	Truth   []Truth
	Refused string
}

// fitLeg is a leg of a FIT file to write.
type fitLeg struct {
	Outing
	sport     typedef.Sport
	sub       typedef.SubSport
	name      string
	dynamics  bool
	power     bool
	effort    uint8
	laps      int
	noTrack   bool
	noCadence bool
}

func (l fitLeg) end() time.Time { return l.Start.Add(time.Duration(l.Seconds()) * time.Second) }

// half is a cadence of one foot in whole and fraction, as the profile has it.
func half(both float64) (uint8, float64) {
	whole := math.Floor(both / 2)
	return uint8(whole), both/2 - whole
}

func (l fitLeg) records(seed uint64) []proto.Message {
	var out []proto.Message
	whole, part := half(l.Cadence)
	for _, s := range l.samples(seed) {
		r := mesgdef.NewRecord(nil).SetTimestamp(s.at).SetDistanceScaled(s.metres).SetEnhancedAltitudeScaled(s.height).SetHeartRate(148)
		if !l.noCadence {
			r.SetCadence(whole).SetFractionalCadenceScaled(part)
		}
		if !l.noTrack {
			r.SetPositionLatDegrees(s.lat).SetPositionLongDegrees(s.lon)
		}
		if l.dynamics {
			r.SetStanceTimeScaled(248).SetVerticalOscillationScaled(86).SetStanceTimeBalanceScaled(50.4).SetStepLengthScaled(1030)
		}
		if l.power {
			r.SetPower(231)
		}
		out = append(out, r.ToMesg(nil))
	}
	return out
}

func (l fitLeg) summary() []proto.Message {
	secs := float64(l.Seconds())
	whole, part := half(l.Cadence)
	s := mesgdef.NewSession(nil).SetTimestamp(l.end()).SetStartTime(l.Start).SetSport(l.sport).SetSubSport(l.sub).SetTotalElapsedTimeScaled(secs).SetTotalTimerTimeScaled(secs).SetTotalDistanceScaled(l.Metres).SetAvgHeartRate(148)
	if !l.noCadence {
		s.SetAvgCadence(whole).SetAvgFractionalCadenceScaled(part)
	}
	if l.dynamics {
		s.SetAvgStanceTimeScaled(248).SetAvgVerticalOscillationScaled(86).SetAvgStanceTimeBalanceScaled(50.4).SetAvgStepLengthScaled(1030)
	}
	if l.effort > 0 {
		s.SetWorkoutRpe(l.effort * 10)
	}
	if l.name != "" {
		s.SetSportProfileName(l.name)
	}
	var out []proto.Message
	n := max(1, l.laps)
	for i := range n {
		at := l.Start.Add(time.Duration(i*l.Seconds()/n) * time.Second)
		out = append(out, mesgdef.NewLap(nil).SetTimestamp(at.Add(time.Duration(l.Seconds()/n)*time.Second)).SetStartTime(at).SetTotalElapsedTimeScaled(secs/float64(n)).SetTotalTimerTimeScaled(secs/float64(n)).SetTotalDistanceScaled(l.Metres/float64(n)).ToMesg(nil))
	}
	return append(out, s.ToMesg(nil))
}

func fitID(kind typedef.File, at time.Time) proto.Message {
	return mesgdef.NewFileId(nil).SetType(kind).SetManufacturer(typedef.ManufacturerDevelopment).SetProductName("stand-in watch").SetTimeCreated(at).ToMesg(nil)
}

func fitEnd(at time.Time, sessions int, zone *int) proto.Message {
	a := mesgdef.NewActivity(nil).SetTimestamp(at).SetNumSessions(uint16(sessions)).SetType(typedef.ActivityManual)
	if zone != nil {
		a.SetLocalTimestamp(at.Add(time.Duration(*zone) * time.Second))
	}
	return a.ToMesg(nil)
}

func timer(at time.Time, kind typedef.EventType) proto.Message {
	return mesgdef.NewEvent(nil).SetTimestamp(at).SetEvent(typedef.EventTimer).SetEventType(kind).ToMesg(nil)
}

func fitFile(list ...proto.Message) []byte {
	var b bytes.Buffer
	if err := encoder.New(&b, encoder.WithProtocolVersion(proto.V2)).Encode(&proto.FIT{Messages: list}); err != nil {
		panic(err) // of our own making
	}
	return b.Bytes()
}

func joined(parts ...[]proto.Message) (out []proto.Message) {
	for _, p := range parts {
		out = append(out, p...)
	}
	return out
}

func one(m proto.Message) []proto.Message { return []proto.Message{m} }

// Dialects are files of an outing as different devices write them, good and bad.
func Dialects(o Outing, seed uint64) []Dialect {
	return joinedDialects(fitDialects(o, seed), gpxDialects(o, seed), tcxDialects(o, seed), tableDialects(o), packedDialects(o, seed))
}

func joinedDialects(parts ...[]Dialect) (out []Dialect) {
	for _, p := range parts {
		out = append(out, p...)
	}
	return out
}

func (o Outing) truth(what string) Truth {
	return Truth{What: what, Start: o.Start, Metres: o.Metres, Seconds: o.Seconds(), Cadence: o.Cadence, Points: true}
}

func fitDialects(o Outing, seed uint64) []Dialect {
	id := one(fitID(typedef.FileActivity, o.Start))
	run := fitLeg{Outing: o, sport: typedef.SportRunning, sub: typedef.SubSportGeneric}
	end := func(l fitLeg) []proto.Message { return one(fitEnd(l.end(), 1, nil)) }
	whole := func(l fitLeg) []byte { return fitFile(joined(id, l.records(seed), l.summary(), end(l))...) }
	with := func(change func(*fitLeg)) fitLeg { l := run; change(&l); return l }
	truth := func(what string, change func(*Truth)) []Truth {
		t := o.truth(what)
		if change != nil {
			change(&t)
		}
		return []Truth{t}
	}
	var out []Dialect
	add := func(name string, data []byte, t []Truth) {
		out = append(out, Dialect{Name: name, Data: data, Truth: t})
	}
	refused := func(name string, data []byte, why string) {
		out = append(out, Dialect{Name: name, Data: data, Refused: why})
	}

	odd := with(func(l *fitLeg) { l.Cadence = 161.4 })
	add("fraction of a cadence.fit", whole(odd), truth("run", func(t *Truth) { t.Cadence = 161.4 }))
	add("summary first.fit", fitFile(joined(id, run.summary(), end(run), run.records(seed))...), truth("run", nil))
	second := run
	second.Start, second.Metres, second.Cadence = o.Start.Add(3*time.Hour), o.Metres/2, o.Cadence+8
	add("two runs.fit", fitFile(joined(id, run.records(seed), run.summary(), second.records(seed), second.summary(), one(fitEnd(second.end(), 2, nil)))...), []Truth{o.truth("run"), second.truth("run")})
	swim, ride, leg := run, run, run
	swim.sport, swim.Metres, swim.PaceSecond, swim.Cadence = typedef.SportSwimming, 750, 1200, 60
	ride.sport, ride.Start, ride.Metres, ride.PaceSecond, ride.Cadence = typedef.SportCycling, swim.end().Add(2*time.Minute), 20_000, 120, 170
	leg.Start = ride.end().Add(time.Minute)
	change := fitLeg{Outing: Outing{Start: swim.end(), Metres: 150, PaceSecond: 800}, sport: typedef.SportTransition}
	add("three sports.fit", fitFile(joined(id, swim.records(seed), swim.summary(), change.records(seed), change.summary(), ride.records(seed), ride.summary(), leg.records(seed), leg.summary(), one(fitEnd(leg.end(), 4, nil)))...),
		[]Truth{swim.truth("other"), ride.truth("other"), leg.truth("run")})
	add("treadmill.fit", whole(with(func(l *fitLeg) { l.sub, l.noTrack = typedef.SubSportTreadmill, true })), truth("run", func(t *Truth) { t.Points = false }))
	add("gym machine that is a treadmill.fit", whole(with(func(l *fitLeg) {
		l.sport, l.sub, l.noTrack = typedef.SportFitnessEquipment, typedef.SubSportTreadmill, true
	})), truth("run", func(t *Truth) { t.Points = false }))
	add("intervals.fit", whole(with(func(l *fitLeg) { l.laps = 8 })), truth("run", func(t *Truth) { t.Laps = 8 }))
	add("dynamics.fit", whole(with(func(l *fitLeg) { l.dynamics, l.effort = true, 4 })), truth("run", func(t *Truth) { t.Contact, t.Effort = 248, 4 }))
	walk := with(func(l *fitLeg) { l.sport, l.PaceSecond, l.Cadence = typedef.SportHiking, 700, 108 })
	add("hike.fit", whole(walk), []Truth{walk.truth("walk")})
	bike := with(func(l *fitLeg) {
		l.sport, l.power, l.PaceSecond, l.Cadence, l.Metres = typedef.SportCycling, true, 130, 175, 40_000
	})
	add("ride.fit", whole(bike), []Truth{bike.truth("other")})
	gear := mesgdef.NewEvent(nil).SetTimestamp(o.Start.Add(time.Minute)).SetEvent(typedef.EventRearGearChange).SetEventType(typedef.EventTypeMarker).ToMesg(nil)
	unnamed := bike
	unnamed.sport = typedef.SportGeneric
	add("ride without a name.fit", fitFile(joined(id, one(gear), unnamed.records(seed), unnamed.summary(), end(unnamed))...), []Truth{unnamed.truth("other")})
	liar := bike
	liar.sport = typedef.SportRunning
	add("ride that says it is a run.fit", fitFile(joined(id, one(gear), liar.records(seed), liar.summary(), end(liar))...), []Truth{liar.truth("asked")})
	add("generic.fit", whole(with(func(l *fitLeg) { l.sport = typedef.SportGeneric })), truth("asked", nil))

	zone := -3600
	add("with its zone.fit", fitFile(joined(id, run.records(seed), run.summary(), one(fitEnd(run.end(), 1, &zone)))...), truth("run", func(t *Truth) { t.Offset = zone }))
	rec := run.records(seed)
	rec[10], rec[11] = rec[11], rec[10]
	add("swapped neighbours.fit", fitFile(joined(id, rec, run.summary(), end(run))...), truth("run", nil))
	// A pause of four minutes after half the way, told by the timer alone.
	late := run.records(seed)
	half := len(late) / 2
	pause := 240 * time.Second
	at := o.Start.Add(time.Duration(o.Seconds()/2) * time.Second)
	for i := half; i < len(late); i++ {
		s := o.samples(seed)[i]
		for k := range late[i].Fields {
			if late[i].Fields[k].Num == proto.FieldNumTimestamp {
				late[i].Fields[k].Value = proto.Uint32(uint32(s.at.Add(pause).Unix() - fitEpoch))
			}
		}
	}
	add("paused, without a summary.fit", fitFile(joined(id, one(timer(o.Start, typedef.EventTypeStart)), late[:half], one(timer(at, typedef.EventTypeStopAll)), one(timer(at.Add(pause), typedef.EventTypeStart)), late[half:],
		one(timer(run.end().Add(pause), typedef.EventTypeStopAll)), one(mesgdef.NewSport(nil).SetSport(typedef.SportRunning).ToMesg(nil)))...), truth("run", nil))

	own := run
	own.noCadence = true
	mine := own.records(seed)
	for i := range mine {
		mine[i].DeveloperFields = []proto.DeveloperField{{Num: 0, DeveloperDataIndex: 0, Value: proto.Float32(0.236)}, {Num: 1, DeveloperDataIndex: 0, Value: proto.Uint8(uint8(o.Cadence))}}
	}
	fields := []proto.Message{
		mesgdef.NewDeveloperDataId(nil).SetDeveloperDataIndex(0).SetApplicationId(bytes.Repeat([]byte{7}, 16)).ToMesg(nil),
		mesgdef.NewFieldDescription(nil).SetDeveloperDataIndex(0).SetFieldDefinitionNumber(0).SetFitBaseTypeId(basetype.Float32).SetFieldName([]string{"Ground Contact Time"}).SetUnits([]string{"s"}).ToMesg(nil),
		mesgdef.NewFieldDescription(nil).SetDeveloperDataIndex(0).SetFieldDefinitionNumber(1).SetFitBaseTypeId(basetype.Uint8).SetFieldName([]string{"Foot Cadence"}).SetUnits([]string{"spm"}).ToMesg(nil),
	}
	add("fields of its own.fit", fitFile(joined(id, fields, mine, own.summary(), end(own))...), truth("run", func(t *Truth) { t.Contact, t.Cadence = 236, math.Floor(o.Cadence) }))

	for _, k := range []struct {
		kind typedef.File
		why  string
	}{{typedef.FileCourse, "a course to follow"}, {typedef.FileWorkout, "a planned workout"}, {typedef.FileSettings, "settings"}, {typedef.FileMonitoringB, "the steps of a day"}} {
		refused(k.kind.String()+".fit", fitFile(joined(one(fitID(k.kind, o.Start)), run.records(seed))...), k.why)
	}
	good := whole(run)
	add("breaks off.fit", good[:len(good)*2/3], nil)
	out[len(out)-1].Truth = []Truth{{What: "asked"}}
	head := bytes.Clone(good)
	head[0] = 77
	refused("a header of the wrong size.fit", head, "damaged")
	sum := bytes.Clone(good)
	sum[len(sum)-1] ^= 0x5a
	refused("a wrong check sum.fit", sum, "check sum")
	add("something behind the end.fit", append(bytes.Clone(good), []byte("\r\nsaved by a courier, with love and thanks")...), truth("run", nil))
	return out
}

// fitEpoch is when the clocks of FIT begin, in Unix seconds.
const fitEpoch = 631065600

// gpxText is a GPX file with what is written of each point.
type gpxText struct {
	head, kind, name string
	cadence          float64 // as it is counted; 0 for none
	zone             string  // for times; Z where it is empty
	point            func(i int, s sample, text string) string
	cut              map[int]bool // a new piece begins here
	shift            func(i int) time.Duration
	lon              float64
}

func (g gpxText) write(o Outing, seed uint64) []byte {
	var b strings.Builder
	if g.head == "" {
		g.head = `<?xml version="1.0" encoding="UTF-8"?>`
	}
	b.WriteString(g.head + "\n" + `<gpx version="1.1" creator="stand-in watch" xmlns="http://www.topografix.com/GPX/1/1"><trk>`)
	if g.name != "" {
		b.WriteString("<name>" + g.name + "</name>")
	}
	if g.kind != "" {
		b.WriteString("<type>" + g.kind + "</type>")
	}
	b.WriteString("<trkseg>")
	for i, s := range o.samples(seed) {
		if g.cut[i] {
			b.WriteString("</trkseg><trkseg>")
		}
		at := s.at.UTC()
		if g.shift != nil {
			at = at.Add(g.shift(i))
		}
		when := at.Format("2006-01-02T15:04:05Z")
		if g.zone != "" {
			z, _ := time.Parse("-07:00", g.zone)
			when = at.In(z.Location()).Format("2006-01-02T15:04:05") + g.zone
		}
		lon := s.lon
		if g.lon != 0 {
			if lon = s.lon - islandLon + g.lon; lon > 180 {
				lon -= 360
			}
		}
		more := ""
		if g.cadence > 0 {
			more = fmt.Sprintf("<extensions><cad>%g</cad></extensions>", g.cadence)
		}
		t := fmt.Sprintf(`<trkpt lat="%.7f" lon="%.7f"><ele>%.1f</ele><time>%s</time>%s</trkpt>`, s.lat, lon, s.height, when, more)
		if g.point != nil {
			t = g.point(i, s, t)
		}
		b.WriteString(t)
	}
	b.WriteString("</trkseg></trk></gpx>")
	return []byte(b.String())
}

func gpxDialects(o Outing, seed uint64) []Dialect {
	n := len(o.samples(seed))
	t := o.truth("run")
	asked := o.truth("asked")
	one := math.Round(o.Cadence / 2)
	t.Cadence, asked.Cadence = 2*one, 2*one
	plain := gpxText{kind: "running", cadence: one}
	with := func(change func(*gpxText)) []byte { g := plain; change(&g); return g.write(o, seed) }
	both := o.truth("run")
	both.Cadence = o.Cadence
	slow := o
	slow.PaceSecond, slow.Cadence = 560, 112
	slowTruth := slow.truth("run")
	nameless := asked
	nameless.Cadence = 0
	ride := o
	ride.PaceSecond, ride.Metres = 115, 30_000
	rideTruth := ride.truth("asked")
	rideTruth.Cadence = 0
	zoned := t
	zoned.Offset = 2 * 3600
	latin, _ := charmap.ISO8859_1.NewEncoder().Bytes(with(func(g *gpxText) { g.head, g.name = `<?xml version="1.0" encoding="ISO-8859-1"?>`, "Über den Hügel" }))
	return []Dialect{
		{Name: "typed.gpx", Data: with(func(*gpxText) {}), Truth: []Truth{t}},
		{Name: "trail.gpx", Data: with(func(g *gpxText) { g.kind = "trail_running" }), Truth: []Truth{t}},
		{Name: "no type.gpx", Data: with(func(g *gpxText) { g.kind = "" }), Truth: []Truth{asked}},
		{Name: "a number for a type.gpx", Data: with(func(g *gpxText) { g.kind = "9" }), Truth: []Truth{asked}},
		{Name: "nothing but points.gpx", Data: with(func(g *gpxText) { g.kind, g.cadence = "", 0 }), Truth: []Truth{nameless}},
		{Name: "ride without a type.gpx", Data: gpxText{}.write(ride, seed), Truth: []Truth{rideTruth}},
		{Name: "called a ride.gpx", Data: with(func(g *gpxText) { g.name = "Evening ride" }), Truth: []Truth{asked}},
		{Name: "both feet.gpx", Data: with(func(g *gpxText) { g.cadence = o.Cadence }), Truth: []Truth{both}},
		{Name: "both feet, slow.gpx", Data: gpxText{kind: "running", cadence: slow.Cadence}.write(slow, seed), Truth: []Truth{slowTruth}},
		{Name: "in pieces.gpx", Data: with(func(g *gpxText) {
			g.cut = map[int]bool{}
			for i := 40; i < n; i += 40 {
				g.cut[i] = true
			}
		}), Truth: []Truth{t}},
		{Name: "paused twice.gpx", Data: with(func(g *gpxText) {
			g.cut = map[int]bool{n / 3: true}
			g.shift = func(i int) time.Duration {
				switch {
				case i < n/3:
					return 0
				case i < 2*n/3:
					return 5 * time.Minute
				}
				return 9 * time.Minute // without a new piece: the place stays nearly the same
			}
		}), Truth: []Truth{{What: "run", Start: o.Start, Metres: o.Metres, Seconds: o.Seconds() - 2*sampleEvery, Cadence: t.Cadence, Points: true}}},
		{Name: "old letters.gpx", Data: latin, Truth: []Truth{t}},
		{Name: "long comment.gpx", Data: with(func(g *gpxText) {
			g.head = `<?xml version="1.0"?><!-- ` + strings.Repeat("made with care ", 1000) + `-->`
		}), Truth: []Truth{t}},
		{Name: "a point without a time.gpx", Data: with(func(g *gpxText) {
			g.point = func(i int, s sample, text string) string {
				if i == 7 {
					return fmt.Sprintf(`<trkpt lat="%.7f" lon="%.7f"></trkpt>`, s.lat, s.lon)
				}
				return text
			}
		}), Truth: []Truth{t}},
		{Name: "a place that is none.gpx", Data: with(func(g *gpxText) {
			g.point = func(i int, _ sample, text string) string {
				if i == 7 {
					return `<trkpt lat="NaN" lon="NaN"><time>` + o.Start.UTC().Format(time.RFC3339) + `</time></trkpt>`
				}
				return text
			}
		}), Truth: []Truth{t}},
		{Name: "swapped neighbours.gpx", Data: swapped(with(func(*gpxText) {})), Truth: []Truth{t}},
		{Name: "times of its zone.gpx", Data: with(func(g *gpxText) { g.zone = "+02:00" }), Truth: []Truth{zoned}},
		{Name: "across the date line.gpx", Data: with(func(g *gpxText) { g.lon = 179.998 }), Truth: []Truth{t}},
		{Name: "route.gpx", Data: []byte(`<gpx version="1.1"><rte><rtept lat="1" lon="1"/></rte></gpx>`), Refused: "a route to follow"},
		{Name: "track without times.gpx", Data: []byte(`<gpx version="1.1"><trk><trkseg><trkpt lat="1" lon="1"/><trkpt lat="1.1" lon="1"/></trkseg></trk></gpx>`), Refused: "no times"},
		{Name: "clock going back.gpx", Data: with(func(g *gpxText) {
			g.shift = func(i int) time.Duration { return -2 * time.Duration(i*sampleEvery) * time.Second }
		}), Refused: "backwards"},
	}
}

// swapped puts two points of a GPX file in each other's place.
func swapped(b []byte) []byte {
	parts := bytes.Split(b, []byte("<trkpt"))
	parts[20], parts[21] = parts[21], parts[20]
	return bytes.Join(parts, []byte("<trkpt"))
}

func tcxDialects(o Outing, seed uint64) []Dialect {
	write := func(sport, more string, laps int, places bool) []byte {
		var b strings.Builder
		b.WriteString(`<?xml version="1.0"?><TrainingCenterDatabase><Activities><Activity Sport="` + sport + `"><Id>x</Id>`)
		ss := o.samples(seed)
		for l := range laps {
			part := ss[l*len(ss)/laps : (l+1)*len(ss)/laps]
			fmt.Fprintf(&b, `<Lap StartTime="%s"><TotalTimeSeconds>%f</TotalTimeSeconds><DistanceMeters>%f</DistanceMeters><Intensity>Active</Intensity><Track>`, part[0].at.UTC().Format(time.RFC3339), float64(o.Seconds())/float64(laps), o.Metres/float64(laps))
			for _, s := range part {
				place := ""
				if places {
					place = fmt.Sprintf("<Position><LatitudeDegrees>%.7f</LatitudeDegrees><LongitudeDegrees>%.7f</LongitudeDegrees></Position>", s.lat, s.lon)
				}
				fmt.Fprintf(&b, "<Trackpoint><Time>%s</Time>%s<DistanceMeters>%.2f</DistanceMeters><HeartRateBpm><Value>148</Value></HeartRateBpm><Extensions><TPX><RunCadence>%g</RunCadence>%s</TPX></Extensions></Trackpoint>", s.at.UTC().Format(time.RFC3339), place, s.metres, math.Round(o.Cadence/2), more)
			}
			b.WriteString("</Track></Lap>")
		}
		b.WriteString("<Creator><Name>stand-in watch</Name></Creator></Activity></Activities></TrainingCenterDatabase>")
		return []byte(b.String())
	}
	t := o.truth("run")
	t.Cadence = 2 * math.Round(o.Cadence/2)
	laps, indoor, asked, bike := t, t, t, t
	laps.Laps, indoor.Points, asked.What, bike.What = 5, false, "asked", "other"
	return []Dialect{
		{Name: "run.tcx", Data: write("Running", "", 1, true), Truth: []Truth{t}},
		{Name: "laps.tcx", Data: write("Running", "", 5, true), Truth: []Truth{laps}},
		{Name: "no places.tcx", Data: write("Running", "", 1, false), Truth: []Truth{indoor}},
		{Name: "watts of a runner.tcx", Data: write("Running", "<Watts>240</Watts>", 1, true), Truth: []Truth{t}},
		{Name: "other.tcx", Data: write("Other", "", 1, true), Truth: []Truth{asked}},
		{Name: "ride.tcx", Data: write("Biking", "<Watts>200</Watts>", 1, true), Truth: []Truth{bike}},
		{Name: "course.tcx", Data: []byte(`<TrainingCenterDatabase><Courses><Course><Name>x</Name></Course></Courses></TrainingCenterDatabase>`), Refused: "a course to follow"},
		{Name: "workout.tcx", Data: []byte(`<TrainingCenterDatabase><Workouts><Workout Sport="Running"><Name>x</Name></Workout></Workouts></TrainingCenterDatabase>`), Refused: "a planned workout"},
	}
}

func tableDialects(o Outing) []Dialect {
	t := Truth{What: "run", Metres: 10_020, Seconds: 3600}
	evening := t
	evening.Start = time.Date(2026, 11, 20, 18, 30, 0, 0, time.UTC)
	gym := Truth{What: "other"}
	return []Dialect{
		{Name: "half days.csv", Data: []byte("Date,Start time,Distance (km),Duration\n2026-11-20,6:30 PM,10.02,1:00:00\n"), Truth: []Truth{evening}},
		{Name: "thousands.csv", Data: []byte("Date,Distance (m),Duration\n2026-11-20,\"10,020\",1:00:00\n"), Truth: []Truth{t}},
		{Name: "units in the cells.csv", Data: []byte("Date,Distance,Duration\n2026-11-20,\"10,020 m\",60 min\n"), Truth: []Truth{t}},
		{Name: "decimal comma.csv", Data: []byte("Datum;Distance km;Duration\n2026-11-20;10,02;1:00:00\n"), Truth: []Truth{t}},
		{Name: "miles.csv", Data: []byte("Date,Distance (miles),Duration\n2026-11-20,6.2261393,1h 0m 0s\n"), Truth: []Truth{t}},
		{Name: "kinds.csv", Data: []byte("Date,Activity Type,Distance (km),Duration\n2026-11-20,Run,10.02,1:00:00\n2026-11-20,Strength,--,45:00\n2026-11-21,Ride,40,1:20:00\n2026-11-22,Walk,5,1:00:00\n"),
			Truth: []Truth{t, gym, gym, {What: "walk", Metres: 5000, Seconds: 3600}}},
	}
}

func packedDialects(o Outing, seed uint64) []Dialect {
	plain := gpxText{kind: "running"}.write(o, seed)
	var z bytes.Buffer
	g := gzip.NewWriter(&z)
	_, _ = g.Write(plain)
	_ = g.Close()
	t := o.truth("run")
	t.Cadence = 0
	return []Dialect{{Name: "packed.gpx.gz", Data: z.Bytes(), Truth: []Truth{t}}}
}

// Zip packs files together.
func Zip(list []Dialect) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, d := range list {
		w, err := z.Create(d.Name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(d.Data); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

// DropDialects writes an outing's files of every dialect into a folder, each on a day of
// its own, and beside them what each of them really is, as truth.csv.
func DropDialects(dir string, until time.Time) (int, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return 0, err
	}
	f, err := os.Create(filepath.Join(dir, "truth.csv"))
	if err != nil {
		return 0, err
	}
	defer func() { _ = f.Close() }()
	t := csv.NewWriter(f)
	_ = t.Write([]string{"file", "what", "start", "metres", "seconds", "cadence", "refused"})
	o := Outing{Start: until.Truncate(time.Second), Metres: 8000, PaceSecond: 350, Cadence: 167}
	n := 0
	for i := range Dialects(o, 1) { // each on the day before the last one's
		o.Start = until.AddDate(0, 0, -i-1).Truncate(time.Second)
		d := Dialects(o, uint64(i))[i]
		if err := os.WriteFile(filepath.Join(dir, d.Name), d.Data, 0o644); err != nil {
			return n, err
		}
		n++
		if d.Refused != "" {
			_ = t.Write([]string{d.Name, "", "", "", "", "", d.Refused})
		}
		for _, x := range d.Truth {
			_ = t.Write([]string{d.Name, x.What, x.Start.UTC().Format(time.RFC3339), strconv.FormatFloat(x.Metres, 'f', 0, 64), strconv.Itoa(x.Seconds), strconv.FormatFloat(x.Cadence, 'f', 1, 64), ""})
		}
	}
	t.Flush()
	return n, t.Error()
}
