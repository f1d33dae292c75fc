package gather_test

import (
	"bytes"
	"fmt"
	"image"
	stdcolor "image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/core/pdfdoc"
	"huekeep/core/swatchfile"
)

// pdf puts a content stream and resources into the smallest whole document.
func pdf(content, resources string, more ...string) []byte {
	return pdfdoc.Plain(append([]string{
		"<</Type/Catalog/Pages 2 0 R>>",
		"<</Type/Pages/Kids[3 0 R]/Count 1/MediaBox[0 0 100 100]>>",
		"<</Type/Page/Parent 2 0 R/Contents 4 0 R/Resources<<" + resources + ">>>>",
		fmt.Sprintf("<</Length %d>>stream\n%s\nendstream", len(content), content),
	}, more...)...)
}

func list(f gather.Found) string {
	var out []string
	for _, c := range f.Colors {
		s := c.RGB.Hex()
		if c.Name != "" {
			s = c.Name + " " + s
		}
		if len(c.Builds) > 0 {
			s += " " + c.Builds[0].Value.String()
		}
		out = append(out, s)
	}
	return strings.Join(out, ", ")
}

func TestALogoInPDFGivesItsExactColors(t *testing.T) {
	form := "0.0549 0.2275 0.3255 rg 0 0 1 1 re f"
	f, err := gather.Read("logo.pdf", pdf(
		"0.886 0.341 0.169 rg 0 0 5 5 re f (text with 1 0 0 rg \\) inside) Tj % 0 1 0 rg\n0.2 G 0 0 m S 0 0.77 0.92 0.06 k 0 0 5 5 re f /Spot cs 1 scn 0 0 5 5 re f 0 1 0 rg /F Do BI /W 1 ID \x01 0 1 0 rg EI",
		"/ColorSpace<</Spot[/Separation/QN#2D0076/DeviceCMYK 6 0 R]>>/XObject<</F 5 0 R>>",
		fmt.Sprintf("<</Type/XObject/Subtype/Form/BBox[0 0 1 1]/Length %d>>stream\n%s\nendstream", len(form), form),
		"<</FunctionType 2/Domain[0 1]/N 1/C0[0 0 0 0]/C1[0 0.7 0.9 0]>>"))
	require.NoError(t, err)
	assert.Regexp(t, `^#E2572B, #333333, #[0-9A-F]{6} 0 77 92 6, QN-0076 #[0-9A-F]{6}, #0E3A53$`, list(f))
	assert.Equal(t, "a PDF", f.Label)
	f, err = gather.Read("logo.pdf", pdf("/S cs 1 scn 0 0 1 1 re f 1 0 0 rg 0 0 1 1 re f", "/ColorSpace<</S[/Separation/Gold/DeviceCMYK 5 0 R]>>", "<</FunctionType 4/Domain[0 1]/Range[0 1]/Length 2>>stream\n{}\nendstream"))
	require.NoError(t, err)
	assert.Equal(t, "#FF0000", list(f))
	assert.Contains(t, strings.Join(f.Notes, ""), "spot ink Gold has no screen value")
}

func TestAPDFOfAnOfficeSuite(t *testing.T) {
	if _, err := exec.LookPath("soffice"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("soffice must be installed in CI")
		}
		t.Skip("soffice is not installed")
	}
	dir := t.TempDir()
	e := library.Edition{House: "Ferries", Set: "Core"}
	for _, c := range []string{"#0E3A53", "#E2572B", "#F2B632", "#F7F5F0"} {
		rgb, err := color.FromHex(c)
		require.NoError(t, err)
		e.Colors = append(e.Colors, library.Color{Name: c, RGB: rgb})
	}
	deck, err := swatchfile.WriteDeck(e)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.pptx"), deck, 0o600))
	out, err := exec.Command("soffice", "--headless", "-env:UserInstallation=file://"+dir+"/profile", "--convert-to", "pdf", "--outdir", dir, filepath.Join(dir, "a.pptx")).CombinedOutput()
	require.NoError(t, err, string(out))
	data, err := os.ReadFile(filepath.Join(dir, "a.pdf"))
	require.NoError(t, err)
	f, err := gather.Read("a.pdf", data)
	require.NoError(t, err)
	assert.Contains(t, list(f), "#0E3A53")
	assert.Contains(t, list(f), "#E2572B")
}

