package picture

import (
	"image"
	"math"
	"slices"
	"sync"

	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/raster"
)

// Patch is one flat field of a palette chart.
type Patch struct {
	Color color.RGB8
	Box   image.Rectangle
}

// Chart recognizes a picture that shows a palette: flat patches of much the same size in rows and columns or in a line, with
// or without gaps and text. It returns them in reading order, exact where the picture is, else as the mean of what noise
// made of them; nothing if the picture is no such chart.
func Chart(img *image.NRGBA) []Patch {
	// A picture that was never compressed is one region a patch at tolerance 0, where even near colors stay apart. Noise
	// breaks regions up unless more is tolerated, and what falls out of them shows as area that nothing covers.
	g := thin(img)
	if g.w < 3 || g.h < 3 {
		return nil
	}
	flat := g.flat()
	tolerances := slices.DeleteFunc([]int{0, 3, 6, 10}, func(t int) bool { return flat[t] < leastFlat }) // no areas can cover enough
	tries := make([]trial, len(tolerances))
	var wait sync.WaitGroup
	for i := range tries {
		wait.Go(func() { tries[i] = chart(g, tolerances[i]) })
	}
	wait.Wait()
	most := 0.0
	for _, t := range tries {
		most = math.Max(most, t.covered)
	}
	for _, t := range tries {
		if t.whole && t.covered >= nearlyAll*most {
			return t.patches
		}
	}
	// A part of a picture that is a chart: what the least tolerance finds most of.
	var part []Patch
	for _, t := range tries {
		if len(t.patches) > len(part) {
			part = t.patches
		}
	}
	return part
}

// trial is what one tolerance finds, and the part of the picture that its patches and their ground cover.
type trial struct {
	patches []Patch
	whole   bool    // the picture is a chart, and not only a part of it
	covered float64 // of a whole chart
}

// region is an area of like pixels on the coarse grid.
type region struct {
	label  int32
	size   int
	box    image.Rectangle // on the grid
	color  color.RGB8
	shaded bool
	holds  int // points of the regions that lie inside it
}

func (r region) fill() float64 { return float64(r.size) / float64(r.box.Dx()*r.box.Dy()) }

func (r region) inside(o region) bool {
	return r.label != o.label && image.Pt((r.box.Min.X+r.box.Max.X)/2, (r.box.Min.Y+r.box.Max.Y)/2).In(o.box) &&
		r.box.Dx()*r.box.Dy() < o.box.Dx()*o.box.Dy()
}

const (
	gridSide    = 800 // points along the longer side that regions are grown on
	leastArea   = 0.0008
	leastSide   = 0.01
	leastFill   = 0.6
	leastCover  = 0.7
	leastHeld   = 0.12 // of its box, that a ground's patches take up; letters on a patch take less
	leastPatch  = 3
	leastBlock  = 4 // patches of a chart that is only a part of a picture
	blockFill   = 0.85
	leastFlat   = 0.15   // part of a picture that must have like neighbors
	bar         = 2.5    // times as long as wide
	nearlyAll   = 0.97   // of what the most tolerant trial covers
	smallest    = 1. / 6 // of the median patch; slivers between two blocks of a JPEG are less
	likeSize    = 0.35   // how much the sides of patches of one row or column may differ
	inLine      = 0.8    // part of the patches that must stand in a row or column with others
	shade       = 2.5    // levels between the halves of a region that is not flat
	repetitions = 3      // a color that comes back so often is a label or a frame, not a patch
)

// grid is a picture thinned out: every step-th point of every step-th row, beside one another, so that going over it several
// times stays in the processor's cache.
type grid struct {
	w, h, step int
	pix        []pixel
}

// pixel is red, green, blue and opacity.
type pixel [4]uint8

