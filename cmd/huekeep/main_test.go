package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corecolor "huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/proof"
	"huekeep/core/swatchfile"
	"huekeep/demo"
)

var program string

// The tests run the program itself: exit codes and streams are part of what a script relies on.
func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "huekeep-cli-")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "huekeep")
	if out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

func huekeep(t *testing.T, args ...string) (stdout, stderr string, code int) {
	t.Helper()
	cmd := exec.Command(program, args...)
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	cmd.Dir = t.TempDir()
	var exit *exec.ExitError
	if err := cmd.Run(); errors.As(err, &exit) {
		code = exit.ExitCode()
	} else {
		require.NoError(t, err)
	}
	return out.String(), errs.String(), code
}

func TestConvert(t *testing.T) {
	out, _, code := huekeep(t, "convert", "#0E3A53", "--json")
	require.Zero(t, code)
	var v struct {
		Hex  string
		RGB  [3]int
		Lab  struct{ L, A, B float64 }
		CMYK struct {
			Press            string
			Exact, Whole     [4]float64
			DeltaE, TotalInk float64
			InGamut          bool
		}
		Inks []struct {
			Code, Stock string
			DeltaE      float64
		}
	}
	dec := json.NewDecoder(strings.NewReader(out))
	require.NoError(t, dec.Decode(&v))
	assert.Equal(t, "#0E3A53", v.Hex)
	assert.Equal(t, [3]int{14, 58, 83}, v.RGB)
	assert.InDelta(t, 22.4976, v.Lab.L, 0.001)
	assert.Equal(t, "coated", v.CMYK.Press)
	assert.True(t, v.CMYK.InGamut)
	total := 0.0
	for i, w := range v.CMYK.Whole {
		total += w
		assert.InDelta(t, v.CMYK.Exact[i], w, 8, "of the same kind as the profile's")
	}
	assert.InDelta(t, v.CMYK.Exact[3], v.CMYK.Whole[3], 2, "with its black")
	assert.Less(t, v.CMYK.DeltaE, 0.2, "but nearer than its table gets")
	assert.Equal(t, total, v.CMYK.TotalInk)
	assert.Len(t, v.Inks, 5)

	out, _, _ = huekeep(t, "convert", "rgb(226 87 43)")
	assert.Contains(t, out, "CMYK coated")
	_, errs, code := huekeep(t, "convert", "300 400 0")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "red is 300, over 255")
	out, _, code = huekeep(t, "convert", "rgb(300 0 0)")
	assert.Zero(t, code, "a function is clamped as CSS says")
	assert.Regexp(t, "note +red is 300, over 255, which was taken instead", out)
	out, _, _ = huekeep(t, "convert", "#0E3A5380")
	assert.Regexp(t, "note +alpha is 0.502", out)
	out, _, _ = huekeep(t, "convert", "rgb(from navy r g calc(b / 2) / 25%)", "--json")
	assert.Contains(t, out, `"hex":"#000040"`)
	assert.Contains(t, out, `"alpha":0.25`)
	for form, codes := range map[string]string{"ycbcr709": "113 95 191", "YCbCr709-10": "453 379 763", "ycbcr601": "122 88 192", "ycbcr2020-10-full": "498 371 689"} {
		out, _, _ = huekeep(t, "convert", "#E2572B", "--to", form)
		assert.Equal(t, codes+"\n", out, form)
	}
	out, errs, _ = huekeep(t, "convert", "color(rec2020 0 1 0)", "--to", "hex")
	assert.Regexp(t, "^#[0-9A-F]{6}\n$", out)
	assert.Contains(t, errs, "outside sRGB")
}

func TestDiff(t *testing.T) {
	out, _, code := huekeep(t, "diff", "#E2572B", "#E1572C", "--json")
	require.Zero(t, code)
	var v struct {
		DeltaE00 float64
		Word     string
	}
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	assert.InDelta(t, 0.27, v.DeltaE00, 0.01)
	assert.Equal(t, "invisible", v.Word)
	out, _, _ = huekeep(t, "diff", "navy", "#000080")
	assert.Equal(t, "0.00 identical\n", out)
}

