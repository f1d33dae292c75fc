package swatchfile_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

func sample(name, hex string, role library.Role, group string) library.Color {
	c, err := color.FromHex(hex)
	if err != nil {
		panic(err)
	}
	return library.Color{Name: name, RGB: c, Role: role, Group: group, Status: "approved"}
}

var at = time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)

func ferries() swatchfile.Library {
	sound := sample("Deep Sound", "#0E3A53", "primary", "Hull")
	sound.Rule = "hulls, headings, \"dark\" ground & more"
	sound.Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 92, M: 52.5, Y: 27, K: 62}, By: library.Person{Name: "Keeper"}, At: at, For: sound.RGB}}
	sound.Spots = []library.Spot{{Stock: "coated", Code: "QN-0614", By: library.Person{Name: "Keeper"}, At: at, For: sound.RGB}}
	sound.History = []library.Event{{At: at, By: library.Person{Name: "Keeper"}, What: "admitted as #0E3A53"}}
	funnel := sample("Old Funnel", "#D9482B", "", "Signals")
	funnel.Status, funnel.Successor.Name = "retired", "Buoy"
	odd := sample("$wave.{1}", "#123456", "", "")
	return swatchfile.Library{
		Version: 6, House: "Odelwick Ferries", Tolerance: 3, Neutrals: true,
		Colors: []library.Color{sound, sample("Fog", "#C9D1D3", "neutral", "Neutrals & grays."), sample("Buoy", "#E2572B", "primary", "Signals"),
			funnel, odd, sample("Lamp", "#F2B632", "accent", "Signals"), sample("Slate Quay", "#3B444B", "neutral", "Hull"),
			sample("Hull White", "#F7F5F0", "neutral", "Hull"), sample("Ice Ramp", "#8FC1D4", "secondary", "")},
		Sets: []swatchfile.Set{{Name: "Core", Edition: 2, Colors: []string{"Deep Sound", "Buoy", "Lamp", "Ice Ramp", "Fog", "Slate Quay", "Hull White"}}},
	}
}

func TestALibraryComesBackWhole(t *testing.T) {
	in := ferries()
	in.Sets[0].FollowsRole, in.Sets[0].FollowsTag = "accent", "2027"
	in.Sets[0].Slots = []library.Assigned{{Slot: "accent1", Color: library.Ref{Name: "Buoy"}}}
	in.Sets[0].Boxes = library.Boxes{Count: 16, Order: []library.Ref{{Name: "Lamp"}, {Name: "Buoy"}}}
	data, err := swatchfile.WriteLibrary(in)
	require.NoError(t, err)
	out, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	assert.ElementsMatch(t, in.Colors, out.Colors, "groups lie together in the file, so only the order between groups may change")
	out.Colors = in.Colors
	assert.Equal(t, in, out)
	again, err := swatchfile.WriteLibrary(in)
	require.NoError(t, err)
	assert.Equal(t, data, again, "the same library is the same file")
	assert.Contains(t, string(data), `"colorSpace": "srgb"`)
	assert.Contains(t, string(data), `"$deprecated": "Replaced by Buoy"`)
}

func TestDesignTokensOfOthersAreRead(t *testing.T) {
	lib, err := swatchfile.ReadTokens([]byte(`{
	  "brand": {"$type": "color",
	    "primary": {"$value": "#e2572b", "$description": "one a page"},
	    "quiet": {"$value": {"colorSpace": "oklch", "components": [0.51975, 0.17686, 142.495]}},
	    "screen": {"$value": {"colorSpace": "hsl", "components": [120, 100, 25], "alpha": 1}},
	    "wide": {"$value": {"colorSpace": "acescg", "components": [0.1, 0.2, 0.3], "hex": "#112233"}},
	    "blue": {"500": {"$value": "#0000ff"}}, "red": {"500": {"$value": "#ff0000"}, "$root": {"$value": "#ee0000"}}
	  },
	  "button": {"$type": "color", "fill": {"$value": "{brand.primary}"}, "edge": {"$value": {"$ref": "#/brand/blue/500"}}},
	  "old": {"$type": "color", "$value": "navy", "$deprecated": true},
	  "space": {"$type": "dimension", "s": {"$value": {"value": 4, "unit": "px"}}}
	}`))
	require.NoError(t, err)
	got := map[string]string{}
	for _, c := range lib.Colors {
		got[c.Name] = c.RGB.Hex()
	}
	assert.Equal(t, map[string]string{"primary": "#E2572B", "quiet": "#008000", "screen": "#008000", "wide": "#112233",
		"brand.blue.500": "#0000FF", "brand.red.500": "#FF0000", "red": "#EE0000", "fill": "#E2572B", "edge": "#0000FF", "old": "#000080"}, got)
	assert.True(t, lib.Colors[len(lib.Colors)-1].Retired())
}

