package audit

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/markup"
	"huekeep/core/source"
)

func scanSVG(s *scanner, p *source.Part, name string) (string, error) {
	p, data, err := decoded(p)
	if err != nil {
		return "", err
	}
	d := svg{scanner: s, part: p, name: name, lines: newLines(data)}
	if err := d.read(data); err != nil {
		return "", err
	}
	if d.invisible > 0 {
		s.note("%s fully transparent and not counted.", pluralAre(d.invisible, "use"))
	}
	return plural(d.elements, "element"), nil
}

// svg is a drawing while it is read.
type svg struct {
	*scanner
	part      *source.Part
	name      string
	lines     *lines
	elements  int
	entityAt  map[string]source.Span
	invisible int
	hidden    int // depth of an element that is fully transparent, 0 for none
}

// colorAttribute says whether a presentation attribute of SVG 2 takes a color.
func colorAttribute(name string) bool {
	switch name {
	case "fill", "stroke", "color", "stop-color", "flood-color", "lighting-color", "solid-color", "text-decoration-color":
		return true
	}
	return false
}

func (d *svg) read(data []byte) error {
	r := markup.NewReader(data)
	style := false
	for n := 1; ; n++ {
		if n%nowAndThen == 0 {
			if err := d.Watch.read(r.Start, len(data)); err != nil {
				return err
			}
			if d.tally.full {
				return d.tally.check()
			}
		}
		e, err := r.Next()
		if err != nil {
			return err
		}
		switch e {
		case markup.End:
			return nil
		case markup.Doctype:
			if err := d.doctype(r); err != nil {
				return err
			}
		case markup.Open:
			if d.elements++; d.elements > limits.Elements {
				return fmt.Errorf("it has over %d elements", limits.Elements)
			}
			if err := d.known(r, data[r.Start:r.End]); err != nil {
				return err
			}
			d.element(r)
			style = string(markup.Local(r.Name)) == "style" && !r.Empty
		case markup.Text:
			if !r.CDATA {
				if err := d.known(r, data[r.Start:r.End]); err != nil {
					return err
				}
			}
			if style {
				if err := d.style(r); err != nil {
					return err
				}
			}
		case markup.Close:
			style = false
			if d.hidden > r.Depth() {
				d.hidden = 0
			}
		}
	}
}

func (d *svg) known(r *markup.Reader, raw []byte) error {
	if unknown, ok := r.Known(raw); !ok {
		line, _ := d.lines.at(r.Start)
		return fmt.Errorf("line %d is not well-formed XML (invalid character entity %s)", line, unknown)
	}
	return nil
}

// doctype reads the entities that are declared, and where their values stand.
func (d *svg) doctype(r *markup.Reader) error {
	text := r.Data[r.Start:r.End]
	found, err := entities(text, r.Data)
	if err != nil {
		line, _ := d.lines.at(r.Start)
		return fmt.Errorf("line %d %w", line, err)
	}
	r.Entities = found
	d.entityAt = map[string]source.Span{}
	for name := range found {
		at := regexp.MustCompile(`<!ENTITY\s+` + regexp.QuoteMeta(name) + `\s+["']`).FindIndex(text)
		if at != nil {
			d.entityAt[name] = source.Span{Part: d.part, Start: r.Start + at[1], End: r.Start + at[1] + len(found[name])}
		}
	}
	return nil
}

// style reads a style sheet inside of the drawing.
func (d *svg) style(r *markup.Reader) error {
	line, column := d.lines.at(r.Start)
	sheet := d.sheet(d.part, d.name, "")
	raw := r.Data[r.Start:r.End]
	if !r.CDATA && strings.Contains(string(raw), "&") {
		in := d.unescaped(r.Start, r.End, []byte(r.Decode(raw)))
		sheet.part = in
		data, _ := in.Bytes()
		return sheet.read(0, len(data), line, column)
	}
	return sheet.read(r.Start, r.End, line, column)
}

// paintsElement says whether an element may have anything to do with color, which most of a drawing's have not.
func paintsElement(r *markup.Reader) bool {
	for _, a := range r.Attrs {
		n := markup.Local(a.Name)
		switch string(n) {
		case "style", "from", "to", "by", "values", "href", "opacity":
			return true
		}
		if colorAttribute(string(n)) && string(r.Data[a.Start:a.End]) != "none" {
			return true
		}
	}
	return false
}

