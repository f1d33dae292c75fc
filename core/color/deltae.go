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
// The traps are those that Sharma, Wu and Dalal (2005) list: the mean hue of a pair that straddles 0 degrees, and
// hues of colors without chroma.
func DeltaE00(x, y Lab) float64 {
	c1, c2 := math.Hypot(x.A, x.B), math.Hypot(y.A, y.B)
	cm := (c1 + c2) / 2
	cm7 := cm * cm * cm
	cm7 *= cm7 * cm
	g := 0.5 * (1 - math.Sqrt(cm7/(cm7+pow25to7)))

	a1, a2 := (1+g)*x.A, (1+g)*y.A
	cp1, cp2 := math.Hypot(a1, x.B), math.Hypot(a2, y.B)
	h1, h2 := hueRadians(a1, x.B), hueRadians(a2, y.B)

	// Opposite hues lie exactly half a turn apart; the rounding of the arctangent must not tip them over.
	const half = math.Pi + 1e-12

	dL := y.L - x.L
	dC := cp2 - cp1
	var dh float64
	if cp1*cp2 != 0 {
		dh = h2 - h1
		if dh > half {
			dh -= 2 * math.Pi
		} else if dh < -half {
			dh += 2 * math.Pi
		}
	}
	dH := 2 * math.Sqrt(cp1*cp2) * math.Sin(dh/2)

	lm := (x.L + y.L) / 2
	cpm := (cp1 + cp2) / 2
	hm := h1 + h2
	if cp1*cp2 != 0 {
		if math.Abs(h1-h2) > half {
			if hm < 2*math.Pi {
				hm += 2 * math.Pi
			} else {
				hm -= 2 * math.Pi
			}
		}
		hm /= 2
	}

	const deg = math.Pi / 180
	t := 1 - 0.17*math.Cos(hm-30*deg) + 0.24*math.Cos(2*hm) + 0.32*math.Cos(3*hm+6*deg) - 0.20*math.Cos(4*hm-63*deg)
	q := (hm/deg - 275) / 25
	theta := 30 * deg * math.Exp(-q*q)
	cp7 := cpm * cpm * cpm
	cp7 *= cp7 * cpm
	rc := 2 * math.Sqrt(cp7/(cp7+pow25to7))
	l50 := (lm - 50) * (lm - 50)
	sl := 1 + 0.015*l50/math.Sqrt(20+l50)
	sc := 1 + 0.045*cpm
	sh := 1 + 0.015*cpm*t
	rt := -math.Sin(2*theta) * rc

	l, c, h := dL/sl, dC/sc, dH/sh
	return math.Sqrt(math.Max(0, l*l+c*c+h*h+rt*c*h))
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
