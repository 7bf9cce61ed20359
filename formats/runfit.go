package formats

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"math"
	"slices"
	"strings"

	"github.com/muktihari/fit/decoder"
	"github.com/muktihari/fit/kit/datetime"
	"github.com/muktihari/fit/kit/hash/crc16"
	"github.com/muktihari/fit/profile/typedef"
	"github.com/muktihari/fit/profile/untyped/fieldnum"
	"github.com/muktihari/fit/profile/untyped/mesgnum"
	"github.com/muktihari/fit/proto"

	"notchback/core/activity"
)

// Units of FIT fields, and what stands for nothing.
const (
	fitHundredths   = 100.0
	fitThousandths  = 1000.0
	fitTenths       = 10.0
	fitFraction     = 128.0
	fitAltitude     = 5.0
	fitAltitudeZero = 500.0
	fitSemicircle   = 180.0 / (1 << 31)
	fitNoByte       = 0xFF
	fitNoShort      = 0xFFFF
	fitNoLong       = 0xFFFFFFFF
	fitNoPlace      = 0x7FFFFFFF
)

// fitRecord is what of a record counts; NaN where it was not written.
type fitRecord struct {
	at                                uint32
	lat, lon                          int32
	metres, cadence, heart            float64
	height                            float64
	contact, oscillation, share, step float64
	both                              bool // cadence of both feet
	power                             bool
}

// fitPart is a session or a lap as it was written.
type fitPart struct {
	start, end          uint32
	sport               typedef.Sport
	subSport            typedef.SubSport
	name                string
	timer, elapsed      float64
	metres, cadence     float64
	heart, most, ascent float64
	effort              float64
	contact             float64
	oscillation         float64
	share, step         float64
	rest                bool
	power               bool
}

// fitFile collects what a FIT file says; sessions may stand before or after their
// records.
type fitFile struct {
	kind     typedef.File
	device   string
	records  []fitRecord
	sessions []fitPart
	laps     []fitPart
	timer    [][2]uint32 // from, to
	running  uint32
	gears    []uint32
	sports   []string
	offset   *int
	own      map[[2]byte]ownField
	many     bool
}

// ownField is what a field of a device's own holds.
type ownField struct {
	into  string
	scale float64
}

var nan = math.NaN()

// OnMesg takes a message as it is decoded.
func (f *fitFile) OnMesg(m proto.Message) {
	switch m.Num {
	case mesgnum.Record:
		f.record(&m)
	case mesgnum.Session:
		f.sessions = append(f.sessions, part(&m, sessionFields))
	case mesgnum.Lap:
		if len(f.laps) < mostLaps {
			f.laps = append(f.laps, part(&m, lapFields))
		}
	case mesgnum.FileId:
		f.fileID(&m)
	case mesgnum.Event:
		f.event(&m)
	case mesgnum.Activity:
		f.activity(&m)
	case mesgnum.Sport:
		for i := range m.Fields {
			if m.Fields[i].Num == fieldnum.SportSport {
				f.sports = append(f.sports, sportName(typedef.Sport(m.Fields[i].Value.Uint8()), typedef.SubSportInvalid))
			}
		}
	case mesgnum.FieldDescription:
		f.describe(&m)
	}
}

func (f *fitFile) fileID(m *proto.Message) {
	maker := ""
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.FileIdType:
			f.kind = typedef.File(v.Uint8())
		case fieldnum.FileIdProductName:
			f.device = text(v)
		case fieldnum.FileIdManufacturer:
			if n := v.Uint16(); n != fitNoShort {
				maker = strings.ReplaceAll(typedef.Manufacturer(n).String(), "_", " ")
			}
		}
	}
	if f.device == "" && !strings.HasPrefix(maker, "ManufacturerInvalid") {
		f.device = maker
	}
}

func text(v proto.Value) string {
	s := v.String()
	if list := v.SliceString(); len(list) > 0 {
		s = list[0]
	}
	return clip(strings.TrimSpace(strings.ToValidUTF8(s, "")), 80)
}

