package starter_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/starter"
)

func TestTheStartersAreOurOwnAndDiffer(t *testing.T) {
	list := starter.Shipped()
	require.GreaterOrEqual(t, len(list), 900, "three lights of 300 subjects")
	names, palettes := map[string]bool{}, map[[5]color.RGB8]bool{}
	for _, s := range list {
		require.Len(t, s.Colors, 5, s.Name)
		assert.GreaterOrEqual(t, len(s.Keywords), 6, s.Name)
		names[s.Name], palettes[[5]color.RGB8(s.Colors)] = true, true
		for i := 1; i < 5; i++ {
			assert.Greater(t, s.Colors[i].Lab().L, s.Colors[i-1].Lab().L, "%s runs from dark to light", s.Name)
		}
	}
	assert.Len(t, names, len(list))
	assert.Len(t, palettes, len(list))
	assert.Equal(t, []string{"q1", "Slip road by day"}, []string{list[0].Key, list[0].Name}, "likes are kept by the key")
	assert.Equal(t, "Velvet rope at dusk", list[149].Name)
}

func TestSearchByWordsAndByColor(t *testing.T) {
	for query, least := range map[string]int{"sea": 15, "sea quiet": 5, "SLIP road": 3, "": 900} {
		assert.GreaterOrEqual(t, len(starter.Find(starter.Shipped(), query)), least, query)
	}
	assert.Empty(t, starter.Find(starter.Shipped(), "parsnip"))
	for _, m := range starter.Find(starter.Shipped(), "sea parsnip") {
		assert.Equal(t, []string{"parsnip"}, m.Missed)
	}
	x := starter.NewIndex(starter.Shipped())
	want := starter.Shipped()[40].Colors[2]
	near := x.Close(want, 6)
	require.Len(t, near, 6)
	assert.Zero(t, near[0].DeltaE)
	assert.Equal(t, want, near[0].Colors[near[0].Closest])
	for i := 1; i < len(near); i++ {
		assert.GreaterOrEqual(t, near[i].DeltaE, near[i-1].DeltaE)
	}
}

// Words as people type them: plurals, synonyms, seasons, colors, two words, a letter wrong. Each finds something that has to do with it, and first.
func TestWordsAsPeopleTypeThem(t *testing.T) {
	for query, want := range map[string]string{
		"ocean": "sea", "oceans": "sea", "fall": "autumn", "Fall leaves": "autumn", "xmas": "christmas", "christmas": "christmas", "kids": "children", "corporate": "corporate",
		"business": "corporate", "70s": "1970s", "1980s": "1980s", "the eighties": "1980s", "skin tones": "skin", "coffee": "coffee", "cafe": "coffee", "halloween": "halloween",
		"wedding colors": "wedding", "autum": "autumn", "chrismas": "christmas", "coprorate": "corporate", "sunset": "sunset", "berries": "berry", "leaves": "leaf", "easter": "easter",
		"minimalist": "minimal", "scandinavian": "nordic", "vintage": "vintage", "tech": "technology", "baby shower": "baby", "food": "food", "neon": "neon", "jewel tones": "jewel",
		"calm ocean": "sea", "neutral": "neutral", "nautical": "nautical", "maritime": "maritime", "law firm": "law", "lavender": "lavender", "tropical": "tropical", "rainbow": "rainbow", "art deco": "deco",
	} {
		found := starter.Find(starter.Shipped(), query)
		if assert.NotEmpty(t, found, query) {
			assert.Contains(t, strings.ToLower(found[0].Name+" "+strings.Join(found[0].Keywords, " ")), want, query)
		}
	}
	for query, is := range map[string]func(c color.OKLCH) bool{
		"blue":      func(c color.OKLCH) bool { return c.H > 220 && c.H < 281 && c.C > 0.03 },
		"dark blue": func(c color.OKLCH) bool { return c.H > 220 && c.H < 281 && c.L < 0.48 },
		"warm gray": func(c color.OKLCH) bool { return c.C < 0.035 },
		"pale pink": func(c color.OKLCH) bool { return (c.H > 325 || c.H < 26) && c.L > 0.75 },
		"grey":      func(c color.OKLCH) bool { return c.C < 0.035 },
	} {
		found := starter.Find(starter.Shipped(), query)
		require.NotEmpty(t, found, query)
		for _, m := range found {
			assert.True(t, slices.ContainsFunc(m.Colors, func(c color.RGB8) bool { return is(c.RGB().OKLab().OKLCH()) }) || slices.ContainsFunc(strings.Fields(query), func(w string) bool { return slices.Contains(m.Keywords, w) || w == "grey" }), "%s: %s", query, m.Name)
		}
	}
	for _, query := range []string{"car", "ran", "ion"} { // inside of cart, orange, lion
		for _, m := range starter.Find(starter.Shipped(), query) {
			assert.Contains(t, strings.Fields(strings.ToLower(m.Name+" "+strings.Join(m.Keywords, " "))), query)
		}
	}
	assert.Len(t, starter.Find(starter.Shipped(), "some colors"), len(starter.Shipped()), "words that say nothing")
}

// BenchmarkCloseTo states a search by color over 100,000 colors of starters, in ms.
func BenchmarkCloseTo(b *testing.B) {
	var list []starter.Starter
	for i := range 20_000 {
		s := starter.Shipped()[i%150]
		var colors []color.RGB8
		for k, c := range s.Colors {
			colors = append(colors, color.RGB8{R: c.R + uint8(i/150), G: c.G + uint8(i/300*k), B: c.B - uint8(i/75)})
		}
		list = append(list, starter.Starter{Colors: colors})
	}
	x := starter.NewIndex(list)
	for b.Loop() {
		x.Close(color.RGB8{R: 226, G: 87, B: 43}, 40)
	}
}
