package press

import (
	"math"

	"huekeep/core/color"
	"huekeep/core/scale"
)

// Tint is a percent tint of a build: the same inks, each screened back in proportion.
type Tint struct {
	Percent float64
	Build   color.CMYK // in whole percents
	Lab     color.Lab  // how it looks on this press
	Screen  color.RGB8 // the screen mix that goes with it
}

// Tints makes percent tints of a build and of the screen color that it stands for. Percents lie between 0 and 100.
func (c *Condition) Tints(build color.CMYK, screen color.RGB8, percents ...float64) []Tint {
	var out []Tint
	for _, p := range percents {
		p = math.Min(100, math.Max(0, p))
		part := func(v float64) float64 { return math.Round(v * p / 100) }
		b := color.CMYK{C: part(build.C), M: part(build.M), Y: part(build.Y), K: part(build.K)}
		out = append(out, Tint{p, b, c.Lab(b), scale.Tint(screen, p)})
	}
	return out
}
