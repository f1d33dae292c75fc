package vision_test

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/vision"
)

func hex(t testing.TB, s string) color.RGB8 {
	c, err := color.FromHex(s)
	require.NoError(t, err)
	return c
}

// Red and green at full severity by the paper's matrices, worked out by hand: 0.152286 of linear light is level 109.
func TestSimulationOfPureColors(t *testing.T) {
	for _, c := range []struct {
		kind     vision.Kind
		severity float64
		from, to string
	}{
		{vision.Protan, 1, "#FF0000", "#6D5F00"},
		{vision.Deutan, 1, "#FF0000", "#A39000"},
		{vision.Tritan, 1, "#0000FF", "#006B96"},
		{vision.Achromat, 1, "#FF0000", "#7F7F7F"},
		{vision.Protan, 0, "#E2572B", "#E2572B"},
		{vision.Deutan, 0.5, "#FF0000", "#C37600"},
		{vision.Deutan, 0.55, "#FF0000", "#BF7A00"},
	} {
		assert.Equal(t, c.to, vision.Simulate(hex(t, c.from), c.kind, c.severity).Hex(), "%s of %s", vision.Kinds[c.kind].Name, c.from)
	}
}

// A deficiency takes colors away and leaves the grays.
func TestGraysStay(t *testing.T) {
	for k := range vision.Kinds {
		for v := range 256 {
			gray := color.RGB8{R: uint8(v), G: uint8(v), B: uint8(v)}
			for _, severity := range []float64{0.15, 0.5, 1} {
				require.Equal(t, gray, vision.Simulate(gray, vision.Kind(k), severity))
			}
		}
	}
}

func TestSeverityOutsideItsRangeIsHeld(t *testing.T) {
	c := hex(t, "#E2572B")
	assert.Equal(t, c, vision.Simulate(c, vision.Deutan, -3))
	assert.Equal(t, vision.Simulate(c, vision.Deutan, 1), vision.Simulate(c, vision.Deutan, math.Inf(1)))
}

func TestConfusablePairsWorstFirst(t *testing.T) {
	set := []color.RGB8{hex(t, "#B8442A"), hex(t, "#5E7D26"), hex(t, "#0E3A53"), hex(t, "#F2B632"), hex(t, "#9C6B20")}
	assert.Empty(t, vision.Confusable(set, vision.Deutan, 0, vision.Apart), "nothing changes without a deficiency")
	pairs := vision.Confusable(set, vision.Deutan, 1, 20)
	require.NotEmpty(t, pairs)
	for i, p := range pairs {
		assert.Less(t, p.A, p.B)
		assert.GreaterOrEqual(t, p.Seen, 20.0)
		assert.Less(t, p.Simulated, 20.0)
		if i > 0 {
			assert.GreaterOrEqual(t, p.Simulated, pairs[i-1].Simulated)
		}
	}
	none := vision.Confusable(set, vision.Deutan, 1, 0.001)
	assert.Empty(t, none)
}

func TestAPictureIsSimulatedLikeItsColors(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 3))
	img := image.NewNRGBA(image.Rect(0, 0, 97, 61))
	for i := range img.Pix {
		img.Pix[i] = uint8(r.IntN(256))
	}
	for k := range vision.Kinds {
		for _, severity := range []float64{0.33, 1} {
			out := image.NewNRGBA(img.Rect)
			copy(out.Pix, img.Pix)
			vision.Picture(out, vision.Kind(k), severity)
			for i := 0; i < len(img.Pix); i += 4 {
				want := vision.Simulate(color.RGB8{R: img.Pix[i], G: img.Pix[i+1], B: img.Pix[i+2]}, vision.Kind(k), severity)
				require.InDelta(t, want.R, out.Pix[i], 1)
				require.InDelta(t, want.G, out.Pix[i+1], 1)
				require.InDelta(t, want.B, out.Pix[i+2], 1)
				require.Equal(t, img.Pix[i+3], out.Pix[i+3], "alpha")
			}
		}
	}
}

func TestNames(t *testing.T) {
	for name, want := range map[string]vision.Kind{"deuteranopia": vision.Deutan, "Protanomaly": vision.Protan, "achromatopsia": vision.Achromat} {
		k, err := vision.Find(name)
		require.NoError(t, err)
		assert.Equal(t, want, k)
	}
	_, err := vision.Find("myopia")
	assert.ErrorContains(t, err, "protanopia, deuteranopia, tritanopia, achromatopsia")
}
