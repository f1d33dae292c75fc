package proof_test

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"encoding/json"
	"hash/crc32"
	"image"
	imagecolor "image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/hhrutter/tiff"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/icc"
	"huekeep/core/picture"
	"huekeep/core/press"
	"huekeep/core/proof"
)

func anything(w, h int) *image.NRGBA {
	r := rand.New(rand.NewPCG(4, 4))
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for i := range img.Pix {
		img.Pix[i] = uint8(r.IntN(256))
		if i%4 == 3 {
			img.Pix[i] = 255
		}
	}
	return img
}

func at(img *image.NRGBA, i int) color.RGB8 {
	return color.RGB8{R: img.Pix[i], G: img.Pix[i+1], B: img.Pix[i+2]}
}

// The grids may differ from the exact computation by what nobody sees in a picture.
func TestAPictureFollowsTheExactComputation(t *testing.T) {
	img := anything(60, 50)
	for _, s := range press.Shipped {
		for _, paper := range []bool{false, true} {
			c, err := press.Get(s.Name)
			require.NoError(t, err)
			p := proof.New(c, paper)
			inks := p.Inks(img)
			got := p.Screen(inks)
			sum, worst, n := 0.0, 0.0, 0
			for i := 0; i < len(img.Pix); i += 4 {
				b := c.Unlimited(at(img, i).Lab())
				lab := c.Lab(b)
				if paper {
					lab = c.OnPaperLab(b)
				}
				de := color.DeltaE00(lab.RGB().Clip().RGB8().Lab(), at(got, i).Lab())
				sum, worst, n = sum+de, math.Max(worst, de), n+1
			}
			t.Logf("%s, paper %v: mean %.3f, worst %.2f", s.Name, paper, sum/float64(n), worst)
			assert.Less(t, sum/float64(n), 0.5)
			assert.Less(t, worst, 4.0)
		}
	}
}

func TestPaperIsWhiteOrItself(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 2, 1)) // all transparent: the paper shows
	newsprint, err := press.Get("newsprint")
	require.NoError(t, err)
	p := proof.New(newsprint, false)
	inks := p.Inks(img)
	assert.Equal(t, make([]uint8, 8), inks.Pix, "paper takes no ink")
	assert.Equal(t, color.RGB8{R: 255, G: 255, B: 255}, at(p.Screen(inks), 0))
	paper := at(proof.New(newsprint, true).Screen(inks), 0)
	assert.InDelta(t, newsprint.OnPaperLab(color.CMYK{}).L, paper.Lab().L, 0.5)
	assert.Less(t, paper.Lab().L, 90.0, "newsprint is gray beside a screen")
}

func TestMeasureCountsWhatThePressCannotGive(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 100, 10))
	for i := 0; i < len(img.Pix); i += 4 {
		switch x := i / 4 % 100; {
		case x < 25: // a green of the screen, which no press prints
			copy(img.Pix[i:], []uint8{0, 255, 0, 255})
		case x < 60:
			copy(img.Pix[i:], []uint8{0, 0, 0, 255})
		default:
			copy(img.Pix[i:], []uint8{200, 196, 190, 255})
		}
	}
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(t, err)
		p := proof.New(c, false)
		inks := p.Inks(img)
		r := p.Measure(img, inks, 200)
		beyond := 0.25
		if c.Beyond(color.Lab{}) > press.GamutDE { // full black
			beyond = 0.6
		}
		assert.InDelta(t, beyond, r.OutOfGamut, 1e-9, s.Name)
		assert.InDelta(t, 0.35, r.OverInk, 1e-9, s.Name)
		b := c.Unlimited(color.Lab{})
		assert.InDelta(t, b.C+b.M+b.Y+b.K, r.Heaviest, 1, s.Name)
		assert.Equal(t, [2]int{25, 0}, [2]int{r.X, r.Y}, s.Name)
		assert.Zero(t, p.Measure(img, inks, 400).OverInk)
	}
}

func TestEveryIntentSeparates(t *testing.T) {
	img := anything(20, 20)
	var all [][]uint8
	for i := range icc.Intents {
		c, err := press.Coated().With(icc.Rendering{Intent: icc.Intent(i)})
		require.NoError(t, err)
		all = append(all, proof.New(c, false).Inks(img).Pix)
	}
	assert.NotEqual(t, all[0], all[1])
	assert.NotEqual(t, all[1], all[3])
}

func needs(t *testing.T, program string) {
	t.Helper()
	if _, err := exec.LookPath(program); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("%s must be installed in CI", program)
		}
		t.Skipf("%s is not installed: not compared with it", program)
	}
}

