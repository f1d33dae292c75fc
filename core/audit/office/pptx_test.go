package office_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

// packed is a small presentation: one master with a theme, and slides with the given bodies. More parts and relations
// of slide 1 can be added.
func packed(t *testing.T, slides []string, more map[string]string, relations ...string) []byte {
	files := map[string]string{
		"[Content_Types].xml":  "<x/>",
		"_rels/.rels":          `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="ppt/presentation.xml"/></r>`,
		"ppt/m.xml":            `<p:sldMaster><p:clrMap bg1="lt1" tx1="dk1" bg2="lt2" tx2="dk2" accent1="accent1"/></p:sldMaster>`,
		"ppt/_rels/m.xml.rels": `<r><Relationship Id="t" Type="x/relationships/theme" Target="t.xml"/></r>`,
		"ppt/t.xml":            `<a:theme><a:clrScheme><a:dk1><a:srgbClr val="111111"/></a:dk1><a:lt1><a:srgbClr val="EEEEEE"/></a:lt1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
	}
	ids, rels := "", ""
	for i, body := range slides {
		n := i + 1
		ids += fmt.Sprintf(`<p:sldId r:id="s%d"/>`, n)
		rels += fmt.Sprintf(`<Relationship Id="s%d" Type="x/relationships/slide" Target="slides/s%d.xml"/>`, n, n)
		files[fmt.Sprintf("ppt/slides/s%d.xml", n)] = `<p:sld xmlns:r="r">` + body + `</p:sld>`
		own := `<Relationship Id="m" Type="x/relationships/slideMaster" Target="../m.xml"/>`
		if i == 0 {
			own += strings.Join(relations, "")
		}
		files[fmt.Sprintf("ppt/slides/_rels/s%d.xml.rels", n)] = `<r>` + own + `</r>`
	}
	files["ppt/presentation.xml"] = `<p:presentation><p:sldIdLst>` + ids + `</p:sldIdLst></p:presentation>`
	files["ppt/_rels/presentation.xml.rels"] = `<r>` + rels + `</r>`
	for n, text := range more {
		files[n] = text
	}
	return audittest.Zip(t, files)
}

func places(t *testing.T, data []byte) ([]string, *audit.Scan) {
	t.Helper()
	scan, err := kinds.Read("x.pptx", data)
	require.NoError(t, err)
	var out []string
	for _, u := range scan.Uses {
		out = append(out, strings.TrimPrefix(u.RGB.Hex()+" "+u.Where, "#"))
	}
	return out, scan
}

const (
	red   = `<a:srgbClr val="FF0000"/>`
	green = `<a:srgbClr val="00FF00"/>`
	solid = `<a:solidFill>` + red + `</a:solidFill>`
)

func box(inner string) string { return `<p:sp><p:cNvPr name="Box"/>` + inner + `</p:sp>` }

func TestWhereAColorOfASlideStands(t *testing.T) {
	for name, c := range map[string]struct {
		body string
		want []string
	}{
		"fill":                {box(`<p:spPr>` + solid + `</p:spPr>`), []string{"FF0000 slide 1, shape Box, fill"}},
		"line":                {box(`<p:spPr><a:ln>` + solid + `</a:ln></p:spPr>`), []string{"FF0000 slide 1, shape Box, line"}},
		"text":                {box(`<a:r><a:rPr>` + solid + `</a:rPr></a:r>`), []string{"FF0000 slide 1, shape Box, text"}},
		"text outline":        {box(`<a:rPr><a:ln>` + solid + `</a:ln></a:rPr>`), []string{"FF0000 slide 1, shape Box, text outline"}},
		"highlight":           {box(`<a:rPr><a:highlight>` + red + `</a:highlight></a:rPr>`), []string{"FF0000 slide 1, shape Box, highlight"}},
		"bullet":              {box(`<a:pPr><a:buClr>` + red + `</a:buClr></a:pPr>`), []string{"FF0000 slide 1, shape Box, bullet"}},
		"shadow and glow":     {box(`<p:spPr><a:effectLst><a:outerShdw>` + red + `</a:outerShdw><a:glow>` + green + `</a:glow></a:effectLst></p:spPr>`), []string{"FF0000 slide 1, shape Box, shadow", "00FF00 slide 1, shape Box, glow"}},
		"gradient":            {box(`<p:spPr><a:gradFill><a:gsLst><a:gs>` + red + `</a:gs><a:gs>` + green + `</a:gs></a:gsLst></a:gradFill></p:spPr>`), []string{"FF0000 slide 1, shape Box, fill, gradient", "00FF00 slide 1, shape Box, fill, gradient"}},
		"pattern":             {box(`<p:spPr><a:pattFill><a:fgClr>` + red + `</a:fgClr><a:bgClr>` + green + `</a:bgClr></a:pattFill></p:spPr>`), []string{"FF0000 slide 1, shape Box, fill, pattern", "00FF00 slide 1, shape Box, fill, pattern"}},
		"background":          {`<p:bg><p:bgPr>` + solid + `</p:bgPr></p:bg>`, []string{"FF0000 slide 1, background"}},
		"background by style": {`<p:bg><p:bgRef idx="1001">` + red + `</p:bgRef></p:bg>`, []string{"FF0000 slide 1, background"}},
		"picture effect":      {`<p:pic><p:cNvPr name="Photo"/><a:blip><a:duotone>` + red + green + `</a:duotone></a:blip></p:pic>`, []string{"FF0000 slide 1, shape Photo, picture effect", "00FF00 slide 1, shape Photo, picture effect"}},
		"connector":           {`<p:cxnSp><p:cNvPr name="Line"/><p:spPr><a:ln>` + solid + `</a:ln></p:spPr></p:cxnSp>`, []string{"FF0000 slide 1, shape Line, line"}},
		"without a name":      {`<p:sp><p:spPr>` + solid + `</p:spPr></p:sp>`, []string{"FF0000 slide 1, shape unnamed, fill"}},
		"group fill":          {`<p:grpSp><p:cNvPr name="G"/><p:grpSpPr>` + solid + `</p:grpSpPr>` + box(``) + `</p:grpSp>`, []string{"FF0000 slide 1, shape G, fill"}},
		"style":               {box(`<p:spPr/><p:style><a:lnRef idx="1">` + red + `</a:lnRef><a:fillRef idx="2">` + green + `</a:fillRef></p:style>`), []string{"FF0000 slide 1, shape Box, style line", "00FF00 slide 1, shape Box, style fill"}},
		"style overridden":    {box(`<p:spPr>` + solid + `<a:ln><a:noFill/></a:ln></p:spPr><p:style><a:lnRef idx="1">` + green + `</a:lnRef><a:fillRef idx="1">` + green + `</a:fillRef><a:effectRef idx="2">` + green + `</a:effectRef><a:fontRef idx="minor">` + green + `</a:fontRef></p:style>`), []string{"FF0000 slide 1, shape Box, fill"}},
		"style of none":       {box(`<p:spPr/><p:style><a:lnRef idx="0">` + red + `</a:lnRef><a:fillRef idx="0">` + red + `</a:fillRef></p:style>`), nil},
		"cell":                {`<p:graphicFrame><p:cNvPr name="Fares"/><a:tbl><a:tr><a:tc><a:tcPr><a:lnL>` + solid + `</a:lnL></a:tcPr></a:tc></a:tr><a:tr><a:tc/><a:tc><a:tcPr>` + solid + `</a:tcPr></a:tc></a:tr></a:tbl></p:graphicFrame>`, []string{"FF0000 slide 1, table Fares, row 1, cell 1, border", "FF0000 slide 1, table Fares, row 2, cell 2, fill"}},
		"another color map":   {box(`<p:spPr><a:solidFill><a:schemeClr val="bg1"/></a:solidFill></p:spPr>`) + `<p:clrMapOvr><a:overrideClrMapping bg1="dk1"/></p:clrMapOvr>`, []string{"111111 slide 1, shape Box, fill"}},
		"the master's map":    {box(`<p:spPr><a:solidFill><a:schemeClr val="bg1"/></a:solidFill></p:spPr>`), []string{"EEEEEE slide 1, shape Box, fill"}},
	} {
		t.Run(name, func(t *testing.T) {
			got, _ := places(t, packed(t, []string{c.body}, nil))
			assert.Equal(t, c.want, got)
		})
	}
}

func TestPartsOfASlide(t *testing.T) {
	chart := `<c:chartSpace><c:ser><c:tx><c:v>Cars</c:v></c:tx><c:spPr><a:ln>` + solid + `</a:ln></c:spPr><c:marker><c:spPr>` + solid + `</c:spPr></c:marker></c:ser><c:valAx><c:majorGridlines><c:spPr><a:ln>` + solid + `</a:ln></c:spPr></c:majorGridlines><c:spPr><a:ln>` + solid + `</a:ln></c:spPr></c:valAx></c:chartSpace>`
	frame := `<p:graphicFrame><p:cNvPr name="Ships"/><c:chart r:id="c"/></p:graphicFrame>`
	relation := func(id, kind, target string) string {
		return fmt.Sprintf(`<Relationship Id="%s" Type="x/relationships/%s" Target="%s"/>`, id, kind, target)
	}
	got, scan := places(t, packed(t, []string{frame, box(``)}, map[string]string{
		"ppt/charts/c.xml":   chart,
		"ppt/diagrams/d.xml": `<dsp:drawing><dsp:sp><dsp:cNvPr name="Node"/><dsp:spPr>` + solid + `</dsp:spPr></dsp:sp></dsp:drawing>`,
		"ppt/notes/n.xml":    `<p:notes>` + box(`<a:rPr>`+solid+`</a:rPr>`) + `</p:notes>`,
		"ppt/media/i.png":    "not read",
		"ppt/embed/b.xlsx":   "not read",
	}, relation("c", "chart", "../charts/c.xml"), relation("d", "diagramDrawing", "../diagrams/d.xml"), relation("n", "notesSlide", "../notes/n.xml"),
		relation("i", "image", "../media/i.png"), relation("b", "package", "../embed/b.xlsx"), relation("v", "vmlDrawing", "../v.vml"),
		`<Relationship Id="w" Type="x/relationships/hyperlink" Target="https://ferries.example/" TargetMode="External"/>`))
	assert.Equal(t, []string{
		"FF0000 slide 1, chart Ships, series 1 (Cars), line", "FF0000 slide 1, chart Ships, series 1 (Cars), marker",
		"FF0000 slide 1, chart Ships, grid line", "FF0000 slide 1, chart Ships, axis line",
		"FF0000 slide 1, diagram, shape Node, fill", "FF0000 slide 1 notes, shape Box, text"}, got)
	assert.Equal(t, "2 slides, 1 chart", scan.About)
	var unread []string
	for _, u := range scan.Unread {
		unread = append(unread, u.Path+": "+u.Why)
	}
	assert.Equal(t, []string{`ppt/v.vml: its part "ppt/v.vml" is missing`, "slide 1, b.xlsx: it is in a format that is not read", "slide 1, picture i.png: it is in a format that is not read"}, unread)
}

func TestAMissingSlideIsSaidNotSkipped(t *testing.T) {
	data := packed(t, []string{box(``)}, map[string]string{"ppt/presentation.xml": `<p:presentation><p:sldIdLst><p:sldId r:id="gone"/></p:sldIdLst></p:presentation>`})
	_, err := kinds.Read("x.pptx", data)
	assert.ErrorContains(t, err, "names a slide that is not there")
	data = packed(t, []string{box(``)}, nil, `<Relationship Id="c" Type="x/relationships/chart" Target="../charts/none.xml"/>`)
	_, err = kinds.Read("x.pptx", data)
	assert.ErrorContains(t, err, `"ppt/charts/none.xml" is missing`)
}
