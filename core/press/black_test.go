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
	yellow := press.Coated().Build(press.Coated().Lab(color.CMYK{Y: 100}))
	less, more := press.Coated().Black(yellow)
	assert.True(t, less == nil && more == nil, "a bright yellow has no black to trade")
}

func TestBlackAloneIsForDarkNeutrals(t *testing.T) {
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(t, err)
		for _, hex := range []string{"#000000", "#131417", "#333333", "#2A2622"} {
			rgb, err := color.FromHex(hex)
			require.NoError(t, err)
			k := c.BlackOnly(rgb.Lab())
			require.NotNil(t, k, "%s on %s", hex, s.Name)
			assert.Equal(t, color.CMYK{K: k.Whole.K}, k.Whole)
			assert.InDelta(t, color.DeltaE00(rgb.Lab(), c.Lab(k.Whole)), k.DeltaE, 1e-9)
			for _, other := range []float64{k.Whole.K - 1, k.Whole.K + 1} {
				if other >= 0 && other <= 100 {
					assert.GreaterOrEqual(t, color.DeltaE00(rgb.Lab(), c.Lab(color.CMYK{K: other})), k.DeltaE, "%s on %s: no neighbor is nearer", hex, s.Name)
				}
			}
		}
	}
	for _, not := range []color.RGB8{{R: 0x0E, G: 0x3A, B: 0x53}, {R: 90}, {R: 200, G: 200, B: 200}, {R: 255, G: 255, B: 255}} {
		assert.Nil(t, press.Coated().BlackOnly(not.Lab()), not.Hex())
	}
}

func TestTheLimitIsWhatPartsExactFromUnlimited(t *testing.T) {
	c, err := press.Get("newsprint")
	require.NoError(t, err)
	held := 0
	r := rand.New(rand.NewPCG(3, 5))
	for range 3000 {
		b := c.Build(color.RGB8{R: uint8(r.IntN(120)), G: uint8(r.IntN(120)), B: uint8(r.IntN(120))}.Lab())
		assert.LessOrEqual(t, b.Exact.Total(), c.InkLimit+1e-9)
		if b.Unlimited.Total() <= c.InkLimit {
			assert.Equal(t, b.Unlimited, b.Exact)
			continue
		}
		held++
		assert.Equal(t, b.Unlimited.K, b.Exact.K, "black carries the shadow")
		assert.InDelta(t, c.InkLimit, b.Exact.Total(), 1e-9)
	}
	assert.Positive(t, held, "some shadows ask for more than the press takes")
}

func BenchmarkBlack(b *testing.B) {
	c := press.Coated()
	build := c.Build(color.RGB8{R: 0x3B, G: 0x44, B: 0x4B}.Lab())
	for b.Loop() {
		c.Black(build)
	}
}
