package audit

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// scanAnimation reads an animation (the open JSON format of the Lottie Animation Community): solids, fills and strokes, gradients, texts,
// effects and layer styles with all their keyframes, in every composition.
func scanAnimation(t *tree) (string, error) {
	a := &animation{tree: t, rate: 1, slots: map[string]Color{}}
	if v, ok := t.number(t.root.get("fr")); ok && v > 0 {
		a.rate = v
	}
	if s := t.root.get("slots"); s != nil && s.kind == '{' {
		for i := range s.items {
			a.slot(&s.items[i])
		}
	}
	a.composition(t.root, "main")
	if list := t.root.get("assets"); list != nil {
		for i := range list.items {
			asset := &list.items[i]
			switch {
			case asset.get("layers") != nil:
				a.composition(asset, a.named(asset, "id", "unnamed"))
			case asset.get("p") != nil && asset.get("p").kind == '"':
				if uri := a.text(asset.get("p")); strings.HasPrefix(uri, "data:") {
					n := asset.get("p")
					a.dataURI(t.part, int(n.start)+1, int(n.end)-1, t.data[n.start+1:n.end-1], "picture "+a.named(asset, "id", ""))
				} else if uri != "" {
					a.note("The picture %s lies in another file.", shorten(uri, 60))
				}
			}
		}
	}
	if a.expressions > 0 {
		a.note("%s work out something other than a color while it plays; they are not read.", plural(a.expressions, "expression"))
	}
	return plural(a.compositions, "composition") + ", " + plural(a.layers, "layer"), nil
}

type animation struct {
	*tree
	rate         float64
	compositions int
	layers       int
	expressions  int
	slots        map[string]Color
}

// named is what a thing is called: its own name, else another of its values.
func (a *animation) named(n *node, other, else_ string) string {
	for _, key := range []string{"nm", other} {
		if v := n.get(key); v != nil && v.kind == '"' {
			if s := strings.TrimSpace(a.text(v)); s != "" {
				return shorten(s, 60)
			}
		}
	}
	return else_
}

func (a *animation) composition(n *node, name string) {
	a.compositions++
	if own := n.get("nm"); own != nil && own.kind == '"' && a.text(own) != "" {
		name = shorten(a.text(own), 60)
	}
	list := n.get("layers")
	if list == nil || list.kind != '[' {
		return
	}
	for i := range list.items {
		layer := &list.items[i]
		a.layers++
		place := fmt.Sprintf("comp %s > layer %s", name, a.named(layer, "", strconv.Itoa(i+1)))
		a.walk(layer, place, 0)
	}
}

// roles are the kinds of shapes and effects that have a color.
var roles = map[string]string{"fl": "fill", "st": "stroke", "gf": "gradient fill", "gs": "gradient stroke"}

// walk finds the properties that are colors in a layer, a shape, an effect, a text.
func (a *animation) walk(n *node, place string, depth int) {
	if a.tally.full || n == nil {
		return
	}
	if n.kind == '[' {
		for i := range n.items {
			a.walk(&n.items[i], place, depth+1)
		}
		return
	}
	if n.kind != '{' {
		return
	}
	kind := ""
	if ty := n.get("ty"); ty != nil {
		kind = strings.Trim(a.raw(ty), `"`)
	}
	if depth > 0 && kind == "gr" {
		place += " > " + a.named(n, "", "group")
	}
	for k := range n.items {
		i := &n.items[k]
		switch {
		case i.key == "c" && i.kind == '{':
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
		case i.key == "v" && kind == "2" && i.kind == '{':
			a.property(i, place+" > effect "+a.named(n, "", "color"), a.color)
		case i.key == "g" && i.kind == '{' && i.get("k") != nil:
			stops, _ := a.number(i.get("p"))
			role := roles[kind]
			if role == "" {
				role = "gradient"
			}
			a.property(i.get("k"), place+" > "+role, func(v *node, where string, count int, times string) { a.gradient(v, int(stops), where, times) })
		case (i.key == "sc" || i.key == "fc") && i.kind == '"':
			a.hex(i, place+" > "+map[string]string{"sc": "solid", "fc": "text"}[i.key])
		case (i.key == "fc" || i.key == "sc" || i.key == "s" && false) && i.kind == '[':
			a.color(i, place+" > "+map[string]string{"fc": "text", "sc": "text stroke"}[i.key], 1, "")
		case (i.key == "fc" || i.key == "sc") && i.kind == '{':
			a.property(i, place+" > "+map[string]string{"fc": "text, animated", "sc": "text stroke, animated"}[i.key], a.color)
		case i.key == "x" && i.kind == '"':
			a.expressions++
		case i.kind == '{' || i.kind == '[':
			a.walk(i, place, depth+1)
		}
	}
}

