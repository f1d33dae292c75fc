package media

import (
	"image"

	"golang.org/x/image/draw"
)

// Fitted is a picture that is no longer than a number of pixels along either side.
func Fitted(img image.Image, side int) image.Image {
	size := img.Bounds().Size()
	share := min(1, float64(side)/float64(max(size.X, size.Y)))
	out := image.NewNRGBA(image.Rect(0, 0, max(1, int(float64(size.X)*share)), max(1, int(float64(size.Y)*share))))
	draw.CatmullRom.Scale(out, out.Bounds(), img, img.Bounds(), draw.Src, nil)
	return out
}
