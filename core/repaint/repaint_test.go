package repaint_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/repaint"
)

// linked repaints a text with references wanted.
func linked(t *testing.T, name, text string) string {
	t.Helper()
	rules := audit.Rules{Colors: brand, Neutrals: true}
	scan, err := kinds.Read(name, []byte(text))
	require.NoError(t, err)
	plan := repaint.Usual(audit.NewJudge(rules).Judge(name, scan))
	plan.Link = true
	r, err := repaint.File(name, []byte(text), rules, plan, kinds.Options{})
	require.NoError(t, err)
	assert.Empty(t, r.Left)
	return string(r.Data)
}

// With links wanted, a place points to what defines the color, so that the next change is one change.
func TestPlacesPointToWhatDefinesTheColor(t *testing.T) {
	for name, c := range map[string]struct{ file, text, want string }{
		"a variable of the sheet": {"x.css", ":root{--buoy:#E2572B}.a{color:#E1572C}", ":root{--buoy:#E2572B}.a{color:var(--buoy)}"},
		"one that drifted itself": {"x.css", ":root{--buoy:#E1572C}.a{color:#E1572C}", ":root{--buoy:#E2572B}.a{color:var(--buoy)}"},
		"of another color":        {"x.css", ":root{--deep:#0E3A53}.a{color:#E1572C}", ":root{--deep:#0E3A53}.a{color:#E2572B}"},
		"defined twice":           {"x.css", ":root{--buoy:#E2572B}.x{--buoy:#0E3A53}.a{color:#E1572C}", ":root{--buoy:#E2572B}.x{--buoy:#0E3A53}.a{color:#E2572B}"},
		"a variable of SCSS":      {"x.scss", "$buoy: #E2572B;\n.a{color:#E1572C}", "$buoy: #E2572B;\n.a{color:$buoy}"},
		"a token before":          {"x.json", `{"brand":{"buoy":{"$type":"color","$value":"#E2572B"}},"button":{"$type":"color","$value":"#E1572C"}}`, `{"brand":{"buoy":{"$type":"color","$value":"#E2572B"}},"button":{"$type":"color","$value":"{brand.buoy}"}}`},
		"the first of two":        {"x.json", `{"a":{"$type":"color","$value":"#E1572C"},"b":{"$type":"color","$value":"#E1572C"}}`, `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"{a}"}}`},
		"a token with alpha":      {"x.json", `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"#E1572C80"}}`, `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"#E2572B80"}}`},
		"a color in a shadow":     {"x.json", `{"a":{"$type":"color","$value":"#E2572B"},"s":{"$type":"shadow","$value":{"color":"#E1572C","blur":"2px"}}}`, `{"a":{"$type":"color","$value":"#E2572B"},"s":{"$type":"shadow","$value":{"color":"{a}","blur":"2px"}}}`},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, linked(t, c.file, c.text)) })
	}
}

// flat is an open document with the styles that are given: some with names, and some automatic ones.
func flat(named, automatic, body string) string {
	return `<?xml version="1.0" encoding="UTF-8"?><office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" ` +
		`xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.text">` +
		`<office:styles><style:style style:name="Standard" style:family="paragraph"/>` + named + `</office:styles><office:automatic-styles>` + automatic + `</office:automatic-styles><office:body><office:text>` + body + `</office:text></office:body></office:document>`
}

const (
	namedText = `<style:style style:name="Brand_20_Buoy" style:display-name="Brand Buoy" style:family="text"><style:text-properties fo:color="#E2572B"/></style:style>`
	namedPara = `<style:style style:name="Loud" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:color="#e2572b" fo:font-weight="bold"/></style:style>`
	aSpan     = `<text:p>Sail <text:span text:style-name="T1">now</text:span></text:p>`
	aPara     = `<text:p text:style-name="P1">Sail now</text:p>`
)