func TestThousandsInOneRun(t *testing.T) {
	cmd := exec.Command(program, "diff", "-", "--lab")
	cmd.Stdin = strings.NewReader("50,2.6772,-79.7751\t50,0,-82.7485\n50,2.5,0 50,0,-2.5\n\n")
	out, err := cmd.Output()
	require.NoError(t, err)
	assert.Equal(t, `{"deltaE00":2.0425,"word":"noticeable"}`+"\n"+`{"deltaE00":4.3065,"word":"clear"}`+"\n", string(out))
	cmd = exec.Command(program, "convert", "-")
	cmd.Stdin = strings.NewReader("#008000\nnonsense\nrgb(1 2 3)\n")
	out, err = cmd.Output()
	assert.Error(t, err, "a wrong line shows in the exit code")
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	require.Len(t, lines, 3)
	assert.Contains(t, lines[0], `"hsl":{"h":120,"s":100,"l":25.098}`)
	assert.Contains(t, lines[1], `"error"`)
	assert.Contains(t, lines[2], `"hex":"#010203"`)

	var many bytes.Buffer
	for i := range 2000 {
		fmt.Fprintf(&many, "#%06X\n", i*4099%(1<<24))
	}
	cmd = exec.Command(program, "convert", "-", "--to", "hex")
	cmd.Stdin = bytes.NewReader(many.Bytes())
	out, err = cmd.Output()
	require.NoError(t, err)
	for i, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		require.Contains(t, line, fmt.Sprintf(`"hex":"#%06X"`, i*4099%(1<<24)), "in the order of the lines")
	}
}

func TestPressesSetsAndInks(t *testing.T) {
	for _, press := range []string{"uncoated", "newsprint", "../../core/press/profiles/coated.icc"} {
		cmd := exec.Command(program, "convert", "#E2572B", "--press", press, "--json")
		out, err := cmd.Output()
		require.NoError(t, err, press)
		assert.Contains(t, string(out), `"press":"`+filepath.Base(press)+`"`)
	}
	_, errs, code := huekeep(t, "convert", "#123456", "--press", write(t, "x.icc", []byte("no")))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "not an ICC profile")
	for _, c := range []struct {
		args []string
		part string
	}{
		{[]string{"contrast", "#777777", "#fff", "--json"}, `"ratio":4.478`},
		{[]string{"contrast", "#000", "#fff"}, "21.00:1  text AAA"},
		{[]string{"scale", "#0E3A53"}, "#0E3A53  master"},
		{[]string{"harmony", "#9A6B6B", "--scheme", "triadic", "--json"}, `"turn":240`},
		{[]string{"inks", "#E2572B", "-n", "1", "--stock", "uncoated"}, "uncoated"},
		{[]string{"inks", "qn-0100"}, "QN-0100"},
		{[]string{"inks", "#E2572B", "--class", "pastel", "--json"}, `"class":"pastel"`},
	} {
		out, errs, code := huekeep(t, c.args...)
		assert.Zero(t, code, "%v: %s", c.args, errs)
		assert.Contains(t, out, c.part, "%v", c.args)
	}
	for _, args := range [][]string{{"inks", "zzzz"}, {"inks", "#fff", "--stock", "velvet"}, {"harmony", "#fff", "--scheme", "x"}, {"contrast", "#fff", "x"}, {"scale", "cyan1"}} {
		_, errs, code := huekeep(t, args...)
		assert.Equal(t, 2, code, "%v", args)
		assert.NotEmpty(t, errs)
	}
}

