package audit

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/icc"
	"huekeep/core/limits"
	"huekeep/core/pdfdoc"
	"huekeep/core/picture"
	"huekeep/core/source"
)

func isPDF(data []byte) bool {
	return bytes.Contains(data[:min(len(data), 1024)], []byte("%PDF-"))
}

// scanPDF reads what the pages of a PDF paint with (ISO 32000-1, 8.6): the operators of their contents, of forms, patterns and annotations
// in gray, RGB, CMYK, inks by name and spaces with a profile; shadings; pictures.
func scanPDF(s *scanner, p *source.Part, _ string) (about string, err error) {
	defer func() {
		if r := recover(); r != nil { // the reader of PDF is not known to be free of panics on hostile files
			about, err = "", errors.New("the PDF is damaged")
		}
	}()
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	ctx, err := pdfdoc.Open(data)
	if err != nil {
		return "", err
	}
	d := &pdfScan{scanner: s, root: p, ctx: ctx, parts: map[int]*source.Part{}, objects: map[*source.Part]pdfObject{}, visited: map[string]bool{}, taken: map[string][]taken{}, left: limits.UnpackedBytes / 4}
	if ctx.Encrypt != nil {
		d.fixed = "the PDF is encrypted"
		s.note("The PDF is encrypted; its colors are read, and cannot be repainted.")
	}
	p.Hold(d.rewrite)
	pages := ctx.PageCount
	for n := 1; n <= pages; n++ {
		if err := s.Watch.at(fmt.Sprintf("page %d of %d", n, pages), float64(n-1)/float64(pages)); err != nil {
			return "", err
		}
		page, _, inherited, err := ctx.PageDict(n, false)
		if err != nil || page == nil {
			s.unread(fmt.Sprintf("page %d", n), errors.New("it cannot be read"))
			continue
		}
		resources := d.dict(page["Resources"])
		if resources == nil && inherited != nil {
			resources = inherited.Resources
		}
		d.page = fmt.Sprintf("page %d", n)
		d.contents(page["Contents"], resources)
		d.annotations(page["Annots"])
		if s.tally.full {
			return "", s.tally.check()
		}
	}
	if form := d.dict(ctx.RootDict["AcroForm"]); form != nil {
		if flags, err := ctx.DereferenceNumber(form["SigFlags"]); err == nil && int(flags)&1 != 0 {
			s.note("The PDF is signed; repainting it would end the signature.")
		}
	}
	return plural(pages, "page"), nil
}

type pdfScan struct {
	*scanner
	root    *source.Part
	ctx     *model.Context
	parts   map[int]*source.Part // streams and dictionaries by object number
	objects map[*source.Part]pdfObject
	visited map[string]bool
	taken   map[string][]taken // of a form that has been read
	left    int64
	page    string
	fixed   string // why nothing can be repainted, empty if it can
}

// pdfObject is what a part is of: a stream with its dictionary, or another object as text.
type pdfObject struct {
	number, generation int
	stream             *types.StreamDict
}

func (d *pdfScan) dict(o types.Object) types.Dict {
	v, _ := d.ctx.DereferenceDict(o)
	return v
}

func (d *pdfScan) array(o types.Object) types.Array {
	v, _ := d.ctx.DereferenceArray(o)
	return v
}

func (d *pdfScan) name(o types.Object) string {
	v, err := d.ctx.Dereference(o)
	if err != nil {
		return ""
	}
	n, _ := v.(types.Name)
	text, err := types.DecodeName(string(n))
	if err != nil {
		return string(n)
	}
	return text
}

func (d *pdfScan) numbers(o types.Object) ([]float64, bool) {
	list := d.array(o)
	var out []float64
	for _, v := range list {
		n, err := d.ctx.DereferenceNumber(v)
		if err != nil {
			return nil, false
		}
		out = append(out, n)
	}
	return out, len(out) > 0
}

// stream is a stream's content as a part; nil for what is none or cannot be unpacked.
func (d *pdfScan) stream(o types.Object) (*source.Part, *types.StreamDict) {
	ref, ok := o.(types.IndirectRef)
	if !ok {
		return nil, nil
	}
	number := int(ref.ObjectNumber)
	x, _, err := d.ctx.DereferenceStreamDict(ref)
	if err != nil || x == nil {
		return nil, nil
	}
	if p, known := d.parts[number]; known {
		return p, x
	}
	d.parts[number] = nil
	if err := x.DecodeWithLimit(limits.PDFStream); err != nil {
		d.unread(fmt.Sprintf("%s, object %d", d.page, number), errors.New("it is damaged or too large to unpack"))
		return nil, x
	}
	content := x.Content
	x.Content = nil // the library would keep it
	if d.left -= int64(len(content)); d.left < 0 {
		d.unread(fmt.Sprintf("%s, object %d", d.page, number), fmt.Errorf("the PDF unpacks to over %s", limits.Size(limits.UnpackedBytes/4)))
		return nil, x
	}
	p := d.root.Held(fmt.Sprintf("object %d", number), content)
	d.parts[number] = p
	d.objects[p] = pdfObject{number, int(ref.GenerationNumber), x}
	return p, x
}

// text is an object that is no stream as a part: its text, as the library writes it.
func (d *pdfScan) text(o types.Object) *source.Part {
	ref, ok := o.(types.IndirectRef)
	if !ok {
		return nil
	}
	number := int(ref.ObjectNumber)
	if p, known := d.parts[number]; known {
		return p
	}
	v, err := d.ctx.Dereference(ref)
	if err != nil {
		return nil
	}
	p := d.root.Held(fmt.Sprintf("object %d", number), []byte(v.PDFString()))
	d.parts[number] = p
	d.objects[p] = pdfObject{number, int(ref.GenerationNumber), nil}
	return p
}

