package main

import (
	"encoding/json"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/picture"
	"huekeep/core/press"
	"huekeep/core/proof"
)

func TestProofOfAPicture(t *testing.T) {
	dir := t.TempDir()
	in, shown, inks := filepath.Join(dir, "in.png"), filepath.Join(dir, "shown.png"), filepath.Join(dir, "inks.tif")
	img := image.NewNRGBA(image.Rect(0, 0, 40, 10))
	for i := 0; i < len(img.Pix); i += 4 {
		if i/4%40 < 10 {
			copy(img.Pix[i:], []uint8{0, 255, 0, 255})
		} else {
			copy(img.Pix[i:], []uint8{16, 12, 14, 255})
		}
	}
	f, err := os.Create(in)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, img))
	require.NoError(t, f.Close())

	out, errs, code := huekeep(t, "proof", in, "--press", "newsprint", "--paper", "--limit", "200", "-o", shown, "--json")
	require.Zero(t, code, errs)
	var v struct {
		Width, Height         int
		Press, Intent         string
		Paper, BPC            bool
		OutOfGamut, OverLimit float64
		InkLimit              float64
		Heaviest              struct {
			X, Y int
			Ink  float64
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &v), out)
	assert.Equal(t, "newsprint relative", v.Press+" "+v.Intent)
	assert.True(t, v.Paper)
	assert.GreaterOrEqual(t, v.OutOfGamut, 0.25)
	assert.InDelta(t, 0.75, v.OverLimit, 1e-9)
	assert.Equal(t, 10, v.Heaviest.X)
	assert.Greater(t, v.Heaviest.Ink, 200.0)
	data, err := os.ReadFile(shown)
	require.NoError(t, err)
	p, err := picture.Decode(data)
	require.NoError(t, err)
	assert.Greater(t, p.Pix[4*20], uint8(40), "newsprint's black is gray beside a screen")

	out, errs, code = huekeep(t, "proof", in, "--intent", "perceptual", "--bpc", "-o", inks)
	require.Zero(t, code, errs)
	assert.Regexp(t, `\d+\.\d % of the area is out of the gamut of coated paper`, out)
	data, err = os.ReadFile(inks)
	require.NoError(t, err)
	p, err = picture.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 40, 10), p.Rect)
	assert.NotEmpty(t, p.Profile)

	// The file of inks is a picture again, with its profile.
	_, errs, code = huekeep(t, "proof", inks, "-o", shown)
	assert.Zero(t, code, errs)

	// Its own inks as they are take on newsprint what they took on coated paper, which is too much there; separated anew they do not.
	var own, anew struct {
		OverLimit float64
		Heaviest  struct{ Ink float64 }
	}
	heavy := filepath.Join(dir, "heavy.tif")
	plate := image.NewCMYK(image.Rect(0, 0, 40, 10))
	for i := range plate.Pix {
		plate.Pix[i] = 204 // 80 % of each ink
	}
	file, err := proof.WriteTIFF(plate, press.Coated().Profile())
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(heavy, file, 0o600))
	for answer, args := range map[any][]string{&own: {"--own"}, &anew: {}} {
		out, errs, code := huekeep(t, append([]string{"proof", heavy, "--press", "newsprint", "-o", shown, "--json"}, args...)...)
		require.Zero(t, code, errs)
		require.NoError(t, json.Unmarshal([]byte(out), answer))
	}
	assert.Equal(t, []float64{1, 320}, []float64{own.OverLimit, own.Heaviest.Ink})
	assert.Zero(t, anew.OverLimit)
	assert.LessOrEqual(t, anew.Heaviest.Ink, 240.5)

	for _, bad := range []struct {
		args []string
		why  string
	}{
		{[]string{in, "-o", shown, "--own"}, "no inks of its own"},
		{[]string{in, "-o", "x.jpg"}, "neither a .png"},
		{[]string{in}, "output"},
		{[]string{in, "-o", shown, "--limit", "500"}, "between 0 and 400"},
		{[]string{in, "-o", shown, "--press", "silk"}, "no press condition"},
		{[]string{filepath.Join(dir, "none.png"), "-o", shown}, "none.png"},
		{[]string{in, "-o", filepath.Join(dir, "no", "way.png")}, "no such file"},
	} {
		_, errs, code := huekeep(t, append([]string{"proof"}, bad.args...)...)
		assert.NotZero(t, code)
		assert.Contains(t, errs, bad.why)
	}
}
