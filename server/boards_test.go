package server_test

import (
	"bytes"
	"fmt"
	"hash/crc32"
	"html"
	"image"
	"image/png"
	"io"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"

	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"
)

func paintBody(name, hex string) o { return o{"name": name, "hex": hex} }

// boardBody is a board of two options; the second has a color that the library does not know.
func boardBody() o {
	option := func(ground, kind o) o {
		return o{"ground": ground, "type": kind, "accents": []any{paintBody("Lamp", "#F2B632")}, "typeface": "spectral", "size": "medium", "logo": false}
	}
	return o{"title": "Winter", "intro": "Choose one.", "logo": "", "texts": o{"word": "", "headline": "Winter crossings", "lines": "Eight sailings a day.", "small": "Weather permitting.", "button": "Buy"},
		"options": []any{option(paintBody("Deep Sound", "#0E3A53"), paintBody("Hull White", "#F7F5F0")), option(paintBody("Night Tide", "#101820"), paintBody("Fog", "#C9D1D3"))}}
}

func with(body o, key string, value any) o {
	out := maps.Clone(body)
	out[key] = value
	return out
}

func TestABoardAndItsSheets(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/boards"), boardBody())
	require.Equal(t, 201, a.status, a.text)
	one := house(h, "/boards/%d", a.id("id"))
	assert.Equal(t, true, a.at("parts", 0, 0, "passes"))

	// Changed by two: the second is told by whom.
	a = p.call("PUT", one, with(with(boardBody(), "version", 1), "title", "Winter, two"))
	require.Equal(t, 200, a.status, a.text)
	a = p.call("PUT", one, with(boardBody(), "version", 1))
	assert.Equal(t, 409, a.status)
	assert.Contains(t, a.text, "Keeper")
	for says, change := range map[string]func(o){
		"no option \\\"huge\\\"|no size": func(b o) {
			b["options"].([]any)[0].(o)["size"] = "medium"
			b["options"].([]any)[0].(o)["typeface"] = "own-99"
		},
		"title":  func(b o) { b["title"] = " " },
		"#12345": func(b o) { b["options"].([]any)[0].(o)["ground"] = paintBody("x", "#12345") },
		"logo":   func(b o) { b["logo"] = "none" },
	} {
		bad := with(boardBody(), "version", 2)
		change(bad)
		a := p.call("PUT", one, bad)
		assert.Contains(t, []int{422, 404}, a.status, "%s: %s", says, a.text)
	}
	assert.Equal(t, "Winter, two", p.call("GET", one, nil).at("content", "title"), "nothing of it was kept")

	// A sheet is fixed, and stays what it was when the board goes on.
	a = p.call("POST", one+"/sheets", o{"version": 2})
	require.Equal(t, 201, a.status, a.text)
	assert.EqualValues(t, 1, a.at("sheets", 0, "number"))
	file := p.call("GET", one+"/sheets/1/files/pdf", nil)
	require.Equal(t, 200, file.status)
	assert.Equal(t, "application/pdf", file.header.Get("Content-Type"))
	assert.Contains(t, file.header.Get("Content-Disposition"), "Winter, two, sheet 1.pdf")
	picture := p.call("GET", one+"/sheets/1/files/png", nil)
	img, err := png.Decode(strings.NewReader(picture.text))
	require.NoError(t, err)
	assert.Equal(t, 2400, img.Bounds().Dx())
	other := with(boardBody(), "version", 2)
	other["options"] = []any{other["options"].([]any)[1]}
	require.Equal(t, 200, p.call("PUT", one, other).status)
	again := p.call("GET", one+"/sheets/1/files/png", nil)
	assert.Equal(t, picture.text, again.text, "a sheet never changes")
	a = p.call("POST", one+"/sheets", o{"version": 3})
	assert.EqualValues(t, []any{2.0, 1.0}, []any{a.at("sheets", 0, "number"), a.at("sheets", 1, "number")})
	assert.Equal(t, 404, p.call("GET", one+"/sheets/9/files/pdf", nil).status)
	assert.Equal(t, 404, p.call("GET", one+"/sheets/1/files/doc", nil).status)
	a = p.call("DELETE", one, nil)
	assert.Equal(t, 409, a.status)
	assert.Contains(t, a.text, "2 sheets of the board were fixed")

	// A character that the typeface does not have is said before anything is fixed.
	cyrillic := with(boardBody(), "version", 3)
	cyrillic["texts"] = with(cyrillic["texts"].(o), "headline", "日本")
	require.Equal(t, 200, p.call("PUT", one, cyrillic).status)
	a = p.call("POST", one+"/sheets", o{"version": 4})
	assert.Equal(t, 422, a.status)
	assert.Contains(t, a.text, "the typeface Spectral has no “日”, “本”")
	cyrillic["version"], cyrillic["options"] = 4, []any{}
	require.Equal(t, 200, p.call("PUT", one, cyrillic).status)
	assert.Contains(t, p.call("POST", one+"/sheets", o{"version": 5}).text, "no option to choose from")

	// Another house's keeper does not find it; a contributor works on it; a reader does not.
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, 404, p.call("GET", strings.Replace(one, house(h, ""), house(bakery, ""), 1), nil).status)
	assert.Equal(t, 200, s.as("contributor").call("GET", one, nil).status)
	assert.Equal(t, 403, s.as("reader").call("GET", one, nil).status)
	assert.Equal(t, 403, s.as("contributor").call("POST", one+"/sheets/1/links", o{}).status, "only a keeper shows something outside")

	list := p.call("GET", house(h, "/boards"), nil)
	assert.EqualValues(t, 2, list.at(0, "sheets"))
	fresh := p.call("POST", house(h, "/boards"), with(boardBody(), "options", []any{}))
	assert.Equal(t, 204, p.call("DELETE", house(h, "/boards/%d", fresh.id("id")), nil).status)
}

