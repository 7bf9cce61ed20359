// Package demo lays out a made-up practice: a running club on an island that
// does not exist. Everything goes through the use cases a coach would use, on a
// clock that runs up to today, so the demo never goes stale.
package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/bench"
	"notchback/app/block"
	"notchback/app/clips"
	"notchback/app/daily"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/pocket"
	"notchback/app/ramp"
	"notchback/app/record"
	"notchback/app/running"
	"notchback/app/view"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/clip"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/devices"
	"notchback/devices/sidecam"
	"notchback/formats"
	"notchback/store"
)

// Sign-ins of the demo, printed by the start command.
const (
	Email       = "maren@harriers.example"
	OtherEmail  = "ivo@quarry.example"
	ViewerEmail = "guest@harriers.example"
	CoachEmail  = "teo@harriers.example"
	Password    = "low-tide-miles"
)

// Zone is where the demo takes place.
const Zone = "Atlantic/Azores"

type pair[T any] struct{ left, right T }

// one is a made-up runner and how training goes.
type one struct {
	name      string
	age       int
	sex       string
	mass, km  float64
	goal      string
	first     bool
	rise      bool
	intake    *int
	wall, toe pair[[]float64]
	raise     pair[float64]
	raisePain int
	// weeksAgo is when screening and block began; earlier is a first screening
	// before that with stiffer, weaker values.
	weeksAgo int
	earlier  int
	unfinished,
	noBlock,
	unscreened bool
	// asked is set where every safety question was answered no; whole where all
	// stations were taken.
	asked, whole bool
	complaints   []screening.Complaint
	// jump makes this week's runs far longer; plannedKm is next week's plan.
	jump      bool
	plannedKm float64
	// bare is how far the runner wants without shoes, share the per cent of the
	// running; beat begins a change of cadence.
	bare  transition.Stage
	share float64
	beat  bool
	// routine is a small session given whole today.
	routine string
	// silent has a phone that was last heard of three days ago.
	silent bool
	// filmed is a rendered clip of the last screening.
	filmed string
	// watch measures contact times in the newest runs.
	watch bool
	// quietSince leaves out sessions of the last days.
	quietSince int
	// story returns pain and next-morning pain of a session n of total, by side.
	story func(n, total int) (pain pair[int], morning int)
}

func steady(p, m int) func(int, int) (pair[int], int) {
	return func(int, int) (pair[int], int) { return pair[int]{p, p}, m }
}

// lately is steady at first and different over the last k sessions.
func lately(k int, before, after func(int, int) (pair[int], int)) func(int, int) (pair[int], int) {
	return func(n, total int) (pair[int], int) {
		if n >= total-k {
			return after(n, total)
		}
		return before(n, total)
	}
}

func same(v ...float64) pair[[]float64] { return pair[[]float64]{v, v} }

func ptr[T any](v T) *T { return &v }

