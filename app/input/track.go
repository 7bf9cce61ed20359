package input

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"notchback/formats"
)

// ReadTrack goes through a packed track, and reports how many bytes it has.
func ReadTrack(packed []byte, each func(formats.Point) error) (int, error) {
	z, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return 0, errors.New("not a packed track")
	}
	limited := &io.LimitedReader{R: z, N: trackMost + 1}
	d := json.NewDecoder(limited)
	broken := func() error {
		if limited.N == 0 {
			return fmt.Errorf("the track is larger than %d MB", trackMost>>20)
		}
		return errors.New("not a packed track")
	}
	t, err := d.Token()
	if err == nil && t == nil { // a track without points
		return 4, nil
	}
	if err != nil || t != json.Delim('[') {
		return 0, broken()
	}
	for d.More() {
		var p formats.Point
		if err := d.Decode(&p); err != nil {
			return 0, broken()
		}
		if err := each(p); err != nil {
			return 0, err
		}
	}
	if _, err := d.Token(); err != nil {
		return 0, broken()
	}
	if rest, err := io.Copy(io.Discard, limited); err != nil || rest > 16 {
		return 0, broken()
	}
	return int(trackMost + 1 - limited.N), nil
}
