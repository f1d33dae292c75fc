package demo

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"fmt"
	"strings"
	"time"
)

// File is a project file with what an audit must find in it.
type File struct {
	Name    string
	Data    []byte
	Planted []Planted
}

// Planted is a color that was put into a file on purpose.
type Planted struct {
	Hex    string // #RRGGBB as it must be reported
	Where  string // as it must be reported
	Linked bool
}

// Files are the project files of Odelwick Ferries.
func Files() []File {
	return []File{TimetableDeck(), HarborPoster(), BookingStyles(), FaresBook(), CrewNotice(), CrewNoticeText(), BookingSite(),
		SafetyTitles(), PrintedPoster()}
}

// planter writes colors into a file and keeps the list of them.
type planter struct{ planted []Planted }

func (p *planter) note(hex, where string, linked bool) {
	p.planted = append(p.planted, Planted{"#" + strings.TrimPrefix(strings.ToUpper(hex), "#"), where, linked})
}

const (
	mainNS  = `xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" xmlns:p="http://schemas.openxmlformats.org/presentationml/2006/main"`
	relNS   = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/"
	xmlHead = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
)

// slots is the theme of the deck: an office theme that somebody typed off a printed sheet long ago, so accent 2 is one
// level off and accent 6 still is the retired color.
var slots = []struct{ name, label, hex string }{
	{"dk1", "dark 1", "3B444B"}, {"lt1", "light 1", "FFFFFF"}, {"dk2", "dark 2", "0E3A53"}, {"lt2", "light 2", "F7F5F0"},
	{"accent1", "accent 1", "E2572B"}, {"accent2", "accent 2", "F2B632"}, {"accent3", "accent 3", "4E7D5B"},
	{"accent4", "accent 4", "8FC1D4"}, {"accent5", "accent 5", "7A4E7E"}, {"accent6", "accent 6", "D9482B"},
	{"hlink", "hyperlink", "0E3A53"}, {"folHlink", "followed hyperlink", "3B444B"},
}

var mapped = map[string]string{"bg1": "lt1", "tx1": "dk1", "bg2": "lt2", "tx2": "dk2"}

func slotHex(name string) string {
	if m, ok := mapped[name]; ok {
		name = m
	}
	for _, s := range slots {
		if s.name == name {
			return s.hex
		}
	}
	panic("no slot " + name)
}

// fill writes a color element and notes it: six digits are a hard-coded color, anything else a theme slot.
func (p *planter) fill(value, where string) string {
	if len(value) == 6 && strings.ToUpper(value) == value {
		p.note(value, where, false)
		return `<a:solidFill><a:srgbClr val="` + value + `"/></a:solidFill>`
	}
	p.note(slotHex(value), where, true)
	return `<a:solidFill><a:schemeClr val="` + value + `"/></a:solidFill>`
}

type deck struct {
	planter
	parts  map[string]string
	order  []string
	types  []string
	slides int
}

func (d *deck) add(name, contentType, text string) {
	d.parts[name] = xmlHead + text
	d.order = append(d.order, name)
	if contentType != "" {
		d.types = append(d.types, fmt.Sprintf(`<Override PartName="/%s" ContentType="%s"/>`, name, contentType))
	}
}

func relsXML(rels ...[2]string) string {
	var b strings.Builder
	b.WriteString(`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">`)
	for i, r := range rels {
		fmt.Fprintf(&b, `<Relationship Id="rId%d" Type="%s%s" Target="%s"/>`, i+1, relNS, r[0], r[1])
	}
	return b.String() + `</Relationships>`
}

const emptyGroup = `<p:nvGrpSpPr><p:cNvPr id="1" name=""/><p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr/>`

