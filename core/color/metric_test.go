package color_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
)

func TestTheMetricAgreesWithDeltaE00AroundItsPlace(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	for _, c := range []struct{ apart, within float64 }{{0.2, 0.03}, {2, 0.05}} {
		for range 5000 {
			x := color.Lab{L: r.Float64() * 100, A: r.Float64()*200 - 100, B: r.Float64()*200 - 100}
			if r.IntN(4) == 0 {
				x.A, x.B = x.A/10, x.B/10
			}
			y := color.Lab{L: x.L + (r.Float64()-0.5)*c.apart, A: x.A + (r.Float64()-0.5)*c.apart, B: x.B + (r.Float64()-0.5)*c.apart}
			m := color.MetricAt(color.Lab{L: (x.L + y.L) / 2, A: (x.A + y.A) / 2, B: (x.B + y.B) / 2})
			want := color.DeltaE00(x, y)
			if !assert.InDelta(t, want, m.DeltaE(x, y), 0.002+c.within*want, "%v %v", x, y) {
				return
			}
		}
	}
	at := color.Lab{L: 40, A: 3, B: 2}
	m := color.MetricAt(at)
	assert.Zero(t, m.DeltaE(at, at))
}
