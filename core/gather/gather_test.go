package gather_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	stdcolor "image/color"
	"image/png"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/pdfdoc"
	"huekeep/core/swatchfile"
	"huekeep/demo"
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
	wide := library.Color{Name: "Flare", Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1098 0.902 0.302)"}}
	wide.RGB = wide.Exact().RGB8()
	e.Colors = append(e.Colors, wide)
	data, err = swatchfile.WritePicture(e)
	require.NoError(t, err)
	found, err = gather.Read("core.png", data)
	require.NoError(t, err)
	for i, c := range e.Colors {
		assert.Less(t, color.DeltaE00(c.Lab(), found.Colors[i].Lab()), 0.5, "%s, a step of its codes at the most", c.Name)
	}
	assert.Equal(t, "color(display-p3 0.1098 0.902 0.302)", found.Colors[8].Master.Text)
	assert.Contains(t, found.Notes, "Converted to sRGB from its own profile, Display P3.")
}

// What a finished file uses comes with how often and where, under the names that it has for it.
func TestColorsOutOfFinishedFiles(t *testing.T) {
	css := []byte(":root { --deep-sound: #0E3A53; --never: #00FF00 }\na { color: var(--deep-sound); background: #E2572B }\nb { color: #E2572B; fill: #123456 }")
	tsx := []byte(`const brand = { primaryBuoy: "#E2572B", unused: 1 }; export const X = () => <p style={{ color: "#123456" }}/>`)
	page := []byte(`<!doctype html><style>:root { --foam: #F4F7F5 }</style><body bgcolor="#ddeeff" style="color: var(--foam)">`)
	film := []byte(`{"v":"5.7.4","w":9,"h":9,"fr":25,"ip":0,"op":50,"layers":[{"ty":1,"nm":"Ground","sw":9,"sh":9,"sc":"#0E3A53","ks":{}}]}`)
	subtitles := []byte("WEBVTT\n\nSTYLE\n::cue(.loud) { color: #F2B632 }\n\n00:00.000 --> 00:01.000\n<c.loud>Hoy</c>\n")
	folder := packed(t, map[string][]byte{"site/a.css": css, "site/x.tsx": tsx, "pal.gpl": []byte("GIMP Palette\n226 87 43 Buoy\n14 58 83 Sound\n"),
		"site/.hidden.css": []byte("a{color:#FFF}"), "tool.bin": {0, 1, 2}})
	for _, c := range []struct{ name, label, want, note string }{
		{"a.css", "a style sheet", "deep sound #0E3A53 1, never #00FF00 0, #E2572B 2, #123456 1", ""},
		{"x.tsx", "a script", "primary buoy #E2572B 1, #123456 1", ""},
		{"p.html", "a page", "foam #F4F7F5 1, #DDEEFF 1", ""},
		{"film.json", "design tokens, an animation or other JSON", "#0E3A53 1", ""},
		{"s.vtt", "WebVTT subtitles", "#F2B632 1", ""},
		{"all.zip", "an archive", "Buoy #E2572B 3, Sound #0E3A53 1, never #00FF00 0, #123456 2", "Not read, since no kind that is read looks like it: tool.bin."},
	} {
		data := map[string][]byte{"a.css": css, "x.tsx": tsx, "p.html": page, "film.json": film, "s.vtt": subtitles, "all.zip": folder}[c.name]
		f, err := gather.Read(c.name, data)
		if !assert.NoError(t, err, c.name) {
			continue
		}
		var got []string
		for _, k := range f.Colors {
			got = append(got, strings.TrimSpace(fmt.Sprintf("%s %s %d", k.Name, k.RGB.Hex(), k.Uses)))
			assert.Len(t, k.Where, min(k.Places, 3), c.name)
		}
		assert.Equal(t, c.want, strings.Join(got, ", "), c.name)
		assert.Equal(t, c.label, f.Label)
		if c.note != "" {
			assert.Contains(t, f.Notes, c.note)
		}
	}
	f, err := gather.Read("all.zip", folder)
	require.NoError(t, err)
	assert.Equal(t, []string{"deep sound"}, f.Colors[1].Also)
	assert.Equal(t, []string{"site/a.css 2:43, a, background", "site/a.css 3:12, b, color", "site/x.tsx 1:31, primaryBuoy"}, f.Colors[0].Where)
}

// A deck uses colors of its own beside its theme's, and of the theme not all.
func TestADeckAsItIsUsed(t *testing.T) {
	f, err := gather.Read("deck.pptx", demo.TimetableDeck().Data)
	require.NoError(t, err)
	uses := map[string]int{}
	for _, c := range f.Colors {
		uses[c.Name+c.RGB.Hex()] = c.Uses
	}
	assert.Equal(t, 14, uses["dk1#3B444B"])
	assert.Equal(t, 0, uses["lt2#F7F5F0"], "a slot that no slide uses is there, with no use")
	assert.Equal(t, 2, uses["#E1572C"], "and a color beside the theme")
}

// What is wrong with tokens is said, not read around.
func TestBrokenTokensAreNotReadAsSomethingElse(t *testing.T) {
	_, err := gather.Read("a.json", []byte(`{"buoy":{"$type":"color","$value":"#E2572"},"sea":{"$type":"color","$value":"#0E3A53"}}`))
	assert.ErrorContains(t, err, "design tokens")
}

