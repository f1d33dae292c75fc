package picture_test

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	stdcolor "image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/bmp"
	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/tiff"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/picture"
)

var ferry = []string{"#0E3A53", "#E2572B", "#F2B632", "#4E7D5B", "#7A4E7E", "#8FC1D4", "#C9D1D3", "#3B444B", "#F7F5F0", "#D9482B"}

func hex(s string) color.RGB8 {
	c, err := color.FromHex(s)
	if err != nil {
		panic(err)
	}
	return c
}

func paint(c color.RGB8) *image.Uniform { return image.NewUniform(stdcolor.NRGBA{c.R, c.G, c.B, 255}) }

func canvas(w, h int, ground string) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.Draw(img, img.Rect, paint(hex(ground)), image.Point{}, draw.Src)
	return img
}

func fill(img *image.NRGBA, c string, x, y, w, h int) {
	draw.Draw(img, image.Rect(x, y, x+w, y+h), paint(hex(c)), image.Point{}, draw.Src)
}

func write(t testing.TB, img *image.NRGBA, text, c string, size float64, x, y int) {
	t.Helper()
	f, err := opentype.Parse(gobold.TTF)
	require.NoError(t, err)
	face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: size, DPI: 72})
	require.NoError(t, err)
	(&font.Drawer{Dst: img, Src: paint(hex(c)), Face: face, Dot: fixed.P(x, y)}).DrawString(text)
}

func pngOf(t testing.TB, img image.Image) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	return b.Bytes()
}

func jpegOf(t testing.TB, img image.Image, quality int) []byte {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: quality}))
	return b.Bytes()
}

func decode(t testing.TB, data []byte) *picture.Picture {
	t.Helper()
	p, err := picture.Decode(data)
	require.NoError(t, err)
	return p
}

// charts are palettes as people find them, each with its colors in reading order.
func charts(t testing.TB) map[string]struct {
	img  *image.NRGBA
	want []string
} {
	type chart = struct {
		img  *image.NRGBA
		want []string
	}
	out := map[string]chart{}

	stripes := canvas(1000, 420, "#FFFFFF")
	for i, c := range ferry[:5] {
		fill(stripes, c, 200*i, 0, 200, 420)
	}
	out["five stripes to the edge"] = chart{stripes, ferry[:5]}

	grid := canvas(900, 460, "#FFFFFF")
	for i, c := range ferry {
		fill(grid, c, 30+170*(i%5), 30+210*(i/5), 150, 190)
	}
	out["two rows with gaps"] = chart{grid, ferry}

	labeled := canvas(1100, 620, "#F2F2F2")
	for i, c := range ferry[:8] {
		x, y := 40+260*(i%4), 40+290*(i/4)
		fill(labeled, c, x, y, 230, 170)
		write(t, labeled, "Harbor color", "#222222", 22, x, y+205)
		write(t, labeled, c, "#222222", 22, x, y+235)
	}
	out["names under the patches"] = chart{labeled, ferry[:8]}

	lettered := canvas(1200, 300, "#111111")
	for i, c := range ferry[:6] {
		fill(lettered, c, 200*i, 0, 200, 300)
		ink := "#FFFFFF"
		if hex(c).Lab().L > 60 {
			ink = "#111111"
		}
		write(t, lettered, strings.TrimPrefix(c, "#"), ink, 40, 200*i+12, 60)
		write(t, lettered, "OBOE", ink, 56, 200*i+12, 250)
	}
	out["text on the patches"] = chart{lettered, ferry[:6]}

	list := canvas(700, 800, "#FFFFFF")
	for i, c := range ferry[:7] {
		fill(list, c, 30, 30+110*i, 160, 90)
		write(t, list, "Swatch "+c, "#333333", 32, 220, 90+110*i)
	}
	out["a list with values beside"] = chart{list, ferry[:7]}

	dots := canvas(1000, 240, "#EDEDED")
	for i, c := range ferry[:6] {
		for y := -70; y <= 70; y++ {
			x := int(math.Sqrt(float64(70*70 - y*y)))
			fill(dots, c, 100+160*i-x, 120+y, 2*x, 1)
		}
	}
	out["round patches"] = chart{dots, ferry[:6]}

	cards := canvas(1000, 380, "#B0B0B0")
	for i, c := range ferry[:5] {
		fill(cards, "#FFFFFF", 20+196*i, 20, 176, 340)
		fill(cards, c, 20+196*i, 20, 176, 240)
		write(t, cards, c, "#111111", 30, 30+196*i, 320)
	}
	out["cards with a white foot"] = chart{cards, ferry[:5]}
	return out
}

