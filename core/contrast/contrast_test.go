package contrast_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
