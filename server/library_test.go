package server_test

import (
	"bytes"
	"encoding/base64"
	"image/png"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

type o = map[string]any

func TestCandidatesFromPicturesGetANameAndASet(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{
		o{"value": "#1D6F6A", "origin": "picture", "source": "logo.png at 3, 4"}, o{"value": "#1C6E69", "origin": "picture"},
		o{"value": "#0E3A53", "origin": "file", "name": "Swatch", "cmyk": "96 50 20 64", "spot": "qn 0453"}, o{"value": "lab(50 10 20)", "lab": "50 10 20", "origin": "reading", "name": "Read"}}})
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, "Teal", a.at(0, "name"))
	assert.Equal(t, "Teal 2", a.at(1, "name"), "a description that is taken gets a number")
	assert.Contains(t, a.text, "from Teal on the tray", "near-duplicates on the tray are pointed out")
	assert.Equal(t, "QN-0453", a.at(2, "spot"))
	assert.Contains(t, a.text, "same value as Deep Sound")
	ids := []int64{a.id(0, "id"), a.id(1, "id"), a.id(2, "id"), a.id(3, "id")}

	a = p.call("PUT", house(h, "/tray/order"), o{"items": []int64{ids[3], ids[0]}})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, ids[3], a.id(0, "id"))
	assert.Equal(t, ids[0], a.id(1, "id"))
	assert.Equal(t, ids[1], a.id(2, "id"), "the others follow as they were")

	// Names for many at once, all or none; one that has a description for a name takes what is typed.
	name := func(list ...any) answer { return p.call("PATCH", house(h, "/tray"), o{"names": list}) }
	a = name(o{"item": ids[1], "name": " Quay  Teal "}, o{"item": ids[3], "name": ""})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"", "Teal", "Quay Teal"}, []any{a.at(0, "name"), a.at(1, "name"), a.at(2, "name")})
	for _, bad := range [][]any{{o{"item": ids[0], "name": "Fine"}, o{"item": ids[3], "name": strings.Repeat("x", 121)}}, {o{"item": ids[0], "name": "Fine"}, o{"item": 99999, "name": "Whose?"}}} {
		refused := name(bad...)
		assert.Contains(t, []int{404, 422}, refused.status, refused.text)
		assert.Equal(t, "Teal", p.call("GET", house(h, "/tray"), nil).at(1, "name"), "nobody is renamed")
	}
	assert.Contains(t, name(o{"item": ids[3], "name": strings.Repeat("x", 121)}).text, "at most 120 fit. It is for candidate 1 of the tray, #", "which one it is")
	require.Equal(t, 200, name(o{"item": ids[1], "name": "Teal 2"}, o{"item": ids[3], "name": "Read"}).status)

	a = p.call("POST", house(h, "/tray/admit"), o{"items": []int64{ids[0], ids[3]}, "use": []any{o{"item": ids[2], "color": p.colorID(h, "Deep Sound")}}, "set": "Logo"})
	require.Equal(t, 201, a.status, a.text)
	assert.Len(t, a.at("tray"), 1)
	sets := p.call("GET", house(h, "/sets"), nil)
	last := len(sets.json.([]any)) - 1
	assert.Equal(t, "Logo", sets.at(last, "name"))
	assert.Equal(t, []any{"Read", "Teal", "Deep Sound"}, []any{sets.at(last, "colors", 0, "name"), sets.at(last, "colors", 1, "name"), sets.at(last, "colors", 2, "name")}, "in the order of the tray")
	p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#112233", "origin": "paste", "name": "Deep"}}})
	tray := p.call("GET", house(h, "/tray"), nil)
	a = p.call("POST", house(h, "/tray/admit"), o{"items": []int64{tray.id(1, "id")}, "set": "logo", "replace": true})
	require.Equal(t, 201, a.status, a.text)
	assert.Len(t, p.call("GET", house(h, "/sets"), nil).at(last, "colors"), 1, "replaced, not added")
	sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Read")), nil)
	assert.Equal(t, "50.00 10.00 20.00", sheet.at("row", "lab"), "a measured master keeps its reading")

	for _, bad := range []o{{"value": "nonsense", "origin": "picture"}, {"value": "#123456", "origin": "dream"}, {"value": "#123456", "origin": "file", "cmyk": "1 2"},
		{"value": "#123456", "origin": "file", "spot": "QN-9999"}, {"value": "#123456", "origin": "reading", "lab": "1 2"}, {"value": "53/68/0/0", "cmyk": "1 2 3 4", "origin": "file"}} {
		before := len(p.call("GET", house(h, "/tray"), nil).json.([]any))
		a := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#445566", "origin": "file"}, bad}})
		assert.Equal(t, 422, a.status, "%v", bad)
		assert.Len(t, p.call("GET", house(h, "/tray"), nil).json, before, "nothing is half on the tray")
	}
}

func TestOnlyAKeeperFillsASet(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	tray := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{o{"value": "#1D6F6A", "origin": "picture"}}})
	a := p.call("POST", house(h, "/tray/admit"), o{"items": []int64{tray.id(0, "id")}, "set": "Core", "replace": true})
	assert.Equal(t, 403, a.status)
	assert.Len(t, p.call("GET", house(h, "/tray"), nil).json, 1, "it is still on the tray")
	assert.Len(t, p.call("GET", house(h, "/sets"), nil).at(0, "colors"), 8)
}

func TestInkCodesOnALine(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/read"), o{"text": "Harbor red QN-0081\nSea #0E3A53 qn 0453\nQN-9999"})
	assert.EqualValues(t, 2, a.at("understood"))
	assert.Equal(t, "Harbor red", a.at("lines", 0, "name"))
	assert.Contains(t, a.text, "spot ink QN-0453 comes with it")
	a = p.call("POST", house(h, "/tray"), o{"text": "Harbor red QN-0081"})
	assert.Equal(t, "QN-0081", a.at("tray", 0, "spot"))
	a = p.call("POST", house(h, "/tray/admit"), o{"items": []int64{a.id("tray", 0, "id")}})
	require.Equal(t, 201, a.status, a.text)
	sheet := p.call("GET", house(h, "/colors/%d", a.id("colors", 0, "id")), nil)
	assert.Equal(t, "master", sheet.at("row", "ink", "origin"))
	assert.Equal(t, "ink", sheet.at("row", "master", "kind"))
	assert.Equal(t, "derived", sheet.at("row", "hexOrigin"))
	assert.Equal(t, "QN-0081", sheet.at("row", "ink", "code"))
}

func TestFilesAreShownBeforeTheyAreTaken(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	a := p.uploadTo(house(h, "/files"), "agency.gpl", []byte("GIMP Palette\nName: Agency\n226 87 43 Swatch 1\n29 111 106 Harbor Teal\n"))
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"a plain text palette", "Agency", true, false}, []any{a.at("label"), a.at("name"), a.at("colors", 0, "generic"), a.at("colors", 1, "generic")})
	assert.Contains(t, a.text, "same value as Buoy")
	assert.Empty(t, p.call("GET", house(h, "/tray"), nil).json)
	used := p.uploadTo(house(h, "/files"), "site.css", []byte(":root{--call:#E2572B}a{color:var(--call)}b{fill:#1D6F6A}")).at("colors", 0)
	assert.Equal(t, o{"generic": false, "hex": "#E2572B", "name": "call", "nearest": o{"deltaE": 0.0, "hex": "#E2572B", "name": "Buoy", "word": "identical"},
		"notes": []any{"same value as Buoy"}, "places": 1.0, "uses": 1.0, "where": []any{"site.css 1:30, a, color"}}, o(used.(map[string]any)))
	// A text is read as it is when it is pasted, with the inks of the book; what is left of it can be put right line by line.
	text := p.uploadTo(house(h, "/files"), "mail.txt", []byte("Hello Kim\nSigns QN-0131\nCall #E2572B QN-0324\nNight 260 83 33\n"))
	require.Equal(t, 200, text.status, text.text)
	assert.Equal(t, []any{"Signs", "ink", "QN-0131"}, []any{text.at("colors", 0, "name"), text.at("colors", 0, "master", "kind"), text.at("colors", 0, "spot")})
	assert.Equal(t, []any{"Call", "#E2572B", "QN-0324"}, []any{text.at("colors", 1, "name"), text.at("colors", 1, "hex"), text.at("colors", 1, "spot")})
	assert.Equal(t, []any{"Line 2: the ink is taken as on coated stock.", "Line 4 is not sure: 260 83 33 may be HSB or HSL; which one is meant?"}, text.at("notes"))
	assert.Contains(t, text.at("text"), "Hello Kim")
	for name, data := range map[string]string{"a.gpl": "GIMP Palette\n999 0 0 x", "a.pdf": "%PDF-1.4 nothing", "a.png": "\x89PNG\r\n\x1a\n", "a.bin": "\x00\x01"} {
		a := p.uploadTo(house(h, "/files"), name, []byte(data))
		assert.Equal(t, 422, a.status)
		assert.Contains(t, strings.ToLower(a.text), name, "the sentence names the file")
	}
}

