package audit

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/gradient"
	"huekeep/core/library"
	"huekeep/core/picture"
	"huekeep/core/press"
)

// The ΔE00 within which a found color counts as drifted, where a house says nothing else.
const (
	DefaultTolerance = 3.0
	PictureTolerance = 5.0 // of the colors of pictures and frames
)

// Report is a judged file. The JSON form is the one of the command line and of the API.
type Report struct {
	Path     string      `json:"path"`
	Kind     string      `json:"kind"`
	About    string      `json:"about,omitempty"`
	Uses     int         `json:"uses"`
	Score    *float64    `json:"score"` // share of the judged uses that are on-brand or excused, 0 to 1; nil if nothing was judged
	Unjudged []Undecided `json:"unjudged"`
	Colors   []Judged    `json:"colors"`
	Causes   []Cause     `json:"causes,omitempty"` // what is behind findings
	Notes    []string    `json:"notes"`
	Unread   []Unread    `json:"unread,omitempty"` // parts that could not be read
	Parts    int         `json:"parts,omitempty"`
}

// Undecided is a use of what may be a color and could not be determined.
type Undecided struct {
	Value  string `json:"value"`
	Where  string `json:"where"`
	Why    string `json:"why"`
	Count  int    `json:"count"`
	Line   int    `json:"line,omitempty"`
	Column int    `json:"column,omitempty"`
	New    int    `json:"new,omitempty"` // how many of them an earlier report does not have, in one that was compared
	Unlisted
}

// Unlisted is what a brief report does not list, beside what it does.
type Unlisted struct {
	Uses   int `json:"unlistedUses,omitempty"`
	Places int `json:"unlistedPlaces,omitempty"` // that those are in
	New    int `json:"unlistedNew,omitempty"`    // as of Place
}

// Judged is one found color with its verdict. A color of which some places are excused is there twice.
type Judged struct {
	Key     string  `json:"key"`            // what tells it from the others: the color and, where it is there twice, the verdict
	Value   string  `json:"value"`          // as written most often
	Hex     string  `json:"hex"`            // how it looks on a screen
	CMYK    string  `json:"cmyk,omitempty"` // of a build of inks
	Spot    string  `json:"spot,omitempty"` // name of a spot ink
	Wide    string  `json:"wide,omitempty"` // as CSS writes it, of a color that sRGB does not hold
	Count   int     `json:"count"`
	Fixed   int     `json:"fixed,omitempty"` // how many of them cannot be repainted
	Verdict Verdict `json:"verdict"`
	Nearest *Near   `json:"nearest"` // nil only if the library is empty
	Others  []Near  `json:"others,omitempty"`
	Reason  string  `json:"reason,omitempty"` // how a color was probably spoiled
	Cause   string  `json:"cause,omitempty"`  // what others of the file have in common with it
	Excuse  *Excuse `json:"excuse,omitempty"`
	Places  []Place `json:"places"`
	Unlisted
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
	Line   int    `json:"line,omitempty"`
	Column int    `json:"column,omitempty"`
	Value  string `json:"value"`
	Linked bool   `json:"linked"`
	Fixed  string `json:"fixed,omitempty"` // why it cannot be repainted
	New    int    `json:"new,omitempty"`   // as of Undecided
}

// Excuse is a recorded exception: what differs on purpose. Empty fields cover everything.
type Excuse struct {
	ID     int64     `json:"id,omitempty"`
	Color  string    `json:"color"` // the hex, the build or the ink, as a report gives its key
	File   string    `json:"file,omitempty"`
	Where  string    `json:"where,omitempty"`
	Reason string    `json:"reason"`
	By     string    `json:"by,omitempty"`
	Until  time.Time `json:"until,omitzero"` // the last day; zero for no end
}

// Score is the share of judged uses that are on-brand or excused, 0 to 1 in steps of 0.001; nil if nothing was judged. It is rounded down,
// so that only all is 1.
func Score(good, judged int) *float64 {
	if judged <= 0 {
		return nil
	}
	score := float64(int64(good)*1000/int64(judged)) / 1000
	return &score
}

