package contrast_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/contrast"
)

func TestSpecimenPutsTheMostLegibleGroundFirst(t *testing.T) {
	set := []color.RGB8{{R: 0xE2, G: 0x57, B: 0x2B}, {R: 0x0E, G: 0x3A, B: 0x53}, {R: 0xF7, G: 0xF5, B: 0xF0}, {R: 0xC9, G: 0xD1, B: 0xD3}}
	got := contrast.Specimen(set)
	require.Len(t, got, 4)
	assert.Equal(t, 1, got[0].At, "two light colors read on the dark blue")
	for i, g := range got {
		assert.Len(t, g.On, 3)
		for k, on := range g.On {
			assert.NotEqual(t, g.At, on.At)
			assert.InDelta(t, contrast.Ratio(set[g.At], set[on.At]), on.Ratio, 1e-12)
			if k > 0 {
				assert.LessOrEqual(t, on.Ratio, g.On[k-1].Ratio)
			}
		}
		count := func(ratio float64) (n int) {
			for _, on := range g.On {
				if on.Ratio >= ratio {
					n++
				}
			}
			return n
		}
		for _, ratio := range []float64{1, contrast.LargeAA, contrast.TextAA, contrast.TextAAA, 22} {
			assert.Equal(t, count(ratio), g.Legible(ratio))
		}
		if i > 0 {
			assert.LessOrEqual(t, g.Legible(contrast.TextAA), got[i-1].Legible(contrast.TextAA))
		}
	}
}

func TestSpecimenOfLittle(t *testing.T) {
	assert.Empty(t, contrast.Specimen(nil))
	one := contrast.Specimen([]color.RGB8{{}})
	require.Len(t, one, 1)
	assert.Empty(t, one[0].On)
	same := contrast.Specimen([]color.RGB8{{R: 9}, {R: 9}})
	assert.InDelta(t, 1, same[0].On[0].Ratio, 0)
}

func TestToPassChangesOneSide(t *testing.T) {
	buoy, sound := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}
	text, ground := contrast.ToPass(buoy, sound, contrast.TextAA)
	require.True(t, text.OK && ground.OK)
	assert.GreaterOrEqual(t, contrast.Ratio(text.Color, sound), contrast.TextAA)
	assert.GreaterOrEqual(t, contrast.Ratio(buoy, ground.Color), contrast.TextAA)
	assert.InDelta(t, color.DeltaE00(buoy.Lab(), text.Color.Lab()), text.DeltaE, 1e-12)
	assert.Less(t, text.DeltaE, 10.0)
	assert.Less(t, ground.Color.Luminance(), sound.Luminance(), "the ground goes darker, away from the type")

	gray := color.RGB8{R: 119, G: 119, B: 119}
	text, ground = contrast.ToPass(gray, gray, 7)
	assert.False(t, text.OK || ground.OK, "nothing reaches 7 on a middle gray")
	text, _ = contrast.ToPass(sound, color.RGB8{R: 255, G: 255, B: 255}, contrast.TextAA)
	assert.Equal(t, contrast.Mend{Color: sound, Ratio: contrast.Ratio(sound, color.RGB8{R: 255, G: 255, B: 255}), OK: true}, text, "what passes stays")
}

// Grounds on which as many colors read are ordered by large text, then by their best ratio; a set of one, and of none, has nothing to order.
func TestTheOrderOfASpecimenAmongEquals(t *testing.T) {
	gray := func(list ...uint8) (set []color.RGB8) {
		for _, v := range list {
			set = append(set, color.RGB8{R: v, G: v, B: v})
		}
		return set
	}
	order := func(set []color.RGB8) (out []int) {
		for _, g := range contrast.Specimen(set) {
			out = append(out, g.At)
		}
		return out
	}
	assert.Empty(t, order(nil))
	assert.Equal(t, []int{0}, order(gray(0x80)))
	assert.Equal(t, []int{2, 0, 1}, order(gray(0x77, 0x77, 0xFF)), "white reads as large text on both, they on each other never")
	assert.Equal(t, []int{0, 2, 1}, order(gray(0x00, 0x90, 0xFF)), "black is the ground of two, white of one")
	assert.Equal(t, []int{1, 2, 0}, order(gray(0x50, 0x30, 0x60)), "none reads: those with the highest ratio first")
	one := contrast.Ground{On: []contrast.Type{{Ratio: 5}, {Ratio: 4.5}, {Ratio: 4.4}}}
	assert.Equal(t, 2, one.Legible(4.5))
}