// rewrite appends the objects that changed.
func (d *pdfScan) rewrite(changed map[*source.Part][]byte) ([]byte, error) {
	data, err := d.root.Bytes()
	if err != nil {
		return nil, err
	}
	objects := map[int]pdfdoc.Object{}
	for p, content := range changed {
		o := d.objects[p]
		body := content
		if o.stream != nil {
			var b strings.Builder
			keys := sorted(o.stream.Dict)
			for _, k := range keys {
				switch k {
				case "Length", "Filter", "DecodeParms", "DL":
					continue
				}
				b.WriteString("/" + types.EncodeName(k) + " " + pdfText(o.stream.Dict[k]))
			}
			body = pdfdoc.Stream(b.String(), content)
		}
		objects[o.number] = pdfdoc.Object{Generation: o.generation, Body: body}
	}
	return pdfdoc.Update(data, d.ctx, objects)
}

func pdfText(o types.Object) string {
	if o == nil {
		return "null"
	}
	return o.PDFString()
}

// contents reads what a page draws: one stream, or several that belong together (7.8.2).
func (d *pdfScan) contents(o types.Object, resources types.Dict) {
	var streams types.Array
	if v, err := d.ctx.Dereference(o); err == nil {
		if list, ok := v.(types.Array); ok {
			streams = list
		} else {
			streams = types.Array{o}
		}
	}
	var pieces []piece
	for _, s := range streams {
		if p, _ := d.stream(s); p != nil {
			data, _ := p.Bytes()
			pieces = append(pieces, piece{p, data})
		}
	}
	if len(pieces) > 0 {
		d.read(pieces, resources, "", 0, ink{space: deviceGray})
	}
}

// piece is a stream that others continue.
type piece struct {
	part *source.Part
	data []byte
}

// pdfSpace is a color space as far as it matters here.
type pdfSpace struct {
	kind   string // gray, rgb, cmyk, lab, indexed, spot, pattern; empty for what is not known
	n      int    // components
	inks   []string
	under  *pdfSpace
	tint   types.Object
	own    *icc.Transform // of a space with a profile that is not sRGB
	table  []byte         // of an indexed one
	direct bool           // a device space: an operator that names it can be taken instead
}

var (
	deviceGray = &pdfSpace{kind: "gray", n: 1, direct: true}
	deviceRGB  = &pdfSpace{kind: "rgb", n: 3, direct: true}
	deviceCMYK = &pdfSpace{kind: "cmyk", n: 4, direct: true}
)

// ink is a color that was set and waits for something to be painted with it.
type ink struct {
	space *pdfSpace
	set   *setting
	outer bool // it is that of whoever shows the form
}

type setting struct {
	values     []float64
	start, end int
	piece      piece // none if its operands stand in two
	pattern    types.Object
	named      string // the pattern
	op         string
	told       map[string]bool
}

// taken is something that a form paints with a color that was set before the form was shown (8.10.1).
type taken struct {
	stroke      bool
	place, role string
}

// Text is filled, outlined, both or neither, by a number from 0 to 7 of which those from 4 on clip too (9.3.6).
const (
	textFilled = iota
	textOutlined
	textBoth
	textHidden
)

// read walks over the operators of a content stream that begins with a color, and tells what is painted with one of outside.
func (d *pdfScan) read(pieces []piece, resources types.Dict, place string, depth int, begin ink) (outside []taken) {
	if depth > 12 {
		return nil
	}
	type state struct {
		fill, stroke ink
		mode         int // of text
	}
	now := state{fill: begin, stroke: begin}
	var saved []state
	paint := func(k *ink, place, role string) {
		if !k.outer {
			d.painted(k, resources, place, role, depth)
			return
		}
		const most = 64
		if t := (taken{k == &now.stroke, place, role}); len(outside) < most && !slices.Contains(outside, t) {
			outside = append(outside, t)
		}
	}
	write := func() {
		switch now.mode % 4 {
		case textOutlined:
			paint(&now.stroke, place, "text")
		case textBoth:
			paint(&now.stroke, place, "outline of text")
			paint(&now.fill, place, "text")
		case textFilled:
			paint(&now.fill, place, "text")
		}
	}
	var operands []float64
	first, firstPiece, name := -1, 0, ""
	for pieceAt, pc := range pieces {
		lex := pdfLexer{data: pc.data}
		for {
			word, start, end := lex.next()
			if word == nil {
				break
			}
			if first < 0 {
				first, firstPiece = start, pieceAt
			}
			if c := word[0]; c >= '0' && c <= '9' || c == '-' || c == '+' || c == '.' {
				if v, err := strconv.ParseFloat(string(word), 64); err == nil && !math.IsNaN(v) && !math.IsInf(v, 0) {
					if operands = append(operands, v); len(operands) > 64 { // no operator takes so many
						operands, first = operands[:0], start
					}
					continue
				}
			}
			if word[0] == '/' {
				name, _ = types.DecodeName(string(word[1:]))
				continue
			}
			if word[0] == '(' || word[0] == '[' || word[0] == '<' {
				continue
			}
			op := string(word)
			set := func(to *ink, space *pdfSpace) {
				if space != nil {
					to.space = space
				}
				to.outer = false
				to.set = &setting{values: append([]float64{}, operands...), start: first, end: end, op: op, told: map[string]bool{}}
				if name != "" {
					to.set.pattern, to.set.named = d.dict(resources["Pattern"])[name], name
				}
				if firstPiece == pieceAt {
					to.set.piece = pc
				}
			}
			switch op {
			case "q":
				if len(saved) < 512 {
					saved = append(saved, now)
				}
			case "Q":
				if n := len(saved); n > 0 {
					now, saved = saved[n-1], saved[:n-1]
				}
			case "g":
				set(&now.fill, deviceGray)
			case "G":
				set(&now.stroke, deviceGray)
			case "rg":
				set(&now.fill, deviceRGB)
			case "RG":
				set(&now.stroke, deviceRGB)
			case "k":
				set(&now.fill, deviceCMYK)
			case "K":
				set(&now.stroke, deviceCMYK)
			case "cs":
				now.fill = ink{space: d.space(name, resources)}
			case "CS":
				now.stroke = ink{space: d.space(name, resources)}
			case "sc", "scn":
				set(&now.fill, nil)
			case "SC", "SCN":
				set(&now.stroke, nil)
			case "f", "F", "f*":
				paint(&now.fill, place, "fill")
			case "B", "B*", "b", "b*":
				paint(&now.fill, place, "fill")
				paint(&now.stroke, place, "line")
			case "S", "s":
				paint(&now.stroke, place, "line")
			case "Tr":
				if len(operands) > 0 && operands[0] >= textFilled && operands[0] < 8 {
					now.mode = int(operands[0])
				}
			case "Tf":
				d.glyphs(d.dict(resources["Font"])[name], name, resources, place, depth)
			case "Tj", "TJ", "'", "\"":
				write()
			case "sh":
				d.shading(d.dict(resources["Shading"])[name], d.at(place, "shading "+name))
			case "Do":
				for _, t := range d.object(d.dict(resources["XObject"])[name], name, resources, place, depth) {
					if t.stroke {
						paint(&now.stroke, t.place, t.role)
					} else {
						paint(&now.fill, t.place, t.role)
					}
				}
			case "d1": // a glyph that is painted as its text is
				return nil
			case "BI":
				if lex.skipInline() {
					paint(&now.fill, place, "stencil")
				} else {
					d.note("Pictures that stand inside of a page's text are not read.")
				}
			}
			operands, first, name = operands[:0], -1, ""
		}
	}
	return outside
}

