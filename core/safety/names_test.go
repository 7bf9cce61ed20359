package safety

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every flag has words of its own for a sentence, and no code stands in them.
func TestEveryFlagHasAName(t *testing.T) {
	for _, q := range questions {
		n := q.Flag.Name()
		assert.NotContains(t, n, "F-", q.Flag)
		assert.False(t, strings.HasPrefix(n, "a flag"), q.Flag)
		assert.False(t, strings.HasPrefix(n, "“"), "%s has no name of its own", q.Flag)
	}
	assert.Equal(t, "the strong pain", FlagID("F-SEVERE").Name())
	assert.Equal(t, "the bone pain at a high-risk place", FlagID("F-BONE-HIGH-WALK").Name())
	assert.Equal(t, "a flag of this practice", FlagID("F-OURS").Name())
}
