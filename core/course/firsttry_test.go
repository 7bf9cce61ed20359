package course

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/day"
)

func TestFirstTryKeepsWhatFeltBest(t *testing.T) {
	start, err := day.Parse("2031-03-03")
	require.NoError(t, err)
	tried := []Tried{
		{"calf", start + 1, 3, ""}, {"arch", start + 1, 0, "better"}, {"sole", start + 1, 1, "same"}, {"toes", start + 1, 0, "worse"},
		{"arch", start + 3, 1, "same"},
	}
	got := FirstTry(true, start, start+4, tried)
	var order []string
	keep := map[string]bool{}
	for _, f := range got {
		order = append(order, f.Ladder)
		keep[f.Ladder] = f.Keep
	}
	assert.Equal(t, []string{"toes", "arch", "sole", "calf"}, order, "least pain first; the worse of two sessions counts")
	assert.Equal(t, map[string]bool{"toes": false, "arch": true, "sole": true, "calf": false}, keep, "a worse walk is not kept, nor what hurts two points more than the best")
	assert.Equal(t, 1, got[1].Pain)

	assert.Empty(t, FirstTry(false, start, start+4, tried), "nothing hurts: no try")
	assert.Empty(t, FirstTry(true, start, start+tryDays, tried), "two weeks on it is over")
	assert.Empty(t, FirstTry(true, start, start+4, tried[:1]), "one ladder can't be compared")
	more := append(tried, Tried{"arch", start + 4, 0, ""})
	assert.Empty(t, FirstTry(true, start, start+5, more), "the third time is no first try")
}
