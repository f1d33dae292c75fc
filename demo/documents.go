package demo

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"time"

	"huekeep/core/pdfdoc"
)

// The project files beside the deck, the poster and the style sheet: a workbook, a notice in two formats, a site, a film title, a printed
// poster. Each knows what was planted in it.

const (
	wordNS  = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"`
	sheetNS = `xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"`
)

// packed zips files in their order, with a time that stays.
func packed(files ...[2]string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range files {
		method := zip.Deflate
		if f[0] == "mimetype" { // ODF 1.3 part 2, 3.3: first and not packed
			method = zip.Store
		}
		w, err := z.CreateHeader(&zip.FileHeader{Name: f[0], Method: method, Modified: time.Date(2026, 1, 5, 9, 0, 0, 0, time.UTC)})
		if err != nil {
			panic(err) // a buffer takes every write
		}
		if _, err := w.Write([]byte(f[1])); err != nil {
			panic(err)
		}
	}
	if err := z.Close(); err != nil {
		panic(err)
	}
	return out.Bytes()
}

// CrewNotice is a notice to crews as a document: a style, runs of text, a table with shading and borders.
func CrewNotice() File {
	d := &deck{parts: map[string]string{}}
	run := func(paragraph int, words, hex string) string {
		d.note(hex, fmt.Sprintf("paragraph %d “%s”, text", paragraph, words), false)
		return fmt.Sprintf(`<w:p><w:r><w:rPr><w:color w:val="%s"/></w:rPr><w:t>%s</w:t></w:r></w:p>`, hex, words)
	}
	d.note("0E3A53", "styles, paragraph style heading 1, text", false)
	d.add("word/styles.xml", "application/vnd.openxmlformats-officedocument.wordprocessingml.styles+xml",
		`<w:styles `+wordNS+`><w:style w:type="paragraph" w:styleId="Heading1"><w:name w:val="heading 1"/><w:pPr><w:outlineLvl w:val="0"/></w:pPr><w:rPr><w:b/><w:color w:val="0E3A53"/><w:sz w:val="36"/></w:rPr></w:style></w:styles>`)
	body := `<w:p><w:pPr><w:pStyle w:val="Heading1"/></w:pPr><w:r><w:t>Winter crews</w:t></w:r></w:p>` +
		run(2, "Sailings are fewer", "E2572B") + run(3, "Call the harbor office", "E1572C") + run(4, "The old funnel stays", "D9482B")
	cell := func(column int, hex, text string) string {
		where := fmt.Sprintf("table 1, row 1, cell %d", column)
		d.note(hex, where+", shading", false)
		d.note("C9D1D3", where+", border", false)
		return fmt.Sprintf(`<w:tc><w:tcPr><w:tcW w:w="4000" w:type="dxa"/><w:tcBorders><w:top w:val="single" w:sz="4" w:space="0" w:color="C9D1D3"/></w:tcBorders><w:shd w:val="clear" w:color="auto" w:fill="%s"/></w:tcPr><w:p><w:r><w:t>%s</w:t></w:r></w:p></w:tc>`, hex, text)
	}
	body += `<w:tbl><w:tblPr><w:tblW w:w="8000" w:type="dxa"/></w:tblPr><w:tblGrid><w:gridCol w:w="4000"/><w:gridCol w:w="4000"/></w:tblGrid><w:tr>` + cell(1, "F2B632", "Early") + cell(2, "F3B633", "Late") + `</w:tr></w:tbl><w:p/>`
	d.add("word/document.xml", "application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml",
		`<w:document `+wordNS+`><w:body>`+body+`<w:sectPr><w:pgSz w:w="11906" w:h="16838"/></w:sectPr></w:body></w:document>`)
	d.add("word/_rels/document.xml.rels", "", relsXML([2]string{"styles", "styles.xml"}))
	return File{"crew-notice.docx", d.archive("word/document.xml"), d.planted}
}