// Kept is a score that may be of an older version, which had finer steps.
func Kept(score *float64) *float64 {
	if score == nil {
		return nil
	}
	return Score(int(math.Floor(*score*1e4+1e-6)), 1e4)
}

// Soon is how long before its last day an excuse is told of.
const Soon = 14 * 24 * time.Hour

// Ended says whether an excuse is over at a time.
func (e Excuse) Ended(at time.Time) bool {
	return !e.Until.IsZero() && at.After(e.Until.AddDate(0, 0, 1))
}

// Rules are what a file is judged against.
type Rules struct {
	Tolerance float64 // ΔE00; 0 means DefaultTolerance
	Pictures  float64 // of pictures and frames; 0 means PictureTolerance, or Tolerance where that is more
	Neutrals  bool    // pure grays, black and white are on-brand
	Colors    []library.Color
	Gradients []library.Gradient // of the library, whose colors between are on-brand in pictures
	Excuses   []Excuse           // those that hold
	Formers   []Former           // what colors were once
}

// Allowed are the colors of a library with the companions of approved ones that may be used.
func Allowed(colors []library.Color) []library.Color {
	var out []library.Color
	for _, c := range colors {
		out = append(out, c)
		if c.Status == library.Approved || c.Status == "" {
			out = append(out, c.Permitted()...)
		}
	}
	return out
}

// Judge is a library that is ready to judge by.
type Judge struct {
	rules    Rules
	colors   []library.Color
	index    *color.Index
	exactly  *color.Index // of what decides the colors; nil until a file has one that sRGB does not hold
	exact    map[color.RGB8]int
	builds   []build
	spots    map[string]int
	ramps    []ramp
	formers  map[color.RGB8]formerAt
	variants map[color.RGB8]variant // nil until one is looked for
	inked    bool                   // builds are ready
}

type build struct {
	color int
	value color.CMYK
	lab   color.Lab
}

// ramp is a gradient of the library by its steps.
type ramp struct {
	name string
	labs []color.Lab
}

func (r ramp) has(c color.Lab) bool {
	return slices.ContainsFunc(r.labs, func(l color.Lab) bool { return color.DeltaE00(l, c) <= 1 })
}

// NewJudge prepares to judge many files by the same rules.
func NewJudge(rules Rules) *Judge {
	if rules.Tolerance <= 0 {
		rules.Tolerance = DefaultTolerance
	}
	if rules.Pictures <= 0 {
		rules.Pictures = max(PictureTolerance, rules.Tolerance)
	}
	j := &Judge{rules: rules, exact: map[color.RGB8]int{}, spots: map[string]int{}}
	var labs []color.Lab
	for _, c := range rules.Colors {
		if c.Status == library.Draft {
			continue
		}
		at := len(j.colors)
		// A current color wins over a retired one of the same value.
		if was, ok := j.exact[c.RGB]; !ok || j.colors[was].Retired() && !c.Retired() {
			j.exact[c.RGB] = at
		}
		for _, s := range c.Spots {
			if _, ok := j.spots[inkKey(s.Code)]; !ok || !c.Retired() {
				j.spots[inkKey(s.Code)] = at
			}
		}
		j.colors, labs = append(j.colors, c), append(labs, c.RGB.Lab())
	}
	for i, c := range j.colors { // an ink may be called by the color's name
		if _, ok := j.spots[inkKey(c.Name)]; !ok {
			j.spots[inkKey(c.Name)] = i
		}
	}
	j.index = color.NewIndex(labs)
	j.formersOf(rules.Formers)
	for _, g := range rules.Gradients {
		j.ramp(g)
	}
	return j
}

// Tolerance is the ΔE00 that files of a kind are judged by.
func (j *Judge) Tolerance(kind string) float64 {
	if kind == "picture" || kind == "video" {
		return j.rules.Pictures
	}
	return j.rules.Tolerance
}

func inkKey(code string) string { return strings.ToLower(strings.Join(strings.Fields(code), " ")) }