func (f *fitFile) event(m *proto.Message) {
	var at uint32 = fitNoLong
	what, kind := typedef.EventInvalid, typedef.EventTypeInvalid
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.EventTimestamp:
			at = v.Uint32()
		case fieldnum.EventEvent:
			what = typedef.Event(v.Uint8())
		case fieldnum.EventEventType:
			kind = typedef.EventType(v.Uint8())
		}
	}
	if at == fitNoLong {
		return
	}
	switch what {
	case typedef.EventFrontGearChange, typedef.EventRearGearChange:
		f.gears = append(f.gears, at)
	case typedef.EventTimer:
		switch kind {
		case typedef.EventTypeStart:
			if f.running == 0 {
				f.running = at
			}
		case typedef.EventTypeStop, typedef.EventTypeStopAll, typedef.EventTypeStopDisable, typedef.EventTypeStopDisableAll:
			if f.running != 0 && at >= f.running {
				f.timer = append(f.timer, [2]uint32{f.running, at})
			}
			f.running = 0
		}
	}
}

// most a zone lies from UTC, in seconds.
const mostOffset = 15 * 3600

func (f *fitFile) activity(m *proto.Message) {
	var at, local uint32 = fitNoLong, fitNoLong
	for i := range m.Fields {
		switch m.Fields[i].Num {
		case fieldnum.ActivityTimestamp:
			at = m.Fields[i].Value.Uint32()
		case fieldnum.ActivityLocalTimestamp:
			local = m.Fields[i].Value.Uint32()
		}
	}
	if at == fitNoLong || local == fitNoLong {
		return
	}
	off := int(int64(local) - int64(at))
	if off%900 == 0 && off >= -mostOffset && off <= mostOffset { // zones go by quarters of an hour
		f.offset = &off
	}
}

// describe reads what a device's own field holds, by its name and its unit.
func (f *fitFile) describe(m *proto.Message) {
	var at [2]byte
	name, unit := "", ""
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.FieldDescriptionDeveloperDataIndex:
			at[0] = v.Uint8()
		case fieldnum.FieldDescriptionFieldDefinitionNumber:
			at[1] = v.Uint8()
		case fieldnum.FieldDescriptionFieldName:
			name = strings.ToLower(text(v))
		case fieldnum.FieldDescriptionUnits:
			unit = strings.ToLower(text(v))
		}
	}
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(name, w) })
	}
	x := ownField{scale: 1}
	switch {
	case has("contact time", "ground time", "stance time") && !has("balance", "percent"):
		x.into = "contact"
		if unit == "s" || unit == "seconds" {
			x.scale = 1000
		}
	case has("vertical oscillation"):
		x.into = "oscillation"
		switch unit {
		case "cm", "centimeters":
			x.scale = 10
		case "m":
			x.scale = 1000
		}
	case has("contact time balance", "ground balance", "stance time balance"):
		x.into = "share"
	case has("step length"):
		x.into = "step"
		switch unit {
		case "m", "meters":
			x.scale = 1000
		case "cm":
			x.scale = 10
		}
	case has("cadence") && (unit == "spm" || strings.HasPrefix(unit, "steps")):
		x.into = "cadence"
	default:
		return
	}
	if f.own == nil {
		f.own = map[[2]byte]ownField{}
	}
	f.own[at] = x
}

// plain is a field's number whatever its type; false for none, lists among them.
func plain(v proto.Value) (float64, bool) {
	switch x := v.Any().(type) {
	case uint8:
		return float64(x), x != fitNoByte
	case int8:
		return float64(x), x != math.MaxInt8
	case uint16:
		return float64(x), x != fitNoShort
	case int16:
		return float64(x), x != math.MaxInt16
	case uint32:
		return float64(x), x != fitNoLong
	case int32:
		return float64(x), x != math.MaxInt32
	case float32:
		return float64(x), !math.IsNaN(float64(x)) && !math.IsInf(float64(x), 0)
	case float64:
		return x, !math.IsNaN(x) && !math.IsInf(x, 0)
	}
	return 0, false
}