// slide adds a slide; extra are its relationships beyond the layout, from rId2 on.
func (d *deck) slide(remap, body string, extra ...[2]string) {
	d.slides++
	name := fmt.Sprintf("ppt/slides/slide%d.xml", d.slides)
	if remap == "" {
		remap = `<a:masterClrMapping/>`
	}
	d.add(name, "application/vnd.openxmlformats-officedocument.presentationml.slide+xml",
		`<p:sld `+mainNS+`><p:cSld><p:spTree>`+emptyGroup+body+`</p:spTree></p:cSld><p:clrMapOvr>`+remap+`</p:clrMapOvr></p:sld>`)
	d.add(fmt.Sprintf("ppt/slides/_rels/slide%d.xml.rels", d.slides), "",
		relsXML(append([][2]string{{"slideLayout", "../slideLayouts/slideLayout1.xml"}}, extra...)...))
}

// next is the place of the slide that is being written.
func (d *deck) next() string { return fmt.Sprintf("slide %d", d.slides+1) }

// box writes a rectangle with a text; fill and ink may be empty for none of its own.
func (d *deck) box(id int, name, path string, at [4]int, fill, ink, text string) string {
	where := d.next() + ", shape " + path + name
	paint := `<a:noFill/>`
	if fill != "" {
		paint = d.fill(fill, where+", fill")
	}
	run := ""
	if ink != "" {
		run = d.fill(ink, where+", text")
	}
	return fmt.Sprintf(`<p:sp><p:nvSpPr><p:cNvPr id="%d" name="%s"/><p:cNvSpPr/><p:nvPr/></p:nvSpPr><p:spPr><a:xfrm><a:off x="%d" y="%d"/><a:ext cx="%d" cy="%d"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom>%s<a:ln><a:noFill/></a:ln></p:spPr><p:txBody><a:bodyPr anchor="ctr"/><a:lstStyle/><a:p><a:r><a:rPr lang="en-US" sz="2000">%s</a:rPr><a:t>%s</a:t></a:r></a:p></p:txBody></p:sp>`,
		id, name, at[0]*12700, at[1]*12700, at[2]*12700, at[3]*12700, paint, run, text)
}

func frame(id int, name string, at [4]int, uri, inner string) string {
	return fmt.Sprintf(`<p:graphicFrame><p:nvGraphicFramePr><p:cNvPr id="%d" name="%s"/><p:cNvGraphicFramePr/><p:nvPr/></p:nvGraphicFramePr><p:xfrm><a:off x="%d" y="%d"/><a:ext cx="%d" cy="%d"/></p:xfrm><a:graphic><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/%s">%s</a:graphicData></a:graphic></p:graphicFrame>`,
		id, name, at[0]*12700, at[1]*12700, at[2]*12700, at[3]*12700, uri, inner)
}