func TestWhatBecameOfABoardsColors(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	body := boardBody()
	lamp := p.colorID(h, "Lamp")
	added := p.call("POST", house(h, "/tray"), o{"text": "Gone Tomorrow #334455"})
	gone := p.call("POST", house(h, "/tray/admit"), o{"items": []int64{added.id("tray", 0, "id")}}).id("colors", 0, "id")
	body["options"].([]any)[0].(o)["accents"] = []any{with(paintBody("Lamp", "#F2B632"), "id", lamp)}
	body["options"].([]any)[1].(o)["ground"] = with(paintBody("Gone Tomorrow", "#334455"), "id", gone)
	body["options"].([]any)[1].(o)["accents"] = []any{with(paintBody("Old Funnel", "#D9482B"), "id", p.colorID(h, "Old Funnel"))}
	board := p.call("POST", house(h, "/boards"), body).id("id")
	p.call("PATCH", house(h, "/colors/%d", lamp), o{"version": 1, "value": "#F0B030"})
	require.Equal(t, 204, p.call("DELETE", house(h, "/colors/%d?version=1", gone), nil).status)
	a := p.call("GET", house(h, "/boards/%d", board), nil)
	assert.Equal(t, []any{"Lamp is #F0B030 now, not #F2B632."}, a.at("notes", 0))
	assert.Equal(t, []any{"Gone Tomorrow is no longer in the library.", "Old Funnel is retired; use Buoy."}, a.at("notes", 1))

	// The choice of an option with a retired color says what to do; nothing is half-done.
	require.Equal(t, 201, p.call("POST", house(h, "/boards/%d/sheets", board), o{"version": 1}).status)
	sets := len(p.call("GET", house(h, "/sets"), nil).json.([]any))
	a = p.call("POST", house(h, "/boards/%d/sheets/1/adopt", board), o{"choice": 1})
	assert.Equal(t, 409, a.status)
	assert.Contains(t, a.text, "Old Funnel is retired now")
	assert.Len(t, p.call("GET", house(h, "/sets"), nil).json, sets)
	assert.NotContains(t, p.call("GET", house(h, "/colors"), nil).text, "Gone Tomorrow")
}