func (d *pdfScan) at(place, what string) string {
	if place != "" {
		return d.page + ", " + place + ", " + what
	}
	return d.page + ", " + what
}

// painted reports a color that something is painted with, once for each time that it is set and for what.
func (d *pdfScan) painted(k *ink, resources types.Dict, place, role string, depth int) {
	set := k.set
	if set == nil || k.space == nil || set.told[role] {
		return
	}
	first := len(set.told) == 0
	set.told[role] = true
	if !first {
		return // a color that fills a shape and then writes is one setting
	}
	if k.space.kind == "pattern" {
		d.pattern(set.pattern, set.named, k.space, set, resources, place, depth)
		return
	}
	u := Use{Where: d.at(place, role)}
	if p := set.piece; p.part != nil {
		u.At = []source.Span{{Part: p.part, Start: set.start, End: set.end}}
		u.Value = strings.Join(strings.Fields(string(p.data[set.start:set.end])), " ")
	} else {
		u.Value, u.Fixed = set.op, "its numbers stand in two streams"
	}
	d.color(u, k.space, set.values)
}

// color reports values of a space.
func (d *pdfScan) color(u Use, space *pdfSpace, v []float64) {
	if d.fixed != "" {
		u.Fixed = d.fixed
	}
	if space == nil || space.kind == "" {
		u.Why = "its color space is not known"
		d.add(&u)
		return
	}
	if len(v) != space.n {
		u.Why = fmt.Sprintf("it has %d numbers where its color space has %d", len(v), space.n)
		d.add(&u)
		return
	}
	if space.kind == "spot" {
		d.spots(u, space, v)
		return
	}
	c, ok := space.look(v)
	if !ok {
		u.Why = "its numbers are outside of its color space"
		d.add(&u)
		return
	}
	u.Color = c
	switch {
	case u.Fixed != "":
	case space.kind == "indexed":
		u.Fixed = "it stands in a table of colors"
	case space.kind == "lab":
		u.Fixed = "it is written in CIELAB"
	case space.own != nil:
		u.Fixed = "it is written in the color space of a profile of its own"
	default:
		u.Form = pdfForm{space}
	}
	d.add(&u)
}

// look is how values of a space look.
func (s *pdfSpace) look(v []float64) (Color, bool) {
	if len(v) != s.n {
		return Color{}, false
	}
	if s.kind == "lab" {
		return Screen(color.Lab{L: v[0], A: v[1], B: v[2]}.RGB().RGB8()), true
	}
	if s.kind == "indexed" {
		i := int(v[0])
		n := s.under.n
		if i < 0 || (i+1)*n > len(s.table) {
			return Color{}, false
		}
		under := make([]float64, n)
		for k := range n {
			under[k] = float64(s.table[i*n+k]) / 255
		}
		return s.under.look(under)
	}
	for i, x := range v {
		if !(x >= -0.001 && x <= 1.001) {
			return Color{}, false
		}
		v[i] = min(1, max(0, x))
	}
	switch {
	case s.own != nil && s.kind != "cmyk":
		return Screen(s.own.Lab(v).RGB().RGB8()), true
	case s.kind == "gray":
		return Screen(color.RGB{R: v[0], G: v[0], B: v[0]}.RGB8()), true
	case s.kind == "rgb":
		return Screen(color.RGB{R: v[0], G: v[1], B: v[2]}.RGB8()), true
	case s.kind == "cmyk":
		p := func(x float64) float64 { return math.Round(x*1e4) / 100 }
		return InksColor(color.CMYK{C: p(v[0]), M: p(v[1]), Y: p(v[2]), K: p(v[3])}), true
	}
	return Color{}, false
}

