package e2e

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/scale"
	"huekeep/e2e/browser"
)

// written makes up colors as style sheets have them, right and wrong ones.
type written struct{ *rand.Rand }

func (w written) one(of ...string) string { return of[w.IntN(len(of))] }

// blank is a blank, or a comment beside one.
func (w written) blank() string {
	return w.one(" ", " ", " ", " ", "  ", " /* a, (b */ ", "\n")
}

func (w written) number(low, high float64) string {
	v := low + (high-low)*w.Float64()
	switch w.IntN(9) {
	case 0:
		return fmt.Sprintf("%.0f", v)
	case 1:
		return fmt.Sprintf("%+.3f", v)
	case 2:
		return fmt.Sprintf("%.2e", v)
	default:
		return strings.TrimRight(fmt.Sprintf("%.3f", v), "0") + "0"
	}
}

// sum is a calculation of a kind of value, whose unit it is given.
func (w written) sum(low, high float64, unit string) string {
	n := func() string { return w.number(low, high) + unit }
	plain := func() string { return w.number(0.2, 2) }
	switch w.IntN(24) {
	case 0:
		return "calc(" + n() + " + " + n() + ")"
	case 1:
		return "calc(" + n() + " * " + plain() + " - " + n() + ")"
	case 2:
		return "min(" + n() + ", " + n() + ")"
	case 3:
		return "max(" + n() + "," + n() + "," + n() + ")"
	case 4:
		return "clamp(" + n() + ", " + n() + ", " + n() + ")"
	case 5:
		return "calc(" + n() + " * sin(" + w.number(-3, 3) + "))"
	case 6:
		return "calc(" + n() + " * cos(" + w.number(-90, 90) + "deg))"
	case 7:
		return "calc(" + n() + " * pow(" + plain() + ", " + plain() + "))"
	case 8:
		return "mod(" + n() + ", " + n() + ")"
	case 9:
		return "rem(" + n() + ", " + n() + ")"
	case 10:
		return "round(" + w.one("", "nearest, ", "up, ", "down, ", "to-zero, ") + n() + ", " + w.number(1, 20) + unit + ")"
	case 11:
		return "abs(" + n() + ")"
	case 12:
		return "calc(" + n() + " * sign(" + w.number(-1, 1) + "))"
	case 13:
		return "hypot(" + n() + ", " + n() + ")"
	case 14:
		return "calc(" + n() + " * sqrt(" + plain() + "))"
	case 15:
		return "calc(" + n() + " * log(" + plain() + ") / exp(" + plain() + "))"
	case 16:
		return "calc(" + n() + " * " + w.one("pi", "e", "PI", "infinity", "-infinity", "NaN", "none", "(pi / 4)") + ")"
	case 17:
		return "calc(" + n() + " / " + w.one("0", plain(), "-0", n()) + ")"
	case 18:
		return "calc(" + n() + w.one("+", " +", "+ ", "*", " -", "- ") + n() + ")"
	case 19:
		return "calc(" + n() + " + " + w.number(low, high) + ")"
	case 20:
		return "calc(" + n() + " * sin(atan2(" + plain() + ", " + plain() + ")))"
	case 21:
		return "calc(" + n() + " * tan(atan(" + plain() + ")))"
	case 22:
		return "calc((" + n() + w.blank() + "-" + w.blank() + n() + ") / -2)"
	default:
		return "clamp(" + w.one("none", n()) + ", " + n() + ", " + w.one("none", n()) + ")"
	}
}

// value is a value that runs from 0 to one, or to 100 %.
func (w written) value(one float64) string {
	switch w.IntN(12) {
	case 0:
		return "none"
	case 1, 2:
		return w.number(0, 100) + "%"
	case 3:
		return w.sum(0, one, "")
	case 4:
		return w.sum(0, 100, "%")
	case 5:
		return w.number(-0.5*one, 1.6*one)
	default:
		return w.number(0, one)
	}
}

func (w written) hue() string {
	switch w.IntN(9) {
	case 0:
		return "none"
	case 1:
		return w.number(-400, 800) + "deg"
	case 2:
		return w.number(-2, 2) + w.one("turn", "rad")
	case 3:
		return w.number(0, 400) + "grad"
	case 4:
		for { // what a browser makes of an infinite hue is anybody's guess
			if s := w.sum(0, 360, w.one("", "deg")); !strings.Contains(s, "infinity") && !strings.Contains(s, "/ ") {
				return s
			}
		}
	case 5:
		return w.one("0", "-120", "30%", "1e2")
	default:
		return w.number(0, 360)
	}
}

var wideSpaces = []string{"srgb", "srgb-linear", "display-p3", "display-p3-linear", "a98-rgb", "prophoto-rgb", "rec2020", "xyz", "xyz-d50", "xyz-d65"}

func (w written) alpha() string {
	if w.IntN(3) > 0 {
		return ""
	}
	return w.one(" / ", "/") + w.value(1)
}

