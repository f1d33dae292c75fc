package pixels_test

import (
	"bytes"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/pixels"
	brand "huekeep/core/color"
)

func TestPictures(t *testing.T) {
	buoy, white := color.NRGBA{0xE2, 0x57, 0x2B, 255}, color.NRGBA{255, 255, 255, 255}
	img := image.NewNRGBA(image.Rect(0, 0, 200, 100))
	for y := range 100 {
		for x := range 200 {
			img.SetNRGBA(x, y, white)
			switch d := (x-100)*(x-100) + (y-50)*(y-50); {
			case d < 38*38:
				img.SetNRGBA(x, y, buoy)
			case d < 40*40: // an edge that blends the two
				img.SetNRGBA(x, y, color.NRGBA{uint8(226 + (1600-d)%29), uint8(87 + (1600-d)%168), uint8(43 + (1600-d)%212), 255})
			}
		}
	}
	rules := audittest.Rules("Buoy #E2572B", "Hull #0E3A53")
	rules.Neutrals = true
	encode := func(f func(*bytes.Buffer) error) []byte {
		var b bytes.Buffer
		require.NoError(t, f(&b))
		return b.Bytes()
	}
	for name, data := range map[string][]byte{
		"x.png":  encode(func(b *bytes.Buffer) error { return png.Encode(b, img) }),
		"90.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 90}) }),
		"75.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 75}) }),
		"50.jpg": encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 50}) }),
		"x.gif":  encode(func(b *bytes.Buffer) error { return gif.Encode(b, img, nil) }),
	} {
		if name == "x.gif" {
			continue // its palette has no such color
		}
		scan, err := kinds.Read(name, data)
		require.NoError(t, err)
		report := audit.NewJudge(rules).Judge(name, scan)
		require.NotNil(t, report.Score)
		assert.Equal(t, 1.0, *report.Score, "%s: %v", name, report.Colors)
		assert.Len(t, report.Colors, 2, "the edges and what compression left are no colors: %v", report.Colors)
	}
	// A shade beside it in a JPEG is not taken for it.
	for y := range 100 {
		for x := range 40 {
			img.SetNRGBA(x, y, color.NRGBA{0xD9, 0x48, 0x2B, 255})
		}
	}
	scan, err := kinds.Read("x.jpg", encode(func(b *bytes.Buffer) error { return jpeg.Encode(b, img, &jpeg.Options{Quality: 75}) }))
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("x.jpg", scan)
	assert.Equal(t, audit.Drifted, report.Colors[0].Verdict, "%v", report.Colors)
}

func TestAPictureShowsWhereAColorStands(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 60, 40))
	for y := range 40 {
		for x := range 60 {
			img.SetNRGBA(x, y, color.NRGBA{255, 255, 255, 255})
			if x < 20 {
				img.SetNRGBA(x, y, color.NRGBA{0xE1, 0x57, 0x2C, 255})
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	marked, err := pixels.Marked(b.Bytes(), brand.RGB8{R: 0xE1, G: 0x57, B: 0x2C}, 0)
	require.NoError(t, err)
	out, err := png.Decode(bytes.NewReader(marked))
	require.NoError(t, err)
	r, g, bl, _ := out.At(5, 5).RGBA()
	assert.Equal(t, [3]uint32{0xE1, 0x57, 0x2C}, [3]uint32{r >> 8, g >> 8, bl >> 8})
	r, g, bl, _ = out.At(40, 5).RGBA()
	assert.True(t, r == g && g == bl, "everything else is gray")
	_, err = pixels.Marked(b.Bytes(), brand.RGB8{R: 1}, 0)
	assert.Error(t, err)
	_, err = pixels.Marked([]byte("no"), brand.RGB8{}, 0)
	assert.Error(t, err)
}
