package datafile

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// scanAnimation reads an animation (the open JSON format of the Lottie Animation Community): solids, fills and strokes, gradients, texts,
// effects and layer styles with all their keyframes, in every composition.
func scanAnimation(t *tree) (string, error) {
	a := &animation{tree: t, rate: 1, slots: map[string]audit.Color{}}
	if v, ok := t.number(t.get(t.root, "fr")); ok && v > 0 {
		a.rate = v
	}
	if s := t.get(t.root, "slots"); s != nil && s.kind == '{' {
		for _, in := range t.each(s) {
			a.slot(in)
		}
	}
	a.composition(t.root, "main")
	if list := t.get(t.root, "assets"); list != nil {
		for _, asset := range t.each(list) {
			switch {
			case t.get(asset, "layers") != nil:
				a.composition(asset, a.named(asset, "id", "unnamed"))
			case t.get(asset, "p") != nil && t.get(asset, "p").kind == '"':
				if uri := a.text(t.get(asset, "p")); strings.HasPrefix(uri, "data:") {
					n := t.get(asset, "p")
					web.DataURI(a.Scanner, t.part, int(n.start)+1, int(n.end)-1, t.data[n.start+1:n.end-1],
						"picture "+a.named(asset, "id", ""))
				} else if uri != "" {
					a.Note("The picture %s lies in another file.", scanning.Shorten(uri, 60))
				}
			}
		}
	}
	if a.expressions > 0 {
		a.Note("%s work out something other than a color while it plays; they are not read.", audit.Plural(a.expressions, "expression"))
	}
	return audit.Plural(a.compositions, "composition") + ", " + audit.Plural(a.layers, "layer"), nil
}

type animation struct {
	*tree
	rate         float64
	compositions int
	layers       int
	expressions  int
	slots        map[string]audit.Color
}

// named is what a thing is called: its own name, else another of its values.
func (a *animation) named(n *node, other, else_ string) string {
	for _, key := range []string{"nm", other} {
		if v := a.get(n, key); v != nil && v.kind == '"' {
			if s := strings.TrimSpace(a.text(v)); s != "" {
				return scanning.Shorten(s, 60)
			}
		}
	}
	return else_
}

func (a *animation) composition(n *node, name string) {
	a.compositions++
	if own := a.get(n, "nm"); own != nil && own.kind == '"' && a.text(own) != "" {
		name = scanning.Shorten(a.text(own), 60)
	}
	list := a.get(n, "layers")
	if list == nil || list.kind != '[' {
		return
	}
	for i, layer := range a.each(list) {
		a.layers++
		if matte, ok := a.number(a.get(layer, "td")); ok && matte == 1 { // it is not drawn, and says where another layer is
			continue
		}
		place := fmt.Sprintf("comp %s > layer %s", name, a.named(layer, "", strconv.Itoa(i+1)))
		a.walk(layer, place, 0)
	}
}

// roles are the kinds of shapes and effects that have a color.
var roles = map[string]string{"fl": "fill", "st": "stroke", "gf": "gradient fill", "gs": "gradient stroke"}

// walk finds the properties that are colors in a layer, a shape, an effect, a text.
func (a *animation) walk(n *node, place string, depth int) {
	if a.Tally.Full || n == nil {
		return
	}
	if n.kind == '[' {
		for _, in := range a.each(n) {
			a.walk(in, place, depth+1)
		}
		return
	}
	if n.kind != '{' {
		return
	}
	kind := ""
	if ty := a.get(n, "ty"); ty != nil {
		kind = strings.Trim(a.raw(ty), `"`)
	}
	if depth > 0 && kind == "gr" {
		place += " > " + a.named(n, "", "group")
	}
	for _, i := range a.each(n) {
		switch {
		case a.key(i) == "c" && i.kind == '{':
			role := roles[kind]
			if role == "" {
				role = "color"
				if nm := a.named(n, "", ""); nm != "" {
					role = "style " + nm
				}
			} else if nm := a.named(n, "", ""); nm != "" && !strings.EqualFold(nm, role) {
				role += " " + nm
			}
			a.property(i, place+" > "+role, a.color)
		case a.key(i) == "v" && kind == "2" && i.kind == '{':
			a.property(i, place+" > effect "+a.named(n, "", "color"), a.color)
		case a.key(i) == "g" && i.kind == '{' && a.get(i, "k") != nil:
			stops, _ := a.number(a.get(i, "p"))
			role := roles[kind]
			if role == "" {
				role = "gradient"
			}
			a.property(a.get(i, "k"), place+" > "+role,
				func(v *node, where string, count int, times string) { a.gradient(v, int(stops), where, times) })
		case (a.key(i) == "sc" || a.key(i) == "fc") && i.kind == '"':
			a.hex(i, place+" > "+map[string]string{"sc": "solid", "fc": "text"}[a.key(i)])
		case (a.key(i) == "fc" || a.key(i) == "sc") && i.kind == '[':
			a.color(i, place+" > "+map[string]string{"fc": "text", "sc": "text stroke"}[a.key(i)], 1, "")
		case (a.key(i) == "fc" || a.key(i) == "sc") && i.kind == '{':
			a.property(i, place+" > "+map[string]string{"fc": "text, animated", "sc": "text stroke, animated"}[a.key(i)], a.color)
		case a.key(i) == "x" && i.kind == '"':
			a.expressions++
		case i.kind == '{' || i.kind == '[':
			a.walk(i, place, depth+1)
		}
	}
}

