package repaint_test

import (
	"bytes"
	"fmt"
	"image"
	_ "image/png" // what pdftoppm writes
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/pixels"
	"huekeep/core/color"
	"huekeep/core/pdfdoc"
	"huekeep/core/picture"
	"huekeep/core/repaint"
	"huekeep/core/swatchfile"
)

// program finds an independent program, or skips the test; never in CI.
func program(t *testing.T, name string) string {
	path, err := exec.LookPath(name)
	if err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("%s is not installed", name)
		}
		t.Skipf("%s is not installed", name)
	}
	return path
}

func run(t *testing.T, dir, name string, args ...string) string {
	t.Helper()
	c := exec.Command(program(t, name), args...)
	c.Dir = dir
	out, err := c.CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	return string(out)
}

// suite converts files of an office suite, all in one start of it.
func suite(t *testing.T, dir, to string, files ...string) {
	t.Helper()
	profile := t.TempDir()
	run(t, dir, "soffice", append([]string{"-env:UserInstallation=file://" + profile, "--headless", "--convert-to", to, "--outdir", dir}, files...)...)
}

func packed(t *testing.T, dir, packing string) string {
	t.Helper()
	p, err := swatchfile.FindPacking(packing)
	require.NoError(t, err)
	e := typed(2)
	data, err := p.Pack(e)
	require.NoError(t, err)
	name := packing + filepath.Ext(p.FileName(e))
	require.NoError(t, os.WriteFile(filepath.Join(dir, name), data, 0o644))
	return name
}

// mended repaints a file of a folder beside it, and gives the other one's name.
func mended(t *testing.T, dir, name string) string {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(dir, name))
	require.NoError(t, err)
	rules := audit.Rules{Colors: brand, Neutrals: true}
	scan, err := kinds.Read(name, data)
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge(name, scan)
	drifted := map[string]bool{}
	for _, c := range report.Colors {
		if c.Verdict == audit.Drifted {
			drifted[c.Nearest.Name] = true
		}
	}
	assert.Len(t, drifted, len(brand), "%s: every typed color is found", name)
	r, err := repaint.File(name, data, rules, repaint.Usual(report), kinds.Options{})
	require.NoError(t, err, name)
	assert.Empty(t, r.Left, name)
	for _, c := range r.After.Colors {
		assert.NotEqual(t, audit.Drifted, c.Verdict, "%s: %s at %s", name, c.Value, c.Places[0].Where)
	}
	out := "mended-" + name
	require.NoError(t, os.WriteFile(filepath.Join(dir, out), r.Data, 0o644))
	return out
}

func pdfOf(name string) string { return strings.TrimSuffix(name, filepath.Ext(name)) + ".pdf" }

// alike renders two PDFs and wants the same pages, in which no pixel differs by more than the typed colors did.
func alike(t *testing.T, dir, before, after string) {
	t.Helper()
	pages := func(name string) string {
		return regexp.MustCompile(`Pages:\s+\d+`).FindString(run(t, dir, "pdfinfo", name))
	}
	require.Equal(t, pages(before), pages(after), before)
	for _, name := range []string{before, after} {
		run(t, dir, "pdftoppm", "-r", "30", "-png", name, strings.TrimSuffix(name, ".pdf"))
	}
	read := func(name string) (out []image.Image) {
		list, err := filepath.Glob(filepath.Join(dir, strings.TrimSuffix(name, ".pdf")+"-*.png"))
		require.NoError(t, err)
		sort.Strings(list)
		for _, path := range list {
			data, err := os.ReadFile(path)
			require.NoError(t, err)
			img, _, err := image.Decode(bytes.NewReader(data))
			require.NoError(t, err)
			out = append(out, img)
		}
		return out
	}
	a, b := read(before), read(after)
	require.Equal(t, len(a), len(b))
	changed, far := 0, 0
	for i := range a {
		require.Equal(t, a[i].Bounds(), b[i].Bounds())
		for y := range a[i].Bounds().Dy() {
			for x := range a[i].Bounds().Dx() {
				r1, g1, b1, _ := a[i].At(x, y).RGBA()
				r2, g2, b2, _ := b[i].At(x, y).RGBA()
				d := max(apart(r1, r2), apart(g1, g2), apart(b1, b2))
				if d > 0 {
					changed++
				}
				if d > 4 {
					far++
				}
			}
		}
	}
	assert.Positive(t, changed, "%s: nothing looks different", before)
	assert.Zero(t, far, "%s: pixels that look different by more than was planned", before)
}

