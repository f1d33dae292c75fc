package audit

import (
	"bytes"
	"encoding/base64"
	"encoding/xml"
	"fmt"
	"io"
	"net/url"
	"strings"

	"huekeep/core/color"
	"huekeep/core/limits"
)

func scanSVG(name string, data []byte, watch Watch) (*Scan, error) {
	data, err := xmlText(data)
	if err != nil {
		return nil, err
	}
	d := drawing{name: name, watch: watch}
	d.sheet = newSheet(func(line, column int, context string) string {
		return fmt.Sprintf("%s %d:%d, %s", name, line, column, context)
	})
	if err := d.read(data, "", 0); err != nil {
		return nil, err
	}
	d.sheet.resolve()
	if err := d.sheet.tally.check(); err != nil {
		return nil, err
	}
	s := &Scan{About: plural(d.elements, "element"), Uses: d.sheet.tally.uses, Notes: d.sheet.notes()}
	if d.pictures > 0 {
		s.Notes = append(s.Notes, fmt.Sprintf("%s inside the drawing: pixels are not read yet.", plural(d.pictures, "picture")))
	}
	return s, nil
}

type drawing struct {
	name     string
	watch    Watch
	sheet    *sheet
	elements int
	pictures int
}

// colorAttributes are the presentation attributes of SVG 2 that take a color.
var colorAttributes = map[string]bool{"fill": true, "stroke": true, "color": true, "stop-color": true, "flood-color": true,
	"lighting-color": true, "solid-color": true, "text-decoration-color": true}

// read goes through one drawing; prefix names the drawing that an embedded one stands in.
func (d *drawing) read(data []byte, prefix string, depth int) error {
	if depth > limits.Nested {
		return fmt.Errorf("drawings are nested in it over %d deep", limits.Nested)
	}
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.CharsetReader = passed
	var path []string
	var style *strings.Builder // inside a style element
	var styleLine, styleColumn int
	at := position{data: data, line: 1}
	for n := 1; ; n++ {
		if n%nowAndThen == 0 {
			if err := d.watch.read(int(dec.InputOffset()), len(data)); err != nil {
				return err
			}
		}
		t, err := dec.Token()
		if err == io.EOF {
			return nil
		}
		line, _ := dec.InputPos()
		if err != nil {
			return fmt.Errorf("line %d is not well-formed XML (%s)", line, xmlReason(err))
		}
		switch t := t.(type) {
		case xml.Directive:
			if dec.Entity, err = entities(t, data); err != nil {
				return fmt.Errorf("line %d %w", line, err)
			}
		case xml.StartElement:
			if len(path) >= limits.Depth {
				return fmt.Errorf("line %d is nested over %d elements deep", line, limits.Depth)
			}
			if d.elements++; d.elements > limits.Elements {
				return fmt.Errorf("it has over %d elements", limits.Elements)
			}
			line, column := at.advance(tagStart(data, int(dec.InputOffset())))
			path = append(path, t.Name.Local)
			if err := d.element(t, prefix, line, column, depth); err != nil {
				return err
			}
			if t.Name.Local == "style" {
				style = &strings.Builder{}
				styleLine, styleColumn = dec.InputPos()
			}
		case xml.CharData:
			if style != nil {
				style.Write(t)
			}
		case xml.EndElement:
			if t.Name.Local == "style" && style != nil {
				if err := d.sheet.read([]byte(style.String()), styleLine, styleColumn); err != nil {
					return err
				}
				style = nil
			}
			if len(path) > 0 {
				path = path[:len(path)-1]
			}
		}
	}
}

// position turns rising offsets into lines and columns, reading the data once.
type position struct {
	data         []byte
	offset, line int
	start        int // offset of the line; looked for in what is new only, since a drawing may be one line of megabytes
}

func (p *position) advance(offset int) (line, column int) {
	passed := p.data[p.offset:offset]
	p.line += bytes.Count(passed, []byte("\n"))
	if i := bytes.LastIndexByte(passed, '\n'); i >= 0 {
		p.start = p.offset + i + 1
	}
	p.offset = offset
	return p.line, offset - p.start + 1
}

