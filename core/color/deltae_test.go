package color_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

// textbook is CIEDE2000 step by step as Sharma, Wu and Dalal (2005) write it, with angles in degrees.
func textbook(x, y color.Lab) float64 {
	rad := func(d float64) float64 { return d * math.Pi / 180 }
	hue := func(a, b float64) float64 {
		if a == 0 && b == 0 {
			return 0
		}
		return math.Mod(math.Atan2(b, a)*180/math.Pi+360, 360)
	}
	cm := (math.Hypot(x.A, x.B) + math.Hypot(y.A, y.B)) / 2
	g := 0.5 * (1 - math.Sqrt(math.Pow(cm, 7)/(math.Pow(cm, 7)+math.Pow(25, 7))))
	a1, a2 := (1+g)*x.A, (1+g)*y.A
	c1, c2 := math.Hypot(a1, x.B), math.Hypot(a2, y.B)
	h1, h2 := hue(a1, x.B), hue(a2, y.B)
	dh := 0.0
	if c1*c2 != 0 {
		switch dh = h2 - h1; {
		case dh > 180:
			dh -= 360
		case dh < -180:
			dh += 360
		}
	}
	dL, dC, dH := y.L-x.L, c2-c1, 2*math.Sqrt(c1*c2)*math.Sin(rad(dh/2))
	lm, cpm, hm := (x.L+y.L)/2, (c1+c2)/2, h1+h2
	if c1*c2 != 0 {
		switch {
		case math.Abs(h1-h2) <= 180:
			hm /= 2
		case hm < 360:
			hm = (hm + 360) / 2
		default:
			hm = (hm - 360) / 2
		}
	}
	t := 1 - 0.17*math.Cos(rad(hm-30)) + 0.24*math.Cos(rad(2*hm)) + 0.32*math.Cos(rad(3*hm+6)) - 0.20*math.Cos(rad(4*hm-63))
	theta := 30 * math.Exp(-math.Pow((hm-275)/25, 2))
	rc := 2 * math.Sqrt(math.Pow(cpm, 7)/(math.Pow(cpm, 7)+math.Pow(25, 7)))
	sl := 1 + 0.015*math.Pow(lm-50, 2)/math.Sqrt(20+math.Pow(lm-50, 2))
	sc, sh := 1+0.045*cpm, 1+0.015*cpm*t
	rt := -math.Sin(rad(2*theta)) * rc
	return math.Sqrt(math.Pow(dL/sl, 2) + math.Pow(dC/sc, 2) + math.Pow(dH/sh, 2) + rt*dC/sc*dH/sh)
}

func TestDeltaE00IsTheTextbooksWithoutItsAngles(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 7))
	value := func(span float64) float64 {
		v := (r.Float64()*2 - 1) * span
		if r.IntN(8) == 0 {
			return math.Round(v) // axes and grays as well
		}
		return v
	}
	for range 200_000 {
		span := []float64{1, 20, 120}[r.IntN(3)]
		x := color.Lab{L: 50 + value(50), A: value(span), B: value(span)}
		y := color.Lab{L: 50 + value(50), A: value(span), B: value(span)}
		if r.IntN(4) == 0 {
			y = color.Lab{L: x.L + value(1), A: x.A + value(0.1), B: x.B + value(0.1)}
		}
		require.InDelta(t, textbook(x, y), color.DeltaE00(x, y), 1e-8, "%v %v", x, y)
	}
}

func BenchmarkDeltaE00(b *testing.B) {
	r := rand.New(rand.NewPCG(2, 7))
	labs := make([]color.Lab, 1024)
	for i := range labs {
		labs[i] = color.Lab{L: r.Float64() * 100, A: r.Float64()*160 - 80, B: r.Float64()*160 - 80}
	}
	i, sum := 0, 0.0
	for b.Loop() {
		sum += color.DeltaE00(labs[i&1023], labs[(i+1)&1023])
		i++
	}
	_ = sum
}