// CrewNoticeText is the same notice as an open document.
func CrewNoticeText() File {
	var p planter
	run := func(paragraph int, style, words, hex string) string {
		p.note(hex, fmt.Sprintf("paragraph %d “%s”, text", paragraph, words), false)
		return fmt.Sprintf(`<text:p text:style-name="%s">%s</text:p>`, style, words)
	}
	style := func(name, hex string) string {
		return fmt.Sprintf(`<style:style style:name="%s" style:family="paragraph"><style:text-properties fo:color="%s"/></style:style>`,
			name, hex)
	}
	const ns = `xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" office:version="1.3"`
	p.note("0E3A53", "style Heading 1, text", false)
	p.note("0E3A53", "paragraph 1 “Winter crews”, text", true)
	content := `<text:h text:style-name="Heading_20_1" text:outline-level="1">Winter crews</text:h>` +
		run(2, "P1", "Sailings are fewer", "#E2572B") + run(3, "P2", "Call the harbor office", "#E1572C") +
		run(4, "P3", "The old funnel stays", "#D9482B")
	return File{"crew-notice.odt", packed(
		[2]string{"mimetype", "application/vnd.oasis.opendocument.text"},
		[2]string{"content.xml", xmlHead + `<office:document-content ` + ns + `><office:automatic-styles>` + style("P1", "#E2572B") +
			style("P2", "#E1572C") + style("P3", "#D9482B") + `</office:automatic-styles><office:body><office:text>` + content +
			`</office:text></office:body></office:document-content>`},
		[2]string{"styles.xml", xmlHead + `<office:document-styles ` + ns +
			`><office:styles><style:style style:name="Heading_20_1" style:display-name="Heading 1" style:family="paragraph"><style:text-properties fo:color="#0e3a53" fo:font-size="18pt"/></style:style></office:styles></office:document-styles>`},
		[2]string{"META-INF/manifest.xml",
			xmlHead + `<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.text"/><manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/><manifest:file-entry manifest:full-path="styles.xml" manifest:media-type="text/xml"/></manifest:manifest>`},
	), p.planted}
}

// FaresBook is the fares of the winter as a workbook: formats of cells, a conditional format, a tab.
func FaresBook() File {
	d := &deck{parts: map[string]string{}}
	times := func(n int, hex, where string) {
		for range n {
			d.note(hex, where, false)
		}
	}
	times(1, "0E3A53", "sheet Fares, tab")
	times(3, "FFFFFF", "sheet Fares, cells A1:C1, font")
	times(3, "0E3A53", "sheet Fares, cells A1:C1, fill")
	times(4, "E1572C", "sheet Fares, cells C2:C5, font")
	times(1, "F2B632", "sheet Fares, conditional format C2:C5, fill")
	rows := `<row r="1"><c r="A1" s="1" t="inlineStr"><is><t>Line</t></is></c><c r="B1" s="1" t="inlineStr"><is><t>Summer</t></is></c><c r="C1" s="1" t="inlineStr"><is><t>Winter</t></is></c></row>`
	for i, line := range []string{"Harbor loop", "North isles", "Night boat", "Bicycles"} {
		rows += fmt.Sprintf(`<row r="%d"><c r="A%d" t="inlineStr"><is><t>%s</t></is></c><c r="B%d"><v>%d</v></c><c r="C%d" s="2"><v>%d</v></c></row>`, i+2, i+2, line, i+2, 12+i, i+2, 9+i)
	}
	d.add("xl/workbook.xml", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml",
		`<workbook `+sheetNS+` xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Fares" sheetId="1" r:id="rId1"/></sheets></workbook>`)
	d.add("xl/styles.xml", "application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml",
		`<styleSheet `+sheetNS+`><fonts count="3"><font><sz val="11"/><name val="Arial"/></font><font><b/><sz val="11"/><color rgb="FFFFFFFF"/><name val="Arial"/></font><font><sz val="11"/><color rgb="FFE1572C"/><name val="Arial"/></font></fonts>`+
			`<fills count="3"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FF0E3A53"/><bgColor indexed="64"/></patternFill></fill></fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>`+
			`<cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="3"><xf/><xf fontId="1" fillId="2" applyFont="1" applyFill="1"/><xf fontId="2" applyFont="1"/></cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles><dxfs count="1"><dxf><fill><patternFill><bgColor rgb="FFF2B632"/></patternFill></fill></dxf></dxfs></styleSheet>`)
	d.add("xl/worksheets/sheet1.xml", "application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml",
		`<worksheet `+sheetNS+`><sheetPr><tabColor rgb="FF0E3A53"/></sheetPr><sheetData>`+rows+
			`</sheetData><conditionalFormatting sqref="C2:C5"><cfRule type="cellIs" dxfId="0" priority="1" operator="greaterThan"><formula>10</formula></cfRule></conditionalFormatting></worksheet>`)
	d.add("xl/_rels/workbook.xml.rels", "", relsXML([2]string{"worksheet", "worksheets/sheet1.xml"}, [2]string{"styles", "styles.xml"}))
	return File{"fares.xlsx", d.archive("xl/workbook.xml"), d.planted}
}

