// Package proof shows how a picture prints: on the screen, as inks, and where it asks for what a press cannot give.
package proof

import (
	"image"
	"math"
	"sync"
	"sync/atomic"

	"huekeep/core/color"
	"huekeep/core/press"
	"huekeep/core/raster"
)

// Proof is a press condition, with its rendering of colors into ink, ready for pictures. It may be used by several goroutines.
// The conversions are baked into grids when they are first wanted (see raster.Rows), which a pixel meets within a few levels;
// single colors are computed exactly by press.Condition.
type Proof struct {
	// Told is told how much of the measuring is done, 0 to 1, from several goroutines; nil for nobody. What takes long is the first time of
	// a press.
	Told func(share float64)

	inks   func() *raster.Rows // sRGB to CMYK
	screen func() *raster.Rows // CMYK to sRGB
	look   func() *raster.Rows // sRGB to sRGB as printed, in one step
	beyond func() *raster.Rows // sRGB to the distance from what the press can print, in 1/10 ΔE00
}

// New makes a proof of pictures in sRGB. With paper, the paper's own white and black are shown, as they look beside a screen; without, the
// paper is white, as an eye sees it that is used to it.
func New(c *press.Condition, paper bool) *Proof { return Of(c, paper, nil) }

// Of makes a proof of pictures whose pixels look as lab says, which takes red, green and blue from 0 to 1; nil stands for sRGB. A wide
// picture goes to the press in one step, with what sRGB has not.
func Of(c *press.Condition, paper bool, lab func(dev []float64) color.Lab) *Proof {
	if lab == nil {
		lab = func(dev []float64) color.Lab { return color.RGB{R: dev[0], G: dev[1], B: dev[2]}.Lab() }
	}
	seen := c.Lab
	if paper {
		seen = c.OnPaperLab
	}
	put := func(dst []float64, lab color.Lab) {
		rgb := lab.RGB().Clip()
		dst[0], dst[1], dst[2] = rgb.R, rgb.G, rgb.B
	}
	inks := func(src []float64) color.CMYK { return c.Unlimited(lab(src)) }
	bake := func(in, out int, f func(src, dst []float64)) func() *raster.Rows {
		return sync.OnceValue(func() *raster.Rows { return raster.Bake(in, out, f) })
	}
	p := &Proof{}
	var points atomic.Int32
	*p = Proof{
		inks: bake(3, 4, func(src, dst []float64) {
			b := inks(src)
			dst[0], dst[1], dst[2], dst[3] = b.C/100, b.M/100, b.Y/100, b.K/100
		}),
		screen: bake(4, 3, func(src, dst []float64) {
			put(dst, seen(color.CMYK{C: src[0] * 100, M: src[1] * 100, Y: src[2] * 100, K: src[3] * 100}))
		}),
		look: bake(3, 3, func(src, dst []float64) { put(dst, seen(inks(src))) }),
		beyond: bake(3, 1, func(src, dst []float64) {
			dst[0] = 10 * c.Beyond(lab(src)) / 255
			if n := points.Add(1); n%500 == 0 && p.Told != nil {
				p.Told(float64(n) / (33 * 33 * 33))
			}
		}),
	}
	return p
}

// Look is how a picture looks in print, in sRGB, without its inks: the fast way to see it.
func (p *Proof) Look(img *image.NRGBA) *image.NRGBA {
	b := img.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	rows := p.look()
	raster.Parallel(b.Dy(), func(from, to int) {
		for y := from; y < to; y++ {
			row := onWhite(out.Pix[y*out.Stride:][:4*b.Dx()], img.Pix[y*img.Stride:])
			rows.Convert(row, 4, row, 4)
		}
	})
	return out
}