func (j *Judge) ramp(g library.Gradient) {
	var stops []gradient.Stop
	for _, s := range g.Stops {
		for _, c := range j.colors {
			if s.Color.Is(c) {
				stops = append(stops, gradient.Stop{Color: c.RGB, Place: s.Place})
				break
			}
		}
	}
	if len(stops) < 2 {
		return
	}
	r := ramp{name: g.Name}
	for i := range 101 {
		c, err := gradient.At(stops, g.Space, float64(i))
		if err != nil {
			return
		}
		r.labs = append(r.labs, c.Lab())
	}
	j.ramps = append(j.ramps, r)
}

// mostDerived is for how many colors without a build one is worked out.
const mostDerived = 300

// inks makes the builds ready, once a file has any.
func (j *Judge) inks() {
	if j.inked {
		return
	}
	j.inked = true
	for i, c := range j.colors {
		for _, b := range c.Builds {
			j.builds = append(j.builds, build{i, b.Value, press.Coated().Lab(b.Value)})
		}
		if len(c.Builds) == 0 && len(j.colors) <= mostDerived {
			b := press.Coated().Build(c.Lab()).Whole
			j.builds = append(j.builds, build{i, b, press.Coated().Lab(b)})
		}
	}
}

// group is what is judged together.
type group struct {
	Color
	pixels bool
	slack  [3]float64
	codes  *picture.Codes
	excuse int // of the rules, -1 for none
}

// Judge gives every color of a scan its verdict. The same scan and rules give the same report, byte for byte: the
// colors that need a decision come first, then by count.
func (j *Judge) Judge(path string, s *Scan) Report {
	r := Report{Path: path, Kind: s.Kind, About: s.About, Notes: slices.Clone(s.Notes), Unread: s.Unread, Parts: s.Parts,
		Colors: []Judged{}, Unjudged: []Undecided{}}
	found, order := j.gathered(&r, s, path)
	used := j.used(order)
	good, judged := 0, 0
	for _, g := range order {
		k := found[g]
		k.Value = usual(k.Places)
		k.Key = g.Name()
		j.verdict(k, g, used)
		if g.excuse >= 0 && k.Verdict != OnBrand {
			e := j.rules.Excuses[g.excuse]
			k.Verdict, k.Excuse = Excused, &e
			k.Key += " excused"
		}
		judged += k.Count
		if k.Verdict.Fine() {
			good += k.Count
		}
		r.Colors = append(r.Colors, *k)
	}
	r.Score = Score(good, judged)
	j.explain(&r)
	r.sort()
	return r
}

// gathered puts the uses of a scan that are of one color, and are to be judged alike, together; it gives them in the order in which they
// were met. What could not be determined, and what is not opaque, is said in the report.
func (j *Judge) gathered(r *Report, s *Scan, path string) (found map[group]*Judged, order []group) {
	found = map[group]*Judged{}
	faint, opacities := 0, map[opacity]int{}
	excused := j.Excused(s, path)
	for _, u := range s.Uses {
		if u.Hidden {
			continue
		}
		r.Uses += u.Count
		if u.Why != "" {
			r.Unjudged = append(r.Unjudged, Undecided{Value: u.Value, Where: u.Where, Why: u.Why, Count: u.Count, Line: u.Line,
				Column: u.Column})
			continue
		}
		if u.Alpha < 1 {
			faint += u.Count
			if at, ok := j.exact[u.RGB]; ok && len(j.colors[at].Companions) > 0 {
				opacities[opacity{at, int(math.Round(u.Alpha * 100))}] += u.Count
			}
		}
		excuse, ok := excused[u]
		if !ok {
			excuse = -1
		}
		g := group{u.Color, u.Pixels, u.Rare().Slack, u.Rare().Codes, excuse}
		k := found[g]
		if k == nil {
			k = &Judged{Hex: u.RGB.Hex(), Spot: u.Spot(), Wide: u.Wide()}
			if b, ok := u.Build(); ok {
				k.CMYK = b.String()
			}
			found[g] = k
			order = append(order, g)
		}
		k.Count += u.Count
		if u.fixed() {
			k.Fixed += u.Count
		}
		k.Places = append(k.Places, Place{u.Where, u.Count, u.Line, u.Column, u.Value, u.Linked(), u.Fixed, 0})
	}
	if faint > 0 {
		r.Notes = append(r.Notes, fmt.Sprintf("%s not opaque; the colors are listed and judged as if they were.", PluralAre(faint, "use")))
		r.Notes = append(r.Notes, j.sheers(opacities)...)
	}
	if r.Notes == nil {
		r.Notes = []string{}
	}
	return found, order
}

