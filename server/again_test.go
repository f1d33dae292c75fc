package server_test

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// project puts files into a project of a name, in the order of their paths, and gives its number.
func (p *person) project(h int64, name string, files map[string]string) int64 {
	p.t.Helper()
	a := p.call("POST", house(h, "/projects"), o{"name": name})
	require.Equal(p.t, 201, a.status, a.text)
	p.fill(h, a.id("id"), files)
	return a.id("id")
}

func (p *person) fill(h, project int64, files map[string]string) {
	p.t.Helper()
	for _, path := range slices.Sorted(maps.Keys(files)) {
		a := p.uploadBy("POST", house(h, "/projects/%d/files?path=%s", project, path), "x", []byte(files[path]))
		require.Equal(p.t, 201, a.status, a.text)
	}
}

// next judges a project, and reads the run that comes of it.
func (p *person) next(h, project int64, query string) answer {
	p.t.Helper()
	run := p.asked(h, p.call("POST", house(h, "/projects/%d/runs%s", project, query), nil))
	a := p.call("GET", house(h, "/runs/%s", run), nil)
	require.Equal(p.t, 200, a.status, a.text)
	return a
}

// A file is judged again only where it, what it uses of others, or what is judged by changed; the report is what it would be if all were judged.
func TestWhatDidNotChangeIsNotJudgedAgain(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	img := image.NewNRGBA(image.Rect(0, 0, 40, 40))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.NRGBA{0xE1, 0x57, 0x2C, 255}), image.Point{}, draw.Src)
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, img))
	picture := file.String()
	files := map[string]string{"app.css": ".a{color:var(--deep)}", "lone.css": "b{color:#E1572C}", "picture.png": picture, "tokens.css": ":root{--deep:#E1572C}", "unused.css": "c{color:#00A34F}"}
	id := p.project(h, "Site", files)
	first := p.next(h, id, "")
	assert.Nil(t, first.at("run", "same"))
	second := p.next(h, id, "")
	assert.EqualValues(t, 5, second.at("run", "same"))
	assert.EqualValues(t, 2, second.at("run", "number"), "who asks for a run gets one")
	assert.Equal(t, first.at("run", "score"), second.at("run", "score"))
	quiet := p.next(h, id, "?quiet=true")
	assert.Equal(t, second.id("run", "id"), quiet.id("run", "id"), "nothing is new, so there is no run")

	// What one file defines the other uses: both are judged again, and nothing else.
	files["tokens.css"] = ":root{--deep:#D80FC2}"
	p.fill(h, id, map[string]string{"tokens.css": files["tokens.css"]})
	third := p.next(h, id, "?quiet=true")
	assert.EqualValues(t, 3, third.at("run", "number"))
	assert.EqualValues(t, 3, third.at("run", "same"))
	anew := p.next(h, p.project(h, "Site anew", files), "")
	text := func(run answer) string {
		return p.call("GET", house(h, "/runs/%d/report/json", run.id("run", "id")), nil).text
	}
	assert.Equal(t, text(anew), text(third))
	assert.Contains(t, text(third), "D80FC2")

	// A file more that hangs on no other leaves the others as they were; one that is gone too.
	p.fill(h, id, map[string]string{"more.css": "d{color:#112233}"})
	assert.EqualValues(t, 5, p.next(h, id, "").at("run", "same"))
	require.Equal(t, 204, p.call("DELETE", house(h, "/projects/%d/files?path=unused.css", id), nil).status)
	last := p.next(h, id, "")
	assert.EqualValues(t, 5, last.at("run", "same"))
	assert.EqualValues(t, 5, last.at("run", "files"))

	// A file that changed in what is no color makes a run all the same: what is repainted of the newest run is the file as it is.
	p.fill(h, id, map[string]string{"lone.css": "b{color:#E1572C}/* new */"})
	edited := p.next(h, id, "?quiet=true")
	assert.Greater(t, edited.at("run", "number"), last.at("run", "number"))
	assert.Equal(t, last.at("run", "findings"), edited.at("run", "findings"))

	// Other rules judge everything again.
	require.Equal(t, 204, p.call("PUT", house(h, "/judging"), o{"tolerance": 0.1, "pictures": 5, "neutrals": true, "keepDays": 0}).status)
	tight := p.next(h, id, "?quiet=true")
	assert.Nil(t, tight.at("run", "same"))

	// Runs of before may go: what is kept of them stays as long as a run tells of it.
	for _, run := range p.call("GET", house(h, "/projects/%d", id), nil).at("runs").([]any)[1:] {
		require.Equal(t, 204, p.call("DELETE", house(h, "/runs/%d", int64(run.(map[string]any)["id"].(float64))), nil).status)
	}
	assert.EqualValues(t, 5, p.next(h, id, "").at("run", "same"))
}

