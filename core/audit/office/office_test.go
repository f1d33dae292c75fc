package office_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
)

// The transforms of ECMA-376 on a slide, with values worked out by hand.
func TestDrawingTransforms(t *testing.T) {
	for inner, want := range map[string]string{
		`<a:srgbClr val="4080C0"/>`:                                                             "#4080C0 4080C0",
		`<a:srgbClr val="4080C0"><a:lumMod val="50000"/></a:srgbClr>`:                           "#204060 4080C0 lumMod 50%",
		`<a:schemeClr val="accent1"><a:lumMod val="50%"/><a:lumOff val="50000"/></a:schemeClr>`: "#A0C0E0 accent1 lumMod 50% lumOff 50%",
		`<a:schemeClr val="tx1"/>`:                                                              "#102030 tx1",
		`<a:srgbClr val="FF0000"><a:comp/></a:srgbClr>`:                                         "#00FFFF FF0000 comp",
		`<a:srgbClr val="FF0000"><a:hueOff val="7200000"/></a:srgbClr>`:                         "#00FF00 FF0000 hueOff 120°",
		`<a:srgbClr val="000000"><a:tint val="0"/></a:srgbClr>`:                                 "#FFFFFF 000000 tint 0%",
		`<a:srgbClr val="FFFFFF"><a:shade val="50000"/></a:srgbClr>`:                            "#BCBCBC FFFFFF shade 50%",
		`<a:scrgbClr r="100000" g="0" b="50000"/>`:                                              "#FF00BC scrgb 100000 0 50000",
		`<a:hslClr hue="7200000" sat="100000" lum="25000"/>`:                                    "#008000 hsl 7200000 100000 25000",
		`<a:prstClr val="dkBlue"/>`:                                                             "#00008B dkBlue",
		`<a:srgbClr val="4080C0"><a:alpha val="50000"/></a:srgbClr>`:                            "#4080C0 4080C0 alpha 50%",
		`<a:srgbClr val="4080C0"><a:alpha val="0"/></a:srgbClr>`:                                "",
		`<a:schemeClr val="phClr"/>`:                                                            "",
		`<a:srgbClr val="nonsense"/>`:                                                           "",
	} {
		scan, err := kinds.Read("x.pptx", audittest.Deck(t, inner))
		require.NoError(t, err)
		got := ""
		for _, u := range scan.Uses {
			if u.Why != "" {
				continue
			}
			got += u.RGB.Hex() + " " + u.Value
			assert.Equal(t, "slide 1, shape Box, fill", u.Where)
		}
		assert.Equal(t, want, got, inner)
	}
}

// The archive around a slide is always whole here: what is tried is the slide. FuzzArchive tries the archive.
func FuzzSlide(f *testing.F) {
	for _, seed := range []string{`<a:srgbClr val="E2572B"><a:lumMod val="75000"/></a:srgbClr>`, `<a:schemeClr val="accent1"><a:tint val="50000"/><a:alpha val="1"/></a:schemeClr>`,
		`<a:hslClr hue="7200000" sat="100000" lum="25000"/>`, `<a:sysClr val="windowText" lastClr="000000"/><a:prstClr val="navy"/>`} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, inner string) {
		defer hostile.Timely(t, len(inner))()
		if len(inner) > 1<<13 {
			t.Skip()
		}
		audittest.Fuzzed(t, "x.pptx", audittest.Deck(t, inner))
	})
}

func TestDocuments(t *testing.T) {
	styles := []string{"#111111 theme 1, dark 1", "#4080C0 theme 1, accent 1", "#0E3A53 styles, paragraph style Heading 1, text"}
	for name, c := range map[string]struct {
		body string
		want []string
	}{
		"a run":       {`<w:p><w:r><w:rPr><w:color w:val="E2572B"/></w:rPr><w:t>Sailings are fewer</w:t></w:r></w:p>`, []string{"#E2572B paragraph 1 “Sailings are fewer”, text"}},
		"automatic":   {`<w:p><w:r><w:rPr><w:color w:val="auto"/><w:u w:val="single"/></w:rPr></w:r></w:p>`, nil},
		"of a theme":  {`<w:p><w:r><w:rPr><w:color w:val="2F5F90" w:themeColor="accent1" w:themeShade="BF"/></w:rPr></w:r></w:p>`, []string{"#306090 paragraph 1, text ="}},
		"a highlight": {`<w:p><w:r><w:rPr><w:highlight w:val="yellow"/></w:rPr></w:r></w:p>`, []string{"#FFFF00 paragraph 1, highlight"}},
		"a table":     {`<w:tbl><w:tr><w:tc><w:tcPr><w:shd w:val="clear" w:color="auto" w:fill="F2B632"/><w:tcBorders><w:top w:val="single" w:color="C9D1D3"/><w:left w:val="nil" w:color="123456"/></w:tcBorders></w:tcPr><w:p/></w:tc></w:tr></w:tbl>`, []string{"#F2B632 table 1, row 1, cell 1, shading", "#C9D1D3 table 1, row 1, cell 1, border"}},
		"a drawing":   {`<w:p><w:r><w:drawing><wp:inline><wp:docPr name="Map"/><a:graphic><wps:wsp><wps:spPr><a:solidFill><a:srgbClr val="E2572B"/></a:solidFill></wps:spPr></wps:wsp></a:graphic></wp:inline></w:drawing></w:r></w:p>`, []string{"#E2572B document, paragraph 1, shape Map, fill"}},
		"effects on text": {`<w:p><w:r><w:rPr><w14:textFill><w14:solidFill><w14:srgbClr w14:val="E2572B"/></w14:solidFill></w14:textFill><w14:glow><w14:srgbClr w14:val="0E3A53"/></w14:glow></w:rPr><w:t>Sail</w:t></w:r></w:p>`,
			[]string{"#E2572B document, paragraph 1, text", "#0E3A53 document, paragraph 1, glow"}},
		"a text in a shape": {`<w:p><mc:AlternateContent><mc:Choice><wps:wsp><wps:txbx><w:txbxContent><w:p><w:r><w:rPr><w:color w:val="E2572B"/></w:rPr><w:t>Mind</w:t></w:r></w:p></w:txbxContent></wps:txbx></wps:wsp></mc:Choice><mc:Fallback><v:rect fillcolor="#0E3A53"/></mc:Fallback></mc:AlternateContent></w:p>`,
			[]string{"#E2572B paragraph 2 “Mind”, text"}},
		"a mark across the page": {`<w:p><w:r><w:pict><v:shape id="Draft" fillcolor="silver" stroked="f"><v:textpath string="Draft"/></v:shape><v:rect strokecolor="#E2572B [3204]"/></w:pict></w:r></w:p>`,
			[]string{"#C0C0C0 paragraph 1, legacy shape Draft, fillcolor", "#E2572B paragraph 1, legacy shape rect, strokecolor"}},
		"a control":  {`<w:sdt><w:sdtPr><w15:color w:val="123456"/><w:rPr><w:color w:val="E2572B"/></w:rPr></w:sdtPr></w:sdt>`, []string{"#E2572B text"}},
		"told twice": {`<w:p><mc:AlternateContent><mc:Choice><a:srgbClr val="E2572B"/></mc:Choice><mc:Fallback><a:srgbClr val="E2572B"/></mc:Fallback></mc:AlternateContent></w:p>`, []string{"#E2572B document, paragraph 1, color"}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.ElementsMatch(t, append(c.want, styles...), audittest.Told(t, "x.docx", audittest.Document(t, c.body)))
		})
	}
}

