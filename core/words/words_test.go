package words

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
)

func TestDosesAndMoves(t *testing.T) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	l, _ := c.Ladder("calf-straight")
	assert.Equal(t, "one leg 3 × 8", Notch(l.At(7)))
	assert.Equal(t, "one leg, step 3 × 8 + 5 % body weight", Notch(l.At(12)))
	assert.Equal(t, "one leg, step, heavy 4 × 8 at 8RM", Notch(l.At(24)))
	assert.Equal(t, "up 2, hold 1, down 3, hold 1 s", Tempo(l.At(10).Dose))
	assert.Empty(t, Tempo(l.At(7).Dose))
	assert.Equal(t, "one leg 3 × 8 → 3 × 12", Move(l, adjust.Decision{Verdict: adjust.Up, From: 7, To: 8}))
	assert.Equal(t, "one leg 3 × 8 → up on two, down on one 3 × 12", Move(l, adjust.Decision{Verdict: adjust.Back, From: 7, To: 5}))
	assert.Equal(t, "no Calf, straight knee for now", Move(l, adjust.Decision{Verdict: adjust.Stop, From: 7, To: 7}))
}

func TestDecisionSentences(t *testing.T) {
	c, _ := catalogue.BuiltIn()
	l, _ := c.Ladder("calf-straight")
	may4, _ := day.Parse("2026-05-04")
	d := adjust.Decision{Verdict: adjust.Hold, Row: 11, From: 7, To: 7, ForUp: []adjust.Condition{{ID: adjust.NeedMorning, On: &may4}}}
	assert.Equal(t, "Hold: one leg 3 × 8, left. Still needed: first steps on 4 May (missing).", Decision(l, body.Left, d))
	d = adjust.Decision{Verdict: adjust.Back, Row: 3, From: 7, To: 6, Reasons: []adjust.Reason{{
		Rule: adjust.RuleMorningJump, Row: 3, Readings: []adjust.Reading{{Name: "morning", On: may4, Value: 3}, {Name: "baseline", On: may4, Value: 1}},
	}}}
	assert.Equal(t, "Back: one leg 3 × 8 → up on two, down on one 3 × 15, both sides. First steps 3 on 4 May, two or more over the usual 1.", Decision(l, body.Both, d))
}

func TestEveryRuleHasASentence(t *testing.T) {
	for _, r := range adjust.Rules {
		s := Reason(adjust.Reason{Rule: r, Readings: []adjust.Reading{}})
		assert.NotEqual(t, string(r), s, r)
	}
	for _, n := range adjust.Conditions {
		assert.NotEqual(t, string(n), Condition(adjust.Condition{ID: n}), n)
	}
}

func TestSpineSentences(t *testing.T) {
	wall, _ := screening.Find(screening.KneeToWall)
	v := func(x ...float64) (out []screening.Trial) {
		for i := range x {
			out = append(out, screening.Trial{Value: &x[i]})
		}
		return
	}
	age := screening.Age{Years: 35, Known: true}
	assert.Equal(t, "right 5 cm less, more than the smallest real change (1.7), about 18° of ankle bend",
		Asymmetry(wall, screening.Reduce(wall, v(12, 12, 12), v(7, 7, 7), age)))
	assert.Equal(t, "no clear difference (0.5 cm; smallest real change 1.7)", Asymmetry(wall, screening.Reduce(wall, v(12, 12, 12), v(11.5, 11.5, 11.5), age)))
	assert.Equal(t, "take one more on the right", Asymmetry(wall, screening.Reduce(wall, v(12, 12, 12), v(9.9), age)))
	r := screening.Reduce(wall, v(12, 12, 12), nil, age)
	assert.Equal(t, "12 cm ± 0.7 from 3 trials: ok. Ok from 10 cm, limited under 8 cm.", Verdict(wall, r.Left))
	assert.Contains(t, Verdict(wall, r.Right), "Not measured yet")
}