// sort puts what wants a decision first, then what is used most, and gives every color a key of its own.
func (r *Report) sort() {
	rank := map[Verdict]int{}
	for i, v := range Verdicts {
		rank[v] = i
	}
	sort.SliceStable(r.Colors, func(a, b int) bool {
		x, y := r.Colors[a], r.Colors[b]
		if x.Verdict != y.Verdict {
			return rank[x.Verdict] < rank[y.Verdict]
		}
		if x.Count != y.Count {
			return x.Count > y.Count
		}
		return x.Key < y.Key
	})
	seen := map[string]int{}
	for i, c := range r.Colors { // a color of pictures and of type may be there twice with one name
		if seen[c.Key]++; seen[c.Key] > 1 {
			r.Colors[i].Key = fmt.Sprintf("%s %d", c.Key, seen[c.Key])
		}
	}
}

// opacity is a color of the judge's that something may be seen through, in percent.
type opacity struct{ color, percent int }

// sheers says of colors that may be sheer how often they are so as is permitted, and how often otherwise.
func (j *Judge) sheers(found map[opacity]int) (notes []string) {
	for at, c := range j.colors {
		var may []string
		permitted := map[int]bool{}
		for _, m := range c.Companions {
			if m.Kind == "sheer" && m.Permitted && !permitted[m.Amount] {
				permitted[m.Amount] = true
				may = append(may, fmt.Sprintf("%d %%", m.Amount))
			}
		}
		if len(may) == 0 {
			continue
		}
		as, other := 0, 0
		for o, n := range found {
			if o.color == at && permitted[o.percent] {
				as += n
			} else if o.color == at {
				other += n
			}
		}
		if as > 0 {
			notes = append(notes, fmt.Sprintf("%s of %s at an opacity that is permitted for it.", PluralAre(as, "use"), c.Name))
		}
		if other > 0 {
			notes = append(notes, fmt.Sprintf("%s of %s at another opacity than it may have: %s.", PluralAre(other, "use"), c.Name,
				strings.Join(may, ", ")))
		}
	}
	return notes
}

// Findings counts the uses that are neither on-brand nor excused.
func (r Report) Findings() (n int) {
	for _, c := range r.Colors {
		if !c.Verdict.Fine() {
			n += c.Count
		}
	}
	return n
}

// UnjudgedUses counts the uses of what could not be determined.
func (r Report) UnjudgedUses() (n int) {
	for _, u := range r.Unjudged {
		n += u.Count + u.Unlisted.Uses
	}
	return n
}

// How many places of a color, and of what could not be judged for one reason, a brief report lists: of what nobody has to decide fewer.
const (
	BriefPlaces  = 200
	briefSettled = 20
	briefUnknown = 20
)

// Brief is the report with at most so many places of each color; what it does not list is counted.
func (r Report) Brief(most int) Report {
	r.Colors = slices.Clone(r.Colors)
	for i := range r.Colors {
		c := &r.Colors[i]
		list := most
		if c.Verdict.Fine() {
			list = min(most, briefSettled)
		}
		if len(c.Places) <= list {
			continue
		}
		for _, p := range c.Places[list:] {
			c.Unlisted.Uses += p.Count
			c.Unlisted.Places++
			c.Unlisted.New += p.New
		}
		c.Places = slices.Clone(c.Places[:list]) // so that the others are not held
	}
	type reason struct{ value, why string }
	last := map[reason]int{}
	n := map[reason]int{}
	list := []Undecided{}
	for _, u := range r.Unjudged {
		of := reason{u.Value, u.Why}
		if n[of]++; n[of] <= min(most, briefUnknown) {
			last[of] = len(list)
			list = append(list, u)
			continue
		}
		to := &list[last[of]].Unlisted
		to.Uses += u.Count + u.Unlisted.Uses
		to.Places += 1 + u.Unlisted.Places
		to.New += u.New + u.Unlisted.New
	}
	r.Unjudged = list
	return r
}

