package color_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
)

// The pairs of Sharma, Wu, Dalal: "The CIEDE2000 color-difference formula", 2005, table 1.
var sharma = [][7]float64{
	{50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425},
	{50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615},
	{50, 2.8361, -74.0200, 50, 0, -82.7485, 3.4412},
	{50, -1.3802, -84.2814, 50, 0, -82.7485, 1.0000},
	{50, -1.1848, -84.8006, 50, 0, -82.7485, 1.0000},
	{50, -0.9009, -85.5211, 50, 0, -82.7485, 1.0000},
	{50, 0, 0, 50, -1, 2, 2.3669},
	{50, -1, 2, 50, 0, 0, 2.3669},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0009, 7.1792},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0010, 7.1792},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0011, 7.2195},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0012, 7.2195},
	{50, -0.0010, 2.4900, 50, 0.0009, -2.4900, 4.8045},
	{50, -0.0010, 2.4900, 50, 0.0010, -2.4900, 4.8045},
	{50, -0.0010, 2.4900, 50, 0.0011, -2.4900, 4.7461},
	{50, 2.5, 0, 50, 0, -2.5, 4.3065},
	{50, 2.5, 0, 73, 25, -18, 27.1492},
	{50, 2.5, 0, 61, -5, 29, 22.8977},
	{50, 2.5, 0, 56, -27, -3, 31.9030},
	{50, 2.5, 0, 58, 24, 15, 19.4535},
	{50, 2.5, 0, 50, 3.1736, 0.5854, 1.0000},
	{50, 2.5, 0, 50, 3.2972, 0, 1.0000},
	{50, 2.5, 0, 50, 1.8634, 0.5757, 1.0000},
	{50, 2.5, 0, 50, 3.2592, 0.3350, 1.0000},
	{60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644},
	{63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630},
	{61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731},
	{35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645},
	{22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373},
	{36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146},
	{90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441},
	{90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381},
	{6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377},
	{2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082},
}

func TestDeltaE00EqualsThePublishedPairs(t *testing.T) {
	for i, p := range sharma {
		a, b := color.Lab{L: p[0], A: p[1], B: p[2]}, color.Lab{L: p[3], A: p[4], B: p[5]}
		assert.InDelta(t, p[6], color.DeltaE00(a, b), 0.00005, "pair %d", i+1)
		assert.InDelta(t, p[6], color.DeltaE00(b, a), 0.00005, "pair %d turned around", i+1)
	}
}

func TestWordsChangeAtTheirBounds(t *testing.T) {
	for de, word := range map[float64]string{
		0: "identical", 0.01: "invisible", 0.99: "invisible", 1: "slight", 1.99: "slight", 2: "noticeable",
		3.49: "noticeable", 3.5: "clear", 4.99: "clear", 5: "different", 60: "different",
	} {
		assert.Equal(t, word, color.Word(de), "%g", de)
	}
}

// Values as CSS Color 4 and its test suite give them.
func TestConversionsEqualPublishedValues(t *testing.T) {
	red, white := color.RGB8{R: 255}, color.RGB8{R: 255, G: 255, B: 255}
	lab := red.Lab()
	assert.InDelta(t, 54.29, lab.L, 0.01)
	assert.InDelta(t, 80.80, lab.A, 0.01)
	assert.InDelta(t, 69.89, lab.B, 0.01)
	ok := red.RGB().OKLab().OKLCH()
	assert.InDelta(t, 0.62796, ok.L, 0.00001)
	assert.InDelta(t, 0.25768, ok.C, 0.00001)
	assert.InDelta(t, 29.2339, ok.H, 0.001)
	lab = white.Lab()
	assert.InDelta(t, 100, lab.L, 1e-6)
	assert.InDelta(t, 0, math.Hypot(lab.A, lab.B), 1e-4)
	lch := color.RGB8{G: 0x80}.Lab().LCh()
	assert.InDelta(t, 46.2775, lch.L, 0.001)
	assert.InDelta(t, 67.9842, lch.C, 0.001)
	assert.InDelta(t, 134.3838, lch.H, 0.001)
}

func TestEveryRoundTripComesBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 5000 {
		c := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
		rgb := c.RGB()
		require.Equal(t, c, rgb.Lab().RGB().RGB8())
		require.Equal(t, c, rgb.Lab().LCh().Lab().RGB().RGB8())
		require.Equal(t, c, rgb.OKLab().OKLCH().OKLab().RGB().RGB8())
		require.Equal(t, c, rgb.HSL().RGB().RGB8())
		require.Equal(t, c, rgb.HWB().RGB().RGB8())
		require.Less(t, color.DeltaE00(c.Lab(), c.RGB().Linear().RGB().Lab()), 1e-6)
		back, err := color.FromHex(c.Hex())
		require.NoError(t, err)
		require.Equal(t, c, back)
	}
}

func TestMappingIntoTheGamutHoldsHueAndLightness(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 2000 {
		in := color.OKLCH{L: 0.1 + 0.8*r.Float64(), C: 0.5 * r.Float64(), H: 360 * r.Float64()}
		out := in.OKLab().RGB().Map()
		require.True(t, out.Clip().InGamut())
		got := out.OKLab().OKLCH()
		require.InDelta(t, in.L, got.L, 0.03, "%+v", in)
		require.LessOrEqual(t, got.C, in.C+0.02)
	}
	// The sample of CSS Color 4: a display green outside sRGB becomes a green, not a yellow.
	p, err := color.Parse("color(display-p3 0 1 0)")
	require.NoError(t, err)
	assert.True(t, p.Outside())
	assert.InDelta(t, 0.85, p.RGB.Map().OKLab().L, 0.03)
}

func TestNoChromaMakesWhiteOrBlackAnythingElse(t *testing.T) {
	for h := 0.0; h < 360; h += 7 {
		for _, c := range []float64{0, 0.01, 0.1, 0.2, 0.3, 0.4} {
			assert.Equal(t, "#FFFFFF", color.OKLCH{L: 1, C: c, H: h}.OKLab().RGB().RGB8().Hex(), "chroma %g, hue %g", c, h)
			assert.Equal(t, "#000000", color.OKLCH{L: 0, C: c, H: h}.OKLab().RGB().RGB8().Hex(), "chroma %g, hue %g", c, h)
		}
	}
	assert.NotEqual(t, "#FFFFFF", color.RGB8{R: 255, G: 255, B: 254}.RGB().RGB8().Hex(), "the nearest color is not white")
	assert.NotEqual(t, "#000000", color.RGB8{B: 1}.RGB().RGB8().Hex(), "nor black")
}

func TestParseUnderstandsWhatPeopleType(t *testing.T) {
	for text, hex := range map[string]string{
		"#abc": "#AABBCC", "#0E3A53": "#0E3A53", "0e3a53": "#0E3A53", "#0e3a53ff": "#0E3A53", "#fff8": "#FFFFFF",
		"145 100 204": "#9164CC", "145,100,204": "#9164CC", " 145 ; 100;204 ": "#9164CC", "0.5 0.25 1.0": "#8040FF",
		"50% 25% 100%": "#8040FF", "rgb(14, 58, 83)": "#0E3A53", "rgb(14 58 83 / 50%)": "#0E3A53",
		"RGB 244/162/97": "#F4A261", "rgb: 244, 162, 97": "#F4A261", "rgba(14,58,83,.5)": "#0E3A53", "RGB(100% 0% 0%)": "#FF0000", "R14 G58 B83": "#0E3A53", "r:14 g:58 b:83": "#0E3A53",
		"hsl(120deg 100% 25%)": "#008000", "hsl(120, 100%, 25%)": "#008000", "hwb(0.5turn 0% 0%)": "#00FFFF",
		"lab(46.2775% -47.5621 48.5837)": "#008000", "lch(46.2775 67.9892 134.3912)": "#008000",
		"oklab(0.51975 -0.1403 0.10768)": "#008000", "oklch(51.975% 0.17686 142.495)": "#008000",
		"color(srgb 0 0.50196 0)": "#008000", "rebeccapurple": "#663399", "Navy": "#000080", "rgb(none 0 0)": "#000000",
	} {
		c, err := color.Parse(text)
		if assert.NoError(t, err, text) {
			assert.Equal(t, hex, c.RGB8().Hex(), text)
		}
	}
	for _, text := range []string{"cmyk(53 68 0 0)", "C53 M68 Y0 K0", "53/68/0/0", "c:53% m:68% y:0% k:0%", "device-cmyk(0.53 0.68 0 0)"} {
		c, err := color.Parse(text)
		if assert.NoError(t, err, text) {
			assert.Equal(t, &color.CMYK{C: 53, M: 68}, c.CMYK, text)
		}
	}
}