func apart(a, b uint32) int {
	x, y := int(a>>8), int(b>>8)
	return max(x-y, y-x)
}

// Files of our own are put right, and an office suite renders them with the same pages, different only where it was planned.
func TestAnOfficeSuiteRendersWhatWasRepainted(t *testing.T) {
	dir := t.TempDir()
	program(t, "pdftoppm")
	var files []string
	for _, packing := range []string{"deck", "book", "document", "odf-deck", "odf-sheet", "odf-text"} {
		name := packed(t, dir, packing)
		files = append(files, name, mended(t, dir, name))
	}
	suite(t, dir, "pdf", files...)
	for i := 0; i < len(files); i += 2 {
		alike(t, dir, pdfOf(files[i]), pdfOf(files[i+1]))
	}
}

// Files that the suite wrote itself, in its own formats and in those of others.
func TestFilesOfAnOfficeSuiteAreRepainted(t *testing.T) {
	dir := t.TempDir()
	deck, book, document := packed(t, dir, "deck"), packed(t, dir, "book"), packed(t, dir, "document")
	for _, c := range []struct {
		file string
		to   []string
	}{{deck, []string{"odp", "fodp"}}, {book, []string{"ods", "fods"}}, {document, []string{"odt", "fodt"}}} {
		for _, to := range c.to {
			suite(t, dir, to, c.file)
			name := strings.TrimSuffix(c.file, filepath.Ext(c.file)) + "." + to
			if strings.HasPrefix(to, "f") {
				distinct(t, dir, name)
			}
			mended(t, dir, name)
		}
		first := strings.TrimSuffix(c.file, filepath.Ext(c.file)) + "." + c.to[0]
		back := filepath.Ext(c.file)[1:]
		again := filepath.Join(dir, "again")
		require.NoError(t, os.MkdirAll(again, 0o755))
		data, err := os.ReadFile(filepath.Join(dir, first))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(again, first), data, 0o644))
		suite(t, again, back, first)
		mended(t, again, strings.TrimSuffix(first, filepath.Ext(first))+"."+back)
	}
}

// A document whose automatic styles derive from a named one afterwards looks the same, and the office suite finds the color in the named one.
func TestAnOfficeSuiteFollowsANamedStyle(t *testing.T) {
	dir := t.TempDir()
	program(t, "pdftoppm")
	before := flat(namedText, `<style:style style:name="T1" style:family="text"><style:text-properties fo:font-style="italic" fo:color="#e1572c"/></style:style>`, strings.Repeat(aSpan, 3))
	after := linked(t, "a.fodt", before)
	require.NotContains(t, after, "#e1572c")
	for name, text := range map[string]string{"a": before, "b": after, "c": strings.ReplaceAll(after, "#E2572B", "#0E3A53")} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name+".fodt"), []byte(text), 0o644))
	}
	suite(t, dir, "pdf", "a.fodt", "b.fodt", "c.fodt")
	alike(t, dir, "a.pdf", "b.pdf")
	pixels := func(name string) map[string]bool {
		scan, err := kinds.Read(name, mustRead(t, filepath.Join(dir, name)))
		require.NoError(t, err)
		out := map[string]bool{}
		for _, u := range scan.Uses {
			out[u.RGB.Hex()] = true
		}
		return out
	}
	assert.True(t, pixels("b.pdf")["#E2572B"])
	assert.True(t, pixels("c.pdf")["#0E3A53"], "the next change is one change")
	assert.False(t, pixels("c.pdf")["#E2572B"])
}