// spots reports tints of inks by name.
func (d *pdfScan) spots(u Use, space *pdfSpace, v []float64) {
	process := map[string]int{"Cyan": 0, "Magenta": 1, "Yellow": 2, "Black": 3}
	var build [4]float64
	all := true
	for _, n := range space.inks {
		if _, ok := process[n]; !ok {
			all = false
		}
	}
	if all {
		for i, n := range space.inks {
			build[process[n]] = math.Round(v[i]*1e4) / 100
		}
		u.Color, u.Fixed = InksColor(color.CMYK{C: build[0], M: build[1], Y: build[2], K: build[3]}), "its inks are named one by one"
		d.add(&u)
		return
	}
	for i, n := range space.inks {
		if n == "All" || n == "None" || v[i] <= 0 {
			continue
		}
		own := u
		own.Value = fmt.Sprintf("%s %g %%", n, math.Round(v[i]*1e4)/100)
		look := color.RGB8{R: uint8(255 - 255*min(1, v[i])), G: uint8(255 - 255*min(1, v[i])), B: uint8(255 - 255*min(1, v[i]))}
		if len(space.inks) == 1 && space.under != nil {
			if c, ok := d.tint(space, v[i]); ok {
				look = c.RGB
			}
			if c, ok := d.tint(space, 1); ok {
				own.More = &More{Solid: &c.RGB}
			}
		}
		own.Color = InColor(look, Ink{Spot: n, Tint: math.Round(v[i]*1e4) / 1e4})
		own.Fixed = "it is printed with the ink " + n + ", which the file names for all of its places at once"
		d.add(&own)
	}
}

// tint is how much of an ink looks like, by the file's own alternate space.
func (d *pdfScan) tint(space *pdfSpace, v float64) (Color, bool) {
	out, ok := d.function(space.tint, v, space.under.n)
	if !ok {
		return Color{}, false
	}
	return space.under.look(out)
}

// function evaluates a function of one value (7.10): exponential, stitched or sampled ones; others give nothing.
func (d *pdfScan) function(o types.Object, x float64, n int) ([]float64, bool) {
	return d.functionAt(o, x, n, 0)
}

func (d *pdfScan) functionAt(o types.Object, x float64, n, depth int) ([]float64, bool) {
	if depth > 4 {
		return nil, false
	}
	v, err := d.ctx.Dereference(o)
	if err != nil {
		return nil, false
	}
	var f types.Dict
	switch v := v.(type) {
	case types.Dict:
		f = v
	case types.StreamDict:
		f = v.Dict
	default:
		return nil, false
	}
	kind, _ := d.ctx.DereferenceNumber(f["FunctionType"])
	switch kind {
	case 0:
		p, _ := d.stream(o)
		size, ok := d.numbers(f["Size"])
		bits, _ := d.ctx.DereferenceNumber(f["BitsPerSample"])
		if p == nil || !ok || len(size) != 1 || bits != 8 || size[0] < 2 {
			return nil, false
		}
		data, _ := p.Bytes()
		at := min(1, max(0, x)) * (size[0] - 1)
		i := int(min(at, size[0]-2))
		if (i+2)*n > len(data) {
			return nil, false
		}
		out := make([]float64, n)
		for k := range n {
			a, b := float64(data[i*n+k])/255, float64(data[(i+1)*n+k])/255
			out[k] = a + (b-a)*(at-float64(i))
		}
		return out, true
	case 2:
		c0, ok0 := d.numbers(f["C0"])
		c1, ok1 := d.numbers(f["C1"])
		if !ok0 {
			c0 = make([]float64, n)
		}
		if !ok1 || len(c0) != n || len(c1) != n {
			return nil, false
		}
		e, err := d.ctx.DereferenceNumber(f["N"])
		if err != nil {
			e = 1
		}
		out := make([]float64, n)
		for i := range out {
			out[i] = c0[i] + math.Pow(x, e)*(c1[i]-c0[i])
		}
		return out, true
	case 3:
		list := d.array(f["Functions"])
		bounds, _ := d.numbers(f["Bounds"])
		if len(list) == 0 || len(bounds) != len(list)-1 {
			return nil, false
		}
		i := sort.SearchFloat64s(bounds, x)
		return d.functionAt(list[min(i, len(list)-1)], min(1, max(0, x)), n, depth+1)
	}
	return nil, false
}

// pattern reads a tiling pattern, whose own content paints, or a shading pattern (8.7).
func (d *pdfScan) pattern(o types.Object, name string, space *pdfSpace, set *setting, resources types.Dict, place string, depth int) {
	v, err := d.ctx.Dereference(o)
	if err != nil {
		return
	}
	label := "pattern " + name
	if place != "" {
		label = place + ", " + label
	}
	switch v := v.(type) {
	case types.StreamDict:
		if kind, err := d.ctx.DereferenceNumber(v.Dict["PaintType"]); err == nil && kind == 2 { // a stencil that is painted with this color
			u := Use{Where: d.at(label, "fill"), Value: numbered(set.values), Fixed: "it colors a pattern"}
			if p := set.piece; p.part != nil && space.under != nil && space.under.n > 1 {
				if n := bytes.LastIndexByte(p.data[set.start:set.end], '/'); n > 0 { // the numbers stand in front of the pattern's name
					n = len(bytes.TrimSpace(p.data[set.start : set.start+n]))
					u.At, u.Fixed = []source.Span{{Part: p.part, Start: set.start, End: set.start + n}}, ""
				}
			}
			d.color(u, space.under, set.values)
			return
		}
		d.form(o, label, resources, depth, ink{space: deviceGray})
	case types.Dict:
		d.shading(v["Shading"], d.at(label, "shading"))
	}
}

// form reads a content stream with resources of its own, once, and tells what it paints with colors that were set before.
func (d *pdfScan) form(o types.Object, place string, resources types.Dict, depth int, begin ink) []taken {
	ref, ok := o.(types.IndirectRef)
	if !ok || d.visited[ref.PDFString()] {
		return d.taken[ref.PDFString()]
	}
	d.visited[ref.PDFString()] = true
	p, x := d.stream(o)
	if p == nil {
		return nil
	}
	inner := d.dict(x.Dict["Resources"])
	if inner == nil {
		inner = resources
	}
	data, _ := p.Bytes()
	t := d.read([]piece{{p, data}}, inner, place, depth+1, begin)
	d.taken[ref.PDFString()] = t
	return t
}

