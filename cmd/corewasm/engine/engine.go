// Package engine answers the browser's questions to the core: a name, arguments in JSON, an answer in JSON. It holds no
// formula; the table at its top says which question goes to which function of the core.
package engine

import (
	"cmp"
	"encoding/json"
	"fmt"
	"image"
	"math"
	"reflect"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/gradient"
	"huekeep/core/harmony"
	"huekeep/core/icc"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/palette"
	"huekeep/core/picture"
	"huekeep/core/press"
	"huekeep/core/proof"
	"huekeep/core/scale"
	"huekeep/core/vision"
)

// questions lists what can be asked.
var questions = map[string]question{
	"look":      ask((*Engine).look),
	"names":     ask((*Engine).names),
	"inks":      ask((*Engine).inks),
	"book":      ask((*Engine).useBook),
	"harmony":   ask((*Engine).harmony),
	"scale":     ask((*Engine).scale),
	"written":   ask((*Engine).written),
	"gradients": ask((*Engine).gradients),
	"contrast":  ask((*Engine).contrast),
	"specimen":  ask((*Engine).specimen),
	"pair":      ask((*Engine).pair),
	"near":      ask((*Engine).near),
	"apart":     ask((*Engine).apart),
	"vision":    ask((*Engine).vision),
	"keepapart": ask((*Engine).keepApart),
	"proof":     ask((*Engine).proof),
	"held":      ask((*Engine).hold),
	"distances": ask((*Engine).distances),
	"inplace":   ask((*Engine).inPlace),
	"seen":      ask((*Engine).seen),
	"sample":    ask((*Engine).sample),
	"colors":    ask((*Engine).colors),
	"close":     ask((*Engine).close),
}

// Engine keeps the pictures that the page has opened. It is for one goroutine.
type Engine struct {
	// Told is told how much of what takes long is done, 0 to 1; nil for nobody.
	Told func(share float64)

	pictures map[int]*picture.Picture
	next     int
	book     *ink.Book // of the house that the page is in
	soft     *proof.Proof
	softKey  string       // what it was made for
	small    *image.NRGBA // the picture that was proofed last, reduced
	smallOf  [2]int       // which one, and to which side
	own      *image.NRGBA // its own pixels, reduced, where they are not sRGB
	ownOf    [2]int       // likewise
	held     *palette.Held
	heldOf   [2]int
	against  *palette.Against
}

// New makes an engine without pictures.
func New() *Engine { return &Engine{pictures: map[int]*picture.Picture{}, book: ink.Quern()} }

// Call answers a question. The answer is JSON: the result, or {"error": "..."} with a sentence.
func (e *Engine) Call(name string, args []byte) []byte {
	q, ok := questions[name]
	if !ok {
		return answer(nil, fmt.Errorf("the core has no answer to %q", name))
	}
	return answer(q.call(e, args))
}

func answer(v any, err error) []byte {
	if err != nil {
		v = map[string]string{"error": err.Error()}
	}
	out, err := json.Marshal(v)
	if err != nil {
		return []byte(`{"error":"the answer cannot be written"}`)
	}
	return out
}

// question is one that can be asked, with the Go types of its arguments and its answer.
type question struct {
	call         func(*Engine, []byte) (any, error)
	args, answer reflect.Type
}

// ask reads the arguments of a question.
func ask[Args, Answer any](f func(*Engine, Args) (Answer, error)) question {
	call := func(e *Engine, args []byte) (any, error) {
		var a Args
		if err := json.Unmarshal(args, &a); err != nil {
			return nil, fmt.Errorf("the question could not be read: %w", err)
		}
		return f(e, a)
	}
	return question{call, reflect.TypeFor[Args](), reflect.TypeFor[Answer]()}
}

// OKLCH is a color by lightness (0 to 1), chroma and hue (degrees).
type OKLCH struct {
	L float64 `json:"l"`
	C float64 `json:"c"`
	H float64 `json:"h"`
}

// LookArgs ask for all that there is to know of a color, given as typed text or as OKLCH.
type LookArgs struct {
	Value string      `json:"value,omitempty"` // any notation, or the code of an ink
	OKLCH *OKLCH      `json:"oklch,omitempty"`
	CMYK  *[4]float64 `json:"cmyk,omitempty"`  // a build in percent, as the press prints it
	Press string      `json:"press,omitempty"` // coated if empty
	Stock string      `json:"stock,omitempty"` // coated if empty
	From  string      `json:"from,omitempty"`  // the color to compare with, or empty
}

// Look is a color with its faces and what it costs to print.
type Look struct {
	Hex     string    `json:"hex"`
	RGB     [3]int    `json:"rgb"`
	HSL     [3]int    `json:"hsl"` // degrees, percent, percent
	HSB     [3]int    `json:"hsb"` // degrees, percent, percent
	OKLCH   OKLCH     `json:"oklch"`
	Lab     [3]string `json:"lab"`
	Outside bool      `json:"outside"` // what was asked for lies outside sRGB; the hex is the nearest that keeps the hue
	Exact   string    `json:"exact"`   // the color as CSS writes it, where the hex does not hold it; empty otherwise
	Dulled  float64   `json:"dulled"`  // how far the hex is from it, ΔE00
	Dull    string    `json:"dull"`    // the word for that
	Edge    float64   `json:"edge"`    // the largest OKLCH chroma that sRGB has at its lightness and hue
	Press   Press     `json:"press"`
	Inks    []Ink     `json:"inks"`
	White   float64   `json:"white"` // contrast ratio with white
	Black   float64   `json:"black"`
	DeltaE  float64   `json:"deltaE"` // from From
	Word    string    `json:"word"`
}

