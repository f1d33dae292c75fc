package server_test

import (
	"bytes"
	"encoding/base64"
	"image"
	"image/color"
	"image/png"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/office"
)

// Where a found color stands is seen: on the page of a PDF with boxes around it, in a picture and a drawing with all else in gray, in the lines of a text.
func TestWhereAFoundColorStandsIsSeen(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	picture := func(v answer) image.Image {
		text, ok := strings.CutPrefix(v.at("picture").(string), "data:image/png;base64,")
		require.True(t, ok)
		data, err := base64.StdEncoding.DecodeString(text)
		require.NoError(t, err)
		img, err := png.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		return img
	}
	gray := func(c color.Color) bool { r, g, b, _ := c.RGBA(); return r == g && g == b }

	poster := demo.PrintedPoster()
	a := p.judge(h, poster.Name, poster.Data).id("line", "id")
	found := p.call("GET", house(h, "/audits/%d", a), nil).at("colors").([]any)
	whole := p.call("GET", house(h, "/audits/%d/view", a), nil)
	assert.Equal(t, "pages", whole.at("form"), whole.text)
	marked := map[string]bool{}
	for _, b := range whole.at("boxes").([]any) {
		marked[b.(o)["key"].(string)] = true
	}
	after := p.call("GET", house(h, "/audits/%d/view?after=true", a), nil)
	assert.Equal(t, whole.at("boxes"), after.at("boxes"))
	assert.NotEqual(t, whole.at("picture"), after.at("picture"))
	assert.EqualValues(t, 0, after.at("moved"), "nothing else moves")
	assert.Greater(t, after.at("others"), 100_000.)
	planned := func(by *person, step o) answer {
		return by.call("POST", house(h, "/audits/%d/view", a), o{"page": 1, "colors": []o{step}})
	}
	left := planned(p, o{"from": "#E1572C", "leave": true})
	assert.Equal(t, whole.at("picture"), left.at("picture"), "what a plan leaves is as it was")
	other := planned(s.as("reader"), o{"from": "#E1572C", "to": "Deep Sound"})
	require.Equal(t, 200, other.status, other.text)
	assert.EqualValues(t, 0, other.at("moved"))
	now, was, turned := picture(other), picture(whole), 0
	for y := 0; y < now.Bounds().Dy(); y += 3 {
		for x := 0; x < now.Bounds().Dx(); x += 3 {
			if now.At(x, y) != was.At(x, y) && color.RGBAModel.Convert(now.At(x, y)) == (color.RGBA{0x0E, 0x3A, 0x53, 255}) {
				turned++
			}
		}
	}
	assert.Greater(t, turned, 100, "the page is painted by the plan, not by what is proposed")
	// What is on-brand and turned all the same is a found color too, and a file without findings shows what its plan makes of it.
	turnedToo := planned(p, o{"from": "#0E3A53", "to": "Buoy"})
	require.Equal(t, 200, turnedToo.status, turnedToo.text)
	assert.EqualValues(t, 0, turnedToo.at("moved"))
	assert.Greater(t, len(turnedToo.at("boxes").([]any)), len(whole.at("boxes").([]any)))
	// What a repaint made is shown from its own file, whatever the library says by then.
	run := p.call("GET", house(h, "/audits/%d", a), nil).id("line", "run")
	made := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run), o{"audit": a, "colors": []o{{"from": "#E1572C", "to": "Deep Sound"}}}))
	file := p.call("GET", house(h, "/repaints/%s", made), nil)
	assert.EqualValues(t, a, file.at("files", 0, "audit"))
	assert.Equal(t, "pdf", file.at("files", 0, "kind"))
	keeper := s.as("keeper")
	amend := func(value string) {
		deep := house(h, "/colors/%d", keeper.colorID(h, "Deep Sound"))
		require.Equal(t, 200, keeper.call("PATCH", deep, o{"version": keeper.call("GET", deep, nil).at("version"), "value": value}).status)
	}
	amend("#0E3A5F")
	as := p.call("GET", house(h, "/audits/%d/view?repaint=%s", a, made), nil)
	require.Equal(t, 200, as.status, as.text)
	assert.Equal(t, other.at("picture"), as.at("picture"))
	assert.EqualValues(t, 0, as.at("moved"))
	amend("#0E3A53")
	dry := p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run), o{"dry": true}))
	assert.Equal(t, 409, p.call("GET", house(h, "/audits/%d/view?repaint=%s", a, dry), nil).status, "nothing was written")
	assert.Equal(t, 404, p.call("GET", house(h, "/audits/%d/view?repaint=999", a), nil).status)
	assert.Equal(t, 422, planned(p, o{"from": "#E1572C", "to": "No such color"}).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/audits/%d/view", a), o{"colors": []o{}}).status)
	assert.Equal(t, 401, planned(s.nobody(), o{"from": "#E1572C", "leave": true}).status)
	shown := 0
	for _, c := range found {
		key := c.(o)["key"].(string)
		v := p.call("GET", house(h, "/audits/%d/view?key=%s", a, url.QueryEscape(key)), nil)
		require.Equal(t, 200, v.status, v.text)
		boxes := v.at("boxes").([]any)
		if len(boxes) == 0 {
			assert.NotNil(t, v.at("why"), key)
			continue
		}
		shown++
		assert.Equal(t, c.(o)["verdict"] != "on-brand", marked[key], "%s is marked on the page as it is, as what is not on-brand: %v", key, marked)
		assert.Contains(t, v.at("on"), v.at("page"))
		img := picture(v)
		in := func(x, y int) bool {
			for _, b := range boxes {
				b := b.(o)
				fx, fy := (float64(x)+.5)/float64(img.Bounds().Dx()), (float64(y)+.5)/float64(img.Bounds().Dy())
				if fx >= b["x"].(float64)-1e-3 && fy >= b["y"].(float64)-1e-3 && fx <= b["x"].(float64)+b["width"].(float64)+1e-3 && fy <= b["y"].(float64)+b["height"].(float64)+1e-3 {
					return true
				}
			}
			return false
		}
		for y := 0; y < img.Bounds().Dy(); y += 7 {
			for x := 0; x < img.Bounds().Dx(); x += 7 {
				if !in(x, y) {
					require.True(t, gray(img.At(x, y)), "%s: nothing but the color has one (%d, %d)", key, x, y)
				}
			}
		}
	}
	assert.GreaterOrEqual(t, shown, len(found)-2, "of %d colors; spot inks cannot be taken out", len(found))
	assert.Equal(t, 404, p.call("GET", house(h, "/audits/%d/view?key=nothing", a), nil).status)
	assert.Equal(t, "words", p.call("GET", house(h, "/audits/%d/view?page=99", a), nil).at("form"))

	styles := []byte(":root { --call: #E3592D }\n\n\n\n\n.a { color: var(--call) }\n.b { fill: #0E3A53 }\n" + strings.Repeat(" ", 900) + ".c { color: #E3592D }\n")
	a = p.judge(h, "app.css", styles).id("line", "id")
	assert.Equal(t, "lines", p.call("GET", house(h, "/audits/%d/view", a), nil).at("form"))
	lines := p.call("GET", house(h, "/audits/%d/lines?key=%%23E3592D", a), nil)
	require.Equal(t, 200, lines.status, lines.text)
	var numbers []any
	for _, l := range lines.at("lines").([]any) {
		numbers = append(numbers, l.(o)["number"])
	}
	assert.Equal(t, []any{1., 2., 3., 4., 5., 6., 7., 8.}, numbers)
	assert.Equal(t, []any{o{"key": "#E3592D", "column": 17., "value": "#E3592D"}}, lines.at("lines", 0, "marks"))
	assert.Contains(t, lines.at("lines", 7, "text"), ".c { color: #E3592D }")
	assert.Greater(t, lines.at("lines", 7, "before"), 500.)
	assert.Len(t, p.call("GET", house(h, "/audits/%d/lines?from=8", a), nil).at("lines"), 1)

	deck := demo.TimetableDeck()
	a = p.judge(h, deck.Name, deck.Data).id("line", "id")
	if !office.Present() {
		words := p.call("GET", house(h, "/audits/%d/view", a), nil)
		assert.Equal(t, "words", words.at("form"))
		assert.Contains(t, words.at("why"), "a presentation")
	} else {
		slide := p.call("GET", house(h, "/audits/%d/view?page=3&after=true", a), nil)
		require.Equal(t, "pages", slide.at("form"), slide.text)
		assert.EqualValues(t, 0, slide.at("moved"), "nothing else on the slide moves")
		keys := map[string]bool{}
		for _, b := range slide.at("boxes").([]any) {
			keys[b.(o)["key"].(string)] = true
		}
		assert.True(t, keys["#E1572C"], "%v", keys)
		arrow := p.call("GET", house(h, "/audits/%d/view?key=%%23E1572C", a), nil)
		assert.Equal(t, []any{3.}, arrow.at("on"))
		assert.EqualValues(t, 3, arrow.at("page"))
		assert.NotEmpty(t, arrow.at("boxes"))
	}
	assert.Equal(t, 404, p.call("GET", house(h, "/audits/%d/lines", a), nil).status)

	a = p.judge(h, "boat.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 2"><path fill="#E3592D" d="M0 0h2v2H0z"/><path fill="#0E3A53" d="M2 0h2v2H2z"/></svg>`)).id("line", "id")
	drawing := p.call("GET", house(h, "/audits/%d/view?key=%%23E3592D", a), nil)
	assert.Equal(t, "drawing", drawing.at("form"))
	svg, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(drawing.at("picture").(string), "data:image/svg+xml;base64,"))
	require.NoError(t, err)
	assert.Contains(t, string(svg), "#E3592D")
	assert.NotContains(t, string(svg), "#0E3A53")

	page := p.call("GET", house(h, "/audits/%d/view", p.judge(h, "pier.html", []byte(`<p bgcolor="#E3592D">a</p><link rel=stylesheet href=a.css>`)).id("line", "id")), nil)
	assert.Equal(t, "drawing", page.at("form"))
	for field, has := range map[string]string{"picture": "#E3592D", "coded": "bgcolor"} {
		text, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(page.at(field).(string), "data:text/html;base64,"))
		require.NoError(t, err)
		assert.Contains(t, string(text), has)
	}

	img := image.NewNRGBA(image.Rect(0, 0, 40, 20))
	for i := range 800 {
		c := color.NRGBA{0xE3, 0x59, 0x2D, 255}
		if i%40 >= 20 {
			c = color.NRGBA{0x0E, 0x3A, 0x53, 255}
		}
		img.Set(i%40, i/40, c)
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	a = p.judge(h, "boat.png", b.Bytes()).id("line", "id")
	seen := picture(p.call("GET", house(h, "/audits/%d/view?key=%%23E3592D", a), nil))
	assert.False(t, gray(seen.At(5, 5)))
	assert.True(t, gray(seen.At(30, 5)))
	assert.False(t, gray(picture(p.call("GET", house(h, "/audits/%d/view", a), nil)).At(30, 5)))
	before := p.call("GET", house(h, "/audits/%d/view", a), nil)
	becomes := p.call("GET", house(h, "/audits/%d/view?after=true", a), nil)
	require.Equal(t, 200, becomes.status, becomes.text)
	assert.Equal(t, before.at("boxes"), becomes.at("boxes"))
	at := func(v answer) color.Color { return color.NRGBAModel.Convert(picture(v).At(5, 5)) }
	assert.Equal(t, color.NRGBA{0xE3, 0x59, 0x2D, 255}, at(before))
	assert.Equal(t, color.NRGBA{0xE2, 0x57, 0x2B, 255}, at(becomes), "as it would be repainted")
	run = p.call("GET", house(h, "/audits/%d", a), nil).id("line", "run")
	made = p.asked(h, p.call("POST", house(h, "/runs/%d/repaints", run), o{"audit": a, "colors": []o{{"from": "#E3592D", "to": "Lamp"}}}))
	assert.Equal(t, color.NRGBA{0xF2, 0xB6, 0x32, 255}, at(p.call("GET", house(h, "/audits/%d/view?repaint=%s", a, made), nil)), "as it was repainted")

	// Nobody of another house sees any of it.
	k := s.as("keeper")
	bakery := k.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, 404, k.call("GET", house(bakery, "/audits/%d/view", a), nil).status)
	assert.Equal(t, 404, k.call("GET", house(bakery, "/audits/%d/lines", a), nil).status)
}

// What an amendment leaves behind is known before: how often a color is used, in which files of which projects, by their newest runs.
func TestHowOftenAColorIsUsed(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	buoy := p.colorID(h, "Buoy")
	none := p.call("GET", house(h, "/colors/%d/uses", buoy), nil)
	require.Equal(t, 200, none.status, none.text)
	assert.EqualValues(t, 0, none.at("uses"))
	a := p.judge(h, "app.css", []byte(".a{color:#E2572B}.b{fill:#E2572B}.c{color:#E1572C}"))
	p.judge(h, "boat.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><path fill="#E2572B"/></svg>`))
	u := p.call("GET", house(h, "/colors/%d/uses", buoy), nil)
	assert.EqualValues(t, 3, u.at("uses"), u.text)
	assert.EqualValues(t, 2, u.at("projects"))
	assert.EqualValues(t, 2, u.at("files"))
	assert.Equal(t, "app.css", u.at("all", 0, "path"))
	assert.Equal(t, a.at("line", "id"), u.at("all", 0, "audit"))
	again := p.judged(h, p.call("POST", house(h, "/audits/%d/again", a.id("line", "id")), nil))
	u = p.call("GET", house(h, "/colors/%d/uses", buoy), nil)
	assert.EqualValues(t, 3, u.at("uses"), "a run counts once, the newest")
	assert.Equal(t, again.at("line", "id"), u.at("all", 0, "audit"))

	k := s.as("keeper")
	bakery := k.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, 404, k.call("GET", house(bakery, "/colors/%d/uses", buoy), nil).status)
	for _, c := range k.call("GET", house(h, "/colors"), nil).at("colors").([]any) {
		if c := c.(o); c["status"] == "draft" {
			assert.Equal(t, 404, s.as("reader").call("GET", house(h, "/colors/%v/uses", c["id"]), nil).status, "a proposed color is not the readers'")
		}
	}
}

