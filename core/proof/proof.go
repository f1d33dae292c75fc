// Package proof shows how a picture prints: on the screen, as inks, and where it asks for what a press cannot give.
package proof

import (
	"image"
	"math"

	"huekeep/core/color"
	"huekeep/core/press"
	"huekeep/core/raster"
)

// Proof is a press condition, with its rendering of colors into ink, ready for pictures. It may be used by several goroutines.
// The conversions are baked into grids (see raster.Rows), which a pixel meets within a few levels; single colors are
// computed exactly by press.Condition.
type Proof struct {
	inks   *raster.Rows // sRGB to CMYK
	screen *raster.Rows // CMYK to sRGB
	beyond *raster.Rows // sRGB to the distance from what the press can print, in 1/10 ΔE00
}

// New makes a proof. With paper, the paper's own white and black are shown, as they look beside a screen; without, the paper is
// white, as an eye sees it that is used to it. Pixels count as printed from sRGB.
func New(c *press.Condition, paper bool) *Proof {
	look := c.Lab
	if paper {
		look = c.OnPaperLab
	}
	return &Proof{
		inks: raster.Bake(3, 4, func(src, dst []float64) {
			b := c.Unlimited(color.RGB{R: src[0], G: src[1], B: src[2]}.Lab())
			dst[0], dst[1], dst[2], dst[3] = b.C/100, b.M/100, b.Y/100, b.K/100
		}),
		screen: raster.Bake(4, 3, func(src, dst []float64) {
			rgb := look(color.CMYK{C: src[0] * 100, M: src[1] * 100, Y: src[2] * 100, K: src[3] * 100}).RGB().Clip()
			dst[0], dst[1], dst[2] = rgb.R, rgb.G, rgb.B
		}),
		beyond: raster.Bake(3, 1, func(src, dst []float64) {
			lab := color.RGB{R: src[0], G: src[1], B: src[2]}.Lab()
			dst[0] = 10 * c.Beyond(lab) / 255
		}),
	}
}

// Inks separates a picture: four bytes a pixel, C, M, Y and K from 0 (no ink) to 255. What is transparent shows the paper.
func (p *Proof) Inks(img *image.NRGBA) *image.CMYK {
	b := img.Bounds()
	out := image.NewCMYK(image.Rect(0, 0, b.Dx(), b.Dy()))
	raster.Parallel(b.Dy(), func(from, to int) {
		opaque := make([]uint8, 4*b.Dx())
		for y := from; y < to; y++ {
			p.inks.Convert(out.Pix[y*out.Stride:][:4*b.Dx()], 4, onWhite(opaque, img.Pix[y*img.Stride:]), 4)
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
			p.screen.Convert(row, 4, inks.Pix[y*inks.Stride:][:4*b.Dx()], 4)
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

// Measure reports on a picture, its inks, and a limit of total ink in percent.
func (p *Proof) Measure(img *image.NRGBA, inks *image.CMYK, limit float64) Report {
	b := img.Bounds()
	out, over := make([]int, b.Dy()), make([]int, b.Dy()) // of each row
	heaviest, at := make([]int, b.Dy()), make([]int, b.Dy())
	raster.Parallel(b.Dy(), func(from, to int) {
		far, opaque := make([]uint8, b.Dx()), make([]uint8, 4*b.Dx())
		for y := from; y < to; y++ {
			p.beyond.Convert(far, 1, onWhite(opaque, img.Pix[y*img.Stride:]), 4)
			row := inks.Pix[y*inks.Stride:][:4*b.Dx()]
			heaviest[y] = -1
			for x, f := range far {
				if float64(f) > 10*press.GamutDE {
					out[y]++
				}
				total := int(row[4*x]) + int(row[4*x+1]) + int(row[4*x+2]) + int(row[4*x+3])
				if float64(total)*100/255 > limit {
					over[y]++
				}
				if total > heaviest[y] {
					heaviest[y], at[y] = total, x
				}
			}
		}
	})
	r := Report{}
	most := -1
	for y := range b.Dy() {
		r.OutOfGamut += float64(out[y])
		r.OverInk += float64(over[y])
		if heaviest[y] > most {
			most, r.X, r.Y = heaviest[y], at[y], y
		}
	}
	pixels := math.Max(1, float64(b.Dx()*b.Dy()))
	r.OutOfGamut /= pixels
	r.OverInk /= pixels
	r.Heaviest = math.Max(0, float64(most)) * 100 / 255
	return r
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
