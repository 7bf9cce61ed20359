package main

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/internal/demotest"
	"notchback/store"
	"notchback/store/storetest"
)

// fresh forgets all settings for a test, and what it sets itself.
func fresh(t *testing.T) {
	t.Helper()
	for _, k := range knobs {
		t.Setenv(envStart+k.name, "")
	}
	t.Setenv("NOTCHBACK_CONFIG", "")
}

// A flag goes before the environment, that before the file, that before what is usual; a
// setting nobody knows is refused by name, and passwords are not printed.
func TestSettingsComeFromFlagEnvironmentAndFile(t *testing.T) {
	fresh(t)
	file := filepath.Join(t.TempDir(), "n.conf")
	require.NoError(t, os.WriteFile(file, []byte("# how it is run\nNOTCHBACK_ADDR=127.0.0.1:1\nNOTCHBACK_LOG=\"info\"\nNOTCHBACK_CLIPS=/srv/clips\nNOTCHBACK_DATABASE_URL=postgres://a:secret@b/c\n"), 0o600))
	t.Setenv("NOTCHBACK_LOG", "error")
	t.Setenv("NOTCHBACK_CLIPS", "/env/clips")
	rest, from, err := configure([]string{"--config=" + file, "backup.age", "--clips=/flag/clips", "--rotate"})
	require.NoError(t, err)
	assert.Equal(t, []string{"backup.age", "--rotate"}, rest)
	assert.Equal(t, sources{"ADDR": file, "LOG": "environment", "CLIPS": "flag", "DATABASE_URL": file, "PLAIN_HTTP": "by default"}, from)
	assert.Equal(t, "127.0.0.1:1", os.Getenv("NOTCHBACK_ADDR"))
	var b bytes.Buffer
	printConfig(&b, from)
	for _, k := range knobs {
		assert.Contains(t, b.String(), envStart+k.name)
	}
	assert.Contains(t, b.String(), "NOTCHBACK_CLIPS=/flag/clips  # flag")
	assert.NotContains(t, b.String(), "secret")
	require.NoError(t, os.WriteFile(file, []byte("NOTCHBACK_ADRR=x\n"), 0o600))
	_, _, err = configure([]string{"--config=" + file})
	assert.ErrorContains(t, err, "no setting NOTCHBACK_ADRR")
	_, _, err = configure([]string{"--config=/nowhere/n.conf"})
	assert.ErrorContains(t, err, "/nowhere/n.conf")
}

// The commands of somebody who runs a server: what the doctor says, a key, a backup, its
// check, a restore, a password.
func TestAServerIsLookedAfter(t *testing.T) {
	ctx := context.Background()
	u := demotest.Seeded(t)
	fresh(t)
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o700))
	require.ErrorContains(t, run("doctor", nil, nil), "not well")
	set := map[string]string{"DATABASE_URL": u.App, "OWNER_URL": u.Owner, "CLIPS": filepath.Join(dir, "clips"), "ADDR": "127.0.0.1:0", "BACKUP_DIR": filepath.Join(dir, "backups"), "BACKUP_KEY": filepath.Join(dir, "key")}
	for k, v := range set {
		t.Setenv(envStart+k, v)
	}
	require.NoError(t, os.MkdirAll(set["CLIPS"], 0o700))
	assert.ErrorContains(t, run("backup", nil, nil), "backup-key")
	said := spoken(t, func() { require.NoError(t, run("backup-key", []string{set["BACKUP_KEY"]}, nil)) })
	assert.ErrorContains(t, run("backup-key", []string{set["BACKUP_KEY"]}, nil), "exists", "a key is never written over")
	t.Setenv("NOTCHBACK_BACKUP_TO", strings.TrimSpace(strings.TrimPrefix(said, "NOTCHBACK_BACKUP_TO=")))
	for _, f := range look(ctx) {
		switch {
		case strings.HasPrefix(f.what, "backups"):
			assert.ErrorContains(t, f.err, "no such file", "none yet")
		case strings.HasPrefix(f.what, "the "):
			assert.NoError(t, f.err, "the database, its owner, the folder of clips, the address")
		}
	}
	require.NoError(t, run("backup", []string{"--rotate"}, nil))
	for _, f := range look(ctx) {
		if f.err != nil && !strings.HasPrefix(f.what, "ff") {
			assert.NoError(t, f.err, f.what)
		}
	}
	files, err := filepath.Glob(filepath.Join(set["BACKUP_DIR"], "*.age"))
	require.NoError(t, err)
	require.Len(t, files, 1)
	said = spoken(t, func() { require.NoError(t, run("backup", []string{"--check", files[0]}, nil)) })
	assert.Contains(t, said, "is whole")
	assert.Error(t, run("restore", []string{files[0]}, nil), "not without saying so")
	require.NoError(t, run("restore", []string{"--replace", files[0]}, nil))

	club := filepath.Join(t.TempDir(), "club.age")
	said = spoken(t, func() { assert.ErrorContains(t, run("export-practice", []string{club}, nil), "which practice?") })
	assert.Contains(t, said, "Morrow Island Harriers")
	assert.ErrorContains(t, run("export-practice", []string{club, "Nobody's"}, nil), "no such practice")
	said = spoken(t, func() {
		require.NoError(t, run("export-practice", []string{club, "Morrow Island Harriers"}, nil))
	})
	assert.Contains(t, said, "rows")
	assert.Error(t, run("import-practice", nil, nil))
	assert.ErrorContains(t, run("import-practice", []string{club}, nil), "here already")
	assert.ErrorContains(t, run("import-practice", []string{files[0]}, nil), "no backup")

	said = spoken(t, func() { require.NoError(t, run("reset-password", []string{demo.Email}, nil)) })
	assert.Regexp(t, `http://127\.0\.0\.1:0/join#[A-Z2-7]{26}`, said)
	assert.ErrorContains(t, run("reset-password", []string{"nobody@harriers.example"}, nil), "nobody signs in")
	require.NoError(t, run("migrate", nil, nil), "nothing to do")
}