func TestPaletteChartsAreReadInOrderAndExact(t *testing.T) {
	for name, c := range charts(t) {
		t.Run(name, func(t *testing.T) {
			got := []string{}
			for _, p := range picture.Chart(decode(t, pngOf(t, c.img)).NRGBA) {
				got = append(got, p.Color.Hex())
			}
			assert.Equal(t, c.want, got)
		})
	}
}

func TestPaletteChartsSurviveScalingAndCompression(t *testing.T) {
	for name, c := range charts(t) {
		for _, scale := range []float64{1, 0.6, 1.7} {
			for _, quality := range []int{60, 85} {
				t.Run(fmt.Sprintf("%s at %g, quality %d", name, scale, quality), func(t *testing.T) {
					b := c.img.Rect
					scaled := image.NewNRGBA(image.Rect(0, 0, int(float64(b.Dx())*scale), int(float64(b.Dy())*scale)))
					draw.CatmullRom.Scale(scaled, scaled.Rect, c.img, b, draw.Src, nil)
					got := picture.Chart(decode(t, jpegOf(t, scaled, quality)).NRGBA)
					require.Len(t, got, len(c.want))
					for i, p := range got {
						de := color.DeltaE00(p.Color.Lab(), hex(c.want[i]).Lab())
						assert.LessOrEqual(t, de, 1.0, "%s became %s", c.want[i], p.Color.Hex())
					}
				})
			}
		}
	}
}

// photo is a picture with light falling off and grain, as no chart has.
func photo(w, h int) *image.NRGBA {
	r := rand.New(rand.NewPCG(1, 1))
	img := canvas(w, h, "#000000")
	for y := range h {
		for x := range w {
			sky := y < h/2+int(20*math.Sin(float64(x)/60))
			base := [3]float64{120, 170, 210}
			if !sky {
				base = [3]float64{60, 110, 70}
			}
			light := 1 - 0.5*math.Abs(float64(x)/float64(w)-0.4)
			for k := range 3 {
				img.Pix[y*img.Stride+4*x+k] = uint8(math.Min(255, math.Max(0, base[k]*light+8*r.NormFloat64())))
			}
		}
	}
	return img
}

func TestPhotosAndLogosAreNoCharts(t *testing.T) {
	assert.Empty(t, picture.Chart(photo(600, 400)))
	assert.Empty(t, picture.Chart(decode(t, jpegOf(t, photo(600, 400), 80)).NRGBA))
	logo := canvas(400, 400, "#FFFFFF")
	for y := -150; y <= 150; y++ {
		x := int(math.Sqrt(float64(150*150 - y*y)))
		fill(logo, "#0E3A53", 200-x, 200+y, 2*x, 1)
	}
	fill(logo, "#E2572B", 150, 120, 40, 160)
	assert.Empty(t, picture.Chart(logo))
	for _, size := range []int{1, 2, 40} {
		assert.Empty(t, picture.Chart(canvas(size, size, "#E2572B")))
	}
}

