// Package pdf reads what the pages of a PDF are painted with.
package pdf

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/pdfdoc"
	"huekeep/core/source"
)

// IsPDF recognizes a PDF by its head, which may stand a little behind the beginning.
func IsPDF(data []byte) bool {
	return bytes.Contains(data[:min(len(data), 1024)], []byte("%PDF-"))
}

// ScanPDF reads what the pages of a PDF paint with (ISO 32000-1, 8.6): the operators of their contents, of forms, patterns and annotations
// in gray, RGB, CMYK, inks by name and spaces with a profile; shadings; pictures.
func ScanPDF(s *scanning.Scanner, p *source.Part, _ string) (about string, err error) {
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
	d := &pdfScan{Scanner: s, root: p, ctx: ctx, parts: map[int]*source.Part{}, texts: map[int]*pdfText{},
		objects: map[*source.Part]pdfObject{}, visited: map[string]bool{}, taken: map[string][]taken{}, left: limits.UnpackedBytes / 4}
	if ctx.Encrypt != nil {
		d.fixed = "the PDF is encrypted"
		s.Note("The PDF is encrypted; its colors are read, and cannot be repainted.")
	}
	p.Hold(d.rewrite)
	pages := ctx.PageCount
	for n := 1; n <= pages; n++ {
		if err := s.Watch.At(fmt.Sprintf("page %d of %d", n, pages), float64(n-1)/float64(pages)); err != nil {
			return "", err
		}
		page, ref, _, err := ctx.PageDict(n, false)
		if err != nil || page == nil {
			s.Unread(fmt.Sprintf("page %d", n), errors.New("it cannot be read"))
			continue
		}
		at := placed{Object: page}
		if ref != nil {
			at = placed{Object: *ref}
		}
		d.page = fmt.Sprintf("page %d", n)
		d.contents(page["Contents"], d.inherited(at, "Resources"))
		d.annotations(d.within(at, "Annots"))
		if s.Tally.Full {
			return "", s.Tally.Check()
		}
	}
	if form := d.dict(ctx.RootDict["AcroForm"]); form != nil {
		if flags, err := ctx.DereferenceNumber(form["SigFlags"]); err == nil && int(flags)&1 != 0 {
			s.Note("The PDF is signed; repainting it would end the signature.")
		}
	}
	return audit.Plural(pages, "page"), nil
}

type pdfScan struct {
	*scanning.Scanner
	root    *source.Part
	ctx     *model.Context
	parts   map[int]*source.Part // streams by object number
	texts   map[int]*pdfText     // what objects and dictionaries of streams say
	objects map[*source.Part]pdfObject
	visited map[string]bool
	taken   map[string][]taken // of a form that has been read
	left    int64
	page    string
	fixed   string // why nothing can be repainted, empty if it can
}

// pdfObject is what a part is of: a stream, or an object or a stream's dictionary as text.
type pdfObject struct {
	number, generation int
	stream             *types.StreamDict // nil for an object that is none
	text               bool
}

func (d *pdfScan) dict(o types.Object) types.Dict {
	v, _ := d.ctx.DereferenceDict(o)
	return v
}

// said is what a dictionary says, or the one of a stream; nil for anything else.
func said(v types.Object) types.Dict {
	switch v := v.(type) {
	case types.Dict:
		return v
	case types.StreamDict:
		return v.Dict
	}
	return nil
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
		d.Unread(fmt.Sprintf("%s, object %d", d.page, number), errors.New("it is damaged or too large to unpack"))
		return nil, x
	}
	content := x.Content
	x.Content = nil // the library would keep it
	if d.left -= int64(len(content)); d.left < 0 {
		d.Unread(fmt.Sprintf("%s, object %d", d.page, number),
			fmt.Errorf("the PDF unpacks to over %s", limits.Size(limits.UnpackedBytes/4)))
		return nil, x
	}
	p := d.root.Held(fmt.Sprintf("object %d", number), content)
	d.parts[number] = p
	d.objects[p] = pdfObject{number: number, generation: int(ref.GenerationNumber), stream: x}
	return p, x
}

