package server_test

import (
	"io"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/andybalholm/brotli"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/server"
)

// What the build keeps packed alone reaches browsers that do not take it packed.
func TestAFileThatIsKeptPackedIsUnpackedForWhoeverAsks(t *testing.T) {
	text := strings.Repeat("color ", 1000)
	var packed strings.Builder
	w := brotli.NewWriter(&packed)
	_, err := w.Write([]byte(text))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	s := newSite(t)
	app := server.New(server.Options{Stations: s.keeper, Interface: fstest.MapFS{
		"assets/a-1.js.br": {Data: []byte(packed.String())}, "assets/b-1.js": {Data: []byte("plain")}, "assets/c-1.js.br": {Data: []byte("no brotli")}}})
	get := func(path, encoding string) (int, string, string) {
		r := httptest.NewRequest("GET", path, nil)
		r.Header.Set("Accept-Encoding", encoding)
		res, err := app.Test(r)
		require.NoError(t, err)
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, res.Header.Get("Content-Encoding"), string(body)
	}
	for range 2 { // unpacked once, and from what was kept
		status, encoding, body := get("/assets/a-1.js", "identity")
		assert.Equal(t, []any{200, "", text}, []any{status, encoding, body})
	}
	status, encoding, body := get("/assets/a-1.js", "gzip, br")
	assert.Equal(t, []any{200, "br", packed.String()}, []any{status, encoding, body})
	status, _, body = get("/assets/b-1.js", "identity")
	assert.Equal(t, []any{200, "plain"}, []any{status, body})
	status, _, _ = get("/assets/c-1.js", "identity")
	assert.Equal(t, 500, status)
	status, _, _ = get("/assets/d-1.js", "br")
	assert.Equal(t, 404, status)
}
