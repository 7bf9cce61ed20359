package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// sharedPoses are those more than one test is drawn in, and why one is enough.
var sharedPoses = map[string]string{
	"strike-first": "the same foot is watched; only speed, slope or tiredness differ",
}

func TestEveryTestHasAPoseOfItsOwn(t *testing.T) {
	of := map[string]TestID{}
	for _, x := range Tests() {
		if first, ok := of[x.Figure]; ok {
			assert.Contains(t, sharedPoses, x.Figure, "%s is drawn as %s", x.ID, first)
		}
		of[x.Figure] = x.ID
		assert.NotEmpty(t, x.Picture, x.ID)
	}
	for pose := range sharedPoses {
		assert.Contains(t, of, pose)
	}
}
