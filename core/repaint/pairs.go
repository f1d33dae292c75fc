package repaint

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Pair is one line of a map of old to new, as somebody wrote it: what was found becomes a color of the library.
type Pair struct {
	Line int    // from 1
	Text string // as written
	Step        // empty where it was not understood
	Why  string // it was not; empty if it was
}

// parters are what stands between old and new, those that mean nothing else first.
var parters = []string{"→", "⇒", "=>", "->", "\t", " becomes ", " is now ", " replaced by ", " to ", "|", ";", "=", ":", ","}

// longestPair is how many bytes a line may have: names have up to 120 letters.
const longestPair = 1000

// ReadPairs reads a map of old to new, a line each: "#1D6F6A → Harbor Teal", "Old Teal to Harbor Teal", two cells of a sheet. Old is a
// value in any notation, or a color of the library by its name, whose value is meant; new is a color of the library in use, by its name or
// exactly by its value. Every line that holds something is there, in order, understood or not. An old value is one of them only; a line
// that repeats one in other words is said.
func ReadPairs(text string, colors []library.Color) (out []Pair) {
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text)
	taken := map[string]Pair{}
	for i, line := range strings.Split(text, "\n") {
		line = strings.Trim(line, " \u00a0\ufeff")
		if strings.TrimSpace(line) == "" {
			continue
		}
		p := Pair{Line: i + 1, Text: strings.TrimSpace(line)}
		if p.Step, p.Why = readPair(line, colors); p.Why == "" {
			if was, twice := taken[p.From]; twice && was.To == p.To {
				p.Why = fmt.Sprintf("line %d says so already", was.Line)
			} else if twice {
				p.Why = fmt.Sprintf("line %d says that %s becomes %s", was.Line, p.From, was.To)
			} else {
				taken[p.From] = p
			}
		}
		if p.Why != "" {
			p.Step = Step{}
		}
		out = append(out, p)
	}
	return out
}

// readPair reads a line; of several ways to part it the first counts in which both sides are understood.
func readPair(line string, colors []library.Color) (s Step, why string) {
	if len(line) > longestPair {
		return s, "it is too long for an old value and a name"
	}
	for _, part := range parters {
		for at := strings.Index(line, part); at >= 0; {
			old, now := strings.TrimSpace(line[:at]), strings.TrimSpace(line[at+len(part):])
			from, whyNot := oldOf(old, colors)
			if whyNot == "" {
				to, whyNot := newOf(now, colors)
				if whyNot == "" {
					if from == to.RGB.Hex() {
						return s, fmt.Sprintf("%s is %s already", to.Name, from)
					}
					return Step{From: from, To: to.Name}, ""
				}
				why = cmp.Or(why, whyNot)
			} else {
				why = cmp.Or(why, whyNot)
			}
			next := strings.Index(line[at+len(part):], part)
			if next < 0 {
				break
			}
			at += len(part) + next
		}
	}
	// Two values, or a value and a name, with nothing but a space between them.
	words := strings.Fields(line)
	for i := 1; i < len(words); i++ {
		from, whyNot := oldOf(strings.Join(words[:i], " "), colors)
		if whyNot != "" {
			continue
		}
		if to, whyNot := newOf(strings.Join(words[i:], " "), colors); whyNot == "" && from != to.RGB.Hex() {
			return Step{From: from, To: to.Name}, ""
		}
	}
	return s, cmp.Or(why, "it does not say what becomes of what: write the old value, an arrow, and the name of a color")
}

// oldOf is what a plan calls an old color.
func oldOf(text string, colors []library.Color) (from, why string) {
	if text == "" {
		return "", "the old value is missing"
	}
	if c, ok := called(text, colors); ok {
		return c.RGB.Hex(), ""
	}
	t, _, err := color.ReadValue(text)
	if err == nil {
		switch {
		case t.CMYK != nil:
			return t.CMYK.String(), ""
		case t.Outside():
			return t.Exactly(), ""
		}
		return t.RGB8().Hex(), ""
	}
	// a name and its value, as lists have it
	if lines := color.ReadList(text); len(lines) == 1 && lines[0].Err == nil && lines[0].Name != "" {
		if lines[0].Exact != "" {
			return lines[0].Exact, ""
		}
		return lines[0].RGB.Hex(), ""
	}
	return "", fmt.Sprintf("%q is no value, and no color of the library", shortly(text))
}

// newOf is the color of the library that is meant.
func newOf(text string, colors []library.Color) (c library.Color, why string) {
	if text == "" {
		return c, "what it becomes is missing"
	}
	c, ok := called(text, colors)
	if !ok {
		if lines := color.ReadList(text); len(lines) == 1 && lines[0].Err == nil {
			l := lines[0]
			if named, known := called(l.Name, colors); known && named.RGB != l.RGB {
				return c, fmt.Sprintf("%s is %s in the library, not %s", named.Name, named.RGB.Hex(), l.RGB.Hex())
			} else if known {
				c, ok = named, true
			} else if i := slices.IndexFunc(colors, func(k library.Color) bool {
				return inUse(k) && k.RGB == l.RGB &&
					l.Exact == ""
			}); i >= 0 {
				c, ok = colors[i], true
			} else {
				return c, fmt.Sprintf("the library has no color %s", l.RGB.Hex())
			}
		}
	}
	switch {
	case !ok:
		return c, fmt.Sprintf("the library has no color %q", shortly(text))
	case c.Status == library.Draft:
		return c, fmt.Sprintf("%s is proposed only", c.Name)
	case c.Retired():
		return c, fmt.Sprintf("%s is retired; nothing becomes it", c.Name)
	}
	return c, ""
}

func inUse(c library.Color) bool { return c.Status != library.Draft && !c.Retired() }

// called is the color of a name; in use before others.
func called(name string, colors []library.Color) (c library.Color, ok bool) {
	name = strings.Trim(strings.TrimSpace(name), `"'“”„`)
	for _, k := range colors {
		if name != "" && strings.EqualFold(k.Name, name) && (!ok || inUse(k)) {
			c, ok = k, true
		}
	}
	return c, ok
}

func shortly(text string) string {
	if r := []rune(text); len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return text
}

// ByPosition pairs the colors of two sets by their places: the old value, and the builds that were approved for it or given, become the
// color that has the place now. Places that one of them lacks, and colors that stay, are said.
func ByPosition(old, now []library.Color) (out []Pair) {
	taken := map[string]string{}
	for i := range max(len(old), len(now)) {
		p := Pair{Line: i + 1}
		switch {
		case i >= len(now):
			p.Text, p.Why = old[i].Name, "the new set has no color at this place"
		case i >= len(old):
			p.Text, p.Why = now[i].Name, "the old set has no color at this place"
		default:
			p.Text = old[i].Name + " → " + now[i].Name
			if _, why := newOf(now[i].Name, now[i:i+1]); why != "" {
				p.Why = why
			} else if old[i].ID != 0 && old[i].ID == now[i].ID || old[i].RGB == now[i].RGB {
				p.Why = "it stays as it is"
			}
		}
		if p.Why != "" {
			out = append(out, p)
			continue
		}
		values := []string{old[i].RGB.Hex()}
		for _, b := range old[i].Builds {
			if text := b.Value.String(); !slices.Contains(values, text) {
				values = append(values, text)
			}
		}
		for _, from := range values {
			one := p
			if was, twice := taken[from]; twice {
				one.Why = fmt.Sprintf("%s becomes %s by another place", from, was)
			} else {
				taken[from] = now[i].Name
				one.Step = Step{From: from, To: now[i].Name}
			}
			out = append(out, one)
		}
	}
	return out
}
