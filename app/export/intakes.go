package export

import (
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"notchback/app/strict"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/formats"
)

// importer carries what the rows of a bundle have to agree on.
type importer struct {
	act      app.Actor
	today    day.Date
	layers   record.Layered
	ids      map[string]string   // by reference
	ladders  map[string]laddered // by prescription
	logs     map[string]string   // block of a log
	pegs     map[string]bool     // prescription/side
	unpacked int                 // bytes of tracks
	setAside []string            // sentences on what was not brought in as it was
}

// laddered is a prescription's ladder and the block it is of.
type laddered struct {
	catalogue.Ladder
	block string
}

// Ranges of what every row may carry (house).
const (
	firstYear = 1990
	ahead     = 400 // days a plan may lie ahead
)

// RowHead is what many rows have.
type RowHead struct {
	RunnerID string    `json:"runner_id"`
	Rev      int       `json:"rev" minimum:"1" maximum:"100000"`
	At       time.Time `json:"at"`
}

// near refuses a day that no record of a living runner has.
func (m *importer) near(field string, d day.Date, later int) error {
	if d < m.today-input.VisitsBack || d > m.today+day.Date(later) {
		return app.Wrong(field, fmt.Sprintf("expected a day of the last twenty years (you entered %s)", d))
	}
	return nil
}

func moments(list ...*time.Time) error {
	for _, t := range list {
		if t != nil && !t.IsZero() && (t.Year() < firstYear || t.After(time.Now().Add(48*time.Hour))) {
			return app.Wrong("at", fmt.Sprintf("%s can't be", t.Format(time.DateOnly)))
		}
	}
	return nil
}

func zoned(field, zone string) error {
	if zone != "" && input.ZoneName(zone) == "" {
		return app.Wrong(field, fmt.Sprintf("%q is not a place on the map", zone))
	}
	return nil
}

// take makes a check of a row from a check of its type.
func take[T any](check func(m *importer, row map[string]any, r T) (bool, error)) func(*importer, map[string]any, any) (bool, error) {
	return func(m *importer, row map[string]any, v any) (bool, error) {
		r, err := strict.Decode[T](v)
		if err != nil {
			return false, err
		}
		return check(m, row, r)
	}
}

// first is the first error of several.
func first(list ...error) error {
	for _, err := range list {
		if err != nil {
			return err
		}
	}
	return nil
}

// intakes are the checks of each table's rows: row is what will be stored and can be
// put right. They report whether it is.
var intakes map[string]func(m *importer, row map[string]any, v any) (bool, error)

func init() { // they refer to each other through the importer
	intakes = map[string]func(m *importer, row map[string]any, v any) (bool, error){
		"runners": take(runnerIn), "runner_wishes": take(wishesIn), "screenings": take(screeningIn), "trials": take(trialIn), "screening_parts": partIn,
		"clearances": take(clearanceIn), "blocks": take(blockIn), "prescriptions": take(prescriptionIn), "pegs": take(pegIn), "block_changes": take(changeIn),
		"session_logs": take(logIn), "session_items": take(itemIn), "mornings": take(morningIn), "runs": take(runIn), "run_tracks": take(trackIn), "run_details": take(detailIn),
		"day_notes": take(dayIn), "planned_weeks": take(plannedIn), "ramps": rampIn, "ramp_events": rampEventIn, "ramp_dates": take(rampDateIn),
		"flags": take(flagIn), "decisions": take(decisionIn), "journal": take(journalIn),
		// What the engine thought elsewhere is not taken over; it thinks anew.
		"reviews": leave, "answers": leave, "course_states": leave,
	}
}

func leave(*importer, map[string]any, any) (bool, error) { return false, nil }

