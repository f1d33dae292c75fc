package audit

import (
	"fmt"
	"math"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Why colors drifted, shown only where the numbers support it.

// shift is a mistake that moves all colors of a file in the same way.
type shift struct {
	sentence string
	apply    func(c color.RGB8) color.RGB8
}

// shifts are the mistakes that are looked for.
func shifts() []shift {
	numbers := func(space string) func(color.RGB8) color.RGB8 {
		return func(c color.RGB8) color.RGB8 {
			v, _ := color.Numbers(space, c.RGB())
			return color.RGB{R: v[0], G: v[1], B: v[2]}.Clip().RGB8()
		}
	}
	each := func(f func(v float64) float64) func(color.RGB8) color.RGB8 {
		return func(c color.RGB8) color.RGB8 {
			v := c.RGB()
			return color.RGB{R: f(v.R), G: f(v.G), B: f(v.B)}.Clip().RGB8()
		}
	}
	// Y'CbCr in the codes of video, made with one matrix and taken apart with another.
	matrices := func(made, taken color.VideoMatrix) func(color.RGB8) color.RGB8 {
		return func(c color.RGB8) color.RGB8 { return taken.RGB(made.YCbCr(c.RGB(), 8, false), 8, false).Clip().RGB8() }
	}
	return []shift{
		{"written in the numbers of a Display P3 screen and read as sRGB", numbers("display-p3")},
		{"written in the numbers of A98 RGB and read as sRGB", numbers("a98-rgb")},
		{"written in the numbers of ROMM RGB and read as sRGB", numbers("prophoto-rgb")},
		{"written in the numbers of BT.2020 and read as sRGB", numbers("rec2020")},
		{"a gamma of 1.8 taken for 2.2", each(func(v float64) float64 { return math.Pow(v, 1.8/2.2) })},
		{"a gamma of 2.2 taken for 1.8", each(func(v float64) float64 { return math.Pow(v, 2.2/1.8) })},
		{"video levels from 16 to 235 shown as if they ran from 0 to 255", each(func(v float64) float64 { return (16 + 219*v) / 255 })},
		{"full levels stretched as if they were video levels", each(func(v float64) float64 { return (v*255 - 16) / 219 })},
		{"video made with the matrix of BT.601 and read with that of BT.709", matrices(color.BT601, color.BT709)},
		{"video made with the matrix of BT.709 and read with that of BT.601", matrices(color.BT709, color.BT601)},
	}
}

// explain looks for one mistake behind the colors of a file, and for one behind each.
func (j *Judge) explain(r *Report) {
	var off []int
	for i, k := range r.Colors {
		if k.CMYK == "" && k.Spot == "" && (k.Verdict == Drifted || k.Verdict == OffBrand || k.Verdict == Retired) {
			off = append(off, i)
		}
	}
	if len(off) == 0 {
		return
	}
	off = j.former(r, off)
	if !j.together(r, off) {
		for _, i := range off {
			j.alone(&r.Colors[i])
		}
	}
	r.causes()
}

// together finds the shift that explains at least three colors, and most of those that are off.
func (j *Judge) together(r *Report, off []int) bool {
	if len(off) < 3 || len(off) > 5000 {
		return false
	}
	var best map[int]int
	sentence := ""
	for _, s := range shifts() {
		table := map[color.RGB8]int{}
		for i, c := range j.colors {
			if moved := s.apply(c.RGB); !c.Retired() && color.DeltaE00(moved.Lab(), c.RGB.Lab()) > 0.6 {
				table[moved] = i
			}
		}
		found := map[int]int{}
		for _, at := range off {
			rgb, err := color.FromHex(r.Colors[at].Hex)
			if err != nil {
				continue
			}
			if i, ok := around(table, rgb); ok {
				found[at] = i
			}
		}
		if len(found) > len(best) {
			best, sentence = found, s.sentence
		}
	}
	if len(best) < 3 || len(best)*10 < len(off)*6 {
		return false
	}
	for at, i := range best {
		k := &r.Colors[at]
		rgb, _ := color.FromHex(k.Hex)
		k.Reason, k.Cause = fmt.Sprintf("%s, %s, as are %s of this file", j.colors[i].Name, sentence, Plural(len(best)-1, "other color")),
			sentence
		j.meant(k, rgb, i)
	}
	return true
}

// around looks a color up within one level of each channel.
func around(table map[color.RGB8]int, c color.RGB8) (int, bool) {
	if i, ok := table[c]; ok {
		return i, true
	}
	for dr := -1; dr <= 1; dr++ {
		for dg := -1; dg <= 1; dg++ {
			for db := -1; db <= 1; db++ {
				r, g, b := int(c.R)+dr, int(c.G)+dg, int(c.B)+db
				if r < 0 || g < 0 || b < 0 || r > 255 || g > 255 || b > 255 {
					continue
				}
				if i, ok := table[color.RGB8{R: uint8(r), G: uint8(g), B: uint8(b)}]; ok {
					return i, true
				}
			}
		}
	}
	return 0, false
}

// alone explains one color: typed or rounded, or an effect on top.
func (j *Judge) alone(k *Judged) {
	rgb, err := color.FromHex(k.Hex)
	if err != nil || k.Nearest == nil {
		return
	}
	if meant, err := color.FromHex(k.Nearest.Hex); err == nil && k.Verdict != OffBrand {
		if most := Farthest(meant, rgb); most <= 2 && most > 0 {
			k.Reason += ": typed or rounded"
			k.Cause = "typed or rounded"
			return
		}
	}
	if k.Verdict != OffBrand {
		return
	}
	for _, n := range j.index.Nearest(rgb.Lab(), 8) {
		c := j.colors[n.At]
		if c.Retired() {
			continue
		}
		for _, over := range veils {
			if t, ok := veil(c, over.with, rgb); ok {
				k.Reason, k.Cause = fmt.Sprintf("%s under %d %% %s", c.Name, t, over.name), "an opacity over "+over.name
				return
			}
		}
	}
	if v, ok := j.variantOf(rgb); ok {
		k.Reason, k.Cause = v.said, v.cause // what is nearest stays so: the color without what was done to it was not meant there
	}
}

// veils are what lies over a color or under one that is seen through.
var veils = []struct {
	name string
	with color.RGB8
}{{"white", color.RGB8{R: 255, G: 255, B: 255}}, {"black", color.RGB8{}}}

// veiled is a color under a share, in percent, of another.
func veiled(c, with color.RGB8, percent int) color.RGB8 {
	mix := func(a, b uint8) uint8 {
		return uint8(math.Round(float64(a)*float64(100-percent)/100 + float64(b)*float64(percent)/100))
	}
	return color.RGB8{R: mix(c.R, with.R), G: mix(c.G, with.G), B: mix(c.B, with.B)}
}

// Farthest is the largest difference of two colors in a channel.
func Farthest(a, b color.RGB8) int {
	d := func(x, y uint8) int { return max(int(x)-int(y), int(y)-int(x)) }
	return max(d(a.R, b.R), d(a.G, b.G), d(a.B, b.B))
}

// veil finds the share, in steps of 5 %, of white or black over a color that gives another exactly.
func veil(c library.Color, with, found color.RGB8) (percent int, ok bool) {
	for t := 5; t <= 95; t += 5 {
		if veiled(c.RGB, with, t) == found {
			return t, true
		}
	}
	return 0, false
}