func TestParseRefusesWithASentence(t *testing.T) {
	for text, part := range map[string]string{
		"": "nothing was given", "blurple": "not a color", "#12": "2 hexadecimal digits", "#12345g": `"g"`,
		"256 0 0": "red is 256", "R300 G0 B0": "red is 300, over 255",
		"cmyk(120 0 0 0)": "cyan is 120", "53,68,0,0": "four numbers", "10% 20 30": "mixes", "rgb(1 2)": "2 values",
		"hsl(x 1% 2%)": "not an angle", "oklch(NaN 0 0)": "not a number", "rgb(1,,2,3)": "commas", "rgb(1 2 3": "not a color",
		"rgb(calc(1 + 2%) 0 0)": "different kinds", "rgb(calc(1 2) 0 0)": "not a number",
		"rgb(fold(4) 0 0)": "fold(), which is not read", "rgb(calc(1+2) 0 0)": "not a number", "rgb(calc(none) 0 0)": "not a number", "light-dark(red, blue)": "another on dark", "rgb(from blurple r g b)": "not a color", "rgb(from red h s l)": "not a number",
		"rgb(from cmyk(1 2 3 4) r g b)": "build of inks", "rgb(1 2 3 / 4 / 5)": "one alpha", "rgb(1) 2 3)": "closes nothing",
		"color(acid 1 2 3)": "not known", "lab(50 1e400 0)": "far outside", "swatch(1 2 3)": "no color function",
		"rgb(1 2 3 / )": "alpha", "lab(50 1e9 0)": "far outside", "105% 0% 0%": "over 100",
	} {
		_, err := color.Parse(text)
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), part, text)
		}
	}
	for text, want := range map[string][2]string{
		"rgb(300 0 0)": {"#FF0000", "red is 300, over 255, which was taken instead"}, "rgb(0 -4 0)": {"#000000", "green is -4, under 0"},
		"hsl(120, 120%, 25%)": {"#008000", "saturation is 120%, over 100%"}, "rgb(1 2 3 / 150%)": {"#010203", "alpha is 150%, over 100%"},
		"lab(120 0 0)": {"#FFFFFF", "lightness is 120, over 100"}, "lch(50 -3 20)": {"#777777", "chroma is -3, under 0"},
	} {
		for _, parse := range []func(string) (color.Typed, error){color.Parse, color.ParseCSS} {
			c, err := parse(text)
			require.NoError(t, err, "a function clamps, as browsers do")
			assert.Equal(t, want[0], c.RGB8().Hex(), text)
			assert.Contains(t, c.Note(), want[1], text)
		}
	}
	_, err := color.ParseCSS("145 100 204")
	assert.Error(t, err)
}

