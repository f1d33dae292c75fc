package audit_test

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/demo"
)

func rulesOf(entries ...string) audit.Rules {
	var r audit.Rules
	for _, e := range entries {
		f := strings.Fields(e)
		rgb, err := color.FromHex(f[1])
		if err != nil {
			panic(err)
		}
		c := library.Color{Name: f[0], RGB: rgb, Status: "approved"}
		if len(f) > 2 {
			c.Status = library.Status(f[2])
		}
		r.Colors = append(r.Colors, c)
	}
	return r
}

// uses reads a file and lists "#HEX where" for each use.
func uses(t *testing.T, name, text string) []string {
	t.Helper()
	scan, err := audit.Read(name, []byte(text))
	require.NoError(t, err)
	var out []string
	for _, u := range scan.Uses {
		if u.Why != "" || u.Hidden {
			continue
		}
		for range u.Count {
			out = append(out, u.RGB.Hex()+" "+u.Where)
		}
	}
	return out
}

func TestStyleSheets(t *testing.T) {
	for name, c := range map[string]struct {
		css  string
		want []string
	}{
		"notations":           {`a{color:#abc;fill:hsl(120 100% 25%);stroke:oklch(51.975% 0.17686 142.495)}`, []string{"#AABBCC", "#008000", "#008000"}},
		"names where allowed": {`a{color:Navy;font-family:navy;transition:color 1s;animation:red}`, []string{"#000080"}},
		"not ids or urls":     {`#abc{background:url(#fff) url("x.png#000")} a[href="#def"]{top:0}`, nil},
		"comments":            {`/* #fff */ a{/* color:#111 */ color /* x */ : #222}`, []string{"#222222"}},
		"nested rules":        {`a{color:#111; &:hover{color:#222} b &{color:#333}}`, []string{"#111111", "#222222", "#333333"}},
		"gradients and mixes": {`a{background:linear-gradient(90deg,#111,rgb(34 34 34) 20%,transparent);color:color-mix(in srgb,#333 10%,red)}`, []string{"#111111", "#222222", "#EB0505"}},
		"fallback of var":     {`a{color:var(--x,#123456)}`, []string{"#123456"}},
		"chain of vars":       {`:root{--a:#111;--b:var(--a)}i{color:var(--b)}`, []string{"#111111", "#111111", "#111111"}},
		"circle of vars":      {`:root{--a:var(--b);--b:var(--a)}i{color:var(--a)}`, nil},
		"font in a property":  {`:root{--f:Tan Grotesk;--g:tan}`, []string{"#D2B48C"}},
		"object in property":  {`:root{--o:{color:#111};--p:#222}`, []string{"#111111", "#222222"}},
		"clamped as browsers": {`a{color:rgb(300 -5 0)}`, []string{"#FF0000"}},
		"no end":              {`a{color:#111`, []string{"#111111"}},
		"transparent":         {`a{color:transparent;fill:#fff0}`, nil},
		"unknown words":       {`a{color:inherit;fill:currentColor;stroke:#12}`, nil},
	} {
		t.Run(name, func(t *testing.T) {
			var got []string
			for _, u := range uses(t, "x.css", c.css) {
				got = append(got, u[:7])
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}

func TestPlacesInStyleSheetsAreExact(t *testing.T) {
	assert.Equal(t, []string{"#111111 x.css 3:17, .a > b, color"}, uses(t, "x.css", "\n@media print {\n  .a > b{ color:#111 }}"))
	assert.Equal(t, []string{"#111111 x.css 2:11, i, color"}, uses(t, "x.css", "/* é\n*/i{color:#111}"))
}

func TestAValueMadeOfVariablesIsAnnounced(t *testing.T) {
	scan, err := audit.Read("x.css", []byte(`a{color:rgb(var(--r) 2 3)}`))
	require.NoError(t, err)
	require.Len(t, scan.Uses, 1)
	report := audit.NewJudge(rulesOf("Buoy #E2572B")).Judge("x.css", scan)
	assert.Nil(t, report.Score)
	require.Len(t, report.Unjudged, 1)
	assert.Equal(t, "rgb(var(--r) 2 3)", report.Unjudged[0].Value)
	assert.Contains(t, report.Unjudged[0].Where, "x.css 1:9")
}

func TestDrawings(t *testing.T) {
	const head = `<svg xmlns="http://www.w3.org/2000/svg">`
	for name, c := range map[string]struct {
		svg  string
		want []string
	}{
		"attributes":  {`<path fill="#111" stroke="none" stop-color="currentColor"/>`, []string{"#111111 x.svg 1:41, path, fill"}},
		"style":       {`<g style="fill:#111;stroke:RED"/>`, []string{"#111111 x.svg 1:41, g, style fill", "#FF0000 x.svg 1:41, g, style stroke"}},
		"url backup":  {`<path fill="url(#g) #222"/>`, []string{"#222222 x.svg 1:41, path, fill"}},
		"animation":   {`<animate attributeName="fill" values="#111;#222"/>`, []string{"#111111 x.svg 1:41, animate, animated fill", "#222222 x.svg 1:41, animate, animated fill"}},
		"text":        {`<text>#333 red</text><!-- fill="#444" -->`, nil},
		"a variable":  {`<style>:root{--c:#111}</style><path fill="var(--c)"/>`, []string{"#111111 x.svg 1:58, :root, --c", "#111111 x.svg 1:71, path, fill"}},
		"masks":       {`<mask id="m"><g><rect fill="#fff"/></g><style>.a{fill:#000}</style></mask><clipPath/><path fill="#111"/>`, []string{"#000000 x.svg 1:95, .a, fill", "#111111 x.svg 1:126, path, fill"}},
		"nested data": {`<image href="data:image/svg+xml,%3Csvg%3E%3Cpath fill='%23111'/%3E%3C/svg%3E"/>`, []string{"#111111 x.svg 1:41 > drawing 1:6, path, fill"}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, uses(t, "x.svg", head+c.svg+"</svg>")) })
	}
	assert.Len(t, uses(t, "named-wrong.css.txt", head+`<path fill="#111"/></svg>`), 1, "content decides, not the extension")
}

func zipped(t testing.TB, files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for n, text := range files {
		w, err := z.Create(n)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// bomb is an archive with a part that says it unpacks to 5 GB.
func bomb(t testing.TB, lie bool) []byte {
	var raw bytes.Buffer
	f, err := flate.NewWriter(&raw, flate.BestCompression)
	require.NoError(t, err)
	zeros := make([]byte, 1<<20)
	for range 20 {
		_, _ = f.Write(zeros)
	}
	require.NoError(t, f.Close())
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	size := uint64(5 << 30)
	if lie {
		size = 1000
	}
	w, err := z.CreateRaw(&zip.FileHeader{Name: "[Content_Types].xml", Method: zip.Deflate, CompressedSize64: uint64(raw.Len()), UncompressedSize64: size})
	require.NoError(t, err)
	_, _ = w.Write(raw.Bytes())
	w, err = z.CreateRaw(&zip.FileHeader{Name: "_rels/.rels", Method: zip.Deflate, CompressedSize64: uint64(raw.Len()), UncompressedSize64: size})
	require.NoError(t, err)
	_, _ = w.Write(raw.Bytes())
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestHostileFilesAreRefusedWithASentence(t *testing.T) {
	deck := demo.TimetableDeck().Data
	many := map[string]string{}
	for i := range 100_000 {
		many[fmt.Sprintf("x%d", i)] = ""
	}
	rels := func(target string) map[string]string {
		return map[string]string{"[Content_Types].xml": "<x/>", "_rels/.rels": `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="` + target + `"/></r>`}
	}
	deep := rels("ppt/presentation.xml")
	deep["ppt/presentation.xml"] = strings.Repeat("<a>", 500)
	malformed := rels("ppt/presentation.xml")
	malformed["ppt/presentation.xml"] = "<a>\n<b></a>\n<"
	utf16 := []byte{0xff, 0xfe}
	for _, r := range "a{color:#111}" {
		utf16 = binary.LittleEndian.AppendUint16(utf16, uint16(r))
	}
	for what, c := range map[string]struct {
		name string
		data []byte
		part string
	}{
		"empty":             {"a.pptx", nil, "a.pptx is empty"},
		"not a zip":         {"a.pptx", []byte("hello"), "not a ZIP archive"},
		"truncated":         {"a.pptx", deck[:len(deck)*2/3], "cut off"},
		"a plain zip":       {"a.pptx", zipped(t, map[string]string{"x": "y"}), "not an office document"},
		"a workbook":        {"a.pptx", zipped(t, rels("xl/workbook.xml")), `"xl/workbook.xml" is missing`},
		"a missing part":    {"a.pptx", zipped(t, rels("ppt/presentation.xml")), `"ppt/presentation.xml" is missing`},
		"five gigabytes":    {"a.pptx", bomb(t, false), "unpacks to 5.4 GB"},
		"a lying size":      {"a.pptx", bomb(t, true), "not an office document"},
		"too many entries":  {"a.pptx", zipped(t, many), "100000 entries"},
		"nested deep":       {"a.pptx", zipped(t, deep), "nested over"},
		"malformed":         {"a.pptx", zipped(t, malformed), "line 2 is not well-formed"},
		"markup entity":     {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x \"<g/>\">]>\n<svg>&x;</svg>"), "line 1 declares the entity x with markup"},
		"nested entities":   {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY a \"ha\"><!ENTITY b \"&a;&a;\">]>\n<svg>&b;</svg>"), "the entity b with markup or other entities"},
		"parameter entity":  {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY % x \"y\">%x;]>\n<svg/>"), "the parameter entity x"},
		"another file":      {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x SYSTEM \"file:///etc/passwd\">]>\n<svg>&x;</svg>"), "content of another file, which is not fetched"},
		"large entities":    {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x '" + strings.Repeat("y", 400) + "'>]>\n<svg>" + strings.Repeat("&x;", 60_000) + "</svg>"), "over 20 MB"},
		"unknown entity":    {"a.svg", []byte("<svg a='&x;'/>"), "invalid character entity &x;"},
		"unknown encoding":  {"a.svg", []byte("<?xml version='1.0' encoding='klingon'?><svg/>"), `the encoding "klingon", which is not known`},
		"wrong encoding":    {"a.svg", []byte("<svg>\xff</svg>"), "byte 6 is not UTF-8, and it declares no other"},
		"svg cut off":       {"a.svg", []byte("<svg>\n<path fill='#111'"), "line 2"},
		"not a drawing":     {"a.svg", []byte("<html/>"), "no svg element"},
		"drawing in UTF-16": {"a.svg", utf16, "no svg element"},
		"UTF-16":            {"a.css", utf16, "a.css: it is written in UTF-16"},
		"not UTF-8":         {"a.css", []byte("a{}\xff"), "byte 4 is not UTF-8"},
		"an unknown kind":   {"a.xyz", []byte("hello"), ".pptx"},
		"elements too deep": {"a.svg", []byte("<svg>" + strings.Repeat("<g>", 400)), "nested over"},
	} {
		_, err := audit.Read(c.name, c.data)
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
			assert.Contains(t, err.Error(), c.name, what)
		}
	}
}

