package swatchfile_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

func listed(l swatchfile.Library) string {
	var out []string
	for _, c := range l.Colors {
		out = append(out, c.Name+" "+c.RGB.Hex())
	}
	return strings.Join(out, ", ")
}

// Heads as people write them: other words, other order, a title above, columns that mean nothing here.
func TestTablesWithTheHeadsOfOthers(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"Colour,HTML\nBuoy,e2572b\n", "Buoy #E2572B"},
		{"hex,swatch\n#fff,Hull\n", "Hull #FFFFFF"},
		{"Brand colors 2026\n\nName,Pantone-free,Hex\nBuoy,x,#E2572B\n,,\nFog,y,#C9D1D3\n", "Buoy #E2572B, Fog #C9D1D3"},
		{"name,rgb\nLamp,\"242, 182, 50\"\n", "Lamp #F2B632"},
		{"Name\tR\tG\tB\nLamp\t242\t182\t50\nInk\t0\t0\t0", "Lamp #F2B632, Ink #000000"},
		{"NAME;HEX;RULE\r\nBuoy;#E2572B;\"calls; links\"\r\n", "Buoy #E2572B"},
		{"\ufeffname,hex\nBuoy,#E2572B\n", "Buoy #E2572B"},
		{"Name,Hex,R,G,B\nBuoy,,226,87,43\n", "Buoy #E2572B"},
	} {
		l, r, err := swatchfile.Read("a.csv", []byte(c.text))
		if assert.NoError(t, err, c.text) {
			assert.Equal(t, "table", r.Name)
			assert.Equal(t, c.want, listed(l), c.text)
		}
	}
	l, _, err := swatchfile.Read("a.csv", []byte("name,hex,c,m,y,k,spot,role,status,also called,tags\nBuoy,#E2572B,0,77,92,6,QN-0081,PRIMARY,Retired,\"Call red, Float\",\"print, web\"\n"))
	require.NoError(t, err)
	c := l.Colors[0]
	assert.Equal(t, "0 77 92 6", c.Builds[0].Value.String())
	assert.Equal(t, "QN-0081", c.Spots[0].Code)
	assert.Equal(t, []any{library.Primary, library.Retired, []string{"Call red", "Float"}, []string{"print", "web"}}, []any{c.Role, c.Status, c.Aliases, c.Tags})
}

func workbook(t *testing.T, sheets map[string][][]any, order ...string) []byte {
	f := excelize.NewFile()
	defer f.Close()
	for i, name := range order {
		if i == 0 {
			require.NoError(t, f.SetSheetName("Sheet1", name))
		} else {
			_, err := f.NewSheet(name)
			require.NoError(t, err)
		}
		for row, cells := range sheets[name] {
			require.NoError(t, f.SetSheetRow(name, fmt.Sprintf("A%d", row+1), &cells))
		}
	}
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	return b.Bytes()
}

// A workbook is read for its table, on whatever sheet that stands; only one without a table is read for its theme.
func TestWorkbooks(t *testing.T) {
	notes := [][]any{{"What we talked about"}, {"nothing"}}
	l, r, err := swatchfile.Read("a.xlsx", workbook(t, map[string][][]any{"Notes": notes, "Colors": {{"Title"}, {"Name", "R", "G", "B"}, {"Buoy", 226, 87, 43}, {"Fog", 201, 209, 211}}}, "Notes", "Colors"))
	require.NoError(t, err)
	assert.Equal(t, "xlsx", r.Name)
	assert.Equal(t, "Buoy #E2572B, Fog #C9D1D3", listed(l))

	l, _, err = swatchfile.Read("a.xlsx", workbook(t, map[string][][]any{"Notes": notes}, "Notes"))
	require.NoError(t, err)
	assert.Contains(t, listed(l), "accent1 #", "its theme is all that it has")

	_, _, err = swatchfile.Read("a.xlsx", workbook(t, map[string][][]any{"Colors": {{"Name", "Hex"}, {"Buoy", "#E2572B"}, {"Fog", "gray-ish"}}}, "Colors"))
	require.Error(t, err)
	assert.Contains(t, err.Error(), "sheet Colors, row 3", "a wrong row is named, not passed over for the theme")

	whole := workbook(t, map[string][][]any{"Colors": {{"Name", "Hex"}, {"Buoy", "#E2572B"}}}, "Colors")
	_, _, err = swatchfile.Read("a.xlsx", whole[:len(whole)/2])
	assert.ErrorContains(t, err, "cut off")
}