type runnerRow struct {
	ID        string    `json:"id"`
	Name      string    `json:"name" maxLength:"120"`
	Birth     *day.Date `json:"birth" format:"date"`
	Sex       string    `json:"sex" enum:"female,male,other,"`
	MassKg    *float64  `json:"mass_kg"`
	WeeklyKm  *float64  `json:"weekly_km"`
	Goal      string    `json:"goal" maxLength:"300"`
	Note      string    `json:"note" maxLength:"4000"`
	First     *bool     `json:"first_structured_work"`
	Rise      *bool     `json:"recent_volume_rise"`
	Intake    *int      `json:"intake_first_step"`
	Version   int       `json:"version"`
	CreatedAt time.Time `json:"created_at"`
	UpdatedAt time.Time `json:"updated_at"`
	Auto      bool      `json:"auto_progress"`
	Language  string    `json:"language,omitempty" enum:"en,de,"`
}

func runnerIn(m *importer, row map[string]any, r runnerRow) (bool, error) {
	// What another practice let go by itself waits for a coach here.
	row["auto_progress"], row["version"] = false, 1
	in := input.RunnerInput{Name: r.Name, Birth: r.Birth, Sex: r.Sex, MassKg: r.MassKg, WeeklyKm: r.WeeklyKm, Goal: r.Goal, Note: r.Note, FirstStructuredWork: r.First, RecentVolumeRise: r.Rise, IntakeFirstStep: r.Intake, Language: r.Language}
	return true, first(in.Check(m.today), moments(&r.CreatedAt, &r.UpdatedAt))
}

type wishesRow struct {
	RowHead
	Body planning.Wishes `json:"body"`
}

func wishesIn(m *importer, row map[string]any, r wishesRow) (bool, error) {
	w := r.Body
	// Ladders and kit that only the other practice has can't be wished for here.
	w.Added = slices.DeleteFunc(w.Added, func(id string) bool { _, ok := m.layers.Ladder(id); return !ok })
	w.Excluded = slices.DeleteFunc(w.Excluded, func(x planning.Excluded) bool { _, ok := m.layers.Ladder(x.Ladder); return !ok })
	w.Owned = slices.DeleteFunc(w.Owned, func(k string) bool { _, ok := m.layers.KitNamed(k); return !ok })
	if len(w.Added) != len(r.Body.Added) || len(w.Excluded) != len(r.Body.Excluded) || len(w.Owned) != len(r.Body.Owned) {
		raw, err := json.Marshal(w)
		if err != nil {
			return false, err
		}
		if row["body"], err = strict.Any(raw); err != nil {
			return false, err
		}
	}
	return true, first(moments(&r.At), record.CheckWishes(w, m.layers))
}

type screeningRow struct {
	ID         string     `json:"id"`
	RunnerID   string     `json:"runner_id"`
	On         day.Date   `json:"on_date" format:"date"`
	Footwear   string     `json:"footwear" maxLength:"300"`
	Note       string     `json:"note" maxLength:"4000"`
	CreatedAt  time.Time  `json:"created_at"`
	FinishedAt *time.Time `json:"finished_at"`
}

func screeningIn(m *importer, _ map[string]any, r screeningRow) (bool, error) {
	return true, first(m.near("on_date", r.On, 1), moments(&r.CreatedAt, r.FinishedAt))
}

type trialRow struct {
	ScreeningID string `json:"screening_id"`
	screening.Trial
	At         time.Time        `json:"at"`
	Rev        int              `json:"rev" minimum:"1" maximum:"100000"`
	Test       screening.TestID `json:"test"`
	Side       body.Side        `json:"side" enum:"left,right,both"`
	Slot       int              `json:"slot" minimum:"1" maximum:"9"`
	Sharp      bool             `json:"sharp_pain"`
	BlockCm    *float64         `json:"block_cm"`
	LengthCm   *float64         `json:"length_cm"`
	AlongFloor bool             `json:"along_floor"`
	Removed    bool             `json:"removed"`
	Reason     string           `json:"reason" maxLength:"300"`
	CountN     *int             `json:"count_n"`
	OfN        *int             `json:"of_n"`
	Cramp      *int             `json:"cramp_at"`
}