// The pages of a TIFF and the moments of a video are leafed through: what was found is marked on the one where it shows.
func TestFramesAndPagesAreSeen(t *testing.T) {
	for _, program := range []string{"ffmpeg", "tiffcp"} {
		if _, err := exec.LookPath(program); err != nil {
			require.Empty(t, os.Getenv("CI"), "%s is not installed", program)
			t.Skipf("%s is not installed", program)
		}
	}
	dir := t.TempDir()
	run := func(name string, args ...string) {
		c := exec.Command(name, args...)
		c.Dir = dir
		out, err := c.CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	for _, hex := range []string{"0E3A53", "7733AA"} {
		run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=0x"+hex+":s=160x90:d=0.1,format=rgb24,drawbox=40:30:40:30:color=0xFFFFFF:t=fill", "-frames:v", "1", hex+".tif")
	}
	run("tiffcp", "0E3A53.tif", "7733AA.tif", "0E3A53.tif", "pages.tif")
	run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=0x0E3A53:s=160x90:d=2:r=10,format=rgb24", "-f", "lavfi", "-i",
		"color=0x0E3A53:s=160x90:d=2:r=10,format=rgb24,drawbox=80:0:80:90:color=0x7733AA:t=fill", "-filter_complex", "[0][1]concat=n=2", "-c:v", "ffv1", "-pix_fmt", "yuv444p", "film.mkv")
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	for name, c := range map[string]struct {
		pages int
		names any
		x     float64 // where the found color begins, and with 160 pixels ends
	}{"pages.tif": {3, nil, 0}, "film.mkv": {2, []any{"0:00", "0:02"}, 0.5}} {
		data, err := os.ReadFile(dir + "/" + name)
		require.NoError(t, err)
		a := p.judge(h, name, data).id("line", "id")
		view := func(more string) answer {
			v := p.call("GET", house(h, "/audits/%d/view%s", a, more), nil)
			require.Equal(t, 200, v.status, v.text)
			assert.Equal(t, "pages", v.at("form"), v.text)
			assert.EqualValues(t, c.pages, v.at("pages"), name)
			return v
		}
		key := ""
		for _, found := range p.call("GET", house(h, "/audits/%d", a), nil).at("colors").([]any) {
			if found.(o)["verdict"] == "off-brand" {
				key = found.(o)["key"].(string)
			}
		}
		require.NotEmpty(t, key, name)
		assert.Empty(t, view("").at("boxes"), "%s: nothing to mark on the first", name)
		second := view("?page=2")
		assert.Equal(t, c.names, second.at("names"))
		require.Len(t, second.at("boxes"), 1, name)
		assert.Equal(t, key, second.at("boxes", 0, "key"))
		assert.InDelta(t, c.x, second.at("boxes", 0, "x"), 0.02, name)
		assert.InDelta(t, 1-c.x, second.at("boxes", 0, "width"), 0.02, name)
		alone := view("?key=" + url.QueryEscape(key))
		assert.EqualValues(t, 2, alone.at("page"), "the first on which it stands")
		assert.Equal(t, []any{2.}, alone.at("on"))
		assert.NotEqual(t, second.at("picture"), alone.at("picture"))
	}
}

