package swatchfile_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

// odf packs an open document of the parts given.
func odf(t *testing.T, kind string, parts map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	write := func(name, text string) {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	write("mimetype", "application/vnd.oasis.opendocument."+kind)
	for name, body := range parts {
		write(name, `<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0">`+body+`</office:document>`)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestATableOfAnOpenDocumentIsReadAsOne(t *testing.T) {
	styles := `<style:style style:name="Accent_20_1"><style:text-properties fo:color="#000080"/></style:style>`
	cell := func(texts ...string) string {
		out := "<table:table-row>"
		for _, s := range texts {
			out += "<table:table-cell><text:p>" + s + "</text:p></table:table-cell>"
		}
		return out + `<table:table-cell table:number-columns-repeated="16000"/></table:table-row>`
	}
	content := `<table:table table:name="Notes">` + cell("nothing", "here") + `</table:table>
	<table:table table:name="Colors">` + cell("Our colors") + cell("Name", "Hex", "CMYK") +
		cell("Deep <text:s/>Sound", "#0E3A53", "99/55/22/63") + cell("Buoy", "#E2572B", "") +
		`<table:table-row table:number-rows-repeated="2">` + `<table:table-cell><text:p>Fog</text:p></table:table-cell><table:table-cell><text:p>#C9D1D3</text:p><office:annotation><text:p>checked</text:p></office:annotation></table:table-cell></table:table-row>
		<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>`
	l, _, err := swatchfile.Read("a.ods", odf(t, "spreadsheet", map[string]string{"content.xml": content, "styles.xml": styles}))
	require.NoError(t, err)
	assert.Equal(t, "Deep Sound #0E3A53, Buoy #E2572B, Fog #C9D1D3, Fog #C9D1D3", listed(l))
	assert.Equal(t, "99 55 22 63", l.Colors[0].Builds[0].Value.String())

	l, _, err = swatchfile.Read("a.otp", odf(t, "presentation-template", map[string]string{"content.xml": "<x/>",
		"styles.xml": styles + `<draw:gradient draw:name="Dusk_20_sky" draw:start-color="#0E3A53" draw:end-color="#F2B632"/><style:style style:name="Veil"><style:graphic-properties draw:fill-color="#C9D1D3" draw:opacity="40%"/></style:style>`}))
	require.NoError(t, err)
	assert.Equal(t, "Accent 1 text #000080, Dusk sky start #0E3A53, Dusk sky end #F2B632, Veil fill #C9D1D3", listed(l))
	assert.Contains(t, l.Notes, "Transparent in the file, read as opaque: Veil fill.")
	assert.Equal(t, map[int]float64{3: 0.4}, l.Alpha)
	_, _, err = swatchfile.Read("a.ods", odf(t, "spreadsheet", map[string]string{"content.xml": `<table:table table:name="T">` + cell("name", "hex") + cell("Tide", "#12") + `</table:table>`}))
	assert.ErrorContains(t, err, "table T, row 2")
}

// The table comes from an office suite: what one program's workbook says, another's spreadsheet must say too.
func TestASpreadsheetThatAnOfficeSuiteWrote(t *testing.T) {
	need(t, "soffice", "libreoffice")
	e := edition(t)
	book, err := swatchfile.WriteWorkbook(e)
	require.NoError(t, err)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "set.xlsx"), book, 0o600))
	cmd := exec.Command("soffice", "-env:UserInstallation=file://"+dir+"/profile", "--headless", "--convert-to", "ods", "--outdir", dir, filepath.Join(dir, "set.xlsx"))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	data, err := os.ReadFile(filepath.Join(dir, "set.ods"))
	require.NoError(t, err)
	l, _, err := swatchfile.Read("set.ods", data)
	require.NoError(t, err)
	require.Len(t, l.Colors, len(e.Colors))
	for i, c := range e.Colors {
		assert.Equal(t, c.Name+" "+c.RGB.Hex(), l.Colors[i].Name+" "+l.Colors[i].RGB.Hex())
	}
}

