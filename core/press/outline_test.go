package press_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
	"huekeep/core/press"
)

// A press that reaches a color has it within its outline, and newsprint reaches less far than coated paper.
func TestOutlinesOfPresses(t *testing.T) {
	area := func(o color.Outline) (sum float64) {
		for i, p := range o.Plane {
			q := o.Plane[(i+1)%len(o.Plane)]
			sum += p[0]*q[1] - q[0]*p[1]
		}
		return math.Abs(sum) / 2
	}
	last := math.Inf(1)
	for _, name := range []string{"coated", "uncoated", "newsprint"} {
		c, err := press.Get(name)
		assert.NoError(t, err)
		o := c.Outline()
		assert.Less(t, area(o), last, name)
		last = area(o)
		assert.Less(t, area(o), area(color.ScreenOutline("srgb"))*1.05, name)
		for _, solid := range []color.CMYK{{C: 100}, {M: 100}, {Y: 100}} {
			lab := c.Lab(solid)
			assert.True(t, c.Reaches(lab), "%s %v", name, solid)
		}
		assert.False(t, c.Reaches(color.RGB8{G: 255}.Lab()), "no press has the green of a screen: %s", name)
	}
}