// TimetableDeck is the winter timetable as a presentation: slides with shapes, groups in groups, a table, a chart with
// its workbook, notes, and a slide with a color map of its own.
func TimetableDeck() File {
	d := &deck{parts: map[string]string{}}
	d.theme()
	d.master()

	// 1: the cover, linked throughout.
	d.slide("", d.box(2, "Ground", "", [4]int{0, 0, 960, 540}, "tx2", "", "")+
		d.box(3, "Title 1", "", [4]int{60, 190, 840, 80}, "", "bg1", "Winter timetable")+
		d.box(4, "Season", "", [4]int{60, 280, 840, 50}, "", "accent2", "Odelwick Ferries, November to March"))

	// 2: sailings as a table; the header still has the retired color, one border is hard-coded.
	d.slide("", d.box(2, "Title 1", "", [4]int{40, 30, 880, 60}, "", "0E3A53", "Sailings from Odelwick")+d.sailings())

	// 3: an arrow in a group in a group, sampled from a picture: red one low, blue one high.
	arrow := d.box(6, "Arrow", "Group 4 &gt; ", [4]int{500, 160, 200, 60}, "E1572C", "", "to Skerry Point")
	label := d.box(8, "Label", "Group 4 &gt; Group 7 &gt; ", [4]int{500, 240, 200, 60}, "", "E1572C", "45 minutes")
	d.slide("", d.box(2, "Title 1", "", [4]int{40, 30, 880, 60}, "", "0E3A53", "The crossing")+
		d.box(3, "Sea", "", [4]int{40, 120, 880, 360}, "8FC1D4", "", "")+
		group(4, "Group 4", arrow+group(7, "Group 7", label)))

	// 4: passengers as a chart; series 2 is one level off, and one point is painted in a web blue.
	d.slide("", d.box(2, "Title 1", "", [4]int{40, 30, 880, 60}, "", "tx2", "Passengers")+
		frame(3, "Passengers", [4]int{40, 110, 880, 390}, "chart",
			`<c:chart xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart" r:id="rId2"/>`),
		[2]string{"chart", "../charts/chart1.xml"})
	d.chart("slide 4, chart Passengers")

	// 5: dark on light turned around by the slide's own color map: bg1 is the dark slot here.
	where := d.next() + ", shape Turned, fill"
	d.note(slotHex("dk2"), where, true)
	d.slide(`<a:overrideClrMapping bg1="dk2" tx1="lt1" bg2="dk1" tx2="lt2" accent1="accent1" accent2="accent2" accent3="accent3" accent4="accent4" accent5="accent5" accent6="accent6" hlink="hlink" folHlink="folHlink"/>`,
		`<p:sp><p:nvSpPr><p:cNvPr id="2" name="Turned"/><p:cNvSpPr/><p:nvPr/></p:nvSpPr><p:spPr><a:xfrm><a:off x="0" y="0"/><a:ext cx="12192000" cy="6858000"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom><a:solidFill><a:schemeClr val="bg1"/></a:solidFill></p:spPr></p:sp>`)

	// 6: a partner's green, and a gradient from a slot to a hard-coded value.
	body := d.box(2, "Partner mark", "", [4]int{700, 40, 200, 80}, "00A34F", "FFFFFF", "Isle Bus")
	where = d.next() + ", shape Dusk, fill, gradient"
	d.note(slotHex("accent5"), where, true)
	d.note("D94A2D", where, false)
	body += `<p:sp><p:nvSpPr><p:cNvPr id="3" name="Dusk"/><p:cNvSpPr/><p:nvPr/></p:nvSpPr><p:spPr><a:xfrm><a:off x="508000" y="1778000"/><a:ext cx="11176000" cy="4318000"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom><a:gradFill><a:gsLst><a:gs pos="0"><a:schemeClr val="accent5"/></a:gs><a:gs pos="100000"><a:srgbClr val="D94A2D"/></a:gs></a:gsLst><a:lin ang="5400000"/></a:gradFill></p:spPr></p:sp>`
	d.slide("", body, [2]string{"notesSlide", "../notesSlides/notesSlide1.xml"})
	d.note("F2B530", "slide 6 notes, shape Notes, text", false)
	d.add("ppt/notesSlides/notesSlide1.xml", "application/vnd.openxmlformats-officedocument.presentationml.notesSlide+xml",
		`<p:notes `+mainNS+`><p:cSld><p:spTree>`+emptyGroup+
			`<p:sp><p:nvSpPr><p:cNvPr id="2" name="Notes"/><p:cNvSpPr/><p:nvPr><p:ph type="body" idx="1"/></p:nvPr></p:nvSpPr><p:spPr/><p:txBody><a:bodyPr/><a:lstStyle/><a:p><a:r><a:rPr lang="en-US"><a:solidFill><a:srgbClr val="F2B530"/></a:solidFill></a:rPr><a:t>Say that the dusk boat runs until March.</a:t></a:r></a:p></p:txBody></p:sp></p:spTree></p:cSld></p:notes>`)
	d.add("ppt/notesSlides/_rels/notesSlide1.xml.rels", "",
		relsXML([2]string{"slide", "../slides/slide6.xml"}, [2]string{"notesMaster", "../notesMasters/notesMaster1.xml"}))

	return File{"winter-timetable.pptx", d.zip(), d.planted}
}

func group(id int, name, inner string) string {
	return fmt.Sprintf(`<p:grpSp><p:nvGrpSpPr><p:cNvPr id="%d" name="%s"/><p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr><a:xfrm><a:off x="6350000" y="2032000"/><a:ext cx="2540000" cy="1778000"/><a:chOff x="6350000" y="2032000"/><a:chExt cx="2540000" cy="1778000"/></a:xfrm></p:grpSpPr>%s</p:grpSp>`, id, name, inner)
}

