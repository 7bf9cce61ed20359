// Package web is the HTTP interface: sessions, typed operations, headers and
// the built front end. It holds no rule of the job.
package web

import (
	"context"
	"crypto/rand"
	"log/slog"
	"net/http"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"notchback/app"
)

const csp = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'nonce-%NONCE%'; img-src 'self' data: blob:; media-src 'self' blob:; font-src 'self'; " +
	"connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// Limits of one request.
const (
	requestTime = 10 * time.Second
	sessionLife = 14 * 24 * time.Hour
)

type server struct {
	app  *app.App
	sess *scs.SessionManager
	log  *slog.Logger
}

// Options of a server.
type Options struct {
	Log *slog.Logger
	// Secure marks cookies for HTTPS only; off on loopback.
	Secure bool
	// SessionCleanup is how often ended sessions are deleted; 0 for never.
	SessionCleanup time.Duration
}

// config is the OpenAPI document's frame. Names of core types carry their room,
// so that two rooms can use the same word.
func config() huma.Config {
	c := huma.DefaultConfig("Notchback", "1")
	c.Info.Description = "Records and computations of Notchback. Units stand in the names: cm, degrees, seconds, km. " +
		"Errors are problem details with a field path."
	c.OpenAPIPath = "/api/openapi"
	c.DocsPath = "" // the built-in page loads scripts from elsewhere
	c.SchemasPath = ""
	c.CreateHooks = nil
	c.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", func(t reflect.Type, hint string) string {
		name := huma.DefaultSchemaNamer(t, hint)
		for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
			t = t.Elem()
		}
		_, room, found := strings.Cut(t.PkgPath(), "notchback/core/")
		if found && t.Name() != "" && !strings.HasPrefix(strings.ToLower(name), room) {
			return strings.ToUpper(room[:1]) + room[1:] + name
		}
		return name
	})
	return c
}

// OpenAPI returns the document of all operations; it needs no database.
func OpenAPI() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	api := humagin.New(gin.New(), config())
	(&server{sess: scs.New()}).register(api)
	return api.OpenAPI().MarshalJSON()
}

// New returns the handler of the whole application.
func New(a *app.App, o Options) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	s := &server{app: a, log: o.Log, sess: scs.New()}
	s.sess.Store = pgxstore.NewWithCleanupInterval(a.Store().Pool(), o.SessionCleanup)
	s.sess.Lifetime = sessionLife
	s.sess.Cookie.Name = "notchback"
	s.sess.Cookie.SameSite = http.SameSiteLaxMode
	s.sess.Cookie.Secure = o.Secure
	s.sess.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, err error) {
		s.log.Error("session", "err", err)
		writeProblem(w, http.StatusServiceUnavailable, "the database can't be reached; nothing was changed, try again in a moment")
	}

	r := gin.New()
	_ = r.SetTrustedProxies(nil)
	r.Use(s.logRequests, gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, v any) {
		s.log.Error("panic", "value", v, "path", c.Request.URL.Path)
		writeProblem(c.Writer, http.StatusInternalServerError, "something went wrong here; nothing was changed")
		c.Abort()
	}), headers, limitTime)
	s.register(humagin.New(r, config()))
	r.NoRoute(frontEnd())

	cop := http.NewCrossOriginProtection()
	cop.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, http.StatusForbidden, "this request came from another site")
	}))
	return cop.Handler(s.sess.LoadAndSave(r))
}

func headers(c *gin.Context) {
	nonce := rand.Text()
	c.Set("nonce", nonce)
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", strings.Replace(csp, "%NONCE%", nonce, 1))
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

func limitTime(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), requestTime)
	defer cancel()
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

func (s *server) logRequests(c *gin.Context) {
	start := time.Now()
	c.Next()
	s.log.LogAttrs(c, slog.LevelInfo, "request", slog.String("method", c.Request.Method), slog.String("path", c.Request.URL.Path),
		slog.Int("status", c.Writer.Status()), slog.Int("bytes", c.Writer.Size()), slog.Duration("took", time.Since(start)))
}
