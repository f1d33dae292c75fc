package color_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
)

// inside says whether a point lies within an outline, seen from above.
func inside(o color.Outline, a, b float64) bool {
	in := false
	for i, j := 0, len(o.Plane)-1; i < len(o.Plane); j, i = i, i+1 {
		p, q := o.Plane[i], o.Plane[j]
		if (p[1] > b) != (q[1] > b) && a < (q[0]-p[0])*(b-p[1])/(q[1]-p[1])+p[0] {
			in = !in
		}
	}
	return in
}

func TestOutlinesOfScreens(t *testing.T) {
	plain, wide := color.ScreenOutline("srgb"), color.ScreenOutline("display-p3")
	// The corners of sRGB by CIELAB with D50 (CSS Color 4, sample values): red 54.29 80.80 69.89, blue 29.57 68.30 -112.03.
	for _, corner := range []color.RGB8{{R: 255}, {G: 255}, {B: 255}} {
		lab := corner.Lab()
		near := math.Inf(1)
		for _, p := range plain.Plane {
			near = min(near, math.Hypot(p[0]-lab.A, p[1]-lab.B))
		}
		assert.Less(t, near, 0.01, "%v is a point of the outline", lab)
	}
	for r := 0; r < 256; r += 51 {
		for g := 0; g < 256; g += 51 {
			for b := 0; b < 256; b += 51 {
				lab := color.RGB8{R: uint8(r), G: uint8(g), B: uint8(b)}.Lab()
				assert.True(t, inside(plain, lab.A*0.95, lab.B*0.95), "%d %d %d", r, g, b)
				assert.True(t, inside(wide, lab.A*0.95, lab.B*0.95), "%d %d %d", r, g, b)
			}
		}
	}
	p3, err := color.ParseCSS("color(display-p3 1 0 0)")
	assert.NoError(t, err)
	lab := p3.RGB.Lab()
	assert.False(t, inside(plain, lab.A, lab.B), "beyond sRGB")
	assert.InDelta(t, 0, plain.Side[0][0], 0.01)
	assert.InDelta(t, 100, plain.Side[len(plain.Side)-1][0], 0.01)
}
