package picture

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"image"
	"math"
	"math/rand/v2"
	"slices"
	"sync"

	"huekeep/core/color"
	"huekeep/core/raster"
)

// Area is one color of a picture.
type Area struct {
	Color color.RGB8  // the value of a real pixel
	Share float64     // of the opaque area that is this color or nearest to it, 0 to 1
	At    image.Point // a pixel that has Color, inside its area
}

// sameColor is the ΔE00 under which two clusters count as one color of the picture.
const sameColor = 4

// Colors finds up to n colors of a picture, the largest area first. Fewer come back if the picture has fewer that anybody
// would call different. It is k-means++ (Arthur, Vassilvitskii 2007) in OKLab over a histogram of 5 bits a channel with
// the exact mean of each cell; the seed is fixed, so the same picture gives the same colors. Clusters under 4 ΔE00 become
// one. Pixels more than half transparent do not count. n is 1 to 64.
func Colors(img *image.NRGBA, n int) ([]Area, error) {
	if n < 1 || n > 64 {
		return nil, fmt.Errorf("%d colors were asked for; it may be 1 to 64", n)
	}
	cells := histogram(img)
	if len(cells) == 0 {
		return nil, fmt.Errorf("the picture is transparent all over")
	}
	centers := merge(cluster(cells, min(n+8, len(cells))), n)

	areas := make([]area, len(centers))
	total := 0.0
	for i := range cells {
		c := &cells[i]
		c.center = nearestCenter(centers, c.at)
		a := &areas[c.center]
		a.count += int(c.count)
		total += float64(c.count)
		if a.most == nil || c.flat > a.most.flat {
			a.most = c
		}
		if d := distance(centers[c.center].at, c.at); a.middle == nil || d < a.away {
			a.middle, a.away = c, d
		}
	}
	areas = slices.DeleteFunc(areas, func(a area) bool { return a.count == 0 })
	slices.SortStableFunc(areas, func(x, y area) int { return y.count - x.count })
	out := make([]Area, len(areas))
	for i, a := range areas {
		out[i].Share = float64(a.count) / total
	}
	represent(img, areas, out)
	return out, nil
}

// cell is one filled cell of the histogram.
type cell struct {
	bin         int
	count, flat uint32 // all pixels, and those much like their left neighbor
	at          color.OKLab
	center      int
}

// weight is what a cell counts in clustering: pixels on an edge between two flat areas are mixtures that nobody chose.
func (c *cell) weight() float64 { return float64(c.flat) + float64(c.count)/16 }

type area struct {
	count  int
	most   *cell // with the most flat pixels
	middle *cell // nearest to the center
	away   float64
}

const bins = 1 << 15

func bin(px []uint8) int { return int(px[0]>>3)<<10 | int(px[1]>>3)<<5 | int(px[2]>>3) }

// calm is how much two neighbors may differ, all channels together, for a pixel to lie within an area.
const calm = 24

func histogram(img *image.NRGBA) []cell {
	type sums struct{ count, flat, r, g, b uint32 } // under 2^32 for up to 16 million pixels of one cell and worker
	var mutex sync.Mutex
	var count, flat [bins]uint32
	var total [bins][3]uint64
	w := 4 * img.Rect.Dx()
	raster.Parallel(img.Rect.Dy(), func(from, to int) {
		part := make([]sums, bins)
		done := 0
		flush := func() {
			mutex.Lock()
			defer mutex.Unlock()
			for i, s := range part {
				if s.count > 0 {
					count[i] += s.count
					flat[i] += s.flat
					total[i][0] += uint64(s.r)
					total[i][1] += uint64(s.g)
					total[i][2] += uint64(s.b)
				}
			}
			clear(part)
		}
		for y := from; y < to; y++ {
			row := img.Pix[y*img.Stride:][:w]
			lr, lg, lb := int32(-1000), int32(0), int32(0) // the left neighbor; far off if there is none
			for i := 0; i+4 <= len(row); i += 4 {
				px := binary.LittleEndian.Uint32(row[i:])
				if px < 128<<24 {
					lr = -1000
					continue
				}
				r, g, b := int32(px&255), int32(px>>8&255), int32(px>>16&255)
				s := &part[(r>>3<<10|g>>3<<5|b>>3)&(bins-1)]
				s.count++
				s.r += uint32(r)
				s.g += uint32(g)
				s.b += uint32(b)
				if distance1(r, lr)+distance1(g, lg)+distance1(b, lb) <= calm {
					s.flat++
				}
				lr, lg, lb = r, g, b
			}
			if done += w; done > 60_000_000 {
				flush()
				done = 0
			}
		}
		flush()
	})
	var out []cell
	for i := range bins {
		if n := float64(count[i]) * 255; n > 0 {
			mean := color.RGB{R: float64(total[i][0]) / n, G: float64(total[i][1]) / n, B: float64(total[i][2]) / n}
			out = append(out, cell{bin: i, count: count[i], flat: flat[i], at: mean.OKLab()})
		}
	}
	return out
}

