package audit_test

import (
	"bytes"
	"compress/gzip"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	brand "huekeep/core/color"
	"huekeep/core/gradient"
	"huekeep/core/library"
	"huekeep/core/source"
)

// told lists a scan: "#HEX where", "= link" behind what is linked, "? why" for what could not be determined.
func told(t testing.TB, name string, data []byte) (out []string) {
	t.Helper()
	scan, err := audit.Read(name, data)
	require.NoError(t, err)
	for _, u := range scan.Uses {
		if u.Hidden {
			continue
		}
		text := u.Name() + " " + u.Where
		switch {
		case u.Why != "":
			text = "? " + u.Value + " " + u.Where
		case u.Linked():
			text += " ="
		}
		for range u.Count {
			out = append(out, text)
		}
	}
	return out
}

func TestStyleSheetsOfPreprocessorsAndComputedColors(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"variables of SCSS":    {"x.scss", "$buoy: #E2572B !default; // #111111\n.a { color: $buoy; &:hover { color: darken($buoy, 10%) } }", []string{"#E2572B x.scss 1:8, $buoy", "#E2572B x.scss 2:13, .a, color =", "#C0421A x.scss 2:37, &:hover, color"}},
		"variables of LESS":    {"x.less", "@buoy: #E2572B;\n.a { color: @buoy; background: fade(@buoy, 50%) }", []string{"#E2572B x.less 1:8, @buoy", "#E2572B x.less 2:13, .a, color =", "#E2572B x.less 2:32, .a, background"}},
		"a URL is no comment":  {"x.scss", ".a { background: url(http://x.example/a.png) #E2572B }", []string{"#E2572B x.scss 1:46, .a, background"}},
		"given to a mixin":     {"x.scss", ".a { @include button(#E2572B); }", []string{"#E2572B x.scss 1:22, .a, @include"}},
		"rgb of a variable":    {"x.css", ":root{--c: 226 87 43}.a{color: rgb(var(--c) / 50%)}", []string{"#E2572B x.css 1:32, .a, color"}},
		"a mix of variables":   {"x.css", ":root{--c:#000;--d:#fff}.a{color:color-mix(in srgb, var(--c), var(--d))}", []string{"#000000 x.css 1:11, :root, --c", "#FFFFFF x.css 1:20, :root, --d", "#808080 x.css 1:34, .a, color"}},
		"two themes":           {"x.css", ":root{--c:#111}.dark{--c:#222}.a{color:rgb(from var(--c) r g b)}", []string{"#111111 x.css 1:11, :root, --c", "#222222 x.css 1:26, .dark, --c", "#111111 x.css 1:40, .a, color", "#222222 x.css 1:40, .a, color"}},
		"light and dark":       {"x.css", ".a{color:light-dark(#111, #222)}", []string{"#111111 x.css 1:21, .a, color", "#222222 x.css 1:27, .a, color"}},
		"not defined anywhere": {"x.css", ".a{color:var(--gone); margin:var(--gap)}", []string{"? var(--gone) x.css 1:10, .a, color"}},
		"functions of colors": {"x.scss", "@use 'sass:color' as c;$a:#E2572B;.a{color:c.adjust($a, $lightness: -10%);fill:complement($a);stroke:c.scale($a, $red: -50%, $alpha: -50%);background:change-color($a, $hue: 200, $saturation: 40%);caret-color:invert($a)}",
			[]string{"#E2572B x.scss 1:27, $a", "#C0421A x.scss 1:44, .a, color", "#2BB6E2 x.scss 1:80, .a, fill", "#71572B x.scss 1:102, .a, stroke", "#5697B7 x.scss 1:151, .a, background", "#1DA8D4 x.scss 1:209, .a, caret-color"}},
		"values of other maps": {"x.scss", "$m:(big:2px);.a{padding:map-get($m,small);margin:map-get($sizes,$n);color:map-get($m,ink)}$ink-color:map-get($gone,ink);", []string{"? map-get($m,ink) x.scss 1:75, .a, color", "? map-get($gone,ink) x.scss 1:102, $ink-color"}},
		"sums of colors": {"x.less", "@b:#204060;.a{color:#112244 + #111111;fill:(@b / 2);stroke:2 * @b;border:1px solid @b;grid-area:1 / 2;caret-color:@b + @gone;background-color:~'@{b}';column-rule-color:@@n}",
			[]string{"#204060 x.less 1:4, @b", "#223355 x.less 1:21, .a, color", "#102030 x.less 1:44, .a, fill", "#4080C0 x.less 1:60, .a, stroke", "#204060 x.less 1:84, .a, border =", "? @b + @gone x.less 1:115, .a, caret-color", "? ~'@{b}' x.less 1:143, .a, background-color", "? @@n x.less 1:169, .a, column-rule-color"}},
		"what a mixin is given": {"x.scss", "@mixin m($c,$d:#111111){color:$c;fill:$d;stroke:$other}.a{@include m(#222222)}@each $n,$k in (a:#333333){.b{color:$k}}.c{color:$c}",
			[]string{"#111111 x.scss 1:16, $d", "#111111 x.scss 1:39, fill =", "? $other x.scss 1:49, stroke", "#222222 x.scss 1:70, .a, @include", "#333333 x.scss 1:97, @each", "? $c x.scss 1:128, .c, color"}},
		"an empty variable":       {"x.css", ":root{--cap: ;--gone:}.a{color:var(--cap);fill:var(--gone);stroke:var(--none)}", []string{"? var(--none) x.css 1:67, .a, stroke"}},
		"functions of somebody":   {"x.css", ".a{color:theme('ink');fill:url('#g');stroke:attr(data-ink type(<color>));color:if(media(print): #111111; else: light-dark(#222222,#333333));width:calc(1px)}", []string{"? theme('ink') x.css 1:10, .a, color", "? attr(data-ink type(<color>)) x.css 1:45, .a, stroke", "#111111 x.css 1:97, .a, color", "#222222 x.css 1:123, .a, color", "#333333 x.css 1:131, .a, color"}},
		"effects and shapes":      {"x.scss", ".a{transform:scale(1.5);filter:grayscale(100%) contrast(1.2) invert(1) saturate($s);scale:scale(2);-webkit-filter:invert($x)}", nil},
		"worked out elsewhere":    {"x.scss", ".a{color: theme-color(primary); fill: change-color(#E2572B, $whiteness: 3%)}", []string{"? theme-color(primary) x.scss 1:11, .a, color", "? change-color(#E2572B, $whiteness: 3%) x.scss 1:39, .a, fill"}},
		"inks of CSS":             {"x.css", ".a{color: device-cmyk(0 75% 90% 5%)}", []string{"0 75 90 5 x.css 1:11, .a, color"}},
		"wide colors":             {"x.css", ".a{color: color(display-p3 1 0 0)}", []string{"color(display-p3 1 0 0) x.css 1:11, .a, color"}},
		"a drawing in a URL":      {"x.css", `.a{background:url("data:image/svg+xml,%3Csvg xmlns='x'%3E%3Cpath fill='%23E2572B'/%3E%3C/svg%3E")}`, []string{"#E2572B x.css 1:15, .a, background > drawing 1:16, path, fill"}},
		"utilities":               {"x.css", ".a { @apply bg-[#E2572B] text-white; }", []string{"#E2572B x.css 1:17, .a, @apply"}},
		"more dashes":             {"x.css", ":root{---a:#111}.b{color:var(---a)}", []string{"#111111 x.css 1:12, :root, ---a", "#111111 x.css 1:26, .b, color ="}},
		"masks":                   {"x.css", ".a{mask-image:linear-gradient(#111, red);-webkit-mask:url(a.svg) #222;mask:#333;masked:#444}", []string{"#444444 x.css 1:88, .a, masked"}},
		"colors of a system":      {"x.css", ".a{outline:1px solid Highlight;font:menu;color:canvastext}", []string{"? Highlight x.css 1:22, .a, outline", "? canvastext x.css 1:48, .a, color"}},
		"names that are no color": {"x.css", ".a{content:counter(red) counters(tan, '.');background:linear-gradient(red, tan)}", []string{"#FF0000 x.css 1:71, .a, background", "#D2B48C x.css 1:76, .a, background"}},
		"a name that is put in":   {"x.scss", ".a{#{$p}-color:#111;border-#{$side}-color:tan;#{$a}:hover{color:#222}}", []string{"#111111 x.scss 1:16, .a, #{$p}-color", "#D2B48C x.scss 1:43, .a, border-#{$side}-color", "#222222 x.scss 1:65, #{$a}:hover, color"}},
		"and in LESS":             {"x.less", ".a{@{p}-color:#111;border-@{side}:1px solid #222}", []string{"#111111 x.less 1:15, .a, @{p}-color", "#222222 x.less 1:45, .a, border-@{side}"}},
		"mixins of LESS":          {"x.less", ".m(@a: #111; @b: 2) { margin: 0 }\n.a { .m(#222; 1); #b.c; .d:not(#bad) { margin: 0 } }", []string{"#111111 x.less 1:8, .m", "#222222 x.less 2:9, .a, .m"}},
		"strings of LESS":         {"x.less", ".a{color:~\"#111\";fill:e(\"#222\");stroke:color('#333');content:\"#444\";background:~\"none\"}", []string{"#111111 x.less 1:12, .a, color", "#222222 x.less 1:26, .a, fill", "#333333 x.less 1:47, .a, stroke"}},
		"a value of a map":        {"x.scss", "@use 'sass:map';$m:('a':#111,b:(c:#222,d:tan));.a{color:map.get($m,a);fill:map-get($m, 'b', \"d\");stroke:map.get($m,gone)}", []string{"#111111 x.scss 1:25, $m", "#222222 x.scss 1:35, $m", "#111111 x.scss 1:57, .a, color =", "#D2B48C x.scss 1:76, .a, fill =", "? map.get($m,gone) x.scss 1:105, .a, stroke"}},
		"a map of a preprocessor": {"x.scss", "$all: (\n  'buoy': #E2572B,\n  lamp: #F2B632\n);", []string{"#E2572B x.scss 2:11, $all", "#F2B632 x.scss 3:9, $all"}},
	} {
		t.Run(name, func(t *testing.T) { assert.ElementsMatch(t, c.want, told(t, c.file, []byte(c.text))) })
	}
}