func trialIn(_ *importer, _ map[string]any, r trialRow) (bool, error) {
	var in *input.TrialInput
	if !r.Removed {
		in = &input.TrialInput{Trial: r.Trial, BlockCm: r.BlockCm, LengthCm: r.LengthCm, AlongFloor: r.AlongFloor}
		in.SharpPain, in.Count, in.Of, in.CrampAt = r.Sharp, r.CountN, r.OfN, r.Cramp
	}
	_, _, err := input.TrialRecord("", r.Test, r.Side, r.Slot, in)
	if errors.Is(err, app.ErrNotFound) {
		err = app.Wrong("test", fmt.Sprintf("%q is not a test", r.Test))
	}
	return true, first(moments(&r.At), err)
}

// brought says what is wrong with answers from elsewhere, which bring along the questions
// of that practice that were asked.
func brought(a safety.Answers) error {
	for _, o := range a.Own {
		if err := o.Check(); err != nil {
			return app.Wrong("answers.own", err.Error())
		}
	}
	return input.CheckAnswers(a, screening.Age{}, a.Own)
}

type partRow[T any] struct {
	ScreeningID string    `json:"screening_id"`
	Part        string    `json:"part"`
	Rev         int       `json:"rev" minimum:"1" maximum:"100000"`
	Body        T         `json:"body"`
	At          time.Time `json:"at"`
}

func partIn(m *importer, row map[string]any, v any) (bool, error) {
	at := func(t time.Time) error { return moments(&t) }
	switch row["part"] {
	case "talk":
		return take(func(_ *importer, _ map[string]any, r partRow[input.Talk]) (bool, error) {
			return true, first(at(r.At), r.Body.Check(), brought(r.Body.Flags))
		})(m, row, v)
	case "conditions":
		return take(func(_ *importer, _ map[string]any, r partRow[input.Conditions]) (bool, error) { return true, at(r.At) })(m, row, v)
	case "choices":
		return take(func(_ *importer, _ map[string]any, r partRow[[]screening.Choice]) (bool, error) {
			return true, at(r.At)
		})(m, row, v)
	case "waivers":
		return take(func(m *importer, _ map[string]any, r partRow[[]safety.Waiver]) (bool, error) {
			for _, w := range r.Body {
				m.aside("Not taken over: gate %s, waived elsewhere (“%s”). It opens here by its tests, or by a waiver of your own.", w.Gate, w.Reason)
			}
			return false, at(r.At)
		})(m, row, v)
	}
	return false, app.Wrong("part", fmt.Sprintf("%v is not a part of a screening", row["part"]))
}

// aside notes what is not taken over, once.
func (m *importer) aside(format string, args ...any) {
	if s := fmt.Sprintf(format, args...); !slices.Contains(m.setAside, s) {
		m.setAside = append(m.setAside, s)
	}
}

type clearanceRow struct {
	RunnerID string        `json:"runner_id"`
	Flag     safety.FlagID `json:"flag" maxLength:"40"`
	On       day.Date      `json:"on_date" format:"date"`
	Role     string        `json:"role" maxLength:"120"`
	Allowed  string        `json:"allowed" maxLength:"500"`
	Until    day.Date      `json:"until_date" format:"date"`
	At       time.Time     `json:"at"`
}

func clearanceIn(m *importer, _ map[string]any, r clearanceRow) (bool, error) {
	m.aside("Not taken over: clearance for %s by a %s until %s (“%s”), noted elsewhere. If you have seen it, note it anew.", r.Flag, r.Role, r.Until.Words(), r.Allowed)
	return false, first(m.near("on_date", r.On, 1), moments(&r.At))
}

