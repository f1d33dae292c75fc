package server_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is made says where it is got, and there it is; also when the same is asked again with its key.
func TestWhatIsMadeSaysWhereItIs(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	for what, c := range map[string]struct {
		path string
		body any
		name string // of what was made, as its own address tells it
		at   []any
	}{
		"a color":     {"/colors", o{"name": "Night Boat", "value": "#123456"}, "Night Boat", []any{"row", "name"}},
		"a set":       {"/sets", o{"name": "Autumn", "colors": []int{}}, "Autumn", []any{"name"}},
		"a recipient": {"/recipients", o{"name": "Print shop", "kind": "print"}, "Print shop", []any{"name"}},
		"a project":   {"/projects", o{"name": "Autumn \"1\""}, "Autumn \"1\"", []any{"project", "name"}},
	} {
		made := p.call("POST", house(h, "%s", c.path), c.body)
		require.Equal(t, 201, made.status, "%s: %s", what, made.text)
		where := made.header.Get("Location")
		require.Contains(t, where, "/api"+house(h, "%s/", c.path), what)
		got := p.call("GET", where[len("/api"):], nil)
		require.Equal(t, 200, got.status, "%s at %s: %s", what, where, got.text)
		assert.Equal(t, c.name, got.at(c.at...), what)
	}
	buoy := p.call("GET", house(h, "/colors"), nil).id("colors", 0, "id")
	set := p.call("POST", house(h, "/sets"), o{"name": "One", "colors": []int64{buoy}})
	edition := p.call("POST", house(h, "/sets/%d/editions", set.id("id")), o{"note": "The next"})
	require.Equal(t, 201, edition.status, edition.text)
	got := p.call("GET", edition.header.Get("Location")[len("/api"):], nil)
	require.Equal(t, 200, got.status, got.text)
	assert.Equal(t, edition.at("editions", 0, "number"), got.at("number"))
	tray := p.call("POST", house(h, "/tray"), o{"text": "#405060"})
	require.Equal(t, 201, tray.status)
	assert.Empty(t, tray.header.Get("Location"), "candidates have no address of their own")
	for _, path := range []string{"/sets/99999", "/recipients/99999"} {
		assert.Equal(t, 404, p.call("GET", house(h, "%s", path), nil).status, path)
	}
}

// A method that an address does not take is told from an address that there is not.
func TestAnAddressSaysWhatItTakes(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	for _, c := range []struct{ method, path, allow string }{
		{"PUT", house(h, "/colors"), "GET, POST"},
		{"HEAD", house(h, "/colors"), "GET, POST"},
		{"DELETE", "/session/now", ""},
		{"POST", house(h, "/colors/1/history"), "GET"},
		{"PATCH", house(h, "/sets/1"), "DELETE, GET, PUT"},
		{"GET", house(h, "/tray/admit"), "DELETE, PATCH, POST"},
		{"GET", house(h, "/nothing/here"), ""},
		{"POST", "/openapi.yaml", ""},
	} {
		a := p.call(c.method, c.path, nil)
		status := 405
		if c.allow == "" {
			status = 404
		}
		assert.Equal(t, status, a.status, "%s %s: %s", c.method, c.path, a.text)
		assert.Equal(t, c.allow, a.header.Get("Allow"), c.path)
		for _, takes := range strings.Split(a.header.Get("Allow"), ", ") {
			if takes != "" {
				got := p.call(takes, c.path, nil)
				assert.NotEqual(t, 405, got.status, "%s %s, as it says", takes, c.path)
				assert.NotContains(t, got.text, "no such address", "%s %s, as it says", takes, c.path)
			}
		}
		if status == 405 && c.method != "HEAD" { // whose answer has no body
			assert.Equal(t, "method-not-allowed", a.at("code"))
			assert.Contains(t, a.text, "does not take "+c.method+" but "+c.allow)
		}
	}
}