func TestPagesComponentsAndScripts(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"a page": {"x.html", "<!doctype html><style>.a{color:#111}</style><p id=x style=\"color:#222; margin: 0\">#333</p><body bgcolor=444444><script>let c = '#555555'</script>",
			[]string{"#111111 x.html 1:32, .a, color", "#222222 x.html 1:45, p#x, style color", "#444444 x.html 1:91, body, bgcolor", "#555555 x.html 1:129, c"}},
		"a theme color":   {"x.html", `<meta name="theme-color" content="#E2572B"><meta name="description" content="#FFFFFF">`, []string{"#E2572B x.html 1:1, meta, content"}},
		"a drawing in it": {"x.html", `<svg><path fill="#E2572B" d="M0 0"/></svg>`, []string{"#E2572B x.html 1:6, path, fill"}},
		"a mask in it":    {"x.html", `<svg><mask id="m"><rect fill="#fff"/></mask><clipPath><path style="fill:#111"/></clipPath><path fill="#222"/></svg>`, []string{"#222222 x.html 1:91, path, fill"}},
		"what its scripts are given": {"x.html", `<p data-color="#111" data-id="#decade" onclick="this.style.color='#222'" tint-color="#333" border="1"><script type="application/json">{"color":"#444"}</script><style type="text/plain">a{color:#555}</style>`,
			[]string{"#111111 x.html 1:1, p, data-color", "#222222 x.html 1:67, color", "#333333 x.html 1:1, p, tint-color", "#444444 x.html 1:145, color"}},
		"short names, and names that begin as events do": {"x.vue", `<template><a :c="'#111'" @k="x='#222'" on-color="#333"/></template>`, []string{"#111111 x.vue 1:19, c", "#222222 x.vue 1:33, x", "#333333 x.vue 1:11, a, on-color"}},
		"a page in it":     {"x.html", `<iframe srcdoc="<p style='color:#111'>&lt;b style=color:#222&gt;">`, []string{"#111111 x.html 1:1, iframe, srcdoc > page 1:1, p, style color", "#222222 x.html 1:1, iframe, srcdoc > page 1:23, b, style color"}},
		"an address":       {"x.js", `go("/x#111111"); const a = "page.html#222222", b = "1px solid#333333"`, nil},
		"a link to a part": {"x.html", `<a href="#facade">#decade</a>`, nil},
		"utilities":        {"x.html", `<p class="bg-[#E2572B] md:hover:text-[rgb(14_58_83)] p-[3px]">`, []string{"#E2572B x.html 1:1, p, class", "#0E3A53 x.html 1:1, p, class"}},
		"a component of Svelte": {"x.svelte", "<script>const hull = '#0E3A53';</script>\n<p style:color=\"#E2572B\" style=\"--x: #F2B632\" fill={on ? '#111111' : '#222222'}>{a < b}</p>\n<style lang=\"scss\">p { color: #4E7D5B } // #999999\n</style>",
			[]string{"#0E3A53 x.svelte 1:23, hull", "#E2572B x.svelte 2:1, p, style:color", "#F2B632 x.svelte 2:1, p, style --x", "#111111 x.svelte 2:59, fill", "#222222 x.svelte 2:71, fill", "#4E7D5B x.svelte 3:31, p, color"}},
		"a component of Vue": {"x.vue", "<template><p :style=\"{ color: '#E2572B' }\" @click=\"go('#top')\"/></template>", []string{"#E2572B x.vue 1:32, color"}},
		"pictures that are put together": {"x.svelte", "<img src=`data:image/png;base64,${a}`><img src=\"data:image/png;base64,{a}\"><script>const b = `data:image/png;base64,${a}`</script><p style=\"color:#111\">",
			[]string{"#111111 x.svelte 1:131, p, style color"}},
		"a script": {"x.ts", "// '#111111'\nexport const theme = { hull: \"#0E3A53\", text: 'navy', color: 'navy', n: 0xE2572B, fillColor: 0xF2B632 };\nel.querySelector('#facade'); const re = /['\"]#222222/;\nconst s = `color: ${x}; background: #4E7D5B`;",
			[]string{"#0E3A53 x.ts 2:31, hull", "#000080 x.ts 2:63, color", "#F2B632 x.ts 2:94, fillColor", "#4E7D5B x.ts 4:37, s, background"}},
		"masks in a script": {"x.tsx", "const a = <svg><mask id=\"m\"><rect fill=\"#FFFFFF\"/></mask><clipPath><path fill={'#111111'}/></clipPath><rect fill=\"#0E3A53\" style={{ maskImage: 'linear-gradient(#000,#fff)', WebkitMask: \"#123456\", color: '#E2572B' }}/></svg>; const maskColor = 0x445566; const b = <mask-icon color=\"#F2B632\"/>",
			[]string{"#0E3A53 x.tsx 1:115, fill", "#E2572B x.tsx 1:205, color", "#445566 x.tsx 1:244, maskColor", "#F2B632 x.tsx 1:282, color"}},
		"markup in a script": {"x.tsx", "const a = <p style={{ color: '#E2572B' }}>Don't touch #999999</p>; const b = <rect fill=\"#0E3A53\"/>;", []string{"#E2572B x.tsx 1:31, color", "#0E3A53 x.tsx 1:90, fill"}},
		"made while it runs": {"x.js", "const c = `rgb(${r}, 2, 3)`;", []string{"? rgb(${r}, 2, 3) x.js 1:12, c"}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.ElementsMatch(t, c.want, told(t, c.file, []byte(c.text)))
			scan, err := audit.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			assert.Empty(t, scan.Unread)
		})
	}
}

