package color

import "slices"

// Looks are all words that people say of how a color looks, more than Describe chooses from: "dark", "blue", "navy", "cool". Hues overlap,
// since what one calls teal is green to the next. The bounds are ours, in OKLCH.
func (c RGB8) Looks() []string {
	v := c.RGB().OKLab().OKLCH()
	var out []string
	say := func(is bool, words ...string) {
		if is {
			out = append(out, words...)
		}
	}
	hue := func(from, to float64) bool {
		if from > to {
			return v.H >= from || v.H <= to
		}
		return v.H >= from && v.H <= to
	}
	say(v.L < 0.3, "very dark")
	say(v.L < 0.5, "dark", "deep")
	say(v.L >= 0.45 && v.L <= 0.75, "medium")
	say(v.L > 0.72, "light")
	say(v.L > 0.85 && v.C < 0.09, "pale", "pastel")
	say(v.C < 0.03, "gray", "neutral")
	say(v.C < 0.02 && v.L > 0.94, "white", "off-white")
	say(v.C < 0.02 && v.L < 0.25, "black")
	say(v.C >= 0.012 && v.C < 0.08, "muted", "grayish", "soft")
	say(v.C > 0.14, "bright", "vivid", "strong")
	if v.C > 0.006 { // of a gray, too, one says warm or cool
		say(hue(330, 120), "warm")
		say(hue(150, 300), "cool", "cold")
	}
	if v.C < 0.012 {
		return out
	}
	say(hue(345, 15), "pink")
	say(hue(5, 42), "red")
	say(hue(0, 35) && v.L > 0.65, "pink", "salmon")
	say(hue(0, 35) && v.L < 0.42, "maroon", "burgundy", "wine")
	say(hue(30, 82), "orange")
	say(hue(30, 90) && v.L < 0.58 && v.C < 0.15, "brown")
	say(hue(40, 100) && v.L > 0.7 && v.C < 0.09, "beige", "sand", "cream")
	say(hue(65, 100) && v.L > 0.6 && v.C >= 0.09, "gold", "amber", "mustard")
	say(hue(80, 118) && v.L > 0.55, "yellow")
	say(hue(98, 130) && v.L < 0.6, "olive")
	say(hue(110, 140) && v.L > 0.6, "lime")
	say(hue(118, 200), "green")
	say(hue(165, 228), "teal", "turquoise", "cyan", "aqua")
	say(hue(190, 290), "blue")
	say(hue(225, 290) && v.L < 0.42, "navy")
	say(hue(268, 305), "indigo")
	say(hue(285, 345), "violet", "purple")
	say(hue(285, 345) && v.L > 0.65, "lilac", "lavender")
	say(hue(320, 352) && v.C > 0.1, "magenta")
	slices.Sort(out)
	return slices.Compact(out)
}
