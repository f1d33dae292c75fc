package kinds_test

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"github.com/tdewolff/parse/v2/html"
	"github.com/tdewolff/parse/v2/js"
	jsonlex "github.com/tdewolff/parse/v2/json"
	"github.com/tdewolff/parse/v2/xml"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/pdfdoc"
)

// largeDeck is a presentation of n slides with 60 shapes each, every one with a fill, a line and a text color.
func largeDeck(b testing.TB, n int) []byte {
	files := map[string]string{
		"[Content_Types].xml": "<x/>",
		"_rels/.rels":         `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="ppt/presentation.xml"/></r>`,
		"ppt/t.xml":           `<a:theme><a:clrScheme><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
	}
	var ids, rels strings.Builder
	for i := range n {
		fmt.Fprintf(&ids, `<p:sldId r:id="s%d"/>`, i)
		fmt.Fprintf(&rels, `<Relationship Id="s%d" Type="x/relationships/slide" Target="slides/s%d.xml"/>`, i, i)
		var s strings.Builder
		s.WriteString(`<p:sld xmlns:a="a" xmlns:p="p"><p:cSld><p:spTree>`)
		for k := range 60 {
			fmt.Fprintf(&s, `<p:sp><p:nvSpPr><p:cNvPr id="%d" name="Shape %d"/><p:cNvSpPr/><p:nvPr/></p:nvSpPr><p:spPr><a:xfrm><a:off x="%d" y="%d"/><a:ext cx="100" cy="100"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom><a:solidFill><a:srgbClr val="%06X"/></a:solidFill><a:ln w="12700"><a:solidFill><a:schemeClr val="accent1"><a:lumMod val="75000"/></a:schemeClr></a:solidFill></a:ln></p:spPr><p:txBody><a:bodyPr/><a:lstStyle/><a:p><a:r><a:rPr lang="en-US" sz="1800"><a:solidFill><a:srgbClr val="0E3A53"/></a:solidFill></a:rPr><a:t>Sailing number %d leaves at ten past the hour</a:t></a:r></a:p></p:txBody></p:sp>`, k, k, k*i, k, (i*60+k)%500*33, k)
		}
		s.WriteString(`</p:spTree></p:cSld></p:sld>`)
		files[fmt.Sprintf("ppt/slides/s%d.xml", i)] = s.String()
		files[fmt.Sprintf("ppt/slides/_rels/s%d.xml.rels", i)] = `<r><Relationship Id="m" Type="x/relationships/slideMaster" Target="/ppt/m.xml"/></r>`
	}
	files["ppt/m.xml"] = `<p:sldMaster><p:clrMap bg1="lt1" tx1="dk1"/></p:sldMaster>`
	files["ppt/_rels/m.xml.rels"] = `<r><Relationship Id="t" Type="x/relationships/theme" Target="/ppt/t.xml"/></r>`
	files["ppt/presentation.xml"] = `<p:presentation xmlns:r="r"><p:sldIdLst>` + ids.String() + `</p:sldIdLst></p:presentation>`
	files["ppt/_rels/presentation.xml.rels"] = `<r>` + rels.String() + `</r>`
	return audittest.Zip(b, files)
}

// lexed inflates and lexes every XML part of an archive with another lexer, as the yardstick.
func lexed(b testing.TB, data []byte) { unpacked(b, data, lexXML) }

// unpacked calls with for each part of an archive.
func unpacked(b testing.TB, data []byte, with func([]byte)) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(b, err)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(b, err)
		text, err := io.ReadAll(r)
		require.NoError(b, err)
		with(text)
		r.Close()
	}
}

func lexXML(text []byte) {
	l := xml.NewLexer(parse.NewInputBytes(text))
	for {
		if kind, _ := l.Next(); kind == xml.ErrorToken {
			return
		}
	}
}

func lexCSS(text []byte) {
	l := css.NewLexer(parse.NewInputBytes(text))
	for {
		if kind, _ := l.Next(); kind == css.ErrorToken {
			return
		}
	}
}

func lexHTML(text []byte) {
	l := html.NewLexer(parse.NewInputBytes(text))
	for {
		if kind, _ := l.Next(); kind == html.ErrorToken {
			return
		}
	}
}

func lexJSON(text []byte) {
	p := jsonlex.NewParser(parse.NewInputBytes(text))
	for {
		if kind, _ := p.Next(); kind == jsonlex.ErrorGrammar {
			return
		}
	}
}

func lexJS(text []byte) {
	l := js.NewLexer(parse.NewInputBytes(text))
	for {
		if kind, _ := l.Next(); kind == js.ErrorToken {
			return
		}
	}
}

// BenchmarkScanOneLineDrawing states how the time for a drawing on a single line grows when it gets ten times longer; a
// scan that looked back for the line's start at every element would grow a hundredfold.
func BenchmarkScanOneLineDrawing(b *testing.B) {
	drawing := func(n int) []byte {
		return []byte(`<svg xmlns="http://www.w3.org/2000/svg">` + strings.Repeat(`<path fill="#112233" d="M0 0h10v10z"/>`, n) + `</svg>`)
	}
	took := func(data []byte) time.Duration {
		at := time.Now()
		_, err := kinds.Read("x.svg", data)
		require.NoError(b, err)
		return time.Since(at)
	}
	short, long := drawing(5_000), drawing(50_000)
	var growth float64
	for b.Loop() {
		growth = float64(took(long)) / float64(took(short))
	}
	b.ReportMetric(growth, "x-for-10x")
}

// best is the least time of three.
func best(f func()) time.Duration {
	least := time.Hour
	for range 3 {
		at := time.Now()
		f()
		least = min(least, time.Since(at))
	}
	return least
}

// BenchmarkScanKinds states, for each kind, the scan as a ratio to unpacking and lexing the same bytes with tdewolff/parse.
func BenchmarkScanKinds(b *testing.B) {
	rules := strings.Repeat(".a > b:hover { color: #e2572b; margin: 0 auto; border: 1px solid rgb(14 58 83); background: url(a.png) no-repeat }\n", 20_000)
	drawing := `<svg xmlns="http://www.w3.org/2000/svg">` + strings.Repeat(`<g id="a"><path fill="#112233" stroke="none" d="M0 0h10v10z" class="x"/><text x="1">Sailing</text></g>`, 20_000) + `</svg>`
	page := "<!doctype html>" + strings.Repeat(`<div class="card wide" id="a"><p style="color: #E2572B">Sailing at ten</p><a href="#top">more</a></div>`, 20_000)
	data := "[" + strings.Repeat(`{"name":"Sailing","at":[1,2,3],"color":"#E2572B","note":"ten past the hour"},`, 20_000) + `{}]`
	for name, c := range map[string]struct {
		file  string
		data  []byte
		plain func([]byte)
	}{
		"deck":     {"x.pptx", largeDeck(b, 100), func(d []byte) { lexed(b, d) }},
		"document": {"x.docx", largeDocument(b), func(d []byte) { lexed(b, d) }},
		"workbook": {"x.xlsx", largeBook(b), func(d []byte) { lexed(b, d) }},
		"odf":      {"x.odt", largeText(b), func(d []byte) { lexed(b, d) }},
		"css":      {"x.css", []byte(rules), lexCSS},
		"svg":      {"x.svg", []byte(drawing), lexXML},
		"html":     {"x.html", []byte(page), lexHTML},
		"json":     {"x.json", []byte(data), lexJSON},
	} {
		b.Run(name, func(b *testing.B) { compare(b, c.file, c.data, c.plain) })
	}
}

// BenchmarkScanSparse states the same for files of which one element in twenty has a color, as in most that people make: what is above lexing
// there is reading, and in BenchmarkScanKinds it is telling each use with its place.
func BenchmarkScanSparse(b *testing.B) {
	mixed := func(plain, colored string) string { return strings.Repeat(strings.Repeat(plain, 19)+colored, 2_000) }
	rule := ".a > b:hover { margin: 0 auto; padding: 1px 2em; border-radius: 4px; display: flex; flex-flow: row wrap }\n"
	shape := `<g id="a"><path d="M0 0h10v10z M5 5l20 20" class="x"/><text x="1">Sailing</text></g>`
	block := `<div class="card wide" id="a"><p>Sailing at ten past the hour</p><a href="#top">more</a></div>`
	row := `{"name":"Sailing","at":[1,2,3],"pier":"north","note":"ten past the hour"},`
	words := `<w:p><w:pPr><w:spacing w:before="120"/></w:pPr><w:r><w:rPr><w:b/><w:sz w:val="22"/></w:rPr><w:t>Sailing leaves at ten past the hour</w:t></w:r></w:p>`
	written := `<text:p text:style-name="P2">Sailing leaves <text:span text:style-name="T2">at ten</text:span> past the hour</text:p>`
	for _, c := range []struct {
		name, file string
		data       []byte
		plain      func([]byte)
	}{
		{"css", "x.css", []byte(mixed(rule, strings.Replace(rule, "0 auto", "0 auto; color: #e2572b", 1))), lexCSS},
		{"svg", "x.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg">` + mixed(shape, strings.Replace(shape, "<path", `<path fill="#112233"`, 1)) + `</svg>`), lexXML},
		{"html", "x.html", []byte("<!doctype html>" + mixed(block, strings.Replace(block, "<p", `<p style="color: #E2572B"`, 1))), lexHTML},
		{"json", "x.json", []byte("[" + mixed(row, strings.Replace(row, `"pier":"north"`, `"color":"#E2572B"`, 1)) + "{}]"), lexJSON},
		{"document", "x.docx", audittest.Document(b, mixed(words, strings.Replace(words, "<w:b/>", `<w:color w:val="E2572B"/>`, 1))), func(d []byte) { lexed(b, d) }},
		{"odf", "x.odt", audittest.Zip(b, map[string]string{"mimetype": "application/vnd.oasis.opendocument.text", "content.xml": `<office:document-content><office:automatic-styles><style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="#E2572B"/></style:style></office:automatic-styles><office:body><office:text>` +
			mixed(written, strings.Replace(written, "P2", "P1", 1)) + `</office:text></office:body></office:document-content>`}), func(d []byte) { lexed(b, d) }},
	} {
		b.Run(c.name, func(b *testing.B) { compare(b, c.file, c.data, c.plain) })
	}
}

