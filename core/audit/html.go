package audit

import (
	"bytes"
	"fmt"
	"html"
	"regexp"
	"strings"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// scanHTML reads a page, or a component of Svelte or Vue: its style sheets, attributes and scripts. It is forgiving, as browsers are.
func scanHTML(s *scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if recognize.UTF16(data) {
		return "", fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	w := &page{scanner: s, part: p, name: name, data: data, lines: newLines(data)}
	if err := w.read(); err != nil {
		return "", err
	}
	return plural(len(w.lines.starts), "line"), nil
}

// page is a text with elements while it is read.
type page struct {
	*scanner
	part  *source.Part
	name  string
	data  []byte
	lines *lines
	names map[string]string // of elements and attributes in small letters, which come again and again
	attrs []attribute       // of the tag that is read
}

// attribute is an attribute as it stands in a tag.
type attribute struct {
	name       string
	start, end int // of the value; equal for none
	brace      bool
}

// lower is a name in small letters.
func (w *page) lower(name []byte) string {
	if known, ok := w.names[string(name)]; ok {
		return known
	}
	out := strings.ToLower(string(name))
	if w.names == nil {
		w.names = map[string]string{}
	}
	if len(w.names) < 10_000 {
		w.names[string(name)] = out
	}
	return out
}

var rawEnds = map[string]*regexp.Regexp{"style": regexp.MustCompile(`(?i)</style`), "script": regexp.MustCompile(`(?i)</script`), "textarea": regexp.MustCompile(`(?i)</textarea`), "title": regexp.MustCompile(`(?i)</title`)}

func (w *page) read() error {
	d := w.data
	for i, n := 0, 1; i < len(d); n++ {
		next := bytes.IndexByte(d[i:], '<')
		if next < 0 {
			break
		}
		i += next
		if n%nowAndThen == 0 {
			if err := w.Watch.read(i, len(d)); err != nil {
				return err
			}
			if w.tally.full {
				return w.tally.check()
			}
		}
		rest := d[i:]
		switch {
		case bytes.HasPrefix(rest, []byte("<!--")):
			end := bytes.Index(rest, []byte("-->"))
			if end < 0 {
				return nil
			}
			i += end + 3
		case len(rest) > 1 && (rest[1]|0x20 >= 'a' && rest[1]|0x20 <= 'z'):
			end, err := w.tag(i)
			if err != nil {
				return err
			}
			i = end
		default:
			i++
		}
	}
	return nil
}

// tag reads a start tag and, of one whose content is no markup, that content; it gives the offset behind it.
func (w *page) tag(i int) (int, error) {
	d := w.data
	at := i + 1
	for at < len(d) && !tagNameEnd(d[at]) {
		at++
	}
	name := w.lower(d[i+1 : at])
	attributes := w.attrs[:0]
	for {
		for at < len(d) && (d[at] == ' ' || d[at] == '\t' || d[at] == '\n' || d[at] == '\r' || d[at] == '/' && (at+1 >= len(d) || d[at+1] != '>')) {
			at++
		}
		if at >= len(d) {
			break
		}
		if d[at] == '>' {
			at++
			break
		}
		if d[at] == '/' {
			at += 2
			break
		}
		if d[at] == '{' { // {value} or {...rest} of a component
			end := braces(d, at)
			attributes = append(attributes, attribute{"", at + 1, max(at+1, end-1), true})
			at = end
			continue
		}
		from := at
		for at < len(d) && d[at] != '=' && d[at] != '>' && !(d[at] == '/' && at+1 < len(d) && d[at+1] == '>') && d[at] != ' ' && d[at] != '\t' && d[at] != '\n' && d[at] != '\r' {
			at++
		}
		a := attribute{name: w.lower(d[from:at])}
		if at == from {
			at++
			continue
		}
		after := at
		for after < len(d) && (d[after] == ' ' || d[after] == '\n' || d[after] == '\t' || d[after] == '\r') {
			after++
		}
		if after < len(d) && d[after] == '=' {
			at = after + 1
			for at < len(d) && (d[at] == ' ' || d[at] == '\n' || d[at] == '\t' || d[at] == '\r') {
				at++
			}
			switch {
			case at >= len(d):
			case d[at] == '"' || d[at] == '\'':
				end := bytes.IndexByte(d[at+1:], d[at])
				if end < 0 {
					end = len(d) - at - 1
				}
				a.start, a.end = at+1, at+1+end
				at = min(len(d), a.end+1)
			case d[at] == '{':
				end := braces(d, at)
				a.start, a.end, a.brace = at+1, max(at+1, end-1), true
				at = end
			default:
				a.start = at
				for at < len(d) && d[at] != '>' && d[at] != ' ' && d[at] != '\t' && d[at] != '\n' && d[at] != '\r' {
					at++
				}
				a.end = at
			}
		}
		attributes = append(attributes, a)
	}
	label, kind := name, ""
	for _, a := range attributes {
		switch a.name {
		case "id":
			label += "#" + shorten(string(d[a.start:a.end]), 40)
		case "lang", "type", "name", "property":
			kind += " " + strings.ToLower(string(d[a.start:a.end]))
		}
	}
	w.attrs = attributes
	for _, a := range attributes {
		if a.end > a.start {
			if err := w.attribute(tag{i, name, label, kind}, a); err != nil {
				return 0, err
			}
		}
	}
	close, ok := rawEnds[name]
	if !ok || bytes.HasSuffix(d[i:at], []byte("/>")) && name != "script" {
		return at, nil
	}
	end := len(d)
	if m := close.FindIndex(d[at:]); m != nil {
		end = at + m[0]
	}
	switch {
	case name == "style":
		line, column := w.lines.at(at)
		sheet := w.sheet(w.part, w.name)
		sheet.sass = strings.Contains(kind, "scss") || strings.Contains(kind, "sass") || strings.Contains(kind, "less")
		return end, sheet.read(at, end, line, column)
	case name == "script" && strings.Contains(kind, "json"):
	case name == "script":
		return end, (&script{page: w}).read(at, end)
	}
	return end, nil
}

func tagNameEnd(b byte) bool {
	return b == ' ' || b == '\t' || b == '\n' || b == '\r' || b == '>' || b == '/' || b == '{'
}

// braces is the offset behind the brace that closes the one at i; strings are passed over.
func braces(d []byte, i int) int {
	depth := 0
	for ; i < len(d); i++ {
		switch c := d[i]; c {
		case '{':
			depth++
		case '}':
			if depth--; depth == 0 {
				return i + 1
			}
		case '"', '\'', '`':
			if end := stringEnd(d, i); end > 0 {
				i = end - 1
			}
		}
	}
	return len(d)
}

// pageColors are attributes whose value is a color.
func pageColor(element, name string) bool {
	switch name {
	case "bgcolor", "bordercolor", "color", "text", "link", "vlink", "alink":
		return element != "font-face" && (name != "text" && name != "link" || element == "body")
	}
	return colorAttribute(name)
}

var noBraces = strings.NewReplacer("{", " ", "}", " ")

var bracketed = regexp.MustCompile(`-\[(?:[a-z-]+:)?(#[0-9a-fA-F]{3,8}|(?:rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\((?:[^()\[\]\s])*\))[^\]\s]*\]`)

// tag is what is known of the tag of an attribute.
type tag struct {
	at      int // where it begins
	element string
	label   string // the element and its id
	kind    string // what its attributes say that name it
}

// attribute reads one attribute.
func (w *page) attribute(t tag, a attribute) error {
	name, from, to := a.name, a.start, a.end
	if a.brace || strings.HasPrefix(name, ":") || strings.HasPrefix(name, "v-bind:") { // an expression
		return (&script{page: w, key: strings.TrimPrefix(strings.TrimPrefix(name, "v-bind:"), ":")}).read(from, to)
	}
	data := w.data[from:to]
	colored := pageColor(t.element, name) || (name == "content" || name == "value") && strings.Contains(t.kind, "color") || name == "color" && t.element == "link"
	classes := name == "class" || name == "classname"
	if !colored && name != "style" && !strings.HasPrefix(name, "style:") && !(classes && bytes.Contains(data, []byte("-["))) &&
		bytes.IndexByte(data, '{') < 0 && !bytes.HasPrefix(bytes.TrimSpace(data), []byte("data:image/")) {
		return nil // most have nothing to do with colors
	}
	raw := string(data)
	line, column := w.lines.at(t.at)
	where := func(what string) string { return fmt.Sprintf("%s %d:%d, %s, %s", w.name, line, column, t.label, what) }
	fixed := func(what string) func(int, int, string) string {
		return func(_, _ int, property string) string {
			if property != "" && what == "style" {
				return where("style " + property)
			}
			return where(what)
		}
	}
	switch {
	case name == "style":
		part, at := w.part, from
		if strings.Contains(raw, "&") && !strings.Contains(raw, "{") {
			text := html.UnescapeString(raw)
			part = w.part.Recoded(from, to, []byte(text), func(data []byte) ([]byte, error) { return []byte(html.EscapeString(string(data))), nil })
			raw, at = text, 0
		}
		sheet := &sheet{scanner: w.scanner, part: part, vars: w.vars, where: fixed("style")}
		if err := sheet.readText(noBraces.Replace(raw), at, line, column); err != nil {
			w.unread(where("style"), err)
		}
	case strings.HasPrefix(name, "style:"): // of a component: style:color="..."
		sheet := &sheet{scanner: w.scanner, part: w.part, vars: w.vars, where: fixed(name)}
		sheet.value(raw, from, line, column, name[6:], 1)
	case classes:
		w.classes(raw, from, where("class"), line, column)
	case colored:
		sheet := &sheet{scanner: w.scanner, part: w.part, vars: w.vars, where: fixed(name), attribute: true}
		if bare := strings.TrimSpace(raw); len(bare) == 6 && strings.HasSuffix(name, "color") {
			if c, alpha, err := form.ReadHex(bare, "RGB"); err == nil && alpha == 1 {
				at := from + strings.Index(raw, bare)
				w.add(&Use{Value: bare, Color: Screen(c), Where: where(name), Line: line, Column: column, At: []source.Span{{Part: w.part, Start: at, End: at + 6}}, Form: form.Hex("RGB")})
				return nil
			}
		}
		sheet.value(raw, from, line, column, name, 1)
	case strings.HasPrefix(strings.TrimSpace(raw), "data:image/"):
		uri := strings.TrimSpace(raw)
		at := from + strings.Index(raw, uri)
		w.dataURI(w.part, at, at+len(uri), uri, where(name))
	case strings.Contains(raw, "{") && (name == "" || strings.Contains(raw, "#")):
		return (&script{page: w, key: name}).read(from, to)
	}
	return nil
}

// classes finds utility classes with a color in brackets; their blanks are written as underscores.
func (w *page) classes(text string, from int, place string, line, column int) {
	for _, m := range bracketed.FindAllStringSubmatchIndex(text, -1) {
		value := text[m[2]:m[3]]
		c, err := color.ParseCSS(strings.ReplaceAll(value, "_", " "))
		if err != nil || c.Alpha == 0 {
			continue
		}
		w.add(&Use{Value: value, Color: colorOf(c), Alpha: c.Alpha, Where: place, Line: line, Column: column,
			At: []source.Span{{Part: w.part, Start: from + m[2], End: from + m[3]}}, Form: form.Func(func(old string, to form.Paint) (string, error) {
				return strings.ReplaceAll(color.Rewrite(strings.ReplaceAll(old, "_", " "), to.RGB), " ", "_"), nil
			})})
	}
}
