package server_test

import (
	"archive/zip"
	"bytes"
	"io"
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
		"a newer form":           changed(t, file.text, "projects.json", func(s string) string { return strings.Replace(s, `"version": 1`, `"version": 9`, 1) }),
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
	require.Eventually(t, func() bool { // it is judged anew, with its excuse
		p := k.call("GET", house(bakery, "/projects/%d", id), nil)
		return len(p.at("runs").([]any)) == 1
	}, 30*time.Second, 50*time.Millisecond)
	run := k.call("GET", house(bakery, "/projects/%d", id), nil).id("runs", 0, "id")
	report := k.call("GET", house(bakery, "/runs/%d", run), nil)
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
