package library_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

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