func TestMeasurementsOfOthers(t *testing.T) {
	file := func(format string, rows ...string) []byte {
		return []byte("CGATS.17\nORIGINATOR \"a press hall\"\nDESCRIPTOR \"Autumn run\" # the second\nBEGIN_DATA_FORMAT\n" + format + "\nEND_DATA_FORMAT\nNUMBER_OF_SETS 2\nBEGIN_DATA\n" + strings.Join(rows, "\n") + "\nEND_DATA\n")
	}
	l, r, err := swatchfile.Read("run.txt", file("SAMPLE_ID SAMPLE_NAME\nCMYK_C CMYK_M CMYK_Y CMYK_K LAB_L LAB_A LAB_B", `1 "Buoy, solid" 0 77 92 6 55,2 51.5 44.1`, "", "2 Fog 10 5 5 5 83 -2 -2 # wet"))
	require.NoError(t, err)
	assert.Equal(t, "cgats", r.Name)
	assert.Equal(t, "Autumn run", l.House)
	assert.Equal(t, "Buoy, solid", l.Colors[0].Name)
	assert.Equal(t, 55.2, l.Colors[0].Reading().L, "a decimal comma")
	assert.Equal(t, "0 77 92 6", l.Colors[0].Builds[0].Value.String())
	assert.Equal(t, "Fog", l.Colors[1].Name)

	l, _, err = swatchfile.Read("run.ti3", file("SAMPLE_LOC RGB_R RGB_G RGB_B", "A1 226 87 43", "A2 0 0 0"))
	require.NoError(t, err)
	assert.Equal(t, "A1 #E2572B, A2 #000000", listed(l))
	assert.Nil(t, l.Colors[0].Reading(), "a screen value is no measurement")

	for _, c := range []struct{ format, row, part string }{
		{"LAB_L LAB_A LAB_B", "50 x 0", `line 9: "x" is not a value for LAB_A`},
		{"LAB_L LAB_A LAB_B", "500 0 0", "line 9: Lab 500 0 0 lies outside"},
		{"LAB_L LAB_A LAB_B", "NaN 0 0", "line 9"},
		{"RGB_R RGB_G RGB_B", "300 0 0", "outside 0 to 255"},
		{"LAB_L LAB_A LAB_B CMYK_C CMYK_M CMYK_Y CMYK_K", "50 0 0 101 0 0 0", "an ink lies outside"},
		{"SPECTRAL_400 SPECTRAL_410", "1 2", "no Lab, XYZ or RGB"},
	} {
		_, _, err := swatchfile.Read("run.txt", file(c.format, c.row))
		if assert.Error(t, err, c.row) {
			assert.Contains(t, err.Error(), c.part, c.row)
		}
	}
	_, _, err = swatchfile.Read("run.txt", []byte("BEGIN_DATA\n1\nEND_DATA\nBEGIN_DATA_FORMAT\nLAB_L\nEND_DATA_FORMAT"))
	assert.ErrorContains(t, err, "line 1: the data comes before its format")
}

