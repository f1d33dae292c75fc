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
	planned float64      // percent of black
	pull    float64      // how strongly, as the square of the ΔE00 that a percent off it weighs
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
	best, slope := s.slope(inks)
	damping := 1e-3
	for range rounds {
		if best.de < reached {
			break
		}
		next, there := s.slope(s.step(best.inks, s.metric.Parts(best.lab, s.aim), &slope, n, damping))
		if s.cost(&next, n) >= s.cost(&best, n) {
			if damping *= 20; damping > 20 {
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

// cost is the square of the distance, and of how far black is from what was planned if it moves.
func (s *search) cost(f *found, n int) float64 {
	cost := f.de * f.de
	if n == 4 {
		cost += s.pull * (f.inks[3] - s.planned) * (f.inks[3] - s.planned)
	}
	return cost
}

// best is the build with decimals that looks most like the aim. The search starts from the build that the profile gives,
// with black smoothed, and leaves black as it is if the color can be reached so. Otherwise black moves too, and other
// starts are tried: between what a table says and what the press can do lie valleys.
func (s *search) best(start color.CMYK) found {
	inks := start.Array()
	s.planned, s.pull = s.c.blacks().of(s.aim), smoothing
	if s.planned < leastBlack {
		s.planned = 0
	}
	inks[3] = s.planned
	inks = s.c.within(inks)
	s.between(s.look(inks))
	f := s.at(inks)
	if f.de < distant {
		if f = s.descend(inks, 3); f.de < near {
			return f
		}
	}
	f = s.refine(f)
	if f.de > distant && f.inks[3] > leastBlack {
		other := f.inks
		other[3] = 0
		s.between(f.lab)
		if g := s.refine(s.descend(other, 4)); color.DeltaE00(s.aim, g.lab) < color.DeltaE00(s.aim, f.lab)-gain {
			f = g
		}
	}
	return f
}

// Best is the build with decimals that looks most like a color, with a black that only grows as colors darken.
func (c *Condition) Best(target color.Lab) color.CMYK {
	s := search{c: c, aim: target}
	b := s.best(c.Exact(target)).inks
	return color.CMYK{C: b[0], M: b[1], Y: b[2], K: b[3]}
}

const (
	near       = 0.3 // ΔE00 within which a color counts as reached with the black that was planned
	distant    = 6   // ΔE00 beyond which there may be a better build in another valley
	leastBlack = 2.5 // percent of black under which there is none: a plate less to keep in register
)

// refine goes on with all four inks, and with the weights of CIEDE2000 for where the search has come to.
func (s *search) refine(f found) found {
	for range 3 {
		s.between(f.lab)
		now := s.metric.DeltaE(s.aim, f.lab)
		g := s.descend(f.inks, 4)
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

// round is the build in whole percents around one with decimals that looks most like the aim: black goes up and down to
// the next whole percent, the other inks follow it and then go up and down to theirs.
func (s *search) round(from found) found {
	_, slope := s.slope(from.inks)
	parts := s.metric.Parts(from.lab, s.aim)
	type candidate struct {
		inks [4]float64
		de   float64 // squared, as the slopes foretell it
	}
	const kept = 3
	best := [kept]candidate{}
	for i := range best {
		best[i].de = math.Inf(1)
	}
	for k := math.Floor(from.inks[3]); k <= math.Ceil(from.inks[3]); k++ {
		inks, rest := from.inks, parts
		inks[3] = k
		for i := range rest {
			rest[i] -= slope[3][i] * (k - from.inks[3])
		}
		inks = s.step(inks, rest, &slope, 3, 1e-3)
		for corner := range 8 {
			v := inks
			total, double := k, false
			for i := range 3 {
				low := math.Floor(inks[i])
				if corner>>i&1 == 1 {
					double = double || low == inks[i]
					low = math.Ceil(inks[i])
				}
				v[i] = low
				total += low
			}
			if double || total > s.c.InkLimit {
				continue
			}
			e := parts
			for i := range 4 {
				d := v[i] - from.inks[i]
				e[0] -= slope[i][0] * d
				e[1] -= slope[i][1] * d
				e[2] -= slope[i][2] * d
			}
			now := candidate{v, e[0]*e[0] + e[1]*e[1] + e[2]*e[2]}
			for i := range best {
				if now.de < best[i].de {
					now, best[i] = best[i], now
				}
			}
		}
	}
	out := found{de: math.Inf(1)}
	for _, b := range best {
		if !math.IsInf(b.de, 1) {
			if f := s.at(b.inks); f.de < out.de {
				out = f
			}
		}
	}
	return out
}

// step solves for the next build, holding inks to their bounds as it meets them.
func (s *search) step(from [4]float64, parts [3]float64, slope *slopes, n int, damping float64) [4]float64 {
	var whole [4][5]float64 // the normal equations
	for i := range n {
		for j := range i + 1 {
			v := slope[i][0]*slope[j][0] + slope[i][1]*slope[j][1] + slope[i][2]*slope[j][2]
			whole[i][j], whole[j][i] = v, v
		}
		whole[i][i] += damping
		whole[i][4] = slope[i][0]*parts[0] + slope[i][1]*parts[1] + slope[i][2]*parts[2]
	}
	if n == 4 {
		whole[3][3] += s.pull
		whole[3][4] += s.pull * (s.planned - from[3])
	}
	room := s.c.InkLimit - from[0] - from[1] - from[2] - from[3]
	var held [4]bool
	limited := false
	out := from
	for range n + 2 {
		m := whole
		for i := range n {
			if held[i] {
				m[i] = [4 + 1]float64{4: out[i] - from[i]}
				m[i][i] = 1
			} else if limited {
				for j := range n {
					m[i][j] += overweight
				}
				m[i][4] += overweight * room
			}
		}
		move := solve(&m, n)
		worst, at := 1e-9, -1
		for i := range n {
			if held[i] {
				continue
			}
			out[i] = from[i] + move[i]
			if over := max(-out[i], out[i]-100); over > worst {
				worst, at = over, i
			}
		}
		switch {
		case at >= 0:
			held[at] = true
			out[at] = 0
			if move[at] > 0 {
				out[at] = 100
			}
		case !limited && out[0]+out[1]+out[2]+out[3] > s.c.InkLimit+0.01:
			limited = true
		default:
			return s.c.within(out)
		}
	}
	for i := range out {
		out[i] = min(100, max(0, out[i]))
	}
	return s.c.within(out)
}

// overweight is the square of the ΔE00 that a percent beyond the ink limit weighs.
const overweight = 4

// smoothing is the square of the ΔE00 that a percent of black weighs off what is planned, where the planned one does not
// do: enough that neighbors in a ramp get neighboring blacks.
const smoothing = 0.01

// solve solves n linear equations, symmetric and positive, by elimination.
func solve(m *[4][5]float64, n int) (x [4]float64) {
	var inverse [4]float64
	for i := range n {
		inverse[i] = 1 / max(m[i][i], 1e-12)
		for r := i + 1; r < n; r++ {
			f := m[r][i] * inverse[i]
			if f == 0 {
				continue
			}
			for k := i + 1; k < n; k++ {
				m[r][k] -= f * m[i][k]
			}
			m[r][4] -= f * m[i][4]
		}
	}
	for i := n - 1; i >= 0; i-- {
		v := m[i][4]
		for k := i + 1; k < n; k++ {
			v -= m[i][k] * x[k]
		}
		x[i] = v * inverse[i]
	}
	return x
}

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