// A candidate may get another group or role than the rest, in one admission; a word that is none keeps all of them on the tray.
func TestCandidatesArePlacedOneByOne(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	tray := p.call("POST", house(h, "/tray"), o{"text": "Kelp #2E4A3F\nGull #DADFE1\nRope #B08D57\n"})
	require.Equal(t, 201, tray.status, tray.text)
	list := p.call("GET", house(h, "/tray"), nil)
	id := func(i int) any { return list.json.([]any)[i].(map[string]any)["id"] }
	body := o{"items": []any{id(0), id(1), id(2)}, "group": "Shore", "role": "accent",
		"each": []any{o{"item": id(1), "role": "neutral"}, o{"item": id(2), "group": "", "role": "captain;"}}}
	wrong := p.call("POST", house(h, "/tray/admit"), body)
	assert.Equal(t, 422, wrong.status)
	assert.Contains(t, wrong.text, "captain")
	assert.Len(t, p.call("GET", house(h, "/tray"), nil).json, 3)
	body["each"] = []any{o{"item": id(1), "role": "neutral"}, o{"item": id(2), "group": "", "role": ""}}
	require.Equal(t, 201, p.call("POST", house(h, "/tray/admit"), body).status)
	var got []any
	for _, name := range []string{"Kelp", "Gull", "Rope"} {
		sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, name)), nil)
		got = append(got, sheet.at("row", "group"), sheet.at("row", "role"))
	}
	assert.Equal(t, []any{"Shore", "accent", "Shore", "neutral", "", ""}, got)
}

// A manual comes with its pages and with what contradicts, held against the inks of the house that reads it.
func TestAManualIsReadForTheHouse(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	manual, err := os.ReadFile("../core/manual/testdata/cards.pdf")
	require.NoError(t, err)
	a := p.uploadTo(house(h, "/files"), "cards.pdf", manual)
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{10.0, 4.0, 5.0}, []any{a.at("of"), a.at("pages", 0, "number"), a.at("pages", 1, "number")})
	page, err := base64.StdEncoding.DecodeString(a.at("pages", 0, "png").(string))
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(page))
	require.NoError(t, err)
	place := a.at("colors", 1, "written", "at").([]any)
	at := func(share any, side int) int { return int(share.(float64) * float64(side)) }
	r, g, b, _ := img.At(at(place[0], img.Bounds().Dx())+20, at(place[1], img.Bounds().Dy())+20).RGBA()
	assert.Equal(t, []uint32{0xE2, 0x57, 0x2B}, []uint32{r >> 8, g >> 8, b >> 8}, "the place of Buoy begins at its swatch")
	assert.Equal(t, []any{"screen", "226/78/43 is 2.3 noticeable from #E2572B"}, []any{a.at("colors", 1, "written", "disagree", 0, "kind"), a.at("colors", 1, "written", "disagree", 0, "text")})
	assert.Equal(t, []any{o{"hex": "#E2572B", "text": "#E2572B, as painted"}, o{"hex": "#E24E2B", "text": "226/78/43"}},
		[]any{o(a.at("colors", 1, "written", "others", 0).(map[string]any)), o(a.at("colors", 1, "written", "others", 1).(map[string]any))})
	assert.Equal(t, "QN-0076", a.at("colors", 1, "spot"))
	// Another house has other inks: those of the manual stay out, and it is said.
	csv := "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\nHX 001,Slip Red,solid,56,54,52,58,48,44\nHX 002,Slip Blue,solid,22,-9,-20,30,-7,-18\n"
	buoy := p.colorID(h, "Buoy")
	require.Equal(t, 200, p.call("DELETE", house(h, "/colors/%d/spots/coated?version=%v", buoy, p.call("GET", house(h, "/colors/%d", buoy), nil).at("version")), nil).status)
	require.Equal(t, 200, p.uploadBy("PUT", house(h, "/ink-book?name=Harbor+inks"), "book.csv", []byte(csv)).status)
	a = p.uploadTo(house(h, "/files"), "cards.pdf", manual)
	assert.Nil(t, a.at("colors", 1, "spot"))
	assert.Contains(t, a.text, "ink QN-0076 is not in the Harbor inks book, and stays out")
}

// New values under old names change the colors in the admission, and one request brings all back.
func TestAnAdmissionAmends(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	change := func(who *person, text string) o {
		note := who.call("POST", house(h, "/tray"), o{"text": text}).at("tray", 0)
		n := note.(map[string]any)["notes"].([]any)[0].(map[string]any)
		return o{"items": []any{}, "amend": []any{o{"item": note.(map[string]any)["id"], "color": n["color"].(map[string]any)["id"], "version": n["change"].(map[string]any)["version"]}}}
	}
	a := p.call("POST", house(h, "/tray/admit"), change(p, "Buoy #D94F21"))
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, []any{"Buoy", "#E2572B", "#D94F21"}, []any{a.at("renewed", 0, "name"), a.at("renewed", 0, "was"), a.at("renewed", 0, "hex")})
	trail := p.call("GET", house(h, "/trail"), nil)
	assert.Contains(t, trail.text, "took what was on the tray into the library; new values for Buoy")
	plan := p.call("GET", house(h, "/plans/proposal?moment=%s", a.at("at")), nil)
	assert.Equal(t, []any{"#E2572B", "Buoy"}, []any{plan.at(0, "from"), plan.at(0, "to")})
	back := o{"colors": []any{o{"color": a.at("renewed", 0, "id"), "version": a.at("renewed", 0, "version"), "event": a.at("renewed", 0, "event")}}}
	assert.Equal(t, 403, s.as("contributor").call("POST", house(h, "/colors/back"), back).status)
	assert.Equal(t, 204, p.call("POST", house(h, "/colors/back"), back).status)
	assert.Equal(t, "#E2572B", p.call("GET", house(h, "/colors/2"), nil).at("row", "hex"))
	assert.Equal(t, 409, p.call("POST", house(h, "/colors/back"), back).status, "it is done already")

	c := s.as("contributor")
	b := c.call("POST", house(h, "/tray/admit"), change(c, "Buoy #D94F22"))
	require.Equal(t, 201, b.status, b.text)
	assert.EqualValues(t, 1, b.at("suggested"))
	assert.Equal(t, "#E2572B", p.call("GET", house(h, "/colors/2"), nil).at("row", "hex"))
}