func TestColorsOfFlatArtwork(t *testing.T) {
	logo := canvas(500, 400, "#F7F5F0")
	fill(logo, "#0E3A53", 100, 80, 300, 120)
	fill(logo, "#E2572B", 100, 220, 40, 40) // 0.8 percent
	fill(logo, "#4E7D5B", 200, 220, 200, 80)
	write(t, logo, "Odelwick", "#F7F5F0", 60, 120, 160)
	got, err := picture.Colors(logo, 4)
	require.NoError(t, err)
	require.Len(t, got, 4)
	var names []string
	for _, a := range got {
		names = append(names, a.Color.Hex())
		c, err := picture.Sample(logo, a.At.X, a.At.Y, 1)
		require.NoError(t, err)
		assert.Equal(t, a.Color, c, "the point shows the color")
	}
	assert.Equal(t, []string{"#F7F5F0", "#0E3A53", "#4E7D5B", "#E2572B"}, names)
	assert.InDelta(t, 0.08, got[2].Share, 0.005)
	assert.InDelta(t, 0.008, got[3].Share, 0.005)

	again, err := picture.Colors(logo, 4)
	require.NoError(t, err)
	assert.Equal(t, got, again, "the same picture gives the same colors")
}

func TestColorsUnderNoiseAndCompression(t *testing.T) {
	img := canvas(600, 400, "#FFFFFF")
	for i, c := range ferry[:6] {
		fill(img, c, 200*(i%3), 200*(i/3), 200, 200)
	}
	r := rand.New(rand.NewPCG(3, 4))
	for i := range img.Pix {
		if i%4 != 3 {
			img.Pix[i] = uint8(math.Min(255, math.Max(0, float64(img.Pix[i])+3*r.NormFloat64())))
		}
	}
	for name, p := range map[string]*image.NRGBA{"grain": img, "JPEG": decode(t, jpegOf(t, img, 60)).NRGBA} {
		got, err := picture.Colors(p, 6)
		require.NoError(t, err)
		require.Len(t, got, 6, name)
		sum := 0.0
		for _, a := range got {
			least := math.Inf(1)
			for _, c := range ferry[:6] {
				least = math.Min(least, color.DeltaE00(a.Color.Lab(), hex(c).Lab()))
			}
			assert.Less(t, least, 2.0, "%s: %s", name, a.Color.Hex())
			assert.InDelta(t, 1./6, a.Share, 0.01, name)
			sum += a.Share
		}
		assert.InDelta(t, 1, sum, 1e-9)
	}
}

func TestColorsMergesWhatNobodyTellsApart(t *testing.T) {
	img := canvas(100, 100, "#E2572B")
	fill(img, "#E1572C", 0, 0, 100, 40)
	got, err := picture.Colors(img, 5)
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, "#E2572B", got[0].Color.Hex())
	got, err = picture.Colors(canvas(1, 1, "#8FC1D4"), 6)
	require.NoError(t, err)
	assert.Equal(t, []picture.Area{{Color: hex("#8FC1D4"), Share: 1}}, got)
}

func TestTransparencyDoesNotCount(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 40, 40))
	_, err := picture.Colors(img, 5)
	assert.ErrorContains(t, err, "transparent all over")
	_, err = picture.Sample(img, 3, 3, 5)
	assert.ErrorContains(t, err, "transparent at 3, 3")
	assert.Empty(t, picture.Chart(img))
	fill(img, "#4E7D5B", 10, 10, 5, 5)
	got, err := picture.Colors(decode(t, pngOf(t, img)).NRGBA, 5)
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, "#4E7D5B", got[0].Color.Hex())
	assert.Equal(t, 1.0, got[0].Share)
	for _, n := range []int{0, -1, 65} {
		_, err := picture.Colors(img, n)
		assert.Error(t, err)
	}
}

