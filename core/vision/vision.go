// Package vision simulates how colors look with impaired color vision, and finds the colors of a set that become hard to
// tell apart.
package vision

import (
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/raster"
)

// Kind is one deficiency; its number is its place in Kinds.
type Kind int

const (
	Protan Kind = iota
	Deutan
	Tritan
	Achromat
)

// Kinds lists the deficiencies by their name at full severity, with the name of the lesser form and what it means.
var Kinds = []struct{ Name, Lesser, About string }{
	{"protanopia", "protanomaly", "no or weak long-wave cones: reds darken and fall together with greens"},
	{"deuteranopia", "deuteranomaly", "no or weak middle-wave cones: greens and reds fall together; the most common"},
	{"tritanopia", "tritanomaly", "no or weak short-wave cones: blues and yellows fall together; rare"},
	{"achromatopsia", "incomplete achromatopsia", "no color at all, lightness only"},
}

// Find returns a kind by either of its names, in any case.
func Find(name string) (Kind, error) {
	var names []string
	for i, k := range Kinds {
		if strings.EqualFold(name, k.Name) || strings.EqualFold(name, k.Lesser) {
			return Kind(i), nil
		}
		names = append(names, k.Name)
	}
	return 0, fmt.Errorf("there is no deficiency %q; there are %s", name, strings.Join(names, ", "))
}

// at is the matrix in linear light for a severity from 0 to 1: interpolated between the published tenths, and for
// achromatopsia between the color and its luminance.
func (k Kind) at(severity float64) (m matrix) {
	severity = math.Min(1, math.Max(0, severity))
	if k == Achromat {
		y := [3]float64{0.2126, 0.7152, 0.0722}
		for r := range 3 {
			for c := range 3 {
				m[r][c] = severity * y[c]
			}
			m[r][r] += 1 - severity
		}
		return m
	}
	table := [...]*[11]matrix{&protan, &deutan, &tritan}[k]
	tenth := min(int(severity*10), 9)
	f := severity*10 - float64(tenth)
	for r := range 3 {
		for c := range 3 {
			m[r][c] = (1-f)*table[tenth][r][c] + f*table[tenth+1][r][c]
		}
	}
	return m
}

func (m *matrix) apply(c color.Linear) color.Linear {
	return color.Linear{
		R: m[0][0]*c.R + m[0][1]*c.G + m[0][2]*c.B,
		G: m[1][0]*c.R + m[1][1]*c.G + m[1][2]*c.B,
		B: m[2][0]*c.R + m[2][1]*c.G + m[2][2]*c.B,
	}
}

// Simulate is how a color looks with a deficiency of a severity from 0 (none) to 1; what leaves sRGB is clipped, as the
// paper does.
func Simulate(c color.RGB8, k Kind, severity float64) color.RGB8 {
	m := k.at(severity)
	return m.apply(c.RGB().Linear()).RGB().Clip().RGB8()
}

// Pair is two colors of a set that become confusable.
type Pair struct {
	A, B      int     // places in the set, A first
	Seen      float64 // ΔE00 for normal vision
	Simulated float64 // ΔE00 with the deficiency
}

// Apart is the ΔE00 that two colors of a chart or a map should keep: twice that of two colors side by side that everybody
// calls different, since a line and its legend do not touch.
const Apart = 10

// Confusable lists the pairs of a set that are at least apart for normal vision and no longer so with the deficiency, the
// worst first.
func Confusable(set []color.RGB8, k Kind, severity, apart float64) []Pair {
	seen, simulated := make([]color.Lab, len(set)), make([]color.Lab, len(set))
	for i, c := range set {
		seen[i], simulated[i] = c.Lab(), Simulate(c, k, severity).Lab()
	}
	var out []Pair
	for a := range set {
		for b := a + 1; b < len(set); b++ {
			p := Pair{a, b, color.DeltaE00(seen[a], seen[b]), color.DeltaE00(simulated[a], simulated[b])}
			if p.Seen >= apart && p.Simulated < apart {
				out = append(out, p)
			}
		}
	}
	slices.SortStableFunc(out, func(x, y Pair) int {
		switch {
		case x.Simulated < y.Simulated:
			return -1
		case x.Simulated > y.Simulated:
			return 1
		}
		return 0
	})
	return out
}

// Picture simulates a whole picture in place; its transparency stays. Every pixel equals what Simulate gives for it, but
// for a level where rounding decides.
func Picture(img *image.NRGBA, k Kind, severity float64) {
	m := k.at(severity)
	// Products of the 256 channel values with the nine factors, so that a pixel costs nine additions.
	var part [3][256][3]float32
	for v := range 256 {
		l := color.RGB{R: float64(v) / 255}.Linear().R
		for c := range 3 {
			for r := range 3 {
				part[c][v][r] = float32(m[r][c] * l)
			}
		}
	}
	b := img.Bounds()
	raster.Parallel(b.Dy(), func(from, to int) {
		for y := from; y < to; y++ {
			row := img.Pix[y*img.Stride:][:4*b.Dx()]
			for i := 0; i < len(row); i += 4 {
				x, y, z := &part[0][row[i]], &part[1][row[i+1]], &part[2][row[i+2]]
				row[i] = color.Encode8(x[0] + y[0] + z[0])
				row[i+1] = color.Encode8(x[1] + y[1] + z[1])
				row[i+2] = color.Encode8(x[2] + y[2] + z[2])
			}
		}
	})
}
