package icc

import (
	"encoding/binary"
	"errors"
	"fmt"

	"huekeep/core/limits"
)

var errCutOff = errors.New("it is cut off")

// parseTable reads a table tag of any of the four types into stages, and says how it writes the connection space.
func parseTable(d []byte, in, out int, pcs string, toLab bool) ([]stage, encoding, error) {
	if len(d) < 32 {
		return nil, 0, errCutOff
	}
	kind := string(d[:4])
	if kind != "mft1" && kind != "mft2" && kind != "mAB " && kind != "mBA " {
		return nil, 0, fmt.Errorf("its type %q is not read", kind)
	}
	if (kind == "mAB ") != toLab && (kind == "mBA ") == toLab {
		return nil, 0, fmt.Errorf("its type %q belongs to the other direction", kind)
	}
	if int(d[8]) != in || int(d[9]) != out {
		return nil, 0, fmt.Errorf("it has %d inputs and %d outputs where %d and %d are wanted", d[8], d[9], in, out)
	}
	encode := lab8
	switch {
	case pcs == "XYZ ":
		encode = xyz15
	case kind == "mft2":
		encode = lab16
	}
	var stages []stage
	var err error
	if kind[2] == 't' {
		stages, err = parseOldTable(d, in, out, pcs == "XYZ " && !toLab)
	} else {
		stages, err = parseNewTable(d, in, out, toLab)
	}
	if !toLab && pcs == "Lab " {
		// Tetrahedra favor the diagonal of a cell, where an RGB or CMYK table has its grays; the grays of Lab run along an
		// edge, so a table indexed by Lab is interpolated linearly along each axis. lcms2 does the same.
		for _, s := range stages {
			if g, ok := s.(*grid); ok {
				g.linear = true
			}
		}
	}
	return stages, encode, err
}

// parseOldTable reads lut8Type and lut16Type (ICC.1:2022, 10.10 and 10.11): a matrix that only XYZ goes through, curves, a
// grid, curves.
func parseOldTable(d []byte, in, out int, fromXYZ bool) ([]stage, error) {
	if len(d) < 52 {
		return nil, errCutOff
	}
	width, entries, exits, pos := 1, 256, 256, 48
	if string(d[:4]) == "mft2" {
		width, pos = 2, 52
		entries, exits = int(binary.BigEndian.Uint16(d[48:])), int(binary.BigEndian.Uint16(d[50:]))
	}
	if entries < 2 || entries > 4096 || exits < 2 || exits > 4096 {
		return nil, fmt.Errorf("its sizes are absurd: curves of %d and %d entries", entries, exits)
	}
	g := &grid{in: in, out: out}
	for i := range in {
		g.size[i] = int(d[10])
	}
	cells, err := g.layout()
	if err != nil {
		return nil, err
	}
	if need := pos + width*(in*entries+cells+out*exits); need > len(d) {
		return nil, fmt.Errorf("%w: %d bytes are needed and %d are there", errCutOff, need, len(d))
	}
	take := func(n int) []float32 {
		v := samples(d[pos:], n, width)
		pos += n * width
		return v
	}
	curves := func(channels, entries int) curveStage {
		s := curveStage{}
		for range channels {
			s = append(s, curve{table: take(entries)})
		}
		return s
	}
	var stages []stage
	if fromXYZ {
		m := matrixStage{}
		for r := range 3 {
			for c := range 3 {
				m.m[r][c] = fixed(d[12+12*r+4*c:])
			}
		}
		stages = append(stages, &m)
	}
	before := curves(in, entries)
	g.table = take(cells)
	return append(stages, before, g, curves(out, exits)), nil
}