func TestSamplingIsTheMedianOfTheWindow(t *testing.T) {
	img := canvas(60, 60, "#4E7D5B")
	fill(img, "#FFFFFF", 30, 30, 1, 1)
	for _, window := range picture.Windows[1:] {
		c, err := picture.Sample(img, 30, 30, window)
		require.NoError(t, err)
		assert.Equal(t, "#4E7D5B", c.Hex(), "a speck does not decide over %d pixels", window)
	}
	c, err := picture.Sample(img, 30, 30, 1)
	require.NoError(t, err)
	assert.Equal(t, "#FFFFFF", c.Hex())
	for _, corner := range []image.Point{{0, 0}, {59, 0}, {0, 59}, {59, 59}} {
		_, err := picture.Sample(img, corner.X, corner.Y, 31)
		assert.NoError(t, err)
	}
	for _, bad := range [][3]int{{60, 0, 1}, {-1, 0, 1}, {0, 60, 1}, {5, 5, 2}, {5, 5, 0}, {5, 5, 33}} {
		_, err := picture.Sample(img, bad[0], bad[1], bad[2])
		assert.Error(t, err, "%v", bad)
	}
	// Grain of 6 levels: the median of 31 x 31 is within a level.
	r := rand.New(rand.NewPCG(5, 5))
	for i := range img.Pix {
		if i%4 != 3 {
			img.Pix[i] = uint8(float64(img.Pix[i])*0 + float64([]uint8{0x4E, 0x7D, 0x5B}[i%4]) + 6*r.NormFloat64())
		}
	}
	c, err = picture.Sample(img, 30, 30, 31)
	require.NoError(t, err)
	assert.InDelta(t, 0x4E, int(c.R), 1)
	assert.InDelta(t, 0x7D, int(c.G), 1)
	assert.InDelta(t, 0x5B, int(c.B), 1)
}

// corners is a picture whose four corners differ, so that turning it shows.
func corners() *image.NRGBA {
	img := canvas(48, 32, "#FFFFFF")
	for i, c := range ferry[:4] {
		fill(img, c, 32*(i%2), 16*(i/2), 16, 16)
	}
	return img
}

func TestEveryFormatIsRead(t *testing.T) {
	img := corners()
	var g, tf, bm bytes.Buffer
	require.NoError(t, gif.Encode(&g, img, &gif.Options{NumColors: 16, Quantizer: flat{}}))
	require.NoError(t, tiff.Encode(&tf, img, &tiff.Options{Compression: tiff.Deflate}))
	require.NoError(t, bmp.Encode(&bm, img))
	for name, data := range map[string][]byte{"PNG": pngOf(t, img), "GIF": g.Bytes(), "TIFF": tf.Bytes(), "BMP": bm.Bytes()} {
		p := decode(t, data)
		assert.Equal(t, name, p.Format)
		assert.Equal(t, img.Pix, p.Pix, name)
		kind, ok := picture.Is(data)
		assert.True(t, ok)
		assert.Equal(t, name, kind)
	}
	file := filepath.Join(t.TempDir(), "a.png")
	require.NoError(t, os.WriteFile(file, pngOf(t, img), 0o600))
	webp := file + ".webp"
	run(t, "webp", "cwebp", "-quiet", "-lossless", file, "-o", webp)
	data, err := os.ReadFile(webp)
	require.NoError(t, err)
	assert.Equal(t, img.Pix, decode(t, data).Pix, "WebP")
}

// flat is a quantizer that keeps the colors of corners.
type flat struct{}

func (flat) Quantize(p stdcolor.Palette, _ image.Image) stdcolor.Palette {
	for _, c := range append([]string{"#FFFFFF"}, ferry[:4]...) {
		v := hex(c)
		p = append(p, stdcolor.RGBA{v.R, v.G, v.B, 255})
	}
	return p
}

// run runs an independent program that the tests need.
func run(t testing.TB, debian, name string, args ...string) string {
	t.Helper()
	if _, err := exec.LookPath(name); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("%s must be installed in CI (Debian package %s)", name, debian)
		}
		t.Skipf("%s of Debian's %s is not installed", name, debian)
	}
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

// exif is the smallest EXIF block with an orientation.
func exif(orientation int) []byte {
	return append([]byte("Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01"), 0, byte(orientation), 0, 0, 0, 0, 0, 0)
}

