package press

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

// printable is what can be printed at best: the nearest of what 81 starts all over the inks lead to.
func printable(c *Condition, aim color.Lab) float64 {
	best := math.Inf(1)
	for i := range 81 {
		n := i
		var inks [4]float64
		for k := range inks {
			inks[k] = float64(n%3) * 50
			n /= 3
		}
		inks = c.within(inks)
		s := search{c: c, aim: aim}
		s.between(s.look(inks))
		best = math.Min(best, color.DeltaE00(aim, s.refine(s.descend(inks, 4)).lab))
	}
	return best
}

func TestBuildsAreAsGoodAsThePressAllows(t *testing.T) {
	for _, shipped := range Shipped {
		c, err := Get(shipped.Name)
		require.NoError(t, err)
		r := rand.New(rand.NewPCG(7, 8))
		cost, far, n, m := 0.0, 0.0, 0, 0
		for range 500 {
			aim := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
			b := c.Build(aim)
			best := printable(c, aim)
			for _, v := range b.Whole.Array() {
				require.Equal(t, math.Trunc(v), v)
			}
			require.True(t, b.Whole.Valid())
			require.LessOrEqual(t, b.Whole.Total(), c.InkLimit)
			require.InDelta(t, b.DeltaE, color.DeltaE00(aim, c.Lab(b.Whole)), 1e-9)
			require.InDelta(t, b.RoundingDE, b.DeltaE-color.DeltaE00(aim, c.Lab(b.Exact)), 1e-9)
			if math.Abs(best-GamutDE) > 0.5 { // whole percents cost something
				require.Equal(t, best < GamutDE, b.InGamut, "%s %v: %.2f is possible, %v is %.2f away", c.Name, aim, best, b.Whole, b.DeltaE)
			}
			if best < 10 {
				cost += math.Max(0, b.DeltaE-best)
				n++
			}
			far += math.Max(0, b.DeltaE-best)
			m++
		}
		t.Logf("%s: %.3f ΔE00 from the best printable over all of sRGB, %.3f over what is printable within 10", c.Name, far/float64(m), cost/float64(n))
		assert.Less(t, cost/float64(n), 0.15, c.Name)
		assert.Less(t, far/float64(m), 0.15, c.Name)
	}
}

func TestBuildsThatTheTableOfTheProfileHides(t *testing.T) {
	for _, k := range []struct {
		press, hex string
		within     float64
	}{{"uncoated", "#5E4948", 0.5}, {"uncoated", "#483E3A", 1.85}} {
		c, err := Get(k.press)
		require.NoError(t, err)
		rgb, err := color.FromHex(k.hex)
		require.NoError(t, err)
		b := c.Build(rgb.Lab())
		assert.LessOrEqual(t, b.DeltaE, k.within, "%s: %v", k.hex, b.Whole)
		assert.True(t, b.InGamut)
	}
}

func TestBlackGrowsSmoothlyAlongARamp(t *testing.T) {
	for _, shipped := range Shipped {
		c, err := Get(shipped.Name)
		require.NoError(t, err)
		for to, within := range map[color.RGB8]float64{{R: 255, G: 255, B: 255}: 1, {R: 255, G: 245, B: 230}: 3, {R: 235, G: 245, B: 255}: 3} {
			least, exact := 100.0, 100.0 // whole percents go up and down by as much as a better build nearby is looked for
			for i := range 256 {
				part := func(v uint8) uint8 { return uint8(math.Round(float64(v) * float64(i) / 255)) }
				b := c.Build(color.RGB8{R: part(to.R), G: part(to.G), B: part(to.B)}.Lab())
				require.LessOrEqual(t, b.Whole.K, least+2*reach, "%s, step %d toward %s", c.Name, i, to.Hex())
				require.LessOrEqual(t, b.Exact.K, exact+within, "%s, step %d toward %s, with decimals", c.Name, i, to.Hex())
				least, exact = math.Min(least, b.Whole.K), math.Min(exact, b.Exact.K)
			}
			assert.Zero(t, least, "light colors need no black")
		}
	}
}
