// Package timed reads what stands on a timeline: subtitles and the projects of a video editor.
package timed

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
	"huekeep/core/markup"
	"huekeep/core/source"
)

// cueColors are the eight colors that a cue of WebVTT can name as a class (WebVTT 1, 5.1).
var cueColors = map[string]string{"white": "FFFFFF", "lime": "00FF00", "cyan": "00FFFF", "red": "FF0000", "yellow": "FFFF00",
	"magenta": "FF00FF", "blue": "0000FF", "black": "000000"}

var cueClass = regexp.MustCompile(`<c((?:\.[\w-]+)+)`)

// ScanVTT reads WebVTT: its STYLE blocks as style sheets, and the classes that stand for colors.
func ScanVTT(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewCueLines(data)
	cues := 0
	time := ""
	lineEnd := func(i int) int {
		if i+1 < len(l.Starts) {
			return l.Starts[i+1]
		}
		return len(data)
	}
	for i := 0; i < len(l.Starts); i++ {
		start, end := l.Starts[i], lineEnd(i)
		line := strings.TrimRight(string(data[start:end]), "\r\n")
		if i%scanning.NowAndThen == 0 {
			if err := s.Watch.Read(start, len(data)); err != nil {
				return "", err
			}
		}
		if strings.TrimSpace(line) == "STYLE" {
			first, block := i+2, end
			for i+1 < len(l.Starts) { // to the next empty line
				i++
				block = lineEnd(i)
				if len(bytes.TrimSpace(data[l.Starts[i]:block])) == 0 {
					break
				}
			}
			if err := web.NewSheet(s, p, name).Read(end, max(end, block), first, 1); err != nil {
				return "", err
			}
			continue
		}
		if at, _, ok := strings.Cut(line, " --> "); ok {
			cues++
			time = strings.TrimSpace(at)
			continue
		}
		for _, m := range cueClass.FindAllStringSubmatchIndex(line, -1) {
			for _, class := range strings.Split(line[m[2]+1:m[3]], ".") {
				if hex, ok := cueColors[strings.TrimPrefix(class, "bg_")]; ok {
					rgb, _ := color.FromHex(hex)
					s.Add(&audit.Use{Value: class, Color: audit.Screen(rgb), Where: fmt.Sprintf("%s %d:%d, cue at %s", name, i+1, m[0]+1,
						time), Line: i + 1, Column: m[0] + 1,
						Fixed: "a class of a cue stands for one of eight colors; a style rule takes others"})
				}
			}
		}
	}
	return audit.Plural(cues, "cue"), nil
}

var (
	subColor = regexp.MustCompile(`\\(?:[1-4])?c&H([0-9A-Fa-f]{1,8})&?`)
	subHex   = regexp.MustCompile(`&H([0-9A-Fa-f]{1,8})&?`)
)

var (
	RipMark = regexp.MustCompile(`^\s*\d+\s*\r?\n\d+:\d\d:\d\d[,.]\d+\s*-->`)
	ripTime = regexp.MustCompile(`^\s*(\d+:\d\d:\d\d[,.]\d+)\s*-->`)
	ripFont = regexp.MustCompile(`(?i)<font\b[^>]*?\bcolor\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s>"']+))`)
)

