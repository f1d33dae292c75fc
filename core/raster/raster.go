// Package raster converts many pixels at once.
package raster

import (
	"math"
	"runtime"
	"sync"
)

// Rows converts 8-bit pixels fast: a function of one, three or four channels, baked into a grid. One channel is exact; of three, 33 points
// an axis are kept, of four 17 (over tetrahedra and what they are with an axis more). It may be used by several goroutines.
type Rows struct {
	in, out int
	table   []int32       // values scaled by 255 * 64; of a point, out values lie together
	low     [4][256]int32 // of a channel value: where its lower grid point begins in table
	up      [4][256]int32 // how far the next grid point is, 0 at the end
	frac    [4][256]int32 // how far the value lies toward the next, of 1<<15
}

const (
	valueBits = 6
	fracBits  = 15
)

// Bake calls f for each grid point. f takes in values (1, 3 or 4) and fills out values (1 to 4), all on the scale 0 to 1; it
// is called from several goroutines.
func Bake(in, out int, f func(src, dst []float64)) *Rows {
	points := map[int]int{1: 256, 2: 65, 3: 33, 4: 17}[in]
	r := &Rows{in: in, out: out}
	cells := out
	for i := in - 1; i >= 0; i-- {
		for v := range 256 {
			x := v * (points - 1)
			cell := min(x/255, points-2)
			r.low[i][v] = int32(cell * cells)
			r.up[i][v] = int32(cells)
			r.frac[i][v] = int32(math.Round(float64(x-cell*255) / 255 * (1 << fracBits)))
		}
		cells *= points
	}
	r.table = make([]int32, cells)
	slab := cells / points // all that share the first channel's value
	Parallel(points, func(from, to int) {
		src, dst := make([]float64, in), make([]float64, out)
		for first := from; first < to; first++ {
			for at := first * slab; at < (first+1)*slab; at += out {
				rest := at / out
				for i := in - 1; i >= 0; i-- {
					src[i] = float64(rest%points) / float64(points-1)
					rest /= points
				}
				f(src, dst)
				for k := range dst {
					r.table[at+k] = int32(math.Round(clamp(dst[k]) * 255 * (1 << valueBits)))
				}
			}
		}
	})
	return r
}

// clamp holds v to 0 to 1; what is not a number becomes 0.
func clamp(v float64) float64 {
	if !(v > 0) {
		return 0
	}
	return math.Min(1, v)
}

// Convert writes a pixel to dst for each pixel of src; dstStep and srcStep are the bytes from one pixel to the next, of
// which the first ones are the channels. The other bytes of dst stay as they are. dst and src may be the same.
func (r *Rows) Convert(dst []uint8, dstStep int, src []uint8, srcStep int) {
	var last [4]uint8
	var result [4]uint8
	known := false
	for d, s := 0, 0; d+r.out <= len(dst) && s+r.in <= len(src); d, s = d+dstStep, s+srcStep {
		if px := src[s : s+r.in]; !known || px[0] != last[0] || string(px) != string(last[:r.in]) {
			copy(last[:], px)
			known = true
			switch {
			case r.in == 3 && r.out >= 3:
				r.three(&last, &result)
			case r.in == 4 && r.out == 3:
				r.four(&last, &result)
			default:
				r.any(&last, &result)
			}
		}
		copy(dst[d:d+r.out], result[:])
	}
}

const half = 1 << (valueBits + fracBits - 1)