// Excused finds the uses of a file that an excuse covers, with its number in the rules: the narrowest, if there are several. An excuse of
// one place of a text is of the place in the words that it was given at; where lines were put in above it, or other values before it, it is
// of the nearest place that is the same but for its line.
func (j *Judge) Excused(s *Scan, file string) map[*Use]int {
	if len(j.rules.Excuses) == 0 {
		return nil
	}
	type nearest struct {
		exact bool
		use   *Use
		away  int
	}
	out := map[*Use]int{}
	rank := func(i int) (n int) {
		if j.rules.Excuses[i].File != "" {
			n++
		}
		if j.rules.Excuses[i].Where != "" {
			n += 2
		}
		return n
	}
	cover := func(u *Use, i int) {
		if was, ok := out[u]; !ok || rank(i) > rank(was) {
			out[u] = i
		}
	}
	of := map[Color][]int{}
	moved := map[int]*nearest{}
	for _, u := range s.Uses {
		its, known := of[u.Color]
		if !known {
			names := u.names()
			for i, e := range j.rules.Excuses {
				named := slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(e.Color, n) })
				if named && (e.File == "" || e.File == file) {
					its = append(its, i)
				}
			}
			of[u.Color] = its
		}
		for _, i := range its {
			e := &j.rules.Excuses[i]
			if e.Where == "" {
				cover(u, i)
				continue
			}
			at := moved[i]
			if at == nil {
				at = &nearest{}
				moved[i] = at
			}
			if e.Where == u.Where {
				at.exact = true
				cover(u, i)
				continue
			}
			if at.exact || u.Line == 0 || WithoutLine(e.Where) != WithoutLine(u.Where) {
				continue
			}
			line, column := lineOf(e.Where)
			away := 10_000*max(line-u.Line, u.Line-line) + min(9999, max(column-u.Column, u.Column-column))
			if at.use == nil || away < at.away {
				at.use, at.away = u, away
			}
		}
	}
	for i := range j.rules.Excuses {
		if at := moved[i]; at != nil && !at.exact && at.use != nil {
			cover(at.use, i)
		}
	}
	return out
}

// names are what the color of a use is called, and what it was called before colors beyond sRGB were known: by what plain screens show, and
// in pictures by its channels cut off at their bounds.
func (u *Use) names() []string {
	out := []string{u.Color.Name()}
	if u.Wide() == "" {
		return out
	}
	out = append(out, u.RGB.Hex())
	if t, err := color.ParseCSS(u.Wide()); u.Pixels && err == nil {
		out = append(out, t.RGB.Clip().RGB8().Hex())
	}
	return out
}

// WithoutLine is a place in words that stays the same when lines are put in above it: "app.css, .a, color" for "app.css 41:12, .a, color".
func WithoutLine(where string) string {
	head, rest, ok := strings.Cut(where, ", ")
	if i := strings.LastIndexByte(head, ' '); ok && i > 0 && strings.Contains(head[i:], ":") {
		return head[:i] + ", " + rest
	}
	return where
}

// lineOf is the line and the column of a place in words; 0 if it has none.
func lineOf(where string) (line, column int) {
	head, _, _ := strings.Cut(where, ", ")
	if i := strings.LastIndexByte(head, ' '); i > 0 {
		if l, c, ok := strings.Cut(head[i+1:], ":"); ok {
			line, _ = strconv.Atoi(l)
			column, _ = strconv.Atoi(c)
		}
	}
	return line, column
}