// compare reports the scan of a file as a ratio to lexing it.
func compare(b *testing.B, file string, data []byte, lex func([]byte)) {
	plain, scan := time.Hour, time.Hour
	for b.Loop() {
		plain = min(plain, best(func() { lex(bytes.Clone(data)) }))
		scan = min(scan, best(func() {
			_, err := kinds.Read(file, data)
			require.NoError(b, err)
		}))
	}
	b.ReportMetric(float64(scan)/float64(plain), "x-lexing")
}

// BenchmarkScanPackages states the same for files as people wrote them: those that the interface's packages came with, which must be
// installed (npm ci in ui).
func BenchmarkScanPackages(b *testing.B) {
	for _, k := range []struct {
		name, extension string
		plain           func([]byte)
	}{{"css", ".css", lexCSS}, {"json", ".json", lexJSON}, {"script", ".js", lexJS}} {
		b.Run(k.name, func(b *testing.B) {
			var files [][]byte
			size := 0
			_ = filepath.WalkDir("../../ui/node_modules", func(path string, d fs.DirEntry, err error) error {
				if err != nil || d.IsDir() || filepath.Ext(path) != k.extension || size > 8<<20 {
					return nil
				}
				data, err := os.ReadFile(path)
				if err != nil || len(data) < 4<<10 || len(data) > 4<<20 {
					return nil
				}
				if _, err := kinds.Read("x"+k.extension, data); err == nil {
					files, size = append(files, data), size+len(data)
				}
				return nil
			})
			if len(files) == 0 {
				b.Skip("no packages are installed")
			}
			plain, scan := time.Hour, time.Hour
			for b.Loop() {
				plain = min(plain, best(func() {
					for _, d := range files {
						k.plain(bytes.Clone(d))
					}
				}))
				scan = min(scan, best(func() {
					for _, d := range files {
						_, err := kinds.Read("x"+k.extension, d)
						require.NoError(b, err)
					}
				}))
			}
			b.ReportMetric(float64(scan)/float64(plain), "x-lexing")
			b.ReportMetric(float64(size)/scan.Seconds()/1e6, "MB/s")
		})
	}
}

