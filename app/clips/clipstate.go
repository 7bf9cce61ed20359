package clips

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"time"

	"notchback/app"
	"notchback/app/media"
	"notchback/store"
	"notchback/store/blobs"
)

// cleanPhoto decodes a photo, turns it as it was taken and writes it anew: what a
// camera adds – the place, the device, the time – stays behind. It returns the size
// and type of what was written.
func (a *Footage) cleanPhoto(ctx context.Context, from, to blobs.Key) (int64, string, error) {
	f, err := a.Blobs.Open(from)
	if err != nil {
		return 0, "", err
	}
	raw, kind, err := media.Cleaned(media.HeedingFile{Reader: blobs.Heeding(ctx, f), Seeker: f})
	if err := errors.Join(err, f.Close()); err != nil {
		return 0, "", err
	}
	if err := ctx.Err(); err != nil {
		return 0, "", err
	}
	return int64(len(raw)), kind, a.Blobs.Put(ctx, to, bytes.NewReader(raw))
}

// Times of the work on clips (house).
const (
	leaseTime      = 60 * time.Second   // a server that says nothing for so long is taken for dead
	leaseRenew     = 5 * time.Second    // how often it says that it works
	abandonedAfter = 7 * 24 * time.Hour // an upload may wait to be gone on with
	orphanAfter    = time.Hour          // a file that no clip names is somebody's who just began
)

// Turning is a clip that is being turned into one that browsers show.
type Turning struct {
	Share float64 `json:"share" doc:"0 to 1"`
	Error string  `json:"error,omitempty" doc:"Why it could not be turned"`
}

func turningOf(c store.Clip) *Turning {
	switch c.State {
	case store.ClipConverting:
		return &Turning{Share: c.Share}
	case store.ClipFailed:
		return &Turning{Error: c.Trouble}
	}
	return nil
}

// bench is the work on clips that this server has in hand.
type bench struct {
	me   string // how this server signs its leases
	mu   sync.Mutex
	jobs map[string]*job // by clip
	one  chan struct{}   // one is turned at a time
}

type job struct {
	cancel context.CancelFunc
	done   chan struct{}
}

func newBench() bench {
	return bench{me: rand.Text(), jobs: map[string]*job{}, one: make(chan struct{}, 1)}
}

// take starts work on a clip that has no work of this server's yet.
func (a *Footage) take(id string, work func(ctx context.Context)) bool {
	b := &a.bench
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.jobs[id] != nil {
		return false
	}
	ctx, cancel := context.WithCancel(context.Background())
	j := &job{cancel, make(chan struct{})}
	b.jobs[id] = j
	go func() {
		defer close(j.done)
		defer func() {
			b.mu.Lock()
			defer b.mu.Unlock()
			delete(b.jobs, id)
		}()
		defer cancel()
		a.Safely(ctx, "clip", func() { work(ctx) })
	}()
	return true
}

// stop ends the work on a clip and waits until it has ended.
func (b *bench) stop(id string) {
	b.mu.Lock()
	j := b.jobs[id]
	b.mu.Unlock()
	if j != nil {
		j.cancel()
		<-j.done
	}
}

// Close ends what works in the background; uploads that were being turned are gone on
// with later, by this server or another.
func (a *Footage) Close() {
	a.bench.mu.Lock()
	ids := app.SortedKeys(a.bench.jobs)
	a.bench.mu.Unlock()
	for _, id := range ids {
		a.bench.stop(id)
	}
}

func uploadOf(practice, id string) blobs.Key {
	return blobs.Key{Practice: practice, Kind: blobs.Upload, Name: id}
}

func wholeOf(practice, hash string) blobs.Key {
	return blobs.Key{Practice: practice, Kind: blobs.Whole, Name: hash}
}