func TestBrokenTokensAreRefusedWithTheirPlace(t *testing.T) {
	for text, part := range map[string]string{
		``: "cut off", `{"a":`: "cut off", "{\n\n\"a\" 1}": "line 3", `[1]`: "no object", `{}`: "no color tokens",
		`{"a":{"$type":"color","$value":"{b}"}}`:                                               "token a: its alias {b} leads nowhere",
		`{"a":{"$type":"color","$value":"{b}"},"b":{"$type":"color","$value":"{a}"}}`:          "circle",
		`{"a":{"$type":"color","$value":"blurple"}}`:                                           "not a color",
		`{"a":{"$type":"color","$value":7}}`:                                                   "neither",
		`{"a":{"$type":"color","$value":{"colorSpace":"acid","components":[1,2,3]}}}`:          `"acid" is not read`,
		`{"a":{"$type":"color","$value":{"colorSpace":"srgb","components":[1,2]}}}`:            "2 components",
		`{"a":{"$type":"color","$value":{"colorSpace":"srgb","components":[1,2,"x"]}}}`:        "component 3",
		`{"a":{"$type":"color","$value":"#000"},"a":{"$type":"color","$value":"#fff"}}`:        `"a" stands twice`,
		`{"a":{"$type":"color","$value":"#000","$extensions":{"app.huekeep":{"status":"x"}}}}`: "draft, approved or retired",
		strings.Repeat(`{"a":`, 400):                                                           "nested", `{"a":{"$type":"color","$value":"#000"}} x`: "follows",
	} {
		_, err := swatchfile.ReadTokens([]byte(text))
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), part)
		}
	}
}

func TestCSSNamesEveryColorOnce(t *testing.T) {
	e, ok := ferries().SetEdition("Core")
	require.True(t, ok)
	e.Colors = append(e.Colors, sample("deep  sound", "#000000", "", ""), sample("End */ }", "#ffffff", "", ""), sample("Grün 2", "#00ff00", "", ""))
	data, err := swatchfile.WriteCSS(e)
	require.NoError(t, err)
	assert.Contains(t, string(data), "/* Odelwick Ferries, Core, edition 2 */")
	for _, line := range []string{"--deep-sound: #0E3A53;", "--deep-sound-2: #000000;", "--end: #FFFFFF; /* End * / }", "--grün-2: #00FF00;"} {
		assert.Contains(t, string(data), line)
	}
	assert.Equal(t, len(e.Colors), strings.Count(string(data), "--"))
	_, err = swatchfile.WriteCSS(library.Edition{Set: "Empty"})
	assert.ErrorContains(t, err, "holds no colors")
}

