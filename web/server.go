// Package web is the HTTP interface: sessions, typed operations, headers and
// the built front end. It holds no rule of the job.
package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"reflect"
	"runtime/debug"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"notchback/app/house"
	"notchback/store"
	wire "notchback/web/api"
	"notchback/web/door"
	"notchback/web/routes"
)

const csp = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'nonce-%NONCE%'; img-src 'self' data: blob:; media-src 'self' blob:; font-src 'self'; " +
	"connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// permissions leaves the camera, the microphone and the screen's staying on to our
// own pages and everything else to nobody.
const permissions = "camera=(self), microphone=(self), screen-wake-lock=(self), autoplay=(self), fullscreen=(self), " +
	"accelerometer=(), display-capture=(), geolocation=(), gyroscope=(), hid=(), magnetometer=(), midi=(), payment=(), serial=(), usb=(), xr-spatial-tracking=()"

// A web session ends when it was not used for idle, and in any case after its life.
const (
	SessionIdle = 12 * time.Hour
	sessionLife = 14 * 24 * time.Hour
)

// pageTime is how long a page or a file of the interface may take.
const pageTime = 2 * time.Minute

// packFrom is the size from which an answer is compressed, in bytes (house).
const packFrom = 1024

// httpsFor is how long a browser is told to come by https only, in seconds.
const httpsFor = "31536000"

type server struct {
	app  *house.House
	sess *scs.SessionManager
	log  *slog.Logger
	opts Options
}

// Options of a server.
type Options struct {
	Log *slog.Logger
	// Secure says that browsers reach the server by https: cookies are marked for it
	// and browsers told to stay with it.
	Secure bool
	// Proxies are the addresses or networks whose word on where a request came from
	// is taken.
	Proxies []string
	// Now is the clock of web sessions; the wall's when nil.
	Now func() time.Time
	// Meter counts requests; nothing is counted without one.
	Meter *Meter
	// Tracer tells how long requests took; nothing is told without one.
	Tracer *Tracer
	// Stopping is closed when the server takes no new work.
	Stopping <-chan struct{}
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
	c.Servers = []*huma.Server{{URL: "/", Description: "this installation"}}
	c.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		door.BySession: {Type: "apiKey", In: "cookie", Name: "notchback", Description: "Of a person who signed in; behind https its name begins with __Host-"},
		door.ByKey:     {Type: "http", Scheme: "bearer", Description: "Of a program, with a key a person made on their own page: it looks, or does what a coach may"},
		door.ByPhone:   {Type: "apiKey", In: "cookie", Name: "notchback-pocket", Description: "Of a runner's own phone; behind https its name begins with __Host-"},
	}
	c.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", func(t reflect.Type, hint string) string {
		name := huma.DefaultSchemaNamer(t, hint)
		for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
			t = t.Elem()
		}
		_, room, found := strings.Cut(t.PkgPath(), "notchback/core/")
		if strings.HasSuffix(t.PkgPath(), "notchback/app/pocket") {
			room, found = "pocket", true
		}
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
	register(api, nil, scs.New(), door.New(nil, nil, nil), false)
	return api.OpenAPI().MarshalJSON()
}

func register(api huma.API, h *house.House, sess *scs.SessionManager, d *door.Door, secure bool) {
	api.UseMiddleware(d.In)
	(&routes.Routes{API: api, House: h, Sessions: sess, Problem: d.Problem, Known: func(device string, life time.Duration) http.Cookie { return wire.KnownCookie(secure, device, life) }, Phone: func(secret string, life time.Duration) http.Cookie { return door.PhoneCookie(secure, secret, life) }}).All()
}

// New returns the handler of the whole application.
func New(a *house.House, o Options) (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &server{app: a, log: o.Log, sess: scs.New(), opts: o}
	if o.Now == nil {
		o.Now = time.Now
	}
	s.sess.Store = a.Store.Sessions(SessionIdle, o.Now)
	s.sess.HashTokenInStore = true
	s.sess.Lifetime = sessionLife
	s.sess.Cookie.Name = "notchback"
	if o.Secure {
		s.sess.Cookie.Name = "__Host-notchback" // for this host alone, by https alone
	}
	s.sess.Cookie.SameSite = http.SameSiteLaxMode
	s.sess.Cookie.Secure = o.Secure
	s.sess.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.log.Error("session", "id", door.RequestOf(r.Context()).ID, "err", err)
		if strings.Contains(r.Header.Get("Accept"), "text/html") {
			away(w)
			return
		}
		door.WriteProblem(w, http.StatusServiceUnavailable, "the database can't be reached; nothing was changed, try again in a moment")
	}

	r := gin.New()
	r.RemoteIPHeaders = []string{"X-Forwarded-For"}
	if err := r.SetTrustedProxies(o.Proxies); err != nil {
		return nil, fmt.Errorf("trusted proxies: %w", err)
	}
	r.Use(s.recover)
	register(humagin.New(r, config()), a, s.sess, door.New(a, s.sess, o.Log), o.Secure)
	r.NoRoute(frontEnd())

	cop := http.NewCrossOriginProtection()
	cop.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		door.WriteProblem(w, http.StatusForbidden, "this request came from another site")
	}))
	packs, err := gzhttp.NewWrapper(gzhttp.MinSize(packFrom), gzhttp.ContentTypes([]string{"application/json", "application/problem+json", "text/html", "text/csv", "text/calendar", "application/gpx+xml"}))
	if err != nil {
		return nil, fmt.Errorf("compressed answers: %w", err)
	}
	mux := http.NewServeMux()
	signedIn, bare := packs(cop.Handler(s.sess.LoadAndSave(r))), packs(r)
	mux.HandleFunc("/", func(w http.ResponseWriter, r *http.Request) {
		if isFile(r.URL.Path) { // says nothing of anybody, and needs no database
			bare.ServeHTTP(w, r)
			return
		}
		signedIn.ServeHTTP(w, r)
	})
	mux.HandleFunc("GET /livez", func(w http.ResponseWriter, _ *http.Request) { plain(w, http.StatusOK, "ok") })
	mux.HandleFunc("GET /healthz", func(w http.ResponseWriter, _ *http.Request) { plain(w, http.StatusOK, "ok") })
	mux.HandleFunc("GET /readyz", s.ready)
	return s.frame(mux), nil
}

