package color

import "math"

// MeanLab averages readings of one patch, and gives the largest ΔE00 of a reading from that average, which says how
// well they agree. There must be at least one.
func MeanLab(readings []Lab) (mean Lab, spread float64) {
	for _, r := range readings {
		mean.L += r.L / float64(len(readings))
		mean.A += r.A / float64(len(readings))
		mean.B += r.B / float64(len(readings))
	}
	for _, r := range readings {
		spread = math.Max(spread, DeltaE00(mean, r))
	}
	return mean, spread
}

// DeltaE76 is the Euclidean distance in CIELAB (CIE 1976), for reference only.
func DeltaE76(a, b Lab) float64 {
	dl, da, db := a.L-b.L, a.A-b.A, a.B-b.B
	return math.Sqrt(dl*dl + da*da + db*db)
}

// DeltaE00 is the CIEDE2000 difference, ISO/CIE 11664-6, with kL = kC = kH = 1; 0 and up.
//
// Hues are kept as directions, not as angles: the mean hue of two colors halves the angle between them, and the cosines of its
// multiples follow from its own. So most pairs need no arctangent, and the traps that Sharma, Wu and Dalal (2005) list, the
// mean hue of a pair that straddles 0 degrees and hues of colors without chroma, don't arise; opposite hues, whose mean is
// a matter of convention, take the way by angles.
func DeltaE00(x, y Lab) float64 {
	cm := (math.Sqrt(x.A*x.A+x.B*x.B) + math.Sqrt(y.A*y.A+y.B*y.B)) / 2
	cm7 := cm * cm * cm
	cm7 *= cm7 * cm
	stretch := 1.5 - 0.5*math.Sqrt(cm7/(cm7+pow25to7))
	a1, a2 := stretch*x.A, stretch*y.A
	c1, c2 := math.Sqrt(a1*a1+x.B*x.B), math.Sqrt(a2*a2+y.B*y.B)
	var cos, sin, dH float64 // the mean hue's direction
	switch product := c1 * c2; {
	case c1 == 0 && c2 == 0:
		cos = 1
	case c1 == 0:
		cos, sin = a2/c2, y.B/c2
	case c2 == 0:
		cos, sin = a1/c1, x.B/c1
	default:
		cos, sin = a1/c1+a2/c2, x.B/c1+y.B/c2
		size := math.Sqrt(cos*cos + sin*sin)
		if size < 1e-3 {
			return byAngles(y.L-x.L, a1, x.B, a2, y.B, (x.L+y.L)/2)
		}
		cos, sin = cos/size, sin/size
		// The chord of two hues is the area they span over the cosine of half their angle, which is half that size.
		dH = (a1*y.B - a2*x.B) * 2 / (size * math.Sqrt(product))
	}
	m := weigh((x.L+y.L)/2, (c1+c2)/2, cos, sin)
	l, c, h := (y.L-x.L)/m.sl, (c2-c1)/m.sc, dH/m.sh
	return math.Sqrt(math.Max(0, l*l+c*c+h*h+m.rt*c*h))
}

// weights are those of CIEDE2000 for lightness, chroma and hue, and the turn of the ellipses in blue.
type weights struct{ sl, sc, sh, rt float64 }

// weigh computes the weights of a mean color: its L*, its chroma with a* stretched, and the direction of its hue.
func weigh(l, c, cos, sin float64) weights {
	const (
		cos30, sin30 = 0.86602540378443864676, 0.5
		cos6, sin6   = 0.99452189536827333692, 0.10452846326765347140
		cos63, sin63 = 0.45399049973954679156, 0.89100652418836786236
	)
	cos2, sin2 := 2*cos*cos-1, 2*sin*cos
	cos3, sin3 := cos*(4*cos*cos-3), sin*(3-4*sin*sin)
	cos4, sin4 := 2*cos2*cos2-1, 2*sin2*cos2
	t := 1 - 0.17*(cos*cos30+sin*sin30) + 0.24*cos2 + 0.32*(cos3*cos6-sin3*sin6) - 0.20*(cos4*cos63+sin4*sin63)
	l50 := (l - 50) * (l - 50)
	w := weights{sl: 1 + 0.015*l50/math.Sqrt(20+l50), sc: 1 + 0.045*c, sh: 1 + 0.015*c*t}
	if sin < 0.5 { // above, 125 degrees and more from 275, the turn is under 1e-11
		h := math.Atan2(sin, cos) * 180 / math.Pi
		if h < 0 {
			h += 360
		}
		q := (h - 275) / 25
		c7 := c * c * c
		c7 *= c7 * c
		w.rt = -math.Sin(math.Pi/3*math.Exp(-q*q)) * 2 * math.Sqrt(c7/(c7+pow25to7))
	}
	return w
}

// byAngles is DeltaE00 of hues that lie (almost) opposite, from a* already stretched and the mean L*.
func byAngles(dL, a1, b1, a2, b2, lm float64) float64 {
	c1, c2 := math.Hypot(a1, b1), math.Hypot(a2, b2)
	h1, h2 := hueRadians(a1, b1), hueRadians(a2, b2)
	// Opposite hues lie exactly half a turn apart; the rounding of the arctangent must not tip them over.
	const half = math.Pi + 1e-12
	dh, hm := h2-h1, h1+h2
	if dh > half {
		dh -= 2 * math.Pi
	} else if dh < -half {
		dh += 2 * math.Pi
	}
	if math.Abs(h1-h2) > half {
		if hm < 2*math.Pi {
			hm += 2 * math.Pi
		} else {
			hm -= 2 * math.Pi
		}
	}
	hm /= 2
	w := weigh(lm, (c1+c2)/2, math.Cos(hm), math.Sin(hm))
	l, c, h := dL/w.sl, (c2-c1)/w.sc, 2*math.Sqrt(c1*c2)*math.Sin(dh/2)/w.sh
	return math.Sqrt(math.Max(0, l*l+c*c+h*h+w.rt*c*h))
}

const pow25to7 = 6103515625

func hueRadians(a, b float64) float64 {
	if a == 0 && b == 0 {
		return 0
	}
	h := math.Atan2(b, a)
	if h < 0 {
		h += 2 * math.Pi
	}
	return h
}

// Word says a ΔE00 in the word that a person who is not a color scientist understands. Two colors are "identical" only
// if nothing but the rounding of the computation lies between them.
func Word(deltaE float64) string {
	switch {
	case deltaE < 1e-6:
		return "identical"
	case deltaE < 1:
		return "invisible"
	case deltaE < 2:
		return "slight"
	case deltaE < 3.5:
		return "noticeable"
	case deltaE < 5:
		return "clear"
	}
	return "different"
}