var club = []one{
	{name: "Isolde Varga", asked: true, watch: true, whole: true, age: 34, sex: "female", mass: 61, km: 42, goal: "Coast relay in spring", intake: ptr(1),
		wall: pair[[]float64]{[]float64{10.6, 10.9, 11.1}, []float64{7.4, 7.9, 7.6}}, toe: pair[[]float64]{[]float64{33, 34, 31}, []float64{24, 29, 27}},
		raise: pair[float64]{26, 19}, raisePain: 1, weeksAgo: 3, beat: true, routine: "ankle-range", story: steady(2, 1)},
	{name: "Bera Holm", asked: true, whole: true, filmed: "rear", age: 41, sex: "female", mass: 66, km: 30, goal: "Run without sore arches", intake: ptr(3),
		complaints: []screening.Complaint{{Zone: "heel", Side: body.Right, SinceWeeks: ptr(5), Now: ptr(1), FirstSteps: ptr(3), Worst: ptr(5), When: []string{"first steps", "after sitting"}}},
		wall:       same(8.6, 8.9, 9.1), toe: pair[[]float64]{[]float64{22, 24, 23}, []float64{18, 19, 17}}, raise: pair[float64]{17, 15}, raisePain: 2,
		weeksAgo: 2, earlier: 8, story: lately(1, steady(2, 2), func(int, int) (pair[int], int) { return pair[int]{2, 6}, 4 })},
	{name: "Tomas Quill", asked: true, age: 52, sex: "male", mass: 79, km: 48, goal: "Lighthouse marathon", intake: ptr(2), rise: true, jump: true,
		wall: pair[[]float64]{[]float64{6.8, 7.1, 6.9}, []float64{9.2, 9.4, 9.0}}, toe: same(28, 31, 29), raise: pair[float64]{14, 18}, raisePain: 3,
		weeksAgo: 2, story: lately(2, steady(3, 2), func(int, int) (pair[int], int) { return pair[int]{5, 4}, 4 })},
	{name: "Oskar Dahlin", asked: true, whole: true, age: 29, sex: "male", mass: 71, km: 65, goal: "Faster over ten kilometres", intake: ptr(0),
		wall: same(12.1, 12.4, 12.0), toe: same(41, 42, 44), raise: pair[float64]{31, 30}, raisePain: 0, weeksAgo: 3, earlier: 10, bare: transition.Run, share: 20, story: steady(1, 0)},
	{name: "Wilhelmina Crane", silent: true, routine: "check-and-control", asked: true, age: 66, sex: "female", mass: 58, km: 18, goal: "Keep running at seventy", first: true, intake: ptr(1),
		wall: same(8.1, 8.4, 8.0), toe: pair[[]float64]{[]float64{26, 25, 27}, []float64{31, 33, 32}}, raise: pair[float64]{13, 15}, raisePain: 2, weeksAgo: 3, story: steady(2, 1)},
	{name: "Emeka Thorne", asked: true, age: 37, sex: "male", mass: 84, km: 25, goal: "First half marathon", first: true, intake: ptr(2),
		wall: same(9.8, 10.3, 10.1), toe: same(34, 36, 35), raise: pair[float64]{21, 22}, raisePain: 1, weeksAgo: 3, quietSince: 11, story: steady(2, 1)},
	{name: "Pilar Estrand", asked: true, age: 45, sex: "female", mass: 63, km: 36, goal: "Minimal shoes on the dune loop", intake: ptr(1), bare: transition.Run, share: 30,
		wall: same(11.0, 11.2, 10.8), toe: same(35, 33, 36), raise: pair[float64]{24, 13}, raisePain: 2, weeksAgo: 2,
		story: lately(1, steady(2, 1), func(int, int) (pair[int], int) { return pair[int]{2, 8}, 3 })},
	{name: "Joonas Merrow", asked: true, age: 31, sex: "male", mass: 75, km: 52, goal: "Back after a twisted ankle", intake: ptr(1),
		wall: pair[[]float64]{[]float64{11.8, 11.5, 11.9}, []float64{8.8, 8.5, 9.0}}, toe: same(38, 39, 40), raise: pair[float64]{27, 20}, raisePain: 1, weeksAgo: 1, story: steady(1, 1)},
	{name: "Sunniva Arkwright", asked: true, whole: true, age: 26, sex: "female", mass: 55, km: 58, goal: "Track season", intake: ptr(0),
		wall: same(13.2, 13.0, 13.5), toe: same(46, 44, 47), raise: pair[float64]{33, 34}, weeksAgo: 0, noBlock: true},
	{name: "Dario Fennimore", age: 48, sex: "male", mass: 88, km: 20, goal: "Lose the heel pain", first: true, intake: ptr(4),
		wall: same(7.2, 7.0), toe: pair[[]float64]{[]float64{19, 18}, nil}, weeksAgo: 0, unfinished: true},
	{name: "Agnes Tolliver", asked: true, age: 58, sex: "female", mass: 64, km: 28, goal: "Calm calves on hills", intake: ptr(1), plannedKm: 42,
		wall: same(9.0, 9.2, 8.9), toe: same(30, 32, 33), raise: pair[float64]{18, 17}, raisePain: 2, weeksAgo: 3, earlier: 9,
		story: lately(3, steady(1, 1), steady(4, 2))},
	{name: "Kit Sorrel", age: 22, sex: "other", mass: 68, km: 35, goal: "", unscreened: true},
}

// Load fills an empty database with the demo, all of it or nothing. It does nothing
// when a practice exists.
func Load(ctx context.Context, s *store.Store, now time.Time, opts ...app.Option) error {
	empty, err := s.Empty(ctx)
	if err != nil || !empty {
		return err
	}
	return s.Whole(ctx, func(s *store.Store) error { return load(ctx, s, now, opts...) })
}