func mustRead(t *testing.T, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(name)
	require.NoError(t, err)
	return data
}

// distinct compares the colors that are found in one XML file with those that stand in it, counted by another way.
func distinct(t *testing.T, dir, name string) {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(dir, name))
	require.NoError(t, err)
	body := regexp.MustCompile(`(?s)<office:binary-data>.*?</office:binary-data>|<config:.*?>`).ReplaceAll(data, nil)
	want := map[string]bool{}
	for _, m := range regexp.MustCompile(`(?:color|border[a-z-]*|shadow)="[^"]*(#[0-9a-fA-F]{6})`).FindAllSubmatch(body, -1) {
		want[strings.ToUpper(string(m[1]))] = true
	}
	scan, err := kinds.Read(name, data)
	require.NoError(t, err)
	got := map[string]bool{}
	for _, u := range scan.Uses {
		if u.Why == "" && !u.Pixels {
			got[u.RGB.Hex()] = true
		}
	}
	assert.Equal(t, want, got, name)
}

// PDFs of several writers: with plain objects, with packed ones, distilled anew.
func TestPDFsOfSeveralWritersAreRepainted(t *testing.T) {
	dir := t.TempDir()
	for _, p := range []string{"qpdf", "gs", "pdftocairo", "pdftoppm"} {
		program(t, p)
	}
	sheet := packed(t, dir, "sheet-pdf")
	files := []string{sheet}
	run(t, dir, "qpdf", "--object-streams=generate", sheet, "packed.pdf")
	run(t, dir, "qpdf", "--linearize", sheet, "linear.pdf")
	run(t, dir, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=pdfwrite", "-sOutputFile=distilled.pdf", sheet)
	run(t, dir, "pdftocairo", "-pdf", sheet, "cairo.pdf")
	files = append(files, "packed.pdf", "linear.pdf", "distilled.pdf", "cairo.pdf")
	document := packed(t, dir, "document")
	suite(t, dir, "pdf", document)
	files = append(files, pdfOf(document))
	for _, name := range files {
		t.Run(name, func(t *testing.T) {
			out := mended(t, dir, name)
			before, err := os.ReadFile(filepath.Join(dir, name))
			require.NoError(t, err)
			after, err := os.ReadFile(filepath.Join(dir, out))
			require.NoError(t, err)
			assert.True(t, bytes.HasPrefix(after, before), "the file's own bytes stay in front")
			assert.Contains(t, run(t, dir, "qpdf", "--check", out), "No syntax or stream encoding errors found")
			alike(t, dir, name, out)
		})
	}
}

// Style sheets as they are shipped: the digits found are those that an independent parser sees in declarations.
func TestShippedStyleSheetsAreReadWhole(t *testing.T) {
	modules, err := filepath.Abs("../../ui/node_modules")
	require.NoError(t, err)
	if _, err := os.Stat(filepath.Join(modules, "postcss")); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("the packages of the interface are not installed")
		}
		t.Skip("the packages of the interface are not installed")
	}
	var sheets []string
	err = filepath.WalkDir(modules, func(path string, d os.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(path, ".css") && len(sheets) < 400 {
			if info, err := d.Info(); err == nil && info.Size() < 2<<20 {
				sheets = append(sheets, path)
			}
		}
		return nil
	})
	require.NoError(t, err)
	require.NotEmpty(t, sheets)
	list := filepath.Join(t.TempDir(), "list")
	require.NoError(t, os.WriteFile(list, []byte(strings.Join(sheets, "\n")), 0o644))
	script := `const postcss=require(process.argv[2]+'/postcss'),fs=require('fs');
for(const f of fs.readFileSync(process.argv[1],'utf8').split('\n')){const s=new Set();let ok=true;
try{postcss.parse(fs.readFileSync(f,'utf8')).walkDecls(d=>{const v=d.value.replace(/url\([^)]*\)|"[^"]*"|'[^']*'/g,'');for(const m of v.matchAll(/#([0-9a-f]{8}|[0-9a-f]{6}|[0-9a-f]{3,4})(?![0-9a-z_-])/gi)){let h=m[1].toUpperCase();if(h.length<5)h=[...h].map(c=>c+c).join('');if(h.length==8&&h.endsWith('00'))continue;s.add('#'+h.slice(0,6))}})}catch(e){ok=false}
console.log(ok?[...s].sort().join(' '):'-')}`
	out, err := exec.Command(program(t, "node"), "-e", script, list, modules).Output()
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSuffix(string(out), "\n"), "\n")
	require.Len(t, lines, len(sheets))
	compared := 0
	for i, path := range sheets {
		if lines[i] == "-" {
			continue
		}
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		if len(bytes.TrimSpace(data)) == 0 {
			continue
		}
		scan, err := kinds.Read(path, data)
		require.NoError(t, err, path)
		found := map[string]bool{}
		for _, u := range scan.Uses {
			if strings.HasPrefix(u.Value, "#") && !strings.Contains(u.Where, " > ") {
				found[u.RGB.Hex()] = true
			}
		}
		var got []string
		for hex := range found {
			got = append(got, hex)
		}
		sort.Strings(got)
		if assert.Equal(t, lines[i], strings.Join(got, " "), path) {
			compared++
		}
		same, err := scan.File.Apply(nil)
		require.NoError(t, err)
		require.Equal(t, data, same)
	}
	t.Logf("%d of %d style sheets compared", compared, len(sheets))
}