func TestDrawingsOfOldExporters(t *testing.T) {
	body := `<svg xmlns="&ns_svg;" xmlns:i="&ns_i;"><g id="Wellen-Gr\u00fcn" i:layer="yes"><path fill="#4E7D5B"/></g><text fill="#E2572B">&ns_i;</text></svg>`
	body = strings.ReplaceAll(body, `\u00fc`, "\u00fc")
	doctype := `<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd" [
	<!-- a > in a comment -->
	<!ENTITY ns_svg "http://www.w3.org/2000/svg">
	<!ENTITY ns_i 'urn:i'>
	<!ATTLIST svg xmlns:a CDATA #FIXED "urn:a>b">
	<!ELEMENT sfw (#PCDATA)>
]>`
	text := `<?xml version="1.0" encoding="iso-8859-1"?>` + doctype + body
	latin, err := charmap.ISO8859_1.NewEncoder().String(text)
	require.NoError(t, err)
	wide, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(strings.Replace(text, "iso-8859-1", "utf-16", 1))
	require.NoError(t, err)
	for name, data := range map[string]string{"latin": latin, "UTF-16": wide, "UTF-8": strings.Replace(text, "iso-8859-1", "utf-8", 1)} {
		s, err := audit.Read("a.svg", []byte(data))
		if !assert.NoError(t, err, name) {
			continue
		}
		assert.Equal(t, "svg", s.Kind)
		require.Len(t, s.Uses, 2, name)
		assert.Equal(t, "#4E7D5B", s.Uses[0].RGB.Hex(), name)
		assert.Equal(t, "#E2572B", s.Uses[1].RGB.Hex(), name)
	}
}