func TestStartersAreSearchedLikedAndAdded(t *testing.T) {
	s := newSite(t)
	p, other := s.as("contributor"), s.as("keeper")
	h := p.ferries()
	a := p.call("GET", house(h, "/starters?words=sea+calm"), nil)
	require.NotEmpty(t, a.json)
	key := a.at(0, "key").(string)
	yes := true
	require.Equal(t, 204, p.call("PATCH", house(h, "/starters/%s", key), o{"liked": &yes, "used": true}).status)
	liked := p.call("GET", house(h, "/starters?order=liked"), nil)
	require.Len(t, liked.json, 1)
	assert.EqualValues(t, 1, liked.at(0, "uses"))
	assert.Empty(t, other.call("GET", house(h, "/starters?order=liked"), nil).json, "a like is a person's own")
	assert.Equal(t, key, other.call("GET", house(h, "/starters?order=used"), nil).at(0, "key"))
	near := p.call("GET", house(h, "/starters?near=%%23E2572B"), nil)
	assert.Less(t, near.at(0, "deltaE").(float64), 15.0)

	require.Equal(t, 201, p.call("POST", house(h, "/starters"), o{"name": "Mine", "keywords": "quayside, Twirl", "colors": []string{"#112233", "navy"}, "private": true}).status)
	mine := p.call("GET", house(h, "/starters?words=quayside+twirl"), nil)
	require.Len(t, mine.json, 1)
	assert.NotContains(t, other.call("GET", house(h, "/starters?words=quayside+twirl"), nil).text, "Mine", "a private one is its author's")
	assert.Equal(t, 404, other.call("DELETE", house(h, "/starters/%s", mine.at(0, "key")), nil).status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/starters/%s", mine.at(0, "key")), nil).status)
	assert.Equal(t, 409, p.call("DELETE", house(h, "/starters/q1"), nil).status)
	assert.Equal(t, 422, p.call("POST", house(h, "/starters"), o{"name": "One", "keywords": "", "colors": []string{"#112233"}, "private": false}).status)
	assert.Equal(t, 404, p.call("PATCH", house(h, "/starters/q999"), o{"liked": true}).status)
}

func TestReadingsAreAveragedAndHeldAgainstTheTarget(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	buoy := p.colorID(h, "Buoy")
	before := []any{}
	var a answer
	for range 5 {
		a = p.call("POST", house(h, "/readings"), o{"color": buoy, "medium": "screen", "before": before})
		require.Equal(t, 200, a.status, a.text)
		before = a.at("readings").([]any)
	}
	assert.Len(t, before, 5)
	assert.Less(t, a.at("deltaE").(float64), 0.4)
	assert.Equal(t, true, a.at("within"))
	assert.Less(t, a.at("spread").(float64), 0.7)
	a = p.call("POST", house(h, "/readings"), o{"color": buoy, "medium": "newsprint", "run": "heavy", "before": []any{}})
	assert.Equal(t, false, a.at("within"))
	assert.Equal(t, 422, p.call("POST", house(h, "/readings"), o{"color": buoy, "medium": "screen", "before": []any{"no lab"}}).status)
	assert.Equal(t, 404, p.call("POST", house(h, "/readings"), o{"color": 9999, "medium": "screen", "before": []any{}}).status)
}

func TestManyAtOnceOrderGroupsAndHouses(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	buoy, lamp, fog := p.colorID(h, "Buoy"), p.colorID(h, "Lamp"), p.colorID(h, "Fog")
	a := p.call("POST", house(h, "/colors/bulk"), o{"colors": []int64{buoy, lamp}, "tag": "signal", "group": "Lights", "set": "Lights"})
	require.Equal(t, 204, a.status, a.text)
	sheet := p.call("GET", house(h, "/colors/%d", lamp), nil)
	assert.Equal(t, []any{"Lights", []any{"signal"}}, []any{sheet.at("row", "group"), sheet.at("row", "tags")})
	assert.Contains(t, sheet.text, `"sets":["Core","Charts","Safety film","Winter","Lights"]`)
	assert.Equal(t, 404, p.call("POST", house(h, "/colors/bulk"), o{"colors": []int64{fog, 9999}, "role": "accent"}).status)
	assert.Equal(t, "neutral", p.call("GET", house(h, "/colors/%d", fog), nil).at("row", "role"), "all or none")

	names := func(id int64) (out []string) {
		a := p.call("GET", house(id, "/colors"), nil)
		for i := range a.at("colors").([]any) {
			out = append(out, a.at("colors", i, "name").(string))
		}
		return
	}
	require.Equal(t, 204, p.call("POST", house(h, "/colors/%d/place", fog), o{"before": buoy}).status)
	assert.Contains(t, strings.Join(names(h), " "), "Fog Buoy Lamp", "placed before another, into its group")
	assert.Equal(t, 404, p.call("POST", house(h, "/colors/%d/place", fog), o{"before": 9999}).status)
	require.Equal(t, 204, p.call("POST", house(h, "/groups/rename"), o{"name": "Lights", "to": "Lamps"}).status)
	assert.Equal(t, 409, p.call("POST", house(h, "/groups/rename"), o{"name": "Lamps", "to": "hull"}).status)
	require.Equal(t, 204, p.call("POST", house(h, "/groups/delete"), o{"name": "Lamps"}).status)
	assert.Equal(t, "", p.call("GET", house(h, "/colors/%d", lamp), nil).at("row", "group"), "the colors of a deleted group stay")

	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	a = p.call("POST", house(h, "/colors/copy"), o{"colors": []int64{buoy, fog}, "house": bakery, "move": false})
	require.Equal(t, 201, a.status, a.text)
	p.call("POST", house(h, "/colors/copy"), o{"colors": []int64{buoy}, "house": bakery, "move": false})
	assert.Subset(t, names(bakery), []string{"Buoy", "Fog", "Buoy 2"})
	copied := p.call("GET", house(bakery, "/colors/%d", p.colorID(bakery, "Buoy")), nil)
	assert.Equal(t, "approved", copied.at("row", "press", "origin"), "approvals come along")
	a = p.call("POST", house(h, "/colors/copy"), o{"colors": []int64{fog}, "house": bakery, "move": true})
	require.Equal(t, 201, a.status, a.text)
	assert.NotContains(t, names(h), "Fog")
	assert.Equal(t, 404, p.call("POST", house(h, "/colors/copy"), o{"colors": []int64{buoy}, "house": 999, "move": false}).status)
}

// A group goes while colors are moved into it, many times over: every color ends in a group that exists, or in none.
func TestAGroupGoesWhileAColorMovesIn(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	lamp := p.colorID(h, "Lamp")
	var both sync.WaitGroup
	for range 12 {
		both.Go(func() {
			a := p.call("POST", house(h, "/colors/bulk"), o{"colors": []int64{lamp}, "group": "Brief"})
			assert.Contains(t, []int{204, 409}, a.status, a.text)
		})
		both.Go(func() {
			a := p.call("POST", house(h, "/groups/delete"), o{"name": "Brief"})
			assert.Contains(t, []int{204, 404}, a.status, a.text)
		})
	}
	both.Wait()
	ledger := p.call("GET", house(h, "/colors"), nil)
	group := p.call("GET", house(h, "/colors/%d", lamp), nil).at("row", "group")
	if group != "" {
		assert.Contains(t, ledger.at("groups"), group)
	}
}

func TestWhatIsKeptWithAColorAndItsHistory(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	lamp := p.colorID(h, "Lamp")
	at := func(path string) string { return house(h, "/colors/%d", lamp) + path }
	a := p.call("PUT", at("/family"), o{"version": 1, "family": []any{o{"kind": "tint", "amount": 60, "permitted": true}, o{"kind": "step", "amount": 800, "permitted": false}}})
	require.Equal(t, 200, a.status, a.text)
	tint := a.at("family", 0, "hex").(string)
	assert.Regexp(t, `\d+ \d+ \d+ \d+`, a.at("family", 0, "cmyk"))
	judged := p.judge(h, "x.css", []byte("a{color:"+tint+"}"))
	assert.Equal(t, "on-brand", judged.at("colors", 0, "verdict"), "a permitted tint is on-brand")
	step := a.at("family", 1, "hex").(string)
	assert.NotEqual(t, "on-brand", p.judge(h, "y.css", []byte("a{color:"+step+"}")).at("colors", 0, "verdict"))
	for _, bad := range []o{{"kind": "tint", "amount": 0, "permitted": true}, {"kind": "step", "amount": 123, "permitted": true}, {"kind": "tint", "amount": 100, "permitted": true}} {
		assert.Equal(t, 422, p.call("PUT", at("/family"), o{"version": 2, "family": []any{bad}}).status, "%v", bad)
	}
	// A sheer says what is seen over its ground, and how it is laid over any; what no ground can be is refused, with its place.
	deep := p.colorID(h, "Deep Sound")
	sheers := p.call("PUT", at("/family"), o{"version": 2, "family": []any{o{"kind": "sheer", "amount": 40, "permitted": true, "ground": deep}, o{"kind": "sheer", "amount": 40, "permitted": false}}})
	require.Equal(t, 200, sheers.status, sheers.text)
	assert.Equal(t, []any{"#696C46", "Deep Sound", "rgb(242 182 50 / 40%)"}, []any{sheers.at("family", 1, "hex"), sheers.at("family", 1, "ground", "name"), sheers.at("family", 1, "css")}, sheers.text)
	for _, bad := range []o{{"kind": "sheer", "amount": 40, "permitted": true, "ground": lamp}, {"kind": "sheer", "amount": 40, "permitted": true, "ground": 99999},
		{"kind": "tint", "amount": 40, "permitted": true, "ground": deep}} {
		refused := p.call("PUT", at("/family"), o{"version": 3, "family": []any{bad}})
		assert.Equal(t, []any{422, "family"}, []any{refused.status, refused.at("field")}, "%v: %s", bad, refused.text)
	}
	a = p.call("PUT", at("/family"), o{"version": 3, "family": []any{o{"kind": "tint", "amount": 60, "permitted": true}, o{"kind": "step", "amount": 800, "permitted": false}}})
	require.Equal(t, 200, a.status, a.text)
	a = p.call("PATCH", at(""), o{"version": 4, "value": "#F0B030", "aliases": []string{"Lighthouse", " Lighthouse "}, "tags": []string{"data"}, "ground": p.colorID(h, "Deep Sound"), "ratio": 4.5})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"Lighthouse"}, a.at("row", "aliases"))
	assert.Equal(t, true, a.at("ground", "passes"))
	assert.NotEqual(t, tint, a.at("family", 0, "hex"), "a tint follows the master")
	assert.Equal(t, 409, p.call("PATCH", at(""), o{"version": 4, "rule": "late"}).status)
	// Back to the state after the family was kept: the value, the words and the ground of then.
	var event int64
	for i := range a.at("history").([]any) {
		if strings.Contains(a.at("history", i, "what").(string), "tints, shades") {
			event = a.id("history", i, "id")
		}
	}
	a = p.call("POST", at("/back"), o{"version": 5, "event": event})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"#F2B632", []any{}, tint}, []any{a.at("row", "hex"), a.at("row", "aliases"), a.at("family", 0, "hex")})
	assert.Contains(t, a.at("history", 0, "what"), "brought back")
	assert.Equal(t, 404, p.call("POST", at("/back"), o{"version": 6, "event": 99999}).status)

	a = p.call("PATCH", at(""), o{"version": 6, "lab": "78 12 70"})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "78.00 12.00 70.00", a.at("row", "lab"))
	assert.Len(t, a.at("presses"), 3)
	assert.Len(t, a.at("spots"), 2)
	require.Equal(t, 200, p.call("PUT", at("/builds/newsprint"), o{"version": 7, "value": "0 30 85 0"}).status)
	assert.Contains(t, p.call("GET", at(""), nil).text, `"press":"newsprint"`)
}

