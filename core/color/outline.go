package color

import (
	"math"
	"slices"
)

// Outline is how far a screen or a press reaches, seen from above and from the side.
type Outline struct {
	Plane [][2]float64 // a* and b* of the largest chroma for each hue, round the neutral axis
	Side  [][2]float64 // lightness and chroma: the largest chroma, at any hue, for each lightness, dark to light
}

// How finely an outline is drawn.
const (
	hueSteps   = 72
	lightSteps = 25
	sideSteps  = 40 // of the sides of the cube whose surface is looked at
)

// OutlineOf draws the outline of all that lies within a surface of which there are many points. It is seen from the neutral axis, which a
// screen and a press both have inside.
func OutlineOf(surface []Lab) Outline {
	var far [hueSteps]Lab
	var wide [lightSteps]float64
	chroma := func(l Lab) float64 { return math.Hypot(l.A, l.B) }
	for _, l := range surface {
		hue := math.Mod(math.Atan2(l.B, l.A)/(2*math.Pi)+1, 1)
		if k := int(hue*hueSteps) % hueSteps; chroma(l) > chroma(far[k]) {
			far[k] = l
		}
		k := min(lightSteps-1, max(0, int(l.L/100*lightSteps)))
		wide[k] = max(wide[k], chroma(l))
	}
	var out Outline
	for _, l := range far {
		if chroma(l) > 0 {
			out.Plane = append(out.Plane, [2]float64{l.A, l.B})
		}
	}
	dark := slices.MinFunc(surface, func(a, b Lab) int { return int(math.Copysign(1, a.L-b.L)) })
	light := slices.MaxFunc(surface, func(a, b Lab) int { return int(math.Copysign(1, a.L-b.L)) })
	out.Side = append(out.Side, [2]float64{dark.L, 0})
	for k, c := range wide {
		if l := (float64(k) + 0.5) * 100 / lightSteps; c > 0 && l > dark.L && l < light.L {
			out.Side = append(out.Side, [2]float64{l, c})
		}
	}
	out.Side = append(out.Side, [2]float64{light.L, 0})
	return out
}

// OnCube calls f for points of the surface of a unit cube, on a grid of n steps.
func OnCube(f func(v [3]float64)) {
	for side := range 3 {
		for _, at := range []float64{0, 1} {
			for i := range sideSteps + 1 {
				for k := range sideSteps + 1 {
					v := [3]float64{}
					v[side], v[(side+1)%3], v[(side+2)%3] = at, float64(i)/sideSteps, float64(k)/sideSteps
					f(v)
				}
			}
		}
	}
}

// ScreenOutline is the outline of a screen with an RGB space of CSS: "srgb", "display-p3".
func ScreenOutline(space string) Outline {
	var surface []Lab
	OnCube(func(v [3]float64) { surface = append(surface, spaces[space].rgb(v).Lab()) })
	return OutlineOf(surface)
}
