package press_test

import (
	"bytes"
	"encoding/binary"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/icc"
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

func TestRenderings(t *testing.T) {
	c := press.Coated()
	green := color.RGB8{G: 200, B: 60}.Lab()
	black := color.RGB8{}.Lab()
	perceptual, err := c.With(icc.Rendering{Intent: icc.Perceptual})
	require.NoError(t, err)
	p := perceptual.Build(green)
	assert.Greater(t, p.DeltaE, c.Build(green).DeltaE, "the perceptual rendering gives up likeness")
	assert.Less(t, color.DeltaE00(p.Lab, perceptual.Lab(p.Exact)), 1.0, "and rounding follows it")

	compensated, err := c.With(icc.Rendering{Intent: icc.RelativeColorimetric, BlackPoint: true})
	require.NoError(t, err)
	dark, darkBPC := color.RGB8{R: 30, G: 30, B: 34}.Lab(), color.Lab{}
	assert.Greater(t, compensated.Lab(compensated.Exact(dark)).L, c.Lab(c.Exact(dark)).L, "shadows keep their steps above the press's black")
	assert.InDelta(t, compensated.Lab(compensated.Exact(darkBPC)).L, c.Lab(c.Exact(black)).L, 2)

	absolute, err := c.With(icc.Rendering{Intent: icc.AbsoluteColorimetric})
	require.NoError(t, err)
	white := absolute.Lab(color.CMYK{})
	assert.Less(t, white.L, 97.0, "paper is not as white as the light")
	assert.Greater(t, white.L, 90.0)

	_, err = c.With(icc.Rendering{Intent: 7})
	assert.ErrorContains(t, err, "no rendering intent 7")
}

func TestAKeepersProfileBringsItsInkLimit(t *testing.T) {
	for _, s := range press.Shipped {
		data, err := os.ReadFile("profiles/" + s.Name + ".icc")
		require.NoError(t, err)
		c, err := press.New("ours", "our printer", 0, data)
		require.NoError(t, err)
		assert.InDelta(t, s.InkLimit, c.InkLimit, 8, "found from the profile alone")
		shipped, err := press.Get(s.Name)
		require.NoError(t, err)
		lab := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}.Lab()
		assert.Equal(t, shipped.Build(lab), c.Build(lab))
	}
}

func TestTintsGetLighterAndKeepTheInks(t *testing.T) {
	c := press.Coated()
	buoy := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	build := c.Build(buoy.Lab()).Whole
	tints := c.Tints(build, buoy, 80, 60, 40, 20, 0)
	require.Len(t, tints, 5)
	last := c.Lab(build).L
	for _, tint := range tints {
		assert.Greater(t, tint.Lab.L, last)
		last = tint.Lab.L
		for i, v := range tint.Build.Array() {
			assert.InDelta(t, build.Array()[i]*tint.Percent/100, v, 0.5)
		}
	}
	assert.Equal(t, color.CMYK{}, tints[4].Build)
	assert.Equal(t, color.RGB8{R: 255, G: 255, B: 255}, tints[4].Screen)
	assert.Less(t, color.DeltaE00(tints[1].Lab, tints[1].Screen.Lab()), 4.0, "screen and print tints are of one kind")
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

// A profile that asks for black alone is a press, but says that it prints gray only.
func TestAProfileOfGrayOnlySaysSo(t *testing.T) {
	data, err := os.ReadFile("profiles/newsprint.icc")
	require.NoError(t, err)
	c, err := press.New("own", "own", 0, data)
	require.NoError(t, err)
	assert.False(t, c.Gray())
	gray := bytes.Clone(data)
	for at := 132; at < 132+12*int(binary.BigEndian.Uint32(data[128:])); at += 12 {
		if !bytes.HasPrefix(data[at:], []byte("B2A")) {
			continue
		}
		tag := gray[binary.BigEndian.Uint32(data[at+4:]):][:binary.BigEndian.Uint32(data[at+8:])]
		require.Equal(t, "mft2", string(tag[:4]))
		n := int(binary.BigEndian.Uint16(tag[50:])) // entries of the curve of each ink (ICC.1, lut16Type), the last thing of the table
		clear(tag[len(tag)-8*n : len(tag)-2*n])
	}
	c, err = press.New("own", "own", 0, gray)
	require.NoError(t, err)
	assert.True(t, c.Gray())
	assert.InDelta(t, 100, c.InkLimit, 3)
}