func TestGradients(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	sound, ice := p.colorID(h, "Deep Sound"), p.colorID(h, "Ice Ramp")
	for i := range p.call("GET", house(h, "/gradients"), nil).json.([]any) {
		p.call("DELETE", house(h, "/gradients/%d", i+1), nil) // those of the demo
	}
	body := o{"name": "Fjord", "angle": 90, "space": "oklch", "stops": []any{o{"color": sound, "place": 0}, o{"color": ice, "place": 100}}}
	a := p.call("POST", house(h, "/gradients"), body)
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, "linear-gradient(90deg in oklch, #0E3A53 0%, #8FC1D4 100%)", a.at(0, "css"))
	assert.Equal(t, "#0E3A53", a.at(0, "steps", 0))
	assert.Equal(t, 409, p.call("POST", house(h, "/gradients"), body).status)
	p.call("PATCH", house(h, "/colors/%d", ice), o{"version": 1, "value": "#90C0D0"})
	a = p.call("GET", house(h, "/gradients"), nil)
	assert.Contains(t, a.at(0, "css"), "#90C0D0", "it follows its colors")
	body["version"], body["angle"] = 1, 45
	assert.Equal(t, 200, p.call("PUT", house(h, "/gradients/%d", a.id(0, "id")), body).status)
	assert.Equal(t, 409, p.call("PUT", house(h, "/gradients/%d", a.id(0, "id")), body).status, "somebody else was first")
	for field, bad := range map[string]any{"angle": 400, "stops": []any{o{"color": sound, "place": 0}}, "name": ""} {
		wrong := o{"name": "Other", "angle": 0, "space": "oklab", "stops": body["stops"]}
		wrong[field] = bad
		assert.Equal(t, 422, p.call("POST", house(h, "/gradients"), wrong).status, field)
	}
	assert.Equal(t, 204, p.call("DELETE", house(h, "/gradients/%d", a.id(0, "id")), nil).status)
}

func TestRulesAboutPairs(t *testing.T) {
	s := newSite(t)
	p := s.as("keeper")
	h := p.ferries()
	lamp, sound, white := p.colorID(h, "Lamp"), p.colorID(h, "Deep Sound"), p.colorID(h, "Hull White")
	find := func(p *person) map[string]any {
		for _, row := range p.call("GET", house(h, "/pairs"), nil).json.([]any) {
			if r := row.(o); r["color"].(o)["name"] == "Lamp" && r["ground"].(o)["name"] == "Deep Sound" {
				return r
			}
		}
		return nil
	}
	one := house(h, "/colors/%d/grounds/%d", lamp, sound)
	assert.Equal(t, 200, p.call("PUT", one, o{"may": true}).status)
	assert.Equal(t, []any{"may stand on Deep Sound as any text", 4.5, true}, []any{find(p)["says"], find(p)["least"], find(p)["holds"]})
	history := p.call("GET", house(h, "/colors/%d", sound), nil)
	assert.Equal(t, "Lamp may stand on it as any text", history.at("history", 0, "what"), "both colors know it")
	a := p.call("PUT", house(h, "/colors/%d/grounds/%d", lamp, white), o{"may": true, "ratio": 3})
	assert.Equal(t, 422, a.status)
	assert.Contains(t, a.text, "Lamp on Hull White has a contrast of 1.6", "a rule that nobody could keep is refused with the figure")
	for _, bad := range []o{{"may": true, "ratio": 0.5}, {"may": true, "ratio": 22}} {
		assert.Equal(t, 422, p.call("PUT", one, bad).status)
	}
	assert.Equal(t, 422, p.call("PUT", house(h, "/colors/%d/grounds/%d", lamp, lamp), o{"may": false}).status)
	assert.Equal(t, 404, p.call("PUT", house(h, "/colors/%d/grounds/9999", lamp), o{"may": false}).status)

	// After an amendment the rule stands and says that the values do not keep it.
	sheet := p.call("GET", house(h, "/colors/%d", lamp), nil)
	p.call("PATCH", house(h, "/colors/%d", lamp), o{"version": sheet.at("version"), "value": "#8A6A20"})
	assert.Equal(t, false, find(p)["holds"])
	assert.Less(t, find(p)["ratio"], 4.5)

	for _, role := range []string{"contributor", "reader"} {
		other := s.as(role)
		assert.NotNil(t, find(other), "%s sees the rules", role)
		assert.Equal(t, 403, other.call("PUT", one, o{"may": false}).status, role)
		assert.Equal(t, 403, other.call("DELETE", one, nil).status, role)
	}
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, 404, p.call("PUT", house(bakery, "/colors/%d/grounds/%d", lamp, sound), o{"may": false}).status, "colors of another house do not exist")
	assert.Equal(t, 404, p.call("DELETE", house(bakery, "/colors/%d/grounds/%d", lamp, sound), nil).status)

	// A ruled color is not removed under the rule; merged into another, the rule is about that one.
	crust := p.call("POST", house(h, "/tray"), o{"text": "Lantern #F2B733\nBulb #F2B734"})
	ids := []int64{crust.id("tray", 0, "id"), crust.id("tray", 1, "id")}
	admitted := p.call("POST", house(h, "/tray/admit"), o{"items": ids})
	require.Equal(t, 201, admitted.status, admitted.text)
	lantern, bulb := admitted.id("colors", 0, "id"), admitted.id("colors", 1, "id")
	a = p.call("PUT", house(h, "/colors/%d/grounds/%d", lantern, sound), o{"may": true, "ratio": 4.5})
	require.Equal(t, 200, a.status, a.text)
	a = p.call("DELETE", house(h, "/colors/%d?version=1", lantern), nil)
	assert.Equal(t, 409, a.status)
	assert.Contains(t, a.text, "a rule says that Lantern may stand on Deep Sound")
	require.Equal(t, 200, p.call("POST", house(h, "/colors/%d/merge", lantern), o{"version": 1, "into": bulb}).status)
	assert.Contains(t, p.call("GET", house(h, "/pairs"), nil).text, `"name":"Bulb"`)

	// A set's tokens carry the rules between its colors.
	sets := p.call("GET", house(h, "/sets"), nil)
	core := sets.id(0, "id")
	a = p.call("POST", house(h, "/sets/%d/editions", core), o{})
	require.Less(t, a.status, 300, a.text)
	number := len(p.call("GET", house(h, "/sets"), nil).at(0, "editions").([]any))
	tokens := p.call("GET", house(h, "/sets/%d/editions/%d/packings/tokens", core, number), nil)
	assert.Contains(t, tokens.text, "mayStandOn")
	assert.Contains(t, tokens.text, `"color": "{Core.Deep Sound}"`)
	l, _, err := swatchfile.Read("core.tokens.json", []byte(tokens.text))
	require.NoError(t, err, "they are read back")
	assert.NotEmpty(t, l.Colors)

	assert.Equal(t, 204, p.call("DELETE", one, nil).status)
	assert.Equal(t, 404, p.call("DELETE", one, nil).status)
	assert.Nil(t, find(p))
}