// segment puts a JPEG segment behind the start of the image.
func segment(data []byte, marker byte, body []byte) []byte {
	head := binary.BigEndian.AppendUint16([]byte{0xff, marker}, uint16(len(body)+2))
	return bytes.Join([][]byte{data[:2], head, body, data[2:]}, nil)
}

func TestOrientationIsApplied(t *testing.T) {
	plain := jpegOf(t, corners(), 95)
	// Which of the four corners of the stored picture comes to stand top left, top right, bottom left, bottom right.
	for orientation, want := range map[int][4]int{1: {0, 1, 2, 3}, 2: {1, 0, 3, 2}, 3: {3, 2, 1, 0}, 4: {2, 3, 0, 1},
		5: {0, 2, 1, 3}, 6: {2, 0, 3, 1}, 7: {3, 1, 2, 0}, 8: {1, 3, 0, 2}, 9: {0, 1, 2, 3}} {
		p := decode(t, segment(plain, 0xe1, exif(orientation)))
		w, h := p.Rect.Dx(), p.Rect.Dy()
		for i, at := range []image.Point{{5, 5}, {w - 6, 5}, {5, h - 6}, {w - 6, h - 6}} {
			c, err := picture.Sample(p.NRGBA, at.X, at.Y, 5)
			require.NoError(t, err)
			assert.Less(t, color.DeltaE00(c.Lab(), hex(ferry[want[i]]).Lab()), 4.0, "orientation %d, corner %d", orientation, i)
		}
	}
}

// tagged puts an ICC profile into a PNG.
func tagged(t testing.TB, data, profile []byte) []byte {
	var packed bytes.Buffer
	packed.WriteString("iCCP" + "profile\x00\x00")
	z := zlib.NewWriter(&packed)
	_, err := z.Write(profile)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	var chunk bytes.Buffer
	require.NoError(t, binary.Write(&chunk, binary.BigEndian, uint32(packed.Len()-4)))
	chunk.Write(packed.Bytes())
	require.NoError(t, binary.Write(&chunk, binary.BigEndian, crc32.ChecksumIEEE(packed.Bytes())))
	return bytes.Join([][]byte{data[:33], chunk.Bytes(), data[33:]}, nil)
}

const icc = "/usr/share/color/icc/"

func system(t testing.TB, name string) []byte {
	data, err := os.ReadFile(icc + name)
	if err != nil && os.Getenv("CI") == "" {
		t.Skip("Debian's icc-profiles-free is not installed")
	}
	require.NoError(t, err)
	return data
}

// A picture tagged with a wider space shows the same colors as lcms2 makes of it.
func TestATaggedPictureDoesNotShift(t *testing.T) {
	profile := system(t, "compatibleWithAdobeRGB1998.icc")
	img := image.NewNRGBA(image.Rect(0, 0, 16, 16))
	r := rand.New(rand.NewPCG(8, 8))
	var lines strings.Builder
	for i := range 256 {
		for k := range 3 {
			v := uint8(40 + r.IntN(170)) // inside both
			img.Pix[4*i+k] = v
			fmt.Fprintln(&lines, v)
		}
		img.Pix[4*i+3] = 255
	}
	p := decode(t, tagged(t, pngOf(t, img), profile))
	assert.Contains(t, p.Profile, "Adobe")
	run(t, "liblcms2-utils", "which", "transicc")
	cmd := exec.Command("transicc", "-n", "-c0", "-t1", "-i"+icc+"compatibleWithAdobeRGB1998.icc", "-o*sRGB")
	cmd.Stdin = strings.NewReader(lines.String())
	out, err := cmd.Output()
	require.NoError(t, err)
	var want [3]float64
	at := bytes.NewReader(out)
	for i := range 256 {
		_, err := fmt.Fscan(at, &want[0], &want[1], &want[2])
		require.NoError(t, err)
		for k, v := range want {
			if v > 1 && v < 254 { // what lies outside is clipped by both
				require.InDelta(t, v, float64(p.Pix[4*i+k]), 1, "pixel %d", i)
			}
		}
	}
	// A profile of sRGB itself must not move a single value.
	same := decode(t, tagged(t, pngOf(t, img), system(t, "sRGB.icc")))
	assert.Empty(t, same.Profile)
	assert.Equal(t, img.Pix, same.Pix)
	// A damaged profile costs the profile, not the picture.
	broken := decode(t, tagged(t, pngOf(t, img), profile[:200]))
	assert.Contains(t, broken.Note, "could not be read")
	assert.Equal(t, img.Pix, broken.Pix)
	for _, cut := range []int{20, 34, 60} {
		data := tagged(t, pngOf(t, img), profile)
		_, err := picture.Decode(data[:cut])
		assert.Error(t, err)
	}
}