func load(ctx context.Context, s *store.Store, now time.Time, opts ...app.Option) error {
	clock := now
	a, err := house.New(s, append(opts, app.WithClock(func() time.Time { return clock }))...)
	if err != nil {
		return err
	}
	hash, err := a.HashPassword(ctx, Password)
	if err != nil {
		return err
	}
	harriers, err := s.FoundPractice(ctx, "Morrow Island Harriers", Zone, "Maren Oake", Email, hash)
	if err != nil {
		return err
	}
	for _, u := range [][3]string{{"Guest of the club", ViewerEmail, "viewer"}, {"Teo Brandis", CoachEmail, "coach"}} {
		if err := s.FoundUser(ctx, harriers.Practice, u[0], u[1], u[2], hash); err != nil {
			return err
		}
	}
	quarry, err := s.FoundPractice(ctx, "Quarry Lane Running", Zone, "Ivo Stark", OtherEmail, hash)
	if err != nil {
		return err
	}
	for _, p := range []string{harriers.Practice, quarry.Practice} {
		if err := a.LetsWork(ctx, p); err != nil {
			return err
		}
	}
	act, err := a.Actor(ctx, harriers.Practice, harriers.User)
	if err != nil {
		return err
	}
	self, err := a.Practice(ctx, act)
	if err != nil {
		return err
	}
	self.Contact, self.EmergencyNumber = "Maren Oake, evenings after six, at the boat house or on 555 0142", "112"
	self.EmergencyText = "Nearest hospital: Morrow Harbour, at the ferry pier. At night the lifeboat station brings you across."
	self.StandIns = true
	if _, err := a.PutPractice(ctx, act, self); err != nil {
		return err
	}
	l := loader{a: a, act: act, clock: &clock, now: now}
	if l.zone, err = time.LoadLocation(Zone); err != nil {
		return err
	}
	l.today = day.Of(now, l.zone)
	for _, r := range club {
		if err := l.runner(ctx, r); err != nil {
			return fmt.Errorf("demo runner %s: %w", r.name, err)
		}
	}
	if err := l.coaches(ctx); err != nil {
		return err
	}
	if l.act, err = a.Actor(ctx, quarry.Practice, quarry.User); err != nil {
		return err
	}
	return l.runner(ctx, one{name: "Vesna Marlowe", age: 39, sex: "female", mass: 60, km: 33, goal: "Quarry trail series", intake: ptr(1),
		wall: same(9.0, 9.3, 9.1), toe: same(30, 31, 33), raise: pair[float64]{22, 21}, raisePain: 1, weeksAgo: 2, story: steady(2, 1)})
}

type loader struct {
	a     *house.House
	act   app.Actor
	clock *time.Time
	now   time.Time
	today day.Date
	zone  *time.Location
}

// coaches shares the club's runners out: every third is the second coach's.
func (l *loader) coaches(ctx context.Context) error {
	staff, err := l.a.Staff(ctx, l.act)
	if err != nil {
		return err
	}
	list, err := l.a.Bench(ctx, l.act, "", 0)
	if err != nil {
		return err
	}
	other := slices.IndexFunc(staff.People, func(p account.Person) bool { return p.Role == "coach" })
	slices.SortFunc(list.Items, func(a, b bench.BenchItem) int { return strings.Compare(a.Name, b.Name) })
	for i, r := range list.Items {
		coach := l.act.User.ID
		if i%3 == 1 {
			coach = staff.People[other].ID
		}
		if err := l.a.SetCoach(ctx, l.act, r.ID, coach); err != nil {
			return err
		}
	}
	return nil
}

// at sets the clock to an hour of a date, never later than now.
func (l *loader) at(d day.Date, hour int) {
	t := d.Time()
	*l.clock = time.Date(t.Year(), t.Month(), t.Day(), hour, 0, 0, 0, l.zone)
	if l.clock.After(l.now) {
		*l.clock = l.now
	}
}

