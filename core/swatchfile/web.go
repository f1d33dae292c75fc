package swatchfile

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"huekeep/core/library"
)

// styleSheet is what every packing for the web holds, under names that its language takes.
type styleSheet struct {
	values    []styleEntry
	on        []stylePair
	gradients []styleGradient
}

type styleEntry struct {
	name, title string
	sheerValue
	wide string // the measured value, where the screen's does not reach it
}

// stylePair says what stands best on a ground, by the rules of the house.
type stylePair struct{ ground, color string }

type styleGradient struct {
	name, title, space string
	angle              float64
	stops              []styleStop
}

type styleStop struct {
	name  string
	place float64
}

// sheet lists what goes into a style sheet; name makes a name of the language, between stands in front of the number of one that is there
// already.
func sheet(e library.Edition, name func(string) string, between string) (styleSheet, error) {
	var s styleSheet
	if len(e.Colors) == 0 {
		return s, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	for i, c := range e.Colors {
		s.values = append(s.values, styleEntry{title: c.Name, sheerValue: sheerValue{c.RGB, 1}, wide: c.CSS()})
		if e.Before(4) {
			s.values[i].wide = ""
		}
	}
	if e.Before(4) { // what was sent then had nothing else
		e.Pairs, e.Gradients = nil, nil
	}
	for _, c := range e.Colors {
		for _, p := range beside(c) {
			if !e.Before(4) { // what was sent then had none
				s.values = append(s.values, styleEntry{title: p.title, sheerValue: p.sheerValue})
			}
		}
	}
	names := make([]string, len(s.values))
	for i, v := range s.values {
		names[i] = name(v.title)
	}
	for i, n := range distinctBy(names, between) {
		s.values[i].name = n
	}
	at := func(r library.Ref) int { return slices.IndexFunc(e.Colors, r.Is) }
	for i, ground := range e.Colors {
		best, ratio := -1, 0.0
		for _, p := range e.Pairs {
			if of := at(p.Color); p.May && at(p.Ground) == i && of >= 0 {
				if r, keeps := p.Keeps(e.Colors[of].RGB, ground.RGB); keeps && r > ratio {
					best, ratio = of, r
				}
			}
		}
		if best >= 0 {
			s.on = append(s.on, stylePair{s.values[i].name, s.values[best].name})
		}
	}
	titles := make([]string, len(e.Gradients))
	for i, g := range e.Gradients {
		titles[i] = name(g.Name)
	}
	titles = distinct(titles)
	for i, g := range e.Gradients {
		to := styleGradient{name: titles[i], title: g.Name, space: g.Space, angle: g.Angle}
		for _, stop := range g.Stops {
			if of := at(stop.Color); of >= 0 {
				to.stops = append(to.stops, styleStop{s.values[of].name, stop.Place})
			}
		}
		s.gradients = append(s.gradients, to)
	}
	return s, nil
}

// colorNames is what the colors of an edition are called in a style sheet, without what belongs to them.
func colorNames(e library.Edition, name func(string) string) []string {
	s, err := sheet(e, name, "-")
	if err != nil {
		return nil
	}
	var out []string
	for _, v := range s.values[:len(e.Colors)] {
		out = append(out, v.name)
	}
	return out
}

// beyond are the colors that sRGB does not reach; editions of before had them in CSS alone.
func (s styleSheet) beyond(e library.Edition) (list []styleEntry) {
	for _, v := range s.values {
		if v.wide != "" && !e.Before(6) {
			list = append(list, v)
		}
	}
	return list
}

// short writes a number with at most n decimals.
func short(v float64, n int) string {
	p := math.Pow10(n)
	return strconv.FormatFloat(math.Round(v*p)/p+0, 'f', -1, 64)
}

// css writes a gradient (CSS Images 4); value writes the name of a color as its value.
func (g styleGradient) css(value func(string) string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "linear-gradient(%sdeg in %s", short(g.angle, 2), g.space)
	for _, s := range g.stops {
		fmt.Fprintf(&b, ", %s %s%%", value(s.name), short(s.place, 2))
	}
	return b.String() + ")"
}

