package starter_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/starter"
)

func TestTheStartersAreOurOwnAndDiffer(t *testing.T) {
	list := starter.Shipped()
	require.Len(t, list, 150)
	names, palettes := map[string]bool{}, map[[5]color.RGB8]bool{}
	for _, s := range list {
		require.Len(t, s.Colors, 5, s.Name)
		assert.GreaterOrEqual(t, len(s.Keywords), 6, s.Name)
		names[s.Name], palettes[[5]color.RGB8(s.Colors)] = true, true
		for i := 1; i < 5; i++ {
			assert.Greater(t, s.Colors[i].Lab().L, s.Colors[i-1].Lab().L, "%s runs from dark to light", s.Name)
		}
	}
	assert.Len(t, names, 150)
	assert.Len(t, palettes, 150)
}

func TestSearchByWordsAndByColor(t *testing.T) {
	for query, least := range map[string]int{"sea": 15, "sea quiet": 5, "SLIP road": 3, "": 150} {
		assert.GreaterOrEqual(t, len(starter.Find(starter.Shipped(), query)), least, query)
	}
	assert.Empty(t, starter.Find(starter.Shipped(), "sea parsnip"))
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
