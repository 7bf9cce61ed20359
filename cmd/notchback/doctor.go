package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"

	"notchback/internal/keep"
	"notchback/store"
)

// Limits of what is well (house).
const (
	freeLeast  = 2 << 30 // bytes on a disk
	clockMost  = 5 * time.Second
	backupMost = 50 * time.Hour // since the newest: a night may fail
)

// finding is one thing the doctor looked at: what is, and what to do where it is not well.
type finding struct {
	what string
	err  error
	do   string
}

// doctor looks at everything the program needs and says what to do.
func doctor(ctx context.Context) error {
	bad := 0
	for _, f := range look(ctx) {
		if f.err == nil {
			fmt.Printf("  well      %s\n", f.what)
			continue
		}
		bad++
		fmt.Printf("▲ not well  %s: %v\n            %s\n", f.what, f.err, f.do)
	}
	if bad > 0 {
		return fmt.Errorf("%d things are not well", bad)
	}
	return nil
}

func look(ctx context.Context) []finding {
	var out []finding
	add := func(what, do string, err error) { out = append(out, finding{what, err, do}) }
	for _, r := range []struct{ knob, as string }{{"NOTCHBACK_DATABASE_URL", "server"}, {"NOTCHBACK_OWNER_URL", "owner"}} {
		url := os.Getenv(r.knob)
		if url == "" {
			if r.as == "server" {
				add("the database", "set "+r.knob, errors.New(r.knob+" is not set"))
			}
			continue
		}
		what, err := lookAtDatabase(ctx, url, r.as)
		add(what, "is PostgreSQL running, is the address right, was notchback migrate run?", err)
	}
	clips := os.Getenv("NOTCHBACK_CLIPS")
	if clips == "" {
		add("clips", "set NOTCHBACK_CLIPS to a folder, or do without clips and photos", errors.New("no folder is named; none are taken"))
	} else {
		add("the folder of clips "+clips, "make it, give it to the server's user alone (chmod 700), free some room", lookAtFolder(clips))
	}
	for _, tool := range []string{"ffmpeg", "ffprobe", "prlimit"} {
		_, err := exec.LookPath(tool)
		add(tool, "install Debian's packages ffmpeg and util-linux: without them clips are not turned", err)
	}
	_, err := exec.LookPath("heif-convert")
	add("heif-convert", "install Debian's package libheif-examples: without it HEIC photos are named and not taken", err)
	set, err := readSettings()
	add("how browsers come in", "see the command config", err)
	if err == nil {
		addr := os.Getenv("NOTCHBACK_ADDR")
		l, err := net.Listen("tcp", addr)
		switch {
		case errors.Is(err, syscall.EADDRINUSE):
			add("the address "+addr+", taken by this or another program", "", nil)
		case err != nil:
			add("the address "+addr, "set NOTCHBACK_ADDR to an address of this machine", err)
		default:
			open := set.open(l.Addr())
			_ = l.Close()
			if open {
				err = errors.New("reached without encryption")
			}
			add("the address "+addr, "give a certificate, a proxy with https in front, or NOTCHBACK_PLAIN_HTTP=yes on a network of your own", err)
		}
	}
	dir := os.Getenv("NOTCHBACK_BACKUP_DIR")
	if dir == "" {
		add("backups", "set NOTCHBACK_BACKUP_DIR and NOTCHBACK_BACKUP_TO, and run notchback backup --rotate every night", errors.New("none are made"))
		return out
	}
	_, err = readers()
	if err == nil {
		err = lookAtFolder(dir)
	}
	if err == nil {
		var at time.Time
		if at, err = keep.Newest(dir); err == nil && time.Since(at) > backupMost {
			err = errors.New("there is none yet")
			if !at.IsZero() {
				err = fmt.Errorf("the newest is of %s", at.Format("2 January 15:04"))
			}
		}
	}
	add("backups in "+dir, "run notchback backup --rotate, and see to it that it runs every night", err)
	return out
}

func lookAtDatabase(ctx context.Context, url, as string) (string, error) {
	what := "the database as " + as
	ctx, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return what, err
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	var now time.Time
	var version string
	var super bool
	if err := c.QueryRow(ctx, `SELECT clock_timestamp(), current_setting('server_version'), usesuper OR EXISTS (SELECT 1 FROM pg_roles WHERE rolname = current_user AND rolbypassrls) FROM pg_user WHERE usename = current_user`).Scan(&now, &version, &super); err != nil {
		return what, err
	}
	what += ", PostgreSQL " + version
	if d := time.Since(now).Abs(); d > clockMost {
		return what, fmt.Errorf("its clock and this one are %s apart", d.Round(time.Second))
	}
	if as != "server" {
		return what, nil
	}
	if super {
		return what, errors.New("its role may read every practice: take the role notchback_app, which owns nothing")
	}
	s, err := store.Open(ctx, url)
	if err != nil {
		return what, err
	}
	defer s.Close()
	return what, s.Check(ctx)
}

func lookAtFolder(dir string) error {
	i, err := os.Stat(dir)
	if err != nil {
		return err
	}
	if i.Mode().Perm()&0o007 != 0 {
		return fmt.Errorf("everybody on this machine may look into it (%s)", i.Mode().Perm())
	}
	f, err := os.CreateTemp(dir, ".doctor-*")
	if err != nil {
		return err
	}
	if err := errors.Join(f.Close(), os.Remove(filepath.Clean(f.Name()))); err != nil {
		return err
	}
	var st syscall.Statfs_t
	if err := syscall.Statfs(dir, &st); err != nil {
		return err
	}
	if free := st.Bavail * uint64(st.Bsize); free < freeLeast { //nolint:gosec // a block's size is positive
		return fmt.Errorf("%.1f GB are left on its disk", float64(free)/(1<<30))
	}
	return nil
}