func TestSlotsKeepTextLegibleAndOrder(t *testing.T) {
	e, _ := ferries().SetEdition("Core")
	slots := swatchfile.ThemeSlots(e.Colors)
	var got []string
	for _, s := range slots {
		got = append(got, s.Name+" "+s.Color.Name)
	}
	assert.Equal(t, []string{"dk1 Slate Quay", "lt1 Hull White", "dk2 Deep Sound", "lt2 Fog", "accent1 Buoy", "accent2 Lamp",
		"accent3 Ice Ramp", "accent4 Deep Sound", "accent5 Buoy 60 %", "accent6 Lamp 60 %", "hlink Deep Sound", "folHlink Deep Sound"}, got)
	one := swatchfile.ThemeSlots([]library.Color{sample("Lamp", "#F2B632", "", "")})
	assert.Equal(t, "#FFFFFF", one[1].Color.RGB.Hex())
	assert.Equal(t, "#000000", one[0].Color.RGB.Hex())
	assert.Contains(t, one[1].Why, "added")
	seen := map[string]bool{}
	for _, s := range one[4:10] {
		assert.False(t, seen[s.Color.RGB.Hex()], "%s repeats", s.Name)
		seen[s.Color.RGB.Hex()] = true
	}
	assert.Equal(t, "Lamp 60 %", one[5].Color.Name)
	assert.Contains(t, one[5].Why, "short of six accents")

	pale := swatchfile.ThemeSlots([]library.Color{sample("Ice", "#DCEBF7", "", ""), sample("Deep Sound", "#0E3A53", "", "")})
	assert.Equal(t, "White", pale[1].Color.Name, "a pale tint is not the page of a deck")
	assert.Equal(t, "Ice", pale[3].Color.Name, "but may be the second ground")
	chosen := sample("Ice", "#DCEBF7", "", "")
	chosen.Role = library.Neutral
	assert.Equal(t, "Ice", swatchfile.ThemeSlots([]library.Color{chosen})[1].Color.Name, "unless the library calls it a neutral")
	assert.Len(t, swatchfile.ThemeSlots([]library.Color{sample("White", "#FFFFFF", "", "")}), 12)
}

func TestASwatchThatEqualsItsGroundHasAnEdge(t *testing.T) {
	e := library.Edition{House: "Ferries", Set: "Pale", Colors: []library.Color{sample("Paper", "#FFFFFF", "", ""), sample("Buoy", "#E2572B", "", "")}}
	data, err := swatchfile.WriteDeck(e)
	require.NoError(t, err)
	tiles := strings.Split(parts(t, data)["ppt/slides/slide2.xml"], "<p:sp>")
	edged := map[string]bool{}
	for _, tile := range tiles {
		for _, c := range e.Colors {
			if strings.Contains(tile, `name="`+c.Name+`"`) {
				edged[c.Name] = strings.Contains(tile, "<a:ln w=")
			}
		}
	}
	assert.Equal(t, map[string]bool{"Paper": true, "Buoy": false}, edged)
}

func parts(t *testing.T, data []byte) map[string]string {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		out[f.Name] = string(b)
	}
	return out
}

func TestTheOfficeThemeIsAWellFormedPackage(t *testing.T) {
	e, _ := ferries().SetEdition("Core")
	e.House = `Ropes & <Sons> "Ltd"`
	e.Colors[0].Name = `A & <b> "c"`
	data, err := swatchfile.WriteDeck(e)
	require.NoError(t, err)
	again, err := swatchfile.WriteDeck(e)
	require.NoError(t, err)
	assert.Equal(t, data, again)
	files := parts(t, data)
	target := regexp.MustCompile(`PartName="/([^"]+)"`)
	for _, m := range target.FindAllStringSubmatch(files["[Content_Types].xml"], -1) {
		assert.Contains(t, files, m[1])
	}
	for name, text := range files {
		if !strings.HasSuffix(name, ".xlsx") {
			require.NoError(t, xml.Unmarshal([]byte(text), new(struct{})), name)
			assert.NotContains(t, text, "<no value>", name)
		}
		if strings.HasPrefix(name, "ppt/slides/") || strings.HasPrefix(name, "ppt/charts/") {
			assert.NotContains(t, text, "srgbClr", "%s uses slots only", name)
		}
	}
	book := parts(t, []byte(files["ppt/embeddings/figures.xlsx"]))
	require.NoError(t, xml.Unmarshal([]byte(book["xl/worksheets/sheet1.xml"]), new(struct{})))
	assert.Contains(t, files["ppt/theme/theme1.xml"], `<a:accent1><a:srgbClr val="E2572B"/></a:accent1>`)
}

