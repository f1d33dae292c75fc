package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/kinds"
	"huekeep/core/swatchfile"
	"huekeep/demo"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var contract = sync.OnceValues(func() (routers.Router, error) {
	doc, err := openapi3.NewLoader().LoadFromFile("../api/openapi.yaml")
	if err != nil {
		return nil, err
	}
	if err := doc.Validate(context.Background()); err != nil {
		return nil, err
	}
	return gorillamux.NewRouter(doc)
})

// site is a running application with the demo houses.
type site struct {
	t      *testing.T
	app    *fiber.App
	keeper *stations.Stations
	db     *store.DB
}

// beside remembers which tests run beside others already; some make two sites.
var beside sync.Map

// cheap is what passwords cost in tests, which have no secrets.
var cheap = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// demoHouses are the demo houses, which nothing of is stored in files.
var demoHouses = &storetest.Template{Fill: func(db *store.DB) error {
	k := stations.New(db, filestore.Memory(), standin.World())
	k.Accounts.Cost = cheap
	return k.Example.Load(context.Background())
}}

func newSite(t *testing.T) *site {
	if _, again := beside.LoadOrStore(t, true); !again {
		t.Parallel() // each has a database and a server of its own
	}
	db := demoHouses.Open(t)
	k := stations.New(db, filestore.Memory(), standin.World())
	k.Accounts.Cost = cheap
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan bool)
	go func() { k.Jobs.Serve(ctx, 2); close(done) }()
	t.Cleanup(func() { stop(); <-done })
	return &site{t, server.New(server.Options{Stations: k, Demo: true, Interface: fstest.MapFS{"index.html": {Data: []byte("<html>")}}}), k, db}
}

// person is a client with a session.
type person struct {
	*site
	cookie, csrf string
	bearerToken  string // an access token instead
}

func (s *site) nobody() *person { return &person{site: s} }

func (s *site) signIn(email string) *person {
	a := s.nobody().call("POST", "/session", map[string]string{"email": email, "password": demo.Password})
	require.Equal(s.t, 200, a.status, a.text)
	return s.with(a)
}

func (s *site) as(role string) *person { return s.signIn(role + "@odelwick.example") }

type answer struct {
	t      *testing.T
	status int
	header http.Header
	text   string
	json   any
}

// at walks into the JSON answer: at("colors", 0, "hex").
func (a answer) at(path ...any) any {
	v := a.json
	for _, p := range path {
		switch p := p.(type) {
		case string:
			o, ok := v.(map[string]any)
			require.True(a.t, ok, "%v in %s", path, a.text)
			v = o[p]
		case int:
			l, ok := v.([]any)
			require.True(a.t, ok && p < len(l), "%v in %s", path, a.text)
			v = l[p]
		}
	}
	return v
}

func (a answer) id(path ...any) int64 { return int64(a.at(path...).(float64)) }

// call sends a request and holds the answer against the contract.
func (p *person) call(method, path string, body any) answer {
	p.t.Helper()
	var data []byte
	if body != nil {
		var err error
		data, err = json.Marshal(body)
		require.NoError(p.t, err)
	}
	r := httptest.NewRequest(method, "/api"+path, bytes.NewReader(data))
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	return p.send(r)
}

func (p *person) send(r *http.Request) answer {
	p.t.Helper()
	if p.bearerToken != "" {
		r.Header.Set("Authorization", "Bearer "+p.bearerToken)
	}
	if p.cookie != "" {
		r.Header.Set("Cookie", p.cookie)
		r.Header.Set("X-CSRF-Token", p.csrf)
	}
	res, err := p.app.Test(r, fiber.TestConfig{Timeout: time.Minute})
	require.NoError(p.t, err)
	text, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	a := answer{t: p.t, status: res.StatusCode, header: res.Header, text: string(text)}
	_ = json.Unmarshal(text, &a.json)

	router, err := contract()
	require.NoError(p.t, err)
	route, params, err := router.FindRoute(r)
	if err != nil {
		return a // an address that is not in the contract
	}
	input := &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: route},
		Status:                 res.StatusCode, Header: res.Header,
		Options: &openapi3filter.Options{IncludeResponseStatus: true},
	}
	if file := res.Header.Get("Content-Disposition") != ""; !file && strings.Contains(res.Header.Get("Content-Type"), "json") {
		input.SetBodyBytes(text)
		assert.NoError(p.t, openapi3filter.ValidateResponse(context.Background(), input), "%s %s", r.Method, r.URL)
	}
	if res.StatusCode >= 400 {
		assert.Equal(p.t, "application/problem+json", res.Header.Get("Content-Type"))
		title, _ := a.json.(map[string]any)["title"].(string)
		assert.Regexp(p.t, `^\S.{9,}[.?]$`, title, "a problem is a sentence")
	}
	return a
}

func (p *person) upload(id int64, name string, data []byte) answer {
	p.t.Helper()
	return p.uploadTo(house(id, "/audits"), name, data)
}

// judge uploads a file and waits until it is judged: the answer is the audit, or what was wrong with the file.
func (p *person) judge(id int64, name string, data []byte) answer {
	p.t.Helper()
	return p.judged(id, p.upload(id, name, data))
}

func (p *person) judged(id int64, a answer) answer {
	p.t.Helper()
	if a.status != 202 {
		return a
	}
	j := p.ended(id, a.id("id"))
	if j.at("state") != "done" {
		text, err := json.Marshal(j.at("problem"))
		require.NoError(p.t, err)
		return answer{p.t, int(j.at("problem", "status").(float64)), j.header, string(text), j.at("problem")}
	}
	return p.call("GET", house(id, "/audits/%s", j.at("result")), nil)
}

// ended waits until a job has ended.
func (p *person) ended(id, job int64) answer {
	p.t.Helper()
	for range 1000 {
		if j := p.call("GET", house(id, "/jobs/%d", job), nil); j.at("state") != "waiting" && j.at("state") != "running" {
			return j
		}
		time.Sleep(10 * time.Millisecond)
	}
	p.t.Fatal("the job does not end")
	return answer{}
}

func (p *person) uploadTo(path, name string, data []byte) answer {
	p.t.Helper()
	return p.uploadBy("POST", path, name, data)
}

func (p *person) uploadBy(method, path, name string, data []byte) answer {
	return p.send(p.formOf(method, path, name, data))
}

// formOf is a form with a file.
func (p *person) formOf(method, path, name string, data []byte) *http.Request {
	return p.filled(method, path, func(w *multipart.Writer) {
		part, err := w.CreateFormFile("file", name)
		require.NoError(p.t, err)
		_, _ = part.Write(data)
	})
}