func (w written) color(depth int) string {
	join := func(v ...string) string {
		out := v[0]
		for _, s := range v[1:] {
			out += w.blank() + s
		}
		return out
	}
	kind := w.IntN(13)
	if depth > 2 {
		kind = w.IntN(9)
	}
	switch kind {
	case 0:
		return w.one("#1a2b3c", "#ABC", "#12345678", "#abcd", "#12345", "#1g2b3c", "rebeccapurple", "TEAL", "white", "black", "gray", "transparent", "nocolor")
	case 1: // as before CSS Color 4
		v := []string{w.number(-20, 300), w.number(0, 255), w.number(0, 255)}
		switch w.IntN(5) {
		case 0:
			for i := range v {
				v[i] = w.number(0, 100) + "%"
			}
		case 1:
			v[w.IntN(3)] = w.one(w.number(0, 100)+"%", "none", w.sum(0, 255, ""))
		}
		if w.IntN(3) == 0 {
			v = append(v, w.one(w.number(0, 1), w.number(0, 100)+"%", "none"))
		}
		return w.one("rgb(", "rgba(", "RGB(") + strings.Join(v, w.one(",", ", ", " , ")) + ")"
	case 2:
		v := []string{w.hue(), w.number(-10, 130) + "%", w.number(-10, 130) + "%"}
		if w.IntN(5) == 0 {
			v[1+w.IntN(2)] = w.number(0, 100)
		}
		if w.IntN(3) == 0 {
			v = append(v, w.value(1))
		}
		return w.one("hsl(", "hsla(", "hwb(") + strings.Join(v, ", ") + ")"
	case 3:
		return w.one("rgb(", "rgba(") + join(w.value(255), w.value(255), w.value(255)) + w.alpha() + ")"
	case 4:
		return w.one("hsl(", "hwb(", "hsla(") + join(w.hue(), w.value(100), w.value(100)) + w.alpha() + ")"
	case 5:
		if w.IntN(2) == 0 {
			return "lab(" + join(w.value(100), w.number(-130, 130), w.value(125)) + w.alpha() + ")"
		}
		return "oklab(" + join(w.value(1), w.number(-0.4, 0.4), w.value(0.4)) + w.alpha() + ")"
	case 6:
		if w.IntN(2) == 0 {
			return "lch(" + join(w.value(100), w.value(150), w.hue()) + w.alpha() + ")"
		}
		return "oklch(" + join(w.value(1), w.value(0.4), w.hue()) + w.alpha() + ")"
	case 7, 8:
		return "color(" + join(w.one(wideSpaces...), w.value(1), w.value(1), w.value(1)) + w.alpha() + ")"
	case 9:
		space := w.one("srgb", "srgb-linear", "lab", "oklab", "xyz", "display-p3", "rec2020", "hsl", "hwb", "lch", "oklch")
		in := "in " + space + w.one("", "", " shorter hue", " longer hue", " increasing hue", " decreasing hue") + ", "
		share := func() string {
			return w.one("", "", " "+w.number(0, 100)+"%", " 0%", " 100%", " calc(10% + 20%)", " 120%")
		}
		return "color-mix(" + w.one(in, in, in, "") + w.color(depth+1) + share() + ", " + w.color(depth+1) + share() + ")"
	case 10:
		return "light-dark(" + w.color(depth+1) + ", " + w.color(depth+1) + ")"
	default:
		from := "from " + w.color(depth+1) + " "
		pick := func(own string, one float64) string {
			switch w.IntN(6) {
			case 0:
				return w.value(one)
			case 1:
				return "calc(" + own + w.one(" * 0.8", " / 2", " + "+w.number(0, one/4)) + ")"
			default:
				return own
			}
		}
		switch w.IntN(9) { // a gray has no hue, and what a browser makes of it is noise: chroma is only multiplied
		case 0:
			return "rgb(" + from + join(pick("r", 255), pick("g", 255), pick("b", 255)) + w.alpha() + ")"
		case 1:
			return "hsl(" + from + join(w.one("h", "calc(h + 30)", w.hue()), pick("s", 100), pick("l", 100)) + ")"
		case 2:
			return "hwb(" + from + join("h", pick("w", 100), pick("b", 100)) + w.one("", " / alpha", " / calc(alpha * 0.5)") + ")"
		case 3:
			return "lab(" + from + join(pick("l", 100), pick("a", 50), pick("b", 50)) + ")"
		case 4:
			return "oklab(" + from + join(pick("l", 1), pick("a", 0.2), pick("b", 0.2)) + ")"
		case 5:
			return "lch(" + from + join(pick("l", 100), w.one("c", "calc(c * 0.8)"), w.one("h", "calc(h - 40)")) + ")"
		case 6:
			return "oklch(" + from + join(pick("l", 1), w.one("c", "calc(c * 1.2)"), w.one("h", "calc(h + 180)")) + ")"
		case 7:
			return "color(" + from + join(w.one("xyz", "xyz-d50", "xyz-d65"), pick("x", 1), pick("y", 1), pick("z", 1)) + ")"
		}
		return "color(" + from + join(w.one("srgb", "srgb-linear", "display-p3", "a98-rgb", "prophoto-rgb", "rec2020"), pick("r", 1), pick("g", 1), pick("b", 1)) + ")"
	}
}