// Press is a build and how it looks.
type Press struct {
	Name      string     `json:"name"`
	Exact     [4]float64 `json:"exact"`
	Whole     [4]float64 `json:"whole"`
	Total     float64    `json:"total"`
	Hex       string     `json:"hex"`
	DeltaE    float64    `json:"deltaE"`
	Word      string     `json:"word"`
	InGamut   bool       `json:"inGamut"`
	Direction string     `json:"direction"`
}

// Ink is a spot ink near a color.
type Ink struct {
	Code   string  `json:"code"`
	Name   string  `json:"name"`
	Class  string  `json:"class"`
	Hex    string  `json:"hex"`
	DeltaE float64 `json:"deltaE"`
	Word   string  `json:"word"`
}

// wanted is a color that one asks about: by its value for screens, and as it is.
type wanted struct {
	rgb   color.RGB8
	exact string       // see Look
	whole color.RGB    // as it is, in sRGB without its bounds
	lab   color.Lab    // as it is
	build *press.Build // that it is itself
}

// screen is a color of a screen; 8 bits of sRGB where those hold it.
func screen(t color.Typed) wanted {
	w := wanted{rgb: t.RGB8(), exact: t.Exactly()}
	if w.whole = w.rgb.RGB(); w.exact != "" {
		w.whole = t.RGB
	}
	w.lab = w.whole.Lab()
	return w
}

// printed is a build or an ink as it looks.
func printed(lab color.Lab) wanted {
	whole := lab.RGB()
	return wanted{rgb: whole.RGB8(), whole: whole, lab: lab}
}

func (e *Engine) look(a LookArgs) (Look, error) {
	if a.Press == "" {
		a.Press = "coated"
	}
	c, err := press.Get(a.Press)
	if err != nil {
		return Look{}, err
	}
	var w wanted
	switch {
	case a.OKLCH != nil:
		of := color.OKLCH{L: a.OKLCH.L, C: a.OKLCH.C, H: a.OKLCH.H}
		if !(of.L >= 0 && of.L <= 1 && of.C >= 0 && of.C <= 1) || math.IsNaN(of.H) || math.IsInf(of.H, 0) {
			return Look{}, fmt.Errorf("lightness lies between 0 and 1, chroma between 0 and 1")
		}
		t, err := color.ParseCSS(of.CSS())
		if err != nil {
			return Look{}, err
		}
		if !t.Outside() { // within it, steps of 8 bits are what one moves by
			t = color.Typed{RGB: t.RGB8().RGB(), Alpha: 1}
		}
		w = screen(t)
	case a.CMYK == nil:
		t, err := color.Parse(a.Value)
		if err == nil && t.CMYK == nil {
			t, err = read(a.Value)
		}
		found, isInk := e.book.Find(a.Value)
		switch {
		case err != nil && isInk:
			w = printed(found.Lab(stockOf(a.Stock)))
		case err != nil:
			return Look{}, err
		case t.CMYK != nil:
			inks := t.CMYK.Array()
			a.CMYK = &inks
		default:
			w = screen(t)
		}
	}
	if a.CMYK != nil {
		build := color.CMYK{C: a.CMYK[0], M: a.CMYK[1], Y: a.CMYK[2], K: a.CMYK[3]}
		if !build.Valid() {
			return Look{}, fmt.Errorf("an ink lies between 0 and 100 percent")
		}
		w = printed(c.Lab(build))
		w.build = &press.Build{Exact: build, Whole: build, Lab: w.lab, InGamut: true}
	}
	return e.lookAt(a, c, w)
}

func (e *Engine) lookAt(a LookArgs, c *press.Condition, w wanted) (Look, error) {
	rgb := w.rgb
	if w.build == nil {
		b := c.Build(w.lab)
		w.build = &b
	}
	b := *w.build
	hsl, hsv, ok := rgb.RGB().HSL(), rgb.RGB().HSV(), w.whole.OKLab().OKLCH()
	out := Look{
		Hex: rgb.Hex(), RGB: [3]int{int(rgb.R), int(rgb.G), int(rgb.B)},
		HSL:     [3]int{int(math.Round(hsl.H)), int(math.Round(hsl.S * 100)), int(math.Round(hsl.L * 100))},
		HSB:     [3]int{int(math.Round(hsv.H)), int(math.Round(hsv.S * 100)), int(math.Round(hsv.V * 100))},
		OKLCH:   OKLCH{ok.L, ok.C, ok.H},
		Lab:     [3]string{fmt.Sprintf("%.1f", w.lab.L), fmt.Sprintf("%.1f", w.lab.A), fmt.Sprintf("%.1f", w.lab.B)},
		Outside: !w.whole.InGamut(), Exact: w.exact, Edge: color.MostChroma(ok.L, ok.H),
		Press: Press{Name: c.Name, Exact: b.Exact.Array(), Whole: b.Whole.Array(), Total: b.Whole.Total(), Hex: b.Lab.RGB().RGB8().Hex(),
			DeltaE: b.DeltaE, Word: color.Word(b.DeltaE), InGamut: b.InGamut, Direction: b.Direction},
		White: contrast.Ratio(rgb, color.RGB8{R: 255, G: 255, B: 255}), Black: contrast.Ratio(rgb, color.RGB8{}),
	}
	if w.exact != "" || out.Outside {
		out.Dulled = color.DeltaE00(w.lab, rgb.Lab())
		out.Dull = color.Word(out.Dulled)
	}
	var err error
	if out.Inks, err = e.inksNear(w.lab, a.Stock, 5); err != nil {
		return out, err
	}
	if a.From != "" {
		from, err := read(a.From)
		if err != nil {
			return out, err
		}
		out.DeltaE = color.DeltaE00(screen(from).lab, w.lab)
		out.Word = color.Word(out.DeltaE)
	}
	return out, nil
}