// tagStart finds the "<" of the tag that ends at offset; a ">" may stand inside an attribute, a "<" may not.
func tagStart(data []byte, end int) int { return bytes.LastIndexByte(data[:end], '<') }

func xmlReason(err error) string {
	s := strings.TrimPrefix(err.Error(), "XML syntax error on ")
	if _, after, ok := strings.Cut(s, ": "); ok {
		return after
	}
	return s
}

func (d *drawing) element(e xml.StartElement, prefix string, line, column, depth int) error {
	label := e.Name.Local
	animated := ""
	for _, a := range e.Attr {
		switch a.Name.Local {
		case "id":
			label += "#" + shorten(a.Value, 40)
		case "attributeName":
			animated = a.Value
		}
	}
	where := func(what string) string {
		return fmt.Sprintf("%s %s%d:%d, %s, %s", d.name, prefix, line, column, label, what)
	}
	for _, a := range e.Attr {
		name, value := a.Name.Local, strings.TrimSpace(a.Value)
		switch {
		case colorAttributes[name]:
			d.paint(value, where(name))
		case name == "opacity" || strings.HasSuffix(name, "-opacity"):
			if color.PartlyOpaque(value) {
				d.sheet.veiled++
			}
		case name == "style":
			// A style attribute has the grammar of a rule's body; its places are those of its element.
			in := newSheet(func(_, _ int, property string) string { return where("style " + property) })
			in.tally, in.variables, in.waiting, in.skipped, in.veiled = d.sheet.tally, d.sheet.variables, d.sheet.waiting, d.sheet.skipped, d.sheet.veiled
			if err := in.read([]byte(value), line, column); err != nil {
				return err
			}
			d.sheet.tally, d.sheet.waiting, d.sheet.skipped, d.sheet.veiled = in.tally, in.waiting, in.skipped, in.veiled
		case (name == "from" || name == "to" || name == "by" || name == "values") && colorAttributes[animated]:
			for _, v := range strings.Split(value, ";") {
				d.paint(strings.TrimSpace(v), where("animated "+animated))
			}
		case name == "href" && strings.HasPrefix(value, "data:"):
			if err := d.embedded(value, fmt.Sprintf("%s%d:%d > ", prefix, line, column), depth); err != nil {
				return err
			}
		case name == "href" && label == "image":
			d.pictures++
		}
	}
	return nil
}

// paint reads one paint value: a color, or a reference with a color behind it to fall back to.
func (d *drawing) paint(value, where string) {
	if strings.HasPrefix(value, "url(") {
		_, value, _ = strings.Cut(value, ")")
		value = strings.TrimSpace(value)
	}
	if strings.HasPrefix(value, "var(") {
		name, fallback, _ := strings.Cut(strings.TrimSuffix(value[4:], ")"), ",")
		d.sheet.waiting = append(d.sheet.waiting, variableUse{strings.TrimSpace(name), where})
		value = strings.TrimSpace(fallback)
	}
	c, err := color.ParseCSS(value)
	if err != nil || c.Alpha == 0 || c.CMYK != nil {
		return // none, currentColor, inherit, context-fill and the like
	}
	if c.Alpha < 1 {
		d.sheet.veiled++
	}
	d.sheet.tally.add(Use{Value: value, RGB: c.RGB8(), Alpha: c.Alpha, Where: where})
}

// embedded reads a drawing that stands in a data URI; pictures are counted.
func (d *drawing) embedded(uri, prefix string, depth int) error {
	head, body, _ := strings.Cut(uri, ",")
	if !strings.HasPrefix(head, "data:image/svg+xml") {
		d.pictures++
		return nil
	}
	var data []byte
	if strings.HasSuffix(head, ";base64") {
		b, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
		if err != nil {
			return fmt.Errorf("%sthe drawing embedded there is not valid base64", prefix)
		}
		data = b
	} else {
		text, err := url.PathUnescape(body)
		if err != nil {
			return fmt.Errorf("%sthe drawing embedded there is not a valid data URI", prefix)
		}
		data = []byte(text)
	}
	return d.read(data, prefix, depth+1)
}
