package blobs

import (
	"errors"
	"io"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	mine   = "11111111-1111-4111-8111-111111111111"
	theirs = "22222222-2222-4222-8222-222222222222"
	one    = "33333333-3333-4333-8333-333333333333"
	two    = "44444444-4444-4444-8444-444444444444"
)

// broken ends in the middle, as a lost connection does.
type broken struct{ r io.Reader }

func (b broken) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if err == io.EOF {
		err = errors.New("connection lost")
	}
	return n, err
}

func TestAnUploadGoesOnWhereItBroke(t *testing.T) {
	d, err := Open(t.TempDir())
	require.NoError(t, err)
	n, err := d.Append(mine, one, 0, 10, broken{strings.NewReader("0123")})
	require.ErrorContains(t, err, "connection lost")
	assert.EqualValues(t, 4, n)
	n, err = d.Received(mine, one)
	require.NoError(t, err)
	assert.EqualValues(t, 4, n, "what came stays")
	n, err = d.Append(mine, one, 2, 10, strings.NewReader("23"))
	require.ErrorIs(t, err, ErrOffset)
	assert.EqualValues(t, 4, n, "the answer says where to go on")
	_, err = d.Append(mine, one, 4, 10, strings.NewReader("456789x"))
	require.ErrorIs(t, err, ErrTooLong)
	n, err = d.Received(mine, one)
	require.NoError(t, err)
	assert.EqualValues(t, 10, n)
	hash, err := d.Finish(mine, one)
	require.NoError(t, err)
	assert.Equal(t, "84d89877f0d4041efb6bf91a16f0248f2fd573e6af05c19f96bedb9f882f7882", hash, "SHA-256 of 0123456789")
	path, err := d.Path(mine, hash)
	require.NoError(t, err)
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "0123456789", string(b))
	n, err = d.Received(mine, one)
	require.NoError(t, err)
	assert.Zero(t, n)
}

func TestTwoPartsAtOnceAreOne(t *testing.T) {
	d, err := Open(t.TempDir())
	require.NoError(t, err)
	var wg sync.WaitGroup
	var taken atomic.Int32
	for range 8 {
		wg.Go(func() {
			if _, err := d.Append(mine, one, 0, 100, strings.NewReader("0123456789")); err == nil {
				taken.Add(1)
			} else {
				assert.ErrorIs(t, err, ErrOffset)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 1, taken.Load())
	n, err := d.Received(mine, one)
	require.NoError(t, err)
	assert.EqualValues(t, 10, n)
}

func TestTheSameContentIsKeptOnceAPractice(t *testing.T) {
	root := t.TempDir()
	d, err := Open(root)
	require.NoError(t, err)
	put := func(practice, id string) string {
		_, err := d.Append(practice, id, 0, 100, strings.NewReader("the same"))
		require.NoError(t, err)
		hash, err := d.Finish(practice, id)
		require.NoError(t, err)
		return hash
	}
	a, b, c := put(mine, one), put(mine, two), put(theirs, one)
	assert.Equal(t, a, b)
	assert.Equal(t, a, c)
	files, err := os.ReadDir(root + "/" + mine + "/files")
	require.NoError(t, err)
	assert.Len(t, files, 1)
	require.NoError(t, d.Remove(mine, a))
	require.NoError(t, d.Remove(mine, a), "twice is no error")
	path, err := d.Path(theirs, c)
	require.NoError(t, err)
	_, err = os.Stat(path)
	assert.NoError(t, err, "the other practice keeps its own")
}

func TestNamesStayInTheFolder(t *testing.T) {
	d, err := Open(t.TempDir())
	require.NoError(t, err)
	for _, name := range []string{"", "../../etc/passwd", "a/b", strings.Repeat("g", 40)} {
		_, err := d.Append(mine, name, 0, 5, strings.NewReader("x"))
		require.Error(t, err, name)
		_, err = d.Path(name, one)
		require.Error(t, err, name)
	}
	require.NoError(t, d.Drop(mine, one), "nothing to drop")
	_, err = d.Finish(mine, one)
	require.Error(t, err)
}