// parseNewTable reads lutAToBType and lutBToAType (ICC.1:2022, 10.12 and 10.13): curves A, a grid, curves M, a matrix and
// curves B on the way to the connection space, the same backwards on the way from it. Only the curves B must be there.
func parseNewTable(d []byte, in, out int, toLab bool) ([]stage, error) {
	at := func(field int) (int, error) {
		offset := binary.BigEndian.Uint32(d[12+4*field:])
		if int64(offset) >= int64(len(d)) {
			return 0, errCutOff
		}
		return int(offset), nil
	}
	const curvesB, matrix, curvesM, table, curvesA = 0, 1, 2, 3, 4
	order := []int{curvesA, table, curvesM, matrix, curvesB}
	device, pcs := in, out
	if !toLab {
		order = []int{curvesB, matrix, curvesM, table, curvesA}
		device, pcs = out, in
	}
	var stages []stage
	hasTable := false
	for _, field := range order {
		pos, err := at(field)
		if err != nil {
			return nil, err
		}
		if pos == 0 {
			if field == curvesB {
				return nil, errors.New("it has no curves B")
			}
			continue
		}
		var s stage
		switch field {
		case matrix:
			s, err = parseMatrix(d[pos:])
		case table:
			hasTable = true
			s, err = parseGrid(d[pos:], in, out)
		case curvesA:
			s, err = parseCurves(d[pos:], device)
		default:
			s, err = parseCurves(d[pos:], pcs)
		}
		if err != nil {
			return nil, err
		}
		stages = append(stages, s)
	}
	if !hasTable && in != out {
		return nil, errors.New("it has no grid between its channels")
	}
	return stages, nil
}

func parseMatrix(d []byte) (stage, error) {
	if len(d) < 48 {
		return nil, errCutOff
	}
	m := &matrixStage{held: true}
	for r := range 3 {
		for c := range 3 {
			m.m[r][c] = fixed(d[12*r+4*c:])
		}
		m.offset[r] = fixed(d[36+4*r:])
	}
	return m, nil
}

func parseGrid(d []byte, in, out int) (stage, error) {
	if len(d) < 20 {
		return nil, errCutOff
	}
	g := &grid{in: in, out: out}
	for i := range in {
		g.size[i] = int(d[i])
	}
	width := int(d[16])
	if width != 1 && width != 2 {
		return nil, fmt.Errorf("its grid has %d bytes a value; 1 and 2 are read", width)
	}
	cells, err := g.layout()
	if err != nil {
		return nil, err
	}
	if 20+cells*width > len(d) {
		return nil, fmt.Errorf("%w: %d bytes of grid are needed and %d are there", errCutOff, cells*width, len(d)-20)
	}
	g.table = samples(d[20:], cells, width)
	return g, nil
}

func parseCurves(d []byte, n int) (stage, error) {
	s := curveStage{}
	for range n {
		c, used, err := parseCurve(d)
		if err != nil {
			return nil, err
		}
		s = append(s, c)
		used = (used + 3) &^ 3 // each begins on a multiple of four
		d = d[min(used, len(d)):]
	}
	return s, nil
}

func samples(d []byte, n, width int) []float32 {
	v := make([]float32, n)
	for i := range v {
		if width == 1 {
			v[i] = float32(d[i]) / 255
		} else {
			v[i] = float32(binary.BigEndian.Uint16(d[2*i:])) / 65535
		}
	}
	return v
}

// matrixStage multiplies three values by a matrix and adds an offset; held keeps the result to 0 to 1.
type matrixStage struct {
	m      [3][3]float64
	offset [3]float64
	held   bool
}

func (s *matrixStage) apply(v *values) {
	x, y, z := v[0], v[1], v[2]
	for r := range 3 {
		v[r] = s.m[r][0]*x + s.m[r][1]*y + s.m[r][2]*z + s.offset[r]
		if s.held {
			v[r] = clamp(v[r])
		}
	}
}

// grid is a table in as many dimensions as there are inputs.
type grid struct {
	in, out int
	size    [maxChannels]int // grid points along each input
	stride  [maxChannels]int
	table   []float32 // first input channel varies least, output channels lie together
	linear  bool      // linear along every axis instead of over tetrahedra
}

