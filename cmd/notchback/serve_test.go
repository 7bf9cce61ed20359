package main

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/big"
	"net"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/store"
	"notchback/store/storetest"
)

func freePort(t *testing.T, host string) string {
	l, err := net.Listen("tcp", host+":0")
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	_, port, _ := net.SplitHostPort(l.Addr().String())
	return host + ":" + port
}

// serving runs the command serve on a database of its own until stop is called,
// which returns what it ended with.
func serving(t *testing.T, addr string, env ...string) (stop func() error) {
	t.Helper()
	t.Setenv("NOTCHBACK_DATABASE_URL", storetest.Fresh(t).App)
	t.Setenv("NOTCHBACK_CLIPS", "")
	t.Setenv("NOTCHBACK_ADDR", addr)
	for i := 0; i+1 < len(env); i += 2 {
		t.Setenv(env[i], env[i+1])
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- serve(ctx, false) }()
	t.Cleanup(cancel)
	ask := &http.Client{Transport: &http.Transport{DisableKeepAlives: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	for {
		for _, scheme := range []string{"http://", "https://"} {
			res, err := ask.Get(scheme + addr + "/healthz")
			if err == nil {
				_ = res.Body.Close()
			}
			if err == nil && (res.StatusCode != http.StatusBadRequest || scheme == "https://") {
				return func() error { cancel(); return <-ended }
			}
		}
		select {
		case err := <-ended:
			require.NoError(t, err, "the server ended")
		case <-time.After(20 * time.Millisecond):
		}
	}
}

const found = `{"practice":"Headland","zone":"UTC","name":"Ada","email":"ada@example.test","password":"slow tide over stones"}`

// What is in flight when the server is told to stop is answered.
func TestStoppingAnswersWhatIsInFlight(t *testing.T) {
	addr := freePort(t, "127.0.0.1")
	stop := serving(t, addr)
	c, err := net.Dial("tcp", addr)
	require.NoError(t, err)
	defer func() { _ = c.Close() }()
	_, err = fmt.Fprintf(c, "POST /api/first-run HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nExpect: 100-continue\r\nContent-Length: %d\r\n\r\n", len(found))
	require.NoError(t, err)
	// The server reads: earlier would be the end of an idle connection.
	in := bufio.NewReader(c)
	said, err := in.ReadString('\n')
	require.NoError(t, err)
	require.Contains(t, said, "100 Continue")
	_, err = in.ReadString('\n')
	require.NoError(t, err)
	_, err = io.WriteString(c, found[:20])
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- stop() }()
	for { // nobody new is let in any more
		n, err := net.Dial("tcp", addr)
		if err != nil {
			break
		}
		_ = n.Close()
	}
	_, err = io.WriteString(c, found[20:])
	require.NoError(t, err)
	res, err := http.ReadResponse(in, nil)
	require.NoError(t, err)
	assert.Equal(t, 200, res.StatusCode)
	_ = res.Body.Close()
	require.NoError(t, <-ended)
}

func TestAServerDoesNotStartOnAnotherSchema(t *testing.T) {
	u := storetest.Fresh(t)
	c, err := pgx.Connect(context.Background(), u.Owner)
	require.NoError(t, err)
	_, err = c.Exec(context.Background(), `DELETE FROM goose_db_version WHERE id = (SELECT max(id) FROM goose_db_version)`)
	require.NoError(t, err)
	require.NoError(t, c.Close(context.Background()))
	t.Setenv("NOTCHBACK_DATABASE_URL", u.App)
	t.Setenv("NOTCHBACK_CLIPS", "")
	t.Setenv("NOTCHBACK_ADDR", "127.0.0.1:0")
	require.ErrorIs(t, serve(context.Background(), false), store.ErrSchema)
}

func certificate(t *testing.T) (cert, key string) {
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}, DNSNames: []string{"coach.example.org"}}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &k.PublicKey, k)
	require.NoError(t, err)
	raw, err := x509.MarshalPKCS8PrivateKey(k)
	require.NoError(t, err)
	dir := t.TempDir()
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: raw}), 0o600))
	return cert, key
}

