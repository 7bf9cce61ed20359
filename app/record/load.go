// Package record is the only reader of a runner's rows into a record, and the
// only keeper of what follows from it. Each table is read once a request.
package record

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"notchback/app/input"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/store"
)

// Rows are a runner's rows as they stand, read once.
type Rows struct {
	Runner     store.Runner
	Screenings []store.Screening // newest first
	Own        []safety.Own      // the safety questions of the practice
	Trials     []store.Trial
	Parts      []store.Part
	Clearances []store.Clearance // newest first
	Flags      []store.Flag
	Notes      []store.DayNote // the newest revisions
	Mornings   []store.Morning
	Runs       []store.Run
	revisions  revisions
	Planned    []store.Planned
	Ramps      []store.RampRev
	RampEvents []store.RampEvent
	RampDates  []store.RampDate
	Plan       *Plan
}

// revisions are all that was ever said of days, mornings and runs.
type revisions struct {
	notes    []store.DayNote
	mornings []store.Morning
	runs     []store.Run
}

// newestOnly keeps the last of each run of rows that are the same but for their
// revision.
func newestOnly[T any](list []T, same func(a, b T) bool) []T {
	var out []T
	for _, x := range list {
		if n := len(out); n > 0 && same(out[n-1], x) {
			out[n-1] = x
			continue
		}
		out = append(out, x)
	}
	return out
}

// inUse are the newest revisions.
func (r *Rows) inUse() {
	v := r.revisions
	r.Notes = newestOnly(v.notes, func(a, b store.DayNote) bool { return a.On.Equal(b.On) })
	r.Mornings = newestOnly(v.mornings, func(a, b store.Morning) bool { return a.On.Equal(b.On) && a.Zone == b.Zone && a.Side == b.Side })
	newest := map[string]int{}
	for i, x := range v.runs {
		if j, ok := newest[x.ID]; !ok || v.runs[j].Rev < x.Rev {
			newest[x.ID] = i
		}
	}
	r.Runs = nil
	for i, x := range v.runs {
		if newest[x.ID] == i && !x.Removed {
			r.Runs = append(r.Runs, x)
		}
	}
}

// NoteRev is the newest revision of a day's note; 0 where there is none.
func (r *Rows) NoteRev(on day.Date) int {
	rev := 0
	for _, n := range r.revisions.notes {
		if dateOf(n.On) == on {
			rev = max(rev, n.Rev)
		}
	}
	return rev
}

// NoteAt is a day's note as it stood at a revision.
func (r *Rows) NoteAt(on day.Date, rev int) ([]byte, bool) {
	for _, n := range r.revisions.notes {
		if dateOf(n.On) == on && n.Rev == rev {
			return n.Body, true
		}
	}
	return nil, false
}

// Plan are the rows of one block.
type Plan struct {
	Block         store.Block
	Prescriptions []store.Prescription
	Pegs          []store.Peg
	Logs          []store.SessionLog  // newest first, with those put right or taken back
	AllItems      []store.SessionItem // of all logs
	Items         []store.SessionItem // of those in use
	Decisions     []store.Decision
	Answers       []store.Answer
	Changes       []store.Rev
	State         *store.CourseState
	Engine        int // the edition the practice lets work; 0 where none was noted
}

// OwnQuestions are the safety questions a practice asks beside the table's.
func OwnQuestions(ctx context.Context, tx *store.Tx) ([]safety.Own, error) {
	rows, err := tx.OwnQuestions(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]safety.Own, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Body, &out[i]); err != nil {
			return nil, fmt.Errorf("question %s: %w", r.ID, err)
		}
	}
	return out, nil
}

