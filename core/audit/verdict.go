package audit

import (
	"fmt"
	"slices"
	"strings"
)

// Verdict is what is said of a found color.
type Verdict string

// The verdicts.
const (
	OnBrand  Verdict = "on-brand"
	Drifted  Verdict = "drifted"
	OffBrand Verdict = "off-brand"
	Retired  Verdict = "retired"
	Excused  Verdict = "excused"
	Unjudged Verdict = "unjudged"
)

// Sort is one row of the table of verdicts: all that the program and its pages know of one. The contract lists their words too.
type Sort struct {
	Word  Verdict `json:"word"`
	Means string  `json:"means"` // of a found color, in a few words
	Fine  bool    `json:"fine"`  // nothing is to be decided: it counts as good in a score, and no build fails for it
	Known bool    `json:"known"` // it counts in a score at all
	Level string  `json:"level"` // as SARIF 2.1.0 has it
	Shape Shape   `json:"shape"`
}

// Shape is how a verdict is drawn, always in the color of the text: in a square from 0 to 16, whose outline at 1 to 15 all have, and in a
// bar. Look for what cannot be taken for another one at 12 pixels.
type Shape struct {
	Fill string `json:"fill"` // a path of SVG that is filled
	Line string `json:"line"` // one that is drawn
	Tile string `json:"tile"` // what repeats in a bar: a background of CSS, where "ink" is the color of the text
}

// sorts is the table, those first that want a decision.
var sorts = []Sort{
	{Drifted, "not the brand value, but so close that it was surely meant", false, true, "warning",
		Shape{"M1 15L15 1H1Z", "", "linear-gradient(135deg, transparent 50%, ink 50%) 0 0 / 14px 14px"}},
	{Retired, "a color that was replaced, or close to one", false, true, "error",
		Shape{"", "M1 1l14 14M15 1L1 15", "linear-gradient(45deg, transparent 46%, ink 46% 54%, transparent 54%) 0 0 / 14px 14px, " +
			"linear-gradient(135deg, transparent 46%, ink 46% 54%, transparent 54%) 0 0 / 14px 14px"}},
	{OffBrand, "none of the library's", false, true, "error", Shape{}},
	{Unjudged, "may be a color, and what it is cannot be told", false, false, "note",
		Shape{dots(4.5, 8, 11.5), "", "radial-gradient(circle, ink 1px, transparent 1.5px) 0 0 / 5px 5px"}},
	{Excused, "differs on purpose, for a reason that is on record", true, true, "note",
		Shape{dot(8, 8, 2.5), "", "radial-gradient(circle, ink 2.5px, transparent 3px) 0 0 / 14px 14px"}},
	{OnBrand, "exactly a library color", true, true, "none", Shape{"M1 1H15V15H1Z", "", "ink"}},
}

// Sorts is the table of verdicts, those first that want a decision.
func Sorts() []Sort { return slices.Clone(sorts) }

// Verdicts lists every verdict, those that want a decision first.
var Verdicts = func() (out []Verdict) {
	for _, s := range sorts {
		out = append(out, s.Word)
	}
	return out
}()

// Sort is the row of a verdict; of a word that is none, an empty one.
func (v Verdict) Sort() Sort {
	for _, s := range sorts {
		if s.Word == v {
			return s
		}
	}
	return Sort{Word: v}
}

// Fine says whether nothing is to be decided of what has the verdict.
func (v Verdict) Fine() bool { return v.Sort().Fine }

// dot is a disk as a path.
func dot(x, y, r float64) string {
	return fmt.Sprintf("M%g %ga%g %g 0 1 0 %g 0a%g %g 0 1 0 %g 0Z", x-r, y, r, r, 2*r, r, r, -2*r)
}

// dots are small ones in rows and columns.
func dots(at ...float64) string {
	var b strings.Builder
	for _, y := range at {
		for _, x := range at {
			b.WriteString(dot(x, y, 1))
		}
	}
	return b.String()
}