func TestAnEmptySetIsNotPacked(t *testing.T) {
	lib := write(t, "empty.json", []byte(`{"Old": {"$type": "color", "Gone": {"$value": "#0E3A53", "$deprecated": true}}}`))
	data, err := swatchfile.WriteLibrary(swatchfile.Library{House: "H", Sets: []swatchfile.Set{{Name: "Winter"}},
		Colors: []library.Color{{Name: "Sea", Status: library.Approved}}})
	require.NoError(t, err)
	set := write(t, "set.json", data)
	for _, p := range swatchfile.Packings() {
		out := filepath.Join(t.TempDir(), "x"+p.Extension)
		_, errs, code := huekeep(t, "pack", lib, "--as", p.Name, "-o", out)
		assert.Equal(t, 2, code, p.Name)
		assert.Contains(t, errs, "no colors", p.Name)
		assert.NoFileExists(t, out)
		_, errs, code = huekeep(t, "pack", set, "--set", "Winter", "--as", p.Name, "-o", out)
		assert.Equal(t, 2, code, p.Name)
		assert.Contains(t, errs, "the set Winter holds no colors", p.Name)
		assert.NoFileExists(t, out)
	}
}

func TestWhatIsGivenIsKept(t *testing.T) {
	type build struct {
		Exact, Unlimited, Whole [4]float64
		DeltaE, TotalInk        float64
	}
	type answer struct {
		Hex  string
		CMYK struct {
			build
			Press, Origin string
			InkLimit      float64
			Profile       *build
			BlackOnly     *build
		}
		Inks []struct{ Stock string }
	}
	read := func(args ...string) (a answer) {
		out, errs, code := huekeep(t, append([]string{"convert", "--json"}, args...)...)
		require.Zero(t, code, errs)
		require.NoError(t, json.Unmarshal([]byte(out), &a))
		return a
	}
	four := func(v [4]float64) []float64 { return v[:] }
	black := read("0/0/0/100")
	assert.Equal(t, [4]float64{0, 0, 0, 100}, black.CMYK.Whole)
	assert.Equal(t, black.CMYK.Whole, black.CMYK.Exact)
	assert.Equal(t, "given", black.CMYK.Origin)
	assert.InDeltaSlice(t, four(read(black.Hex).CMYK.Whole), four(black.CMYK.Profile.Whole), 1, "the profile's own is what it makes of the look")
	assert.NotEqual(t, black.CMYK.Whole, black.CMYK.Profile.Whole)
	assert.Equal(t, [4]float64{12.5, 0, 30, 1}, read("cmyk(12.5% 0% 30% 1%)").CMYK.Exact, "nothing is rounded")

	derived := read("#131417")
	assert.Equal(t, "derived", derived.CMYK.Origin)
	assert.Nil(t, derived.CMYK.Profile)
	require.NotNil(t, derived.CMYK.BlackOnly)
	assert.Zero(t, derived.CMYK.BlackOnly.Whole[0]+derived.CMYK.BlackOnly.Whole[1]+derived.CMYK.BlackOnly.Whole[2])
	assert.Positive(t, derived.CMYK.BlackOnly.DeltaE)
	assert.Nil(t, read("#E2572B").CMYK.BlackOnly, "a vivid color has no build of black alone")

	for press, stock := range map[string]string{"coated": "coated", "uncoated": "uncoated", "newsprint": "uncoated"} {
		for _, k := range read("#E2572B", "--press", press).Inks {
			assert.Equal(t, stock, k.Stock, "inks for %s", press)
		}
	}
	out, _, _ := huekeep(t, "convert", "100/90/80/70", "--press", "newsprint")
	assert.Contains(t, out, "as given, total ink 340 %, over the press's 240 %")
	out, _, _ = huekeep(t, "convert", "0/0/0/100", "--to", "cmyk")
	assert.Equal(t, "0 0 0 100\n", out)
	out, _, _ = huekeep(t, "contrast", "#6C7B67", "#fff")
	assert.Contains(t, out, "4.49:1  text fails")
	out, _, _ = huekeep(t, "contrast", "#6C7B67", "#fff", "--json")
	assert.Contains(t, out, `"ratio":4.4999,`)
}

