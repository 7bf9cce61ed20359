package web

import (
	"bytes"
	"compress/gzip"
	"context"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"notchback/web/door"
	"notchback/web/webui"
)

type asset struct {
	plain, packed []byte
	kind          string
}

// kindOf are types that a machine's own table may lack.
var kindOf = map[string]string{".webmanifest": "application/manifest+json", ".wasm": "application/wasm", ".tflite": "application/octet-stream", ".data": "application/octet-stream", ".binarypb": "application/octet-stream"}

// pages carry the nonce of each answer.
var pages = map[string]bool{"index.html": true, "pocket.html": true}

// frontEnd serves the built files, compressed once at start, and index.html for
// every address of the interface.
func frontEnd() gin.HandlerFunc {
	assets := map[string]asset{}
	dist := webui.FS()
	_ = fs.WalkDir(dist, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(dist, p)
		if err != nil {
			return err
		}
		a := asset{plain: b, kind: mime.TypeByExtension(path.Ext(p))}
		if k, ok := kindOf[path.Ext(p)]; ok {
			a.kind = k
		}
		switch path.Ext(p) {
		case ".js", ".css", ".svg", ".json", ".webmanifest":
			a.packed = pack(b)
		}
		assets[p] = a
		return nil
	})
	return func(c *gin.Context) {
		p := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(p, "api/") || (c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead) {
			door.WriteProblem(c.Writer, http.StatusNotFound, "there is nothing at this address")
			return
		}
		if a, ok := assets[p]; ok && !pages[p] && p != ".gitkeep" {
			if strings.HasPrefix(p, "assets/") || strings.HasPrefix(p, "pose/") { // named by content or version
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			if p == "pocket-worker.js" || strings.HasSuffix(p, ".webmanifest") { // a new edition is seen at once
				c.Header("Cache-Control", "no-cache")
			}
			if a.packed != nil && strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
				c.Header("Content-Encoding", "gzip")
				c.Header("Vary", "Accept-Encoding")
				c.Data(http.StatusOK, a.kind, a.packed)
				return
			}
			c.Data(http.StatusOK, a.kind, a.plain)
			return
		}
		name := "index.html"
		if p == "pocket" || p == "pocket.html" || strings.HasPrefix(p, "pocket/") { // the runner's phone has a page of its own
			name = "pocket.html"
		}
		index, ok := assets[name]
		switch {
		case strings.HasPrefix(p, "assets/"):
			c.String(http.StatusNotFound, "not found")
		case !ok:
			c.String(http.StatusInternalServerError, "the front end is not built; run make build")
		default:
			status := http.StatusOK
			if !isPage(p) {
				status = http.StatusNotFound // the interface says there what to do
			}
			c.Header("Cache-Control", "no-cache")
			c.Data(status, "text/html; charset=utf-8", bytes.ReplaceAll(index.plain, []byte("__CSP_NONCE__"), []byte(nonceOf(c.Request.Context()))))
		}
	}
}

// isFile reports whether a file that pages are made of lies at an address.
func isFile(p string) bool {
	p = strings.TrimPrefix(p, "/")
	i, err := fs.Stat(webui.FS(), p)
	return err == nil && !i.IsDir() && !pages[p]
}

// rooms are the beginnings of the interface's addresses.
var rooms = []string{"", "runners", "review", "practice", "engine", "screenings", "clips", "shelf", "join", "pocket", "pocket.html"}

// isPage reports whether the interface has pages at an address; which of them exist, its
// own router knows.
func isPage(p string) bool {
	first, _, _ := strings.Cut(p, "/")
	return slices.Contains(rooms, first)
}

func nonceOf(ctx context.Context) string {
	n, _ := ctx.Value(nonceKey{}).(string)
	return n
}

func pack(b []byte) []byte {
	var buf bytes.Buffer
	w, err := gzip.NewWriterLevel(&buf, gzip.BestCompression)
	if err != nil {
		return nil
	}
	if _, err := w.Write(b); err != nil {
		return nil
	}
	if err := w.Close(); err != nil {
		return nil
	}
	return buf.Bytes()
}