// Load reads a runner's rows. A visit needs no more than screenings, flags, runs
// and day notes; lean leaves the rest out.
func Load(ctx context.Context, tx *store.Tx, runner string, today day.Date, lean bool) (*Rows, error) {
	r := &Rows{}
	var err error
	if r.Runner, err = tx.Runner(ctx, runner); err != nil {
		return nil, err
	}
	from := (today - input.RunsBack).Time()
	read := []func() error{
		func() (err error) { r.Screenings, err = tx.Screenings(ctx, runner); return err },
		func() error {
			ids := make([]string, len(r.Screenings))
			for i, s := range r.Screenings {
				ids[i] = s.ID
			}
			var err error
			if r.Trials, err = tx.Trials(ctx, ids...); err != nil {
				return err
			}
			r.Parts, err = tx.Parts(ctx, ids...)
			return err
		},
		func() (err error) { r.Own, err = OwnQuestions(ctx, tx); return err },
		func() (err error) { r.Clearances, err = tx.Clearances(ctx, runner); return err },
		func() (err error) { r.Flags, err = tx.Flags(ctx, runner); return err },
		func() (err error) { r.revisions.notes, err = tx.DayNotes(ctx, runner, from); return err },
		func() (err error) { r.revisions.runs, err = tx.RunRevs(ctx, runner, from); return err },
	}
	if !lean {
		read = append(read,
			func() (err error) { r.revisions.mornings, err = tx.Mornings(ctx, runner, from); return err },
			func() (err error) {
				r.Planned, err = tx.PlannedWeeks(ctx, runner, (today.Monday() - 28).Time())
				return err
			},
			func() (err error) { r.Ramps, err = tx.Ramps(ctx, runner); return err },
			func() (err error) { r.RampEvents, err = tx.RampEvents(ctx, runner); return err },
			func() (err error) { r.RampDates, err = tx.RampDates(ctx, runner); return err },
		)
	}
	for _, f := range read {
		if err := f(); err != nil {
			return nil, fmt.Errorf("record of runner %s: %w", runner, err)
		}
	}
	r.inUse()
	return r, nil
}

// LoadPlan reads a block's rows.
func LoadPlan(ctx context.Context, tx *store.Tx, b store.Block) (*Plan, error) {
	p := &Plan{Block: b}
	for _, f := range []func() error{
		func() (err error) { p.Prescriptions, err = tx.Prescriptions(ctx, b.ID); return err },
		func() (err error) { p.Pegs, err = tx.Pegs(ctx, b.ID); return err },
		func() (err error) { p.AllItems, err = tx.SessionItems(ctx, b.ID); return err },
		func() (err error) { p.Logs, err = tx.SessionLogs(ctx, b.ID); return err },
		func() (err error) { p.Decisions, err = tx.Decisions(ctx, b.ID); return err },
		func() (err error) { p.Answers, err = tx.Answers(ctx, b.ID); return err },
		func() (err error) { p.Changes, err = tx.BlockChanges(ctx, b.ID); return err },
		func() (err error) { p.Engine, err = tx.EngineOf(ctx); return err },
		func() error {
			s, err := tx.CourseState(ctx, b.ID)
			if errors.Is(err, store.ErrNotFound) {
				return nil
			}
			p.State = &s
			return err
		},
	} {
		if err := f(); err != nil {
			return nil, fmt.Errorf("block %s: %w", b.ID, err)
		}
	}
	p.InUse()
	return p, nil
}

// InUse keeps of the sessions those that nothing stands in the place of.
func (p *Plan) InUse() {
	gone := map[string]bool{}
	for _, l := range p.Logs {
		if l.Replaces != nil {
			gone[*l.Replaces] = true
		}
	}
	p.Items = nil
	for _, it := range p.AllItems {
		if !gone[it.LogID] {
			p.Items = append(p.Items, it)
		}
	}
}

// Root is the first log of a session: those that put it right stand under its name.
func (p *Plan) Root(id string) string {
	for {
		i := slices.IndexFunc(p.Logs, func(l store.SessionLog) bool { return l.ID == id })
		if i < 0 || p.Logs[i].Replaces == nil {
			return id
		}
		id = *p.Logs[i].Replaces
	}
}

