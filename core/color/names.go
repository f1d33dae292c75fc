package color

import (
	"strings"

	"golang.org/x/image/colornames"
)

// Named returns the sRGB value of a CSS color name, in any case; the second result is false for any other word.
func Named(name string) (RGB8, bool) {
	name = strings.ToLower(name)
	if name == "rebeccapurple" { // CSS Color 4 added this one to the SVG names
		return RGB8{0x66, 0x33, 0x99}, true
	}
	c, ok := colornames.Map[name]
	return RGB8{c.R, c.G, c.B}, ok
}
