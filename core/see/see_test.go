package see_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/proof"
	"huekeep/core/repaint"
	"huekeep/core/see"
)

// pdf is a PDF of one page of 100 by 100 points with a content.
func pdf(content string) []byte {
	var b bytes.Buffer
	var at []int
	put := func(text string) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), text)
	}
	b.WriteString("%PDF-1.7\n")
	put("<</Type/Catalog/Pages 2 0 R>>")
	put("<</Type/Pages/Kids[3 0 R]/Count 1>>")
	put("<</Type/Page/Parent 2 0 R/MediaBox[0 0 100 100]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>")
	put(fmt.Sprintf("<</Length %d>>\nstream\n%s\nendstream", len(content), content))
	put("<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>")
	from := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, n := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", n)
	}
	fmt.Fprintf(&b, "trailer<</Root 1 0 R/Size %d>>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, from)
	return b.Bytes()
}

func rules(entries ...string) (out []library.Color) {
	for _, e := range entries {
		name, hex, _ := strings.Cut(e, " ")
		rgb, err := color.FromHex(hex)
		if err != nil {
			panic(err)
		}
		out = append(out, library.Color{Name: name, RGB: rgb, Status: library.Approved})
	}
	return out
}

// found are the codes of some colors of a file, and the file with those in their place.
func found(t *testing.T, data []byte, names ...string) (coded []byte, codes []see.Code) {
	t.Helper()
	coded, by, err := repaint.Coded("x.pdf", data, names, kinds.Options{})
	require.NoError(t, err)
	for i, c := range by {
		k := see.Code{Key: names[i], RGB: c.RGB, Build: c.Builds[0].Value}
		if strings.HasPrefix(names[i], "#") {
			k.Was, err = color.FromHex(names[i])
		} else {
			var typed color.Typed
			typed, err = color.Parse("cmyk(" + names[i] + ")")
			k.Inks = typed.CMYK
		}
		require.NoError(t, err)
		codes = append(codes, k)
	}
	return coded, codes
}

