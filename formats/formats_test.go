package formats

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/apognu/gocal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/catalogue"
	"notchback/core/day"
)

// Read back by a parser that is not the writer's.
func TestCalendarReadsBack(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	long := "Calf, straight knee; one leg 3 × 12, rest 1 min\nBall-of-foot hold: 3 × 20 s \\ slowly. " + strings.Repeat("Everything on the flat. ", 12)
	at := func(y int, m time.Month, d int) time.Time { return time.Date(y, m, d, 18, 0, 0, 0, zone) }
	events := []Event{
		{UID: "b-2026-10-24-main@notchback", Sequence: 2, Changed: at(2026, 10, 1), Start: at(2026, 10, 24), Length: 25 * time.Minute, Summary: "Main session, 25 min", Description: long},
		{UID: "b-2026-10-25-main@notchback", Sequence: 2, Changed: at(2026, 10, 1), Start: at(2026, 10, 25), Length: 25 * time.Minute, Summary: "After the clocks change"},
		{UID: "b-2026-12-31-main@notchback", Sequence: 3, Changed: at(2026, 10, 1), Start: at(2026, 12, 31), Length: 25 * time.Minute, Summary: "Over New Year", Cancelled: true},
		{UID: "b-2027-01-01-retest@notchback", Changed: at(2026, 10, 1), Day: day.Make(2027, 1, 1), Summary: "Test again"},
	}
	var b bytes.Buffer
	require.NoError(t, Calendar(&b, "Plan of Zoë; left, right", events))
	raw := b.String()
	for _, line := range strings.Split(strings.TrimSuffix(raw, "\r\n"), "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "RFC 5545: lines are at most 75 octets: %q", line)
		assert.NotContains(t, line, "\n")
	}
	assert.Contains(t, raw, "METHOD:PUBLISH")
	assert.Contains(t, raw, "STATUS:CANCELLED")
	assert.Contains(t, raw, "SEQUENCE:3")
	assert.Contains(t, raw, "DTSTART;VALUE=DATE:20270101")

	start, end := at(2026, 1, 1), at(2028, 1, 1)
	c := gocal.NewParser(strings.NewReader(raw))
	c.Start, c.End = &start, &end
	require.NoError(t, c.Parse())
	require.Len(t, c.Events, len(events))
	by := map[string]gocal.Event{}
	for _, e := range c.Events {
		by[e.Uid] = e
	}
	for _, e := range events {
		got, ok := by[e.UID]
		require.True(t, ok, e.UID)
		assert.Equal(t, e.Summary, got.Summary)
		assert.Equal(t, e.Sequence, got.Sequence)
		if e.Length > 0 {
			assert.True(t, e.Start.Equal(*got.Start), "%s: %s is not %s", e.UID, got.Start, e.Start)
			assert.Equal(t, 18, got.Start.In(zone).Hour(), "six in the evening on both sides of the clock change")
		}
		assert.Equal(t, e.Cancelled, got.Status == "CANCELLED")
	}
	assert.Equal(t, strings.ReplaceAll(long, "\r", ""), strings.ReplaceAll(by[events[0].UID].Description, `\n`, "\n"))
}