// A JPEG of four inks in a PDF is shown as another program shows it, whether or not the PDF turns its values over.
func TestAJPEGOfInksInAPDF(t *testing.T) {
	dir := t.TempDir()
	document := func(name, content, resources string, more ...string) {
		data := pdfdoc.Plain(append([]string{"<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
			"<</Type/Page/Parent 2 0 R/MediaBox[0 0 72 72]/Contents 4 0 R/Resources<<" + resources + ">>>>", stream("", content)}, more...)...)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), data, 0o644))
	}
	document("inks.pdf", "0.1 0.8 0.7 0 k 0 0 72 72 re f", "")
	run(t, dir, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=jpegcmyk", "-dJPEGQ=95", "-r72", "-o", "inks.jpg", "inks.pdf")
	jpeg, err := os.ReadFile(filepath.Join(dir, "inks.jpg"))
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, decode := range []string{"", "/Decode[1 0 1 0 1 0 1 0]"} {
		document("shown.pdf", "72 0 0 72 0 0 cm /I Do", "/XObject<</I 5 0 R>>", stream("/Type/XObject/Subtype/Image/Width 72/Height 72/BitsPerComponent 8/ColorSpace/DeviceCMYK/Filter/DCTDecode"+decode, string(jpeg)))
		run(t, dir, "pdftoppm", "-r", "72", "-png", "-singlefile", "shown.pdf", "shown")
		data, err := os.ReadFile(filepath.Join(dir, "shown.png"))
		require.NoError(t, err)
		img, _, err := image.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		r, g, b, _ := img.At(36, 36).RGBA()
		data, err = os.ReadFile(filepath.Join(dir, "shown.pdf"))
		require.NoError(t, err)
		scan, err := kinds.Read("shown.pdf", data)
		require.NoError(t, err)
		require.Len(t, scan.Uses, 1)
		other := color.RGB8{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}
		assert.Less(t, color.DeltaE00(scan.Uses[0].RGB.RGB().Lab(), other.RGB().Lab()), 20.0, "%s: %s, and another program shows %s", decode, scan.Uses[0].RGB.Hex(), other.Hex())
		seen[scan.Uses[0].RGB.Hex()] = true
	}
	assert.Len(t, seen, 2)
}

