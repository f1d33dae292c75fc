package datafile_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/audit/audittest"
)

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
		t.Run(name, func(t *testing.T) { assert.ElementsMatch(t, c.want, audittest.Told(t, c.file, []byte(c.text))) })
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
	}, audittest.Told(t, "x.json", []byte(text)))
}

// Tokens of one file refer to those of others: to all that have the name, where their own file has none of it.
func TestTokensOfSeveralFiles(t *testing.T) {
	data := audittest.Zip(t, map[string]string{
		"base.json":  `{"ink":{"$type":"color","deep":{"$value":"#0E3A53"}}}`,
		"light.json": `{"ground":{"$type":"color","$value":"#FFFFFF"},"own":{"$type":"color","$value":"{ground}"}}`,
		"dark.json":  `{"ground":{"$type":"color","$value":"#111111"},"own":{"$type":"color","$value":"{ground}"}}`,
		"use.json":   `{"$type":"color","a":{"$value":"{ink.deep}"},"b":{"$value":"{ground}"},"colors":{"c":{"$value":"{gone}"}},"d":{"$value":"{b}"}}`,
	})
	assert.ElementsMatch(t, []string{
		"#0E3A53 base.json 1:42, ink.deep", "#FFFFFF light.json 1:37, ground", "#FFFFFF light.json 1:80, own =", "#111111 dark.json 1:37, ground", "#111111 dark.json 1:80, own =",
		"#0E3A53 use.json 1:32, a =", "#111111 use.json 1:60, b =", "#FFFFFF use.json 1:60, b =", "? {gone} use.json 1:96, colors.c", "#111111 use.json 1:121, d =", "#FFFFFF use.json 1:121, d =",
	}, audittest.Told(t, "tokens.zip", data))
	assert.ElementsMatch(t, []string{"#FFFFFF x.json 1:34, ink.sets.light", "#111111 x.json 1:61, ink.sets.dark", "#111111 x.json 1:105, call =", "#FFFFFF x.json 1:105, call ="},
		audittest.Told(t, "x.json", []byte(`{"ink":{"sets":{"light":{"value":"#FFFFFF"},"dark":{"value":"#111111"}}},"call":{"type":"color","value":"{ink}"}}`)), "values in several modes")
}