func TestTheChosenOptionBecomesASet(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	board := p.call("POST", house(h, "/boards"), boardBody()).id("id")
	require.Equal(t, 201, p.call("POST", house(h, "/boards/%d/sheets", board), o{"version": 1}).status)
	a := p.call("POST", house(h, "/boards/%d/sheets/1/adopt", board), o{"choice": 1})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"Winter, option B", []any{"Night Tide"}, 3.0}, []any{a.at("set"), a.at("admitted"), a.at("rules")})
	sets := p.call("GET", house(h, "/sets"), nil)
	last := len(sets.json.([]any)) - 1
	assert.Equal(t, []any{"Winter, option B", "Night Tide", "Fog", "Lamp"},
		[]any{sets.at(last, "name"), sets.at(last, "colors", 0, "name"), sets.at(last, "colors", 1, "name"), sets.at(last, "colors", 2, "name")})
	rules := p.call("GET", house(h, "/pairs"), nil).text
	assert.Contains(t, rules, "may stand on Night Tide as any text")
	sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Night Tide")), nil)
	assert.Contains(t, sheet.text, "from sheet 1 of the board Winter")
	a = p.call("POST", house(h, "/boards/%d/sheets/1/adopt", board), o{"choice": 1})
	assert.Equal(t, "Winter, option B 2", a.at("set"), "once more is another set of the same colors")
	assert.Empty(t, a.at("admitted"))
	assert.Equal(t, 422, p.call("POST", house(h, "/boards/%d/sheets/1/adopt", board), o{"choice": 2}).status)
}

func TestOptionsOfASubject(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	var colors []any
	for _, c := range p.call("GET", house(h, "/colors"), nil).at("colors").([]any) {
		colors = append(colors, o{"id": c.(o)["id"], "name": c.(o)["name"], "hex": c.(o)["hex"]})
	}
	a := p.call("POST", house(h, "/boards/propose"), o{"colors": colors})
	require.Equal(t, 200, a.status, a.text)
	assert.Len(t, a.json, 6)
	assert.NotNil(t, a.at(0, "ground", "id"), "they know which color of the library each is")
	assert.Equal(t, 422, p.call("POST", house(h, "/boards/propose"), o{"colors": []any{paintBody("x", "blue")}}).status)
	assert.Empty(t, p.call("POST", house(h, "/boards/propose"), o{"colors": []o{}}).json, "an empty subject has no options")
}

func TestTypefacesAndLogosOfAHouse(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	a := p.uploadTo(house(h, "/typefaces"), "house.ttf", goregular.TTF)
	require.Equal(t, 201, a.status, a.text)
	own := a.json.([]any)[len(a.json.([]any))-1].(o)
	assert.Equal(t, []any{"Go", "of the house"}, []any{own["name"], own["kind"]})
	assert.Equal(t, 409, p.uploadTo(house(h, "/typefaces"), "house.ttf", goregular.TTF).status, "it is there already")
	for says, data := range map[string][]byte{"page.ttf: this is no font": []byte("<html>"), "page.ttf: the font is damaged": goregular.TTF[:9000]} {
		a := p.uploadTo(house(h, "/typefaces"), "page.ttf", data)
		assert.Equal(t, 422, a.status)
		assert.Contains(t, strings.ToLower(a.text), says)
	}
	assert.Equal(t, string(goregular.TTF), p.call("GET", house(h, "/typefaces/%v", own["id"]), nil).text)
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, 404, p.call("GET", house(bakery, "/typefaces/%v", own["id"]), nil).status)

	var logo bytes.Buffer
	require.NoError(t, png.Encode(&logo, image.NewGray(image.Rect(0, 0, 40, 20))))
	key := p.uploadTo(house(h, "/boards/logos"), "logo.png", logo.Bytes())
	require.Equal(t, 201, key.status, key.text)
	assert.Equal(t, logo.String(), p.call("GET", house(h, "/boards/logos/%v", key.at("logo")), nil).text)
	assert.Equal(t, 422, p.uploadTo(house(h, "/boards/logos"), "logo.svg", []byte("<svg onload='alert(1)'/>")).status)

	// What is set in it stays so when it is taken away, in files too.
	body := with(boardBody(), "logo", key.at("logo"))
	body["options"].([]any)[0].(o)["typeface"], body["options"].([]any)[0].(o)["logo"] = own["key"], true
	a = p.call("POST", house(h, "/boards"), body)
	require.Equal(t, 201, a.status, a.text)
	require.Equal(t, 201, p.call("POST", house(h, "/boards/%d/sheets", a.id("id")), o{"version": 1}).status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/typefaces/%v", own["id"]), nil).status)
	assert.NotContains(t, p.call("GET", house(h, "/typefaces"), nil).text, "of the house")
	assert.Equal(t, 200, p.call("GET", house(h, "/boards/%d/sheets/1/files/pdf", a.id("id")), nil).status)

	// The fonts that ship are everybody's.
	res, err := p.app.Test(httptest.NewRequest("GET", "/typefaces/spectral-latin-400.woff2", nil))
	require.NoError(t, err)
	assert.Equal(t, []any{200, "font/woff2"}, []any{res.StatusCode, res.Header.Get("Content-Type")})
	for _, path := range []string{"/typefaces/none-latin-400.woff2", "/typefaces/..%2fboard.go", "/typefaces/spectral"} {
		res, err := p.app.Test(httptest.NewRequest("GET", path, nil))
		require.NoError(t, err)
		assert.Equal(t, 404, res.StatusCode, path)
	}
}

