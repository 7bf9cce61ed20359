package pocket

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/units"
	"notchback/store"
)

// Kind names what is reported.
type Kind string

// The kinds of reports.
const (
	OfMorning Kind = "morning"
	OfSession Kind = "session"
	OfRun     Kind = "run"
	OfFile    Kind = "file"
	OfRamp    Kind = "ramp"
	OfMove    Kind = "move"
	OfNote    Kind = "note"
)

// Report is one thing a phone tells, by the id it was given there. Of the parts just
// that of its kind is filled.
type Report struct {
	ID      string       `json:"id" format:"uuid"`
	Kind    Kind         `json:"kind" enum:"morning,session,run,file,ramp,move,note"`
	On      day.Date     `json:"on" format:"date" doc:"The day it is about, by the phone's calendar"`
	At      time.Time    `json:"at" doc:"When it was written, by the phone's clock"`
	Zone    string       `json:"zone,omitempty" maxLength:"60" doc:"The phone's time zone"`
	Morning *MorningPart `json:"morning,omitempty"`
	Session *SessionPart `json:"session,omitempty"`
	Run     *RunPart     `json:"run,omitempty"`
	File    *FilePart    `json:"file,omitempty"`
	Ramp    *RampPart    `json:"ramp,omitempty"`
	Move    *MovePart    `json:"move,omitempty"`
	Note    string       `json:"note,omitempty" maxLength:"1000"`
}

// MorningPart is a morning, or the day as far as it was told.
type MorningPart struct {
	Readings        []input.PlaceReading `json:"readings,omitempty" maxItems:"20"`
	Illness         string               `json:"illness,omitempty" enum:"cold,fever,"`
	PoorSleep       bool                 `json:"poorSleep,omitempty"`
	BarefootMinutes *int                 `json:"barefootMinutes,omitempty"`
	CalfSoreness    *int                 `json:"calfSoreness,omitempty"`
	BoneTender      bool                 `json:"boneTender,omitempty"`
	New             []input.PlaceReading `json:"new,omitempty" maxItems:"10"`
	Answers         *safety.Answers      `json:"answers,omitempty"`
}

// SessionPart is a session as it was done, with the notch each side was done at: the
// plan may have changed meanwhile.
type SessionPart struct {
	Block string               `json:"block" format:"uuid"`
	Kind  planning.SessionKind `json:"kind" maxLength:"20"`
	Items []ItemPart           `json:"items" minItems:"1" maxItems:"40"`
	// Litmus is how ten steps on heels and toes felt after it, against before.
	Litmus  string          `json:"litmus,omitempty" enum:"better,same,worse,"`
	Answers *safety.Answers `json:"answers,omitempty" doc:"Asked because something in it hurt"`
	Note    string          `json:"note,omitempty" maxLength:"1000"`
	// Routine is set where the session was a routine; what that measures, in centimetres.
	Routine  string         `json:"routine,omitempty" maxLength:"80"`
	Compared []ComparedPart `json:"compared,omitempty" maxItems:"2"`
	Felt     string         `json:"felt,omitempty" enum:"foot,calf,shin,thigh,seat,"`
}

// ComparedPart is what a routine measured on a side before and after it, in centimetres.
type ComparedPart struct {
	Side   body.Side `json:"side" enum:"left,right"`
	Before float64   `json:"before" minimum:"0" maximum:"30"`
	After  float64   `json:"after" minimum:"0" maximum:"30"`
}

// ItemPart is what was done of one ladder on one side.
type ItemPart struct {
	PrescriptionID string    `json:"prescriptionId" format:"uuid"`
	Side           body.Side `json:"side" enum:"left,right,both"`
	Notch          int       `json:"notch" minimum:"1" doc:"As it was done"`
	Pain           *int      `json:"pain,omitempty"`
	Done           *float64  `json:"done,omitempty"`
	Reserve        *int      `json:"reserve,omitempty"`
	SureTwenty     *bool     `json:"sureOfTwentyPercentMore,omitempty"`
	NoTime         bool      `json:"noTime,omitempty"`
	CrampAt        *int      `json:"crampAt,omitempty"`
	SoreSpot       *int      `json:"soreSpot,omitempty"`
	Mistakes       []string  `json:"mistakes,omitempty" maxItems:"10"`
	Compensated    *float64  `json:"compensated,omitempty"`
}