func TestWhatIsNotOpaqueIsSaid(t *testing.T) {
	for name, text := range map[string]string{
		"a.css": "a{color:#E2572B80; background: rgb(1 2 3)} b{color: rgb(14 58 83 / 20%)}",
		"a.svg": `<svg><path fill="#E2572B80"/><path fill="#0E3A53" fill-opacity=".2" stroke-opacity="1"/></svg>`,
	} {
		s, err := audit.Read(name, []byte(text))
		require.NoError(t, err)
		report := audit.NewJudge(rulesOf("Buoy #E2572B")).Judge(name, s)
		assert.Equal(t, []string{"2 uses are not opaque; the colors are listed and judged as if they were."}, report.Notes, name)
	}
}

// What lies over a ground is known where it was worked out, and where it is left to the program that shows it.
func TestSheersAreKnown(t *testing.T) {
	rules := rulesOf("Buoy #E2572B", "Fog #C9D1D3")
	rules.Colors[0].Companions = []library.Companion{{Kind: "sheer", Amount: 40, Permitted: true, Ground: library.Ref{Name: "Fog"}, Over: rules.Colors[1].RGB},
		{Kind: "sheer", Amount: 20}}
	rules.Colors = audit.Allowed(rules.Colors)
	s, err := audit.Read("a.css", []byte("a{color:#E2572B66; background: #D3A090; fill: rgb(226 87 43 / 20%); stroke: rgb(226 87 43 / 40%)} b{color:#F9DDD5}"))
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("a.css", s)
	assert.Equal(t, []string{"3 uses are not opaque; the colors are listed and judged as if they were.", "2 uses are of Buoy at an opacity that is permitted for it.",
		"1 use is of Buoy at another opacity than it may have: 40 %."}, report.Notes)
	verdicts := map[string]string{}
	for _, c := range report.Colors {
		verdicts[c.Hex] = string(c.Verdict) + " " + c.Nearest.Name
	}
	assert.Equal(t, "on-brand Buoy, 40 % over Fog", verdicts["#D3A090"])
	assert.NotContains(t, verdicts["#F9DDD5"], "on-brand", "what is kept without being permitted")
}