// form sends a form.
func (p *person) form(method, path string, fill func(w *multipart.Writer)) answer {
	return p.send(p.filled(method, path, fill))
}

func (p *person) filled(method, path string, fill func(w *multipart.Writer)) *http.Request {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	fill(w)
	require.NoError(p.t, w.Close())
	r := httptest.NewRequest(method, "/api"+path, &b)
	r.Header.Set("Content-Type", w.FormDataContentType())
	return r
}

func (p *person) ferries() int64 {
	a := p.call("GET", "/session", nil)
	require.Equal(p.t, 200, a.status, a.text)
	return a.id("houses", 0, "id")
}

func house(id int64, path string, args ...any) string {
	return fmt.Sprintf("/houses/%d", id) + fmt.Sprintf(path, args...)
}

func (p *person) colorID(h int64, name string) int64 {
	a := p.call("GET", house(h, "/colors"), nil)
	for i := range a.at("colors").([]any) {
		if a.at("colors", i, "name") == name {
			return a.id("colors", i, "id")
		}
	}
	p.t.Fatalf("no color %s", name)
	return 0
}

func TestFromAMailToTheLibrary(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	text := "Harbor Teal  #1D6F6A\nGull 214 220 222\nbuoy #000001\nRed Buoy #E2572B\nNear Buoy #E1572C\n#445566\nnonsense\nKelp #2F5D50 78/38/66/30"
	read := p.call("POST", house(h, "/read"), map[string]string{"text": text})
	require.Equal(t, 200, read.status)
	assert.EqualValues(t, 7, read.at("understood"))
	assert.EqualValues(t, 0, read.at("problems"), "words are no mistake")
	assert.Equal(t, true, read.at("lines", 6, "words"))
	assert.Empty(t, p.call("GET", house(h, "/tray"), nil).json, "reading keeps nothing")

	put := p.call("POST", house(h, "/tray"), map[string]string{"text": text})
	require.Equal(t, 201, put.status)
	assert.EqualValues(t, 7, put.at("added"))
	assert.EqualValues(t, 7, put.at("left", 0, "line"))
	notes := map[string]string{}
	ids := map[string]int64{}
	for i := range put.at("tray").([]any) {
		name := put.at("tray", i, "name").(string)
		ids[name] = put.id("tray", i, "id")
		if n := put.at("tray", i, "notes").([]any); len(n) > 0 {
			notes[name] = put.at("tray", i, "notes", 0, "kind").(string)
		}
	}
	assert.Equal(t, map[string]string{"buoy": "name-taken", "Red Buoy": "same-value", "Near Buoy": "near-value", "Kelp": "disagrees", "": "unnamed"}, notes)

	bad := p.call("POST", house(h, "/tray/admit"), map[string]any{"items": []int64{ids["Gull"], ids["buoy"], ids[""], 99999}})
	assert.Equal(t, 409, bad.status)
	assert.Len(t, bad.at("items"), 3)
	assert.Len(t, p.call("GET", house(h, "/tray"), nil).json, 7, "all or none")

	ok := p.call("POST", house(h, "/tray/admit"), map[string]any{"items": []int64{ids["Gull"], ids["Harbor Teal"], ids["Kelp"]}, "group": "Shore", "role": "accent"})
	require.Equal(t, 201, ok.status, ok.text)
	assert.Len(t, ok.at("tray"), 4)
	sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Kelp")), nil)
	assert.Equal(t, "approved", sheet.at("row", "press", "origin"), "a build that came with the color is approved")
	assert.Equal(t, "78 38 66 30", sheet.at("row", "press", "text"))
	assert.Equal(t, "Shore", sheet.at("row", "group"))
	assert.NotEmpty(t, sheet.at("derived", "variants"), "a dark green can trade black for the other inks")
	assert.Len(t, sheet.at("inks"), 5)
	assert.Contains(t, sheet.at("history", 1, "what"), "admitted as #2F5D50")

	renamed := p.call("PATCH", house(h, "/tray/%d", ids[""]), map[string]string{"name": "Slate", "value": "rgb(1 2 3)"})
	assert.Equal(t, 200, renamed.status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/tray/%d", ids[""]), nil).status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/tray"), nil).status)
	assert.Empty(t, p.call("GET", house(h, "/tray"), nil).json)
}

func TestALongListKeepsItsGoodLines(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	var text strings.Builder
	for i := range 300 {
		if i%60 == 30 {
			fmt.Fprintf(&text, "Wrong  %d 0 999\n", i)
		} else {
			fmt.Fprintf(&text, "Shade %d  #%06X\n", i, 0x101010+i*777)
		}
	}
	a := p.call("POST", house(h, "/tray"), map[string]string{"text": text.String()})
	require.Equal(t, 201, a.status)
	assert.Len(t, a.at("tray"), 295)
	require.Len(t, a.at("problems"), 5)
	assert.EqualValues(t, 31, a.at("problems", 0, "line"))
	assert.Contains(t, a.at("problems", 0, "problem"), "blue is 999, over 255")
}

func TestContributorsProposeAndReadersDoNotSeeIt(t *testing.T) {
	s := newSite(t)
	c, k, r := s.as("contributor"), s.as("keeper"), s.as("reader")
	h := c.ferries()
	put := c.call("POST", house(h, "/tray"), map[string]string{"text": "Draft One #123456"})
	assert.Empty(t, k.call("GET", house(h, "/tray"), nil).json, "a tray belongs to one person")
	require.Equal(t, 201, c.call("POST", house(h, "/tray/admit"), map[string]any{"items": []int64{put.id("tray", 0, "id")}}).status)
	id := k.colorID(h, "Draft One")
	assert.Equal(t, "draft", k.call("GET", house(h, "/colors/%d", id), nil).at("row", "status"))
	assert.Equal(t, 404, r.call("GET", house(h, "/colors/%d", id), nil).status)
	assert.NotContains(t, r.call("GET", house(h, "/colors"), nil).text, "Draft One")
	assert.NotContains(t, r.call("GET", house(h, "/library"), nil).text, "Draft One")
	set := k.call("POST", house(h, "/sets"), map[string]any{"name": "With a draft", "colors": []int64{id}})
	require.Equal(t, 201, set.status)
	assert.Equal(t, 409, k.call("POST", house(h, "/sets/%d/editions", set.id("id")), o{}).status, "a draft is not sent out")
	require.Equal(t, 200, k.call("PATCH", house(h, "/colors/%d", id), map[string]any{"version": 1, "status": "approved"}).status)
	assert.Equal(t, 200, r.call("GET", house(h, "/colors/%d", id), nil).status)
}

