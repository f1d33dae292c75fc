package swatchfile_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
)

// Whether others can open what we write is for them to say: every packing goes to a program that had no part in writing it.

// written writes a packing into a folder.
func written(t *testing.T, dir, packing string, e library.Edition) string {
	p, err := swatchfile.FindPacking(packing)
	require.NoError(t, err)
	data, err := p.Pack(e)
	require.NoError(t, err, packing)
	name := filepath.Join(dir, packing+p.Extension)
	require.NoError(t, os.WriteFile(name, data, 0o600))
	return name
}

func run(t *testing.T, name string, args ...string) string {
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, "%s %s: %s", name, strings.Join(args, " "), out)
	return string(out)
}

// printed is an edition with inks and a tint that may be used.
func printed(t testing.TB) library.Edition {
	e := edition(t)
	for i := range e.Colors {
		for _, s := range press.Shipped {
			c, err := press.Get(s.Name)
			require.NoError(t, err)
			if _, ok := e.Colors[i].Build(s.Name); !ok {
				e.Colors[i].Builds = append(e.Colors[i].Builds, library.Build{Press: s.Name, Value: c.Build(e.Colors[i].RGB.Lab()).Whole, Origin: library.Derived})
			}
		}
		if len(e.Colors[i].Spots) == 0 {
			e.Colors[i].Spots = []library.Spot{{Stock: "coated", Code: fmt.Sprintf("QN-%04d", 200+i), Origin: library.Derived}}
		}
	}
	e.Colors[0].Companions = []library.Companion{{Kind: "tint", Amount: 60, Permitted: true}, {Kind: "step", Amount: 300}, {Kind: "tint", Amount: 20}}
	return e
}

// An office suite opens all that is for one, makes pages of it, and the colors are on the pages.
func TestAnOfficeSuiteOpensEveryOfficePacking(t *testing.T) {
	need(t, "soffice", "libreoffice")
	need(t, "pdftoppm", "poppler-utils")
	dir := t.TempDir()
	e := edition(t)
	args := []string{"-env:UserInstallation=file://" + dir + "/profile", "--headless", "--convert-to", "pdf", "--outdir", dir + "/out"}
	packings := []string{"deck", "deck-template", "book", "book-template", "document", "document-template", "odf-deck", "odf-sheet", "odf-text", "xlsx"}
	for _, name := range packings {
		file := written(t, dir, name, e)
		// Several packings would become pages of the same name.
		p, err := swatchfile.FindPacking(name)
		require.NoError(t, err)
		require.NoError(t, os.Rename(file, filepath.Join(dir, name+p.Extension[strings.LastIndex(p.Extension, "."):])))
		args = append(args, filepath.Join(dir, name+p.Extension[strings.LastIndex(p.Extension, "."):]))
	}
	run(t, "soffice", args...)
	for _, name := range packings {
		t.Run(name, func(t *testing.T) {
			pages := filepath.Join(dir, name)
			run(t, "pdftoppm", "-r", "30", "-aa", "no", "-aaVector", "no", "-png", filepath.Join(dir, "out", name+".pdf"), pages)
			files, err := filepath.Glob(pages + "-*.png")
			require.NoError(t, err)
			require.NotEmpty(t, files)
			seen := map[string]bool{}
			for _, f := range files {
				for hex := range pixels(t, f) {
					seen[hex] = true
				}
			}
			for _, c := range e.Colors {
				assert.True(t, seen[c.RGB.Hex()], "%s is on no page", c.Name)
			}
		})
	}
}

// pixels counts the colors of a picture.
func pixels(t *testing.T, file string) map[string]int {
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	counted := map[color.RGB8]int{}
	b := img.Bounds()
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			r, g, bl, _ := img.At(x, y).RGBA()
			counted[color.RGB8{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(bl >> 8)}]++
		}
	}
	out := map[string]int{}
	for c, n := range counted {
		out[c.Hex()] = n
	}
	return out
}

