package web_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/kinds"
)

// What is prose or shown to nobody is no finding, and what programs put together in a string is one.
func TestColorsInStringsOfOtherKinds(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"prose in JSON":             {"x.json", `{"issue":"fixes #123","ticket":"No. #C0FFEE","note":"closes (#123)","ref":"see #ABC, #DEF"}`, nil},
		"values in JSON":            {"x.json", `{"border":"1px solid #E1572C","shadow":"0 0 3px rgb(1 2 3)","background":"linear-gradient(to right, #111111, white 50%)","css":"a b{color:#222222}"}`, []string{"#E1572C", "#010203", "#111111", "#FFFFFF", "#222222"}},
		"a comment of subtitles":    {"x.ass", "[Script Info]\n[V4+ Styles]\nFormat: Name, PrimaryColour\nStyle: a,&H002C57E2\n[Events]\nComment: 0,0:00:01.00,0:00:02.00,a,{\\1c&H2C57E1&}a\n", []string{"#E2572C"}},
		"markup in a template":      {"x.js", "const a = html`<p style=\"color:#1C3A4C\">${on ? '#1C3A4F' : 1}</p>`", []string{"#1C3A4F", "#1C3A4C"}},
		"markup in a string":        {"x.js", `el.innerHTML = '<b style="color:#1C3A4D">y</b>'; const t = { template: "<i bgcolor='#1C3A4E'>" }`, []string{"#1C3A4D", "#1C3A4E"}},
		"no markup":                 {"x.js", `const more = '<b id="#1C3A4D">'`, nil},
		"an expression of a style":  {"x.svelte", `<p style="color: {late ? '#B23A2E' : '#F1E2C8'}; fill: #111111">a</p>`, []string{"#B23A2E", "#F1E2C8", "#111111"}},
		"rules in YAML":             {"x.yaml", "css: |\n  .a { color: #B23A2E; }\n  #E2572C { x: y }\nb: 1\ncolor: \"#E1572C\"\n", []string{"#B23A2E", "#E1572C"}},
		"a resource of a producer":  {"x.mlt", `<mlt><producer id="a"><property name="mlt_service">color</property><property name="resource">color:#00c2a8</property></producer></mlt>`, []string{"#00C2A8"}},
		"the line of what is found": {"x.js", "\n\nel.innerHTML = `\n <b style=\"color:#1C3A4D\">`", []string{"#1C3A4D"}},
	} {
		t.Run(name, func(t *testing.T) {
			scan, err := kinds.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			var got []string
			for _, u := range scan.Uses {
				got = append(got, u.RGB.Hex())
				for _, at := range u.At {
					text, err := at.Text()
					require.NoError(t, err)
					assert.Contains(t, c.text, text)
				}
				if name == "the line of what is found" {
					assert.Equal(t, 4, u.Line)
				}
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}