// glyphs reads a font whose characters are drawn by contents of their own with their own colors (9.6.5).
func (d *pdfScan) glyphs(o types.Object, name string, resources types.Dict, place string, depth int) {
	font := d.dict(o)
	if font == nil || d.name(font["Subtype"]) != "Type3" {
		return
	}
	inner := d.dict(font["Resources"])
	if inner == nil {
		inner = resources
	}
	procs := d.dict(font["CharProcs"])
	for _, k := range sorted(procs) {
		label := "font " + name + ", character " + k
		if place != "" {
			label = place + ", " + label
		}
		d.form(procs[k], label, inner, depth, ink{space: deviceGray})
	}
}

// object reads a form or a picture that a page shows. A mask of a graphics state is none of it: its grays say how opaque something is.
func (d *pdfScan) object(o types.Object, name string, resources types.Dict, place string, depth int) []taken {
	x, _, err := d.ctx.DereferenceStreamDict(o)
	if err != nil || x == nil {
		return nil
	}
	switch d.name(x.Dict["Subtype"]) {
	case "Image":
		if d.stencil(x) {
			return []taken{{place: place, role: "stencil " + name}}
		}
		ref, ok := o.(types.IndirectRef)
		if !ok || d.visited[ref.PDFString()] {
			return nil
		}
		d.visited[ref.PDFString()] = true
		d.picture(x, d.at(place, "picture "+name))
	case "Form":
		label := "form " + name
		if place != "" {
			label = place + ", " + label
		}
		return d.form(o, label, resources, depth, ink{outer: true})
	}
	return nil
}

// stencil says whether a picture is one of two values, through which a color is painted (8.9.6.2).
func (d *pdfScan) stencil(x *types.StreamDict) bool {
	mask, err := d.ctx.DereferenceBoolean(x.Dict["ImageMask"], model.V10)
	return err == nil && mask != nil && bool(*mask)
}

// shading reads the colors that a shading runs between: those of its function at the ends (8.7.4.5).
func (d *pdfScan) shading(o types.Object, where string) {
	ref, isRef := o.(types.IndirectRef)
	if isRef {
		if d.visited[ref.PDFString()] {
			return
		}
		d.visited[ref.PDFString()] = true
	}
	v, err := d.ctx.Dereference(o)
	if err != nil {
		return
	}
	var s types.Dict
	switch v := v.(type) {
	case types.Dict:
		s = v
	case types.StreamDict:
		s = v.Dict
	default:
		return
	}
	space := d.spaceOf(s["ColorSpace"], 0, nil)
	if kind, _ := d.ctx.DereferenceNumber(s["ShadingType"]); kind != 2 && kind != 3 {
		d.add(&Use{Value: fmt.Sprintf("shading of type %d", int(kind)), Where: where, Why: "its colors stand in a mesh or a formula, which is not read"})
		return
	}
	holder := o
	if !isRef {
		holder = nil
	}
	d.stops(s["Function"], holder, space, where, 0)
}

// stops reports the ends of a function; holder is the object that the function stands in, where it has none of its own.
func (d *pdfScan) stops(o, holder types.Object, space *pdfSpace, where string, depth int) {
	if depth > 4 || space == nil {
		return
	}
	if _, ok := o.(types.IndirectRef); ok {
		holder = o
	}
	v, err := d.ctx.Dereference(o)
	if err != nil || v == nil {
		return
	}
	if list, ok := v.(types.Array); ok { // one function a component
		d.add(&Use{Value: fmt.Sprintf("%d functions", len(list)), Where: where, Why: "each of its channels runs by a function of its own"})
		return
	}
	f, ok := v.(types.Dict)
	if !ok {
		for i, x := range []float64{0, 1} {
			if out, ok := d.function(o, x, space.n); ok {
				d.color(Use{Value: "sampled", Where: fmt.Sprintf("%s, end %d", where, i+1), Fixed: "it stands in a table of samples"}, space, out)
			} else {
				d.add(&Use{Value: "function", Where: where, Why: "it is worked out by a program"})
				return
			}
		}
		return
	}
	switch kind, _ := d.ctx.DereferenceNumber(f["FunctionType"]); kind {
	case 2:
		for i, key := range []string{"C0", "C1"} {
			out, ok := d.numbers(f[key])
			if !ok {
				continue // black or white of a space of one channel
			}
			u := Use{Value: numbered(out), Where: fmt.Sprintf("%s, end %d", where, i+1)}
			d.inDict(&u, holder, f[key])
			d.color(u, space, out)
		}
	case 3:
		for _, part := range d.array(f["Functions"]) {
			d.stops(part, holder, space, where, depth+1)
		}
	default:
		d.add(&Use{Value: "function", Where: where, Why: "it is worked out by a program"})
	}
}

// numbered is a list of numbers for a person.
func numbered(values []float64) string {
	var out []string
	for _, v := range values {
		out = append(out, strconv.FormatFloat(v, 'g', -1, 64))
	}
	return strings.Join(out, " ")
}

// inDict finds where an array stands in the text of an object; one that stands there twice cannot be told apart.
func (d *pdfScan) inDict(u *Use, holder, array types.Object) {
	if ref, ok := array.(types.IndirectRef); ok {
		holder = ref
	}
	u.Fixed = "it stands inside of another object"
	if holder == nil {
		return
	}
	p := d.text(holder)
	if p == nil {
		return
	}
	v, err := d.ctx.Dereference(array)
	if err != nil {
		return
	}
	data, _ := p.Bytes()
	text := []byte(v.PDFString()) // which is how the object has it
	if at := bytes.Index(data, text); at >= 0 && bytes.Count(data, text) == 1 {
		u.At = []source.Span{{Part: p, Start: at, End: at + len(text)}}
		u.Fixed = ""
	}
}

