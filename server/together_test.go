package server_test

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
)

func TestTwoColorsBecomeOne(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	slate, fog := p.colorID(h, "Slate Quay"), p.colorID(h, "Fog")
	sheet := func(id int64) answer { return p.call("GET", house(h, "/colors/%d", id), nil) }
	a := p.call("POST", house(h, "/colors/%d/merge", slate), map[string]any{"version": 9, "into": fog})
	assert.Equal(t, 409, a.status, "somebody changed it meanwhile")
	a = p.call("POST", house(h, "/colors/%d/merge", slate), map[string]any{"version": sheet(slate).at("version"), "into": slate})
	assert.Contains(t, a.text, "cannot be merged into itself")
	before := sheet(slate)
	require.NotEmpty(t, before.at("holders"))
	a = p.call("POST", house(h, "/colors/%d/merge", slate), map[string]any{"version": before.at("version"), "into": fog})
	require.Equal(t, 200, a.status, a.text)
	assert.Contains(t, a.at("row", "aliases"), "Slate Quay")
	assert.Contains(t, a.at("history", 0, "what"), "Slate Quay (#3B444B) merged into it")
	assert.Equal(t, 404, sheet(slate).status)
	sets := p.call("GET", house(h, "/sets"), nil)
	for i := range sets.json.([]any) {
		seen := map[string]bool{}
		for _, c := range sets.at(i, "colors").([]any) {
			name := c.(map[string]any)["name"].(string)
			assert.NotEqual(t, "Slate Quay", name)
			assert.False(t, seen[name], "%s stands twice", name)
			seen[name] = true
		}
	}
	edition := p.call("GET", house(h, "/sets/1/editions/2"), nil)
	assert.Contains(t, edition.text, "Slate Quay", "what was fixed stays")
	assert.GreaterOrEqual(t, len(a.at("holders").([]any)), len(before.at("holders").([]any)), "and counts as holding the one that is left")
}

func TestASuccessorTakesItsPlace(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	lamp, buoy := p.colorID(h, "Lamp"), p.colorID(h, "Buoy")
	version := func() any { return p.call("GET", house(h, "/colors/%d", lamp), nil).at("version") }
	a := p.call("POST", house(h, "/colors/%d/succeed", lamp), map[string]any{"version": version()})
	assert.Equal(t, 422, a.status)
	assert.Contains(t, a.text, "has no successor")
	ice := p.colorID(h, "Heather Cliff")
	require.Equal(t, 200, p.call("PATCH", house(h, "/colors/%d", lamp), map[string]any{"version": version(), "status": "retired", "successor": ice}).status)
	a = p.call("POST", house(h, "/colors/%d/succeed", lamp), map[string]any{"version": version()})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"Core", "Charts", "Safety film", "Winter"}, a.at("sets"))
	sets := p.call("GET", house(h, "/sets"), nil)
	assert.NotContains(t, fmt.Sprint(sets.at(0, "colors")), "Lamp")
	assert.Contains(t, fmt.Sprint(sets.at(0, "colors")), "Heather Cliff")
	assert.Contains(t, p.call("GET", house(h, "/colors/%d", lamp), nil).at("history", 0, "what"), "took its place in Core, Charts, Safety film, Winter")
	_ = buoy
}

