package keep

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// scratch is a database cluster of its own in a folder of its own, reached by a socket
// alone, to try a backup in. PostgreSQL refuses to run as root; it runs as the system user
// postgres then.
type scratch struct {
	dir   string
	owner string
	as    *syscall.Credential
}

func (s *scratch) command(ctx context.Context, name string, args ...string) error {
	p, err := tool(name)
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, p, args...)
	cmd.Dir, cmd.Env = "/", []string{"PATH=/usr/bin:/bin", "LANG=C.UTF-8", "HOME=/"}
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: s.as}
	// The server that pg_ctl leaves behind must not hold a pipe of ours open.
	log, err := os.CreateTemp("", "notchback-scratch-")
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(log.Name()); _ = log.Close() }()
	cmd.Stdout, cmd.Stderr = log, log
	if err := cmd.Run(); err != nil {
		said, _ := os.ReadFile(log.Name())
		text := strings.TrimSpace(string(said))
		return fmt.Errorf("a scratch database: %s: %w: %s", name, err, text[:min(len(text), 400)])
	}
	return nil
}

// newScratch makes a cluster with the roles that grants name, and an empty database.
func newScratch(ctx context.Context) (*scratch, error) {
	dir, err := os.MkdirTemp("/tmp", "nb-")
	if err != nil {
		return nil, err
	}
	s := &scratch{dir: dir}
	if os.Geteuid() == 0 {
		u, err := user.Lookup("postgres")
		if err != nil {
			return nil, fmt.Errorf("a scratch database: %w", err)
		}
		uid, _ := strconv.ParseUint(u.Uid, 10, 32)
		gid, _ := strconv.ParseUint(u.Gid, 10, 32)
		s.as = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
		if err := os.Chown(dir, int(uid), int(gid)); err != nil {
			return nil, err
		}
	}
	data := filepath.Join(dir, "data")
	if err := s.command(ctx, "initdb", "-D", data, "-U", "postgres", "-A", "trust", "--locale=C.UTF-8", "-E", "UTF8", "--no-sync", "--no-instructions"); err != nil {
		s.stop()
		return nil, err
	}
	if err := s.command(ctx, "pg_ctl", "-D", data, "-w", "-t", "60", "-l", filepath.Join(dir, "log"), "-o", "-c listen_addresses='' -c unix_socket_directories="+dir+" -c fsync=off -c full_page_writes=off", "start"); err != nil {
		s.stop()
		return nil, err
	}
	at := "host=" + dir + " user=%s dbname=%s sslmode=disable"
	c, err := pgx.Connect(ctx, fmt.Sprintf(at, "postgres", "postgres"))
	if err != nil {
		s.stop()
		return nil, err
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	for _, sql := range []string{`CREATE ROLE notchback_owner LOGIN`, `CREATE ROLE notchback_app LOGIN`, `CREATE DATABASE notchback OWNER notchback_owner`} {
		if _, err := c.Exec(ctx, sql); err != nil {
			s.stop()
			return nil, err
		}
	}
	s.owner = fmt.Sprintf(at, "notchback_owner", "notchback")
	return s, nil
}

// stopTime is how long a scratch cluster may take to end.
const stopTime = 30 * time.Second

func (s *scratch) stop() {
	ctx, cancel := context.WithTimeout(context.Background(), stopTime)
	defer cancel()
	_ = s.command(ctx, "pg_ctl", "-D", filepath.Join(s.dir, "data"), "-m", "immediate", "-w", "stop")
	_ = os.RemoveAll(s.dir)
}
