package color_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"huekeep/core/asbefore"
	"huekeep/core/color"
)

// written are values of every notation that is read, with what is awkward in each.
var written = strings.Split(strings.TrimSpace(`
#E2572B
#e25
#e2572b80
#12
#GGGGGG
E2572B
tomato
RebeccaPurple
transparent
rgb(226 87 43)
rgb(226, 87, 43)
rgb(226 87 43 / 50%)
rgba(226,87,43,.5)
rgb(88.6% 34.1% 16.9%)
rgb(300 -20 43)
rgb(none 87 43)
rgb(calc(200 + 26) calc(174 / 2) 43)
rgb(min(226, 300) max(87, 3) clamp(0, 43, 255))
rgb(226 87)
rgb(226 87 43 12)
hsl(14 76% 53%)
hsl(14deg, 76%, 53%)
hsl(0.5turn 40% 50%)
hsl(200grad 40% 50% / .3)
hsl(3.1416rad 40% 50%)
hsl(-90 150% 50%)
hwb(14 17% 11%)
hwb(14 70% 60%)
lab(54.2 52.1 48.6)
lab(54.2% 41% 38%)
lab(120 10 10)
lab(50 130 -130)
lch(54.2 71.2 43)
lch(50% 0 none)
oklab(0.63 0.14 0.11)
oklab(63% 35% 27%)
oklch(0.63 0.18 39)
oklch(63% 45% 39deg)
oklch(0.9 0.4 140)
oklch(1.2 0.1 39)
color(srgb 0.886 0.341 0.169)
color(srgb-linear 0.76 0.095 0.024)
color(display-p3 0.83 0.38 0.22)
color(display-p3 0 1 0 / 40%)
color(a98-rgb 0.8 0.34 0.19)
color(prophoto-rgb 0.7 0.35 0.2)
color(rec2020 0.77 0.38 0.2)
color(xyz 0.35 0.24 0.05)
color(xyz-d50 0.37 0.25 0.04)
color(xyz-d65 0.35 0.24 0.05)
color(display-p3-linear 0.65 0.12 0.04)
color(nowhere 1 2 3)
color-mix(in oklab, red, blue)
color-mix(in oklab, red 30%, blue)
color-mix(in srgb, red, blue 20%)
color-mix(in srgb, red 20%, blue 20%)
color-mix(in srgb, red 0%, blue 0%)
color-mix(in hsl, red, blue)
color-mix(in hsl longer hue, red, blue)
color-mix(in oklch increasing hue, red 25%, lime)
color-mix(in oklch decreasing hue, red 25%, lime)
color-mix(in lch shorter hue, hsl(none 50% 50%), blue)
color-mix(in hwb, hwb(none 20% 10%), hwb(none 40% 30%))
color-mix(in lab, color(display-p3 1 0 0), lime)
color-mix(in display-p3, color(display-p3 1 0 0), lime)
color-mix(in hsl, color(display-p3 1 0 0), lime)
color-mix(in srgb, rgb(255 0 0 / 50%), blue)
color-mix(in srgb, rgb(255 0 0 / none), blue)
color-mix(in srgb, rgb(255 0 0 / none), rgb(0 0 255 / none))
color-mix(in srgb, transparent, transparent)
color-mix(in xyz, red, blue)
color-mix(in nothing, red, blue)
color-mix(in srgb longer hue, red, blue)
color-mix(red, blue)
color-mix(in srgb, red)
color-mix(in srgb, red 120%, blue)
rgb(from tomato r g b)
rgb(from tomato calc(r - 20) g calc(b * 2) / 80%)
oklch(from #E2572B calc(l + 0.1) c h)
oklch(from #E2572B l calc(c * 0.5) calc(h + 180))
hsl(from rebeccapurple h s 80%)
lab(from color(display-p3 0 1 0) l a b)
color(from red display-p3 r g b)
hwb(from #3CA 120 w b)
light-dark(#E2572B, #0E3A53)
light-dark(red)
rgb(sin(30deg) 1 2)
rgb(calc(100 * sin(30deg)) calc(200 * cos(60deg)) calc(50 * tan(45deg)))
rgb(calc(pow(2, 7)) sqrt(81) hypot(30, 40))
rgb(abs(-30) calc(200 * sign(-2)) mod(-7, 5))
rgb(rem(-7, 5) round(87.5) round(up, 43.2, 5))
rgb(round(down, 43.9) round(to-zero, -3.5, 2) round(nearest, 12, 5))
rgb(exp(4) log(1000, 10) calc(100 * log(3)))
rgb(calc(1e2) calc(pi * 10) calc(e * 10))
rgb(calc(infinity) calc(-infinity) calc(NaN))
rgb(calc(100 / 0) 1 2)
rgb(calc((1 + 2) * (3 + 4)) calc(10 - -5) calc(2 * 3 + 4 / 2))
rgb(calc(10% + 20%) 10% 10%)
rgb(calc(10% + 20) 10 10)
hsl(calc(1turn / 4) 50% 50%)
hsl(asin(0.5) 50% 50%)
hsl(atan2(1, 1) acos(0) 50%)
rgb(min() 1 2)
rgb(calc(1 +2) 1 2)
rgb(calc(1 + ) 1 2)
rgb(calc(((1)) 1 2)
rgb(1 2 3 / calc(0.25 * 2))
rgb(1 2 3 / 140%)
rgb(1, 2%, 3)
rgb(1 2, 3)
rgba(1 2 3 4)
hsl(10, 20, 30)
hsl(10px 20% 30%)
hwb(10, 20%, 30%)
lab(50, 20, 30)
oklch(0.5 -0.2 30)
oklab(none none none / none)
color(display-p3 1.2 -0.1 0.5)
color(xyz-d65 0.2 0.2)
color(srgb 50% 20% 10%)
rgb(from red)
rgb(from red r g b / alpha)
rgb(from rgb(1 2 3 / 50%) r g b)
hsl(from hsl(none 20% 40%) h s l)
color(from #E2572B xyz-d50 x y z)
oklab(from #E2572B l a calc(b + nothing))
currentcolor
CanvasText
rgb(226 87 43
#e2572b;
 #E2572B 
cmyk(0 70 80 0)
cmyk(0%, 70%, 80%, 0%)
C0 M70 Y80 K0
0/70/80/0
device-cmyk(0 0.7 0.8 0)
226, 87, 43
226 87 43
(226, 87, 43)
0x00E2572B
0xE2572B
`), "\n")

