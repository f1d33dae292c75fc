// Package color holds a color value in the spaces that brand work needs, and the distance between two of them.
//
// The hub is CIE XYZ with the D65 white for screen spaces and CIELAB with the D50 white, 2 degree observer, for print
// and for every difference. Each space has its own small file that names its source and its ranges. All functions are
// pure; none clamps silently: values outside a range stay outside until Map or RGB8 is asked for.
package color

import (
	"fmt"
	"math"
)

// RGB8 is an sRGB color with 8 bits a channel (IEC 61966-2-1), the form in which a master value is kept.
type RGB8 struct{ R, G, B uint8 }

// Hex returns the color as #RRGGBB in capitals.
func (c RGB8) Hex() string {
	const digits = "0123456789ABCDEF"
	return string([]byte{'#', digits[c.R>>4], digits[c.R&15], digits[c.G>>4], digits[c.G&15], digits[c.B>>4], digits[c.B&15]})
}

// RGB returns the channels on the scale 0 to 1, still with the sRGB transfer curve.
func (c RGB8) RGB() RGB {
	return RGB{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255}
}

// Lab returns the color in CIELAB, D50.
func (c RGB8) Lab() Lab { return c.RGB().Lab() }

// Neutral says whether the color is a pure gray, black or white.
func (c RGB8) Neutral() bool { return c.R == c.G && c.G == c.B }

// FromHex reads exactly six hexadecimal digits with or without "#"; it is for stored values, Parse is for people.
func FromHex(s string) (RGB8, error) {
	if len(s) == 7 && s[0] == '#' {
		s = s[1:]
	}
	if len(s) != 6 {
		return RGB8{}, fmt.Errorf("%q is not six hexadecimal digits", s)
	}
	var v [3]uint8
	for i := range v {
		hi, ok1 := hexDigit(s[2*i])
		lo, ok2 := hexDigit(s[2*i+1])
		if !ok1 || !ok2 {
			return RGB8{}, fmt.Errorf("%q is not six hexadecimal digits", s)
		}
		v[i] = hi<<4 | lo
	}
	return RGB8{v[0], v[1], v[2]}, nil
}

func hexDigit(b byte) (uint8, bool) {
	switch {
	case b >= '0' && b <= '9':
		return b - '0', true
	case b >= 'a' && b <= 'f':
		return b - 'a' + 10, true
	case b >= 'A' && b <= 'F':
		return b - 'A' + 10, true
	}
	return 0, false
}

// CMYK is a process build in percent of each ink, 0 to 100.
type CMYK struct{ C, M, Y, K float64 }

// Total is the ink on the paper in percent, 0 to 400.
func (c CMYK) Total() float64 { return c.C + c.M + c.Y + c.K }

// Valid says whether every ink lies between 0 and 100 percent.
func (c CMYK) Valid() bool {
	for _, v := range c.Array() {
		if !(v >= 0 && v <= 100) {
			return false
		}
	}
	return true
}

// Array returns the inks in the order C, M, Y, K.
func (c CMYK) Array() [4]float64 { return [4]float64{c.C, c.M, c.Y, c.K} }

// String returns the build as printers write it: "2 75 87 8".
func (c CMYK) String() string {
	return fmt.Sprintf("%s %s %s %s", trim(c.C), trim(c.M), trim(c.Y), trim(c.K))
}

func trim(v float64) string {
	return fmt.Sprintf("%g", math.Round(v*10)/10)
}
