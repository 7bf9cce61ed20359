package course

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
)

// What the engine keeps is read again by later editions: its shape stands in a
// file, and what stands in the file is understood. NOTCHBACK_WRITE=1 writes it anew.
func TestTheShapeOfWhatIsKept(t *testing.T) {
	l := stopAt8(t, "calf-straight", "calm-iso")
	l.calf(l.now.On, 1, -1)
	raw, err := json.MarshalIndent(l.r.State, "", "  ")
	require.NoError(t, err)
	const file = "testdata/state.json"
	if os.Getenv("NOTCHBACK_WRITE") != "" {
		require.NoError(t, os.WriteFile(file, append(raw, '\n'), 0o644))
	}
	kept, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.JSONEq(t, string(kept), string(raw))
	var s State
	require.NoError(t, json.Unmarshal(kept, &s))
	again, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, string(kept), string(again))
	require.NotNil(t, s.Peg(Seat{"calf-straight", body.Right}).Halt)
	assert.NotEmpty(t, s.Flares)
}
