package manual

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/markup"
	"huekeep/core/pdfpage"
	"huekeep/core/source"
)

// Documents, presentations and pages say what stands where by their elements: paragraphs follow each other, cells stand in rows and
// columns, shapes of a slide where it says. That is laid out here roughly, as far as it tells what belongs together.

// node is an element of a document, by its name without prefix.
type node struct {
	name  string
	attrs map[string]string
	kids  []*node
	text  string // of a piece of text, which has no name
}

// mostNodes is how many elements and pieces of text of a document are looked at.
const mostNodes = 400_000

var errLarge = errors.New("it is too large to look for what is written in it")

// treeOf reads XML.
func treeOf(data []byte) (*node, error) {
	r := markup.NewReader(data)
	top := &node{}
	open := []*node{top}
	for n := 0; n < mostNodes; n++ {
		e, err := r.Next()
		at := open[len(open)-1]
		switch {
		case err != nil:
			return nil, err
		case e == markup.End:
			return top, nil
		case e == markup.Open:
			el := &node{name: string(markup.Local(r.Name)), attrs: map[string]string{}}
			for _, a := range r.Attrs {
				el.attrs[string(markup.Local(a.Name))] = r.Value(a)
			}
			at.kids = append(at.kids, el)
			open = append(open, el)
		case e == markup.Close:
			open = open[:len(open)-1]
		case e == markup.Text:
			text := string(r.Data[r.Start:r.End])
			if !r.CDATA {
				text = r.Decode(r.Data[r.Start:r.End])
			}
			at.kids = append(at.kids, &node{text: text})
		}
	}
	return nil, errLarge
}

