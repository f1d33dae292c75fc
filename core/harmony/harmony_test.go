package harmony_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/harmony"
)

var muted = color.RGB8{R: 0x9A, G: 0x6B, B: 0x6B} // of a chroma that every hue has in sRGB

func TestTurnsOnThePerceptualWheel(t *testing.T) {
	for _, s := range harmony.Schemes {
		members, err := harmony.Build(muted, s.Name, harmony.Perceptual, 0)
		require.NoError(t, err)
		require.Len(t, members, len(s.Turns))
		assert.Equal(t, muted, members[0].Color, "the color itself comes first, unchanged")
		from := muted.RGB().OKLab().OKLCH()
		for i, m := range members {
			got := m.Color.RGB().OKLab().OKLCH()
			d := math.Abs(math.Mod(got.H-from.H-s.Turns[i]+900, 360) - 180)
			if s.Name == "monochromatic" {
				assert.Less(t, math.Min(d, 360-d), 8.0)
				continue
			}
			assert.Less(t, math.Min(d, 360-d), 3.0, "%s, member %d", s.Name, i)
			assert.InDelta(t, from.L, got.L, 0.01)
			assert.InDelta(t, from.C, got.C, 0.01)
		}
	}
}

func TestOppositesOnThePaintersWheel(t *testing.T) {
	for _, c := range []struct {
		from     color.RGB8
		low, top float64 // OKLCH hue of the complement
	}{
		{color.RGB8{R: 200, G: 40, B: 40}, 140, 165},  // red: green
		{color.RGB8{R: 220, G: 190, B: 20}, 290, 325}, // yellow: violet
		{color.RGB8{R: 40, G: 80, B: 200}, 45, 85},    // blue: orange
	} {
		members, err := harmony.Build(c.from, "complementary", harmony.Painter, 0)
		require.NoError(t, err)
		h := members[1].Color.RGB().OKLab().OKLCH().H
		assert.True(t, h > c.low && h < c.top, "%s has its complement at %.0f", c.from.Hex(), h)
	}
}

func TestThereAndBackOnThePaintersWheel(t *testing.T) {
	for h := 0.0; h < 360; h += 7 {
		c := color.OKLCH{L: 0.6, C: 0.05, H: h}.OKLab().RGB().RGB8()
		first, err := harmony.Build(c, "complementary", harmony.Painter, 0)
		require.NoError(t, err)
		again, err := harmony.Build(first[1].Color, "complementary", harmony.Painter, 0)
		require.NoError(t, err)
		assert.Less(t, color.DeltaE00(c.Lab(), again[1].Color.Lab()), 2.0, "from %.0f", h)
	}
}

func TestUnknownSchemesAndWheels(t *testing.T) {
	_, err := harmony.Build(muted, "random", harmony.Painter, 0)
	assert.ErrorContains(t, err, "split complementary")
	_, err = harmony.Build(muted, "triadic", "square", 0)
	assert.ErrorContains(t, err, "perceptual and painter")
	split, err := harmony.Build(muted, "Split-Complementary", harmony.Perceptual, 0)
	require.NoError(t, err)
	assert.Len(t, split, 3)
}

func TestFreeMembersStayWhenTheSetTurns(t *testing.T) {
	deep, buoy := color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	for _, w := range []harmony.Wheel{harmony.Perceptual, harmony.Painter} {
		set, err := harmony.Build(buoy, "triadic", w, 0)
		require.NoError(t, err)
		held := set[1].Color
		set[1].Free = true
		set[2].Lift, set[2].Chroma = 0.1, 0.5
		turned := harmony.Follow(deep, w, set)
		assert.Equal(t, deep, turned[0].Color)
		assert.Equal(t, held, turned[1].Color, "unlinked")
		assert.NotEqual(t, set[2].Color, turned[2].Color, "linked")
		assert.InDelta(t, deep.RGB().OKLab().L+0.1, turned[2].Color.RGB().OKLab().L, 0.01)
		assert.InDelta(t, deep.RGB().OKLab().OKLCH().C/2, turned[2].Color.RGB().OKLab().OKLCH().C, 0.005)
		assert.Equal(t, 240.0, turned[2].Turn)

		// Linked again, it stays where it is until the set turns the next time.
		turned[1].Free = false
		again := harmony.Follow(deep, w, turned)
		assert.Less(t, color.DeltaE00(held.Lab(), again[1].Color.Lab()), 0.5)
	}
}

