package color

import (
	"strings"
	"sync"

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

// Name returns the CSS color name of a color; of two names for one color the American or the more telling one.
func (c RGB8) Name() (string, bool) {
	name, ok := nameOf()[c]
	return name, ok
}

var nameOf = sync.OnceValue(func() map[RGB8]string {
	names := map[RGB8]string{{0x66, 0x33, 0x99}: "rebeccapurple"}
	for _, name := range colornames.Names { // in alphabetical order: "gray" is before "grey"
		c := colornames.Map[name]
		if _, ok := names[RGB8{c.R, c.G, c.B}]; !ok && name != "aqua" && name != "fuchsia" {
			names[RGB8{c.R, c.G, c.B}] = name
		}
	}
	return names
})