func thin(img *image.NRGBA) grid {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	step := (max(w, h) + gridSide - 1) / gridSide
	g := grid{w / step, h / step, step, nil}
	g.pix = make([]pixel, g.w*g.h)
	raster.Parallel(g.h, func(from, to int) {
		for y := from; y < to; y++ {
			row := img.Pix[(y*step+step/2)*img.Stride+4*(step/2):]
			for x := range g.w {
				g.pix[y*g.w+x] = pixel(row[4*x*step:])
			}
		}
	})
	return g
}

// flat is the part of the opaque points, in every third row, that have a neighbor which differs by at most so many levels in
// each channel.
func (g grid) flat() (out [11]float64) {
	apart := func(a, b pixel) int {
		if b[3] < 128 {
			return 255
		}
		return max(away(a[0], b[0]), away(a[1], b[1]), away(a[2], b[2]))
	}
	var counts [256]int
	opaque := 0
	var mutex sync.Mutex
	const every = 3 // rows
	raster.Parallel(g.h/every, func(from, to int) {
		var here [256]int
		for row := from; row < to; row++ {
			y := row * every
			for x := range g.w {
				i := y*g.w + x
				p := g.pix[i]
				if p[3] < 128 {
					continue
				}
				least := 255
				if x > 0 {
					least = apart(p, g.pix[i-1])
				}
				if x+1 < g.w && least > 0 {
					least = min(least, apart(p, g.pix[i+1]))
				}
				if y > 0 && least > 0 {
					least = min(least, apart(p, g.pix[i-g.w]))
				}
				if y+1 < g.h && least > 0 {
					least = min(least, apart(p, g.pix[i+g.w]))
				}
				here[least]++
			}
		}
		mutex.Lock()
		defer mutex.Unlock()
		for i, n := range here {
			counts[i] += n
			opaque += n
		}
	})
	sum := 0
	for i := range out {
		sum += counts[i]
		out[i] = float64(sum) / float64(max(1, opaque))
	}
	return out
}

func chart(g grid, tolerance int) (t trial) {
	gw, gh, step := g.w, g.h, g.step
	labels := grow(g, tolerance)
	all := float64(gw * gh)
	regions := measure(labels, gw, gh, int(leastArea*all))
	opaque := 0.0
	for _, label := range labels {
		if label >= 0 {
			opaque++
		}
	}
	regions = slices.DeleteFunc(regions, func(r region) bool {
		return float64(min(r.box.Dx(), r.box.Dy())) < leastSide*float64(max(gw, gh))
	})
	if len(regions) < leastPatch || len(regions) > 4*limits.ChartPatches {
		return t
	}
	points := 0.0
	var full []region
	for _, r := range regions {
		points += float64(r.size)
		if r.fill() >= blockFill {
			full = append(full, r)
		}
	}
	if points < leastCover*opaque && block(full, all) == nil {
		return t // whatever the colors are
	}
	for i := range regions {
		if regions[i].fill() >= leastFill {
			regions[i].look(g, labels)
		}
	}
	for i := range regions {
		for _, o := range regions {
			if o.inside(regions[i]) {
				regions[i].holds += o.size
			}
		}
	}
	covered := 0
	var patches []region
	for _, r := range regions {
		b := r.box
		switch {
		case b.Dx() == gw && b.Dy() == gh, float64(r.holds) > leastHeld*float64(b.Dx()*b.Dy()):
			covered += r.size // the ground, or a card
		case r.fill() >= leastFill && !r.shaded:
			patches = append(patches, r)
		}
	}
	// What lies inside a patch are letters and their insides.
	patches = slices.DeleteFunc(slices.Clone(patches), func(r region) bool {
		return slices.ContainsFunc(patches, r.inside)
	})
	for _, r := range patches {
		covered += r.size
	}
	patches = dropFurniture(patches, tolerance == 0)
	patches = dropBars(patches)
	if len(patches) < leastPatch || len(patches) > limits.ChartPatches {
		return t
	}
	whole := float64(covered) >= leastCover*opaque && aligned(patches)
	if !whole {
		if patches = block(patches, all); patches == nil || repeated(patches) {
			return t
		}
	}
	readingOrder(patches)
	t = trial{patches: make([]Patch, len(patches)), whole: whole}
	if whole {
		t.covered = float64(covered) / opaque
	}
	for i, p := range patches {
		t.patches[i] = Patch{p.color, image.Rect(p.box.Min.X*step, p.box.Min.Y*step, p.box.Max.X*step, p.box.Max.Y*step)}
	}
	return t
}