// Base is the library color that a color surely is meant to be: itself, or the one that it drifted from.
func (j *Judge) Base(c color.RGB8) (color.RGB8, bool) {
	var k Judged
	j.screen(&k, group{Color: Screen(c), excuse: -1}, nil)
	if k.Nearest == nil {
		return c, false
	}
	to, err := color.FromHex(k.Nearest.Hex)
	switch {
	case err != nil || k.Verdict == OffBrand:
		return c, false
	case k.Verdict == Retired:
		for _, s := range j.colors {
			if s.Name == k.Nearest.Successor {
				return s.RGB, true
			}
		}
		return c, false
	}
	return to, true
}

// Name is what a color is called in reports, plans and excuses: its digits, its build, or its ink.
func (c Color) Name() string {
	switch i, inks := c.Ink(); {
	case i.Spot != "":
		return i.Spot
	case inks:
		return i.CMYK.String()
	case c.Wide() != "":
		return c.Wide()
	}
	return c.RGB.Hex()
}

func (j *Judge) verdict(k *Judged, g group, used []ramp) {
	switch i, inks := g.Ink(); {
	case i.Spot != "":
		j.spot(k, g, i.Spot)
	case inks:
		j.build(k, g, i.CMYK)
	default:
		j.screen(k, g, used)
	}
}

// used are the gradients that a picture really has: some of its colors lie between the stops, where no color of the library is
// near. Without that a single color close to a stop would pass for part of a gradient, and it is just drifted.
func (j *Judge) used(groups []group) (used []ramp) {
	const enough = 3
	for _, r := range j.ramps {
		n := 0
		for _, g := range groups {
			if !g.pixels || g.Color != Screen(g.RGB) {
				continue
			}
			lab := g.RGB.Lab()
			if !r.has(lab) {
				continue
			}
			if best := j.index.Nearest(lab, 1); best[0].DeltaE <= j.rules.Pictures {
				continue
			}
			if n++; n == enough {
				used = append(used, r)
				break
			}
		}
	}
	return used
}

func (j *Judge) screen(k *Judged, g group, used []ramp) {
	if g.Wide() != "" {
		j.beyond(k, g)
		return
	}
	lab := g.RGB.Lab()
	if at, ok := j.exact[g.RGB]; ok {
		k.Nearest = near(j.colors[at], 0)
		k.Verdict = OnBrand
		if j.colors[at].Retired() {
			k.Verdict = Retired
		}
		return
	}
	if j.rules.Neutrals && g.RGB.Neutral() {
		k.Verdict = OnBrand
		k.Nearest = &Near{Name: "neutral", Hex: g.RGB.Hex(), Word: color.Word(0)}
		return
	}
	tolerance := j.rules.Tolerance
	if g.pixels {
		tolerance = j.rules.Pictures
	}
	k.Verdict = OffBrand
	best := j.index.Nearest(lab, 3)
	if len(best) == 0 {
		return
	}
	nearest := j.colors[best[0].At]
	k.Nearest = near(nearest, best[0].DeltaE)
	if g.pixels {
		if g.codes != nil {
			for _, b := range best {
				if c := j.colors[b.At]; g.codes.OneStep(c.RGB, g.RGB) {
					k.Nearest = near(c, b.DeltaE)
					k.Verdict, k.Reason = OnBrand, "as exact as the picture's own values can be"
					if c.Retired() {
						k.Verdict = Retired
					}
					return
				}
			}
			if j.rules.Neutrals && g.codes.OneStep(Gray(g.RGB), g.RGB) {
				k.Verdict, k.Nearest = OnBrand, &Near{Name: "neutral", Hex: Gray(g.RGB).Hex(), Word: color.Word(0)}
				return
			}
		}
		if g.slack != [3]float64{} {
			for _, b := range best {
				if c := j.colors[b.At]; within(c.RGB, g.RGB, g.slack) {
					k.Nearest = near(c, b.DeltaE)
					k.Verdict, k.Reason = OnBrand, "as exact as the compression of the picture can tell"
					if c.Retired() {
						k.Verdict = Retired
					}
					return
				}
			}
			if j.rules.Neutrals && within(Gray(g.RGB), g.RGB, g.slack) {
				k.Verdict, k.Nearest = OnBrand, &Near{Name: "neutral", Hex: Gray(g.RGB).Hex(), Word: color.Word(0)}
				return
			}
		}
		for _, r := range used {
			if r.has(lab) {
				k.Verdict, k.Reason = OnBrand, "between the stops of the gradient "+r.name
				return
			}
		}
	}
	j.measure(k, g.RGB, nearest, best[0].DeltaE, tolerance)
	if best[0].DeltaE > tolerance {
		for _, b := range best[1:] {
			k.Others = append(k.Others, *near(j.colors[b.At], b.DeltaE))
		}
	}
}

