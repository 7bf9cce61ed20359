package screening

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Rulebook 02, from memory: a whole screening 20 to 25 minutes, the quick one about 8.
func TestMinutesOfAScreening(t *testing.T) {
	whole, quick := int(60*TalkMinutes), int(60*QuickTalkMinutes)
	for _, x := range Tests() {
		assert.Positive(t, x.Seconds, x.ID)
		whole += x.Seconds
		if x.Quick {
			quick += x.Seconds
		}
	}
	assert.InDelta(t, 22.5*60, whole, 2.5*60, "20 to 25 minutes")
	assert.InDelta(t, 8*60, quick, 60, "with the two minutes of its talk")
}