type blockRow struct {
	ID          string            `json:"id"`
	RunnerID    string            `json:"runner_id"`
	ScreeningID string            `json:"screening_id"`
	Start       day.Date          `json:"start_on" format:"date"`
	Weeks       int               `json:"weeks" minimum:"4" maximum:"12"`
	Catalogue   int               `json:"catalogue_version" minimum:"0" maximum:"1000"`
	CreatedAt   time.Time         `json:"created_at"`
	EndedAt     *time.Time        `json:"ended_at"`
	Plan        planning.Proposal `json:"plan"`
}

func blockIn(m *importer, _ map[string]any, r blockRow) (bool, error) {
	return true, first(m.near("start_on", r.Start, ahead), moments(&r.CreatedAt, r.EndedAt))
}

type prescriptionRow struct {
	ID       string            `json:"id"`
	BlockID  string            `json:"block_id"`
	RunnerID string            `json:"runner_id"`
	Position int               `json:"position" minimum:"0" maximum:"200"`
	Ladder   string            `json:"ladder" maxLength:"120"`
	Start    int               `json:"start_notch" minimum:"1" maximum:"200"`
	Extra    body.Side         `json:"extra_set_side" enum:"left,right,"`
	Reasons  []planning.Reason `json:"start_reasons" maxItems:"50"`
	Data     *catalogue.Ladder `json:"ladder_data"`
	FromWeek int               `json:"from_week" minimum:"0" maximum:"12"`
}

func prescriptionIn(m *importer, _ map[string]any, r prescriptionRow) (bool, error) {
	l, known := m.layers.Ladder(r.Ladder)
	if r.Data != nil {
		l = *r.Data
		if l.ID != r.Ladder {
			return false, app.Wrong("ladder_data.id", fmt.Sprintf("expected %q", r.Ladder))
		}
		if err := ladderFits(l, r.Ladder, known); err != nil {
			return false, app.Wrong("ladder_data", err.Error())
		}
	} else if !known {
		return false, app.Wrong("ladder", fmt.Sprintf("%q is not a ladder of this program", r.Ladder))
	}
	if r.Start > l.Len() {
		return false, app.Wrong("start_notch", fmt.Sprintf("%d can't be; the ladder has %d notches", r.Start, l.Len()))
	}
	m.ladders[r.ID] = laddered{l, r.BlockID}
	return true, nil
}

// ladderFits checks a ladder as the catalogue does. One that is the practice's own
// may be checked as such; a built-in one may be of an older edition.
func ladderFits(l catalogue.Ladder, id string, known bool) error {
	if len(l.Notches) > 200 {
		return errors.New("too many notches")
	}
	if known {
		l.Own = true // older editions lacked weights
	}
	return catalogue.Catalogue{}.CheckLadder(l)
}

func (m *importer) notch(field, prescription string, n int) error {
	l, ok := m.ladders[prescription]
	if !ok {
		return app.Wrong("prescription_id", "refers to a prescription that is not in the bundle before it")
	}
	if n < 1 || n > l.Len() {
		return app.Wrong(field, fmt.Sprintf("%d can't be; the ladder %s has %d notches", n, l.ID, l.Len()))
	}
	return nil
}

type pegRow struct {
	PrescriptionID string    `json:"prescription_id"`
	Side           string    `json:"side" enum:"left,right"`
	Notch          int       `json:"notch"`
	HaltRow        *int      `json:"halt_row" minimum:"0" maximum:"20"`
	HaltOn         *day.Date `json:"halt_on" format:"date"`
	LastUp         *day.Date `json:"last_up" format:"date"`
}

func pegIn(m *importer, _ map[string]any, r pegRow) (bool, error) {
	m.pegs[r.PrescriptionID+"/"+r.Side] = true
	if (r.HaltRow == nil) != (r.HaltOn == nil) {
		return false, app.Wrong("halt_on", "a halt has a row and a day")
	}
	for _, d := range []*day.Date{r.HaltOn, r.LastUp} {
		if d != nil {
			if err := m.near("halt_on", *d, 1); err != nil {
				return false, err
			}
		}
	}
	return true, m.notch("notch", r.PrescriptionID, r.Notch)
}

