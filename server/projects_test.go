package server_test

import (
	"fmt"
	"mime/multipart"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/keep"
)

// asked queues work and gives the number that comes of it.
func (p *person) asked(h int64, a answer) string {
	p.t.Helper()
	require.Equal(p.t, 202, a.status, a.text)
	j := p.ended(h, a.id("id"))
	require.Equal(p.t, "done", j.at("state"), j.text)
	return j.at("result").(string)
}

// A project comes in, is judged, put right in one go, and judged again: nothing drifted is left, and the next run says so.
func TestAProjectIsPutRight(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	project := p.call("POST", house(h, "/projects"), o{"name": "Winter timetable"})
	require.Equal(t, 201, project.status, project.text)
	id := project.id("id")
	assert.Equal(t, 409, p.call("POST", house(h, "/projects"), o{"name": "winter TIMETABLE"}).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/projects/%d/runs", id), nil).status, "it has no files yet")

	files := map[string][]byte{"site/tokens.css": []byte(":root{--buoy:#E1572C}"), "site/app.css": []byte(".a{color:var(--buoy)}.b{color:#00A34F}"), "deck.pptx": demo.TimetableDeck().Data}
	for path, data := range files {
		a := p.uploadBy("POST", house(h, "/projects/%d/files?path=%s", id, path), "x", data)
		require.Equal(t, 201, a.status, a.text)
	}
	assert.Equal(t, 422, p.uploadBy("POST", house(h, "/projects/%d/files?path=%s", id, "../../x.exe"), "x", []byte("MZ")).status)
	run := p.asked(h, p.call("POST", house(h, "/projects/%d/runs", id), nil))
	first := p.call("GET", house(h, "/runs/%s", run), nil)
	assert.EqualValues(t, 3, first.at("run", "files"))
	assert.Len(t, first.at("files"), 3)
	assert.Positive(t, first.at("run", "findings"))

	reader := s.as("reader")
	assert.Equal(t, first.json, reader.call("GET", house(h, "/runs/%s", run), nil).json)
	csv := reader.call("GET", house(h, "/runs/%s/report/csv", run), nil)
	assert.Contains(t, csv.text, "site/app.css")
	assert.Contains(t, csv.header.Get("Content-Disposition"), "Winter timetable, audit.csv")
	assert.Equal(t, 403, reader.call("POST", house(h, "/runs/%s/repaints", run), o{}).status)

	// A dry run tells what would change and writes nothing.
	elsewhere := p.judge(h, "b.css", []byte("b{color:#E1572C}"))
	assert.Equal(t, 404, p.call("POST", house(h, "/runs/%s/repaints", run), o{"audit": elsewhere.id("line", "id")}).status, "an audit of another run")
	dry := p.asked(h, p.call("POST", house(h, "/runs/%s/repaints", run), o{"dry": true}))
	told := p.call("GET", house(h, "/repaints/%s", dry), nil)
	assert.Equal(t, true, told.at("dry"))
	assert.Positive(t, told.at("changed"))
	assert.Equal(t, 409, p.call("GET", house(h, "/repaints/%s/file", dry), nil).status)
	made := p.asked(h, p.call("POST", house(h, "/runs/%s/repaints", run), o{}))
	zip := p.call("GET", house(h, "/repaints/%s/file", made), nil)
	require.Equal(t, 200, zip.status)
	assert.True(t, strings.HasPrefix(zip.text, "PK"))
	assert.Contains(t, zip.header.Get("Content-Disposition"), "Winter timetable, repainted.zip")

	// The archive is audited as the next run of a project of its own: all that drifted is right.
	again := p.judge(h, "fixed.zip", []byte(zip.text))
	require.Equal(t, 200, again.status, again.text)
	for _, v := range again.at("totals").([]any) {
		assert.NotContains(t, []any{"drifted", "retired"}, v.(map[string]any)["verdict"])
	}

	// What differs on purpose is excused in the project, and the next run counts it so.
	assert.Equal(t, 422, p.call("POST", house(h, "/excuses"), o{"project": id, "color": "#00A34F", "reason": " "}).status)
	excuse := p.call("POST", house(h, "/excuses"), o{"project": id, "color": "#00A34F", "file": "site/app.css", "reason": "the partner's own green", "until": "2099-01-31"})
	require.Equal(t, 201, excuse.status, excuse.text)
	assert.Equal(t, "holds", excuse.at("state"))
	second := p.asked(h, p.call("POST", house(h, "/projects/%d/runs", id), nil))
	changes := p.call("GET", house(h, "/runs/%s/changes?since=%s", second, run), nil)
	require.Equal(t, 200, changes.status, changes.text)
	assert.Contains(t, changes.text, `"is":"excused"`)
	assert.Empty(t, changes.at("fresh"))
	assert.Equal(t, 204, p.call("DELETE", house(h, "/excuses/%d", excuse.id("id")), nil).status)
	third := p.asked(h, p.call("POST", house(h, "/projects/%d/runs", id), nil))
	changes = p.call("GET", house(h, "/runs/%s/changes?since=%s", third, second), nil)
	assert.Contains(t, changes.text, "#00A34F", "it came back")

	got := p.call("GET", house(h, "/projects/%d", id), nil)
	assert.Len(t, got.at("runs"), 3)
	assert.EqualValues(t, 3, got.at("runs", 0, "number"))
	assert.Equal(t, 204, p.call("DELETE", house(h, "/projects/%d", id), nil).status)
	assert.NotContains(t, p.call("GET", house(h, "/projects"), nil).text, "Winter timetable")
	assert.Equal(t, 404, p.call("POST", house(h, "/projects/%d/runs", id), nil).status)
	assert.Equal(t, 204, p.call("POST", house(h, "/projects/%d/restore", id), nil).status)
	keeper := s.as("keeper")
	assert.Equal(t, 403, p.call("DELETE", house(h, "/runs/%s", third), nil).status)
	assert.Equal(t, 204, keeper.call("DELETE", house(h, "/runs/%s", third), nil).status)
	assert.Equal(t, 404, p.call("GET", house(h, "/runs/%s", third), nil).status)
}

func TestAFileIsRepaintedByAPlan(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	a := p.judge(h, "call.css", []byte("a { color: #E1572C; fill: #00a34f }"))
	require.Equal(t, 200, a.status, a.text)
	run := a.id("line", "run")
	for what, c := range map[string]struct {
		body o
		part string
	}{
		"no such color": {o{"colors": []o{{"from": "#E1572C", "to": "Nothing"}}}, "no color Nothing"},
		"twice":         {o{"colors": []o{{"from": "#E1572C", "to": "Buoy"}, {"from": "#E1572C", "leave": true}}}, "twice"},
		"retired":       {o{"colors": []o{{"from": "#E1572C", "to": "Old Funnel"}}}, "retired"},
		"nothing said":  {o{"colors": []o{{"from": "#E1572C"}}}, "does not say"},
	} {
		got := p.call("POST", house(h, "/runs/%d/repaints", run), c.body)
		assert.Equal(t, 422, got.status, what)
		assert.Contains(t, got.text, c.part)
	}
	made := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run), o{"audit": a.id("line", "id"), "colors": []o{{"from": "#E1572C", "leave": true}, {"from": "#00A34F", "to": "Saltmarsh"}}}))
	file := p.call("GET", house(h, "/repaints/%s/file", made), nil)
	assert.Equal(t, "a { color: #E1572C; fill: #4e7d5b }", file.text)
	assert.Contains(t, file.header.Get("Content-Disposition"), "call, repainted.css")
	told := p.call("GET", house(h, "/repaints/%s", made), nil)
	assert.Equal(t, "#00a34f", told.at("files", 0, "changes", 0, "before"))
	assert.Equal(t, "#4e7d5b", told.at("files", 0, "changes", 0, "after"))

	// Somebody of another house sees nothing of it.
	foreign := s.as("contributor")
	other := int64(0)
	for _, x := range foreign.call("GET", "/session", nil).at("houses").([]any) {
		if id := int64(x.(map[string]any)["id"].(float64)); id != h {
			other = id
		}
	}
	if other != 0 {
		for _, path := range []string{"/runs/%d", "/audits/%d"} {
			assert.Equal(t, 404, foreign.call("GET", house(other, path, run), nil).status)
		}
		assert.Equal(t, 404, foreign.call("GET", house(other, "/repaints/%s/file", made), nil).status)
		assert.Equal(t, 404, foreign.call("POST", house(other, "/runs/%d/repaints", run), o{}).status)
	}
}