var numbers = regexp.MustCompile(`"id":\s*\d+,\s*`)

// told is what a library file says, without the numbers of a house and without what a restore itself adds.
func told(t *testing.T, text string) swatchfile.Library {
	l, err := swatchfile.ReadTokens([]byte(text))
	require.NoError(t, err)
	l.House = ""
	for i := range l.Colors {
		c := &l.Colors[i]
		c.ID, c.Version = 0, 0
		c.History = slices.DeleteFunc(c.History, func(e library.Event) bool { return strings.HasPrefix(e.What, "restored as") })
		for k := range c.History {
			c.History[k].From, c.History[k].State = "", ""
		}
	}
	for i := range l.Sets {
		l.Sets[i].ID, l.Sets[i].Version = 0, 0
	}
	if l.Backup != nil {
		for i := range l.Backup.Editions {
			for k := range l.Backup.Editions[i].Edition.Colors {
				c := &l.Backup.Editions[i].Edition.Colors[k]
				c.ID = 0
				c.Point(func(ref library.Ref) library.Ref { return library.Ref{Name: ref.Name} })
			}
			l.Backup.Editions[i].Edition.Gradients = nil
			for k := range l.Backup.Editions[i].Edition.Pairs {
				r := &l.Backup.Editions[i].Edition.Pairs[k]
				r.Color.ID, r.Ground.ID = 0, 0
			}
		}
		for i := range l.Backup.Gradients {
			l.Backup.Gradients[i].ID = 0
		}
		for i := range l.Backup.Boards {
			b := &l.Backup.Boards[i]
			b.Document = numbers.ReplaceAll(b.Document, nil)
			for k := range b.Sheets {
				b.Sheets[k].Document = numbers.ReplaceAll(b.Sheets[k].Document, nil)
			}
		}
		for i := range l.Backup.Recipients {
			l.Backup.Recipients[i].ID = 0
		}
	}
	return l
}

// A backup restored into an empty house is the same house: the export of the second is the export of the first.
func TestABackupComesBackWhole(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	lamp := p.colorID(h, "Lamp")
	p.call("PUT", house(h, "/colors/%d/family", lamp), o{"version": 1, "family": []any{o{"kind": "tint", "amount": 60, "permitted": true}}})
	p.call("PATCH", house(h, "/colors/%d", lamp), o{"version": 2, "aliases": []string{"Lighthouse"}, "ground": p.colorID(h, "Deep Sound"), "ratio": 3})
	p.call("POST", house(h, "/gradients"), o{"name": "Fjord", "angle": 90, "space": "lab", "stops": []any{o{"color": lamp, "place": 0}, o{"color": p.colorID(h, "Fog"), "place": 100}}})
	p.call("POST", house(h, "/starters"), o{"name": "Pier", "keywords": "wood", "colors": []string{"#112233", "#445566"}, "private": false})
	backup := p.call("GET", house(h, "/library"), nil).text
	require.True(t, swatchfile.Whole([]byte(backup)))

	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	a := p.uploadTo(house(bakery, "/restore?replace=true"), "backup.json", []byte(backup))
	require.Equal(t, 200, a.status, a.text)
	assert.EqualValues(t, 10, a.at("added"))
	again := p.call("GET", house(bakery, "/library"), nil).text
	assert.Equal(t, told(t, backup), told(t, again))

	// Adding to a house that has them leaves duplicates out; another value under a name that is taken gets a number.
	p.call("PATCH", house(bakery, "/colors/%d", p.colorID(bakery, "Buoy")), o{"version": 1, "value": "#E05528"})
	a = p.uploadTo(house(bakery, "/restore?replace=false"), "backup.json", []byte(backup))
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{1.0, 9.0, []any{"Buoy came in as Buoy 2"}}, []any{a.at("added"), a.at("present"), a.at("renamed")})

	before := p.call("GET", house(h, "/library"), nil).text
	for name, data := range map[string]string{
		"cut off": backup[:len(backup)-200], "altered": strings.Replace(backup, "#f2b632", "#f2b633", 1), "another's tokens": `{"a":{"$type":"color","$value":"#123456"}}`, "nothing": "",
		"no JSON": "hello", "altered deep": strings.Replace(backup, `"permitted": true`, `"permitted": false`, 1),
	} {
		a := p.uploadTo(house(h, "/restore?replace=true"), "backup.json", []byte(data))
		assert.Equal(t, 422, a.status, name)
		assert.Equal(t, before, p.call("GET", house(h, "/library"), nil).text, "%s: nothing changed", name)
	}
	for _, format := range []string{"gpl", "xlsx", "cxf", "scss", "tokens"} {
		a := p.call("GET", house(h, "/library?format=%s&colors=%d", format, lamp), nil)
		assert.Equal(t, 200, a.status, format)
		l, _, err := swatchfile.Read("x."+format, []byte(a.text))
		require.NoError(t, err, format)
		assert.Equal(t, "Lamp", l.Colors[0].Name)
	}
	assert.Equal(t, 404, p.call("GET", house(h, "/library?format=clay"), nil).status)
	assert.False(t, bytes.Contains([]byte(newSite(t).as("reader").call("GET", house(h, "/library"), nil).text), []byte(`"deliveries"`)), "a reader's file has no recipients")
}

func TestAnAmendmentNamesTheAuditsThatHoldTheOldValue(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	buoy := p.colorID(h, "Buoy")
	require.Equal(t, 200, p.judge(h, "poster.css", []byte("a{color:#E2572B}")).status)
	require.Equal(t, 200, p.judge(h, "poster.css", []byte("a{color:#e2572b;fill:#123456}")).status)
	require.Equal(t, 200, p.judge(h, "other.css", []byte("a{color:#0E3A53}")).status)
	a := p.call("POST", house(h, "/colors/%d/preview", buoy), o{"value": "#E05528"})
	assert.Equal(t, []any{"poster.css"}, a.at("audits"))
}

// Whole mails, tables and style sheets are pasted as they are.
func TestWhatPeoplePaste(t *testing.T) {
	p := newSite(t).as("reader")
	h := p.ferries()
	for text, want := range map[string]string{
		"Hi Kim,\n\nhere are the new ones:\n\n  * Harbor Teal - #1D6F6A\n  * Gull (214, 220, 222)\n\nBest, Sam": "Harbor Teal #1D6F6A, Gull #D6DCDE",
		":root {\n  --harbor-teal: #1d6f6a; /* Harbor Teal */\n  --gull: rgb(214 220 222);\n}":                  "harbor-teal #1D6F6A, gull #D6DCDE",
		"Name\tHex\tRGB\nHarbor Teal\t#1D6F6A\t29 111 106\nGull\t#D6DCDE\t214 220 222":                          "Harbor Teal #1D6F6A, Gull #D6DCDE",
		"Kelp  C78 M38 Y66 K30\n0/77/92/6":     "Kelp #426A58,  #E1592D",
		"\"Kelp\",\"#2F5D50\",\"78/38/66/30\"": "Kelp #2F5D50",
	} {
		a := p.call("POST", house(h, "/read"), o{"text": text})
		var got []string
		for i := range a.at("lines").([]any) {
			if hex, ok := a.at("lines", i, "hex").(string); ok {
				got = append(got, a.at("lines", i, "name").(string)+" "+hex)
			}
		}
		assert.Equal(t, want, strings.Join(got, ", "), text)
	}
}

