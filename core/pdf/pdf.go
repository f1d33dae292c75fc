// Package pdf writes pages for people who print (ISO 32000-1): areas and type in DeviceRGB, DeviceCMYK and Separation inks, page boxes,
// and output intents with the profile of a press. The same calls write the same bytes.
package pdf

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode/utf16"

	"github.com/tdewolff/font"

	"huekeep/core/color"
	"huekeep/core/lettering"
)

// Document is a document that is being written. Lengths are millimeters from the top left corner of a page's trim.
type Document struct {
	Title, Author string
	At            time.Time // of creation; zero for none
	pages         []*Page
	spots         []spot
	fonts         []*used
	intent        *intent
}

type spot struct {
	name string
	alt  color.CMYK
}

type intent struct {
	condition string
	profile   []byte
}

// used is a font with those of its glyphs that were written.
type used struct {
	*lettering.Font
	ids   map[uint16]int // glyph to its place in the subset; 0 is .notdef
	list  []uint16
	runes map[int]rune
}

// Page is one page.
type Page struct {
	doc           *Document
	width, height float64 // of the trim, in millimeters
	bleed         float64 // that the media is larger on each side
	content       bytes.Buffer
	fill          string // the operators that set the color that areas have now
}

const point = 72 / 25.4 // of a millimeter

// Page adds a page. With a bleed over 0 the media is larger than the trim by that much on every side, for marks.
func (d *Document) Page(width, height, bleed float64) *Page {
	p := &Page{doc: d, width: width, height: height, bleed: bleed}
	d.pages = append(d.pages, p)
	return p
}

// Spot makes an ink known under a name, with the build that stands for it where there is no such ink.
func (d *Document) Spot(name string, alternate color.CMYK) {
	for _, s := range d.spots {
		if s.name == name {
			return
		}
	}
	d.spots = append(d.spots, spot{name, alternate})
}

// Intent says which printing condition the document is made for, with its ICC profile (ISO 32000-1, 14.11.5).
func (d *Document) Intent(condition string, profile []byte) { d.intent = &intent{condition, profile} }

// number writes a number with at most four decimals.
func number(v float64) string {
	return strconv.FormatFloat(math.Round(v*1e4)/1e4+0, 'f', -1, 64)
}

func numbers(v ...float64) string {
	out := make([]string, len(v))
	for i, x := range v {
		out[i] = number(x)
	}
	return strings.Join(out, " ")
}

// RGB sets the color of what follows, in DeviceRGB.
func (p *Page) RGB(c color.RGB8) {
	v := numbers(float64(c.R)/255, float64(c.G)/255, float64(c.B)/255)
	p.set(v+" rg", v+" RG")
}

// CMYK sets the color of what follows, in DeviceCMYK.
func (p *Page) CMYK(c color.CMYK) {
	v := numbers(c.C/100, c.M/100, c.Y/100, c.K/100)
	p.set(v+" k", v+" K")
}

// Ink sets the color of what follows to a tint, in percent, of an ink that Spot made known.
func (p *Page) Ink(name string, tint float64) {
	for i, s := range p.doc.spots {
		if s.name == name {
			p.set(fmt.Sprintf("/S%d cs %s scn", i+1, number(tint/100)), fmt.Sprintf("/S%d CS %s SCN", i+1, number(tint/100)))
			return
		}
	}
}

// Registration sets the color of what follows to every ink at once, as marks have it.
func (p *Page) Registration() { p.set("/All cs 1 scn", "/All CS 1 SCN") }

func (p *Page) set(fill, stroke string) {
	if p.fill == fill {
		return
	}
	p.fill = fill
	fmt.Fprintf(&p.content, "%s %s\n", fill, stroke)
}

func (p *Page) x(v float64) float64 { return (p.bleed + v) * point }
func (p *Page) y(v float64) float64 { return (p.bleed + p.height - v) * point }

// Rect fills an area.
func (p *Page) Rect(x, y, w, h float64) {
	fmt.Fprintf(&p.content, "%s re f\n", numbers(p.x(x), p.y(y+h), w*point, h*point))
}

// Frame draws an outline of a line's width inside an area.
func (p *Page) Frame(x, y, w, h, line float64) {
	fmt.Fprintf(&p.content, "%s w %s re S\n", number(line*point), numbers(p.x(x+line/2), p.y(y+h-line/2), (w-line)*point, (h-line)*point))
}