// A table of colors in a workbook is a list: what the workbook itself is painted with is not among it.
func TestATableOfColorsIsAList(t *testing.T) {
	e := library.Edition{House: "Ferries", Set: "Core", Colors: []library.Color{{Name: "Buoy", RGB: color.RGB8{R: 226, G: 87, B: 43}}}}
	for _, name := range []string{"xlsx", "csv"} {
		p, err := swatchfile.FindPacking(name)
		if err != nil {
			continue
		}
		data, err := p.Pack(e)
		require.NoError(t, err)
		f, err := gather.Read("list."+name, data)
		require.NoError(t, err)
		assert.Equal(t, "Buoy #E2572B", list(f), name)
	}
}

func packed(t *testing.T, files map[string][]byte) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, name := range slices.Sorted(maps.Keys(files)) {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = f.Write(files[name])
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func FuzzFinishedFiles(f *testing.F) {
	f.Add("a.css", []byte(":root{--a:#fff}b{color:var(--a)}"))
	f.Add("a.zip", []byte("PK\x03\x04"))
	f.Add("a.tsx", []byte(`x={a:"#123456"}`))
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		defer hostile.Timely(t, len(data))()
		found, err := gather.Read(name, data)
		if err == nil && len(found.Colors) == 0 {
			t.Fatal("neither a color nor an error")
		}
		for _, c := range found.Colors {
			if len(c.Where) > c.Places || c.Uses < c.Places {
				t.Fatalf("%d places told of %d, %d uses", len(c.Where), c.Places, c.Uses)
			}
		}
	})
}

// What is not read says what it is, and what to bring instead.
// A mail may quote a style sheet, name inks, and hold nothing but questions; no line of it is lost.
func TestEveryLineOfATextIsSomewhere(t *testing.T) {
	text := "Hello Kim\n\nour web says\n--deep-sound: #0E3A53;\n$buoy: #e2572b !default;\nand print says\nLamp QN-0132 on uncoated\nTar C60 M40 Y40 K100 QN-0619\nSlide 4 5 6\nRope 12 13\n"
	found, err := gather.Read("mail.txt", []byte(text))
	require.NoError(t, err)
	said := []string{}
	for _, c := range found.Colors {
		said = append(said, strings.TrimSpace(c.Name+" "+c.Decides()))
	}
	assert.Equal(t, []string{"deep-sound #0E3A53", "buoy #E2572B", "Lamp ink QN-0132 on uncoated", "Tar CMYK 60 40 40 100 on coated"}, said)
	assert.Equal(t, "QN-0619", found.Colors[3].Spots[0].Code)
	left := map[int]int{}
	for _, l := range found.Left {
		left[l.Line] = len(l.Readings)
	}
	assert.Equal(t, map[int]int{1: 0, 3: 0, 6: 0, 9: 1, 10: 0}, left)

	found, err = gather.Read("mail.txt", []byte("Version 2.1.3\n"))
	require.NoError(t, err, "a question is no error")
	assert.Empty(t, found.Colors)
	assert.Len(t, found.Left[0].Readings, 1)
	sheet, err := gather.Read("vars.txt", []byte(":root {\n  --deep-sound: #0E3A53; /* Deep Sound */\n  --gap: 4px;\n}\n"))
	require.NoError(t, err)
	assert.Equal(t, "custom properties", sheet.Label, "a style sheet under another name is one")
}

func TestWhatCannotBeReadSaysWhatToBring(t *testing.T) {
	for name, c := range map[string]struct{ data, want string }{
		"brand.swatches": {"\x00\x01\x00\x05\x00\x00\x00\x12", "a binary file of a closed kind, which is not read; where it was made, export the colors as .gpl, .soc, CSS or a table, or drop a picture of them"},
		"old.doc":        {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "in the office formats from before 2007, which are not read; save it in a newer one"},
		"mail.rtf":       {`{\rtf1 Buoy #E2572B}`, "rich text (RTF), which is not read; save it as .docx or .odt, or paste its text"},
		"logo.eps":       {"%!PS-Adobe-3.0 EPSF-3.0", "PostScript, which is not read; make a PDF of it"},
		"site.tar":       {strings.Repeat("\x00", 257) + "ustar", "an archive of a kind that is not read; pack the files as .zip, or drop the folder"},
		"photo.heic":     {"\x00\x00\x00\x18ftypheic\x00\x00\x00\x00", "HEIF (HEIC or the like), which is not read; save it as PNG or JPEG"},
		"paper.icc":      {strings.Repeat("\x00", 36) + "acsp", "an ICC profile, which holds no colors of its own; add that of a press"},
		"type.otf":       {"OTTO\x00\x0b", "a font, which holds no colors that are read"},
		"hoy.wav":        {"RIFF\x24\x00\x00\x00WAVEfmt ", "a sound, which holds no colors"},
	} {
		_, err := gather.Read(name, []byte(c.data))
		assert.ErrorContains(t, err, name+": it is ")
		assert.ErrorContains(t, err, c.want, name)
	}
}

// What a file uses is not left out without a word when it cannot be read.
func TestUsesThatCannotBeReadAreTold(t *testing.T) {
	var b strings.Builder
	b.WriteString(":root { --buoy: #E2572B }\n")
	for i := range limits.FoundPlaces + 10 {
		fmt.Fprintf(&b, "a%d{color:#123456}\n", i)
	}
	f, err := gather.Read("long.css", []byte(b.String()))
	require.NoError(t, err)
	assert.Equal(t, "buoy #E2572B", list(f))
	assert.Contains(t, strings.Join(f.Notes, " "), "Only what it defines by name is here; what it uses was not read")
}