func TestSavedPlans(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	funnel := p.colorID(h, "Old Funnel")
	proposed := p.call("GET", house(h, "/plans/proposal?color=%d", funnel), nil)
	require.Equal(t, 200, proposed.status, proposed.text)
	assert.Equal(t, []any{map[string]any{"from": "#D9482B", "to": "Buoy"}}, proposed.json)
	saved := p.call("POST", house(h, "/plans"), o{"name": "Old Funnel to Buoy", "colors": proposed.json})
	require.Equal(t, 200, saved.status, saved.text)
	assert.Equal(t, 409, p.call("POST", house(h, "/plans"), o{"name": "old funnel to buoy", "colors": proposed.json}).status)
	changed := p.call("POST", house(h, "/plans"), o{"id": saved.id("id"), "version": 1, "name": "Funnels", "colors": proposed.json})
	require.Equal(t, 200, changed.status, changed.text)
	assert.Equal(t, 409, p.call("POST", house(h, "/plans"), o{"id": saved.id("id"), "version": 1, "name": "Other", "colors": proposed.json}).status, "somebody else was faster")
	assert.Len(t, p.call("GET", house(h, "/plans"), nil).json, 1)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/plans/%d", saved.id("id")), nil).status)

	// An amended color proposes what its old value becomes, and tells which projects hold it.
	k := s.as("keeper")
	require.Equal(t, 200, k.judge(h, "a.css", []byte("a{color:#E2572B}")).status)
	buoy := k.colorID(h, "Buoy")
	amended := k.call("PATCH", house(h, "/colors/%d", buoy), o{"version": 1, "value": "#E05528"})
	require.Equal(t, 200, amended.status, amended.text)
	proposed = k.call("GET", house(h, "/plans/proposal?color=%d", buoy), nil)
	assert.Contains(t, proposed.text, `{"from":"#E2572B","to":"Buoy"}`)
	assert.Contains(t, k.call("GET", house(h, "/projects?with=%%23E2572B"), nil).text, `"name":"a.css"`)
	assert.Contains(t, k.call("GET", house(h, "/projects?holding=%d", buoy), nil).text, `"name":"a.css"`)
	assert.NotContains(t, k.call("GET", house(h, "/projects?holding=%d", k.colorID(h, "Fog")), nil).text, `"name":"a.css"`)

	// Between two editions of a set: what Core held before the amendment becomes what it holds now.
	core := k.call("GET", house(h, "/sets"), nil).id(0, "id")
	require.Equal(t, 201, k.call("POST", house(h, "/sets/%d/editions", core), o{}).status)
	between := k.call("GET", house(h, "/plans/proposal?set=%d&from=2&to=3", core), nil)
	require.Equal(t, 200, between.status, between.text)
	assert.Equal(t, []any{map[string]any{"from": "#E2572B", "to": "Buoy"}}, between.json)
	assert.Equal(t, 422, k.call("GET", house(h, "/plans/proposal"), nil).status)
}