func (l *loader) runner(ctx context.Context, o one) error {
	start := l.today - day.Date(7*o.weeksAgo)
	first := start - day.Date(7*o.earlier)
	l.at(first, 9)
	t := l.today.Time()
	birth := day.Make(t.Year()-o.age, t.Month(), t.Day()) - 40
	r, err := l.a.AddRunner(ctx, l.act, "", input.RunnerInput{
		Name: o.name, Birth: &birth, Sex: o.sex, MassKg: &o.mass, WeeklyKm: &o.km, Goal: o.goal,
		FirstStructuredWork: &o.first, RecentVolumeRise: &o.rise, IntakeFirstStep: o.intake,
	})
	if err != nil || o.unscreened {
		return err
	}
	if o.earlier > 0 {
		if _, err := l.screen(ctx, r.ID, first, o, 0.82); err != nil {
			return err
		}
	}
	sc, err := l.screen(ctx, r.ID, start, o, 1)
	if err != nil || o.unfinished || o.noBlock {
		return err
	}
	l.at(start, 10)
	if _, err := l.a.PutWishes(ctx, l.act, r.ID, 0, l.wishes(o)); err != nil {
		return err
	}
	b, err := l.a.PlanBlock(ctx, l.act, "", r.ID, block.BlockInput{ScreeningID: sc, StartOn: &start})
	if err != nil {
		return err
	}
	if err := l.train(ctx, b, start, o); err != nil {
		return err
	}
	if err := l.run(ctx, r.ID, o); err != nil {
		return err
	}
	if o.filmed != "" {
		if err := l.film(ctx, sc, o.filmed); err != nil {
			return err
		}
	}
	if err := l.ramps(ctx, r.ID, start, o); err != nil {
		return err
	}
	if err := l.give(ctx, b.ID, o.routine); err != nil || !o.silent {
		return err
	}
	return l.phone(ctx, r.ID)
}

// give hands a routine out: it stands today and three days on, every week.
func (l *loader) give(ctx context.Context, blockID, routine string) error {
	if routine == "" {
		return nil
	}
	l.at(l.today, 8)
	b, err := l.a.Block(ctx, l.act, blockID)
	if err != nil {
		return err
	}
	today := int(l.today - l.today.Monday())
	in := block.ChangeInput{BlockChange: input.BlockChange{Kind: "routine", Routine: routine, Days: []int{today, (today + 3) % 7}}, Revision: b.Revision, Preview: true}
	for _, also := range []int{3, 2, 4, 1, 5, 6} {
		in.Days = []int{today, (today + also) % 7}
		look, err := l.a.ChangeBlock(ctx, l.act, b.ID, in)
		if err != nil {
			return err
		}
		if len(look.Broken) == 0 {
			break
		}
	}
	in.Preview, in.Insist, in.Reason = false, true, "on these days"
	_, err = l.a.ChangeBlock(ctx, l.act, b.ID, in)
	return err
}

// silentDays is how long the phone of one runner has been without a connection.
const silentDays = 3

// phone lets a phone in a week ago; it told mornings and a note, and was last heard of
// three days ago.
func (l *loader) phone(ctx context.Context, runner string) error {
	l.at(l.today-silentDays-4, 7)
	link, err := l.a.AddLink(ctx, l.act, runner)
	if err != nil {
		return err
	}
	secret, err := l.a.Join(ctx, link.Token, "phone")
	if err != nil {
		return err
	}
	for on := l.today - silentDays - 3; on <= l.today-silentDays; on++ {
		l.at(on, 7)
		act, err := l.a.EnterPocket(ctx, secret, "sendPocketReports")
		if err != nil {
			return err
		}
		told := []pocket.Report{{ID: fmt.Sprintf("5e1f0000-0000-4000-8000-%012d", int(on)), Kind: pocket.OfMorning, On: on, At: *l.clock, Zone: Zone, Morning: &pocket.MorningPart{Readings: []input.PlaceReading{{FirstStep: ptr(1)}}}}}
		if on == l.today-silentDays {
			told = append(told, pocket.Report{ID: fmt.Sprintf("5e1f0001-0000-4000-8000-%012d", int(on)), Kind: pocket.OfNote, On: on, At: *l.clock, Zone: Zone, Note: "Off to the outer skerries until Sunday, no network there. The plan is on the phone."})
		}
		if _, err := l.a.Sync(ctx, act, told); err != nil {
			return err
		}
	}
	return nil
}

// PhoneRunner is whose phone the demo has a way in for.
const PhoneRunner = "Isolde"

// Link ends the open links of that runner and makes a new one; "" where the runner is
// not there any more.
func Link(ctx context.Context, a *house.House) (token string, err error) {
	c, err := a.SignIn(ctx, Email, Password, "the demo itself")
	if err != nil {
		return "", err
	}
	act, err := a.Actor(ctx, c.Practice, c.User)
	if err != nil {
		return "", err
	}
	list, err := a.Bench(ctx, act, PhoneRunner, 0)
	if err != nil || len(list.Items) == 0 {
		return "", err
	}
	if _, err := a.EndLinks(ctx, act, list.Items[0].ID); err != nil {
		return "", err
	}
	l, err := a.AddLink(ctx, act, list.Items[0].ID)
	return l.Token, err
}

