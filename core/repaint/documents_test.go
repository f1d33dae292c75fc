package repaint_test

import (
	"archive/zip"
	"bytes"
	"image/png"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/library"
	"huekeep/core/pdfdoc"
	"huekeep/core/repaint"
)

// marked takes a text in which what is to change stands between ‹ and ›, and what it becomes: the text before, and the text after.
func marked(t *testing.T, text string, becomes []string) (before, after string, rest []string) {
	t.Helper()
	for {
		head, tail, found := strings.Cut(text, "‹")
		before, after = before+head, after+head
		if !found {
			return before, after, becomes
		}
		old, rest, ended := strings.Cut(tail, "›")
		require.True(t, ended)
		require.NotEmpty(t, becomes, "of %q nothing is said", old)
		before, after, text, becomes = before+old, after+becomes[0], rest, becomes[1:]
	}
}

// lampIn repaints all colors of a file to Lamp, #F2B632.
func lampIn(t *testing.T, name string, data []byte) *repaint.Result {
	t.Helper()
	rules := audit.Rules{Colors: []library.Color{{Name: "Lamp", RGB: hex("#F2B632"), Status: library.Approved}}}
	scan, err := kinds.Read(name, data)
	require.NoError(t, err)
	var plan repaint.Plan
	for _, k := range audit.NewJudge(rules).Judge(name, scan).Colors {
		plan.Colors = append(plan.Colors, repaint.Step{From: k.Hex, To: "Lamp"})
	}
	r, err := repaint.File(name, data, rules, plan, kinds.Options{})
	require.NoError(t, err)
	return r
}

func entry(t *testing.T, data []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	f, err := z.Open(name)
	require.NoError(t, err)
	text, err := io.ReadAll(f)
	require.NoError(t, err)
	return string(text)
}

// relations are those of a part to others, each of its kind.
func relations(kinds ...string) string {
	var b strings.Builder
	b.WriteString("<r>")
	for i := 0; i+1 < len(kinds); i += 2 {
		b.WriteString(`<Relationship Id="` + kinds[i] + `" Type="x/relationships/` + kinds[i] + `" Target="` + kinds[i+1] + `"/>`)
	}
	return b.String() + "</r>"
}

const plainTheme = `<a:theme><a:clrScheme><a:dk1><a:srgbClr val="F2B632"/></a:dk1><a:accent1>` + "%" + `</a:accent1></a:clrScheme></a:theme>`

// What stands in the parts of office files is written in the way that stands there, and nothing else of the part is different.
// What a diagram was drawn from is repainted with the drawing, so that an application that draws it anew shows the same; a color that only stands
// there counts.
func TestDiagramsAreRepaintedWithWhatTheyAreDrawnFrom(t *testing.T) {
	fill := func(hex string) string { return `<a:solidFill><a:srgbClr val="` + hex + `"/></a:solidFill>` }
	data := zipped(t, office("ppt/presentation.xml", "", `<p:presentation xmlns:r="r"><p:sldId r:id="s"/></p:presentation>`, [2]string{"ppt/_rels/presentation.xml.rels", `<r><Relationship Id="s" Type="x/relationships/slide" Target="s.xml"/></r>`},
		[2]string{"ppt/s.xml", `<p:sld><p:graphicFrame/></p:sld>`}, [2]string{"ppt/_rels/s.xml.rels", relations("diagramData", "d.xml", "diagramDrawing", "w.xml", "diagramColors", "c.xml")},
		[2]string{"ppt/d.xml", "<dgm:dataModel>" + fill("E1572C") + fill("F1B531") + "</dgm:dataModel>"}, [2]string{"ppt/c.xml", "<dgm:colorsDef>" + fill("E1572C") + "</dgm:colorsDef>"},
		[2]string{"ppt/w.xml", "<dsp:drawing>" + fill("E1572C") + "</dsp:drawing>"})...)
	rules := audit.Rules{Colors: brand}
	scan, err := kinds.Read("x.pptx", data)
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("x.pptx", scan)
	assert.Equal(t, 2, report.Uses, "the drawn color, and the one that is not drawn")
	r, err := repaint.File("x.pptx", data, rules, repaint.Usual(report), kinds.Options{})
	require.NoError(t, err)
	assert.Empty(t, r.Left)
	assert.Equal(t, "<dgm:dataModel>"+fill("E2572B")+fill("F2B632")+"</dgm:dataModel>", entry(t, r.Data, "ppt/d.xml"))
	assert.Equal(t, "<dgm:colorsDef>"+fill("E2572B")+"</dgm:colorsDef>", entry(t, r.Data, "ppt/c.xml"))
}