// rewrite appends the objects that changed.
func (d *pdfScan) rewrite(changed map[*source.Part][]byte) ([]byte, error) {
	data, err := d.root.Bytes()
	if err != nil {
		return nil, err
	}
	type pieces struct{ text, content []byte }
	whole := map[int]pieces{}
	for p, content := range changed {
		o := d.objects[p]
		w := whole[o.number]
		if o.text {
			w.text = content
		} else {
			w.content = content
		}
		whole[o.number] = w
	}
	objects := map[int]pdfdoc.Object{}
	for p := range changed {
		o := d.objects[p]
		w := whole[o.number]
		body := w.text
		if o.stream != nil {
			if w.text == nil {
				w.text = d.text(o.number, o.generation).bytes
			}
			inner := bytes.TrimSuffix(bytes.TrimPrefix(w.text, []byte("<<")), []byte(">>"))
			if w.content != nil {
				body = pdfdoc.Stream(string(inner), w.content)
			} else {
				body = pdfdoc.Packed(string(inner)+packing(o.stream.Dict), o.stream.Raw)
			}
		}
		objects[o.number] = pdfdoc.Object{Generation: o.generation, Body: body}
	}
	return pdfdoc.Update(data, d.ctx, objects)
}

// contents reads what a page draws: one stream, or several that belong together (7.8.2).
func (d *pdfScan) contents(o types.Object, resources placed) {
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
	pattern    placed
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

// drawing is a content stream while its operators are walked over.
type drawing struct {
	*pdfScan
	resources placed
	place     string
	depth     int
	now       drawn
	saved     []drawn
	devices   map[*pdfSpace]*pdfSpace // what operators mean that name a device space
	outside   []taken                 // painted with a color that was set before the stream began
	operands  []float64
	name      string // the last one before an operator
	start     int    // of the operands, in their piece
	end       int    // of the operator
	piece     piece  // of both; none if they stand in two
}

// drawn is what the state of graphics has of colors (8.4).
type drawn struct {
	fill, stroke ink
	mode         int // of text
}

// read walks over the operators of a content stream that begins with a color, and tells what is painted with one of outside.
func (d *pdfScan) read(pieces []piece, resources placed, place string, depth int, begin ink) (outside []taken) {
	if depth > 12 {
		return nil
	}
	r := drawing{pdfScan: d, resources: resources, place: place, depth: depth, now: drawn{fill: begin, stroke: begin},
		devices: map[*pdfSpace]*pdfSpace{}}
	first, firstPiece := -1, 0
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
					if r.operands = append(r.operands, v); len(r.operands) > 64 { // no operator takes so many
						r.operands, first = r.operands[:0], start
					}
					continue
				}
			}
			if word[0] == '/' {
				r.name, _ = types.DecodeName(string(word[1:]))
				continue
			}
			if word[0] == '(' || word[0] == '[' || word[0] == '<' {
				continue
			}
			if r.start, r.end, r.piece = first, end, (piece{}); firstPiece == pieceAt {
				r.piece = pc
			}
			switch op := string(word); op {
			case "d1": // a glyph that is painted as its text is
				return nil
			case "BI":
				if lex.skipInline() {
					r.paint(&r.now.fill, place, "stencil")
				} else {
					d.Note("Pictures that stand inside of a page's text are not read.")
				}
			default:
				r.operator(op)
			}
			r.operands, first, r.name = r.operands[:0], -1, ""
		}
	}
	return r.outside
}

// paint tells that something is painted.
func (r *drawing) paint(k *ink, place, role string) {
	if !k.outer {
		r.painted(k, r.resources, place, role, r.depth)
		return
	}
	const most = 64
	if t := (taken{k == &r.now.stroke, place, role}); len(r.outside) < most && !slices.Contains(r.outside, t) {
		r.outside = append(r.outside, t)
	}
}

