// Package work puts the colors of a set to work before anything is sent: the type and the areas of a slide, a title card, a timetable, a
// page and a sign, light and dark, with the contrast of each, and the series of a chart as weak color vision sees them.
package work

import (
	"cmp"
	"slices"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/vision"
)

// Paint is a color by its slot.
type Paint struct {
	Slot string
	Name string
	RGB  color.RGB8
}

// Part is a piece of type on something.
type Part struct {
	Key      string // "slide title"
	Type, On Paint
	Ratio    float64
	Need     float64 // by WCAG 2.2, 1.4.3 and 1.4.11
}

// Passes says whether its contrast is enough.
func (p Part) Passes() bool { return p.Ratio >= p.Need }

// Look is the set at work on its light ground or on its dark one.
type Look struct {
	Name                        string // light or dark
	Ground, Text, Panel, Strong Paint  // Panel is the second ground, Strong what is headed by color
	Parts                       []Part
}

// Weak is a pair of chart series that fall together.
type Weak struct {
	Kind   vision.Kind
	A, B   Paint
	DeltaE float64 // as seen with the deficiency
}

// Work is a set at work.
type Work struct {
	Looks  [2]Look
	Series []Paint // the accents, in the order in which charts take them
	Weak   []Weak  // the worst pair of each kind, the worst first
}

// Places of the slots in ECMA-376 order.
const (
	dk1, lt1, dk2, lt2 = 0, 1, 2, 3
	accent             = 4
	link               = 10
)

// Of puts twelve slots to work, in the order of ECMA-376: dk1, lt1, dk2, lt2, six accents and two links.
func Of(slots [12]Paint) Work {
	w := Work{Series: slots[accent : accent+6]}
	w.Looks[0] = look("light", slots[lt1], slots[dk1], slots[lt2], slots[dk2], slots)
	w.Looks[1] = look("dark", slots[dk1], slots[lt1], slots[dk2], slots[lt2], slots)
	var series []color.RGB8
	for _, p := range w.Series {
		series = append(series, p.RGB)
	}
	for _, k := range []vision.Kind{vision.Protan, vision.Deutan, vision.Tritan} {
		if pairs := vision.Confusable(series, k, 1, vision.Apart); len(pairs) > 0 {
			w.Weak = append(w.Weak, Weak{k, w.Series[pairs[0].A], w.Series[pairs[0].B], pairs[0].Simulated})
		}
	}
	slices.SortStableFunc(w.Weak, func(a, b Weak) int { return cmp.Compare(a.DeltaE, b.DeltaE) })
	return w
}

func look(name string, ground, text, panel, strong Paint, slots [12]Paint) Look {
	l := Look{Name: name, Ground: ground, Text: text, Panel: panel, Strong: strong}
	// What stands on a color is the text or the ground, whichever reads better there, as whoever makes a slide chooses it.
	on := func(under Paint) Paint {
		if contrast.Ratio(text.RGB, under.RGB) >= contrast.Ratio(ground.RGB, under.RGB) {
			return text
		}
		return ground
	}
	add := func(key string, need float64, type_, under Paint) {
		l.Parts = append(l.Parts, Part{key, type_, under, contrast.Ratio(type_.RGB, under.RGB), need})
	}
	const body, large, sign = 4.5, 3, 3
	add("slide title", large, strong, ground)
	add("slide text", body, text, ground)
	add("table head", body, on(slots[accent]), slots[accent])
	add("table row", body, text, panel)
	add("callout", body, on(slots[accent+1]), slots[accent+1])
	add("chart series", sign, slots[accent], ground)
	add("title card", large, on(strong), strong)
	add("title card line", sign, slots[accent], strong)
	add("timetable head", body, on(strong), strong)
	add("timetable row", body, text, panel)
	add("web heading", large, strong, ground)
	add("web link", body, slots[link], ground)
	add("web button", body, on(slots[accent]), slots[accent])
	add("sign", large, on(slots[accent+2]), slots[accent+2])
	return l
}

// Worst is the part that falls farthest short of its contrast, or has the least to spare where all have enough.
func (w Work) Worst() (look int, part Part) {
	first := true
	for i, l := range w.Looks {
		for _, p := range l.Parts {
			if first || p.Ratio/p.Need < part.Ratio/part.Need {
				look, part, first = i, p, false
			}
		}
	}
	return look, part
}
