package library_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
)

func TestARuleAboutAPairSaysWhatItAsks(t *testing.T) {
	white := library.Ref{ID: 9, Name: "Hull White"}
	for says, p := range map[string]library.Pair{
		"may not stand on Hull White":                     {Ground: white},
		"may stand on Hull White as large text and signs": {Ground: white, May: true, Ratio: 3},
		"may stand on Hull White as any text":             {Ground: white, May: true, Ratio: 4.5},
		"may stand on Hull White as any text, strict":     {Ground: white, May: true, Ratio: 7},
	} {
		assert.Equal(t, says, p.String())
		assert.NoError(t, library.CheckPair(p))
	}
	for _, ratio := range []float64{0, 0.99, 21.1, -1} {
		assert.Error(t, library.CheckPair(library.Pair{May: true, Ratio: ratio}), ratio)
	}
}

func TestWhetherValuesKeepARule(t *testing.T) {
	sound, white, lamp := color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, color.RGB8{R: 0xF7, G: 0xF5, B: 0xF0}, color.RGB8{R: 0xF2, G: 0xB6, B: 0x32}
	exact := contrast.Ratio(sound, white)
	for _, c := range []struct {
		what       string
		rule       library.Pair
		of, ground color.RGB8
		keeps      bool
	}{
		{"enough", library.Pair{May: true, Ratio: 7}, sound, white, true},
		{"to the last digit", library.Pair{May: true, Ratio: exact}, sound, white, true},
		{"a hair short", library.Pair{May: true, Ratio: exact + 1e-9}, sound, white, false},
		{"not enough", library.Pair{May: true, Ratio: 3}, lamp, white, false},
		{"what is forbidden stays so, whatever it reaches", library.Pair{}, sound, white, true},
	} {
		ratio, keeps := c.rule.Keeps(c.of, c.ground)
		assert.Equal(t, c.keeps, keeps, c.what)
		assert.InDelta(t, contrast.Ratio(c.of, c.ground), ratio, 1e-12)
	}
}

// A rule about a pair has a ratio that there is; a CIELAB value has three numbers within its range.
func TestRulesAndReadingsThatCannotBe(t *testing.T) {
	for ratio, ok := range map[float64]bool{1: true, 21: true, 0.99: false, 21.01: false, math.NaN(): false} {
		assert.Equal(t, ok, library.CheckPair(library.Pair{May: true, Ratio: ratio}) == nil, ratio)
	}
	assert.NoError(t, library.CheckPair(library.Pair{}), "what may not be needs no ratio")
	for text, ok := range map[string]bool{
		"50 10 -10": true, "0 200 -200": true, "100 -200 200": true, "100.01 0 0": false, "-0.01 0 0": false, "50 200.1 0": false, "50 -200.1 0": false,
		"50 0 200.1": false, "50 0 -200.1": false, "50 0": false, "50 0 0 0": false, "50 x 0": false, "NaN 0 0": false,
	} {
		lab, err := library.ReadLab(text)
		assert.Equal(t, ok, err == nil, text)
		if ok {
			again, err := library.ReadLab(library.WriteLab(lab))
			require.NoError(t, err)
			assert.Equal(t, lab, again)
		}
	}
}

// What points to a color is told by its number: its successor, its ground, the ground of a companion, and nothing else.
func TestWhatPointsToAColor(t *testing.T) {
	c := library.Color{Successor: library.Ref{ID: 3}, Ground: library.Ref{ID: 4}, Companions: []library.Companion{{Ground: library.Ref{ID: 5}}, {Ground: library.Ref{ID: 6}}}}
	for id, want := range map[int64]bool{3: true, 4: true, 5: true, 6: true, 7: false} {
		assert.Equal(t, want, c.PointsTo(id), id)
	}
}

// A color has one master: what decided before stays as approved, and what is read from a file with two, or none, of them is put right.
func TestOneThingDecidesAColor(t *testing.T) {
	buildOf := func(c, k float64) color.CMYK { return color.CMYK{C: c, K: k} }
	c := library.Color{
		Builds: []library.Build{{Press: "coated", Value: buildOf(10, 0), Origin: library.Deciding}, {Press: "uncoated", Value: buildOf(20, 0), Origin: library.Deciding}},
		Spots:  []library.Spot{{Stock: "coated", Code: "QN-0132", Origin: library.Deciding}},
		Plain:  library.Plain{By: library.Person{Name: "Ada"}},
	}
	c.Settle()
	origins := func() []library.Origin {
		return []library.Origin{c.Builds[0].Origin, c.Builds[1].Origin, c.Spots[0].Origin}
	}
	assert.Equal(t, []library.Origin{library.Signed, library.Signed, library.Signed}, origins(), "its hex decides")
	assert.Equal(t, library.Plain{}, c.Plain, "which nobody approves")
}