// What only a later frame or page has is found there, however another program packed it, and repainted there. Other programs read what comes
// out, and find all else as it was.
func TestLaterFramesAndPagesOfOtherProgramsAreRepainted(t *testing.T) {
	dir := t.TempDir()
	for i, c := range []string{"#E2572B", "#4E7D5B", "#F3B632"} { // the third has Lamp, one level off
		name := filepath.Join(dir, fmt.Sprintf("%d.png", i+1))
		require.NoError(t, os.WriteFile(name, encoded(t, "x.png", buoyed(hex(c))), 0o600))
		require.NoError(t, os.WriteFile(name[:len(name)-3]+"tif", encoded(t, "x.tif", buoyed(hex(c))), 0o600))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "meant.png"), encoded(t, "x.png", buoyed(hex("#F2B632"))), 0o600))
	ffmpeg := func(args ...string) { run(t, dir, "ffmpeg", append([]string{"-loglevel", "error", "-y"}, args...)...) }
	ffmpeg("-i", "%d.png", "-f", "apng", "moving.png")
	ffmpeg("-i", "%d.png", "-vf", "palettegen=reserve_transparent=0", "palette.png")
	ffmpeg("-i", "%d.png", "-i", "palette.png", "-lavfi", "paletteuse=dither=none", "-f", "apng", "few.png")
	run(t, dir, "img2webp", "-lossless", "1.png", "2.png", "3.png", "-o", "exact.webp")
	run(t, dir, "img2webp", "-lossy", "-q", "90", "1.png", "2.png", "3.png", "-o", "lossy.webp")
	run(t, dir, "tiffset", "-s", "305", "a scanner", "3.tif")
	run(t, dir, "tiffset", "-s", "282", "300", "3.tif")
	run(t, dir, "tiffcp", "1.tif", "2.tif", "3.tif", "pages.tif")
	run(t, dir, "tiffcp", "-B", "-c", "lzw", "1.tif", "2.tif", "3.tif", "motorola.tif")
	frame := func(name string) (at image.Point) {
		ffmpeg("-i", name, "-vf", "select=eq(n\\,2)", "-frames:v", "1", "third.png")
		return at
	}
	page := func(name string) (at image.Point) {
		run(t, dir, "tiffcp", name+",2", "third.tif")
		ffmpeg("-i", "third.tif", "third.png")
		return at
	}
	rules := audit.Rules{Colors: brand, Neutrals: true}
	for name, c := range map[string]struct {
		about, place string
		third        func(name string) (at image.Point) // writes the third frame or page as third.png, and says where that stands
	}{
		"moving.png": {"3 frames", "frame 3, ", frame},
		"few.png":    {"3 frames", "frame 3, ", frame},
		"exact.webp": {"3 frames", "frame 3, ", func(name string) (at image.Point) {
			run(t, dir, "webpmux", "-get", "frame", "3", name, "-o", "third.webp")
			run(t, dir, "dwebp", "third.webp", "-o", "third.png")
			for line := range strings.Lines(run(t, dir, "webpmux", "-info", name)) {
				if f := strings.Fields(line); len(f) > 6 && f[0] == "3:" {
					_, err := fmt.Sscan(f[4]+" "+f[5], &at.X, &at.Y)
					require.NoError(t, err)
				}
			}
			return at
		}},
		"lossy.webp":   {"3 frames", "", nil}, // a level is less than its compression
		"pages.tif":    {"3 pages", "page 3, ", page},
		"motorola.tif": {"3 pages", "page 3, ", page},
	} {
		t.Run(name, func(t *testing.T) {
			data := mustRead(t, filepath.Join(dir, name))
			scan, err := kinds.Read(name, data)
			require.NoError(t, err)
			assert.Contains(t, scan.About, c.about)
			assert.Empty(t, scan.Notes)
			assert.Empty(t, scan.Unread)
			report := audit.NewJudge(rules).Judge(name, scan)
			if strings.HasSuffix(name, ".tif") {
				hull := slices.IndexFunc(report.Colors, func(k audit.Judged) bool { return k.Hex == "#0E3A53" })
				assert.Len(t, report.Colors[hull].Places, 3, "on each page")
			}
			if c.place == "" {
				assert.Equal(t, 1.0, *report.Score, "%v", report.Colors)
				return
			}
			i := slices.IndexFunc(report.Colors, func(k audit.Judged) bool { return k.Hex == "#F3B632" })
			require.GreaterOrEqual(t, i, 0, "%v", report.Colors)
			assert.Equal(t, audit.Drifted, report.Colors[i].Verdict)
			assert.Contains(t, report.Colors[i].Places[0].Where, c.place)
			assert.Zero(t, report.Colors[i].Fixed)
			marked, err := pixels.Marked(data, hex("#F3B632"), 0)
			require.NoError(t, err)
			assert.NotEmpty(t, marked)
			r, err := repaint.File(name, data, rules, repaint.Usual(report), kinds.Options{})
			require.NoError(t, err)
			assert.Empty(t, r.Left)
			assert.Equal(t, 1.0, *r.After.Score, "%v", r.After.Colors)
			written := "repainted-" + name
			require.NoError(t, os.WriteFile(filepath.Join(dir, written), r.Data, 0o600))
			at := c.third(written)
			got, err := picture.Decode(mustRead(t, filepath.Join(dir, "third.png")))
			require.NoError(t, err)
			want := buoyed(hex("#F2B632"))
			for y := range got.Rect.Dy() {
				for x := range got.Rect.Dx() {
					is, was := got.NRGBAAt(x, y), want.NRGBAAt(at.X+x, at.Y+y)
					for _, d := range []int{int(is.R) - int(was.R), int(is.G) - int(was.G), int(is.B) - int(was.B)} {
						require.False(t, is.A > 0 && (d > 4 || d < -4), "%d, %d is %v instead of %v", at.X+x, at.Y+y, is, was) // at edges
					}
				}
			}
			assert.Equal(t, hex("#F2B632"), color.RGB8{R: got.NRGBAAt(90-at.X, 50-at.Y).R, G: got.NRGBAAt(90-at.X, 50-at.Y).G, B: got.NRGBAAt(90-at.X, 50-at.Y).B})
			if strings.HasSuffix(name, ".tif") {
				out, err := exec.Command("tiffinfo", filepath.Join(dir, written)).CombinedOutput()
				require.NoError(t, err, string(out))
				assert.Equal(t, 1, strings.Count(string(out), "Software: a scanner"), string(out))
				assert.Contains(t, string(out), "Resolution: 300,")
				assert.NotContains(t, string(out), "Warning", string(out))
			}
		})
	}
}

