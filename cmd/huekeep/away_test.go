package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
)

// The store of files is away for a while: what needs no file goes on, what is uploaded is refused with the reason, and what is under way waits, however often
// it was tried, and ends by itself afterward. Half of the time it hangs up, half of the time it says that it cannot. HUEKEEP_AWAY_SECONDS says for how long.
func TestTheStoreOfFilesIsAway(t *testing.T) {
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("colors"))
	var gone atomic.Int64 // 1: it hangs up, 2: it says that it cannot
	there := gofakes3.New(backend).Server()
	s3 := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch gone.Load() {
		case 1:
			panic(http.ErrAbortHandler)
		case 2:
			w.WriteHeader(http.StatusServiceUnavailable)
		default:
			there.ServeHTTP(w, r)
		}
	}))
	defer s3.Close()
	v := running(t, "HUEKEEP_FILES=s3://colors?region=eu-west-1&use_path_style=true&endpoint="+s3.URL, "AWS_ACCESS_KEY_ID=a", "AWS_SECRET_ACCESS_KEY=b")
	require.Equal(t, 202, v.upload("/houses/1/audits", demo.TimetableDeck().Data))
	type audits struct{ Audits []struct{ ID int } }
	list := func() (a audits) { v.get("/houses/1/audits", &a); return a }
	require.Eventually(t, func() bool { return len(list().Audits) > 0 }, 20*time.Second, 100*time.Millisecond)
	first := list().Audits

	gone.Store(1)
	status, job := v.send(fmt.Sprintf("/houses/1/audits/%d/repaints", first[0].ID), map[string]any{"theme": 2})
	require.Equal(t, 202, status, job)
	told := ""
	state := func() string {
		var j struct {
			State, Stage string
			Problem      json.RawMessage
		}
		v.get(fmt.Sprintf("/houses/1/jobs/%.0f", job["id"]), &j)
		require.NotEqual(t, "failed", j.State, string(j.Problem))
		if j.State == "waiting" {
			told = j.Stage
		}
		return j.State
	}
	away := seconds("HUEKEEP_AWAY_SECONDS", 8)
	for begun := time.Now(); time.Since(begun) < away; time.Sleep(time.Second) {
		if time.Since(begun) > away/2 {
			gone.Store(2)
		}
		assert.NotEqual(t, "done", state())
		status, answer := v.uploaded("/houses/1/audits", "deck.pptx", demo.TimetableDeck().Data)
		assert.Equal(t, 503, status, answer)
		assert.Contains(t, answer["title"], "place for files")
		at := time.Now()
		status, answer = v.send("/houses/1/read", map[string]string{"text": "Night Boat #102030"})
		assert.Equal(t, 200, status, answer)
		var colors any
		v.get("/houses/1/colors", &colors)
		assert.Less(t, time.Since(at), 5*time.Second, "what needs no file is as quick as ever")
	}
	assert.Contains(t, told, "goes on by itself", "whoever waits for it is told why")
	assert.Len(t, list().Audits, len(first), "nothing came of what was refused")
	gone.Store(0)
	require.Eventually(t, func() bool { return state() == "done" }, 2*time.Minute, 200*time.Millisecond, "what waited ends by itself")
	status, again := v.send(fmt.Sprintf("/houses/1/audits/%d/again", first[0].ID), map[string]any{})
	assert.Equal(t, 202, status, again)
	require.Equal(t, 202, v.upload("/houses/1/audits", demo.TimetableDeck().Data))
	out, err := v.command("doctor")
	require.NoError(t, err, out)
	assert.Contains(t, out, "well  files")
	sheet := filepath.Join(t.TempDir(), "all.tar.gz")
	out, err = v.command("dump", "--demo", sheet)
	require.NoError(t, err, out)
	_, err = os.Stat(sheet)
	require.NoError(t, err)
	for line := range strings.Lines(v.said.String()) {
		var told map[string]any
		if json.Unmarshal(bytes.TrimSpace([]byte(line)), &told) == nil {
			assert.NotEqual(t, "a job failed", told["msg"], line)
		}
	}
}
