package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"html"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"notchback/app"
	"notchback/app/demo"
	"notchback/app/house"
	"notchback/store"
	"notchback/web"
)

// Times of the server (house).
const (
	reviewEvery = time.Hour        // looks whether a night has passed; each runner is reviewed once a day
	sweepEvery  = time.Minute      // looks for clips left to turn or to delete
	housekeep   = 10 * time.Minute // ends sessions and answers that are over
	drainTime   = 30 * time.Second // for what is in flight when the server stops
)

// settings are what the environment says of how browsers reach the server.
type settings struct {
	cert    *tls.Certificate
	public  *url.URL
	proxies []string
	plain   bool // http in the open, said to be wanted
	level   slog.Level
}

func readSettings() (settings, error) {
	var s settings
	cert, key := os.Getenv("NOTCHBACK_TLS_CERT"), os.Getenv("NOTCHBACK_TLS_KEY")
	if (cert == "") != (key == "") {
		return s, errors.New("NOTCHBACK_TLS_CERT and NOTCHBACK_TLS_KEY go together: the files of a certificate and its key")
	}
	if cert != "" {
		pair, err := tls.LoadX509KeyPair(cert, key)
		if err != nil {
			return s, fmt.Errorf("NOTCHBACK_TLS_CERT and NOTCHBACK_TLS_KEY: %w", err)
		}
		s.cert = &pair
	}
	if v := os.Getenv("NOTCHBACK_PUBLIC_URL"); v != "" {
		u, err := url.Parse(v)
		if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			return s, fmt.Errorf("NOTCHBACK_PUBLIC_URL %q: expected an address like https://coach.example.org", v)
		}
		s.public = u
	}
	for p := range strings.SplitSeq(os.Getenv("NOTCHBACK_PROXIES"), ",") {
		if p = strings.TrimSpace(p); p != "" {
			s.proxies = append(s.proxies, p)
		}
	}
	switch v := os.Getenv("NOTCHBACK_PLAIN_HTTP"); v {
	case "", "no":
	case "yes":
		s.plain = true
	default:
		return s, fmt.Errorf("NOTCHBACK_PLAIN_HTTP %q: expected yes or no", v)
	}
	switch v := os.Getenv("NOTCHBACK_LOG"); v {
	case "", "warn":
		s.level = slog.LevelWarn
	case "info":
		s.level = slog.LevelInfo
	case "error":
		s.level = slog.LevelError
	default:
		return s, fmt.Errorf("NOTCHBACK_LOG %q: expected error, warn or info", v)
	}
	return s, nil
}

// secure reports whether browsers come by https.
func (s settings) secure() bool {
	return s.cert != nil || s.public != nil && s.public.Scheme == "https"
}

// open reports whether what browsers send would cross a network unencrypted
// without anybody having said that this is wanted.
func (s settings) open(addr net.Addr) bool {
	if s.secure() || s.plain {
		return false
	}
	host, _, err := net.SplitHostPort(addr.String())
	ip := net.ParseIP(host)
	return err != nil || ip == nil || !ip.IsLoopback()
}

