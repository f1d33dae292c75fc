package palette_test

import (
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	own "huekeep/core/color"
	"huekeep/core/palette"
)

func hex(t testing.TB, s string) own.RGB8 {
	c, err := own.FromHex(s)
	require.NoError(t, err)
	return c
}

// bands is a picture of bands of equal width, 600 by 100 pixels.
func bands(t testing.TB, values ...string) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, 600, 100))
	for x := range 600 {
		c := hex(t, values[x*len(values)/600])
		for y := range 100 {
			img.SetNRGBA(x, y, color.NRGBA{c.R, c.G, c.B, 255})
		}
	}
	return img
}

func TestEachColorIsFoundWithItsShareAndDistance(t *testing.T) {
	// Buoy drifted by two levels, Deep Sound as it is, a green that nothing answers.
	img := bands(t, "#E0552A", "#0E3A53", "#0E3A53", "#30D040")
	set := []own.RGB8{hex(t, "#E2572B"), hex(t, "#0E3A53"), hex(t, "#F2B632")}
	a := palette.Of(img).Against(set)
	buoy, sound, lamp := a.Matches[0], a.Matches[1], a.Matches[2]
	assert.InDelta(t, 0.25, buoy.Share, 1e-9)
	assert.Equal(t, "#E0552A", buoy.Own.Hex())
	assert.InDelta(t, own.DeltaE00(set[0].Lab(), hex(t, "#E0552A").Lab()), buoy.DeltaE, 1e-9)
	assert.InDelta(t, 0.5, sound.Share, 1e-9)
	assert.Equal(t, "#0E3A53", sound.Own.Hex())
	assert.InDelta(t, 0, sound.DeltaE, 1e-9)
	assert.Zero(t, lamp.Share, "it is not in the picture")
	assert.Greater(t, lamp.DeltaE, 10.0)
	require.Len(t, a.Unanswered, 1)
	u := a.Unanswered[0]
	assert.Equal(t, "#30D040", u.Value.Hex())
	assert.InDelta(t, 0.25, u.Share, 1e-9)
	for what, at := range map[string]image.Point{"#E0552A": buoy.At, "#0E3A53": sound.At, "#30D040": u.At} {
		c := img.NRGBAAt(at.X, at.Y)
		assert.Equal(t, what, own.RGB8{R: c.R, G: c.G, B: c.B}.Hex(), "the place has the value")
	}
	assert.InDelta(t, 300, sound.At.X, 2, "in the middle of its area")
}

func TestThePicturesOwnValueIsTheOneOfItsPlainArea(t *testing.T) {
	img := bands(t, "#E0552A")
	random := rand.New(rand.NewPCG(1, 1))
	for i := 0; i < len(img.Pix); i += 4 { // noise of three levels, and a tenth of shade
		for k := range 3 {
			img.Pix[i+k] = uint8(int(img.Pix[i+k]) + random.IntN(7) - 3)
		}
		if i < len(img.Pix)/10 {
			img.Pix[i] -= 14
		}
	}
	m := palette.Of(img).Against([]own.RGB8{hex(t, "#E2572B")}).Matches[0]
	assert.Less(t, own.DeltaE00(m.Own.Lab(), hex(t, "#E0552A").Lab()), 0.5)
}

