package icc

import (
	"fmt"
	"math"
)

// shape fills in the stages of a profile without tables: three curves and a matrix for RGB (ICC.1:2022, 8.3.3), one curve
// for gray (8.3.4).
func (p *Profile) shape(t *Transform, toLab bool) error {
	t.pcs = xyzRaw
	if p.Space == "GRAY" {
		c, err := p.curve("kTRC")
		if p.PCS == "Lab " {
			t.pcs = lab8 // the curve gives L* on the scale 0 to 1
		}
		if toLab {
			t.stages = []stage{curveStage{c}, fromGray(t.pcs)}
		} else {
			t.stages = []stage{toGray(t.pcs), backStage{c}}
		}
		return err
	}
	if p.PCS != "XYZ " {
		return fmt.Errorf("the profile has neither a table nor a matrix for %q", p.Space)
	}
	var curves []curve
	m := &matrixStage{}
	for i, channel := range "rgb" {
		c, err := p.curve(string(channel) + "TRC")
		if err != nil {
			return err
		}
		curves = append(curves, c)
		column, err := p.xyz(string(channel) + "XYZ")
		if err != nil {
			return err
		}
		for k := range 3 {
			m.m[k][i] = column[k]
		}
	}
	if toLab {
		t.stages = []stage{curveStage(curves), m}
		return nil
	}
	inverse, ok := invert(m.m)
	if !ok {
		return fmt.Errorf("the primaries of the profile lie on a line")
	}
	t.stages = []stage{&matrixStage{m: inverse}, backStage(curves)}
	return nil
}

// fromGray spreads a gray over the connection space, toGray takes it from there.
type (
	fromGray encoding
	toGray   encoding
)

func (s fromGray) apply(v *values) {
	y := v[0]
	if encoding(s).isLab() {
		v[1], v[2] = 128./255, 128./255
		return
	}
	for i, w := range pcsWhite {
		v[i] = w * y
	}
}

func (s toGray) apply(v *values) {
	if !encoding(s).isLab() {
		v[0] = v[1] // Y of XYZ
	}
}

func invert(m [3][3]float64) (out [3][3]float64, ok bool) {
	minor := func(r, c int) float64 {
		a, b := (r+1)%3, (r+2)%3
		x, y := (c+1)%3, (c+2)%3
		return m[a][x]*m[b][y] - m[a][y]*m[b][x]
	}
	det := m[0][0]*minor(0, 0) + m[0][1]*minor(0, 1) + m[0][2]*minor(0, 2)
	if math.Abs(det) < 1e-9 {
		return out, false
	}
	for r := range 3 {
		for c := range 3 {
			out[c][r] = minor(r, c) / det
		}
	}
	return out, true
}
