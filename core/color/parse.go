package color

import (
	"fmt"
	"math"
	"regexp"
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
}

// RGB8 is the sRGB value to show and keep; wide colors are mapped into the gamut.
func (t Typed) RGB8() RGB8 { return t.RGB.RGB8() }

// Outside says that the color written does not exist in sRGB, so that RGB8 is only the nearest to it.
func (t Typed) Outside() bool { return t.CMYK == nil && !t.RGB.InGamut() }

// Parse reads one color as people type it: every notation of CSS Color 4, bare hexadecimal digits, bare channel values
// and CMYK builds. Values out of range are errors, never clamped, since a typing mistake hides behind them.
func Parse(s string) (Typed, error) { return parser{strict: true}.parse(s) }

// ParseCSS reads one color as a browser would: functions, # notations and names only, out-of-range values clamped.
func ParseCSS(s string) (Typed, error) { return parser{}.parse(s) }

type parser struct{ strict bool }

var (
	bareHex     = regexp.MustCompile(`^[0-9a-fA-F]{6}$`)
	number      = `[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?`
	bareNums    = regexp.MustCompile(`^` + number + `%?(?:[\s,;/]+` + number + `%?){2,3}$`)
	letteredRGB = regexp.MustCompile(`(?i)^R\s*[:=]?\s*(` + number + `)[\s,;/]*G\s*[:=]?\s*(` + number + `)[\s,;/]*B\s*[:=]?\s*(` + number + `)$`)
	letteredInk = regexp.MustCompile(`(?i)^C\s*[:=]?\s*(` + number + `)%?[\s,;/]*M\s*[:=]?\s*(` + number + `)%?[\s,;/]*Y\s*[:=]?\s*(` + number + `)%?[\s,;/]*K\s*[:=]?\s*(` + number + `)%?$`)
	callForm    = regexp.MustCompile(`(?s)^([a-zA-Z-]+)\(\s*(.*?)\s*\)$`)
)