// The TIFF is read by the programs that a printer has, and lcms2 sees in it what we do.
func TestTheTIFFIsReadByOthers(t *testing.T) {
	img := anything(300, 257)
	coated := press.Coated()
	p := proof.New(coated, false)
	inks := p.Inks(img)
	data, err := proof.WriteTIFF(inks, coated.Profile())
	require.NoError(t, err)
	back, err := tiff.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(t, inks.Pix, back.(*image.CMYK).Pix)
	read, err := picture.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, coated.Description(), read.Profile, "the profile is in the file")

	needs(t, "tificc")
	needs(t, "tiffinfo")
	dir := t.TempDir()
	in, out := filepath.Join(dir, "inks.tif"), filepath.Join(dir, "screen.tif")
	require.NoError(t, os.WriteFile(in, data, 0o600))
	said, err := exec.Command("tiffinfo", in).CombinedOutput()
	require.NoError(t, err, string(said))
	assert.NotContains(t, string(said), "Warning")
	assert.Contains(t, string(said), "Photometric Interpretation: separated")
	assert.Contains(t, string(said), "ICC Profile: <present>")
	said, err = exec.Command("tificc", "-e", "-t1", "-o*sRGB", in, out).CombinedOutput()
	require.NoError(t, err, string(said))
	seen, err := os.ReadFile(out)
	require.NoError(t, err)
	theirs, err := tiff.Decode(bytes.NewReader(seen))
	require.NoError(t, err)
	ours := p.Screen(inks)
	sum, n := 0.0, 0
	for y := range 257 {
		for x := range 300 {
			r, g, b, _ := theirs.At(x, y).RGBA()
			sum += color.DeltaE00(at(ours, ours.PixOffset(x, y)).Lab(), color.RGB8{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}.Lab())
			n++
		}
	}
	t.Logf("mean %.3f from lcms2", sum/float64(n))
	assert.Less(t, sum/float64(n), 0.3)
}

// A wide picture goes from its own profile to the press, as with lcms2, and not through sRGB, which has not all of its colors.
func TestAWidePictureIsPrintedFromItsOwnProfile(t *testing.T) {
	needs(t, "tificc")
	coated := press.Coated()
	for name, profile := range map[string]string{
		"A98": "/usr/share/color/icc/compatibleWithAdobeRGB1998.icc", "ROMM": "/usr/share/color/icc/ghostscript/rommrgb.icc",
	} {
		icc, err := os.ReadFile(profile)
		require.NoError(t, err)
		img := image.NewRGBA(image.Rect(0, 0, 120, 120))
		copy(img.Pix, anything(120, 120).Pix)
		for y := range 60 { // what people have in pictures is mostly no noise
			for x := range 120 {
				img.SetRGBA(x, y, imagecolor.RGBA{R: uint8(2 * x), G: uint8(160 - y), B: uint8(4 * y), A: 255})
			}
		}
		img.SetRGBA(0, 0, imagecolor.RGBA{G: 160, B: 150, A: 255})
		dir := t.TempDir()
		in, out := filepath.Join(dir, "in.tif"), filepath.Join(dir, "out.tif")
		require.NoError(t, os.WriteFile(in, threeChannels(img), 0o600))
		said, err := exec.Command("tificc", "-t1", "-c0", "-i"+profile, "-o../press/profiles/coated.icc", in, out).CombinedOutput()
		require.NoError(t, err, string(said))
		data, err := os.ReadFile(out)
		require.NoError(t, err)
		decoded, err := tiff.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		theirs := decoded.(*image.CMYK)

		var file bytes.Buffer // the same as PNG with the profile in it
		require.NoError(t, png.Encode(&file, img))
		p, err := picture.DecodeOwn(withProfile(file.Bytes(), icc))
		require.NoError(t, err)
		require.NotNil(t, p.Own, name)
		seen, lab := p.Seen()
		wide := proof.Of(coated, false, lab)
		ours := wide.Inks(seen)
		mean := func(inks *image.CMYK) float64 {
			sum := 0.0
			look := func(pix []uint8) color.Lab {
				return coated.Lab(color.CMYK{C: float64(pix[0]) / 2.55, M: float64(pix[1]) / 2.55, Y: float64(pix[2]) / 2.55, K: float64(pix[3]) / 2.55})
			}
			for i := 0; i < len(inks.Pix); i += 4 {
				sum += color.DeltaE00(look(inks.Pix[i:]), look(theirs.Pix[i:]))
			}
			return sum / float64(len(inks.Pix)/4)
		}
		through := mean(proof.New(coated, false).Inks(p.NRGBA))
		t.Logf("%s: mean %.3f from lcms2; %.3f through sRGB", name, mean(ours), through)
		assert.Less(t, mean(ours), 0.3, name)
		assert.Greater(t, through, 1.0, name)
		assert.Positive(t, wide.Measure(seen, ours, 300).OutOfGamut)
	}
}

