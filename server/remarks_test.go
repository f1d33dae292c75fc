package server_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A finding is talked about, somebody is asked to see to it, and the run in which it is gone settles it.
func TestAFindingIsGivenToSomebody(t *testing.T) {
	s := newSite(t)
	post := s.withMail()
	p, keeper, reader := s.as("contributor"), s.as("keeper"), s.as("reader")
	h := p.ferries()
	id := p.project(h, "Site", map[string]string{"a.css": "a{color:#E1572C;fill:#E2572B}", "b.css": "b{color:#E1572C}"})
	first := p.next(h, id, "")
	require.EqualValues(t, 2, first.at("run", "findings"))
	at := house(h, "/projects/%d/remarks", id)
	var people []any
	require.NotNil(t, p.call("GET", house(h, "/people"), nil).json)
	people = p.call("GET", house(h, "/people"), nil).at("members").([]any)
	member := func(name string) float64 {
		for _, m := range people {
			if m.(map[string]any)["name"] == name {
				return m.(map[string]any)["id"].(float64)
			}
		}
		t.Fatalf("no %s among %v", name, people)
		return 0
	}
	told := p.call("POST", at, o{"path": "a.css", "color": "#E1572C", "text": "Is this <theirs>?", "for": member("Keeper")})
	require.Equal(t, 201, told.status, told.text)
	assert.Equal(t, "Keeper", told.at("for"))
	assert.Equal(t, true, told.at("mailed"))
	letter, ok := post.Await("keeper@odelwick.example", "#E1572C in a.css")
	require.True(t, ok)
	assert.Contains(t, letter.Text, "Contributor asks you to see to #E1572C (drifted) in a.css of Site, Odelwick Ferries.\n\nIs this <theirs>?")
	assert.Contains(t, letter.Text, fmt.Sprintf("/h/%d/audit/project/%d", h, id))
	asked := p.call("POST", at, o{"path": "b.css", "color": "#E1572C", "text": "Here too."})
	require.Equal(t, 201, asked.status, asked.text)
	for _, wrong := range []struct {
		body   o
		status int
	}{
		{o{"path": "a.css", "color": "#E1572C", "text": " "}, 422}, {o{"path": "a.css", "color": "#E1572C", "text": strings.Repeat("x", 501)}, 422},
		{o{"path": "a.css", "color": "#E1572C", "for": 99999}, 422}, {o{"path": "a.css", "color": "#E2572B", "text": "x"}, 422},
		{o{"path": "c.css", "color": "#E1572C", "text": "x"}, 404}, {o{"path": "a.css", "color": "#111111", "text": "x"}, 404},
	} {
		a := p.call("POST", at, wrong.body)
		assert.Equal(t, wrong.status, a.status, "%v: %s", wrong.body, a.text)
	}
	assert.Equal(t, 403, reader.call("POST", at, o{"path": "a.css", "color": "#E1572C", "text": "x"}).status)
	assert.Equal(t, 404, p.call("POST", house(h, "/projects/9999/remarks"), o{"path": "a.css", "color": "#E1572C", "text": "x"}).status)
	list := reader.call("GET", at, nil)
	require.Len(t, list.json, 2)
	assert.Equal(t, false, list.at(0, "mine"))
	assert.Equal(t, true, keeper.call("GET", at, nil).at(0, "mine"))
	assert.Equal(t, 403, reader.call("DELETE", house(h, "/remarks/%d", told.id("id")), nil).status)

	settled := func() []any {
		return []any{p.call("GET", at, nil).at(0, "settled"), p.call("GET", at, nil).at(1, "settled")}
	}
	p.next(h, id, "")
	assert.Equal(t, []any{nil, nil}, settled(), "all is as it was")
	p.fill(h, id, map[string]string{"a.css": "a{color:#E2572B}"})
	p.next(h, id, "")
	assert.Equal(t, []any{3.0, nil}, settled(), "gone in run 3")
	require.Equal(t, 204, p.call("DELETE", house(h, "/projects/%d/files?path=b.css", id), nil).status)
	p.next(h, id, "")
	assert.Equal(t, []any{3.0, 4.0}, settled(), "the file is gone")

	other := keeper.call("POST", at, o{"path": "a.css", "color": "#E1572C", "text": "x"})
	assert.Equal(t, 404, other.status, "it is not there any more")
	assert.Equal(t, 204, p.call("DELETE", house(h, "/remarks/%d", asked.id("id")), nil).status, "one's own")
	assert.Equal(t, 404, p.call("DELETE", house(h, "/remarks/%d", asked.id("id")), nil).status)
	assert.Equal(t, 204, keeper.call("DELETE", house(h, "/remarks/%d", told.id("id")), nil).status)
	assert.Empty(t, p.call("GET", at, nil).json)
}
