package press

import (
	"math"

	"huekeep/core/color"
)

// search finds builds through the forward table of a condition: what a build looks like is known exactly, while the
// backward table of a profile only guesses, coarsely, which build looks like a color.
type search struct {
	c       *Condition
	aim     color.Lab
	metric  color.Metric // around the aim and what is nearest to it so far
	frozen  [4]bool      // inks that stay as they are in the whole build
	origin  [4]float64   // the build that the profile gives, with black smoothed
	planned float64      // percent of black
	pull    float64      // how strongly, as the square of the ΔE00 that a percent off it weighs
	tie     float64      // of all inks to the origin, likewise
	tether  float64      // see tetherAt
	plate   float64      // of a percent of black off the planned one, in ΔE00
}

// found is a build with decimals, how it looks, and its distance from the aim by the metric.
type found struct {
	inks [4]float64 // percent
	lab  color.Lab
	de   float64
}

func (s *search) look(inks [4]float64) color.Lab {
	return s.c.forward.Lab([]float64{inks[0] / 100, inks[1] / 100, inks[2] / 100, inks[3] / 100})
}

func (s *search) at(inks [4]float64) found {
	lab := s.look(inks)
	return found{inks, lab, s.metric.DeltaE(s.aim, lab)}
}

// between takes the metric halfway from the aim to a look, where CIEDE2000 takes its weights.
func (s *search) between(lab color.Lab) {
	s.metric = color.MetricAt(color.Lab{L: (s.aim.L + lab.L) / 2, A: (s.aim.A + lab.A) / 2, B: (s.aim.B + lab.B) / 2})
}

const (
	reached = 0.03 // ΔE00 under which a search has arrived
	gain    = 0.01 // ΔE00 that another round must bring
	rounds  = 14   // of a search, at most
)

// slopes say how the parts of the difference change by one percent of each ink.
type slopes [4][3]float64

// slope is at, with the slopes there.
func (s *search) slope(inks [4]float64) (f found, out slopes) {
	lab, slope := s.c.forward.LabSlope([4]float64{inks[0] / 100, inks[1] / 100, inks[2] / 100, inks[3] / 100})
	for i := range slope {
		out[i] = s.metric.Parts(color.Lab{}, color.Lab{L: slope[i][0] / 100, A: slope[i][1] / 100, B: slope[i][2] / 100})
	}
	return found{inks, lab, s.metric.DeltaE(s.aim, lab)}, out
}

// descend walks from a build to the nearest one that looks most like the aim, by the method of Levenberg and Marquardt
// within 0 to 100 percent of each ink and the ink limit. It moves the first n inks: three leave black as it is.
func (s *search) descend(inks [4]float64, n int) found {
	from, slope := s.slope(inks)
	return s.down(from, slope, n)
}

// down is descend with the slopes that its first step takes.
func (s *search) down(best found, slope slopes, n int) found {
	damping := 1e-3
	for range rounds {
		if best.de < reached {
			break
		}
		next, there := s.slope(s.step(best.inks, s.metric.Parts(best.lab, s.aim), &slope, n, damping))
		if s.cost(&next, n) >= s.cost(&best, n) {
			if damping *= 10; damping > 100 {
				break
			}
			continue
		}
		more := best.de-next.de > gain
		best, slope = next, there
		if !more {
			break
		}
		damping = math.Max(damping/10, 1e-5)
	}
	return best
}

// secants are slopes from several percent on one side to as many on the other: at an edge of the table those at a point know one side of
// it, so that a search stops there.
func (s *search) secants(inks [4]float64) (out slopes) {
	for i := range inks {
		low, high := inks, inks
		low[i], high[i] = max(0, inks[i]-across), min(100, inks[i]+across)
		a, b := s.look(low), s.look(high)
		by := high[i] - low[i]
		out[i] = s.metric.Parts(color.Lab{}, color.Lab{L: (b.L - a.L) / by, A: (b.A - a.A) / by, B: (b.B - a.B) / by})
	}
	return out
}

const across = 8 // percent of each ink that secants reach to both sides

// cost is the square of the distance; if black moves, also of how far it is from what was planned, and all inks from the origin.
func (s *search) cost(f *found, n int) float64 {
	cost := f.de * f.de
	if n == 4 {
		cost += s.pull * (f.inks[3] - s.planned) * (f.inks[3] - s.planned)
		for i, v := range f.inks {
			cost += s.tie * (v - s.origin[i]) * (v - s.origin[i])
		}
	}
	return cost
}

