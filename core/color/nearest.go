package color

import (
	"math"
	"slices"
	"sort"
)

// Index finds the nearest of many colors without computing every difference. It may be used by several goroutines.
type Index struct {
	labs   []Lab // by rising lightness
	at     []int // where each stood in the list given
	chroma []float64
}

// Neighbor is a color of an Index with its ΔE00 from the one asked for.
type Neighbor struct {
	At     int // place in the list that the Index was made of
	DeltaE float64
}

// NewIndex puts colors in order of lightness.
func NewIndex(labs []Lab) *Index {
	x := &Index{make([]Lab, len(labs)), make([]int, len(labs)), make([]float64, len(labs))}
	for i := range x.at {
		x.at[i] = i
	}
	sort.SliceStable(x.at, func(a, b int) bool { return labs[x.at[a]].L < labs[x.at[b]].L })
	for i, at := range x.at {
		x.labs[i] = labs[at]
		x.chroma[i] = math.Sqrt(labs[at].A*labs[at].A + labs[at].B*labs[at].B)
	}
	return x
}

// maxSL is the largest weight of lightness in ΔE00, so that ΔE00 is at least |ΔL| / maxSL.
const maxSL = 1.75

// Nearest lists the n colors nearest to lab by rising ΔE00; equal distances stand in the order of the list given. The
// search starts at lab's own lightness, walks away from it and stops where lightness alone is farther than the last. A
// rough guess beforehand makes it short.
func (x *Index) Nearest(lab Lab, n int) []Neighbor {
	n = max(0, min(n, len(x.labs)))
	best := make([]Neighbor, 0, n+1)
	worst := x.guess(lab, n)
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
		if atLeast(lab, x.labs[i], chroma, x.chroma[i]) > worst {
			continue
		}
		r := Neighbor{x.at[i], DeltaE00(lab, x.labs[i])}
		place := sort.Search(len(best), func(i int) bool {
			return best[i].DeltaE > r.DeltaE || best[i].DeltaE == r.DeltaE && best[i].At > r.At
		})
		best = slices.Insert(best, place, r)
		if best = best[:min(n, len(best))]; len(best) == n {
			worst = math.Min(worst, best[n-1].DeltaE)
		}
	}
	return best
}

// guess is a ΔE00 within which at least n colors lie: that of the n which a plain distance with the chroma's weight finds.
func (x *Index) guess(lab Lab, n int) float64 {
	if n < 1 || n > 16 { // beyond a few, the walk finds its own bound soon enough
		return math.Inf(1)
	}
	weight := 1 + 0.03*math.Sqrt(lab.A*lab.A+lab.B*lab.B)
	weight = 1 / (weight * weight)
	var at [16]int
	var far [16]float64
	for i := range n {
		far[i] = math.Inf(1)
	}
	for i := range x.labs {
		l, a, b := x.labs[i].L-lab.L, x.labs[i].A-lab.A, x.labs[i].B-lab.B
		d := l*l + (a*a+b*b)*weight
		if d >= far[n-1] {
			continue
		}
		k := n - 1
		for ; k > 0 && far[k-1] > d; k-- {
			far[k], at[k] = far[k-1], at[k-1]
		}
		far[k], at[k] = d, i
	}
	worst := 0.0
	for i := range n {
		worst = math.Max(worst, DeltaE00(lab, x.labs[at[i]]))
	}
	return worst
}

// atLeast is a lower bound of DeltaE00 that needs no angle. The hue difference follows from the others; its weight is at
// most 1 + 0.015 C' maxT; and of c² + h² + Rt c h at least 1 - |Rt|/2 of c² + h² is left, where Rt is 0 away from blue and
// nowhere beyond the factor of its chroma times sin 60°.
func atLeast(x, y Lab, chroma, chromaY float64) float64 {
	cm := (chroma + chromaY) / 2
	cm7 := cm * cm * cm
	cm7 *= cm7 * cm
	g := 1.5 - 0.5*math.Sqrt(cm7/(cm7+pow25to7))
	a1, a2 := g*x.A, g*y.A
	c1, c2 := math.Sqrt(a1*a1+x.B*x.B), math.Sqrt(a2*a2+y.B*y.B)
	cp := (c1 + c2) / 2
	left := 1.0
	if x.B < 0 || y.B < 0 {
		cp7 := cp * cp * cp
		cp7 *= cp7 * cp
		left = 1 - sin60*math.Sqrt(cp7/(cp7+pow25to7))
	}
	l := (y.L - x.L) / maxSL
	c := c2 - c1
	h2 := (a2-a1)*(a2-a1) + (y.B-x.B)*(y.B-x.B) - c*c
	sc, sh := 1+0.045*cp, 1+0.015*maxT*cp
	return math.Sqrt(l*l+left*math.Max(0, c*c/(sc*sc)+h2/(sh*sh))) - 1e-9
}

const (
	sin60 = 0.8660254037844387
	maxT  = 1.6 // over all hues it reaches 1.573
)