func TestPlacesOfOfficeFilesAreRewritten(t *testing.T) {
	accent := func(text string) string { return strings.ReplaceAll(plainTheme, "%", text) }
	kinds := map[string]string{"t": "theme", "s": "styles", "n": "numbering", "f": "footnotes", "h": "sharedStrings"}
	related := func(of string, parts [][2]string, more ...string) [2]string {
		for _, p := range parts {
			more = append(more, kinds[strings.TrimSuffix(path.Base(p[0]), ".xml")], path.Base(p[0]))
		}
		return [2]string{of, relations(more...)}
	}
	word := func(body string, more ...[2]string) [][2]string {
		return append(office("word/document.xml", "", `<w:document><w:body>`+body+`</w:body></w:document>`, related("word/_rels/document.xml.rels", more)), more...)
	}
	theme := func(name, accent1 string) [2]string { return [2]string{name, accent(accent1)} }
	fixed := `<a:srgbClr val="F2B632"/>`
	book := func(sheet, styles string, more ...[2]string) [][2]string {
		return append(office("xl/workbook.xml", "", `<workbook xmlns:r="r"><sheets><sheet name="A" r:id="worksheet"/></sheets></workbook>`,
			related("xl/_rels/workbook.xml.rels", more, "worksheet", "w.xml", "styles", "y.xml"),
			[2]string{"xl/w.xml", "<worksheet>" + sheet + "</worksheet>"}, [2]string{"xl/y.xml", "<styleSheet>" + styles + "</styleSheet>"}), more...)
	}
	slide := func(body string, more ...[2]string) [][2]string {
		return append(office("ppt/presentation.xml", "", `<p:presentation xmlns:r="r"><p:sldId r:id="slide"/></p:presentation>`,
			[2]string{"ppt/_rels/presentation.xml.rels", relations("slide", "s.xml")}, [2]string{"ppt/s.xml", "<p:sld>" + body + "</p:sld>"}), more...)
	}
	const cell = `<sheetData><row r="2"><c r="B2" s="1"><v>1</v></c></row></sheetData>`
	const second = `<cellXfs><xf/><xf fontId="1" fillId="1"/></cellXfs>`
	for name, c := range map[string]struct {
		file    string
		parts   [][2]string
		becomes []string
		left    string
	}{
		"runs, in capitals and small": {"x.docx", word(`<w:r><w:rPr><w:color w:val="‹E2572B›"/></w:rPr><w:t>E2572B</w:t></w:r><w:r><w:rPr><w:color w:val = '‹e2572b›'/></w:rPr></w:r>`, theme("word/t.xml", fixed)), []string{"F2B632", "f2b632"}, ""},
		"a slot of the theme":         {"x.docx", word(`<w:r><w:rPr><w:color w:val="‹E2572B›" w:themeColor="accent1"/></w:rPr></w:r>`, theme("word/t.xml", `<a:srgbClr val="‹E2572B›"/>`)), []string{"F2B632", "F2B632"}, ""},
		"shadings of two colors":      {"x.docx", word(`<w:p><w:pPr><w:shd w:val="pct20" w:color="‹E2572B›" w:fill="‹0E3A53›"/></w:pPr></w:p>`, theme("word/t.xml", fixed)), []string{"F2B632", "F2B632"}, ""},
		"borders and underlines":      {"x.docx", word(`<w:p><w:pPr><w:pBdr><w:top w:val="single" w:sz="4" w:color="‹E2572B›"/></w:pBdr></w:pPr><w:r><w:rPr><w:u w:val="single" w:color="‹E2572B›"/></w:rPr></w:r></w:p>`, theme("word/t.xml", fixed)), []string{"F2B632", "F2B632"}, ""},
		"styles and lists": {"x.docx", word(`<w:p/>`, theme("word/t.xml", fixed), [2]string{"word/s.xml", `<w:styles><w:docDefaults><w:rPrDefault><w:rPr><w:color w:val="‹E2572B›"/></w:rPr></w:rPrDefault></w:docDefaults><w:style w:styleId="a"><w:name w:val="A"/><w:tblStylePr w:type="firstRow"><w:tcPr><w:shd w:val="clear" w:fill="‹E2572B›"/></w:tcPr></w:tblStylePr></w:style></w:styles>`},
			[2]string{"word/n.xml", `<w:numbering><w:lvl><w:rPr><w:color w:val="‹E2572B›"/></w:rPr></w:lvl></w:numbering>`}, [2]string{"word/f.xml", `<w:footnotes><w:r><w:rPr><w:color w:val="‹E2572B›"/></w:rPr></w:r></w:footnotes>`}), []string{"F2B632", "F2B632", "F2B632", "F2B632"}, ""},
		"a highlight is one of sixteen": {"x.docx", word(`<w:r><w:rPr><w:highlight w:val="red"/></w:rPr></w:r>`, theme("word/t.xml", fixed)), nil, "highlight"},
		"older drawings":                {"x.docx", word(`<w:pict><v:rect fillcolor="‹#E2572B›" strokecolor='‹red›'/><v:rect filled="f" fillcolor="#E2572B"/></w:pict>`, theme("word/t.xml", fixed)), []string{"#F2B632", "#f2b632"}, ""},
		"places in a palette":           {"x.docx", word(`<w:pict><v:rect fillcolor="‹#E2572B [3204]›" strokecolor="#E2572B [80]"><v:textbox><w:p><w:r><w:rPr><w:color w:val="‹E2572B›"/></w:rPr></w:r></w:p></v:textbox></v:rect><v:rect fillcolor="‹#E2572B›"/></w:pict>`), []string{"#F2B632", "F2B632", "#F2B632"}, ""},
		"drawings":                      {"x.docx", word(`<w:drawing><a:solidFill><a:srgbClr val="‹E2572B›"><a:alpha val="50000"/></a:srgbClr></a:solidFill><a:solidFill>‹<a:prstClr val="red"/>›</a:solidFill></w:drawing>`, theme("word/t.xml", fixed)), []string{"F2B632", `<a:srgbClr val="F2B632"/>`}, ""},
		"a color of the system":         {"x.docx", word(`<w:drawing><a:solidFill>‹<a:sysClr val="windowText" lastClr="E2572B"/>›</a:solidFill></w:drawing>`, theme("word/t.xml", fixed)), []string{`<a:srgbClr val="F2B632"/>`}, ""},

		"fonts and fills of cells":   {"x.xlsx", book(cell, `<fonts><font/><font><color rgb="‹FFE2572B›"/></font></fonts><fills><fill/><fill><patternFill patternType="solid"><fgColor rgb="‹00e2572b›"/></patternFill></fill></fills>`+second), []string{"FFF2B632", "00f2b632"}, ""},
		"the palette of old":         {"x.xlsx", book(cell, `<fonts><font/><font>‹<color indexed="10"/>›</font></fonts>`+second), []string{`<color rgb="FFF2B632"/>`}, ""},
		"a palette of its own":       {"x.xlsx", book(cell, `<fonts><font/><font><color indexed="8"/></font></fonts>`+second+`<colors><indexedColors>`+strings.Repeat(`<rgbColor rgb="00F2B632"/>`, 8)+`<rgbColor rgb="‹00E2572B›"/></indexedColors></colors>`), []string{"00F2B632"}, ""},
		"a slot of the workbook":     {"x.xlsx", book(cell, `<fonts><font/><font><color theme="4"/></font></fonts>`+second, theme("xl/t.xml", `<a:srgbClr val="‹E2572B›"/>`)), []string{"F2B632"}, ""},
		"tabs, headers and rules":    {"x.xlsx", book(`<sheetPr><tabColor rgb="‹FFE2572B›"/></sheetPr><conditionalFormatting sqref="A1"><cfRule><colorScale><color rgb="‹FFE2572B›"/></colorScale></cfRule></conditionalFormatting><headerFooter><oddHeader>&amp;C&amp;K‹E2572B›Fares &amp;&amp;K123456</oddHeader></headerFooter>`, `<dxfs><dxf><fill><patternFill><bgColor rgb="‹FFE2572B›"/></patternFill></fill></dxf></dxfs>`), []string{"FFF2B632", "FFF2B632", "F2B632", "FFF2B632"}, ""},
		"runs of text in cells":      {"x.xlsx", book(`<sheetData><row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="inlineStr"><is><r><rPr><color rgb="‹FFE2572B›"/></rPr><t>a</t></r></is></c></row></sheetData>`, "", [2]string{"xl/h.xml", `<sst><si><r><rPr><color rgb="‹FFE2572B›"/></rPr><t>FFE2572B</t></r></si></sst>`}), []string{"FFF2B632", "FFF2B632"}, ""},
		"a number format has words":  {"x.xlsx", book(cell, `<numFmts><numFmt numFmtId="164" formatCode="[Green]0;[Red]-0;[Color10]0"/></numFmts>`+second), nil, "number format"},
		"shapes and texts of slides": {"x.pptx", slide(`<p:sp><p:cNvPr name="A"/><a:solidFill><a:srgbClr val="‹E2572B›"/></a:solidFill><a:ln><a:solidFill><a:srgbClr val="‹e2572b›"/></a:solidFill></a:ln><a:rPr><a:highlight><a:srgbClr val="‹E2572B›"/></a:highlight></a:rPr></p:sp>`), []string{"F2B632", "f2b632", "F2B632"}, ""},
		"charts of slides":           {"x.pptx", slide(`<p:graphicFrame/>`, [2]string{"ppt/_rels/s.xml.rels", relations("chart", "c.xml")}, [2]string{"ppt/c.xml", `<c:chartSpace><c:ser><c:spPr><a:solidFill><a:srgbClr val="‹E2572B›"/></a:solidFill></c:spPr></c:ser></c:chartSpace>`}), []string{"F2B632"}, ""},
		"a drawing of a diagram":     {"x.pptx", slide(`<p:graphicFrame/>`, [2]string{"ppt/_rels/s.xml.rels", relations("diagramData", "d.xml", "diagramDrawing", "w.xml")}, [2]string{"ppt/d.xml", `<dgm:dataModel><a:srgbClr val="‹E2572B›"/></dgm:dataModel>`}, [2]string{"ppt/w.xml", `<dsp:drawing><a:solidFill><a:srgbClr val="‹E2572B›"/></a:solidFill></dsp:drawing>`}), []string{"F2B632", "F2B632"}, ""},
		"a diagram without one":      {"x.pptx", slide(`<p:graphicFrame/>`, [2]string{"ppt/_rels/s.xml.rels", relations("diagramData", "d.xml")}, [2]string{"ppt/d.xml", `<dgm:dataModel><a:solidFill><a:srgbClr val="‹E2572B›"/></a:solidFill></dgm:dataModel>`}), []string{"F2B632"}, ""},
		"notes and comments": {"x.pptx", slide(`<p:sp/>`, [2]string{"ppt/_rels/s.xml.rels", relations("notesSlide", "n.xml")}, [2]string{"ppt/n.xml", `<p:notes><p:sp><a:rPr><a:solidFill><a:srgbClr val="‹E2572B›"/></a:solidFill></a:rPr></p:sp></p:notes>`}),
			[]string{"F2B632"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			rest := c.becomes
			var before, after [][2]string
			for _, p := range c.parts {
				var b, a string
				b, a, rest = marked(t, p[1], rest)
				before, after = append(before, [2]string{p[0], b}), append(after, [2]string{p[0], a})
			}
			require.Empty(t, rest)
			r := lampIn(t, c.file, zipped(t, before...))
			for _, p := range after {
				assert.Equal(t, p[1], entry(t, r.Data, p[0]), p[0])
			}
			if c.left == "" {
				assert.Empty(t, r.Left)
			} else if assert.NotEmpty(t, r.Left) {
				assert.Contains(t, r.Left[0].Why+r.Left[0].Where, c.left)
			}
		})
	}
}