func TestAContributorCorrectsTheOwnProposalAndSuggests(t *testing.T) {
	s := newSite(t)
	keeper, p := s.as("keeper"), s.as("contributor")
	h := p.ferries()
	require.Equal(t, 201, p.call("POST", house(h, "/tray"), map[string]string{"text": "Harbor Teal #1D6F6A"}).status)
	item := p.call("GET", house(h, "/tray"), nil).at(0, "id")
	a := p.call("POST", house(h, "/tray/admit"), map[string]any{"items": []any{item}})
	require.Equal(t, 201, a.status, a.text)
	teal := int64(a.at("colors", 0, "id").(float64))
	assert.Equal(t, true, p.call("GET", house(h, "/colors/%d", teal), nil).at("own"))
	a = p.call("PATCH", house(h, "/colors/%d", teal), map[string]any{"version": 1, "name": "Harbor Green", "value": "#1D6F60"})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "#1D6F60", a.at("row", "hex"))
	assert.Equal(t, 403, p.call("PATCH", house(h, "/colors/%d", teal), map[string]any{"version": 2, "status": "approved"}).status, "not by oneself")
	assert.Equal(t, 403, p.call("PUT", house(h, "/colors/%d/builds/coated", teal), map[string]any{"version": 2, "value": "1 2 3 4"}).status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/colors/%d?version=2", teal), nil).status, "withdrawn")

	buoy := p.colorID(h, "Buoy")
	a = p.call("PATCH", house(h, "/colors/%d", buoy), map[string]any{"version": 1, "name": "Buoy Red"})
	assert.Equal(t, 403, a.status)
	assert.Contains(t, a.text, "you can suggest a change")
	assert.Equal(t, 403, p.call("DELETE", house(h, "/colors/%d?version=1", buoy), nil).status)
	suggest := func(body map[string]any) answer {
		return p.call("POST", house(h, "/colors/%d/suggestions", buoy), body)
	}
	assert.Contains(t, suggest(map[string]any{"name": "Buoy"}).text, "Nothing would change")
	assert.Equal(t, 422, suggest(map[string]any{"value": "#12"}).status)
	a = suggest(map[string]any{"value": "#E0552A", "rule": "Signs as well", "note": "as the printer has it"})
	require.Equal(t, 201, a.status, a.text)
	first := int64(a.at("id").(float64))
	second := int64(suggest(map[string]any{"name": "Buoy Red"}).at("id").(float64))
	assert.Len(t, keeper.call("GET", house(h, "/suggestions"), nil).json, 2)
	assert.Equal(t, 403, p.call("POST", house(h, "/suggestions/%d", first), map[string]any{"take": true}).status, "a keeper decides")
	assert.Equal(t, 204, keeper.call("POST", house(h, "/suggestions/%d", first), map[string]any{"take": true}).status)
	sheet := keeper.call("GET", house(h, "/colors/%d", buoy), nil)
	assert.Equal(t, "#E0552A", sheet.at("row", "hex"))
	assert.Equal(t, "Signs as well", sheet.at("row", "rule"))
	assert.Contains(t, sheet.at("history", 0, "what"), "suggested")
	assert.Equal(t, 204, p.call("POST", house(h, "/suggestions/%d", second), map[string]any{"take": false}).status, "withdrawn")
	assert.Empty(t, keeper.call("GET", house(h, "/suggestions"), nil).json)
	assert.Equal(t, 404, keeper.call("POST", house(h, "/suggestions/%d", second), map[string]any{"take": true}).status)
	third := int64(suggest(map[string]any{"name": "Red"}).at("id").(float64))
	assert.Equal(t, 204, keeper.call("POST", house(h, "/suggestions/%d", third), map[string]any{"take": false, "word": "the name is known"}).status)
	assert.Contains(t, keeper.call("GET", house(h, "/colors/%d", buoy), nil).at("history", 0, "what"), "declined: the name is known")
}

func TestRecipientsBelongToSets(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	names := func(set int) string {
		return fmt.Sprint(p.call("GET", house(h, "/sets"), nil).at(set, "recipients"))
	}
	assert.Contains(t, names(0), "Ticket office")
	assert.NotContains(t, names(1), "Ticket office", "it never got Charts")
	a := p.call("POST", house(h, "/recipients"), map[string]any{"name": "Film team", "kind": "web", "sets": []int{2}})
	require.Equal(t, 201, a.status, a.text)
	id := int64(a.at("id").(float64))
	assert.NotContains(t, names(0), "Film team")
	assert.Contains(t, names(1), "Film team")
	a = p.call("PUT", house(h, "/sets/1/recipients/%d", id), nil)
	require.Equal(t, 200, a.status, a.text)
	assert.Contains(t, names(0), "Film team")
	require.Equal(t, 200, p.call("DELETE", house(h, "/sets/1/recipients/%d", id), nil).status)
	assert.NotContains(t, names(0), "Film team")
	assert.Equal(t, 404, p.call("PUT", house(h, "/sets/99/recipients/%d", id), nil).status)
	assert.Equal(t, 404, p.call("PUT", house(h, "/sets/1/recipients/999"), nil).status)
	assert.Equal(t, 404, p.call("POST", house(h, "/recipients"), map[string]any{"name": "X", "kind": "web", "sets": []int{99}}).status)
	assert.NotContains(t, p.call("GET", house(h, "/recipients"), nil).text, `"X"`, "nothing half-written")
	require.Equal(t, 200, p.call("POST", house(h, "/sets/1/editions/2/send"), map[string]any{"recipients": []int64{id}}).status)
	assert.Contains(t, names(0), "Film team", "who is sent a set belongs to it")
}

