package safety

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/screening"
)

func own(level Level, closes ...string) Own {
	return Own{ID: "own-a1", Text: "Stung by something at the beach", Level: level, Closes: closes}
}

func TestAPracticesOwnQuestionIsChecked(t *testing.T) {
	require.NoError(t, own(Refer, "running", "hop").Check())
	require.NoError(t, own(Emergency).Check())
	require.NoError(t, own(Note).Check())
	progress := own(Limit)
	progress.Progress = true
	require.NoError(t, progress.Check())
	for name, wrong := range map[string]Own{
		"nothing closed":     own(Refer),
		"a note that closes": own(Note, "running"),
		"an emergency less":  own(Emergency, "running"),
		"everything":         own(Refer, "everything"), // an emergency says so
		"no such phrase":     own(Limit, "swimming"),
		"no level":           own("urgent", "running"),
		"a row of the table": {ID: "F-POP", Text: "A pop or a kick", Level: Refer, Closes: []string{"running"}},
		"too short":          {ID: "own-b", Text: "Stung", Level: Note},
	} {
		require.Error(t, wrong.Check(), name)
	}
	for _, c := range OwnCloses {
		require.Contains(t, phrases, c)
	}
}

// It closes by the same phrases as a row of the table, and its name is its question.
func TestAPracticesOwnQuestionRaisesAFlag(t *testing.T) {
	o := own(Refer, "running", "barefoot")
	o.Side = true
	a := Answers{Yes: map[string]body.Side{o.ID: body.Left}, Own: []Own{o}}
	flags := Raise(today, a, nil, nil)
	require.Len(t, flags, 1)
	f := flags[0]
	assert.Equal(t, Refer, f.Level)
	assert.Equal(t, body.Left, f.Side)
	assert.True(t, f.ClosesRunning())
	assert.True(t, f.Closes(catalogue.Kinds{catalogue.RunningWork: true}, body.Right), "nobody runs on one side")
	assert.True(t, f.ClosesGate(BarefootHome))
	assert.False(t, f.ClosesGate(SingleLegCalf))
	assert.False(t, f.Everything)
	assert.Equal(t, "“Stung by something at the beach”", f.Name())

	e := own(Emergency)
	flags = Raise(today, Answers{Yes: map[string]body.Side{e.ID: body.Both}, Own: []Own{e}}, nil, nil)
	require.Len(t, flags, 1)
	assert.True(t, flags[0].Everything)
	assert.True(t, flags[0].Closes(catalogue.Kinds{}, body.Left))

	// A clearance opens it like any other, up to its end.
	c := Clearance{Flag: f.Flag, On: f.Since, Until: f.Since + 10}
	assert.Empty(t, Stand(f.Since+10, []Standing{f}, []Clearance{c}))
	assert.Len(t, Stand(f.Since+11, []Standing{f}, []Clearance{c}), 1)

	// Without the row the id alone raises nothing.
	assert.Empty(t, Raise(f.Since, Answers{Yes: map[string]body.Side{o.ID: body.Left}}, nil, nil))
}

func TestOwnQuestionsAreAskedBesideTheTable(t *testing.T) {
	young := own(Note)
	young.ID, young.Minor = "own-b2", true
	list := []Own{own(Refer, "hop"), young}
	grown, child := screening.Age{Years: 40, Known: true}, screening.Age{Years: 15, Known: true}
	last := func(age screening.Age) Group { g := Questions(age, list...); return g[len(g)-1] }
	assert.Len(t, last(grown).Questions, 1)
	assert.Len(t, last(child).Questions, 2)
	assert.Len(t, last(screening.Age{}).Questions, 2, "an age nobody knows is asked all")
	assert.Len(t, Questions(grown), len(Questions(grown, list...))-1, "nothing of the table is lost")

	a := Answers{Yes: map[string]body.Side{}, Own: Asked(list, grown)}
	for _, g := range Questions(grown) {
		a.None = append(a.None, g.Name)
	}
	assert.Equal(t, []string{OwnGroup}, a.Unasked(grown))
	a.None = append(a.None, OwnGroup)
	assert.Empty(t, a.Unasked(grown))
	assert.Equal(t, list[:1], a.Spoken(list, grown))
	assert.Contains(t, Signs(Refer, list...), list[0].Text)
	assert.NotContains(t, Signs(Emergency, list...), list[0].Text)
}
