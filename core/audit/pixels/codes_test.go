package pixels_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	imagecolor "image/color"
	"image/png"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
)

func pngChunk(kind string, values ...uint32) []byte {
	body := []byte(kind)
	for _, v := range values {
		body = binary.BigEndian.AppendUint32(body, v)
	}
	out := binary.BigEndian.AppendUint32(nil, uint32(4*len(values)))
	return binary.BigEndian.AppendUint32(append(out, body...), crc32.ChecksumIEEE(body))
}

// tagged is a picture of one color, in codes of a space that its chunks tell of.
func tagged(t *testing.T, codes [3]uint8, chunks ...[]byte) []byte {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, 20, 20))
	for y := range 20 {
		for x := range 20 {
			img.SetNRGBA(x, y, imagecolor.NRGBA{R: codes[0], G: codes[1], B: codes[2], A: 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	const header = 8 + 25
	return bytes.Join([][]byte{b.Bytes()[:header], bytes.Join(chunks, nil), b.Bytes()[header:]}, nil)
}

// A picture in another space has the nearest of its codes to a master, not the master itself: that is on-brand, and two steps off are not.
func TestOneStepOfAPicturesOwnCodesIsTheColor(t *testing.T) {
	a98 := [][]byte{pngChunk("gAMA", 45471), pngChunk("cHRM", 31270, 32900, 64000, 33000, 21000, 71000, 15000, 6000)}
	p3 := [][]byte{pngChunk("cICP", 12<<24|13<<16|1)}
	linear := [][]byte{pngChunk("gAMA", 100000)}
	own := map[string]struct {
		chunks [][]byte
		codes  func(c color.RGB) [3]float64
	}{
		"A98":    {a98, func(c color.RGB) [3]float64 { v, _ := color.Numbers("a98-rgb", c); return v }},
		"P3":     {p3, func(c color.RGB) [3]float64 { v, _ := color.Numbers("display-p3", c); return v }},
		"linear": {linear, func(c color.RGB) [3]float64 { l := c.Linear(); return [3]float64{l.R, l.G, l.B} }},
	}
	p3[0] = append(append([]byte{0, 0, 0, 4}, "cICP\x0c\x0d\x00\x01"...), binary.BigEndian.AppendUint32(nil, crc32.ChecksumIEEE([]byte("cICP\x0c\x0d\x00\x01")))...)
	for _, hex := range []string{"#0E3A53", "#E2572B", "#F2B632", "#4E7D5B", "#8FC1D4", "#6B4E71", "#808080", "#C9D1D3"} {
		master, err := color.FromHex(hex)
		require.NoError(t, err)
		judge := audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Master", RGB: master}}})
		for name, o := range own {
			var codes [3]uint8
			for i, v := range o.codes(master.RGB()) {
				codes[i] = uint8(math.Round(min(1, max(0, v)) * 255))
			}
			verdict := func(codes [3]uint8) audit.Judged {
				scan, err := kinds.Read("a.png", tagged(t, codes, o.chunks...))
				require.NoError(t, err)
				r := judge.Judge("a.png", scan)
				require.Len(t, r.Colors, 1)
				return r.Colors[0]
			}
			got := verdict(codes)
			assert.Equal(t, audit.OnBrand, got.Verdict, "%s in %s is %v: %s, %s", hex, name, codes, got.Hex, got.Reason)
			if codes[0] < 250 {
				codes[0] += 5
				assert.NotEqual(t, audit.OnBrand, verdict(codes).Verdict, "%s in %s, red 5 steps off", hex, name)
			}
		}
	}
}

// What is meant for a screen of a high range is not judged as if it were sRGB.
func TestAPictureOfAHighRangeIsUnjudged(t *testing.T) {
	body := []byte("cICP\x09\x10\x00\x01")
	chunk := binary.BigEndian.AppendUint32(append([]byte{0, 0, 0, 4}, body...), crc32.ChecksumIEEE(body))
	scan, err := kinds.Read("hdr.png", tagged(t, [3]uint8{14, 58, 83}, chunk))
	require.NoError(t, err)
	master, err := color.FromHex("#0E3A53")
	require.NoError(t, err)
	r := audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Master", RGB: master}}}).Judge("hdr.png", scan)
	assert.Empty(t, r.Colors)
	require.Len(t, r.Unjudged, 1)
	assert.Contains(t, r.Unjudged[0].Why, "PQ")
	assert.Nil(t, r.Score)
}