func TestOtherFiles(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 80, 40))
	for x := range 80 {
		for y := range 40 {
			img.SetNRGBA(x, y, []stdcolor.NRGBA{{14, 58, 83, 255}, {226, 87, 43, 255}, {242, 182, 50, 255}, {78, 125, 91, 255}}[x/20])
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	for _, c := range []struct {
		name, label, want string
		data              []byte
	}{
		{"palette.png", "a picture of a palette", "#0E3A53, #E2572B, #F2B632, #4E7D5B", b.Bytes()},
		{"logo.svg", "a drawing", "#E2572B, #0E3A53", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><rect fill="#E2572B"/><rect fill="#0E3A53"/><rect fill="#E2572B"/></svg>`)},
		{"site.css", "a style sheet", "#E2572B", []byte(`a { color: #E2572B }`)},
		{"set.gpl", "a plain text palette", "Buoy #E2572B, Swatch 2 #0E3A53", []byte("GIMP Palette\n226 87 43 Buoy\n14 58 83 Swatch 2\n")},
	} {
		f, err := gather.Read(c.name, c.data)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.label, f.Label)
		assert.Equal(t, c.want, list(f), c.name)
	}
	for name, data := range map[string][]byte{"a.png": []byte("\x89PNG\r\n\x1a\n"), "a.pdf": []byte("%PDF-1.7\nnothing"), "a.svg": []byte("<svg"), "a.xyz": {1, 2, 0, 4}, "a.csv": nil} {
		_, err := gather.Read("some/"+name, data)
		assert.ErrorContains(t, err, name+":", "the error names the file")
	}
}

func TestGenericNamesAreMarked(t *testing.T) {
	for name, generic := range map[string]bool{"": true, "Swatch 12": true, "accent1": true, "dk2": true, "#E2572B": true, "R=226 G=87 B=43": true, "color-3": true,
		"A1": true, "C=0 M=70 Y=90 K=0": true, "Untitled": true, "Buoy": false, "Deep Sound": false, "Light Rain": false, "Route 66 red": false, "primary": false} {
		assert.Equal(t, generic, gather.Generic(name), name)
	}
	f, err := gather.Read("a.gpl", []byte("GIMP Palette\n1 1 1 Twin\n2 2 2 twin\n3 3 3 Other\n"))
	require.NoError(t, err)
	assert.Equal(t, []bool{true, true, false}, []bool{f.Colors[0].Generic, f.Colors[1].Generic, f.Colors[2].Generic}, "a repeated name must be changed too")
}

func FuzzPDF(f *testing.F) {
	f.Add(pdf("1 0 0 rg /S cs 1 scn", "/ColorSpace<</S[/Lab<</WhitePoint[1 1 1]>>]>>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		if bytes.HasPrefix(data, []byte("%PDF-")) {
			_, _ = gather.Read("x.pdf", data)
		}
	})
}

// The color spaces of ISO 32000, 8.6, one page each. What cannot be shown on a screen is left out, never guessed.
func TestColorSpacesOfAPDF(t *testing.T) {
	stream := func(dict string) string { return "<<" + dict + "/Length 0>>stream\n\nendstream" }
	for name, c := range map[string]struct {
		content, resources string
		more               []string
		want               string
	}{
		"gray":                   {"0.2 g 0 0 1 1 re f", "", nil, `^#333333$`},
		"strokes too":            {"1 0 0 RG 0 0 1 rg", "", nil, `^#0000FF, #FF0000$`},
		"named device space":     {"/DeviceRGB cs 0 1 0 sc", "", nil, `^#00FF00$`},
		"calibrated gray":        {"/C cs 0.5 sc", "/ColorSpace<</C[/CalGray<</WhitePoint[0.95 1 1.09]/Gamma 2.2>>]>>", nil, `^#808080$`},
		"gray light":             {"/C cs 0.5 sc", "/ColorSpace<</C[/CalGray<</WhitePoint[0.95 1 1.09]>>]>>", nil, `^#BCBCBC$`},
		"calibrated RGB":         {"/C cs 1 0 1 scn", "/ColorSpace<</C[/CalRGB<</WhitePoint[0.9505 1 1.089]/Gamma[2.2 2.2 2.2]/Matrix[0.4124 0.2126 0.0193 0.3576 0.7152 0.1192 0.1805 0.0722 0.9505]>>]>>", nil, `^#FF00FF$`},
		"Lab":                    {"/L cs 50 0 0 scn", "/ColorSpace<</L[/Lab<</WhitePoint[0.96 1 0.82]/Range[-128 127 -128 127]>>]>>", nil, `^#777777$`},
		"a profile's RGB":        {"/I cs 0.886 0.341 0.169 scn", "/ColorSpace<</I[/ICCBased 5 0 R]>>", []string{stream("/N 3")}, `^#E2572B$`},
		"a profile's inks":       {"/I cs 0 0.77 0.92 0.06 scn", "/ColorSpace<</I[/ICCBased 5 0 R]>>", []string{stream("/N 4")}, `^#[0-9A-F]{6} 0 77 92 6$`},
		"the same color twice":   {"1 0 0 rg 1 0 0 RG 1 0 0 rg", "", nil, `^#FF0000$`},
		"inks out of range":      {"0 2 0 0 k 0 0 0 1 k", "", nil, `^#[0-9A-F]{6} 0 0 0 100$`},
		"too few values":         {"1 0 rg 0 0 1 rg", "", nil, `^#0000FF$`},
		"registration is no ink": {"/A cs 1 scn 1 0 0 rg", "/ColorSpace<</A[/Separation/All/DeviceGray 5 0 R]>>", []string{"<</FunctionType 2/Domain[0 1]/N 1/C0[1]/C1[0]>>"}, `^#FF0000$`},
		"a spot ink in RGB":      {"/S cs 0.4 scn", "/ColorSpace<</S[/Separation/Tide#20Rust/DeviceRGB 5 0 R]>>", []string{"<</FunctionType 2/Domain[0 1]/N 1/C0[1 1 1]/C1[0.886 0.341 0.169]>>"}, `^Tide Rust #E2572B$`},
		"a space in circles":     {"/S cs 1 scn 0 1 0 rg", "/ColorSpace<</S 5 0 R>>", []string{"[/Separation/X 5 0 R 5 0 R]"}, `^#00FF00$`},
		"a space that is gone":   {"/Nowhere cs 1 1 1 scn 0 1 0 rg", "", nil, `^#00FF00$`},
	} {
		f, err := gather.Read("page.pdf", pdf(c.content+" 0 0 1 1 re f 0 0 m 1 1 l S", c.resources, c.more...))
		if assert.NoError(t, err, name) {
			assert.Regexp(t, c.want, list(f), name)
		}
	}
	_, err := gather.Read("page.pdf", pdf("0 0 1 1 re", ""))
	assert.ErrorContains(t, err, "color", "a page without a color is said to have none")
}

func TestAPalettePictureOfOursIsReadBack(t *testing.T) {
	e := library.Edition{House: "Ferries", Set: "Core"}
	for i, hex := range []string{"#0E3A53", "#E2572B", "#F2B632", "#4E7D5B", "#8FC1D4", "#C9D1D3", "#3B444B", "#7A4E7E"} {
		rgb, err := color.FromHex(hex)
		require.NoError(t, err)
		e.Colors = append(e.Colors, library.Color{Name: fmt.Sprintf("A rather long name of the color %d", i+1), RGB: rgb})
	}
	data, err := swatchfile.WritePicture(e)
	require.NoError(t, err)
	found, err := gather.Read("core.png", data)
	require.NoError(t, err)
	assert.Equal(t, "a picture of a palette", found.Label)
	require.Len(t, found.Colors, len(e.Colors))
	for i, c := range e.Colors {
		assert.Equal(t, c.RGB.Hex(), found.Colors[i].RGB.Hex())
	}
}
