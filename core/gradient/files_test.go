package gradient_test

import (
	"bytes"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/gradient"
)

var dusk = []gradient.Stop{{Color: hex("#0E3A53"), Place: 0}, {Color: hex("#E2572B"), Place: 60}, {Color: hex("#F2B632"), Place: 100}}

// A picture has the first color at one end, the last at the other, and the mixture of the core between.
func TestAGradientAsAPicture(t *testing.T) {
	for _, f := range gradient.Forms[:2] {
		data, err := f.Write("Dusk", dusk, "oklab", 90)
		require.NoError(t, err)
		img, err := png.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		size := img.Bounds().Size()
		for _, at := range []float64{0, 0.3, 0.6, 0.9, 1} {
			want, err := gradient.Between(dusk, "oklab", at*100)
			require.NoError(t, err)
			r, g, b, _ := img.At(min(size.X-1, int(at*float64(size.X))), size.Y/2).RGBA()
			assert.InDeltaSlice(t, []float64{want.R, want.G, want.B}, []float64{float64(r) / 0xFFFF, float64(g) / 0xFFFF, float64(b) / 0xFFFF}, 0.002, "%s at %g", f.Name, at)
		}
	}
}

// Chromium paints the drawing as the core mixes it; xmllint finds nothing wrong with it.
func TestAGradientAsADrawing(t *testing.T) {
	data, err := gradient.Forms[2].Write(`<Dusk> & "dawn"`, dusk, "oklab", 45)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "dusk.svg")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	if _, err := exec.LookPath("xmllint"); err != nil && os.Getenv("CI") == "" {
		t.Skip("xmllint is not installed")
	}
	out, err := exec.Command("xmllint", "--noout", file).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Equal(t, 33, strings.Count(string(data), "<stop"))
}

func TestAGradientToKeyIn(t *testing.T) {
	data, err := gradient.Forms[3].Write("Dusk", dusk, "oklab", 90)
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(string(data)), "\n")
	assert.Len(t, lines, 13)
	assert.Equal(t, "  0 %   14  58  83  #0E3A53", lines[2])
	assert.Equal(t, "100 %  242 182  50  #F2B632", lines[12])
}