// threeChannels is a TIFF of red, green and blue (TIFF 6.0, 6), without the fourth channel that writers add.
func threeChannels(img *image.RGBA) []byte {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	le := binary.LittleEndian
	const entries = 9
	pixels := uint32(8 + 2 + 12*entries + 4 + 6)
	out := append([]byte("II*\x00"), 8, 0, 0, 0, entries, 0)
	entry := func(tag, kind uint16, count, value uint32) {
		out = le.AppendUint32(le.AppendUint32(le.AppendUint16(le.AppendUint16(out, tag), kind), count), value)
	}
	entry(256, 4, 1, uint32(w))
	entry(257, 4, 1, uint32(h))
	entry(258, 3, 3, pixels-6)
	entry(259, 3, 1, 1)
	entry(262, 3, 1, 2)
	entry(273, 4, 1, pixels)
	entry(277, 3, 1, 3)
	entry(278, 4, 1, uint32(h))
	entry(279, 4, 1, uint32(3*w*h))
	out = append(out, 0, 0, 0, 0, 8, 0, 8, 0, 8, 0)
	for i := 0; i < len(img.Pix); i += 4 {
		out = append(out, img.Pix[i:i+3]...)
	}
	return out
}

// withProfile puts a profile into a PNG.
func withProfile(file, profile []byte) []byte {
	body := []byte("iCCPown\x00\x00")
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	_, _ = z.Write(profile)
	_ = z.Close()
	body = append(body, packed.Bytes()...)
	chunk := binary.BigEndian.AppendUint32(nil, uint32(len(body)-4))
	chunk = binary.BigEndian.AppendUint32(append(chunk, body...), crc32.ChecksumIEEE(body))
	const header = 8 + 25
	return bytes.Join([][]byte{file[:header], chunk, file[header:]}, nil)
}

func TestThePNGCarriesSRGB(t *testing.T) {
	img := anything(40, 30)
	data, err := proof.WritePNG(img)
	require.NoError(t, err)
	plain, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(t, img.Bounds(), plain.Bounds())
	read, err := picture.Decode(data)
	require.NoError(t, err)
	for i := range img.Pix {
		require.InDelta(t, img.Pix[i], read.Pix[i], 1, "the profile changes nothing")
	}
	assert.Empty(t, read.Note)
	name, err := json.Marshal(read.Profile)
	require.NoError(t, err)
	assert.Contains(t, []string{`""`, `"sRGB"`}, string(name))
}

// The look in one step is that of the inks, and both are near to what is computed exactly.
func TestTheQuickLookIsThatOfTheInks(t *testing.T) {
	img := anything(50, 40)
	p := proof.New(press.Coated(), true)
	quick, slow := p.Look(img), p.Screen(p.Inks(img))
	for i := 0; i < len(img.Pix); i += 4 {
		require.Less(t, color.DeltaE00(at(quick, i).Lab(), at(slow, i).Lab()), 3.0, at(img, i).Hex())
	}
	assert.Equal(t, img.Pix, anything(50, 40).Pix, "the picture stays")
}

func TestReducedPixelsAreMeans(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 4, 2))
	copy(img.Pix, []uint8{
		100, 0, 0, 255, 200, 0, 0, 255, 9, 9, 9, 0, 0, 80, 0, 255,
		100, 0, 0, 255, 200, 0, 0, 255, 9, 9, 9, 0, 9, 9, 9, 0,
	})
	small := proof.Reduced(img, 2)
	require.Equal(t, image.Rect(0, 0, 2, 1), small.Rect)
	assert.Equal(t, []uint8{150, 0, 0, 255, 0, 80, 0, 64}, small.Pix, "what is transparent has no color to give")
	assert.Same(t, img, proof.Reduced(img, 4))
	assert.Equal(t, image.Rect(0, 0, 1, 1), proof.Reduced(anything(900, 1), 1).Rect)
}

func TestMarksLieWhereTheReportCounts(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 80, 16))
	for i := 0; i < len(img.Pix); i += 4 {
		copy(img.Pix[i:], []uint8{220, 214, 210, 255})
		if i/4%80 < 40 {
			copy(img.Pix[i:], []uint8{0, 255, 0, 255})
		}
	}
	p := proof.New(press.Coated(), false)
	inks := p.Inks(img)
	gamut, ink := p.Marks(img, inks, 100)
	count := func(m *image.NRGBA, from, to int) (n int) {
		for y := range 16 {
			for x := from; x < to; x++ {
				if px := m.NRGBAAt(x, y); px.A > 0 {
					n++
					require.True(t, px.R == px.G && px.G == px.B, "marks have no hue")
				}
			}
		}
		return n
	}
	assert.Equal(t, 160, count(gamut, 0, 40), "a quarter of what is out is lines")
	assert.Zero(t, count(gamut, 40, 80))
	assert.Equal(t, 160, count(ink, 0, 40))
	assert.Zero(t, count(ink, 40, 80))
}