// A color of a style sheet is what the browser makes of it, and what the browser refuses is refused.
func TestColorsAreReadAsTheBrowserReadsThem(t *testing.T) {
	b, stop, err := browser.Start()
	require.NoError(t, err)
	defer stop()
	page := b.MustPage("about:blank")
	w := written{rand.New(rand.NewPCG(20, 26))}
	texts := make([]string, 2000)
	for i := range texts {
		texts[i] = w.color(0)
	}
	var said []string
	result := page.MustEval(`(texts) => {
		const e = document.createElement('p')
		document.body.append(e)
		return texts.map((text) => {
			e.style.color = ''
			e.style.color = text
			return e.style.color === '' ? '' : getComputedStyle(e).color
		})
	}`, texts)
	for _, v := range result.Arr() {
		said = append(said, v.Str())
	}
	require.Len(t, said, len(texts))
	refused, wrong := 0, 0
	differ := func(i int, format string, args ...any) {
		if wrong++; wrong <= 60 {
			t.Errorf("%s\n  browser: %s\n  here: %s", texts[i], said[i], fmt.Sprintf(format, args...))
		}
	}
	for i, text := range texts {
		if text == "transparent" { // which is no color to judge
			continue
		}
		got, err := color.ParseOnLight(text)
		if err != nil && strings.Contains(err.Error(), "far outside") {
			continue
		}
		if said[i] == "" {
			refused++
			if err == nil {
				differ(i, "%.4f", got.RGB)
			}
			continue
		}
		if err != nil {
			differ(i, "%v", err)
			continue
		}
		want, err := color.ParseOnLight(said[i])
		if err != nil && strings.Contains(err.Error(), "far outside") {
			continue
		}
		require.NoError(t, err, said[i])
		// What is written in the old ways is 8 bits a channel there.
		slack, fade := 2e-3, 2e-3
		if strings.HasPrefix(said[i], "rgb") {
			slack = 0.5/255 + 1e-4
			fade = 6e-3
			got.RGB = got.RGB.Clip()
		}
		a, c := got.RGB.OKLab(), want.RGB.OKLab()
		far := math.Max(math.Abs(a.L-c.L), math.Max(math.Abs(a.A-c.A), math.Abs(a.B-c.B)))
		d := math.Max(math.Abs(got.RGB.R-want.RGB.R), math.Max(math.Abs(got.RGB.G-want.RGB.G), math.Abs(got.RGB.B-want.RGB.B)))
		if got.Alpha == 0 && want.Alpha == 0 {
			continue
		}
		if math.Min(d, far) > slack || math.Abs(got.Alpha-want.Alpha) > fade {
			differ(i, "%.4f / %.3f (and there %.4f / %.3f)", got.RGB, got.Alpha, want.RGB, want.Alpha)
		}
	}
	t.Logf("%d of %d are refused by both; %d differ", refused, len(texts), wrong)
	assert.Zero(t, wrong)
}

// What is worked out of a sheer is what a browser paints, a step of rounding aside.
func TestSheersAreWhatTheBrowserPaints(t *testing.T) {
	b, stop, err := browser.Start()
	require.NoError(t, err)
	defer stop()
	r := rand.New(rand.NewPCG(20, 27))
	any8 := func() color.RGB8 {
		return color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}
	}
	var pairs [][3]any
	var want []color.RGB8
	for range 500 {
		c, over, percent := any8(), any8(), 1+r.IntN(99)
		pairs = append(pairs, [3]any{over.Hex(), fmt.Sprintf("rgb(%d %d %d / %d%%)", c.R, c.G, c.B, percent)})
		want = append(want, scale.Sheer(c, over, float64(percent)))
	}
	painted := b.MustPage("about:blank").MustEval(`(pairs) => {
		const on = document.createElement('canvas').getContext('2d', { willReadFrequently: true })
		return pairs.map(([ground, sheer]) => {
			on.fillStyle = ground
			on.fillRect(0, 0, 1, 1)
			on.fillStyle = sheer
			on.fillRect(0, 0, 1, 1)
			return [...on.getImageData(0, 0, 1, 1).data]
		})
	}`, pairs)
	for i, p := range painted.Arr() {
		for k, v := range []uint8{want[i].R, want[i].G, want[i].B} {
			assert.InDelta(t, p.Arr()[k].Int(), int(v), 1, "%v", pairs[i])
		}
	}
}
