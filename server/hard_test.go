package server_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"go/parser"
	"go/token"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/api"
	"huekeep/filestore"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store/storetest"
)

// What nobody should send is answered with a sentence, and never with "something went wrong here".
func TestRequestsThatNobodyShouldSend(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	raw := func(method, path, kind, body string) answer {
		r := httptest.NewRequest(method, path, strings.NewReader(body))
		if kind != "" {
			r.Header.Set("Content-Type", kind)
		}
		return p.send(r)
	}
	for _, path := range []string{"/API/session", "/Api" + house(h, "/colors"), "/API" + house(h, "/tray")} {
		a := raw("GET", path, "", "")
		assert.Equal(t, "<html>", a.text, "%s is a page, not a way around the guard", path)
	}
	for _, kind := range []string{"application/cbor", "application/x-www-form-urlencoded", "text/plain", "application/xml", "nonsense", ""} {
		a := raw("POST", "/api"+house(h, "/tray"), kind, `{"text":"#123456"}`)
		assert.Equal(t, 415, a.status, kind)
		assert.Contains(t, a.at("title"), "as JSON")
	}
	assert.Equal(t, 422, p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#123456", "origin": "paste", "position": 2147483648}}}).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#123456", "origin": "paste", "position": -1}}}).status)
	for _, body := range []string{`{"items":[9223372036854775808]}`, `{"items":"all"}`, `{"items":[1.5]}`, `[`, ``, `null`} {
		a := raw("POST", "/api"+house(h, "/tray/admit"), "application/json", body)
		assert.Less(t, a.status, 500, body)
		assert.GreaterOrEqual(t, a.status, 400, body)
	}
	many := make([]int64, 20_000)
	fog := p.colorID(h, "Fog")
	for i := range many {
		many[i] = fog
	}
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	before := len(p.call("GET", house(bakery, "/colors"), nil).at("colors").([]any))
	a := p.call("POST", house(h, "/colors/copy"), o{"colors": many, "house": bakery, "move": false})
	assert.Equal(t, 422, a.status, "the same one 20,000 times")
	assert.Len(t, p.call("GET", house(bakery, "/colors"), nil).at("colors"), before)
}

// A program can tell what happened by a code that stays.
func TestProblemsHaveStableCodes(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	lamp := house(h, "/colors/%d", p.colorID(h, "Lamp"))
	for want, a := range map[string]answer{
		"unauthorized":      s.nobody().call("GET", "/session", nil),
		"forbidden":         s.as("reader").call("POST", house(h, "/tray"), o{"text": "#123456"}),
		"not-found":         p.call("GET", house(h, "/colors/99999"), nil),
		"invalid":           p.call("POST", house(h, "/tray"), o{"text": "hello"}),
		"changed-meanwhile": p.call("PATCH", lamp, o{"version": 99, "rule": "x"}),
		"name-taken":        p.call("PATCH", lamp, o{"version": 1, "name": "Buoy"}),
		"held":              p.call("DELETE", lamp+"?version=1", nil),
		"too-large":         p.call("POST", house(h, "/read"), o{"text": strings.Repeat("x", 2<<20)}),
	} {
		assert.Equal(t, want, a.at("code"), a.text)
	}
}

// fullDisk is a place for files that has no room left.
type fullDisk struct{ filestore.Store }

func (fullDisk) Write(context.Context, string, io.Reader, int64) error {
	return fmt.Errorf("write audits: %w", syscall.ENOSPC)
}

func TestAFullDiskSaysSo(t *testing.T) {
	db := storetest.Open(t)
	room := filestore.Memory()
	require.NoError(t, stations.New(db, room, standin.World()).Example.Load(context.Background()))
	k := stations.New(db, fullDisk{room}, standin.World())
	s := &site{t, server.New(server.Options{Stations: k, Interface: fstest.MapFS{}}), k, db}
	p := s.as("keeper")
	h := p.ferries()
	a := p.upload(h, "a.css", []byte("a{color:red}"))
	assert.Equal(t, 507, a.status)
	assert.Contains(t, a.at("title"), "no room left")
	assert.Empty(t, p.call("GET", house(h, "/jobs"), nil).json)
}

// Twenty people change everything at once: each answer is done, gone or a conflict with a sentence, and what was said to be done
// is there.
func TestTwentyWritersAtOnce(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	var colors []int64
	a := k.call("GET", house(h, "/colors"), nil)
	for i := range a.at("colors").([]any) {
		colors = append(colors, a.id("colors", i, "id"))
	}
	var lock sync.Mutex
	answers := map[int]int{}
	admitted := map[string]bool{}
	var all sync.WaitGroup
	for writer := range 20 {
		p := s.as("keeper")
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(writer), 1))
			for i := range storetest.Hard(8, 25) {
				color := colors[r.IntN(len(colors))]
				group := fmt.Sprintf("Group %d", r.IntN(3))
				var a answer
				switch r.IntN(8) {
				case 0:
					version := p.call("GET", house(h, "/colors/%d", color), nil).at("version")
					a = p.call("PATCH", house(h, "/colors/%d", color), o{"version": version, "group": group})
				case 1:
					a = p.call("POST", house(h, "/groups/delete"), o{"name": group})
				case 2:
					a = p.call("POST", house(h, "/groups/rename"), o{"name": group, "to": group + "s"})
				case 3:
					a = p.call("POST", house(h, "/colors/bulk"), o{"colors": colors, "group": group, "tag": fmt.Sprint("t", r.IntN(4))})
				case 4:
					a = p.call("POST", house(h, "/colors/%d/place", color), o{"before": colors[r.IntN(len(colors))]})
				case 5:
					name := fmt.Sprintf("W%d-%d", writer, i)
					put := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#123456", "name": name, "origin": "paste"}}})
					if a = put; put.status == 201 {
						list := put.json.([]any)
						a = p.call("POST", house(h, "/tray/admit"), o{"items": []int64{put.id(len(list)-1, "id")}, "group": group, "set": "Shared"})
						if a.status == 201 && len(a.at("colors").([]any)) == 1 {
							lock.Lock()
							admitted[a.at("colors", 0, "name").(string)] = true
							lock.Unlock()
						}
					}
				case 6:
					a = p.call("POST", house(h, "/sets/1/editions"), o{})
				case 7:
					version := p.call("GET", house(h, "/colors/%d", color), nil).at("version")
					a = p.call("PUT", house(h, "/colors/%d/builds/coated", color), o{"version": version, "value": fmt.Sprint(r.IntN(90), " 10 20 5")})
				}
				lock.Lock()
				answers[a.status]++
				lock.Unlock()
			}
		})
	}
	all.Wait()
	t.Log(answers)
	assert.Empty(t, answers[500])
	for status := range answers {
		assert.Contains(t, []int{200, 201, 204, 404, 409}, status)
	}
	text := k.call("GET", house(h, "/colors"), nil).text
	require.NotEmpty(t, admitted)
	for name := range admitted {
		assert.Contains(t, text, `"name":"`+name+`"`)
	}
}

