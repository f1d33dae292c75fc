package pixels_test

import (
	"bytes"
	"image"
	icolor "image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
)

// painted is a picture, a color a place.
func painted(t *testing.T, w, h int, at func(x, y int) color.RGB8) []byte {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := at(x, y)
			img.SetNRGBA(x, y, icolor.NRGBA{R: c.R, G: c.G, B: c.B, A: 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	return b.Bytes()
}

// A ramp from one color to another is its two ends, whichever way it runs; what is no ramp stays as it is.
func TestARampIsItsTwoEnds(t *testing.T) {
	white, from, to := color.RGB8{R: 255, G: 255, B: 255}, color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}
	mix := func(share float64) color.RGB8 {
		share = min(1, max(0, share))
		ch := func(a, b uint8) uint8 { return uint8(math.Round(float64(a) + share*(float64(b)-float64(a)))) }
		return color.RGB8{R: ch(from.R, to.R), G: ch(from.G, to.G), B: ch(from.B, to.B)}
	}
	random := rand.New(rand.NewPCG(3, 1))
	patches := make([]color.RGB8, 64)
	for i := range patches {
		patches[i] = color.RGB8{R: uint8(random.IntN(256)), G: uint8(random.IntN(256)), B: uint8(random.IntN(256))}
	}
	judge := audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Buoy", RGB: from}, {Name: "Deep", RGB: to}}})
	for name, c := range map[string]struct {
		at     func(x, y int) color.RGB8
		colors int // that are found
		ramp   bool
	}{
		"to the right": {func(x, y int) color.RGB8 {
			if y < 100 {
				return white
			}
			return mix(float64(x) / 899)
		}, 3, true},
		"downward": {func(x, y int) color.RGB8 {
			if x < 100 {
				return white
			}
			return mix(float64(y) / 599)
		}, 3, true},
		"from the middle": {func(x, y int) color.RGB8 {
			if d := math.Hypot(float64(x)-450, float64(y)-300); d < 295 {
				return mix(d / 295)
			}
			return white
		}, 3, true},
		"patches":     {func(x, y int) color.RGB8 { return patches[y/75*8+min(7, x/113)] }, 64, false},
		"two halves":  {func(x, _ int) color.RGB8 { return mix(float64(x / 450)) }, 2, false},
		"eight steps": {func(x, _ int) color.RGB8 { return mix(float64(x/113) / 7) }, 8, false},
	} {
		s, err := kinds.Read("a.png", painted(t, 900, 600, c.at))
		require.NoError(t, err)
		r := judge.Judge("a.png", s)
		assert.Len(t, r.Colors, c.colors, name)
		assert.Equal(t, c.ramp, strings.Contains(strings.Join(r.Notes, " "), "judged by its two ends"), name)
		if !c.ramp {
			continue
		}
		for _, k := range r.Colors {
			if k.Hex == white.Hex() {
				continue
			}
			require.NotNil(t, k.Nearest, name)
			assert.Less(t, k.Nearest.DeltaE, 2.0, "%s: %s", name, k.Hex)
			assert.Contains(t, k.Places[0].Where, "an end of a ramp to ", name)
			assert.NotEmpty(t, k.Places[0].Fixed, name)
		}
	}
}