// sRGB never goes through another space, halves round up, and a gray is one in every space that has it.
func TestGraysStayGray(t *testing.T) {
	for text, want := range map[string]string{
		"color(srgb 0.5 0.5 0.5)": "#808080", "color(srgb 50% 50% 50%)": "#808080", "rgb(127.5 127.5 127.5)": "#808080", "rgb(50% 50% 50%)": "#808080",
		"hsl(0 0% 50%)": "#808080", "hwb(0 50% 50%)": "#808080", "color(display-p3 0.5 0.5 0.5)": "#808080", "color(srgb 0.1 0.1 0.1)": "#1A1A1A",
	} {
		c, err := color.ParseCSS(text)
		require.NoError(t, err)
		assert.Equal(t, want, c.RGB8().Hex(), text)
	}
	for i := range 2041 { // half levels and eighths among them
		v := float64(i) / 2040
		level := uint8(math.Floor(v*255 + 0.5 + 1e-9))
		gray := color.RGB{R: v, G: v, B: v}
		lab, lch, ok, okc := gray.Lab(), gray.Lab().LCh(), gray.OKLab(), gray.OKLab().OKLCH()
		texts := []string{
			fmt.Sprintf("rgb(%.12g %.12g %.12g)", v*255, v*255, v*255), fmt.Sprintf("hsl(40 0%% %.12g%%)", v*100), fmt.Sprintf("hwb(40 %.12g%% %.12g%%)", v*100, 100-v*100),
			fmt.Sprintf("lab(%.12g %.12g %.12g)", lab.L, lab.A, lab.B), fmt.Sprintf("lch(%.12g %.12g %.12g)", lch.L, lch.C, lch.H),
			fmt.Sprintf("oklab(%.12g %.12g %.12g)", ok.L, ok.A, ok.B), fmt.Sprintf("oklch(%.12g %.12g %.12g)", okc.L, okc.C, okc.H),
			fmt.Sprintf("color-mix(in oklab, %[1]s, %[1]s)", gray.RGB8().Hex()),
		}
		for _, space := range []string{"srgb", "srgb-linear", "display-p3", "display-p3-linear", "a98-rgb", "prophoto-rgb", "rec2020", "xyz", "xyz-d50"} {
			n, known := color.Numbers(space, gray)
			require.True(t, known, space)
			texts = append(texts, fmt.Sprintf("color(%s %.12g %.12g %.12g)", space, n[0], n[1], n[2]))
		}
		for _, text := range texts {
			c, err := color.ParseCSS(text)
			require.NoError(t, err)
			require.Equal(t, color.RGB8{R: level, G: level, B: level}, c.RGB8(), "%s of %.6f", text, v*255)
		}
	}
}

// The values are those of CSS Color 4 and 5 where they print some, else they say the same color in two ways.
func TestWideSpacesCalculationsAndRelativeColors(t *testing.T) {
	for text, same := range map[string]string{
		"color(rec2020 0.235202 0.431704 0.085432)": "#008000",
		"color(a98-rgb 0.281363 0.498012 0.116757)": "#008000", "color(prophoto-rgb 0.230479 0.395789 0.129968)": "#008000",
		"color(display-p3 0.21604 0.49418 0.13151)": "#008000", "color(xyz-d50 0.9642956764 1 0.8251046025)": "#FFFFFF",
		"color(xyz 0.077193 0.154385 0.025731)": "#008000", "color(srgb-linear 0 0.215861 0)": "#008000",
		"color(rec2020 1 1 1)": "#FFFFFF", "color(a98-rgb 1 1 1)": "#FFFFFF", "color(prophoto-rgb 1 1 1)": "#FFFFFF",
		"color(prophoto-rgb 0.02 0.02 0.02)": "color(xyz-d50 0.0012053 0.00125 0.0010314)",
		"rgb(none 128 none)":                 "#008000", "hsl(none 0% 50%)": "rgb(50% 50% 50%)", "oklch(0.5 none 30)": "oklch(0.5 0 0)", "rgb(1 2 3 / none)": "#010203",
		"rgb(calc(100 + 28) calc(2 * (3 + 4)) calc(100% / 2))": "rgb(128 14 127.5)",
		"hsl(calc(0.25turn + 30deg) 100% calc(50% - 25%))":     "hsl(120 100% 25%)",
		"rgb(min(200, 14) max(3, 58, 4) clamp(0, 83, 255))":    "#0E3A53",
		"rgb(from #0E3A53 r g b)":                              "#0E3A53", "rgb(from rgb(14 58 83) b calc(g - 8) r)": "rgb(83 50 14)",
		"hsl(from green h s calc(l * 2))":                             "hsl(120 100% 50.196%)",
		"oklch(from oklch(0.6 0.1 20) calc(l - 0.1) c calc(h + 360))": "oklch(0.5 0.1 20)",
		"lab(from lab(50 20 30) l b a)":                               "lab(50 30 20)", "hwb(from hwb(200 10% 20%) h b w)": "hwb(200 20% 10%)",
		"color(from color(rec2020 0.3 0.4 0.5) rec2020 r g calc(b))":     "color(rec2020 0.3 0.4 0.5)",
		"color(from color(prophoto-rgb 0.3 0.4 0.5) prophoto-rgb r g b)": "color(prophoto-rgb 0.3 0.4 0.5)",
		"color(from color(a98-rgb 0.3 0.4 0.5) a98-rgb r g b)":           "color(a98-rgb 0.3 0.4 0.5)",
		"color(from color(xyz-d50 0.3 0.4 0.2) xyz-d50 x y z)":           "color(xyz-d50 0.3 0.4 0.2)",
		"rgb(from hsl(from red h s 25%) r g b)":                          "hsl(0 100% 25%)",
	} {
		for _, parse := range []func(string) (color.Typed, error){color.Parse, color.ParseCSS} {
			a, err := parse(text)
			if !assert.NoError(t, err, text) {
				continue
			}
			b, err := parse(same)
			require.NoError(t, err, same)
			assert.Less(t, color.DeltaE00(a.RGB.Lab(), b.RGB.Lab()), 0.02, "%s is %v, %s is %v", text, a.RGB, same, b.RGB)
			assert.Empty(t, a.Note(), text)
		}
	}
	for text, alpha := range map[string]float64{
		"rgb(from #0E3A5380 r g b)": 128. / 255, "rgb(from red r g b / calc(alpha / 4))": 0.25, "cmyk(1 2 3 4 / 50%)": 0.5,
		"hsl(0 0% 0% / calc(1 - 0.25))": 0.75, "rgba(1, 2, 3, 40%)": 0.4, "#12345680": 128. / 255,
	} {
		c, err := color.Parse(text)
		require.NoError(t, err, text)
		assert.InDelta(t, alpha, c.Alpha, 1e-9, text)
	}
}

