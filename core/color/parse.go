package color

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
)

// Typed is a color as somebody wrote it.
type Typed struct {
	Notation string  // hex, rgb, hsl, hwb, lab, lch, oklab, oklch, color, name or cmyk
	RGB      RGB     // unset for cmyk; may lie outside the sRGB gamut for the wide notations
	Alpha    float64 // 0 to 1
	CMYK     *CMYK   // set for cmyk only
	Clamped  string  // which value was out of range, and of what ("red is 300, over 255"), or empty

	made *made // as a function beyond sRGB wrote it, nil for others; see Exactly
}

// Note says what was done to a value out of range; it is empty if nothing was.
func (t Typed) Note() string {
	if t.Clamped == "" {
		return ""
	}
	return t.Clamped + ", which was taken instead"
}

// RGB8 is the sRGB value to show and keep; wide colors are mapped into the gamut.
func (t Typed) RGB8() RGB8 { return t.RGB.RGB8() }

// Outside says that the color written does not exist in sRGB, so that RGB8 is only the nearest to it.
func (t Typed) Outside() bool { return t.CMYK == nil && !t.RGB.InGamut() }

// Parse reads one color as people type it: every notation of CSS Color 4, relative colors and calculations with constants of
// CSS Color 5, bare hexadecimal digits, bare channel values and CMYK builds. A function clamps what is out of range, as CSS
// does, and Clamped says so; bare values out of range are errors, since a typing mistake hides behind them.
func Parse(s string) (Typed, error) { return parser{strict: true}.parse(s) }

// ParseCSS reads one color as a browser would: functions, # notations and names only. What is one color on light pages and another on dark
// ones, by light-dark(), is two, and an error.
func ParseCSS(s string) (Typed, error) { return parser{}.parse(s) }

// ParseOnLight is ParseCSS for a page that is light, where light-dark() is its first color.
func ParseOnLight(s string) (Typed, error) { return parser{light: true}.parse(s) }

type parser struct {
	strict bool
	light  bool // light-dark() is its first color
	depth  int  // of colors inside of each other
}

func (p parser) parse(s string) (Typed, error) {
	t, _, err := p.full(s)
	return t, err
}

// full is parse, with what other colors carry over of this one.
func (p parser) full(s string) (Typed, made, error) {
	s = strings.TrimSpace(uncommented(s))
	if name, body, ok := callForm(s); ok && len(s) <= longest {
		if c, ok := threeNumbers(s); ok {
			return Typed{Notation: "rgb", RGB: c.RGB(), Alpha: 1}, made{name: "rgb", v: [3]float64{float64(c.R) / 255, float64(c.G) / 255,
				float64(c.B) / 255}, alpha: 1}, nil
		}
		t, m, err := p.call(name, body, s)
		if err == nil && t.CMYK == nil && beyond(m.name) {
			t.made = &m
		}
		return t, m, err
	}
	t, err := p.plain(s)
	return t, made{name: "rgb", v: [3]float64{t.RGB.R, t.RGB.G, t.RGB.B}, alpha: t.Alpha}, err
}

// longest is the longest text of one color.
const longest = 2000

// uncommented is a text with a blank for each comment of CSS.
func uncommented(s string) string {
	for {
		from := strings.Index(s, "/*")
		if from < 0 {
			return s
		}
		to := strings.Index(s[from+2:], "*/")
		if to < 0 {
			return s
		}
		s = s[:from] + " " + s[from+2+to+2:]
	}
}

// plain reads what is no function.
func (p parser) plain(s string) (Typed, error) {
	switch {
	case s == "":
		return Typed{}, fmt.Errorf("nothing was given where a color is wanted")
	case len(s) > longest:
		return Typed{}, fmt.Errorf("%q... is too long for one color", s[:30])
	case s[0] == '#':
		return parseHash(s)
	}
	if c, ok := Named(s); ok {
		return Typed{Notation: "name", RGB: c.RGB(), Alpha: 1}, nil
	}
	if p.strict {
		if len(s) == 6 && !strings.ContainsFunc(s, notHex) {
			return parseHash("#" + s)
		}
		if v := lettered(s, "rgb"); v != nil {
			return p.bare(v)
		}
		if v := lettered(s, "cmyk"); v != nil {
			return inks(v)
		}
		// "RGB 244/162/97"
		if rest := strings.TrimLeft(s[min(3, len(s)):], " :=\t"); strings.EqualFold(s[:min(3, len(s))], "rgb") && bareNumbers(rest) {
			if parts := strings.FieldsFunc(rest, between); len(parts) == 3 {
				return p.bare(parts)
			}
		}
		if bareNumbers(s) {
			return p.numbers(s)
		}
	}
	return Typed{}, fmt.Errorf("%q is not a color value", s)
}