// FinishClip looks at a whole upload: what it is, its frames' true times. A video
// that browsers do not show is turned into one that they do; how far that is stands
// in the view. What is none is refused with what to do, and dropped.
func (a *Footage) FinishClip(ctx context.Context, act app.Actor, id string) (ClipView, error) {
	d, err := a.folder()
	if err != nil {
		return ClipView{}, err
	}
	if !app.Writes.May(act.User.Role) {
		return ClipView{}, app.ErrForbidden
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return ClipView{}, err
	}
	if c.State == store.ClipReady || c.State == store.ClipConverting {
		return a.Clip(ctx, act, id)
	}
	n, err := d.Size(uploadOf(act.Practice, id))
	if err != nil {
		return ClipView{}, err
	}
	if n != c.Size {
		return ClipView{}, app.Wrong("size", fmt.Sprintf("%d of %d bytes are here; send the rest", n, c.Size))
	}
	if c, err = a.claim(ctx, act.Practice, id); err != nil {
		return ClipView{}, err
	}
	err = a.work(ctx, act, c, false)
	var bad app.Refused
	switch {
	case errors.Is(err, media.ErrTurn):
		a.background(act, c)
	case errors.As(err, &bad):
		return ClipView{}, errors.Join(err, a.DeleteClip(ctx, act, id))
	case err != nil:
		return ClipView{}, errors.Join(err, a.release(act.Practice, id, store.ClipUploaded, ""))
	}
	return a.Clip(ctx, act, id)
}

func (a *Footage) claim(ctx context.Context, practice, id string) (c store.Clip, err error) {
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		c, err = tx.ClaimClip(ctx, id, a.bench.me, a.Now(), a.Now().Add(leaseTime))
		return err
	})
	return c, err
}

// release gives a clip back, also when the request for it has ended.
func (a *Footage) release(practice, id string, state store.ClipState, trouble string) error {
	ctx, cancel := context.WithTimeout(context.Background(), leaseRenew)
	defer cancel()
	return a.Store.In(ctx, practice, func(tx *store.Tx) error { return tx.ReleaseClip(ctx, id, a.bench.me, state, trouble) })
}

// background turns a claimed clip beside the requests, and holds its lease meanwhile.
func (a *Footage) background(act app.Actor, c store.Clip) {
	a.take(c.ID, func(ctx context.Context) {
		err := a.guarded(ctx, act, c)
		var bad app.Refused
		var panicked *panicError
		switch {
		case err == nil:
			return
		case errors.Is(err, context.Canceled), errors.Is(err, app.ErrConflict): // stopped, deleted, or another's by now
			err = a.release(act.Practice, c.ID, store.ClipUploaded, "")
		case errors.As(err, &bad):
			err = a.release(act.Practice, c.ID, store.ClipFailed, err.Error())
		case errors.As(err, &panicked):
			a.Log.Error("panic at a clip", "clip", c.ID, "value", panicked.value, "stack", panicked.stack)
			err = a.release(act.Practice, c.ID, store.ClipFailed, "it could not be looked at; film or copy it again")
		default:
			a.Log.Error("clip could not be worked on", "clip", c.ID, "err", err)
			err = a.release(act.Practice, c.ID, store.ClipFailed, "something went wrong here; bring it in again")
		}
		if err != nil {
			a.Log.Error("clip could not be given back", "clip", c.ID, "err", err)
		}
	})
}

type panicError struct{ value, stack string }

func (p *panicError) Error() string { return "panic: " + p.value }

// guarded works on a clip while its lease is renewed; a lease that was lost ends the
// work, and a panic is an error.
func (a *Footage) guarded(stopped context.Context, act app.Actor, c store.Clip) (err error) {
	ctx, cancel := context.WithCancel(stopped)
	var mu sync.Mutex
	share := 0.0
	var wg sync.WaitGroup
	wg.Go(func() {
		a.Safely(ctx, "lease", func() {
			a.holdLease(ctx, act.Practice, c.ID, cancel, func() float64 {
				mu.Lock()
				defer mu.Unlock()
				return share
			})
		})
	})
	defer func() {
		if v := recover(); v != nil {
			err = &panicError{fmt.Sprint(v), string(debug.Stack())}
		}
		ended := ctx.Err() // before the work was done: stopped, or the lease is lost
		cancel()
		wg.Wait()
		if err != nil && ended != nil {
			err = context.Canceled
		}
	}()
	select {
	case a.bench.one <- struct{}{}:
		defer func() { <-a.bench.one }()
	case <-ctx.Done():
		return ctx.Err()
	}
	return a.workWith(ctx, act, c, true, func(s float64) {
		mu.Lock()
		defer mu.Unlock()
		share = max(share, s)
	})
}