func TestListsFromMailsTablesAndStyleSheets(t *testing.T) {
	lines := color.ReadList("Deep Sound  #0E3A53\n" +
		"* Buoy: rgb(226, 87, 43)\n" +
		"\n" +
		"3. \"Lamp\" = 242 182 50;\n" +
		"--salt-marsh: #4e7d5b;\n" +
		"7A4E7E Heather Cliff\n" +
		"Ice Ramp\t#8FC1D4\t143 193 212\t48/15/19/0\n" +
		"Facade Gray | RGB: 201 209 211\n" +
		"Harbor: navy\r\n" +
		"hello there\n" +
		"#000000 #ffffff\n" +
		"Print only cmyk(1 2 3 4)\n" +
		"Bad 1 2 333\n" +
		"Fog Hex: #C9D1D3 RGB 201, 209, 211 C25 M16 Y18 K0\n")
	type want struct{ name, hex string }
	wants := map[int]want{1: {"Deep Sound", "#0E3A53"}, 2: {"Buoy", "#E2572B"}, 4: {"Lamp", "#F2B632"}, 5: {"salt-marsh", "#4E7D5B"},
		6: {"Heather Cliff", "#7A4E7E"}, 7: {"Ice Ramp", "#8FC1D4"}, 8: {"Facade Gray", "#C9D1D3"}, 9: {"Harbor", "#000080"}, 14: {"Fog", "#C9D1D3"}}
	wrong := map[int]string{10: "holds no color value", 12: "CMYK build only", 13: "blue is 333"}
	require.Len(t, lines, len(wants)+len(wrong)+2, "two codes are two colors")
	for _, l := range lines {
		if l.Number == 11 {
			continue
		}
		if w, ok := wants[l.Number]; ok {
			if assert.NoError(t, l.Err, l.Text) {
				assert.Equal(t, w, want{l.Name, l.RGB.Hex()}, l.Text)
			}
			continue
		}
		if assert.Error(t, l.Err, l.Text) {
			assert.Contains(t, l.Err.Error(), wrong[l.Number])
		}
	}
	assert.Equal(t, &color.CMYK{C: 48, M: 15, Y: 19}, lines[5].CMYK)
	assert.Equal(t, &color.CMYK{C: 25, M: 16, Y: 18}, lines[13].CMYK)
}