func TestAPrintersOwnPress(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	profile, err := os.ReadFile("../core/press/profiles/newsprint.icc")
	require.NoError(t, err)
	a := p.uploadTo(house(h, "/presses?label=Harbor+print+shop"), "printer.icc", profile)
	require.Equal(t, 201, a.status, a.text)
	require.Len(t, a.json, 4)
	assert.Equal(t, []any{"harbor-print-shop", false, "Keeper"}, []any{a.at(3, "name"), a.at(3, "shipped"), a.at(3, "by")})
	assert.InDelta(t, 240, a.at(3, "inkLimit").(float64), 15, "the profile's own limit")
	buoy := p.colorID(h, "Buoy")
	sheet := p.call("GET", house(h, "/colors/%d", buoy), nil)
	assert.Equal(t, sheet.at("presses", 2, "text"), sheet.at("presses", 3, "text"), "the same profile gives the same build")
	a = p.call("PUT", house(h, "/colors/%d/builds/harbor-print-shop", buoy), o{"version": 1, "value": "0 70 90 5"})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, "approved", a.at("presses", 3, "origin"))
	assert.Equal(t, 422, p.call("PUT", house(h, "/colors/%d/builds/harbor-print-shop", buoy), o{"version": 2, "value": "90 90 90 90"}).status, "over its ink limit")
	assert.Equal(t, 409, p.call("DELETE", house(h, "/presses/harbor-print-shop"), nil).status, "approvals stand on it")
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Len(t, p.call("GET", house(bakery, "/presses"), nil).json, 3, "it is the house's own")
	backup := p.call("GET", house(h, "/library"), nil).text
	require.Equal(t, 200, p.uploadTo(house(bakery, "/restore?replace=true"), "b.json", []byte(backup)).status)
	assert.Len(t, p.call("GET", house(bakery, "/presses"), nil).json, 4, "a backup brings it along")
	require.Equal(t, 200, p.call("DELETE", house(h, "/colors/%d/builds/harbor-print-shop?version=2", buoy), nil).status)
	assert.Equal(t, 204, p.call("DELETE", house(h, "/presses/harbor-print-shop"), nil).status)
	assert.Equal(t, 404, p.call("PUT", house(h, "/colors/%d/builds/harbor-print-shop", buoy), o{"version": 3, "value": "0 70 90 5"}).status)

	for label, data := range map[string][]byte{"Cut": profile[:5000], "Text": []byte("no profile"), "Nothing": nil, "Coated": profile} {
		a := p.uploadTo(house(h, "/presses?label=%s", label), "x.icc", data)
		assert.Contains(t, []int{409, 422}, a.status, label)
	}
	if rgb, err := os.ReadFile("/usr/share/color/icc/sRGB.icc"); err == nil {
		a := p.uploadTo(house(h, "/presses?label=Screen"), "x.icc", rgb)
		assert.Contains(t, a.text, "a CMYK output profile is wanted")
	}
	assert.Len(t, p.call("GET", house(h, "/presses"), nil).json, 3)
}

func TestInksAreFoundByNumberNameAndColor(t *testing.T) {
	p := newSite(t).as("reader")
	h := p.ferries()
	a := p.call("GET", house(h, "/inks?query=013&near=%%23E2572B"), nil)
	require.NotEmpty(t, a.json)
	for i := range a.json.([]any) {
		assert.Contains(t, a.at(i, "code"), "013")
		assert.Positive(t, a.at(i, "deltaE"))
	}
	a = p.call("GET", house(h, "/inks?query=heath"), nil)
	assert.Contains(t, a.at(0, "name"), "Heath")
	assert.NotContains(t, a.text, "deltaE")
	a = p.call("GET", house(h, "/inks?query=%%23E2572B"), nil)
	assert.Len(t, a.json, 12)
	assert.Equal(t, "QN-0076", a.at(0, "code"))
	assert.Empty(t, p.call("GET", house(h, "/inks?query=zzz"), nil).json)
	assert.Equal(t, 422, p.call("GET", house(h, "/inks?query=1&near=nonsense"), nil).status)

	// The nearest to a color of the library, of the classes that the house takes inks from or of one; distances are those of the sheet.
	a = p.call("GET", house(h, "/inks?near=Buoy"), nil)
	sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Buoy")), nil)
	assert.Equal(t, []any{sheet.at("inks", 0, "code"), sheet.at("inks", 0, "deltaE")}, []any{a.at(0, "code"), a.at(0, "deltaE")})
	fog := p.call("GET", house(h, "/inks?near=Fog&class=Metallic"), nil)
	require.Len(t, fog.json, 12)
	for i := range fog.json.([]any) {
		assert.Equal(t, "metallic", fog.at(i, "class"))
		if i > 0 {
			assert.GreaterOrEqual(t, fog.at(i, "deltaE"), fog.at(i-1, "deltaE"))
		}
	}
	assert.Equal(t, "class", p.call("GET", house(h, "/inks?near=Fog&class=glitter"), nil).at("field"))
	assert.Equal(t, "query", p.call("GET", house(h, "/inks?class=metallic"), nil).at("field"))
}

// An ink is on the stock that the line says; what is given along for another stock is said to stay behind.
func TestInksOfATextAreOnTheirStock(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	a := p.call("POST", house(h, "/tray"), o{"text": "Rope QN 132 on uncoated\nCleat #4F6B7D QN-0453U\nPier QN-0413\nTwo QN-0413 QN-0453"})
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, []any{"ink", "uncoated", "Rope"}, []any{a.at("tray", 0, "master", "kind"), a.at("tray", 0, "master", "stock"), a.at("tray", 0, "name")})
	assert.Contains(t, a.text, "ink QN-0453 on uncoated stock is not taken along")
	assert.Equal(t, "coated", a.at("tray", 2, "master", "stock"))
	assert.Contains(t, a.text, "two inks stand on the line")
	assert.Len(t, a.at("problems"), 1)
}

