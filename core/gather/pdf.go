package gather

import (
	"bytes"
	"fmt"
	"math"
	"strconv"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/pdfdoc"
	"huekeep/core/press"
)

// fromPDF takes the colors that a PDF's pages and forms paint with (ISO 32000, 8.6): gray, RGB and CMYK as they are,
// ICC-based ones by their number of channels, and spot inks by name with their screen value where the file tells it.
func fromPDF(data []byte) (found Found, err error) {
	defer func() {
		if recover() != nil { // the reader of PDF is not known to be free of panics on hostile files
			found, err = Found{}, fmt.Errorf("the PDF is damaged")
		}
	}()
	ctx, err := pdfdoc.Open(data)
	if err != nil {
		return Found{}, err
	}
	p := &pages{ctx: ctx, at: map[string]int{}, left: limits.LibraryBytes}
	for n := 1; n <= min(ctx.PageCount, limits.LogoPages); n++ {
		page, _, inherited, err := ctx.PageDict(n, false)
		if err != nil || page == nil {
			return Found{}, fmt.Errorf("page %d of the PDF cannot be read", n)
		}
		resources := p.dict(page["Resources"])
		if resources == nil && inherited != nil {
			resources = inherited.Resources
		}
		p.read(p.content(page["Contents"]), resources, 0)
	}
	if p.unread > 0 {
		p.notes = append(p.notes, fmt.Sprintf("%d streams of its pages are damaged or unpack to over %s, and were not read.", p.unread, limits.Size(limits.PDFStream)))
	}
	if p.left < 0 {
		p.notes = append(p.notes, fmt.Sprintf("Only the first %s of its pages' contents were read.", limits.Size(limits.LibraryBytes)))
	}
	found = Found{Label: "a PDF", Colors: p.colors, Notes: p.notes}
	if ctx.PageCount > limits.LogoPages {
		found.Notes = append(found.Notes, fmt.Sprintf("Only the first %d of %d pages were read.", limits.LogoPages, ctx.PageCount))
	}
	if p.pictures > 0 {
		found.Notes = append(found.Notes, "Pictures inside the PDF were not read; drop them as pictures.")
	}
	return found, nil
}

type pages struct {
	ctx      *model.Context
	colors   []Candidate
	at       map[string]int // place in colors, by value
	notes    []string
	pictures int
	unread   int   // streams that could not be unpacked within their limit
	left     int64 // bytes of content that are still read
}

// space is a color space as far as it matters here.
type space struct {
	channels int
	spot     string    // name of a Separation
	full     []float64 // what full ink of it looks like in the alternate space, if known
	under    *space    // the alternate space
	lab      bool
}

func (p *pages) dict(o types.Object) types.Dict {
	d, _ := p.ctx.DereferenceDict(o)
	return d
}

// content is what a page draws: one stream, or several that belong together (ISO 32000, 7.7.3.3). A stream that cannot be unpacked,
// or to more than its limit, is left out.
func (p *pages) content(o types.Object) (out []byte) {
	o, err := p.ctx.Dereference(o)
	if err != nil {
		return nil
	}
	streams := types.Array{o}
	if list, ok := o.(types.Array); ok {
		streams = list
	}
	for _, s := range streams {
		x, _, err := p.ctx.DereferenceStreamDict(s)
		if err != nil || x == nil || p.left < int64(len(out)) {
			continue
		}
		if x.DecodeWithLimit(limits.PDFStream) != nil {
			p.unread++
			continue
		}
		out = append(append(out, x.Content...), '\n')
		x.Content = nil // the library would keep it
	}
	return out
}

// read walks over the operators of a content stream.
func (p *pages) read(content []byte, resources types.Dict, depth int) {
	if p.left -= int64(len(content)); depth > 16 || p.left < 0 {
		return
	}
	var operands []float64
	name := ""
	fill, stroke := space{channels: 1}, space{channels: 1}
	use := func(s *space, own space) { *s = own; p.paint(own, operands) }
	each(content, func(word []byte) {
		if v, err := strconv.ParseFloat(string(word), 64); err == nil && !math.IsNaN(v) {
			if operands = append(operands, v); len(operands) > 64 { // no operator takes so many
				operands = operands[:0]
			}
			return
		}
		if word[0] == '/' {
			name = string(word[1:])
			return
		}
		switch string(word) {
		case "g":
			use(&fill, space{channels: 1})
		case "G":
			use(&stroke, space{channels: 1})
		case "rg":
			use(&fill, space{channels: 3})
		case "RG":
			use(&stroke, space{channels: 3})
		case "k":
			use(&fill, space{channels: 4})
		case "K":
			use(&stroke, space{channels: 4})
		case "cs":
			fill = p.space(name, resources)
		case "CS":
			stroke = p.space(name, resources)
		case "sc", "scn":
			p.paint(fill, operands)
		case "SC", "SCN":
			p.paint(stroke, operands)
		case "Do":
			objects := p.dict(resources["XObject"])
			if x, _, err := p.ctx.DereferenceStreamDict(objects[name]); err == nil && x != nil {
				switch kind, _ := x.Dict["Subtype"].(types.Name); kind {
				case "Image":
					p.pictures++
				case "Form":
					if x.DecodeWithLimit(limits.PDFStream) == nil {
						inner := p.dict(x.Dict["Resources"])
						if inner == nil {
							inner = resources
						}
						content := x.Content
						x.Content = nil
						p.read(content, inner, depth+1)
					}
				}
			}
		}
		operands, name = operands[:0], ""
	})
}