// A deck takes the theme of a set, and what is planned is linked to it, so that the next change is one change.
func TestADeckTakesTheThemeOfASet(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	a := p.judge(h, "deck.pptx", demo.TimetableDeck().Data)
	require.Equal(t, 200, a.status, a.text)
	core := p.call("GET", house(h, "/sets"), nil).id(0, "id")
	made := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", a.id("line", "run")), o{"audit": a.id("line", "id"), "theme": core, "link": true}))
	told := p.call("GET", house(h, "/repaints/%s", made), nil)
	assert.Contains(t, told.text, "schemeClr", "values became references")
	assert.Contains(t, told.text, `"where":"theme 1, accent`)
	file := p.call("GET", house(h, "/repaints/%s/file", made), nil)
	again := p.judge(h, "again.pptx", []byte(file.text))
	for _, v := range again.at("totals").([]any) {
		assert.NotContains(t, []any{"drifted", "retired"}, v.(map[string]any)["verdict"])
	}
	assert.Equal(t, 404, p.call("POST", house(h, "/runs/%d/repaints", a.id("line", "run")), o{"theme": 999}).status)
}

// What a house judges by is its keeper's to say, and runs whose time is over go with what is kept of them; the last one stays.
func TestAHouseSaysWhatItJudgesByAndHowLongItKeeps(t *testing.T) {
	s := newSite(t)
	p, h := s.as("keeper"), s.as("keeper").ferries()
	css := []byte("a{color:#E1572C}b{color:#D2572B}")
	before := p.judge(h, "x.css", css)
	require.Equal(t, 200, before.status, before.text)
	rules := p.call("GET", house(h, "/judging"), nil)
	require.Equal(t, o{"tolerance": 3.0, "pictures": 5.0, "neutrals": true, "keepDays": 0.0, "again": true}, rules.json)

	for _, wrong := range []o{{"tolerance": 0, "pictures": 5, "neutrals": true, "keepDays": 0}, {"tolerance": 3, "pictures": 99, "neutrals": true, "keepDays": 0}, {"tolerance": 3, "pictures": 5, "neutrals": true, "keepDays": 2}} {
		assert.Equal(t, 422, p.call("PUT", house(h, "/judging"), wrong).status, wrong)
	}
	tight := o{"tolerance": 0.1, "pictures": 4.5, "neutrals": false, "keepDays": 30}
	assert.Equal(t, 403, s.as("contributor").call("PUT", house(h, "/judging"), tight).status)
	require.Equal(t, 204, p.call("PUT", house(h, "/judging"), tight).status)
	assert.Equal(t, before.at("line", "project"), p.judge(h, "x.css", css).at("line", "project"))
	again := p.judge(h, "x.css", css)
	assert.Equal(t, "off-brand", again.at("colors", 0, "verdict"), "0.3 is beyond 0.1 now")

	project := before.id("line", "project")
	runs := func() int { return len(p.call("GET", house(h, "/projects/%d", project), nil).at("runs").([]any)) }
	require.Equal(t, 3, runs())
	now := s.keeper.Audits.Now()
	require.NoError(t, s.keeper.Audits.Forget(t.Context(), now))
	assert.Equal(t, 3, runs(), "their time is not over")
	require.NoError(t, s.keeper.Audits.Forget(t.Context(), now.AddDate(0, 0, 31)))
	assert.Equal(t, 1, runs())
	assert.Equal(t, 404, p.call("GET", house(h, "/audits/%d", before.id("line", "id")), nil).status)
	assert.Equal(t, 200, p.call("GET", house(h, "/audits/%d", again.id("line", "id")), nil).status)
}

