package keep

import (
	"archive/tar"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"filippo.io/age"
	"github.com/jackc/pgx/v5"

	"notchback/store"
)

// ErrBackup says that a file is no whole backup, or not one for this key or program.
var ErrBackup = errors.New("this is no backup that can be brought back")

// ErrRunning says that somebody is at work in the database.
var ErrRunning = errors.New("a server is at work in this database: stop it first")

var clipPath = regexp.MustCompile(`^clips/[0-9a-f-]{36}/files/[0-9A-Za-z._-]{1,128}$`)

var dumpPath = regexp.MustCompile("^" + regexp.QuoteMeta(dumpName) + "$")

// opened is a backup that was read to its end and found whole.
type opened struct {
	Made
	dir   string // where its parts lie; removed by close
	files []string
}

func (o *opened) close() { _ = os.RemoveAll(o.dir) }

// open reads a backup whole into a folder of its own and checks every digest, before
// anything is done with it.
func open(in io.Reader, beside string, keys ...age.Identity) (*opened, error) {
	return openAs(format, dumpPath, in, beside, keys...)
}

// openAs is open for a file of some format, whose parts beside clips have such names.
func openAs(kind string, part *regexp.Regexp, in io.Reader, beside string, keys ...age.Identity) (o *opened, err error) {
	plain, err := age.Decrypt(in, keys...)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBackup, err)
	}
	dir, err := os.MkdirTemp(beside, ".notchback-restore-")
	if err != nil {
		return nil, err
	}
	o = &opened{dir: dir}
	defer func() {
		if err != nil {
			_ = os.RemoveAll(dir)
		}
	}()
	t := tar.NewReader(plain)
	var end *End
	var seen []Entry
	for {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrBackup, err)
		}
		if end != nil {
			return nil, fmt.Errorf("%w: something comes after its end", ErrBackup)
		}
		switch {
		case h.Name == endName:
			end = &End{}
			if err := json.NewDecoder(t).Decode(end); err != nil {
				return nil, fmt.Errorf("%w: %w", ErrBackup, err)
			}
			continue
		case h.Name != manifest && !part.MatchString(h.Name) && !clipPath.MatchString(h.Name):
			return nil, fmt.Errorf("%w: %q does not belong in it", ErrBackup, h.Name)
		}
		e, err := o.take(h.Name, t)
		if err != nil {
			return nil, err
		}
		seen = append(seen, e)
	}
	// What follows the tar is read too: age says at the very end whether it is whole.
	if _, err := io.Copy(io.Discard, plain); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBackup, err)
	}
	if end == nil || !slices.Equal(end.Entries, seen) {
		return nil, fmt.Errorf("%w: it was cut off, or its parts are not what its end says", ErrBackup)
	}
	o.Missing = end.Missing
	raw, err := os.ReadFile(filepath.Join(dir, manifest))
	if err != nil {
		return nil, fmt.Errorf("%w: it says nothing of itself", ErrBackup)
	}
	if err := json.Unmarshal(raw, &o.Manifest); err != nil || o.Format != kind {
		return nil, fmt.Errorf("%w: it says nothing of itself that is known", ErrBackup)
	}
	newest, err := store.Newest()
	if err != nil {
		return nil, err
	}
	if o.Version > version || o.Schema > newest {
		return nil, fmt.Errorf("%w: it is of a newer edition (schema %d; this program knows %d): take that edition", ErrBackup, o.Schema, newest)
	}
	return o, nil
}

// take writes an entry into the folder.
func (o *opened) take(name string, r io.Reader) (Entry, error) {
	path := filepath.Join(o.dir, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return Entry{}, err
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return Entry{}, err
	}
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(f, h), r)
	o.Bytes += n
	if strings.HasPrefix(name, clipDir) {
		o.Files++
		o.files = append(o.files, strings.TrimPrefix(name, clipDir))
	}
	if err = errors.Join(err, f.Close()); err != nil {
		return Entry{}, fmt.Errorf("%w: %w", ErrBackup, err)
	}
	return Entry{name, n, hex.EncodeToString(h.Sum(nil))}, nil
}

// same compares what a database holds with what a backup says it held.
func (o *opened) same(ctx context.Context, url string) error {
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	return pgx.BeginFunc(ctx, c, func(tx pgx.Tx) error {
		now, err := digests(ctx, tx)
		if err != nil {
			return err
		}
		for _, n := range slices.Sorted(maps.Keys(o.Tables)) {
			if now[n] != o.Tables[n] {
				return fmt.Errorf("%w: table %s came back with %d rows of %d, or others", ErrBackup, n, now[n].Rows, o.Tables[n].Rows)
			}
		}
		return nil
	})
}

// Check reads a backup whole, brings it back into a scratch cluster and compares every
// table. Nothing else is touched.
func Check(ctx context.Context, in io.Reader, keys ...age.Identity) (Made, error) {
	o, err := open(in, "", keys...)
	if err != nil {
		return Made{}, err
	}
	defer o.close()
	s, err := newScratch(ctx)
	if err != nil {
		return o.Made, err
	}
	defer s.stop()
	if err := o.load(ctx, s.owner, nil); err != nil {
		return o.Made, err
	}
	return o.Made, o.same(ctx, s.owner)
}

// gone is a runner who was deleted.
type gone struct {
	Practice string  `db:"practice_id"`
	ID       string  `db:"id"`
	At       string  `db:"at"`
	By       *string `db:"by_user"`
	Why      string  `db:"why"`
}