// film brings a rendered clip into a screening, with the events and the first
// right contact marked. Without a folder for clips there are none.
func (l *loader) film(ctx context.Context, screening, id string) error {
	d, err := sidecam.Find(id)
	if err != nil {
		return err
	}
	content, err := sidecam.Shipped(id)
	if err != nil {
		return err
	}
	*l.clock = l.now
	v, err := l.a.AddClip(ctx, l.act, screening, clips.ClipInput{Name: d.Name + ".webm", Size: int64(len(content))})
	var refused app.Refused
	if errors.As(err, &refused) {
		return nil
	}
	if err != nil {
		return err
	}
	if _, err := l.a.AppendClip(ctx, l.act, v.ID, 0, bytes.NewReader(content)); err != nil {
		return err
	}
	if v, err = l.a.FinishClip(ctx, l.act, v.ID); err != nil {
		return err
	}
	t := d.Runner.Truth(d.Film)
	m := v.Marks
	m.Rate = d.Film.FPS
	for _, e := range t.Events {
		m.Events = append(m.Events, clip.Event{Frame: t.Frame(e.Contact), Foot: body.Side(e.Foot), Kind: "contact"})
		if e.ToeOff <= t.Frames[len(t.Frames)-1].Time {
			m.Events = append(m.Events, clip.Event{Frame: t.Frame(e.ToeOff), Foot: body.Side(e.Foot), Kind: "toe-off"})
		}
	}
	n := t.Frame(t.Events[0].Contact)
	points := map[measure.Place]measure.Point{}
	for place, name := range map[measure.Place]string{measure.Ankle: "ankle", measure.Knee: "knee", measure.Hip: "hip", measure.Shoulder: "shoulder", measure.Heel: "sole-heel", measure.Toe: "sole-toe"} {
		at := t.Frames[n].Places["right-"+name]
		points[place] = measure.Point{X: at.X, Y: at.Y}
	}
	m.Moments = append(m.Moments, clip.Moment{Frame: n, Template: "contact", Side: body.Right, Points: points})
	_, err = l.a.PutClipMarks(ctx, l.act, v.ID, 0, m)
	return err
}

// ramps begins what the runner wishes for at the block's start and lives it: all
// as planned, but for sore calves in the second week.
func (l *loader) ramps(ctx context.Context, runner string, start day.Date, o one) error {
	if o.bare != "" {
		l.at(start, 11)
		v, err := l.a.Ramp(ctx, l.act, runner)
		if err != nil {
			return err
		}
		t := v.Draft
		t.From, t.Goal, t.TargetPercent, t.Shoe = start, o.bare, o.share, "thin grey pair"
		t.WeeklyMetres, t.PaceSeconds = int(o.km)*1000, 330
		if v, err = l.a.PutRamp(ctx, l.act, runner, v.Rev, input.RampInput{Terms: t}); err != nil {
			return err
		}
		for on := v.Plan.Start; on < l.today; on++ {
			l.at(on, 20)
			if v, err = l.a.Ramp(ctx, l.act, runner); err != nil {
				return err
			}
			if len(v.Days) > 0 {
				if _, err := l.a.PutRampDone(ctx, l.act, runner, ramp.RampDone{On: on, Done: true}); err != nil {
					return err
				}
			}
			if week := int(on-v.Plan.Start) / 7; week == 1 && on <= v.Plan.Start+10 {
				s, err := l.a.Day(ctx, l.act, runner, on)
				if err != nil {
					return err
				}
				s.Day.CalfSoreness = ptr(5)
				if _, err := l.a.PutDay(ctx, l.act, runner, on, s.Day); err != nil {
					return err
				}
			}
		}
	}
	*l.clock = l.now
	v, err := l.a.Ramp(ctx, l.act, runner)
	if err != nil || !o.beat || !v.Cadence.Advice.Change {
		return err
	}
	l.at(start, 11)
	t := v.Cadence.Terms
	t.Start = start
	if _, err = l.a.PutCadence(ctx, l.act, runner, 0, input.CadenceRampInput{Terms: t}); err != nil {
		return err
	}
	on := transition.FirstMonday(start) + 13
	if on >= l.today || len(v.Cadence.Plan.Beats) == 0 {
		return nil
	}
	l.at(on, 19)
	beat := v.Cadence.Plan.Beats[0]
	_, err = l.a.AddRecount(ctx, l.act, "", runner, ramp.RecountInput{On: on, Counts: []int{beat - 1, beat, beat, beat - 1}, WindowSeconds: 60})
	return err
}

