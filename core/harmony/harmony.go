// Package harmony builds sets around a color by turning its hue on a wheel.
package harmony

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
)

// Wheel is the order in which hues stand.
type Wheel string

const (
	Perceptual Wheel = "perceptual" // OKLCH hue
	Painter    Wheel = "painter"    // red opposite green, yellow opposite violet, blue opposite orange
)

// Member is one color of a harmony. Its place is told from the first member, the color that the set is built around.
type Member struct {
	Color  color.RGB8
	Turn   float64 // degrees on the wheel
	Lift   float64 // OKLCH lightness above the first's
	Chroma float64 // factor of the first's OKLCH chroma
	Free   bool    // unlinked: its color stays when the first one moves
	Round  int     // of several members of one hue: 0 is the scheme's own, further ones are lighter and darker (see stepped)
}

// Schemes lists the schemes by name with their turns on the wheel; monochromatic varies lightness instead.
var Schemes = []struct {
	Name  string
	Turns []float64
}{
	{"monochromatic", []float64{0, 0, 0, 0, 0}},
	{"analogous", []float64{0, -30, 30}},
	{"complementary", []float64{0, 180}},
	{"split complementary", []float64{0, 150, 210}},
	{"triadic", []float64{0, 120, 240}},
	{"tetradic", []float64{0, 90, 180, 270}},
}

// painterMarks pairs places on the painter's wheel (degrees, red at 0, the classic twelve hues of paint) with OKLCH
// hues of the screen colors that stand for them. Between two marks the hue runs evenly.
var painterMarks = [][2]float64{{0, 27}, {60, 58}, {120, 106}, {150, 128}, {180, 148}, {210, 205}, {240, 258}, {270, 288}, {300, 310},
	{330, 352}, {360, 387}}

func toPainter(h float64) float64 {
	if h < painterMarks[0][1] {
		h += 360
	}
	for i := 1; i < len(painterMarks); i++ {
		if a, b := painterMarks[i-1], painterMarks[i]; h <= b[1] {
			return a[0] + (h-a[1])/(b[1]-a[1])*(b[0]-a[0])
		}
	}
	return 0
}

func fromPainter(p float64) float64 {
	p = turn(p)
	for i := 1; i < len(painterMarks); i++ {
		if a, b := painterMarks[i-1], painterMarks[i]; p <= b[0] {
			return turn(a[1] + (p-a[0])/(b[0]-a[0])*(b[1]-a[1]))
		}
	}
	return 0
}

func turn(h float64) float64 { return math.Mod(math.Mod(h, 360)+360, 360) }

// Fewest and Most are of how many members a harmony may be.
const (
	Fewest = 2
	Most   = 8
)

// A further member of a hue is a rung lighter or darker, in OKLCH lightness, and has a part of the chroma for each rung: tints lose more of
// it.
const (
	rung              = 0.15
	lightest, darkest = 0.97, 0.14
	paler, deeper     = 0.65, 0.85
)

// stepped is the lightness of a member of a round, from that of its hue's own, and the part of the chroma that it has: a rung lighter, one
// darker, two lighter and so on; on one side alone where the other ends.
func stepped(own float64, round int) (lightness, chroma float64) {
	up, down := 0, 0
	lightness, chroma = own, 1
	for r := 1; r <= round; r++ {
		above, below := own+rung*float64(up+1), own-rung*float64(down+1)
		if lighter := up <= down; lighter && above <= lightest || below < darkest {
			up++
			lightness, chroma = math.Min(above, lightest), math.Pow(paler, float64(up))
		} else {
			down++
			lightness, chroma = below, math.Pow(deeper, float64(down))
		}
	}
	return lightness, chroma
}