type changeRow struct {
	BlockID string            `json:"block_id"`
	Rev     int               `json:"rev" minimum:"1" maximum:"100000"`
	Body    input.BlockChange `json:"body"`
	At      time.Time         `json:"at"`
}

func changeIn(m *importer, _ map[string]any, r changeRow) (bool, error) {
	for _, d := range r.Body.Days {
		if d < 0 || d > 6 {
			return false, app.Wrong("body.days", fmt.Sprintf("%d is not a weekday", d))
		}
	}
	if r.Body.Notch != 0 {
		ok := false
		for _, l := range m.ladders {
			ok = ok || l.block == r.BlockID && l.ID == r.Body.Ladder && r.Body.Notch >= 1 && r.Body.Notch <= l.Len()
		}
		if !ok {
			return false, app.Wrong("body.notch", fmt.Sprintf("%d can't be", r.Body.Notch))
		}
	}
	return true, moments(&r.At)
}

type logRow struct {
	ID       string    `json:"id"`
	BlockID  string    `json:"block_id"`
	RunnerID string    `json:"runner_id"`
	On       day.Date  `json:"on_date" format:"date"`
	Note     string    `json:"note" maxLength:"2000"`
	At       time.Time `json:"at"`
	Litmus   string    `json:"litmus" enum:"better,same,worse,"`
	Replaces string    `json:"replaces"`
	Reason   string    `json:"reason" maxLength:"300"`
	Removed  bool      `json:"removed"`
	Routine  string    `json:"routine" maxLength:"80"`
	Felt     string    `json:"felt" enum:"foot,calf,shin,thigh,seat,"`
	Compared []struct {
		Side   body.Side `json:"side" enum:"left,right"`
		Before float64   `json:"before" minimum:"0" maximum:"30"`
		After  float64   `json:"after" minimum:"0" maximum:"30"`
	} `json:"compared" maxItems:"2"`
}

func logIn(m *importer, _ map[string]any, r logRow) (bool, error) {
	if r.Replaces != "" && m.logs[r.Replaces] != r.BlockID {
		return false, app.Wrong("replaces", "expected an earlier session of the same block")
	}
	m.logs[r.ID] = r.BlockID
	return true, first(m.near("on_date", r.On, 1), moments(&r.At))
}

type itemRow struct {
	LogID          string          `json:"log_id"`
	PrescriptionID string          `json:"prescription_id"`
	Side           string          `json:"side" enum:"left,right"`
	Notch          int             `json:"notch"`
	Pain           *int            `json:"pain" minimum:"0" maximum:"10"`
	Done           *float64        `json:"done" minimum:"0" maximum:"1"`
	Compensated    *float64        `json:"compensated" minimum:"0" maximum:"1"`
	Reserve        *int            `json:"reserve" minimum:"0" maximum:"5"`
	SureTwenty     *bool           `json:"sure_twenty"`
	NoTime         bool            `json:"no_time"`
	CrampAt        *int            `json:"cramp_at" minimum:"1" maximum:"200"`
	SoreSpot       *int            `json:"sore_spot" minimum:"0" maximum:"10"`
	Reacted        bool            `json:"reacted"`
	Cut            string          `json:"cut" enum:"deload,half,cap,cramp,spike,growth,"`
	Given          *catalogue.Dose `json:"given"`
	Mistakes       []string        `json:"mistakes" maxItems:"20"`
	SetsDone       *int            `json:"sets_done" minimum:"0" maximum:"50"`
	RepsDone       *int            `json:"reps_done" minimum:"0" maximum:"500"`
	LoadKg         *float64        `json:"load_kg" minimum:"0" maximum:"500"`
}

func itemIn(m *importer, _ map[string]any, r itemRow) (bool, error) {
	if m.logs[r.LogID] != m.ladders[r.PrescriptionID].block {
		return false, app.Wrong("prescription_id", "is not of the block of its session")
	}
	return true, m.notch("notch", r.PrescriptionID, r.Notch)
}

