package press_test

import (
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
)

func TestEveryShippedConditionPrintsWhiteAsPaperAndBlackDark(t *testing.T) {
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(t, err)
		white := c.Build(color.RGB8{R: 255, G: 255, B: 255}.Lab())
		assert.Zero(t, white.Whole.Total(), s.Name)
		assert.Less(t, white.DeltaE, 1.0, s.Name)
		black := c.Build(color.Lab{})
		assert.LessOrEqual(t, black.Whole.Total(), s.InkLimit, s.Name)
		assert.Greater(t, black.Whole.K, 60.0, s.Name)
	}
	_, err := press.Get("velvet")
	assert.ErrorContains(t, err, "coated, uncoated and newsprint")
}

// The reference is a plain search over every whole-percent build in the neighborhood, written without the cleaning.
func TestTheWholePercentBuildIsTheBestNearby(t *testing.T) {
	c := press.Coated()
	r := rand.New(rand.NewPCG(7, 8))
	for range 200 {
		target := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
		b := c.Build(target)
		e := b.Exact.Array()
		best := math.Inf(1)
		for i := range 625 {
			var v [4]float64
			fits := true
			for k, n := 0, i; k < 4; k, n = k+1, n/5 {
				v[k] = math.Round(e[k]) + float64(n%5-2)
				fits = fits && v[k] >= 0 && v[k] <= 100 && math.Abs(v[k]-e[k]) <= 2
			}
			build := color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}
			if fits && build.Total() <= c.InkLimit {
				best = math.Min(best, color.DeltaE00(target, c.Lab(build)))
			}
		}
		require.Less(t, b.DeltaE, best+0.5, "cleaning may cost less than 0.5")
		small := false
		for _, v := range b.Whole.Array() {
			require.Equal(t, math.Trunc(v), v)
			small = small || v > 0 && v < 3
		}
		if b.Whole.Array() == [4]float64{math.Round(e[0]), math.Round(e[1]), math.Round(e[2]), math.Round(e[3])} && !small {
			require.InDelta(t, best, b.DeltaE, 0.5)
		}
		require.LessOrEqual(t, b.Whole.Total(), c.InkLimit)
		require.InDelta(t, b.DeltaE, color.DeltaE00(target, c.Lab(b.Whole)), 1e-9)
	}
}

func TestGamutVerdictSaysTheDirection(t *testing.T) {
	c := press.Coated()
	b := c.Build(color.RGB8{G: 255}.Lab())
	assert.False(t, b.InGamut, "no press prints a screen green")
	assert.Contains(t, b.Direction, "duller")
	b = c.Build(color.RGB8{R: 0x4E, G: 0x7D, B: 0x5B}.Lab())
	assert.True(t, b.InGamut)
	for _, d := range []struct {
		from, to color.Lab
		want     string
	}{
		{color.Lab{L: 50}, color.Lab{L: 60}, "lighter"}, {color.Lab{L: 50}, color.Lab{L: 50}, ""},
		{color.Lab{L: 50, A: 40}, color.Lab{L: 50, A: 20}, "duller"},
		{color.Lab{L: 60, A: 40, B: 40}, color.Lab{L: 60, A: 52, B: 24}, "redder"},
		{color.Lab{L: 60, A: 40, B: 40}, color.Lab{L: 60, A: 24, B: 52}, "yellower"},
	} {
		assert.Equal(t, d.want, press.Direction(d.from, d.to))
	}
}

func TestOnlyCMYKOutputProfilesMakeACondition(t *testing.T) {
	data, err := os.ReadFile("profiles/coated.icc")
	require.NoError(t, err)
	copy(data[16:], "RGB ")
	_, err = press.New("x", "x", 300, data)
	assert.ErrorContains(t, err, "CMYK output profile is wanted")
}

func BenchmarkBuild(b *testing.B) {
	c := press.Coated()
	lab := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}.Lab()
	for b.Loop() {
		c.Build(lab)
	}
}
