package web

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/markup"
	"huekeep/core/source"
)

// ScanSVG reads a drawing (SVG 2).
func ScanSVG(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	p, data, err := scanning.Decoded(p)
	if err != nil {
		return "", err
	}
	d := &svg{Scanner: s, part: p, name: name, lines: scanning.NewLines(data)}
	d.attr = *AttributeAt(s, p, func(int, int, string, string) string { return d.place })
	if err := d.read(data); err != nil {
		return "", err
	}
	if d.invisible > 0 {
		s.Note("%s fully transparent and not counted.", audit.PluralAre(d.invisible, "use"))
	}
	return audit.Plural(d.elements, "element"), nil
}

// svg is a drawing while it is read.
type svg struct {
	*scanning.Scanner
	part      *source.Part
	name      string
	lines     *scanning.Lines
	elements  int
	entityAt  map[string]source.Span
	invisible int
	hidden    int    // depth of an element that is fully transparent, 0 for none
	masked    int    // of a mask or a clipping path, whose colors are not seen
	attr      sheet  // reads attributes
	place     string // of the one that is read

	local        []byte // of the element that is read
	id           string
	label        string // of both, once it is asked for
	line, column int
}

// colorName is the name of a presentation attribute of SVG 2 that takes a color; empty for others.
func colorName(attribute []byte) string {
	switch string(attribute) {
	case "fill":
		return "fill"
	case "stroke":
		return "stroke"
	case "color":
		return "color"
	case "stop-color":
		return "stop-color"
	case "flood-color":
		return "flood-color"
	case "lighting-color":
		return "lighting-color"
	case "solid-color":
		return "solid-color"
	case "text-decoration-color":
		return "text-decoration-color"
	}
	return ""
}

func colorAttribute(name string) bool { return colorName([]byte(name)) != "" }