func TestSpreadLightness(t *testing.T) {
	for _, c := range []struct {
		from, hue string
		low, top  float64 // OKLCH lightness of the member
		least     float64 // its chroma
	}{
		{"#0000FF", "complementary", 0.75, 0.97, 0.12}, // a yellow, and no olive
		{"#0E3A53", "complementary", 0.5, 0.75, 0.08},
		{"#14213D", "complementary", 0.6, 0.97, 0.05}, // beside a navy stands no black
		{"#F2E205", "complementary", 0.3, 0.6, 0.15},
		{"#E2572B", "complementary", 0.5, 0.85, 0.08},
	} {
		rgb, err := color.FromHex(c.from)
		require.NoError(t, err)
		members, err := harmony.Build(rgb, c.hue, harmony.Perceptual, 0)
		require.NoError(t, err)
		spread := harmony.Spread(rgb, harmony.Perceptual, members)
		assert.Equal(t, rgb, spread[0].Color)
		at := spread[1].Color.RGB().OKLab().OKLCH()
		assert.True(t, at.L >= c.low && at.L <= c.top, "%s: %s has a lightness of %.2f", c.from, spread[1].Color.Hex(), at.L)
		assert.Greater(t, at.C, c.least, "%s: %s", c.from, spread[1].Color.Hex())
		from := rgb.RGB().OKLab().OKLCH()
		turned := math.Abs(math.Mod(at.H-from.H-180+900, 360) - 180)
		assert.Less(t, math.Min(turned, 360-turned), 4.0, "the hue is the scheme's")
	}
	free := harmony.Spread(color.RGB8{B: 255}, harmony.Perceptual, []harmony.Member{{}, {Color: muted, Free: true}})
	assert.Equal(t, muted, free[1].Color, "what is unlinked stays")
}

func TestWhatASchemeCannotDoWithAGray(t *testing.T) {
	gray := color.RGB8{R: 128, G: 129, B: 128}
	assert.Contains(t, harmony.Cannot(gray, "triadic"), "no hue to turn")
	assert.Empty(t, harmony.Cannot(gray, "monochromatic"))
	assert.Empty(t, harmony.Cannot(muted, "triadic"))
	members, err := harmony.Build(gray, "triadic", harmony.Perceptual, 0)
	require.NoError(t, err)
	assert.NotPanics(t, func() { harmony.Spread(gray, harmony.Painter, members) })
}

// Two to eight members of every scheme: the first is the color, no two are alike, further rounds have the scheme's hues, and what was there stays
// where it is when one more comes.
func TestTwoToEightMembers(t *testing.T) {
	for _, hex := range []string{"#9A6B6B", "#0E3A53", "#F2B632", "#E8E0D0", "#20140C"} {
		c, err := color.FromHex(hex)
		require.NoError(t, err)
		for _, s := range harmony.Schemes {
			var before []harmony.Member
			for n := harmony.Fewest; n <= harmony.Most; n++ {
				members, err := harmony.Build(c, s.Name, harmony.Perceptual, n)
				require.NoError(t, err)
				spread := harmony.Spread(c, harmony.Perceptual, members)
				for _, list := range [][]harmony.Member{members, spread} {
					require.Len(t, list, n)
					assert.Equal(t, c, list[0].Color)
					for i, m := range list {
						assert.Equal(t, s.Turns[i%len(s.Turns)], m.Turn)
						for k, o := range list[:i] {
							assert.Greater(t, color.DeltaE00(o.Color.Lab(), m.Color.Lab()), 1.5, "%s, %s of %d: members %d and %d", hex, s.Name, n, k+1, i+1)
						}
					}
				}
				if s.Name != "monochromatic" && before != nil {
					assert.Equal(t, before, spread[:n-1])
				}
				before = spread
			}
		}
	}
	for _, n := range []int{1, 9, -2} {
		_, err := harmony.Build(muted, "triadic", harmony.Perceptual, n)
		assert.ErrorContains(t, err, "a harmony has 2 to 8 members")
	}
}
