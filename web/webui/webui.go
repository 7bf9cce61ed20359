// Package webui holds the built front end.
package webui

import (
	"embed"
	"io/fs"
)

// dist/.gitkeep lets a fresh checkout compile before the front end is built.
//
//go:embed all:dist
var dist embed.FS

// FS returns the built files; it is nearly empty when the front end was not built.
func FS() fs.FS {
	f, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return f
}
