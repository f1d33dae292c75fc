package repaint_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
)

// Each place of a text that has a color gets another in the notation, case and spacing that stands there, and everything else stays: what
// is between ‹ and › in the text before becomes what stands there in the text after, and nothing else does.
func TestPlacesOfTextsAreRewritten(t *testing.T) {
	for name, c := range map[string]struct{ file, text, want string }{
		"capitals and small letters": {"x.css", "a{color:‹#E2572B›;fill:‹#e2572b›}", "#F2B632 #f2b632"},
		"three digits":               {"x.css", "a{color:‹#f00›;fill:‹#F00C›}", "#f2b632 #F2B632CC"},
		"eight digits":               {"x.css", "a{color:‹#E2572B80›}", "#F2B63280"},
		"commas":                     {"x.css", "a{color:‹rgb(226, 87, 43)›}", "rgb(242, 182, 50)"},
		"capitals and no blanks":     {"x.css", "a{color:‹RGBA(226,87,43,.5)›}", "RGBA(242,182,50,.5)"},
		"a slash":                    {"x.css", "a{color:‹rgb(226 87 43 / 50%)›}", "rgb(242 182 50 / 50%)"},
		"stops of a gradient":        {"x.css", "a{background:linear-gradient(to left,‹#E2572B› 0%,‹#E2572B› 40px)}", "#F2B632 #F2B632"},
		"behind an importance":       {"x.css", "a{border:1px solid ‹#E2572B›!important}", "#F2B632"},
		"comments stay":              {"x.css", "/* #E2572B */a{color:/* #E2572B */‹#E2572B›/**/}", "#F2B632"},
		"selectors stay":             {"x.css", "#E2572B a[href='#E2572B']{color:‹#E2572B›}", "#F2B632"},
		"texts and addresses stay":   {"x.css", "a{content:'#E2572B';filter:url(x.svg#E2572B);color:‹#E2572B›}", "#F2B632"},
		"a variable and its use":     {"x.css", "a{--x:‹#E2572B›;color:var(--x)}", "#F2B632"},
		"a variable of a variable":   {"x.css", ":root{--a:‹#E2572B›;--b:var(--a);--c:var( --b )}a{color:var(--c)}", "#F2B632"},
		"a fallback":                 {"x.css", "a{color:var(--gone,‹#E2572B›)}", "#F2B632"},
		"a drawing in an address":    {"x.css", `a{background:url("data:image/svg+xml,%3Csvg%3E%3Cpath fill='‹%23E2572B›'/%3E%3C/svg%3E")}`, "%23F2B632"},
		"in a condition":             {"x.css", "@media (min-width:1px){@supports (color:#E2572B){a{fill:‹#E2572B›}}}", "#F2B632"},
		"in nested rules":            {"x.css", "a{&:hover{color:‹#E2572B›}b &{fill:‹#E2572B›}}", "#F2B632 #F2B632"},
		"at the end without a brace": {"x.css", "a{color:‹#E2572B›", "#F2B632"},
		"a list for one property":    {"x.css", "@property --x{syntax:'<color>';inherits:true;initial-value:‹#E2572B›}", "#F2B632"},

		"for one mail program": {"x.html", `<!--[if mso]><table bgcolor="‹#E2572B›"><v:rect fillcolor="‹#e2572b›"><v:fill color="‹#E2572B›"/></v:rect><style>a{color:‹#E2572B›}</style><![endif]--><!--[if !mso]><!--><b style="color:‹#E2572B›">x</b><!--<![endif]--><!-- <b style="color:#E2572B"> -->`, "#F2B632 #f2b632 #F2B632 #F2B632 #F2B632"},

		"comments of SCSS": {"x.scss", "// #E2572B\n$a: ‹#E2572B›; /* #E2572B */\n.a { color: $a; }", "#F2B632"},
		"a map of SCSS":    {"x.scss", "$c: (buoy: ‹#E2572B›, sea: (deep: ‹#0E3A53›));\n.a { color: map-get($c, buoy); }", "#F2B632 #F2B632"},
		"one in another":   {"x.scss", "$a: ‹#E2572B›; $b: $a; $m: (ink: $b, 'deep': (sea: ‹#0E3A53›)); .a { color: $b; fill: map-get($m, ink); stroke: map.get($m, 'deep', sea) }", "#F2B632 #F2B632"},
		"a module's own":   {"x.scss", "@use 'b' with ($primary: ‹#E2572B›, $gap: 2px);\n@forward 'c' with ($ink: ‹#E2572B› !default);", "#F2B632 #F2B632"},
		"of a mixin":       {"x.scss", "@mixin m($c, $d: ‹#E2572B›) { color: $c; fill: $d; }\n.a { @include m(‹#E2572B›); }\n@each $n, $k in (a: ‹#E2572B›) { .#{$n} { color: $k } }", "#F2B632 #F2B632 #F2B632"},
		"of a module":      {"x.scss", ".a { color: ‹color.mix(#E2572B, #000)›; fill: c.‹e›(#F2B632); transform: scale(1.5); }", "#f2b632 e"},
		"a default":        {"x.scss", "$a: ‹#E2572B› !default;", "#F2B632"},
		"LESS":             {"x.less", "@a: ‹#E2572B›;\n.m(@c: ‹#e2572b›) { color: @c; }\n.a { .m(); fill: @a; }", "#F2B632 #f2b632"},

		"a style attribute":     {"x.html", `<p style="color:‹#E2572B›; top:0" title="#E2572B">`, "#F2B632"},
		"attributes of old":     {"x.html", `<body bgcolor=‹#E2572B› text="‹E2572B›" link='‹#e2572b›'><font color=‹#E2572B›>#E2572B</font>`, "#F2B632 F2B632 #f2b632 #F2B632"},
		"comments of a page":    {"x.html", `<!-- <p style="color:#E2572B"> --><p style="color:‹#E2572B›">`, "#F2B632"},
		"an unclosed comment":   {"x.html", `<p style="color:‹#E2572B›"><!-- <p style="color:#E2572B">`, "#F2B632"},
		"the color of a window": {"x.html", `<meta name="theme-color" content="‹#E2572B›"><meta name="description" content="#E2572B">`, "#F2B632"},
		"a field for colors":    {"x.html", `<input type="color" value="‹#E2572B›"><input value="#E2572B">`, "#F2B632"},
		"what is only text":     {"x.html", `<title>#E2572B</title><textarea><b style="color:#E2572B"></textarea><b style="color:‹#E2572B›">`, "#F2B632"},
		"a clipping path":       {"x.html", `<svg><clipPath id=a><path fill="#E2572B"/></clipPath><path fill="‹#E2572B›"/></svg>`, "#F2B632"},
		"sheets and scripts":    {"x.html", `<style>a{color:‹#E2572B›}</style><script>const ink = "‹#E2572B›"; // "#E2572B"` + "\n</script>", "#F2B632 #F2B632"},
		"capital tags":          {"x.html", `<STYLE>a{color:‹#E2572B›}</STYLE><P STYLE="COLOR:‹#E2572B›">`, "#F2B632 #F2B632"},
		"a page in a component": {"x.vue", "<template><p :style=\"{ color: '‹#E2572B›' }\" style=\"fill:‹#E2572B›\"/></template>\n<style scoped lang=\"scss\">\n$a: ‹#E2572B›;\n</style>", "#F2B632 #F2B632 #F2B632"},

		"quotes of each kind":     {"x.js", "const a = '‹#E2572B›', b = \"‹#e2572b›\", c = `‹#E2572B›`;", "#F2B632 #f2b632 #F2B632"},
		"a number":                {"x.js", "const color = ‹0xE2572B›, size = 0xE2572B;", "0xF2B632"},
		"an expression between":   {"x.js", "const s = css`a{color:‹#E2572B›;width:${w('‹#E2572B›')}px;fill:‹#E2572B›}`;", "#F2B632 #F2B632 #F2B632"},
		"regular expressions":     {"x.js", "const r = /['\"]#E2572B/g, q = a / 2 / b, c = '‹#E2572B›', k = x.match(/[/#E2572B']/) || '‹#E2572B›';", "#F2B632 #F2B632"},
		"comments of a script":    {"x.ts", "/* '#E2572B' */ const a = '‹#E2572B›'; // '#E2572B'\nconst b = 'http://x/#E2572B';", "#F2B632"},
		"a drawing in a string":   {"x.js", `const s = '<svg><path fill="‹#E2572B›"/></svg>', d = "data:image/svg+xml,%3Csvg%3E%3Cpath fill='‹%23E2572B›'/%3E%3C/svg%3E";`, "#F2B632 %23F2B632"},
		"utility classes":         {"x.jsx", `const a = <p className="p-2 bg-[‹#E2572B›] hover:text-[‹#e2572b›]/50 w-[10px]"/>`, "#F2B632 #f2b632"},
		"a sheet in a string":     {"x.js", `const s = "a{color:‹#E2572B›}", t = "color:‹#E2572B›;top:0", u = "read chapter #decade; it is fine";`, "#F2B632 #F2B632"},
		"a choice of two":         {"x.js", `const color = dark ? '‹#E2572B›' : "‹#0E3A53›";`, "#F2B632 #F2B632"},
		"a string that goes on":   {"x.js", "const a = 'it\\'s', b = '‹#E2572B›', c = '\\\\', d = '‹#E2572B›';", "#F2B632 #F2B632"},
		"selectors of a script":   {"x.js", `document.querySelector("#E2572B").style.color = "‹#E2572B›"; location.hash = "#E2572B"`, "#F2B632"},
		"an unclosed quote":       {"x.js", "const a = 'it;\nconst b = '‹#E2572B›';", "#F2B632"},
		"an interpolated address": {"x.js", "const u = `https://x/${id}#E2572B`, c = `‹#E2572B›`;", "#F2B632"},

		"by notation and key":   {"x.json", `{"color":"‹#E2572B›","title":"red","id":"#facade","accent":"‹rgb(226, 87, 43)›"}`, "#F2B632 | rgb(242, 182, 50)"},
		"an object of channels": {"x.json", `{"rgb":‹{"r":226,"g":87,"b":43}›,"size":{"r":226,"g":87}}`, `{"r":242,"g":182,"b":50}`},
		"a mark in front":       {"x.json", "\ufeff" + `{"color":"‹#E2572B›"}`, "#F2B632"},
		"a token":               {"x.json", `{"a":{"$type":"color","$value":"‹#E2572B›"},"b":{"$type":"color","$value":"{a}"}}`, "#F2B632"},
		"an alias of an alias":  {"x.json", `{"a":{"$type":"color","$value":"‹#E2572B›"},"b":{"$type":"color","$value":"{a}"},"c":{"$type":"color","$value":"{b}"}}`, "#F2B632"},
		"a pointer to one":      {"x.json", `{"a":{"$type":"color","$value":"‹#E2572B›"},"b":{"$type":"color","$value":{"$ref":"#/a"}}}`, "#F2B632"},

		"plain and quoted":      {"x.yaml", "color: \"‹#E2572B›\"\nb:\n  fill: '‹#e2572b›' # #E2572B\n", "#F2B632 #f2b632"},
		"without a mark":        {"x.yaml", "hexcolor: ‹E2572B›\nbg_color: ‹0xE2572B›\n", "F2B632 0xF2B632"},
		"a name gets quotes":    {"x.yaml", "color: ‹red›\n", `"#f2b632"`},
		"an anchor and its use": {"x.yaml", "color: &a \"‹#E2572B›\"\nfill: *a\n", "#F2B632"},
		"a list":                {"x.yaml", "colors:\n- '‹#E2572B›'\n- [\"‹#e2572b›\", '‹#E2572B›']\n", "#F2B632 #f2b632 #F2B632"},

		"a drawing":                {"x.svg", `<svg fill="‹#E2572B›"><path style="stroke:‹#e2572b›;fill:none"/><text>#E2572B</text></svg>`, "#F2B632 #f2b632"},
		"what does not show":       {"x.svg", `<svg><stop stop-color="#E2572B" stop-opacity="0"/><stop stop-color="‹#E2572B›"/><path fill="#E2572B" opacity="0"/></svg>`, "#F2B632"},
		"colors in time":           {"x.svg", `<svg><animate attributeName="fill" values="‹#E2572B›;‹#0E3A53›" from="‹#E2572B›"/><animate attributeName="d" values="#E2572B"/></svg>`, "#F2B632 #F2B632 #F2B632"},
		"light and flood":          {"x.svg", `<svg><feFlood flood-color="‹#E2572B›"/><feDiffuseLighting lighting-color='‹#E2572B›'/><g color="‹#E2572B›" solid-color="‹#E2572B›"/></svg>`, "#F2B632 #F2B632 #F2B632 #F2B632"},
		"a sheet of a drawing":     {"x.svg", `<svg><style><![CDATA[a>b{fill:‹#E2572B›}]]></style><style>a{fill:‹#E2572B›}</style></svg>`, "#F2B632 #F2B632"},
		"a sheet with an escape":   {"x.svg", `<svg><style>a&gt;b{fill:‹#E2572B›}</style></svg>`, "#F2B632"},
		"an entity":                {"x.svg", `<!DOCTYPE svg [<!ENTITY ink "‹#E2572B›"><!ENTITY word "#E2572B">]><svg fill="&ink;"><text>&word;</text></svg>`, "#F2B632"},
		"quotes of another kind":   {"x.svg", `<svg fill='‹#E2572B›' stroke = "‹#E2572B›"/>`, "#F2B632 #F2B632"},
		"a comment of a drawing":   {"x.svg", `<svg><!-- <path fill="#E2572B"/> --><path fill="‹#E2572B›"/></svg>`, "#F2B632"},
		"a drawing in the drawing": {"x.svg", `<svg xmlns:xlink="x"><image xlink:href="data:image/svg+xml,%3Csvg fill='‹%23E2572B›'/%3E"/></svg>`, "%23F2B632"},

		"cues":               {"x.vtt", "WEBVTT\n\nSTYLE\n::cue { color: ‹#E2572B› }\n\n00:01.000 --> 00:02.000\n#E2572B\n", "#F2B632"},
		"timed text":         {"x.ttml", `<tt xmlns:tts="x"><style xml:id="s" tts:color="‹#E2572Bff›"/><p tts:color='‹#e2572b›'>#E2572B</p></tt>`, "#F2B632ff #f2b632"},
		"tags of SubRip":     {"x.srt", "1\n00:00:01,000 --> 00:00:02,000\n<font color=\"‹#E2572B›\">a</font><font color=‹e2572b›>b</font>{\\c‹&H2b57e2&›}c\n", "#F2B632 f2b632 &H32b6f2&"},
		"numbers of Swift":   {"x.swift", "let a = UIColor(red: ‹0.886, green: 87/255, blue: 43.0 / 255.0›, alpha: 0.5), b = UIColor(hex: \"‹#FFE2572B›\"), c = #colorLiteral(red: ‹0.886, green: .341, blue: 0.169›, alpha: 1)", "0.949, green: 182/255, blue: 50.0 / 255.0 | #FFF2B632 | 0.949, green: .714, blue: 0.196"},
		"calls of Kotlin":    {"x.kt", "val a = Color(‹0xffE2572b›); val b = Color(‹226, 87, 43›); val c = Color.parseColor(\"‹#80E2572B›\"); val d = Color(red = ‹0.8863f, green = 0.3412f, blue = 0.1686f›)", "0xffF2B632 | 242, 182, 50 | #80F2B632 | 0.949f, green = 0.7137f, blue = 0.1961f"},
		"calls of Dart":      {"x.dart", "const a = Color(‹0xFFE2572B›), b = Color.fromARGB(255, ‹226, 87, 43›), c = Color.fromRGBO(‹226, 87, 43›, 0.5);", "0xFFF2B632 | 242, 182, 50 | 242, 182, 50"},
		"calls of Java":      {"x.java", "new Color(‹226, 87, 43›); new Color(‹0xE2572B›); Color.FromRgb(‹0xE2, 0x57, 0x2b›); // new Color(226, 87, 43)", "242, 182, 50 | 0xF2B632 | 0xF2, 0xB6, 0x32"},
		"properties of QML":  {"x.qml", "Item { color: \"‹#E2572B›\"; x: Qt.rgba(‹0.8863, 0.3412, 0.1686›, 1) }", "#F2B632 | 0.949, 0.7137, 0.1961"},
		"Python":             {"x.py", "plot(color='‹#E2572B›', facecolor=(‹0.8863, 0.3412, 0.1686›, 1)) # '#E2572B'", "#F2B632 | 0.949, 0.7137, 0.1961"},
		"resources":          {"x.xml", `<resources><color name="a">‹#80E2572B›</color><color name="b">‹#e2572b›</color><color name="c">@color/a</color></resources>`, "#80F2B632 #f2b632"},
		"layouts":            {"x.xaml", `<Window xmlns="winfx" Background="‹#FFE2572B›" Foreground="‹Red›"><TextBlock Text="Red"/></Window>`, "#FFF2B632 #F2B632"},
		"an asset catalog":   {"x.json", `{"colors":[{"color":{"color-space":"srgb","components":‹{"alpha":"1.000","blue":"0x2B","green":"0x57","red":"0xE2"}›}},{"color":{"color-space":"srgb","components":‹{"red":"0.886","green":"0.341","blue":"0.169","alpha":"0.500"}›}}]}`, `{"alpha":"1.000","blue":"0x32","green":"0xB6","red":"0xF2"} | {"red":"0.949","green":"0.714","blue":"0.196","alpha":"0.500"}`},
		"models of LaTeX":    {"x.tex", "\\definecolor{a}{HTML}{‹e2572b›}\\definecolor{b}{RGB}{‹226, 87, 43›} % {226, 87, 43}\n\\definecolor{c}{rgb}{‹0.8863,0.3412,0.1686›}\\textcolor‹{red}›{x}", "f2b632 | 242, 182, 50 | 0.949,0.7137,0.1961 | [HTML]{F2B632}"},
		"attributes of DOT":  {"x.dot", "graph{a[color=‹red›,fillcolor=\"‹#E2572B›:‹#0e3a53›;0.3\",label=\"#E2572B\"] // color=red\n}", "\"#f2b632\" | #F2B632 | #f2b632"},
		"Markdown":           {"x.md", "Ours is `‹#E2572B›`, or ‹#E2572B›.\n\n```css\na{color:‹#e2572b›}\n```\n[x](y.html#E2572B)\n", "#F2B632 #F2B632 #f2b632"},
		"cells of notebooks": {"x.ipynb", `{"cells":[{"cell_type":"code","source":["é = 1\n", "plot(color='‹#E2572B›')\n" ,"y = \"é\""],"outputs":[]}]}`, "#F2B632"},
		"a mail":             {"x.eml", "A: b\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n#E2572B\r\n--x\r\nContent-Type: text/html\r\n\r\n<p style=\"color:‹#E2572B›\">\r\n--x--\r\n", "#F2B632"},
		"blue in front":      {"x.ass", "[Script Info]\n[V4+ Styles]\nFormat: Name, PrimaryColour\nStyle: Safety,‹&H002B57E2›\n[Events]\nFormat: Start, Text\nDialogue: 0:00:01.00,{\\1c‹&H2b57e2&›\\3c‹&H2B57E2&›}Mind\n", "&H0032B6F2 &H32b6f2& &H32B6F2&"},
		"leading zeros":      {"x.ass", "[Script Info]\n[Events]\nFormat: Start, Text\nDialogue: 0:00:01.00,{\\c&H‹FF›&}Mind\n", "32B6F2"},
		"numbers of old":     {"x.ass", "[Script Info]\n[V4 Styles]\nFormat: Name, PrimaryColour\nStyle: Safety,‹2840546›\n", "3323634"},
		"a timeline":         {"x.mlt", `<mlt><producer><property name="mlt_service">color</property><property name="resource">‹#ffE2572B›</property></producer><filter><property name="fgcolour">‹0xE2572Bff›</property></filter></mlt>`, "#ffF2B632 0xF2B632ff"},
		"a name":             {"x.mlt", `<mlt><filter><property name="bgcolour">‹red›</property></filter></mlt>`, "#f2b632"},
		"a solid":            {"x.json", `{"fr":30,"layers":[{"ty":1,"nm":"Sky","sc":"‹#E2572B›"}]}`, "#F2B632"},
		"a slot of colors":   {"x.json", `{"fr":30,"slots":{"ink":{"p":{"a":0,"k":‹[1,0,0]›}}},"layers":[{"ty":4,"shapes":[{"ty":"fl","c":{"sid":"ink"}}]}]}`, "[0.949,0.7137,0.196]"},
		"levels of a byte":   {"x.json", `{"fr":30,"layers":[{"ty":4,"shapes":[{"ty":"st","c":{"a":0,"k":‹[226,87,43,255]›}}]}]}`, "[242,182,50,255]"},
		"keyframes of text":  {"x.json", `{"fr":30,"layers":[{"ty":5,"t":{"d":{"k":[{"s":{"fc":‹[1,0,0]›,"sc":‹[1, 0, 0]›}}]},"a":[{"a":{"fc":{"a":0,"k":‹[1,0,0,1]›}}}]}}]}`, "[0.949,0.7137,0.196] | [0.949, 0.7137, 0.196] | [0.949,0.7137,0.196,1]"},
	} {
		t.Run(name, func(t *testing.T) {
			becomes := strings.Split(c.want, " | ")
			if len(becomes) == 1 && strings.Count(c.text, "‹") > 1 {
				becomes = strings.Fields(c.want)
			}
			before, after, rest := marked(t, c.text, becomes)
			require.Empty(t, rest)
			r := lampIn(t, c.file, []byte(before))
			assert.Equal(t, after, string(r.Data))
			assert.Empty(t, r.Left)
		})
	}
}