// best is the build with decimals that looks most like the aim. The search starts from the build that the profile gives, with black
// smoothed, and leaves black as it is if the color can be reached so. Otherwise black moves too, and all inks are tied to where they
// started from: the search does not fall from one valley of what looks alike into another between neighbors of a ramp.
func (s *search) best(start color.CMYK) found {
	inks := start.Array()
	s.planned, s.pull = s.c.blacks().of(s.aim), smoothing
	if s.planned < leastBlack {
		s.planned = 0
	}
	inks[3] = s.planned
	inks = s.c.within(inks)
	s.origin = inks
	look := s.look(inks)
	s.between(look)
	missed := color.DeltaE00(s.aim, look)
	s.tether = tetherAt(s.aim, missed, missed)
	f := s.at(inks)
	if f.de < distant {
		if f = s.descend(inks, 3); f.de < near {
			return f
		}
	}
	if missed > GamutDE { // how much the tie costs is known once it was done without
		free := *s
		free.tether = tether
		s.tether = tetherAt(s.aim, missed, color.DeltaE00(s.aim, free.refine(f).lab))
	}
	return s.refine(f)
}

// Best is the build with decimals that looks most like a color, with a black that only grows as colors darken.
func (c *Condition) Best(target color.Lab) color.CMYK {
	s := search{c: c, aim: target}
	b := s.best(c.Exact(target)).inks
	return color.CMYK{C: b[0], M: b[1], Y: b[2], K: b[3]}
}

const (
	near       = 0.3 // ΔE00 within which a color counts as reached with the black that was planned
	distant    = 6   // ΔE00 beyond which the planned black alone is not tried
	leastBlack = 2.5 // percent of black under which there is none: a plate less to keep in register
)

// refine goes on with all four inks, and with the weights of CIEDE2000 for where the search has come to.
func (s *search) refine(f found) found {
	for turn := range 6 {
		s.between(f.lab)
		now := s.metric.DeltaE(s.aim, f.lab)
		s.tie = 2 * now * s.tether
		g := s.descend(f.inks, 4)
		if turn == 0 && g.de > GamutDE {
			g = s.down(g, s.secants(g.inks), 4)
		}
		if g.de >= now-gain {
			break
		}
		f = g
		if now-g.de < 10*gain || f.de < near {
			break
		}
	}
	return f
}

// whole is the build in whole percents that looks most like the aim: near the one with decimals, or near the one that the profile gives
// where that is better, and never worse than either or than black alone. Hardly any build within 3 percent of each ink looks more like it
// by over 0.1. What looks alike is taken as near to the profile's as it can be, so that neighbors in a ramp stay neighbors.
func (s *search) whole(from found, start color.CMYK) found {
	if from.de < near {
		s.plate = plate
	}
	best := s.settle(s.rounded(from.inks))
	if other := s.rounded(start.Array()); s.apart(other, best.inks) > reach {
		if g := s.exactly(other); g.de < best.de {
			if g = s.settle(other); g.de < best.de {
				best = g
			}
		}
	}
	if best.de > GamutDE {
		if k := s.c.BlackOnly(s.aim); k != nil && k.DeltaE < best.de {
			best = s.settle(k.Whole.Array())
		}
	}
	return best
}

// alike is the ΔE00 that is nobody's concern.
const alike = 0.1

// reach is by how many percent of each ink other builds are tried.
const reach = 3

// tetherAt is what the square of the percents between a build and the one that the profile gives weighs, in ΔE00: 30 percent weigh 0.2.
// Where a color cannot be printed, builds far from each other look alike; the profile's, which change little between neighbors in a ramp,
// say which. In deep shadows, where all look alike, it weighs more, unless much is lost by it: missed is by how much the profile's build
// misses the aim, and best by how much it has to be missed.
func tetherAt(aim color.Lab, missed, best float64) float64 {
	dark := min(1, max(0, (deepest+20-aim.L)/20))
	far := min(1, max(0, (best-GamutDE)/10))
	spared := func(worth float64) float64 { // 1 where nothing is lost by it
		lost := max(0, missed-best) / worth
		return 1 / (1 + lost*lost*lost*lost)
	}
	return tether * (1 + missed/20) * (1 + shadow*dark*dark*spared(worth) + outside*far*spared(worth/4))
}

const (
	tether  = 0.0002
	deepest = 10 // L* at and under which a shadow is as deep as counts
	shadow  = 14
	outside = 4
	worth   = 2.5 // ΔE00 that is too much to lose
)

// rounded is the whole build nearest to one with decimals, within the ink limit: what was rounded up the most gives way.
func (s *search) rounded(inks [4]float64) (v [4]float64) {
	total := 0.0
	for i := range v {
		v[i] = math.Round(inks[i])
		total += v[i]
	}
	for ; total > s.c.InkLimit; total-- {
		most := 0
		for i := range v {
			if v[i] > 0 && (v[most] == 0 || v[i]-inks[i] > v[most]-inks[most]) {
				most = i
			}
		}
		v[most]--
	}
	return v
}