// annotations reads the colors of notes, links and fields, and what they look like (12.5).
func (d *pdfScan) annotations(o types.Object) {
	for _, a := range d.array(o) {
		note := d.dict(a)
		if note == nil {
			continue
		}
		kind := d.name(note["Subtype"])
		place := "annotation " + kind
		drawn := false
		if ap := d.dict(note["AP"]); ap != nil {
			v, err := d.ctx.Dereference(ap["N"])
			if err == nil {
				switch v := v.(type) {
				case types.StreamDict:
					d.form(ap["N"], place, nil, 0, ink{space: deviceGray})
					drawn = true
				case types.Dict:
					for _, k := range sorted(v) {
						d.form(v[k], place+" "+k, nil, 0, ink{space: deviceGray})
						drawn = true
					}
				}
			}
		}
		if kind == "Link" || kind == "Popup" {
			border, ok := d.numbers(note["Border"])
			style := d.dict(note["BS"])
			width := 1.0
			if style != nil {
				width, _ = d.ctx.DereferenceNumber(style["W"])
			}
			if ok && len(border) > 2 && border[2] == 0 || style != nil && width == 0 || kind == "Popup" {
				continue
			}
		}
		for _, k := range []struct {
			key, role string
			in        types.Dict
		}{{"C", "color", note}, {"IC", "inside", note}, {"BC", "border", d.dict(note["MK"])}, {"BG", "background", d.dict(note["MK"])}} {
			v, ok := d.numbers(k.in[k.key])
			if !ok {
				continue
			}
			space := map[int]*pdfSpace{1: deviceGray, 3: deviceRGB, 4: deviceCMYK}[len(v)]
			if space == nil {
				continue
			}
			u := Use{Value: numbered(v), Where: d.at(place, k.role), Hidden: drawn}
			d.inDict(&u, a, k.in[k.key])
			d.color(u, &pdfSpace{kind: space.kind, n: space.n}, v)
		}
		d.writing(note, a, place, drawn)
	}
}

// writing reads the color that whoever fills in a field, or changes a note, writes with (12.7.3.3).
func (d *pdfScan) writing(note types.Dict, holder types.Object, place string, drawn bool) {
	v, err := d.ctx.Dereference(note["DA"])
	text, ok := v.(types.StringLiteral)
	if err != nil || !ok {
		return
	}
	lex := pdfLexer{data: []byte(text)}
	var values []float64
	first := -1
	for {
		word, start, end := lex.next()
		if word == nil {
			return
		}
		if n, err := strconv.ParseFloat(string(word), 64); err == nil {
			if values = append(values, n); first < 0 {
				first = start
			}
			continue
		}
		if space := map[string]*pdfSpace{"g": deviceGray, "rg": deviceRGB, "k": deviceCMYK}[string(word)]; space != nil && len(values) == space.n {
			u := Use{Value: strings.Join(strings.Fields(string(text[first:end])), " "), Where: d.at(place, "text that is filled in"), Hidden: drawn}
			d.inDict(&u, holder, note["DA"])
			if len(u.At) == 1 { // of all of it
				from := u.At[0].Start + len("(")
				u.At[0].Start, u.At[0].End = from+first, from+end
			}
			d.color(u, space, values)
			return
		}
		values, first = values[:0], -1
	}
}

// space finds a color space by name, in the resources or among the device ones.
func (d *pdfScan) space(name string, resources types.Dict) *pdfSpace {
	switch name {
	case "DeviceGray", "G":
		return deviceGray
	case "CalGray":
		return &pdfSpace{kind: "gray", n: 1}
	case "DeviceRGB", "RGB":
		return deviceRGB
	case "CalRGB":
		return &pdfSpace{kind: "rgb", n: 3}
	case "DeviceCMYK", "CMYK":
		return deviceCMYK
	case "Pattern":
		return &pdfSpace{kind: "pattern"}
	}
	return d.spaceOf(d.dict(resources["ColorSpace"])[name], 0, resources)
}

func (d *pdfScan) spaceOf(o types.Object, depth int, resources types.Dict) *pdfSpace {
	v, err := d.ctx.Dereference(o)
	if err != nil || v == nil || depth > 4 {
		return &pdfSpace{}
	}
	if n, ok := v.(types.Name); ok {
		if resources == nil {
			resources = types.Dict{}
		}
		if depth > 0 {
			resources = types.Dict{}
		}
		return d.space(string(n), resources)
	}
	list, ok := v.(types.Array)
	if !ok || len(list) == 0 {
		return &pdfSpace{}
	}
	kind := d.name(list[0])
	if len(list) == 1 {
		return d.space(kind, types.Dict{})
	}
	switch kind {
	case "CalGray":
		return &pdfSpace{kind: "gray", n: 1}
	case "CalRGB":
		return &pdfSpace{kind: "rgb", n: 3}
	case "Lab":
		return &pdfSpace{kind: "lab", n: 3}
	case "Pattern":
		return &pdfSpace{kind: "pattern", under: d.spaceOf(list[1], depth+1, resources)}
	case "ICCBased":
		return d.profiled(list[1])
	case "Indexed", "I":
		if len(list) < 4 {
			return &pdfSpace{}
		}
		under := d.spaceOf(list[1], depth+1, resources)
		if under.n == 0 {
			return &pdfSpace{}
		}
		return &pdfSpace{kind: "indexed", n: 1, under: under, table: d.table(list[3])}
	case "Separation", "DeviceN":
		if len(list) < 4 {
			return &pdfSpace{}
		}
		s := &pdfSpace{kind: "spot", tint: list[3], under: d.spaceOf(list[2], depth+1, resources)}
		if kind == "Separation" {
			s.inks = []string{d.name(list[1])}
		} else {
			for _, n := range d.array(list[1]) {
				s.inks = append(s.inks, d.name(n))
			}
		}
		s.n = len(s.inks)
		return s
	}
	return &pdfSpace{}
}