func TestTheBookOfTheHousesSupplier(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	csv := "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\nHX 001,Slip Red,solid,56,54,52,58,48,44\nHX 002,Slip Blue,solid,22,-9,-20,30,-7,-18\n"
	put := func(data string) answer {
		return p.uploadBy("PUT", house(h, "/ink-book?name=Harbor+inks"), "book.csv", []byte(data))
	}
	a := put(csv)
	assert.Equal(t, 409, a.status, "Buoy has an approved ink that the book lacks")
	assert.Contains(t, a.text, "The Harbor inks book does not have the approved inks of Buoy (QN-0076 on coated stock)")
	buoy := p.colorID(h, "Buoy")
	assert.Equal(t, 403, p.site.as("contributor").uploadBy("PUT", house(h, "/ink-book?name=Harbor+inks&without=true"), "book.csv", []byte(csv)).status)
	a = p.uploadBy("PUT", house(h, "/ink-book?name=Harbor+inks&without=true"), "book.csv", []byte(csv))
	require.Equal(t, 200, a.status, a.text)
	assert.Contains(t, p.call("GET", house(h, "/colors/%d", buoy), nil).text, "approval of the spot ink QN-0076 on coated stock taken back, which the Harbor inks book does not have")
	assert.Equal(t, []any{"Harbor inks", true, 2.0}, []any{a.at("name"), a.at("own"), a.at("count")})
	// The way back brings the book and the approvals; and once more, without.
	require.Equal(t, 204, p.call("POST", house(h, "/ways-back/%d", a.id("back")), nil).status)
	assert.Equal(t, []any{"QN-0076", "approved"}, []any{p.call("GET", house(h, "/colors/%d", buoy), nil).at("row", "ink", "code"), p.call("GET", house(h, "/colors/%d", buoy), nil).at("row", "ink", "origin")})
	assert.Equal(t, "Quern", p.call("GET", house(h, "/ink-book"), nil).at("name"))
	a = p.uploadBy("PUT", house(h, "/ink-book?name=Harbor+inks&without=true"), "book.csv", []byte(csv))
	require.Equal(t, 200, a.status, a.text)
	sheet := p.call("GET", house(h, "/colors/%d", buoy), nil)
	assert.Equal(t, "HX 001", sheet.at("row", "ink", "code"), "the nearest of the house's own inks")
	marsh := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Saltmarsh")), nil)
	assert.Equal(t, []any{"QN-0324", "Quern", "derived"}, []any{marsh.at("row", "master", "text"), marsh.at("row", "master", "book"), marsh.at("row", "ink", "origin")}, "an ink that decides stays")
	// It is looked through with the distance from a color, and a table as suppliers write it is read as well.
	ramp := p.call("GET", house(h, "/ink-book/inks?near=Buoy"), nil)
	assert.Equal(t, []any{"#E2572B", "solid", "red", "HX 001", "invisible"}, []any{ramp.at("near"), ramp.at("classes", 0, "name"), ramp.at("classes", 0, "sections", 0, "name"), ramp.at("classes", 0, "sections", 0, "inks", 0, "code"), ramp.at("classes", 0, "sections", 0, "inks", 0, "word")})
	assert.Equal(t, 422, p.call("GET", house(h, "/ink-book/inks?near=nothing"), nil).status)
	plain := put("Code;Name;L;a;b\nHX 001;Slip Red;56,5;54,1;52\nHX 002;Slip Blue;22;-9;-20\n")
	require.Equal(t, 200, plain.status, plain.text)
	assert.Equal(t, []any{2.0, true}, []any{plain.at("count"), plain.at("oneStock")})
	// A book without solid inks is meant whole, and does not keep anybody from the settings; a class that there is not is refused.
	other := put(strings.ReplaceAll(csv, "solid", "matte"))
	require.Equal(t, 200, other.status, other.text)
	assert.Equal(t, []any{"matte"}, other.at("meant"))
	settings := p.call("GET", house(h, "/settings"), nil).json.(map[string]any)
	assert.Equal(t, []any{"solid"}, settings["inks"])
	require.Equal(t, 204, p.call("PUT", house(h, "/settings"), settings).status)
	settings["inks"] = []any{"glitter"}
	refused := p.call("PUT", house(h, "/settings"), settings)
	assert.Equal(t, 422, refused.status)
	assert.Contains(t, refused.text, "it has matte")
	require.Equal(t, 200, put(csv).status)
	require.Equal(t, 200, p.call("PUT", house(h, "/colors/%d/spots/coated", buoy), o{"version": sheet.at("version"), "code": "hx001"}).status)
	assert.Equal(t, 422, p.call("PUT", house(h, "/colors/%d/spots/coated", buoy), o{"version": 3, "code": "QN-0076"}).status)
	assert.Equal(t, "HX 002", p.call("GET", house(h, "/inks?query=blue"), nil).at(0, "code"))
	assert.Equal(t, "HX 002", p.call("POST", house(h, "/tray"), o{"text": "Night boat HX 002"}).at("tray", 0, "spot"))
	bakery := p.call("GET", "/session", nil).id("houses", 1, "id")
	assert.Equal(t, false, p.call("GET", house(bakery, "/ink-book"), nil).at("own"))
	backup := p.call("GET", house(h, "/library"), nil).text
	require.Equal(t, 200, p.uploadTo(house(bakery, "/restore?replace=true"), "b.json", []byte(backup)).status)
	assert.Equal(t, "Harbor inks", p.call("GET", house(bakery, "/ink-book"), nil).at("name"), "a backup brings it along")
	assert.Equal(t, 409, p.call("DELETE", house(h, "/ink-book"), nil).status, "its ink is approved")
	require.Equal(t, 200, p.call("DELETE", house(h, "/colors/%d/spots/coated?version=%.0f", buoy, p.call("GET", house(h, "/colors/%d", buoy), nil).at("version")), nil).status)
	a = p.call("DELETE", house(h, "/ink-book"), nil)
	assert.Equal(t, []any{"Quern", false, 900.0}, []any{a.at("name"), a.at("own"), a.at("count")})
	for _, bad := range []string{"", "code,name\n", strings.Replace(csv, "56", "NaN", 1), strings.Replace(csv, "HX 002", "HX-001", 1), csv[:80]} {
		assert.Equal(t, 422, put(bad).status, bad)
	}
}

// A file whose checksum is right can still be made up. What nobody could have made in the house is refused with a sentence,
// and the house stays as it was.
func TestARestoreOfWhatCannotBe(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	before := p.call("GET", house(h, "/library"), nil).text
	long, day := strings.Repeat("x", 400), time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	for name, c := range map[string]struct {
		alter func(l *swatchfile.Library)
		part  string
	}{
		"a role":      {func(l *swatchfile.Library) { l.Colors[0].Role = "hero;" }, "the role"},
		"a long rule": {func(l *swatchfile.Library) { l.Colors[0].Rule = strings.Repeat("x", 9000) }, "the rule has 9000 characters"},
		"a long name": {func(l *swatchfile.Library) { l.Colors[0].Name = long }, "name"},
		"a stock":     {func(l *swatchfile.Library) { l.Colors[0].Spots = []library.Spot{{Stock: "linen", Code: "QN-0001"}} }, "no stock"},
		"a family":    {func(l *swatchfile.Library) { l.Colors[0].Companions = []library.Companion{{Kind: "cousin", Amount: 5}} }, "none of tint"},
		"a tint twice": {func(l *swatchfile.Library) {
			l.Colors[0].Companions = []library.Companion{{Kind: "tint", Amount: 5}, {Kind: "tint", Amount: 5}}
		}, "listed twice"},
		"a far press": {func(l *swatchfile.Library) { l.Colors[0].Builds = []library.Build{{Press: long, At: day}} }, "longer or larger"},
		"a build twice": {func(l *swatchfile.Library) {
			l.Colors[0].Builds = []library.Build{{Press: "coated", At: day}, {Press: "coated", At: day}}
		}, "two builds"},
		"a color twice": {func(l *swatchfile.Library) {
			twin := l.Colors[0]
			twin.Group = "Elsewhere"
			l.Colors = append(l.Colors, twin)
		}, "are named"},
		"a recipient's kind": {func(l *swatchfile.Library) { l.Backup.Recipients = []swatchfile.Recipient{{Name: "Yard", Kind: "fax"}} }, "none of office, video, web"},
		"a recipient's name": {func(l *swatchfile.Library) { l.Backup.Recipients = []swatchfile.Recipient{{Name: "", Kind: "web"}} }, "name"},
		"a gradient of one": {func(l *swatchfile.Library) {
			l.Backup.Gradients = []swatchfile.Gradient{{Name: "Short", Space: "oklab", Stops: []swatchfile.Stop{{Color: "Fog"}}}}
		}, "stops"},
		"a gradient of gone colors": {func(l *swatchfile.Library) {
			l.Backup.Gradients = []swatchfile.Gradient{{Name: "Lost", Space: "oklab", Stops: []swatchfile.Stop{{Color: "Gone"}, {Color: "Fog", Place: 100}}}}
		}, "runs to the color Gone"},
		"a press without profile": {func(l *swatchfile.Library) {
			l.Backup.Presses = []swatchfile.Press{{Name: "p", Label: "Mine", InkLimit: 300}}
		}, "press Mine"},
		"an ink book of nothing": {func(l *swatchfile.Library) { l.Backup.InkBook = &swatchfile.InkBook{Name: "Empty"} }, ""},
		"a starter of one color": {func(l *swatchfile.Library) {
			l.Backup.Starters = []swatchfile.Starter{{Name: "One", Colors: []string{"#112233"}}}
		}, ""},
	} {
		l, err := swatchfile.ReadTokens([]byte(before))
		require.NoError(t, err)
		c.alter(&l)
		data, err := swatchfile.WriteLibrary(l)
		require.NoError(t, err)
		require.True(t, swatchfile.Whole(data), name)
		a := p.uploadTo(house(h, "/restore?replace=true"), "backup.json", data)
		assert.Equal(t, 422, a.status, "%s: %s", name, a.text)
		assert.Contains(t, a.text, c.part, name)
		assert.True(t, before == p.call("GET", house(h, "/library"), nil).text, "%s: nothing changed", name)
	}
}