// grow labels the points of the grid by connected areas: a point joins its neighbor's area, and two areas become one, if
// they differ by at most the tolerance per channel, as neighbors and on the average of the areas, so that a blurred edge
// does not lead from one color to the next. Transparent points have the label -1.
func grow(g grid, tolerance int) []int32 {
	parent := make([]int32, len(g.pix))
	sums := make([][4]int32, len(g.pix)) // red, green, blue, number of points, valid for roots; a grid has under 10^6 points
	find := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	like := func(a, b pixel) bool {
		return b[3] >= 128 && away(a[0], b[0]) <= tolerance && away(a[1], b[1]) <= tolerance && away(a[2], b[2]) <= tolerance
	}
	join := func(a, b int32) int32 { // the roots of two areas; returns that of the second
		s, t := &sums[a], &sums[b]
		n, m := int64(s[3]), int64(t[3])
		most := int64(tolerance+1) * n * m
		for c := range 3 {
			if d := int64(s[c])*m - int64(t[c])*n; d >= most || -d >= most {
				return b
			}
		}
		if a > b {
			a, b, s, t = b, a, t, s
		}
		parent[b] = a
		for c := range s {
			s[c] += t[c]
		}
		return a
	}
	for y := range g.h {
		var left int32 // the root of the point before
		for x := range g.w {
			i := int32(y*g.w + x)
			p := g.pix[i]
			parent[i], sums[i] = i, [4]int32{int32(p[0]), int32(p[1]), int32(p[2]), 1}
			root := i
			if p[3] >= 128 {
				if x > 0 && like(p, g.pix[i-1]) {
					root = join(left, i)
				}
				if up := i - int32(g.w); y > 0 && like(p, g.pix[up]) {
					if above := find(up); above != root {
						root = join(above, root)
					}
				}
			}
			left = root
		}
	}
	for i, p := range g.pix {
		if parent[i] = find(int32(i)); p[3] < 128 {
			parent[i] = -1
		}
	}
	return parent
}

// measure lists the areas of at least some points.
func measure(labels []int32, gw, gh, least int) []region {
	size := make([]int32, len(labels))
	for _, label := range labels {
		if label >= 0 {
			size[label]++
		}
	}
	at := make([]int32, len(labels)) // 1 + place in out, by label
	var out []region
	for y := range gh {
		for x := range gw {
			label := labels[y*gw+x]
			if label < 0 || int(size[label]) < least {
				continue
			}
			if at[label] == 0 {
				out = append(out, region{label: label, box: image.Rect(x, y, x+1, y+1)})
				at[label] = int32(len(out))
			}
			r := &out[at[label]-1]
			r.size++
			r.box.Min.X, r.box.Max.X, r.box.Max.Y = min(r.box.Min.X, x), max(r.box.Max.X, x+1), y+1
		}
	}
	return out
}