// Given is what a record needs beside its rows.
type Given struct {
	Zone      *time.Location
	Now       time.Time
	Visits    []course.Visit // as judged, in any order
	Catalogue catalogue.Catalogue
	School    planning.School             // the practice's
	Ladders   map[string]catalogue.Ladder // by prescription
	Plan      planning.Proposal           // of the block
	Ranks     map[string]int              // by ladder: the order in which steps up are given
}

// Moment is a time as the record's dates and hours.
func Moment(t time.Time, zone *time.Location) course.Moment {
	l := t.In(zone)
	return course.Moment{On: day.Of(t, zone), Hour: l.Hour()}
}

func dateOf(t time.Time) day.Date { return day.Of(t, time.UTC) }

// storedDay is a day note as it is stored.
type storedDay struct {
	Illness    string            `json:"illness"`
	PoorSleep  bool              `json:"poorSleep"`
	ShortSleep bool              `json:"shortSleep"`
	Barefoot   *int              `json:"barefootMinutes"`
	Exposure   []transition.Done `json:"exposure"`
	Soreness   *int              `json:"calfSoreness"`
	BoneTender bool              `json:"boneTender"`
	New        []struct {
		Zone      screening.Zone `json:"zone"`
		Side      body.Side      `json:"side"`
		FirstStep *int           `json:"firstStep"`
		Rest      *int           `json:"rest"`
		When      []string       `json:"when"`
	} `json:"new"`
	Answers *safety.Answers `json:"answers"`
}

// storedChange is what the engine needs of a block's change.
type storedChange struct {
	Kind   string `json:"kind"`
	Ladder string `json:"ladder"`
	Next   string `json:"next"`
}

// storedRamp is a ramp's revision as it is stored.
type storedRamp struct {
	Terms transition.Terms `json:"terms"`
	Ended bool             `json:"ended"`
}

// CoreRun is a run row as the rules see it.
func CoreRun(r store.Run) load.Run {
	return load.Run{On: dateOf(r.On), Metres: r.Metres, Seconds: r.Seconds, CadenceSpm: r.Cadence, BounceMm: r.BounceMm, Effort: r.Effort, Footwear: load.Footwear(r.Footwear), Strike: load.Strike(r.Strike), Pain: r.Pain,
		Zone: screening.Zone(r.Zone), Side: body.Side(r.Side), Limping: r.Limping, Fast: r.Fast}
}

// Standing is a stored flag as the rules see it.
func Standing(fl store.Flag) safety.Standing {
	s := safety.Standing{Flag: safety.FlagID(fl.Flag), Level: safety.Level(fl.Level), Since: dateOf(fl.Since), Side: body.Side(fl.Side), Zone: screening.Zone(fl.Zone), Everything: fl.Everything, ProgressOnly: fl.ProgressOnly, Running: fl.Running}
	for _, t := range fl.Tissues {
		s.Tissues = append(s.Tissues, body.Tissue(t))
	}
	return s
}

