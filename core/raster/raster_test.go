package raster_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/raster"
)

// What is linear in each channel comes out to the bit; what bends comes out within a level or two.
func TestBakedRowsFollowTheFunction(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for _, c := range []struct {
		name      string
		in, out   int
		f         func(src, dst []float64)
		tolerance float64
	}{
		{"invert", 3, 3, func(s, d []float64) { d[0], d[1], d[2] = 1-s[0], 1-s[1], 1-s[2] }, 0.5},
		{"swap", 3, 3, func(s, d []float64) { d[0], d[1], d[2] = s[2], s[0], s[1] }, 0.5},
		{"power", 3, 3, func(s, d []float64) { d[0], d[1], d[2] = math.Pow(s[0], 0.8), s[1]*s[2], s[0]*s[1] }, 2},
		{"gray", 1, 3, func(s, d []float64) { d[0], d[1], d[2] = s[0]*s[0], math.Sqrt(s[0]), 1-s[0] }, 0.51},
		{"ink", 4, 3, func(s, d []float64) { d[0], d[1], d[2] = (1-s[0])*(1-s[3]), (1-s[1])*(1-s[3]), (1-s[2])*(1-s[3]) }, 1},
		{"plate", 3, 4, func(s, d []float64) { d[0], d[1], d[2], d[3] = 1-s[0], 1-s[1], 1-s[2], s[0] }, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			rows := raster.Bake(c.in, c.out, c.f)
			const n = 2000
			src, dst := make([]uint8, n*c.in), make([]uint8, n*c.out)
			for i := range src {
				src[i] = uint8(r.IntN(256))
			}
			for i := range c.in { // the ends of the scale too
				src[i], src[c.in+i] = 255, 0
			}
			rows.Convert(dst, c.out, src, c.in)
			s, want := make([]float64, c.in), make([]float64, c.out)
			for i := range n {
				for k := range s {
					s[k] = float64(src[i*c.in+k]) / 255
				}
				c.f(s, want)
				for k := range want {
					require.InDelta(t, want[k]*255, float64(dst[i*c.out+k]), c.tolerance, "%v", s)
				}
			}
		})
	}
}

func TestRowsInPlaceLeaveTheOtherBytes(t *testing.T) {
	rows := raster.Bake(3, 3, func(s, d []float64) { d[0], d[1], d[2] = 1-s[0], 1-s[1], 1-s[2] })
	px := []uint8{255, 0, 0, 7, 255, 0, 0, 8, 1, 2, 3, 9}
	rows.Convert(px, 4, px, 4)
	assert.Equal(t, []uint8{0, 255, 255, 7, 0, 255, 255, 8, 254, 253, 252, 9}, px)
}

func TestParallelCoversEverythingOnce(t *testing.T) {
	for _, n := range []int{0, 1, 2, 7, 1000} {
		seen := make([]int, n)
		raster.Parallel(n, func(from, to int) {
			for i := from; i < to; i++ {
				seen[i]++
			}
		})
		for i := range seen {
			require.Equal(t, 1, seen[i])
		}
	}
}
