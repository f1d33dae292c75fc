package press

import "math"

// program is a small quadratic program: the moves d of the four inks that make d'hd/2 - g'd least, each between its bounds and all together
// at most the room that the ink limit leaves. h is positive definite, and not to move at all is within the bounds.
type program struct {
	h         [4][4]float64
	g         [4]float64
	low, high [4]float64
	room      float64
}

// What holds an ink.
const (
	free = iota
	atLow
	atHigh
)

// solve finds the least by the primal active-set method (Nocedal and Wright, Numerical Optimization, 2nd edition, algorithm 16.3).
func (p *program) solve() (d [4]float64) {
	var held [4]int
	limited := false
	for range 24 {
		target, pressure := p.held(&d, &held, limited)
		// How far the way to it is open, and what is in the way.
		share, wall, sum, step := 1.0, -1, 0.0, 0.0
		for i := range 4 {
			t := target[i] - d[i]
			sum, step = sum+d[i], step+t
			if held[i] != free {
				continue
			}
			if end := p.low[i]; t < 0 && d[i]+share*t < end-tiny {
				share, wall = (end-d[i])/t, i
			}
			if end := p.high[i]; t > 0 && d[i]+share*t > end+tiny {
				share, wall = (end-d[i])/t, i
			}
		}
		if !limited && step > 0 && sum+share*step > p.room+tiny {
			share, wall = max(0, (p.room-sum)/step), 4
		}
		for i := range 4 {
			d[i] += share * (target[i] - d[i])
		}
		switch {
		case wall == 4:
			limited = true
			continue
		case wall >= 0:
			held[wall] = atHigh
			if target[wall] < d[wall] {
				held[wall] = atLow
			}
			continue
		}
		// It is there. What holds an ink against its will lets it go, the most pressed first.
		worst, at := tiny, -1
		if limited && pressure < -worst {
			worst, at = -pressure, 4
		}
		for i := range 4 {
			if held[i] == free {
				continue
			}
			force := p.g[i] // toward more of it
			for j := range 4 {
				force -= p.h[i][j] * d[j]
			}
			if limited {
				force -= pressure
			}
			if held[i] == atHigh {
				force = -force
			}
			if force > worst {
				worst, at = force, i
			}
		}
		switch {
		case at == 4:
			limited = false
		case at >= 0:
			held[at] = free
		default:
			return d
		}
	}
	return d
}

const tiny = 1e-9

// held is where the free inks go while the others stay, and the pressure of the limit if it is met: how much it would bring to have more
// room.
func (p *program) held(d *[4]float64, held *[4]int, limited bool) (target [4]float64, pressure float64) {
	var m [5][6]float64
	var place [5]int
	n, room := 0, p.room
	for i := range 4 {
		target[i] = d[i]
		if held[i] != free {
			room -= d[i]
			continue
		}
		place[n] = i
		n++
	}
	for r := range n {
		i := place[r]
		m[r][5] = p.g[i]
		for j := range 4 {
			if held[j] != free {
				m[r][5] -= p.h[i][j] * d[j]
			}
		}
		for c := range n {
			m[r][c] = p.h[i][place[c]]
		}
	}
	if limited && n > 0 { // Lagrange: one more unknown, the pressure
		for r := range n {
			m[r][n], m[n][r] = 1, 1
		}
		m[n][5] = room
		n++
	}
	x := eliminate(&m, n)
	for r := range n {
		if limited && r == n-1 {
			pressure = x[r]
			break
		}
		target[place[r]] = x[r]
	}
	return target, pressure
}

// eliminate solves n linear equations, whose right sides are in the last column, by elimination with the largest pivot.
func eliminate(m *[5][6]float64, n int) (x [5]float64) {
	for i := range n {
		top := i
		for r := i + 1; r < n; r++ {
			if math.Abs(m[r][i]) > math.Abs(m[top][i]) {
				top = r
			}
		}
		m[i], m[top] = m[top], m[i]
		if math.Abs(m[i][i]) < 1e-14 {
			continue
		}
		for r := i + 1; r < n; r++ {
			f := m[r][i] / m[i][i]
			if f == 0 {
				continue
			}
			for k := i; k < n; k++ {
				m[r][k] -= f * m[i][k]
			}
			m[r][5] -= f * m[i][5]
		}
	}
	for i := n - 1; i >= 0; i-- {
		v := m[i][5]
		for k := i + 1; k < n; k++ {
			v -= m[i][k] * x[k]
		}
		if math.Abs(m[i][i]) >= 1e-14 {
			x[i] = v / m[i][i]
		}
	}
	return x
}