func largeDocument(b testing.TB) []byte {
	return audittest.Document(b, strings.Repeat(`<w:p><w:pPr><w:spacing w:before="120"/></w:pPr><w:r><w:rPr><w:b/><w:color w:val="E2572B"/><w:sz w:val="22"/></w:rPr><w:t>Sailing leaves at ten past the hour</w:t></w:r><w:r><w:t> and again</w:t></w:r></w:p>`, 10_000))
}

func largeBook(b testing.TB) []byte {
	var s strings.Builder
	s.WriteString("<sheetData>")
	for r := range 10_000 {
		fmt.Fprintf(&s, `<row r="%d">`, r+1)
		for c := range 20 {
			fmt.Fprintf(&s, `<c r="%c%d" s="%d"><v>%d</v></c>`, 'A'+c, r+1, c%3, r*c)
		}
		s.WriteString("</row>")
	}
	return audittest.Workbook(b, s.String()+"</sheetData>", `<fonts><font/><font><color rgb="FFE2572B"/></font></fonts><fills><fill/></fills><borders><border/></borders><cellXfs><xf/><xf fontId="1"/><xf/></cellXfs>`)
}

func largeText(b testing.TB) []byte {
	var s strings.Builder
	s.WriteString(`<office:document-content><office:automatic-styles><style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="#E2572B"/></style:style></office:automatic-styles><office:body><office:text>`)
	for range 10_000 {
		s.WriteString(`<text:p text:style-name="P1">Sailing leaves <text:span text:style-name="T2">at ten</text:span> past the hour</text:p>`)
	}
	s.WriteString(`</office:text></office:body></office:document-content>`)
	return audittest.Zip(b, map[string]string{"mimetype": "application/vnd.oasis.opendocument.text", "content.xml": s.String()})
}

