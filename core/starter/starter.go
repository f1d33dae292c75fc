// Package starter holds ready-made small palettes to begin from. They are made up here: each subject is a handful of
// hues that belong to a place, a season or a thing, seen in three lights.
package starter

import (
	_ "embed" // the subjects
	"fmt"
	"math"
	"strconv"
	"strings"
	"sync"

	"huekeep/core/color"
	"huekeep/core/contrast"
)

// Starter is a small palette with keywords.
type Starter struct {
	Key      string // "q17" for one that ships
	Name     string
	Keywords []string
	Colors   []color.RGB8
}

// Specimen says how one would use the colors: which is the ground, which the type on it, which the main color; the others are
// accents. The ground is the lightest, the type what stands out from it most, the main color the most vivid of the rest.
func Specimen(colors []color.RGB8) (ground, kind, main int) {
	for i, c := range colors {
		if c.Luminance() > colors[ground].Luminance() {
			ground = i
		}
	}
	kind, main = ground, ground
	for i, c := range colors {
		if i != ground && (kind == ground || contrast.Ratio(c, colors[ground]) > contrast.Ratio(colors[kind], colors[ground])) {
			kind = i
		}
	}
	vivid := func(i int) float64 { return colors[i].RGB().OKLab().OKLCH().C }
	for i := range colors {
		if i != ground && i != kind && (main == ground || vivid(i) > vivid(main)) {
			main = i
		}
	}
	return ground, kind, main
}

// subject is what three starters are made of: hues in OKLCH degrees, for its five places in turn.
type subject struct {
	name, words string
	hues        []float64
}

// lights are the three ways to see a subject: lightness of the five places and a factor of chroma.
var lights = []struct {
	name, words string
	l           [5]float64
	chroma      float64
}{
	{"by day", "clear fresh balanced", [5]float64{0.40, 0.58, 0.74, 0.86, 0.95}, 0.120},
	{"in bloom", "bold vivid lively bright", [5]float64{0.32, 0.55, 0.66, 0.80, 0.92}, 0.175},
	{"at dusk", "quiet muted calm soft", [5]float64{0.26, 0.44, 0.60, 0.75, 0.90}, 0.065},
}

var subjects = []subject{
	{"Slip road", "sea harbor travel water ferry", []float64{235, 215, 60, 35, 90}},
	{"Net loft", "sea rope work harbor craft", []float64{245, 190, 80, 60, 95}},
	{"Salt pan", "sea mineral white coast", []float64{220, 200, 30, 15, 100}},
	{"Kelp bed", "sea green algae underwater nature", []float64{165, 145, 120, 95, 110}},
	{"Lantern room", "light night tower warm", []float64{260, 70, 85, 50, 95}},
	{"Ebb", "sea sand beach calm summer", []float64{225, 210, 85, 75, 90}},
	{"Breakwater", "stone sea storm gray strong", []float64{240, 230, 250, 200, 220}},
	{"Gull cliff", "coast bird rock air", []float64{230, 250, 45, 90, 220}},
	{"Moss cellar", "forest damp green dark earth", []float64{150, 135, 110, 70, 100}},
	{"Fern gully", "forest leaf green nature eco", []float64{155, 140, 125, 105, 115}},
	{"Birch stand", "forest bark light nordic", []float64{120, 80, 70, 95, 100}},
	{"Mushroom hour", "forest autumn brown food earth", []float64{45, 60, 75, 85, 90}},
	{"Pine resin", "forest wood amber scent", []float64{150, 65, 75, 85, 95}},
	{"First frost", "winter ice cold blue clean", []float64{245, 230, 215, 200, 220}},
	{"Snow fence", "winter white wood country", []float64{250, 240, 55, 70, 230}},
	{"Sledge run", "winter children red fun holiday", []float64{250, 25, 20, 60, 230}},
	{"Thaw", "spring water fresh melt", []float64{225, 195, 130, 110, 210}},
	{"Crocus lawn", "spring flower violet green garden", []float64{300, 310, 140, 95, 120}},
	{"Apple blossom", "spring flower pink love wedding", []float64{140, 355, 5, 20, 60}},
	{"Rhubarb patch", "spring food pink green garden", []float64{10, 0, 130, 120, 30}},
	{"Hay loft", "summer farm yellow dry country", []float64{70, 80, 90, 95, 100}},
	{"Poppy verge", "summer flower red field", []float64{150, 25, 30, 55, 95}},
	{"Lido", "summer water swim fun turquoise", []float64{235, 205, 190, 65, 95}},
	{"Ice stall", "summer food sweet pastel children", []float64{350, 10, 170, 90, 60}},
	{"Late plums", "autumn fruit violet food rich", []float64{320, 335, 350, 60, 85}},
	{"Bonfire night", "autumn fire orange dark party", []float64{300, 30, 45, 65, 85}},
	{"Rowan lane", "autumn berry red leaf", []float64{140, 30, 40, 65, 90}},
	{"Fog signal", "autumn gray mist quiet office", []float64{230, 235, 240, 225, 230}},
	{"Rye crust", "bread bakery food brown warm", []float64{50, 60, 70, 80, 88}},
	{"Honey shelf", "food sweet gold shop", []float64{55, 70, 80, 88, 95}},
	{"Beet and cream", "food kitchen magenta dinner", []float64{355, 0, 10, 60, 95}},
	{"Olive press", "food oil green mediterranean", []float64{115, 110, 105, 100, 95}},
	{"Spice drawer", "food kitchen warm market", []float64{35, 50, 65, 85, 110}},
	{"Tea caddy", "drink calm green brown asia", []float64{130, 110, 70, 90, 100}},
	{"Roast house", "coffee drink brown dark shop", []float64{45, 55, 65, 75, 85}},
	{"Berry jam", "food fruit red violet sweet", []float64{340, 5, 15, 30, 75}},
	{"Citrus crate", "fruit yellow orange market fresh", []float64{135, 55, 75, 100, 110}},
	{"Brick kiln", "city building red craft strong", []float64{30, 35, 45, 60, 80}},
	{"Tram depot", "city transport red yellow signal", []float64{260, 27, 90, 220, 95}},
	{"Copper roof", "city building green old metal", []float64{185, 175, 50, 60, 170}},
	{"Night bus", "city night neon young club", []float64{285, 320, 350, 200, 110}},
	{"Letterpress", "print paper ink office classic", []float64{260, 25, 80, 90, 95}},
	{"Ledger cloth", "office finance trust blue serious", []float64{255, 245, 235, 80, 240}},
	{"Archive box", "office paper history gray museum", []float64{75, 70, 240, 85, 90}},
	{"Clinic hall", "health clean care blue green", []float64{235, 210, 180, 165, 200}},
	{"Herb garden", "health nature green scent care", []float64{145, 160, 300, 110, 125}},
	{"Playroom", "children toy primary school fun", []float64{260, 25, 90, 145, 55}},
	{"Observatory", "science night space technology", []float64{275, 265, 250, 85, 240}},
	{"Test bench", "technology signal electric modern", []float64{250, 150, 90, 35, 200}},
	{"Velvet rope", "theater luxury red gold evening", []float64{15, 20, 350, 80, 90}},
}