func (f *fitFile) record(m *proto.Message) {
	if len(f.records) >= mostPoints {
		f.many = true
		return
	}
	r := fitRecord{at: fitNoLong, lat: fitNoPlace, lon: fitNoPlace, metres: nan, cadence: nan, heart: nan, height: nan, contact: nan, oscillation: nan, share: nan, step: nan}
	fraction := 0.0
	short := func(v proto.Value, scale float64) float64 {
		if n := v.Uint16(); n != fitNoShort {
			return float64(n) / scale
		}
		return nan
	}
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case fieldnum.RecordTimestamp:
			r.at = v.Uint32()
		case fieldnum.RecordPositionLat:
			r.lat = v.Int32()
		case fieldnum.RecordPositionLong:
			r.lon = v.Int32()
		case fieldnum.RecordDistance:
			if d := v.Uint32(); d != fitNoLong {
				r.metres = float64(d) / fitHundredths
			}
		case fieldnum.RecordCadence:
			if c := v.Uint8(); c != fitNoByte {
				r.cadence = float64(c)
			}
		case fieldnum.RecordFractionalCadence:
			if c := v.Uint8(); c != fitNoByte {
				fraction = float64(c) / fitFraction
			}
		case fieldnum.RecordEnhancedAltitude:
			if a := v.Uint32(); a != fitNoLong {
				r.height = float64(a)/fitAltitude - fitAltitudeZero
			}
		case fieldnum.RecordHeartRate:
			if c := v.Uint8(); c != fitNoByte {
				r.heart = float64(c)
			}
		case fieldnum.RecordStanceTime:
			r.contact = short(v, fitTenths)
		case fieldnum.RecordVerticalOscillation:
			r.oscillation = short(v, fitTenths)
		case fieldnum.RecordStanceTimeBalance:
			r.share = short(v, fitHundredths)
		case fieldnum.RecordStepLength:
			r.step = short(v, fitTenths)
		case fieldnum.RecordPower:
			r.power = v.Uint16() != fitNoShort && v.Uint16() > 0
		}
	}
	if r.at == fitNoLong {
		return
	}
	r.cadence += fraction
	for i := range m.DeveloperFields {
		d := &m.DeveloperFields[i]
		x, ok := f.own[[2]byte{d.DeveloperDataIndex, d.Num}]
		if !ok {
			continue
		}
		n, ok := plain(d.Value)
		if !ok || n <= 0 {
			continue
		}
		n *= x.scale
		switch x.into {
		case "contact":
			r.contact = n
		case "oscillation":
			r.oscillation = n
		case "share":
			r.share = n
		case "step":
			r.step = n
		case "cadence":
			r.cadence, r.both = n, true
		}
	}
	f.records = append(f.records, r)
}

// partFields are the numbers of the fields of a session or a lap.
type partFields struct {
	start, end, sport, sub, timer, elapsed, metres, cadence, fraction, heart, most, ascent, contact, oscillation, share, step, power byte
	session                                                                                                                          bool
}

var (
	sessionFields = partFields{fieldnum.SessionStartTime, fieldnum.SessionTimestamp, fieldnum.SessionSport, fieldnum.SessionSubSport, fieldnum.SessionTotalTimerTime, fieldnum.SessionTotalElapsedTime,
		fieldnum.SessionTotalDistance, fieldnum.SessionAvgCadence, fieldnum.SessionAvgFractionalCadence, fieldnum.SessionAvgHeartRate, fieldnum.SessionMaxHeartRate, fieldnum.SessionTotalAscent,
		fieldnum.SessionAvgStanceTime, fieldnum.SessionAvgVerticalOscillation, fieldnum.SessionAvgStanceTimeBalance, fieldnum.SessionAvgStepLength, fieldnum.SessionAvgPower, true}
	lapFields = partFields{fieldnum.LapStartTime, fieldnum.LapTimestamp, fieldnum.LapSport, fieldnum.LapSubSport, fieldnum.LapTotalTimerTime, fieldnum.LapTotalElapsedTime,
		fieldnum.LapTotalDistance, fieldnum.LapAvgCadence, fieldnum.LapAvgFractionalCadence, fieldnum.LapAvgHeartRate, fieldnum.LapMaxHeartRate, fieldnum.LapTotalAscent,
		fieldnum.LapAvgStanceTime, fieldnum.LapAvgVerticalOscillation, fieldnum.LapAvgStanceTimeBalance, fieldnum.LapAvgStepLength, fieldnum.LapAvgPower, false}
)