// client is somebody with a link and without account, script or cookie.
type client struct {
	t    *testing.T
	app  *fiber.App
	path string
}

func (c client) get(query string) (int, string) { return c.send("GET", query, nil) }

func (c client) send(method, query string, form url.Values) (int, string) {
	c.t.Helper()
	r := httptest.NewRequest(method, c.path+query, strings.NewReader(form.Encode()))
	if method == "POST" {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	res, err := c.app.Test(r, fiber.TestConfig{Timeout: time.Minute})
	require.NoError(c.t, err)
	assert.Empty(c.t, res.Header.Values("Set-Cookie"), "no cookies")
	text, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, string(text)
}

var secret = regexp.MustCompile(`name="page" value="([^"]+)"`)

// answer opens the page and sends the form, as a browser would.
func (c client) answer(values ...string) (int, string) {
	c.t.Helper()
	_, page := c.get("")
	form := url.Values{"do": {"answer"}, "page": {secret.FindStringSubmatch(page)[1]}}
	for i := 0; i < len(values); i += 2 {
		form.Set(values[i], values[i+1])
	}
	return c.send("POST", "", form)
}

// shown makes a board with a sheet and a link to it.
func shown(t *testing.T, p *person, body, link o) (board int64, c client) {
	h := p.ferries()
	a := p.call("POST", house(h, "/boards"), body)
	require.Equal(t, 201, a.status, a.text)
	board = a.id("id")
	require.Equal(t, 201, p.call("POST", house(h, "/boards/%d/sheets", board), o{"version": 1}).status)
	a = p.call("POST", house(h, "/boards/%d/sheets/1/links", board), link)
	require.Equal(t, 201, a.status, a.text)
	return board, client{t, p.app, a.at("path").(string)}
}

func TestAClientAnswersWithoutAnAccount(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	board, c := shown(t, p, boardBody(), o{"until": time.Now().Add(240 * time.Hour).Format(time.RFC3339)})
	assert.Regexp(t, `^/b/[\w-]{22,}$`, c.path)
	status, page := c.get("")
	require.Equal(t, 200, status)
	for _, want := range []string{"Winter", "from Odelwick Ferries, sheet 1, open until", "Winter crossings", "Night Tide", "#101820", "This one", "see it on paper"} {
		assert.Contains(t, page, want)
	}
	assert.NotContains(t, page, "<script")
	assert.NotContains(t, page, "http", "nothing comes from elsewhere")
	assert.NotContains(t, page, "Buoy", "nothing else of the house")

	// With other eyes and on paper the colors are others; their names and values stay.
	_, paper := c.get("?look=paper")
	assert.NotContains(t, paper, "--ground:#0E3A53")
	assert.Contains(t, paper, ">#0E3A53<")
	_, weak := c.get("?look=red-green")
	assert.NotEqual(t, paper, weak)

	status, page = c.answer("choice", "1", "name", "  Ines ", "comment", "<script>alert(1)</script> B & more")
	require.Equal(t, 200, status, page)
	assert.Contains(t, page, "Thank you, Ines. Odelwick Ferries knows that you chose B.")
	assert.Contains(t, page, "&lt;script&gt;", "markup is text")
	answers := func() []any {
		return p.call("GET", house(h, "/boards/%d", board), nil).at("sheets", 0, "answers").([]any)
	}
	require.Len(t, answers(), 1)
	assert.Equal(t, "<script>alert(1)</script> B & more", answers()[0].(o)["comment"])

	// Twice from one page, and once more under the same name, is one answer; another person is another.
	again := url.Values{"do": {"answer"}, "page": {secret.FindStringSubmatch(page)[1]}, "choice": {"0"}, "name": {"Ines Ferro"}}
	c.send("POST", "", again)
	c.send("POST", "", again)
	require.Len(t, answers(), 1)
	assert.Equal(t, []any{"Ines Ferro", 0.0}, []any{answers()[0].(o)["name"], answers()[0].(o)["choice"]})
	c.answer("choice", "1", "name", "ines  ferro")
	assert.Len(t, answers(), 1)
	c.answer("choice", "0", "name", "Otto")
	assert.Len(t, answers(), 2)
	assert.EqualValues(t, 2, p.call("GET", house(h, "/boards"), nil).at(0, "answers"))

	// What is wrong is said on the page, and what was typed stays.
	for says, values := range map[string][]string{
		"please choose one of the 2 options": {"name", "Ada", "comment", "kept"}, "please give your name": {"choice", "0", "comment", "kept", "name", " "},
		"the comment has 2,001 characters|the comment has 2001 characters": {"choice", "0", "name", "Ada", "comment", "kept" + strings.Repeat("x", 1997)},
		"please choose one": {"choice", "7", "name", "Ada", "comment", "kept"},
	} {
		status, page := c.answer(values...)
		assert.Equal(t, 422, status, says)
		assert.Regexp(t, "(?i)"+says, page)
		assert.Contains(t, page, "kept")
	}
	status, page = c.answer("choice", "0", "name", "Ada", "comment", strings.Repeat("x", 1<<20))
	assert.Equal(t, 413, status)
	assert.Contains(t, page, "shorten your comment")
	assert.Len(t, answers(), 2)

	// The link opens nothing else: neither the house's lists, nor with its token in the place of a session.
	for _, path := range []string{"/colors", "/boards", fmt.Sprintf("/boards/%d", board)} {
		r := httptest.NewRequest("GET", "/api"+house(h, "%s", path), nil)
		r.Header.Set("Authorization", "Bearer "+strings.TrimPrefix(c.path, "/b/"))
		r.AddCookie(&http.Cookie{Name: "huekeep_session", Value: strings.TrimPrefix(c.path, "/b/")})
		res, err := p.app.Test(r)
		require.NoError(t, err)
		assert.Equal(t, 401, res.StatusCode, path)
	}

	// Closed, it says so plainly.
	link := p.call("GET", house(h, "/boards/%d", board), nil).id("sheets", 0, "links", 0, "id")
	other, _ := shown(t, p, with(boardBody(), "title", "Another"), o{})
	assert.Equal(t, 404, p.call("DELETE", house(h, "/boards/%d/links/%d", other, link), nil).status, "a link of another board")
	require.Equal(t, 204, p.call("DELETE", house(h, "/boards/%d/links/%d", board, link), nil).status)
	status, page = c.get("")
	assert.Equal(t, 410, status)
	assert.Contains(t, page, "This link was closed. Ask Odelwick Ferries")
	status, _ = c.send("POST", "", again)
	assert.Equal(t, 410, status)
	assert.Len(t, answers(), 2)
}

func TestALinkThatEndsAndOneThatNeverWas(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	now := time.Now().UTC()
	s.keeper.Base.Now = func() time.Time { return now.Truncate(time.Millisecond) }
	_, c := shown(t, p, boardBody(), o{"until": now.Add(time.Hour).Format(time.RFC3339)})
	status, _ := c.get("")
	assert.Equal(t, 200, status)
	now = now.Add(2 * time.Hour)
	status, page := c.get("")
	assert.Equal(t, 410, status)
	assert.Contains(t, page, "This link was open until")
	now = now.Add(-2 * time.Hour)
	a := p.call("POST", house(p.ferries(), "/boards/1/sheets/1/links"), o{"until": now.Add(-time.Hour).Format(time.RFC3339)})
	assert.Equal(t, 422, a.status)
	assert.Contains(t, a.text, "would end before it begins")

	// A thousand guesses: none leads anywhere, and soon none is looked up.
	held := 0
	for i := range 1000 {
		status, page := client{t, p.app, fmt.Sprintf("/b/guess-%d", i)}.get("")
		switch status {
		case 404:
			assert.Contains(t, page, "This link leads nowhere")
		case 429:
			held++
		default:
			t.Fatal(status, page)
		}
	}
	assert.Equal(t, 980, held)
}

func TestALinkWithAPassPhrase(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/boards"), boardBody())
	require.Equal(t, 201, p.call("POST", house(h, "/boards/%d/sheets", a.id("id")), o{"version": 1}).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/boards/%d/sheets/1/links", a.id("id")), o{"phrase": "abc"}).status, "too short")
	board, c := shown(t, p, boardBody(), o{"phrase": "harbor lights"})
	status, page := c.get("")
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "Pass phrase")
	assert.NotContains(t, page, "Winter", "nothing is shown before")
	status, page = c.send("POST", "", url.Values{"phrase": {"harbor light"}})
	assert.Equal(t, 401, status)
	assert.Contains(t, page, "That is not the pass phrase")
	status, page = c.send("POST", "", url.Values{"phrase": {" harbor lights "}, "look": {"paper"}})
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "Winter crossings")
	status, page = c.send("POST", "", url.Values{"phrase": {"harbor lights"}, "do": {"answer"}, "choice": {"0"}, "name": {"Ines"}, "page": {"p"}})
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "you chose A")
	status, _ = c.send("POST", "", url.Values{"phrase": {"wrong one"}, "do": {"answer"}, "choice": {"1"}, "name": {"Eve"}})
	assert.Equal(t, 401, status)
	assert.Len(t, p.call("GET", house(h, "/boards/%d", board), nil).at("sheets", 0, "answers"), 1)
	for range 20 {
		status, page = c.send("POST", "", url.Values{"phrase": {"guess again"}})
	}
	assert.Equal(t, 429, status)
	assert.Contains(t, page, "Too many wrong pass phrases")
	status, _ = c.send("POST", "", url.Values{"phrase": {"harbor lights"}})
	assert.Equal(t, 429, status, "also the right one, for a while")
}