//go:embed subjects.txt
var more string

// moreSubjects are those of subjects.txt, with a factor of chroma for each.
func moreSubjects() (out []subject, chroma []float64) {
	for _, line := range strings.Split(more, "\n") {
		f := strings.Split(line, "|")
		if strings.HasPrefix(line, "#") || len(f) < 3 {
			continue
		}
		s := subject{strings.TrimSpace(f[0]), strings.TrimSpace(f[1]), nil}
		for _, h := range strings.Fields(f[2]) {
			v, err := strconv.ParseFloat(h, 64)
			if err != nil {
				panic(s.name + ": " + err.Error())
			}
			s.hues = append(s.hues, v)
		}
		factor := 1.0
		if len(f) > 3 {
			factor, _ = strconv.ParseFloat(strings.TrimSpace(f[3]), 64)
		}
		out, chroma = append(out, s), append(chroma, factor)
	}
	return out, chroma
}

// Shipped lists the starters that come with the program, newest last. A key stays with its starter: likes are kept by it.
var Shipped = sync.OnceValue(func() []Starter {
	var out []Starter
	add := func(i int, s subject, factor float64, light int) {
		of := lights[light]
		st := Starter{Key: fmt.Sprintf("q%d", len(out)+1), Name: s.name + " " + of.name,
			Keywords: append(strings.Fields(s.words), strings.Fields(of.words)...)}
		for k, h := range s.hues {
			// Chroma swells in the middle and no two subjects have quite the same, so that a row of starters is not uniform.
			c := of.chroma * factor * (0.75 + 0.25*math.Sin(float64(i*7+k*3))) * []float64{0.8, 1.1, 1, 0.8, 0.35}[k]
			l := of.l[k] + 0.02*math.Sin(float64(i*5+k))
			st.Colors = append(st.Colors, color.OKLCH{L: l, C: c, H: h}.OKLab().RGB().RGB8())
		}
		out = append(out, st)
	}
	for light := range lights {
		for i, s := range subjects {
			add(i, s, 1, light)
		}
	}
	list, chroma := moreSubjects()
	for i, s := range list {
		for light := range lights {
			add(len(subjects)+i, s, chroma[i], light)
		}
	}
	return out
})

// Near is a starter with the color of it that lies closest to the one asked for.
type Near struct {
	Starter
	Closest int // place in Colors
	DeltaE  float64
}

// Index finds starters by a color.
type Index struct {
	list   []Starter
	index  *color.Index
	starts []int // place in list of each indexed color
	places []int // place in the starter of each indexed color
}

// NewIndex prepares a list for searches by color.
func NewIndex(list []Starter) *Index {
	x := &Index{list: list}
	var labs []color.Lab
	for i, s := range list {
		for k, c := range s.Colors {
			labs = append(labs, c.Lab())
			x.starts, x.places = append(x.starts, i), append(x.places, k)
		}
	}
	x.index = color.NewIndex(labs)
	return x
}

// Close lists up to n starters by how close one of their colors comes to the one asked for.
func (x *Index) Close(c color.RGB8, n int) []Near {
	var out []Near
	seen := map[int]bool{}
	for _, m := range x.index.Nearest(c.Lab(), 4*n) { // several colors of one starter may be among the nearest
		if i := x.starts[m.At]; !seen[i] && len(out) < n {
			seen[i] = true
			out = append(out, Near{x.list[i], x.places[m.At], m.DeltaE})
		}
	}
	return out
}