// each calls f for every number, name and operator of a content stream; strings, arrays, dictionaries and inline pictures
// are passed over.
func each(content []byte, f func(word []byte)) {
	for i := 0; i < len(content); {
		switch c := content[i]; {
		case bytes.IndexByte([]byte(" \t\r\n\f\x00[]{}"), c) >= 0:
			i++
		case c == '%':
			for i < len(content) && content[i] != '\n' && content[i] != '\r' {
				i++
			}
		case c == '(':
			for depth := 0; i < len(content); i++ {
				if content[i] == '\\' {
					i++
				} else if content[i] == '(' {
					depth++
				} else if content[i] == ')' {
					if depth--; depth == 0 {
						i++
						break
					}
				}
			}
		case c == '<' || c == '>':
			i++
		default:
			start := i
			for i++; i < len(content) && bytes.IndexByte([]byte(" \t\r\n\f\x00[]{}()<>/%"), content[i]) < 0; i++ {
			}
			word := content[start:i]
			if string(word) == "ID" { // an inline picture runs to the operator EI
				if end := bytes.Index(content[i:], []byte("EI")); end >= 0 {
					i += end + 2
				} else {
					return
				}
				continue
			}
			f(word)
		}
	}
}

// space finds a color space by name, in the resources or among the device ones.
func (p *pages) space(name string, resources types.Dict) space {
	switch name {
	case "DeviceGray", "CalGray", "G":
		return space{channels: 1}
	case "DeviceRGB", "CalRGB", "RGB":
		return space{channels: 3}
	case "DeviceCMYK", "CMYK":
		return space{channels: 4}
	}
	return p.spaceOf(p.dict(resources["ColorSpace"])[name], 0)
}

func (p *pages) spaceOf(o types.Object, depth int) space {
	o, err := p.ctx.Dereference(o)
	if err != nil || depth > 4 {
		return space{}
	}
	if n, ok := o.(types.Name); ok {
		return p.space(string(n), nil)
	}
	list, ok := o.(types.Array)
	if !ok || len(list) < 2 {
		return space{}
	}
	kind, _ := list[0].(types.Name)
	switch kind {
	case "CalGray":
		return space{channels: 1}
	case "CalRGB":
		return space{channels: 3}
	case "Lab":
		return space{channels: 3, lab: true}
	case "ICCBased":
		if x, _, err := p.ctx.DereferenceStreamDict(list[1]); err == nil && x != nil {
			if n, err := p.ctx.DereferenceNumber(x.Dict["N"]); err == nil {
				return space{channels: int(n)}
			}
		}
	case "Separation":
		if len(list) < 4 {
			return space{}
		}
		ink, _ := p.ctx.Dereference(list[1])
		n, _ := ink.(types.Name)
		name, err := types.DecodeName(string(n))
		if err != nil {
			name = string(n)
		}
		under := p.spaceOf(list[2], depth+1)
		return space{channels: 1, spot: name, under: &under, full: p.full(list[3])}
	}
	return space{}
}

// full evaluates an exponential tint function at 1 (ISO 32000, 7.10.3); other kinds give nothing.
func (p *pages) full(o types.Object) []float64 {
	d := p.dict(o)
	if kind, err := p.ctx.DereferenceNumber(d["FunctionType"]); err != nil || kind != 2 {
		return nil
	}
	list, err := p.ctx.DereferenceArray(d["C1"])
	if err != nil {
		return nil
	}
	var out []float64
	for _, v := range list {
		n, err := p.ctx.DereferenceNumber(v)
		if err != nil {
			return nil
		}
		out = append(out, n)
	}
	return out
}

// paint notes a color that is painted with.
func (p *pages) paint(s space, v []float64) {
	if len(v) != s.channels || s.channels == 0 {
		return // a pattern, or a space that is not read
	}
	c := Candidate{Alpha: 1}
	key := ""
	switch {
	case s.spot == "All" || s.spot == "None":
		return
	case s.spot != "":
		key = "spot " + s.spot
		c.Name = s.spot
		if rgb, _, ok := screen(*s.under, s.full); ok {
			c.RGB = rgb
		} else {
			if _, said := p.at[key]; !said {
				p.at[key] = -1
				p.notes = append(p.notes, fmt.Sprintf("The spot ink %s has no screen value that can be read from the file.", s.spot))
			}
			return
		}
	default:
		rgb, inks, ok := screen(s, v)
		if !ok {
			return
		}
		c.RGB = rgb
		key = rgb.Hex()
		if inks != nil {
			c.Builds = []library.Build{{Press: "coated", Value: *inks, For: rgb}}
			key = inks.String()
		}
	}
	i, ok := p.at[key]
	if !ok {
		i = len(p.colors)
		p.at[key] = i
		p.colors = append(p.colors, c)
	}
	p.colors[i].Uses++
}

// screen shows values of a space as a screen color; a CMYK build is seen on the coated press and returned too.
func screen(s space, v []float64) (color.RGB8, *color.CMYK, bool) {
	if len(v) != s.channels {
		return color.RGB8{}, nil, false
	}
	if s.lab {
		return color.Lab{L: v[0], A: v[1], B: v[2]}.RGB().RGB8(), nil, true
	}
	for _, x := range v {
		if !(x >= 0 && x <= 1) {
			return color.RGB8{}, nil, false
		}
	}
	switch s.channels {
	case 1:
		return color.RGB{R: v[0], G: v[0], B: v[0]}.RGB8(), nil, true
	case 3:
		return color.RGB{R: v[0], G: v[1], B: v[2]}.RGB8(), nil, true
	case 4:
		b := color.CMYK{C: math.Round(v[0]*1000) / 10, M: math.Round(v[1]*1000) / 10, Y: math.Round(v[2]*1000) / 10, K: math.Round(v[3]*1000) / 10}
		return press.Coated().Lab(b).RGB().RGB8(), &b, true
	}
	return color.RGB8{}, nil, false
}