// A page of the web has the style sheets of its project in it that it names by their places, and none of another project or run.
func TestAPageIsSeenInTheSheetsOfItsProject(t *testing.T) {
	s := newSite(t)
	p := s.as("contributor")
	h := p.ferries()
	other := p.project(h, "Other", map[string]string{"css/other.css": "p{color:#111213}"})
	p.next(h, other, "")
	id := p.project(h, "Site", map[string]string{
		"pages/pier.html": `<link rel="stylesheet" href="../css/site.css?v=2"><link href=/css/other.css rel=stylesheet><link rel=stylesheet href="../css/odd.css"><link rel=stylesheet href="../css/site.css"><p bgcolor="#E3592D">a</p>`,
		"css/site.css":    ".lead{color:#0E3A53}", "css/odd.css": "/* </style><script> */p{color:#212223}"})
	for _, a := range p.next(h, id, "").at("files").([]any) {
		if f := a.(o); f["kind"] == "html" {
			v := p.call("GET", house(h, "/audits/%v/view", f["id"]), nil)
			for _, field := range []string{"picture", "coded"} {
				text, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(v.at(field).(string), "data:text/html;base64,"))
				require.NoError(t, err)
				assert.Equal(t, 1, strings.Count(string(text), "<style>.lead{color:#0E3A53}</style>"), field)
				assert.NotContains(t, string(text), "#111213")
				assert.NotContains(t, string(text), "<script>")
			}
			alone := p.call("GET", house(h, "/audits/%v/view?key=%%23E3592D", f["id"]), nil)
			assert.Contains(t, alone.at("why"), "without its style sheets")
			return
		}
	}
	t.Fatal("there is no page")
}