// A variable has a value for light and one for dark grounds, of which one drifted: that one is put right where it stands, and what refers to
// the variable goes on referring to it.
func TestWhatOthersShareIsNotWrittenOver(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	plan := repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}}}
	for name, c := range map[string]struct {
		file, text, want string
	}{
		"light and dark":     {"x.css", ":root{--b:#E1572C}.dark{--b:#0E3A53}a{color:var(--b)}", ":root{--b:#E2572B}.dark{--b:#0E3A53}a{color:var(--b)}"},
		"through another":    {"x.css", ":root{--b:#E1572C;--c:var(--b)}.dark{--b:#0E3A53}a{color:var(--c)}", ":root{--b:#E2572B;--c:var(--b)}.dark{--b:#0E3A53}a{color:var(--c)}"},
		"set again":          {"x.scss", "$b: #E1572C;\n.a{color:$b}\n$b: #0E3A53;\n.c{color:$b}", "$b: #E2572B;\n.a{color:$b}\n$b: #0E3A53;\n.c{color:$b}"},
		"worked out of both": {"x.css", ":root{--b:#E1572C}.dark{--b:#0E3A53}a{color:rgb(from var(--b) r g b)}", ":root{--b:#E2572B}.dark{--b:#0E3A53}a{color:rgb(from var(--b) r g b)}"},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := repaint.File(c.file, []byte(c.text), rules, plan, kinds.Options{})
			require.NoError(t, err)
			assert.Equal(t, c.want, string(r.Data))
			assert.Empty(t, r.Left)
		})
	}

	// What is excused at one place stays there, and so does what it shares its bytes with; that is said.
	text := ":root{--b:#E1572C}.a{color:var(--b)}.c{fill:#E1572C}"
	rules.Excuses = []audit.Excuse{{Color: "#E1572C", Where: "x.css 1:11, :root, --b"}}
	r, err := repaint.File("x.css", []byte(text), rules, plan, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, ":root{--b:#E1572C}.a{color:#E2572B}.c{fill:#E2572B}", strings.ReplaceAll(string(r.Data), "#e2572b", "#E2572B"))
	text = ".a{color:#E1572C80;fill:red}.c{fill:#E1572C}" // what is written before it moves it
	rules.Excuses = []audit.Excuse{{Color: "#E1572C", Where: "x.css 1:37, .c, fill"}}
	r, err = repaint.File("x.css", []byte(text), rules, repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}, {From: "#FF0000", To: "Lamp"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, ".a{color:#E2572B80;fill:#f2b632}.c{fill:#E1572C}", string(r.Data))
	rules.Excuses = []audit.Excuse{{Color: "#E1572C", Where: "x.css 1:11, :root, --b"}}
	text = ":root{--b:#E1572C}.dark{--b:#0E3A53}.a{color:var(--b)}.c{fill:#E1572C}"
	r, err = repaint.File("x.css", []byte(text), rules, plan, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, ":root{--b:#E1572C}.dark{--b:#0E3A53}.a{color:var(--b)}.c{fill:#E2572B}", string(r.Data))
	require.Len(t, r.Left, 1)
	assert.Equal(t, "what stands there is also used where it stays", r.Left[0].Why)
}