// awayFor is after how many seconds the page that says so looks again.
const awayFor = "5"

// away is the page for a database that can't be reached; it goes on by itself.
func away(w http.ResponseWriter) {
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	h.Set("Retry-After", awayFor)
	h.Set("Refresh", awayFor)
	w.WriteHeader(http.StatusServiceUnavailable)
	_, _ = io.WriteString(w, `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Notchback: one moment</title>
<h1>The database can't be reached</h1>
<p>Nothing was lost. This page looks again every few seconds and goes on by itself.</p>
<p>Whoever runs the server: <code>notchback doctor</code> says what is wrong.</p></html>`)
}

func plain(w http.ResponseWriter, status int, text string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(status)
	_, _ = io.WriteString(w, text+"\n")
}

// ready answers whether the server takes requests: it is not stopping, and the
// database answers and has the schema this program was made for.
func (s *server) ready(w http.ResponseWriter, r *http.Request) {
	select {
	case <-s.opts.Stopping:
		plain(w, http.StatusServiceUnavailable, "stopping")
		return
	default:
	}
	ctx, cancel := context.WithTimeout(r.Context(), 3*time.Second)
	defer cancel()
	if err := s.app.Store.Check(ctx); err != nil {
		s.log.Error("not ready", "err", err)
		plain(w, http.StatusServiceUnavailable, "the database is not ready")
		return
	}
	plain(w, http.StatusOK, "ready")
}

// recover answers for a request that ended in a panic; the program goes on.
func (s *server) recover(c *gin.Context) {
	defer func() {
		v := recover()
		if v == nil {
			return
		}
		if v == http.ErrAbortHandler {
			panic(v)
		}
		q := door.RequestOf(c.Request.Context())
		s.log.Error("panic", "id", q.ID, "operation", q.Operation, "value", fmt.Sprint(v), "stack", string(debug.Stack()))
		door.WriteProblem(c.Writer, http.StatusInternalServerError, "something went wrong here; nothing was changed. Should you ask about it, its number is "+q.ID)
		c.Abort()
	}()
	c.Next()
}

// requestID is the length of a request's number.
const requestID = 12

type nonceKey struct{}

// frame is around every answer: its headers, and one line of the log.
func (s *server) frame(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		start := time.Now()
		ctx, q := door.Named(r.Context(), rand.Text()[:requestID])
		nonce := rand.Text()
		h := w.Header()
		h.Set("Content-Security-Policy", strings.Replace(csp, "%NONCE%", nonce, 1))
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", permissions)
		h.Set("X-Request-Id", q.ID)
		if s.opts.Secure {
			h.Set("Strict-Transport-Security", "max-age="+httpsFor)
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		ctx, traced := s.opts.Tracer.request(ctx, r.Method)
		ctx = context.WithValue(ctx, nonceKey{}, nonce)
		if r.Header.Get("Notchback-Unattended") != "" {
			ctx = store.Unattended(ctx)
		}
		// For pages and their files; the door sets it anew for each operation.
		_ = http.NewResponseController(w).SetWriteDeadline(start.Add(pageTime))
		seen := &statusWriter{ResponseWriter: w, status: http.StatusOK}
		defer func() {
			what := q.Operation
			if what == "" {
				what = "page"
			}
			s.opts.Meter.request(what, seen.status, time.Since(start))
			traced(what, q.ID, seen.status)
			s.log.LogAttrs(ctx, slog.LevelInfo, "request", slog.String("id", q.ID), slog.String("operation", what), slog.Int("status", seen.status), slog.Int64("ms", time.Since(start).Milliseconds()))
		}()
		next.ServeHTTP(seen, r.WithContext(ctx))
	})
}

// statusWriter remembers what was answered.
type statusWriter struct {
	http.ResponseWriter
	status int
	wrote  bool
}

func (w *statusWriter) WriteHeader(status int) {
	if !w.wrote {
		w.status, w.wrote = status, true
	}
	w.ResponseWriter.WriteHeader(status)
}

func (w *statusWriter) Write(b []byte) (int, error) {
	w.wrote = true
	return w.ResponseWriter.Write(b)
}

// Unwrap gives the rest of the library what is behind.
func (w *statusWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }
