package blobs

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

const (
	mine   = "11111111-1111-4111-8111-111111111111"
	theirs = "22222222-2222-4222-8222-222222222222"
	one    = "33333333-3333-4333-8333-333333333333"
	two    = "44444444-4444-4444-8444-444444444444"
)

func opened(t *testing.T) (*Dir, string) {
	root := t.TempDir()
	d, err := Open(root)
	require.NoError(t, err)
	return d, root
}

func content(t *testing.T, d Store, k Key) string {
	f, err := d.Open(k)
	require.NoError(t, err)
	b, err := io.ReadAll(f)
	require.NoError(t, errors.Join(err, f.Close()))
	return string(b)
}

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
	d, _ := opened(t)
	k := Key{mine, Upload, one}
	n, err := d.Append(ctx, k, 0, 10, broken{strings.NewReader("0123")})
	require.ErrorContains(t, err, "connection lost")
	assert.EqualValues(t, 4, n)
	n, err = d.Size(k)
	require.NoError(t, err)
	assert.EqualValues(t, 4, n, "what came stays")
	n, err = d.Append(ctx, k, 2, 10, strings.NewReader("23"))
	require.ErrorIs(t, err, ErrOffset)
	assert.EqualValues(t, 4, n, "the answer says where to go on")
	_, err = d.Append(ctx, k, 4, 10, strings.NewReader("456789x"))
	require.ErrorIs(t, err, ErrTooLong)
	assert.Equal(t, "0123456789", content(t, d, k))
}

func TestTwoPartsAtOnceAreOne(t *testing.T) {
	d, _ := opened(t)
	var wg sync.WaitGroup
	var taken atomic.Int32
	for range 8 {
		wg.Go(func() {
			if _, err := d.Append(ctx, Key{mine, Upload, one}, 0, 100, strings.NewReader("0123456789")); err == nil {
				taken.Add(1)
			} else {
				assert.ErrorIs(t, err, ErrOffset)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 1, taken.Load())
	n, err := d.Size(Key{mine, Upload, one})
	require.NoError(t, err)
	assert.EqualValues(t, 10, n)
}

// Everything can be done twice, and what is not there is no error.
func TestTwiceIsTheSameAsOnce(t *testing.T) {
	d, _ := opened(t)
	up, whole := Key{mine, Upload, one}, Key{mine, Whole, two}
	for range 2 {
		require.NoError(t, d.Put(ctx, up, strings.NewReader("the same")))
		require.NoError(t, d.Copy(up, whole))
	}
	assert.Equal(t, "the same", content(t, d, whole))
	for range 2 {
		require.NoError(t, d.Delete(up))
	}
	assert.Equal(t, "the same", content(t, d, whole), "the second name keeps the content")
	require.Error(t, d.Copy(up, whole), "nothing to copy")
	_, err := d.Open(up)
	require.ErrorIs(t, err, fs.ErrNotExist)
	n, err := d.Size(up)
	require.NoError(t, err)
	assert.Zero(t, n)
}

// A file that is put is there as a whole or not at all, and a deadline is heeded.
func TestPuttingIsAllOrNothing(t *testing.T) {
	d, root := opened(t)
	k := Key{mine, Whole, one}
	require.Error(t, d.Put(ctx, k, broken{strings.NewReader("half")}))
	over, cancel := context.WithCancel(ctx)
	cancel()
	require.ErrorIs(t, d.Put(over, k, strings.NewReader("late")), context.Canceled)
	_, err := d.Open(k)
	require.ErrorIs(t, err, fs.ErrNotExist)
	left, err := os.ReadDir(root + "/" + mine + "/files")
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestTheListHasAllPractices(t *testing.T) {
	d, root := opened(t)
	want := map[Key]int64{{mine, Upload, one}: 3, {mine, Whole, two}: 5, {theirs, Work, one + ".a1"}: 1}
	for k, n := range want {
		require.NoError(t, d.Put(ctx, k, strings.NewReader(strings.Repeat("x", int(n)))))
	}
	stale := root + "/" + mine + "/files/.new-1"
	require.NoError(t, os.WriteFile(stale, []byte("half"), 0o600))
	got := map[Key]int64{}
	list := func() { require.NoError(t, d.List(func(e Entry) error { got[e.Key] = e.Size; return nil })) }
	list()
	assert.Equal(t, want, got)
	require.FileExists(t, stale, "someone may be writing it")
	old := time.Now().Add(-2 * time.Hour)
	require.NoError(t, os.Chtimes(stale, old, old))
	list()
	assert.NoFileExists(t, stale)
}

func TestNamesStayInTheFolder(t *testing.T) {
	d, _ := opened(t)
	for _, name := range []string{"", "../../etc/passwd", "a/b", strings.Repeat("g", 40), one + ".mp4", one + "\x00"} {
		_, err := d.Append(ctx, Key{mine, Upload, name}, 0, 5, strings.NewReader("x"))
		require.Error(t, err, name)
		_, err = d.Path(Key{name, Whole, one})
		require.Error(t, err, name)
	}
	_, err := d.Path(Key{mine, "secrets", one})
	require.Error(t, err)
	_, err = d.Path(Key{mine, Work, one + "./../x"})
	require.Error(t, err)
	require.NoError(t, d.Delete(Key{mine, Upload, one}), "nothing to delete")
}
