package audit

import (
	"fmt"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Former is a value that a color of the library had once, and that files still have that were made then.
type Former struct {
	RGB   color.RGB8
	Color library.Ref
	When  string // "edition 1 of Core", or "June 3, 2026", until when the library had it
	Until bool   // When is a day
}

// Formers lists what the colors of a library were in its editions, oldest first, where that is not what they are now. Of several editions
// with a value the newest is told.
func Formers(editions []library.Edition, colors []library.Color) (out []Former) {
	at := map[library.Ref]int{}
	places := placesOf(colors)
	for _, e := range editions {
		for _, was := range e.Colors {
			i, there := places[keyOf(was.Ref())]
			if !there || colors[i].RGB == was.RGB || colors[i].Status == library.Draft {
				continue
			}
			f := Former{RGB: was.RGB, Color: colors[i].Ref(), When: fmt.Sprintf("edition %d of %s", e.Number, e.Set)}
			key := library.Ref{ID: f.Color.ID, Name: f.RGB.Hex() + f.Color.Name}
			if k, ok := at[key]; ok {
				out[k] = f
				continue
			}
			at[key] = len(out)
			out = append(out, f)
		}
	}
	return out
}

// keyOf is a color by its number, and by its name where it has none.
func keyOf(r library.Ref) library.Ref {
	if r.ID != 0 {
		return library.Ref{ID: r.ID}
	}
	return r
}

// placesOf is where colors stand in a list, each the first time.
func placesOf(colors []library.Color) map[library.Ref]int {
	out := make(map[library.Ref]int, len(colors))
	for i, c := range colors {
		k := keyOf(c.Ref())
		if _, there := out[k]; !there {
			out[k] = i
		}
	}
	return out
}

// said is how a value came to be where it is.
func (f Former) said() string {
	if f.Until {
		return "as it was until " + f.When
	}
	return "as " + f.When + " had it"
}

// together is how that is said of several colors.
func (f Former) together() string {
	if f.Until {
		return "made before " + f.When
	}
	return "made with " + f.When
}

// Cause is what is behind several findings.
type Cause struct {
	Text   string `json:"text"`
	Colors int    `json:"colors"`
	Uses   int    `json:"uses"`
}

// former explains colors that are what the library had once, and gives back those that are not.
func (j *Judge) former(r *Report, off []int) (rest []int) {
	if len(j.formers) == 0 {
		return off
	}
	for _, at := range off {
		k := &r.Colors[at]
		rgb, err := color.FromHex(k.Hex)
		if err != nil || k.Verdict == Retired {
			rest = append(rest, at)
			continue
		}
		of, ok := j.formers[rgb]
		if !ok || of.unsure {
			rest = append(rest, at)
			continue
		}
		c := j.colors[of.color]
		k.Reason, k.Cause = fmt.Sprintf("%s, %s", c.Name, of.said()), of.together()
		j.meant(k, rgb, of.color)
	}
	return rest
}

// meant makes a color of the library the nearest of a found one, since that is what was meant.
func (j *Judge) meant(k *Judged, rgb color.RGB8, at int) {
	if k.Nearest != nil && k.Nearest.Name == j.colors[at].Name {
		return
	}
	if k.Nearest != nil {
		k.Others = append([]Near{*k.Nearest}, slices.DeleteFunc(k.Others, func(n Near) bool { return n.Name == j.colors[at].Name })...)
	}
	k.Nearest = near(j.colors[at], color.DeltaE00(rgb.Lab(), j.colors[at].RGB.Lab()))
}

// causes counts what is behind the findings of a report, the one of the most uses first.
func (r *Report) causes() {
	at := map[string]int{}
	for _, k := range r.Colors {
		if k.Cause == "" {
			continue
		}
		i, ok := at[k.Cause]
		if !ok {
			i = len(r.Causes)
			at[k.Cause] = i
			r.Causes = append(r.Causes, Cause{Text: k.Cause})
		}
		r.Causes[i].Colors++
		r.Causes[i].Uses += k.Count
	}
	slices.SortStableFunc(r.Causes, func(a, b Cause) int {
		if a.Uses != b.Uses {
			return b.Uses - a.Uses
		}
		return strings.Compare(a.Text, b.Text)
	})
}

// formerAt is a value that a color had, by its place among those that are judged by.
type formerAt struct {
	Former
	color  int
	unsure bool // two colors that may still be used had it: nobody knows which was meant
}

// formersOf finds what is judged by. A color that may still be used wins over a retired one.
func (j *Judge) formersOf(list []Former) {
	j.formers = map[color.RGB8]formerAt{}
	places := placesOf(j.colors)
	for _, f := range list {
		i, there := places[keyOf(f.Color)]
		if !there {
			continue
		}
		was, ok := j.formers[f.RGB]
		switch {
		case !ok || j.colors[was.color].Retired() && !j.colors[i].Retired():
			j.formers[f.RGB] = formerAt{Former: f, color: i}
		case was.color != i && !j.colors[i].Retired():
			was.unsure = true
			j.formers[f.RGB] = was
		}
	}
}