func distance1(a, b int32) int32 {
	d := a - b
	sign := d >> 31 // no branch: grain would mispredict it half the time
	return (d ^ sign) - sign
}

func away(a, b uint8) int {
	if a > b {
		return int(a - b)
	}
	return int(b - a)
}

// center is the middle of a cluster with the weight of its cells.
type center struct {
	at     color.OKLab
	weight float64
}

func distance(a, b color.OKLab) float64 {
	l, x, y := a.L-b.L, a.A-b.A, a.B-b.B
	return l*l + x*x + y*y
}

func nearestCenter(centers []center, at color.OKLab) int {
	best, least := 0, math.Inf(1)
	for i := range centers {
		if d := distance(centers[i].at, at); d < least {
			best, least = i, d
		}
	}
	return best
}

func cluster(cells []cell, k int) []center {
	random := rand.New(rand.NewPCG(1, 2))
	heaviest := 0
	for i := range cells {
		if cells[i].weight() > cells[heaviest].weight() {
			heaviest = i
		}
	}
	centers := []center{{at: cells[heaviest].at}}
	nearest := make([]float64, len(cells))
	for i := range nearest {
		nearest[i] = math.Inf(1)
	}
	for len(centers) < k { // each next one by its squared distance from those there are
		sum := 0.0
		for i := range cells {
			nearest[i] = math.Min(nearest[i], distance(cells[i].at, centers[len(centers)-1].at))
			sum += nearest[i] * cells[i].weight()
		}
		if sum <= 0 {
			break
		}
		aim, at := random.Float64()*sum, 0
		for i := range cells {
			if v := nearest[i] * cells[i].weight(); v > 0 {
				at = i
				if aim -= v; aim < 0 {
					break
				}
			}
		}
		centers = append(centers, center{at: cells[at].at})
	}
	for range 20 {
		next := make([]center, len(centers))
		for i := range cells {
			to, w := &next[nearestCenter(centers, cells[i].at)], cells[i].weight()
			to.at.L += w * cells[i].at.L
			to.at.A += w * cells[i].at.A
			to.at.B += w * cells[i].at.B
			to.weight += w
		}
		moved := 0.0
		for i := range next {
			if next[i].weight == 0 {
				next[i] = center{at: centers[i].at}
				continue
			}
			next[i].at.L /= next[i].weight
			next[i].at.A /= next[i].weight
			next[i].at.B /= next[i].weight
			moved = math.Max(moved, distance(next[i].at, centers[i].at))
		}
		if centers = next; moved < 1e-8 {
			break
		}
	}
	return slices.DeleteFunc(centers, func(c center) bool { return c.weight == 0 })
}

// merge joins what nobody would call two colors, then the pairs that are missed least until n are left: a small accent far
// from the others stays before a large shade of its neighbor, hence the roots of the weights.
func merge(centers []center, n int) []center {
	for {
		a, b, least := -1, -1, math.Inf(1)
		near := false
		for i := range centers {
			for k := i + 1; k < len(centers); k++ {
				x, y := centers[i], centers[k]
				de := color.DeltaE00(x.at.RGB().Lab(), y.at.RGB().Lab())
				wx, wy := math.Sqrt(x.weight), math.Sqrt(y.weight)
				cost := de * de * wx * wy / (wx + wy)
				if de < sameColor {
					cost = de - sameColor // before all others
				}
				if cost < least {
					a, b, least, near = i, k, cost, de < sameColor
				}
			}
		}
		if a < 0 || !near && len(centers) <= n {
			return centers
		}
		x, y := centers[a], centers[b]
		w := x.weight + y.weight
		mix := func(p, q float64) float64 { return (p*x.weight + q*y.weight) / w }
		heavy := center{color.OKLab{L: mix(x.at.L, y.at.L), A: mix(x.at.A, y.at.A), B: mix(x.at.B, y.at.B)}, w}
		if !near { // a foreign color must not pull the one that takes it in
			heavy.at = x.at
			if y.weight > x.weight {
				heavy.at = y.at
			}
		}
		centers[a] = heavy
		centers = slices.Delete(centers, b, b+1)
	}
}

// majority is the part of a cluster that must have one exact value for that value to stand for it.
const majority = 0.2

// rowsEnough is how many pixels are looked at for the value that stands for a color.
const rowsEnough = 1_500_000