// Course is the record of the rows as values.
func (r *Rows) Course(g Given) (course.Record, error) {
	out := course.Record{Catalogue: g.Catalogue, School: g.School, Visits: slices.Clone(g.Visits)}
	arrival := func(seq int64, at time.Time) course.Arrival {
		return course.Arrival{Seq: seq, At: Moment(at, g.Zone)}
	}
	out.Runner = course.Runner{Person: PersonOf(r.Runner), IntakeFirstStep: r.Runner.IntakeFirstStep}
	if km := r.Runner.WeeklyKm; km != nil {
		m := int(*km*1000 + 0.5)
		out.Runner.IntakeMetres = &m
	}
	slices.SortStableFunc(out.Visits, func(a, b course.Visit) int { return int(a.Seq - b.Seq) })
	for i := len(r.Clearances) - 1; i >= 0; i-- {
		c := r.Clearances[i]
		out.Clearances = append(out.Clearances, course.Clearance{Arrival: arrival(c.Seq, c.At), Clearance: safety.Clearance{Flag: safety.FlagID(c.Flag), On: dateOf(c.On), Role: c.Role, Allowed: c.Allowed, Until: dateOf(c.Until)}})
	}
	for _, f := range r.Flags {
		x := course.Raised{Standing: Standing(f)}
		if f.EndedOn != nil {
			on := dateOf(*f.EndedOn)
			x.Ended = &on
		}
		out.Raised = append(out.Raised, x)
	}
	for _, m := range r.revisions.mornings {
		out.Mornings = append(out.Mornings, course.Morning{Arrival: arrival(m.Seq, m.At), On: dateOf(m.On), Zone: screening.Zone(m.Zone), Side: body.Side(m.Side), FirstStep: m.FirstStep, Rest: m.Rest, By: m.By})
	}
	for _, x := range r.revisions.runs {
		out.Runs = append(out.Runs, course.Run{Arrival: arrival(x.Seq, x.At), ID: x.ID, Removed: x.Removed, Run: CoreRun(x)})
	}
	for _, n := range r.revisions.notes {
		d, err := dayOf(n)
		if err != nil {
			return out, err
		}
		d.Arrival = arrival(n.Seq, n.At)
		out.Days = append(out.Days, d)
	}
	for i := range out.Visits {
		out.Visits[i].At = Moment(r.visitAt(out.Visits[i].ID), g.Zone)
	}
	for _, p := range r.Planned {
		out.Planned = append(out.Planned, course.Planned{Arrival: arrival(p.Seq, p.At), Monday: dateOf(p.Monday), Metres: p.Metres})
	}
	for _, x := range r.Ramps {
		if x.Kind != "barefoot" {
			continue
		}
		var s storedRamp
		if err := json.Unmarshal(x.Body, &s); err != nil {
			return out, fmt.Errorf("ramp revision %d: %w", x.Rev, err)
		}
		out.Ramps = append(out.Ramps, course.RampTerms{Arrival: arrival(x.Seq, x.At), Terms: s.Terms, Ended: s.Ended})
	}
	if r.Plan == nil {
		return out, nil
	}
	return out, r.Plan.into(&out, g, arrival, r.Runner)
}

