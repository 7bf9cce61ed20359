package app

import (
	"context"
	"fmt"
	"runtime/debug"
)

// Safely runs a part of the program that nobody waits for: a panic in it is logged
// with its stack and ends nothing else. Every goroutine runs in it; a test says so.
func (a *App) Safely(ctx context.Context, what string, fn func()) {
	defer func() {
		if v := recover(); v != nil {
			a.Log.ErrorContext(ctx, "panic", "at", what, "value", fmt.Sprint(v), "stack", string(debug.Stack()))
		}
	}()
	fn()
}