// represent gives each area the value of a real pixel: the most frequent one if many pixels have it, as in flat artwork,
// else the one nearest to the middle of the cluster.
func represent(img *image.NRGBA, areas []area, out []Area) {
	slot := make([]int16, bins) // 1 + which of the watched cells a bin is
	var watched []*cell
	for _, a := range areas {
		for _, c := range []*cell{a.most, a.middle} {
			if slot[c.bin] == 0 {
				watched = append(watched, c)
				slot[c.bin] = int16(len(watched))
			}
		}
	}
	// Which of the 512 exact values of each watched cell occur, and how often.
	exact := make([][512]uint32, len(watched))
	low := func(px []uint8) int { return int(px[0]&7)<<6 | int(px[1]&7)<<3 | int(px[2]&7) }
	w := 4 * img.Rect.Dx()
	thin := 1 + img.Rect.Dx()*img.Rect.Dy()/rowsEnough // of a large picture, part of the rows has all that matters
	var mutex sync.Mutex
	raster.Parallel(img.Rect.Dy()/thin+1, func(from, to int) {
		part := make([][512]uint32, len(watched))
		for y := from * thin; y < min(to*thin, img.Rect.Dy()); y += thin {
			row := img.Pix[y*img.Stride:][:w]
			for i := 0; i+4 <= len(row); i += 4 {
				if px := row[i : i+4 : i+4]; px[3] >= 128 {
					if s := slot[bin(px)]; s > 0 {
						part[s-1][low(px)]++
					}
				}
			}
		}
		mutex.Lock()
		defer mutex.Unlock()
		for s := range part {
			for v, n := range part[s] {
				exact[s][v] += n
			}
		}
	})
	value := func(b, low int) color.RGB8 {
		return color.RGB8{R: uint8(b>>10<<3 | low>>6), G: uint8(b>>5&31<<3 | low>>3&7), B: uint8(b&31<<3 | low&7)}
	}
	wanted := map[color.RGB8]int{}
	for i, a := range areas {
		most := 0
		counts := &exact[slot[a.most.bin]-1]
		for v, n := range counts {
			if n > counts[most] {
				most = v
			}
		}
		out[i].Color = value(a.most.bin, most)
		if float64(counts[most])*float64(thin) < majority*float64(a.count) {
			counts, least := &exact[slot[a.middle.bin]-1], math.Inf(1)
			for v, n := range counts {
				c := value(a.middle.bin, v)
				if d := distance(c.RGB().OKLab(), a.middle.at); n > 0 && d < least {
					out[i].Color, least = c, d
				}
			}
		}
		wanted[out[i].Color] = i
	}
	locate(img, thin, wanted, out)
}

// locate finds the middle of a longest horizontal run of each wanted value, in every thin-th row; of several such runs, the
// one in the middle, so that the point stands inside the area and not on its edge.
func locate(img *image.NRGBA, thin int, wanted map[color.RGB8]int, out []Area) {
	type runs struct {
		length int
		at     []image.Point
	}
	interesting := make([]bool, bins)
	for c := range wanted {
		interesting[bin([]uint8{c.R, c.G, c.B})] = true
	}
	best := make([]runs, len(out))
	var mutex sync.Mutex
	raster.Parallel(img.Rect.Dy()/thin+1, func(from, to int) {
		mine := make([]runs, len(out))
		for y := from * thin; y < min(to*thin, img.Rect.Dy()); y += thin {
			row := img.Pix[y*img.Stride:][:4*img.Rect.Dx()]
			for i := 0; i+4 <= len(row); {
				px := row[i : i+4 : i+4]
				start := i
				i += 4
				if px[3] < 128 || !interesting[bin(px)] {
					continue
				}
				which, ok := wanted[color.RGB8{R: px[0], G: px[1], B: px[2]}]
				if !ok {
					continue
				}
				for i+4 <= len(row) && row[i] == px[0] && row[i+1] == px[1] && row[i+2] == px[2] && row[i+3] >= 128 {
					i += 4
				}
				n := (i - start) / 4
				if n > mine[which].length {
					mine[which] = runs{length: n, at: mine[which].at[:0]}
				}
				if n == mine[which].length && len(mine[which].at) < 1<<16 {
					mine[which].at = append(mine[which].at, image.Pt(start/4+n/2, y))
				}
			}
		}
		mutex.Lock()
		defer mutex.Unlock()
		for i, r := range mine {
			if r.length > best[i].length {
				best[i] = r
			} else if r.length == best[i].length {
				best[i].at = append(best[i].at, r.at...)
			}
		}
	})
	for i := range out {
		if at := best[i].at; len(at) > 0 {
			slices.SortFunc(at, func(a, b image.Point) int { return cmp.Or(a.Y-b.Y, a.X-b.X) })
			out[i].At = at[len(at)/2]
		}
	}
}
