package pdf_test

import (
	"fmt"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
)

// What a calibrated space, CIELAB of any white, or a default in the place of a device space looks like is what renderers show.
func TestCalibratedSpacesOfAPDFAreSeenAsRenderersShowThem(t *testing.T) {
	master := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}
	lab := master.Lab()
	d65 := color.Whites["D65"]
	// The master as CIELAB relative to D65, whose XYZ sRGB has.
	xyz := master.RGB().Linear().XYZ()
	f := func(v float64) float64 {
		if v > 216./24389 {
			return math.Cbrt(v)
		}
		return (24389./27*v + 16) / 116
	}
	fx, fy, fz := f(xyz.X/d65[0]), f(xyz.Y/d65[1]), f(xyz.Z/d65[2])
	a98, _ := color.Numbers("a98-rgb", master.RGB())
	const a98Space = "[/CalRGB<</WhitePoint[0.9505 1 1.089]/Gamma[2.19921875 2.19921875 2.19921875]/Matrix[0.57667 0.29734 0.02703 0.18556 0.62736 0.07069 0.18823 0.07529 0.99134]>>]"
	triple := func(v ...float64) string { return fmt.Sprintf("%.5f %.5f %.5f", v[0], v[1], v[2]) }
	for name, c := range map[string]struct {
		content, spaces string
		want            color.RGB8
	}{
		"CalRGB":        {"/A cs " + triple(a98[:]...) + " sc", "/A" + a98Space, master},
		"CalGray":       {"/A cs 0.5 sc", "/A[/CalGray<</WhitePoint[0.9505 1 1.089]/Gamma 1>>]", color.RGB8{R: 188, G: 188, B: 188}},
		"Lab under D65": {"/A cs " + triple(116*fy-16, 500*(fx-fy), 200*(fy-fz)) + " sc", "/A[/Lab<</WhitePoint[0.95047 1 1.08883]/Range[-128 127 -128 127]>>]", master},
		"Lab under D50": {"/A cs " + triple(lab.L, lab.A, lab.B) + " sc", "/A[/Lab<</WhitePoint[0.9642 1 0.8249]/Range[-128 127 -128 127]>>]", master},
		"DefaultRGB":    {triple(a98[:]...) + " rg", "/DefaultRGB" + a98Space, master},
		"DefaultGray":   {"0.5 g", "/DefaultGray[/CalGray<</WhitePoint[0.9505 1 1.089]/Gamma 1>>]", color.RGB8{R: 188, G: 188, B: 188}},
		"a device space": {triple(a98[:]...) + " rg", "/Other" + a98Space,
			color.RGB{R: a98[0], G: a98[1], B: a98[2]}.RGB8()},
	} {
		data := audittest.Page(c.content+" 0 0 9 9 re f", "/ColorSpace<<"+c.spaces+">>")
		scan, err := kinds.Read("x.pdf", data)
		require.NoError(t, err)
		require.Len(t, scan.Uses, 1, name)
		got := scan.Uses[0].RGB
		assert.LessOrEqual(t, color.DeltaE00(c.want.Lab(), got.Lab()), 0.4, "%s: %s, meant %s", name, got.Hex(), c.want.Hex())
		dir := t.TempDir()
		file, shown := filepath.Join(dir, "a.pdf"), filepath.Join(dir, "a.png")
		require.NoError(t, os.WriteFile(file, data, 0o600))
		if _, err := exec.LookPath("gs"); err != nil {
			require.Empty(t, os.Getenv("CI"), "ghostscript is not installed")
			continue
		}
		text, err := exec.Command("gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-r72", "-sOutputFile="+shown, file).CombinedOutput()
		require.NoError(t, err, string(text))
		in, err := os.Open(shown)
		require.NoError(t, err)
		img, err := png.Decode(in)
		require.NoError(t, in.Close())
		require.NoError(t, err)
		r, g, b, _ := img.At(4, 4).RGBA()
		theirs := color.RGB8{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}
		assert.LessOrEqual(t, color.DeltaE00(theirs.Lab(), got.Lab()), 1.5, "%s: Ghostscript shows %s, here it is %s", name, theirs.Hex(), got.Hex())
	}
}
