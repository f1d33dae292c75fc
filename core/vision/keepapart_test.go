package vision_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/vision"
)

func TestKeepApartMovesOneColorAsLittleAsNeeded(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	any8 := func() color.RGB8 {
		return color.RGB8{R: uint8(random.IntN(256)), G: uint8(random.IntN(256)), B: uint8(random.IntN(256))}
	}
	seen := func(a, b color.RGB8, k vision.Kind) float64 {
		return color.DeltaE00(vision.Simulate(a, k, 1).Lab(), vision.Simulate(b, k, 1).Lab())
	}
	pairs, beaten := 0, 0
	for range 4000 {
		set := []color.RGB8{any8(), any8()}
		k := vision.Kind(random.IntN(len(vision.Kinds)))
		if len(vision.Confusable(set, k, 1, vision.Apart)) == 0 {
			continue
		}
		pairs++
		c := vision.KeepApart(set[0], set[1], k, 1, vision.Apart)
		require.True(t, c.OK, "%v %v", set, k)
		after := []color.RGB8{set[0], set[1]}
		at := 1
		if c.First {
			at = 0
		}
		after[at] = c.Color
		assert.Empty(t, vision.Confusable(after, k, 1, vision.Apart))
		assert.GreaterOrEqual(t, seen(after[0], after[1], k), float64(vision.Apart))
		assert.InDelta(t, color.DeltaE00(set[at].Lab(), c.Color.Lab()), c.DeltaE, 1e-9)

		// A change of any kind is no larger, and keeps them apart too; few others, tried at random, are smaller.
		least := vision.LeastApart(set[0], set[1], k, 1, vision.Apart)
		require.True(t, least.OK)
		assert.LessOrEqual(t, least.DeltaE, c.DeltaE)
		moved, stays := set[1], set[0]
		if least.First {
			moved, stays = set[0], set[1]
		}
		assert.GreaterOrEqual(t, seen(least.Color, stays, k), float64(vision.Apart))
		assert.InDelta(t, color.DeltaE00(moved.Lab(), least.Color.Lab()), least.DeltaE, 1e-9)
		for i, from := range set {
			for range 2000 {
				near := func(v uint8) uint8 { return uint8(min(255, max(0, int(v)+random.IntN(121)-60))) }
				other := color.RGB8{R: near(from.R), G: near(from.G), B: near(from.B)}
				if de := color.DeltaE00(from.Lab(), other.Lab()); de < least.DeltaE-0.5 && seen(other, set[1-i], k) >= vision.Apart && color.DeltaE00(other.Lab(), set[1-i].Lab()) >= vision.Apart {
					beaten++
					break
				}
			}
		}

		// No smaller change of lightness would have done, of either color.
		for i := range set {
			from := set[i].RGB().OKLab().OKLCH()
			for step := -400; step <= 400; step++ {
				l := from.L + float64(step)/400
				if l < 0 || l > 1 {
					continue
				}
				other := color.OKLCH{L: l, C: from.C, H: from.H}.OKLab().RGB().RGB8()
				try := []color.RGB8{set[0], set[1]}
				try[i] = other
				if seen(try[0], try[1], k) >= vision.Apart && color.DeltaE00(try[0].Lab(), try[1].Lab()) >= vision.Apart {
					assert.GreaterOrEqual(t, color.DeltaE00(set[i].Lab(), other.Lab()), c.DeltaE-math.Max(0.5, c.DeltaE/20), "%v", set)
				}
			}
		}
		if pairs == 40 {
			break
		}
	}
	assert.Equal(t, 40, pairs)
	assert.LessOrEqual(t, beaten, 1, "of the 40")
}

func TestNothingKeepsApartWhatCannotBe(t *testing.T) {
	c := vision.KeepApart(color.RGB8{R: 128, G: 128, B: 128}, color.RGB8{R: 128, G: 128, B: 128}, vision.Deutan, 1, 90)
	assert.Equal(t, vision.Change{}, c)
}
