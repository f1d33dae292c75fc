package audit

import (
	"bytes"
	"regexp"
	"strings"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

var (
	mdFence  = regexp.MustCompile("^ {0,3}(`{3,}|~{3,})[ \t]*([A-Za-z0-9+#.-]*)")
	mdCode   = regexp.MustCompile("`([^`\n]{3,80})`")
	mdDigits = regexp.MustCompile(`(?:^|[\s(*_|"'])(#[0-9A-Fa-f]{6})\b`)
)

// mdLanguages are the kinds of what stands between fences, by the language that they name.
var mdLanguages = map[string]string{"css": ".css", "scss": ".scss", "less": ".less", "html": ".html", "svg": ".svg", "xml": ".xml", "xaml": ".xaml", "js": ".js", "javascript": ".js", "jsx": ".jsx", "ts": ".ts", "typescript": ".ts", "tsx": ".tsx",
	"json": ".json", "yaml": ".yaml", "yml": ".yaml", "swift": ".swift", "kotlin": ".kt", "kt": ".kt", "java": ".java", "dart": ".dart", "qml": ".qml", "csharp": ".cs", "cs": ".cs", "c#": ".cs", "python": ".py", "py": ".py", "vue": ".vue", "svelte": ".svelte",
	"tex": ".tex", "latex": ".tex", "dot": ".dot", "graphviz": ".dot", "vtt": ".vtt", "srt": ".srt"}

// scanMarkdown reads Markdown: the YAML on top, what stands between fences in its own kind, markup, colors that are written as code, and six digits with
// their mark in the text, of which one is a letter. In a table or a list they are read as anywhere.
func scanMarkdown(s *scanner, p *source.Part, name string) (string, error) {
	data, err := plainText(p)
	if err != nil {
		return "", err
	}
	l := newLines(data)
	lineOf := func(i int) (from, to int) {
		from, to = l.starts[i], len(data)
		if i+1 < len(l.starts) {
			to = l.starts[i+1]
		}
		return from, to
	}
	prose := bytes.Clone(data) // with blanks where blocks are
	blank := func(from, to int) {
		for k := from; k < to; k++ {
			if prose[k] != '\n' {
				prose[k] = ' '
			}
		}
	}
	inner := func(from, to, line int, extension string) error {
		blank(from, to)
		if len(bytes.TrimSpace(data[from:to])) == 0 || !holdsAnything(data[from:to]) {
			return nil
		}
		in, err := p.Within("block"+extension, from, to, data[from:to], func(data []byte) ([]byte, error) { return data, nil })
		if err != nil {
			s.unread(s.texts.place(name, line, 1, "block", ""), err)
			return nil
		}
		inside := *s
		inside.prefix += s.texts.place(name, line, 1, "", "") + " > "
		inside.inside = true
		for _, k := range kinds() {
			for _, e := range k.Extensions {
				if e == extension {
					if _, err := k.scan(&inside, in, "block"+extension); err != nil {
						if err := s.Watch.at(name, -1); err != nil {
							return err
						}
						s.note("%s: the block at line %d is an excerpt that cannot be read as %s (%s).", name, line, k.Label, err)
					}
					return s.tally.check()
				}
			}
		}
		return nil
	}
	for i := 0; i < len(l.starts); i++ {
		from, to := lineOf(i)
		if i%nowAndThen == 0 {
			if err := s.Watch.read(from, len(data)); err != nil {
				return "", err
			}
		}
		line := data[from:to]
		if i == 0 && string(bytes.TrimSpace(line)) == "---" {
			for k := 1; k < len(l.starts) && k < 500; k++ {
				a, b := lineOf(k)
				if t := string(bytes.TrimSpace(data[a:b])); t == "---" || t == "..." {
					blank(from, b)
					if err := inner(to, a, 2, ".yaml"); err != nil {
						return "", err
					}
					i = k
					break
				}
			}
			continue
		}
		m := mdFence.FindSubmatch(line)
		if m == nil {
			continue
		}
		mark, language := m[1], strings.ToLower(string(m[2]))
		k := i + 1
		for ; k < len(l.starts); k++ {
			a, b := lineOf(k)
			if t := bytes.TrimSpace(data[a:b]); len(t) >= len(mark) && len(bytes.Trim(t, string(mark[:1]))) == 0 {
				break
			}
		}
		end := len(data)
		if k < len(l.starts) {
			end, _ = lineOf(k)
		}
		extension, known := mdLanguages[language]
		if !known && language == "" && holdsColor(data[to:max(to, end)]) {
			extension, known = ".js", true // strings and digits, as far as they are surely colors
		}
		blank(from, to)
		if known {
			if err := inner(to, max(to, end), i+2, extension); err != nil {
				return "", err
			}
		} else {
			blank(to, max(to, end))
		}
		if k < len(l.starts) {
			blank(lineOf(k))
		}
		i = k
	}
	add := func(from, to int, what string) {
		value := string(data[from:to])
		c, err := color.ParseCSS(value)
		if err != nil || c.Alpha == 0 {
			return
		}
		line, column := l.at(from)
		s.add(&Use{Value: value, Color: colorOf(c), Alpha: c.Alpha, Where: s.texts.place(name, line, column, what, ""), Line: line, Column: column, At: []source.Span{{Part: p, Start: from, End: to}}, Form: form.CSS})
	}
	for _, m := range mdCode.FindAllSubmatchIndex(prose, -1) {
		if text := string(prose[m[2]:m[3]]); text == strings.TrimSpace(text) && (strings.HasPrefix(text, "#") || strings.HasSuffix(text, ")")) {
			add(m[2], m[3], "code")
		}
		blank(m[0], m[1])
	}
	w := &page{scanner: s, part: p, name: name, data: prose, lines: l}
	if err := w.read(); err != nil {
		return "", err
	}
	for _, m := range mdTag.FindAllIndex(prose, -1) {
		blank(m[0], m[1])
	}
	for _, m := range mdDigits.FindAllSubmatchIndex(prose, -1) {
		if bytes.ContainsAny(prose[m[2]:m[3]], "abcdefABCDEF") { // #123456 is a number of something
			add(m[2], m[3], "text")
		}
	}
	return plural(len(l.starts), "line"), s.tally.check()
}

// mdTag is a tag or an address in Markdown, whose digits are no color of the text.
var mdTag = regexp.MustCompile(`<[A-Za-z!/][^>]*>|\]\([^()\s]*\)|\bhttps?://\S+`)

// holdsAnything says whether a block may hold a color: a mark of digits, a bracket or a hexadecimal number.
func holdsAnything(text []byte) bool {
	return bytes.ContainsAny(text, "#(:=") || bytes.Contains(text, []byte("0x"))
}