// look finds the color of a region: the value that most of its inner points have, or else the mean of those near the
// median. It is shaded if its halves differ, as the parts of a gradient do.
func (r *region) look(g grid, labels []int32) {
	gw := g.w
	var halves [4][4]float64 // left, right, top, bottom: sums of the channels and the number of points
	counts := map[[3]uint8]int{}
	var channel [3][256]int
	n := 0
	visit := func(rim int) {
		// Regions of many points are thinned: 40,000 say enough.
		thin := 1 + r.size/40_000
		seen := 0
		for y := r.box.Min.Y + rim; y < r.box.Max.Y-rim; y++ {
			for x := r.box.Min.X + rim; x < r.box.Max.X-rim; x++ {
				i := y*gw + x
				if labels[i] != r.label || rim > 0 && (labels[i-rim] != r.label || labels[i+rim] != r.label ||
					labels[i-rim*gw] != r.label || labels[i+rim*gw] != r.label) {
					continue
				}
				if seen++; seen%thin != 0 {
					continue
				}
				p := g.pix[i]
				counts[[3]uint8{p[0], p[1], p[2]}]++
				side := [2]int{0, 2}
				if 2*x > r.box.Min.X+r.box.Max.X {
					side[0] = 1
				}
				if 2*y > r.box.Min.Y+r.box.Max.Y {
					side[1] = 3
				}
				for k := range 3 {
					channel[k][p[k]]++
					halves[side[0]][k] += float64(p[k])
					halves[side[1]][k] += float64(p[k])
				}
				halves[side[0]][3]++
				halves[side[1]][3]++
				n++
			}
		}
	}
	for rim := 3; n < 9 && rim >= 0; rim-- { // the rim may be blurred
		visit(rim)
	}
	for _, pair := range [2][2]*[4]float64{{&halves[0], &halves[1]}, {&halves[2], &halves[3]}} {
		a, b := pair[0], pair[1]
		for k := range 3 {
			if a[3] > 0 && b[3] > 0 && math.Abs(a[k]/a[3]-b[k]/b[3]) > shade {
				r.shaded = true
			}
		}
	}
	most, mostCount := [3]uint8{}, 0
	for v, c := range counts {
		if c > mostCount || c == mostCount && slices.Compare(v[:], most[:]) < 0 {
			most, mostCount = v, c
		}
	}
	if 2*mostCount >= n {
		r.color = color.RGB8{R: most[0], G: most[1], B: most[2]}
		return
	}
	var out [3]uint8
	for k := range 3 {
		middle, seen := 0, 0
		for seen = channel[k][0]; 2*seen <= n && middle < 255; seen += channel[k][middle] {
			middle++
		}
		sum, count := 0, 0
		for v := max(0, middle-6); v <= min(255, middle+6); v++ {
			sum += v * channel[k][v]
			count += channel[k][v]
		}
		out[k] = uint8(math.Round(float64(sum) / float64(max(1, count))))
	}
	r.color = color.RGB8{R: out[0], G: out[1], B: out[2]}
}

// dropFurniture takes out label boxes and frames, which repeat one color, and what is far smaller than a patch. In a picture
// without noise only the very same value is a repetition.
func dropFurniture(in []region, exact bool) []region {
	if len(in) == 0 {
		return nil
	}
	kept := slices.DeleteFunc(slices.Clone(in), func(r region) bool {
		same := 0
		for _, o := range in {
			if r.color == o.color || !exact && color.DeltaE00(r.color.Lab(), o.color.Lab()) < 0.5 {
				same++
			}
		}
		return same >= repetitions
	})
	if len(kept) == 0 {
		return nil
	}
	sizes := make([]int, len(kept))
	for i, r := range kept {
		sizes[i] = r.size
	}
	slices.Sort(sizes)
	least := smallest * float64(sizes[len(sizes)/2])
	return slices.DeleteFunc(kept, func(r region) bool { return float64(r.size) < least })
}

// beside says whether two patches share a row and their height, or a column and their width.
func beside(p, q region, unlike, overlap float64) bool {
	like := func(a, b int) bool { return math.Abs(float64(a-b)) <= unlike*float64(max(a, b)) }
	over := func(a0, a1, b0, b1 int) bool {
		return float64(min(a1, b1)-max(a0, b0)) >= overlap*float64(min(a1-a0, b1-b0))
	}
	a, b := p.box, q.box
	return like(a.Dy(), b.Dy()) && over(a.Min.Y, a.Max.Y, b.Min.Y, b.Max.Y) || like(a.Dx(), b.Dx()) &&
		over(a.Min.X, a.Max.X, b.Min.X, b.Max.X)
}