// A color of the library is not admitted again under a description of it; a second name is a choice.
func TestAKnownValueIsNotAdmittedAgain(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	require.Less(t, p.call("POST", house(h, "/tray/colors"), o{"colors": []o{{"value": "#E2572B", "origin": "picture"}}}).status, 300)
	tray := p.call("GET", house(h, "/tray"), nil)
	id := tray.at(0, "id")
	a := p.call("POST", house(h, "/tray/admit"), o{"items": []any{id}})
	assert.Equal(t, 409, a.status, a.text)
	assert.Contains(t, a.text, "has the value of Buoy")
	require.Less(t, p.call("PATCH", house(h, "/tray/%v", id), o{"name": "Ember Orange"}).status, 300)
	assert.NotContains(t, p.call("GET", house(h, "/tray"), nil).text, "not yet a name")
	a = p.call("POST", house(h, "/tray/admit"), o{"items": []any{id}})
	assert.Less(t, a.status, 300, a.text)
}

func TestApprovingAndAmending(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	id := p.colorID(h, "Lamp")
	color := house(h, "/colors/%d", id)
	sheet := p.call("GET", color, nil)
	require.Equal(t, "derived", sheet.at("row", "press", "origin"))
	version := sheet.at("version")

	sheet = p.call("PUT", color+"/builds/coated", map[string]any{"version": version, "value": "C4 M30 Y88 K1"})
	require.Equal(t, 200, sheet.status, sheet.text)
	assert.Equal(t, "4 30 88 1", sheet.at("row", "press", "text"))
	assert.Equal(t, "Keeper", sheet.at("row", "press", "by"))
	stale := p.call("PUT", color+"/builds/coated", map[string]any{"version": version, "value": "1 2 3 4"})
	assert.Equal(t, 409, stale.status)
	assert.Contains(t, stale.at("title"), "CMYK 4 30 88 1 approved", "the second person is told what the first did")

	sheet = p.call("PUT", color+"/spots/coated", map[string]any{"version": sheet.at("version"), "code": "qn12"})
	assert.Equal(t, 422, sheet.status)
	sheet = p.call("PUT", color+"/spots/coated", map[string]any{"version": 2, "code": "qn 120"})
	require.Equal(t, 200, sheet.status, sheet.text)
	assert.Equal(t, "QN-0120", sheet.at("row", "ink", "code"))

	preview := p.call("POST", color+"/preview", map[string]string{"value": "rgb(240 180 40)"})
	require.Equal(t, 200, preview.status)
	assert.Equal(t, "#F0B428", preview.at("after"))
	assert.Len(t, preview.at("approved"), 2)
	assert.Contains(t, preview.text, "Ticket office")
	assert.Equal(t, "#F2B632", p.call("GET", color, nil).at("row", "hex"), "a preview changes nothing")

	sheet = p.call("PATCH", color, map[string]any{"version": sheet.at("version"), "value": "rgb(240 180 40)"})
	require.Equal(t, 200, sheet.status)
	assert.Equal(t, "#F0B428", sheet.at("row", "hex"))
	assert.Equal(t, "4 30 88 1", sheet.at("row", "press", "text"), "an approved value stays")
	assert.Positive(t, sheet.at("row", "press", "moved"), "and is flagged")
	assert.Equal(t, "#F2B632", sheet.at("history", 0, "before"))
	assert.Equal(t, "#F2B632", sheet.at("holders", 0, "hex"), "editions keep what they were fixed with")
	sets := p.call("GET", house(h, "/sets"), nil)
	assert.Equal(t, true, sets.at(0, "changed"))
	assert.Equal(t, "Lamp amended from color(display-p3 0.93 0.72 0.13) (#F2B632) to #F0B428", sets.at(0, "changes", 0))

	assert.Equal(t, 409, p.call("DELETE", color+"/builds/coated?version=1", nil).status, "somebody else changed it meanwhile")
	drop := func(what string) answer {
		return p.call("DELETE", fmt.Sprintf("%s/%s?version=%v", color, what, p.call("GET", color, nil).at("version")), nil)
	}
	assert.Equal(t, "derived", drop("builds/coated").at("row", "press", "origin"))
	assert.Equal(t, 404, drop("builds/coated").status)
	assert.Equal(t, "derived", drop("spots/coated").at("row", "ink", "origin"))
	// A build is a value too: it decides from then on.
	preview = p.call("POST", color+"/preview", o{"value": "cmyk(90 50 20 60)"})
	require.Equal(t, 200, preview.status, preview.text)
	assert.Equal(t, "90 50 20 60", preview.at("build"))
	assert.Equal(t, 422, p.call("POST", color+"/preview", o{"value": "cmyk(100 100 100 100)"}).status, "more than the press takes")
	before := p.call("GET", color, nil).at("version")
	assert.Equal(t, 422, p.call("PATCH", color, o{"version": before, "value": "#112233", "build": true}).status)
	assert.Equal(t, 422, p.call("PATCH", color, o{"version": before, "build": true}).status)
	given := p.call("PATCH", color, o{"version": before, "value": "cmyk(90 50 20 60)", "build": true})
	require.Equal(t, 200, given.status, given.text)
	assert.Equal(t, preview.at("after"), given.at("row", "hex"))
	assert.Equal(t, "90 50 20 60 master", fmt.Sprint(given.at("row", "press", "text"), " ", given.at("row", "press", "origin")))
	assert.Less(t, given.at("row", "press", "deltaE"), 1.0)
	old := p.call("PATCH", color, map[string]any{"version": p.call("GET", color, nil).at("version"), "status": "retired", "successor": p.colorID(h, "Buoy")})
	assert.Equal(t, "Buoy", old.at("row", "successor", "name"))
}