func TestInItsPlaceGrainStays(t *testing.T) {
	img := bands(t, "#E0552A", "#0E3A53", "#30D040")
	img.SetNRGBA(10, 10, color.NRGBA{0xE2, 0x57, 0x2C, 255}) // a grain, two levels lighter
	set := []own.RGB8{hex(t, "#E2672B"), hex(t, "#123E57")}
	a := palette.Of(img).Against(set)
	value := func(img *image.NRGBA, x int) string {
		c := img.NRGBAAt(x, 50)
		return own.RGB8{R: c.R, G: c.G, B: c.B}.Hex()
	}
	both := a.InPlace(img, -1)
	assert.Equal(t, "#30D040", value(both, 599), "what no color answers stays")
	assert.Less(t, own.DeltaE00(hex(t, value(both, 50)).Lab(), set[0].Lab()), 0.6)
	assert.Less(t, own.DeltaE00(hex(t, value(both, 300)).Lab(), set[1].Lab()), 0.6)
	grain, ground := both.NRGBAAt(10, 10), both.NRGBAAt(50, 50)
	assert.InDelta(t, 2, int(grain.R)-int(ground.R), 1, "the grain is as much lighter as it was")
	one := a.InPlace(img, 1)
	assert.Equal(t, "#E0552A", value(one, 50), "only the one that was asked for")
	assert.NotEqual(t, "#0E3A53", value(one, 300))

	// The same picture in another size moves in the same way.
	large := image.NewNRGBA(image.Rect(0, 0, 1200, 200))
	for y := range 200 {
		for x := range 1200 {
			large.SetNRGBA(x, y, img.NRGBAAt(x/2, y/2))
		}
	}
	assert.Equal(t, both.NRGBAAt(50, 50), a.InPlace(large, -1).NRGBAAt(100, 100))
	assert.Equal(t, uint8(0x0E), img.NRGBAAt(300, 50).R, "the picture itself stays")
}

func TestDistancesFromAValue(t *testing.T) {
	img := bands(t, "#E0552A", "#0E3A53")
	img.SetNRGBA(5, 5, color.NRGBA{0xE0, 0x55, 0x2A, 0})
	d := palette.Of(img).Distances(hex(t, "#E2572B"))
	want := own.DeltaE00(hex(t, "#E0552A").Lab(), hex(t, "#E2572B").Lab())
	assert.InDelta(t, want, float64(d.NRGBAAt(100, 50).A)/4, 0.13)
	far := own.DeltaE00(hex(t, "#0E3A53").Lab(), hex(t, "#E2572B").Lab())
	assert.InDelta(t, min(63.75, far), float64(d.NRGBAAt(500, 50).A)/4, 0.13)
	g := d.NRGBAAt(100, 50)
	assert.Equal(t, [2]uint8{g.R, g.R}, [2]uint8{g.G, g.B}, "the rest is gray")
	assert.Equal(t, uint8(255), d.NRGBAAt(5, 5).A, "what is transparent is near nothing")
}

func TestOddPictures(t *testing.T) {
	empty := image.NewNRGBA(image.Rect(0, 0, 4, 4))
	a := palette.Of(empty).Against([]own.RGB8{{R: 1}})
	assert.Empty(t, a.Unanswered)
	assert.Zero(t, a.Matches[0].Share)
	one := image.NewNRGBA(image.Rect(0, 0, 1, 1))
	one.Pix[3] = 255
	a = palette.Of(one).Against([]own.RGB8{{}, {}})
	assert.InDelta(t, 1, a.Matches[0].Share+a.Matches[1].Share, 1e-9, "a value that stands in a palette twice counts once")
}

// photo is a noisy picture of many values.
func photo(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	random := rand.New(rand.NewPCG(1, 2))
	for y := range h {
		for x := range w {
			n := random.IntN(24)
			img.SetNRGBA(x, y, color.NRGBA{uint8(200*x/w + n), uint8(200*y/h + n), uint8(120 + n), 255})
		}
	}
	return img
}

func BenchmarkHold(b *testing.B) {
	img := photo(1200, 900)
	var set []own.RGB8
	for _, s := range []string{"#0E3A53", "#E2572B", "#F2B632", "#4E7D5B", "#7A4E7E", "#8FC1D4", "#C9D1D3", "#3B444B"} {
		set = append(set, hex(b, s))
	}
	b.Run("gather", func(b *testing.B) {
		for b.Loop() {
			palette.Of(img)
		}
	})
	h := palette.Of(img)
	b.Run("against", func(b *testing.B) {
		for b.Loop() {
			h.Against(set)
		}
	})
	b.Run("distances", func(b *testing.B) {
		for b.Loop() {
			h.Distances(set[0])
		}
	})
}