func TestTokensOfOlderAndOfNewerForms(t *testing.T) {
	l, _, err := swatchfile.Read("a.json", []byte(`{
	  "base": {"$type": "color", "sea": {"$value": "#0E3A53"}, "fire": {"$value": "#E2572B"}, "$description": "what all have"},
	  "night": {"$extends": "{base}", "fire": {"$value": "#B8442A"}, "moon": {"$value": "#F7F5F0"}},
	  "deep": {"$extends": {"$ref": "#/night"}, "$type": "color", "moon": {"$value": "{base.sea}"}},
	  "link": {"$type": "color", "$value": "{night.sea}"},
	  "lost": {"$type": "color", "$value": "{gone.away}"},
	  "size": {"$type": "dimension", "$value": "{gone.too}"},
	  "glass": {"$type": "color", "$value": {"colorSpace": "srgb", "components": [0, 0, 1], "alpha": 0.5}}}`))
	require.NoError(t, err)
	assert.Equal(t, "base.sea #0E3A53, base.fire #E2572B, night.sea #0E3A53, night.fire #B8442A, night.moon #F7F5F0, "+
		"deep.sea #0E3A53, deep.fire #B8442A, deep.moon #0E3A53, link #0E3A53, glass #0000FF", listed(l))
	assert.Equal(t, []string{"lost: the alias leads nowhere, so there is no color to read.", "Transparent in the file, read as opaque: glass."}, l.Notes)

	l, _, err = swatchfile.Read("a.json", []byte(`{"color": {"sea": {"value": "#0E3A53", "type": "color"}, "call": {"value": "{color.sea.value}", "type": "color"},
	  "old": {"value": "rgb(226 87 43)"}, "gap": {"value": "4px"}, "face": {"value": "Fog", "type": "fontFamily"}}}`))
	require.NoError(t, err)
	assert.Equal(t, "sea #0E3A53, call #0E3A53, old #E2572B", listed(l))
	for text, part := range map[string]string{
		`{"a": {"$extends": "{b}"}, "b": {"$extends": "{a}"}}`:          "extends itself",
		`{"a": {"$type": "color", "$extends": "{b.c}"}, "b": {"x": 1}}`: "group a: $extends {b.c}: its alias {b.c} leads nowhere",
	} {
		_, err := swatchfile.ReadTokens([]byte(text))
		assert.ErrorContains(t, err, part)
	}
}