func TestVerdicts(t *testing.T) {
	rules := rulesOf("Buoy #E2572B", "Lamp #F2B632", "Funnel #D9482B retired", "Idea #00FF00 draft")
	scan, err := audit.Read("x.css", []byte(`a{color:#E2572B;fill:#E1572C;stroke:#D9482B;outline-color:#DA472C;border-color:#2F80ED;background:#00FF00;caret-color:#fff;color:#e2572b}`))
	require.NoError(t, err)
	judge := func(r audit.Rules) map[string]audit.Judged {
		out := map[string]audit.Judged{}
		for _, c := range audit.NewJudge(r).Judge("x.css", scan).Colors {
			out[c.Hex] = c
		}
		return out
	}
	got := judge(rules)
	for hex, v := range map[string]audit.Verdict{"#E2572B": audit.OnBrand, "#E1572C": audit.Drifted, "#D9482B": audit.Retired,
		"#DA472C": audit.Retired, "#2F80ED": audit.OffBrand, "#00FF00": audit.OffBrand, "#FFFFFF": audit.OffBrand} {
		assert.Equal(t, v, got[hex].Verdict, hex)
	}
	assert.Equal(t, 2, got["#E2572B"].Count)
	assert.Equal(t, "Buoy", got["#E1572C"].Nearest.Name)
	assert.Equal(t, "red 1 low, blue 1 high: typed or rounded", got["#E1572C"].Reason)
	assert.Len(t, got["#2F80ED"].Others, 2, "the three nearest for an off-brand color")
	rules.Neutrals = true
	assert.Equal(t, audit.OnBrand, judge(rules)["#FFFFFF"].Verdict)
	rules.Tolerance = 0.1
	assert.Equal(t, audit.OffBrand, judge(rules)["#E1572C"].Verdict)

	report := audit.NewJudge(rulesOf("Buoy #E2572B")).Judge("x.css", scan)
	assert.InDelta(t, 2.0/8, *report.Score, 1e-9)
	a, _ := json.Marshal(report)
	b, _ := json.Marshal(audit.NewJudge(rulesOf("Buoy #E2572B")).Judge("x.css", scan))
	assert.Equal(t, string(a), string(b), "the same input gives the same report")
	none := audit.NewJudge(rules).Judge("x.css", &audit.Scan{})
	assert.Nil(t, none.Score, "where nothing was judged there is no score")
}