// The same for open documents, as one file of XML.
func TestPlacesOfOpenDocumentsAreRewritten(t *testing.T) {
	document := func(styles, body string) string {
		return `<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" office:mimetype="application/vnd.oasis.opendocument.text"><office:automatic-styles>` + styles + `</office:automatic-styles><office:body><office:text>` + body + `</office:text></office:body></office:document>`
	}
	for name, c := range map[string]struct{ styles, body, becomes string }{
		"texts and grounds":   {`<style:style style:name="P1" style:family="paragraph"><style:paragraph-properties fo:background-color="‹#E2572B›"/><style:text-properties fo:color="‹#e2572b›" fo:background-color="transparent"/></style:style>`, `<text:p text:style-name="P1">#E2572B</text:p>`, "#F2B632 #f2b632"},
		"borders in words":    {`<style:style style:name="P1" style:family="paragraph"><style:paragraph-properties fo:border="0.06pt solid ‹#E2572B›" fo:border-left="none" style:shadow="‹#0e3a53› 0.1cm 0.1cm"/></style:style>`, `<text:p text:style-name="P1">a</text:p>`, "#F2B632 #f2b632"},
		"lines and fills":     {`<style:style style:name="g" style:family="graphic"><style:graphic-properties draw:fill="solid" draw:fill-color="‹#E2572B›" svg:stroke-color="‹#E2572B›" draw:shadow="visible" draw:shadow-color="‹#E2572B›"/></style:style>`, `<draw:rect draw:style-name="g"/>`, "#F2B632 #F2B632 #F2B632"},
		"underlines":          {`<style:style style:name="T1" style:family="text"><style:text-properties style:text-underline-style="solid" style:text-underline-color="‹#E2572B›" style:text-line-through-color="font-color"/></style:style>`, `<text:p><text:span text:style-name="T1">a</text:span></text:p>`, "#F2B632"},
		"gradients, hatches":  {`<draw:gradient draw:name="a" draw:start-color="‹#E2572B›" draw:end-color="‹#0e3a53›"/><draw:hatch draw:name="b" draw:color="‹#E2572B›"/><style:style style:name="g" style:family="graphic"><style:graphic-properties draw:fill="gradient" draw:fill-gradient-name="a"/></style:style>`, `<draw:rect draw:style-name="g"/>`, "#F2B632 #f2b632 #F2B632"},
		"cells of tables":     {`<style:style style:name="c" style:family="table-cell"><style:table-cell-properties fo:background-color='‹#E2572B›'/></style:style>`, `<table:table table:name="A"><table:table-row><table:table-cell table:style-name="c"/></table:table-row></table:table>`, "#F2B632"},
		"automatic colors":    {`<style:style style:name="P1" style:family="paragraph"><style:text-properties style:use-window-font-color="true" fo:color="‹#E2572B›"/></style:style>`, `<text:p text:style-name="P1">a</text:p>`, "#F2B632"},
		"sparklines":          {``, `<table:table table:name="A"><calcext:sparkline-groups><calcext:sparkline-group calcext:high="true" calcext:color-series="‹#e2572b›" calcext:color-high="‹#E2572B›" calcext:color-low="‹#e2572b›"/></calcext:sparkline-groups></table:table>`, "#f2b632 #F2B632 #f2b632"},
		"a comment in markup": {`<style:style style:name="P1" style:family="paragraph"><!-- fo:color="#E2572B" --><style:text-properties fo:color="‹#E2572B›"/></style:style>`, `<text:p text:style-name="P1">a</text:p>`, "#F2B632"},
	} {
		t.Run(name, func(t *testing.T) {
			before, after, rest := marked(t, document(c.styles, c.body), strings.Fields(c.becomes))
			require.Empty(t, rest)
			r := lampIn(t, "x.fodt", []byte(before))
			assert.Equal(t, after, string(r.Data))
			assert.Empty(t, r.Left)
		})
	}
}