func TestAnOwnTypefaceOnTheClientsPage(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	a := p.uploadTo(house(h, "/typefaces"), "house.ttf", goregular.TTF)
	own := a.json.([]any)[len(a.json.([]any))-1].(o)
	body := boardBody()
	body["options"].([]any)[0].(o)["typeface"] = own["key"]
	_, c := shown(t, p, body, o{})
	_, css := c.get("/faces.css")
	assert.Contains(t, css, fmt.Sprintf(".face-own-%v", own["id"]))
	status, font := c.get(fmt.Sprintf("/typeface/%v", own["id"]))
	assert.Equal(t, 200, status)
	assert.Equal(t, string(goregular.TTF), font)
	_, locked := shown(t, p, body, o{"phrase": "harbor lights"})
	status, _ = locked.get("/faces.css")
	assert.Equal(t, 404, status, "not before the pass phrase")
	status, _ = locked.get(fmt.Sprintf("/typeface/%v", own["id"]))
	assert.Equal(t, 404, status)
	_, page := locked.send("POST", "", url.Values{"phrase": {"harbor lights"}})
	key := regexp.MustCompile(`faces\.css(\?key=[^"]+)"`).FindStringSubmatch(page)
	require.NotNil(t, key, page)
	status, css = locked.get("/faces.css" + html.UnescapeString(key[1]))
	assert.Equal(t, 200, status, "with the key of the page")
	face := regexp.MustCompile(`/typeface/\d+\?key=[^"]+`).FindString(css)
	status, _ = locked.get(face)
	assert.Equal(t, 200, status)
	_, plain := shown(t, p, boardBody(), o{})
	status, _ = plain.get(fmt.Sprintf("/typeface/%v", own["id"]))
	assert.Equal(t, 404, status, "a sheet gives out only what it is set in")
}