// Pictures of two tones that a distiller packs as fax machines do are judged by their tones.
func TestFaxPicturesInAPDFAreRead(t *testing.T) {
	dir := t.TempDir()
	const width, height = 4096, 1024
	var rows strings.Builder
	for y := range height {
		for x := range width / 8 {
			if (x/64+y/256)%4 == 0 {
				rows.WriteByte(0) // black, a quarter of all
			} else {
				rows.WriteByte(0xff)
			}
		}
	}
	data := pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 256 64]/Contents 4 0 R/Resources<</XObject<</I 5 0 R>>>>>>", stream("", "256 0 0 64 0 0 cm /I Do"),
		stream(fmt.Sprintf("/Type/XObject/Subtype/Image/Width %d/Height %d/BitsPerComponent 1/ColorSpace/DeviceGray", width, height), rows.String()))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "plain.pdf"), data, 0o600))
	run(t, dir, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=pdfwrite", "-dEncodeMonoImages=true", "-dMonoImageFilter=/CCITTFaxEncode", "-sOutputFile=fax.pdf", "plain.pdf")
	fax := mustRead(t, filepath.Join(dir, "fax.pdf"))
	require.Contains(t, string(fax), "CCITTFaxDecode")
	for name, data := range map[string][]byte{"plain": data, "fax": fax} {
		scan, err := kinds.Read("x.pdf", data)
		require.NoError(t, err)
		assert.Empty(t, scan.Unread, name)
		shares := map[string]string{}
		for _, u := range scan.Uses {
			shares[u.RGB.Hex()] = regexp.MustCompile(`[0-9.]+ %`).FindString(u.Where)
		}
		assert.Equal(t, map[string]string{"#000000": "25.0 %", "#FFFFFF": "75.0 %"}, shares, name)
	}
}
