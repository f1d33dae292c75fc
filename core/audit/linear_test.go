package audit_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"huekeep/core/audit"
	"huekeep/core/hostile"
)

// linearTexts are the kinds that are texts: where a token can stand, and of what the tokens are made.
func linearTexts() map[string][]hostile.Case {
	out := map[string][]hostile.Case{}
	add := func(name, alphabet string, places [][2]string, tokens ...string) {
		all := append(hostile.Pairs(alphabet), tokens...)
		for _, p := range places {
			out[name] = append(out[name], hostile.Cases(p[0], p[1], all...)...)
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
	add("x.svelte", "<>/\"'={}`$#:\n", [][2]string{{"", ""}, {"<p style=\"color:", "\">"}, {"<script>", "</script>"}}, append(page, script...)...)
	add("x.vue", "<>/\"'={}`$#:\n", [][2]string{{"<template>", "</template>"}}, append(page, ":style=\"{color:'", "<p :style=\"{")...)
	markup := []string{"<a>", "<a ", "<a b='", "<a b='1'", "<!--", "<!-", "<![CDATA[", "]]>", "<?a", "</a>", "</", "<a/>", "&", "&#1", "&a;", "&lt;", "<g>", "<g fill='#112233'>", "<g fill='#112233'/>", "<style>", "<style>a{", "<style>a{fill:", "<linearGradient id='a'>", "<stop stop-color='", "<stop stop-color='#112233'/>", "<use href='#a'/>", "<image href='data:image/png;base64,", "<image href=\"data:image/svg+xml,", "<g style='fill:", "<g style='fill:url(", "<g class='a'>", "<script>", "<animate values='#112233;", "<set to='", "<text>", "<mask>", "<clipPath>", "<foreignObject>", "<switch>", "<symbol id='a'>", "<a xmlns:b='", "<!ENTITY a '", "<!ENTITY a '&a;'>"}
	add("x.svg", "<>/\"'=!-[]&;#?: \n", [][2]string{{"<svg>", "</svg>"}, {"<svg fill='", "'/>"}, {"<svg><style>", "</style></svg>"}, {"<!DOCTYPE svg [", "]><svg/>"}, {"<svg style=\"", "\"/>"}}, markup...)
	add("x.ttml", "<>/\"'=!&;#\n", [][2]string{{"<tt xmlns='http://www.w3.org/ns/ttml'>", "</tt>"}}, append(markup, "<style tts:color='", "<span tts:color='#112233'>", "<p style='a'>", "<style id='a' style='a'/>")...)
	add("x.mlt", "<>/\"'=&;#\n", [][2]string{{"<mlt>", "</mlt>"}}, append(markup, "<property name='color'>", "<property name='color'>#ff112233</property>", "<producer>", "<property name='text'>&lt;", "<property name='html'>&lt;p style='color:", "0=#112233;", "<property name='resource'>#112233</property>")...)
	add("x.fodp", "<>/\"'=&;\n", [][2]string{{"<office:document xmlns:office='urn:oasis:names:tc:opendocument:xmlns:office:1.0'>", "</office:document>"}}, append(markup, "<style:style style:name='a' style:parent-style-name='a'>", "<draw:frame>", "<draw:gradient draw:name='a' draw:start-color='#112233'/>", "<office:binary-data>", "<text:p>")...)
	add("x.vtt", "<>/\"'={}()[]:;.,#&\\\n-", [][2]string{{"WEBVTT\n\n", ""}, {"WEBVTT\n\nSTYLE\n::cue{color:", "}\n\n"}, {"WEBVTT\n\n00:00.000 --> 00:01.000\n", "\n"}}, "STYLE\n", "STYLE\n\n", "NOTE\n", "00:00.000 --> 00:01.000\n", "<c.", "<c.red>", "<v a>", "-->", "::cue(", "<font color=", "&lt;", "<c", "</c>")
	add("x.srt", "<>/\"'={}#\\\n-", [][2]string{{"1\n00:00:00,000 --> 00:00:01,000\n", "\n"}}, "<font color=", "<font color='#112233'>", "{\\c&H112233&}", "</font>", "{\\")
	add("x.ass", "{}\\&H(),:[]\n;", [][2]string{{"[Script Info]\n", ""}, {"[Script Info]\n[V4+ Styles]\nFormat: Name, PrimaryColour\n", ""}, {"[Script Info]\n[Events]\nFormat: Start, Text\nDialogue: 0,", "\n"}}, "{\\c&H", "{\\c&H112233&}", "{\\t(", "{\\t(\\t(", "\\1c&H112233&", "Style: a,&H00112233\n", "Dialogue: 0,{\\", "[Events]\n", "Format:", "Format: a,", "{\\p1}", "{\\fn")
	add("x.json", "{}[]\",:\\/-0.ent\n", [][2]string{{"", ""}, {"{\"a\":", "}"}, {"[", "]"}, {"{\"layers\":[{\"ty\":4,\"shapes\":[", "]}]}"}}, "{\"a\":", "[[", "{\"a\":[", "{\"$value\":", "{\"$type\":\"color\",\"$value\":\"{a}\"},", "{\"a\":{\"$value\":\"", "\"\\u", "\"\\ud800", "\"#112233\",", "{\"k\":[", "{\"ty\":\"gr\",\"it\":[", "{\"c\":{\"k\":[", "[1,1,1,1],", "\"{a.b}\",", "1e9,", "tru", "//", "/*", "{\"color\":\"", "{\"type\":\"color\",\"value\":\"", "{\"assets\":[{\"layers\":[", "\"svg\":\"<svg", "\"a\":\"a{color:#112233\",", "{\"$ref\":\"#/a\"},", "{\"$extends\":\"{a}\",\"a\":")
	add("x.yaml", "{}[]\"',:\\-#&*!|>?%\n \t", [][2]string{{"", ""}, {"a: ", ""}, {"a: &x ", "\nb: *x\n"}}, "a:\n ", "- ", "- - ", "a: {", "a: [", "&a ", "*a ", "&a [*a,", "<<: *a\n", "!a ", "!!str ", "? ", "? - ", "|\n", ">\n ", "\"\\", "'", "---\n", "...\n", "%YAML 1.2\n", "{a: ", "[a, ", "a: '#112233'\n", "- '#112233'\n", "a: &b\n  ", "  a:\n", "{{", "{? ", "a: b: ")
	return out
}

func TestTextsThatRepeatATokenTakeLinearTime(t *testing.T) {
	only := os.Getenv("ONLY")
	for name, cases := range linearTexts() {
		if only != "" && !strings.HasSuffix(name, only) {
			continue
		}
		t.Run(name, func(t *testing.T) {
			slowest, which := hostile.Linear(t, func(data []byte) { _, _ = audit.Read(name, data) }, cases)
			t.Logf("%d cases, the slowest %v a MB: %s", len(cases), slowest, which)
		})
	}
	_ = fmt.Sprint
}
