// Package gradient computes the colors between stops, in the interpolation spaces of CSS Color 4.
package gradient

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
)

// Stop is a color at a place, 0 to 100 percent of the way.
type Stop struct {
	Color color.RGB8
	Place float64
}

// Spaces lists the interpolation spaces.
var Spaces = []string{"srgb", "srgb-linear", "lab", "oklab", "oklch"}

// At is the color at a place between stops, which stand in rising order. Before the first and behind the last stop their
// colors go on. In oklch the hue takes the shorter way, and a color without chroma takes the hue of its neighbor (CSS
// Color 4, 12.2 and 12.4). What leaves sRGB on the way is mapped.
func At(stops []Stop, space string, place float64) (color.RGB8, error) {
	if len(stops) == 0 {
		return color.RGB8{}, fmt.Errorf("a gradient has at least two stops")
	}
	if !slices.Contains(Spaces, space) {
		return color.RGB8{}, fmt.Errorf("there is no interpolation space %q; there are %s", space, strings.Join(Spaces, ", "))
	}
	if place <= stops[0].Place {
		return stops[0].Color, nil
	}
	for i := 1; i < len(stops); i++ {
		a, b := stops[i-1], stops[i]
		if place < b.Place {
			return mix(a.Color, b.Color, space, (place-a.Place)/(b.Place-a.Place)), nil
		}
	}
	return stops[len(stops)-1].Color, nil
}

func mix(a, b color.RGB8, space string, f float64) color.RGB8 { return mixed(a, b, space, f).RGB8() }

// mixed may leave sRGB.
func mixed(a, b color.RGB8, space string, f float64) color.RGB {
	lerp := func(x, y float64) float64 { return x + f*(y-x) }
	switch space {
	case "srgb":
		x, y := a.RGB(), b.RGB()
		return color.RGB{R: lerp(x.R, y.R), G: lerp(x.G, y.G), B: lerp(x.B, y.B)}
	case "srgb-linear":
		x, y := a.RGB().Linear(), b.RGB().Linear()
		return color.Linear{R: lerp(x.R, y.R), G: lerp(x.G, y.G), B: lerp(x.B, y.B)}.RGB()
	case "lab":
		x, y := a.Lab(), b.Lab()
		return color.Lab{L: lerp(x.L, y.L), A: lerp(x.A, y.A), B: lerp(x.B, y.B)}.RGB()
	case "oklab":
		x, y := a.RGB().OKLab(), b.RGB().OKLab()
		return color.OKLab{L: lerp(x.L, y.L), A: lerp(x.A, y.A), B: lerp(x.B, y.B)}.RGB()
	}
	x, y := a.RGB().OKLab().OKLCH(), b.RGB().OKLab().OKLCH()
	const gray = 1e-4
	if x.C < gray {
		x.H = y.H
	}
	if y.C < gray {
		y.H = x.H
	}
	turn := math.Mod(y.H-x.H+540, 360) - 180
	return color.OKLCH{L: lerp(x.L, y.L), C: lerp(x.C, y.C), H: x.H + f*turn}.OKLab().RGB()
}

// Steps are n colors at even places from 0 to 100 percent.
func Steps(stops []Stop, space string, n int) ([]color.RGB8, error) {
	out := make([]color.RGB8, n)
	for i := range out {
		var err error
		if out[i], err = At(stops, space, 100*float64(i)/float64(max(1, n-1))); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// CSS writes a linear gradient.
func CSS(stops []Stop, space string, angle float64) string {
	var b strings.Builder
	fmt.Fprintf(&b, "linear-gradient(%gdeg in %s", angle, space)
	for _, s := range stops {
		fmt.Fprintf(&b, ", %s %g%%", s.Color.Hex(), s.Place)
	}
	return b.String() + ")"
}
