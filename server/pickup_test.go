package server_test

import (
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fetch asks for an address without an account.
func (s *site) fetch(method, path string, head map[string]string) (*http.Response, string) {
	s.t.Helper()
	r := httptest.NewRequest(method, path, nil)
	r.Header.Set("User-Agent", "site-build/2.1 (ci)")
	for k, v := range head {
		r.Header.Set(k, v)
	}
	res, err := s.app.Test(r, fiber.TestConfig{Timeout: time.Minute})
	require.NoError(s.t, err)
	text, err := io.ReadAll(res.Body)
	require.NoError(s.t, err)
	return res, string(text)
}

// pickup gives a recipient an address.
func (p *person) pickup(h int64, name string) (id int64, path string) {
	p.t.Helper()
	id = named(p.call("GET", house(h, "/recipients"), nil), name)
	a := p.call("POST", house(h, "/recipients/%d/pickup", id), nil)
	require.Equal(p.t, 201, a.status, a.text)
	return id, a.at("path").(string)
}

// state is how a recipient stands with a set.
func (p *person) state(h, set int64, name string) string {
	p.t.Helper()
	for _, x := range p.call("GET", house(h, "/recipients"), nil).json.([]any) {
		for _, y := range x.(map[string]any)["holdings"].([]any) {
			if hold := y.(map[string]any); x.(map[string]any)["name"] == name && int64(hold["set"].(float64)) == set {
				return fmt.Sprint(hold["state"], " ", hold["edition"], " of ", hold["current"])
			}
		}
	}
	return "none"
}

// A build fetches the same file again and again: it is current, nothing is sent twice, and the record does not grow.
func TestABuildFetchesAndIsCurrent(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	made := p.call("POST", house(h, "/recipients"), o{"name": "Kiosks", "kind": "web", "sets": []int64{1}, "packings": []string{"css", "scss"}})
	require.Equal(t, 201, made.status, made.text)
	id, path := made.id("id"), made.at("path").(string)
	require.Regexp(t, `^/p/[\w-]{43}$`, path, "256 bits")
	assert.Equal(t, "never <nil> of 2", p.state(h, 1, "Kiosks"))
	assert.NotContains(t, p.call("GET", house(h, "/recipients"), nil).text, path[3:], "the secret is not to be had again")

	head, _ := s.fetch("HEAD", path+"/core.css", nil)
	assert.Equal(t, 200, head.StatusCode)
	assert.Equal(t, "never <nil> of 2", p.state(h, 1, "Kiosks"), "whoever only looks has not fetched")

	res, text := s.fetch("GET", path+"/core.css", nil)
	require.Equal(t, 200, res.StatusCode, text)
	assert.Contains(t, text, "--buoy: #E2572B;")
	assert.Equal(t, "text/css; charset=utf-8", res.Header.Get("Content-Type"))
	assert.Equal(t, "*", res.Header.Get("Access-Control-Allow-Origin"))
	assert.Equal(t, "private, no-cache", res.Header.Get("Cache-Control"))
	assert.Contains(t, res.Header.Get("Content-Disposition"), "odelwick-ferries-core.css")
	assert.Equal(t, "waiting <nil> of 2", p.state(h, 1, "Kiosks"), "what scans mail fetches too; that says nothing")
	_, _ = s.fetch("GET", path+"/core.css", map[string]string{"Authorization": "Bearer " + strings.Repeat("x", 43)})
	_, _ = s.fetch("GET", path+"/core.css", map[string]string{"Authorization": "Bearer " + path[3:], "User-Agent": "Mozilla/5.0"})
	assert.Equal(t, "waiting <nil> of 2", p.state(h, 1, "Kiosks"), "another token, a browser")
	token := map[string]string{"Authorization": "Bearer " + path[3:]}
	_, _ = s.fetch("GET", path+"/core.css", token)
	assert.Equal(t, "current 2 of 2", p.state(h, 1, "Kiosks"), "a build that says who it is has it")
	tag, at := res.Header.Get("ETag"), res.Header.Get("Last-Modified")
	require.NotEmpty(t, tag)
	for _, head := range []map[string]string{{"If-None-Match": tag}, {"If-None-Match": `"x", ` + tag}, {"If-Modified-Since": at}, {"If-None-Match": tag, "Accept-Encoding": "br"}} {
		res, text := s.fetch("GET", path+"/core.css", head)
		assert.Equal(t, 304, res.StatusCode, "%v", head)
		assert.Empty(t, text)
	}
	for _, head := range []map[string]string{{"If-None-Match": `"other"`, "If-Modified-Since": at}, {"If-Modified-Since": "Mon, 02 Jan 2006 15:04:05 GMT"}, {"If-Modified-Since": "yesterday"}} {
		res, _ := s.fetch("GET", path+"/core.css", head)
		assert.Equal(t, 200, res.StatusCode, "%v", head)
	}
	for _, encoding := range []string{"gzip", "br"} {
		res, _ := s.fetch("GET", path+"/core.scss", map[string]string{"Accept-Encoding": encoding})
		assert.Equal(t, encoding, res.Header.Get("Content-Encoding"))
		again, _ := s.fetch("GET", path+"/core.scss", map[string]string{"Accept-Encoding": encoding, "If-None-Match": res.Header.Get("ETag")})
		assert.Equal(t, 304, again.StatusCode, "what came packed is known again")
	}
	receipts := p.call("GET", house(h, "/recipients/%d/receipts", id), nil)
	assert.Len(t, receipts.json, 4, "one receipt for each file, edition and kind of client")
	assert.Equal(t, "a program (site-build)", receipts.at(3, "client"))

	// Whoever calls themselves something else each time does not make the record long either.
	for i := range 60 {
		s.fetch("GET", path+"/core.css", map[string]string{"User-Agent": fmt.Sprintf("liar-%d", i)})
	}
	assert.Less(t, len(p.call("GET", house(h, "/recipients/%d/receipts", id), nil).json.([]any)), 25)

	// A new edition: the current address has it, the numbered one does not change.
	core := p.call("GET", house(h, "/sets"), nil).at(0).(map[string]any)
	ids := []any{}
	for _, c := range core["colors"].([]any)[:3] {
		ids = append(ids, c.(map[string]any)["id"])
	}
	require.Equal(t, 200, p.call("PUT", house(h, "/sets/1"), o{"name": "Core", "version": core["version"], "colors": ids}).status)
	require.Equal(t, 201, p.call("POST", house(h, "/sets/1/editions"), o{"note": "Three are enough"}).status)
	assert.Equal(t, "behind 2 of 3", p.state(h, 1, "Kiosks"))
	time.Sleep(1100 * time.Millisecond) // an answer may be a second old
	res, text = s.fetch("GET", path+"/core.css", map[string]string{"If-None-Match": tag})
	assert.Equal(t, 200, res.StatusCode)
	assert.NotContains(t, text, "--fog")
	res, text = s.fetch("GET", path+"/2/core.css", map[string]string{"If-None-Match": tag})
	assert.Equal(t, 304, res.StatusCode, text)
	assert.Equal(t, "private, max-age=31536000, immutable", res.Header.Get("Cache-Control"))
	assert.Equal(t, "waiting 2 of 3", p.state(h, 1, "Kiosks"), "fetched and not confirmed")
	_, _ = s.fetch("GET", path+"/core.css", token)
	assert.Equal(t, "current 3 of 3", p.state(h, 1, "Kiosks"))

	// The feed tells of it.
	_, text = s.fetch("GET", path+"/feed.atom", nil)
	var feed struct {
		Entries []struct {
			Title   string `xml:"title"`
			Summary string `xml:"summary"`
		} `xml:"http://www.w3.org/2005/Atom entry"`
	}
	require.NoError(t, xml.Unmarshal([]byte(text), &feed))
	assert.NotContains(t, text, "http://example.com", "links lead to the address of the settings, whatever the request calls it")
	assert.Equal(t, "Core, edition 3: Three are enough", feed.Entries[0].Title+": "+feed.Entries[0].Summary)

	for _, bad := range []string{"core.exe", "9/core.css", "x/core.css", "0/core.css/x", "charts.css", "nothing", "core", "..%2fcore.css"} {
		res, text := s.fetch("GET", path+"/"+bad, nil)
		assert.Equal(t, 404, res.StatusCode, bad)
		assert.Regexp(t, `^\S.{9,}\.\n$`, text, "a sentence for a machine too")
	}
}

func TestAnEditionThatIsWithdrawnSaysSo(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	_, path := p.pickup(h, "Booking site")
	assert.Equal(t, 422, p.call("PUT", house(h, "/sets/1/editions/2/withdrawal"), o{"why": " "}).status, "a reason is needed")
	a := p.call("PUT", house(h, "/sets/1/editions/2/withdrawal"), o{"why": "Fog was mistyped"})
	require.Equal(t, 200, a.status, a.text)
	assert.EqualValues(t, 1, a.at("current"))
	assert.Equal(t, "Fog was mistyped", a.at("editions", 0, "withdrawn", "why"))
	before := p.call("GET", house(h, "/sets/1/editions/2"), nil)
	assert.Equal(t, 200, before.status, "it is as it was")
	res, text := s.fetch("GET", path+"/2/core.css", nil)
	assert.Equal(t, 410, res.StatusCode)
	assert.Contains(t, text, "Edition 2 of Core was withdrawn")
	assert.Contains(t, text, "Fog was mistyped.")
	_, text = s.fetch("GET", path+"/core.css", nil)
	assert.Contains(t, text, "edition 1 */", "the current address has the newest in force")
	_, page := s.fetch("GET", path, nil)
	assert.Contains(t, page, "Edition 2 was withdrawn")
	assert.Equal(t, "behind 2 of 1", p.state(h, 1, "Booking site"), "who holds it holds something else than what is in force")
	assert.Equal(t, 409, p.call("POST", house(h, "/sets/1/editions/2/send"), o{"recipients": []int64{1}}).status)
	require.Equal(t, 200, p.call("DELETE", house(h, "/sets/1/editions/2/withdrawal"), nil).status)
	assert.Equal(t, "current 2 of 2", p.state(h, 1, "Booking site"))
}

func TestAnAddressCanBeRenewedClosedAndNotGuessed(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	id, first := p.pickup(h, "Booking site")
	_, second := p.pickup(h, "Booking site")
	res, text := s.fetch("GET", first+"/core.css", nil)
	assert.Equal(t, 410, res.StatusCode)
	assert.Contains(t, text, "was closed. Ask Odelwick Ferries")
	res, _ = s.fetch("GET", second+"/core.css", nil)
	assert.Equal(t, 200, res.StatusCode)
	require.Equal(t, 204, p.call("DELETE", house(h, "/recipients/%d/pickup", id), nil).status)
	res, _ = s.fetch("GET", second+"/core.css", nil)
	assert.Equal(t, 410, res.StatusCode, "closed at once, although it was just fetched")

	_, third := p.pickup(h, "Booking site")
	require.Equal(t, 204, p.call("DELETE", house(h, "/recipients/%d", id), nil).status)
	res, _ = s.fetch("GET", third, nil)
	assert.Equal(t, 410, res.StatusCode)
	assert.Equal(t, 404, p.call("POST", house(h, "/sets/1/editions/2/send"), o{"recipients": []int64{id}}).status)
	back := p.call("POST", house(h, "/recipients/%d/restore", id), nil)
	require.Equal(t, 200, back.status, back.text)
	assert.Nil(t, back.at("pickup") /* a secret that was closed stays closed */)
	assert.NotEmpty(t, p.call("GET", house(h, "/recipients/%d/receipts", id), nil).json, "its history came back with it")

	// A board's link is no pickup, and the other way around.
	b := p.call("POST", house(h, "/boards/1/sheets/1/links"), o{})
	require.Equal(t, 201, b.status, b.text)
	res, _ = s.fetch("GET", strings.Replace(b.at("path").(string), "/b/", "/p/", 1), nil)
	assert.Equal(t, 404, res.StatusCode)

	_, fourth := p.pickup(h, "Booking site")
	for range 25 {
		res, text = s.fetch("GET", "/p/"+strings.Repeat("x", 43)+"/core.css", nil)
	}
	assert.Equal(t, 429, res.StatusCode)
	assert.NotEmpty(t, res.Header.Get("Retry-After"))
	assert.Contains(t, text, "lead nowhere")
	res, _ = s.fetch("GET", fourth, nil)
	assert.Equal(t, 429, res.StatusCode, "whoever guesses waits")
}

func TestTenThousandFetchesAMinuteAreTooMany(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	_, path := p.pickup(p.ferries(), "Booking site")
	served, refused := 0, 0
	for range 1000 {
		switch res, _ := s.fetch("GET", path+"/core.css", nil); res.StatusCode {
		case 200:
			served++
		case 429:
			refused++
			require.NotEmpty(t, res.Header.Get("Retry-After"))
		}
	}
	assert.Equal(t, 600, served)
	assert.Equal(t, 400, refused)
}

// post sends the form of a page.
func (s *site) post(path string, form url.Values) (*http.Response, string) {
	r := httptest.NewRequest("POST", path, strings.NewReader(form.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := s.app.Test(r, fiber.TestConfig{Timeout: time.Minute})
	require.NoError(s.t, err)
	text, err := io.ReadAll(res.Body)
	require.NoError(s.t, err)
	return res, string(text)
}

// A person at a pickup: the page without an account, the card to key in, and a receipt.
func TestAPersonAtAPickup(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	_, path := p.pickup(h, "Film crew")
	res, page := s.fetch("GET", path, nil)
	require.Equal(t, 200, res.StatusCode)
	for _, part := range []string{"Odelwick Ferries", "Safety film, edition 3", "Deep Sound for the end card", "#E2572B", "226 87 43", `href="` + path + `/safety-film.video.csv"`, "Key in, one after the other", "You had edition 1."} {
		assert.Contains(t, page, part)
	}
	assert.Equal(t, "no-store", res.Header.Get("Cache-Control"))
	assert.Empty(t, res.Cookies())
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")
	_, card := s.fetch("GET", path+"/key-in/safety-film", nil)
	assert.Contains(t, card, `aria-label="1, Buoy: 226 87 43, #E2572B"`)
	res, _ = s.fetch("GET", path+"/key-in/core", nil)
	assert.Equal(t, 404, res.StatusCode, "a set that the recipient does not get")
	mine := p.call("GET", house(h, "/sets/3/editions/3/key-in"), nil)
	assert.Contains(t, mine.text, "226")

	post := func(set string) (*http.Response, string) { return s.post(path, url.Values{"set": {set}}) }
	res, page = post("3")
	assert.Equal(t, 200, res.StatusCode)
	assert.Contains(t, page, "Odelwick Ferries knows that you have edition 3 of Safety film.")
	assert.Contains(t, page, "Edition 3 is with you.")
	assert.Equal(t, "current 3 of 3", p.state(h, 3, "Film crew"))
	for _, bad := range []string{"1", "x", "", "999"} {
		res, _ = post(bad)
		assert.GreaterOrEqual(t, res.StatusCode, 400, bad)
		assert.Less(t, res.StatusCode, 500, bad)
	}
}

// Names that a file's name cannot have, and two that become the same.
func TestFilesOfSetsWithOddNames(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	var ids []int64
	for _, name := range []string{"Größe & Süd", "größe süd", "Größe süd 2", "🚢"} {
		a := p.call("POST", house(h, "/sets"), o{"name": name, "colors": []int64{1}})
		require.Equal(t, 201, a.status, a.text)
		ids = append(ids, a.id("id"))
		require.Equal(t, 201, p.call("POST", house(h, "/sets/%d/editions", ids[len(ids)-1]), o{}).status)
	}
	a := p.call("POST", house(h, "/recipients"), o{"name": "Odd", "kind": "web", "sets": ids, "packings": []string{"css"}})
	require.Equal(t, 201, a.status, a.text)
	path := a.at("path").(string)
	for file, title := range map[string]string{"größe-süd.css": "Größe & Süd, edition 1", "größe-süd-2.css": "größe süd, edition 1", "größe-süd-2-2.css": "Größe süd 2, edition 1", "color.css": "🚢, edition 1"} {
		res, text := s.fetch("GET", path+"/"+url.PathEscape(file), nil)
		assert.Equal(t, 200, res.StatusCode, file)
		assert.Contains(t, text, title, file)
	}
	// A set that is renamed keeps what its files are called.
	set := p.call("GET", house(h, "/sets"), nil).at(4).(map[string]any)
	require.Equal(t, 200, p.call("PUT", house(h, "/sets/%d", ids[0]), o{"name": "Renamed", "version": set["version"], "colors": []int64{1}}).status)
	time.Sleep(1100 * time.Millisecond)
	res, _ := s.fetch("GET", path+"/"+url.PathEscape("größe-süd.css"), nil)
	assert.Equal(t, 200, res.StatusCode)
}

func TestRecipientsAreCheckedAndKept(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	for says, body := range map[string]o{
		"is not a mail address":         {"name": "X", "kind": "client", "ways": []string{"mail"}, "email": "nobody"},
		"a mail address is missing":     {"name": "X", "kind": "client", "ways": []string{"mail"}},
		"is not a mail address|newline": {"name": "X", "kind": "client", "ways": []string{"mail"}, "email": "a@b.example\nBcc: c@d.example"},
		"not by":                        {"name": "X", "kind": "client", "ways": []string{"fax"}},
		"at least one way":              {"name": "X", "kind": "client", "ways": []string{}},
		"at least one packing":          {"name": "X", "kind": "client", "packings": []string{}},
		"there is no packing":           {"name": "X", "kind": "client", "packings": []string{"clay"}},
		"a name is missing":             {"name": " ", "kind": "client"},
	} {
		a := p.call("POST", house(h, "/recipients"), body)
		assert.Equal(t, 422, a.status, says)
		assert.Contains(t, strings.ToLower(a.text), strings.ToLower(strings.Split(says, "|")[0]))
	}
	assert.Equal(t, 409, p.call("POST", house(h, "/recipients"), o{"name": "film  CREW", "kind": "video"}).status, "there is one of that name")
	crew := named(p.call("GET", house(h, "/recipients"), nil), "Film crew")
	change := o{"name": "Film crew", "kind": "video", "packings": []string{"webvtt", "webvtt", "office-theme"}, "ways": []string{"hand"}, "note": "new", "version": 1, "sets": []int64{1, 3}}
	a := p.call("PUT", house(h, "/recipients/%d", crew), change)
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"webvtt", "deck"}, a.at("packings"), "each once, by the names of today")
	assert.Len(t, a.at("holdings"), 2)
	assert.Equal(t, 409, p.call("PUT", house(h, "/recipients/%d", crew), change).status, "somebody else changed it meanwhile")
	require.Equal(t, 200, p.call("PUT", house(h, "/recipients/%d/pause", crew), nil).status)
	sent := p.call("POST", house(h, "/sets/3/editions/3/send"), o{"recipients": []int64{crew}})
	assert.Equal(t, 409, sent.status)
	assert.Contains(t, sent.text, "is paused")
	require.Equal(t, 200, p.call("DELETE", house(h, "/recipients/%d/pause", crew), nil).status)
	require.Equal(t, 200, p.call("POST", house(h, "/sets/3/editions/3/send"), o{"recipients": []int64{crew}}).status)
	assert.Equal(t, "waiting 1 of 3", p.state(h, 3, "Film crew"), "it is to be handed over")
	require.Equal(t, 201, p.call("POST", house(h, "/recipients/%d/receipts", crew), o{"set": 3, "edition": 3, "note": "told on the phone"}).status)
	assert.Equal(t, "current 3 of 3", p.state(h, 3, "Film crew"))
	assert.Equal(t, "told on the phone", p.call("GET", house(h, "/recipients/%d/receipts", crew), nil).at(0, "message"))
	assert.Equal(t, 404, p.call("POST", house(h, "/recipients/%d/receipts", crew), o{"set": 3, "edition": 9}).status)
	kit := p.call("GET", house(h, "/sets/3/editions/3/kits/%d", crew), nil)
	assert.Equal(t, 200, kit.status)
	assert.True(t, strings.HasPrefix(kit.text, "PK"))
	assert.Contains(t, kit.header.Get("Content-Disposition"), "odelwick-ferries-safety-film.zip")

	// Readers see who holds what, and neither addresses of people nor those of pickups.
	list := s.as("reader").call("GET", house(h, "/recipients"), nil)
	assert.NotContains(t, list.text, "winter-agency.example")
	assert.NotContains(t, list.text, `"pickup":`)
}

// A program that works by the contract finds the same files there, with problems as everywhere else.
func TestThePickupOfTheContract(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	made := p.call("POST", house(h, "/recipients"), o{"name": "Kiosks", "kind": "web", "sets": []int64{1}, "packings": []string{"css", "json"}})
	require.Equal(t, 201, made.status, made.text)
	path := made.at("path").(string)
	anybody := s.nobody()
	list := anybody.call("GET", path, nil)
	require.Equal(t, 200, list.status, list.text)
	assert.Equal(t, "Kiosks", list.at("recipient"))
	assert.EqualValues(t, 2, list.at("sets", 0, "edition"))
	for i, name := range []string{"core.css", "core.json"} {
		assert.Equal(t, name, list.at("sets", 0, "files", i, "name"))
		there, here := anybody.call("GET", path+"/"+name, nil), p.call("GET", path+"/1/"+name, nil)
		assert.Equal(t, 200, there.status, there.text)
		assert.Equal(t, 200, here.status, here.text)
		_, page := s.fetch("GET", path+"/"+name, nil)
		assert.Equal(t, page, there.text)
		assert.Contains(t, there.header.Get("Content-Type"), list.at("sets", 0, "files", i, "mediaType"))
	}
	feed := anybody.call("GET", path+"/feed.atom", nil)
	assert.Equal(t, 200, feed.status)
	assert.Contains(t, feed.text, "<feed")

	require.Equal(t, 200, p.call("PUT", house(h, "/sets/1/editions/1/withdrawal"), o{"why": "Buoy was too dark"}).status)
	var gone answer
	require.Eventually(t, func() bool { gone = anybody.call("GET", path+"/1/core.css", nil); return gone.status == 410 }, 20*time.Second, 100*time.Millisecond, "what was looked at just now is offered for a moment")
	assert.Equal(t, "edition-withdrawn", gone.at("code"))
	assert.EqualValues(t, 410, gone.at("status"))
	for _, bad := range []string{"/none.css", "/0/core.css", "/99/core.css", "/core.exe"} {
		assert.Equal(t, 404, anybody.call("GET", path+bad, nil).status, bad)
	}
	require.Equal(t, 204, p.call("DELETE", house(h, "/recipients/%d/pickup", made.id("id")), nil).status)
	closed := anybody.call("GET", path, nil)
	assert.Equal(t, 410, closed.status)
	assert.Equal(t, "link-closed", closed.at("code"))
	assert.Equal(t, 404, anybody.call("GET", "/p/"+strings.Repeat("x", 43), nil).status)

	contract, text := s.fetch("GET", "/api/openapi.yaml", nil)
	assert.Equal(t, 200, contract.StatusCode)
	assert.True(t, strings.HasPrefix(text, "openapi: 3"))
}