// A CMYK JPEG that lcms2 made with the profile inside comes back as what was printed.
func TestPicturesInInk(t *testing.T) {
	dir := t.TempDir()
	img := canvas(64, 48, "#8FC1D4")
	fill(img, "#4E7D5B", 0, 0, 32, 48)
	rgb, cmyk := filepath.Join(dir, "a.jpg"), filepath.Join(dir, "b.jpg")
	require.NoError(t, os.WriteFile(rgb, jpegOf(t, img, 98), 0o600))
	run(t, "liblcms2-utils", "jpgicc", "-q98", "-e", "-t1", "-o../press/profiles/coated.icc", rgb, cmyk)
	data, err := os.ReadFile(cmyk)
	require.NoError(t, err)
	p := decode(t, data)
	assert.NotEmpty(t, p.Profile)
	for x, want := range map[int]string{10: "#4E7D5B", 50: "#8FC1D4"} {
		c, err := picture.Sample(p.NRGBA, x, 24, 11)
		require.NoError(t, err)
		assert.Less(t, color.DeltaE00(c.Lab(), hex(want).Lab()), 3.0, "%s became %s", want, c.Hex())
	}
}

func TestWhatIsNoPictureIsRefusedInASentence(t *testing.T) {
	whole := pngOf(t, corners())
	huge := bytes.Clone(whole)
	binary.BigEndian.PutUint32(huge[16:], 100_000)
	binary.BigEndian.PutUint32(huge[20:], 100_000)
	binary.BigEndian.PutUint32(huge[29:], crc32.ChecksumIEEE(huge[12:29]))
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"nothing":           {nil, "empty"},
		"text":              {[]byte("hello, I am a picture"), "not a PNG"},
		"cut off":           {whole[:len(whole)-20], "it is cut off"},
		"only a head":       {whole[:20], "it is cut off"},
		"100,000 x 100,000": {huge, "100000 x 100000 pixels"},
	} {
		_, err := picture.Decode(c.data)
		assert.ErrorContains(t, err, c.says, name)
	}
	// 7,000 x 7,000 with 16 bits a channel would take more memory than there may be.
	binary.BigEndian.PutUint32(huge[16:], 7000)
	binary.BigEndian.PutUint32(huge[20:], 7000)
	huge[24] = 16
	binary.BigEndian.PutUint32(huge[29:], crc32.ChecksumIEEE(huge[12:29]))
	_, err := picture.Decode(huge)
	assert.ErrorContains(t, err, "7000 x 7000 pixels, more than can be read")
	// A GIF that declares the largest size and holds one byte of data.
	small := []byte("GIF89a\xff\xff\xff\xff\x80\x00\x00\x00\x00\x00\xff\xff\xff,\x00\x00\x00\x00\xff\xff\xff\xff\x00\x02\x01\x00\x00;")
	_, err = picture.Decode(small)
	assert.ErrorContains(t, err, "65535 x 65535")
}