// threeNumbers reads rgb() of three whole numbers to 255 with blanks or commas between them, which is what most of what is no
// hexadecimal is; anything else is left to the grammar.
func threeNumbers(s string) (c RGB8, ok bool) {
	if len(s) < len("rgb(0,0,0)") || len(s) > len("rgb(255, 255, 255)") || s[:4] != "rgb(" || s[len(s)-1] != ')' {
		return c, false
	}
	comma := false
	i := 4
	for n, channel := range [3]*uint8{&c.R, &c.G, &c.B} {
		from, v := i, 0
		for s[i] >= '0' && s[i] <= '9' && i < from+3 {
			v = 10*v + int(s[i]-'0')
			i++
		}
		if i == from || v > 255 {
			return c, false
		}
		*channel = uint8(v)
		if n == 2 {
			break
		}
		if n == 0 {
			comma = s[i] == ','
		}
		if comma && s[i] != ',' || !comma && s[i] != ' ' {
			return c, false
		}
		if i++; comma && s[i] == ' ' {
			i++
		}
	}
	return c, i == len(s)-1
}

// callForm takes a function's call apart.
func callForm(s string) (name, body string, ok bool) {
	open := strings.IndexByte(s, '(')
	if open < 1 || s[len(s)-1] != ')' {
		return "", "", false
	}
	name = strings.ToLower(s[:open])
	if strings.ContainsFunc(name, func(r rune) bool { return (r < 'a' || r > 'z') && r != '-' }) {
		return "", "", false
	}
	return name, strings.TrimSpace(s[open+1 : len(s)-1]), true
}

func notHex(r rune) bool {
	if r > unicode.MaxASCII {
		return true
	}
	_, ok := hexDigit(byte(r))
	return !ok
}

// bareNumbers says that a text is three or four numbers, or percentages, with separators between them.
func bareNumbers(s string) bool {
	parts := strings.FieldsFunc(s, between)
	for _, part := range parts {
		if n := NumberLength(part); n == 0 || part[n:] != "" && part[n:] != "%" {
			return false
		}
	}
	return (len(parts) == 3 || len(parts) == 4) && !between(rune(s[0])) && !between(rune(s[len(s)-1]))
}

// lettered takes apart values that follow their letters: "R14 G58 B83", "c:53% m:68% y:0% k:0%". It returns nil for anything
// else.
func lettered(s, letters string) (values []string) {
	for i := range len(letters) {
		if i > 0 {
			s = strings.TrimLeftFunc(s, between)
		}
		if s == "" || s[0]|0x20 != letters[i] {
			return nil
		}
		s = strings.TrimLeftFunc(s[1:], unicode.IsSpace)
		if s != "" && (s[0] == ':' || s[0] == '=') {
			s = strings.TrimLeftFunc(s[1:], unicode.IsSpace)
		}
		n := NumberLength(s)
		if n == 0 {
			return nil
		}
		values = append(values, s[:n])
		if s = s[n:]; letters == "cmyk" {
			s = strings.TrimPrefix(s, "%")
		}
	}
	if s != "" {
		return nil
	}
	return values
}

func parseHash(s string) (Typed, error) {
	d := s[1:]
	for i := 0; i < len(d); i++ {
		if _, ok := hexDigit(d[i]); !ok {
			return Typed{}, fmt.Errorf("%q holds %q, which is not a hexadecimal digit", s, string([]rune(d[i:])[0]))
		}
	}
	switch len(d) {
	case 3, 4:
		wide := make([]byte, 0, 8)
		for i := range len(d) {
			wide = append(wide, d[i], d[i])
		}
		d = string(wide)
	case 6, 8:
	default:
		return Typed{}, fmt.Errorf("%q has %d hexadecimal digits; a color has 3, 4, 6 or 8", s, len(d))
	}
	v, _ := strconv.ParseUint(d[:6], 16, 32)
	t := Typed{Notation: "hex", RGB: RGB8{uint8(v >> 16), uint8(v >> 8), uint8(v)}.RGB(), Alpha: 1}
	if len(d) == 8 {
		a, _ := strconv.ParseUint(d[6:], 16, 8)
		t.Alpha = float64(a) / 255
	}
	return t, nil
}

