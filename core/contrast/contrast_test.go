package contrast_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/asbefore"
	"huekeep/core/color"
	"huekeep/core/contrast"
)

func hex(s string) color.RGB8 {
	c, err := color.FromHex(s)
	if err != nil {
		panic(err)
	}
	return c
}

// Ratios that the techniques of WCAG print or that follow from its formula by hand.
func TestRatios(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"#000000", "#FFFFFF", 21}, {"#FFFFFF", "#FFFFFF", 1}, {"#777777", "#FFFFFF", 4.48}, {"#767676", "#FFFFFF", 4.54}, {"#FF0000", "#FFFFFF", 4.00}, {"#0000FF", "#FFFFFF", 8.59}} {
		assert.InDelta(t, c.want, contrast.Ratio(hex(c.a), hex(c.b)), 0.005, c.a)
		assert.Equal(t, contrast.Ratio(hex(c.a), hex(c.b)), contrast.Ratio(hex(c.b), hex(c.a)))
	}
}

func TestGradesAreNotRoundedUp(t *testing.T) {
	assert.Equal(t, contrast.Grades{Text: "fails", Large: "AA", Graphics: true}, contrast.Grade(4.499))
	assert.Equal(t, contrast.Grades{Text: "AA", Large: "AAA", Graphics: true}, contrast.Grade(4.5))
	assert.Equal(t, contrast.Grades{Text: "AAA", Large: "AAA", Graphics: true}, contrast.Grade(7))
	assert.Equal(t, contrast.Grades{Text: "fails", Large: "fails"}, contrast.Grade(2.99))
}

func TestARatioBesideAVerdictIsCut(t *testing.T) {
	almost := contrast.Ratio(color.RGB8{R: 0x6C, G: 0x7B, B: 0x67}, color.RGB8{R: 255, G: 255, B: 255})
	assert.Equal(t, "fails", contrast.Grade(almost).Text)
	for _, c := range []struct {
		ratio    float64
		decimals int
		want     float64
	}{{almost, 2, 4.49}, {almost, 4, 4.4999}, {4.5, 2, 4.5}, {4.6, 2, 4.6}, {1.1, 2, 1.1}, {21, 2, 21}, {1, 4, 1}, {7.009, 2, 7}} {
		assert.Equal(t, c.want, contrast.Cut(c.ratio, c.decimals), "%v", c.ratio)
	}
	for v := 100; v <= 2100; v++ {
		assert.Equal(t, float64(v)/100, contrast.Cut(float64(v)/100, 2), "a ratio of two decimals stays")
	}
}

func TestTheNearestFindsWhiteForAnyColor(t *testing.T) {
	ground := color.RGB8{R: 0x70, G: 0x70, B: 0x70} // white alone reaches 4.95 on it
	for h := 0; h < 360; h++ {
		c := color.HSL{H: float64(h), S: 1, L: 0.5}.RGB().RGB8()
		near, ok := contrast.Nearest(c, ground, 4.95)
		assert.True(t, ok, c.Hex())
		assert.Equal(t, "#FFFFFF", near.Hex(), c.Hex())
	}
}

func TestTheNearestPassesAndMovesLightnessOnly(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	random := func() color.RGB8 {
		return color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
	}
	for range 500 {
		c, ground := random(), random()
		out, ok := contrast.Nearest(c, ground, 4.5)
		require.True(t, ok, "black or white reaches 4.5 on every ground")
		require.GreaterOrEqual(t, contrast.Ratio(out, ground), 4.5)
		a, b := c.RGB().OKLab().OKLCH(), out.RGB().OKLab().OKLCH()
		require.LessOrEqual(t, b.C, a.C+0.02)
		if a.C > 0.08 && b.C > 0.08 { // the hue of a near gray says little
			require.Less(t, math.Abs(math.Mod(a.H-b.H+540, 360)-180), 12.0, "%s to %s", c.Hex(), out.Hex())
		}
	}
	same, _ := contrast.Nearest(hex("#000000"), hex("#FFFFFF"), 7)
	assert.Equal(t, "#000000", same.Hex())
	_, ok := contrast.Nearest(hex("#777777"), hex("#777777"), 7)
	assert.False(t, ok, "neither black nor white reaches 7:1 on a middle gray")
}

