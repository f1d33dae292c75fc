package kinds_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	brand "huekeep/core/color"
	"huekeep/core/gradient"
	"huekeep/core/library"
)

// What people have and what is not read is called by its name, with what to do.
func TestWhatIsNotReadIsCalledByItsName(t *testing.T) {
	for want, data := range map[string]string{
		"photo is a picture in HEIF (HEIC or the like), which is not read; save it as PNG or JPEG": "\x00\x00\x00\x18ftypheic\x00\x00\x00\x00mif1",
		"photo is in the office formats from before 2007":                                          "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\x00\x00\x00",
		"photo is PostScript, which is not read; make a PDF of it":                                 "%!PS-Adobe-3.0 EPSF-3.0\n1 0 0 setrgbcolor\n",
	} {
		_, err := kinds.Read("photo", []byte(data))
		require.ErrorContains(t, err, want)
	}
}

func TestAFolderInAnArchiveIsReadWhole(t *testing.T) {
	inner := audittest.Zip(t, map[string]string{"deep.css": ".a{color:var(--buoy)}"})
	data := audittest.Zip(t, map[string]string{"site/app.css": ":root{--buoy:#E2572B}", "more.zip": string(inner), "deck.pptx": string(audittest.Deck(t, `<a:srgbClr val="0E3A53"/>`)), "__MACOSX/x.css": "a{color:#111}", "a.woff2": "font", "bad.png": "no"})
	got := audittest.Told(t, "all.zip", data)
	assert.Contains(t, got, "#E2572B site/app.css 1:14, :root, --buoy")
	assert.Contains(t, got, "#E2572B more.zip > deep.css 1:10, .a, color =", "a variable of another file of the project")
	assert.Contains(t, got, "#0E3A53 deck.pptx > slide 1, shape Box, fill")
	scan, err := kinds.Read("all.zip", data)
	require.NoError(t, err)
	assert.Equal(t, []string{"1 file of kinds that are not read: a.woff2."}, scan.Notes)
	require.Len(t, scan.Unread, 1)
	assert.Equal(t, "bad.png", scan.Unread[0].Path)
	for range 6 {
		data = audittest.Zip(t, map[string]string{"in.zip": string(data)})
	}
	scan, err = kinds.Read("deep.zip", data)
	require.NoError(t, err)
	require.NotEmpty(t, scan.Unread)
	assert.Contains(t, scan.Unread[0].Why, "documents deep")
}