// Any text survives folding and escaping.
func TestCalendarTextRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[a-zA-Z0-9,;:.×°é≤–()-]([a-zA-Z0-9 ,;:.×°é≤–()-]{0,198}[a-zA-Z0-9,;:.×°é≤–()-])?`).Draw(t, "text") // readers trim the ends
		var b bytes.Buffer
		at := time.Date(2026, 5, 4, 18, 0, 0, 0, time.UTC)
		require.NoError(t, Calendar(&b, "x", []Event{{UID: "u", Changed: at, Start: at, Length: time.Hour, Summary: text}}))
		for _, line := range strings.Split(b.String(), "\r\n") {
			require.LessOrEqual(t, len(line), 75)
		}
		start, end := at.AddDate(0, 0, -1), at.AddDate(0, 0, 1)
		c := gocal.NewParser(&b)
		c.Start, c.End = &start, &end
		require.NoError(t, c.Parse())
		require.Len(t, c.Events, 1)
		require.Equal(t, text, c.Events[0].Summary)
	})
}

func TestPlanCSV(t *testing.T) {
	var b bytes.Buffer
	rows := []Row{{On: day.Make(2026, 5, 4), Week: 1, Session: "Main session", Ladder: "Calf, straight knee", Exercise: "=cmd()", Left: "one leg 3 × 12", Right: `two "legs"`, Minutes: 4.73, Completed: true}}
	require.NoError(t, PlanCSV(&b, rows))
	got, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, got, 2)
	assert.Equal(t, "date", got[0][0])
	assert.Equal(t, []string{"2026-05-04", "1", "", "Main session", "", "Calf, straight knee", "'=cmd()", "one leg 3 × 12", `two "legs"`, "4.7", "yes"}, got[1])
}

func TestPlanPDF(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	e := c.Exercises[0]
	pic, err := c.Picture(e)
	require.NoError(t, err)
	w := SheetWeek{Heading: "Week 1", Days: []SheetDay{{"Mon", []string{"Main session, 25 min"}}, {"Tue", nil}}, Notes: []string{"Lighter week"}}
	for range 30 { // more than a page holds
		w.Work = append(w.Work, SheetWork{Name: e.Name, Left: "10 min", Right: "10 min", SetUp: strings.Repeat(e.SetUp+" ", 3), Cues: e.Cues, Start: pic.Start, End: pic.End})
	}
	made := time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)
	s := Sheet{Title: "Plan", Runner: "Łucja Zoë ≤ 5 → 3 × 12", Made: made, Weeks: []SheetWeek{w, {Heading: "Week 2"}}, Rules: []string{"Up to 5"}, Cautions: []string{"Stop"}}
	var a, b bytes.Buffer
	require.NoError(t, PlanPDF(&a, s))
	require.NoError(t, PlanPDF(&b, s))
	assert.True(t, bytes.HasPrefix(a.Bytes(), []byte("%PDF-")))
	assert.Equal(t, a.Bytes(), b.Bytes(), "the same plan gives the same file")
	assert.GreaterOrEqual(t, bytes.Count(a.Bytes(), []byte("/Type /Page\n")), 3, "what does not fit goes on to a next page")
}

// A usual week of eight exercises, whole texts, notes and diary, is one page; the
// signs are one more.
func TestAWeekIsAPage(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	day := SheetDay{"Mon 4 May", []string{"easy run", "Short daily work, 3 min, before the run", "Main session, 25 min, at least two hours after the run"}}
	w := SheetWeek{Heading: "Week 1", Days: []SheetDay{day, day, day, day, day, day, day}, Notes: []string{"Test again on Saturday: knee to wall"}, Diary: []string{"First steps 0–10", "At rest 0–10", "Heel and toe walk after 0–10"}}
	for _, id := range []string{"knee-wall-rock", "sole-pull", "sole-cylinder", "calf-roll-ball", "soleus-stretch", "raise-step-load", "split-hold-calf-load", "balance-closed"} {
		for _, e := range c.Exercises {
			if e.ID == id {
				w.Work = append(w.Work, SheetWork{Name: e.Name, Exercise: e.Name, Left: "one leg, step 3 × 12", Right: "one leg, step 4 × 12", Load: "7.5 kg", Rest: "rest 90 s between sets", Sides: "each side, left first", When: "a whole day between two of these",
					SetUp: e.SetUp, Cues: e.Cues, Mistakes: e.Mistakes, Cautions: e.Cautions, Notes: []string{"Only knee bend stays at 60° or less."}, Days: "Mon Wed Fri"})
			}
		}
	}
	require.Len(t, w.Work, 8)
	s := Sheet{Runner: "Ines", Practice: "P", Contact: "the coach", Weeks: []SheetWeek{w, w}, Notes: []string{"Running: easier.", "Not now: hops (the gate hop is closed: needs 20 one-leg raises a side at pain 3 or less; stance of 30 s)."},
		Rules: []string{strings.Repeat("Pain during work: 0 to 3 fine. ", 5)}, Alarms: []SheetList{{Head: "Get care now", Lines: []string{"a"}, Strong: true}}, Cautions: []string{"It does not diagnose."}}
	var a bytes.Buffer
	require.NoError(t, PlanPDF(&a, s))
	assert.Equal(t, 3, bytes.Count(a.Bytes(), []byte("/Type /Page\n")))
	s.Care = &SheetCare{Title: "Get care now", Do: "Call", Signs: []string{"x"}}
	s.Weeks = nil
	a.Reset()
	require.NoError(t, PlanPDF(&a, s))
	assert.Equal(t, 1, bytes.Count(a.Bytes(), []byte("/Type /Page\n")), "under an emergency it is one page")
}