func FuzzDecode(f *testing.F) {
	img := corners()
	f.Add(pngOf(f, img))
	f.Add(segment(jpegOf(f, img, 50), 0xe1, exif(6)))
	var b bytes.Buffer
	require.NoError(f, tiff.Encode(&b, img, nil))
	f.Add(bytes.Clone(b.Bytes()))
	b.Reset()
	require.NoError(f, bmp.Encode(&b, img))
	f.Add(bytes.Clone(b.Bytes()))
	b.Reset()
	require.NoError(f, gif.Encode(&b, img, nil))
	f.Add(bytes.Clone(b.Bytes()))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		begin := time.Now()
		p, err := picture.Decode(data)
		if took := time.Since(begin); took > 10*time.Second {
			t.Fatalf("reading %d bytes took %v", len(data), took)
		}
		if err != nil || p.Rect.Dx()*p.Rect.Dy() > 1<<20 {
			return
		}
		if areas, err := picture.Colors(p.NRGBA, 4); err == nil {
			sum := 0.0
			for _, a := range areas {
				sum += a.Share
				if !a.At.In(p.Rect) {
					t.Fatal("a point outside the picture")
				}
			}
			if math.Abs(sum-1) > 1e-6 {
				t.Fatalf("the shares add up to %v", sum)
			}
		}
		for _, patch := range picture.Chart(p.NRGBA) {
			if !patch.Box.In(p.Rect) {
				t.Fatal("a patch outside the picture")
			}
		}
	})
}

// chunked puts chunks behind the header of a PNG.
func chunked(data []byte, chunks ...[]byte) []byte {
	out := append([]byte(nil), data[:33]...)
	for _, c := range chunks {
		out = append(out, c...)
	}
	return append(out, data[33:]...)
}

func chunk(kind string, values ...uint32) []byte {
	body := []byte(kind)
	for _, v := range values {
		body = binary.BigEndian.AppendUint32(body, v)
	}
	out := binary.BigEndian.AppendUint32(nil, uint32(4*len(values)))
	return binary.BigEndian.AppendUint32(append(out, body...), crc32.ChecksumIEEE(body))
}

// points is the chunk that gives the color space of a PNG by code points.
func points(primaries, transfer uint32) []byte { return chunk("cICP", primaries<<24|transfer<<16|1) }