func signsIn(t *testing.T, c *http.Client, at string) {
	t.Helper()
	res, err := c.Post(at+"/api/first-run", "application/json", strings.NewReader(found))
	require.NoError(t, err)
	_ = res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	assert.NotEmpty(t, res.Header.Get("Strict-Transport-Security"))
	require.Len(t, res.Cookies(), 1)
	assert.True(t, res.Cookies()[0].Secure)
	req, err := http.NewRequest("GET", at+"/api/runners", nil)
	require.NoError(t, err)
	req.AddCookie(res.Cookies()[0])
	res, err = c.Do(req)
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
}

func TestHTTPSByAnOwnCertificate(t *testing.T) {
	cert, key := certificate(t)
	addr := freePort(t, "127.0.0.1")
	stop := serving(t, addr, "NOTCHBACK_TLS_CERT", cert, "NOTCHBACK_TLS_KEY", key)
	c := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	signsIn(t, c, "https://"+addr)
	c.CloseIdleConnections()
	require.NoError(t, stop())
}

func TestHTTPSBehindAProxy(t *testing.T) {
	addr := freePort(t, "127.0.0.1")
	stop := serving(t, addr, "NOTCHBACK_PUBLIC_URL", "https://coach.example.test", "NOTCHBACK_PROXIES", "127.0.0.1")
	to, err := url.Parse("http://" + addr)
	require.NoError(t, err)
	front := httptest.NewTLSServer(&httputil.ReverseProxy{Rewrite: func(r *httputil.ProxyRequest) { r.SetURL(to); r.SetXForwarded() }})
	signsIn(t, front.Client(), front.URL)
	front.Close()
	http.DefaultTransport.(*http.Transport).CloseIdleConnections()
	require.NoError(t, stop())
}

// On a network without encryption the server says why it is not open, unless told
// that it is wanted.
func TestInTheOpenTheServerSaysWhyNot(t *testing.T) {
	port := freePort(t, "127.0.0.1")[len("127.0.0.1"):]
	stop := serving(t, "0.0.0.0"+port)
	get := func(path string) (int, string) {
		res, err := http.Get("http://127.0.0.1" + port + path)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(b)
	}
	status, page := get("/api/session")
	assert.Equal(t, 403, status)
	assert.Contains(t, page, "NOTCHBACK_PLAIN_HTTP=yes")
	http.DefaultTransport.(*http.Transport).CloseIdleConnections()
	require.NoError(t, stop())
	stop = serving(t, "0.0.0.0"+port, "NOTCHBACK_PLAIN_HTTP", "yes")
	status, _ = get("/api/session")
	assert.Equal(t, 200, status)
	http.DefaultTransport.(*http.Transport).CloseIdleConnections()
	require.NoError(t, stop())
}

func TestSettingsThatCantBe(t *testing.T) {
	for name, v := range map[string]string{"NOTCHBACK_TLS_CERT": "/x", "NOTCHBACK_PUBLIC_URL": "coach.example", "NOTCHBACK_PLAIN_HTTP": "maybe", "NOTCHBACK_LOG": "loud"} {
		t.Run(name, func(t *testing.T) {
			t.Setenv(name, v)
			_, err := readSettings()
			require.ErrorContains(t, err, name)
		})
	}
	t.Setenv("NOTCHBACK_LOG", "info")
	s, err := readSettings()
	require.NoError(t, err)
	assert.Equal(t, slog.LevelInfo, s.level)
}

// A job that panics is logged with its stack and comes again; the server goes on.
func TestAJobThatPanicsComesAgain(t *testing.T) {
	var said strings.Builder
	w := works{log: slog.New(slog.NewTextHandler(&said, nil))}
	ctx, cancel := context.WithCancel(context.Background())
	var n atomic.Int32
	w.every(ctx, time.Millisecond, "the job", func(context.Context) error {
		switch n.Add(1) {
		case 1:
			panic("broken record")
		case 2:
			return errors.New("no database")
		case 3:
			cancel()
		}
		return nil
	})
	w.Wait()
	assert.GreaterOrEqual(t, n.Load(), int32(3))
	for _, x := range []string{"broken record", "goroutine", "no database", "the job"} {
		assert.Contains(t, said.String(), x)
	}
}