// A raster image processor separates the printer's pages: a plate under the code of each ink, with the tints that stand beside.
func TestAPrinterGetsAPlateOfEachInk(t *testing.T) {
	need(t, "gs", "ghostscript")
	need(t, "qpdf", "qpdf")
	need(t, "pdfinfo", "poppler-utils")
	dir := t.TempDir()
	e := printed(t)
	file := written(t, dir, "print-pdf", e)
	assert.Contains(t, run(t, "qpdf", "--check", file), "No syntax or stream encoding errors")
	assert.Contains(t, run(t, "pdfinfo", file), "646.299 x 892.913 pts", "A4 with room for marks")
	assert.Contains(t, run(t, "pdftotext", "-layout", file, "-"), "approved by Keeper")
	text := run(t, "pdftotext", "-layout", file, "-")
	for _, c := range e.Colors {
		assert.Contains(t, text, c.Name)
		assert.Contains(t, text, c.Spots[0].Code)
	}
	assert.Contains(t, run(t, "qpdf", "--json", "--json-key=qpdf", file), "GTS_PDFX")

	// The page of the inks is the last one.
	run(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r36", "-dFirstPage=5", "-dLastPage=5", "-sOutputFile="+dir+"/plate-%d.tif", file)
	for _, c := range e.Colors {
		plate := filepath.Join(dir, "plate-1("+c.Spots[0].Code+").tif")
		require.FileExists(t, plate, "a plate under the code of the ink of %s", c.Name)
		run(t, "ffmpeg", "-loglevel", "error", "-y", "-i", plate, plate+".png")
		found := pixels(t, plate+".png")
		for _, tint := range []float64{100, 80, 60, 40, 20} {
			n := 0
			for hex, count := range found {
				v, err := color.FromHex(hex)
				require.NoError(t, err)
				if d := float64(v.R) - 255*(1-tint/100); d > -2 && d < 2 {
					n += count
				}
			}
			assert.Greater(t, n, 100, "%s: a tint of %g percent", c.Spots[0].Code, tint)
		}
	}
	// The process colors stand on the plates as they were written.
	run(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiff32nc", "-r36", "-dFirstPage=2", "-dLastPage=2", "-sOutputFile="+dir+"/process.tif", file)
	raw, err := exec.Command("tiffinfo", dir+"/process.tif").CombinedOutput()
	require.NoError(t, err)
	assert.Contains(t, string(raw), "separated")
	for _, other := range []string{"sheet-pdf", "key-in-pdf"} {
		assert.Contains(t, run(t, "qpdf", "--check", written(t, dir, other, e)), "No syntax or stream encoding errors")
		assert.Contains(t, run(t, "pdftotext", filepath.Join(dir, other+map[string]string{"sheet-pdf": ".pdf", "key-in-pdf": ".key-in.pdf"}[other]), "-"), "Deep Sound")
	}
}

// A video program reads the cards, the subtitles and the timeline; what it shows are the colors.
func TestVideoProgramsShowTheColors(t *testing.T) {
	need(t, "ffmpeg", "ffmpeg")
	dir := t.TempDir()
	e := edition(t)
	for name, size := range map[string]string{"card-1080": "1920x1080", "card-2160": "3840x2160"} {
		file := written(t, dir, name, e)
		out, _ := exec.Command("ffmpeg", "-hide_banner", "-i", file).CombinedOutput()
		assert.Contains(t, string(out), size)
		found := pixels(t, file)
		for _, c := range e.Colors {
			assert.Greater(t, found[c.RGB.Hex()], 10_000, "%s: %s", name, c.Name)
		}
	}
	ass := written(t, dir, "ass", e)
	run(t, "ffmpeg", "-loglevel", "error", "-y", "-f", "lavfi", "-i", fmt.Sprintf("color=c=gray:s=1920x1080:d=%d:r=1,format=rgb24", 2*len(e.Colors)), "-vf", "subtitles="+ass, filepath.Join(dir, "frame%d.png"))
	for i, c := range e.Colors {
		near := 0
		for hex, n := range pixels(t, filepath.Join(dir, fmt.Sprintf("frame%d.png", 2*i+1))) {
			v, err := color.FromHex(hex)
			require.NoError(t, err)
			if color.DeltaE00(v.Lab(), c.RGB.Lab()) < 1.5 {
				near += n
			}
		}
		assert.Greater(t, near, 500, "%s is written in its color", c.Name)
	}
	for _, name := range []string{"webvtt", "ttml"} {
		file := written(t, dir, name, e)
		if name == "ttml" {
			run(t, "xmllint", "--noout", file)
			continue // the program writes this form and does not read it
		}
		back := run(t, "ffmpeg", "-loglevel", "error", "-i", file, "-f", "srt", "-")
		styles, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, c := range e.Colors {
			assert.Contains(t, back, c.Name)
			assert.Contains(t, string(styles), "{ color: "+c.RGB.Hex()+"; }")
		}
	}
	e.Colors = e.Colors[:3] // fifty frames each
	mlt := written(t, dir, "mlt", e)
	run(t, "xmllint", "--noout", mlt)
	need(t, "melt", "melt")
	frames := filepath.Join(dir, "mlt-%03d.png")
	var out []byte
	var files []string
	for range 3 { // beside other work the program now and then ends, content, before its first frame
		cmd := exec.Command("melt", mlt, "-consumer", "avformat:"+frames, "vcodec=png", "pix_fmt=rgb24", "an=1", "real_time=-1")
		cmd.Env = append(os.Environ(), "QT_QPA_PLATFORM=offscreen", "XDG_RUNTIME_DIR="+dir)
		var err error
		out, err = cmd.CombinedOutput()
		require.NoError(t, err, string(out))
		files, err = filepath.Glob(filepath.Join(dir, "mlt-*.png"))
		require.NoError(t, err)
		if len(files) > 0 {
			break
		}
	}
	require.NotEmpty(t, files, string(out))
	require.Len(t, files, 50*len(e.Colors))
	for i, c := range e.Colors {
		assert.Equal(t, 1920*1080, pixels(t, files[50*i+25])[c.RGB.Hex()], "the producer of %s shows its color", c.Name)
	}
}

// Programs for the web read what is for them, and find the same colors.
func TestProgramsForTheWebFindTheSameColors(t *testing.T) {
	node(t)
	dir := t.TempDir()
	e := printed(t)
	e.Gradients = []library.Gradient{{Name: "Dusk", Angle: 90, Space: "oklab", Stops: []library.Stop{{Color: e.Colors[0].Ref()}, {Color: e.Colors[1].Ref(), Place: 100}}}}
	e.Pairs = []library.Pair{{Color: e.Colors[4].Ref(), Ground: e.Colors[0].Ref(), May: true, Ratio: 4.5}}
	lab := color.Lab{L: 60, A: 90, B: 70}
	e.Colors[1].Master, _ = library.Read(lab)
	over := e.Colors[4]
	e.Colors[0].Companions = append(e.Colors[0].Companions, library.Companion{Kind: "sheer", Amount: 40, Permitted: true, Ground: over.Ref(), Over: over.RGB},
		library.Companion{Kind: "sheer", Amount: 40, Permitted: true}, library.Companion{Kind: "sheer", Amount: 15})
	files := map[string]string{}
	for _, name := range []string{"css", "scss", "utility-css", "ts", "npm", "tokens", "tokens-string"} {
		files[name] = written(t, dir, name, e)
	}
	compiled(t, files, e)
	css, err := os.ReadFile(files["css"])
	require.NoError(t, err)
	for _, line := range []string{"--deep-sound-60-tint:", "--deep-sound-300:", "--on-deep-sound: var(--", "--gradient-dusk: linear-gradient(90deg in oklab, var(--deep-sound) 0%,", "@supports (color: oklch(0.5 0.1 0))"} {
		assert.Contains(t, string(css), line)
	}
	assert.NotContains(t, string(css), "20-tint", "a tint that is not permitted stays out")
	assert.Equal(t, 1, strings.Count(string(css), "--deep-sound-at-40: rgba(14, 58, 83, 0.4);"), "what is laid over any ground stands once")
	assert.Contains(t, string(css), "--deep-sound-40-over-white: #9FB0BA;")
	assert.Contains(t, string(css), "--deep-sound-40-over-"+swatchfile.Slug(over.Name)+": ")
	assert.NotContains(t, string(css), "15-over", "a sheer that is not permitted stays out")
	for name, says := range map[string]string{"ts": "deepSoundAt40: '#0E3A5366',", "scss": "$deep-sound-at-40: rgba(14, 58, 83, 0.4);",
		"tokens-string": `"value": "rgba(14, 58, 83, 0.4)"`, "tokens": `"alpha": 0.4,`} {
		text, err := os.ReadFile(files[name])
		require.NoError(t, err)
		assert.Contains(t, string(text), says, name)
	}
}

// compiled reads packings, by their names, with programs for the web, which find every color of the edition in each.
func compiled(t *testing.T, files map[string]string, e library.Edition) {
	t.Helper()
	arg, err := json.Marshal(files)
	require.NoError(t, err)
	cmd := exec.Command("node", "scripts/packings.mjs", string(arg))
	cmd.Dir = "../../ui"
	var said bytes.Buffer
	cmd.Stderr = &said
	out, err := cmd.Output()
	require.NoError(t, err, said.String())
	var got map[string][]string
	require.NoError(t, json.Unmarshal(out, &got), string(out))
	for name := range files {
		for _, c := range e.Colors {
			assert.Contains(t, got[name], strings.ToLower(c.RGB.Hex()), "%s: %s", name, c.Name)
		}
	}
}

// node finds Node with the packages of the interface, which the build needs anyway.
func node(t *testing.T) {
	need(t, "node", "nodejs")
	if _, err := os.Stat("../../ui/node_modules/sass"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("the packages of the interface must be installed in CI (npm ci)")
		}
		t.Skip("the packages of the interface are not installed")
	}
}

// Sets that nobody plans for.
func TestAwkwardSetsArePackedToo(t *testing.T) {
	need(t, "xmllint", "libxml2-utils")
	need(t, "qpdf", "qpdf")
	need(t, "ffmpeg", "ffmpeg")
	need(t, "/usr/bin/python3", "python3-openpyxl")
	set := func(n int, name func(int) string, rgb func(int) color.RGB8) library.Edition {
		e := library.Edition{House: "Ropes & <Sons> \"Ltd\"", Set: "Odd */ --> {x}", Number: 1, FixedAt: at}
		for i := range n {
			c := library.Color{ID: int64(i + 1), Name: name(i), RGB: rgb(i), Status: library.Approved}
			if n > 20 { // an edition has a build for every press; that a set has none is what the small ones show
				c.Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: float64(i % 100), K: 20}, Origin: library.Derived}}
			}
			e.Colors = append(e.Colors, c)
		}
		if n > 20 {
			e.Profiles = []library.Profile{{Press: "coated", Label: "coated paper, offset", InkLimit: 300}}
		}
		return e
	}
	plain := func(i int) string { return fmt.Sprintf("Color %d", i) }
	varied := func(i int) color.RGB8 { return color.RGB8{R: uint8(i * 37), G: uint8(i * 91), B: uint8(i * 13)} }
	odd := []string{`"quotes" 'all'`, `a/b\c`, "🚢 Ferry 🌊", "כחול עמוק", "أزرق", "1st class", "=SUM(A1:A9)", strings.Repeat("Long name ", 12), "Sea deep", "sea-deep", "Sea  Deep!", "-->", "{\\b1}x", "*", ",", "]]>", "&amp;", "Großer Čaj"}
	for what, e := range map[string]library.Edition{
		"one":        set(1, plain, varied),
		"sixty":      set(60, plain, varied),
		"500":        set(500, plain, varied),
		"names":      set(len(odd), func(i int) string { return odd[i] }, varied),
		"near white": set(12, plain, func(i int) color.RGB8 { return color.RGB8{R: uint8(255 - i), G: 255, B: 255} }),
		"near black": set(12, plain, func(i int) color.RGB8 { return color.RGB8{R: uint8(i)} }),
	} {
		t.Run(what, func(t *testing.T) {
			dir := t.TempDir()
			var xml, books []string
			script := map[string]string{}
			for _, p := range swatchfile.Packings() {
				file := written(t, dir, p.Name, e)
				if p.For == swatchfile.Web && what == "names" { // for Node and the compilers of the interface
					script[p.Name] = file
				}
				switch last := p.Extension[strings.LastIndex(p.Extension, ".")+1:]; last {
				case "xml", "soc", "svg", "ttml", "mlt", "cxf":
					xml = append(xml, file)
				case "pdf":
					assert.Contains(t, run(t, "qpdf", "--check", file), "No syntax or stream encoding errors", p.Name)
				case "vtt":
					if what != "names" {
						continue
					}
					back := run(t, "ffmpeg", "-loglevel", "error", "-i", file, "-f", "srt", "-")
					assert.Equal(t, len(e.Colors), strings.Count(back, " --> 00:"), "a cue for each color")
				case "json":
					data, err := os.ReadFile(file)
					require.NoError(t, err)
					assert.True(t, json.Valid(data), p.Name)
				case "png":
					assert.NotEmpty(t, pixels(t, file))
				case "pptx", "potx", "xlsx", "xltx", "docx", "dotx", "otp", "ots", "ott":
					if strings.HasPrefix(last, "xl") && what == "names" {
						books = append(books, file)
					}
					data, err := os.ReadFile(file)
					require.NoError(t, err)
					for name, text := range parts(t, data) {
						if strings.HasSuffix(name, ".xml") || strings.HasSuffix(name, ".rels") {
							part := filepath.Join(dir, fmt.Sprintf("part%d.xml", len(xml)))
							require.NoError(t, os.WriteFile(part, []byte(text), 0o600))
							xml = append(xml, part)
						}
					}
				}
			}
			run(t, "xmllint", append([]string{"--noout", "--huge"}, xml...)...)
			if len(books) > 0 {
				run(t, "/usr/bin/python3", append([]string{"-W", "ignore", "-c", "import sys, openpyxl\nfor f in sys.argv[1:]: openpyxl.load_workbook(f)"}, books...)...)
			}
			if len(script) > 0 {
				node(t)
				compiled(t, script, e)
			}
		})
	}
}

// A name that has to be cut is told of beforehand.
func TestNamesThatAreCutAreToldOf(t *testing.T) {
	e := edition(t)
	e.Colors[0].Name = strings.Repeat("Long name ", 12)
	for _, name := range []string{"swatch-png", "swatch-svg", "card-1080", "card-svg", "sheet-pdf", "print-pdf", "key-in-pdf"} {
		p, err := swatchfile.FindPacking(name)
		require.NoError(t, err)
		assert.Contains(t, p.LeavesOut(e), "the ends of long names", name)
		assert.NotContains(t, p.LeavesOut(edition(t)), "the ends of long names", name)
	}
}
