// Package palette holds a palette against a picture, value by value: where in the picture each color is, how far the picture's
// own value is from it, what no color answers, and how the picture would look in the palette's values.
//
// Pixels are gathered into cells of 6 bits a channel with the exact mean of each, so a plain area is judged by its value and a
// photograph of any size by some ten thousand cells; within a cell colors are under 2 ΔE00 apart.
package palette

import (
	"image"
	"math"
	"sort"

	"huekeep/core/color"
)

// Near is up to which distance an area counts as a color of the palette, ΔE00; half of it is taken over whole.
const Near = 10

// Held is a picture that palettes are held against.
type Held struct {
	img   *image.NRGBA
	cells []cell
	at    []int32 // of every 6-bit color: its place in cells, plus 1
	total float64 // pixels that count
}

type cell struct {
	n    float64
	sum  [3]float64 // of the levels
	lab  color.Lab
	mean color.RGB8
}

const bins = 1 << 18

func bin(p []uint8) int { return int(p[0]>>2)<<12 | int(p[1]>>2)<<6 | int(p[2]>>2) }

// Of gathers a picture. Pixels more than half transparent do not count.
func Of(img *image.NRGBA) *Held {
	h := &Held{img: img, at: make([]int32, bins)}
	each(img, func(p []uint8, _, _ int) {
		if p[3] < 128 {
			return
		}
		k := bin(p)
		if h.at[k] == 0 {
			h.cells = append(h.cells, cell{})
			h.at[k] = int32(len(h.cells))
		}
		c := &h.cells[h.at[k]-1]
		c.n++
		for i := range c.sum {
			c.sum[i] += float64(p[i])
		}
	})
	for i := range h.cells {
		c := &h.cells[i]
		c.mean = color.RGB8{R: level(c.sum[0] / c.n), G: level(c.sum[1] / c.n), B: level(c.sum[2] / c.n)}
		c.lab = c.mean.Lab()
		h.total += c.n
	}
	return h
}

func level(v float64) uint8 { return uint8(math.Round(min(255, max(0, v)))) }

// each calls f with every pixel.
func each(img *image.NRGBA, f func(p []uint8, x, y int)) {
	b := img.Bounds()
	for y := range b.Dy() {
		row := img.Pix[y*img.Stride:]
		for x := range b.Dx() {
			f(row[4*x:4*x+4:4*x+4], x, y)
		}
	}
}

// Match is what of a picture is a color of the palette.
type Match struct {
	Share  float64     // of the area that is nearest to the color and near it, 0 to 1
	Own    color.RGB8  // the picture's value there; without a share, its nearest value anywhere
	DeltaE float64     // between Own and the color
	At     image.Point // a pixel there
}

// Area is a part of the picture that no color of the palette answers.
type Area struct {
	Share   float64
	Value   color.RGB8
	At      image.Point
	Nearest int // place of the palette's nearest color
	DeltaE  float64
}

// least is the share of the picture that an unanswered area has to have to be told.
const least = 0.02

// Against is a palette held against a picture.
type Against struct {
	Matches    []Match // of each color of the palette
	Unanswered []Area  // the largest first

	held  *Held
	set   []color.RGB8
	of    []int32   // of each cell: its color
	far   []float64 // of each cell: ΔE00 to its color
	shift []color.Lab
}

// alike is within which distance of its most frequent value an area is of that value, ΔE00.
const alike = 2