// Inks separates a picture: four bytes a pixel, C, M, Y and K from 0 (no ink) to 255. What is transparent shows the paper.
func (p *Proof) Inks(img *image.NRGBA) *image.CMYK {
	b := img.Bounds()
	out := image.NewCMYK(image.Rect(0, 0, b.Dx(), b.Dy()))
	raster.Parallel(b.Dy(), func(from, to int) {
		opaque := make([]uint8, 4*b.Dx())
		for y := from; y < to; y++ {
			p.inks().Convert(out.Pix[y*out.Stride:][:4*b.Dx()], 4, onWhite(opaque, img.Pix[y*img.Stride:]), 4)
		}
	})
	return out
}

// Screen is how the separated picture looks, in sRGB; what the screen cannot show is clipped.
func (p *Proof) Screen(inks *image.CMYK) *image.NRGBA {
	b := inks.Bounds()
	out := image.NewNRGBA(b)
	raster.Parallel(b.Dy(), func(from, to int) {
		for y := from; y < to; y++ {
			row := out.Pix[y*out.Stride:][:4*b.Dx()]
			p.screen().Convert(row, 4, inks.Pix[y*inks.Stride:][:4*b.Dx()], 4)
			for i := 3; i < len(row); i += 4 {
				row[i] = 255
			}
		}
	})
	return out
}

// Report is what a picture asks of the press.
type Report struct {
	OutOfGamut float64 // share of the pixels, 0 to 1, that no build prints within press.GamutDE
	OverInk    float64 // share of the pixels with more ink than the limit
	Heaviest   float64 // the most ink of a pixel, in percent of 400
	X, Y       int     // where it is, the first from the top left
}

// eachPixel tells of every pixel whether the press prints it and how much ink it takes, 0 to 1020; rows come from several goroutines.
func (p *Proof) eachPixel(img *image.NRGBA, inks *image.CMYK, f func(x, y int, outside bool, ink int)) {
	b := img.Bounds()
	raster.Parallel(b.Dy(), func(from, to int) {
		far, opaque := make([]uint8, b.Dx()), make([]uint8, 4*b.Dx())
		for y := from; y < to; y++ {
			p.beyond().Convert(far, 1, onWhite(opaque, img.Pix[y*img.Stride:]), 4)
			row := inks.Pix[y*inks.Stride:]
			for x, d := range far {
				f(x, y, float64(d) > 10*press.GamutDE, int(row[4*x])+int(row[4*x+1])+int(row[4*x+2])+int(row[4*x+3]))
			}
		}
	})
}

// percent is total ink of a pixel as people give it, 0 to 400.
func percent(ink int) float64 { return float64(ink) * 100 / 255 }

// Measure reports on a picture, its inks, and a limit of total ink in percent.
func (p *Proof) Measure(img *image.NRGBA, inks *image.CMYK, limit float64) Report {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	type line struct{ outside, over, heaviest, at int }
	lines := make([]line, h)
	p.eachPixel(img, inks, func(x, y int, outside bool, ink int) {
		l := &lines[y]
		if outside {
			l.outside++
		}
		if percent(ink) > limit {
			l.over++
		}
		if x == 0 || ink > l.heaviest {
			l.heaviest, l.at = ink, x
		}
	})
	var r Report
	most := -1
	for y, l := range lines {
		r.OutOfGamut += float64(l.outside)
		r.OverInk += float64(l.over)
		if l.heaviest > most {
			most, r.X, r.Y = l.heaviest, l.at, y
		}
	}
	pixels := math.Max(1, float64(w*h))
	r.OutOfGamut /= pixels
	r.OverInk /= pixels
	r.Heaviest = percent(max(0, most))
	return r
}