// many puts files into a project in one upload: pairs of a path and what it holds, in their order.
func (p *person) many(h, project int64, files ...string) answer {
	return p.form("POST", house(h, "/projects/%d/files/many", project), func(w *multipart.Writer) {
		for i := 0; i < len(files); i += 2 {
			require.NoError(p.t, w.WriteField("path", files[i]))
			part, err := w.CreateFormFile("file", "x")
			require.NoError(p.t, err)
			_, _ = part.Write([]byte(files[i+1]))
		}
	})
}

// A folder comes in by the hundred. What is not read stands in the project and in its run with the reason, and a full project takes replacements.
func TestAFolderComesIn(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	id := p.call("POST", house(h, "/projects"), o{"name": "Site"}).id("id")
	a := p.many(h, id, "site/a.css", "a{color:#E1572C}", "site/notes.xyz", "\x00\x01\x02", "site/a.css", "a{color:#E2572B}", "..", "a{}")
	require.Equal(t, 200, a.status, a.text)
	require.Len(t, a.json, 3, "the later of two with one path counts")
	assert.Equal(t, "site/a.css", a.at(0, "path"))
	assert.Contains(t, a.at(1, "why"), "of a kind that is not read")
	assert.Equal(t, "it has no usable name", a.at(2, "why"))
	run := p.asked(h, p.call("POST", house(h, "/projects/%d/runs", id), nil))
	found := p.call("GET", house(h, "/runs/%s", run), nil)
	assert.EqualValues(t, 1, found.at("run", "score"), "the file that came last was judged")
	assert.Equal(t, "site/notes.xyz", found.at("unread", 0, "path"))
	assert.Equal(t, a.at(1, "why"), found.at("unread", 0, "why"))

	// Too large to be sent, and said; a size that could have been sent, or a file without a path, is refused whole.
	a = p.form("POST", house(h, "/projects/%d/files/many", id), func(w *multipart.Writer) {
		_ = w.WriteField("path", "film.mov")
		_ = w.WriteField("size", "900000000")
	})
	assert.Equal(t, "it has 900.0 MB; at most 104.9 MB are read", a.at(0, "why"), a.text)
	for _, bad := range [][]string{{"path", "a.css", "size", "12"}, {"file", "a{}"}, {"size", "900000000"}, {"path", "a.css"}, {}} {
		a = p.form("POST", house(h, "/projects/%d/files/many", id), func(w *multipart.Writer) {
			for i := 0; i < len(bad); i += 2 {
				_ = w.WriteField(bad[i], bad[i+1])
			}
		})
		assert.Equal(t, 422, a.status, "%v: %s", bad, a.text)
	}

	// 2,000 files and not one more, but another one in the place of each.
	for from := 0; from < 2000; from += 200 {
		var files []string
		for i := range 200 {
			files = append(files, fmt.Sprintf("many/%d.css", from+i), "a{color:#E2572B}")
		}
		require.Equal(t, 200, p.many(h, id, files...).status)
	}
	over := make([]string, 402)
	for i := range over {
		over[i] = "a.css"
	}
	assert.Equal(t, 422, p.many(h, id, over...).status, "at most 200 at once")
	a = p.many(h, id, "many/0.css", "a{color:#112233}", "one/more.css", "a{color:#112233}", "many/1999.css", "a{}")
	assert.Nil(t, a.at(0, "why"))
	assert.Equal(t, "the project has 2000 files; no more are taken", a.at(1, "why"))
	assert.Equal(t, "the project has 2000 files; no more are taken", a.at(2, "why"), "it was among those that did not find room")
	assert.Equal(t, 422, p.uploadBy("POST", house(h, "/projects/%d/files?path=two/more.css", id), "x", []byte("a{}")).status)
	assert.Equal(t, 201, p.uploadBy("POST", house(h, "/projects/%d/files?path=many/1.css", id), "x", []byte("a{}")).status)

	// Taken out, put back; and not put back over another one.
	assert.Equal(t, 204, p.call("DELETE", house(h, "/projects/%d/files?path=site/a.css", id), nil).status)
	assert.Equal(t, 404, p.call("DELETE", house(h, "/projects/%d/files?path=site/a.css", id), nil).status)
	assert.Equal(t, 204, p.call("POST", house(h, "/projects/%d/files/restore?path=site/a.css", id), nil).status)
	assert.Equal(t, 409, p.call("POST", house(h, "/projects/%d/files/restore?path=site/a.css", id), nil).status)
	require.NoError(t, s.keeper.People.AddMember(t.Context(), "foreign@bakery.example", "Foreigner", demo.Password, "Pellow Lane Bakery", keep.RoleKeeper))
	assert.Equal(t, 404, s.signIn("foreign@bakery.example").call("POST", house(h, "/projects/%d/files/restore?path=site/a.css", id), nil).status)
}