func TestExchangeFilesOfOthers(t *testing.T) {
	file := func(object string) []byte {
		return []byte(`<?xml version="1.0" encoding="UTF-8"?><cc:CxF xmlns:cc="http://colorexchangeformat.com/CxF3-core"><cc:Resources><cc:ObjectCollection>` + object + `</cc:ObjectCollection></cc:Resources></cc:CxF>`)
	}
	l, _, err := swatchfile.Read("a.cxf", file(`<cc:Object Name=" Buoy " ObjectType="Standard"><cc:ColorValues><cc:ColorCIELab><cc:L>55.5</cc:L><cc:A>51</cc:A><cc:B>44</cc:B></cc:ColorCIELab><cc:ColorSRGB><cc:R>226</cc:R><cc:G>87</cc:G><cc:B>43</cc:B></cc:ColorSRGB></cc:ColorValues><cc:DeviceColorValues><cc:ColorCMYK><cc:Cyan>0</cc:Cyan><cc:Magenta>77</cc:Magenta><cc:Yellow>92</cc:Yellow><cc:Black>6</cc:Black></cc:ColorCMYK></cc:DeviceColorValues></cc:Object>`))
	require.NoError(t, err)
	c := l.Colors[0]
	assert.Equal(t, "Buoy #E2572B", listed(l), "the file's own screen value goes before the one that follows from Lab")
	assert.Equal(t, 55.5, c.Reading().L)
	assert.Equal(t, "coated 0 77 92 6", c.Builds[0].Press+" "+c.Builds[0].Value.String())

	rgb := func(attr, r string) string {
		return `<cc:Object Name="X"><cc:ColorValues><cc:ColorSRGB ` + attr + `><cc:R>` + r + `</cc:R><cc:G>0</cc:G><cc:B>0</cc:B></cc:ColorSRGB></cc:ColorValues></cc:Object>`
	}
	for object, part := range map[string]string{
		rgb("", "256"):             "outside 0 to 255",
		rgb(`MaxRange="1"`, "1.5"): "outside 0 to 1",
		rgb(`MaxRange="0"`, "0"):   `"0" is not a largest value`,
		rgb("", "red"):             `object "X": "red" is not a color value`,
		`<cc:Object Name="X"><cc:ColorValues><cc:ReflectanceSpectrum StartWL="400">0.1 0.2</cc:ReflectanceSpectrum></cc:ColorValues></cc:Object>`: "does not reach from 400 to 680",
		`<cc:Object Name="X"><cc:ColorValues>`: "not well-formed",
		"":                                     "no colors",
	} {
		_, _, err := swatchfile.Read("a.cxf", file(object))
		if assert.Error(t, err, object) {
			assert.Contains(t, err.Error(), part, object)
		}
	}
}

func TestStyleSheetsOfOthers(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{":root { --a: var(--b); --b: var(--a); --c: #fff }", "c #FFFFFF"}, // a circle leads nowhere
		{":root { --a: var(--gone, #123456); --c: teal }", "c #008080"},
		{":root { --a: #111; } @media (prefers-color-scheme: dark) { :root { --a: #eee; } }", "a #111111"},
		{"/* Ferries */\n$deep-sound: hsl(202 71% 19%);\n$gap: 4px; $font: \"Fog\", serif;\n@mixin x { color: $deep-sound; }", "deep sound #0E3A53"},
		{":root { --glass: rgb(226 87 43 / 0); --seen: rgb(226 87 43 / 0.5) }", "seen #E2572B"},
		{":root { /* --old: #000; */ --new: #E2572B; /* Buoy */ }", "Buoy #E2572B"},
		{":root { --i: url(https://x.example/a.png); --Hülle: oklch(0.9 0 0) }", "Hülle #DEDEDE"},
	} {
		l, _, err := swatchfile.Read("a.scss", []byte(c.text))
		if assert.NoError(t, err, c.text) {
			assert.Equal(t, c.want, listed(l), c.text)
		}
	}
}

func TestTokensThatCannotBeRead(t *testing.T) {
	token := func(value string) string { return `{"g":{"$type":"color","x":{"$value":` + value + `}}}` }
	for text, part := range map[string]string{
		token(`"#12"`):   "token g.x",
		token(`7`):       "neither a color object nor a color string",
		token(`"{g.y}"`): "its alias {g.y} leads nowhere",
		token(`"{g.x}"`): "leads in a circle",
		token(`{"colorSpace":"srgb","components":[1,0]}`):      "has 2 components where three are wanted",
		token(`{"colorSpace":"srgb","components":[1,0,true]}`): "component 3 of its color is not a number",
		token(`{"colorSpace":"inks","components":[1,0,1]}`):    `color space "inks" is not read and it gives no hex`,
		`{"a":1}`:      "no color tokens",
		`{"a":{"b":}`:  "",
		`{"a":1} more`: "",
	} {
		_, err := swatchfile.ReadTokens([]byte(text))
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), part, text)
		}
	}
	// What only this program writes is checked as closely, wherever its mark stands.
	whole, err := swatchfile.WriteLibrary(ferries())
	require.NoError(t, err)
	for _, c := range [][3]string{
		{`"status": "retired"`, `"status": "asleep"`, `status "asleep" is not draft`},
		{`"at": "2026-03-04T05:06:07Z"`, `"at": "yesterday"`, `"yesterday" is not a time`},
		{`"press": "coated"`, `"press": "coated", "value": 4, "was"`, ""},
	} {
		require.Contains(t, string(whole), c[0])
		altered := []byte(strings.Replace(string(whole), c[0], c[1], 1))
		assert.False(t, swatchfile.Whole(altered), "the checksum tells")
		_, err := swatchfile.ReadTokens(altered)
		if assert.Error(t, err, c[1]) {
			assert.Contains(t, err.Error(), c[2])
		}
	}
	assert.True(t, swatchfile.Whole(whole))
}