// Line draws a line of a width.
func (p *Page) Line(x1, y1, x2, y2, width float64) {
	fmt.Fprintf(&p.content, "%s w %s m %s l S\n", number(width*point), numbers(p.x(x1), p.y(y1)), numbers(p.x(x2), p.y(y2)))
}

// Circle draws the outline of a circle.
func (p *Page) Circle(x, y, r, width float64) {
	const k = 0.5522847498 // of a quarter of a circle as a Bézier curve
	at := func(dx, dy float64) string { return numbers(p.x(x+dx*r), p.y(y+dy*r)) }
	fmt.Fprintf(&p.content, "%s w %s m", number(width*point), at(1, 0))
	for _, q := range [][6]float64{{1, k, k, 1, 0, 1}, {-k, 1, -1, k, -1, 0}, {-1, -k, -k, -1, 0, -1}, {k, -1, 1, -k, 1, 0}} {
		fmt.Fprintf(&p.content, " %s %s %s c", at(q[0], q[1]), at(q[2], q[3]), at(q[4], q[5]))
	}
	p.content.WriteString(" S\n")
}

// Text writes a line with its baseline at y, in a type size in points, cut to a width in millimeters if that is over 0.
func (p *Page) Text(face lettering.Face, size, x, y float64, text string, width float64) {
	if width > 0 {
		text = face.Fit(text, size, width*point)
	}
	at := p.x(x)
	for _, run := range face.Runs(text) {
		n, u := p.doc.font(run.Font)
		fmt.Fprintf(&p.content, "BT /F%d %s Tf %s Td <", n, number(size), numbers(at, p.y(y)))
		letters := []rune(run.Text)
		for i, g := range run.Glyphs {
			fmt.Fprintf(&p.content, "%04X", u.id(g, letters[i]))
		}
		p.content.WriteString("> Tj ET\n")
		at += run.Units() * size / 1000
	}
}

// Right writes a line that ends at x.
func (p *Page) Right(face lettering.Face, size, x, y float64, text string) {
	p.Text(face, size, x-face.Width(text, size)/point, y, text, 0)
}

func (d *Document) font(f *lettering.Font) (int, *used) {
	for i, u := range d.fonts {
		if u.Font == f {
			return i + 1, u
		}
	}
	u := &used{f, map[uint16]int{0: 0}, []uint16{0}, map[int]rune{}}
	d.fonts = append(d.fonts, u)
	return len(d.fonts), u
}

func (u *used) id(glyph uint16, r rune) int {
	id, ok := u.ids[glyph]
	if !ok {
		id = len(u.list)
		u.ids[glyph] = id
		u.list = append(u.list, glyph)
		u.runes[id] = r
	}
	return id
}

// Marks draws crop marks at the corners of the trim and registration marks at the middle of its sides, in every ink. The bleed has
// to have room for them, 8 millimeters.
func (p *Page) Marks() {
	p.Registration()
	const line, from, to = 0.1, 3, 7.5
	for _, x := range []float64{0, p.width} {
		for _, y := range []float64{0, p.height} {
			out := func(v, side float64) float64 {
				if side == 0 {
					return -v
				}
				return side + v
			}
			p.Line(out(from, x), y, out(to, x), y, line)
			p.Line(x, out(from, y), x, out(to, y), line)
		}
	}
	for _, at := range [][2]float64{{p.width / 2, -5}, {p.width / 2, p.height + 5}, {-5, p.height / 2}, {p.width + 5, p.height / 2}} {
		p.Circle(at[0], at[1], 1.5, line)
		p.Line(at[0]-2.5, at[1], at[0]+2.5, at[1], line)
		p.Line(at[0], at[1]-2.5, at[0], at[1]+2.5, line)
	}
}

// writer numbers objects and remembers where they begin.
type writer struct {
	bytes.Buffer
	offsets []int
}

func (w *writer) begin() int {
	w.offsets = append(w.offsets, w.Len())
	n := len(w.offsets)
	fmt.Fprintf(w, "%d 0 obj\n", n)
	return n
}

func (w *writer) object(text string) int {
	n := w.begin()
	w.WriteString(text + "\nendobj\n")
	return n
}

func (w *writer) stream(dict string, data []byte) int {
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	_, _ = z.Write(data) // a bytes.Buffer takes every write
	_ = z.Close()
	n := w.begin()
	fmt.Fprintf(w, "<<%s/Filter /FlateDecode /Length %d>>\nstream\n", dict, packed.Len())
	w.Write(packed.Bytes())
	w.WriteString("\nendstream\nendobj\n")
	return n
}