// pasted are lines as mails, style guides and lists have them.
var pasted = strings.Split(strings.Trim(`
Buoy  #E2572B
#E2572B - Buoy
Buoy: E2572B (main)
Sound | 14 58 83
Sound RGB 14/58/83 CMYK 95/60/40/45
Quay Grey = rgb(120,130,140)
Lamp HSL 49 86 46
Lamp L*a*b* 74, 4, 74
Fog, 75% black
Fog 40 % K
Deck: #123 and #456
Foam #FFF, Ink #000
Foam #FFFFFF, Deck #123456, and Ink #0E3A53
#FFFFFF Foam and #0E3A53 Buoy
Buoy (#E2572B), Sound (#0E3A53) and Fog (#B9C4C9)
Our main color is #E2572B, secondary #0E3A53.
RGB(226;87;43) Buoy
.buoy { color: #E2572B }
This is #E2572B
{Buoy} #E2572B
Ink #000
Ink: 0 0 0 100
Primary - Pantry Red - C=10 M=90 Y=80 K=5 (coated)
Hull    c0m70y80k0 uncoated
"Jetty", "#AABBCC"
1. Rope: #C8A165
- Rope #C8A165;
Rope -> #C8A165
Rope...... #C8A165
Rope (#C8A165)
Name	#112233	17	34	51
226 87 43
14 58
Sail lab(92 0 4)
Sail: 0.92, 0.01, 0.02
the blue one
tomato
Light tomato
Night sky navy
Green 0x2E8B57
Moss #5E7A3A #5E7A3B
Moss rgb 94 122 58 hex #5E7A3A
Moss rgb 94 122 58 hex #5E7A3C
Kelp oklch(0.6 0.1 150)
Kelp color(display-p3 0 0.8 0.3)
Brick C 20% M 85% Y 90% K 10%
Brick 20 85 90 10
Brick 20,85,90,10,5
Wave #0E3A5
Wave #0E3A533
300 20 10
-5 10 10
R226 G87 B43
R: 226 G: 87 B: 43
Pale hsl(40, 30%, 90%)
Pale hsb 40 10 95
Pale HSV 40 10 95
`, "\n"), "\n")

func typed(t color.Typed, err error) string {
	if err != nil {
		return "no: " + err.Error()
	}
	inks := ""
	if t.CMYK != nil {
		inks = " " + t.CMYK.String()
	}
	return fmt.Sprintf("%s%s %.4g %.5f %.5f %.5f %s %s outside %t real %t exactly %q %s", t.RGB8().Hex(), inks, t.Alpha, t.RGB.R, t.RGB.G, t.RGB.B,
		t.Notation, t.Clamped, t.Outside(), t.Real(), t.Exactly(), t.Note())
}