func TestWorkbooks(t *testing.T) {
	const styles = `<numFmts><numFmt formatCode="0.00;[Red]-0.00"/></numFmts><fonts><font/><font><color rgb="FFE2572B"/></font></fonts><fills><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="solid"><fgColor theme="4" tint="0.5"/><bgColor indexed="64"/></patternFill></fill></fills>
<borders><border/><border><left style="thin"><color indexed="10"/></left><right style="thin"><color indexed="10"/></right><top><color rgb="FF123456"/></top></border></borders>
<cellXfs><xf/><xf fontId="1" fillId="1"/><xf borderId="1"/></cellXfs><cellStyleXfs><xf/><xf fontId="1"/></cellStyleXfs><cellStyles><cellStyle name="Normal" xfId="0"/><cellStyle name="Call" xfId="1"/></cellStyles><dxfs><dxf><fill><patternFill><bgColor rgb="FFF2B632"/></patternFill></fill></dxf></dxfs>`
	got := audittest.Told(t, "x.xlsx", audittest.Workbook(t, `<sheetPr><tabColor rgb="FF4E7D5B"/></sheetPr><cols><col min="6" max="7" style="1"/><col min="8" max="8" style="1"/><col min="9" max="9"/></cols><sheetData><row r="2"><c r="B2" s="1"><v>1</v></c><c r="C2" s="1"/></row><row r="3"><c r="B3" s="1"><v>1</v></c><c r="C3" s="1"/><c r="E3" s="2"><v>1</v></c></row><row r="7" s="2" customFormat="1"/></sheetData><conditionalFormatting sqref="A1:A9"><cfRule dxfId="0"/><cfRule><colorScale><color rgb="FF0E3A53"/></colorScale></cfRule></conditionalFormatting><headerFooter><oddHeader>&amp;C&amp;K7A4E7EFares &amp;&amp;K123456</oddHeader><oddFooter>&amp;K04+050page &amp;P</oddFooter></headerFooter>`+
		`<extLst><ext><x14:conditionalFormatting><x14:cfRule><x14:dataBar><x14:negativeFillColor rgb="FF3B444B"/></x14:dataBar></x14:cfRule><xm:sqref>A1:A9</xm:sqref></x14:conditionalFormatting></ext></extLst>`, styles))
	count := map[string]int{}
	for _, s := range got {
		count[s]++
	}
	assert.Equal(t, map[string]int{
		"#111111 theme 1, dark 1": 1, "#4080C0 theme 1, accent 1": 1, "#FF0000 number format 0.00;[Red]-0.00": 1,
		"#4E7D5B sheet Fares, tab": 1, "#E2572B sheet Fares, cells B2:B3, font": 2, "#A0C0E0 sheet Fares, cells B2:C3, fill =": 4, "#FF0000 sheet Fares, cell E3, border": 1,
		"#F2B632 sheet Fares, conditional format A1:A9, fill": 1, "#0E3A53 sheet Fares, conditional format A1:A9, scale": 1, "#E2572B cell style Call, font": 1,
		"#A0C0E0 sheet Fares, columns F to H, fill =": 1, "#FF0000 sheet Fares, row 7, border": 1,
		"#7A4E7E sheet Fares, header or footer": 1, "#8FC1D4 sheet Fares, note at B2": 1, "#A0C0E0 sheet Fares, header or footer =": 1, "#3B444B sheet Fares, conditional format, bar": 1,
	}, count)
}