func TestEditionsAndReceipts(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	ids := []int64{p.colorID(h, "Deep Sound"), p.colorID(h, "Ice Ramp"), p.colorID(h, "Heather Cliff")}
	set := p.call("POST", house(h, "/sets"), map[string]any{"name": "Ice days", "colors": ids})
	require.Equal(t, 201, set.status, set.text)
	path := house(h, "/sets/%d", set.id("id"))
	set = p.call("POST", path+"/editions", o{})
	require.Equal(t, 201, set.status)
	assert.Equal(t, 409, p.call("POST", path+"/editions", o{}).status, "nothing changed since")
	recipients := p.call("GET", house(h, "/recipients"), nil)
	to := []int64{named(recipients, "Ticket office"), named(recipients, "Booking site")}
	set = p.call("POST", path+"/editions/1/send", map[string]any{"recipients": to})
	require.Equal(t, 200, set.status, set.text)
	for i := range to {
		assert.Equal(t, "current", set.at("recipients", i, "state"))
		assert.Equal(t, true, set.at("recipients", i, "receipt", "ok"))
	}
	assert.EqualValues(t, 12, set.at("recipients", 0, "receipt", "slots"), "the office theme has twelve slots")
	assert.EqualValues(t, 3, set.at("recipients", 1, "receipt", "slots"))

	set = p.call("PUT", path, map[string]any{"name": "Ice days", "version": set.at("version"), "colors": []int64{ids[2], ids[0]}})
	require.Equal(t, 200, set.status, set.text)
	assert.Equal(t, []any{"Ice Ramp removed", "the order changed"}, set.at("changes"))
	set = p.call("POST", path+"/editions", o{})
	assert.Equal(t, "behind", set.at("recipients", 0, "state"))
	set = p.call("POST", path+"/editions/2/send", map[string]any{"recipients": to[:1]})
	assert.Equal(t, "current", set.at("recipients", 0, "state"))
	assert.Equal(t, "behind", set.at("recipients", 1, "state"))
	require.Equal(t, 204, p.call("DELETE", path, nil).status)
	assert.Equal(t, 404, p.call("GET", path+"/compare?from=1&to=0", nil).status, "the set is gone")
	assert.Equal(t, 200, p.call("GET", path+"/editions/2", nil).status, "an edition is never taken away")
	set = p.call("POST", path+"/restore", nil)
	require.Equal(t, 200, set.status, set.text)
	assert.Len(t, set.at("editions"), 2, "and the set comes back with its editions")

	pptx := p.call("GET", path+"/editions/2/packings/office-theme", nil)
	assert.Equal(t, 200, pptx.status)
	assert.Contains(t, pptx.header.Get("Content-Disposition"), `filename="odelwick-ferries-ice-days.pptx"`)
	scan, err := kinds.Read("x.pptx", []byte(pptx.text))
	require.NoError(t, err)
	assert.NotEmpty(t, scan.Uses)
	css := p.call("GET", path+"/editions/1/packings/css", nil)
	assert.Contains(t, css.text, "--ice-ramp: #8FC1D4;", "the first edition still holds it")
	edition := p.call("GET", path+"/editions/1", nil)
	assert.Len(t, edition.at("packings"), len(swatchfile.Packings()))
	assert.Equal(t, 404, p.call("GET", path+"/editions/1/packings/clay", nil).status)
	assert.Equal(t, 404, p.call("GET", path+"/editions/9", nil).status)
}

// named is the id of a thing of a list by its name.
func named(list answer, name string) int64 {
	for i, x := range list.json.([]any) {
		if x.(map[string]any)["name"] == name {
			return list.id(i, "id")
		}
	}
	panic(name + " is not in the list")
}

func TestAuditsAndExport(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	for _, f := range demo.Files() {
		a := p.judge(h, f.Name, f.Data)
		require.Equal(t, 200, a.status, a.text)
		assert.EqualValues(t, len(f.Planted), a.at("line", "uses"))
		again := p.judged(h, p.call("POST", house(h, "/audits/%d/again", a.id("line", "id")), nil))
		assert.Equal(t, 200, again.status)
		assert.Equal(t, a.at("colors"), again.at("colors"))
		assert.Equal(t, a.json, p.call("GET", house(h, "/audits/%d", a.id("line", "id")), nil).json)
	}
	list := p.call("GET", house(h, "/audits"), nil)
	assert.Len(t, list.at("audits"), 2*len(demo.Files()))

	lib, err := swatchfile.ReadTokens([]byte(p.call("GET", house(h, "/library"), nil).text))
	require.NoError(t, err)
	assert.Len(t, lib.Colors, 10)
	assert.Equal(t, "Odelwick Ferries", lib.House)
	assert.Equal(t, 2, lib.Sets[0].Edition)
}