func (s *search) apart(a, b [4]float64) (most float64) {
	for i := range a {
		most = max(most, math.Abs(a[i]-b[i]))
	}
	return most
}

// exactly is at with the ΔE00 itself.
func (s *search) exactly(inks [4]float64) found {
	lab := s.look(inks)
	return found{inks, lab, color.DeltaE00(s.aim, lab)}
}

// settle goes from a whole build to better ones nearby until there is none.
func (s *search) settle(at [4]float64) found {
	best := s.exactly(at)
	for range 6 {
		if best.de <= alike {
			break
		}
		next := s.settleOnce(best)
		if next.inks == best.inks {
			break
		}
		best = next
	}
	return best
}

// settleOnce is the best of a whole build and those within reach.
func (s *search) settleOnce(best found) found {
	cost := best.de + s.strays(best.inks)
	next, now := best, cost
	try := func(v [4]float64) {
		f := s.exactly(v)
		if c := f.de + s.strays(v); c < now-1e-9 {
			next, now = f, c
		}
	}
	for _, v := range s.promising(best) {
		try(v)
	}
	if now > cost-alike/2 { // where the table has an edge the slopes foretell only one side of it
		s.around(best.inks, try)
	}
	return next
}

// around tries the builds that have one ink or two by one level off, and one ink by more.
func (s *search) around(at [4]float64, try func(v [4]float64)) {
	total := at[0] + at[1] + at[2] + at[3]
	move := func(i int, x float64, j int, y float64) {
		v := at
		v[i] += x
		v[j] += y
		if v[i] >= 0 && v[i] <= 100 && v[j] >= 0 && v[j] <= 100 && total+x+y <= s.c.InkLimit && !s.frozen[i] && !s.frozen[j] {
			try(v)
		}
	}
	for i := range 4 {
		for x := 1.0; x <= reach; x++ {
			move(i, x, i, 0)
			move(i, -x, i, 0)
		}
		for j := range i {
			for x := -1.0; x <= 1; x += 2 {
				move(i, x, j, 1)
				move(i, x, j, -1)
			}
		}
	}
}

// strays is what a build costs for being another one than the profile's.
func (s *search) strays(v [4]float64) (sum float64) {
	for i := range v {
		sum += (v[i] - s.origin[i]) * (v[i] - s.origin[i])
	}
	return s.tether*sum + s.plate*math.Abs(v[3]-s.planned)
}

// plate is what a percent of black weighs off the planned one, in ΔE00: black only grows as colors darken, but for what is worth it.
const plate = 0.05

// tried is how many of the builds that the slopes promise are looked at.
const tried = 6

// promising lists builds within reach that cost the least as the slopes foretell it. Of the ink that changes the look the most only the two
// best levels are counted for each three levels of the others.
func (s *search) promising(from found) (out [tried][4]float64) {
	s.between(from.lab)
	_, slope := s.slope(from.inks)
	parts := s.metric.Parts(from.lab, s.aim)
	steep, size := 0, [4]float64{}
	for i := range slope {
		size[i] = slope[i][0]*slope[i][0] + slope[i][1]*slope[i][1] + slope[i][2]*slope[i][2]
		if size[i] > size[steep] {
			steep = i
		}
	}
	var order [4]int
	order[3] = steep
	n := 0
	for i := range 4 {
		if i != steep {
			order[n] = i
			n++
		}
	}
	var costs [tried]float64
	for i := range costs {
		costs[i], out[i] = math.Inf(1), from.inks
	}
	add := func(v [4]float64, e [3]float64, stray float64) {
		cost := math.Sqrt(e[0]*e[0]+e[1]*e[1]+e[2]*e[2]) + stray
		if cost >= costs[tried-1] {
			return
		}
		for i := range costs {
			if cost < costs[i] {
				cost, costs[i] = costs[i], cost
				v, out[i] = out[i], v
			}
		}
	}
	room := s.c.InkLimit - from.inks[0] - from.inks[1] - from.inks[2] - from.inks[3]
	low, high := [4]float64{}, [4]float64{}
	for i := range 4 {
		if !s.frozen[i] {
			low[i], high[i] = max(-reach, -from.inks[i]), min(reach, 100-from.inks[i])
		}
	}
	v := from.inks
	var e [3][3]float64
	var left [3]float64
	a, b, c, d := order[0], order[1], order[2], order[3]
	less := func(e [3]float64, i int, by float64) [3]float64 {
		return [3]float64{e[0] - by*slope[i][0], e[1] - by*slope[i][1], e[2] - by*slope[i][2]}
	}
	for x := low[a]; x <= high[a]; x++ {
		v[a], e[0], left[0] = from.inks[a]+x, less(parts, a, x), room-x
		for y := low[b]; y <= high[b]; y++ {
			v[b], e[1], left[1] = from.inks[b]+y, less(e[0], b, y), left[0]-y
			for z := low[c]; z <= high[c]; z++ {
				e[2], left[2] = less(e[1], c, z), left[1]-z
				most := min(high[d], left[2])
				if most < low[d] {
					continue
				}
				v[c] = from.inks[c] + z
				r := e[2]
				best := 0.0
				if size[d] > 0 {
					best = (r[0]*slope[d][0] + r[1]*slope[d][1] + r[2]*slope[d][2]) / size[d]
				}
				w := math.Floor(min(most, max(low[d], best)))
				for ; w <= most && w < best+1; w++ {
					v[d] = from.inks[d] + w
					add(v, less(r, d, w), s.strays(v))
				}
			}
		}
	}
	return out
}

