package color_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
)

// What people say of a color is among its words, and what nobody would say is not.
func TestLooks(t *testing.T) {
	for hex, words := range map[string][2][]string{
		"#0E3A53": {{"dark", "blue", "navy", "cool"}, {"red", "light", "green", "gray"}},
		"#E2572B": {{"orange", "red", "bright", "warm"}, {"blue", "dark", "pale"}},
		"#F2B632": {{"yellow", "gold", "light", "warm"}, {"green", "blue", "muted"}},
		"#4E7D5B": {{"green", "muted"}, {"red", "vivid"}},
		"#7A4E7E": {{"purple", "violet", "dark"}, {"green", "yellow"}},
		"#8FC1D4": {{"light", "blue", "cool"}, {"dark", "red"}},
		"#808080": {{"gray", "neutral", "medium"}, {"warm", "cool", "blue"}},
		"#8C857C": {{"gray", "warm"}, {"cool"}},
		"#F7F5F0": {{"white", "light", "warm"}, {"dark"}},
		"#000000": {{"black", "dark"}, {"light"}},
		"#6B4423": {{"brown", "dark"}, {"blue"}},
		"#F5F0DC": {{"cream", "pale"}, {"vivid"}},
		"#FFC0CB": {{"pink", "light"}, {"green"}},
		"#008080": {{"teal", "green", "blue"}, {"red"}},
	} {
		c, err := color.FromHex(hex)
		assert.NoError(t, err)
		is := c.Looks()
		assert.Subset(t, is, words[0], hex)
		for _, w := range words[1] {
			assert.NotContains(t, is, w, hex)
		}
	}
}
