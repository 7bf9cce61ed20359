package keep

import (
	"archive/tar"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"filippo.io/age"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"notchback/store"
)

// ErrThere says that a practice can't come in for what is there already.
var ErrThere = errors.New("the practice can't come in")

const practiceFormat = "notchback-practice"

var tablePath = regexp.MustCompile(`^tables/[a-z_]+\.copy\.gz$`)

// staysBehind are tables of a practice that mean something only where they are: which
// browsers are signed in, and which programs come in there.
var staysBehind = []string{"user_devices", "program_keys"}

// Practices lists those of an installation.
func Practices(ctx context.Context, s Source) ([]Practice, error) {
	c, err := pgx.Connect(ctx, s.Owner)
	if err != nil {
		return nil, fmt.Errorf("database: %w", err)
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	rows, err := c.Query(ctx, `SELECT id::text, name FROM practices ORDER BY name, id`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Practice])
}

// table is one that holds something of a practice.
type table struct {
	name    string
	columns []string
	own     string // the column that says whose a row is
}

func (t table) list() string { return strings.Join(t.columns, ", ") }

// rows are a practice's rows of it, as a query. The id is a uuid of this database.
func (t table) rows(practice string) string {
	return fmt.Sprintf("SELECT %s FROM %s WHERE %s = '%s'", t.list(), t.name, t.own, practice)
}

// tablesOf are the tables that hold something of a practice, each after those it refers to.
func tablesOf(ctx context.Context, tx pgx.Tx) ([]table, error) {
	rows, err := tx.Query(ctx, `SELECT c.relname::text, array_agg(a.attname::text ORDER BY a.attnum)
		FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped AND a.attgenerated = ''
		WHERE c.relkind = 'r' AND c.relnamespace = 'public'::regnamespace GROUP BY c.relname ORDER BY 1`)
	if err != nil {
		return nil, err
	}
	left := map[string]table{}
	var name string
	var columns []string
	if _, err := pgx.ForEachRow(rows, []any{&name, &columns}, func() error {
		own := "practice_id"
		if name == "practices" {
			own = "id"
		}
		if !plainName.MatchString(name) || slices.ContainsFunc(columns, func(c string) bool { return !plainName.MatchString(c) }) {
			return fmt.Errorf("table %q has a name nobody gave it", name)
		}
		if slices.Contains(columns, own) && !slices.Contains(staysBehind, name) && !slices.Contains(notKept, name) {
			left[name] = table{name, slices.Clone(columns), own}
		}
		return nil
	}); err != nil {
		return nil, err
	}
	rows, err = tx.Query(ctx, `SELECT conrelid::regclass::text, confrelid::regclass::text FROM pg_constraint WHERE contype = 'f' AND conrelid <> confrelid`)
	if err != nil {
		return nil, err
	}
	needs := map[string][]string{}
	var of, on string
	if _, err := pgx.ForEachRow(rows, []any{&of, &on}, func() error { needs[of] = append(needs[of], on); return nil }); err != nil {
		return nil, err
	}
	var out []table
	for len(left) > 0 {
		before := len(left)
		for _, n := range slices.Sorted(maps.Keys(left)) {
			if !slices.ContainsFunc(needs[n], func(on string) bool { _, waits := left[on]; return waits }) {
				out = append(out, left[n])
				delete(left, n)
			}
		}
		if len(left) == before {
			return nil, errors.New("tables refer to each other in a circle: this program can't move a practice")
		}
	}
	return out, nil
}

// digestsOfPractice reads what the tables hold of a practice.
func digestsOfPractice(ctx context.Context, tx pgx.Tx, all []table, practice string) (map[string]Table, error) {
	return digestsOf(ctx, tx, func(name string) string {
		i := slices.IndexFunc(all, func(t table) bool { return t.name == name })
		if i < 0 {
			return ""
		}
		return "(" + all[i].rows(practice) + ")"
	})
}

