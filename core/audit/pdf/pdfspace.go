package pdf

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/icc"
)

// pdfSpace is a color space as far as it matters here.
type pdfSpace struct {
	kind   string // gray, rgb, cmyk, lab, indexed, spot, pattern; empty for what is not known
	n      int    // components
	inks   []string
	under  *pdfSpace
	tint   types.Object
	own    func(v []float64) color.RGB // of a space of grays or RGB that is not the screen's: how values look
	white  [3]float64                  // of CIELAB, XYZ
	ranges [4]float64                  // of CIELAB: the least and the most of a* and b* that a picture has
	table  []byte                      // of an indexed one
	direct bool                        // a device space: an operator that names it can be taken instead
}

var (
	deviceGray = &pdfSpace{kind: "gray", n: 1, direct: true}
	deviceRGB  = &pdfSpace{kind: "rgb", n: 3, direct: true}
	deviceCMYK = &pdfSpace{kind: "cmyk", n: 4, direct: true}
)

// look is how values of a space look.
func (s *pdfSpace) look(v []float64) (audit.Color, bool) {
	if len(v) != s.n {
		return audit.Color{}, false
	}
	if s.kind == "lab" {
		return audit.Screen(color.Lab{L: v[0], A: v[1], B: v[2]}.Adapted(s.white).RGB().RGB8()), true
	}
	if s.kind == "indexed" {
		i := int(v[0])
		n := s.under.n
		if i < 0 || (i+1)*n > len(s.table) {
			return audit.Color{}, false
		}
		under := make([]float64, n)
		for k := range n {
			under[k] = float64(s.table[i*n+k]) / 255
		}
		return s.under.look(under)
	}
	for i, x := range v {
		if !(x >= -0.001 && x <= 1.001) {
			return audit.Color{}, false
		}
		v[i] = min(1, max(0, x))
	}
	switch {
	case s.own != nil && s.kind != "cmyk":
		return audit.Screen(s.own(v).RGB8()), true
	case s.kind == "gray":
		return audit.Screen(color.RGB{R: v[0], G: v[0], B: v[0]}.RGB8()), true
	case s.kind == "rgb":
		return audit.Screen(color.RGB{R: v[0], G: v[1], B: v[2]}.RGB8()), true
	case s.kind == "cmyk":
		p := func(x float64) float64 { return math.Round(x*1e4) / 100 }
		return audit.InksColor(color.CMYK{C: p(v[0]), M: p(v[1]), Y: p(v[2]), K: p(v[3])}), true
	}
	return audit.Color{}, false
}

// spots reports tints of inks by name.
func (d *pdfScan) spots(u audit.Use, space *pdfSpace, v []float64) {
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
		u.Color, u.Fixed = audit.InksColor(color.CMYK{C: build[0], M: build[1], Y: build[2], K: build[3]}), "its inks are named one by one"
		d.Add(&u)
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
				own.More = &audit.More{Solid: &c.RGB}
			}
		}
		own.Color = audit.InColor(look, audit.Ink{Spot: n, Tint: math.Round(v[i]*1e4) / 1e4})
		own.Fixed = "it is printed with the ink " + n + ", which the file names for all of its places at once"
		d.Add(&own)
	}
}

