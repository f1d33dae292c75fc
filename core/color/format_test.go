package color_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

// What is written in any notation must be the same color when somebody types it in again.
func TestEveryNotationReadsBack(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	colors := []color.RGB8{{}, {R: 255, G: 255, B: 255}, {R: 1}, {G: 1}, {B: 1}, {R: 255}, {G: 255}, {B: 255}, {R: 128, G: 128, B: 128}, {R: 254, G: 255, B: 255}}
	for range 5000 {
		colors = append(colors, color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))})
	}
	for _, n := range color.Notations {
		if n.Name == "gray" || n.Name == "name" {
			continue
		}
		for _, c := range colors {
			text := n.Write(c)
			typed, err := color.Parse(text)
			require.NoError(t, err, "%s: %s", n.Name, text)
			require.Equal(t, c, typed.RGB8(), "%s: %s", n.Name, text)
		}
	}
}

func TestNotations(t *testing.T) {
	buoy := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	for notation, want := range map[string]string{
		"hex": "#E2572B", "rgb": "rgb(226 87 43)", "triple": "226 87 43", "percent": "rgb(88.63% 34.12% 16.86%)",
		"float": "0.8863 0.3412 0.1686", "hsl": "hsl(14.43 75.93% 52.75%)", "hsv": "hsv(14.43 80.97% 88.63%)",
		"hwb": "hwb(14.43 16.86% 11.37%)", "gray": "#848484",
	} {
		got, err := color.Write(buoy, notation)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	for c, want := range map[color.RGB8]string{{G: 255, B: 255}: "cyan", {R: 128, G: 128, B: 128}: "gray", {R: 0x66, G: 0x33, B: 0x99}: "rebeccapurple"} {
		got, err := color.Write(c, "name")
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	got, err := color.Write(color.RGB8{R: 255, G: 255, B: 255}, "float")
	require.NoError(t, err)
	assert.Equal(t, "1.0 1.0 1.0", got, "without points it would be nearly black")
	_, err = color.Write(buoy, "name")
	assert.ErrorContains(t, err, "#E2572B cannot be written as name")
	_, err = color.Write(buoy, "pigment")
	assert.ErrorContains(t, err, `no notation "pigment"`)
}

func TestHSV(t *testing.T) {
	for _, c := range []struct {
		hsv color.HSV
		rgb color.RGB8
	}{
		{color.HSV{H: 0, S: 0, V: 0}, color.RGB8{}},
		{color.HSV{H: 0, S: 0, V: 1}, color.RGB8{R: 255, G: 255, B: 255}},
		{color.HSV{H: 0, S: 1, V: 1}, color.RGB8{R: 255}},
		{color.HSV{H: 60, S: 1, V: 1}, color.RGB8{R: 255, G: 255}},
		{color.HSV{H: 240, S: 0.5, V: 0.5}, color.RGB8{R: 64, G: 64, B: 128}},
	} {
		assert.Equal(t, c.rgb, c.hsv.RGB().RGB8())
		back := c.rgb.RGB().HSV()
		assert.InDelta(t, c.hsv.H, back.H, 0.01)
		assert.InDelta(t, c.hsv.S, back.S, 0.003)
		assert.InDelta(t, c.hsv.V, back.V, 0.003)
	}
	typed, err := color.Parse("hsb(240 50% 50%)")
	require.NoError(t, err)
	assert.Equal(t, "#404080", typed.RGB8().Hex())
	_, err = color.ParseCSS("hsv(240 50% 50%)")
	assert.Error(t, err, "a browser does not know it")
}

func TestGrayKeepsTheLuminance(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	for range 1000 {
		c := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
		g := c.RGB().Gray()
		assert.InDelta(t, c.Luminance(), g.Linear().G, 1e-9)
	}
}

// The index must give what a plain search gives, in the same order, for close and for crowded colors.
func TestNearestEqualsAPlainSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	for _, spread := range []float64{200, 20, 0} {
		var labs []color.Lab
		for range 400 {
			labs = append(labs, color.Lab{L: 50 + (r.Float64()-0.5)*spread/2, A: (r.Float64() - 0.5) * spread, B: (r.Float64() - 0.5) * spread})
		}
		index := color.NewIndex(labs)
		for range 300 {
			target := color.Lab{L: 100 * r.Float64(), A: 200*r.Float64() - 100, B: 200*r.Float64() - 100}
			got := index.Nearest(target, 5)
			var want []color.Neighbor
			for i, lab := range labs {
				n := color.Neighbor{At: i, DeltaE: color.DeltaE00(target, lab)}
				at := len(want)
				for at > 0 && want[at-1].DeltaE > n.DeltaE {
					at--
				}
				want = append(want[:at], append([]color.Neighbor{n}, want[at:]...)...)
			}
			require.Equal(t, want[:5], got)
		}
	}
	dense := make([]color.Lab, 3000) // as dense as an ink book, with neutrals and blues
	for i := range dense {
		scale := []float64{4, 60, 110}[r.IntN(3)]
		dense[i] = color.Lab{L: 100 * r.Float64(), A: scale * (2*r.Float64() - 1), B: scale * (2*r.Float64() - 1.3)}
	}
	index := color.NewIndex(dense)
	for range 500 {
		target := dense[r.IntN(len(dense))]
		target.L, target.A, target.B = target.L+2*r.Float64(), target.A+4*r.Float64()-2, target.B+4*r.Float64()-2
		all := make([]float64, len(dense))
		for i, lab := range dense {
			all[i] = color.DeltaE00(target, lab)
		}
		slices.Sort(all)
		for i, n := range index.Nearest(target, 5) {
			require.Equal(t, all[i], n.DeltaE)
		}
	}
	assert.Empty(t, color.NewIndex(nil).Nearest(color.Lab{L: 50}, 3))
	assert.Empty(t, color.NewIndex([]color.Lab{{L: 50}}).Nearest(color.Lab{L: 50}, 0))
}

func TestMeanOfReadings(t *testing.T) {
	mean, spread := color.MeanLab([]color.Lab{{L: 50, A: 10, B: -4}, {L: 52, A: 12, B: -6}})
	assert.InDelta(t, 51, mean.L, 1e-9)
	assert.InDelta(t, 11, mean.A, 1e-9)
	assert.InDelta(t, -5, mean.B, 1e-9)
	assert.InDelta(t, color.DeltaE00(mean, color.Lab{L: 52, A: 12, B: -6}), spread, 0.2)
	_, spread = color.MeanLab([]color.Lab{{L: 50, A: 10, B: -4}})
	assert.Zero(t, spread)
}

func TestVideoCodesReadBack(t *testing.T) {
	for _, m := range []color.VideoMatrix{color.BT601, color.BT709, color.BT2020} {
		for _, bits := range []int{8, 10} {
			for _, full := range []bool{false, true} {
				for _, c := range []color.RGB8{{}, {R: 255, G: 255, B: 255}, {R: 0xE2, G: 0x57, B: 0x2B}, {R: 14, G: 58, B: 83}, {B: 255}} {
					code := m.YCbCr(c.RGB(), bits, full)
					back := m.RGB(code, bits, full)
					within := 0.012 // rounding to 8-bit codes
					if bits == 10 {
						within = 0.003
					}
					assert.InDelta(t, c.RGB().R, back.R, within)
					assert.InDelta(t, c.RGB().G, back.G, within)
					assert.InDelta(t, c.RGB().B, back.B, within)
				}
			}
		}
	}
}

// EBU R 103 gives the outer levels of a component as 5 and 246 at 8 bits, 20 and 984 at 10 bits.
func TestR103(t *testing.T) {
	for _, c := range []struct {
		name string
		code [3]int
		bits int
		want string
	}{
		{"white", [3]int{235, 128, 128}, 8, ""},
		{"black", [3]int{16, 128, 128}, 8, ""},
		{"a little under black", [3]int{14, 128, 128}, 8, ""},
		{"too far under black", [3]int{12, 128, 128}, 8, "luma -1.8 %"},
		{"over white", [3]int{246, 128, 128}, 8, "luma 105.0 %"},
		{"far over white", [3]int{250, 128, 128}, 8, "red 106.8 %, green 106.8 %, blue 106.8 %, luma 106.8 %"},
		{"10 bit white", [3]int{940, 512, 512}, 10, ""},
		{"a color that no screen has", [3]int{180, 60, 200}, 8, "red 125.5 %"},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.want, strings.Join(color.BT709.R103(c.code, c.bits), ", "))
		})
	}
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 { // a screen color is always within
		c := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
		for _, m := range []color.VideoMatrix{color.BT601, color.BT709, color.BT2020} {
			require.Empty(t, m.R103(m.YCbCr(c.RGB(), 8, false), 8), "%v", c)
			require.Empty(t, m.R103(m.YCbCr(c.RGB(), 10, false), 10), "%v", c)
		}
	}
}
