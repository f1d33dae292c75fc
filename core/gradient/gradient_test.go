package gradient_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gradient"
)

func hex(s string) color.RGB8 { c, _ := color.FromHex(s); return c }

func TestTheMiddleOfAGradient(t *testing.T) {
	stops := []gradient.Stop{{Color: hex("#FF0000"), Place: 0}, {Color: hex("#0000FF"), Place: 100}}
	// The middles by hand: half of each channel; half of the light; and of CSS Color 4's own spaces.
	for space, want := range map[string]string{"srgb": "#800080", "srgb-linear": "#BC00BC", "lab": "#C10088", "oklab": "#8C53A2", "oklch": "#BA00C2"} {
		c, err := gradient.At(stops, space, 50)
		require.NoError(t, err)
		assert.Less(t, color.DeltaE00(hex(want).Lab(), c.Lab()), 1.5, "%s: %s", space, c.Hex())
		for place, end := range map[float64]string{-5: "#FF0000", 0: "#FF0000", 100: "#0000FF", 140: "#0000FF"} {
			c, err := gradient.At(stops, space, place)
			require.NoError(t, err)
			assert.Equal(t, end, c.Hex(), space)
		}
	}
	_, err := gradient.At(stops, "cmyk", 50)
	assert.ErrorContains(t, err, "srgb, srgb-linear")
	_, err = gradient.At(nil, "srgb", 50)
	assert.Error(t, err)
}

func TestAGrayTakesItsNeighborsHue(t *testing.T) {
	stops := []gradient.Stop{{Color: hex("#FFFFFF"), Place: 0}, {Color: hex("#0E3A53"), Place: 60}, {Color: hex("#0E3A53"), Place: 60}, {Color: hex("#E2572B"), Place: 100}}
	h := hex("#0E3A53").RGB().OKLab().OKLCH().H
	c, err := gradient.At(stops, "oklch", 30)
	require.NoError(t, err)
	assert.InDelta(t, h, c.RGB().OKLab().OKLCH().H, 3)
	steps, err := gradient.Steps(stops, "oklab", 5)
	require.NoError(t, err)
	assert.Len(t, steps, 5)
	assert.Equal(t, "linear-gradient(90deg in oklch, #FFFFFF 0%, #0E3A53 60%, #0E3A53 60%, #E2572B 100%)", gradient.CSS(stops, "oklch", 90))
}
