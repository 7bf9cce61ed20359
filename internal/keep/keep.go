// Package keep makes backups of an installation and brings them back: the database as of
// one moment and the files of clips, encrypted for a key that need not lie on the server.
//
// A backup is an age file around a tar: manifest.json with a digest of every table,
// database.dump as pg_dump writes it, clips/…, and end.json with a digest of every entry.
// age tells a file that was cut off or changed from a whole one.
package keep

import (
	"archive/tar"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"filippo.io/age"
	"github.com/jackc/pgx/v5"
)

const (
	format   = "notchback-backup"
	version  = 1
	manifest = "manifest.json"
	dumpName = "database.dump"
	endName  = "end.json"
	clipDir  = "clips/"
)

// notKept are tables whose rows are worth nothing later: who was signed in.
var notKept = []string{"sessions", "sign_in_failures"}

// Table is what a table held: how many rows, and a digest of all of them in whatever order.
type Table struct {
	Rows   int64  `json:"rows"`
	Digest string `json:"digest"`
}

// Manifest says what a backup is of.
type Manifest struct {
	Format  string           `json:"format"`
	Version int              `json:"version"`
	At      time.Time        `json:"at"`
	Schema  int64            `json:"schema"`
	Tables  map[string]Table `json:"tables"`
	// Of a practice by itself: which, and what stands in the columns of each table.
	Practice *Practice           `json:"practice,omitempty"`
	Columns  map[string][]string `json:"columns,omitempty"`
}

// Practice is one of an installation.
type Practice struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Entry is a file of a backup.
type Entry struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	Sha256 string `json:"sha256"`
}

// End closes a backup.
type End struct {
	Entries []Entry  `json:"entries"`
	Missing []string `json:"missing,omitempty"` // files of clips that were not there
}

// Made is what was written or read.
type Made struct {
	Manifest
	Files   int
	Bytes   int64 // of the files and the database, before encryption
	Missing []string
}

// Rows counts the rows of all tables.
func (m Manifest) Rows() (n int64) {
	for _, t := range m.Tables {
		n += t.Rows
	}
	return n
}

// Source is an installation.
type Source struct {
	Owner string // the database, as its owner
	Clips string // the folder of clips; "" for none
}

// tool finds a program of PostgreSQL, of the newest version installed.
func tool(name string) (string, error) {
	dirs, _ := filepath.Glob("/usr/lib/postgresql/*/bin")
	slices.SortFunc(dirs, func(a, b string) int {
		n := func(s string) int { v, _ := strconv.Atoi(filepath.Base(filepath.Dir(s))); return v }
		return n(b) - n(a)
	})
	for _, d := range dirs {
		p := filepath.Join(d, name)
		if _, err := os.Stat(p); err == nil {
			return p, nil
		}
	}
	p, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is missing: install Debian's packages postgresql and postgresql-client", name)
	}
	return p, nil
}

// address splits a database's address into what may stand in an argument and the password,
// which other users of the machine must not see.
func address(url string) (string, []string, error) {
	c, err := pgx.ParseConfig(url)
	if err != nil {
		return "", nil, errors.New("the database's address can't be read")
	}
	out := fmt.Sprintf("host=%s port=%d user=%s dbname=%s", c.Host, c.Port, c.User, c.Database)
	env := []string{"PATH=/usr/bin:/bin", "LANG=C.UTF-8", "PGPASSWORD=" + c.Password}
	if c.TLSConfig == nil {
		env = append(env, "PGSSLMODE=disable")
	}
	return out, env, nil
}

var plainName = regexp.MustCompile(`^[a-z_]+$`)

// digests reads what every table holds.
func digests(ctx context.Context, tx pgx.Tx) (map[string]Table, error) {
	return digestsOf(ctx, tx, func(table string) string { return table })
}

