package repaint_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
	"huekeep/core/pdfdoc"
	"huekeep/core/repaint"
	"huekeep/core/source"
	"huekeep/core/swatchfile"
)

func zipped(t testing.TB, files ...[2]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		w, err := z.Create(f[0])
		require.NoError(t, err)
		_, err = io.WriteString(w, f[1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// held checks what is true of every file, whatever is in it: the bytes that uses name lie in their parts, no edit gives the same bytes, and
// a plan for all that was found gives a file that can be read again, in which only what was planned is different.
func held(t *testing.T, name string, data []byte) {
	if len(data) > 1<<15 {
		t.Skip()
	}
	scan, err := kinds.Read(name, data)
	if err != nil {
		assert.Contains(t, err.Error(), name, "an error names the file")
		return
	}
	type span struct {
		part       *source.Part
		start, end int
	}
	seen := map[span]bool{}
	for _, u := range scan.Uses {
		if u.Hidden {
			continue
		}
		assert.Positive(t, u.Count)
		assert.NotEmpty(t, u.Where)
		for _, at := range u.At {
			_, err := at.Text()
			require.NoError(t, err, "%s at %s", u.Value, u.Where)
			assert.Less(t, at.Start, at.End, "%s at %s", u.Value, u.Where)
			seen[span{at.Part, at.Start, at.End}] = true
		}
	}
	same, err := scan.File.Apply(nil)
	require.NoError(t, err)
	require.True(t, bytes.Equal(data, same), "no edit, same bytes")
	report := audit.NewJudge(audit.Rules{Colors: brand}).Judge(name, scan)
	var plan repaint.Plan
	for i, c := range report.Colors {
		if c.Verdict != audit.OnBrand && c.Spot == "" {
			plan.Colors = append(plan.Colors, repaint.Step{From: repaint.Name(c), To: brand[i%len(brand)].Name})
		}
	}
	for _, link := range []bool{false, true} {
		plan.Link = link
		r, err := repaint.File(name, data, audit.Rules{Colors: brand}, plan, kinds.Options{})
		if err != nil {
			assert.Regexp(t, "cannot be written|was left as it is", err.Error()) // a file that readers had to mend before they could read it
			continue
		}
		_, err = kinds.Read(name, r.Data)
		require.NoError(t, err, "what was written is readable")
		if r.Uses == 0 && len(r.Changes) == 0 {
			assert.True(t, bytes.Equal(data, r.Data) || len(r.Left) == 0, "nothing was repainted and the file is another one")
		}
	}
}

// texts are the kinds that are one text, by a name.
var texts = map[string][]string{
	"x.css": {`.hover\:border-\[\#E2572C\]\/5{color:red}`, `:root{--buoy:#E2572C}.a{color:var(--buoy);fill:rgb(from var(--buoy) r g b);background:url("data:image/svg+xml,%3Csvg%3E%3Cpath fill='%23E2572C'/%3E%3C/svg%3E")}`},
	"x.scss": {`$b: #E2572C !default; // #111` + "\n" + `.a { color: darken($b, 10%); @include x(#abc); &:hover { border: 1px solid $b } }`, `$m:(a:#E2572C,b:(c:red));.a{color:map.get($m,a);#{$p}-color:#E2572C;fill:map-get($m,b,c);mask:#111}`,
		`@function t($c,$n:10%){$x:mix(white,$c,$n);@return $x;}@mixin p($b){color:darken($b,5%)}@each $k,$v in (a:#E2572B,b:red){.#{$k}{fill:t($v);@include p($v)}}@for $i from 1 to 3{a{color:m.t(#E2572B,$i*9%)}}`},
	"x.less":   {`@b:#E2572C;.m(@a:#E2572C;@c:2){@{p}-color:@b}.a{.m(#E2572C;1);color:~"#E2572C";fill:e('red');stroke:color("#E2572C")}`},
	"x.html":   {`<!doctype html><style>a{color:#E2572C}</style><p style="color: #E2572C; x: &amp;" class="bg-[#E2572C]" fill='{"#abc"}'><script>let a = {color: 'red'}</script>`, `<iframe srcdoc="<p style='color:#E2572C'>&lt;b style=color:red&gt;"></iframe><mask><path fill="#111"/></mask><p data-color="#E2572C" onclick="c.color='#E2572C'"><script type="application/json">{"color":"#E2572C"}</script>`},
	"x.svelte": {`<script>const a = '#E2572C'</script><p style:color="#E2572C" fill={on ? '#111111' : "#222222"}>{a}</p>`},
	"x.tsx":    {"const s = styled.p`color: ${x}; background: #4E7D5C`; const a = <p style={{ color: '#E2572C' }}>Don't</p>; const n = { fillColor: 0xE2572C }; // '#111'"},
	"y.json":   {`{"colors":[{"color":{"color-space":"srgb","components":{"alpha":"1.000","blue":"0x2C","green":"0.341","red":"226"}}},{"color":{"color-space":"gray","components":{"white":"0.5"}}}]}`},
	"x.json":   {`{"$type":"color","a":{"$value":"#E2572C","$extensions":{"m":{"d":"#E2572C"}}},"b":{"$value":{"$ref":"#/a/$value"}},"c":{"value":"{a.value}"},"d":{"$value":{"colorSpace":"hsl","components":["none",70,50]}}}`, `{"a":{"$type":"color","b":{"$value":"#E2572C"},"c":{"$value":"{a.b}"},"d":{"$value":{"colorSpace":"oklch","components":[0.6,0.18,37],"hex":"#e2572c"}}},"color":[1,0.5,0.2],"rgb":{"r":226,"g":87,"b":44}}`, `{"v":"5","fr":25,"layers":[{"nm":"a","ty":4,"shapes":[{"ty":"fl","c":{"a":1,"k":[{"t":0,"s":[0.9,0.34,0.17,1]}]}},{"ty":"gf","g":{"p":1,"k":{"k":[0,1,0,0]}}}]},{"ty":1,"sc":"#E2572C"}],"assets":[{"id":"x","layers":[]}]}`},
	"x.yaml":   {"a:\n  color: \"#E2572C\"\n  accent-color: red\n- b: |\n  #E2572C\n", "color: E2572C\nx: [{fill: 'rgb(1 2 3)'}]", "%YAML 1.2\n---\na: &b \"#E2572C\"\ncolor: !!str 0xE2572C"},
	"x.vtt":    {"WEBVTT\n\nSTYLE\n::cue { color: #E2572C }\n\n00:01.000 --> 00:02.000\n<c.red>a</c>\n"},
	"x.srt":    {"1\n00:00:01,000 --> 00:00:02,000\n<font color=\"#E2572C\">a</font>{\\c&H2C57E2&}b<font color=E2572C>\n"},
	"x.swift":  {"let a = UIColor(red: 0.886, green: 87/255, blue: 44.0 / 255.0, alpha: 1), w = Color(.displayP3, red: 0.1, green: 0.9, blue: 0.3); let s = \"\\(x[\"a\"])\"; let h = UIColor(hex: \"#FFE2572C\")"},
	"x.kt":     {"val A = Color(0xFFE2572C); val b = Color(226, 87, 44, 128) /* x */ // y\nval s = \"${m[\"a\"]}\"; val t = \"\"\"<p style=\"color:#E2572C\">\"\"\"; val accentColor = 0xE2572C"},
	"x.dart":   {"const a = Color.fromRGBO(226, 87, 44, .5), b = const Color.from(red: 1, green: 0, blue: 0);"},
	"x.py":     {"plot(color='#E2572C', facecolor=(0.5, .25, 0)) # '#111111'\n'''#E2572C'''"},
	"x.xml":    {`<resources xmlns:android="http://schemas.android.com/x"><color name="a">#80E2572C</color><item android:color="#E2C"/></resources>`, `<Window xmlns="winfx" Background="Tomato"><Setter Property="Foreground" Value="sc#1,1,0.5,0"/></Window>`},
	"x.tex":    {"\\definecolor{a}{HTML}{E2572C}\\definecolor{b}{cmyk}{0,.6,.8,.1}\\textcolor{red}{x}\\color[gray]{.5} % x"},
	"x.dot":    {"digraph{a[color=\"#E2572C:red;0.5\" fillcolor=green fontcolor=\"0.5 1 1\" label=<<TABLE BGCOLOR=\"#E2572C\"></TABLE>>]}"},
	"x.md":     {"---\ncolor: '#E2572C'\n---\n`#E2572C` #0E3A54 <p style=\"color:red\">\n```css\na{color:#E2572C}\n```\n"},
	"x.ipynb":  {`{"cells":[{"cell_type":"code","outputs":[{"data":{"text/html":["<p style=\"color:#E2572C\">"]}}],"source":["a = '#E2572C'\n","b = \"#0E3A54\""]},{"cell_type":"markdown","source":"` + "`#E2572C`" + `"}]}`},
	"x.eml":    {"Subject: a\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: text/html; charset=iso-8859-1\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n<p style=3D\"color:#E2572C\">=F6</p>\r\n--x\r\nContent-Type: text/css\r\nContent-Transfer-Encoding: base64\r\n\r\nYXtjb2xvcjojRTI1NzJDfQ==\r\n--x--\r\n"},
	"x.ass":    {"[Script Info]\n[V4+ Styles]\nFormat: Name, PrimaryColour\nStyle: a,&H002C57E2\n[Events]\nDialogue: 0,0:00:01.00,{\\1c&H2C57E2&}a\n"},
	"x.ttml":   {`<tt xmlns:tts="x"><p tts:color="#E2572Cff" tts:textOutline="red 1px">a</p></tt>`},
	"x.mlt":    {`<mlt><producer id="a"><property name="xmldata">&lt;a color="226,87,44,255" style="color:#E2572C"/&gt;</property><property name="colour">0=#ffE2572C;9=0xE2572Cff</property></producer></mlt>`, `<mlt><producer id="a"><property name="resource">#ffE2572C</property></producer></mlt>`},
	"x.svg":    {`<!DOCTYPE svg [<!ENTITY b "#E2572C">]><svg><style>.a{fill:#E2572C}</style><path fill="&b;" style="stroke:&quot;#E2572C"/><image href="data:image/svg+xml;base64,PHN2Zz48cGF0aCBmaWxsPSIjMTIzNDU2Ii8+PC9zdmc+"/></svg>`, "\xff\xfe<\x00s\x00v\x00g\x00/\x00>\x00"},
	"x.fodt":   {`<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"><office:automatic-styles><style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="#E2572C" fo:border="1pt solid #E2572C"/></style:style></office:automatic-styles><office:body><office:text><text:p text:style-name="P1">a</text:p></office:text></office:body></office:document>`},
}

func FuzzText(f *testing.F) {
	var names []string
	for name := range texts {
		names = append(names, name)
	}
	for name, list := range texts {
		for _, text := range list {
			f.Add(name, []byte(text))
		}
	}
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		defer hostile.Timely(t, len(name))()
		if _, ok := texts[name]; !ok {
			name = names[len(data)%len(names)]
		}
		held(t, name, data)
	})
}

func office(main, kind, body string, more ...[2]string) []([2]string) {
	return append([][2]string{{"[Content_Types].xml", "<x/>"}, {"_rels/.rels", `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="` + main + `"/></r>`}, {main, body}}, more...)
}

const theme = `<a:theme><a:clrScheme><a:dk1><a:sysClr val="windowText" lastClr="111111"/></a:dk1><a:lt1><a:srgbClr val="FFFFFF"/></a:lt1><a:accent1><a:srgbClr val="E2572C"/></a:accent1></a:clrScheme></a:theme>`

func FuzzSlide(f *testing.F) {
	f.Add(`<p:sp><p:cNvPr name="A"/><p:spPr><a:solidFill><a:srgbClr val="e2572c"><a:alpha val="50000"/><a:lumMod val="75000"/></a:srgbClr></a:solidFill><a:ln><a:solidFill><a:schemeClr val="accent1"/></a:solidFill></a:ln></p:spPr></p:sp>`)
	f.Add(`<mc:AlternateContent><mc:Choice><a:hslClr hue="7200000" sat="100000" lum="25000"/></mc:Choice><mc:Fallback><a:srgbClr val="E2572C"/></mc:Fallback></mc:AlternateContent>`)
	f.Fuzz(func(t *testing.T, body string) {
		defer hostile.Timely(t, len(body))()
		held(t, "x.pptx", zipped(t, office("ppt/presentation.xml", "", `<p:presentation xmlns:r="r"><p:sldId r:id="s"/></p:presentation>`, [2]string{"ppt/_rels/presentation.xml.rels", `<r><Relationship Id="s" Type="x/relationships/slide" Target="s.xml"/></r>`},
			[2]string{"ppt/s.xml", "<p:sld>" + body + "</p:sld>"}, [2]string{"ppt/_rels/s.xml.rels", `<r><Relationship Id="t" Type="x/relationships/theme" Target="t.xml"/></r>`}, [2]string{"ppt/t.xml", theme})...))
	})
}

func FuzzDocument(f *testing.F) {
	f.Add(`<w:p><w:r><w:rPr><w:color w:val="e2572c" w:themeColor="accent1" w:themeTint="99"/><w:shd w:val="pct10" w:color="auto" w:fill="E2572C"/><w:u w:color="E2572C"/></w:rPr><w:t>a</w:t></w:r></w:p>`)
	f.Add(`<w:tbl><w:tr><w:tc><w:tcPr><w:tcBorders><w:top w:val="single" w:color="E2572C" w:themeColor="text1"/></w:tcBorders></w:tcPr><w:p/></w:tc></w:tr></w:tbl><v:rect fillcolor="#E2572C"/>`)
	f.Fuzz(func(t *testing.T, body string) {
		defer hostile.Timely(t, len(body))()
		held(t, "x.docx", zipped(t, office("word/document.xml", "", `<w:document xmlns:w="w"><w:body>`+body+`</w:body></w:document>`,
			[2]string{"word/_rels/document.xml.rels", `<r><Relationship Id="t" Type="x/relationships/theme" Target="t.xml"/></r>`}, [2]string{"word/t.xml", theme})...))
	})
}

func FuzzWorkbook(f *testing.F) {
	f.Add(`<row r="2"><c r="B2" s="1"><v>1</v></c></row>`, `<fonts><font><color rgb="FFE2572C"/></font><font><color theme="4" tint="-0.2"/></font></fonts><fills><fill><patternFill patternType="solid"><fgColor indexed="10"/></patternFill></fill></fills><borders><border/></borders><cellXfs><xf/><xf fontId="1"/></cellXfs>`)
	f.Add(`<col min="2" max="3" style="1"/><row r="7" s="1" customFormat="1"/><oddHeader>&amp;KE2572C&amp;K04-020&amp;&amp;KE2572C</oddHeader>`, `<fills><fill/><fill><patternFill patternType="solid"><fgColor rgb="FFE2572C"/></patternFill></fill></fills><cellXfs><xf/><xf fillId="1"/></cellXfs>`)
	f.Fuzz(func(t *testing.T, rows, styles string) {
		defer hostile.Timely(t, len(styles))()
		held(t, "x.xlsx", zipped(t, office("xl/workbook.xml", "", `<workbook xmlns:r="r"><sheets><sheet name="A" r:id="s"/></sheets></workbook>`,
			[2]string{"xl/_rels/workbook.xml.rels", `<r><Relationship Id="s" Type="x/relationships/worksheet" Target="s.xml"/><Relationship Id="y" Type="x/relationships/styles" Target="y.xml"/><Relationship Id="t" Type="x/relationships/theme" Target="t.xml"/></r>`},
			[2]string{"xl/t.xml", theme}, [2]string{"xl/y.xml", "<styleSheet>" + styles + "</styleSheet>"}, [2]string{"xl/s.xml", "<worksheet><sheetData>" + rows + "</sheetData></worksheet>"})...))
	})
}

func FuzzOpenDocument(f *testing.F) {
	f.Add(`<office:document-content><office:automatic-styles><style:style style:name="c" style:family="table-cell"><style:table-cell-properties fo:background-color="#E2572C"/></style:style></office:automatic-styles><office:body><office:spreadsheet><table:table table:name="A"><table:table-row><table:table-cell table:style-name="c" table:number-columns-repeated="3"><text:p>1</text:p></table:table-cell></table:table-row></table:table></office:spreadsheet></office:body></office:document-content>`)
	f.Fuzz(func(t *testing.T, content string) {
		defer hostile.Timely(t, len(content))()
		held(t, "x.ods", zipped(t, [2]string{"mimetype", "application/vnd.oasis.opendocument.spreadsheet"}, [2]string{"content.xml", content}))
	})
}

func stream(dict, content string) string {
	return fmt.Sprintf("<<%s/Length %d>>\nstream\n%s\nendstream", dict, len(content), content)
}

// page is a PDF of one page with a content stream.
func page(content string) []byte {
	return pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</ColorSpace<</S[/Separation/QN-0001/DeviceCMYK<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 0.7 0.9 0]/N 1>>]/C[/Pattern/DeviceRGB]>>/Shading<</G 5 0 R>>/XObject<</F 7 0 R>>/Pattern<</P 8 0 R>>>>/Annots[6 0 R]>>",
		stream("", content),
		"<</ShadingType 2/ColorSpace/DeviceRGB/Coords[0 0 1 1]/Function<</FunctionType 2/Domain[0 1]/C0[0.886 0.341 0.173]/C1[1 1 1]/N 1>>>>",
		"<</Type/Annot/Subtype/Square/Rect[0 0 1 1]/C[0.886 0.341 0.173]/DA(/F 9 Tf 0.886 0.341 0.173 rg)>>",
		"<</Type/XObject/Subtype/Form/BBox[0 0 9 9]/Length 13>>\nstream\n0 0 1 1 re B*\nendstream",
		"<</PatternType 1/PaintType 2/BBox[0 0 2 2]/XStep 2/YStep 2/Length 12>>\nstream\n0 0 1 1 re f\nendstream")
}