// BookingSite is the booking site as an archive: a page, the style sheet, a mark.
func BookingSite() File {
	styles := BookingStyles()
	var p planter
	for _, c := range styles.Planted {
		p.note(c.Hex, strings.Replace(c.Where, styles.Name, "site/"+styles.Name, 1), c.Linked)
	}
	page := &text{name: "site/index.html"}
	page.put("<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Book a sailing</title>\n")
	page.element("meta", "content", `<meta name="theme-color" content="`, "#0E3A53", `">`)
	page.put("<link rel=\"stylesheet\" href=\"booking.css\"></head>\n<body>\n")
	page.element("p", "style color", `<p style="color: `, "#E1572C", `">No sailings on January 1.</p>`)
	page.put("</body></html>\n")
	mark := &text{name: "site/mark.svg"}
	mark.put(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20">` + "\n")
	mark.element("circle", "fill", `<circle cx="10" cy="10" r="8" fill="`, "#E2572B", `"/>`)
	mark.put("</svg>\n")
	planted := append(append(p.planted, page.planted...), mark.planted...)
	return File{"booking-site.zip", packed([2]string{"site/index.html", page.String()},
		[2]string{"site/" + styles.Name, string(styles.Data)}, [2]string{"site/mark.svg", mark.String()},
		[2]string{"site/README.txt", "The booking pages.\n"}), planted}
}

// element writes a line with one color in an element, whose place is that of the element.
func (t *text) element(label, what, before, hex, after string) {
	done := t.String()
	t.note(hex, fmt.Sprintf("%s %d:1, %s, %s", t.name, 1+strings.Count(done, "\n"), label, what), false)
	t.WriteString(before + hex + after + "\n")
}

// SafetyTitles is the title of the safety film as an animation: compositions in each other, keyframes, a gradient.
func SafetyTitles() File {
	var p planter
	floats := func(hex string) string {
		var r, g, b int
		if _, err := fmt.Sscanf(hex, "#%02x%02x%02x", &r, &g, &b); err != nil {
			panic(err)
		}
		return fmt.Sprintf("%.4f,%.4f,%.4f", float64(r)/255, float64(g)/255, float64(b)/255)
	}
	plant := func(hex, where string) string { p.note(hex, where, false); return floats(hex) }
	p.note("#0E3A53", "comp Safety film > layer Ground > solid", false)
	main := `{"ty":1,"nm":"Ground","sc":"#0e3a53","sw":1920,"sh":1080,"ip":0,"op":250,"st":0,"ks":{}}` +
		`,{"ty":0,"nm":"Lamps","refId":"lamps","w":1920,"h":1080,"ip":0,"op":250,"st":0,"ks":{}}` +
		`,{"ty":4,"nm":"Sign","ip":0,"op":250,"st":0,"ks":{},"shapes":[{"ty":"gr","nm":"Disc","it":[{"ty":"el","p":{"a":0,"k":[0,0]},"s":{"a":0,"k":[200,200]}},{"ty":"fl","o":{"a":0,"k":100},"c":{"a":1,"k":[{"t":0,"s":[` +
		plant("#E2572B", "comp Safety film > layer Sign > Disc > fill, at 0:00.00") + `,1]},{"t":50,"s":[` + plant("#E3592D",
		"comp Safety film > layer Sign > Disc > fill, at 0:02.00") + `,1]}]}},{"ty":"tr","p":{"a":0,"k":[0,0]},"o":{"a":0,"k":100}}]}]}`
	lamps := `{"ty":0,"nm":"Spark row","refId":"sparks","w":1920,"h":1080,"ip":0,"op":250,"st":0,"ks":{}}`
	sparks := `{"ty":4,"nm":"Spark","ip":0,"op":250,"st":0,"ks":{},"shapes":[{"ty":"fl","o":{"a":0,"k":100},"c":{"a":0,"k":[` +
		plant("#F2B632", "comp Fireworks > layer Spark > fill") +
		`,1]}},{"ty":"gf","o":{"a":0,"k":100},"t":1,"g":{"p":2,"k":{"a":0,"k":[0,` +
		plant("#2F80ED", "comp Fireworks > layer Spark > gradient fill, stop 1") + `,1,` +
		plant("#8FC1D4", "comp Fireworks > layer Spark > gradient fill, stop 2") + `]}}}]}`
	text := `{"v":"5.9.0","fr":25,"ip":0,"op":250,"w":1920,"h":1080,"nm":"Safety film","layers":[` + main +
		`],"assets":[{"id":"lamps","nm":"Lamps","layers":[` + lamps + `]},{"id":"sparks","nm":"Fireworks","layers":[` + sparks + `]}]}`
	return File{"safety-titles.json", []byte(text), p.planted}
}

// PrintedPoster is the harbor poster as a PDF of one page: screen colors, a build, a spot ink.
func PrintedPoster() File {
	var p planter
	p.note("#0E3A53", "page 1, fill", false)
	p.note("#E1572C", "page 1, fill", false)
	p.note("#C9D1D3", "page 1, line", false)
	content := "0.0549 0.2275 0.3255 rg 0 0 420 300 re f\n0.8824 0.3412 0.1725 rg 60 60 200 40 re f\n0.7882 0.8196 0.8275 RG 2 w 20 200 m 400 200 l S\n"
	data := pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 420 595]/Contents 4 0 R/Resources<<>>>>",
		fmt.Sprintf("<</Length %d>>\nstream\n%s\nendstream", len(content), content))
	return File{"harbor-poster.pdf", data, p.planted}
}