func TestTokensAndOtherData(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"tokens": {"x.json", `{"a":{"$type":"color","buoy":{"$value":"#E2572B"},"call":{"$value":"{a.buoy}"},"hull":{"$value":{"colorSpace":"srgb","components":[0.0549,0.2275,0.3255],"hex":"#0e3a53"}}},"gap":{"$type":"dimension","$value":"4px"}}`,
			[]string{"#E2572B x.json 1:40, a.buoy", "#E2572B x.json 1:68, a.call =", "#0E3A53 x.json 1:97, a.hull"}},
		"the older form":            {"x.json", `{"buoy":{"type":"color","value":"#E2572B"}}`, []string{"#E2572B x.json 1:33, buoy"}},
		"pointers to tokens":        {"x.json", `{"$type":"color","buoy":{"$value":"#E2572B"},"call":{"$value":{"$ref":"#/buoy/$value"}},"gone":{"color":{"$value":{"$ref":"#/x~1y/$value"}}}}`, []string{"#E2572B x.json 1:35, buoy", "#E2572B x.json 1:63, call =", "? #/x~1y/$value x.json 1:115, gone.color"}},
		"a missing component":       {"x.json", `{"$type":"color","a":{"$value":{"colorSpace":"oklch","components":[0.6,0,"none"]}},"b":{"$value":{"colorSpace":"hsl","components":["none",0,50]}},"c":{"$value":{"colorSpace":"srgb","components":[0,0,{}]}}}`, []string{"#808080 x.json 1:32, a", "#808080 x.json 1:98, b", `? srgb "colorSpace":"srgb","components":[0,0,{}] x.json 1:161, c`}},
		"other modes":               {"x.json", `{"a":{"$type":"color","$value":"#E2572B","$description":"not #111111","$extensions":{"x.modes":{"dark":"#0E3A53"},"app.huekeep":{"was":"#222222"}}},"b":{"$extensions":{"y":{"color":"tan"}}}}`, []string{"#E2572B x.json 1:32, a", "#0E3A53 x.json 1:104, a.$extensions.x.modes.dark", "#D2B48C x.json 1:182, b.$extensions.y.color"}},
		"aliases of older tools":    {"x.json", `{"c":{"base":{"value":"#E2572B","type":"color"},"a":{"value":"{c.base.value}","type":"color"},"b":{"value":"{c.base}"},"d":{"value":"{size.large}"}}}`, []string{"#E2572B x.json 1:23, c.base", "#E2572B x.json 1:62, c.a =", "#E2572B x.json 1:108, c.b ="}},
		"a color that is not there": {"x.json", `{"a":{"$type":"color","$value":"{gone}"},"b":{"$type":"dimension","$value":"{gone}"}}`, []string{"? {gone} x.json 1:32, a"}},
		"tokens of other kinds":     {"x.json", `{"color-edge":{"width":{"value":"2px"},"edge":{"value":"{color-edge.width}"},"ring":{"$type":"dimension","$value":"1px"},"line":{"$value":"{color-edge.ring}"}}}`, nil},
		"numbers to 1":              {"x.json", `{"a":{"color":{"r":1,"g":1,"b":1,"a":1}},"b":{"color":{"r":0.5,"g":0,"b":0}},"c":{"color":[0,0,1]}}`, []string{"#FFFFFF x.json 1:15, a.color", "#800000 x.json 1:55, b.color", "#0000FF x.json 1:91, c.color"}},
		"numbers to 255":            {"x.json", `{"a":{"color":{"r":1,"g":1,"b":1}},"b":{"color":{"r":226,"g":87,"b":43}}}`, []string{"#010101 x.json 1:15, a.color", "#E2572B x.json 1:49, b.color"}},
		"numbers to either":         {"x.json", `{"a":{"color":[1,0,1]},"b":{"color":[0,0,0]}}`, []string{"? [1,0,1] x.json 1:15, a.color", "#000000 x.json 1:37, b.color"}},
		"aliases that show through": {"x.json", `{"c":{"base":{"value":"#E2572B","type":"color"},"a":{"value":"rgba({c.base}, 0.5)","type":"color"},"b":{"value":"hsla({c.base.value},20%)","type":"color"},"d":{"value":"rgba({c.base},0)","type":"color"},"color":{"value":"rgba({gone},1)","type":"color"}}}`,
			[]string{"#E2572B x.json 1:23, c.base", "#E2572B x.json 1:62, c.a =", "#E2572B x.json 1:113, c.b =", "? rgba({gone},1) x.json 1:221, c.color"}},
		"an alias to nothing":     {"x.json", `{"color":{"a":{"$type":"color","$value":"{gone}"}}}`, []string{"? {gone} x.json 1:41, color.a"}},
		"plain":                   {"x.json", `{"note":"see #decade for more","href":"#facade","color":"navy","accent":"#E2572B","rgb":{"r":14,"g":58,"b":83},"fillColor":[0.5,0,1],"textColor":[1,0,0],"title":"navy"}`, []string{"#000080 x.json 1:57, color", "#E2572B x.json 1:73, accent", "#0E3A53 x.json 1:89, rgb", "#8000FF x.json 1:124, fillColor", "? [1,0,0] x.json 1:146, textColor"}},
		"YAML":                    {"x.yaml", "brand:\n  accent: \"#E2572B\" # '#111111'\n  color: navy\n  hexcolor: 0e3a53\n  title: navy\n", []string{"#E2572B x.yaml 2:11, brand.accent", "#000080 x.yaml 3:10, brand.color", "#0E3A53 x.yaml 4:13, brand.hexcolor"}},
		"WebVTT":                  {"x.vtt", "WEBVTT\n\nSTYLE\n::cue { color: #E2572B }\n\n00:01.000 --> 00:02.000\n<c.red>Mind the gap</c> #999999\n", []string{"#E2572B x.vtt 4:16, ::cue, color", "#FF0000 x.vtt 7:1, cue at 00:01.000"}},
		"SubRip":                  {"x.srt", "1\r\n00:00:01,000 --> 00:00:02,500\r\n<font color=\"#E2572B\">Mind</font> <FONT face='a' Color=0e3a53>the gap</FONT>\r\n\r\n2\r\n00:00:03,000 --> 00:00:04,000\r\n{\\c&H2B57E2&}<font color=navy>x</font><font color='sea'>y\r\n", []string{"#E2572B x.srt 3:14, cue at 00:00:01,000", "#0E3A53 x.srt 3:56, cue at 00:00:01,000", "#E2572B x.srt 7:6, cue at 00:00:03,000", "#000080 x.srt 7:26, cue at 00:00:03,000", "? sea x.srt 7:52, cue at 00:00:03,000"}},
		"SubStation":              {"x.ass", "[Script Info]\n\n[V4+ Styles]\nFormat: Name, PrimaryColour, BackColour\nStyle: Safety,&H002B57E2,&HFF000000\n\n[Events]\nFormat: Start, Text\nDialogue: 0,0:00:01.00,{\\c&H533A0E&}Mind\n", []string{"#E2572B x.ass 5:17, style Safety, primary", "#0E3A53 x.ass 9:29, line at 0:00:01.00"}},
		"timed text":              {"x.ttml", `<tt xmlns:tts="x"><styling><style xml:id="s" tts:color="#E2572Bff" tts:backgroundColor="transparent"/></styling><p tts:color="red">x</p></tt>`, []string{"#E2572B x.ttml 1:57, style s, text", "#FF0000 x.ttml 1:127, p, text"}},
		"a timeline":              {"x.mlt", `<mlt><producer id="p0"><property name="resource">#ffE2572B</property><property name="mlt_service">color</property><property name="length">#123456</property></producer><filter id="f"><property name="fgcolour">0x0E3A53ff</property></filter></mlt>`, []string{"#E2572B x.mlt 1:50, producer p0, resource", "#0E3A53 x.mlt 1:209, filter f, fgcolour"}},
		"YAML of a later version": {"x.yaml", "%YAML 1.2\n---\nbrand: &b \"#E2572B\"\ncopy: *b\nhull: !!str '#0E3A53'\nbg_color: 0xF2B632\nsize: 0x102030\n---\ntext: |\n  color: #111111\n", []string{"#E2572B x.yaml 3:8, brand", "#0E3A53 x.yaml 5:7, hull", "#F2B632 x.yaml 6:11, bg_color"}},
		"older subtitles":         {"x.ass", "[Script Info]\n[V4 Styles]\nFormat: Name, PrimaryColour, SecondaryColour\nStyle: Safety,2840546,&H00533A0E\n", []string{"#E2572B x.ass 4:15, style Safety, primary", "#0E3A53 x.ass 4:25, style Safety, secondary"}},
		"emphasis":                {"x.ttml", `<tt><p tts:textEmphasis="filled #E2572B">a</p></tt>`, []string{"#E2572B x.ttml 1:26, p, emphasis"}},
		"colors in time":          {"x.mlt", `<mlt><filter id="f"><property name="olcolour">00:00:00.000=#ffE2572B; 50~=0x0E3A53ff</property><property name="map_white">#F2B632</property><property name="level">0=1;50=2</property></filter></mlt>`, []string{"#E2572B x.mlt 1:60, filter f, olcolour at 00:00:00.000", "#0E3A53 x.mlt 1:75, filter f, olcolour at 50", "#F2B632 x.mlt 1:123, filter f, map_white"}},
		"titles in a timeline":    {"x.mlt", `<mlt><producer id="t"><property name="xmldata">&lt;item&gt;&lt;content font-color="226,87,43,255"&gt;#111111&lt;/content&gt;&lt;background color="1,2,3,0"/&gt;&lt;/item&gt;</property><property name="html"><![CDATA[<p style="color:#0E3A53">]]></property></producer></mlt>`, []string{"#E2572B x.mlt 1:48, producer t, xmldata > text 1:7, content, font-color", "#0E3A53 x.mlt 1:215, producer t, html > text 1:1, p, style color"}},
		"a drawing with entities": {"x.svg", `<!DOCTYPE svg [<!ENTITY buoy "#E2572B">]><svg><path fill="&buoy;"/><path fill="#111" opacity="0"/><path fill="#222 icc-color(p, 0.1)"/></svg>`, []string{"#E2572B x.svg 1:47, path, fill", "#222222 x.svg 1:99, path, fill"}},
	} {
		t.Run(name, func(t *testing.T) { assert.ElementsMatch(t, c.want, told(t, c.file, []byte(c.text))) })
	}
}

