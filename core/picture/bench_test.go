package picture_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/core/picture"
)

// BenchmarkColors states the time for the colors of a 12-megapixel photo as a ratio to decoding it, and the memory that
// reading it takes at the most.
func BenchmarkColors(b *testing.B) {
	data := jpegOf(b, photo(4000, 3000), 85)
	img := decode(b, data).NRGBA
	best := func(f func()) time.Duration {
		least := time.Hour
		for range 3 {
			at := time.Now()
			f()
			least = min(least, time.Since(at))
		}
		return least
	}
	var colors, chart float64
	for b.Loop() {
		plain := best(func() {
			_, err := jpeg.Decode(bytes.NewReader(data))
			require.NoError(b, err)
		})
		colors = float64(best(func() {
			_, err := picture.Colors(img, 6)
			require.NoError(b, err)
		})) / float64(plain)
		chart = float64(best(func() { picture.Chart(img) })) / float64(plain)
	}
	b.ReportMetric(colors, "x-decoding")
	b.ReportMetric(chart, "x-decoding-chart")
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	b.ReportMetric(float64(m.Sys)/1e6, "MB-of-the-process")
}

// BenchmarkSample states how long one sampling point takes with the largest window.
func BenchmarkSample(b *testing.B) {
	img := image.NewNRGBA(image.Rect(0, 0, 4000, 3000))
	for i := range img.Pix {
		img.Pix[i] = 200
	}
	for b.Loop() {
		_, err := picture.Sample(img, 2000, 1500, 31)
		require.NoError(b, err)
	}
}
