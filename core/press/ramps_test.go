package press_test

import (
	"bytes"
	"image"
	"image/draw"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
)

// The picture docs/pictures/ramps.png shows what the builds of ramps are on every shipped press: above as they print, below how much of each
// ink they take, C, M, Y and K from the top. It is drawn anew with HUEKEEP_RAMPS=1.
func TestTheRampsAreDrawn(t *testing.T) {
	file := filepath.Join("..", "..", "docs", "pictures", "ramps.png")
	if os.Getenv("HUEKEEP_RAMPS") == "" {
		require.FileExists(t, file)
		return
	}
	const step, tall, lane, gap = 2, 22, 26, 10
	hues := []float64{-1, 0, 45, 90, 135, 180, 225, 270, 315}
	row := tall + 4*lane + gap
	img := image.NewNRGBA(image.Rect(0, 0, len(press.Shipped)*(256*step+gap)+gap, len(hues)*row+gap))
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
	for p, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(t, err)
		for h, hue := range hues {
			full := color.HSL{H: hue, S: 1, L: 0.5}.RGB()
			x0, y0 := gap+p*(256*step+gap), gap+h*row
			for i := range 256 {
				f := float64(i) / 255
				aim := color.RGB{R: f, G: f, B: f}
				if hue >= 0 { // from black over the hue to white
					aim = color.RGB{R: 2 * f * full.R, G: 2 * f * full.G, B: 2 * f * full.B}
					if f > 0.5 {
						w := 2*f - 1
						aim = color.RGB{R: full.R + w*(1-full.R), G: full.G + w*(1-full.G), B: full.B + w*(1-full.B)}
					}
				}
				b := c.Build(aim.RGB8().Lab())
				shown := b.Lab.RGB().Clip().RGB8()
				for dx := range step {
					x := x0 + i*step + dx
					for y := range tall {
						copy(img.Pix[img.PixOffset(x, y0+y):], []uint8{shown.R, shown.G, shown.B, 255})
					}
					for k, v := range b.Whole.Array() {
						foot := y0 + tall + (k+1)*lane - 2
						for y := range int(math.Round(v / 100 * (lane - 4))) {
							copy(img.Pix[img.PixOffset(x, foot-y):], []uint8{90, 90, 90, 255})
						}
						copy(img.Pix[img.PixOffset(x, foot+1):], []uint8{200, 200, 200, 255})
					}
				}
			}
		}
	}
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, img))
	require.NoError(t, os.WriteFile(file, out.Bytes(), 0o644))
}