type morningRow struct {
	RowHead
	On        day.Date `json:"on_date" format:"date"`
	FirstStep *int     `json:"first_step" minimum:"0" maximum:"10"`
	Rest      *int     `json:"rest" minimum:"0" maximum:"10"`
	Zone      string   `json:"zone"`
	Side      string   `json:"side" enum:"left,right,"`
}

func morningIn(m *importer, _ map[string]any, r morningRow) (bool, error) {
	return true, first(m.near("on_date", r.On, 1), moments(&r.At), zoned("zone", r.Zone))
}

type runRow struct {
	RowHead
	ID        string     `json:"id"`
	StartedAt *time.Time `json:"started_at"`
	On        day.Date   `json:"on_date" format:"date"`
	Metres    int        `json:"metres" minimum:"0" maximum:"300000"`
	Seconds   int        `json:"seconds" minimum:"0" maximum:"172800"`
	Cadence   *float64   `json:"cadence" minimum:"60" maximum:"260"`
	Effort    *int       `json:"effort" minimum:"0" maximum:"10"`
	Footwear  string     `json:"footwear" enum:"usual,minimal,bare,"`
	Surface   string     `json:"surface" maxLength:"300"`
	Shoe      string     `json:"shoe" maxLength:"300"`
	Fast      bool       `json:"fast"`
	Pain      *int       `json:"pain" minimum:"0" maximum:"10"`
	Zone      string     `json:"zone"`
	Side      string     `json:"side" enum:"left,right,both,"`
	Limping   bool       `json:"limping"`
	Note      string     `json:"note" maxLength:"4000"`
	Source    string     `json:"source" enum:"typed,fit,gpx,tcx,csv"`
	Hash      string     `json:"hash" maxLength:"80"`
	Removed   bool       `json:"removed"`
	What      string     `json:"what" enum:"run,walk,"`
	Strike    string     `json:"strike" enum:"rear,mid-fore,"`
}

func runIn(m *importer, _ map[string]any, r runRow) (bool, error) {
	return true, first(m.near("on_date", r.On, 1), moments(&r.At, r.StartedAt), zoned("zone", r.Zone))
}

type detailRow struct {
	RunID    string           `json:"run_id"`
	RunnerID string           `json:"runner_id"`
	Body     input.RunDetails `json:"body"`
}

func detailIn(_ *importer, _ map[string]any, r detailRow) (bool, error) { return true, r.Body.Check() }

type trackRow struct {
	RunID    string `json:"run_id"`
	RunnerID string `json:"runner_id"`
	Points   string `json:"points"`
}

// trackIn unpacks a track point by point and keeps none of them: what is packed
// small may be large.
func trackIn(m *importer, _ map[string]any, r trackRow) (bool, error) {
	wrong := func(format string, args ...any) (bool, error) {
		return false, app.Wrong("points", fmt.Sprintf(format, args...))
	}
	packed, err := hex.DecodeString(strings.TrimPrefix(r.Points, `\x`))
	if err != nil || !strings.HasPrefix(r.Points, `\x`) {
		return wrong("not a packed track")
	}
	n, err := input.ReadTrack(packed, func(p formats.Point) error {
		if !(math.Abs(p.Lat) <= 90 && math.Abs(p.Lon) <= 180) || p.At < 0 || p.At > 172_800 || p.Metres != nil && math.Abs(*p.Metres) > 20_000 {
			return errors.New("a point that is nowhere")
		}
		return nil
	})
	if err != nil {
		return wrong("%s", err)
	}
	if m.unpacked += n; m.unpacked > input.BundleTracks {
		return wrong("the tracks are larger than %d MB", input.BundleTracks>>20)
	}
	return true, nil
}

type dayRow struct {
	RowHead
	On   day.Date       `json:"on_date" format:"date"`
	Body input.DayInput `json:"body"`
}

