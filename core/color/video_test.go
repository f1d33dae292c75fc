package color_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
)

// Code values of 75 % and 100 % color bars as they are printed with the recommendations.
func TestVideoCodeValues(t *testing.T) {
	rgb := func(r, g, b float64) color.RGB { return color.RGB{R: r, G: g, B: b} }
	for _, c := range []struct {
		matrix color.VideoMatrix
		in     color.RGB
		bits   int
		full   bool
		want   [3]int
	}{
		{color.BT709, rgb(1, 1, 1), 8, false, [3]int{235, 128, 128}},
		{color.BT709, rgb(0, 0, 0), 8, false, [3]int{16, 128, 128}},
		{color.BT709, rgb(1, 1, 1), 10, false, [3]int{940, 512, 512}},
		{color.BT709, rgb(1, 0, 0), 8, false, [3]int{63, 102, 240}},
		{color.BT709, rgb(0.75, 0.75, 0), 8, false, [3]int{168, 44, 136}},
		{color.BT709, rgb(0, 0, 0.75), 8, false, [3]int{28, 212, 120}},
		{color.BT601, rgb(1, 0, 0), 8, false, [3]int{81, 90, 240}},
		{color.BT601, rgb(0, 1, 0), 8, false, [3]int{145, 54, 34}},
		{color.BT601, rgb(0, 0, 1), 8, false, [3]int{41, 240, 110}},
		{color.BT601, rgb(1, 0, 0), 8, true, [3]int{76, 85, 255}},
		{color.BT2020, rgb(1, 1, 1), 10, false, [3]int{940, 512, 512}},
	} {
		assert.Equal(t, c.want, c.matrix.YCbCr(c.in, c.bits, c.full), "%+v", c)
	}
}

func TestVideoFormsOfAScreenColor(t *testing.T) {
	form := func(name string) color.VideoForm {
		for _, f := range color.VideoForms {
			if f.Name == name {
				return f
			}
		}
		t.Fatal(name)
		return color.VideoForm{}
	}
	red, gray := color.RGB8{R: 255}, color.RGB8{R: 128, G: 128, B: 128}
	assert.Equal(t, [3]int{63, 102, 240}, form("ycbcr709").Codes(red))
	assert.Equal(t, [3]int{81, 90, 240}, form("ycbcr601").Codes(red))
	assert.Equal(t, [3]int{250, 409, 960}, form("ycbcr709-10").Codes(red))
	assert.Equal(t, [3]int{126, 128, 128}, form("ycbcr709").Codes(gray))
	for _, f := range color.VideoForms {
		codes := f.Codes(gray)
		assert.Equal(t, codes[1], codes[2], "%s: gray has no chroma", f.Name)
		assert.Empty(t, f.Problems(f.Codes(color.RGB8{R: 226, G: 87, B: 43})), f.Name)
	}
	wide := form("ycbcr2020").Codes(red)
	assert.Less(t, wide[2], 240, "the red of a screen is within the wider primaries")
	assert.NotEmpty(t, form("ycbcr709").Problems([3]int{235, 240, 240}), "no color has such codes")
}
