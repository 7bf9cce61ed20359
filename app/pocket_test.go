package app_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/pocket"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
)

// newID is an id as a phone makes one.
func newID() string {
	a, b := rand.Uint64(), rand.Uint64()
	return fmt.Sprintf("%08x-%04x-4%03x-a%03x-%012x", a>>32, a>>16&0xffff, a&0xfff, b>>52, b&0xffffffffffff)
}

// phone lets a phone of the rig's runner in.
func (r *rig) phone() (act app.Actor, secret string) {
	r.t.Helper()
	l, err := r.a.AddLink(ctx, r.act, r.runner.ID)
	require.NoError(r.t, err)
	secret, err = r.a.Join(ctx, l.Token, "a phone")
	require.NoError(r.t, err)
	act, err = r.a.EnterPocket(ctx, secret, "getPocketPlan")
	require.NoError(r.t, err)
	return act, secret
}

func (r *rig) report(kind pocket.Kind, on day.Date) pocket.Report {
	return pocket.Report{ID: newID(), Kind: kind, On: on, At: r.clock, Zone: "UTC"}
}

func (r *rig) firstSteps(on day.Date, p int) pocket.Report {
	x := r.report(pocket.OfMorning, on)
	x.Morning = &pocket.MorningPart{Readings: []input.PlaceReading{{FirstStep: &p}}}
	return x
}

func (r *rig) sync(act app.Actor, list ...pocket.Report) []pocket.Told {
	r.t.Helper()
	told, err := r.a.Sync(ctx, act, list)
	require.NoError(r.t, err)
	return told
}

