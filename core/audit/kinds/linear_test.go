package kinds_test

import (
	"os"
	"testing"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
)

// linearTexts are the kinds that are texts: where a token can stand, and of what the tokens are made.
func linearTexts() map[string][]hostile.Case {
	out := map[string][]hostile.Case{}
	add := func(name, alphabet string, places [][2]string, tokens ...string) {
		for i, p := range places {
			cases := hostile.Cases(p[0], p[1], tokens...)
			for k := range cases {
				cases[k].Few = i > 0
			}
			if i == 0 || os.Getenv("HUEKEEP_HOSTILE") != "" {
				cases = append(cases, hostile.Cases(p[0], p[1], hostile.Pairs(alphabet)...)...)
			}
			out[name] = append(out[name], cases...)
		}
	}
	script := []string{"a=`${", "${`", "${'", "`${\"", "`${/", "`${`", "{`", "`${{", "`${{}", "<mask", "<clipPath ", "<mask>", "</mask>", "color:'", "fill={", "fill={`", "/[", "/*", "//", "0x", "0x112233", "'<svg", "`<svg",
		"`color:${", "`#${", "`rgb(${", "'data:image/", "`data:image/svg+xml,", "'bg-[", "'bg-[#112233]", "'#112233", "a?'", "a?'b':", "color=a?'#123456':", "'\\", "color(", "('#112233')", "color:{\n", "x={color:'#112233',", "`a{color:#112233;", "`\n`"}
	add("x.js", "/\"'`${}()[]<>=:;,#\\\n*?-&0", [][2]string{{"", ""}, {"const a=`", "`"}, {"x={color:'", "'}"}}, script...)
	add("x.tsx", "/\"'`${}<>=#\n", [][2]string{{"export const A=()=><p style={{color:", "}}/>"}}, script...)
	sheet := []string{"rgb(", "url(", "url('", "/*", "*/", "/*/", "a{", "a{b:", "a{--x:", "--x:{", "--x:var(", "a{color:var(--x,", "var(--a,", "@media(", "@import '", "@{", "#{", "#{a", "calc(", "calc((", "color-mix(in srgb,", "light-dark(", "rgb(from ", "linear-gradient(", "linear-gradient(red,",
		"a{color:#112233", "a{color:#112233;", "a{color:#112233}", "--a:#112233;", "--a:var(--a);", "\\", "\\\n", "\\7", "'\\\n", "<!--", "-->", "a:not(", "a[b=", "U+", "1e", "1e9", "+.", "a:b,", "a b ", "!important", "::", "&-", "{;", ";}", "red ", "red,", "color:red;"}
	add("x.css", "/\"'(){}[]:;,#\\\n*@$!.-+%", [][2]string{{"", ""}, {"a{color:", "}"}, {"a{--b:", "}"}, {"a{background:url(", ")}"}, {"@property --x{", "}"}}, sheet...)
	sass := append([]string{"@mixin a($b:", "@include a(", "@include a;", ".a();", "$a:$a;", "$a:", "@a:@a;", "@function f($a){@return ", "@if ", "@else{", "@each $a in ", "@use 'a' with(", "(a:(", "map.get(", "mix(", "lighten(", "if(", "darken(#112233,", "~'", "@@a", "@{a}", "$a:(b:", "#{$", "//", "// /*", "@include a($b:#112233)"}, sheet...)
	add("x.scss", "/\"'(){}:;,#\n@$.&", [][2]string{{"", ""}, {"a{color:", "}"}, {"$a:", ";a{color:$a}"}, {"$m:(", ");a{color:map.get($m,a)}"}}, sass...)
	add("x.less", "/\"'(){}:;,#\n@$.&~", [][2]string{{"", ""}, {"@a:", ";a{color:@a}"}}, sass...)
	page := []string{"<a ", "<a b=", "<a b='", "<a b=\"", "<!--", "<!-", "<!--[if mso]>", "<![CDATA[", "<!doctype ", "<?", "</", "<script>", "<script", "</script", "<style>", "<style", "<style>a{", "<svg>", "<svg ", "<svg", "<a style='", "<a style='color:", "<a style=\"color:#112233\">", "&", "&#", "&amp;", "&#x", "<a ><", "<template>", "<p style={`", "<textarea>", "<iframe srcdoc='", "<iframe srcdoc=\"&lt;", "<a class='bg-[", "<a class='bg-[#112233]'>", "<font color=", "<meta content='#112233'>", "{", "{{", "{#if ", "{a?", "<a style:color={", "<a {...", "style={`${", "<mask>", "<clipPath>", "<a href='data:image/svg+xml,", "<table><tr><td bgcolor=", "<pre>", "<math>", "<plaintext>"}
	add("x.html", "<>/\"'=!-[]&;{}#? \n`$", [][2]string{{"<!doctype html>", ""}, {"<html><body style='", "'></body></html>"}, {"<html><style>", "</style></html>"}, {"<html><script>", "</script></html>"}}, page...)
	add("x.svelte", "<>/\"'={}`$#:\n", [][2]string{{"<p style=\"color:", "\">"}, {"", ""}, {"<script>", "</script>"}}, append(page, script[:12]...)...)
	add("x.vue", "<>/\"'={}`$#:\n", [][2]string{{"<template>", "</template>"}}, append(page, ":style=\"{color:'", "<p :style=\"{")...)
	markup := []string{"<a>", "<a ", "<a b='", "<a b='1'", "<!--", "<!-", "<![CDATA[", "]]>", "<?a", "</a>", "</", "<a/>", "&", "&#1", "&a;", "&lt;", "<g>", "<g fill='#112233'>", "<g fill='#112233'/>", "<style>", "<style>a{", "<style>a{fill:", "<linearGradient id='a'>", "<stop stop-color='", "<stop stop-color='#112233'/>", "<use href='#a'/>", "<image href='data:image/png;base64,", "<image href=\"data:image/svg+xml,", "<g style='fill:", "<g style='fill:url(", "<g class='a'>", "<script>", "<animate values='#112233;", "<set to='", "<text>", "<mask>", "<clipPath>", "<foreignObject>", "<switch>", "<symbol id='a'>", "<a xmlns:b='", "<!ENTITY a '", "<!ENTITY a '&a;'>"}
	add("x.svg", "<>/\"'=!-[]&;#?: \n", [][2]string{{"<svg>", "</svg>"}, {"<svg fill='", "'/>"}, {"<svg><style>", "</style></svg>"}, {"<!DOCTYPE svg [", "]><svg/>"}, {"<svg style=\"", "\"/>"}}, markup...)
	add("x.ttml", "<>/\"'=!&;#\n", [][2]string{{"<tt xmlns='http://www.w3.org/ns/ttml'>", "</tt>"}}, append(markup, "<style tts:color='", "<span tts:color='#112233'>", "<p style='a'>", "<style id='a' style='a'/>")...)
	add("x.mlt", "<>/\"'=&;#\n", [][2]string{{"<mlt>", "</mlt>"}}, append(markup, "<property name='color'>", "<property name='color'>#ff112233</property>", "<producer>", "<property name='text'>&lt;", "<property name='html'>&lt;p style='color:", "0=#112233;", "<property name='resource'>#112233</property>")...)
	add("x.fodp", "<>/\"'=&;\n", [][2]string{{"<office:document xmlns:office='urn:oasis:names:tc:opendocument:xmlns:office:1.0'>", "</office:document>"}}, append(markup, "<style:style style:name='a' style:parent-style-name='a'>", "<draw:frame>", "<draw:gradient draw:name='a' draw:start-color='#112233'/>", "<office:binary-data>", "<text:p>")...)
	add("x.vtt", "<>/\"'={}()[]:;.,#&\\\n-", [][2]string{{"WEBVTT\n\n", ""}, {"WEBVTT\n\nSTYLE\n::cue{color:", "}\n\n"}, {"WEBVTT\n\n00:00.000 --> 00:01.000\n", "\n"}}, "STYLE\n", "STYLE\n\n", "NOTE\n", "00:00.000 --> 00:01.000\n", "<c.", "<c.red>", "<v a>", "-->", "::cue(", "<font color=", "&lt;", "<c", "</c>")
	add("x.srt", "<>/\"'={}#\\\n-", [][2]string{{"1\n00:00:00,000 --> 00:00:01,000\n", "\n"}}, "<font color=", "<font color='#112233'>", "{\\c&H112233&}", "</font>", "{\\")
	add("x.srt", "<>=\"' {}\\&H", [][2]string{{"1\n00:00:01,000 --> 00:00:02,000\n", ""}}, "<font ", "<font color=", "<font color=\"", "<font color=#112233>", "{\\c&H", "{\\c&H112233&}", "00:00:01,000 --> ", "<font <font ")
	for _, name := range []string{"x.swift", "x.kt", "x.py"} {
		add(name, "\"'(){}[],:=.#/*\\$\n", [][2]string{{"", ""}}, "Color(", "Color(0xFF112233)", "Color(1,", "Color(red: 1,", "\"", "\"\\(", "\"${", "\"\"\"", "\"#112233\"", "/*", "0x", "0x112233", "Color.RED ", "a.", "color=(", "color=[1,", "'", "UIColor(white: .5)", "Color.a.", "é")
	}
	add("x.xml", "<>/\"'=&;#\n", [][2]string{{"<resources>", "</resources>"}, {"<a color='", "'/>"}}, append(markup, "<color name='a'>#112233</color>", "<color>", "<item color='#112233'/>", "sc#1,1,1,1")...)
	add("x.tex", "\\{}[]%,\n!", [][2]string{{"", ""}}, "\\definecolor{a}{HTML}{", "\\definecolor{a}{HTML}{112233}", "\\color{red}", "\\color[HTML]{", "\\textcolor{", "\\definecolor", "%", "\\%", "{a}", "\\color ")
	add("x.dot", "\"<>[]={}:;/*#\\\n", [][2]string{{"digraph{", "}"}}, "color=", "color=\"", "color=red ", "color=\"red:\"", "label=<", "label=<<b>", "<", "/*", "//", "#", "a[", "\"\\", ":", "color=\"a:b")
	add("x.md", "`~#<>[]()-\n \"", [][2]string{{"", ""}, {"```css\n", "\n```\n"}}, "```\n", "```css\n", "~~~", "`", "`#112233`", "#112233 ", "<p style='", "<a ", "](", "---\n", "- ", "http://", "<!--", "> ", "``")
	add("x.ipynb", "{}[]\",:\\\n", [][2]string{{"{\"cells\":[", "]}"}, {"{\"cells\":[{\"cell_type\":\"code\",\"source\":[", "]}]}"}, {"{\"cells\":[{\"outputs\":[{\"data\":{", "}}]}]}"}}, "{\"cell_type\":\"code\",", "{\"source\":[\"'#112233'\\n\"]},", "\"#112233\",", "\"a\":[", "\"text/html\":[\"<p>\"],", "\"image/png\":\"aaaa\",", "{", "[")
	add("x.eml", ":;=-\r\n \"<>", [][2]string{{"A: b\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n", ""}, {"A: b\r\nContent-Type: text/html\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n", ""}}, "--x\r\n", "--x\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n", "--x\r\nContent-Type: message/rfc822\r\n\r\n", "--x\r\nContent-Type: text/css\r\n\r\na{color:red}\r\n", "A: b\r\n", " \r\n", "--", "--x--\r\n", "=3D", "=\r\n", "<p style=3D\"")
	add("x.ass", "{}\\&H(),:[]\n;", [][2]string{{"[Script Info]\n", ""}, {"[Script Info]\n[V4+ Styles]\nFormat: Name, PrimaryColour\n", ""}, {"[Script Info]\n[Events]\nFormat: Start, Text\nDialogue: 0,", "\n"}}, "{\\c&H", "{\\c&H112233&}", "{\\t(", "{\\t(\\t(", "\\1c&H112233&", "Style: a,&H00112233\n", "Dialogue: 0,{\\", "[Events]\n", "Format:", "Format: a,", "{\\p1}", "{\\fn")
	add("x.json", "{}[]\",:\\/-0.ent\n", [][2]string{{"", ""}, {"{\"a\":", "}"}, {"[", "]"}, {"{\"layers\":[{\"ty\":4,\"shapes\":[", "]}]}"}}, "{\"a\":", "[[", "{\"a\":[", "{\"$value\":", "{\"$type\":\"color\",\"$value\":\"{a}\"},", "{\"a\":{\"$value\":\"", "\"\\u", "\"\\ud800", "\"#112233\",", "{\"k\":[", "{\"ty\":\"gr\",\"it\":[", "{\"c\":{\"k\":[", "[1,1,1,1],", "\"{a.b}\",", "1e9,", "tru", "//", "/*", "{\"color\":\"", "{\"type\":\"color\",\"value\":\"", "{\"assets\":[{\"layers\":[", "\"svg\":\"<svg", "\"a\":\"a{color:#112233\",", "{\"$ref\":\"#/a\"},", "{\"$extends\":\"{a}\",\"a\":")
	add("x.yaml", "{}[]\"',:\\-#&*!|>?%\n \t", [][2]string{{"", ""}, {"a: ", ""}, {"a: &x ", "\nb: *x\n"}}, "a:\n ", "- ", "- - ", "a: {", "a: [", "&a ", "*a ", "&a [*a,", "<<: *a\n", "!a ", "!!str ", "? ", "? - ", "|\n", ">\n ", "\"\\", "'", "---\n", "...\n", "%YAML 1.2\n", "{a: ", "[a, ", "a: '#112233'\n", "- '#112233'\n", "a: &b\n  ", "  a:\n", "{{", "{? ", "a: b: ")
	return out
}