func TestNamesThatWouldRunAsFormulas(t *testing.T) {
	colors := []library.Color{
		{Name: "=HYPERLINK(\"http://x\")", RGB: color.RGB8{R: 1}, Group: "+plus", Rule: "-minus", Aliases: []string{"@at"}},
		{Name: "'quoted", RGB: color.RGB8{R: 2}}, {Name: "'=kept", RGB: color.RGB8{R: 5}}, {Name: "Plain - fine", RGB: color.RGB8{R: 3}}, {Name: "Fjäll", RGB: color.RGB8{R: 4}},
	}
	e := library.Edition{House: "H", Set: "S", Colors: colors}
	for _, p := range []string{"csv", "tsv"} {
		packing, err := swatchfile.FindPacking(p)
		require.NoError(t, err)
		data, err := packing.Write(e)
		require.NoError(t, err)
		assert.Equal(t, p == "csv", bytes.HasPrefix(data, []byte("\ufeff")), "spreadsheets need the mark to read what is not ASCII")
		for line := range strings.Lines(string(data)) {
			for cell := range strings.FieldsFuncSeq(line, func(r rune) bool { return r == ',' || r == '\t' || r == '"' || r == '\n' }) {
				assert.NotContains(t, "=+-@", cell[:1], "%s: %s", p, cell)
			}
		}
		assert.Contains(t, strings.Join(packing.Loses(e), "\n"), "5 texts would run as formulas")
		l, err := swatchfile.ReadTable(data)
		require.NoError(t, err)
		require.Len(t, l.Colors, len(colors))
		for i, c := range l.Colors {
			assert.Equal(t, colors[i].Name, c.Name, p)
		}
		assert.Equal(t, []string{"+plus", "-minus", "@at"}, []string{l.Colors[0].Group, l.Colors[0].Rule, l.Colors[0].Aliases[0]})
	}
	plain, err := swatchfile.WriteCSV(library.Edition{Set: "S", Colors: colors[3:4]})
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(plain, []byte("Name,")), "no mark where none is needed")
	l, err := swatchfile.ReadTable([]byte("\ufeff\"Colour name\";\"Hex\"\n\"Sea; deep\";#0E3A53\n"))
	require.NoError(t, err)
	assert.Equal(t, "Sea; deep", l.Colors[0].Name)
}

func TestVariablesThatSCSSTakes(t *testing.T) {
	var colors []library.Color
	for i, name := range []string{"1 Sea", "color 1 Sea", "Sea", "sea", "2026 Colors", "Ωmega"} {
		colors = append(colors, library.Color{Name: name, RGB: color.RGB8{R: uint8(i)}})
	}
	e := library.Edition{Set: "2026", Colors: colors}
	data, err := swatchfile.WriteSCSS(e)
	require.NoError(t, err)
	names := regexp.MustCompile(`(?m)^\$([^:]+):`).FindAllStringSubmatch(string(data), -1)
	require.Len(t, names, len(colors)+1)
	seen := map[string]bool{}
	for _, n := range names {
		assert.Regexp(t, `^[\p{L}_][\p{L}\p{N}_-]*$`, n[1])
		assert.False(t, seen[n[1]], "%s stands twice", n[1])
		seen[n[1]] = true
	}
	scss, err := swatchfile.FindPacking("scss")
	require.NoError(t, err)
	assert.Contains(t, strings.Join(scss.Loses(e), "\n"), "that of 1 Sea is $color-1-sea")
	back, err := swatchfile.ReadStyles(data)
	require.NoError(t, err)
	assert.Equal(t, "1 Sea", back.Colors[0].Name, "the comment keeps the name")
}

func TestFileNamesAndPackings(t *testing.T) {
	e := edition(t)
	ends := map[string]bool{}
	for _, p := range swatchfile.Packings() {
		assert.False(t, ends[p.Extension], "%s: no two packings end in %s", p.Name, p.Extension)
		ends[p.Extension] = true
		assert.NotEmpty(t, p.Load, p.Name)
		same, err := swatchfile.FindPacking(p.Name)
		require.NoError(t, err)
		assert.Equal(t, "odelwick-ferries-core"+p.Extension, same.FileName(e))
	}
	for was, is := range map[string]string{"office-theme": "deck", "png": "swatch-png"} {
		p, err := swatchfile.FindPacking(was)
		require.NoError(t, err)
		assert.Equal(t, is, p.Name, "a name of before still works")
	}
	_, err := swatchfile.FindPacking("clay")
	assert.ErrorContains(t, err, "there is no packing \"clay\"; there are deck, deck-template")
}