// A link works for fourteen days and three phones; what opens nothing says the same
// whatever it is.
func TestALinkLetsThreePhonesInForAFortnight(t *testing.T) {
	r := newRig(t, 12)
	l, err := r.a.AddLink(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	g, err := r.a.Greet(ctx, l.Token)
	require.NoError(t, err)
	assert.Equal(t, pocket.FirstName(r.runner.Name), g.FirstName)
	assert.NotEmpty(t, g.Consent)
	no := func(token string) {
		t.Helper()
		_, err := r.a.Greet(ctx, token)
		assert.EqualError(t, err, words.PocketNoWay)
		_, err = r.a.Join(ctx, token, "x")
		assert.EqualError(t, err, words.PocketNoWay)
	}
	no("guessed")
	no("")
	var secrets []string
	for i := range pocket.LinkDevices {
		s, err := r.a.Join(ctx, l.Token, fmt.Sprintf("phone %d", i+1))
		require.NoError(t, err)
		secrets = append(secrets, s)
	}
	no(l.Token) // used up
	way, err := r.a.Way(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Empty(t, way.Links)
	require.Len(t, way.Devices, 3)
	assert.True(t, way.Devices[0].New, "the coach has not looked yet")
	_, err = r.a.Looked(ctx, r.act, r.runner.ID)
	require.NoError(t, err)

	old, err := r.a.AddLink(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	r.clock = r.clock.Add(pocket.LinkDays*24*time.Hour - time.Second)
	_, err = r.a.Greet(ctx, old.Token)
	require.NoError(t, err)
	r.clock = r.clock.Add(time.Second)
	no(old.Token)
	ended, err := r.a.AddLink(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	_, err = r.a.EndLinks(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	no(ended.Token)

	act, err := r.a.EnterPocket(ctx, secrets[0], "x")
	require.NoError(t, err, "phones that are in stay in")
	out := func(secret string) {
		t.Helper()
		_, err := r.a.EnterPocket(ctx, secret, "x")
		assert.ErrorIs(t, err, app.ErrSignedOut)
	}
	out("")
	out("guessed")
	_, err = r.a.EndDevice(ctx, r.act, r.runner.ID, act.Device)
	require.NoError(t, err)
	out(secrets[0])
	act, err = r.a.EnterPocket(ctx, secrets[1], "x")
	require.NoError(t, err)
	require.NoError(t, r.a.Leave(ctx, act, ""))
	out(secrets[1])
	_, err = r.a.EnterPocket(ctx, secrets[2], "x")
	require.NoError(t, err)
	r.clock = r.clock.Add(pocket.QuietDays * 24 * time.Hour)
	_, err = r.a.EnterPocket(ctx, secrets[2], "x")
	require.NoError(t, err)
	r.clock = r.clock.Add(pocket.QuietDays*24*time.Hour + time.Second)
	out(secrets[2])
	way, err = r.a.Way(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	outs := []string{}
	for _, d := range way.Devices {
		assert.False(t, d.New)
		outs = append(outs, d.Out)
	}
	slices.Sort(outs)
	assert.Equal(t, []string{"signed out by a coach", "signed out by the runner", "silent for half a year"}, outs)
}

// Somebody under 18, or of unknown age, has a phone once a guardian agreed.
func TestAMinorsLinkWaitsForAGuardian(t *testing.T) {
	r := newRig(t, 12)
	in := r.runner.RunnerInput
	birth := day.Make(r.clock.Year()-15, time.March, 1)
	in.Birth = &birth
	saved, err := r.a.UpdateRunner(ctx, r.act, r.runner.ID, r.runner.Version, in)
	require.NoError(t, err)
	_, err = r.a.AddLink(ctx, r.act, saved.ID)
	assert.EqualError(t, err, words.PocketMinor)
	v, err := r.a.Way(ctx, r.act, saved.ID)
	require.NoError(t, err)
	assert.Equal(t, words.PocketMinor, v.Refused)
	in.Birth = nil
	saved, err = r.a.UpdateRunner(ctx, r.act, saved.ID, saved.Version, in)
	require.NoError(t, err)
	_, err = r.a.AddLink(ctx, r.act, saved.ID)
	assert.ErrorContains(t, err, "date of birth")
}

// What a phone tells acts like what a coach types, once, however often it is sent.
func TestReportsActOnce(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	today := day.Of(r.clock, time.UTC)
	p := r.calf()
	session := r.report(pocket.OfSession, today)
	session.Session = &pocket.SessionPart{Block: r.block.ID, Kind: planning.Main, Litmus: "same", Items: []pocket.ItemPart{
		{PrescriptionID: p.ID, Side: body.Left, Notch: p.Pegs[0].Notch, Pain: ptr(2), Done: ptr(1.0), Reserve: ptr(3)}, {PrescriptionID: p.ID, Side: body.Right, Notch: max(1, p.Pegs[1].Notch-1), Pain: ptr(6), Done: ptr(0.5)},
	}}
	run := r.report(pocket.OfRun, today)
	run.Run = &pocket.RunPart{Km: 6, Minutes: 36, Pain: ptr(0)}
	note := r.report(pocket.OfNote, today)
	note.Note = "The left calf was tight on the stairs."
	list := []pocket.Report{r.firstSteps(today, 2), session, run, note}
	for range 3 {
		for _, told := range r.sync(act, list...) {
			assert.Equal(t, "taken", told.State, told.Why)
		}
	}
	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Len(t, runs, 1)
	logs, err := r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	require.Len(t, logs, 1)
	r.refresh()
	right := r.latest(body.Right)
	assert.Equal(t, "back", string(right.Decision.Verdict), "pain of 6 goes a notch back at once")
	assert.Equal(t, max(1, p.Pegs[1].Notch-1), right.Decision.From, "the notch it was done at")
	heard, err := r.a.Heard(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Len(t, heard.Reports, 4)
	assert.Equal(t, 4, heard.New, "a note is one of the reports")
	require.Len(t, heard.Notes, 1)
	assert.False(t, heard.Notes[0].Mine)
	onBench := func() int {
		list, err := r.a.Bench(ctx, r.act, "", 0)
		require.NoError(t, err)
		require.NotEmpty(t, list.Items)
		return list.Items[0].Heard
	}
	assert.Equal(t, 4, onBench(), "as on the runner's page")
	heard, err = r.a.Looked(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Zero(t, heard.New)
	assert.Zero(t, onBench())
	// A second phone that tells the same session is told so.
	other, _ := r.phone()
	again := session
	again.ID = newID()
	told := r.sync(other, again)
	assert.Equal(t, "double", told[0].State)
	logs, err = r.a.LoggedSessions(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Len(t, logs, 1)
}

// What can't be is refused with what to do, kept, and shown to the coach.
func TestReportsThatCantBeSayWhy(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	today := day.Of(r.clock, time.UTC)
	pain := r.firstSteps(today, 11)
	ahead := r.firstSteps(today, 1)
	ahead.At = r.clock.Add(40 * time.Hour)
	ago := r.firstSteps(today-61, 1)
	empty := r.report(pocket.OfMorning, today)
	two := r.firstSteps(today, 1)
	two.Note = "and more"
	far := r.report(pocket.OfRun, today)
	far.Run = &pocket.RunPart{Km: 900, Minutes: 600}
	gone := r.report(pocket.OfSession, today)
	gone.Session = &pocket.SessionPart{Block: r.block.ID, Kind: planning.Main, Items: []pocket.ItemPart{{PrescriptionID: newID(), Side: body.Left, Notch: 1, Pain: ptr(1)}}}
	foreign := r.report(pocket.OfSession, today)
	foreign.Session = &pocket.SessionPart{Block: newID(), Kind: planning.Main, Items: []pocket.ItemPart{{PrescriptionID: newID(), Side: body.Left, Notch: 1, Pain: ptr(1)}}}
	list := []pocket.Report{pain, ahead, ago, empty, two, far, gone, foreign}
	for i, told := range r.sync(act, list...) {
		assert.Equal(t, "refused", told.State, "%d", i)
		assert.NotEmpty(t, told.Why, "%d", i)
	}
	heard, err := r.a.Heard(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Len(t, heard.Reports, len(list), "the coach reads what was tried")
	good := r.sync(act, r.firstSteps(today, 1))
	assert.Equal(t, "taken", good[0].State)
}

// The plan a phone carries says what each reading would do; what it says is what the
// engine does when the reading comes.
func TestThePlanCarriesItsAnswers(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	today := day.Of(r.clock, time.UTC)
	for d := today - 6; d < today; d++ {
		r.morning(d, 1)
	}
	r.log(today, 2, 2)
	plan, err := r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	raw, err := json.Marshal(plan)
	require.NoError(t, err)
	assert.Less(t, len(raw), 1<<20)
	var item *pocket.Item
	for _, d := range plan.Days {
		for _, s := range d.Sessions {
			for i := range s.Items {
				if s.Items[i].PrescriptionID == r.calf().ID && d.On > today && item == nil {
					item = &s.Items[i]
				}
			}
		}
	}
	require.NotNil(t, item, "the calf comes again")
	side := item.Sides[0]
	require.GreaterOrEqual(t, len(side.Steps), 2)
	assert.Less(t, side.Steps[1].Notch, side.Steps[0].Notch)
	table := side.Morning["/"]
	assert.Equal(t, 0, table[1], "the usual morning changes nothing")
	assert.Positive(t, table[3], "two over the usual takes a notch")
	for i := 1; i < len(table); i++ {
		if table[i-1] == pocket.Closed {
			assert.Equal(t, pocket.Closed, table[i])
		} else {
			assert.True(t, table[i] == pocket.Closed || table[i] >= table[i-1], "more pain is never kinder")
		}
	}
	assert.Contains(t, side.ClosedBy, "F-POP")
	assert.Contains(t, plan.Emergency, "F-POP")
	assert.NotContains(t, plan.Emergency, "F-BONE")
	assert.Contains(t, plan.NoRunIf, "F-BONE")
	assert.Equal(t, 6, plan.Rules.EndsSet)
	require.NotEmpty(t, plan.Texts[side.Steps[0].Exercise].Cues)
	before := side.Steps[0].Notch

	r.clock = r.clock.Add(22 * time.Hour)
	r.sync(act, r.firstSteps(today+1, 3))
	r.refresh()
	assert.Equal(t, before-table[3], r.calf().Pegs[0].Notch, "what the phone showed is what was decided")
}

// An answer raises its flag at once, and a yes is never taken back by silence.
func TestAnswersFromAPhoneCloseAtOnce(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	today := day.Of(r.clock, time.UTC)
	x := r.report(pocket.OfMorning, today)
	x.Morning = &pocket.MorningPart{New: []input.PlaceReading{{Zone: "calf", Side: body.Left, FirstStep: ptr(4)}}, Answers: &safety.Answers{Yes: map[string]body.Side{"F-CLOT": body.Both}, None: []string{}}}
	assert.Equal(t, "taken", r.sync(act, x)[0].State)
	plan, err := r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	require.NotNil(t, plan.Care)
	for _, d := range plan.Days {
		if d.On >= today {
			assert.Empty(t, d.Sessions, d.On)
		}
	}
	y := r.report(pocket.OfMorning, today)
	y.Morning = &pocket.MorningPart{BarefootMinutes: ptr(20)}
	assert.Equal(t, "taken", r.sync(act, y)[0].State)
	plan, err = r.a.PlanOf(ctx, act)
	require.NoError(t, err)
	assert.NotNil(t, plan.Care)
	d, err := r.a.Day(ctx, r.act, r.runner.ID, today)
	require.NoError(t, err)
	assert.Equal(t, 20, *d.Day.BarefootMinutes)
	assert.Len(t, d.Day.New, 1)
}

// In any order of sending, cut off and sent again by many at once, the same reports
// are kept, each once.
func TestInAnyOrderEachReportIsKeptOnce(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	today := day.Of(r.clock, time.UTC)
	var list []pocket.Report
	for d := today - 20; d <= today; d++ {
		x := r.report(pocket.OfMorning, d)
		x.Morning = &pocket.MorningPart{Readings: []input.PlaceReading{{FirstStep: ptr(int(d) % 3)}}, BarefootMinutes: ptr(10 + int(d)%20)}
		list = append(list, x)
	}
	var wg sync.WaitGroup
	for seed := range 4 {
		rng := rand.New(rand.NewPCG(uint64(seed), 1))
		wg.Go(func() {
			for range 8 {
				from := rng.IntN(len(list))
				part := list[from:min(len(list), from+1+rng.IntN(8))]
				_, err := r.a.Sync(ctx, act, part) // a lost answer: it is sent again
				assert.NoError(t, err)
			}
		})
	}
	wg.Wait()
	r.sync(act, list...)
	require.NoError(t, r.a.SettleReports(ctx))
	heard, err := r.a.Heard(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, heard.Reports, len(list))
	for _, x := range heard.Reports {
		assert.Equal(t, "taken", x.State, x.Why)
	}
	var n int
	require.NoError(t, r.asOwner(t).QueryRow(ctx, `SELECT count(*) FROM mornings WHERE runner_id = $1 AND on_date >= $2`, r.runner.ID, (today-20).Time()).Scan(&n))
	assert.Equal(t, len(list), n, "one reading a day and no second")
}

// The plan says which days a session may move to; a move to an open one is done, one to
// a closed day is refused with the same reason.
func TestMovesCarriedAreMovesDone(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	moves, err := r.a.Moves(ctx, act, r.runner.ID)
	require.NoError(t, err)
	require.NotEmpty(t, moves)
	open, closed := 0, 0
	for _, m := range moves {
		if m.Why != "" && closed == 0 || m.Why == "" && open == 0 {
			x := r.report(pocket.OfMove, m.From)
			x.Move = &pocket.MovePart{Block: r.block.ID, Kind: m.Kind, To: m.To}
			told := r.sync(act, x)[0]
			if m.Why != "" {
				closed++
				assert.Equal(t, "refused", told.State)
				assert.Contains(t, told.Why, m.Why)
				continue
			}
			open++
			assert.Equal(t, "taken", told.State, told.Why)
			r.refresh()
			assert.True(t, r.has(m.To, m.Kind))
		}
	}
	assert.Equal(t, 1, open)
}

// phoneOnce lets a phone in the first time it is asked for.
func (r *rig) phoneOnce() app.Actor {
	if r.known == nil {
		act, _ := r.phone()
		r.known = &act
	}
	return *r.known
}

// A file of runs from a phone counts once, with what was felt on it; one that is no run
// stays with its reason; either way the file itself is not kept.
func TestAFileFromAPhone(t *testing.T) {
	r := newRig(t, 24)
	act, _ := r.phone()
	today := day.Of(r.clock, r.act.Zone)
	send := func(name, content string, pain *int) pocket.Told {
		x := r.report(pocket.OfFile, today)
		x.File = &pocket.FilePart{Name: name, Data: []byte(content), Pain: pain}
		told := r.sync(act, x)
		require.Len(t, told, 1)
		assert.Equal(t, told, r.sync(act, x), "told again it is the same")
		_, err := r.a.FileOf(ctx, act, x.ID)
		require.ErrorIs(t, err, app.ErrNotFound)
		return told[0]
	}
	start := r.clock.Add(-3 * time.Hour).UTC()
	var b strings.Builder
	b.WriteString(`<gpx version="1.1" creator="a watch" xmlns="http://www.topografix.com/GPX/1/1"><trk><type>running</type><trkseg>`)
	for i := range 60 {
		fmt.Fprintf(&b, `<trkpt lat="%.6f" lon="10"><time>%s</time></trkpt>`, 50+float64(i)*0.00027, start.Add(time.Duration(i)*10*time.Second).Format(time.RFC3339))
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	pain := 5
	assert.Equal(t, "taken", send("morning.gpx", b.String(), &pain).State)
	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	count := func() (n int, worst int) {
		for _, x := range runs {
			if x.Source == "gpx" {
				n++
				if x.Pain != nil {
					worst = *x.Pain
				}
			}
		}
		return n, worst
	}
	n, worst := count()
	assert.Equal(t, [2]int{1, 5}, [2]int{n, worst})
	less := 2
	assert.Equal(t, "taken", send("the same.gpx", b.String()+"\n", &less).State)
	runs, err = r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	n, worst = count()
	assert.Equal(t, [2]int{1, 5}, [2]int{n, worst}, "there once, and told pain stays")
	bad := send("notes.txt", "a shopping list", nil)
	assert.Equal(t, "refused", bad.State)
	assert.Contains(t, bad.Why, "not a run file")
	table := send("table.csv", "When,How far\n2026-05-04,6.2\n", nil)
	assert.Equal(t, "refused", table.State)
	assert.Contains(t, table.Why, "coach")
	eleven := 11
	assert.Equal(t, "refused", send("x.gpx", strings.ReplaceAll(b.String(), "lon=\"10\"", "lon=\"11\""), &eleven).State)
}

// A runner reads in the practice's language, or in their own once they chose it; what
// must be understood at once is then in it, on the phone and on paper.
func TestARunnerReadsInTheirLanguage(t *testing.T) {
	r := newRig(t, 12)
	act, _ := r.phone()
	carried := func() pocket.Plan {
		p, err := r.a.PlanOf(ctx, act)
		require.NoError(t, err)
		return p
	}
	first := func(p pocket.Plan) string { return p.Questions[0].Questions[0].Text }
	english := carried()
	assert.Equal(t, words.English, english.Language)

	p, err := r.a.Practice(ctx, r.act)
	require.NoError(t, err)
	p.Language = "xx"
	_, err = r.a.PutPractice(ctx, r.act, p)
	assert.ErrorContains(t, err, "language")
	p.Language = "de"
	_, err = r.a.PutPractice(ctx, r.act, p)
	require.NoError(t, err)
	german := carried()
	assert.Equal(t, words.German, german.Language)
	assert.Equal(t, words.German.Text(first(english)), first(german))
	assert.NotEqual(t, first(english), first(german))
	for _, z := range german.Zones { // a place still finds its questions
		for _, g := range z.Groups {
			assert.True(t, slices.ContainsFunc(german.Questions, func(x safety.Group) bool { return x.Name == g }), g)
		}
	}
	assert.Equal(t, english.Emergency, german.Emergency, "the same answers close")
	assert.NotEqual(t, english.IfCare.Do, german.IfCare.Do)
	l, err := r.a.AddLink(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	g, err := r.a.Greet(ctx, l.Token)
	require.NoError(t, err)
	assert.Equal(t, words.German.PocketConsent(p.Name), g.Consent)
	sheet, err := r.a.PrintSheet(ctx, r.act, r.block.ID)
	require.NoError(t, err)
	assert.Equal(t, words.German.Texts(safety.Cautions), sheet.Sheet.Cautions)
	assert.Contains(t, sheet.Sheet.Alarms[0].Head, "Jetzt Hilfe holen")

	require.NoError(t, r.a.Speak(ctx, act, words.English))
	assert.Equal(t, first(english), first(carried()), "the runner's own word counts")
	assert.Error(t, r.a.Speak(ctx, act, "xx"))
}
