package office

import (
	"fmt"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// drawing follows the elements of a part with DrawingML in it (ECMA-376 part 1, 20 and 21) and keeps track of where they are in a person's
// terms.
type drawing struct {
	twin  map[audit.Color]bool // of a part that another one was drawn from: the colors that are shown by that one
	scan  *scanning.Scanner
	part  *source.Part
	scope *opc.Scope
	keys  map[string]string // of its slots
	place string
	theme string // key of the theme that the part itself is; empty for others

	frames map[string]string // relationship id to the name of the frame that shows it

	stack     [][]byte   // local names of the open elements
	shapes    []shape    // open shapes and groups, with the depth they opened at
	color     *opc.Color // that is open, in last
	forms     *scanning.Block[drawingForm]
	last      opc.Color
	colorAt   int // depth, and offset of the tag
	colorPos  int
	colorEnd  int
	rows      int
	cells     int
	series    string
	point     string
	slot      string // of a theme, or the name of a custom color
	seriesN   int
	noStyle   bool // inside a style reference with index 0, which paints nothing
	fallback  int  // depth of a fallback whose choice was read, 0 for none
	chosen    []bool
	style     string            // of a table style list
	paragraph int               // of a text, that something else keeps track of; 0 outside of any
	pictures  map[string]string // relationship id to the shape that shows the picture
}

type shape struct {
	name   string
	depth  int
	filled bool // has a fill of its own, so that the one of its style is not seen
	lined  bool
}

func newDrawing(s *scanning.Scanner, p *source.Part, scope opc.Scope, place string) *drawing {
	return &drawing{scan: s, forms: scanning.BlockOf[drawingForm](s.Blocks), part: p, scope: &scope, place: place,
		frames: map[string]string{}, pictures: map[string]string{}}
}

func (d *drawing) event(r *markup.Reader, e markup.Event) error {
	switch e {
	case markup.Open:
		d.start(r)
		d.stack = append(d.stack, markup.Local(r.Name))
	case markup.Close:
		d.stack = d.stack[:max(0, len(d.stack)-1)]
		d.end(r)
	case markup.Text:
		// The cached name of a chart series.
		if d.series != "" && len(d.stack) > 2 && string(d.stack[len(d.stack)-1]) == "v" && d.inside("tx") && d.inside("ser") &&
			!strings.Contains(d.series, "(") {
			d.series += " (" + scanning.Shorten(strings.TrimSpace(r.Decode(r.Data[r.Start:r.End])), 40) + ")"
		}
	}
	return nil
}

func (d *drawing) inside(name string) bool {
	for _, s := range d.stack {
		if string(s) == name {
			return true
		}
	}
	return false
}

// top is the local name of the n-th open element from the inside.
func (d *drawing) top(n int) string {
	if len(d.stack) <= n {
		return ""
	}
	return string(d.stack[len(d.stack)-1-n])
}

func isShape(local []byte) bool {
	switch string(local) {
	case "sp", "pic", "cxnSp", "graphicFrame", "grpSp", "wsp", "wgp", "anchor", "inline", "twoCellAnchor":
		return true
	}
	return false
}

func (d *drawing) start(r *markup.Reader) {
	local := markup.Local(r.Name)
	switch {
	case d.color != nil:
		if len(d.stack) == d.colorAt+1 {
			d.color.Add(r)
		}
		return
	case opc.IsColor(local):
		d.last = opc.StartColor(r)
		d.color, d.colorAt, d.colorPos = &d.last, len(d.stack), r.Start
		d.colorEnd = r.End
		return
	case isShape(local):
		d.shapes = append(d.shapes, shape{depth: len(d.stack)})
		return
	}
	switch string(local) {
	case "AlternateContent":
		d.chosen = append(d.chosen, false)
	case "Choice":
		if n := len(d.chosen); n > 0 {
			d.chosen[n-1] = true
		}
	case "Fallback":
		if n := len(d.chosen); n > 0 && d.chosen[n-1] && d.fallback == 0 {
			d.fallback = len(d.stack) + 1
		}
	case "cNvPr", "docPr":
		if n := len(d.shapes); n > 0 && d.shapes[n-1].name == "" {
			d.shapes[n-1].name = scanning.Shorten(r.Get("name"), 60)
		}
	case "chart", "relIds":
		id := r.Get("id")
		if id == "" {
			id = r.Get("dm")
		}
		if id != "" && len(d.shapes) > 0 {
			d.frames[id] = "chart " + d.shapePath()
		}
	case "blip":
		if id := r.Get("embed"); id != "" && len(d.shapes) > 0 {
			d.pictures[id] = d.shapePath()
		}
	case "fillRef", "lnRef":
		d.noStyle = r.Get("idx") == "0"
	case "tbl":
		d.rows = 0
	case "tr":
		d.rows++
		d.cells = 0
	case "tc":
		d.cells++
	case "ser":
		d.seriesN++
		d.series, d.point = fmt.Sprintf("series %d", d.seriesN), ""
	case "idx":
		if d.top(0) == "dPt" {
			d.point = r.Get("val")
		}
	case "custClr":
		d.slot = "custom color " + scanning.Shorten(r.Get("name"), 40)
	case "tblStyle":
		d.style = scanning.Shorten(r.Get("styleName"), 60)
	case "solidFill", "gradFill", "pattFill", "blipFill", "noFill":
		if n := len(d.shapes); n > 0 {
			switch d.top(0) {
			case "spPr", "grpSpPr":
				d.shapes[n-1].filled = true
			case "ln":
				if d.top(1) == "spPr" && string(local) != "pattFill" && string(local) != "blipFill" {
					d.shapes[n-1].lined = true
				}
			}
		}
	default:
		if d.top(0) == "clrScheme" {
			d.slot = string(local)
		}
	}
}

func (d *drawing) end(r *markup.Reader) {
	local := markup.Local(r.Name)
	switch {
	case d.color != nil:
		if len(d.stack) == d.colorAt {
			d.colorEnd = r.End
			d.report()
			d.color = nil
		}
		return
	case isShape(local):
		if n := len(d.shapes); n > 0 && d.shapes[n-1].depth == len(d.stack) {
			d.shapes = d.shapes[:n-1]
		}
		return
	}
	switch string(local) {
	case "AlternateContent":
		d.chosen = d.chosen[:max(0, len(d.chosen)-1)]
	case "Fallback":
		if d.fallback == len(d.stack)+1 {
			d.fallback = 0
		}
	case "ser":
		d.series = ""
	case "dPt":
		d.point = ""
	case "clrScheme", "custClr":
		d.slot = ""
	case "tblStyle":
		d.style = ""
	}
}

func (d *drawing) shapePath() string { return d.named(d.scan.Texts.Phrase()).Done() }

// named goes on with the names of the shapes that are open.
func (d *drawing) named(p scanning.Phrase) scanning.Phrase {
	last := ""
	for i := range d.shapes {
		if name := d.shapes[i].name; name != "" && name != last { // what has no name stands in something that has
			if last != "" {
				p.More(" > ")
			}
			p.More(name)
			last = name
		}
	}
	if last == "" {
		p.More("unnamed")
	}
	return p
}

// report adds the color that just ended, unless nothing shows it.
func (d *drawing) report() {
	c := d.color
	scheme := c.Kind == "schemeClr"
	if scheme && c.Value == "phClr" {
		return
	}
	what := d.role()
	if what == "" {
		return
	}
	alpha := c.Opacity()
	if alpha == 0 {
		return
	}
	p := d.scan.Texts.Phrase().Add(d.place)
	if d.paragraph > 0 {
		p.Add("paragraph ").Number(d.paragraph)
	}
	if d.slot != "" {
		p.Add(slotLabel(d.slot))
	} else {
		if d.style != "" {
			p.Add("table style ").More(d.style)
		}
		if len(d.shapes) > 0 {
			if d.inside("tbl") && !d.inside("wsp") {
				d.named(p.Add("table ")).Add("row ").Number(d.rows).Add("cell ").Number(d.cells)
			} else {
				d.named(p.Add("shape "))
			}
		}
		if d.series != "" {
			p.Add(d.series)
			if d.point != "" {
				p.Add("point ").More(d.point)
			}
		}
		p.Add(what)
	}
	scope := d.scope
	u := audit.Use{Value: c.Written(), Where: p.Done(), Alpha: alpha, Hidden: d.fallback > 0,
		At: d.scan.Spans.Run(source.Span{Part: d.part, Start: d.colorPos, End: d.colorEnd})}
	rgb, ok := c.RGB(scope.Color)
	switch {
	case ok:
		u.Color = audit.Screen(rgb)
	case scheme:
		u.Why = fmt.Sprintf("the theme has no slot %s", c.Value)
	default:
		u.Why = "it is not a color of the standard"
	}
	if scheme {
		u.Link = d.key(scope.Slot(c.Value))
	} else if d.theme != "" && d.slot != "" && !strings.HasPrefix(d.slot, "custom") {
		u.Define = d.theme + "#" + d.slot
		scope = &noScope // a slot does not point to itself
	}
	u.Form = d.forms.One(drawingForm{*c, scope})
	if d.twin != nil && (scheme || d.twin[u.Color]) {
		u.Hidden = true
	}
	d.scan.Add(&u)
}

var noScope opc.Scope

// key is the key of a slot of the part's theme; there are a dozen of them.
func (d *drawing) key(slot string) string {
	key, ok := d.keys[slot]
	if !ok {
		key = d.scope.Key(slot)
		if d.keys == nil {
			d.keys = map[string]string{}
		}
		if len(d.keys) < 100 {
			d.keys[slot] = key
		}
	}
	return key
}

// drawingForm writes a color element of DrawingML.
type drawingForm struct {
	color opc.Color
	scope *opc.Scope
}

// slotOrder is the order in which slots are linked to.
var slotOrder = []string{"accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "dk1", "lt1", "dk2", "lt2", "hlink", "folHlink"}

func (f *drawingForm) Write(old string, to form.Paint) (string, error) {
	r := markup.NewReader([]byte(old))
	if e, err := r.Next(); err != nil || e != markup.Open {
		return "", fmt.Errorf("%q is not a color", old)
	}
	prefix := ""
	if i := strings.IndexByte(string(r.Name), ':'); i >= 0 {
		prefix = string(r.Name[:i+1])
	}
	if to.Link != nil {
		for _, slot := range slotOrder {
			if f.scope.Slots != nil && to.Link(f.scope.Key(slot)) {
				return element(prefix, "schemeClr", f.name(slot), alphas(old)), nil
			}
		}
	}
	hex := to.RGB.Hex()[1:]
	if f.color.Kind == "srgbClr" {
		base := to.RGB
		if f.color.Changed() {
			was, _ := color.FromHex(f.color.Value)
			ok := false
			if to.Base != nil {
				if base, ok = to.Base(was); ok {
					var got color.RGB8
					got, ok = f.color.With(base)
					ok = ok && got == to.RGB
				}
			}
			if !ok {
				return element(prefix, "srgbClr", hex, alphas(old)), nil
			}
		}
		if a := r.Find("val"); a != nil {
			text, err := form.Hex("RGB").Write(old[a.Start:a.End], form.Paint{RGB: base})
			if err == nil {
				return old[:a.Start] + text + old[a.End:], nil
			}
		}
	}
	return element(prefix, "srgbClr", hex, alphas(old)), nil
}

// name is what a slot is called where it is used: by the color map's name where there is one.
func (f *drawingForm) name(slot string) string {
	for _, n := range []string{"tx1", "bg1", "tx2", "bg2"} {
		if f.scope.Remap[n] == slot {
			return n
		}
	}
	return slot
}

func element(prefix, name, value, inside string) string {
	if inside == "" {
		return fmt.Sprintf(`<%s%s val="%s"/>`, prefix, name, value)
	}
	return fmt.Sprintf(`<%s%s val="%s">%s</%s%s>`, prefix, name, value, inside, prefix, name)
}

// alphas are the transforms of a color that say how opaque it is, as written.
func alphas(old string) string {
	r := markup.NewReader([]byte(old))
	var out strings.Builder
	start := -1
	for {
		e, err := r.Next()
		if err != nil || e == markup.End {
			return out.String()
		}
		switch {
		case e == markup.Open && r.Depth() == 2 && strings.HasPrefix(string(markup.Local(r.Name)), "alpha"):
			start = r.Start
		case e == markup.Close && r.Depth() == 1 && start >= 0:
			out.WriteString(old[start:r.End])
			start = -1
		}
	}
}

func slotLabel(slot string) string {
	switch {
	case strings.HasPrefix(slot, "accent"):
		return "accent " + slot[6:]
	case slot == "dk1" || slot == "dk2":
		return "dark " + slot[2:]
	case slot == "lt1" || slot == "lt2":
		return "light " + slot[2:]
	case slot == "hlink":
		return "hyperlink"
	case slot == "folHlink":
		return "followed hyperlink"
	}
	return slot
}

// role names what the color paints, from the elements around it, the innermost that says something first. It is empty
// for the color of a style that the shape overrides.
func (d *drawing) role() string {
	gradient := ""
	line := false
	for i := len(d.stack) - 1; i >= 0; i-- {
		switch s := string(d.stack[i]); s {
		case "gs":
			gradient = ", gradient"
		case "fgClr", "bgClr":
			gradient = ", pattern"
		case "ln", "uLn":
			line = true
		case "lnL", "lnR", "lnT", "lnB", "lnTlToBr", "lnBlToTr", "left", "right", "top", "bottom", "insideH", "insideV":
			return "border"
		case "highlight":
			return "highlight"
		case "buClr":
			return "bullet"
		case "outerShdw", "innerShdw", "prstShdw":
			return "shadow"
		case "glow":
			return "glow"
		case "duotone", "clrChange", "clrRepl", "alphaInv", "biLevel":
			return "picture effect"
		case "extrusionClr", "contourClr":
			return "depth"
		case "rPr", "defRPr", "endParaRPr", "tcTxStyle":
			if line {
				return "text outline"
			}
			return "text" + gradient
		case "fontRef":
			return "" // a font reference is overridden by the placeholder's and the run's own colors
		case "fillRef", "effectRef", "lnRef":
			n := len(d.shapes)
			switch {
			case d.noStyle, n > 0 && s == "fillRef" && d.shapes[n-1].filled, n > 0 && s == "lnRef" && d.shapes[n-1].lined, s == "effectRef":
				return ""
			case s == "fillRef":
				return "style fill"
			}
			return "style line"
		case "tcPr":
			return "fill" + gradient
		case "bg", "bgPr", "bgRef":
			return "background" + gradient
		case "majorGridlines", "minorGridlines":
			return "grid line"
		case "catAx", "valAx", "dateAx", "serAx":
			if line {
				return "axis line"
			}
			return "axis" + gradient
		case "marker":
			if line {
				return "marker line"
			}
			return "marker" + gradient
		case "spPr", "grpSpPr":
			if i > 0 && (string(d.stack[i-1]) == "marker" || strings.HasSuffix(string(d.stack[i-1]), "Ax") ||
				strings.HasSuffix(string(d.stack[i-1]), "Gridlines")) {
				continue
			}
			if line {
				return "line" + gradient
			}
			return "fill" + gradient
		}
	}
	if line {
		return "line" + gradient
	}
	return "color"
}