// Once the library has been still for a while, the projects that it moved under are judged again by themselves; what comes out as before is no run.
func TestProjectsAreJudgedAgainWhenTheLibraryMoved(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	id := p.project(h, "Posters", map[string]string{"a.css": "a{color:#E2572B}"})
	first := p.next(h, id, "")
	require.EqualValues(t, 0, first.at("run", "findings"), "Buoy")
	runs := func() []any { return p.call("GET", house(h, "/projects/%d", id), nil).at("runs").([]any) }
	judged := func(wanted int) {
		t.Helper()
		n, err := s.keeper.Audits.JudgeAgain(t.Context(), 0)
		require.NoError(t, err)
		assert.Equal(t, wanted, n)
		for _, j := range p.call("GET", house(h, "/jobs"), nil).json.([]any) {
			p.ended(h, answer{t: t, json: j}.id("id"))
		}
	}
	judged(0)

	buoy := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Buoy")), nil)
	amended := p.call("PATCH", house(h, "/colors/%d", p.colorID(h, "Buoy")), o{"value": "#D80FC2", "version": buoy.at("version")})
	require.Equal(t, 200, amended.status, amended.text)
	n, err := s.keeper.Audits.JudgeAgain(t.Context(), 1e12)
	require.NoError(t, err)
	assert.Zero(t, n, "somebody may be about to amend the next one")
	require.Equal(t, 204, p.call("PUT", house(h, "/judging"), o{"tolerance": 3, "pictures": 5, "neutrals": true, "keepDays": 0, "again": false}).status)
	judged(0)
	require.Equal(t, 204, p.call("PUT", house(h, "/judging"), o{"tolerance": 3, "pictures": 5, "neutrals": true, "keepDays": 0, "again": true}).status)
	judged(1)
	require.Len(t, runs(), 2)
	assert.Equal(t, "Hue Keep", answer{t: t, json: runs()[0]}.at("by"))
	assert.EqualValues(t, 1, answer{t: t, json: runs()[0]}.at("findings"))
	judged(0)

	// What moves no verdict is nothing new to tell, and the project is not looked at again for that.
	other := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Lamp")), nil)
	amended = p.call("PATCH", house(h, "/colors/%d", p.colorID(h, "Lamp")), o{"rule": "for lamps only", "version": other.at("version")})
	require.Equal(t, 200, amended.status, amended.text)
	judged(1)
	assert.Len(t, runs(), 2)
	judged(0)
	assert.Equal(t, answer{t: t, json: runs()[0]}.id("id"), p.next(h, id, "?quiet=true").id("run", "id"))

	// A file that cannot be read any more is said once, and not every minute.
	files, err := s.db.ProjectFiles(id)
	require.NoError(t, err)
	s.keeper.Audits.Drop(t.Context(), files[0].BlobKey)
	other = p.call("GET", house(h, "/colors/%d", p.colorID(h, "Lamp")), nil)
	amended = p.call("PATCH", house(h, "/colors/%d", p.colorID(h, "Lamp")), o{"value": "#D80FC3", "version": other.at("version")})
	require.Equal(t, 200, amended.status, amended.text)
	judged(1)
	judged(0)
}