// profiled is a space with a profile: one of sRGB is taken as it is, and one of inks is judged by its build.
func (d *pdfScan) profiled(o types.Object) *pdfSpace {
	x, _, err := d.ctx.DereferenceStreamDict(o)
	if err != nil || x == nil {
		return &pdfSpace{}
	}
	n, err := d.ctx.DereferenceNumber(x.Dict["N"])
	if err != nil {
		return &pdfSpace{}
	}
	s := &pdfSpace{n: int(n), kind: map[int]string{1: "gray", 3: "rgb", 4: "cmyk"}[int(n)]}
	if s.kind != "rgb" {
		return s
	}
	p, _ := d.stream(o)
	if p == nil {
		return s
	}
	data, _ := p.Bytes()
	profile, err := icc.Parse(data)
	if err != nil || strings.Contains(profile.Description, "sRGB") {
		return s
	}
	if t, err := profile.ToLab(icc.Rendering{Intent: icc.RelativeColorimetric}); err == nil {
		white := t.Lab([]float64{1, 0, 0})
		own := color.RGB{R: 1}.Lab()
		if color.DeltaE00(white, own) > 1 { // by its numbers it is sRGB under another name
			s.own = t
		}
	}
	return s
}

// table is the lookup table of an indexed space: a string or a stream.
func (d *pdfScan) table(o types.Object) []byte {
	v, err := d.ctx.Dereference(o)
	if err != nil {
		return nil
	}
	switch v := v.(type) {
	case types.HexLiteral:
		b, _ := v.Bytes()
		return b
	case types.StringLiteral:
		b, _ := types.Unescape(string(v))
		return b
	case types.StreamDict:
		if p, _ := d.stream(o); p != nil {
			data, _ := p.Bytes()
			return data
		}
	}
	return nil
}

// picture reads a picture that a page shows.
func (d *pdfScan) picture(x *types.StreamDict, where string) {
	why := func(text string) { d.unread(where, errors.New(text)) }
	if n := len(x.FilterPipeline); n > 0 && x.FilterPipeline[n-1].Name == "DCTDecode" {
		if n > 1 {
			why("it is packed twice over")
			return
		}
		p, decode := d.root.Held(where, x.Raw), picture.Decode
		if turned, ok := d.numbers(x.Dict["Decode"]); !ok || turned[0] != 1 {
			decode = picture.DecodeUpright
		}
		space := d.spaceOf(x.Dict["ColorSpace"], 0, nil)
		if _, err := scanDecoded(d.inner(), p, where, func(data []byte) (*picture.Picture, error) {
			img, err := decode(data)
			if err == nil && img.Profile == "" && space.kind == "rgb" && space.own != nil { // the PDF has its profile
				img.Note = "A picture of a PDF is converted to sRGB from the profile that the PDF has for it."
				seen(img.NRGBA, space)
			}
			return img, err
		}); err != nil {
			why(err.Error())
		}
		return
	} else if n > 0 && (x.FilterPipeline[n-1].Name == "JPXDecode" || x.FilterPipeline[n-1].Name == "CCITTFaxDecode" || x.FilterPipeline[n-1].Name == "JBIG2Decode") {
		why("it is a picture in a form that is not read (" + x.FilterPipeline[n-1].Name + ")")
		return
	}
	width, _ := d.ctx.DereferenceNumber(x.Dict["Width"])
	height, _ := d.ctx.DereferenceNumber(x.Dict["Height"])
	bits, _ := d.ctx.DereferenceNumber(x.Dict["BitsPerComponent"])
	space := d.spaceOf(x.Dict["ColorSpace"], 0, nil)
	if !slices.Contains([]float64{1, 2, 4, 8, 16}, bits) || space.n == 0 || space.n > 4 || space.kind == "spot" || width < 1 || height < 1 || width*height > limits.PictureBytes/8 {
		why("it is a picture in a form that is not read")
		return
	}
	if err := x.DecodeWithLimit(limits.PartBytes); err != nil {
		why("it is damaged or too large to unpack")
		return
	}
	w, h := int(width), int(height)
	content, ok := samples(x.Content, w*space.n, h, int(bits), space.kind == "indexed")
	x.Content = nil
	if !ok {
		why("it is damaged: it has fewer pixels than it says")
		return
	}
	if turned, ok := d.numbers(x.Dict["Decode"]); ok && len(turned) == 2*space.n && space.kind != "indexed" { // some channels may be turned over (8.9.5.2)
		for k := range space.n {
			if turned[2*k] == 1 && turned[2*k+1] == 0 {
				for i := k; i < w*h*space.n; i += space.n {
					content[i] = 255 - content[i]
				}
			}
		}
	}
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	looks := map[[4]byte]color.RGB8{}
	v := make([]float64, space.n)
	for i := range w * h {
		var key [4]byte
		copy(key[:], content[i*space.n:(i+1)*space.n])
		rgb, ok := looks[key]
		if !ok {
			for k := range v {
				v[k] = float64(content[i*space.n+k])
				if space.kind != "indexed" {
					v[k] /= 255
				}
			}
			if space.kind == "rgb" && space.own == nil {
				rgb = color.RGB8{R: key[0], G: key[1], B: key[2]}
			} else if c, ok := space.look(v); ok {
				rgb = c.RGB
			}
			if len(looks) < 1<<18 {
				looks[key] = rgb
			}
		}
		img.Pix[4*i], img.Pix[4*i+1], img.Pix[4*i+2], img.Pix[4*i+3] = rgb.R, rgb.G, rgb.B, 255
	}
	d.inner().pixels(img, where, nil, "a picture inside of a PDF is not repainted")
}

// samples gives each sample of rows of a picture a byte: those of fewer or more bits are stretched to it, but for places in a table. Rows
// begin with a byte (8.9.5.1).
func samples(content []byte, row, rows, bits int, places bool) (out []byte, ok bool) {
	stride := (row*bits + 7) / 8
	if len(content) < stride*rows {
		return nil, false
	}
	switch bits {
	case 8:
		return content, true
	case 16:
		out = make([]byte, row*rows)
		for i := range out {
			out[i] = content[2*i]
		}
		return out, true
	}
	most := byte(1<<bits - 1)
	stretch := 255 / most
	if places {
		stretch = 1
	}
	out = make([]byte, 0, row*rows)
	for y := range rows {
		line := content[y*stride:]
		for x := range row {
			shift := 8 - bits - x*bits%8
			out = append(out, (line[x*bits/8]>>shift&most)*stretch)
		}
	}
	return out, true
}