func (d *svg) element(r *markup.Reader) {
	if !paintsElement(r) {
		return
	}
	label := string(markup.Local(r.Name))
	animated := ""
	plain := label
	var opacity map[string]float64
	for _, a := range r.Attrs {
		switch n := string(markup.Local(a.Name)); {
		case n == "id" && string(a.Name) == "id":
			label += "#" + shorten(r.Value(a), 40)
		case n == "attributeName":
			animated = r.Value(a)
		case n == "opacity" || strings.HasSuffix(n, "-opacity"):
			if v, ok := color.Opacity(r.Value(a)); ok {
				if opacity == nil {
					opacity = map[string]float64{}
				}
				opacity[n] = v
			}
		}
	}
	if v, ok := opacity["opacity"]; ok && v == 0 && d.hidden == 0 && plain != "animate" {
		d.hidden = r.Depth()
	}
	line, column := d.lines.at(r.Start)
	where := func(what string) string {
		return d.name + " " + strconv.Itoa(line) + ":" + strconv.Itoa(column) + ", " + label + ", " + what
	}
	attr := &sheet{scanner: d.scanner, part: d.part, vars: d.vars, attribute: true}
	for _, a := range r.Attrs {
		name := string(markup.Local(a.Name))
		raw := string(r.Data[a.Start:a.End])
		var place string
		alpha := 1.0
		switch {
		case colorAttribute(name):
			place = where(name)
			own := name + "-opacity"
			if name == "stop-color" || name == "flood-color" {
				own = strings.TrimSuffix(name, "color") + "opacity"
			}
			for _, o := range []string{"opacity", own} {
				if v, ok := opacity[o]; ok {
					alpha *= v
				}
			}
		case name == "style":
			at := a.Start
			part := d.part
			if strings.Contains(raw, "&") {
				part = d.unescaped(a.Start, a.End, []byte(r.Value(a)))
				raw, at = r.Value(a), 0
			}
			// A style attribute has the grammar of a rule's body; its places are those of its element.
			in := &sheet{scanner: d.scanner, part: part, vars: d.vars, where: func(_, _ int, property string) string { return where("style " + property) }}
			if err := in.readText([]byte(raw), at, line, column); err != nil {
				d.unread(where("style"), err)
			}
			continue
		case (name == "from" || name == "to" || name == "by" || name == "values") && colorAttribute(animated):
			place = where("animated " + animated)
		case name == "href" && strings.HasPrefix(strings.TrimSpace(raw), "data:"):
			uri := strings.TrimSpace(raw)
			at := a.Start + strings.Index(raw, uri)
			d.dataURI(d.part, at, at+len(uri), uri, fmt.Sprintf("%s %d:%d", d.name, line, column))
			continue
		default:
			continue
		}
		if alpha == 0 || d.hidden > 0 {
			if v := strings.TrimSpace(raw); v != "none" && v != "" {
				d.invisible++
			}
			continue
		}
		attr.where = func(int, int, string) string { return place }
		if strings.HasPrefix(raw, "&") {
			d.entity(r, raw, place)
			continue
		}
		attr.value(raw, a.Start, line, column, name, alpha)
	}
}

// unescaped is a piece of the drawing without its references, as a part of its own.
func (d *svg) unescaped(from, to int, text []byte) *source.Part {
	return d.part.Recoded(from, to, text, func(data []byte) ([]byte, error) {
		return []byte(strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;", "'", "&apos;").Replace(string(data))), nil
	})
}

// entity reads a color that is written as an entity: it stands where the entity is declared.
func (d *svg) entity(r *markup.Reader, raw, place string) {
	name := strings.TrimSuffix(strings.TrimPrefix(raw, "&"), ";")
	text := r.Decode([]byte(raw))
	c, err := color.ParseCSS(text)
	if err != nil || c.Alpha == 0 {
		return
	}
	u := Use{Value: text, Color: colorOf(c), Alpha: c.Alpha, Where: place, Form: form.CSS}
	if at, ok := d.entityAt[name]; ok {
		u.At = []source.Span{at}
	} else {
		u.Form, u.Fixed = nil, "it is written as a reference to a character"
	}
	d.add(u)
}

// value reads one value that is not in a rule, as attributes have it.
func (s *sheet) value(text string, at, line, column int, context string, alpha float64) {
	s.valueOf(text, at, line, column, context, alpha, true)
}

// valueOf is value where words are color names only if names says so.
func (s *sheet) valueOf(text string, at, line, column int, context string, alpha float64, names bool) {
	if rgb, ok := sixDigits(text); ok && alpha > 0 { // as most are
		t := []token{{css.HashToken, text, at, line, column}}
		v := valueReader{sheet: s, property: context, context: context, fade: alpha, whole: t}
		v.found(color.Typed{RGB: rgb.RGB(), Alpha: 1}, t)
		return
	}
	if text == "none" {
		return
	}
	lex := css.NewLexer(parse.NewInputBytes([]byte(text)))
	var t []token
	for {
		kind, text := lex.Next()
		if kind == css.ErrorToken || len(t) > limits.Statement {
			break
		}
		if kind != css.CommentToken {
			t = append(t, token{kind, string(text), at, line, column})
		}
		at += len(text)
		column += utf8.RuneCount(text)
	}
	v := valueReader{sheet: s, property: context, context: context, names: names, fade: alpha}
	v.whole = trimSpace(t)
	v.read(v.whole)
}

// sixDigits reads "#e2572b".
func sixDigits(s string) (color.RGB8, bool) {
	if len(s) != 7 || s[0] != '#' {
		return color.RGB8{}, false
	}
	c, err := color.FromHex(s)
	return c, err == nil
}
