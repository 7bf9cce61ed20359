package main

import (
	"net"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a command can't do it says in one line, naming what to set.
func TestCommandsSayWhatTheyNeed(t *testing.T) {
	for _, name := range []string{"NOTCHBACK_DATABASE_URL", "NOTCHBACK_OWNER_URL", "NOTCHBACK_CLIPS"} {
		t.Setenv(name, "")
	}
	t.Setenv("NOTCHBACK_ADDR", "127.0.0.1:0")
	for words, c := range map[string][]string{
		"no command \"fly\"":       {"fly"},
		"NOTCHBACK_OWNER_URL":      {"migrate"},
		"NOTCHBACK_DATABASE_URL":   {"review"},
		"name the folder to drop":  {"watch-folder"},
		"not a number of weeks":    {"watch-folder", t.TempDir(), "ninety"},
		"from 1 to 60":             {"watch-folder", t.TempDir(), "61"},
		"name the folder to put":   {"side-camera"},
		"not one of the demo clip": {"side-camera", t.TempDir(), "moon"},
	} {
		err := run(c[0], c[1:], nil)
		require.Error(t, err, "%v", c)
		assert.ErrorContains(t, err, words, "%v", c)
	}
	require.ErrorContains(t, run("serve", nil, nil), "NOTCHBACK_DATABASE_URL")
}

func TestTheWatchsFolderIsFilled(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, run("watch-folder", []string{dir, "2"}, nil))
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(list), 4)
	dir = t.TempDir()
	require.NoError(t, run("watch-folder", []string{dir, "dialects"}, nil))
	truth, err := os.ReadFile(filepath.Join(dir, "truth.csv"))
	require.NoError(t, err)
	list, err = os.ReadDir(dir)
	require.NoError(t, err)
	assert.Greater(t, len(list), 50)
	for _, f := range list {
		if f.Name() != "truth.csv" {
			assert.Contains(t, string(truth), f.Name())
		}
	}
}

func TestATakenAddressIsSaidBeforeAnythingSlow(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	t.Setenv("NOTCHBACK_ADDR", l.Addr().String())
	_, err = listen()
	require.ErrorContains(t, err, "is taken by another program")
	t.Setenv("NOTCHBACK_ADDR", "no such place")
	_, err = listen()
	require.ErrorContains(t, err, "NOTCHBACK_ADDR")
}

func TestClipsNeedAFolderThatCanBeMade(t *testing.T) {
	t.Setenv("NOTCHBACK_CLIPS", "")
	opts, err := clipFolder()
	require.NoError(t, err)
	assert.Empty(t, opts)
	t.Setenv("NOTCHBACK_CLIPS", t.TempDir()+"/clips")
	opts, err = clipFolder()
	require.NoError(t, err)
	assert.Len(t, opts, 1)
	file := t.TempDir() + "/file"
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	t.Setenv("NOTCHBACK_CLIPS", file+"/under")
	_, err = clipFolder()
	require.ErrorContains(t, err, "folder for clips")
}