func part(m *proto.Message, n partFields) fitPart {
	p := fitPart{start: fitNoLong, end: fitNoLong, sport: typedef.SportInvalid, subSport: typedef.SubSportInvalid, timer: nan, elapsed: nan, metres: nan, cadence: nan, heart: nan, most: nan, ascent: nan,
		effort: nan, contact: nan, oscillation: nan, share: nan, step: nan}
	fraction := 0.0
	set := func(into *float64, v proto.Value, scale float64) {
		if x, ok := plain(v); ok {
			*into = x / scale
		}
	}
	for i := range m.Fields {
		v := m.Fields[i].Value
		switch m.Fields[i].Num {
		case n.start:
			p.start = v.Uint32()
		case n.end:
			p.end = v.Uint32()
		case n.sport:
			p.sport = typedef.Sport(v.Uint8())
		case n.sub:
			p.subSport = typedef.SubSport(v.Uint8())
		case n.timer:
			set(&p.timer, v, fitThousandths)
		case n.elapsed:
			set(&p.elapsed, v, fitThousandths)
		case n.metres:
			set(&p.metres, v, fitHundredths)
		case n.cadence:
			set(&p.cadence, v, 1)
		case n.fraction:
			set(&fraction, v, fitFraction)
		case n.heart:
			set(&p.heart, v, 1)
		case n.most:
			set(&p.most, v, 1)
		case n.ascent:
			set(&p.ascent, v, 1)
		case n.contact:
			set(&p.contact, v, fitTenths)
		case n.oscillation:
			set(&p.oscillation, v, fitTenths)
		case n.share:
			set(&p.share, v, fitHundredths)
		case n.step:
			set(&p.step, v, fitTenths)
		case n.power:
			x, ok := plain(v)
			p.power = ok && x > 0
		}
		if n.session {
			switch m.Fields[i].Num {
			case fieldnum.SessionWorkoutRpe:
				set(&p.effort, v, fitTenths)
			case fieldnum.SessionSportProfileName:
				p.name = text(v)
			}
		} else if m.Fields[i].Num == fieldnum.LapIntensity {
			k := typedef.Intensity(v.Uint8())
			p.rest = k == typedef.IntensityRest || k == typedef.IntensityRecovery
		}
	}
	p.cadence += fraction
	return p
}

// sportName names a sport as the profile does; of a sport that says nothing its part is
// asked, and a part that runners alone have is running.
func sportName(s typedef.Sport, sub typedef.SubSport) string {
	name, detail := "", ""
	if s != typedef.SportInvalid {
		name = s.String()
	}
	if sub != typedef.SubSportInvalid && sub != typedef.SubSportGeneric {
		detail = sub.String()
	}
	if activity.Named(name) != activity.Asked {
		if activity.Named(name) == activity.Run && detail != "" && activity.Named(detail) != activity.Walk {
			return strings.TrimSuffix(detail, "_running") + "_running"
		}
		return name
	}
	switch sub {
	case typedef.SubSportTreadmill, typedef.SubSportStreet, typedef.SubSportTrail, typedef.SubSportTrack:
		return detail + "_running"
	}
	return detail
}

