package manual

import (
	"cmp"
	"math"
	"slices"

	"huekeep/core/color"
	"huekeep/core/pdfpage"
)

// side is where a swatch lies, as seen from the values of its color.
type side int

const (
	around side = iota
	above
	left
	below
	after
	sides
)

// reach is how far from its values a swatch lies at the most, in points.
const reach = 90

// gapTo is on which side of a text an area lies and how far away; false if on none.
func gapTo(text, area pdfpage.Box) (side, float64, bool) {
	w, h := text.Overlap(area)
	switch {
	case w > 0.5*text.Width() && h > 0.5*text.Height():
		return around, 0, true
	case w > 0.3*min(text.Width(), area.Width()) && h <= 2:
		if area.Y1 <= text.Y0+2 {
			return above, text.Y0 - area.Y1, true
		}
		return below, area.Y0 - text.Y1, true
	case h > 0.3*min(text.Height(), area.Height()) && w <= 2:
		if area.X1 <= text.X0+2 {
			return left, text.X0 - area.X1, true
		}
		return after, area.X0 - text.X1, true
	}
	return around, 0, false
}

// swatches gives each color the area that shows it. A page has them all on one side of their values: the side on which most are, and agree.
func (p *Page) swatches(found []*Color) {
	var areas []pdfpage.Area
	for _, a := range p.Areas {
		if paper := a.RGB == (color.RGB8{R: 255, G: 255, B: 255}); !paper && a.Height() > 6 && a.Width() > 6 {
			areas = append(areas, a)
		}
	}
	type match struct {
		of   *Color
		area int
		d    float64
	}
	var by [sides][]match
	for _, c := range found {
		for i, a := range areas {
			if s, d, ok := gapTo(c.text, a.Box); ok && d < reach {
				if s == around { // the smallest one counts
					d = a.Width() * a.Height() / (p.Width * p.Height)
				}
				if v, shown := c.Screen(); shown && steps(v.RGB8(), a.RGB) <= 1 { // and not a tint that stands nearer
					d -= 2 * reach
				}
				by[s] = append(by[s], match{c, i, d})
			}
		}
	}
	best, most := sides, 0.0
	var chosen []match
	for s := range sides {
		slices.SortStableFunc(by[s], func(a, b match) int { return cmp.Compare(a.d, b.d) })
		taken, has := map[int]bool{}, map[*Color]bool{}
		var list []match
		points := 0.0
		for _, m := range by[s] {
			if taken[m.area] && s != around || has[m.of] {
				continue
			}
			taken[m.area], has[m.of] = true, true
			list = append(list, m)
			points += 0.2 - min(max(m.d, 0), reach)/reach*0.1
			if m.of.shownBy(areas[m.area].RGB) {
				points++
			}
		}
		if points > most {
			best, most, chosen = s, points, list
		}
	}
	if best == sides {
		return
	}
	grounds := map[int]int{}
	for _, m := range chosen {
		grounds[m.area]++
	}
	for _, m := range chosen {
		a := areas[m.area]
		if best == around && grounds[m.area] > 1 { // the ground of several is the swatch of none
			continue
		}
		m.of.Swatch = &pdfpage.Area{Box: a.Box, RGB: a.RGB}
	}
}

// shownBy says whether an area could show the color, roughly: this tells on which side the swatches are, not whether they are right.
func (c *Color) shownBy(rgb color.RGB8) bool {
	for _, v := range c.Values {
		if v.screen() && color.DeltaE00(v.RGB.Lab(), rgb.Lab()) < 12 {
			return true
		}
	}
	if v, ok := c.Value("cmyk"); ok {
		plain := func(ink float64) uint8 { return uint8(math.Round(255 * (1 - ink/100) * (1 - v.CMYK.K/100))) }
		return color.DeltaE00(color.RGB8{R: plain(v.CMYK.C), G: plain(v.CMYK.M), B: plain(v.CMYK.Y)}.Lab(), rgb.Lab()) < 25
	}
	return false
}
