//go:build !js

package color

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"
)

// blocks joins lines that belong together: a line with a name, and below it lines that are a value each, of kinds that differ. A blank
// line, another name or a kind that was there already ends a block. A heading over several colors of one kind is not the name of any.
func blocks(lines []Line) []Line {
	var out []Line
	for i := 0; i < len(lines); {
		n := 0 // lines below that are a value and nothing else
		for n < mostOfBlock && i+1+n < len(lines) && lines[i+1+n].Number == lines[i+n].Number+1 && lines[i+1+n].bare() {
			n++
		}
		joined, took := lines[i], 0
		switch head := lines[i]; {
		case head.heads():
			joined, took = joinAll(Line{Number: head.Number, Text: head.Text, Name: cleanName(head.Text), Err: ErrWords}, lines[i+1:i+1+n],
				true)
			if took < n && took < 2 || took == 0 { // a heading over a list
				joined, took = head, 0
			}
		case !head.one():
		default:
			joined, took = joinAll(head, lines[i+1:i+1+n], false)
		}
		out = append(out, joined)
		i += 1 + took
	}
	return out
}

// alias is a line that names another color instead of a value: "--accent: var(--deep-sound)", "Accent: {color.deep-sound}".
var alias = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`^["']?([^:={]+?)["']?\s*[:=]\s*["']?(?:var\(\s*--([^(),\s]+)\s*\)|\{([^{}]+)\})["']?[;,]?$`)
})

// mostHops is how many names one goes through to a value.
const mostHops = 50

// follow gives lines that name another color its value, where the text has that; else they say what they point to.
func follow(lines []Line) {
	at := map[string]int{}
	for i, l := range lines {
		if l.Name != "" && l.one() {
			at[strings.ToLower(l.Name)] = i
		}
	}
	pointed := map[int]string{}
	for i, l := range lines {
		if l.Err == nil || errors.Is(l.Err, ErrInkOnly) || !strings.ContainsAny(l.Text, "{(") {
			continue
		}
		if m := alias().FindStringSubmatch(l.Text); m != nil {
			to := m[2] + m[3]
			pointed[i] = strings.ToLower(to[strings.LastIndexByte(to, '.')+1:])
			lines[i].Name = cleanName(m[1])
			at[strings.ToLower(lines[i].Name)] = i
		}
	}
	for i, to := range pointed {
		is, ok := at[to]
		for hops := 0; ok && pointed[is] != "" && hops < mostHops; hops++ {
			is, ok = at[pointed[is]]
		}
		if of := lines[min(is, len(lines)-1)]; ok && pointed[is] == "" && of.one() {
			of.Number, of.Text, of.Name, of.many = lines[i].Number, lines[i].Text, lines[i].Name, lines[i].many
			lines[i] = of
		} else {
			lines[i].Err = fmt.Errorf("it points to %s, which the text does not hold", short(to))
		}
	}
}

// mostOfBlock is over how many lines below a name one looks for its values: there are no more kinds.
const mostOfBlock = 10

// one says whether a line holds one color.
func (l Line) one() bool { return !l.many && (l.Err == nil || errors.Is(l.Err, ErrInkOnly)) }

// heads says whether a line may be the name over a block: some words that end no sentence, a name of CSS among them.
func (l Line) heads() bool {
	called := l.Err == nil && l.Name == "" && l.Value == l.Text && !strings.ContainsAny(l.Text, "#(0123456789")
	return (called || errors.Is(l.Err, ErrWords)) && len([]rune(l.Text)) <= 60 &&
		!strings.ContainsAny(l.Text[len(l.Text)-1:], ".!?,") && cleanName(l.Text) != ""
}

// bare says whether a line is a value and nothing else, but for a label.
func (l Line) bare() bool {
	return l.onPress() || l.one() && l.Name == "" && (l.Value != l.Text || strings.ContainsAny(l.Text, "#(0123456789")) || l.isInk()
}

// onPress says whether a line is a build with the name of a press in parentheses behind it.
func (l Line) onPress() bool {
	return l.CMYK != nil && l.one() && l.Value == "" && l.Name != "" && l.Paper == "" &&
		l.says() == "cmyk" && strings.HasSuffix(l.Text, "("+l.Name+")")
}