func TestExcusesAndReasons(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Sound #0E3A53", "Lamp #F2B632", "Marsh #4E7D5B", "Cliff #7A4E7E")
	css := "a{color:#00A34F}b{color:#00A34F}c{color:#E1572C}"
	scan, err := kinds.Read("x.css", []byte(css))
	require.NoError(t, err)
	judge := func(e ...audit.Excuse) map[string]audit.Verdict {
		r := rules
		r.Excuses = e
		out := map[string]audit.Verdict{}
		for _, c := range audit.NewJudge(r).Judge("x.css", scan).Colors {
			out[c.Key] = c.Verdict
		}
		return out
	}
	assert.Equal(t, map[string]audit.Verdict{"#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge())
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00a34f"}))
	assert.Equal(t, map[string]audit.Verdict{"#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "y.css"}))
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "x.css", Where: "x.css 1:9, a, color"}), "one place of two")
	moved := "/* new */\n/* lines */\n" + css
	scan, err = kinds.Read("x.css", []byte(moved))
	require.NoError(t, err)
	assert.Equal(t, map[string]audit.Verdict{"#00A34F excused": audit.Excused, "#00A34F": audit.OffBrand, "#E1572C": audit.Drifted}, judge(audit.Excuse{Color: "#00A34F", File: "x.css", Where: "x.css 1:9, a, color"}), "lines were put in above it")
	scan, err = kinds.Read("x.css", []byte("p{color:#00A34F}\np{color:#00A34F}\np{color:#00A34F}"))
	require.NoError(t, err)
	near := audit.NewJudge(audit.Rules{Colors: rules.Colors, Excuses: []audit.Excuse{{Color: "#00A34F", File: "x.css", Where: "x.css 9:9, p, color"}}}).Judge("x.css", scan)
	for _, c := range near.Colors {
		if c.Verdict == audit.Excused {
			assert.Equal(t, []audit.Place{{Where: "x.css 3:9, p, color", Count: 1, Line: 3, Column: 9, Value: "#00A34F"}}, c.Places, "the nearest of three, and it alone")
		}
	}
	assert.Len(t, near.Colors, 2)
	scan, err = kinds.Read("x.css", []byte(css))
	require.NoError(t, err)

	reasons := func(css string) map[string]string {
		scan, err := kinds.Read("x.css", []byte(css))
		require.NoError(t, err)
		out := map[string]string{}
		for _, c := range audit.NewJudge(rules).Judge("x.css", scan).Colors {
			out[c.Hex] = c.Reason
		}
		return out
	}
	assert.Equal(t, "red 1 low, blue 1 high: typed or rounded", reasons("a{color:#E1572C}")["#E1572C"])
	assert.Equal(t, "Buoy under 40 % white", reasons("a{color:#EE9A80}")["#EE9A80"])
	// All colors of a file in the numbers of a wide screen.
	css = ""
	for _, c := range rules.Colors[:4] {
		v, ok := brand.Numbers("display-p3", c.RGB.RGB())
		require.True(t, ok)
		css += "a{color:" + brand.RGB{R: v[0], G: v[1], B: v[2]}.RGB8().Hex() + "}"
	}
	wide := reasons(css)
	require.Len(t, wide, 4)
	for hex, why := range wide {
		assert.Contains(t, why, "numbers of a Display P3 screen", hex)
	}
	video := reasons("a{color:#D25B35}b{color:#1C4257}c{color:#E0AC3B}")
	for hex, why := range video {
		assert.Contains(t, why, "video levels", hex)
	}
	for _, why := range reasons(css[:16] + "b{color:#123}") {
		assert.NotContains(t, why, "P3", "one color proves nothing")
	}
}

func TestTheColorsBetweenTheStopsOfAGradient(t *testing.T) {
	rules := audittest.Rules("Deep #0E3A53", "Buoy #E2572B")
	rules.Gradients = []library.Gradient{{Name: "Dusk", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{Name: "Deep"}}, {Color: library.Ref{Name: "Buoy"}, Place: 100}}}}
	off := color.NRGBA{0xE1, 0x57, 0x2C, 255}
	paint := func(at func(x int) color.NRGBA) []byte {
		img := image.NewNRGBA(image.Rect(0, 0, 300, 40))
		for y := range 40 {
			for x := range 300 {
				img.SetNRGBA(x, y, at(x))
			}
		}
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, img))
		return b.Bytes()
	}
	verdicts := func(data []byte) map[audit.Verdict]int {
		scan, err := kinds.Read("x.png", data)
		require.NoError(t, err)
		out := map[audit.Verdict]int{}
		for _, c := range audit.NewJudge(rules).Judge("x.png", scan).Colors {
			out[c.Verdict]++
		}
		return out
	}
	stops := []gradient.Stop{{Color: brand.RGB8{R: 0x0E, G: 0x3A, B: 0x53}}, {Color: brand.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Place: 100}}
	ramp := verdicts(paint(func(x int) color.NRGBA {
		c, err := gradient.At(stops, "oklab", float64(x)/3)
		require.NoError(t, err)
		return color.NRGBA{c.R, c.G, c.B, 255}
	}))
	assert.Positive(t, ramp[audit.OnBrand])
	assert.Len(t, ramp, 1, "a gradient of the library is on-brand from end to end: %v", ramp)

	flat := verdicts(paint(func(int) color.NRGBA { return off }))
	assert.Equal(t, map[audit.Verdict]int{audit.Drifted: 1}, flat, "what is close to a stop is no gradient")
}