// Days are the day notes as the rules see them, in the order of their rows.
func (r *Rows) Days() ([]course.Day, error) {
	out := make([]course.Day, len(r.Notes))
	for i, n := range r.Notes {
		var err error
		if out[i], err = dayOf(n); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// VisitArrival is a visit's place in the order of arrival: that of the newest
// thing noted in it.
func (r *Rows) VisitArrival(id string) course.Arrival {
	var out course.Arrival
	for _, s := range r.Screenings {
		if s.ID == id && s.Finished != nil {
			out.Seq = *s.Finished
		}
	}
	for _, t := range r.Trials {
		if t.ScreeningID == id {
			out.Seq = max(out.Seq, t.Seq)
		}
	}
	for _, p := range r.Parts {
		if p.ScreeningID == id {
			out.Seq = max(out.Seq, p.Seq)
		}
	}
	return out
}

// visitAt is when the newest thing was noted in a visit.
func (r *Rows) visitAt(id string) time.Time {
	var at time.Time
	later := func(t time.Time) {
		if t.After(at) {
			at = t
		}
	}
	for _, s := range r.Screenings {
		if s.ID == id && s.FinishedAt != nil {
			later(*s.FinishedAt)
		}
	}
	for _, t := range r.Trials {
		if t.ScreeningID == id {
			later(t.At)
		}
	}
	for _, p := range r.Parts {
		if p.ScreeningID == id {
			later(p.At)
		}
	}
	return at
}

func dayOf(n store.DayNote) (course.Day, error) {
	var s storedDay
	if err := json.Unmarshal(n.Body, &s); err != nil {
		return course.Day{}, fmt.Errorf("note of %s: %w", dateOf(n.On), err)
	}
	d := course.Day{On: dateOf(n.On), Illness: s.Illness, PoorSleep: s.PoorSleep, ShortSleep: s.ShortSleep, Barefoot: s.Barefoot, Exposure: s.Exposure, Soreness: s.Soreness, BoneTender: s.BoneTender, Answers: s.Answers}
	for _, p := range s.New {
		d.New = append(d.New, course.Place{Zone: p.Zone, Side: p.Side, FirstStep: p.FirstStep, Rest: p.Rest, When: p.When})
	}
	return d, nil
}

func (p *Plan) into(out *course.Record, g Given, arrival func(int64, time.Time) course.Arrival, runner store.Runner) error {
	b := &course.Block{Start: dateOf(p.Block.StartOn), Weeks: p.Block.Weeks, Plan: g.Plan}
	for _, x := range p.Prescriptions {
		rank, ok := g.Ranks[x.Ladder]
		if !ok {
			rank = 1 << 20
		}
		var since *day.Date
		for _, c := range p.Changes {
			var s storedChange
			if err := json.Unmarshal(c.Body, &s); err != nil {
				return fmt.Errorf("change %d of block %s: %w", c.Rev, p.Block.ID, err)
			}
			if on := day.Of(c.At, g.Zone); s.Kind == "change" && s.Next == x.Ladder {
				since = &on
			}
		}
		b.Prescriptions = append(b.Prescriptions, course.Prescription{Since: since, ID: x.ID, Ladder: g.Ladders[x.ID], Start: x.StartNotch, FromWeek: x.FromWeek, Rank: rank})
	}
	for _, x := range p.Changes {
		var c storedChange
		if err := json.Unmarshal(x.Body, &c); err != nil {
			return fmt.Errorf("change %d of block %s: %w", x.Rev, p.Block.ID, err)
		}
		if c.Kind == "leave-out" || c.Kind == "add" {
			b.Left = append(b.Left, course.LeftOut{Ladder: c.Ladder, On: day.Of(x.At, g.Zone), Out: c.Kind == "leave-out"})
		}
		if c.Kind == "change" {
			on := day.Of(x.At, g.Zone)
			b.Left = append(b.Left, course.LeftOut{Ladder: c.Ladder, On: on, Out: true}, course.LeftOut{Ladder: c.Next, On: on})
			b.Changed = append(b.Changed, course.Changed{From: c.Ladder, To: c.Next, On: on})
		}
	}
	out.Block = b
	engine := p.Engine
	if engine == 0 {
		engine = adjust.Version
	}
	out.Runner.AutoProgress = runner.AutoProgress && engine == adjust.Version
	logs := map[string]int{}
	for i := len(p.Logs) - 1; i >= 0; i-- {
		if x := p.Logs[i]; x.Removed {
			out.Logs = append(out.Logs, course.Log{Arrival: arrival(x.Seq, x.At), ID: p.Root(x.ID), On: dateOf(x.On), Removed: true})
		}
	}
	for _, it := range p.AllItems {
		i, ok := logs[it.LogID]
		if !ok {
			i = len(out.Logs)
			logs[it.LogID] = i
			out.Logs = append(out.Logs, course.Log{Arrival: arrival(it.Seq, it.At), ID: p.Root(it.LogID), On: dateOf(it.On)})
		}
		out.Logs[i].Items = append(out.Logs[i].Items, course.Item{Prescription: it.PrescriptionID, Side: body.Side(it.Side), Session: SessionOf(it)})
	}
	for _, a := range p.Answers {
		out.Answers = append(out.Answers, course.Answer{Arrival: arrival(a.Seq, a.At), Decision: a.Key, Kind: course.AnswerKind(a.Kind), Notch: a.Notch, Reason: a.Reason, By: a.By})
	}
	for _, d := range p.Decisions {
		x, err := DecisionOf(d)
		if err != nil {
			return err
		}
		out.Decisions = append(out.Decisions, x)
	}
	return p.state(out, g)
}

// Noon is the newest date whose noon the engine has looked at.
func Noon(s store.CourseState) (day.Date, error) {
	var st course.State
	err := json.Unmarshal(s.Body, &st)
	return st.Noon, err
}

// SessionOf is one side's part of a session as the rules see it.
func SessionOf(it store.SessionItem) adjust.Session {
	return adjust.Session{On: dateOf(it.On), Notch: it.Notch, Pain: it.Pain, Done: it.Done, Compensated: it.Compensated, Reserve: it.Reserve, SureTwenty: it.SureTwenty,
		NoTime: it.NoTime, CrampAt: it.CrampAt, SoreSpot: it.SoreSpot, Litmus: adjust.Litmus(it.Litmus), Reacted: it.Reacted, Cut: adjust.Cut(it.Cut), DecidedBy: adjust.RowNone}
}

// state is where the engine stands; a block that it has not looked at yet takes
// everything that is there as known.
func (p *Plan) state(out *course.Record, g Given) error {
	if p.State != nil {
		if err := json.Unmarshal(p.State.Body, &out.State); err != nil {
			return fmt.Errorf("state of block %s: %w", p.Block.ID, err)
		}
		if p.State.Seq != nil {
			out.State.Seq = *p.State.Seq
			return nil
		}
		out.State.Seq = newest(out)
		return nil
	}
	now := Moment(g.Now, g.Zone)
	out.State = course.State{Seq: newest(out), Noon: max(out.Block.Start-1, now.On-1)}
	if now.Hour >= adjust.MorningHour {
		out.State.Noon = max(out.Block.Start-1, now.On)
	}
	course.Adopt(out, pegsOf(p.Pegs))
	return nil
}

func pegsOf(rows []store.Peg) []course.OldPeg {
	out := make([]course.OldPeg, len(rows))
	for i, r := range rows {
		x := course.OldPeg{Seat: course.Seat{Prescription: r.PrescriptionID, Side: body.Side(r.Side)}, Notch: r.Notch}
		if r.HaltRow != nil {
			x.HaltRow = adjust.Row(*r.HaltRow)
			x.HaltOn = dateOf(*r.HaltOn)
			x.Halted = true
		}
		if r.LastUp != nil {
			d := dateOf(*r.LastUp)
			x.LastUp = &d
		}
		out[i] = x
	}
	return out
}

// newest is the last arrival of a record.
func newest(r *course.Record) int64 {
	n := int64(0)
	for _, x := range r.Visits {
		n = max(n, x.Seq)
	}
	for _, x := range r.Clearances {
		n = max(n, x.Seq)
	}
	for _, x := range r.Mornings {
		n = max(n, x.Seq)
	}
	for _, x := range r.Runs {
		n = max(n, x.Seq)
	}
	for _, x := range r.Days {
		n = max(n, x.Seq)
	}
	for _, x := range r.Planned {
		n = max(n, x.Seq)
	}
	for _, x := range r.Ramps {
		n = max(n, x.Seq)
	}
	for _, x := range r.Logs {
		n = max(n, x.Seq)
	}
	for _, x := range r.Answers {
		n = max(n, x.Seq)
	}
	return n
}

// PersonOf is the person behind a runner's row.
func PersonOf(r store.Runner) body.Person {
	p := body.Person{Sex: r.Sex, MassKg: r.MassKg, FirstStructuredWork: r.FirstStructuredWork, RecentVolumeRise: r.RecentVolumeRise}
	if r.Birth != nil {
		d := dateOf(*r.Birth)
		p.Birth = &d
	}
	return p
}

// AddLog adds a session that was just stored, with its items.
func (p *Plan) AddLog(l store.SessionLog, items []store.SessionItem) {
	p.Logs = append([]store.SessionLog{l}, p.Logs...)
	p.AllItems = append(slices.Clone(p.AllItems), items...)
	slices.SortStableFunc(p.AllItems, func(a, b store.SessionItem) int { return a.On.Compare(b.On) })
	p.InUse()
}

// AddMorning adds a reading that was just stored.
func (r *Rows) AddMorning(m store.Morning) {
	list := append(slices.Clone(r.revisions.mornings), m)
	slices.SortStableFunc(list, func(a, b store.Morning) int {
		return cmp.Or(a.On.Compare(b.On), cmp.Compare(a.Zone, b.Zone), cmp.Compare(a.Side, b.Side))
	})
	r.revisions.mornings = list
	r.inUse()
}
