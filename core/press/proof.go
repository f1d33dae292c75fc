package press

import (
	"image"

	"huekeep/core/color"
	"huekeep/core/raster"
)

// Proof shows on the screen how a picture prints: every pixel goes from sRGB to ink and back to sRGB; what the screen
// cannot show is clipped. The picture is changed in place; its transparency stays. The conversion is baked into a grid
// (see raster.Rows), which a pixel meets within a few levels; single colors are computed exactly by Build.
func (c *Condition) Proof(img *image.NRGBA) {
	rows := c.screen()
	b := img.Bounds()
	raster.Parallel(b.Dy(), func(from, to int) {
		for y := from; y < to; y++ {
			row := img.Pix[y*img.Stride:][:4*b.Dx()]
			rows.Convert(row, 4, row, 4)
		}
	})
}

// Screen is how a screen color looks when it is printed without rounding.
func (c *Condition) Screen(rgb color.RGB) color.RGB {
	var dev [4]float64
	c.backward.Device(rgb.Lab(), dev[:])
	return c.forward.Lab(dev[:]).RGB().Clip()
}

func (c *Condition) bake() *raster.Rows {
	return raster.Bake(3, 3, func(src, dst []float64) {
		out := c.Screen(color.RGB{R: src[0], G: src[1], B: src[2]})
		dst[0], dst[1], dst[2] = out.R, out.G, out.B
	})
}
