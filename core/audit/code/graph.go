package code

import (
	"bytes"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// graphNames are the names of graphs whose color is another than in style sheets: those of X11.
var graphNames = map[string]string{"green": "#00FF00", "gray": "#C0C0C0", "grey": "#C0C0C0", "maroon": "#B03060", "purple": "#A020F0"}

var (
	graphPaints = regexp.MustCompile(`(?i)^((?:fill|font|bg|pen|labelfont)?color)$`)
	graphHSV    = regexp.MustCompile(`^\s*([\d.]+)[\s,]+([\d.]+)[\s,]+([\d.]+)\s*$`)
)

// graphText goes through a graph in the DOT language word by word.
type graphText struct {
	data []byte
	at   int
	deaf bool // no quote ends any more
}

// next is the next word: a name, a number, a text in quotes or in angle brackets, or one other character. Comments are passed over.
func (g *graphText) next() (from, to int, ok bool) {
	d := g.data
	for g.at < len(d) {
		i := g.at
		c := d[i]
		switch {
		case c == ' ' || c == '\t' || c == '\r' || c == '\n':
			g.at++
		case c == '/' && i+1 < len(d) && d[i+1] == '/', c == '#' && (i == 0 || d[i-1] == '\n'):
			g.at = web.LineEnd(d, i)
		case c == '/' && i+1 < len(d) && d[i+1] == '*':
			n := bytes.Index(d[i+2:], []byte("*/"))
			if n < 0 {
				return 0, 0, false
			}
			g.at = i + n + 4
		case c == '"' && !g.deaf:
			for k := i + 1; k < len(d); k++ {
				if d[k] == '\\' {
					k++
				} else if d[k] == '"' {
					g.at = k + 1
					return i, k + 1, true
				}
			}
			g.deaf = true
		case c == '<':
			depth, k := 0, i
			for ; k < len(d); k++ {
				if d[k] == '<' {
					depth++
				} else if d[k] == '>' {
					if depth--; depth == 0 {
						break
					}
				}
			}
			g.at = min(len(d), k+1)
			return i, g.at, true
		case web.Word(c) || c == '.' || c >= 0x80:
			k := i
			for k < len(d) && (web.Word(d[k]) || d[k] == '.' || d[k] >= 0x80) {
				k++
			}
			g.at = k
			return i, k, true
		default:
			g.at++
			return i, i + 1, true
		}
	}
	return 0, 0, false
}

// ScanGraph reads a graph in the DOT language: the attributes that are colors, lists of colors among them, and labels that are markup.
func ScanGraph(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	g := graphText{data: data}
	property, given := "", false
	for n := 1; ; n++ {
		if n%scanning.NowAndThen == 0 {
			if err := s.Watch.Read(g.at, len(data)); err != nil {
				return "", err
			}
		}
		from, to, ok := g.next()
		if !ok {
			break
		}
		switch {
		case data[from] == '=':
			given = true
			continue
		case given && data[from] == '<':
			w := &web.Page{Scanner: s, Part: p, Name: name, Data: data[:max(from+1, to-1)], Lines: l}
			if err := w.ReadFrom(from + 1); err != nil {
				line, column := l.At(from)
				s.Unread(s.Texts.Place(name, line, column, property, ""), err)
			}
		case given && graphPaints.MatchString(property):
			graphColors(s, p, name, l, property, data, from, to)
		}
		given, property = false, strings.Trim(string(data[from:min(to, from+40)]), `"`)
	}
	return audit.Plural(len(l.Starts), "line"), s.Tally.Check()
}

// graphColors reads the value of an attribute: a color, or several of a gradient or of lines beside each other.
func graphColors(s *scanning.Scanner, p *source.Part, name string, l *scanning.Lines, property string, data []byte, from, to int) {
	quoted := data[from] == '"'
	if quoted {
		from, to = from+1, to-1
	}
	begin := from
	for part := range strings.SplitSeq(string(data[from:to]), ":") {
		at := begin
		begin += len(part) + 1
		value, _, _ := strings.Cut(part, ";") // how much of it
		at += len(value) - len(strings.TrimLeft(value, " "))
		if value = strings.TrimSpace(value); value == "" {
			continue
		}
		line, column := l.At(at)
		u := graphColor(value, quoted)
		u.Where, u.Line, u.Column = s.Texts.Place(name, line, column, property, ""), line, column
		if u.Why == "" && u.Alpha == 0 {
			continue
		}
		if u.Why == "" {
			u.At = []source.Span{{Part: p, Start: at, End: at + len(value)}}
		}
		s.Add(&u)
	}
}

// graphColor is a color as graphs write it: a name, digits, or hue, saturation and value to 1.
func graphColor(value string, quoted bool) audit.Use {
	u := audit.Use{Value: value, Alpha: 1}
	hex := func(to form.Paint) string {
		if quoted {
			return strings.ToLower(to.RGB.Hex())
		}
		return `"` + strings.ToLower(to.RGB.Hex()) + `"`
	}
	u.Form = form.Func(func(_ string, to form.Paint) (string, error) { return hex(to), nil })
	small := strings.ToLower(value)
	switch {
	case strings.HasPrefix(value, "#"):
		c, err := color.ParseCSS(value)
		if err != nil {
			u.Why = "it is not digits of a color"
			return u
		}
		u.Color, u.Alpha, u.Form = audit.Seen(c), c.Alpha, form.CSS
	case graphHSV.MatchString(value):
		m := graphHSV.FindStringSubmatch(value)
		var v [3]float64
		for i := range v {
			var err error
			if v[i], err = strconv.ParseFloat(m[i+1], 64); err != nil || v[i] > 1 {
				u.Why = "its hue, saturation and value are not numbers to 1"
				return u
			}
		}
		u.Color = audit.Screen(color.HSV{H: 360 * v[0], S: v[1], V: v[2]}.RGB().RGB8())
	case small == "transparent" || small == "none":
		u.Alpha = 0
	case graphNames[small] != "":
		c, _ := color.FromHex(graphNames[small])
		u.Color = audit.Screen(c)
	default:
		c, ok := color.Named(value)
		if !ok {
			u.Why = fmt.Sprintf("%q is a name or a number of another scheme of colors", scanning.Shorten(value, 40))
			return u
		}
		u.Color = audit.Screen(c)
	}
	return u
}
