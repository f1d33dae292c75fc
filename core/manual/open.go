package manual

import (
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/pdfpage"
)

// openStyle is what a style of an open document says, with what it takes over of others.
type openStyle struct {
	style
	ground *color.RGB8 // of a cell or a shape
}

// open lays out an open document (OASIS OpenDocument 1.3).
type open struct{ styles map[string]openStyle }

// openPages lays out the text of a document, or the pages of a presentation or drawing.
func openPages(content, styles *node, text bool) (out []Page) {
	o := &open{map[string]openStyle{}}
	for _, top := range []*node{styles, content} {
		for _, part := range []string{"styles", "automatic-styles"} {
			if list := top.find(part); list != nil {
				o.read(list)
			}
		}
	}
	body := content.find("body")
	if body == nil {
		return nil
	}
	if text {
		f := newFlow()
		o.flow(f, body.find("text"))
		return []Page{f.done()}
	}
	n := 0
	var pages func(n *node)
	pages = func(at *node) {
		for _, k := range at.kids {
			if k.name != "page" {
				pages(k)
				continue
			}
			n++
			p := &Page{Number: n, Sheet: "slide", Width: 960, Height: 720}
			o.shapes(p, k)
			out = append(out, *p)
		}
	}
	pages(body)
	return out
}

func (o *open) read(list *node) {
	for _, s := range list.kids {
		if s.name != "style" {
			continue
		}
		of := o.styles[s.get("parent-style-name")]
		if p := s.kid("text-properties"); p != nil {
			if size := length(p.get("font-size")); size > 2 {
				of.size = size
			}
			if w := p.get("font-weight"); w != "" {
				of.bold = w == "bold" || w >= "600" && w <= "900" && len(w) == 3
			}
			if c := hex(p.get("background-color")); c != nil {
				of.fill = c
			}
		}
		for _, props := range []string{"table-cell-properties", "graphic-properties", "paragraph-properties"} {
			p := s.kid(props)
			for _, attr := range []string{"background-color", "fill-color"} {
				if c := hex(p.get(attr)); c != nil && p.get("fill") != "none" {
					of.ground = c
				}
			}
		}
		o.styles[s.get("name")] = of
	}
}

var measure = regexp.MustCompile(`^(-?[\d.]+)(pt|cm|mm|in|px)$`)

// length is one in points; 0 for what is none.
func length(text string) float64 {
	m := measure.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0
	}
	v, _ := strconv.ParseFloat(m[1], 64)
	return v * map[string]float64{"pt": 1, "cm": 72 / 2.54, "mm": 72 / 25.4, "in": 72, "px": 0.75}[m[2]]
}

func (o *open) styleOf(n *node, within style) style {
	of, ok := o.styles[n.get("style-name")]
	if !ok {
		return within
	}
	if of.size > 0 {
		within.size = of.size
	}
	within.bold = within.bold || of.bold
	if of.fill != nil {
		within.fill = of.fill
	}
	return within
}

// flow writes paragraphs, lists and tables.
func (o *open) flow(f *flow, n *node) {
	if n == nil {
		return
	}
	for _, k := range n.kids {
		switch k.name {
		case "p", "h":
			s := style{size: 12}
			if k.name == "h" {
				s.size, s.bold = 15, true
				f.gap(8)
			}
			s = o.styleOf(k, s)
			if g := o.styles[k.get("style-name")].ground; g != nil {
				s.fill = g
			}
			o.inline(f, k, s)
			f.end(s)
			o.drawings(f, k)
		case "table":
			var rows [][]cell
			o.rows(k, &rows)
			f.table(rows)
		case "list", "list-item", "section", "list-header", "text-box":
			o.flow(f, k)
		case "frame", "custom-shape", "rect", "g":
			o.drawings(f, &node{kids: []*node{k}})
		}
	}
}

func (o *open) rows(table *node, rows *[][]cell) {
	for _, k := range table.kids {
		switch k.name {
		case "table-row":
			var row []cell
			for _, c := range k.kids {
				if c.name == "table-cell" || c.name == "covered-table-cell" {
					row = append(row, cell{o.styles[c.get("style-name")].ground, func(in *flow) { o.flow(in, c) }})
				}
			}
			*rows = append(*rows, row)
		case "table-header-rows", "table-rows", "table-row-group":
			o.rows(k, rows)
		}
	}
}

func (o *open) inline(f *flow, n *node, s style) {
	for _, k := range n.kids {
		switch k.name {
		case "":
			f.write(strings.NewReplacer("\n", " ", "\t", " ").Replace(k.text), s)
		case "span", "a":
			o.inline(f, k, o.styleOf(k, s))
		case "tab":
			f.write("\t", s)
		case "line-break":
			f.write("\n", s)
		case "s":
			f.write(strings.Repeat(" ", max(1, min(80, int(k.number("c"))))), s)
		}
	}
}

// drawings writes what is anchored in a paragraph under it.
func (o *open) drawings(f *flow, n *node) {
	for _, k := range n.kids {
		switch k.name {
		case "custom-shape", "rect", "circle", "ellipse", "frame":
			if g := o.styles[k.get("style-name")].ground; g != nil {
				f.area(*g, 60, 24)
			}
			o.flow(f, k)
		case "g", "span":
			o.drawings(f, k)
		}
	}
}

// shapes lays out the shapes of a page where they stand.
func (o *open) shapes(p *Page, n *node) {
	for _, k := range n.kids {
		switch k.name {
		case "g":
			o.shapes(p, k)
		case "frame", "custom-shape", "rect", "circle", "ellipse", "path", "polygon":
			x, y := length(k.get("x")), length(k.get("y"))
			box := pdfpage.Box{X0: x, Y0: y, X1: x + length(k.get("width")), Y1: y + length(k.get("height"))}
			if g := o.styles[k.get("style-name")].ground; g != nil {
				p.Areas = append(p.Areas, pdfpage.Area{Box: box, RGB: *g})
			}
			o.flow(&flow{page: p, x: x + 7, from: x + 7, y: y + 4, width: box.Width()}, k)
		}
	}
}