// LibreOffice is the independent judge of whether an office suite opens what we write and shows its colors.
func TestLibreOfficeOpensTheTheme(t *testing.T) {
	if _, err := exec.LookPath("soffice"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("soffice must be installed in CI (libreoffice-impress)")
		}
		t.Skip("LibreOffice is not installed")
	}
	e, _ := ferries().SetEdition("Core")
	data, err := swatchfile.WriteDeck(e)
	require.NoError(t, err)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "theme.pptx"), data, 0o644))
	cmd := exec.Command("soffice", "--headless", "-env:UserInstallation=file://"+dir+"/profile", "--convert-to", "fodp", "--outdir", dir, filepath.Join(dir, "theme.pptx"))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	text, err := os.ReadFile(filepath.Join(dir, "theme.fodp"))
	require.NoError(t, err, string(out))
	for _, c := range e.Colors {
		assert.Contains(t, strings.ToUpper(string(text)), `DRAW:FILL-COLOR="`+c.RGB.Hex()+`"`, c.Name)
	}
	assert.Contains(t, string(text), "A chart takes the accents in order")
	assert.Equal(t, 4, strings.Count(string(text), "<draw:page "), "four slides")
}

func FuzzReadTokens(f *testing.F) {
	data, _ := swatchfile.WriteLibrary(ferries())
	f.Add(data)
	f.Add([]byte(`{"a":{"$type":"color","$value":"{b}"},"b":{"$type":"color","$value":"#fff"}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		lib, err := swatchfile.ReadTokens(data)
		if err == nil {
			require.NotEmpty(t, lib.Colors)
		}
	})
}

// What may stand on what goes along as aliases of the tokens, also of those that could not be named like their colors; whoever knows
// nothing of it reads the same colors.
func TestTokensCarryRulesAboutPairs(t *testing.T) {
	sound, odd, gone := library.Color{ID: 1, Name: "Deep Sound", RGB: color.RGB8{R: 14}}, library.Color{ID: 2, Name: "Hull.White", RGB: color.RGB8{R: 247}}, library.Ref{ID: 3, Name: "Gone"}
	e := library.Edition{House: "House", Set: "Core", Colors: []library.Color{sound, odd}, Pairs: []library.Pair{
		{Color: sound.Ref(), Ground: odd.Ref(), May: true, Ratio: 4.5}, {Color: odd.Ref(), Ground: sound.Ref()}, {Color: sound.Ref(), Ground: gone}}}
	data, err := swatchfile.WriteTokens(e)
	require.NoError(t, err)
	var file struct {
		Core map[string]struct {
			Extensions struct {
				Ours struct {
					May []struct {
						Color    string
						Contrast float64
					} `json:"mayStandOn"`
					Not []struct{ Color string } `json:"mayNotStandOn"`
				} `json:"app.huekeep"`
			} `json:"$extensions"`
		}
	}
	require.NoError(t, json.Unmarshal(bytes.Replace(data, []byte(`"$type": "color",`), nil, 1), &file))
	may := file.Core["Deep Sound"].Extensions.Ours
	require.Len(t, may.May, 1)
	assert.Equal(t, "{Core.Hull_White} 4.5", fmt.Sprint(may.May[0].Color, " ", may.May[0].Contrast))
	assert.Empty(t, may.Not, "a rule about a color that is not in the set stays out")
	assert.Equal(t, "{Core.Deep Sound}", file.Core["Hull_White"].Extensions.Ours.Not[0].Color)

	lib, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	assert.Len(t, lib.Colors, 2)
	plain := e
	plain.Pairs = nil
	without, err := swatchfile.WriteTokens(plain)
	require.NoError(t, err)
	assert.NotContains(t, string(without), "$extensions", "a set without rules is as it was")
}

// flare is a color that sRGB does not hold.
func flare() library.Color {
	c := library.Color{Name: "Flare", Status: library.Approved, Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"}}
	c.RGB = c.Exact().RGB8()
	return c
}

// A color beyond sRGB stays what it is in everything that can carry it, comes back, and what cannot says what it has instead.
func TestColorsBeyondSRGB(t *testing.T) {
	e := library.Edition{House: "Odelwick Ferries", Set: "Core", Number: 3, FixedAt: at, Colors: []library.Color{{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Status: library.Approved}, flare()}}
	hex := flare().RGB.Hex()
	for _, p := range swatchfile.Packings() {
		data, err := p.Pack(e)
		require.NoError(t, err, p.Name)
		says := strings.Join(p.Loses(e), "\n")
		switch p.Name {
		case "css", "utility-css":
			assert.Contains(t, string(data), "@media (color-gamut: p3)", p.Name)
			fallthrough
		case "scss", "ts", "json":
			assert.Contains(t, string(data), "color(display-p3 0.1 0.9 0.3)", p.Name)
			assert.Contains(t, string(data), hex, p.Name)
			assert.NotContains(t, says, "Flare", p.Name)
		case "tokens":
			assert.Contains(t, string(data), `"colorSpace": "display-p3"`)
			assert.Contains(t, string(data), `"hex": "`+strings.ToLower(hex)+`"`)
			l, err := swatchfile.ReadTokens(data)
			require.NoError(t, err)
			assert.Equal(t, flare().Master, l.Colors[1].Master)
			assert.Equal(t, flare().RGB, l.Colors[1].RGB)
		case "cxf":
			l, _, err := swatchfile.Read(p.Name+p.Extension, data)
			require.NoError(t, err)
			assert.Less(t, color.DeltaE00(flare().Lab(), l.Colors[1].Lab()), 0.01)
		case "video-csv":
			rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
			require.NoError(t, err)
			assert.NotEqual(t, rows[2], rows[1])
			assert.Contains(t, says, "Flare")
		case "swatch-png": // in Display P3
			assert.NotContains(t, says, "Flare")
			scan, err := kinds.Read("x.png", data)
			require.NoError(t, err)
			for _, k := range audit.NewJudge(audit.Rules{Colors: e.Colors, Neutrals: true}).Judge("x.png", scan).Colors {
				assert.Equal(t, audit.OnBrand, k.Verdict, k.Value)
			}
			e := e
			e.Early = 10 // in sRGB, and stays as it was
			data, err := p.Pack(e)
			require.NoError(t, err)
			assert.NotContains(t, string(data), "Display P3")
			assert.Contains(t, strings.Join(p.Loses(e), "\n"), "Flare is "+hex+" here")
			e.Early, e.Colors = 0, []library.Color{{Name: "Reed", Status: library.Approved, Master: library.Master{Kind: library.OfScreen, Text: "color(rec2020 0 1 0)"}}}
			assert.Contains(t, strings.Join(p.Loses(e), "\n"), "Reed is color(display-p3 0 1 0) here, the nearest that Display P3 has")
		case "print-pdf", "kit":
		case "npm": // its style sheet, its module and its tokens have it
			assert.NotContains(t, says, "Flare is")
		default:
			assert.Contains(t, says, "Flare is "+hex+" here, the nearest that sRGB has", p.Name)
			assert.Contains(t, p.LeavesOut(e), "colors beyond sRGB", p.Name)
		}
	}
	wide := color.VideoForms[len(color.VideoForms)-1]
	assert.NotEqual(t, wide.Codes(flare().RGB), wide.CodesOf(flare().RGB, flare().Exact()), "BT.2020 has the color itself")

	in := ferries()
	lantern := decided(library.ByInk("QN-0132", "coated", "Quern", color.Lab{L: 70.1, A: 4, B: 61}))
	lantern.RGB, lantern.Plain = color.RGB8{R: 0xC8, G: 0xB5, B: 0x3F}, library.Plain{Origin: library.Signed, By: library.Person{Name: "Kim"}, At: noon}
	tarpaulin := decided(library.ByBuild(color.CMYK{C: 70, M: 20.25, K: 10}, "own", "0123456789abcdef", color.Lab{L: 55, A: -14, B: -33}))
	tarpaulin.Spots = []library.Spot{{Stock: "coated", Code: "QN-0411", Origin: library.Given, By: library.Person{Name: "Kim"}, At: noon, For: tarpaulin.RGB, Meant: tarpaulin.Master}}
	in.Colors = append(in.Colors, flare(), lantern, tarpaulin)
	data, err := swatchfile.WriteLibrary(in)
	require.NoError(t, err)
	out, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	assert.Equal(t, []library.Color{flare(), lantern, tarpaulin}, out.Colors[len(out.Colors)-3:])
}

// A reading, an ink or a build beyond sRGB stands in tokens in CIELAB, and comes back as that; editions of before had its hex alone, and said so.
func TestTokensOfWhatSRGBDoesNotHave(t *testing.T) {
	lantern := decided(library.ByInk("QN-0132", "coated", "Quern", color.Lab{L: 70.1234, A: 4, B: 88.5}))
	require.NotEmpty(t, lantern.CSS())
	gull := decided(library.ByInk("QN-0133", "coated", "Quern", color.Lab{L: 70, A: 1, B: 2})) // sRGB has it
	for _, early := range []int{0, 9} {
		e := library.Edition{House: "Odelwick Ferries", Set: "Core", Number: 3, FixedAt: at, Colors: []library.Color{lantern, gull}, Early: early}
		p, err := swatchfile.FindPacking("tokens")
		require.NoError(t, err)
		data, err := p.Pack(e)
		require.NoError(t, err)
		l, err := swatchfile.ReadTokens(data)
		require.NoError(t, err)
		says := strings.Join(p.Loses(e), "\n")
		if early == 9 {
			assert.Contains(t, says, "the nearest that sRGB has")
			assert.Equal(t, lantern.RGB, l.Colors[0].RGB)
			continue
		}
		assert.NotContains(t, says, "sRGB")
		assert.Equal(t, 1, strings.Count(string(data), `"colorSpace": "lab"`), "what sRGB has stays in it")
		assert.Contains(t, string(data), `"hex": "`+strings.ToLower(lantern.RGB.Hex())+`"`)
		assert.Less(t, color.DeltaE00(lantern.Lab(), l.Colors[0].Lab()), 0.01)
	}
}

var noon = time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)

// decided is a color that a build or an ink decides.
func decided(m library.Master, rgb color.RGB8) library.Color {
	c := library.Color{Name: m.Text, Status: library.Approved}
	c.Decide(m, rgb, library.Person{Name: "Kim"}, noon)
	return c
}

// A library of the fifth version, which knew values beyond sRGB too.
func TestALibraryOfTheFifthVersion(t *testing.T) {
	data, err := os.ReadFile("testdata/library.v5.json")
	require.NoError(t, err)
	l, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	assert.Equal(t, 5, l.Version)
	require.Len(t, l.Colors, 12)
	assert.Contains(t, l.Colors, flare())
}

// A library of the fourth version, whose only master beside the hex was a reading, is read as it was meant, and written in that of today.
func TestALibraryOfTheFourthVersion(t *testing.T) {
	data, err := os.ReadFile("testdata/library.v4.json")
	require.NoError(t, err)
	l, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	assert.Equal(t, 4, l.Version)
	require.Equal(t, 11, len(l.Colors))
	for _, c := range l.Colors {
		if c.Name != "Fog" {
			assert.Equal(t, library.Master{}, c.Master, c.Name)
			continue
		}
		assert.Equal(t, "reading 35.12 14.2 -13.01", c.Master.String())
		assert.Equal(t, "#624B68", c.RGB.Hex())
	}
	again, err := swatchfile.WriteLibrary(l)
	require.NoError(t, err)
	back, err := swatchfile.ReadTokens(again)
	require.NoError(t, err)
	assert.ElementsMatch(t, l.Colors, back.Colors)
}
