package course

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

func ptr[T any](v T) *T { return &v }

// monday is where the lives of these tests begin.
var monday = day.Make(2026, 5, 4)

var shelf = func() catalogue.Catalogue {
	c, err := catalogue.BuiltIn()
	if err != nil {
		panic(err)
	}
	return c
}()

var adult = screening.Age{Years: 35, Known: true}

// screeningMinor is asked every question.
var screeningMinor = screening.Age{Years: 15, Known: true}

func tested(id screening.TestID, left, right float64, pain body.Pain) screening.Result {
	t, ok := screening.Find(id)
	if !ok {
		panic(id)
	}
	three := func(v float64) []screening.Trial {
		x := screening.Trial{Value: &v, Pain: &pain}
		return []screening.Trial{x, x, x}
	}
	return screening.Reduce(t, three(left), three(right), adult)
}

// visitOf is a finished screening of a runner whom nothing holds back: every gate
// up to hop opens on it.
func visitOf(on day.Date, id string) Visit {
	groups := safety.Questions(adult)
	v := Visit{ID: id, On: on, Finished: true, Age: adult, Groups: groups, Answers: safety.Answers{Yes: map[string]body.Side{}}}
	for _, g := range groups {
		v.Answers.None = append(v.Answers.None, g.Name)
	}
	v.Results = []screening.Result{tested(screening.SingleRaise, 26, 26, 0), tested(screening.StanceOpen, 50, 50, 0), tested(screening.BallHold, 40, 40, 0), tested(screening.BriskWalk, 0, 0, 0),
		tested("supported-bounce", 90, 90, 0)}
	return v
}

// life is a record that is lived: every call is an arrival, decided at once.
type life struct {
	t      require.TestingT
	r      Record
	seq    int64
	now    Moment
	quiet  bool // don't decide at each arrival
	logs   int
	staged []Change
	c      *course // read on, where the life keeps its place
	on     bool
}

// ladders of the tests and where they start.
var usual = []struct {
	id    string
	start int
}{{"calf-straight", 8}, {"calf-toeup", 2}, {"calm-iso", 2}, {"spring-pogo", 5}, {"foot-side", 2}, {"foot-shin", 3}}

func newLife(t require.TestingT, ids ...string) *life {
	l := &life{t: t, now: Moment{monday, 7}}
	l.r = Record{Catalogue: shelf, Runner: Runner{IntakeFirstStep: ptr(1), IntakeMetres: ptr(20000)}}
	birth := day.Make(1990, 1, 1)
	l.r.Runner.Person.Birth = &birth
	blk := &Block{Start: monday, Weeks: 12, Plan: planning.Proposal{}}
	for i, u := range usual {
		if len(ids) > 0 && !slices.Contains(ids, u.id) {
			continue
		}
		x, ok := shelf.Ladder(u.id)
		require.True(t, ok, u.id)
		blk.Prescriptions = append(blk.Prescriptions, Prescription{ID: u.id, Ladder: x, Start: u.start, FromWeek: 1, Rank: i})
	}
	l.r.Block = blk
	v := visitOf(monday-1, "first")
	v.Arrival = l.arrival()
	l.r.Visits = append(l.r.Visits, v)
	l.decide()
	return l
}

func (l *life) arrival() Arrival { l.seq++; return Arrival{l.seq, l.now} }

func (l *life) at(on day.Date, hour int) *life {
	if m := (Moment{on, hour}); m.On > l.now.On || m.On == l.now.On && m.Hour > l.now.Hour {
		l.now = m
	}
	return l
}

func (l *life) decide() {
	if l.quiet {
		return
	}
	if l.on {
		l.readOn()
		return
	}
	l.staged = decided(l.r, l.now)
	l.r = l.r.With(l.staged)
}

