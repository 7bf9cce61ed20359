package app

import (
	"context"
	"fmt"
	"runtime/debug"
)

// safely runs a part of the program that nobody waits for: a panic in it is logged
// with its stack and ends nothing else. Every goroutine runs in it; a test says so.
func (a *App) safely(ctx context.Context, what string, fn func()) {
	defer func() {
		if v := recover(); v != nil {
			a.log.ErrorContext(ctx, "panic", "at", what, "value", fmt.Sprint(v), "stack", string(debug.Stack()))
		}
	}()
	fn()
}
