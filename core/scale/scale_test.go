package scale_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/scale"
)

func TestStepsFallInLightnessAndKeepTheMaster(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	masters := []color.RGB8{{}, {R: 255, G: 255, B: 255}, {R: 255}, {B: 255}, {R: 255, G: 255}}
	for range 500 {
		masters = append(masters, color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))})
	}
	for _, m := range masters {
		s := scale.Steps(m)
		require.Len(t, s, 11)
		kept := 0
		for i, x := range s {
			if x.Master {
				kept++
				require.Equal(t, m, x.Color)
			}
			if i > 0 {
				require.LessOrEqual(t, x.Color.Lab().L, s[i-1].Color.Lab().L+0.6, "%s at %d", m.Hex(), x.Name)
			}
		}
		require.Equal(t, 1, kept)
		l := m.Lab().L
		if l > 25 && l < 92 {
			require.Greater(t, contrast.Ratio(s[0].Color, s[10].Color), 7.0, "%s: dark text on the lightest step", m.Hex())
		}
	}
}

func TestTints(t *testing.T) {
	c := color.RGB8{R: 14, G: 58, B: 83}
	assert.Equal(t, c, scale.Tint(c, 100))
	assert.Equal(t, "#FFFFFF", scale.Tint(c, 0).Hex())
	last := -1.0
	for _, p := range []float64{100, 80, 60, 40, 20, 0} {
		l := scale.Tint(c, p).Lab().L
		assert.Greater(t, l, last)
		last = l
	}
}

func TestTintsShadesAndTones(t *testing.T) {
	buoy := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	white, black := color.RGB8{R: 255, G: 255, B: 255}, color.RGB8{}
	for _, f := range []func(color.RGB8, float64) color.RGB8{scale.Tint, scale.Shade, scale.Tone} {
		assert.Equal(t, buoy, f(buoy, 100))
		assert.Equal(t, buoy, f(buoy, 250), "more than all is all")
	}
	assert.Equal(t, white, scale.Tint(buoy, 0))
	assert.Equal(t, black, scale.Shade(buoy, 0))
	assert.True(t, scale.Tone(buoy, 0).Neutral())
	last := buoy
	for p := 90.0; p >= 0; p -= 10 {
		assert.Less(t, scale.Shade(buoy, p).Lab().L, scale.Tint(buoy, p).Lab().L)
		tone := scale.Tone(buoy, p)
		assert.InDelta(t, buoy.Luminance(), tone.Luminance(), 0.01, "a tone keeps its contrast")
		assert.Less(t, tone.Lab().LCh().C, last.Lab().LCh().C)
		last = tone
	}
}

// The examples are worked out by hand from cs·αs + cb·(1-αs).
func TestSheer(t *testing.T) {
	red, blue := color.RGB8{R: 255}, color.RGB8{B: 255}
	for percent, want := range map[float64]color.RGB8{0: blue, 100: red, 50: {R: 128, B: 128}, 40: {R: 102, B: 153}, 1: {R: 3, B: 252}, -5: blue, 200: red} {
		assert.Equal(t, want, scale.Sheer(red, blue, percent), "%v", percent)
	}
}

func TestScalesHoldTheirHueAndRunThroughTheirMaster(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	masters := []color.RGB8{{R: 255, G: 255}, {R: 255}, {B: 255}, {G: 255, B: 255}, {R: 0x0E, G: 0x3A, B: 0x53}}
	for range 300 {
		masters = append(masters, color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))})
	}
	for _, m := range masters {
		own := m.RGB().OKLab().OKLCH()
		if own.C < 0.04 {
			continue // the hue of what is almost gray is the rounding of its channels
		}
		steps := scale.Steps(m)
		for i, s := range steps {
			at := s.Color.RGB().OKLab().OKLCH()
			if at.C > 0.01 {
				turned := math.Abs(math.Mod(at.H-own.H+540, 360) - 180)
				assert.Less(t, turned, 4.0, "%s at %d: %s", m.Hex(), s.Name, s.Color.Hex())
			}
			if s.Master && i > 0 && i+1 < len(steps) { // its neighbors are as vivid as sRGB and the easing allow
				for _, n := range []scale.Step{steps[i-1], steps[i+1]} {
					next := n.Color.RGB().OKLab().OKLCH()
					most := color.MostChroma(next.L, own.H)
					assert.Greater(t, next.C, math.Min(0.9*most, 0.6*own.C), "%s beside its master at %d", m.Hex(), n.Name)
				}
			}
		}
	}
}
