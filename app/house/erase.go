package house

import (
	"context"
	"errors"

	"notchback/app"
)

// DeleteRunner deletes all there is of a runner, clips' files first: breaking off in
// between leaves a runner with fewer clips, who can be deleted again.
func (h *House) DeleteRunner(ctx context.Context, act app.Actor, runner, name, why string) error {
	if err := h.MayErase(ctx, act, runner, name, why); err != nil {
		return err
	}
	return h.erase(ctx, act, runner, why)
}

func (h *House) erase(ctx context.Context, act app.Actor, runner, why string) error {
	if h.Blobs != nil {
		if err := h.EraseClips(ctx, act.Practice, runner); err != nil {
			return err
		}
	}
	return h.Erase(ctx, act, runner, why)
}

// EraseDue deletes the records of archived runners whose time has come, and counts them.
func (h *House) EraseDue(ctx context.Context) (int, error) {
	practices, err := h.Store.Practices(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	var failed error
	for _, p := range practices {
		act, err := h.PracticeActor(ctx, p)
		if err != nil {
			return n, err
		}
		due, err := h.Due(ctx, act)
		failed = errors.Join(failed, err)
		for _, r := range due {
			if err := h.erase(ctx, act, r, "due"); err != nil {
				failed = errors.Join(failed, err)
				continue
			}
			n++
		}
	}
	return n, failed
}