// read takes any typed screen notation.
func read(text string) (color.Typed, error) {
	t, err := color.Parse(text)
	if err == nil && t.CMYK != nil {
		err = fmt.Errorf("%q is a CMYK build; a screen color is wanted here", text)
	}
	if err == nil && t.Clamped != "" {
		err = fmt.Errorf("in %q, %s", text, t.Clamped)
	}
	return t, err
}

// InkArgs ask for the inks nearest to a color.
type InkArgs struct {
	Value string `json:"value"`
	Stock string `json:"stock,omitempty"`
	N     int    `json:"n"`
}

func (e *Engine) inks(a InkArgs) ([]Ink, error) {
	t, err := read(a.Value)
	if err != nil {
		return nil, err
	}
	return e.inksNear(screen(t).lab, a.Stock, a.N)
}

func stockOf(on string) ink.Stock {
	if on == string(ink.Uncoated) {
		return ink.Uncoated
	}
	return ink.Coated
}

func (e *Engine) inksNear(lab color.Lab, on string, n int) ([]Ink, error) {
	stock := stockOf(on)
	out := []Ink{}
	for _, m := range e.book.Meant().Nearest(lab, stock, n) {
		out = append(out, Ink{m.Ink.Code, m.Ink.Name, m.Ink.Class, m.Ink.Lab(stock).RGB().RGB8().Hex(), m.DeltaE, color.Word(m.DeltaE)})
	}
	return out, nil
}

// BookArgs bring the ink book of a house; without one the book that ships is used.
type BookArgs struct {
	Name  string   `json:"name"`
	CSV   string   `json:"csv"`
	Meant []string `json:"meant"` // classes that the nearest ink is taken from; none for all
}

func (e *Engine) useBook(a BookArgs) (bool, error) {
	b, err := ink.Quern(), error(nil)
	if a.CSV != "" {
		b, err = ink.ReadCSV(a.Name, strings.NewReader(a.CSV))
	}
	if err == nil {
		b, err = b.Taking(a.Meant)
	}
	if err != nil {
		return false, err
	}
	e.book = b
	return true, nil
}

// Member is a color of a harmony: its turn on the wheel, its lightness above the first's, its chroma as a factor of the
// first's, and whether it stays when the first one moves.
type Member struct {
	Hex    string  `json:"hex"`
	Turn   float64 `json:"turn"`
	Lift   float64 `json:"lift"`
	Chroma float64 `json:"chroma"`
	Free   bool    `json:"free"`
}

// HarmonyArgs ask for a set around a color: a scheme by name, or members to place anew.
type HarmonyArgs struct {
	Value   string   `json:"value"`
	Wheel   string   `json:"wheel"`
	Scheme  string   `json:"scheme,omitempty"`
	Count   int      `json:"count,omitempty"` // of its members; 0 for as many as the scheme has hues
	Members []Member `json:"members,omitempty"`
	Spread  bool     `json:"spread,omitempty"` // members of a scheme get the lightness that suits their hue
}

// Harmony is a set around a color.
type Harmony struct {
	Members []Member `json:"members"`
	Note    string   `json:"note"` // what the scheme can't do with the color, or empty
}

func (e *Engine) harmony(a HarmonyArgs) (Harmony, error) {
	out := Harmony{Members: []Member{}}
	t, err := read(a.Value)
	if err != nil {
		return out, err
	}
	out.Note = harmony.Cannot(t.RGB8(), a.Scheme)
	wheel := harmony.Wheel(a.Wheel)
	var members []harmony.Member
	if len(a.Members) == 0 {
		if members, err = harmony.Build(t.RGB8(), a.Scheme, wheel, a.Count); err != nil {
			return out, err
		}
		if a.Spread {
			members = harmony.Spread(t.RGB8(), wheel, members)
		}
	} else {
		for _, m := range a.Members {
			c, err := color.FromHex(m.Hex)
			if err != nil {
				return out, err
			}
			members = append(members, harmony.Member{Color: c, Turn: m.Turn, Lift: m.Lift, Chroma: m.Chroma, Free: m.Free})
		}
		members = harmony.Follow(t.RGB8(), wheel, members)
	}
	for _, m := range members {
		out.Members = append(out.Members, Member{m.Color.Hex(), m.Turn, m.Lift, m.Chroma, m.Free})
	}
	return out, nil
}

// ScaleArgs ask for a step scale and percent tints, shades and tones.
type ScaleArgs struct {
	Value    string    `json:"value"`
	Percents []float64 `json:"percents"`
}

// Scale is a color's lighter and darker companions.
type Scale struct {
	Steps []Step   `json:"steps"`
	Tints []string `json:"tints"` // for each percent asked for
	Shade []string `json:"shades"`
	Tones []string `json:"tones"`
}

// Step is one color of a step scale.
type Step struct {
	Name   int    `json:"name"`
	Hex    string `json:"hex"`
	Master bool   `json:"master"`
}

func (e *Engine) scale(a ScaleArgs) (Scale, error) {
	t, err := read(a.Value)
	if err != nil {
		return Scale{}, err
	}
	rgb := t.RGB8()
	out := Scale{Tints: []string{}, Shade: []string{}, Tones: []string{}}
	for _, s := range scale.Steps(rgb) {
		out.Steps = append(out.Steps, Step{s.Name, s.Color.Hex(), s.Master})
	}
	for _, p := range a.Percents {
		out.Tints = append(out.Tints, scale.Tint(rgb, p).Hex())
		out.Shade = append(out.Shade, scale.Shade(rgb, p).Hex())
		out.Tones = append(out.Tones, scale.Tone(rgb, p).Hex())
	}
	return out, nil
}

// GradientArgs ask for gradients to begin from.
type GradientArgs struct {
	Values []string `json:"values"`
}