func (d *deck) sailings() string {
	rows := [][]string{{"Harbor", "Out", "Back"}, {"Skerry Point", "07:10", "08:05"}, {"Tarn Holm", "09:30", "11:00"},
		{"Gullhaven", "13:15", "15:45"}}
	var b strings.Builder
	b.WriteString(`<a:tbl><a:tblPr firstRow="1"/><a:tblGrid><a:gridCol w="5588000"/><a:gridCol w="2794000"/><a:gridCol w="2794000"/></a:tblGrid>`)
	for i, r := range rows {
		b.WriteString(`<a:tr h="508000">`)
		for k, text := range r {
			where := fmt.Sprintf("%s, table Sailings, row %d, cell %d", d.next(), i+1, k+1)
			ink, fill, line := d.fill("tx1", where+", text"), "", ""
			if i == 0 {
				fill = d.fill("D9482B", where+", fill")
			} else if k == 0 {
				fill = d.fill("C9D1D3", where+", fill")
			}
			if i == 1 && k == 2 {
				line = `<a:lnB w="12700">` + d.fill("C8D0D2", where+", border") + `</a:lnB>`
			}
			fmt.Fprintf(&b, `<a:tc><a:txBody><a:bodyPr/><a:lstStyle/><a:p><a:r><a:rPr lang="en-US">%s</a:rPr><a:t>%s</a:t></a:r></a:p></a:txBody><a:tcPr>%s%s</a:tcPr></a:tc>`, ink, text, line, fill)
		}
		b.WriteString(`</a:tr>`)
	}
	return frame(3, "Sailings", [4]int{40, 110, 880, 160}, "table", b.String()+`</a:tbl>`)
}

func (d *deck) chart(place string) {
	series := []struct {
		name, fill string
		values     []int
	}{{"On foot", "accent1", []int{420, 380, 510}}, {"Bicycles", "F2B530", []int{60, 35, 90}}, {"Cars", "accent3", []int{130, 120, 160}}}
	var b strings.Builder
	for i, s := range series {
		where := fmt.Sprintf("%s, series %d (%s)", place, i+1, s.name)
		paint := d.fill(s.fill, where+", fill")
		point := ""
		if i == 2 {
			point = `<c:dPt><c:idx val="1"/><c:invertIfNegative val="0"/><c:bubble3D val="0"/><c:spPr>` +
				d.fill("2F80ED", where+", point 1, fill") + `</c:spPr></c:dPt>`
		}
		column := string(rune('B' + i))
		fmt.Fprintf(&b, `<c:ser><c:idx val="%d"/><c:order val="%d"/><c:tx><c:strRef><c:f>Sheet!$%s$1</c:f><c:strCache><c:ptCount val="1"/><c:pt idx="0"><c:v>%s</c:v></c:pt></c:strCache></c:strRef></c:tx><c:spPr>%s</c:spPr><c:invertIfNegative val="0"/>%s<c:cat><c:strLit><c:ptCount val="3"/><c:pt idx="0"><c:v>November</c:v></c:pt><c:pt idx="1"><c:v>December</c:v></c:pt><c:pt idx="2"><c:v>January</c:v></c:pt></c:strLit></c:cat><c:val><c:numLit><c:ptCount val="3"/>`, i, i, column, s.name, paint, point)
		for k, v := range s.values {
			fmt.Fprintf(&b, `<c:pt idx="%d"><c:v>%d</c:v></c:pt>`, k, v)
		}
		b.WriteString(`</c:numLit></c:val></c:ser>`)
	}
	text := d.fill("tx1", place+", text")
	d.add("ppt/charts/chart1.xml", "application/vnd.openxmlformats-officedocument.drawingml.chart+xml",
		`<c:chartSpace xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart" `+mainNS+
			`><c:chart><c:autoTitleDeleted val="1"/><c:plotArea><c:layout/><c:barChart><c:barDir val="col"/><c:grouping val="clustered"/><c:varyColors val="0"/>`+
			b.String()+`<c:axId val="11"/><c:axId val="12"/></c:barChart><c:catAx><c:axId val="11"/><c:scaling><c:orientation val="minMax"/></c:scaling><c:delete val="0"/><c:axPos val="b"/><c:crossAx val="12"/></c:catAx><c:valAx><c:axId val="12"/><c:scaling><c:orientation val="minMax"/></c:scaling><c:delete val="0"/><c:axPos val="l"/><c:crossAx val="11"/></c:valAx></c:plotArea><c:legend><c:legendPos val="b"/></c:legend><c:plotVisOnly val="1"/></c:chart><c:txPr><a:bodyPr/><a:lstStyle/><a:p><a:pPr><a:defRPr sz="1400">`+
			text+`</a:defRPr></a:pPr><a:endParaRPr lang="en-US"/></a:p></c:txPr><c:externalData r:id="rId1"><c:autoUpdate val="0"/></c:externalData></c:chartSpace>`)
	d.add("ppt/charts/_rels/chart1.xml.rels", "", relsXML([2]string{"package", "../embeddings/passengers.xlsx"}))
	rows := `<row><c t="inlineStr"><is><t>Month</t></is></c>`
	for _, s := range series {
		rows += `<c t="inlineStr"><is><t>` + s.name + `</t></is></c>`
	}
	rows += `</row>`
	for i, month := range []string{"November", "December", "January"} {
		rows += `<row><c t="inlineStr"><is><t>` + month + `</t></is></c>`
		for _, s := range series {
			rows += fmt.Sprintf(`<c><v>%d</v></c>`, s.values[i])
		}
		rows += `</row>`
	}
	d.workbook("ppt/embeddings/passengers.xlsx", rows)
}

