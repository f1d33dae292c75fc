package repaint

import (
	"fmt"
	"math"
	"slices"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/pixels"
	"huekeep/core/color"
	"huekeep/core/library"
)

// Apart is a file in gray but for one of its found colors, by its name in a plan, and the file in gray wholly: where the two differ as they
// are shown, that color stands. Colors that cannot be written stay in both. An error says that the file has no such color, or that it
// cannot be written.
func Apart(name string, data []byte, found string, o kinds.Options) (alone, gray []byte, err error) {
	scan, err := kinds.ReadWith(name, data, o)
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
		g := pixels.Pale(rgb)
		if its && max(g.R, rgb.R)-min(g.R, rgb.R) < 16 && rgb.Neutral() { // a gray that would stay itself
			g = color.RGB8{R: g.R - 48, G: g.G - 48, B: g.B - 48}
		}
		to := library.Color{Name: fmt.Sprintf("gray %d", i), RGB: g,
			Builds: []library.Build{{Value: color.CMYK{K: math.Round(100 - float64(g.R)/2.55)}}}}
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

// MostCodes is how many found colors can be told apart in one coded file.
const MostCodes = 60

// codes are colors far from each other: four levels a channel, without grays, and as many builds. Each is as far as can be from those
// before it, so that of a few none lies between another and what may be around it.
var codes = func() (out []library.Color) {
	for i := range 64 {
		r, g, b := i&3, i>>2&3, i>>4&3
		if r == g && g == b {
			continue
		}
		level, ink := [4]uint8{10, 92, 174, 250}, [4]float64{0, 35, 70, 100}
		out = append(out, library.Color{Name: fmt.Sprintf("code %d", i), RGB: color.RGB8{R: level[r], G: level[g], B: level[b]},
			Builds: []library.Build{{Value: color.CMYK{C: ink[r], M: ink[g], Y: ink[b]}}}})
	}
	apart := func(a, b library.Color) int {
		r, g, b2 := int(a.RGB.R)-int(b.RGB.R), int(a.RGB.G)-int(b.RGB.G), int(a.RGB.B)-int(b.RGB.B)
		return r*r + g*g + b2*b2
	}
	first := slices.IndexFunc(out, func(c library.Color) bool { return c.RGB == color.RGB8{R: 250, G: 10, B: 250} }) // a bright one
	out[0], out[first] = out[first], out[0]
	for n := 1; n < len(out); n++ {
		best, most := n, -1
		for i := n; i < len(out); i++ {
			least := math.MaxInt
			for _, before := range out[:n] {
				least = min(least, apart(out[i], before))
			}
			if least > most {
				best, most = i, least
			}
		}
		out[n], out[best] = out[best], out[n]
	}
	return out
}()

// Coded is a file with another color, far from all others, in place of each of some found ones, by their names in a plan; and those colors
// with their builds, in the order of the names. Of over MostCodes names the rest is left as it is.
func Coded(name string, data []byte, found []string, o kinds.Options) (coded []byte, by []library.Color, err error) {
	found = found[:min(len(found), MostCodes)]
	var plan Plan
	for i, f := range found {
		plan.Colors = append(plan.Colors, Step{From: f, To: codes[i].Name})
	}
	r, err := File(name, data, audit.Rules{Colors: codes}, plan, o)
	if err != nil {
		return nil, nil, err
	}
	return r.Data, codes[:len(found)], nil
}