// Export writes one practice, with its people, runners, records and clips, into a new file
// that another installation takes in; the installation may be at work meanwhile.
func Export(ctx context.Context, s Source, practice, path string, readers ...age.Recipient) (Made, error) {
	return whole(path, func(f io.Writer) (Made, error) { return export(ctx, s, practice, f, readers...) })
}

func export(ctx context.Context, s Source, practice string, to io.Writer, readers ...age.Recipient) (Made, error) {
	m := Made{Manifest: Manifest{Format: practiceFormat, Version: version, At: time.Now().UTC().Truncate(time.Second), Practice: &Practice{}, Columns: map[string][]string{}}}
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
	if err := tx.QueryRow(ctx, `SELECT id::text, name, schema_version() FROM practices WHERE id::text = $1`, practice).Scan(&m.Practice.ID, &m.Practice.Name, &m.Schema); err != nil {
		return m, fmt.Errorf("practice %s: %w", practice, err)
	}
	all, err := tablesOf(ctx, tx)
	if err != nil {
		return m, err
	}
	if m.Tables, err = digestsOfPractice(ctx, tx, all, m.Practice.ID); err != nil {
		return m, err
	}
	for _, t := range all {
		m.Columns[t.name] = t.columns
	}
	files, err := clipFiles(ctx, tx, m.Practice.ID)
	if err != nil {
		return m, err
	}
	tmp, err := os.MkdirTemp("", "notchback-practice-")
	if err != nil {
		return m, err
	}
	defer func() { _ = os.RemoveAll(tmp) }()
	sealed, err := age.Encrypt(to, readers...)
	if err != nil {
		return m, err
	}
	w := &writer{t: tar.NewWriter(sealed)}
	if err := w.json(manifest, m.Manifest); err != nil {
		return m, err
	}
	for _, t := range all {
		path := filepath.Join(tmp, t.name)
		if err := copyOut(ctx, tx, path, t.rows(m.Practice.ID)); err != nil {
			return m, fmt.Errorf("table %s: %w", t.name, err)
		}
		if err := w.file("tables/"+t.name+".copy.gz", path); err != nil {
			return m, err
		}
		if err := os.Remove(path); err != nil {
			return m, err
		}
	}
	return m, errors.Join(w.close(&m, s.Clips, files), sealed.Close())
}

func copyOut(ctx context.Context, tx pgx.Tx, path, query string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	z := gzip.NewWriter(f)
	_, err = tx.Conn().PgConn().CopyTo(ctx, z, "COPY ("+query+") TO STDOUT")
	return errors.Join(err, z.Close(), f.Close())
}