// property reads a property: one value, or keyframes.
func (a *animation) property(n *node, where string, value func(v *node, where string, count int, times string)) {
	if x := n.get("x"); x != nil && x.kind == '"' {
		line, column := a.lines.at(int(x.start))
		a.add(&Use{Value: shorten(strings.Join(strings.Fields(a.text(x)), " "), 120), Where: where + ", expression", Line: line, Column: column, Why: "an expression works it out while it plays"})
	}
	if sid := n.get("sid"); sid != nil && sid.kind == '"' {
		if c, ok := a.slots[a.text(sid)]; ok {
			line, column := a.lines.at(int(sid.start))
			a.add(&Use{Value: a.text(sid), Color: c, Where: where, Link: "slot " + a.text(sid), Line: line, Column: column})
			return
		}
	}
	k := n.get("k")
	if k == nil || k.kind != '[' {
		return
	}
	if len(k.items) == 0 || k.items[0].kind != '{' {
		value(k, where, 1, "")
		return
	}
	for i := range k.items {
		frame := &k.items[i]
		times := ""
		if at, ok := a.number(frame.get("t")); ok {
			times = a.clock(at)
		}
		for _, key := range []string{"s", "e"} {
			v := frame.get(key)
			if v == nil || v.kind != '[' || key == "e" && i+1 < len(k.items) && a.same(v, k.items[i+1].get("s")) {
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
			a.add(&Use{Value: a.data[start:end], Where: where, Why: "its numbers are outside of any color"})
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
	line, column := a.lines.at(start)
	a.add(&Use{Value: shorten(strings.Join(strings.Fields(a.data[start:end]), " "), 80), Color: Screen(color.RGB{R: values[0] / scale, G: values[1] / scale, B: values[2] / scale}.RGB8()),
		Alpha: alpha, Where: where, Define: define, Line: line, Column: column, At: []source.Span{{Part: a.part, Start: start, End: end}}, Form: form.Numbers(scale)})
}

// gradient reads the stops of a gradient: an offset and three numbers each; what follows them is how opaque they are.
func (a *animation) gradient(n *node, stops int, place, times string) {
	values, ok := a.numbers(n)
	if !ok || stops <= 0 || len(values) < 4*stops {
		return
	}
	for i := range stops {
		a.channels2(int(n.items[4*i+1].start), int(n.items[4*i+3].end), values[4*i+1:4*i+4], a.where(fmt.Sprintf("%s, stop %d", place, i+1), times), "")
	}
}

// hex reads a color in digits.
func (a *animation) hex(n *node, place string) {
	text := a.text(n)
	c, err := color.ParseCSS(text)
	if err != nil || c.Alpha == 0 {
		if err != nil && text != "" {
			a.add(&Use{Value: text, Where: place, Why: "it is not a color that is known"})
		}
		return
	}
	line, column := a.lines.at(int(n.start))
	a.add(&Use{Value: text, Color: colorOf(c), Alpha: c.Alpha, Where: place, Line: line, Column: column, At: []source.Span{a.span(n)}, Form: form.Quoted(form.CSS)})
}

// slot reads a value that properties point to.
func (a *animation) slot(n *node) {
	k := n.get("p").get("k")
	values, ok := a.numbers(k)
	if !ok || len(values) < 3 || len(values) > 4 {
		return
	}
	a.channels2(int(k.start), int(k.end), values, "slot "+n.key, "slot "+n.key)
	scale := 1.0
	for _, v := range values[:3] {
		if v > 1 {
			scale = 255
		}
	}
	a.slots[n.key] = Screen(color.RGB{R: values[0] / scale, G: values[1] / scale, B: values[2] / scale}.RGB8())
}
