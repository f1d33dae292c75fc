package color_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

func TestAnotherColorIsWrittenInTheSameNotation(t *testing.T) {
	buoy := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	for old, want := range map[string]string{
		"#E1572C":                   "#E2572B",
		"#e1572c":                   "#e2572b",
		"#123456":                   "#e2572b",
		"#E1572C80":                 "#E2572B80",
		"#abc":                      "#e2572b",
		"rgb(225, 87, 44)":          "rgb(226, 87, 43)",
		"RGB( 225 87  44 / 40% )":   "RGB( 226 87  43 / 40% )",
		"rgba(225,87,44,.5)":        "rgba(226,87,43,.5)",
		"rgb(88% 34% 17%)":          "rgb(88.6% 34.1% 16.9%)",
		"hsl(14deg 75% 53%)":        "hsl(14.4deg 75.9% 52.7%)",
		"rgb(from red 225 87 44)":   "#e2572b",
		"rgb(calc(220 + 5) 87 44)":  "#e2572b",
		"tomato":                    "#e2572b",
		"color(srgb 0.88 0.34 0.2)": "color(srgb 0.886 0.341 0.169)",
	} {
		assert.Equal(t, want, color.Rewrite(old, buoy), old)
	}
	assert.Equal(t, "#fff", color.Rewrite("#abc", color.RGB8{R: 255, G: 255, B: 255}))
	assert.Equal(t, "#fff8", color.Rewrite("#abc8", color.RGB8{R: 255, G: 255, B: 255}))
	assert.Equal(t, "Navy", color.Rewrite("Red", color.RGB8{B: 128}))
	got, ok := color.RewriteNumbers("[0.88, 0.34,  0.17, 1]", 1, buoy)
	assert.True(t, ok)
	assert.Equal(t, "[0.8863, 0.341,  0.1686, 1]", got)
	got, _ = color.RewriteNumbers("225 87 44", 255, buoy)
	assert.Equal(t, "226 87 43", got)
	_, ok = color.RewriteNumbers("1 2", 1, buoy)
	assert.False(t, ok)
}

// Whatever stood there, what is written reads as exactly the color that was wanted, with the alpha that was there.
func TestWhatIsRewrittenReadsAsTheColor(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, old := range []string{"#123", "#12345678", "rgb(1 2 3 / .5)", "rgba(1,2,3,0.25)", "hsl(10 20% 30%)", "hsl(0.1turn, 20%, 30%)", "hwb(10 20% 30%)", "lab(50% 10 10)",
		"lch(50 20 40grad)", "oklab(0.5 0.1 0.1)", "oklch(50% 0.1 1.2rad / 50%)", "color(display-p3 0.1 0.2 0.3)", "color(rec2020 10% 20% 30%)", "color(xyz 0.1 0.2 0.3)", "color(prophoto-rgb 0.1 0.2 0.3)", "color-mix(in oklab, red, blue)"} {
		was, err := color.ParseCSS(old)
		require.NoError(t, err, old)
		for range 200 {
			c := color.RGB8{R: uint8(r.UintN(256)), G: uint8(r.UintN(256)), B: uint8(r.UintN(256))}
			text := color.Rewrite(old, c)
			got, err := color.ParseCSS(text)
			require.NoError(t, err, text)
			assert.Equal(t, c, got.RGB8(), "%s became %s", old, text)
			assert.InDelta(t, was.Alpha, got.Alpha, 1e-4, text)
		}
	}
}

// The values are those of CSS Color 5, example 12 and following, and of Web Platform Tests' color-mix-function.
func oklch(l, c, h float64) string { return color.OKLCH{L: l, C: c, H: h}.OKLab().RGB().RGB8().Hex() }

func TestColorMix(t *testing.T) {
	for text, want := range map[string]string{
		"color-mix(in srgb, red, blue)":                                 "#800080",
		"color-mix(in srgb, red 25%, blue)":                             "#4000BF",
		"color-mix(in srgb, 25% red, blue)":                             "#4000BF",
		"color-mix(in srgb, white, color-mix(in srgb, red 50%, blue))":  "#BF80BF",
		"color-mix(in hsl, hsl(120deg 10% 20%), hsl(30deg 30% 40%))":    "#545C3D", // hsl(75 20% 30%)
		"color-mix(in hwb, hwb(120 10% 20%), hwb(30 30% 40%))":          "#93B333", // hwb(75 20% 30%)
		"color-mix(in lab, lab(10 20 30), lab(50 60 70))":               "#84000A",
		"color-mix(in oklab, white, black)":                             "#636363",
		"color-mix(white, black)":                                       "#636363",
		"color-mix(in srgb, red 0%, blue)":                              "#0000FF",
		"color-mix(in oklch, oklch(50% none 30), oklch(60% .2 90))":     oklch(0.55, 0.2, 60),
		"color-mix(in hsl, hsl(30 none 40), hsl(50 60 40))":             "#A37A29",
		"rgb(calc(200 * sin(90deg)) pow(10, 2) mod(107, 50))":           "#C86407",
		"rgb(round(99.6) /* half, ( */ calc(infinity) calc(-infinity))": "#64FF00",
		"color(display-p3-linear 1 1 1)":                                "#FFFFFF",
		"rgb(from color(display-p3 0 1 0) r g b)":                       "#00FB29",
	} {
		got, err := color.ParseCSS(text)
		require.NoError(t, err, text)
		if text != "color-mix(in lab, lab(10 20 30), lab(50 60 70))" {
			assert.Equal(t, want, got.RGB8().Hex(), text)
		} else {
			direct, err := color.ParseCSS("lab(30 40 50)")
			require.NoError(t, err)
			assert.Equal(t, direct.RGB8(), got.RGB8())
		}
	}
	half, err := color.ParseCSS("color-mix(in srgb, red 20%, blue 20%)")
	require.NoError(t, err)
	assert.InDelta(t, 0.4, half.Alpha, 1e-9, "shares under 100 % make it transparent")
	half, err = color.ParseCSS("color-mix(in srgb, transparent, #E2572B)")
	require.NoError(t, err)
	assert.Equal(t, "#E2572B", half.RGB8().Hex())
	assert.InDelta(t, 0.5, half.Alpha, 1e-9)
	for _, bad := range []string{"color-mix(red)", "color-mix(in srgb shorter hue, red, blue)", "color-mix(in nowhere, red, blue)", "color-mix(in srgb, red)", "color-mix(in srgb, red -5%, blue)", "color-mix(in srgb, cmyk(1 2 3 4), blue)"} {
		_, err := color.ParseCSS(bad)
		assert.Error(t, err, bad)
	}
}