// A sheet of a preprocessor as people write them: what is worked out of a variable goes on being worked out, what has a color as one of several
// values is not put in its place, and what somebody's own function makes is not taken for what it is made of.
func TestSheetsGoOnBeingWorkedOut(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	text := `$buoy: #E1572C !default;
$ring-color: rgba($buoy, .25) !default;
$ring: 0 0 2px $ring-color !default;
$shadow: $ring !default;
$pale: tint-color($buoy, 80%);
$deep: darken($buoy, 20%);
.a { color: $buoy; box-shadow: $shadow; border-color: $pale; background: fade-out($buoy, .5); fill: $deep }
`
	scan, err := kinds.Read("x.scss", []byte(text))
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("x.scss", scan)
	unjudged := map[string]bool{}
	for _, u := range report.Unjudged {
		unjudged[u.Value] = true
	}
	assert.Equal(t, map[string]bool{"tint-color($buoy, 80%)": true, "$pale": true}, unjudged)
	r, err := repaint.File("x.scss", []byte(text), rules, repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, strings.Replace(text, "#E1572C", "#E2572B", 1), string(r.Data))
	assert.Empty(t, r.Left)
	from := map[string]bool{}
	for _, c := range r.Changes {
		from[c.From] = true
	}
	assert.Equal(t, map[string]bool{"#E1572C": true}, from, "%v", r.Changes)

	// What is planned for a color that is worked out is written there, as opaque as it was.
	dark := ""
	for _, k := range report.Colors {
		if strings.Contains(k.Places[0].Where, "$deep") {
			dark = k.Hex
		}
	}
	require.NotEmpty(t, dark)
	r, err = repaint.File("x.scss", []byte(text), rules, repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}, {From: dark, To: "Deep Sound"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, strings.NewReplacer("#E1572C", "#E2572B", "darken($buoy, 20%)", "#0e3a53").Replace(text), string(r.Data))
	sheet := "a{--b:#0E3A53;color:rgb(from var(--b) r g b / 50%);fill:rgb(from var(--b) 226 87 44 / 50%)}"
	r, err = repaint.File("x.css", []byte(sheet), rules, repaint.Plan{Colors: []repaint.Step{{From: "#E2572C", To: "Buoy"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, strings.Replace(sheet, "rgb(from var(--b) 226 87 44 / 50%)", "rgb(226 87 43 / 0.5)", 1), string(r.Data))
}

// A utility class and the rules of a style sheet that were made of it change together, or stay.
func TestUtilityClassesAndTheirRules(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	plan := repaint.Plan{Colors: []repaint.Step{{From: "#1E3B48", To: "Deep Sound"}, {From: "#EAAB48", To: "Lamp"}, {From: "#4B2442", To: "Heather Cliff"}}}
	page := `<p class="border-[#1E3B48] hover:bg-[rgb(30,59,72)]/50 [--c:#EAAB48] shadow-[0_0_3px_#4B2442] grid-cols-[red] bg-[url(/a.svg#1E3B48)] [&[data-x]]:text-[#1e3b48]">`
	sheet := `.border-\[\#1E3B48\]{border-color:#1E3B48}.hover\:bg-\[rgb\(30\2c 59\2c 72\)\]\/50:hover{background-color:rgb(30 59 72/.5)}.\[--c\:\#EAAB48\]{--c:#EAAB48}@media(min-width:1px){.shadow-\[0_0_3px_\#4B2442\]{box-shadow:0 0 3px #4B2442}}.other\[x\]{color:#1E3B48}`
	for name, c := range map[string]struct{ text, want string }{
		"x.html": {page, `<p class="border-[#0E3A53] hover:bg-[rgb(14,58,83)]/50 [--c:#F2B632] shadow-[0_0_3px_#7A4E7E] grid-cols-[red] bg-[url(/a.svg#1E3B48)] [&[data-x]]:text-[#0e3a53]">`},
		"x.css":  {sheet, `.border-\[\#0E3A53\]{border-color:#0E3A53}.hover\:bg-\[rgb\(14\2c 58\2c 83\)\]\/50:hover{background-color:rgb(14 58 83/.5)}.\[--c\:\#F2B632\]{--c:#F2B632}@media(min-width:1px){.shadow-\[0_0_3px_\#7A4E7E\]{box-shadow:0 0 3px #7A4E7E}}.other\[x\]{color:#0E3A53}`},
		"x.tsx":  {"const a = <p className='border-[#1E3B48] shadow-[0_0_3px_#4B2442]'/>; const b = list[0]; const c = m['#x-[a]']", "const a = <p className='border-[#0E3A53] shadow-[0_0_3px_#7A4E7E]'/>; const b = list[0]; const c = m['#x-[a]']"},
	} {
		r, err := repaint.File(name, []byte(c.text), rules, plan, kinds.Options{})
		require.NoError(t, err)
		assert.Equal(t, c.want, string(r.Data), name)
		assert.Empty(t, r.Left, name)
	}

	// Excused in the page, so that the sheet keeps the rule too, and says so.
	excused := rules
	excused.Excuses = []audit.Excuse{{Color: "#1E3B48", File: "x.html", Reason: "an old campaign"}}
	decide := func(audit.Report) repaint.Plan { return plan }
	all, held, err := repaint.Classes("x.html", []byte(page), excused, decide, kinds.Options{})
	require.NoError(t, err)
	assert.Len(t, all, 5)
	alone, _, err := repaint.Classes("y.html", []byte(`<p class="[color:#1E3B48]">`), excused, decide, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"[color:#1E3B48]"}, alone)
	assert.Equal(t, []string{"[&[data-x]]:text-[#1e3b48]", "border-[#1E3B48]", "hover:bg-[rgb(30,59,72)]/50"}, held)
	stay := plan
	stay.Stay = map[string]string{}
	repaint.Stay(stay.Stay, held, "x.html", false)
	r, err := repaint.File("x.css", []byte(sheet), excused, stay, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, strings.NewReplacer("EAAB48", "F2B632", "4B2442", "7A4E7E", "{color:#1E3B48", "{color:#0E3A53").Replace(sheet), string(r.Data))
	require.Len(t, r.Left, 2)
	assert.Equal(t, "the class border-[#1E3B48] is to stay in x.html; it changes in all files or in none", r.Left[1].Why)

	// In one file both stand in, the class stays where one place of it is excused.
	both := "<style>" + sheet + "</style>" + page
	scan, err := kinds.Read("x.html", []byte(both))
	require.NoError(t, err)
	for _, u := range scan.Uses {
		if u.Rare().Names && !u.Hidden && u.RGB == hex("#1E3B48") {
			excused.Excuses = []audit.Excuse{{Color: "#1E3B48", Where: u.Where, Reason: "an old campaign"}}
		}
	}
	r, err = repaint.File("x.html", []byte(both), excused, plan, kinds.Options{})
	require.NoError(t, err)
	assert.Contains(t, string(r.Data), `.border-\[\#1E3B48\]{border-color:#1E3B48}`)
	assert.Contains(t, string(r.Data), `class="border-[#1E3B48] `)
	assert.Contains(t, string(r.Data), `.other\[x\]{color:#0E3A53}`)
	assert.NotEmpty(t, r.Left)
}

// What some writers leave in files is no failure of the audit: a folder whose nothing is packed, a picture without its last chunk, a style sheet
// without a byte, an open document of styles alone, a part that is not read.
func TestOddFilesAreJudgedAndRepainted(t *testing.T) {
	rules := audit.Rules{Colors: brand}
	plan := repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}}}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	folder, err := z.CreateRaw(&zip.FileHeader{Name: "sub/", Method: zip.Deflate, Flags: 8, CompressedSize64: 2})
	require.NoError(t, err)
	_, _ = folder.Write(nil)
	w, err := z.Create("sub/a.css")
	require.NoError(t, err)
	_, err = w.Write([]byte("a{color:#E1572C}"))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	// As Python writes it: the folder's entry has two packed bytes of nothing.
	data := b.Bytes()
	at := bytes.Index(data, []byte("sub/")) + len("sub/")
	data = append(append(slices.Clone(data[:at]), 3, 0), data[at:]...)
	end := bytes.LastIndex(data, []byte("PK\x05\x06"))
	binary.LittleEndian.PutUint32(data[end+16:], binary.LittleEndian.Uint32(data[end+16:])+2)
	second := bytes.LastIndex(data, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(data[second+42:], binary.LittleEndian.Uint32(data[second+42:])+2)
	r, err := repaint.File("x.zip", data, rules, plan, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, "a{color:#E2572B}", entry(t, r.Data, "sub/a.css"))

	picture := encoded(t, "x.png", buoyed(hex("#E1572C")))
	scan, err := kinds.Read("x.png", picture[:len(picture)-12])
	require.NoError(t, err)
	assert.NotEmpty(t, scan.Uses)
	_, err = kinds.Read("x.png", picture[:len(picture)-20])
	assert.ErrorContains(t, err, "cut off")

	for _, name := range []string{"x.css", "x.scss", "x.js", "x.html"} {
		scan, err = kinds.Read(name, nil)
		require.NoError(t, err)
		assert.Empty(t, scan.Uses)
	}
	_, err = kinds.Read("x.json", nil)
	assert.EqualError(t, err, "x.json is empty")

	styles := zipped(t, [2]string{"mimetype", "application/vnd.oasis.opendocument.text"}, [2]string{"styles.xml", `<office:document-styles xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0"><office:styles><style:style style:name="A" style:family="text"><style:text-properties fo:color="#E1572C"/></style:style></office:styles></office:document-styles>`})
	scan, err = kinds.Read("x.odt", styles)
	require.NoError(t, err)
	assert.Len(t, scan.Uses, 1)
	assert.Equal(t, []audit.Unread{{Path: "content.xml", Why: "it is missing; only the styles are judged"}}, scan.Unread)
}
