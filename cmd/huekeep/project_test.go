package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// token makes an access token of the keeper's for a purpose.
func (v *victim) accessToken(purpose string) string {
	v.t.Helper()
	status, answer := v.send("/account/tokens", map[string]any{"name": "build", "house": 1, "role": "contributor", "purpose": purpose, "days": 1})
	require.Equal(v.t, 201, status, answer)
	return answer["token"].(string)
}

// told is what a command did.
type told struct {
	code     int
	out, err string
}

// within runs the program in a folder with an access token.
func (v *victim) within(folder, token string, arguments ...string) told {
	v.t.Helper()
	cmd := exec.Command(program, arguments...)
	cmd.Dir, cmd.Env = folder, append(os.Environ(), "HUEKEEP_TOKEN="+token)
	var out, failed bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &failed
	_ = cmd.Run()
	return told{cmd.ProcessState.ExitCode(), out.String(), failed.String()}
}

func fill(t *testing.T, folder string, files map[string]string) {
	t.Helper()
	for name, text := range files {
		path := filepath.Join(folder, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
	}
}

// A build judges its files in a house: what changed is sent, the run is kept there, and the report is about the files as they are called here.
func TestABuildJudgesInAHouse(t *testing.T) {
	v := running(t)
	token := v.accessToken("audit")
	server := "http://" + v.address + "/h/1/library"
	folder := t.TempDir()
	fill(t, folder, map[string]string{"site/a.css": "a{color:#E1572B}", "site/sub/b.css": "b{color:#E2572B}", "site/c.css": "c{color:var(--x)}:root{--x:#0E3A53}"})
	judge := func(more ...string) told {
		return v.within(folder, token, append([]string{"audit", "site", "--server", server, "--project", "Nightly build"}, more...)...)
	}

	first := judge()
	assert.Equal(t, 1, first.code, first)
	assert.Contains(t, first.out, "site/a.css:1:9: drifted #E1572B, nearest Buoy")
	assert.Contains(t, first.out, "3 files, 3 with colors; 1 use is neither")
	assert.Contains(t, first.err, "run 1 of Nightly build: 3 of 3 files sent")
	assert.Contains(t, first.err, "http://"+v.address+"/h/1/audit/project/")

	again := judge("--format", "json")
	assert.Equal(t, 1, again.code)
	assert.Contains(t, again.err, "nothing is new since run 1 of Nightly build: 0 of 3 files sent")
	var doc struct {
		Files []struct{ Path string }
	}
	require.NoError(t, json.Unmarshal([]byte(again.out), &doc))
	assert.Len(t, doc.Files, 3)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "base.json"), []byte(again.out), 0o644))
	assert.Equal(t, 0, judge("--baseline", "base.json").code, "what was found before fails no build")

	fill(t, folder, map[string]string{"site/sub/b.css": "b{color:#E2572C}", "site/none.css": "x{color:#0E3A53", "site/broken.png": "no picture"})
	require.NoError(t, os.Remove(filepath.Join(folder, "site/c.css")))
	second := judge("--baseline", "base.json")
	assert.Equal(t, 2, second.code, "a file that cannot be read: %v", second)
	assert.Contains(t, second.err, "site/broken.png")
	assert.Contains(t, second.err, "1 file that is not here and is judged as it was sent: site/c.css")
	assert.Contains(t, second.out, "site/sub/b.css:1:9: drifted #E2572C")
	require.NoError(t, os.Remove(filepath.Join(folder, "site/broken.png")))
	third := judge("--exactly")
	assert.Contains(t, third.err, "2 files are not here and were taken out of Nightly build: site/broken.png, site/c.css")
	assert.Contains(t, third.out, "3 files, 3 with colors")

	fill(t, folder, map[string]string{"site/none.css": strings.Repeat("x{color:#00FF11}\n", 260)})
	assert.Equal(t, 260, strings.Count(judge("--format", "csv").out, "css,off-brand,#00FF11"), "a row for each place, of the house's report too")
	brief := judge("--format", "json").out
	assert.Contains(t, brief, `"unlistedPlaces":60`)
	assert.NotContains(t, judge("--format", "json", "--all-places").out, "unlistedPlaces")

	// What it may not do, it does not; what is wrong is said, and nothing is sent.
	for _, c := range []struct {
		token, said string
		args        []string
	}{
		{v.accessToken("read"), "only looks and downloads", []string{"--server", server, "--project", "Other"}},
		{"", "HUEKEEP_TOKEN is missing", []string{"--server", server, "--project", "Other"}},
		{"nonsense", "huekeep:", []string{"--server", server, "--project", "Other"}},
		{token, "go together", []string{"--server", server}},
		{token, "go together", []string{"--project", "Other"}},
		{token, "--exactly is of a project", []string{"--exactly", "--library", "x.json"}},
		{token, "exclude each other", []string{"--server", server, "--project", "Other", "--library", "x.json"}},
		{token, "exclude each other", []string{"--server", server, "--project", "Other", "--cache", "x"}},
		{token, "is not the address of a house", []string{"--server", "http://" + v.address, "--project", "Other"}},
		{token, "use https", []string{"--server", "http://colors.house.example/h/1", "--project", "Other"}},
		{token, "cannot be reached", []string{"--server", "http://127.0.0.1:1/h/1", "--project", "Other"}},
		{token, "huekeep:", []string{"--server", strings.Replace(server, "/h/1", "/h/77", 1), "--project", "Other"}},
	} {
		got := v.within(folder, c.token, append([]string{"audit", "site"}, c.args...)...)
		assert.Equal(t, 2, got.code, c)
		assert.Contains(t, got.err, c.said, c)
	}
	var list struct{ Projects []struct{ Name string } }
	v.get("/houses/1/projects", &list)
	for _, p := range list.Projects {
		assert.NotEqual(t, "Other", p.Name)
	}

	t.Run("watched", func(t *testing.T) { watched(t, v, token, folder, server) })
}