// property reads a property: one value, or keyframes.
func (a *animation) property(n *node, where string, value func(v *node, where string, count int, times string)) {
	if x := a.get(n, "x"); x != nil && x.kind == '"' {
		line, column := a.lines.At(int(x.start))
		a.Add(&audit.Use{Value: scanning.Shorten(strings.Join(strings.Fields(a.text(x)), " "), 120), Where: where + ", expression",
			Line: line, Column: column, Why: "an expression works it out while it plays"})
	}
	if sid := a.get(n, "sid"); sid != nil && sid.kind == '"' {
		if c, ok := a.slots[a.text(sid)]; ok {
			line, column := a.lines.At(int(sid.start))
			a.Add(&audit.Use{Value: a.text(sid), Color: c, Where: where, Link: "slot " + a.text(sid), Line: line, Column: column})
			return
		}
	}
	k := a.get(n, "k")
	if k == nil || k.kind != '[' {
		return
	}
	if len(a.items(k)) == 0 || a.items(k)[0].kind != '{' {
		value(k, where, 1, "")
		return
	}
	for i, frame := range a.each(k) {
		times := ""
		if at, ok := a.number(a.get(frame, "t")); ok {
			times = a.clock(at)
		}
		for _, key := range []string{"s", "e"} {
			v := a.get(frame, key)
			if v == nil || v.kind != '[' || key == "e" && i+1 < len(a.items(k)) && a.same(v, a.get(&a.items(k)[i+1], "s")) {
				continue
			}
			value(v, where, 1, times)
		}
	}
}

func (a *animation) same(x, y *node) bool {
	p, ok1 := a.numbers(x)
	q, ok2 := a.numbers(y)
	return ok1 && ok2 && slices.Equal(p, q)
}

// clock is the time of a frame.
func (a *animation) clock(frame float64) string {
	s := frame / a.rate
	return fmt.Sprintf("%d:%05.2f", int(s)/60, math.Mod(s, 60))
}

func (a *animation) where(place, times string) string {
	if times == "" {
		return place
	}
	return place + ", at " + times
}

// color reads three or four numbers.
func (a *animation) color(n *node, place string, count int, times string) {
	values, ok := a.numbers(n)
	if !ok || len(values) < 3 || len(values) > 4 {
		return
	}
	a.channels2(int(n.start), int(n.end), values, a.where(place, times), "")
}

// channels2 reports three channels that stand in a span.
func (a *animation) channels2(start, end int, values []float64, where, define string) {
	scale := 1.0
	for _, v := range values[:3] {
		if v > 1 {
			scale = 255
		}
		if v < 0 || v > 255 {
			a.Add(&audit.Use{Value: a.data[start:end], Where: where, Why: "its numbers are outside of any color"})
			return
		}
	}
	alpha := 1.0
	if len(values) == 4 {
		if alpha = values[3]; alpha > 1 {
			alpha /= 255
		}
	}
	if alpha <= 0 {
		return
	}
	line, column := a.lines.At(start)
	a.Add(&audit.Use{Value: scanning.Shorten(strings.Join(strings.Fields(a.data[start:end]), " "), 80),
		Color: audit.Screen(color.RGB{R: values[0] / scale, G: values[1] / scale, B: values[2] / scale}.RGB8()),
		Alpha: alpha, Where: where, Define: define, Line: line, Column: column, At: []source.Span{{Part: a.part, Start: start, End: end}},
		Form: form.Numbers(scale)})
}

// gradient reads the stops of a gradient: an offset and three numbers each; what follows them is how opaque they are.
func (a *animation) gradient(n *node, stops int, place, times string) {
	values, ok := a.numbers(n)
	if !ok || stops <= 0 || len(values) < 4*stops {
		return
	}
	for i := range stops {
		a.channels2(int(a.items(n)[4*i+1].start), int(a.items(n)[4*i+3].end), values[4*i+1:4*i+4],
			a.where(fmt.Sprintf("%s, stop %d", place, i+1), times), "")
	}
}

// hex reads a color in digits.
func (a *animation) hex(n *node, place string) {
	text := a.text(n)
	c, err := color.ParseCSS(text)
	if err != nil || c.Alpha == 0 {
		if err != nil && text != "" {
			a.Add(&audit.Use{Value: text, Where: place, Why: "it is not a color that is known"})
		}
		return
	}
	line, column := a.lines.At(int(n.start))
	a.Add(&audit.Use{Value: text, Color: audit.ColorOf(c), Alpha: c.Alpha, Where: place, Line: line, Column: column,
		At: []source.Span{a.span(n)}, Form: form.Quoted(form.CSS)})
}

// slot reads a value that properties point to.
func (a *animation) slot(n *node) {
	k := a.get(a.get(n, "p"), "k")
	values, ok := a.numbers(k)
	if !ok || len(values) < 3 || len(values) > 4 {
		return
	}
	a.channels2(int(k.start), int(k.end), values, "slot "+a.key(n), "slot "+a.key(n))
	scale := 1.0
	for _, v := range values[:3] {
		if v > 1 {
			scale = 255
		}
	}
	a.slots[a.key(n)] = audit.Screen(color.RGB{R: values[0] / scale, G: values[1] / scale, B: values[2] / scale}.RGB8())
}