// Against holds a palette of at least one color against the picture.
func (h *Held) Against(set []color.RGB8) *Against {
	a := &Against{held: h, set: set, Matches: make([]Match, len(set)), shift: make([]color.Lab, len(set))}
	labs := a.assign()
	closest := make([]int32, len(set)) // of each color: the cell that is nearest to it, if none is near
	for k := range set {
		m, most := &a.Matches[k], -1
		for i := range h.cells {
			if a.is(i, k) && (most < 0 || h.cells[i].n > h.cells[most].n) {
				most = i
			}
		}
		if most >= 0 {
			var all, n, l, ca, cb float64
			for i := range h.cells {
				if c := &h.cells[i]; a.is(i, k) {
					all += c.n
					if color.DeltaE00(c.lab, h.cells[most].lab) <= alike {
						n, l, ca, cb = n+c.n, l+c.n*c.lab.L, ca+c.n*c.lab.A, cb+c.n*c.lab.B
					}
				}
			}
			m.Share, m.Own = all/h.total, color.Lab{L: l / n, A: ca / n, B: cb / n}.RGB().RGB8()
		} else {
			best := math.Inf(1)
			for i := range h.cells {
				if d := color.DeltaE00(labs[k], h.cells[i].lab); d < best {
					best, closest[k], m.Own = d, int32(i), h.cells[i].mean
				}
			}
		}
		own := m.Own.Lab()
		m.DeltaE = color.DeltaE00(labs[k], own)
		a.shift[k] = color.Lab{L: labs[k].L - own.L, A: labs[k].A - own.A, B: labs[k].B - own.B}
	}
	a.unanswered()
	a.locate(closest)
	return a
}

// assign finds the color of each cell and returns the palette in CIELAB.
func (a *Against) assign() []color.Lab {
	labs := make([]color.Lab, len(a.set))
	for i, c := range a.set {
		labs[i] = c.Lab()
	}
	index := color.NewIndex(labs)
	a.of, a.far = make([]int32, len(a.held.cells)), make([]float64, len(a.held.cells))
	for i := range a.held.cells {
		n := index.Nearest(a.held.cells[i].lab, 1)[0]
		a.of[i], a.far[i] = int32(n.At), n.DeltaE
	}
	return labs
}

// is says whether a cell is of a color of the palette.
func (a *Against) is(cell, k int) bool { return a.of[cell] == int32(k) && a.far[cell] < Near }

// unanswered gathers the cells that are near no color into areas: the most frequent first, with all that look like it.
func (a *Against) unanswered() {
	const similar = 8 // ΔE00
	h := a.held
	var left []int
	for i := range h.cells {
		if a.far[i] >= Near {
			left = append(left, i)
		}
	}
	sort.SliceStable(left, func(x, y int) bool { return h.cells[left[x]].n > h.cells[left[y]].n })
	for len(left) > 0 && len(a.Unanswered) < 8 {
		first := left[0]
		var n, l, ca, cb float64
		rest := left[:0]
		for _, i := range left {
			c := &h.cells[i]
			if i != first && color.DeltaE00(h.cells[first].lab, c.lab) > similar {
				rest = append(rest, i)
				continue
			}
			n += c.n
			l, ca, cb = l+c.n*c.lab.L, ca+c.n*c.lab.A, cb+c.n*c.lab.B
		}
		left = rest
		if n/h.total < least {
			continue
		}
		mean := color.Lab{L: l / n, A: ca / n, B: cb / n}
		value := mean.RGB().RGB8()
		nearest, de := 0, math.Inf(1)
		for k, c := range a.set {
			if d := color.DeltaE00(c.Lab(), value.Lab()); d < de {
				nearest, de = k, d
			}
		}
		a.Unanswered = append(a.Unanswered, Area{Share: n / h.total, Value: value, Nearest: nearest, DeltaE: de})
	}
	sort.SliceStable(a.Unanswered, func(x, y int) bool { return a.Unanswered[x].Share > a.Unanswered[y].Share })
}

