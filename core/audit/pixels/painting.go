package pixels

import (
	"image"
	"slices"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/picture"
	"huekeep/core/source"
)

// painting is a picture in a format that is written.
type painting struct {
	part  *source.Part
	areas []painted
}

// painted is a color that an area of a picture has, by what its file has for it and what that means.
type painted struct {
	stored color.RGB8
	codes  *picture.Codes // nil for sRGB
	looks  audit.Color
}

// Looks is what codes of a picture show; nil are those of sRGB.
func Looks(c color.RGB8, codes *picture.Codes) audit.Color {
	if codes == nil {
		return audit.Screen(c)
	}
	t, beyond := codes.Beyond(c)
	if beyond {
		return audit.Seen(t)
	}
	return audit.Screen(t.RGB.Clip().RGB8())
}

// code is what a picture has for a color of the library: the color as screens with more than sRGB show it, if its space reaches that far.
func code(c library.Color, codes *picture.Codes) color.RGB8 {
	switch {
	case codes == nil:
		return c.RGB
	case codes.Holds(c.Screen()):
		return codes.Nearest(c.Screen())
	}
	return codes.Nearest(c.RGB.RGB())
}

// Source is where the picture stands in its file.
func (p *painting) Source() *source.Part { return p.part }

// Shows is what an area shows that was painted with a color of the library.
func (p *painting) Shows(was audit.Color, c library.Color) audit.Color {
	for _, a := range p.areas {
		if a.looks == was {
			return Looks(code(c, a.codes), a.codes)
		}
	}
	return audit.Screen(c.RGB)
}

// Repaint writes the picture with other colors in place of areas. Pixels that blend two areas at an edge blend what they became in the
// same shares; all others stay.
func (p *painting) Repaint(to map[audit.Color]library.Color) ([]byte, error) {
	data, err := p.part.Bytes()
	if err != nil {
		return nil, err
	}
	of := func(codes *picture.Codes) (areas []color.RGB8, becomes map[color.RGB8]color.RGB8) {
		becomes = map[color.RGB8]color.RGB8{}
		for _, a := range p.areas {
			if (a.codes == nil) != (codes == nil) || codes != nil && *a.codes != *codes {
				continue
			}
			areas = append(areas, a.stored)
			if c, ok := to[a.looks]; ok {
				becomes[a.stored] = code(c, codes)
			}
		}
		return areas, becomes
	}
	var areas []color.RGB8
	var becomes map[color.RGB8]color.RGB8
	return picture.Rewrite(data, picture.Brush{
		Pixels: func(img *image.NRGBA, codes *picture.Codes) bool {
			areas, becomes := of(codes)
			return paint(img, areas, becomes)
		},
		Entry: func(c color.RGB8, codes *picture.Codes) color.RGB8 {
			if areas == nil {
				areas, becomes = of(codes)
			}
			return entry(c, areas, becomes)
		},
	})
}

// entry is what becomes of a color of a palette.
func entry(c color.RGB8, areas []color.RGB8, to map[color.RGB8]color.RGB8) color.RGB8 {
	if new, ok := to[c]; ok {
		return new
	}
	if !slices.Contains(areas, c) {
		if new, ok := blended(c, areas, to); ok {
			return new
		}
	}
	return c
}

// paint replaces areas of a picture, and what blends them, and says whether there was anything to replace.
func paint(out *image.NRGBA, areas []color.RGB8, to map[color.RGB8]color.RGB8) (changed bool) {
	area := map[color.RGB8]bool{}
	for _, c := range areas {
		area[c] = true
	}
	from := &image.NRGBA{Pix: slices.Clone(out.Pix), Stride: out.Stride, Rect: out.Rect}
	w, h := from.Rect.Dx(), from.Rect.Dy()
	at := func(x, y int) (color.RGB8, uint8) {
		i := y*from.Stride + 4*x
		return color.RGB8{R: from.Pix[i], G: from.Pix[i+1], B: from.Pix[i+2]}, from.Pix[i+3]
	}
	put := func(x, y int, c color.RGB8) {
		i := y*out.Stride + 4*x
		out.Pix[i], out.Pix[i+1], out.Pix[i+2] = c.R, c.G, c.B
		changed = true
	}
	for y := range h {
		for x := range w {
			c, alpha := at(x, y)
			if new, ok := to[c]; ok {
				put(x, y, new)
				continue
			}
			if area[c] || alpha == 0 {
				continue
			}
			// An edge: the areas around it are what it blends.
			var around []color.RGB8
			changes := false
			for dy := -2; dy <= 2; dy++ {
				for dx := -2; dx <= 2; dx++ {
					if x+dx < 0 || y+dy < 0 || x+dx >= w || y+dy >= h {
						continue
					}
					n, a := at(x+dx, y+dy)
					if a < 128 || !area[n] || slices.Contains(around, n) {
						continue
					}
					around = append(around, n)
					if _, ok := to[n]; ok {
						changes = true
					}
				}
			}
			if changes {
				if new, ok := blended(c, around, to); ok {
					put(x, y, new)
				}
			}
		}
	}
	return changed
}

// blended writes a color as a blend of two others and blends what they become; one that is near a single one moves with it.
func blended(c color.RGB8, around []color.RGB8, to map[color.RGB8]color.RGB8) (color.RGB8, bool) {
	became := func(a color.RGB8) color.RGB8 {
		if n, ok := to[a]; ok {
			return n
		}
		return a
	}
	v := func(a color.RGB8) [3]float64 { return [3]float64{float64(a.R), float64(a.G), float64(a.B)} }
	best, found := 12.0, false
	var out color.RGB8
	p := v(c)
	for i, a := range around {
		for _, b := range around[i+1:] {
			x, y := v(a), v(b)
			var dot, length float64
			for k := range 3 {
				dot += (p[k] - x[k]) * (y[k] - x[k])
				length += (y[k] - x[k]) * (y[k] - x[k])
			}
			if length == 0 {
				continue
			}
			t := min(1, max(0, dot/length))
			off := 0.0
			for k := range 3 {
				off = max(off, abs(p[k]-x[k]-t*(y[k]-x[k])))
			}
			if off < best {
				m, n := v(became(a)), v(became(b))
				best, found = off, true
				mix := func(k int) uint8 { return uint8(min(255, max(0, m[k]+t*(n[k]-m[k])+0.5))) }
				out = color.RGB8{R: mix(0), G: mix(1), B: mix(2)}
			}
		}
	}
	if !found && len(around) == 1 && audit.Farthest(around[0], c) <= 24 { // of what it blends with the other is not there
		was, is := v(around[0]), v(became(around[0]))
		moved := func(k int) uint8 { return uint8(min(255, max(0, p[k]+is[k]-was[k]))) }
		return color.RGB8{R: moved(0), G: moved(1), B: moved(2)}, true
	}
	return out, found
}

func abs(v float64) float64 {
	if v < 0 {
		return -v
	}
	return v
}