// inkLine is a line with the code of an ink, which this package does not know.
var inkLine = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`(?i)^(?:spot|ink)(?:\s+(?:ink|colou?r))?\s*[:=]?\s*\S.*\d\S*$`)
})

func (l Line) isInk() bool {
	return strings.ContainsAny(l.Text[:1], "sSiI") && inkLine().MatchString(l.Text)
}

// says is the word that a line says before its value: "rgb"; empty for none.
func (l Line) says() string {
	word, _, _ := strings.Cut(strings.ToLower(strings.TrimLeft(l.Text, "•*-– ")), " ")
	return strings.TrimRight(word, ":=")
}

// kind is the kind of value that a line is.
func (l Line) kind() string {
	switch {
	case l.isInk():
		return "ink"
	case l.Value == "":
		return "build"
	case strings.HasPrefix(l.Value, "#") || !strings.ContainsAny(l.Value, " ,;/("):
		return "hex"
	}
	for _, model := range []string{"hs", "lab", "lch", "ok", "color", "hw", "cie", "l*"} {
		if strings.HasPrefix(strings.ToLower(l.Value), model) {
			return model
		}
	}
	return "rgb"
}

// lineLabels are the words that a line of a block begins with.
var lineLabels = strings.Fields("hex html web rgb srgb cmyk 4c process hsl hsb hsv lab cielab lch oklch oklab spot ink r c h l")

// elsewherePrinted is a build or an ink that says which paper other than coated it is for: "CMYK 0 75 100 7 for uncoated paper"; empty for
// other lines.
func elsewherePrinted(l Line, kind string) string {
	switch {
	case kind == "build" && l.CMYK != nil && l.Paper != "" && l.Paper != "coated":
		return fmt.Sprintf("CMYK %s for %s paper", *l.CMYK, strings.ReplaceAll(l.Paper, "-", " "))
	case kind == "ink" && strings.Contains(strings.ToLower(l.Text), " on "):
		return strings.TrimSpace(l.Text)
	}
	return ""
}

// joinAll joins a line and as many of those below it as are one color with it. Under a name, values need no label.
func joinAll(head Line, below []Line, named bool) (Line, int) {
	seen := map[string]bool{}
	if !named {
		seen[head.kind()] = true
		if head.CMYK != nil {
			seen["build"] = true
		}
	}
	for n, l := range below {
		if l.onPress() {
			l.Paper = l.Name
		}
		kind := l.kind()
		labelled := slices.Contains(lineLabels, l.says())
		if also := elsewherePrinted(l, kind); also != "" && seen[kind] { // a color has a build and an ink for each paper
			if kind != "ink" { // a second code would be a second ink
				head.Text += "\n" + l.Text
			}
			head.Note = strings.TrimPrefix(head.Note+"; "+also+" is not taken along; approve it at the color", "; ")
			continue
		}
		if seen[kind] || !named && !labelled {
			return head, n
		}
		if l.Value != "" && head.Value != "" && l.RGB != head.RGB {
			de := DeltaE00(l.RGB.Lab(), head.RGB.Lab())
			if de > 2 && !labelled {
				return head, n
			}
			if de > 0.5 {
				head.Err = &Unsure{Text: head.Value + " and " + l.Value + " are different colors; which one is meant?",
					Readings: []Reading{{"as " + head.Value, head.RGB.Hex(), head.RGB}, {"as " + l.Value, l.RGB.Hex(), l.RGB}}}
			} else if head.Note == "" {
				head.Note = l.Value + " beside it is not quite the same"
			}
		}
		seen[kind] = true
		head.Text += "\n" + l.Text
		var unsure *Unsure
		switch {
		case errors.As(head.Err, &unsure):
		case kind == "ink":
			if errors.Is(head.Err, ErrWords) {
				head.Err = l.Err // an ink alone, which others know
			}
		case head.Value == "" && l.Value != "":
			head.RGB, head.Value, head.Exact, head.Note, head.Err = l.RGB, l.Value, l.Exact, l.Note, nil
		case head.Err != nil && l.Value == "":
			head.Err = l.Err
		}
		if l.CMYK != nil {
			head.CMYK, head.Build, head.Paper = l.CMYK, l.Build, l.Paper
		}
	}
	return head, len(below)
}
