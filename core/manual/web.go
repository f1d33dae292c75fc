package manual

import (
	"regexp"
	"strings"

	"huekeep/core/color"
)

// inlineTags are elements of HTML that stand within a line.
var inlineTags = map[string]bool{"": true}

func init() {
	for _, t := range strings.Fields("a abbr b bdi bdo cite code data del dfn em font i ins kbd label mark q s samp small span strong sub sup time tt u var wbr") {
		inlineTags[t] = true
	}
}

// unseen are elements of HTML that are not shown as text.
var unseen = map[string]bool{"script": true, "style": true, "head": true, "template": true, "noscript": true, "svg": true, "iframe": true,
	"select": true, "textarea": true}

var (
	backgroundOf = regexp.MustCompile(`(?i)(?:^|;)\s*background(?:-color)?\s*:\s*([^;]+)`)
	blockOf      = regexp.MustCompile(`(?i)(?:^|;)\s*display\s*:\s*(?:inline-)?(?:block|flex|grid)`)
)

// ground is the color behind an element, of its own attributes.
func ground(n *node) *color.RGB8 {
	if m := backgroundOf.FindStringSubmatch(n.get("style")); m != nil {
		if t, err := color.ParseCSS(strings.TrimSpace(m[1])); err == nil && t.Alpha == 1 {
			c := t.RGB8()
			return &c
		}
	}
	if bg := n.get("bgcolor"); bg != "" {
		if t, err := color.ParseCSS(bg); err == nil {
			c := t.RGB8()
			return &c
		}
	}
	return nil
}

// webPage lays out a page of HTML.
func webPage(top *node) Page {
	f := newFlow()
	f.web(top, style{size: 12})
	if len(f.line) > 0 {
		f.end(style{size: 12})
	}
	return f.done()
}

// broken ends the line that was begun.
func (f *flow) broken(s style) {
	if len(f.line) > 0 {
		f.end(s)
	}
}

func (f *flow) web(n *node, s style) {
	for _, k := range n.kids {
		if unseen[k.name] {
			continue
		}
		in := s
		switch k.name {
		case "":
			if len(f.line) > 0 || strings.TrimSpace(k.text) != "" {
				f.write(k.text, s)
			}
			continue
		case "br":
			f.end(s)
			continue
		case "b", "strong", "th":
			in.bold = true
		case "small":
			in.size *= 0.85
		case "h1", "h2", "h3", "h4", "h5", "h6":
			in.size, in.bold = map[byte]float64{'1': 20, '2': 16, '3': 14}[k.name[1]], true
			in.size = max(in.size, 12)
			f.broken(s)
			f.gap(6)
		case "table":
			f.broken(s)
			var rows [][]cell
			webRows(k, &rows, s)
			f.table(rows)
			continue
		}
		g := ground(k)
		if inlineTags[k.name] && !blockOf.MatchString(k.get("style")) && (g == nil || k.hasText()) {
			in.fill = g
			f.web(k, in)
			continue
		}
		f.broken(s)
		if g != nil && !k.hasText() {
			f.area(*g, 60, 24)
			continue
		}
		from := f.y
		f.web(k, in)
		f.broken(in)
		if g != nil && f.y > from {
			height := f.y - from
			f.y = from
			f.area(*g, f.width, height)
		}
		if k.name == "div" || k.name == "section" || k.name == "article" || k.name == "p" || k.name == "li" {
			f.gap(3)
		}
	}
}

func (n *node) hasText() bool {
	if strings.TrimSpace(strings.ReplaceAll(n.text, "\u00a0", " ")) != "" {
		return true
	}
	for _, k := range n.kids {
		if k.hasText() {
			return true
		}
	}
	return false
}

func webRows(n *node, rows *[][]cell, s style) {
	for _, k := range n.kids {
		if k.name != "tr" {
			if k.name == "thead" || k.name == "tbody" || k.name == "tfoot" {
				webRows(k, rows, s)
			}
			continue
		}
		var row []cell
		for _, c := range k.kids {
			if c.name != "td" && c.name != "th" {
				continue
			}
			in := s
			in.bold = c.name == "th"
			fill := ground(c)
			if fill == nil { // a block that fills the cell
				for _, b := range c.kids {
					if g := ground(b); g != nil && !b.hasText() {
						fill = g
					}
				}
			}
			row = append(row, cell{fill, func(f *flow) {
				f.web(&node{kids: c.texted()}, in)
				f.broken(in)
			}})
		}
		*rows = append(*rows, row)
	}
}

// texted are the children but for blocks without text.
func (n *node) texted() (out []*node) {
	for _, k := range n.kids {
		if k.hasText() || k.name == "br" {
			out = append(out, k)
		}
	}
	return out
}