// gzipped is a text in gzip, with a name in its header.
func gzipped(t *testing.T, text string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	z.Name = "x.svg"
	_, err := z.Write([]byte(text))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestACompressedDrawing(t *testing.T) {
	data := gzipped(t, `<svg xmlns="http://www.w3.org/2000/svg"><path fill="#E2572C"/></svg>`)
	assert.Equal(t, []string{"#E2572C x.svgz 1:41, path, fill"}, told(t, "x.svgz", data))
	scan, err := audit.Read("logo", data)
	require.NoError(t, err)
	assert.Equal(t, "svgz", scan.Kind, "content decides")
	out, err := scan.File.Apply([]source.Edit{{Span: scan.Uses[0].At[0], New: []byte("#E2572B")}})
	require.NoError(t, err)
	z, err := gzip.NewReader(bytes.NewReader(out))
	require.NoError(t, err)
	assert.Equal(t, "x.svg", z.Name)
	text, err := io.ReadAll(z)
	require.NoError(t, err)
	assert.Equal(t, `<svg xmlns="http://www.w3.org/2000/svg"><path fill="#E2572B"/></svg>`, string(text))
	_, err = audit.Read("x.svgz", data[:len(data)-12])
	require.ErrorContains(t, err, "damaged")
	_, err = audit.Read("x.svgz", gzipped(t, "<p>"))
	require.ErrorContains(t, err, "named as a compressed SVG drawing and is none")
}

// What people have and what is not read is called by its name, with what to do.
func TestWhatIsNotReadIsCalledByItsName(t *testing.T) {
	for want, data := range map[string]string{
		"photo is a picture in HEIF (HEIC or AVIF), which is not read; save it as PNG or JPEG": "\x00\x00\x00\x18ftypavif\x00\x00\x00\x00mif1",
		"photo is in the office formats from before 2007":                                      "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\x00\x00\x00",
		"photo is PostScript, which is not read; make a PDF of it":                             "%!PS-Adobe-3.0 EPSF-3.0\n1 0 0 setrgbcolor\n",
	} {
		_, err := audit.Read("photo", []byte(data))
		require.ErrorContains(t, err, want)
	}
}

func TestAnimations(t *testing.T) {
	text := `{"v":"5","fr":25,"w":10,"h":10,"nm":"Safety film","layers":[
{"ty":1,"nm":"Ground","sc":"#0e3a53"},{"ty":1,"nm":"Matte","td":1,"sc":"#999999"},
{"ty":4,"nm":"Sign","shapes":[{"ty":"gr","nm":"Disc","it":[{"ty":"fl","nm":"Fill 1","c":{"a":0,"k":[0.8863,0.3412,0.1686,1]}},
 {"ty":"st","c":{"a":1,"k":[{"t":0,"s":[1,0,0,1],"e":[0,0,1,1]},{"t":25,"s":[0,0,1,1]}]}},
 {"ty":"gf","g":{"p":2,"k":{"a":0,"k":[0,1,1,1,1,0,0,0,0,1,1,0.5]}}}]}]},
{"ty":5,"nm":"Title","t":{"d":{"k":[{"s":{"t":"Mind","fc":[0.0549,0.2275,0.3255],"sc":[1,1,1]},"t":0}]}}},
{"ty":0,"nm":"Lamp","refId":"c1","ef":[{"ef":[{"ty":2,"nm":"Color","v":{"a":0,"k":[0.949,0.7137,0.1961,1],"x":"var $bm_rt = 1;"}}]}]}],
"assets":[{"id":"c1","nm":"Fireworks","layers":[{"ty":4,"nm":"Spark","shapes":[{"ty":"fl","c":{"a":0,"k":[0,0,0,0]}},{"ty":"fl","c":{"a":0,"k":[0,1,0,1]}}]}]}]}`
	assert.ElementsMatch(t, []string{
		"#0E3A53 comp Safety film > layer Ground > solid",
		"#E2572B comp Safety film > layer Sign > Disc > fill Fill 1",
		"#FF0000 comp Safety film > layer Sign > Disc > stroke, at 0:00.00",
		"#0000FF comp Safety film > layer Sign > Disc > stroke, at 0:01.00",
		"#FFFFFF comp Safety film > layer Sign > Disc > gradient fill, stop 1",
		"#000000 comp Safety film > layer Sign > Disc > gradient fill, stop 2",
		"#0E3A53 comp Safety film > layer Title > text",
		"#FFFFFF comp Safety film > layer Title > text stroke",
		"? var $bm_rt = 1; comp Safety film > layer Lamp > effect Color, expression",
		"#F2B632 comp Safety film > layer Lamp > effect Color",
		"#00FF00 comp Fireworks > layer Spark > fill",
	}, told(t, "x.json", []byte(text)))
}

// text is a document of a few parts.
func text(t testing.TB, body string) []byte {
	return zipped(t, map[string]string{
		"[Content_Types].xml":          "<x/>",
		"_rels/.rels":                  `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="word/document.xml"/></r>`,
		"word/document.xml":            `<w:document xmlns:w="w"><w:body>` + body + `</w:body></w:document>`,
		"word/_rels/document.xml.rels": `<r><Relationship Id="t" Type="x/relationships/theme" Target="theme.xml"/><Relationship Id="s" Type="x/relationships/styles" Target="styles.xml"/></r>`,
		"word/theme.xml":               `<a:theme><a:clrScheme><a:dk1><a:srgbClr val="111111"/></a:dk1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
		"word/styles.xml":              `<w:styles><w:style w:type="paragraph" w:styleId="h1"><w:name w:val="Heading 1"/><w:rPr><w:color w:val="0E3A53"/></w:rPr></w:style></w:styles>`,
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
			assert.ElementsMatch(t, append(c.want, styles...), told(t, "x.docx", text(t, c.body)))
		})
	}
}

// workbook is one with two formats beside the plain one.
func workbook(t testing.TB, sheet, styles string) []byte {
	return zipped(t, map[string]string{
		"[Content_Types].xml":        "<x/>",
		"_rels/.rels":                `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="xl/workbook.xml"/></r>`,
		"xl/workbook.xml":            `<workbook xmlns:r="r"><sheets><sheet name="Fares" sheetId="1" r:id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<r><Relationship Id="s" Type="x/relationships/worksheet" Target="sheet.xml"/><Relationship Id="y" Type="x/relationships/styles" Target="styles.xml"/><Relationship Id="t" Type="x/relationships/theme" Target="theme.xml"/></r>`,
		"xl/theme.xml":               `<a:theme><a:clrScheme><a:dk1><a:srgbClr val="111111"/></a:dk1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
		"xl/styles.xml":              `<styleSheet>` + styles + `</styleSheet>`,
		"xl/sheet.xml":               `<worksheet>` + sheet + `</worksheet>`,
		"xl/_rels/sheet.xml.rels":    `<r><Relationship Id="c" Type="x/relationships/comments" Target="notes.xml"/></r>`,
		"xl/notes.xml":               `<comments><commentList><comment ref="B2"><text><r><rPr><color rgb="FF8FC1D4"/></rPr><t>a</t></r></text></comment></commentList></comments>`,
	})
}

func TestWorkbooks(t *testing.T) {
	const styles = `<numFmts><numFmt formatCode="0.00;[Red]-0.00"/></numFmts><fonts><font/><font><color rgb="FFE2572B"/></font></fonts><fills><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="solid"><fgColor theme="4" tint="0.5"/><bgColor indexed="64"/></patternFill></fill></fills>
<borders><border/><border><left style="thin"><color indexed="10"/></left><right style="thin"><color indexed="10"/></right><top><color rgb="FF123456"/></top></border></borders>
<cellXfs><xf/><xf fontId="1" fillId="1"/><xf borderId="1"/></cellXfs><cellStyleXfs><xf/><xf fontId="1"/></cellStyleXfs><cellStyles><cellStyle name="Normal" xfId="0"/><cellStyle name="Call" xfId="1"/></cellStyles><dxfs><dxf><fill><patternFill><bgColor rgb="FFF2B632"/></patternFill></fill></dxf></dxfs>`
	got := told(t, "x.xlsx", workbook(t, `<sheetPr><tabColor rgb="FF4E7D5B"/></sheetPr><cols><col min="6" max="7" style="1"/><col min="8" max="8" style="1"/><col min="9" max="9"/></cols><sheetData><row r="2"><c r="B2" s="1"><v>1</v></c><c r="C2" s="1"/></row><row r="3"><c r="B3" s="1"><v>1</v></c><c r="C3" s="1"/><c r="E3" s="2"><v>1</v></c></row><row r="7" s="2" customFormat="1"/></sheetData><conditionalFormatting sqref="A1:A9"><cfRule dxfId="0"/><cfRule><colorScale><color rgb="FF0E3A53"/></colorScale></cfRule></conditionalFormatting><headerFooter><oddHeader>&amp;C&amp;K7A4E7EFares &amp;&amp;K123456</oddHeader><oddFooter>&amp;K04+050page &amp;P</oddFooter></headerFooter>`+
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

func TestPictures(t *testing.T) {
	buoy, white := color.NRGBA{0xE2, 0x57, 0x2B, 255}, color.NRGBA{255, 255, 255, 255}
	img := image.NewNRGBA(image.Rect(0, 0, 200, 100))
	for y := range 100 {
		for x := range 200 {
			img.SetNRGBA(x, y, white)
			switch d := (x-100)*(x-100) + (y-50)*(y-50); {
			case d < 38*38:
				img.SetNRGBA(x, y, buoy)
			case d < 40*40: // an edge that blends the two
				img.SetNRGBA(x, y, color.NRGBA{uint8(226 + (1600-d)%29), uint8(87 + (1600-d)%168), uint8(43 + (1600-d)%212), 255})
			}
		}
	}
	rules := rulesOf("Buoy #E2572B", "Hull #0E3A53")
	rules.Neutrals = true
	encode := func(f func(*bytes.Buffer) error) []byte {
		var b bytes.Buffer
		require.NoError(t, f(&b))
		return b.Bytes()
	}
	for name, data := range map[string][]byte{
		"x.png":  encode(func(b *bytes.Buffer) error { return png.Encode(b, img) }),
		"90.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 90}) }),
		"75.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 75}) }),
		"50.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 50}) }),
		"x.gif":  encode(func(b *bytes.Buffer) error { return gif.Encode(b, img, nil) }),
	} {
		if name == "x.gif" {
			continue // its palette has no such color
		}
		scan, err := audit.Read(name, data)
		require.NoError(t, err)
		report := audit.NewJudge(rules).Judge(name, scan)
		require.NotNil(t, report.Score)
		assert.Equal(t, 1.0, *report.Score, "%s: %v", name, report.Colors)
		assert.Len(t, report.Colors, 2, "the edges and what compression left are no colors: %v", report.Colors)
	}
	// A shade beside it in a JPEG is not taken for it.
	for y := range 100 {
		for x := range 40 {
			img.SetNRGBA(x, y, color.NRGBA{0xD9, 0x48, 0x2B, 255})
		}
	}
	scan, err := audit.Read("x.jpg", encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 75}) }))
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("x.jpg", scan)
	assert.Equal(t, audit.Drifted, report.Colors[0].Verdict, "%v", report.Colors)
}

