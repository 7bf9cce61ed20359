// Package blobs keeps files beside the database: by their content, a folder a
// practice, so that the same file is kept once and one practice never reads
// another's. An upload grows in a file of its own until it is whole.
package blobs

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"syscall"
)

// Dir is a folder of files.
type Dir struct{ root string }

// ErrOffset says that a part does not go on where the file ends.
var ErrOffset = errors.New("the part does not go on where the file ends")

// ErrTooLong says that more came than was announced.
var ErrTooLong = errors.New("more came than was announced")

// Open makes the folder where it is missing.
func Open(root string) (*Dir, error) {
	if err := os.MkdirAll(root, 0o700); err != nil {
		return nil, fmt.Errorf("folder for clips: %w", err)
	}
	return &Dir{root}, nil
}

var plain = regexp.MustCompile(`^[0-9a-f-]{32,64}$`)

// at is a path below the root; ids and hashes are plain, anything else is a bug.
func (d *Dir) at(practice, kind, name string) (string, error) {
	if !plain.MatchString(practice) || !plain.MatchString(name) {
		return "", fmt.Errorf("%q/%q is not the name of a file here", practice, name)
	}
	return filepath.Join(d.root, practice, kind, name), nil
}

// Received is how many bytes of an upload are there.
func (d *Dir) Received(practice, id string) (int64, error) {
	path, err := d.at(practice, "parts", id)
	if err != nil {
		return 0, err
	}
	st, err := os.Stat(path)
	if errors.Is(err, os.ErrNotExist) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	return st.Size(), nil
}

// Append adds a part that begins at an offset; the upload may not grow over most
// bytes. It returns how many are there then. What came of a part that broke off
// stays, so that the next one can go on from it.
func (d *Dir) Append(practice, id string, offset, most int64, r io.Reader) (int64, error) {
	path, err := d.at(practice, "parts", id)
	if err != nil {
		return 0, err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
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
	n, err := io.Copy(f, io.LimitReader(r, most-offset+1))
	if offset+n > most {
		return most, errors.Join(ErrTooLong, f.Truncate(most), f.Close())
	}
	return offset + n, errors.Join(err, f.Sync(), f.Close())
}

// Finish takes an upload into the store by its content and returns its hash.
func (d *Dir) Finish(practice, id string) (string, error) {
	part, err := d.at(practice, "parts", id)
	if err != nil {
		return "", err
	}
	f, err := os.Open(part)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	_, err = io.Copy(h, f)
	if err := errors.Join(err, f.Close()); err != nil {
		return "", err
	}
	hash := hex.EncodeToString(h.Sum(nil))
	path, err := d.Path(practice, hash)
	if err != nil {
		return "", err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return "", err
	}
	return hash, os.Rename(part, path)
}

// Path is where a file of a practice lies.
func (d *Dir) Path(practice, hash string) (string, error) { return d.at(practice, "files", hash) }

// Part is where an unfinished upload lies.
func (d *Dir) Part(practice, id string) (string, error) { return d.at(practice, "parts", id) }

// Remove deletes a file; one that is gone already is no error.
func (d *Dir) Remove(practice, hash string) error {
	path, err := d.Path(practice, hash)
	if err != nil {
		return err
	}
	return gone(os.Remove(path))
}

// Drop deletes an upload that was not finished.
func (d *Dir) Drop(practice, id string) error {
	path, err := d.Part(practice, id)
	if err != nil {
		return err
	}
	return gone(os.Remove(path))
}

func gone(err error) error {
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}