// The search by lightness finds what a look at every color finds.
func TestTheNearestColorsAreTheNearest(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 16))
	var rules audit.Rules
	for i := range 800 {
		rules.Colors = append(rules.Colors, library.Color{Name: fmt.Sprint(i), RGB: color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}})
	}
	scan := &audit.Scan{}
	for range 300 {
		scan.Uses = append(scan.Uses, &audit.Use{Color: audit.Screen(color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}), Count: 1})
	}
	rules.Tolerance = 0.01
	for _, c := range audit.NewJudge(rules).Judge("x", scan).Colors {
		rgb, err := color.FromHex(c.Hex)
		require.NoError(t, err)
		var all []float64
		for _, l := range rules.Colors {
			all = append(all, color.DeltaE00(rgb.Lab(), l.RGB.Lab()))
		}
		sort.Float64s(all)
		require.InDelta(t, all[0], c.Nearest.DeltaE, 1e-4)
		if c.Verdict == audit.OffBrand {
			require.InDelta(t, all[1], c.Others[0].DeltaE, 1e-4)
			require.InDelta(t, all[2], c.Others[1].DeltaE, 1e-4)
		}
	}
}

func TestTooManyDifferentColorsAreSaid(t *testing.T) {
	var b strings.Builder
	for i := range 50_100 {
		fmt.Fprintf(&b, "a{color:#%06x}\n", i*3)
	}
	_, err := audit.Read("x.css", []byte(b.String()))
	assert.ErrorContains(t, err, "x.css: it holds 50100 different colors; at most 50000 are judged")
}