// In open documents the definition is a style with a name, from which an automatic one is derived where nothing else changes by that.
func TestAutomaticStylesDeriveFromNamedOnes(t *testing.T) {
	for name, c := range map[string]struct{ named, automatic, body, want string }{
		"a run of text": {namedText, `<style:style style:name="T1" style:family="text"><style:text-properties fo:font-style="italic" fo:color="#e1572c"/></style:style>`, aSpan,
			`<style:style style:parent-style-name="Brand_20_Buoy" style:name="T1" style:family="text"><style:text-properties fo:font-style="italic"/></style:style>`},
		"two runs with it": {namedText, `<style:style style:name="T1" style:family="text"><style:text-properties fo:color="#e1572c"/></style:style>`, aSpan + aSpan,
			`<style:style style:parent-style-name="Brand_20_Buoy" style:name="T1" style:family="text"><style:text-properties/></style:style>`},
		"a paragraph that is bold itself": {namedPara, `<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:color="#e1572c" fo:font-weight="normal"/></style:style>`, aPara,
			`<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Loud"><style:text-properties fo:font-weight="normal"/></style:style>`},
		"one that would become bold": {namedPara, `<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:color="#e1572c"/></style:style>`, aPara,
			`<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:color="#e2572b"/></style:style>`},
		"one that derives from another": {namedPara, `<style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="#e1572c" fo:font-weight="bold"/></style:style>`, aPara,
			`<style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="#e2572b" fo:font-weight="bold"/></style:style>`},
		"two colors in one": {namedText, `<style:style style:name="T1" style:family="text"><style:text-properties fo:color="#e1572c" fo:background-color="#f2b733"/></style:style>`, aSpan,
			`<style:style style:name="T1" style:family="text"><style:text-properties fo:color="#e2572b" fo:background-color="#f2b632"/></style:style>`},
		"a style of another kind": {namedPara, `<style:style style:name="T1" style:family="text"><style:text-properties fo:color="#e1572c"/></style:style>`, aSpan,
			`<style:style style:name="T1" style:family="text"><style:text-properties fo:color="#e2572b"/></style:style>`},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, flat(c.named, c.want, c.body), linked(t, "x.fodt", flat(c.named, c.automatic, c.body)))
		})
	}
}

// A color that sRGB does not hold is judged by what decides the library's colors, is repainted in its own space, and the plain value beside it in its.
func TestColorsBeyondSRGBAreRepaintedInTheirSpace(t *testing.T) {
	flare := library.Color{Name: "Flare", Status: library.Approved, Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"}}
	flare.RGB = flare.Exact().RGB8()
	signal := library.Color{Name: "Signal", Status: library.Approved, RGB: color.RGB8{R: 255}}
	rules := audit.Rules{Colors: []library.Color{flare, signal}, Tolerance: 6}
	css := `.a { color: ` + flare.RGB.Hex() + ` }
.b { color: color(display-p3 0.1 0.9 0.3) }
.c { color: color(display-p3 10.2% 90% 30%) }
.d { color: color(display-p3 0.12 0.88 0.3 / 40%) }
.e { color: oklch(from color(display-p3 0.1 0.9 0.3) l c h) }
.f { color: color(display-p3 0.95 0.2 0.13) }
.g { color: color(rec2020 0 1 0) }
.h { color: oklch(0.79 0.21 149) }
`
	scan, err := kinds.Read("x.css", []byte(css))
	require.NoError(t, err)
	verdicts := map[string]string{}
	for _, k := range audit.NewJudge(rules).Judge("x.css", scan).Colors {
		for _, p := range k.Places {
			verdicts[strings.SplitN(p.Where, ", ", 3)[1]] = string(k.Verdict) + " " + k.Nearest.Name
		}
	}
	assert.Equal(t, map[string]string{".a": "on-brand Flare", ".b": "on-brand Flare", ".c": "on-brand Flare", ".d": "drifted Flare", ".e": "on-brand Flare", ".f": "drifted Signal", ".g": "off-brand Flare", ".h": "drifted Flare"}, verdicts)

	out, err := repaint.File("x.css", []byte(css), rules, repaint.Usual(audit.NewJudge(rules).Judge("x.css", scan)), kinds.Options{})
	require.NoError(t, err)
	text := string(out.Data)
	assert.Contains(t, text, ".d { color: color(display-p3 0.1 0.9 0.3 / 0.4) }")
	assert.Empty(t, out.Left)
	assert.Regexp(t, `\.h \{ color: oklch\([\d. ]+\) \}`, text, "what lies within sRGB stays within it")
	assert.Contains(t, text, ".a { color: "+flare.RGB.Hex()+" }")
	assert.NotContains(t, text, "display-p3 0.95 0.2 0.13", "the plain red is written in the notation that stands there")
	again, err := kinds.Read("x.css", out.Data)
	require.NoError(t, err)
	for _, k := range audit.NewJudge(rules).Judge("x.css", again).Colors {
		if k.Nearest.Name == "Signal" || strings.HasPrefix(k.Value, "oklch(0") {
			assert.Equal(t, audit.OnBrand, k.Verdict, k.Value)
		}
	}
}