// Marks show where a picture leaves the gamut and where it takes more ink than the limit: black and white lines on nothing, so
// that they are seen on any color and have none of their own. Lines rise for the gamut and fall for ink.
func (p *Proof) Marks(img *image.NRGBA, inks *image.CMYK, limit float64) (gamut, ink *image.NRGBA) {
	size := image.Rect(0, 0, img.Rect.Dx(), img.Rect.Dy())
	gamut, ink = image.NewNRGBA(size), image.NewNRGBA(size)
	draw := func(dst *image.NRGBA, x, y, along int) {
		switch along & 7 {
		case 0:
			copy(dst.Pix[dst.PixOffset(x, y):], []uint8{0, 0, 0, 255})
		case 1:
			copy(dst.Pix[dst.PixOffset(x, y):], []uint8{255, 255, 255, 255})
		}
	}
	p.eachPixel(img, inks, func(x, y int, outside bool, total int) {
		if outside {
			draw(gamut, x, y, x+y)
		}
		if percent(total) > limit {
			draw(ink, x, y, x-y)
		}
	})
	return gamut, ink
}

// Reduced is a picture made smaller by a whole number, so that neither side is longer than side; every pixel is the mean of
// those that it stands for. A picture that fits is returned as it is.
func Reduced(img *image.NRGBA, side int) *image.NRGBA {
	size, blocks := reduced(img.Rect, side)
	if blocks == nil {
		return img
	}
	out := image.NewNRGBA(size)
	blocks(func(x, y int, b image.Rectangle) {
		var sum [4]int
		for v := b.Min.Y; v < b.Max.Y; v++ {
			row := img.Pix[v*img.Stride:]
			for u := b.Min.X; u < b.Max.X; u++ {
				px := row[4*u:][:4]
				a := int(px[3])
				sum[0], sum[1], sum[2], sum[3] = sum[0]+a*int(px[0]), sum[1]+a*int(px[1]), sum[2]+a*int(px[2]), sum[3]+a
			}
		}
		if sum[3] == 0 {
			return
		}
		px, count := out.Pix[out.PixOffset(x, y):], b.Dx()*b.Dy()
		for k := range 3 {
			px[k] = uint8((sum[k] + sum[3]/2) / sum[3])
		}
		px[3] = uint8((sum[3] + count/2) / count)
	})
	return out
}

// ReducedInks is Reduced for inks.
func ReducedInks(inks *image.CMYK, side int) *image.CMYK {
	size, blocks := reduced(inks.Rect, side)
	if blocks == nil {
		return inks
	}
	out := image.NewCMYK(size)
	blocks(func(x, y int, b image.Rectangle) {
		var sum [4]int
		for v := b.Min.Y; v < b.Max.Y; v++ {
			for u := b.Min.X; u < b.Max.X; u++ {
				for k, ink := range inks.Pix[v*inks.Stride+4*u:][:4] {
					sum[k] += int(ink)
				}
			}
		}
		px, count := out.Pix[out.PixOffset(x, y):], b.Dx()*b.Dy()
		for k := range sum {
			px[k] = uint8((sum[k] + count/2) / count)
		}
	})
	return out
}

// reduced says how large a picture becomes, and goes through its new pixels with the block of old ones that each stands for, rows
// from several goroutines; blocks is nil if the picture fits.
func reduced(of image.Rectangle, side int) (size image.Rectangle, blocks func(func(x, y int, b image.Rectangle))) {
	w, h := of.Dx(), of.Dy()
	n := (max(w, h) + side - 1) / side
	if n <= 1 {
		return of, nil
	}
	size = image.Rect(0, 0, max(1, w/n), max(1, h/n))
	return size, func(f func(x, y int, b image.Rectangle)) {
		raster.Parallel(size.Dy(), func(from, to int) {
			for y := from; y < to; y++ {
				for x := range size.Dx() {
					f(x, y, image.Rect(x*n, y*n, min(w, x*n+n), min(h, y*n+n)))
				}
			}
		})
	}
}

// onWhite fills dst with a row of pixels laid on white.
func onWhite(dst, row []uint8) []uint8 {
	copy(dst, row)
	for i := 3; i < len(dst); i += 4 {
		if a := int(dst[i]); a < 255 {
			for k := i - 3; k < i; k++ {
				dst[k] = uint8((int(dst[k])*a + 255*(255-a) + 127) / 255)
			}
			dst[i] = 255
		}
	}
	return dst
}
