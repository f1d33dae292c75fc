package press

import "huekeep/core/color"

// Outline is how far the press reaches, relative to its paper, within its ink limit.
func (c *Condition) Outline() color.Outline {
	var surface []color.Lab
	for _, black := range []float64{0, 50, 100} { // dark colors have their largest chroma with some black
		color.OnCube(func(v [3]float64) {
			inks := c.within([4]float64{100 * v[0], 100 * v[1], 100 * v[2], black})
			surface = append(surface, c.Lab(color.CMYK{C: inks[0], M: inks[1], Y: inks[2], K: inks[3]}))
		})
	}
	return color.OutlineOf(surface)
}

// Reaches says whether some build comes within GamutDE of a color. The search for it is made only where the profile's own build leaves it
// open.
func (c *Condition) Reaches(target color.Lab) bool {
	exact := color.DeltaE00(target, c.Lab(c.Exact(target)))
	return exact <= GamutDE || exact <= 2*GamutDE && c.Beyond(target) <= GamutDE
}
