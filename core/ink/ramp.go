package ink

import (
	"cmp"
	"math"
	"slices"

	"huekeep/core/color"
)

// Section is a part of a book that one looks through: neutrals, or a part of the circle of hues, from light to dark.
type Section struct {
	Name string
	Inks []Ink
}

// neutral is the C*ab under which an ink has no hue that counts.
const neutral = 9

// hues are the parts of the circle of CIELAB hues, by where each ends, in degrees.
var hues = []struct {
	name string
	end  float64
}{
	{"rose", 15}, {"red", 45}, {"orange", 72}, {"yellow", 100}, {"lime", 130}, {"green", 165}, {"teal", 205}, {"sky", 245}, {"blue", 295},
	{"violet", 325}, {"magenta", 345}, {"rose", 360},
}

// Ramp orders the inks of a class as one looks through them on coated stock: neutrals first, then the hues around their circle, each from
// light to dark. Sections without inks are left out.
func (b *Book) Ramp(class string) []Section {
	out := []Section{{Name: "neutral"}}
	for _, h := range hues[:len(hues)-1] {
		out = append(out, Section{Name: h.name})
	}
	for _, k := range b.Inks {
		if k.Class == class {
			i := slices.IndexFunc(out, func(s Section) bool { return s.Name == sectionOf(k.Coated) })
			out[i].Inks = append(out[i].Inks, k)
		}
	}
	for _, s := range out {
		slices.SortStableFunc(s.Inks, func(x, y Ink) int { return cmp.Compare(y.Coated.L, x.Coated.L) })
	}
	return slices.DeleteFunc(out, func(s Section) bool { return len(s.Inks) == 0 })
}

func sectionOf(lab color.Lab) string {
	if math.Hypot(lab.A, lab.B) < neutral {
		return "neutral"
	}
	h := math.Mod(math.Atan2(lab.B, lab.A)*180/math.Pi+360, 360)
	return hues[slices.IndexFunc(hues, func(p struct {
		name string
		end  float64
	}) bool {
		return h < p.end || p.end == 360
	})].name
}