func TestGammaAndPrimariesOfAPNGCount(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 4, 4))
	for i := 0; i < len(img.Pix); i += 4 {
		copy(img.Pix[i:], []uint8{128, 64, 200, 255})
	}
	var plain bytes.Buffer
	require.NoError(t, png.Encode(&plain, img))
	srgb := chunk("cHRM", 31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000)
	p3 := chunk("cHRM", 31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000)
	linear := func(v float64) float64 { return math.Round(255 * color.Linear{R: v / 255}.RGB().R) }
	dark := func(v float64) float64 { return math.Round(255 * color.Linear{R: math.Pow(v/255, 2.2)}.RGB().R) }
	wide, err := color.Parse("color(display-p3 0.50196 0.25098 0.78431)")
	require.NoError(t, err)
	video, err := color.Parse("color(rec2020 0.50196 0.25098 0.78431)")
	require.NoError(t, err)
	for name, c := range map[string]struct {
		data []byte
		want [3]float64
		note string
	}{
		"nothing":              {plain.Bytes(), [3]float64{128, 64, 200}, ""},
		"gamma of sRGB":        {chunked(plain.Bytes(), chunk("gAMA", 45455), srgb), [3]float64{128, 64, 200}, ""},
		"linear light":         {chunked(plain.Bytes(), chunk("gAMA", 100000)), [3]float64{linear(128), linear(64), linear(200)}, "its gamma of 1/1,"},
		"wide primaries":       {chunked(plain.Bytes(), chunk("gAMA", 45455), p3), [3]float64{255 * wide.RGB.R, 255 * wide.RGB.G, 255 * wide.RGB.B}, "its own primaries"},
		"code points of P3":    {chunked(plain.Bytes(), points(12, 13)), [3]float64{255 * wide.RGB.R, 255 * wide.RGB.G, 255 * wide.RGB.B}, "its own primaries"},
		"before other chunks":  {chunked(plain.Bytes(), chunk("gAMA", 100000), p3, points(1, 13)), [3]float64{128, 64, 200}, ""},
		"code points of light": {chunked(plain.Bytes(), points(1, 8)), [3]float64{linear(128), linear(64), linear(200)}, "its gamma of 1/1,"},
		"code points of 2.2":   {chunked(plain.Bytes(), points(1, 4)), [3]float64{dark(128), dark(64), dark(200)}, "its gamma of 1/2.2"},
		"code points of HDR":   {chunked(plain.Bytes(), points(9, 16)), [3]float64{128, 64, 200}, "code points 9 and 16 of video (PQ, for screens of a high range), so that its colors on a usual screen cannot be told"},
		"code points of video": {chunked(plain.Bytes(), points(9, 14)), [3]float64{255 * video.RGB.R, 255 * video.RGB.Clip().G, 255 * video.RGB.B}, "the curve of BT.709 and BT.2020 and its own primaries"},
		"the sRGB chunk holds": {chunked(plain.Bytes(), append([]byte{0, 0, 0, 1, 's', 'R', 'G', 'B', 0}, 0xae, 0xce, 0x1c, 0xe9), chunk("gAMA", 100000)), [3]float64{128, 64, 200}, ""},
		"senseless":            {chunked(plain.Bytes(), chunk("gAMA", 0), chunk("cHRM", 1, 1, 1, 1, 1, 1, 1, 1)), [3]float64{128, 64, 200}, ""},
	} {
		p := decode(t, c.data)
		for k, want := range c.want {
			assert.InDelta(t, want, float64(p.Pix[k]), 1, "%s, channel %d", name, k)
		}
		assert.Contains(t, p.Note, c.note, name)
		assert.Equal(t, c.note == "", p.Note == "", name)
	}
}

// What a format may have and its reader does not know is no damage.
func TestWhatIsNotReadIsNotCalledDamaged(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, tiff.Encode(&b, corners(), nil))
	data := b.Bytes()
	tag := bytes.Index(data, []byte{0x06, 0x01, 0x03, 0x00}) // PhotometricInterpretation, a SHORT
	require.Positive(t, tag)
	data[tag+8] = 10 // none that there is
	_, err := picture.Decode(data)
	require.ErrorContains(t, err, "the TIFF picture is written in a way that is not read (")
	_, err = picture.Decode(data[:len(data)/2])
	require.ErrorContains(t, err, "damaged")
}

// A TIFF of CIELAB is seen as its values say, with signs or without.
func TestATIFFOfCIELAB(t *testing.T) {
	for kind, sides := range map[byte][2]uint8{8: {uint8(256 - 40), 30}, 9: {128 - 40, 128 + 30}} {
		img := image.NewRGBA(image.Rect(0, 0, 3, 2))
		for i := 0; i < len(img.Pix); i += 4 {
			copy(img.Pix[i:], []uint8{153, sides[0], sides[1], 255})
		}
		var b bytes.Buffer
		require.NoError(t, tiff.Encode(&b, img, nil))
		data := b.Bytes()
		at := bytes.Index(data, []byte{0x06, 0x01, 0x03, 0x00})
		require.Positive(t, at)
		data[at+8] = kind
		p := decode(t, data)
		want := color.Lab{L: 60, A: -40, B: 30}.RGB().RGB8()
		assert.Equal(t, []uint8{want.R, want.G, want.B}, p.Pix[:3])
		assert.Contains(t, p.Note, "CIELAB")
		own, err := picture.DecodeOwn(data)
		require.NoError(t, err)
		seen, lab := own.Seen()
		assert.InDelta(t, -40, lab([]float64{0.6, float64(seen.Pix[1]) / 255, float64(seen.Pix[2]) / 255}).A, 1e-9)
	}
}