// step solves for the next build: the one that comes nearest to the aim by the slopes, within 0 to 100 percent of each ink and the ink
// limit, as a quadratic program.
func (s *search) step(from [4]float64, parts [3]float64, slope *slopes, n int, damping float64) [4]float64 {
	var p program
	for i := range n {
		for j := range i + 1 {
			v := slope[i][0]*slope[j][0] + slope[i][1]*slope[j][1] + slope[i][2]*slope[j][2]
			p.h[i][j], p.h[j][i] = v, v
		}
		p.h[i][i] += damping
		p.g[i] = slope[i][0]*parts[0] + slope[i][1]*parts[1] + slope[i][2]*parts[2]
		p.low[i], p.high[i] = -from[i], 100-from[i]
	}
	if n == 4 {
		p.h[3][3] += s.pull
		p.g[3] += s.pull * (s.planned - from[3])
		for i := range 4 {
			p.h[i][i] += s.tie
			p.g[i] += s.tie * (s.origin[i] - from[i])
		}
	} else {
		p.h[3][3] = 1 // black stays
	}
	p.room = s.c.InkLimit - from[0] - from[1] - from[2] - from[3]
	move := p.solve()
	out := from
	for i := range n {
		out[i] = min(100, max(0, from[i]+move[i]))
	}
	return out
}

// smoothing is the square of the ΔE00 that a percent of black weighs off what is planned, where the planned one does not
// do: enough that neighbors in a ramp get neighboring blacks.
const smoothing = 0.01

// blacks says how much black a color gets: what the profile gives, without the waves that its table has, so that black
// only grows as colors darken.
type blacks struct {
	table [levels][sides][sides]float32
}

const (
	levels = 33 // of lightness, 0 to 100
	sides  = 17 // of a* and b*, -128 to 128
)

// smoothBlack samples the backward table.
func (c *Condition) smoothBlack() *blacks {
	b := new(blacks)
	var dev [4]float64
	for i := range sides {
		for j := range sides {
			var raw [levels]float64
			for l := range levels {
				c.backward.Device(color.Lab{L: float64(l) * 100 / (levels - 1), A: float64(i)*16 - 128, B: float64(j)*16 - 128}, dev[:])
				raw[l] = dev[3] * 100
			}
			for l, v := range falling(raw) {
				b.table[l][i][j] = float32(v)
			}
		}
	}
	return b
}

// falling is the sequence nearest to v, by least squares, that never rises: neighbors that rise are pooled to their mean.
func falling(v [levels]float64) [levels]float64 {
	var sum [levels]float64
	var count [levels]int
	n := 0
	for _, x := range v {
		sum[n], count[n] = x, 1
		n++
		for n > 1 && sum[n-1]*float64(count[n-2]) > sum[n-2]*float64(count[n-1]) {
			sum[n-2], count[n-2] = sum[n-2]+sum[n-1], count[n-2]+count[n-1]
			n--
		}
	}
	var out [levels]float64
	at := 0
	for i := range n {
		for range count[i] {
			out[at] = sum[i] / float64(count[i])
			at++
		}
	}
	return out
}

// of is the black of a color in percent.
func (b *blacks) of(lab color.Lab) float64 {
	place := func(v float64, n int) (int, float64) {
		v = math.Min(float64(n-1), math.Max(0, v))
		i := min(int(v), n-2)
		return i, v - float64(i)
	}
	l, fl := place(lab.L/100*(levels-1), levels)
	i, fi := place((lab.A+128)/16, sides)
	j, fj := place((lab.B+128)/16, sides)
	plane := func(t *[sides][sides]float32) float64 {
		near := (1-fj)*float64(t[i][j]) + fj*float64(t[i][j+1])
		far := (1-fj)*float64(t[i+1][j]) + fj*float64(t[i+1][j+1])
		return (1-fi)*near + fi*far
	}
	return (1-fl)*plane(&b.table[l]) + fl*plane(&b.table[l+1])
}
