package office

import (
	"bytes"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/source"
)

// systemPlaces are the places in a palette of what the system gives texts, grounds and notes.
var systemPlaces = map[string]bool{"[64]": true, "[65]": true, "[80]": true, "[81]": true}

// wordOnly writes a color without its place in a palette, which would be of another.
var wordOnly = form.Func(func(old string, to form.Paint) (string, error) {
	word, _, _ := strings.Cut(old, " ")
	return form.CSS.Write(word, to)
})

// vml follows the elements of a drawing in VML.
type vml struct {
	scan   *scanning.Scanner
	part   *source.Part
	place  string
	hidden bool
	names  []string
}

func (v *vml) event(r *markup.Reader, e markup.Event) {
	switch e {
	case markup.Open:
		v.names = append(v.names, v.open(r))
	case markup.Close:
		v.names = v.names[:max(0, len(v.names)-1)]
	}
}

// open reads the colors of one element and gives its name.
func (v *vml) open(r *markup.Reader) string {
	local := string(markup.Local(r.Name))

	name := ""
	if n := len(v.names); n > 0 {
		name = v.names[n-1]
	}
	switch local {
	case "shape", "rect", "oval", "line", "polyline", "roundrect", "group", "background":
		if id := r.Get("id"); id != "" {
			name = scanning.Shorten(id, 40)
		} else {
			name = local
		}
	}
	if bytes.HasPrefix(r.Name, []byte("w:")) { // text in a shape, which is read with the other text
		return name
	}
	off := map[string]bool{"fillcolor": r.Get("filled") == "f" || r.Get("filled") == "false", "strokecolor": r.Get("stroked") == "f" ||
		r.Get("stroked") == "false"}
	for _, a := range r.Attrs {
		attribute := string(markup.Local(a.Name))
		switch attribute {
		case "fillcolor", "strokecolor", "color", "color2", "chromakey", "bgcolor":
		default:
			continue
		}
		if off[attribute] {
			continue
		}
		raw := r.Data[a.Start:a.End]
		text := strings.TrimSpace(r.Value(a))
		word, palette, _ := strings.Cut(text, " ")
		if word == "" || strings.HasPrefix(word, "none") || systemPlaces[palette] {
			continue
		}
		where := v.place + ", legacy shape"
		if name != "" {
			where += " " + name
		}
		u := audit.Use{Value: text, Where: where + ", " + attribute, Hidden: v.hidden}
		c, err := color.ParseCSS(word)
		switch {
		case err == nil && c.CMYK == nil:
			u.Color = audit.Seen(c)
			from := strings.Index(string(raw), word)
			if from < 0 {
				continue
			}
			u.At = []source.Span{{Part: v.part, Start: a.Start + from, End: a.Start + len(strings.TrimRight(string(raw), " \t\r\n"))}}
			u.Form = wordOnly
		case strings.HasPrefix(word, "fill") || strings.HasPrefix(word, "line") || strings.HasPrefix(word, "this"):
			u.Why = "it is made from another color of the drawing"
		default:
			u.Why = "it names a color of the system"
		}
		v.scan.Add(&u)
	}
	return name
}
