package standin_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
	"huekeep/standin"
)

func TestReadingsScatterAsAGoodDeviceDoes(t *testing.T) {
	r := standin.NewReader(7)
	_, err := r.Read()
	assert.ErrorContains(t, err, "not on a patch")
	for _, hex := range []string{"#0E3A53", "#E2572B", "#F7F5F0", "#000000", "#FFFFFF", "#808080"} {
		c, err := color.FromHex(hex)
		require.NoError(t, err)
		r.Place(c.Lab())
		var all []color.Lab
		for range 200 {
			lab, err := r.Read()
			require.NoError(t, err)
			require.LessOrEqual(t, color.DeltaE00(c.Lab(), lab), 0.4, hex)
			all = append(all, lab)
		}
		mean, spread := color.MeanLab(all)
		assert.Less(t, color.DeltaE00(mean, c.Lab()), 0.1, "%s: the mean of many readings is the patch", hex)
		assert.InDelta(t, 0.25, spread, 0.15, hex)
	}
	a, b := standin.NewReader(1), standin.NewReader(1)
	a.Place(color.Lab{L: 50})
	b.Place(color.Lab{L: 50})
	x, _ := a.Read()
	y, _ := b.Read()
	assert.Equal(t, x, y, "the same seed reads the same")
}

func TestADriftingPressPrintsAnotherColor(t *testing.T) {
	c := press.Coated()
	build := color.CMYK{C: 0, M: 75, Y: 87, K: 8}
	none := standin.Drift{C: 1, M: 1, Y: 1, K: 1}
	assert.Equal(t, c.Lab(build), none.Printed(c, build))
	weak := standin.Drift{C: 1, M: 0.9, Y: 1, K: 1}.Printed(c, build)
	assert.Greater(t, weak.L, c.Lab(build).L, "less magenta is lighter")
	heavy := standin.Drift{C: 1, M: 1, Y: 1, K: 1, Gain: 5}.Printed(c, build)
	assert.Less(t, heavy.L, c.Lab(build).L, "more gain is darker")
	assert.Equal(t, c.Lab(color.CMYK{}), standin.Drift{C: 2, M: 2, Y: 2, K: 2, Gain: 9}.Printed(c, color.CMYK{}), "paper stays paper")
}
