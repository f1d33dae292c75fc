package audit

import (
	"fmt"
	"strings"

	"huekeep/core/color"
	"huekeep/core/opc"
)

// variant is what office programs and see-through layers make of a color.
type variant struct {
	said, cause string // "Buoy, 40 % lighter as a theme's menu makes it"
}

// mostVaried is of how many colors variants are worked out: of very many, one would be met by chance.
const mostVaried = 500

// lighter and darker are the variants that menus of theme colors offer: luminance as HSL, multiplied and moved (ECMA-376 part 1,
// 20.1.2.3.20 and 21).
var lighter, darker = []int{80, 60, 40, 90, 75, 50, 35, 25, 15, 10, 5}, []int{25, 50, 75, 90, 10, 5, 15, 35}

// variantOf finds what a color is a variant of; what comes first in the library wins, and a menu's variant over a layer.
func (j *Judge) variantOf(rgb color.RGB8) (variant, bool) {
	if j.variants == nil {
		j.variants = map[color.RGB8]variant{}
		if len(j.colors) <= mostVaried {
			j.vary()
		}
	}
	v, ok := j.variants[rgb]
	return v, ok
}

func (j *Judge) vary() {
	put := func(rgb color.RGB8, v variant) {
		if _, there := j.exact[rgb]; there {
			return
		}
		if _, there := j.variants[rgb]; !there {
			j.variants[rgb] = v
		}
	}
	for _, c := range j.colors {
		if c.Retired() {
			continue
		}
		theme := func(said string, mods ...opc.Transform) {
			value := opc.Color{Kind: "srgbClr", Value: strings.TrimPrefix(c.RGB.Hex(), "#"), Mods: mods}
			if rgb, ok := value.RGB(nil); ok {
				put(rgb, variant{fmt.Sprintf("%s, %s as a theme's menu makes it", c.Name, said),
					"lighter or darker as a theme's menu makes it"})
			}
		}
		for _, p := range lighter {
			v := float64(p) / 100
			theme(fmt.Sprintf("%d %% lighter", p), opc.Transform{Name: "lumMod", Value: 1 - v}, opc.Transform{Name: "lumOff", Value: v})
		}
		for _, p := range darker {
			theme(fmt.Sprintf("%d %% darker", p), opc.Transform{Name: "lumMod", Value: 1 - float64(p)/100})
		}
	}
	for _, c := range j.colors {
		if c.Retired() {
			continue
		}
		for _, over := range veils {
			for t := 5; t <= 95; t += 5 {
				put(veiled(c.RGB, over.with, t), variant{fmt.Sprintf("%s under %d %% %s", c.Name, t, over.name),
					"an opacity over " + over.name})
			}
		}
	}
}
