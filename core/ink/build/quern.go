//go:build ignore

// Generates quern.csv, the made-up Quern ink book: 900 inks in four classes with Lab (D50, 2 degree, M1) on coated and
// uncoated stock. Run with "go run build/quern.go" in core/ink; the seed is fixed, so it always writes the same book.
package main

import (
	"bufio"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"sort"
)

// The most vivid pigment at each hue: hue in degrees of CIELAB, the lightness where it is reached, its chroma.
var pigments = [][3]float64{
	{0, 48, 80}, {30, 50, 90}, {50, 62, 98}, {70, 72, 100}, {92, 87, 112}, {115, 78, 92}, {140, 58, 76},
	{165, 52, 70}, {195, 52, 58}, {225, 54, 54}, {255, 44, 56}, {280, 30, 66}, {305, 26, 68}, {330, 40, 76}, {360, 48, 80},
}

func pigment(h float64) (l, c float64) {
	for i := 1; i < len(pigments); i++ {
		if a, b := pigments[i-1], pigments[i]; h <= b[0] {
			f := (h - a[0]) / (b[0] - a[0])
			return a[1] + f*(b[1]-a[1]), a[2] + f*(b[2]-a[2])
		}
	}
	return pigments[0][1], pigments[0][2]
}

// reach is the most chroma that a mixture with white or black still has at lightness l.
func reach(h, l float64) float64 {
	peak, c := pigment(h)
	if l >= peak {
		return c * math.Pow(math.Max(0, (97-l)/(97-peak)), 0.85)
	}
	return c * math.Pow(math.Max(0, (l-8)/(peak-8)), 0.75)
}

type ink struct {
	class            string
	coated, uncoated [3]float64 // L, C, h
}

func radical(n, base int) float64 {
	f, v := 1.0, 0.0
	for ; n > 0; n /= base {
		f /= float64(base)
		v += f * float64(n%base)
	}
	return v
}

// onUncoated lets the ink sink into the paper: darks rise, vivid colors lose chroma, hues turn a little.
func onUncoated(c [3]float64, r *rand.Rand) [3]float64 {
	l := c[0] + 0.24*math.Max(0, 74-c[0]) - 0.03*math.Max(0, c[0]-74)
	chroma := c[1] * (0.84 - 0.12*math.Max(0, (60-c[0])/60)) * (1 + 0.02*r.NormFloat64())
	return [3]float64{l, chroma, math.Mod(c[2]+2.5*r.NormFloat64()+360, 360)}
}

// words are what an ink can be called after, by how it looks.
type words struct {
	key   string
	words []string
}

// family finds the words for a color: plants, stones and weather that look like it.
func family(c [3]float64) words {
	l, chroma, h := c[0], c[1], c[2]
	if chroma < 7 {
		if l > 70 {
			return words{"pale gray", []string{"Chalk", "Pebble", "Shell", "Drizzle"}}
		}
		return words{"gray", []string{"Cinder", "Flint", "Anvil", "Basalt"}}
	}
	dark := l < 45
	switch {
	case h < 12 || h >= 335:
		return words{"rose", []string{"Mallow", "Campion", "Clover", "Briar"}}
	case h < 42 && dark:
		return words{"dark red", []string{"Bramble", "Garnet", "Rosehip"}}
	case h < 42:
		return words{"red", []string{"Rowan", "Haw", "Ember", "Poppy"}}
	case h < 75 && dark:
		return words{"brown", []string{"Umber", "Russet", "Acorn", "Bracken"}}
	case h < 75:
		return words{"orange", []string{"Kiln", "Apricot", "Robin", "Rosewood"}}
	case h < 105 && dark:
		return words{"olive brown", []string{"Peat", "Loam", "Sedge"}}
	case h < 105:
		return words{"yellow", []string{"Gorse", "Barley", "Tansy", "Lantern"}}
	case h < 135:
		return words{"yellow green", []string{"Willow", "Moss", "Larch", "Lichen"}}
	case h < 172:
		return words{"green", []string{"Fern", "Nettle", "Juniper", "Ivy"}}
	case h < 215:
		return words{"teal", []string{"Estuary", "Spruce", "Mallard", "Eddy"}}
	case h < 255:
		return words{"sky", []string{"Islet", "Brine", "Squall", "Harebell"}}
	case h < 290:
		return words{"blue", []string{"Vesper", "Larkspur", "Fjord", "Bluebell"}}
	}
	return words{"violet", []string{"Heather", "Thistle", "Sloe", "Damson"}}
}