func TestLinesAsMailsHaveThem(t *testing.T) {
	lines := color.ReadList("Sandy Brown RGB 244/162/97\nDeep Sound … #0E3A53\nBuoy... rgb(226 87 43)\nTide: rgb(from #0E3A53 r g calc(b + 10))\n")
	require.Len(t, lines, 4)
	for i, want := range []string{"Sandy Brown #F4A261", "Deep Sound #0E3A53", "Buoy #E2572B", "Tide #0E3A5D"} {
		require.NoError(t, lines[i].Err, lines[i].Text)
		assert.Equal(t, want, lines[i].Name+" "+lines[i].RGB.Hex())
	}
}

// A label before numbers says what they are, and is never part of a name; what is not sure is asked, and never guessed.
func TestLabelsBeforeNumbers(t *testing.T) {
	for text, want := range map[string]string{
		"Gold HSL 49 86 46": "Gold " + rgbOf(t, "hsl(49 86% 46%)"), "Gold Lab 74 4 74": "Gold " + rgbOf(t, "lab(74 4 74)"), "Gold: HSB 49°, 90%, 85%": "Gold " + rgbOf(t, "hsv(49 90% 85%)"),
		"HSL 49 86 46 Gold": "Gold " + rgbOf(t, "hsl(49 86% 46%)"), "Sea Lab: 40, -20, -30": "Sea " + rgbOf(t, "lab(40 -20 -30)"), "Sea CIELAB 40/-20/-30": "Sea " + rgbOf(t, "lab(40 -20 -30)"),
		"lab 40 -20 −30": " " + rgbOf(t, "lab(40 -20 -30)"), "Sea LCH 40 36 236": "Sea " + rgbOf(t, "lch(40 36 236)"), "Sea OKLCH 0.5 0.1 230": "Sea " + rgbOf(t, "oklch(0.5 0.1 230)"),
		"Laboratory White 250 250 250": "Laboratory White #FAFAFA", "Gold RGB 226 87 43 HSL 14 76 53": "Gold #E2572B",
	} {
		l := color.ReadList(text)
		require.Len(t, l, 1)
		if assert.NoError(t, l[0].Err, text) {
			assert.Equal(t, want, l[0].Name+" "+l[0].RGB.Hex(), text)
		}
	}
	for text, part := range map[string]string{
		"Gold XYZ 40 42 10": "values of XYZ are not read here", "Gold HSL 0.13 0.86 0.46": "shares of 1", "Gold Lab 174 4 74": "lightness is 174, over 100",
		"Gold HSL 49 186 46": "saturation is 186, over 100", "Gold HSL 49 86 46 #0E3A53": "different colors", "YUV 120 130 140": "values of YUV",
	} {
		l := color.ReadList(text)
		require.Len(t, l, 1)
		if assert.Error(t, l[0].Err, "%s: %s %s", text, l[0].Name, l[0].RGB.Hex()) {
			assert.Contains(t, l[0].Err.Error(), part, text)
		}
	}
	l := color.ReadList("Gold CMYK 5 30 90 0")
	require.ErrorIs(t, l[0].Err, color.ErrInkOnly)
	assert.Equal(t, &color.CMYK{C: 5, M: 30, Y: 90}, l[0].CMYK)
	assert.Equal(t, "Gold", l[0].Name)
}

func rgbOf(t *testing.T, text string) string {
	c, err := color.Parse(text)
	require.NoError(t, err)
	return c.RGB8().Hex()
}

// Of a name what was opened is closed, and nothing of it is cut.
func TestNamesKeepWhatBelongsToThem(t *testing.T) {
	for written, want := range map[string]string{
		"Deep Blue (dark)": "Deep Blue (dark)", `Say "Hello"`: `Say "Hello"`, "=SUM(A1)": "=SUM(A1)", "(Deep Blue)": "Deep Blue", `"Deep Blue"`: "Deep Blue", "[Old] Blue": "[Old] Blue",
		"Blue [2]": "Blue [2]", "Deep Blue (": "Deep Blue", "Deep Blue)": "Deep Blue", "'90s Red": "90s Red", "Sailor's Blue": "Sailor's Blue", "«Bleu»": "Bleu", "--salt-marsh:": "salt-marsh",
		`"Kelp","`: "Kelp", `'Kelp', '`: "Kelp", "* Buoy:": "Buoy", "Buoy =": "Buoy", "= Buoy": "Buoy", "A (b) C (d)": "A (b) C (d)", "(a) Blue (b)": "(a) Blue (b)", "“Deep” Blue": "“Deep” Blue",
	} {
		l := color.ReadList(written + " #0E3A53")
		require.Len(t, l, 1)
		require.NoError(t, l[0].Err, written)
		assert.Equal(t, want, l[0].Name, written)
	}
}

