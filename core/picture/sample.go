package picture

import (
	"fmt"
	"image"
	"slices"

	"huekeep/core/color"
)

// Windows lists the sides, in pixels, of the square windows that a point may be sampled with.
var Windows = []int{1, 3, 5, 11, 31}

// PatchWindow is the one for the middle of a patch of a palette.
const PatchWindow = 5

// Sample is the color at a point: the median of each channel over a square window around it, so that neither grain nor the
// noise of a JPEG decides. The window is cut at the picture's edges; pixels more than half transparent do not count.
func Sample(img *image.NRGBA, x, y, window int) (color.RGB8, error) {
	b := img.Bounds()
	switch {
	case !slices.Contains(Windows, window):
		return color.RGB8{}, fmt.Errorf("the window is %d pixels wide; it may be 1, 3, 5, 11 or 31", window)
	case !(image.Point{X: x, Y: y}).In(b):
		return color.RGB8{}, fmt.Errorf("the point %d, %d lies outside the picture of %d x %d pixels", x, y, b.Dx(), b.Dy())
	}
	half := window / 2
	c, n := median(img, image.Rect(x-half, y-half, x+half+1, y+half+1).Intersect(b), 1)
	if n == 0 {
		return color.RGB8{}, fmt.Errorf("the picture is transparent at %d, %d", x, y)
	}
	return c, nil
}

// Beyond is the color at a point, as Sample takes it, of a picture that DecodeOwn read, where sRGB does not hold it.
func (p *Picture) Beyond(x, y, window int) (t color.Typed, ok bool) {
	own, codes := p.Exact()
	if codes == nil {
		return t, false
	}
	c, err := Sample(own, x, y, window)
	if err != nil {
		return t, false
	}
	return codes.Beyond(c)
}

// median is the median of each channel over every step-th pixel of a rectangle, and how many of them were opaque.
func median(img *image.NRGBA, r image.Rectangle, step int) (color.RGB8, int) {
	var counts [3][256]int
	n := 0
	for y := r.Min.Y; y < r.Max.Y; y += step {
		for x := r.Min.X; x < r.Max.X; x += step {
			if px := img.Pix[img.PixOffset(x, y):][:4]; px[3] >= 128 {
				for i := range 3 {
					counts[i][px[i]]++
				}
				n++
			}
		}
	}
	if n == 0 {
		return color.RGB8{}, 0
	}
	var m [3]uint8
	for i := range 3 {
		for seen, v := 0, 0; v < 256; v++ {
			if seen += counts[i][v]; 2*seen > n {
				m[i] = uint8(v)
				break
			}
		}
	}
	return color.RGB8{R: m[0], G: m[1], B: m[2]}, n
}