// All starters are answered; those far down are there all the same, and can be found, liked and taken away.
func TestStartersFurtherDownTheList(t *testing.T) {
	s := newSite(t)
	p, keeper := s.as("contributor"), s.as("keeper")
	h := p.ferries()
	require.Equal(t, 201, p.call("POST", house(h, "/starters"), o{"name": "First of all", "keywords": "anchor", "colors": []string{"#112233", "#445566"}, "private": false}).status)
	first := p.call("GET", house(h, "/starters?words=anchor+first"), nil).at(0, "key").(string)
	for i := range 62 {
		name := "Row " + strings.Repeat("i", i+1)
		require.Equal(t, 201, p.call("POST", house(h, "/starters"), o{"name": name, "keywords": "pier", "colors": []string{"#8FC1D4", "#E2572B"}, "private": false}).status)
	}
	newest := p.call("GET", house(h, "/starters"), nil)
	assert.Greater(t, len(newest.json.([]any)), 900)
	assert.Contains(t, newest.text, "First of all")
	byName := p.call("GET", house(h, "/starters?near=buoy"), nil)
	assert.Len(t, byName.json, 60)
	assert.Equal(t, p.call("GET", house(h, "/starters?near=%%23E2572B"), nil).json, byName.json, "a color of the library, by its name")
	some := p.call("GET", house(h, "/starters?words=ocean+parsnip"), nil)
	assert.Equal(t, []any{"parsnip"}, some.at(0, "missed"))
	require.Equal(t, 204, p.call("PATCH", house(h, "/starters/%s", first), o{"liked": true, "used": true}).status)
	assert.Equal(t, "First of all", p.call("GET", house(h, "/starters?order=liked"), nil).at(0, "name"))
	assert.Equal(t, "First of all", p.call("GET", house(h, "/starters?order=used"), nil).at(0, "name"))
	require.Equal(t, 204, p.call("PATCH", house(h, "/starters/%s", first), o{"liked": false}).status)
	assert.Empty(t, p.call("GET", house(h, "/starters?order=liked"), nil).json)
	require.Equal(t, 204, p.call("DELETE", house(h, "/starters/%s", first), nil).status)
	assert.Equal(t, 404, p.call("PATCH", house(h, "/starters/%s", first), o{"liked": true}).status)
	bakery := keeper.call("GET", "/session", nil).id("houses", 1, "id")
	assert.NotContains(t, keeper.call("GET", house(bakery, "/starters?words=pier"), nil).text, "Row i", "another house has its own")
	assert.Equal(t, 404, p.call("GET", house(bakery, "/starters"), nil).status, "and is closed to who is no member")
}

// What the tray refuses, it refuses whole: nothing of the list is on it afterwards.
func TestTheTrayTakesAllOrNothing(t *testing.T) {
	p := newSite(t).as("contributor")
	h := p.ferries()
	good := o{"value": "#1D6F6A", "origin": "picture"}
	for name, bad := range map[string]o{
		"a value":       {"value": "teal-ish", "origin": "picture"},
		"an origin":     {"value": "#123456", "origin": "dream"},
		"a name":        {"value": "#123456", "origin": "file", "name": strings.Repeat("x", 500)},
		"a build":       {"value": "#123456", "origin": "file", "cmyk": "1 2 3"},
		"too much ink":  {"value": "#123456", "origin": "file", "cmyk": "101 0 0 0"},
		"an ink":        {"value": "#123456", "origin": "file", "spot": "QN-9999"},
		"a measurement": {"value": "#123456", "origin": "reading", "lab": "far away"},
		"a Lab outside": {"value": "#123456", "origin": "reading", "lab": "500 0 0"},
	} {
		a := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{good, bad}})
		assert.Equal(t, 422, a.status, "%s: %s", name, a.text)
		assert.Empty(t, p.call("GET", house(h, "/tray"), nil).json, name)
	}
	assert.Equal(t, 422, p.call("POST", house(h, "/tray/colors"), o{"colors": []any{}}).status)
	a := p.call("POST", house(h, "/tray/colors"), o{"colors": []any{good, good, good}})
	require.Equal(t, 201, a.status, a.text)
	assert.Equal(t, []any{"Teal", "Teal 2", "Teal 3"}, []any{a.at(0, "name"), a.at(1, "name"), a.at(2, "name")})
}

// A keeper finds the build of black alone on the sheet of a dark neutral and approves it as it stands there.
func TestBlackAloneIsOfferedForADarkNeutral(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	tray := p.call("POST", house(h, "/tray"), o{"text": "Type Black #131417"})
	id := p.call("POST", house(h, "/tray/admit"), o{"items": []int64{tray.id("tray", 0, "id")}}).id("colors", 0, "id")
	sheet := p.call("GET", house(h, "/colors/%d", id), nil)
	text, ok := sheet.at("derived", "blackOnly", "text").(string)
	require.True(t, ok, sheet.text)
	assert.Regexp(t, `^0 0 0 \d+$`, text)
	assert.Greater(t, sheet.at("derived", "blackOnly", "deltaE"), 1.0, "black ink is not as dark as four")
	a := p.call("PUT", house(h, "/colors/%d/builds/coated", id), o{"version": 1, "value": text})
	require.Equal(t, 200, a.status, a.text)
	assert.Equal(t, []any{"approved", text}, []any{a.at("row", "press", "origin"), a.at("row", "press", "text")})
	vivid := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Buoy")), nil)
	assert.NotContains(t, vivid.text, `"blackOnly"`)
}

// A spectrum comes with the reading that it is of, stays with the color from the tray to its sheet and its file for printers, and is refused
// where it looks otherwise.
func TestAReadingKeepsItsSpectrum(t *testing.T) {
	p := newSite(t).as("keeper")
	h := p.ferries()
	gray := o{"start": 380, "step": 10, "values": slices.Repeat([]float64{0.184187}, 36)}
	put := func(c o) answer {
		c["origin"] = "file"
		return p.call("POST", house(h, "/tray/colors"), o{"colors": []any{c}})
	}
	for why, bad := range map[string]o{
		"The spectrum looks like Lab 50.00 0.00 0.00, which is": {"value": "#3366AA", "lab": "40 0 -30", "spectrum": gray},
		"A spectrum goes with the reading that it is of":        {"value": "#777777", "spectrum": gray},
		"does not reach from 400 to 680":                        {"value": "#777777", "lab": "50 0 0", "spectrum": o{"start": 420, "step": 10, "values": []float64{0.2, 0.2}}},
		"A reflectance of 7 is none":                            {"value": "#777777", "lab": "50 0 0", "spectrum": o{"start": 380, "step": 10, "values": slices.Repeat([]float64{7}, 36)}},
	} {
		a := put(bad)
		assert.Equal(t, 422, a.status, a.text)
		assert.Contains(t, a.text, why)
	}
	assert.Empty(t, p.call("GET", house(h, "/tray"), nil).json)
	a := put(o{"value": "#777777", "lab": "50 0 0", "spectrum": gray, "name": "Enamel"})
	require.Equal(t, 201, a.status, a.text)
	assert.Len(t, a.at(0, "master", "spectrum", "values"), 36)
	require.Equal(t, 201, p.call("POST", house(h, "/tray/admit"), o{"items": []int64{a.id(0, "id")}, "set": "Signs"}).status)
	sheet := p.call("GET", house(h, "/colors/%d", p.colorID(h, "Enamel")), nil)
	assert.Equal(t, 0.1842, sheet.at("row", "master", "spectrum", "values", 3))
	assert.NotContains(t, p.call("GET", house(h, "/colors"), nil).text, `"spectrum"`, "the list of all does not carry them")
	sets := p.call("GET", house(h, "/sets"), nil)
	last := len(sets.json.([]any)) - 1
	require.Equal(t, 200, p.call("POST", house(h, "/sets/%d/editions", sets.id(last, "id")), o{}).status/100*100)
	file := p.call("GET", house(h, "/sets/%d/editions/1/packings/cxf", sets.id(last, "id")), nil)
	require.Equal(t, 200, file.status, file.text)
	l, _, err := swatchfile.Read("signs.cxf", []byte(file.text))
	require.NoError(t, err)
	s, ok := l.Colors[0].Master.Spectrum()
	require.True(t, ok)
	assert.Len(t, s.Values, 36)
}
