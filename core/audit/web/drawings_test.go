package web_test

import (
	"bytes"
	"compress/gzip"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
	"huekeep/core/source"
)

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
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, audittest.Uses(t, "x.svg", head+c.svg+"</svg>")) })
	}
	assert.Len(t, audittest.Uses(t, "named-wrong.css.txt", head+`<path fill="#111"/></svg>`), 1, "content decides, not the extension")
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
		s, err := kinds.Read("a.svg", []byte(data))
		if !assert.NoError(t, err, name) {
			continue
		}
		assert.Equal(t, "svg", s.Kind)
		require.Len(t, s.Uses, 2, name)
		assert.Equal(t, "#4E7D5B", s.Uses[0].RGB.Hex(), name)
		assert.Equal(t, "#E2572B", s.Uses[1].RGB.Hex(), name)
	}
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
		audittest.Fuzzed(t, "x.svg", data)
	})
}

func TestACompressedDrawing(t *testing.T) {
	data := gzipped(t, `<svg xmlns="http://www.w3.org/2000/svg"><path fill="#E2572C"/></svg>`)
	assert.Equal(t, []string{"#E2572C x.svgz 1:41, path, fill"}, audittest.Told(t, "x.svgz", data))
	scan, err := kinds.Read("logo", data)
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
	_, err = kinds.Read("x.svgz", data[:len(data)-12])
	require.ErrorContains(t, err, "damaged")
	_, err = kinds.Read("x.svgz", gzipped(t, "<p>"))
	require.ErrorContains(t, err, "named as a compressed SVG drawing and is none")
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