// ScanSubRip reads SubRip subtitles: the colors that letters of a cue are given, as players read them: by tags of pages and by those of
// SubStation.
func ScanSubRip(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	cues := 0
	time := ""
	for i, start := range l.Starts {
		end := len(data)
		if i+1 < len(l.Starts) {
			end = l.Starts[i+1]
		}
		if i%scanning.NowAndThen == 0 {
			if err := s.Watch.Read(start, len(data)); err != nil {
				return "", err
			}
		}
		line := string(data[start:end])
		if m := ripTime.FindStringSubmatch(line); m != nil {
			cues++
			time = m[1]
			continue
		}
		add := func(from, to int, value string, c color.RGB8, alpha float64, f form.Form, why string) {
			s.Add(&audit.Use{Value: value, Color: audit.Screen(c), Alpha: alpha, Where: fmt.Sprintf("%s %d:%d, cue at %s", name, i+1,
				from+1, time), Line: i + 1, Column: from + 1,
				At: []source.Span{{Part: p, Start: start + from, End: start + to}}, Form: f, Why: why})
		}
		for _, m := range ripFont.FindAllStringSubmatchIndex(line, -1) {
			from, to := m[2], m[3]
			for k := 4; from < 0; k += 2 {
				from, to = m[k], m[k+1]
			}
			text := line[from:to]
			from += len(text) - len(strings.TrimLeft(text, " "))
			value := strings.TrimSpace(text)
			to = from + len(value)
			if digits := strings.TrimPrefix(value, "#"); len(digits) == 6 && scanning.IsHex(digits) {
				c, _ := color.FromHex("#" + digits)
				add(from, to, value, c, 1, form.Hex("RGB"), "")
			} else if c, ok := color.Named(value); ok {
				add(from, to, value, c, 1, form.CSS, "")
			} else {
				add(from, to, value, color.RGB8{}, 0, nil, "it is not a color that players know")
			}
		}
		for _, m := range subColor.FindAllStringSubmatchIndex(line, -1) {
			digits := line[m[2]:m[3]]
			if c, alpha, ok := bgr(digits); ok && alpha > 0 {
				add(m[2], m[3], "&H"+digits, c, alpha, blueFirst(digits), "")
			}
		}
	}
	return audit.Plural(cues, "cue"), nil
}

// blueFirst is how digits with blue first are written; of fewer than six, all six.
func blueFirst(digits string) form.Form {
	if len(digits) == 6 || len(digits) == 8 {
		return form.Hex("ABGR")
	}
	return form.Func(func(_ string, to form.Paint) (string, error) {
		return fmt.Sprintf("%02X%02X%02X", to.RGB.B, to.RGB.G, to.RGB.R), nil
	})
}

// ScanSubStation reads SubStation subtitles: the colors of styles, and those that lines change to; blue comes first there.
func ScanSubStation(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	section := ""
	var fields []string
	styles, events := 0, 0
	sub := subStation{s, p, l, name}
	for i, start := range l.Starts {
		end := len(data)
		if i+1 < len(l.Starts) {
			end = l.Starts[i+1]
		}
		line := strings.TrimRight(string(data[start:end]), "\r\n")
		trimmed := strings.TrimSpace(line)
		if strings.HasPrefix(trimmed, "[") {
			section = trimmed
			continue
		}
		key, rest, ok := strings.Cut(line, ":")
		if !ok {
			continue
		}
		at := start + len(key) + 1
		switch key = strings.TrimSpace(key); {
		case key == "Format":
			fields = nil
			for _, f := range strings.Split(rest, ",") {
				fields = append(fields, strings.TrimSpace(f))
			}
		case key == "Style" && strings.Contains(section, "Styles"):
			styles++
			sub.style(i+1, at, rest, fields)
		case key == "Dialogue" || key == "Comment":
			if key == "Comment" { // it is shown to nobody
				continue
			}
			events++
			time := ""
			if parts := strings.SplitN(rest, ",", 3); len(parts) == 3 {
				time = strings.TrimSpace(parts[1])
			}
			for _, m := range subColor.FindAllStringSubmatchIndex(rest, -1) {
				sub.report(i+1, at+m[2], rest[m[2]:m[3]], "line at "+time)
			}
		}
	}
	return audit.Plural(styles, "style") + ", " + audit.Plural(events, "line"), nil
}

// subStation is a script that is read.
type subStation struct {
	scanner *scanning.Scanner
	part    *source.Part
	lines   *scanning.Lines
	name    string
}

// use is a color of a line, written in digits.
func (u subStation) use(line, at int, digits, value string, c color.RGB8, alpha float64, f form.Form, where string) {
	_, column := u.lines.At(at)
	u.scanner.Add(&audit.Use{Value: value, Color: audit.Screen(c), Alpha: alpha,
		Where: fmt.Sprintf("%s %d:%d, %s", u.name, line, column, where),
		Line:  line, Column: column,
		At: []source.Span{{Part: u.part, Start: at, End: at + len(digits)}}, Form: f})
}

// report tells of digits, blue first.
func (u subStation) report(line, at int, digits, where string) {
	c, alpha, ok := bgr(digits)
	if !ok || alpha == 0 {
		return
	}
	u.use(line, at, digits, "&H"+digits, c, alpha, blueFirst(digits), where)
}

