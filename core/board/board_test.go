package board_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/board"
	"huekeep/core/color"
	"huekeep/core/contrast"
)

func paint(name, hex string) board.Paint { return board.Paint{Name: name, Hex: hex} }

var ferries = []board.Paint{paint("Deep Sound", "#0E3A53"), paint("Buoy", "#E2572B"), paint("Lamp", "#F2B632"), paint("Saltmarsh", "#4E7D5B"),
	paint("Heather Cliff", "#7A4E7E"), paint("Ice Ramp", "#8FC1D4"), paint("Fog", "#C9D1D3"), paint("Slate Quay", "#3B444B"), paint("Hull White", "#F7F5F0")}

var usual = board.Texts{Headline: "A headline of a few words", Lines: "Some lines of text, as long as they are on a poster or a page, to see how they read in these colors.",
	Small: "Small print: dates, sources, conditions.", Button: "Go on"}

// holds says that proposed options keep what is promised of them.
func holds(t *testing.T, options []board.Option, of []board.Paint) {
	t.Helper()
	assert.LessOrEqual(t, len(options), board.Most)
	for i, o := range options {
		for _, p := range o.Parts() {
			assert.GreaterOrEqual(t, contrast.Ratio(p.Type.RGB(), p.On.RGB()), p.Need, "%s of option %s", p.Key, board.Letter(i))
			assert.True(t, p.Passes())
		}
		for _, c := range o.Colors() {
			assert.Contains(t, of, c, "only colors of the subject")
		}
		for _, p := range options[:i] {
			ground := color.DeltaE00(o.Ground.RGB().Lab(), p.Ground.RGB().Lab())
			text := color.DeltaE00(o.Type.RGB().Lab(), p.Type.RGB().Lab())
			assert.GreaterOrEqual(t, max(ground, text), float64(board.Apart), "options %s and another", board.Letter(i))
		}
	}
}

func TestProposedOptionsCanBeReadAndDiffer(t *testing.T) {
	options := board.Propose(ferries, "spectral")
	require.Len(t, options, board.Most)
	holds(t, options, ferries)
	assert.Equal(t, "Deep Sound", options[0].Ground.Name, "the one with most contrast is first")
	grounds := map[string]bool{}
	for _, o := range options {
		grounds[o.Ground.Name] = true
		assert.Equal(t, "spectral", o.Typeface)
	}
	assert.Len(t, grounds, board.Most, "six grounds of nine colors")

	random := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		var of []board.Paint
		for i := range random.IntN(30) {
			of = append(of, paint(fmt.Sprint(i), fmt.Sprintf("#%06X", random.IntN(1<<24))))
		}
		holds(t, board.Propose(of, "spectral"), of)
	}
	for what, of := range map[string][]board.Paint{"nothing": nil, "one color": ferries[:1], "colors that nothing reads on": {paint("a", "#777777"), paint("b", "#808080")},
		"one color twice": {paint("a", "#112233"), paint("b", "#112233")}} {
		assert.Empty(t, board.Propose(of, ""), what)
	}
	assert.Len(t, board.Propose([]board.Paint{paint("a", "#FFFFFF"), paint("b", "#000000"), paint("c", "#FEFEFE")}, ""), 2, "white on black and black on white, and no second white")
}

