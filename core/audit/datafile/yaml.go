package datafile

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
	"strings"

	"go.yaml.in/yaml/v3"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// ScanYAML reads the values of a YAML text that are surely colors: by their notation, or by the name they are given to.
func ScanYAML(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if len(data) > limits.TextBytes/4 {
		return "", fmt.Errorf("it has %s; of YAML, at most %s are read", limits.Size(int64(len(data))), limits.Size(limits.TextBytes/4))
	}
	y := &yamlText{Scanner: s, part: p, name: name, data: data, lines: scanning.NewLines(data)}
	// the library refuses later ones, which read alike here
	dec := yaml.NewDecoder(strings.NewReader(version.ReplaceAllString(string(data), "${1}1.1")))
	for documents := 0; ; documents++ {
		var n yaml.Node
		if err := y.decode(dec, &n); err != nil {
			if documents > 0 && n.Kind == 0 || err.Error() == "EOF" {
				break
			}
			return "", fmt.Errorf("it is not YAML (%s)", strings.TrimPrefix(err.Error(), "yaml: "))
		}
		y.walk(&n, nil, 0)
		if documents > 1000 {
			break
		}
	}
	return audit.Plural(len(y.lines.Starts), "line"), nil
}

// version is the directive that says which YAML a text is (YAML 1.2.2, 6.8.1).
var version = regexp.MustCompile(`(?m)^(%YAML[ \t]+)1\.[2-9]\b`)

type yamlText struct {
	*scanning.Scanner
	part  *source.Part
	name  string
	data  []byte
	lines *scanning.Lines
}

// decode keeps a panic of the library from ending the program.
func (y *yamlText) decode(dec *yaml.Decoder, n *yaml.Node) (err error) {
	defer func() {
		if recover() != nil {
			err = errors.New("it is damaged")
		}
	}()
	return dec.Decode(n)
}

func (y *yamlText) walk(n *yaml.Node, path []step, depth int) {
	if depth > limits.Depth || y.Tally.Full {
		return
	}
	switch n.Kind {
	case yaml.DocumentNode:
		for _, c := range n.Content {
			y.walk(c, path, depth+1)
		}
	case yaml.SequenceNode:
		for i, c := range n.Content {
			y.walk(c, append(path, step{at: i + 1}), depth+1)
		}
	case yaml.MappingNode:
		for i := 0; i+1 < len(n.Content); i += 2 {
			y.walk(n.Content[i+1], append(path, step{key: n.Content[i].Value}), depth+1)
		}
	case yaml.ScalarNode:
		y.scalar(n, path)
	}
}

// offset is where a node begins; its column counts characters.
func (y *yamlText) offset(n *yaml.Node) int {
	if n.Line < 1 || n.Line > len(y.lines.Starts) {
		return -1
	}
	at := y.lines.Starts[n.Line-1]
	for range n.Column - 1 {
		if at >= len(y.data) {
			return -1
		}
		at++
		for at < len(y.data) && y.data[at]&0xc0 == 0x80 {
			at++
		}
	}
	for at < len(y.data) && (y.data[at] == '&' || y.data[at] == '!') { // an anchor or a tag stands in front
		n := bytes.IndexAny(y.data[at:], " \t\r\n")
		if n < 0 {
			return -1
		}
		at += n
		for at < len(y.data) && (y.data[at] == ' ' || y.data[at] == '\t') {
			at++
		}
	}
	return at
}

// block reads rules of a style sheet that stand in a literal block, below the line of its key.
func (y *yamlText) block(n *yaml.Node) {
	first := n.Line // from 1, so that this is the index of the next one
	last := min(len(y.lines.Starts)-1, first+strings.Count(n.Value, "\n"))
	if first > last {
		return
	}
	from, to := y.lines.Starts[first], len(y.data)
	if last < len(y.lines.Starts) {
		to = y.lines.Starts[last]
	}
	if err := web.NewSheet(y.Scanner, y.part, y.name).Read(from, max(from, to), first+1, 1); err != nil {
		y.Unread(y.name, err)
	}
}

func (y *yamlText) scalar(n *yaml.Node, path []step) {
	text := strings.TrimSpace(n.Value)
	key := keyOfPath(path)
	named := web.Paints(key)
	c, err := color.ParseCSS(text)
	digits := strings.TrimPrefix(text, "0x")
	bare := err != nil && named && len(digits) == 6 && scanning.IsHex(digits)
	if bare {
		c, err = color.ParseCSS("#" + digits)
	}
	if err != nil && n.Style&yaml.LiteralStyle != 0 && web.InStyle.MatchString(text) && strings.Contains(text, "{") &&
		web.HoldsColor(text) {
		y.block(n)
		return
	}
	if err != nil || c.Alpha == 0 || !named && c.Notation == "name" || web.NoStyle(key) {
		return
	}
	u := audit.Use{Value: text, Color: audit.ColorOf(c), Alpha: c.Alpha,
		Where: y.Texts.Place(y.name, n.Line, n.Column, scanning.Shorten(written(&y.Texts, path), 80), ""), Line: n.Line, Column: n.Column}
	at := y.offset(n)
	if at >= 0 {
		if n.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0 {
			at++
		}
		if bytes.HasPrefix(y.data[min(at, len(y.data)):], []byte(text)) {
			u.At = []source.Span{{Part: y.part, Start: at, End: at + len(text)}}
			u.Form = form.CSS
			if bare {
				u.Form = form.Hex("RGB")
			}
			if n.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) == 0 { // a # would begin a comment
				u.Form = form.Func(func(old string, to form.Paint) (string, error) {
					if bare {
						return form.Hex("RGB").Write(old, to)
					}
					text, err := form.CSS.Write(old, to)
					if err != nil {
						return "", err
					}
					if strings.HasPrefix(text, "#") {
						text = `"` + text + `"`
					}
					return text, nil
				})
			}
		}
	}
	if u.Form == nil {
		u.Fixed = "it is written over several lines or with escapes"
	}
	y.Add(&u)
}