// Tokens of one file refer to those of others: to all that have the name, where their own file has none of it.
func TestTokensOfSeveralFiles(t *testing.T) {
	data := zipped(t, map[string]string{
		"base.json":  `{"ink":{"$type":"color","deep":{"$value":"#0E3A53"}}}`,
		"light.json": `{"ground":{"$type":"color","$value":"#FFFFFF"},"own":{"$type":"color","$value":"{ground}"}}`,
		"dark.json":  `{"ground":{"$type":"color","$value":"#111111"},"own":{"$type":"color","$value":"{ground}"}}`,
		"use.json":   `{"$type":"color","a":{"$value":"{ink.deep}"},"b":{"$value":"{ground}"},"colors":{"c":{"$value":"{gone}"}},"d":{"$value":"{b}"}}`,
	})
	assert.ElementsMatch(t, []string{
		"#0E3A53 base.json 1:42, ink.deep", "#FFFFFF light.json 1:37, ground", "#FFFFFF light.json 1:80, own =", "#111111 dark.json 1:37, ground", "#111111 dark.json 1:80, own =",
		"#0E3A53 use.json 1:32, a =", "#111111 use.json 1:60, b =", "#FFFFFF use.json 1:60, b =", "? {gone} use.json 1:96, colors.c", "#111111 use.json 1:121, d =", "#FFFFFF use.json 1:121, d =",
	}, told(t, "tokens.zip", data))
	assert.ElementsMatch(t, []string{"#FFFFFF x.json 1:34, ink.sets.light", "#111111 x.json 1:61, ink.sets.dark", "#111111 x.json 1:105, call =", "#FFFFFF x.json 1:105, call ="},
		told(t, "x.json", []byte(`{"ink":{"sets":{"light":{"value":"#FFFFFF"},"dark":{"value":"#111111"}}},"call":{"type":"color","value":"{ink}"}}`)), "values in several modes")
}