// kinds of FIT files that hold no outing, in words.
var fitKinds = map[typedef.File]string{
	typedef.FileDevice: "a list of a device's abilities", typedef.FileSettings: "a device's settings", typedef.FileSport: "settings of a sport", typedef.FileWorkout: "a planned workout", typedef.FileCourse: "a course to follow",
	typedef.FileSchedules: "a schedule", typedef.FileWeight: "readings of a scale", typedef.FileTotals: "totals of a device", typedef.FileGoals: "goals", typedef.FileBloodPressure: "readings of blood pressure",
	typedef.FileMonitoringA: "the steps of a day", typedef.FileMonitoringDaily: "the steps of a day", typedef.FileMonitoringB: "the steps of a day", typedef.FileSegment: "a segment", typedef.FileSegmentList: "a list of segments",
	typedef.FileExdConfiguration: "a display's settings",
}

// fitPiece is one of the FIT files that may lie behind each other in one.
type fitPiece struct {
	bytes []byte
	cut   bool // it breaks off
}

// fitPieces parts a file. The check sum goes over head and content: with it a head of the
// older, shorter kind is as good as any.
func fitPieces(b []byte) ([]fitPiece, error) {
	var out []fitPiece
	for len(b) >= fitHead && bytes.Equal(b[8:12], []byte(".FIT")) {
		size, data := int(b[0]), binary.LittleEndian.Uint32(b[4:8])
		whole := size + int(data) + 2
		switch {
		case size < fitHead || size > fitHead+2:
			return nil, bad("", "the FIT file is damaged: its head can't be read")
		case whole > len(b):
			return append(out, fitPiece{b, true}), nil
		}
		sum := crc16.New()
		_, _ = sum.Write(b[:whole-2])
		if sum.Sum16() != binary.LittleEndian.Uint16(b[whole-2:whole]) {
			return nil, bad("", "the FIT file is damaged: its check sum is wrong")
		}
		out = append(out, fitPiece{b[:whole], false})
		b = b[whole:]
	}
	return out, nil
}

const (
	fitHead        = 12 // bytes, the least
	fitRecordBytes = 26 // of a common record, for room
)

func readFIT(b []byte) ([]RunFile, error) {
	pieces, err := fitPieces(b)
	if err != nil {
		return nil, err
	}
	var out []RunFile
	other := ""
	for _, piece := range pieces {
		f := fitFile{kind: typedef.FileInvalid, records: make([]fitRecord, 0, min(len(piece.bytes)/fitRecordBytes, mostPoints))}
		_, err := decoder.New(bytes.NewReader(piece.bytes), decoder.WithMesgListener(&f), decoder.WithBroadcastOnly(), decoder.WithIgnoreChecksum()).Decode()
		if what, none := fitKinds[f.kind]; none {
			other = what
			continue
		}
		switch {
		case err != nil && !(piece.cut && len(f.records) > 0):
			return nil, bad("", "the FIT file is damaged or breaks off; export it again")
		case f.many:
			return nil, bad("", "more than %d points", mostPoints)
		}
		runs := f.runs()
		for i := range runs {
			if piece.cut && runs[i].What.Kind == activity.Run { // nobody knows what came after
				runs[i].What.Kind = activity.Asked
				runs[i].What.Why = append(runs[i].What.Why, "the file breaks off: this is what there is")
			}
		}
		out = append(out, runs...)
	}
	if len(out) == 0 && other != "" {
		return nil, bad("", "this is %s, not a run", other)
	}
	return out, nil
}

// runs are the outings of a file, each session with its own records.
func (f *fitFile) runs() []RunFile {
	if !slices.IsSortedFunc(f.records, func(a, b fitRecord) int { return cmp.Compare(a.at, b.at) }) {
		slices.SortStableFunc(f.records, func(a, b fitRecord) int { return cmp.Compare(a.at, b.at) })
	}
	if f.running != 0 && len(f.records) > 0 { // nobody stopped it
		f.timer = append(f.timer, [2]uint32{f.running, max(f.running, f.records[len(f.records)-1].at)})
	}
	sessions := f.sessions
	if len(sessions) == 0 {
		if len(f.records) == 0 {
			return nil
		}
		first, last := f.records[0].at, f.records[len(f.records)-1].at
		p := part(&proto.Message{}, sessionFields) // cut off before its summary was written
		p.start, p.end, p.elapsed = first, last, float64(last-first)
		sessions = []fitPart{p}
	}
	var out []RunFile
	for _, s := range sessions {
		if len(sessions) > 1 && s.sport == typedef.SportTransition {
			continue
		}
		next := uint32(fitNoLong)
		for _, o := range sessions {
			if o.start != fitNoLong && s.start != fitNoLong && o.start > s.start {
				next = min(next, o.start)
			}
		}
		out = append(out, f.run(s, next, len(sessions) == 1))
	}
	return out
}