// RunPart is a run as it is told.
type RunPart struct {
	Km       float64       `json:"km"`
	Minutes  float64       `json:"minutes"`
	Effort   *int          `json:"effort,omitempty"`
	Footwear load.Footwear `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Surface  string        `json:"surface,omitempty" maxLength:"60"`
	Pain     *int          `json:"pain,omitempty"`
	Zone     string        `json:"zone,omitempty" maxLength:"30"`
	Side     body.Side     `json:"side,omitempty" enum:"left,right,both,"`
	Limping  bool          `json:"limping,omitempty"`
}

// FilePart is a file of runs, as a watch or another application wrote it. What was felt
// on the run is added to the one run of it.
type FilePart struct {
	Name    string `json:"name" maxLength:"200"`
	Data    []byte `json:"data,omitempty" maxLength:"11200000" doc:"At most 8 MB"`
	Pain    *int   `json:"pain,omitempty"`
	Effort  *int   `json:"effort,omitempty"`
	Limping bool   `json:"limping,omitempty"`
}

// RampPart is the ramp's one tap.
type RampPart struct {
	Stage transition.Stage `json:"stage,omitempty" maxLength:"20"`
	Done  bool             `json:"done"`
}

// MovePart moves a session to another day.
type MovePart struct {
	Block string               `json:"block" format:"uuid"`
	Kind  planning.SessionKind `json:"kind" maxLength:"20"`
	To    day.Date             `json:"to" format:"date"`
}

// parts counts the parts a report has, and says whether it is that of its kind.
func (r Report) parts() (n int, own bool) {
	for k, has := range map[Kind]bool{OfMorning: r.Morning != nil, OfSession: r.Session != nil, OfRun: r.Run != nil, OfFile: r.File != nil, OfRamp: r.Ramp != nil, OfMove: r.Move != nil, OfNote: r.Note != ""} {
		if has {
			n++
			own = own || k == r.Kind
		}
	}
	return n, own
}

// Bounds of reports (house). What is told on a later day than it is about is late.
const (
	mostBack   = 60 // days
	aheadHours = 36 // of a clock
	BatchMost  = 100
	BatchBytes = 12 << 20
)

// check refuses what can't be, in words for whoever told it.
func (r Report) check(now time.Time, today day.Date) string {
	switch n, own := r.parts(); {
	case n != 1 || !own:
		return "This was told by an edition that says it otherwise. Open the page again and tell it once more."
	case r.At.After(now.Add(aheadHours * time.Hour)):
		return fmt.Sprintf("The phone's clock says %s. Put it right, then tell it again.", r.At.Format("2 January, 15:04"))
	case r.On > today+1:
		return "That day is still to come."
	case r.On < today-mostBack:
		return fmt.Sprintf("That is more than %d days ago. Tell your coach in words.", mostBack)
	}
	return ""
}

// Told is what became of a report.
type Told struct {
	ID    string `json:"id"`
	State string `json:"state" enum:"received,taken,double,refused" doc:"received: kept here, looked at in a moment"`
	Why   string `json:"why,omitempty"`
}

// Receive keeps reports as they came, once each, and says so; what follows from them
// is Settle's. One that is another runner's is nobody's.
func (a *Pockets) Receive(ctx context.Context, act app.Actor, list []Report) ([]Told, error) {
	out := []Told{}
	now, today := a.Now(), a.Today(act)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		for _, r := range list {
			t := Told{ID: r.ID, State: "received"}
			var data []byte
			if r.File != nil { // kept beside the report until it was read
				data, r.File.Data = r.File.Data, nil
			}
			raw, err := json.Marshal(r)
			if err != nil {
				return err
			}
			x := store.PocketReport{ID: r.ID, RunnerID: act.Runner, DeviceID: act.Device, Kind: string(r.Kind), On: r.On.Time(), MadeAt: r.At, Zone: r.Zone, Body: raw, ReceivedAt: now, Late: r.On < day.Of(r.At, act.Zone), State: "received"}
			if why := r.check(now, today); why != "" {
				x.State, x.Why, t.State, t.Why = "refused", why, "refused", why
			}
			if x.On.Year() < 2000 || x.On.Year() > 2200 {
				x.On = today.Time() // kept with its refusal
			}
			added, err := tx.AddPocketReport(ctx, x)
			if err != nil {
				return err
			}
			if added && r.File != nil && x.State == "received" {
				if err := tx.PutPocketFile(ctx, r.ID, data); err != nil {
					return err
				}
			}
			if !added {
				was, err := tx.PocketReport(ctx, r.ID)
				if err != nil || was.RunnerID != act.Runner {
					t.State, t.Why = "refused", "This was told under a number that is taken. Tell it again."
				} else {
					t.State, t.Why = was.State, was.Why
				}
			}
			out = append(out, t)
		}
		return nil
	})
	return out, err
}

// Waiting are the reports of which nothing became yet, as they came in.
func (a *Pockets) Waiting(ctx context.Context, practice, runner string, most int) ([]Report, []store.PocketReport, error) {
	var rows []store.PocketReport
	err := a.Store.In(ctx, practice, func(tx *store.Tx) (err error) {
		rows, err = tx.PocketWaiting(ctx, runner, most)
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	out := make([]Report, len(rows))
	for i, x := range rows {
		if err := json.Unmarshal(x.Body, &out[i]); err != nil {
			return nil, nil, fmt.Errorf("report %s: %w", x.ID, err)
		}
	}
	return out, rows, nil
}

// Refuse says why nothing becomes of a report.
func (a *Pockets) Refuse(ctx context.Context, practice, id, state, why string) error {
	err := a.Store.In(ctx, practice, func(tx *store.Tx) error {
		if err := tx.SettlePocketReport(ctx, id, state, why); err != nil {
			return err
		}
		return tx.DropPocketFile(ctx, id)
	})
	if errors.Is(err, store.ErrSettled) {
		return nil
	}
	return err
}

// Taken puts the settling of a report into the transaction of what it does: both
// happen, or neither; store.ErrSettled where somebody else was first.
func Taken(ctx context.Context, id string) context.Context {
	return app.Along(ctx, func(tx *store.Tx) error {
		if err := tx.SettlePocketReport(ctx, id, "taken", ""); err != nil {
			return err
		}
		return tx.DropPocketFile(ctx, id)
	})
}

// FileOf returns the file of a report.
func (a *Pockets) FileOf(ctx context.Context, act app.Actor, report string) (data []byte, err error) {
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		data, err = tx.PocketFile(ctx, report)
		return err
	})
	return data, err
}

// Owns refuses a block that is not the runner's own.
func (a *Pockets) Owns(ctx context.Context, act app.Actor, block string) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		runner, err := tx.RunnerOf(ctx, store.OfBlock, block)
		if err == nil && runner != act.Runner {
			return app.ErrNotFound
		}
		return err
	})
}

// DoubleSession reports whether the sides of a session's ladders were logged on its
// day already: by another phone, or by the coach.
func (a *Pockets) DoubleSession(ctx context.Context, act app.Actor, in Report) (bool, error) {
	double := false
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, act.Runner, nil)
		if err != nil || k.F == nil {
			return err
		}
		for _, it := range k.F.Items {
			if app.DateOf(it.On) == in.On && slices.ContainsFunc(in.Session.Items, func(x ItemPart) bool {
				return x.PrescriptionID == it.PrescriptionID && (x.Side == body.Both || string(x.Side) == it.Side)
			}) {
				double = true
			}
		}
		return nil
	})
	return double, err
}

// KeepNote keeps a runner's word to the coach, with the settling of its report.
func (a *Pockets) KeepNote(ctx context.Context, act app.Actor, words string) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		return tx.AddPocketNote(ctx, act.Runner, true, act.Runner, strings.TrimSpace(words), a.Now())
	})
}

// ReportView is a report as coach and runner read it.
type ReportView struct {
	ID    string    `json:"id"`
	Kind  Kind      `json:"kind"`
	On    day.Date  `json:"on" format:"date"`
	At    time.Time `json:"at"`
	Late  bool      `json:"late,omitempty"`
	State string    `json:"state" enum:"received,taken,double,refused"`
	Why   string    `json:"why,omitempty"`
	New   bool      `json:"new,omitempty" doc:"The coach has not looked since"`
	Words string    `json:"words"`
}

// NoteView is a word between runner and coach.
type NoteView struct {
	ID   string    `json:"id"`
	Mine bool      `json:"mine" doc:"Written by who reads it"`
	By   string    `json:"by"`
	Text string    `json:"text"`
	At   time.Time `json:"at"`
	Read bool      `json:"read"`
}

// reportWords says in a line what was told.
func reportWords(r Report) string {
	switch r.Kind {
	case OfMorning:
		var parts []string
		for _, p := range r.Morning.Readings {
			if p.FirstStep != nil {
				name := "first steps"
				if p.Zone != "" {
					name = input.ZoneName(p.Zone)
				}
				parts = append(parts, fmt.Sprintf("%s %d", name, *p.FirstStep))
			}
		}
		if len(r.Morning.New) > 0 {
			parts = append(parts, "something new")
		}
		if r.Morning.Illness != "" {
			parts = append(parts, "ill")
		}
		if r.Morning.BarefootMinutes != nil {
			parts = append(parts, fmt.Sprintf("%d min without shoes", *r.Morning.BarefootMinutes))
		}
		if len(parts) == 0 {
			return "Morning"
		}
		return "Morning: " + strings.Join(parts, ", ")
	case OfSession:
		return "Session with " + app.Plural(len(r.Session.Items), "entry", "entries")
	case OfRun:
		return "Run of " + units.Km(1000*r.Run.Km, 1)
	case OfFile:
		return "A file of runs: " + r.File.Name
	case OfRamp:
		return "Barefoot work done"
	case OfMove:
		return "Session moved to " + r.Move.To.Words()
	}
	return "A note"
}

func reportViews(rows []store.PocketReport) ([]ReportView, error) {
	out := []ReportView{}
	for _, x := range rows {
		var r Report
		if err := json.Unmarshal(x.Body, &r); err != nil {
			return nil, fmt.Errorf("report %s: %w", x.ID, err)
		}
		v := ReportView{ID: x.ID, Kind: Kind(x.Kind), On: r.On, At: x.MadeAt, Late: x.Late, State: x.State, Why: x.Why, New: x.ToldAt == nil, Words: "A report"}
		if n, own := r.parts(); n == 1 && own {
			v.Words = reportWords(r)
		}
		out = append(out, v)
	}
	return out, nil
}

func noteViews(list []store.PocketNote, runner bool) []NoteView {
	out := []NoteView{}
	for _, n := range list {
		out = append(out, NoteView{ID: n.ID, Mine: n.ByRunner == runner, By: n.By, Text: n.Words, At: n.At, Read: n.ReadAt != nil})
	}
	return out
}

// Carried is what a phone is told beside its plan.
type Carried struct {
	Notes   []NoteView   `json:"notes" nullable:"false"`
	Devices []DeviceView `json:"devices" nullable:"false"`
	Reports []ReportView `json:"reports" nullable:"false" doc:"Of the last two weeks, newest first"`
}

// reportsShown is for how long a phone and a coach see what was told, in days.
const reportsShown = 14

// Carry is what a phone is told beside its plan. With a clock and an edition it is
// noted how far off the first is, and what the second.
func (a *Pockets) Carry(ctx context.Context, act app.Actor, clock time.Time, edition string) (Carried, error) {
	out := Carried{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		var off *int
		if !clock.IsZero() {
			n := int(max(-1e8, min(1e8, clock.Sub(a.Now()).Seconds())))
			off = &n
		}
		if len(edition) > 40 {
			edition = edition[:40]
		}
		if err := tx.SeePocketDevice(ctx, act.Device, a.Now(), off, edition); err != nil {
			return err
		}
		notes, err := tx.PocketNotes(ctx, act.Runner, notesKept)
		if err != nil {
			return err
		}
		out.Notes = noteViews(notes, true)
		devices, err := tx.PocketDevices(ctx, act.Runner)
		if err != nil {
			return err
		}
		out.Devices = []DeviceView{}
		for _, d := range devices {
			if v := deviceView(d, a.Now()); v.Out == "" {
				v.This = d.ID == act.Device
				out.Devices = append(out.Devices, v)
			}
		}
		rows, err := tx.PocketReports(ctx, act.Runner, a.Now().Add(-reportsShown*dayLong))
		if err != nil {
			return err
		}
		out.Reports, err = reportViews(rows)
		return err
	})
	return out, err
}

// HeardView is what a coach sees of a runner's phone: reports, words, phones.
type HeardView struct {
	Reports []ReportView `json:"reports" nullable:"false"`
	Notes   []NoteView   `json:"notes" nullable:"false"`
	Way     WayView      `json:"way"`
	Last    *time.Time   `json:"last,omitempty" doc:"The last contact of any phone"`
	New     int          `json:"new" doc:"Reports since the last look, words among them"`
}

// Heard shows what came in.
func (a *Pockets) Heard(ctx context.Context, act app.Actor, runner string) (HeardView, error) {
	out := HeardView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		if out.Way, err = a.way(ctx, tx, act, runner); err != nil {
			return err
		}
		rows, err := tx.PocketReports(ctx, runner, a.Now().Add(-reportsShown*dayLong))
		if err != nil {
			return err
		}
		if out.Reports, err = reportViews(rows); err != nil {
			return err
		}
		notes, err := tx.PocketNotes(ctx, runner, notesKept)
		out.Notes = noteViews(notes, false)
		for _, r := range out.Reports {
			if r.New {
				out.New++
			}
		}
		for _, d := range out.Way.Devices {
			if out.Last == nil || d.SeenAt.After(*out.Last) {
				at := d.SeenAt
				out.Last = &at
			}
		}
		return err
	})
	return out, err
}

// Looked notes that a coach has seen what came in.
func (a *Pockets) Looked(ctx context.Context, act app.Actor, runner string) (HeardView, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		now := a.Now()
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.TellPocketReports(ctx, runner, now); err != nil {
			return err
		}
		if err := tx.TellPocketDevices(ctx, runner, now); err != nil {
			return err
		}
		return tx.ReadPocketNotes(ctx, runner, true, now, now)
	})
	if err != nil {
		return HeardView{}, err
	}
	return a.Heard(ctx, act, runner)
}

// WriteTo sends a coach's word to a runner's phone.
func (a *Pockets) WriteTo(ctx context.Context, act app.Actor, runner, text string) (HeardView, error) {
	text = strings.TrimSpace(text)
	if text == "" || len([]rune(text)) > mostNote {
		return HeardView{}, app.Invalid{{Field: "text", Message: "a few words are needed, up to 1000 characters"}}
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		return tx.AddPocketNote(ctx, runner, false, act.User.ID, text, a.Now())
	})
	if err != nil {
		return HeardView{}, err
	}
	return a.Heard(ctx, act, runner)
}

// Read marks as read what coaches wrote up to a time.
func (a *Pockets) Read(ctx context.Context, act app.Actor, upTo time.Time) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error { return tx.ReadPocketNotes(ctx, act.Runner, false, upTo, a.Now()) })
}
