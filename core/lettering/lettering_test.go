package lettering_test

import (
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/lettering"
)

func written(f lettering.Face, text string) (out string) {
	for _, r := range f.Runs(text) {
		out += r.Text
	}
	return out
}

func TestEveryLetterIsWrittenByAFontThatHasIt(t *testing.T) {
	for _, face := range []lettering.Face{lettering.Regular(), lettering.Bold(), lettering.Mono()} {
		for text, want := range map[string]string{
			"Deep Sound":      "Deep Sound",
			"Žluťoučký Größe": "Žluťoučký Größe",
			"Синий Θάλασσα":   "Синий Θάλασσα",
			"כחול":            "לוחכ", // as it is seen, from the right
			"Sea כחול":        "Sea לוחכ",
			"a\u200bb\x07c":   "abc", // nothing to be seen of these
			"🚢 Ferry":         "□ Ferry",
		} {
			assert.Equal(t, want, written(face, text))
		}
		assert.False(t, face.Missing("Deep Sound, Синий"))
		assert.True(t, face.Missing("Boat \U0001F6A2\U000F1234"))
		assert.Greater(t, len(face.Runs("Sea Синий")), 1, "another font goes on")
	}
}

func TestWidthsAddUpAndTextsAreCutToFit(t *testing.T) {
	f := lettering.Bold()
	one, two := f.Width("Deep", 10), f.Width("DeepDeep", 10)
	assert.InDelta(t, 2*one, two, 1e-6)
	assert.InDelta(t, 2*one, f.Width("Deep", 20), 1e-6)
	assert.InDelta(t, 6, lettering.Mono().Width("0", 10), 0.1, "figures of the values' face are as wide as each other")
	assert.Equal(t, lettering.Mono().Width("111", 10), lettering.Mono().Width("888", 10))
	assert.Equal(t, "Deep", f.Fit("Deep", 10, one+0.01))
	cut := f.Fit("Deep Sound and far beyond", 10, 60)
	assert.LessOrEqual(t, f.Width(cut, 10), 60.0)
	assert.Contains(t, cut, "…")
	assert.Equal(t, "…", f.Fit("Deep", 10, 1), "where nothing fits")
}

func TestAPenWritesWhereItIsPut(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 200, 40))
	require.NoError(t, lettering.Regular().Pen(20).Write(img, image.NewUniform(color.White), 10, 30, "Sea", 0))
	left, right := 200, 0
	for y := range 40 {
		for x := range 200 {
			if img.GrayAt(x, y).Y > 128 {
				left, right = min(left, x), max(right, x)
			}
		}
	}
	assert.InDelta(t, 11, left, 2)
	assert.InDelta(t, 10+lettering.Regular().Width("Sea", 20), float64(right), 3)
}
