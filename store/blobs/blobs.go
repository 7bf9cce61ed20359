// Package blobs keeps files beside the database. Store is the port that the
// application sees; Dir is a folder behind it, another place can follow. Every
// operation can be done twice: after a crash it is simply done again.
package blobs

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"time"
)

// Kind is what a file is for.
type Kind string

// The kinds: an upload that grows, what is being made of one, whole files by their
// content.
const (
	Upload Kind = "parts"
	Work   Kind = "work"
	Whole  Kind = "files"
)

// Key names a file of a practice: an upload by its clip, a whole file by its content.
type Key struct {
	Practice string
	Kind     Kind
	Name     string
}

// File is an open file.
type File interface {
	io.ReadSeekCloser
	Stat() (fs.FileInfo, error)
}

// Entry is a file in a list.
type Entry struct {
	Key
	Size int64
	At   time.Time // when it last changed
}

// Store keeps files. A file that is not there has the size 0, opens as
// fs.ErrNotExist and is deleted without an error.
type Store interface {
	Size(k Key) (int64, error)
	// Append adds a part that begins at an offset; the file may not grow over most
	// bytes. It returns how many are there then. What came of a part that broke off
	// stays, so that the next one can go on from it. Errors: ErrOffset, ErrTooLong.
	Append(ctx context.Context, k Key, offset, most int64, r io.Reader) (int64, error)
	// Put writes a whole file, or nothing.
	Put(ctx context.Context, k Key, r io.Reader) error
	// Copy lets a second name have the same content, durably.
	Copy(from, to Key) error
	Open(k Key) (File, error)
	Delete(k Key) error
	List(each func(Entry) error) error
	// Path is where programs of this machine find a file, or can write one.
	Path(k Key) (string, error)
}

// ErrOffset says that a part does not go on where the file ends.
var ErrOffset = errors.New("the part does not go on where the file ends")

// ErrTooLong says that more came than was announced.
var ErrTooLong = errors.New("more came than was announced")

// Dir is a folder of files, a folder a practice: one never reads another's.
type Dir struct{ root string }

// Open makes the folder where it is missing.
func Open(root string) (*Dir, error) {
	if err := os.MkdirAll(root, 0o700); err != nil {
		return nil, fmt.Errorf("folder for clips: %w", err)
	}
	return &Dir{root}, nil
}

var (
	plain = regexp.MustCompile(`^[0-9a-f-]{32,64}$`)
	made  = regexp.MustCompile(`^[0-9a-f-]{32,64}\.[0-9a-z]{1,40}(\.jpg)?$`)
)

// Path is a place below the root; ids and hashes are plain, anything else is a bug.
func (d *Dir) Path(k Key) (string, error) {
	ok := plain.MatchString(k.Name)
	if k.Kind == Work {
		ok = made.MatchString(k.Name)
	}
	if !ok || !plain.MatchString(k.Practice) || k.Kind != Upload && k.Kind != Work && k.Kind != Whole {
		return "", fmt.Errorf("%q/%q/%q is not the name of a file here", k.Practice, k.Kind, k.Name)
	}
	return filepath.Join(d.root, k.Practice, string(k.Kind), k.Name), nil
}

// place is Path with its folder made.
func (d *Dir) place(k Key) (string, error) {
	path, err := d.Path(k)
	if err != nil {
		return "", err
	}
	return path, os.MkdirAll(filepath.Dir(path), 0o700)
}

// Size is how many bytes of a file are there.
func (d *Dir) Size(k Key) (int64, error) {
	path, err := d.Path(k)
	if err != nil {
		return 0, err
	}
	st, err := os.Stat(path)
	if errors.Is(err, fs.ErrNotExist) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	return st.Size(), nil
}

// Append adds a part to a growing file.
func (d *Dir) Append(ctx context.Context, k Key, offset, most int64, r io.Reader) (int64, error) {
	path, err := d.place(k)
	if err != nil {
		return 0, err
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return 0, err
	}
	// Two parts at once would both see the same end; the lock goes with the file.
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX); err != nil {
		return 0, errors.Join(err, f.Close())
	}
	st, err := f.Stat()
	if err != nil {
		return 0, errors.Join(err, f.Close())
	}
	if st.Size() != offset {
		return st.Size(), errors.Join(ErrOffset, f.Close())
	}
	n, err := io.Copy(f, Heeding(ctx, io.LimitReader(r, most-offset+1)))
	if offset+n > most {
		return most, errors.Join(ErrTooLong, f.Truncate(most), f.Close())
	}
	return offset + n, errors.Join(err, f.Sync(), f.Close())
}

// Put writes a whole file beside its place and moves it there.
func (d *Dir) Put(ctx context.Context, k Key, r io.Reader) error {
	path, err := d.place(k)
	if err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(path), ".new-*")
	if err != nil {
		return err
	}
	_, err = io.Copy(f, Heeding(ctx, r))
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return settle(path)
}

// Copy gives a file a second name.
func (d *Dir) Copy(from, to Key) error {
	a, err := d.Path(from)
	if err != nil {
		return err
	}
	b, err := d.place(to)
	if err != nil {
		return err
	}
	f, err := os.Open(a)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return err
	}
	if err := os.Link(a, b); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	return settle(b)
}

// settle makes sure that a name outlives the machine's power.
func settle(path string) error {
	f, err := os.Open(filepath.Dir(path))
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// Open opens a file.
func (d *Dir) Open(k Key) (File, error) {
	path, err := d.Path(k)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	return f, nil
}

// Delete deletes a file; one that is gone already is no error.
func (d *Dir) Delete(k Key) error {
	path, err := d.Path(k)
	if err != nil {
		return err
	}
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// leftover is how long something half written by Put is left alone.
const leftover = time.Hour

// List goes through all files. What a crash left of one being put is deleted.
func (d *Dir) List(each func(Entry) error) error {
	return filepath.WalkDir(d.root, func(path string, e fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) { // deleted meanwhile
			return nil
		}
		if err != nil || e.IsDir() {
			return err
		}
		rel, err := filepath.Rel(d.root, path)
		if err != nil {
			return err
		}
		st, err := e.Info()
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil {
			return err
		}
		p := strings.Split(rel, string(filepath.Separator))
		if len(p) != 3 {
			return nil // not ours
		}
		if strings.HasPrefix(p[2], ".new-") {
			if time.Since(st.ModTime()) > leftover {
				return os.Remove(path)
			}
			return nil
		}
		return each(Entry{Key{p[0], Kind(p[1]), p[2]}, st.Size(), st.ModTime()})
	})
}

type heeding struct {
	ctx context.Context
	r   io.Reader
}

// Heeding is a reader that ends with its context.
func Heeding(ctx context.Context, r io.Reader) io.Reader { return heeding{ctx, r} }

func (h heeding) Read(p []byte) (int, error) {
	if err := h.ctx.Err(); err != nil {
		return 0, err
	}
	return h.r.Read(p)
}
