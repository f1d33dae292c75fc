package gradient_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
	"huekeep/core/gradient"
)

func hexes(t *testing.T, list ...string) (out []color.RGB8) {
	for _, h := range list {
		c, err := color.FromHex(h)
		assert.NoError(t, err)
		out = append(out, c)
	}
	return out
}

// Of a house's colors there is something of each kind, and each keeps what its kind promises.
func TestGradientsToBeginFrom(t *testing.T) {
	colors := hexes(t, "#0E3A53", "#8FC1D4", "#E2572B", "#F2B632", "#4E7D5B", "#7A4E7E", "#C9D1D3", "#3B444B", "#F7F5F0")
	kinds := map[string]int{}
	for _, p := range gradient.Propose(colors) {
		kinds[p.Kind]++
		var stops []gradient.Stop
		for i, at := range p.At {
			stops = append(stops, gradient.Stop{Color: colors[at], Place: p.Place[i]})
		}
		least, ends := math.Inf(1), math.Inf(1)
		for _, s := range stops {
			ends = min(ends, s.Color.RGB().OKLab().OKLCH().C)
		}
		last := -1.0
		for place := 0.0; place <= 100; place += 5 {
			c, err := gradient.At(stops, p.Space, place)
			assert.NoError(t, err)
			v := c.RGB().OKLab().OKLCH()
			least = min(least, v.C)
			assert.Greater(t, v.L, last-0.02, "%v: it grows lighter", p)
			last = v.L
		}
		if p.Kind == "strong" || p.Kind == "past gray" {
			assert.Greater(t, least, ends/2, "%v: it stays colorful on the way", p)
		}
	}
	for _, kind := range []string{"quiet", "strong", "three stops", "past gray"} {
		assert.Contains(t, []int{1, 2}, kinds[kind], kind)
	}
}

func TestNoGradientsOfNothing(t *testing.T) {
	assert.Empty(t, gradient.Propose(nil))
	assert.Empty(t, gradient.Propose(hexes(t, "#808080", "#808080")))
	assert.Empty(t, gradient.Propose(hexes(t, "#FFFFFF", "#000000")))
}