// write tells that text is painted.
func (r *drawing) write() {
	switch r.now.mode % 4 {
	case textOutlined:
		r.paint(&r.now.stroke, r.place, "text")
	case textBoth:
		r.paint(&r.now.stroke, r.place, "outline of text")
		r.paint(&r.now.fill, r.place, "text")
	case textFilled:
		r.paint(&r.now.fill, r.place, "text")
	}
}

// set has the operator set a color, in a device space that it names, or in the space that there is.
func (r *drawing) set(to *ink, device *pdfSpace, op string) {
	if device != nil {
		if r.devices[device] == nil {
			r.devices[device] = r.device(device, r.resources)
		}
		if meant := r.devices[device]; meant != nil {
			to.space = meant
		}
	}
	to.outer = false
	to.set = &setting{values: append([]float64{}, r.operands...), start: r.start, end: r.end, piece: r.piece, op: op,
		told: map[string]bool{}}
	if r.name != "" {
		to.set.pattern, to.set.named = r.resource(r.resources, "Pattern", r.name), r.name
	}
}

// operator does what an operator does with colors, or paints (annex A).
func (r *drawing) operator(op string) {
	switch op {
	case "q":
		if len(r.saved) < 512 {
			r.saved = append(r.saved, r.now)
		}
	case "Q":
		if n := len(r.saved); n > 0 {
			r.now, r.saved = r.saved[n-1], r.saved[:n-1]
		}
	case "g":
		r.set(&r.now.fill, deviceGray, op)
	case "G":
		r.set(&r.now.stroke, deviceGray, op)
	case "rg":
		r.set(&r.now.fill, deviceRGB, op)
	case "RG":
		r.set(&r.now.stroke, deviceRGB, op)
	case "k":
		r.set(&r.now.fill, deviceCMYK, op)
	case "K":
		r.set(&r.now.stroke, deviceCMYK, op)
	case "cs":
		r.now.fill = ink{space: r.space(r.name, r.resources)}
	case "CS":
		r.now.stroke = ink{space: r.space(r.name, r.resources)}
	case "sc", "scn":
		r.set(&r.now.fill, nil, op)
	case "SC", "SCN":
		r.set(&r.now.stroke, nil, op)
	case "f", "F", "f*":
		r.paint(&r.now.fill, r.place, "fill")
	case "B", "B*", "b", "b*":
		r.paint(&r.now.fill, r.place, "fill")
		r.paint(&r.now.stroke, r.place, "line")
	case "S", "s":
		r.paint(&r.now.stroke, r.place, "line")
	case "Tr":
		if len(r.operands) > 0 && r.operands[0] >= textFilled && r.operands[0] < 8 {
			r.now.mode = int(r.operands[0])
		}
	case "Tf":
		r.glyphs(r.resource(r.resources, "Font", r.name), r.name, r.resources, r.place, r.depth)
	case "Tj", "TJ", "'", "\"":
		r.write()
	case "sh":
		r.shading(r.resource(r.resources, "Shading", r.name), r.at(r.place, "shading "+r.name))
	case "Do":
		for _, t := range r.object(r.resource(r.resources, "XObject", r.name).Object, r.name, r.resources, r.place, r.depth) {
			if t.stroke {
				r.paint(&r.now.stroke, t.place, t.role)
			} else {
				r.paint(&r.now.fill, t.place, t.role)
			}
		}
	}
}

func (d *pdfScan) at(place, what string) string {
	if place != "" {
		return d.page + ", " + place + ", " + what
	}
	return d.page + ", " + what
}

// painted reports a color that something is painted with, once for each time that it is set and for what.
func (d *pdfScan) painted(k *ink, resources placed, place, role string, depth int) {
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
	u := audit.Use{Where: d.at(place, role)}
	if p := set.piece; p.part != nil {
		u.At = []source.Span{{Part: p.part, Start: set.start, End: set.end}}
		u.Value = strings.Join(strings.Fields(string(p.data[set.start:set.end])), " ")
	} else {
		u.Value, u.Fixed = set.op, "its numbers stand in two streams"
	}
	d.color(u, k.space, set.values)
}