// decimal tells of the number that those digits are, which older scripts have.
func (u subStation) decimal(line, at int, digits string, n uint32, where string) {
	c, alpha, ok := bgr(fmt.Sprintf("%08X", n))
	if !ok || alpha == 0 {
		return
	}
	u.use(line, at, digits, digits, c, alpha, form.Func(func(_ string, to form.Paint) (string, error) {
		return strconv.FormatUint(uint64(n&0xff000000)|uint64(to.RGB.B)<<16|uint64(to.RGB.G)<<8|uint64(to.RGB.R), 10), nil
	}), where)
}

// style reads a style, whose values stand behind an offset in the order of the fields.
func (u subStation) style(line, at int, values string, fields []string) {
	style := ""
	for k, v := range strings.Split(values, ",") {
		field := ""
		if k < len(fields) {
			field = fields[k]
		}
		if field == "Name" {
			style = strings.TrimSpace(v)
		}
		if strings.HasSuffix(field, "Colour") {
			place := fmt.Sprintf("style %s, %s", scanning.Shorten(style, 40), strings.ToLower(strings.TrimSuffix(field, "Colour")))
			if m := subHex.FindStringSubmatchIndex(v); m != nil {
				u.report(line, at+m[2], v[m[2]:m[3]], place)
			} else if n, err := strconv.ParseInt(strings.TrimSpace(v), 10, 64); err == nil {
				u.decimal(line, at+strings.Index(v, strings.TrimSpace(v)), strings.TrimSpace(v), uint32(n), place)
			}
		}
		at += len(v) + 1
	}
}

// bgr reads up to eight digits with the transparency, blue, green and red in front of each other; zeros in front may be missing.
func bgr(value string) (c color.RGB8, alpha float64, ok bool) {
	digits := strings.Repeat("0", 8-min(8, len(value))) + value
	c, a, err := form.ReadHex(digits, "ABGR")
	return c, 1 - a, err == nil
}

