package kinds_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

func TestWhereverColorsAre(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"resources": {"colors.xml", "<?xml version=\"1.0\"?>\n<resources>\n  <color name=\"buoy\">#FFE2572B</color><color name=\"sound\">#0E3A53</color><color name=\"half\">#8E53</color>\n  <item name=\"colorPrimary\">@color/buoy</item><string name=\"id\">#123</string><!-- #111111 -->\n</resources>",
			[]string{"#E2572B colors.xml 3:22, buoy", "#0E3A53 colors.xml 3:59, sound", "#EE5533 colors.xml 3:93, half"}},
		"a vector picture of an application": {"v.xml", `<vector xmlns:android="http://schemas.android.com/apk/res/android" android:tint="#80E2572B"><path android:name="hull" android:fillColor="#0E3A53" android:pathData="M0,0"/></vector>`, []string{"#E2572B v.xml 1:82, vector, tint", "#0E3A53 v.xml 1:138, hull, fillColor"}},
		"a layout":                           {"Main.xaml", `<Window xmlns="http://schemas.microsoft.com/winfx/2006/xaml/presentation" xmlns:x="u" Background="#FFE2572B"><Color x:Key="Sound">#0E3A53</Color><SolidColorBrush x:Key="B" Color="Tomato"/><Setter Property="Control.Foreground" Value="Navy"/><TextBlock Text="Tomato" Foreground="{StaticResource B}"/><X Color="sc#1,1,0,0"/></Window>`, []string{"#E2572B Main.xaml 1:99, Window, Background", "#0E3A53 Main.xaml 1:131, Sound", "#FF6347 Main.xaml 1:180, B, Color", "#000080 Main.xaml 1:234, Setter, Value", "#FF0000 Main.xaml 1:309, X, Color"}},
		"other XML":                          {"map.xml", `<map><style color="#E2572BFF" name="a"/><style color="#80E25780"/><p href="#decade">#facade</p></map>`, []string{"#E2572B map.xml 1:20, a, color", "? #80E25780 map.xml 1:55, style, color", "#FACADE map.xml 1:85, p"}},
		"an asset catalog": {"Contents.json", `{"colors":[{"color":{"color-space":"srgb","components":{"alpha":"1.000","blue":"0x2B","green":"0x57","red":"0xE2"}}},{"color":{"color-space":"display-p3","components":{"alpha":"1.000","blue":"0.300","green":"0.900","red":"0.100"}}},{"color":{"color-space":"srgb","components":{"alpha":"1","blue":"83","green":"58","red":"14"}}},{"color":{"color-space":"extended-gray","components":{"alpha":"1.000","white":"0.500"}}}]}`,
			[]string{"#E2572B Contents.json 1:21, colors.0.color", "color(display-p3 0.1 0.9 0.3) Contents.json 1:127, colors.1.color", "#0E3A53 Contents.json 1:242, colors.2.color", "#808080 Contents.json 1:338, colors.3.color"}},
		"styles of maps": {"style.geojson", `{"features":[{"properties":{"marker-color":"E2572B","stroke":"#0E3A53","fill":"tomato","name":"tomato"}}],"paint":{"line-color":["step",["zoom"],"#F2B632",5,"#111"]}}`, []string{"#E2572B style.geojson 1:44, features.0.properties.marker-color", "#0E3A53 style.geojson 1:62, features.0.properties.stroke", "#FF6347 style.geojson 1:79, features.0.properties.fill", "#F2B632 style.geojson 1:146, paint.line-color.2", "#111111 style.geojson 1:158, paint.line-color.4"}},
		"LaTeX": {"brand.sty", "\\definecolor{buoy}{HTML}{E2572B} % {HTML}{111111}\n\\definecolor{sound}{RGB}{14, 58, 83}\\definecolor{lamp}{rgb}{0.949,0.714,0.196}\\definecolor{ink}{cmyk}{0,.6,.8,.1}\\definecolor{mist}{gray}{.5}\n\\textcolor{red}{x} 5\\% \\color[HTML]{E2572B} \\pagecolor{buoy}\\colorlet{x}{buoy!50} \\definecolor{h}{Hsb}{20,1,1}",
			[]string{"#E2572B brand.sty 1:1, buoy", "#0E3A53 brand.sty 2:1, sound", "#F2B632 brand.sty 2:37, lamp", "0 60 80 10 brand.sty 2:79, ink", "#808080 brand.sty 2:114, mist", "#FF0000 brand.sty 3:1, \\textcolor", "#E2572B brand.sty 3:24, \\color", "? Hsb 20,1,1 brand.sty 3:83, h"}},
		"graphs": {"lines.dot", "digraph { // color=\"#111111\"\n a [color=\"#E2572B\", fillcolor=tomato; label=\"color=red\"]; b [fillcolor=\"#0E3A53:#F2B632;0.5\" fontcolor=\"0.5 1 1\" bgcolor=transparent color=\"/blues9/3\" pencolor=green];\n c [label=<<TABLE BGCOLOR=\"#4E7D5B\"><TR><TD>x</TD></TR></TABLE>>];\n}",
			[]string{"#E2572B lines.dot 2:12, color", "#FF6347 lines.dot 2:32, fillcolor", "#0E3A53 lines.dot 2:74, fillcolor", "#F2B632 lines.dot 2:82, fillcolor", "#00FFFF lines.dot 2:106, fontcolor", "? /blues9/3 lines.dot 2:142, color", "#00FF00 lines.dot 2:162, pencolor", "#4E7D5B lines.dot 3:12, table, bgcolor"}},
		"Markdown": {"guide.md", "---\ncolor: '#E2572B'\n---\n# Colors\n\nOurs is `#0E3A53`, or #F2B632; see [it](x.html#facade) and #123456.\n\n<p style=\"color:#4E7D5B\">x</p>\n\n```css\n.a { color: #111111 }\n```\n~~~\nnot `#222222`\n~~~\n", []string{"#E2572B guide.md 2:1 > block.yaml 1:8, color", "#0E3A53 guide.md 6:10, code", "#F2B632 guide.md 6:23, text", "#4E7D5B guide.md 8:1, p, style color", "#111111 guide.md 11:1 > block.css 1:13, .a, color", "#222222 guide.md 14:1 > block.js 1:6, string"}},
		"a notebook": {"plot.ipynb", `{"cells":[{"cell_type":"markdown","metadata":{},"source":["# x\n","` + "`#0E3A53`" + `"]},{"cell_type":"code","outputs":[{"data":{"text/html":["<p style=\"color:#F2B632\">\n"],"text/plain":["'#111111'"]},"output_type":"display_data"}],"source":["c = 1\n","plot(color='#E2572B')"]}],"metadata":{"color":"#222222"},"nbformat":4}`,
			[]string{"#0E3A53 plot.ipynb cell 1 2:2, code", "#F2B632 plot.ipynb cell 2, output 1:1, p, style color", "#E2572B plot.ipynb cell 2 2:13, color"}},
		"a mail": {"news.eml", "From: a@odelwick.example\r\nContent-Type: multipart/alternative; boundary=\"x y\"\r\n\r\n--x y\r\n\r\nplain #111111\r\n--x y\r\nContent-Type: text/html; charset=iso-8859-1\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n<p style=3D\"color:#E25=\r\n72B\">M=F6we</p>\r\n--x y\r\nContent-Type: text/css\r\nContent-Transfer-Encoding: base64\r\nContent-Location: http://x.example/main.css?1\r\n\r\n" + base64.StdEncoding.EncodeToString([]byte(".a{color:#0E3A53}")) + "\r\n--x y--\r\n",
			[]string{"#E2572B part 2.html 1:1, p, style color", "#0E3A53 main.css 1:10, .a, color"}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.ElementsMatch(t, c.want, audittest.Told(t, c.file, []byte(c.text)))
			scan, err := kinds.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			assert.Empty(t, scan.Unread)
		})
	}
}

