//go:build !js

package color

import (
	"fmt"
	"math"
)

// observer2 holds the color matching functions of the CIE 1931 standard observer (ISO/CIE 11664-1), and illuminantD50 the
// relative power of D50 (ISO/CIE 11664-2), from 380 to 780 nm every 10 nm.
var observer2 = [41][3]float64{
	{.001368, .000039, .006450}, {.004243, .000120, .020050}, {.014310, .000396, .067850}, {.043510, .001210, .207400},
	{.134380, .004000, .645600}, {.283900, .011600, 1.385600}, {.348280, .023000, 1.747060}, {.336200, .038000, 1.772110},
	{.290800, .060000, 1.669200}, {.195360, .090980, 1.287640}, {.095640, .139020, .812950}, {.032010, .208020, .465180},
	{.004900, .323000, .272000}, {.009300, .503000, .158200}, {.063270, .710000, .078250}, {.165500, .862000, .042160},
	{.290400, .954000, .020300}, {.433450, .994950, .008750}, {.594500, .995000, .003900}, {.762100, .952000, .002100},
	{.916300, .870000, .001650}, {1.026300, .757000, .001100}, {1.062200, .631000, .000800}, {1.002600, .503000, .000340},
	{.854450, .381000, .000190}, {.642400, .265000, .000050}, {.447900, .175000, .000020}, {.283500, .107000, 0},
	{.164900, .061000, 0}, {.087400, .032000, 0}, {.046770, .017000, 0}, {.022700, .008210, 0}, {.011359, .004102, 0},
	{.005790, .002091, 0}, {.002899, .001047, 0}, {.001440, .000520, 0}, {.000690, .000249, 0}, {.000332, .000120, 0},
	{.000166, .000060, 0}, {.000083, .000030, 0}, {.000042, .000015, 0},
}

var illuminantD50 = [41]float64{24.49, 29.87, 49.31, 56.51, 60.03, 57.82, 74.82, 87.25, 90.61, 91.37, 95.11, 91.96, 95.72, 96.61, 97.13,
	102.10, 100.75, 102.32, 100, 97.74, 98.92, 93.50, 97.69, 99.27, 99.04, 95.72, 98.86, 95.67, 98.19, 103, 99.13, 87.38, 91.60,
	92.89, 76.85, 86.51, 92.58, 78.23, 57.69, 82.92, 78.27}

// Lab is how a surface of the spectrum looks: CIELAB (D50, 2 degree). What lies between two values is taken in proportion, and beyond the
// first and last they stay (CIE 15:2018, 7.2.3). At least 400 to 680 nm must be there.
func (s Spectrum) Lab() (Lab, error) {
	if err := s.check(); err != nil {
		return Lab{}, err
	}
	var xyz, white [3]float64
	for i, power := range illuminantD50 {
		r := s.at(380 + 10*float64(i))
		for c := range 3 {
			xyz[c] += power * observer2[i][c] * r
			white[c] += power * observer2[i][c]
		}
	}
	// Relative to the white of the same sums, so that a perfect diffuser is L* 100 with no a* and b*.
	d50 := Whites["D50"]
	return LabD50(xyz[0]/white[0]*d50[0], xyz[1]/white[1], xyz[2]/white[2]*d50[2]), nil
}

// SameSpectrum is how far a spectrum may look from the CIELAB that was read with it and count as that, ΔE00: instruments and programs
// differ by their tables.
const SameSpectrum = 1

// check says, as an error, what is wrong with a spectrum.
func (s Spectrum) check() error {
	if !(s.Start > 0) || !(s.Step >= 1 && s.Step <= 20) || len(s.Values) < 2 {
		return fmt.Errorf("its spectrum has no wavelengths that can be read")
	}
	if end := s.End(); s.Start > 400 || end < 680 {
		return fmt.Errorf("its spectrum from %g to %g nm does not reach from 400 to 680", s.Start, end)
	}
	for _, v := range s.Values {
		if !(v >= 0 && v <= 4) { // fluorescent inks return more than they get
			return fmt.Errorf("a reflectance of %g is none", v)
		}
	}
	return nil
}

// at is the value at a wavelength.
func (s Spectrum) at(nm float64) float64 {
	place := math.Min(float64(len(s.Values)-1), math.Max(0, (nm-s.Start)/s.Step))
	k := min(int(place), len(s.Values)-2)
	return s.Values[k] + (place-float64(k))*(s.Values[k+1]-s.Values[k])
}

// Kept is the spectrum as it is kept: its values with four decimals, and of more than MostBands those at every 10 nm, each the mean of what
// lies within 5 nm of it. thinned says whether it had more.
func (s Spectrum) Kept() (kept Spectrum, thinned bool) {
	kept = Spectrum{s.Start, s.Step, nil}
	if len(s.Values) > MostBands {
		thinned = true
		kept.Start, kept.Step = 10*math.Ceil(s.Start/10), 10
		for nm := kept.Start; nm <= s.End() && len(kept.Values) < MostBands; nm += 10 {
			sum, n := 0.0, 0
			for at := max(s.Start, nm-5); at <= min(s.End(), nm+5); at += s.Step {
				sum, n = sum+s.at(at), n+1
			}
			kept.Values = append(kept.Values, sum/float64(n))
		}
	} else {
		kept.Values = append(kept.Values, s.Values...)
	}
	for i, v := range kept.Values {
		kept.Values[i] = math.Round(v*1e4) / 1e4
	}
	return kept, thinned
}