func TestExchangeFilesInEveryUnit(t *testing.T) {
	const specs = `<cc:ColorSpecificationCollection>
	  <cc:ColorSpecification Id="d65"><cc:TristimulusSpec><cc:Illuminant>D65</cc:Illuminant><cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>
	  <cc:ColorSpecification Id="wide"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant><cc:Observer>10_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>
	  <cc:ColorSpecification Id="m1"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant><cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec><cc:MeasurementSpec><cc:WavelengthRange StartWL="380" Increment="10"/></cc:MeasurementSpec></cc:ColorSpecification>
	</cc:ColorSpecificationCollection>`
	read := func(values string) (swatchfile.Library, error) {
		l, _, err := swatchfile.Read("a.cxf", []byte(`<cc:CxF xmlns:cc="http://colorexchangeformat.com/CxF3-core"><cc:Resources><cc:ObjectCollection><cc:Object Name="Lamp"><cc:ColorValues>`+
			values+`</cc:ColorValues></cc:Object></cc:ObjectCollection>`+specs+`</cc:Resources></cc:CxF>`))
		return l, err
	}
	lab := func(spec string, l, a, b float64) string {
		return fmt.Sprintf(`<cc:ColorCIELab ColorSpecification=%q><cc:L>%g</cc:L><cc:A>%g</cc:A><cc:B>%g</cc:B></cc:ColorCIELab>`, spec, l, a, b)
	}
	half := strings.TrimSpace(strings.Repeat("0.184187 ", 36)) // the reflectance whose L* is 50
	for _, c := range []struct {
		values string
		want   color.Lab
		note   string
	}{
		{lab("m1", 50, 20, -30), color.Lab{L: 50, A: 20, B: -30}, ""},
		{lab("d65", 50, 20, -30), color.Lab{L: 50, A: 20, B: -30}.Adapted(color.Whites["D65"]), "adapted to D50: Lamp"},
		{`<cc:ColorCIELCh ColorSpecification="m1"><cc:L>50</cc:L><cc:C>30</cc:C><cc:H>90</cc:H></cc:ColorCIELCh>`, color.Lab{L: 50, B: 30}, ""},
		{`<cc:ColorCIEXYZ ColorSpecification="d65"><cc:X>95.047</cc:X><cc:Y>100</cc:Y><cc:Z>108.883</cc:Z></cc:ColorCIEXYZ>`, color.Lab{L: 100}, "adapted"},
		{`<cc:ReflectanceSpectrum ColorSpecification="m1">` + half + `</cc:ReflectanceSpectrum>`, color.Lab{L: 50}, ""},
		{lab("wide", 1, 2, 3) + `<cc:ReflectanceSpectrum StartWL="400" ColorSpecification="m1">` + half + `</cc:ReflectanceSpectrum>`, color.Lab{L: 50}, ""},
	} {
		l, err := read(c.values)
		require.NoError(t, err, c.values)
		require.Len(t, l.Colors, 1)
		assert.Less(t, color.DeltaE00(c.want, *l.Colors[0].Reading()), 0.01, "%s: %v", c.values, *l.Colors[0].Reading())
		assert.Contains(t, strings.Join(l.Notes, " "), c.note)
	}
	// A spectrum stays with its reading, and comes back; one that looks otherwise than the CIELAB beside it is told.
	spectrum := func(values string) string {
		return `<cc:ReflectanceSpectrum StartWL="380" ColorSpecification="m1">` + values + `</cc:ReflectanceSpectrum>`
	}
	for values, note := range map[string]string{lab("m1", 50, 0, 0) + spectrum(half): "", spectrum(half): "", lab("d65", 50, 0, 0) + spectrum(half): "",
		lab("m1", 58, 9, 0) + spectrum(half):       "Their spectrum is not what their CIELAB says, which was taken: Lamp.",
		spectrum(strings.Repeat("0.184187 ", 360)): "Spectra of more than 101 values are kept at every 10 nm."} {
		l, err := read(values)
		require.NoError(t, err)
		assert.Equal(t, note, strings.Join(l.Notes, " "))
		s, ok := l.Colors[0].Master.Spectrum()
		if note != "" && strings.Contains(values, "58") {
			assert.False(t, ok)
			continue
		}
		assert.Equal(t, [2]float64{380, 10}, [2]float64{s.Start, s.Step})
		assert.Equal(t, 0.1842, s.Values[len(s.Values)-1])
		again, err := swatchfile.WriteCxF(library.Edition{House: "Odelwick Ferries", Set: "Core", Number: 1, Colors: l.Colors})
		require.NoError(t, err)
		back, _, err := swatchfile.Read("x.cxf", again)
		require.NoError(t, err)
		assert.Equal(t, l.Colors[0].Master, back.Colors[0].Master)
		assert.Empty(t, back.Notes)
	}
	_, err := read(lab("wide", 50, 0, 0))
	assert.ErrorContains(t, err, `object "Lamp" is measured for D50 and the 10 degree observer`)
	l, err := read(lab("wide", 50, 0, 0) + `<cc:ColorSRGB><cc:R>226</cc:R><cc:G>87</cc:G><cc:B>43</cc:B></cc:ColorSRGB>`)
	require.NoError(t, err)
	assert.Equal(t, "Lamp #E2572B", listed(l), "the screen value stands in")
	l, err = read(lab("m1", 50, 0, 0) + `</cc:ColorValues></cc:Object><cc:Object Name="Ghost"><cc:ColorValues>`)
	require.NoError(t, err, "an object without a value does not spoil the file")
	assert.Equal(t, []string{"Without a value that can be read, and left out: Ghost."}, l.Notes)
	_, err = read(`<cc:ReflectanceSpectrum ColorSpecification="m1">` + strings.Repeat("9 ", 40) + `</cc:ReflectanceSpectrum>`)
	assert.ErrorContains(t, err, "a reflectance of 9 is none")
}

func TestEveryReferenceOfAnExchangeFileHasItsTarget(t *testing.T) {
	data, err := swatchfile.WriteCxF(edition(t))
	require.NoError(t, err)
	used := 0
	for rest := string(data); ; {
		_, after, ok := strings.Cut(rest, `ColorSpecification="`)
		if !ok {
			break
		}
		id, _, _ := strings.Cut(after, `"`)
		assert.Contains(t, string(data), `<cc:ColorSpecification Id="`+id+`"`)
		rest = after
		used++
	}
	assert.Greater(t, used, 3)
}

