package icc

import "huekeep/core/color"

// Slopes say how Lab changes by each of four device values, per unit of the scale 0 to 1.
type Slopes [4][3]float64

// LabSlope is Lab for a profile of four channels, with its slopes. For the usual table, curves around a grid, they are those of
// the cell that the values lie in; for others they are measured over a hundredth.
func (t *Transform) LabSlope(dev [4]float64) (lab color.Lab, slopes Slopes) {
	before, g, after := t.usual()
	if g == nil {
		lab = t.Lab(dev[:])
		for i := range dev {
			moved, step := dev, 0.01
			if dev[i] > 0.99 {
				step = -step
			}
			moved[i] += step
			to := t.Lab(moved[:])
			slopes[i] = [3]float64{(to.L - lab.L) / step, (to.A - lab.A) / step, (to.B - lab.B) / step}
		}
		return lab, slopes
	}
	var v values
	var rise [4]float64
	for i := range dev {
		v[i], rise[i] = before[i].rise(dev[i])
	}
	slopes = g.inkSlope(&v)
	unit := [3]float64{100, 255, 255}
	if t.pcs == lab16 {
		unit = [3]float64{65535 / 652.8, 65535. / 256, 65535. / 256}
	}
	for k := range 3 {
		var r float64
		v[k], r = after[k].rise(v[k])
		for i := range slopes {
			slopes[i][k] *= rise[i] * r * unit[k]
		}
	}
	return t.pcs.lab(&v), slopes
}

// usual are the parts of a transform from four inks to Lab that consists of curves, a grid and curves; else none.
func (t *Transform) usual() (before curveStage, g *grid, after curveStage) {
	if len(t.stages) != 3 || t.device != 4 || t.adapted || !t.pcs.isLab() {
		return nil, nil, nil
	}
	var first, last bool
	before, first = t.stages[0].(curveStage)
	g, _ = t.stages[1].(*grid)
	after, last = t.stages[2].(curveStage)
	if !first || !last || g == nil || g.linear {
		return nil, nil, nil
	}
	return before, g, after
}

// inkSlope is apply for four inks and three values, and the slopes in the cell, both over 0 to 1.
func (g *grid) inkSlope(v *values) (slopes Slopes) {
	base := 0
	var frac [4]float64
	for i := range 4 {
		x := clamp(v[i]) * float64(g.size[i]-1)
		cell := min(int(x), g.size[i]-2)
		base += cell * g.stride[i]
		frac[i] = x - float64(cell)
	}
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
	p1 := g.stride[a]
	p2 := p1 + g.stride[b]
	p3 := p2 + g.stride[c]
	fk := frac[0]
	for k := range 3 {
		low, high := g.table[base+k:], g.table[base+g.stride[0]+k:]
		l0, l1, l2, l3 := float64(low[0]), float64(low[p1]), float64(low[p2]), float64(low[p3])
		h0, h1, h2, h3 := float64(high[0]), float64(high[p1]), float64(high[p2]), float64(high[p3])
		da, db, dc := l1-l0+fk*(h1-h0-l1+l0), l2-l1+fk*(h2-h1-l2+l1), l3-l2+fk*(h3-h2-l3+l2)
		atLow := l0 + frac[a]*(l1-l0) + frac[b]*(l2-l1) + frac[c]*(l3-l2)
		atHigh := h0 + frac[a]*(h1-h0) + frac[b]*(h2-h1) + frac[c]*(h3-h2)
		slopes[0][k] = (atHigh - atLow) * float64(g.size[0]-1)
		slopes[a][k], slopes[b][k], slopes[c][k] = da*float64(g.size[a]-1), db*float64(g.size[b]-1), dc*float64(g.size[c]-1)
		v[k] = atLow + fk*(atHigh-atLow)
	}
	return slopes
}

// rise is at, with the slope.
func (c *curve) rise(x float64) (y, slope float64) {
	x = clamp(x)
	if n := len(c.table) - 1; n > 0 {
		x *= float64(n)
		i := min(int(x), n-1)
		rise := float64(c.table[i+1] - c.table[i])
		return float64(c.table[i]) + (x-float64(i))*rise, rise * float64(n)
	}
	const step = 1e-3
	y = c.at(x)
	low, high := clamp(x-step), clamp(x+step)
	return y, (c.at(high) - c.at(low)) / (high - low)
}