// Begin is a gradient to begin from.
type Begin struct {
	Kind  string    `json:"kind"`
	Space string    `json:"space"`
	At    []int     `json:"at"`    // which of the values, from the first stop on
	Place []float64 `json:"place"` // of each, in percent
}

func (e *Engine) gradients(a GradientArgs) ([]Begin, error) {
	var colors []color.RGB8
	for _, v := range a.Values {
		t, err := read(v)
		if err != nil {
			return nil, err
		}
		colors = append(colors, t.RGB8())
	}
	out := []Begin{}
	for _, p := range gradient.Propose(colors) {
		out = append(out, Begin(p))
	}
	return out, nil
}

// WrittenArgs ask for a color in every notation.
type WrittenArgs struct {
	Value string `json:"value"`
}

// Written is a color in one notation.
type Written struct {
	Name  string `json:"name"`
	About string `json:"about"`
	Text  string `json:"text"`
}

// written is a color in every notation that holds it.
func (e *Engine) written(a WrittenArgs) ([]Written, error) {
	t, err := read(a.Value)
	if err != nil {
		return nil, err
	}
	out := []Written{}
	if t.Exactly() != "" {
		for _, n := range color.Beyond {
			out = append(out, Written{n.Name, n.About, n.Write(t.RGB)})
		}
		return out, nil
	}
	for _, n := range color.Notations {
		if text := n.Write(t.RGB8()); text != "" {
			out = append(out, Written{n.Name, n.About, text})
		}
	}
	return out, nil
}

// ContrastArgs ask how well a color reads on a ground.
type ContrastArgs struct {
	Value  string  `json:"value"`
	Ground string  `json:"ground"`
	Want   float64 `json:"want,omitempty"` // ratio to reach by moving the value's lightness; 0 for none
}

// Contrast is a ratio with its grades.
type Contrast struct {
	Ratio    float64 `json:"ratio"`
	Text     string  `json:"text"`
	Large    string  `json:"large"`
	Graphics bool    `json:"graphics"`
	Nearest  string  `json:"nearest,omitempty"` // the nearest color that reaches what is wanted
}

func (e *Engine) contrast(a ContrastArgs) (Contrast, error) {
	t, err := read(a.Value)
	if err != nil {
		return Contrast{}, err
	}
	g, err := read(a.Ground)
	if err != nil {
		return Contrast{}, err
	}
	ratio := contrast.Ratio(t.RGB8(), g.RGB8())
	grades := contrast.Grade(ratio)
	out := Contrast{Ratio: ratio, Text: grades.Text, Large: grades.Large, Graphics: grades.Graphics}
	if a.Want > 0 {
		if c, ok := contrast.Nearest(t.RGB8(), g.RGB8(), a.Want); ok {
			out.Nearest = c.Hex()
		}
	}
	return out, nil
}

// SpecimenArgs ask how every color of a set stands on every other one.
type SpecimenArgs struct {
	Values []string `json:"values"`
}

// Specimen is a color of the set as a ground.
type Specimen struct {
	At    int    `json:"at"`
	Plain string `json:"plain"` // black or white, whichever reads better on it
	On    []Type `json:"on"`    // most legible first
}

// Type is a color of the set as type on a ground.
type Type struct {
	At    int     `json:"at"`
	Ratio float64 `json:"ratio"`
	Shown string  `json:"shown"` // the ratio with one decimal, cut
	Use   string  `json:"use"`   // what it is good for
}

// use says what a ratio is good for.
func use(ratio float64) string {
	switch {
	case ratio >= contrast.TextAA:
		return "any text"
	case ratio >= contrast.LargeAA:
		return "large text and signs only"
	}
	return "not legible"
}

func cut(ratio float64, decimals int) string {
	return fmt.Sprintf("%.*f", decimals, contrast.Cut(ratio, decimals))
}

func (e *Engine) specimen(a SpecimenArgs) ([]Specimen, error) {
	if len(a.Values) > limits.SpecimenColors {
		return nil, fmt.Errorf("that is %d colors; at most %d are held against each other, choose a smaller subject", len(a.Values),
			limits.SpecimenColors)
	}
	set, err := readAll(a.Values)
	if err != nil {
		return nil, err
	}
	out := []Specimen{}
	black, white := color.RGB8{}, color.RGB8{R: 255, G: 255, B: 255}
	for _, g := range contrast.Specimen(set) {
		s := Specimen{At: g.At, Plain: black.Hex(), On: []Type{}}
		if contrast.Ratio(white, set[g.At]) > contrast.Ratio(black, set[g.At]) {
			s.Plain = white.Hex()
		}
		for _, t := range g.On {
			s.On = append(s.On, Type{t.At, t.Ratio, cut(t.Ratio, 1), use(t.Ratio)})
		}
		out = append(out, s)
	}
	return out, nil
}

// PairArgs ask how type stands on a ground, how it would pass, and which of some colors pass there.
type PairArgs struct {
	Type   string   `json:"type"`
	Ground string   `json:"ground"`
	Want   float64  `json:"want"` // the ratio to pass; 0 for the least of 4.5 and 7 that is not reached
	Among  []string `json:"among"`
}

// PairAnswer is the pair's ratio and what would pass.
type PairAnswer struct {
	Ratio  float64 `json:"ratio"`
	Shown  string  `json:"shown"` // with two decimals, cut
	Want   float64 `json:"want"`
	Type   *Mended `json:"type,omitempty"`   // the type changed, if it must and can be
	Ground *Mended `json:"ground,omitempty"` // the ground changed
	Among  []Type  `json:"among"`            // those that pass on the ground, nearest to the type first
}

