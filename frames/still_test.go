package frames_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/picture"
	_ "huekeep/frames"
)

// stills are four areas of a color each, as ffmpeg writes them as AVIF.
func avif(t *testing.T, of [4]color.RGB8, options ...string) []byte {
	t.Helper()
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	img := image.NewNRGBA(image.Rect(0, 0, 256, 128))
	for y := range 128 {
		for x := range 256 {
			c := of[x/128+2*(y/64)]
			copy(img.Pix[img.PixOffset(x, y):], []byte{c.R, c.G, c.B, 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	from, to := filepath.Join(t.TempDir(), "in.png"), filepath.Join(t.TempDir(), "out.avif")
	require.NoError(t, os.WriteFile(from, b.Bytes(), 0o600))
	out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-y", "-i", from, "-frames:v", "1", "-c:v", "libaom-av1", "-crf", "8", "-cpu-used", "8"}, options...), to)...).CombinedOutput()
	require.NoError(t, err, "%s", out)
	data, err := os.ReadFile(to)
	require.NoError(t, err)
	return data
}

var patches = [4]color.RGB8{{R: 226, G: 87, B: 43}, {R: 14, G: 58, B: 83}, {R: 246, G: 241, B: 231}, {R: 94, G: 122, B: 58}}

// The colors of an AVIF are those that were written, by whichever matrix and range, however it is called.
func TestAnAVIFHasTheColorsThatWereWritten(t *testing.T) {
	for name, options := range map[string][]string{
		"matrix of BT.709, full":    {"-vf", "scale=out_color_matrix=bt709:out_range=full", "-pix_fmt", "yuv444p", "-colorspace", "bt709", "-color_range", "pc", "-color_primaries", "bt709", "-color_trc", "iec61966-2-1"},
		"matrix of BT.601, limited": {"-vf", "scale=out_color_matrix=bt601:out_range=limited", "-pix_fmt", "yuv444p", "-colorspace", "smpte170m", "-color_range", "tv", "-color_primaries", "bt709", "-color_trc", "iec61966-2-1"},
		"half the chroma":           {"-vf", "scale=out_color_matrix=bt709:out_range=full", "-pix_fmt", "yuv420p", "-colorspace", "bt709", "-color_range", "pc", "-color_primaries", "bt709", "-color_trc", "iec61966-2-1"},
		"ten bits":                  {"-vf", "scale=out_color_matrix=bt709:out_range=limited", "-pix_fmt", "yuv444p10le", "-colorspace", "bt709", "-color_range", "tv", "-color_primaries", "bt709", "-color_trc", "iec61966-2-1"},
		"nothing said":              {"-pix_fmt", "yuv444p"},
	} {
		t.Run(name, func(t *testing.T) {
			data := avif(t, patches, options...)
			p, err := picture.DecodeOwn(data)
			require.NoError(t, err)
			assert.Equal(t, "AVIF", p.Format)
			assert.Equal(t, image.Rect(0, 0, 256, 128), p.Rect)
			for i, want := range patches {
				c := p.NRGBAAt(64+128*(i%2), 32+64*(i/2))
				for k, d := range []int{int(c.R) - int(want.R), int(c.G) - int(want.G), int(c.B) - int(want.B)} {
					assert.LessOrEqual(t, max(d, -d), 2, "%v of %s is %v", k, want.Hex(), c)
				}
			}
			scan, err := kinds.Read("hero.avif", data)
			require.NoError(t, err)
			assert.Equal(t, "picture", scan.Kind)
			assert.Equal(t, "256 x 128 pixels", scan.About)
			require.Len(t, scan.Uses, 4, "an area each")
			for _, u := range scan.Uses {
				assert.Contains(t, u.Fixed, "lossy compression is not repainted")
				assert.Equal(t, 25, u.Count)
			}
			found, err := gather.Read("hero.avif", data)
			require.NoError(t, err)
			assert.Len(t, found.Colors, 4)
		})
	}
}

// One whose values are those of another screen is seen through its code points, as a PNG is, and what cannot be told is not.
func TestAnAVIFOfAnotherScreenIsSeenByItsCodePoints(t *testing.T) {
	full := []string{"-vf", "scale=out_color_matrix=bt709:out_range=full", "-pix_fmt", "yuv444p", "-colorspace", "bt709", "-color_range", "pc"}
	p3, err := picture.DecodeOwn(avif(t, [4]color.RGB8{{R: 0, G: 230, B: 51}, {R: 128, G: 128, B: 128}, {R: 255, G: 255, B: 255}, {}}, append(full, "-color_primaries", "smpte432", "-color_trc", "iec61966-2-1")...))
	require.NoError(t, err)
	require.NotNil(t, p3.Codes)
	own, _ := p3.Exact()
	c := own.NRGBAAt(64, 32)
	typed, beyond := p3.Codes.Beyond(color.RGB8{R: c.R, G: c.G, B: c.B})
	assert.True(t, beyond)
	assert.Contains(t, typed.Exactly(), "color(display-p3 0")
	gray := p3.NRGBAAt(192, 32)
	assert.InDelta(t, 128, int(gray.R), 2)
	assert.Equal(t, gray.R, gray.G)
	odd, err := picture.DecodeOwn(avif(t, patches, append(full, "-color_primaries", "bt2020", "-color_trc", "smpte2084")...))
	require.NoError(t, err)
	assert.Contains(t, odd.Odd, "PQ, for screens of a high range")
}

// A half of one, and one with a byte turned, are damaged and nothing else.
func TestADamagedAVIFIsSaidToBe(t *testing.T) {
	data := avif(t, patches, "-pix_fmt", "yuv444p")
	for n := 12; n < len(data); n += max(1, len(data)/10) {
		if _, err := picture.Decode(data[:n]); assert.Error(t, err, n) {
			assert.Contains(t, err.Error(), "picture", n)
		}
	}
	for at := 12; at < len(data); at += max(1, len(data)/16) {
		spoiled := bytes.Clone(data)
		spoiled[at] ^= 0xff
		if _, err := picture.Decode(spoiled); err != nil {
			assert.Contains(t, err.Error(), "picture", fmt.Sprint(at))
		}
	}
}