// A value that stands inside of another object is written there, and all beside it stays: in a page, in the form that has the resources, in a
// parent of pages, in an annotation; also where the same numbers stand there twice. All of it is shown by another program.
func TestValuesInsideOfOtherObjectsOfAPDFAreRewritten(t *testing.T) {
	there := "<</FunctionType 2/Domain[0 1]/C0[0.886 0.341 0.173]/C1[0.055 0.227 0.325]/N 1>>"
	back := "<</FunctionType 2/Domain[0 1]/C0[0.055 0.227 0.325]/C1[0.886 0.341 0.173]/N 1>>"
	ramp := func(function string) string {
		return "<</ShadingType 2/ColorSpace/DeviceRGB/Coords[0 0 9 0]/Extend[true true]/Function" + function + ">>"
	}
	stitched := "<</FunctionType 3/Domain[0 1]/Bounds[0.5]/Encode[0 1 0 1]/Functions[" + there + back + "]>>"
	document := func(content, page, pages, resources string) []byte {
		return pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1"+pages+">>",
			"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R"+page+">>", stream("", content), stream("/Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<<"+resources+">>", "/G sh"))
	}
	for name, c := range map[string]struct {
		data []byte
		uses int
	}{
		"a page":                   {document("/G sh", "/Resources<</Shading<</G"+ramp(there)+">>>>", "", ""), 2},
		"a page, stitched":         {document("/G sh", "/Resources<</Shading<</G"+ramp(stitched)+">>>>", "", ""), 4},
		"a parent of pages":        {document("/G sh", "", "/Resources<</Shading<</G"+ramp(stitched)+">>>>", ""), 4},
		"a pattern of a page":      {document("/Pattern cs /P scn 0 0 9 9 re f", "/Resources<</Pattern<</P<</PatternType 2/Shading"+ramp(there)+">>>>>>", "", ""), 2},
		"an annotation of it":      {document("/G sh", "/Annots[<</Type/Annot/Subtype/Square/Rect[0 0 9 9]/C[0.886 0.341 0.173]/IC[0.886 0.341 0.173]/DA(/F 9 Tf 0.886 0.341 0.173 rg)>>]", "", ""), 3},
		"the dictionary of a form": {document("/G Do", "/Resources<</XObject<</G 5 0 R>>>>", "", "/Shading<</G"+ramp(stitched)+">>"), 4},
	} {
		t.Run(name, func(t *testing.T) {
			r := lampIn(t, "x.pdf", c.data)
			assert.Empty(t, r.Left)
			assert.Equal(t, c.uses, r.Uses)
			scan, err := kinds.Read("x.pdf", r.Data)
			require.NoError(t, err)
			for _, u := range scan.Uses {
				assert.Equal(t, "#F2B632", u.RGB.Hex(), u.Where)
			}
			assert.True(t, bytes.HasPrefix(r.Data, c.data))
			dir := t.TempDir()
			require.NoError(t, os.WriteFile(filepath.Join(dir, "x.pdf"), r.Data, 0o600))
			assert.Contains(t, run(t, dir, "qpdf", "--check", "x.pdf"), "No syntax or stream encoding errors found")
			if name != "an annotation of it" { // which has no looks of its own
				run(t, dir, "pdftoppm", "-png", "-r", "72", "-singlefile", "x.pdf", "x")
				f, err := os.Open(filepath.Join(dir, "x.png"))
				require.NoError(t, err)
				defer f.Close()
				img, err := png.Decode(f)
				require.NoError(t, err)
				for x := range 9 {
					red, green, blue, _ := img.At(x, 4).RGBA()
					assert.InDelta(t, 0xF2, red>>8, 1)
					assert.InDelta(t, 0xB6, green>>8, 1)
					assert.InDelta(t, 0x32, blue>>8, 1)
				}
			}
		})
	}
}

// Names of color spaces that stand for each other say nothing, and end.
func TestColorSpacesInACircle(t *testing.T) {
	for _, spaces := range []string{"/A/A", "/A/B/B/A", "/A[/Pattern/A]/B[/Indexed/B 1<00>]"} {
		data := pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
			"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</ColorSpace<<"+spaces+">>>>>>", stream("", "/A cs 1 scn 0 0 9 9 re f /B cs 1 scn 0 0 9 9 re f"))
		_, err := kinds.Read("x.pdf", data)
		assert.NoError(t, err)
	}
}