func (d *svg) read(data []byte) error {
	r := markup.NewReader(data)
	style := false
	for n := 1; ; n++ {
		if n%scanning.NowAndThen == 0 {
			if err := d.Watch.Read(r.Start, len(data)); err != nil {
				return err
			}
			if d.Tally.Full {
				return d.Tally.Check()
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
			local := string(markup.Local(r.Name))
			if (local == "mask" || local == "clipPath") && d.masked == 0 {
				d.masked = r.Depth()
			}
			if d.masked == 0 {
				d.element(r)
			}
			style = local == "style" && !r.Empty
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
			if d.masked > r.Depth() {
				d.masked = 0
			}
		}
	}
}

func (d *svg) known(r *markup.Reader, raw []byte) error {
	if unknown, ok := r.Known(raw); !ok {
		line, _ := d.lines.At(r.Start)
		return fmt.Errorf("line %d is not well-formed XML (invalid character entity %s)", line, unknown)
	}
	return nil
}

// doctype reads the entities that are declared, and where their values stand.
func (d *svg) doctype(r *markup.Reader) error {
	text := r.Data[r.Start:r.End]
	found, err := scanning.Entities(text, r.Data)
	if err != nil {
		line, _ := d.lines.At(r.Start)
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
	line, column := d.lines.At(r.Start)
	sheet := NewSheet(d.Scanner, d.part, d.name)
	raw := r.Data[r.Start:r.End]
	if !r.CDATA && strings.Contains(string(raw), "&") {
		in := d.unescaped(r.Start, r.End, []byte(r.Decode(raw)))
		sheet.part = in
		data, _ := in.Bytes()
		return sheet.Read(0, len(data), line, column)
	}
	return sheet.Read(r.Start, r.End, line, column)
}

// paintsElement says whether an element may have anything to do with color, which most of a drawing's have not.
func paintsElement(r *markup.Reader) bool {
	for i := range r.Attrs {
		a := &r.Attrs[i]
		n := markup.Local(a.Name)
		switch string(n) {
		case "style", "from", "to", "by", "values", "href", "opacity":
			return true
		}
		if colorName(n) != "" && string(r.Data[a.Start:a.End]) != "none" {
			return true
		}
	}
	return false
}

func (d *svg) element(r *markup.Reader) {
	if !paintsElement(r) {
		return
	}
	animated := ""
	var opacity map[string]float64
	d.local, d.id, d.label = markup.Local(r.Name), "", ""
	for i := range r.Attrs {
		a := &r.Attrs[i]
		switch n := markup.Local(a.Name); {
		case string(n) == "id" && len(a.Name) == 2:
			d.id = scanning.Shorten(r.Value(*a), 40)
		case string(n) == "attributeName":
			animated = r.Value(*a)
		case bytes.HasSuffix(n, []byte("opacity")) && (len(n) == 7 || n[len(n)-8] == '-'):
			if v, ok := color.Opacity(r.Value(*a)); ok {
				if opacity == nil {
					opacity = map[string]float64{}
				}
				opacity[string(n)] = v
			}
		}
	}
	if v, ok := opacity["opacity"]; ok && v == 0 && d.hidden == 0 && string(d.local) != "animate" {
		d.hidden = r.Depth()
	}
	d.line, d.column = d.lines.At(r.Start)
	for i := range r.Attrs {
		a := &r.Attrs[i]
		local := markup.Local(a.Name)
		raw := r.Data[a.Start:a.End]
		name := colorName(local)
		what, alpha := name, 1.0
		switch string(local) {
		case "style":
			d.rules(r, a)
			continue
		case "from", "to", "by", "values":
			if !colorAttribute(animated) {
				continue
			}
			name, what = string(local), "animated "+animated
		case "href":
			if uri := bytes.TrimSpace(raw); bytes.HasPrefix(uri, []byte("data:")) {
				at := a.Start + bytes.Index(raw, uri)
				DataURI(d.Scanner, d.part, at, at+len(uri), string(uri), d.Texts.Place(d.name, d.line, d.column, "", ""))
			}
			continue
		default:
			if name == "" || string(raw) == "none" {
				continue
			}
			if opacity != nil {
				own := name + "-opacity"
				if name == "stop-color" || name == "flood-color" {
					own = strings.TrimSuffix(name, "color") + "opacity"
				}
				for _, o := range []string{"opacity", own} {
					if v, ok := opacity[o]; ok {
						alpha *= v
					}
				}
			}
		}
		value := d.Texts.Cut(raw)
		if alpha == 0 || d.hidden > 0 {
			if v := strings.TrimSpace(value); v != "none" && v != "" {
				d.invisible++
			}
			continue
		}
		d.place = d.where(what)
		if strings.HasPrefix(value, "&") {
			d.entity(r, value, d.place)
			continue
		}
		d.attr.Value(value, a.Start, d.line, d.column, name, alpha)
	}
}

// where is the place of something in the element that is read.
func (d *svg) where(what string) string {
	if d.label == "" {
		d.label = d.Texts.Cut(d.local)
		if d.id != "" {
			d.label = d.Texts.Join(d.label, "#", d.id)
		}
	}
	return d.Texts.Place(d.name, d.line, d.column, d.label, what)
}

// rules reads a style attribute, which has the grammar of a rule's body; its places are those of its element.
func (d *svg) rules(r *markup.Reader, a *markup.Attr) {
	raw, at := string(r.Data[a.Start:a.End]), a.Start
	part := d.part
	if strings.Contains(raw, "&") {
		part = d.unescaped(a.Start, a.End, []byte(r.Value(*a)))
		raw, at = r.Value(*a), 0
	}
	in := sheetAt(d.Scanner, part, func(_, _ int, rule, property string) string {
		return d.where(d.Texts.Join("style ", d.Texts.Both(rule, property)))
	})
	if err := in.readText(raw, at, d.line, d.column); err != nil {
		d.Unread(d.where("style"), err)
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
	u := audit.Use{Value: text, Color: audit.ColorOf(c), Alpha: c.Alpha, Where: place, Form: form.CSS}
	if at, ok := d.entityAt[name]; ok {
		u.At = []source.Span{at}
	} else {
		u.Form, u.Fixed = nil, "it is written as a reference to a character"
	}
	d.Add(&u)
}

// Value reads one value that is not in a rule, as attributes have it.
func (s *sheet) Value(text string, at, line, column int, context string, alpha float64) {
	s.ValueOf(text, at, line, column, context, alpha, true)
}

// ValueOf is value where words are color names only if names says so.
func (s *sheet) ValueOf(text string, at, line, column int, context string, alpha float64, names bool) {
	if text == "none" {
		return
	}
	s.begin(text, at, line, column)
	v := valueReader{sheet: s, property: context, names: names, fade: alpha}
	if rgb, ok := SixDigits(text); ok && alpha > 0 { // as most are
		s.words = append(s.words[:0], token{css.HashToken, text, 0})
		v.whole = s.words
		v.report(audit.Screen(rgb), 1, s.words)
		return
	}
	t, err := s.lexed(0, len(text))
	if err != nil {
		return // no value is that long
	}
	v.whole = trimSpace(t)
	v.read(v.whole)
}

// SixDigits reads "#e2572b".
func SixDigits(s string) (color.RGB8, bool) {
	if len(s) != 7 || s[0] != '#' {
		return color.RGB8{}, false
	}
	c, err := color.FromHex(s)
	return c, err == nil
}
