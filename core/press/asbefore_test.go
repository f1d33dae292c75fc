package press_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/asbefore"
	"huekeep/core/color"
	"huekeep/core/press"
)

// A build that was worked out stands in manuals and in orders to printers: another version works out the same one, for colors that can be
// printed, such that cannot, near grays, deep shadows and ramps.
func TestBuildsAreAsBefore(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 14))
	var aims []color.Lab
	for range 60 {
		aims = append(aims, color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab())
	}
	for i := range 12 {
		v := uint8(i * 23)
		aims = append(aims, color.RGB8{R: v, G: v, B: v}.Lab(), color.RGB8{R: v, G: v + 2, B: v / 2}.Lab())
	}
	for i := range 24 {
		aims = append(aims, color.LCh{L: float64(8 + 4*i%90), C: 100 + float64(i), H: float64(15 * i)}.Lab())
	}
	for i := range 16 {
		aims = append(aims, color.Lab{L: float64(3 + i), A: float64(i) - 8, B: float64(2*i) - 16})
	}
	inks := func(c color.CMYK) string { return fmt.Sprintf("%.4g %.4g %.4g %.4g", c.C, c.M, c.Y, c.K) }
	var b strings.Builder
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(t, err)
		fmt.Fprintf(&b, "%s: %t, at most %g %%, %s\n", s.Name, c.Gray(), c.InkLimit, c.Description())
		for _, aim := range aims {
			build := c.Build(aim)
			fmt.Fprintf(&b, "%.2f %.2f %.2f: %v, profile %s, limited %s, best %s, %.3f off, %.3f by rounding, %t %s, beyond %.3f, on paper %.3f",
				aim.L, aim.A, aim.B, build.Whole, inks(build.Unlimited), inks(build.Exact), inks(c.Best(aim)), build.DeltaE, build.RoundingDE,
				build.InGamut, build.Direction, c.Beyond(aim), c.OnPaper(aim, build.Whole))
			if k := c.BlackOnly(aim); k != nil {
				fmt.Fprintf(&b, ", black only %v %.3f", k.Whole, k.DeltaE)
			}
			less, more := c.Black(build)
			for _, v := range []*press.Variant{less, more} {
				if v != nil {
					fmt.Fprintf(&b, ", or %v %.3f", v.Whole, v.DeltaE)
				}
			}
			b.WriteByte('\n')
		}
	}
	asbefore.Is(t, "builds.txt", b.String())
}

// So do the tints of a build.
func TestTintsAreAsBefore(t *testing.T) {
	var b strings.Builder
	for _, hex := range []string{"#E2572B", "#0E3A53", "#F6F1E7", "#123456", "#808080", "#FFD000"} {
		c, err := color.FromHex(hex)
		require.NoError(t, err)
		build := press.Coated().Build(c.Lab()).Whole
		for _, tint := range press.Coated().Tints(build, c, 5, 10, 25, 50, 75, 90) {
			fmt.Fprintf(&b, "%s %g %%: %v, %.3f, %s\n", hex, tint.Percent, tint.Build, tint.Lab, tint.Screen.Hex())
		}
	}
	asbefore.Is(t, "tints.txt", b.String())
}