// locate finds for each match and area a pixel that has about its value, in the middle of those that have.
func (a *Against) locate(closest []int32) {
	h := a.held
	type place struct {
		n, x, y float64
		best    float64
		at      *image.Point
	}
	var places []place
	of := make([][]int32, len(h.cells)) // of each cell: which places it belongs to
	add := func(at *image.Point, value color.Lab, within func(i int) bool) {
		k, nearest, d := int32(len(places)), -1, math.Inf(1)
		places = append(places, place{at: at, best: math.Inf(1)})
		found := false
		for i := range h.cells {
			if !within(i) {
				continue
			}
			de := color.DeltaE00(h.cells[i].lab, value)
			if de < d {
				nearest, d = i, de
			}
			if de < 3 {
				of[i], found = append(of[i], k), true
			}
		}
		if !found && nearest >= 0 {
			of[nearest] = append(of[nearest], k)
		}
	}
	for k := range a.Matches {
		m := &a.Matches[k]
		if m.Share > 0 {
			add(&m.At, m.Own.Lab(), func(i int) bool { return a.is(i, k) })
		} else {
			add(&m.At, m.Own.Lab(), func(i int) bool { return int32(i) == closest[k] })
		}
	}
	for k := range a.Unanswered {
		u := &a.Unanswered[k]
		add(&u.At, u.Value.Lab(), func(i int) bool { return a.far[i] >= Near })
	}
	cells := func(f func(p *place, x, y float64)) {
		each(h.img, func(p []uint8, x, y int) {
			if p[3] < 128 {
				return
			}
			for _, k := range of[h.at[bin(p)]-1] {
				f(&places[k], float64(x), float64(y))
			}
		})
	}
	cells(func(p *place, x, y float64) { p.n, p.x, p.y = p.n+1, p.x+x, p.y+y })
	cells(func(p *place, x, y float64) {
		if d := math.Hypot(x-p.x/p.n, y-p.y/p.n); d < p.best {
			p.best, *p.at = d, image.Pt(int(x), int(y))
		}
	})
}

// Distances is a picture of the same size: each pixel its gray, and as alpha its distance from a value in quarters of ΔE00, 255 for
// more. Whoever shows what lies within a tolerance compares numbers only.
func (h *Held) Distances(value color.RGB8) *image.NRGBA {
	lab := value.Lab()
	type answer struct{ gray, far uint8 }
	of := make([]answer, len(h.cells))
	for i := range h.cells {
		c := &h.cells[i]
		gray := color.Lab{L: c.lab.L}.RGB().RGB8()
		of[i] = answer{gray.G, level(min(255, 4*color.DeltaE00(lab, c.lab)))}
	}
	out := image.NewNRGBA(h.img.Bounds())
	each(h.img, func(p []uint8, x, y int) {
		to := out.Pix[y*out.Stride+4*x:]
		if p[3] < 128 {
			to[0], to[1], to[2], to[3] = 255, 255, 255, 255
			return
		}
		a := of[h.at[bin(p)]-1]
		to[0], to[1], to[2], to[3] = a.gray, a.gray, a.gray, a.far
	})
	return out
}

// InPlace is a picture in which the areas of the palette's colors have these instead of their own values, grain and shading kept: every
// pixel of an area moves as the area's own value has to. Only moves one color's areas, all for -1. The picture may be the one that the
// palette was held against, or the same one in another size.
func (a *Against) InPlace(img *image.NRGBA, only int) *image.NRGBA {
	h := a.held
	if img != h.img {
		h = Of(img)
		a = &Against{held: h, set: a.set, shift: a.shift}
		a.assign()
	}
	moved := make([][3]float64, len(h.cells)) // levels that a cell moves by
	for i := range h.cells {
		k := int(a.of[i])
		if a.far[i] >= Near || only >= 0 && k != only {
			continue
		}
		weight := min(1, (Near-a.far[i])/(Near/2)) // so that no edge shows where an area ends
		c, s := h.cells[i], a.shift[k]
		to := color.Lab{L: c.lab.L + weight*s.L, A: c.lab.A + weight*s.A, B: c.lab.B + weight*s.B}.RGB().RGB8()
		moved[i] = [3]float64{float64(to.R) - float64(c.mean.R), float64(to.G) - float64(c.mean.G), float64(to.B) - float64(c.mean.B)}
	}
	out := image.NewNRGBA(img.Bounds())
	each(img, func(p []uint8, x, y int) {
		to := out.Pix[y*out.Stride+4*x:]
		copy(to[:4], p)
		if p[3] < 128 {
			return
		}
		m := &moved[h.at[bin(p)]-1]
		for i := range m {
			to[i] = level(float64(p[i]) + m[i])
		}
	})
	return out
}