// The theme of the pages is the first one, also when there are more than nine; notes have their own.
func TestThemesOfPagesComeFirst(t *testing.T) {
	theme := func(hex string) string {
		return `<a:theme xmlns:a="x" name="T"><a:themeElements><a:clrScheme name="S"><a:accent1><a:srgbClr val="` + hex + `"/></a:accent1></a:clrScheme></a:themeElements></a:theme>`
	}
	pack := func(parts map[string]string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range parts {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, _ = w.Write([]byte(text))
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	l, r, err := swatchfile.Read("deck.pptx", pack(map[string]string{"[Content_Types].xml": "<Types/>", "ppt/theme/theme10.xml": theme("000000"), "ppt/theme/theme2.xml": theme("E2572B")}))
	require.NoError(t, err)
	assert.Equal(t, "office-theme", r.Name)
	assert.Equal(t, "accent1 #E2572B", listed(l))
	_, _, err = swatchfile.Read("deck.pptx", pack(map[string]string{"[Content_Types].xml": "<Types/>", "ppt/theme/theme1.xml": theme("orange")}))
	assert.ErrorContains(t, err, "ppt/theme/theme1.xml: line 1")
	_, _, err = swatchfile.Read("deck.pptx", pack(map[string]string{"[Content_Types].xml": "<Types/>", "ppt/presentation.xml": "<p/>"}))
	assert.ErrorContains(t, err, "it has no theme")
	l, _, err = swatchfile.Read("a.csv", []byte("PKey,Name,Hex\n1,Buoy,#E2572B\n"))
	require.NoError(t, err, "a table whose first letters are those of an archive")
	assert.Equal(t, "Buoy #E2572B", listed(l))
}

// A characterization that has spectra only is worked out; factors and percent are told apart, and what cannot be worked out is told.
func TestSpectraOfACharacterization(t *testing.T) {
	file := func(norm string, scale float64, from int, names string) []byte {
		var b strings.Builder
		b.WriteString("CGATS.17\n" + norm + "BEGIN_DATA_FORMAT\nSAMPLE_ID CMYK_C CMYK_M CMYK_Y CMYK_K")
		for nm := from; nm <= 730; nm += 10 {
			fmt.Fprintf(&b, " %s%d", names, nm)
		}
		b.WriteString("\nEND_DATA_FORMAT\nBEGIN_DATA\n")
		for i, r := range []float64{1, 0.5, 0.02} {
			fmt.Fprintf(&b, "P%d 0 0 0 %d", i+1, 40*i)
			for nm := from; nm <= 730; nm += 10 {
				fmt.Fprintf(&b, " %.5f", r*scale)
			}
			b.WriteString("\n")
		}
		b.WriteString("END_DATA\n")
		return []byte(b.String())
	}
	for name, data := range map[string][]byte{
		"factors": file("", 1, 380, "SPECTRAL_NM"), "percent": file("", 100, 400, "SPEC_"), "percent of dark ones": file("SPECTRAL_NORM \"100.0\"\n", 100, 380, "SPECTRAL_NM_"),
	} {
		l, kind, err := swatchfile.Read("run.txt", data)
		require.NoError(t, err, name)
		assert.NotEmpty(t, kind)
		require.Len(t, l.Colors, 3, name)
		for i, want := range []float64{100, 76.07, 15.49} { // 116 cbrt(Y) - 16
			assert.InDelta(t, want, l.Colors[i].Reading().L, 0.02, "%s, %s", name, l.Colors[i].Name)
			assert.InDelta(t, 0, l.Colors[i].Reading().A, 0.01, name)
			assert.Equal(t, 40*float64(i), l.Colors[i].Builds[0].Value.K, name)
			assert.Equal(t, l.Colors[i].RGB, l.Colors[i].Builds[0].For, name)
		}
	}
	l, _, err := swatchfile.Read("run.txt", file("", 1, 500, "SPEC_"))
	if err == nil {
		assert.Empty(t, l.Colors)
		assert.Contains(t, strings.Join(l.Notes, " "), "the spectrum cannot be worked out")
	}
}
