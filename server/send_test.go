package server_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/swatchfile"
	"huekeep/keep/send"
)

// What the Send station asks for, in requests: sets that follow, what is taken of another, comparisons, many at once.
func TestSetsInRequests(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/sets"), o{"name": "Accents", "colors": []int64{}, "follows": o{"role": "accent"}})
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, "accent", a.at("follows", "role"))
	assert.Len(t, a.at("colors"), 3, "Lamp, Saltmarsh and Heather Cliff")
	follows := a.id("id")
	for _, c := range []struct {
		status int
		body   o
	}{
		{422, o{"name": "X", "colors": []int64{}, "follows": o{"role": "loud;"}}},
		{409, o{"name": "accents", "colors": []int64{}}},
		{404, o{"name": "X", "colors": []int64{9999}}},
		{422, o{"name": "X", "colors": "all"}},
	} {
		assert.Equal(t, c.status, p.call("POST", house(h, "/sets"), c.body).status, "%v", c.body)
	}
	core := p.call("GET", house(h, "/sets"), nil).at(0).(map[string]any)
	first := core["colors"].([]any)[0].(map[string]any)["id"]
	assert.Equal(t, 409, p.call("POST", house(h, "/sets/%d/take", follows), o{"from": 1, "colors": []any{first}, "copy": true}).status, "it keeps itself current")
	empty := p.call("POST", house(h, "/sets"), o{"name": "Empty", "colors": []int64{}}).id("id")
	a = p.call("POST", house(h, "/sets/%d/take", empty), o{"from": 1, "colors": []any{first}, "copy": true})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "Deep Sound", a.at("colors", 0, "name"))

	// Slots and boxes by hand.
	body := o{"name": "Core", "version": core["version"], "colors": ids(core), "slots": []any{o{"slot": "accent1", "color": first}}, "boxes": o{"count": 4, "order": []any{first}}}
	a = p.call("PUT", house(h, "/sets/1"), body)
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"Deep Sound", true}, []any{a.at("slots", 4, "name"), a.at("slots", 4, "given")})
	assert.EqualValues(t, 4, a.at("boxes", "count"))
	for says, change := range map[string]o{
		"no slot":         {"slots": []any{o{"slot": "accent9", "color": first}}},
		"not in the set":  {"slots": []any{o{"slot": "accent1", "color": 9999}}},
		"1 to 64 boxes":   {"boxes": o{"count": 100, "order": []any{}}},
		"box is not in":   {"boxes": o{"count": 1, "order": []any{9999}}},
		"needs 7:1":       {"slots": []any{o{"slot": "dk2", "color": p.colorID(h, "Lamp")}}},
		"changed by some": {"version": 1},
	} {
		wrong := with(body, "version", a.at("version"))
		for k, v := range change {
			wrong[k] = v
		}
		got := p.call("PUT", house(h, "/sets/1"), wrong)
		assert.GreaterOrEqual(t, got.status, 400, says)
		assert.Contains(t, got.text, says)
	}

	// What is different, between any two.
	a = p.call("GET", house(h, "/sets/1/compare?from=1&to=2"), nil)
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "Saltmarsh added", a.at(0, "what", 0))
	assert.Nil(t, a.at(0).(map[string]any)["before"])
	assert.Equal(t, 404, p.call("GET", house(h, "/sets/1/compare?from=1&to=9"), nil).status)
	assert.Equal(t, 400, p.call("GET", house(h, "/sets/1/compare?from=x&to=9"), nil).status)

	// Several at once: all or none.
	assert.Equal(t, 409, p.call("POST", house(h, "/editions"), o{"sets": []int64{1, 2}}).status, "Charts is as it was")
	assert.Equal(t, 422, p.call("POST", house(h, "/editions"), o{"sets": []int64{}}).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/sets/1/editions"), o{"note": strings.Repeat("x", 501)}).status)
	a = p.call("POST", house(h, "/editions"), o{"sets": []int64{1}, "note": "Slots by hand"})
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, "Slots by hand", a.at(0, "editions", 0, "note"))
	a = p.call("POST", house(h, "/send"), o{"sets": []int64{1}})
	require.Equal(t, 200, a.status, a.text)
	assert.EqualValues(t, 2, a.at("recipients"))
	assert.Equal(t, "current", a.at("sets", 0, "recipients", 0, "state"))

	list := p.call("GET", house(h, "/packings"), nil)
	usual := map[string][]string{}
	for i := range list.json.([]any) {
		for _, kind := range list.at(i, "usual").([]any) {
			usual[kind.(string)] = append(usual[kind.(string)], list.at(i, "name").(string))
		}
	}
	assert.Len(t, usual, len(send.Kinds))
	for _, k := range send.Kinds {
		assert.ElementsMatch(t, k.Packings, usual[k.Name], "what the form offers is what the rules take")
	}
	assert.Len(t, list.json, len(swatchfile.Packings()))
}

// ids are the numbers of a set's colors.
func ids(set map[string]any) []any {
	out := []any{}
	for _, c := range set["colors"].([]any) {
		out = append(out, c.(map[string]any)["id"])
	}
	return out
}

// A house knows nothing of what another one sends.
func TestSendingStaysInItsHouse(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	other := p.call("GET", "/session", nil).id("houses", 1, "id")
	crew := named(p.call("GET", house(h, "/recipients"), nil), "Film crew")
	for method, path := range map[string]string{
		"GET ":  house(other, "/sets/1/editions/1"),
		"GET":   house(other, "/recipients/%d/receipts", crew),
		"POST":  house(other, "/recipients/%d/pickup", crew),
		"PUT":   house(other, "/recipients/%d/pause", crew),
		"POST ": house(other, "/sets/1/restore"),
	} {
		assert.Equal(t, 404, p.call(strings.TrimSpace(method), path, nil).status, path)
	}
	assert.Equal(t, 404, p.call("DELETE", house(other, "/recipients/%d", crew), nil).status)
	assert.Equal(t, 404, p.call("GET", house(other, "/sets/1/editions/1/kits/%d", crew), nil).status)
	assert.Equal(t, 404, p.call("PUT", house(other, "/sets/1/editions/1/withdrawal"), o{"why": "x"}).status)
	assert.Empty(t, p.call("GET", house(other, "/outbox"), nil).json)
	assert.Equal(t, "behind 1 of 3", p.state(h, 3, "Film crew"), "and nothing was changed")
}