// Bytes is the document as a file.
func (d *Document) Bytes() ([]byte, error) {
	w := &writer{}
	w.WriteString("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	resources := "<<"
	if len(d.fonts) > 0 {
		resources += "/Font <<"
		for i, f := range d.fonts {
			n, err := w.font(i, f)
			if err != nil {
				return nil, err
			}
			resources += fmt.Sprintf("/F%d %d 0 R ", i+1, n)
		}
		resources += ">> "
	}
	resources += "/ColorSpace <<"
	for i, s := range d.spots {
		resources += fmt.Sprintf("/S%d %d 0 R ", i+1, w.object(separation(s.name, s.alt)))
	}
	resources += fmt.Sprintf("/All %d 0 R >>>>", w.object(separation("All", color.CMYK{C: 100, M: 100, Y: 100, K: 100})))
	shared := w.object(resources)
	// The tree of pages comes behind the pages, each of which takes two objects.
	root := len(w.offsets) + 2*len(d.pages) + 1
	kids := ""
	for _, p := range d.pages {
		content := w.stream("", p.content.Bytes())
		b := p.bleed * point
		media := numbers(0, 0, p.width*point+2*b, p.height*point+2*b)
		boxes := "/MediaBox [" + media + "]"
		if b > 0 {
			trim := numbers(b, b, b+p.width*point, b+p.height*point)
			boxes += "/TrimBox [" + trim + "]/BleedBox [" + media + "]"
		}
		kids += fmt.Sprintf("%d 0 R ",
			w.object(fmt.Sprintf("<</Type /Page /Parent %d 0 R %s /Resources %d 0 R /Contents %d 0 R>>", root, boxes, shared, content)))
	}
	w.object(fmt.Sprintf("<</Type /Pages /Count %d /Kids [%s]>>", len(d.pages), kids))
	catalog := fmt.Sprintf("<</Type /Catalog /Pages %d 0 R", root)
	if d.intent != nil {
		profile := w.stream("/N 4 ", d.intent.profile)
		n := w.object(fmt.Sprintf("<</Type /OutputIntent /S /GTS_PDFX /OutputConditionIdentifier %s /OutputCondition %s /Info %s /DestOutputProfile %d 0 R>>",
			text(d.intent.condition), text(d.intent.condition), text(d.intent.condition), profile))
		catalog += fmt.Sprintf(" /OutputIntents [%d 0 R]", n)
	}
	top := w.object(catalog + ">>")
	info := "<</Producer (Hue Keep) /Title " + text(d.Title) + " /Author " + text(d.Author)
	if !d.At.IsZero() {
		info += " /CreationDate (D:" + d.At.UTC().Format("20060102150405") + "Z)"
	}
	about := w.object(info + " /Trapped /False>>")
	at := w.Len()
	fmt.Fprintf(w, "xref\n0 %d\n0000000000 65535 f \n", len(w.offsets)+1)
	for _, o := range w.offsets {
		fmt.Fprintf(w, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(w, "trailer\n<</Size %d /Root %d 0 R /Info %d 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(w.offsets)+1, top, about, at)
	return w.Buffer.Bytes(), nil
}

// separation is a color space of one ink (ISO 32000-1, 8.6.6.4); its alternate grows in proportion to the tint.
func separation(ink string, alt color.CMYK) string {
	return fmt.Sprintf("[/Separation /%s /DeviceCMYK <</FunctionType 2 /Domain [0 1] /Range [0 1 0 1 0 1 0 1] /C0 [0 0 0 0] /C1 [%s] /N 1>>]",
		name(ink), numbers(alt.C/100, alt.M/100, alt.Y/100, alt.K/100))
}

// name writes a PDF name: what is not a plain character as its hexadecimal code (ISO 32000-1, 7.3.5).
func name(s string) string {
	var b strings.Builder
	for _, c := range []byte(s) {
		if c >= '0' && c <= '9' || c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c == '-' || c == '_' || c == '.' {
			b.WriteByte(c)
		} else {
			fmt.Fprintf(&b, "#%02X", c)
		}
	}
	return b.String()
}

// text writes a text string in UTF-16 (ISO 32000-1, 7.9.2.2).
func text(s string) string {
	var b strings.Builder
	b.WriteString("<FEFF")
	for _, u := range utf16.Encode([]rune(s)) {
		fmt.Fprintf(&b, "%04X", u)
	}
	return b.String() + ">"
}

// font writes a subset of a font as a composite font (ISO 32000-1, 9.7).
func (w *writer) font(index int, u *used) (int, error) {
	subset, err := u.SFNT().Subset(append([]uint16(nil), u.list...), font.SubsetOptions{Tables: font.KeepPDFTables})
	if err != nil {
		return 0, fmt.Errorf("the font %s cannot be embedded: %w", u.Name, err)
	}
	s := u.SFNT()
	scale := func(v int16) float64 { return float64(v) * 1000 / float64(s.Head.UnitsPerEm) }
	base := fmt.Sprintf("%s+%s", tag(index), name(u.Name))
	file := w.stream("", timeless(subset.Write()))
	descriptor := w.object(fmt.Sprintf("<</Type /FontDescriptor /FontName /%s /Flags 4 /FontBBox [%s] /ItalicAngle 0 /Ascent %s /Descent %s /CapHeight %s /StemV 80 /FontFile2 %d 0 R>>",
		base, numbers(scale(s.Head.XMin), scale(s.Head.YMin), scale(s.Head.XMax), scale(s.Head.YMax)), number(scale(s.Hhea.Ascender)),
		number(scale(s.Hhea.Descender)), number(scale(s.Hhea.Ascender)), file))
	var widths, unicode strings.Builder
	for id, g := range u.list {
		fmt.Fprintf(&widths, "%s ", number(u.Advance(g)))
		if r, ok := u.runes[id]; ok {
			fmt.Fprintf(&unicode, "<%04X> <", id)
			for _, v := range utf16.Encode([]rune{r}) {
				fmt.Fprintf(&unicode, "%04X", v)
			}
			unicode.WriteString(">\n")
		}
	}
	descendant := w.object(fmt.Sprintf("<</Type /Font /Subtype /CIDFontType2 /BaseFont /%s /CIDSystemInfo <</Registry (Adobe) /Ordering (Identity) /Supplement 0>> /FontDescriptor %d 0 R /W [0 [%s]] /CIDToGIDMap /Identity>>",
		base, descriptor, widths.String()))
	lines := strings.SplitAfter(strings.TrimSuffix(unicode.String(), "\n"), "\n")
	cmap := "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n/CIDSystemInfo <</Registry (Adobe) /Ordering (UCS) /Supplement 0>> def\n/CMapName /Adobe-Identity-UCS def\n/CMapType 2 def\n1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
	for len(lines) > 0 {
		n := min(100, len(lines)) // at most as many in one block
		cmap += fmt.Sprintf("%d beginbfchar\n%s\nendbfchar\n", n, strings.TrimSuffix(strings.Join(lines[:n], ""), "\n"))
		lines = lines[n:]
	}
	back := w.stream("", []byte(cmap+"endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"))
	return w.object(fmt.Sprintf("<</Type /Font /Subtype /Type0 /BaseFont /%s /Encoding /Identity-H /DescendantFonts [%d 0 R] /ToUnicode %d 0 R>>", base, descendant, back)), nil
}

// timeless sets the time at which a TrueType file says that it was changed to nothing, with the checksums that follow, so that the same
// document is the same file (OpenType 1.9, head).
func timeless(ttf []byte) []byte {
	sum := func(data []byte) (s uint32) {
		for len(data) > 0 {
			var word [4]byte
			n := copy(word[:], data)
			s += binary.BigEndian.Uint32(word[:])
			data = data[n:]
		}
		return s
	}
	tables := int(binary.BigEndian.Uint16(ttf[4:]))
	for i := range tables {
		entry := ttf[12+16*i:]
		if string(entry[:4]) != "head" {
			continue
		}
		head := ttf[binary.BigEndian.Uint32(entry[8:]):][:binary.BigEndian.Uint32(entry[12:])]
		const adjustment, modified = 8, 28
		binary.BigEndian.PutUint32(head[adjustment:], 0)
		binary.BigEndian.PutUint64(head[modified:], 0)
		binary.BigEndian.PutUint32(entry[4:], sum(head))
		binary.BigEndian.PutUint32(head[adjustment:], 0xB1B0AFBA-sum(ttf))
	}
	return ttf
}

// tag is the six letters in front of the name of a subset.
func tag(index int) string {
	out := []byte("HUEAAA")
	for i := 5; i > 2; i-- {
		out[i] += byte(index % 26)
		index /= 26
	}
	return string(out)
}
