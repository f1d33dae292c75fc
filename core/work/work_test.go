package work_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/vision"
	"huekeep/core/work"
)

func slots(t *testing.T, hexes ...string) (out [12]work.Paint) {
	require.Len(t, hexes, 12)
	for i, h := range hexes {
		c, err := color.FromHex(h)
		require.NoError(t, err)
		out[i] = work.Paint{Slot: library.SlotNames[i], Name: h, RGB: c}
	}
	return out
}

func TestASetAtWork(t *testing.T) {
	w := work.Of(slots(t, "#3B444B", "#F7F5F0", "#0E3A53", "#C9D1D3", "#E2572B", "#F2B632", "#B5702B", "#8FC1D4", "#7A4E7E", "#D9482B", "#0E3A53", "#7A4E7E"))
	for _, l := range w.Looks {
		for _, p := range l.Parts {
			assert.Equal(t, contrast.Ratio(p.Type.RGB, p.On.RGB), p.Ratio, p.Key)
			if p.On.Slot != "lt1" && p.Type.Slot == "dk1" { // what reads better was chosen
				assert.GreaterOrEqual(t, p.Ratio, contrast.Ratio(l.Ground.RGB, p.On.RGB)-1e-9, p.Key)
			}
		}
	}
	at, worst := w.Worst()
	assert.Equal(t, 1, at, "a link made for light paper is lost on the dark ground")
	assert.Equal(t, "web link", worst.Key)
	assert.False(t, worst.Passes())
	require.NotEmpty(t, w.Weak)
	for _, p := range w.Weak {
		assert.Less(t, p.DeltaE, float64(vision.Apart))
		assert.InDelta(t, color.DeltaE00(vision.Simulate(p.A.RGB, p.Kind, 1).Lab(), vision.Simulate(p.B.RGB, p.Kind, 1).Lab()), p.DeltaE, 1e-9)
	}
	assert.Equal(t, "accent1", w.Series[0].Slot)
}

func TestASetOfOneColorIsAtWorkToo(t *testing.T) {
	same := make([]string, 12)
	for i := range same {
		same[i] = "#808080"
	}
	w := work.Of(slots(t, same...))
	_, worst := w.Worst()
	assert.InDelta(t, 1, worst.Ratio, 1e-9)
	assert.Empty(t, w.Weak)
}
