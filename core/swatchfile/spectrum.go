package swatchfile

import (
	"fmt"
	"math"

	"huekeep/core/color"
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

// spectrumLab is the CIELAB (D50, 2 degree) of a reflectance spectrum: factors of 0 to 1 from a first wavelength on, one a
// step, in nm. What lies between two readings is taken in proportion, and beyond the first and last they stay (CIE 15:2018,
// 7.2.3). At least 400 to 680 nm must be there.
func spectrumLab(start, step float64, values []float64) (color.Lab, error) {
	if !(start > 0) || !(step >= 1 && step <= 20) || len(values) < 2 {
		return color.Lab{}, fmt.Errorf("its spectrum has no wavelengths that can be read")
	}
	end := start + step*float64(len(values)-1)
	if start > 400 || end < 680 {
		return color.Lab{}, fmt.Errorf("its spectrum from %g to %g nm does not reach from 400 to 680", start, end)
	}
	for _, v := range values {
		if !(v >= 0 && v <= 4) { // fluorescent inks return more than they get
			return color.Lab{}, fmt.Errorf("a reflectance of %g is none", v)
		}
	}
	var xyz, white [3]float64
	for i, power := range illuminantD50 {
		at := math.Min(float64(len(values)-1), math.Max(0, (380+10*float64(i)-start)/step))
		k := min(int(at), len(values)-2)
		r := values[k] + (at-float64(k))*(values[k+1]-values[k])
		for c := range 3 {
			xyz[c] += power * observer2[i][c] * r
			white[c] += power * observer2[i][c]
		}
	}
	// Relative to the white of the same sums, so that a perfect diffuser is L* 100 with no a* and b*.
	d50 := color.Whites["D50"]
	return color.LabD50(xyz[0]/white[0]*d50[0], xyz[1]/white[1], xyz[2]/white[2]*d50[2]), nil
}
