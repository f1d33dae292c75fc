package color

import (
	"math"
	"slices"
	"sort"
)

// Index finds the nearest of many colors without computing every difference. It may be used by several goroutines.
type Index struct {
	labs []Lab // by rising lightness
	at   []int // where each stood in the list given
}

// Neighbor is a color of an Index with its ΔE00 from the one asked for.
type Neighbor struct {
	At     int // place in the list that the Index was made of
	DeltaE float64
}

// NewIndex puts colors in order of lightness.
func NewIndex(labs []Lab) *Index {
	x := &Index{make([]Lab, len(labs)), make([]int, len(labs))}
	for i := range x.at {
		x.at[i] = i
	}
	sort.SliceStable(x.at, func(a, b int) bool { return labs[x.at[a]].L < labs[x.at[b]].L })
	for i, at := range x.at {
		x.labs[i] = labs[at]
	}
	return x
}

// maxSL is the largest weight of lightness in ΔE00, so that ΔE00 is at least |ΔL| / maxSL.
const maxSL = 1.75

// Nearest lists the n colors nearest to lab by rising ΔE00; equal distances stand in the order of the list given. The
// search starts at lab's own lightness, walks away from it and stops where lightness alone is farther than the last.
func (x *Index) Nearest(lab Lab, n int) []Neighbor {
	best := make([]Neighbor, 0, n+1)
	worst := math.Inf(1)
	high := sort.Search(len(x.labs), func(i int) bool { return x.labs[i].L >= lab.L })
	low := high - 1
	chroma := math.Sqrt(lab.A*lab.A + lab.B*lab.B)
	for n > 0 && (low >= 0 || high < len(x.labs)) {
		i := high
		if high == len(x.labs) || low >= 0 && lab.L-x.labs[low].L < x.labs[high].L-lab.L {
			i = low
			low--
		} else {
			high++
		}
		if math.Abs(x.labs[i].L-lab.L) > maxSL*worst {
			break
		}
		if len(best) == n && atLeast(lab, x.labs[i], chroma) > worst {
			continue
		}
		r := Neighbor{x.at[i], DeltaE00(lab, x.labs[i])}
		place := sort.Search(len(best), func(i int) bool {
			return best[i].DeltaE > r.DeltaE || best[i].DeltaE == r.DeltaE && best[i].At > r.At
		})
		best = slices.Insert(best, place, r)
		if best = best[:min(n, len(best))]; len(best) == n {
			worst = best[n-1].DeltaE
		}
	}
	return best
}

// atLeast is a lower bound of DeltaE00 that needs no angle: of a chroma difference c, the rotation term can take back at
// most three quarters of c², since its factor lies within 2 sin 60° (c² + h² + Rt·c·h is smallest at h = -Rt·c/2).
func atLeast(x, y Lab, chroma float64) float64 {
	cm := (chroma + math.Sqrt(y.A*y.A+y.B*y.B)) / 2
	cm7 := cm * cm * cm
	cm7 *= cm7 * cm
	g := 1.5 - 0.5*math.Sqrt(cm7/(cm7+pow25to7))
	a1, a2 := g*x.A, g*y.A
	c1, c2 := math.Sqrt(a1*a1+x.B*x.B), math.Sqrt(a2*a2+y.B*y.B)
	l := (y.L - x.L) / maxSL
	c := (c2 - c1) / (1 + 0.0225*(c1+c2))
	return math.Sqrt(l*l+0.25*c*c) - 1e-9
}