func (p parser) parse(s string) (Typed, error) {
	s = strings.TrimSpace(s)
	switch {
	case s == "":
		return Typed{}, fmt.Errorf("nothing was given where a color is wanted")
	case len(s) > 200:
		return Typed{}, fmt.Errorf("%q... is too long for one color", s[:30])
	case s[0] == '#':
		return parseHash(s)
	}
	if m := callForm.FindStringSubmatch(s); m != nil {
		return p.call(strings.ToLower(m[1]), m[2], s)
	}
	if c, ok := Named(s); ok {
		return Typed{Notation: "name", RGB: c.RGB(), Alpha: 1}, nil
	}
	if p.strict {
		if bareHex.MatchString(s) {
			return parseHash("#" + s)
		}
		if m := letteredRGB.FindStringSubmatch(s); m != nil {
			return p.bare(m[1:])
		}
		if m := letteredInk.FindStringSubmatch(s); m != nil {
			return inks(m[1:])
		}
		if bareNums.MatchString(s) {
			return p.numbers(s)
		}
	}
	return Typed{}, fmt.Errorf("%q is not a color value", s)
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

// channel reads one RGB channel to the scale 0 to 1; plain numbers run to scale, percentages to 100.
func (p parser) channel(s string, scale float64, name string) (float64, error) {
	if v, ok := strings.CutSuffix(s, "%"); ok {
		s, scale = v, 100
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is not a number for %s", s, name)
	}
	return p.within(v/scale, 0, 1, func() error {
		if v < 0 {
			return fmt.Errorf("%s is %s, under 0", name, s)
		}
		return fmt.Errorf("%s is %s, over %g", name, s, scale)
	})
}

func (p parser) within(v, lo, hi float64, complain func() error) (float64, error) {
	if v >= lo && v <= hi {
		return v, nil
	}
	if p.strict {
		return 0, complain()
	}
	return math.Min(hi, math.Max(lo, v)), nil
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
	if bareNums.MatchString(s) {
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

// call reads the functional notations of CSS Color 4.
func (p parser) call(name, body, whole string) (Typed, error) {
	fail := func(format string, args ...any) (Typed, error) {
		return Typed{}, fmt.Errorf("%q: "+format, append([]any{whole}, args...)...)
	}
	args, alphaText, err := split(body)
	if err != nil {
		return fail("%v", err)
	}
	legacy := strings.Contains(body, ",")
	space := ""
	if name == "color" {
		if len(args) == 0 {
			return fail("a color space is missing")
		}
		space, args = strings.ToLower(args[0]), args[1:]
	}
	if name == "cmyk" || name == "device-cmyk" {
		if len(args) != 4 {
			return fail("%d values where four inks are wanted", len(args))
		}
		if name == "device-cmyk" { // CSS Color 5 counts a plain number from 0 to 1
			for i, a := range args {
				if v, err := strconv.ParseFloat(a, 64); err == nil {
					args[i] = strconv.FormatFloat(v*100, 'g', -1, 64)
				}
			}
		}
		t, err := inks(args)
		if err != nil {
			return fail("%v", err)
		}
		return t, nil
	}
	if len(args) == 4 && alphaText == "" && legacy && (name == "rgb" || name == "rgba" || name == "hsl" || name == "hsla") {
		args, alphaText = args[:3], args[3]
	}
	if len(args) != 3 {
		return fail("%d values where three are wanted", len(args))
	}
	t := Typed{Notation: strings.TrimSuffix(name, "a"), Alpha: 1}
	if alphaText != "" {
		if t.Alpha, err = p.alpha(alphaText); err != nil {
			return fail("%v", err)
		}
	}
	var v [3]float64
	read := func(i int, plain, percent, lo, hi float64, what string) {
		if err == nil {
			v[i], err = p.arg(args[i], plain, percent, lo, hi, what)
		}
	}
	angle := func(i int) {
		if err == nil {
			v[i], err = parseAngle(args[i])
		}
	}
	inf := math.Inf(1)
	switch name {
	case "rgb", "rgba":
		for i := range v {
			if err == nil && strings.ToLower(args[i]) != "none" {
				v[i], err = p.channel(args[i], 255, channelNames[i])
			}
		}
		t.RGB = RGB{v[0], v[1], v[2]}
	case "hsl", "hsla":
		angle(0)
		read(1, 0.01, 1, 0, 1, "saturation")
		read(2, 0.01, 1, 0, 1, "lightness")
		t.RGB = HSL{v[0], v[1], v[2]}.RGB()
	case "hwb":
		angle(0)
		read(1, 0.01, 1, 0, 1, "whiteness")
		read(2, 0.01, 1, 0, 1, "blackness")
		t.RGB = HWB{v[0], v[1], v[2]}.RGB()
	case "hsv", "hsb": // no notation of CSS, but people type what their picker shows
		if !p.strict {
			return fail("there is no color function %q", name)
		}
		angle(0)
		read(1, 0.01, 1, 0, 1, "saturation")
		read(2, 0.01, 1, 0, 1, "brightness")
		t.RGB = HSV{v[0], v[1], v[2]}.RGB()
	case "lab":
		read(0, 1, 100, 0, 100, "lightness")
		read(1, 1, 125, -inf, inf, "a")
		read(2, 1, 125, -inf, inf, "b")
		t.RGB = Lab{v[0], v[1], v[2]}.RGB()
	case "lch":
		read(0, 1, 100, 0, 100, "lightness")
		read(1, 1, 150, 0, inf, "chroma")
		angle(2)
		t.RGB = LCh{v[0], v[1], v[2]}.Lab().RGB()
	case "oklab":
		read(0, 1, 1, 0, 1, "lightness")
		read(1, 1, 0.4, -inf, inf, "a")
		read(2, 1, 0.4, -inf, inf, "b")
		t.RGB = OKLab{v[0], v[1], v[2]}.RGB()
	case "oklch":
		read(0, 1, 1, 0, 1, "lightness")
		read(1, 1, 0.4, 0, inf, "chroma")
		angle(2)
		t.RGB = OKLCH{v[0], v[1], v[2]}.OKLab().RGB()
	case "color":
		for i := range v {
			read(i, 1, 1, -inf, inf, "channel")
		}
		switch space {
		case "srgb":
			t.RGB = RGB{v[0], v[1], v[2]}
		case "srgb-linear":
			t.RGB = Linear{v[0], v[1], v[2]}.RGB()
		case "xyz", "xyz-d65":
			t.RGB = XYZ{v[0], v[1], v[2]}.Linear().RGB()
		case "xyz-d50":
			x, y, z := d50ToD65.mul(v[0], v[1], v[2])
			t.RGB = XYZ{x, y, z}.Linear().RGB()
		case "display-p3":
			x, y, z := p3ToXYZ.mul(decode(v[0]), decode(v[1]), decode(v[2]))
			t.RGB = XYZ{x, y, z}.Linear().RGB()
		default:
			return fail("the color space %q is not known", space)
		}
	default:
		return fail("there is no color function %q", name)
	}
	if err != nil {
		return fail("%v", err)
	}
	for _, f := range []float64{t.RGB.R, t.RGB.G, t.RGB.B} {
		if math.IsNaN(f) || math.Abs(f) > 1e6 {
			return fail("the values are far outside any color")
		}
	}
	return t, nil
}

// p3ToXYZ holds the Display P3 primaries of CSS Color 4.
var p3ToXYZ = matrix{
	{608311. / 1250200, 189793. / 714400, 198249. / 1000160},
	{35783. / 156275, 247089. / 357200, 198249. / 2500400},
	{0, 32229. / 714400, 5220557. / 5000800},
}

// split separates the arguments of a function and the alpha after a slash.
func split(body string) (args []string, alpha string, err error) {
	if before, after, ok := strings.Cut(body, "/"); ok {
		body, alpha = before, strings.TrimSpace(after)
		if alpha == "" || strings.ContainsAny(alpha, "/ ,") {
			return nil, "", fmt.Errorf("one alpha value is wanted after the slash")
		}
	}
	if strings.Contains(body, ",") {
		for _, s := range strings.Split(body, ",") {
			s = strings.TrimSpace(s)
			if s == "" || strings.ContainsAny(s, " \t\n") {
				return nil, "", fmt.Errorf("commas must separate every value")
			}
			args = append(args, s)
		}
		return args, alpha, nil
	}
	return strings.Fields(body), alpha, nil
}

// arg reads a number times plain or a percentage of percent.
func (p parser) arg(s string, plain, percent, lo, hi float64, what string) (float64, error) {
	if strings.EqualFold(s, "none") {
		return 0, nil
	}
	text, unit := s, plain
	if v, ok := strings.CutSuffix(s, "%"); ok {
		text, unit = v, percent/100
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is not a number for %s", s, what)
	}
	return p.within(v*unit, lo, hi, func() error {
		return fmt.Errorf("%s is %s, outside its range", what, s)
	})
}

func (p parser) alpha(s string) (float64, error) { return p.arg(s, 1, 1, 0, 1, "alpha") }

func parseAngle(s string) (float64, error) {
	if strings.EqualFold(s, "none") {
		return 0, nil
	}
	text, unit := s, 1.0
	for _, u := range []struct {
		suffix  string
		degrees float64
	}{{"deg", 1}, {"grad", 0.9}, {"rad", 180 / math.Pi}, {"turn", 360}} {
		if v, ok := strings.CutSuffix(strings.ToLower(s), u.suffix); ok {
			text, unit = v, u.degrees
			break
		}
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is not an angle", s)
	}
	h := math.Mod(v*unit, 360)
	if h < 0 {
		h += 360
	}
	return h, nil
}
