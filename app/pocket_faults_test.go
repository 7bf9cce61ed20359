package app_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/pocket"
	"notchback/core/day"
	"notchback/store"
)

// syncing is the server that takes a phone's reports until it is killed: it says of
// each what it answered.
func syncing(url string) {
	a := must(house.New(must(store.Open(ctx, url)), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1})))
	act := must(a.EnterPocket(ctx, os.Getenv("NOTCHBACK_VICTIM_PHONE"), "sendPocketReports"))
	var list []pocket.Report
	if err := json.Unmarshal(must(os.ReadFile(os.Getenv("NOTCHBACK_VICTIM_REPORTS"))), &list); err != nil {
		panic(err)
	}
	fmt.Println("told started -")
	for from := 0; from < len(list); from += 20 {
		for _, t := range must(a.Sync(ctx, act, list[from:min(len(list), from+20)])) {
			fmt.Println("told", t.ID, t.State)
		}
	}
	fmt.Println("told all -")
	os.Exit(0)
}

// A server that is killed at any moment while a phone sends loses no report it said it
// has, and does none of them twice.
func TestKilledServersKeepEachReportOnce(t *testing.T) {
	r := newRig(t, 12)
	r.clock = time.Now()
	_, secret := r.phone()
	today := day.Of(r.clock, time.UTC)
	n, most := 240, kills()/4
	if os.Getenv("NOTCHBACK_KILLS") != "" {
		n, most = 1000, 50
	}
	var all []pocket.Report
	for i := range n {
		on := today - day.Date(i%50)
		x := r.report(pocket.OfMorning, on)
		x.Morning = &pocket.MorningPart{Readings: []input.PlaceReading{{FirstStep: ptr(i % 3)}}}
		if i%4 == 3 {
			x = r.report(pocket.OfRun, on)
			x.Run = &pocket.RunPart{Km: 3 + float64(i%50)/10, Minutes: 30 + float64(i%7)}
		}
		all = append(all, x)
	}
	told := map[string]bool{}
	runs := 0
	for _, x := range all {
		if x.Kind == pocket.OfRun {
			runs++
		}
	}
	rng := rand.New(rand.NewPCG(5, 12))
	file := filepath.Join(t.TempDir(), "reports.json")
	for round := 0; len(told) < n; round++ {
		require.Less(t, round, most+40)
		var left []pocket.Report
		for _, x := range all {
			if !told[x.ID] {
				left = append(left, x)
			}
		}
		raw, err := json.Marshal(left)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(file, raw, 0o600))
		cmd := exec.Command(os.Args[0])
		cmd.Env = append(os.Environ(), "NOTCHBACK_VICTIM_DATABASE="+r.address, "NOTCHBACK_VICTIM_PHONE="+secret, "NOTCHBACK_VICTIM_REPORTS="+file)
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			f := strings.Fields(lines.Text())
			if len(f) != 3 || f[0] != "told" {
				continue
			}
			switch {
			case f[1] == "started" && round < most:
				time.AfterFunc(time.Duration(5+rng.IntN(250))*time.Millisecond, func() { _ = cmd.Process.Kill() })
			case len(f[1]) == 36:
				told[f[1]] = true
			}
		}
		_ = cmd.Wait()
	}
	for {
		require.NoError(t, r.a.SettleReports(ctx))
		var waiting int
		require.NoError(t, r.asOwner(t).QueryRow(ctx, `SELECT count(*) FROM pocket_reports WHERE state = 'received'`).Scan(&waiting))
		if waiting == 0 {
			break
		}
	}
	var kept, done, stored int
	require.NoError(t, r.asOwner(t).QueryRow(ctx, `SELECT count(*), count(*) FILTER (WHERE state = 'taken') FROM pocket_reports`).Scan(&kept, &done))
	assert.Equal(t, n, kept)
	assert.Equal(t, n, done)
	require.NoError(t, r.asOwner(t).QueryRow(ctx, `SELECT count(DISTINCT id) FROM runs`).Scan(&stored))
	assert.Equal(t, runs, stored, "each run stands once")
}