// listens follows a house as an open page does; wait says whether a line with a part comes.
func (p *person) listens(h int64) (wait func(part string) bool) {
	t := p.t
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = p.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = p.app.ShutdownWithTimeout(time.Second) })
	r, err := http.NewRequest("GET", fmt.Sprintf("http://%s/api/houses/%d/events", listener.Addr(), h), nil)
	require.NoError(t, err)
	r.Header.Set("Cookie", p.cookie)
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	t.Cleanup(func() { _ = res.Body.Close() })
	require.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	heard := make(chan string, 100)
	go func() {
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			heard <- lines.Text()
		}
	}()
	wait = func(part string) bool {
		for {
			select {
			case line := <-heard:
				if strings.Contains(line, part) {
					return true
				}
			case <-time.After(20 * time.Second):
				return false
			}
		}
	}
	require.True(t, wait("listening"))
	return wait
}

func TestOthersHearOfChanges(t *testing.T) {
	s := newSite(t)
	reader, keeper := s.as("reader"), s.as("keeper")
	h := keeper.ferries()
	wait := reader.listens(h)
	id := keeper.colorID(h, "Fog")
	require.Equal(t, 200, keeper.call("PATCH", house(h, "/colors/%d", id), map[string]any{"version": 1, "rule": "changed"}).status)
	assert.True(t, wait("data: changed"), "a reader hears of it")
	project := keeper.call("POST", house(h, "/projects"), o{"name": "Site"}).id("id")
	assert.True(t, wait("data: changed"))
	require.Equal(t, 201, keeper.uploadBy("POST", house(h, "/projects/%d/files?path=a.css", project), "a.css", []byte("a{color:#E2572B}")).status)
	assert.True(t, wait("data: changed"), "of a file too")
	require.Equal(t, 204, keeper.call("DELETE", house(h, "/projects/%d/files?path=a.css", project), nil).status)
	assert.True(t, wait("data: changed"), "and when it goes")

	// A page that listens does not keep the program from stopping.
	begun := time.Now()
	require.NoError(t, reader.app.ShutdownWithTimeout(time.Minute))
	assert.Less(t, time.Since(begun), 30*time.Second)
}

// Two instances on one database: what is changed at one is heard at the other, and what somebody tries at both counts together.
func TestInstancesHearOfEachOther(t *testing.T) {
	s := newSite(t)
	k := stations.New(s.db, filestore.Memory(), standin.World())
	other := &site{t, server.New(server.Options{Stations: k, Interface: fstest.MapFS{"index.html": {Data: []byte("<html>")}}}), k, s.db}
	ctx, stop := context.WithCancel(t.Context())
	var both sync.WaitGroup
	for _, one := range []*stations.Stations{s.keeper, k} {
		both.Go(func() { one.Instances.Serve(ctx, 50*time.Millisecond) })
	}
	t.Cleanup(func() { stop(); both.Wait() })
	keeper := s.as("keeper")
	h := keeper.ferries()
	there := (&person{site: other, cookie: keeper.cookie, csrf: keeper.csrf}).listens(h)
	here := keeper.listens(h)
	require.Equal(t, 200, keeper.call("PATCH", house(h, "/colors/%d", keeper.colorID(h, "Fog")), o{"version": 1, "rule": "changed"}).status)
	assert.True(t, here("data: changed"))
	assert.True(t, there("data: changed"), "at the other instance")

	// Addresses that lead nowhere: some here, some there, and neither answers the next one.
	guess := func(at *site) int { return at.nobody().call("GET", "/p/nothing", nil).status }
	for range 12 {
		require.Equal(t, 404, guess(s))
	}
	for range 7 {
		require.Equal(t, 404, guess(other))
	}
	assert.Eventually(t, func() bool { return guess(s) == 429 && guess(other) == 429 }, 20*time.Second, 100*time.Millisecond)
}
