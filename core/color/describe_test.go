package color_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

func TestColorsAreDescribedAsPeopleWould(t *testing.T) {
	for hex, want := range map[string]string{"#000000": "black", "#FFFFFF": "white", "#808080": "gray", "#D3D3D3": "pale gray", "#FF0000": "bright red",
		"#0000FF": "bright blue", "#008000": "green", "#FFFF00": "bright yellow", "#0E3A53": "dark blue", "#E2572B": "bright orange", "#F2B632": "light amber",
		"#4E7D5B": "green", "#8FC1D4": "light cyan", "#6B4226": "brown", "#800080": "dark violet", "#FFC0CB": "pale pink", "#7A4E7E": "violet"} {
		c, err := color.FromHex(hex)
		require.NoError(t, err)
		assert.Equal(t, want, c.Describe(), hex)
	}
}