func TestWhatStandsOnAnOption(t *testing.T) {
	out := paint("Fog", "#C9D1D3")
	o := board.Option{Ground: ferries[0], Type: ferries[8], Outline: &out, Accents: []board.Paint{ferries[2], ferries[0]}, Typeface: "spectral", Size: board.Large}
	ground, label := o.Button()
	assert.Equal(t, []string{"Lamp", "Deep Sound"}, []string{ground.Name, label.Name}, "the label is what is most legible")
	assert.True(t, o.Passes())
	var names []string
	for _, c := range o.Colors() {
		names = append(names, c.Name)
	}
	assert.Equal(t, []string{"Deep Sound", "Hull White", "Fog", "Lamp"}, names, "each once")
	var rules []string
	for _, r := range o.Rules() {
		rules = append(rules, fmt.Sprintf("%s on %s %g", r.Type.Name, r.Ground.Name, r.Ratio))
	}
	assert.Equal(t, []string{"Hull White on Deep Sound 4.5", "Deep Sound on Lamp 4.5", "Lamp on Deep Sound 3"}, rules)

	o.Type = ferries[1] // Buoy on Deep Sound: enough for large type only
	assert.False(t, o.Passes())
	failing := map[string]bool{}
	for _, p := range o.Parts() {
		failing[p.Key] = !p.Passes()
	}
	assert.Equal(t, map[string]bool{"word": false, "headline": false, "lines": true, "small": true, "button": false}, failing)
	assert.Equal(t, 3.0, o.Rules()[0].Ratio)

	gray := o.Seen(func(color.RGB8) color.RGB8 { return color.RGB8{R: 9, G: 9, B: 9} })
	for _, c := range gray.Colors() {
		assert.Equal(t, "#090909", c.Hex)
	}
	assert.Equal(t, "#C9D1D3", o.Outline.Hex, "the option itself stays as it is")

	b := board.Board{Texts: usual, Options: []board.Option{o, o}}
	own := board.Texts{Word: "Oar", Headline: "Another"}
	b.Options[1].Texts = &own
	assert.Equal(t, "A", b.TextsOf(0).Word, "the option's letter, if there is no word")
	assert.Equal(t, own, b.TextsOf(1))
}

func whole() board.Board {
	out, own := paint("Fog", "#C9D1D3"), board.Texts{Word: "Oar", Headline: "H", Lines: "L", Small: "S", Button: "B"}
	ground := board.Paint{ID: 7, Name: "Deep Sound", Hex: "#0E3A53"}
	return board.Board{Title: "Winter", Intro: "Choose one", Texts: usual, Logo: "logo", Options: []board.Option{
		{Ground: ground, Type: ferries[8], Outline: &out, Accents: []board.Paint{ferries[2]}, Typeface: "own-3", Size: board.Large, Logo: true, Texts: &own},
		{Ground: ferries[8], Type: ground, Typeface: "spectral", Size: board.Medium}}}
}

// The golden file is what the first version wrote; it is never written anew.
func TestBoardsOfEveryVersionAreRead(t *testing.T) {
	text, err := whole().Write()
	require.NoError(t, err)
	golden, err := os.ReadFile("testdata/board.v1.json")
	require.NoError(t, err)
	assert.JSONEq(t, string(golden), text)
	b, err := board.Read(string(golden))
	require.NoError(t, err)
	assert.Equal(t, whole(), b)
	_, err = board.Read(`{"version": 99}`)
	assert.ErrorContains(t, err, "newer Hue Keep")
	_, err = board.Read(`{`)
	assert.Error(t, err)
}

func TestBoardsThatCannotBe(t *testing.T) {
	require.NoError(t, whole().Check())
	for says, spoil := range map[string]func(*board.Board){
		"has no title":                       func(b *board.Board) { b.Title = "  " },
		"the title has 200 characters":       func(b *board.Board) { b.Title = strings.Repeat("x", 200) },
		"the headline has 121 characters":    func(b *board.Board) { b.Texts.Headline = strings.Repeat("x", 121) },
		"option A: the button has":           func(b *board.Board) { b.Options[0].Texts.Button = strings.Repeat("x", 41) },
		"option B: ":                         func(b *board.Board) { b.Options[1].Ground.Hex = "blue" },
		"option B: there is no size":         func(b *board.Board) { b.Options[1].Size = "huge" },
		"option A: it has 9 accents":         func(b *board.Board) { b.Options[0].Accents = make([]board.Paint, 9) },
		"the board has 9 options; at most 8": func(b *board.Board) { b.Options = make([]board.Option, 9) },
		"a character that cannot be written": func(b *board.Board) { b.Intro = "a\x00b" },
	} {
		b := whole()
		own := *b.Options[0].Texts
		b.Options[0].Texts = &own
		spoil(&b)
		assert.ErrorContains(t, b.Check(), says)
	}
}

func BenchmarkPropose(b *testing.B) {
	random := rand.New(rand.NewPCG(1, 2))
	var of []board.Paint
	for i := range 120 {
		of = append(of, paint(fmt.Sprint(i), fmt.Sprintf("#%06X", random.IntN(1<<24))))
	}
	for b.Loop() {
		board.Propose(of, "spectral")
	}
}
