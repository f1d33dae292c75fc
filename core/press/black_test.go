package press_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
)

func TestLessAndMoreBlackLookTheSame(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 14))
	found, mores, lighter := 0, 0, 0
	for range 120 {
		c := press.Coated()
		b := c.Build(color.RGB8{R: uint8(r.IntN(200)), G: uint8(r.IntN(200)), B: uint8(r.IntN(200))}.Lab())
		less, more := c.Black(b)
		check := func(v *press.Variant) {
			found++
			require.LessOrEqual(t, color.DeltaE00(b.Lab, c.Lab(v.Whole)), 0.5)
			require.InDelta(t, v.DeltaE, color.DeltaE00(b.Lab, c.Lab(v.Whole)), 1e-9)
			require.True(t, v.Whole.Valid())
			require.LessOrEqual(t, v.Whole.Total(), c.InkLimit)
		}
		if less != nil {
			require.LessOrEqual(t, less.Whole.K, b.Whole.K-5)
			check(less)
		}
		if more != nil {
			require.GreaterOrEqual(t, more.Whole.K, b.Whole.K+5)
			mores++
			if more.Whole.Total() < b.Whole.Total() {
				lighter++
			}
			check(more)
		}
	}
	assert.Greater(t, found, 100, "most darker colors have such builds")
	assert.Greater(t, lighter*10, mores*8, "black mostly takes the place of three inks")
	yellow := press.Coated().Build(color.RGB8{R: 255, G: 230}.Lab())
	less, more := press.Coated().Black(yellow)
	assert.True(t, less == nil && more == nil, "a bright yellow has no black to trade")
}

func BenchmarkBlack(b *testing.B) {
	c := press.Coated()
	build := c.Build(color.RGB8{R: 0x3B, G: 0x44, B: 0x4B}.Lab())
	for b.Loop() {
		c.Black(build)
	}
}