// run is the outing of a session, up to where the next one begins.
func (f *fitFile) run(s fitPart, next uint32, only bool) RunFile {
	r := RunFile{Kind: "fit", Name: s.name, Device: f.device, Offset: f.offset, Treadmill: s.subSport == typedef.SubSportTreadmill || s.subSport == typedef.SubSportIndoorRunning}
	records := f.records
	from, to := s.start, s.end
	if from == fitNoLong && len(records) > 0 {
		from = records[0].at
	}
	if !math.IsNaN(s.elapsed) && from != fitNoLong {
		to = from + uint32(min(s.elapsed+1, 1e9))
	} else if to == fitNoLong || to < from {
		to = fitNoLong
	}
	if to >= next {
		to = next - 1
	}
	if !only {
		lo, _ := slices.BinarySearchFunc(records, from, func(r fitRecord, at uint32) int { return cmp.Compare(r.at, at) })
		hi, _ := slices.BinarySearchFunc(records, to, func(r fitRecord, at uint32) int {
			if r.at > at {
				return 1
			}
			return -1
		})
		records = records[lo:max(lo, hi)]
	}
	if from != fitNoLong {
		r.Start = datetime.ToTime(from)
	}
	h := activity.Hints{Power: s.power, Gear: slices.ContainsFunc(f.gears, func(at uint32) bool { return only || at >= from && at <= to }), Sports: []string{sportName(s.sport, s.subSport)}}
	if only {
		h.Sports = append(h.Sports, f.sports...)
	}
	var pace pacer
	var up climb
	var cadence, heart, contact, oscillation, share, step mean
	both, most, firstMetres, lastMetres := false, 0.0, nan, nan
	var lat, lon, moved, still float64
	var lastAt uint32
	placed := false
	heights := make([]float64, 0, len(records)) // never grows: points look into it
	if len(records) > 0 && records[0].lat != fitNoPlace {
		r.Track = make([]Point, 0, len(records))
	}
	far := math.IsNaN(s.metres) || math.IsNaN(s.timer)
	for i := range records {
		x := &records[i]
		at := float64(int64(x.at) - int64(from))
		if x.cadence > 0 {
			cadence.add(x.cadence)
			both = both || x.both
		}
		heart.some(x.heart)
		contact.some(x.contact)
		oscillation.some(x.oscillation)
		share.some(x.share)
		step.some(x.step)
		if x.heart > most {
			most = x.heart
		}
		h.Power = h.Power || x.power
		if !math.IsNaN(x.metres) {
			if math.IsNaN(firstMetres) {
				firstMetres = x.metres
			}
			lastMetres = x.metres
		}
		var height *float64
		if !math.IsNaN(x.height) {
			heights = append(heights, x.height)
			height = &heights[len(heights)-1]
			up.add(x.height)
		}
		if x.lat != fitNoPlace && x.lon != fitNoPlace {
			la, lo := float64(x.lat)*fitSemicircle, float64(x.lon)*fitSemicircle
			if placed && (far || math.IsNaN(x.metres)) {
				d := haversine(lat, lon, la, lo)
				if dt := float64(x.at - lastAt); dt > 0 && d/dt <= jumpSpeed {
					moved += d
					if d/dt < stillSpeed {
						still += dt
					}
				}
			}
			lat, lon, lastAt, placed = la, lo, x.at, true
			r.Track = append(r.Track, Point{At: int(at), Lat: la, Lon: lo, Metres: height})
		}
		if !math.IsNaN(x.metres) {
			pace.add(at, x.metres)
		} else if placed {
			pace.add(at, moved)
		}
	}
	switch {
	case !math.IsNaN(s.metres):
		r.Metres = int(math.Round(s.metres))
	case !math.IsNaN(lastMetres):
		r.Metres = int(math.Round(lastMetres - firstMetres))
		if only {
			r.Metres = int(math.Round(lastMetres))
		}
	default:
		r.Metres = int(math.Round(moved))
	}
	switch {
	case !math.IsNaN(s.timer) && s.timer > 0:
		r.Seconds = int(math.Round(s.timer))
	case len(f.timer) > 0:
		for _, x := range f.timer {
			if a, b := max(x[0], from), min(x[1], to); b > a {
				r.Seconds += int(b - a)
			}
		}
	case !math.IsNaN(s.elapsed):
		r.Seconds = int(math.Round(max(s.elapsed-still, 0)))
	}
	if !math.IsNaN(s.elapsed) {
		r.Elapsed = int(math.Round(s.elapsed))
	}
	counted := s.cadence
	if !(counted > 0) || both {
		counted = nan
		if c := cadence.value(); c != nil {
			counted = *c
		}
	}
	if !math.IsNaN(counted) {
		h.Cadence = counted
		if both {
			h.Cadence = counted / 2
		}
		r.setCadence(counted, both)
	}
	some := func(v float64, m *mean, digits int) *float64 {
		if v > 0 {
			return rounded(&v, digits)
		}
		if m != nil {
			return rounded(m.value(), digits)
		}
		return nil
	}
	r.HeartRate, r.HeartMost, r.Ascent = some(s.heart, &heart, 0), some(math.Max(most, 0), nil, 0), some(s.ascent, nil, 0)
	if s.most > 0 {
		r.HeartMost = rounded(&s.most, 0)
	}
	if r.Ascent == nil && up.any {
		r.Ascent = rounded(&up.sum, 0)
	}
	d := Dynamics{ContactMs: some(s.contact, &contact, 1), OscillationMm: some(s.oscillation, &oscillation, 1), BalancePercent: some(s.share, &share, 2), StepMm: some(s.step, &step, 0)}
	if d != (Dynamics{}) {
		r.Dynamics = &d
	}
	if s.effort >= 0 && s.effort <= 10 {
		n := int(math.Round(s.effort))
		r.Effort = &n
	}
	for _, l := range f.laps {
		if only || l.start >= from && l.start <= to {
			r.Laps = append(r.Laps, l.lap(from))
		}
	}
	h.FastMs = pace.fast()
	r.judge(h)
	return r
}

func (p fitPart) lap(from uint32) Lap {
	l := Lap{At: int(int64(p.start) - int64(from)), Rest: p.rest}
	if p.start == fitNoLong || l.At < 0 || l.At > mostRunSeconds {
		l.At = 0
	}
	if p.timer > 0 {
		l.Seconds = int(math.Round(min(p.timer, mostRunSeconds)))
	}
	if p.metres > 0 {
		l.Metres = int(math.Round(min(p.metres, mostRunMetres)))
	}
	if p.cadence > 0 && l.Seconds > 0 {
		c, _ := activity.SpmFrom(p.cadence, float64(l.Metres)/float64(l.Seconds))
		l.Cadence = rounded(&c, 1)
	}
	return l
}

// haversine is the way between two places on a globe, in metres.
func haversine(lat1, lon1, lat2, lon2 float64) float64 {
	const rad = math.Pi / 180
	dLat, dLon := (lat2-lat1)*rad, (lon2-lon1)*rad
	h := math.Pow(math.Sin(dLat/2), 2) + math.Cos(lat1*rad)*math.Cos(lat2*rad)*math.Pow(math.Sin(dLon/2), 2)
	return 2 * earthMetres * math.Asin(math.Min(1, math.Sqrt(h)))
}