// Build makes a harmony of so many members around a color; 0 for as many as the scheme has hues. Lightness and chroma are the color's own;
// what lies outside sRGB is mapped by reducing chroma. The first member is the color itself, unchanged. More members than hues go around
// the hues again, in rounds: lighter and paler, then darker, then lighter still (see stepped). Fewer are the scheme's first.
func Build(c color.RGB8, scheme string, w Wheel, count int) ([]Member, error) {
	if w != Perceptual && w != Painter {
		return nil, fmt.Errorf("there is no wheel %q; there are perceptual and painter", w)
	}
	i := slices.IndexFunc(Schemes, func(s struct {
		Name  string
		Turns []float64
	}) bool {
		return s.Name == strings.ReplaceAll(strings.ToLower(scheme), "-", " ")
	})
	if i < 0 {
		var names []string
		for _, s := range Schemes {
			names = append(names, s.Name)
		}
		return nil, fmt.Errorf("there is no scheme %q; there are %s", scheme, strings.Join(names, ", "))
	}
	turns := Schemes[i].Turns
	if count == 0 {
		count = len(turns)
	}
	if count < Fewest || count > Most {
		return nil, fmt.Errorf("a harmony has %d to %d members, not %d", Fewest, Most, count)
	}
	own := c.RGB().OKLab().L
	mono := Schemes[i].Name == "monochromatic"
	out := []Member{{Color: c, Chroma: 1}}
	for k := 1; k < count; k++ {
		m := Member{Turn: turns[k%len(turns)], Round: k / len(turns), Chroma: 1}
		switch {
		case mono:
			m.Round, m.Lift = 0, monochrome(own, k-1, count)-own
		case m.Round > 0:
			l, chroma := stepped(own, m.Round)
			m.Lift, m.Chroma = l-own, chroma
		}
		out = append(out, m)
	}
	return Follow(c, w, out), nil
}

// grayest is the OKLCH chroma under which a color has no hue to turn.
const grayest = 0.02

// Cannot says what a scheme can't do with a color; empty if it can.
func Cannot(c color.RGB8, scheme string) string {
	if c.RGB().OKLab().OKLCH().C >= grayest || strings.EqualFold(scheme, "monochromatic") {
		return ""
	}
	return "A gray has no hue to turn: every member is the same gray. Monochromatic gives its lighter and darker companions."
}

// Spread gives the linked members the lightness at which their own hue looks like itself, set off as the first color is from
// its own and halfway back to it, and as large a part of the chroma that sRGB has there: at the first color's lightness a yellow beside a
// blue is an olive, and all that stands beside a navy almost black.
func Spread(c color.RGB8, w Wheel, members []Member) []Member {
	from := c.RGB().OKLab().OKLCH()
	if from.C < grayest {
		return Follow(c, w, members)
	}
	own := color.Vivid(from.H)
	part := math.Min(1, from.C/math.Max(1e-6, color.MostChroma(from.L, from.H)))
	out := slices.Clone(members)
	for i := range out {
		m := &out[i]
		if i == 0 || m.Free || m.Turn == 0 {
			continue
		}
		h := turn(from.H + m.Turn)
		if w == Painter {
			h = fromPainter(toPainter(from.H) + m.Turn)
		}
		vivid := color.Vivid(h)
		l := math.Min(lightest, math.Max(0.2, vivid.L+offset*(from.L-own.L)))
		l, chroma := stepped(l, m.Round)
		m.Lift = l - from.L
		m.Chroma = part * chroma * color.MostChroma(l, h) / from.C
	}
	return Follow(c, w, out)
}

// offset is how much of the first color's distance from its vivid lightness the others take.
const offset = 0.5

// Follow places the members of a set around a color: linked ones keep their turn, lift and chroma and get their color
// from them; free ones keep their color and are told anew where they stand. The first member becomes the color itself.
// To move a member by hand, change its turn, lift or chroma and let it follow; to hold it, set Free afterwards.
func Follow(c color.RGB8, w Wheel, members []Member) []Member {
	from := c.RGB().OKLab().OKLCH()
	out := slices.Clone(members)
	for i := range out {
		m := &out[i]
		switch {
		case i == 0:
			*m = Member{Color: c, Chroma: 1}
		case m.Free:
			at := m.Color.RGB().OKLab().OKLCH()
			m.Lift, m.Chroma = at.L-from.L, 1
			if from.C > 0 {
				m.Chroma = at.C / from.C
			}
			if w == Painter {
				m.Turn = turn(toPainter(at.H) - toPainter(from.H))
			} else {
				m.Turn = turn(at.H - from.H)
			}
		default:
			next := color.OKLCH{L: math.Min(1, math.Max(0, from.L+m.Lift)), C: math.Max(0, from.C*m.Chroma), H: from.H}
			if m.Turn != 0 && w == Painter {
				next.H = fromPainter(toPainter(from.H) + m.Turn)
			} else {
				next.H = turn(from.H + m.Turn)
			}
			m.Color = next.Held8()
		}
	}
	return out
}

// monochrome spreads the lightnesses of a set of one hue over what the color's own leaves free, light to dark.
func monochrome(own float64, k, count int) float64 {
	free := make([]float64, count)
	nearest := 0
	for i := range free {
		free[i] = 0.94 - 0.64*float64(i)/float64(count-1)
		if math.Abs(free[i]-own) < math.Abs(free[nearest]-own) {
			nearest = i
		}
	}
	return slices.Delete(free, nearest, nearest+1)[k]
}