func TestBadInputGetsASentenceAndLeavesNothing(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	buoy := p.colorID(h, "Buoy")
	core := p.call("GET", house(h, "/sets"), nil).id(0, "id")
	empty := p.call("POST", house(h, "/sets"), o{"name": "Empty", "colors": []int{}}).id("id")
	count := func() string {
		return fmt.Sprint(len(p.call("GET", house(h, "/tray"), nil).json.([]any)), len(p.call("GET", house(h, "/colors"), nil).at("colors").([]any)),
			p.call("GET", house(h, "/audits"), nil).text, p.call("GET", house(h, "/sets"), nil).text, p.call("GET", house(h, "/colors/%d", buoy), nil).text)
	}
	before := count()
	long := strings.Repeat("x", 130)
	for what, c := range map[string]struct {
		method, path string
		body         any
		status       int
		part         string
	}{
		"not a color":             {"POST", "/tray", map[string]string{"text": "hello"}, 422, "no color value"},
		"an empty list":           {"POST", "/tray", map[string]string{"text": " \n \n"}, 422, "the list is empty"},
		"a huge list":             {"POST", "/tray", map[string]string{"text": strings.Repeat("#123456\n", 6000)}, 413, "6000 lines"},
		"a huge text":             {"POST", "/read", map[string]string{"text": strings.Repeat("x", 2<<20)}, 413, "at most"},
		"nothing chosen":          {"POST", "/tray/admit", map[string]any{"items": []int64{}}, 422, "no candidate"},
		"a made-up role":          {"POST", "/tray/admit", map[string]any{"items": []int64{1}, "role": "king;"}, 422, "make a role"},
		"not JSON":                {"POST", "/tray", "text", 400, "could not be understood"},
		"a name twice":            {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "name": "LAMP"}, 409, "taken"},
		"an empty name":           {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "name": " "}, 422, "name is missing"},
		"a long name":             {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "name": long}, 422, "130 characters"},
		"a control character":     {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "name": "a\x01b"}, 422, "character"},
		"a wrong value":           {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "value": "rgb(300 0 0)"}, 422, "over 255"},
		"a build of too much ink": {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "value": "cmyk(100 100 100 100)"}, 422, "at most 300 %"},
		"an old version":          {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 99, "value": "#123456"}, 409, "was changed"},
		"a ratio with nothing":    {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "ratio": 7}, 422, "a ground, which is not named"},
		"no list of numbers":      {"GET", "/library?format=css&colors=abc", nil, 422, "is not the number of a color"},
		"no version":              {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"value": "#123456"}, 422, "The version is missing"},
		"a misspelled member":     {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "valeu": "#123456"}, 422, `There is no member \"valeu\" here`},
		"a list misspelled":       {"POST", "/sets", map[string]any{"name": "X", "colros": []int{}}, 422, `There is no member \"colros\" here`},
		"another type":            {"POST", "/sets", map[string]any{"name": 7, "colors": []int{}}, 422, "name is a number, where a text is expected"},
		"succeeds itself":         {"PATCH", fmt.Sprintf("/colors/%d", buoy), map[string]any{"version": 1, "status": "retired", "successor": buoy}, 422, "itself"},
		"too much ink":            {"PUT", fmt.Sprintf("/colors/%d/builds/coated", buoy), map[string]any{"version": 1, "value": "100 100 100 100"}, 422, "at most 300"},
		"three inks":              {"PUT", fmt.Sprintf("/colors/%d/builds/coated", buoy), map[string]any{"version": 1, "value": "1 2 3"}, 422, "four"},
		"no such press":           {"PUT", fmt.Sprintf("/colors/%d/builds/velvet", buoy), map[string]any{"version": 1, "value": "1 2 3 4"}, 404, "velvet"},
		"no such ink":             {"PUT", fmt.Sprintf("/colors/%d/spots/coated", buoy), map[string]any{"version": 1, "code": "QN-9999"}, 422, "not in the Quern"},
		"no such color":           {"GET", "/colors/999999", nil, 404, "no such color"},
		"a color as text":         {"GET", "/colors/abc", nil, 400, "could not be understood"},
		"a set's name twice":      {"POST", "/sets", map[string]any{"name": "core", "colors": []int64{}}, 409, "already"},
		"a color twice":           {"POST", "/sets", map[string]any{"name": "Twice", "colors": []int64{buoy, buoy}}, 422, "twice"},
		"a foreign color":         {"POST", "/sets", map[string]any{"name": "Foreign", "colors": []int64{11}}, 404, "no such color"},
		"an empty edition":        {"POST", fmt.Sprintf("/sets/%d/editions", empty), o{}, 409, "holds no colors"},
		"sent to nobody":          {"POST", fmt.Sprintf("/sets/%d/editions/1/send", core), map[string]any{"recipients": []int64{}}, 422, "no recipient"},
		"sent to a stranger":      {"POST", fmt.Sprintf("/sets/%d/editions/1/send", core), map[string]any{"recipients": []int64{999}}, 404, "no such recipient"},
		"a kind of recipient":     {"POST", "/recipients", map[string]any{"name": "X", "kind": "clay"}, 422, "office, video, web"},
		"no such audit":           {"GET", "/audits/999", nil, 404, "no such audit"},
		"no such address":         {"GET", "/nowhere", nil, 404, "no such address"},
	} {
		t.Run(what, func(t *testing.T) {
			a := p.call(c.method, house(h, "%s", c.path), c.body)
			assert.Equal(t, c.status, a.status, a.text)
			assert.Contains(t, strings.ToLower(a.text), strings.ToLower(c.part))
		})
	}
	deck := demo.TimetableDeck().Data
	for name, c := range map[string]struct {
		data []byte
		part string
	}{
		"cut.pptx":   {deck[:len(deck)/2], "cut off"},
		"text.pptx":  {[]byte("hello"), "not a ZIP archive"},
		"x.svg":      {[]byte("<!DOCTYPE svg [<!ENTITY a '<b/>'>]><svg/>"), "markup or other entities"},
		"x.css":      {[]byte("\xff\xfea\x00{\x00"), "UTF-16"},
		"x.exe":      {[]byte("MZ"), "is a program, which is not read"},
		"x.xyz":      {[]byte("what"), "not a kind of file"},
		"empty.json": {nil, "is empty"},
	} {
		a := p.judge(h, name, c.data)
		assert.Equal(t, 422, a.status, name)
		assert.Contains(t, a.text, c.part)
		assert.Contains(t, a.text, name)
	}
	assert.Equal(t, before, count(), "nothing was left behind")
}

func TestAnUploadOverTheLimitIsRefused(t *testing.T) {
	s := newSite(t)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = s.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = s.app.Shutdown() })
	p := s.as("keeper")
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	part, err := w.CreateFormFile("file", "large.css")
	require.NoError(t, err)
	_, _ = part.Write(bytes.Repeat([]byte("a{color:red}\n"), 8_300_000))
	require.NoError(t, w.Close())
	r, err := http.NewRequest("POST", fmt.Sprintf("http://%s/api/houses/%d/audits", listener.Addr(), p.ferries()), &b)
	require.NoError(t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	r.Header.Set("Cookie", p.cookie)
	r.Header.Set("X-CSRF-Token", p.csrf)
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Equal(t, 413, res.StatusCode)
	assert.Contains(t, string(text), "104.9 MB")
	assert.Empty(t, p.call("GET", house(p.ferries(), "/audits"), nil).at("audits"))
}

// What the contract shows as an example is understood: what is wrong with it is that the numbers in it are of another house.
func TestTheExamplesOfTheContract(t *testing.T) {
	s := newSite(t)
	keeper := s.as("keeper")
	doc, err := openapi3.NewLoader().LoadFromFile("../api/openapi.yaml")
	require.NoError(t, err)
	fill := strings.NewReplacer("{house}", fmt.Sprint(keeper.ferries()), "{number}", "1", "{press}", "coated", "{stock}", "coated", "{starter}", "q1")
	rest := regexp.MustCompile(`\{[a-z]+\}`)
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			if op.RequestBody == nil || op.OperationID == "giveUpHouse" {
				continue
			}
			body := op.RequestBody.Value.Content.Get("application/json")
			if body == nil || body.Example == nil {
				continue
			}
			a := keeper.call(method, rest.ReplaceAllString(fill.Replace(path), "999"), body.Example)
			assert.Contains(t, []int{200, 201, 202, 204, 404, 409, 422}, a.status, "%s: %s", op.OperationID, a.text)
			assert.NotContains(t, a.text, "no member", op.OperationID)
			assert.NotContains(t, a.text, "expected", op.OperationID)
		}
	}
}