// watched is how many of the newest runs a watch measured.
const watched = 18

// run brings in the runs of the last ten weeks as a coach would: most of them as
// one table, the newest as files from a watch, with a word on pain.
func (l *loader) run(ctx context.Context, runner string, o one) error {
	*l.clock = l.now
	list := devices.Outings(time.Date(l.now.Year(), l.now.Month(), l.now.Day(), 12, 0, 0, 0, l.zone), 10, o.km, uint64(o.age))
	monday := l.today.Monday()
	var rows []formats.RunRow
	var files [][]byte
	for i, x := range list {
		on := day.Of(x.Start, l.zone)
		if o.jump && on >= monday {
			x.Metres *= 2.6
		}
		if o.quietSince > 0 && int(l.today-on) < o.quietSince {
			continue
		}
		if o.watch && i >= len(list)-watched && i < len(list)-2 { // a watch that measures feet
			k := float64(i - (len(list) - watched))
			x.Contact, x.Bounce = 262-1.6*k+3*float64(i%3), 88+2*float64(i%4)
			b, err := x.FIT(uint64(i))
			if err != nil {
				return err
			}
			files = append(files, b)
			continue
		}
		if i >= len(list)-2 {
			write := []func(uint64) ([]byte, error){x.FIT, x.GPX}[i%2]
			b, err := write(uint64(i))
			if err != nil {
				return err
			}
			files = append(files, b)
			continue
		}
		effort := 3 + i%3
		cad := float64(int(x.Cadence))
		rows = append(rows, formats.RunRow{On: on, RunFile: formats.RunFile{Start: x.Start, Seconds: x.Seconds(), Metres: int(x.Metres), CadenceSpm: &cad, Effort: &effort}})
	}
	var table bytes.Buffer
	if err := formats.RunsCSV(&table, rows, l.zone); err != nil {
		return err
	}
	t, err := formats.LookAtTable(table.Bytes())
	if err != nil {
		return err
	}
	if _, err := l.a.ImportRuns(ctx, l.act, runner, running.Bringing{Name: "runs.csv", Content: table.Bytes(), Mapping: &t.Mapping}); err != nil {
		return err
	}
	for i, b := range files {
		if _, err := l.a.ImportRuns(ctx, l.act, runner, running.Bringing{Name: fmt.Sprintf("watch-%d", i+1), Content: b}); err != nil {
			return err
		}
	}
	runs, err := l.a.Runs(ctx, l.act, runner)
	if err != nil {
		return err
	}
	for i, r := range runs[:min(len(runs), 3)] {
		in := r.RunInput
		in.Pain, in.Footwear = ptr(0), "usual"
		if len(o.complaints) > 0 && i == 1 {
			in.Pain, in.Zone, in.Side = ptr(2), string(o.complaints[0].Zone), o.complaints[0].Side
		}
		if _, err := l.a.ChangeRun(ctx, l.act, r.ID, r.Rev, in); err != nil {
			return err
		}
	}
	if o.plannedKm > 0 {
		return l.a.PlanWeek(ctx, l.act, runner, monday+7, o.plannedKm)
	}
	return nil
}

// wishes is the week of an invented runner: the more kilometres, the more runs.
func (l *loader) wishes(o one) planning.Wishes {
	c, _ := catalogue.BuiltIn() // checked when the app was made
	w := planning.Assume(c)
	w.Owned = append(w.Owned, "ball", "firm-ball", "band", "roller", "weight")
	e, lng, f, no := planning.Easy, planning.Long, planning.Fast, planning.NoRun
	switch {
	case o.km >= 45:
		w.Runs = [7]planning.RunKind{no, e, f, e, no, e, lng}
	case o.km >= 30:
		w.Runs = [7]planning.RunKind{no, e, no, f, no, e, lng}
	default:
		w.Runs = [7]planning.RunKind{no, e, no, e, no, no, lng}
	}
	for d := range 7 {
		w.Minutes[d] = 35
	}
	w.Minutes[6] = 20
	w.Weeks = 6
	if len(o.complaints) > 0 {
		w.Weeks = 8
	}
	return w
}