// What somebody wrote is the same color in every version, or the same sentence; and a color is written the same in every notation, called the
// same, and has the same codes for video.
func TestValuesAreAsBefore(t *testing.T) {
	var b strings.Builder
	for _, s := range written {
		fmt.Fprintf(&b, "%s\n  strict %s\n  css %s\n  light %s\n", s, typed(color.Parse(s)), typed(color.ParseCSS(s)), typed(color.ParseOnLight(s)))
		is, err := color.ParseCSS(s)
		fmt.Fprintf(&b, "  instead %s %s\n", color.Rewrite(s, color.RGB8{R: 14, G: 58, B: 83}), color.Plainly(color.RGB8{R: 14, G: 58, B: 83}, is.Alpha))
		if wide, ok := color.RewriteExactly(s, "color(display-p3 0 1 0)"); ok {
			fmt.Fprintf(&b, "  wide %s\n", wide)
		}
		if v, ok := color.NumbersLike(s, "color(display-p3 0.1 0.9 0.2)"); ok {
			fmt.Fprintf(&b, "  like %.5f\n", v)
		}
		if err == nil {
			fmt.Fprintf(&b, "  a step from %t %t\n", is.OneStep(color.RGB8{R: 226, G: 87, B: 43}.RGB()), is.OneStep(color.RGB{R: is.RGB.R + 0.002, G: is.RGB.G, B: is.RGB.B - 0.002}))
		}
	}
	r := rand.New(rand.NewPCG(2, 71))
	var labs []color.Lab
	var colors []color.RGB8
	for i := range 60 {
		c := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
		if i < 12 { // grays and what is nearly one
			c = color.RGB8{R: uint8(20 * i), G: uint8(20 * i), B: uint8(20*i + i%3)}
		}
		colors, labs = append(colors, c), append(labs, c.Lab())
	}
	index := color.NewIndex(labs)
	for i, c := range colors {
		fmt.Fprintf(&b, "%s %s %v lightness %.4f vivid %s most %.4f gray %.4f\n", c.Hex(), c.Describe(), c.Looks(), c.Luminance(), color.Vivid(float64(6*i)).CSS(), color.MostChroma(float64(i)/60, float64(6*i)), c.RGB().Gray().R)
		for _, n := range color.Notations {
			text, err := color.Write(c, n.Name)
			back, _ := color.ParseCSS(text)
			fmt.Fprintf(&b, "  %s %s %v %s\n", n.Name, text, err, back.RGB8().Hex())
		}
		for _, f := range color.VideoForms {
			codes := f.Codes(c)
			back := f.Matrix.RGB(codes, f.Bits, f.Full)
			fmt.Fprintf(&b, "  %s %d %t %v %v %.4f\n", f.Name, f.Bits, f.Full, codes, f.Problems([3]int{codes[0] * 5 / 4, codes[1], codes[2] * 3 / 4}), back)
		}
		other := labs[(i+7)%len(labs)]
		de := color.DeltaE00(labs[i], other)
		fmt.Fprintf(&b, "  %.5f %s, %.5f by the older formula, by the metric %.5f\n", de, color.Word(de), color.DeltaE76(labs[i], other), func() float64 { m := color.MetricAt(labs[i]); return m.DeltaE(labs[i], other) }())
		for _, n := range index.Nearest(color.Lab{L: labs[i].L + 2, A: labs[i].A - 1, B: labs[i].B + 3}, 4) {
			fmt.Fprintf(&b, "  near %d %.5f\n", n.At, n.DeltaE)
		}
	}
	for i := range 40 { // far from each other in one of lightness, chroma and hue, and near blue, where the formula turns
		a := color.LCh{L: float64(5 + 2*i), C: float64(i % 7 * 18), H: float64(9 * i)}.Lab()
		o := color.LCh{L: float64(5 + 2*i + i%3*20), C: float64(i % 5 * 25), H: float64(9*i + i%4*70)}.Lab()
		m := color.MetricAt(color.Lab{L: (a.L + o.L) / 2, A: (a.A + o.A) / 2, B: (a.B + o.B) / 2})
		mean, spread := color.MeanLab([]color.Lab{a, o, a})
		fmt.Fprintf(&b, "%.3f to %.3f: %.6f %.6f %.6f, mean %.4f %.4f\n", a, o, color.DeltaE00(a, o), color.DeltaE00(o, a), m.DeltaE(a, o), mean, spread)
	}
	for _, space := range []string{"srgb", "display-p3", "rec2020", "a98-rgb"} {
		o := color.ScreenOutline(space)
		fmt.Fprintf(&b, "%s %.3f\n  %.3f\n", space, o.Plane, o.Side)
	}
	asbefore.Is(t, "values.txt", b.String())
}