// three is the tetrahedral interpolation of three channels in fixed point.
func (r *Rows) three(src, dst *[4]uint8) {
	x, y, z := src[0], src[1], src[2]
	fx, fy, fz := r.frac[0][x], r.frac[1][y], r.frac[2][z]
	ux, uy, uz := r.up[0][x], r.up[1][y], r.up[2][z]
	p0 := r.low[0][x] + r.low[1][y] + r.low[2][z]
	if fx < fy {
		fx, fy, ux, uy = fy, fx, uy, ux
	}
	if fy < fz {
		fy, fz, uy, uz = fz, fy, uz, uy
		if fx < fy {
			fx, fy, ux, uy = fy, fx, uy, ux
		}
	}
	w0, w1, w2, w3 := 1<<fracBits-fx, fx-fy, fy-fz, fz
	p1 := p0 + ux
	p2 := p1 + uy
	p3 := p2 + uz
	a, b, c, d := r.table[p0:p0+3:p0+3], r.table[p1:p1+3:p1+3], r.table[p2:p2+3:p2+3], r.table[p3:p3+3:p3+3]
	dst[0] = uint8((a[0]*w0 + b[0]*w1 + c[0]*w2 + d[0]*w3 + half) >> (valueBits + fracBits))
	dst[1] = uint8((a[1]*w0 + b[1]*w1 + c[1]*w2 + d[1]*w3 + half) >> (valueBits + fracBits))
	dst[2] = uint8((a[2]*w0 + b[2]*w1 + c[2]*w2 + d[2]*w3 + half) >> (valueBits + fracBits))
	if r.out == 4 {
		dst[3] = uint8((r.table[p0+3]*w0 + r.table[p1+3]*w1 + r.table[p2+3]*w2 + r.table[p3+3]*w3 + half) >> (valueBits + fracBits))
	}
}

// four is three's interpolation with one axis more: between the five corners of the simplex that the point lies in.
func (r *Rows) four(src, dst *[4]uint8) {
	c, m, y, k := src[0], src[1], src[2], src[3]
	f0, f1, f2, f3 := r.frac[0][c], r.frac[1][m], r.frac[2][y], r.frac[3][k]
	u0, u1, u2, u3 := r.up[0][c], r.up[1][m], r.up[2][y], r.up[3][k]
	p0 := r.low[0][c] + r.low[1][m] + r.low[2][y] + r.low[3][k]
	// From the largest part of the way to the smallest.
	if f0 < f1 {
		f0, f1, u0, u1 = f1, f0, u1, u0
	}
	if f2 < f3 {
		f2, f3, u2, u3 = f3, f2, u3, u2
	}
	if f0 < f2 {
		f0, f2, u0, u2 = f2, f0, u2, u0
	}
	if f1 < f3 {
		f1, f3, u1, u3 = f3, f1, u3, u1
	}
	if f1 < f2 {
		f1, f2, u1, u2 = f2, f1, u2, u1
	}
	w0, w1, w2, w3, w4 := 1<<fracBits-f0, f0-f1, f1-f2, f2-f3, f3
	p1 := p0 + u0
	p2 := p1 + u1
	p3 := p2 + u2
	p4 := p3 + u3
	a, b, d, e, g := r.table[p0:p0+3:p0+3], r.table[p1:p1+3:p1+3], r.table[p2:p2+3:p2+3], r.table[p3:p3+3:p3+3], r.table[p4:p4+3:p4+3]
	dst[0] = uint8((a[0]*w0 + b[0]*w1 + d[0]*w2 + e[0]*w3 + g[0]*w4 + half) >> (valueBits + fracBits))
	dst[1] = uint8((a[1]*w0 + b[1]*w1 + d[1]*w2 + e[1]*w3 + g[1]*w4 + half) >> (valueBits + fracBits))
	dst[2] = uint8((a[2]*w0 + b[2]*w1 + d[2]*w2 + e[2]*w3 + g[2]*w4 + half) >> (valueBits + fracBits))
}

// any interpolates linearly along every axis.
func (r *Rows) any(src, dst *[4]uint8) {
	var base int32
	for i := range r.in {
		base += r.low[i][src[i]]
	}
	var sum [4]int64
	for corner := range 1 << r.in {
		at, weight := base, int64(1<<fracBits)
		for i := range r.in {
			f := int64(r.frac[i][src[i]])
			if corner>>i&1 == 1 {
				at += r.up[i][src[i]]
			} else {
				f = 1<<fracBits - f
			}
			weight = weight * f >> fracBits
		}
		if weight == 0 {
			continue
		}
		for k := range r.out {
			sum[k] += weight * int64(r.table[int(at)+k])
		}
	}
	for k := range r.out {
		dst[k] = uint8((sum[k] + half) >> (valueBits + fracBits))
	}
}

// Parallel splits 0 to n into one run a core and waits for all.
func Parallel(n int, f func(from, to int)) {
	workers := max(1, min(runtime.GOMAXPROCS(0), n))
	var wait sync.WaitGroup
	for i := range workers {
		wait.Go(func() { f(n*i/workers, n*(i+1)/workers) })
	}
	wait.Wait()
}