// workbook embeds a plain workbook with one sheet; it has no colors of its own.
func (d *deck) workbook(name, rows string) {
	const sheetNS = `xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"`
	b := &deck{parts: map[string]string{}}
	b.add("xl/workbook.xml", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml",
		`<workbook `+sheetNS+` xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Sheet" sheetId="1" r:id="rId1"/></sheets></workbook>`)
	b.add("xl/worksheets/sheet1.xml", "application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml",
		`<worksheet `+sheetNS+`><sheetData>`+rows+`</sheetData></worksheet>`)
	b.add("xl/_rels/workbook.xml.rels", "", relsXML([2]string{"worksheet", "worksheets/sheet1.xml"}))
	d.parts[name] = string(b.archive("xl/workbook.xml"))
	d.order = append(d.order, name)
}

func (d *deck) theme() {
	var b strings.Builder
	for _, s := range slots {
		d.note(s.hex, "theme 1, "+s.label, false)
		fmt.Fprintf(&b, `<a:%s><a:srgbClr val="%s"/></a:%s>`, s.name, s.hex, s.name)
	}
	three := func(s string) string { return s + s + s }
	ph := `<a:solidFill><a:schemeClr val="phClr"/></a:solidFill>`
	d.add("ppt/theme/theme1.xml", "application/vnd.openxmlformats-officedocument.theme+xml",
		`<a:theme xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" name="Ferries"><a:themeElements><a:clrScheme name="Ferries, typed off">`+b.String()+
			`</a:clrScheme><a:fontScheme name="Plain"><a:majorFont><a:latin typeface="Arial"/><a:ea typeface=""/><a:cs typeface=""/></a:majorFont><a:minorFont><a:latin typeface="Arial"/><a:ea typeface=""/><a:cs typeface=""/></a:minorFont></a:fontScheme><a:fmtScheme name="Plain"><a:fillStyleLst>`+three(ph)+
			`</a:fillStyleLst><a:lnStyleLst>`+three(`<a:ln>`+ph+`</a:ln>`)+`</a:lnStyleLst><a:effectStyleLst>`+
			three(`<a:effectStyle><a:effectLst/></a:effectStyle>`)+`</a:effectStyleLst><a:bgFillStyleLst>`+three(ph)+
			`</a:bgFillStyleLst></a:fmtScheme></a:themeElements></a:theme>`)
	// The notes have a theme part of their own, as office programs write it; its slots are the same.
	var second strings.Builder
	for _, s := range slots {
		d.note(s.hex, "theme 2, "+s.label, false)
		fmt.Fprintf(&second, `<a:%s><a:srgbClr val="%s"/></a:%s>`, s.name, s.hex, s.name)
	}
	d.add("ppt/theme/theme2.xml", "application/vnd.openxmlformats-officedocument.theme+xml",
		strings.Replace(strings.TrimPrefix(d.parts["ppt/theme/theme1.xml"], xmlHead), b.String(), second.String(), 1))
}