func TestAFolderInAnArchiveIsReadWhole(t *testing.T) {
	inner := zipped(t, map[string]string{"deep.css": ".a{color:var(--buoy)}"})
	data := zipped(t, map[string]string{"site/app.css": ":root{--buoy:#E2572B}", "more.zip": string(inner), "deck.pptx": string(deck(t, `<a:srgbClr val="0E3A53"/>`)), "__MACOSX/x.css": "a{color:#111}", "a.woff2": "font", "bad.png": "no"})
	got := told(t, "all.zip", data)
	assert.Contains(t, got, "#E2572B site/app.css 1:14, :root, --buoy")
	assert.Contains(t, got, "#E2572B more.zip > deep.css 1:10, .a, color =", "a variable of another file of the project")
	assert.Contains(t, got, "#0E3A53 deck.pptx > slide 1, shape Box, fill")
	scan, err := audit.Read("all.zip", data)
	require.NoError(t, err)
	assert.Equal(t, []string{"1 file of kinds that are not read: a.woff2."}, scan.Notes)
	require.Len(t, scan.Unread, 1)
	assert.Equal(t, "bad.png", scan.Unread[0].Path)
	for range 6 {
		data = zipped(t, map[string]string{"in.zip": string(data)})
	}
	scan, err = audit.Read("deep.zip", data)
	require.NoError(t, err)
	require.NotEmpty(t, scan.Unread)
	assert.Contains(t, scan.Unread[0].Why, "documents deep")
}