// WriteTypeScript writes an edition as a module with types: the colors by name, in order, what stands on what, and gradients.
func WriteTypeScript(e library.Edition) ([]byte, error) { return module(e, true) }

// module writes the module, with the types in it or without any, as browsers and Node take it.
func module(e library.Edition, typed bool) ([]byte, error) {
	s, err := sheet(e, memberName, "_")
	if err != nil {
		return nil, err
	}
	types := func(text string) string {
		if typed {
			return text
		}
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "/** %s */\nexport const colors = {\n", comment(e.Title()))
	for _, v := range s.values {
		fmt.Fprintf(&b, "  /** %s */\n  %s: '%s',\n", comment(v.title), v.name, v.hex())
	}
	b.WriteString("}" + types(" as const") + ";\n\n" + types(nameTypes) +
		"/** The colors of the set in their order, as a chart takes them. */\nexport const order" + types(": readonly ColorName[]") +
		" = [")
	for i := range e.Colors {
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "'%s'", s.values[i].name)
	}
	b.WriteString("];\n\n/** What stands on a ground, by the rules of the house. */\nexport const on" +
		types(": Partial<Record<ColorName, ColorName>>") + " = {\n")
	for _, p := range s.on {
		fmt.Fprintf(&b, "  %s: '%s',\n", p.ground, p.color)
	}
	b.WriteString("};\n\n" + types(gradientType) + "export const gradients" + types(": Record<string, Gradient>") + " = {\n")
	for _, g := range s.gradients {
		fmt.Fprintf(&b, "  %s: {\n    angle: %s,\n    space: '%s',\n    stops: [", g.name, short(g.angle, 2), g.space)
		for i, stop := range g.stops {
			if i > 0 {
				b.WriteString(", ")
			}
			fmt.Fprintf(&b, "{ color: '%s', place: %s }", stop.name, short(stop.place, 2))
		}
		b.WriteString("],\n  },\n")
	}
	b.WriteString("};\n\n/** The value of a color. */\nexport function value(name" + types(": ColorName") + ")" + types(": Hex") +
		" {\n  return colors[name];\n}\n")
	if list := s.beyond(e); len(list) > 0 {
		b.WriteString("\n/** Colors beyond sRGB, as CSS writes them for screens that show more. */\nexport const wide" +
			types(": Partial<Record<ColorName, string>>") + " = {\n")
		for _, v := range list {
			fmt.Fprintf(&b, "  %s: '%s',\n", v.name, v.wide)
		}
		b.WriteString("};\n")
	}
	return []byte(b.String()), nil
}

const nameTypes = "export type ColorName = keyof typeof colors;\nexport type Hex = `#${string}`;\n\n"

const gradientType = "export interface Gradient {\n  readonly angle: number;\n  readonly space: string;\n  readonly stops: readonly { readonly color: ColorName; readonly place: number }[];\n}\n\n"

// memberName makes a name of letters and digits that begins with a letter: "deepSound300".
func memberName(name string) string {
	var b strings.Builder
	for i, word := range strings.Split(Slug(name), "-") {
		r := []rune(word)
		if i > 0 && len(r) > 0 {
			r[0] = unicode.ToUpper(r[0])
		}
		b.WriteString(string(r))
	}
	out := b.String()
	if first := []rune(out)[0]; !unicode.IsLetter(first) {
		return "color" + out
	}
	return out
}

// typeScriptLoses is what the module leaves out, and which names it mended.
func typeScriptLoses(e library.Edition) []lost {
	out := printValuesLost(e, "Modules")
	for i, name := range colorNames(e, memberName) {
		if plain := memberName(e.Colors[i].Name); plain != name || strings.HasPrefix(plain, "color") &&
			!strings.HasPrefix(Slug(e.Colors[i].Name), "color") {
			out = append(out, lost{"some names", fmt.Sprintf("A member's name begins with a letter and stands once; that of %s is %s",
				e.Colors[i].Name, name)})
		}
	}
	return out
}