func (d *deck) master() {
	clrMap := `<p:clrMap bg1="lt1" tx1="dk1" bg2="lt2" tx2="dk2" accent1="accent1" accent2="accent2" accent3="accent3" accent4="accent4" accent5="accent5" accent6="accent6" hlink="hlink" folHlink="folHlink"/>`
	ground := func(where string) string {
		return `<p:bg><p:bgPr>` + d.fill("bg1", where+", background") + `<a:effectLst/></p:bgPr></p:bg>`
	}
	style := `<a:lvl1pPr><a:defRPr sz="1800">` + d.fill("tx1", "master 1, text") + `</a:defRPr></a:lvl1pPr>`
	d.add("ppt/slideMasters/slideMaster1.xml", "application/vnd.openxmlformats-officedocument.presentationml.slideMaster+xml",
		`<p:sldMaster `+mainNS+`><p:cSld>`+ground("master 1")+`<p:spTree>`+emptyGroup+`</p:spTree></p:cSld>`+clrMap+
			`<p:sldLayoutIdLst><p:sldLayoutId id="2147483649" r:id="rId1"/></p:sldLayoutIdLst><p:txStyles><p:titleStyle/><p:bodyStyle>`+
			style+`</p:bodyStyle><p:otherStyle/></p:txStyles></p:sldMaster>`)
	d.add("ppt/slideMasters/_rels/slideMaster1.xml.rels", "", relsXML([2]string{"slideLayout", "../slideLayouts/slideLayout1.xml"},
		[2]string{"theme", "../theme/theme1.xml"}))
	line := `<p:cxnSp><p:nvCxnSpPr><p:cNvPr id="2" name="Waterline"/><p:cNvCxnSpPr/><p:nvPr/></p:nvCxnSpPr><p:spPr><a:xfrm><a:off x="508000" y="6477000"/><a:ext cx="11176000" cy="0"/></a:xfrm><a:prstGeom prst="line"><a:avLst/></a:prstGeom><a:ln w="12700">` +
		d.fill("C9D1D3", "master 1, layout 1, shape Waterline, line") + `</a:ln></p:spPr></p:cxnSp>`
	d.add("ppt/slideLayouts/slideLayout1.xml", "application/vnd.openxmlformats-officedocument.presentationml.slideLayout+xml",
		`<p:sldLayout `+mainNS+` type="blank"><p:cSld name="Free"><p:spTree>`+emptyGroup+line+
			`</p:spTree></p:cSld><p:clrMapOvr><a:masterClrMapping/></p:clrMapOvr></p:sldLayout>`)
	d.add("ppt/slideLayouts/_rels/slideLayout1.xml.rels", "", relsXML([2]string{"slideMaster", "../slideMasters/slideMaster1.xml"}))
	d.add("ppt/notesMasters/notesMaster1.xml", "application/vnd.openxmlformats-officedocument.presentationml.notesMaster+xml",
		`<p:notesMaster `+mainNS+`><p:cSld>`+ground("notes master")+`<p:spTree>`+emptyGroup+`</p:spTree></p:cSld>`+clrMap+
			`</p:notesMaster>`)
	d.add("ppt/notesMasters/_rels/notesMaster1.xml.rels", "", relsXML([2]string{"theme", "../theme/theme2.xml"}))
}