const libraryFile = `{"Hull": {"$type": "color", "Deep Sound": {"$value": "#0E3A53"}, "Buoy": {"$value": "#E2572B"}, "White": {"$value": "#FFFFFF"}}}`

func write(t *testing.T, name string, data []byte) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, data, 0o644))
	return path
}

func TestAuditByExitCode(t *testing.T) {
	lib := write(t, "lib.json", []byte(libraryFile))
	good := write(t, "good.css", []byte("a{color:#E2572B;fill:#fff}"))
	drifted := write(t, "drifted.css", []byte("a{color:#E1572C}"))
	_, _, code := huekeep(t, "audit", good, "--library", lib)
	assert.Equal(t, 0, code)
	out, _, code := huekeep(t, "audit", good, drifted, "--library", lib, "--json")
	assert.Equal(t, 1, code)
	var v struct {
		Files []struct {
			Path, Kind string
			Uses       int
			Score      float64
			Colors     []struct {
				Value, Hex, Verdict string
				Count               int
				Nearest             struct {
					Name, Hex string
					DeltaE    float64
				}
				Places []struct {
					Where string
					Count int
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	require.Len(t, v.Files, 2)
	assert.Equal(t, 1.0, v.Files[0].Score)
	c := v.Files[1].Colors[0]
	assert.Equal(t, []string{"#E1572C", "drifted", "Buoy"}, []string{c.Value, c.Verdict, c.Nearest.Name})
	assert.Equal(t, "drifted.css 1:9, a, color", c.Places[0].Where)
	_, _, code = huekeep(t, "audit", drifted, "--library", lib, "--tolerance", "0.1")
	assert.Equal(t, 1, code)
	_, errs, code := huekeep(t, "audit", good, write(t, "x.pptx", []byte("no")), "--library", lib)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "x.pptx: it is named as a presentation but is not a ZIP archive")
	for _, args := range [][]string{{"audit", good}, {"audit", good, "--library", "nowhere.json"}, {"audit", good, "--library", good},
		{"audit", good, "--library", lib, "--tolerance", "-1"}, {"audit"}, {"paint"}} {
		_, errs, code := huekeep(t, args...)
		assert.Equal(t, 2, code, "%v", args)
		assert.NotEmpty(t, errs, "%v", args)
	}
}

func TestPackWritesWhatTheAuditReads(t *testing.T) {
	lib := write(t, "lib.json", []byte(libraryFile))
	out := filepath.Join(t.TempDir(), "theme.pptx")
	_, errs, code := huekeep(t, "pack", lib, "--set", "Hull", "--as", "office-theme", "-o", out)
	require.Zero(t, code, errs)
	_, _, code = huekeep(t, "audit", out, "--library", lib)
	assert.LessOrEqual(t, code, 1)
	css, _, code := huekeep(t, "pack", lib, "--as", "css", "-o", "-")
	require.Zero(t, code)
	assert.Contains(t, css, "--deep-sound: #0E3A53;")
	for _, args := range [][]string{{"pack", lib, "--set", "Nowhere", "--as", "css"}, {"pack", lib, "--as", "clay"}, {"pack", "nowhere.json"}} {
		_, errs, code := huekeep(t, args...)
		assert.Equal(t, 2, code)
		assert.NotEmpty(t, errs)
	}
}

func TestDemoFilesAreWritten(t *testing.T) {
	dir := t.TempDir()
	out, _, code := huekeep(t, "demo-files", dir)
	require.Zero(t, code)
	for _, f := range demo.Files() {
		assert.Contains(t, out, f.Name)
		data, err := os.ReadFile(filepath.Join(dir, f.Name))
		require.NoError(t, err)
		assert.Equal(t, f.Data, data)
	}
}

func TestConvertToOneNotationAndForAnotherRendering(t *testing.T) {
	for _, c := range [][]string{
		{"#0E3A53", "--to", "rgb", "rgb(14 58 83)"}, {"#0E3A53", "--to", "OKLCH", "oklch(0.33215 0.06413 238.473)"},
		{"qn-0132", "--to", "ink", "QN-0132"}, {"0/71/100/12", "--press", "newsprint", "--to", "cmyk", ""},
	} {
		out, errs, code := huekeep(t, append([]string{"convert"}, c[:len(c)-1]...)...)
		require.Zero(t, code, errs)
		if want := c[len(c)-1]; want != "" {
			assert.Equal(t, want+"\n", out)
		}
	}
	plain, _, _ := huekeep(t, "convert", "#101010", "--to", "cmyk")
	saturated, _, _ := huekeep(t, "convert", "#101010", "--to", "cmyk", "--intent", "perceptual", "--bpc")
	assert.NotEqual(t, plain, saturated, "the rendering decides about dark colors")
	for _, bad := range [][]string{{"#123456", "--to", "roman"}, {"#123456", "--intent", "artistic"}, {"#123456", "--press", "silk"}} {
		_, errs, code := huekeep(t, append([]string{"convert"}, bad...)...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, "there is no")
	}
}

func TestVision(t *testing.T) {
	out, _, code := huekeep(t, "vision", "#B8442A", "#5E7D26", "#0E3A53", "--type", "deuteranomaly", "--severity", "0.9", "--json")
	require.Zero(t, code)
	assert.Contains(t, out, `"type":"deuteranopia","severity":0.9`)
	assert.Contains(t, out, `"confusable":[{"a":"#B8442A","b":"#5E7D26"`)
	_, errs, code := huekeep(t, "vision", "red", "--severity", "2")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "between 0 and 1")
}

func TestExtract(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 400, 100))
	for x := range 400 {
		for y := range 100 {
			img.SetNRGBA(x, y, [4]color.NRGBA{{14, 58, 83, 255}, {226, 87, 43, 255}, {242, 182, 50, 255}, {78, 125, 91, 255}}[x/100])
		}
	}
	file := filepath.Join(t.TempDir(), "palette.png")
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	out, _, code := huekeep(t, "extract", file)
	require.Zero(t, code)
	assert.Equal(t, "#0E3A53   25.0 %  at 50, 50\n#E2572B   25.0 %  at 150, 50\n#F2B632   25.0 %  at 250, 50\n#4E7D5B   25.0 %  at 350, 50\n", out)
	out, _, _ = huekeep(t, "extract", file, "-n", "2", "--json")
	assert.Contains(t, out, `"chart":false`)
	wide, err := proof.WriteP3(img)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(file, wide, 0o600))
	out, errs, code := huekeep(t, "extract", file)
	require.Zero(t, code, errs)
	assert.Contains(t, out, "25.0 %  at 250, 50  color(display-p3 0.949 0.7137 0.1961)\n")
	require.NoError(t, os.WriteFile(file, []byte("no picture"), 0o600))
	_, errs, code = huekeep(t, "extract", file)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "palette.png: this is not a PNG")
}

// sample is a library file of two colors.
func sample(t *testing.T) []byte {
	data, err := swatchfile.WriteLibrary(swatchfile.Library{House: "Sample", Tolerance: 3, Colors: []library.Color{
		{Name: "Buoy", RGB: corecolor.RGB8{R: 226, G: 87, B: 43}}, {Name: "Deep Sound", Group: "Hull", RGB: corecolor.RGB8{R: 14, G: 58, B: 83}}}})
	require.NoError(t, err)
	return data
}

func TestVersion(t *testing.T) {
	out, _, code := huekeep(t, "version")
	assert.Zero(t, code)
	assert.Regexp(t, `^Hue Keep \S.*, go1\.\d+`, out)
}
