package figure

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAPoseTakesWhatItIsLike(t *testing.T) {
	all := map[string]Pose{
		"stand": {Angles: map[string]float64{"trunk": 5, "knee": 10}},
		"squat": {Like: "stand", Angles: map[string]float64{"knee": 90}},
		"round": {Like: "round"},
		"odd":   {Angles: map[string]float64{"wing": 3}},
		"view":  {View: "sky"},
		"thing": {Props: []Prop{{Kind: "sofa"}}},
		"rest":  {Rest: "bed"},
		"lost":  {Like: "nobody"},
	}
	p, err := Resolve("squat", all)
	require.NoError(t, err)
	assert.Equal(t, map[string]float64{"trunk": 5, "knee": 90}, p.Angles)
	assert.Equal(t, "body", p.View)
	assert.EqualValues(t, 10, all["stand"].Angles["knee"], "the other pose stays as it was")
	for name, says := range map[string]string{
		"nobody": "not known", "round": "like itself", "odd": "wing", "view": "sky", "thing": "sofa", "rest": "bed", "lost": "nobody",
	} {
		_, err := Resolve(name, all)
		assert.ErrorContains(t, err, says, name)
	}
	_, err = Draw(Pose{View: "toes", Props: []Prop{{Kind: "weight", At: "elbow"}}})
	assert.Error(t, err, "toes have no elbow to hang a thing on")
}

// Any person that can be drawn stands inside the box; the same angles always
// give the same picture.
func TestPicturesStayInTheBox(t *testing.T) {
	drawn := 0
	rapid.Check(t, func(t *rapid.T) {
		p := Pose{View: "body", Angles: map[string]float64{}}
		for _, k := range []string{"trunk", "hip", "knee", "shoulder", "elbow"} {
			p.Angles[k] = rapid.Float64Range(-20, 80).Draw(t, k)
		}
		got, err := Draw(p)
		if err != nil {
			assert.ErrorIs(t, err, ErrTooWide)
			return
		}
		drawn++
		again, err := Draw(p)
		require.NoError(t, err)
		assert.Equal(t, got, again)
		require.NotEmpty(t, got)
		for _, s := range got {
			for _, at := range s.Points {
				assert.GreaterOrEqual(t, at[0]-s.Radius, -0.01)
				assert.LessOrEqual(t, at[0]+s.Radius, Size+0.01)
				assert.GreaterOrEqual(t, at[1]-s.Radius, -0.01)
				assert.LessOrEqual(t, at[1]+s.Radius, Size+0.01)
			}
		}
	})
	assert.Positive(t, drawn)
}
