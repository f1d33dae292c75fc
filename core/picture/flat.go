package picture

import (
	"cmp"
	"image"
	"slices"

	"huekeep/core/color"
)

const (
	mostFlat   = 24   // colors of a drawing that are told
	flatPixels = 24   // pixels of a color, and
	flatShare  = 2e-4 // as a share of the picture
	drawn      = 0.5  // of the pixels of a drawing lie in flat areas
	leastRun   = 3    // pixels of one color beside each other that are flat
)

// Flat lists the colors of a picture that was drawn and not taken, a page on a screen or a logo, the largest first: exact ones, each with a
// pixel in its largest area, however small the area is beside the others. A photo, or what compression has gone over, has none.
func Flat(img *image.NRGBA) []Area {
	type part struct {
		count, run int
		at         image.Point
	}
	parts := map[color.RGB8]*part{}
	b := img.Rect
	flat, all := 0, b.Dx()*b.Dy()
	for y := b.Min.Y; y < b.Max.Y; y++ {
		row := img.Pix[img.PixOffset(b.Min.X, y):][:4*b.Dx()]
		for x := 0; x < b.Dx(); {
			end := x + 1
			for end < b.Dx() && [4]byte(row[4*end:]) == [4]byte(row[4*x:]) {
				end++
			}
			length, middle := end-x, (x+end)/2
			px := [4]byte(row[4*x:])
			below := min(y+1, b.Max.Y-1)
			if below == y {
				below = max(y-1, b.Min.Y)
			}
			if length >= leastRun && px[3] == 255 && [4]byte(img.Pix[img.PixOffset(b.Min.X+middle, below):]) == px {
				c := color.RGB8{R: px[0], G: px[1], B: px[2]}
				p := parts[c]
				if p == nil {
					p = &part{}
					parts[c] = p
				}
				p.count += length
				flat += length
				if length > p.run {
					p.run, p.at = length, image.Pt(b.Min.X+middle, y)
				}
			}
			x = end
		}
	}
	if float64(flat) < drawn*float64(all) {
		return nil
	}
	var out []Area
	for c, p := range parts {
		if share := float64(p.count) / float64(all); p.count >= flatPixels && share >= flatShare {
			out = append(out, Area{Color: c, Share: share, At: p.at})
		}
	}
	slices.SortFunc(out, func(x, y Area) int {
		return cmp.Or(cmp.Compare(y.Share, x.Share), cmp.Compare(x.Color.Hex(), y.Color.Hex()))
	})
	return out[:min(len(out), mostFlat)]
}
