package audit

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Verdict is what is said of a found color.
type Verdict string

const (
	OnBrand  Verdict = "on-brand"
	Drifted  Verdict = "drifted"
	OffBrand Verdict = "off-brand"
	Retired  Verdict = "retired"
	Excused  Verdict = "excused"
)

// DefaultTolerance is the ΔE00 within which a found color counts as drifted.
const DefaultTolerance = 3.0

// Report is a judged file. The JSON form is the one of the command line and of the API.
type Report struct {
	Path   string   `json:"path"`
	Kind   string   `json:"kind"`
	About  string   `json:"about,omitempty"`
	Uses   int      `json:"uses"`
	Score  float64  `json:"score"` // share of uses on-brand or excused, 0 to 1
	Colors []Judged `json:"colors"`
	Notes  []string `json:"notes,omitempty"`
}

// Judged is one found color with its verdict.
type Judged struct {
	Value   string  `json:"value"` // as written most often
	Hex     string  `json:"hex"`
	Count   int     `json:"count"`
	Verdict Verdict `json:"verdict"`
	Nearest *Near   `json:"nearest"` // nil only if the library is empty
	Others  []Near  `json:"others,omitempty"`
	Reason  string  `json:"reason,omitempty"` // how a drifted color was probably spoiled
	Places  []Place `json:"places"`
}

// Near is a library color near a found one.
type Near struct {
	Name      string  `json:"name"`
	Hex       string  `json:"hex"`
	DeltaE    float64 `json:"deltaE"`
	Word      string  `json:"word"`
	Successor string  `json:"successor,omitempty"` // of a retired color
}

// Place is where a found color stands.
type Place struct {
	Where  string `json:"where"`
	Count  int    `json:"count"`
	Value  string `json:"value"`
	Linked bool   `json:"linked"`
}

// Rules are what a file is judged against.
type Rules struct {
	Tolerance float64 // ΔE00; 0 means DefaultTolerance
	Neutrals  bool    // pure grays, black and white are on-brand
	Colors    []library.Color
}

// shelf is a library with its index by look.
type shelf struct {
	colors []library.Color
	index  *color.Index
}

// Judge gives every color of a scan its verdict. The same scan and rules give the same report, byte for byte: the
// colors that need a decision come first, then by count.
func Judge(path string, s *Scan, rules Rules) Report {
	if rules.Tolerance <= 0 {
		rules.Tolerance = DefaultTolerance
	}
	known := &shelf{}
	var labs []color.Lab
	exact := map[color.RGB8]int{}
	for _, c := range rules.Colors {
		if c.Status == library.Draft {
			continue
		}
		// A current color wins over a retired one of the same value.
		if at, ok := exact[c.RGB]; !ok || known.colors[at].Retired() && !c.Retired() {
			exact[c.RGB] = len(known.colors)
		}
		known.colors, labs = append(known.colors, c), append(labs, c.RGB.Lab())
	}
	known.index = color.NewIndex(labs)

	r := Report{Path: path, Kind: s.Kind, About: s.About, Notes: s.Notes, Colors: []Judged{}}
	found := map[color.RGB8]*Judged{}
	for _, u := range s.Uses {
		j := found[u.RGB]
		if j == nil {
			j = &Judged{Hex: u.RGB.Hex()}
			found[u.RGB] = j
		}
		j.Count += u.Count
		j.Places = append(j.Places, Place{u.Where, u.Count, u.Value, u.Linked})
	}
	good := 0
	for rgb, j := range found {
		j.Value = usual(j.Places)
		j.judge(rgb, known, exact, rules)
		r.Uses += j.Count
		if j.Verdict == OnBrand || j.Verdict == Excused {
			good += j.Count
		}
		r.Colors = append(r.Colors, *j)
	}
	if r.Uses > 0 {
		r.Score = math.Round(float64(good)/float64(r.Uses)*1e4) / 1e4
		if good < r.Uses { // rounding must not make a perfect score of a nearly perfect one
			r.Score = min(r.Score, 0.9999)
		}
	} else {
		r.Score = 1
	}
	rank := map[Verdict]int{Drifted: 0, Retired: 1, OffBrand: 2, Excused: 3, OnBrand: 4}
	sort.Slice(r.Colors, func(a, b int) bool {
		x, y := r.Colors[a], r.Colors[b]
		if x.Verdict != y.Verdict {
			return rank[x.Verdict] < rank[y.Verdict]
		}
		if x.Count != y.Count {
			return x.Count > y.Count
		}
		return x.Hex < y.Hex
	})
	return r
}

func (j *Judged) judge(rgb color.RGB8, known *shelf, exact map[color.RGB8]int, rules Rules) {
	lab := rgb.Lab()
	if at, ok := exact[rgb]; ok {
		j.Nearest = near(known.colors[at], 0)
		j.Verdict = OnBrand
		if known.colors[at].Retired() {
			j.Verdict = Retired
		}
		return
	}
	if rules.Neutrals && rgb.Neutral() {
		j.Verdict = OnBrand
		j.Nearest = &Near{Name: "neutral", Hex: rgb.Hex(), Word: color.Word(0)}
		return
	}
	j.Verdict = OffBrand
	best := known.index.Nearest(lab, 3)
	if len(best) == 0 {
		return
	}
	nearest := known.colors[best[0].At]
	j.Nearest = near(nearest, best[0].DeltaE)
	switch {
	case best[0].DeltaE > rules.Tolerance:
		for _, b := range best[1:] {
			j.Others = append(j.Others, *near(known.colors[b.At], b.DeltaE))
		}
	case nearest.Retired():
		j.Verdict = Retired
		j.Reason = drift(nearest.RGB, rgb)
	default:
		j.Verdict = Drifted
		j.Reason = drift(nearest.RGB, rgb)
	}
}

func near(c library.Color, de float64) *Near {
	return &Near{c.Name, c.RGB.Hex(), math.Round(de*1e4) / 1e4, color.Word(de), c.Successor.Name}
}

// usual is the value that was written most often; hard-coded ones count before linked ones, since they are what a
// person will look for.
func usual(places []Place) string {
	times := map[string]int{}
	best, most := "", -1
	for _, p := range places {
		n := p.Count
		if !p.Linked {
			n += 1 << 30
		}
		times[p.Value] += n
		if times[p.Value] > most || times[p.Value] == most && p.Value < best {
			best, most = p.Value, times[p.Value]
		}
	}
	return best
}

// drift says how a value differs from the one that was surely meant: "red 1 low, blue 1 high".
func drift(meant, found color.RGB8) string {
	var parts []string
	for i, name := range []string{"red", "green", "blue"} {
		d := int([]uint8{found.R, found.G, found.B}[i]) - int([]uint8{meant.R, meant.G, meant.B}[i])
		switch {
		case d > 0:
			parts = append(parts, fmt.Sprintf("%s %d high", name, d))
		case d < 0:
			parts = append(parts, fmt.Sprintf("%s %d low", name, -d))
		}
	}
	return strings.Join(parts, ", ")
}