// digestsOf reads what every table holds of what is chosen from it; "" leaves it out.
func digestsOf(ctx context.Context, tx pgx.Tx, from func(table string) string) (map[string]Table, error) {
	rows, err := tx.Query(ctx, `SELECT relname::text FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace AND relname <> ALL($1) ORDER BY 1`, notKept)
	if err != nil {
		return nil, err
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	if _, err := tx.Exec(ctx, `SET LOCAL timezone = 'UTC'; SET LOCAL datestyle = 'ISO'; SET LOCAL extra_float_digits = 1; SET LOCAL bytea_output = 'hex'`); err != nil {
		return nil, err
	}
	out := map[string]Table{}
	for _, n := range names {
		if !plainName.MatchString(n) {
			return nil, fmt.Errorf("table %q has a name nobody gave it", n)
		}
		chosen := from(n)
		if chosen == "" {
			continue
		}
		var t Table
		err := tx.QueryRow(ctx, `SELECT count(*), coalesce(md5(string_agg(h, '' ORDER BY h)), '') FROM (SELECT md5(t::text) AS h FROM `+chosen+` t) x`).Scan(&t.Rows, &t.Digest)
		if err != nil {
			return nil, fmt.Errorf("table %s: %w", n, err)
		}
		out[n] = t
	}
	return out, nil
}

// clipFiles lists the files that clips are made of, as paths within the folder of clips; of
// one practice, or with "" of all.
func clipFiles(ctx context.Context, tx pgx.Tx, practice string) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT DISTINCT practice_id::text || '/files/' || hash FROM clips WHERE state = 'ready' AND hash <> '' AND ($1 = '' OR practice_id::text = $1) ORDER BY 1`, practice)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// writer puts entries into a tar and notes their digests.
type writer struct {
	t   *tar.Writer
	end End
	n   int64
}

func (w *writer) put(name string, size int64, r io.Reader) error {
	if err := w.t.WriteHeader(&tar.Header{Name: name, Size: size, Mode: 0o600}); err != nil {
		return err
	}
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(w.t, h), r)
	w.n += n
	w.end.Entries = append(w.end.Entries, Entry{name, n, hex.EncodeToString(h.Sum(nil))})
	return err
}

func (w *writer) json(name string, v any) error {
	raw, err := json.MarshalIndent(v, "", " ")
	if err != nil {
		return err
	}
	return w.put(name, int64(len(raw)), strings.NewReader(string(raw)))
}

func (w *writer) file(name, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	i, err := f.Stat()
	if err != nil {
		return err
	}
	return w.put(name, i.Size(), f)
}

// Backup writes a backup of an installation, which may be at work meanwhile: all of it is
// as of one moment.
func Backup(ctx context.Context, s Source, to io.Writer, readers ...age.Recipient) (Made, error) {
	m := Made{Manifest: Manifest{Format: format, Version: version, At: time.Now().UTC().Truncate(time.Second)}}
	dump, err := tool("pg_dump")
	if err != nil {
		return m, err
	}
	c, err := pgx.Connect(ctx, s.Owner)
	if err != nil {
		return m, fmt.Errorf("database: %w", err)
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	tx, err := c.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return m, err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	var snapshot string
	if err := tx.QueryRow(ctx, `SELECT pg_export_snapshot(), schema_version()`).Scan(&snapshot, &m.Schema); err != nil {
		return m, err
	}
	if m.Tables, err = digests(ctx, tx); err != nil {
		return m, err
	}
	files, err := clipFiles(ctx, tx, "")
	if err != nil {
		return m, err
	}
	tmp, err := os.MkdirTemp("", "notchback-backup-")
	if err != nil {
		return m, err
	}
	defer func() { _ = os.RemoveAll(tmp) }()
	at, env, err := address(s.Owner)
	if err != nil {
		return m, err
	}
	args := []string{"--format=custom", "--no-owner", "--snapshot=" + snapshot, "--file=" + filepath.Join(tmp, dumpName), "--dbname=" + at}
	for _, t := range notKept {
		args = append(args, "--exclude-table-data="+t)
	}
	if err := run(ctx, env, nil, dump, args...); err != nil {
		return m, err
	}

	sealed, err := age.Encrypt(to, readers...)
	if err != nil {
		return m, err
	}
	w := &writer{t: tar.NewWriter(sealed)}
	if err := w.json(manifest, m.Manifest); err != nil {
		return m, err
	}
	if err := w.file(dumpName, filepath.Join(tmp, dumpName)); err != nil {
		return m, err
	}
	return m, errors.Join(w.close(&m, s.Clips, files), sealed.Close())
}

// close puts the files of clips in, and the end.
func (w *writer) close(m *Made, clips string, files []string) error {
	for _, f := range files {
		if clips == "" {
			w.end.Missing = append(w.end.Missing, f)
			continue
		}
		err := w.file(clipDir+f, filepath.Join(clips, filepath.FromSlash(f)))
		if errors.Is(err, os.ErrNotExist) { // deleted since, or lost
			w.end.Missing = append(w.end.Missing, f)
			continue
		}
		if err != nil {
			return err
		}
		m.Files++
	}
	if err := w.json(endName, w.end); err != nil {
		return err
	}
	m.Bytes, m.Missing = w.n, w.end.Missing
	return w.t.Close()
}

// run runs a program and returns what it complained of.
func run(ctx context.Context, env []string, in io.Reader, name string, args ...string) error {
	cmd := exec.CommandContext(ctx, name, args...)
	cmd.Env, cmd.Stdin = env, in
	out, err := cmd.CombinedOutput()
	if err != nil {
		text := strings.TrimSpace(string(out))
		return fmt.Errorf("%s: %w: %s", filepath.Base(name), err, text[:min(len(text), 600)])
	}
	return nil
}

// Create writes a backup into a new file: all of it, or no file.
func Create(ctx context.Context, s Source, path string, readers ...age.Recipient) (Made, error) {
	return whole(path, func(f io.Writer) (Made, error) { return Backup(ctx, s, f, readers...) })
}

// whole writes a new file: all of it, or none.
func whole(path string, write func(io.Writer) (Made, error)) (m Made, err error) {
	part := path + ".part"
	f, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return m, err
	}
	defer func() {
		if err != nil {
			_ = os.Remove(part)
		}
	}()
	m, err = write(f)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return m, err
	}
	return m, os.Rename(part, path)
}
