package pdf_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/pdfdoc"
)

// What a page shows is told in the color that it is painted with, wherever that was set.
func TestWhatAPagePaintsWith(t *testing.T) {
	form := func(content, resources string) string {
		return audittest.Stream("/Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<<"+resources+">>", content)
	}
	for name, c := range map[string]struct {
		data []byte
		want []string
	}{
		"a color that is set and not used is none": {audittest.Page("1 0 0 rg 0 1 0 RG 0 0 1 rg 0 0 9 9 re f", ""), []string{"#0000FF page 1, fill"}},
		"a form paints with the colors of whoever shows it": {
			audittest.Page("1 0 0 rg 0 1 0 RG /F Do 0 0 1 rg /F Do", "/XObject<</F 5 0 R>>", form("0 0 9 9 re B", "")),
			[]string{"#FF0000 page 1, form F, fill", "#00FF00 page 1, form F, line", "#0000FF page 1, form F, fill"}},
		"and with its own once it has set one": {
			audittest.Page("1 0 0 rg /F Do /F Do", "/XObject<</F 5 0 R>>", form("0 0 9 9 re f q 0 1 1 rg 0 0 1 1 re f Q 0 0 2 2 re f", "")),
			[]string{"#00FFFF page 1, form F, fill", "#FF0000 page 1, form F, fill"}},
		"a form in a form": {
			audittest.Page("1 0 0 rg /F Do 0 0 1 rg /F Do", "/XObject<</F 5 0 R>>", form("/G Do 0 1 0 rg /G Do", "/XObject<</G 6 0 R>>"), form("0 0 9 9 re f", "")),
			[]string{"#00FF00 page 1, form F, form G, fill", "#FF0000 page 1, form F, form G, fill", "#0000FF page 1, form F, form G, fill"}},
		"a form that shows itself": {audittest.Page("1 0 0 rg /F Do", "/XObject<</F 5 0 R>>", form("0 0 9 9 re f /F Do", "/XObject<</F 5 0 R>>")), []string{"#FF0000 page 1, form F, fill"}},
		"a stencil lets a color through": {
			audittest.Page("1 0 0 rg /M Do 0 0 1 rg BI /W 8 /H 1 /IM true /BPC 1 ID x EI", "/XObject<</M 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 8/Height 1/BitsPerComponent 1/ImageMask true", "x")),
			[]string{"#FF0000 page 1, stencil M", "#0000FF page 1, stencil"}},
		"text is filled, outlined, both or hidden": {
			audittest.Page("1 0 0 rg 0 1 0 RG BT (a) Tj ET q 1 Tr (b) Tj 0 0 1 rg 0 1 1 RG 2 Tr (c) Tj 1 1 0 rg 3 Tr (d) Tj Q 1 0 1 rg (e) Tj", ""),
			[]string{"#FF0000 page 1, text", "#00FF00 page 1, text", "#00FFFF page 1, outline of text", "#0000FF page 1, text", "#FF00FF page 1, text"}},
		"a mask says how opaque something is": {
			audittest.Page("/S gs 1 0 0 rg 0 0 9 9 re f", "/ExtGState<</S<</SMask<</S/Luminosity/G 5 0 R>>>>>>", form("0.8 g 0 0 9 9 re f", "")), []string{"#FF0000 page 1, fill"}},
		"a pattern begins with colors of its own": {
			audittest.Page("1 0 0 rg /Pattern cs /P scn 0 0 9 9 re f", "/Pattern<</P 5 0 R>>", audittest.Stream("/PatternType 1/PaintType 1/BBox[0 0 2 2]/XStep 2/YStep 2/Resources<<>>", "0 0 1 1 re f 0 1 0 rg 0 0 1 1 re f")),
			[]string{"#00FF00 page 1, pattern P, fill"}},
		"a stencil of a pattern takes the color beside it": {
			audittest.Page("/C cs 1 0 0 /P scn 0 0 9 9 re f", "/ColorSpace<</C[/Pattern/DeviceRGB]>>/Pattern<</P 5 0 R>>", audittest.Stream("/PatternType 1/PaintType 2/BBox[0 0 2 2]/XStep 2/YStep 2/Resources<<>>", "0 0 1 1 re f")),
			[]string{"#FF0000 page 1, pattern P, fill"}},
		"characters may have colors of their own": {
			audittest.Page("0 0 1 rg BT /T 9 Tf (ab) Tj ET", "/Font<</T 5 0 R>>", "<</Type/Font/Subtype/Type3/FontBBox[0 0 9 9]/FontMatrix[1 0 0 1 0 0]/CharProcs<</a 6 0 R/b 7 0 R>>/Encoding<</Differences[97/a/b]>>/FirstChar 97/LastChar 98/Widths[9 9]/Resources<<>>>>",
				audittest.Stream("", "9 0 d0 1 0 0 rg 0 0 9 9 re f"), audittest.Stream("", "9 0 0 0 9 9 d1 0 1 0 rg 0 0 9 9 re f")),
			[]string{"#FF0000 page 1, font T, character a, fill", "#0000FF page 1, text"}},
		"a picture of four colors in a table": { // three pixels a row, two bits each
			audittest.Page("/I Do", "/XObject<</I 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 3/Height 4/BitsPerComponent 2/ColorSpace[/Indexed/DeviceRGB 3<E2572B0E3A53F2B632FFFFFF>]", "\x54\x54\xa8\xa8")),
			[]string{"#0E3A53 page 1, picture I, 50.0 % of the area, from 0, 0 to 3, 2", "#F2B632 page 1, picture I, 50.0 % of the area, from 0, 2 to 3, 4"}},
		"a picture of one bit": {
			audittest.Page("/I Do", "/XObject<</I 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 8/Height 1/BitsPerComponent 1/ColorSpace/DeviceGray", "\xff")),
			[]string{"#FFFFFF page 1, picture I, 100.0 % of the area, from 0, 0 to 8, 1"}},
		"a picture of 16 bits": {
			audittest.Page("/I Do", "/XObject<</I 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 2/Height 1/BitsPerComponent 16/ColorSpace/DeviceRGB", strings.Repeat("\xe2\x00\x57\x01\x2b\x02", 2))),
			[]string{"#E2572B page 1, picture I, 100.0 % of the area, from 0, 0 to 2, 1"}},
		"a picture whose channels are turned over": {
			audittest.Page("/I Do", "/XObject<</I 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 2/Height 2/BitsPerComponent 8/ColorSpace/DeviceRGB/Decode[1 0 0 1 1 0]", strings.Repeat("\x1d\x57\xd4", 4))),
			[]string{"#E2572B page 1, picture I, 100.0 % of the area, from 0, 0 to 2, 2"}},
		"a color whose numbers stand in two streams": {
			pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>", "<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents[4 0 R 5 0 R]>>", audittest.Stream("", "1 0"), audittest.Stream("", "0 rg 0 0 9 9 re f")),
			[]string{"#FF0000 page 1, fill"}},
		"what a field is filled in with": {
			pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>", "<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Annots[4 0 R]>>", "<</Type/Annot/Subtype/Widget/Rect[0 0 9 9]/MK<</BC[0 0.5 0]>>/DA(/F 9 Tf 1 0 0 rg)>>"),
			[]string{"#008000 page 1, annotation Widget, border", "#FF0000 page 1, annotation Widget, text that is filled in"}},
	} {
		t.Run(name, func(t *testing.T) { assert.ElementsMatch(t, c.want, audittest.Told(t, "x.pdf", c.data)) })
	}
}