// Progress comes as events until the job has ended; polling tells the same.
func TestAJobIsFollowed(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = s.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = s.app.Shutdown() })
	begun := p.upload(h, "large.css", bytes.Repeat([]byte("a{color:#E2572C}\n"), 40_000))
	require.Equal(t, 202, begun.status, begun.text)
	r, err := http.NewRequest("GET", fmt.Sprintf("http://%s/api%s", listener.Addr(), house(h, "/jobs/%d/events", begun.id("id"))), nil)
	require.NoError(t, err)
	r.Header.Set("Cookie", p.cookie)
	r.Header.Set("Accept-Encoding", "gzip, br")
	within, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	res, err := http.DefaultClient.Do(r.WithContext(within))
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	assert.Empty(t, res.Header.Get("Content-Encoding"), "what is streamed is not held back")
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	var events []map[string]any
	for _, block := range strings.Split(strings.TrimSpace(string(text)), "\n\n") {
		if data, ok := strings.CutPrefix(block, "data: "); ok {
			var e map[string]any
			require.NoError(t, json.Unmarshal([]byte(data), &e))
			events = append(events, e)
		}
	}
	require.NotEmpty(t, events)
	last := events[len(events)-1]
	assert.Equal(t, "done", last["state"])
	assert.Equal(t, last["result"], p.ended(h, begun.id("id")).at("result"))
	assert.Equal(t, 404, s.as("reader").call("GET", house(h, "/jobs/99999/events"), nil).status)
	assert.Equal(t, 409, p.call("DELETE", house(h, "/jobs/%d", begun.id("id")), nil).status, "it has ended")
}