// BenchmarkStyleSheets states how long a project of 440 style sheets takes, 13 MB that use each other's properties.
func BenchmarkStyleSheets(b *testing.B) {
	var bytes int
	sheets := make([][]byte, 440)
	for i := range sheets {
		var s strings.Builder
		fmt.Fprintf(&s, ":root { --brand-%d: #e2572b }\n", i)
		for k := range 270 {
			fmt.Fprintf(&s, ".c%d-%d > a:hover { color: var(--brand-%d); margin: 0 auto; border: 1px solid rgb(%d 58 83); background: url(a.png) no-repeat }\n", i, k, (i+k)%440, k%256)
		}
		sheets[i] = []byte(s.String())
		bytes += s.Len()
	}
	for b.Loop() {
		together := kinds.NewTogether()
		scans := make([]*audit.Scan, len(sheets))
		for i, s := range sheets {
			scan, err := kinds.ReadWith(fmt.Sprintf("s%d.css", i), s, kinds.Options{With: together})
			require.NoError(b, err)
			scans[i] = scan
		}
		together.Finish()
		require.GreaterOrEqual(b, len(scans[439].Uses), 500)
	}
	b.ReportMetric(float64(bytes)/1e6, "MB")
	b.ReportMetric(b.Elapsed().Seconds()/float64(b.N), "s")
}