func TestPlainNumbersNeedAReasonToBeAColor(t *testing.T) {
	lines := color.ReadList("12.0 1.0 1.0\n0.5 0.25 1\n226 87 43\nTide 12.5 30.5 200\n226.0, 87.5, 43\nR 226.5 G 87 B 43\n10.5% 20% 30%\n")
	require.Len(t, lines, 7)
	for i, hex := range []string{"", "#8040FF", "#E2572B", "#0D1FC8", "", "#E3572B", "#1B334D"} {
		if hex == "" {
			assert.ErrorContains(t, lines[i].Err, "has decimals", lines[i].Text)
			continue
		}
		if assert.NoError(t, lines[i].Err, lines[i].Text) {
			assert.Equal(t, hex, lines[i].RGB.Hex(), lines[i].Text)
		}
	}
	assert.Equal(t, "Tide", lines[3].Name)
}

func TestAListKeepsItsGoodLines(t *testing.T) {
	text := ""
	for i := range 300 {
		if i%60 == 7 {
			text += fmt.Sprintf("Wrong %d  #%dzz\n", i, i)
		} else {
			text += fmt.Sprintf("Color %d  #%06X\n", i, i*55000)
		}
	}
	good, bad := 0, 0
	for _, l := range color.ReadList(text) {
		if l.Err != nil {
			bad++
			assert.Contains(t, l.Err.Error(), "not a hexadecimal digit")
		} else {
			good++
		}
	}
	assert.Equal(t, []int{295, 5}, []int{good, bad})
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"#abc", "rgb(1 2 3 / 4%)", "lab(50% 20 -30)", "53/68/0/0", "1,2,3", "color(display-p3 1 0 0)", "hsl(1e3rad 1% 2%)", "oklch(from #123 l c calc(h + 1turn) / .5)", "rgb(min(1,2) clamp(1,2%,3) none)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		defer hostile.Timely(t, len(s))()
		for _, parse := range []func(string) (color.Typed, error){color.Parse, color.ParseCSS} {
			c, err := parse(s)
			if err != nil {
				continue
			}
			if c.CMYK != nil {
				require.True(t, c.CMYK.Valid())
				continue
			}
			lab := c.RGB8().Lab()
			require.False(t, math.IsNaN(lab.L+lab.A+lab.B))
			require.True(t, c.Alpha >= 0 && c.Alpha <= 1)
		}
	})
}

func FuzzReadList(f *testing.F) {
	f.Add("Deep Sound #0E3A53\nx")
	f.Add("a\t1 2 3\t4/5/6/7\r\n\"b\": navy;")
	f.Fuzz(func(t *testing.T, s string) {
		defer hostile.Timely(t, len(s))()
		for _, l := range color.ReadList(s) {
			require.NotEmpty(t, l.Text)
			require.Positive(t, l.Number)
		}
	})
}

// What most of rgb() is, three whole numbers, is read on a way of its own; in capitals the same goes through the grammar.
func TestTheShortWayOfRGB(t *testing.T) {
	for _, body := range []string{"14 58 83", "14,58,83", "14, 58, 83", "0 0 0", "255 255 255", "256 0 0", "999 1 1", "1 2,3", "1, 2 3", "1 2", "1 2 3 4", "1 2 3/1", "1  2 3", " 1 2 3", "1 2 3 ", "014 058 083", "1000 2 3",
		"-1 2 3", "1. 2 3", "1 2 3%", "1,, 2, 3", "1 , 2 , 3", "1,2,3,", "none 2 3", "", " ", "1", "1 2 ", ",1,2"} {
		short, err1 := color.ParseCSS("rgb(" + body + ")")
		long, err2 := color.ParseCSS("RGB(" + body + ")")
		assert.Equal(t, err2 == nil, err1 == nil, body)
		assert.Equal(t, long, short, body)
	}
}