// screen takes one screening; share scales its values for an earlier visit.
func (l *loader) screen(ctx context.Context, runner string, on day.Date, o one, share float64) (string, error) {
	l.at(on, 9)
	sc, err := l.a.StartScreening(ctx, l.act, "", runner, intake.ScreeningInput{On: &on, Footwear: "barefoot"})
	if err != nil {
		return "", err
	}
	var list []record.SavedTrial
	put := func(test screening.TestID, side body.Side, slot int, tr screening.Trial) {
		list = append(list, record.SavedTrial{TrialInput: input.TrialInput{Trial: tr}, Test: test, Side: side, Slot: slot})
	}
	for _, side := range body.Sides {
		wall, toe, raise := o.wall.left, o.toe.left, o.raise.left
		if side == body.Right {
			wall, toe, raise = o.wall.right, o.toe.right, o.raise.right
		}
		for i, v := range wall {
			put(screening.KneeToWall, side, i+1, screening.Trial{Value: ptr(round(v*share, 10))})
		}
		for i, v := range toe {
			put(screening.BigToePassive, side, i+1, screening.Trial{Value: ptr(round(v*share, 1))})
		}
		if raise > 0 {
			put(screening.SingleRaise, side, 1, screening.Trial{Value: ptr(round(raise*share, 1)), Pain: &o.raisePain})
		}
	}
	if share == 1 && len(o.wall.right) == 3 { // one struck-out trial, as it happens
		put(screening.KneeToWall, body.Right, 4, screening.Trial{Value: ptr(round(o.wall.right[0]+1.6, 10)), Compensations: []string{"heel-lifts"}})
	}
	if err := l.talk(ctx, sc.ID, o); err != nil {
		return "", err
	}
	if o.whole {
		if err := l.conditions(ctx, sc.ID); err != nil {
			return "", err
		}
		list = append(list, stations(o, share)...)
	}
	if _, err := l.a.PutTrials(ctx, l.act, sc.ID, list); err != nil {
		return "", err
	}
	if o.unfinished {
		return sc.ID, nil
	}
	_, err = l.a.FinishScreening(ctx, l.act, sc.ID)
	return sc.ID, err
}

// talk answers the safety questions and marks what hurts.
func (l *loader) talk(ctx context.Context, id string, o one) error {
	t := input.Talk{Complaints: append([]screening.Complaint{}, o.complaints...), Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{}}}
	if o.asked {
		for _, g := range safety.Questions(screening.Age{Years: o.age, Known: true}) {
			t.Flags.None = append(t.Flags.None, g.Name)
		}
		t.Training = "Four runs a week, the long one on Sunday; twenty minutes a day for feet; a step, a band and a ball at home."
	}
	_, err := l.a.PutTalk(ctx, l.act, id, 0, t, "")
	return err
}

// stations fills the stations with the readings of an invented, fairly fit
// runner whose right side lags a little.
func stations(o one, share float64) []record.SavedTrial {
	var out []record.SavedTrial
	put := func(test screening.TestID, side body.Side, slot int, v float64) {
		out = append(out, record.SavedTrial{TrialInput: input.TrialInput{Trial: screening.Trial{Value: &v, Pain: ptr(0)}}, Test: test, Side: side, Slot: slot})
	}
	ache := 0.0
	if len(o.complaints) > 0 {
		ache = 2
	}
	for test, v := range map[screening.TestID][2]float64{
		screening.HeelWalk: {0, ache}, screening.ToeWalk: {0, ache}, screening.StrikeEasy: {1, 0}, "strike-fast": {2, 2}, screening.Loudness: {1, 2}, screening.KneeIn: {0, 1},
		screening.Arch: {2, 1}, screening.Navicular: {7, 11}, screening.ToeDrift: {0, 1}, screening.Bunion: {0, 0}, screening.Clawing: {0, 0}, screening.TendonsOut: {0, 0},
		screening.Tripod: {1, 1}, screening.Squat: {0, 1}, screening.BigToeFlat: {48, 46}, screening.ToeBig: {3, 2}, screening.ToeSmall: {2, 1}, "toe-spread": {2, 2},
		screening.ToePress: {9, 7}, screening.ShortFoot: {2, 1}, "foot-brace": {2, 1}, screening.BallHold: {34, 26}, screening.BentRaise: {22, 18}, screening.SplitHold: {40, 38},
		screening.BandIn: {3, 3}, screening.BandOut: {3, 2}, screening.StanceOpen: {60, 41}, screening.StanceClosed: {12, 7},
		screening.ReachForward: {64, 59}, screening.ReachSide: {72, 71}, screening.ReachBack: {81, 79}, screening.ReachCrossed: {75, 74},
	} {
		for i, side := range body.Sides {
			x := v[i]
			if t, _ := screening.Find(test); t.Unit == "s" || t.Unit == "reps" || t.Unit == "cm" {
				x = round(x*share, 1)
			}
			put(test, side, 1, x)
		}
	}
	counts := []float64{164, 168, 164, 172}
	if o.beat {
		counts = []float64{164, 165, 166, 164} // good enough to change something
	}
	for i, x := range counts {
		put(screening.CadenceTest, body.Both, i+1, x)
	}
	for test, x := range map[screening.TestID]float64{screening.BriskWalk: 0, screening.BounceEye: 1, "ball-hold-two": 45, "wall-sit": 33, screening.ShinRaise: 24, screening.TuckedKneel: 70} {
		put(test, body.Both, 1, x)
	}
	return out
}

