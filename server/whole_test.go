package server_test

import (
	"archive/zip"
	"bytes"
	"io"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// changed is an archive with one entry's text changed; nil takes the entry out.
func changed(t *testing.T, archive, entry string, change func(string) string) []byte {
	t.Helper()
	z, err := zip.NewReader(strings.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		require.NoError(t, err)
		if f.Name == entry {
			if change == nil {
				continue
			}
			data = []byte(change(string(data)))
		}
		out, err := w.Create(f.Name)
		require.NoError(t, err)
		_, _ = out.Write(data)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

// A house goes into another one with all its projects, excuses and plans, wholly or not at all.
func TestAHouseIsTakenAlongWhole(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	bakery := k.call("GET", "/session", nil).id("houses", 1, "id")
	a := k.judge(h, "winter.css", []byte(".a{color:#E1572C}.b{color:#00A34F}"))
	require.Equal(t, 200, a.status, a.text)
	project := a.id("line", "project")
	require.Equal(t, 201, k.call("POST", house(h, "/excuses"), o{"project": project, "color": "#00A34F", "file": "winter.css", "reason": "a partner's green", "until": "2099-01-31"}).status)
	require.Equal(t, 201, k.call("POST", house(h, "/excuses"), o{"color": "#123456", "reason": "everywhere"}).status)
	require.Equal(t, 200, k.call("POST", house(h, "/plans"), o{"name": "To Buoy", "colors": []o{{"from": "#E1572C", "to": "Buoy"}}}).status)
	before := len(k.call("GET", house(bakery, "/projects"), nil).at("projects").([]any))

	file := k.call("GET", house(h, "/whole"), nil)
	require.Equal(t, 200, file.status, file.text)
	assert.Contains(t, file.header.Get("Content-Disposition"), "odelwick-ferries.zip")
	assert.Equal(t, 403, s.as("contributor").call("GET", house(h, "/whole"), nil).status)

	state := func() string {
		return k.call("GET", house(bakery, "/projects"), nil).text + k.call("GET", house(bakery, "/excuses"), nil).text + k.call("GET", house(bakery, "/plans"), nil).text + k.call("GET", house(bakery, "/colors"), nil).text
	}
	was := state()
	for what, bad := range map[string][]byte{
		"no library":             changed(t, file.text, "library.json", nil),
		"no list":                changed(t, file.text, "projects.json", nil),
		"a changed library":      changed(t, file.text, "library.json", func(s string) string { return strings.Replace(s, "Buoy", "Boje", 1) }),
		"a list of something":    changed(t, file.text, "projects.json", func(string) string { return "[]" }),
		"a newer form":           changed(t, file.text, "projects.json", func(s string) string { return strings.Replace(s, `"version": 2`, `"version": 9`, 1) }),
		"a changed file":         changed(t, file.text, entryOf(t, file.text, "winter.css"), func(s string) string { return s + " " }),
		"a file that is missing": changed(t, file.text, entryOf(t, file.text, "winter.css"), nil),
		"a way out":              changed(t, file.text, "projects.json", func(s string) string { return strings.Replace(s, `"path": "winter.css"`, `"path": "../\u0000"`, 1) }),
		"an excuse of nothing":   changed(t, file.text, "projects.json", func(s string) string { return strings.Replace(s, `"reason": "everywhere"`, `"reason": ""`, 1) }),
		"cut off":                []byte(file.text[:len(file.text)/2]),
	} {
		got := k.uploadTo(house(bakery, "/restore?replace=true"), "all.zip", bad)
		assert.Equal(t, 422, got.status, "%s: %s", what, got.text)
	}
	assert.Equal(t, was, state(), "nothing is half restored")

	got := k.uploadTo(house(bakery, "/restore?replace=true"), "all.zip", []byte(file.text))
	require.Equal(t, 200, got.status, got.text)
	assert.EqualValues(t, 1, got.at("plans"))
	list := k.call("GET", house(bakery, "/projects"), nil).at("projects").([]any)
	assert.Greater(t, len(list), before)
	var id int64
	for _, p := range list {
		if p := p.(map[string]any); p["name"] == "winter.css" {
			id = int64(p["id"].(float64))
		}
	}
	require.NotZero(t, id)
	// Its run came along, with its report and its file: it says what it said, and judged again there is something to compare with.
	run := k.call("GET", house(bakery, "/projects/%d", id), nil).id("runs", 0, "id")
	report := k.call("GET", house(bakery, "/runs/%d", run), nil)
	assert.EqualValues(t, 0.0, report.at("run", "score"), "nothing was excused when it was judged")
	audits := [2]int64{k.call("GET", house(h, "/runs/%d", a.id("line", "run")), nil).id("files", 0, "id"), report.id("files", 0, "id")}
	for _, part := range []string{"colors", "totals", "about", "size"} {
		assert.Equal(t, k.call("GET", house(h, "/audits/%d", audits[0]), nil).at(part), k.call("GET", house(bakery, "/audits/%d", audits[1]), nil).at(part), part)
	}
	require.Equal(t, 202, k.call("POST", house(bakery, "/projects/%d/runs", id), nil).status)
	require.Eventually(t, func() bool {
		p := k.call("GET", house(bakery, "/projects/%d", id), nil)
		return len(p.at("runs").([]any)) == 2
	}, 30*time.Second, 50*time.Millisecond)
	report = k.call("GET", house(bakery, "/runs/%d", k.call("GET", house(bakery, "/projects/%d", id), nil).id("runs", 0, "id")), nil)
	assert.EqualValues(t, 0.5, report.at("run", "score"), "the one color is excused, the other one drifted")
	assert.Contains(t, k.call("GET", house(bakery, "/excuses?project=%d", id), nil).text, "a partner's green")

	// Once more: what is there stays, and nothing comes twice.
	was = state()
	again := k.uploadTo(house(bakery, "/restore?replace=false"), "all.zip", []byte(file.text))
	require.Equal(t, 200, again.status, again.text)
	assert.EqualValues(t, []any{0.0, 0.0, 0.0, 0.0}, []any{again.at("added"), again.at("projects"), again.at("excuses"), again.at("plans")})
	assert.Contains(t, again.at("there"), "winter.css")
	assert.Equal(t, was, state())
}

// entryOf is the entry of an archive that ends with a name.
func entryOf(t *testing.T, archive, name string) string {
	t.Helper()
	z, err := zip.NewReader(strings.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/"+name) {
			return f.Name
		}
	}
	t.Fatal("no entry " + name)
	return ""
}

// What a file holds and what it would do is said before; replacing a house by the archive of another one leaves every address of before where
// it led, mails in their list and packed files as they were; and it is taken back whole.
func TestReplacingAHouseAndTakingItBack(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	bakery := k.call("GET", "/session", nil).id("houses", 1, "id")
	deck := k.judge(h, "deck.css", []byte(".a{color:#E1572C}"))
	require.Equal(t, 200, deck.status, deck.text)
	require.Equal(t, 200, k.call("POST", house(h, "/plans"), o{"name": "To Buoy", "colors": []o{{"from": "#E1572C", "to": "Buoy"}}}).status)
	archive := []byte(k.call("GET", house(h, "/whole"), nil).text)

	// The bakery has a color, a set and a recipient of the same names, of its own values, and a packed edition.
	require.Equal(t, 201, k.call("POST", house(bakery, "/tray"), o{"text": "Buoy #A03020"}).status)
	require.Equal(t, 201, k.call("POST", house(bakery, "/tray/admit"), o{"items": []int64{k.call("GET", house(bakery, "/tray"), nil).id(0, "id")}}).status)
	buoy := k.colorID(bakery, "Buoy")
	set := k.call("POST", house(bakery, "/sets"), o{"name": "Core", "colors": []int64{buoy}})
	require.Equal(t, 201, set.status, set.text)
	list := k.call("GET", house(bakery, "/sets"), nil).json.([]any)
	core := int64(0)
	for _, x := range list {
		if x := x.(map[string]any); x["name"] == "Core" {
			core = int64(x["id"].(float64))
		}
	}
	state := func() (out []string) {
		for _, path := range []string{"/colors", "/sets", "/recipients", "/projects", "/excuses", "/plans", "/mails", "/gradients", "/pairs", "/presses", "/boards"} {
			out = append(out, path+" "+withoutVersions(k.call("GET", house(bakery, "%s", path), nil).text))
		}
		return out
	}
	was := state()

	look := k.uploadTo(house(bakery, "/restore/look"), "all.zip", archive)
	require.Equal(t, 200, look.status, look.text)
	assert.Equal(t, "Odelwick Ferries", look.at("house"))
	assert.EqualValues(t, 10, look.at("colors"))
	assert.EqualValues(t, 9, look.at("fresh").(float64)-1, "all come in, Buoy under another name")
	assert.Equal(t, []any{"Buoy came in as Buoy 2"}, look.at("renamed"))
	assert.Equal(t, "deck.css", look.at("projects", 0, "name"))
	assert.EqualValues(t, []any{1.0, 1.0, 0.0, false}, []any{look.at("projects", 0, "files"), look.at("projects", 0, "runs"), look.at("projects", 0, "bare"), look.at("projects", 0, "there")})
	assert.EqualValues(t, 1, look.at("plans"))
	assert.Equal(t, was, state(), "looking changes nothing")
	assert.Equal(t, 403, s.as("contributor").uploadTo(house(h, "/restore/look"), "all.zip", archive).status)
	assert.Equal(t, 422, k.uploadTo(house(bakery, "/restore/look"), "all.zip", archive[:len(archive)/2]).status)

	done := k.uploadTo(house(bakery, "/restore?replace=true"), "all.zip", archive)
	require.Equal(t, 200, done.status, done.text)
	assert.EqualValues(t, []any{10.0, 1.0, 1.0, 1.0}, []any{done.at("added"), done.at("projects"), done.at("runs"), done.at("plans")})
	sheet := k.call("GET", house(bakery, "/colors/%d", buoy), nil)
	assert.Equal(t, []any{"Buoy", "#E2572B"}, []any{sheet.at("row", "name"), sheet.at("row", "hex")}, "the address of before leads to what has its name")
	found := false
	for _, x := range k.call("GET", house(bakery, "/sets"), nil).json.([]any) {
		found = found || int64(x.(map[string]any)["id"].(float64)) == core && x.(map[string]any)["name"] == "Core"
	}
	assert.True(t, found, "and of a set")

	// Somebody goes on meanwhile: that is not undone unseen.
	way := house(bakery, "/ways-back/%d", done.id("back"))
	require.Equal(t, 200, k.call("PATCH", house(bakery, "/colors/%d", buoy), o{"version": sheet.at("version"), "rule": "New"}).status)
	barred := k.call("POST", way, nil)
	assert.Equal(t, 409, barred.status)
	assert.Contains(t, barred.at("title"), "Keeper amended Buoy")
	assert.Equal(t, 403, s.as("contributor").call("POST", house(h, "/ways-back/%d", done.id("back")), nil).status)
	assert.Equal(t, 404, k.call("POST", house(h, "/ways-back/%d", done.id("back")), nil).status, "it is the way of another house")
	require.Equal(t, 204, k.call("POST", way+"?over=true", nil).status)
	assert.Equal(t, was, state())
	assert.Equal(t, 409, k.call("POST", way+"?over=true", nil).status, "only once")

	// And again, with nothing in between.
	done = k.uploadTo(house(bakery, "/restore?replace=true"), "all.zip", archive)
	require.Equal(t, 200, done.status, done.text)
	require.Equal(t, 204, k.call("POST", house(bakery, "/ways-back/%d", done.id("back")), nil).status)
	assert.Equal(t, was, state())
	sheet = k.call("GET", house(bakery, "/colors/%d", buoy), nil)
	assert.Equal(t, "#A03020", sheet.at("row", "hex"))
	require.Equal(t, 200, k.call("PATCH", house(bakery, "/colors/%d", buoy), o{"version": sheet.at("version"), "rule": "Goes on"}).status)
}

var versions = regexp.MustCompile(`"version":\d+`)

func withoutVersions(s string) string { return versions.ReplaceAllString(s, `"version":0`) }