// BenchmarkScanLarge states the scan of a deck of 200 slides, a document of 10,000 paragraphs and a workbook of 200,000 cells as a ratio to
// unpacking and lexing their XML, and to unpacking it alone; and the most memory that it held beyond the file. A PDF of 500 pages is held
// against inflating its streams.
func BenchmarkScanLarge(b *testing.B) {
	for _, c := range []struct {
		file string
		data []byte
	}{{"x.pptx", largeDeck(b, 200)}, {"x.docx", largeDocument(b)}, {"x.xlsx", largeBook(b)}} {
		b.Run(c.file[2:], func(b *testing.B) {
			var ratio, beyond, most float64
			for b.Loop() {
				plain := best(func() { lexed(b, c.data) })
				unpacking := best(func() { unpacked(b, c.data, func([]byte) {}) })
				scan := best(func() {
					_, err := kinds.Read(c.file, c.data)
					require.NoError(b, err)
				})
				ratio, beyond = float64(scan)/float64(plain), float64(scan)/float64(unpacking)
				var err error
				_, most, err = peak(b, c.file, c.data)
				require.NoError(b, err)
			}
			b.ReportMetric(ratio, "x-lexing")
			b.ReportMetric(beyond, "x-unpacking")
			b.ReportMetric(most, "MB-beyond-input")
		})
	}
	b.Run("pdf", func(b *testing.B) {
		data, streams := largePDF(b, 500)
		var ratio, most float64
		for b.Loop() {
			inflating := best(func() {
				for _, s := range streams {
					r, err := zlib.NewReader(bytes.NewReader(s))
					require.NoError(b, err)
					_, err = io.Copy(io.Discard, r)
					require.NoError(b, err)
				}
			})
			scan := best(func() {
				_, err := kinds.Read("x.pdf", data)
				require.NoError(b, err)
			})
			ratio = float64(scan) / float64(inflating)
			var err error
			_, most, err = peak(b, "x.pdf", data)
			require.NoError(b, err)
		}
		b.ReportMetric(ratio, "x-unpacking")
		b.ReportMetric(most, "MB-beyond-input")
	})
}

// largePDF is a document of n pages with 200 filled shapes and lines of text each, and its packed streams.
func largePDF(b testing.TB, n int) (data []byte, streams [][]byte) {
	var kids strings.Builder
	objects := []string{"<</Type/Catalog/Pages 2 0 R>>", ""}
	for i := range n {
		var s strings.Builder
		for k := range 200 {
			fmt.Fprintf(&s, "%.3f %.3f %.3f rg %d %d 40 20 re f\nBT /F1 9 Tf 1 0 0 1 %d %d Tm (Sailing number %d) Tj ET\n", float64(k%9)/9, float64(i%7)/7, 0.5, k, k*3, k, k*3, k)
		}
		var packed bytes.Buffer
		w := zlib.NewWriter(&packed)
		_, err := w.Write([]byte(s.String()))
		require.NoError(b, err)
		require.NoError(b, w.Close())
		streams = append(streams, packed.Bytes())
		at := len(objects) + 1
		fmt.Fprintf(&kids, "%d 0 R ", at)
		objects = append(objects, fmt.Sprintf("<</Type/Page/Parent 2 0 R/MediaBox[0 0 600 800]/Resources<</Font<</F1<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>>>/Contents %d 0 R>>", at+1),
			fmt.Sprintf("<</Length %d/Filter/FlateDecode>>\nstream\n%s\nendstream", packed.Len(), packed.String()))
	}
	objects[1] = fmt.Sprintf("<</Type/Pages/Count %d/Kids[%s]>>", n, kids.String())
	return pdfdoc.Plain(objects...), streams
}