// holdLease renews a lease until the context ends, and tells how far the work is; it
// ends the work where the lease is somebody else's.
func (a *Footage) holdLease(ctx context.Context, practice, id string, lost func(), share func() float64) {
	t := time.NewTicker(leaseRenew / 10) // the share is told more often than the lease needs it
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		held := true
		err := a.Store.In(ctx, practice, func(tx *store.Tx) (err error) {
			held, err = tx.RenewLease(ctx, id, a.bench.me, a.Now().Add(leaseTime), share())
			return err
		})
		if err == nil && !held {
			lost()
		}
	}
}

func (a *Footage) work(ctx context.Context, act app.Actor, c store.Clip, turns bool) error {
	return a.workWith(ctx, act, c, turns, func(float64) {})
}

// workWith makes a whole upload into a clip that is ready, under its lease. Nothing of
// the upload is changed or moved before the clip stands in the database; what is made
// of it is written to a name of its own. errTurn where it has to be turned and may not
// be now.
func (a *Footage) workWith(ctx context.Context, act app.Actor, c store.Clip, turns bool, tell func(float64)) error {
	upload := uploadOf(act.Practice, c.ID)
	path, err := a.Blobs.Path(upload)
	if err != nil {
		return err
	}
	source := upload
	made := blobs.Key{Practice: act.Practice, Kind: blobs.Work, Name: c.ID + "." + strings.ToLower(rand.Text())}
	defer func() { _ = a.Blobs.Delete(made) }()
	s := a.sandbox()
	switch err := s.Look(ctx, path, &c); {
	case errors.Is(err, media.ErrTurn):
		if !turns {
			return err
		}
		if err := a.Blobs.Put(ctx, made, strings.NewReader("")); err != nil { // its folder, and its right to be there
			return err
		}
		to, err := a.Blobs.Path(made)
		if err != nil {
			return err
		}
		if err := s.Turn(ctx, &c, path, to, tell); err != nil {
			return err
		}
		source = made
	case err != nil:
		return err
	case c.Kind == "photo":
		from := upload
		if media.Undeveloped(c.Type) {
			from = blobs.Key{Practice: act.Practice, Kind: blobs.Work, Name: made.Name + ".jpg"}
			defer func() { _ = a.Blobs.Delete(from) }()
			if err := a.Blobs.Put(ctx, from, strings.NewReader("")); err != nil {
				return err
			}
			to, err := a.Blobs.Path(from)
			if err != nil {
				return err
			}
			if err := s.Develop(ctx, path, to); err != nil {
				return err
			}
		}
		if c.Size, c.Type, err = a.cleanPhoto(ctx, from, made); err != nil {
			return err
		}
		source = made
	}
	if c.Hash, err = a.digest(ctx, source); err != nil {
		return err
	}
	if path, err = a.Blobs.Path(source); err != nil {
		return err
	}
	small := s.Thumb(ctx, path, c)
	if err := ctx.Err(); err != nil {
		return err
	}
	if err := a.settle(ctx, act, c, source, small); err != nil {
		return err
	}
	return a.Blobs.Delete(upload) // the sweep does it where this can't
}

func (a *Footage) digest(ctx context.Context, k blobs.Key) (hash string, err error) {
	f, err := a.Blobs.Open(k)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	_, err = io.Copy(h, blobs.Heeding(ctx, f))
	return hex.EncodeToString(h.Sum(nil)), errors.Join(err, f.Close())
}

// settle puts the file in its place and the clip into the database: with the content
// locked, so that nobody deletes it in between.
func (a *Footage) settle(ctx context.Context, act app.Actor, c store.Clip, source blobs.Key, small []byte) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := tx.LockContent(ctx, c.Hash); err != nil {
			return err
		}
		if err := a.Blobs.Copy(source, wholeOf(act.Practice, c.Hash)); err != nil {
			return err
		}
		if err := tx.FinishClip(ctx, c, small, a.bench.me); err != nil {
			return err
		}
		words := "Clip brought in: " + c.Name
		if c.Kind == "video" && c.Converted {
			words += ", turned into MP4 (H.264)"
		}
		if err := tx.Note(ctx, c.RunnerID, a.Now(), &c.By, "clip", words, nil); err != nil {
			return err
		}
		if c.Kind == "markers" {
			return a.mapAsBefore(ctx, tx, act, c)
		}
		return nil
	})
}

