// Package audittest is what the tests of the kinds of files share.
package audittest

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/pdfdoc"
)

// Rules are those of a library of colors, each as "name #hex" or "name #hex status"; all else is as a house has it that said nothing.
func Rules(entries ...string) audit.Rules {
	var r audit.Rules
	for _, e := range entries {
		f := strings.Fields(e)
		rgb, err := color.FromHex(f[1])
		if err != nil {
			panic(err)
		}
		c := library.Color{Name: f[0], RGB: rgb, Status: "approved"}
		if len(f) > 2 {
			c.Status = library.Status(f[2])
		}
		r.Colors = append(r.Colors, c)
	}
	return r
}

// Told lists what is found in a file: "name place" of each use that is seen, behind it "=" where it is linked; "? value place" where the
// color is not known.
func Told(t testing.TB, name string, data []byte) (out []string) {
	t.Helper()
	scan, err := kinds.Read(name, data)
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

// Zip is an archive of texts by their names.
func Zip(t testing.TB, files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for n, text := range files {
		w, err := z.Create(n)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// Stream is a stream of a PDF with what else its dictionary says.
func Stream(dict, content string) string {
	return fmt.Sprintf("<<%s/Length %d>>\nstream\n%s\nendstream", dict, len(content), content)
}

// Deck is a presentation of one slide with one shape, which is filled with what is given.
func Deck(t testing.TB, inner string) []byte {
	files := map[string]string{
		"[Content_Types].xml":             "<x/>",
		"_rels/.rels":                     `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="ppt/presentation.xml"/></r>`,
		"ppt/presentation.xml":            `<p:presentation xmlns:p="p" xmlns:r="r"><p:sldIdLst><p:sldId r:id="a"/></p:sldIdLst></p:presentation>`,
		"ppt/_rels/presentation.xml.rels": `<r><Relationship Id="a" Type="x/relationships/slide" Target="slides/s.xml"/></r>`,
		"ppt/slides/s.xml": `<p:sld xmlns:a="a"><p:sp><p:cNvPr name="Box"/><p:spPr><a:solidFill>` + inner +
			`</a:solidFill></p:spPr></p:sp></p:sld>`,
		"ppt/slides/_rels/s.xml.rels": `<r><Relationship Id="t" Type="x/relationships/theme" Target="/ppt/t.xml"/></r>`,
		"ppt/t.xml":                   `<a:theme><a:clrScheme><a:dk1><a:sysClr val="windowText" lastClr="102030"/></a:dk1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
	}
	return Zip(t, files)
}

// Page is a PDF of one page with a content; the objects of its resources are numbered from 5.
func Page(content, resources string, more ...string) []byte {
	return pdfdoc.Plain(append([]string{"<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<<" + resources + ">>>>", Stream("", content)}, more...)...)
}

// Fuzzed reads what a fuzzer made and holds the scan against what is true of every scan. Small inputs reach as far as large ones,
// and far more of them are tried.
func Fuzzed(t *testing.T, name string, data []byte) {
	if len(data) > 1<<14 {
		t.Skip()
	}
	scan, err := kinds.Read(name, data)
	if err != nil {
		assert.Contains(t, err.Error(), name, "an error names the file")
		return
	}
	uses := 0
	for _, u := range scan.Uses {
		if u.Hidden {
			continue
		}
		assert.Positive(t, u.Count)
		assert.NotEmpty(t, u.Value)
		assert.NotEmpty(t, u.Where)
		uses += u.Count
	}
	report := audit.NewJudge(Rules("Buoy #E2572B", "Fog #C9D1D3")).Judge(name, scan)
	assert.Equal(t, uses, report.Uses, "every use is judged once")
	assert.True(t, report.Score == nil || *report.Score >= 0 && *report.Score <= 1)
	again, err := kinds.Read(name, data)
	require.NoError(t, err)
	assert.Equal(t, report, audit.NewJudge(Rules("Buoy #E2572B", "Fog #C9D1D3")).Judge(name, again), "the same input gives the same report")
}

// Uses reads a file and lists "#HEX where" for each use.
func Uses(t *testing.T, name, text string) []string {
	t.Helper()
	scan, err := kinds.Read(name, []byte(text))
	require.NoError(t, err)
	var out []string
	for _, u := range scan.Uses {
		if u.Why != "" || u.Hidden {
			continue
		}
		for range u.Count {
			out = append(out, u.RGB.Hex()+" "+u.Where)
		}
	}
	return out
}

// Document is a document of a few parts.
func Document(t testing.TB, body string) []byte {
	return Zip(t, map[string]string{
		"[Content_Types].xml":          "<x/>",
		"_rels/.rels":                  `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="word/document.xml"/></r>`,
		"word/document.xml":            `<w:document xmlns:w="w"><w:body>` + body + `</w:body></w:document>`,
		"word/_rels/document.xml.rels": `<r><Relationship Id="t" Type="x/relationships/theme" Target="theme.xml"/><Relationship Id="s" Type="x/relationships/styles" Target="styles.xml"/></r>`,
		"word/theme.xml":               `<a:theme><a:clrScheme><a:dk1><a:srgbClr val="111111"/></a:dk1><a:accent1><a:srgbClr val="4080C0"/></a:accent1></a:clrScheme></a:theme>`,
		"word/styles.xml":              `<w:styles><w:style w:type="paragraph" w:styleId="h1"><w:name w:val="Heading 1"/><w:rPr><w:color w:val="0E3A53"/></w:rPr></w:style></w:styles>`,
	})
}

// Workbook is one with two formats beside the plain one.
func Workbook(t testing.TB, sheet, styles string) []byte {
	return Zip(t, map[string]string{
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