// What repainting made goes into the project as its next run, but not over a file that came meanwhile.
func TestRepaintedFilesAreTakenIntoTheirProject(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	id := p.call("POST", house(h, "/projects"), o{"name": "Site"}).id("id")
	require.Equal(t, 200, p.many(h, id, "a.css", "a{color:#E1572C}", "b.css", "b{color:#E1572C;fill:#00A34F}").status)
	run := p.asked(h, p.call("POST", house(h, "/projects/%d/runs", id), nil))
	both := p.asked(h, p.call("POST", house(h, "/runs/%s/repaints", run), o{}))
	dry := p.asked(h, p.call("POST", house(h, "/runs/%s/repaints", run), o{"dry": true}))
	assert.Equal(t, 409, p.call("POST", house(h, "/repaints/%s/take", dry), nil).status)
	assert.Equal(t, 403, s.as("reader").call("POST", house(h, "/repaints/%s/take", both), nil).status)
	next := p.call("GET", house(h, "/runs/%s", p.asked(h, p.call("POST", house(h, "/repaints/%s/take", both), nil))), nil)
	assert.EqualValues(t, 2, next.at("run", "number"))
	assert.EqualValues(t, 1, next.at("run", "findings"), "what drifted is right; the green is left")
	trail := s.as("keeper").call("GET", house(h, "/trail"), nil).text
	for _, said := range []string{"repainted run 1 of Site", "tried what repainting run 1 of Site would change", "took Site, repainted.zip into its project", "judged the project Site"} {
		assert.Contains(t, trail, said)
	}
	a := p.call("POST", house(h, "/repaints/%s/take", both), nil)
	assert.Equal(t, 409, a.status, a.text)
	assert.Contains(t, a.text, "was replaced in the project after it was judged")
}