// ScanTTML reads timed text (TTML 2): the attributes for color of regions, styles and lines.
func ScanTTML(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	part, data, err := scanning.Decoded(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	lines := 0
	err = scanning.Walk(s, part, func(r *markup.Reader, e markup.Event) error {
		if e != markup.Open {
			return nil
		}
		local := string(markup.Local(r.Name))
		if local == "p" {
			lines++
		}
		label := local
		if id := r.Get("id"); id != "" {
			label += " " + scanning.Shorten(id, 40)
		}
		for _, a := range r.Attrs {
			role := map[string]string{"color": "text", "backgroundColor": "background", "textOutline": "outline", "textShadow": "shadow",
				"textEmphasis": "emphasis", "border": "border", "textDecorationColor": "decoration"}[string(markup.Local(a.Name))]
			if role == "" {
				continue
			}
			line, column := l.At(a.Start)
			sheet := web.AttributeAt(s, part, func(int, int, string, string) string {
				return fmt.Sprintf("%s %d:%d, %s, %s", name, line, column, label, role)
			})
			sheet.Value(string(r.Data[a.Start:a.End]), a.Start, line, column, role, 1)
		}
		return nil
	})
	return audit.Plural(lines, "line"), err
}

// ScanMLT reads a timeline of MLT XML: properties that are a color, by their name, in its notations (#AARRGGBB, #RRGGBB, 0xRRGGBBAA).
func ScanMLT(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	part, data, err := scanning.Decoded(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	producers := 0
	var labels []string
	property := ""
	resource := map[int]string{} // by depth: a producer of one color has it as its resource
	start, end := 0, 0
	err = scanning.Walk(s, part, func(r *markup.Reader, e markup.Event) error {
		switch e {
		case markup.Open:
			local := string(markup.Local(r.Name))
			if local == "producer" || local == "filter" || local == "transition" || local == "tractor" || local == "chain" {
				if local == "producer" || local == "chain" {
					producers++
				}
				labels = append(labels, local+" "+scanning.Shorten(r.Get("id"), 40))
			} else {
				labels = append(labels, "")
			}
			property = ""
			if local == "property" {
				property = r.Get("name")
			}
			start, end = r.End, r.End
		case markup.Text:
			if property != "" && (r.Start == start || r.CDATA && end == start) {
				start, end = r.Start, r.End
			}
		case markup.Close:
			if property != "" && end > start {
				raw := string(data[start:end])
				value := strings.TrimSpace(raw)
				at := start + strings.Index(raw, value)
				label := ""
				for i := len(labels) - 1; i >= 0 && label == ""; i-- {
					label = labels[i]
				}
				if property == "mlt_service" {
					resource[len(labels)] = value
				}
				switch {
				case strings.HasPrefix(value, "&lt;") || strings.HasPrefix(value, "<"):
					mltMarkup(s, part, l, name, label, property, r.Decode([]byte(value)),
						source.Span{Part: part, Start: at, End: at + len(value)}, strings.HasPrefix(value, "<"))
				case mltProperty.MatchString(property) && mltKeys.MatchString(value): // it changes with time
					for _, m := range mltKeys.FindAllStringSubmatchIndex(value, -1) {
						mltColor(s, part, l, name, label, property+" at "+value[m[2]:m[3]], value[m[4]:m[5]], at+m[4])
					}
				default:
					mltColor(s, part, l, name, label, property, value, at)
				}
			}
			property = ""
			labels = labels[:max(0, len(labels)-1)]
		}
		return nil
	})
	return audit.Plural(producers, "producer"), err
}

var (
	mltProperty = regexp.MustCompile(`(?i)(colou?r|^resource$|^map_(?:black|white)$)`)
	mltKeys     = regexp.MustCompile(`(?:^|;)\s*([0-9:.,-]+)[!|~$a-zA-Z]*=\s*([^;\s]+)`)
)

// mltMarkup reads a title that a property holds as markup: its attributes that are colors, as other markup has them or as four numbers to
// 255, and its styles.
func mltMarkup(s *scanning.Scanner, part *source.Part, l *scanning.Lines, name, label, property, text string, at source.Span, plain bool) {
	line, column := l.At(at.Start)
	where := fmt.Sprintf("%s %d:%d, %s, %s", name, line, column, strings.TrimSpace(label), property)
	in, err := part.Within(property, at.Start, at.End, []byte(text), func(data []byte) ([]byte, error) {
		if plain {
			return data, nil
		}
		return []byte(strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(string(data))), nil
	})
	if err != nil {
		s.Unread(where, err)
		return
	}
	inside := *s
	inside.Prefix += where + " > "
	w := &web.Page{Scanner: &inside, Part: in, Name: "text", Data: []byte(text), Lines: scanning.NewLines([]byte(text))}
	if err := w.Read(); err != nil {
		s.Unread(where, err)
	}
}

func mltColor(s *scanning.Scanner, part *source.Part, l *scanning.Lines, name, label, property, value string, at int) {
	if !mltProperty.MatchString(property) {
		return
	}
	if rest, ok := strings.CutPrefix(value, "color:"); ok && property == "resource" { // with the name of the producer in front
		value, at = rest, at+len("color:")
	}
	line, column := l.At(at)
	u := audit.Use{Value: value, Where: fmt.Sprintf("%s %d:%d, %s, %s", name, line, column, strings.TrimSpace(label), property), Line: line,
		Column: column,
		At:     []source.Span{{Part: part, Start: at, End: at + len(value)}}}
	order := ""
	digits := strings.TrimPrefix(strings.TrimPrefix(value, "#"), "0x")
	switch {
	case strings.HasPrefix(value, "#") && len(digits) == 8 && scanning.IsHex(digits):
		order = "ARGB"
	case strings.HasPrefix(value, "0x") && len(digits) == 8 && scanning.IsHex(digits):
		order = "RGBA"
	case (strings.HasPrefix(value, "#") || strings.HasPrefix(value, "0x")) && len(digits) == 6 && scanning.IsHex(digits):
		order = "RGB"
	}
	if order == "" {
		if c, ok := color.Named(value); ok && property != "resource" {
			u.Color, u.Form = audit.Screen(c), form.CSS
			s.Add(&u)
		} else if strings.HasPrefix(value, "#") {
			u.Why = "it has another number of digits than a color"
			s.Add(&u)
		}
		return
	}
	rgb, alpha, err := form.ReadHex(value, order)
	if err != nil || alpha == 0 {
		return
	}
	u.Color, u.Alpha, u.Form = audit.Screen(rgb), alpha, form.Hex(order)
	s.Add(&u)
}