func TestExcusesAndReasons(t *testing.T) {
	rules := rulesOf("Buoy #E2572B", "Sound #0E3A53", "Lamp #F2B632", "Marsh #4E7D5B", "Cliff #7A4E7E")
	css := "a{color:#00A34F}b{color:#00A34F}c{color:#E1572C}"
	scan, err := audit.Read("x.css", []byte(css))
	require.NoError(t, err)
	judge := func(e ...audit.Excuse) map[string]audit.Verdict {
		r := rules
		r.Excuses = e
		out := map[string]audit.Verdict{}
		for _, c := range audit.NewJudge(r).Judge("x.css", scan).Colors {
			out[c.Key] = c.Verdict
		}
		return out
	}
	assert.Equal(t, map[string]audit.Verdict{"#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge())
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00a34f"}))
	assert.Equal(t, map[string]audit.Verdict{"#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "y.css"}))
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "x.css", Where: "x.css 1:9, a, color"}), "one place of two")
	moved := "/* new */\n/* lines */\n" + css
	scan, err = audit.Read("x.css", []byte(moved))
	require.NoError(t, err)
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "x.css", Where: "x.css 1:9, a, color"}), "lines were put in above it")
	scan, err = audit.Read("x.css", []byte("p{color:#00A34F}\np{color:#00A34F}\np{color:#00A34F}"))
	require.NoError(t, err)
	near := audit.NewJudge(audit.Rules{Colors: rules.Colors, Excuses: []audit.Excuse{{Color: "#00A34F", File: "x.css", Where: "x.css 9:9, p, color"}}}).Judge("x.css", scan)
	for _, c := range near.Colors {
		if c.Verdict == audit.Excused {
			assert.Equal(t, []audit.Place{{Where: "x.css 3:9, p, color", Count: 1, Line: 3, Column: 9, Value: "#00A34F"}}, c.Places, "the nearest of three, and it alone")
		}
	}
	assert.Len(t, near.Colors, 2)
	scan, err = audit.Read("x.css", []byte(css))
	require.NoError(t, err)

	reasons := func(css string) map[string]string {
		scan, err := audit.Read("x.css", []byte(css))
		require.NoError(t, err)
		out := map[string]string{}
		for _, c := range audit.NewJudge(rules).Judge("x.css", scan).Colors {
			out[c.Hex] = c.Reason
		}
		return out
	}
	assert.Equal(t, "red 1 low, blue 1 high: typed or rounded", reasons("a{color:#E1572C}")["#E1572C"])
	assert.Equal(t, "Buoy under 40 % white", reasons("a{color:#EE9A80}")["#EE9A80"])
	// All colors of a file in the numbers of a wide screen.
	css = ""
	for _, c := range rules.Colors[:4] {
		v, ok := brand.Numbers("display-p3", c.RGB.RGB())
		require.True(t, ok)
		css += "a{color:" + brand.RGB{R: v[0], G: v[1], B: v[2]}.RGB8().Hex() + "}"
	}
	wide := reasons(css)
	require.Len(t, wide, 4)
	for hex, why := range wide {
		assert.Contains(t, why, "numbers of a Display P3 screen", hex)
	}
	video := reasons("a{color:#D25B35}b{color:#1C4257}c{color:#E0AC3B}")
	for hex, why := range video {
		assert.Contains(t, why, "video levels", hex)
	}
	for _, why := range reasons(css[:16] + "b{color:#123}") {
		assert.NotContains(t, why, "P3", "one color proves nothing")
	}
}