// whyNot is all that a server says that would be reached unencrypted.
func whyNot(addr net.Addr) http.Handler {
	page := fmt.Sprintf(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Notchback is not open here</title>
<h1>Notchback is not open here</h1>
<p>This address, %s, is reached without encryption. Passwords and people's records would cross the network in the clear.</p>
<p>Whoever runs the server can do one of these and start it again:</p>
<ul><li>give it a certificate: <code>NOTCHBACK_TLS_CERT</code> and <code>NOTCHBACK_TLS_KEY</code></li>
<li>put a proxy with https in front: <code>NOTCHBACK_PUBLIC_URL=https://…</code> and <code>NOTCHBACK_PROXIES</code></li>
<li>on a network nobody else is on, allow it: <code>NOTCHBACK_PLAIN_HTTP=yes</code></li></ul>`, html.EscapeString(addr.String()))
	return http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		h := w.Header()
		h.Set("Content-Type", "text/html; charset=utf-8")
		h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		w.WriteHeader(http.StatusForbidden)
		_, _ = w.Write([]byte(page))
	})
}

// settleEvery is how often is looked for what phones told and nothing followed from.
const settleEvery = 5 * time.Second

// works are the server's own jobs beside its requests.
type works struct {
	sync.WaitGroup
	log    *slog.Logger
	meter  *web.Meter
	tracer *web.Tracer
}

// every runs a job now and again until the context ends. A job that fails or
// panics is logged and tried again at its next time.
func (w *works) every(ctx context.Context, pause time.Duration, name string, job func(context.Context) error) {
	w.Go(func() {
		t := time.NewTicker(pause)
		defer t.Stop()
		for {
			start := time.Now()
			traced, end := w.tracer.Job(ctx, name)
			err := safely(traced, job)
			end(err)
			if ctx.Err() == nil {
				w.meter.Job(name, time.Since(start), err)
				if err != nil {
					w.log.Error("job failed", "job", name, "err", err)
				}
			}
			select {
			case <-ctx.Done():
				return
			case <-t.C:
			}
		}
	})
}

// safely is a job whose panic is an error.
func safely(ctx context.Context, job func(context.Context) error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			err = fmt.Errorf("panic: %v\n%s", v, debug.Stack())
		}
	}()
	return job(ctx)
}

func serve(ctx context.Context, withDemo bool) error {
	address, err := setting("NOTCHBACK_DATABASE_URL")
	if err != nil {
		return err
	}
	set, err := readSettings()
	if err != nil {
		return err
	}
	l, err := listen()
	if err != nil {
		return err
	}
	defer func() { _ = l.Close() }()
	log := slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: set.level}))
	var tracer *web.Tracer
	if to := os.Getenv("NOTCHBACK_TRACES_TO"); to != "" {
		if tracer, err = web.NewTracer(ctx, to, log); err != nil {
			return fmt.Errorf("NOTCHBACK_TRACES_TO %w", err)
		}
		defer tracer.Close()
	}
	s, err := store.OpenTold(ctx, address, tracer.Database())
	if err != nil {
		return err
	}
	defer s.Close()
	opts, err := clipFolder()
	if err != nil {
		return err
	}
	opts = append(opts, app.WithLog(log))
	if withDemo {
		if err := migrate(ctx); err != nil {
			return err
		}
		if err := demo.Load(ctx, s, time.Now(), opts...); err != nil {
			return err
		}
	}
	if err := s.Check(ctx); err != nil {
		return err
	}
	a, err := house.New(s, opts...)
	if err != nil {
		return err
	}
	var meter *web.Meter
	if at := os.Getenv("NOTCHBACK_METRICS_ADDR"); at != "" {
		meter = web.NewMeter(s)
		end, err := measure(at, meter)
		if err != nil {
			return err
		}
		defer end()
	}
	jobs := works{log: log, meter: meter, tracer: tracer}
	work, endWork := context.WithCancel(context.Background())
	defer func() {
		endWork()
		jobs.Wait()
		a.Close()
	}()
	stopping := make(chan struct{})
	handler, err := web.New(a, web.Options{Log: log, Secure: set.secure(), Proxies: set.proxies, Meter: meter, Tracer: tracer, Stopping: stopping})
	if err != nil {
		return err
	}
	if set.open(l.Addr()) {
		handler = whyNot(l.Addr())
	}
	jobs.every(work, reviewEvery, "nightly review", func(ctx context.Context) error {
		n, err := a.ReviewAll(ctx)
		meter.Done("runners reviewed", n.Runners)
		return err
	})
	jobs.every(work, settleEvery, "reports", func(ctx context.Context) error { return a.SettleReports(ctx) })
	jobs.every(work, sweepEvery, "clips", func(ctx context.Context) error {
		n, err := a.SweepClips(ctx)
		meter.Done("clips taken up again", n.Resumed)
		meter.Done("clips deleted", n.Deleted)
		return err
	})
	jobs.every(work, reviewEvery, "files", func(ctx context.Context) error { _, err := a.SweepFiles(ctx); return err })
	jobs.every(work, reviewEvery, "records that are due to go", func(ctx context.Context) error {
		n, err := a.EraseDue(ctx)
		meter.Done("records deleted when due", n)
		return err
	})
	jobs.every(work, housekeep, "housekeeping", func(ctx context.Context) error { _, err := a.Housekeep(ctx, web.SessionIdle); return err })
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 90 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 32 << 10,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	drained := make(chan error, 1)
	go func() {
		<-ctx.Done()
		close(stopping)
		end, cancel := context.WithTimeout(context.Background(), drainTime)
		defer cancel()
		drained <- safely(end, srv.Shutdown)
	}()
	link := ""
	if withDemo {
		if link, err = demo.Link(context.Background(), a); err != nil {
			log.Warn("no link for a phone", "err", err)
		}
	}
	say(l.Addr(), set, withDemo, link)
	if why := a.Unprotected(); why != "" {
		fmt.Printf("  Clips are looked at without a sandbox: %s.\n\n", why)
	}
	if set.cert != nil {
		l = tls.NewListener(l, &tls.Config{Certificates: []tls.Certificate{*set.cert}, MinVersion: tls.VersionTLS12, NextProtos: []string{"http/1.1"}})
	}
	if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return <-drained // what is in flight is answered before anything is closed
}

// measure answers Prometheus at an address of its own.
func measure(at string, m *web.Meter) (end func(), err error) {
	l, err := net.Listen("tcp", at)
	if err != nil {
		return nil, fmt.Errorf("NOTCHBACK_METRICS_ADDR %q: %w", at, err)
	}
	srv := &http.Server{Handler: m.Handler(), ReadHeaderTimeout: 5 * time.Second, WriteTimeout: 30 * time.Second}
	go func() { _ = safely(context.Background(), func(context.Context) error { return srv.Serve(l) }) }()
	return func() { _ = srv.Close() }, nil
}

func say(addr net.Addr, set settings, withDemo bool, link string) {
	scheme := "http"
	if set.cert != nil {
		scheme = "https"
	}
	at := scheme + "://" + addr.String()
	if set.public != nil {
		at = set.public.String()
	}
	fmt.Printf("\n  Notchback is open at  %s\n", at)
	if set.open(addr) {
		fmt.Printf("  It only says there why it is not: %s is reached without encryption.\n", addr)
	}
	if withDemo {
		fmt.Printf("  Sign in with          %s  /  %s\n", demo.Email, demo.Password)
		fmt.Printf("  A second practice     %s  /  %s\n", demo.OtherEmail, demo.Password)
		if link != "" {
			fmt.Printf("  %s's phone        %s/pocket#%s\n", demo.PhoneRunner, at, link)
		}
	}
	fmt.Printf("  Stop with             Ctrl-C\n\n")
}
