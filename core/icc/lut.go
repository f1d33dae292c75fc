package icc

import (
	"encoding/binary"
	"fmt"
	"math"

	"huekeep/core/color"
	"huekeep/core/limits"
)

// Transform turns device values into Lab or Lab into device values, for one rendering intent.
// It holds no state that a call changes and may be used by several goroutines.
type Transform struct {
	lut    *lut    // nil for a profile of curves and a matrix
	shaper *shaper // nil for a profile of tables
	device int     // number of device channels
}

// ToLab returns the transform from device values to media-relative Lab: the A2B table of the intent, or the curves and
// matrix of an RGB or gray profile without tables.
func (p *Profile) ToLab(intent Intent) (*Transform, error) {
	if p.tags["A2B0"] == nil && p.Space != "CMYK" {
		return p.shaped()
	}
	l, err := p.lut("A2B", intent, channels(p.Space), 3)
	if err != nil {
		return nil, err
	}
	return &Transform{lut: l, device: l.in}, nil
}

func (p *Profile) shaped() (*Transform, error) {
	s, err := p.shaper()
	if err != nil {
		return nil, err
	}
	return &Transform{shaper: s, device: len(s.curves)}, nil
}

// FromLab returns the transform from media-relative Lab to device values: the B2A table of the intent, or the curves and
// matrix of an RGB or gray profile without tables, whose channels are held to 0 to 1.
func (p *Profile) FromLab(intent Intent) (*Transform, error) {
	if p.tags["B2A0"] == nil && p.Space != "CMYK" {
		return p.shaped()
	}
	l, err := p.lut("B2A", intent, 3, channels(p.Space))
	if err != nil {
		return nil, err
	}
	// Tetrahedra favor the diagonal of a cell, where an RGB or CMYK table has its grays; the grays of Lab run along an
	// edge, so a table indexed by Lab is interpolated linearly along each axis. lcms2 does the same.
	l.linear = true
	return &Transform{lut: l, device: l.out}, nil
}

// Lab converts device values on the scale 0 to 1; dev must have as many as the profile's color space.
func (t *Transform) Lab(dev []float64) color.Lab {
	if t.shaper != nil {
		return t.shaper.lab(dev)
	}
	var out [maxChannels]float64
	t.lut.eval(dev, out[:3])
	// The 16-bit Lab encoding of mft2 tables, in v2 and v4 alike: FF00h is L = 100, 8000h is a = 0.
	return color.Lab{L: out[0] * 65535 / 652.8, A: out[1]*65535/256 - 128, B: out[2]*65535/256 - 128}
}

// Device converts Lab to device values on the scale 0 to 1, into dst.
func (t *Transform) Device(lab color.Lab, dst []float64) {
	if t.shaper != nil {
		t.shaper.device(lab, dst)
		return
	}
	in := [3]float64{lab.L * 652.8 / 65535, (lab.A + 128) * 256 / 65535, (lab.B + 128) * 256 / 65535}
	t.lut.eval(in[:], dst[:t.device])
}

const maxChannels = 4

// lut is a multi-dimensional table with curves before and behind it (ICC.1:2022, 10.10 and 10.11).
// All values are on the scale 0 to 1.
type lut struct {
	in, out, grid int
	before, after [][]float32
	table         []float32 // first input channel varies least, output channels lie together
	stride        [maxChannels]int
	linear        bool // linear along every axis instead of over tetrahedra
}

func (p *Profile) lut(direction string, intent Intent, in, out int) (*lut, error) {
	if p.PCS != "Lab " {
		return nil, fmt.Errorf("the profile connects through %s, not through Lab", p.PCS)
	}
	tag := fmt.Sprintf("%s%d", direction, intent)
	data, ok := p.tags[tag]
	if !ok {
		tag = direction + "0" // the specification's fallback
		if data, ok = p.tags[tag]; !ok {
			return nil, fmt.Errorf("the profile has no %s table", direction)
		}
	}
	l, err := parseLUT(data)
	if err != nil {
		return nil, fmt.Errorf("table %s of the profile: %w", tag, err)
	}
	if l.in != in || l.out != out {
		return nil, fmt.Errorf("table %s of the profile has %d inputs and %d outputs where %d and %d are wanted", tag, l.in, l.out, in, out)
	}
	return l, nil
}