func (d *deck) zip() []byte {
	rels := [][2]string{{"slideMaster", "slideMasters/slideMaster1.xml"}, {"notesMaster", "notesMasters/notesMaster1.xml"}}
	var ids strings.Builder
	for i := range d.slides {
		rels = append(rels, [2]string{"slide", fmt.Sprintf("slides/slide%d.xml", i+1)})
		fmt.Fprintf(&ids, `<p:sldId id="%d" r:id="rId%d"/>`, 256+i, 3+i)
	}
	d.add("ppt/presentation.xml", "application/vnd.openxmlformats-officedocument.presentationml.presentation.main+xml",
		`<p:presentation `+mainNS+`><p:sldMasterIdLst><p:sldMasterId id="2147483648" r:id="rId1"/></p:sldMasterIdLst><p:notesMasterIdLst><p:notesMasterId r:id="rId2"/></p:notesMasterIdLst><p:sldIdLst>`+ids.String()+
			`</p:sldIdLst><p:sldSz cx="12192000" cy="6858000"/><p:notesSz cx="6858000" cy="9144000"/></p:presentation>`)
	d.add("ppt/_rels/presentation.xml.rels", "", relsXML(append(rels, [2]string{"theme", "theme/theme1.xml"})...))
	return d.archive("ppt/presentation.xml")
}

// archive zips the parts into a package with a main part.
func (d *deck) archive(main string) []byte {
	d.add("_rels/.rels", "", relsXML([2]string{"officeDocument", main}))
	types := `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Default Extension="xlsx" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"/>` + strings.Join(d.types, "") + `</Types>`
	d.add("[Content_Types].xml", "", types)

	var out bytes.Buffer
	z := zip.NewWriter(&out)
	names := append([]string{"[Content_Types].xml"}, d.order[:len(d.order)-1]...)
	for _, n := range names {
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Deflate, Modified: time.Date(2026, 1, 5, 9, 0, 0, 0, time.UTC)})
		if err != nil {
			panic(err) // a buffer takes every write
		}
		if _, err := w.Write([]byte(d.parts[n])); err != nil {
			panic(err)
		}
	}
	if err := z.Close(); err != nil {
		panic(err)
	}
	return out.Bytes()
}

// text is a text file that knows the line and column it is being written at.
type text struct {
	planter
	strings.Builder
	name string
}

// put writes the text; "«value|hex|context»" writes the value and plants it, with the context as its place.
func (t *text) put(s string) {
	for {
		before, rest, ok := strings.Cut(s, "«")
		t.WriteString(before)
		if !ok {
			return
		}
		mark, after, _ := strings.Cut(rest, "»")
		f := strings.Split(mark, "|")
		done := t.String()
		line := 1 + strings.Count(done, "\n")
		column := len(done) - strings.LastIndexByte(done, '\n')
		t.note(f[1], fmt.Sprintf("%s %d:%d, %s", t.name, line, column, f[2]), strings.HasPrefix(f[0], "var("))
		t.WriteString(f[0])
		s = after
	}
}

// BookingStyles is the style sheet of the booking pages.
func BookingStyles() File {
	t := &text{name: "booking.css"}
	t.put(`/* Booking pages of Odelwick Ferries. #123456 in a comment is no color in use. */
:root {
  --sound: «#0E3A53|#0E3A53|:root, --sound»;
  --buoy: «#e2572b|#E2572B|:root, --buoy»;
  --call: «var(--buoy)|#E2572B|:root, --call»;
  --paper: «#F7F5F0|#F7F5F0|:root, --paper»;
  --gap: 1rem;
}

body { color: «#3B444B|#3B444B|body, color»; background: «var(--paper)|#F7F5F0|body, background»; font: 16px/1.5 Tan, sans-serif; }
#fade { animation: red 2s; grid-area: navy; }
h1, h2 { color: «rgb(14, 58, 83)|#0E3A53|h1, h2, color»; }
.notice { background: «rgb(242 181 48)|#F2B530|.notice, background»; border: 1px solid «#c9d1d3|#C9D1D3|.notice, border»; }
.button { background: «var(--call)|#E2572B|.button, background»; color: «white|#FFFFFF|.button, color»; }
.button:hover { background: «#E1572C|#E1572C|.button:hover, background»; box-shadow: 0 1px 2px «rgb(14 58 83 / 40%)|#0E3A53|.button:hover, box-shadow»; }

@media (min-width: 40em) {
  .ramp { background: linear-gradient(«#8FC1D4|#8FC1D4|.ramp, background», «#8fc1d4|#8FC1D4|.ramp, background» 40%, transparent); }
  .alert { color: «#D9482B|#D9482B|.alert, color»; content: "#ff0000 is only text"; }
  a { color: «#2F80ED|#2F80ED|a, color»; background: url(sea.png#fff); }
}
`)
	return File{t.name, []byte(t.String()), t.planted}
}