// readOn decides what is new without opening the record again: what Decide does,
// for lives of many events. That both come to the same is what replays prove.
func (l *life) readOn() {
	if l.c == nil {
		l.c = &course{Book: newBook(&l.r)}
		for _, e := range l.r.events() {
			if e.Seq <= l.r.State.Seq {
				l.c.take(e)
			}
		}
		if l.c.State.Noon == 0 {
			l.c.State.Noon = l.r.Block.Start - 1
		}
	}
	c := l.c
	c.changes = nil
	for _, e := range l.news() {
		_ = c.noonsTo(context.Background(), e.At)
		c.arrive(e)
		c.State.Seq = max(c.State.Seq, e.Seq)
	}
	_ = c.noonsTo(context.Background(), l.now)
	l.staged = c.changes
	l.r.State, l.r.Decisions, l.r.Raised = c.State, c.decisions, c.Raised
}

// news are the arrivals the engine has not seen, at most a few at the tails.
func (l *life) news() []event {
	var out []event
	seq := l.c.State.Seq
	r := &l.r
	for i := len(r.Visits) - 1; i >= 0 && r.Visits[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Visits[i].Arrival, visit: &r.Visits[i]})
	}
	for i := len(r.Clearances) - 1; i >= 0 && r.Clearances[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Clearances[i].Arrival, clearance: &r.Clearances[i]})
	}
	for i := len(r.Mornings) - 1; i >= 0 && r.Mornings[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Mornings[i].Arrival, morning: &r.Mornings[i]})
	}
	for i := len(r.Runs) - 1; i >= 0 && r.Runs[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Runs[i].Arrival, run: &r.Runs[i]})
	}
	for i := len(r.Days) - 1; i >= 0 && r.Days[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Days[i].Arrival, day: &r.Days[i]})
	}
	for i := len(r.Logs) - 1; i >= 0 && r.Logs[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Logs[i].Arrival, log: &r.Logs[i]})
	}
	for i := len(r.Answers) - 1; i >= 0 && r.Answers[i].Seq > seq; i-- {
		out = append(out, event{Arrival: r.Answers[i].Arrival, answer: &r.Answers[i]})
	}
	return out
}

// book is the record as it stands now.
func (l *life) book() *Book {
	if l.c != nil {
		return l.c.Book
	}
	return Open(l.r, l.now)
}

// morning reports first steps on a date, at 8 of that day or now.
func (l *life) morning(on day.Date, p body.Pain, zone ...string) {
	l.at(on, 8)
	m := Morning{Arrival: l.arrival(), On: on, FirstStep: &p}
	if len(zone) > 0 {
		m.Zone = screening.Zone(zone[0])
	}
	if len(zone) > 1 {
		m.Side = body.Side(zone[1])
	}
	l.r.Mornings = append(l.r.Mornings, m)
	l.decide()
}

func (l *life) rest(on day.Date, p body.Pain) {
	l.at(on, 8)
	l.r.Mornings = append(l.r.Mornings, Morning{Arrival: l.arrival(), On: on, Rest: &p})
	l.decide()
}

// log reports a session on the evening of a date: pain left and right of each
// ladder; −1 leaves a side out.
func (l *life) log(on day.Date, pain map[string][2]int, change ...func(*adjust.Session)) string {
	l.at(on, 18)
	l.logs++
	id := fmt.Sprintf("s%d", l.logs)
	g := Log{Arrival: l.arrival(), ID: id, On: on}
	for _, p := range l.r.Block.Prescriptions {
		pp, ok := pain[p.ID]
		if !ok {
			continue
		}
		for i, side := range body.Sides {
			if pp[i] < 0 {
				continue
			}
			s := adjust.Session{On: on, Notch: l.peg(p.ID, side).Notch, Pain: ptr(pp[i]), Done: ptr(1.0), Compensated: ptr(0.0), Reserve: ptr(3), SureTwenty: ptr(true)}
			for _, f := range change {
				f(&s)
			}
			g.Items = append(g.Items, Item{p.ID, side, s})
		}
	}
	l.r.Logs = append(l.r.Logs, g)
	l.decide()
	return id
}

