package web

import (
	"bytes"
	"regexp"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
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
var mdLanguages = map[string]string{"css": ".css", "scss": ".scss", "less": ".less", "html": ".html", "svg": ".svg", "xml": ".xml",
	"xaml": ".xaml", "js": ".js", "javascript": ".js", "jsx": ".jsx", "ts": ".ts", "typescript": ".ts", "tsx": ".tsx",
	"json": ".json", "yaml": ".yaml", "yml": ".yaml", "swift": ".swift", "kotlin": ".kt", "kt": ".kt", "java": ".java", "dart": ".dart",
	"qml": ".qml", "csharp": ".cs", "cs": ".cs", "c#": ".cs", "python": ".py", "py": ".py", "vue": ".vue", "svelte": ".svelte",
	"tex": ".tex", "latex": ".tex", "dot": ".dot", "graphviz": ".dot", "vtt": ".vtt", "srt": ".srt"}

// ScanMarkdown reads Markdown: the YAML on top, what stands between fences in its own kind, markup, colors that are written as code, and
// six digits with their mark in the text, of which one is a letter. In a table or a list they are read as anywhere.
func ScanMarkdown(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	m := &markdown{Scanner: s, part: p, name: name, data: data, prose: bytes.Clone(data), lines: scanning.NewLines(data)}
	if err := m.blocks(); err != nil {
		return "", err
	}
	if err := m.text(); err != nil {
		return "", err
	}
	return audit.Plural(len(m.lines.Starts), "line"), s.Tally.Check()
}

type markdown struct {
	*scanning.Scanner
	part  *source.Part
	name  string
	data  []byte
	prose []byte // the same with blanks where it was read
	lines *scanning.Lines
}

// line is from where to where a line goes, counted from 0; behind the last one it is empty.
func (m *markdown) line(i int) (from, to int) {
	at := func(i int) int {
		if i < len(m.lines.Starts) {
			return m.lines.Starts[i]
		}
		return len(m.data)
	}
	return at(i), at(i + 1)
}

func (m *markdown) blank(from, to int) {
	for k := from; k < to; k++ {
		if m.prose[k] != '\n' {
			m.prose[k] = ' '
		}
	}
}

// closing is the first line from one on of which a mark says that it ends a block; behind the last line if none does.
func (m *markdown) closing(i int, ends func(line []byte) bool) int {
	for ; i < len(m.lines.Starts); i++ {
		if from, to := m.line(i); ends(bytes.TrimSpace(m.data[from:to])) {
			break
		}
	}
	return i
}

// blocks reads the YAML on top and what stands between fences.
func (m *markdown) blocks() error {
	const longestTop = 500 // lines
	for i := 0; i < len(m.lines.Starts); i++ {
		from, to := m.line(i)
		if i%scanning.NowAndThen == 0 {
			if err := m.Watch.Read(from, len(m.data)); err != nil {
				return err
			}
		}
		line := m.data[from:to]
		if i == 0 && string(bytes.TrimSpace(line)) == "---" {
			k := m.closing(1, func(line []byte) bool { return string(line) == "---" || string(line) == "..." })
			if k < min(len(m.lines.Starts), longestTop) {
				end, behind := m.line(k)
				m.blank(from, behind)
				if err := m.block(to, end, 2, ".yaml"); err != nil {
					return err
				}
				i = k
			}
			continue
		}
		fence := mdFence.FindSubmatch(line)
		if fence == nil {
			continue
		}
		mark, language := fence[1], strings.ToLower(string(fence[2]))
		k := m.closing(i+1, func(line []byte) bool { return len(line) >= len(mark) && len(bytes.Trim(line, string(mark[:1]))) == 0 })
		end, behind := m.line(k)
		extension := mdLanguages[language]
		if language == "" && HoldsColor(m.data[to:end]) {
			extension = ".js" // strings and digits, as far as they are surely colors
		}
		m.blank(from, behind)
		if extension != "" {
			if err := m.block(to, end, i+2, extension); err != nil {
				return err
			}
		}
		i = k
	}
	return nil
}

// block reads what stands between two offsets, from a line on, as a file of an extension.
func (m *markdown) block(from, to, line int, extension string) error {
	if len(bytes.TrimSpace(m.data[from:to])) == 0 || !holdsAnything(m.data[from:to]) {
		return nil
	}
	in, err := m.part.Within("block"+extension, from, to, m.data[from:to], func(data []byte) ([]byte, error) { return data, nil })
	if err != nil {
		m.Unread(m.Texts.Place(m.name, line, 1, "block", ""), err)
		return nil
	}
	k := m.Table.Named(extension)
	inside := *m.Scanner
	inside.Prefix += m.Texts.Place(m.name, line, 1, "", "") + " > "
	inside.Inside = true
	if _, err := k.Scan(&inside, in, "block"+extension); err != nil {
		if err := m.Watch.At(m.name, -1); err != nil {
			return err
		}
		m.Note("%s: the block at line %d is an excerpt that cannot be read as %s (%s).", m.name, line, k.Label, err)
	}
	return m.Tally.Check()
}

// text reads colors that are written as code, markup, and digits in the text.
func (m *markdown) text() error {
	for _, at := range mdCode.FindAllSubmatchIndex(m.prose, -1) {
		if text := string(m.prose[at[2]:at[3]]); text == strings.TrimSpace(text) &&
			(strings.HasPrefix(text, "#") || strings.HasSuffix(text, ")")) {
			m.color(at[2], at[3], "code")
		}
		m.blank(at[0], at[1])
	}
	w := &Page{Scanner: m.Scanner, Part: m.part, Name: m.name, Data: m.prose, Lines: m.lines}
	if err := w.Read(); err != nil {
		return err
	}
	for _, at := range mdTag.FindAllIndex(m.prose, -1) {
		m.blank(at[0], at[1])
	}
	for _, at := range mdDigits.FindAllSubmatchIndex(m.prose, -1) {
		if bytes.ContainsAny(m.prose[at[2]:at[3]], "abcdefABCDEF") { // #123456 is a number of something
			m.color(at[2], at[3], "text")
		}
	}
	return nil
}

// color reports a color in the text.
func (m *markdown) color(from, to int, what string) {
	value := string(m.data[from:to])
	c, err := color.ParseCSS(value)
	if err != nil || c.Alpha == 0 {
		return
	}
	line, column := m.lines.At(from)
	m.Add(&audit.Use{Value: value, Color: audit.ColorOf(c), Alpha: c.Alpha, Where: m.Texts.Place(m.name, line, column, what, ""),
		Line: line, Column: column,
		At: []source.Span{{Part: m.part, Start: from, End: to}}, Form: form.CSS})
}

// mdTag is a tag or an address in Markdown, whose digits are no color of the text.
var mdTag = regexp.MustCompile(`<[A-Za-z!/][^>]*>|\]\([^()\s]*\)|\bhttps?://\S+`)

// holdsAnything says whether a block may hold a color: a mark of digits, a bracket or a hexadecimal number.
func holdsAnything(text []byte) bool {
	return bytes.ContainsAny(text, "#(:=") || bytes.Contains(text, []byte("0x"))
}
