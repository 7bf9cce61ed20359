package main

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/house"
	"notchback/store/storetest"
	"notchback/web"
)

// The proxy of the guide, Debian's nginx with the file that ships, in front of a server:
// http goes to https, a sign-in is kept, cookies are for https alone, and nobody says for
// themselves where they come from.
func TestBehindTheProxyOfTheGuide(t *testing.T) {
	nginx, err := exec.LookPath("nginx")
	if err != nil {
		nginx = "/usr/sbin/nginx"
	}
	require.FileExists(t, nginx, "scripts/packages.sh installs it")
	a, err := house.New(storetest.Open(t), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1}))
	require.NoError(t, err)
	_, err = a.Found(context.Background(), account.FirstRun{Practice: "P", Zone: "UTC", Name: "N", Email: "n@example.test", Password: "harbour candle zebra"})
	require.NoError(t, err)
	h, err := web.New(a, web.Options{Log: slog.New(slog.DiscardHandler), Secure: true, Proxies: []string{"127.0.0.1"}})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)

	dir := t.TempDir()
	cert, key := certificate(t)
	pem, err := os.ReadFile(cert)
	require.NoError(t, err)
	pool := x509.NewCertPool()
	require.True(t, pool.AppendCertsFromPEM(pem))
	raw, err := os.ReadFile("../../deploy/nginx.conf")
	require.NoError(t, err)
	plain, secure := freePort(t, "127.0.0.1"), freePort(t, "127.0.0.1")
	site := strings.NewReplacer("listen 80;", "listen "+plain+";", "    listen [::]:80;\n", "", "listen 443 ssl http2;", "listen "+secure+" ssl http2;", "    listen [::]:443 ssl http2;\n", "",
		"/etc/ssl/notchback/fullchain.pem", cert, "/etc/ssl/notchback/privkey.pem", key, "127.0.0.1:8420", strings.TrimPrefix(srv.URL, "http://")).Replace(string(raw))
	conf := fmt.Sprintf("daemon off;\npid %[1]s/pid;\nerror_log %[1]s/log;\nuser root;\nevents {}\nhttp {\naccess_log off;\nclient_body_temp_path %[1]s/b;\nproxy_temp_path %[1]s/p;\nfastcgi_temp_path %[1]s/f;\nuwsgi_temp_path %[1]s/u;\nscgi_temp_path %[1]s/s;\n%[2]s\n}\n", dir, site)
	if os.Geteuid() != 0 {
		conf = strings.Replace(conf, "user root;\n", "", 1)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "nginx.conf"), []byte(conf), 0o600))
	cmd := exec.Command(nginx, "-p", dir, "-e", filepath.Join(dir, "log"), "-c", filepath.Join(dir, "nginx.conf"))
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Signal(os.Interrupt); _ = cmd.Wait() })

	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar, Timeout: 20 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool, ServerName: "coach.example.org", MinVersion: tls.VersionTLS12}}}
	send := func(method, url, body string, header ...string) *http.Response {
		req, err := http.NewRequest(method, url, strings.NewReader(body))
		require.NoError(t, err)
		req.Host = "coach.example.org"
		req.Header.Set("Content-Type", "application/json")
		for i := 0; i+1 < len(header); i += 2 {
			req.Header.Set(header[i], header[i+1])
		}
		res, err := c.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		return res
	}
	require.Eventually(t, func() bool {
		conn, err := net.Dial("tcp", secure)
		if err == nil {
			_ = conn.Close()
		}
		return err == nil
	}, time.Minute, 50*time.Millisecond)
	res := send("GET", "http://"+plain+"/runners", "")
	assert.Equal(t, 301, res.StatusCode)
	assert.Equal(t, "https://coach.example.org/runners", res.Header.Get("Location"))
	at := "https://" + secure
	assert.Equal(t, 401, send("GET", at+"/api/runners", "").StatusCode)
	res = send("POST", at+"/api/session", `{"email":"n@example.test","password":"harbour candle zebra"}`)
	require.Equal(t, 200, res.StatusCode)
	assert.NotEmpty(t, res.Header.Get("Strict-Transport-Security"))
	require.Len(t, res.Cookies(), 2, "the session, and that this browser was here")
	for _, k := range res.Cookies() {
		assert.True(t, strings.HasPrefix(k.Name, "__Host-notchback") && k.Secure && k.HttpOnly, k.String())
	}
	assert.Equal(t, 200, send("GET", at+"/api/runners", "").StatusCode, "kept")
	assert.Equal(t, 403, send("POST", at+"/api/runners", `{"name":"X"}`, "Origin", "https://elsewhere.example").StatusCode)

	// Where a request says it came from is replaced: wrong tries of one are one's own.
	last := 0
	for i := range 40 {
		last = send("POST", at+"/api/session", `{"email":"nobody@example.test","password":"wrong"}`, "X-Forwarded-For", fmt.Sprintf("10.1.2.%d", i)).StatusCode
	}
	assert.Equal(t, 429, last)
}