func TestChartLayoutsAndLaterTables(t *testing.T) {
	_, _, err := swatchfile.Read("a.cht", []byte("BOXES 3\n  F _ _ 0 0 100 0 100 100 0 100\n  X A C 1 3 10 10 5 5 2 2\n\nBOX_SHRINK 1.5\nREF_ROTATION 0\n\nEXPECTED XYZ 2\nA1 10 20 30\nA2 11 12 13\n"))
	assert.ErrorContains(t, err, "layout of a test chart")
	l, _, err := swatchfile.Read("a.ti3", []byte("CTI3\nBEGIN_DATA_FORMAT\nSAMPLE_ID RGB_R RGB_G RGB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n1 226 87 43\nEND_DATA\n"+
		"CAL\nBEGIN_DATA_FORMAT\nRGB_I RGB_R RGB_G RGB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n0 0 0 0\n1 1 1 1\nEND_DATA\n"))
	require.NoError(t, err)
	assert.Equal(t, "1 #E2572B", listed(l))
	assert.Equal(t, []string{"Only its first table was read; another begins in line 9."}, l.Notes)
}

func TestCommentsThatDescribeAreNoNames(t *testing.T) {
	l, _, err := swatchfile.Read("a.css", []byte(`/** Ferries **/
:root {
  --deep-sound: #0E3A53; /* Deep Sound */
  --text: #111111; /** text **/
  --link: #E2572B; /* Used for links and buttons. */
  --brand-1: #F2B632; /* Lamp */
  --edge: #C9D1D3; /* hairlines */
  --veil: #FFFFFF80;
}`))
	require.NoError(t, err)
	assert.Equal(t, "Deep Sound #0E3A53, text #111111, link #E2572B, Lamp #F2B632, edge #C9D1D3, veil #FFFFFF", listed(l))
	assert.Equal(t, []string{"Transparent in the file, read as opaque: veil."}, l.Notes)
}

func TestWhatIsNotOpaqueIsSaid(t *testing.T) {
	l, _, err := swatchfile.Read("a.csv", []byte("name,hex\nTide,#0E3A5380\nBuoy,rgb(300 87 43)\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"Transparent in the file, read as opaque: Tide.", "Out of range in the file, read as the nearest value in it: Buoy."}, l.Notes)
	l, _, err = swatchfile.Read("a.txt", []byte("Tide #0E3A5380\nBuoy #E2572B\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"Line 1, #0E3A5380: its transparency was left out; a brand color is opaque."}, l.Notes)
	l, _, err = swatchfile.Read("theme1.xml", []byte(`<a:theme xmlns:a="urn:a" name="Ferries"><a:themeElements><a:clrScheme name="Ferries"><a:dk1><a:srgbClr val="111111"/></a:dk1><a:accent1><a:srgbClr val="E2572B"><a:alpha val="50000"/></a:srgbClr></a:accent1></a:clrScheme>`+
		`<a:fmtScheme><a:fillStyleLst><a:schemeClr val="phClr"><a:alpha val="63000"/></a:schemeClr></a:fillStyleLst></a:fmtScheme></a:themeElements></a:theme>`))
	require.NoError(t, err)
	assert.Equal(t, []string{"Transparent in the file, read as opaque: accent1."}, l.Notes)
	assert.Equal(t, map[int]float64{1: 0.5}, l.Alpha)
}

func TestNamesThatAPackingCannotHaveAreChangedAndAnnounced(t *testing.T) {
	e := library.Edition{House: "Ferries", Set: "Odd", Colors: []library.Color{sample("Sea.deep {1}", "#0E3A53", "", ""), sample("$", "#E2572B", "", ""),
		sample("Sea deep 1", "#4E7D5B", "", ""), sample("sea-deep-1", "#F2B632", "", "")}}
	data, err := swatchfile.WriteTokens(e)
	require.NoError(t, err)
	for _, key := range []string{`"Sea_deep _1_"`, `"color"`} {
		assert.Contains(t, string(data), key)
	}
	said := func(packing string) string {
		p, err := swatchfile.FindPacking(packing)
		require.NoError(t, err)
		return strings.Join(p.Loses(e), "\n")
	}
	assert.Contains(t, said("tokens"), "that of Sea.deep {1} is Sea_deep _1_")
	assert.Contains(t, said("tokens"), "that of $ is color")
	assert.Contains(t, said("css"), "that of sea-deep-1 is --sea-deep-1-3")
	l, _, err := swatchfile.Read("a.json", data)
	require.NoError(t, err)
	assert.Len(t, l.Colors, 4)
}
