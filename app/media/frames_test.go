package media

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/internal/filmed"
	"notchback/store"
)

// Of every way a phone or an editor writes a clip, there is one time for each frame that
// can be shown, also after it was turned, and none for those that can't.
func TestEveryFrameHasItsTime(t *testing.T) {
	dir := t.TempDir()
	s := FindSandbox(t.Context())
	for _, k := range filmed.Kinds {
		t.Run(k.Name, func(t *testing.T) {
			path, err := filmed.Write(t.Context(), dir, k)
			require.NoError(t, err)
			shows, err := filmed.Numbers(t.Context(), path)
			require.NoError(t, err)
			require.Greater(t, len(shows), 25)
			c := store.Clip{}
			err = s.Look(t.Context(), path, &c)
			if errors.Is(err, ErrTurn) {
				to := filepath.Join(dir, "turned-"+k.File+".mp4")
				require.NoError(t, os.WriteFile(to, nil, 0o600))
				before := slices.Clone(c.Times)
				require.NoError(t, s.Turn(t.Context(), &c, path, to, func(float64) {}))
				turned, err := filmed.Numbers(t.Context(), to)
				require.NoError(t, err)
				assert.Equal(t, shows, turned, "every frame that could be seen, in its order")
				require.Len(t, c.Times, len(shows))
				if len(before) == len(c.Times) {
					for i := range before {
						assert.InDelta(t, before[i]-before[0], c.Times[i]-c.Times[0], 0.0011, "frame %d at its own time", i)
					}
				}
				return
			}
			require.NoError(t, err)
			assert.Len(t, c.Times, len(shows))
			assert.True(t, slices.IsSorted(c.Times))
		})
	}
}

func TestFramesThatCantBeShownHaveNoTime(t *testing.T) {
	for text, want := range map[string][]float64{
		"-0.1,-0.2,KD\n0.0,-0.1,__\n0.066667,0.0,__\n0.033333,0.03,__\nh264\n": {0, 0.033333, 0.066667},
		"0.1,0.1,__\n0.2,0.11,K_\n0.15,0.12,__\n0.3,0.13,__\nvp9\n":            {0.2, 0.3},
		"0.0,0.0,K_\n0.0,0.0,__\n0.04,0.04,__\nvp8\n":                          {0, 0.04},
		"N/A,0.0,K_\nN/A,0.04,__\nN/A,0.08,__\nmpeg4\n":                        {0, 0.04, 0.08},
	} {
		got, err := readProbe(text)
		require.NoError(t, err)
		assert.Equal(t, want, got.times)
		assert.NotEmpty(t, got.codec)
	}
	_, err := readProbe("0.1,0.1,__\nh264\n")
	require.ErrorContains(t, err, "no picture")
}