func TestAPictureShowsWhereAColorStands(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 60, 40))
	for y := range 40 {
		for x := range 60 {
			img.SetNRGBA(x, y, color.NRGBA{255, 255, 255, 255})
			if x < 20 {
				img.SetNRGBA(x, y, color.NRGBA{0xE1, 0x57, 0x2C, 255})
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	marked, err := audit.Marked(b.Bytes(), brand.RGB8{R: 0xE1, G: 0x57, B: 0x2C})
	require.NoError(t, err)
	out, err := png.Decode(bytes.NewReader(marked))
	require.NoError(t, err)
	r, g, bl, _ := out.At(5, 5).RGBA()
	assert.Equal(t, [3]uint32{0xE1, 0x57, 0x2C}, [3]uint32{r >> 8, g >> 8, bl >> 8})
	r, g, bl, _ = out.At(40, 5).RGBA()
	assert.True(t, r == g && g == bl, "everything else is gray")
	_, err = audit.Marked(b.Bytes(), brand.RGB8{R: 1})
	assert.Error(t, err)
	_, err = audit.Marked([]byte("no"), brand.RGB8{})
	assert.Error(t, err)
}

func TestTheColorsBetweenTheStopsOfAGradient(t *testing.T) {
	rules := rulesOf("Deep #0E3A53", "Buoy #E2572B")
	rules.Gradients = []library.Gradient{{Name: "Dusk", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{Name: "Deep"}}, {Color: library.Ref{Name: "Buoy"}, Place: 100}}}}
	off := color.NRGBA{0xE1, 0x57, 0x2C, 255}
	paint := func(at func(x int) color.NRGBA) []byte {
		img := image.NewNRGBA(image.Rect(0, 0, 300, 40))
		for y := range 40 {
			for x := range 300 {
				img.SetNRGBA(x, y, at(x))
			}
		}
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, img))
		return b.Bytes()
	}
	verdicts := func(data []byte) map[audit.Verdict]int {
		scan, err := audit.Read("x.png", data)
		require.NoError(t, err)
		out := map[audit.Verdict]int{}
		for _, c := range audit.NewJudge(rules).Judge("x.png", scan).Colors {
			out[c.Verdict]++
		}
		return out
	}
	stops := []gradient.Stop{{Color: brand.RGB8{R: 0x0E, G: 0x3A, B: 0x53}}, {Color: brand.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Place: 100}}
	ramp := verdicts(paint(func(x int) color.NRGBA {
		c, err := gradient.At(stops, "oklab", float64(x)/3)
		require.NoError(t, err)
		return color.NRGBA{c.R, c.G, c.B, 255}
	}))
	assert.Positive(t, ramp[audit.OnBrand])
	assert.Len(t, ramp, 1, "a gradient of the library is on-brand from end to end: %v", ramp)

	flat := verdicts(paint(func(int) color.NRGBA { return off }))
	assert.Equal(t, map[audit.Verdict]int{audit.Drifted: 1}, flat, "what is close to a stop is no gradient")
}