// Mended is one side of a pair changed so that it passes.
type Mended struct {
	Hex    string  `json:"hex"`
	Shown  string  `json:"shown"`
	DeltaE float64 `json:"deltaE"` // from the side as it was
	Word   string  `json:"word"`
}

func (e *Engine) pair(a PairArgs) (PairAnswer, error) {
	both, err := readAll([]string{a.Type, a.Ground})
	if err != nil {
		return PairAnswer{}, err
	}
	among, err := readAll(a.Among)
	if err != nil {
		return PairAnswer{}, err
	}
	text, ground := both[0], both[1]
	ratio := contrast.Ratio(text, ground)
	if a.Want == 0 {
		a.Want = contrast.TextAA
		if ratio >= a.Want {
			a.Want = contrast.TextAAA
		}
	}
	out := PairAnswer{Ratio: ratio, Shown: cut(ratio, 2), Want: a.Want, Among: []Type{}}
	if ratio < a.Want {
		mended := func(m contrast.Mend) *Mended {
			if !m.OK {
				return nil
			}
			return &Mended{m.Color.Hex(), cut(m.Ratio, 1), m.DeltaE, color.Word(m.DeltaE)}
		}
		t, g := contrast.ToPass(text, ground, a.Want)
		out.Type, out.Ground = mended(t), mended(g)
	}
	far := make([]float64, len(among))
	for i, c := range among {
		if r := contrast.Ratio(c, ground); r >= a.Want {
			far[i] = color.DeltaE00(text.Lab(), c.Lab())
			out.Among = append(out.Among, Type{i, r, cut(r, 1), use(r)})
		}
	}
	slices.SortStableFunc(out.Among, func(x, y Type) int { return cmp.Compare(far[x.At], far[y.At]) })
	return out, nil
}

// readAll reads values of any notation.
func readAll(values []string) ([]color.RGB8, error) {
	out := make([]color.RGB8, len(values))
	for i, v := range values {
		t, err := read(v)
		if err != nil {
			return nil, err
		}
		out[i] = t.RGB8()
	}
	return out, nil
}

// exactly reads colors, beyond sRGB too.
func exactly(values []string) ([]color.Lab, error) {
	out := make([]color.Lab, len(values))
	for i, v := range values {
		t, err := read(v)
		if err != nil {
			return nil, err
		}
		out[i] = t.RGB.Lab()
	}
	return out, nil
}

// NearArgs ask for the color of a list that lies nearest to each of some values.
type NearArgs struct {
	Values []string `json:"values"`
	Among  []string `json:"among"`
}

// Near is the nearest color's place in the list, -1 in an empty one, and its distance.
type Near struct {
	At     int     `json:"at"`
	DeltaE float64 `json:"deltaE"`
	Word   string  `json:"word"`
}

func (e *Engine) near(a NearArgs) ([]Near, error) {
	labs, err := exactly(a.Among)
	if err != nil {
		return nil, err
	}
	index := color.NewIndex(labs)
	values, err := exactly(a.Values)
	if err != nil {
		return nil, err
	}
	out := []Near{}
	for _, lab := range values {
		near := Near{At: -1}
		for _, n := range index.Nearest(lab, 1) {
			near = Near{n.At, n.DeltaE, color.Word(n.DeltaE)}
		}
		out = append(out, near)
	}
	return out, nil
}

// NamesArgs ask for names of colors that nobody has named, other than those that are taken.
type NamesArgs struct {
	Values []string `json:"values"`
	Taken  []string `json:"taken"`
}

func (e *Engine) names(a NamesArgs) ([]string, error) {
	taken := make(map[string]bool, len(a.Taken)+len(a.Values))
	for _, n := range a.Taken {
		taken[strings.ToLower(n)] = true
	}
	values, err := readAll(a.Values)
	if err != nil {
		return nil, err
	}
	out := make([]string, len(values))
	for i, c := range values {
		out[i] = color.Apart(c.Describe(), func(n string) bool { return taken[strings.ToLower(n)] })
		taken[strings.ToLower(out[i])] = true
	}
	return out, nil
}

// Apart is how far a color lies from another.
type Apart struct {
	DeltaE float64 `json:"deltaE"`
	Word   string  `json:"word"`
}

// apart gives the distance of each value from each color of the list, row by row.
func (e *Engine) apart(a NearArgs) ([][]Apart, error) {
	if len(a.Values)*len(a.Among) > limits.LibraryColors {
		return nil, fmt.Errorf("that is more than %d pairs", limits.LibraryColors)
	}
	among, err := readAll(a.Among)
	if err != nil {
		return nil, err
	}
	values, err := readAll(a.Values)
	if err != nil {
		return nil, err
	}
	labs := make([]color.Lab, len(among))
	for i, c := range among {
		labs[i] = c.Lab()
	}
	out := make([][]Apart, len(values))
	for i, c := range values {
		lab := c.Lab()
		out[i] = make([]Apart, len(labs))
		for k, other := range labs {
			de := color.DeltaE00(lab, other)
			out[i][k] = Apart{de, color.Word(de)}
		}
	}
	return out, nil
}

// VisionArgs ask how colors look with a deficiency.
type VisionArgs struct {
	Values   []string `json:"values"`
	Kind     string   `json:"kind"`
	Severity float64  `json:"severity"`
}

// Vision is what is seen, and the pairs that become hard to tell apart, worst first.
type Vision struct {
	Seen       []string `json:"seen"`
	Confusable []Pair   `json:"confusable"`
}

// Pair is two places in the list of colors.
type Pair struct {
	A         int     `json:"a"`
	B         int     `json:"b"`
	DeltaE    float64 `json:"deltaE"`
	Simulated float64 `json:"simulated"`
	Light     float64 `json:"light"` // difference in L* as seen, which may still tell them apart
}