// beyond judges a color that sRGB does not hold against what decides the library's colors, and not against what plain screens show of them.
func (j *Judge) beyond(k *Judged, g group) {
	t, err := color.ParseCSS(g.Wide())
	if err != nil { // it was written by Exactly
		return
	}
	if j.exactly == nil {
		var labs []color.Lab
		for _, c := range j.colors {
			labs = append(labs, c.Lab())
		}
		j.exactly = color.NewIndex(labs)
	}
	k.Verdict = OffBrand
	best := j.exactly.Nearest(t.RGB.Lab(), 3)
	if len(best) == 0 {
		return
	}
	for _, b := range best {
		c := j.colors[b.At]
		its := c.CSS() != "" && t.OneStep(c.Exact())
		if g.codes != nil { // of a picture, whose own values come no nearer
			its = g.codes.Beside(c.Screen(), t.RGB) || g.slack != [3]float64{} && g.codes.Holds(c.Screen()) &&
				within(g.codes.Nearest(c.Screen()), g.codes.Nearest(t.RGB), g.slack)
		}
		if its {
			k.Nearest, k.Verdict = near(c, b.DeltaE), OnBrand
			if b.DeltaE < 1e-9 || c.CSS() != "" && t.OneStep(c.Exact()) {
				k.Nearest = near(c, 0)
			}
			if c.Retired() {
				k.Verdict = Retired
			}
			return
		}
	}
	nearest := j.colors[best[0].At]
	k.Nearest = near(nearest, best[0].DeltaE)
	tolerance := j.rules.Tolerance
	if g.pixels {
		tolerance = j.rules.Pictures
	}
	switch {
	case best[0].DeltaE > tolerance:
		for _, b := range best[1:] {
			k.Others = append(k.Others, *near(j.colors[b.At], b.DeltaE))
		}
	case nearest.Retired():
		k.Verdict = Retired
	default:
		k.Verdict = Drifted
		if nearest.CSS() == "" {
			k.Reason = "beyond sRGB, which " + nearest.Name + " is not"
		}
	}
}

// measure says how far a color is off.
func (j *Judge) measure(k *Judged, found color.RGB8, nearest library.Color, deltaE, tolerance float64) {
	switch {
	case deltaE > tolerance:
		k.Verdict = OffBrand
	case nearest.Retired():
		k.Verdict = Retired
		k.Reason = drift(nearest.RGB, found)
	default:
		k.Verdict = Drifted
		k.Reason = drift(nearest.RGB, found)
	}
}

// Gray is the gray of a color that is as bright.
func Gray(c color.RGB8) color.RGB8 {
	v := uint8((int(c.R)*299 + int(c.G)*587 + int(c.B)*114 + 500) / 1000)
	return color.RGB8{R: v, G: v, B: v}
}

// within says whether a color could have come out as another one when it was compressed: whether their Y'CbCr (JFIF) differ by no more
// than a slack.
func within(meant, found color.RGB8, slack [3]float64) bool {
	a, b := jfif(meant), jfif(found)
	for i := range slack {
		if math.Abs(a[i]-b[i]) > slack[i] {
			return false
		}
	}
	return true
}

// jfif is Y'CbCr as JPEG files have it (ITU-T T.871).
func jfif(c color.RGB8) [3]float64 {
	r, g, b := float64(c.R), float64(c.G), float64(c.B)
	return [3]float64{0.299*r + 0.587*g + 0.114*b, -0.168736*r - 0.331264*g + 0.5*b, 0.5*r - 0.418688*g - 0.081312*b}
}

