package app

import (
	"bytes"
	"regexp"
	"strings"
)

func (f File) With(b *bytes.Buffer, err error) (File, error) {
	f.Body = b.Bytes()
	return f, err
}

// File is something to download.
type File struct {
	Name string
	Type string
	Body []byte
}

func FileName(runner, what, ext string) string {
	name := strings.Trim(notSlug.ReplaceAllString(strings.ToLower(runner), "-"), "-")
	if name == "" {
		name = "runner"
	}
	return name + "-" + what + "." + ext
}

var notSlug = regexp.MustCompile(`[^a-z0-9]+`)

func Slug(name string) string {
	return "own-" + strings.Trim(notSlug.ReplaceAllString(strings.ToLower(name), "-"), "-")
}
