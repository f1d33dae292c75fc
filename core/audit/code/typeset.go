package code

import (
	"bytes"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// ScanTypeset reads LaTeX with the colors of its packages color and xcolor: those that are defined, and those that a command is given in a
// model or by one of the names that are there without a definition. A mix of named colors follows them and is not reported.
func ScanTypeset(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	l := scanning.NewLines(data)
	text := uncommented(data)
	own := map[string]bool{}
	for _, m := range texDefine.FindAllSubmatch(text, -1) {
		own[string(m[2])] = true
	}
	add := func(at, from, to int, label string, u audit.Use) {
		line, column := l.At(at)
		u.Line, u.Column, u.Where = line, column, s.Texts.Place(name, line, column, label, "")
		if u.Why == "" && u.Fixed == "" {
			u.At = []source.Span{{Part: p, Start: from, End: to}}
		}
		u.Alpha = 1
		s.Add(&u)
	}
	for _, m := range texDefine.FindAllSubmatchIndex(text, -1) {
		models, values := string(text[m[6]:m[7]]), string(text[m[8]:m[9]])
		label := string(text[m[4]:m[5]])
		if strings.Contains(models, "/") {
			add(m[0], 0, 0, label, audit.Use{Value: scanning.Shorten(values, 80), Why: "it is defined in several models at once"})
			continue
		}
		add(m[0], m[8], m[9], label, texColor(models, values))
	}
	for _, m := range texModel.FindAllSubmatchIndex(text, -1) {
		command := "\\" + string(text[m[2]:m[3]])
		add(m[0], m[6], m[7], command, texColor(string(text[m[4]:m[5]]), string(text[m[6]:m[7]])))
	}
	for i, list := range texNamed.FindAllSubmatchIndex(text, -1) {
		if i%scanning.NowAndThen == 0 {
			if err := s.Watch.Read(list[0], len(text)); err != nil {
				return "", err
			}
		}
		word := string(text[list[4]:list[5]])
		base, ok := texNames[word]
		if !ok || own[word] {
			continue
		}
		f := form.Func(func(_ string, to form.Paint) (string, error) {
			return "[HTML]{" + strings.TrimPrefix(to.RGB.Hex(), "#") + "}", nil
		})
		u := audit.Use{Value: word, Color: audit.Screen(base), Form: f}
		add(list[0], list[4]-1, list[5]+1, "\\"+string(text[list[2]:list[3]]), u)
	}
	return audit.Plural(len(l.Starts), "line"), s.Tally.Check()
}

// uncommented is a text with blanks where comments stand, so that offsets stay: from a percent sign that is not escaped to the end of the
// line.
func uncommented(data []byte) []byte {
	out := bytes.Clone(data)
	for i := 0; i < len(out); i++ {
		switch out[i] {
		case '\\':
			i++
		case '%':
			for ; i < len(out) && out[i] != '\n'; i++ {
				out[i] = ' '
			}
		}
	}
	return out
}

var (
	texDefine = regexp.MustCompile(`\\(definecolor|providecolor|preparecolor)\s*(?:\[\w*\])?\s*\{([^{}]{1,80})\}\s*\{([^{}]{1,40})\}\s*\{([^{}]{1,120})\}`)
	texModel  = regexp.MustCompile(`\\(color|textcolor|pagecolor|colorbox|fcolorbox|rowcolor|columncolor|cellcolor|arrayrulecolor)\s*\[([A-Za-z]{1,10})\]\s*\{([^{}]{1,120})\}`)
	texNamed  = regexp.MustCompile(`\\(color|textcolor|pagecolor|colorbox|rowcolor|columncolor|cellcolor|arrayrulecolor)\s*\{([a-z]{1,20})\}`)
)

// texNames are the colors that the package xcolor has without a definition (its manual, 2.4, table 4).
var texNames = func() map[string]color.RGB8 {
	out := map[string]color.RGB8{}
	for name, v := range map[string][3]float64{
		"red": {1, 0, 0}, "green": {0, 1, 0}, "blue": {0, 0, 1}, "cyan": {0, 1, 1}, "magenta": {1, 0, 1}, "yellow": {1, 1, 0}, "black": {0,
			0, 0}, "white": {1, 1, 1},
		"gray": {.5, .5, .5}, "darkgray": {.25, .25, .25}, "lightgray": {.75, .75, .75}, "brown": {.75, .5, .25}, "lime": {.75, 1, 0},
		"olive": {.5, .5, 0}, "orange": {1, .5, 0},
		"pink": {1, .75, .75}, "purple": {.75, 0, .25}, "teal": {0, .5, .5}, "violet": {.5, 0, .5},
	} {
		out[name] = color.RGB{R: v[0], G: v[1], B: v[2]}.RGB8()
	}
	return out
}()

// texColor is a color in a model of xcolor (its manual, 2.3), with how another is written there.
func texColor(model, values string) (u audit.Use) {
	u.Value = model + " " + strings.TrimSpace(values)
	var numbers []float64
	for _, f := range strings.Split(values, ",") {
		v, err := strconv.ParseFloat(strings.TrimSpace(f), 64)
		if err != nil || v < 0 {
			numbers = nil
			break
		}
		numbers = append(numbers, v)
	}
	count, full := 3, 1.0
	switch model {
	case "HTML":
		c, alpha, err := form.ReadHex(strings.TrimSpace(values), "RGB")
		if err != nil || alpha != 1 {
			u.Why = "it is not six digits"
			return u
		}
		u.Color, u.Form = audit.Screen(c), form.Hex("RGB")
		return u
	case "RGB":
		full = 255
	case "rgb":
	case "cmyk":
		count = 4
	case "gray":
		count = 1
	case "Gray":
		count, full = 1, 15
	default:
		u.Why = fmt.Sprintf("the model %s is not read", model)
		return u
	}
	if len(numbers) != count {
		u.Why = fmt.Sprintf("%s takes %s", model, audit.Plural(count, "number"))
		return u
	}
	for _, v := range numbers {
		if v > full {
			u.Why = fmt.Sprintf("a number of it is over %g", full)
			return u
		}
	}
	switch count {
	case 1:
		v := uint8(numbers[0]/full*255 + 0.5)
		u.Color = audit.Screen(color.RGB8{R: v, G: v, B: v})
		u.Form = form.Func(func(old string, to form.Paint) (string, error) {
			if !to.RGB.Neutral() {
				return "", fmt.Errorf("a gray stands there, and %s is none", to.Name)
			}
			return form.Values(old, []float64{float64(to.RGB.R) / 255}, full)
		})
	case 4:
		u.Color, u.Form = audit.InksColor(color.CMYK{C: 100 * numbers[0], M: 100 * numbers[1], Y: 100 * numbers[2], K: 100 * numbers[3]}),
			form.Inks(1)
	default:
		u.Color = audit.Screen(color.RGB{R: numbers[0] / full, G: numbers[1] / full, B: numbers[2] / full}.RGB8())
		u.Form = form.Numbers(full)
	}
	return u
}