// build judges a build of inks: exactly one of the library's within 1 % of each ink, else by how both look on the coated press.
func (j *Judge) build(k *Judged, g group, found color.CMYK) {
	j.inks()
	v := found.Array()
	lab := press.Coated().Lab(found)
	type distance struct {
		at int
		de float64
	}
	var list []distance
	best := map[int]float64{}
	exact := -1
	for _, b := range j.builds {
		w := b.value.Array()
		if math.Abs(v[0]-w[0]) <= 1 && math.Abs(v[1]-w[1]) <= 1 && math.Abs(v[2]-w[2]) <= 1 && math.Abs(v[3]-w[3]) <= 1 &&
			(exact < 0 || j.colors[exact].Retired()) {
			exact = b.color
		}
		de := color.DeltaE00(b.lab, lab)
		if was, ok := best[b.color]; !ok || de < was {
			best[b.color] = de
		}
	}
	if exact >= 0 {
		k.Nearest, k.Verdict = near(j.colors[exact], 0), OnBrand
		if j.colors[exact].Retired() {
			k.Verdict = Retired
		}
		return
	}
	if j.rules.Neutrals && v[0] == 0 && v[1] == 0 && v[2] == 0 {
		k.Verdict, k.Nearest = OnBrand, &Near{Name: "neutral", Hex: g.RGB.Hex(), Word: color.Word(0)}
		return
	}
	k.Verdict = OffBrand
	if len(best) == 0 {
		for _, n := range j.index.Nearest(lab, 3) {
			list = append(list, distance{n.At, n.DeltaE})
		}
	}
	for at, de := range best {
		list = append(list, distance{at, de})
	}
	slices.SortFunc(list, func(a, b distance) int {
		if a.de != b.de {
			return int(math.Copysign(1, a.de-b.de))
		}
		return a.at - b.at
	})
	if len(list) == 0 {
		return
	}
	c := j.colors[list[0].at]
	k.Nearest = near(c, list[0].de)
	j.measure(k, g.RGB, c, list[0].de, j.rules.Tolerance)
	k.Reason = ""
	if b, ok := j.buildOf(c); ok && k.Verdict != OffBrand {
		k.Reason = inkDrift(b, found)
	}
	if k.Verdict == OffBrand {
		for _, d := range list[1:min(3, len(list))] {
			k.Others = append(k.Others, *near(j.colors[d.at], d.de))
		}
	}
}

func (j *Judge) buildOf(c library.Color) (color.CMYK, bool) {
	for _, b := range j.builds {
		if j.colors[b.color].Name == c.Name {
			return b.value, true
		}
	}
	return color.CMYK{}, false
}

// Build is the build that repainting writes for a color, by its name.
func (j *Judge) Build(name string) (color.CMYK, bool) {
	j.inks()
	return j.buildOf(library.Color{Name: name})
}

func inkDrift(meant, found color.CMYK) string {
	var parts []string
	a, b := meant.Array(), found.Array()
	for i, name := range []string{"cyan", "magenta", "yellow", "black"} {
		switch d := math.Round((b[i]-a[i])*10) / 10; {
		case d > 0:
			parts = append(parts, fmt.Sprintf("%s %g %% high", name, d))
		case d < 0:
			parts = append(parts, fmt.Sprintf("%s %g %% low", name, -d))
		}
	}
	return strings.Join(parts, ", ")
}

// spot judges an ink by its name.
func (j *Judge) spot(k *Judged, g group, name string) {
	if at, ok := j.spots[inkKey(name)]; ok {
		c := j.colors[at]
		k.Nearest, k.Verdict = near(c, 0), OnBrand
		if c.Retired() {
			k.Verdict = Retired
		}
		return
	}
	k.Verdict = OffBrand
	for i, n := range j.index.Nearest(g.RGB.Lab(), 3) {
		if i == 0 {
			k.Nearest = near(j.colors[n.At], n.DeltaE)
		} else {
			k.Others = append(k.Others, *near(j.colors[n.At], n.DeltaE))
		}
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
