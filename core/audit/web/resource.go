package web

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/source"
)

// ScanResource reads XML of no kind of its own: the resources, vector pictures and layouts of applications. Attributes and elements are
// colors by their notation, or by their name.
func ScanResource(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	part, data, err := scanning.Decoded(p)
	if err != nil {
		return "", err
	}
	x := &resource{Scanner: s, part: part, name: name, data: data, lines: scanning.NewLines(data)}
	type element struct {
		local, label string
		start, end   int // of its text
		parent       bool
	}
	var open []element
	elements := 0
	err = scanning.Walk(s, part, func(r *markup.Reader, e markup.Event) error {
		switch e {
		case markup.Open:
			elements++
			if elements == 1 {
				head := r.Data[r.Start:r.End]
				x.front = bytes.Contains(head, []byte("schemas.android.com")) || bytes.Contains(head, []byte("winfx")) ||
					bytes.Contains(head, []byte("avaloniaui")) || bytes.Contains(head, []byte("dotnet/20")) || string(r.Name) == "resources"
				x.names = x.front && !bytes.Contains(head, []byte("android")) && string(r.Name) != "resources"
			}
			if len(open) > 0 {
				open[len(open)-1].parent = true
			}
			local, label := string(markup.Local(r.Name)), ""
			for _, a := range r.Attrs {
				if n := string(markup.Local(a.Name)); label == "" && (n == "name" || n == "Name" || n == "Key" || n == "id") {
					label = scanning.Shorten(r.Value(a), 60)
				}
			}
			if label == "" {
				label = local
			}
			if local == "srgbClr" && len(open) > 0 { // of the part of an office document that is a theme
				if a := r.Find("val"); a != nil {
					x.bare(a.Start, a.End, open[len(open)-1].local)
				}
			}
			open = append(open, element{local: local, label: label})
			for _, a := range r.Attrs {
				n := string(markup.Local(a.Name))
				painted := resourcePaints(n)
				if n == "Value" || n == "value" { // of a setter, for the property that it names
					property := r.Get("Property") + r.Get("attributeName")
					painted = resourcePaints(property[strings.LastIndexByte(property, '.')+1:])
				}
				x.value(a.Start, a.End, label, n, painted)
			}
		case markup.Text:
			if n := len(open); n > 0 && !open[n-1].parent && open[n-1].end == 0 {
				open[n-1].start, open[n-1].end = r.Start, r.End
			}
		case markup.Close:
			n := len(open)
			in := open[n-1]
			open = open[:n-1]
			if in.parent || in.end == 0 {
				return nil
			}
			painted := resourcePaints(in.local) || Paints(in.label)
			x.value(in.start, in.end, in.label, "", painted)
		}
		return nil
	})
	return audit.Plural(elements, "element"), err
}

// resourcePaints says whether a property of an application is a color.
func resourcePaints(property string) bool {
	return Paints(property) || strings.HasSuffix(property, "Brush") || strings.HasSuffix(property, "Foreground") ||
		strings.HasPrefix(property, "tint")
}

type resource struct {
	*scanning.Scanner
	part  *source.Part
	name  string
	data  []byte
	lines *scanning.Lines
	front bool // opacity stands in front of the digits, as these kinds of XML have it
	names bool // colors may be named
}

var (
	scrgb      = regexp.MustCompile(`^sc#\s*(?:([\d.]+)\s*,\s*)?([\d.]+)\s*,\s*([\d.]+)\s*,\s*([\d.]+)$`)
	atDigits   = regexp.MustCompile(`^#[0-9A-Fa-f]{6}(?:[0-9A-Fa-f]{2})?$`)
	fewDigits  = regexp.MustCompile(`^#[0-9A-Fa-f]{3,4}$`)
	namedColor = regexp.MustCompile(`^[A-Za-z]{3,20}$`)
)

// bare reads six digits without a mark.
func (x *resource) bare(start, end int, label string) {
	text := string(x.data[start:end])
	c, alpha, err := form.ReadHex(text, "RGB")
	if err != nil || alpha != 1 || len(text) != 6 {
		return
	}
	line, column := x.lines.At(start)
	x.Add(&audit.Use{Value: text, Color: audit.Screen(c), Alpha: 1, Where: x.Texts.Place(x.name, line, column, label, ""), Line: line,
		Column: column, At: []source.Span{{Part: x.part, Start: start, End: end}}, Form: form.Hex("RGB")})
}

// value reads what an attribute or an element holds.
func (x *resource) value(start, end int, label, property string, painted bool) {
	text := string(bytes.TrimSpace(x.data[start:end]))
	if len(text) < 3 || len(text) > 80 || !painted && (text[0] != '#' || NoStyle(property)) {
		return
	}
	at := start + bytes.Index(x.data[start:end], []byte(text))
	line, column := x.lines.At(at)
	u := &audit.Use{Value: text, Alpha: 1, Where: x.Texts.Place(x.name, line, column, label, property), Line: line, Column: column,
		At: []source.Span{{Part: x.part, Start: at, End: at + len(text)}}}
	switch {
	case atDigits.MatchString(text):
		order := "RGB"
		if len(text) == 9 {
			if order = "ARGB"; !x.front {
				switch front, behind := strings.EqualFold(text[1:3], "FF"), strings.EqualFold(text[7:], "FF"); {
				case behind && !front:
					order = "RGBA"
				case front == behind:
					u.Why, u.At = "whether its opacity stands in front or behind is not known", nil
					x.Add(u)
					return
				}
			}
		}
		c, alpha, err := form.ReadHex(text, order)
		if err != nil || alpha == 0 {
			return
		}
		u.Color, u.Alpha, u.Form = audit.Screen(c), alpha, form.Hex(order)
	case !painted:
		return
	case fewDigits.MatchString(text):
		whole := "#"
		for _, d := range text[1:] {
			whole += string(d) + string(d)
		}
		order := "RGB"
		if len(text) == 5 {
			order = "ARGB"
		}
		c, alpha, err := form.ReadHex(whole, order)
		if err != nil || alpha == 0 {
			return
		}
		u.Color, u.Alpha = audit.Screen(c), alpha
		u.Form = form.Func(func(_ string, to form.Paint) (string, error) { return form.Hex(order).Write(whole, to) })
	case scrgb.MatchString(text): // linear, with the opacity in front
		m := scrgb.FindStringSubmatchIndex(text)
		var of [3]Channel
		for i := range of {
			c, _, ok := ReadChannel(text[m[4+2*i]:m[5+2*i]], m[4+2*i])
			if c.Full = 1; !ok {
				return
			}
			of[i] = c
		}
		if m[2] >= 0 {
			u.Alpha, _ = strconv.ParseFloat(text[m[2]:m[3]], 64)
		}
		var err error
		if u.Color, err = ChannelColor("srgb-linear", of); err != nil || u.Alpha <= 0 {
			return
		}
		u.Alpha, u.Form = min(1, u.Alpha), ChannelForm("srgb-linear", of)
	case x.names && namedColor.MatchString(text):
		c, ok := color.Named(text)
		if !ok {
			return // a resource, a style, a word
		}
		u.Color = audit.Screen(c)
		u.Form = form.Func(func(_ string, to form.Paint) (string, error) { return to.RGB.Hex(), nil })
	default:
		return
	}
	x.Add(u)
}
