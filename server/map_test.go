package server_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A brand is renewed: what becomes of what is pasted, or taken from two sets by their places; where it is, and what is left, is told before; and a paper says
// what was done.
func TestAMapFromOldToNew(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	read := p.call("POST", house(h, "/plans/reading"), o{"text": "#123456 → Buoy\nOld and new\n#654321\tLamp"})
	require.Equal(t, 200, read.status, read.text)
	require.Len(t, read.json, 3)
	assert.Equal(t, o{"line": 1.0, "text": "#123456 → Buoy", "from": "#123456", "to": "Buoy"}, read.at(0))
	assert.NotEmpty(t, read.at(1, "why"))
	assert.Equal(t, "Lamp", read.at(2, "to"))
	for _, wrong := range []o{{}, {"old": 1}, {"text": "x", "old": 1, "new": 1}} {
		assert.Equal(t, 422, p.call("POST", house(h, "/plans/reading"), wrong).status, wrong)
	}
	assert.Equal(t, 404, p.call("POST", house(h, "/plans/reading"), o{"old": 9999, "new": 9998}).status)
	assert.Equal(t, 403, s.as("reader").call("POST", house(h, "/plans/reading"), o{"text": "x"}).status)

	keeper := s.as("keeper")
	set := func(name string, colors ...string) int64 {
		var ids []int64
		for _, c := range colors {
			ids = append(ids, p.colorID(h, c))
		}
		a := keeper.call("POST", house(h, "/sets"), o{"name": name, "colors": ids})
		require.Equal(t, 201, a.status, a.text)
		return a.id("id")
	}
	places := p.call("POST", house(h, "/plans/reading"), o{"old": set("Old line", "Buoy", "Lamp"), "new": set("New line", "Lamp")})
	require.Equal(t, 200, places.status, places.text)
	assert.Equal(t, "Lamp", places.at(0, "to"))
	assert.Contains(t, places.text, "the new set has no color at this place")

	steps := []any{o{"from": "#123456", "to": "Buoy"}, o{"from": "#654321", "to": "Lamp"}, o{"from": "10 20 30 40", "to": "Lamp"}}
	uses := func(p *person) answer {
		a := p.call("POST", house(h, "/plans/uses"), o{"colors": steps})
		require.Equal(t, 200, a.status, a.text)
		return a
	}
	assert.Empty(t, uses(p).at("projects"))
	site := p.project(h, "Site <b>", map[string]string{"a.css": "a{color:#123456;fill:#123456}", "b.css": "b{color:#123456}c{color:#0000F0}", "c.css": "c{color:#FFFFFF}"})
	p.project(h, "Other", map[string]string{"x.css": "x{color:#00F000}"})
	p.next(h, site, "")
	p.fill(h, site, map[string]string{"b.css": "b{color:#123456}c{color:#0000F0}d{color:#0000F0}"})
	run := p.next(h, site, "")
	for _, who := range []*person{p, s.as("reader")} {
		a := uses(who)
		assert.Equal(t, []any{o{"from": "#123456", "uses": 3.0, "files": 2.0, "pictures": 0.0}, o{"from": "#654321", "uses": 0.0, "files": 0.0, "pictures": 0.0}, o{"from": "10 20 30 40"}}, a.at("steps"), "of the newest run alone")
		assert.Equal(t, []any{o{"project": float64(site), "name": "Site <b>", "uses": 3.0, "files": 2.0}}, a.at("projects"))
		assert.Equal(t, []any{o{"hex": "#0000F0", "verdict": "off-brand", "uses": 2.0, "files": 1.0}}, a.at("left"))
	}
	require.Equal(t, 204, p.call("DELETE", house(h, "/projects/%d", site), nil).status)
	assert.Empty(t, uses(p).at("projects"), "a project that was taken away")
	require.Equal(t, 204, p.call("POST", house(h, "/projects/%d/restore", site), nil).status)

	made := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run.id("run", "id")), o{"colors": steps[:2]}))
	paper := s.as("reader").call("GET", house(h, "/repaints/%s/paper", made), nil)
	require.Equal(t, 200, paper.status, paper.text)
	assert.Contains(t, paper.header.Get("Content-Type"), "text/html")
	assert.Contains(t, paper.header.Get("Content-Disposition"), "what was changed.html")
	for _, part := range []string{"<h1>What was changed</h1>", "Site &lt;b&gt;", "3 uses in 2 files of 3", "becomes #E2572B", "a.css 1:9, a, color", "SHA-256", "As they were", "c.css"} {
		assert.Contains(t, paper.text, part)
	}
	assert.NotContains(t, paper.text, "Site <b>")
	dry := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run.id("run", "id")), o{"colors": steps[:2], "dry": true}))
	paper = p.call("GET", house(h, "/repaints/%s/paper", dry), nil)
	assert.Contains(t, paper.text, "<h1>What would be changed</h1>")
	assert.NotContains(t, paper.text, "SHA-256")
	assert.Equal(t, 404, p.call("GET", house(h, "/repaints/99999/paper"), nil).status)

	// One place alone, as a report names it.
	one := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run.id("run", "id")), o{"colors": []any{o{"from": "#123456", "to": "Buoy", "where": []any{"a.css 1:22, a, fill"}}}}))
	told := p.call("GET", house(h, "/repaints/%s", one), nil)
	assert.EqualValues(t, 1, told.at("changed"))
	for _, wrong := range []any{[]any{""}, make([]string, 1001)} {
		assert.Equal(t, 422, p.call("POST", house(h, "/runs/%d/repaints", run.id("run", "id")), o{"colors": []any{o{"from": "#123456", "to": "Buoy", "where": wrong}}}).status)
	}
	kept := p.call("POST", house(h, "/plans"), o{"name": "One place", "colors": []any{o{"from": "#123456", "to": "Buoy"}, o{"from": "#123456", "leave": true, "where": []any{"a.css 1:9, a, color"}}}})
	require.Equal(t, 200, kept.status, kept.text)
	assert.Equal(t, []any{"a.css 1:9, a, color"}, kept.at("colors", 1, "where"))
}