// layout checks the sizes, sets the strides and returns the number of values.
func (g *grid) layout() (int, error) {
	if g.in < 1 || g.in > maxChannels || g.out < 1 || g.out > maxChannels {
		return 0, fmt.Errorf("it has %d inputs and %d outputs", g.in, g.out)
	}
	cells := g.out
	for i := g.in - 1; i >= 0; i-- {
		g.stride[i] = cells
		if cells *= g.size[i]; g.size[i] < 2 || cells > limits.ProfileCells {
			return 0, fmt.Errorf("its sizes are absurd: %v grid points", g.size[:g.in])
		}
	}
	return cells, nil
}

// apply interpolates: linearly along all but the last three inputs, and over tetrahedra along those unless g.linear.
func (g *grid) apply(v *values) {
	var base int
	var frac [maxChannels]float64
	var step [maxChannels]int
	for i := range g.in {
		x := clamp(v[i]) * float64(g.size[i]-1)
		cell := min(int(x), g.size[i]-1)
		base += cell * g.stride[i]
		if f := x - float64(cell); f > 0 && cell < g.size[i]-1 {
			frac[i], step[i] = f, g.stride[i]
		}
	}
	if g.in == 4 && g.out == 3 && !g.linear {
		g.ink(base, &frac, &step, v)
		return
	}
	g.blend(0, base, &frac, &step, v[:g.out])
}

// ink is blend for four inks and three values of the connection space, by far the most frequent case, without the detours.
func (g *grid) ink(base int, frac *[maxChannels]float64, step *[maxChannels]int, v *values) {
	a, b, c := 1, 2, 3
	if frac[a] < frac[b] {
		a, b = b, a
	}
	if frac[b] < frac[c] {
		b, c = c, b
		if frac[a] < frac[b] {
			a, b = b, a
		}
	}
	p1 := step[a]
	p2 := p1 + step[b]
	p3 := p2 + step[c]
	w0, w1, w2, w3 := 1-frac[a], frac[a]-frac[b], frac[b]-frac[c], frac[c]
	corner := func(at int) (x, y, z float64) {
		t0, t1, t2, t3 := (*[3]float32)(g.table[at:]), (*[3]float32)(g.table[at+p1:]), (*[3]float32)(g.table[at+p2:]),
			(*[3]float32)(g.table[at+p3:])
		return w0*float64(t0[0]) + w1*float64(t1[0]) + w2*float64(t2[0]) + w3*float64(t3[0]),
			w0*float64(t0[1]) + w1*float64(t1[1]) + w2*float64(t2[1]) + w3*float64(t3[1]),
			w0*float64(t0[2]) + w1*float64(t1[2]) + w2*float64(t2[2]) + w3*float64(t3[2])
	}
	x, y, z := corner(base)
	if f := frac[0]; f > 0 {
		x1, y1, z1 := corner(base + step[0])
		x, y, z = x+f*(x1-x), y+f*(y1-y), z+f*(z1-z)
	}
	v[0], v[1], v[2] = x, y, z
}

func (g *grid) blend(axis, base int, frac *[maxChannels]float64, step *[maxChannels]int, dst []float64) {
	left := g.in - axis
	switch {
	case left == 0:
		for i := range dst {
			dst[i] = float64(g.table[base+i])
		}
	case left == 3 && !g.linear:
		g.tetrahedron(axis, base, frac, step, dst)
	default:
		g.blend(axis+1, base, frac, step, dst)
		if f := frac[axis]; f > 0 {
			var far [maxChannels]float64
			g.blend(axis+1, base+step[axis], frac, step, far[:len(dst)])
			for i := range dst {
				dst[i] += f * (far[i] - dst[i])
			}
		}
	}
}

func (g *grid) tetrahedron(axis, base int, frac *[maxChannels]float64, step *[maxChannels]int, dst []float64) {
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
	t0, t1, t2, t3 := g.table[p0:p0+n], g.table[p1:p1+n], g.table[p2:p2+n], g.table[p3:p3+n]
	for i := range dst {
		dst[i] = w0*float64(t0[i]) + w1*float64(t1[i]) + w2*float64(t2[i]) + w3*float64(t3[i])
	}
}
