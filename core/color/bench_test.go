package color_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"sort"
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

// The index gives exactly what comparing with every color gives, for any number of neighbors, in dense and in thin lists.
func TestNearestForAnyNumber(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	for _, size := range []int{1, 2, 17, 300} {
		var labs []color.Lab
		for range size {
			labs = append(labs, color.Lab{L: 100 * r.Float64(), A: 160*r.Float64() - 80, B: 160*r.Float64() - 80})
		}
		labs = append(labs, labs[0]) // the same color twice
		index := color.NewIndex(labs)
		for range 200 {
			target := color.Lab{L: 100 * r.Float64(), A: 200*r.Float64() - 100, B: 200*r.Float64() - 100}
			all := make([]color.Neighbor, len(labs))
			for i, l := range labs {
				all[i] = color.Neighbor{At: i, DeltaE: color.DeltaE00(target, l)}
			}
			sort.SliceStable(all, func(a, b int) bool { return all[a].DeltaE < all[b].DeltaE })
			for _, n := range []int{-1, 0, 1, 3, 16, 17, 400} {
				want := all[:max(0, min(n, len(all)))]
				if got := index.Nearest(target, n); len(got) != len(want) || len(want) > 0 && !slices.Equal(got, want) {
					t.Fatalf("%d of %d colors near %v: %v, want %v", n, size, target, got, want)
				}
			}
		}
	}
}