// DeleteClip deletes a clip, its marks and, where no other clip has the same
// content, its file. From the first moment it is shown nowhere; should the server end
// in between, the sweep goes on.
func (a *Footage) DeleteClip(ctx context.Context, act app.Actor, id string) error {
	if _, err := a.folder(); err != nil {
		return err
	}
	var c store.Clip
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		if c, err = tx.Clip(ctx, id); err != nil {
			return err
		}
		if err := tx.DeletingClip(ctx, id); err != nil {
			return err
		}
		return tx.Note(ctx, c.RunnerID, a.Now(), &act.User.ID, "clip", "Clip deleted: "+c.Name, nil)
	})
	if err != nil {
		return err
	}
	a.bench.stop(id)
	a.tracks.forget(id)
	return a.remove(ctx, act.Practice, c)
}

// remove takes a clip that is being deleted away, files first.
func (a *Footage) remove(ctx context.Context, practice string, c store.Clip) error {
	return a.Store.In(ctx, practice, func(tx *store.Tx) error {
		if c.Hash != "" {
			if err := tx.LockContent(ctx, c.Hash); err != nil {
				return err
			}
			n, err := tx.ContentUsed(ctx, c.Hash)
			if err != nil {
				return err
			}
			if n == 0 {
				if err := a.Blobs.Delete(wholeOf(practice, c.Hash)); err != nil {
					return err
				}
			}
		}
		if err := a.Blobs.Delete(uploadOf(practice, c.ID)); err != nil {
			return err
		}
		return tx.DeleteClip(ctx, c.ID)
	})
}