func parseLUT(d []byte) (*lut, error) {
	if len(d) < 52 {
		return nil, fmt.Errorf("it is cut off")
	}
	kind := string(d[:4])
	width, entries, exits, pos := 1, 256, 256, 48
	switch kind {
	case "mft1":
	case "mft2":
		width, pos = 2, 52
		entries, exits = int(binary.BigEndian.Uint16(d[48:])), int(binary.BigEndian.Uint16(d[50:]))
	default:
		return nil, fmt.Errorf("its type %q is not read", kind)
	}
	l := &lut{in: int(d[8]), out: int(d[9]), grid: int(d[10])}
	if l.in < 1 || l.in > maxChannels || l.out < 1 || l.out > maxChannels {
		return nil, fmt.Errorf("it has %d inputs and %d outputs", l.in, l.out)
	}
	if l.grid < 2 || entries < 2 || entries > 4096 || exits < 2 || exits > 4096 {
		return nil, fmt.Errorf("its sizes are absurd: %d grid points, curves of %d and %d", l.grid, entries, exits)
	}
	cells := l.out
	for i := l.in - 1; i >= 0; i-- {
		l.stride[i] = cells
		if cells *= l.grid; cells > limits.ProfileCells {
			return nil, fmt.Errorf("its sizes are absurd: %d grid points in %d dimensions", l.grid, l.in)
		}
	}
	if need := pos + width*(l.in*entries+cells+l.out*exits); need > len(d) {
		return nil, fmt.Errorf("it is cut off: %d bytes are needed and %d are there", need, len(d))
	}
	take := func(n int) []float32 {
		v := make([]float32, n)
		for i := range v {
			if width == 1 {
				v[i] = float32(d[pos]) / 255
			} else {
				v[i] = float32(binary.BigEndian.Uint16(d[pos:])) / 65535
			}
			pos += width
		}
		return v
	}
	for range l.in {
		l.before = append(l.before, take(entries))
	}
	l.table = take(cells)
	for range l.out {
		l.after = append(l.after, take(exits))
	}
	if kind == "mft1" && l.out == 3 {
		// 8-bit Lab has FFh for L = 100 and 80h for a = 0; scale to the 16-bit encoding that Lab expects.
		for _, c := range l.after {
			for i, v := range c {
				c[i] = v * 65280 / 65535
			}
		}
	}
	if kind == "mft1" && l.in == 3 {
		return nil, fmt.Errorf("8-bit tables from Lab are not read")
	}
	return l, nil
}

// eval interpolates: linearly along all but the last three inputs, and over tetrahedra along those unless l.linear.
func (l *lut) eval(src, dst []float64) {
	var base int
	var frac [maxChannels]float64
	var step [maxChannels]int
	for i := range l.in {
		v := sample(l.before[i], src[i]) * float64(l.grid-1)
		cell := int(v)
		if cell >= l.grid-1 {
			cell = l.grid - 1
		}
		base += cell * l.stride[i]
		if f := v - float64(cell); f > 0 && cell < l.grid-1 {
			frac[i], step[i] = f, l.stride[i]
		}
	}
	l.blend(0, base, &frac, &step, dst)
	for i := range dst {
		dst[i] = sample(l.after[i], dst[i])
	}
}

func (l *lut) blend(axis, base int, frac *[maxChannels]float64, step *[maxChannels]int, dst []float64) {
	left := l.in - axis
	switch {
	case left == 0:
		for i := range dst {
			dst[i] = float64(l.table[base+i])
		}
	case left == 3 && !l.linear:
		l.tetrahedron(axis, base, frac, step, dst)
	default:
		l.blend(axis+1, base, frac, step, dst)
		if f := frac[axis]; f > 0 {
			var far [maxChannels]float64
			l.blend(axis+1, base+step[axis], frac, step, far[:len(dst)])
			for i := range dst {
				dst[i] += f * (far[i] - dst[i])
			}
		}
	}
}

func (l *lut) tetrahedron(axis, base int, frac *[maxChannels]float64, step *[maxChannels]int, dst []float64) {
	// Walk from the cell's low corner to its high corner along the axes in the order of falling fractions.
	a, b, c := axis, axis+1, axis+2
	if frac[a] < frac[b] {
		a, b = b, a
	}
	if frac[b] < frac[c] {
		b, c = c, b
		if frac[a] < frac[b] {
			a, b = b, a
		}
	}
	p0 := base
	p1 := p0 + step[a]
	p2 := p1 + step[b]
	p3 := p2 + step[c]
	w0, w1, w2, w3 := 1-frac[a], frac[a]-frac[b], frac[b]-frac[c], frac[c]
	n := len(dst)
	t0, t1, t2, t3 := l.table[p0:p0+n], l.table[p1:p1+n], l.table[p2:p2+n], l.table[p3:p3+n]
	for i := range dst {
		dst[i] = w0*float64(t0[i]) + w1*float64(t1[i]) + w2*float64(t2[i]) + w3*float64(t3[i])
	}
}

// sample reads a curve at v, which is held to 0 to 1 as the encodings of a profile do.
func sample(curve []float32, v float64) float64 {
	if !(v > 0) {
		return float64(curve[0])
	}
	n := len(curve) - 1
	if v >= 1 {
		return float64(curve[n])
	}
	x := v * float64(n)
	i := int(math.Floor(x))
	f := x - float64(i)
	return float64(curve[i]) + f*float64(curve[i+1]-curve[i])
}
