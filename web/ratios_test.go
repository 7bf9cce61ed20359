package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"testing"
	"time"

	"github.com/muktihari/fit/decoder"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/core/catalogue"
	"notchback/core/planning"
	"notchback/devices"
	"notchback/formats"
	"notchback/web"
)

// What the application does, against the work under it, in one run: a decoder, the
// database, a library, an empty request. The ratios are printed; only a gross one
// fails. It runs for make bench alone.
func TestRatios(t *testing.T) {
	if os.Getenv("NOTCHBACK_RATIOS") == "" {
		t.Skip("for make bench")
	}
	each := func(fn func()) time.Duration {
		fn() // what is made once is made
		return time.Duration(testing.Benchmark(func(b *testing.B) {
			for b.Loop() {
				fn()
			}
		}).NsPerOp())
	}
	against := func(what string, took time.Duration, under string, bare time.Duration, gross float64) {
		ratio := float64(took) / float64(bare)
		fmt.Printf("%-38s %12s  %7.2f × %-28s %12s\n", what, took, ratio, under, bare)
		assert.Less(t, ratio, gross, "%s against %s", what, under)
	}

	long := devices.Outing{Start: time.Now().AddDate(0, 0, -2), Metres: 60_000, PaceSecond: 360, Cadence: 168}
	now := time.Now()
	read := func(b []byte) func() {
		return func() { _, err := formats.ReadRuns(b, now); require.NoError(t, err) }
	}
	fit, err := long.FIT(1)
	require.NoError(t, err)
	against("a FIT file of six hours", each(read(fit)), "its bare decoder", each(func() {
		for d := decoder.New(bytes.NewReader(fit)); d.Next(); {
			_, err := d.Decode()
			require.NoError(t, err)
		}
	}), 6)
	for _, f := range []struct {
		name  string
		write func(uint64) ([]byte, error)
	}{{"a GPX file of six hours", long.GPX}, {"a TCX file of six hours", long.TCX}} {
		b, err := f.write(1)
		require.NoError(t, err)
		against(f.name, each(read(b)), "a walk of its tokens", each(func() {
			d := xml.NewDecoder(bytes.NewReader(b))
			for {
				if _, err := d.Token(); err != nil {
					require.ErrorIs(t, err, io.EOF)
					return
				}
			}
		}), 6)
	}

	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	previews(t, against)
	plan := planning.Plan(c, planning.Evidence{}, planning.Assume(c))
	against("a plan", each(func() { planning.Plan(c, planning.Evidence{}, planning.Assume(c)) }), "writing it as JSON", each(func() {
		_, err := json.Marshal(plan)
		require.NoError(t, err)
	}), 400)

	st := staged(t, web.Options{})
	coach := signedIn(t, st.Server, demo.Email)
	ask := func(method, path string, body any) func() {
		return func() {
			status, out := coach.do(method, path, body)
			require.Less(t, status, 300, "%s %s %v", method, path, out)
		}
	}
	empty := each(ask("GET", "/api/start", nil))
	sql := func(q string, args ...any) time.Duration {
		return each(func() {
			rows, err := st.owner.Pool().Query(context.Background(), q, args...)
			require.NoError(t, err)
			for rows.Next() {
				_, err := rows.Values()
				require.NoError(t, err)
			}
			require.NoError(t, rows.Err())
		})
	}
	bench := each(ask("GET", "/api/runners", nil))
	against("the bench", bench, "an empty request", empty, 60)
	against("the bench", bench, "its rows by SQL", sql(`SELECT r.*, s.* FROM runners r LEFT JOIN runner_states s ON s.runner_id = r.id`), 60)
	id := coach.runner("Isolde")
	for _, v := range [][2]string{{"a runner", ""}, {"its runs", "/runs"}, {"its screenings", "/screenings"}, {"its ramp", "/ramp"}, {"its block", "/block"}, {"its week for review", "/review"}} {
		against(v[0], each(ask("GET", "/api/runners/"+id+v[1], nil)), "an empty request", empty, 500)
	}
	_, screening := coach.do("POST", "/api/runners/"+id+"/screenings", obj{})
	n := 0
	against("a typed trial", each(func() {
		n++
		ask("PUT", fmt.Sprintf("/api/screenings/%s/trials/knee-to-wall/left/1", screening["id"]), obj{"value": 8 + float64(n%20)/10})()
	}), "an empty request", empty, 150)
	_, link := coach.do("POST", "/api/runners/"+id+"/pocket/links", nil)
	phone := newClient(t, st.Server)
	joined, _ := phone.do("POST", "/api/pocket/join", obj{"token": link["token"], "name": "a phone", "agreed": true})
	require.Equal(t, 200, joined)
	against("the plan a phone carries", each(func() {
		status, _ := phone.do("GET", "/api/pocket/plan", nil)
		require.Equal(t, 200, status)
	}), "an empty request", empty, 1500)
	told := 0
	against("a hundred notes from a phone", each(func() {
		list := []obj{}
		for range 100 {
			told++
			list = append(list, obj{"id": fmt.Sprintf("00000000-0000-4000-8000-%012d", told), "kind": "note", "on": now.Format(time.DateOnly), "at": now.Format(time.RFC3339), "note": "hello"})
		}
		status, out := phone.do("POST", "/api/pocket/reports", obj{"reports": list})
		require.Equal(t, 200, status, "%v", out)
	}), "an empty request", empty, 1500)
	_, block := coach.do("GET", "/api/runners/"+id+"/block", nil)
	today := block["block"].(obj)["today"]
	against("a check-in", each(func() {
		_, day := coach.do("GET", fmt.Sprintf("/api/runners/%s/days/%s", id, today), nil)
		n++
		in := day["day"].(obj)
		in["readings"], in["reason"] = []obj{{"firstStep": n % 3}}, "asked again"
		ask("PUT", fmt.Sprintf("/api/runners/%s/days/%s", id, today), in)()
	}), "an empty request", empty, 1000)
}

// previews looks at a thousand mixed files, packed in one and one by one.
func previews(t *testing.T, against func(what string, took time.Duration, under string, bare time.Duration, gross float64)) {
	st := staged(t, web.Options{})
	coach := signedIn(t, st.Server, demo.Email)
	id := coach.runner("Isolde")
	var list []devices.Dialect
	for i := 0; len(list) < 1000; i++ {
		for _, d := range devices.Dialects(devices.Outing{Start: time.Now().AddDate(0, 0, -1-i%300).Truncate(time.Second), Metres: 6000, PaceSecond: 350, Cadence: 168}, uint64(i)) {
			if kind, _ := formats.Sniff(d.Data); kind == "csv" || len(list) == 1000 {
				continue // a table is mapped first
			}
			d.Name = fmt.Sprintf("%04d-%s", len(list), d.Name)
			list = append(list, d)
		}
	}
	z, err := devices.Zip(list)
	require.NoError(t, err)
	look := func(name string, b []byte) {
		req, err := http.NewRequestWithContext(context.Background(), http.MethodPost, st.URL+"/api/runners/"+id+"/run-files?preview=true&name="+url.QueryEscape(name), bytes.NewReader(b))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/octet-stream")
		res, err := coach.Do(req)
		require.NoError(t, err)
		_, err = io.Copy(io.Discard, res.Body)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
	}
	begun := time.Now()
	look("all.zip", z)
	together := time.Since(begun)
	begun = time.Now()
	for _, d := range list {
		look(d.Name, d.Data)
	}
	against("1,000 mixed files, previewed in a zip", together, "one after the other", time.Since(begun), 4)
}