func TestTextsThatRepeatATokenTakeLinearTime(t *testing.T) {
	for name, cases := range linearTexts() {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			hostile.Linear(t, func(data []byte) { _, _ = kinds.Read(name, data) }, cases)
		})
	}
}

// Parts of documents, the contents and objects of a PDF, and the blocks of pictures and videos.
func TestFilesThatRepeatATokenTakeLinearTime(t *testing.T) {
	office := []string{"<a>", "<a ", "<a b='", "<!--", "<![CDATA[", "&", "&#1", "</a>", "<a/>", "<?", "<mc:AlternateContent>", "<mc:Choice Requires='x'>", "<mc:Fallback>"}
	part := func(name string, parts map[string]string) func(content string) []byte {
		return func(content string) []byte {
			all := map[string]string{name: content}
			for k, v := range parts {
				all[k] = v
			}
			return audittest.Zip(t, all)
		}
	}
	deck := map[string]string{"[Content_Types].xml": "<x/>", "_rels/.rels": `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="ppt/presentation.xml"/></r>`,
		"ppt/presentation.xml": `<p:presentation xmlns:r="r"><p:sldIdLst><p:sldId r:id="s"/></p:sldIdLst></p:presentation>`, "ppt/_rels/presentation.xml.rels": `<r><Relationship Id="s" Type="x/relationships/slide" Target="slide.xml"/></r>`}
	document := map[string]string{"[Content_Types].xml": "<x/>", "_rels/.rels": `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="word/document.xml"/></r>`}
	open := map[string]string{"mimetype": "application/vnd.oasis.opendocument.presentation", "META-INF/manifest.xml": "<m/>"}
	cells := append([]string{"<row>", "<row r='1'>", "<c r='A1' s='1'/>", "<c r='A1' t='inlineStr'><is><t>", "<mergeCell ref='A1:B2'/>", "<conditionalFormatting sqref='A1'>", "<col min='1' max='2' style='1'/>", "<oddHeader>&amp;K", "<cfRule dxfId='0'/>"}, office...)
	styles := append([]string{"<fonts>", "<font><color rgb='FF112233'/></font>", "<fill><patternFill>", "<xf fillId='1'/>", "<cellStyle name='a' xfId='0'/>", "<dxf><fill>", "<numFmt formatCode='[Red]0'/>", "<numFmt formatCode='[[[[[[[["}, office...)
	shapes := append([]string{"<p:sp>", "<p:grpSp>", "<a:solidFill><a:srgbClr val='112233'>", "<a:solidFill><a:schemeClr val='accent1'/></a:solidFill>", "<a:srgbClr val='112233'><a:lumMod val='5'/>", "<a:gs pos='0'>", "<a:lumMod val='50000'/>", "<p:pic>", "<a:tbl><a:tr><a:tc>"}, office...)
	runs := append([]string{"<w:p>", "<w:r><w:rPr><w:color w:val='112233'/>", "<w:tbl><w:tr><w:tc>", "<w:style w:styleId='a'><w:basedOn w:val='a'/>", "<w:shd w:fill='112233'/>", "<w:pict><v:shape fillcolor='#112233'>", "<w:instrText>", "<w:sdt><w:sdtContent>"}, office...)
	odf := append([]string{"<style:style style:name='a' style:parent-style-name='a'>", "<style:style style:name='a'/>", "<draw:g>", "<draw:custom-shape>", "<text:p>", "<text:span>", "<table:table-cell/>", "<table:table-row>", "<draw:gradient draw:name='a' draw:start-color='#112233'/>", "<fo:x fo:color='#112233'/>"}, office...)
	paints := []string{"q ", "Q ", "q Q ", "BT ", "(", "(a", "\\(", "[", "[(a)", "<", "<41", "<<", "<</A ", "/P ", "/P gs ", "/P Do ", "1 0 0 rg ", "0 0 1 rg f ", "1 ", "BI ", "BI ID ", "BI /W 1 /H 1 ID a EI ", "EI ", "/Cs cs ", "/Cs cs 1 scn ", "sh ", "{", "%", "% a\n", "BMC ", "/A <</B 1>> BDC ", "1 0 0 1 0 0 cm ", "Tj ", "'", "\"", "0 0 1 1 re f ", "W n "}
	content := func(text string) []byte { return audittest.Page(text, "") }
	objects := []string{"<<", "<</A ", "[", "[[", "(", "((", "<", "<41", "1 0 obj\n", "1 0 obj<<>>endobj\n", "1 0 R ", "stream\n", "stream\nendstream\n", "xref\n", "xref\n0 1\n", "trailer", "trailer<<", "startxref\n", "%", "/", "/A", "/#41", "null ", "endobj ", "%%EOF\n", "1 0 obj<</Type/ObjStm/N 1/First 2/Length 2>>stream\n"}
	blocks := map[string]struct {
		head   string
		tokens []string
	}{
		"x.png":  {"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00\x90wS\xde", []string{"\x00\x00\x00\x00IDAT5\xaf\x06\x1e", "\x00\x00\x00\x00tEXt\x00\x00\x00\x00", "\x00\x00\x00\x00PLTE\x00\x00\x00\x00", "\x00\x00\x00\x00fcTL\x00\x00\x00\x00", "\x00\x00\x00\x00iCCP\x00\x00\x00\x00", "\xff"}},
		"x.jpg":  {"\xff\xd8", []string{"\xff\xfe\x00\x02", "\xff\xda\x00\x02", "\xff\xd0", "\xff\xff", "\xff\xe2\x00\x02", "\xff\xdb\x00\x02", "\xff\xc4\x00\x02", "\xff\xd8", "\xff\xe1\x00\x08Exif\x00\x00"}},
		"x.gif":  {"GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff", []string{",\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00", "!\xf9\x04\x00\x00\x00\x00\x00", "!\xfe\x00", "!\xfe\x01a", ",", "!"}},
		"x.webp": {"RIFF\xff\xff\xff\x7fWEBP", []string{"VP8X\x0a\x00\x00\x00\x02\x00\x00\x00\x00\x00\x00\x00\x00\x00", "ANMF\x00\x00\x00\x00", "VP8 \x00\x00\x00\x00", "VP8L\x00\x00\x00\x00", "EXIF\x00\x00\x00\x00", "ICCP\x00\x00\x00\x00"}},
		"x.tif":  {"II*\x00\x08\x00\x00\x00", []string{"\x01\x00\x00\x01\x03\x00\x01\x00\x00\x00\x01\x00\x00\x00\x08\x00\x00\x00", "\xff\xff", "\x00\x00\x08\x00\x00\x00"}},
		"x.mp4":  {"\x00\x00\x00\x14ftypisom\x00\x00\x02\x00isom", []string{"\x00\x00\x00\x08moov", "\x00\x00\x00\x00moov", "\x7f\xff\xff\xfftrak", "\x00\x00\x00\x08free", "\x00\x00\x00\x01mdat\x00\x00\x00\x00\x00\x00\x00\x10"}},
		"x.avi":  {"RIFF\xff\xff\xff\x7fAVI ", []string{"LIST\x04\x00\x00\x00hdrl", "JUNK\x00\x00\x00\x00"}},
		"x.bmp":  {"BM\xff\xff\xff\x7f\x00\x00\x00\x00\x36\x00\x00\x00\x28\x00\x00\x00", []string{"\x01\x00\x00\x00", "\xff\xff\xff\xff"}},
	}
	run := func(name, label string, cases []hostile.Case) {
		t.Run(label, func(t *testing.T) {
			hostile.Linear(t, func(data []byte) { _, _ = kinds.Read(name, data) }, cases)
		})
	}
	sheet := func(text string) []byte { return audittest.Workbook(t, text, "<cellXfs><xf/><xf/></cellXfs>") }
	run("x.xlsx", "cells", append(hostile.Within(sheet, "<sheetData>", "</sheetData>", cells...), hostile.Within(sheet, "<sheetData><row><c>", "</c></row></sheetData>", office...)...))
	run("x.xlsx", "styles", hostile.Within(func(text string) []byte { return audittest.Workbook(t, "<sheetData/>", text) }, "", "", styles...))
	run("x.pptx", "slides", hostile.Within(part("ppt/slide.xml", deck), "<p:sld><p:spTree>", "</p:spTree></p:sld>", shapes...))
	run("x.docx", "documents", hostile.Within(part("word/document.xml", document), "<w:document><w:body>", "</w:body></w:document>", runs...))
	run("x.odp", "open documents", hostile.Within(part("content.xml", open), "<office:document-content>", "</office:document-content>", odf...))
	run("x.pdf", "contents", hostile.Within(content, "", "", paints...))
	run("x.pdf", "objects", append(hostile.Cases("%PDF-1.7\n", "\ntrailer<</Root 1 0 R>>\nstartxref\n9\n%%EOF", objects...), hostile.Cases("%PDF-1.7\n1 0 obj\n", "\nendobj\ntrailer<</Root 1 0 R>>\n%%EOF", objects...)...))
	for name, b := range blocks {
		run(name, name, hostile.Cases(b.head, "", b.tokens...))
	}
}