func dayIn(m *importer, _ map[string]any, r dayRow) (bool, error) {
	if a := r.Body.Answers; a != nil {
		if err := brought(*a); err != nil {
			return false, err
		}
	}
	return true, first(m.near("on_date", r.On, 1), moments(&r.At), r.Body.Check(max(r.On, m.today-input.RunsBack), m.today))
}

type plannedRow struct {
	RowHead
	Monday day.Date `json:"monday" format:"date"`
	Metres int      `json:"metres" minimum:"0" maximum:"400000"`
}

func plannedIn(m *importer, _ map[string]any, r plannedRow) (bool, error) {
	if r.Monday.Monday() != r.Monday {
		return false, app.Wrong("monday", r.Monday.String()+" is not a Monday")
	}
	return true, first(m.near("monday", r.Monday, ahead), moments(&r.At))
}

type rampRow[T any] struct {
	RowHead
	Kind string `json:"kind"`
	Body T      `json:"body"`
}

func rampIn(m *importer, row map[string]any, v any) (bool, error) {
	if row["kind"] == "cadence" {
		return take(func(_ *importer, _ map[string]any, r rampRow[input.CadenceRampInput]) (bool, error) {
			if r.Body.Ended {
				return true, moments(&r.At)
			}
			return true, first(moments(&r.At), input.CheckTerms("body.terms.", r.Body.Terms.Check()))
		})(m, row, v)
	}
	return take(func(m *importer, _ map[string]any, r rampRow[input.RampInput]) (bool, error) {
		if r.Body.Ended && r.Body.Terms.From == 0 {
			return true, moments(&r.At)
		}
		return true, first(moments(&r.At), m.near("body.terms.from", r.Body.Terms.From, ahead), input.CheckTerms("body.terms.", r.Body.Terms.Check()))
	})(m, row, v)
}

type rampEventRow[T any] struct {
	RunnerID string    `json:"runner_id"`
	Kind     string    `json:"kind"`
	On       day.Date  `json:"on_date" format:"date"`
	Body     T         `json:"body"`
	At       time.Time `json:"at"`
}

func rampEventIn(m *importer, row map[string]any, v any) (bool, error) {
	if row["kind"] == "cue" {
		return take(func(m *importer, _ map[string]any, r rampEventRow[transition.CueLook]) (bool, error) {
			if !input.KnownCue(r.Body.Cue) {
				return false, app.Wrong("body.cue", fmt.Sprintf("%q is not a cue", r.Body.Cue))
			}
			return true, first(m.near("on_date", r.On, 1), m.near("body.on", r.Body.On, 1), moments(&r.At))
		})(m, row, v)
	}
	return take(func(m *importer, _ map[string]any, r rampEventRow[transition.Recount]) (bool, error) {
		return true, first(m.near("on_date", r.On, 1), m.near("body.on", r.Body.On, 1), moments(&r.At))
	})(m, row, v)
}

type rampDateRow struct {
	RowHead
	Reached *day.Date `json:"reached" format:"date"`
	Why     string    `json:"why" maxLength:"1000"`
	On      day.Date  `json:"on_date" format:"date"`
}

func rampDateIn(m *importer, _ map[string]any, r rampDateRow) (bool, error) {
	return true, first(m.near("on_date", r.On, 1), moments(&r.At))
}

type flagRow struct {
	RunnerID     string        `json:"runner_id"`
	Flag         safety.FlagID `json:"flag" maxLength:"40"`
	Level        safety.Level  `json:"level" enum:"emergency,refer,limit,note"`
	Side         body.Side     `json:"side" enum:"left,right,both,"`
	Tissues      []body.Tissue `json:"tissues" maxItems:"8"`
	Everything   bool          `json:"everything"`
	ProgressOnly bool          `json:"progress_only"`
	Since        day.Date      `json:"since" format:"date"`
	LogID        string        `json:"log_id"`
	At           time.Time     `json:"at"`
	EndedOn      *day.Date     `json:"ended_on" format:"date"`
	Why          string        `json:"why" maxLength:"200"`
	Running      bool          `json:"running"`
	Zone         string        `json:"zone"`
}

