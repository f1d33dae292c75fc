package icc

import (
	"math"

	"huekeep/core/color"
)

// The black of the reference medium that the perceptual and saturation intents of version 4 relate to (ICC.1:2022, 6.3.4).
var mediumBlack = [3]float64{0.00336, 0.0034731, 0.00287}

func (p *Profile) referenceBlack(intent Intent) bool {
	return p.Major == 4 && (intent == Perceptual || intent == Saturation)
}

// darkest is the black point of a profile that colors come from, in XYZ (ISO 18619, 4.2).
func (p *Profile) darkest(intent Intent) ([3]float64, error) {
	if p.referenceBlack(intent) {
		if _, tables := p.table("A2B", intent); tables != nil || p.Space == "CMYK" {
			return mediumBlack, nil
		}
		intent = RelativeColorimetric
	}
	if p.Class == "prtr" && p.Space == "CMYK" && intent == RelativeColorimetric {
		// Full ink of all four is more than any press lays down; what the perceptual table makes of black is what it prints.
		back, err := p.FromLab(Rendering{Intent: Perceptual})
		if err != nil {
			return [3]float64{}, err
		}
		forth, err := p.bare(RelativeColorimetric, true)
		if err != nil {
			return [3]float64{}, err
		}
		var dev [maxChannels]float64
		back.Device(color.Lab{}, dev[:])
		return labToXYZ(color.Lab{L: math.Min(50, math.Max(0, forth.Lab(dev[:p.Channels()]).L))}), nil
	}
	forth, err := p.bare(intent, true)
	if err != nil {
		return [3]float64{}, err
	}
	var dev [maxChannels]float64
	if p.Space == "CMYK" {
		dev = [maxChannels]float64{1, 1, 1, 1}
	}
	l := forth.Lab(dev[:p.Channels()]).L
	if l < 0 || l > 50 {
		l = 0 // no black at all: leave the colors alone
	}
	return labToXYZ(color.Lab{L: l}), nil
}

// darkestPrinted is the black point of a profile that colors go to, in XYZ (ISO 18619, 4.3): where the curve of L* sent
// there and back bends away from the level that the darkest colors end on.
func (p *Profile) darkestPrinted(intent Intent) ([3]float64, error) {
	_, tables := p.table("B2A", intent)
	if tables == nil || p.referenceBlack(intent) {
		return p.darkest(intent)
	}
	first := color.Lab{}
	if intent == RelativeColorimetric {
		xyz, err := p.darkest(intent)
		if err != nil {
			return xyz, err
		}
		first = xyzToLab(xyz)
	}
	back, err := p.bare(intent, false)
	if err != nil {
		return [3]float64{}, err
	}
	forth, err := p.bare(RelativeColorimetric, true)
	if err != nil {
		return [3]float64{}, err
	}
	const n = 256
	var in, out [n]float64
	var dev [maxChannels]float64
	for i := range n {
		in[i] = float64(i) * 100 / (n - 1)
		back.Device(color.Lab{L: in[i], A: first.A, B: first.B}, dev[:])
		out[i] = forth.Lab(dev[:p.Channels()]).L
	}
	for i := n - 2; i > 0; i-- {
		out[i] = math.Min(out[i], out[i+1])
	}
	lowest, highest := out[0], out[n-1]
	if lowest >= highest {
		return [3]float64{}, nil
	}
	if intent == RelativeColorimetric {
		straight := true
		for i := range n {
			if in[i] > lowest+0.2*(highest-lowest) && math.Abs(in[i]-out[i]) >= 4 {
				straight = false
			}
		}
		if straight {
			return labToXYZ(first), nil
		}
	}
	from, to := 0.03, 0.25
	if intent == RelativeColorimetric {
		from, to = 0.1, 0.5
	}
	var x, y []float64
	for i := range n {
		if v := (out[i] - lowest) / (highest - lowest); v >= from && v < to {
			x, y = append(x, in[i]), append(y, v)
		}
	}
	first.L = parabolaRoot(x, y)
	return labToXYZ(first), nil
}

// parabolaRoot fits a parabola to the points by least squares and returns its larger root, held to 0 to 50; 0 if there is
// none.
func parabolaRoot(x, y []float64) float64 {
	if len(x) < 4 {
		return 0
	}
	var s [5]float64 // sums of the powers of x
	var v [3]float64
	for i := range x {
		power := 1.0
		for k := range s {
			s[k] += power
			if k < 3 {
				v[k] += power * y[i]
			}
			power *= x[i]
		}
	}
	inverse, ok := invert([3][3]float64{{s[0], s[1], s[2]}, {s[1], s[2], s[3]}, {s[2], s[3], s[4]}})
	if !ok {
		return 0
	}
	var k [3]float64
	for r := range 3 {
		k[r] = inverse[r][0]*v[0] + inverse[r][1]*v[1] + inverse[r][2]*v[2]
	}
	c, b, a := k[0], k[1], k[2]
	if math.Abs(a) < 1e-10 {
		if math.Abs(b) < 1e-10 {
			return 0
		}
		return math.Max(0, math.Min(50, -c/b))
	}
	d := b*b - 4*a*c
	if d <= 0 {
		return 0
	}
	return math.Max(0, math.Min(50, (-b+math.Sqrt(d))/(2*a)))
}
