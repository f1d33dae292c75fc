package gather_test

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	stdcolor "image/color"
	"image/draw"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gather"
)

// striped is a picture of stripes, each narrower than the one before.
func striped(hexes ...string) image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, 400, 60))
	x := 0
	for i, h := range hexes {
		c, err := color.FromHex(h)
		if err != nil {
			panic(err)
		}
		next := 400
		if i < len(hexes)-1 {
			next = x + 400/len(hexes) + 3 - i
		}
		draw.Draw(img, image.Rect(x, 0, next, 60), image.NewUniform(stdcolor.NRGBA{R: c.R, G: c.G, B: c.B, A: 255}), image.Point{}, draw.Src)
		x = next
	}
	return img
}

func noise() image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, 90, 90))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range img.Pix {
		img.Pix[i] = uint8(r.IntN(256)) | uint8(i%4/3*255)
	}
	return img
}

// drawing is a drawing with pictures in it, as data.
func drawing(t *testing.T, pictures ...image.Image) []byte {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg"><rect fill="#E2572B"/><rect fill="#E2572B"/><rect fill="#0E3A53"/>`)
	for _, p := range pictures {
		var data bytes.Buffer
		require.NoError(t, png.Encode(&data, p))
		fmt.Fprintf(&b, `<image href="data:image/png;base64,%s"/>`, base64.StdEncoding.EncodeToString(data.Bytes()))
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}

// What pictures inside of a file show flat is found too, behind what the file itself says; photos are told of.
func TestPicturesInsideOfFiles(t *testing.T) {
	logo := striped("#F2B632", "#E2572B", "#4E7D5B")
	found, err := gather.Read("flyer.svg", drawing(t, logo, striped("#F2B632", "#C9D1D3"), noise()))
	require.NoError(t, err)
	got := []string{}
	for _, c := range found.Colors {
		got = append(got, fmt.Sprintf("%s %d %t", c.RGB.Hex(), c.Uses, c.Picture))
	}
	assert.Equal(t, []string{"#E2572B 3 false", "#0E3A53 1 false", "#F2B632 2 true", "#4E7D5B 1 true", "#C9D1D3 1 true"}, got)
	assert.Equal(t, []string{"3 colors are only in pictures, behind the others.", "1 picture inside is without a flat color; drop it by itself as a picture."}, found.Notes)

	many := []string{}
	for i := range 9 {
		many = append(many, fmt.Sprintf("#%02X40%02X", 20*i, 250-20*i))
	}
	found, err = gather.Read("flyer.svg", drawing(t, striped(many...)))
	require.NoError(t, err)
	assert.Len(t, found.Colors, 2+6)
	assert.Equal(t, []string{"6 colors are only in pictures, behind the others.", "3 smaller areas are of pictures not shown; drop a picture by itself to see all of it."}, found.Notes)

	var lossy bytes.Buffer
	require.NoError(t, jpeg.Encode(&lossy, logo, &jpeg.Options{Quality: 60}))
	page := `<p style="color:#123456">x</p><img src="data:image/jpeg;base64,` + base64.StdEncoding.EncodeToString(lossy.Bytes()) + `">`
	found, err = gather.Read("page.html", []byte(page))
	require.NoError(t, err)
	assert.Contains(t, strings.Join(found.Notes, " "), "as a compression that loses some left it", found.Notes)
}
