package web_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/devices"
)

// text fetches a file and returns its content type and text.
func (c *client) text(path string) (string, string) {
	c.t.Helper()
	res, err := c.Get(c.url + path)
	require.NoError(c.t, err)
	defer func() { _ = res.Body.Close() }()
	require.Equal(c.t, http.StatusOK, res.StatusCode, path)
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.Header.Get("Content-Type"), string(raw)
}

func (c *client) runs(id string) []any {
	c.t.Helper()
	status, out := c.do("GET", "/api/runners/"+id+"/runs", nil)
	require.Equal(c.t, 200, status)
	return out["items"].([]any)
}

func (c *client) newRunner(name string) string {
	c.t.Helper()
	status, out := c.do("POST", "/api/runners", obj{"name": name})
	require.Equal(c.t, 200, status, "%v", out)
	return out["id"].(string)
}

func ago(days int) string { return time.Now().UTC().AddDate(0, 0, -days).Format(time.DateOnly) }

// Every kind of file comes in once over the wire; what can't be a run is refused
// with its reason and leaves nothing behind.
func TestRunFilesOverTheWire(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	id := c.newRunner("Files Only")
	list := devices.Outings(time.Now().UTC().AddDate(0, 0, -3), 2, 30, 9)
	require.NotEmpty(t, list)
	send := func(name string, b []byte) (int, obj) {
		return c.do("POST", "/api/runners/"+id+"/run-files?name="+name, b)
	}
	for i, o := range list {
		for kind, write := range map[string]func(uint64) ([]byte, error){"fit": o.FIT, "gpx": o.GPX, "tcx": o.TCX} {
			b, err := write(uint64(i))
			require.NoError(t, err)
			status, out := send("run."+kind, b)
			require.Equal(t, 200, status, "%s: %v", kind, out)
		}
	}
	have := c.runs(id)
	assert.Len(t, have, len(list), "each once, though in three formats")

	fit, err := list[0].FIT(0)
	require.NoError(t, err)
	wrong := bytes.Clone(fit)
	wrong[len(wrong)-1] ^= 0xff
	var zipped bytes.Buffer
	z := gzip.NewWriter(&zipped)
	_, err = z.Write(fit)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	bomb := `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><gpx><trk><name>&b;</name></trk></gpx>`
	for name, b := range map[string][]byte{
		"empty": {}, "words.fit": []byte("not a run"), "cut.fit": fit[:len(fit)/2], "crc.fit": wrong, "run.fit.gz": zipped.Bytes(),
		"bomb.gpx": []byte(bomb), "deep.tcx": []byte(strings.Repeat("<a>", 100000)), "half.gpx": []byte("<gpx><trk><trkseg><trkpt lat='1'"),
		"far.csv":  []byte("date,distance (km),time\n" + ago(3) + ",900,60:00\n"),
		"past.csv": []byte("date,distance (km),time\n1970-01-01,5,30:00\n"), "ahead.csv": []byte("date,distance (km),time\n2099-01-01,5,30:00\n"),
		"less.csv": []byte("date,distance (km),time\n" + ago(3) + ",-5,30:00\n"),
	} {
		status, out := send(name, b)
		if status == 200 {
			added, _ := out["added"].(float64)
			assert.Zero(t, added, "%s: %v", name, out)
			continue
		}
		assert.GreaterOrEqual(t, status, 400, name)
		assert.Less(t, status, 500, "%s: %v", name, out)
		assert.NotEmpty(t, out["detail"], name)
	}
	assert.Len(t, c.runs(id), len(list), "nothing half-written")

	kind, csv := c.text("/api/runners/" + id + "/runs/files/csv")
	assert.Contains(t, kind, "text/csv")
	assert.Equal(t, len(list)+1, strings.Count(strings.TrimSpace(csv), "\n")+1, "a header and a line a run")
	_, gpx := c.text("/api/runners/" + id + "/runs/files/gpx")
	assert.Equal(t, len(list), strings.Count(gpx, "<trk>"))

	other := c.newRunner("Files Again")
	status, out := c.do("POST", "/api/runners/"+other+"/run-files?name=own.csv", []byte(csv))
	require.Equal(t, 200, status, "%v", out)
	again := c.runs(other)
	require.Len(t, again, len(list), "the program reads its own table")
	for i := range again {
		assert.InDelta(t, have[i].(obj)["km"], again[i].(obj)["km"], 0.01)
		assert.Equal(t, have[i].(obj)["on"], again[i].(obj)["on"])
	}
}