// color reports values of a space.
func (d *pdfScan) color(u audit.Use, space *pdfSpace, v []float64) {
	if d.fixed != "" {
		u.Fixed = d.fixed
	}
	if space == nil || space.kind == "" {
		u.Why = "its color space is not known"
		d.Add(&u)
		return
	}
	if len(v) != space.n {
		u.Why = fmt.Sprintf("it has %d numbers where its color space has %d", len(v), space.n)
		d.Add(&u)
		return
	}
	if space.kind == "spot" {
		d.spots(u, space, v)
		return
	}
	c, ok := space.look(v)
	if !ok {
		u.Why = "its numbers are outside of its color space"
		d.Add(&u)
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
		u.Fixed = "it is written in a color space of its own"
	default:
		u.Form = pdfForm{space}
	}
	d.Add(&u)
}

// pattern reads a tiling pattern, whose own content paints, or a shading pattern (8.7).
func (d *pdfScan) pattern(o placed, name string, space *pdfSpace, set *setting, resources placed, place string, depth int) {
	v, err := d.ctx.Dereference(o.Object)
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
			u := audit.Use{Where: d.at(label, "fill"), Value: numbered(set.values), Fixed: "it colors a pattern"}
			if p := set.piece; p.part != nil && space.under != nil && space.under.n > 1 {
				if n := bytes.LastIndexByte(p.data[set.start:set.end], '/'); n > 0 { // the numbers stand in front of the pattern's name
					n = len(bytes.TrimSpace(p.data[set.start : set.start+n]))
					u.At, u.Fixed = []source.Span{{Part: p.part, Start: set.start, End: set.start + n}}, ""
				}
			}
			d.color(u, space.under, set.values)
			return
		}
		d.form(o.Object, label, resources, depth, ink{space: deviceGray})
	case types.Dict:
		d.shading(d.within(o, "Shading"), d.at(label, "shading"))
	}
}

// form reads a content stream with resources of its own, once, and tells what it paints with colors that were set before.
func (d *pdfScan) form(o types.Object, place string, resources placed, depth int, begin ink) []taken {
	ref, ok := o.(types.IndirectRef)
	if !ok || d.visited[ref.PDFString()] {
		return d.taken[ref.PDFString()]
	}
	d.visited[ref.PDFString()] = true
	p, _ := d.stream(o)
	if p == nil {
		return nil
	}
	inner := d.within(placed{Object: o}, "Resources")
	if d.dict(inner.Object) == nil {
		inner = resources
	}
	data, _ := p.Bytes()
	t := d.read([]piece{{p, data}}, inner, place, depth+1, begin)
	d.taken[ref.PDFString()] = t
	return t
}

// glyphs reads a font whose characters are drawn by contents of their own with their own colors (9.6.5).
func (d *pdfScan) glyphs(o placed, name string, resources placed, place string, depth int) {
	font := d.dict(o.Object)
	if font == nil || d.name(font["Subtype"]) != "Type3" {
		return
	}
	inner := d.within(o, "Resources")
	if d.dict(inner.Object) == nil {
		inner = resources
	}
	procs := d.dict(font["CharProcs"])
	for _, k := range scanning.Sorted(procs) {
		label := "font " + name + ", character " + k
		if place != "" {
			label = place + ", " + label
		}
		d.form(procs[k], label, inner, depth, ink{space: deviceGray})
	}
}

