package color

import (
	"fmt"
	"strconv"
	"strings"
)

// Spectrum is how much of the light of each wavelength a surface returns.
type Spectrum struct {
	Start, Step float64   // nm: of the first value, and from one to the next
	Values      []float64 // factors: 1 is all of it
}

// MostBands is how many values a kept spectrum has at the most.
const MostBands = 101

// End is the wavelength of the last value, in nm.
func (s Spectrum) End() float64 { return s.Start + s.Step*float64(len(s.Values)-1) }

// String is the spectrum in one line, as ParseSpectrum reads it: "400 10 0.0512 0.0498".
func (s Spectrum) String() string {
	var b strings.Builder
	b.WriteString(digits(s.Start, 4) + " " + digits(s.Step, 4))
	for _, v := range s.Values {
		b.WriteString(" " + digits(v, 4))
	}
	return b.String()
}

// ParseSpectrum reads what String wrote.
func ParseSpectrum(text string) (s Spectrum, err error) {
	f := strings.Fields(text)
	if len(f) < 4 || len(f) > 2+MostBands {
		return s, fmt.Errorf("a spectrum has a first wavelength, a step and 2 to %d values", MostBands)
	}
	n := make([]float64, len(f))
	for i, word := range f {
		if n[i], err = strconv.ParseFloat(word, 64); err != nil || !(n[i] >= 0 && n[i] < 1e4) {
			return s, fmt.Errorf("%q is no number of a spectrum", word)
		}
	}
	return Spectrum{n[0], n[1], n[2:]}, nil
}