// So are names of colors, what screens hold, and how a spectrum looks.
func TestNamesAndSpectraAreAsBefore(t *testing.T) {
	var b strings.Builder
	for v := range 9 * 9 * 9 {
		c := color.RGB8{R: uint8(min(255, v%9*32)), G: uint8(min(255, v/9%9*32)), B: uint8(min(255, v/81*32))}
		h, w, s := c.RGB().HSL(), c.RGB().HWB(), c.RGB().HSV()
		fmt.Fprintf(&b, "%s %s, %.3f %.3f %.3f, %s %v\n", c.Hex(), c.Describe(), h, w, s, color.OKLCH{L: float64(v%10) / 9, C: float64(v%7) / 14, H: float64(v)}.Held8().Hex(), c.Looks())
	}
	for i := range 60 {
		fmt.Fprintf(&b, "%d %d %.5f %.5f %.4f\n", color.Encode8(float32(i)/59), color.Encode8(float32(i)/5900), color.CameraLight(float64(i)/59), color.RGB8{R: uint8(4 * i), G: uint8(i), B: 3}.Luminance(), color.Vivid(float64(6*i)))
	}
	r := rand.New(rand.NewPCG(1, 9))
	for i, s := range []color.Spectrum{{Start: 380, Step: 10, Values: make([]float64, 36)}, {Start: 400, Step: 20, Values: make([]float64, 16)}, {Start: 360, Step: 5, Values: make([]float64, 95)}, {Start: 380, Step: 1, Values: make([]float64, 351)},
		{Start: 500, Step: 10, Values: make([]float64, 10)}, {Start: 400, Step: 10, Values: make([]float64, 101)}, {Start: 400, Step: 4, Values: make([]float64, 102)}} {
		for k := range s.Values {
			s.Values[k] = 0.1 + 0.7*r.Float64()*float64(i%3)/2
		}
		lab, err := s.Lab()
		kept, thinned := s.Kept()
		back, failed := color.ParseSpectrum(kept.String())
		fmt.Fprintf(&b, "%g to %g: %.4f %v, kept %d bands of %g, %t, %d %v\n", s.Start, s.End(), lab, err, len(kept.Values), kept.Step, thinned, len(back.Values), failed)
	}
	for _, text := range []string{"", "400 10", "400 10 0.1 0.2", "400 10 0.1 0.2 x", "400 0 0.1 0.2 0.3", "-1 10 0.1 0.2 0.3", "400 10 0.1 -0.2 0.3", "400 10 0.1 9 0.3", "400 400 0.1 0.2 0.3"} {
		s, err := color.ParseSpectrum(text)
		fmt.Fprintf(&b, "%q: %v %v\n", text, s, err)
	}
	for _, old := range []string{"226 87 43", "0.886 0.341 0.169", "226, 87, 43", "1 2", "1 2 3 4", "226.0 87.5 43", "0.5 0.5 0.5 0.5"} {
		for _, scale := range []float64{1, 255, 100} {
			text, ok := color.RewriteNumbers(old, scale, color.RGB8{R: 14, G: 58, B: 83})
			fmt.Fprintf(&b, "%s of %g: %s %t\n", old, scale, text, ok)
		}
	}
	asbefore.Is(t, "names.txt", b.String())
}

// A pasted list is read the same in every version: the names, the values, what is asked.
func TestPastedLinesAreAsBefore(t *testing.T) {
	var b strings.Builder
	say := func(l color.Line) {
		inks := ""
		if l.CMYK != nil {
			inks = l.CMYK.String()
		}
		fmt.Fprintf(&b, "  %d %q %s value %q exactly %q inks %q %q %q note %q no %v\n", l.Number, l.Name, l.RGB.Hex(), l.Value, l.Exact, inks, l.Build, l.Paper, l.Note, l.Err)
	}
	for _, text := range pasted {
		fmt.Fprintf(&b, "%s\n", text)
		for _, l := range color.ReadList(text) {
			say(l)
		}
		pieces, name := color.Pieces(text)
		for _, p := range pieces {
			fmt.Fprintf(&b, "  piece %q %t %s\n", p.Text, p.Sure, typed(p.Typed, p.Err))
		}
		value, paper, err := color.ReadValue(text)
		fmt.Fprintf(&b, "  left %q; as one value: %s %s\n", name, typed(value, err), paper)
	}
	for _, l := range color.ReadList(strings.Join(pasted, "\n")) {
		say(l)
	}
	asbefore.Is(t, "pasted.txt", b.String())
}