// What is found on a page is in its box and nowhere else: areas, rules, letters, in light and in inks, one on the other.
func TestWhatIsFoundOnAPageIsInItsBox(t *testing.T) {
	text := "0.0549 0.2275 0.3255 rg 0 50 100 50 re f 0.8824 0.3412 0.1725 rg 10 60 20 20 re f 0 .3 .8 .05 k 40 60 20 20 re f .9 .5 .2 .6 k BT /F 9 Tf 42 66 Td (ink) Tj ET\n" +
		"0.8784 0.3373 0.1725 rg BT /F 8 Tf 10 30 Td (Winter crossings) Tj ET 0.949 0.714 0.196 RG 0.3 w 10 20 m 90 20 l S"
	data := pdf(text)
	names := []string{"#E1572C", "0 30 80 5", "90 50 20 60", "#E0562C", "#F2B632"}
	coded, codes := found(t, data, names...)
	v, err := see.PDF(data, coded, nil, codes, 1)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Pages)
	t.Log(v.Boxes)
	at := map[string][4]float64{} // in points from the upper left
	for _, b := range v.Boxes {
		x0, y0, x1, y1 := 100*b.X, 100*b.Y, 100*(b.X+b.Width), 100*(b.Y+b.Height)
		if was, ok := at[b.Key]; ok {
			x0, y0, x1, y1 = min(x0, was[0]), min(y0, was[1]), max(x1, was[2]), max(y1, was[3])
		}
		at[b.Key] = [4]float64{x0, y0, x1, y1}
	}
	for key, want := range map[string][4]float64{
		"#E1572C": {10, 20, 30, 40}, "0 30 80 5": {40, 20, 60, 40}, "90 50 20 60": {42, 26, 53, 35}, "#E0562C": {10, 63, 75, 73}, "#F2B632": {10, 79.8, 90, 80.2},
	} {
		got, ok := at[key]
		require.True(t, ok, "%s is marked: %v", key, at)
		assert.GreaterOrEqual(t, got[0], want[0]-1, key)
		assert.GreaterOrEqual(t, got[1], want[1]-1, key)
		assert.LessOrEqual(t, got[2], want[2]+1, key)
		assert.LessOrEqual(t, got[3], want[3]+1, key)
		assert.Greater(t, got[2]-got[0], 0.8*(want[2]-want[0]), key)
	}

	// Repainted, only what was found changes; where something else does, that is told.
	after, err := repaint.File("x.pdf", data, audit.Rules{Colors: rules("Buoy #E2572B", "Lamp #F2B632")}, repaint.Plan{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}, {From: "#E0562C", To: "Lamp"}}}, kinds.Options{})
	require.NoError(t, err)
	v, err = see.PDF(data, coded, after.Data, codes, 1)
	require.NoError(t, err)
	assert.Zero(t, v.Moved)
	assert.Greater(t, v.Others, 1_000_000)
	v, err = see.PDF(data, coded, pdf(strings.Replace(text, "0 50 100 50 re", "0 49 100 51 re", 1)), codes, 1)
	require.NoError(t, err)
	assert.Greater(t, v.Moved, 10_000)

	alone, gray, err := repaint.Apart("x.pdf", data, "#E1572C", kinds.Options{})
	require.NoError(t, err)
	v, err = see.Alone(alone, gray, "#E1572C", 1)
	require.NoError(t, err)
	require.Len(t, v.Boxes, 1)
	assert.InDelta(t, 0.1, v.Boxes[0].X, 0.01)
	img, err := png.Decode(bytes.NewReader(v.PNG))
	require.NoError(t, err)
	colored := image.Rectangle{}
	for y := range img.Bounds().Dy() {
		for x := range img.Bounds().Dx() {
			if r, g, b, _ := img.At(x, y).RGBA(); r != g || g != b {
				colored = colored.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	w := float64(img.Bounds().Dx())
	assert.InDelta(t, 0.2, float64(colored.Dx())/w, 0.01, "all else is gray")

	_, err = see.PDF(data, nil, nil, nil, 2)
	assert.ErrorContains(t, err, "it has 1 page")
	_, _, err = repaint.Apart("x.pdf", data, "#123456", kinds.Options{})
	assert.ErrorContains(t, err, "no color #123456")
}

func TestLinesInWhichSomethingWasFound(t *testing.T) {
	text := "a{color:#E1572C}\r\n" + strings.Repeat("\r\n", 20) + "é{fill:#0E3A53;stroke:#E1572C}\r\n" + strings.Repeat("b{c:d}", 200) + ".x{color:#E1572C}" + strings.Repeat("b{c:d}", 100) + ".y{color:#E1572C}"
	scan, err := kinds.Read("x.css", []byte(text))
	require.NoError(t, err)
	report := audit.NewJudge(audit.Rules{Colors: rules("Buoy #E2572B")}).Judge("x.css", scan)
	lines, next, ok := see.Lines("x.css", []byte(text), report, "#E1572C", 0)
	require.True(t, ok)
	assert.Zero(t, next)
	var marked []string
	for _, l := range lines {
		for _, m := range l.Marks {
			chars := []rune(l.Text)
			from := m.Column - 1 - l.Before
			marked = append(marked, fmt.Sprintf("%d %s", l.Number, string(chars[from:from+len(m.Value)])))
		}
		assert.LessOrEqual(t, len([]rune(l.Text)), 240)
		assert.NotContains(t, l.Text, "\r")
	}
	assert.Equal(t, []string{"1 #E1572C", "22 #E1572C", "23 #E1572C", "23 #E1572C"}, marked)
	assert.Len(t, lines, 3+3+2, "two lines around each, and the long one in two pieces")
	lines, _, _ = see.Lines("x.css", []byte(text), report, "", 22)
	assert.Len(t, lines[0].Marks, 2)

	many := strings.Repeat("a{color:#E1572C}\n", 1000)
	scan, err = kinds.Read("x.css", []byte(many))
	require.NoError(t, err)
	report = audit.NewJudge(audit.Rules{Colors: rules("Buoy #E2572B")}).Judge("x.css", scan)
	seen := 0
	for from, more := 0, true; more; {
		lines, next, _ = see.Lines("x.css", []byte(many), report, "", from)
		seen += len(lines)
		from, more = next, next > 0
	}
	assert.Equal(t, 1000, seen)
	_, _, ok = see.Lines("x.css", []byte("\xff"), report, "", 0)
	assert.False(t, ok)
}

// What a wide picture has beyond sRGB is in its box, by what it is and not by what plain screens show of it.
func TestWhatIsFoundInAWidePictureIsInItsBox(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 100, 50))
	for i := 0; i < len(img.Pix); i += 4 {
		copy(img.Pix[i:], []byte{26, 230, 77, 255})
		if i/4%100 < 40 {
			copy(img.Pix[i:], []byte{255, 255, 255})
		}
	}
	data, err := proof.WriteP3(img)
	require.NoError(t, err)
	scan, err := kinds.Read("x.png", data)
	require.NoError(t, err)
	var codes []see.Code
	for _, u := range scan.Uses {
		codes = append(codes, see.Code{Key: u.Name(), RGB: u.RGB})
	}
	v, err := see.Picture(data, codes, 1)
	require.NoError(t, err)
	assert.ElementsMatch(t, []see.Box{{"color(display-p3 0.102 0.902 0.302)", 0.4, 0, 0.6, 1}, {"#FFFFFF", 0, 0, 0.4, 1}}, v.Boxes)
}
