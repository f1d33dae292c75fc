package color_test

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"huekeep/core/color"
)

// BenchmarkNearestOfThousand states how much faster the nearest of 1,000 allowed colors is found through the index than by
// the formula for each, and how long the index takes for a million pixels.
func BenchmarkNearestOfThousand(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	some := func(n int) []color.Lab {
		out := make([]color.Lab, n)
		for i := range out {
			out[i] = color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
		}
		return out
	}
	allowed, pixels := some(1000), some(1000)
	index := color.NewIndex(allowed)
	var ratio, million float64
	for b.Loop() {
		at := time.Now()
		for _, p := range pixels {
			least := math.Inf(1)
			for _, a := range allowed {
				least = math.Min(least, color.DeltaE00(p, a))
			}
		}
		plain := time.Since(at)
		at = time.Now()
		for _, p := range pixels {
			index.Nearest(p, 1)
		}
		indexed := time.Since(at)
		ratio, million = float64(plain)/float64(indexed), indexed.Seconds()*1000
	}
	b.ReportMetric(ratio, "x-faster-than-all-pairs")
	b.ReportMetric(million, "s-per-million-pixels")
}