// KeepApartArgs ask for the smallest change that keeps two colors apart.
type KeepApartArgs struct {
	A        string  `json:"a"`
	B        string  `json:"b"`
	Kind     string  `json:"kind"`
	Severity float64 `json:"severity"`
	Any      bool    `json:"any"` // of any kind, and not of lightness alone
}

// KeptApart is that change.
type KeptApart struct {
	OK     bool    `json:"ok"`
	First  bool    `json:"first"` // a changes, not b
	Hex    string  `json:"hex"`
	Seen   string  `json:"seen"` // as it is seen
	DeltaE float64 `json:"deltaE"`
	Word   string  `json:"word"`
}

func (e *Engine) keepApart(a KeepApartArgs) (KeptApart, error) {
	k, err := vision.Find(a.Kind)
	if err != nil {
		return KeptApart{}, err
	}
	both, err := readAll([]string{a.A, a.B})
	if err != nil {
		return KeptApart{}, err
	}
	keep := vision.KeepApart
	if a.Any {
		keep = vision.LeastApart
	}
	c := keep(both[0], both[1], k, a.Severity, vision.Apart)
	return KeptApart{c.OK, c.First, c.Color.Hex(), vision.Simulate(c.Color, k, a.Severity).Hex(), c.DeltaE, color.Word(c.DeltaE)}, nil
}

func (e *Engine) vision(a VisionArgs) (Vision, error) {
	k, err := vision.Find(a.Kind)
	if err != nil {
		return Vision{}, err
	}
	set, err := readAll(a.Values)
	if err != nil {
		return Vision{}, err
	}
	out := Vision{Seen: []string{}, Confusable: []Pair{}}
	light := make([]float64, len(set))
	for i, c := range set {
		seen := vision.Simulate(c, k, a.Severity)
		out.Seen = append(out.Seen, seen.Hex())
		light[i] = seen.Lab().L
	}
	for _, p := range vision.Confusable(set, k, a.Severity, vision.Apart) {
		out.Confusable = append(out.Confusable, Pair{p.A, p.B, p.Seen, p.Simulated, math.Abs(light[p.A] - light[p.B])})
	}
	return out, nil
}

// Opened is a picture that the page may sample.
type Opened struct {
	ID      int    `json:"id"`
	Width   int    `json:"width"`
	Height  int    `json:"height"`
	Format  string `json:"format"`
	Profile string `json:"profile"`
	Note    string `json:"note"`
	Inks    bool   `json:"inks"`  // it is CMYK and has inks of its own
	Chart   []Spot `json:"chart"` // patches in reading order, if the picture is a palette
	Flat    []Spot `json:"flat"`  // the exact colors of what was drawn, the largest first; none of a photo
}

// Spot is a color at a place of a picture.
type Spot struct {
	Hex   string  `json:"hex"`
	Wide  string  `json:"wide,omitempty"` // the color itself, as CSS writes it, where sRGB does not hold it
	X     int     `json:"x"`
	Y     int     `json:"y"`
	Share float64 `json:"share"` // of the area, 0 to 1
}

// Open decodes a picture and keeps it until it is closed. The answer is an Opened.
func (e *Engine) Open(data []byte) []byte {
	p, err := picture.DecodeOwn(data)
	if err != nil {
		return answer(nil, err)
	}
	e.next++
	e.pictures[e.next] = p
	out := Opened{ID: e.next, Width: p.Rect.Dx(), Height: p.Rect.Dy(), Format: p.Format, Profile: p.Profile, Note: p.Note,
		Inks: p.Inks != nil, Chart: []Spot{}, Flat: []Spot{}}
	for _, patch := range picture.Chart(p.NRGBA) {
		b := patch.Box
		out.Chart = append(out.Chart, spot(p, patch.Color, b.Min.Add(b.Max).Div(2), picture.PatchWindow,
			float64(b.Dx()*b.Dy())/float64(out.Width*out.Height)))
	}
	for _, a := range picture.Flat(p.NRGBA) {
		out.Flat = append(out.Flat, spot(p, a.Color, a.At, 1, a.Share))
	}
	return answer(out, nil)
}

// spot is a color at a place of a picture, taken over a window.
func spot(p *picture.Picture, c color.RGB8, at image.Point, window int, share float64) Spot {
	out := Spot{Hex: c.Hex(), X: at.X, Y: at.Y, Share: share}
	if t, ok := p.Beyond(at.X, at.Y, window); ok {
		out.Hex, out.Wide = t.RGB8().Hex(), t.Exactly()
	}
	return out
}

// Pixels are the RGBA bytes of an opened picture, row by row; nothing if there is none of that number.
func (e *Engine) Pixels(id int) []byte {
	if p, ok := e.pictures[id]; ok {
		return p.Pix
	}
	return nil
}

func (e *Engine) picture(id int) (*picture.Picture, error) {
	p, ok := e.pictures[id]
	if !ok {
		return nil, fmt.Errorf("the picture is no longer open")
	}
	return p, nil
}

// ProofArgs ask how an opened picture prints.
type ProofArgs struct {
	ID         int     `json:"id"`
	Press      string  `json:"press"`
	Intent     int     `json:"intent"` // 0 perceptual, 1 relative, 2 saturation, 3 absolute
	BlackPoint bool    `json:"bpc"`
	Paper      bool    `json:"paper"`         // with the paper's own color
	Limit      float64 `json:"limit"`         // of total ink, percent
	Side       int     `json:"side"`          // the longest side of the pictures that come back
	Own        bool    `json:"own,omitempty"` // the inks of a CMYK picture as they are, whatever it was made for
	Marks      bool    `json:"marks"`         // with the report and where it holds; takes longer than the look
}