// A typed run is corrected at the revision that was read, and taken out.
func TestATypedRunAndItsWeek(t *testing.T) {
	c := signedIn(t, server(t, true), demo.Email)
	id := c.newRunner("Typed Only")
	runs := "/api/runners/" + id + "/runs"
	for _, k := range []struct {
		in    obj
		field string
	}{
		{obj{"on": ago(2), "km": 900, "minutes": 60}, "km"},
		{obj{"on": ago(2), "km": -1, "minutes": 60}, "km"},
		{obj{"on": ago(2), "km": 10, "minutes": 0}, "minutes"},
		{obj{"on": "2099-01-01", "km": 10, "minutes": 60}, "on"},
		{obj{"on": "1970-01-01", "km": 10, "minutes": 60}, "on"},
		{obj{"on": ago(2), "km": 10, "minutes": 60, "pain": 11}, "pain"},
		{obj{"on": ago(2), "km": 10, "minutes": 60, "effort": 11}, "effort"},
		{obj{"on": ago(2), "km": 10, "minutes": 60, "cadence": 20}, "cadence"},
		{obj{"on": ago(2), "km": 10, "minutes": 60, "startedAt": "25:00"}, "startedAt"},
	} {
		status, out := c.do("POST", runs, k.in)
		assert.Equal(t, 422, status, "%v", k.in)
		assert.Contains(t, fmt.Sprint(out["errors"]), k.field, "%v", k.in)
	}
	assert.Empty(t, c.runs(id))

	status, run := c.do("POST", runs, obj{"on": ago(2), "km": 10, "minutes": 60, "pain": 2, "effort": 4})
	require.Equal(t, 200, status, "%v", run)
	at := fmt.Sprintf("/api/runs/%s?rev=%v", run["id"], run["rev"])
	status, _ = c.do("PUT", at, obj{"on": ago(2), "km": 11.5, "minutes": 66, "limping": true})
	require.Equal(t, 422, status, "what was told before is changed with a word why")
	status, changed := c.do("PUT", at, obj{"on": ago(2), "km": 11.5, "minutes": 66, "limping": true, "reason": "read off wrong"})
	require.Equal(t, 200, status, "%v", changed)
	assert.EqualValues(t, 11.5, changed["km"])
	status, _ = c.do("PUT", at, obj{"on": ago(2), "km": 12, "minutes": 66})
	assert.Equal(t, 409, status, "somebody changed it since")
	status, load := c.do("GET", "/api/runners/"+id+"/load", nil)
	require.Equal(t, 200, status)
	assert.Contains(t, load["adviceText"], "No running", "limping closes running")
	status, _ = c.do("DELETE", at, nil)
	assert.Equal(t, 409, status)
	status, _ = c.do("DELETE", fmt.Sprintf("/api/runs/%s?rev=%v&reason=twice", run["id"], changed["rev"]), nil)
	assert.Equal(t, 200, status)
	assert.Empty(t, c.runs(id))

	monday := time.Now().UTC().AddDate(0, 0, 7)
	for monday.Weekday() != time.Monday {
		monday = monday.AddDate(0, 0, 1)
	}
	next := monday.Format(time.DateOnly)
	status, _ = c.do("PUT", "/api/runners/"+id+"/planned-weeks/"+monday.AddDate(0, 0, 2).Format(time.DateOnly), obj{"km": 30})
	assert.Equal(t, 422, status, "a week begins on Monday")
	status, out := c.do("PUT", "/api/runners/"+id+"/planned-weeks/"+next, obj{"km": 9000})
	assert.Equal(t, 422, status, "%v", out)
	status, out = c.do("PUT", "/api/runners/"+id+"/planned-weeks/"+next, obj{"km": 30})
	assert.Equal(t, 200, status, "%v", out)
	status, out = c.do("PUT", "/api/runners/"+id+"/days/"+ago(1), obj{"barefootMinutes": 5000})
	assert.Equal(t, 422, status, "%v", out)
	status, out = c.do("PUT", "/api/runners/"+id+"/days/2099-01-01", obj{"note": "x"})
	assert.Equal(t, 422, status, "%v", out)
	status, _ = c.do("GET", "/api/runners/"+id+"/days/yesterday", nil)
	assert.Equal(t, 422, status)
}
