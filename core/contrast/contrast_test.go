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
