package color_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
)

func TestColorsUnderOtherLightsAreAdapted(t *testing.T) {
	for name, white := range color.Whites {
		lab := color.AdaptedLab(white[0], white[1], white[2], white)
		assert.InDelta(t, 100, lab.L, 1e-6, name)
		assert.InDelta(t, 0, lab.A, 1e-3, name)
		assert.InDelta(t, 0, lab.B, 1e-3, name)
		gray := color.Lab{L: 53.6}.Adapted(white)
		assert.Less(t, color.DeltaE00(gray, color.Lab{L: 53.6}), 1e-3, "grays stay gray under %s", name)
	}
	// The adaptation from D65 is the one that sRGB takes.
	for _, v := range []color.RGB8{{R: 226, G: 87, B: 43}, {R: 14, G: 58, B: 83}, {G: 128}} {
		xyz := v.RGB().Linear().XYZ()
		assert.Less(t, color.DeltaE00(v.Lab(), color.AdaptedLab(xyz.X, xyz.Y, xyz.Z, color.Whites["D65"])), 0.02)
	}
	assert.Equal(t, color.Lab{L: 40, A: 20, B: -30}.L, color.Lab{L: 40, A: 20, B: -30}.Adapted(color.Whites["D50"]).L)
}
