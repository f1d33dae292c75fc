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
	hue    []float64 // degrees
}

// Neighbor is a color of an Index with its ΔE00 from the one asked for.
type Neighbor struct {
	At     int // place in the list that the Index was made of
	DeltaE float64
}

// NewIndex puts colors in order of lightness.
func NewIndex(labs []Lab) *Index {
	x := &Index{make([]Lab, len(labs)), make([]int, len(labs)), make([]float64, len(labs)), make([]float64, len(labs))}
	for i := range x.at {
		x.at[i] = i
	}
	sort.SliceStable(x.at, func(a, b int) bool { return labs[x.at[a]].L < labs[x.at[b]].L })
	for i, at := range x.at {
		x.labs[i] = labs[at]
		x.chroma[i], x.hue[i] = polar(labs[at].A, labs[at].B)
	}
	return x
}

// maxSL bounds the weight of lightness in ΔE00 for a mean L*.
func maxSL(mean float64) float64 { return 1 + 0.015*math.Abs(mean-50) }

// Nearest lists the n colors nearest to lab by rising ΔE00; equal distances stand in the order of the list given. The
// search starts at lab's own lightness, walks away from it and stops where lightness alone is farther than the last. A
// rough guess beforehand makes it short.
func (x *Index) Nearest(lab Lab, n int) []Neighbor {
	n = max(0, min(n, len(x.labs)))
	best := make([]Neighbor, 0, n+1)
	worst := x.guess(lab, n)
	low, high := x.around(lab)
	chroma, hue := polar(lab.A, lab.B)
	for n > 0 && (low >= 0 || high < len(x.labs)) {
		i := high
		if high == len(x.labs) || low >= 0 && lab.L-x.labs[low].L < x.labs[high].L-lab.L {
			i = low
			low--
		} else {
			high++
		}
		if apart := math.Abs(x.labs[i].L - lab.L); apart > worst*(1+0.015*(math.Abs(lab.L-50)+apart/2)) {
			break // on either side, for lightness has its largest weight away from 50
		}
		if !canBe(lab, x.labs[i], chroma, x.chroma[i], hue, x.hue[i], worst) {
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

// guess is a ΔE00 within which at least n colors lie: that of the n which the metric around lab finds.
func (x *Index) guess(lab Lab, n int) float64 {
	if n < 1 || n > 16 { // beyond a few, the walk finds its own bound soon enough
		return math.Inf(1)
	}
	m := MetricAt(lab)
	var at [16]int
	var far [16]float64
	for i := range n {
		far[i] = math.Inf(1)
	}
	take := func(i int) bool { // false where lightness alone is farther
		p := m.Parts(lab, x.labs[i])
		d := p[0] * p[0]
		if d >= far[n-1] {
			return false
		}
		if d += p[1]*p[1] + p[2]*p[2]; d < far[n-1] {
			k := n - 1
			for ; k > 0 && far[k-1] > d; k-- {
				far[k], at[k] = far[k-1], at[k-1]
			}
			far[k], at[k] = d, i
		}
		return true
	}
	low, high := x.around(lab)
	for up, down := true, true; up || down; {
		up = up && high < len(x.labs) && take(high)
		down = down && low >= 0 && take(low)
		high++
		low--
	}
	worst := 0.0
	for _, i := range at[:n] {
		worst = max(worst, DeltaE00(lab, x.labs[i]))
	}
	return worst
}

// around are the places of the next darker color and of the next lighter one.
func (x *Index) around(lab Lab) (low, high int) {
	high = sort.Search(len(x.labs), func(i int) bool { return x.labs[i].L >= lab.L })
	return high - 1, high
}

// canBe is false where ΔE00 is certainly over a limit. Of c² + h² + Rt c h at least 1 - |Rt|/2 of c² + h² is left, where Rt
// falls off around a hue of 275 degrees. First the bounds that need no root: a chord is at least as long with a*
// stretched as without, and its weights are at most those of chroma. Then those that know the chromas as stretched, for
// which the hue difference follows from the others and has a weight of at most 1 + 0.015 C' maxT.
func canBe(x, y Lab, chroma, chromaY, hue, hueY, limit float64) bool {
	limit = limit*limit + 1e-9
	l := (y.L - x.L) / maxSL((x.L+y.L)/2)
	l *= l
	cm := (chroma + chromaY) / 2
	chord := (y.A-x.A)*(y.A-x.A) + (y.B-x.B)*(y.B-x.B)
	most := 1 + 0.045*(cm+maxStretch)
	chord /= most * most
	if l+(1-sin60)*chord > limit {
		return false
	}
	left := 1.0
	if x.B < 20 || y.B < 20 {
		mean := (hue + hueY) / 2
		if math.Abs(hueY-hue) > 180 {
			if mean += 180; mean >= 360 {
				mean -= 360
			}
		}
		q := max(0, math.Abs(mean-275)-maxTurn) / 25
		left = 1 - min(sin60, math.Pi/3/(1+q*q))
	}
	if l+left*chord > limit {
		return false
	}
	cm7 := cm * cm * cm
	cm7 *= cm7 * cm
	g := 1.5 - 0.5*math.Sqrt(cm7/(cm7+pow25to7))
	a1, a2 := g*x.A, g*y.A
	c1, c2 := math.Sqrt(a1*a1+x.B*x.B), math.Sqrt(a2*a2+y.B*y.B)
	cp, c := (c1+c2)/2, c2-c1
	h2 := max(0, (a2-a1)*(a2-a1)+(y.B-x.B)*(y.B-x.B)-c*c)
	sc, sh := 1+0.045*cp, 1+0.015*maxT*cp
	return l+left*(c*c/(sc*sc)+h2/(sh*sh)) <= limit
}

const (
	sin60      = 0.8660254037844387
	maxT       = 1.6 // over all hues it reaches 1.573
	maxStretch = 6.5 // that a* stretched adds to a chroma, at most
	maxTurn    = 12  // degrees that it turns a hue, at most: atan 1.5 less 45
)