// What nobody reads of a request's body is never taken for the next request: behind a proxy that would be one of somebody else.
func TestABodyIsNeverTheNextRequest(t *testing.T) {
	s := newSite(t)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = s.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = s.app.Shutdown() })
	hidden := "GET /ready HTTP/1.1\r\nHost: hidden\r\n\r\n"
	// answers sends a text and counts the answers until nothing comes any more.
	answers := func(text string) (n int) {
		conn, err := net.Dial("tcp", listener.Addr().String())
		require.NoError(t, err)
		defer conn.Close()
		go func() {
			_, _ = io.WriteString(conn, text+"GET /health HTTP/1.1\r\nHost: last\r\nConnection: close\r\n\r\n")
		}()
		require.NoError(t, conn.SetReadDeadline(time.Now().Add(20*time.Second)))
		in := bufio.NewReader(conn)
		for {
			res, err := http.ReadResponse(in, nil)
			if err != nil {
				return n
			}
			n++
			_, _ = io.Copy(io.Discard, res.Body)
			if res.Close {
				return n
			}
		}
	}
	for _, size := range []int{1, 100, 2000, 50_000} {
		body := strings.Repeat(hidden, size)
		for _, line := range []string{"POST /api/nothing", "POST /nothing", "POST /health", "GET /health", "GET /", "POST /assets/x", "POST /api/houses/1/mark", "PUT /api/houses/1/mark", "GET /api/houses/1/colors",
			"DELETE /api/houses/1/tray", "POST /b/x", "POST /api/session", "OPTIONS /api/session", "BREW /"} {
			for _, kind := range []string{"application/octet-stream", "application/json", "multipart/form-data; boundary=x"} {
				got := answers(fmt.Sprintf("%s HTTP/1.1\r\nHost: first\r\nContent-Type: %s\r\nContent-Length: %d\r\n\r\n%s", line, kind, len(body), body))
				assert.LessOrEqual(t, got, 2, "%s, %s, %d bytes", line, kind, len(body))
				assert.Positive(t, got, "%s, %s, %d bytes", line, kind, len(body))
			}
		}
	}
	form := "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a\"\r\n\r\n1\r\n--x--\r\n" + strings.Repeat(hidden, 500) // behind its end
	assert.LessOrEqual(t, answers(fmt.Sprintf("PUT /api/houses/1/mark HTTP/1.1\r\nHost: first\r\nContent-Type: multipart/form-data; boundary=x\r\nContent-Length: %d\r\n\r\n%s", len(form), form)), 2)
	for _, head := range []string{"Transfer-Encoding: chunked", "Transfer-Encoding: chunked\r\nContent-Length: 5", "Content-Length: 5\r\nContent-Length: 6", "Content-Length: +5", "Transfer-Encoding: xchunked"} {
		for _, method := range []string{"GET", "POST", "DELETE"} {
			assert.LessOrEqual(t, answers(method+" /health HTTP/1.1\r\nHost: first\r\n"+head+"\r\n\r\n0\r\n\r\n"+strings.Repeat(hidden, 3)), 1, "%s %s", method, head)
		}
	}
}

// A build that is marked for readers only by its role in the contract is guarded by it; what states nothing does not start.
func TestAnOperationThatDoesNotSayWhoMayCallItIsRefused(t *testing.T) {
	whole := string(api.Contract)
	at := strings.Index(whole, "operationId: getTray\n")
	require.Positive(t, at)
	without := func(line string) []byte {
		return []byte(whole[:at] + strings.Replace(whole[at:], "      "+line+"\n", "", 1))
	}
	_, err := api.AccessOf(without("security: [{ session: [] }, { token: [] }]"))
	assert.ErrorContains(t, err, "getTray does not state who may call it")
	_, err = api.AccessOf(without("x-least-role: reader"))
	assert.ErrorContains(t, err, "getTray must state the least role")
}

// To a reader, a draft and a color that there is not are the same, whatever is asked of them.
func TestAReaderCannotTellADraftFromNothing(t *testing.T) {
	s := newSite(t)
	c, r := s.as("contributor"), s.as("reader")
	h := c.ferries()
	tray := c.call("POST", house(h, "/tray"), o{"text": "Draft One #123456"})
	draft := c.call("POST", house(h, "/tray/admit"), o{"items": []int64{tray.id("tray", 0, "id")}}).id("colors", 0, "id")
	for what, try := range map[string]func(id int64) answer{
		"the sheet":   func(id int64) answer { return r.call("GET", house(h, "/colors/%d", id), nil) },
		"its history": func(id int64) answer { return r.call("GET", house(h, "/colors/%d/history?before=99", id), nil) },
		"a preview":   func(id int64) answer { return r.call("POST", house(h, "/colors/%d/preview", id), o{"value": "#fff"}) },
		"a change": func(id int64) answer {
			return r.call("PATCH", house(h, "/colors/%d", id), o{"version": 1, "rule": "x"})
		},
		"an approval": func(id int64) answer {
			return r.call("PUT", house(h, "/colors/%d/builds/coated", id), o{"version": 1, "value": "1 2 3 4"})
		},
		"an approval taken": func(id int64) answer {
			return r.call("DELETE", house(h, "/colors/%d/builds/coated?version=1", id), nil)
		},
		"removing":  func(id int64) answer { return r.call("DELETE", house(h, "/colors/%d?version=1", id), nil) },
		"an export": func(id int64) answer { return r.call("GET", house(h, "/library?format=css&colors=%d", id), nil) },
	} {
		there, nothing := try(draft), try(999_999)
		assert.Equal(t, nothing.status, there.status, what)
		assert.Equal(t, nothing.text, there.text, what)
	}
}

// The server converts what the rules return; it knows no row of the database.
func TestTheServerKnowsNoStore(t *testing.T) {
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, i := range f.Imports {
			assert.NotEqual(t, `"huekeep/store"`, i.Path.Value, name)
		}
	}
}