// calf reports a session of the calf ladder.
func (l *life) calf(on day.Date, left, right int, change ...func(*adjust.Session)) string {
	return l.log(on, map[string][2]int{"calf-straight": {left, right}}, change...)
}

func (l *life) run(on day.Date, metres int, pain *body.Pain) {
	l.at(on, 19)
	l.r.Runs = append(l.r.Runs, Run{Arrival: l.arrival(), ID: fmt.Sprintf("r%d", l.seq), Run: load.Run{On: on, Metres: metres, Seconds: metres / 3, Pain: pain}})
	l.decide()
}

func (l *life) day(on day.Date, d Day) {
	l.at(on, 20)
	d.Arrival, d.On = l.arrival(), on
	l.r.Days = append(l.r.Days, d)
	l.decide()
}

func (l *life) visit(on day.Date, v Visit) {
	l.at(on, 10)
	v.Arrival, v.On = l.arrival(), on
	l.r.Visits = append(l.r.Visits, v)
	l.decide()
}

func (l *life) clear(on, until day.Date, flag safety.FlagID) {
	l.at(on, 15)
	l.r.Clearances = append(l.r.Clearances, Clearance{l.arrival(), safety.Clearance{Flag: flag, On: on, Until: until}})
	l.decide()
}

func (l *life) answer(kind AnswerKind, key string, notch int) Refusal {
	a := Answer{Decision: key, Kind: kind, Notch: notch, Reason: "a reason", By: "coach"}
	l.decide() // noons that passed meanwhile
	x := l.book().Refuses(a)
	a.Arrival = l.arrival()
	l.r.Answers = append(l.r.Answers, a)
	l.decide()
	return x.Why
}

// to lets time pass to noon of a date.
func (l *life) to(on day.Date) { l.at(on, 13); l.decide() }

func (l *life) peg(p string, side body.Side) Peg {
	if peg := l.r.State.Peg(Seat{p, side}); peg.Notch > 0 {
		return peg
	}
	for _, x := range l.r.Block.Prescriptions {
		if x.ID == p {
			return Peg{Notch: x.Start}
		}
	}
	return Peg{}
}

func (l *life) notch(side body.Side) int { return l.peg("calf-straight", side).Notch }

// proposed are the open proposals of a ladder.
func (l *life) proposed(p string) []Decision {
	var out []Decision
	for _, d := range l.r.Decisions {
		if d.Prescription == p && d.State == Proposed {
			out = append(out, d)
		}
	}
	return out
}

func (l *life) decisionOf(p string, side body.Side, log string) Decision {
	d, ok := Open(l.r, l.now).decided(p, side, log)
	require.True(l.t, ok, "%s %s %s", p, side, log)
	return *d
}

// flags that readings raised.
func (l *life) raised() []safety.FlagID {
	var out []safety.FlagID
	for _, r := range l.r.Raised {
		out = append(out, r.Flag)
	}
	return out
}

// stopAt8 is a flare on the calf, with three quiet mornings behind it: the way
// back waits to be answered on Sunday the 10th.
func stopAt8(t *testing.T, ids ...string) *life {
	l := newLife(t, ids...)
	for d := monday - 6; d <= monday; d++ {
		l.morning(d, 1)
	}
	l.calf(monday, 2, 2)
	for d := monday + 1; d <= monday+3; d++ {
		l.morning(d, 4)
	}
	assert.NotNil(t, l.peg("calf-straight", body.Left).Halt, "three bad mornings stop")
	for d := monday + 4; d <= monday+6; d++ {
		l.morning(d, 1)
	}
	return l
}

// decided is Decide with all the time it takes.
func decided(r Record, now Moment) []Change {
	out, err := Decide(context.Background(), r, now)
	if err != nil {
		panic(err)
	}
	return out
}
