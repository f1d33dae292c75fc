package picture_test

import (
	"image"
	"image/color"
	"image/draw"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/picture"
)

// A page on a screen: large grounds, and buttons and rules of a few pixels in colors of their own. Each is found exactly; a photo has none.
func TestFlatColorsOfAScreenshot(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 800, 600))
	fill := func(r image.Rectangle, c color.NRGBA) {
		draw.Draw(img, r, image.NewUniform(c), image.Point{}, draw.Src)
	}
	fill(img.Rect, color.NRGBA{0xF7, 0xF5, 0xF0, 255})
	fill(image.Rect(0, 0, 800, 60), color.NRGBA{0x0E, 0x3A, 0x53, 255})
	want := map[string]bool{"#F7F5F0": true, "#0E3A53": true}
	for i, c := range []color.NRGBA{{0xE2, 0x57, 0x2B, 255}, {0xE2, 0x57, 0x2C, 255}, {0xF2, 0xB6, 0x32, 255}, {0x4E, 0x7D, 0x5B, 255}, {0x7A, 0x4E, 0x7E, 255}, {0x8F, 0xC1, 0xD4, 255}} {
		fill(image.Rect(20+100*i, 100, 40+100*i, 108), c)
	}
	for _, hex := range []string{"#E2572B", "#E2572C", "#F2B632", "#4E7D5B", "#7A4E7E", "#8FC1D4"} {
		want[hex] = true
	}
	r := rand.New(rand.NewPCG(1, 2))
	for range 4000 { // letters, with edges of all shades
		v := uint8(r.IntN(256))
		img.Set(100+r.IntN(600), 200+r.IntN(300), color.NRGBA{v, v, v, 255})
	}
	found := picture.Flat(img)
	got := map[string]bool{}
	for _, a := range found {
		got[a.Color.Hex()] = true
		assert.Equal(t, a.Color.Hex(), hexOf(img.NRGBAAt(a.At.X, a.At.Y)))
	}
	assert.Equal(t, want, got)
	require.Equal(t, "#F7F5F0", found[0].Color.Hex())
	photo := image.NewNRGBA(image.Rect(0, 0, 300, 200))
	for i := range photo.Pix {
		photo.Pix[i] = uint8(r.IntN(256)) | uint8(i%4/3*255)
	}
	assert.Empty(t, picture.Flat(photo))
	assert.Empty(t, picture.Flat(image.NewNRGBA(image.Rect(0, 0, 1, 1))))
}

func hexOf(c color.NRGBA) string {
	const digits = "0123456789ABCDEF"
	out := "#"
	for _, v := range []uint8{c.R, c.G, c.B} {
		out += string([]byte{digits[v>>4], digits[v&15]})
	}
	return out
}
