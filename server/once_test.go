package server_test

import (
	"bytes"
	"encoding/json"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// withKey is call with a key, so that it is done once.
func (p *person) withKey(key, method, path string, body any) answer {
	p.t.Helper()
	data, err := json.Marshal(body)
	require.NoError(p.t, err)
	r := httptest.NewRequest(method, "/api"+path, bytes.NewReader(data))
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Idempotency-Key", key)
	return p.send(r)
}

func TestWhatHasAKeyIsDoneOnce(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	colors := house(h, "/colors")
	body := o{"name": "Night Boat", "value": "#102030"}
	first := p.withKey("a-key-of-mine", "POST", colors, body)
	require.Equal(t, 201, first.status, first.text)
	again := p.withKey(`"a-key-of-mine"`, "POST", colors, o{"value": "#102030", "name": "Night Boat"})
	assert.Equal(t, 201, again.status)
	assert.Equal(t, first.text, again.text)
	assert.Equal(t, "true", again.header.Get("Idempotency-Replayed"))
	assert.Equal(t, first.header.Get("Content-Type"), again.header.Get("Content-Type"))
	assert.Empty(t, first.header.Get("Idempotency-Replayed"))
	assert.Equal(t, 409, p.call("POST", colors, body).status, "without a key it is another request")

	used := p.withKey("a-key-of-mine", "POST", colors, o{"name": "Day Boat", "value": "#102031"})
	assert.Equal(t, 422, used.status)
	assert.Equal(t, "key-used", used.at("code"))
	assert.Equal(t, 422, p.withKey("a-key-of-mine", "POST", house(h, "/projects"), o{"name": "x"}).status)
	assert.Equal(t, 422, p.withKey("short", "POST", colors, body).status)

	// What was refused is corrected with the same key.
	assert.Equal(t, 422, p.withKey("another-key", "POST", colors, o{"name": "Day Boat", "value": "blueish"}).status)
	assert.Equal(t, 201, p.withKey("another-key", "POST", colors, o{"name": "Day Boat", "value": "#405060"}).status)

	// Another person's key is another key; a role that does not reach is refused before.
	assert.Equal(t, 201, s.as("contributor").withKey("a-key-of-mine", "POST", colors, o{"name": "Draft Boat", "value": "#506070"}).status)
	assert.Equal(t, 403, s.as("reader").withKey("a-key-of-mine", "POST", colors, body).status)

	// At the same moment, many times.
	var all sync.WaitGroup
	answers := make([]answer, 12)
	for i := range answers {
		all.Go(func() { answers[i] = p.withKey("at-once-at-once", "POST", house(h, "/projects"), o{"name": "Posters"}) })
	}
	all.Wait()
	made := 0
	for _, a := range answers {
		switch {
		case a.status == 201 && a.header.Get("Idempotency-Replayed") == "":
			made++
		case a.status == 409:
			assert.Equal(t, "busy", a.at("code"), a.text)
			assert.Equal(t, "2", a.header.Get("Retry-After"))
		default:
			assert.Equal(t, 201, a.status, a.text)
		}
	}
	assert.Equal(t, 1, made)
	assert.Equal(t, 1, strings.Count(p.call("GET", house(h, "/projects"), nil).text, `"Posters"`))

	// A file that is sent again is parted anew, and is the same file.
	upload := func(data string) answer {
		r := p.formOf("POST", house(h, "/audits"), "a.css", []byte(data))
		r.Header.Set("Idempotency-Key", "upload-upload")
		return p.send(r)
	}
	job := upload("a{color:#102030}")
	require.Equal(t, 202, job.status, job.text)
	assert.Equal(t, job.id("id"), upload("a{color:#102030}").id("id"))
	assert.Equal(t, 422, upload("a{color:#102031}").status)

	// The trail tells of it once.
	trail := p.call("GET", house(h, "/trail?what=addColor"), nil)
	assert.Equal(t, 1, strings.Count(trail.text, "added the color Night Boat\""), "but for what was refused")
}

// What is fetched says what it is, and what one has already is not sent again.
func TestFilesHaveTags(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	a := p.judge(h, "a.css", []byte("a{color:#0E3A54}"))
	audit := a.id("line", "id")
	get := func(path, tag string) answer {
		r := httptest.NewRequest("GET", "/api"+path, nil)
		if tag != "" {
			r.Header.Set("If-None-Match", tag)
		}
		return p.send(r)
	}
	for path, kind := range map[string]string{
		house(h, "/library"):                        "application/json",
		house(h, "/library?format=css"):             "text/css",
		house(h, "/audits/%d/report/text", audit):   "text/plain; charset=utf-8",
		house(h, "/audits/%d/report/sarif", audit):  "application/sarif+json",
		house(h, "/audits/%d/report/junit", audit):  "application/xml",
		house(h, "/audits/%d/report/csv", audit):    "text/csv; charset=utf-8",
		house(h, "/audits/%d/report/html", audit):   "text/html; charset=utf-8",
		house(h, "/sets/1/editions/1/packings/css"): "text/css",
		house(h, "/sets/1/editions/1/kits/1"):       "application/zip",
	} {
		first := get(path, "")
		require.Equal(t, 200, first.status, "%s: %s", path, first.text)
		assert.True(t, strings.HasPrefix(first.header.Get("Content-Type"), strings.TrimSuffix(kind, "; charset=utf-8")), "%s: %s", path, first.header.Get("Content-Type"))
		tag := first.header.Get("ETag")
		require.NotEmpty(t, tag, path)
		same := get(path, `"other", `+tag)
		assert.Equal(t, 304, same.status, path)
		assert.Empty(t, same.text)
		assert.Equal(t, 200, get(path, `"other"`).status)
	}
	tag := get(house(h, "/library"), "").header.Get("ETag")
	require.Equal(t, 201, p.call("POST", house(h, "/colors"), o{"name": "Night Boat", "value": "#102030"}).status)
	assert.Equal(t, 200, get(house(h, "/library"), tag).status, "the library has changed")

	// A judged file is repainted by its own number.
	b := p.call("POST", house(h, "/audits/%d/repaints", audit), o{})
	require.Equal(t, 202, b.status, b.text)
	assert.Equal(t, 404, p.call("POST", house(h, "/audits/99999/repaints"), o{}).status)
}