// groups parts patches into those that a chain of neighbors connects, the largest group first.
func groups(patches []region, neighbors func(p, q region) bool) (out [][]region) {
	group := make([]int, len(patches))
	for i := range group {
		group[i] = -1
	}
	for i := range patches {
		if group[i] >= 0 {
			continue
		}
		group[i] = len(out)
		open := []int{i}
		var members []region
		for len(open) > 0 {
			at := open[0]
			open = open[1:]
			members = append(members, patches[at])
			for k := range patches {
				if group[k] < 0 && neighbors(patches[at], patches[k]) {
					group[k] = len(out)
					open = append(open, k)
				}
			}
		}
		out = append(out, members)
	}
	slices.SortStableFunc(out, func(a, b []region) int { return len(b) - len(a) })
	return out
}

// dropBars takes out what frames a chart: bars for a heading, a tool row or a status, and the gray panels of a program. They
// stand in no row or column with the patches.
func dropBars(patches []region) []region {
	if len(patches) <= leastPatch {
		return patches
	}
	all := groups(patches, func(p, q region) bool { return beside(p, q, likeSize, 0.6) })
	if len(all[0]) < leastPatch {
		return patches
	}
	main := all[0]
	sizes := make([]int, len(main))
	for i, r := range main {
		sizes[i] = r.size
	}
	slices.Sort(sizes)
	middle := sizes[len(sizes)/2]
	kept := slices.Clone(main)
	for _, others := range all[1:] {
		for _, r := range others {
			long, short := max(r.box.Dx(), r.box.Dy()), min(r.box.Dx(), r.box.Dy())
			panel := r.size > 2*middle && r.color.Lab().LCh().C < 8
			if !panel && float64(long) < bar*float64(short) {
				kept = append(kept, r)
			}
		}
	}
	return kept
}

// repeated says that a color comes back.
func repeated(patches []region) bool {
	seen := map[color.RGB8]bool{}
	for _, r := range patches {
		if seen[r.color] {
			return true
		}
		seen[r.color] = true
	}
	return false
}

// block finds a chart that is a part of a picture, as a row of patches above a photo or in a window: patches of one size in strict
// rows or columns, which together are no small thing.
func block(patches []region, all float64) []region {
	if len(patches) < leastBlock {
		return nil
	}
	best := groups(patches, func(p, q region) bool {
		w, h := float64(max(p.box.Dx(), q.box.Dx())), float64(max(p.box.Dy(), q.box.Dy()))
		return math.Abs(float64(p.box.Dx()-q.box.Dx())) <= 0.1*w && math.Abs(float64(p.box.Dy()-q.box.Dy())) <= 0.1*h &&
			beside(p, q, 0.1, 0.9)
	})[0]
	if len(best) < leastBlock {
		return nil
	}
	box, area := best[0].box, 0.0
	for _, r := range best {
		box = box.Union(r.box)
		area += float64(r.size)
		if r.fill() < blockFill {
			return nil
		}
	}
	if area < 0.03*all || area < 0.3*float64(box.Dx()*box.Dy()) {
		return nil
	}
	return best
}

// aligned says whether nearly all patches share a row with others of their height, or a column with others of their width.
func aligned(patches []region) bool {
	in := 0
	for i, p := range patches {
		for k, q := range patches {
			if i != k && beside(p, q, likeSize, 0.6) {
				in++
				break
			}
		}
	}
	return float64(in) >= inLine*float64(len(patches))
}

// readingOrder sorts by rows from the top, and in a row from the left. A patch belongs to the row whose first patch
// reaches over its middle.
func readingOrder(patches []region) {
	slices.SortStableFunc(patches, func(a, b region) int { return a.box.Min.Y + a.box.Max.Y - b.box.Min.Y - b.box.Max.Y })
	for from := 0; from < len(patches); {
		to := from
		for to < len(patches) && (patches[to].box.Min.Y+patches[to].box.Max.Y)/2 < patches[from].box.Max.Y {
			to++
		}
		slices.SortStableFunc(patches[from:to], func(a, b region) int { return a.box.Min.X - b.box.Min.X })
		from = to
	}
}