// Every operation of the contract is tried by everybody. A new operation fails here until it is listed.
func TestWhoMayDoWhat(t *testing.T) {
	s := newSite(t)
	h := s.as("keeper").ferries()
	require.NoError(t, s.keeper.People.AddMember(context.Background(), "foreign@bakery.example", "Foreigner", demo.Password, "Pellow Lane Bakery", keep.RoleKeeper))
	const nothing, reader, contributor, keeperRole = "", "reader", "contributor", "keeper"
	least := map[string]string{ // the least role that is let through; what follows may be another error
		"getSession": nothing, "signIn": nothing, "signOut": nothing, "listDemoAccounts": nothing, "getLimits": nothing, "getAccount": nothing, "renameAccount": nothing, "changeEmail": nothing, "changePassword": nothing,
		"beginSecondFactor": nothing, "confirmSecondFactor": nothing, "endSecondFactor": nothing, "endOtherSessions": nothing, "endSession": nothing, "addToken": nothing, "dropToken": nothing, "beginPasskey": nothing, "addPasskey": nothing, "dropPasskey": nothing, "beginPasskeySignIn": nothing, "passkeySignIn": nothing,
		"listHouseTokens": keeperRole, "endHouseToken": keeperRole,
		"forgotten": nothing, "lookAtTicket": nothing, "takeTicket": nothing, "getSignIn": nothing, "makeFirst": nothing, "getServer": nothing, "examineServer": nothing, // TestWhoRunsTheServer
		"foundHouse": nothing, "takeBackHouse": nothing,
		"getSettings": reader, "setSettings": keeperRole, "getMark": reader, "setMark": keeperRole, "dropMark": keeperRole, "giveUpHouse": keeperRole, "listPeople": reader, "setRole": keeperRole, "endMembership": keeperRole,
		"invite": keeperRole, "uninvite": keeperRole, "exportHouse": keeperRole, "getTrail": keeperRole, "exportTrail": keeperRole, // one's own membership everybody ends; contributors invite where the house says so
		"readText": reader, "getTray": reader, "addToTray": contributor, "clearTray": contributor, "nameCandidates": contributor, "admit": contributor,
		"changeCandidate": contributor, "removeCandidate": contributor, "listColors": reader, "addColor": contributor, "getColor": reader, "changeColor": keeperRole,
		"previewAmendment": reader, "approveHex": keeperRole, "dropHex": keeperRole, "approveBuild": keeperRole, "dropBuild": keeperRole, "approveSpot": keeperRole, "dropSpot": keeperRole,
		"exportLibrary": reader, "listSets": reader, "getSet": reader, "getRecipient": reader, "createSet": keeperRole, "changeSet": keeperRole, "deleteSet": keeperRole, "fixEdition": keeperRole,
		"getEdition": reader, "sendEdition": keeperRole, "downloadPacking": reader, "listRecipients": reader, "createRecipient": keeperRole,
		"listAudits": reader, "createAudit": contributor, "getAudit": reader, "auditAgain": contributor, "listPlaces": reader, "listUndecided": reader, "getMarked": reader, "viewAudit": reader, "viewPlanned": reader, "listColorUses": reader, "listAuditLines": reader, "listProjects": reader, "addProject": contributor, "getProject": reader, "renameProject": contributor, "removeProject": contributor, "restoreProject": contributor,
		"addProjectFile": contributor, "addProjectFiles": contributor, "restoreProjectFile": contributor, "takeRepainted": contributor, "dropProjectFile": contributor, "beginRun": contributor, "getJudging": reader, "setJudging": keeperRole, "listRuns": reader, "getRun": reader, "dropRun": keeperRole, "compareRuns": reader, "exportRun": reader, "exportAudit": reader, "repaint": contributor, "repaintAudit": contributor, "listRemarks": reader, "addRemark": contributor, "dropRemark": contributor, "readPlan": contributor, "listPlanUses": reader, "printRepaint": reader, "lookAtPickup": nothing, "followPickup": nothing, "pickUp": nothing, "pickUpEdition": nothing, "listRepaints": reader,
		"getRepainted": reader, "downloadRepainted": reader, "listExcuses": reader, "addExcuse": contributor, "endExcuse": contributor, "listPlans": reader, "savePlan": contributor, "proposePlan": contributor, "dropPlan": contributor, "listJobs": reader, "getJob": reader, "followJob": reader, "giveUpJob": contributor,
		"getHistory": reader, "removeColor": keeperRole, "unremoveColor": keeperRole,
		"putOnTray": contributor, "orderTray": contributor, "readFile": reader, "listStarters": reader, "addStarter": contributor, "markStarter": reader,
		"deleteStarter": contributor, "takeReading": contributor, "changeMany": keeperRole, "copyColors": keeperRole, "placeColor": keeperRole,
		"putFamily": keeperRole, "bringBack": keeperRole, "bringAllBack": keeperRole, "renameGroup": keeperRole, "deleteGroup": keeperRole, "listGradients": reader,
		"addGradient": keeperRole, "changeGradient": keeperRole, "deleteGradient": keeperRole, "restoreLibrary": keeperRole, "lookAtBackup": keeperRole, "goBack": keeperRole,
		"getProfile": reader, "printColors": reader, "putToWork": reader, "proofPicture": reader, "listBoards": contributor, "createBoard": contributor, "proposeOptions": contributor, "keepLogo": contributor, "getLogo": contributor, "getBoard": contributor,
		"changeBoard": contributor, "deleteBoard": contributor, "fixSheet": contributor, "downloadSheet": contributor, "openBoardLink": keeperRole, "closeBoardLink": keeperRole,
		"adoptOption": keeperRole, "listTypefaces": contributor, "addTypeface": keeperRole, "getTypeface": contributor, "removeTypeface": keeperRole,
		"listPairs": reader, "putPair": keeperRole, "deletePair": keeperRole, "mergeColor": keeperRole, "succeedColor": keeperRole, "suggest": contributor, "listSuggestions": contributor, "answerSuggestion": contributor,
		"restoreSet": keeperRole, "takeColors": keeperRole, "compareEditions": reader, "fixEditions": keeperRole, "sendBehind": keeperRole, "withdrawEdition": keeperRole,
		"reinstateEdition": keeperRole, "downloadKit": reader, "keyInCard": reader, "listPackings": reader, "changeRecipient": keeperRole, "removeRecipient": keeperRole, "restoreRecipient": keeperRole,
		"pauseRecipient": keeperRole, "resumeRecipient": keeperRole, "openPickup": keeperRole, "closePickup": keeperRole, "listReceipts": reader, "addReceipt": keeperRole, "listMails": keeperRole, "openMail": keeperRole,
		"listLoading": reader, "putLoading": keeperRole, "getLoadingPicture": reader, "putLoadingPicture": keeperRole, "dropLoadingPicture": keeperRole, "listTroubles": keeperRole, "settleTrouble": keeperRole, "reopenTrouble": keeperRole,
		"listPublic": keeperRole, "openPublic": keeperRole, "closePublic": keeperRole, "listHooks": keeperRole, "addHook": keeperRole, "changeHook": keeperRole, "dropHook": keeperRole, "testHook": keeperRole, "listHookMessages": keeperRole,
		"getSpread": reader, "getMonthly": keeperRole, "setMonthly": keeperRole,
		"packStarter": reader, "joinSet": keeperRole, "leaveSet": keeperRole, "followHouse": reader,
		"listPresses": reader, "find": reader, "getPlane": reader, "takeGradient": reader, "findInks": reader, "getInkBook": reader, "listInks": reader, "putInkBook": keeperRole, "dropInkBook": keeperRole, "addPress": keeperRole, "deletePress": keeperRole,
	}
	gradient := map[string]any{"name": "x", "angle": 90, "space": "oklab", "stops": []any{map[string]any{"color": 2, "place": 0}, map[string]any{"color": 3, "place": 100}}}
	bodies := map[string]any{"readText": map[string]string{"text": "#123"}, "addToTray": map[string]string{"text": "#123"}, "admit": map[string]any{"items": []int{1}},
		"changeCandidate": map[string]string{"name": "x"}, "nameCandidates": map[string]any{"names": []any{map[string]any{"item": 1, "name": "x"}}}, "changeColor": map[string]any{"version": 1, "rule": "changed"}, "previewAmendment": map[string]string{"value": "#123"},
		"approveBuild": map[string]any{"version": 1, "value": "1 2 3 4"}, "approveHex": map[string]any{"version": 1}, "approveSpot": map[string]any{"version": 1, "code": "QN-0001"},
		"createSet": map[string]any{"name": "x", "colors": []int{}}, "changeSet": map[string]any{"name": "x", "colors": []int{}, "version": 1},
		"sendEdition": map[string]any{"recipients": []int{1}}, "createRecipient": map[string]any{"name": "x", "kind": "web"},
		"putOnTray": map[string]any{"colors": []any{map[string]string{"value": "#123456", "origin": "picture"}}}, "orderTray": map[string]any{"items": []int{}},
		"addStarter": map[string]any{"name": "x", "keywords": "", "colors": []string{"#123456", "#654321"}, "private": true}, "markStarter": map[string]any{"liked": true},
		"takeReading": map[string]any{"color": 2, "medium": "screen", "before": []string{}}, "changeMany": map[string]any{"colors": []int{2}, "role": "accent"},
		"copyColors": map[string]any{"colors": []int{2}, "house": 2, "move": false}, "placeColor": map[string]any{"before": 0},
		"putFamily": map[string]any{"version": 1, "family": []any{}}, "bringBack": map[string]any{"version": 1, "event": 1}, "bringAllBack": map[string]any{"colors": []any{map[string]any{"color": 2, "version": 1, "event": 1}}},
		"renameGroup": map[string]string{"name": "Hull", "to": "Hulls"}, "deleteGroup": map[string]string{"name": "Hulls"},
		"mergeColor": map[string]any{"version": 999, "into": 2}, "succeedColor": map[string]any{"version": 1}, "suggest": map[string]any{"rule": "other"},
		"answerSuggestion": map[string]any{"take": false}, "addGradient": gradient, "changeGradient": gradient, "putPair": map[string]any{"may": false}, "putToWork": o{"set": 1}, "printColors": o{"press": "coated", "subject": "x", "colors": []any{}}, "createBoard": boardBody(),
		"changeBoard": with(boardBody(), "version", 1), "proposeOptions": o{"colors": []any{}}, "fixSheet": o{"version": 999}, "openBoardLink": o{}, "adoptOption": o{"choice": 99},
		"takeColors": o{"from": 999, "colors": []int{}}, "fixEdition": o{}, "fixEditions": o{"sets": []int{999}}, "sendBehind": o{"sets": []int{999}}, "withdrawEdition": o{"why": "x"},
		"changeRecipient": o{"name": "x", "kind": "web", "version": 999}, "addReceipt": o{"set": 1, "edition": 1},
		"setSettings": o{"name": "Odelwick Ferries", "inviters": "keeper", "secondFactor": false, "notations": []int{0, 0, 0}, "greeting": "", "press": "coated", "stock": "coated"}, "giveUpHouse": o{"name": "another"}, "setRole": o{"role": "reader"},
		"invite":     o{"email": "x@x.example", "role": "reader", "mail": false},
		"addProject": o{"name": "x"}, "renameProject": o{"name": "y"}, "setJudging": o{"tolerance": 3, "pictures": 5, "neutrals": true, "keepDays": 0}, "repaint": o{}, "repaintAudit": o{}, "addRemark": o{"path": "a.css", "color": "#E1572C", "text": "x"}, "readPlan": o{"text": "x"}, "listPlanUses": o{"colors": []any{}}, "addColor": o{"value": "#135724"}, "addExcuse": o{"color": "#123456", "reason": "x"}, "putLoading": o{"text": "x"}, "openPublic": o{}, "addHook": o{"address": "https://build.example/x", "events": []string{}},
		"changeHook": o{"address": "https://build.example/x", "events": []string{}}, "setMonthly": o{"on": true}, "savePlan": o{"name": "x", "colors": []any{}}}
	rank := map[string]int{reader: 1, contributor: 2, keeperRole: 3}
	people := map[string]*person{"nobody": s.nobody(), reader: s.as(reader), contributor: s.as(contributor), keeperRole: s.as(keeperRole), "foreigner": s.signIn("foreign@bakery.example")}
	doc, err := openapi3.NewLoader().LoadFromFile("../api/openapi.yaml")
	require.NoError(t, err)
	fill := strings.NewReplacer("{house}", fmt.Sprint(h), "{color}", "1", "{set}", "1", "{number}", "1", "{recipient}", "1", "{suggestion}", "1", "{item}", "1", "{audit}", "1", "{packing}", "css", "{press}", "coated", "{stock}", "coated", "{starter}", "q1", "{gradient}", "1", "{ground}", "2", "{board}", "1", "{form}", "pdf", "{link}", "999", "{logo}", "none", "{typeface}", "999", "{job}", "1", "{mail}", "999", "{project}", "999", "{run}", "999", "{format}", "csv", "{repaint}", "999", "{excuse}", "999", "{plan}", "999", "{member}", "999", "{invitation}", "999", "{token}", "999", "{note}", "office-file", "{trouble}", "999", "{hook}", "999")
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			want, known := least[op.OperationID]
			require.True(t, known, "%s is not in the table", op.OperationID)
			if want == nothing {
				continue
			}
			for _, who := range []string{"nobody", "foreigner", reader, contributor, keeperRole} {
				var a answer
				if op.OperationID == "followHouse" && rank[who] > 0 {
					continue // it goes on and on; see TestOthersHearOfChanges
				}
				if to, ok := map[string]string{"createAudit": "audits", "readFile": "files", "restoreLibrary": "restore?replace=false", "lookAtBackup": "restore/look", "addPress": "presses?label=x", "putInkBook": "ink-book?name=x", "addProjectFile": "projects/999/files?path=x.css", "addProjectFiles": "projects/999/files/many", "setMark": "mark"}[op.OperationID]; ok {
					a = people[who].uploadBy(method, house(h, "/%s", to), "x.css", []byte("a{color:red}"))
				} else {
					a = people[who].call(method, fill.Replace(path)+map[string]string{"find": "?words=deep", "findInks": "?query=013", "compareEditions": "?from=1&to=0", "dropBuild": "?version=1", "dropHex": "?version=1", "dropSpot": "?version=1", "removeColor": "?version=1",
						"getHistory": "?before=1", "listPlaces": "?key=%23112233", "dropProjectFile": "?path=x.css", "restoreProjectFile": "?path=x.css", "getMarked": "?hex=%23112233", "compareRuns": "?since=1", "proposePlan": "?color=2"}[op.OperationID], bodies[op.OperationID])
				}
				switch {
				case who == "nobody":
					assert.Equal(t, 401, a.status, "%s by nobody", op.OperationID)
				case who == "foreigner":
					assert.Equal(t, 404, a.status, "%s by a keeper of another house", op.OperationID)
				case rank[who] < rank[want]:
					assert.Equal(t, 403, a.status, "%s by a %s", op.OperationID, who)
				default:
					assert.NotContains(t, []int{401, 403, 500}, a.status, "%s by a %s: %s", op.OperationID, who, a.text)
				}
			}
		}
	}
}

