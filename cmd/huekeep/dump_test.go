package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/keep/dumps"
	"huekeep/store/storetest"
)

// many puts style sheets into a project, each of its own color and path.
func (v *victim) many(project int, names []string) (status int) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for _, name := range names {
		_ = w.WriteField("path", name)
		part, err := w.CreateFormFile("file", name)
		require.NoError(v.t, err)
		fmt.Fprintf(part, ".x { color: #0E3A53 } /* %s */", name)
	}
	require.NoError(v.t, w.Close())
	status, _ = v.ask("POST", fmt.Sprintf("/houses/1/projects/%d/files/many", project), &b, w.FormDataContentType())
	return status
}

// A dump of thousands of files is one moment of a house in which others upload, take out and write all the while: each file that a project has
// in it is there to its last byte. One that is cut anywhere is refused, and a load that is killed is done again.
func TestADumpOfThousandsOfFiles(t *testing.T) {
	t.Parallel()
	const atOnce = 100
	kept, more := storetest.Hard(600, 1700), storetest.Hard(200, 700)
	v := running(t)
	status, answer := v.send("/houses/1/projects", map[string]string{"name": "Large"})
	require.Equal(t, 201, status, answer)
	project := int(answer["id"].(float64))
	batch := func(word string, n int) (names []string) {
		for i := range n {
			names = append(names, fmt.Sprintf("%s/%04d.css", word, i))
		}
		return names
	}
	all := batch("kept", kept)
	for at := 0; at < len(all); at += atOnce {
		require.Contains(t, []int{200, 201}, v.many(project, all[at:at+atOnce]))
	}
	status, answer = v.send("/houses/1/projects", map[string]string{"name": "Second"})
	require.Equal(t, 201, status, answer)
	second := int(answer["id"].(float64))
	for at := 0; at < more; at += atOnce {
		require.Contains(t, []int{200, 201}, v.many(second, batch(fmt.Sprintf("more%d", at), atOnce)))
	}

	// Others work: one uploads, one takes out, one writes.
	stop := make(chan bool)
	var others sync.WaitGroup
	each := func(do func(i int)) {
		others.Go(func() {
			for i := 0; ; i++ {
				select {
				case <-stop:
					return
				default:
					do(i)
				}
			}
		})
	}
	each(func(i int) { v.many(second, batch(fmt.Sprintf("new%d", i%8), 5)) })
	each(func(i int) {
		v.ask("DELETE", fmt.Sprintf("/houses/1/projects/%d/files?path=kept/%04d.css", project, i%400), nil, "")
	})
	each(func(int) { v.send("/houses/1/tray", map[string]string{"text": "#405060"}) })
	file := filepath.Join(t.TempDir(), "all.tar.gz")
	out, err := v.command("dump", "--demo", file)
	close(stop)
	others.Wait()
	require.NoError(t, err, out)
	assert.NotContains(t, out, "may have gone", "what is taken out can be put back for a while, so that nothing is missing")
	v.end()

	data, err := os.ReadFile(file)
	require.NoError(t, err)
	_, _, err = dumps.Check(bytes.NewReader(data))
	require.NoError(t, err)
	for i := 0; i < 24; i += storetest.Hard(3, 1) { // near its end closely, where only the checksums are missing
		cut := len(data) * i / 20
		if i >= 20 {
			cut = len(data) - 20*(i-19)*(i-19)*(i-19)
		}
		_, _, err := dumps.Check(bytes.NewReader(data[:cut]))
		assert.Error(t, err, "cut at %d of %d", cut, len(data))
	}

	w := &victim{t: t, data: t.TempDir(), address: v.address}
	for _, after := range []time.Duration{300 * time.Millisecond, 900 * time.Millisecond, 1600 * time.Millisecond} { // the database is being made, files come in, or rows
		killed := exec.Command(program, "load", "--demo", file)
		killed.Env = w.environment()
		require.NoError(t, killed.Start())
		time.Sleep(after)
		_ = killed.Process.Kill()
		_ = killed.Wait()
	}
	if out, err = w.command("load", "--demo", file); err != nil {
		require.Contains(t, out, "holds something already", "it had come in wholly before it was killed; the runs below tell")
	}
	w.start()
	defer w.end()
	status, answer = w.send("/session", map[string]string{"email": "keeper@odelwick.example", "password": demo.Password})
	require.Equal(t, 200, status, answer)
	w.csrf = answer["csrf"].(string)

	// Every file is read: a run of a project names those that cannot be.
	for id, least := range map[int]int{project: kept - 400, second: more} { // up to 400 were taken out
		status, answer = w.send(fmt.Sprintf("/houses/1/projects/%d/runs", id), map[string]string{})
		require.Equal(t, 202, status, answer)
		job := int(answer["id"].(float64))
		var done map[string]any
		require.Eventually(t, func() bool {
			w.get(fmt.Sprintf("/houses/1/jobs/%d", job), &done)
			return done["state"] == "done" || done["state"] == "failed"
		}, 4*time.Minute, time.Second)
		require.Equal(t, "done", done["state"], done)
		_, text := w.ask("GET", fmt.Sprintf("/houses/1/runs/%s", done["result"]), nil, "")
		var run struct {
			Files  []struct{ Path string }
			Unread []any
		}
		require.NoError(t, json.Unmarshal(text, &run))
		assert.Empty(t, run.Unread)
		assert.GreaterOrEqual(t, len(run.Files), least)
	}
}