// pageOf reads HTML.
func pageOf(data []byte) (*node, error) {
	doc, err := html.Parse(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	left := mostNodes
	var convert func(h *html.Node, depth int) *node
	convert = func(h *html.Node, depth int) *node {
		n := &node{attrs: map[string]string{}}
		switch h.Type {
		case html.TextNode:
			n.text = strings.Join(strings.Fields(" "+h.Data+" "), " ")
			if n.text != "" {
				n.text = edge(h.Data, 0) + n.text + edge(h.Data, len(h.Data)-1)
			}
			return n
		case html.ElementNode:
			n.name = h.Data
			for _, a := range h.Attr {
				n.attrs[a.Key] = a.Val
			}
		}
		for k := h.FirstChild; k != nil && left > 0 && depth < 200; k = k.NextSibling {
			left--
			n.kids = append(n.kids, convert(k, depth+1))
		}
		return n
	}
	top := convert(doc, 0)
	if left == 0 {
		return nil, errLarge
	}
	return top, nil
}

// edge is a space where a text begins or ends with one.
func edge(text string, at int) string {
	if strings.ContainsRune(" \n\t\r", rune(text[at])) {
		return " "
	}
	return ""
}

// find is the first element of a name, the node itself or below it; nil for none.
func (n *node) find(name string) *node {
	if n == nil || n.name == name {
		return n
	}
	for _, k := range n.kids {
		if f := k.find(name); f != nil {
			return f
		}
	}
	return nil
}

// kid is the first child of one of these names.
func (n *node) kid(path ...string) *node {
	for _, name := range path {
		if n == nil {
			return nil
		}
		i := slices.IndexFunc(n.kids, func(k *node) bool { return k.name == name })
		if i < 0 {
			return nil
		}
		n = n.kids[i]
	}
	return n
}

func (n *node) get(attr string) string {
	if n == nil {
		return ""
	}
	return n.attrs[attr]
}

// style is how text is set.
type style struct {
	size float64
	bold bool
	fill *color.RGB8 // behind it
}

// flow lays out what follows each other, from top to bottom.
type flow struct {
	page  *Page
	x, y  float64
	width float64
	line  []pdfpage.Words // of the paragraph that is written
	from  float64         // where its next piece begins
}

const (
	paperWidth = 595.0 // of a page, in points
	margin     = 50.0
	tabStop    = 100.0
	narrow     = 0.52 // of a letter, in the size of its type
)

// write adds text to the line; tabs part its pieces, line feeds end it.
func (f *flow) write(text string, s style) {
	for i, line := range strings.Split(text, "\n") {
		if i > 0 {
			f.end(s)
		}
		for k, piece := range strings.Split(line, "\t") {
			if k > 0 {
				f.from = (float64(int((f.from-f.x)/tabStop)) + 1) * tabStop
				f.from += f.x
			}
			f.piece(piece, s, k > 0)
		}
	}
}

func (f *flow) piece(text string, s style, apart bool) {
	w := float64(len([]rune(text))) * s.size * narrow
	box := pdfpage.Box{X0: f.from, Y0: f.y, X1: f.from + w, Y1: f.y + 1.2*s.size}
	if s.fill != nil && text != "" {
		f.page.Areas = append(f.page.Areas, pdfpage.Area{Box: box, RGB: *s.fill})
	}
	f.from += w
	if n := len(f.line); n > 0 && !apart {
		last := &f.line[n-1]
		last.Text += text
		last.Box = last.With(box)
		last.Size, last.Bold = max(last.Size, s.size), last.Bold || s.bold
		return
	}
	f.line = append(f.line, pdfpage.Words{Box: box, Text: text, Size: s.size, Bold: s.bold})
}

// end ends a line; an empty one leaves a gap.
func (f *flow) end(s style) {
	height := 1.2 * s.size
	for _, w := range f.line {
		w.Text = strings.TrimSpace(w.Text)
		if w.Text != "" {
			f.page.Words = append(f.page.Words, w)
		}
		height = max(height, w.Height())
	}
	f.y += height
	f.line, f.from = nil, f.x
}

// gap leaves space between what does not belong together.
func (f *flow) gap(points float64) {
	f.y += points
}

// area adds a painted block of its own, as a swatch.
func (f *flow) area(c color.RGB8, width, height float64) {
	f.page.Areas = append(f.page.Areas, pdfpage.Area{Box: pdfpage.Box{X0: f.x, Y0: f.y, X1: f.x + width, Y1: f.y + height}, RGB: c})
	f.y += height
}

// cell is one of a table.
type cell struct {
	fill  *color.RGB8
	write func(*flow)
}

// table lays out rows of cells.
func (f *flow) table(rows [][]cell) {
	columns := 0
	for _, r := range rows {
		columns = max(columns, len(r))
	}
	if columns == 0 {
		return
	}
	w := f.width / float64(columns)
	f.gap(6)
	for _, r := range rows {
		bottom := f.y
		for i, c := range r {
			in := &flow{page: f.page, x: f.x + float64(i)*w, from: f.x + float64(i)*w, y: f.y, width: w}
			c.write(in)
			bottom = max(bottom, in.y)
		}
		for i, c := range r {
			if c.fill != nil {
				at := f.x + float64(i)*w
				f.page.Areas = append(f.page.Areas, pdfpage.Area{Box: pdfpage.Box{X0: at, Y0: f.y, X1: at + w, Y1: max(bottom, f.y+14)},
					RGB: *c.fill})
			}
		}
		f.y = max(bottom, f.y+14) + 8
	}
	f.gap(8)
}

// hex is a color as documents write it, with or without its mark.
func hex(text string) *color.RGB8 {
	t, err := color.ParseCSS("#" + strings.TrimPrefix(strings.TrimSpace(text), "#"))
	if err != nil || t.Alpha < 1 {
		return nil
	}
	c := t.RGB8()
	return &c
}

// FromParts reads a document of an open format by its parts.
func FromParts(kind string, root *source.Part, book *ink.Book) (m Manual, err error) {
	data, err := root.Bytes()
	if err != nil {
		return m, err
	}
	part := func(name string) (*node, error) {
		p := root.Find(name)
		if p == nil {
			return nil, fmt.Errorf("it has no part %s", name)
		}
		b, err := p.Bytes()
		if err != nil {
			return nil, err
		}
		defer p.Release()
		return treeOf(b)
	}
	var pages []Page
	switch kind {
	case "html":
		top, err := pageOf(data)
		if err != nil {
			return m, err
		}
		pages = []Page{webPage(top)}
	case "docx":
		top, err := part("word/document.xml")
		if err != nil {
			return m, err
		}
		pages = []Page{wordPage(top.find("body"))}
	case "pptx":
		names, err := slides(root)
		if err != nil {
			return m, err
		}
		for i, name := range names {
			top, err := part(name)
			if err != nil {
				return m, err
			}
			pages = append(pages, slidePage(top, i+1))
		}
	case "odt", "odp", "odg":
		top, err := part("content.xml")
		if err != nil {
			return m, err
		}
		styles, err := part("styles.xml")
		if err != nil {
			styles = &node{}
		}
		pages = openPages(top, styles, kind == "odt")
	}
	pages = slices.DeleteFunc(pages, func(p Page) bool { return !Promising(p.Words, book) })
	m.Colors = Read(pages, book)
	m.most()
	return m, nil
}

// Reads says whether a kind of document, as audits call it, is read for what is written in it.
func Reads(kind string) bool {
	return slices.Contains([]string{"pdf", "html", "docx", "pptx", "odt", "odp", "odg"}, kind)
}

var slideName = regexp.MustCompile(`^ppt/slides/slide(\d+)\.xml$`)

// slides are the parts of a presentation's slides, by their numbers.
func slides(root *source.Part) (out []string, err error) {
	parts, err := root.Parts()
	if err != nil {
		return nil, err
	}
	number := map[string]int{}
	for _, p := range parts {
		if m := slideName.FindStringSubmatch(p.Name); m != nil {
			number[p.Name], _ = strconv.Atoi(m[1])
			out = append(out, p.Name)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return number[a] - number[b] })
	return out, nil
}

func newFlow() *flow {
	return &flow{page: &Page{Width: paperWidth}, x: margin, from: margin, y: margin, width: paperWidth - 2*margin}
}

func (f *flow) done() Page {
	f.page.Height = f.y + margin
	return *f.page
}

// wordPage lays out the body of a text document (ECMA-376 part 1, 17).
func wordPage(body *node) Page {
	f := newFlow()
	if body != nil {
		f.word(body)
	}
	return f.done()
}

func (f *flow) word(n *node) {
	for _, k := range n.kids {
		switch k.name {
		case "p":
			f.wordParagraph(k)
		case "tbl":
			var rows [][]cell
			for _, tr := range k.kids {
				if tr.name != "tr" {
					continue
				}
				var row []cell
				for _, tc := range tr.kids {
					if tc.name == "tc" {
						row = append(row, cell{shade(tc.kid("tcPr", "shd")), func(in *flow) { in.word(tc) }})
					}
				}
				rows = append(rows, row)
			}
			f.table(rows)
		case "sdt", "sdtContent", "smartTag", "ins", "txbxContent":
			f.word(k)
		}
	}
}

// shade is the color of a shading.
func shade(shd *node) *color.RGB8 {
	if v := shd.get("fill"); v != "" && v != "auto" {
		return hex(v)
	}
	return nil
}

func (f *flow) wordParagraph(p *node) {
	s := style{size: 11, fill: shade(p.kid("pPr", "shd"))}
	if name := strings.ToLower(p.kid("pPr", "pStyle").get("val")); strings.Contains(name, "heading") || strings.Contains(name, "title") {
		s.size, s.bold = 15, true
		f.gap(8)
	}
	var boxes []*node
	var runs func(n *node)
	runs = func(n *node) {
		for _, k := range n.kids {
			switch k.name {
			case "r":
				f.wordRun(k, s, &boxes)
			case "hyperlink", "ins", "smartTag", "sdt", "sdtContent":
				runs(k)
			}
		}
	}
	from := f.y
	runs(p)
	f.end(s)
	if f.y-from > 2*1.2*s.size { // lines that are kept together
		f.gap(1.3 * s.size)
	}
	if last := p.kid("pPr", "spacing"); last != nil {
		after, _ := strconv.ParseFloat(last.get("after"), 64)
		f.gap(min(after/20, 30))
	}
	for _, b := range boxes {
		if fill := b.find("spPr").kid("solidFill", "srgbClr"); fill != nil {
			if c := hex(fill.get("val")); c != nil {
				f.area(*c, 60, 24)
			}
		}
		if t := b.find("txbxContent"); t != nil {
			f.word(t)
		}
	}
}

func (f *flow) wordRun(r *node, s style, boxes *[]*node) {
	if pr := r.kid("rPr"); pr != nil {
		if half, err := strconv.ParseFloat(pr.kid("sz").get("val"), 64); err == nil && half > 2 {
			s.size = half / 2
		}
		if b := pr.kid("b"); b != nil {
			s.bold = b.get("val") != "0" && b.get("val") != "false"
		}
		if c := shade(pr.kid("shd")); c != nil {
			s.fill = c
		}
	}
	for _, k := range r.kids {
		switch k.name {
		case "t":
			for _, text := range k.kids {
				f.write(text.text, s)
			}
		case "tab":
			f.write("\t", s)
		case "br", "cr":
			f.write("\n", s)
		case "drawing", "pict", "AlternateContent":
			if shape := k.find("wsp"); shape != nil {
				*boxes = append(*boxes, shape)
			}
		}
	}
}

// slidePage lays out a slide of a presentation (ECMA-376 part 1, 19 and 21).
func slidePage(top *node, number int) Page {
	p := &Page{Number: number, Sheet: "slide", Width: 960, Height: 540}
	if tree := top.find("spTree"); tree != nil {
		shapes(p, tree, place{1, 1, 0, 0})
	}
	return *p
}

// place maps the units of a group to points.
type place struct{ sx, sy, dx, dy float64 }

// emu is how many units a point has.
const emu = 12700

func (n *node) number(attr string) float64 {
	v, _ := strconv.ParseFloat(n.get(attr), 64)
	return v
}

func (pl place) box(xfrm *node) (pdfpage.Box, bool) {
	off, ext := xfrm.kid("off"), xfrm.kid("ext")
	if off == nil || ext == nil {
		return pdfpage.Box{}, false
	}
	x, y := off.number("x")*pl.sx+pl.dx, off.number("y")*pl.sy+pl.dy
	return pdfpage.Box{X0: x / emu, Y0: y / emu, X1: (x + ext.number("cx")*pl.sx) / emu, Y1: (y + ext.number("cy")*pl.sy) / emu}, true
}

func shapes(p *Page, tree *node, pl place) {
	for _, k := range tree.kids {
		switch k.name {
		case "grpSp":
			x := k.kid("grpSpPr", "xfrm")
			inner := pl
			if ch, ext, in := x.kid("chExt"), x.kid("ext"), x.kid("chOff"); ch != nil && ext != nil && in != nil && ch.number("cx") > 0 &&
				ch.number("cy") > 0 {
				off := x.kid("off")
				sx, sy := ext.number("cx")/ch.number("cx"), ext.number("cy")/ch.number("cy")
				inner = place{pl.sx * sx, pl.sy * sy, pl.dx + pl.sx*(off.number("x")-in.number("x")*sx),
					pl.dy + pl.sy*(off.number("y")-in.number("y")*sy)}
			}
			shapes(p, k, inner)
		case "sp":
			box, ok := pl.box(k.kid("spPr", "xfrm"))
			if !ok { // a placeholder stands where its layout says: a title above, as far as is known here
				box = pdfpage.Box{X0: 40, Y0: 10, X1: 900, Y1: 60}
			}
			if c := k.kid("spPr", "solidFill", "srgbClr"); c != nil {
				if rgb := hex(c.get("val")); rgb != nil {
					p.Areas = append(p.Areas, pdfpage.Area{Box: box, RGB: *rgb})
				}
			}
			if t := k.kid("txBody"); t != nil {
				f := &flow{page: p, x: box.X0 + 7, from: box.X0 + 7, y: box.Y0 + 4, width: box.Width()}
				f.drawn(t)
			}
		case "graphicFrame":
			box, ok := pl.box(k.kid("xfrm"))
			if t := k.find("tbl"); t != nil && ok {
				drawnTable(p, t, box)
			}
		}
	}
}

// drawn writes the paragraphs of a shape.
func (f *flow) drawn(body *node) {
	for _, para := range body.kids {
		if para.name != "p" {
			continue
		}
		s := style{size: 18}
		for _, r := range para.kids {
			switch r.name {
			case "r", "fld":
				if pr := r.kid("rPr"); pr != nil {
					if sz := pr.number("sz"); sz > 100 {
						s.size = sz / 100
					}
					s.bold = pr.get("b") == "1" || pr.get("b") == "true"
				}
				for _, t := range r.kid("t").texts() {
					f.write(t, s)
				}
			case "br":
				f.write("\n", s)
			}
		}
		f.end(s)
	}
}

func (n *node) texts() (out []string) {
	if n == nil {
		return nil
	}
	for _, k := range n.kids {
		if k.name == "" {
			out = append(out, k.text)
		}
	}
	return out
}

func drawnTable(p *Page, t *node, box pdfpage.Box) {
	var widths []float64
	for _, c := range t.kid("tblGrid").kidsOf("gridCol") {
		widths = append(widths, c.number("w")/emu)
	}
	y := box.Y0
	for _, tr := range t.kidsOf("tr") {
		height := tr.number("h") / emu
		x, bottom := box.X0, y+height
		for i, tc := range tr.kidsOf("tc") {
			w := 100.0
			if i < len(widths) {
				w = widths[i]
			}
			f := &flow{page: p, x: x + 7, from: x + 7, y: y + 4, width: w}
			if body := tc.kid("txBody"); body != nil {
				f.drawn(body)
			}
			bottom = max(bottom, f.y)
			if c := tc.kid("tcPr", "solidFill", "srgbClr"); c != nil {
				if rgb := hex(c.get("val")); rgb != nil {
					p.Areas = append(p.Areas, pdfpage.Area{Box: pdfpage.Box{X0: x, Y0: y, X1: x + w, Y1: y + height}, RGB: *rgb})
				}
			}
			x += w
		}
		y = bottom
	}
}

func (n *node) kidsOf(name string) (out []*node) {
	if n == nil {
		return nil
	}
	for _, k := range n.kids {
		if k.name == name {
			out = append(out, k)
		}
	}
	return out
}