// screen is what a program wrote so far.
type screen struct {
	guard sync.Mutex
	text  strings.Builder
}

func (s *screen) Write(b []byte) (int, error) {
	s.guard.Lock()
	defer s.guard.Unlock()
	return s.text.Write(b)
}

func (s *screen) has(t *testing.T, part string) {
	t.Helper()
	require.Eventually(t, func() bool {
		s.guard.Lock()
		defer s.guard.Unlock()
		return strings.Contains(s.text.String(), part)
	}, 60*time.Second, 20*time.Millisecond, "%s in %s", part, &s.text)
}

// A folder that is watched is judged whenever something is saved, here and in the house.
func watched(t *testing.T, v *victim, token, folder, server string) {
	fill(t, folder, map[string]string{"lib.json": `{"buoy":{"$type":"color","$value":"#E2572B"},"night":{"$type":"color","$value":"#0E3A53"}}`, "desk/a.css": "a{color:var(--deep)}", "desk/b.css": ":root{--deep:#E2572B}"})
	cmd := exec.Command(program, "watch", "desk", "--library", "lib.json", "--server", server, "--project", "Desk")
	cmd.Dir, cmd.Env = folder, append(os.Environ(), "HUEKEEP_TOKEN="+token)
	var s screen
	cmd.Stdout, cmd.Stderr = &s, &s
	require.NoError(t, cmd.Start())
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	s.has(t, "2 files, 0 uses neither on-brand nor excused; watching")
	s.has(t, "run 1 of Desk: 2 of 2 files sent")
	fill(t, folder, map[string]string{"desk/b.css": ":root{--deep:#E1572B}"})
	s.has(t, "desk/a.css:1:9: drifted #E1572B")
	s.has(t, "run 2 of Desk: 1 of 2 files sent")
	fill(t, folder, map[string]string{"desk/new/c.css": "c{color:#00FF11}"})
	s.has(t, "desk/new/c.css:1:9: off-brand #00FF11")
	require.NoError(t, os.Remove(filepath.Join(folder, "desk/new/c.css")))
	s.has(t, "desk/new/c.css: is gone")
	fill(t, folder, map[string]string{"lib.json": `{"buoy":{"$type":"color","$value":"#E1572B"}}`})
	s.has(t, "desk/a.css: nothing is off any more")
	fill(t, folder, map[string]string{"lib.json": `{"buoy"`})
	s.has(t, "lib.json")
	require.NoError(t, cmd.Process.Signal(os.Interrupt))
	require.Error(t, cmd.Wait())
	assert.Equal(t, 130, cmd.ProcessState.ExitCode(), fmt.Sprint(&s.text))
}