// A file that nobody touched is off since the library moved: the comparison says of which color, and the plan that follows comes from there.
func TestTheLibraryMovesAndTheFileDoesNot(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	id := k.call("POST", house(h, "/projects"), o{"name": "Site"}).id("id")
	hexOf := func(name string) string {
		list := k.call("GET", house(h, "/colors"), nil)
		for i := range list.at("colors").([]any) {
			if list.at("colors", i, "name") == name {
				return list.at("colors", i, "hex").(string)
			}
		}
		t.Fatal(name)
		return ""
	}
	amend := func(name, hex string) {
		id := k.colorID(h, name)
		c := k.call("GET", house(h, "/colors/%d", id), nil)
		a := k.call("PATCH", house(h, "/colors/%d", id), o{"version": c.at("version"), "value": hex})
		require.Equal(t, 200, a.status, a.text)
	}
	buoy, lamp, fog := hexOf("Buoy"), hexOf("Lamp"), hexOf("Fog")
	require.Equal(t, 200, k.many(h, id, "a.css", "a{color:"+buoy+";fill:"+buoy+"}b{color:"+lamp+"}c{color:"+fog+"}").status)
	first := k.asked(h, k.call("POST", house(h, "/projects/%d/runs", id), nil))
	none := k.call("GET", house(h, "/plans/proposal?run=%s", first), nil)
	assert.Empty(t, none.json, none.text)

	// Buoy becomes another color by way of a third, and Lamp takes its place; Fog stays.
	amend("Buoy", "#334455")
	amend("Buoy", "#445566")
	amend("Lamp", buoy)
	second := k.asked(h, k.call("POST", house(h, "/projects/%d/runs", id), nil))
	a := k.call("GET", house(h, "/runs/%s/changes?since=%s", second, first), nil)
	require.Equal(t, 200, a.status, a.text)
	require.Len(t, a.at("fresh"), 1, a.text) // what was Buoy counts as Lamp now: on-brand, which the plan still knows better
	assert.Equal(t, []any{lamp, "on-brand", "Lamp", "amended", 1.0}, []any{a.at("fresh", 0, "found"), a.at("fresh", 0, "was"), a.at("fresh", 0, "of"), a.at("fresh", 0, "since"), a.at("fresh", 0, "count")})

	proposed := func(run string) map[string]string {
		plan := k.call("GET", house(h, "/plans/proposal?run=%s", run), nil)
		steps := map[string]string{}
		for i := range plan.json.([]any) {
			steps[plan.at(i, "from").(string)] = plan.at(i, "to").(string)
		}
		return steps
	}
	assert.Equal(t, map[string]string{buoy: "Buoy", "#334455": "Buoy", lamp: "Lamp"}, proposed(first))
	plan := k.call("GET", house(h, "/plans/proposal?run=%s", first), nil)
	assert.Contains(t, k.call("GET", house(h, "/plans/proposal?since=2020-01-01"), nil).text, `{"from":"#D9482B","to":"Buoy"}`, "what was retired since then too")
	assert.Empty(t, k.call("GET", house(h, "/plans/proposal?since=2999-01-01"), nil).json)
	assert.Equal(t, 403, s.as("reader").call("GET", house(h, "/plans/proposal?since=2020-01-01"), nil).status)
	made := k.asked(h, k.call("POST", house(h, "/runs/%s/repaints", second), o{"colors": plan.json}))
	text := strings.ToLower(k.call("GET", house(h, "/repaints/%s/file", made), nil).text)
	assert.Equal(t, strings.ToLower("a{color:#445566;fill:#445566}b{color:"+buoy+"}c{color:"+fog+"}"), text)

	// A value that another color has all along is nobody's to say.
	amend("Fog", "#778899")
	amend("Fog", "#99AABB")
	amend("Lamp", "#778899")
	assert.Equal(t, map[string]string{fog: "Fog", buoy: "Lamp"}, proposed(second), "what Fog was for a moment is Lamp now")
	amend("Lamp", lamp)
	amend("Ice Ramp", buoy)
	third := k.asked(h, k.call("POST", house(h, "/projects/%d/runs", id), nil))
	assert.Empty(t, proposed(third))
	amend("Lamp", "#010203")
	amend("Lamp", lamp)
	assert.Equal(t, map[string]string{"#010203": "Lamp"}, proposed(third), "it came back")
	amend("Ice Ramp", "#010203")
	assert.Equal(t, map[string]string{buoy: "Ice Ramp"}, proposed(third), "what it was for a moment is another color's now")
}