// Every language that a block of Markdown can name is read, or said to be an excerpt.
func TestBlocksOfMarkdown(t *testing.T) {
	for _, language := range []string{"css", "scss", "less", "html", "svg", "xml", "xaml", "js", "javascript", "jsx", "ts", "typescript", "tsx", "json", "yaml", "yml", "swift", "kotlin", "kt", "java", "dart", "qml", "csharp", "cs", "c#",
		"python", "py", "vue", "svelte", "tex", "latex", "dot", "graphviz", "vtt", "srt", "nothing", ""} {
		scan, err := kinds.Read("x.md", []byte("~~~ "+language+"\n(color: #E2572B\n~~~\n`#0E3A53`\n"))
		require.NoError(t, err, language)
		assert.Equal(t, "#0E3A53", scan.Uses[len(scan.Uses)-1].Name(), "%s: what stands behind the block is read", language)
	}
}

func TestElectronicBook(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range [][2]string{{"mimetype", "application/epub+zip"}, {"META-INF/container.xml", "<container color='#111111'/>"}, {"OPS/book.opf", "<package/>"}, {"OPS/a.xhtml", `<html xmlns="http://www.w3.org/1999/xhtml"><p style="color:#E2572B">x</p></html>`}, {"OPS/a.css", "p{color:#0E3A53}"}, {"OPS/notes.bin", "\x00"}} {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f[0], Method: zip.Store})
		require.NoError(t, err)
		_, err = w.Write([]byte(f[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	assert.ElementsMatch(t, []string{"#E2572B OPS/a.xhtml 1:44, p, style color", "#0E3A53 OPS/a.css 1:9, p, color"}, audittest.Told(t, "ferries.epub", b.Bytes()))
	scan, err := kinds.Read("ferries.epub", b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "epub", scan.Kind)
	assert.Equal(t, []string{"1 file of kinds that are not read: OPS/notes.bin."}, scan.Notes)
}
