package color

import (
	"fmt"
	"strings"
)

// Describe says in plain words how a color looks: "dark blue", "pale orange", "light gray". It is for colors that nobody has
// named yet; several colors may be described alike. The bounds are ours, in OKLCH, set so that the twelve hues of a wheel
// and their tints get the words that most people use.
func (c RGB8) Describe() string {
	v := c.RGB().OKLab().OKLCH()
	if v.C < 0.022 {
		switch {
		case v.L < 0.18:
			return "black"
		case v.L > 0.97:
			return "white"
		}
		return join(lightWord(v.L), "gray")
	}
	word := ""
	for _, h := range hueWords {
		if v.H < h.to {
			word = h.word
			break
		}
	}
	if word == "" {
		word = hueWords[0].word
	}
	light := lightWord(v.L)
	switch {
	case (word == "orange" || word == "red" || word == "amber") && v.L < 0.52 && v.C < 0.14:
		word = "brown"
		if light == "dark" {
			light = ""
		}
	case v.C < 0.055:
		word = "grayish " + word
	case v.C > 0.18 && v.L > 0.43:
		light = "bright"
	}
	return join(light, word)
}

var hueWords = []struct {
	to   float64
	word string
}{{12, "pink"}, {33, "red"}, {68, "orange"}, {92, "amber"}, {112, "yellow"}, {132, "lime"}, {163, "green"}, {200, "teal"},
	{228, "cyan"}, {273, "blue"}, {298, "indigo"}, {332, "violet"}, {345, "magenta"}, {360, "pink"}}

func lightWord(l float64) string {
	switch {
	case l < 0.32:
		return "very dark"
	case l < 0.48:
		return "dark"
	case l > 0.93:
		return "very pale"
	case l > 0.85:
		return "pale"
	case l > 0.74:
		return "light"
	}
	return ""
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + " " + b
}

// Apart numbers a description until it is free, and begins it with a capital: "Dark blue", "Dark blue 2".
func Apart(name string, taken func(string) bool) string {
	name = strings.ToUpper(name[:1]) + name[1:]
	out := name
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	return out
}