// A form of a report that is not there is none to find, with those that are.
func TestAReportInAFormThatIsNotThere(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	a := k.judge(h, "a.css", []byte(".a{color:#E1572C}"))
	require.Equal(t, 200, a.status, a.text)
	for _, path := range []string{house(h, "/runs/%d/report/docx", a.id("line", "run")), house(h, "/audits/%d/report/docx", a.id("line", "id"))} {
		got := k.call("GET", path, nil)
		assert.Equal(t, 404, got.status, got.text)
		assert.Contains(t, got.at("title"), "there are text, json, sarif, junit, csv, html")
	}
}

// What was made before a color was amended says with which edition, and all of it is one cause; a value that no edition had says until when it was.
func TestFindingsSayWithWhichEditionTheyWereMade(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	amend := func(name, value string) {
		id := p.colorID(h, name)
		version := p.call("GET", house(h, "/colors/%d", id), nil).at("version")
		a := p.call("PATCH", house(h, "/colors/%d", id), o{"version": version, "value": value})
		require.Equal(t, 200, a.status, a.text)
	}
	amend("Buoy", "#C23B12")
	amend("Lamp", "#F0C020")
	amend("Slate Quay", "#3B484B")
	amend("Slate Quay", "#40504B") // between two editions
	a := p.judge(h, "old.css", []byte("a{color:#E2572B}b{color:#F2B632}c{color:#F2B632}d{color:#3B484B}"))
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{o{"text": "made with edition 3 of Safety film", "colors": 2., "uses": 3.}}, []any{a.at("causes", 0)})
	said := map[any]any{}
	for i := range 3 {
		said[a.at("colors", i, "hex")] = a.at("colors", i, "reason")
	}
	today := time.Now().UTC().Format("January 2, 2006")
	assert.Equal(t, map[any]any{"#E2572B": "Buoy, as edition 3 of Safety film had it", "#F2B632": "Lamp, as edition 3 of Safety film had it", "#3B484B": "Slate Quay, as it was until " + today}, said)
}