func TestSessions(t *testing.T) {
	s := newSite(t)
	p := s.nobody()
	a := p.call("POST", "/session", map[string]string{"email": "KEEPER@odelwick.example ", "password": demo.Password})
	cookie := a.header.Get("Set-Cookie")
	for _, part := range []string{"HttpOnly", "SameSite=Lax", "Path=/", "Max-Age=1209600"} {
		assert.Contains(t, cookie, part)
	}
	k := s.as("keeper")
	h := k.ferries()
	k.csrf = "wrong"
	assert.Equal(t, 403, k.call("POST", house(h, "/tray"), map[string]string{"text": "#123456"}).status, "a wrong token")
	k = s.as("keeper")
	r := httptest.NewRequest("POST", "/api"+house(h, "/sets"), strings.NewReader(`{"name":"x","colors":[]}`))
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	assert.Equal(t, 403, k.send(r).status, "from another site")
	assert.Equal(t, 204, k.call("DELETE", "/session", nil).status)
	assert.Equal(t, 401, k.call("GET", "/session", nil).status, "the session has ended")

	now := time.Now().UTC()
	s.keeper.Base.Now = func() time.Time { return now }
	for range 10 {
		assert.Equal(t, 401, p.call("POST", "/session", map[string]string{"email": "reader@odelwick.example", "password": "wrong"}).status)
	}
	slow := p.call("POST", "/session", map[string]string{"email": "reader@odelwick.example", "password": demo.Password})
	assert.Equal(t, 429, slow.status, "even the right password waits now")
	assert.NotEmpty(t, slow.header.Get("Retry-After"))
	now = now.Add(41 * time.Minute)
	assert.Equal(t, 200, p.call("POST", "/session", map[string]string{"email": "reader@odelwick.example", "password": demo.Password}).status)
	late := s.as("contributor")
	now = now.Add(accounts.SessionLife + time.Minute)
	assert.Equal(t, 401, late.call("GET", "/session", nil).status, "sessions end")

	for range 11 {
		a = p.call("POST", "/session", map[string]string{"email": "stranger@x.example", "password": "wrong"})
	}
	assert.Equal(t, 429, a.status, "an unknown address is slowed alike")
	plain := &site{t, server.New(server.Options{Stations: s.keeper, Interface: fstest.MapFS{}}), s.keeper, s.db}
	assert.Empty(t, plain.nobody().call("GET", "/demo-accounts", nil).json, "outside the demo")
}