// Proofed are pictures of one size, to be fetched by number and closed; without marks the last two are 0 and the shares are.
type Proofed struct {
	Width      int     `json:"width"`
	Height     int     `json:"height"`
	Reduced    bool    `json:"reduced"` // it is smaller than the picture
	Screen     int     `json:"screen"`
	Print      int     `json:"print"`
	Gamut      int     `json:"gamut"` // hatched where the picture leaves the gamut
	Ink        int     `json:"ink"`   // hatched where it takes too much ink
	OutOfGamut float64 `json:"outOfGamut"`
	OverInk    float64 `json:"overInk"`
	Heaviest   float64 `json:"heaviest"` // percent of total ink
	X          int     `json:"x"`        // where it is in the picture as it is
	Y          int     `json:"y"`
}

func (e *Engine) proof(a ProofArgs) (Proofed, error) {
	p, err := e.picture(a.ID)
	if err != nil {
		return Proofed{}, err
	}
	if a.Intent < 0 || a.Intent >= len(icc.Intents) {
		return Proofed{}, fmt.Errorf("there is no rendering intent %d", a.Intent)
	}
	if !(a.Limit > 0 && a.Limit <= 400) {
		return Proofed{}, fmt.Errorf("the ink limit lies between 0 and 400 percent")
	}
	_, lab := p.Seen()
	key := fmt.Sprint(a.Press, a.Intent, a.BlackPoint, a.Paper)
	if lab != nil {
		key += fmt.Sprint(" from ", a.ID)
	}
	if e.soft == nil || e.softKey != key {
		c, err := press.Get(a.Press)
		if err != nil {
			return Proofed{}, err
		}
		if c, err = c.With(icc.Rendering{Intent: icc.Intent(a.Intent), BlackPoint: a.BlackPoint}); err != nil {
			return Proofed{}, err
		}
		e.soft, e.softKey = proof.Of(c, a.Paper, lab), key
		e.soft.Told = e.Told
	}
	small, err := e.reduced(a.ID, a.Side)
	if err != nil {
		return Proofed{}, err
	}
	out := Proofed{Width: small.Rect.Dx(), Height: small.Rect.Dy(), Reduced: small != p.NRGBA, Screen: e.keep(small)}
	from := small
	if p.Own != nil {
		if e.own == nil || e.ownOf != [2]int{a.ID, a.Side} {
			e.own, e.ownOf = proof.Reduced(p.Own.NRGBA, a.Side), [2]int{a.ID, a.Side}
		}
		from = e.own
	}
	var own *image.CMYK
	if a.Own && p.Inks != nil {
		own = proof.ReducedInks(p.Inks, a.Side)
		out.Print = e.keep(e.soft.Screen(own))
	} else {
		out.Print = e.keep(e.soft.Look(from))
	}
	if a.Marks {
		inks := own
		if inks == nil {
			inks = e.soft.Inks(from)
		}
		r := e.soft.Measure(from, inks, a.Limit)
		gamut, ink := e.soft.Marks(from, inks, a.Limit)
		out.Gamut, out.Ink = e.keep(gamut), e.keep(ink)
		out.OutOfGamut, out.OverInk, out.Heaviest = r.OutOfGamut, r.OverInk, r.Heaviest
		out.X, out.Y = r.X*p.Rect.Dx()/out.Width, r.Y*p.Rect.Dy()/out.Height
	}
	return out, nil
}

// keep keeps a picture that was made, to be fetched by number and closed.
func (e *Engine) keep(img *image.NRGBA) int {
	e.next++
	e.pictures[e.next] = &picture.Picture{NRGBA: img}
	return e.next
}

// reduced is an opened picture no longer than a side; the one that was asked for last is remembered.
func (e *Engine) reduced(id, side int) (*image.NRGBA, error) {
	p, err := e.picture(id)
	if err != nil {
		return nil, err
	}
	if side < 1 || side > limits.PictureSide {
		return nil, fmt.Errorf("a picture of %d pixels cannot be made", side)
	}
	if key := [2]int{id, side}; e.small == nil || e.smallOf != key {
		e.small, e.smallOf = proof.Reduced(p.NRGBA, side), key
	}
	return e.small, nil
}

// Reduced is a picture that was made of an opened one, to be fetched by number and closed.
type Reduced struct {
	ID     int `json:"id"`
	Width  int `json:"width"`
	Height int `json:"height"`
}

func (e *Engine) made(img *image.NRGBA) Reduced {
	return Reduced{e.keep(img), img.Rect.Dx(), img.Rect.Dy()}
}

// HeldArgs hold a palette against an opened picture, which is worked on at a size.
type HeldArgs struct {
	ID     int      `json:"id"`
	Side   int      `json:"side"`
	Values []string `json:"values"`
}

// HeldMatch is where in the picture a color of the palette is; without a share it is nowhere, and the rest is what comes nearest.
type HeldMatch struct {
	Share  float64 `json:"share"`
	Own    string  `json:"own"`
	DeltaE float64 `json:"deltaE"`
	Word   string  `json:"word"`
	X      int     `json:"x"` // in the picture as it is
	Y      int     `json:"y"`
}

// Unanswered is an area that no color of the palette answers.
type Unanswered struct {
	Area    HeldMatch `json:"area"`
	Nearest int       `json:"nearest"` // place of the palette's nearest color, which the distance is from
}

// HeldAnswer is what comes of it, with the picture in the size it was worked on.
type HeldAnswer struct {
	Picture    Reduced      `json:"picture"`
	Matches    []HeldMatch  `json:"matches"` // of each color of the palette
	Unanswered []Unanswered `json:"unanswered"`
}

