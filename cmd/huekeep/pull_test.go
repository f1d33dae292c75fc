package main

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A build pulls what is public: what is new ends with 3, what is not with 0, and a file that somebody changed is put right.
func TestPullWritesWhatChanged(t *testing.T) {
	v := running(t)
	status, link := v.send("/houses/1/public", map[string]any{"set": 1})
	require.Equal(t, 200, status, link)
	address := "http://" + v.address + link["path"].(string)
	dir := filepath.Join(t.TempDir(), "src", "colors")
	pull := func(more ...string) (string, string, int) {
		return huekeep(t, append([]string{"pull", address, "--as", "css,tokens", "-o", dir}, more...)...)
	}
	out, errs, code := pull()
	require.Equal(t, 3, code, errs)
	assert.Equal(t, "core.css: Core, edition 2\ncore.tokens.json: Core, edition 2\n", out)
	css := filepath.Join(dir, "core.css")
	text, err := os.ReadFile(css)
	require.NoError(t, err)
	assert.Contains(t, string(text), "--deep-sound: #0E3A53;")
	out, _, code = pull()
	assert.Equal(t, 0, code, "nothing new")
	assert.Empty(t, out)

	require.NoError(t, os.WriteFile(css, []byte("/* mine */"), 0o600))
	_, _, code = pull()
	assert.Equal(t, 3, code)
	again, err := os.ReadFile(css)
	require.NoError(t, err)
	assert.Equal(t, string(text), string(again))

	status, set := v.send("/houses/1/sets/1/take", map[string]any{"from": 4, "colors": []int{5}, "copy": true})
	require.Equal(t, 200, status, set)
	status, set = v.send("/houses/1/sets/1/editions", map[string]any{"note": "Heather joins"})
	require.Equal(t, 201, status, set)
	require.Eventually(t, func() bool { // an address answers from memory for a second
		out, _, code = pull()
		return code == 3
	}, 20*time.Second, 300*time.Millisecond)
	assert.Contains(t, out, "core.css: Core, edition 3")

	for says, more := range map[string][]string{"there is no swatch set \"Charts\" at this address": {"--set", "Charts"}, "there is no packing \"clay\"": {"--as", "clay"}} {
		_, errs, code = pull(more...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, says)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, pulledName), []byte("{"), 0o600))
	_, errs, code = pull()
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "is damaged")
	require.NoError(t, os.Remove(filepath.Join(dir, pulledName)))
	out, _, code = pull()
	assert.Equal(t, 0, code, "what is there is what lies there: %s", out)

	status, _ = v.ask("DELETE", "/houses/1/public/"+jsonNumber(link["id"]), nil, "")
	require.Equal(t, 204, status)
	_, errs, code = pull()
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "This link was closed. Ask Odelwick Ferries for a new one")
	_, errs, code = huekeep(t, "pull", "colors.example")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "is not the address of a pickup or a public link")
}

func jsonNumber(v any) string {
	text, _ := json.Marshal(v) // it came as JSON
	return string(text)
}

// What breaks off, or names a file elsewhere, leaves what is there as it is.
func TestPullTrustsNoServer(t *testing.T) {
	name, body := "core.css", "a{}"
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/p/x" {
			assert.Equal(t, "Bearer x", r.Header.Get("Authorization"))
			assert.NoError(t, json.NewEncoder(w).Encode(map[string]any{"house": "H", "recipient": "", "sets": []any{map[string]any{"id": 1, "name": "Core", "edition": 1, "held": 0,
				"files": []any{map[string]any{"name": name, "packing": "css", "label": "CSS", "mediaType": "text/css"}}}}}))
			return
		}
		w.Header().Set("Content-Length", "30")
		_, _ = w.Write([]byte(body)) // and no more
	}))
	defer server.Close()
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "core.css"), []byte("old"), 0o600))
	_, errs, code := huekeep(t, "pull", server.URL+"/p/x", "-o", dir)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "broke off")
	text, err := os.ReadFile(filepath.Join(dir, "core.css"))
	require.NoError(t, err)
	assert.Equal(t, "old", string(text))
	for _, name = range []string{"../core.css", "/etc/core.css", ".bashrc", ""} {
		_, errs, code = huekeep(t, "pull", server.URL+"/p/x", "-o", dir)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, "which is none", name)
	}
	server.Close()
	_, errs, code = huekeep(t, "pull", server.URL+"/p/secret-part", "-o", dir)
	assert.Equal(t, 2, code)
	assert.NotContains(t, errs, "secret-part", "no log has the secret")
}

// What is said to be edition 2 is edition 2, also where the next one was fixed after the list was given out.
func TestPullFetchesTheEditionThatItNames(t *testing.T) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/api/p/x":
			assert.NoError(t, json.NewEncoder(w).Encode(map[string]any{"house": "H", "recipient": "", "sets": []any{map[string]any{"id": 1, "name": "Core", "edition": 2, "held": 0,
				"files": []any{map[string]any{"name": "core.css", "packing": "css", "label": "CSS", "mediaType": "text/css"}}}}}))
		case "/api/p/x/2/core.css":
			_, _ = w.Write([]byte("second"))
		default:
			_, _ = w.Write([]byte("third"))
		}
	}))
	defer server.Close()
	dir := t.TempDir()
	out, errs, code := huekeep(t, "pull", server.URL+"/p/x", "-o", dir)
	require.Equal(t, 3, code, errs)
	assert.Equal(t, "core.css: Core, edition 2\n", out)
	text, err := os.ReadFile(filepath.Join(dir, "core.css"))
	require.NoError(t, err)
	assert.Equal(t, "second", string(text))
}