// seen gives a picture the looks of its values in a space.
func seen(img *image.NRGBA, space *pdfSpace) {
	looks := map[color.RGB8]color.RGB8{}
	for i := 0; i+3 < len(img.Pix); i += 4 {
		px := img.Pix[i : i+3]
		from := color.RGB8{R: px[0], G: px[1], B: px[2]}
		to, ok := looks[from]
		if !ok {
			to = from
			if c, ok := space.look([]float64{float64(px[0]) / 255, float64(px[1]) / 255, float64(px[2]) / 255}); ok {
				to = c.RGB
			}
			if len(looks) < 1<<18 {
				looks[from] = to
			}
		}
		px[0], px[1], px[2] = to.R, to.G, to.B
	}
}

// inner is the scanner of what is inside of the document.
func (d *pdfScan) inner() *scanner {
	in := *d.scanner
	in.inside = true
	return &in
}

// pdfForm writes the operands of a color operator, with the operator, or an array of numbers.
type pdfForm struct{ space *pdfSpace }

func (f pdfForm) Write(old string, to form.Paint) (string, error) {
	array := strings.HasPrefix(old, "[")
	fields := strings.Fields(old)
	if len(fields) == 0 {
		return "", fmt.Errorf("%q is not a color", old)
	}
	op := fields[len(fields)-1]
	switch f.space.kind {
	case "rgb":
		return form.Numbers(1).Write(old, to)
	case "cmyk":
		return form.Inks(1).Write(old, to)
	}
	if to.RGB.Neutral() {
		return form.Values(old, []float64{float64(to.RGB.R) / 255}, 1)
	}
	c := to.RGB.RGB()
	text := fmt.Sprintf("%s %s %s", pdfNumber(c.R), pdfNumber(c.G), pdfNumber(c.B))
	switch {
	case array && f.space.direct:
		return "[" + text + "]", nil
	case f.space.direct && op == "g":
		return text + " rg", nil
	case f.space.direct && op == "G":
		return text + " RG", nil
	}
	return "", errors.New("it is written in a space of grays")
}

func pdfNumber(v float64) string {
	return strconv.FormatFloat(math.Round(v*1e4)/1e4, 'f', -1, 64)
}

// pdfLexer takes a content stream apart (7.8.2): numbers, names and operators; strings, arrays and dictionaries are one word each, which
// begins with their bracket.
type pdfLexer struct {
	data []byte
	at   int
}

var pdfSpecial = [256]bool{' ': true, '\t': true, '\r': true, '\n': true, '\f': true, 0: true, '[': true, ']': true, '{': true, '}': true, '(': true, ')': true, '<': true, '>': true, '/': true, '%': true}

func (l *pdfLexer) next() (word []byte, start, end int) {
	d := l.data
	for l.at < len(d) {
		i := l.at
		switch c := d[i]; c {
		case ' ', '\t', '\r', '\n', '\f', 0, ']', '}', ')', '>':
			l.at++
		case '%':
			for l.at < len(d) && d[l.at] != '\n' && d[l.at] != '\r' {
				l.at++
			}
		case '(':
			depth := 0
			k := i
			for ; k < len(d); k++ {
				if d[k] == '\\' {
					k++
				} else if d[k] == '(' {
					depth++
				} else if d[k] == ')' {
					if depth--; depth == 0 {
						k++
						break
					}
				}
			}
			l.at = min(k, len(d))
			return d[i:l.at], i, l.at
		case '[', '{':
			l.at++
			depth := 1
			for l.at < len(d) && depth > 0 {
				switch d[l.at] {
				case '[':
					depth++
				case ']', '}':
					depth--
				case '(':
					inner := pdfLexer{d, l.at}
					inner.next()
					l.at = inner.at - 1
				}
				l.at++
			}
			return d[i:min(l.at, len(d))], i, min(l.at, len(d))
		case '<':
			if i+1 < len(d) && d[i+1] == '<' {
				l.at = i + 2
				depth := 1
				for l.at < len(d) && depth > 0 {
					switch {
					case d[l.at] == '(':
						inner := pdfLexer{d, l.at}
						inner.next()
						l.at = inner.at
						continue
					case bytes.HasPrefix(d[l.at:], []byte("<<")):
						depth++
						l.at++
					case bytes.HasPrefix(d[l.at:], []byte(">>")):
						depth--
						l.at++
					}
					l.at++
				}
				l.at = min(l.at, len(d))
				return d[i:l.at], i, l.at
			}
			n := bytes.IndexByte(d[i:], '>')
			if n < 0 {
				l.at = len(d)
				return nil, 0, 0
			}
			l.at = i + n + 1
			return d[i:l.at], i, l.at
		default:
			l.at++
			for l.at < len(d) && !pdfSpecial[d[l.at]] {
				l.at++
			}
			return d[i:l.at], i, l.at
		}
	}
	return nil, 0, 0
}

// skipInline passes over the picture that follows BI, up to EI between blanks (8.9.7), and says whether it is a stencil.
func (l *pdfLexer) skipInline() (stencil bool) {
	key := ""
	for {
		word, _, _ := l.next()
		if word == nil {
			return stencil
		}
		if string(word) == "ID" {
			break
		}
		stencil = stencil || (key == "/IM" || key == "/ImageMask") && string(word) == "true"
		key = string(word)
	}
	for {
		n := bytes.Index(l.data[l.at:], []byte("EI"))
		if n < 0 {
			l.at = len(l.data)
			return stencil
		}
		l.at += n + 2
		before, after := l.at-3, l.at
		if before >= 0 && pdfSpecial[l.data[before]] && (after >= len(l.data) || pdfSpecial[l.data[after]]) {
			return stencil
		}
	}
}
