package web

import (
	"bytes"
	"fmt"
	"html"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// ScanHTML reads a page, or a component of Svelte or Vue: its style sheets, attributes and scripts. It is forgiving, as browsers are.
func ScanHTML(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if recognize.UTF16(data) {
		return "", fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	w := &Page{Scanner: s, Part: p, Name: name, Data: data, Lines: scanning.NewLines(data)}
	if err := w.Read(); err != nil {
		return "", err
	}
	return audit.Plural(len(w.Lines.Starts), "line"), nil
}

// Page is a text with elements while it is read.
type Page struct {
	*scanning.Scanner
	Part   *source.Part
	Name   string
	Data   []byte
	Lines  *scanning.Lines
	attrs  []attribute // of the tag that is read
	tag    tag
	styles *sheet        // reads style attributes
	masked []source.Span // of a script: markup of masks and clipping paths, whose colors are not seen
}

// attribute is an attribute as it stands in a tag.
type attribute struct {
	name       []byte // in small letters
	start, end int    // of the value; equal for none
	brace      bool
}

// tag is what is known of a start tag.
type tag struct {
	at      int    // where it begins
	element []byte // in small letters
	label   string // the element and its id, once it is asked for
}

// lowered is a name in small letters, as most are.
func lowered(name []byte) []byte {
	for _, c := range name {
		if c >= 'A' && c <= 'Z' {
			return bytes.ToLower(name)
		}
	}
	return name
}

var (
	styleEnd    = regexp.MustCompile(`(?i)</style`)
	scriptEnd   = regexp.MustCompile(`(?i)</script`)
	textareaEnd = regexp.MustCompile(`(?i)</textarea`)
	titleEnd    = regexp.MustCompile(`(?i)</title`)
	maskEnd     = regexp.MustCompile(`(?i)</mask`)
	clipEnd     = regexp.MustCompile(`(?i)</clippath`)
)

// rawEnd finds what ends an element whose content is no markup, or is not seen; nil for others.
func rawEnd(element []byte) *regexp.Regexp {
	switch string(element) {
	case "style":
		return styleEnd
	case "script":
		return scriptEnd
	case "textarea":
		return textareaEnd
	case "title":
		return titleEnd
	case "mask":
		return maskEnd
	case "clippath":
		return clipEnd
	}
	return nil
}

// Read reads the page.
func (w *Page) Read() error { return w.ReadFrom(0) }

// ReadFrom reads the text from an offset.
func (w *Page) ReadFrom(from int) error {
	d := w.Data
	for i, n := from, 1; i < len(d); n++ {
		next := bytes.IndexByte(d[i:], '<')
		if next < 0 {
			break
		}
		i += next
		if n%scanning.NowAndThen == 0 {
			if err := w.Watch.Read(i, len(d)); err != nil {
				return err
			}
			if w.Tally.Full {
				return w.Tally.Check()
			}
		}
		rest := d[i:]
		switch {
		case bytes.HasPrefix(rest, []byte("<!--[if")) && conditional(rest) > 0: // what stands in it is shown by some mail programs
			i += conditional(rest)
		case bytes.HasPrefix(rest, []byte("<!--")):
			end := bytes.Index(rest, []byte("-->"))
			if end < 0 {
				return nil
			}
			i += end + 3
		case len(rest) > 1 && (rest[1]|0x20 >= 'a' && rest[1]|0x20 <= 'z'):
			end, err := w.start(i)
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

// conditional is how long the beginning of a conditional comment is, as in <!--[if mso]>; 0 for another comment.
func conditional(text []byte) int {
	text = text[:min(len(text), 200)]
	if end := bytes.Index(text, []byte("]>")); end > 0 && !bytes.Contains(text[1:end], []byte("<")) {
		return end + 2
	}
	return 0
}

// start reads a start tag and, of one whose content is no markup, that content; it gives the offset behind it.
func (w *Page) start(i int) (int, error) {
	d := w.Data
	at := i + 1
	for at < len(d) && !tagNameEnd(d[at]) {
		at++
	}
	name := lowered(d[i+1 : at])
	attributes, at := attributesFrom(d, at, w.attrs[:0])
	w.attrs, w.tag = attributes, tag{at: i, element: name}
	for _, a := range attributes {
		if a.end > a.start {
			if err := w.attribute(a); err != nil {
				return 0, err
			}
		}
	}
	close := rawEnd(name)
	if close == nil || bytes.HasSuffix(d[i:at], []byte("/>")) && string(name) != "script" {
		return at, nil
	}
	kind := w.kind(attributes)
	end := len(d)
	if m := close.FindIndex(d[at:]); m != nil {
		end = at + m[0]
	}
	switch {
	case string(name) == "style" && strings.Contains(kind, "text/") && !styleKind.MatchString(kind): // no browser applies it
	case string(name) == "style":
		line, column := w.Lines.At(at)
		sheet := NewSheet(w.Scanner, w.Part, w.Name)
		sheet.sass = strings.Contains(kind, "scss") || strings.Contains(kind, "sass") || strings.Contains(kind, "less")
		return end, sheet.Read(at, end, line, column)
	case string(name) == "script":
		return end, (&Script{Page: w}).read(at, end)
	}
	return end, nil
}

// attributesFrom reads the attributes of a start tag from an offset on, onto a list; it gives the offset behind the tag.
func attributesFrom(d []byte, at int, list []attribute) ([]attribute, int) {
	for {
		for at < len(d) && (d[at] == ' ' || d[at] == '\t' || d[at] == '\n' || d[at] == '\r' || d[at] == '/' &&
			(at+1 >= len(d) || d[at+1] != '>')) {
			at++
		}
		switch {
		case at >= len(d):
			return list, at
		case d[at] == '>':
			return list, at + 1
		case d[at] == '/':
			return list, at + 2
		}
		if d[at] == '{' { // {value} or {...rest} of a component
			end := braces(d, at)
			list = append(list, attribute{nil, at + 1, max(at+1, end-1), true})
			at = end
			continue
		}
		from := at
		for at < len(d) && d[at] != '=' && d[at] != '>' && !(d[at] == '/' && at+1 < len(d) && d[at+1] == '>') && d[at] != ' ' &&
			d[at] != '\t' && d[at] != '\n' && d[at] != '\r' {
			at++
		}
		a := attribute{name: lowered(d[from:at])}
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
			at = a.value(d, at)
		}
		list = append(list, a)
	}
}

// value reads what stands behind the sign of an attribute; it gives the offset behind it.
func (a *attribute) value(d []byte, at int) int {
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
	return at
}

// styleKind is a language of style sheets.
var styleKind = regexp.MustCompile(`css|sass|less`)

// kind is what attributes say that name the tag they stand in.
func (w *Page) kind(attributes []attribute) string {
	kind := ""
	for _, a := range attributes {
		switch string(a.name) {
		case "lang", "type", "name", "property":
			kind += " " + strings.ToLower(string(w.Data[a.start:a.end]))
		}
	}
	return kind
}

// where is the place of something in the tag that is read.
func (w *Page) where(what string) string {
	if w.tag.label == "" {
		w.tag.label = string(w.tag.element)
		for _, a := range w.attrs {
			if string(a.name) == "id" {
				w.tag.label += "#" + scanning.Shorten(string(w.Data[a.start:a.end]), 40)
			}
		}
	}
	line, column := w.Lines.At(w.tag.at)
	return w.Texts.Place(w.Name, line, column, w.tag.label, what)
}

func tagNameEnd(b byte) bool {
	return b == ' ' || b == '\t' || b == '\n' || b == '\r' || b == '>' || b == '/' || b == '{'
}

// pageColor says whether the value of an attribute is a color.
func pageColor(element, name []byte) bool {
	return pageOnly(element, name) || colorAttribute(string(name))
}

// pageOnly says whether an attribute is one of those of old that drawings do not have, whose colors need no mark in front (HTML, 2.3.6).
func pageOnly(element, name []byte) bool {
	switch string(name) {
	case "bgcolor", "bordercolor", "color", "vlink", "alink":
		return string(element) != "font-face"
	case "text", "link":
		return string(element) == "body"
	}
	return false
}

// fourNumbers are channels to 255 and how opaque a color is.
var fourNumbers = regexp.MustCompile(`^\d{1,3},\d{1,3},\d{1,3},\d{1,3}$`)

// painted says whether an attribute, or one that a page keeps for its scripts, is given a color.
func (w *Page) painted(name []byte) bool {
	return pageColor(w.tag.element, name) || Paints(string(bytes.TrimPrefix(name, []byte("data-"))))
}

var noBraces = strings.NewReplacer("{", " ", "}", " ")

// attribute reads one attribute.
func (w *Page) attribute(a attribute) error {
	name, from, to := a.name, a.start, a.end
	// an expression, or what happens
	if bound, ok := bytes.CutPrefix(name, []byte("v-bind:")); a.brace || ok || len(name) > 0 && (name[0] == ':' || name[0] == '@') ||
		bytes.HasPrefix(name, []byte("on")) && !w.painted(name) {
		return (&Script{Page: w, key: strings.TrimLeft(string(bound), ":@")}).read(from, to)
	}
	data := w.Data[from:to]
	if bytes.IndexByte(data, '{') < 0 && !bytes.HasPrefix(bytes.TrimSpace(data), []byte("data:image/")) {
		colored := false
		switch string(name) {
		case "style":
			colored = true
		case "class", "classname":
			colored = bytes.IndexByte(data, '[') >= 0
		case "content", "value":
			colored = strings.Contains(w.kind(w.attrs), "color")
		case "srcdoc":
			colored = true
		default:
			colored = w.painted(name) || bytes.HasPrefix(name, []byte("style:"))
		}
		if !colored {
			return nil // most have nothing to do with colors
		}
	}
	return w.colored(string(name), string(data), from, to)
}

// colored reads an attribute that may have a color.
func (w *Page) colored(name, raw string, from, to int) error {
	line, column := w.Lines.At(w.tag.at)
	reader := func(what string) *sheet {
		return AttributeAt(w.Scanner, w.Part, func(int, int, string, string) string { return w.where(what) })
	}
	switch {
	case name == "style":
		in, at := w.styles, from
		if strings.Contains(raw, "&") && !strings.Contains(raw, "{") {
			text := html.UnescapeString(raw)
			in = w.styleSheet(w.Part.Recoded(from, to, []byte(text),
				func(data []byte) ([]byte, error) { return []byte(html.EscapeString(string(data))), nil }))
			raw, at = text, 0
		} else if in == nil {
			in = w.styleSheet(w.Part)
			w.styles = in
		}
		if strings.Contains(raw, "{") { // of a component: strings of its expressions are read as those of a script
			text := []byte(raw)
			for open := 0; at == from && open < len(raw); {
				n := strings.IndexByte(raw[open:], '{')
				if n < 0 {
					break
				}
				open += n
				end := max(open+1, braces(text, open))
				if strings.ContainsAny(raw[open:min(end, len(raw))], "\"'`") {
					if err := (&Script{Page: w}).read(from+open+1, from+max(open+1, end-1)); err != nil {
						return err
					}
				}
				open = end
			}
			raw = noBraces.Replace(raw)
		}
		if err := in.readText(raw, at, line, column); err != nil {
			w.Unread(w.where("style"), err)
		}
	case strings.HasPrefix(name, "style:"): // of a component: style:color="..."
		sheet := reader(name)
		sheet.attribute = false
		sheet.Value(raw, from, line, column, name[6:], 1)
	case name == "class" || name == "classname":
		w.classes(raw, from, w.where("class"), line, column)
	case name == "srcdoc": // a page in a page
		text := []byte(html.UnescapeString(raw))
		in, err := w.Part.Within("page", from, to, text, func(data []byte) ([]byte, error) {
			return []byte(html.EscapeString(string(data))),
				nil
		})
		if err == nil {
			inside := *w.Scanner
			inside.Prefix += w.where(name) + " > "
			_, err = ScanHTML(&inside, in, "page")
		}
		if err != nil {
			w.Unread(w.where(name), err)
		}
	case w.painted([]byte(name)), (name == "content" || name == "value") && strings.Contains(w.kind(w.attrs), "color"):
		if fourNumbers.MatchString(raw) { // as titles of timelines have it
			n := strings.Split(raw, ",")
			alpha, _ := strconv.Atoi(n[3])
			if c, err := color.ParseCSS("rgb(" + strings.Join(n[:3], " ") + ")"); err == nil && alpha > 0 {
				w.Add(&audit.Use{Value: raw, Color: audit.ColorOf(c), Alpha: min(1, float64(alpha)/255), Where: w.where(name), Line: line,
					Column: column, At: []source.Span{{Part: w.Part, Start: from, End: to}}, Form: form.Numbers(255)})
			}
			return nil
		}
		if bare := strings.TrimSpace(raw); len(bare) == 6 && (strings.HasSuffix(name, "color") || pageOnly(w.tag.element, []byte(name))) {
			if c, alpha, err := form.ReadHex(bare, "RGB"); err == nil && alpha == 1 {
				at := from + strings.Index(raw, bare)
				w.Add(&audit.Use{Value: bare, Color: audit.Screen(c), Where: w.where(name), Line: line, Column: column,
					At: []source.Span{{Part: w.Part, Start: at, End: at + 6}}, Form: form.Hex("RGB")})
				return nil
			}
		}
		reader(name).Value(raw, from, line, column, name, 1)
	case strings.HasPrefix(strings.TrimSpace(raw), "data:image/") && strings.Contains(raw, ";base64,") &&
		strings.Contains(raw, "{"): // of a component, which puts it together
	case strings.HasPrefix(strings.TrimSpace(raw), "data:image/"):
		uri := strings.TrimSpace(raw)
		at := from + strings.Index(raw, uri)
		DataURI(w.Scanner, w.Part, at, at+len(uri), uri, w.where(name))
	case strings.Contains(raw, "{") && (name == "" || strings.Contains(raw, "#")):
		return (&Script{Page: w, key: name}).read(from, to)
	}
	return nil
}

// styleSheet reads style attributes, whose places are those of their tag.
func (w *Page) styleSheet(part *source.Part) *sheet {
	return sheetAt(w.Scanner, part, func(_, _ int, rule, property string) string {
		if property = w.Texts.Both(rule, property); property == "" {
			return w.where("style")
		}
		return w.where(w.Texts.Join("style ", property))
	})
}
