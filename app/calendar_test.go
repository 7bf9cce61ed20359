package app_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/input"
	"notchback/core/day"
	"notchback/core/planning"
)

// calendar reads the calendar behind an address with a parser that is not the writer's.
func (r *rig) calendar(token string) (map[string]ical.Event, string) {
	r.t.Helper()
	f, err := r.a.FeedCalendar(ctx, token)
	require.NoError(r.t, err)
	c, err := ical.NewDecoder(strings.NewReader(string(f.Body))).Decode()
	require.NoError(r.t, err)
	out := map[string]ical.Event{}
	for _, e := range c.Events() {
		id, err := e.Props.Text(ical.PropUID)
		require.NoError(r.t, err)
		require.NotContains(r.t, out, id, "each event once")
		out[id] = e
	}
	require.Len(r.t, parseCalendar(r.t, string(f.Body)), len(out), "another parser reads as many")
	return out, string(f.Body)
}

func prop(e ical.Event, name string) string {
	if p := e.Props.Get(name); p != nil {
		return p.Value
	}
	return ""
}

// without an alarm and stamps: what a person reads.
func said(e ical.Event) string {
	return prop(e, ical.PropSummary) + "|" + prop(e, ical.PropDescription) + "|" + prop(e, ical.PropDateTimeStart) + "|" + prop(e, ical.PropDateTimeEnd) + "|" + prop(e, ical.PropStatus)
}

func stamps(e ical.Event) string {
	return prop(e, ical.PropSequence) + "|" + prop(e, ical.PropLastModified) + "|" + prop(e, ical.PropDateTimeStamp)
}

func (r *rig) feed() string {
	r.t.Helper()
	f, err := r.a.AddFeed(ctx, r.act, r.runner.ID)
	require.NoError(r.t, err)
	return strings.TrimSuffix(strings.TrimPrefix(f.Path, "/calendar/"), ".ics")
}

// An event is stamped anew exactly when its text or its time changed; the days before
// today never change; a change of one day touches that day's events alone.
func TestCalendarStampsFollowTheTextAlone(t *testing.T) {
	r := newRig(t, 22)
	token := r.feed()
	rnd := rand.New(rand.NewPCG(7, 19))
	before, raw := r.calendar(token)
	_, again := r.calendar(token)
	assert.Equal(t, raw, again, "read again, it is the same to the byte")
	today := day.Of(r.clock, r.act.Zone)
	moved := 0
	for range 12 {
		r.clock = r.clock.Add(time.Duration(rnd.IntN(20)) * time.Hour)
		now := day.Of(r.clock, r.act.Zone)
		touched := map[string]bool{}
		only := false
		switch rnd.IntN(3) {
		case 0: // a session moves
			with, without := r.mainDays()
			if len(with) == 0 || len(without) == 0 {
				continue
			}
			from, to := with[rnd.IntN(len(with))], without[rnd.IntN(len(without))]
			if from <= now || to <= now {
				continue
			}
			_, err := r.change(input.BlockChange{Kind: "move", Session: planning.Main, From: &from, To: &to, Reason: "away"}, true)
			if err != nil {
				continue
			}
			moved++
			touched[from.String()], touched[to.String()], only = true, true, now == today
		case 1: // pain closes and opens things
			p := rnd.IntN(7)
			r.sync(r.phoneOnce(), r.firstSteps(now, p))
		}
		after, _ := r.calendar(token)
		for id, e := range after {
			was, known := before[id]
			if !known {
				assert.Equal(t, "0", prop(e, ical.PropSequence), id)
				continue
			}
			if said(was) == said(e) {
				assert.Equal(t, stamps(was), stamps(e), "%s says the same and is stamped anew", id)
				continue
			}
			assert.NotEqual(t, stamps(was), stamps(e), "%s says something else under the old stamps", id)
			start := prop(was, ical.PropDateTimeStart)
			on, err := time.Parse("20060102", start[:8])
			require.NoError(t, err)
			assert.GreaterOrEqual(t, day.Of(on, time.UTC), now-1, "%s is over and changed", id)
			if only {
				new, err := time.Parse("20060102", prop(e, ical.PropDateTimeStart)[:8])
				require.NoError(t, err)
				assert.True(t, touched[day.Of(on, time.UTC).String()] || touched[day.Of(new, time.UTC).String()], "%s changed with a session that moved elsewhere", id)
			}
		}
		for id := range before {
			assert.Contains(t, after, id, "what was given is never left out")
		}
		before, today = after, now
	}
	assert.Positive(t, moved)
}

// A runner chooses what the calendar rings for; the choice stamps no event anew.
func TestCalendarRingsForWhatIsChosen(t *testing.T) {
	r := newRig(t, 23)
	token := r.feed()
	act := r.phoneOnce()
	rings := func() map[string]int {
		out := map[string]int{}
		list, _ := r.calendar(token)
		for id, e := range list {
			for _, c := range e.Children {
				assert.Equal(t, ical.CompAlarm, c.Name)
				kind := id[strings.LastIndex(id, "-")+1 : strings.Index(id, "@")]
				out[kind]++
				if kind == "main" {
					assert.Equal(t, "-PT30M", c.Props.Get(ical.PropTrigger).Value)
				}
			}
		}
		return out
	}
	usual := rings()
	assert.Positive(t, usual["main"])
	assert.Zero(t, usual["morning"])
	before, _ := r.calendar(token)
	v, err := r.a.PutReminders(ctx, act, r.runner.ID, []string{"morning", "nonsense"})
	require.NoError(t, err)
	for _, k := range v.Kinds {
		assert.Equal(t, k.Kind == "morning", k.On, k.Kind)
		assert.NotEmpty(t, k.Words)
	}
	now := rings()
	assert.Zero(t, now["main"])
	assert.Greater(t, now["morning"], 14)
	after, _ := r.calendar(token)
	for id, e := range before {
		assert.Equal(t, stamps(e), stamps(after[id]), id)
	}
	_, err = r.a.PutReminders(ctx, act, r.runner.ID, nil)
	require.NoError(t, err)
	list, _ := r.calendar(token)
	for id, e := range list {
		if strings.Contains(id, "-morning@") {
			assert.Equal(t, "CANCELLED", prop(e, ical.PropStatus), "%s is taken back", id)
		}
	}
	assert.Empty(t, rings())
}