// A JPEG in a PDF is seen through the profile that the PDF has for it (the numbers are those of transicc).
func TestAJPEGInAPDFHasTheProfileOfThePDF(t *testing.T) {
	profile, err := os.ReadFile("/usr/share/color/icc/compatibleWithAdobeRGB1998.icc")
	if err != nil && os.Getenv("CI") == "" {
		t.Skip("Debian's icc-profiles-free is not installed")
	}
	require.NoError(t, err)
	img := image.NewNRGBA(image.Rect(0, 0, 32, 32))
	for i := 0; i < len(img.Pix); i += 4 {
		copy(img.Pix[i:], []byte{200, 100, 50, 255})
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: 100}))
	for space, want := range map[string][3]float64{"[/ICCBased 6 0 R]": {227, 100, 42}, "/DeviceRGB": {200, 100, 50}} {
		scan, err := kinds.Read("x.pdf", audittest.Page("/I Do", "/XObject<</I 5 0 R>>", audittest.Stream("/Type/XObject/Subtype/Image/Width 32/Height 32/BitsPerComponent 8/Filter/DCTDecode/ColorSpace"+space, b.String()), audittest.Stream("/N 3", string(profile))))
		require.NoError(t, err)
		require.Len(t, scan.Uses, 1, "%v", scan.Unread)
		got := scan.Uses[0].RGB
		assert.InDelta(t, want[0], float64(got.R), 2, space)
		assert.InDelta(t, want[1], float64(got.G), 2, space)
		assert.InDelta(t, want[2], float64(got.B), 2, space)
	}
}