func main() {
	r := rand.New(rand.NewPCG(20, 25))
	var inks []ink
	add := func(class string, n int, make func(i int) [3]float64) {
		var some []ink
		for i := range n {
			c := make(i + 1)
			some = append(some, ink{class, c, onUncoated(c, r)})
		}
		sort.SliceStable(some, func(a, b int) bool { // a book runs through the hues, grays last
			x, y := some[a].coated, some[b].coated
			if gx, gy := x[1] < 6, y[1] < 6; gx != gy {
				return gy
			} else if gx {
				return x[0] > y[0]
			}
			if bx, by := int(x[2]/12), int(y[2]/12); bx != by {
				return bx < by
			}
			return x[0] > y[0]
		})
		inks = append(inks, some...)
	}
	next := 0
	add("solid", 640, func(int) [3]float64 {
		// A book is of use if something lies near every color that is asked for, so the solids fill the space evenly as
		// CIEDE2000 sees it, where chroma counts less the more there is of it. The sequence is the additive recurrence of
		// the plastic number in three dimensions.
		for {
			next++
			at := func(k float64) float64 { return math.Mod(0.5+k*float64(next), 1) }
			l, x, y := 11+83*at(0.8191725133961645), 40*(2*at(0.6710436067037893)-1), 40*(2*at(0.5497004779019703)-1)
			h := math.Mod(math.Atan2(y, x)*180/math.Pi+360, 360)
			if c := (math.Exp(0.045*math.Hypot(x, y)) - 1) / 0.045; c <= reach(h, l) {
				return [3]float64{l, c, h}
			}
		}
	})
	add("pastel", 120, func(i int) [3]float64 {
		h := 360 * radical(i, 2)
		l := 82 + 11*radical(i, 3)
		return [3]float64{l, math.Max(3, (0.35+0.6*radical(i, 5))*reach(h, l)), h}
	})
	add("metallic", 80, func(i int) [3]float64 {
		return [3]float64{35 + 40*radical(i, 3), 2 + 26*radical(i, 5), 360 * radical(i, 2)}
	})
	add("fluorescent", 60, func(i int) [3]float64 {
		h := 360 * radical(i, 2)
		l, c := pigment(h)
		return [3]float64{math.Min(96, l+8+8*radical(i, 3)), c * (1.08 + 0.15*radical(i, 5)), h}
	})

	second := []string{"Arch", "Beck", "Crest", "Dell", "Edge", "Fold", "Gate", "Heath", "Inlet", "Jetty", "Knoll",
		"Ledge", "Marsh", "Notch", "Oxbow", "Patch", "Quay", "Ridge", "Spur", "Thicket", "Upland", "Vale", "Weir",
		"Yard", "Brook", "Cove", "Down", "Fen", "Glen", "Holt"}
	names := map[string]int{} // how many a family has given out
	order := map[string][]int{}
	name := func(k ink) string {
		f := family(k.coated)
		if order[f.key] == nil {
			order[f.key] = r.Perm(len(f.words) * len(second))
		}
		n := order[f.key][names[f.key]]
		names[f.key]++
		return f.words[n/len(second)] + " " + second[n%len(second)]
	}

	f, err := os.Create("quern.csv")
	if err != nil {
		panic(err)
	}
	defer f.Close()
	w := bufio.NewWriter(f)
	defer w.Flush()
	fmt.Fprintln(w, "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b")
	for i, k := range inks {
		fmt.Fprintf(w, "QN-%04d,%s,%s", i+1, name(k), k.class)
		for _, c := range [][3]float64{k.coated, k.uncoated} {
			sin, cos := math.Sincos(c[2] * math.Pi / 180)
			fmt.Fprintf(w, ",%.2f,%.2f,%.2f", c[0], c[1]*cos, c[1]*sin)
		}
		fmt.Fprintln(w)
	}
}
