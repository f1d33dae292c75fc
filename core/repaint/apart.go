package repaint

import (
	"fmt"
	"math"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/library"
)

// Apart is a file in gray but for one of its found colors, by its name in a plan, and the file in gray wholly: where the two differ as they are shown,
// that color stands. Colors that cannot be written stay in both. An error says that the file has no such color, or that it cannot be written.
func Apart(name string, data []byte, found string, o audit.Options) (alone, gray []byte, err error) {
	scan, err := audit.ReadWith(name, data, o)
	if err != nil {
		return nil, nil, err
	}
	report := audit.NewJudge(audit.Rules{}).Judge(name, scan)
	var rules audit.Rules
	var all Plan
	there := false
	for i, c := range report.Colors {
		rgb, err := color.FromHex(c.Hex)
		if err != nil {
			return nil, nil, err
		}
		its := key(Name(c)) == key(found)
		there = there || its
		g := audit.Pale(rgb)
		if its && max(g.R, rgb.R)-min(g.R, rgb.R) < 16 && rgb.Neutral() { // a gray that would stay itself
			g = color.RGB8{R: g.R - 48, G: g.G - 48, B: g.B - 48}
		}
		to := library.Color{Name: fmt.Sprintf("gray %d", i), RGB: g, Builds: []library.Build{{Value: color.CMYK{K: math.Round(100 - float64(g.R)/2.55)}}}}
		rules.Colors = append(rules.Colors, to)
		all.Colors = append(all.Colors, Step{From: Name(c), To: to.Name})
	}
	if !there {
		return nil, nil, fmt.Errorf("it has no color %s", found)
	}
	but := Plan{}
	for _, s := range all.Colors {
		if key(s.From) != key(found) {
			but.Colors = append(but.Colors, s)
		}
	}
	one, err := File(name, data, rules, but, o)
	if err != nil {
		return nil, nil, err
	}
	none, err := File(name, data, rules, all, o)
	if err != nil {
		return nil, nil, err
	}
	return one.Data, none.Data, nil
}