func TestHowASetPrints(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	buoy := p.colorID(h, "Buoy")
	ask := func(press string) answer {
		return p.call("POST", house(h, "/printed"), o{"press": press, "subject": "Core", "colors": []any{
			with(paintBody("Buoy", "#E2572B"), "id", buoy), paintBody("Fog", "#C9D1D3"), paintBody("Loud", "#00FF40")}})
	}
	a := ask("coated")
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "Loud", a.at("rows", 0, "name"), "worst first")
	assert.Equal(t, "derived", a.at("rows", 0, "origin"))
	assert.Contains(t, a.at("rows", 0, "direction"), "duller")
	for i := range 3 {
		if a.at("rows", i, "name") == "Buoy" {
			assert.Equal(t, []any{"approved", "0 77 92 6"}, []any{a.at("rows", i, "origin"), a.at("rows", i, "build")}, "the keeper's build goes first")
		}
	}
	assert.Contains(t, a.at("text"), "Odelwick Ferries, Core, on coated paper, offset\nLoud #00FF40: C ")
	assert.Contains(t, a.at("text"), "Buoy #E2572B: C 0 M 77 Y 92 K 6, approved by Keeper; prints")
	assert.Equal(t, 404, ask("silk").status)
	news := ask("newsprint")
	assert.Greater(t, news.at("rows", 1, "deltaE"), a.at("rows", 1, "deltaE"), "newsprint gives less")
	assert.Equal(t, 422, p.call("POST", house(h, "/printed"), o{"press": "coated", "subject": "x", "colors": []any{paintBody("x", "red")}}).status)
}

