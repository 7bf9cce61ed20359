package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"filippo.io/age"

	"notchback/internal/keep"
	"notchback/store"
)

func installation() (keep.Source, error) {
	owner, err := setting("NOTCHBACK_OWNER_URL")
	return keep.Source{Owner: owner, Clips: os.Getenv("NOTCHBACK_CLIPS")}, err
}

// readers are whom backups are sealed for.
func readers() ([]age.Recipient, error) {
	var out []age.Recipient
	for s := range strings.SplitSeq(os.Getenv("NOTCHBACK_BACKUP_TO"), ",") {
		if s = strings.TrimSpace(s); s == "" {
			continue
		}
		r, err := age.ParseX25519Recipient(s)
		if err != nil {
			return nil, fmt.Errorf("NOTCHBACK_BACKUP_TO %q: expected age1…, as the command backup-key prints it", s)
		}
		out = append(out, r)
	}
	if len(out) == 0 {
		return nil, errors.New("NOTCHBACK_BACKUP_TO is not set: make a key with the command backup-key, keep it elsewhere, and set what it prints")
	}
	return out, nil
}

func keys() ([]age.Identity, error) {
	path, err := setting("NOTCHBACK_BACKUP_KEY")
	if err != nil {
		return nil, errors.New("NOTCHBACK_BACKUP_KEY is not set: name the file that the command backup-key made")
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	return age.ParseIdentities(f)
}

// sealed opens a sealed file, with the keys to read it.
func sealed(path string) (*os.File, []age.Identity, error) {
	k, err := keys()
	if err != nil {
		return nil, nil, err
	}
	f, err := os.Open(path)
	return f, k, err
}

// backupKey makes a key: the file opens backups, what is printed seals them.
func backupKey(args []string) error {
	if len(args) != 1 {
		return errors.New("name the file for the key")
	}
	k, err := age.GenerateX25519Identity()
	if err != nil {
		return err
	}
	f, err := os.OpenFile(args[0], os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(f, "# opens the backups of Notchback; whoever has it can read them, without it nobody can\n%s\n", k)
	if err = errors.Join(err, f.Close()); err != nil {
		return err
	}
	fmt.Printf("NOTCHBACK_BACKUP_TO=%s\n", k.Recipient())
	return nil
}

func backup(ctx context.Context, args []string) error {
	rotate := len(args) == 1 && args[0] == "--rotate"
	switch {
	case len(args) == 2 && args[0] == "--check":
		return checkBackup(ctx, args[1])
	case len(args) > 1 || len(args) == 1 && !rotate && strings.HasPrefix(args[0], "-"):
		return errors.New("usage: notchback backup [FILE | --rotate | --check FILE]")
	}
	s, err := installation()
	if err != nil {
		return err
	}
	to, err := readers()
	if err != nil {
		return err
	}
	path := ""
	if len(args) == 1 && !rotate {
		path = args[0]
	} else {
		dir, err := setting("NOTCHBACK_BACKUP_DIR")
		if err != nil {
			return errors.New("NOTCHBACK_BACKUP_DIR is not set: name a folder for backups, or a file")
		}
		if err := os.MkdirAll(dir, 0o700); err != nil {
			return err
		}
		path = filepath.Join(dir, keep.Name(time.Now()))
	}
	start := time.Now()
	m, err := keep.Create(ctx, s, path, to...)
	if err != nil {
		return err
	}
	i, err := os.Stat(path)
	if err != nil {
		return err
	}
	fmt.Printf("%s: %d rows, %d files, %.1f MB, in %s\n", path, m.Rows(), m.Files, float64(i.Size())/1e6, time.Since(start).Round(time.Millisecond))
	for _, f := range m.Missing {
		fmt.Printf("  not there: the file %s of a clip\n", f)
	}
	if rotate {
		went, err := keep.Rotate(filepath.Dir(path))
		if err != nil {
			return err
		}
		fmt.Printf("%d older backups deleted\n", len(went))
	}
	return nil
}

func checkBackup(ctx context.Context, path string) error {
	f, k, err := sealed(path)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	start := time.Now()
	m, err := keep.Check(ctx, f, k...)
	if err != nil {
		return err
	}
	fmt.Printf("%s is whole: of %s, %d rows and %d files came back as they were, in %s\n", path, m.At.Format(time.RFC3339), m.Rows(), m.Files, time.Since(start).Round(time.Millisecond))
	return nil
}

func restore(ctx context.Context, args []string) error {
	if len(args) != 2 || args[0] != "--replace" {
		return errors.New("usage: notchback restore --replace FILE; what is in the database now is replaced by the backup")
	}
	s, err := installation()
	if err != nil {
		return err
	}
	f, k, err := sealed(args[1])
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	m, again, err := keep.Restore(ctx, s, f, k...)
	if err != nil {
		return err
	}
	fmt.Printf("as of %s: %d rows and %d files are back; everybody signs in anew\n", m.At.Format(time.RFC3339), m.Rows(), m.Files)
	if again > 0 {
		fmt.Printf("%d deleted runners stayed deleted\n", again)
	}
	return nil
}

// migrate brings the database to the newest version, after a backup where there is anything
// to lose.
func migrate(ctx context.Context) error {
	s, err := installation()
	if err != nil {
		return err
	}
	have, full, err := store.Stands(ctx, s.Owner)
	if err != nil {
		return err
	}
	newest, err := store.Newest()
	if err != nil {
		return err
	}
	switch {
	case have == newest:
		return nil
	case have > newest:
		return fmt.Errorf("%w: %d, and this program knows %d; take the newer edition again, nothing was changed", store.ErrSchema, have, newest)
	}
	if full {
		if os.Getenv("NOTCHBACK_BACKUP_TO") == "" || os.Getenv("NOTCHBACK_BACKUP_DIR") == "" {
			fmt.Fprintln(os.Stderr, "No backup is made before this upgrade: NOTCHBACK_BACKUP_DIR and NOTCHBACK_BACKUP_TO are not set.")
		} else if err := backup(ctx, nil); err != nil {
			return fmt.Errorf("the upgrade was not begun, for want of a backup: %w", err)
		}
	}
	_, err = store.Migrate(ctx, s.Owner)
	return err
}

// resetPassword prints a link by which somebody sets a new password.
func resetPassword(ctx context.Context, args []string) error {
	f := flag.NewFlagSet("reset-password", flag.ContinueOnError)
	second := f.Bool("second-off", false, "take the second device off as well")
	if err := f.Parse(args); err != nil {
		return err
	}
	if f.NArg() != 1 {
		return errors.New("usage: notchback reset-password [-second-off] E-MAIL")
	}
	a, end, err := open(ctx)
	if err != nil {
		return err
	}
	defer end()
	l, err := a.ResetFor(ctx, f.Arg(0), *second)
	if errors.Is(err, store.ErrNotFound) {
		return errors.New("nobody signs in with this address")
	}
	if err != nil {
		return err
	}
	at := os.Getenv("NOTCHBACK_PUBLIC_URL")
	if at == "" {
		at = "http://" + os.Getenv("NOTCHBACK_ADDR")
	}
	fmt.Printf("Open this once, until %s:\n  %s/join#%s\n", l.Until.Format("2 January 15:04"), strings.TrimRight(at, "/"), l.Token)
	return nil
}
