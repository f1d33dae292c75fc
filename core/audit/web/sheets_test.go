package web_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
)

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
			for _, u := range audittest.Uses(t, "x.css", c.css) {
				got = append(got, u[:7])
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}

func TestPlacesInStyleSheetsAreExact(t *testing.T) {
	assert.Equal(t, []string{"#111111 x.css 3:17, .a > b, color"}, audittest.Uses(t, "x.css", "\n@media print {\n  .a > b{ color:#111 }}"))
	assert.Equal(t, []string{"#111111 x.css 2:11, i, color"}, audittest.Uses(t, "x.css", "/* é\n*/i{color:#111}"))
}

func TestAValueMadeOfVariablesIsAnnounced(t *testing.T) {
	scan, err := kinds.Read("x.css", []byte(`a{color:rgb(var(--r) 2 3)}`))
	require.NoError(t, err)
	require.Len(t, scan.Uses, 1)
	report := audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("x.css", scan)
	assert.Nil(t, report.Score)
	require.Len(t, report.Unjudged, 1)
	assert.Equal(t, "rgb(var(--r) 2 3)", report.Unjudged[0].Value)
	assert.Contains(t, report.Unjudged[0].Where, "x.css 1:9")
}

func FuzzCSS(f *testing.F) {
	for _, seed := range []string{`a{--x:{b:#fff};color:var(--x,rgb(1 2`, `:root{--buoy:#E2572B}.b{color:var(--buoy);background:color-mix(in oklab,red 20%,#0E3A53)}`,
		`@media print{a{border:1px solid hsl(14 76% 53% / .5)}}/* #fff */`, `a::before{content:"#123456";fill:url(#E2572B)}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		audittest.Fuzzed(t, "x.css", data)
	})
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
		t.Run(name, func(t *testing.T) { assert.ElementsMatch(t, c.want, audittest.Told(t, c.file, []byte(c.text))) })
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
			assert.ElementsMatch(t, c.want, audittest.Told(t, c.file, []byte(c.text)))
			scan, err := kinds.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			assert.Empty(t, scan.Unread)
		})
	}
}