// object reads a form or a picture that a page shows. A mask of a graphics state is none of it: its grays say how opaque something is.
func (d *pdfScan) object(o types.Object, name string, resources placed, place string, depth int) []taken {
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
		d.picture(x, d.at(place, "picture "+name), resources)
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
func (d *pdfScan) shading(o placed, where string) {
	if at := d.home(o); d.visited[at] {
		return
	} else if at != "" {
		d.visited[at] = true
	}
	v, err := d.ctx.Dereference(o.Object)
	if err != nil {
		return
	}
	s := said(v)
	if s == nil {
		return
	}
	space := d.spaceOf(s["ColorSpace"], 0, placed{})
	if kind, _ := d.ctx.DereferenceNumber(s["ShadingType"]); kind != 2 && kind != 3 {
		d.Add(&audit.Use{Value: fmt.Sprintf("shading of type %d", int(kind)), Where: where,
			Why: "its colors stand in a mesh or a formula, which is not read"})
		return
	}
	d.stops(d.within(o, "Function"), space, where, 0)
}

// stops reports the ends of a function.
func (d *pdfScan) stops(o placed, space *pdfSpace, where string, depth int) {
	if depth > 4 || space == nil {
		return
	}
	v, err := d.ctx.Dereference(o.Object)
	if err != nil || v == nil {
		return
	}
	if list, ok := v.(types.Array); ok { // one function a component
		d.Add(&audit.Use{Value: fmt.Sprintf("%d functions", len(list)), Where: where,
			Why: "each of its channels runs by a function of its own"})
		return
	}
	f, ok := v.(types.Dict)
	if !ok {
		for i, x := range []float64{0, 1} {
			if out, ok := d.function(o.Object, x, space.n); ok {
				d.color(audit.Use{Value: "sampled", Where: fmt.Sprintf("%s, end %d", where, i+1), Fixed: "it stands in a table of samples"},
					space, out)
			} else {
				d.Add(&audit.Use{Value: "function", Where: where, Why: "it is worked out by a program"})
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
			u := audit.Use{Value: numbered(out), Where: fmt.Sprintf("%s, end %d", where, i+1)}
			d.stands(&u, d.within(o, key))
			d.color(u, space, out)
		}
	case 3:
		parts := d.within(o, "Functions")
		for i := range d.array(parts.Object) {
			d.stops(d.nth(parts, i), space, where, depth+1)
		}
	default:
		d.Add(&audit.Use{Value: "function", Where: where, Why: "it is worked out by a program"})
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

// annotations reads the colors of notes, links and fields, and what they look like (12.5).
func (d *pdfScan) annotations(list placed) {
	for i, o := range d.array(list.Object) {
		a, note := d.nth(list, i), d.dict(o)
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
					d.form(ap["N"], place, placed{}, 0, ink{space: deviceGray})
					drawn = true
				case types.Dict:
					for _, k := range scanning.Sorted(v) {
						d.form(v[k], place+" "+k, placed{}, 0, ink{space: deviceGray})
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
			in        placed
		}{{"C", "color", a}, {"IC", "inside", a}, {"BC", "border", d.within(a, "MK")}, {"BG", "background", d.within(a, "MK")}} {
			value := d.within(k.in, k.key)
			v, ok := d.numbers(value.Object)
			if !ok {
				continue
			}
			space := map[int]*pdfSpace{1: deviceGray, 3: deviceRGB, 4: deviceCMYK}[len(v)]
			if space == nil {
				continue
			}
			u := audit.Use{Value: numbered(v), Where: d.at(place, k.role), Hidden: drawn}
			d.stands(&u, value)
			d.color(u, &pdfSpace{kind: space.kind, n: space.n}, v)
		}
		d.writing(d.within(a, "DA"), place, drawn)
	}
}

// writing reads the color that whoever fills in a field, or changes a note, writes with (12.7.3.3).
func (d *pdfScan) writing(o placed, place string, drawn bool) {
	v, err := d.ctx.Dereference(o.Object)
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
		if space := map[string]*pdfSpace{"g": deviceGray, "rg": deviceRGB, "k": deviceCMYK}[string(word)]; space != nil &&
			len(values) == space.n {
			u := audit.Use{Value: strings.Join(strings.Fields(string(text[first:end])), " "), Where: d.at(place, "text that is filled in"),
				Hidden: drawn}
			d.stands(&u, o)
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
