package app

import (
	"context"
	"os"
	"path/filepath"

	"notchback/core/course"
	"notchback/store"
)

// RecordOf is a runner's record as the application reads it.
func (a *App) RecordOf(ctx context.Context, act Actor, runner string) (course.Record, error) {
	var out course.Record
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		out = k.rec
		return nil
	})
	return out, err
}

// Peek lists what a program sees at its root and in /etc.
func Peek(ctx context.Context, s Sandbox, dir string) string {
	in := filepath.Join(dir, "clip")
	_ = os.WriteFile(in, []byte("x"), 0o600)
	cmd, _, ok := s.program(ctx, tool{name: "ls", seconds: probeTime, in: in, args: []string{"-1", "/", "/etc", "IN"}})
	if !ok {
		return ""
	}
	out, _ := cmd.Output()
	return string(out)
}
