package words

import (
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// What must be understood at once is there in German, all of it.
func TestWhatMustBeUnderstoodIsThereInGerman(t *testing.T) {
	has := func(english string) {
		assert.NotEmpty(t, german[english], english)
	}
	for _, age := range []screening.Age{{Known: true, Years: 40}, {Known: true, Years: 14}, {Known: true, Years: 8}, {}} {
		for _, g := range safety.Questions(age) {
			has(g.Name)
			for _, q := range g.Questions {
				has(q.Text)
			}
		}
	}
	for _, s := range append(append(safety.Signs(safety.Emergency), safety.Signs(safety.Refer)...), safety.Cautions...) {
		has(s)
	}
	for _, z := range screening.Zones {
		has(z.Name)
	}
	shelf, err := catalogue.BuiltIn()
	require.NoError(t, err)
	for _, l := range shelf.Ladders {
		has(l.Name)
	}
	for _, k := range []planning.SessionKind{planning.Micro, planning.Main, planning.EveKind, planning.Drill, planning.Exposure, planning.RoutineKind} {
		has(SessionName(k))
	}
	kinds := []planning.RunKind{planning.Easy, planning.Long, planning.Fast}
	for _, a := range kinds {
		has(Runs(a, planning.NoRun, nil))
		for _, b := range kinds {
			has(Runs(a, b, nil))
		}
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		has(string(side))
	}
}

// Nothing of an alarm or of the consent stays English, with a number to call and without.
func TestAnAlarmIsWholeInGerman(t *testing.T) {
	standing := []safety.Standing{{Flag: "F-POP", Level: safety.Emergency}}
	for _, number := range []string{"", "112"} {
		now, stop, coach := English.Alarms(number, "x")
		jetzt, halt, trainer := German.Alarms(number, "x")
		for i, pair := range [][2]Alarm{{now, jetzt}, {stop, halt}, {coach, trainer}} {
			assert.NotEqual(t, pair[0].Head, pair[1].Head)
			require.Len(t, pair[1].Lines, len(pair[0].Lines), i)
			for j := range pair[0].Lines {
				assert.NotEqual(t, pair[0].Lines[j], pair[1].Lines[j])
			}
		}
		assert.Contains(t, jetzt.Head, number)
		c, d := English.Care(standing, number, ""), German.Care(standing, number, "")
		assert.Contains(t, d.Do, number)
		for _, pair := range [][2]string{{c.Title, d.Title}, {c.Do, d.Do}, {c.After, d.After}, {c.Signs[0], d.Signs[0]}} {
			assert.NotEqual(t, pair[0], pair[1])
		}
	}
	a, b := English.PocketConsent("P"), German.PocketConsent("P")
	require.Len(t, b, len(a))
	for i := range a {
		assert.NotEqual(t, a[i], b[i])
	}
}

var (
	digits = regexp.MustCompile(`\d+`)
	verbs  = regexp.MustCompile(`%\w`)
)

// A number that is in the English is in the German, in any order; so is what is put in.
func TestTheGermanKeepsNumbers(t *testing.T) {
	for english, text := range german {
		assert.ElementsMatch(t, digits.FindAllString(english, -1), digits.FindAllString(text, -1), english)
		assert.Equal(t, verbs.FindAllString(english, -1), verbs.FindAllString(text, -1), english)
	}
}

func TestALanguageWithoutATextSaysEnglish(t *testing.T) {
	assert.Equal(t, "no such text", German.Text("no such text"))
	assert.Equal(t, "Ferse, Unterseite", German.Text("heel underside"))
	assert.Equal(t, "heel underside", English.Text("heel underside"))
	assert.False(t, Language("xx").Known())
	assert.Equal(t, "3. März", German.Day(day.Make(2027, time.March, 3)))
}