func TestAProofAsAFile(t *testing.T) {
	p := newSite(t).as("reader")
	h := p.ferries()
	img := image.NewNRGBA(image.Rect(0, 0, 30, 20))
	for i := range img.Pix {
		img.Pix[i] = []byte{0, 255, 64, 255}[i%4]
	}
	var data bytes.Buffer
	require.NoError(t, png.Encode(&data, img))
	a := p.uploadTo(house(h, "/proofs?press=newsprint&intent=1&bpc=false&paper=true&form=png"), "deck.png", data.Bytes())
	require.Equal(t, 200, a.status, a.text)
	assert.Contains(t, a.header.Get("Content-Disposition"), "deck, newsprint.png")
	printed, err := png.Decode(strings.NewReader(a.text))
	require.NoError(t, err)
	_, g, _, _ := printed.At(3, 3).RGBA()
	assert.Less(t, g>>8, uint32(230), "newsprint is duller")
	a = p.uploadTo(house(h, "/proofs?press=newsprint&intent=1&bpc=true&paper=false&form=tif"), "deck.png", data.Bytes())
	require.Equal(t, 200, a.status)
	assert.Equal(t, []any{"image/tiff", "II*\x00"}, []any{a.header.Get("Content-Type"), a.text[:4]})
	for says, query := range map[string]string{"no press condition": "press=silk&intent=1&bpc=true&paper=false&form=tif", "no rendering intent": "press=coated&intent=7&bpc=true&paper=false&form=tif",
		"png or tif": "press=coated&intent=1&bpc=true&paper=false&form=gif"} {
		a := p.uploadTo(house(h, "/proofs?%s", query), "deck.png", data.Bytes())
		assert.Contains(t, []int{404, 422}, a.status)
		assert.Contains(t, a.text, says)
	}
	a = p.uploadTo(house(h, "/proofs?press=coated&intent=1&bpc=true&paper=false&form=png"), "deck.png", data.Bytes()[:60])
	assert.Equal(t, 422, a.status)
	assert.Contains(t, strings.ToLower(a.text), "deck.png")

	// A picture that says it has 200 megapixels is refused before anybody makes room for it.
	huge := bytes.Clone(data.Bytes())
	copy(huge[16:24], []byte{0, 0, 0x3E, 0x80, 0, 0, 0x30, 0xD4}) // 16,000 by 12,500
	sum := crc32.ChecksumIEEE(huge[12:29])
	copy(huge[29:33], []byte{byte(sum >> 24), byte(sum >> 16), byte(sum >> 8), byte(sum)})
	a = p.uploadTo(house(h, "/proofs?press=coated&intent=1&bpc=true&paper=false&form=png"), "huge.png", huge)
	assert.Equal(t, 422, a.status)
	assert.Contains(t, strings.ToLower(a.text), "huge.png")
	assert.Equal(t, 404, p.call("GET", house(h, "/presses/silk/profile"), nil).status)
}
