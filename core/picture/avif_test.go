package picture

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// box is a box of ISO base media.
func box(kind string, parts ...string) string {
	body := ""
	for _, p := range parts {
		body += p
	}
	return string(binary.BigEndian.AppendUint32(nil, uint32(8+len(body)))) + kind + body
}

// item is a file with one picture of 4 x 3 pixels, its properties and others of a second item that helps it.
func item(kind string, properties []string, aid ...string) []byte {
	props := append([]string{box("ispe", "\x00\x00\x00\x00", "\x00\x00\x00\x04", "\x00\x00\x00\x03")}, properties...)
	own := "\x00\x01" + string(rune(len(props)))
	for i := range props {
		own += string(rune(i + 1))
	}
	n, ref := "\x00\x00\x00\x01", ""
	if len(aid) > 0 {
		n = "\x00\x00\x00\x02"
		own += "\x00\x02\x01" + string(rune(len(props)+1))
		ref = box("iref", "\x00\x00\x00\x00", box("auxl", "\x00\x02\x00\x01\x00\x01"))
	}
	all := ""
	for _, p := range append(props, aid...) {
		all += p
	}
	return []byte(box("ftyp", "avif\x00\x00\x00\x00avif") + box("meta", "\x00\x00\x00\x00", ref, box("pitm", "\x00\x00\x00\x00\x00\x01"), // in any order
		box("iinf", "\x00\x00\x00\x00\x00\x01", box("infe", "\x02\x00\x00\x00\x00\x01\x00\x00", kind, "\x00")),
		box("iprp", box("ipco", all), box("ipma", "\x00\x00\x00\x00", n, own))))
}

func TestWhatAnAVIFSaysOfItself(t *testing.T) {
	a, err := readAVIF(item("av01", []string{box("colr", "nclx\x00\x0c\x00\x0d\x00\x06\x80"), box("irot", "\x01"), box("imir", "\x00")}))
	require.NoError(t, err)
	assert.Equal(t, avif{kind: "av01", width: 4, height: 3, coded: true, primaries: 12, transfer: 13, matrix: 6, full: true, angle: 1, flip: 0}, a)
	assert.Equal(t, 5, a.orientation())
	a, err = readAVIF(item("av01", []string{box("colr", "profABC")}, box("auxC", "\x00\x00\x00\x00urn:mpeg:mpegB:cicp:systems:auxiliary:alpha\x00")))
	require.NoError(t, err)
	assert.True(t, a.alpha)
	assert.Equal(t, "ABC", string(a.profile))
	assert.Equal(t, -1, a.flip)
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"of tiles":          {item("grid", nil), `the picture is a HEIF of a kind that is not read ("grid"); save it as PNG or JPEG`},
		"of HEVC":           {item("hvc1", nil), `of a kind that is not read ("hvc1")`},
		"seen through":      {item("av01", nil, box("auxC", "\x00\x00\x00\x00urn:mpeg:hevc:2015:auxid:1 alpha")), "can be seen through in parts, which is not read"},
		"without a program": {item("av01", nil), "read where ffmpeg is installed"},
		"empty":             {[]byte(box("ftyp", "avif")), "the AVIF picture is damaged: it is cut off"},
	} {
		_, err := Decode(c.data)
		assert.ErrorContains(t, err, c.says, name)
	}
}

// Turned to the left and mirrored, a picture is how EXIF would call it: the corner that was top left is where both put it.
func TestHowAnAVIFIsTurned(t *testing.T) {
	for angle := range 4 {
		for flip := -1; flip < 2; flip++ {
			x, y, w, h := 0, 0, 3, 2 // the corner, and the sides less one
			for range angle {        // to the left
				x, y, w, h = y, w-x, h, w
			}
			switch flip {
			case 0: // top and bottom change places
				y = h - y
			case 1:
				x = w - x
			}
			want := map[[2]bool][]int{{false, false}: {1, 5}, {true, false}: {2, 6}, {true, true}: {3, 7}, {false, true}: {4, 8}}[[2]bool{x > 0, y > 0}]
			assert.Contains(t, want, avif{angle: angle, flip: flip}.orientation(), "%d %d", angle, flip)
			assert.Equal(t, w == 2, avif{angle: angle, flip: flip}.orientation() > 4, "%d %d", angle, flip)
		}
	}
}

func FuzzAVIF(f *testing.F) {
	f.Add(item("av01", []string{box("colr", "nclx\x00\x0c\x00\x0d\x00\x06\x80"), box("irot", "\x01"), box("imir", "\x00")}, box("auxC", "alpha")))
	f.Add([]byte(box("ftyp", "mif1")))
	f.Fuzz(func(t *testing.T, data []byte) {
		a, err := readAVIF(data)
		if err == nil && (a.width == 0 || a.height == 0 || a.orientation() < 1 || a.orientation() > 8) {
			t.Fatal(a)
		}
		avifMeta(data)
	})
}