// An upgrade of a practice that is not empty makes a backup first, and is not begun without
// one that was asked for; an older program leaves a newer database alone.
func TestAnUpgradeMakesABackupFirst(t *testing.T) {
	ctx := context.Background()
	u := storetest.Fresh(t)
	sql := func(text string) {
		o, err := store.Open(ctx, u.Owner)
		require.NoError(t, err)
		defer o.Close()
		_, err = o.Pool().Exec(ctx, text)
		require.NoError(t, err)
	}
	sql(`DROP SCHEMA public CASCADE; CREATE SCHEMA public; GRANT USAGE ON SCHEMA public TO PUBLIC`)
	require.NoError(t, store.MigrateTo(ctx, u.Owner, 22))
	sql(`INSERT INTO practices (name, zone) VALUES ('P', 'UTC')`)
	fresh(t)
	dir := t.TempDir()
	t.Setenv("NOTCHBACK_OWNER_URL", u.Owner)
	t.Setenv("NOTCHBACK_BACKUP_DIR", dir)
	t.Setenv("NOTCHBACK_BACKUP_TO", "age1not-a-key")
	assert.ErrorContains(t, run("migrate", nil, nil), "was not begun")
	have, full, err := store.Stands(ctx, u.Owner)
	require.NoError(t, err)
	assert.Equal(t, int64(22), have)
	assert.True(t, full)
	said := spoken(t, func() { require.NoError(t, run("backup-key", []string{filepath.Join(dir, "key")}, nil)) })
	t.Setenv("NOTCHBACK_BACKUP_TO", strings.TrimSpace(strings.TrimPrefix(said, "NOTCHBACK_BACKUP_TO=")))
	require.NoError(t, run("migrate", nil, nil))
	files, err := filepath.Glob(filepath.Join(dir, "*.age"))
	require.NoError(t, err)
	require.Len(t, files, 1)
	// That backup, of the older edition, comes back and is brought up to date.
	t.Setenv("NOTCHBACK_BACKUP_KEY", filepath.Join(dir, "key"))
	require.NoError(t, run("restore", []string{"--replace", files[0]}, nil))
	newest, err := store.Newest()
	require.NoError(t, err)
	have, full, err = store.Stands(ctx, u.Owner)
	require.NoError(t, err)
	assert.Equal(t, newest, have)
	assert.True(t, full)

	sql(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)`)
	assert.ErrorIs(t, run("migrate", nil, nil), store.ErrSchema)
}

// spoken is what a command prints.
func spoken(t *testing.T, fn func()) string {
	t.Helper()
	was := os.Stdout
	r, w, err := os.Pipe()
	require.NoError(t, err)
	os.Stdout = w
	defer func() { os.Stdout = was }()
	fn()
	require.NoError(t, w.Close())
	var b bytes.Buffer
	_, err = b.ReadFrom(r)
	require.NoError(t, err)
	return b.String()
}