func FuzzPageContent(f *testing.F) {
	f.Add("q 0.886 0.341 0.173 rg 0 0 9 9 re f Q 0 0.7 0.9 0 k BT (a\\)) Tj ET /S cs 0.5 scn f /G sh 0.5 G 0 0 m 9 9 l S")
	f.Add("0.886 0.341 0.173 rg /F Do 1 Tr (a) Tj /C cs 0.886 0.341 0.173 /P scn 0 0 9 9 re f BI /IM true ID x EI")
	f.Add("BI /W 1 /H 1 ID xEI EI [1 [2] (3)] <</A<</B 1>>>> BDC 1 0 0 sc f")
	f.Fuzz(func(t *testing.T, content string) {
		defer hostile.Timely(t, len(content))()
		held(t, "x.pdf", page(content))
	})
}

func FuzzPDF(f *testing.F) {
	f.Add(page("1 0 0 rg f"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		held(t, "x.pdf", data)
	})
}

func FuzzPicture(f *testing.F) {
	for _, name := range []string{"card-1080", "swatch-png"} {
		if p, err := swatchfile.FindPacking(name); err == nil {
			if data, err := p.Pack(typed(1)); err == nil && len(data) < 1<<15 {
				f.Add(data)
			}
		}
	}
	f.Add([]byte("GIF89a\x02\x00\x02\x00\x80\x00\x00\xe2\x57\x2c\xff\xff\xff,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00;"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		held(t, "x.png", data)
	})
}

func FuzzMetafile(f *testing.F) {
	records := "\x18\x00\x00\x00\x0c\x00\x00\x00\xe2\x57\x2b\x00\x0e\x00\x00\x00\x14\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"
	f.Add([]byte("\x01\x00\x00\x00\x58\x00\x00\x00" + strings.Repeat("\x00", 32) + " EMF" + strings.Repeat("\x00", 44) + records))
	f.Add([]byte("\xd7\xcd\xc6\x9a" + strings.Repeat("\x00", 18) + "\x01\x00\x09\x00\x00\x03" + strings.Repeat("\x00", 12) + "\x05\x00\x00\x00\x09\x02\xe2\x57\x2b\x00\x03\x00\x00\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		held(t, "x.emf", data)
	})
}

func FuzzArchive(f *testing.F) {
	f.Add(zipped(f, [2]string{"a.css", "a{color:#E2572C}"}, [2]string{"b/c.svg", `<svg><path fill="#E2572C"/></svg>`}))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		held(t, "x.zip", data)
	})
}