// goneBefore are the runners a database knows to be deleted; none where it knows of no such
// thing, or is empty.
func goneBefore(ctx context.Context, c *pgx.Conn) ([]gone, error) {
	var there bool
	if err := c.QueryRow(ctx, `SELECT to_regclass('public.gone_runners') IS NOT NULL`).Scan(&there); err != nil || !there {
		return nil, err
	}
	rows, err := c.Query(ctx, `SELECT practice_id, id, at::text, by_user, why FROM gone_runners`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByName[gone])
}

// load replaces a database by a backup's in one transaction: all of it or nothing. Who was
// deleted since the backup was made is deleted again in the same transaction.
func (o *opened) load(ctx context.Context, url string, dead []gone) error {
	restore, err := tool("pg_restore")
	if err != nil {
		return err
	}
	psql, err := tool("psql")
	if err != nil {
		return err
	}
	at, env, err := address(url)
	if err != nil {
		return err
	}
	script := filepath.Join(o.dir, "script.sql")
	if err := run(ctx, env, nil, restore, "--no-owner", "--file="+script, filepath.Join(o.dir, dumpName)); err != nil {
		return fmt.Errorf("%w: %w", ErrBackup, err)
	}
	f, err := os.Open(script)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	var again bytes.Buffer
	again.WriteString("\nSET search_path = public;\n")
	for _, g := range dead {
		by := "NULL"
		if g.By != nil {
			by = "'" + *g.By + "'"
		}
		fmt.Fprintf(&again, "SELECT set_config('notchback.practice', '%s', true); SELECT delete_runner('%s');\n", g.Practice, g.ID)
		fmt.Fprintf(&again, "INSERT INTO gone_runners (practice_id, id, at, by_user, why) VALUES ('%s', '%s', '%s', %s, '%s') ON CONFLICT DO NOTHING;\n", g.Practice, g.ID, g.At, by, g.Why)
	}
	in := io.MultiReader(strings.NewReader("SET client_min_messages = error;\nDROP SCHEMA public CASCADE;\nCREATE SCHEMA public;\nGRANT USAGE ON SCHEMA public TO PUBLIC;\n"), f, &again)
	return run(ctx, env, in, psql, "-q", "-X", "-1", "-v", "ON_ERROR_STOP=1", "-o", os.DevNull, "-d", at)
}

// Restore brings a backup back: it is read whole and tried in a scratch cluster first, then
// the database is replaced in one transaction, or stays as it is. A backup of an older
// edition is brought up to date. Runners deleted since are deleted again.
func Restore(ctx context.Context, s Source, in io.Reader, keys ...age.Identity) (m Made, deleted int, err error) {
	beside := ""
	if s.Clips != "" {
		if err := os.MkdirAll(s.Clips, 0o700); err != nil {
			return m, 0, err
		}
		beside = s.Clips
	}
	o, err := open(in, beside, keys...)
	if err != nil {
		return m, 0, err
	}
	defer o.close()
	try, err := newScratch(ctx)
	if err != nil {
		return o.Made, 0, err
	}
	defer try.stop()
	if err := o.load(ctx, try.owner, nil); err != nil {
		return o.Made, 0, err
	}
	if err := o.same(ctx, try.owner); err != nil {
		return o.Made, 0, err
	}
	c, err := pgx.Connect(ctx, s.Owner)
	if err != nil {
		return o.Made, 0, fmt.Errorf("database: %w", err)
	}
	dead, err := func() ([]gone, error) {
		defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
		var busy int
		if err := c.QueryRow(ctx, `SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid() AND usename IS NOT NULL`).Scan(&busy); err != nil {
			return nil, err
		}
		if busy > 0 {
			return nil, ErrRunning
		}
		return goneBefore(ctx, c)
	}()
	if err != nil {
		return o.Made, 0, err
	}
	if err := o.load(ctx, s.Owner, dead); err != nil {
		return o.Made, 0, err
	}
	if _, err := store.Migrate(ctx, s.Owner); err != nil {
		return o.Made, len(dead), err
	}
	return o.Made, len(dead), o.place(ctx, s)
}

// place puts the files where clips that came back look for them, and no others.
func (o *opened) place(ctx context.Context, s Source) error {
	if s.Clips == "" {
		return nil
	}
	c, err := pgx.Connect(ctx, s.Owner)
	if err != nil {
		return err
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	return pgx.BeginFunc(ctx, c, func(tx pgx.Tx) error {
		_, err := o.placeNamed(ctx, tx, s.Clips, "")
		return err
	})
}

// placeNamed puts the files where the clips of a practice look for them, or with "" of all;
// it returns what it placed.
func (o *opened) placeNamed(ctx context.Context, tx pgx.Tx, clips, practice string) (placed []string, err error) {
	named, err := clipFiles(ctx, tx, practice)
	if err != nil {
		return nil, err
	}
	for _, f := range o.files {
		if !slices.Contains(named, f) {
			continue
		}
		to := filepath.Join(clips, filepath.FromSlash(f))
		if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
			return placed, err
		}
		if err := os.Rename(filepath.Join(o.dir, clipDir, filepath.FromSlash(f)), to); err != nil {
			return placed, err
		}
		placed = append(placed, to)
	}
	return placed, nil
}