// numbers reads bare values: three are RGB, four with slashes are a CMYK build, other four are ambiguous.
func (p parser) numbers(s string) (Typed, error) {
	parts := strings.FieldsFunc(s, between)
	if len(parts) == 3 {
		if measures(parts) {
			line := strings.Join(parts, " ")
			return Typed{}, fmt.Errorf("%q has decimals, as screen values to 255 have not; write rgb(%s) if it is a color", line, line)
		}
		return p.bare(parts)
	}
	if strings.Count(s, "/") == 3 {
		return inks(parts)
	}
	return Typed{}, fmt.Errorf("%q has four numbers: write cmyk(%s) for inks, or rgb(%s / %s) for a color with alpha",
		s, strings.Join(parts, " "), strings.Join(parts[:3], " "), parts[3])
}

// measures says that bare numbers look like sizes or coordinates: decimals beside values over 1, without percent signs.
func measures(parts []string) bool {
	point, above := false, false
	for _, s := range parts {
		v, err := strconv.ParseFloat(s, 64)
		point = point || strings.Contains(s, ".")
		above = above || v > 1
		if err != nil {
			return false
		}
	}
	return point && above
}

// between says whether a character separates bare numbers.
func between(r rune) bool { return unicode.IsSpace(r) || r == ',' || r == ';' || r == '/' }

// bare reads three channels: percentages, 0 to 1 if one has a decimal point and none is above 1, else 0 to 255.
func (p parser) bare(parts []string) (Typed, error) {
	var percent, point int
	above := false
	for _, s := range parts {
		if strings.HasSuffix(s, "%") {
			percent++
		}
		if strings.Contains(s, ".") {
			point++
		}
		if v, _ := strconv.ParseFloat(strings.TrimSuffix(s, "%"), 64); v > 1 {
			above = true
		}
	}
	if percent != 0 && percent != len(parts) {
		return Typed{}, fmt.Errorf("%q mixes percentages and plain numbers", strings.Join(parts, " "))
	}
	scale := 255.0
	if percent == 0 && point > 0 && !above {
		scale = 1
	}
	var out [3]float64
	for i, s := range parts {
		v, err := p.channel(s, scale, channelNames[i])
		if err != nil {
			return Typed{}, err
		}
		out[i] = v
	}
	return Typed{Notation: "rgb", RGB: RGB{out[0], out[1], out[2]}, Alpha: 1}, nil
}

var channelNames = [3]string{"red", "green", "blue"}

// channel reads one bare RGB channel to the scale 0 to 1; plain numbers run to scale, percentages to 100.
func (p parser) channel(s string, scale float64, name string) (float64, error) {
	if v, ok := strings.CutSuffix(s, "%"); ok {
		s, scale = v, 100
	}
	v, err := strconv.ParseFloat(s, 64)
	switch {
	case err != nil || math.IsNaN(v) || math.IsInf(v, 0):
		return 0, fmt.Errorf("%q is not a number for %s", s, name)
	case v < 0:
		return 0, fmt.Errorf("%s is %s, under 0", name, s)
	case v > scale:
		return 0, fmt.Errorf("%s is %s, over %g", name, s, scale)
	}
	return v / scale, nil
}

func inks(parts []string) (Typed, error) {
	var v [4]float64
	for i, s := range parts {
		f, err := strconv.ParseFloat(strings.TrimSuffix(s, "%"), 64)
		ink := [4]string{"cyan", "magenta", "yellow", "black"}[i]
		if err != nil {
			return Typed{}, fmt.Errorf("%q is not a number for %s", s, ink)
		}
		if !(f >= 0 && f <= 100) {
			return Typed{}, fmt.Errorf("%s is %s; an ink lies between 0 and 100 percent", ink, s)
		}
		v[i] = f
	}
	return Typed{Notation: "cmyk", Alpha: 1, CMYK: &CMYK{v[0], v[1], v[2], v[3]}}, nil
}

// ParseCMYK reads a build of four inks in percent, in any of the ways a printer writes it: "2 75 87 8",
// "2/75/87/8", "C2 M75 Y87 K8", "cmyk(2 75 87 8)".
func ParseCMYK(s string) (CMYK, error) {
	s = strings.TrimSpace(s)
	if s != "" && bareNumbers(s) {
		parts := strings.FieldsFunc(s, between)
		if len(parts) != 4 {
			return CMYK{}, fmt.Errorf("%q has %d numbers; a CMYK build has four", s, len(parts))
		}
		t, err := inks(parts)
		if err != nil {
			return CMYK{}, err
		}
		return *t.CMYK, nil
	}
	t, err := Parse(s)
	if err != nil {
		return CMYK{}, fmt.Errorf("%q is not a CMYK build; four percentages are wanted, as in 2 75 87 8", s)
	}
	if t.CMYK == nil {
		return CMYK{}, fmt.Errorf("%q is a screen color; a CMYK build has four percentages, as in 2 75 87 8", s)
	}
	return *t.CMYK, nil
}

// short is a text for a sentence.
func short(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:57]) + "..."
	}
	return s
}
