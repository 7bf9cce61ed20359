package formats

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"errors"
	"io"
	"path"
	"strings"
)

// Limits of packed files (house): what is unpacked stands in memory.
const (
	RunPackMost = 64 << 20  // bytes of a file as it comes
	mostInside  = 2000      // files in a pack
	mostWhole   = 256 << 20 // bytes of all that is inside
)

// Inside is a file as it lay in a pack, or the one that was no pack. Its error says why it
// can't be read.
type Inside struct {
	Name string
	Data []byte
	Err  error
}

// Unpack opens a file that may be packed: a zip of files, some of them gz; a gz of one
// file or of a zip. Anything deeper, and more than the limits, is refused by name.
func Unpack(name string, b []byte) ([]Inside, error) {
	if len(b) > RunPackMost {
		return nil, bad("", "the file has %d MB; at most %d MB are read", len(b)>>20, RunPackMost>>20)
	}
	switch packed(b) {
	case "gz":
		in, err := gunzip(b, RunPackMost)
		if err != nil {
			return nil, err
		}
		switch packed(in) {
		case "gz":
			return nil, bad("", "it is packed twice; unpack it once")
		case "zip":
			return unzip(in)
		}
		return []Inside{{Name: strings.TrimSuffix(name, ".gz"), Data: in}}, nil
	case "zip":
		return unzip(b)
	}
	return []Inside{{Name: name, Data: b}}, nil
}

func packed(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte("PK\x03\x04")), bytes.HasPrefix(b, []byte("PK\x05\x06")):
		return "zip"
	case bytes.HasPrefix(b, []byte("\x1f\x8b")):
		return "gz"
	}
	return ""
}

var errTooMuch = errors.New("too much")

// upTo reads no more than so many bytes.
func upTo(r io.Reader, most int) ([]byte, error) {
	out, err := io.ReadAll(io.LimitReader(r, int64(most)+1))
	if err == nil && len(out) > most {
		return nil, errTooMuch
	}
	return out, err
}

func gunzip(b []byte, most int) ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, bad("", "the packed file is damaged")
	}
	out, err := upTo(z, most)
	switch {
	case errors.Is(err, errTooMuch):
		return nil, bad("", "unpacked it has more than %d MB", most>>20)
	case err != nil:
		return nil, bad("", "the packed file is damaged")
	}
	return out, nil
}

func unzip(b []byte) ([]Inside, error) {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, bad("", "the zip is damaged")
	}
	var out []Inside
	left := mostWhole
	for _, f := range z.File {
		if base := path.Base(f.Name); f.FileInfo().IsDir() || strings.HasPrefix(base, ".") || strings.HasPrefix(f.Name, "__MACOSX/") {
			continue
		}
		if len(out) == mostInside {
			return nil, bad("", "there are more than %d files in it; bring them in parts", mostInside)
		}
		in := Inside{Name: clip(strings.ToValidUTF8(f.Name, ""), 200)}
		in.Data, in.Err = inner(f, &left)
		if errors.Is(in.Err, errTooMuch) && left <= 0 {
			return nil, bad("", "unpacked it has more than %d MB", mostWhole>>20)
		}
		if errors.Is(in.Err, errTooMuch) {
			in.Err = bad("", "unpacked it has more than %d MB", RunFileMost>>20)
		}
		out = append(out, in)
	}
	if len(out) == 0 {
		return nil, bad("", "there is no file in the zip")
	}
	return out, nil
}

func inner(f *zip.File, left *int) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, bad("", "this part of the zip is damaged")
	}
	defer func() { _ = r.Close() }()
	b, err := upTo(r, min(RunFileMost, *left))
	if errors.Is(err, errTooMuch) {
		if *left <= RunFileMost {
			*left = 0
		}
		return nil, err
	}
	if err != nil {
		return nil, bad("", "this part of the zip is damaged")
	}
	switch packed(b) {
	case "zip":
		return nil, bad("", "a zip inside a zip is not opened")
	case "gz":
		if b, err = gunzip(b, min(RunFileMost, *left)); err != nil {
			return nil, err
		}
		if packed(b) != "" {
			return nil, bad("", "it is packed more than twice")
		}
	}
	*left -= len(b)
	return b, nil
}