func TestTwoPeopleAtOnce(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	put := k.call("POST", house(h, "/tray"), map[string]string{"text": "One #010203\nTwo #040506"})
	items := []int64{put.id("tray", 0, "id"), put.id("tray", 1, "id")}
	statuses := func(n int, f func() int) map[int]int {
		out := map[int]int{}
		var lock sync.Mutex
		var wait sync.WaitGroup
		for range n {
			wait.Go(func() {
				status := f()
				lock.Lock()
				out[status]++
				lock.Unlock()
			})
		}
		wait.Wait()
		return out
	}
	assert.Equal(t, map[int]int{201: 1, 409: 5}, statuses(6, func() int {
		return k.call("POST", house(h, "/tray/admit"), map[string]any{"items": items}).status
	}), "a candidate is admitted once")
	lamp := house(h, "/colors/%d", k.colorID(h, "Lamp"))
	assert.Equal(t, map[int]int{200: 1, 409: 5}, statuses(6, func() int {
		return k.call("PATCH", lamp, map[string]any{"version": 1, "value": "#F0B030"}).status
	}), "one amendment wins, the others are told")
	assert.Equal(t, map[int]int{201: 1, 409: 3}, statuses(4, func() int {
		return k.call("POST", house(h, "/sets/1/editions"), o{}).status
	}), "one edition is made")
}

// A second start keeps what was done; an interrupted first load is done over.
func TestTheDemoIsLoadedOnce(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	k.call("POST", house(h, "/tray"), map[string]string{"text": "Mine #010203"})
	require.NoError(t, s.keeper.Example.Load(context.Background()))
	assert.Len(t, k.call("GET", house(h, "/tray"), nil).json, 1)
	assert.Len(t, k.call("GET", "/session", nil).at("houses"), 2)
}

func TestPagesAndFiles(t *testing.T) {
	s := newSite(t)
	for _, path := range []string{"/", "/h/1/library/2", "/anything"} {
		res, err := s.app.Test(httptest.NewRequest("GET", path, nil))
		require.NoError(t, err)
		assert.Equal(t, 200, res.StatusCode, path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'self'")
	}
	notices, err := s.app.Test(httptest.NewRequest("GET", "/notices.txt", nil))
	require.NoError(t, err)
	text, err := io.ReadAll(notices.Body)
	require.NoError(t, err)
	assert.Contains(t, string(text), "SIL OPEN FONT LICENSE")
	assert.Contains(t, string(text), "FOGRA39L")
	res, err := s.app.Test(httptest.NewRequest("GET", "/health", nil))
	require.NoError(t, err)
	assert.Equal(t, 200, res.StatusCode)
}
