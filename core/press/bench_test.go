package press_test

import (
	"bytes"
	"image"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/draw"
	"golang.org/x/image/tiff"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/press"
	"huekeep/core/proof"
)

// scene is a picture with soft light and fine texture, as a photo has.
func scene(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			p := img.Pix[y*img.Stride+4*x:][:4]
			n := uint8((x*2654435761 ^ y*40503) >> 7 & 15)
			p[0] = uint8(120+100*math.Sin(float64(x)/500)) + n
			p[1] = uint8(110+90*math.Sin(float64(y)/400)) + n
			p[2] = uint8(100+90*math.Sin(float64(x+y)/900)) + n
			p[3] = 255
		}
	}
	return img
}

// BenchmarkProofAgainstTificc states the soft proof of a 12-megapixel TIFF, reading and writing included, as a ratio to the
// time that lcms2's tificc takes for the same file (screen to coated press to screen); the look alone, and by way of its inks, in ms.
func BenchmarkProofAgainstTificc(b *testing.B) {
	if _, err := exec.LookPath("tificc"); err != nil {
		b.Skip("tificc of Debian's liblcms2-utils is not installed")
	}
	dir := b.TempDir()
	in, out := filepath.Join(dir, "in.tif"), filepath.Join(dir, "out.tif")
	var file bytes.Buffer
	rgb := image.NewRGBA(image.Rect(0, 0, 4000, 3000))
	draw.Draw(rgb, rgb.Rect, scene(4000, 3000), image.Point{}, draw.Src)
	require.NoError(b, tiff.Encode(&file, rgb, nil))
	require.NoError(b, os.WriteFile(in, file.Bytes(), 0o600))
	soft := proof.New(press.Coated(), false)
	var ratio, alone, inked float64
	for b.Loop() {
		ours, theirs, shown, through := time.Hour, time.Hour, time.Hour, time.Hour
		for range 3 {
			at := time.Now()
			data, err := os.ReadFile(in)
			require.NoError(b, err)
			img, err := tiff.Decode(bytes.NewReader(data))
			require.NoError(b, err)
			picture := image.NewNRGBA(img.Bounds())
			draw.Draw(picture, picture.Rect, img, image.Point{}, draw.Src)
			begin := time.Now()
			inks := soft.Inks(picture)
			between := time.Now()
			soft.Screen(inks)
			through = min(through, time.Since(between))
			at = at.Add(time.Since(begin)) // that was for itself
			begin = time.Now()
			picture = soft.Look(picture)
			shown = min(shown, time.Since(begin))
			var packed bytes.Buffer
			require.NoError(b, tiff.Encode(&packed, picture, nil))
			require.NoError(b, os.WriteFile(out, packed.Bytes(), 0o600))
			ours = min(ours, time.Since(at))

			at = time.Now()
			text, err := exec.Command("tificc", "-t1", "-m1", "-i*sRGB", "-o*sRGB", "-pprofiles/coated.icc", in, out).CombinedOutput()
			require.NoError(b, err, string(text))
			theirs = min(theirs, time.Since(at))
		}
		ratio, alone, inked = float64(ours)/float64(theirs), float64(shown)/1e6, float64(through)/1e6
	}
	b.ReportMetric(ratio, "x-tificc")
	b.ReportMetric(alone, "ms-look-alone")
	b.ReportMetric(inked, "ms-from-four-inks")
}

// BenchmarkBuildAgainstTransform states one build with its whole-percent search, over colors from all of sRGB, as a ratio
// to the plain transform of one of them through the profile.
func BenchmarkBuildAgainstTransform(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	colors := make([]color.Lab, 4096)
	for i := range colors {
		colors[i] = color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
	}
	c := press.Coated()
	c.Build(colors[0])
	var ratio float64
	for b.Loop() {
		build, plain := time.Hour, time.Hour
		for range 5 {
			at := time.Now()
			for _, lab := range colors {
				c.Build(lab)
			}
			build = min(build, time.Since(at))
			at = time.Now()
			for _, lab := range colors {
				c.Unlimited(lab)
			}
			plain = min(plain, time.Since(at))
		}
		ratio = float64(build) / float64(plain)
	}
	b.ReportMetric(ratio, "x-transform")
}

// BenchmarkConvert states what one color with its build and five inks costs, to be held against a frame of 16 ms.
func BenchmarkConvert(b *testing.B) {
	target := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}.Lab()
	c := press.Coated()
	ink.Quern()
	at := time.Now()
	n := 0
	for b.Loop() {
		c.Build(target)
		ink.Quern().Nearest(target, ink.Coated, 5)
		n++
	}
	b.ReportMetric(time.Since(at).Seconds()*1000/16/float64(n), "frames")
}