// Each grade begins with the ratio that WCAG 2.2 has for it, and not before.
func TestGradesBeginWhereTheyDo(t *testing.T) {
	for ratio, want := range map[float64]contrast.Grades{
		21: {Text: "AAA", Large: "AAA", Graphics: true}, 7: {Text: "AAA", Large: "AAA", Graphics: true}, 6.999: {Text: "AA", Large: "AAA", Graphics: true},
		4.5: {Text: "AA", Large: "AAA", Graphics: true}, 4.499: {Text: "fails", Large: "AA", Graphics: true},
		3: {Text: "fails", Large: "AA", Graphics: true}, 2.999: {Text: "fails", Large: "fails"}, 1: {Text: "fails", Large: "fails"},
	} {
		assert.Equal(t, want, contrast.Grade(ratio), ratio)
	}
}

// Of the two ways, to light and to dark, the shorter one is taken; what passes as it is stays, and what cannot pass is said.
func TestTheNearestTakesTheShorterWay(t *testing.T) {
	gray := func(v uint8) color.RGB8 { return color.RGB8{R: v, G: v, B: v} }
	ground := gray(0x77) // 4.48 to white, 4.69 to black
	got, ok := contrast.Nearest(gray(0x80), ground, 3)
	require.True(t, ok)
	assert.Greater(t, got.R, uint8(0x80), "it is lighter already")
	got, ok = contrast.Nearest(gray(0x60), ground, 3)
	require.True(t, ok)
	assert.Less(t, got.R, uint8(0x60), "it is darker already")
	got, ok = contrast.Nearest(gray(0xF0), ground, 4.5)
	require.True(t, ok)
	assert.Less(t, got.R, uint8(0x10), "only black is far enough")
	for _, ratio := range []float64{4.5, 7} { // one step of 8 bits less would not do
		got, ok := contrast.Nearest(gray(0x80), gray(0xFF), ratio)
		require.True(t, ok)
		assert.GreaterOrEqual(t, contrast.Ratio(got, gray(0xFF)), ratio)
		assert.Less(t, contrast.Ratio(gray(got.R+1), gray(0xFF)), ratio)
	}
	exactly := contrast.Ratio(gray(0x50), gray(0xFF))
	got, ok = contrast.Nearest(gray(0x50), gray(0xFF), exactly)
	assert.True(t, ok && got == gray(0x50), "what passes stays")
	_, ok = contrast.Nearest(gray(0x80), ground, 7)
	assert.False(t, ok, "neither black nor white is that far from a middle gray")
}

// What was recommended to somebody is recommended by the next version too.
func TestRecommendationsAreAsBefore(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	var b strings.Builder
	var set []color.RGB8
	for i := range 120 {
		c, ground := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}, color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
		if i%9 == 0 {
			ground = color.RGB8{R: 255, G: 255, B: 255}
		}
		for _, ratio := range []float64{3, 4.5, 7} {
			near, ok := contrast.Nearest(c, ground, ratio)
			fmt.Fprintf(&b, "%s on %s, %g: %s %t %.5f\n", c.Hex(), ground.Hex(), ratio, near.Hex(), ok, contrast.Ratio(near, ground))
		}
		if set = append(set, c); i < 8 || i == 20 {
			for _, g := range contrast.Specimen(set) {
				fmt.Fprintf(&b, "  ground %d:", g.At)
				for _, on := range g.On {
					fmt.Fprintf(&b, " %d %.4f", on.At, on.Ratio)
				}
				fmt.Fprintf(&b, ", %d as text, %d large\n", g.Legible(contrast.TextAA), g.Legible(contrast.LargeAA))
			}
		}
	}
	asbefore.Is(t, "recommended.txt", b.String())
}