func flagIn(m *importer, _ map[string]any, r flagRow) (bool, error) {
	for _, t := range r.Tissues {
		if !slices.Contains([]body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}, t) {
			return false, app.Wrong("tissues", fmt.Sprintf("%q is not a tissue", t))
		}
	}
	if r.EndedOn != nil {
		if err := m.near("ended_on", *r.EndedOn, 1); err != nil {
			return false, err
		}
	}
	return true, first(m.near("since", r.Since, 1), moments(&r.At), zoned("zone", r.Zone))
}

type decisionRow struct {
	ID             string          `json:"id"`
	PrescriptionID string          `json:"prescription_id"`
	RunnerID       string          `json:"runner_id"`
	LogID          string          `json:"log_id"`
	Side           body.Side       `json:"side" enum:"left,right,both"`
	On             day.Date        `json:"on_date" format:"date"`
	Verdict        adjust.Verdict  `json:"verdict" enum:"up,hold,back,stop"`
	Row            int             `json:"row" minimum:"-1" maximum:"20"`
	From           int             `json:"from_notch"`
	To             int             `json:"to_notch"`
	Decision       adjust.Decision `json:"decision"`
	Sentence       string          `json:"sentence" maxLength:"2000"`
	State          string          `json:"state" enum:"proposed,applied,accepted,overridden,waiting,superseded"`
	AnswerNotch    *int            `json:"answer_notch"`
	AnswerReason   string          `json:"answer_reason" maxLength:"1000"`
	AnsweredAt     *time.Time      `json:"answered_at"`
	At             time.Time       `json:"at"`
	Version        int             `json:"version" minimum:"0" maximum:"100000"`
	Input          any             `json:"input"`
	Engine         int             `json:"engine" minimum:"0" maximum:"1000"`
	Key            string          `json:"key" maxLength:"300"`
	Kind           string          `json:"kind" maxLength:"40"`
	Course         any             `json:"course"`
}

// decisionIn keeps a decision as what was decided elsewhere: what waited for an
// answer there waits for none here.
func decisionIn(m *importer, row map[string]any, r decisionRow) (bool, error) {
	if r.State == "proposed" || r.State == "waiting" {
		row["state"] = "superseded"
	}
	row["key"] = ""
	delete(row, "input")
	delete(row, "course")
	if d := r.Decision; d.From != r.From || d.To != r.To || d.Verdict != r.Verdict {
		return false, app.Wrong("decision", "says something else than its row")
	}
	for _, n := range []int{r.From, r.To} {
		if err := m.notch("to_notch", r.PrescriptionID, n); err != nil {
			return false, err
		}
	}
	if n := r.AnswerNotch; n != nil {
		if err := m.notch("answer_notch", r.PrescriptionID, *n); err != nil {
			return false, err
		}
	}
	return true, first(m.near("on_date", r.On, 1), moments(&r.At, r.AnsweredAt))
}

type journalRow struct {
	RunnerID string    `json:"runner_id"`
	At       time.Time `json:"at"`
	Kind     string    `json:"kind" maxLength:"40"`
	Sentence string    `json:"sentence" maxLength:"4000"`
	Detail   any       `json:"detail"`
}

func journalIn(_ *importer, _ map[string]any, r journalRow) (bool, error) {
	return true, moments(&r.At)
}

// whole checks what only shows when all rows are there: every ladder of a block has
// a peg on both sides.
func (m *importer) whole() error {
	for _, id := range app.SortedKeys(m.ladders) {
		for _, side := range []string{"left", "right"} {
			if !m.pegs[id+"/"+side] {
				return app.Wrong("tables.pegs", fmt.Sprintf("%s has no peg on the %s", id, side))
			}
		}
	}
	return nil
}