func (e *Engine) hold(a HeldArgs) (HeldAnswer, error) {
	set, err := readAll(a.Values)
	if err != nil {
		return HeldAnswer{}, err
	}
	if len(set) == 0 || len(set) > limits.SpecimenColors {
		return HeldAnswer{}, fmt.Errorf("a palette of %d colors cannot be held against a picture; it takes 1 to %d", len(set),
			limits.SpecimenColors)
	}
	small, err := e.gather(a.ID, a.Side)
	if err != nil {
		return HeldAnswer{}, err
	}
	e.against = e.held.Against(set)
	whole := e.pictures[a.ID].Rect
	match := func(share float64, own color.RGB8, de float64, at image.Point) HeldMatch {
		return HeldMatch{share, own.Hex(), de, color.Word(de), at.X * whole.Dx() / small.Rect.Dx(), at.Y * whole.Dy() / small.Rect.Dy()}
	}
	out := HeldAnswer{Picture: e.made(small), Unanswered: []Unanswered{}}
	for _, m := range e.against.Matches {
		out.Matches = append(out.Matches, match(m.Share, m.Own, m.DeltaE, m.At))
	}
	for _, u := range e.against.Unanswered {
		out.Unanswered = append(out.Unanswered, Unanswered{match(u.Share, u.Value, u.DeltaE, u.At), u.Nearest})
	}
	return out, nil
}

// gather makes the picture in a size ready for palettes, if it is not yet.
func (e *Engine) gather(id, side int) (*image.NRGBA, error) {
	small, err := e.reduced(id, side)
	if err != nil {
		return nil, err
	}
	if key := [2]int{id, side}; e.held == nil || e.heldOf != key {
		e.held, e.heldOf, e.against = palette.Of(small), key, nil
	}
	return small, nil
}

// DistancesArgs ask how far each pixel is from a value.
type DistancesArgs struct {
	ID    int    `json:"id"`
	Side  int    `json:"side"`
	Value string `json:"value"`
}

// distances answers with a picture: each pixel its gray, and as alpha a quarter of a ΔE00 a level.
func (e *Engine) distances(a DistancesArgs) (Reduced, error) {
	c, err := color.FromHex(a.Value)
	if err != nil {
		return Reduced{}, err
	}
	if _, err := e.gather(a.ID, a.Side); err != nil {
		return Reduced{}, err
	}
	return e.made(e.held.Distances(c)), nil
}

// InPlaceArgs ask for the picture with the palette that was held against it last in its place: one color of it, or all for -1. The side
// is 0 for the picture as large as it is.
type InPlaceArgs struct {
	ID   int `json:"id"`
	Side int `json:"side"`
	Only int `json:"only"`
}

func (e *Engine) inPlace(a InPlaceArgs) (Reduced, error) {
	p, err := e.picture(a.ID)
	if err != nil {
		return Reduced{}, err
	}
	if e.against == nil || e.heldOf[0] != a.ID {
		return Reduced{}, fmt.Errorf("no palette is held against this picture")
	}
	img := p.NRGBA
	if a.Side > 0 {
		if img, err = e.reduced(a.ID, a.Side); err != nil {
			return Reduced{}, err
		}
	}
	return e.made(e.against.InPlace(img, a.Only)), nil
}

// SeenArgs ask how an opened picture is seen with a deficiency of color vision.
type SeenArgs struct {
	ID       int     `json:"id"`
	Side     int     `json:"side"`
	Kind     string  `json:"kind"`
	Severity float64 `json:"severity"`
}

// SeenAnswer is the picture as ordinary eyes and as others see it, in one size.
type SeenAnswer struct {
	Ordinary Reduced `json:"ordinary"`
	Seen     Reduced `json:"seen"`
}

func (e *Engine) seen(a SeenArgs) (SeenAnswer, error) {
	k, err := vision.Find(a.Kind)
	if err != nil {
		return SeenAnswer{}, err
	}
	small, err := e.reduced(a.ID, a.Side)
	if err != nil {
		return SeenAnswer{}, err
	}
	other := &image.NRGBA{Pix: slices.Clone(small.Pix), Stride: small.Stride, Rect: small.Rect}
	vision.Picture(other, k, a.Severity)
	return SeenAnswer{e.made(small), e.made(other)}, nil
}

// PointArgs name a point of a picture and a window around it.
type PointArgs struct {
	ID     int `json:"id"`
	X      int `json:"x"`
	Y      int `json:"y"`
	Window int `json:"window"`
}

func (e *Engine) sample(a PointArgs) (Spot, error) {
	p, err := e.picture(a.ID)
	if err != nil {
		return Spot{}, err
	}
	c, err := picture.Sample(p.NRGBA, a.X, a.Y, a.Window)
	return spot(p, c, image.Pt(a.X, a.Y), a.Window, 0), err
}

// ColorsArgs ask for the colors of a picture.
type ColorsArgs struct {
	ID int `json:"id"`
	N  int `json:"n,omitempty"`
}

func (e *Engine) colors(a ColorsArgs) ([]Spot, error) {
	p, err := e.picture(a.ID)
	if err != nil {
		return nil, err
	}
	areas, err := picture.Colors(p.NRGBA, a.N)
	if err != nil {
		return nil, err
	}
	out := []Spot{}
	for _, x := range areas {
		out = append(out, spot(p, x.Color, x.At, 1, x.Share))
	}
	return out, nil
}

func (e *Engine) close(a ColorsArgs) (bool, error) {
	delete(e.pictures, a.ID)
	if e.heldOf[0] == a.ID {
		e.held, e.against = nil, nil
	}
	if e.ownOf[0] == a.ID {
		e.own, e.ownOf = nil, [2]int{}
	}
	if e.smallOf[0] == a.ID {
		e.small = nil
	}
	return true, nil
}

// Questions names all questions, in alphabetical order.
func Questions() []string {
	var out []string
	for q := range questions {
		out = append(out, q)
	}
	slices.Sort(out)
	return out
}