// Import takes a practice in that another installation wrote, all of it or nothing; the
// installation may be at work, and its own practices stay as they are.
func Import(ctx context.Context, s Source, in io.Reader, keys ...age.Identity) (Made, error) {
	if s.Clips != "" {
		if err := os.MkdirAll(s.Clips, 0o700); err != nil {
			return Made{}, err
		}
	}
	o, err := openAs(practiceFormat, tablePath, in, s.Clips, keys...)
	if err != nil {
		return Made{}, err
	}
	defer o.close()
	if o.Practice == nil || !uuid.MatchString(o.Practice.ID) {
		return o.Made, fmt.Errorf("%w: it does not say of which practice it is", ErrBackup)
	}
	if newest, err := store.Newest(); err != nil || o.Schema != newest {
		return o.Made, errors.Join(err, fmt.Errorf("%w: it was written by another edition (schema %d; this program knows %d): bring that installation to this edition and write it anew", ErrBackup, o.Schema, newest))
	}
	c, err := pgx.Connect(ctx, s.Owner)
	if err != nil {
		return o.Made, fmt.Errorf("database: %w", err)
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	var placed []string
	err = pgx.BeginFunc(ctx, c, func(tx pgx.Tx) (err error) {
		if err := o.comeIn(ctx, tx); err != nil {
			return err
		}
		if s.Clips != "" {
			placed, err = o.placeNamed(ctx, tx, s.Clips, o.Practice.ID)
		}
		return err
	})
	if err != nil {
		for _, p := range placed {
			err = errors.Join(err, os.Remove(p))
		}
	}
	return o.Made, err
}

var uuid = regexp.MustCompile(`^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$`)

// comeIn puts the rows in and compares them with what the file says they were.
func (o *opened) comeIn(ctx context.Context, tx pgx.Tx) error {
	var there bool
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtext('a practice comes in'))`); err != nil {
		return err
	}
	if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM practices WHERE id = $1::uuid)`, o.Practice.ID).Scan(&there); err != nil {
		return err
	}
	if there {
		return fmt.Errorf("%w: %s is here already", ErrThere, o.Practice.Name)
	}
	all, err := tablesOf(ctx, tx)
	if err != nil {
		return err
	}
	for _, t := range all {
		if !slices.Equal(o.Columns[t.name], t.columns) {
			return fmt.Errorf("%w: table %s is another there than here", ErrBackup, t.name)
		}
		f, err := os.Open(filepath.Join(o.dir, "tables", t.name+".copy.gz"))
		if err != nil {
			return fmt.Errorf("%w: table %s is not in it", ErrBackup, t.name)
		}
		var got pgconn.CommandTag
		z, err := gzip.NewReader(f)
		if err == nil {
			got, err = tx.Conn().PgConn().CopyFrom(ctx, z, fmt.Sprintf("COPY %s (%s) FROM STDIN", t.name, t.list()))
		}
		_ = f.Close()
		if bad := (*pgconn.PgError)(nil); errors.As(err, &bad) && bad.ConstraintName == "users_email" {
			return fmt.Errorf("%w: somebody signs in here with the same e-mail as somebody of %s; change one of the two first (%s)", ErrThere, o.Practice.Name, bad.Detail)
		}
		if err != nil {
			return fmt.Errorf("table %s: %w", t.name, err)
		}
		if got.RowsAffected() != o.Tables[t.name].Rows {
			return fmt.Errorf("%w: table %s holds %d rows, %d of them of this practice", ErrBackup, t.name, got.RowsAffected(), o.Tables[t.name].Rows)
		}
	}
	now, err := digestsOfPractice(ctx, tx, all, o.Practice.ID)
	if err != nil {
		return err
	}
	for _, n := range slices.Sorted(maps.Keys(o.Tables)) {
		if now[n] != o.Tables[n] {
			return fmt.Errorf("%w: table %s came in with %d rows of %d, or others", ErrBackup, n, now[n].Rows, o.Tables[n].Rows)
		}
	}
	return countOn(ctx, tx)
}

// countOn lets every number that is given out begin after the highest there is, so that
// what is written later comes later.
func countOn(ctx context.Context, tx pgx.Tx) error {
	rows, err := tx.Query(ctx, `SELECT s.relname::text, c.relname::text, a.attname::text FROM pg_depend d
		JOIN pg_class s ON s.oid = d.objid AND s.relkind = 'S' JOIN pg_class c ON c.oid = d.refobjid AND c.relkind = 'r' JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = d.refobjsubid
		WHERE d.deptype IN ('a', 'i') AND c.relname <> 'goose_db_version'
		UNION SELECT s.relname::text, c.relname::text, a.attname::text FROM pg_depend d
		JOIN pg_attrdef f ON f.oid = d.objid AND d.classid = 'pg_attrdef'::regclass JOIN pg_class s ON s.oid = d.refobjid AND s.relkind = 'S'
		JOIN pg_class c ON c.oid = f.adrelid JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = f.adnum
		WHERE c.relname <> 'goose_db_version' ORDER BY 1, 2, 3`)
	if err != nil {
		return err
	}
	type used struct{ Sequence, Table, Column string }
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[used])
	if err != nil {
		return err
	}
	for _, u := range all {
		if _, err := tx.Exec(ctx, fmt.Sprintf(`SELECT setval('%[1]s', GREATEST((SELECT last_value FROM %[1]s), (SELECT max(%[3]s) FROM %[2]s)))`, u.Sequence, u.Table, u.Column)); err != nil {
			return fmt.Errorf("sequence %s: %w", u.Sequence, err)
		}
	}
	return nil
}
