package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/store/local"
	"huekeep/store/storetest"
)

// rounds is how often the program is killed.
func rounds() int { return storetest.Hard(4, 60) }

// victim is a server that gets killed, and somebody at it.
type victim struct {
	t            *testing.T
	data         string
	address      string
	cmd          *exec.Cmd
	cookie, csrf string
	settings     []string
	said         bytes.Buffer
}

func (v *victim) environment() []string {
	return append(append(os.Environ(), "HUEKEEP_DATA="+v.data, "HUEKEEP_ADDRESS="+v.address, "HUEKEEP_DATABASE=", "HUEKEEP_FILES=", "HUEKEEP_SMTP="), v.settings...)
}

func (v *victim) start() {
	v.t.Helper()
	v.cmd = exec.Command(program, "demo")
	v.cmd.Env = v.environment()
	v.said.Reset()
	v.cmd.Stderr = &v.said
	require.NoError(v.t, v.cmd.Start())
	for range 1200 {
		if res, err := http.Get("http://" + v.address + "/api/version"); err == nil {
			res.Body.Close()
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	v.kill()
	v.t.Fatal("the server does not start: " + v.said.String())
}

func (v *victim) kill() {
	_ = v.cmd.Process.Kill() // SIGKILL
	_ = v.cmd.Wait()
}

// ask sends a request; status 0 says that no answer came.
func (v *victim) ask(method, path string, body io.Reader, kind string) (status int, data []byte) {
	r, err := http.NewRequest(method, "http://"+v.address+"/api"+path, body)
	require.NoError(v.t, err)
	if kind != "" {
		r.Header.Set("Content-Type", kind)
	}
	if v.cookie != "" {
		r.Header.Set("Cookie", v.cookie)
		r.Header.Set("X-CSRF-Token", v.csrf)
	}
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		return 0, nil
	}
	defer res.Body.Close()
	if data, err = io.ReadAll(res.Body); err != nil {
		return 0, nil
	}
	if c := res.Cookies(); len(c) > 0 && v.cookie == "" {
		v.cookie = c[0].Name + "=" + c[0].Value
	}
	return res.StatusCode, data
}

func (v *victim) get(path string, into any) {
	v.t.Helper()
	status, data := v.ask("GET", path, nil, "")
	require.Equal(v.t, 200, status, "%s: %s", path, data)
	require.NoError(v.t, json.Unmarshal(data, into), path)
}

func (v *victim) send(path string, body any) (int, map[string]any) {
	data, err := json.Marshal(body)
	require.NoError(v.t, err)
	status, answer := v.ask("POST", path, bytes.NewReader(data), "application/json")
	out := map[string]any{}
	_ = json.Unmarshal(answer, &out)
	return status, out
}

func (v *victim) upload(path string, data []byte) int {
	status, _ := v.uploaded(path, "x", data)
	return status
}

func (v *victim) uploaded(path, name string, data []byte) (status int, answer map[string]any) {
	status, text := v.give("POST", path, name, data)
	_ = json.Unmarshal([]byte(text), &answer)
	return status, answer
}

// The program is killed in the middle of uploads, runs and repaints. Afterwards every file that it took is whole, every run and
// repaint that it took on has come to its end exactly once, and none is half there.
func TestNothingIsLostWhenTheProgramIsKilled(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	v := &victim{t: t, data: t.TempDir(), address: l.Addr().String()}
	require.NoError(t, l.Close())
	t.Cleanup(func() { // the database that the last kill leaves behind
		if s, err := local.Start(context.Background(), filepath.Join(v.data, "mariadb")); err == nil {
			_ = s.Stop()
		}
	})
	v.start()
	defer func() { v.kill() }()
	status, session := v.send("/session", map[string]string{"email": demo.Accounts[0].Email, "password": demo.Password})
	require.Equal(t, 200, status, session)
	v.csrf = session["csrf"].(string)
	house := fmt.Sprintf("/houses/%d", int64(session["houses"].([]any)[0].(map[string]any)["id"].(float64)))
	status, project := v.send(house+"/projects", map[string]string{"name": "Killed"})
	require.Equal(t, 201, status, project)
	at := fmt.Sprintf("%s/projects/%d", house, int64(project["id"].(float64)))
	deck := demo.TimetableDeck().Data
	require.Equal(t, 201, v.upload(at+"/files?path=deck.pptx", deck))
	require.Equal(t, 201, v.upload(at+"/files?path=a.css", []byte("a{color:#E1572C}")))

	var runs, repaints []float64 // jobs that were taken on
	ended := func(job float64) string {
		var j struct {
			State, Result string
			Problem       any
		}
		for range 1200 {
			v.get(fmt.Sprintf("%s/jobs/%d", house, int64(job)), &j)
			if j.State == "done" {
				return j.Result
			}
			require.NotContains(t, []string{"failed", "given-up"}, j.State, "%v", j.Problem)
			time.Sleep(100 * time.Millisecond)
		}
		t.Fatal("a job does not end")
		return ""
	}
	begin := func(path string, body any, into *[]float64) {
		if status, j := v.send(path, body); status == 202 {
			*into = append(*into, j["id"].(float64))
		}
	}
	begin(at+"/runs", nil, &runs)
	first := ended(runs[0])
	taken := map[string]int{"deck.pptx": len(deck), "a.css": 16}
	for i := range rounds() {
		name, size := fmt.Sprintf("site/%d.css", i), 300_000+i
		text := bytes.Repeat([]byte("a{color:#E1572C}\n"), size/17+1)[:size]
		done := make(chan bool)
		go func() {
			defer close(done)
			if i%3 == 1 {
				begin(fmt.Sprintf("%s/runs/%s/repaints", house, first), map[string]any{}, &repaints)
			} else {
				begin(at+"/runs", nil, &runs)
			}
			if v.upload(at+"/files?path="+name, text) == 201 {
				taken[name] = size
			}
		}()
		time.Sleep(time.Duration(17*(i%25)) * time.Millisecond)
		v.kill()
		<-done
		v.start()
	}

	var now struct {
		Files []struct {
			Path string
			Size int
		}
		Runs []struct {
			ID    int64
			Files int
		}
	}
	results := map[string]bool{}
	for _, j := range runs {
		results[ended(j)] = true
	}
	assert.Len(t, results, len(runs), "each of its own")
	v.get(at, &now)
	there := map[string]int{}
	for _, f := range now.Files {
		there[f.Path] = f.Size
	}
	for name, size := range taken {
		assert.Equal(t, size, there[name], "%s was taken", name)
	}
	begin(at+"/runs", nil, &runs)
	last := ended(runs[len(runs)-1])
	results[last] = true
	v.get(at, &now)
	// A run whose request got no answer may have been taken on all the same; it is whole like any other.
	assert.GreaterOrEqual(t, len(now.Runs), len(results))
	for _, run := range now.Runs {
		var told struct {
			Run struct {
				Files, Uses, Unread int
			}
			Files []struct {
				ID   int64
				Path string
				Uses int
			}
		}
		v.get(fmt.Sprintf("%s/runs/%d", house, run.ID), &told)
		assert.Len(t, told.Files, run.Files)
		uses := 0
		for _, f := range told.Files {
			uses += f.Uses
			var whole struct{ Colors []struct{ Count int } }
			v.get(fmt.Sprintf("%s/audits/%d", house, f.ID), &whole)
			assert.NotEmpty(t, whole.Colors, "the report of %s", f.Path)
		}
		assert.Equal(t, told.Run.Uses, uses)
		if fmt.Sprint(run.ID) == last {
			assert.Len(t, told.Files, len(there), "the last run read every file that is there")
		}
	}
	for _, j := range repaints {
		status, data := v.ask("GET", fmt.Sprintf("%s/repaints/%s/file", house, ended(j)), nil, "")
		require.Equal(t, 200, status)
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		assert.Len(t, z.File, 2)
	}
	t.Logf("%d kills: %d runs, %d repaints, %d files", rounds(), len(runs), len(repaints), len(there))
}