// EraseClips deletes all of a runner's clips, whatever is being done with them, files first.
func (a *Footage) EraseClips(ctx context.Context, practice, runner string) error {
	var list []store.Clip
	err := a.Store.In(ctx, practice, func(tx *store.Tx) (err error) {
		if list, err = tx.ClipsEver(ctx, runner); err != nil {
			return err
		}
		for _, c := range list {
			if err := tx.DeletingClip(ctx, c.ID); err != nil && !errors.Is(err, app.ErrNotFound) {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, c := range list {
		a.bench.stop(c.ID)
		a.tracks.forget(c.ID)
		if err := a.remove(ctx, practice, c); err != nil {
			return err
		}
	}
	return nil
}

// Swept is what a sweep found.
type Swept struct {
	Abandoned int // uploads that nobody went on with
	Resumed   int // clips that nobody worked on any more
	Deleted   int // deletions that were not finished
	Cleaned   int // photos from before that were written anew
	Orphans   int // files that no clip names
	Bytes     int64
}

// SweepClips goes on with what a server that ended left: it deletes uploads that
// nobody has gone on with for a week, finishes deletions, and takes over clips whose
// lease ran out.
func (a *Footage) SweepClips(ctx context.Context) (Swept, error) {
	var out Swept
	if a.Blobs == nil {
		return out, nil
	}
	practices, err := a.Store.Practices(ctx)
	if err != nil {
		return out, err
	}
	for _, p := range practices {
		act, err := a.PracticeActor(ctx, p)
		if err != nil {
			return out, err
		}
		var left, old []store.Clip
		err = a.Store.In(ctx, p, func(tx *store.Tx) (err error) {
			if left, err = tx.LeftClips(ctx, a.Now()); err != nil {
				return err
			}
			if old, err = tx.Abandoned(ctx, a.Now().Add(-abandonedAfter)); err != nil {
				return err
			}
			for _, c := range old {
				if err := tx.DeletingClip(ctx, c.ID); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return out, err
		}
		n, err := a.cleanPhotos(ctx, p)
		if err != nil {
			return out, err
		}
		out.Cleaned += n
		for _, c := range old {
			if err := a.remove(ctx, p, c); err != nil {
				return out, err
			}
			out.Abandoned++
		}
		for _, c := range left {
			if c.State == store.ClipDeleting {
				if err := a.remove(ctx, p, c); err != nil {
					return out, err
				}
				out.Deleted++
				continue
			}
			c, err := a.claim(ctx, p, c.ID)
			if errors.Is(err, app.ErrConflict) {
				continue // another server was first
			}
			if err != nil {
				return out, err
			}
			a.background(act, c)
			out.Resumed++
		}
	}
	return out, nil
}

// photosAtOnce is how many photos from before one sweep writes anew.
const photosAtOnce = 20

// cleanPhotos writes photos from before anew, without what a camera noted. One that
// can't be read stays as it is and is not looked at again.
func (a *Footage) cleanPhotos(ctx context.Context, practice string) (int, error) {
	var list []store.Clip
	if err := a.Store.In(ctx, practice, func(tx *store.Tx) (err error) { list, err = tx.UncleanPhotos(ctx, photosAtOnce); return err }); err != nil {
		return 0, err
	}
	for i, c := range list {
		was := c.Hash
		made := blobs.Key{Practice: practice, Kind: blobs.Work, Name: c.ID + "." + strings.ToLower(rand.Text())}
		size, kind, err := a.cleanPhoto(ctx, wholeOf(practice, was), made)
		var bad app.Refused
		switch {
		case errors.As(err, &bad):
			a.Log.WarnContext(ctx, "a photo from before can't be read and stays as it is", "clip", c.ID)
		case err != nil:
			return i, err
		default:
			if c.Hash, err = a.digest(ctx, made); err != nil {
				return i, err
			}
			c.Size, c.Type = size, kind
		}
		err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
			for _, h := range slices.Compact(slices.Sorted(slices.Values([]string{was, c.Hash}))) { // in one order everywhere
				if err := tx.LockContent(ctx, h); err != nil {
					return err
				}
			}
			if c.Hash != was {
				if err := a.Blobs.Copy(made, wholeOf(practice, c.Hash)); err != nil {
					return err
				}
			}
			return tx.CleanPhoto(ctx, c, was)
		})
		if err == nil && c.Hash != was { // only now that nothing names it
			_, err = a.unnamed(ctx, blobs.Entry{Key: wholeOf(practice, was)})
		}
		if err := errors.Join(err, a.Blobs.Delete(made)); err != nil && !errors.Is(err, app.ErrConflict) {
			return i, err
		}
	}
	return len(list), nil
}

// SweepFiles deletes the files that no clip names, and counts them.
func (a *Footage) SweepFiles(ctx context.Context) (Swept, error) {
	var out Swept
	if a.Blobs == nil {
		return out, nil
	}
	files := map[string][]blobs.Entry{}
	if err := a.Blobs.List(func(e blobs.Entry) error {
		if e.At.Before(a.Now().Add(-orphanAfter)) {
			files[e.Practice] = append(files[e.Practice], e)
		}
		return ctx.Err()
	}); err != nil {
		return out, err
	}
	practices, err := a.Store.Practices(ctx)
	if err != nil {
		return out, err
	}
	for _, p := range practices {
		var clips []store.Clip
		if err := a.Store.In(ctx, p, func(tx *store.Tx) (err error) { clips, err = tx.AllClips(ctx); return err }); err != nil {
			return out, err
		}
		uploads, whole := map[string]bool{}, map[string]bool{}
		for _, c := range clips {
			uploads[c.ID] = c.State != store.ClipReady
			whole[c.Hash] = true
		}
		for _, e := range files[p] {
			gone := false
			switch e.Kind {
			case blobs.Upload:
				gone = !uploads[e.Name]
			case blobs.Work: // longer ago than any work takes
				gone = true
			case blobs.Whole:
				if !whole[e.Name] {
					if gone, err = a.unnamed(ctx, e); err != nil {
						return out, err
					}
				}
			}
			if !gone {
				continue
			}
			if err := a.Blobs.Delete(e.Key); err != nil {
				return out, err
			}
			out.Orphans++
			out.Bytes += e.Size
		}
	}
	if out.Orphans > 0 {
		a.Log.Warn("files that no clip named were deleted", "files", out.Orphans, "bytes", out.Bytes)
	}
	return out, nil
}

// unnamed deletes a whole file that still no clip names, with its content locked.
func (a *Footage) unnamed(ctx context.Context, e blobs.Entry) (gone bool, err error) {
	err = a.Store.In(ctx, e.Practice, func(tx *store.Tx) error {
		if err := tx.LockContent(ctx, e.Name); err != nil {
			return err
		}
		n, err := tx.ContentUsed(ctx, e.Name)
		if err != nil || n > 0 {
			return err
		}
		gone = true
		return a.Blobs.Delete(e.Key)
	})
	return gone, err
}

// Unprotected says why clips are looked at without a sandbox; empty where they are in
// one, or where there are none.
func (a *Footage) Unprotected() string {
	if a.Blobs == nil {
		return ""
	}
	return a.sandbox().Missing()
}