// HarborPoster is the harbor poster as an SVG drawing, with a style sheet, gradients and a drawing inside it.
func HarborPoster() File {
	t := &text{name: "harbor-poster.svg"}
	inner := `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="#F3B633"/></svg>`
	t.put(`<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 594 841">
  <title>Harbor poster, #ff0000 in a title is no color in use</title>
  <style>
    .deck { fill: «#0E3A53|#0E3A53|.deck, fill»; }
    .rail { stroke: «#C9D1D3|#C9D1D3|.rail, stroke»; fill: none; }
  </style>
  <defs>
    <linearGradient id="dusk">
`)
	line := func(indent, tag, label string, attributes ...[3]string) {
		// The place of an attribute is that of its element.
		done := t.String()
		where := fmt.Sprintf("%s %d:%d, %s, ", t.name, 1+strings.Count(done, "\n"), len(indent)+1, label)
		t.WriteString(indent + "<" + tag)
		for _, a := range attributes {
			t.WriteString(" " + a[0] + `="` + a[1] + `"`)
			if a[2] != "" {
				what := a[0]
				if what == "style" {
					what = "style fill"
				}
				t.note(a[2], where+what, false)
			}
		}
		t.WriteString("/>\n")
	}
	line("      ", "stop", "stop", [3]string{"offset", "0", ""}, [3]string{"stop-color", "#0E3A53", "#0E3A53"})
	line("      ", "stop", "stop", [3]string{"offset", "1", ""}, [3]string{"stop-color", "#7A4E80", "#7A4E80"})
	t.put("    </linearGradient>\n  </defs>\n")
	line("  ", "rect", "rect#sky", [3]string{"id", "sky", ""}, [3]string{"width", "594", ""}, [3]string{"height", "500", ""},
		[3]string{"fill", "url(#dusk)", ""})
	line("  ", "rect", "rect#sea", [3]string{"id", "sea", ""}, [3]string{"y", "500", ""}, [3]string{"width", "594", ""},
		[3]string{"height", "341", ""}, [3]string{"fill", "#8FC1D4", "#8FC1D4"})
	line("  ", "path", "path#hull", [3]string{"id", "hull", ""}, [3]string{"class", "deck", ""},
		[3]string{"d", "M100 520h380l-60 90H160z", ""})
	line("  ", "path", "path#funnel", [3]string{"id", "funnel", ""}, [3]string{"d", "M260 400h70v120h-70z", ""},
		[3]string{"style", "fill: #E0562C; stroke: none", "#E0562C"})
	line("  ", "path", "path#rail", [3]string{"id", "rail", ""}, [3]string{"class", "rail", ""}, [3]string{"d", "M120 500h340", ""})
	line("  ", "text", "text#place", [3]string{"id", "place", ""}, [3]string{"x", "60", ""}, [3]string{"y", "760", ""},
		[3]string{"fill", "white", "#FFFFFF"})
	done := t.String()
	at := fmt.Sprintf("%d:3", 1+strings.Count(done, "\n"))
	t.note("#F3B633", fmt.Sprintf("%s %s > drawing 1:61, circle, fill", t.name, at), false)
	t.put(`  <image id="lamp" x="480" y="80" width="60" height="60" href="data:image/svg+xml;base64,` + base64.StdEncoding.EncodeToString([]byte(inner)) + `"/>
</svg>
`)
	return File{t.name, []byte(t.String()), t.planted}
}