// deck is a presentation of one slide with one shape, which is filled with what is given.
func deck(t testing.TB, inner string) []byte {
	files := map[string]string{
		"[Content_Types].xml":             "<x/>",
		"_rels/.rels":                     `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="ppt/presentation.xml"/></r>`,
		"ppt/presentation.xml":            `<p:presentation xmlns:p="p" xmlns:r="r"><p:sldIdLst><p:sldId r:id="a"/></p:sldIdLst></p:presentation>`,
		"ppt/_rels/presentation.xml.rels": `<r><Relationship Id="a" Type="x/relationships/slide" Target="slides/s.xml"/></r>`,
		"ppt/slides/s.xml":                `<p:sld xmlns:a="a"><p:sp><p:cNvPr name="Box"/><p:spPr><a:solidFill>` + inner + `</a:solidFill></p:spPr></p:sp></p:sld>`,
		"ppt/slides/_rels/s.xml.rels":     `<r><Relationship Id="t" Type="x/relationships/theme" Target="/ppt/t.xml"/></r>`,
		"ppt/t.xml":                       `<a:theme><a:clrScheme><a:dk1><a:sysClr val="windowText" lastClr="102030"/></a:dk1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
	}
	return zipped(t, files)
}

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
		scan, err := audit.Read("x.pptx", deck(t, inner))
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

// fuzzed reads what a fuzzer made and holds the scan against what is true of every scan. Small inputs reach as far as large ones,
// and far more of them are tried.
func fuzzed(t *testing.T, name string, data []byte) {
	if len(data) > 1<<14 {
		t.Skip()
	}
	scan, err := audit.Read(name, data)
	if err != nil {
		assert.Contains(t, err.Error(), name, "an error names the file")
		return
	}
	uses := 0
	for _, u := range scan.Uses {
		if u.Hidden {
			continue
		}
		assert.Positive(t, u.Count)
		assert.NotEmpty(t, u.Value)
		assert.NotEmpty(t, u.Where)
		uses += u.Count
	}
	report := audit.NewJudge(rulesOf("Buoy #E2572B", "Fog #C9D1D3")).Judge(name, scan)
	assert.Equal(t, uses, report.Uses, "every use is judged once")
	assert.True(t, report.Score == nil || *report.Score >= 0 && *report.Score <= 1)
	again, err := audit.Read(name, data)
	require.NoError(t, err)
	assert.Equal(t, report, audit.NewJudge(rulesOf("Buoy #E2572B", "Fog #C9D1D3")).Judge(name, again), "the same input gives the same report")
}

func FuzzCSS(f *testing.F) {
	for _, seed := range []string{`a{--x:{b:#fff};color:var(--x,rgb(1 2`, `:root{--buoy:#E2572B}.b{color:var(--buoy);background:color-mix(in oklab,red 20%,#0E3A53)}`,
		`@media print{a{border:1px solid hsl(14 76% 53% / .5)}}/* #fff */`, `a::before{content:"#123456";fill:url(#E2572B)}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		fuzzed(t, "x.css", data)
	})
}

func FuzzSVG(f *testing.F) {
	for _, seed := range []string{
		`<svg xmlns="http://www.w3.org/2000/svg"><rect id="a" fill="#E2572B" style="stroke: rgb(1 2 3); --x: #fff"/></svg>`,
		`<svg><style><![CDATA[ .a { fill: #0E3A53 } ]]></style><g class="a" stroke='hsl(14, 76%, 53%)'><use href="#b"/></g></svg>`,
		`<?xml version="1.0" encoding="UTF-8"?><!-- c --><svg><linearGradient><stop stop-color="red" offset="1"/></linearGradient><animate attributeName="fill" values="#fff;#000"/></svg>`,
		`<svg><image href="data:image/svg+xml;base64,PHN2Zz48cGF0aCBmaWxsPSIjMTIzNDU2Ii8+PC9zdmc+"/></svg>`,
		`<svg><svg:text xmlns:svg="x" fill="&#35;E2572B">&amp;</svg:text></svg>`,
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		fuzzed(t, "x.svg", data)
	})
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
		fuzzed(t, "x.pptx", deck(t, inner))
	})
}

func FuzzArchive(f *testing.F) {
	f.Add(deck(f, `<a:srgbClr val="E2572B"/>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		fuzzed(t, "x.pptx", data)
	})
}

// Only all is 100 %, in every place that tells a score.
func TestScoresAreRoundedDown(t *testing.T) {
	for _, c := range []struct {
		good, judged int
		want         string
	}{{20000, 20001, "99.9 %"}, {1, 1, "100.0 %"}, {0, 9, "0.0 %"}, {57, 100, "57.0 %"}, {29, 100, "29.0 %"}, {999, 1000, "99.9 %"}, {2, 3, "66.6 %"}, {0x7fffffff, 0x7fffffff, "100.0 %"}} {
		assert.Equal(t, c.want, fmt.Sprintf("%.1f %%", *audit.Score(c.good, c.judged)*100))
	}
	assert.Nil(t, audit.Score(0, 0))
	for n := range 1001 { // what was kept stays what it was told as
		kept := float64(n) / 1000
		assert.Equal(t, kept, *audit.Kept(&kept))
	}
	older := 0.9999
	assert.Equal(t, 0.999, *audit.Kept(&older))
}