// conditions says how the run and the reaches were taken.
func (l *loader) conditions(ctx context.Context, id string) error {
	speed, warm, leg := 10.0, 8.0, 86.0
	_, err := l.a.PutConditions(ctx, l.act, id, 0, input.Conditions{SpeedKmh: &speed, WarmMinutes: &warm, Surface: "harbour path", Shoes: "everyday trainer", LegLeftCm: &leg, LegRightCm: &leg}, "")
	return err
}

func round(v float64, perUnit float64) float64 { return float64(int(v*perUnit+0.5)) / perUnit }

// train logs every second day up to yesterday and accepts steps up, but leaves
// the last days' open for the coach.
func (l *loader) train(ctx context.Context, b view.Block, start day.Date, o one) error {
	last := l.today - 2 - day.Date(o.quietSince)
	days := mainDays(b, last)
	total := len(days)
	for n, on := range days {
		pain, morning := o.story(n, total)
		quiet := min(morning, 1)
		if o.intake != nil {
			quiet = min(morning, *o.intake)
		}
		var err error
		if n%3 == 0 {
			l.at(on, 7)
			if b, err = l.a.PutMorning(ctx, l.act, b.RunnerID, on, quiet); err != nil {
				return err
			}
		}
		// The session is told the morning after, with that morning's first steps.
		l.at(on+1, 8)
		in := session(b, on, pain)
		in.NextMorning = &morning
		if b, err = l.a.LogSession(ctx, l.act, "", b.ID, in); err != nil {
			return err
		}
		if on >= last-3 {
			continue
		}
		if b, err = l.accept(ctx, b); err != nil {
			return err
		}
	}
	return nil
}

// mainDays are the days up to last on which a main session stands.
func mainDays(b view.Block, last day.Date) []day.Date {
	var out []day.Date
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			if d.On <= last && slices.ContainsFunc(d.Sessions, func(s view.SessionView) bool { return s.Kind == planning.Main }) {
				out = append(out, d.On)
			}
		}
	}
	return out
}

func session(b view.Block, on day.Date, pain pair[int]) daily.SessionInput {
	in := daily.SessionInput{On: on}
	planned := map[string]bool{}
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			for _, s := range d.Sessions {
				for _, x := range s.Doses {
					planned[x.PrescriptionID] = planned[x.PrescriptionID] || d.On == on
				}
			}
		}
	}
	for _, p := range b.Prescriptions {
		if !planned[p.ID] {
			continue
		}
		item := func(side body.Side, hurt int) daily.ItemInput {
			done, clean, left := 1.0, 0.0, 3
			if hurt >= 6 {
				done = 0.6
			}
			if p.Effort != "reserve" {
				hurt = min(hurt, 2)
			}
			return daily.ItemInput{PrescriptionID: p.ID, Side: side, Pain: &hurt, Done: &done, Compensated: &clean, Reserve: &left}
		}
		if p.Together {
			in.Items = append(in.Items, item(body.Both, max(pain.left, pain.right)))
			continue
		}
		in.Items = append(in.Items, item(body.Left, pain.left), item(body.Right, pain.right))
	}
	return in
}

func (l *loader) accept(ctx context.Context, b view.Block) (view.Block, error) {
	for _, d := range b.Decisions {
		if d.State != "proposed" {
			continue
		}
		next, err := l.a.AcceptDecision(ctx, l.act, d.ID, d.Version)
		var refused app.Refused
		if errors.As(err, &refused) {
			continue // the week's two steps up are used
		}
		if err != nil {
			return b, err
		}
		b = next
	}
	return b, nil
}
