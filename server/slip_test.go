package server_test

import (
	"encoding/json"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/server"
)

// The slip is a page of its own below a path of its own, which alone its service worker controls.
func TestTheSlipIsAPageOfItsOwn(t *testing.T) {
	s := newSite(t)
	s.app = server.New(server.Options{Stations: s.keeper, Interface: fstest.MapFS{
		"index.html": {Data: []byte("app")}, "slip.html": {Data: []byte("slip")}, "slip-worker.js": {Data: []byte("worker")}}})
	for path, want := range map[string][2]string{
		"/slip/": {"text/html; charset=utf-8", "slip"}, "/slip/h/1/2": {"text/html; charset=utf-8", "slip"}, "/slip/p/secret": {"text/html; charset=utf-8", "slip"},
		"/slip/worker.js": {"text/javascript; charset=utf-8", "worker"}, "/slipped": {"text/html; charset=utf-8", "app"},
	} {
		res, text := s.fetch("GET", path, nil)
		assert.Equal(t, want, [2]string{res.Header.Get("Content-Type"), text}, path)
		if path != "/slipped" {
			assert.Equal(t, []string{"no-cache", "no-referrer", "noindex, nofollow"}, []string{res.Header.Get("Cache-Control"), res.Header.Get("Referrer-Policy"), res.Header.Get("X-Robots-Tag")}, path)
		}
	}
	res, text := s.fetch("GET", "/slip/app.webmanifest", nil)
	assert.Equal(t, "application/manifest+json", res.Header.Get("Content-Type"))
	var manifest struct {
		Scope, StartURL string
		Icons           []struct{ Src string }
	}
	require.NoError(t, json.Unmarshal([]byte(text), &manifest))
	assert.Equal(t, "/slip/", manifest.Scope)
	res, _ = s.fetch("GET", manifest.Icons[0].Src, nil)
	assert.Equal(t, "image/svg+xml", res.Header.Get("Content-Type"))
	s.app = server.New(server.Options{Stations: s.keeper, Interface: fstest.MapFS{}})
	res, _ = s.fetch("GET", "/slip/", nil)
	assert.Equal(t, 503, res.StatusCode, "what is not built says so")
}

// A pickup tells a program the colors of the edition in force, with what somebody approved and nothing that was computed.
func TestAPickupTellsItsColors(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	_, path := p.pickup(h, "Film crew")
	res, text := p.fetch("GET", "/api"+path, nil)
	require.Equal(t, 200, res.StatusCode, text)
	var got struct {
		Sets []struct {
			Name   string
			Colors []struct {
				Name, Hex, Press, Spot, Stock string
				RGB                           []int
				CMYK                          []float64
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(text), &got))
	require.Equal(t, "Safety film", got.Sets[0].Name)
	buoy, white := got.Sets[0].Colors[0], got.Sets[0].Colors[1]
	assert.Equal(t, []any{"Buoy", "#E2572B", []int{226, 87, 43}, []float64{0, 77, 92, 6}, "coated", "QN-0076", "coated"},
		[]any{buoy.Name, buoy.Hex, buoy.RGB, buoy.CMYK, buoy.Press, buoy.Spot, buoy.Stock})
	assert.Equal(t, []any{"Hull White", []float64(nil), ""}, []any{white.Name, white.CMYK, white.Spot}, "a derived build is none that one may use")
}
