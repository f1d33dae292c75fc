// Package scale makes lighter and darker companions of a color.
package scale

import (
	"math"

	"huekeep/core/color"
)

// Step is one color of a step scale.
type Step struct {
	Name   int // 50, 100 to 900, 950
	Color  color.RGB8
	Master bool // the color that the scale was made from, unchanged
}

// names and lightness of the steps: OKLCH lightness falls evenly but for the ends, which leave room for grounds and text.
var steps = []struct {
	name int
	l    float64
}{{50, 0.975}, {100, 0.94}, {200, 0.885}, {300, 0.81}, {400, 0.72}, {500, 0.63}, {600, 0.54}, {700, 0.455}, {800, 0.375}, {900, 0.30}, {950,
	0.22}}

// Steps makes the scale 50, 100 to 900, 950. The hue is held; the chroma runs through the master's, eased at the light and dark
// ends, as far as sRGB has it; the master sits unchanged on the step nearest in lightness, and the other steps are spread
// evenly toward the ends, so that lightness falls strictly from step to step.
func Steps(master color.RGB8) []Step {
	m := master.RGB().OKLab().OKLCH()
	at := 0
	for i, s := range steps {
		if math.Abs(s.l-m.L) < math.Abs(steps[at].l-m.L) {
			at = i
		}
	}
	out := make([]Step, len(steps))
	for i, s := range steps {
		out[i] = Step{Name: s.name, Color: master, Master: i == at}
		if i == at {
			continue
		}
		// The curve is bent to pass through the master: each side is stretched between the master and its end.
		var l float64
		if i < at {
			l = stretch(s.l, steps[at].l, m.L, max(steps[0].l, m.L+0.004*float64(at)))
		} else {
			l = stretch(s.l, steps[at].l, m.L, min(steps[len(steps)-1].l, m.L-0.004*float64(len(steps)-1-at)))
		}
		// A vivid light master, as a yellow, has its chroma where others are eased already: its row follows it.
		out[i].Color = color.OKLCH{L: l, C: m.C * math.Min(mostGain, ease(l)/ease(m.L)), H: m.H}.Held8()
	}
	return out
}

// mostGain is how much more chroma than its master a step may have.
const mostGain = 1.3

// stretch maps the span from its pivot to its end linearly so that pivot becomes through and the end becomes end.
func stretch(l, pivot, through, end float64) float64 {
	last := steps[0].l
	if l < pivot {
		last = steps[len(steps)-1].l
	}
	if last == pivot {
		return through
	}
	return through + (l-pivot)/(last-pivot)*(end-through)
}

// ease lets chroma go toward white and, less, toward black, where eyes see little of it anyway.
func ease(l float64) float64 {
	switch {
	case l > 0.8:
		return 1 - 0.75*(l-0.8)/0.2
	case l < 0.4:
		return 1 - 0.45*(0.4-l)/0.4
	}
	return 1
}

// Tint is the screen mix that goes with a percent tint in print: percent of the way from white to the color in CIELAB,
// which is where a press held to spot color tone values (ISO 20654) prints it, and a process tint within 2 to 3 ΔE00 (a
// mix in linear light is 8 off). percent is 0 to 100.
func Tint(c color.RGB8, percent float64) color.RGB8 { return mix(c, color.Lab{L: 100}, percent) }

// Shade is percent of the way from black to the color in CIELAB. percent is 0 to 100.
func Shade(c color.RGB8, percent float64) color.RGB8 { return mix(c, color.Lab{}, percent) }

// Tone is percent of the way to the color in CIELAB from the gray of the same lightness: it loses chroma and keeps its
// contrast. percent is 0 to 100.
func Tone(c color.RGB8, percent float64) color.RGB8 {
	return mix(c, color.Lab{L: c.Lab().L}, percent)
}

// Sheer is what a color shows that lies over another one with an opacity of percent, 0 to 100: simple alpha compositing,
// cs·αs + cb·(1-αs), of the values of sRGB as they are written (Compositing and Blending 1, 5.1), as browsers, office and video
// applications do it.
func Sheer(c, over color.RGB8, percent float64) color.RGB8 {
	f := math.Min(100, math.Max(0, percent)) / 100
	at := func(of, below uint8) uint8 { return uint8(math.Round(f*float64(of) + (1-f)*float64(below))) }
	return color.RGB8{R: at(c.R, over.R), G: at(c.G, over.G), B: at(c.B, over.B)}
}

func mix(c color.RGB8, from color.Lab, percent float64) color.RGB8 {
	f := math.Min(100, math.Max(0, percent)) / 100
	to := c.Lab()
	return color.Lab{L: from.L + f*(to.L-from.L), A: from.A + f*(to.A-from.A), B: from.B + f*(to.B-from.B)}.RGB().RGB8()
}