// tint is how much of an ink looks like, by the file's own alternate space.
func (d *pdfScan) tint(space *pdfSpace, v float64) (audit.Color, bool) {
	out, ok := d.function(space.tint, v, space.under.n)
	if !ok {
		return audit.Color{}, false
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
	f := said(v)
	if f == nil {
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

// space finds a color space by name, in the resources or among the device ones.
func (d *pdfScan) space(name string, resources placed) *pdfSpace {
	switch name {
	case "DeviceGray", "G", "CalGray":
		return d.device(deviceGray, resources)
	case "DeviceRGB", "RGB", "CalRGB":
		return d.device(deviceRGB, resources)
	case "DeviceCMYK", "CMYK":
		return d.device(deviceCMYK, resources)
	case "Pattern":
		return &pdfSpace{kind: "pattern"}
	}
	o := d.resource(resources, "ColorSpace", name).Object
	if other := d.name(o); other != "" && d.name(d.resource(resources, "ColorSpace", other).Object) != "" {
		return &pdfSpace{} // names that stand for names lead in a circle
	}
	return d.spaceOf(o, 0, resources)
}

func (d *pdfScan) spaceOf(o types.Object, depth int, resources placed) *pdfSpace {
	v, err := d.ctx.Dereference(o)
	if err != nil || v == nil || depth > 4 {
		return &pdfSpace{}
	}
	if n, ok := v.(types.Name); ok {
		if depth > 0 {
			resources = placed{}
		}
		return d.space(string(n), resources)
	}
	list, ok := v.(types.Array)
	if !ok || len(list) == 0 {
		return &pdfSpace{}
	}
	kind := d.name(list[0])
	if len(list) == 1 {
		return d.space(kind, placed{})
	}
	switch kind {
	case "CalGray":
		return d.calibrated("gray", d.dict(list[1]))
	case "CalRGB":
		return d.calibrated("rgb", d.dict(list[1]))
	case "Lab":
		its := d.dict(list[1])
		s := &pdfSpace{kind: "lab", n: 3, white: d.whitePoint(its), ranges: [4]float64{-100, 100, -100, 100}}
		if v, ok := d.numbers(its["Range"]); ok && len(v) == 4 {
			s.ranges = [4]float64(v)
		}
		return s
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

// device is a device space, or what the resources say is meant by it (8.6.5.6).
func (d *pdfScan) device(space *pdfSpace, resources placed) *pdfSpace {
	name := map[string]string{"gray": "DefaultGray", "rgb": "DefaultRGB", "cmyk": "DefaultCMYK"}[space.kind]
	o := d.resource(resources, "ColorSpace", name).Object
	if o == nil {
		return space
	}
	if meant := d.spaceOf(o, 1, placed{}); meant.n == space.n && meant.kind != "spot" && meant.kind != "indexed" {
		return meant
	}
	return space
}

// whitePoint is that of a calibrated space; D65 where the file leaves out what it has to say.
func (d *pdfScan) whitePoint(its types.Dict) [3]float64 {
	if v, ok := d.numbers(its["WhitePoint"]); ok && len(v) == 3 && v[0] > 0 && v[1] > 0 && v[2] > 0 {
		return [3]float64(v)
	}
	return color.Whites["D65"]
}

// calibrated is a space of grays or RGB that says by a gamma, a matrix and a white what its values mean (8.6.5.2, 8.6.5.3), seen as
// renderers do: its white is the screen's.
func (d *pdfScan) calibrated(kind string, its types.Dict) *pdfSpace {
	white := d.whitePoint(its)
	if kind == "gray" {
		gamma := 1.0
		if g, err := d.ctx.DereferenceNumber(its["Gamma"]); err == nil && g > 0 {
			gamma = g
		}
		return &pdfSpace{kind: "gray", n: 1, own: func(v []float64) color.RGB {
			y := math.Pow(v[0], gamma)
			return color.AdaptedLab(white[0]*y, white[1]*y, white[2]*y, white).RGB()
		}}
	}
	gamma, matrix := []float64{1, 1, 1}, []float64{1, 0, 0, 0, 1, 0, 0, 0, 1}
	if v, ok := d.numbers(its["Gamma"]); ok && len(v) == 3 {
		gamma = v
	}
	if v, ok := d.numbers(its["Matrix"]); ok && len(v) == 9 {
		matrix = v
	}
	return &pdfSpace{kind: "rgb", n: 3, own: func(v []float64) color.RGB {
		var xyz [3]float64
		for c := range 3 {
			light := math.Pow(v[c], gamma[c])
			for k := range xyz {
				xyz[k] += matrix[3*c+k] * light
			}
		}
		return color.AdaptedLab(xyz[0], xyz[1], xyz[2], white).RGB()
	}}
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
			s.own = func(v []float64) color.RGB { return t.Lab(v).RGB() }
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
